"""Keys: mixes of a known foreground, alpha and screen colour give that alpha back."""

from __future__ import annotations

import numpy as np
import pytest

from ushering_adze.core.picture.key import (
    chroma_keyed,
    chroma_mask,
    colour_at,
    fill_keyed,
    luma_keyed,
    luma_of,
    mask_of,
)
from ushering_adze.core.picture.pictured import pictured
from ushering_adze.core.show import ChromaKey, FillKey, LumaKey, SourcePicture

GREEN, BLUE = (60, 168, 31), (190, 70, 30)
"""Screens as they are painted in studios, blue first (common practice, no source)."""


def hexed(bgr: tuple[int, int, int]) -> str:
    return "#{:02X}{:02X}{:02X}".format(*bgr[::-1])


def mixed(front: np.ndarray, alpha: np.ndarray, screen: tuple[int, int, int]) -> np.ndarray:
    """What a camera sees: ``a·f + (1 − a)·s`` (Porter and Duff 1984, *over*), in codes, opaque."""
    made = np.full((*alpha.shape, 4), 255, np.uint8)
    made[..., :3] = np.rint(alpha[..., None] * front + (1 - alpha[..., None]) * np.array(screen))
    return made


@pytest.mark.parametrize("screen", [GREEN, BLUE])
@pytest.mark.parametrize("grey", [20, 128, 240])
def test_a_grey_front_gives_its_alpha_and_its_picture_back(screen: tuple[int, int, int], grey: int) -> None:
    """For grey the solution is exact: Smith and Blinn, "Blue screen matting" (1996), section 4 (from memory)."""
    alpha = np.linspace(0, 1, 256)[None].repeat(8, 0)
    key = ChromaKey(colour=hexed(screen), tolerance=0, soft=1)
    seen = mixed(np.array([grey] * 3), alpha, screen)
    assert np.abs(chroma_mask(seen, key).astype(float) - alpha * 255).max() <= 2.5
    made = chroma_keyed(seen, key)
    assert np.abs(made[..., :3].astype(float) - alpha[..., None] * grey).max() <= 4, "as if filmed on nothing"
    assert (made[..., :3] <= made[..., 3:]).all(), "premultiplied"


@pytest.mark.parametrize("screen", [GREEN, BLUE])
@pytest.mark.parametrize("front", [(40, 60, 200), (200, 190, 210), (30, 40, 50), (90, 130, 190), (20, 220, 230)])
def test_flat_parts_are_wholly_there_or_gone(front: tuple[int, int, int], screen: tuple[int, int, int]) -> None:
    alpha = np.zeros((40, 60))
    alpha[:, 30:] = 1
    key = ChromaKey(colour=hexed(screen), tolerance=0.08, soft=0.5)
    made = chroma_keyed(mixed(np.array(front), alpha, screen), key)
    assert made[:, :30].max() <= 2 and made[:, 30:, 3].min() >= 253
    others = sorted(set(range(3)) - {int(np.argmax(screen))})
    assert np.abs(made[:, 30:, others].astype(int) - np.array(front)[others]).max() <= 2, "its other colours stay"


def test_over_another_ground_no_rim_of_the_screen_is_left() -> None:
    alpha = np.clip((np.arange(200) - 90) / 20, 0, 1)[None].repeat(10, 0)
    seen = mixed(np.array([150, 150, 150]), alpha, GREEN)
    made = chroma_keyed(seen, ChromaKey(colour=hexed(GREEN), tolerance=0, soft=1))
    over = made[..., :3] + (1 - made[..., 3:] / 255) * np.array([40, 0, 90])
    true = alpha[..., None] * 150 + (1 - alpha[..., None]) * np.array([40, 0, 90])
    assert np.abs(over - true).max() <= 4
    left = chroma_keyed(seen, ChromaKey(colour=hexed(GREEN), tolerance=0, soft=1, despill=0))
    rim = left[..., :3] + (1 - left[..., 3:] / 255) * np.array([40, 0, 90])
    assert np.abs(rim - true).max() > 15, "without despill it is seen"


