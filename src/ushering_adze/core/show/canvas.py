"""A canvas, its layers, and the regions of it that go to outputs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Colour, Id, Model, Name
from ushering_adze.core.show.layer import Layer

MAX_SIDE = 32768
Curve = Literal["power", "cosine", "straight"]
Side = Annotated[int, Field(ge=1, le=MAX_SIDE)]
Offset = Annotated[int, Field(ge=-MAX_SIDE, le=MAX_SIDE)]


class RectLanding(Model):
    """A region that lands as a rectangle on its output's raster, flipped and turned on its way.

    ``w`` and ``h`` are those of the area on the raster, after turning.  Where they equal the region's, turned, one
    pixel goes to one pixel.
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


Coordinate = Annotated[float, Field(ge=-4 * MAX_SIDE, le=4 * MAX_SIDE)]
Corner = tuple[Coordinate, Coordinate]
Resampling = Literal["nearest", "linear", "cubic", "area"]


class QuadLanding(Model):
    """A region that lands as a quad: output positions of its top left, top right, bottom right, bottom left corner."""

    kind: Literal["quad"] = "quad"
    corners: tuple[Corner, Corner, Corner, Corner]
    resampling: Resampling = "linear"


class MeshLanding(Model):
    """A region that bends: output positions of points at even fractions of it, row by row from the top left.

    Between *smooth* points the region goes through the homography of its four outer corners and a bicubic spline of
    what the points add to it; between *straight* ones it is bilinear.
    """

    kind: Literal["mesh"] = "mesh"
    columns: Annotated[int, Field(ge=2, le=33)]
    rows: Annotated[int, Field(ge=2, le=33)]
    points: tuple[Corner, ...]
    spans: Literal["smooth", "straight"] = "smooth"
    resampling: Resampling = "linear"

    @model_validator(mode="after")
    def _a_point_for_each(self) -> MeshLanding:
        if len(self.points) != self.columns * self.rows:
            raise ValueError(
                f"a mesh of {self.columns} × {self.rows} has {self.columns * self.rows} points, not "
                f"{len(self.points)}; give each one"
            )
        return self


Landing = Annotated[RectLanding | QuadLanding | MeshLanding, Field(discriminator="kind")]


class Edge(Model):
    """A blend set by hand along one edge of a region: from ``start`` to ``width`` pixels in, light rises from none to
    all.

    ``gamma`` bends the ramp afterwards: light ** gamma.
    """

    width: Annotated[float, Field(ge=0, le=MAX_SIDE)]
    start: Annotated[float, Field(ge=0, le=MAX_SIDE)] = 0.0
    curve: Curve = "power"
    exponent: Annotated[float, Field(ge=0.25, le=8)] = 2.0
    gamma: Annotated[float, Field(ge=0.1, le=10)] = 1.0


class Edges(Model):
    """Blends by hand, in place of those computed; an edge that is null is not blended."""

    left: Edge | None = None
    top: Edge | None = None
    right: Edge | None = None
    bottom: Edge | None = None


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
    edges: Edges | None = None
    surface: Id | None = None
    projector: Id | None = None
    monitor: Annotated[
        int | None, Field(ge=1, le=10_000, description="which monitor of a wall, row by row from the top left")
    ] = None
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
