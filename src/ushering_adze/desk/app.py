"""Starting the desk."""

from __future__ import annotations

import signal
from pathlib import Path

from PySide6.QtCore import QTimer

from ushering_adze.core.show import Show
from ushering_adze.desk.qt import application, settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine.memory import set_aside
from ushering_adze.io.logs import log_unhandled

FURNISHED_MS = 900
"""When the workspaces behind Run are built: after the first live pictures, which they would keep waiting."""


def opened(show: Show, path: Path | None, root: Path) -> MainWindow:
    """A window on a show that runs."""
    application()
    session = Session(show, path, root)
    session.engine.start(rest=True)  # its sources are opened, and its first frame is made, while the window is
    window = MainWindow(session, whole=False)
    window.show()
    set_aside()
    session.engine.go()

    def rest() -> None:
        window.furnish()
        set_aside()

    QTimer.singleShot(FURNISHED_MS, window, rest)
    return window


def run(show: Show, path: Path | None, root: Path) -> int:
    """Open a show in a window and stay until it is closed."""
    app = application()
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    window = opened(show, path, root)
    log_unhandled(lambda kind: window.session.trouble.emit(f"Something in the window failed ({kind}); the show goes on. The log says where: "
                                                           "Help, Show the log."))
    return int(app.exec())


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
