"""Pictures from along the clips of a show, for who is about to send one somewhere."""

from __future__ import annotations

from concurrent.futures import Future
from pathlib import Path

from PySide6.QtGui import QImage

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Clip, Show
from ushering_adze.desk.pictures import image_of
from ushering_adze.io.asking import Askers
from ushering_adze.io.media.glimpses import MANY, glimpses

KEPT = 24
"""Clips whose pictures are kept, 1.5 MB each."""


class Glimpses:
    """Asks for a clip's pictures when they are first wanted, and has them from then on."""

    def __init__(self) -> None:
        self._askers = Askers("glimpse", 1)
        self._asked: dict[str, tuple[Future[None], list[Pixels]]] = {}

    def at(self, show: Show, source: str, share: float) -> QImage | None:
        """The picture at a share of a clip; None while it is not there yet, or for what is no clip."""
        clip = next((s for s in show.sources if s.id == source), None)
        if not isinstance(clip, Clip) or not clip.path:
            return None
        if clip.path not in self._asked:
            while len(self._asked) >= KEPT:
                self._asked.pop(next(iter(self._asked)))[0].cancel()
            found: list[Pixels] = []
            self._asked[clip.path] = self._askers.ask(glimpses, Path(clip.path), found), found
        working, there = self._asked[clip.path]
        n = min(MANY - 1, int(share * MANY))
        if n < len(there):
            return image_of(there[n])
        return image_of(there[-1]) if there and working.done() else None
