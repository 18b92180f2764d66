"""Sound devices, in a process of its own: one that hangs, or that has to be served at once, concerns nobody else.

What is said to it by standard input: the moment of sample 0 by the monotonic clock, then blocks of samples with the
number of their first.  What it says: lines of JSON to standard error's place, or blocks of what a device captures.
"""

from __future__ import annotations

import json
import os
import struct
import sys
import threading
import time
from collections import deque
from contextlib import suppress
from typing import Any

import numpy as np

from ushering_adze.core.sound.following import Reader
from ushering_adze.core.sound.levels import RATE
from ushering_adze.io.media.ring import SoundRing

HEAD = struct.Struct("<qI")
"""Before each block: the number of its first sample, and how many there are."""
BEGIN = struct.Struct("<d")
"""Before all: the moment of sample 0."""
BLOCK = struct.Struct("<dI")
"""Before each block that was captured: the moment of its first sample, and how many there are."""
SMOOTH = 0.02
"""By how much of it a measured moment moves what is known of a device's clock."""
OFF = 0.05
"""Seconds by which moments must be off for a device's clock to be set anew."""
AMONG = 31
"""Measured moments of which the middle one is believed: one that came late, or was told wrongly, does not count."""


def say(**fields: object) -> None:
    """Tell whoever began this process."""
    sys.stderr.write(json.dumps(fields) + "\n")
    sys.stderr.flush()


def devices() -> list[dict[str, object]]:
    """Every device: its name, and how many channels it takes and gives."""
    import sounddevice

    return [
        {"name": d["name"], "out": d["max_output_channels"], "in": d["max_input_channels"]}
        for d in sounddevice.query_devices()
    ]


def _named(device: str) -> str | None:
    return None if device == "default" else device


class _Clock:
    """The moment of each sample of a device, made even: what is measured has jitter."""

    def __init__(self) -> None:
        self._zero: float | None = None
        self._count = 0
        self._lately: deque[float] = deque(maxlen=AMONG)

    def moment(self, measured: float, samples: int) -> float:
        self._lately.append(measured - self._count / RATE)
        middle = sorted(self._lately)[len(self._lately) // 2]
        if self._zero is None or abs(middle - self._zero) > OFF:
            self._zero = middle
        else:
            self._zero += SMOOTH * (middle - self._zero)
        moment = self._zero + self._count / RATE
        self._count += samples
        return moment


def play(device: str, channels: int) -> None:
    """Play what comes in, each sample at its moment."""
    import sounddevice

    come = sys.stdin.buffer
    (zero,) = BEGIN.unpack(come.read(BEGIN.size))
    ring = SoundRing(channels)
    reader = Reader(ring.read, channels)
    clock = _Clock()
    starved = [0]

    def callback(out: Any, samples: int, times: Any, status: Any) -> None:
        latency = times.outputBufferDacTime - times.currentTime
        if not 0 < latency < 2:
            latency = stream.latency
        moment = clock.moment(time.perf_counter() + latency, samples)
        made = reader.take((moment - zero) * RATE, samples)
        if made is None:
            out.fill(0)
            if ring.end:
                starved[0] += 1
        else:
            out[:] = made

    stream = sounddevice.OutputStream(
        RATE, device=_named(device), channels=channels, dtype="float32", latency=0.06, callback=callback
    )
    with stream:
        say(state="plays", latency=stream.latency)
        threading.Thread(target=_watch, args=(stream, starved), daemon=True).start()
        while len(head := come.read(HEAD.size)) == HEAD.size:
            start, samples = HEAD.unpack(head)
            data = come.read(samples * channels * 4)
            if len(data) < samples * channels * 4:
                break
            ring.put(start, np.frombuffer(data, np.float32).reshape(samples, channels))


def _watch(stream: Any, starved: list[int]) -> None:
    told = 0
    while True:
        time.sleep(0.5)
        if not stream.active:
            say(state="gone", why="the device has gone")
            os._exit(1)
        if starved[0] != told:
            told = starved[0]
            say(state="plays", starved=told)


def capture(device: str, channels: int) -> None:
    """Give what a device captures, with the moment of each block."""
    import sounddevice

    clock, tell = _Clock(), sys.stdout.buffer
    blocks: list[bytes] = []
    came = threading.Condition()

    def callback(given: Any, samples: int, times: Any, status: Any) -> None:
        latency = times.currentTime - times.inputBufferAdcTime
        if not 0 < latency < 2:
            latency = stream.latency
        moment = clock.moment(time.perf_counter() - latency, samples)
        with came:
            blocks.append(BLOCK.pack(moment, samples) + np.ascontiguousarray(given, np.float32).tobytes())
            came.notify_all()

    stream = sounddevice.InputStream(
        RATE, device=_named(device), channels=channels, dtype="float32", latency=0.03, callback=callback
    )
    threading.Thread(target=_ends, daemon=True).start()
    with stream:
        say(state="captures", latency=stream.latency)
        threading.Thread(target=_watch, args=(stream, [0]), daemon=True).start()
        while True:
            with came:
                came.wait_for(lambda: blocks)
                data, blocks[:] = b"".join(blocks), []
            tell.write(data)
            tell.flush()


def _ends() -> None:
    """Who began this process is gone when its end of standard input is."""
    sys.stdin.buffer.read()
    os._exit(0)


def main() -> None:
    """``list``, or ``play`` and ``capture`` with a device and how many channels."""
    said = sys.argv[1:]
    try:
        match said:
            case ["list"]:
                sys.stdout.write(json.dumps(devices()))
                sys.stdout.flush()
            case ["play", device, channels]:
                with suppress(OSError):
                    os.nice(-5)
                play(device, int(channels))
            case ["capture", device, channels]:
                with suppress(OSError):
                    os.nice(-5)
                capture(device, int(channels))
    except Exception as error:
        say(state="gone", why=" ".join(str(error).split())[:200] or type(error).__name__)
        os._exit(1)
    os._exit(0)


if __name__ == "__main__":
    main()
