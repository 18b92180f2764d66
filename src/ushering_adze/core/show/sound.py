"""The sound of a show: mixes, how loud sources are in them, sounds without a picture, and what gives way to what."""

from __future__ import annotations

from collections.abc import Iterator, Set
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Fault, Id, Model, Name
from ushering_adze.core.sound.mixing import Duck
from ushering_adze.core.sound.patterns import Pattern

Level = Annotated[float, Field(ge=-120, le=12, description="dB; −120 is silent")]
Milliseconds = Annotated[float, Field(ge=0, le=5000)]
LISTEN = "listen"
"""The mix that the operator hears; every show has it."""


class Mix(Model):
    """A mix: it hears the sources that are seen on its ``surfaces`` (on any, if it names none), and goes to two
    channels of a device.

    ``device`` is none (null), the machine's usual one ("default"), or one by its name.
    """

    id: Id
    name: Name
    level: Level = 0.0
    mute: bool = False
    surfaces: Annotated[tuple[Id, ...], Field(description="whose sources it hears; empty: any")] = ()
    delay: Annotated[Milliseconds, Field(description="ms, for the way of pictures to their displays")] = 0.0
    low_cut: Annotated[float, Field(ge=0, le=400, description="hertz; 0: none")] = 0.0
    most: Annotated[float, Field(ge=-20, le=0, description="true peak of its limiter, dBTP")] = -1.0
    target: Annotated[float, Field(ge=-40, le=-5, description="loudness it should have, LUFS")] = -23.0
    device: Annotated[str | None, Field(max_length=200)] = None
    left: Annotated[int, Field(ge=1, le=64, description="channel of the device")] = 1
    right: Annotated[int, Field(ge=1, le=64, description="channel of the device")] = 2


How = Literal["picture", "always", "never"]


class Send(Model):
    """How loud a source is in one mix, beside its level, and when it is heard there: as it is everywhere, if null."""

    mix: Id
    level: Level = 0.0
    mute: bool = False
    heard: How | None = None


class SourceSound(Model):
    """How a source is heard: with its picture, always, or never."""

    of: Id
    level: Level = 0.0
    mute: bool = False
    heard: How = "picture"
    delay: Milliseconds = 0.0
    sends: Annotated[tuple[Send, ...], Field(description="where it differs from mix to mix")] = ()

    def heard_in(self, mix: str) -> How:
        """When it is heard in a mix.

        Examples
        --------
        >>> one = SourceSound(of="camera", heard="never", sends=(Send(mix="hall", heard="picture"),))
        >>> one.heard_in("hall"), one.heard_in("foyer")
        ('picture', 'never')
        """
        return next((s.heard for s in self.sends if s.mix == mix and s.heard is not None), self.heard)


class SoundInput(Model):
    """A sound without a picture: channels of a capture device, or a test sound; heard with the picture of a source, if
    it names one.
    """

    id: Id
    name: Name
    device: Annotated[str | None, Field(max_length=200, description='a device\'s name, or "default"')] = None
    channels: Annotated[tuple[Annotated[int, Field(ge=1, le=64)], ...], Field(max_length=16)] = (1, 2)
    pattern: Pattern | None = None
    level: Annotated[float, Field(ge=-60, le=0, description="of a test sound, dBFS")] = -18.0
    beside: Annotated[Id | None, Field(description="a source with whose picture it is heard")] = None


class Ducked(Model):
    """While ``by`` is heard in a mix, ``of`` has less there; everything else has, if it names none."""

    by: Id
    of: Id | None = None
    depth: Annotated[float, Field(ge=0, le=60, description="dB")] = 12.0
    above: Annotated[float, Field(ge=-80, le=0, description="dBFS from which it counts")] = -40.0
    attack: Annotated[float, Field(ge=0.005, le=10)] = 0.1
    hold: Annotated[float, Field(ge=0, le=10)] = 0.8
    release: Annotated[float, Field(ge=0.005, le=20)] = 1.2

    @property
    def duck(self) -> Duck:
        """The same for mixing."""
        return Duck(self.by, self.depth, self.above, self.attack, self.hold, self.release)


