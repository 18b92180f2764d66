"""A virtual screen, and what there is to see on it."""

from __future__ import annotations

import os
import struct
import subprocess
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from waiting import wait_for

TABS = {"Rig": 472, "Map": 532, "Align": 598, "Build": 667, "Run": 731, "Watch": 799}
"""Where the words of the workspaces are, from the left of a window 1280 pixels wide."""
UNDERLINE = 42
AMBER = (0x57, 0xA8, 0xE3)
"""Blue, green, red of the line under the workspace that is shown."""


class XScreen:
    """An X server of 1280 × 800 with nothing on it."""

    def __init__(self, folder: Path) -> None:
        read, write = os.pipe()
        self._server = subprocess.Popen(
            [
                *("Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"),
                *("-noreset", "-nolisten", "tcp", "-fbdir", str(folder)),  # nobody is turned away between two programs
            ],
            pass_fds=[write],
            stderr=subprocess.DEVNULL,
        )
        os.close(write)
        with os.fdopen(read) as pipe:
            number = pipe.readline().strip()
        assert number, "Xvfb did not start"
        self.name = f":{number}"
        self._window = ""
        self._memory = folder / "Xvfb_screen0"

    def close(self) -> None:
        """End it."""
        self._server.terminate()
        self._server.wait(300)

    def pixels(self) -> NDArray[np.uint8]:
        """What is on it now: blue, green, red."""
        raw = self._memory.read_bytes()  # an X window dump: a head of big-endian numbers, colours, then rows
        head = struct.unpack(">25I", raw[:100])
        width, height, row, colours = head[4], head[5], head[12], head[19]
        start = head[0] + 12 * colours
        rows = np.frombuffer(raw, np.uint8, height * row, start).reshape(height, row)
        return rows[:, : 4 * width].reshape(height, width, 4)[..., :3].copy()

    def shows(self, workspace: str) -> bool:
        """Whether a window at the top left shows a workspace: the line under its word is lit."""
        x = TABS[workspace]
        line = self.pixels()[UNDERLINE - 1 : UNDERLINE + 2, x - 8 : x + 8].astype(int)
        return bool((np.abs(line - AMBER).max(axis=-1) < 12).any())

    def x(self, *args: object, env: dict[str, str] | None = None) -> str:
        """What xdotool does here, and what it prints."""
        done = subprocess.run(
            ["xdotool", *map(str, args)],
            env={**(env or os.environ), "DISPLAY": self.name},
            capture_output=True,
            text=True,
            timeout=300,
        )
        return done.stdout.strip()

    def bring(self, title: str) -> str:
        """Wait for a window, put it at the top left, and give it the keyboard; its number."""

        def there() -> str:
            return self.x("search", "--name", title)

        # Each question is a program: others need the machine, too.
        assert wait_for(lambda: bool(there()), every=0.2), "no window came up"
        window = there().splitlines()[-1]
        self._window = window
        self.x("windowmove", window, 0, 0)
        self.x("windowfocus", window)
        assert wait_for(lambda: any(self.shows(w) for w in TABS)), "it is not to be seen"
        return window

    def go_to(self, workspace: str) -> None:
        """Press the key of a workspace until it is to be seen; a window that was not there yet has no keyboard."""
        key = f"alt+{[*TABS].index(workspace) + 1}"

        def gone_to() -> bool:
            self.x("windowfocus", self._window)
            self.x("key", key)
            return wait_for(lambda: self.shows(workspace), 2.0)  # then once more

        assert wait_for(gone_to), f"{workspace} does not come"
