"""A technician's hands in Map, in the real window."""

from __future__ import annotations

import gc
from pathlib import Path

import cv2
import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QLineEdit

from ushering_adze.desk.drafting.prompt import Prompt
from ushering_adze.desk.qt import settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow

LEFT, CTRL, SHIFT, ALT = (
    Qt.MouseButton.LeftButton,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)
NONE = Qt.KeyboardModifier.NoModifier


class Hands:
    """A technician's hands: every click, drag, key and typed line is one input, and is counted."""

    def __init__(self, window: MainWindow, qtbot: object) -> None:
        self.window, self.bot, self.inputs = window, qtbot, 0

    def key(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = NONE, on: object = None) -> None:
        self.inputs += 1
        self.bot.keyClick(on or self.window, key, modifiers)
        settle(5)

    def act(self, id: str) -> None:
        """A key or menu entry: what the command book runs for it."""
        self.inputs += 1
        self.window.book.actions[id].trigger()
        settle(5)

    def type(self, field: QLineEdit, text: str) -> None:
        self.inputs += 2  # into the field, and Enter
        field.setFocus()
        field.setText(text)
        self.bot.keyClick(field, Qt.Key.Key_Return)
        settle(5)

    def answer(self, *values: str) -> None:
        """Fill the open question in, and press its button."""
        prompt: Prompt = self.window.map.actions_of.prompt
        for field, value in zip(prompt.fields, values, strict=False):
            if value:
                self.inputs += 1
                field.setText(value) if isinstance(field, QLineEdit) else field.setCurrentIndex(field.findData(value))
        self.inputs += 1
        self.bot.mouseClick(prompt.button, LEFT)
        settle(5)

    def at(self, x: float, y: float) -> QPoint:
        view = self.window.map.canvas
        return (view.origin + QPointF(x + 0.5, y + 0.5) * view.scale).toPoint()

    def click(self, x: float, y: float, modifiers: Qt.KeyboardModifier = NONE) -> None:
        self.inputs += 1
        self.bot.mouseClick(self.window.map.canvas, LEFT, modifiers, self.at(x, y))

    def drag(
        self, a: tuple[float, float], b: tuple[float, float], modifiers: Qt.KeyboardModifier = NONE, view: object = None
    ) -> None:
        self.inputs += 1
        view = view or self.window.map.canvas
        points = [
            (view.origin + QPointF(x + 0.5, y + 0.5) * view.scale).toPoint()
            for x, y in [a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b, b]
        ]
        self.bot.mousePress(view, LEFT, modifiers, points[0])
        for point in points[1:]:
            settle(20)
            move = QPointF(point)
            view.mouseMoveEvent(QMouseEvent(QEvent.Type.MouseMove, move, view.mapToGlobal(move), LEFT, LEFT, modifiers))
        self.bot.mouseRelease(view, LEFT, modifiers, points[-1])
        settle(5)


def in_map(session: Session, qtbot: object) -> tuple[MainWindow, Hands]:
    window = MainWindow(session)
    window.resize(1280, 800)
    window.show()
    window.show_workspace("Map")
    settle(60)
    window.map.canvas.grab()
    window.map.output.grab()
    return window, Hands(window, qtbot)


def gone(window: MainWindow) -> None:
    """Close a window for good: what lives on would be styled and painted with every later one."""
    window.map.close_all()
    window.outputs.close()
    window.map.bench.deleteLater()
    window.deleteLater()
    settle(10)
    gc.collect()


def regions(hands: Hands) -> dict[str, object]:
    return {r.id: r for _, r in hands.window.session.show.regions()}


def guide_picture(path: Path) -> None:
    """What a supplier sends: three banners at the left, a centre screen, a plinth; labels and cabinet lines in them."""
    picture = np.zeros((1200, 3840, 3), np.uint8)
    shapes = [
        (100, 100, 192, 768),
        (340, 100, 192, 768),
        (580, 100, 192, 768),
        (960, 60, 1920, 960),
        (1440, 1056, 960, 128),
    ]
    for n, (x, y, w, h) in enumerate(shapes):
        picture[y : y + h, x : x + w] = [(160, 60, 40), (40, 140, 60), (50, 70, 180), (120, 110, 30), (130, 50, 140)][n]
        for k in range(0, w, 96):
            picture[y : y + h, x + k] = (220, 220, 220)
        cv2.putText(
            picture, f"{w}x{h}", (x + 12, y + h // 2), cv2.FONT_HERSHEY_SIMPLEX, 1, (255, 255, 255), 2, cv2.LINE_AA
        )
    cv2.imwrite(str(path), picture)
