"""The stage: program and preview of the whole show, as one value.  Every action makes the next stage."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set
from dataclasses import dataclass, field, replace

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.onair.delta import layer_reaches
from ushering_adze.core.onair.heads import Head
from ushering_adze.core.onair.motion import Motion, Track, at_rest, carried_over, opening_motion, parts_of, recall
from ushering_adze.core.onair.overriding import Override, Overrides, overriding_sources
from ushering_adze.core.onair.playing import Players, Playing, fresh, played
from ushering_adze.core.picture.layers import Key, LayerState, State, sources_of_layer
from ushering_adze.core.picture.wearing import worn_in
from ushering_adze.core.show import Clip, Part, Preset, Show
from ushering_adze.core.show.laid import Laid

ALL = "*"
"""Stands for every output, also those that an edit adds."""
BACK_STEPS = 50
RETURN = 0.5
"""Seconds in which what a hand fade had interrupted goes on to its end, when the lever is brought back."""


def _numbers(before: Show, after: Show) -> Mapping[int | None, int | None]:
    """The numbers of presets that another show has under another one, by those they had; None where they are gone and
    their number is another's.
    """
    if before.presets is after.presets:
        return {}
    now = {p.id: p.number for p in after.presets}
    taken = set(now.values())
    return {
        p.number: now.get(p.id)
        for p in before.presets
        if now.get(p.id) != p.number and (p.id in now or p.number in taken)
    }


@dataclass(frozen=True)
class Rehearsal:
    """A list that is rehearsed: a stage of its own that goes by a clock of its own, beside what is on air.

    At the moment ``since`` of the true clock its own stood at ``at``; it goes ``speed`` times as fast, and with 0
    stands: then every cue is done, and at rest, as soon as it is fired.  ``let`` are surfaces that show it in place of
    what is on air.
    """

    list: str
    stage: Stage
    at: float
    since: float
    speed: float = 1.0
    let: frozenset[str] = frozenset()

    def clock(self, now: float) -> float:
        """Where its own clock stands at a moment of the true one."""
        return self.at + (now - self.since) * self.speed


@dataclass(frozen=True)
class Stage:
    """What is on program, what is staged on preview, and the way back.

    ``on_program`` and ``staged`` are preset numbers; the motion is the truth, the numbers only name it.  ``edits`` is
    what was changed on preview, upon the staged preset or upon what is on air.  ``black`` and ``held`` are ids of
    outputs, or `ALL`; ``kept`` are ids of surfaces that no take touches.  ``players`` says where every source stands
    that has a length, ``laid`` what is laid over outputs, ``feeds`` which of
    them are sent, ``brought`` when a source was last brought back by hand, ``heads`` where cue lists stand,
    ``overrides`` what surfaces show in place of everything, ``rehearsal`` what is tried beside all that.
    """

    show: Show
    program: Motion
    on_program: int | None = None
    staged: int | None = None
    edits: tuple[Part, ...] = ()
    back: tuple[tuple[Motion, int | None], ...] = ()
    black: frozenset[str] = frozenset()
    held: frozenset[str] = frozenset()
    kept: frozenset[str] = frozenset()
    players: Players = field(default_factory=dict)
    laid: Laid | None = None
    feeds: frozenset[str] = frozenset()
    brought: Mapping[str, float] = field(default_factory=dict)
    heads: Mapping[str, Head] = field(default_factory=dict)
    looked: float | None = None
    """Until when cue lists have been looked after."""
    overrides: Overrides = field(default_factory=dict)
    rehearsal: Rehearsal | None = None
    code: Playing = field(default_factory=Playing)
    """The timecode that the program makes itself."""
    messages: Mapping[str, str] = field(default_factory=dict)
    """What clocks say below their digits, by their ids."""
    muted: frozenset[str] = frozenset()
    """Mixes of sound that are silent, or `ALL`."""
    layouts: Mapping[str, str] = field(default_factory=dict)
    """Walls that are laid out as others are, by their ids."""

    @classmethod
    def opened(cls, show: Show) -> Stage:
        """The stage as a show opens."""
        return cls(show, opening_motion(show), show.opening, feeds=frozenset(f.id for f in show.feeds if f.on))

    def with_show(self, show: Show, now: float) -> Stage:
        """The same stage after an edit of the show: nothing on air changes but what the edit itself changed, and a
        preset that has another number is still the one that is staged, or on program.
        """
        if show is self.show:
            return self
        at = _numbers(self.show, show)
        called = replace(
            self,
            on_program=at.get(self.on_program, self.on_program),
            staged=at.get(self.staged, self.staged),
            back=tuple((motion, at.get(number, number)) for motion, number in self.back),
        )
        tried = self.rehearsal
        if tried is not None:
            tried = replace(tried, stage=tried.stage.with_show(show, tried.clock(now)))
        return replace(called, program=carried_over(show, self.program, now), rehearsal=tried).fitted(show)

    def fitted(self, show: Show) -> Stage:
        """The same stage without what a show has not: presets, layers, sources, surfaces, outputs; its motion is left
        as it is.
        """
        staged = self.staged if self.staged is not None and show.preset(self.staged) else None
        sources = {s.id for s in show.sources}
        layers = {(c.id, layer.id) for c in show.canvases for layer in c.layers}
        edits = tuple(
            e for e in self.edits if (e.canvas, e.layer) in layers and all(id in sources for _, id in e.named())
        )
        players = {id: _told(self.show, show, id, at) for id, at in self.players.items() if id in sources}
        laid = self.laid
        if laid is not None and not (
            {laid.surface} <= {s.id for s in show.surfaces} and {laid.output} <= {o.id for o in show.outputs}
        ):
            laid = None
        feeds = self.feeds & {f.id for f in show.feeds}
        # The way back is fitted to the show when it is gone.
        heads = {
            y.id: head._replace(
                armed=head.armed if y.cue(head.armed) is not None else None,
                fired=head.fired if y.cue(head.fired) is not None else None,
            )
            for y in show.lists
            if (head := self.heads.get(y.id)) is not None
        }
        surfaces = {s.id for s in show.surfaces}
        overrides: dict[str, Override] = {
            id: o for id, o in self.overrides.items() if id in surfaces and (o.source is None or o.source in sources)
        }
        walls = {w.id for w in show.walls}
        layouts = {id: like for id, like in self.layouts.items() if {id, like} <= walls}
        tried = self.rehearsal
        if tried is not None and tried.list not in {y.id for y in show.lists}:
            tried = None
        return replace(
            self,
            show=show,
            staged=staged,
            edits=edits,
            players=players,
            laid=laid,
            feeds=feeds,
            heads=heads,
            overrides=overrides,
            rehearsal=tried,
            messages={id: text for id, text in self.messages.items() if id in sources},
            layouts=layouts,
        )

    # -- preview -------------------------------------------------------------------------------------------------

    @property
    def previewing(self) -> bool:
        """Whether anything waits on preview to be taken."""
        return self.staged is not None or bool(self.edits)

    def preview(self) -> dict[Key, LayerState]:
        """What every layer will show once what is under way has settled and what is on preview is taken."""
        preset = self._allowed(self._previewed())
        settled = at_rest(self.program.target)
        return dict(recall(self.show, settled, preset, 0.0, cut=True).target if preset else settled.target)

    def worn(self, state: State) -> frozenset[str]:
        """Texts in dresses of layers that what is shown, will be, or is edited on preview asks for, where that may be
        more than presets of the show do.
        """
        states = [*state.values(), *self.program.target.values()]
        staged = None if self.staged is None or not self.edits else self.show.preset(self.staged)
        upon = () if staged is None else staged.parts
        if any(part.holds.dress is not None for part in (*self.edits, *upon)) or (
            self.edits and any(layer.dress is not None for layer in self.program.target.values())
        ):
            states += self.preview().values()  # else it has no dress that is not on air
        return worn_in(states)

    def _previewed(self) -> Preset | None:
        """What is on preview, as a preset: the staged one, and what was changed upon it."""
        preset = None if self.staged is None else self.show.preset(self.staged)
        if not self.edits:
            return preset
        preset = preset if preset is not None else Preset(id="preview", number=1, name="Preview")
        parts = {(p.canvas, p.layer): p for p in parts_of(self.show, preset)}
        for edit in self.edits:
            parts[edit.canvas, edit.layer] = _over(parts.get((edit.canvas, edit.layer)), edit)
        return preset.model_copy(update={"parts": tuple(parts.values()), "clears": ()})

    def stage(self, number: int | None) -> Stage:
        """Put a preset on preview, in place of whatever was there; None clears it.  An unknown number
        changes nothing.
        """
        if number is not None and self.show.preset(number) is None:
            return self
        return replace(self, staged=number, edits=())

    def with_edit(self, edit: Part) -> Stage:
        """Change a layer on preview: what the part holds comes in place of what would be there."""
        edits = {(e.canvas, e.layer): e for e in self.edits}
        edits[edit.canvas, edit.layer] = _over(edits.get((edit.canvas, edit.layer)), edit)
        return replace(self, edits=tuple(edits.values()))

    # -- players -------------------------------------------------------------------------------------------------

    def played(self, now: float, looked_at: Set[str] = frozenset(), standing_in: Set[str] = frozenset()) -> Stage:
        """The same, with every player going that is on air by now, or on its way to it, and the others standing.

        What is live goes on if it is on preview, or ``looked_at``, too; what is ``standing_in`` for a lost one
        is on air, and so is what is always heard.
        """
        running = sources_of(self.program.target)
        if self.program.tracks:
            running |= sources_of(self.program.at(now))
        known = {s.id for s in self.show.sources}
        running |= standing_in | overriding_sources(self.overrides) | self.show.sound.always
        running = self.show.made_of(running & known)
        staged = (looked_at & known) | (sources_of(self.preview()) if self.previewing else set())
        players = played(self.show, self.players, running, staged - running, now)
        return self if players is self.players else replace(self, players=players)

    def player(self, source: str) -> Playing:
        """Where a source stands."""
        return self.players.get(source, fresh(self.show.source(source)))

    def with_player(self, source: str, at: Playing) -> Stage:
        """A source standing, or going, elsewhere."""
        return replace(self, players={**self.players, source: at})

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

    def is_muted(self, mix: str) -> bool:
        """Whether a mix is silent, by hand or by the show."""
        found = self.show.sound.mix(mix)
        return ALL in self.muted or mix in self.muted or (found is not None and found.mute)

    def with_muted(self, on: bool, mixes: Iterable[str]) -> Stage:
        """Mixes silent, or heard again; `ALL` is all of them."""
        named, every = frozenset(mixes), frozenset(m.id for m in self.show.sound.mixes)
        if on:
            return replace(self, muted=frozenset({ALL}) if ALL in named else self.muted | named)
        left = frozenset() if ALL in named else (every if ALL in self.muted else self.muted) - named
        return replace(self, muted=left)

    def with_black(self, on: bool, outputs: Iterable[str]) -> Stage:
        """Outputs black, or lit again; `ALL` is all of them."""
        return replace(self, black=self._marked(self.black, on, outputs))

    def with_hold(self, on: bool, outputs: Iterable[str]) -> Stage:
        """Outputs held, or going on; `ALL` is all of them."""
        return replace(self, held=self._marked(self.held, on, outputs))

    def with_back(self, source: str, now: float) -> Stage:
        """A source brought back by hand."""
        return replace(self, brought={**self.brought, source: now})

    def with_feed(self, feed: str, on: bool) -> Stage:
        """A feed sent, or ended."""
        return replace(self, feeds=self.feeds | {feed} if on else self.feeds - {feed})

    def with_kept(self, surfaces: Iterable[str], on: bool) -> Stage:
        """Surfaces kept from every take, or released."""
        return replace(self, kept=self.kept | {*surfaces} if on else self.kept - {*surfaces})

    def _shown_on(self, surfaces: Iterable[str], state: State) -> set[Key]:
        """The layers that lie within what any of these surfaces shows of its canvas, in a state."""
        found: set[Key] = set()
        for surface in surfaces:
            for canvas, rect in surface_rects(self.show, surface):
                for layer in canvas.layers:
                    here = state.get((canvas.id, layer.id))
                    if here is not None and here.opacity > 0 and layer_reaches(self.show, canvas.id, here, rect):
                        found.add((canvas.id, layer.id))
        return found

    def _allowed(self, preset: Preset | None, only: Iterable[str] | None = None) -> Preset | None:
        """A preset without what may not be touched: layers that a kept surface shows, before or after; and all but
        those of ``only``.
        """
        if preset is None or (not self.kept and only is None):
            return preset
        before = self.program.target
        after = recall(self.show, at_rest(before), preset, 0.0, cut=True).target
        never = self._shown_on(self.kept, before) | self._shown_on(self.kept, after)
        chosen = None if only is None else self._shown_on(only, before) | self._shown_on(only, after)
        parts = [
            p
            for p in parts_of(self.show, preset)
            if (p.canvas, p.layer) not in never and (chosen is None or (p.canvas, p.layer) in chosen)
        ]
        return preset.model_copy(update={"parts": tuple(parts), "clears": ()})

    def _remember(self) -> tuple[tuple[Motion, int | None], ...]:
        return (*self.back[-BACK_STEPS + 1 :], (at_rest(self.program.target), self.on_program))

    def towards(
        self,
        preset: Preset,
        now: float,
        *,
        cut: bool = False,
        seconds: float | None = None,
        only: Iterable[str] | None = None,
    ) -> Stage:
        """Send program towards a preset, stored or not; no more of it than ``only`` these surfaces show, if they are
        given.
        """
        allowed = self._allowed(preset, only)
        assert allowed is not None
        motion = recall(self.show, self.program, allowed, now, cut=cut, seconds=seconds)
        return replace(self, program=motion.settled(now), back=self._remember())

    def recall(self, number: int, now: float, *, cut: bool = False, seconds: float | None = None) -> Stage:
        """Send program towards a stored preset at once."""
        preset = self.show.preset(number)
        if preset is None:
            return self
        sent = replace(self.towards(preset, now, cut=cut, seconds=seconds), on_program=number)
        return sent.stage(None) if self.staged == number else sent

    def take(
        self, now: float, *, cut: bool = False, seconds: float | None = None, only: Iterable[str] | None = None
    ) -> Stage:
        """Send program towards what is on preview, in the preset's time, in ``seconds``, or at once; only what some
        surfaces show, if named.

        Then it stays on preview, and program keeps its name: it is neither the one nor the other.
        """
        if self.program.led_by_hand:
            return self._let_go(now, cut, seconds)
        preset = self._previewed()
        if preset is None:
            return self
        taken = self.towards(preset, now, cut=cut, seconds=seconds, only=only)
        return taken if only is not None else replace(taken, on_program=self.staged, staged=None, edits=())

    def _let_go(self, now: float, cut: bool, seconds: float | None) -> Stage:
        """End a hand fade by the clock: what the hand led goes on to its end."""
        preset = self.show.preset(self.on_program) if self.on_program is not None else None
        rest = (
            preset.model_copy(update={"parts": (), "clears": ()})
            if preset
            else Preset(id="rest", number=1, name="rest")
        )
        motion = recall(self.show, self.program, rest, now, cut=cut, seconds=seconds)
        mine = self.staged == self.on_program
        return replace(
            self, program=motion.settled(now), staged=None if mine else self.staged, edits=() if mine else self.edits
        )

    def hand(self, position: float, now: float) -> Stage:
        """Lead the fade to what is on preview by hand: 0 is before, 1 is done."""
        stage = self
        if not stage.program.led_by_hand:
            preset = stage._allowed(stage._previewed())
            if preset is None or position <= 0:
                return self
            motion = recall(stage.show, stage.program, preset, now, by_hand=True)
            if not motion.led_by_hand:
                return replace(stage, program=motion, on_program=self.staged, staged=None, edits=())
            stage = replace(stage, program=motion, back=self._remember(), on_program=self.staged)
        moved = stage.program.with_hand(position)
        if position >= 1:
            done = moved.settled(now)
            return replace(
                stage,
                program=done,
                staged=None if stage.staged == stage.on_program else stage.staged,
                edits=() if stage.staged == stage.on_program else stage.edits,
            )
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
            elif (canvas, layer) in former.target and track.start_value != (
                end := getattr(former.target[canvas, layer], kind)
            ):
                tracks[canvas, layer, kind] = Track(track.start_value, end, now, RETURN, "ease-in-out", way=track.way)
        staged = self.on_program if self.staged is None else self.staged
        return replace(
            self, program=Motion(former.target, tracks), on_program=number, staged=staged, back=self.back[:-1]
        )

    def step_back(self, now: float, seconds: float | None = None) -> Stage:
        """Return program to what it was before the last action."""
        if not self.back:
            return self
        target, number = carried_over(self.show, self.back[-1][0], now).target, self.back[-1][1]
        if self.kept:
            never = self._shown_on(self.kept, self.program.target) | self._shown_on(self.kept, target)
            target = {
                key: self.program.target[key] if key in never and key in self.program.target else value
                for key, value in target.items()
            }
        return replace(
            self,
            program=_towards(self.program, target, now, RETURN if seconds is None else seconds),
            on_program=number,
            back=self.back[:-1],
        )


def _told(before: Show, show: Show, source: str, at: Playing) -> Playing:
    """A player after an edit: what its source does at its end has effect at once."""
    now = show.source(source)
    was = next((s for s in before.sources if s.id == source), None)
    if isinstance(now, Clip) and isinstance(was, Clip) and now.at_end != was.at_end:
        return at._replace(looping=now.at_end == "loop")
    return at


def _over(part: Part | None, edit: Part) -> Part:
    """A part with what another one of the same layer holds in place of its own."""
    if part is None:
        return edit
    return part.model_copy(update={"holds": part.holds.model_copy(update={kind: held for _, kind, held in edit.held})})


def sources_of(state: State) -> set[str]:
    """Sources that a state can show at all."""
    return {id for layer in state.values() if layer.opacity > 0 for id in sources_of_layer(layer)}


def _towards(motion: Motion, target: State, now: float, seconds: float) -> Motion:
    """Every setting on its way from where it is to ``target``."""
    current = motion.at(now)
    tracks = {}
    for key, state in target.items():
        for kind, start, end in zip(KINDS, current[key], state, strict=True):
            if start != end:
                tracks[key[0], key[1], kind.name] = Track(kind.rest(start, now), end, now, seconds, "ease-in-out")
    return Motion(dict(target), tracks)
