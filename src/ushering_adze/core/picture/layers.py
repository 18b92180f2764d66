"""What a layer shows at one moment: a value of every kind."""

from __future__ import annotations

from collections import namedtuple
from collections.abc import Mapping
from dataclasses import fields
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from ushering_adze.core.kinds import BY_NAME, KINDS, NAMES
from ushering_adze.core.kinds.kind import DISSOLVE, Kind, Way
from ushering_adze.core.show import Canvas, LayerSettings, Show

if TYPE_CHECKING:

    class LayerState(tuple[Any, ...]):
        """A value of every kind, by name and in the order of `KINDS`."""

        def __new__(cls, *values: Any, **named: Any) -> LayerState: ...
        def __getattr__(self, name: str) -> Any: ...
        def _replace(self, **values: Any) -> LayerState: ...
        @classmethod
        def _make(cls, values: Any) -> LayerState: ...
else:
    LayerState = namedtuple("LayerState", NAMES)
    LayerState.__doc__ = "A value of every kind, by name and in the order of `KINDS`."

Key = tuple[str, str]
"""Canvas id and layer id."""

State = Mapping[Key, LayerState]
NOTHING = 1e-9
"""Progress that is none: so little may be lost when moments are counted from another one."""


_NONE = {field.name: field.default for field in fields(Kind)}
_SHOWING = tuple((n, kind.sources) for n, kind in enumerate(KINDS) if kind.sources is not _NONE["sources"])
_MADE_OF = tuple((n, kind.made_of) for n, kind in enumerate(KINDS) if kind.made_of is not _NONE["made_of"])
"""Kinds that name sources at all, by their places: a frame asks for them often."""


def between(kind: str, a: Any, b: Any, t: float, way: Way = DISSOLVE) -> Any:
    """The value of one kind of setting on the way from ``a`` (t = 0) to ``b`` (t = 1).

    Parameters
    ----------
    kind : str
        Name of the kind.
    a, b : object
        Values of it.
    t : float
        Progress, 0 to 1.
    way : Way
        The transition, for pictures; all else moves in a straight line.

    Examples
    --------
    >>> between("opacity", 0.0, 1.0, 0.25)
    0.25
    """
    if t < NOTHING or a == b:
        return a
    if t >= 1:
        return b
    return BY_NAME[kind].between(a, b, t, way)


def is_sane(state: LayerState) -> bool:
    """Whether a state could be shown, kind by kind."""
    return all(kind.sane(value) for kind, value in zip(KINDS, state, strict=True))


def sources_of_layer(state: LayerState) -> tuple[str, ...]:
    """Ids of the sources in any setting of a layer, each once: those that it shows first, then those it is made of."""
    found = [id for n, sources in _SHOWING for id in sources(state[n])]
    found += [id for n, sources in _MADE_OF for id in sources(state[n])]
    return tuple(dict.fromkeys(found))


def shown_by_layer(state: LayerState) -> tuple[str, ...]:
    """Ids of the sources that a layer shows, each once."""
    return tuple(dict.fromkeys(id for n, sources in _SHOWING for id in sources(state[n])))


def layer_state(settings: LayerSettings, canvas: Canvas) -> LayerState:
    """The state that shows exactly these settings on this canvas.

    Parameters
    ----------
    settings : LayerSettings
        The settings.
    canvas : Canvas
        Which canvas.

    Returns
    -------
    LayerState
    """
    size = canvas.width, canvas.height
    return LayerState._make(the_one(n, kind.value(getattr(settings, kind.name), *size)) for n, kind in enumerate(KINDS))


@lru_cache(65536)
def the_one(kind: int, value: Any) -> Any:
    """The one object that stands for all equal values of a kind, by its number in `KINDS`: what is the same is then
    known without a look at it, and a recall goes over little memory.
    """
    return value


def opening_state(show: Show) -> dict[Key, LayerState]:
    """Every layer as the show declares it, before any preset."""
    return {(c.id, layer.id): layer_state(layer.settings, c) for c in show.canvases for layer in c.layers}
