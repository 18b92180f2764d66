"""The sources of a show, opened in the background, each with a clock that runs while it is on air."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Iterable, Mapping, Set
from concurrent.futures import wait as wait_for_all
from types import MappingProxyType

from ushering_adze.core.onair.playing import Playing, fresh, further, has_length, leader
from ushering_adze.core.onair.transport import place_of, span_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.wearing import wardrobe_of
from ushering_adze.core.show import Clip, FillKey, Parts, Show, Source, SourcePicture, WallSource
from ushering_adze.engine.parts import in_step, put_together
from ushering_adze.engine.slot import PoolRequests, Slot, adjusted, dimmed, let_go, opened_as
from ushering_adze.engine.sounding import SoundAt, sound_at
from ushering_adze.engine.wardrobe import Wardrobe
from ushering_adze.io.asking import Askers
from ushering_adze.io.media import Player, opening_key
from ushering_adze.io.media.live import Held, LivePlayer, Signal
from ushering_adze.io.media.paged import ClockPlayer, PagedPlayer
from ushering_adze.io.media.player import ClipPlayer, LostPlayer, PartsPlayer, WallPlayer
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns

WARM = 320 << 20
"""Bytes for clips that stay ready far from the air: a small show has all of its clips there."""
WARMED = 1.0
"""Seconds from one choice of these to the next."""
IN_STEP = 20
"""Pictures that a part keeps, so that one that comes later finds its own moment among them."""
LAST = 0.001
"""Seconds before its end at which a source stands that does not begin anew."""


def _turned_to(slot: Slot, player: PagedPlayer, players: Mapping[str, Playing]) -> float:
    """The stop that something which is turned by hand is at."""
    at = players.get(slot.leads)
    page, step = (0, 0.0) if at is None else (at.page, at.at)
    return float(player.stop_of(page + further(slot.source), step))


class SourcePool:
    """Opens every source of a show once and gives their frames.

    Parameters
    ----------
    begun : Event, optional
        Sources that can wait are not opened before it is set, or some seconds have passed.
    """

    PATIENCE = 5.0

    def __init__(self, begun: threading.Event | None = None) -> None:
        self._slots: dict[str, Slot] = {}
        self._openers = Askers("open source", 2, lambda: give_way(4))
        self._begun = begun
        self._later = Askers("open later", 1, self._let_others_first)
        self._lock = threading.Lock()
        self._turns = Turns()
        self.requests = PoolRequests(self._slots)
        self._near: frozenset[str] | None = None
        self._warm: frozenset[str] = frozenset()
        self._warmed = -math.inf
        self._lately: dict[str, float] = {}
        self._wardrobe = Wardrobe(self._open_dressed)
        self._kept_dressed: frozenset[str] = frozenset()
        self.walls: dict[str, Frame] = {}
        """Walls of pictures, as they were painted last."""

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
            opens = {id: opened_as(wanted, source) for id, source in wanted.items()}
            keys = {
                id: opening_key(opens[id])
                for id, source in wanted.items()
                if id not in self._slots or source is not self._slots[id].source or opens[id] is not source
            }
            for id, slot in list(self._slots.items()):
                if id not in wanted or keys.get(id, slot.key) != slot.key:
                    self._drop(id)
                elif wanted[id] is not slot.source or opens[id] != slot.opens:
                    if isinstance(slot.player, LostPlayer):  # what was lost is tried again
                        self._drop(id)
                    else:
                        slot.call(wanted[id], opens[id])
            for id, source in wanted.items():
                if id not in self._slots:
                    openers = self._openers if first is None or id in first else self._later
                    slot = Slot(source, keys[id] if id in keys else opening_key(opens[id]))
                    slot.opens, slot.leads = opens[id], leader(show, id)
                    slot.near = (first is None or id in first) if self._near is None else id in self._near
                    slot.opening = openers.ask(slot.open, self._turns)
                    self._slots[id] = slot  # whole: other threads may look at it from now on
            self._kept_dressed = wardrobe_of(show)
            self._wardrobe.dress(self._slots, self._kept_dressed)

    def _open_dressed(self, slot: Slot) -> None:
        slot.opening = self._openers.ask(slot.open, self._turns)

    def _drop(self, id: str) -> None:
        slot = self._slots.pop(id)
        slot.opening.cancel()
        slot.give_up()
        slot.opening.add_done_callback(let_go)

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

    def be_near(self, sources: Set[str]) -> None:
        """Say which sources are shown, or may be soon: the others take as little memory as can be."""
        self._near = frozenset(sources)
        self._keep_warm()

    def _keep_warm(self) -> None:
        """Choose clips that stay ready though they are far from the air: those that were near it lately, then the first
        ones of the show, as long as there is memory set apart for them.
        """
        now = time.monotonic()
        self._lately |= dict.fromkeys(self._near or (), now)
        if now - self._warmed < WARMED or (self._begun is not None and not self._begun.is_set()):
            return
        self._warmed = now
        left, warm = WARM, set()
        for id in sorted(self._slots, key=lambda id: -self._lately.get(id, 0.0)):
            player = self._slots[id].player
            if isinstance(player, ClipPlayer) and id not in (self._near or ()) and player.cost <= left:
                left -= player.cost
                warm.add(id)
        self._warm = frozenset(warm)

    def follow(
        self,
        players: Mapping[str, Playing],
        now: float,
        brought: Mapping[str, float] = MappingProxyType({}),
        messages: Mapping[str, str] = MappingProxyType({}),
        worn: Set[str] = frozenset(),
    ) -> None:
        """Have every source where its player is at a moment of the stage's clock; who has none is at its start.

        ``brought`` says when sources were brought back by hand, ``messages`` what clocks say beside the time; ``worn``
        names texts in dresses of layers that are wanted.
        """
        if worn - self._kept_dressed or self._wardrobe.waits:
            self._wardrobe.dress(self._slots, self._kept_dressed, worn - self._kept_dressed)
        self._openers.relieve()
        self._later.relieve()
        for id, slot in self._slots.items():
            slot.try_again(self._openers, self._turns)
            slot.now, slot.back_at = now, brought.get(id, -math.inf)
            player = slot.player
            if self._near is not None:
                slot.near = id in self._near
                if player is not None:
                    player.near(slot.near or id in self._warm)
            if isinstance(player, PagedPlayer):
                slot.clock = _turned_to(slot, player, players)
                continue
            if isinstance(player, ClockPlayer):
                player.message = messages.get(id, "")
            source, at = slot.source, players.get(id)
            length = player.length if player is not None else 0.0
            if isinstance(source, Clip):
                slot.place = place_of(source, fresh(source) if at is None else at, length, now)
                slot.clock = slot.place.seconds
                continue
            slot.clock = 0.0 if at is None else at.position(now)
            if at is not None and not at.looping and length > 0:
                slot.clock = min(slot.clock, length - LAST)
        for slot in list(self._slots.values()):
            self._go_on_from(slot, players, now)
        for id, slot in self._wardrobe.slots():
            slot.try_again(self._openers, self._turns)
            player = slot.player
            if isinstance(player, PagedPlayer):
                slot.clock = _turned_to(slot, player, players)
            elif isinstance(player, ClockPlayer):
                player.message, slot.clock = messages.get(id, ""), self._slots[id].clock

    def _go_on_from(self, slot: Slot, players: Mapping[str, Playing], now: float) -> None:
        """Have what a clip that has ended goes on with where it is by then, and what that goes on with."""
        passed = {slot.source.id}
        while (following := self._following(slot)) is not None:
            other, past = following.source, slot.place.past or 0.0
            if other.id in passed or other.id in players:
                return  # in a circle, or it has a player of its own
            passed.add(other.id)
            following.clock = past
            if isinstance(other, Clip):
                length = following.player.length if following.player is not None else 0.0
                following.place = place_of(other, fresh(other)._replace(at=past), length, now)
                following.clock = following.place.seconds
            slot = following

    def _following(self, slot: Slot) -> Slot | None:
        """What a clip that has ended goes on with."""
        source = slot.source
        if not isinstance(source, Clip) or source.follow is None or slot.place.past is None:
            return None
        return self._slots.get(source.follow)

    def _now_at(self, slot: Slot) -> Slot:
        """Whose picture a source shows: its own, or that of what it has gone on with."""
        passed = {slot.source.id}
        while (following := self._following(slot)) is not None and following.source.id not in passed:
            passed.add(following.source.id)
            slot = following
        return slot

    def frames(self, ids: Iterable[str]) -> dict[str, Frame]:
        """The present frames of these sources, or what stands in for the lost, and of those that are dressed by layers
        under what they are called then; one that is not open yet is left out.
        """
        found = {}
        for id in ids:
            slot = self._slots.get(id)
            frame = None if slot is None else self._over(id, slot)
            if frame is not None:
                found[id] = frame
                found |= self._wardrobe.frames_of(id)
        return found

    def _over(self, id: str, slot: Slot) -> Frame | None:
        """What is shown of a source, on its way from what it was where a loss has its own time."""
        frame = self._shown(id, slot)
        lost = slot.substitute is None and slot.player is not None and slot.player.fault is not None
        return slot.crossing.frame((slot.substitute, lost), frame, slot.now, slot.source.when_lost.seconds)

    def _shown(self, id: str, slot: Slot, asked: frozenset[str] = frozenset()) -> Frame | None:
        """What is shown of a source: its own frame, that of its backup, its last one, or its lost picture."""
        own = self._own(id, slot)
        player, when = slot.player, slot.source.when_lost
        if when.by_hand and slot.away and own is not None and player is not None and player.fault is None:
            slot.substitute = None
            slot.away = slot.back_at < slot.lost_at
        away = when.by_hand and slot.away
        opening = player is None and not asked  # what is asked for as a backup is passed over until it is open
        if opening or (player is not None and player.fault is None and slot.steady(when.steady) and not away):
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

    def _own(self, id: str, slot: Slot) -> Frame | None:
        """The present frame of a source itself, its lost picture if it is lost."""
        player = slot.player
        if player is None:
            return slot.last
        if isinstance(player, PartsPlayer):
            return self._assembled(id, slot, player)
        if isinstance(player, WallPlayer):
            return self._wall(id, slot)
        at = self._now_at(slot)
        if at is not slot:
            return self._own(at.source.id, at)
        try:
            frame = player.frame(slot.clock)
        except Exception as error:  # one bad source never stops the others
            frame = player.lost(f"{type(error).__name__}: {error}"[:120])
        key = self._key(slot.source)
        light = round(slot.place.light * 255)
        made_of = (
            None if frame is None else (frame.serial, 0 if key is None else key.serial, slot.source.picture, light)
        )
        if frame is not None and (slot.last is None or slot.taken != made_of):
            slot.taken = made_of
            slot.last = dimmed(adjusted(frame, slot.source, player.fault is not None, key), light)._replace(origin=id)
        slot.note(player.fault is not None)
        return slot.last

    def _wall(self, id: str, slot: Slot) -> Frame | None:
        """A source that is a wall, as it was painted last."""
        source = slot.source
        frame = self.walls.get(source.wall) if isinstance(source, WallSource) else None
        if frame is not None and slot.put != (frame.serial, source.picture):
            slot.put = (frame.serial, source.picture)
            slot.last = adjusted(frame, source, False)._replace(origin=id)
        return slot.last

    def _key_of(self, source: Source) -> str | None:
        """The source that is the key of this one."""
        key = source.picture.key
        return key.source if isinstance(key, FillKey) and key.source in self._slots else None

    def _key(self, source: Source) -> Frame | None:
        """The present frame of a source's key; one that has such a key itself gives its picture as it comes, so that
        keys do not go round in a circle.
        """
        id = self._key_of(source)
        if id is None:
            return None
        other = self._slots[id]
        return self.unadjusted(id) if self._key_of(other.source) is not None else self._own(id, other)

    def _exact_key(self, source: Source) -> Frame | None:
        """The same, waited for."""
        id = self._key_of(source)
        if id is None:
            return None
        other = self._slots[id]
        return self._opened(other).exact(other.clock) if self._key_of(other.source) is not None else self._exact(id)

    def _assembled(self, id: str, slot: Slot, player: PartsPlayer) -> Frame | None:
        """A source put together from its parts, each of the same moment."""
        source = slot.source
        assert isinstance(source, Parts)
        if source.loose:
            player.fault = None
            return slot.last
        held: dict[str, list[Held]] = {}
        found: dict[str, Frame] = {}
        lost: list[str] = []
        for part in dict.fromkeys((*source.parts, *source.keys)):
            other = self._slots.get(part)
            if other is None or part == id or isinstance(other.source, Parts):
                continue
            frame = self._own(part, other)
            live = other.player
            if live is not None and live.fault is not None:
                lost.append(other.source.name)
            elif isinstance(live, LivePlayer) and other.source.picture == SourcePicture():
                live.most = IN_STEP
                held[part] = live.held
                continue
            if frame is not None:
                found[part] = frame
        together = in_step(held)
        if held and not together and slot.last is not None and not lost:
            return slot.last  # for a moment there is none that all have: what was of one moment stands
        found |= together or {id: pictures[-1].frame for id, pictures in held.items() if pictures}
        player.fault = f"of its parts {' and '.join(lost)} {'is' if len(lost) == 1 else 'are'} lost" if lost else None
        serials_of = tuple(found[p].serial if p in found else 0 for p in (*source.parts, *source.keys))
        key = (source, serials_of)
        if slot.put != key:
            keys = [found.get(p) for p in source.keys]
            made = put_together(source, [found.get(p) for p in source.parts], keys)
            slot.put = key
            if made is not None:
                slot.last = adjusted(made, source, False)._replace(origin=id)
        slot.note(player.fault is not None)
        return slot.last

    def unadjusted(self, id: str) -> Frame | None:
        """The present picture of a source as it comes, without its cut, key and colours."""
        slot = self._slots.get(id)
        player = None if slot is None else slot.player
        return None if slot is None or player is None else player.frame(slot.clock)

    def substitutes(self) -> dict[str, str]:
        """By each source that is lost and not shown as such: what stands in for it; itself, if that is its
        last picture.
        """
        return {id: s.substitute for id, s in list(self._slots.items()) if s.substitute is not None}

    def opaque(self) -> dict[str, bool]:
        """Of every source, and of those that are dressed by layers, that has shown a picture: whether that cannot be
        seen through.
        """
        slots = [*self._slots.items(), *self._wardrobe.by_name()]
        return {id: slot.last.opaque for id, slot in slots if slot.last is not None}

    def sizes(self) -> dict[str, tuple[int, int]]:
        """Width and height of the pictures of every source that has shown one."""
        return {
            id: (last.pixels.shape[1], last.pixels.shape[0])
            for id, slot in list(self._slots.items())
            if (last := slot.last) is not None
        }

    def go_on(self, until: float = math.inf) -> None:
        """Let sources work ahead: a frame has been made of their pictures, and there is time until a moment of
        ``time.perf_counter``.
        """
        self._turns.open(until)
        for slot in [*self._slots.values(), *(slot for _, slot in self._wardrobe.slots())]:
            if (player := slot.player) is not None:
                player.go_on()

    def exact(self, ids: Iterable[str], seconds: float) -> dict[str, Frame]:
        """The frames of these sources exactly ``seconds`` after their start, waited for; pages that are turned by hand
        are at the first.
        """
        for slot in list(self._slots.values()):
            self._opened(slot)
        sources = [slot.source for slot in self._slots.values()]
        self.follow({s.id: fresh(s)._replace(at=seconds) for s in sources if has_length(s)}, 0.0)
        return self.exact_now(ids)

    def exact_now(self, ids: Iterable[str]) -> dict[str, Frame]:
        """The frames of these sources, or of what stands in for them, exactly where their clocks are, waited for; and
        of those that are dressed by layers.
        """
        found = {}
        for id in ids:
            if id in self._slots:
                found[id] = self._exact(id)
                found |= self._wardrobe.exact_of(id, self._opened)
        return found

    def _exact(self, id: str, asked: frozenset[str] = frozenset()) -> Frame:
        slot = self._slots[id]
        player = self._opened(slot)
        at = self._now_at(slot)
        if at is not slot:
            return self._exact(at.source.id, asked | {id})
        if isinstance(slot.source, Parts):
            frame = self._exact_parts(slot.source, asked | {id})
        else:
            key = self._exact_key(slot.source)
            frame = adjusted(player.exact(slot.clock), slot.source, player.fault is not None, key)
        frame = dimmed(frame._replace(origin=id), round(slot.place.light * 255))
        backup = slot.source.when_lost.backup
        if player.fault is None or backup is None or backup in asked or backup not in self._slots:
            return frame
        stands_in = self._exact(backup, asked | {id})
        return frame if self._opened(self._slots[stands_in.origin]).fault is not None else stands_in

    def _exact_parts(self, source: Parts, asked: frozenset[str]) -> Frame:
        """A source put together from its parts where their clocks are."""
        parts, keys = (
            [self._exact(id, asked) if id in self._slots and id not in asked else None for id in ids]
            for ids in (source.parts, source.keys)
        )
        made = put_together(source, parts, keys)
        return self._opened(self._slots[source.id]).exact(0.0) if made is None else adjusted(made, source, False)

    def _opened(self, slot: Slot) -> Player:
        """A source, waited for until it is open or overdue."""
        while (player := slot.player) is None:
            wait_for_all([slot.opening], 0.1)
            self._openers.relieve()
        return player

    def sounds(self, players: Mapping[str, Playing], ids: Set[str]) -> dict[str, SoundAt]:
        """Where the sound of these sources is, as of the last frame, as far as they are open and have any."""
        found = {}
        for id in ids:
            slot = self._slots.get(id)
            if slot is None:
                continue
            at = self._now_at(slot)
            stands_in = self._slots.get(slot.substitute or "")
            if stands_in is not None and stands_in is not slot:
                at = stands_in
            playing = players.get(at.source.id)
            if playing is None:
                playing = fresh(at.source) if at is slot or at is stands_in else Playing(0.0, 0.0)
            here = sound_at(at, 0.0 if playing.since is None else playing.speed, playing.looping)
            if here is not None:
                found[id] = here
        return found

    def signals(self) -> dict[str, Signal]:
        """Every live signal that is open."""
        return {id: p.signal for id, s in list(self._slots.items()) if isinstance(p := s.player, LivePlayer)}

    def stops(self) -> dict[str, tuple[int, int, int]]:
        """Of everything that is turned by hand: at which stop it is, on which page, and of how many."""
        found = {}
        for id, slot in list(self._slots.items()):
            player = slot.player
            if isinstance(player, PagedPlayer):
                found[id] = int(slot.clock), player.page_at(int(slot.clock)), player.pages
        return found

    def settled(self, players: Mapping[str, Playing]) -> dict[str, Playing]:
        """Players of what is turned by hand that stand beyond its first or last stop, put back onto it."""
        found = {}
        for id, at in players.items():
            slot = self._slots.get(id)
            player = None if slot is None else slot.player
            if isinstance(player, PagedPlayer):
                start = player.starts[min(at.page, len(player.starts) - 1)]
                inside = float(min(max(at.at, -start), player.stops - 1 - start))
                page = min(at.page, len(player.starts) - 1)
                if (inside, page) != (at.at, at.page):
                    found[id] = at._replace(at=inside, page=page)
        return found

    def warnings(self) -> dict[str, str]:
        """What is wrong with sources whose pictures are there."""
        return {
            id: p.warning
            for id, s in list(self._slots.items())
            if (p := s.player) is not None and p.warning is not None
        }

    def lengths(self) -> dict[str, float]:
        """Seconds of one pass of every source that is open and says so."""
        found = {}
        for id, slot in list(self._slots.items()):
            player = slot.player
            if player is not None and player.length > 0:
                source = slot.source
                found[id] = span_of(source, player.length) if isinstance(source, Clip) else player.length
        return found

    def faults(self) -> dict[str, str]:
        """Why each lost source is lost, and what stands in for it."""
        found = {}
        for id, slot in list(self._slots.items()):
            player = slot.player
            if player is not None:
                player.check()
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
            dressed = self._wardrobe.close()
            opening += [slot.opening for slot in dressed if not slot.opening.cancelled()]
            players = [p for slot in (*self._slots.values(), *dressed) if (p := slot.player) is not None]
            for id in list(self._slots):
                self._drop(id)
        wait_for_all(opening, max(0.0, end - time.monotonic()))
        for player in players:
            player.join(max(0.0, end - time.monotonic()))
