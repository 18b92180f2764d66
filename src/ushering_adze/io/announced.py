"""Streams that are announced on the network."""

from __future__ import annotations

from ushering_adze.core.signal.announced import GROUP, PORT, Announced, announced
from ushering_adze.io.datagrams import Datagrams


class Announcements(Datagrams):
    """Hears which streams there are.

    Parameters
    ----------
    port : int
        0 for any that is free.
    """

    def __init__(self, port: int = PORT) -> None:
        self._found: dict[str, Announced] = {}
        super().__init__("announced streams", port, self._take, GROUP)

    def _take(self, packet: bytes) -> None:
        told = announced(packet)
        if told is not None:
            rest = {key: stream for key, stream in self._found.items() if key != told.key}
            self._found = rest if told.ended else {**rest, told.key: told}

    @property
    def found(self) -> tuple[Announced, ...]:
        """Those that were heard by now, by name."""
        return tuple(sorted(self._found.values(), key=lambda a: a.name))
