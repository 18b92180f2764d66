"""What the running show tells of itself: what every surface truly shows, and how well frames keep their time."""

from __future__ import annotations

from dataclasses import dataclass, field

from ushering_adze.core.onair.delta import Change, SeenThrough, source_names, surface_rects, visible
from ushering_adze.core.onair.faults import FaultNow
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import State, sources_of_layer
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import PatternSource
from ushering_adze.engine.overlay import Overlay


@dataclass(frozen=True)
class SurfaceReport:
    """What one surface truly shows: source names top first, source ids, and its state in one word."""

    sources: tuple[str, ...]
    source_ids: tuple[str, ...]
    state: str


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
    troubles: tuple[FaultNow, ...] = ()
    """The same as ``faults``, with their moments; filled in by the playout."""


def surface_reports(stage: Stage, state: State, faults: dict[str, str], bound: set[str], overlay: Overlay,
                    seen_through: SeenThrough | None = None) -> dict[str, SurfaceReport]:
    """What every surface shows, in words."""
    show = stage.show
    reports = {}
    for surface in show.surfaces:
        rects = surface_rects(show, surface.id)
        stack = sum((visible(show, canvas, state, rect, seen_through) for canvas, rect in rects), ())
        ids = tuple(dict.fromkeys(id for layer in stack for id in sources_of_layer(layer)))
        outputs = [r.output for r in show.feeds_of(surface.id)]
        word = "live"
        if not outputs:
            word = "no region"
        elif all(stage.is_black(o) for o in outputs):
            word = "black"
        elif any(stage.is_held(o) for o in outputs):
            word = "held"
        elif any(id in faults for id in (*ids, *outputs, *(canvas.id for canvas, _ in rects))):
            word = "lost"
        elif any(overlay.patterns(o) for o in outputs):
            word = "pattern"
        elif not ids:
            word = "black"
        elif isinstance(show.source(ids[0]), PatternSource):
            word = "pattern"
        elif any(stage.is_black(o) for o in outputs):
            word = "partly black"
        elif surface.id in stage.kept:
            word = "kept"
        elif not all(o in bound for o in outputs):
            word = "unbound"
        reports[surface.id] = SurfaceReport(source_names(show, stack), ids, word)
    return reports
