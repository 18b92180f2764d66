"""Kinds of setting of a layer: one file each.  A file that has a ``KIND`` is known everywhere, with no other edit."""

from __future__ import annotations

import importlib
import pkgutil

from ushering_adze.core.kinds.kind import Kind


def _found() -> tuple[Kind, ...]:
    modules = [importlib.import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__)]
    return tuple(sorted((m.KIND for m in modules if hasattr(m, "KIND")), key=lambda kind: kind.order))


KINDS: tuple[Kind, ...] = _found()
"""Every kind, in its order."""
BY_NAME: dict[str, Kind] = {kind.name: kind for kind in KINDS}
NAMES: tuple[str, ...] = tuple(BY_NAME)
