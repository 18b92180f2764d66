"""Random hands on the real window: clicks, drags, keys and words anywhere, now and then another show.

``random_hands.py [--seed 1] [--seconds 120] [Build Watch …]`` works on a copy of the demo, without a screen, and tells
every error that reaches nobody, with what was done before it, and every step for which the window stood still.  It
ends with 1 if there was any error.
"""

from __future__ import annotations

import argparse
import os
import random
import sys
import tempfile
import threading
import time
import traceback
from collections import Counter, deque
from pathlib import Path

PLACE = Path(tempfile.mkdtemp(prefix="random-hands-"))
os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_STATE_HOME"] = str(PLACE / "state")

from PySide6.QtCore import QPoint, QSettings, Qt, QTimer
from PySide6.QtGui import QContextMenuEvent, QDrag
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPlainTextEdit,
    QWidget,
)

from ushering_adze.core.show.fresh import Wish, fresh_show
from ushering_adze.demo.show import copy_demo, demo_show
from ushering_adze.desk.app import beside, opened
from ushering_adze.desk.qt import settle
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.showfile import read_show

LEFT = Qt.MouseButton.LeftButton
HELD = [
    *[Qt.KeyboardModifier.NoModifier] * 4,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
]
WORDS = (
    *("0", "-1", "1e9", "5", "0.5", "", "x", "*2", "+50", "1/0", "nan", "inf", "12:00", "#ff00", "a b, c", "1920x1080"),
    *("9" * 30, "<b>x", "Horizon", "6", "across", "bezier(0.3, 0, 0.7, 1)", "wipe 90", "cut", "stage 7", "../x", "w/2"),
)
KEYS = [
    getattr(Qt.Key, f"Key_{name}")
    for name in (
        *"ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789",
        *("Delete", "Backspace", "Tab", "Return", "Escape", "Up", "Down", "Left", "Right", "Space", "Home", "End"),
        *("F2", "F5", "F6", "Plus", "Minus", "PageUp", "PageDown"),
    )
]
ANOTHER = 1 / 120
"""How often another show is begun."""
STOOD = 1.0
"""Seconds of work in one step from which on it is told."""


