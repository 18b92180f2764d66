"""Edits of walls: made from templates, filled, cells that show something else."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show.feed import Feed
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.source import WallSource
from ushering_adze.core.show.wall import Wall, WallCell, template_cells

Lot = Literal["sources", "surfaces", "outputs"]


def with_wall(show: Show, wall: Wall) -> Show:
    """The show with a wall in place of the one with its id, or added."""
    known = any(w.id == wall.id for w in show.walls)
    walls = tuple(wall if w.id == wall.id else w for w in show.walls)
    return show.model_copy(update={"walls": walls if known else (*show.walls, wall)})


def without_wall(show: Show, id: str) -> Show:
    """The show without a wall."""
    return show.model_copy(update={"walls": tuple(w for w in show.walls if w.id != id)})


def with_new_wall(show: Show, template: str, lot: Lot | None = None) -> tuple[Show, str]:
    """The show with one more wall, of a template, filled with a lot of things if one is named.

    Parameters
    ----------
    show : Show
    template : str
    lot : {"sources", "surfaces", "outputs"}, optional

    Returns
    -------
    Show
    str
        The wall's id.
    """
    columns, rows, cells = template_cells(template)
    name = free_name("Wall", {w.name for w in show.walls})
    wall = Wall(id=new_id(name, {w.id for w in show.walls}), name=name, columns=columns, rows=rows, cells=cells)
    return with_wall(show, wall if lot is None else filled(show, wall, lot)), wall.id


def with_wall_source(show: Show, wall: str) -> tuple[Show, str]:
    """The show with a source that shows a wall, if it has none yet, and that source's id.

    Parameters
    ----------
    show : Show
    wall : str
        Its id.

    Returns
    -------
    Show
    str
    """
    known = next((s.id for s in show.sources if isinstance(s, WallSource) and s.wall == wall), None)
    if known is not None:
        return show, known
    name = free_name(f"Wall {show.wall(wall).name}", {s.name for s in show.sources})
    taken = {s.id for s in show.sources} | {s.id for s in show.sound.inputs}
    made = WallSource(id=new_id(name, taken), name=name, wall=wall)
    return show.model_copy(update={"sources": (*show.sources, made)}), made.id


def with_wall_feed(show: Show, wall: str) -> Show:
    """The show with a feed that records a wall; where it goes is changed in Rig."""
    name = free_name(show.wall(wall).name, {f.name for f in show.feeds})
    id = new_id(name, {f.id for f in show.feeds})
    feed = Feed(id=id, name=name, shows="wall", of=wall, to=f"{id}.mp4")
    return show.model_copy(update={"feeds": (*show.feeds, feed)})


def filled(show: Show, wall: Wall, lot: Lot) -> Wall:
    """A wall whose cells show a lot of things, one after another; what does not find room is left out, and cells that
    are left are empty.
    """
    kind = {"sources": "source", "surfaces": "surface", "outputs": "output"}[lot]
    things: Sequence[Any] = getattr(show, lot)
    ids = [t.id for t in things]
    cells = [
        cell.model_copy(update={"shows": kind, "of": ids[n]} if n < len(ids) else {"shows": "empty", "of": None})
        for n, cell in enumerate(wall.cells)
    ]
    return wall.model_copy(update={"cells": tuple(cells)})


def with_template(wall: Wall, template: str) -> Wall:
    """A wall of another template: what its cells showed is in the new ones, one after another."""
    columns, rows, cells = template_cells(template)
    old = [c for c in wall.cells if c.shows != "empty"]
    kept = [
        cell.model_copy(update=old[n].model_dump(include={"shows", "of", "label", "marks"})) if n < len(old) else cell
        for n, cell in enumerate(cells)
    ]
    return wall.model_copy(update={"columns": columns, "rows": rows, "cells": tuple(kept)})


def with_cell(show: Show, id: str, n: int, **fields: Any) -> Show:
    """The show with another cell in a wall."""
    wall = show.wall(id)
    made = WallCell.model_validate({**wall.cells[n].model_dump(), **fields})
    cells = tuple(made if k == n else cell for k, cell in enumerate(wall.cells))
    return with_wall(show, wall.model_copy(update={"cells": cells}))
