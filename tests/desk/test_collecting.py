"""What is garbage is taken down in the interface's thread, whoever made it."""

from __future__ import annotations

import gc
import threading

from PySide6.QtWidgets import QApplication

from ushering_adze.desk.collecting import Collecting


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
    qtbot.waitUntil(lambda: len(Ring.taken_down) == 20_000, timeout=20000)
    assert set(Ring.taken_down) == {threading.main_thread()}
    turns.deleteLater()
