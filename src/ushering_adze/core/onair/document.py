"""The stage as a JSON document and back: what is on air, and on its way, on any clock."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Literal

from pydantic import ValidationError

from ushering_adze.core.document.model import Id, Seldom
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.onair.heads import Coming, Head
from ushering_adze.core.onair.motion import Motion, Track
from ushering_adze.core.onair.overriding import Override, Shows
from ushering_adze.core.onair.playing import Playing
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import Key, LayerState, State, opening_state
from ushering_adze.core.show import Fault, Part, Show, ShowError
from ushering_adze.core.show.actions import Action
from ushering_adze.core.show.laid import Laid
from ushering_adze.core.show.rigging import sentence_of

FORMAT: Literal["ushering-adze stage"] = "ushering-adze stage"


class LayerOnAir(Seldom):
    """Where a layer is heading: a value of every kind of setting, by name."""

    canvas: Id
    layer: Id
    shows: dict[str, Any]


class TrackOnAir(Seldom):
    """A kind of setting on its way; ``start`` is in seconds from the moment of the document, negative if it began
    before.
    """

    canvas: Id
    layer: Id
    kind: str
    begin: Any
    end: Any
    start: float
    seconds: float
    easing: str
    by_hand: bool = False
    way: str = "dissolve"
    parameters: dict[str, Any] = {}


class MotionOnAir(Seldom):
    """A motion."""

    target: tuple[LayerOnAir, ...]
    tracks: tuple[TrackOnAir, ...] = ()
    hand: float = 0.0
    span: float = 0.0


class ComingOnAir(Seldom):
    """An action of a cue that is still to happen, in so many seconds."""

    at: float
    action: Action


class HeadOnAir(Seldom):
    """Where a cue list stands; ``at`` is when its last cue was fired."""

    armed: Id | None = None
    fired: Id | None = None
    at: float | None = None
    going: bool = False
    coming: tuple[ComingOnAir, ...] = ()
    as_if: bool = False
    stopped: bool = False
    paused: float | None = None
    times: dict[str, float] = {}


class Former(Seldom):
    """A state that *back* leads to."""

    motion: MotionOnAir
    preset: int | None = None


class PlayerOnAir(Seldom):
    """A player: where it was at a moment, in seconds from that of the document; it stands if there is none."""

    at: float
    since: float | None = None
    speed: float = 1.0
    looping: bool = True
    stopped: bool = False
    page: int = 0


class OverrideOnAir(Seldom):
    """What a surface shows in place of everything, and since when."""

    shows: Shows
    source: Id | None = None
    by: str = ""
    since: float = 0.0


class StageDocument(Seldom):
    """All of what is on air."""

    format: Literal["ushering-adze stage"] = FORMAT
    version: Literal[2] = 2
    program: MotionOnAir
    on_program: int | None = None
    staged: int | None = None
    edits: tuple[Part, ...] = ()
    back: tuple[Former, ...] = ()
    black: tuple[str, ...] = ()
    muted: tuple[str, ...] = ()
    held: tuple[str, ...] = ()
    kept: tuple[str, ...] = ()
    players: dict[str, PlayerOnAir] = {}
    laid: Laid | None = None
    feeds: tuple[str, ...] = ()
    brought: dict[str, float] = {}
    heads: dict[Id, HeadOnAir] = {}
    looked: float | None = None
    overrides: dict[Id, OverrideOnAir] = {}
    code: PlayerOnAir = PlayerOnAir(at=0.0)
    messages: dict[Id, str] = {}
    layouts: dict[Id, Id] = {}


def _layers(state: State, now: float) -> tuple[LayerOnAir, ...]:
    return tuple(
        LayerOnAir(
            canvas=canvas, layer=layer, shows={k.name: k.to_json(v, now) for k, v in zip(KINDS, at, strict=True)}
        )
        for (canvas, layer), at in state.items()
    )


def _motion_document(motion: Motion, now: float) -> MotionOnAir:
    tracks = tuple(
        TrackOnAir(
            canvas=canvas,
            layer=layer,
            kind=kind,
            begin=BY_NAME[kind].to_json(t.start_value, now),
            end=BY_NAME[kind].to_json(t.end_value, now),
            start=t.start - now,
            seconds=t.seconds,
            easing=t.easing,
            by_hand=t.by_hand,
            way=t.way[0],
            parameters=dict(t.way[1]),
        )
        for (canvas, layer, kind), t in motion.tracks.items()
    )
    return MotionOnAir(target=_layers(motion.target, now), tracks=tracks, hand=motion.hand, span=motion.span)


def stage_document(stage: Stage, now: float) -> dict[str, Any]:
    """A stage as a JSON document, without its show.

    Parameters
    ----------
    stage : Stage
    now : float
        The moment of the document, in seconds of the stage's clock.
    """
    back = tuple(Former(motion=_motion_document(motion, now), preset=number) for motion, number in stage.back)
    players = {
        id: PlayerOnAir(
            at=p.at,
            since=None if p.since is None else p.since - now,
            speed=p.speed,
            looping=p.looping,
            stopped=p.stopped,
            page=p.page,
        )
        for id, p in stage.players.items()
    }
    document = StageDocument(
        program=_motion_document(stage.program, now),
        on_program=stage.on_program,
        staged=stage.staged,
        edits=stage.edits,
        back=back,
        black=tuple(sorted(stage.black)),
        muted=tuple(sorted(stage.muted)),
        held=tuple(sorted(stage.held)),
        kept=tuple(sorted(stage.kept)),
        players=players,
        laid=stage.laid,
        feeds=tuple(sorted(stage.feeds)),
        brought={id: at - now for id, at in stage.brought.items()},
        heads={
            id: HeadOnAir(
                armed=h.armed,
                fired=h.fired,
                at=None if h.at is None else h.at - now,
                going=h.going,
                coming=tuple(ComingOnAir(at=c.at - now, action=c.action) for c in h.coming),
                as_if=h.as_if,
                stopped=h.stopped,
                paused=None if h.paused is None else h.paused - now,
                times={id: at - now for id, at in h.times},
            )
            for id, h in stage.heads.items()
        },
        looked=None if stage.looked is None else stage.looked - now,
        overrides={
            id: OverrideOnAir(shows=o.shows, source=o.source, by=o.by, since=o.since - now)
            for id, o in stage.overrides.items()
        },
        code=PlayerOnAir(at=stage.code.at, since=None if stage.code.since is None else stage.code.since - now),
        messages=dict(stage.messages),
        layouts=dict(stage.layouts),
    )
    return document.model_dump(mode="json")


def _motion(show: Show, told: MotionOnAir, now: float, known: Mapping[Key, LayerState]) -> Motion:
    sources = {s.id for s in show.sources}
    target = dict(known)
    for at in told.target:
        key = (at.canvas, at.layer)
        if key in known:
            values = {k.name: k.from_json(at.shows[k.name], now) for k in KINDS if k.name in at.shows}
            if all(sources.issuperset(BY_NAME[name].sources(value)) for name, value in values.items()):
                target[key] = known[key]._replace(**values)
    tracks = {}
    for t in told.tracks:
        if (t.canvas, t.layer) in known and t.kind in BY_NAME:
            kind = BY_NAME[t.kind]
            begin, end = kind.from_json(t.begin, now), kind.from_json(t.end, now)
            if sources.issuperset((*kind.sources(begin), *kind.sources(end))):
                tracks[t.canvas, t.layer, t.kind] = Track(
                    begin, end, t.start + now, t.seconds, t.easing, t.by_hand, (t.way, tuple(t.parameters.items()))
                )
    return Motion(target, tracks, told.hand, told.span)


def _known(ids: Iterable[str], there: Iterable[str]) -> frozenset[str]:
    return frozenset(ids) & {*there, "*"}


def stage_from(document: object, show: Show, now: float) -> Stage:
    """A stage from its JSON document, for a show that may have been edited since; what the show has not any more is
    left out.

    Parameters
    ----------
    document : object
        What ``json.loads`` returned.
    show : Show
    now : float
        The moment that the document's becomes, in seconds of the new clock.

    Raises
    ------
    ShowError
        If it is no stage.
    """
    try:
        told = StageDocument.model_validate(document)
        known = opening_state(show)
        back = tuple((_motion(show, f.motion, now, known), f.preset) for f in told.back)
        program = _motion(show, told.program, now, known)
    except ValidationError as error:
        raise ShowError([Fault("what was on air", sentence_of(error))]) from None
    except (TypeError, ValueError, KeyError) as error:
        what = f"a setting on its way is damaged ({type(error).__name__}); begin from the opening"
        raise ShowError([Fault("what was on air", what)]) from None
    outputs, surfaces = [o.id for o in show.outputs], [s.id for s in show.surfaces]
    players = {
        id: Playing(p.at, None if p.since is None else p.since + now, p.speed, p.looping, p.stopped, p.page)
        for id, p in told.players.items()
    }
    made = Stage(
        show,
        program,
        told.on_program,
        told.staged,
        told.edits,
        back,
        _known(told.black, outputs),
        _known(told.held, outputs),
        _known(told.kept, surfaces) - {"*"},
        players,
        told.laid,
        frozenset(told.feeds),
        {id: at + now for id, at in told.brought.items()},
        {
            id: Head(
                h.armed,
                h.fired,
                None if h.at is None else h.at + now,
                h.going,
                tuple(Coming(c.at + now, c.action) for c in h.coming),
                as_if=h.as_if,
                stopped=h.stopped,
                paused=None if h.paused is None else h.paused + now,
                times=tuple((id, at + now) for id, at in h.times.items()),
            )
            for id, h in told.heads.items()
        },
        None if told.looked is None else told.looked + now,
        {id: Override(o.shows, o.source, o.by, o.since + now) for id, o in told.overrides.items()},
        code=Playing(told.code.at, None if told.code.since is None else told.code.since + now),
        messages=told.messages,
        layouts=told.layouts,
        muted=_known(told.muted, [m.id for m in show.sound.mixes]),
    )
    return made.fitted(show)
