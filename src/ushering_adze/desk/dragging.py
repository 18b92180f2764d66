"""Buttons and cards that are dragged: what travels is the id of one thing of the show."""

from __future__ import annotations

from PySide6.QtCore import QByteArray, QMimeData, QPoint, Qt
from PySide6.QtGui import QDrag, QMouseEvent
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

FINISH = "application/x-ushering-adze-finish"
PRESET = "application/x-ushering-adze-preset"


def carried(kind: str, id: str) -> QMimeData:
    """What travels with the pointer."""
    mime = QMimeData()
    mime.setData(kind, QByteArray(id.encode()))
    return mime


def id_dragged(mime: QMimeData, kind: str) -> str | None:
    """The id of what is dragged; None if it is something else."""
    return bytes(mime.data(kind).data()).decode() if mime.hasFormat(kind) else None


def far_enough(start: QPoint | None, event: QMouseEvent) -> bool:
    """Whether a pressed pointer has gone so far that something is dragged."""
    if start is None or not event.buttons() & Qt.MouseButton.LeftButton:
        return False
    return (event.position().toPoint() - start).manhattanLength() >= QApplication.startDragDistance()


def drag(widget: QWidget, kind: str, id: str) -> None:
    """Drag something off a widget, with its picture."""
    carrier = QDrag(widget.window())  # the widget itself may be made anew by what it is dropped on
    carrier.setMimeData(carried(kind, id))
    carrier.setPixmap(widget.grab())
    carrier.setHotSpot(QPoint(12, 12))
    carrier.exec(Qt.DropAction.CopyAction)


class DraggedButton(QPushButton):
    """A button that can be dragged as well as pressed."""

    def __init__(self, words: str, kind: str, id: str) -> None:
        super().__init__(words)
        self._kind, self._id = kind, id
        self._start: QPoint | None = None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._start = event.position().toPoint()
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if far_enough(self._start, event):
            self._start = None
            self.setDown(False)
            drag(self, self._kind, self._id)
        else:
            super().mouseMoveEvent(event)
