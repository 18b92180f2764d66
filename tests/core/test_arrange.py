"""Arranging, snapping and packing rectangles: properties over many cases."""

from __future__ import annotations

import itertools
import random

from hypothesis import given
from hypothesis import strategies as st

from ushering_adze.core.mapping.benchtop import laid_on_bench
from ushering_adze.core.plane.arrange import (
    aligned,
    box_around,
    divided,
    even_gaps,
    in_grid,
    opened,
    packed,
    reflected,
    shared_out,
    swapped,
    with_gap,
)
from ushering_adze.core.plane.rect import Rect, gathered, overlapping
from ushering_adze.core.plane.snap import distances, snap_lines, snapped

rects = st.builds(Rect, st.integers(-400, 400), st.integers(-400, 400), st.integers(1, 300), st.integers(1, 300))
many = st.lists(rects, min_size=1, max_size=12)
axes = st.sampled_from(["across", "down"])


def table(found: list[Rect]) -> object:
    import numpy as np

    return np.array([(r.x, r.y, r.right, r.foot) for r in found], np.int64).reshape(-1, 4)


@given(many, axes, rects)
def test_reflecting_twice_gives_the_first_places_and_keeps_every_pixel_distance(
    given_rects: list[Rect], axis: str, within: Rect
) -> None:
    once = reflected(given_rects, axis, within)
    assert reflected(once, axis, within) == given_rects
    for a, b in zip(given_rects, once, strict=True):
        assert (a.w, a.h) == (b.w, b.h)
        left, right = (
            (a.x - within.x, within.right - b.right) if axis == "across" else (a.y - within.y, within.foot - b.foot)
        )
        assert left == right, "as far from the far edge as it was from the near one"


@given(st.lists(st.tuples(st.integers(1, 400), st.integers(1, 400)), max_size=30), st.integers(1, 1200))
def test_packing_never_overlaps_and_keeps_sizes_and_order(sizes: list[tuple[int, int]], width: int) -> None:
    laid = packed(sizes, width)
    assert [(r.w, r.h) for r in laid] == sizes
    assert not len(overlapping(table(laid)))
    for r in laid:
        assert r.x >= 0 and r.y >= 0 and (r.right <= width or r.x == 0), "only what is wider than the raster sticks out"
    assert [(r.y, r.x) for r in laid] == sorted((r.y, r.x) for r in laid), "in rows, in their order"


@given(many, axes)
def test_even_gaps_differ_by_at_most_a_pixel_and_add_up(given_rects: list[Rect], axis: str) -> None:
    done = even_gaps(given_rects, axis)
    start, size = (0, 2) if axis == "across" else (1, 3)
    order = sorted(
        range(len(done)), key=lambda n: (given_rects[n][start], given_rects[n][start] + given_rects[n][size])
    )
    gaps = [done[b][start] - done[a][start] - done[a][size] for a, b in itertools.pairwise(order)]
    if gaps:
        first, end = min(r[start] for r in given_rects), max(r[start] + r[size] for r in given_rects)
        assert max(gaps) - min(gaps) <= 1
        assert sum(gaps) == end - first - sum(r[size] for r in given_rects)
        assert done[order[0]][start] == first
    assert [(r.w, r.h) for r in done] == [(r.w, r.h) for r in given_rects]


@given(many, axes, st.integers(-40, 40))
def test_one_gap_between_all(given_rects: list[Rect], axis: str, gap: int) -> None:
    done = with_gap(given_rects, axis, gap)
    start, size = (0, 2) if axis == "across" else (1, 3)
    order = sorted(
        range(len(done)), key=lambda n: (given_rects[n][start], given_rects[n][start] + given_rects[n][size])
    )
    assert all(done[b][start] - done[a][start] - done[a][size] == gap for a, b in itertools.pairwise(order))
    assert done[order[0]] == given_rects[order[0]]


@given(many, st.sampled_from(["left", "centre", "right", "top", "middle", "foot"]))
def test_aligning(given_rects: list[Rect], edge: str) -> None:
    done = aligned(given_rects, edge)
    whole = box_around(given_rects)
    value = {
        "left": lambda r: r.x,
        "right": lambda r: r.right,
        "top": lambda r: r.y,
        "foot": lambda r: r.foot,
        "centre": lambda r: (2 * r.x + r.w) // 2,
        "middle": lambda r: (2 * r.y + r.h) // 2,
    }[edge]
    wanted = {
        "left": whole.x,
        "right": whole.right,
        "top": whole.y,
        "foot": whole.foot,
        "centre": (2 * whole.x + whole.w) // 2,
        "middle": (2 * whole.y + whole.h) // 2,
    }[edge]
    assert all(abs(value(r) - wanted) <= (1 if edge in ("centre", "middle") else 0) for r in done)
    assert aligned(done, edge, whole) == done, "aligning again changes nothing"


@given(many, axes, st.integers(-60, 60), st.integers(-500, 500))
def test_a_gap_opens_the_same_on_both_sides_and_closes_again(
    given_rects: list[Rect], axis: str, by: int, middle2: int
) -> None:
    done = opened(given_rects, axis, middle2, by)
    for a, b in zip(given_rects, done, strict=True):
        twice = 2 * a.x + a.w if axis == "across" else 2 * a.y + a.h
        step = b.x - a.x if axis == "across" else b.y - a.y
        assert step == (by if twice > middle2 else -by if twice < middle2 else 0)
    if by > 0:
        assert opened(done, axis, middle2, -by) == given_rects


