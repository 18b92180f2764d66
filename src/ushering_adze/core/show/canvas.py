"""A canvas, its layers, and the regions of it that go to outputs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.show.base import Colour, Id, Model, Name
from ushering_adze.core.show.layer import Layer

MAX_SIDE = 32768
Side = Annotated[int, Field(ge=1, le=MAX_SIDE)]
Offset = Annotated[int, Field(ge=-MAX_SIDE, le=MAX_SIDE)]


class RectLanding(Model):
    """A region that lands as a rectangle on its output's raster.  Equal size means one pixel to one pixel."""

    kind: Literal["rect"] = "rect"
    x: Offset
    y: Offset
    w: Side
    h: Side


Corner = tuple[float, float]


class QuadLanding(Model):
    """A region that lands as a quad: output positions of its top left, top right, bottom right, bottom left corner."""

    kind: Literal["quad"] = "quad"
    corners: tuple[Corner, Corner, Corner, Corner]


Landing = Annotated[RectLanding | QuadLanding, Field(discriminator="kind")]


class Region(Model):
    """A rectangle of a canvas that goes to an output, and the fed part of a surface it feeds."""

    id: Id
    name: Name
    x: Offset
    y: Offset
    w: Side
    h: Side
    output: Id
    landing: Landing
    surface: Id | None = None
    projector: Id | None = None
    monitor: Annotated[int | None, Field(ge=1, le=10_000, description="which monitor of a wall, row by row from the top left")] = None
    mirror: Annotated[bool, Field(description="repeats, on purpose, what another region already feeds")] = False


class Canvas(Model):
    """The large picture layers are composed on."""

    id: Id
    name: Name
    width: Side
    height: Side
    background: Colour = "#000000"
    layers: tuple[Layer, ...] = ()
    regions: tuple[Region, ...] = ()
