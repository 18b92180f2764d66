"""Timecode from the network: packets of Art-Net, heard in a thread of their own."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable

from ushering_adze.core.signal.timecode import Heard, artnet_code
from ushering_adze.io.logs import log

PORT = 6454
"""Of Art-Net, by its specification."""


class ArtNetCode:
    """Hears Art-Net timecode.

    Parameters
    ----------
    heard : callable
        Is given every code as it comes, in a thread of its own.
    port : int
        0 for any that is free.
    """

    def __init__(self, heard: Callable[[Heard], None], port: int = PORT) -> None:
        self._heard, self._closing = heard, False
        self.fault: str | None = None
        """Why nothing can be heard, in a sentence."""
        self.port = port
        self._socket: socket.socket | None = None
        try:
            made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            made.bind(("", port))
            made.settimeout(0.5)
        except OSError as error:
            self.fault = (
                f"Art-Net timecode cannot be heard on port {port} ({error.strerror}); end what else listens there"
            )
            return
        self._socket, self.port = made, made.getsockname()[1]
        threading.Thread(target=self._listen, args=(made,), name="timecode", daemon=True).start()

    def _listen(self, made: socket.socket) -> None:
        while not self._closing:
            try:
                packet = made.recv(2048)
            except TimeoutError:
                continue
            except OSError:
                break
            code = artnet_code(packet)
            if code is not None:
                try:
                    self._heard(code)
                except Exception:
                    log.exception("timecode not taken")

    def close(self) -> None:
        """Hear no more."""
        self._closing = True
        if self._socket is not None:
            self._socket.close()
