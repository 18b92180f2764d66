"""Garbage is collected in the interface's thread, and in no other.

A widget in a ring of references is taken down by whichever thread the collector happens to run in.  In another thread
than its own, Qt's lock on its signals and the interpreter's are then taken in one order there and in the other here,
and the program stands still for good.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

PERIOD_MS = 250


class Collecting(QObject):
    """Takes the collector's turns over from the interpreter, as long as its thread's events go on."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        timer = QTimer(self)
        timer.timeout.connect(collect_due)
        timer.start(PERIOD_MS)


def collect_due() -> None:
    """Collect the oldest generation that is due, by the interpreter's own thresholds."""
    for generation, (count, most) in reversed(list(enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)))):
        if count > most > 0:
            gc.collect(generation)
            return
