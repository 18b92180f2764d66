"""The evening along time: when each cue is planned, what surfaces show from one to the next, where players stand."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.onair.cues import cue_seconds, head_of
from ushering_adze.core.onair.on_time import on_for
from ushering_adze.core.onair.planning import Cell, Plan
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import differing, parts_from
from ushering_adze.core.picture.layers import State
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import SetPreview
from ushering_adze.core.show.cue import AfterFormer, Cue
from ushering_adze.core.text.clocks import DAY, seconds_of_day

UNKNOWN = 60.0
"""Seconds that are drawn for a cue of which nobody has said how long it stands."""


class Span(NamedTuple):
    """A surface shows the same from ``begin`` to ``end``, in seconds from the first cue."""

    begin: float
    end: float
    cell: Cell


class Run(NamedTuple):
    """A source is on air from ``begin`` to ``end``; it is ``length`` seconds long."""

    begin: float
    end: float
    length: float


class Timeline(NamedTuple):
    """Moments of cues in seconds from the first one, which is at ``day`` seconds from midnight if that is planned."""

    cues: tuple[tuple[float, Cue], ...]
    end: float
    day: float | None
    rows: dict[str, tuple[Span, ...]]
    players: dict[str, tuple[Run, ...]]

    def at(self, seconds: float) -> Cue | None:
        """The cue that is on at a moment."""
        return next((c for at, c in reversed(self.cues) if at <= seconds), None)


def moments_of(show: Show, cues: tuple[Cue, ...]) -> tuple[tuple[float, ...], float]:
    """When each cue is planned, in seconds from the first, and when the last of them is over.

    By its planned start; else behind the one before it as it follows that, or by that one's planned length.

    Parameters
    ----------
    show : Show
    cues : tuple of Cue
        In order.
    """
    zero = next((seconds_of_day(c.start) for c in cues[:1] if c.start is not None), None)
    found: list[float] = []

    def stands(cue: Cue) -> float:
        return cue.length if cue.length is not None else max(UNKNOWN, cue_seconds(show, cue))

    for n, cue in enumerate(cues):
        if n == 0:
            found.append(0.0)
            continue
        before, at = cues[n - 1], found[-1]
        if cue.start is not None and zero is not None:
            planned = (seconds_of_day(cue.start) - zero) % DAY
            at = max(at, float(planned)) if planned < DAY / 2 else at
        elif isinstance(cue.fires, AfterFormer):
            at += cue.fires.seconds + (cue_seconds(show, before) if cue.fires.of == "end" else 0.0)
        else:
            at += stands(before)
        found.append(at)
    return tuple(found), (found[-1] + stands(cues[-1]) if cues else 0.0)


def timeline_of(show: Show, plan: Plan, lengths: Mapping[str, float]) -> Timeline:
    """The plan of a list along time.

    Parameters
    ----------
    show : Show
    plan : Plan
    lengths : mapping
        Seconds of sources, by their ids.
    """
    moments, end = moments_of(show, plan.cues)
    ends = (*moments[1:], end)
    rows: dict[str, tuple[Span, ...]] = {}
    shown: dict[str, list[tuple[float, float]]] = {}
    for surface, cells in plan.cells.items():
        spans: list[Span] = []
        for begin, until, cell in zip(moments, ends, cells, strict=True):
            if spans and not cell.changed:
                spans[-1] = spans[-1]._replace(end=until)
            else:
                spans.append(Span(begin, until, cell))
            for id in cell.ids:
                shown.setdefault(id, []).append((begin, until))
        rows[surface] = tuple(spans)
    players = {
        s.id: tuple(Run(a, b, lengths[s.id]) for a, b in _joined(shown[s.id]))
        for s in show.sources
        if s.id in shown and lengths.get(s.id, 0.0) > 0
    }
    first = plan.cues[0].start if plan.cues else None
    day = None if first is None else float(seconds_of_day(first))
    return Timeline(tuple(zip(moments, plan.cues, strict=True)), end, day, rows, players)


def _joined(spans: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Spans that touch or overlap, as one."""
    found: list[tuple[float, float]] = []
    for begin, end in sorted(spans):
        if found and begin <= found[-1][1] + 1e-9:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((begin, end))
    return found


def place_of_now(stage: Stage, list: str, line: Timeline) -> float | None:
    """Where an evening is on its timeline: as long behind its last cue as that is on, at most where the next is; None
    if none was fired.
    """
    head, on = head_of(stage, list), on_for(stage, list)
    for n, (at, cue) in enumerate(line.cues):
        if cue.id == head.fired and on is not None:
            until = line.cues[n + 1][0] if n + 1 < len(line.cues) else line.end
            return min(at + on, until)
    return None


def preview_of(stage: Stage, wanted: State, preset: int | None) -> SetPreview:
    """The action that puts a state on preview, upon a preset if it has one; nothing goes on air, and no cue is armed.

    Parameters
    ----------
    stage : Stage
    wanted : State
    preset : int or None
    """
    alone = stage.stage(preset) if preset is not None and stage.show.preset(preset) is not None else stage.stage(None)
    grid: dict[tuple[tuple[str, str], str], How] = {
        cell: BY_NAME[cell[1]].arrives for cell in differing(stage.show, wanted, alone.preview())
    }
    return SetPreview(preset=alone.staged, edits=parts_from(stage.show, wanted, grid))
