"""A show file among others who may have it open, change it, or take its drive away."""

from __future__ import annotations

import contextlib
import fcntl
import getpass
import hashlib
import json
import os
import socket
import time
from pathlib import Path
from typing import NamedTuple

from ushering_adze.core.show import ShowError
from ushering_adze.io.asking import regular


class Fingerprint(NamedTuple):
    """What a file held, and which folder it lay in, when it was last read or saved."""

    digest: bytes
    folder: tuple[int, int]


def _folder(path: Path) -> tuple[int, int]:
    found = Path(os.path.realpath(path)).parent.stat()
    return found.st_dev, found.st_ino


def fingerprint(path: Path) -> Fingerprint | None:
    """The file as it is now; None if it cannot be read."""
    try:
        regular(path)
        return Fingerprint(hashlib.sha256(path.read_bytes()).digest(), _folder(path))
    except (OSError, ShowError):
        return None


class Conflict(NamedTuple):
    """Why saving over a file would harm what is there, in a sentence, and whether it may be done all the same."""

    why: str
    may_insist: bool = False


def conflict(path: Path, known: Fingerprint) -> Conflict | None:
    """What became of a file since it was last read or saved; None if saving over it harms nobody."""
    try:
        there = _folder(path)
    except OSError:
        return Conflict(
            f"The folder of {path.name} is not there any more; connect its drive again, or save under another name."
        )
    if there != known.folder:
        return Conflict(
            f"The folder of {path.name} is another one than it was opened from, as when a drive is taken away; "
            "connect it again, or save under another name."
        )
    if not path.exists():
        return None
    now = fingerprint(path)
    if now is None:
        return Conflict(f"{path.name} cannot be read any more; save under another name.")
    if now.digest != known.digest:
        at = time.strftime("%H:%M", time.localtime(path.stat().st_mtime))
        return Conflict(
            f"{path.name} was changed by another program or window at {at}; save under another name, or save over it.",
            True,
        )
    return None


class Holder(NamedTuple):
    """Who has a show open."""

    who: str
    host: str
    pid: int
    since: float

    def __str__(self) -> str:
        at = time.strftime("%H:%M", time.localtime(self.since))
        return f"{self.who} on {self.host} since {at} (process {self.pid})"


class ShowLock:
    """An advisory lock on a show file, which goes with the process that holds it.

    It is a file beside the show, locked as a whole (``flock(2)``), that says who holds it.  Where none can be made,
    nothing is locked.
    """

    def __init__(self, path: Path) -> None:
        target = Path(os.path.realpath(path))
        self.path = target.parent / f".{target.name[:200]}.lock"
        self._handle: int | None = None
        self.other: Holder | None = None
        """Who holds it instead."""
        self.take()

    @property
    def held(self) -> bool:
        """Whether this process holds it."""
        return self._handle is not None

    def take(self) -> bool:
        """Hold the lock if nobody else does; says whether nobody else does."""
        if self.held:
            return True
        try:
            handle = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NONBLOCK, 0o666)
        except OSError:
            self.other = None
            return True
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self.other = _holder(handle)
            os.close(handle)
            return False
        except OSError:  # a file system without locks
            os.close(handle)
            return True
        about = {
            "who": getpass.getuser() if os.environ.get("USER") else str(os.getuid()),
            "host": socket.gethostname(),
            "pid": os.getpid(),
            "since": time.time(),
        }
        with contextlib.suppress(OSError):
            os.ftruncate(handle, 0)
            os.pwrite(handle, json.dumps(about).encode() + b"\n", 0)
        self._handle, self.other = handle, None
        return True

    def release(self) -> None:
        """Let others have it."""
        if self._handle is not None:
            with contextlib.suppress(OSError):
                self.path.unlink(missing_ok=True)
            os.close(self._handle)
            self._handle = None


def _holder(handle: int) -> Holder:
    try:
        told = json.loads(os.pread(handle, 4096, 0))
        return Holder(str(told["who"])[:60], str(told["host"])[:60], int(told["pid"]), float(told["since"]))
    except (OSError, ValueError, KeyError, TypeError):
        return Holder("somebody", "another machine", 0, time.time())
