"""The outlines of landings on their raster, as they truly bend."""

from __future__ import annotations

from functools import lru_cache

from ushering_adze.core.mapping.bend import corners_of, warp_of_landing
from ushering_adze.core.plane.coverage import Side, matched, sides_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import MeshLanding, Region
from ushering_adze.core.show.canvas import Landing


def edge_nodes(landing: Landing) -> tuple[Side, Side, Side, Side]:
    """The points of a landing's upper, right, lower and left edge, clockwise round."""
    if not isinstance(landing, MeshLanding):
        a, b, c, d = corners_of(landing)
        return (a, b), (b, c), (c, d), (d, a)
    points, columns = landing.points, landing.columns
    return points[:columns], points[columns - 1 :: columns], points[: -columns - 1 : -1], points[::columns][::-1]


@lru_cache(maxsize=512)
def _sides(
    landing: Landing, width: int, height: int, part: tuple[float, float, float, float]
) -> tuple[Side, Side, Side, Side]:
    return sides_of(warp_of_landing(landing, width, height), part)


Sides = tuple[Side, ...]


def sides_on_raster(region: Region, canvas: Rect, known: dict[Side, Side]) -> Sides | None:
    """The sides of the part of a region that its canvas has, as they lie on the raster; None if there is none, or it
    cannot be.

    A bent edge that a region before it has too, through the same points, is taken from it.

    Parameters
    ----------
    region : Region
        Which region.
    canvas : Rect
        Which canvas.
    known : dict[Side, Side]
        What is known already, to be used again.

    Returns
    -------
    Sides | None
    """
    rect = Rect(region.x, region.y, region.w, region.h)
    part = rect.meet(canvas)
    if part.empty:
        return None
    try:
        x, y = part.x - rect.x, part.y - rect.y
        sides = _sides(region.landing, region.w, region.h, (float(x), float(y), float(x + part.w), float(y + part.h)))
    except ValueError:
        return None
    smooth = isinstance(region.landing, MeshLanding) and region.landing.spans == "smooth"
    return matched(sides, edge_nodes(region.landing), known) if part == rect and smooth else sides
