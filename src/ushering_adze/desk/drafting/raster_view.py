"""A drawing of a pixel raster that is zoomed and panned: what canvas and output views have in common."""

from __future__ import annotations

from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QTransform, QWheelEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.find_shapes import Found
from ushering_adze.core.show import Guide, Output, RectLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.pictures import HEAD, headed, image_of
from ushering_adze.desk.session import Session

RULER = 22
SHARP = 0.34
"""Scale from which the picture truly sent is drawn instead of the small one."""
PLATE = 238
"""How opaque the plate under a label is, of 255: words in the picture under it may not be read together with its own.
"""
KIND_COLOURS = {
    "projection": theme.VIOLET,
    "led-wall": theme.SKY,
    "monitor-wall": theme.TEAL,
    "monitor": theme.CLAY,
    "stream": theme.MOSS,
}
ShownAs = Literal["live", "guide", "plain"]


def region_colour(session: Session, region: Region) -> str:
    """The colour of a region on drawings: its own, else by the kind of what it feeds."""
    if region.colour is not None:
        return region.colour
    return KIND_COLOURS[session.show.surface(region.surface).kind] if region.surface else theme.DIM


def _same(a: object, b: object) -> bool:
    """Whether two parts of what live pictures are made of are one picture, or one value."""
    return a is b or (not isinstance(a, np.ndarray) and not isinstance(b, np.ndarray) and bool(a == b))


