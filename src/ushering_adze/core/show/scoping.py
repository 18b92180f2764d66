"""Edits of named scopes."""

from __future__ import annotations

from collections.abc import Mapping

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.scope import NamedScope
from ushering_adze.core.show.show import Show

Cells = Mapping[tuple[tuple[str, str], str], How]
"""By canvas and layer, and kind."""


def with_scope(show: Show, name: str, cells: Cells) -> Show:
    """The show with a scope under a name; one of that name is replaced.

    Parameters
    ----------
    show : Show
    name : str
    cells : mapping

    Returns
    -------
    Show
    """
    rows: dict[tuple[str, str], dict[str, How]] = {}
    for (layer, kind), how in cells.items():
        if how != "left":
            rows.setdefault(layer, {})[kind] = how
    old = next((s for s in show.scopes if s.name == name), None)
    id = old.id if old is not None else new_id("scope", {s.id for s in show.scopes})
    document = [{"canvas": canvas, "layer": layer, "kinds": kinds} for (canvas, layer), kinds in rows.items()]
    made = NamedScope.model_validate({"id": id, "name": name, "rows": document})
    if old is None:
        return changed(show, scopes=(*show.scopes, made))
    return changed(show, scopes=tuple(made if s is old else s for s in show.scopes))


def without_scope(show: Show, id: str) -> Show:
    """The show without a named scope."""
    return changed(show, scopes=tuple(s for s in show.scopes if s.id != id))
