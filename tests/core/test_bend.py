"""Landings that bend, against SciPy, scikit-image, OpenCV and colour-science."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RectBivariateSpline
from skimage.transform import ProjectiveTransform

from ushering_adze.core.mapping.bend import (
    as_mesh,
    as_quad,
    bend_fault,
    checked_bend,
    corners_of,
    curved,
    keystoned,
    mesh_landing,
    mirrored,
    moved_points,
    points_of,
    raster_points,
    reach_of,
    warp_of_region,
)
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.inverse import backward, inverse_warp
from ushering_adze.core.plane.mesh import (
    _slopes_between,
    forward,
    is_sane,
    landing_and_slopes,
    projected,
    spline_through,
    warp_of,
)
from ushering_adze.core.show import (
    Canvas,
    MeshLanding,
    Output,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    ShowError,
    Timing,
)


def mesh_nodes(rows: int, columns: int, noise: float, seed: int, size: tuple[int, int] = (1920, 1080)) -> np.ndarray:
    x, y = np.meshgrid(np.linspace(30, size[0] - 30, columns), np.linspace(20, size[1] - 20, rows))
    return np.stack([x, y], -1) + np.random.default_rng(seed).uniform(-noise, noise, (rows, columns, 2))


def bent(landing: object, w: int = 400, h: int = 300, x: int = 0) -> Region:
    return Region(id="r", name="R", x=x, y=0, w=w, h=h, output="o", landing=landing)


def show_of(region: Region, raster: tuple[int, int] = (400, 300)) -> Show:
    return Show(
        name="S",
        canvases=(Canvas(id="c", name="C", width=region.x + region.w, height=region.h, regions=(region,)),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=raster[0], height=raster[1])),),
    )


def pictured(region: Region, canvas: np.ndarray, raster: tuple[int, int] = (400, 300)) -> np.ndarray:
    show = show_of(region, raster)
    plan = compile_output(show, show.output("o"))
    made = blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, canvas[step.take.cut()], made)
    return made


@settings(max_examples=60)
@given(st.integers(0, 10_000))
def test_homographies_equal_scikit_image_and_opencv(seed: int) -> None:
    rng = np.random.default_rng(seed)
    square = np.array([[0, 0], [1920, 0], [1920, 1080], [0, 1080]], float)
    corners = np.round((square + rng.uniform(-150, 150, (4, 2))) * 64) / 64  # exact in OpenCV's single precision
    ours = homography(square, corners)
    theirs = ProjectiveTransform.from_estimate(square, corners)
    by_opencv = cv2.getPerspectiveTransform(square.astype(np.float32), corners.astype(np.float32))
    for other in (theirs.params, by_opencv):
        assert np.abs(ours / np.linalg.norm(ours) - other / np.linalg.norm(other)).max() < 1e-9
    assert np.abs(projected(ours, square) - corners).max() < 1e-9, "and corners go exactly where they should"


@settings(max_examples=30, deadline=None)
@given(st.integers(2, 12), st.integers(2, 12), st.integers(0, 1000))
def test_meshes_equal_scipys_splines(rows: int, columns: int, seed: int) -> None:
    """scipy.interpolate.RectBivariateSpline, interpolating, with not-a-knot ends, through the same knots."""
    values = np.random.default_rng(seed).normal(size=(rows, columns, 2))
    u = np.random.default_rng(seed + 1).uniform(0, columns - 1, 200)
    v = np.random.default_rng(seed + 2).uniform(0, rows - 1, 200)
    ours, slope_u, slope_v = spline_through(values).at(u, v)
    for k in (0, 1):
        theirs = RectBivariateSpline(
            np.arange(rows), np.arange(columns), values[..., k], kx=min(3, rows - 1), ky=min(3, columns - 1), s=0
        )
        assert np.abs(theirs.ev(v, u) - ours[:, k]).max() < 1e-9
        if rows > 2 and columns > 2:  # SciPy gives no slopes of straight pieces
            assert np.abs(theirs.ev(v, u, dy=1) - slope_u[:, k]).max() < 1e-8
            assert np.abs(theirs.ev(v, u, dx=1) - slope_v[:, k]).max() < 1e-8


def test_folds_are_looked_for_with_the_slopes_that_the_way_back_uses() -> None:
    for columns, rows in ((2, 2), (3, 4), (9, 7), (33, 33)):
        u, v = np.meshgrid(np.linspace(0, 1280, columns), np.linspace(0, 720, rows))
        nodes = np.stack([u, v], -1) + np.random.default_rng(rows).normal(0, 200 / columns, (rows, columns, 2))
        warp = warp_of(nodes, 1280, 720)
        a, b = ((np.arange(4 * (n - 1)) + 0.5) / (4 * (n - 1)) * size for n, size in ((columns, 1280), (rows, 720)))
        _, usual = landing_and_slopes(warp, np.stack(np.meshgrid(a, b), -1).reshape(-1, 2))
        for ours, theirs in zip(_slopes_between(warp, a, b[:, None], 4), usual, strict=True):
            assert np.abs(ours.ravel() - theirs).max() < 1e-12


def test_whole_meshes_equal_scipys_where_the_corners_are_a_rectangle() -> None:
    nodes = mesh_nodes(6, 7, 15, 3)
    nodes[0, 0], nodes[0, -1], nodes[-1, -1], nodes[-1, 0] = (10, 5), (1900, 5), (1900, 1070), (10, 1070)
    points = np.random.default_rng(5).uniform((0, 0), (1920, 1080), (300, 2))
    for spans, k in (("smooth", 3), ("straight", 1)):
        ours = forward(warp_of(nodes, 1920, 1080, spans), points)
        for axis in (0, 1):
            theirs = RectBivariateSpline(
                np.linspace(0, 1080, 6), np.linspace(0, 1920, 7), nodes[..., axis], kx=k, ky=k, s=0
            )
            assert np.abs(theirs.ev(points[:, 1], points[:, 0]) - ours[:, axis]).max() < 1e-8


@pytest.mark.parametrize(
    ("rows", "columns", "noise"), [(2, 2, 80), (3, 3, 40), (5, 5, 20), (7, 9, 10), (9, 16, 5), (17, 17, 3), (33, 33, 1)]
)
@pytest.mark.parametrize("spans", ["smooth", "straight"])
def test_inverse_maps_lead_back_within_a_twentieth_of_a_pixel(
    rows: int, columns: int, noise: float, spans: str
) -> None:
    for seed in range(2):
        warp = warp_of(mesh_nodes(rows, columns, noise, seed), 1920, 1080, spans)  # type: ignore[arg-type]
        assert is_sane(warp)
        u, v = inverse_warp(warp, 0, 0, 1920, 1080)
        inside = (u >= 0) & (u <= 1919) & (v >= 0) & (v <= 1079)
        assert inside.mean() > 0.8
        edge = np.ones_like(inside)
        edge[8:-8, 8:-8] = False
        edge[::3, ::2] = True  # every pixel near the raster's edges, and one in six within
        y, x = np.nonzero(inside & edge)
        at = forward(warp, np.stack([u[y, x] + 0.5, v[y, x] + 0.5], -1).astype(float))
        assert np.hypot(at[:, 0] - x - 0.5, at[:, 1] - y - 0.5).max() < 0.05
        exact = backward(warp, np.stack([x[::5001] + 0.5, y[::5001] + 0.5], -1).astype(float))
        assert np.abs(forward(warp, exact) - np.stack([x[::5001] + 0.5, y[::5001] + 0.5], -1)).max() < 1e-3


def test_nothing_is_lost_from_rectangle_to_corners_to_mesh_and_finer() -> None:
    region = bent(RectLanding(x=10, y=20, w=380, h=270))
    quad = moved_points(region, {1}, -25.5, 14.25)
    assert quad.landing.kind == "quad" and corners_of(quad.landing)[0] == (10, 20)
    mesh = as_mesh(quad, 5, 4)
    points = np.random.default_rng(0).uniform((0, 0), (400, 300), (200, 2))
    assert np.abs(raster_points(mesh, points) - raster_points(quad, points)).max() < 2e-3, (
        "points are kept to a thousandth"
    )
    dragged = moved_points(mesh, {7}, 6, -4)
    finer = as_mesh(dragged, 9, 7)
    at = forward(warp_of_region(dragged), np.array(points))
    assert np.abs(raster_points(finer, points) - at).max() < 0.02
    assert np.abs(points_of(as_quad(finer).landing) - np.array(corners_of(dragged.landing))).max() < 1e-2
    assert as_mesh(finer, 5, 5, "straight").landing.spans == "straight"


def test_falloff_moves_what_is_near_and_leaves_what_is_far() -> None:
    mesh = as_mesh(bent(RectLanding(x=0, y=0, w=400, h=300)), 9, 7)
    before, after = points_of(mesh.landing), points_of(moved_points(mesh, {31}, 10, 0, 120).landing)
    moved = after[:, 0] - before[:, 0]
    far = np.hypot(*(before - before[31]).T)
    assert (
        moved[31] == pytest.approx(10)
        and (np.diff(moved[np.argsort(far)]) < 1e-2).all()
        and (moved[far >= 120] == 0).all()
    )


def test_keystone_curve_and_mirror_are_what_they_say() -> None:
    plain = keystoned(1920, 1080, 0, 0, 0)
    assert np.abs(np.array(plain.corners) - [(0, 0), (1920, 0), (1920, 1080), (0, 1080)]).max() < 1e-2
    right = np.array(keystoned(1920, 1080, 12, 0, 0).corners)
    left = np.array(keystoned(1920, 1080, -12, 0, 0).corners)
    heights = right[3, 1] - right[0, 1], right[2, 1] - right[1, 1]
    assert heights[0] != pytest.approx(heights[1], rel=0.05) and left[3, 1] - left[0, 1] == pytest.approx(
        heights[1], abs=0.1
    )
    assert (right >= -0.01).all() and (right <= (1920.01, 1080.01)).all()
    rolled = np.array(keystoned(1000, 1000, 0, 0, 90).corners)
    assert np.abs(np.sort(rolled, 0) - np.sort(np.array(keystoned(1000, 1000, 0, 0, 0).corners), 0)).max() < 1e-6
    with pytest.raises(ValueError, match="past reason"):
        keystoned(1920, 1080, 75, 0, 0)
    round_screen = curved(bent(RectLanding(x=0, y=0, w=400, h=300)), 9, 5, 90)
    p = points_of(round_screen.landing).reshape(5, 9, 2)
    assert p[0, 4, 1] > p[0, 0, 1] + 5 and p[4, 4, 1] < p[4, 0, 1] - 5, (
        "the middle of a hollow screen is far and so smaller"
    )
    assert np.allclose(p[:, ::-1, 0] + p[..., 0], 400, atol=0.01)
    assert bend_fault(round_screen, show_of(round_screen).output("o")) is None
    askew = moved_points(as_mesh(bent(RectLanding(x=0, y=0, w=400, h=300)), 5, 5), {6}, 9, 4)
    both = mirrored(mirrored(askew, (400, 300)), (400, 300))
    assert np.abs(points_of(both.landing) - points_of(askew.landing)).max() < 1e-6
    assert points_of(mirrored(askew, (400, 300)).landing)[8] == pytest.approx([400 - 109, 79])


@pytest.mark.parametrize(
    ("landing", "words"),
    [
        (QuadLanding(corners=((0, 0), (400, 300), (400, 0), (0, 300))), "crossed or dented"),
        (QuadLanding(corners=((0, 0), (400, 0), (120, 80), (0, 300))), "crossed or dented"),
        (QuadLanding(corners=((-9000, 0), (400, 0), (400, 300), (0, 300))), "more than 4 rasters away"),
        (
            mesh_landing(
                np.array(
                    [[0, 0], [200, 0], [400, 0], [0, 150], [500, 150], [-100, 150], [0, 300], [200, 300], [400, 300]]
                ),
                3,
                3,
            ),
            "folded",
        ),
    ],
)
def test_bends_that_cannot_be_are_refused_and_show_nothing(landing: QuadLanding | MeshLanding, words: str) -> None:
    region = bent(landing)
    with pytest.raises(ShowError, match=words):
        checked_bend(region, show_of(region).output("o"))
    white = np.full((300, 400, 4), 255, np.uint8)
    assert (pictured(region, white)[..., :3] == 0).all()


@pytest.mark.parametrize("how", ["nearest", "linear", "cubic", "area"])
def test_no_pixel_is_wrong_at_the_border_however_pixels_are_made(how: str) -> None:
    white = np.full((300, 400, 4), 255, np.uint8)
    region = bent(
        as_mesh(bent(QuadLanding(corners=((20.3, 14.6), (371.2, 8.7), (380.4, 288.1), (12.9, 279.4)))), 5, 5).landing
    )
    region = region.model_copy(update={"landing": region.landing.model_copy(update={"resampling": how})})
    made = pictured(region, white)[..., 1].astype(int)
    u, v = inverse_warp(warp_of_region(region), 0, 0, 400, 300)
    deep = (u > 1) & (u < 398) & (v > 1) & (v < 298)
    away = (u < -1.5) | (u > 400.5) | (v < -1.5) | (v > 300.5)
    assert (made[deep] == 255).all() and (made[away] == 0).all()
    same = bent(QuadLanding(corners=((0, 0), (400, 0), (400, 300), (0, 300)), resampling=how))  # type: ignore[arg-type]
    noise = np.random.default_rng(1).integers(0, 256, (300, 400, 4), dtype=np.uint8)
    assert np.abs(pictured(same, noise)[..., :3].astype(int) - noise[..., :3]).max() <= 1, (
        "the rectangle itself is the copy"
    )


def test_shrinking_by_area_keeps_the_mean_where_nearest_does_not() -> None:
    lines = np.zeros((1200, 1600, 4), np.uint8)
    lines[:, ::4, :3] = 255
    lines[..., 3] = 255
    quad = ((0, 0), (400, 0), (400, 300), (0, 300))
    by = {
        how: pictured(bent(QuadLanding(corners=quad, resampling=how), 1600, 1200), lines) for how in ("area", "nearest")
    }  # type: ignore[arg-type]
    inner = np.s_[10:-10, 10:-10, 1]
    assert by["area"][inner].std() < 2 and by["area"][inner].mean() == pytest.approx(255 / 4, abs=2)
    assert by["nearest"][inner].mean() in (0, 255)


def test_the_reach_of_a_raster_is_what_it_can_light() -> None:
    region = bent(QuadLanding(corners=((40, 30), (360, 30), (360, 270), (40, 270))), x=100)
    reach = reach_of(region, (400, 300))
    assert (
        np.abs(reach.min(0) - (100 - 50, -37.5)).max() < 0.01 and np.abs(reach.max(0) - (500 + 50, 337.5)).max() < 0.01
    )