class Listen(Model):
    """What the operator hears: through which device, how loud, and of which mix while nothing is chosen."""

    device: Annotated[str | None, Field(max_length=200)] = None
    level: Level = -6.0
    left: Annotated[int, Field(ge=1, le=64)] = 1
    right: Annotated[int, Field(ge=1, le=64)] = 2
    otherwise: Annotated[Id | None, Field(description="a mix; null: silence")] = None


class ShowSound(Model):
    """All that is heard."""

    mixes: tuple[Mix, ...] = ()
    sources: tuple[SourceSound, ...] = ()
    inputs: tuple[SoundInput, ...] = ()
    ducks: tuple[Ducked, ...] = ()
    black_mutes: Annotated[bool, Field(description="Black all makes silent, too")] = False
    listen: Listen = Listen()

    @cached_property
    def always(self) -> frozenset[str]:
        """Sources that are heard in any mix, whether they are seen or not."""
        return frozenset(
            s.of for s in self.sources if s.heard == "always" or any(send.heard == "always" for send in s.sends)
        )

    def of(self, source: str) -> SourceSound:
        """How a source is heard."""
        return next((s for s in self.sources if s.of == source), SourceSound(of=source))

    def mix(self, id: str) -> Mix | None:
        """The mix with this id."""
        return next((m for m in self.mixes if m.id == id), None)


def sound_without(sound: ShowSound, source: str | None = None, surface: str | None = None) -> ShowSound:
    """Sound without what is said of a source, or of a surface, that goes.

    Parameters
    ----------
    sound : ShowSound
    source, surface : str, optional
        Ids.
    """
    return sound.model_copy(
        update={
            "sources": tuple(s for s in sound.sources if s.of != source),
            "ducks": tuple(d for d in sound.ducks if source is None or source not in (d.by, d.of)),
            "inputs": tuple(
                s.model_copy(update={"beside": None}) if source is not None and s.beside == source else s
                for s in sound.inputs
            ),
            "mixes": tuple(
                m.model_copy(update={"surfaces": tuple(s for s in m.surfaces if s != surface)}) for m in sound.mixes
            ),
        }
    )


def sound_faults(sound: ShowSound, sources: Set[str]) -> Iterator[Fault]:
    """What is wrong with a show's sound: ids used twice, and mixes that are not there.

    A source or surface that is not there is not heard; that it is named is no fault.

    Parameters
    ----------
    sound : ShowSound
    sources : set of str
        Ids that there are.
    """
    mixes = {m.id for m in sound.mixes}
    seen: set[str] = {LISTEN}
    for n, mix in enumerate(sound.mixes):
        if mix.id in seen:
            yield Fault(f"sound.mixes[{n}].id", f'id "{mix.id}" is already used; give each mix its own')
        seen.add(mix.id)
    known = set(sources)
    for n, given in enumerate(sound.inputs):
        where = f"sound.inputs[{n}]"
        if given.id in known:
            yield Fault(f"{where}.id", f'id "{given.id}" is already used by a source or a sound; give it its own')
        known.add(given.id)
        if (given.device is None) == (given.pattern is None):
            yield Fault(where, f"{given.name} has a device or a test sound; give it one of the two")
        if given.beside is not None and given.beside not in sources:
            yield Fault(f"{where}.beside", f'there is no source "{given.beside}"; name one of the show')
    told: set[str] = set()
    for n, one in enumerate(sound.sources):
        if one.of in told:
            yield Fault(f"sound.sources[{n}].of", f'"{one.of}" has its levels already; keep one of the two')
        told.add(one.of)
        for m, send in enumerate(one.sends):
            if send.mix not in mixes:
                yield Fault(f"sound.sources[{n}].sends[{m}].mix", f'there is no mix "{send.mix}"; name one of the show')
    for n, duck in enumerate(sound.ducks):
        if duck.by == duck.of:
            yield Fault(f"sound.ducks[{n}]", "a source cannot give way to itself; name another one")
    if sound.listen.otherwise is not None and sound.listen.otherwise not in mixes:
        yield Fault("sound.listen.otherwise", f'there is no mix "{sound.listen.otherwise}"; name one of the show')
