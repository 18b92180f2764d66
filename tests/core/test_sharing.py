"""Light shared between pictures, lifted in black, weighted, masked and dithered."""

from __future__ import annotations

import itertools
import warnings

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.light import lining_up
from ushering_adze.core.light.blend import blend_weights, edge_weights, ramp
from ushering_adze.core.light.flatness import along, flatness_of
from ushering_adze.core.light.lining_up import NAMES, SHAPES, Look, moving_line, near_black, numbered_grid, shaped
from ushering_adze.core.light.measuring import Measured, fit_grid, matching
from ushering_adze.core.light.share import GRID, contrast_cost, shared_weights, shares_of
from ushering_adze.core.light.white import grid_light, kelvin_to_xy, mask_light, white_gains
from ushering_adze.core.picture.finish import DITHER, dithered, finish_of, run_finish
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.structured import PHASES, decode, from_gray, gray_code, series
from ushering_adze.core.show import Edge, Edges, LightGrid, Mask, White

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour


def outline(rect: Rect) -> np.ndarray:
    return np.array([[rect.x, rect.y], [rect.right, rect.y], [rect.right, rect.foot], [rect.x, rect.foot]], float)


def masks_of(rng: np.random.Generator, columns: int, rows: int) -> list[np.ndarray]:
    made = []
    y, x = np.mgrid[0 : rows * 60, 0 : columns * 80]
    for j in range(rows):
        for i in range(columns):
            left, right = i * 80 - rng.uniform(4, 24), (i + 1) * 80 + rng.uniform(4, 24)
            top, foot = j * 60 - rng.uniform(4, 16), (j + 1) * 60 + rng.uniform(4, 16)
            a, b = rng.uniform(-0.08, 0.08, 2)
            made.append(
                ((x + a * y > left) & (x + b * y < right) & (y + a * x > top) & (y + b * x < foot)).astype(np.uint8)
            )
    return made


@settings(max_examples=25, deadline=None)
@given(
    st.integers(1, 4),
    st.integers(1, 3),
    st.integers(0, 10_000),
    st.sampled_from(["power", "cosine", "straight"]),
    st.floats(0.5, 4),
)
def test_shares_add_to_one_wherever_any_picture_reaches(
    columns: int, rows: int, seed: int, curve: str, exponent: float
) -> None:
    """Raskar et al. 1999: the weights of all projectors add to 1 at every point of the screen, also where
    four overlap.
    """
    masks = masks_of(np.random.default_rng(seed), columns, rows)
    weights = shared_weights(masks, exponent, curve)  # type: ignore[arg-type]
    total = sum(w * m for w, m in zip(weights, masks, strict=True))
    reached = np.maximum.reduce(masks) > 0
    assert np.abs(total[reached] - 1).max() < 1e-5
    assert all((w >= 0).all() and (w <= 1 + 1e-6).all() for w in weights)
    single = np.sum(masks, axis=0) == 1
    assert all((w[single & (m > 0)] == 1).all() for w, m in zip(weights, masks, strict=True))


def test_shares_of_plain_rectangles_are_bourkes_ramps() -> None:
    rects = [Rect(0, 0, 240, 80), Rect(160, 0, 240, 80)]
    shares = shares_of(Rect(0, 0, 400, 80), rects, [outline(r) for r in rects], [None, None], [0, 0], 2.0)
    exact = blend_weights(rects, 2.0)
    middle = exact[0][40].reshape(-1, GRID).mean(1)
    assert np.abs(shares[0].weight[20, :120] - middle).max() < 2e-3, "the same curve, at points between pixels"
    assert (ramp([0.2, 0.7], 1, "cosine") + ramp([0.8, 0.3], 1, "cosine")).tolist() == pytest.approx([1, 1])


