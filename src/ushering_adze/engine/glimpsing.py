"""Small pictures of what presets would show, for cards and comparisons: one preset after another, beside the frames."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.view import View, state_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import State
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Preset, Show
from ushering_adze.engine.pictures import PreviewPictures

FEW = 2
"""So many presets are looked at closely: their pictures are made anew with every report."""
EVERY = 0.3
"""Seconds from one picture to the next where there are more."""
SPARING = 3
"""How many times as long that is while frames are late."""
SMALL = 256
"""Pixels along the longest side of the largest canvas, for cards."""

Glimpses = Mapping[int, Mapping[str, Pixels]]
"""By preset and by surface."""


class Glimpsing:
    """Makes the pictures of the presets that are wanted, the one that has waited longest first."""

    def __init__(self) -> None:
        self._asked: dict[str, tuple[int, ...]] = {}
        self._pictures: dict[int, Mapping[str, Pixels]] = {}
        self._made: dict[int, tuple[Preset, float]] = {}
        self._painter: tuple[Show, int | None, PreviewPictures] | None = None
        self._last = float("-inf")

    def ask(self, by: str, numbers: tuple[int, ...]) -> None:
        """Somebody wants pictures of these presets from now on, and of none others."""
        self._asked = {**{who: n for who, n in self._asked.items() if who != by}, **({by: numbers} if numbers else {})}

    def refreshed(
        self, stage: Stage, now: float, frames: Callable[[State], dict[str, Frame]], hurried: bool
    ) -> Glimpses:
        """The pictures there are by now; one of them is new, every few reports while the show is ``hurried``."""
        wanted = dict.fromkeys(n for numbers in self._asked.values() for n in numbers)
        presets = {n: p for n in wanted if (p := stage.show.preset(n)) is not None}
        for gone in self._pictures.keys() - presets.keys():
            del self._pictures[gone], self._made[gone]
        few = len(presets) <= FEW
        least = SPARING * EVERY if hurried else 0.0 if few else EVERY
        if presets and now - self._last >= least:
            number = min(presets, key=lambda n: self._waited(n, presets[n]))
            state = state_of(stage, View("", "blind", number))
            surfaces = [s.id for s in stage.show.surfaces]
            self._pictures[number] = self._painter_of(stage.show, None if few else SMALL).draw(
                state, frames(state), surfaces
            )
            self._made[number] = presets[number], now
            self._last = now
        return dict(self._pictures)

    def _waited(self, number: int, preset: Preset) -> float:
        """When a preset had its picture; never, if it is another one since."""
        made = self._made.get(number)
        return made[1] if made is not None and made[0] is preset else float("-inf")

    def _painter_of(self, show: Show, longest: int | None) -> PreviewPictures:
        if self._painter is None or self._painter[0] is not show or self._painter[1] != longest:
            made = PreviewPictures(show) if longest is None else PreviewPictures(show, longest)
            self._painter = show, longest, made
        return self._painter[2]
