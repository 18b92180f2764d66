"""Signal and picture settings on the real rasters."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.light.adjust import LUMA, adjusted, adjustment
from ushering_adze.core.show import PictureSettings, Show, SignalSettings
from ushering_adze.core.show.rigging import with_field, with_item
from ushering_adze.engine.offline import output_pictures, patterned
from ushering_adze.engine.renderer import Renderer

GAINS, UNITS = st.floats(0, 2), st.floats(-0.3, 0.3)


def plainly(codes: np.ndarray, p: PictureSettings, limited: bool) -> np.ndarray:
    """The settings one after another, in floating point, as the document describes them."""
    rgb = codes[..., 2::-1].astype(float) / 255
    luma = (rgb * LUMA).sum(-1, keepdims=True)
    rgb = luma + (rgb - luma) * p.saturation
    rgb = (rgb - 0.5) * p.contrast + 0.5 + p.brightness
    rgb = rgb * p.gain + p.offset
    if limited:
        rgb = (16 + 219 * rgb) / 255
    return np.clip(rgb * 255, 0, 255)


@settings(max_examples=60)
@given(
    GAINS,
    GAINS,
    UNITS,
    st.tuples(GAINS, GAINS, GAINS),
    st.tuples(UNITS, UNITS, UNITS),
    st.booleans(),
    st.integers(0, 99),
)
def test_adjustments_are_what_they_say(
    saturation: float,
    contrast: float,
    brightness: float,
    gain: tuple[float, float, float],
    offset: tuple[float, float, float],
    limited: bool,
    seed: int,
) -> None:
    p = PictureSettings(saturation=saturation, contrast=contrast, brightness=brightness, gain=gain, offset=offset)
    codes = np.random.default_rng(seed).integers(0, 256, (16, 16, 4), dtype=np.uint8)
    matrix = adjustment(p, SignalSettings(range="limited" if limited else "full"))
    made = codes if matrix is None else adjusted(codes, matrix)
    assert np.abs(made[..., 2::-1] - plainly(codes, p, limited)).max() <= 0.51
    assert (made[..., 3] == codes[..., 3]).all()


def test_luma_and_limited_range_agree_with_colour_science() -> None:
    import colour

    assert next(iter(colour.WEIGHTS_YCBCR["ITU-R BT.709"][[0, 1, 1]])) == pytest.approx(LUMA[0])
    assert colour.WEIGHTS_YCBCR["ITU-R BT.709"][1] == pytest.approx(LUMA[2])
    matrix = adjustment(PictureSettings(), SignalSettings(range="limited"))
    assert matrix is not None
    grey = np.dstack([np.arange(256, dtype=np.uint8)] * 4)
    low, high = colour.models.rgb.ycbcr.ranges_YCbCr(8, is_legal=True, is_int=True)[:2]
    made = adjusted(grey, matrix)[0, :, 0]
    assert (made[0], made[255]) == (low, high) == (16, 235)
    assert adjustment(PictureSettings(), SignalSettings(range="limited", encoding="422")) is None, (
        "YCbCr is limited by its own wire"
    )


def _with(show: Show, field: str, value: object) -> Show:
    return with_item(show, "outputs", with_field(show.output("processor-a"), field, value))  # type: ignore[arg-type]


def test_settings_act_on_the_raster_that_is_sent_and_nowhere_else(show: Show) -> None:
    plain = {k: v.copy() for k, v in output_pictures(patterned(show, "bars")).items()}
    a = plain["processor-a"]
    for field, value, wanted in (
        ("picture.flip", "left-right", a[:, ::-1]),
        ("picture.flip", "top-bottom", a[::-1]),
        ("picture.flip", "both", a[::-1, ::-1]),
    ):
        made = output_pictures(patterned(_with(show, field, value), "bars"))
        assert (made["processor-a"] == wanted).all()
        assert all((made[k] == plain[k]).all() for k in plain if k != "processor-a")
    dark = output_pictures(patterned(_with(show, "picture.gain", (0.5, 1.0, 0.0)), "bars"))["processor-a"].astype(int)
    assert (
        (dark[..., 0] == 0).all()
        and (dark[..., 1] == a[..., 1]).all()
        and np.abs(dark[..., 2] - a[..., 2] / 2).max() <= 0.5
    )
    limited = output_pictures(patterned(_with(show, "signal.range", "limited"), "black"))["processor-a"]
    assert (limited[..., :3] == 16).all(), "also the rows that no region feeds"
    for field, value in (
        ("signal.bits", 10),
        ("signal.encoding", "422"),
        ("signal.picture_only", True),
        ("signal.level", "B"),
    ):
        assert (output_pictures(patterned(_with(show, field, value), "bars"))["processor-a"] == a).all(), "wire only"


def test_an_adjustment_does_not_add_up_from_frame_to_frame(show: Show) -> None:
    bright = _with(_with(show, "picture.offset", (0.1, 0.1, 0.1)), "picture.flip", "left-right")
    renderer = Renderer(bright, whole=True)
    first = None
    for _ in range(8):
        renderer.draw_pattern("ramp")
        now = renderer.outputs["processor-a"].pixels.copy()
        first = now if first is None else first
        assert (now == first).all()
    renderer.set_show(show)
    renderer.draw_pattern("ramp")
    assert (renderer.outputs["processor-a"].pixels != first).any(), "an edit acts at once"
