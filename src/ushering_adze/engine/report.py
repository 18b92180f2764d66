"""What the running show tells of itself: what every surface truly shows, and how well frames keep their time."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass, field
from typing import Literal

from ushering_adze.core.onair.delta import Change, seen_through_by_kind, source_names, surface_rects, visible
from ushering_adze.core.onair.faults import FaultNow
from ushering_adze.core.onair.playing import has_length
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import LayerState, sources_of_layer
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Countdown, Folder, PatternSource, Surface
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.renderer import Painted


@dataclass(frozen=True)
class SurfaceReport:
    """What one surface truly shows, as painted: source names top first, source ids, and its state in one word."""

    sources: tuple[str, ...]
    source_ids: tuple[str, ...]
    state: str
    age: float | None = None
    """Seconds since the oldest of the pictures that it shows came in; None if all are stills."""


@dataclass(frozen=True)
class PlayerReport:
    """A source that has a length: where it stands, in seconds, and whether it is on air or armed.

    ``length`` is 0 while it is not known; ``pages`` is the number of its pictures if it is leafed through.
    """

    source: str
    name: str
    position: float
    length: float
    running: bool
    looping: bool
    on: Literal["program", "preview", ""]
    pages: int = 0
    counts: bool = False
    """Whether it counts down, and has only one end."""

    @property
    def within(self) -> float:
        """Seconds within its present pass."""
        if self.length <= 0:
            return self.position
        return self.position % self.length if self.looping else min(self.position, self.length)

    @property
    def page(self) -> int:
        """Which of its pages is shown, from 1; 0 if it has none."""
        return min(self.pages, int(self.within / (self.length / self.pages)) + 1) if self.pages else 0

    @property
    def next_page_in(self) -> float:
        """Seconds until the next of its pages; 0 if it has none."""
        return self.length / self.pages * self.page - self.within if self.pages else 0.0

    @property
    def left(self) -> float | None:
        """Seconds to its end; None if that is not known."""
        return self.length - self.within if self.length > 0 else None


def player_reports(
    stage: Stage, lengths: Mapping[str, float], program: Set[str], preview: Set[str], now: float
) -> tuple[PlayerReport, ...]:
    """Every source of a show that has a length, those on program first, then those on preview."""
    found = []
    for source in stage.show.sources:
        if not has_length(source) or isinstance(source, PatternSource):
            continue
        at = stage.player(source.id)
        length = float(source.seconds) if isinstance(source, Countdown) else lengths.get(source.id, 0.0)
        on: Literal["program", "preview", ""] = (
            "program" if source.id in program else "preview" if source.id in preview else ""
        )
        pages = round(length / source.hold) if isinstance(source, Folder) else 0
        counts, running = isinstance(source, Countdown), at.since is not None
        looping, position = at.looping and not counts, at.position(now)
        found.append(PlayerReport(source.id, source.name, position, length, running, looping, on, pages, counts))
    order = {"program": 0, "preview": 1, "": 2}
    return tuple(sorted(found, key=lambda p: order[p.on]))


@dataclass(frozen=True)
class Report:
    """The running show at one moment, for the desk."""

    stage: Stage
    delta: tuple[Change, ...]
    surfaces: dict[str, SurfaceReport]
    program: dict[str, Pixels]
    preview: dict[str, Pixels]
    progress: float
    moving: bool
    held: bool
    black: bool
    fps: float
    milliseconds: float
    frames: int
    late: int
    late_lately: bool
    faults: dict[str, str] = field(default_factory=dict)
    waiting: int = 0
    refused: int = 0
    players: tuple[PlayerReport, ...] = ()
    troubles: tuple[FaultNow, ...] = ()
    """The same as ``faults``, with their moments; filled in by the playout."""


def surface_reports(
    stage: Stage,
    painted: Mapping[str, Painted],
    faults: dict[str, str],
    bound: set[str],
    overlay: Overlay,
    now: float = 0.0,
) -> dict[str, SurfaceReport]:
    """What every surface shows, in words, read from what its rasters were ``painted`` from; ``now`` is of the monotonic
    clock.
    """
    return {s.id: _surface_report(stage, s, painted, faults, bound, overlay, now) for s in stage.show.surfaces}


def _surface_report(
    stage: Stage,
    surface: Surface,
    painted: Mapping[str, Painted],
    faults: Mapping[str, str],
    bound: Set[str],
    overlay: Overlay,
    now: float,
) -> SurfaceReport:
    show, rects = stage.show, surface_rects(stage.show, surface.id)
    by_kind, known = seen_through_by_kind(show), {s.id for s in show.sources}
    stack: list[LayerState] = []
    born: list[float] = []
    replaced: set[str] = set()
    for region, (canvas, rect) in zip(show.feeds_of(surface.id), rects, strict=True):
        of = painted.get(region.output, Painted())

        def seen_through(source: str, opaque: Mapping[str, bool] = of.opaque) -> bool:
            return not opaque[source] if source in opaque else by_kind(source)

        for layer in visible(show, canvas, of.state, rect, seen_through):
            ids = sources_of_layer(layer)
            if known.issuperset(ids):
                stack.append(layer)
                born += [of.born[s] for s in ids if s in of.born]
                replaced |= {s for s in ids if of.origin.get(s, s) != s}
    ids = tuple(dict.fromkeys(id for layer in stack for id in sources_of_layer(layer)))
    outputs = [r.output for r in show.feeds_of(surface.id)]
    wrong = any(id in faults and id not in replaced for id in (*ids, *outputs, *(canvas.id for canvas, _ in rects)))
    if not outputs:
        word = "no region"
    elif all(stage.is_black(o) for o in outputs):
        word = "black"
    elif any(stage.is_held(o) for o in outputs):
        word = "held"
    elif wrong:
        word = "lost"
    elif any(overlay.patterns(o) for o in outputs):
        word = "pattern"
    elif not ids:
        word = "black"
    elif isinstance(show.source(ids[0]), PatternSource):
        word = "pattern"
    elif any(stage.is_black(o) for o in outputs):
        word = "partly black"
    elif replaced:
        word = "backup"
    elif surface.id in stage.kept:
        word = "kept"
    else:
        word = "live" if all(o in bound for o in outputs) else "unbound"
    age = max(0.0, now - min(born)) if born and now else None
    return SurfaceReport(source_names(show, tuple(stack)), ids, word, age)
