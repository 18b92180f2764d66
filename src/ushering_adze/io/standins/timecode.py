"""A source of timecode that is not there: sends Art-Net timecode for real, a packet for each frame."""

from __future__ import annotations

import socket
import threading
import time

from ushering_adze.core.signal.timecode import (
    CodeError,
    CodeRate,
    artnet_packet,
    code_words,
    frames_a_second,
    seconds_of_code,
)

WORDS = "jump CODE, stop, go, quit"


class StandinTimecode:
    """Sends timecode to a host and port; words make it jump, stop and go on."""

    def __init__(self, host: str, port: int, rate: CodeRate = "25", begin: str = "00:00:00:00") -> None:
        self._to, self._rate = (host, port), rate
        self._lock = threading.Lock()
        self._at, self._since, self._going = seconds_of_code(begin, rate), time.monotonic(), True
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._send, name="standin timecode", daemon=True)

    def start(self) -> None:
        """Begin to send."""
        self._thread.start()

    def join(self, seconds: float | None = None) -> None:
        """Wait until it is over."""
        self._over.wait(seconds)

    @property
    def seconds(self) -> float:
        """Where it stands, in seconds from 00:00:00:00."""
        with self._lock:
            return self._at + (time.monotonic() - self._since if self._going else 0.0)

    def tell(self, words: str) -> str:
        """Do as it is told; says what it did."""
        verb, _, rest = words.strip().partition(" ")
        here = self.seconds
        try:
            at = seconds_of_code(rest, self._rate) if verb == "jump" else here
        except CodeError as error:
            return str(error)
        if verb not in ("jump", "stop", "go", "quit"):
            return f"words are {WORDS}"
        with self._lock:
            self._at, self._since = at, time.monotonic()
            self._going = verb == "go" or (verb == "jump" and self._going)
        if verb == "quit":
            self._over.set()
        return f"{verb} at {code_words(at, self._rate)}"

    def _send(self) -> None:
        out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        while not self._over.wait(1 / frames_a_second(self._rate)):
            if self._going:
                out.sendto(artnet_packet(self.seconds, self._rate), self._to)
        out.close()
