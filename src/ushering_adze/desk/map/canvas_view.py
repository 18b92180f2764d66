"""The gestures that place regions on a canvas: select, drag, size, draw, measure."""

from __future__ import annotations

import time

import numpy as np
from PySide6.QtCore import QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent

from ushering_adze.core.exchange.pixelmap import cabinet_lines
from ushering_adze.core.mapping.regions import moved, picked, placed, rect_of, with_groups
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.snap import SnapLines, snap_lines, snapped
from ushering_adze.core.show import Canvas
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.map.canvas_drawing import CanvasDrawing
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.session import Session

SNAP = 7
"""Widget pixels within which edges snap."""
STEP = 1 / 60


class CanvasView(CanvasDrawing):
    """A canvas with its regions, and what the pointer does to them.

    Signals
    -------
    drawn : a rectangle was drawn
    accepted : a rectangle found in the guide was clicked
    """

    drawn = Signal(object)
    accepted = Signal(object)

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__(session, guides)
        self.snapping = True
        self._pressed: tuple[int, int] | None = None
        self._edges: tuple[int, int] | None = None
        self._lines: SnapLines | None = None
        self._gesture: object = None
        self._wanted: QPointF | None = None
        self._free = False
        self._applied = 0.0
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._apply)

    def set_snapping(self, on: bool) -> None:
        """Whether what is dragged snaps."""
        self.snapping = on

    def pointed(self, at: QPointF | None) -> None:
        """Say where the pointer is."""
        self._at = None if at is None else self.pixel_at(at)
        canvas = self.canvas
        if (
            self._at is None
            or canvas is None
            or not (0 <= self._at[0] < canvas.width and 0 <= self._at[1] < canvas.height)
        ):
            self.session.point_at(None)
        else:
            self.session.point_at(canvas.id, *self._at)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.pan_starts(event) or event.button() != Qt.MouseButton.LeftButton or self.canvas is None:
            return
        at = event.position()
        self._pressed = self.pixel_at(at)
        self._gesture, self.measured = object(), None
        if self.tool != "select":
            self._band = Rect(*self._pressed, 1, 1) if self.tool == "draw" else None
            self.measured = (self._pressed, self._pressed) if self.tool == "measure" else None
            return
        chosen = self.chosen()
        if len(chosen) == 1:
            grip = next(
                (k for k, box in self._handles(rect_of(chosen[0])).items() if box.adjusted(-3, -3, 3, 3).contains(at)),
                None,
            )
            if grip is not None and min(self.pixels(*rect_of(chosen[0])).size().toTuple()) > 20:
                self._begin([chosen[0].id], grip)
                return
        hit = self.hit(at)
        more = one_more(event)
        if hit is None:
            found = next((f for rect, f in self.proposals() if rect.holds(Rect(*self._pressed, 1, 1))), None)
            if found is not None:
                self.accepted.emit(found)
                return
            if not more:
                self.session.select_region(None)
            self._band = Rect(*self._pressed, 1, 1)
            return
        now = self.session.regions
        if more:
            self.session.select_regions([r for r in now if r != hit] if hit in now else [*now, hit])
            return
        if hit not in now:
            group = with_groups(self.session.show, [hit])
            self.session.select_regions([*[g for g in group if g != hit], hit])
        self._begin(with_groups(self.session.show, self.session.regions), None)

    def _begin(self, ids: list[str], edges: tuple[int, int] | None) -> None:
        canvas = self.canvas
        assert canvas is not None
        self._edges = edges
        self._start = {r.id: rect_of(r) for c, r in picked(self.session.show, ids) if c.id == canvas.id}
        self._lines = self._snap_lines(canvas)
        w, h = canvas.width, canvas.height
        ends = [(-1, 0, 1, h), (w, 0, 1, h), (0, -1, w, 1), (0, h, w, 1)]
        self._still = np.array([*(rect_of(r) for r in canvas.regions if r.id not in self._start), *ends], np.int64)

    def _snap_lines(self, canvas: Canvas) -> SnapLines:
        """What edges snap to: the canvas, regions that stand still, their cabinets, and what was found in the guide."""
        still = [r for r in canvas.regions if r.id not in self._start]
        xs, ys = [], []
        for region in still:
            columns, rows = cabinet_lines(self.session.show, region)
            xs += [region.x + c for c in columns]
            ys += [region.y + r for r in rows]
        others = [*(rect_of(r) for r in still), *(r for r, _ in self.proposals())]
        return snap_lines(others, Rect(0, 0, canvas.width, canvas.height), xs, ys)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pan_moves(event):
            return
        self.hover = self.hit(event.position()) if self._pressed is None else self.hover
        self.pointed(event.position())
        self._free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier) or not self.snapping
        if self._pressed is not None:
            self._wanted = event.position()
            wait = STEP - (time.perf_counter() - self._applied)
            if wait <= 0:
                self._apply()
            elif not self._later.isActive():
                self._later.start(max(1, int(wait * 1000)))
        self.update()

    def _apply(self) -> None:
        """Bring what is dragged to where the pointer is; at most sixty times a second."""
        if self._wanted is None or self._pressed is None:
            return
        at, self._wanted = self.pixel_at(self._wanted), None
        self._applied = time.perf_counter()
        if self.tool == "measure":
            self.measured = (self._pressed, at)
        elif self._band is not None:
            self._band = self._drawn_band(at)
        elif self._start and self._edges is None:
            self._drag(at)
        elif self._start:
            self._resize(at)
        self.update()

    def _near(self) -> int:
        return 0 if self._free else max(1, round(SNAP / self.scale))

    def _drawn_band(self, at: tuple[int, int]) -> Rect:
        assert self._pressed is not None
        (x0, y0), (x1, y1) = self._pressed, at
        rect = Rect(min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1)
        canvas = self.canvas
        self.hints = []
        if self.tool != "draw" or canvas is None or self._free:
            return rect
        lines = self._snap_lines(canvas)
        left, hints = snapped(Rect(rect.x, rect.y, 0, 0), lines, self._near(), False)
        corner, more = snapped(Rect(rect.right, rect.foot, 0, 0), lines, self._near(), False)
        self.hints = [*hints, *more]
        return Rect(left.x, left.y, max(1, corner.x - left.x), max(1, corner.y - left.y))

    def _drag(self, at: tuple[int, int]) -> None:
        assert self._pressed is not None
        dx, dy = at[0] - self._pressed[0], at[1] - self._pressed[1]
        box = box_around(list(self._start.values()))
        to = box.moved(dx, dy)
        self.hints = []
        if self._lines is not None and not self._free and (dx or dy):
            to, self.hints = snapped(to, self._lines, self._near())
        step = (to.x - box.x, to.y - box.y)
        rects = {id: r.moved(*step) for id, r in self._start.items()}
        if step != (0, 0) or any(rect_of(r) != self._start[r.id] for r in self.chosen() if r.id in self._start):
            name = self.chosen()[-1].name if len(self._start) == 1 and self.chosen() else f"{len(self._start)} regions"
            self.session.try_edit(f"Move {name} on the canvas", lambda show: placed(show, rects), self._gesture)

    def _resize(self, at: tuple[int, int]) -> None:
        assert self._edges is not None
        (id, start), (ex, ey) = next(iter(self._start.items())), self._edges
        x0, y0, x1, y1 = start.x, start.y, start.right, start.foot
        self.hints = []
        x, y = at
        if self._lines is not None and not self._free:
            corner, self.hints = snapped(Rect(x, y, 0, 0), self._lines, self._near(), False)
            x, y = corner.x, corner.y
        x0, x1 = (min(x, x1 - 1), x1) if ex < 0 else (x0, max(x, x0 + 1)) if ex > 0 else (x0, x1)
        y0, y1 = (min(y, y1 - 1), y1) if ey < 0 else (y0, max(y, y0 + 1)) if ey > 0 else (y0, y1)
        rect = Rect(x0, y0, x1 - x0, y1 - y0)
        self.session.try_edit("Resize a region", lambda show: placed(show, {id: rect}), self._gesture)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._later.stop()
        self._apply()
        band, tool = self._band, self.tool
        self._pressed, self._band, self._start, self._edges, self.hints, self._lines = None, None, {}, None, [], None
        canvas = self.canvas
        if band is not None and canvas is not None:
            if tool == "draw" and band.w > 2 and band.h > 2:
                self.drawn.emit(band)
            elif tool == "select":
                inside = [r.id for r in canvas.regions if band.holds(rect_of(r))]
                if inside:
                    self.session.select_regions([*self.session.regions, *inside])
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self.hit(event.position())
        region = next((r for r in self.canvas.regions if r.id == hit), None) if self.canvas and hit else None
        if region is not None:
            self.show_rect(region.x, region.y, region.w, region.h)

    def leaveEvent(self, event: object) -> None:
        self.hover = None
        self.pointed(None)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()

    def nudge(self, dx: int, dy: int) -> None:
        """Move what is selected by whole pixels."""
        ids = self.session.regions
        if ids:
            names = [r.name for _, r in picked(self.session.show, ids)]
            what = names[0] if len(names) == 1 else f"{len(names)} regions"
            self.session.try_edit(f"Move {what} on the canvas", lambda show: moved(show, ids, dx, dy))