@given(rects, st.integers(1, 9), st.integers(1, 9))
def test_dividing_leaves_nothing_over(whole: Rect, columns: int, rows: int) -> None:
    if whole.w < columns or whole.h < rows:
        return
    parts = divided(whole, columns, rows)
    assert sum(p.area for p in parts) == whole.area and box_around(parts) == whole
    assert (
        max(p.w for p in parts) - min(p.w for p in parts) <= 1
        and max(p.h for p in parts) - min(p.h for p in parts) <= 1
    )
    assert not len(overlapping(table(parts)))


@given(rects, st.lists(st.floats(0.5, 100), min_size=1, max_size=6), axes)
def test_shares_add_up_to_the_whole(whole: Rect, shares: list[float], axis: str) -> None:
    parts = shared_out(whole, shares, axis)
    assert sum(p.w if axis == "across" else p.h for p in parts) == (whole.w if axis == "across" else whole.h)


def test_swapping_and_grids() -> None:
    a, b, c = Rect(0, 0, 10, 10), Rect(50, 5, 20, 10), Rect(90, 0, 5, 5)
    assert swapped([a, b]) == [Rect(50, 5, 10, 10), Rect(0, 0, 20, 10)]
    assert swapped(swapped([a, b])) == [a, b]
    assert [r[:2] for r in swapped([a, b, c])] == [(50, 5), (90, 0), (0, 0)]
    assert in_grid(a, 3, 2, 12, 20)[4] == Rect(12, 20, 10, 10)


@given(
    st.lists(
        st.builds(Rect, st.integers(0, 80), st.integers(0, 80), st.integers(1, 25), st.integers(1, 25)), max_size=40
    )
)
def test_pairs_that_share_pixels_are_those_that_meet(found: list[Rect]) -> None:
    got = {tuple(p) for p in overlapping(table(found)).tolist()}
    assert got == {(i, j) for i, j in itertools.combinations(range(len(found)), 2) if not found[i].meet(found[j]).empty}


@given(
    st.lists(
        st.builds(Rect, st.integers(0, 120), st.integers(0, 120), st.integers(0, 25), st.integers(0, 25)), max_size=25
    )
)
def test_gathered_rectangles_hold_all_pixels_and_share_none(found: list[Rect]) -> None:
    done = gathered(found)
    assert not len(overlapping(table(done)))
    assert all(r.empty or any(d.holds(r) for d in done) for r in found)


# -- snapping ----------------------------------------------------------------------------------------------------------


def test_snapping_takes_the_nearest_line_of_each_axis_and_says_whose_it_is() -> None:
    others = [Rect(0, 0, 100, 100), Rect(300, 200, 60, 60)]
    lines = snap_lines(others, Rect(0, 0, 1000, 500))
    at, hints = snapped(Rect(104, 297, 40, 40), lines, 6)
    assert (at.x, at.y) == (100, 297) and [(h.axis, h.at, h.other) for h in hints] == [("across", 100, 0)]
    at, _ = snapped(Rect(477, 232, 40, 40), lines, 6)
    assert at.x == 480, "its middle comes to the middle of the canvas"
    at, hints = snapped(Rect(480, 230, 40, 40), snap_lines([], None, grid_x=[484], grid_y=[192]), 6)
    assert at.x == 484 and [h.other for h in hints] == [None]
    assert snapped(Rect(503, 401, 13, 17), lines, 0)[1] == [], "free"


@given(many, rects, st.integers(1, 12))
def test_a_snapped_rectangle_keeps_its_size_and_moves_no_further_than_allowed(
    others: list[Rect], rect: Rect, near: int
) -> None:
    at, hints = snapped(rect, snap_lines(others), near)
    assert (at.w, at.h) == (rect.w, rect.h) and abs(at.x - rect.x) <= near and abs(at.y - rect.y) <= near
    for hint in hints:
        mine = (
            {2 * at.x, 2 * at.right, 2 * at.x + at.w}
            if hint.axis == "across"
            else {2 * at.y, 2 * at.foot, 2 * at.y + at.h}
        )
        assert mine & {2 * hint.at, 2 * hint.at + 1}, "the line that is told is one it lies on"


def test_distances_to_the_nearest_neighbour_on_each_side() -> None:
    found = distances(
        Rect(100, 100, 50, 50),
        [Rect(0, 90, 60, 40), Rect(20, 120, 70, 10), Rect(170, 0, 10, 400), Rect(110, 300, 10, 10)],
    )
    assert {(axis, length) for axis, _, length, _ in found} == {("across", 10), ("across", 20), ("down", 150)}


# -- the benchtop ------------------------------------------------------------------------------------------------------


def test_the_benchtop_lays_all_out_at_one_scale() -> None:
    rng = random.Random(4)
    for _ in range(60):
        sizes = [(str(n), rng.randrange(100, 4000), rng.randrange(100, 2200)) for n in range(rng.randrange(1, 14))]
        scale, laid = laid_on_bench(sizes, 1920, 1080)
        whole = Rect(0, 0, 1920, 1080)
        assert 0 < scale <= 1 and all(whole.holds(item.rect) for item in laid)
        assert not len(overlapping(table([item.rect for item in laid])))
        for (_, w, h), item in zip(sizes, laid, strict=True):
            assert (item.rect.w, item.rect.h) == (max(1, round(w * scale)), max(1, round(h * scale)))
    assert laid_on_bench([("a", 400, 300)], 1920, 1080, scale=2.0)[1][0].rect.w == 800, "any scale can be asked for"
