"""Sound mixed in a process of its own: begun anew if it ends, and never waited for."""

from __future__ import annotations

import os
import pickle
import subprocess
import threading

from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.sound.kept import KeptProcess, unwaited
from ushering_adze.io.sound.orders import Orders, Told
from ushering_adze.io.sound.process import SIZE, get

AGAIN = 1.0
"""Seconds after which it is begun anew when it has ended by itself."""


class SoundApart(KeptProcess):
    """Has sound mixed by orders.

    Parameters
    ----------
    devices : bool
        Whether devices are opened.
    """

    def __init__(self, devices: bool = True) -> None:
        self._fd: int | None = None
        self._left = b""
        self.zero: float | None = None
        """The moment of sample 0, by ``time.perf_counter``, once it is there."""
        self.told = Told()
        self.taps: dict[str, SoundRing] = {}
        self.begun = 0
        """How often it was begun."""
        super().__init__("ushering_adze.io.sound.process", () if devices else ("--no-devices",), AGAIN)

    def _serve(self, process: subprocess.Popen[bytes]) -> None:
        assert process.stdout is not None and process.stderr is not None
        threading.Thread(target=process.stderr.read, name="sound says", daemon=True).start()
        fd = unwaited(process)
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

    def _ended(self, why: str | None) -> None:
        faults = {} if why is None else {"sound": f"{why}; it is tried again"}
        self.told, self._fd = Told(faults=faults), None

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
