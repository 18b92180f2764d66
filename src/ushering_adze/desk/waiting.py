"""Waiting for a disk without keeping anybody waiting: windows are painted meanwhile, and what never answers is given
up.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal

from ushering_adze.core.show import Fault, ShowError

Result = TypeVar("Result")
SECONDS = 8.0


class _Done(QObject):
    came = Signal()


def answered(work: Callable[[], Result], what: str, seconds: float = SECONDS) -> Result:
    """Do something that may hang, beside the interface; outputs are painted meanwhile, keys and mouse wait.

    Raises
    ------
    ShowError
        If it takes too long; what comes of it later is nobody's.
    Exception
        What the work raises.
    """
    results: list[Result] = []
    errors: list[BaseException] = []
    done, loop = _Done(), QEventLoop()
    done.came.connect(loop.quit)

    def run() -> None:
        try:
            results.append(work())
        except BaseException as error:
            errors.append(error)
        done.came.emit()

    thread = threading.Thread(target=run, name="disk", daemon=True)
    thread.start()
    thread.join(0.05)  # most disks answer at once
    if thread.is_alive():
        timer = QTimer()
        timer.setSingleShot(True)
        timer.timeout.connect(loop.quit)
        timer.start(int(seconds * 1000))
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    if results:
        return results[0]
    if errors:
        raise errors[0]
    raise ShowError(
        [Fault(what, f"its drive or share has not answered for {seconds:.0f} s; try again, or choose another place")]
    )
