"""Where the sound of sources is: which file and where in it, or which live signal."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ushering_adze.core.show import Clip, Input, PatternSource, Playlist
from ushering_adze.core.sound.metering import Measured
from ushering_adze.engine.slot import Slot
from ushering_adze.io.media.live import LivePlayer
from ushering_adze.io.media.live_sound import LiveSound
from ushering_adze.io.media.playlist import PlaylistPlayer
from ushering_adze.io.sound.orders import SourceLevel


class SoundAt(NamedTuple):
    """Where the sound of a source is at a moment of the stage's clock.

    ``path`` is its file, or ``live`` its signal, or ``beeps`` says that it flashes; ``seconds`` is its place in the
    file at ``moment``, ``speed`` how fast it goes on from there, 0 if it stands.  ``light`` is how much of it is left
    where it fades at its end.
    """

    moment: float
    seconds: float = 0.0
    speed: float = 0.0
    path: Path | None = None
    live: LiveSound | None = None
    beeps: bool = False
    loops: bool = True
    light: float = 1.0


class MixReport(NamedTuple):
    """A mix as it is measured, and how its device goes."""

    mix: str
    name: str
    measured: Measured
    device: str | None = None
    plays: bool = False
    starved: int = 0


class SoundReport(NamedTuple):
    """All that is heard: mixes, sources, what the operator listens to, and by how many seconds live sounds are late."""

    mixes: tuple[MixReport, ...] = ()
    sources: Mapping[str, SourceLevel] = {}
    listening: str | None = None
    behind: Mapping[str, float] = {}
    muted: frozenset[str] = frozenset()
    audible: frozenset[str] = frozenset()
    """Sources that are let into a mix."""


def sound_at(slot: Slot, speed: float, looping: bool) -> SoundAt | None:
    """Where the sound of a source is, as of the last frame; None if it has none.

    Parameters
    ----------
    slot : Slot
    speed : float
        At which its player runs.
    looping : bool
    """
    source, player = slot.source, slot.player
    if player is None or player.fault is not None:
        return None
    match source:
        case Clip():
            going = speed if slot.place.past is None else 0.0
            whole = looping and source.begin == 0 and source.stop is None
            return SoundAt(slot.now, slot.place.seconds, going, Path(source.path), loops=whole, light=slot.place.light)
        case Playlist() if isinstance(player, PlaylistPlayer):
            found = player.sounds(slot.clock)
            if found is None:
                return None
            return SoundAt(slot.now, found[1], speed, found[0], loops=found[2])
        case PatternSource(pattern="flash"):
            return SoundAt(slot.now, slot.clock, speed, beeps=True)
        case Input() if isinstance(player, LivePlayer):
            return None if player.sound is None else SoundAt(slot.now, speed=1.0, live=player.sound)
        case Input(stand_in=str(path)):
            return SoundAt(slot.now, slot.clock, speed, Path(path), loops=looping)
    return None
