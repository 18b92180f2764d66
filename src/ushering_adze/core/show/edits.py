"""Edits: each takes a show and gives the next one, copying along the path only."""

from __future__ import annotations

from typing import TypeVar

from ushering_adze.core.document.model import Model
from ushering_adze.core.show.canvas import Canvas, Region
from ushering_adze.core.show.output import Binding, Output
from ushering_adze.core.show.show import Show, faults_of

M = TypeVar("M", bound=Model)


def changed(value: M, **fields: object) -> M:
    """The same value with other fields, checked again.

    Raises
    ------
    pydantic.ValidationError
        If the new value is not allowed.
    """
    return type(value).model_validate({**{k: getattr(value, k) for k in type(value).model_fields}, **fields})


def find_region(show: Show, id: str) -> tuple[Canvas, Region] | None:
    """A region and its canvas by the region's id.

    Parameters
    ----------
    show : Show
    id : str
        Of the item.

    Returns
    -------
    tuple[Canvas, Region] | None
    """
    return show.homes.get(id)


def with_region(show: Show, region: Region) -> Show:
    """The show with the region of this id replaced.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.

    Returns
    -------
    Show
        With the edit.
    """
    home = find_region(show, region.id)
    if home is None:
        return show
    return with_canvas(
        show, home[0].model_copy(update={"regions": tuple(region if r.id == region.id else r for r in home[0].regions)})
    )


def with_canvas(show: Show, canvas: Canvas) -> Show:
    """The show with the canvas of this id replaced.

    Parameters
    ----------
    show : Show
    canvas : Canvas
        Which canvas.

    Returns
    -------
    Show
        With the edit.
    """
    return show.model_copy(update={"canvases": tuple(canvas if c.id == canvas.id else c for c in show.canvases)})


def with_new_region(show: Show, canvas: str, region: Region) -> Show:
    """The show with one more region on a canvas, above the others.

    Parameters
    ----------
    show : Show
    canvas : str
        Which canvas.
    region : Region
        Which region.

    Returns
    -------
    Show
        With the edit.
    """
    home = show.canvas(canvas)
    return with_canvas(show, home.model_copy(update={"regions": (*home.regions, region)}))


def with_output(show: Show, output: Output) -> Show:
    """The show with the output of this id replaced.

    Parameters
    ----------
    show : Show
    output : Output
        Which output.

    Returns
    -------
    Show
        With the edit.
    """
    return show.model_copy(update={"outputs": tuple(output if o.id == output.id else o for o in show.outputs)})


def with_binding(show: Show, output: str, binding: Binding | None) -> Show:
    """The show with one output bound anew; None unbinds it.

    Parameters
    ----------
    show : Show
    output : str
        Which output.
    binding : Binding | None
        Where it goes on this machine; None for nowhere.

    Returns
    -------
    Show
        With the edit.
    """
    return with_output(show, show.output(output).model_copy(update={"binding": binding}))


def is_whole(show: Show) -> bool:
    """Whether an edited show still passes the checks of the whole."""
    return not faults_of(show)
