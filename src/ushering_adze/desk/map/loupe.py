"""The loupe: the pixels around the pointer, enlarged, with where each of them lands."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.displays.led import cabinet_pixel
from ushering_adze.core.mapping.orient import placed_on_raster, unoriented
from ushering_adze.core.mapping.regions import rect_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, RectLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.session import Session

SIDE = 176
ZOOMS = (1, 2, 4, 8, 16, 32)


class Loupe(QWidget):
    """A square of pixels about the one that any view points at; the wheel or a click changes its scale."""

    def __init__(self, session: Session, guides: Guides, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._guides = session, guides
        self.zoom = 8
        self.guide_first = False
        self.setFixedSize(SIDE + 2, SIDE + 58)
        self.setAccessibleName("Loupe")
        self.setToolTip("Wheel: 1 : 1 to 32 : 1")
        session.pointed_changed.connect(self.update)
        self.hide()

    def prefer_guide(self, on: bool) -> None:
        """Show the guide rather than the canvas."""
        self.guide_first = on
        self.update()

    def region(self) -> Region | None:
        """The region that shows the pixel."""
        pointed = self._session.pointed
        if pointed is None:
            return None
        canvas = next((c for c in self._session.show.canvases if c.id == pointed[0]), None)
        at = Rect(pointed[1], pointed[2], 1, 1)
        return next((r for r in reversed(canvas.regions) if rect_of(r).holds(at)), None) if canvas else None

    def lines(self) -> list[str]:
        """Where the pixel is: on the canvas, on the output, and in which cabinet."""
        pointed, region = self._session.pointed, self.region()
        if pointed is None:
            return ["point at a canvas", "or a raster", ""]
        show = self._session.show
        lines = [f"{show.canvas(pointed[0]).name} {pointed[1]}, {pointed[2]}"]
        if region is None or not isinstance(region.landing, RectLanding):
            return [*lines, "no region lands it" if region is None else f"{region.name}, bent", ""]
        u, v = placed_on_raster(region.landing, rect_of(region), pointed[1], pointed[2])
        lines.append(f"{show.output(region.output).name} {u}, {v}")
        surface = show.surface(region.surface) if region.surface else None
        if isinstance(surface, LedWall):
            feeds = [landing_rect(r) for r in show.feeds_of(surface.id) if r.output == region.output]
            found = cabinet_pixel(surface, u - min(f.x for f in feeds), v - min(f.y for f in feeds))
            lines.append("no cabinet" if found is None else f"cabinet {found[0]}/{found[1]}: {found[2]}, {found[3]}")
        else:
            lines.append(region.name)
        return lines

    def picture(self) -> Pixels | None:
        """The pixels about the pointer; black where there are none."""
        pointed, count = self._session.pointed, SIDE // self.zoom
        if pointed is None:
            return None
        canvas = self._session.show.canvas(pointed[0])
        region = self.region()
        if (self.guide_first or region is None) and canvas.guide is not None:
            source = self._guides.pixels(canvas.guide)
            return (
                None
                if source is None
                else _around(source, pointed[1] - canvas.guide.x, pointed[2] - canvas.guide.y, count)
            )
        if region is None or not isinstance(region.landing, RectLanding):
            return None
        raster = self._session.playout.raster(region.output)
        if raster is None:
            return None
        u, v = placed_on_raster(region.landing, rect_of(region), pointed[1], pointed[2])
        odd = count | 1  # about one pixel in the middle, so that turns keep it there
        return unoriented(_around(raster, u, v, odd), region.landing.flip, region.landing.turn)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        found = self.picture()
        box = QRectF(1, 1, SIDE, SIDE)
        p.save()
        p.setClipRect(box)
        if found is not None:
            made = np.ascontiguousarray(found)
            image = QImage(made.data, made.shape[1], made.shape[0], made.shape[1] * 4, QImage.Format.Format_RGB32)
            side = made.shape[1] * self.zoom
            at = QRectF(box.center().x() - side / 2, box.center().y() - side / 2, side, side)
            p.drawImage(at, image)
        p.restore()
        p.setPen(theme.hairline(theme.AMBER))
        p.setBrush(Qt.BrushStyle.NoBrush)
        centre = box.center()
        half = max(2.0, self.zoom / 2)
        p.drawRect(QRectF(centre.x() - half, centre.y() - half, 2 * half, 2 * half))
        p.setPen(theme.hairline())
        p.drawRect(QRectF(self.rect()).adjusted(0, 0, -1, -1))
        p.setFont(theme.font(11, mono=True))
        p.setPen(theme.colour(theme.TEXT))
        for n, line in enumerate(self.lines()):
            theme.left(p, QRectF(8, SIDE + 3 + n * 17, SIDE - 46 if n == 0 else SIDE - 12, 17), line)
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, QRectF(0, SIDE + 3, SIDE - 6, 17), f"{self.zoom} : 1")

    def step(self, up: bool) -> None:
        """The next scale."""
        k = ZOOMS.index(self.zoom) + (1 if up else -1)
        self.zoom = ZOOMS[min(len(ZOOMS) - 1, max(0, k))]
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.step(event.angleDelta().y() > 0)
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.zoom = ZOOMS[(ZOOMS.index(self.zoom) + 1) % len(ZOOMS)]
        self.update()


def _around(source: Pixels, x: int, y: int, count: int) -> Pixels:
    """A square of a picture about a pixel; black past its edges."""
    made = np.zeros((count, count, 4), np.uint8)
    half = count // 2
    want = Rect(x - half, y - half, count, count)
    seen = want.meet(Rect(0, 0, source.shape[1], source.shape[0]))
    if not seen.empty:
        made[seen.moved(-want.x, -want.y).cut()] = source[seen.cut()]
    return made
