"""Cards for what is lost are drawn beside the show: setting their words takes as long as several frames."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable

from ushering_adze.io.priority import give_way


class CardMaker:
    """One thread that draws cards, one after another, in the order in which they are asked for."""

    def __init__(self) -> None:
        self._asked: queue.SimpleQueue[Callable[[], object]] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None
        self._starting = threading.Lock()

    def ask(self, draw: Callable[[], object]) -> None:
        """Have a card drawn soon; whoever asks sees to it that the picture is kept."""
        self._asked.put(draw)
        with self._starting:
            if self._thread is None:
                self._thread = threading.Thread(target=self._work, name="cards", daemon=True)
                self._thread.start()

    def _work(self) -> None:
        give_way()
        while True:
            self._asked.get()()


cards = CardMaker()