def test_choke_narrows_and_widens_by_pixels() -> None:
    alpha = np.zeros((60, 60))
    alpha[20:40, 20:40] = 1
    seen = mixed(np.array([150, 150, 150]), alpha, GREEN)
    for choke in (-3, 0, 4):
        mask = chroma_mask(seen, ChromaKey(colour=hexed(GREEN), tolerance=0, soft=1, choke=choke))
        assert (mask > 128).sum() == (20 - 2 * choke) ** 2


def test_brightness_keeps_a_range_with_soft_ends() -> None:
    steps = np.repeat(np.arange(256, dtype=np.uint8), 4).reshape(1, 256, 4)
    steps[..., 3] = 255
    kept = luma_keyed(steps, LumaKey(low=100 / 255, high=1.0, soft=0))[0, :, 3]
    assert (kept[:100] == 0).all() and (kept[100:] == 255).all()
    soft = luma_keyed(steps, LumaKey(low=0.5, soft=0.2))[0, :, 3].astype(float)
    want = np.clip((np.arange(256) / 255 - 0.5) / 0.2 + 0.5, 0, 1) * 255
    assert np.abs(soft - want).max() <= 1
    band = luma_keyed(steps, LumaKey(low=0.25, high=0.75, soft=0))[0, :, 3]
    assert (band[64:191] == 255).all() and band[:64].max() == 0 == band[192:].max()
    turned = luma_keyed(steps, LumaKey(low=0.25, high=0.75, soft=0, turned=True))[0, :, 3]
    assert (turned.astype(int) + band == 255).all()
    clear = steps // 2
    assert (luma_keyed(clear, LumaKey(low=100 / 255, soft=0))[0, 110:, 3] == 127).all(), "judged by its own colour"


@pytest.mark.parametrize("shaped", [False, True])
def test_fill_and_key_are_the_formula_bit_for_bit(shaped: bool) -> None:
    """``α = k``, ``p = round(f·α / 255)`` (common practice, no source), or the fill as it is, if it is shaped."""
    rng = np.random.default_rng(4)
    fill = rng.integers(0, 256, (50, 70, 4), dtype=np.uint8)
    grey = rng.integers(0, 256, (50, 70), dtype=np.uint8)
    key = np.dstack([grey, grey, grey, np.full_like(grey, 255)])
    if shaped:
        fill = np.minimum(fill, grey[..., None])
    made = fill_keyed(fill, key, FillKey(source="k", shaped=shaped))
    want = fill[..., :3] if shaped else np.rint(fill[..., :3].astype(float) * grey[..., None] / 255)
    assert np.array_equal(made[..., 3], grey) and np.array_equal(made[..., :3], want)
    turned = fill_keyed(fill, key, FillKey(source="k", turned=True))
    assert np.array_equal(turned[..., 3], 255 - grey)
    by_alpha = fill_keyed(fill, np.dstack([key[..., :3] // 2, grey]), FillKey(source="k", of="alpha"))
    assert np.array_equal(by_alpha[..., 3], grey)
    assert fill_keyed(fill, key[:25, :35], FillKey(source="k")).shape == fill.shape, "brought to its size"
    assert np.array_equal(luma_of(key), grey), "grey is its own luma"


def test_as_part_of_a_sources_picture() -> None:
    green = mixed(np.array([150, 150, 150]), np.eye(40), GREEN)
    cut = SourcePicture(left=0.5, flip="left-right", key=ChromaKey(colour=hexed(GREEN)))
    made = pictured(green, cut)
    assert made.shape == (40, 20, 4) and made[30, 9, 3] == 255 and made[0, 0, 3] < 3
    mask = pictured(green, cut.model_copy(update={"mask": True}))
    assert np.array_equal(mask, mask_of(made)) and (mask[..., 3] == 255).all()
    key = np.zeros((40, 40, 4), np.uint8)
    key[:, :20] = 255
    filled = pictured(green, SourcePicture(right=0.25, key=FillKey(source="k")), key)
    assert filled.shape == (40, 30, 4) and filled[5, 19, 3] == 255 and filled[5, 20, 3] == 0, "cut alike"
    assert pictured(green, SourcePicture(key=FillKey(source="k"))).max() == 0, "no key yet: nothing is seen"
    assert colour_at(green, cut, 0.9, 0.1) == hexed(GREEN)
