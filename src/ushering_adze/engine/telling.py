"""Telling the desk of the running show, in a thread of its own and in the time between frames."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from ushering_adze.engine.pace import Pace
from ushering_adze.engine.report import Report
from ushering_adze.io.logs import log
from ushering_adze.io.priority import give_way

PERIOD = 1 / 12
"""Seconds from one report to the next; fewer after a command or an edit."""
SPARING = 2
"""How many times as long that is while frames are late: the show comes before what is seen of it on the desk."""
LEAST = 0.02
"""Seconds of rest between two reports, whatever they take."""
BURST = 1 / 20
"""Seconds from one report to the next, at the least, while one command follows another."""
GAP_WAIT = 0.12
"""Seconds that a report waits at most for a frame to be made: a slow show makes few."""


class InTurn:
    """Who has the time behind a frame: steps of the desk and reports, both of them in Python, would keep one another,
    and the next frame, from the interpreter.  While frames are late they take turns.
    """

    def __init__(self) -> None:
        self._stepped = False

    def of(self, asked: bool, late: bool) -> tuple[bool, bool]:
        """Whether steps are done behind this frame, and whether a report may go on.

        Parameters
        ----------
        asked : bool
            Whether there is a step to do.
        late : bool
            Whether frames are.

        Examples
        --------
        >>> turn = InTurn()
        >>> [turn.of(True, True) for _ in range(3)], turn.of(False, True), turn.of(True, False)
        ([(True, False), (False, True), (True, False)], (False, True), (True, True))
        """
        if not (asked and late):
            self._stepped = False
            return asked, True
        self._stepped = not self._stepped
        return self._stepped, not self._stepped


class Telling:
    """Makes report after report.

    A report is begun when a frame has just been made, and given when the next has: most of it, and of what the desk
    does with it, is over before another frame needs the cores.

    Parameters
    ----------
    make : callable
        Makes a report of the show as of a moment of the clock.
    give : callable
        Is given each, in this thread.
    pace : Pace
        Of the frames.
    clock : callable
        Of the frames as well.
    """

    def __init__(
        self,
        make: Callable[[float], Report],
        give: Callable[[Report], None],
        pace: Pace,
        clock: Callable[[], float] = time.perf_counter,
    ) -> None:
        self._make, self._give, self._pace, self._clock = make, give, pace, clock
        self._frame, self._news = threading.Event(), threading.Event()
        self._closed = threading.Event()
        self.thread = threading.Thread(target=self._run, name="report", daemon=True)

    def frame_made(self) -> None:
        """A frame is there, and some time until the next."""
        self._frame.set()

    def acted(self) -> None:
        """Something was commanded, or edited: the desk is told of it soon."""
        self._news.set()

    def close(self) -> None:
        """Make no more."""
        self._closed.set()
        self._frame.set()
        self._news.set()

    def rest(self, told_at: float, now: float) -> float:
        """Seconds until the next report, if nothing is commanded before."""
        period = PERIOD * (SPARING if self._pace.late_lately(told_at) else 1)
        return max(LEAST, told_at + period - now)

    def least(self, told_at: float, now: float) -> float:
        """Seconds until a report may follow, however much is commanded."""
        return max(LEAST, told_at + BURST * (SPARING if self._pace.late_lately(told_at) else 1) - now)

    @property
    def waits(self) -> bool:
        """Whether it waits for a frame now."""
        return not self._frame.is_set()

    def _wait_for_frame(self) -> None:
        self._frame.clear()
        if not self._closed.is_set():
            self._frame.wait(GAP_WAIT)

    def _run(self) -> None:
        self._frame.wait()
        told_at = self._clock()
        self._tell()  # a new window waits for it: it comes at once, and at the priority of frames
        give_way()
        acted_at = float("-inf")
        while not self._closed.is_set():
            now = self._clock()
            least = self.least(told_at, now) if now - acted_at < SPARING * BURST else 0.0
            if least:  # a burst of commands: each would have a report of its own
                self._closed.wait(least)
            acted = self._news.wait(self.rest(told_at, self._clock()))
            acted_at = self._clock() if acted else acted_at
            self._news.clear()
            told_at = self._clock()
            self._wait_for_frame()
            self._tell(self._wait_for_frame)

    def _tell(self, between: Callable[[], None] = lambda: None) -> None:
        """Make a report, and give it after what comes between."""
        try:
            report = self._make(self._clock())
            between()
            if not self._closed.is_set():
                self._give(report)
        except Exception:  # an edit may come between; the next report is a moment away
            log.info("report skipped")
