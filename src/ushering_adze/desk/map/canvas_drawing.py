"""How a canvas is drawn: its regions, the guide under it, what was found there, and what a gesture is doing."""

from __future__ import annotations

from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap

from ushering_adze.core.light.blend import overlaps_of
from ushering_adze.core.mapping.orient import placed_on_raster
from ushering_adze.core.mapping.regions import picked, rect_of
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.snap import Hint, distances
from ushering_adze.core.show import Canvas, Guide, LedWall, RectLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.drafting.raster_view import PLATE, RULER, SHARP, RasterView, region_colour
from ushering_adze.desk.pictures import HEAD, Kept, hatch
from ushering_adze.desk.session import Session

Tool = Literal["select", "draw", "measure"]
MANY = 60
"""From so many regions on, those that stand still are painted once for a drag."""


class CanvasDrawing(RasterView):
    """A canvas with its regions; what the pointer does to them is in `CanvasView`.

    Signals
    -------
    resized : the view has another size
    """

    resized = Signal()
    top, foot = HEAD + RULER + 6, 36

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__(session, guides)
        self.canvas_id = session.show.canvases[0].id if session.show.canvases else ""
        self.tool: Tool = "select"
        self.hints: list[Hint] = []
        self.measured: tuple[tuple[int, int], tuple[int, int]] | None = None
        self._at: tuple[int, int] | None = None
        self._band: Rect | None = None
        self._start: dict[str, Rect] = {}
        self._still = np.zeros((0, 4), np.int64)
        self._kept: tuple[object, QPixmap] | None = None
        self._over = Kept()
        self.setAccessibleName("Canvas")

    def look_at(self, canvas: str) -> None:
        """Show a canvas."""
        self.canvas_id = canvas
        self.update()

    def use(self, tool: Tool) -> None:
        """Choose what a drag does."""
        self.tool, self.measured = tool, None
        self.setCursor(Qt.CursorShape.ArrowCursor if tool == "select" else Qt.CursorShape.CrossCursor)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(620, 460)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    @property
    def canvas(self) -> Canvas | None:
        """The canvas on view."""
        return next((c for c in self.session.show.canvases if c.id == self.canvas_id), None)

    def chosen(self) -> list[Region]:
        """The selected regions of this canvas."""
        return [r for c, r in picked(self.session.show, self.session.regions) if c.id == self.canvas_id]

    def live(self) -> list[object]:
        playout, report = self.session.playout, self.session.report
        regions = self.canvas.regions if self.canvas is not None else ()
        small = [report.program.get(r.surface) if r.surface else None for r in regions] if report is not None else []
        serials = playout.serials if self.scale >= SHARP or not all(r.surface for r in regions) else {}
        return [playout.covered, *small, *(serials.get(r.output) for r in regions)]

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        canvas = self.canvas
        if canvas is None:
            self.frame(p, "Canvas", "this show has no canvas yet: add one from the canvas menu above")
            return
        self.place(canvas.width, canvas.height)
        dragged = bool(self._start) and len(canvas.regions) - len(self._start) > MANY
        if dragged:
            # Of many regions only those that move are painted at every step of a drag.
            key = (self.size(), self.origin, self.scale, self.shown, canvas.id, len(canvas.regions))
            if self._kept is None or self._kept[0] != key:
                picture = QPixmap(self.size() * self.devicePixelRatio())
                picture.setDevicePixelRatio(self.devicePixelRatio())
                under = QPainter(picture)
                self._paint_ground(under, canvas)
                self._paint_regions(under, canvas, [r for r in canvas.regions if r.id not in self._start])
                self.paint_rulers(under, canvas.width, canvas.height)
                under.end()
                self._kept = (key, picture)
            p.drawPixmap(0, 0, self._kept[1])
            self._paint_regions(p, canvas, [r for _, r in picked(self.session.show, self._start)])
        else:
            self._kept = None
            self._paint_ground(p, canvas)
            self._paint_pictures(p, canvas, list(canvas.regions))
            p.drawImage(0, 0, self._laid_over(canvas))
        self.hits = [(self.pixels(r.x, r.y, r.w, r.h), r.id) for r in canvas.regions] if not self._start else self.hits
        p.save()
        p.setClipRect(self.clip())
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(self.pixels(0, 0, canvas.width, canvas.height))
        self.paint_found(p)
        self._paint_chosen(p)
        self._paint_gesture(p, canvas)
        finding = self.session.finding
        if (
            finding is not None
            and finding.where.on == "canvas"
            and finding.where.id == canvas.id
            and finding.where.rect is not None
        ):
            self.paint_finding(p, self.pixels(*finding.where.rect))
        pointed = self.session.pointed
        if pointed is not None and pointed[0] == canvas.id and self._at is None:
            self.paint_cross(p, pointed[1], pointed[2])
        p.restore()
        self._paint_foot(p, canvas)

    def _paint_ground(self, p: QPainter, canvas: Canvas) -> None:
        rate = f" · {canvas.rate:g}/s" if canvas.rate is not None else ""
        self.frame(p, "Canvas", f"{canvas.name} · {canvas.width} × {canvas.height} px{rate}")
        p.save()
        p.setClipRect(self.clip())
        p.fillRect(self.pixels(0, 0, canvas.width, canvas.height), theme.colour("#000000"))
        self.paint_guide(p, canvas.guide)
        p.restore()

    def _laid_over(self, canvas: Canvas) -> QImage:
        """What lies over the pictures: a moving picture does not have it drawn anew."""

        def paint(p: QPainter) -> None:
            self._paint_outlines(p, canvas, list(canvas.regions))
            self.paint_rulers(p, canvas.width, canvas.height)

        return self._over.of(
            self, (self.session.show, canvas.id, self.scale, self.origin.toTuple(), self.shown, self.hover), paint
        )

    def _paint_regions(self, p: QPainter, canvas: Canvas, regions: list[Region]) -> None:
        self._paint_pictures(p, canvas, regions)
        self._paint_outlines(p, canvas, regions)

    def _seen(self, regions: list[Region]) -> list[tuple[Region, QRectF]]:
        seen = self.clip()
        return [(r, where) for r in regions if (where := self.pixels(r.x, r.y, r.w, r.h)).intersects(seen)]

    def _paint_pictures(self, p: QPainter, canvas: Canvas, regions: list[Region]) -> None:
        if self.shown == "guide" and canvas.guide is not None:
            return
        p.save()
        p.setClipRect(self.clip())
        for region, where in self._seen(regions):
            self.picture(p, region, where)
        p.restore()

    def _paint_outlines(self, p: QPainter, canvas: Canvas, regions: list[Region]) -> None:
        p.save()
        p.setClipRect(self.clip())
        for region, _ in self._seen(regions):
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
            x = min(
                max(where.center().x() - wide / 2, self.origin.x() + 4),
                max(self.origin.x() + 4, self.width() - wide - 14),
            )
            theme.left(p, QRectF(x, where.bottom() + 2, wide + 4, 16), region.name)
        else:
            self.label(p, inner, lines)
        if overlap:
            self._tag(p, self.pixels(region.x, region.y, overlap, region.h), f"blend {overlap} px")

    def _tag(self, p: QPainter, over: QRectF, words: str, token: str = theme.AMBER) -> None:
        p.setFont(theme.font(11, mono=True))
        width = p.fontMetrics().horizontalAdvance(words) + 10
        box = QRectF(over.center().x() - width / 2, over.bottom() - 22, width, 17)
        p.fillRect(box, theme.colour(theme.WELL, PLATE))
        p.setPen(theme.colour(token))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    @property
    def guide(self) -> Guide | None:
        """The guide under the canvas."""
        return self.canvas.guide if self.canvas is not None else None

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
            self._tag(
                p,
                QRectF(a, b).normalized().adjusted(-20, -8, 20, 24),
                f"{dx} × {dy} px, {(dx * dx + dy * dy) ** 0.5:.1f} across",
            )

    def _paint_distance(self, p: QPainter, axis: str, start: int, length: int, across: int) -> None:
        if length <= 0:
            return
        o, k = self.origin, self.scale
        if axis == "across":
            a, b = (
                QPointF(o.x() + start * k, o.y() + across * k),
                QPointF(o.x() + (start + length) * k, o.y() + across * k),
            )
        else:
            a, b = (
                QPointF(o.x() + across * k, o.y() + start * k),
                QPointF(o.x() + across * k, o.y() + (start + length) * k),
            )
        p.setPen(theme.hairline(theme.GREEN, 1))
        p.drawLine(a, b)
        p.setFont(theme.font(11, mono=True))
        words = str(length)
        width = p.fontMetrics().horizontalAdvance(words) + 8
        box = QRectF((a.x() + b.x()) / 2 - width / 2, (a.y() + b.y()) / 2 - 8, width, 16)
        p.fillRect(box, theme.colour(theme.WELL, PLATE))
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
