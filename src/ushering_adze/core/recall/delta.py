"""The delta: which surfaces a take will change, and from what to what."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.recall.state import LayerState, State
from ushering_adze.core.show import Canvas, Show


class Change(NamedTuple):
    """A surface that will change: its id, and the names of the sources it shows before and after."""

    surface: str
    before: tuple[str, ...]
    after: tuple[str, ...]


_OPAQUE = {"clip", "folder", "colour", "pattern", "countdown"}


def _covers(show: Show, state: LayerState, rect: Rect) -> bool:
    x, y, w, h = state.place
    b = state.border[0]
    inside = x + b <= rect.x and y + b <= rect.y and x + w - b >= rect.right and y + h - b >= rect.foot
    return inside and state.opacity >= 1 and all(
        s.source is not None and s.fit in ("fill", "stretch") and show.source(s.source).kind in _OPAQUE for s in state.picture)


def visible(show: Show, canvas: Canvas, state: State, rect: Rect) -> tuple[LayerState, ...]:
    """Layers that can be seen within a rectangle of the canvas, top first; what an opaque layer hides is left out."""
    seen = []
    for layer in reversed(canvas.layers):
        s = state[canvas.id, layer.id]
        x, y, w, h = s.place
        if s.opacity <= 0 or x >= rect.right or y >= rect.foot or x + w <= rect.x or y + h <= rect.y:
            continue
        if all(p.source is None for p in s.picture) and s.border[0] <= 0:
            continue
        seen.append(s)
        if _covers(show, s, rect):
            break
    return tuple(seen)


def source_names(show: Show, stack: tuple[LayerState, ...]) -> tuple[str, ...]:
    """Names of the sources in a stack of layers, top first, each once."""
    names: dict[str, None] = {}
    for state in stack:
        for shown in sorted(state.picture, key=lambda s: -s.weight):
            if shown.source is not None:
                names.setdefault(show.source(shown.source).name)
    return tuple(names)


def surface_rects(show: Show, surface: str) -> list[tuple[Canvas, Rect]]:
    """The canvas rectangles that feed a surface."""
    return [(show.homes[r.id][0], Rect(r.x, r.y, r.w, r.h)) for r in show.feeds_of(surface)]


def delta(show: Show, before: State, after: State) -> list[Change]:
    """Surfaces whose visible layers differ between two states, in the order of the show.

    Parameters
    ----------
    show : Show
        Gives the regions by which layers reach surfaces.
    before, after : mapping
        Two states of the same show.
    """
    changes = []
    for surface in show.surfaces:
        old: list[tuple[LayerState, ...]] = []
        new: list[tuple[LayerState, ...]] = []
        for canvas, rect in surface_rects(show, surface.id):
            old.append(visible(show, canvas, before, rect))
            new.append(visible(show, canvas, after, rect))
        if old != new:
            changes.append(Change(surface.id, source_names(show, sum(old, ())), source_names(show, sum(new, ()))))
    return changes
