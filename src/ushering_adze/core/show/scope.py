"""Scopes by name: which kinds of setting of which layers are stored, and how each of them arrives."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Id, Model, Name
from ushering_adze.core.kinds import NAMES
from ushering_adze.core.kinds.kind import How


class ScopeRow(Model):
    """Of one layer, the kinds that are stored, by name; the others are left."""

    canvas: Id
    layer: Id
    kinds: dict[str, Literal["snapped", "faded"]] = {}


class NamedScope(Model):
    """A scope that is used again and again.  Layers that are gone do not count."""

    id: Id
    name: Name
    rows: Annotated[tuple[ScopeRow, ...], Field(description="one for each layer of which anything is stored")] = ()

    @property
    def cells(self) -> dict[tuple[tuple[str, str], str], How]:
        """How each kind of each layer is treated; what is left is not in it."""
        return {((r.canvas, r.layer), kind): how for r in self.rows for kind, how in r.kinds.items() if kind in NAMES}
