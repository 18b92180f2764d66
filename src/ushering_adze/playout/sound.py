"""The sound of the running show: sources read where their pictures are, mixed, measured, and sent out."""

from __future__ import annotations

import queue
import threading
from collections.abc import Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

import numpy as np

from ushering_adze.core.onair.hearing import Heard, finishes, heard, seen_by_mix
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.show import Show
from ushering_adze.core.show.sound import LISTEN, ShowSound
from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.core.sound.following import Reader
from ushering_adze.core.sound.levels import RATE, Sound, decibels, silence
from ushering_adze.core.sound.metering import Measured, Meters
from ushering_adze.core.sound.mixing import Ducking, Mixer, rms
from ushering_adze.core.sound.patterns import pattern_sound
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.sounding import MixReport, SoundAt, SoundReport, SourceLevel
from ushering_adze.io.logs import log
from ushering_adze.io.media.ring import SoundRing
from ushering_adze.io.media.still import MediaError
from ushering_adze.io.priority import give_way
from ushering_adze.io.sound.clip import ClipSound
from ushering_adze.io.sound.devices import DeviceIn, DeviceOut

BLOCK = 1024
"""Samples that are mixed at a time: 21 ms."""
LEAD = 0.09
"""Seconds by which they are mixed before they are heard."""
LOST = 1.0
"""Seconds behind from which what should have been mixed is passed over."""
LOOK = 8
"""Blocks from one look at what should be open to the next."""
MOST_AT_ONCE = 16
"""Blocks that are measured at once, at most."""
CAPTURED = 0.03
"""Seconds behind the newest at which what a device captures is read, beside the lead."""


class _Source:
    """A source that is read: by what, and how it was read last."""

    def __init__(self, reads: object, reader: Reader | None) -> None:
        self.reads, self.reader = reads, reader
        self.peak, self.silent = 0.0, 0.0


