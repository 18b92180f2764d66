"""Where coded pictures go that no coder of streams serves: browsers by HTTP, and folders of PNG files."""

from __future__ import annotations

import contextlib
import threading
from pathlib import Path
from typing import TYPE_CHECKING, Protocol
from urllib.parse import urlsplit

import cv2

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import ShowError
from ushering_adze.core.sound.levels import Sound
from ushering_adze.io.outputs.apart import ApartCoder
from ushering_adze.io.outputs.coder import Coding, CodingError
from ushering_adze.io.outputs.png import write_png

if TYPE_CHECKING:
    from http.server import BaseHTTPRequestHandler

BOUNDARY = "ushering-adze-picture"


class Sends(Protocol):
    """Takes pictures by number until it is closed; ``bytes`` is what it has sent."""

    bytes: int

    def put(self, pixels: Pixels, number: int) -> None:
        """Send a picture."""

    def hear(self, sound: Sound) -> None:
        """Send what is heard next, where sound goes with pictures."""

    def close(self) -> None:
        """Send what is still to come, and end."""


class MotionJpeg:
    """Pictures as JPEG to every browser that asks (multipart/x-mixed-replace, RFC 2046 section 5.1 for its parts)."""

    def __init__(self, to: str, coding: Coding) -> None:
        where = urlsplit(to)
        if where.port is None:
            raise CodingError(
                "MJPEG is served at http://127.0.0.1:PORT/ or another address of this machine; name a port"
            )
        self._quality = max(30, min(95, round(30 + coding.kbit / max(1.0, coding.rate) / 8)))
        self._change = threading.Condition()
        self._newest, self._count, self._closed = b"", 0, False
        self.bytes = 0
        owner = self

        import http.server  # much of the library comes with it, and few shows are served

        class Handler(http.server.BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                owner._serve(self)

            def log_message(self, format: str, *args: object) -> None:
                pass

        self._server = http.server.ThreadingHTTPServer((where.hostname or "127.0.0.1", where.port), Handler)
        self._server.daemon_threads = True
        threading.Thread(target=self._server.serve_forever, name="MJPEG", daemon=True).start()

    def _serve(self, caller: BaseHTTPRequestHandler) -> None:
        caller.send_response(200)
        caller.send_header("Content-Type", f"multipart/x-mixed-replace; boundary={BOUNDARY}")
        caller.send_header("Cache-Control", "no-store")
        caller.end_headers()
        seen = 0
        with contextlib.suppress(OSError):
            while True:
                with self._change:
                    self._change.wait_for(lambda seen=seen: self._count > seen or self._closed)
                    if self._closed:
                        return
                    data, seen = self._newest, self._count
                head = f"--{BOUNDARY}\r\nContent-Type: image/jpeg\r\nContent-Length: {len(data)}\r\n\r\n"
                caller.wfile.write(head.encode() + data + b"\r\n")
                self.bytes += len(data)

    def hear(self, sound: Sound) -> None:
        """Pictures alone go this way."""

    def put(self, pixels: Pixels, number: int) -> None:
        """Send a picture to whoever looks."""
        made, data = cv2.imencode(
            ".jpg", cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR), [cv2.IMWRITE_JPEG_QUALITY, self._quality]
        )
        if made:
            with self._change:
                self._newest, self._count = data.tobytes(), self._count + 1
                self._change.notify_all()

    def close(self) -> None:
        """Serve no more."""
        with self._change:
            self._closed = True
            self._change.notify_all()
        self._server.shutdown()
        self._server.server_close()


class PngFolder:
    """Every picture as a PNG file in a folder, by its number."""

    def __init__(self, folder: Path, coding: Coding) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._folder, self._alpha = folder, coding.alpha
        self.bytes = 0

    def hear(self, sound: Sound) -> None:
        """Pictures alone go this way."""

    def put(self, pixels: Pixels, number: int) -> None:
        """Write a picture."""
        path = self._folder / f"{number:07}.png"
        try:
            write_png(pixels, path, self._alpha)
        except ShowError as error:
            raise OSError(str(error)) from None
        self.bytes += path.stat().st_size

    def close(self) -> None:
        """All is written already."""


def way_out(to: str, coding: Coding) -> Sends:
    """Open where pictures go.

    Raises
    ------
    CodingError, av.FFmpegError, OSError
    """
    if to.partition("://")[0].lower() == "http":
        return MotionJpeg(to, coding)
    if "://" not in to and not to.startswith("/dev/") and not Path(to).suffix:
        return PngFolder(Path(to), coding)
    if "://" not in to and not to.startswith("/dev/"):
        Path(to).parent.mkdir(parents=True, exist_ok=True)
    return ApartCoder(to, coding)
