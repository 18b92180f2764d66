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

    def cell(self, show: Show, since: int) -> Cell:
        """The same for a plan, ``since`` so many cues."""
        return Cell(self.ids(), self.names(show), self.state, since == 0, since)


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


class Planner:
    """Works plans out, and after an edit no more of one than the edit changed.

    Parameters
    ----------
    do : callable
        Makes one action happen.
    """

    def __init__(self, do: Do) -> None:
        self._do = do
        self._show: Show | None = None
        self._list = ""
        self._seen_through: SeenThrough | None = None
        self._cues: tuple[Cue, ...] = ()
        self._stages: list[Stage] = []
        self._shown: list[dict[str, _Shown]] = []
        """What surfaces show after each cue; before the first is the opening."""
        self._made: dict[str, tuple[Cell, ...]] = {}
        self.worked = 0
        """Cues that were worked out for the last plan."""

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The stage after each cue of the last plan."""
        return tuple(self._stages[1:])

    def plan(self, show: Show, list: str, seen_through: SeenThrough | None = None) -> Plan:
        """What every surface will show after each cue of a list, from the opening of the show.

        Parameters
        ----------
        show : Show
        list : str
            Id of the list.
        seen_through : callable, optional
            Which sources may be seen through, by the pictures there are; by their kinds if not given.

        Returns
        -------
        Plan
        """
        cues = show.cue_list(list)
        old_cues, old_stages, old_shown, old_cells = self._cues, self._stages, self._shown, self._made
        reuse = self._same_room(show) and list == self._list and seen_through is self._seen_through
        changed = self._changed_presets(show) if reuse else frozenset()
        if not reuse or show.opening in changed:
            reuse, changed = False, frozenset()
            opening = rested(Stage.opened(show))
            old_cues, old_stages, old_shown = (), [opening], [self._all_shown(opening, seen_through)]
            old_cells = {}
        order = cues.ordered
        same = 0
        while same < min(len(order), len(old_cues)) and self._is_same(order[same], old_cues[same], changed):
            same += 1
        tail = 0
        while tail < min(len(order), len(old_cues)) - same and self._is_same(
            order[-1 - tail], old_cues[-1 - tail], changed
        ):
            tail += 1
        stages, shown = old_stages[: same + 1], old_shown[: same + 1]
        stage = stages[-1].with_show(show, same * APART) if reuse else stages[-1]
        self.worked = 0
        for n in range(same, len(order)):
            stage = after_cue(stage, list, order[n], (n + 1) * APART, self._do)
            stages.append(stage)
            self.worked += 1
            at = n - len(order) + len(old_cues)  # where the same cue was
            if n >= len(order) - tail and _alike(stage, old_stages[at + 1]):
                shown.append(old_shown[at + 1])
                stages += old_stages[at + 2 :]
                shown += old_shown[at + 2 :]
                break
            shown.append(self._shown_after(stage, stages[-2], shown[-1], seen_through))
        self._show, self._list, self._seen_through, self._cues = show, list, seen_through, order
        self._stages, self._shown = stages, shown
        self._made = {
            s.id: self._row(show, s.id, old_cells.get(s.id, ()), same, same + self.worked, len(order) - len(old_cues))
            for s in show.surfaces
        }
        return Plan(order, dict(self._made))

    def _row(
        self, show: Show, surface: str, old: tuple[Cell, ...], same: int, upto: int, shift: int
    ) -> tuple[Cell, ...]:
        """The cells of a surface: those before ``same`` are as they were, those from ``upto`` on as those ``shift``
        before them were, as soon as it shows another thing there.
        """
        row = [*old[:same]]
        before, since = self._shown[same][surface], row[-1].since if row else 0
        for n in range(same, len(self._shown) - 1):
            now = self._shown[n + 1][surface]
            since = 0 if now is not before and now != before else since + 1
            row.append(now.cell(show, since))
            before = now
            if n >= upto and since == 0 and row[-1] == old[n - shift]:
                return (*row, *old[n - shift + 1 :])
        return tuple(row)

    def _same_room(self, show: Show) -> bool:
        """Whether a show differs from the last one at most in its cues and presets."""
        old = self._show
        fields = ("canvases", "surfaces", "outputs", "zones", "sources", "feeds", "opening")
        return old is not None and all(getattr(old, f) is getattr(show, f) for f in fields)

    def _changed_presets(self, show: Show) -> frozenset[int]:
        """Numbers of presets that are others than they were."""
        assert self._show is not None
        if show.presets is self._show.presets:
            return frozenset()
        old = {p.number: p for p in self._show.presets}
        new = {p.number: p for p in show.presets}
        return frozenset(n for n in old.keys() | new.keys() if old.get(n) != new.get(n))

    @staticmethod
    def _is_same(cue: Cue, old: Cue, changed: frozenset[int]) -> bool:
        """Whether a cue does what it did."""
        if cue is not old and (cue.id, cue.does) != (old.id, old.does):
            return False
        return not changed or all(getattr(d.action, "preset", None) not in changed for d in cue.does)

    def _all_shown(self, stage: Stage, seen_through: SeenThrough | None) -> dict[str, _Shown]:
        return {s.id: _shown(stage, s.id, seen_through) for s in stage.show.surfaces}

    def _shown_after(
        self, stage: Stage, before: Stage, shown: dict[str, _Shown], seen_through: SeenThrough | None
    ) -> dict[str, _Shown]:
        """What surfaces show after a cue: only those are looked at whose canvases it has changed."""
        if (stage.black, stage.held, stage.kept, stage.overrides) != (
            before.black,
            before.held,
            before.kept,
            before.overrides,
        ):
            return self._all_shown(stage, seen_through)
        old = before.program.target
        touched = {key[0] for key, state in stage.program.target.items() if state is not old.get(key)}
        show, found = stage.show, dict(shown)
        for surface in show.surfaces:
            if any(show.homes[r.id][0].id in touched for r in show.feeds_of(surface.id)):
                found[surface.id] = _shown(stage, surface.id, seen_through)
        return found


def _alike(a: Stage, b: Stage) -> bool:
    """Whether what comes behind two stages is the same."""
    return (
        a.program.target == b.program.target
        and (a.black, a.held, a.kept, a.laid) == (b.black, b.held, b.kept, b.laid)
        and {id: o[:3] for id, o in a.overrides.items()} == {id: o[:3] for id, o in b.overrides.items()}
        and (a.on_program, a.staged, a.edits, len(a.back)) == (b.on_program, b.staged, b.edits, len(b.back))
        and all(x[0].target == y[0].target for x, y in zip(a.back[-3:], b.back[-3:], strict=True))
    )


def planned(show: Show, list: str, do: Do, seen_through: SeenThrough | None = None) -> Plan:
    """What every surface will show after each cue of a list, from the opening of the show; see `Planner.plan`."""
    return Planner(do).plan(show, list, seen_through)


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
