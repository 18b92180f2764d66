"""Sounds to test with: a tone, a sweep, pink noise, left and right told apart, and a beep for each flash."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RATE, Sound, gain_of

Pattern = Literal["tone", "sweep", "pink", "left-right", "beep", "call"]
TONE = 1000.0
SWEEP = 10.0
"""Seconds from 20 Hz to 20 kHz."""
EVERY, BEEP = 1.0, 0.05
"""Seconds from one flash to the next, and of a flash and its beep."""
CALL = 2.0
"""Seconds from one call to the next."""
PINK = 8
"""Seconds of noise before it is the same again."""
JUST = 0.0005
"""Seconds before its time at which a flash is there already: moments are not exact numbers."""
FADE = 240
"""Samples in which a sound comes and goes without a click: 5 ms."""


def flashes(seconds: float) -> bool:
    """Whether the picture of a flash is white at a moment of its clock.

    Examples
    --------
    >>> flashes(0.01), flashes(0.5), flashes(7.02)
    (True, False, True)
    """
    return (seconds + JUST) % EVERY < BEEP


def _gate(at: NDArray[np.float64], begins: float, ends: float) -> NDArray[np.float64]:
    """1 within a stretch of seconds, with soft edges inside."""
    edge = FADE / RATE
    made: NDArray[np.float64] = np.clip(np.minimum(at - begins, ends - at) / edge, 0.0, 1.0)
    return made


def _pink() -> Sound:
    rng = np.random.default_rng(1926)
    n = PINK * RATE
    shape = 1 / np.sqrt(np.maximum(np.arange(n // 2 + 1), 20 * PINK))
    shape[: 20 * PINK] = 0  # nothing below 20 Hz
    made = np.fft.irfft(shape * np.exp(2j * np.pi * rng.random(len(shape))), n)
    return np.asarray(made / np.abs(made).max(), np.float32)


_noise: list[Sound] = []


def pattern_sound(pattern: Pattern, start: int, samples: int, level: float = -18.0) -> Sound:
    """A stretch of a test sound.

    Parameters
    ----------
    pattern : {"tone", "sweep", "pink", "left-right", "beep", "call"}
        A tone of 1 kHz; from 20 Hz to 20 kHz in ten seconds; noise with as much in each octave; two beeps left, then
        one right; a beep at each whole second, in step with the picture of a flash; two tones every other second, that
        call somebody.
    start, samples : int
    level : float
        Of its peaks, in dBFS.

    Returns
    -------
    ndarray, (samples, 2)

    References
    ----------
    The level of alignment of EBU R 68 is −18 dBFS (from memory).
    """
    at = (start + np.arange(samples)) / RATE
    gain = gain_of(level)
    match pattern:
        case "tone":
            one = np.sin(2 * np.pi * TONE * at)
        case "sweep":
            t = at % SWEEP
            rise = np.log(1000.0) / SWEEP
            one = np.sin(2 * np.pi * 20 * np.expm1(rise * t) / rise) * _gate(t, 0.0, SWEEP)
        case "pink":
            if not _noise:
                _noise.append(_pink())
            one = _noise[0][(start + np.arange(samples)) % (PINK * RATE)].astype(np.float64)
        case "left-right":
            t = at % 4.0
            tone = np.sin(2 * np.pi * 500 * at) * gain
            left = tone * np.maximum(_gate(t, 0.0, 0.3), _gate(t, 0.6, 0.9))
            return np.asarray(np.stack((left, tone * _gate(t, 2.0, 2.6)), axis=1), np.float32)
        case "call":
            t = at % CALL
            high, low = (np.sin(2 * np.pi * hertz * at) for hertz in (880.0, 660.0))
            one = high * _gate(t, 0.0, 0.12) + low * _gate(t, 0.16, 0.32)
        case _:
            one = np.sin(2 * np.pi * TONE * at) * _gate(at % EVERY, 0.0, BEEP)
    return np.repeat((one * gain).astype(np.float32)[:, None], 2, axis=1)
