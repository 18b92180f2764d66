"""Timecode from the network: packets of Art-Net."""

from __future__ import annotations

from collections.abc import Callable

from ushering_adze.core.signal.timecode import Heard, artnet_code
from ushering_adze.io.datagrams import Datagrams

PORT = 6454
"""Of Art-Net, by its specification."""


class ArtNetCode(Datagrams):
    """Hears Art-Net timecode.

    Parameters
    ----------
    heard : callable
        Is given every code as it comes, in a thread of its own.
    port : int
        0 for any that is free.
    """

    def __init__(self, heard: Callable[[Heard], None], port: int = PORT) -> None:
        self._code_heard = heard
        super().__init__("Art-Net timecode", port, self._take)

    def _take(self, packet: bytes) -> None:
        code = artnet_code(packet)
        if code is not None:
            self._code_heard(code)
