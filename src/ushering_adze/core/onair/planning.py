"""The evening worked out beforehand: what every surface will show after each cue of a list."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.kinds.on_its_way import sources_in
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.onair.cues import Do, armed, fired, head_of
from ushering_adze.core.onair.delta import SeenThrough, source_names, visible
from ushering_adze.core.onair.motion import at_rest
from ushering_adze.core.onair.overriding import override_words
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import differing, parts_from
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.show import Show
from ushering_adze.core.show.cue import Cue, CueList

APART = 1e6
"""Seconds from one cue to the next, where a list is worked out: all that moves has come to rest."""


class Cell(NamedTuple):
    """What a surface shows after a cue: names of sources, the topmost first; in a word what is done to it beside that;
    whether it showed something else before, and after how many cues it was last another.  ``ids`` are the same sources.
    """

    ids: tuple[str, ...]
    sources: tuple[str, ...]
    state: str
    changed: bool
    since: int

    @property
    def words(self) -> str:
        """In one line."""
        return self.state if self.state in ("black", "no region") else " + ".join(self.sources) or "nothing"


class Plan(NamedTuple):
    """Surfaces down, cues across: ``cells`` by the id of a surface, one for each of ``cues``."""

    cues: tuple[Cue, ...]
    cells: dict[str, tuple[Cell, ...]]


def rested(stage: Stage) -> Stage:
    """The stage with all that was on its way arrived."""
    return replace(stage, program=at_rest(stage.program.target))


def after_cue(stage: Stage, list: str, cue: Cue, now: float, do: Do) -> Stage:
    """The stage when all that a cue does has been done and has come to rest; what comes behind it has not begun."""
    stage = replace(fired(replace(stage, edits=()), list, cue, now, do), edits=())
    head = head_of(stage, list)
    stage = replace(stage, heads={**stage.heads, list: head._replace(coming=())})
    for coming in sorted(head.coming, key=lambda c: c.at):
        stage = do(stage, coming.action, coming.at)
    return rested(stage)


def after_each(stage: Stage, cues: CueList, do: Do) -> tuple[Stage, ...]:
    """The stage after each cue of a list, in order, were they fired one after another from a stage.

    Parameters
    ----------
    stage : Stage
    cues : CueList
    do : callable
        Makes one action happen.
    """
    found, stage = [], rested(stage)
    for n, cue in enumerate(cues.ordered, 1):
        stage = after_cue(stage, cues.id, cue, n * APART, do)
        found.append(stage)
    return tuple(found)


class _Shown(NamedTuple):
    """What a surface shows: the layers that can be seen, the state in a word, and what overrides them."""

    stack: tuple[LayerState, ...]
    state: str
    override: tuple[str, str | None] | None = None

    def ids(self) -> tuple[str, ...]:
        if self.override is not None:
            return () if self.override[1] is None else (self.override[1],)
        return tuple(dict.fromkeys(id for layer in self.stack for id in sources_in(layer.picture)))

    def names(self, show: Show) -> tuple[str, ...]:
        return source_names(show, self.stack) if self.override is None else (self.override[0],)


def _shown(stage: Stage, surface: str, seen_through: SeenThrough | None) -> _Shown:
    show = stage.show
    regions = show.feeds_of(surface)
    stack = tuple(
        layer
        for canvas, rect in surface_rects(show, surface)
        for layer in visible(show, canvas, stage.program.target, rect, seen_through)
    )
    if not regions:
        return _Shown(stack, "no region")
    if all(stage.is_black(r.output) for r in regions):
        return _Shown(stack, "black")
    if any(stage.is_held(r.output) for r in regions):
        return _Shown(stack, "held")
    override = stage.overrides.get(surface)
    if override is not None:
        return _Shown((), "override", (override_words(show, override), override.source))
    return _Shown(stack, "kept" if surface in stage.kept else "")


def planned(show: Show, list: str, do: Do, seen_through: SeenThrough | None = None) -> Plan:
    """What every surface will show after each cue of a list, from the opening of the show.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    do : callable
        Makes one action happen.
    seen_through : callable, optional
        Which sources may be seen through, by the pictures there are; by their kinds if not given.

    Returns
    -------
    Plan
    """
    cues, opening = show.cue_list(list), Stage.opened(show)
    stages = after_each(opening, cues, do)
    cells: dict[str, tuple[Cell, ...]] = {}
    for surface in show.surfaces:
        before, row, since = _shown(opening, surface.id, seen_through), [], 0
        for stage in stages:
            now = _shown(stage, surface.id, seen_through)
            since = 0 if now != before else since + 1
            row.append(Cell(now.ids(), now.names(show), now.state, now != before, since))
            before = now
        cells[surface.id] = tuple(row)
    return Plan(cues.ordered, cells)


def passed_over(stage: Stage, list: str, cue: str) -> tuple[Cue, ...]:
    """The cues that are passed over when one is fired now: those between it and the one fired last; all before it if
    none was, or one behind it.

    Parameters
    ----------
    stage : Stage
    list, cue : str
    """
    cues = stage.show.cue_list(list)
    found, last = cues.cue(cue), cues.cue(head_of(stage, list).fired)
    if found is None:
        return ()
    first = -1.0 if last is None or last.number >= found.number else last.number
    return tuple(c for c in cues.ordered if first < c.number < found.number)


def armed_as_if(stage: Stage, list: str, cue: str, do: Do) -> Stage:
    """The stage with a cue armed as if all before it had run: what they would have left is on preview, under what the
    cue itself brings, and a firing takes it.

    Parameters
    ----------
    stage : Stage
    list : str
        Id of the list.
    cue : str
        Id of the cue.
    do : callable
        Makes one action happen.
    """
    show, cues = stage.show, stage.show.cue_list(list)
    found, head = cues.cue(cue), head_of(stage, list)
    if found is None or found.preset is None or (stage.edits and not head.as_if):
        return armed(stage, list, cue)
    last = cues.cue(head.fired)
    goes_on = last is not None and last.number < found.number
    past = rested(replace(stage, edits=()) if goes_on else Stage.opened(show))
    for n, other in enumerate(passed_over(stage, list, cue), 1):
        past = after_cue(past, list, other, n * APART, do)
    wanted = past.stage(found.preset).preview()
    alone = armed(stage, list, cue)
    grid: dict[tuple[tuple[str, str], str], How] = {
        cell: BY_NAME[cell[1]].arrives for cell in differing(show, wanted, alone.preview())
    }
    edits = parts_from(show, wanted, grid)
    return replace(
        alone,
        edits=edits,
        heads={**alone.heads, list: head_of(alone, list)._replace(as_if=bool(edits))},
    )
