"""The stage as a JSON document and back: what is on air, and on its way, on any clock."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Literal

from pydantic import ValidationError

from ushering_adze.core.onair.motion import Motion, Track
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.state import Key, LayerState, Shown, State, opening_state
from ushering_adze.core.show import Fault, Kind, Show, ShowError
from ushering_adze.core.show.base import Id, Model
from ushering_adze.core.show.rigging import sentence_of

FORMAT: Literal["ushering-adze stage"] = "ushering-adze stage"
Four = tuple[float, float, float, float]
Share = tuple[str | None, Literal["fill", "fit", "stretch", "1:1"], float]


class LayerOnAir(Model):
    """Where a layer is heading; ``picture`` is a list of source, fit and weight."""

    canvas: Id
    layer: Id
    picture: tuple[Share, ...]
    place: Four
    crop: Four
    opacity: float
    border: Four


class TrackOnAir(Model):
    """A kind of setting on its way; ``start`` is in seconds from the moment of the document, negative if it began before."""

    canvas: Id
    layer: Id
    kind: Kind
    begin: Any
    end: Any
    start: float
    seconds: float
    easing: str
    by_hand: bool = False


class MotionOnAir(Model):
    """A motion."""

    target: tuple[LayerOnAir, ...]
    tracks: tuple[TrackOnAir, ...] = ()
    hand: float = 0.0
    span: float = 0.0


class Former(Model):
    """A state that *back* leads to."""

    motion: MotionOnAir
    preset: int | None = None


class StageDocument(Model):
    """All of what is on air."""

    format: Literal["ushering-adze stage"] = FORMAT
    version: Literal[1] = 1
    program: MotionOnAir
    on_program: int | None = None
    staged: int | None = None
    back: tuple[Former, ...] = ()
    black: tuple[str, ...] = ()
    held: tuple[str, ...] = ()
    kept: tuple[str, ...] = ()


def _layers(state: State) -> tuple[LayerOnAir, ...]:
    return tuple(LayerOnAir(canvas=canvas, layer=layer, picture=tuple((s.source, s.fit, s.weight) for s in at.picture),
                            place=at.place, crop=at.crop, opacity=at.opacity, border=at.border) for (canvas, layer), at in state.items())


def _motion_document(motion: Motion, now: float) -> MotionOnAir:
    tracks = tuple(TrackOnAir(canvas=canvas, layer=layer, kind=kind, begin=t.start_value, end=t.end_value, start=t.start - now,
                              seconds=t.seconds, easing=t.easing, by_hand=t.by_hand) for (canvas, layer, kind), t in motion.tracks.items())
    return MotionOnAir(target=_layers(motion.target), tracks=tracks, hand=motion.hand, span=motion.span)


def stage_document(stage: Stage, now: float) -> dict[str, Any]:
    """A stage as a JSON document, without its show.

    Parameters
    ----------
    stage : Stage
    now : float
        The moment of the document, in seconds of the stage's clock.
    """
    back = tuple(Former(motion=_motion_document(motion, now), preset=number) for motion, number in stage.back)
    document = StageDocument(program=_motion_document(stage.program, now), on_program=stage.on_program, staged=stage.staged, back=back,
                             black=tuple(sorted(stage.black)), held=tuple(sorted(stage.held)), kept=tuple(sorted(stage.kept)))
    return document.model_dump(mode="json")


def _value(kind: Kind, value: Any) -> Any:
    """A setting as the motion has it, from JSON."""
    if kind == "opacity":
        return float(value)
    if kind == "picture":
        return tuple(Shown(*share) for share in value)
    return tuple(float(v) for v in value)


def _motion(show: Show, told: MotionOnAir, now: float, known: Mapping[Key, LayerState]) -> Motion:
    sources = {s.id for s in show.sources} | {None}
    target = dict(known)
    for at in told.target:
        key = (at.canvas, at.layer)
        if key in known and all(source in sources for source, _, _ in at.picture):
            target[key] = LayerState(tuple(Shown(*share) for share in at.picture), at.place, at.crop, at.opacity, at.border)
    tracks = {}
    for t in told.tracks:
        if (t.canvas, t.layer) in known:
            begin, end = _value(t.kind, t.begin), _value(t.kind, t.end)
            if t.kind != "picture" or all(s.source in sources for s in (*begin, *end)):
                tracks[t.canvas, t.layer, t.kind] = Track(begin, end, t.start + now, t.seconds, t.easing, t.by_hand)
    return Motion(target, tracks, told.hand, told.span)


def _known(ids: Iterable[str], there: Iterable[str]) -> frozenset[str]:
    return frozenset(ids) & {*there, "*"}


def stage_from(document: object, show: Show, now: float) -> Stage:
    """A stage from its JSON document, for a show that may have been edited since; what the show has not any more is left out.

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
    except (TypeError, ValueError) as error:
        what = f"a setting on its way is damaged ({type(error).__name__}); begin from the opening"
        raise ShowError([Fault("what was on air", what)]) from None
    staged = told.staged if told.staged is not None and show.preset(told.staged) is not None else None
    outputs, surfaces = [o.id for o in show.outputs], [s.id for s in show.surfaces]
    return Stage(show, program, told.on_program, staged, back, _known(told.black, outputs), _known(told.held, outputs),
                 _known(told.kept, surfaces) - {"*"})
