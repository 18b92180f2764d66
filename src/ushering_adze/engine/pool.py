"""The sources of a show, opened in the background, each with a clock that runs while it is on air."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Iterable, Mapping, Set
from concurrent.futures import Future
from concurrent.futures import wait as wait_for_all

from ushering_adze.core.onair.playing import Playing
from ushering_adze.core.picture.frame import Frame, Sized
from ushering_adze.core.picture.pictured import pictured
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show, Source, SourcePicture
from ushering_adze.io.asking import OVERDUE, Askers
from ushering_adze.io.media import Player, open_player, opening_key
from ushering_adze.io.media.player import LostPlayer
from ushering_adze.io.media.still import serials
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns

AGAIN = 3.0
"""Seconds after which a source that could not be opened is tried again."""
LAST = 0.001
"""Seconds before its end at which a source stands that does not begin anew."""


def adjusted(frame: Frame, source: Source, lost: bool) -> Frame:
    """A frame as its source is shown everywhere; the very same if nothing is to be done, or if it is its
    lost picture.
    """
    pixels = frame.pixels if lost else pictured(frame.pixels, source.picture)
    return frame if pixels is frame.pixels else frame._replace(pixels=pixels, serial=next(serials))


def _closed(opening: Future[Player]) -> None:
    if not opening.cancelled() and opening.exception() is None:
        opening.result().close()


class _Slot:
    """A source, its player once open, and where it is."""

    def __init__(self, source: Source, key: tuple[object, ...]) -> None:
        self.source, self.key = source, key
        self.opening: Future[Player]
        self.began: float | None = None
        self.waiting: LostPlayer | None = None
        self.clock = 0.0
        self.last: Frame | None = None
        self.taken: tuple[int, SourcePicture] | None = None
        """The serial of the frame that the last one was made from, and how it is adjusted."""
        self.good: Frame | None = None
        """The last picture from before it was lost."""
        self.substitute: str | None = None
        """What stands in for it."""
        self._lost_until: float | None = None
        self._again: Future[Player] | None = None
        self._tried = time.monotonic()

    def give_up(self) -> None:
        """Open it no more; what is being opened anew is closed when it is there."""
        if self._again is not None:
            self._again.cancel()
            self._again.add_done_callback(_closed)

    def try_again(self, openers: Askers, turns: Turns) -> None:
        """Open it anew now and then while it could not be opened: its file may be there by now."""
        if not isinstance(self.player, LostPlayer) or not self.opening.done():
            return
        if self._again is None:
            if time.monotonic() - self._tried > AGAIN:
                self._again = openers.ask(self.open, turns)
        elif self._again.done():
            again, self._again, self._tried = self._again, None, time.monotonic()
            if not again.cancelled() and not isinstance(again.result(), LostPlayer):
                self.opening = again

    @property
    def usable(self) -> bool:
        """Whether it can stand in for another one: it is there, or something stands in for it."""
        return self.substitute is not None or (self.player is not None and self.player.fault is None)

    def note(self, lost: bool) -> None:
        """Remember that it is lost by now, or its picture if it is not."""
        if lost:
            self._lost_until = time.monotonic()
        elif self.last is not None:
            self.good = self.last

    def steady(self, seconds: float) -> bool:
        """Whether it has been back so long, if it ever was lost."""
        return self._lost_until is None or time.monotonic() - self._lost_until >= seconds

    def open(self, turns: Turns) -> Player:
        """Open it, in whose thread ever."""
        self.began = time.monotonic()
        return open_player(self.source, turns)

    def call(self, source: Source) -> None:
        """The same under another name."""
        self.source = source
        player = self.player
        if player is not None:
            player.call(source)

    @property
    def player(self) -> Player | None:
        """The source once it is open; in its place, when that takes too long, its lost picture."""
        if self.opening.done():
            return None if self.opening.cancelled() else self.opening.result()
        if self.began is not None and time.monotonic() - self.began > OVERDUE:
            if self.waiting is None:
                self.waiting = LostPlayer(self.source, "its drive or share does not answer; it is shown when it does")
            return self.waiting
        return None


class PoolRequests:
    """Where the pictures of a pool's sources are asked for in the sizes they are shown at."""

    def __init__(self, slots: Mapping[str, _Slot]) -> None:
        self._slots = slots

    def _player(self, source: str) -> Player | None:
        slot = self._slots.get(source)
        return slot.player if slot is not None else None

    def ask(self, source: str, cut: Sized) -> None:
        """Wish for the pictures to come in this cut, too."""
        player = self._player(source)
        if player is not None and player.sizes is not None:
            player.sizes.ask(cut)

    def foresee(self, source: str, cuts: frozenset[Sized]) -> None:
        """Say in which cuts it will be shown before long."""
        player = self._player(source)
        if player is not None and player.sizes is not None:
            player.sizes.foresee(cuts)

    def made(self, source: str, serial: int, cut: Sized) -> Pixels | None:
        """This cut of the picture of a serial, if it was made ahead."""
        player = self._player(source)
        return player.made(serial, cut) if player is not None else None


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
        self._openers = Askers("open source", 2, lambda: give_way(4))
        self._begun = begun
        self._later = Askers("open later", 1, self._let_others_first)
        self._lock = threading.Lock()
        self._turns = Turns()
        self.requests = PoolRequests(self._slots)

    def _let_others_first(self) -> None:
        give_way(10)
        if self._begun is not None:
            self._begun.wait(self.PATIENCE)

    def set_show(self, show: Show, first: Set[str] | None = None) -> None:
        """Open what is new, close what is gone or changed, keep the rest running.  With ``first`` given, all others can
        wait for these.
        """
        with self._lock:
            wanted = {s.id: s for s in show.sources}
            keys = {
                id: opening_key(source)
                for id, source in wanted.items()
                if id not in self._slots or source is not self._slots[id].source
            }
            for id, slot in list(self._slots.items()):
                if id not in wanted or keys.get(id, slot.key) != slot.key:
                    self._drop(id)
                elif wanted[id] is not slot.source:
                    if isinstance(slot.player, LostPlayer):  # what was lost is tried again
                        self._drop(id)
                    else:
                        slot.call(wanted[id])
            for id, source in wanted.items():
                if id not in self._slots:
                    openers = self._openers if first is None or id in first else self._later
                    slot = _Slot(source, keys[id] if id in keys else opening_key(source))
                    slot.opening = openers.ask(slot.open, self._turns)
                    self._slots[id] = slot  # whole: other threads may look at it from now on

    def _drop(self, id: str) -> None:
        slot = self._slots.pop(id)
        slot.opening.cancel()
        slot.give_up()
        slot.opening.add_done_callback(_closed)

    def wait(self, timeout: float, ahead: int = 1, only: Set[str] | None = None) -> None:
        """Wait until every source, or each of ``only`` these, is open and has ``ahead`` frames ready, or the time is
        over.
        """
        end = time.monotonic() + timeout
        slots = [slot for id, slot in list(self._slots.items()) if only is None or id in only]
        wait_for_all([slot.opening for slot in slots], timeout)
        for slot in slots:
            waiter = getattr(slot.player, "wait", None)
            if waiter is not None:
                waiter(max(0.01, end - time.monotonic()), ahead)

    def follow(self, players: Mapping[str, Playing], now: float) -> None:
        """Have every source where its player is at a moment of the stage's clock; who has none is at its start."""
        self._openers.relieve()
        self._later.relieve()
        for id, slot in self._slots.items():
            slot.try_again(self._openers, self._turns)
            at = players.get(id)
            slot.clock = 0.0 if at is None else at.position(now)
            player = slot.player
            if at is not None and not at.looping and player is not None and player.length > 0:
                slot.clock = min(slot.clock, player.length - LAST)

    def frames(self, ids: Iterable[str]) -> dict[str, Frame]:
        """The present frames of these sources, or what stands in for the lost; one that is not open yet is left out."""
        found = {}
        for id in ids:
            slot = self._slots.get(id)
            frame = None if slot is None else self._shown(id, slot)
            if frame is not None:
                found[id] = frame
        return found

    def _shown(self, id: str, slot: _Slot, asked: frozenset[str] = frozenset()) -> Frame | None:
        """What is shown of a source: its own frame, that of its backup, its last one, or its lost picture."""
        own = self._own(id, slot)
        player, when = slot.player, slot.source.when_lost
        opening = player is None and not asked  # what is asked for as a backup is passed over until it is open
        if opening or (player is not None and player.fault is None and slot.steady(when.steady)):
            slot.substitute = None
            return own
        backup = self._slots.get(when.backup) if when.backup is not None and when.backup not in asked else None
        if backup is not None and when.backup is not None:
            stands_in = self._shown(when.backup, backup, asked | {id})
            if stands_in is not None and backup.usable:
                slot.substitute = stands_in.origin
                return stands_in
        if when.show == "last" and slot.good is not None:
            slot.substitute = id
            return slot.good
        slot.substitute = None
        return own

    def _own(self, id: str, slot: _Slot) -> Frame | None:
        """The present frame of a source itself, its lost picture if it is lost."""
        player = slot.player
        if player is None:
            return slot.last
        try:
            frame = player.frame(slot.clock)
        except Exception as error:  # one bad source never stops the others
            frame = player.lost(f"{type(error).__name__}: {error}"[:120])
        if frame is not None and (slot.last is None or slot.taken != (frame.serial, slot.source.picture)):
            slot.taken = frame.serial, slot.source.picture
            slot.last = adjusted(frame, slot.source, player.fault is not None)._replace(origin=id)
        slot.note(player.fault is not None)
        return slot.last

    def substitutes(self) -> dict[str, str]:
        """By each source that is lost and not shown as such: what stands in for it; itself, if that is its
        last picture.
        """
        return {id: s.substitute for id, s in list(self._slots.items()) if s.substitute is not None}

    def opaque(self) -> dict[str, bool]:
        """Of every source that has shown a picture: whether that cannot be seen through."""
        return {id: slot.last.opaque for id, slot in list(self._slots.items()) if slot.last is not None}

    def go_on(self, until: float = math.inf) -> None:
        """Let sources work ahead: a frame has been made of their pictures, and there is time until a moment of
        ``time.perf_counter``.
        """
        self._turns.open(until)
        for slot in list(self._slots.values()):
            if (player := slot.player) is not None:
                player.go_on()

    def exact(self, ids: Iterable[str], seconds: float) -> dict[str, Frame]:
        """The frames of these sources exactly ``seconds`` after their start, waited for."""
        found = {}
        for id in ids:
            if id in self._slots:
                player = self._opened(self._slots[id])
                found[id] = adjusted(player.exact(seconds), self._slots[id].source, player.fault is not None)
        return found

    def exact_now(self, ids: Iterable[str]) -> dict[str, Frame]:
        """The frames of these sources, or of what stands in for them, exactly where their clocks are, waited for."""
        return {id: self._exact(id) for id in ids if id in self._slots}

    def _exact(self, id: str, asked: frozenset[str] = frozenset()) -> Frame:
        slot = self._slots[id]
        player = self._opened(slot)
        frame = adjusted(player.exact(slot.clock), slot.source, player.fault is not None)._replace(origin=id)
        backup = slot.source.when_lost.backup
        if player.fault is None or backup is None or backup in asked or backup not in self._slots:
            return frame
        stands_in = self._exact(backup, asked | {id})
        return frame if self._opened(self._slots[stands_in.origin]).fault is not None else stands_in

    def _opened(self, slot: _Slot) -> Player:
        """A source, waited for until it is open or overdue."""
        while (player := slot.player) is None:
            wait_for_all([slot.opening], 0.1)
            self._openers.relieve()
        return player

    def lengths(self) -> dict[str, float]:
        """Seconds of one pass of every source that is open and says so."""
        return {id: p.length for id, s in list(self._slots.items()) if (p := s.player) is not None and p.length > 0}

    def faults(self) -> dict[str, str]:
        """Why each lost source is lost, and what stands in for it."""
        found = {}
        for id, slot in list(self._slots.items()):
            player = slot.player
            if player is not None and player.fault is not None:
                other = self._slots.get(slot.substitute or "")
                name = "its last picture" if other is slot else other.source.name if other is not None else None
                found[id] = player.fault if name is None else f"{player.fault}; {name} stands in for it"
        return found

    def close(self, seconds: float = 10.0) -> None:
        """Close every source, and wait for its thread: one that outlives the interpreter would take the program down.

        After ``seconds`` none is waited for any more, as if it hung.
        """
        end = time.monotonic() + seconds
        for openers in (self._openers, self._later):
            openers.close()
        with self._lock:
            overdue = [slot for slot in self._slots.values() if slot.waiting is not None]
            opening = [
                slot.opening for slot in self._slots.values() if slot not in overdue and not slot.opening.cancelled()
            ]
            players = [p for slot in self._slots.values() if (p := slot.player) is not None]
            for id in list(self._slots):
                self._drop(id)
        wait_for_all(opening, max(0.0, end - time.monotonic()))
        for player in players:
            player.join(max(0.0, end - time.monotonic()))
