"""Faces: which rectangles of canvases surfaces show, and where those hang in the room."""

from __future__ import annotations

from functools import reduce
from typing import NamedTuple

from ushering_adze.core.plane.rect import Rect, disjoint
from ushering_adze.core.show import Canvas, Show, Surface


class Face(NamedTuple):
    """What a surface shows of a canvas, as one rectangle of it."""

    surface: Surface
    rect: Rect


def surface_rects(show: Show, surface: str) -> list[tuple[Canvas, Rect]]:
    """The canvas rectangles that feed a surface.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    list[tuple[Canvas, Rect]]
    """
    return [(show.homes[r.id][0], Rect(r.x, r.y, r.w, r.h)) for r in show.feeds_of(surface)]


def faces_on(show: Show, canvas: str) -> list[Face]:
    """What every surface shows of a canvas, in the order of the show.

    Parameters
    ----------
    show : Show
    canvas : str

    Returns
    -------
    list of Face
    """
    found = []
    for surface in show.surfaces:
        whole = Rect(0, 0, 0, 0)
        for home, rect in surface_rects(show, surface.id):
            whole = whole.join(rect) if home.id == canvas else whole
        if not whole.empty:
            found.append(Face(surface, whole))
    return found


def parts_of_face(show: Show, canvas: str, surface: str) -> tuple[Rect, ...]:
    """What a surface shows of a canvas, as rectangles that do not overlap; one if it fills its face.

    Parameters
    ----------
    show : Show
    canvas, surface : str

    Returns
    -------
    tuple of Rect
    """
    found = disjoint(rect for home, rect in surface_rects(show, surface) if home.id == canvas)
    whole = reduce(Rect.join, found, Rect(0, 0, 0, 0))
    return (whole,) if found and sum(r.area for r in found) == whole.area else tuple(found)


class Hung(NamedTuple):
    """Where a surface hangs in the front view, in mm: from the left wall, downwards from the floor's height, and its
    size; what hangs above the floor is negative.
    """

    x: float
    y: float
    w: float
    h: float


def hung(surface: Surface) -> Hung | None:
    """Where a surface hangs in the room; None of one that does not, or hangs elsewhere.

    Parameters
    ----------
    surface : Surface

    Returns
    -------
    Hung or None
    """
    place, size = surface.place, surface.size_mm
    if place is None or size is None or place.apart:
        return None
    return Hung(place.x_mm, -place.foot_mm - size[1], size[0], size[1])
