"""Doing something again and again, but no more often than it can be read."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

READ = 100
"""Milliseconds within which nobody reads a number twice."""


class Calm(QObject):
    """Does something at once, then once more at the end of a rest if it was asked for meanwhile.

    Parameters
    ----------
    parent : QObject
        With whom it ends.
    act : callable
    rest : int
        Milliseconds.
    """

    def __init__(self, parent: QObject, act: Callable[[], object], rest: int = READ) -> None:
        super().__init__(parent)
        self._act, self._again = act, False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(rest)
        self._timer.timeout.connect(self._rested)

    def ask(self, *_: object) -> None:
        """Have it done, now or soon."""
        if self._timer.isActive():
            self._again = True
        else:
            self._timer.start()
            self._act()

    def _rested(self) -> None:
        if self._again:
            self._again = False
            self.ask()
