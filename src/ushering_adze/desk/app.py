"""Starting the desk."""

from __future__ import annotations

import os
import re
import signal
import sys
import threading
import time
from functools import partial
from pathlib import Path
from typing import NoReturn

from PySide6.QtCore import QSettings, QTimer, qInstallMessageHandler

from ushering_adze.core.onair.actions import StagePreset
from ushering_adze.core.show import Show
from ushering_adze.desk import text_size
from ushering_adze.desk.qt import application, settle
from ushering_adze.desk.session import Begin, Session, within
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.as_run import as_run_folder
from ushering_adze.io.child import Child
from ushering_adze.io.logs import log, log_unhandled
from ushering_adze.io.places import state_folder
from ushering_adze.io.priority import give_way
from ushering_adze.playout import Beside, set_aside

_ADDRESS = re.compile(r"0x[0-9a-f]+")
BEHIND = 5
"""How far the desk gives way to the frames that are made beside it."""
FURNISHED_MS = 900
"""When the workspaces behind Run are built: after the first live pictures, which they would keep waiting."""


def beside(child: Child | None = None) -> Begin:
    """How a show is run in a process beside this one; in a child that has been begun already, if there is one."""
    return partial(Beside, child=child)


def opened(show: Show, path: Path | None, root: Path, begin: Begin = within) -> MainWindow:
    """A window on a show that runs."""
    application()
    session = Session(show, path, root, begin)
    session.playout.start(rest=True)  # its sources are opened, and its first frame is made, while the window is
    window = MainWindow(session, whole=False)
    window.show()
    set_aside()
    session.playout.go()

    def rest() -> None:
        window.furnish()
        set_aside()

    QTimer.singleShot(FURNISHED_MS, window, rest)
    return window


def run(show: Show, path: Path | None, root: Path, calendar: bool = True, child: Child | None = None) -> int:
    """Open a show in a window and stay until it is closed; its calendar runs if ``calendar`` says so.  Its pictures are
    made in a process beside this one, in the ``child`` if there is one.
    """
    text_size.lay_on()
    app = application()
    windows: list[MainWindow] = []
    ending: list[int] = []

    def ended(number: int, frame: object) -> None:
        ending.append(0 if number == signal.SIGTERM else 128 + number)
        for window in windows:
            window.leave()
        app.exit(ending[0])

    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(
            number, ended
        )  # it is looked at between events, of which there are some every quarter of a second
    qInstallMessageHandler(
        lambda kind, context, text: log.info(f"Qt: {_ADDRESS.sub('…', text)}")
    )  # else it would wait for standard error
    window = opened(show, path, root, beside(child))
    give_way(BEHIND)  # not before: the threads that may begin such a process again must not, as it would itself
    window.session.playout.keep_as_run(as_run_folder())
    if calendar:
        window.session.playout.run_calendar(state_folder() / "calendar")
    windows.append(window)
    log_unhandled(
        lambda kind: window.session.trouble.emit(
            f"Something in the window failed ({kind}); the show goes on. The log says where: Help, Show the log."
        )
    )
    large = text_size.too_large(app)
    if large is not None:
        window.notice.say(large)
    try:
        if not window.session.bring_back():
            window.session.tell_of_others()
    except Exception:
        sys.excepthook(*sys.exc_info())  # it is told and logged; the show that was asked for stays open
    app.commitDataRequest.connect(lambda manager: window.session.filing.autosave.flush())
    code = ending[0] if ending else int(app.exec())
    window.leave()
    return code


def gone(code: int) -> NoReturn:
    """End the program now: nothing is gained by taking the window apart piece by piece, and a thread may hang in
    something that never answers.
    """
    QSettings().sync()
    log.flush()
    end = time.monotonic() + 0.2
    while threading.active_count() > 2 and time.monotonic() < end:
        time.sleep(0.01)
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def save_picture_of_window(show: Show, root: Path, path: Path, staged: int = 7) -> None:
    """Open a show off screen with a preset staged and save a picture of the main window."""
    application()
    session = Session(show, None, root)
    window = MainWindow(session)
    window.resize(1280, 800)
    session.playout.start(wait=10)
    window.show()
    session.playout.act(StagePreset(preset=staged))
    settle(1500)
    window.grab().save(str(path))
    session.playout.stop()
    window.outputs.close()
    window.deleteLater()
