"""Packets of a port, heard in a thread of their own."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable
from contextlib import suppress

from ushering_adze.io.logs import log


class Datagrams:
    """Hears a UDP port until it is closed.

    Parameters
    ----------
    what : str
        What is heard there, in words that begin a sentence.
    port : int
        0 for any that is free.
    heard : callable
        Is given every packet as it comes, in a thread of its own.
    group : str, optional
        Of a multicast that is joined, where there is a network.
    """

    def __init__(self, what: str, port: int, heard: Callable[[bytes], None], group: str | None = None) -> None:
        self._what, self._heard, self._closing = what, heard, False
        self.port = port
        self.fault: str | None = None
        """Why nothing can be heard, in a sentence."""
        self._socket: socket.socket | None = None
        try:
            made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            made.bind(("", port))
            made.settimeout(0.5)
        except OSError as error:
            self.fault = f"{what} cannot be heard on port {port} ({error.strerror}); end what else listens there"
            return
        if group is not None:
            with suppress(OSError):
                joined = socket.inet_aton(group) + socket.inet_aton("0.0.0.0")
                made.setsockopt(socket.IPPROTO_IP, socket.IP_ADD_MEMBERSHIP, joined)
        self._socket, self.port = made, made.getsockname()[1]
        threading.Thread(target=self._listen, args=(made,), name=what, daemon=True).start()

    def _listen(self, made: socket.socket) -> None:
        while not self._closing:
            try:
                packet = made.recv(4096)
            except TimeoutError:
                continue
            except OSError:
                break
            try:
                self._heard(packet)
            except Exception:
                log.exception(f"{self._what}: a packet was not taken")

    def close(self) -> None:
        """Hear no more."""
        self._closing = True
        if self._socket is not None:
            self._socket.close()
