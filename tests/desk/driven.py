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
from waiting import PATIENCE
from x_screen import XScreen


class Driven:
    """The demo show, copied and opened, its window at the screen's top left."""

    def __init__(self, screen: XScreen, folder: Path) -> None:
        self.screen = screen
        self._env = {
            **os.environ,
            "DISPLAY": screen.name,
            "QT_QPA_PLATFORM": "xcb",
            "XDG_CONFIG_HOME": str(folder),
            "HOME": str(folder),
        }
        copy_demo(folder / "demo")
        self.path = folder / "demo" / "show.adze"
        self._program = subprocess.Popen(
            [sys.executable, "-m", "ushering_adze", "open", "--no-calendar", str(self.path)],
            env=self._env,
            stderr=subprocess.PIPE,
            text=True,
        )
        screen.bring("Centenary Night")

    def x(self, *args: object) -> str:
        """What xdotool does, and what it prints."""
        assert self._program.poll() is None, self._program.stderr.read() if self._program.stderr else ""
        return self.screen.x(*args)

    def drag(self, *places: tuple[int, int]) -> None:
        """Press at the first place, go through the others, and let go."""
        self.x("mousemove", *places[0], "mousedown", 1)
        for at in places[1:]:
            self.x("mousemove", *at)
            time.sleep(0.1)
        self.x("mouseup", 1)

    def saved_until(self, what: Callable[[Show], bool], seconds: float = PATIENCE) -> Show:
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
        self._program.wait(300)
