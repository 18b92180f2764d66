"""A source's picture as it is shown everywhere, against the same arithmetic in floating point on straight alpha."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ushering_adze.core.light.adjust import LUMA
from ushering_adze.core.picture.pictured import pictured
from ushering_adze.core.show import SourcePicture

some = st.builds(
    SourcePicture,
    brightness=st.floats(-0.5, 0.5),
    contrast=st.floats(0.2, 2),
    saturation=st.floats(0, 2),
    gain=st.tuples(*[st.floats(0.2, 2)] * 3),
    offset=st.tuples(*[st.floats(-0.3, 0.3)] * 3),
    flip=st.sampled_from(["none", "left-right", "top-bottom", "both"]),
    left=st.sampled_from([0, 0.25]),
    bottom=st.sampled_from([0, 0.5]),
)


@settings(max_examples=80, deadline=None)
@given(some, st.booleans(), st.integers(0, 1000))
def test_adjusted_codes_are_those_of_the_formula(how: SourcePicture, clear: bool, seed: int) -> None:
    rng = np.random.default_rng(seed)
    alpha = rng.choice([0, 64, 200, 255], (8, 12, 1)) if clear else np.full((8, 12, 1), 255)
    straight = rng.random((8, 12, 3))
    pixels = np.concatenate([np.round(straight * alpha), alpha], -1).astype(np.uint8)
    found = pictured(pixels, how).astype(float)
    part = pixels.astype(float)[: 8 - round(how.bottom * 8), round(how.left * 12) :]
    part = part[::-1] if how.flip in ("top-bottom", "both") else part
    part = part[:, ::-1] if how.flip in ("left-right", "both") else part
    a = part[..., 3:] / 255
    rgb = np.divide(part[..., 2::-1], 255 * a, out=np.zeros(part[..., :3].shape), where=a > 0)
    luma = (rgb * LUMA).sum(-1, keepdims=True)
    rgb = ((luma + (rgb - luma) * how.saturation) - 0.5) * how.contrast + 0.5 + how.brightness
    rgb = (rgb * how.gain + how.offset).clip(0, 1)
    assert found.shape == part.shape and np.array_equal(found[..., 3], part[..., 3])
    assert np.abs(found[..., 2::-1] - rgb * a * 255).max() <= 1.01


def test_nothing_to_do_is_nothing_done() -> None:
    pixels = np.zeros((4, 4, 4), np.uint8)
    assert pictured(pixels, SourcePicture()) is pixels
    assert pictured(pixels, SourcePicture(left=0.999)).shape == (4, 1, 4)
    with pytest.raises(ValidationError, match="the cut leaves nothing"):
        SourcePicture(left=0.6, right=0.4)
