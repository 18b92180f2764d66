"""Walls painted beside the frames, as often as the show has frames: sources, surfaces and what truly leaves."""

from __future__ import annotations

import threading
import time
from typing import NamedTuple

from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.walls import CellNow, blank_wall, cell_rect, paint_cell
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.core.show.cue import number_words
from ushering_adze.core.show.wall import WallCell
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.logs import log

MOST_A_SECOND = 30.0


class Painted(NamedTuple):
    """A wall as it was painted last, and a number for it; do not write to its pixels."""

    wall: str
    pixels: Pixels
    serial: int


class WallPainter:
    """Paints the wall that is watched, in a thread of its own."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._wanted: str | None = None
        self._report: Report | None = None
        self._rasters: list[Pixels] = []
        self._drawn: dict[int, object] = {}
        self._of: object = None
        self._turn = 0
        self.painted: Painted | None = None
        self._closing, self._news = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None

    def want(self, wall: str | None) -> None:
        """Paint this wall from now on; none, if it is None."""
        self._wanted = wall
        if wall is not None and self._thread is None:
            self._thread = threading.Thread(target=self._run, name="wall", daemon=True)
            self._thread.start()
        self._news.set()

    def follow(self, report: Report) -> None:
        """What surfaces show, by the newest report."""
        self._report = report

    def close(self) -> None:
        """End."""
        self._closing.set()
        self._news.set()
        if self._thread is not None:
            self._thread.join(2)

    # -- in its thread -------------------------------------------------------------------------------------------------

    def _run(self) -> None:
        due = time.monotonic()
        while not self._closing.is_set():
            if self._wanted is None:  # also what was being painted when the last one went
                self.painted = None
                self._engine.watch(frozenset())
                self._news.wait()
                self._news.clear()
                due = time.monotonic()
                continue
            try:
                self._paint()
            except Exception:
                log.exception("a wall could not be painted")
                self._of = None
            period = max(1 / MOST_A_SECOND, self._engine.stage.show.frame_seconds)
            due = max(due + period, time.monotonic() + 0.002)
            self._closing.wait(max(0.0, due - time.monotonic()))

    def _paint(self) -> None:
        show, report = self._engine.stage.show, self._report
        wall = next((w for w in show.walls if w.id == self._wanted), None)
        if wall is None:
            self.painted = None
            return
        if self._of is not wall:  # two rasters in turn: one is looked at while the other is painted
            self._of, self._rasters, self._drawn = wall, [blank_wall(wall) for _ in range(3)], {}
        watched = frozenset(c.of for c in wall.cells if c.shows == "source" and c.of is not None)
        known = {s.id for s in show.sources}
        self._engine.watch(watched & known)
        frames = self._engine.pictures_of(watched & known)
        turn = (self._turn + 1) % len(self._rasters)
        raster = self._rasters[turn]
        raster[:] = self._rasters[self._turn]
        for n, cell in enumerate(wall.cells):
            serial = frames[cell.of].serial if cell.shows == "source" and cell.of in frames else None
            picture = frames[cell.of].pixels if cell.shows == "source" and cell.of in frames else None
            now = self._now(show, report, cell, picture)
            told = (now._replace(picture=None), serial if serial is not None else id(now.picture), cell)
            if self._drawn.get(n) != told:
                self._drawn[n] = told
                paint_cell(raster, cell_rect(wall, cell), now, cell.marks)
        self._turn = turn
        serial_now = (self.painted.serial if self.painted is not None else 0) + 1
        self.painted = Painted(wall.id, raster, serial_now)

    def _now(self, show: Show, report: Report | None, cell: WallCell, picture: Pixels | None) -> CellNow:
        """What a cell shows now."""
        match cell.shows:
            case "source":
                return self._source(show, report, cell, picture)
            case "surface" if cell.of in {s.id for s in show.surfaces}:
                name = cell.label or show.surface(cell.of).name
                told = report.surfaces.get(cell.of) if report is not None else None
                if report is None or told is None:
                    return CellNow(None, name)
                word = "" if told.state == "live" else told.state
                wrong = told.state in ("lost", "override", "held", "black", "rehearsal")
                shown = " + ".join(told.sources)
                label = f"{name}: {shown}" if shown else name
                return CellNow(report.program.get(cell.of), label, word, bool(told.sources), wrong=wrong)
            case "output" if cell.of in {o.id for o in show.outputs}:
                output = show.output(cell.of)
                timing = output.timing
                words = f"{timing.width} × {timing.height}"
                label = cell.label or f"{output.number} {output.name}"
                black = self._engine.stage.is_black(cell.of)
                return CellNow(self._engine.raster(cell.of), label, "black" if black else words, wrong=black)
            case "clock":
                return CellNow(None, cell.label or "Time of day", words=time.strftime("%H:%M:%S"))
            case "cues":
                return self._cues(show, cell)
        return CellNow(None, cell.label)

    def _source(self, show: Show, report: Report | None, cell: WallCell, picture: Pixels | None) -> CellNow:
        if cell.of not in {s.id for s in show.sources}:
            return CellNow(None, cell.label or "no such source", "gone", wrong=True)
        name, stage = cell.label or show.source(cell.of).name, self._engine.stage
        if report is None:
            return CellNow(picture, name)
        # on program is what is truly painted on any surface; on preview, what a take would bring
        program = any(cell.of in told.source_ids for told in report.surfaces.values())
        preview = not program and stage.previewing and cell.of in sources_of(stage.preview())
        signal = next((s for s in report.signals if s.source == cell.of), None)
        word = signal.words if signal is not None else "lost" if cell.of in report.faults else ""
        return CellNow(picture, name, word[:24], program, preview, cell.of in report.faults)

    def _cues(self, show: Show, cell: WallCell) -> CellNow:
        cues = next((y for y in show.lists if y.id == cell.of), show.lists[0] if show.lists else None)
        if cues is None:
            return CellNow(None, cell.label or "no cue list")
        stage = self._engine.stage
        if all(y.id != cues.id for y in stage.show.lists):
            return CellNow(None, cues.name)
        armed = cues.cue(head_of(stage, cues.id).armed)
        words = "nothing is armed" if armed is None else f"{number_words(armed.number)} {armed.name}"
        then = None if armed is None else cues.after(armed.id)
        state = "" if then is None else f"then {number_words(then.number)} {then.name}"
        return CellNow(None, cell.label or cues.name, state, words=words)
