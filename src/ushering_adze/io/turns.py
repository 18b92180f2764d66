"""Turns between frames: when those who work ahead of the show may use the cores."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from types import TracebackType

PATIENCE = 0.1
"""Seconds after which a piece of work is begun whether or not its turn has come: a slow show leaves few turns."""
BEHIND = 0.015
"""The same for whoever has nothing left to show."""
AT_LEAST = 0.3
"""Share of a turn in which work is begun however long it may take."""
MEMORY = 0.2
"""Weight of the newest time in the mean of what a piece of work takes."""


class Turns:
    """Told by whoever makes frames when the next must be made; asked by those who read ahead before each piece of work.

    A frame passes through many hands, and waits at each for whoever has the core just then, at whatever priority.  So
    work that can wait is not begun when it would last into a frame.  Until `open` is first called it is always
    somebody's turn.
    """

    def __init__(self, clock: Callable[[], float] = time.perf_counter) -> None:
        self.clock = clock
        self._any, self._until = math.inf, math.inf
        self._opened = threading.Condition()

    def open(self, until: float) -> None:
        """Let work be done from now until a moment of the clock."""
        now = self.clock()
        with self._opened:
            self._any, self._until = now + AT_LEAST * (until - now), until
            self._opened.notify_all()

    def _fits(self, seconds: float) -> bool:
        now = self.clock()
        return now < self._any or now + seconds < self._until

    def wait(self, seconds: float, behind: bool = False) -> None:
        """Wait until work of so many seconds may be begun, though not for long."""
        if not self._fits(seconds):
            with self._opened:
                self._opened.wait_for(lambda: self._fits(seconds), BEHIND if behind else PATIENCE)


class Work:
    """Work of one kind, done again and again: each time in its turn, by what it took before; without turns, at any
    time.

    ``behind`` tells whether it is short of time.
    """

    def __init__(self, turns: Turns | None, behind: Callable[[], bool] = lambda: False) -> None:
        self._turns = turns if turns is not None else Turns()
        self._behind = behind
        self._takes = 0.0
        self._began = 0.0

    def __enter__(self) -> None:
        self._turns.wait(self._takes, self._behind())
        self._began = self._turns.clock()

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._takes += (self._turns.clock() - self._began - self._takes) * MEMORY
