"""How the frames of a loop keep to their time: how many, how long, how many too late."""

from __future__ import annotations

from collections import deque

KEPT = 90
"""Frames that the means are taken over."""
LATELY = 5.0
"""Seconds for which a late frame is told of."""


class Pace:
    """Written by the loop alone; read by anybody."""

    def __init__(self) -> None:
        self.late = 0
        self.mark = (0, 0.0)
        self._spent: deque[float] = deque(maxlen=KEPT)
        self._done: deque[float] = deque(maxlen=KEPT)
        self._late_at = -1e9

    def made(self, began: float, done: float, by: float) -> bool:
        """Count a frame, in seconds of one clock; says whether it was finished by when it had to be."""
        self.mark = (self.mark[0] + 1, began)
        self._spent.append(done - began)
        self._done.append(done)
        if done <= by:
            return True
        self.late += 1
        self._late_at = done
        return False

    @property
    def milliseconds(self) -> float:
        """Time spent on a frame, mean of the last few seconds."""
        spent = tuple(self._spent)
        return sum(spent) / max(1, len(spent)) * 1e3

    @property
    def fps(self) -> float:
        """Frames per second in the last few seconds; 0 before there are two."""
        done = tuple(self._done)
        span = done[-1] - done[0] if len(done) > 1 else 0.0
        return (len(done) - 1) / span if span > 0 else 0.0

    def late_lately(self, now: float) -> bool:
        """Whether a frame was late within the last few seconds."""
        return now - self._late_at < LATELY
