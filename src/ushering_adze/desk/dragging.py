"""Buttons, cards and sources that are dragged: what travels are ids of things of the show."""

from __future__ import annotations

import json
from collections.abc import Sequence

from PySide6.QtCore import QByteArray, QMimeData, QPoint, Qt
from PySide6.QtGui import QDrag, QMouseEvent
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

FINISH = "application/x-ushering-adze-finish"
PRESET = "application/x-ushering-adze-preset"
SOURCES = "application/x-ushering-adze-sources"
"""A JSON list of ids."""


def carried(kind: str, id: str) -> QMimeData:
    """What travels with the pointer."""
    mime = QMimeData()
    mime.setData(kind, QByteArray(id.encode()))
    return mime


def id_dragged(mime: QMimeData, kind: str) -> str | None:
    """The id of what is dragged; None if it is something else."""
    return bytes(mime.data(kind).data()).decode() if mime.hasFormat(kind) else None


def sources_carried(ids: Sequence[str]) -> QMimeData:
    """What travels with the pointer when sources do."""
    return carried(SOURCES, json.dumps(list(ids)))


def sources_dragged(mime: QMimeData) -> tuple[str, ...]:
    """The ids of the sources that are dragged; none if something else is."""
    ids = id_dragged(mime, SOURCES)
    return () if ids is None else tuple(str(id) for id in json.loads(ids))


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
