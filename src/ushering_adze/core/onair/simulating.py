"""A calendar tried beforehand: what it would make happen within days, worked out in seconds."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ushering_adze.core.onair.actions import begun, done_in, run_lists
from ushering_adze.core.onair.calendar import Agenda, Occurrence, Turn, changes, local_of, turned, zone_of
from ushering_adze.core.onair.cues import Seen, following_at, head_of
from ushering_adze.core.onair.planning import rested
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Show

STEP = 600.0
"""Seconds from one look at the cue lists to the next."""


class Then(NamedTuple):
    """What a calendar did at a moment: the turn, the stage behind it, and how many cues lists have fired since the one
    before.
    """

    turn: Turn
    stage: Stage
    fired: dict[str, int]


def simulated(show: Show, of: Agenda, zone: str) -> Iterator[Then]:
    """Everything that a calendar makes happen within a window, in order; first of all what must be on at its beginning.

    Cue lists run as they would, in their own time.

    Parameters
    ----------
    show : Show
    of : Agenda
    zone : str
        The show's time zone, by which cues fire at times of day.
    """
    here = zone_of(show.time_zone or zone)

    def seen(at: float) -> Seen:
        local = local_of(at, here)
        return Seen(local.hour * 3600.0 + local.minute * 60 + local.second + at % 1)

    stage, last = begun(Stage.opened(show), 0.0), of.since
    on: tuple[Occurrence, ...] = ()
    counts: dict[str, int] = {}
    heads = {y.id: head_of(stage, y.id).at for y in show.lists}

    def ran(stage: Stage, until: float) -> Stage:
        """The lists run on, looked at often enough that every cue is counted."""
        clock = last - of.since
        while clock < until - of.since:
            due = min((_next(stage, y.id, clock) for y in show.lists), default=clock + STEP)
            clock = min(until - of.since, clock + STEP, max(due, clock + 0.05))
            stage = run_lists(stage, clock, seen(of.since + clock))
            for cues in show.lists:
                at = head_of(stage, cues.id).at
                if at is not None and at != heads[cues.id]:
                    heads[cues.id], counts[cues.id] = at, counts.get(cues.id, 0) + 1
        return rested(stage)

    for at in (of.since, *(m for m in changes(of) if m > of.since)):
        stage = ran(stage, at)
        turn = turned(show, of, on, last if at > of.since else at, at)
        for _, action in turn.does:
            stage = done_in(stage, action, at - of.since)
        if turn.does or turn.begun or turn.ended or turn.happened or at == of.since:
            yield Then(turn, stage, dict(counts))
            counts.clear()
        on, last = turn.on, at
    stage = ran(stage, of.until)
    if counts:
        yield Then(Turn(of.until, on), stage, dict(counts))


def _next(stage: Stage, list: str, clock: float) -> float:
    """When a list does something by itself next, as far as that is known without looking; else some time on."""
    cues, head = stage.show.cue_list(list), head_of(stage, list)
    armed = cues.cue(head.armed)
    found = [c.at for c in head.coming]
    at = None if armed is None or head.stopped else following_at(stage, cues, armed)
    if at is not None:
        found.append(at)
    return min((f for f in found if f > clock), default=clock + STEP)
