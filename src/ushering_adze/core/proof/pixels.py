"""The pixel check: whether every pixel of every canvas lands where it should, once.

Pairs of neighbours are found with sorted edges and NumPy, so that thousands of regions are checked in a few
milliseconds.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache, partial

import numpy as np

from ushering_adze.core.mapping.from_surface import surface_pieces
from ushering_adze.core.mapping.lands import landed_packed
from ushering_adze.core.mapping.regions import placed, rect_of, with_regions, without_regions
from ushering_adze.core.plane.arrange import Axis
from ushering_adze.core.plane.rect import Rect, overlapping
from ushering_adze.core.proof.finding import Cure, Finding, Where
from ushering_adze.core.proof.laid import Ints, Laid, Placed, past
from ushering_adze.core.show import LedWall, MonitorWall, Projection, Region, Show
from ushering_adze.core.show.canvas import MAX_SIDE
from ushering_adze.core.show.edits import with_canvas

NEAR = 8
"""Gaps and overlaps of up to so many pixels are taken for slips; wider ones for intent."""


def _pairs(a: Ints, b: Ints, low: int, high: int) -> tuple[Ints, Ints]:
    """Indices (i, j) with ``low <= b[j] - a[i] <= high``."""
    order = np.argsort(b, kind="stable")
    start = np.searchsorted(b[order], a + low, "left")
    counts = np.searchsorted(b[order], a + high, "right") - start
    i = np.repeat(np.arange(len(a)), counts)
    offsets = np.arange(len(i)) - np.repeat(np.cumsum(counts) - counts, counts)
    return i, order[np.repeat(start, counts) + offsets]


def move(words: str, region: Region, to: Rect) -> Cure:
    """The cure that puts a region elsewhere on its canvas.

    Parameters
    ----------
    words : str
        In words.
    region : Region
        Which region.
    to : Rect
        Where to.

    Returns
    -------
    Cure
    """
    return Cure(words, partial(placed, rects={region.id: to}))


def _meant(show: Show, a: Region, b: Region, axis: Axis) -> bool:
    """Whether two regions lie to each other exactly as the surface they share is rigged: a blend overlap, pixels behind
    edges.
    """
    if a.surface is None or a.surface != b.surface:
        return False
    surface = show.surface(a.surface)
    if isinstance(surface, Projection):
        return a.projector != b.projector
    if not isinstance(surface, (MonitorWall, LedWall)):
        return False
    dx, dy = b.x - a.x, b.y - a.y
    along, beside = (dx, dy) if axis == "across" else (dy, dx)
    return any(
        (w, h) == (a.w, a.h)
        and along == (x if axis == "across" else y)
        and abs(beside - (y if axis == "across" else x)) <= NEAR
        for x, y, w, h in _rigged_offsets(surface)
    )


@lru_cache(maxsize=64)
def _rigged_offsets(surface: MonitorWall | LedWall) -> frozenset[tuple[int, int, int, int]]:
    pieces = [p.on_canvas for p in surface_pieces(surface)]
    if len(pieces) > 200:
        return frozenset()
    return frozenset((q.x - p.x, q.y - p.y, p.w, p.h) for p in pieces for q in pieces if p is not q)


def seams(laid: Laid) -> Iterator[Finding]:
    """Gaps and overlaps of 1 to 8 px between neighbours on a canvas; blend overlaps and rigged gaps excepted."""
    for at in laid.canvases:
        if len(at.regions) < 2:
            continue
        for axis, a1, b0, lo, hi in (("across", at.x1, at.x0, at.y0, at.y1), ("down", at.y1, at.y0, at.x0, at.x1)):
            near = [_pairs(a1, b0, low, high) for low, high in ((-NEAR, -1), (1, NEAR))]
            i, j = (np.concatenate([pair[k] for pair in near]) for k in range(2))
            apart = b0[j] - a1[i]
            shared = np.minimum(hi[i], hi[j]) - np.maximum(lo[i], lo[j])
            # In order along the axis, and beside each other for a good part of the shorter one.
            before = (b0[i] < b0[j]) & (a1[i] < a1[j]) & (apart != 0) & (i != j)
            beside = shared > np.maximum(NEAR, 0.25 * np.minimum(hi[i] - lo[i], hi[j] - lo[j]))
            for n in np.flatnonzero(before & beside):
                yield from _seam(laid.show, at, axis, int(i[n]), int(j[n]), int(apart[n]))  # type: ignore[arg-type]


def _seam(show: Show, at: Placed, axis: Axis, i: int, j: int, apart: int) -> Iterator[Finding]:
    a, b = at.regions[i], at.regions[j]
    if _meant(show, a, b, axis):
        return
    low, high = (
        (max(at.y0[i], at.y0[j]), min(at.y1[i], at.y1[j]))
        if axis == "across"
        else (max(at.x0[i], at.x0[j]), min(at.x1[i], at.x1[j]))
    )
    start = int(at.x1[i] if axis == "across" else at.y1[i]) + min(0, apart)
    size = abs(apart)
    strip = (
        Rect(start, int(low), size, int(high - low))
        if axis == "across"
        else Rect(int(low), start, int(high - low), size)
    )
    if apart > 0 and _covered(at, strip):
        return
    column = "column" if axis == "across" else "row"
    place = f"{column} {start}" if size == 1 else f"{column}s {start} to {start + size - 1}"
    where = Where("canvas", at.canvas.id, strip, (a.id, b.id))
    dx, dy = (-apart, 0) if axis == "across" else (0, -apart)
    shut = move(f"Move {b.name} by {-apart:+d} px", b, rect_of(b).moved(dx, dy))
    wider = rect_of(a)._replace(**({"w": a.w + apart} if axis == "across" else {"h": a.h + apart}))
    grow = move(f"Make {a.name} {size} px {'larger' if apart > 0 else 'smaller'}", a, wider)
    cures = (shut, grow) if min(wider.w, wider.h) >= 1 else (shut,)
    if apart > 0:
        words = f"{size} px between {a.name} and {b.name} that neither shows: {place} of {at.canvas.name}"
        yield Finding("gap", "warning", words, where, cures)
    else:
        words = f"{a.name} and {b.name} both show {place} of {at.canvas.name}: they overlap by {size} px"
        yield Finding("overlap", "warning", words, where, cures)


def _covered(at: Placed, strip: Rect) -> bool:
    """Whether other regions show all of a strip."""
    hit = np.flatnonzero((at.x0 < strip.right) & (at.x1 > strip.x) & (at.y0 < strip.foot) & (at.y1 > strip.y))
    return (
        bool(len(hit))
        and sum(
            strip.meet(Rect(int(at.x0[k]), int(at.y0[k]), int(at.x1[k] - at.x0[k]), int(at.y1[k] - at.y0[k]))).area
            for k in hit
        )
        >= strip.area
    )


def bounds(laid: Laid) -> Iterator[Finding]:
    """Regions that reach past their canvas, or land past their raster."""
    show = laid.show
    for n in past(laid.at, np.array([c.width for c in laid.homes]), np.array([c.height for c in laid.homes])):
        canvas, region, rect = laid.homes[n], laid.regions[n], laid.rect(n)
        whole = Rect(0, 0, canvas.width, canvas.height)
        inside = rect.meet(whole)
        what = "lies wholly off" if inside.empty else f"reaches {reach_words(rect, whole)} past"
        into = Rect(max(0, min(rect.x, whole.w - rect.w)), max(0, min(rect.y, whole.h - rect.h)), rect.w, rect.h)
        cures = [move("Move it inside", region, into)] if whole.holds(into) else []
        if not inside.empty and region.surface is None:
            cures.append(move("Cut it off", region, inside))
        if min(rect.x, rect.y) >= 0 and max(rect.right, rect.foot) <= MAX_SIDE:
            cures.append(Cure("Enlarge the canvas", partial(_enlarged, canvas=canvas.id, rect=rect)))
        words = f"{region.name} {what} {canvas.name}: {rect.area - inside.area} px of it show nothing"
        yield Finding("off-canvas", "error", words, Where("canvas", canvas.id, rect, (region.id,)), tuple(cures))
    for output in show.outputs:
        raster = Rect(0, 0, output.timing.width, output.timing.height)
        mine = laid.by_output[output.id]
        for n in mine[past(laid.lands[mine], raster.w, raster.h)]:
            region, lands = laid.regions[n], laid.landing(n)
            into = Rect(
                max(0, min(lands.x, raster.w - lands.w)), max(0, min(lands.y, raster.h - lands.h)), lands.w, lands.h
            )
            cure = (
                (Cure("Move its landing inside", partial(_landed_at, region=region, to=into)),)
                if raster.holds(into)
                else ()
            )
            words = (
                f"{region.name} lands {reach_words(lands, raster)} past the raster of {output.number} {output.name}, "
                f"{raster.w}×{raster.h} px"
            )
            yield Finding("off-raster", "error", words, Where("output", output.id, lands, (region.id,)), cure)


def reach_words(rect: Rect, whole: Rect) -> str:
    """How far a rectangle reaches past a whole, side by side in words.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    whole : Rect
        What it lies on.

    Returns
    -------
    str
        In words.
    """
    parts = [
        (whole.x - rect.x, "left"),
        (rect.right - whole.right, "right"),
        (whole.y - rect.y, "above"),
        (rect.foot - whole.foot, "below"),
    ]
    return ", ".join(f"{n} px {side}" for n, side in parts if n > 0)


def _enlarged(show: Show, canvas: str, rect: Rect) -> Show:
    home = show.canvas(canvas)
    return with_canvas(
        show, home.model_copy(update={"width": max(home.width, rect.right), "height": max(home.height, rect.foot)})
    )


def _landed_at(show: Show, region: Region, to: Rect) -> Show:
    landing = region.landing.model_copy(update={"x": to.x, "y": to.y})
    return with_regions(show, {region.id: region.model_copy(update={"landing": landing})})


def claims_on_raster(laid: Laid) -> Iterator[Finding]:
    """Two regions on the same pixels of a raster."""
    for output in laid.show.outputs:
        mine = laid.by_output[output.id]
        table = laid.lands[mine]
        table[:, 2:] += table[:, :2]
        for i, j in overlapping(table):
            a, b = laid.regions[mine[i]], laid.regions[mine[j]]
            both = laid.landing(int(mine[i])).meet(laid.landing(int(mine[j])))
            cures = (
                Cure("Pack the regions of this output", partial(landed_packed, ids=laid.ids(mine))),
                Cure(f"Remove {b.name}", partial(without_regions, ids=[b.id])),
            )
            words = (
                f"{a.name} and {b.name} land on the same {both.w}×{both.h} px at {both.x}, {both.y} of "
                f"{output.number} {output.name}; {b.name} covers {a.name}"
            )
            yield Finding("claimed-twice", "error", words, Where("output", output.id, both, (a.id, b.id)), cures)


def _free(whole: Rect, table: Ints) -> tuple[int, Rect]:
    """How many pixels no rectangle covers, and a large free block among the cells that all edges make."""
    left, right = (np.clip(v, 0, whole.w) for v in (table[:, 0], table[:, 0] + table[:, 2]))
    top, foot = (np.clip(v, 0, whole.h) for v in (table[:, 1], table[:, 1] + table[:, 3]))
    xs, ys = (
        np.array(sorted({0, end, *a.tolist(), *b.tolist()}))
        for end, a, b in ((whole.w, left, right), (whole.h, top, foot))
    )
    sums = np.zeros((len(ys) + 1, len(xs) + 1), np.int32)
    a, b, c, d = (np.searchsorted(lines, v) for lines, v in ((ys, top), (ys, foot), (xs, left), (xs, right)))
    for rows, columns, step in ((a, c, 1), (a, d, -1), (b, c, -1), (b, d, 1)):
        np.add.at(sums, (rows, columns), step)
    covered = sums.cumsum(0).cumsum(1)[: len(ys) - 1, : len(xs) - 1] > 0
    free = np.where(covered, 0, np.diff(ys)[:, None] * np.diff(xs)[None, :])
    total = int(free.sum())
    if not total:
        return 0, Rect(0, 0, 0, 0)
    row, column = (int(v) for v in np.unravel_index(int(np.argmax(free)), free.shape))
    y0, y1, x0, x1 = row, row + 1, column, column + 1
    while y1 < covered.shape[0] and not covered[y1, x0:x1].any():
        y1 += 1
    while y0 > 0 and not covered[y0 - 1, x0:x1].any():
        y0 -= 1
    while x1 < covered.shape[1] and not covered[y0:y1, x1].any():
        x1 += 1
    while x0 > 0 and not covered[y0:y1, x0 - 1].any():
        x0 -= 1
    return total, Rect(int(xs[x0]), int(ys[y0]), int(xs[x1] - xs[x0]), int(ys[y1] - ys[y0]))


def unfed(laid: Laid) -> Iterator[Finding]:
    """Areas of rasters that nobody feeds, and areas of canvases that nobody shows."""
    bent = {laid.regions[n].output for n in np.flatnonzero(laid.quad)}
    for output in laid.show.outputs:
        mine = laid.by_output[output.id]
        if output.id in bent:
            continue
        whole = Rect(0, 0, output.timing.width, output.timing.height)
        count, block = _free(whole, laid.lands[mine])
        if count:
            what = (
                "nothing lands on it"
                if not len(mine)
                else (
                    f"{100 * count / whole.area:.1f} % of its raster stay black, most of it {block.w}×{block.h} at "
                    f"{block.x}, {block.y}"
                )
            )
            yield Finding("unfed", "note", f"{output.number} {output.name}: {what}", Where("output", output.id, block))
    for at in laid.canvases:
        canvas = at.canvas
        whole = Rect(0, 0, canvas.width, canvas.height)
        count, block = _free(whole, np.stack([at.x0, at.y0, at.x1 - at.x0, at.y1 - at.y0], 1))
        if count:
            what = (
                "no region shows any of it"
                if not canvas.regions
                else (
                    f"{100 * count / whole.area:.1f} % of it are on no surface, most of it {block.w}×{block.h} at "
                    f"{block.x}, {block.y}"
                )
            )
            yield Finding("unseen", "note", f"{canvas.name}: {what}", Where("canvas", canvas.id, block))


def symmetry(laid: Laid) -> Iterator[Finding]:
    """Left and right that miss being mirrored by a few pixels: pairs of one size at one height, and what nearly stands
    in the middle.
    """
    show = laid.show
    for at in laid.canvases:
        canvas = at.canvas
        if not at.regions:
            continue
        twice = at.x0 + at.x1 - canvas.width  # twice the distance of a middle from the canvas' middle
        rigged_ids = {s.id for s in show.surfaces if s.kind in ("projection", "monitor-wall")}
        rigged = [r.surface in rigged_ids for r in at.regions]
        for n in np.flatnonzero((twice != 0) & (np.abs(twice) <= NEAR)):
            region = at.regions[n]
            if rigged[n] or (twice[n] % 2 and abs(int(twice[n])) == 1):
                continue
            off = int(twice[n]) / 2
            to = rect_of(region)._replace(x=(canvas.width - region.w) // 2)
            words = (
                f"{region.name} stands {abs(off):g} px {'right' if off > 0 else 'left'} of the middle of {canvas.name}"
            )
            yield Finding(
                "asymmetric",
                "warning",
                words,
                Where("canvas", canvas.id, rect_of(region), (region.id,)),
                (move("Centre it", region, to),),
            )
        left, right = np.flatnonzero(twice < -NEAR), np.flatnonzero(twice > NEAR)
        if not len(left) or not len(right):
            continue
        i, j = _pairs(-twice[left], twice[right], -2 * NEAR, 2 * NEAR)
        i, j = left[i], right[j]
        alike = (at.x1[i] - at.x0[i] == at.x1[j] - at.x0[j]) & (at.y1[i] - at.y0[i] == at.y1[j] - at.y0[j])
        exact = alike & (twice[i] + twice[j] == 0) & (at.y0[i] == at.y0[j])
        partnered = set(i[exact]) | set(j[exact])
        near = alike & ~exact & (np.abs(at.y0[i] - at.y0[j]) <= NEAR)
        for n in np.flatnonzero(near):
            if i[n] in partnered or j[n] in partnered:
                continue
            a, b = at.regions[i[n]], at.regions[j[n]]
            to = Rect(canvas.width - a.x - a.w, a.y, b.w, b.h)
            dx, dy = b.x - to.x, b.y - to.y
            off_words = " and ".join(
                w
                for w in (
                    f"{abs(dx)} px too far {'right' if dx > 0 else 'left'}" if dx else "",
                    f"{abs(dy)} px too {'low' if dy > 0 else 'high'}" if dy else "",
                )
                if w
            )
            yield Finding(
                "asymmetric",
                "warning",
                f"{b.name} is {off_words} to mirror {a.name} on {canvas.name}",
                Where("canvas", canvas.id, rect_of(b), (a.id, b.id)),
                (move(f"Move {b.name} to {to.x}, {to.y}", b, to),),
            )
