"""What is kept of a show beside its own file: edits that no file holds yet, and its last saved versions.

Both are in the program's folder of state, one folder for each show.  Edits are on the disk, synced, within a second of
being made; they outlive the program, and are brought back when the show is opened again and nobody has it open.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import json
import os
import threading
import time
import uuid
from pathlib import Path
from typing import Literal, NamedTuple

from ushering_adze.core.show import Show, ShowError
from ushering_adze.io.logs import log
from ushering_adze.io.places import state_folder
from ushering_adze.io.priority import give_way
from ushering_adze.io.showfile import portable
from ushering_adze.io.writing import write_whole

VERSIONS = 10
REST = 0.4
"""Seconds from one writing of edits to the next."""


class Kept(NamedTuple):
    """A version or edits that were kept: when they were made, what they are, and their file."""

    at: float
    what: str
    file: Path


def kept_for(path: Path | None, name: str) -> Path:
    """The folder of what is kept of a show: by its file, or by its name while it has none."""
    key = os.path.realpath(path) if path is not None else f"unsaved {name}"
    return state_folder() / "shows" / hashlib.sha256(os.fsencode(key)).hexdigest()[:24]


def keep_version(folder: Path, document: bytes, what: str = "saved") -> None:
    """Keep what was saved, or would be lost; of what is kept only the last ten stay."""
    at = time.time()
    stamp = time.strftime("%Y%m%d-%H%M%S", time.localtime(at)) + f"-{int(at % 1 * 1e6):06d}"
    try:
        write_whole(folder / f"{stamp}-{what}.adze", document, "the earlier version")
        for old in versions(folder)[VERSIONS:]:
            old.file.unlink(missing_ok=True)
    except (ShowError, OSError) as error:
        log.failed("a version was not kept", error)


def versions(folder: Path) -> list[Kept]:
    """The versions that are kept, the newest first."""
    found = []
    with contextlib.suppress(OSError):
        for file in folder.glob("*-*-*-*.adze"):
            with contextlib.suppress(ValueError):
                day, clock, micro, what = file.stem.split("-", 3)
                found.append(
                    Kept(time.mktime(time.strptime(f"{day}-{clock}", "%Y%m%d-%H%M%S")) + int(micro) / 1e6, what, file)
                )
    return sorted(found, reverse=True)


class Edits(NamedTuple):
    """Edits that no file holds: the whole show with them, and the folder that paths start at which are not absolute."""

    at: float
    root: Path
    document: object
    file: Path


def left_behind(folder: Path) -> Edits | None:
    """The newest edits of a program that is no more; those of one that runs are its own."""
    found = []
    with contextlib.suppress(OSError):
        for file in folder.glob("edits-*.json"):
            if _orphaned(file):
                try:
                    told = json.loads(file.read_bytes())
                    found.append(Edits(float(told["at"]), Path(told["root"]), told["show"], file))
                except (OSError, ValueError, KeyError, TypeError, RecursionError) as error:
                    log.failed("edits could not be read", error, file=str(file))
    return max(found, default=None, key=lambda e: e.at)


def _lock_of(file: Path) -> Path:
    return file.with_suffix(".lock")


def _orphaned(file: Path) -> bool:
    try:
        handle = os.open(_lock_of(file), os.O_RDWR)
    except FileNotFoundError:
        return True
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        return True
    except OSError:
        return False
    finally:
        os.close(handle)


def forget(edits: Edits) -> None:
    """Take edits away that are somewhere else by now."""
    with contextlib.suppress(OSError):
        edits.file.unlink(missing_ok=True)
        _lock_of(edits.file).unlink(missing_ok=True)


class Autosave:
    """Writes the newest edits of one open show in a thread of its own.

    Parameters
    ----------
    folder : Path
        From `kept_for`.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.file = folder / f"edits-{uuid.uuid4().hex}.json"
        self.fault: str | None = None
        self._wanted: tuple[Show, Path] | Literal["nothing"] | None = None
        self._on_disk: Show | None = None
        self._lock: int | None = None
        self._writing = False
        self._closed = False
        self._change = threading.Condition()
        self._thread: threading.Thread | None = None

    def note(self, show: Show, root: Path) -> None:
        """Have these edits of a show whose folder is ``root`` on the disk soon; returns at once."""
        with self._change:
            self._wanted = (show, root)
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="autosave", daemon=True)
                self._thread.start()
            self._change.notify_all()

    def flush(self, seconds: float = 2.0) -> bool:
        """Wait until what was noted is on the disk, though not for long; says whether it is."""
        with self._change:
            return self._change.wait_for(lambda: self._wanted is None and not self._writing, seconds)

    def clear(self) -> None:
        """Forget the edits: a file holds them, or nobody wants them.  Returns at once; `flush` waits until they are
        gone.
        """
        with self._change:
            if self._thread is not None:
                self._wanted = "nothing"
                self._change.notify_all()

    def put_by(self) -> None:
        """Keep the edits as a version and forget them as edits: somebody did not want them, and may think again."""
        self.flush()
        show = self._on_disk
        if show is not None:
            keep_version(self.folder, show.model_dump_json(indent=1).encode() + b"\n", "unsaved edits")
        self.clear()
        self.flush()

    def close(self) -> None:
        """End; what is on the disk stays there, and is brought back unless it was cleared."""
        with self._change:
            self._closed = True
            self._change.notify_all()
        if self._thread is not None:
            self._thread.join(1.0)
        if self._lock is not None:
            if not self.file.exists():
                with contextlib.suppress(OSError):
                    _lock_of(self.file).unlink(missing_ok=True)
            os.close(self._lock)
            self._lock = None

    def _run(self) -> None:
        give_way()
        while True:
            with self._change:
                self._change.wait_for(lambda: self._closed or self._wanted is not None)
                work, self._wanted = self._wanted, None
                if work is None:
                    return
                self._writing = True
            if work == "nothing":
                fault, on_disk = self._take_away(), None
            else:
                fault = self._write(*work)
                on_disk = work[0] if fault is None else self._on_disk
            with self._change:
                self.fault, self._on_disk, self._writing = fault, on_disk, False
                self._change.notify_all()
                self._change.wait_for(lambda: self._closed, REST)

    def _take_away(self) -> None:
        with contextlib.suppress(OSError):
            self.file.unlink(missing_ok=True)

    def _write(self, show: Show, root: Path) -> str | None:
        try:
            if self._lock is None:
                self.folder.mkdir(parents=True, exist_ok=True)
                self._lock = os.open(_lock_of(self.file), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            head = json.dumps({"at": time.time(), "root": str(root)})
            write_whole(
                self.file, f'{head[:-1]}, "show": {portable(show, root).model_dump_json()}}}'.encode(), "the edits"
            )
        except Exception as error:
            log.failed("edits not kept", error)
            return (
                f"edits cannot be kept in {self.folder} "
                f"({getattr(error, 'strerror', None) or type(error).__name__}); save the show now"
            )
        return None
