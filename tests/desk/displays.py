"""A real X server with several displays that can be plugged in, changed and taken away, and a small window manager on
it.
"""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

import pytest

CONF = """
Section "ServerFlags"
  Option "AutoAddDevices" "false"
  Option "AutoAddGPU" "false"
EndSection
Section "Device"
  Identifier "d"
  Driver "dummy"
  VideoRam 256000
EndSection
Section "Screen"
  Identifier "s"
  Device "d"
  SubSection "Display"
    Virtual 3840 1080
  EndSubSection
EndSection
"""
MODES = {
    "1280x800": "83.5 1280 1352 1480 1680 800 803 809 831",
    "1280x720": "74.25 1280 1390 1430 1650 720 725 730 750",
    "960x540": "37.3 960 976 1008 1056 540 541 544 563",
}


class Displays:
    """Two displays: DUMMY0 of 1280 × 800 for the desk, DUMMY1 of 1280 × 720 at its right."""

    def __init__(self, folder: Path) -> None:
        missing = [name for name in ("Xorg", "xrandr", "openbox", "xdotool") if not shutil.which(name)]
        if missing or not Path("/usr/lib/xorg/modules/drivers/dummy_drv.so").exists():
            pytest.skip(
                f"an X server with several displays needs {', '.join(missing) or 'its dummy driver'}: apt-get install "
                "xserver-xorg-core xserver-xorg-video-dummy x11-xserver-utils openbox xdotool"
            )
        if os.geteuid():
            pytest.skip("an X server with several displays can be started by root only")
        (folder / "xorg.conf").write_text(CONF)
        read, write = os.pipe()
        self._server = subprocess.Popen(
            [
                "Xorg",
                "-displayfd",
                str(write),
                "-config",
                str(folder / "xorg.conf"),
                "-logfile",
                str(folder / "xorg.log"),
                "-noreset",
                "-nolisten",
                "tcp",
                "-sharevts",
                "-novtswitch",
            ],
            pass_fds=[write],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        os.close(write)
        with os.fdopen(read) as pipe:
            number = pipe.readline().strip()
        if not number:
            self._server.wait(300)
            pytest.skip(f"the X server did not start: {(folder / 'xorg.log').read_text()[-300:]}")
        self.env = {
            **os.environ,
            "DISPLAY": f":{number}",
            "QT_QPA_PLATFORM": "xcb",
            "XDG_CONFIG_HOME": str(folder),
            "HOME": str(folder),
        }
        for name, line in MODES.items():
            self.run("xrandr", "--newmode", name, *line.split())
        self.plug("DUMMY0", "1280x800", "0x0")
        self.plug("DUMMY1", "1280x720", "1280x0")
        self._manager = subprocess.Popen(
            ["openbox"], env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )

    def run(self, *command: object) -> str:
        """What a program says."""
        done = subprocess.run([*map(str, command)], env=self.env, capture_output=True, text=True, timeout=300)
        return done.stdout.strip()

    def plug(self, name: str, mode: str, at: str) -> None:
        """Plug a display in, or change what it is."""
        self.run("xrandr", "--addmode", name, mode)
        self.run("xrandr", "--output", name, "--mode", mode, "--pos", at)

    def pull(self, name: str) -> None:
        """Take a display away."""
        self.run("xrandr", "--output", name, "--off")

    def window(self, name: str) -> str | None:
        """A visible window by its name."""
        found = self.run("xdotool", "search", "--onlyvisible", "--name", name).splitlines()
        return found[-1] if found else None

    def place(self, name: str) -> tuple[int, int, int, int] | None:
        """Where a visible window lies: x, y, width, height."""
        window = self.window(name)
        if window is None:
            return None
        told = dict(
            line.split("=")
            for line in self.run("xdotool", "getwindowgeometry", "--shell", window).splitlines()
            if "=" in line
        )
        return (int(told["X"]), int(told["Y"]), int(told["WIDTH"]), int(told["HEIGHT"])) if "X" in told else None

    def focused(self) -> str:
        """Name of the window that has the keyboard."""
        return self.run("xdotool", "getwindowfocus", "getwindowname")

    def close(self) -> None:
        """End it."""
        for process in (self._manager, self._server):
            process.terminate()
            process.wait(300)
