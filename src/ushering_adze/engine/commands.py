"""Commands on their way to the running show: done between frames, in their order, and never at a frame's cost."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable

from ushering_adze.io.logs import log

Act = Callable[[float], None]
MOST = 10_000
"""Commands that may wait; more are refused, and counted."""


class Commands:
    """Given by any thread, done by the one that makes frames."""

    def __init__(self) -> None:
        self._waiting: deque[tuple[str | None, Act]] = deque()
        self._lock = threading.Lock()
        self.refused = 0

    def __len__(self) -> int:
        return len(self._waiting)

    def give(self, act: Act, kind: str | None = None) -> None:
        """Have something done.

        Of commands of one ``kind`` that wait one behind another only the newest is done: it says all that they say.
        """
        with self._lock:
            if kind is not None and self._waiting and self._waiting[-1][0] == kind:
                self._waiting[-1] = (kind, act)
            elif kind is None and len(self._waiting) >= MOST:
                self.refused += 1
                log.warning("a command was refused: too many wait")
            else:
                self._waiting.append((kind, act))

    def run(self, now: float, seconds: float) -> bool:
        """Do what waits, in order, for so many seconds at most, though one command at least; says whether there was
        any.
        """
        end = time.perf_counter() + seconds
        done = False
        while self._waiting:
            with self._lock:
                _, act = self._waiting.popleft()
            done = True
            try:
                act(now)
            except Exception:
                log.exception("command failed")
            if time.perf_counter() >= end:
                break
        return done
