"""Batches of a wall's cabinets: where they lie on an output's raster, and the edits that make, change and
remove them.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from pydantic import ValidationError

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.displays.led import hung_cabinets
from ushering_adze.core.mapping.from_surface import whole_rects
from ushering_adze.core.mapping.orient import turned_rect
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Batch, Cell, Fault, LedWall, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.rigging import sentence_of, with_item

Cells = frozenset[tuple[int, int]]


class WallPlace(NamedTuple):
    """Where a wall lies on an output's raster: ``box``, in the wall's own pixels, is flipped and turned and laid over
    ``around``.
    """

    around: Rect
    box: Rect
    flip: bool
    turn: int


def wall_on_raster(show: Show, region: Region) -> WallPlace | None:
    """Where the wall that a region feeds lies on the region's output; None if it feeds no LED wall.

    The processor shows a rectangle of the raster: that around all that lands there for the wall.  A wall that several
    outputs feed is taken to be cut as its regions lie on the canvas.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.

    Returns
    -------
    WallPlace | None
    """
    wall = show.surface(region.surface) if region.surface is not None else None
    if not isinstance(wall, LedWall):
        return None
    feeds = [r for r in show.feeds_of(wall.id) if r.mirror == region.mirror]
    mine = [r for r in feeds if r.output == region.output]
    box = Rect(0, 0, 0, 0)
    for hung in hung_cabinets(wall):
        box = box.join(hung.px)
    landing = region.landing
    flip, turn = (landing.flip, landing.turn) if isinstance(landing, RectLanding) else (False, 0)
    if len(mine) < len(feeds):
        face, at = face_of(feeds), landing_rect(region)
        across, down = at.w / region.w, at.h / region.h
        around = Rect(
            round(at.x - (region.x - face.x) * across),
            round(at.y - (region.y - face.y) * down),
            round(face.w * across),
            round(face.h * down),
        )
        return WallPlace(around, box, flip, turn)
    around = landing_rect(mine[0])
    for other in mine[1:]:
        around = around.join(landing_rect(other))
    if all(r.exact for r in mine):  # also where not the whole wall is fed
        width, height = (box.h, box.w) if turn in (90, 270) else (box.w, box.h)
        around = Rect(around.x, around.y, width, height)
    return WallPlace(around, box, flip, turn)


def cell_rects(wall: LedWall, place: WallPlace) -> dict[tuple[int, int], Rect]:
    """Each cabinet that is there as a rectangle of the raster.

    Parameters
    ----------
    wall : LedWall
        Which wall.
    place : WallPlace
        Where the wall lies on its raster.

    Returns
    -------
    dict[tuple[int, int], Rect]
    """
    around, box, flip, turn = place
    width, height = (box.h, box.w) if turn in (90, 270) else (box.w, box.h)
    across, down = around.w / width, around.h / height
    found = {}
    for h in hung_cabinets(wall):
        part = turned_rect(h.px.moved(-box.x, -box.y), box.w, box.h, flip, turn)
        left, top = around.x + round(part.x * across), around.y + round(part.y * down)
        found[h.column, h.row] = Rect(
            left, top, around.x + round(part.right * across) - left, around.y + round(part.foot * down) - top
        )
    return found


def batch_rects(wall: LedWall, batch: Batch, place: WallPlace) -> list[Rect]:
    """The cabinets of a batch as few rectangles of the raster.

    Parameters
    ----------
    wall : LedWall
        Which wall.
    batch : Batch
        Which batch of cabinets.
    place : WallPlace
        Where the wall lies on its raster.

    Returns
    -------
    list[Rect]
    """
    cells = cell_rects(wall, place)
    mine = [(c.column, c.row) for c in batch.cells if (c.column, c.row) in cells]
    return [
        cells[column, row].join(cells[column + columns - 1, row + rows - 1])
        for column, row, columns, rows in whole_rects(mine)
    ]


def cells_of(wall: LedWall) -> Cells:
    """Every cabinet that is there."""
    return frozenset((h.column, h.row) for h in hung_cabinets(wall))


def with_batches(show: Show, wall: LedWall, batches: Iterable[Batch]) -> Show:
    """The show with other batches on a wall.

    Parameters
    ----------
    show : Show
    wall : LedWall
        Which wall.
    batches : Iterable[Batch]
        Batches of cabinets.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If they do not fit the wall or one another.
    """
    try:
        new = changed(wall, batches=tuple(batches))
    except ValidationError as error:
        raise ShowError([Fault(wall.name, sentence_of(error))]) from None
    return with_item(show, "surfaces", new)


def with_batch(show: Show, wall: LedWall, cells: Iterable[tuple[int, int]], name: str) -> Show:
    """The show with these cabinets as one batch of this name; they leave the batches they were in, and empty ones go.

    Parameters
    ----------
    show : Show
    wall : LedWall
        Which wall.
    cells : Iterable[tuple[int, int]]
        By column and row.
    name : str
        What it is called.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If no cabinet is given, or the name is taken by a batch that stays.
    """
    wanted = sorted(set(cells) & cells_of(wall), key=lambda c: (c[1], c[0]))
    if not wanted:
        raise ShowError(
            [Fault(wall.name, "no cabinet is selected; click cabinets of the wall, or draw a frame around them")]
        )
    kept = []
    for batch in wall.batches:
        rest = tuple(c for c in batch.cells if (c.column, c.row) not in wanted)
        if rest:
            kept.append(batch.model_copy(update={"cells": rest}))
    made = Batch(name=name, cells=tuple(Cell(column=c, row=r) for c, r in wanted))
    return with_batches(show, wall, [*kept, made])


def with_others(show: Show, wall: LedWall, name: str = "Others") -> Show:
    """The show with all cabinets that are in no batch as one more batch, so that they can be matched as well; the same
    if there are none.

    Parameters
    ----------
    show : Show
    wall : LedWall
        Which wall.
    name : str, optional
        What it is called.

    Returns
    -------
    Show
        With the edit.
    """
    taken = {(c.column, c.row) for b in wall.batches for c in b.cells}
    rest = cells_of(wall) - taken
    if not rest:
        return show
    n, given = 1, name
    while any(b.name == given for b in wall.batches):
        n += 1
        given = f"{name} {n}"
    return with_batch(show, wall, rest, given)


def with_changed_batch(show: Show, wall: LedWall, batch: str, /, **fields: object) -> Show:
    """The show with one batch changed.

    Parameters
    ----------
    show : Show
    wall : LedWall
        Which wall.
    batch : str
        Which batch of cabinets.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If there is no such batch, or a value cannot be.
    """
    if batch not in {b.name for b in wall.batches}:
        raise ShowError([Fault(wall.name, f'it has no batch "{batch}"; it may have been renamed or removed')])
    try:
        batches = [changed(b, **fields) if b.name == batch else b for b in wall.batches]
    except ValidationError as error:
        raise ShowError([Fault(f"batch {batch}", sentence_of(error))]) from None
    return with_batches(show, wall, batches)
