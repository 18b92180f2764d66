"""The delta: which surfaces a take will change, and from what to what."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ushering_adze.core.kinds.dress import BETWEEN
from ushering_adze.core.kinds.on_its_way import leaves, sources_in
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.mapping.spreading import Dealt, dealt
from ushering_adze.core.picture.dealing import in_place
from ushering_adze.core.picture.dressed import extent_of, is_plain
from ushering_adze.core.picture.layers import LayerState, State
from ushering_adze.core.picture.wearing import names_worn
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Clock, Show, Text


class Change(NamedTuple):
    """A surface that will change: its id, and the names of the sources it shows before and after."""

    surface: str
    before: tuple[str, ...]
    after: tuple[str, ...]


SeenThrough = Callable[[str], bool]
"""Whether a source may be seen through, by its id."""
_OPAQUE = {"colour", "pattern", "countdown"}


def seen_through_by_kind(show: Show) -> SeenThrough:
    """What is known before any picture is: files and feeds may be seen through, what the program draws may not."""

    def seen_through(name: str) -> bool:
        source = show.source(name.partition(BETWEEN)[0])
        return source.kind not in _OPAQUE or source.picture.key is not None

    return seen_through


def seen_through_by_pictures(show: Show, opaque: Mapping[str, bool]) -> SeenThrough:
    """Whether sources may be seen through: by the pictures they have, by their kind those that have none yet.

    Parameters
    ----------
    show : Show
    opaque : mapping of str to bool
        Of sources, and of texts by what they are called in dresses of layers, that have shown a picture: whether that
        cannot be seen through.

    Returns
    -------
    SeenThrough
    """
    by_kind = seen_through_by_kind(show)

    def seen_through(name: str) -> bool:
        if name in opaque:
            return not opaque[name]
        source, dressed, _ = name.partition(BETWEEN)
        if dressed and not isinstance(show.source(source), (Text, Clock)):
            return seen_through(source)
        return by_kind(source)

    return seen_through


def _covers(seen_through: SeenThrough, state: LayerState, rect: Rect) -> bool:
    x, y, w, h = state.place
    if not is_plain(state) or state.blend != "normal":
        return False
    b = state.border[0]
    inside = x + b <= rect.x and y + b <= rect.y and x + w - b >= rect.right and y + h - b >= rect.foot
    return (
        bool(inside)
        and state.opacity >= 1
        and all(
            s.source is not None and s.fit in ("fill", "stretch") and not seen_through(name)
            for s in leaves(state.picture)
            for name in names_worn(s.source, state)
        )
    )


def reaches(state: LayerState, rect: Rect) -> bool:
    """Whether a layer's box has any of a rectangle of its canvas in it.

    Parameters
    ----------
    state : LayerState
        What layers show, by canvas and layer.
    rect : Rect
        In whole pixels.

    Returns
    -------
    bool

    Examples
    --------
    >>> from ushering_adze.core.picture.layers import layer_state
    >>> from ushering_adze.core.show import LayerSettings, Place
    >>> house = Canvas(id="house", name="House", width=100, height=100)
    >>> layer = layer_state(LayerSettings(place=Place(w=10, h=10)), house)
    >>> reaches(layer, Rect(9, 9, 5, 5)), reaches(layer, Rect(10, 0, 5, 5))
    (True, False)
    """
    if not is_plain(state):
        return not extent_of(state).meet(rect).empty
    x, y, w, h = state.place
    return bool(x < rect.right and y < rect.foot and x + w > rect.x and y + h > rect.y)


def _shown_within(one: Dealt, rect: Rect) -> bool:
    """Whether a picture that is dealt out may be seen within a rectangle."""
    return one.seen is None or any(not part.meet(rect).empty for part in one.seen)


def layer_reaches(show: Show, canvas: str, state: LayerState, rect: Rect) -> bool:
    """Whether a layer, or any of the pictures it is dealt out as, lies within a rectangle of its canvas.

    Parameters
    ----------
    show : Show
    canvas : str
    state : LayerState
    rect : Rect
        In whole pixels.

    Returns
    -------
    bool
    """
    return any(
        _shown_within(one, rect) and reaches(in_place(state, one), rect) for one in dealt(show, canvas, state.spread)
    )


def visible(
    show: Show, canvas: Canvas, state: State, rect: Rect, seen_through: SeenThrough | None = None
) -> tuple[LayerState, ...]:
    """Layers that can be seen within a rectangle of the canvas, top first; what an opaque layer hides is left out.

    Parameters
    ----------
    show : Show
    canvas : Canvas
        Which canvas.
    state : State
        What layers show, by canvas and layer.
    rect : Rect
        In whole pixels.
    seen_through : SeenThrough | None, optional
        Whether a source may be seen through, by its id.

    Returns
    -------
    tuple[LayerState, ...]
    """
    seen_through = seen_through or seen_through_by_kind(show)
    seen = []
    for layer in reversed(canvas.layers):
        s = state.get((canvas.id, layer.id))
        if s is None or s.opacity <= 0:
            continue
        for one in dealt(show, canvas.id, s.spread):
            here = in_place(s, one)
            if not _shown_within(one, rect) or not reaches(here, rect):
                continue
            if all(p.source is None for p in leaves(here.picture)) and here.border[0] <= 0:
                continue
            seen.append(here)
            whole = one.share >= 1 and (one.seen is None or any(part.holds(rect) for part in one.seen))
            if whole and _covers(seen_through, here, rect):
                return tuple(seen)
    return tuple(seen)


def sources_seen(show: Show, surface: str, state: State, seen_through: SeenThrough | None = None) -> frozenset[str]:
    """Sources that a surface should show of a state; those that are on their way out as well.

    Parameters
    ----------
    show : Show
    surface : str
    state : State
    seen_through : SeenThrough | None, optional

    Returns
    -------
    frozenset of str
    """
    return frozenset(
        source
        for canvas, rect in surface_rects(show, surface)
        for layer in visible(show, canvas, state, rect, seen_through)
        for source in sources_in(layer.picture)
    )


def source_names(show: Show, stack: tuple[LayerState, ...]) -> tuple[str, ...]:
    """Names of the sources in a stack of layers, top first, each once.

    Parameters
    ----------
    show : Show
    stack : tuple[LayerState, ...]
        Layers, the topmost first.

    Returns
    -------
    tuple[str, ...]
    """
    names: dict[str, None] = {}
    for state in stack:
        for source in sources_in(state.picture):
            names.setdefault(show.source(source).name)
    return tuple(names)


def delta(show: Show, before: State, after: State, seen_through: SeenThrough | None = None) -> list[Change]:
    """Surfaces whose visible layers differ between two states, in the order of the show.

    Parameters
    ----------
    show : Show
        Gives the regions by which layers reach surfaces.
    before, after : mapping
        Two states of the same show.
    seen_through : callable, optional
        Which sources may be seen through, by the pictures there are; by their kinds if not given.
    """
    changes = []
    for surface in show.surfaces:
        old: list[tuple[LayerState, ...]] = []
        new: list[tuple[LayerState, ...]] = []
        for canvas, rect in surface_rects(show, surface.id):
            old.append(visible(show, canvas, before, rect, seen_through))
            new.append(visible(show, canvas, after, rect, seen_through))
        if old != new:
            changes.append(Change(surface.id, source_names(show, sum(old, ())), source_names(show, sum(new, ()))))
    return changes
