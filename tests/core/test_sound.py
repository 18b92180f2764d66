"""Sound as numbers: loudness and peaks by published signals and other programs, mixing without clicks, in step."""

from __future__ import annotations

import math
import re
import shutil
import subprocess
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pyloudnorm
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.io import wavfile
from scipy.signal import butter, resample_poly, sosfilt

from ushering_adze.core.sound.ballistics import PART, Correlation, Pointer
from ushering_adze.core.sound.delays import Delays
from ushering_adze.core.sound.dialogue import dialogue_level
from ushering_adze.core.sound.filtering import Cascade, high_pass
from ushering_adze.core.sound.following import HURRY, LEAP, Follower, Reader, read_between
from ushering_adze.core.sound.levels import RAMP, RATE, SILENT, Sound, decibels, gain_of, silence, to_two
from ushering_adze.core.sound.limiting import LATE, Limiter
from ushering_adze.core.sound.loudness import HIGH_PASS, SHELF, LoudnessMeter
from ushering_adze.core.sound.metering import Meters
from ushering_adze.core.sound.mixing import Duck, Ducking, Finish, Mixer
from ushering_adze.core.sound.patterns import BEEP, EVERY, flashes, pattern_sound
from ushering_adze.core.sound.peaks import TruePeak

BLOCK = 1024


def sine(seconds: float, level: float, hertz: float = 1000.0, phase: float = 0.0, channels: int = 2) -> Sound:
    t = np.arange(round(seconds * RATE)) / RATE
    one = gain_of(level) * np.sin(2 * np.pi * hertz * t + phase)
    return np.repeat(one.astype(np.float32)[:, None], channels, axis=1)


def heard(sound: Sound) -> LoudnessMeter:
    meter = LoudnessMeter(sound.shape[1])
    for n in range(0, len(sound), BLOCK):
        meter.hear(sound[n : n + BLOCK])
    return meter


def one_after_another(*parts: tuple[float, float]) -> Sound:
    return np.concatenate([sine(seconds, level) for level, seconds in parts])


# EBU Tech 3341, table 1 (from memory): signals and what a meter must say, each to 0.1 LU.
LOUD = [
    (one_after_another((-23, 20)), -23.0),
    (one_after_another((-33, 20)), -33.0),
    (one_after_another((-36, 10), (-23, 60), (-36, 10)), -23.0),
    (one_after_another((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)), -23.0),
    (one_after_another((-26, 20), (-20, 20.1), (-26, 20)), -23.0),
]


@pytest.mark.parametrize(("sound", "wanted"), LOUD, ids=["1", "2", "3", "4", "5"])
def test_the_loudness_of_published_signals(sound: Sound, wanted: float) -> None:
    told = heard(sound).now
    assert told.integrated == pytest.approx(wanted, abs=0.1)


def test_surround_counts_as_published() -> None:
    # EBU Tech 3341, signal 6 (from memory): L and R −28, C −24, Ls and Rs −30 dBFS make −23 LUFS.
    levels = (-28, -28, -24, SILENT, -30, -30)
    sound = np.concatenate([sine(20, level, channels=1) for level in levels], axis=1)
    assert heard(sound).now.integrated == pytest.approx(-23.0, abs=0.1)


