"""The two rasters of Map: the canvas with its regions, and an output with what lands on it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.light.blend import overlaps_of
from ushering_adze.core.show import Canvas, LedWall, Output, QuadLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import hatch, image_of
from ushering_adze.desk.session import Session
from ushering_adze.engine.pictures import face_of

HEAD, RULER = 30, 22
KIND_COLOURS = {"projection": theme.VIOLET, "led-wall": theme.SKY, "monitor-wall": theme.TEAL, "monitor": theme.CLAY, "stream": theme.MOSS}


def region_colour(session: Session, region: Region) -> str:
    """The colour of a region on drawings: by the kind of what it feeds."""
    kind = session.show.surface(region.surface).kind if region.surface else "stream"
    return KIND_COLOURS[kind]


class _Raster(QWidget):
    """A drawing of a pixel raster at one scale, with a head line."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.live = True
        self.scale = 1.0
        self.origin = QPointF(0, 0)
        self.hits: list[tuple[QRectF, str]] = []
        self.hover: str | None = None
        self.setMouseTracking(True)
        self.setMinimumSize(260, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.reported.connect(self.update)
        session.show_changed.connect(self.update)
        session.selection_changed.connect(self.update)

    def place(self, width: int, height: int, top: int, foot: int) -> None:
        """Choose scale and origin so that a raster fits."""
        room_w, room_h = self.width() - 32, self.height() - top - foot
        self.scale = max(1e-3, min(room_w / width, room_h / height))
        self.origin = QPointF((self.width() - width * self.scale) / 2, float(top))

    def pixels(self, x: float, y: float, w: float, h: float) -> QRectF:
        """A rectangle of raster pixels in widget coordinates."""
        k, o = self.scale, self.origin
        return QRectF(o.x() + x * k, o.y() + y * k, w * k, h * k)

    def frame(self, p: QPainter, head: str, detail: str) -> None:
        """Ground, border and head line."""
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setPen(theme.hairline())
        p.drawRect(QRectF(self.rect()).adjusted(0, 0, -1, -1))
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        width = p.fontMetrics().horizontalAdvance(head)
        p.drawText(QRectF(12, 0, width + 4, HEAD), Qt.AlignmentFlag.AlignVCenter, head)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.left(p, QRectF(width + 28, 0, self.width() - width - 40, HEAD), detail)

    def picture(self, p: QPainter, region: Region, where: QRectF) -> None:
        """A region's share of its surface's picture."""
        report = self.session.report
        pixels = report.program.get(region.surface) if self.live and report and region.surface else None
        if pixels is None:
            p.fillRect(where, theme.colour(region_colour(self.session, region), 46))
            return
        face = face_of([r for _, r in self.session.show.regions() if r.surface == region.surface])
        height, width = pixels.shape[:2]
        part = QRectF((region.x - face.x) * width / face.w, (region.y - face.y) * height / face.h, region.w * width / face.w,
                      region.h * height / face.h)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawImage(where, image_of(pixels), part)

    def label(self, p: QPainter, where: QRectF, lines: list[tuple[str, bool]]) -> None:
        """Lines of text in the top left corner, on a dark plate so that they read over any picture."""
        x, y = where.x() + 6, where.y() + 5
        p.save()
        p.setClipRect(where)
        for text, strong in lines:
            p.setFont(theme.font(12 if strong else 11, bold=strong, mono=not strong))
            width = p.fontMetrics().horizontalAdvance(text)
            if y + 17 > where.bottom() or width + 10 > where.width():
                break
            p.fillRect(QRectF(x - 3, y, width + 6, 17), theme.colour(theme.WELL, 205))
            p.setPen(theme.colour(theme.TEXT if strong else theme.DIM))
            p.drawText(QRectF(x, y, width + 2, 17), Qt.AlignmentFlag.AlignVCenter, text)
            y += 17
        p.restore()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        hover = next((id for rect, id in reversed(self.hits) if rect.contains(event.position())), None)
        self.hover = hover
        self.pointed(event.position())
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.hover = None
        self.pointed(None)
        self.update()

    def pointed(self, at: QPointF | None) -> None:
        """Where the pointer is."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.session.select_region(next((id for rect, id in reversed(self.hits) if rect.contains(event.position())), None))


class CanvasView(_Raster):
    """A canvas: rulers, regions, cabinets, overlaps."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.canvas_id = session.show.canvases[0].id if session.show.canvases else ""
        self._at: tuple[int, int] | None = None
        self.setAccessibleName("Canvas")

    def sizeHint(self) -> QSize:
        return QSize(620, 460)

    @property
    def canvas(self) -> Canvas | None:
        """The canvas on view."""
        return next((c for c in self.session.show.canvases if c.id == self.canvas_id), None)

    def pointed(self, at: QPointF | None) -> None:
        self._at = None if at is None else (int((at.x() - self.origin.x()) // self.scale), int((at.y() - self.origin.y()) // self.scale))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        canvas = self.canvas
        if canvas is None:
            self.frame(p, "Canvas", "this show has no canvas yet")
            return
        self.frame(p, "Canvas", f"{canvas.name} · {canvas.width} × {canvas.height} px")
        self.place(canvas.width, canvas.height, HEAD + RULER + 6, 36)
        p.fillRect(self.pixels(0, 0, canvas.width, canvas.height), theme.colour("#000000"))
        self._paint_rulers(p, canvas)
        self.hits = []
        for region in canvas.regions:
            where = self.pixels(region.x, region.y, region.w, region.h)
            self.hits.append((where, region.id))
            self.picture(p, region, where)
        for region in canvas.regions:
            self._paint_region(p, canvas, region)
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(self.pixels(0, 0, canvas.width, canvas.height))
        chosen = next((r for r in canvas.regions if r.id == self.session.region), None)
        if chosen:
            self._paint_chosen(p, self.pixels(chosen.x, chosen.y, chosen.w, chosen.h))
        self._paint_foot(p, canvas)

    def _paint_rulers(self, p: QPainter, canvas: Canvas) -> None:
        p.setFont(theme.font(11, mono=True))
        step = next(s for s in (10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000) if s * self.scale >= 52)
        for x in range(0, canvas.width + 1, step // 5):
            at = self.origin.x() + x * self.scale
            major = x % step == 0
            p.setPen(theme.hairline(theme.FAINT))
            p.drawLine(QPointF(at, self.origin.y() - (6 if major else 3)), QPointF(at, self.origin.y() - 1))
            if major:
                p.setPen(theme.colour(theme.DIM))
                p.drawText(QRectF(at - 30, self.origin.y() - 22, 60, 14), Qt.AlignmentFlag.AlignCenter, str(x))
        for y in range(0, canvas.height + 1, step // 5):
            at = self.origin.y() + y * self.scale
            p.setPen(theme.hairline(theme.FAINT))
            p.drawLine(QPointF(self.origin.x() - (6 if y % step == 0 else 3), at), QPointF(self.origin.x() - 1, at))

    def _paint_region(self, p: QPainter, canvas: Canvas, region: Region) -> None:
        where = self.pixels(region.x, region.y, region.w, region.h)
        surface = self.session.show.surface(region.surface) if region.surface else None
        if isinstance(surface, LedWall):
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
            others = [Rect(r.x, r.y, r.w, r.h) for r in canvas.regions if r.surface == region.surface and r.id != region.id]
            overlap = overlaps_of(Rect(region.x, region.y, region.w, region.h), others).left
            if overlap:
                shared = self.pixels(region.x, region.y, overlap, region.h)
                hatch(p, shared, theme.TEXT, 70)
        p.setBrush(Qt.BrushStyle.NoBrush)
        strong = region.id == self.hover
        p.setPen(theme.hairline(region_colour(self.session, region), 2 if strong else 1.2))
        p.drawRect(where)
        lines = [(region.name, True), (f"{region.w}×{region.h}+{region.x}+{region.y}", False)]
        if isinstance(surface, LedWall):
            lines.append((f"{surface.columns} × {surface.rows} cabinets", False))
        inner = where.adjusted(overlap * self.scale, 0, 0, 0) if overlap else where
        if lines and inner.width() < 110 and where.y() > self.origin.y() + 40:
            name = QRectF(where.center().x() - 45, where.bottom() + 2, 90, 16)
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.DIM))
            p.drawText(name, Qt.AlignmentFlag.AlignCenter, region.name)
        else:
            self.label(p, inner, lines)
        if overlap:
            self._tag(p, self.pixels(region.x, region.y, overlap, region.h), f"blend {overlap} px")

    def _tag(self, p: QPainter, over: QRectF, words: str) -> None:
        p.setFont(theme.font(11, mono=True))
        width = p.fontMetrics().horizontalAdvance(words) + 10
        box = QRectF(over.center().x() - width / 2, over.bottom() - 22, width, 17)
        p.fillRect(box, theme.colour(theme.WELL, 215))
        p.setPen(theme.colour(theme.AMBER))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_chosen(self, p: QPainter, where: QRectF) -> None:
        p.setPen(theme.hairline(theme.AMBER, 2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(where)
        for x in (where.left(), where.right()):
            for y in (where.top(), where.bottom()):
                p.fillRect(QRectF(x - 3.5, y - 3.5, 7, 7), theme.colour(theme.AMBER))

    def _paint_foot(self, p: QPainter, canvas: Canvas) -> None:
        foot = QRectF(12, self.height() - 26, self.width() - 24, 22)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, foot, f"1 : {1 / self.scale:.1f}" if self.scale < 1 else f"{self.scale:.1f} : 1")
        if self._at and 0 <= self._at[0] < canvas.width and 0 <= self._at[1] < canvas.height:
            x, y = self._at
            words = f"x {x}  y {y}"
            for region in canvas.regions:
                inside = region.x <= x < region.x + region.w and region.y <= y < region.y + region.h
                if inside and not isinstance(region.landing, QuadLanding) and region.landing.w == region.w:
                    output = self.session.show.output(region.output)
                    words += f"  ·  {output.name} {x - region.x + region.landing.x}, {y - region.y + region.landing.y}"
            theme.left(p, foot, words)
        else:
            theme.left(p, foot, f"{len(canvas.regions)} regions · click one to select it")


class OutputView(_Raster):
    """The raster of an output with what lands on it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.setAccessibleName("Output raster")
        self.setMinimumHeight(160)

    def sizeHint(self) -> QSize:
        return QSize(330, 290)

    @property
    def output(self) -> Output | None:
        """The output of the selected region, else the first."""
        show = self.session.show
        chosen = next((r for _, r in show.regions() if r.id == self.session.region), None)
        if chosen:
            return show.output(chosen.output)
        return show.outputs[0] if show.outputs else None

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        output = self.output
        if output is None:
            self.frame(p, "Output", "this show has no output yet")
            return
        timing = output.timing
        self.frame(p, "Output", f"{output.number} · {output.name}")
        regions = [r for _, r in self.session.show.regions() if r.output == output.id]
        facts = self._facts(output, regions)
        self.place(timing.width, timing.height, HEAD + 4, 18 * len(facts) + 14)
        whole = self.pixels(0, 0, timing.width, timing.height)
        p.fillRect(whole, theme.colour("#000000"))
        hatch(p, whole, theme.LINE, 120, 12)
        self.hits = []
        for region in regions:
            landing = region.landing
            if isinstance(landing, QuadLanding):
                xs, ys = [c[0] for c in landing.corners], [c[1] for c in landing.corners]
                where = self.pixels(int(min(xs)), int(min(ys)), int(max(xs) - min(xs)), int(max(ys) - min(ys)))
            else:
                where = self.pixels(landing.x, landing.y, landing.w, landing.h)
            self.hits.append((where, region.id))
            self.picture(p, region, where)
            chosen = region.id == self.session.region
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.AMBER if chosen else region_colour(self.session, region), 2 if chosen else 1.2))
            p.drawRect(where)
            at = f"+{landing.x}+{landing.y}" if not isinstance(landing, QuadLanding) else "quad"
            self.label(p, where, [(region.name, True), (f"lands {at}", False)])
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.hairline(theme.FAINT))
        p.drawRect(whole)
        y = self.height() - 18 * len(facts) - 8
        for name, value in facts:
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(14, y, 74, 18), name)
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(88, y, self.width() - 100, 18), value)
            y += 18

    def _facts(self, output: Output, regions: list[Region]) -> list[tuple[str, str]]:
        timing = output.timing
        raster = Rect(0, 0, timing.width, timing.height)
        fed = sum(Rect(r.landing.x, r.landing.y, r.landing.w, r.landing.h).meet(raster).area for r in regions
                  if not isinstance(r.landing, QuadLanding))
        share = 100 * fed / raster.area
        binding = output.binding
        bound = "unbound" if binding is None else {"display": "display ", "window": "window", "files": "PNG files"}[binding.kind] + (
            getattr(binding, "name", ""))
        return [("Raster", f"{timing.width} × {timing.height} @ {timing.rate:g}"), ("Fed", f"{share:.0f} % of the raster"),
                ("Goes to", bound), ("Gamma", f"{output.picture.gamma:g}")]
