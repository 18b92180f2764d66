"""Files of sources copied beside the show, in a thread of its own, and taken over as one edit."""

from __future__ import annotations

import threading
from collections.abc import Collection

from PySide6.QtCore import QObject, Signal

from ushering_adze.core.show import ShowError
from ushering_adze.desk.session import Session
from ushering_adze.io.gathering import gathered, outside, with_gathered


class Gathering(QObject):
    """Copies one lot of files at a time; the show goes on meanwhile."""

    _done = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.running = False
        self._done.connect(self._taken)

    def gather(self, ids: Collection[str] | None = None) -> None:
        """Copy the files of all sources, or of these, into the show's folder."""
        session = self._session
        if session.path is None:
            session.trouble.emit("Save the show first: its files are copied beside it.")
            return
        if self.running:
            session.trouble.emit("Files are being copied already; wait until that is done.")
            return
        show, folder = session.show, session.root
        many = len(outside(show, folder, ids))
        if not many:
            session.trouble.emit("All files of the show lie beside it.")
            return
        self.running = True
        session.trouble.emit(f"{many} files and folders are being copied beside the show; it goes on meanwhile.")

        def work() -> None:
            try:
                self._done.emit(gathered(show, folder, ids), None)
            except ShowError as error:
                self._done.emit({}, str(error))

        threading.Thread(target=work, name="gathering", daemon=True).start()

    def _taken(self, moved: dict[str, str], why: str | None) -> None:
        self.running = False
        if why is not None:
            self._session.trouble.emit(why)
        elif moved and self._session.try_edit("Files beside the show", lambda show: with_gathered(show, moved)):
            self._session.trouble.emit(f"{len(moved)} files and folders lie beside the show now; save it to keep that.")
