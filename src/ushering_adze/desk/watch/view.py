"""A wall as it is painted by the playout, and the hand on its cells."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.picture.walls import cell_rect
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.wall import Wall
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session

EVERY = 33
"""Milliseconds from one look for a new picture to the next."""


class WallView(QWidget):
    """Shows a wall; a click selects a cell, a double click shows it alone.

    Signals
    -------
    chosen : the place of a cell among the wall's, −1 for none
    routed : Ctrl and a click on a cell: its source is to go on preview
    """

    chosen = Signal(int)
    routed = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.wall: Wall | None = None
        self.selected = -1
        self.alone: int | None = None
        self._serial = 0
        self.setMinimumSize(320, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Wall of pictures")
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self._look)

    def sizeHint(self) -> QSize:
        return QSize(960, 540)

    def hold(self, wall: Wall | None) -> None:
        """Show this wall."""
        if wall != self.wall:
            if wall is None or self.wall is None or wall.id != self.wall.id or len(wall.cells) != len(self.wall.cells):
                self.alone, self.selected = None, -1
            self.wall = wall
            self.update()

    def _look(self) -> None:
        painted = self._session.playout.wall
        if painted is not None and painted.serial != self._serial:
            self._serial = painted.serial
            self.update()

    def showEvent(self, event: object) -> None:
        self._timer.start()

    def hideEvent(self, event: object) -> None:
        self._timer.stop()

    def _box(self) -> tuple[QRectF, Rect]:
        """Where the wall is drawn, and what of its raster."""
        assert self.wall is not None
        part = Rect(0, 0, self.wall.width, self.wall.height)
        if self.alone is not None and self.alone < len(self.wall.cells):
            part = cell_rect(self.wall, self.wall.cells[self.alone])
        k = min(self.width() / part.w, self.height() / part.h)
        w, h = part.w * k, part.h * k
        return QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h), part

    def cell_box(self, n: int) -> QRectF:
        """Where a cell is drawn."""
        assert self.wall is not None
        box, part = self._box()
        rect, k = cell_rect(self.wall, self.wall.cells[n]), box.width() / part.w
        return QRectF(box.x() + (rect.x - part.x) * k, box.y() + (rect.y - part.y) * k, rect.w * k, rect.h * k)

    def cell_at(self, at: QPointF) -> int:
        """The cell at a place; −1 for none."""
        if self.wall is None:
            return -1
        if self.alone is not None:
            return self.alone if self._box()[0].contains(at) else -1
        return next((n for n in range(len(self.wall.cells)) if self.cell_box(n).contains(at)), -1)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        painted = self._session.playout.wall
        if self.wall is None:
            p.setFont(theme.font(15))
            p.setPen(theme.colour(theme.DIM))
            theme.centred(p, QRectF(self.rect()), "No wall yet: make one from a template, above")
            return
        box, part = self._box()
        if painted is not None and painted.wall == self.wall.id and painted.pixels.shape[1] == self.wall.width:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(box, image_of(painted.pixels), QRectF(part.x, part.y, part.w, part.h))
        if 0 <= self.selected < len(self.wall.cells) and self.alone in (None, self.selected):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.AMBER, 2))
            p.drawRect(self.cell_box(self.selected).adjusted(4, 4, -4, -4))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        n = self.cell_at(event.position())
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and n >= 0:
            self.routed.emit(n)
            return
        self.selected = n
        self.chosen.emit(n)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        n = self.cell_at(event.position())
        self.enlarge(None if self.alone is not None or n < 0 else n)

    def enlarge(self, n: int | None) -> None:
        """Show one cell alone, or all again."""
        self.alone = n
        self.update()
