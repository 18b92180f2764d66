"""The application object, and letting it live for a moment."""

from __future__ import annotations

import sys

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from ushering_adze.desk import theme
from ushering_adze.desk.collecting import Collecting


def application() -> QApplication:
    """The application object, with its look."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    app = QApplication(sys.argv[:1])
    app.setOrganizationName("ushering-adze")
    app.setApplicationName("ushering-adze")
    theme.apply(app)
    Collecting(app)
    return app


def one_more(event: QMouseEvent) -> bool:
    """Whether a click adds to what is selected, or takes from it: with Ctrl or Shift."""
    return bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))


def settle(milliseconds: int) -> None:
    """Let the window live for a moment."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()
