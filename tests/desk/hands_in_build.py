"""Hands in Build: sources dropped, layers dragged, and what there is to see."""

from __future__ import annotations

import json

from PySide6.QtCore import QEvent, QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from ushering_adze.core.onair.storing import is_seen
from ushering_adze.desk.build.workspace import BuildWorkspace
from ushering_adze.desk.dragging import SOURCES
from ushering_adze.desk.window import MainWindow

LEFT, NONE, SHIFT, CTRL, ALT = (
    Qt.MouseButton.LeftButton,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def on_air(window: MainWindow) -> list[str]:
    """Layers of the House that are on air."""
    return [y for (c, y), s in window.session.playout.stage.program.target.items() if c == "house" and is_seen(s)]


def until(qtbot: object, seen: object) -> None:
    qtbot.waitUntil(seen)


def on_widget(build: BuildWorkspace, x: float, y: float) -> QPointF:
    canvas = build.canvas
    return QPointF(canvas.origin.x() + x * canvas.scale, canvas.origin.y() + y * canvas.scale)


def drop(build: BuildWorkspace, source: str, x: float, y: float, keys: Qt.KeyboardModifier = NONE) -> None:
    mime = QMimeData()
    mime.setData(SOURCES, json.dumps([source]).encode())
    build.canvas.grab()
    at = on_widget(build, x, y)
    build.canvas.dropEvent(QDropEvent(at, Qt.DropAction.CopyAction, mime, LEFT, keys))


def drag(widget: QWidget, begin: QPointF, end: QPointF, keys: Qt.KeyboardModifier = NONE, steps: int = 4) -> None:
    QTest.mousePress(widget, LEFT, keys, begin.toPoint())
    for n in range(1, steps + 1):
        at = begin + (end - begin) * n / steps
        widget.mouseMoveEvent(_moved(at, keys))
    QTest.mouseRelease(widget, LEFT, keys, end.toPoint())


def _moved(at: QPointF, keys: Qt.KeyboardModifier) -> QMouseEvent:
    return QMouseEvent(QEvent.Type.MouseMove, at, at, Qt.MouseButton.NoButton, LEFT, keys)


def placed(build: BuildWorkspace, id: str) -> tuple[float, ...]:
    return tuple(round(v, 3) for v in build.building.states()[id].place)


def chosen_seen(build: BuildWorkspace) -> bool:
    """Whether the stage has the selected layer by now, and it is seen."""
    state = build.building.states().get(build.building.selected[0]) if build.building.selected else None
    return state is not None and is_seen(state)


def showing(build: BuildWorkspace) -> set[str]:
    """The sources that are seen where edits go."""
    return {s.picture.source for s in build.building.states().values() if is_seen(s)}
