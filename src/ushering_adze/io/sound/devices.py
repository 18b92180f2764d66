"""Sound devices as the program has them: played to and captured from through processes of their own, taken again when
they come back.
"""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import threading
import time
from typing import Any, NamedTuple

import numpy as np

from ushering_adze.core.sound.levels import RATE, Sound
from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.sound.device import BEGIN, BLOCK, HEAD
from ushering_adze.io.sound.kept import KeptProcess, unwaited

AGAIN = 2.0
"""Seconds after which a device that has gone is tried again."""
NONE_HERE = ("no default output device", "no default input device", "querying device -1", "error querying device")
"""What PortAudio says where a machine has no device at all."""


class Device(NamedTuple):
    """A device by its name, and how many channels it takes and gives."""

    name: str
    out: int
    into: int


def devices(timeout: float = 10.0) -> list[Device]:
    """Every device of this machine, the usual one first; none where there is no sound."""
    with contextlib.suppress(OSError, subprocess.SubprocessError, ValueError):
        said = subprocess.run(
            [sys.executable, "-m", "ushering_adze.io.sound.device", "list"],
            capture_output=True,
            timeout=timeout,
            check=False,
        )
        return [Device(str(d["name"]), int(d["out"]), int(d["in"])) for d in json.loads(said.stdout)]
    return []


class _Apart(KeptProcess):
    """A process that serves a device."""

    def __init__(self, how: str, device: str, channels: int) -> None:
        self.device, self.channels = device, channels
        self.serves = False
        self.why: str | None = None
        self.latency = 0.0
        self.starved = 0
        super().__init__("ushering_adze.io.sound.device", (how, device, str(channels)), AGAIN)

    @property
    def fault(self) -> str | None:
        """Why there is no sound, in a sentence; None if there is."""
        if self.why is None:
            return None
        if any(words in self.why.lower() for words in NONE_HERE):
            return None if self.device == "default" else f"there is no sound device “{self.device}”; it is tried again"
        return f"sound device “{self.device}”: {self.why}; it is tried again"

    def _ended(self, why: str | None) -> None:
        self.serves, self.why = False, why or self.why

    def _hear(self, process: subprocess.Popen[bytes]) -> None:
        """Hear what it says, until it ends."""
        assert process.stderr is not None
        for line in process.stderr:
            try:
                said: dict[str, Any] = json.loads(line)
            except ValueError:
                continue  # a library that speaks
            if said.get("state") == "gone":
                self.why, self.serves = str(said.get("why")), False
            else:
                self.why, self.serves = None, True
                self.latency = float(said.get("latency", self.latency))
                self.starved = int(said.get("starved", self.starved))


class DeviceOut(_Apart):
    """Plays samples at their moments.

    Parameters
    ----------
    device : str
        A name, or "default".
    channels : int
    zero : float
        The moment of sample 0, by ``time.perf_counter``.
    """

    def __init__(self, device: str, channels: int, zero: float) -> None:
        self._zero = zero
        self._fd: int | None = None
        super().__init__("play", device, channels)

    def _serve(self, process: subprocess.Popen[bytes]) -> None:
        with contextlib.suppress(OSError):
            fd = unwaited(process)
            os.write(fd, BEGIN.pack(self._zero))
            self._fd = fd
        self._hear(process)
        self._fd = None

    def put(self, start: int, sound: Sound) -> None:
        """Give samples; they are lost while nobody serves the device."""
        fd = self._fd
        if fd is None or not self.serves:
            return
        data = HEAD.pack(start, len(sound)) + np.ascontiguousarray(sound, np.float32).tobytes()
        try:
            gone = os.write(fd, data)
        except OSError:
            return  # it is full, or has ended: whoever hears it will say so
        if gone < len(data):  # half a block would be heard as noise
            self._fd = None
            if self._process is not None:
                self._process.kill()


class DeviceIn(_Apart):
    """Captures samples; their places count from a moment of ``time.perf_counter`` that is 0."""

    def __init__(self, device: str, channels: int) -> None:
        self.ring = SoundRing(channels)
        self.came: float | None = None
        """When the newest sample was captured."""
        super().__init__("capture", device, channels)

    def _serve(self, process: subprocess.Popen[bytes]) -> None:
        hears = threading.Thread(target=self._hear, args=(process,), daemon=True)
        hears.start()
        assert process.stdout is not None
        next_one: int | None = None
        while len(head := process.stdout.read(BLOCK.size)) == BLOCK.size:
            moment, samples = BLOCK.unpack(head)
            data = process.stdout.read(samples * self.channels * 4)
            if len(data) < samples * self.channels * 4:
                break
            place = round(moment * RATE)
            if next_one is None or abs(place - next_one) > RATE // 100:
                next_one = place
            self.ring.put(next_one, np.frombuffer(data, np.float32).reshape(samples, self.channels))
            next_one += samples
            self.came = time.perf_counter()
        hears.join(2)
