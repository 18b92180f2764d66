"""The sources of a show, opened in the background, each with a clock that runs while it is on air."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Iterable, Set
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import wait as wait_for_all
from pathlib import Path

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Show, Source
from ushering_adze.io.media import Player, open_player
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns


class _Slot:
    """A source, its player once open, and its clock."""

    def __init__(self, source: Source, opening: Future[Player]) -> None:
        self.source = source
        self.opening = opening
        self.clock = 0.0
        self.on_air = False
        self.last: Frame | None = None

    @property
    def player(self) -> Player | None:
        return self.opening.result() if self.opening.done() else None


class SourcePool:
    """Opens every source of a show once and gives their frames.

    Parameters
    ----------
    begun : Event, optional
        Sources that can wait are not opened before it is set, or some seconds have passed.
    """

    PATIENCE = 5.0

    def __init__(self, begun: threading.Event | None = None) -> None:
        self._slots: dict[str, _Slot] = {}
        self._root = Path()
        self._openers = ThreadPoolExecutor(2, "open source", give_way, (4,))
        self._begun = begun
        self._later = ThreadPoolExecutor(1, "open later", self._let_others_first)
        self._lock = threading.Lock()
        self._turns = Turns()

    def _let_others_first(self) -> None:
        give_way(10)
        if self._begun is not None:
            self._begun.wait(self.PATIENCE)

    def set_show(self, show: Show, root: Path, first: Set[str] | None = None) -> None:
        """Open what is new, close what is gone or changed, keep the rest running.  With ``first`` given, all others can wait for these."""
        with self._lock:
            moved = root != self._root
            self._root = root
            wanted = {s.id: s for s in show.sources}
            for id in list(self._slots):
                if moved or wanted.get(id) != self._slots[id].source:
                    self._drop(id)
            for id, source in wanted.items():
                if id not in self._slots:
                    openers = self._openers if first is None or id in first else self._later
                    self._slots[id] = _Slot(source, openers.submit(open_player, source, root, self._turns))

    def _drop(self, id: str) -> None:
        slot = self._slots.pop(id)
        slot.opening.add_done_callback(lambda f: f.result().close() if not f.cancelled() and f.exception() is None else None)

    def wait(self, timeout: float, ahead: int = 1, only: Set[str] | None = None) -> None:
        """Wait until every source, or each of ``only`` these, is open and has ``ahead`` frames ready, or the time is over."""
        end = time.monotonic() + timeout
        slots = [slot for id, slot in list(self._slots.items()) if only is None or id in only]
        wait_for_all([slot.opening for slot in slots], timeout)
        for slot in slots:
            waiter = getattr(slot.player, "wait", None)
            if waiter is not None:
                waiter(max(0.01, end - time.monotonic()), ahead)

    def tick(self, passed: float, on_air: set[str], staged: set[str]) -> None:
        """Let ``passed`` seconds go by for sources on air, and for live ones on preview too."""
        for id, slot in self._slots.items():
            player = slot.player
            if id in on_air:
                if not slot.on_air and player is not None and player.restarts:
                    slot.clock = 0.0
                elif slot.on_air:
                    slot.clock += passed
                slot.on_air = True
            else:
                slot.on_air = False
                if id in staged and player is not None and player.live:
                    slot.clock += passed

    def frames(self, ids: Iterable[str]) -> dict[str, Frame]:
        """The present frames of these sources; a source that is not open yet is left out."""
        found = {}
        for id in ids:
            slot = self._slots.get(id)
            player = slot.player if slot else None
            if slot is None or player is None:
                continue
            try:
                frame = player.frame(slot.clock)
            except Exception as error:  # one bad source never stops the others
                frame = player.lost(f"{type(error).__name__}: {error}"[:120])
            if frame is not None:
                slot.last = frame
            if slot.last is not None:
                found[id] = slot.last
        return found

    def go_on(self, until: float = math.inf) -> None:
        """Let sources work ahead: a frame has been made of their pictures, and there is time until a moment of ``time.perf_counter``."""
        self._turns.open(until)
        for slot in list(self._slots.values()):
            if (player := slot.player) is not None:
                player.go_on()

    def exact(self, ids: Iterable[str], seconds: float) -> dict[str, Frame]:
        """The frames of these sources exactly ``seconds`` after their start, waited for."""
        return {id: self._slots[id].opening.result().exact(seconds) for id in ids if id in self._slots}

    def faults(self) -> dict[str, str]:
        """Why each lost source is lost."""
        return {id: p.fault for id, s in list(self._slots.items()) if (p := s.player) is not None and p.fault is not None}

    def close(self) -> None:
        """Close every source, and wait for its thread: one that outlives the interpreter would take the program down."""
        for openers in (self._openers, self._later):
            openers.shutdown(wait=True, cancel_futures=True)
        with self._lock:
            players = [p for slot in self._slots.values() if not slot.opening.cancelled() and (p := slot.player) is not None]
            self._slots.clear()
        for player in players:
            player.close()
        for player in players:
            player.join(3)
