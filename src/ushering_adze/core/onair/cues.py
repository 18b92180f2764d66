"""Running cue lists: cues armed, fired by hand, by one another, by players, by the clock and by signals."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import NamedTuple
from zlib import crc32

from ushering_adze.core.onair.chasing import Code, Codes, Place, position, reached
from ushering_adze.core.onair.heads import Coming, Head
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import (
    Action,
    Arm,
    Back,
    Black,
    Cut,
    Edit,
    Fire,
    Go,
    Hold,
    Keep,
    Lift,
    Override,
    PauseList,
    Recall,
    Release,
    Route,
    StartList,
    StopList,
    Take,
)
from ushering_adze.core.show.cue import AfterFormer, AtCode, AtPlayer, AtSignal, AtTime, ByHand, Cue, CueList
from ushering_adze.core.show.zoning import surfaces_in
from ushering_adze.core.text.clocks import DAY, seconds_of_day

AGAIN = 0.3
"""Seconds within which a second firing by hand is taken for a slip."""
MOST = 256
"""Cues and actions that one look at the lists makes happen; what is left is for the next."""

Do = Callable[[Stage, Action, float], Stage]
"""Makes one action happen that is none of a list."""


class Seen(NamedTuple):
    """What lists go by beside the stage.

    ``day`` is the time of day at the moment that is looked at, in seconds from midnight; ``lengths`` are those of
    sources, in seconds; ``codes`` timecodes as they were last heard, by where they come from.
    """

    day: float | None = None
    lengths: Mapping[str, float] = {}
    codes: Codes = {}


def cue_seconds(show: Show, cue: Cue) -> float:
    """How long it takes until all that a cue does has happened: fades and delays.

    Parameters
    ----------
    show : Show
    cue : Cue
    """
    found, staged = 0.0, None
    for doing in cue.does:
        seconds: float | None = 0.0
        match doing.action.do:
            case "stage":
                staged = show.preset(doing.action.preset)
            case "recall":
                preset = show.preset(doing.action.preset)
                seconds = doing.action.seconds
                if seconds is None:
                    seconds = preset.seconds if preset is not None else 0.0
            case "take":
                seconds = doing.action.seconds
                if seconds is None:
                    seconds = staged.seconds if staged is not None else 0.0
            case "route" | "back" | "edit":
                seconds = doing.action.seconds
        found = max(found, doing.delay + (seconds or 0.0))
    return found


def head_of(stage: Stage, list: str) -> Head:
    """Where a list stands; one that was never touched has its first cue armed."""
    found = stage.heads.get(list)
    if found is not None:
        return found
    first = stage.show.cue_list(list).after(None)
    return Head(armed=None if first is None else first.id)


def _with_head(stage: Stage, list: str, head: Head) -> Stage:
    return replace(stage, heads={**stage.heads, list: head})


def _reach(show: Show, stage: Stage, cues: CueList) -> frozenset[str]:
    """The surfaces that a list must not touch: all but those it claims, and those that others which run claim."""
    every = frozenset(s.id for s in show.surfaces)
    out = every - set(surfaces_in(show, cues.claims)) if cues.claims else frozenset()
    for other in show.lists:
        if other.id != cues.id and other.claims and head_of(stage, other.id).going:
            out |= frozenset(surfaces_in(show, other.claims))
    return out


def _held_to(show: Show, action: Action, out: frozenset[str]) -> Action | None:
    """An action without the surfaces it must not touch, and the outputs that feed them; None if nothing is left."""
    match action:
        case Override(surfaces=named):
            left = tuple(id for id in surfaces_in(show, named) if id not in out)
        case Lift(surfaces=named) if named is not None:
            left = tuple(id for id in surfaces_in(show, named) if id not in out)
        case Lift():
            left = tuple(s.id for s in show.surfaces if s.id not in out)
        case Keep(surface=named) | Release(surface=named):
            return None if out & set(surfaces_in(show, (named,))) else action
        case Black(outputs=named) | Hold(outputs=named):
            never = {r.output for id in out for r in show.feeds_of(id)}
            wanted = tuple(o.id for o in show.outputs) if named is None else named
            outputs = tuple(id for id in wanted if id not in never)
            return action.model_copy(update={"outputs": outputs}) if outputs else None
        case _:
            return action
    return action.model_copy(update={"surfaces": left}) if left else None


def _done(show: Show, stage: Stage, cues: CueList, action: Action, now: float, do: Do) -> Stage:
    """The stage after an action of a list, which leaves alone what the list must not touch."""
    if isinstance(action, Override) and not action.by:
        action = action.model_copy(update={"by": f"list {cues.name}"[:80]})
    if not isinstance(action, (Recall, Take, Cut, Route, Edit, Back, Override, Lift, Keep, Release, Black, Hold)):
        return do(stage, action, now)
    out = _reach(show, stage, cues)
    held = _held_to(show, action, out) if out else action
    if held is None:
        return stage
    if not out or held is not action or isinstance(action, (Keep, Release)):
        return do(stage, held, now)
    done = do(replace(stage, kept=stage.kept | out), action, now)
    whole = done.on_program if not cues.claims else stage.on_program  # a part of the room names not the whole
    return replace(done, kept=stage.kept, on_program=whole)


def armed(stage: Stage, list: str, cue: str | None) -> Stage:
    """The stage with a cue armed; its preset is on preview, unless something was edited there."""
    cues = stage.show.cue_list(list)
    found = cues.cue(cue)
    if head_of(stage, list).as_if:
        stage = replace(stage, edits=())  # they were of the cue that was armed
    head = head_of(stage, list)._replace(armed=None if found is None else found.id, ignored=None, as_if=False)
    after = _with_head(stage, list, head)
    if found is None or not cues.previews or stage.edits or found.preset is None:
        return after
    return after.stage(found.preset)


def _next_of(cues: CueList, cue: Cue, head: Head, now: float) -> Cue | None:
    """What is armed behind a cue: the one after it; in a list that is shuffled any but those that were on of late, the
    same one whenever the same was fired at the same moment.
    """
    order = cues.ordered
    if not cues.shuffle or len(order) < 3:
        return cues.after(cue.id)
    late = {id for id, _ in head.times[-(len(order) // 2) :]} | {cue.id}
    left = [c for c in order if c.id not in late] or [c for c in order if c.id != cue.id]
    return left[crc32(f"{cues.id} {cue.id} {now:.3f}".encode()) % len(left)]


def fired(stage: Stage, list: str, cue: Cue, now: float, do: Do) -> Stage:
    """The stage after a cue was fired at a moment: what it does at once has happened, the next one is armed."""
    show = stage.show
    cues, head = show.cue_list(list), head_of(stage, list)
    following, as_if = _next_of(cues, cue, head, now), head.as_if and head.armed == cue.id and bool(stage.edits)

    def meant(action: Action) -> Action:
        """As if all before had run, what is on preview is taken where the cue recalls its preset."""
        mine = isinstance(action, Recall) and action.preset == cue.preset and stage.staged == cue.preset
        return Take(seconds=action.seconds) if as_if and mine and isinstance(action, Recall) else action

    later = tuple(Coming(now + d.delay, meant(d.action)) for d in cue.does if d.delay > 0)
    came, past = resumed(head, now).coming, head.times
    head = Head(None if following is None else following.id, cue.id, now, True, (*came, *later), code=head.code)
    times = (*(t for t in past if t[0] != cue.id), (cue.id, now))
    head = head._replace(times=times)
    after = _with_head(stage, list, head)
    for doing in cue.does:
        if doing.delay <= 0:
            after = _done(show, after, cues, meant(doing.action), now, do)
    moved = head_of(after, list).armed  # a cue may arm another one itself
    return armed(after, list, moved)


def resumed(head: Head, now: float) -> Head:
    """A list going on: what was still to come, comes as much later as it was paused."""
    if head.paused is None:
        return head
    late = now - head.paused
    coming = tuple(c._replace(at=c.at + late) for c in head.coming)
    return head._replace(paused=None, at=None if head.at is None else head.at + late, coming=coming)


def with_list(stage: Stage, action: Action, now: float, do: Do, by_hand: bool = True) -> Stage:
    """The stage after an action on a list.

    Parameters
    ----------
    stage : Stage
    action : Arm, Go, StartList, StopList or Fire
    now : float
        Seconds of the stage's clock.
    do : callable
        Makes one action of a cue happen.
    by_hand : bool
        Somebody asked for it, and may have slipped; it is no cue that fires another one.

    Returns
    -------
    Stage
    """
    match action:
        case Arm(list=id, cue=cue):
            return armed(_with_head(stage, id, resumed(head_of(stage, id), now)._replace(stopped=False)), id, cue)
        case PauseList(list=id, on=on):
            head = head_of(stage, id)
            if not on:
                return _with_head(stage, id, resumed(head, now))
            return stage if head.paused is not None else _with_head(stage, id, head._replace(paused=now))
        case Go(list=id, cue=named):
            head = head_of(stage, id)
            wanted = stage.show.cue_list(id).cue(head.armed if named is None else named)
            if by_hand and head.at is not None and 0 <= now - head.at < AGAIN:
                return _with_head(stage, id, head._replace(ignored=now))
            return _once(stage, id, wanted, now, do)
        case StartList(list=id):
            return _once(stage, id, stage.show.cue_list(id).after(None), now, do)
        case StopList(list=id):
            return _with_head(stage, id, head_of(stage, id)._replace(going=False, coming=(), stopped=True))
        case Fire(name=name):
            for cues in stage.show.lists:
                for waits in _waiting(stage, cues):
                    if isinstance(waits.fires, AtSignal) and waits.fires.name == name:
                        stage = fired(stage, cues.id, waits, now, do)
    return stage


def _once(stage: Stage, list: str, cue: Cue | None, now: float, do: Do) -> Stage:
    """The stage after a cue was fired, unless it was at this very moment: no circle of cues goes on for ever."""
    head = head_of(stage, list)
    return stage if cue is None or (head.fired == cue.id and head.at == now) else fired(stage, list, cue, now, do)


def _waiting(stage: Stage, cues: CueList) -> tuple[Cue, ...]:
    """The cues of a list that may fire by themselves now: none while it is stopped."""
    head = head_of(stage, cues.id)
    if head.stopped or head.paused is not None or (stage.rehearsal is not None and stage.rehearsal.list == cues.id):
        return ()
    if cues.any_order:
        return cues.ordered
    cue = cues.cue(head.armed)
    return () if cue is None or cue.off else (cue,)


def following_at(stage: Stage, cues: CueList, cue: Cue) -> float | None:
    """When a cue fires behind the one that was fired last; None if it does not follow that one, or the list stands."""
    head, fires = head_of(stage, cues.id), cue.fires
    former, following = cues.cue(head.fired), cues.after(head.fired)
    if not isinstance(fires, AfterFormer) or former is None or head.at is None or not head.going:
        return None
    if cues.shuffle and cue.id == head.armed:
        following = cue
    if following is None or following.id != cue.id:
        return None
    return head.at + fires.seconds + (cue_seconds(stage.show, former) if fires.of == "end" else 0.0)


def _when(stage: Stage, cues: CueList, cue: Cue, since: float, now: float, seen: Seen) -> float | None:
    """The moment from ``since`` to ``now`` at which a cue fires by itself; None if it does not."""
    at = None
    match cue.fires:
        case AfterFormer():
            at = following_at(stage, cues, cue)
            return at if at is not None and since <= at <= now else None
        case AtPlayer(source=source, at=wanted):
            at = _reached(stage, source, wanted, since, seen.lengths.get(source, 0.0))
        case AtTime(at=words) if seen.day is not None:
            at = now - (seen.day - seconds_of_day(words)) % DAY
    return at if at is not None and since < at <= now else None


def _reached(stage: Stage, source: str, wanted: float | None, since: float, length: float) -> float | None:
    """When a player is next, after a moment, where it is wanted; at its end if that is None."""
    player = stage.players.get(source)
    if player is None or player.since is None or player.speed <= 0:
        return None
    goal = length if wanted is None else wanted
    if goal <= 0 and wanted is None:
        return None
    at = player.since + (goal - player.at) / player.speed
    if at <= since and player.looping and length > 0:
        rounds = int((since - at) * player.speed / length) + 1
        at += rounds * length / player.speed
    return at


def _events(stage: Stage, since: float, now: float, seen: Seen) -> Iterator[tuple[float, int, str, Coming | Cue]]:
    """All that may happen by itself until now: moment, the place of its list, the list, and what it is."""
    for n, cues in enumerate(stage.show.lists):
        head = head_of(stage, cues.id)
        for coming in head.coming if head.paused is None else ():
            if coming.at <= now:
                yield coming.at, n, cues.id, coming
        for cue in _waiting(stage, cues):
            if not isinstance(cue.fires, (ByHand, AtSignal, AtCode)):
                at = _when(stage, cues, cue, since, now, seen)
                if at is not None:
                    yield at, n, cues.id, cue


def internal_code(stage: Stage) -> Code:
    """The timecode that the program makes itself."""
    at = stage.code
    return Code(at.at, 0.0 if at.since is None else at.since, True) if at.since is not None else Code(at.at, -1e9)


def _followed(stage: Stage, now: float, codes: Codes) -> tuple[Stage, list[tuple[float, int, str, Cue]]]:
    """The stage with its lists where they stand on their timecodes, and the cues that they have reached."""
    events: list[tuple[float, int, str, Cue]] = []
    for n, cues in enumerate(stage.show.lists):
        if cues.code is None:
            continue
        head, here = head_of(stage, cues.id), position(cues.code, codes, now)
        if here is None:
            continue  # it stands where it was: a code that comes back further on is a jump
        found = reached(cues, head.code, here, now)
        stage = _with_head(stage, cues.id, head._replace(code=Place(here, now)))
        if head.stopped or head.paused is not None or (stage.rehearsal is not None and stage.rehearsal.list == cues.id):
            continue
        if found.jumped_back:
            stage = armed(stage, cues.id, found.armed)
        events += [(at, n, cues.id, cue) for at, cue in found.cues]
    return stage, events


def run(stage: Stage, now: float, do: Do, seen: Seen = Seen()) -> Stage:
    """The stage at a moment, with all that its lists have done by themselves until then, each at its own moment.

    Parameters
    ----------
    stage : Stage
        Looked at last at ``stage.looked``; an edit since then fires nothing that would have come before.
    now : float
        Seconds of the stage's clock.
    do : callable
        Makes one action happen.
    seen : Seen

    Returns
    -------
    Stage
        The same, if there are no lists.
    """
    if not stage.show.lists:
        return stage
    since = now if stage.looked is None else stage.looked
    stage, coded = _followed(stage, now, {**seen.codes, "internal": internal_code(stage)})
    done: set[tuple[str, str, float]] = set()
    """Cues that have fired, and at which moment: once at each, so that no circle goes on for ever."""
    for _ in range(MOST):
        events = [
            e
            for e in (*_events(stage, since, now, seen), *coded)
            if isinstance(e[3], Coming) or (e[2], e[3].id, e[0]) not in done
        ]
        if not events:
            break
        at, _, list_id, what = min(events, key=lambda e: e[:2])
        head = head_of(stage, list_id)
        if isinstance(what, Coming):
            rest = list(head.coming)
            rest.remove(what)
            stage = _with_head(stage, list_id, head._replace(coming=tuple(rest)))
            stage = _done(stage.show, stage, stage.show.cue_list(list_id), what.action, at, do)
        else:
            done.add((list_id, what.id, at))
            stage = fired(stage, list_id, what, at, do)
    return replace(stage, looked=now)


def opened(stage: Stage, now: float, do: Do) -> Stage:
    """The stage with those lists begun that run by themselves."""
    for cues in stage.show.lists:
        if cues.runs and cues.id not in stage.heads:
            first = cues.after(None)
            if first is not None and isinstance(first.fires, (ByHand, AfterFormer)):
                stage = fired(stage, cues.id, first, now, do)
            else:
                stage = _with_head(stage, cues.id, head_of(stage, cues.id)._replace(going=True))
    return stage


def seconds_to(stage: Stage, list: str) -> float | None:
    """Seconds until the armed cue fires behind the one before it, as the stage was looked at last; None if it does not.

    Parameters
    ----------
    stage : Stage
    list : str
        Id of the list.
    """
    cues = stage.show.cue_list(list)
    cue = cues.cue(head_of(stage, list).armed)
    at = None if cue is None else following_at(stage, cues, cue)
    paused = head_of(stage, list).paused
    seen = stage.looked if paused is None else paused
    left = None if at is None or seen is None else at - seen
    return left if left is not None and left >= 0 else None
