"""Tables of colours that layers go through: read beside the frames, once each."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import Future
from pathlib import Path

from ushering_adze.core.picture.colours import Table
from ushering_adze.core.show import Show
from ushering_adze.io.asking import Askers
from ushering_adze.io.media.cube import read_cube

AGAIN = 3.0
"""Seconds after which one that could not be read is tried again."""


class Tables(Mapping[str, Table]):
    """Tables by their files; one that is not there yet is missing, and asked for."""

    def __init__(self) -> None:
        self._askers = Askers("tables", 1)
        self._asked: dict[str, tuple[Future[Table], float]] = {}
        self._lock = threading.Lock()

    def __getitem__(self, path: str) -> Table:
        asked = self._ask(path)
        if not asked.done() or asked.exception() is not None:
            raise KeyError(path)
        return asked.result()

    def __iter__(self) -> Iterator[str]:
        return iter([path for path in list(self._asked) if path in self])

    def __len__(self) -> int:
        return len(list(iter(self)))

    def _ask(self, path: str) -> Future[Table]:
        with self._lock:
            asked, since = self._asked.get(path, (None, 0.0))
            again = asked is not None and asked.done() and asked.exception() is not None
            if asked is None or (again and time.monotonic() - since > AGAIN):
                asked = self._askers.ask(read_cube, Path(path))
                self._asked[path] = asked, time.monotonic()
            return asked

    def fault(self, path: str) -> str | None:
        """Why a table cannot be had, in a sentence; None if it can, or if nobody knows yet."""
        asked = self._ask(path)
        error = asked.exception() if asked.done() else None
        return None if error is None else str(error)

    def wait(self, paths: Iterable[str], seconds: float = 10.0) -> None:
        """Wait until these have been read, or could not be; so long for each at most."""
        for path in paths:
            with contextlib.suppress(TimeoutError):
                self._ask(path).exception(seconds)


TABLES = Tables()


def tables_of_show(show: Show) -> set[str]:
    """The tables that the layers and presets of a show name."""
    held = [layer.settings.colour for canvas in show.canvases for layer in canvas.layers]
    parts = (part.holds.colour for preset in show.presets for part in preset.parts)
    return {c.table for c in (*held, *(p.to for p in parts if p is not None)) if c.table is not None}
