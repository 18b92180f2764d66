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
    """A region that lands as a rectangle on its output's raster, flipped and turned on its way.

    ``w`` and ``h`` are those of the area on the raster, after turning.  Where they equal the region's, turned, one pixel goes to one pixel.
    """

    kind: Literal["rect"] = "rect"
    x: Offset
    y: Offset
    w: Side
    h: Side
    flip: Annotated[bool, Field(description="left and right are exchanged, before turning")] = False
    turn: Annotated[Literal[0, 90, 180, 270], Field(description="degrees clockwise, as seen on the raster")] = 0

    @property
    def native(self) -> tuple[int, int]:
        """Width and height of the region that lands here with one pixel to one pixel."""
        return (self.h, self.w) if self.turn in (90, 270) else (self.w, self.h)


Corner = tuple[float, float]


class QuadLanding(Model):
    """A region that lands as a quad: output positions of its top left, top right, bottom right, bottom left corner."""

    kind: Literal["quad"] = "quad"
    corners: tuple[Corner, Corner, Corner, Corner]


Landing = Annotated[RectLanding | QuadLanding, Field(discriminator="kind")]


class Guide(Model):
    """A picture that lies under a canvas or a raster to work from, one of its pixels to one; it never goes on air."""

    path: Annotated[str, Field(min_length=1, max_length=4096)]
    x: Offset = 0
    y: Offset = 0
    opacity: Annotated[float, Field(ge=0, le=1)] = 0.6
    locked: bool = False
    shown: bool = True


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
    colour: Annotated[Colour | None, Field(description="on drawings; by the kind of its surface if null")] = None
    group: Annotated[str, Field(max_length=80, description="regions of one group are selected and moved together")] = ""
    scaled: Annotated[bool, Field(description="resampled on purpose")] = False

    @property
    def exact(self) -> bool:
        """Whether one pixel of the canvas goes to one pixel of the raster."""
        return isinstance(self.landing, RectLanding) and self.landing.native == (self.w, self.h)


class Canvas(Model):
    """The large picture layers are composed on."""

    id: Id
    name: Name
    width: Side
    height: Side
    background: Colour = "#000000"
    rate: Annotated[float | None, Field(ge=1, le=240, description="pictures a second; the show's if null")] = None
    guide: Guide | None = None
    layers: tuple[Layer, ...] = ()
    regions: tuple[Region, ...] = ()
