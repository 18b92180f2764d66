"""The process that mixes sound: told by standard input what is to be heard, it tells by standard output what is.

Frames never wait for it, nor it for them.
"""

from __future__ import annotations

import os
import pickle
import struct
import sys
import threading
import time
from contextlib import suppress
from typing import Any

from ushering_adze.core.sound.levels import Sound
from ushering_adze.io.sound.mixing import BLOCK, LEAD, Measuring, SoundMixing
from ushering_adze.io.sound.orders import Orders

SIZE = struct.Struct("<I")
"""Before each message, its bytes."""
TELL = 2
"""Blocks from one report to the next."""
WATCHED, UNWATCHED = 2, 8
"""Blocks that are measured at a time, while somebody looks at meters and while nobody does: many at once take less
time.
"""
AT_ONCE = 16
"""Blocks that are measured at once, at most."""


def put(to: Any, what: object) -> None:
    """Write a message."""
    data = pickle.dumps(what, pickle.HIGHEST_PROTOCOL)
    to.write(SIZE.pack(len(data)) + data)
    to.flush()


def get(of: Any) -> Any:
    """Read a message; None at the end."""
    head = of.read(SIZE.size)
    if len(head) < SIZE.size:
        return None
    (size,) = SIZE.unpack(head)
    data = of.read(size)
    return None if len(data) < size else pickle.loads(data)


class _Process:
    def __init__(self, devices: bool) -> None:
        self._mixing = SoundMixing(time.perf_counter(), devices)
        self._measuring = Measuring()
        self._tell = sys.stdout.buffer
        self._waiting: list[tuple[dict[str, Sound], dict[str, float]]] = []
        self._resets: set[str] = set()
        self._orders: list[Orders] = []
        self._came = threading.Condition()
        self._failed: str | None = None

    def listen(self) -> None:
        """Hear orders; the end of standard input is the end."""
        come = sys.stdin.buffer
        while (orders := get(come)) is not None:
            with self._came:
                self._orders.append(orders)
                self._resets |= orders.resets
        os._exit(0)

    def _worth_measuring(self) -> bool:
        return len(self._waiting) >= (WATCHED if self._mixing.orders.points else UNWATCHED)

    def measure(self) -> None:
        """Measure what was mixed, beside the mixing."""
        while True:
            with self._came:
                self._came.wait_for(self._worth_measuring)
                blocks, self._waiting = self._waiting[-AT_ONCE:], []
                resets, self._resets = frozenset(self._resets), set()
            self._measuring.reset(resets)
            self._measuring.hear(blocks, self._mixing.orders)

    def run(self) -> None:
        """Mix block after block."""
        put(self._tell, ("zero", self._mixing.zero))
        while True:
            mixing = self._mixing
            ahead = mixing.moment - LEAD - time.perf_counter()
            if ahead > 0:
                time.sleep(ahead)
            mixing.catch_up(time.perf_counter())
            with self._came:
                orders, self._orders = self._orders, []
            for one in orders:
                mixing.follow(one)
            try:
                start = mixing.block * BLOCK
                if mixing.idle:
                    mixing.block += 1
                else:
                    sound, reduction = mixing.mix_block()
                    with self._came:
                        self._waiting.append((sound, reduction))
                        self._came.notify_all()
                    taps = {mix: sound[mix] for mix in mixing.orders.taps if mix in sound}
                    if taps:
                        put(self._tell, ("tap", start, taps))
                self._failed = None
            except Exception as error:
                self._failed = f"it cannot be mixed ({type(error).__name__}) and is silent; undo the last edit of it"
                mixing.block += 1
            if mixing.block % TELL == 0:
                told = mixing.told(self._measuring.told)
                if self._failed is not None:
                    told = told._replace(faults={**told.faults, "sound": self._failed})
                put(self._tell, ("told", told))


def main() -> None:
    """Mix until standard input ends."""
    with suppress(OSError):
        os.nice(-5)
    process = _Process("--no-devices" not in sys.argv)
    for run in (process.listen, process.measure):
        threading.Thread(target=run, daemon=True).start()
    with suppress(BrokenPipeError):
        process.run()
    os._exit(0)


if __name__ == "__main__":
    main()
