"""Pictures as PNG files."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import cv2

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.logs import log
from ushering_adze.io.priority import give_way
from ushering_adze.io.writing import write_whole

STALLED = 5.0
"""Seconds after which a picture that is still being written is a fault."""


def write_png(pixels: Pixels, path: Path, alpha: bool = False) -> None:
    """Write a picture as an 8-bit PNG, whole or not at all; with its alpha, which is straight then, only if told.

    Raises
    ------
    ShowError
        If the file cannot be written; one that was there is then untouched.
    """
    done, data = cv2.imencode(
        ".png", pixels if alpha else cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR), [cv2.IMWRITE_PNG_COMPRESSION, 2]
    )
    if not done:
        raise ShowError([Fault(str(path), "the picture could not be made a PNG; choose a smaller size")])
    write_whole(path, data.tobytes(), "the picture", sync=False)


class PngSink:
    """Takes an output's frames and keeps the newest in a PNG file, written at most once in ``period`` seconds, in a
    thread of its own.
    """

    def __init__(self, path: Path, period: float = 1.0) -> None:
        self.path = path
        self._failed: str | None = None
        self._period = period
        self._began: float | None = None
        self._closed = False
        self._newest: Pixels | None = None
        self._count = 0
        self._change = threading.Condition()
        self._thread = threading.Thread(target=self._run, name=f"write {path.name}", daemon=True)
        self._thread.start()

    def __call__(self, pixels: Pixels) -> None:
        with self._change:
            self._newest = pixels
            self._count += 1
            self._change.notify_all()

    @property
    def fault(self) -> str | None:
        """Why the file is not what was sent, or None."""
        began = self._began
        if began is not None and time.monotonic() - began > STALLED:
            return (
                f"{self.path.parent} has not answered for {time.monotonic() - began:.0f} s; bind it to another folder"
            )
        return self._failed

    def _taken(self) -> Pixels | None:
        """A copy of the newest picture, waited for; None once there are none to come.

        A picture is not written to again before two newer ones have come: if they did meanwhile, the copy may
        be torn, and another is made.
        """
        while True:
            with self._change:
                self._change.wait_for(lambda: self._newest is not None or self._closed)
                pixels, self._newest, count = self._newest, None, self._count
            if pixels is None:
                return None
            copy = pixels.copy()
            with self._change:
                if self._count < count + 2:
                    return copy

    def _run(self) -> None:
        give_way()
        while True:
            pixels = self._taken()
            if pixels is None:
                return
            self._began = time.monotonic()
            try:
                write_png(pixels, self.path)
                self._failed = None
            except ShowError as error:
                self._failed = str(error)
            except Exception as error:
                log.exception("picture not written")
                self._failed = (
                    f"{self.path.name} could not be written ({type(error).__name__}); bind it to another folder"
                )
            self._began = None
            with self._change:
                self._change.wait_for(lambda: self._closed, self._period)

    def close(self) -> None:
        """Write what is waiting and stop; returns at once, whatever hangs."""
        with self._change:
            self._closed = True
            self._change.notify_all()

    def join(self, timeout: float) -> None:
        """Wait until the last picture is written after `close`."""
        self._thread.join(timeout)
