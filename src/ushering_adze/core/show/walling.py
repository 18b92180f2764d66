"""Edits of walls: made from templates, filled, cells that show something else."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show.feed import Feed
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.source import WallSource
from ushering_adze.core.show.wall import Box, Wall, WallCell, template_cells, wall_faults

Lot = Literal["sources", "surfaces", "outputs"]
Side = Literal["left", "right", "top", "bottom"]
ALIKE = ("meters", "marks", "data", "captions", "frame", "guides", "colour", "line")
"""What cells can be made to have alike."""


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


def with_alike(show: Show, id: str, n: int, whole: bool = False) -> Show:
    """The show in which cells of a wall are marked as one of them is: those that begin in its row, or all.

    Parameters
    ----------
    show : Show
    id : str
        The wall's.
    n : int
        The place of the one among its cells.
    whole : bool, optional
        All cells.
    """
    wall = show.wall(id)
    like = wall.cells[n]
    fields = {name: getattr(like, name) for name in ALIKE}
    cells = tuple(c.model_copy(update=fields) if whole or (c.box is None and c.y == like.y) else c for c in wall.cells)
    return with_wall(show, wall.model_copy(update={"cells": cells}))


def with_edge(wall: Wall, n: int, side: Side, to: int) -> Wall:
    """A wall with an edge of a cell on another line of the grid; cells that meet the edge go along, so that no gap
    comes and none lies over another.

    Parameters
    ----------
    wall : Wall
    n : int
        The place of the cell among the wall's; one of the grid.
    side : {"left", "right", "top", "bottom"}
    to : int
        The line, 0 to the count of columns or rows.

    Returns
    -------
    Wall
        The very same if there is no room for that, or if the edge is the wall's own.

    Examples
    --------
    >>> wall = Wall(id="w", name="W", columns=4, rows=1, cells=(WallCell(x=0, y=0, w=2), WallCell(x=2, y=0, w=2)))
    >>> [(c.x, c.w) for c in with_edge(wall, 0, "right", 3).cells]
    [(0, 3), (3, 1)]
    """
    at, size, beside, long = ("x", "w", "y", "h") if side in ("left", "right") else ("y", "h", "x", "w")
    grid = {k: c for k, c in enumerate(wall.cells) if c.box is None}
    if n not in grid:
        return wall

    def span(k: int) -> tuple[int, int]:
        first = getattr(grid[k], beside)
        return first, first + getattr(grid[k], long)

    first = getattr(grid[n], at)
    line = first if side in ("left", "top") else first + getattr(grid[n], size)
    if line in (0, wall.columns if at == "x" else wall.rows):
        return wall
    meets = {k for k, c in grid.items() if line in (getattr(c, at), getattr(c, at) + getattr(c, size))}
    moved = {n}
    while True:
        low, high = min(span(k)[0] for k in moved), max(span(k)[1] for k in moved)
        more = {k for k in meets if span(k)[0] < high and span(k)[1] > low} - moved
        if not more:
            break
        moved |= more
    cells = list(wall.cells)
    for k in moved:
        begins, long_is = getattr(grid[k], at), getattr(grid[k], size)
        ends = begins + long_is
        begins, ends = (to, ends) if begins == line else (begins, to)
        if not 0 <= begins < ends <= (wall.columns if at == "x" else wall.rows):
            return wall
        cells[k] = grid[k].model_copy(update={at: begins, size: ends - begins})
    made = wall.model_copy(update={"cells": tuple(cells)})
    return wall if any(wall_faults((made,))) else made


def boxed(wall: Wall, n: int, box: Box) -> Wall:
    """A wall with a cell in a free box, kept within the wall."""
    x, y, w, h = box
    w, h = max(16, min(w, wall.width)), max(16, min(h, wall.height))
    box = max(0, min(x, wall.width - w)), max(0, min(y, wall.height - h)), w, h
    cells = tuple(c.model_copy(update={"box": box}) if k == n else c for k, c in enumerate(wall.cells))
    return wall.model_copy(update={"cells": cells})


def with_box(show: Show, id: str, n: int, box: Box | None) -> Show:
    """The show with a cell of a wall in a free box, kept within the wall; back in its place in the grid, if it is None.

    Parameters
    ----------
    show : Show
    id : str
    n : int
    box : tuple of int, optional
        Left, top, width, height.
    """
    if box is None:
        return with_cell(show, id, n, box=None)
    return with_wall(show, boxed(show.wall(id), n, box))


def rescaled(box: Box, of: Wall, to: Wall) -> Box:
    """A free box of one wall, on the raster of another one.

    Parameters
    ----------
    box : tuple of int
        Left, top, width and height in pixels of ``of``.
    of, to : Wall

    Returns
    -------
    tuple of int
        Within ``to``, and no smaller than 16 pixels.

    Examples
    --------
    >>> small, large = Wall(id="a", name="A", width=640, height=360), Wall(id="b", name="B", width=1280, height=720)
    >>> rescaled((640, 360, 640, 360), large, small)
    (320, 180, 320, 180)
    """
    across, down = to.width / of.width, to.height / of.height
    x, y, w, h = box
    w, h = min(to.width, max(16, round(w * across))), min(to.height, max(16, round(h * down)))
    return min(round(x * across), to.width - w), min(round(y * down), to.height - h), w, h


def laid_out(wall: Wall, like: Wall) -> Wall:
    """A wall with the cells of another one, on its own raster.

    Parameters
    ----------
    wall : Wall
        The one that is shown.
    like : Wall
        The one whose cells it has; free boxes are made to fit.

    Returns
    -------
    Wall

    Examples
    --------
    >>> small, large = Wall(id="a", name="A", width=640, height=360), Wall(id="b", name="B", width=1280, height=720,
    ...     cells=(WallCell(x=0, y=0, box=(640, 360, 640, 360)),))
    >>> laid_out(small, large).cells[0].box
    (320, 180, 320, 180)
    """

    def fitted(cell: WallCell) -> WallCell:
        return cell if cell.box is None else cell.model_copy(update={"box": rescaled(cell.box, like, wall)})

    cells = tuple(fitted(cell) for cell in like.cells)
    return wall.model_copy(update={"columns": like.columns, "rows": like.rows, "cells": cells})


def box_from(text: str) -> Box:
    """A free box as it is typed: left, top, width and height.  Raises EntryError.

    Examples
    --------
    >>> box_from("100, 50, 480 × 270")
    (100, 50, 480, 270)
    """
    parts = text.replace("×", " ").replace(",", " ").replace("x", " ").split()
    if len(parts) != 4:
        raise EntryError("a box is four numbers: from the left, from the top, width and height, like 960 540 480 270")
    x, y, w, h = (round(number_from(part, now=0.0)) for part in parts)
    return x, y, w, h
