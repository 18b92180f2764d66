"""A process that is begun anew whenever it ends, until nobody wants it any more."""

from __future__ import annotations

import contextlib
import fcntl
import os
import subprocess
import sys
import threading
from collections.abc import Sequence

PIPE = 1 << 20
"""Bytes that wait for a process, at most."""


class KeptProcess:
    """Runs a module of the program in a process of its own.

    Parameters
    ----------
    module : str
    words : sequence of str
        What it is told as it begins.
    again : float
        Seconds after which it is begun anew.
    """

    def __init__(self, module: str, words: Sequence[str], again: float) -> None:
        self._command, self._again = [sys.executable, "-m", module, *words], again
        self._closed = False
        self._process: subprocess.Popen[bytes] | None = None
        self._change = threading.Condition()
        self._thread = threading.Thread(target=self._run, name=module, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        while not self._closed:
            try:
                process = self._process = subprocess.Popen(
                    self._command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE
                )
            except OSError as error:
                self._ended(f"its process did not begin ({type(error).__name__})")
            else:
                if self._closed:
                    process.kill()
                self._serve(process)
                with contextlib.suppress(OSError):
                    if process.stdin is not None:
                        process.stdin.close()
                process.wait()
                self._ended(None)
            with self._change:
                self._change.wait_for(lambda: self._closed, self._again)

    def _serve(self, process: subprocess.Popen[bytes]) -> None:
        """Hear what it says, until it ends."""
        raise NotImplementedError

    def _ended(self, why: str | None) -> None:
        """It has ended, or could not begin."""

    def close(self) -> None:
        """End; returns at once."""
        with self._change:
            self._closed = True
            self._change.notify_all()
        process = self._process
        if process is not None and process.poll() is None:
            process.kill()

    def join(self, timeout: float) -> None:
        """Wait until it has ended after `close`."""
        self._thread.join(timeout)


def unwaited(process: subprocess.Popen[bytes]) -> int:
    """The end of a process's standard input, made such that writing never waits."""
    assert process.stdin is not None
    fd = process.stdin.fileno()
    with contextlib.suppress(OSError, AttributeError):
        fcntl.fcntl(fd, fcntl.F_SETPIPE_SZ, PIPE)
    os.set_blocking(fd, False)
    return fd
