"""The running show in a process of its own, as who looks at it sees it."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from ushering_adze.core.onair.actions import Action
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.view import View
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.probing import Probed
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.core.sound.in_step import InStep
from ushering_adze.engine.report import Report
from ushering_adze.engine.sounding import SoundReport
from ushering_adze.io.child import PICTURES, Child
from ushering_adze.io.logs import log
from ushering_adze.playout.frames import Frames, Sent
from ushering_adze.playout.memory import Remembered
from ushering_adze.playout.messages import Answer, Ask, Begin, Made, Now, Picture, Refused
from ushering_adze.playout.playout import Playout
from ushering_adze.playout.ring import RingOut
from ushering_adze.playout.walls import Painted
from ushering_adze.playout.wire import Wire

PATIENCE = 20.0
"""Seconds that an answer is waited for."""
HELD = 3
"""Pictures of sources that are kept, so that only new ones are sent."""
SOON = 10.0
"""Seconds after an edit within which a process that ends twice is taken to end for it."""


class Gone(ConnectionError):
    """There is no answer: the process has ended, or hangs."""


class Beside:
    """A running show, in a process of its own.  All methods are those of `Playout`, and do the same.

    If the process ends it is begun again, with what was on air.

    Parameters
    ----------
    show : Show
    on_report : callable
        Is given each report, in a thread of its own.
    on_refused : callable
        Is given an edit that cannot be run, and why, in a sentence.
    on_trouble : callable
        Is given a sentence when the process has ended, and was begun again.
    devices : bool
        Whether sound goes to devices.
    child : Child, optional
        The process, begun already.
    """

    def __init__(
        self,
        show: Show,
        on_report: Callable[[Report], None] = lambda report: None,
        on_refused: Callable[[Show, str], None] = lambda show, why: None,
        on_trouble: Callable[[str], None] = lambda told: None,
        devices: bool = True,
        child: Child | None = None,
    ) -> None:
        self._on_report, self._on_refused, self._on_trouble = on_report, on_refused, on_trouble
        self._devices = devices
        self._show, self._before, self._edited_at, self._ends = show, show, 0.0, 0
        self._now = Now(Stage.opened(show), {}, None, 0, (0, 0.0), 0, 0.0)
        self._life = threading.RLock()
        self._up = threading.Event()
        self._waiting: list[Ask] = []
        """What is to be done when the process is there again."""
        self._standing: dict[object, Ask] = {}
        """What was asked for once and for all, by what it is in place of."""
        self._answers: dict[int, Answer] = {}
        self._asking: dict[int, threading.Event] = {}
        self._calls: dict[int, Callable[[], object]] = {}
        self._count = 0
        self._shown: dict[str, _Shown] = {}
        self._rings: dict[str, RingOut] = {}
        self._rasters: dict[str, tuple[object, Pixels]] = {}
        self._pictures: OrderedDict[tuple[str, bool], Frame] = OrderedDict()
        self._watched: str | None = None
        self._wall: tuple[Painted, int] | None = None
        self._calendar: CalendarBeside | None = None
        self._closing = False
        self._live(child or Child(PICTURES))

    # -- the process ---------------------------------------------------------------------------------------------------

    def _live(self, child: Child, stage: Stage | None = None) -> None:
        """Have a process make the pictures, from what was on air."""
        with self._life:
            begin = Begin(self._show, stage, self._devices)
            self._child, self._wire = child, Wire(child.socket)
            self._rings.clear()
            self._wire.send(begin)
            for ask in (*self._standing.values(), *self._waiting):
                self._wire.send(ask)
            self._waiting.clear()
            self._up.set()
        threading.Thread(target=self._read, args=(self._wire,), name="beside", daemon=True).start()

    def _read(self, wire: Wire) -> None:
        while True:
            try:
                message = wire.receive()
            except Exception as error:
                if not isinstance(error, EOFError):
                    log.exception("what the pictures' process says cannot be read")
                wire.close()
                break
            try:
                self._take(message)
            except Exception:
                log.exception("what the pictures' process says could not be used")
        with self._life:
            self._up.clear()
            for asking in self._asking.values():
                asking.set()
        if not self._closing:
            self._again()

    def _take(self, message: object) -> None:
        match message:
            case Now():
                self._now = message
            case Report():
                self._on_report(message)
            case Answer():
                asking = self._asking.get(message.number)
                if asking is not None:
                    self._answers[message.number] = message
                    asking.set()
            case Made():
                self._calls.pop(message.number, lambda: None)()
            case Picture():
                self._place(message)
            case Refused():
                self._on_refused(message.show, message.why)

    def _again(self) -> None:
        """The process has ended, and nobody wanted it to: what was on air is to be on air again."""
        ended = self._child.ended(2)
        if ended is None:
            self._child.kill()
        how = "it hung" if ended is None else f"signal {-ended}" if ended < 0 else f"code {ended}"
        log.warning("the process that makes the pictures ended", how=how)
        with self._life:
            self._ends += 1
            show, taken_back = self._show, self._ends > 1 and time.monotonic() - self._edited_at < SOON
            if taken_back and self._before is not show:
                self._show = self._before
                self._waiting = [ask for ask in self._waiting if all(given is not show for given in ask.given)]
        if self._show is not show:
            self._on_refused(show, f"the process that makes the pictures ended with it ({how})")
        time.sleep(min(5.0, 0.5 * (self._ends - 1)))
        if self._closing:
            return
        try:
            self._live(Child(PICTURES), self._now.stage)
        except OSError:
            log.exception("the process that makes the pictures cannot be begun")
            self._on_trouble("The process that makes the pictures ended, and cannot be begun again. Start anew.")
            return
        self._on_trouble(f"The process that makes the pictures ended ({how}); it runs again, with what was on air.")

    def _tell(self, name: str, *given: Any, **named: Any) -> None:
        """Have something done."""
        self._give(Ask(0, name, given, named))

    def _stand(self, what: object, name: str, *given: Any, **named: Any) -> None:
        """Have something be so, from now on, whatever becomes of the process; ``what`` it is in place of."""
        ask = Ask(0, name, given, named)
        with self._life:
            self._standing[what] = ask
            self._give(ask)

    def _give(self, ask: Ask) -> None:
        with self._life:
            if self._closing:
                return
            if self._up.is_set():
                try:
                    self._wire.send(ask)
                    return
                except OSError:
                    pass  # who reads finds it out as well
            if ask not in self._standing.values():
                self._waiting.append(ask)

    def _ask(self, name: str, *given: Any, patience: float = PATIENCE, **named: Any) -> Any:
        """What the process answers.

        Raises
        ------
        Gone
            It has ended, or does not answer.
        Exception
            Whatever doing it raises.
        """
        answered = threading.Event()
        with self._life:
            self._count += 1
            number = self._count
            self._asking[number] = answered
            up = self._up.is_set()
            if up:
                try:
                    self._wire.send(Ask(number, name, given, named))
                except OSError:
                    up = False
        if up:
            answered.wait(patience)
        del self._asking[number]
        answer = self._answers.pop(number, None)
        if answer is None:
            raise Gone(f"the process that makes the pictures does not answer ({name})")
        if answer.error is not None:
            raise answer.error
        return answer.value

    def _asked(self, name: str, *given: Any) -> Any:
        """The same; None if there is no answer."""
        try:
            return self._ask(name, *given, patience=2.0)
        except Gone:
            return None

    # -- running -------------------------------------------------------------------------------------------------------

    def start(self, wait: float = 0.0, ahead: int = 1, rest: bool = False) -> None:
        """See `Playout.start`."""
        self._tell("start", wait, ahead, rest)
        with self._life:
            self._standing["start"] = Ask(0, "start", (0.0, 1, rest))

    def go(self) -> None:
        """See `Playout.go`."""
        self._stand("go", "go")

    def stop(self, seconds: float = 10.0) -> None:
        """See `Playout.stop`."""
        if self._closing:
            return
        with self._life:
            self._closing = True
        try:
            self._ask("stop", seconds, patience=seconds + 2)
        except Gone:
            log.warning("the process that makes the pictures did not end by itself")
        self._wire.close()
        if self._child.ended(1) is None:
            self._child.kill()
        for shown in [*self._shown.values()]:
            shown.close()

    # -- in ------------------------------------------------------------------------------------------------------------

    def act(self, action: Action) -> None:
        """See `Playout.act`."""
        self._tell("act", action)

    def edit(self, show: Show) -> None:
        """See `Playout.edit`."""
        self._run(show, "edit")

    def open(self, show: Show) -> None:
        """See `Playout.open`."""
        self._run(show, "open")

    def _run(self, show: Show, name: str) -> None:
        with self._life:  # before it is asked: should the process end meanwhile, it is begun again with this show
            was = self._show, self._before, self._edited_at, self._ends
            self._show, self._before, self._edited_at, self._ends = show, self._show, time.monotonic(), 0
        try:
            self._ask(name, show)
        except Gone:
            self._tell(name, show)  # when it is there again
        except Exception:
            with self._life:
                self._show, self._before, self._edited_at, self._ends = was
            raise

    def acknowledge(self, key: str | None = None) -> None:
        """See `Playout.acknowledge`."""
        self._tell("acknowledge", key)

    def snooze(self, key: str, seconds: float) -> None:
        """See `Playout.snooze`."""
        self._tell("snooze", key, seconds)

    def look_through(self, source: str | None) -> None:
        """See `Playout.look_through`."""
        self._stand("look_through", "look_through", source)

    def look_at(self, view: View | None) -> None:
        """See `Playout.look_at`."""
        self._stand("look_at", "look_at", view)

    def glimpse(self, by: str, presets: tuple[int, ...]) -> None:
        """See `Playout.glimpse`."""
        self._stand(("glimpse", by), "glimpse", by, presets)

    def plan(self, list: str | None) -> None:
        """See `Playout.plan`."""
        self._stand("plan", "plan", list)

    def keep_as_run(self, folder: Path) -> None:
        """See `Playout.keep_as_run`."""
        self._stand("keep_as_run", "keep_as_run", folder)

    def run_calendar(self, folder: Path, clock: Callable[[], float] = time.time, zone: str | None = None) -> None:
        """See `Playout.run_calendar`; the clock is the machine's own."""
        self._calendar = CalendarBeside(self._tell)
        self._stand("run_calendar", "run_calendar", folder, zone=zone)

    @property
    def calendar(self) -> CalendarBeside | None:
        """See `Playout.calendar`."""
        return self._calendar

    def forecast(self) -> None:
        """See `Playout.forecast`."""
        self._stand("forecast", "forecast")

    def put_out(self, rasters: Mapping[str, Pixels]) -> int:
        """See `Playout.put_out`."""
        return int(self._ask("put_out", dict(rasters)))

    def after_frame(self, call: Callable[[], object]) -> None:
        """See `Playout.after_frame`; it is called in the thread that reads."""
        with self._life:
            self._count += 1
            self._calls[self._count] = call
            self._give(Ask(0, "after_frame", (self._count,)))

    # -- sound ---------------------------------------------------------------------------------------------------------

    def listen(self, to: str | None) -> None:
        """See `Playout.listen`."""
        self._stand("listen", "listen", to)

    @property
    def listening(self) -> str | None:
        """See `Playout.listening`."""
        ask = self._standing.get("listen")
        return None if ask is None else ask.given[0]

    def sound_report(self) -> SoundReport:
        """See `Playout.sound_report`."""
        return self._asked("sound_report") or SoundReport()

    def meter_by(self, scale: Scale) -> None:
        """See `Playout.meter_by`."""
        self._stand("meter_by", "meter_by", scale)

    def look_at_meters(self, on: bool) -> None:
        """See `Playout.look_at_meters`."""
        self._stand("look_at_meters", "look_at_meters", on)

    def in_step(self, source: str) -> InStep | None:
        """See `Playout.in_step`."""
        return self._asked("in_step", source)

    def reset_meters(self, mix: str | None = None) -> None:
        """See `Playout.reset_meters`."""
        self._tell("reset_meters", mix)

    # -- pictures ------------------------------------------------------------------------------------------------------

    def frames_of(self, output: str) -> Frames:
        """See `Playout.frames_of`."""
        with self._life:
            self._count += 1
            key = f"{self._count}:{output}"
            shown = self._shown[key] = _Shown(
                output,
                key,
                lambda number: self._tell("took", key, number),
                lambda why: self._stand(("fault", key), "fault", key, why),
            )
            self._stand(key, "frames_of", key, output)
        return shown

    def release(self, frames: Frames) -> None:
        """See `Playout.release`."""
        assert isinstance(frames, _Shown)
        with self._life:
            self._shown.pop(frames.key, None)
            self._standing.pop(frames.key, None)
            self._standing.pop(("fault", frames.key), None)
            self._tell("release", frames.key)
            self._rings.pop(frames.key, None)
        frames.close()

    def _place(self, picture: Picture) -> None:
        """There is a new picture to be seen."""
        with self._life:
            pixels = self._rings.setdefault(picture.key, RingOut()).seen(picture.at)
            shown, watched = self._shown.get(picture.key), f"wall:{self._watched}"
            if pixels is None:
                return
            if shown is not None:
                shown.put(pixels, picture.at.number)
            elif picture.key == watched and self._watched is not None:
                self._wall = Painted(self._watched, pixels, picture.at.serial), picture.at.number

    def write_files(self, output: str, path: Path) -> None:
        """See `Playout.write_files`."""
        self._stand(("files", output), "write_files", output, path)

    def stop_files(self, output: str) -> None:
        """See `Playout.stop_files`."""
        with self._life:
            self._standing.pop(("files", output), None)
            self._tell("stop_files", output)

    def watch(self, wall: str | None) -> None:
        """See `Playout.watch`."""
        with self._life:
            if wall != self._watched:
                self._watched, self._wall = wall, None
                for key in [k for k in self._rings if k.startswith("wall:")]:
                    del self._rings[key]
            self._stand("watch", "watch", wall)

    @property
    def wall(self) -> Painted | None:
        """See `Playout.wall`; its pixels stay as they are until it is asked for again."""
        with self._life:
            if self._wall is None:
                return None
            painted, number = self._wall
            if number:
                self._wall = painted, 0
                self._tell("took", f"wall:{painted.wall}", number)
        return painted

    def probe(self, wall: str, n: int, x: float, y: float) -> Probed | None:
        """See `Playout.probe`."""
        return self._asked("probe", wall, n, x, y)

    def moment_of(self, key: str) -> Pixels | None:
        """See `Playout.moment_of`."""
        return self._asked("moment_of", key)

    @property
    def remembered_span(self) -> tuple[float, float] | None:
        """See `Playout.remembered_span`."""
        return self._asked("read", "remembered_span")

    def remembered(self, moment: float) -> Remembered | None:
        """See `Playout.remembered`."""
        return self._asked("remembered", moment)

    def rasters(self) -> dict[str, Pixels]:
        """See `Playout.rasters`."""
        found = {o.id: self.raster(o.id) for o in self.stage.show.outputs}
        return {id: pixels for id, pixels in found.items() if pixels is not None}

    def raster(self, output: str) -> Pixels | None:
        """See `Playout.raster`."""
        key, pixels = self._rasters.get(output, (None, None))
        found = self._asked("raster", output, key)
        if found is None:
            return None
        key, new = found
        if new is not None:
            self._rasters[output] = key, new
            return new
        return pixels

    def surface_picture(self, surface: str) -> Pixels | None:
        """See `Playout.surface_picture`."""
        return self._asked("surface_picture", surface)

    def unadjusted(self, source: str) -> Frame | None:
        """See `Playout.unadjusted`."""
        return self._picture(source, True)

    def picture_of(self, source: str) -> Frame | None:
        """See `Playout.picture_of`."""
        return self._picture(source, False)

    def _picture(self, source: str, unadjusted: bool) -> Frame | None:
        with self._life:
            known = self._pictures.get((source, unadjusted))
        found = self._asked("picture_of", source, None if known is None else known.serial, unadjusted)
        if not isinstance(found, Frame):
            return known if found is not None else None
        with self._life:
            self._pictures[source, unadjusted] = found
            self._pictures.move_to_end((source, unadjusted))
            while len(self._pictures) > HELD:
                self._pictures.popitem(last=False)
        return found

    def small_picture(self, source: str, width: float, height: float, known: int) -> Frame | None:
        """See `Playout.small_picture`."""
        return self._asked("small_picture", source, width, height, known)

    # -- out -----------------------------------------------------------------------------------------------------------

    @property
    def stage(self) -> Stage:
        """See `Playout.stage`."""
        return self._now.stage

    def stage_document(self) -> dict[str, Any]:
        """See `Playout.stage_document`."""
        return self._ask("stage_document")

    @property
    def serials(self) -> dict[str, int]:
        """See `Playout.serials`."""
        return self._now.serials

    @property
    def covered(self) -> str | None:
        """See `Playout.covered`."""
        return self._now.covered

    @property
    def put(self) -> int:
        """See `Playout.put`."""
        return self._now.put

    @property
    def mark(self) -> tuple[int, float]:
        """See `Playout.mark`."""
        return self._now.mark

    @property
    def late(self) -> int:
        """See `Playout.late`."""
        return self._now.late

    @property
    def mean_milliseconds(self) -> float:
        """See `Playout.mean_milliseconds`."""
        return self._now.milliseconds

    def faults(self) -> dict[str, str]:
        """See `Playout.faults`."""
        return self._asked("faults") or {}


class CalendarBeside:
    """The calendar that runs in that process."""

    def __init__(self, tell: Callable[[str], None]) -> None:
        self._tell = tell

    def bring_on(self) -> None:
        """See `CalendarRunner.bring_on`."""
        self._tell("bring_on")

    def forget_missed(self) -> None:
        """See `CalendarRunner.forget_missed`."""
        self._tell("forget_missed")


class _Shown(Frames):
    """What one output sends, from the other process."""

    def __init__(
        self, output: str, key: str, took: Callable[[int], None], failed: Callable[[str | None], None]
    ) -> None:
        self.key, self._took, self._failed = key, took, failed
        self._last = -1
        self._why: str | None = None
        super().__init__(output)

    def newest(self) -> Sent | None:
        """See `Frames.newest`."""
        sent = super().newest()
        if sent is not None and sent.number != self._last:
            self._last = sent.number
            self._took(sent.number)
        return sent

    @property
    def fault(self) -> str | None:
        """Why nobody sees the pictures."""
        return self._why

    @fault.setter
    def fault(self, why: str | None) -> None:
        if why != self._why:
            self._why = why
            self._failed(why)


Running = Playout | Beside
"""A running show, in this process or beside it."""
