"""Timecodes that cue lists follow: whoever is followed is listened to, and nobody else."""

from __future__ import annotations

from ushering_adze.core.show import Show
from ushering_adze.engine.engine import Engine
from ushering_adze.io.timecode import PORT, ArtNetCode


class TimecodeInputs:
    """Listens for the timecodes that the lists of a show follow."""

    def __init__(self, engine: Engine, port: int = PORT) -> None:
        self._engine, self._port = engine, port
        self._artnet: ArtNetCode | None = None

    def follow(self, show: Show) -> None:
        """Listen for what this show's lists follow."""
        wanted = any(y.code is not None and y.code.source == "artnet" for y in show.lists)
        if wanted and self._artnet is None:
            self._artnet = ArtNetCode(lambda c: self._engine.hear_code("artnet", c.seconds, c.rate), self._port)
        elif not wanted and self._artnet is not None:
            self.close()

    @property
    def port(self) -> int | None:
        """Where Art-Net is heard; None if it is not."""
        return None if self._artnet is None or self._artnet.fault is not None else self._artnet.port

    def faults(self) -> dict[str, str]:
        """Why one cannot be heard, in a sentence."""
        return {"timecode": self._artnet.fault} if self._artnet is not None and self._artnet.fault else {}

    def close(self) -> None:
        """Hear no more."""
        if self._artnet is not None:
            self._artnet.close()
            self._artnet = None
