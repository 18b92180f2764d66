"""The one interface to the running show."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from ushering_adze.core.displays.nits import nits_of
from ushering_adze.core.onair.actions import Action
from ushering_adze.core.onair.faults import FaultNow, acknowledged, faults_now
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.onair.view import View
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.probing import Probed, probed
from ushering_adze.core.picture.resampling import halved
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.core.sound.in_step import InStep
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pictures import Sent, surface_picture
from ushering_adze.engine.report import CalendarReport, Report
from ushering_adze.engine.sounding import SoundReport
from ushering_adze.io.logs import log
from ushering_adze.io.outputs.png import PngSink
from ushering_adze.playout.alarms import Alarming
from ushering_adze.playout.as_run import AsRun
from ushering_adze.playout.calendar import CalendarRunner
from ushering_adze.playout.captions import CaptionsNow
from ushering_adze.playout.codes import TimecodeInputs
from ushering_adze.playout.feeds import Feeds
from ushering_adze.playout.frames import Frames
from ushering_adze.playout.memory import Memory, Remembered
from ushering_adze.playout.sound import SoundRunner
from ushering_adze.playout.walls import Painted, WallPainter

JUST = 1.0
"""Seconds for which what shows on surfaces is put down to the event of the calendar that did something last."""


class Playout:
    """A running show.  All methods may be called from any thread and return at once, unless they say otherwise.

    What goes in and comes out are values that need not be on the same heap: actions, shows, reports, pictures.

    Parameters
    ----------
    show : Show
    on_report : callable, optional
        Is given a report about a dozen times a second, in a thread of the playout's own.
    on_refused : callable, optional
        Is given an edit that cannot be run, and why, in a sentence.
    devices : bool
        Whether sound goes to devices; without them it is mixed and measured all the same.
    stage : Stage, optional
        What is on air at once; the show's opening otherwise.
    """

    def __init__(
        self,
        show: Show,
        on_report: Callable[[Report], None] | None = None,
        on_refused: Callable[[Show, str], None] = lambda show, why: None,
        devices: bool = True,
        stage: Stage | None = None,
    ) -> None:
        self._faults: dict[str, FaultNow] = {}
        told = None if on_report is None else lambda report: on_report(self._told(report))
        self._engine = Engine(show, told, on_refused, stage=stage)
        self._files: dict[str, PngSink] = {}
        self.sound = SoundRunner(self._engine, devices)
        self._captions = CaptionsNow(self._engine)
        self._walls = WallPainter(self._engine, self._captions, self.sound.meter)
        self._alarming = Alarming(self._engine, self._captions)
        self._memory = Memory()
        self._feeds = Feeds(self._engine, self.sound, self._wall_pixels)
        self.codes = TimecodeInputs(self._engine)
        self.codes.follow(show)
        self._lock = threading.Lock()
        self._as_run: AsRun | None = None
        self._calendar: CalendarRunner | None = None
        self._show = show
        self._meters = False
        self._snoozed: dict[str, float] = {}

    def _told(self, report: Report) -> Report:
        state, show = report.stage.program.target, report.stage.show
        feeds = self._feeds.reports(show, {s.source: s.state for s in report.signals})
        sound = self.sound.report(show, report.stage)
        report = replace(report, sound=sound)
        raised = self._alarming.follow(report, feeds)
        faults = {**report.faults, **self._feeds.faults(), **self.codes.faults(), **self.sound.faults()}
        sentences = {**faults, **raised}
        with self._lock:
            self._faults = faults_now(show, self._faults, sentences, sources_of(state), time.time())
            over = [key for key, until in self._snoozed.items() if time.monotonic() >= until]
            for key in over:
                del self._snoozed[key]
                if key in self._faults:
                    self._faults[key] = replace(self._faults[key], acknowledged=False)
            troubles = tuple(self._faults.values())
        unknown = any(t.grave != "part" and not t.acknowledged for t in troubles)
        self.sound.ordering.calls = show.alarms.calls and unknown
        calendar = CalendarReport() if self._calendar is None else self._calendar.report
        report = replace(report, faults=faults, troubles=troubles, feeds=feeds, calendar=calendar)
        self._log_as_run(report)
        self._walls.follow(report)
        self._memory.follow(report)
        return report

    def _log_as_run(self, report: Report) -> None:
        if self._as_run is None:
            return
        try:
            name, done = ("", 0.0) if self._calendar is None else self._calendar.by
            self._as_run.follow(report, name if time.monotonic() - done < JUST else "")
        except Exception:  # no log is worth the reports
            log.exception("the as-run log failed, and is kept no more")
            self._as_run = None

    # -- running -------------------------------------------------------------------------------------------------------

    def start(self, wait: float = 0.0, ahead: int = 1, rest: bool = False) -> None:
        """Begin, after waiting up to ``wait`` seconds until every source has ``ahead`` frames ready; at ``rest`` until
        `go`.
        """
        self._engine.start(wait, ahead, rest)
        self._feeds.start()
        self.sound.start()

    def go(self) -> None:
        """Make frames at the show's rate from now on."""
        self._engine.go()

    def stop(self, seconds: float = 10.0) -> None:
        """End; waits for who hangs so many seconds at most."""
        self._feeds.close()
        self.codes.close()
        self.sound.close()
        self._walls.close()
        self._captions.close()
        if self._calendar is not None:
            self._calendar.close()
        self._engine.stop(seconds)
        if self._as_run is not None:
            self._as_run.close()
            self._as_run = None

    # -- in ------------------------------------------------------------------------------------------------------------

    def act(self, action: Action) -> None:
        """Have something happen on air, at the next frame; an action that names what the show has not
        changes nothing.
        """
        self._engine.act(action)

    def edit(self, show: Show) -> None:
        """Run an edited show: what is on air stays, but for what the edit changed."""
        self._engine.set_show(show)
        self._follow(show)

    def open(self, show: Show) -> None:
        """Run another show from its opening; waits until it is made.

        Raises
        ------
        MemoryError
            And whatever else making its pictures may raise; the show that runs goes on untouched.
        """
        self._engine.open_show(show)
        self._follow(show, another=True)

    def _follow(self, show: Show, another: bool = False) -> None:
        """Whoever goes by the show beside the engine."""
        self._show = show
        self._point()
        self.codes.follow(show)
        if self._calendar is not None:
            self._calendar.set_show(show, another)

    def acknowledge(self, key: str | None = None) -> None:
        """Somebody knows of a fault, by its key, or of all there are; from then on, also if it was for a while only."""
        with self._lock:
            self._faults = acknowledged(self._faults, key)
            self._snoozed = {} if key is None else {k: at for k, at in self._snoozed.items() if k != key}

    def snooze(self, key: str, seconds: float) -> None:
        """Somebody knows of a fault for so long; if it is there then, it is new again."""
        self.acknowledge(key)
        with self._lock:
            self._snoozed[key] = time.monotonic() + seconds

    def moment_of(self, key: str) -> Pixels | None:
        """What a surface showed when an alarm of it was raised, small; None if it is of no surface, or over."""
        return self._alarming.pictures.get(key)

    def look_through(self, source: str | None) -> None:
        """Keep a source running though no canvas shows it, so that its pictures can be asked for; None lets it rest
        again.
        """
        self._engine.look_through(source)

    def look_at(self, view: View | None) -> None:
        """Have every report show a canvas as it is on program, on preview, or in a preset; None ends it."""
        self._engine.look_at(view)

    def glimpse(self, by: str, presets: tuple[int, ...]) -> None:
        """Have reports bring small pictures of what these presets would show, one after another; ``by`` names who wants
        them, in place of what it wanted before.
        """
        self._engine.glimpse(by, presets)

    def keep_as_run(self, folder: Path) -> None:
        """Keep a log of what surfaces show, a file for each day."""
        self._as_run = AsRun(folder)

    def run_calendar(self, folder: Path, clock: Callable[[], float] = time.time, zone: str | None = None) -> None:
        """Run the show's calendar from now on; ``folder`` keeps until when it was looked at."""
        self._calendar = CalendarRunner(self._engine, self._show, folder, clock, zone)
        self._calendar.start()

    @property
    def calendar(self) -> CalendarRunner | None:
        """The calendar that runs; None if none does."""
        return self._calendar

    def plan(self, list: str | None) -> None:
        """Have reports bring small pictures of what surfaces will show after each cue of a list; None ends it."""
        self._engine.plan(list)

    def _wall_pixels(self, wall: str) -> Pixels | None:
        painted = self._walls.painted_of(wall)
        return None if painted is None else painted.pixels

    def watch(self, wall: str | None) -> None:
        """Have a wall of the show painted from now on, as often as it has frames; none, if it is None."""
        self._walls.want(wall)
        self._point()

    def _point(self) -> None:
        """Pointers of meters move where somebody looks at them."""
        walls = self._walls.wanted
        shown = any(c.shows == "mix" for w in self._show.walls if w.id in walls for c in w.cells)
        self.sound.ordering.points = self._meters or shown

    @property
    def wall(self) -> Painted | None:
        """The wall that is watched, as it was painted last."""
        return self._walls.painted

    def probe(self, wall: str, n: int, x: float, y: float) -> Probed | None:
        """The pixel that a cell of a wall shows at a place of the wall, by the picture itself; None beside it.

        Parameters
        ----------
        wall : str
        n : int
            The cell's place among the wall's.
        x, y : float
            In pixels of the wall.
        """
        found = next((w for w in self._show.walls if w.id == wall), None)
        cell = found.cells[n] if found is not None and 0 <= n < len(found.cells) else None
        if found is None or cell is None or cell.of is None or cell.scope is not None:
            return None
        picture: Pixels | None = None
        surface: str | None = None
        if cell.shows == "source":
            frame = self._engine.picture_of(cell.of)
            picture = None if frame is None else frame.pixels
        elif cell.shows == "output":
            picture = self._engine.raster(cell.of)
            hang = {r.surface for c in self._show.canvases for r in c.regions if r.output == cell.of}
            surface = hang.pop() if len(hang) == 1 else None
        elif cell.shows == "surface":
            picture, surface = self.surface_picture(cell.of), cell.of
        pixel = None if picture is None else probed(found, cell, picture, x, y, self._walls.channels_of(cell))
        if pixel is None or surface is None:
            return pixel
        return pixel._replace(nits=nits_of(self._show, surface, pixel.colour))

    def listen(self, to: str | None) -> None:
        """Have the operator hear a source, a sound or a mix; what is heard otherwise, if it is None."""
        self.sound.listen(to)

    @property
    def listening(self) -> str | None:
        """What the operator chose to hear."""
        return self.sound.listening

    def sound_report(self) -> SoundReport:
        """What is heard now: it is asked for oftener than reports come."""
        return self.sound.report(self._engine.stage.show, self._engine.stage)

    def meter_by(self, scale: Scale) -> None:
        """Have meters of mixes be of a kind."""
        self.sound.ordering.scale = scale

    def look_at_meters(self, on: bool) -> None:
        """Have pointers of meters move, or rest: nobody looks at them."""
        self._meters = on
        self._point()

    def in_step(self, source: str) -> InStep | None:
        """By how much the sound of a live source comes after its picture, by the flashes and beeps of a test that it
        sees and hears; None without any.  It must run: it is on air, listened to, or looked through.
        """
        at = self._engine.sounds({source}).get(source)
        return None if at is None or at.live is None else at.live.in_step()

    def reset_meters(self, mix: str | None = None) -> None:
        """Set back what meters measure over long: of one mix, or of all."""
        self.sound.reset(mix)

    @property
    def remembered_span(self) -> tuple[float, float] | None:
        """The first and the last moment that is remembered, in seconds since 1970."""
        return self._memory.span()

    def remembered(self, moment: float) -> Remembered | None:
        """What surfaces showed at a moment, in seconds since 1970, small; None before there is anything."""
        return self._memory.at(moment)

    def forecast(self) -> None:
        """Measure this machine, once, and have reports tell what presets will want of a frame's time."""
        self._engine.forecast()

    def put_out(self, rasters: Mapping[str, Pixels]) -> int:
        """Show these rasters on outputs, in place of the show, until something else is laid over; gives a number for
        `put`.
        """
        return self._engine.put_out(rasters)

    # -- out -----------------------------------------------------------------------------------------------------------

    def frames_of(self, output: str, hand: Callable[[Pixels], object] | None = None) -> Frames:
        """What an output sends, from now on, until they are given back with `release`; handed to ``hand``, if that is
        given, in the frames' thread, where it must return at once.
        """
        frames = Frames(output, hand)
        self._engine.add_sink(output, frames, frames.put, lambda: frames.fault)
        return frames

    def release(self, frames: Frames) -> None:
        """No more frames of an output are wanted."""
        self._engine.remove_sink(frames.output, frames)
        frames.close()

    def write_files(self, output: str, path: Path) -> None:
        """Keep what an output sends in a PNG file, the newest picture always; in place of any file it was kept in."""
        self.stop_files(output)
        sink = self._files[output] = PngSink(path)
        self._engine.add_sink(output, sink, sink, lambda: sink.fault)

    def stop_files(self, output: str) -> None:
        """Keep it in a file no more."""
        sink = self._files.pop(output, None)
        if sink is not None:
            self._engine.remove_sink(output, sink)
            sink.close()

    def on_frame(self, call: Callable[[], object]) -> None:
        """Call with every frame that has been made, in the frames' thread: it returns at once, and raises nothing."""
        self._engine.on_frame(call)

    def on_wall(self, call: Callable[[Painted], object]) -> None:
        """Call when the wall that is watched has been painted, in its own thread; a picture that is held is painted
        over by nobody.
        """
        self._walls.on_painted(call)

    def after_frame(self, call: Callable[[], object]) -> None:
        """Call once when the next frame has been made, or the one after it, in the frames' thread: it must return at
        once.
        """
        self._engine.after_frame(call)

    @property
    def stage(self) -> Stage:
        """What is on air, as of the last frame."""
        return self._engine.stage

    def stage_document(self) -> dict[str, Any]:
        """The same as JSON, with its moments counted from now."""
        from ushering_adze.core.onair.document import stage_document  # a start does without what it reads

        return stage_document(self._engine.stage, time.perf_counter())

    def rasters(self) -> dict[str, Pixels]:
        """The newest picture of every output; do not write to it."""
        return self._engine.rasters

    def raster(self, output: str) -> Pixels | None:
        """The newest picture of one output; None if there is no such output yet."""
        return self._engine.raster(output)

    def surface_picture(self, surface: str) -> Pixels | None:
        """What a surface shows, taken back from what is sent, at its full size; None if nothing feeds it."""
        sent = {id: Sent(pixels, 0) for id, pixels in self._engine.rasters.items()}
        return surface_picture(self._engine.stage.show, surface, sent, 1 << 16)

    @property
    def serials(self) -> dict[str, int]:
        """A number for each output's picture: the same number means the same picture."""
        return self._engine.serials

    @property
    def covered(self) -> str | None:
        """What keeps new pictures from all outputs: held, black, or nothing."""
        return self._engine.covered

    @property
    def put(self) -> int:
        """The number of the rasters of `put_out` that are out; 0 if none are."""
        return self._engine.put

    @property
    def mark(self) -> tuple[int, float]:
        """Frames made, and when the last one was begun by ``time.perf_counter``."""
        return self._engine.mark

    @property
    def late(self) -> int:
        """Frames that were not finished by the end of the period they were for."""
        return self._engine.late

    @property
    def mean_milliseconds(self) -> float:
        """Time spent on a frame, mean of the last few seconds."""
        return self._engine.mean_milliseconds

    def unadjusted(self, source: str) -> Frame | None:
        """The present picture of a source as it comes, without its cut, key and colours."""
        return self._engine.unadjusted(source)

    def small_picture(self, source: str, width: float, height: float, known: int) -> Frame | None:
        """The present picture of a source, halved as often as it still fills a box in one way; None without any, or if
        it is the one whose number is ``known``.
        """
        frame = self.picture_of(source)
        if frame is None or frame.serial == known:
            return None
        h, w = frame.pixels.shape[:2]
        scale = min(width / w, height / h)
        return frame._replace(pixels=halved(frame.pixels, max(1, round(w * scale)), max(1, round(h * scale))))

    def picture_of(self, source: str) -> Frame | None:
        """The present picture of a source."""
        return self._engine.picture_of(source)

    def faults(self) -> dict[str, str]:
        """What is wrong now, in sentences, by the id of what it is of."""
        return {**self._engine.faults(), **self._feeds.faults(), **self.codes.faults(), **self.sound.faults()}
