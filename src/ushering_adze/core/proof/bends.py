"""The pixel check of landings that bend, by their true outlines."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

import numpy as np
from shapely import Polygon, STRtree, box

from ushering_adze.core.mapping.bend import points_of, with_points
from ushering_adze.core.mapping.outline import sides_on_raster
from ushering_adze.core.mapping.regions import with_regions, without_regions
from ushering_adze.core.plane.coverage import Side, outline_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.proof.finding import Cure, Finding, Severity, Where
from ushering_adze.core.proof.laid import Laid
from ushering_adze.core.proof.pixels import reach_words
from ushering_adze.core.show import RectLanding, Region, Show

LEAST = 0.5
"""Raster pixels: what two bends share, or a raster cuts off, is told from this width on."""


def bends(laid: Laid) -> Iterator[Finding]:
    """Bent landings that cover what others do, or reach past their raster, by their true outlines."""
    show = laid.show
    for output in dict.fromkeys(laid.regions[n].output for n in np.flatnonzero(laid.quad)):
        home = show.output(output)
        raster, edges = Rect(0, 0, home.timing.width, home.timing.height), dict[Side, Side]()
        landed: list[tuple[Region, Polygon]] = []
        for canvas, region in show.landing_on[output]:
            sides = sides_on_raster(region, Rect(0, 0, canvas.width, canvas.height), edges)
            if sides is not None:
                landed.append((region, Polygon(np.round(outline_of(sides), 6))))  # GEOS errs on coordinates like 1e-30
        bent = [not isinstance(region.landing, RectLanding) for region, _ in landed]
        tree = STRtree([shape for _, shape in landed])
        for n in np.flatnonzero(bent):
            yield from _past_raster(laid, landed[n][0], landed[n][1], raster, output)
        for i, j in sorted(
            (min(p), max(p)) for p in tree.query([shape for _, shape in landed], "intersects").T.tolist() if p[0] < p[1]
        ):
            if bent[i] or bent[j]:
                yield from _both_cover(laid, landed[i], landed[j], output)


def _box_of(shape: Any) -> Rect:
    x0, y0, x1, y1 = shape.bounds
    return Rect(int(np.floor(x0)), int(np.floor(y0)), int(np.ceil(x1) - np.floor(x0)), int(np.ceil(y1) - np.floor(y0)))


def _both_cover(
    laid: Laid, under: tuple[Region, Polygon], over: tuple[Region, Polygon], output: str
) -> Iterator[Finding]:
    (a, first), (b, second) = under, over
    both = first.intersection(second)
    wide = both.buffer(-LEAST / 2)
    if wide.is_empty:
        return
    home, at = laid.show.output(output), _box_of(both)
    cures = (Cure(f"Remove {b.name}", partial(without_regions, ids=[b.id])),)
    words = (
        f"{a.name} and {b.name} land on the same {both.area:,.0f} px within {at.w}×{at.h} at {at.x}, {at.y} of "
        f"{home.number} {home.name}; {b.name} covers {a.name}"
    )
    yield Finding("claimed-twice", "error", words, Where("output", output, at, (a.id, b.id)), cures)


def _past_raster(laid: Laid, region: Region, shape: Polygon, raster: Rect, output: str) -> Iterator[Finding]:
    whole = box(raster.x, raster.y, raster.right, raster.foot)
    off = shape.difference(whole)
    if off.buffer(-LEAST / 2).is_empty:
        return
    home, at = laid.show.output(output), _box_of(shape)
    share = 100 * off.area / shape.area
    into = Rect(max(0, min(at.x, raster.w - at.w)), max(0, min(at.y, raster.h - at.h)), at.w, at.h)
    dx, dy = into.x - at.x, into.y - at.y
    cures = (
        (Cure(f"Move it by {dx:+d}, {dy:+d} px", partial(_bend_moved, region=region, dx=dx, dy=dy)),)
        if raster.holds(into)
        else ()
    )
    where = f"the raster of {home.number} {home.name}, {raster.w}×{raster.h} px"
    lies = "lies wholly off" if share > 99.99 else f"reaches {reach_words(at, raster)} past"
    # What a projector's raster cuts off may be meant: its neighbour lights it, or the screen ends there.
    severity: Severity = "error" if share > 99.99 else "note" if region.projector is not None else "warning"
    yield Finding(
        "off-raster",
        severity,
        f"{region.name}, bent, {lies} {where}: {share:.1f} % of it are lost",
        Where("output", output, at, (region.id,)),
        cures,
    )


def _bend_moved(show: Show, region: Region, dx: int, dy: int) -> Show:
    moved = points_of(region.landing) + np.array([dx, dy])
    return with_regions(show, {region.id: with_points(region, moved)})
