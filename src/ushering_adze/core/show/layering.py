"""Edits of a canvas' layers: added, copied, ordered, named, taken away, with all that names them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds.picture import Picture
from ushering_adze.core.show.canvas import Canvas
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.layer import Layer
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.show import Show


def with_layers(show: Show, canvas: str, change: Callable[[tuple[Layer, ...]], Sequence[Layer]]) -> Show:
    """The show with other layers on one canvas.

    Parameters
    ----------
    show : Show
    canvas : str
    change : callable
        Is given the layers, the lowest first, and gives those that are to be there.

    Returns
    -------
    Show
    """

    def changed(c: Canvas) -> Canvas:
        return c.model_copy(update={"layers": tuple(change(c.layers))}) if c.id == canvas else c

    return show.model_copy(update={"canvases": tuple(changed(c) for c in show.canvases)})


def fresh_layer(canvas: Canvas, colour: str = "#9FB0B1", name: str = "") -> Layer:
    """A layer that shows nothing yet, under a free id and name.

    Parameters
    ----------
    canvas : Canvas
        That it is for.
    colour : str
    name : str
        If it is to have one; *Layer n* if not.

    Returns
    -------
    Layer
    """
    named = free_name(name[:70] or "Layer 1", {layer.name for layer in canvas.layers})
    return Layer(id=new_id(named, {layer.id for layer in canvas.layers}), name=named, colour=colour)


def with_layer(show: Show, canvas: str, layer: Layer, above: str | None = None) -> Show:
    """The show with one more layer on a canvas: at the top, or next above another.

    Parameters
    ----------
    show : Show
    canvas : str
    layer : Layer
    above : str, optional
        Id of the layer that is to be under it.

    Returns
    -------
    Show
    """

    def put(layers: tuple[Layer, ...]) -> Sequence[Layer]:
        at = next((n + 1 for n, other in enumerate(layers) if other.id == above), len(layers))
        return (*layers[:at], layer, *layers[at:])

    return with_layers(show, canvas, put)


def with_changed_layer(show: Show, canvas: str, id: str, **fields: object) -> Show:
    """The show with other fields of one layer: its name, its colour, whether it is locked, its group.

    Parameters
    ----------
    show : Show
    canvas, id : str
    **fields
        By their names.

    Returns
    -------
    Show

    Raises
    ------
    pydantic.ValidationError
        If a value cannot be.
    """

    return with_layers(show, canvas, lambda layers: [changed(y, **fields) if y.id == id else y for y in layers])


def moved_layers(show: Show, canvas: str, ids: Collection[str], to: int) -> Show:
    """The show with some layers, in their order, so that the lowest of them is the one of number ``to`` from below.

    Parameters
    ----------
    show : Show
    canvas : str
    ids : collection of str
    to : int
        From 0; what is beyond the ends counts as the end.

    Returns
    -------
    Show
    """

    def order(layers: tuple[Layer, ...]) -> Sequence[Layer]:
        mine = [layer for layer in layers if layer.id in ids]
        rest = [layer for layer in layers if layer.id not in ids]
        at = min(max(0, to), len(rest))
        return (*rest[:at], *mine, *rest[at:])

    return with_layers(show, canvas, order)


def stepped_layers(show: Show, canvas: str, ids: Collection[str], by: int) -> Show:
    """The show with some layers one step up (``by`` = 1) or down (−1); those at the end stay.

    Parameters
    ----------
    show : Show
    canvas : str
    ids : collection of str
    by : int

    Returns
    -------
    Show
    """

    def order(layers: tuple[Layer, ...]) -> Sequence[Layer]:
        made = list(layers)
        numbers = range(len(made) - 1, -1, -1) if by > 0 else range(len(made))
        for n in numbers:
            other = n + by
            if made[n].id in ids and 0 <= other < len(made) and made[other].id not in ids:
                made[n], made[other] = made[other], made[n]
        return made

    return with_layers(show, canvas, order)


def naming(show: Show, canvas: str, ids: Collection[str]) -> tuple[int, ...]:
    """Numbers of the presets that store any of these layers.

    Parameters
    ----------
    show : Show
    canvas : str
    ids : collection of str

    Returns
    -------
    tuple of int
    """
    return tuple(p.number for p in show.presets if any(q.canvas == canvas and q.layer in ids for q in p.parts))


def without_layers(show: Show, canvas: str, ids: Collection[str]) -> Show:
    """The show without some layers, nor what presets store of them.

    Parameters
    ----------
    show : Show
    canvas : str
    ids : collection of str

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If one of them is locked.
    """
    locked = [y.name for c in show.canvases if c.id == canvas for y in c.layers if y.id in ids and y.locked]
    if locked:
        raise ShowError([Fault("", f"{locked[0]} is locked; unlock it first")])
    made = with_layers(show, canvas, lambda layers: [layer for layer in layers if layer.id not in ids])
    named = naming(show, canvas, ids)
    presets = tuple(
        p.model_copy(update={"parts": tuple(q for q in p.parts if not (q.canvas == canvas and q.layer in ids))})
        if p.number in named
        else p
        for p in show.presets
    )
    return made.model_copy(update={"presets": presets})


def copied_layers(show: Show, canvas: str, ids: Collection[str], to: str | None = None) -> tuple[Show, tuple[str, ...]]:
    """The show with copies of some layers above them, or on top of another canvas; and the ids of the copies.

    A copy shows nothing as it is declared: it must not be on air because it was made.

    Parameters
    ----------
    show : Show
    canvas : str
    ids : collection of str
    to : str, optional
        Id of the canvas that they are put on.

    Returns
    -------
    show : Show
    ids : tuple of str
    """
    target, made, fresh = to or canvas, show, []
    for layer in show.canvas(canvas).layers:
        if layer.id not in ids:
            continue
        there = made.canvas(target)
        name = free_name(layer.name, {other.name for other in there.layers})
        bare = layer.settings.model_copy(update={"picture": Picture()})
        id = new_id(name, {other.id for other in there.layers})
        copy = layer.model_copy(update={"id": id, "name": name, "locked": False, "settings": bare})
        made = with_layer(made, target, copy, layer.id if target == canvas else None)
        fresh.append(copy.id)
    return made, tuple(fresh)
