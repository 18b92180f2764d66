"""How far sound is from its picture, found of flashes and beeps as a camera has them, with noise and a room."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.sound.in_step import beeps_in, flashes_in, in_step
from ushering_adze.core.sound.levels import RATE, Sound
from ushering_adze.core.sound.patterns import BEEP, pattern_sound

SECONDS = 4.0


def camera(rate: float, phase: float, shutter: float, noise: int, seed: int = 0) -> tuple[list[float], list[float]]:
    """Stamps and brightness of a camera's pictures of a flash: each is of the light while its shutter is open."""
    rng = np.random.default_rng(seed)
    stamps = np.arange(round(SECONDS * rate)) / rate + phase
    fine = (np.arange(64) + 0.5) / 64
    light = [((t + fine * shutter / rate) % 1.0 < BEEP).mean() for t in stamps]
    return stamps.tolist(), (30 + 120 * np.array(light) + rng.uniform(-noise, noise, len(stamps))).tolist()


def room(late: float, seed: int, level: float = -20.0, noise: float = 0.004) -> Sound:
    """The beeps, late by so many seconds, with noise and an echo that dies away in a third of a second."""
    rng, count = np.random.default_rng(seed), round(SECONDS * RATE)
    beeps = pattern_sound("beep", -round(late * RATE), count, level)
    tail = rng.normal(0, 1, RATE // 3) * 10 ** (-3 * np.arange(RATE // 3) / (RATE // 3)) * 0.004
    tail[0] = 1.0
    size = 1 << (count + len(tail)).bit_length()
    heard = np.fft.irfft(np.fft.rfft(beeps[:, 0], size) * np.fft.rfft(tail, size), size)[:count]
    return np.asarray((heard + rng.normal(0, noise, count))[:, None].repeat(2, 1), np.float32)


@given(
    st.floats(-0.2, 0.4),
    st.sampled_from((24.0, 25.0, 30000 / 1001, 50.0, 60.0)),
    st.floats(0, 0.04),
    st.floats(0.2, 1.0),
    st.integers(0, 99),
)
@settings(max_examples=60, deadline=None)
def test_it_is_found_to_half_a_picture(late: float, rate: float, phase: float, shutter: float, seed: int) -> None:
    found = in_step(flashes_in(*camera(rate, phase, shutter, 3, seed)), beeps_in(room(late, seed), 0.0))
    assert found is not None and found.flashes >= 2
    assert abs(found.seconds - late) < 0.75 / rate + 0.004, "half a picture, and what the shutter leaves out"


def test_a_flash_before_which_a_picture_is_missing_is_left_out() -> None:
    stamps, light = camera(25.0, 0.5, 1.0, 3)
    whole = flashes_in(stamps, light)
    first = next(n for n, at in enumerate(light) if at > 90 and n > 0)
    less = [s[:first] + s[first + 1 :] for s in (stamps, light)]
    assert len(whole) >= 3 and flashes_in(*less) == pytest.approx(whole[1:], abs=0.001)
    between = [s[: first - 9] + s[first - 8 :] for s in (stamps, light)]
    assert flashes_in(*between) == pytest.approx(whole, abs=0.001), "one that is missing elsewhere does no harm"


def test_beeps_are_found_to_a_few_milliseconds() -> None:
    for late in (0.0, 0.013, 0.37):
        for at in beeps_in(room(late, 3), 10.0):
            assert (at - 10.0) % 1.0 == pytest.approx(late, abs=0.005)
    assert len(beeps_in(room(0.2, 1), 0.0)) == 4


def test_what_is_no_flash_and_no_beep_says_nothing() -> None:
    stamps, light = camera(25.0, 0.0, 1.0, 3)
    rng = np.random.default_rng(1)
    noise = rng.normal(0, 0.05, (2 * RATE, 2)).astype(np.float32)
    assert flashes_in(stamps, rng.uniform(20, 30, len(stamps)).tolist()) == [], "a still scene"
    assert flashes_in(stamps, [30.0] * 50 + [200.0] * 50) == [], "a scene that becomes bright"
    assert flashes_in([], []) == [] and beeps_in(noise, 0.0) == [] and beeps_in(noise[:10], 0.0) == []
    assert in_step(flashes_in(stamps, light), []) is None and in_step([], [0.5, 1.5]) is None
    assert in_step([1.0], [1.1]) is None, "one is none"
    found = in_step([1.0, 2.0, 3.0], [1.1, 2.1, 3.1])
    assert found is not None and found.words == "the sound comes 100 ms after its picture (± 0 ms, 3 flashes)"
    early = in_step([1.0, 2.0], [0.95, 1.95])
    assert early is not None and "50 ms before its picture" in early.words
