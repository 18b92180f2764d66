"""The running show in a process of its own, as who looks at it sees it."""

from __future__ import annotations

import itertools
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
from ushering_adze.io.child import Child
from ushering_adze.playout.frames import Frames, Sent
from ushering_adze.playout.link import Gone, Link
from ushering_adze.playout.memory import Remembered
from ushering_adze.playout.messages import Begin, Made, Now, Picture, Refused
from ushering_adze.playout.playout import Playout
from ushering_adze.playout.ring import RingOut
from ushering_adze.playout.walls import Painted

AGE = 1 << 40
"""Pictures that one process numbers at the most."""
HELD = 3
"""Pictures of sources that are kept, so that only new ones are sent."""
SOON = 10.0
"""Seconds after an edit within which a process that ends twice is taken to end for it."""


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
        self._show, self._before, self._edited_at = show, show, 0.0
        self._fresh = True
        """Whether the show is yet to be on air from its opening: what was on air is another's then."""
        self._age = 0
        """Is added to the numbers of pictures: each process counts anew, and none may be taken for an earlier one."""
        self._now = Now(Stage.opened(show), {}, None, 0, (0, 0.0), 0, 0.0)
        self._calls: dict[int, Callable[[], object]] = {}
        self._count = itertools.count(1)
        self._shown: dict[str, _Shown] = {}
        self._rings: dict[str, RingOut] = {}
        self._rasters: dict[str, tuple[object, Pixels]] = {}
        self._pictures: OrderedDict[tuple[str, bool], Frame] = OrderedDict()
        self._watched: str | None = None
        self._wall: tuple[Painted, int] | None = None
        self._calendar: CalendarBeside | None = None
        self._link = Link(self._begin, self._take, self._ended, self._again, child)

    # -- the process ---------------------------------------------------------------------------------------------------

    def _begin(self) -> Begin:
        self._age += AGE
        for kept in (self._rings, self._rasters, self._pictures):
            kept.clear()
        return Begin(self._show, None if self._fresh else self._now.stage, self._devices)

    def _take(self, message: object) -> None:
        match message:
            case Now():
                self._now = message._replace(serials={id: n + self._age for id, n in message.serials.items()})
                self._fresh = self._fresh and message.stage.show is not self._show
            case Report():
                self._on_report(message)
            case Made():
                self._calls.pop(message.number, lambda: None)()
            case Picture():
                self._place(message)
            case Refused():
                self._on_refused(message.show, message.why)

    def _ended(self, how: str) -> None:
        """The process has ended: for the last edit, if that was just now, and it has done so twice."""
        with self._link.lock:
            show = self._show
            if self._link.ends > 1 and time.monotonic() - self._edited_at < SOON:
                self._show = self._before
                self._link.without(show)
        if self._show is not show:
            self._on_refused(show, f"the process that makes the pictures ended with it ({how})")

    def _again(self, how: str, error: OSError | None) -> None:
        if error is None:
            self._on_trouble(f"The process that makes the pictures ended ({how}); it runs again, with what was on air.")
        else:
            self._on_trouble(
                f"The process that makes the pictures ended ({how}) and cannot be begun again ({error.strerror}); "
                "save the show and start the program anew."
            )

    # -- running -------------------------------------------------------------------------------------------------------

    def start(self, wait: float = 0.0, ahead: int = 1, rest: bool = False) -> None:
        """See `Playout.start`."""
        self._link.tell("start", wait, ahead, rest)
        self._link.as_if("start", "start", 0.0, 1, rest)

    def go(self) -> None:
        """See `Playout.go`."""
        self._link.stand("go", "go")

    def stop(self, seconds: float = 10.0) -> None:
        """See `Playout.stop`."""
        self._link.close("stop", seconds)
        for shown in [*self._shown.values()]:
            shown.close()

    # -- in ------------------------------------------------------------------------------------------------------------

    def act(self, action: Action) -> None:
        """See `Playout.act`."""
        self._link.tell("act", action)

    def edit(self, show: Show) -> None:
        """See `Playout.edit`."""
        self._run(show, "edit")

    def open(self, show: Show) -> None:
        """See `Playout.open`."""
        self._run(show, "open")

    def _run(self, show: Show, name: str) -> None:
        with self._link.lock:  # before it is asked: should the process end meanwhile, it is begun again with this show
            was = self._show, self._before, self._edited_at, self._link.ends, self._fresh
            self._show, self._before, self._edited_at, self._link.ends = show, self._show, time.monotonic(), 0
            self._fresh = self._fresh or name == "open"
        try:
            self._link.ask(name, show)
        except Gone:
            self._link.tell(name, show)
        except Exception:
            with self._link.lock:
                self._show, self._before, self._edited_at, self._link.ends, self._fresh = was
            raise

    def acknowledge(self, key: str | None = None) -> None:
        """See `Playout.acknowledge`."""
        self._link.tell("acknowledge", key)

    def snooze(self, key: str, seconds: float) -> None:
        """See `Playout.snooze`."""
        self._link.tell("snooze", key, seconds)

    def look_through(self, source: str | None) -> None:
        """See `Playout.look_through`."""
        self._link.stand("look_through", "look_through", source)

    def look_at(self, view: View | None) -> None:
        """See `Playout.look_at`."""
        self._link.stand("look_at", "look_at", view)

    def glimpse(self, by: str, presets: tuple[int, ...]) -> None:
        """See `Playout.glimpse`."""
        self._link.stand(("glimpse", by), "glimpse", by, presets)

    def plan(self, list: str | None) -> None:
        """See `Playout.plan`."""
        self._link.stand("plan", "plan", list)

    def keep_as_run(self, folder: Path) -> None:
        """See `Playout.keep_as_run`."""
        self._link.stand("keep_as_run", "keep_as_run", folder)

    def run_calendar(self, folder: Path, *, zone: str | None = None) -> None:
        """See `Playout.run_calendar`; by the clock of the machine."""
        self._calendar = CalendarBeside(self._link.tell)
        self._link.stand("run_calendar", "run_calendar", folder, zone=zone)

    @property
    def calendar(self) -> CalendarBeside | None:
        """See `Playout.calendar`."""
        return self._calendar

    def forecast(self) -> None:
        """See `Playout.forecast`."""
        self._link.stand("forecast", "forecast")

    def put_out(self, rasters: Mapping[str, Pixels]) -> int:
        """See `Playout.put_out`."""
        return int(self._link.ask("put_out", dict(rasters)))

    def after_frame(self, call: Callable[[], object]) -> None:
        """See `Playout.after_frame`; it is called in the thread that reads."""
        number = next(self._count)
        self._calls[number] = call
        self._link.tell("after_frame", number)

    # -- sound ---------------------------------------------------------------------------------------------------------

    def listen(self, to: str | None) -> None:
        """See `Playout.listen`."""
        self._link.stand("listen", "listen", to)

    @property
    def listening(self) -> str | None:
        """See `Playout.listening`."""
        return next(iter(self._link.standing("listen")), None)

    def sound_report(self) -> SoundReport:
        """See `Playout.sound_report`."""
        return self._link.asked("sound_report") or SoundReport()

    def meter_by(self, scale: Scale) -> None:
        """See `Playout.meter_by`."""
        self._link.stand("meter_by", "meter_by", scale)

    def look_at_meters(self, on: bool) -> None:
        """See `Playout.look_at_meters`."""
        self._link.stand("look_at_meters", "look_at_meters", on)

    def in_step(self, source: str) -> InStep | None:
        """See `Playout.in_step`."""
        return self._link.asked("in_step", source)

    def reset_meters(self, mix: str | None = None) -> None:
        """See `Playout.reset_meters`."""
        self._link.tell("reset_meters", mix)

    # -- pictures ------------------------------------------------------------------------------------------------------

    def frames_of(self, output: str) -> Frames:
        """See `Playout.frames_of`."""
        key = f"{next(self._count)}:{output}"
        with self._link.lock:
            shown = self._shown[key] = _Shown(
                output,
                key,
                lambda number: self._link.tell("took", key, number),
                lambda why: self._link.stand(("fault", key), "fault", key, why),
            )
            self._link.stand(key, "frames_of", key, output)
        return shown

    def release(self, frames: Frames) -> None:
        """See `Playout.release`."""
        assert isinstance(frames, _Shown)
        with self._link.lock:
            self._shown.pop(frames.key, None)
            self._link.fall(frames.key, ("fault", frames.key))
            self._link.tell("release", frames.key)
            self._rings.pop(frames.key, None)
        frames.close()

    def _place(self, picture: Picture) -> None:
        """There is a new picture to be seen."""
        with self._link.lock:
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
        self._link.stand(("files", output), "write_files", output, path)

    def stop_files(self, output: str) -> None:
        """See `Playout.stop_files`."""
        with self._link.lock:
            self._link.fall(("files", output))
            self._link.tell("stop_files", output)

    def watch(self, wall: str | None) -> None:
        """See `Playout.watch`."""
        with self._link.lock:
            if wall != self._watched:
                self._watched, self._wall = wall, None
                for key in [k for k in self._rings if k.startswith("wall:")]:
                    del self._rings[key]
            self._link.stand("watch", "watch", wall)

    @property
    def wall(self) -> Painted | None:
        """See `Playout.wall`; its pixels stay as they are until it is asked for again."""
        with self._link.lock:
            if self._wall is None:
                return None
            painted, number = self._wall
            if number:
                self._wall = painted, 0
                self._link.tell("took", f"wall:{painted.wall}", number)
        return painted

    def probe(self, wall: str, n: int, x: float, y: float) -> Probed | None:
        """See `Playout.probe`."""
        return self._link.asked("probe", wall, n, x, y)

    def moment_of(self, key: str) -> Pixels | None:
        """See `Playout.moment_of`."""
        return self._link.asked("moment_of", key)

    @property
    def remembered_span(self) -> tuple[float, float] | None:
        """See `Playout.remembered_span`."""
        return self._link.asked("read", "remembered_span")

    def remembered(self, moment: float) -> Remembered | None:
        """See `Playout.remembered`."""
        return self._link.asked("remembered", moment)

    def rasters(self) -> dict[str, Pixels]:
        """See `Playout.rasters`."""
        found = {o.id: self.raster(o.id) for o in self.stage.show.outputs}
        return {id: pixels for id, pixels in found.items() if pixels is not None}

    def raster(self, output: str) -> Pixels | None:
        """See `Playout.raster`."""
        key, pixels = self._rasters.get(output, (None, None))
        found = self._link.asked("raster", output, key)
        if found is None:
            return None
        key, new = found
        if new is not None:
            self._rasters[output] = key, new
            return new
        return pixels

    def surface_picture(self, surface: str) -> Pixels | None:
        """See `Playout.surface_picture`."""
        return self._link.asked("surface_picture", surface)

    def unadjusted(self, source: str) -> Frame | None:
        """See `Playout.unadjusted`."""
        return self._picture(source, True)

    def picture_of(self, source: str) -> Frame | None:
        """See `Playout.picture_of`."""
        return self._picture(source, False)

    def _picture(self, source: str, unadjusted: bool) -> Frame | None:
        with self._link.lock:
            known = self._pictures.get((source, unadjusted))
        serial = None if known is None else known.serial - self._age
        found = self._link.asked("picture_of", source, serial, unadjusted)
        if not isinstance(found, Frame):
            return known if found is not None else None
        found = found._replace(serial=found.serial + self._age)
        with self._link.lock:
            self._pictures[source, unadjusted] = found
            self._pictures.move_to_end((source, unadjusted))
            while len(self._pictures) > HELD:
                self._pictures.popitem(last=False)
        return found

    def small_picture(self, source: str, width: float, height: float, known: int) -> Frame | None:
        """See `Playout.small_picture`."""
        found = self._link.asked("small_picture", source, width, height, known - self._age)
        return None if found is None else found._replace(serial=found.serial + self._age)

    # -- out -----------------------------------------------------------------------------------------------------------

    @property
    def stage(self) -> Stage:
        """See `Playout.stage`."""
        return self._now.stage

    def stage_document(self) -> dict[str, Any]:
        """See `Playout.stage_document`."""
        return self._link.ask("stage_document")

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
        return self._link.asked("faults") or {}


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
