"""The one function that makes actions happen, what keeps one from happening, and how they are read and listed."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ushering_adze.core.document.wording import choice, sentence, shortened
from ushering_adze.core.onair.cues import Seen, armed, opened, run, with_list
from ushering_adze.core.onair.delta import SeenThrough, delta
from ushering_adze.core.onair.overriding import Override as Overriding
from ushering_adze.core.onair.overriding import with_override, without_override
from ushering_adze.core.onair.planning import Plan, after_each, armed_as_if, planned
from ushering_adze.core.onair.planning import Planner as PlannerOf
from ushering_adze.core.onair.playing import has_length, leader, turned
from ushering_adze.core.onair.rehearsing import in_rehearsal, is_rehearsed, rehearsed, with_rehearsal
from ushering_adze.core.onair.routing import edited_on_air, layer_for, routed
from ushering_adze.core.onair.stage import ALL, Stage
from ushering_adze.core.show import Clock, Fault, Folder, Part, Show, ShowError
from ushering_adze.core.show.actions import (
    KINDS_OF_ACTION,
    Action,
    Arm,
    Arrange,
    Back,
    Black,
    BringBack,
    Cut,
    Edit,
    Fire,
    Go,
    Hand,
    Hold,
    Keep,
    LayOver,
    Lift,
    Loop,
    Message,
    Mute,
    Next,
    Override,
    Page,
    Pause,
    PauseList,
    Play,
    Previous,
    Recall,
    Rehearse,
    Release,
    Route,
    RunCode,
    SendFeed,
    SetPreview,
    StagePreset,
    StartList,
    StopList,
    Take,
    To,
    Unstage,
)
from ushering_adze.core.show.zoning import names_of_places, surfaces_in

__all__ = [
    "Action",
    "Back",
    "Black",
    "BringBack",
    "Cut",
    "Edit",
    "Hand",
    "Hold",
    "KINDS_OF_ACTION",
    "Keep",
    "LayOver",
    "Loop",
    "Next",
    "Page",
    "Pause",
    "Play",
    "Previous",
    "Recall",
    "Release",
    "Route",
    "SendFeed",
    "SetPreview",
    "StagePreset",
    "Take",
    "To",
    "Unstage",
    "Arm",
    "Fire",
    "Go",
    "Lift",
    "Message",
    "Arrange",
    "Mute",
    "Override",
    "Planner",
    "PauseList",
    "Rehearse",
    "RunCode",
    "StartList",
    "StopList",
    "action_from",
    "begun",
    "differs_as_if",
    "plan_of",
    "stages_of",
    "done_in",
    "run_lists",
    "actions_schema",
    "apply",
    "fault_of",
    "table_of_actions",
]


@cache
def _reader() -> TypeAdapter[Any]:
    """Reads actions; made when the first is read."""
    return TypeAdapter(Action)


def action_from(document: object) -> Action:
    """Read an action from a decoded JSON value.

    Raises
    ------
    ShowError
        In one sentence.

    Examples
    --------
    >>> action_from({"do": "recall", "preset": 6})
    Recall(do='recall', preset=6, seconds=None)
    """
    try:
        found: Action = _reader().validate_python(document)
        return found
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        fields = {name for kind in KINDS_OF_ACTION for name in kind.model_fields}
        where = ".".join(str(step) for step in first["loc"][1:])
        raise ShowError([Fault(f"action: {where}" if where else "action", sentence(first, fields))]) from None


def actions_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of actions."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Ushering Adze action",
        **_reader().json_schema(),
    }


def fault_of(show: Show, action: Action) -> str | None:
    """What an action names that the show has not, in a sentence; None if it can be done.

    Parameters
    ----------
    show : Show
    action : Action
        What is to happen.

    Returns
    -------
    str | None
        In a sentence; None if nothing is.
    """
    number = action.preset if isinstance(action, (StagePreset, Recall, SetPreview)) else None
    if number is not None and show.preset(number) is None:
        return f"no preset number {number}; there are: {', '.join(str(p.number) for p in show.presets) or 'none yet'}"
    named: list[tuple[str, tuple[str, ...], list[str]]] = []
    if isinstance(action, (Black, Hold)) and action.outputs is not None:
        named.append(("output", action.outputs, [o.id for o in show.outputs]))
    if isinstance(action, Mute) and action.mixes is not None:
        named.append(("mix", action.mixes, [m.id for m in show.sound.mixes]))
    if isinstance(action, Arrange):
        walls = (action.wall,) if action.like is None else (action.wall, action.like)
        named.append(("wall", walls, [w.id for w in show.walls]))
    if isinstance(action, (Take, Cut)) and action.surfaces is not None:
        named.append(("surface or zone", action.surfaces, names_of_places(show)))
    if isinstance(action, (Override, Lift, Rehearse)):
        surfaces = action.let if isinstance(action, Rehearse) else action.surfaces or ()
        named.append(("surface or zone", surfaces, names_of_places(show)))
    if isinstance(action, (Keep, Release)):
        named.append(("surface or zone", (action.surface,), names_of_places(show)))
    sources = [s.id for s in show.sources]
    if isinstance(action, Route):
        named.append(("surface", (action.surface,), [s.id for s in show.surfaces]))
        named.append(("source", () if action.source is None else (action.source,), sources))
    if isinstance(action, Override):
        named.append(("source", () if action.source is None else (action.source,), sources))
    if isinstance(action, Rehearse):
        named.append(("cue list", () if action.list is None else (action.list,), [y.id for y in show.lists]))
    if isinstance(action, (Play, Pause, To, Loop, Next, Previous, Page, BringBack, Message)):
        named.append(("source", (action.source,), sources))
    if isinstance(action, (Arm, Go, StartList, StopList, PauseList)):
        named.append(("cue list", (action.list,), [y.id for y in show.lists]))
        if isinstance(action, (Arm, Go)) and action.cue is not None and any(y.id == action.list for y in show.lists):
            named.append(("cue", (action.cue,), [c.id for c in show.cue_list(action.list).cues]))
    if isinstance(action, SendFeed):
        named.append(("feed", (action.feed,), [f.id for f in show.feeds]))
    if isinstance(action, LayOver) and action.over is not None:
        named.append(("surface", (action.over.surface,), [s.id for s in show.surfaces]))
        named.append(("output", (action.over.output,), [o.id for o in show.outputs]))
    if isinstance(action, Edit):
        named.append(("canvas", (action.canvas,), [c.id for c in show.canvases]))
        if any(c.id == action.canvas for c in show.canvases):
            named.append(("layer", (action.layer,), [layer.id for layer in show.canvas(action.canvas).layers]))
        part = Part(canvas=action.canvas, layer=action.layer, holds=action.set)
        named.append(("source", tuple(id for _, id in part.named()), sources))
    for noun, ids, known in named:
        for id in ids:
            if id not in known:
                return f"no {noun} {shortened(id)}; {choice(id, known)}"
    if isinstance(action, (Play, Pause, To, Loop)) and not has_length(show.source(action.source)):
        return f"{show.source(action.source).name} has no length to play; name a clip, a folder or a countdown"
    if isinstance(action, Message) and not isinstance(show.source(action.source), Clock):
        return f"{show.source(action.source).name} is no clock, and shows no message; name a clock"
    if isinstance(action, (Next, Previous, Page)) and not turned(show.source(action.source)):
        return f"{show.source(action.source).name} has no pages to turn; name pages, a text or a folder of pictures"
    if isinstance(action, Route) and layer_for(show, action.surface) is None:
        return f"no layer lies on {show.surface(action.surface).name}; make one on its canvas"
    return None


def apply(show: Show, stage: Stage, action: Action, now: float, players: bool = True) -> Stage:
    """What is on air after an action.

    Parameters
    ----------
    show : Show
    stage : Stage
        As it was.
    action : Action
        One that names what the show has not changes nothing.
    now : float
        Seconds of the clock that the stage's motion goes by.
    players : bool
        Have players go, or stand, by what is on air now; without it whoever does several actions at one moment does
        that once, behind the last (`Stage.played`).

    Returns
    -------
    Stage

    Examples
    --------
    >>> show = Show(name="Empty")
    >>> apply(show, Stage.opened(show), Black(), 0.0).black
    frozenset({'*'})
    """
    stage = stage.with_show(show, now)
    if fault_of(show, action) is not None:
        return stage
    done = _applied(show, stage, action, now)
    return done.played(now) if players else done


def done_in(stage: Stage, action: Action, now: float) -> Stage:
    """The stage after an action of a cue; one that names what the show has not changes nothing."""
    if fault_of(stage.show, action) is not None:
        return stage
    if isinstance(action, (Go, StartList, StopList, PauseList, Fire)):
        return with_list(stage, action, now, done_in, by_hand=False)
    return _applied(stage.show, stage, action, now)


def run_lists(stage: Stage, now: float, seen: Seen = Seen()) -> Stage:
    """The stage with all that its cue lists have done by themselves until a moment.

    Parameters
    ----------
    stage : Stage
    now : float
        Seconds of the stage's clock.
    seen : Seen, optional
        The time of day, and how long sources are.
    """
    return rehearsed(run(stage, now, done_in, seen), now, done_in, seen)


class Planner(PlannerOf):
    """Works plans out, and after an edit no more of one than the edit changed."""

    def __init__(self) -> None:
        super().__init__(done_in)


def plan_of(show: Show, list: str, seen_through: SeenThrough | None = None) -> Plan:
    """What every surface will show after each cue of a list.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    seen_through : callable, optional
        Which sources may be seen through, by the pictures there are.
    """
    return planned(show, list, done_in, seen_through)


def stages_of(show: Show, list: str) -> tuple[Stage, ...]:
    """The stage after each cue of a list, from the opening of the show.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    """
    return after_each(Stage.opened(show), show.cue_list(list), done_in)


def differs_as_if(stage: Stage, list: str, cue: str) -> tuple[str, ...]:
    """The surfaces that show something else after a cue if all before it had run, than after it alone.

    Parameters
    ----------
    stage : Stage
    list, cue : str
    """
    whole = armed_as_if(stage, list, cue, done_in)
    alone = armed(stage, list, cue)
    return tuple(c.surface for c in delta(stage.show, alone.preview(), whole.preview()))


def begun(stage: Stage, now: float) -> Stage:
    """The stage with those cue lists begun that run by themselves."""
    return opened(stage, now, done_in)


def _each_of(show: Show, named: tuple[str, ...] | None) -> tuple[str, ...] | None:
    """The surfaces that are named, also by their zones."""
    return None if named is None else surfaces_in(show, named)


def _applied(show: Show, stage: Stage, action: Action, now: float) -> Stage:
    match action:
        case StagePreset(preset=number):
            return stage.stage(number)
        case Unstage():
            return stage.stage(None)
        case Take(seconds=seconds, surfaces=surfaces):
            return stage.take(now, seconds=seconds, only=_each_of(show, surfaces))
        case Cut(surfaces=surfaces):
            return stage.take(now, cut=True, only=_each_of(show, surfaces))
        case Recall(preset=number, seconds=seconds):
            return stage.recall(number, now, seconds=seconds)
        case Hand(position=position):
            return stage.hand(position, now)
        case Back(seconds=seconds):
            return stage.step_back(now, seconds)
        case Arrange(wall=wall, like=like):
            layouts = {id: other for id, other in stage.layouts.items() if id != wall}
            return replace(stage, layouts=layouts if like in (None, wall) else {**layouts, wall: like})
        case Mute(on=on, mixes=mixes):
            return stage.with_muted(on, (ALL,) if mixes is None else mixes)
        case Black(on=on, outputs=outputs):
            return stage.with_black(on, (ALL,) if outputs is None else outputs)
        case Hold(on=on, outputs=outputs):
            return stage.with_hold(on, (ALL,) if outputs is None else outputs)
        case Keep(surface=surface):
            return stage.with_kept(surfaces_in(show, (surface,)), True)
        case Release(surface=surface):
            return stage.with_kept(surfaces_in(show, (surface,)), False)
        case Edit(canvas=canvas, layer=layer, set=held, on="program", seconds=seconds, goes_on=goes_on):
            edited = edited_on_air(stage, Part(canvas=canvas, layer=layer, holds=held), seconds, now)
            return replace(edited, back=stage.back) if goes_on else edited
        case Edit(canvas=canvas, layer=layer, set=held):
            return stage.with_edit(Part(canvas=canvas, layer=layer, holds=held))
        case SetPreview(preset=number, edits=edits):
            return replace(stage, staged=number, edits=edits).fitted(show)
        case Route(surface=surface, source=source, on=where, seconds=seconds):
            return routed(show, stage, surface, source, where == "program", seconds, now)
        case LayOver(over=over):
            return replace(stage, laid=over)
        case BringBack(source=id):
            return stage.with_back(id, now)
        case SendFeed(feed=feed, on=on):
            return stage.with_feed(feed, on)
        case Override(surfaces=surfaces, shows=shows, source=source, by=by):
            made = Overriding(shows, source, by, now)
            return replace(stage, overrides=with_override(stage.overrides, surfaces_in(show, surfaces), made))
        case Lift(surfaces=surfaces):
            return replace(stage, overrides=without_override(stage.overrides, _each_of(show, surfaces)))
        case Rehearse():
            return with_rehearsal(stage, action, now)
        case Message(source=id, text=text):
            others = {s: t for s, t in stage.messages.items() if s != id}
            return replace(stage, messages={**others, id: text.strip()} if text.strip() else others)
        case RunCode(on=on, seconds=seconds):
            at = stage.code.position(now) if seconds is None else seconds
            return replace(stage, code=stage.code._replace(at=at, since=now if on else None))
        case Arm(list=id) | Go(list=id) | StartList(list=id) | StopList(list=id) | PauseList(list=id) if is_rehearsed(
            stage, id
        ):
            return in_rehearsal(stage, action, now, done_in)
        case Arm(list=id, cue=str(cue), as_if=True):
            return armed_as_if(stage, id, cue, done_in)
        case Arm() | Go() | StartList() | StopList() | PauseList() | Fire():
            return with_list(stage, action, now, done_in)
        case _:
            return _with_player(show, stage, action, now)


def _with_player(show: Show, stage: Stage, action: Action, now: float) -> Stage:
    """The stage after an action on a player."""
    assert isinstance(action, (Play, Pause, To, Loop, Next, Previous, Page))
    id = leader(show, action.source)
    source, at = show.source(id), stage.player(id)
    match action:
        case Play(speed=speed, looping=looping):
            at = at.going(now)
            at = at._replace(
                speed=at.speed if speed is None else speed, looping=at.looping if looping is None else looping
            )
        case Pause():
            at = at.standing(now, by_hand=True)
        case To(seconds=seconds):
            at = at._replace(at=seconds, since=None if at.since is None else now)
        case Loop(on=on):
            at = at._replace(looping=on)
        case Next() | Previous() | Page() if isinstance(source, Folder):
            number = int(at.position(now) / source.hold + 1e-9)
            to = action.to - 1 if isinstance(action, Page) else number + (1 if isinstance(action, Next) else -1)
            at = at._replace(at=max(0, to) * source.hold, since=None if at.since is None else now)
        case Next():  # how many stops there are, only the pages themselves know: the engine keeps it within them
            at = at._replace(at=at.at + 1)
        case Previous():
            at = at._replace(at=at.at - 1)
        case Page(to=number):
            at = at._replace(at=0.0, page=number - 1)
    return stage.with_player(id, at)


def table_of_actions() -> str:
    """The actions as a table in Markdown, for the control reference."""
    lines = ["| action | fields | does |", "|---|---|---|"]
    for kind in KINDS_OF_ACTION:
        fields = [
            f"`{name}`"
            + ("" if field.is_required() else f" ({'null' if field.default is None else str(field.default).lower()})")
            for name, field in kind.model_fields.items()
            if name != "do"
        ]
        does = " ".join((kind.__doc__ or "").split())
        lines.append(f"| `{kind.model_fields['do'].default}` | {', '.join(fields)} | {does} |")
    return "\n".join(lines) + "\n"