def test_short_and_momentary_loudness_stand_still_where_they_should() -> None:
    # EBU Tech 3341, signals 9 and 12 (from memory).
    meter, told = LoudnessMeter(), []
    sound = np.concatenate([one_after_another((-20, 1.34), (-30, 1.66))] * 5)
    for n in range(0, len(sound), RATE // 10):
        meter.hear(sound[n : n + RATE // 10])
        if n >= 3 * RATE:
            told.append(meter.now.short)
    assert max(told) == pytest.approx(-23.0, abs=0.1) and min(told) == pytest.approx(-23.0, abs=0.1)
    meter, told = LoudnessMeter(), []
    sound = np.concatenate([one_after_another((-20, 0.18), (-30, 0.22))] * 25)
    for n in range(0, len(sound), RATE // 10):
        meter.hear(sound[n : n + RATE // 10])
        if n >= RATE:
            told.append(meter.now.momentary)
    assert max(told) == pytest.approx(-23.0, abs=0.1) and min(told) == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("parts", "wanted"),
    [
        (((-20, 20), (-30, 20)), 10.0),
        (((-20, 20), (-15, 20)), 5.0),
        (((-40, 20), (-20, 20)), 20.0),
        (((-50, 20), (-35, 20), (-20, 20), (-35, 20), (-50, 20)), 15.0),
    ],
)
def test_the_range_of_published_signals(parts: tuple[tuple[float, float], ...], wanted: float) -> None:
    # EBU Tech 3342, table 1 (from memory): to 1 LU.
    assert heard(one_after_another(*parts)).now.range == pytest.approx(wanted, abs=1.0)


def test_another_library_and_another_program_hear_the_same(tmp_path: Path) -> None:
    rng = np.random.default_rng(7)
    t = np.arange(30 * RATE) / RATE
    shape = (0.15 + 0.1 * np.sin(2 * np.pi * t / 11) + 0.25 * (t % 7 < 2))[:, None]
    sound = np.asarray(np.cumsum(rng.normal(size=(30 * RATE, 2)), axis=0), np.float64)
    sound -= np.stack([np.convolve(c, np.ones(4800) / 4800, "same") for c in sound.T], axis=1)
    sound = (sound / np.abs(sound).max() * shape).astype(np.float32)
    told = heard(sound).now
    assert told.integrated == pytest.approx(
        pyloudnorm.Meter(RATE).integrated_loudness(sound.astype(np.float64)), abs=0.1
    )
    if shutil.which("ffmpeg") is None:
        pytest.skip("the other library was heard; FFmpeg's program is not here")
    path = tmp_path / "heard.wav"
    wavfile.write(path, RATE, sound)
    said = subprocess.run(
        ["ffmpeg", "-hide_banner", "-nostats", "-i", str(path), "-af", "ebur128=peak=true", "-f", "null", "-"],
        capture_output=True,
        text=True,
        check=True,
    ).stderr.rpartition("Summary:")[2]
    numbers = {k: float(v) for k, v in re.findall(r"(I|LRA|Peak):\s+(-?[\d.]+)", said)}
    assert told.integrated == pytest.approx(numbers["I"], abs=0.1)
    assert told.range == pytest.approx(numbers["LRA"], abs=0.5)
    assert decibels(float(TruePeak().hear(sound).max())) == pytest.approx(numbers["Peak"], abs=0.3)


@pytest.mark.parametrize(
    ("hertz", "phase", "level", "wanted"),
    [
        (RATE / 4, 0.0, -6.02, -6.0),
        (RATE / 4, 45.0, -6.02, -6.0),
        (RATE / 6, 60.0, -6.02, -6.0),
        (RATE / 8, 67.5, -6.02, -6.0),
        (RATE / 4, 45.0, 2.98, 3.0),
    ],
)
def test_the_true_peaks_of_published_signals(hertz: float, phase: float, level: float, wanted: float) -> None:
    # EBU Tech 3341, signals 15 to 19 (from memory): +0.2, −0.4 dB.
    sound = sine(1, level, hertz, math.radians(phase))
    sound[: RATE // 100] *= np.linspace(0, 1, RATE // 100, dtype=np.float32)[:, None]
    told = decibels(float(TruePeak().hear(sound).max()))
    assert wanted - 0.4 <= told <= wanted + 0.2


@pytest.mark.parametrize(
    ("scale", "milliseconds", "wanted", "within"),
    [
        ("ppm1", 10, -1.0, 0.5),
        ("ppm1", 5, -2.0, 1.0),
        ("ppm1", 3, -4.0, 1.0),
        ("ppm2", 10, -2.5, 0.5),
        ("ppm2", 5, -4.0, 0.75),
        ("ppm2", 1.5, -9.0, 1.0),
    ],
)
def test_pointers_read_bursts_as_the_standard_says(
    scale: str, milliseconds: float, wanted: float, within: float
) -> None:
    # IEC 60268-10, tables 1 and 2 (from memory): bursts of 5 kHz.
    pointer, most = Pointer(scale, 1), 0.0  # type: ignore[arg-type]
    n = round(milliseconds * RATE / 1000)
    burst = np.zeros((n + RATE // 20, 1), np.float32)
    burst[:n] = sine(1, 0.0, 5000, channels=1)[:n]
    for k in range(0, len(burst), PART):
        pointer.hear(burst[k : k + PART])
        most = max(most, float(pointer.at[0]))
    assert decibels(most) == pytest.approx(wanted, abs=within)


@pytest.mark.parametrize(("scale", "fall", "seconds"), [("ppm1", 20.0, 1.7), ("ppm2", 24.0, 2.8)])
def test_pointers_fall_as_the_standard_says(scale: str, fall: float, seconds: float) -> None:
    pointer = Pointer(scale, 1)  # type: ignore[arg-type]
    pointer.hear(sine(1, 0.0, channels=1))
    high = decibels(float(pointer.at[0]))
    pointer.hear(silence(round(seconds * RATE), 1))
    assert high == pytest.approx(0.0, abs=0.5)
    assert high - decibels(float(pointer.at[0])) == pytest.approx(fall, rel=0.02)


def test_a_vu_meter_takes_three_tenths_of_a_second() -> None:
    # IEC 60268-17 (from memory): 99 % in 300 ms.
    pointer = Pointer("vu", 1)
    pointer.hear(sine(0.3, 0.0, channels=1))
    assert float(pointer.at[0]) == pytest.approx(0.99, abs=0.02)


def test_correlation_tells_same_from_turned_round_from_nothing_in_common() -> None:
    rng = np.random.default_rng(3)
    a, b = rng.normal(0, 0.1, (2, 2 * RATE)).astype(np.float32)
    for left, right, wanted in ((a, a, 1.0), (a, -a, -1.0), (a, b, 0.0)):
        meter = Correlation()
        meter.hear(np.stack((left, right), axis=1))
        assert meter.now == pytest.approx(wanted, abs=0.02)
    quiet = Correlation()
    quiet.hear(silence(RATE))
    assert quiet.now is None


# -- mixing ------------------------------------------------------------------------------------------------------------


@given(
    st.lists(st.dictionaries(st.sampled_from("abc"), st.floats(0, 1), max_size=3), min_size=2, max_size=12),
    st.integers(0, 3),
)
@settings(max_examples=60, deadline=None)
def test_no_change_of_levels_clicks(levels: list[dict[str, float]], extra: int) -> None:
    """A slow wave in each source: from sample to sample nothing moves further than a ramp of 5 ms lets it."""
    t = np.arange(len(levels) * BLOCK) / RATE
    waves = {
        id: np.repeat(np.sin(2 * np.pi * 40 * t + n).astype(np.float32)[:, None] * 0.3, 2, 1)
        for n, id in enumerate("abc")
    }
    mixer, made = Mixer(), []
    for n, gains in enumerate(levels):
        here = {id: wave[n * BLOCK : (n + 1) * BLOCK] for id, wave in waves.items()}
        mixed = mixer.mix(here, {"m": gains}, {"m": Finish(delay=extra / 1000, most=0.0)}, BLOCK)
        made.append(mixed.sound["m"])
    whole = np.concatenate(made)
    assert np.abs(whole).max() <= 1.0
    most = 3 * 0.3 * (2 * np.pi * 40 / RATE + 1 / 240)
    assert np.abs(np.diff(whole, axis=0)).max() <= most + 1e-5


def test_a_mix_is_the_sum_of_its_sources_by_their_levels() -> None:
    rng = np.random.default_rng(1)
    a, b = (rng.uniform(-0.1, 0.1, (3 * BLOCK, n)).astype(np.float32) for n in (1, 2))
    mixer, made = Mixer(), []
    for n in range(3):
        cut = slice(n * BLOCK, (n + 1) * BLOCK)
        made.append(
            mixer.mix({"a": a[cut], "b": b[cut]}, {"m": {"a": 0.5, "b": 0.25}}, {"m": Finish()}, BLOCK).sound["m"]
        )
    whole = np.concatenate(made)
    wanted = a * 0.5 + b * 0.25
    assert np.allclose(whole[LATE + 240 :], wanted[240 : len(wanted) - LATE], atol=1e-6)


def test_a_source_that_comes_back_is_heard_as_loud_as_it_was() -> None:
    """Its level may come before its sound does, and go before it: factors are those of now."""
    mixer, wave = Mixer(), sine(1, -20)[:BLOCK]
    told = []
    for here, gains in (
        ({"a": wave}, {"a": 1.0}),
        ({"a": wave}, {}),
        ({}, {}),
        ({}, {"a": 1.0}),
        ({"a": wave}, {"a": 1.0}),
        ({"a": wave}, {"a": 1.0}),
    ):
        told.append(float(np.abs(mixer.mix(here, {"m": gains}, {"m": Finish()}, BLOCK).sound["m"][300:]).max()))
    assert told[0] > 0.09 and told[2] < 0.001 and told[3] == 0.0 and told[4] > 0.09 and told[5] > 0.09


@given(st.integers(0, 1000), st.floats(-12, 0), st.floats(0.1, 4.0))
@settings(max_examples=40, deadline=None)
def test_no_true_peak_gets_through_a_limiter(seed: int, most: float, loud: float) -> None:
    rng = np.random.default_rng(seed)
    noise = resample_poly(rng.normal(0, 0.5, (8 * BLOCK * 2 // 3 + 1, 2)), 3, 2, axis=0)[: 8 * BLOCK]  # up to 16 kHz
    sound = (loud * noise * (rng.random((8, 1)) > 0.4).repeat(BLOCK, 0)).astype(np.float32)
    limiter = Limiter(most)
    made = np.concatenate([limiter.run(sound[n : n + BLOCK]) for n in range(0, len(sound), BLOCK)])
    between = resample_poly(made.astype(np.float64), 8, 1, axis=0)
    assert decibels(float(np.abs(between).max())) <= most + 0.3
    assert decibels(float(TruePeak().hear(made).max())) <= most + 0.01, "as the standard measures it"
    # what is quiet goes through as it is
    quiet = (sound * np.float32(0.01)).astype(np.float32)
    again = Limiter(most)
    through = np.concatenate([again.run(quiet[n : n + BLOCK]) for n in range(0, len(quiet), BLOCK)])
    if np.abs(quiet).max() < 0.05:
        assert np.array_equal(through[LATE:], quiet[:-LATE])


@given(st.integers(0, 1000), st.integers(0, 80), st.integers(0, 80))
@settings(max_examples=30, deadline=None)
def test_no_true_peak_gets_out_of_a_mix_whose_delay_turns_while_others_are_as_they_were(
    seed: int, first: int, then: int
) -> None:
    """The limiter stands behind the delay: also while two moments are heard at once.  A mix beside it that is quiet is
    not touched at all, and comes by its own delay.
    """
    rng = np.random.default_rng(seed)
    noise = resample_poly(rng.normal(0, 0.7, (6 * BLOCK * 2 // 3 + 1, 2)), 3, 2, axis=0)[: 6 * BLOCK].astype(np.float32)
    mixer, gains = Mixer(), {"loud": {"n": 2.0}, "quiet": {"n": 0.05}}
    blocks: dict[str, list[Sound]] = {"loud": [], "quiet": []}
    told: list[float] = []
    for n in range(6):
        finishes = {"loud": Finish((first if n < 3 else then) / 1000), "quiet": Finish(0.01)}
        made = mixer.mix({"n": noise[n * BLOCK : (n + 1) * BLOCK]}, gains, finishes, BLOCK)
        for mix, block in made.sound.items():
            blocks[mix].append(block.copy())
        told.append(made.reduction["loud"])
        assert made.reduction["quiet"] == 0
    loud, quiet = (np.concatenate(blocks[mix]) for mix in ("loud", "quiet"))
    assert decibels(float(TruePeak().hear(loud).max())) <= -1.0 + 0.01
    assert max(told) > 1, "and it says how much it took away"
    late = LATE + 480
    assert np.abs(quiet[late + RAMP :] - 0.05 * noise[RAMP:-late]).max() < 1e-6


def test_filters_by_whole_runs_do_what_they_do_sample_by_sample() -> None:
    """SciPy designs and runs the same filters, a sample at a time."""
    rng, corners = np.random.default_rng(5), (30.0, 60.0, 100.0, 500.0)
    sound, at, made = rng.normal(0, 0.2, (4, 2, 6000)), 0, []
    filters = Cascade([high_pass(hertz) for hertz in corners], 2)
    quick, quickly = Cascade([high_pass(hertz) for hertz in corners], 2, np.float32), []
    for samples in (1024, 1024, 7, 33, 480, 1, 960, 31, 2440):
        made.append(filters.run(sound[:, :, at : at + samples]))
        quickly.append(quick.run(sound[:, :, at : at + samples].astype(np.float32)))
        at += samples
    assert at == 6000
    for n, hertz in enumerate(corners):
        by_steps = sosfilt(butter(2, hertz, "highpass", fs=RATE, output="sos"), sound[n], axis=1)
        assert np.abs(np.concatenate(made, axis=2)[n] - by_steps).max() < 1e-8
        assert quickly[0].dtype == np.float32
        assert np.abs(np.concatenate(quickly, axis=2)[n] - by_steps).max() < 3e-7
    # full scale far below the cut, where the most is taken away from itself
    low = sine(4, -1, 15)[None].transpose(0, 2, 1)
    by_steps = sosfilt(butter(2, 30, "highpass", fs=RATE, output="sos"), low[0].astype(np.float64), axis=1)
    assert np.abs(Cascade([high_pass(30.0)], 2, np.float32).run(low)[0] - by_steps).max() < 3e-7
    both = Cascade([(SHELF, HIGH_PASS)], 2).run(sound[:1])
    assert np.abs(both[0] - sosfilt(np.array([SHELF, HIGH_PASS]), sound[0], axis=1)).max() < 1e-8


def test_low_cuts_take_what_is_low_and_one_that_changes_disturbs_no_other() -> None:
    low, high = sine(2, 0, 25)[:RATE], sine(2, 0, 1000)[:RATE]
    mixer, other = Mixer(), Mixer()
    finishes = {"cut": Finish(low_cut=100.0), "whole": Finish(), "kept": Finish(low_cut=100.0)}
    gains = {mix: {"low": 0.5, "high": 0.05} for mix in finishes}
    blocks: dict[str, list[Sound]] = {mix: [] for mix in finishes}
    for n in range(0, RATE - BLOCK, BLOCK):
        sources = {"low": low[n : n + BLOCK], "high": high[n : n + BLOCK]}
        if n == 20 * BLOCK:
            finishes = finishes | {"cut": Finish(low_cut=150.0)}
        made = mixer.mix(sources, gains, finishes, BLOCK).sound
        alone = other.mix(sources, {"kept": gains["kept"]}, {"kept": finishes["kept"]}, BLOCK).sound["kept"]
        assert np.abs(made["kept"] - alone).max() < 1e-6
        for mix, block in made.items():
            blocks[mix].append(block)
    heard = {mix: np.concatenate(parts)[RATE // 2 :, 0] for mix, parts in blocks.items()}
    of = {mix: np.abs(np.fft.rfft(part * np.hanning(len(part)))) for mix, part in heard.items()}
    per = RATE / len(heard["whole"])
    tone = {hertz: {mix: float(lines[round(hertz / per)]) for mix, lines in of.items()} for hertz in (25, 1000)}
    assert decibels(tone[25]["kept"] / tone[25]["whole"]) == pytest.approx(-24.1, abs=0.2)
    assert decibels(tone[25]["cut"] / tone[25]["whole"]) == pytest.approx(-31.1, abs=0.2)
    assert decibels(tone[1000]["kept"] / tone[1000]["whole"]) == pytest.approx(0, abs=0.05)


@given(st.lists(st.integers(1, 700), min_size=3, max_size=12), st.integers(0, 900), st.floats(0, 1))
@settings(max_examples=60, deadline=None)
def test_delays_keep_all_and_turn_without_a_click(blocks: list[int], first: int, less: float) -> None:
    """One line by a formula of its own, whatever the blocks are; the other is disturbed by nothing.  No more is kept
    than is needed, so what is asked for is there only up to the longest delay so far.
    """
    then = round(less * max(first, 333))
    before, half = 40, len(blocks) // 2
    sound = np.random.default_rng(2).normal(0, 0.1, (4, sum(blocks))).astype(np.float32)
    delays, parts, others, at = Delays(before), [], [], 0
    for n, samples in enumerate(blocks):
        by = {"turned": first if n < half else then, "other": 333}
        made = delays.run(sound[:, at : at + samples], by)
        assert made["turned"].shape == (before + samples, 2)
        if parts:
            last = np.concatenate(parts)[-before:]
            assert np.array_equal(made["turned"][before - len(last) : before], last), "what came before, once more"
        parts.append(made["turned"][before:].copy())
        others.append(made["other"][before:].copy())
        at += samples
    turn = sum(blocks[:half])
    long = np.concatenate((np.zeros((1000, 4)), sound.T))
    share = np.clip((np.arange(at) - turn + 1) / 240, 0, 1)[:, None]
    if half == 0:
        share = np.ones_like(share)
    late = [long[1000 - d : 1000 - d + at] for d in (first, then)]
    wanted = late[0] * (1 - share) + late[1] * share if half else late[1]
    assert np.abs(np.concatenate(parts) - wanted[:, :2]).max() < 1e-6
    assert np.array_equal(np.concatenate(others), long[1000 - 333 : 1000 - 333 + at, 2:].astype(np.float32))


def test_a_mix_that_comes_or_goes_disturbs_no_delay_of_another() -> None:
    sound, delays = np.random.default_rng(3).normal(0, 0.1, (2, 2000)).astype(np.float32), Delays()
    both, heard = np.concatenate((sound, sound)), []
    for n in range(0, 2000, 250):
        cut = np.s_[:, n : n + 250]
        by = [{"a": 300}, {"new": 0, "a": 300}, {"a": 300, "new": 0}, {"new": 10, "a": 300}][n // 250 % 4]
        heard.append(delays.run((sound if len(by) == 1 else both)[cut], by)["a"].copy())
    assert np.array_equal(np.concatenate(heard)[300:], sound.T[:-300])


def test_ducking_goes_down_waits_and_comes_back() -> None:
    ducking, told = Ducking(Duck("v", depth=12, above=-40, attack=0.1, hold=0.5, release=1.0)), []
    for n in range(300):
        told.append(decibels(ducking.factor(gain_of(-20) if n < 50 else 0.0, 0.02)))
    assert told[0] < 0 and told[5] == pytest.approx(-12) and told[49 + 20] == pytest.approx(-12)
    assert told[49 + 50] < 0 and told[-1] == 0.0
    assert all(abs(b - a) < 3 for a, b in pairwise(told))


def test_many_channels_are_heard_in_two() -> None:
    assert to_two(6)[0].tolist() == pytest.approx([1, 0, math.sqrt(0.5), 0, math.sqrt(0.5), 0])
    assert to_two(24).shape == (2, 24) and to_two(24).sum() == 24


# -- in step -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("apart", [100e-6, -100e-6])
def test_clocks_that_run_apart_stay_in_step_for_ten_hours(apart: float) -> None:
    """A device whose clock is 100 ppm off takes blocks by its own count; what it takes is where it should be."""
    follower, worst, steps = Follower(), 0.0, []
    for n in range(10 * 3600 * RATE // BLOCK):
        moment = n * BLOCK / RATE * (1 + apart)  # by the clock of the frames
        reading = follower.next(moment * RATE, BLOCK)
        if n:
            assert not reading.leap
            worst = max(worst, abs(reading.start / RATE - moment))
            steps.append(reading.step)
    assert worst < 0.005
    assert max(abs(s - 1) for s in steps) <= HURRY


def test_what_is_read_between_samples_is_the_same_wave() -> None:
    for hertz in (100, 1000, 8000):
        wave = np.sin(2 * np.pi * hertz * np.arange(4000) / RATE).astype(np.float32)[:, None]
        made = read_between(wave, 100.37, 1.0003, 3000)
        wanted = np.sin(2 * np.pi * hertz * (100.37 + 1.0003 * np.arange(3000)) / RATE)
        assert decibels(float(np.abs(made[:, 0] - wanted).max())) < -58


def wave_at(start: int, samples: int) -> Sound:
    return (0.5 * np.sin(2 * np.pi * 500 * (start + np.arange(samples)) / RATE)).astype(np.float32)[:, None]


def test_a_reader_leaps_stands_and_goes_on_without_a_click() -> None:
    reader, made, place = Reader(wave_at, 1), [], 0.0
    wanted: list[float | None] = []
    for n in range(60):
        place += BLOCK if n != 20 else RATE * 3.3  # it is sought elsewhere
        wanted.append(None if 30 <= n < 40 else place)
    for at in wanted:
        block = reader.take(at, BLOCK)
        made.append(silence(BLOCK, 1) if block is None else block)
    whole = np.concatenate(made)[:, 0]
    assert np.abs(np.diff(whole)).max() < 0.5 * 2 * np.pi * 500 / RATE + 2 * 0.5 / 240 + 1e-3
    assert not whole[32 * BLOCK : 39 * BLOCK].any() and np.abs(whole[50 * BLOCK :]).max() > 0.49
    # in its place again, to the sample
    last = round(wanted[-1] or 0)
    assert np.allclose(made[-1], wave_at(last, BLOCK), atol=1e-5)


def test_a_small_step_is_caught_up_with_and_not_leapt_over() -> None:
    reader = Reader(wave_at, 1)
    reader.take(0.0, BLOCK)
    for n in range(1, 400):
        reader.take(n * BLOCK + 0.8 * LEAP * RATE, BLOCK)
    assert reader.at is not None
    assert abs(reader.at - (400 * BLOCK + 0.8 * LEAP * RATE)) / RATE < 0.002


# -- sounds to test with -----------------------------------------------------------------------------------------------


def test_each_test_sound_is_what_it_says() -> None:
    tone = pattern_sound("tone", 123, RATE)
    assert decibels(float(np.abs(tone).max())) == pytest.approx(-18, abs=0.01)
    assert np.argmax(np.abs(np.fft.rfft(tone[:, 0]))) == 1000
    pink = pattern_sound("pink", 0, 8 * RATE)[:, 0]
    power = np.abs(np.fft.rfft(pink)) ** 2
    hertz = np.fft.rfftfreq(len(pink), 1 / RATE)
    octaves = [
        10 * math.log10(power[(hertz >= f) & (hertz < 2 * f)].sum()) for f in (125, 250, 500, 1000, 2000, 4000, 8000)
    ]
    assert max(octaves) - min(octaves) < 1.0, "each octave has as much"
    sweep = pattern_sound("sweep", 0, 10 * RATE)[:, 0]
    turns = np.flatnonzero((sweep[:-1] < 0) & (sweep[1:] >= 0))
    assert len(turns) / 10 == pytest.approx((20000 - 20) / math.log(1000), rel=0.01)
    sides = pattern_sound("left-right", 0, 4 * RATE)
    assert sides[: 2 * RATE, 0].any() and not sides[: 2 * RATE, 1].any()
    assert sides[2 * RATE :, 1].any() and not sides[2 * RATE :, 0].any()


@given(st.integers(0, 10**9), st.sampled_from(["tone", "sweep", "pink", "left-right", "beep"]))
@settings(max_examples=40, deadline=None)
def test_test_sounds_go_on_from_block_to_block(start: int, name: str) -> None:
    whole = pattern_sound(name, start, 2 * BLOCK)  # type: ignore[arg-type]
    halves = [pattern_sound(name, start + n, BLOCK) for n in (0, BLOCK)]  # type: ignore[arg-type]
    assert np.allclose(np.concatenate(halves), whole, atol=1e-4)


def test_it_beeps_while_it_flashes() -> None:
    sound = np.abs(pattern_sound("beep", 0, 5 * RATE)[:, 0]) > 1e-3
    lit = np.array([flashes(n / RATE) or flashes(n / RATE - 0.001) for n in range(5 * RATE)])
    assert sound[~lit].sum() == 0
    for second in range(5):
        here = np.flatnonzero(sound[round(second * EVERY * RATE) :][: RATE // 2])
        assert here[0] / RATE < 0.001 and abs(here[-1] / RATE - BEEP) < 0.001


def test_meters_tell_all_of_it_and_are_set_back() -> None:
    meters, whole = Meters(("a", "b"), "ppm1"), sine(4, -20)
    for n in range(200):
        here = whole[n * BLOCK : (n + 1) * BLOCK] if n < 150 else silence(BLOCK)
        meters.hear(np.concatenate((here, here * np.float32(0.5)), axis=1), {"a": 1.5})
    told, other = meters.now("a"), meters.now("b")
    assert told.peak == pytest.approx(-20, abs=0.2) and told.peak_lately == SILENT and told.reduction == 1.5
    assert told.silent == pytest.approx(50 * BLOCK / RATE) and told.loudness.integrated == pytest.approx(-20, abs=0.5)
    assert other.peak == pytest.approx(told.peak - 6.02, abs=0.01) and other.reduction == 0
    again = meters.of(("b", "c"))
    assert again.now("b").peak == other.peak and again.now("c").peak == SILENT
    meters.reset("a")
    assert meters.now("a").peak == SILENT and meters.now("a").loudness.integrated == -120
    assert meters.now("b").peak == other.peak


@pytest.mark.parametrize("codec", ["ac3", "eac3"])
@pytest.mark.parametrize("channels", [1, 2, 6])
def test_the_level_of_dialogue_is_read_as_ffmpeg_writes_it(codec: str, channels: int, tmp_path: Path) -> None:
    for level in (-31, -24, -1):
        path = tmp_path / f"{codec}{channels}{level}.mka"
        command = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=1000:d=0.2", "-ac", str(channels)]
        subprocess.run([*command, "-c:a", codec, "-dialnorm", str(level), str(path)], check=True)
        with av.open(str(path)) as container:
            packets = [bytes(p) for p in container.demux(container.streams.audio[0]) if p.size]
        assert {dialogue_level(p) for p in packets} == {level}
    assert dialogue_level(b"") is None and dialogue_level(b"no sound of it") is None
    assert dialogue_level(packets[0][:5]) is None
