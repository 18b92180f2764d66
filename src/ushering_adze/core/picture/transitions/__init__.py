"""Transitions between pictures: one file each.  A file that has a ``TRANSITION`` can be drawn, with no other edit."""

from __future__ import annotations

import importlib
import pkgutil

from ushering_adze.core.picture.transitions.transition import Transition

TRANSITIONS: dict[str, Transition] = {
    m.TRANSITION.name: m.TRANSITION
    for m in (importlib.import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__))
    if hasattr(m, "TRANSITION")
}
