"""What every layer shows: the run-time counterpart of stored settings, able to be half-way between two of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from ushering_adze.core.show import KINDS, Canvas, Kind, LayerSettings, Show
from ushering_adze.core.show.base import rgb_of


class Shown(NamedTuple):
    """A share of a layer's picture: which source, how it fills the box, and with what weight, 0 to 1."""

    source: str | None
    fit: str
    weight: float


class LayerState(NamedTuple):
    """Everything about a layer at one moment.

    ``picture`` is a mix whose weights add to 1; ``place`` is x, y, w, h in canvas pixels; ``crop`` is left, top, right,
    bottom as fractions; ``border`` is width in canvas pixels, then red, green, blue, 0 to 255.
    """

    picture: tuple[Shown, ...]
    place: tuple[float, float, float, float]
    crop: tuple[float, float, float, float]
    opacity: float
    border: tuple[float, float, float, float]

    @property
    def main_source(self) -> str | None:
        """The source with the largest share."""
        return max(self.picture, key=lambda s: s.weight).source if self.picture else None


Key = tuple[str, str]
"""Canvas id and layer id."""

State = Mapping[Key, LayerState]


def layer_state(settings: LayerSettings, canvas: Canvas) -> LayerState:
    """The state that shows exactly these settings on this canvas."""
    p, c, b = settings.picture, settings.crop, settings.border
    red, green, blue = rgb_of(b.colour)
    return LayerState(
        (Shown(p.source, p.fit, 1.0),), settings.place.in_pixels(canvas.width, canvas.height),
        (c.left, c.top, c.right, c.bottom), settings.opacity, (b.width, float(red), float(green), float(blue)))


def opening_state(show: Show) -> dict[Key, LayerState]:
    """Every layer as the show declares it, before any preset."""
    return {(c.id, layer.id): layer_state(layer.settings, c) for c in show.canvases for layer in c.layers}


def _mix(a: tuple[Shown, ...], b: tuple[Shown, ...], t: float) -> tuple[Shown, ...]:
    shares: dict[tuple[str | None, str], float] = {}
    for part, scale in ((a, 1 - t), (b, t)):
        for shown in part:
            key = (shown.source, shown.fit)
            shares[key] = shares.get(key, 0.0) + shown.weight * scale
    return tuple(Shown(source, fit, weight) for (source, fit), weight in shares.items() if weight > 1e-6)


def between(kind: Kind, a: Any, b: Any, t: float) -> Any:
    """The value of one kind of setting on the way from ``a`` (t = 0) to ``b`` (t = 1).

    Pictures dissolve, all else moves in a straight line.

    Examples
    --------
    >>> between("opacity", 0.0, 1.0, 0.25)
    0.25
    >>> between("picture", (Shown("a", "fill", 1.0),), (Shown("b", "fill", 1.0),), 0.25)
    (Shown(source='a', fit='fill', weight=0.75), Shown(source='b', fit='fill', weight=0.25))
    """
    if t <= 0 or a == b:
        return a
    if t >= 1:
        return b
    if kind == "picture":
        return _mix(a, b, t)
    if kind == "opacity":
        return a + (b - a) * t
    return tuple(x + (y - x) * t for x, y in zip(a, b, strict=True))


def is_sane(state: LayerState) -> bool:
    """Whether a state could be shown: weights in 0..1 that add to 1, opacity in 0..1, a crop that leaves something."""
    total = sum(s.weight for s in state.picture)
    weights = all(0 <= s.weight <= 1 + 1e-6 for s in state.picture)
    left, top, right, bottom = state.crop
    return (weights and abs(total - 1) < 1e-4 and 0 <= state.opacity <= 1 and state.place[2] >= 0 and state.place[3] >= 0
            and left + right < 1 and top + bottom < 1 and all(k in LayerState._fields for k in KINDS))
