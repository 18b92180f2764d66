"""Streams that are announced on the network, heard in a thread of its own."""

from __future__ import annotations

import socket
import threading
from contextlib import suppress

from ushering_adze.core.signal.announced import GROUP, PORT, Announced, announced


class Announcements:
    """Hears which streams there are.

    Parameters
    ----------
    port : int
        0 for any that is free.
    """

    def __init__(self, port: int = PORT) -> None:
        self._found: dict[str, Announced] = {}
        self._closing = False
        self.port = port
        self.fault: str | None = None
        """Why nothing can be heard, in a sentence."""
        try:
            made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            made.bind(("", port))
            made.settimeout(0.5)
        except OSError as error:
            self.fault = f"announced streams cannot be heard on port {port} ({error.strerror}); end what listens there"
            return
        with suppress(OSError):  # without a network there is nobody to join
            made.setsockopt(
                socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, socket.inet_aton(GROUP) + socket.inet_aton("0.0.0.0")
            )
        self.port = made.getsockname()[1]
        threading.Thread(target=self._listen, args=(made,), name="announced", daemon=True).start()

    def _listen(self, made: socket.socket) -> None:
        with made:
            while not self._closing:
                try:
                    told = announced(made.recv(4096))
                except TimeoutError:
                    continue
                except OSError:
                    break
                if told is not None and told.ended:
                    self._found = {k: v for k, v in self._found.items() if k != told.key}
                elif told is not None:
                    self._found = {**self._found, told.key: told}

    @property
    def found(self) -> tuple[Announced, ...]:
        """Those that were heard by now, by name."""
        return tuple(sorted(self._found.values(), key=lambda a: a.name))

    def close(self) -> None:
        """Hear no more."""
        self._closing = True
