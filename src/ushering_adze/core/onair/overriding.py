"""Overrides: black, a held picture, a pattern or one source on a surface, above everything, until it is lifted."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.picture.layers import LayerState, layer_state
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, LayerSettings, Picture, Show

Shows = Literal["black", "hold", "pattern", "source"]
LAYER = "override"
"""The id of the one layer that a surface shows while a source overrides it."""


class Override(NamedTuple):
    """What a surface shows in place of everything else, who asked for it, and since when by the stage's clock."""

    shows: Shows
    source: str | None
    by: str
    since: float


Overrides = Mapping[str, Override]
"""By surface, in the order in which they came."""


def with_override(overrides: Overrides, surfaces: Iterable[str], made: Override) -> dict[str, Override]:
    """Overrides with these surfaces under another one; who had it already has it since then."""
    found = dict(overrides)
    for surface in surfaces:
        was = found.pop(surface, None)
        same = was is not None and (was.shows, was.source) == (made.shows, made.source)
        found[surface] = made._replace(since=was.since) if was is not None and same else made
    return found


def without_override(overrides: Overrides, surfaces: Iterable[str] | None) -> dict[str, Override]:
    """Overrides without those of these surfaces; with none if that is None."""
    gone = None if surfaces is None else {*surfaces}
    return {} if gone is None else {id: o for id, o in overrides.items() if id not in gone}


def overriding_sources(overrides: Overrides) -> set[str]:
    """Sources that overrides show."""
    return {o.source for o in overrides.values() if o.source is not None and o.shows == "source"}


def areas_of(show: Show, surface: str) -> tuple[tuple[Canvas, Rect], ...]:
    """The canvases that a surface takes its picture from, each with one rectangle around all that it takes.

    Parameters
    ----------
    show : Show
    surface : str
        Its id.
    """
    found: dict[str, tuple[Canvas, Rect]] = {}
    for canvas, rect in surface_rects(show, surface):
        found[canvas.id] = (canvas, rect if canvas.id not in found else found[canvas.id][1].join(rect))
    return tuple(found.values())


def source_over(canvas: Canvas, rect: Rect, source: str) -> LayerState:
    """A layer that shows a source over a rectangle of a canvas, all of it, and nothing else.

    Parameters
    ----------
    canvas : Canvas
    rect : Rect
        In pixels of the canvas.
    source : str
        Its id.

    Examples
    --------
    >>> state = source_over(Canvas(id="house", name="House", width=100, height=50), Rect(10, 0, 80, 45), "camera")
    >>> state.place, state.opacity
    ((10.0, 0.0, 80.0, 45.0), 1.0)
    """
    plain = layer_state(LayerSettings(picture=Picture(source=source, fit="fit")), canvas)
    place = (float(rect.x), float(rect.y), float(rect.w), float(rect.h))
    return plain._replace(place=place, opacity=1.0)


def override_words(show: Show, override: Override) -> str:
    """What an override shows, in words."""
    if override.shows == "source" and override.source is not None:
        return show.source(override.source).name
    return {"black": "black", "hold": "held picture", "pattern": "pattern"}.get(override.shows, override.shows)
