"""The benchtop window: every surface of every canvas on one display, live, beside the real mapping and never part of
it.
"""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QPainter, QPaintEvent, QScreen, QWheelEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.benchtop import OnBench, laid_on_bench
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.show import RectLanding
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session


class Benchtop(QWidget):
    """Shows what is truly sent, surface by surface; the wheel changes the scale, Escape or a double click closes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(None, Qt.WindowType.Window)
        self._session = session
        self.fixed: float | None = None
        self.scale = 1.0
        self.setWindowTitle("Benchtop – Ushering Adze")
        self.setMinimumSize(480, 270)
        self.resize(1280, 720)
        session.reported.connect(self.update)
        session.show_changed.connect(self.update)

    def show_on(self, screen: QScreen | None = None) -> None:
        """Open in a window, or fill a display."""
        if screen is None or len(QGuiApplication.screens()) < 2:
            self.show()
            return
        self.setScreen(screen)
        self.setGeometry(screen.geometry())
        self.showFullScreen()

    def laid(self) -> list[OnBench]:
        """Where each surface lies now."""
        faces = {s.id: face_of(self._session.show.feeds_of(s.id)) for s in self._session.show.surfaces}
        sizes = [(id, face.w, face.h) for id, face in faces.items() if not face.empty]
        self.scale, laid = laid_on_bench(sizes, self.width(), self.height(), self.fixed)
        return laid

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        show, report = self._session.show, self._session.report
        laid = self.laid()
        for item in laid:
            where = QRectF(*item.rect)
            surface = show.surface(item.id)
            p.fillRect(where, theme.colour("#000000"))
            feeds = show.feeds_of(item.id)
            small = report.program.get(item.id) if report else None
            plain = all(isinstance(r.landing, RectLanding) and not r.landing.turn and not r.landing.flip for r in feeds)
            if surface.kind == "projection" or not plain:
                if small is not None:  # light is added where projectors overlap: that is done in the small picture
                    p.drawImage(where, image_of(small))
            else:
                face = face_of(feeds)
                for region in feeds:
                    pixels = self._session.playout.raster(region.output)
                    if pixels is not None:
                        put = QRectF(
                            where.x() + (region.x - face.x) * self.scale,
                            where.y() + (region.y - face.y) * self.scale,
                            region.w * self.scale,
                            region.h * self.scale,
                        )
                        p.drawImage(put, image_of(pixels), QRectF(*landing_rect(region)))
            p.setPen(theme.hairline(theme.FAINT))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(where)
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            head = QRectF(where.x(), where.y() - 17, max(60.0, where.width()), 16)
            theme.left(p, head, f"{surface.name}  {surface.pixels[0]}×{surface.pixels[1]}")
        p.setFont(theme.font(11, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, QRectF(0, self.height() - 20, self.width() - 8, 18), f"benchtop  1 : {1 / self.scale:.2f}")

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.fixed = min(4.0, max(0.02, self.scale * (1.1 if event.angleDelta().y() > 0 else 1 / 1.1)))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        elif event.key() == Qt.Key.Key_0:
            self.fixed = None
            self.update()
        else:
            super().keyPressEvent(event)

    def mouseDoubleClickEvent(self, event: object) -> None:
        self.close()