@settings(max_examples=20, deadline=None)
@given(st.integers(2, 3), st.integers(1, 2), st.floats(1e-4, 4e-3), st.integers(0, 99))
def test_blacks_come_to_the_level_of_the_most_overlapped(columns: int, rows: int, leak: float, seed: int) -> None:
    rects = [Rect(i * 200, j * 150, 260, 200) for j in range(rows) for i in range(columns)]
    face = Rect(0, 0, columns * 200 + 60, rows * 150 + 50)
    leaks = [(leak * k, leak, leak / 2) for k in np.random.default_rng(seed).uniform(0.8, 1.2, len(rects))]
    shares = shares_of(face, rects, [outline(r) for r in rects], leaks, [0.0] * len(rects))
    black = np.zeros((*shares[0].weight.shape, 3))
    for rect, own, share in zip(rects, leaks, shares, strict=True):
        part = np.s_[rect.y // GRID : rect.foot // GRID, rect.x // GRID : rect.right // GRID]
        assert share.lift is not None
        black[part] += np.array(own) + share.lift[part]
    assert np.abs(black / black.reshape(-1, 3).max(0) - 1).max() < 1e-4
    assert contrast_cost((leak, leak, leak), 2)[1] == pytest.approx(contrast_cost((leak, leak, leak), 2)[0] / 2)


@settings(max_examples=30, deadline=None)
@given(st.floats(1.6, 2.8), st.floats(0, 0.004), st.integers(0, 999))
def test_finished_light_is_the_light_that_was_meant(gamma: float, lift: float, seed: int) -> None:
    """Weighted and lifted codes, decoded by the display's own power, averaged over dither: what the formula in light
    says.
    """
    rng = np.random.default_rng(seed)
    weight = np.ones((64, 256), np.float32)
    weight[:, 128:] = np.repeat(np.linspace(1, 0.1, 32, dtype=np.float32), 4)
    lifts = np.full((64, 256, 3), lift, np.float32)
    lifts[:, 128:] = 0
    code = int(rng.integers(40, 256))
    raster = np.full((64, 256, 4), code, np.uint8)
    raster[..., 3] = 255
    finish = finish_of(weight, lifts, Rect(0, 0, 256, 64), gamma)
    assert finish is not None
    run_finish(finish, raster)
    mean = raster[..., 1].reshape(16, 4, 64, 4).mean((1, 3))
    left = ((lift + (1 - lift) * (code / 255) ** gamma) ** (1 / gamma)) * 255
    assert np.abs(mean[:, :31] - left).max() < 0.1
    right = (code * weight[0, 128:].astype(float) ** (1 / gamma)).reshape(32, 4).mean(1)
    assert np.abs(mean[:, 32:] - right).max() < 0.04
    assert (raster[..., 3] == 255).all()
    if code == 255 and lift > 0:
        assert (raster[:, :120, 1] == 255).all(), "the lift never clips white"


def test_a_ten_bit_ramp_through_a_blend_has_no_step_larger_than_a_code() -> None:
    """A ramp of 1024 steps, dithered to 8 bits, through the weights of an overlap, dithered again; means of 4 × 4
    pixels.
    """
    ten = np.repeat(np.arange(1024), 8)[None].repeat(16, 0).astype(np.float32)
    frame = np.dstack([dithered(ten * 255 / 1023)] * 3 + [np.full(ten.shape, 255, np.uint8)])
    weight = np.ones(ten.shape, np.float32)
    weight[:, 2000:6000] = ramp(np.concatenate([np.linspace(1, 0.2, 2000), np.linspace(0.2, 1, 2000)])).astype(
        np.float32
    )
    finish = finish_of(weight, None, Rect(0, 0, frame.shape[1], 16), 2.2)
    assert finish is not None
    run_finish(finish, frame)
    mean = frame[..., 1].reshape(4, 4, -1, 4).mean((1, 3))
    assert np.abs(np.diff(mean, axis=1)).max() <= 1.0
    meant = (ten * 255 / 1023 * weight ** (1 / 2.2))[0].reshape(-1, 4).mean(1)
    assert np.abs(mean - meant).max() < 0.75 and sorted(set(DITHER.ravel())) == pytest.approx(
        list((np.arange(16) + 0.5) / 16 - 0.5)
    )


def test_edges_by_hand_masks_and_grids() -> None:
    w = edge_weights(
        100, 40, Edges(left=Edge(width=30, start=10, exponent=1), bottom=Edge(width=20, curve="straight", gamma=2))
    )
    assert (w[:20, :10] == 0).all() and (w[:20, 30:] == 1).all()
    assert w[0, 20] == pytest.approx(0.525) and w[30, 50] == pytest.approx((9.5 / 20) ** 2)
    dark = Mask(points=((20, 10), (60, 10), (60, 30), (20, 30)), soft=8)
    light = mask_light([dark], 100, 40)
    assert light is not None and (light[:, :19] == 1).all() and light[20, 40] == 0 and 0 < light[20, 22] < 1
    kept = mask_light([dark.model_copy(update={"keep": True})], 100, 40)
    assert kept is not None and (kept[:, :19] == 0).all() and kept[20, 40] == 1
    assert mask_light([dark.model_copy(update={"on": False})], 100, 40) is None
    grid = LightGrid(columns=2, rows=2, red=(1.0, 0.5, 1.0, 0.5), green=(1.0,) * 4, blue=(0.2, 0.2, 0.6, 0.6))
    whole = grid_light(grid, 101, 51)
    assert whole[25, 50].tolist() == pytest.approx([0.4, 1.0, 0.75], abs=1e-3) and whole[50, 0, 0] == pytest.approx(0.6)
    with pytest.raises(ValueError, match="has 4 factors"):
        LightGrid(columns=2, rows=2, red=(1.0,), green=(1.0,) * 4, blue=(1.0,) * 4)


def test_whites_agree_with_colour_science() -> None:
    for kelvin in (1800, 2856, 4000, 5003, 6504, 9300, 15000):
        theirs = (
            colour.temperature.CCT_to_xy_CIE_D(kelvin)
            if kelvin >= 4000
            else colour.temperature.CCT_to_xy_Kang2002(kelvin)
        )
        assert np.abs(np.array(kelvin_to_xy(kelvin)) - theirs).max() < 2e-4
    space = colour.RGB_COLOURSPACES["ITU-R BT.709"]
    for x, y in ((0.3127, 0.3290), (0.3457, 0.3585), (0.285, 0.293)):
        rgb = space.matrix_XYZ_to_RGB @ colour.xy_to_XYZ((x, y))
        assert np.abs(np.array(white_gains(White(x=x, y=y))) - rgb / rgb.max()).max() < 1e-3
    with pytest.raises(ValueError, match="outside the display's colours"):
        white_gains(White(x=0.7, y=0.3))
    with pytest.raises(ValueError, match="no colour temperature"):
        kelvin_to_xy(900)


@settings(max_examples=40)
@given(st.lists(st.integers(0, 2**20), min_size=1, max_size=50))
def test_gray_code_there_and_back_and_one_bit_apart(values: list[int]) -> None:
    v = np.array(values)
    assert (from_gray(gray_code(v)) == v).all()
    assert all(bin(int(a ^ b)).count("1") == 1 for a, b in zip(gray_code(v), gray_code(v + 1), strict=True))


@pytest.mark.parametrize("gamma", [1.9, 2.2, 2.5])
def test_patterns_decode_to_a_fraction_of_a_pixel_whatever_the_projectors_gamma(gamma: float) -> None:
    named = {p.name: p.picture for p in series(200, 90)}
    rng = np.random.default_rng(3)

    def photo(name: str) -> np.ndarray:
        light = 0.01 + 0.8 * (named[name] / 255.0) ** gamma
        return (light * 0.6 + rng.normal(0, 0.0015, light.shape)).astype(np.float32)

    found = decode(photo, 200, 90)
    y, x = np.mgrid[0:90, 0:200] + 0.5
    assert found.sure.mean() > 0.99
    assert np.abs(found.x - x)[found.sure].max() < 0.35 and np.abs(found.y - y)[found.sure].mean() < 0.05
    assert len(named) == 2 + 2 * PHASES + 2 * (5 + 4)
    dark = decode(lambda name: np.full((90, 200), 0.003, np.float32), 200, 90)
    assert not dark.sure.any()


def test_measured_light_is_matched_to_the_weakest() -> None:
    places = np.random.default_rng(0).uniform((0, 0), (1920, 1080), (4000, 2))
    light = np.stack([1 - 0.1 * places[:, 0] / 1920, np.full(4000, 0.8), 0.9 + 0.1 * places[:, 1] / 1080], -1)
    grid = fit_grid(places, light, (1920, 1080))
    assert np.abs(grid[0, 0] - (1, 0.8, 0.9)).max() < 2e-3 and np.abs(grid[-1, -1] - (0.9, 0.8, 1.0)).max() < 2e-3
    found = matching([Measured(2.2, grid, np.array([4e-4] * 3)), Measured(2.1, grid * 0.9, np.array([5e-4] * 3))])
    for g, white in zip(found.grids, (grid, grid * 0.9), strict=True):
        levels = np.array(g.red).reshape(5, 7) * white[..., 0]
        assert levels.max() - levels.min() < 1e-4
    assert 0 < found.cost < 0.2 and found.blacks[1].leak[0] > found.blacks[0].leak[0]


@pytest.mark.parametrize("spacing", [4, 7, 15, 60])
def test_the_numbers_of_a_grid_never_lie_over_one_another(spacing: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """However close its lines are; each stands at the line that it names."""
    said: list[tuple[str, float, float, int]] = []
    monkeypatch.setattr(lining_up, "write", lambda p, text, x, y, size, *more: said.append((text, x, y, size)))
    numbered_grid(900, 700, Look(spacing), (1096, 1080))
    rows = [(y, size) for text, x, y, size in said if x == 454 and int(text) == 1080 + y - size - 2]
    assert len(rows) > 5 and all(below - y >= size for (y, size), (below, _) in itertools.pairwise(rows))
    columns = [(x, len(text) * size / 2) for text, x, y, size in said if y == 692 and int(text) == 1096 + x - 4]
    assert len(columns) > 5 and all(right - x >= wide for (x, wide), (right, _) in itertools.pairwise(columns))


def test_patterns_for_lining_up() -> None:
    for name in NAMES:
        if name not in ("overlaps", "line"):
            made = shaped(name, 320, 180, look=Look(40, 2, (10, 200, 30)))
            assert made.shape == (180, 320, 4) and (made[..., 3] == 255).all(), name
    hatch = SHAPES["hatch"](320, 180, look=Look(40, 2, (10, 200, 30)))  # type: ignore[call-arg]
    assert (hatch[3:37, [0, 1, 40, 41, 80], :3] == (10, 200, 30)).all() and (hatch[3:37, 42:78, :3] == 0).all()
    assert {tuple(v) for v in near_black(640, 360)[60:100, :, :3].reshape(-1, 3)} >= {(n, n, n) for n in range(16)}
    a, b = numbered_grid(300, 200, Look(50), (1096, 1080)), numbered_grid(300, 200, Look(50), (1046, 1080))
    assert (a[100:120, 4] != a[100:120, 5]).any() and np.array_equal(a[60:64, 4:300:50], b[60:64, 4:300:50]), (
        "a line at each multiple of 50"
    )
    assert not np.array_equal(moving_line(320, 180, 1.0), moving_line(320, 180, 1.04))
    with pytest.raises(ValueError, match="no pattern"):
        shaped("plaid", 10, 10)


def test_flatness_and_lines_across() -> None:
    light = np.full((80, 400), 100, np.float32)
    light[:, 200:240] = 110
    found = flatness_of(light, [Rect(192, 0, 56, 80)])
    assert found.overlaps is not None and found.screen.ripple == pytest.approx(10 / found.screen.mean, abs=0.01)
    assert found.overlaps.max == pytest.approx(110) and found.document()["screen"]["min"] == pytest.approx(100)
    line = along(light, (0, 40), (400, 40), 400)
    assert line[220] == pytest.approx(110) and line[100] == pytest.approx(100)
