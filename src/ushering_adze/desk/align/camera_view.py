"""What the camera sees, and where the screen's corners are in its picture."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.light.transfer import linear_to_srgb
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import HEAD, draw_fitted, headed

NAMES = ("top left", "top right", "bottom right", "bottom left")
GRAB = 18
LOUPE = 90


class CameraView(QWidget):
    """The last photograph, with four marks to drag onto the screen's corners; a loupe follows the one that is dragged.

    Shift and a click set a further mark, on an edge; Shift and a click on it take it away.

    Signals
    -------
    marked : a mark was moved by hand
    """

    marked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.name = ""
        self.words = ""
        self.corners: NDArray[np.float64] | None = None
        """In pixels of the photograph, clockwise from the top left."""
        self.by_hand = False
        self._edges: list[tuple[float, float]] = []
        self._picture: NDArray[np.uint8] | None = None
        self._size = (1, 1)
        self._where = QRectF()
        self._held: int | None = None
        self.setMinimumSize(300, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Camera picture with the screen's corners")

    def call(self, name: str) -> None:
        """Say whose picture it is."""
        self.name = name
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(420, 230)

    def clear(self, name: str, words: str) -> None:
        """Another camera, or another screen: nothing has been seen yet."""
        self.name, self.words, self.corners, self.by_hand, self._picture = name, words, None, False, None
        self._edges = []
        self.update()

    def show_photo(self, photo: NDArray[np.float32], corners: NDArray[np.float64] | None, words: str) -> None:
        """Show a photograph, shape (h, w), linear light; corners that were marked by hand stay where they are."""
        height, width = photo.shape[:2]
        if (width, height) != self._size:
            self.by_hand, self._edges = False, []
        self._size, self.words = (width, height), words
        if not self.by_hand:
            inset = np.array([[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]]) * (width, height)
            self.corners = corners if corners is not None else inset
        small = cv2.resize(
            photo, (min(width, 1600), round(height * min(width, 1600) / width)), interpolation=cv2.INTER_AREA
        )
        grey = np.rint(linear_to_srgb(np.clip(small, 0, 1)) * 255).astype(np.uint8)
        self._picture = np.asarray(cv2.cvtColor(grey, cv2.COLOR_GRAY2BGRA), np.uint8)
        self.update()

    @property
    def marks(self) -> NDArray[np.float64] | None:
        """Marks on the screen's edges, in pixels of the photograph, shape (n, 2)."""
        return np.array(self._edges, float) if self._edges else None

    def spot(self, n: int) -> QPointF:
        """Where a mark is drawn: the four of the corners, then those of the edges."""
        assert self.corners is not None
        x, y = (*self.corners.tolist(), *self._edges)[n]
        w = self._where
        return QPointF(w.x() + x / self._size[0] * w.width(), w.y() + y / self._size[1] * w.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        headed(p, self, "Camera", self.name)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.left(p, QRectF(12, self.height() - 24, self.width() - 24, 20), self.words)
        if self._picture is None or self.corners is None:
            return
        self._where = draw_fitted(p, QRectF(12, HEAD + 4, self.width() - 24, self.height() - HEAD - 28), self._picture)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        outline = QPolygonF([self.spot(n) for n in range(4)])
        p.setBrush(Qt.BrushStyle.NoBrush)
        for token, width in ((theme.GROUND, 3.0), (theme.AMBER, 1.3)):
            p.setPen(theme.hairline(token, width))
            p.drawPolygon(outline)
        for n in range(4, 4 + len(self._edges)):
            at = self.spot(n)
            for token, width in ((theme.GROUND, 4.0), (theme.AMBER, 1.6)):
                p.setPen(theme.hairline(token, width))
                p.drawLine(at - QPointF(5, 0), at + QPointF(5, 0))
                p.drawLine(at - QPointF(0, 5), at + QPointF(0, 5))
        for n in range(4):
            at = self.spot(n)
            p.setPen(theme.hairline(theme.GROUND, 3))
            p.drawEllipse(at, 6, 6)
            p.setPen(theme.hairline(theme.AMBER, 1.6))
            p.drawEllipse(at, 6, 6)
            p.drawPoint(at)
        if self._held is not None:
            self._paint_loupe(p, self._held)

    def _paint_loupe(self, p: QPainter, n: int) -> None:
        """The pixels around a mark, six times as large as they are drawn, in the corner that is farthest from it."""
        assert self._picture is not None and self.corners is not None
        at, w = self.spot(n), self._where
        box = QRectF(
            w.left() + 4 if at.x() > w.center().x() else w.right() - LOUPE - 4,
            w.top() + 4 if at.y() > w.center().y() else w.bottom() - LOUPE - 4,
            LOUPE,
            LOUPE,
        )
        k = self._picture.shape[1] / w.width()
        half = LOUPE / 12 * k
        x, y = (at.x() - w.x()) * k, (at.y() - w.y()) * k
        patch = cv2.getRectSubPix(
            self._picture[..., :3].copy(), (max(3, round(2 * half)), max(3, round(2 * half))), (x - 0.5, y - 0.5)
        )
        p.save()
        p.setClipRect(box)
        draw_fitted(p, box, np.asarray(cv2.cvtColor(patch, cv2.COLOR_BGR2BGRA), np.uint8))
        p.setPen(theme.hairline(theme.AMBER, 1))
        p.drawLine(QPointF(box.center().x(), box.top()), QPointF(box.center().x(), box.bottom()))
        p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.right(), box.center().y()))
        p.restore()
        p.setPen(theme.hairline(theme.TEXT, 1))
        p.drawRect(box)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.window().setFocus()
        if self._picture is None or self.corners is None:
            return
        far = [(self.spot(n) - event.position()).manhattanLength() for n in range(4 + len(self._edges))]
        self._held = int(np.argmin(far)) if min(far) < GRAB else None
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and not self._where.isEmpty():
            if self._held is not None and self._held >= 4:
                del self._edges[self._held - 4]
                self._held, self.words = None, f"{len(self._edges)} marks on edges"
            elif self._held is None:
                self._edges.append(self._place(event.position()))
                self._held, self.words = 3 + len(self._edges), f"{len(self._edges)} marks on edges"
        self.update()

    def _place(self, at: QPointF) -> tuple[float, float]:
        """The pixel of the photograph under a point."""
        w = self._where
        return (
            min(1.0, max(0.0, (at.x() - w.x()) / w.width())) * self._size[0],
            min(1.0, max(0.0, (at.y() - w.y()) / w.height())) * self._size[1],
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None or self.corners is None or self._where.isEmpty():
            return
        x, y = self._place(event.position())
        if self._held >= 4:
            self._edges[self._held - 4] = x, y
            self.words = f"mark on an edge at {x:.0f}, {y:.0f}"
        else:
            self.corners[self._held] = x, y
            self.by_hand = True
            self.words = f"{NAMES[self._held]} corner at {x:.0f}, {y:.0f}"
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and (self.by_hand or self._edges):
            self.marked.emit()
        self._held = None
        self.update()
