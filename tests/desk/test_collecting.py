"""What is garbage is taken down in the interface's thread, whoever made it."""

from __future__ import annotations

import gc
import threading
import weakref

from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk.collecting import Collecting
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow


class Ring:
    """Refers to itself, and says in which thread it was taken down."""

    taken_down: list[threading.Thread] = []

    def __init__(self) -> None:
        self.me = self

    def __del__(self) -> None:
        Ring.taken_down.append(threading.current_thread())


def test_rings_that_a_thread_leaves_are_taken_down_by_the_interface(qtbot: object, qapp: QApplication) -> None:
    gc.enable()
    turns = Collecting(qapp)
    thread = threading.Thread(target=lambda: [Ring() for _ in range(20_000)] and None)
    thread.start()
    thread.join()
    assert Ring.taken_down == [], "the thread that made them has let them lie"
    qtbot.waitUntil(lambda: len(Ring.taken_down) == 20_000)
    assert set(Ring.taken_down) == {threading.main_thread()}
    turns.deleteLater()


def test_a_window_that_is_gone_leaves_no_show_behind(app: QApplication, qtbot: QtBot) -> None:
    """What a session tells must not keep alive who listens: each window has rasters of hundreds of megabytes."""
    session = Session(demo_show(), None, DEMO_ROOT)
    window = MainWindow(session)
    window.show_workspace("Build")
    left = weakref.ref(session.playout)
    session.playout.stop()
    session.blockSignals(True)
    window.deleteLater()
    del session, window

    def gone() -> bool:
        gc.collect()
        return left() is None

    qtbot.waitUntil(gone)
