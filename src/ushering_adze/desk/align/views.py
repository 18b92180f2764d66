"""What is seen beside the raster: the stand-in screen, and the light along a line across it."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.light.flatness import along, ripple_along
from ushering_adze.core.light.showing import COLOURS
from ushering_adze.core.show import LedWall
from ushering_adze.desk import theme
from ushering_adze.desk.align.simulation import Simulation
from ushering_adze.desk.pictures import HEAD, draw_fitted, headed
from ushering_adze.desk.session import Session


class ScreenView(QWidget):
    """The stand-in screen, with the line along which light is measured; its ends are dragged.

    Signals
    -------
    line_moved : the line lies elsewhere
    """

    line_moved = Signal()

    def __init__(self, session: Session, simulation: Simulation) -> None:
        super().__init__()
        self._session, self.simulation = session, simulation
        self.line = [(0.02, 0.5), (0.98, 0.5)]
        """Ends as shares of the screen's width and height."""
        self.errors: np.ndarray | None = None
        self.note = ""
        self._held: int | None = None
        self._where = QRectF()
        self.setMinimumSize(300, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Stand-in screen")
        self.setMouseTracking(True)
        simulation.seen.connect(self.update)

    def tell(self, errors: np.ndarray | None, note: str) -> None:
        """Show how far points are off, and a line of words."""
        self.errors, self.note = errors, note
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(420, 230)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        now = self.simulation.now
        wall = any(s.id == self.simulation.surface and isinstance(s, LedWall) for s in self._session.show.surfaces)
        headed(
            p,
            self,
            "Stand-in wall" if wall else "Stand-in screen",
            self.simulation.fault if now is None else self.simulation.age_words or "simulated from what is sent",
        )
        if now is None:
            return
        self._where = draw_fitted(p, QRectF(12, HEAD + 4, self.width() - 24, self.height() - HEAD - 28), now.picture)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.left(
            p,
            QRectF(12, self.height() - 24, self.width() - 24, 20),
            self.note or "drag the line: light is measured along it",
        )
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(self._where)
        if self.errors is not None:
            self._paint_errors(p)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        a, b = (self._spot(n) for n in (0, 1))
        p.setPen(theme.hairline(theme.GROUND, 3))
        p.drawLine(a, b)
        p.setPen(theme.hairline(theme.AMBER, 1.2, dashed=True))
        p.drawLine(a, b)
        p.setBrush(theme.colour(theme.AMBER))
        for at in (a, b):
            p.drawEllipse(at, 4, 4)

    def _paint_errors(self, p: QPainter) -> None:
        """The residual of an alignment: a dot for each place, larger and redder with the error."""
        assert self.errors is not None
        rows, columns = self.errors.shape
        p.setPen(Qt.PenStyle.NoPen)
        for j in range(0, rows, max(1, rows // 9)):
            for i in range(0, columns, max(1, columns // 30)):
                off = float(self.errors[j, i])
                if np.isnan(off):
                    continue
                token = theme.GREEN if off < 0.5 else theme.AMBER if off < 1.5 else theme.RED
                p.setBrush(theme.colour(token, 200))
                w = self._where
                at = QPointF(w.x() + (i + 0.5) / columns * w.width(), w.y() + (j + 0.5) / rows * w.height())
                size = 1.2 + min(4.0, 2.5 * off)
                p.drawEllipse(at, size, size)

    def _spot(self, n: int) -> QPointF:
        x, y = self.line[n]
        return QPointF(self._where.x() + x * self._where.width(), self._where.y() + y * self._where.height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.window().setFocus()
        far = [(self._spot(n) - event.position()).manhattanLength() for n in (0, 1)]
        self._held = int(np.argmin(far)) if min(far) < 16 else 2 if self._where.contains(event.position()) else None
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None or self._where.isEmpty():
            return
        at = event.position()
        x = min(1.0, max(0.0, (at.x() - self._where.x()) / self._where.width()))
        y = min(1.0, max(0.0, (at.y() - self._where.y()) / self._where.height()))
        if self._held == 2:  # elsewhere: a level line through the pointer
            self.line = [(0.02, y), (0.98, y)]
        else:
            self.line[self._held] = (x, y)
        self.line_moved.emit()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None


class LightProfile(QWidget):
    """Luminance along the line: each projector in its colour, their sum in white, and how flat it is."""

    def __init__(self, session: Session, screen: ScreenView) -> None:
        super().__init__()
        self._session, self._screen = session, screen
        self.curves: dict[str, np.ndarray] = {}
        self.total: np.ndarray | None = None
        self.kept: np.ndarray | None = None
        """The sum as it was before, for comparison."""
        self.setMinimumSize(300, 120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Light profile")
        screen.simulation.seen.connect(self.measure)
        screen.line_moved.connect(self.measure)

    def keep(self) -> None:
        """Draw the curve as it is now under those that come."""
        self.kept = self.total
        self.update()

    def forget(self) -> None:
        """Draw it no more."""
        self.kept = None
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(620, 180)

    def measure(self) -> None:
        """Read the light along the line anew."""
        now = self._screen.simulation.now
        if now is None:
            self.curves, self.total = {}, None
        else:
            h, w = now.total.shape
            a, b = ((x * w, y * h) for x, y in self._screen.line)
            self.curves = {id: along(part, a, b, 360) for id, part in now.parts.items()}
            self.total = along(now.total, a, b, 360)
        self.update()

    @property
    def flatness(self) -> float | None:
        """How far the sum goes up and down along the line, (largest − smallest) ÷ mean, its ends left out."""
        return None if self.total is None else ripple_along(self.total)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        flat = self.flatness
        detail = ""
        if flat is not None and self.total is not None:
            words = f"flat to {100 * flat:.1f} %" if flat <= 1 else "white, grey or black tell how flat"
            parts = (
                f"{self.total.min():.1f} to {self.total.max():.1f} cd/m²",
                words,
                self._screen.simulation.age_words,
            )
            detail = " · ".join(part for part in parts if part)
        headed(p, self, "Light profile", detail)
        if self.total is None:
            return
        box = QRectF(52, HEAD + 6, self.width() - 68, self.height() - HEAD - 30)
        high = float(max(self.total.max(), self.kept.max() if self.kept is not None else 0.0)) * 1.12 + 1e-6
        p.setFont(theme.font(11, mono=True))
        step = next(
            s for s in (0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 10000) if s * 5 >= high
        )
        for n in range(int(high / step) + 1):
            y = box.bottom() - n * step / high * box.height()
            p.setPen(theme.hairline(theme.LINE))
            p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(0, y - 8, 46, 16), f"{n * step:g}")
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.kept is not None:
            self._curve(p, box, self.kept, high, theme.FAINT, 1.2)
        x = box.left()
        for n, (id, curve) in enumerate(self.curves.items()):
            output = next((o for o in self._session.show.outputs if o.id == id), None)
            token = (output.colour if output is not None else None) or COLOURS[n % len(COLOURS)]
            self._curve(p, box, curve, high, token, 1.4)
            p.setPen(theme.colour(token))
            name = output.name if output is not None else id
            p.drawText(QPointF(x, self.height() - 8), name)
            x += p.fontMetrics().horizontalAdvance(name) + 18
        self._curve(p, box, self.total, high, theme.TEXT, 1.8)
        p.setPen(theme.colour(theme.TEXT))
        p.drawText(QPointF(x, self.height() - 8), "sum, with the room's light")

    @staticmethod
    def _curve(p: QPainter, box: QRectF, values: np.ndarray, high: float, token: str, width: float) -> None:
        p.setPen(theme.hairline(token, width))
        p.setBrush(Qt.BrushStyle.NoBrush)
        across = np.linspace(box.left(), box.right(), len(values)).tolist()
        down = (box.bottom() - box.height() * values.astype(float) / high).tolist()
        places = list(zip(across, down, strict=True))
        p.drawLines(
            [QLineF(*a, *b) for a, b in pairwise(places)]
        )  # one line with all its joints takes twenty times as long
