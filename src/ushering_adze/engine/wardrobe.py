"""Texts and clocks in dresses of layers, beside the same in their own: opened when they may be wanted."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Set

from ushering_adze.core.kinds.dress import wearer
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Clock, Text
from ushering_adze.engine.slot import Slot, adjusted, let_go
from ushering_adze.io.media import Player, opening_key

LAID_BY = 10.0
"""Seconds for which one is kept that nobody asks for any more and no preset may ask for."""


class Wardrobe:
    """What is dressed otherwise than its source says.  It is changed by the render thread alone.

    Parameters
    ----------
    open : callable
        Opens a slot in the background.
    """

    def __init__(self, open: Callable[[Slot], None]) -> None:
        self._open = open
        self._of: dict[str, dict[str, Slot]] = {}
        """By source, then by what it is called in its dress; never changed, but replaced."""
        self._asked: dict[str, float] = {}

    def dress(self, slots: Mapping[str, Slot], kept: Set[str], wanted: Iterable[str] = ()) -> None:
        """Have there what is wanted now, and what is to be kept; let go what is neither and was not for a while."""
        now = time.monotonic()
        self._asked |= dict.fromkeys(wanted, now)
        names = {*kept, *(name for name, asked in self._asked.items() if now - asked < LAID_BY)}
        self._asked = {name: asked for name, asked in self._asked.items() if name in names}
        there = {name: slot for dressed in self._of.values() for name, slot in dressed.items()}
        made: dict[str, dict[str, Slot]] = {}
        changed = False
        for name in names:
            source, dress = wearer(name)
            own = slots.get(source)
            if own is None or not isinstance(own.source, (Text, Clock)):
                continue
            meant, opens = (one.model_copy(update={"dress": dress}) for one in (own.source, own.opens))
            slot = there.get(name)
            if slot is None or slot.key != opening_key(opens):
                slot = Slot(meant, opening_key(opens))
                slot.opens, slot.leads, slot.near = opens, own.leads, True
                self._open(slot)
                changed = True
            elif slot.source != meant or slot.opens != opens:
                slot.call(meant, opens)
            slot.leads = own.leads
            made.setdefault(source, {})[name] = slot
        kept_slots = {id(slot) for dressed in made.values() for slot in dressed.values()}
        for slot in there.values():
            if id(slot) not in kept_slots:
                _closed(slot)
                changed = True
        if changed or made.keys() != self._of.keys():
            self._of = made

    @property
    def waits(self) -> bool:
        """Whether some are there only because they were wanted lately."""
        return bool(self._asked)

    def slots(self) -> Iterator[tuple[str, Slot]]:
        """Every one, with the source it is of."""
        for source, dressed in list(self._of.items()):
            for slot in dressed.values():
                yield source, slot

    def by_name(self) -> Iterator[tuple[str, Slot]]:
        """Every one, by what it is called in its dress."""
        for dressed in list(self._of.values()):
            yield from dressed.items()

    def frames_of(self, source: str) -> dict[str, Frame]:
        """The present pictures of a source in its dresses, by what they are called; those that are open."""
        found = {}
        for name, slot in self._of.get(source, {}).items():
            player = slot.player
            if player is not None and player.fault is None:
                made = player.frame(slot.clock)
                if made is not None:
                    found[name] = _kept(slot, source, made)
        return found

    def exact_of(self, source: str, opened: Callable[[Slot], Player]) -> dict[str, Frame]:
        """The same, waited for."""
        found = {}
        for name, slot in self._of.get(source, {}).items():
            player = opened(slot)
            if player.fault is None:
                found[name] = _kept(slot, source, player.exact(slot.clock))
        return found

    def close(self) -> list[Slot]:
        """Close all of them, and say which they were."""
        slots = [slot for _, slot in self.slots()]
        for slot in slots:
            _closed(slot)
        self._of = {}
        return slots


def _closed(slot: Slot) -> None:
    slot.opening.cancel()
    slot.opening.add_done_callback(let_go)


def _kept(slot: Slot, source: str, frame: Frame) -> Frame:
    """A frame as its source is shown everywhere; the last one, if it is that."""
    made_of = (frame.serial, 0, slot.source.picture, 255)
    if slot.last is None or slot.taken != made_of:
        slot.taken = made_of
        slot.last = adjusted(frame, slot.source, False)._replace(origin=source)
    return slot.last
