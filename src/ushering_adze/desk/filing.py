"""The open show and its file: saving beside others, edits that outlive the program, and earlier versions."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import NamedTuple

from ushering_adze.core.show import Show, show_from_document
from ushering_adze.io.beside import Conflict, Fingerprint, ShowLock, conflict, fingerprint
from ushering_adze.io.keeping import Autosave, Edits, Kept, keep_version, kept_for, left_behind, versions
from ushering_adze.io.showfile import absolute, document_bytes
from ushering_adze.io.writing import clean_up, write_whole


class Saved(NamedTuple):
    """What saving came to: the show as it was saved, or why it was not, and whether it may be done all the same."""

    show: Show | None
    path: Path
    why: str = ""
    may_insist: bool = False


def _clock(at: float) -> str:
    same_day = time.localtime(at)[:3] == time.localtime()[:3]
    return time.strftime("%H:%M:%S" if same_day else "%d.%m. %H:%M", time.localtime(at))


class Filing:
    """What one open show has to do with the disk.  Its methods may take as long as the disk does.

    Parameters
    ----------
    path : Path or None
        The show's file.
    name : str
        The show's name, by which edits are kept while it has no file.
    """

    def __init__(self, path: Path | None, name: str) -> None:
        self.path = path
        self.folder = kept_for(path, name)
        self.autosave = Autosave(self.folder)
        self._known: Fingerprint | None = fingerprint(path) if path is not None else None
        self._lock = ShowLock(path) if path is not None else None
        if path is not None and self._lock is not None and self._lock.held:
            clean_up(path)

    @property
    def told(self) -> str | None:
        """Who else has the show open, in a sentence."""
        if self._lock is None or self._lock.other is None or self.path is None:
            return None
        return f"{self.path.name} is open elsewhere: {self._lock.other}. Saving it here will be asked about."

    def save(self, show: Show, target: Path, insist: bool = False) -> Saved:
        """Save a show; what would harm others is not done unless one insists.

        What is written over by insisting is kept as a version.

        Raises
        ------
        ShowError
            If the disk refuses.
        """
        target = Path(os.path.realpath(target))
        same = self.path is not None and os.path.realpath(target) == os.path.realpath(self.path)
        lock = self._lock if same and self._lock is not None else ShowLock(target)
        found = conflict(target, self._known) if same and self._known is not None else None
        if found is None and not lock.take():
            found = Conflict(
                f"{target.name} is open elsewhere: {lock.other}; save under another name, or save over it.", True
            )
        if found is not None and not (insist and found.may_insist):
            return Saved(None, target, found.why, found.may_insist)
        try:
            return self._write(show, target, lock, same, insist)
        except BaseException:
            if not same:
                lock.release()
            raise

    def _write(self, show: Show, target: Path, lock: ShowLock, same: bool, insist: bool) -> Saved:
        """Save without asking; ``same`` says that it is the file that is open, else it becomes that."""
        data = document_bytes(show, target.parent)
        folder = kept_for(target, show.name)
        if (insist or not same) and target.is_file():
            keep_version(folder, target.read_bytes(), "saved by another")
        write_whole(target, data, "the show")
        keep_version(folder, data)
        clean_up(target)
        if not same:
            self.autosave.clear()
            self.autosave.close()
            if self._lock is not None:
                self._lock.release()
            self.path, self.folder, self._lock, self.autosave = target, folder, lock, Autosave(folder)
        else:
            self.autosave.clear()
        self._known = fingerprint(target)
        return Saved(show, target)

    def left(self) -> Edits | None:
        """Edits of this show that a program which is no more left behind."""
        return left_behind(self.folder)

    def versions(self) -> list[tuple[Kept, str]]:
        """Earlier versions, the newest first, each with its words."""
        return [(kept, f"{kept.what} {_clock(kept.at)}") for kept in versions(self.folder)]

    def close(self, wanted: bool) -> None:
        """End; edits that no file holds are ``wanted`` back at the next opening, or only kept as a version."""
        if wanted:
            self.autosave.flush()
        else:
            self.autosave.put_by()
        self.autosave.close()
        if self._lock is not None:
            self._lock.release()


def brought_back(edits: Edits) -> tuple[Show, str]:
    """The show with edits that were left behind, and a sentence on them.

    Raises
    ------
    ShowError
        If they are no show.
    """
    show = absolute(show_from_document(edits.document), edits.root)
    return show, (
        f"Edits made until {_clock(edits.at)} were in no file when the program ended. They are back; "
        "Ctrl+Z takes them away again."
    )
