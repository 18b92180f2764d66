"""The canvas: its regions, the guide under it, and the gestures that place them."""

from __future__ import annotations

import time
from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap

from ushering_adze.core.exchange.pixelmap import cabinet_lines
from ushering_adze.core.layout.arrange import box_around
from ushering_adze.core.layout.find import Found
from ushering_adze.core.layout.orient import placed_on_raster
from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.layout.regions import moved, picked, placed, rect_of, with_groups
from ushering_adze.core.layout.snap import Hint, SnapLines, distances, snap_lines, snapped
from ushering_adze.core.light.blend import overlaps_of
from ushering_adze.core.show import Canvas, LedWall, RectLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.map.guides import Guides
from ushering_adze.desk.map.raster import HEAD, RULER, RasterView, region_colour
from ushering_adze.desk.pictures import hatch
from ushering_adze.desk.session import Session

Tool = Literal["select", "draw", "measure"]
SNAP = 7
"""Widget pixels within which edges snap."""
STEP = 1 / 60
MANY = 60
"""From so many regions on, those that stand still are painted once for a drag."""


class CanvasView(RasterView):
    """A canvas with its regions.

    Signals
    -------
    drawn : a rectangle was drawn
    accepted : a rectangle found in the guide was clicked
    resized : the view has another size
    """

    drawn = Signal(object)
    accepted = Signal(object)
    resized = Signal()
    top, foot = HEAD + RULER + 6, 36

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__(session, guides)
        self.canvas_id = session.show.canvases[0].id if session.show.canvases else ""
        self.tool: Tool = "select"
        self.snapping = True
        self.hints: list[Hint] = []
        self.measured: tuple[tuple[int, int], tuple[int, int]] | None = None
        self._at: tuple[int, int] | None = None
        self._pressed: tuple[int, int] | None = None
        self._band: Rect | None = None
        self._edges: tuple[int, int] | None = None
        self._start: dict[str, Rect] = {}
        self._lines: SnapLines | None = None
        self._still = np.zeros((0, 4), np.int64)
        self._gesture: object = None
        self._wanted: QPointF | None = None
        self._free = False
        self._applied = 0.0
        self._kept: tuple[object, QPixmap] | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._apply)
        self.setAccessibleName("Canvas")

    def sizeHint(self) -> QSize:
        return QSize(620, 460)

    def resizeEvent(self, event: object) -> None:
        self.resized.emit()

    @property
    def canvas(self) -> Canvas | None:
        """The canvas on view."""
        return next((c for c in self.session.show.canvases if c.id == self.canvas_id), None)

    def chosen(self) -> list[Region]:
        """The selected regions of this canvas."""
        canvas = self.canvas
        ids = set(self.session.regions)
        return [r for r in canvas.regions if r.id in ids] if canvas else []

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        canvas = self.canvas
        if canvas is None:
            self.frame(p, "Canvas", "this show has no canvas yet: add one from the canvas menu above")
            return
        self.place(canvas.width, canvas.height)
        still = [r for r in canvas.regions if r.id not in self._start]
        if self._start and len(still) > MANY:
            # Of many regions only those that move are painted at every step of a drag.
            key = (self.size(), self.origin, self.scale, self.shown, canvas.id, len(still))
            if self._kept is None or self._kept[0] != key:
                picture = QPixmap(self.size() * self.devicePixelRatio())
                picture.setDevicePixelRatio(self.devicePixelRatio())
                under = QPainter(picture)
                self._paint_ground(under, canvas)
                self._paint_regions(under, canvas, still)
                under.end()
                self._kept = (key, picture)
            p.drawPixmap(0, 0, self._kept[1])
            self._paint_regions(p, canvas, [r for r in canvas.regions if r.id in self._start])
        else:
            self._kept = None
            self._paint_ground(p, canvas)
            self._paint_regions(p, canvas, list(canvas.regions))
        self.hits = [(self.pixels(r.x, r.y, r.w, r.h), r.id) for r in canvas.regions] if not self._start else self.hits
        p.save()
        p.setClipRect(self.clip())
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(self.pixels(0, 0, canvas.width, canvas.height))
        self._paint_found(p, canvas)
        self._paint_chosen(p)
        self._paint_gesture(p, canvas)
        finding = self.session.finding
        if finding is not None and finding.where.on == "canvas" and finding.where.id == canvas.id and finding.where.rect is not None:
            self.paint_finding(p, self.pixels(*finding.where.rect))
        pointed = self.session.pointed
        if pointed is not None and pointed[0] == canvas.id and self._at is None:
            self.paint_cross(p, pointed[1], pointed[2])
        p.restore()
        self.paint_rulers(p, canvas.width, canvas.height)
        self._paint_foot(p, canvas)

    def _paint_ground(self, p: QPainter, canvas: Canvas) -> None:
        rate = f" · {canvas.rate:g}/s" if canvas.rate is not None else ""
        self.frame(p, "Canvas", f"{canvas.name} · {canvas.width} × {canvas.height} px{rate}")
        p.save()
        p.setClipRect(self.clip())
        p.fillRect(self.pixels(0, 0, canvas.width, canvas.height), theme.colour("#000000"))
        self.paint_guide(p, canvas.guide)
        p.restore()

    def _paint_regions(self, p: QPainter, canvas: Canvas, regions: list[Region]) -> None:
        p.save()
        seen = self.clip()
        p.setClipRect(seen)
        visible = [(r, where) for r in regions if (where := self.pixels(r.x, r.y, r.w, r.h)).intersects(seen)]
        if self.shown != "guide" or canvas.guide is None:
            for region, where in visible:
                self.picture(p, region, where)
        for region, _ in visible:
            self._paint_region(p, canvas, region)
        p.restore()

    def _paint_region(self, p: QPainter, canvas: Canvas, region: Region) -> None:
        where = self.pixels(region.x, region.y, region.w, region.h)
        surface = self.session.show.surface(region.surface) if region.surface else None
        if isinstance(surface, LedWall) and region.exact and self.shown != "guide" and where.width() > 24:
            p.setPen(theme.hairline(theme.FAINT))
            p.setOpacity(0.55)
            for k in range(1, surface.columns):
                x = where.x() + where.width() * k / surface.columns
                p.drawLine(QPointF(x, where.top()), QPointF(x, where.bottom()))
            for k in range(1, surface.rows):
                y = where.y() + where.height() * k / surface.rows
                p.drawLine(QPointF(where.left(), y), QPointF(where.right(), y))
            p.setOpacity(1.0)
        overlap = 0
        if surface is not None and surface.kind == "projection":
            others = [rect_of(r) for r in self.session.show.feeds_of(surface.id) if r.id != region.id]
            overlap = overlaps_of(rect_of(region), others).left
            if overlap:
                hatch(p, self.pixels(region.x, region.y, overlap, region.h), theme.TEXT, 70)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.hairline(region_colour(self.session, region), 2 if region.id == self.hover else 1.2))
        p.drawRect(where)
        if where.width() < 14 or where.height() < 12:
            return
        lines = [(region.name, True), (f"{region.w}×{region.h}+{region.x}+{region.y}", False)]
        if isinstance(surface, LedWall):
            lines.append((f"{surface.columns} × {surface.rows} cabinets", False))
        if region.group:
            lines.append((f"group {region.group}", False))
        inner = where.adjusted(overlap * self.scale, 0, 0, 0) if overlap else where
        if 34 < inner.width() < 110 and where.y() > self.origin.y() + 40:
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.DIM))
            wide = float(p.fontMetrics().horizontalAdvance(region.name))
            x = min(max(where.center().x() - wide / 2, self.origin.x() + 4), max(self.origin.x() + 4, self.width() - wide - 14))
            theme.left(p, QRectF(x, where.bottom() + 2, wide + 4, 16), region.name)
        else:
            self.label(p, inner, lines)
        if overlap:
            self._tag(p, self.pixels(region.x, region.y, overlap, region.h), f"blend {overlap} px")

    def _tag(self, p: QPainter, over: QRectF, words: str, token: str = theme.AMBER) -> None:
        p.setFont(theme.font(11, mono=True))
        width = p.fontMetrics().horizontalAdvance(words) + 10
        box = QRectF(over.center().x() - width / 2, over.bottom() - 22, width, 17)
        p.fillRect(box, theme.colour(theme.WELL, 215))
        p.setPen(theme.colour(token))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def proposals(self) -> list[tuple[Rect, Found]]:
        """What was found in the guide and is not accepted yet, in pixels of the canvas."""
        canvas = self.canvas
        if canvas is None or canvas.guide is None or not canvas.guide.shown:
            return []
        guide = canvas.guide
        found = self.guides.found.get(self.guides.path(guide), [])
        return [(f.rect.moved(guide.x, guide.y), f) for f in found]

    def _paint_found(self, p: QPainter, canvas: Canvas) -> None:
        for rect, found in self.proposals():
            where = self.pixels(*rect)
            p.setPen(theme.hairline(theme.TEXT, 1.6, dashed=True))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(where)
            self.label(p, where, [(f"{rect.w}×{rect.h}+{rect.x}+{rect.y}", False), (f"{100 * found.confidence:.0f} % sure", False)])

    def _paint_chosen(self, p: QPainter) -> None:
        chosen = self.chosen()
        p.setBrush(Qt.BrushStyle.NoBrush)
        for region in chosen:
            p.setPen(theme.hairline(theme.AMBER, 2))
            p.drawRect(self.pixels(region.x, region.y, region.w, region.h))
        if len(chosen) == 1:
            for handle in self._handles(rect_of(chosen[0])).values():
                p.fillRect(handle, theme.colour(theme.AMBER))
        elif len(chosen) > 1:
            p.setPen(theme.hairline(theme.AMBER, 1, dashed=True))
            p.drawRect(self.pixels(*box_around([rect_of(r) for r in chosen])).adjusted(-4, -4, 4, 4))

    def _handles(self, rect: Rect) -> dict[tuple[int, int], QRectF]:
        where = self.pixels(*rect)
        made = {}
        for dx in (-1, 0, 1):
            for dy in (-1, 0, 1):
                if dx or dy:
                    x = where.center().x() + dx * where.width() / 2
                    y = where.center().y() + dy * where.height() / 2
                    made[dx, dy] = QRectF(x - 3.5, y - 3.5, 7, 7)
        return made

    def _paint_gesture(self, p: QPainter, canvas: Canvas) -> None:
        if self._band is not None:
            p.setPen(theme.hairline(theme.AMBER, 1.4, dashed=self.tool == "select"))
            p.setBrush(theme.colour(theme.AMBER, 26))
            p.drawRect(self.pixels(*self._band))
            self._tag(p, self.pixels(*self._band), f"{self._band.w}×{self._band.h}+{self._band.x}+{self._band.y}")
        for hint in self.hints:
            p.setPen(theme.hairline(theme.GREEN, 1))
            if hint.axis == "across":
                x = self.origin.x() + hint.at * self.scale
                p.drawLine(QPointF(x, HEAD), QPointF(x, self.height()))
            else:
                y = self.origin.y() + hint.at * self.scale
                p.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if self._start and self.tool == "select":
            box = box_around([rect_of(r) for r in self.chosen()])
            for axis, start, length, across in distances(box, self._still):
                self._paint_distance(p, axis, start, length, across)
        if self.measured is not None:
            (x0, y0), (x1, y1) = self.measured
            a, b = self.pixels(x0, y0, 1, 1).center(), self.pixels(x1, y1, 1, 1).center()
            p.setPen(theme.hairline(theme.AMBER, 1.4))
            p.drawLine(a, b)
            dx, dy = abs(x1 - x0) + 1, abs(y1 - y0) + 1
            self._tag(p, QRectF(a, b).normalized().adjusted(-20, -8, 20, 24), f"{dx} × {dy} px, {(dx * dx + dy * dy) ** 0.5:.1f} across")

    def _paint_distance(self, p: QPainter, axis: str, start: int, length: int, across: int) -> None:
        if length <= 0:
            return
        o, k = self.origin, self.scale
        if axis == "across":
            a, b = QPointF(o.x() + start * k, o.y() + across * k), QPointF(o.x() + (start + length) * k, o.y() + across * k)
        else:
            a, b = QPointF(o.x() + across * k, o.y() + start * k), QPointF(o.x() + across * k, o.y() + (start + length) * k)
        p.setPen(theme.hairline(theme.GREEN, 1))
        p.drawLine(a, b)
        p.setFont(theme.font(11, mono=True))
        words = str(length)
        width = p.fontMetrics().horizontalAdvance(words) + 8
        box = QRectF((a.x() + b.x()) / 2 - width / 2, (a.y() + b.y()) / 2 - 8, width, 16)
        p.fillRect(box, theme.colour(theme.WELL, 215))
        p.setPen(theme.colour(theme.GREEN))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_foot(self, p: QPainter, canvas: Canvas) -> None:
        foot = QRectF(12, self.height() - 26, self.width() - 24, 22)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        scale = f"1 : {1 / self.scale:.1f}" if self.scale < 1 else f"{self.scale:.1f} : 1"
        theme.right(p, foot, scale)
        foot.setWidth(foot.width() - 80)
        if self._at and 0 <= self._at[0] < canvas.width and 0 <= self._at[1] < canvas.height:
            theme.left(p, foot, self.words_at(*self._at))
        elif self.tool == "draw":
            theme.left(p, foot, "draw a region · Esc to stop")
        elif self.tool == "measure":
            theme.left(p, foot, "drag to measure · Esc to stop")
        elif len(self.session.regions) > 1:
            theme.left(p, foot, f"{len(self.session.regions)} of {len(canvas.regions)} regions selected")
        else:
            theme.left(p, foot, f"{len(canvas.regions)} regions · click selects, drag moves, Alt does not snap")

    def words_at(self, x: int, y: int) -> str:
        """A pixel of the canvas in words: its place, and where it lands on outputs and cabinets."""
        canvas = self.canvas
        words = f"x {x}  y {y}"
        for region in canvas.regions if canvas else ():
            inside = region.x <= x < region.x + region.w and region.y <= y < region.y + region.h
            if inside and isinstance(region.landing, RectLanding):
                output = self.session.show.output(region.output)
                u, v = placed_on_raster(region.landing, rect_of(region), x, y)
                words += f"  ·  {output.name} {u}, {v}"
        return words

    # -- gestures ------------------------------------------------------------------------------------------------

    def pointed(self, at: QPointF | None) -> None:
        """Say where the pointer is."""
        self._at = None if at is None else self.pixel_at(at)
        canvas = self.canvas
        if self._at is None or canvas is None or not (0 <= self._at[0] < canvas.width and 0 <= self._at[1] < canvas.height):
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
            grip = next((k for k, box in self._handles(rect_of(chosen[0])).items() if box.adjusted(-3, -3, 3, 3).contains(at)), None)
            if grip is not None and min(self.pixels(*rect_of(chosen[0])).size().toTuple()) > 20:
                self._begin([chosen[0].id], grip)
                return
        hit = self.hit(at)
        more = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
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
        edges = [(-1, 0, 1, h), (w, 0, 1, h), (0, -1, w, 1), (0, h, w, 1)]
        self._still = np.array([*(rect_of(r) for r in canvas.regions if r.id not in self._start), *edges], np.int64)

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
        self.hover = self.hit(event.position())
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
