"""A source of a show in the pool: its player, where it is, and what of it is shown."""

from __future__ import annotations

import math
import time
from collections.abc import Mapping
from concurrent.futures import Future

import cv2
import numpy as np

from ushering_adze.core.onair.transport import Place
from ushering_adze.core.picture.frame import Frame, Sized
from ushering_adze.core.picture.pictured import pictured
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Source, SourcePicture, Text
from ushering_adze.engine.crossing import Crossing
from ushering_adze.io.asking import OVERDUE, Askers
from ushering_adze.io.media import Player, open_player
from ushering_adze.io.media.player import LostPlayer
from ushering_adze.io.media.still import serials
from ushering_adze.io.turns import Turns

AGAIN = 3.0
"""Seconds after which a source that could not be opened is tried again."""


def adjusted(frame: Frame, source: Source, lost: bool, key: Frame | None = None) -> Frame:
    """A frame as its source is shown everywhere, with the frame of the source that is its key, if it has one; the very
    same if nothing is to be done, or if it is its lost picture.
    """
    pixels = frame.pixels if lost else pictured(frame.pixels, source.picture, None if key is None else key.pixels)
    if pixels is frame.pixels:
        return frame
    opaque = source.picture.mask or (frame.opaque and source.picture.key is None)
    return frame._replace(pixels=pixels, serial=next(serials), opaque=opaque)


def dimmed(frame: Frame, light: int) -> Frame:
    """A frame with so many parts of 255 of its light; its alpha stays."""
    if light >= 255:
        return frame
    pixels = np.asarray(cv2.multiply(frame.pixels, (light / 255, light / 255, light / 255, 1.0)), np.uint8)
    return frame._replace(pixels=pixels, serial=next(serials))


def opened_as(sources: Mapping[str, Source], source: Source) -> Source:
    """What is opened for a source: for a text that follows another one, its pages in its own dress."""
    if not isinstance(source, Text) or source.follows is None:
        return source
    other = sources.get(source.follows)
    if not isinstance(other, Text) or other.follows is not None:
        return source
    return source.model_copy(update={"path": other.path, "words": other.words, "follows": None})


def let_go(opening: Future[Player]) -> None:
    """Close what was being opened and is not wanted any more."""
    if not opening.cancelled() and opening.exception() is None:
        opening.result().close()


class Slot:
    """A source, its player once open, and where it is."""

    def __init__(self, source: Source, key: tuple[object, ...]) -> None:
        self.source, self.key = source, key
        self.opens = source
        """What is opened: a text that follows another has that one's pages."""
        self.near = True
        """Whether it is shown, or about to be."""
        self.leads = source.id
        """Whose page it is at."""
        self.opening: Future[Player]
        self.began: float | None = None
        self.waiting: LostPlayer | None = None
        self.clock = 0.0
        self.last: Frame | None = None
        self.taken: tuple[int, int, SourcePicture, int] | None = None
        """The serials of the frame that the last one was made from and of its key, how it is adjusted, how bright."""
        self.place = Place(0.0)
        self.now = 0.0
        self.good: Frame | None = None
        """The last picture from before it was lost."""
        self.crossing = Crossing()
        self.substitute: str | None = None
        """What stands in for it."""
        self.put: object = None
        """The parts that it was last put together from."""
        self._lost_until: float | None = None
        self.away = False
        """Whether it was lost and has not been brought back."""
        self.lost_at = self.back_at = -math.inf
        """When it was lost last, and when it was brought back by hand, by the stage's clock."""
        self._again: Future[Player] | None = None
        self._tried = time.monotonic()

    def give_up(self) -> None:
        """Open it no more; what is being opened anew is closed when it is there."""
        if self._again is not None:
            self._again.cancel()
            self._again.add_done_callback(let_go)

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
            self.away, self.lost_at = True, self.now
        elif self.last is not None:
            self.good = self.last

    def steady(self, seconds: float) -> bool:
        """Whether it has been back so long, if it ever was lost."""
        return self._lost_until is None or time.monotonic() - self._lost_until >= seconds

    def open(self, turns: Turns) -> Player:
        """Open it, in whose thread ever."""
        self.began = time.monotonic()
        return open_player(self.opens, turns, self.near)

    def call(self, source: Source, opens: Source) -> None:
        """The same under another name."""
        self.source, self.opens = source, opens
        player = self.player
        if player is not None:
            player.call(opens)

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

    def __init__(self, slots: Mapping[str, Slot]) -> None:
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
