"""What whoever mixes sound is told, and what it tells: values that go from process to process."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.core.sound.levels import Sound
from ushering_adze.core.sound.metering import Measured
from ushering_adze.core.sound.mixing import Duck, Finish
from ushering_adze.core.sound.patterns import Pattern
from ushering_adze.io.media.live_sound import LiveTiming


class Place(NamedTuple):
    """Where the sound of a source is: ``seconds`` into its file at ``moment``, going on at ``speed`` from there.

    It has a file, or is live, or ``beeps``; ``light`` is how much of it is left where it fades at its end.  ``delay``
    is in seconds; of a live one ``shown`` is by how many its pictures are held back.
    """

    moment: float
    seconds: float = 0.0
    speed: float = 0.0
    path: Path | None = None
    beeps: bool = False
    live: bool = False
    loops: bool = True
    light: float = 1.0
    delay: float = 0.0
    shown: float = 0.0


class Given(NamedTuple):
    """A sound without a picture: channels of a device, or a test sound of a level."""

    device: str | None
    channels: tuple[int, ...]
    pattern: Pattern | None
    level: float
    delay: float = 0.0


class LivePart(NamedTuple):
    """What has come of a live signal since it was told last."""

    start: int
    sound: Sound
    timing: LiveTiming
    dialogue: int | None = None


class Orders(NamedTuple):
    """All that is to be heard: factors by mix and source, where sources are, which files may be wanted soon, and the
    ways out of mixes: device, channel of the left, channel of the right.

    ``ducks`` are those who have others get less, and whom; None for all others.
    """

    matrix: Mapping[str, Mapping[str, float]]
    places: Mapping[str, Place]
    files: frozenset[Path]
    given: Mapping[str, Given]
    finishes: Mapping[str, Finish]
    ways: Mapping[str, tuple[str | None, int, int]]
    ducks: tuple[tuple[Duck, str | None], ...] = ()
    listened: bool = False
    """Whether the operator chose what to hear: then that gives way to nothing."""
    calls: bool = False
    """Whether the operator is called: something is wrong that nobody knows of."""
    live: Mapping[str, LivePart] = {}
    taps: frozenset[str] = frozenset()
    scale: Scale = "ppm1"
    points: bool = False
    resets: frozenset[str] = frozenset()
    metered: frozenset[str] = frozenset()
    """Sources that are measured though nobody may hear them."""


class SourceLevel(NamedTuple):
    """The largest sample of a source lately, in dBFS, how long it is silent, in seconds, the level of dialogue that
    it says it has, in LKFS, and the largest samples of its channels, in dBFS.
    """

    peak: float
    silent: float
    dialogue: int | None = None
    channels: tuple[float, ...] = ()


class Told(NamedTuple):
    """What is heard: measured by mix, levels of sources, how devices go (whether each plays, and how often it starved),
    by how many seconds live sounds come after their pictures, and what is wrong.
    """

    measured: Mapping[str, Measured] = {}
    levels: Mapping[str, SourceLevel] = {}
    devices: Mapping[str, tuple[bool, int]] = {}
    behind: Mapping[str, float] = {}
    faults: Mapping[str, str] = {}
    block: int = 0
