"""Of presets, how much of a frame's time they will want: worked out one after another, beside the frames."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ushering_adze.core.onair.motion import Motion, at_rest, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.forecast import Known, Small, Work, dearest, seconds_of, shown_small, work_of
from ushering_adze.core.picture.layers import State
from ushering_adze.core.picture.steps import OutputPlan
from ushering_adze.core.show import (
    Clip,
    Clock,
    ColourSource,
    Countdown,
    Folder,
    Input,
    Parts,
    PatternSource,
    Playlist,
    Preset,
    Show,
    Source,
)
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
    known: tuple[tuple[str, Known], ...]
    rest: Work
    ways: tuple[Work, ...]
    small: tuple[Small, ...]
    at: float


def known_of(show: Show, sizes: Mapping[str, tuple[int, int]], opaque: Mapping[str, bool]) -> dict[str, Known]:
    """What is known of every source, by its pictures where it has any, else by what it is said to be."""
    return {s.id: _known(s, sizes.get(s.id), opaque.get(s.id)) for s in show.sources}


def _known(source: Source, size: tuple[int, int] | None, opaque: bool | None) -> Known:
    if size is None:
        width, height = getattr(source, "width", None), getattr(source, "height", None)
        size = (int(width), int(height)) if width and height else USUAL
    if opaque is None:
        opaque = isinstance(source, (Clip, Input, Playlist, Parts, PatternSource, ColourSource, Folder))
    return Known(*size, opaque and source.picture.key is None, isinstance(source, MOVING))


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

    def refreshed(
        self,
        stage: Stage,
        now: float,
        known: Mapping[str, Known],
        plans: Mapping[str, OutputPlan],
        seconds: float,
        hurried: bool,
    ) -> Forecasts:
        """The forecasts there are by now, of which one may be new; ``seconds`` is what frames take lately, and while
        they are ``hurried`` little is worked out.
        """
        if self._rates is None:
            return {}
        show = stage.show
        if self._show is not show:
            self._show, self._on_air = show, None
            presets = {p.number: p for p in show.presets}
            self._kept = {n: kept for n, kept in self._kept.items() if presets.get(n) is kept.preset}
        self._learn(stage, now, known, plans, seconds)
        if not hurried or now - self._worked_at > SPARING:
            seen, target = tuple(known.items()), stage.program.target
            old = [p for p in show.presets if not self._holds(p, target, seen)]
            if old:
                oldest = min(old, key=self._age)
                self._worked_at = now
                self._kept[oldest.number] = self._worked(show, target, oldest, known, plans, now)
        frame = 1 / show.rate
        return {n: self._told(kept, frame) for n, kept in self._kept.items()}

    def _holds(self, preset: Preset, target: State, known: tuple[tuple[str, Known], ...]) -> bool:
        """Whether what was worked out for a preset still holds."""
        kept = self._kept.get(preset.number)
        return kept is not None and kept.preset is preset and kept.target is target and kept.known == known

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

    def _worked(
        self,
        show: Show,
        target: State,
        preset: Preset,
        known: Mapping[str, Known],
        plans: Mapping[str, OutputPlan],
        now: float,
    ) -> _Kept:
        motion = recall(show, at_rest(target), preset, 0.0)
        rest = work_of(show, motion.target, known, plans)
        ways = tuple(self._on_its_way(show, motion, known, plans))
        small = shown_small(show, motion.target, known)
        return _Kept(preset, target, tuple(known.items()), rest, ways, small, now)

    @staticmethod
    def _on_its_way(
        show: Show, motion: Motion, known: Mapping[str, Known], plans: Mapping[str, OutputPlan]
    ) -> list[Work]:
        longest = max((t.start + t.seconds for t in motion.tracks.values()), default=0.0)
        if longest <= 0:
            return []
        step = 1 / show.rate
        return [
            work_of(show, motion.at(share * longest), known, plans, motion.at(max(0.0, share * longest - step)))
            for share in MOMENTS
        ]

    def _learn(
        self,
        stage: Stage,
        now: float,
        known: Mapping[str, Known],
        plans: Mapping[str, OutputPlan],
        seconds: float,
    ) -> None:
        """Compare what is on air, once it has been there for a while, with what its frames truly take."""
        target = stage.program.target
        if stage.program.tracks or stage.black or stage.held:
            self._on_air = None
            return
        if self._on_air is None or self._on_air[0] is not target:
            self._on_air = target, work_of(stage.show, target, known, plans)
            self._steady_since = now
        work = self._on_air[1]
        if now - self._steady_since < 4.0 or not work or seconds <= 0:
            return
        beside = seconds - seconds_of(work, self._rates or {})
        self.beside += LEARN * (min(MOST_BESIDE / stage.show.rate, max(0.0, beside)) - self.beside)