class RasterView(QWidget):
    """A raster at a scale, with a head line.  The wheel zooms about the pointer, the middle button pans."""

    top, foot = HEAD + 6, 36

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__()
        self.session, self.guides = session, guides
        self.shown: ShownAs = "live"
        self.scale = 1.0
        self.origin = QPointF(0, 0)
        self.fitted = True
        self.hits: list[tuple[QRectF, str]] = []
        self.hover: str | None = None
        self._panning: QPointF | None = None
        self._live: list[object] = []
        self.switch = QPushButton("live", self)
        self.switch.setObjectName("switch")
        self.switch.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.switch.setToolTip("What this drawing shows: live pictures, the guide, or plain")
        self.switch.clicked.connect(self._next)
        self.setMouseTracking(True)
        self.setMinimumSize(260, 160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.reported.connect(self._reported)
        session.show_changed.connect(self.edited)
        session.selection_changed.connect(self.update)
        session.pointed_changed.connect(self.update)
        session.checked.connect(self.update)
        guides.changed.connect(self.update)

    def _reported(self) -> None:
        """Paint anew when a live picture is another one."""
        if self.shown != "live" or not self.isVisible():
            return
        live, before = self.live(), self._live
        self._live = live
        if len(live) != len(before) or not all(map(_same, live, before)):
            self.update()

    def live(self) -> list[object]:
        """What the live pictures are made of: small pictures, and numbers of what outputs send; as long as all are the
        same, so are they.
        """
        playout, output = self.session.playout, self.output
        return [playout.covered, playout.serials.get(output.id) if output is not None else None]

    @property
    def output(self) -> Output | None:
        """The output whose raster is drawn, if it is one's."""
        return None

    def edited(self) -> None:
        """The show is another one."""
        self.update()

    # -- geometry ------------------------------------------------------------------------------------------------

    def _room(self) -> QRectF:
        return QRectF(16, self.top, self.width() - 32, self.height() - self.top - self.foot)

    def place(self, width: int, height: int) -> None:
        """While nothing is zoomed, choose scale and origin so that a raster fits."""
        if self.fitted:
            room = self._room()
            self.scale = max(1e-3, min(room.width() / width, room.height() / height))
            self.origin = QPointF(room.center().x() - width * self.scale / 2, room.y())

    def fit(self) -> None:
        """Show all of the raster."""
        self.fitted = True
        self.update()

    def show_rect(self, x: float, y: float, w: float, h: float, margin: float = 0.12) -> None:
        """Zoom so that a rectangle of the raster fills the view."""
        room = self._room()
        self.fitted = False
        self.scale = min(32.0, room.width() / (w * (1 + 2 * margin)), room.height() / (h * (1 + 2 * margin)))
        self.origin = room.center() - QPointF((x + w / 2) * self.scale, (y + h / 2) * self.scale)
        self.update()

    def zoom(self, scale: float, about: QPointF | None = None) -> None:
        """Choose a scale, in widget pixels to a raster pixel, about a point of the widget."""
        at = about or self._room().center()
        scale = min(32.0, max(0.01, scale))
        self.origin = at - (at - self.origin) * (scale / self.scale)
        self.scale, self.fitted = scale, False
        self.update()

    def pixels(self, x: float, y: float, w: float, h: float) -> QRectF:
        """A rectangle of raster pixels in widget coordinates."""
        k, o = self.scale, self.origin
        return QRectF(o.x() + x * k, o.y() + y * k, w * k, h * k)

    def pixel_at(self, at: QPointF) -> tuple[int, int]:
        """The raster pixel at a place of the widget."""
        return int((at.x() - self.origin.x()) // self.scale), int((at.y() - self.origin.y()) // self.scale)

    def clip(self) -> QRectF:
        """The part of the widget that the raster may be drawn in."""
        return QRectF(1, HEAD, self.width() - 2, self.height() - HEAD - self.foot + 10)

    # -- painting ------------------------------------------------------------------------------------------------

    def frame(self, p: QPainter, head: str, detail: str) -> None:
        """Ground, border and head line; the switch keeps its place."""
        headed(p, self, head, detail, 96)

    def paint_guide(self, p: QPainter, guide: Guide | None) -> None:
        """A guide picture, one of its pixels to one of the raster."""
        if guide is None or not guide.shown or self.shown == "plain":
            return
        image = self.guides.image(guide)
        if image is None:
            return
        p.save()
        p.setOpacity(guide.opacity)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.scale < 1)
        p.drawImage(self.pixels(guide.x, guide.y, image.width(), image.height()), image)
        p.restore()

    @property
    def guide(self) -> Guide | None:
        """The guide under this raster."""
        return None

    def proposals(self) -> list[tuple[Rect, Found]]:
        """What was found in the guide and is not accepted yet, in pixels of the raster."""
        guide = self.guide
        if guide is None or not guide.shown:
            return []
        return [(f.rect.moved(guide.x, guide.y), f) for f in self.guides.found.get(self.guides.path(guide), [])]

    def paint_found(self, p: QPainter) -> None:
        """Outline what was found in the guide."""
        for rect, found in self.proposals():
            where = self.pixels(*rect)
            p.setPen(theme.hairline(theme.TEXT, 1.6, dashed=True))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(where)
            sure = (
                f"{100 * found.confidence:.0f} %, or {len(found.parts)} parts"
                if found.parts
                else f"{100 * found.confidence:.0f} % sure"
            )
            self.label(p, where, [(f"{rect.w}×{rect.h}+{rect.x}+{rect.y}", False), (sure, False)])

    def show_as(self, shown: ShownAs) -> None:
        """Live pictures, the guide, or a plain drawing."""
        self.shown = shown
        self.switch.setText(shown)
        self.update()

    def _next(self) -> None:
        ways: tuple[ShownAs, ...] = ("live", "guide", "plain") if self.guide is not None else ("live", "plain")
        self.show_as(ways[(ways.index(self.shown) + 1) % len(ways)] if self.shown in ways else ways[0])

    def resizeEvent(self, event: object) -> None:
        self.switch.setGeometry(self.width() - 62, 4, 54, HEAD - 8)

    def picture(self, p: QPainter, region: Region, where: QRectF) -> None:
        """A region's share of its surface's picture: the pixels truly sent where it is large, else a small picture."""
        if self.shown != "live" or where.width() < 1 or where.height() < 1:
            p.fillRect(where, theme.colour(region_colour(self.session, region), 46 if self.shown == "plain" else 26))
            return
        if (self.scale >= SHARP or region.surface is None) and isinstance(region.landing, RectLanding):
            pixels = self.session.playout.raster(region.output)
            if pixels is not None:
                self._sent(p, region, region.landing, where, image_of(pixels))
                return
        report = self.session.report
        small = report.program.get(region.surface) if report and region.surface else None
        if small is None:
            p.fillRect(where, theme.colour(region_colour(self.session, region), 46))
            return
        face = face_of(self.session.show.feeds_of(region.surface)) if region.surface else face_of([region])
        height, width = small.shape[:2]
        part = QRectF(
            (region.x - face.x) * width / face.w,
            (region.y - face.y) * height / face.h,
            region.w * width / face.w,
            region.h * height / face.h,
        )
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawImage(where, image_of(small), part)

    def _sent(self, p: QPainter, region: Region, landing: RectLanding, where: QRectF, image: object) -> None:
        """What the raster holds for a region, turned back."""
        p.save()
        p.setClipRect(where, Qt.ClipOperation.IntersectClip)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.scale < 1)
        turn = QTransform()
        turn.translate(where.center().x(), where.center().y())
        if landing.flip:
            turn.scale(-1, 1)
        turn.rotate(-landing.turn)
        quarter = landing.turn in (90, 270)
        w, h = (where.height(), where.width()) if quarter else (where.width(), where.height())
        p.setTransform(turn, True)
        p.drawImage(QRectF(-w / 2, -h / 2, w, h), image, QRectF(landing.x, landing.y, landing.w, landing.h))  # type: ignore[call-overload]
        p.restore()

    def label(self, p: QPainter, where: QRectF, lines: list[tuple[str, bool]]) -> None:
        """Lines of text in the top left corner, on a dark plate so that they read over any picture."""
        seen = where.intersected(self.clip())
        x, y = seen.x() + 6, seen.y() + 5
        p.save()
        p.setClipRect(seen)
        shown: list[tuple[str, bool, int]] = []
        for text, strong in lines:
            p.setFont(theme.font(12 if strong else 11, bold=strong, mono=not strong))
            width = p.fontMetrics().horizontalAdvance(text)
            if y + 17 * (len(shown) + 1) > seen.bottom() or width + 10 > seen.width():
                break
            shown.append((text, strong, width))
        if shown:
            p.fillRect(
                QRectF(x - 4, y - 1, max(width for _, _, width in shown) + 8, 17 * len(shown) + 2),
                theme.colour(theme.WELL, PLATE),
            )
        for n, (text, strong, width) in enumerate(shown):
            p.setFont(theme.font(12 if strong else 11, bold=strong, mono=not strong))
            p.setPen(theme.colour(theme.TEXT if strong else theme.DIM))
            p.drawText(QRectF(x, y + 17 * n, width + 2, 17), Qt.AlignmentFlag.AlignVCenter, text)
        p.restore()

    def paint_rulers(self, p: QPainter, width: int, height: int) -> None:
        """Rulers along the top and the left, with numbers where there is room."""
        p.save()
        p.setClipRect(self.clip())
        p.setFont(theme.font(11, mono=True))
        step = next(
            (s for s in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000) if s * self.scale >= 52), 20000
        )
        fine = max(1, step // 5)
        y0 = max(self.origin.y(), HEAD + RULER + 4.0)
        x0 = max(self.origin.x(), 10.0)
        first = max(0, self.pixel_at(QPointF(0, 0))[0] // fine * fine)
        last = min(width, self.pixel_at(QPointF(self.width(), 0))[0] + 1)
        for x in range(first, last + 1, fine):
            at, major = self.origin.x() + x * self.scale, x % step == 0
            p.setPen(theme.hairline(theme.FAINT))
            p.drawLine(QPointF(at, y0 - (6 if major else 3)), QPointF(at, y0 - 1))
            if major:
                p.setPen(theme.colour(theme.DIM))
                p.drawText(QRectF(at - 30, y0 - 22, 60, 14), Qt.AlignmentFlag.AlignCenter, str(x))
        first = max(0, self.pixel_at(QPointF(0, HEAD))[1] // fine * fine)
        last = min(height, self.pixel_at(QPointF(0, self.height()))[1] + 1)
        p.setPen(theme.hairline(theme.FAINT))
        for y in range(first, last + 1, fine):
            at = self.origin.y() + y * self.scale
            p.drawLine(QPointF(x0 - (6 if y % step == 0 else 3), at), QPointF(x0 - 1, at))
        p.restore()

    def paint_cross(self, p: QPainter, x: int, y: int) -> None:
        """Mark the pixel that the pointer is on in another view."""
        box = self.pixels(x, y, 1, 1)
        centre = box.center()
        p.setPen(theme.hairline(theme.TEXT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            p.drawLine(centre + QPointF(dx * 5, dy * 5), centre + QPointF(dx * 14, dy * 14))
        if self.scale >= 4:
            p.drawRect(box)

    def paint_finding(self, p: QPainter, rect: QRectF) -> None:
        """The place of the finding that is looked at: an amber box that is never too small to be seen."""
        grow = max(0.0, 7 - rect.width() / 2), max(0.0, 7 - rect.height() / 2)
        p.setPen(theme.hairline(theme.AMBER, 2, dashed=True))
        p.setBrush(theme.colour(theme.AMBER, 60))
        p.drawRect(rect.adjusted(-grow[0], -grow[1], grow[0], grow[1]))

    # -- gestures ------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.angleDelta().y():
            self.zoom(self.scale * 1.2 ** (event.angleDelta().y() / 120), event.position())
        event.accept()

    def pan_starts(self, event: QMouseEvent) -> bool:
        """Whether a press begins a pan."""
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = event.position()
            return True
        return False

    def pan_moves(self, event: QMouseEvent) -> bool:
        """Whether a move was one of a pan."""
        if self._panning is None:
            return False
        self.origin += event.position() - self._panning
        self._panning, self.fitted = event.position(), False
        self.update()
        return True

    def hit(self, at: QPointF) -> str | None:
        """The region at a place of the widget, the topmost and smallest first."""
        found = [(rect.width() * rect.height(), -n, id) for n, (rect, id) in enumerate(self.hits) if rect.contains(at)]
        return min(found)[2] if found else None

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._panning = None
