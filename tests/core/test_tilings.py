"""Landings that meet: rasters tiled at random by quads, meshes, turned and scaled rectangles lose nothing and darken
nothing.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon, box

from ushering_adze.core.mapping.bend import mesh_landing
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.resampling import resized
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.coverage import coverage_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.proof.check import pixel_check
from ushering_adze.core.show import (
    Canvas,
    Output,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    ShowError,
    Timing,
    document_of,
    show_from_document,
)
from ushering_adze.core.show.canvas import Landing

WIDE, HIGH = 200, 160
seeds = st.integers(0, 2**32 - 1)


def region(id: str, rect: tuple[int, int, int, int], landing: Landing) -> Region:
    x, y, w, h = rect
    return Region(id=id, name=id, x=x, y=y, w=w, h=h, output="o", landing=landing)


def show_of(
    regions: list[Region], canvas: tuple[int, int] = (WIDE, HIGH), raster: tuple[int, int] = (WIDE, HIGH)
) -> Show:
    return Show(
        name="S",
        canvases=[Canvas(id="c", name="C", width=canvas[0], height=canvas[1], regions=regions)],
        outputs=[Output(id="o", number=1, name="O", timing=Timing(width=raster[0], height=raster[1], rate=60))],
    )


def laid(show: Show, picture: Pixels | None = None) -> Pixels:
    canvas = show.canvases[0]
    picture = np.full((canvas.height, canvas.width, 4), 255, np.uint8) if picture is None else picture
    plan = compile_output(show, show.outputs[0])
    raster = blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, picture[step.take.cut()], raster)
    return raster


def knots(draw: np.random.Generator, columns: int, rows: int, stray: float) -> np.ndarray:
    """A grid of corners over the raster: those on its border stay on it, the others stray."""
    x, y = np.meshgrid(np.linspace(0, WIDE, columns + 1), np.linspace(0, HIGH, rows + 1))
    at = np.stack([x, y], -1)
    off = draw.uniform(-stray, stray, at.shape)
    off[[0, -1], :, 1] = off[:, [0, -1], 0] = 0
    return at + off


def cells(columns: int, rows: int) -> list[tuple[int, int, int, int]]:
    w, h = WIDE // columns, HIGH // rows
    return [(i * w, j * h, w, h) for j in range(rows) for i in range(columns)]


def quads(draw: np.random.Generator, columns: int, rows: int) -> list[Region]:
    at = knots(draw, columns, rows, 12)
    out = []
    for n, rect in enumerate(cells(columns, rows)):
        j, i = divmod(n, columns)
        corners = [tuple(map(float, at[a])) for a in ((j, i), (j, i + 1), (j + 1, i + 1), (j + 1, i))]
        k = int(draw.integers(4))  # turned on its way
        turned = corners[k:] + corners[:k]
        out.append(region(f"q{n}", rect, QuadLanding(corners=turned if draw.random() < 0.7 else turned[::-1])))
    return out


def meshes(draw: np.random.Generator, columns: int, rows: int) -> list[Region]:
    """Meshes cut out of one net of points, so that neighbours have the points of their edges in common."""
    per, spans = 4, "smooth" if draw.random() < 0.7 else "straight"
    at = knots(draw, columns * per, rows * per, 1.2)
    out = []
    for n, rect in enumerate(cells(columns, rows)):
        j, i = divmod(n, columns)
        points = at[j * per : (j + 1) * per + 1, i * per : (i + 1) * per + 1]
        if draw.random() < 0.5:
            points = points[:, ::-1]
        out.append(region(f"m{n}", rect, mesh_landing(points.reshape(-1, 2), per + 1, per + 1, spans)))  # type: ignore[arg-type]
    return out


@settings(max_examples=60, deadline=None)
@given(seeds, st.sampled_from([quads, meshes]), st.integers(1, 3), st.integers(1, 3))
def test_random_tilings_of_bends_cover_a_white_raster_to_one_code(seed: int, make, columns: int, rows: int) -> None:  # type: ignore[no-untyped-def]
    draw = np.random.default_rng(seed)
    regions = make(draw, columns, rows)
    order = draw.permutation(len(regions))
    white = laid(show_of([regions[k] for k in order]))
    assert white[..., :3].min() >= 254, np.argwhere(white[..., 0] < 254)[:5]


@settings(max_examples=40, deadline=None)
@given(seeds)
def test_what_a_bend_does_not_cover_stays_as_others_left_it(seed: int) -> None:
    """A copied rectangle anywhere beside a bend, before it or after it in the show, is bit for bit what it is alone."""
    draw = np.random.default_rng(seed)
    picture = draw.integers(0, 256, (HIGH, WIDE, 4), dtype=np.uint8)
    picture[..., 3] = 255
    cut = int(draw.integers(40, WIDE - 40))
    own = region("copy", (0, 0, cut, HIGH), RectLanding(x=0, y=0, w=cut, h=HIGH))
    slant = draw.uniform(0, 30, 4)
    bent = region(
        "bent",
        (cut, 0, WIDE - cut, HIGH),
        QuadLanding(
            corners=((cut, slant[0]), (WIDE + slant[1], 0), (WIDE, HIGH), (cut, HIGH - slant[2])),
            resampling=["nearest", "linear", "cubic", "area"][int(draw.integers(4))],
        ),
    )
    alone = laid(show_of([own]), picture)
    for regions in ([own, bent], [bent, own]):
        assert np.array_equal(laid(show_of(regions), picture)[:, :cut], alone[:, :cut])


@settings(max_examples=40, deadline=None)
@given(seeds)
def test_scaled_rectangles_past_their_canvas_or_raster_show_what_they_show_inside(seed: int) -> None:
    """What is left of a scaled landing is as it would be on a canvas and a raster with room for all of it; its own edge
    is as bright.
    """
    draw = np.random.default_rng(seed)
    w, h = int(draw.integers(30, 90)), int(draw.integers(30, 90))
    to_w, to_h = int(draw.integers(12, 200)), int(draw.integers(12, 200))
    x, y = int(draw.integers(0, WIDE - w)), int(draw.integers(0, HIGH - h))
    at_x, at_y = int(draw.integers(-to_w + 5, WIDE - 5)), int(draw.integers(-to_h + 5, HIGH - 5))
    picture = cv2.GaussianBlur(draw.integers(0, 256, (HIGH, WIDE, 4), dtype=np.uint8), (0, 0), 2.0)
    picture[..., 3] = 255
    got = laid(show_of([region("a", (x, y, w, h), RectLanding(x=at_x, y=at_y, w=to_w, h=to_h))]), picture)
    want = np.zeros_like(got)
    want[..., 3] = 255
    seen = Rect(at_x, at_y, to_w, to_h).meet(Rect(0, 0, WIDE, HIGH))
    whole = resized(np.ascontiguousarray(picture[y : y + h, x : x + w]), to_w, to_h)
    want[seen.cut()] = whole[seen.moved(-at_x, -at_y).cut()]
    assert np.abs(got.astype(int) - want).max() <= 4, "OpenCV places samples to 1/32 px; nothing else differs"


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 9), st.integers(1, 9), st.booleans(), seeds)
def test_no_pixel_is_skipped_whichever_side_shrinks(times: int, other: int, across: bool, seed: int) -> None:
    """A single lit column, or row, anywhere keeps its share of light: three fifths at least of what area averaging
    leaves of it.
    """
    draw = np.random.default_rng(seed)
    long, short = 24 * times + int(draw.integers(24)), 40
    at = int(draw.integers(long))
    picture = np.zeros((short, long, 4), np.uint8)
    picture[:, at] = 255  # on the border it is doubled, or halved, by half a sample beyond it
    size = (24, short * other)
    if not across:
        picture, size = np.ascontiguousarray(picture.transpose(1, 0, 2)), size[::-1]
    small = resized(picture, *size)
    light = small[..., 0].astype(float).sum() / (255 * short * other)
    share = 24 / long
    assert share * 0.6 - 0.02 <= light <= share * 2 + 0.02


def test_a_wide_picture_into_a_mast_is_the_mean_of_its_columns() -> None:
    """The exact case: 4096 into 256 columns at the same height averages sixteen columns each (area averaging, by
    NumPy).
    """
    picture = np.random.default_rng(3).integers(0, 256, (64, 4096, 4), dtype=np.uint8)
    want = picture.reshape(64, 256, 16, 4).mean(2)
    assert np.abs(resized(picture, 256, 64) - want).max() <= 2.0, "each of four halvings rounds by half a code"


@settings(max_examples=100, deadline=None)
@given(seeds)
def test_coverage_is_the_area_of_the_polygon_in_each_pixel(seed: int) -> None:
    """Against GEOS (shapely): intersections of a star-shaped polygon with every pixel."""
    draw = np.random.default_rng(seed)
    count = int(draw.integers(3, 9))
    turn, reach = np.sort(draw.uniform(0, 2 * np.pi, count)), draw.uniform(3, 30, count)
    outline = draw.uniform((-5, -5), (29, 25)) + np.stack([np.cos(turn) * reach, np.sin(turn) * reach], 1)
    outline = np.round(outline) if draw.random() < 0.3 else outline
    polygon = Polygon(outline)
    if not polygon.is_valid:
        return
    put = Rect(2, 1, 22, 18)
    got = coverage_of(outline[::-1] if draw.random() < 0.5 else outline, put).within(put)
    want = [
        [polygon.intersection(box(x, y, x + 1, y + 1)).area for x in range(put.x, put.right)]
        for y in range(put.y, put.foot)
    ]
    assert np.abs(got - want).max() < 1e-6


@settings(max_examples=40, deadline=None)
@given(seeds)
def test_the_pixel_check_sees_bends_by_their_true_shapes(seed: int) -> None:
    """Tiles make no finding; a tile moved onto its neighbours makes one with each it covers, and none with
    the others.
    """
    draw = np.random.default_rng(seed)
    regions = quads(draw, 3, 2)
    claims = {f.where.regions for f in pixel_check(show_of(regions)) if f.rule in ("claimed-twice", "off-raster")}
    assert not claims
    k = int(draw.integers(len(regions)))
    corners = np.array(regions[k].landing.corners)  # type: ignore[union-attr]
    off = draw.choice([-1, 1], 2) * draw.uniform(8, 25, 2)
    regions[k] = regions[k].model_copy(
        update={"landing": QuadLanding(corners=[tuple(c) for c in (corners + off).tolist()])}
    )
    shapes = [Polygon(r.landing.corners) for r in regions]  # type: ignore[union-attr]
    want = {
        tuple(sorted((regions[k].id, other.id)))
        for n, other in enumerate(regions)
        if n != k and not shapes[n].intersection(shapes[k]).buffer(-0.25).is_empty
    }
    found = pixel_check(show_of(regions))
    assert {tuple(sorted(f.where.regions)) for f in found if f.rule == "claimed-twice"} == want
    cut = shapes[k].difference(box(0, 0, WIDE, HIGH)).buffer(-0.25)
    assert any(f.rule == "off-raster" for f in found) == (not cut.is_empty)


@pytest.mark.parametrize(
    ("landing", "words"),
    [
        (QuadLanding(corners=((0, 0), (100, 0), (0, 100), (100, 100))), "crossed"),
        (QuadLanding(corners=((0, 0), (50, 0), (100, 0), (0, 100))), "in line"),
        (QuadLanding(corners=((5, 5), (5, 5), (5, 5), (5, 5))), "in line"),
        (
            mesh_landing(
                np.array([[0, 0], [50, 0], [99, 0], [0, 50], [150, 50], [99, 50], [0, 99], [50, 99], [99, 99.0]]), 3, 3
            ),
            "folded",
        ),
        (mesh_landing(np.zeros((4, 2)), 2, 2), "folded"),
    ],
)
def test_bends_that_cannot_be_are_refused_when_read(landing: Landing, words: str) -> None:
    document = document_of(show_of([region("a", (0, 0, 50, 50), landing)]))
    with pytest.raises(ShowError, match=rf"canvases\[0\]\.regions\[0\]\.landing: .*{words}"):
        show_from_document(document)
