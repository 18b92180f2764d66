"""Steps of a drag between the frames of the show: each is begun when one has just been made."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from ushering_adze.desk.session import Session

PATIENCE = 200
"""Milliseconds that a step waits for a frame at most: a slow show makes few, one that stands still none."""


class FrameSteps(QObject):
    """Does a step when the next frame has been made, once for however often it is asked; while frames are late, in turn
    with reports.

    Parameters
    ----------
    parent : QObject
        With whom it ends.
    session : Session
    step : callable
    """

    _made = Signal()

    def __init__(self, parent: QObject, session: Session, step: Callable[[], object]) -> None:
        super().__init__(parent)
        self._session, self._step = session, step
        self._asked = False
        self._made.connect(self._do, Qt.ConnectionType.QueuedConnection)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PATIENCE)
        self._timer.timeout.connect(self._do)

    def ask(self) -> None:
        """Have a step done soon."""
        if not self._asked:
            self._asked = True
            self._timer.start()
            self._session.playout.after_frame(self._made.emit)

    def stop(self) -> None:
        """Do what was asked for no more."""
        self._asked = False
        self._timer.stop()

    def _do(self) -> None:
        if self._asked:
            self.stop()
            self._step()
