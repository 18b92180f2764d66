"""What a cue does, and what fires it, in words that are typed into a cell, and back."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from pydantic import ValidationError

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.wording import choice, shortened
from ushering_adze.core.show.actions import (
    Action,
    Arm,
    Arrange,
    Back,
    Black,
    Cut,
    Fire,
    Go,
    Hold,
    Keep,
    Lift,
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
    Release,
    Route,
    SendFeed,
    StagePreset,
    StartList,
    StopList,
    Take,
    To,
    Unstage,
)
from ushering_adze.core.show.cue import (
    AfterFormer,
    AtCode,
    AtPlayer,
    AtSignal,
    AtTime,
    ByHand,
    Cue,
    Doing,
    Fires,
    number_words,
)
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.show import Show

_DELAY = re.compile(r"^\+\s*(\d+(?:[.,]\d+)?)\s*(?:s\b)?\s*")
_IN = re.compile(r"\s+in\s+(\d+(?:[.,]\d+)?)\s*s?$", re.I)
_TIME = re.compile(r"^(\d{1,2}):(\d\d)(?::(\d\d))?$")
_VERBS = (
    *("recall", "stage", "unstage", "take", "cut", "back", "black", "hold", "keep", "release", "play", "pause", "to"),
    *("next", "previous", "page", "send", "end", "go", "arm", "start", "stop", "signal"),
    *("override", "lift", "wait", "message", "mute", "wall"),
)


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _named(noun: str, text: str, known: Mapping[str, str]) -> str:
    """The id of what is called so, or has it as its id."""
    wanted = text.strip().lower()
    for id, name in known.items():
        if wanted in (id.lower(), name.lower()):
            return id
    raise ShowError([Fault("does", f"no {noun} {shortened(text.strip())}; {choice(text.strip(), known.values())}")])


def _sources(show: Show) -> dict[str, str]:
    return {s.id: s.name for s in show.sources}


def _places(show: Show) -> dict[str, str]:
    return {s.id: s.name for s in show.surfaces} | {z.id: z.name for z in show.zones}


def _outputs(show: Show) -> dict[str, str]:
    return {o.id: o.name for o in show.outputs}


def _lists(show: Show) -> dict[str, str]:
    return {y.id: y.name for y in show.lists}


def _many(noun: str, text: str, known: Mapping[str, str]) -> tuple[str, ...] | None:
    return tuple(_named(noun, part, known) for part in text.split(",")) if text.strip() else None


def _with_number(noun: str, text: str, known: Mapping[str, str]) -> tuple[str, float]:
    """A name with a number behind it."""
    name, _, number = text.strip().rpartition(" ")
    if not re.fullmatch(r"\d+(?:[.,]\d+)?", number):
        raise ShowError([Fault("does", f"{shortened(text)} needs a number behind the {noun}'s name")])
    return _named(noun, name, known), _number(number)


def _cue(show: Show, text: str) -> dict[str, Any]:
    """A list, and the cue of a number in it."""
    known = _lists(show)
    name, _, number = text.strip().rpartition(" ")
    if name and re.fullmatch(r"\d+(?:[.,]\d+)?", number):
        cues = show.cue_list(_named("cue list", name, known))
        cue = cues.numbered(_number(number))
        if cue is None:
            why = f"{cues.name} has no cue {number}; {choice(number, (number_words(c.number) for c in cues.cues))}"
            raise ShowError([Fault("does", why)])
        return {"list": cues.id, "cue": cue.id}
    return {"list": _named("cue list", text, known)}


def _switched(kind: type[Black] | type[Hold], show: Show, rest: str) -> Action:
    words = rest.strip()
    on = not words.lower().startswith("off")
    return kind(on=on, outputs=_many("output", words if on else words[3:], _outputs(show)))


def _muted(show: Show, rest: str) -> Action:
    words = rest.strip()
    on = not words.lower().startswith("off")
    return Mute(on=on, mixes=_many("mix", words if on else words[3:], {m.id: m.name for m in show.sound.mixes}))


def _arranged(show: Show, rest: str) -> Action:
    """A wall, and behind "as" the one that it is laid out like."""
    known = {w.id: w.name for w in show.walls}
    name, _, like = f"{rest.strip()} ".rpartition(" as ") if " as " in rest else (rest.strip(), "", "")
    return Arrange(wall=_named("wall", name, known), like=_named("wall", like, known) if like.strip() else None)


def _message(show: Show, rest: str) -> Action:
    """Words for a clock, behind its name and a colon."""
    name, _, text = rest.partition(":")
    return Message(source=_named("source", name, _sources(show)), text=text.strip())


def _override(show: Show, rest: str) -> Action:
    """What is shown in place of everything: ``black Relay``, or a source ``on`` surfaces."""
    shows, _, where = rest.strip().partition(" ")
    if shows.lower() in ("black", "hold", "pattern") and " on " not in where.lower():
        made = {"shows": shows.lower(), "surfaces": _many("surface or zone", where, _places(show)) or ()}
    else:
        source, _, where = rest.rpartition(" on ") if " on " in rest else (rest, "", "")
        surfaces = _many("surface or zone", where, _places(show)) or ()
        made = {"shows": "source", "source": _named("source", source, _sources(show)), "surfaces": surfaces}
    return Override.model_validate(made)


def action_from_words(text: str, show: Show) -> Action:
    """An action from words.

    Parameters
    ----------
    text : str
        A preset's number, which is recalled; or a verb of `_VERBS` with what belongs to it, such as ``7 in 2``,
        ``cut``, ``black off``, ``play Orrery``, ``to Orrery 12.5``, ``page Notes 3``, ``start Foyer loop``; or a source
        ``on`` a surface.
    show : Show
        Whose names they are.

    Returns
    -------
    Action

    Raises
    ------
    ShowError
        Naming the word that is not known, and those that are.
    """
    words = text.strip()
    within = _IN.search(words)
    seconds = None if within is None else _number(within[1])
    bare = words if within is None else words[: within.start()]
    if re.fullmatch(r"\d+", bare):
        return Recall(preset=int(bare), seconds=seconds)
    verb, _, rest = bare.partition(" ")
    made: dict[str, Callable[[], Action]] = {
        "recall": lambda: Recall(preset=int(rest), seconds=seconds),
        "stage": lambda: StagePreset(preset=int(rest)),
        "unstage": Unstage,
        "take": lambda: Take(seconds=seconds, surfaces=_many("surface or zone", rest, _places(show))),
        "cut": lambda: Cut(surfaces=_many("surface or zone", rest, _places(show))),
        "back": lambda: Back(seconds=seconds),
        "black": lambda: _switched(Black, show, rest),
        "hold": lambda: _switched(Hold, show, rest),
        "mute": lambda: _muted(show, rest),
        "wall": lambda: _arranged(show, rest),
        "keep": lambda: Keep(surface=_named("surface or zone", rest, _places(show))),
        "release": lambda: Release(surface=_named("surface or zone", rest, _places(show))),
        "play": lambda: Play(source=_named("source", rest, _sources(show))),
        "pause": lambda: Pause(source=_named("source", rest, _sources(show))),
        "to": lambda: To(**dict(zip(("source", "seconds"), _with_number("source", rest, _sources(show)), strict=True))),
        "next": lambda: Next(source=_named("source", rest, _sources(show))),
        "previous": lambda: Previous(source=_named("source", rest, _sources(show))),
        "page": lambda: Page(**dict(zip(("source", "to"), _with_number("source", rest, _sources(show)), strict=True))),
        "send": lambda: SendFeed(feed=_named("feed", rest, {f.id: f.name for f in show.feeds})),
        "end": lambda: SendFeed(feed=_named("feed", rest, {f.id: f.name for f in show.feeds}), on=False),
        "go": lambda: Go(**_cue(show, rest)),
        "arm": lambda: Arm(**_cue(show, rest)),
        "start": lambda: StartList(list=_named("cue list", rest, _lists(show))),
        "stop": lambda: StopList(list=_named("cue list", rest, _lists(show))),
        "message": lambda: _message(show, rest),
        "wait": lambda: PauseList(list=_named("cue list", rest, _lists(show))),
        "signal": lambda: Fire(name=rest.strip()),
        "override": lambda: _override(show, rest),
        "lift": lambda: Lift(surfaces=_many("surface or zone", rest, _places(show))),
    }
    source, found, _ = bare.rpartition(" on ")
    known = {n.lower() for pair in _sources(show).items() for n in pair}
    routed = bool(found) and source.strip().lower() in known  # a source may be called like a verb
    try:
        if verb.lower() in made and not routed:
            return made[verb.lower()]()
        source, found, surface = bare.rpartition(" on ")
        if found:
            nothing = source.strip().lower() == "nothing"
            return Route(
                source=None if nothing else _named("source", source, _sources(show)),
                surface=_named("surface", surface, {s.id: s.name for s in show.surfaces}),
                on="program",
                seconds=seconds,
            )
    except ValidationError as error:
        raise ShowError([Fault("does", sentence_of(error))]) from None
    except ValueError as error:
        if isinstance(error, ShowError):
            raise
        why = f"{shortened(rest)} is no number of a preset; type one like {verb} 7"
        raise ShowError([Fault("does", why)]) from None
    why = f"{shortened(verb)} is nothing a cue does; type a preset's number, a source on a surface, or "
    raise ShowError([Fault("does", why + ", ".join(_VERBS))])


def _in(seconds: float | None) -> str:
    return "" if seconds is None else f" in {seconds:g}"


def action_words(action: Action, show: Show) -> str:
    """An action in the words that `action_from_words` reads; by its own name if there are none for it."""

    def name(known: Mapping[str, str], id: str) -> str:
        return known.get(id, id)

    def names(known: Mapping[str, str], ids: Iterable[str] | None) -> str:
        return "" if ids is None else " " + ", ".join(name(known, id) for id in ids)

    def cue(action: Arm | Go) -> str:
        found = show.cue_list(action.list).cue(action.cue) if action.list in _lists(show) else None
        return name(_lists(show), action.list) + ("" if found is None else f" {number_words(found.number)}")

    match action:
        case Recall(preset=number, seconds=seconds):
            return f"{number}{_in(seconds)}"
        case StagePreset(preset=number):
            return f"stage {number}"
        case Take(seconds=seconds, surfaces=surfaces):
            return f"take{names(_places(show), surfaces)}{_in(seconds)}"
        case Cut(surfaces=surfaces):
            return f"cut{names(_places(show), surfaces)}"
        case Back(seconds=seconds):
            return f"back{_in(seconds)}"
        case Black(on=on, outputs=outputs) | Hold(on=on, outputs=outputs):
            return f"{action.do}{'' if on else ' off'}{names(_outputs(show), outputs)}"
        case Mute(on=on, mixes=mixes):
            known = {m.id: m.name for m in show.sound.mixes}
            return f"mute{'' if on else ' off'}{names(known, mixes)}"
        case Arrange(wall=wall, like=like):
            walls = {w.id: w.name for w in show.walls}
            return f"wall {name(walls, wall)}{'' if like is None else f' as {name(walls, like)}'}"
        case Keep(surface=surface) | Release(surface=surface):
            return f"{action.do} {name(_places(show), surface)}"
        case To(source=source, seconds=seconds):
            return f"to {name(_sources(show), source)} {seconds:g}"
        case Page(source=source, to=number):
            return f"page {name(_sources(show), source)} {number}"
        case Play(source=source) | Pause(source=source) | Next(source=source) | Previous(source=source):
            return f"{action.do} {name(_sources(show), source)}"
        case Route(source=source, surface=surface, seconds=seconds):
            what = "nothing" if source is None else name(_sources(show), source)
            return f"{what} on {name({s.id: s.name for s in show.surfaces}, surface)}{_in(seconds)}"
        case SendFeed(feed=feed, on=on):
            return f"{'send' if on else 'end'} {name({f.id: f.name for f in show.feeds}, feed)}"
        case Arm() | Go():
            return f"{action.do} {cue(action)}"
        case StartList(list=id) | StopList(list=id):
            return f"{'start' if action.do == 'start-list' else 'stop'} {name(_lists(show), id)}"
        case Message(source=source, text=text):
            return f"message {name(_sources(show), source)}: {text}".rstrip()
        case PauseList(list=id, on=True):
            return f"wait {name(_lists(show), id)}"
        case Fire(name=signal):
            return f"signal {signal}"
        case Override(shows="source", source=str(source), surfaces=surfaces):
            return f"override {name(_sources(show), source)} on{names(_places(show), surfaces)}"
        case Override(shows=shows, surfaces=surfaces):
            return f"override {shows}{names(_places(show), surfaces)}"
        case Lift(surfaces=surfaces):
            return f"lift{names(_places(show), surfaces)}"
    return str(action.do)


def does_words(cue: Cue, show: Show) -> str:
    """All that a cue does, as it is typed.

    Parameters
    ----------
    cue : Cue
    show : Show
    """
    parts = [(f"+{d.delay:g} " if d.delay else "") + action_words(d.action, show) for d in cue.does]
    return "; ".join(parts)


def does_from(text: str, show: Show, before: Cue | None = None) -> tuple[Doing, ...]:
    """What a cue does, from words: actions with ``;`` between them, each with ``+ seconds`` before it if it is to wait.

    Parameters
    ----------
    text : str
    show : Show
    before : Cue, optional
        As it was: what has no words of its own stays where its name stands.

    Returns
    -------
    tuple of Doing

    Raises
    ------
    ShowError
        In one sentence.
    """
    kept = {action_words(d.action, show): d.action for d in (before.does if before is not None else ())}
    found = []
    for part in (p.strip() for p in text.split(";")):
        if not part:
            continue
        waits = _DELAY.match(part)
        bare = part[waits.end() :] if waits is not None else part
        action = kept[bare] if bare in kept else action_from_words(bare, show)
        try:
            found.append(Doing(action=action, delay=0.0 if waits is None else _number(waits[1])))
        except ValidationError as error:
            raise ShowError([Fault("does", sentence_of(error))]) from None
    return tuple(found)


def time_from(text: str) -> str:
    """A time of day as documents have it.

    Raises
    ------
    ShowError
        If it is none.

    Examples
    --------
    >>> time_from("8:05"), time_from(" 20:00:30 ")
    ('08:05', '20:00:30')
    """
    found = _TIME.fullmatch(text.strip())
    if found is None or int(found[1]) > 23 or int(found[2]) > 59 or int(found[3] or 0) > 59:
        why = f"{shortened(text.strip())} is no time of day; type one like 20:00 or 20:00:30"
        raise ShowError([Fault("time", why)])
    return f"{int(found[1]):02d}:{found[2]}" + (f":{found[3]}" if found[3] else "")


def fires_words(fires: Fires, show: Show) -> str:
    """What fires a cue, as it is typed.

    Examples
    --------
    >>> show = Show(name="S")
    >>> [fires_words(f, show) for f in (ByHand(), AfterFormer(), AfterFormer(seconds=3), AfterFormer(of="end"))]
    ['', 'with', '+3', 'end']
    """
    match fires:
        case AfterFormer(seconds=seconds, of="begin"):
            return f"+{seconds:g}" if seconds else "with"
        case AfterFormer(seconds=seconds):
            return f"end +{seconds:g}" if seconds else "end"
        case AtPlayer(source=source, at=at):
            return f"{_sources(show).get(source, source)} {'end' if at is None else f'{at:g}'}"
        case AtTime(at=at):
            return at
        case AtCode(at=at):
            return f"code {at}"
        case AtSignal(name=name):
            return f"signal {name}"
    return ""


def fires_from(text: str, show: Show) -> Fires:
    """What fires a cue, from words: nothing or ``hand``; ``with`` the one before; ``+3`` seconds behind it; ``end``, or
    ``end +3``, behind its end; a time of day; a source with a moment or ``end``; ``code`` with a timecode; ``signal``
    with a name.

    Parameters
    ----------
    text : str
    show : Show

    Returns
    -------
    Fires

    Raises
    ------
    ShowError
        In one sentence.
    """
    words = text.strip()
    low = words.lower()
    seconds = r"\+?\s*(\d+(?:[.,]\d+)?)\s*s?"
    try:
        if low in ("", "hand"):
            return ByHand()
        if low == "with":
            return AfterFormer()
        if low == "end":
            return AfterFormer(of="end")
        if (found := re.fullmatch(r"\+" + seconds[3:], low)) is not None:
            return AfterFormer(seconds=_number(found[1]))
        if (found := re.fullmatch(r"end\s*" + seconds, low)) is not None:
            return AfterFormer(seconds=_number(found[1]), of="end")
        if _TIME.fullmatch(low) is not None:
            return AtTime(at=time_from(low))
        if low.startswith("code "):
            return AtCode(at=words[5:].strip())
        if low.startswith("signal "):
            return AtSignal(name=words[7:].strip())
        name, _, at = words.rpartition(" ")
        if name and at.lower() == "end":
            return AtPlayer(source=_named("source", name, _sources(show)))
        if name and re.fullmatch(r"\d+(?:[.,]\d+)?", at):
            return AtPlayer(source=_named("source", name, _sources(show)), at=_number(at))
    except ValidationError as error:
        raise ShowError([Fault("fires", sentence_of(error))]) from None
    except ShowError as error:
        raise ShowError([Fault("fires", f.what) for f in error.faults]) from None
    why = (
        "leave it empty for by hand, or type with, +3, end, end +3, 20:00, a source and a moment, "
        "code 01:00:00:00, or signal and a name"
    )
    raise ShowError([Fault("fires", f"{shortened(words)} fires nothing; {why}")])
