"""The mixing of a show's sound, block by block: sources are read where their pictures are, mixed, sent to devices."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import numpy as np

from ushering_adze.core.show.sound import LISTEN
from ushering_adze.core.sound.following import Reader
from ushering_adze.core.sound.levels import RATE, Sound, decibels, silence
from ushering_adze.core.sound.metering import Measured, Meters
from ushering_adze.core.sound.mixing import Ducking, Mixer, rms
from ushering_adze.core.sound.patterns import pattern_sound
from ushering_adze.io.media.live_sound import LiveTiming
from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.media.still import MediaError
from ushering_adze.io.sound.clip import ClipSound
from ushering_adze.io.sound.devices import DeviceIn, DeviceOut
from ushering_adze.io.sound.orders import Given, Orders, Place, SourceLevel, Told

BLOCK = 1024
"""Samples that are mixed at a time: 21 ms."""
LEAD = 0.06
"""Seconds by which they are mixed before they are heard."""
LOST = 1.0
"""Seconds behind from which what should have been mixed is passed over."""
CAPTURED = 0.03
"""Seconds behind the newest at which what a device captures is read, beside the lead."""
NOTHING = Orders({}, {}, frozenset(), {}, {}, {})


class _Source:
    """A source that is read: by what, and how loud it was lately."""

    def __init__(self, reads: object, reader: Reader | None) -> None:
        self.reads, self.reader = reads, reader
        self.peak, self.silent = 0.0, 0.0
        self.channels: list[float] = []


class SoundMixing:
    """Mixes by orders.

    Parameters
    ----------
    zero : float
        The moment of sample 0, by ``time.perf_counter`` or whatever clock the orders go by.
    devices : bool
        Whether devices are opened.
    """

    def __init__(self, zero: float, devices: bool = True) -> None:
        self.zero, self._with_devices = zero, devices
        self.block = 0
        """The number of the block that is mixed next."""
        self.orders = NOTHING
        self._mixer = Mixer()
        self._clips: dict[Path, ClipSound | None] = {}
        self._opening: dict[Path, Future[ClipSound]] = {}
        self._openers = ThreadPoolExecutor(1, "open sound")
        self._faults: dict[Path, str] = {}
        self._sources: dict[str, _Source] = {}
        self._live: dict[str, tuple[SoundRing, LiveTiming]] = {}
        self._ducking: dict[tuple[int, str], Ducking] = {}
        self._outs: dict[str, DeviceOut] = {}
        self._ins: dict[str, DeviceIn] = {}
        self._levels: dict[str, SourceLevel] = {}
        self._behind: dict[str, float] = {}

    def close(self) -> None:
        """End."""
        self._openers.shutdown(wait=False, cancel_futures=True)
        for clip in self._clips.values():
            if clip is not None:
                clip.close()
        apart = [*self._outs.values(), *self._ins.values()]
        for device in apart:
            device.close()
        for device in apart:
            device.join(2)

    # -- orders --------------------------------------------------------------------------------------------------

    def follow(self, orders: Orders) -> None:
        """Go by these from the next block on."""
        for id, part in orders.live.items():
            kept = self._live.get(id)
            ring = kept[0] if kept is not None and kept[0].channels == part.sound.shape[1] else None
            if ring is None:
                ring = SoundRing(part.sound.shape[1])
            if len(part.sound):
                ring.put(part.start, part.sound)
            self._live[id] = ring, part.timing
        for id in [i for i in self._live if i not in orders.places or not orders.places[i].live]:
            del self._live[id]
            self._behind.pop(id, None)
        self.orders = orders
        self._follow_files(orders.files)
        self._follow_devices(orders)

    def _follow_files(self, files: frozenset[Path]) -> None:
        for path in [p for p in self._clips if p not in files]:
            gone = self._clips.pop(path)
            self._faults.pop(path, None)
            if gone is not None:
                gone.close()
        for path in [p for p in self._opening if p not in files]:
            self._opening.pop(path).add_done_callback(_close_opened)
        for path in files:
            if path in self._clips:
                continue
            opening = self._opening.get(path)
            if opening is None:
                self._opening[path] = self._openers.submit(ClipSound, path)
            elif opening.done():
                del self._opening[path]
                try:
                    self._clips[path] = opening.result()
                except MediaError as error:
                    self._clips[path] = None
                    self._faults[path] = str(error)

    def _follow_devices(self, orders: Orders) -> None:
        if not self._with_devices:
            return
        channels: dict[str, int] = {}
        for device, left, right in orders.ways.values():
            if device is not None:
                channels[device] = max(channels.get(device, 2), left, right)
        for device in [d for d, out in self._outs.items() if channels.get(d) != out.channels]:
            self._outs.pop(device).close()
        for device, count in channels.items():
            if device not in self._outs:
                self._outs[device] = DeviceOut(device, count, self.zero)
        wanted = {_device_key(g): g for g in orders.given.values() if g.device is not None}
        for key in [k for k in self._ins if k not in wanted]:
            self._ins.pop(key).close()
        for key, given in wanted.items():
            if key not in self._ins and given.device is not None:
                self._ins[key] = DeviceIn(given.device, max(given.channels))

    # -- one block -----------------------------------------------------------------------------------------------

    @property
    def moment(self) -> float:
        """When the first sample of the next block is to be heard."""
        return self.zero + self.block * BLOCK / RATE

    @property
    def idle(self) -> bool:
        """Whether there is nothing to be heard, nor will be."""
        return not self.orders.finishes and not self._sources

    def catch_up(self, now: float) -> None:
        """Pass over what should have been mixed long ago."""
        if now - (self.moment - LEAD) > LOST:
            self.block = int((now + LEAD - self.zero) * RATE / BLOCK)

    def mix_block(self) -> tuple[dict[str, Sound], dict[str, float]]:
        """Mix the next block, and send it to devices.

        Returns
        -------
        dict
            Samples of each mix.
        dict
            By how many decibels limiters turned them down.
        """
        orders, moment, start = self.orders, self.moment, self.block * BLOCK
        matrix = {mix: dict(gains) for mix, gains in orders.matrix.items()}
        audible = set().union(*(gains.keys() for gains in matrix.values()))
        blocks: dict[str, Sound] = {}
        for id in audible | orders.metered | set(self._sources) | {duck.by for duck, _ in orders.ducks}:
            made = self._block(id, orders.places.get(id), orders.given.get(id), moment)
            if made is not None:
                blocks[id] = made
            self._note(id, made, id in audible or id in orders.metered)
        self._duck(orders, matrix, blocks)
        mixed = self._mixer.mix(blocks, matrix, orders.finishes, BLOCK)
        if orders.calls and LISTEN in mixed.sound:
            mixed.sound[LISTEN] = mixed.sound[LISTEN] + pattern_sound("call", start, BLOCK)
        self._send(orders, start, mixed.sound)
        self.block += 1
        return mixed.sound, mixed.reduction

    def _note(self, id: str, made: Sound | None, audible: bool) -> None:
        source = self._sources.get(id)
        if source is None:
            return
        high = 0.0 if made is None else max(float(made.max()), -float(made.min()))
        source.peak = max(high, source.peak * 0.85)
        source.silent = 0.0 if decibels(high) > -60 else source.silent + BLOCK / RATE
        each = [] if made is None else np.abs(made).max(0).tolist() if made.ndim > 1 else [high]
        if len(each) not in (0, len(source.channels)):
            source.channels = [0.0] * len(each)
        fallen = [0.85 * level for level in source.channels]
        source.channels = [max(*pair) for pair in zip(each, fallen, strict=True)] if each else fallen
        channels = tuple(round(decibels(level), 1) for level in source.channels)
        self._levels[id] = SourceLevel(decibels(source.peak), source.silent, self._dialogue(id), channels)
        if made is None and not audible:
            del self._sources[id]
            self._levels.pop(id, None)

    def _dialogue(self, id: str) -> int | None:
        live, place = self.orders.live.get(id), self.orders.places.get(id)
        if live is not None:
            return live.dialogue
        clip = None if place is None or place.path is None else self._clips.get(place.path)
        return None if clip is None else clip.dialogue

    def _duck(self, orders: Orders, matrix: dict[str, dict[str, float]], blocks: Mapping[str, Sound]) -> None:
        """Have others get less in those mixes in which one is heard that they give way to."""
        for n, (duck, of) in enumerate(orders.ducks):
            loud = rms(blocks[duck.by]) if duck.by in blocks else 0.0
            for mix, gains in matrix.items():
                if mix == LISTEN and orders.listened:
                    continue
                ducking = self._ducking.get((n, mix))
                if ducking is None or ducking.duck != duck:
                    ducking = self._ducking[n, mix] = Ducking(duck)
                factor = ducking.factor(loud * gains.get(duck.by, 0.0), BLOCK / RATE)
                for id in gains if factor < 1.0 else ():
                    if id != duck.by and of in (None, id):
                        gains[id] *= factor

    def _send(self, orders: Orders, start: int, mixed: Mapping[str, Sound]) -> None:
        if not self._outs:
            return
        made = {device: silence(BLOCK, out.channels) for device, out in self._outs.items()}
        for mix, (device, left, right) in orders.ways.items():
            if device in made and mix in mixed:
                made[device][:, left - 1] += mixed[mix][:, 0]
                made[device][:, right - 1] += mixed[mix][:, 1]
        for device, block in made.items():
            self._outs[device].put(start, np.clip(block, -1.0, 1.0))

    # -- sources -------------------------------------------------------------------------------------------------

    def _block(self, id: str, at: Place | None, given: Given | None, moment: float) -> Sound | None:
        """What a source sounds like in the block that begins at a moment; None if it is silent."""
        if given is not None:
            return self._given(id, given, moment)
        if at is None:
            kept = self._sources.get(id)
            return None if kept is None or kept.reader is None else kept.reader.take(None, BLOCK)
        place = at.seconds + (moment - at.delay - at.moment) * at.speed
        if at.beeps:
            self._sources.setdefault(id, _Source("beeps", None))
            return pattern_sound("beep", round(place * RATE), BLOCK) if at.speed > 0 else None
        if at.live:
            live = self._live.get(id)
            if live is None:
                return None
            ring, timing = live
            ahead = LEAD + 2 * BLOCK / RATE  # what comes is told a block at a time
            self._behind[id] = timing.behind(ahead, at.shown + at.delay)
            reader = self._reader(id, ring, ring.read, ring.channels)
            return reader.take(timing.place(moment, ahead, at.shown + at.delay), BLOCK)
        clip = None if at.path is None else self._clips.get(at.path)
        if clip is None or not clip.channels:
            return None
        loops = at.loops
        reader = self._reader(id, (clip, loops), lambda start, n: clip.read(start, n, loops), clip.channels)
        made = reader.take(place * RATE if at.speed > 0 else None, BLOCK, at.speed)
        clip.want(round(max(0.0, place) * RATE))
        return made if made is None or at.light >= 1 else np.asarray(made * np.float32(at.light), np.float32)

    def _given(self, id: str, given: Given, moment: float) -> Sound | None:
        if given.pattern is not None:
            self._sources.setdefault(id, _Source(given.pattern, None))
            return pattern_sound(given.pattern, round((moment - given.delay) * RATE), BLOCK, given.level)
        device = self._ins.get(_device_key(given))
        if device is None:
            return None
        reader = self._reader(id, device, device.ring.read, device.channels)
        made = reader.take((moment - LEAD - CAPTURED - BLOCK / RATE - given.delay) * RATE, BLOCK)
        return None if made is None else made[:, [c - 1 for c in given.channels]]

    def _reader(self, id: str, reads: object, read: Callable[[int, int], Sound | None], channels: int) -> Reader:
        kept = self._sources.get(id)
        if kept is None or kept.reads != reads or kept.reader is None:
            kept = self._sources[id] = _Source(reads, Reader(read, channels))
        assert kept.reader is not None
        return kept.reader

    # -- what it tells -------------------------------------------------------------------------------------------

    def told(self, measured: Mapping[str, Measured]) -> Told:
        """What is heard now, with what meters say."""
        faults = {f"sound:{d}": why for d, out in self._outs.items() if (why := out.fault) is not None}
        faults |= {f"sound:{k}": why for k, given in self._ins.items() if (why := given.fault) is not None}
        faults |= {f"sound:{p.name}": why for p, why in self._faults.items()}
        faults |= {
            f"sound:{p.name}": clip.fault
            for p, clip in self._clips.items()
            if clip is not None and clip.fault is not None
        }
        devices = {device: (out.serves, out.starved) for device, out in self._outs.items()}
        return Told(dict(measured), dict(self._levels), devices, dict(self._behind), faults, self.block)


def _device_key(given: Given) -> str:
    return f"{given.device}/{max(given.channels)}"


def _close_opened(opening: Future[ClipSound]) -> None:
    if not opening.cancelled() and opening.exception() is None:
        opening.result().close()


class Measuring:
    """Measures what is mixed, many blocks at once where it is late."""

    def __init__(self) -> None:
        self._meters = Meters(())
        self.told: dict[str, Measured] = {}

    def hear(self, blocks: list[tuple[dict[str, Sound], dict[str, float]]], orders: Orders) -> None:
        """Measure these blocks."""
        mixes = tuple(mix for mix in blocks[-1][0] if mix != LISTEN)
        if mixes != self._meters.mixes:
            self._meters, self.told = self._meters.of(mixes), {}
        self._meters.turn(orders.scale)
        self._meters.points = orders.points
        if mixes:
            whole = [np.concatenate([b[0][m] for m in mixes], axis=1) for b in blocks if b[0].keys() >= set(mixes)]
            self._meters.hear(np.concatenate(whole), blocks[-1][1])
        self.told = {mix: self._meters.now(mix) for mix in mixes}

    def reset(self, mixes: frozenset[str]) -> None:
        """Set back what is measured over long."""
        for mix in mixes & set(self._meters.mixes):
            self._meters.reset(mix)
