"""Starting the desk."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from ushering_adze.core.show import Show
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow


def application() -> QApplication:
    """The application object, with its look."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    app = QApplication(sys.argv[:1])
    app.setOrganizationName("ushering-adze")
    app.setApplicationName("ushering-adze")
    theme.apply(app)
    return app


def run(show: Show, path: Path | None, root: Path) -> int:
    """Open a show in a window and stay until it is closed."""
    app = application()
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    session = Session(show, path, root)
    window = MainWindow(session)
    session.engine.start()
    window.show()
    return int(app.exec())


def settle(milliseconds: int) -> None:
    """Let the window live for a moment."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def save_picture_of_window(show: Show, root: Path, path: Path, staged: int = 7) -> None:
    """Open a show off screen with a preset staged and save a picture of the main window."""
    application()
    session = Session(show, None, root)
    window = MainWindow(session)
    window.resize(1280, 800)
    session.engine.start(wait=10)
    window.show()
    session.engine.stage_preset(staged)
    settle(1500)
    window.grab().save(str(path))
    session.engine.stop()
    window.outputs.close()
    window.deleteLater()
