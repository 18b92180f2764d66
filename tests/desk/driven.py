"""The program itself under an X server, driven by real keys and mouse; what it did is read back from the
file it saved.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from ushering_adze.core.show import Show
from ushering_adze.demo.show import copy_demo
from ushering_adze.io.showfile import read_show


class Driven:
    """The demo show, copied and opened, its window at the screen's top left."""

    def __init__(self, display: str, folder: Path) -> None:
        self._env = {
            **os.environ,
            "DISPLAY": display,
            "QT_QPA_PLATFORM": "xcb",
            "XDG_CONFIG_HOME": str(folder),
            "HOME": str(folder),
        }
        copy_demo(folder / "demo")
        self.path = folder / "demo" / "show.adze"
        self._program = subprocess.Popen(
            [sys.executable, "-m", "ushering_adze", "open", str(self.path)],
            env=self._env,
            stderr=subprocess.PIPE,
            text=True,
        )
        end, found = time.monotonic() + 60, ""
        while time.monotonic() < end and not found:
            found = self.x("search", "--name", "Centenary Night")
            time.sleep(0.3)
            assert self._program.poll() is None, self._program.stderr.read() if self._program.stderr else ""
        self.x("windowmove", found.splitlines()[-1], 0, 0)
        self.x("windowfocus", found.splitlines()[-1])
        time.sleep(1.5)

    def x(self, *args: object) -> str:
        """What xdotool does, and what it prints."""
        return subprocess.run(
            ["xdotool", *map(str, args)], env=self._env, capture_output=True, text=True, timeout=20
        ).stdout.strip()

    def drag(self, *places: tuple[int, int]) -> None:
        """Press at the first place, go through the others, and let go."""
        self.x("mousemove", *places[0], "mousedown", 1)
        for at in places[1:]:
            self.x("mousemove", *at)
            time.sleep(0.1)
        self.x("mouseup", 1)

    def saved_until(self, what: Callable[[Show], bool], seconds: float = 40) -> Show:
        """Save again and again until the file holds what is waited for."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.x("key", "ctrl+s")
            time.sleep(0.5)
            if what(read_show(self.path)):
                return read_show(self.path)
        raise AssertionError("the file did not come to hold it")

    def close(self) -> None:
        """End the program."""
        self._program.kill()
        self._program.wait(5)