class Hands:
    """What is done at random, and what came of it."""

    def __init__(self, window: MainWindow, seed: int) -> None:
        self.window, self.chance = window, random.Random(seed)
        self.done: deque[str] = deque(maxlen=14)
        self.errors: Counter[str] = Counter()
        self.stood: list[str] = []
        self._deep = 0
        self._timers = [QTimer() for _ in range(8)]  # one cannot fire while what it did goes on
        for n, timer in enumerate(self._timers):
            timer.timeout.connect(self._answer)
            timer.start(110 + 17 * n)

    def caught(self, kind: type[BaseException], error: BaseException, where: object) -> None:
        """Tell an error, once for each place."""
        lines = traceback.format_exception(kind, error, where)  # type: ignore[arg-type]
        place = next((line.strip() for line in reversed(lines) if line.lstrip().startswith("File")), "")
        key = f"{lines[-1].strip()}  {place.splitlines()[0] if place else ''}"
        self.errors[key] += 1
        if self.errors[key] == 1:
            print("after:", *self.done, "".join(lines), sep="\n  ", flush=True)

    def note(self, what: str, widget: QWidget, more: str = "") -> None:
        """Remember a step."""
        words = widget.text() if hasattr(widget, "text") and callable(widget.text) else ""
        self.done.append(f"{what} {type(widget).__name__} {(widget.objectName() or str(words))[:30]!r} {more}")

    def _spot(self, widget: QWidget) -> QPoint:
        return QPoint(self.chance.randrange(max(1, widget.width())), self.chance.randrange(max(1, widget.height())))

    def step(self, root: QWidget) -> None:
        """Do something to some widget of a window."""
        chance, parts = self.chance, [w for w in root.findChildren(QWidget) if w.isVisible() and w.isEnabled()]
        widget = chance.choice([w for w in parts if w.window() is root.window() and w.width() > 4] or [root])
        held, at = chance.choice(HELD), self._spot(widget)
        match chance.choices(("click", "twice", "menu", "drag", "key", "words"), (38, 8, 10, 16, 14, 14))[0]:
            case "click":
                self.note("click", widget, f"{at.toTuple()} {held.name}")
                QTest.mouseClick(widget, LEFT, held, at)
            case "twice":
                self.note("twice", widget, f"{at.toTuple()} {held.name}")
                QTest.mouseDClick(widget, LEFT, held, at)
            case "menu":
                self.note("menu of", widget, str(at.toTuple()))
                reason = QContextMenuEvent.Reason.Mouse
                QApplication.sendEvent(widget, QContextMenuEvent(reason, at, widget.mapToGlobal(at)))
            case "drag":
                self.note("drag", widget, f"{at.toTuple()} {held.name}")
                QTest.mousePress(widget, LEFT, held, at)
                for _ in range(chance.randrange(1, 6)):
                    QTest.mouseMove(widget, self._spot(widget))
                if chance.random() < 0.15:
                    QTest.keyClick(widget, Qt.Key.Key_Escape)
                QTest.mouseRelease(widget, LEFT, held, self._spot(widget))
            case "key":
                focus, key = QApplication.focusWidget() or widget, chance.choice(KEYS)
                self.note("key", focus, f"{key.name} {held.name}")
                QTest.keyClick(focus, key, held)
            case _:
                self._type(
                    [w for w in parts if isinstance(w, (QLineEdit, QPlainTextEdit, QAbstractSpinBox, QComboBox))]
                )

    def _type(self, fields: list[QWidget]) -> None:
        if not fields:
            return
        field, words = self.chance.choice(fields), self.chance.choice(WORDS)
        self.note("type into", field, repr(words))
        field.setFocus()
        if isinstance(field, QComboBox) and not field.isEditable():
            if field.count():
                n = self.chance.randrange(field.count())
                field.setCurrentIndex(n)
                field.activated.emit(n)
            return
        QTest.keyClick(field, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Qt.Key.Key_Return)

    def _answer(self) -> None:
        """Something in the menu or the question that is open, and out of it."""
        if self._deep > 5:
            return
        self._deep += 1
        try:
            popup, asked = QApplication.activePopupWidget(), QApplication.activeModalWidget()
            if popup is not None:
                for _ in range(self.chance.randrange(0, 12)):
                    QTest.keyClick(popup, Qt.Key.Key_Down)
                chosen = popup.activeAction() if isinstance(popup, QMenu) else None
                self.note("answer", popup, "" if chosen is None else repr(chosen.text()))
                QTest.keyClick(popup, self.chance.choice([Qt.Key.Key_Return, Qt.Key.Key_Return, Qt.Key.Key_Escape]))
            elif asked is not None and asked is not self.window:
                for _ in range(3):
                    if asked.isVisible():
                        self.step(asked)
                if asked.isVisible() and self.chance.random() < 0.25:
                    asked.close()
        except RuntimeError as error:
            if "already deleted" not in str(error):
                raise
        finally:
            self._deep -= 1

    def another_show(self) -> None:
        """Begin another show, small or the whole demo; a report of the one before is still on its way."""
        session, size = self.window.session, self.chance.randrange(0, 4)
        wishes = [Wish(kind, kind, 320, 160, 4000.0, 2000.0) for kind in ("LED wall", "projection", "monitor")[:size]]
        report = session.report
        self.done.append(f"another show of {size or 'all'}")
        session.begin(fresh_show("Small", wishes) if size else demo_show())
        if report is not None:
            session.tell(report)

    def go_on(self, seconds: float, rooms: list[str]) -> int:
        """Do this and that for so long; how many steps it were."""
        ends, steps = time.monotonic() + seconds, 0
        while time.monotonic() < ends:
            steps += 1
            if self.chance.random() < ANOTHER:
                self.another_show()
            if steps % 60 == 1:
                self.window.show_workspace(self.chance.choice(rooms))
            tops = [
                w for w in QApplication.topLevelWidgets() if w.isVisible() and isinstance(w, (QDialog, QMainWindow))
            ]
            root = self.window if self.chance.random() < 0.7 or not tops else self.chance.choice(tops)
            began = time.thread_time()
            try:
                self.step(root)
            except RuntimeError as error:
                if "already deleted" not in str(error):
                    raise
            spent = time.thread_time() - began
            if spent > STOOD and self._deep == 0:
                self.stood.append(f"{spent:.1f} s in {self.window.workspace}: {self.done[-1]}")
            settle(self.chance.choice([0, 0, 5, 30]))
            if not self.window.isVisible():
                self.window.show()
        return steps


def main() -> int:
    """Let them loose."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("rooms", nargs="*", default=["Rig", "Map", "Align", "Build", "Run", "Watch"])
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--seconds", type=float, default=120.0)
    given = words.parse_args()
    QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, str(PLACE / "settings"))
    QDrag.exec = lambda *a, **k: Qt.DropAction.IgnoreAction  # type: ignore[method-assign]
    for name in ("getOpenFileName", "getOpenFileNames", "getSaveFileName", "getExistingDirectory"):
        empty = [] if name == "getOpenFileNames" else ""
        setattr(QFileDialog, name, staticmethod(lambda *a, e=empty, n=name, **k: e if "Directory" in n else (e, "")))
    file = copy_demo(PLACE)
    window = opened(read_show(file), file, file.parent, beside())
    window.resize(1280, 800)
    settle(4000)
    hands = Hands(window, given.seed)
    sys.excepthook = hands.caught
    threading.excepthook = lambda a: hands.caught(a.exc_type, a.exc_value or Exception(), a.exc_traceback)
    steps = hands.go_on(given.seconds, given.rooms)
    print(f"seed {given.seed}: {steps} steps, {sum(hands.errors.values())} errors", *hands.errors, sep="\n  ")
    print(*(f"stood still {line}" for line in hands.stood), sep="\n")
    sys.stdout.flush()
    os._exit(bool(hands.errors))


if __name__ == "__main__":
    main()
