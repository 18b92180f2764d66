"""Which pattern goes where while a surface is aligned: in coordinates of outputs, of the canvas, or of the screen."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look, numbered_grid, overlap_zones, shaped
from ushering_adze.core.light.patterns import Label
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Output, Show
from ushering_adze.core.show.laid import On

Pixels = NDArray[np.uint8]
COLOURS = ("#E3A857", "#5AB4BD", "#9C8AD6", "#93A84E", "#C9785A", "#6FA0D8")


def colour_of(output: Output, n: int) -> tuple[int, int, int]:
    """An output's own colour, blue first; by its place in the row if it has none.

    Parameters
    ----------
    output : Output
        Which output.
    n : int
        Which one, from 0.

    Returns
    -------
    tuple[int, int, int]
    """
    red, green, blue = rgb_of(output.colour or COLOURS[n % len(COLOURS)])
    return blue, green, red


class PatternShown(NamedTuple):
    """A choice of pattern: its name, whose coordinates it is drawn in, and its look; ``own`` draws each output's in its
    own colour.
    """

    name: str = "grid"
    on: On = "canvas"
    look: Look = Look()
    own: bool = False


def on_outputs(show: Show, surface: str, shown: PatternShown) -> dict[str, Pixels]:
    """Patterns for the raster of each output of a surface, past its landing.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    shown : PatternShown
        What is shown.

    Returns
    -------
    dict[str, Pixels]
    """
    made = {}
    for n, id in enumerate(dict.fromkeys(r.output for r in show.lit_by(surface))):
        output = show.output(id)
        look = shown.look._replace(ink=colour_of(output, n)) if shown.own or shown.name == "marks" else shown.look
        width, height = output.timing.width, output.timing.height
        label = Label(f"{output.number} {output.name}", output.timing.rate, show.surface(surface).name)
        made[id] = (
            numbered_grid(width, height, look, title=output.name)
            if shown.name in ("grid", "overlaps")
            else shaped(shown.name, width, height, label, look)
        )
    return made


def on_canvas(show: Show, surface: str, shown: PatternShown) -> dict[str, dict[str, Pixels]]:
    """Patterns in place of a surface's canvas, for each of its outputs: they go through landing, blend and blacks.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    shown : PatternShown
        What is shown.

    Returns
    -------
    dict[str, dict[str, Pixels]]
    """
    regions = show.lit_by(surface)
    made: dict[str, dict[str, Pixels]] = {}
    face = face_of(regions)
    for canvas in show.canvases:
        mine = [r for r in regions if show.homes[r.id][0].id == canvas.id]
        if not mine:
            continue
        picture = np.zeros((canvas.height, canvas.width, 4), np.uint8)
        picture[..., 3] = 255
        seen = face.meet(Rect(0, 0, canvas.width, canvas.height))
        first = (seen.x, seen.y) if shown.on == "canvas" else (seen.x - face.x, seen.y - face.y)
        name = show.surface(surface).name
        if shown.name in ("grid", "marks"):
            part = numbered_grid(seen.w, seen.h, shown.look, first, name)
        elif shown.name == "overlaps":
            rects = [Rect(r.x - seen.x, r.y - seen.y, r.w, r.h) for r in mine]
            part = overlap_zones(
                seen.w, seen.h, rects, [colour_of(show.output(r.output), n) for n, r in enumerate(mine)], shown.look
            )
        else:
            part = shaped(shown.name, seen.w, seen.h, Label(name), shown.look)
        picture[seen.cut()] = part
        for r in mine:
            made.setdefault(r.output, {})[canvas.id] = picture
    return made
