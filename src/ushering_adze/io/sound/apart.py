"""Sound mixed in a process of its own: begun anew if it ends, and never waited for."""

from __future__ import annotations

import contextlib
import fcntl
import os
import pickle
import subprocess
import sys
import threading

from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.sound.orders import Orders, Told
from ushering_adze.io.sound.process import SIZE, get

AGAIN = 1.0
"""Seconds after which it is begun anew when it has ended by itself."""
PIPE = 1 << 20


class SoundApart:
    """Has sound mixed by orders.

    Parameters
    ----------
    devices : bool
        Whether devices are opened.
    """

    def __init__(self, devices: bool = True) -> None:
        self._devices = devices
        self._closed = False
        self._process: subprocess.Popen[bytes] | None = None
        self._fd: int | None = None
        self._left = b""
        self.zero: float | None = None
        """The moment of sample 0, by ``time.perf_counter``, once it is there."""
        self.told = Told()
        self.taps: dict[str, SoundRing] = {}
        self.begun = 0
        """How often it was begun."""
        self._change = threading.Condition()
        self._thread = threading.Thread(target=self._run, name="sound apart", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        command = [sys.executable, "-m", "ushering_adze.io.sound.process", *([] if self._devices else ["--no-devices"])]
        while not self._closed:
            with contextlib.suppress(OSError):
                process = subprocess.Popen(
                    command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
                )
                self._process = process
                if self._closed:
                    process.kill()
                self._serve(process)
                process.wait()
            self.told, self._fd = Told(), None
            with self._change:
                self._change.wait_for(lambda: self._closed, AGAIN)

    def _serve(self, process: subprocess.Popen[bytes]) -> None:
        assert process.stdin is not None and process.stdout is not None
        fd = process.stdin.fileno()
        with contextlib.suppress(OSError, AttributeError):
            fcntl.fcntl(fd, fcntl.F_SETPIPE_SZ, PIPE)
        os.set_blocking(fd, False)
        while (said := get(process.stdout)) is not None:
            match said:
                case ("zero", zero):
                    self.zero, self._left = zero, b""
                    self.taps.clear()
                    self.begun += 1
                    self._fd = fd
                case ("tap", start, taps):
                    for mix, sound in taps.items():
                        self.taps.setdefault(mix, SoundRing(2)).put(start, sound)
                case ("told", told):
                    self.told = told
        self._fd = None
        with contextlib.suppress(OSError):
            process.stdin.close()

    @property
    def ready(self) -> bool:
        """Whether it hears orders."""
        return self._fd is not None

    def order(self, orders: Orders) -> bool:
        """Have this be heard from now on; says whether it could be told."""
        fd = self._fd
        if fd is None:
            return False
        if not self._left:
            data = pickle.dumps(orders, pickle.HIGHEST_PROTOCOL)
            self._left = SIZE.pack(len(data)) + data
            whole = True
        else:
            whole = False  # what was begun has to be ended first
        try:
            self._left = self._left[os.write(fd, self._left) :]
        except BlockingIOError:
            pass
        except OSError:
            self._fd, self._left = None, b""
            return False
        return whole

    def close(self) -> None:
        """End."""
        with self._change:
            self._closed = True
            self._change.notify_all()
        process = self._process
        if process is not None and process.poll() is None:
            process.kill()
        self._thread.join(2)
