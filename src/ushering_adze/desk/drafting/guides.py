"""Guide pictures in memory: read beside the interface, and searched for rectangles there too."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.seeing.find import find_rectangles
from ushering_adze.core.seeing.find_shapes import Found
from ushering_adze.core.show import Guide
from ushering_adze.desk.session import Session
from ushering_adze.io.asking import Askers
from ushering_adze.io.exchange.guide import read_guide
from ushering_adze.io.priority import give_way


class Guides(QObject):
    """The guide pictures of a show.

    Signals
    -------
    changed : a picture is there, or what was found in one
    """

    changed = Signal()
    _done = Signal(object, object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._pictures: dict[Path, Pixels] = {}
        self._images: dict[Path, QImage] = {}
        self._waiting: set[tuple[str, Path]] = set()
        self.faults: dict[Path, str] = {}
        self.found: dict[Path, list[Found]] = {}
        self._worker = Askers("guide", 1)
        self._done.connect(self._take)

    def path(self, guide: Guide) -> Path:
        """The file of a guide."""
        return Path(guide.path)

    def image(self, guide: Guide) -> QImage | None:
        """A guide's picture, or None while it is being read or if it cannot be."""
        path = self.path(guide)
        if path not in self._images and path not in self.faults:
            self._start("read", path)
        return self._images.get(path)

    def pixels(self, guide: Guide) -> Pixels | None:
        """The same as an array, BGRA."""
        return self._pictures.get(self.path(guide))

    def search(self, guide: Guide) -> None:
        """Look for rectangles in a guide; `changed` tells when it is done."""
        self._start("find", self.path(guide))

    def searching(self, guide: Guide) -> bool:
        """Whether a guide is being looked through."""
        return ("find", self.path(guide)) in self._waiting

    def forget(self, guide: Guide, which: Found | None = None) -> None:
        """Let go of what was found in a guide, or of one of it."""
        path = self.path(guide)
        self.found[path] = [f for f in self.found.get(path, []) if which is not None and f != which]
        self.changed.emit()

    def divide(self, guide: Guide) -> int:
        """Put the parts in place of what was found and can be divided; says how many there are."""
        path = self.path(guide)
        before = self.found.get(path, [])
        self.found[path] = [
            part for f in before for part in ([f._replace(rect=r, parts=()) for r in f.parts] if f.parts else [f])
        ]
        self.changed.emit()
        return sum(len(f.parts) for f in before)

    def _start(self, job: str, path: Path) -> None:
        if (job, path) in self._waiting:
            return
        self._waiting.add((job, path))

        def work() -> None:
            give_way(4)
            try:
                picture = self._pictures.get(path)
                if picture is None:
                    picture = read_guide(path)
                result: object = find_rectangles(picture) if job == "find" else picture
            except (ValueError, OSError, MemoryError) as error:
                result = error
            self._done.emit(job, path, result)

        self._worker.ask(work)

    def _take(self, job: str, path: Path, result: object) -> None:
        self._waiting.discard((job, path))
        if isinstance(result, Exception):
            self.faults[path] = str(result)
            self._session.trouble.emit(str(result))
        elif job == "find":
            assert isinstance(result, list)
            self.found[path] = result
            if not result:
                self._session.trouble.emit(
                    f"{path.name}: no rectangle of one colour was found; draw regions over the picture instead"
                )
        else:
            assert isinstance(result, np.ndarray)
            height, width = result.shape[:2]
            self._pictures[path] = result
            self._images[path] = QImage(
                result.data, width, height, width * 4, QImage.Format.Format_ARGB32_Premultiplied
            )
        self.changed.emit()

    def close(self) -> None:
        """Stop reading; what is being read is not waited for."""
        self.blockSignals(True)
        self._worker.close()
