"""Whether what lands for a surface is what is rigged: whole cabinets, its size, its scale, its side of the room."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from itertools import pairwise

import numpy as np

from ushering_adze.core.displays.binding import fed_parts
from ushering_adze.core.mapping.from_surface import with_surface_regions
from ushering_adze.core.mapping.lands import one_to_one
from ushering_adze.core.mapping.regions import fitted, placed, rect_of, with_regions
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.proof.finding import Cure, Finding, Where
from ushering_adze.core.proof.laid import Flags, Ints, Laid
from ushering_adze.core.show import Canvas, LedWall, Projection, Region, Show


def remade(words: str, surface: str, canvas: str, output: str, at: tuple[int, int] = (0, 0)) -> Cure:
    """The cure that makes all regions of a surface anew from what is rigged.

    Parameters
    ----------
    words : str
        In words.
    surface : str
        Which surface, by its id.
    canvas : str
        Which canvas.
    output : str
        Which output.
    at : tuple[int, int], optional
        Top left.

    Returns
    -------
    Cure
    """
    return Cure(words, lambda show: with_surface_regions(show, surface, canvas, output, at)[0])


def _edges(wall: LedWall) -> tuple[tuple[int, ...], tuple[int, ...]]:
    xs, ys = [0], [0]
    for cabinet in wall.column_cabinets:
        xs.append(xs[-1] + cabinet.columns_px)
    for cabinet in wall.row_cabinets:
        ys.append(ys[-1] + cabinet.rows_px)
    return tuple(xs), tuple(ys)


def _on(values: Ints, lines: tuple[int, ...]) -> Flags:
    """Which values are among sorted lines."""
    table = np.array(lines)
    return np.asarray(table[np.minimum(np.searchsorted(table, values), len(table) - 1)] == values)


def cabinets(laid: Laid) -> Iterator[Finding]:
    """Regions of LED walls that end within a cabinet, and surfaces whose regions are not of their size."""
    show = laid.show
    parts = {p.key: p for s in show.surfaces for p in fed_parts(s)}
    for (id, projector, monitor, output), mine in laid.fed.items():
        surface, part = show.surface(id), parts.get((id, projector, monitor))
        table = laid.lands[mine]
        x0, y0 = table[:, 0] - table[:, 0].min(), table[:, 1] - table[:, 1].min()
        x1, y1 = x0 + table[:, 2], y0 + table[:, 3]
        split = False
        if isinstance(surface, LedWall):
            xs, ys = _edges(surface)
            whole = _on(x0, xs) & _on(x1, xs) & _on(y0, ys) & _on(y1, ys)
            for k in np.flatnonzero(~whole & (x1 <= xs[-1]) & (y1 <= ys[-1])):
                split = True
                inner = (int(x0[k]), int(x1[k]), int(y0[k]), int(y1[k]))
                wrong = _within(xs, inner[0], inner[1], "column") or _within(ys, inner[2], inner[3], "row")
                if wrong is not None:
                    yield _part_cabinet(laid.homes[mine[k]], laid.regions[mine[k]], surface, wrong, inner)
        size = (int(x1.max()), int(y1.max()))
        if (
            part is None
            or split
            or size == (part.width, part.height)
            or (isinstance(surface, LedWall) and surface.missing)
        ):
            continue
        regions = [laid.regions[n] for n in mine]
        lands = Rect(int(table[:, 0].min()), int(table[:, 1].min()), *size)
        corner = (min(r.x for r in regions), min(r.y for r in regions))
        cure = remade(f"Make the regions of {surface.name} anew", id, laid.homes[mine[0]].id, output, corner)
        yield Finding(
            "size",
            "warning",
            f"{part.name} is {part.width}×{part.height} px as it is rigged, and what lands for it is "
            f"{size[0]}×{size[1]} px",
            Where("output", output, lands, tuple(r.id for r in regions)),
            (cure,),
        )


def _within(edges: tuple[int, ...], start: int, end: int, word: str) -> tuple[str, int, int] | None:
    """The first of a start and an end that is no edge of a cabinet: word, cabinet number from 1, px into it."""
    for at in (start, end):
        if at not in edges and edges[0] <= at < edges[-1]:
            n = int(np.searchsorted(edges, at, "right"))
            return word, n, at - edges[n - 1]
    return None


def _part_cabinet(
    canvas: Canvas, region: Region, wall: LedWall, wrong: tuple[str, int, int], at: tuple[int, int, int, int]
) -> Finding:
    word, n, into = wrong
    xs, ys = _edges(wall)
    x0, x1, y0, y1 = at
    to_x = [min(xs, key=lambda e: abs(e - v)) for v in (x0, x1)]
    to_y = [min(ys, key=lambda e: abs(e - v)) for v in (y0, y1)]
    if to_x[1] <= to_x[0]:
        to_x[1] = xs[min(len(xs) - 1, xs.index(to_x[0]) + 1)]
    if to_y[1] <= to_y[0]:
        to_y[1] = ys[min(len(ys) - 1, ys.index(to_y[0]) + 1)]
    edges, end = (xs, x1) if word == "column" else (ys, y1)
    whole = edges[n - 1] + into
    strip = (
        Rect(region.x + edges[n - 1] - x0, region.y, into, region.h)
        if word == "column"
        else Rect(region.x, region.y + edges[n - 1] - y0, region.w, into)
    )
    cures: tuple[Cure, ...] = ()
    if region.exact and not getattr(region.landing, "turn", 0) and not getattr(region.landing, "flip", False):
        target = Rect(region.x + to_x[0] - x0, region.y + to_y[0] - y0, to_x[1] - to_x[0], to_y[1] - to_y[0])
        cures = (Cure(f"Whole cabinets: {target.w}×{target.h}", partial(_rounded, region=region, target=target)),)
    verb = "ends" if end == whole else "starts"
    return Finding(
        "part-cabinet",
        "warning",
        f"{region.name} {verb} {into} px into {word} {n} of {wall.name}’s cabinets, "
        f"which is {edges[n] - edges[n - 1]} px",
        Where("canvas", canvas.id, strip, (region.id,)),
        cures,
    )


def _rounded(show: Show, region: Region, target: Rect) -> Show:
    done = fitted(region, target)
    shift = {"x": done.landing.x + target.x - region.x, "y": done.landing.y + target.y - region.y}  # type: ignore[union-attr]
    return with_regions(show, {region.id: done.model_copy(update={"landing": done.landing.model_copy(update=shift)})})


def scaling(laid: Laid) -> Iterator[Finding]:
    """Regions that are resampled though nobody said that they should be."""
    for n in np.flatnonzero(((laid.native != laid.at[:, 2:]).any(1)) & ~laid.quad):
        canvas, region = laid.homes[n], laid.regions[n]
        if region.scaled:
            continue
        native = (int(laid.native[n, 0]), int(laid.native[n, 1]))
        shown = region.model_copy(update={"w": native[0], "h": native[1]})
        cures = (
            Cure("Land 1 : 1", partial(one_to_one, ids=[region.id])),
            Cure(f"Show {native[0]}×{native[1]} px of the canvas", partial(with_regions, regions={region.id: shown})),
            Cure("It is meant", partial(with_regions, regions={region.id: region.model_copy(update={"scaled": True})})),
        )
        words = (
            f"{region.name} is resampled: {region.w}×{region.h} px of {canvas.name} land on {native[0]}×{native[1]} px"
        )
        yield Finding("scaled", "warning", words, Where("canvas", canvas.id, rect_of(region), (region.id,)), cures)


def unmapped(laid: Laid) -> Iterator[Finding]:
    """Surfaces, or parts of them, that no region feeds."""
    show = laid.show
    for surface in show.surfaces:
        missing = [p for p in fed_parts(surface) if p.key not in show.fed]
        if not missing:
            continue
        names = surface.name if len(missing) == len(fed_parts(surface)) else ", ".join(p.name for p in missing[:4])
        cures: tuple[Cure, ...] = ()
        if show.canvases and show.outputs:
            feed = next(iter(show.feeds_of(surface.id)), None)
            canvas, output = (
                (show.homes[feed.id][0].id, feed.output) if feed else (show.canvases[0].id, _emptiest(show))
            )
            cures = (remade(f"Make the regions of {surface.name}", surface.id, canvas, output),)
        yield Finding(
            "no-region", "warning", f"{names} shows nothing: no region feeds it", Where("surface", surface.id), cures
        )


def _emptiest(show: Show) -> str:
    used = {r.output for _, r in show.regions()}
    return next((o.id for o in show.outputs if o.id not in used), show.outputs[0].id)


def exchanged(laid: Laid) -> Iterator[Finding]:
    """Pairs of one size whose order on the canvas is not that in the room: their places are swapped."""
    show = laid.show
    order: dict[str, list[tuple[float, Region]]] = {}
    for (id, projector, monitor, _), mine in laid.fed.items():
        surface = show.surface(id)
        region, canvas = laid.regions[mine[0]], laid.homes[mine[0]]
        if len(mine) > 1 or monitor is not None:
            continue
        if isinstance(surface, Projection) and projector is not None:
            order.setdefault(f"{canvas.id} {id}", []).append(
                ([p.id for p in surface.projectors].index(projector), region)
            )
        elif surface.place is not None and not surface.place.apart:
            key = f"{canvas.id} {surface.kind} {region.w} {region.h} {region.y}"
            order.setdefault(key, []).append((surface.place.x_mm, region))
    for key, found in order.items():
        found.sort(key=lambda f: f[0])
        for (a_at, a), (b_at, b) in pairwise(found):
            if a_at < b_at and a.x > b.x:
                canvas_id = key.split(" ")[0]

                exchange = {a.id: rect_of(a)._replace(x=b.x, y=b.y), b.id: rect_of(b)._replace(x=a.x, y=a.y)}
                words = (
                    f"{a.name} hangs left of {b.name}, but shows what lies right of it on {show.canvas(canvas_id).name}"
                )
                yield Finding(
                    "swapped",
                    "warning",
                    words,
                    Where("canvas", canvas_id, rect_of(a).join(rect_of(b)), (a.id, b.id)),
                    (Cure("Swap them", partial(placed, rects=exchange)),),
                )
