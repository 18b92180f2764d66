"""Blending, transfer functions and patterns against published formulas and colour-science."""

from __future__ import annotations

import colour
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.light import transfer
from ushering_adze.core.light.blend import blend_weights, ramp
from ushering_adze.core.light.patterns import BARS_75, PATTERNS, Label, pattern
from ushering_adze.core.plane.rect import Rect


@given(x=st.floats(0, 1), p=st.floats(0.5, 6))
def test_ramp_is_the_published_curve(x: float, p: float) -> None:
    # P. Bourke, "Edge blending using commodity projectors" (2004), formula from memory.
    published = 0.5 * (2 * x) ** p if x < 0.5 else 1 - 0.5 * (2 * (1 - x)) ** p
    assert float(ramp(x, p)) == pytest.approx(published, abs=1e-12)
    other = 1 - x
    here = 1 - other  # what adds to one with the other exactly: so small an x that it is lost beside 1 counts as 0
    assert float(ramp(here, p) + ramp(other, p)) == pytest.approx(1, abs=1e-9)


def test_straight_ramps_are_normalised_distances_to_the_edge() -> None:
    # Raskar et al. 1999 (from memory): each weight is the distance to the own edge over the sum of such distances.
    left, right = blend_weights([Rect(0, 0, 1920, 4), Rect(1680, 0, 1920, 4)], exponent=1)
    x = np.arange(1680, 1920) + 0.5
    to_left_edge, to_right_edge = x - 1680, 1920 - x
    np.testing.assert_allclose(left[0, 1680:], to_right_edge / (to_left_edge + to_right_edge), atol=1e-6)
    np.testing.assert_allclose(right[0, :240], to_left_edge / (to_left_edge + to_right_edge), atol=1e-6)
    assert (left[:, :1680] == 1).all() and (right[:, 240:] == 1).all()


@settings(max_examples=60, deadline=None)
@given(columns=st.integers(1, 3), rows=st.integers(1, 3), w=st.integers(12, 40), h=st.integers(12, 40), data=st.data())
def test_weights_add_to_one_at_every_point_of_any_grid(
    columns: int, rows: int, w: int, h: int, data: st.DataObject
) -> None:
    across, down = data.draw(st.integers(0, w // 2 - 1)), data.draw(st.integers(0, h // 2 - 1))
    rects = [Rect(c * (w - across), r * (h - down), w, h) for r in range(rows) for c in range(columns)]
    total = np.zeros((rects[-1].foot, rects[-1].right))
    for rect, weight in zip(rects, blend_weights(rects), strict=True):
        assert weight.min() >= 0 and weight.max() <= 1 + 1e-6
        total[rect.cut()] += weight
    np.testing.assert_allclose(total, 1, atol=2e-6)


def test_transfer_functions_agree_with_colour_science() -> None:
    v = np.linspace(0, 1, 1001)
    # The first uses the constants of IEC 61966-2-1 as printed (0.04045), so do we.
    np.testing.assert_allclose(transfer.srgb_to_linear(v), colour.models.eotf_sRGB(v), atol=1e-6)
    np.testing.assert_allclose(transfer.linear_to_srgb(v), colour.models.eotf_inverse_sRGB(v), atol=1e-6)
    np.testing.assert_allclose(transfer.linear_to_bt709(v), colour.models.oetf_BT709(v), atol=1e-6)
    np.testing.assert_allclose(transfer.bt709_to_linear(v), colour.models.oetf_inverse_BT709(v), atol=1e-6)
    np.testing.assert_allclose(transfer.gamma_to_linear(v, 2.2), colour.models.gamma_function(v, 2.2), atol=1e-9)
    np.testing.assert_allclose(transfer.code_light_table(2.4), (np.arange(256) / 255) ** 2.4, atol=1e-6)


def test_bars_fall_in_luminance_and_carry_75_per_cent() -> None:
    picture = pattern("bars", 1400, 100)
    rgb = picture[50, 100::200, 2::-1].astype(float) / 255
    # SMPTE RP 219-1 / BT.471 order (from memory): grey, yellow, cyan, green, magenta, red, blue; luma by
    # colour-science.
    luma = colour.RGB_to_YCbCr(rgb, K=colour.WEIGHTS_YCBCR["ITU-R BT.709"], in_legal=False, out_legal=False)[:, 0]
    assert len(luma) == len(BARS_75) and (np.diff(luma) < 0).all()
    assert set(np.unique(picture[..., :3])) == {0, 191}
    legal = colour.RGB_to_YCbCr(
        rgb, K=colour.WEIGHTS_YCBCR["ITU-R BT.709"], in_legal=False, out_legal=True, out_bits=8, out_int=True
    )
    assert legal[0].tolist() == [180, 128, 128]  # 75 % grey in 8-bit limited range: 16 + 0.75 × 219


@pytest.mark.parametrize("name", PATTERNS)
@pytest.mark.parametrize("size", [(1920, 1080), (256, 768), (33, 7), (1, 1)])
def test_every_pattern_at_every_size_is_opaque_and_exact(name: str, size: tuple[int, int]) -> None:
    picture = pattern(name, *size, Label("East mast", 60, "note"))
    assert picture.shape == (size[1], size[0], 4) and picture.dtype == np.uint8 and (picture[..., 3] == 255).all()


def test_identify_has_a_frame_of_exactly_one_pixel() -> None:
    picture = pattern("identify", 640, 360, Label("Horizon", 60))
    edge = np.ones((360, 640), bool)
    edge[1:-1, 1:-1] = False
    assert (picture[edge] == 255).all()
    assert (picture[1:-1, 1:-1][[0, -1], 200:400, :3] != 255).any(-1).all()


def test_grid_lines_stand_where_their_numbers_say() -> None:
    picture = pattern("grid", 1920, 1080)
    row = picture[31, :, 2].astype(int)
    lines = [x for x in range(1, 1919) if row[x] > 90 and row[x - 1] < 60 and row[x + 1] < 60]
    assert lines == [x for x in range(60, 1919, 60) if x != 960]  # the centre line stands on 959 and 960
    assert (picture[:, [959, 960], :3] == 255).all()


def test_the_circle_is_round() -> None:
    picture = pattern("grid", 1300, 1300)[..., :3].astype(int)
    y, x = np.mgrid[0:1300, 0:1300]
    away = np.abs(np.hypot(x - 649.5, y - 649.5) - 648)
    lit = (picture > 200).all(-1)
    assert lit[away < 0.15].mean() > 0.97, "on the line"
    off = lit & (away > 3) & (away < 40)
    assert off.mean() < 0.002, "and nowhere beside it, but for lines and numbers"


def test_ramp_uses_every_code() -> None:
    assert set(np.unique(pattern("ramp", 1920, 20)[..., 0])) == set(range(256))


def test_an_unknown_pattern_is_named() -> None:
    with pytest.raises(ValueError, match='no pattern "stripes"; there are: white'):
        pattern("stripes", 10, 10)
