"""The sound of live signals: kept for some seconds by the times it says it is of, and when these are now."""

from __future__ import annotations

from collections import deque
from typing import Any, NamedTuple

from ushering_adze.core.sound.in_step import InStep, beeps_in, flashes_in, in_step
from ushering_adze.core.sound.levels import RATE
from ushering_adze.io.media.resampled import Resampled
from ushering_adze.io.media.ring import SoundRing

FALLS = 0.01
"""By how much of it what is known of how late sound comes goes down, from packet to packet."""
PICTURES = 600
"""Pictures whose brightness is kept: more than the seconds of sound that are."""
SPARE = 0.005
"""Seconds by which it is read behind the newest."""


class LiveTiming(NamedTuple):
    """Seconds by which the newest sound, and the newest picture, are behind the times that they say they are of; None
    before there is any.
    """

    came: float | None = None
    seen: float | None = None

    def place(self, moment: float, ahead: float, delay: float) -> float | None:
        """The sample that should be heard at a moment of the monotonic clock, of which ``ahead`` seconds are still to
        come: with its picture where that is late enough, else as soon as it is there.
        """
        if self.came is None:
            return None
        late = self.came + ahead + SPARE
        if self.seen is not None:
            late = max(late, self.seen + delay)
        return (moment - late) * RATE

    def behind(self, ahead: float, delay: float) -> float:
        """Seconds by which it is heard after its picture."""
        if self.came is None or self.seen is None:
            return 0.0
        return max(0.0, self.came + ahead + SPARE - self.seen - delay)


class LiveSound:
    """Takes the sound of one live signal.

    Parameters
    ----------
    channels : int
    """

    def __init__(self, channels: int) -> None:
        self._resampled = Resampled(channels)
        self.channels = self._resampled.channels
        self.ring = SoundRing(self.channels)
        self._next: int | None = None
        self.dialogue: int | None = None
        """How loud speech is in it, by what it says of itself, in LKFS."""
        self.timing = LiveTiming()
        self._lights: deque[tuple[float, float]] = deque(maxlen=PICTURES)

    def in_step(self) -> InStep | None:
        """By how much its sound comes after its picture, by flashes and beeps of the last seconds; None without any."""
        lights, begin = list(self._lights), self.ring.begin
        sound = self.ring.read(begin, self.ring.end - begin)
        if sound is None:
            return None
        seen = [(stamp, light) for stamp, light in lights if stamp > begin / RATE - 1]
        return in_step(flashes_in(*zip(*seen, strict=True)) if seen else [], beeps_in(sound, begin / RATE))

    def take(self, frame: Any, now: float) -> None:
        """Keep what came at a moment of the monotonic clock."""
        sound = self._resampled.sound(frame)
        if not len(sound):
            return
        if frame.time is not None:
            place = round(float(frame.time) * RATE)
            if self._next is None or abs(place - self._next) > RATE // 50:
                self._next = place
        start = 0 if self._next is None else self._next
        self.ring.put(start, sound)
        self._next = start + len(sound)
        late, came = now - self._next / RATE, self.timing.came
        if came is not None and came - 1.0 < late < came:
            late = came + FALLS * (late - came)
        self.timing = self.timing._replace(came=late)

    def pictured(self, stamp: float, born: float, light: float) -> None:
        """A picture of a time was there at a moment; how bright it is, in codes."""
        self._lights.append((stamp, light))
        late, seen = born - stamp, self.timing.seen
        if seen is not None and abs(late - seen) <= 0.2:
            late = seen + 0.05 * (late - seen)
        self.timing = self.timing._replace(seen=late)
