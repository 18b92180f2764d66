"""Asking what may never answer: dead network shares, pipes, sleeping drives.

Nobody waits for these but threads of their own, which neither the next question nor the end of the program depends on.
"""

from __future__ import annotations

import os
import stat
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path
from queue import Empty, SimpleQueue
from typing import Any, TypeVar

from ushering_adze.core.show import Fault, ShowError

Result = TypeVar("Result")
OVERDUE = 5.0
"""Seconds after which what has not answered is a fault."""
MOST = 64
"""Threads that may hang before new questions wait for them after all."""
MOST_BYTES = 256 << 20
"""Of a table, an EDID, or another small file."""


class Askers:
    """Threads that work through questions, in their order; whichever hangs is replaced by another.

    Parameters
    ----------
    name : str
    many : int
        How many work at a time, not counting those that hang.
    begin : callable
        Called in each thread before its first question.
    """

    def __init__(self, name: str, many: int, begin: Callable[[], object] = lambda: None) -> None:
        self._name, self._many, self._begin = name, many, begin
        self._asked: SimpleQueue[tuple[Future[Any], Callable[..., Any], tuple[object, ...]]] = SimpleQueue()
        self._since: dict[threading.Thread, float] = {}
        self._lock = threading.Lock()
        self._closed = False

    def ask(self, work: Callable[..., Result], *about: object) -> Future[Result]:
        """Have something done; the answer is in what is returned, whenever it comes."""
        answer: Future[Result] = Future()
        self._asked.put((answer, work, about))
        self.relieve()
        return answer

    def relieve(self) -> None:
        """See to it that somebody works on what waits, though others hang; costs next to nothing."""
        if self._asked.empty() or self._closed:
            return
        with self._lock:
            now = time.monotonic()
            at_work = sum(now - since < OVERDUE for since in self._since.values())
            if at_work >= self._many or len(self._since) >= MOST:
                return
            thread = threading.Thread(target=self._run, name=self._name, daemon=True)
            self._since[thread] = now
        thread.start()

    def _next(self) -> tuple[Future[Any], Callable[..., Any], tuple[object, ...]] | None:
        try:
            return self._asked.get_nowait()
        except Empty:
            return None

    def _run(self) -> None:
        self._begin()
        me = threading.current_thread()
        while (item := self._next()) is not None:
            answer, work, about = item
            if not answer.set_running_or_notify_cancel():
                continue
            began = time.monotonic()
            with self._lock:
                self._since[me] = began
            try:
                result = work(*about)
            except BaseException as error:
                answer.set_exception(error)
            else:
                answer.set_result(result)
            if time.monotonic() - began > OVERDUE:
                break  # somebody else works in this one's place
        with self._lock:
            self._since.pop(me, None)
        self.relieve()

    def close(self) -> None:
        """Ask nothing more; returns at once, whatever hangs."""
        self._closed = True
        while (item := self._next()) is not None:
            if item[0].cancel():
                item[0].set_running_or_notify_cancel()  # else whoever waits for it would wait for ever


def regular(path: Path, what: str = "file") -> os.stat_result:
    """The state of a path that is a plain file: anything else might never answer when it is opened.

    Raises
    ------
    ShowError
        If there is nothing, or something else.
    """
    try:
        found = path.stat()
    except FileNotFoundError:
        raise ShowError([Fault(str(path), f"there is no such {what}; check the path")]) from None
    except (OSError, ValueError) as error:
        raise ShowError(
            [Fault(str(path), f"it cannot be read ({getattr(error, 'strerror', None) or error}); check the path")]
        ) from None
    if stat.S_ISDIR(found.st_mode):
        raise ShowError([Fault(str(path), f"this is a folder; name the {what} in it")])
    if not stat.S_ISREG(found.st_mode):
        raise ShowError([Fault(str(path), f"this is a pipe or a device, not a {what}; name a plain file")])
    return found


def read_small(path: Path, what: str = "file") -> bytes:
    """The whole of a plain file of reasonable size.

    Raises
    ------
    ShowError
    """
    if regular(path, what).st_size > MOST_BYTES:
        raise ShowError(
            [Fault(str(path), f"it has {path.stat().st_size / 1e6:.0f} MB, too much for a {what}; choose another")]
        )
    try:
        return path.read_bytes()
    except OSError as error:
        raise ShowError([Fault(str(path), f"it cannot be read ({error.strerror}); check its permissions")]) from None


def read_text(path: Path, what: str = "table") -> str:
    """The same as UTF-8 text.

    Raises
    ------
    ShowError
    """
    try:
        return read_small(path, what).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise ShowError(
            [Fault(path.name, f"it is not UTF-8 text (byte {error.start + 1}); save it as CSV in UTF-8")]
        ) from None
