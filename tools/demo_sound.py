"""Make the soft sound of each clip of the demo show, and put it beside the clip's picture.

Usage: python tools/demo_sound.py [clip ...]
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ushering_adze.core.sound.levels import RATE, gain_of
from ushering_adze.core.sound.loudness import LoudnessMeter

MEDIA = Path(__file__).resolve().parents[1] / "src" / "ushering_adze" / "demo" / "media"
LOUD = -27.0
"""LUFS of each: soft."""
KBIT = 96


def turns(hertz: float, seconds: float) -> float:
    """The next frequency that has whole turns in a loop, so that it has no seam."""
    return round(hertz * seconds) / seconds


def noise(seconds: float, low: float, high: float, seed: int, slope: float = 1.0) -> np.ndarray:
    """Noise between two frequencies that is the same at its end as at its start."""
    n = round(seconds * RATE)
    rng = np.random.default_rng(seed)
    hertz = np.fft.rfftfreq(n, 1 / RATE)
    shape = np.where((hertz > low) & (hertz < high), np.maximum(hertz, 1.0) ** -slope, 0.0)
    made = np.fft.irfft(shape * np.exp(2j * np.pi * rng.random(len(hertz))), n)
    return made / np.abs(made).max()


def swell(seconds: float, times: int, deep: float, phase: float = 0.0) -> np.ndarray:
    """A slow rise and fall, so often in a loop."""
    t = np.arange(round(seconds * RATE)) / RATE
    return 1 - deep * (0.5 + 0.5 * np.cos(2 * np.pi * times * t / seconds + phase))


def tone(seconds: float, hertz: float, phase: float = 0.0) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    return np.sin(2 * np.pi * turns(hertz, seconds) * t + phase)


def struck(seconds: float, hertz: float, at: float, ring: float) -> np.ndarray:
    """A small bell; what rings over the end goes on at the start."""
    n = round(seconds * RATE)
    t = np.arange(2 * n) / RATE
    made = sum(
        a * np.sin(2 * np.pi * hertz * p * t) * np.exp(-t * p**0.7 / ring)
        for p, a in ((1, 1), (2.76, 0.4), (5.4, 0.15))
    )
    made *= np.minimum(1.0, t / 0.004)
    return np.roll(made[:n] + made[n:], round(at * RATE))


def star_trails(seconds: float) -> np.ndarray:
    """A chord that turns as slowly as the sky."""
    sides = []
    for side in (0, 1):
        voices = [(110, 1.0), (165, 0.7), (220, 0.6), (277.2, 0.45), (329.6, 0.4), (440, 0.2)]
        made = sum(
            a * tone(seconds, f + 0.1 * side, k) * swell(seconds, 1 + k % 3, 0.6, k + 1.3 * side)
            for k, (f, a) in enumerate(voices)
        )
        sides.append(made + 0.12 * noise(seconds, 2000, 9000, 10 + side, 0.6) * swell(seconds, 2, 0.8, side))
    return apart(sides[0] + sides[1], [sides[0], sides[1]], 0.4)


def apart(both: np.ndarray, sides: list[np.ndarray], wide: float) -> np.ndarray:
    """What both sides have in common, and a share of what each has alone: wide, and they never cancel."""
    both = both / np.sqrt(np.mean(both**2))
    return np.stack([both + wide * side / np.sqrt(np.mean(side**2)) for side in sides], 1)


def orrery(seconds: float) -> np.ndarray:
    """Clockwork: small bells as planets pass, and the wheels."""
    left = right = np.zeros(round(seconds * RATE))
    scale = (523.25, 587.33, 659.25, 783.99, 880.0, 1046.5)
    for k in range(14):
        bell = struck(seconds, scale[(k * 5) % 6], k * seconds / 14, 0.9 - 0.05 * (k % 6))
        pan = 0.5 + 0.4 * np.sin(2.1 * k)
        left, right = left + bell * (1 - pan), right + bell * pan
    for k in range(round(seconds * 2)):
        tick = struck(seconds, 2300 if k % 2 else 1900, k / 2, 0.012) * 0.25
        left, right = left + tick, right + tick
    drone = 0.25 * tone(seconds, 130.8) * swell(seconds, 2, 0.5)
    return np.stack((left + drone, right + drone), 1)


def moon_phases(seconds: float) -> np.ndarray:
    """Low fifths that wax and wane with it."""
    sides = []
    for side in (0, 1):
        made = sum(
            a * tone(seconds, f * (1 + 0.001 * side), k)
            for k, (f, a) in enumerate(((73.4, 1.0), (110, 0.8), (146.8, 0.5), (220, 0.25), (293.7, 0.12)))
        )
        sides.append(made * swell(seconds, 1, 0.75) + 0.08 * noise(seconds, 300, 1800, 20 + side))
    return apart(sides[0] + sides[1], sides, 0.4)


def roof_camera(seconds: float) -> np.ndarray:
    """Wind over the dome."""
    sides = [
        noise(seconds, 80, 900, 30 + side, 1.1) * swell(seconds, 2, 0.7, 1.1 * side)
        + 0.3 * noise(seconds, 500, 2500, 32 + side, 0.8) * swell(seconds, 3, 0.9, side)
        for side in (0, 1)
    ]
    return apart(sides[0] + sides[1], sides, 0.4)


def aisle_camera(seconds: float) -> np.ndarray:
    """People who wait: a murmur without words."""
    sides = []
    for side in (0, 1):
        made = np.zeros(round(seconds * RATE))
        for k in range(7):
            low = 160 + 70 * k
            made += noise(seconds, low, low * 2.2, 40 + 7 * side + k, 1.0) * swell(seconds, 3 + k, 0.8, 2.0 * k + side)
        sides.append(made)
    return apart(sides[0] + sides[1], sides, 0.4)


CLIPS: dict[str, Callable[[float], np.ndarray]] = {
    "star-trails": star_trails,
    "orrery": orrery,
    "moon-phases": moon_phases,
    "roof-camera": roof_camera,
    "aisle-camera": aisle_camera,
}


def soft(sound: np.ndarray) -> np.ndarray:
    """At the loudness that all have."""
    meter = LoudnessMeter()
    meter.hear(np.concatenate((sound, sound)).astype(np.float32))
    return (sound * gain_of(LOUD - meter.now.integrated)).astype(np.float32)


def put_beside(path: Path, make: Callable[[float], np.ndarray]) -> None:
    """Write the file anew: its pictures as they are, and the sound."""
    made = path.with_suffix(".new.mp4")
    with av.open(str(path)) as old, av.open(str(made), "w", options={"movflags": "+faststart"}) as new:
        pictures = old.streams.video[0]
        kept = new.add_stream_from_template(pictures)
        audio = new.add_stream("aac", rate=RATE)
        audio.layout, audio.bit_rate = "stereo", KBIT * 1000
        seconds = float(pictures.duration * pictures.time_base)
        for packet in old.demux(pictures):
            if packet.dts is not None:
                packet.stream = kept
                new.mux(packet)
        sound = soft(make(seconds))
        for start in range(0, len(sound), 1024):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound[start : start + 1024].T), "fltp", "stereo")
            frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
            for packet in audio.encode(frame):
                new.mux(packet)
        for packet in audio.encode(None):
            new.mux(packet)
    made.replace(path)
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB", flush=True)


if __name__ == "__main__":
    for clip in sys.argv[1:] or CLIPS:
        put_beside(MEDIA / f"{clip}.mp4", CLIPS[clip])
