"""SRT through the program that Debian's package srt-tools brings: it turns it into packets on this machine, or back."""

from __future__ import annotations

import shutil
import socket
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager, suppress

PROGRAM = "srt-live-transmit"
MISSING = f"SRT needs the program {PROGRAM}; install the package srt-tools"


class SrtError(ValueError):
    """SRT cannot be used; says why and the cure."""


def free_port() -> int:
    """A port of this machine for packets that nobody uses just now."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def through_srt(address: str, out: bool = False) -> Iterator[tuple[str, subprocess.Popen[bytes]]]:
    """Have an SRT address as packets on this machine: read from them, or send to them if ``out``.

    Gives the address of the packets, and the program, which ends when nobody is at the far end any more.

    Raises
    ------
    SrtError
        If the program is not installed.
    """
    program = shutil.which(PROGRAM)
    if program is None:
        raise SrtError(MISSING)
    here = f"udp://127.0.0.1:{free_port()}"
    ends = (here, address) if out else (address, here)
    process = subprocess.Popen(
        [program, "-q", "-to:10", *ends],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    try:
        yield here, process
    finally:
        process.terminate()
        with suppress(subprocess.TimeoutExpired):
            process.wait(2)
        if process.poll() is None:
            process.kill()
            process.wait(2)
