"""The calendar of the running show: what begins and ends by it, and what must be on after a start or a night off."""

from __future__ import annotations

import contextlib
import json
import queue
import threading
import time
from collections.abc import Callable
from pathlib import Path

from ushering_adze.core.document.wording import shortened
from ushering_adze.core.onair.actions import fault_of
from ushering_adze.core.onair.calendar import (
    NIGHT,
    Agenda,
    Occurrence,
    Turn,
    agenda,
    missed,
    on_at,
    turned,
)
from ushering_adze.core.show import Show, ShowError
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import CalendarReport
from ushering_adze.io.logs import log
from ushering_adze.io.today import zone_here
from ushering_adze.io.writing import write_whole

EVERY = 0.25
"""Seconds from one look at the clock to the next."""
WINDOW = 8 * 86400.0
BACK = 31 * 86400.0
"""Seconds that are worked out ahead, and looked through for what was missed."""
KEPT = 20.0
"""Seconds from one note of the time to the next."""


class CalendarRunner:
    """Runs the calendar of a show, in a thread of its own.

    What should be on is brought on when it starts, and when it has not looked for a while; an edit of the calendar
    brings nothing on by itself: what should be on then is told, and `bring_on` does it.

    Parameters
    ----------
    engine : Engine
    show : Show
    folder : Path
        Where it keeps until when it has looked, a file for each show.
    clock : callable, optional
        Seconds of the epoch.
    zone : str, optional
        The time zone of this machine.
    """

    def __init__(
        self,
        engine: Engine,
        show: Show,
        folder: Path,
        clock: Callable[[], float] = time.time,
        zone: str | None = None,
    ) -> None:
        self._engine, self._folder, self._clock = engine, folder, clock
        self._zone = zone if zone is not None else zone_here()
        self._closing = threading.Event()
        self._asked: queue.SimpleQueue[Callable[[], None]] = queue.SimpleQueue()
        """What others want of it; it is done before the next look, so that nobody waits."""
        self._show = show
        self._agenda: Agenda | None = None
        self._of: tuple[object, ...] = ()
        self._on: tuple[Occurrence, ...] = ()
        self._missed: tuple[Occurrence, ...] = ()
        self._looked: float | None = self._kept_until(show)
        self._started, self._noted = False, 0.0
        self.by = ("", float("-inf"))
        """The event that did something last, by its name, and when by the monotonic clock."""
        self.report = CalendarReport()
        self._thread = threading.Thread(target=self._run, name="calendar", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def close(self) -> None:
        """End, with the time noted."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(2)
        self._note(self._clock(), True)

    def set_show(self, show: Show, another: bool = False) -> None:
        """Go by an edited show; by ``another`` one from its start."""

        def take() -> None:
            if another:
                self._note(self._clock(), True)
                self._on, self._missed, self._started, self._looked = (), (), False, self._kept_until(show)
            self._show = show

        self._asked.put(take)

    def bring_on(self) -> None:
        """Do what should be on and is not."""

        def bring() -> None:
            now = self._clock()
            self._edited()
            self._do(turned(self._show, self._worked_out(now), self._on, now, now))

        self._asked.put(bring)

    def forget_missed(self) -> None:
        """What was missed is known."""

        def forget() -> None:
            self._missed = ()

        self._asked.put(forget)

    # -- in its thread -------------------------------------------------------------------------------------------------

    def _run(self) -> None:
        while not self._closing.wait(EVERY):
            try:
                self.look()
            except Exception as error:
                log.exception("the calendar failed")
                self.report = CalendarReport(faults={"calendar": f"it cannot be read ({type(error).__name__})"})

    def look(self) -> None:
        """Do what is due by now."""
        with contextlib.suppress(queue.Empty):
            while True:
                self._asked.get_nowait()()
        if not self._show.schedule and not self._on:
            self.report, self._started, self._looked = CalendarReport(), True, self._clock()
            return
        now, edited = self._clock(), self._edited()
        of = self._worked_out(now)
        if not self._show.calendar_runs:
            self._on, self._started = (), True
            self.report = self._told(of, now)._replace(runs=False, waiting=())
            self._looked = now
            return
        if not self._started or self._looked is None or not 0 <= now - self._looked <= NIGHT:
            if self._looked is not None and now > self._looked:
                past = agenda(self._show, self._zone, max(self._looked, now - BACK), now)
                self._missed = (*self._missed, *missed(past, self._looked, now))
            was = (self._carried(on_at(self._show, of, now)) if edited else self._on) if self._started else ()
            self._do(turned(self._show, of, was, now, now))
            self._started = True
        else:
            if edited:
                self._on = self._carried(on_at(self._show, of, self._looked))
            waiting = self._waiting(of, self._looked)
            turn = turned(self._show, of, (*self._on, *waiting), self._looked, now)
            self._do(turn)
            self._on = tuple(o for o in turn.on if o not in waiting)
        self._looked = now
        self.report = self._told(of, now)
        self._note(now)

    def _edited(self) -> bool:
        of = (self._show.schedule, self._show.time_zone, self._show.lists, self._show.calendar_runs)
        same = len(of) == len(self._of) and all(a is b for a, b in zip(of, self._of, strict=True))
        if not same:
            self._of, self._agenda = of, None
        return not same

    def _worked_out(self, now: float) -> Agenda:
        """All there is for some days on, worked out anew before they are over."""
        if self._agenda is None or not self._agenda.since <= now < self._agenda.until - WINDOW / 2:
            self._agenda = agenda(self._show, self._zone, now - 86400, now + WINDOW)
        return self._agenda

    def _carried(self, on: tuple[Occurrence, ...]) -> tuple[Occurrence, ...]:
        """What goes on through an edit: an event that was on and should be, wherever its ends lie now."""
        was = {o.event for o in self._on}
        return tuple(o for o in on if o.event in was)

    def _waiting(self, of: Agenda, now: float) -> tuple[Occurrence, ...]:
        """What should be on and was not brought on, since an edit."""
        return tuple(o for o in on_at(self._show, of, now) if o not in self._on)

    def _do(self, turn: Turn) -> None:
        names = {e.id: e.name for e in self._show.schedule}
        for event, action in turn.does:
            if fault_of(self._show, action) is None:
                self.by = (names[event], time.monotonic())
                self._engine.act(action)
        self._on = turn.on

    def _told(self, of: Agenda, now: float) -> CalendarReport:
        at = min((o.begin for o in of.occurrences if o.begin > now), default=0.0)
        coming = tuple(o for o in of.occurrences if o.begin == at)
        faults = {
            e.id: f"{shortened(e.name)}: {why}"
            for e in self._show.schedule
            for why in (fault_of(self._show, a) for a in (*e.begins, *e.ends))
            if why is not None
        }
        return CalendarReport(
            True, now, self._on, self._waiting(of, now), coming, at, self._missed, {**faults, **of.faults}
        )

    # -- until when it has looked --------------------------------------------------------------------------------------

    def _file(self, show: Show) -> Path:
        plain = "".join(c if c.isalnum() else "-" for c in show.name.lower())[:60]
        return self._folder / f"{plain}.json"

    def _kept_until(self, show: Show) -> float | None:
        try:
            return float(json.loads(self._file(show).read_text(encoding="utf-8"))["looked"])
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def _note(self, now: float, at_once: bool = False) -> None:
        if not self._show.schedule or (not at_once and now - self._noted < KEPT) or not self._started:
            return
        self._noted = now
        try:
            write_whole(self._file(self._show), json.dumps({"looked": now}).encode())
        except (OSError, ShowError) as error:
            log.warning(f"the time of the calendar cannot be noted ({error})")
