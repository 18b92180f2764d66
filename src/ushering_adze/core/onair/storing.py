"""Storing what is seen as a preset: which layers, which kinds of setting of each, and how each of them arrives."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set
from typing import NamedTuple

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.picture.layers import Key, LayerState, State, layer_state
from ushering_adze.core.show import LayerSettings, Part, Preset, Show, with_held
from ushering_adze.core.show.preset import Held
from ushering_adze.core.show.variants import free_preset_id, preset_of, with_preset

Cell = tuple[Key, str]
"""A layer, by its canvas and id, and the name of a kind."""
Grid = Mapping[Cell, How]
"""How each kind of each layer is treated; what is not in it is left."""


def settings_of(state: LayerState, width: int, height: int) -> LayerSettings:
    """Settings that show a state, in the terms of a document.

    Parameters
    ----------
    state : LayerState
    width, height : int
        Of its canvas, in pixels.

    Returns
    -------
    LayerSettings
    """
    return LayerSettings(**{k.name: k.document(v, width, height) for k, v in zip(KINDS, state, strict=True)})


def is_seen(state: LayerState) -> bool:
    """Whether a layer shows anything at all."""
    return bool(state.opacity > 0 and any(kind.sources(v) for kind, v in zip(KINDS, state, strict=True)))


def layers_in_order(show: Show) -> list[Key]:
    """Every layer, canvas by canvas, the topmost first: the rows of the grid."""
    return [(c.id, layer.id) for c in show.canvases for layer in reversed(c.layers)]


def differing(show: Show, state: State, before: State) -> frozenset[Cell]:
    """The settings in which a state differs from another.

    Parameters
    ----------
    show : Show
    state, before : mapping

    Returns
    -------
    frozenset of Cell
    """
    return frozenset(
        (key, kind.name)
        for key in layers_in_order(show)
        if key in state and key in before
        for kind, a, b in zip(KINDS, state[key], before[key], strict=True)
        if a != b
    )


def built_on(show: Show, edits: Iterable[Part], number: int | None) -> frozenset[str]:
    """The canvases that were built on: those of edits, and of the preset that they are upon; all if there are none.

    Parameters
    ----------
    show : Show
    edits : iterable of Part
    number : int or None
        Of the preset that was opened.

    Returns
    -------
    frozenset of str
    """
    preset = None if number is None else show.preset(number)
    found = {e.canvas for e in edits} | {p.canvas for p in (preset.parts if preset is not None else ())}
    return frozenset(found or {c.id for c in show.canvases})


def suggested(show: Show, state: State, canvases: Set[str] | None = None) -> dict[Cell, How]:
    """What is stored unless one says otherwise: of every layer that is seen, all kinds, each as it usually arrives; of
    those that are not seen, nothing.

    Parameters
    ----------
    show : Show
    state : mapping
    canvases : set of str, optional
        Only these.

    Returns
    -------
    dict
    """
    return {
        (key, kind.name): kind.arrives
        for key in layers_in_order(show)
        if key in state and is_seen(state[key]) and (canvases is None or key[0] in canvases)
        for kind in KINDS
    }


def grid_of(preset: Preset) -> dict[Cell, How]:
    """The scope of a stored preset."""
    return {((p.canvas, p.layer), kind): held.how for p in preset.parts for _, kind, held in p.held}


def clears_of(show: Show, grid: Grid) -> tuple[str, ...]:
    """The canvases of which a preset of this scope takes all else away: those that it stores any layer of."""
    touched = {key[0] for (key, _), how in grid.items() if how != "left"}
    return tuple(c.id for c in show.canvases if c.id in touched)


def taken_away(show: Show, state: State, grid: Grid, clears: tuple[str, ...]) -> tuple[str, ...]:
    """Names of the layers that are seen now and that a preset of this scope would take away.

    Parameters
    ----------
    show : Show
    state : mapping
        What is seen.
    grid : Grid
    clears : tuple of str
        Ids of canvases.

    Returns
    -------
    tuple of str
    """
    stored = {key for (key, _), how in grid.items() if how != "left"}
    return tuple(
        layer.name
        for c in show.canvases
        if c.id in clears
        for layer in reversed(c.layers)
        if (c.id, layer.id) not in stored and (c.id, layer.id) in state and is_seen(state[c.id, layer.id])
    )


def parts_from(show: Show, state: State, grid: Grid, old: Preset | None = None) -> tuple[Part, ...]:
    """The parts of a preset that stores a state within a scope.

    Parameters
    ----------
    show : Show
    state : mapping
    grid : Grid
    old : Preset, optional
        Whose own times and ways are kept.

    Returns
    -------
    tuple of Part
    """
    before = {(p.canvas, p.layer): p for p in old.parts} if old is not None else {}
    made = []
    for canvas in show.canvases:
        for layer in canvas.layers:
            key = (canvas.id, layer.id)
            hows = {name: how for (k, name), how in grid.items() if k == key and how != "left"}
            if not hows or key not in state:
                continue
            settings = settings_of(state[key], canvas.width, canvas.height)
            part = Part(canvas=canvas.id, layer=layer.id)
            for name, how in hows.items():
                was: Held | None = getattr(before[key].holds, name) if key in before else None
                to = getattr(settings, name)
                if was is not None and BY_NAME[name].value(was.to, canvas.width, canvas.height) == getattr(
                    state[key], name
                ):
                    to = was.to  # the same, in the terms in which it was stored
                part = with_held(part, name, to, how, like=was)
            made.append(part)
    order = {key: n for n, key in enumerate(before)}
    return tuple(sorted(made, key=lambda p: order.get((p.canvas, p.layer), len(order))))


def stored(
    show: Show,
    state: State,
    number: int,
    name: str,
    grid: Grid,
    *,
    seconds: float = 1.0,
    clears: tuple[str, ...] = (),
) -> Show:
    """The show with a state stored under a number, in place of what was there.

    Parameters
    ----------
    show : Show
    state : mapping
    number : int
        1 to 9999.
    name : str
    grid : Grid
        Which kinds of which layers, and how each arrives.
    seconds : float
        Of the preset.
    clears : tuple of str
        Canvases of which it takes all else away.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If it would store nothing at all.
    """
    old = show.preset(number)
    parts = parts_from(show, state, grid, old)
    if not parts and not clears:
        raise ShowError([Fault("", "nothing is to be stored; choose layers and kinds in the grid")])
    fields = {n: getattr(old, n) for n in Preset.model_fields} if old is not None else {}
    id = old.id if old is not None else free_preset_id(show, number)
    made = Preset.model_validate(
        {**fields, "id": id, "number": number, "name": name, "seconds": seconds, "parts": parts, "clears": clears}
    )
    return with_preset(show, made)


class Change(NamedTuple):
    """What an update would change in a preset: a kind of a layer, in words."""

    key: Key
    kind: str
    words: str


def update_of(
    show: Show, state: State, number: int, edited: frozenset[Cell] = frozenset()
) -> tuple[Show, list[Change]]:
    """The show with a preset brought to what is seen now, within its scope and what was ``edited`` upon it; and what
    that changes.

    Parameters
    ----------
    show : Show
    state : mapping
        What is seen.
    number : int
        Of the preset.
    edited : frozenset of Cell
        What was changed by hand: it comes into the scope.

    Returns
    -------
    show : Show
    changes : list of Change
        Empty if the preset is that already.

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    preset = preset_of(show, number)
    grid = grid_of(preset)
    for key, name in edited:
        grid.setdefault((key, name), BY_NAME[name].arrives)
    parts = parts_from(show, state, grid, preset)
    before = {(p.canvas, p.layer): p for p in preset.parts}
    changes = []
    for part in parts:
        key = (part.canvas, part.layer)
        canvas = show.canvas(part.canvas)
        layer = next(y for y in canvas.layers if y.id == part.layer)
        declared = layer_state(layer.settings, canvas)
        for n, name, held in part.held:
            was: Held | None = getattr(before[key].holds, name) if key in before else None
            now = KINDS[n].value(held.to, canvas.width, canvas.height)
            if was is None:
                verb = "" if now == declared[n] else " changed, and"
                changes.append(Change(key, name, f"{layer.name}: {KINDS[n].words.lower()}{verb} stored from now on"))
            elif KINDS[n].value(was.to, canvas.width, canvas.height) != now:
                changes.append(Change(key, name, f"{layer.name}: {KINDS[n].words.lower()} changed"))
    if not changes:
        return show, []
    return with_preset(show, preset.model_copy(update={"parts": parts})), changes
