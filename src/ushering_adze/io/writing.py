"""Files written whole or not at all: beside the old one, then renamed over it.

What lies beside a file while it is written tells who is writing it; when that process is no more, it is cleaned up.
"""

from __future__ import annotations

import contextlib
import itertools
import os
import re
import stat
import time
from pathlib import Path

from ushering_adze.core.show import Fault, ShowError

_numbers = itertools.count(1)
_OURS = re.compile(r"\.(?P<pid>\d+)-\d+\.part")
_FORMER = re.compile(r"\.[a-z0-9_]{8}")
OLD = 3600.0
"""Seconds after which a temporary file of a former version of the program is nobody's any more."""


def write_whole(path: Path, data: bytes, what: str = "the file", sync: bool = True) -> None:
    """Write a file whole or not at all.

    A file that is there keeps its mode and owner; a symbolic link is followed.  ``sync`` has it on the disk before it
    takes the old one's place.

    Raises
    ------
    ShowError
        If the disk refuses, or the file is write-protected; the old file is then untouched.
    """
    temporary: Path | None = None
    try:
        target = Path(os.path.realpath(path))
        target.parent.mkdir(parents=True, exist_ok=True)
        before = target.stat() if target.exists() else None
        if before is not None and not stat.S_ISREG(before.st_mode):
            raise ShowError(
                [
                    Fault(
                        str(path),
                        f"{what} could not be saved (there is something that is no file); choose another name",
                    )
                ]
            )
        if before is not None and not before.st_mode & 0o222:
            raise ShowError(
                [Fault(str(path), f"{what} is write-protected; take the protection away, or save under another name")]
            )
        temporary = target.parent / f".{target.name[:200]}.{os.getpid()}-{next(_numbers)}.part"
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            if before is not None:
                with contextlib.suppress(OSError):
                    os.fchown(handle, before.st_uid, before.st_gid)
                os.fchmod(handle, stat.S_IMODE(before.st_mode))
            if sync:
                os.fsync(handle)
        temporary.replace(target)
        if sync:
            _sync_folder(target.parent)
    except OSError as error:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)
        blocked = isinstance(error, (FileExistsError, NotADirectoryError))
        why = "a file is where its folder should be" if blocked else error.strerror
        raise ShowError([Fault(str(path), f"{what} could not be saved ({why}); choose another place")]) from None


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def clean_up(path: Path) -> int:
    """Take away what processes that are no more left beside a file; says how many there were."""
    target = Path(os.path.realpath(path))
    start = f".{target.name[:200]}"
    count = 0
    with contextlib.suppress(OSError):
        for left in target.parent.iterdir():
            rest = left.name[len(start) :] if left.name.startswith(start) else ""
            ours, former = _OURS.fullmatch(rest), _FORMER.fullmatch(rest)
            if ours is None and former is None:
                continue
            with contextlib.suppress(OSError):
                if running(int(ours["pid"])) if ours is not None else time.time() - left.stat().st_mtime < OLD:
                    continue
                left.unlink()
                count += 1
    return count


def running(pid: int) -> bool:
    """Whether there is a process of this number on this machine."""
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
