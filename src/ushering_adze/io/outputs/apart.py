"""Coding in a process of its own: a far end that accepts and never answers, or a disk that hangs, stops nobody else.

While FFmpeg opens where pictures go, it lets no other thread of its process run.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import select
import struct
import subprocess
import sys
import threading
import time

import numpy as np

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.sound.levels import Sound
from ushering_adze.io.outputs.coder import Coder, Coding, CodingError

HEAD = struct.Struct("<q")
"""Before each picture, its number; −1 ends, and below that comes so much sound: −1 − n samples."""
BEGINS = 60.0
"""Seconds that the process may take until it is there."""
HANGS = 10.0
"""Seconds for which it may take no picture."""
ENDS = 10.0
"""Seconds that it may take to write what is still to come."""
PIPE = 1 << 20
HERE = b"here\n"


class FarError(OSError):
    """What went wrong in the other process; ``named`` is the error's name there."""

    def __init__(self, named: str, words: str) -> None:
        super().__init__(words)
        self.named = named


def _begun() -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", "ushering_adze.io.outputs.apart"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )


class _Spare:
    """One process that is there already when it is wanted."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def keep(self) -> None:
        """Begin one, if there is none."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._process = _begun()

    def take(self) -> subprocess.Popen[bytes]:
        """The one there is, or a new one."""
        with self._lock:
            found, self._process = self._process, None
        return found if found is not None and found.poll() is None else _begun()


SPARE = _Spare()


class ApartCoder:
    """Has pictures coded by a `Coder` in another process.

    Parameters
    ----------
    to : str
        A URL or a path.
    coding : Coding

    Raises
    ------
    FarError, CodingError, TimeoutError
        Here, or with a later picture.
    """

    def __init__(self, to: str, coding: Coding) -> None:
        self.bytes = 0
        self._process = SPARE.take()
        assert self._process.stdin is not None and self._process.stdout is not None
        self._fd, self._out = self._process.stdin.fileno(), self._process.stdout
        self._failed: tuple[str, str] | None = None
        self._here = threading.Event()
        self._told = threading.Thread(target=self._listen, name="coder", daemon=True)
        self._told.start()
        if not self._here.wait(BEGINS):
            self._kill()
            raise TimeoutError("its process did not begin")
        with contextlib.suppress(OSError, AttributeError):
            fcntl.fcntl(self._fd, fcntl.F_SETPIPE_SZ, PIPE)
        os.set_blocking(self._fd, False)
        self._write(json.dumps({"to": to, "coding": coding._asdict()}).encode() + b"\n")

    def _listen(self) -> None:
        """Hear what it says: that it is there, how much it has sent, what went wrong."""
        for line in self._out:
            if line == HERE:
                self._here.set()
            elif line.startswith(b"!"):
                name, _, words = line[1:].decode(errors="replace").strip().partition(" ")
                self._failed = name, words
            else:
                self.bytes = int(line)
        self._here.set()

    def put(self, pixels: Pixels, number: int) -> None:
        """Send a picture over."""
        self._write(HEAD.pack(number))
        self._write(memoryview(np.ascontiguousarray(pixels)).cast("B"))

    def hear(self, sound: Sound) -> None:
        """Send sound over."""
        if len(sound):
            self._write(HEAD.pack(-1 - len(sound)))
            self._write(memoryview(np.ascontiguousarray(sound, np.float32)).cast("B"))

    def _write(self, data: bytes | memoryview) -> None:
        left, last = memoryview(data), time.monotonic()
        while left:
            try:
                gone = os.write(self._fd, left[:PIPE])
            except BlockingIOError:
                gone = 0
            except BrokenPipeError:
                self._told.join(ENDS)
                name, words = self._failed or ("BrokenPipeError", "it has ended")
                raise CodingError(words) if name == "CodingError" else FarError(name, words) from None
            if gone:
                left, last = left[gone:], time.monotonic()
                continue
            select.select([], [self._fd], [], 0.5)
            if time.monotonic() - last > HANGS:
                self._kill()
                raise TimeoutError("nobody answers")

    def _kill(self) -> None:
        self._process.kill()
        self._process.wait(ENDS)

    def close(self) -> None:
        """Have what is still to come written, and end."""
        assert self._process.stdin is not None
        if self._process.poll() is None:
            with contextlib.suppress(OSError, CodingError):
                self._write(HEAD.pack(-1))
        with contextlib.suppress(OSError):
            self._process.stdin.close()
        try:
            self._process.wait(ENDS)
        except subprocess.TimeoutExpired:
            self._kill()
        self._told.join(ENDS)


def main() -> None:
    """Code what comes in by standard input, until it ends."""
    with contextlib.suppress(OSError):
        os.nice(2)
    come, tell = sys.stdin.buffer, sys.stdout.buffer
    tell.write(HERE)
    tell.flush()
    said = come.readline()
    if not said:
        return
    try:
        asked = json.loads(said)
        coding = Coding(**asked["coding"])
        coder = Coder(asked["to"], coding)
        try:
            while len(head := come.read(HEAD.size)) == HEAD.size:
                (number,) = HEAD.unpack(head)
                if number < -1:
                    size = (-1 - number) * 8
                    data = come.read(size)
                    if len(data) < size:
                        break
                    coder.hear(np.frombuffer(data, np.float32).reshape(-1, 2))
                    continue
                size = coding.width * coding.height * 4
                data = b"" if number < 0 else come.read(size)
                if len(data) < size:
                    break
                coder.put(np.frombuffer(data, np.uint8).reshape(coding.height, coding.width, 4), number)
                tell.write(b"%d\n" % coder.bytes)
                tell.flush()
        finally:
            coder.close()
    except Exception as error:
        words = " ".join(str(error).split())
        tell.write(f"!{type(error).__name__} {words}\n".encode())
        tell.flush()
        os._exit(1)


if __name__ == "__main__":
    main()
