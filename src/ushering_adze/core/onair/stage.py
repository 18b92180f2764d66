"""The stage: program and preview of the whole show, as one value.  Every action makes the next stage."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ushering_adze.core.onair.delta import reaches, surface_rects
from ushering_adze.core.onair.motion import Motion, Track, at_rest, carried_over, opening_motion, parts_of, recall
from ushering_adze.core.onair.state import Key, LayerState, State
from ushering_adze.core.show import KINDS, Preset, Show

ALL = "*"
"""Stands for every output, also those that an edit adds."""
BACK_STEPS = 50
RETURN = 0.5
"""Seconds in which what a hand fade had interrupted goes on to its end, when the lever is brought back."""


@dataclass(frozen=True)
class Stage:
    """What is on program, what is staged on preview, and the way back.

    ``on_program`` and ``staged`` are preset numbers; the motion is the truth, the numbers only name it.  ``black`` and ``held`` are ids of
    outputs, or `ALL`; ``kept`` are ids of surfaces that no take touches.
    """

    show: Show
    program: Motion
    on_program: int | None = None
    staged: int | None = None
    back: tuple[tuple[Motion, int | None], ...] = ()
    black: frozenset[str] = frozenset()
    held: frozenset[str] = frozenset()
    kept: frozenset[str] = frozenset()

    @classmethod
    def opened(cls, show: Show) -> Stage:
        """The stage as a show opens."""
        return cls(show, opening_motion(show), show.opening)

    def with_show(self, show: Show, now: float) -> Stage:
        """The same stage after an edit of the show: nothing on air changes but what the edit itself changed."""
        if show is self.show:
            return self
        motion = carried_over(show, self.program, now)
        staged = self.staged if self.staged is not None and show.preset(self.staged) else None
        return replace(self, show=show, program=motion, staged=staged)  # the way back is fitted to it when it is gone

    def preview(self) -> dict[Key, LayerState]:
        """What every layer will show once what is under way has settled and the staged preset is taken."""
        preset = self._allowed(self._staged_preset())
        settled = at_rest(self.program.target)
        return dict(recall(self.show, settled, preset, 0.0, cut=True).target if preset else settled.target)

    def _staged_preset(self) -> Preset | None:
        return None if self.staged is None else self.show.preset(self.staged)

    def stage(self, number: int | None) -> Stage:
        """Put a preset on preview; None clears it.  An unknown number changes nothing."""
        if number is not None and self.show.preset(number) is None:
            return self
        return replace(self, staged=number)

    # -- outputs and surfaces ------------------------------------------------------------------------------------

    def is_black(self, output: str) -> bool:
        """Whether an output sends black."""
        return ALL in self.black or output in self.black

    def is_held(self, output: str) -> bool:
        """Whether an output keeps its picture."""
        return ALL in self.held or output in self.held

    def _marked(self, marked: frozenset[str], on: bool, outputs: Iterable[str]) -> frozenset[str]:
        named = frozenset(outputs)
        if on:
            return frozenset({ALL}) if ALL in named else marked | named
        if ALL in named:
            return frozenset()
        return (frozenset(o.id for o in self.show.outputs) if ALL in marked else marked) - named

    def with_black(self, on: bool, outputs: Iterable[str]) -> Stage:
        """Outputs black, or lit again; `ALL` is all of them."""
        return replace(self, black=self._marked(self.black, on, outputs))

    def with_hold(self, on: bool, outputs: Iterable[str]) -> Stage:
        """Outputs held, or going on; `ALL` is all of them."""
        return replace(self, held=self._marked(self.held, on, outputs))

    def with_kept(self, surface: str, on: bool) -> Stage:
        """A surface kept from every take, or released."""
        return replace(self, kept=self.kept | {surface} if on else self.kept - {surface})

    def _shown_on(self, surfaces: Iterable[str], state: State) -> set[Key]:
        """The layers that lie within what any of these surfaces shows of its canvas, in a state."""
        found: set[Key] = set()
        for surface in surfaces:
            for canvas, rect in surface_rects(self.show, surface):
                for layer in canvas.layers:
                    here = state.get((canvas.id, layer.id))
                    if here is not None and here.opacity > 0 and reaches(here, rect):
                        found.add((canvas.id, layer.id))
        return found

    def _allowed(self, preset: Preset | None, only: Iterable[str] | None = None) -> Preset | None:
        """A preset without what may not be touched: layers that a kept surface shows, before or after; and all but those of ``only``."""
        if preset is None or (not self.kept and only is None):
            return preset
        before = self.program.target
        after = recall(self.show, at_rest(before), preset, 0.0, cut=True).target
        never = self._shown_on(self.kept, before) | self._shown_on(self.kept, after)
        chosen = None if only is None else self._shown_on(only, before) | self._shown_on(only, after)
        parts = [p for p in parts_of(self.show, preset)
                 if (p.canvas, p.layer) not in never and (chosen is None or (p.canvas, p.layer) in chosen)]
        return preset.model_copy(update={"parts": tuple(parts), "clears": ()})

    def _remember(self) -> tuple[tuple[Motion, int | None], ...]:
        return (*self.back[-BACK_STEPS + 1:], (at_rest(self.program.target), self.on_program))

    def recall(self, number: int, now: float, *, cut: bool = False, seconds: float | None = None,
               only: Iterable[str] | None = None) -> Stage:
        """Send program towards a preset at once; with ``only`` given, no more of it than these surfaces show.

        Then it stays staged, and program keeps its name: it is neither the one nor the other.
        """
        preset = self._allowed(self.show.preset(number), only)
        if preset is None:
            return self
        motion = recall(self.show, self.program, preset, now, cut=cut, seconds=seconds)
        if only is not None:
            return replace(self, program=motion.settled(now), back=self._remember())
        return replace(self, program=motion.settled(now), on_program=number, back=self._remember(),
                       staged=None if self.staged == number else self.staged)

    def take(self, now: float, *, cut: bool = False, seconds: float | None = None, only: Iterable[str] | None = None) -> Stage:
        """Send program towards what is on preview, in the preset's time, in ``seconds``, or at once; only what some surfaces show, if named."""
        if self.program.led_by_hand:
            return self._let_go(now, cut, seconds)
        return self if self.staged is None else self.recall(self.staged, now, cut=cut, seconds=seconds, only=only)

    def _let_go(self, now: float, cut: bool, seconds: float | None) -> Stage:
        """End a hand fade by the clock: what the hand led goes on to its end."""
        preset = self.show.preset(self.on_program) if self.on_program is not None else None
        rest = preset.model_copy(update={"parts": (), "clears": ()}) if preset else Preset(id="rest", number=1, name="rest")
        motion = recall(self.show, self.program, rest, now, cut=cut, seconds=seconds)
        return replace(self, program=motion.settled(now), staged=None if self.staged == self.on_program else self.staged)

    def hand(self, position: float, now: float) -> Stage:
        """Lead the fade to what is on preview by hand: 0 is before, 1 is done."""
        stage = self
        if not stage.program.led_by_hand:
            preset = stage._allowed(stage._staged_preset())
            if preset is None or position <= 0:
                return self
            motion = recall(stage.show, stage.program, preset, now, by_hand=True)
            if not motion.led_by_hand:
                return replace(stage, on_program=preset.number, staged=None)
            stage = replace(stage, program=motion, back=self._remember(), on_program=preset.number)
        moved = stage.program.with_hand(position)
        if position >= 1:
            done = moved.settled(now)
            return replace(stage, program=done, staged=None if stage.staged == stage.on_program else stage.staged)
        if position <= 0:
            return stage._handed_back(now)
        return replace(stage, program=moved)

    def _handed_back(self, now: float) -> Stage:
        """The lever is back where it began: nothing was recalled, and what it had interrupted goes on to its end."""
        former, number = carried_over(self.show, self.back[-1][0], now), self.back[-1][1]
        tracks = {}
        for (canvas, layer, kind), track in self.program.tracks.items():
            if not track.by_hand:
                tracks[canvas, layer, kind] = track
            elif (canvas, layer) in former.target and track.start_value != (end := getattr(former.target[canvas, layer], kind)):
                tracks[canvas, layer, kind] = Track(track.start_value, end, now, RETURN, "ease-in-out")
        staged = self.on_program if self.staged is None else self.staged
        return replace(self, program=Motion(former.target, tracks), on_program=number, staged=staged, back=self.back[:-1])

    def step_back(self, now: float, seconds: float | None = None) -> Stage:
        """Return program to what it was before the last action."""
        if not self.back:
            return self
        target, number = carried_over(self.show, self.back[-1][0], now).target, self.back[-1][1]
        if self.kept:
            never = self._shown_on(self.kept, self.program.target) | self._shown_on(self.kept, target)
            target = {key: self.program.target[key] if key in never and key in self.program.target else value for key, value in target.items()}
        return replace(self, program=_towards(self.program, target, now, RETURN if seconds is None else seconds),
                       on_program=number, back=self.back[:-1])


def _towards(motion: Motion, target: State, now: float, seconds: float) -> Motion:
    """Every setting on its way from where it is to ``target``."""
    current = motion.at(now)
    tracks = {}
    for key, state in target.items():
        for kind in KINDS:
            start, end = getattr(current[key], kind), getattr(state, kind)
            if start != end:
                tracks[key[0], key[1], kind] = Track(start, end, now, seconds, "ease-in-out")
    return Motion(dict(target), tracks)
