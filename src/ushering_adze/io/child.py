"""Another process of the program, and a socket to it.  It reads little, so that it can be begun before all else."""

from __future__ import annotations

import contextlib
import socket
import subprocess
import sys

PICTURES = "ushering_adze.playout.serving"
"""The module of the process that makes the pictures."""


class Child:
    """A process that runs ``main`` of a module, with its socket's number as the one argument.

    Parameters
    ----------
    module : str
    """

    def __init__(self, module: str) -> None:
        self.socket, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM)
        code = f"import gc; gc.disable(); from {module} import main; main()"
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-c", code, str(theirs.fileno())],
                pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL,
                start_new_session=True,  # what a terminal says to a program is for who asked for the child
            )

    @property
    def number(self) -> int:
        """The process's own."""
        return self._process.pid

    def ended(self, seconds: float) -> int | None:
        """What it ended with, after waiting for so long at most; None if it goes on."""
        with contextlib.suppress(subprocess.TimeoutExpired):
            return self._process.wait(seconds)
        return None

    def kill(self) -> None:
        """End it now."""
        with contextlib.suppress(OSError):
            self._process.kill()
        self.ended(1)
