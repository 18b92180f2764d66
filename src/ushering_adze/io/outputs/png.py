"""Pictures as PNG files."""

from __future__ import annotations

import queue
import threading
import time
from pathlib import Path

import cv2

from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.priority import give_way


def write_png(pixels: Pixels, path: Path) -> None:
    """Write an opaque picture as an 8-bit RGB PNG.

    Raises
    ------
    ShowError
        If the file cannot be written.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        done, data = cv2.imencode(".png", cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR), [cv2.IMWRITE_PNG_COMPRESSION, 2])
        assert done
        path.write_bytes(data.tobytes())
    except OSError as error:
        raise ShowError([Fault(str(path), f"the picture could not be written ({error.strerror}); choose another folder")]) from None


class PngSink:
    """Takes an output's frames and keeps the newest in a PNG file, at most once in ``period`` seconds, in a thread of its own."""

    def __init__(self, path: Path, period: float = 1.0) -> None:
        self.path = path
        self.fault: str | None = None
        self._period = period
        self._last = -period
        self._waiting: queue.Queue[Pixels | None] = queue.Queue(maxsize=1)
        self._thread = threading.Thread(target=self._run, name=f"write {path.name}", daemon=True)
        self._thread.start()

    def __call__(self, pixels: Pixels) -> None:
        now = time.monotonic()
        if now - self._last >= self._period and self._waiting.empty():
            self._last = now
            self._waiting.put(pixels.copy())

    def _run(self) -> None:
        give_way()
        while (pixels := self._waiting.get()) is not None:
            try:
                write_png(pixels, self.path)
                self.fault = None
            except ShowError as error:
                self.fault = str(error)

    def close(self) -> None:
        """Write what is waiting and stop."""
        self._waiting.put(None)
        self._thread.join(5)