class SoundRunner:
    """Mixes the sound of a show, in a thread of its own, by the clock of its frames.

    Parameters
    ----------
    engine : Engine
    devices : bool
        Whether devices are opened; else time is kept, and feeds have their sound, all the same.
    """

    def __init__(self, engine: Engine, devices: bool = True) -> None:
        self._engine, self._with_devices = engine, devices
        self._clock = engine.clock
        self._mixer = Mixer()
        self._zero = 0.0
        self.block = 0
        """The number of the block that is mixed next."""
        self._clips: dict[Path, ClipSound | None] = {}
        self._opening: dict[Path, Future[ClipSound]] = {}
        self._faults: dict[str, str] = {}
        self._openers = ThreadPoolExecutor(1, "open sound")
        self._sources: dict[str, _Source] = {}
        self._ducking: dict[int, Ducking] = {}
        self._outs: dict[str, DeviceOut] = {}
        self._ins: dict[str, DeviceIn] = {}
        self._taps: dict[str, SoundRing] = {}
        self._seen: tuple[object, Heard] | None = None
        self.listening: str | None = None
        """What the operator listens to: a source, a sound, a mix; None for what is heard otherwise."""
        self.scale: Scale = "ppm1"
        self.points = False
        """Whether somebody looks at pointers of meters."""
        self._meters = Meters(())
        self._told: dict[str, Measured] = {}
        self._levels: dict[str, SourceLevel] = {}
        self._behind: dict[str, float] = {}
        self._delays: dict[str, float] = {}
        self._queue: queue.SimpleQueue[tuple[dict[str, Sound], dict[str, float]] | None] = queue.SimpleQueue()
        self._closing = threading.Event()
        self._resets: set[str] = set()
        self._failing: str | None = None
        self._mixing = threading.Thread(target=self._run, name="sound", daemon=True)
        self._measuring = threading.Thread(target=self._measure, name="meters", daemon=True)

    # -- running -------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Begin."""
        self._mixing.start()
        self._measuring.start()

    def close(self) -> None:
        """End."""
        self._closing.set()
        self._queue.put(None)
        for thread in (self._mixing, self._measuring):
            if thread.is_alive():
                thread.join(2)
        self._openers.shutdown(wait=False, cancel_futures=True)
        for clip in self._clips.values():
            if clip is not None:
                clip.close()
        apart = [*self._outs.values(), *self._ins.values()]
        for device in apart:
            device.close()
        for device in apart:
            device.join(2)

    def _run(self) -> None:
        self._zero = self._clock()
        while not self._closing.is_set():
            due = self._zero + self.block * BLOCK / RATE - LEAD
            now = self._clock()
            if now < due:
                self._closing.wait(due - now)
                continue
            if now - due > LOST:
                self.block = int((now + LEAD - self._zero) * RATE / BLOCK)
            try:
                self.mix_block()
                self._failing = None
            except Exception as error:
                log.exception("sound could not be mixed")
                self._failing = f"it cannot be mixed ({type(error).__name__}) and is silent; undo the last edit of it"
                self.block += 1

    # -- one block -----------------------------------------------------------------------------------------------

    @property
    def moment(self) -> float:
        """When the first sample of the next block is to be heard, by the clock of frames."""
        return self._zero + self.block * BLOCK / RATE

    def mix_block(self) -> dict[str, Sound]:
        """Mix the next block, and send it to whoever takes it."""
        stage = self._engine.stage
        moment, start = self.moment, self.block * BLOCK
        if not stage.show.sound.mixes and self.listening is None and not self._sources:
            if self.block % LOOK == 0:
                self._look(stage)
            self.block += 1
            return {}
        if self.block % LOOK == 0:
            self._look(stage)
        matrix = self._matrix(stage, moment)
        places = self._engine.sounds()
        wanted = set().union(*(gains.keys() for gains in matrix.values())) | set(self._sources)
        sound = stage.show.sound
        ducks = {d.by for d in sound.ducks}
        blocks: dict[str, Sound] = {}
        audible = set().union(*(gains.keys() for gains in matrix.values()))
        for id in wanted | ducks:
            made = self._block(sound, id, places.get(id), moment)
            source = self._sources.get(id)
            if made is not None:
                blocks[id] = made
            if source is not None:
                high = 0.0 if made is None else float(np.abs(made).max(initial=0.0))
                source.peak = max(high, source.peak * 0.85)
                source.silent = 0.0 if decibels(high) > -60 else source.silent + BLOCK / RATE
                self._levels[id] = SourceLevel(decibels(source.peak), source.silent)
                if made is None and id not in audible:
                    self._sources.pop(id)
                    self._levels.pop(id, None)
        self._duck(sound, matrix, blocks)
        mixed = self._mixer.mix(blocks, matrix, finishes(stage.show), BLOCK)
        for mix, ring in list(self._taps.items()):
            ring.put(start, mixed.sound.get(mix, silence(BLOCK)))
        self._send(sound, start, mixed.sound)
        self._queue.put((mixed.sound, mixed.reduction))
        self.block += 1
        return mixed.sound

    def _matrix(self, stage: Stage, moment: float) -> Heard:
        moving = stage.program.moving(moment)
        key = (stage.program, stage.show)
        if moving or self._seen is None or self._seen[0] != key:
            state = stage.program.at(moment)
            seen = seen_by_mix(stage.show, state, self._engine.seen_through(stage.show))
            self._seen = None if moving else (key, seen)
        else:
            state, seen = {}, self._seen[1]
        instead = {id: o.source for id, o in stage.overrides.items()}
        return heard(stage, state, self.listening, seen, instead)

    def _duck(self, sound: ShowSound, matrix: Heard, blocks: Mapping[str, Sound]) -> None:
        for n, ducked in enumerate(sound.ducks):
            ducking = self._ducking.get(n)
            if ducking is None or ducking.duck != ducked.duck:
                ducking = self._ducking[n] = Ducking(ducked.duck)
            loud = blocks.get(ducked.by)
            audible = max((g.get(ducked.by, 0.0) for mix, g in matrix.items() if mix != LISTEN), default=0.0)
            factor = ducking.factor(0.0 if loud is None else rms(loud) * audible, BLOCK / RATE)
            if factor < 1.0:
                for mix, gains in matrix.items():
                    if mix == LISTEN and self.listening is not None:
                        continue
                    for id in gains:
                        if id != ducked.by and ducked.of in (None, id):
                            gains[id] *= factor

    # -- sources -------------------------------------------------------------------------------------------------

    def _block(self, sound: ShowSound, id: str, at: SoundAt | None, moment: float) -> Sound | None:
        """What a source sounds like in the block that begins at a moment; None if it is silent."""
        late = sound.of(id).delay / 1000
        given = next((s for s in sound.inputs if s.id == id), None)
        if given is not None and given.pattern is not None:
            self._sources.setdefault(id, _Source(given, None))
            return pattern_sound(given.pattern, round((moment - late) * RATE), BLOCK, given.level)
        if given is not None:
            device = self._ins.get(f"{given.device}/{max(given.channels)}")
            if device is None:
                return None
            source = self._kept(id, device, device.ring)
            made = source.take((moment - LEAD - CAPTURED - BLOCK / RATE - late) * RATE, BLOCK)
            return None if made is None else made[:, [c - 1 for c in given.channels]]
        if at is None:
            kept = self._sources.get(id)
            return None if kept is None or kept.reader is None else kept.reader.take(None, BLOCK)
        if at.beeps:
            self._sources.setdefault(id, _Source("beeps", None))
            if at.speed <= 0:
                return None
            place = at.seconds + (moment - late - at.moment) * at.speed
            return pattern_sound("beep", round(place * RATE), BLOCK)
        if at.live is not None:
            source = self._kept(id, at.live, at.live.ring)
            ahead = LEAD + BLOCK / RATE
            delay = self._delays.get(id, 0.0)
            self._behind[id] = at.live.behind(ahead, delay + late)
            return source.take(at.live.place(moment, ahead, delay + late), BLOCK)
        clip = None if at.path is None else self._clips.get(at.path)
        if clip is None or not clip.channels:
            return None
        loops = at.loops
        kept = self._sources.get(id)
        if kept is None or kept.reads != (clip, loops) or kept.reader is None:
            kept = self._sources[id] = _Source(
                (clip, loops), Reader(lambda start, n: clip.read(start, n, loops), clip.channels)
            )
        assert kept.reader is not None
        place = at.seconds + (moment - late - at.moment) * at.speed
        made = kept.reader.take(place * RATE if at.speed > 0 else None, BLOCK, at.speed)
        clip.want(round(max(0.0, place) * RATE))
        return made if made is None or at.light >= 1 else np.asarray(made * np.float32(at.light), np.float32)

    def _kept(self, id: str, reads: object, ring: SoundRing) -> Reader:
        kept = self._sources.get(id)
        if kept is None or kept.reads is not reads or kept.reader is None:
            kept = self._sources[id] = _Source(reads, Reader(ring.read, ring.channels))
        assert kept.reader is not None
        return kept.reader

    def _look(self, stage: Stage) -> None:
        """Open what may be heard soon, and let go of what may not; the same with devices."""
        show = stage.show
        near = sources_of(stage.program.target) | (sources_of(stage.preview()) if stage.previewing else set())
        near |= {s for o in stage.overrides.values() if (s := o.source) is not None}
        by_hand = {s.of for s in show.sound.sources if s.heard == "always"}
        if self.listening is not None:
            by_hand |= {self.listening}
        known = {s.id for s in show.sources}
        self._engine.hear(frozenset(by_hand & known))
        near |= by_hand | {d.by for d in show.sound.ducks}
        quiet = not show.sound.mixes and self.listening is None
        places = self._engine.sounds()
        paths = {at.path for id, at in places.items() if id in show.leading_to(near & known)}
        paths = set() if quiet else paths - {None}
        for path in [p for p in self._clips if p not in paths]:
            gone = self._clips.pop(path)
            self._faults.pop(str(path), None)
            if gone is not None:
                gone.close()
        for path in [p for p in self._opening if p not in paths]:
            self._opening.pop(path).add_done_callback(_close_opened)
        for path in paths:
            if path is None or path in self._clips:
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
                    self._faults[str(path)] = str(error)
        self._delays = {
            s.id: (getattr(s, "delay", None) or 0) * show.frame_seconds for s in show.sources if s.id in places
        }
        self._follow_devices(show.sound)
        for id in [i for i in self._behind if i not in places]:
            del self._behind[id]

    # -- devices -------------------------------------------------------------------------------------------------

    def _follow_devices(self, sound: ShowSound) -> None:
        channels: dict[str, int] = {}
        for device, left, right in self._ways(sound).values():
            if device is not None:
                channels[device] = max(channels.get(device, 2), left, right)
        inputs: dict[str, tuple[str, int]] = {}
        for given in sound.inputs:
            if given.device is not None:
                inputs[f"{given.device}/{max(given.channels)}"] = given.device, max(given.channels)
        if not self._with_devices:
            return
        for device in [d for d, out in self._outs.items() if channels.get(d) != out.channels]:
            self._outs.pop(device).close()
        for device, count in channels.items():
            if device not in self._outs:
                self._outs[device] = DeviceOut(device, count, self._zero)
        for key in [k for k in self._ins if k not in inputs]:
            self._ins.pop(key).close()
        for key, (device, count) in inputs.items():
            if key not in self._ins:
                self._ins[key] = DeviceIn(device, count)

    @staticmethod
    def _ways(sound: ShowSound) -> dict[str, tuple[str | None, int, int]]:
        """Device and channels of every mix."""
        ways = {m.id: (m.device, m.left, m.right) for m in sound.mixes}
        return ways | {LISTEN: (sound.listen.device, sound.listen.left, sound.listen.right)}

    def _send(self, sound: ShowSound, start: int, mixed: Mapping[str, Sound]) -> None:
        if not self._outs:
            return
        made = {device: silence(BLOCK, out.channels) for device, out in self._outs.items()}
        for mix, (device, left, right) in self._ways(sound).items():
            if device in made and mix in mixed:
                made[device][:, left - 1] += mixed[mix][:, 0]
                made[device][:, right - 1] += mixed[mix][:, 1]
        for device, block in made.items():
            self._outs[device].put(start, np.clip(block, -1.0, 1.0))

    # -- taps ----------------------------------------------------------------------------------------------------

    def tap(self, mix: str) -> SoundRing:
        """The last seconds of a mix, from now on; places count samples from `zero`."""
        return self._taps.setdefault(mix, SoundRing(2))

    def heard_between(self, mix: str, begins: float, ends: float) -> Sound | None:
        """What is heard of a mix from one moment to another, by the clock of frames; None if nothing is."""
        first = round((begins - self._zero) * RATE)
        return self.tap(mix).read(first, max(0, round((ends - self._zero) * RATE) - first))

    @property
    def zero(self) -> float:
        """The moment of sample 0, by the clock of frames."""
        return self._zero

    # -- meters --------------------------------------------------------------------------------------------------

    def _measure(self) -> None:
        give_way(1)
        while not self._closing.is_set():
            given = [self._queue.get()]
            with suppress(queue.Empty):
                while len(given) < MOST_AT_ONCE:  # all that waits: many blocks at once take less time
                    given.append(self._queue.get_nowait())
            blocks = [g for g in given if g is not None]
            try:
                if blocks:
                    self._hear(blocks)
            except Exception:
                log.exception("sound could not be measured")

    def _hear(self, blocks: list[tuple[dict[str, Sound], dict[str, float]]]) -> None:
        mixes = tuple(mix for mix in blocks[-1][0] if mix != LISTEN)
        if mixes != self._meters.mixes:
            self._meters = self._meters.of(mixes)
            self._told = {}
        self._meters.turn(self.scale)
        self._meters.points = self.points
        resets, self._resets = self._resets, set()
        for mix in resets & set(mixes):
            self._meters.reset(mix)
        if not mixes:
            return
        whole = [np.concatenate([b[0][m] for m in mixes], axis=1) for b in blocks if b[0].keys() >= set(mixes)]
        self._meters.hear(np.concatenate(whole), blocks[-1][1])
        self._told = {mix: self._meters.now(mix) for mix in mixes}

    def reset(self, mix: str | None = None) -> None:
        """Set back what meters measure over long: of one mix, or of all."""
        self._resets |= set(self._meters.mixes) if mix is None else {mix}

    def report(self, show: Show, stage: Stage) -> SoundReport:
        """What is heard now."""
        mixes = []
        for mix in show.sound.mixes:
            out = self._outs.get(mix.device) if mix.device is not None else None
            measured = self._told.get(mix.id, Measured())
            plays = out is not None and out.serves
            mixes.append(MixReport(mix.id, mix.name, measured, mix.device, plays, 0 if out is None else out.starved))
        return SoundReport(tuple(mixes), dict(self._levels), self.listening, dict(self._behind), stage.muted)

    def faults(self) -> dict[str, str]:
        """What is wrong with sound, by the id of what it is of."""
        found = {} if self._failing is None else {"sound": self._failing}
        for device, out in list(self._outs.items()):
            if (why := out.fault) is not None:
                found[f"sound:{device}"] = why
        for key, given in list(self._ins.items()):
            if (why := given.fault) is not None:
                found[f"sound:{key}"] = why
        for path, clip in list(self._clips.items()):
            if clip is not None and clip.fault is not None:
                found[f"sound:{path.name}"] = clip.fault
        return found | {f"sound:{Path(p).name}": why for p, why in list(self._faults.items())}


def _close_opened(opening: Future[ClipSound]) -> None:
    if not opening.cancelled() and opening.exception() is None:
        opening.result().close()
