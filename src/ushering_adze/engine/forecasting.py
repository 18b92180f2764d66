"""Of presets, how much of a frame's time they will want: worked out one after another, beside the frames."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ushering_adze.core.onair.delta import SeenThrough
from ushering_adze.core.onair.motion import at_rest, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.forecast import Known, Small, Work, dearest, seconds_of, shown_small, work_of
from ushering_adze.core.picture.layers import State
from ushering_adze.core.picture.steps import OutputPlan
from ushering_adze.core.show import Clip, Clock, Countdown, Input, Parts, Playlist, Preset, Show, Source
from ushering_adze.engine.gauge import measured_rates
from ushering_adze.io.priority import give_way

MOVING = (Clip, Input, Playlist, Parts, Clock, Countdown)
"""Sources that give new pictures by themselves all the time."""
MOMENTS = (0.2, 0.5, 0.8)
"""Of a recall, when it is looked at on its way."""
USUAL = (1920, 1080)
"""Size of a picture of which nothing is known yet."""
LEARN = 0.1
"""By how much one comparison with what frames truly take counts."""
STEADY = 4.0
"""Seconds for which a picture must have been on air before it is compared."""
SPARING = 2.0
"""Seconds from one forecast to the next while frames are late."""
MOST_BESIDE = 0.3
"""Of a frame's time, the most that what is done beside its pixels is believed to take."""


@dataclass(frozen=True)
class Forecast:
    """What a preset will want: shares of a frame's time, 1 being all of it.

    ``rest`` once it is there, ``way`` the most while it comes from what is on air; ``dearest`` is in words what most of
    it goes into, ``small`` the moving pictures that are shown far under their size.
    """

    rest: float
    way: float
    dearest: str = ""
    small: tuple[Small, ...] = ()

    @property
    def most(self) -> float:
        """At any moment."""
        return max(self.rest, self.way)


Forecasts = Mapping[int, Forecast]


@dataclass
class _Kept:
    """What was worked out for a preset, and from what."""

    preset: Preset
    target: State
    known: Mapping[str, Known]
    rest: Work
    ways: tuple[Work, ...]
    small: tuple[Small, ...]
    at: float


class Running(NamedTuple):
    """The running show at a moment, as far as it says what frames cost: ``seconds`` is what they take lately."""

    stage: Stage
    now: float
    known: Mapping[str, Known]
    plans: Mapping[str, OutputPlan]
    seconds: float

    @property
    def target(self) -> State:
        """Where program is heading."""
        return self.stage.program.target

    def work(self, state: State, before: State | None = None) -> Work:
        """What a frame costs that shows a state."""
        return work_of(self.stage.show, state, self.known, self.plans, before)


def known_of(show: Show, sizes: Mapping[str, tuple[int, int]], seen_through: SeenThrough) -> dict[str, Known]:
    """What is known of every source, by its pictures where it has any, else by what it is said to be."""
    return {s.id: Known(*_size(s, sizes), not seen_through(s.id), isinstance(s, MOVING)) for s in show.sources}


def _size(source: Source, sizes: Mapping[str, tuple[int, int]]) -> tuple[int, int]:
    width, height = getattr(source, "width", None), getattr(source, "height", None)
    return sizes.get(source.id) or ((int(width), int(height)) if width and height else USUAL)


class Forecasting:
    """Works forecasts out, one with each report.

    Parameters
    ----------
    rates : callable
        Measures seconds of a pixel by operation; called once, in a thread that gives way.
    """

    def __init__(self, rates: Callable[[], Mapping[str, float]] = measured_rates) -> None:
        self._measure = rates
        self._rates: Mapping[str, float] | None = None
        self._begun = False
        self._kept: dict[int, _Kept] = {}
        self._show: Show | None = None
        self._on_air: tuple[State, Work] | None = None
        self._steady_since = 0.0
        self._worked_at = float("-inf")
        self.beside = 0.0
        """Seconds that frames truly take beside what their pixels are said to take."""

    def begin(self) -> None:
        """Measure this machine, once, beside everything else."""
        if self._begun:
            return
        self._begun = True

        def run() -> None:
            give_way()
            self._rates = dict(self._measure())

        threading.Thread(target=run, name="gauge", daemon=True).start()

    def refreshed(self, running: Running, hurried: bool) -> Forecasts:
        """The forecasts there are by now, of which one may be new; few are while frames are ``hurried``."""
        if self._rates is None:
            return {}
        show = running.stage.show
        if self._show is not show:
            self._show, self._on_air = show, None
            presets = {p.number: p for p in show.presets}
            self._kept = {n: kept for n, kept in self._kept.items() if presets.get(n) is kept.preset}
        self._learn(running)
        if not hurried or running.now - self._worked_at > SPARING:
            old = [p for p in show.presets if not self._holds(p, running)]
            if old:
                oldest = min(old, key=self._age)
                self._worked_at = running.now
                self._kept[oldest.number] = self._worked(running, oldest)
        frame = 1 / show.rate
        return {n: self._told(kept, frame) for n, kept in self._kept.items()}

    def _holds(self, preset: Preset, running: Running) -> bool:
        """Whether what was worked out for a preset still holds."""
        kept = self._kept.get(preset.number)
        return (
            kept is not None and kept.preset is preset and kept.target is running.target and kept.known == running.known
        )

    def _age(self, preset: Preset) -> float:
        kept = self._kept.get(preset.number)
        return float("-inf") if kept is None else kept.at

    def _told(self, kept: _Kept, frame: float) -> Forecast:
        rates = self._rates or {}

        def share(work: Work) -> float:
            return (self.beside + seconds_of(work, rates)) / frame if work else 0.0

        most = max((kept.rest, *kept.ways), key=share)
        way = max((share(work) for work in kept.ways), default=0.0)
        return Forecast(share(kept.rest), way, dearest(most, rates), kept.small)

    @staticmethod
    def _worked(running: Running, preset: Preset) -> _Kept:
        show = running.stage.show
        motion = recall(show, at_rest(running.target), preset, 0.0)
        longest = max((t.start + t.seconds for t in motion.tracks.values()), default=0.0)
        step = 1 / show.rate
        moments = [share * longest for share in MOMENTS] if longest > 0 else []
        ways = tuple(running.work(motion.at(t), motion.at(max(0.0, t - step))) for t in moments)
        small = shown_small(show, motion.target, running.known)
        return _Kept(preset, running.target, running.known, running.work(motion.target), ways, small, running.now)

    def _learn(self, running: Running) -> None:
        """Compare what is on air, once it has been there for a while, with what its frames truly take."""
        stage, target = running.stage, running.target
        if stage.program.tracks or stage.black or stage.held:
            self._on_air = None
            return
        if self._on_air is None or self._on_air[0] is not target:
            self._on_air = target, running.work(target)
            self._steady_since = running.now
        work = self._on_air[1]
        if running.now - self._steady_since < STEADY or not work or running.seconds <= 0:
            return
        beside = running.seconds - seconds_of(work, self._rates or {})
        self.beside += LEARN * (min(MOST_BESIDE / stage.show.rate, max(0.0, beside)) - self.beside)
