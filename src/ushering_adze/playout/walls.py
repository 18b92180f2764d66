"""Walls painted beside the frames, as often as the show has frames: sources, surfaces and what truly leaves."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from itertools import zip_longest
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.mapping.faces import faces_on
from ushering_adze.core.onair.chasing import place_words, position
from ushering_adze.core.onair.cues import head_of, internal_code
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.picture.scopes import scope_picture
from ushering_adze.core.picture.walls import CellNow, blank_wall, cell_rect, paint_cell, picture_rect
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Feed, Show, WallSource
from ushering_adze.core.show.cue import number_words
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.show.walling import laid_out
from ushering_adze.core.sound.levels import SILENT
from ushering_adze.core.sound.metering import Measured
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.logs import log
from ushering_adze.io.media.captions import Readable
from ushering_adze.playout.captions import CaptionsNow

MOST_A_SECOND = 30.0
CANVAS = 1280
"""Pixels of the width of a whole canvas, at most."""
SCOPED = 3
"""Pictures of a wall from one of a scope to the next."""


class Painted(NamedTuple):
    """A wall as it was painted last, and a number for it; do not write to its pixels."""

    wall: str
    pixels: Pixels
    serial: int


class WallPainter:
    """Paints every wall that is looked at, sent by a feed, or shown as a source, in a thread of its own."""

    def __init__(
        self, engine: Engine, captions: CaptionsNow, meter: Callable[[frozenset[str]], None] = lambda sources: None
    ) -> None:
        self._engine, self._captions, self._meter = engine, captions, meter
        self._watched: str | None = None
        self._report: Report | None = None
        self._walls: dict[str, _OneWall] = {}
        self._likenesses: dict[str, tuple[Wall, Wall, Wall]] = {}
        """Walls that are laid out as others are: the wall, the other, and what comes of it."""
        self.wanted: frozenset[str] = frozenset()
        """Walls that are painted."""
        self._closing, self._news = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None
        self._late = 0

    @property
    def painted(self) -> Painted | None:
        """The wall that is looked at, as it was painted last."""
        return None if self._watched is None else self.painted_of(self._watched)

    def painted_of(self, wall: str) -> Painted | None:
        """A wall as it was painted last; None if it is not painted."""
        found = self._walls.get(wall)
        return None if found is None else found.painted

    def want(self, wall: str | None) -> None:
        """Paint this wall from now on; none, if it is None."""
        self._watched = wall
        self._look()

    def follow(self, report: Report) -> None:
        """What surfaces show, by the newest report."""
        self._report = report
        self._look()

    def _look(self) -> None:
        stage = self._engine.stage
        wanted = {self._watched} if self._watched is not None else set()
        wanted |= {f.of for f in stage.show.feeds if f.shows == "wall" and f.id in stage.feeds}
        sources = [s for s in stage.show.sources if isinstance(s, WallSource)]
        if sources:
            shown = sources_of(stage.program.target) | (sources_of(stage.preview()) if stage.previewing else set())
            shown |= {o.source for o in stage.overrides.values() if o.source is not None}
            wanted |= {s.wall for s in sources if s.id in shown}
        self.wanted = frozenset(wanted)
        if wanted and self._thread is None:
            self._thread = threading.Thread(target=self._run, name="wall", daemon=True)
            self._thread.start()
        self._news.set()

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
            wanted = self.wanted
            for gone in [id for id in self._walls if id not in wanted]:
                del self._walls[gone]
            if not wanted:
                self._engine.watch(frozenset())
                self._meter(frozenset())
                self._news.wait()
                self._news.clear()
                due = time.monotonic()
                continue
            try:
                self._paint_all(wanted)
            except Exception:
                log.exception("a wall could not be painted")
                self._walls.clear()
            late, self._late = self._late, self._engine.late
            period = max(1 / MOST_A_SECOND, self._engine.stage.show.frame_seconds)
            if self._late > late:  # frames come first
                period *= 2
            due = max(due + period, time.monotonic() + 0.002)
            self._closing.wait(max(0.0, due - time.monotonic()))

    def _paint_all(self, wanted: frozenset[str]) -> None:
        stage = self._engine.stage
        show = stage.show
        walls = [self._laid_out(show, w, stage.layouts.get(w.id)) for w in show.walls if w.id in wanted]
        for gone in self._walls.keys() - {w.id for w in walls}:
            del self._walls[gone]
        shown = {c.of for w in walls for c in w.cells if c.shows == "source"}
        far = {c.of for w in walls for c in w.cells if c.shows == "far"}
        shown |= {f.heard_by for f in show.feeds if f.id in far}
        shown &= {s.id for s in show.sources}
        self._engine.watch(frozenset(shown))
        self._meter(frozenset(id for w in walls for c in w.cells for id in _sounding(show, self._report, c)))
        for wall in walls:
            one = self._walls.get(wall.id)
            if one is None or one.wall is not wall:
                serial = 0 if one is None or one.painted is None else one.painted.serial
                one = _OneWall(self._engine, wall, serial, self._captions)
            one.paint(show, self._report)
            self._walls[wall.id] = one
            if one.painted is not None and any(isinstance(s, WallSource) and s.wall == wall.id for s in show.sources):
                self._engine.give_wall(wall.id, one.painted.pixels)

    def channels_of(self, cell: WallCell) -> int:
        """For how many channels a cell has meters now."""
        report = self._report
        return 0 if report is None else len(_channels(report.stage.show, report, cell))

    def _laid_out(self, show: Show, wall: Wall, like: str | None) -> Wall:
        """A wall as it is laid out now: the very same value as long as that is so."""
        other = next((w for w in show.walls if w.id == like), None)
        if other is None:
            return wall
        known = self._likenesses.get(wall.id)
        if known is None or known[0] is not wall or known[1] is not other:
            known = self._likenesses[wall.id] = wall, other, laid_out(wall, other)
        return known[2]


class _OneWall:
    """One wall and its rasters."""

    def __init__(self, engine: Engine, wall: Wall, serial: int, captions: CaptionsNow) -> None:
        self._engine, self.wall, self._captions = engine, wall, captions
        # three rasters in turn: one is looked at while another is painted
        self._rasters = [blank_wall(wall) for _ in range(3)]
        self._drawn: dict[int, object] = {}
        # free boxes lie over the grid
        self._order = sorted(enumerate(wall.cells), key=lambda entry: entry[1].box is not None)
        self._turn = self._count = 0
        self._serial = serial
        self.painted: Painted | None = None

    def paint(self, show: Show, report: Report | None) -> None:
        """Paint it anew, where anything has changed."""
        wall = self.wall
        wanted = {c.of for c in wall.cells if c.shows == "source" and c.of is not None} & {s.id for s in show.sources}
        frames = self._engine.pictures_of(wanted)
        turn = (self._turn + 1) % len(self._rasters)
        raster = self._rasters[turn]
        raster[:] = self._rasters[self._turn]
        painted: list[Rect] = []
        for n, cell in self._order:
            frame = frames.get(cell.of) if cell.shows == "source" and cell.of is not None else None
            now = self._now(show, report, cell, None if frame is None else frame.pixels)
            told = (now._replace(picture=None), id(now.picture) if frame is None else frame.serial, cell)
            rect = cell_rect(wall, cell)
            covered = cell.box is not None and any(not rect.meet(r).empty for r in painted)
            waits = cell.scope is not None and (self._count + n) % SCOPED and not covered
            if covered or (self._drawn.get(n) != told and not waits):
                self._drawn[n] = told
                if cell.scope is not None and now.picture is not None:
                    size = picture_rect(rect, (16, 9), cell.line)
                    made = scope_picture(cell.scope, now.picture, size.w, size.h, self._count)
                    now = now._replace(picture=made, label=f"{now.label}, {cell.scope.replace('-', ' ')}")
                paint_cell(raster, rect, now, cell)
                painted.append(rect)
        self._count += 1
        self._turn = turn
        self._serial += 1
        self.painted = Painted(wall.id, raster, self._serial)

    def _now(self, show: Show, report: Report | None, cell: WallCell, picture: Pixels | None) -> CellNow:
        """What a cell shows now."""
        made = self._shown(show, report, cell, picture)
        return made if report is None else made._replace(channels=_channels(show, report, cell))

    def _shown(self, show: Show, report: Report | None, cell: WallCell, picture: Pixels | None) -> CellNow:
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
            case "preview" if cell.of in {s.id for s in show.surfaces}:
                return self._preview(show, report, cell)
            case "feed" if cell.of in {f.id for f in show.feeds}:
                return self._feed(show, report, cell.of, cell.label)
            case "far" if cell.of in {f.id for f in show.feeds}:
                return self._far(show, report, show.feed(cell.of), cell.label)
            case "mix" if (mix := show.sound.mix(cell.of or "")) is not None:
                told = {m.mix: m for m in report.sound.mixes}.get(mix.id) if report is not None else None
                silent = self._engine.stage.is_muted(mix.id)
                measured = Measured() if told is None else told.measured
                state = "mute" if silent else ""
                name = cell.label or mix.name
                return CellNow(None, name, state, wrong=silent, meter=measured, target=mix.target, most=mix.most)
            case "player":
                return self._player(show, report, cell)
            case "timecode":
                return self._timecode(show, report, cell)
            case "alarms":
                return _alarms(report, cell)
            case "canvas" if cell.of in {c.id for c in show.canvases}:
                return self._canvas(show, report, cell)
            case "text":
                return CellNow(None, "", words=cell.label or " ")
            case "clock":
                return CellNow(None, cell.label or "Time of day", words=time.strftime("%H:%M:%S"))
            case "cues":
                return self._cues(show, cell)
        return CellNow(None, cell.label)

    def _canvas(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """A canvas as far as surfaces show it, each of them at its place."""
        canvas = show.canvas(cell.of or "")
        scale = min(1.0, CANVAS / canvas.width)
        width, height = max(1, round(canvas.width * scale)), max(1, round(canvas.height * scale))
        made = np.zeros((height, width, 4), np.uint8)
        made[..., 3] = 255
        for face in faces_on(show, canvas.id) if report is not None else ():
            picture, rect = report.program.get(face.surface.id), face.rect
            if picture is None:
                continue
            x, y = max(0, round(rect.x * scale)), max(0, round(rect.y * scale))
            part = made[y : max(y + 1, round(rect.foot * scale)), x : max(x + 1, round(rect.right * scale))]
            if part.size:
                part[:] = cv2.resize(picture, part.shape[1::-1], interpolation=cv2.INTER_AREA)
        return CellNow(made, cell.label or canvas.name, f"{canvas.width} × {canvas.height}")

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
        read = Readable()
        if cell.captions and cell.of is not None:
            read = self._captions.of((cell.of,), report).get(cell.of, read)
        data = ""
        if cell.data and picture is not None:
            real = None if signal is None else signal.real
            data = f"{picture.shape[1]} × {picture.shape[0]}" if real is None else real.words
            level = None if cell.of is None else report.sound.sources.get(cell.of)
            if level is not None and level.dialogue is not None:
                data += f", dialogue {level.dialogue} LKFS"
        wrong = cell.of in report.faults
        return CellNow(
            picture, name, word[:24], program, preview, wrong, data=data, caption=read.text, over=read.bitmaps
        )

    def _preview(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """What a surface would show after the next take; what it shows, where that changes nothing."""
        assert cell.of is not None
        name = cell.label or show.surface(cell.of).name
        if report is None:
            return CellNow(None, name)
        changes = cell.of in report.preview
        picture = report.preview.get(cell.of, report.program.get(cell.of))
        return CellNow(picture, name, "next" if changes else "stays", preview=changes)

    def _feed(self, show: Show, report: Report | None, id: str, label: str) -> CellNow:
        """What a feed sends, and how that goes."""
        feed = show.feed(id)
        told = None if report is None else next((f for f in report.feeds if f.feed == id), None)
        state = "off" if told is None or not told.on else told.state if told.why is None else "not sent"
        wrong = told is not None and (told.why is not None or told.withheld is not None)
        match feed.shows:
            case "surface":
                picture = None if report is None else report.program.get(feed.of)
            case "output":
                picture = self._engine.raster(feed.of)
            case "source":
                frame = self._engine.picture_of(feed.of)
                picture = None if frame is None else frame.pixels
            case _:
                picture = None
        data = "" if told is None or not told.on else f"{told.kbit / 1000:.1f} Mbit/s, {told.dropped} dropped"
        return CellNow(picture, label or feed.name, state, told is not None and told.on, wrong=wrong, data=data)

    def _far(self, show: Show, report: Report | None, feed: Feed, label: str) -> CellNow:
        """What comes back from where a feed goes."""
        name = label or f"{feed.name}, far end"
        if feed.heard_by is None:
            return CellNow(None, name, "nobody hears it")
        frame = self._engine.picture_of(feed.heard_by)
        told = None if report is None else next((s for s in report.signals if s.source == feed.heard_by), None)
        wrong = report is not None and feed.heard_by in report.faults
        return CellNow(
            None if frame is None else frame.pixels, name, "" if told is None else told.words[:24], wrong=wrong
        )

    def _player(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """How long a player, a countdown or a clock still goes."""
        told = None if report is None else next((p for p in report.players if p.source == cell.of), None)
        name = cell.label or next((s.name for s in show.sources if s.id == cell.of), "no such source")
        if told is None:
            return CellNow(None, name)
        left = told.left
        words = clock_digits(int(told.within if left is None else left + 0.999))
        state = "runs" if told.running else "stands"
        return CellNow(None, name, state, told.on == "program", told.on == "preview", words=words)

    def _timecode(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """Where a list stands on the timecode that it follows, now."""
        cues = next((y for y in show.lists if y.id == cell.of), None)
        if cues is None or cues.code is None or report is None:
            return CellNow(None, cell.label or ("no timecode" if cues is None else cues.name), words="–")
        codes = {**report.codes, "internal": internal_code(self._engine.stage)}
        here = position(cues.code, codes, self._engine.clock())
        state = "" if here is not None else "nothing comes"
        return CellNow(None, cell.label or cues.name, state, wrong=here is None, words=place_words(cues.code, here))

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


def _sounding(show: Show, report: Report | None, cell: WallCell) -> tuple[str, ...]:
    """Sources whose channels a cell has meters for."""
    if cell.meters is None or cell.of is None:
        return ()
    match cell.shows:
        case "source":
            return (cell.of,)
        case "far":
            return tuple(f.heard_by for f in show.feeds if f.id == cell.of and f.heard_by is not None)
        case "surface":
            told = None if report is None else report.surfaces.get(cell.of)
            return () if told is None else told.source_ids
    return ()


def _channels(show: Show, report: Report, cell: WallCell) -> tuple[float, ...]:
    """The peaks of the channels of what a cell shows; of several sources on a surface the loudest of each."""
    heard = report.sound.sources
    levels = [heard[id].channels for id in _sounding(show, report, cell) if id in heard]
    return tuple(max(of) for of in zip_longest(*levels, fillvalue=SILENT))


def _alarms(report: Report | None, cell: WallCell) -> CellNow:
    """The gravest thing that is wrong and that nobody knows of, large."""
    new = [] if report is None else [t for t in report.troubles if not t.acknowledged]
    known = 0 if report is None else len(report.troubles) - len(new)
    name = cell.label or "Alarms"
    if not new:
        words = "Nothing new" if known else "All is well"
        return CellNow(None, name, f"{known} known" if known else "", words=words)
    first = new[0]
    state = f"and {len(new) - 1} more" if len(new) > 1 else ""
    return CellNow(None, name, state, wrong=True, words=f"{first.name}: {first.what}", alarm=first.grave != "part")
