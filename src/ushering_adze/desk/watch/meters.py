"""Meters of sound, drawn."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.sound.metering import LOW, Measured, height_of
from ushering_adze.desk import theme

MARKS = (0, -6, -12, -18, -24, -30, -40, -50)
ALIGNED = -18.0
"""dBFS of the level of alignment (EBU R 68, from memory): the longer mark."""


class MeterView(QWidget):
    """Two bars with a scale between, marks where they stood highest, and the limit of the mix.

    Attributes
    ----------
    most : float
        dBTP of the limiter.
    """

    def __init__(self) -> None:
        super().__init__()
        self.measured = Measured()
        self.most = -1.0
        self.setMinimumSize(90, 150)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(94, 240)

    def hold(self, measured: Measured, most: float) -> None:
        """Show this."""
        if (measured, most) != (self.measured, self.most):
            self.measured, self.most = measured, most
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        box = QRectF(self.rect()).adjusted(2, 6, -2, -6)
        wide = 20.0
        bars = [QRectF(box.x(), box.y(), wide, box.height()), QRectF(box.right() - wide, box.y(), wide, box.height())]
        p.setFont(theme.font(11, mono=True))
        for mark in MARKS:
            y = box.bottom() - height_of(mark) * box.height()
            p.setPen(theme.hairline(theme.DIM if mark == ALIGNED else theme.LINE))
            p.drawLine(int(bars[0].right()) + 3, int(y), int(bars[1].x()) - 3, int(y))
            p.setPen(theme.colour(theme.DIM))
            ground = QRectF(bars[0].right() + 9, y - 7, bars[1].x() - bars[0].right() - 18, 14)
            p.fillRect(ground, theme.colour(theme.PANEL))
            p.drawText(ground, int(Qt.AlignmentFlag.AlignCenter), str(-mark))
        for bar, level in zip(bars, self.measured.pointers, strict=False):
            p.fillRect(bar, theme.colour(theme.WELL))
            top = height_of(level)
            for low, high, token in (
                (LOW, -9.0, theme.TEAL),
                (-9.0, self.most, theme.AMBER),
                (self.most, 0.0, theme.RED),
            ):
                one, two = height_of(low), min(top, height_of(high))
                if two > one:
                    y = bar.bottom() - two * bar.height()
                    p.fillRect(QRectF(bar.x(), y, bar.width(), (two - one) * bar.height()), theme.colour(token))
            p.setPen(theme.hairline(theme.LINE))
            p.drawRect(bar)
        if self.measured.peak > LOW:
            over = self.measured.over(self.most)
            y = box.bottom() - height_of(self.measured.peak) * box.height()
            p.setPen(theme.hairline(theme.RED if over else theme.TEXT, 2))
            for bar in bars:
                p.drawLine(int(bar.x()), int(y), int(bar.right()), int(y))


class LevelBar(QWidget):
    """A small bar for one source."""

    def __init__(self) -> None:
        super().__init__()
        self.level = LOW
        self.setMinimumWidth(60)
        self.setFixedHeight(14)

    def hold(self, level: float) -> None:
        """Show a level in dBFS."""
        if round(level, 1) != round(self.level, 1):
            self.level = level
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        box = QRectF(self.rect()).adjusted(4, 2, -4, -2)
        p.fillRect(box, theme.colour(theme.WELL))
        token = theme.RED if self.level > -1 else theme.AMBER if self.level > -9 else theme.TEAL
        p.fillRect(QRectF(box.x(), box.y(), box.width() * height_of(self.level), box.height()), theme.colour(token))


class CorrelationBar(QWidget):
    """Where two channels stand between turned round (left) and alike (right)."""

    def __init__(self) -> None:
        super().__init__()
        self.at: float | None = None
        self.setFixedHeight(16)
        self.setToolTip("Phase: right is alike, the middle has nothing in common, left is turned round")

    def hold(self, at: float | None) -> None:
        """Show −1 to 1, or nothing."""
        if at != self.at:
            self.at = at
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        box = QRectF(self.rect()).adjusted(2, 4, -2, -4)
        p.fillRect(box, theme.colour(theme.WELL))
        p.setPen(theme.hairline(theme.DIM))
        p.drawLine(int(box.center().x()), int(box.y()), int(box.center().x()), int(box.bottom()))
        if self.at is not None:
            x = box.x() + (self.at + 1) / 2 * box.width()
            p.fillRect(
                QRectF(x - 3, box.y(), 6, box.height()), theme.colour(theme.RED if self.at < -0.2 else theme.TEAL)
            )
