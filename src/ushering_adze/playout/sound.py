"""The sound of the running show: who mixes it is told, again and again, what is to be heard."""

from __future__ import annotations

import threading
from collections.abc import Mapping

from ushering_adze.core.onair.hearing import Heard, finishes, heard, seen_by_mix
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.show import Input, Show
from ushering_adze.core.show.sound import LISTEN, ShowSound
from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.core.sound.levels import RATE, Sound
from ushering_adze.core.sound.metering import Measured
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.sounding import MixReport, SoundAt, SoundReport
from ushering_adze.io.logs import log
from ushering_adze.io.media.live_sound import LiveSound
from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.sound.apart import SoundApart
from ushering_adze.io.sound.mixing import BLOCK, LEAD
from ushering_adze.io.sound.orders import Given, LivePart, Orders, Place

PERIOD = BLOCK / RATE
"""Seconds from one look at what is on air to the next."""
OFTEN = 8
"""Looks from one order to the next where nothing has changed."""
LATER = 1.5
"""Seconds for which a show that opens is left alone."""
FAINT = 0.001
"""A factor below which a source is not let in."""
STRAYED = 0.002
"""Seconds off where it was to be by now from which a place has to be told."""


class Ordering:
    """Works out what is to be heard.

    Parameters
    ----------
    engine : Engine
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._seen: tuple[tuple[object, ...], Heard] | None = None
        self.listening: str | None = None
        """What the operator listens to: a source, a sound, a mix; None for what is heard otherwise."""
        self.scale: Scale = "ppm1"
        self.points = False
        """Whether somebody looks at pointers of meters."""
        self.calls = False
        """Whether who listens is called, again and again."""
        self.taps: set[str] = set()
        self.metered: frozenset[str] = frozenset()
        """Sources that are measured though nobody may hear them."""
        self._told_live: dict[str, tuple[LiveSound, int]] = {}

    def matrix(self, stage: Stage, moment: float) -> Heard:
        """Factors by mix and source at a moment."""
        moving = stage.program.moving(moment)
        kept = self._seen
        of = (stage.program, stage.show, stage.overrides)
        if moving or kept is None or any(a is not b for a, b in zip(kept[0], of, strict=True)):
            through = self._engine.seen_through(stage.show)
            seen = seen_by_mix(stage.show, stage.program.at(moment), through, stage.overrides)
            self._seen = None if moving else (of, seen)
        else:
            seen = kept[1]
        return heard(stage, {}, self.listening, seen)

    def forget(self) -> None:
        """Look anew at what is seen: pictures have come that were not there."""
        self._seen = None

    def orders(self, moment: float) -> Orders:
        """What is to be heard from a moment of the clock of frames on."""
        stage = self._engine.stage
        show, sound = stage.show, stage.show.sound
        matrix = self.matrix(stage, moment)
        known = {s.id for s in show.sources}
        metered = self.metered & known
        audible = set().union(*(gains.keys() for gains in matrix.values())) | {d.by for d in sound.ducks} | metered
        near = self._near(stage, sound) & known
        self._engine.hear((frozenset({self.listening} if self.listening is not None else ()) & known) | metered)
        at = self._engine.sounds(show.leading_to(near | (audible & known)))
        held_back = {s.id: (s.delay or 0) * show.frame_seconds for s in show.sources if isinstance(s, Input)}
        places = {id: _place(here, sound.of(id).delay / 1000, held_back.get(id, 0.0)) for id, here in at.items()}
        quiet = not sound.mixes and self.listening is None and not self.calls and not metered
        files = frozenset(p.path for p in places.values() if p.path is not None)
        given = {
            s.id: Given(s.device, s.channels, s.pattern, s.level, sound.of(s.id).delay / 1000)
            for s in sound.inputs
            if s.device is not None or s.id in audible
        }
        return Orders(
            matrix=matrix,
            places={id: p for id, p in places.items() if id in audible},
            files=frozenset() if quiet else files,
            given=given,
            finishes={} if quiet else finishes(show),
            ways=ways_of(sound),
            ducks=tuple((d.duck, d.of) for d in sound.ducks),
            listened=self.listening is not None,
            calls=self.calls,
            live=self._live({id: here for id, here in at.items() if id in audible}),
            taps=frozenset(self.taps),
            scale=self.scale,
            points=self.points,
            metered=metered,
        )

    def _near(self, stage: Stage, sound: ShowSound) -> set[str]:
        near = sources_of(stage.program.target) | (sources_of(stage.preview()) if stage.previewing else set())
        near |= {o.source for o in stage.overrides.values() if o.source is not None}
        near |= sound.always | {d.by for d in sound.ducks} | self.metered
        return near | ({self.listening} if self.listening is not None else set())

    def _live(self, at: Mapping[str, SoundAt]) -> dict[str, LivePart]:
        """What has come of live sounds since they were told of last."""
        made: dict[str, LivePart] = {}
        kept: dict[str, tuple[LiveSound, int]] = {}
        for id, here in at.items():
            live = here.live
            if live is None:
                continue
            before = self._told_live.get(id)
            end = live.ring.end
            start = before[1] if before is not None and before[0] is live else max(live.ring.begin, end - RATE // 2)
            start = max(start, live.ring.begin)
            found = live.ring.read(start, end - start) if end > start else None
            if found is None:
                found, end = live.ring.none, start
            made[id], kept[id] = LivePart(start, found, live.timing, live.dialogue), (live, end)
        self._told_live = kept
        return made


def _place(at: SoundAt, delay: float, shown: float) -> Place:
    return Place(
        at.moment, at.seconds, at.speed, at.path, at.beeps, at.live is not None, at.loops, at.light, delay, shown
    )


def ways_of(sound: ShowSound) -> dict[str, tuple[str | None, int, int]]:
    """Device and channels of every mix, and of what the operator hears."""
    ways = {m.id: (m.device, m.left, m.right) for m in sound.mixes}
    return ways | {LISTEN: (sound.listen.device, sound.listen.left, sound.listen.right)}


def same_orders(a: Orders, b: Orders) -> bool:
    """Whether whoever goes by one of two hears the same: places that have gone on as they were to are the same."""
    if a._replace(places={}, live={}) != b._replace(places={}, live={}) or a.places.keys() != b.places.keys() or b.live:
        return False
    for id, one in a.places.items():
        two = b.places[id]
        if one._replace(moment=0.0, seconds=0.0) != two._replace(moment=0.0, seconds=0.0):
            return False
        if abs(one.seconds + (two.moment - one.moment) * one.speed - two.seconds) > STRAYED:
            return False
    return True


class SoundRunner:
    """Has the sound of a show mixed, in a process of its own.

    Parameters
    ----------
    engine : Engine
    devices : bool
        Whether devices are opened; else time is kept, and feeds have their sound, all the same.
    """

    def __init__(self, engine: Engine, devices: bool = True) -> None:
        self._engine, self._with_devices = engine, devices
        self.ordering = Ordering(engine)
        self._apart: SoundApart | None = None
        self._resets: set[str] = set()
        self._last: Orders | None = None
        self._begun = 0
        self._failing: str | None = None
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._run, name="sound", daemon=True)

    # -- running -------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Begin, a moment after the show has."""
        self._thread.start()

    def close(self) -> None:
        """End."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(2)
        if self._apart is not None:
            self._apart.close()
            self._apart.join(2)

    def _run(self) -> None:
        self._closing.wait(LATER)
        count = 0
        while not self._closing.wait(PERIOD):
            try:
                self._tell(count)
                self._failing = None
            except Exception as error:
                log.exception("sound could not be ordered")
                self._failing = f"it does not follow ({type(error).__name__}); undo the last edit of it"
            count += 1

    def _tell(self, count: int) -> None:
        sound = self._engine.stage.show.sound
        if self._apart is None:
            ordering = self.ordering
            asked_for = ordering.listening is not None or ordering.calls or bool(ordering.metered)
            if not sound.mixes and not asked_for and not self.ordering.taps:
                return
            self._apart = SoundApart(self._with_devices)
        if not self._apart.ready:
            self._last = None
            return
        if count % OFTEN == 0:
            self.ordering.forget()
        resets, self._resets = frozenset(self._resets), set()
        orders = self.ordering.orders(self._engine.clock() + LEAD)._replace(resets=resets)
        again = self._begun != self._apart.begun
        if not again and self._last is not None and count % OFTEN and same_orders(self._last, orders):
            return
        if self._apart.order(orders):
            self._last, self._begun = orders._replace(live={}, resets=frozenset()), self._apart.begun
        else:
            self._resets |= resets

    # -- what is asked of it -------------------------------------------------------------------------------------

    @property
    def listening(self) -> str | None:
        """What the operator listens to."""
        return self.ordering.listening

    def listen(self, to: str | None) -> None:
        """Have the operator hear a source, a sound or a mix."""
        self.ordering.listening = to

    def meter(self, sources: frozenset[str]) -> None:
        """Have these sources measured, whether anybody hears them or not."""
        self.ordering.metered = sources

    def tap(self, mix: str) -> None:
        """Have the last seconds of a mix kept here."""
        self.ordering.taps.add(mix)

    def heard_between(self, mix: str, begins: float, ends: float) -> Sound | None:
        """What is heard of a mix from one moment to another, by the clock of frames; None if nothing is."""
        self.tap(mix)
        apart = self._apart
        ring = None if apart is None else apart.taps.get(mix)
        if apart is None or ring is None or apart.zero is None:
            return None
        first = round((begins - apart.zero) * RATE)
        return ring.read(first, max(0, round((ends - apart.zero) * RATE) - first))

    def ring(self, mix: str) -> tuple[float, SoundRing] | None:
        """The moment of sample 0, and the last seconds of a mix that is tapped."""
        apart = self._apart
        ring = None if apart is None else apart.taps.get(mix)
        return None if apart is None or ring is None or apart.zero is None else (apart.zero, ring)

    def reset(self, mix: str | None = None) -> None:
        """Set back what meters measure over long: of one mix, or of all."""
        self._resets |= {m.id for m in self._engine.stage.show.sound.mixes} if mix is None else {mix}

    def report(self, show: Show, stage: Stage) -> SoundReport:
        """What is heard now."""
        told = None if self._apart is None else self._apart.told
        mixes = []
        for mix in show.sound.mixes:
            measured = Measured() if told is None else told.measured.get(mix.id, Measured())
            plays, starved = (False, 0) if told is None else told.devices.get(mix.device or "", (False, 0))
            mixes.append(MixReport(mix.id, mix.name, measured, mix.device, plays, starved))
        levels, behind = ({}, {}) if told is None else (told.levels, told.behind)
        last = self._last
        gains = {} if last is None else {m: g for m, g in last.matrix.items() if m != LISTEN}
        audible = frozenset(id for g in gains.values() for id, gain in g.items() if gain > FAINT)
        return SoundReport(tuple(mixes), levels, self.listening, behind, stage.muted, audible)

    def faults(self) -> dict[str, str]:
        """What is wrong with sound, by the id of what it is of."""
        found = {} if self._failing is None else {"sound": self._failing}
        return found if self._apart is None else {**found, **self._apart.told.faults}
