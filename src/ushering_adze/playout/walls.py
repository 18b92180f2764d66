"""Walls painted between the frames, one for each: sources, surfaces and what truly leaves."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable
from typing import NamedTuple

from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.scopes import scope_picture
from ushering_adze.core.picture.walls import CellNow, blank_wall, cell_rect, paint_cell, picture_rect
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Show, WallSource
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.show.walling import laid_out
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.logs import log
from ushering_adze.playout.captions import CaptionsNow
from ushering_adze.playout.cells import Cells, channels_of, sounding

REST = 0.025
"""Seconds from one picture of a wall to the next, at the least: not every frame of a show of 50 a second has one."""
GAP_WAIT = 0.2
"""Seconds that it waits for a frame at most: a slow show makes few."""
HELD_HERE = 2
"""References to a raster that nobody holds: the list's, and that of who counts."""
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
        self._told: Callable[[Painted], object] = lambda painted: None
        self._watched: str | None = None
        self._report: Report | None = None
        self._walls: dict[str, _OneWall] = {}
        self._likenesses: dict[str, tuple[Wall, Wall, Wall]] = {}
        """Walls that are laid out as others are: the wall, the other, and what comes of it."""
        self.wanted: frozenset[str] = frozenset()
        """Walls that are painted."""
        self._closing, self._news = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None

    def on_painted(self, call: Callable[[Painted], object]) -> None:
        """Call when the wall that is looked at has been painted."""
        self._told = call

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
        made = self._engine.frame_made
        while not self._closing.is_set():
            wanted = self.wanted
            for gone in [id for id in self._walls if id not in wanted]:
                del self._walls[gone]
            if not wanted:
                self._engine.watch(frozenset())
                self._meter(frozenset())
                self._news.wait()
                self._news.clear()
                continue
            began = time.monotonic()
            try:
                self._paint_all(wanted)
                if self.painted is not None:
                    self._told(self.painted)
            except Exception:
                log.exception("a wall could not be painted")
                self._walls.clear()
            # frames come first: walls are painted when one has just been made
            self._closing.wait(max(0.0, began + REST - time.monotonic()))
            made.wait(GAP_WAIT)
            made.clear()

    def _paint_all(self, wanted: frozenset[str]) -> None:
        stage = self._engine.stage
        show = stage.show
        walls = [self._laid_out(show, w, stage.layouts.get(w.id)) for w in show.walls if w.id in wanted]
        for gone in self._walls.keys() - {w.id for w in walls}:
            del self._walls[gone]
        shown = {c.of or "" for w in walls for c in w.cells if c.shows == "source"}
        far = {c.of for w in walls for c in w.cells if c.shows == "far"}
        shown |= {f.heard_by or "" for f in show.feeds if f.id in far}
        shown &= {s.id for s in show.sources}
        self._engine.watch(frozenset(shown))
        self._meter(frozenset(id for w in walls for c in w.cells for id in sounding(show, self._report, c)))
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
        return 0 if report is None else len(channels_of(report.stage.show, report, cell))

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
        self.wall = wall
        self._cells = Cells(engine, wall, captions)
        self._rasters = [blank_wall(wall)]
        self._behind: list[set[Rect]] = [set()]
        """Where others were painted since each of them was."""
        self._drawn: dict[int, tuple[object, Pixels | None]] = {}
        # free boxes lie over the grid
        self._order = sorted(enumerate(wall.cells), key=lambda entry: entry[1].box is not None)
        self._turn = self._count = 0
        self._serial = serial
        self.painted: Painted | None = None

    def paint(self, show: Show, report: Report | None) -> None:
        """Paint it anew, where anything has changed."""
        cells = self._cells.now(show, report)
        new: list[tuple[Rect, CellNow, WallCell]] = []
        for n, cell in self._order:
            now = cells[n]
            told = now._replace(picture=None), cell
            # a picture without a number is kept, so that no other can come to lie where it lay
            kept = None if now.serial else now.picture
            before = self._drawn.get(n)
            same = before is not None and before[0] == told and before[1] is kept
            rect = cell_rect(self.wall, cell)
            covered = cell.box is not None and any(not rect.meet(under).empty for under, _, _ in new)
            waits = cell.scope is not None and (self._count + n) % SCOPED and not covered
            if covered or not (same or waits):
                self._drawn[n] = told, kept
                new.append((rect, now, cell))
        self._paint(new)
        self._count += 1

    def _paint(self, new: list[tuple[Rect, CellNow, WallCell]]) -> None:
        """Paint what is new, on a raster that nobody holds and that has all the rest of the newest one."""
        turn = self._unheld()
        raster, newest = self._rasters[turn], self._rasters[self._turn]
        painted = {rect for rect, _, _ in new}
        for rect in self._behind[turn] - painted:
            raster[rect.cut()] = newest[rect.cut()]
        self._behind[turn].clear()
        for rect, now, cell in new:
            if cell.scope is not None and now.picture is not None:
                size = picture_rect(rect, (16, 9), cell.line)
                made = scope_picture(cell.scope, now.picture, size.w, size.h, self._count)
                now = now._replace(picture=made, label=f"{now.label}, {cell.scope.replace('-', ' ')}")
            paint_cell(raster, rect, now, cell)
        for other, behind in enumerate(self._behind):
            if other != turn:
                behind |= painted
        self._turn = turn
        self._serial += 1
        self.painted = Painted(self.wall.id, raster, self._serial)

    def _unheld(self) -> int:
        """Which raster is not the newest, and held by nobody who still looks at it, shows it or sends it."""
        for turn in range(len(self._rasters)):
            if turn != self._turn and sys.getrefcount(self._rasters[turn]) <= HELD_HERE:
                return turn
        self._rasters.append(self._rasters[self._turn].copy())
        self._behind.append(set())
        return len(self._rasters) - 1
