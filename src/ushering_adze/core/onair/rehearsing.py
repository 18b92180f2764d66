"""Rehearsing: a cue list runs on a stage of its own, in its time, faster, or step by step; what is on air stays."""

from __future__ import annotations

from dataclasses import replace

from ushering_adze.core.onair.cues import Do, Seen, head_of, run, with_list
from ushering_adze.core.onair.planning import APART, after_cue, armed_as_if
from ushering_adze.core.onair.stage import Rehearsal, Stage
from ushering_adze.core.show.actions import Arm, Go, PauseList, Rehearse, StartList, StopList
from ushering_adze.core.show.zoning import surfaces_in


def is_rehearsed(stage: Stage, list: str) -> bool:
    """Whether a list is rehearsed now."""
    return stage.rehearsal is not None and stage.rehearsal.list == list


def with_rehearsal(stage: Stage, action: Rehearse, now: float) -> Stage:
    """The stage with a rehearsal begun, changed or ended.

    It begins from what is on air, with the cue that is armed; its clock goes on where it is when only its speed is
    another.

    Parameters
    ----------
    stage : Stage
    action : Rehearse
    now : float
        Seconds of the stage's clock.
    """
    if action.list is None:
        return replace(stage, rehearsal=None)
    let, was = frozenset(surfaces_in(stage.show, action.let)), stage.rehearsal
    if was is not None and was.list == action.list:
        return replace(stage, rehearsal=replace(was, at=was.clock(now), since=now, speed=action.speed, let=let))
    own = replace(stage, rehearsal=None, edits=(), staged=None, overrides={})
    head = head_of(own, action.list)
    own = replace(own, looked=now, heads={**own.heads, action.list: head._replace(coming=())})
    return replace(stage, rehearsal=Rehearsal(action.list, own, now, now, action.speed, let))


def in_rehearsal(stage: Stage, action: Arm | Go | StartList | StopList | PauseList, now: float, do: Do) -> Stage:
    """The stage after something was done with the list that is rehearsed; nothing of it is on air.

    Parameters
    ----------
    stage : Stage
    action : Arm, Go, StartList, StopList or PauseList
    now : float
        Seconds of the stage's clock.
    do : callable
        Makes one action happen.
    """
    tried = stage.rehearsal
    assert tried is not None
    own, clock = tried.stage, tried.clock(now)
    match action:
        case Go(cue=named) if tried.speed <= 0:
            cue = own.show.cue_list(tried.list).cue(head_of(own, tried.list).armed if named is None else named)
            if cue is not None:  # a step: all that it does is done, and at rest
                own = after_cue(own, tried.list, cue, clock, do)
                tried = replace(tried, at=clock + APART)
        case Arm(cue=str(cue), as_if=True):
            own = armed_as_if(own, tried.list, cue, do)
        case _:
            own = with_list(own, action, clock, do)
    return replace(stage, rehearsal=replace(tried, stage=own))


def rehearsed(stage: Stage, now: float, do: Do, seen: Seen = Seen()) -> Stage:
    """The stage with all that its rehearsal has done by itself until a moment.

    Parameters
    ----------
    stage : Stage
    now : float
        Seconds of the stage's clock.
    do : callable
        Makes one action happen.
    seen : Seen, optional
        By the true clock.
    """
    tried = stage.rehearsal
    if tried is None or tried.speed <= 0:
        return stage
    clock = tried.clock(now)
    day = None if seen.day is None else seen.day + clock - now
    own = run(tried.stage, clock, do, Seen(day, seen.lengths, seen.codes)).played(clock)
    if own.program.tracks and not own.program.moving(clock):
        own = replace(own, program=own.program.settled(clock))
    return replace(stage, rehearsal=replace(tried, stage=own))
