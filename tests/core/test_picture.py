"""Composition against Pillow and Porter–Duff; copy, resize and warp against NumPy slicing and scikit-image."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from skimage.transform import ProjectiveTransform

from ushering_adze.core.kinds.on_its_way import Shown
from ushering_adze.core.picture.bending import inverse_maps
from ushering_adze.core.picture.compose import Piece, Sheet, fit_into, lay_over, paint
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.mixing import Share, noticeable
from ushering_adze.core.picture.resampling import resized
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.mesh import projected
from ushering_adze.core.plane.pixels import premultiplied
from ushering_adze.core.plane.rect import Rect, gathered
from ushering_adze.core.show import QuadLanding, RectLanding, Region, Show
from ushering_adze.core.show.edits import changed, with_region

RNG = np.random.default_rng(7)


def noise(h: int, w: int, opaque: bool = True) -> np.ndarray:
    picture = RNG.integers(0, 256, (h, w, 4), dtype=np.uint8)
    if opaque:
        picture[..., 3] = 255
    return picture


def test_over_agrees_with_pillow() -> None:
    straight, ground = noise(64, 96, opaque=False), noise(64, 96)
    expected = np.asarray(
        Image.alpha_composite(Image.fromarray(ground[..., [2, 1, 0, 3]]), Image.fromarray(straight[..., [2, 1, 0, 3]]))
    )
    found = ground.copy()
    lay_over(found, premultiplied(straight)[0])
    assert np.abs(found[..., [2, 1, 0, 3]].astype(int) - expected).max() <= 1


@settings(max_examples=60, deadline=None)
@given(opacity=st.floats(0, 1), seed=st.integers(0, 999))
def test_over_with_opacity_is_porter_and_duff(opacity: float, seed: int) -> None:
    # Porter & Duff 1984 (from memory): co = αs·Cs + αb·Cb·(1 − αs), with αs scaled by the layer's opacity.
    rng = np.random.default_rng(seed)
    straight = rng.integers(0, 256, (6, 6, 4), dtype=np.uint8)
    ground = rng.integers(0, 256, (6, 6, 4), dtype=np.uint8)
    ground[..., 3] = 255
    alpha = straight[..., 3:] / 255 * opacity
    expected = straight[..., :3] * alpha + ground[..., :3] * (1 - alpha)
    found = ground.copy()
    lay_over(found, premultiplied(straight)[0], opacity)
    assert np.abs(found[..., :3] - expected).max() <= 2.0


@settings(max_examples=80, deadline=None)
@given(data=st.data())
def test_paint_of_any_opaque_layers_is_the_formula(data: st.DataObject) -> None:
    """Layers of one or two opaque pieces, anywhere, any opacity and weights: Σ wᵢ·o·pᵢ + (1 − Σ wᵢ·o)·under,
    bottom up.
    """
    number = st.integers(-6, 30)
    target, sheets = noise(24, 28), []
    background = data.draw(st.sampled_from([(10, 20, 30), (20, 20, 20), (0, 0, 0)]))
    expected = np.zeros((24, 28, 3))
    expected[:] = background
    for _ in range(data.draw(st.integers(0, 4))):
        box = Rect(data.draw(number), data.draw(number), data.draw(st.integers(1, 30)), data.draw(st.integers(1, 30)))
        weights = data.draw(st.sampled_from([(1.0,), (0.4,), (0.25, 0.75), (0.3, 0.3), (0.2, 0.3, 0.5)]))
        opacity = data.draw(st.sampled_from([1.0, 0.5, 0.1]))
        pieces = []
        under = expected.copy()
        for weight in weights:
            at = Rect(box.x + data.draw(st.integers(0, 3)), box.y, box.w, box.h).meet(box)
            pixels = noise(max(1, at.h), max(1, at.w))
            pieces.append(Piece(pixels, at, weight, True))
            shared = at.meet(Rect(0, 0, 28, 24))
            if not shared.empty:
                inside = shared.cut()
                share = weight * opacity
                expected[inside] += share * (pixels[shared.moved(-at.x, -at.y).cut()][..., :3] - under[inside])
        sheets.append(Sheet(tuple(pieces), box, box, (0, 0, 0), opacity))
    paint(target, Rect(0, 0, 28, 24), background, sheets)
    assert np.abs(target[..., :3] - expected).max() <= 0.75 * max(1, sum(len(s.pieces) for s in sheets))


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(st.floats(1e-6, 1) | st.floats(1e-6, 0.004), st.integers(0, 255)), min_size=1, max_size=6))
def test_what_is_left_out_of_a_mix_changes_no_code_by_half(parts: list[tuple[float, int]]) -> None:
    total = sum(w for w, _ in parts)
    mix = [Share(Shown(str(n), "fill"), w / total) for n, (w, _) in enumerate(parts)]
    kept = noticeable(mix)
    sources = {s.picture for s in kept}
    assert sum(s.weight for s in kept) == pytest.approx(1) and [s.picture for s in kept] == [
        s.picture for s in mix if s.picture in sources
    ]
    codes = {s.picture: code for s, (_, code) in zip(mix, parts, strict=True)}
    assert abs(sum(s.weight * codes[s.picture] for s in mix) - sum(s.weight * codes[s.picture] for s in kept)) < 0.5
    left_out = sum(s.weight for s in mix if s.picture not in sources)
    assert len(kept) == 1 or (left_out + min(s.weight for s in kept)) * 255 >= 0.4999, "and no more could be"


@pytest.mark.parametrize("ground", [0, 77])
@pytest.mark.parametrize("weights", [(1.0,), (0.3, 0.7), (0.2, 0.5)])
def test_a_layer_that_fades_in_over_the_bare_canvas_is_rounded_once(weights: tuple[float, ...], ground: int) -> None:
    pictures = [noise(20, 30) for _ in weights]
    box = Rect(2, 1, 30, 20)
    for opacity in (0.0625, 0.4, 0.99):
        target = noise(24, 40)
        paint(
            target,
            Rect(0, 0, 40, 24),
            (ground,) * 3,
            [
                Sheet(
                    tuple(Piece(p, box, w, True) for p, w in zip(pictures, weights, strict=True)),
                    box,
                    box,
                    (0, 0, 0),
                    opacity,
                )
            ],
        )
        expected = np.full((24, 40, 3), float(ground))
        expected[box.cut()] += sum(
            w * opacity * (p[..., :3] - float(ground)) for p, w in zip(pictures, weights, strict=True)
        )
        assert np.abs(target[..., :3] - expected).max() < 0.5001


def test_border_lies_inside_the_box_and_the_picture_inside_the_border() -> None:
    target = np.zeros((40, 60, 4), np.uint8)
    box, inner = Rect(10, 5, 30, 20), Rect(13, 8, 24, 14)
    picture = noise(14, 24)
    paint(
        target, Rect(0, 0, 60, 40), (0, 0, 0), [Sheet((Piece(picture, inner, 1.0, True),), box, inner, (1, 2, 3), 1.0)]
    )
    assert (target[inner.cut()] == picture).all()
    ring = np.zeros((40, 60), bool)
    ring[box.cut()] = True
    ring[inner.cut()] = False
    assert (target[ring] == (1, 2, 3, 255)).all()
    assert (target[5:25, 40:, :3] == 0).all()


@settings(max_examples=150, deadline=None)
@given(
    w=st.integers(1, 300),
    h=st.integers(1, 300),
    fit=st.sampled_from(["fill", "fit", "stretch", "1:1"]),
    box=st.builds(Rect, st.integers(-50, 50), st.integers(-50, 50), st.integers(1, 200), st.integers(1, 200)),
)
def test_fits_keep_their_promises(w: int, h: int, fit: str, box: Rect) -> None:
    cut = fit_into(w, h, (0, 0, 0, 0), fit, box)
    assert Rect(0, 0, w, h).holds(cut.take) and box.holds(cut.put)
    if fit in ("fill", "stretch"):
        assert cut.put == box
    if fit == "1:1":
        assert (cut.take.w, cut.take.h) == (cut.put.w, cut.put.h)
    if fit == "fit":
        assert cut.take == Rect(0, 0, w, h) and (cut.put.w == box.w or cut.put.h == box.h)
        assert abs(cut.put.w / w * h - cut.put.h) <= max(1, h / w)  # within a pixel of the true shape
    if fit == "fill":
        assert abs(cut.take.w / box.w - cut.take.h / box.h) <= 1 / min(box.w, box.h) + 1e-9


@pytest.mark.parametrize("times", [2, 4, 8])
def test_shrinking_by_a_power_of_two_is_the_mean_of_blocks(times: int) -> None:
    picture = noise(48, 64)
    blocks = picture.reshape(48 // times, times, 64 // times, times, 4).astype(float).mean((1, 3))
    assert np.abs(resized(picture, 64 // times, 48 // times) - blocks).max() <= 0.5 + 0.5 * (np.log2(times) - 1)


def test_shrinking_far_keeps_a_linear_picture_in_place() -> None:
    """A plane stays the same plane at any ratio: no half pixel is lost, also with odd sizes."""
    for w, h, tw, th in ((1281, 711, 346, 193), (999, 777, 100, 70), (640, 361, 213, 100)):
        x = (np.arange(w) + 0.5) / w
        y = (np.arange(h) + 0.5)[:, None] / h
        plane = np.repeat((40 + 120 * x + 60 * y)[..., None], 4, 2).astype(np.float32)
        found = resized(np.round(plane).astype(np.uint8), tw, th)[2:-2, 2:-2].astype(float)
        want = 40 + 120 * ((np.arange(tw) + 0.5) / tw) + 60 * ((np.arange(th) + 0.5)[:, None] / th)
        assert np.abs(found[..., 0] - want[2:-2, 2:-2]).max() <= 1.5


def test_homography_agrees_with_scikit_image_and_opencv() -> None:
    """By where they take points of the quad: near a vanishing line the numbers of a matrix themselves are of little
    worth.
    """
    draw = np.random.default_rng(11)
    for _ in range(200):
        a, b = (
            np.array([(0, 0), (100, 0), (100, 80), (0, 80)], np.float32)
            + draw.uniform(-20, 20, (4, 2)).astype(np.float32)
            for _ in "ab"
        )
        share = draw.dirichlet(np.ones(4), 20)  # points within a
        ours = projected(homography(a, b), share @ a)
        np.testing.assert_allclose(
            ours, ProjectiveTransform.from_estimate(a.astype(float), b.astype(float))(share @ a), atol=1e-9
        )
        theirs = cv2.getPerspectiveTransform(
            a, b
        )  # misses its own corners by up to 2e-5 here, where these two miss them by 2e-13
        np.testing.assert_allclose(ours, projected(theirs, share @ a), atol=1e-4)
    with pytest.raises(ValueError, match="on one line"):
        homography([(0, 0), (1, 1), (2, 2), (0, 3)], [(0, 0), (1, 0), (1, 1), (0, 1)])


def test_inverse_maps_agree_with_scikit_image() -> None:
    corners = ((14.0, 9.5), (302.0, 3.0), (311.0, 175.0), (6.0, 168.0))
    take, put = Rect(0, 0, 320, 180), Rect(0, 0, 320, 180)
    u, v = inverse_maps(corners, take, put)
    reference = ProjectiveTransform.from_estimate(
        np.array(corners), np.array([(0, 0), (320, 0), (320, 180), (0, 180)], float)
    )
    for x, y in ((20, 15), (160, 90), (300, 160), (50, 150)):
        want = reference((x + 0.5, y + 0.5))[0] - 0.5
        assert (u[y, x], v[y, x]) == pytest.approx(tuple(want), abs=2e-3)


def _one(show: Show, region: Region, output: str) -> tuple[np.ndarray, np.ndarray]:
    show = with_region(show, region)
    plan = compile_output(show, show.output(output))
    canvas, raster = noise(2040, 4112), blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, canvas[step.take.cut()], raster)
    return canvas, raster


def test_a_copied_region_is_a_slice(show: Show) -> None:
    region = next(r for _, r in show.regions() if r.id == "meridian")
    canvas, raster = _one(show, region, "processor-a")
    assert (raster[:960] == canvas[1080:2040, 1096:3016]).all()
    assert (raster[960:, :, :3] == 0).all()


def test_a_region_half_off_canvas_and_raster_copies_what_there_is(show: Show) -> None:
    region = changed(
        next(r for _, r in show.regions() if r.id == "meridian"),
        x=-100,
        y=1500,
        landing=RectLanding(x=50, y=-20, w=1920, h=960),
    )
    canvas, raster = _one(show, region, "processor-a")
    assert (raster[0:520, 150:1920] == canvas[1520:2040, 0:1770]).all()
    assert (raster[520:, :, :3] == 0).all() and (raster[:, :150, :3] == 0).all()


def test_a_region_at_half_size_is_the_mean_of_blocks(show: Show) -> None:
    region = changed(
        next(r for _, r in show.regions() if r.id == "meridian"), landing=RectLanding(x=10, y=20, w=960, h=480)
    )
    canvas, raster = _one(show, region, "processor-a")
    blocks = canvas[1080:2040, 1096:3016].reshape(480, 2, 960, 2, 4).astype(float).mean((1, 3))
    assert np.abs(raster[20:500, 10:970] - blocks).max() <= 0.5


def test_a_quad_that_is_the_rectangle_is_the_copy(show: Show) -> None:
    region = changed(
        next(r for _, r in show.regions() if r.id == "meridian"),
        landing=QuadLanding(corners=((0, 0), (1920, 0), (1920, 960), (0, 960))),
    )
    canvas, raster = _one(show, region, "processor-a")
    assert np.abs(raster[:960].astype(int) - canvas[1080:2040, 1096:3016]).max() <= 1
    assert (raster[961:, :, :3] == 0).all()


def test_a_warped_pair_of_projectors_still_blends_to_one(show: Show) -> None:
    """Warp both projectors, then look at a white canvas through the true inverse of each warp: the light adds to 1."""
    corners = {
        "left": ((12.0, 8.0), (1900.0, 2.0), (1910.0, 1074.0), (5.0, 1070.0)),
        "right": ((6.0, 3.0), (1908.0, 11.0), (1901.0, 1068.0), (14.0, 1075.0)),
    }
    total = np.zeros((1080, 3600))
    here = show
    for side, quad in corners.items():
        here = with_region(here, changed(here.homes[f"horizon-{side}"][1], landing=QuadLanding(corners=quad)))
    for side, quad in corners.items():
        region = here.homes[f"horizon-{side}"][1]
        plan = compile_output(here, here.output(f"projector-{side}"))
        white, raster = np.full((1080, 1920, 4), 255, np.uint8), blank_raster(plan)
        lay_step(plan.steps[0], plan, white, raster)
        light = (raster[..., 0] / 255.0) ** 2.2
        to_raster = ProjectiveTransform.from_estimate(
            np.array([(0, 0), (1920, 0), (1920, 1080), (0, 1080)], float), np.array(quad)
        )
        y, x = np.mgrid[0:1080, 0:1920]
        at = to_raster(np.stack([x.ravel() + 0.5, y.ravel() + 0.5], 1)) - 0.5
        seen = cv2.remap(
            light.astype(np.float32),
            *(at[:, k].reshape(1080, 1920).astype(np.float32) for k in (0, 1)),
            cv2.INTER_LINEAR,
        )
        total[:, region.x - 256 : region.x - 256 + 1920] += seen
    assert np.abs(total[4:-4, 4:-4] - 1).max() < 0.01


@settings(max_examples=100)
@given(
    st.lists(
        st.builds(Rect, st.integers(0, 40), st.integers(0, 40), st.integers(0, 20), st.integers(0, 20)), max_size=8
    )
)
def test_gathered_rectangles_cover_all_and_never_overlap(rects: list[Rect]) -> None:
    done = gathered(rects)
    for rect in rects:
        assert rect.empty or any(d.holds(rect) for d in done)
    assert all(a.meet(b).empty for i, a in enumerate(done) for b in done[i + 1 :])
