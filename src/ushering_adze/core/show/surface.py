"""The things in the room that show a picture, described as they hang there."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.show.base import Id, Model, Name
from ushering_adze.core.show.canvas import Side

Millimetres = Annotated[float, Field(gt=0, le=1_000_000)]
Count = Annotated[int, Field(ge=1, le=1000)]


class RoomPlace(Model):
    """Where a surface hangs in the front view: left edge from the left wall, foot above the floor, in mm.

    ``apart`` surfaces hang elsewhere and are drawn beside the room.
    """

    x_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)] = 0.0
    foot_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)] = 0.0
    apart: bool = False


class Cabinet(Model):
    """One LED cabinet: its size and its pixels."""

    width_mm: Millimetres
    height_mm: Millimetres
    columns_px: Side
    rows_px: Side

    @property
    def pitch_mm(self) -> float:
        """Pixel pitch across, in millimetres.

        Examples
        --------
        >>> round(Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192).pitch_mm, 3)
        2.604
        """
        return self.width_mm / self.columns_px


class LedWall(Model):
    """A wall of equal cabinets."""

    kind: Literal["led-wall"] = "led-wall"
    id: Id
    name: Name
    place: RoomPlace | None = None
    cabinet: Cabinet
    columns: Count
    rows: Count

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels."""
        return self.columns * self.cabinet.columns_px, self.rows * self.cabinet.rows_px

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.columns * self.cabinet.width_mm, self.rows * self.cabinet.height_mm


class Projector(Model):
    """One projector: its raster in pixels."""

    id: Id
    name: Name
    width: Side
    height: Side


class Projection(Model):
    """A screen lit by projectors in a row whose pictures overlap by ``overlap_px`` columns."""

    kind: Literal["projection"] = "projection"
    id: Id
    name: Name
    place: RoomPlace | None = None
    width_mm: Millimetres
    height_mm: Millimetres
    projectors: Annotated[tuple[Projector, ...], Field(min_length=1)]
    overlap_px: Annotated[int, Field(ge=0)] = 0

    @model_validator(mode="after")
    def _overlap_fits(self) -> Projection:
        narrowest = min(p.width for p in self.projectors)
        if self.overlap_px >= narrowest and len(self.projectors) > 1:
            raise ValueError(f"an overlap of {self.overlap_px} px is wider than the picture ({narrowest} px); make it smaller")
        return self

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels: the pictures side by side less their overlaps."""
        width = sum(p.width for p in self.projectors) - self.overlap_px * (len(self.projectors) - 1)
        return width, max(p.height for p in self.projectors)

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.width_mm, self.height_mm


class MonitorWall(Model):
    """Equal monitors in rows and columns behind one feed."""

    kind: Literal["monitor-wall"] = "monitor-wall"
    id: Id
    name: Name
    place: RoomPlace | None = None
    columns: Count
    rows: Count
    active_width_mm: Millimetres
    active_height_mm: Millimetres
    edge_mm: Annotated[float, Field(ge=0, le=500)] = 0.0
    feed_width: Side
    feed_height: Side

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster of the feed in pixels."""
        return self.feed_width, self.feed_height

    @property
    def size_mm(self) -> tuple[float, float]:
        """Outer width and height in millimetres, casing edges included."""
        return (self.columns * (self.active_width_mm + 2 * self.edge_mm), self.rows * (self.active_height_mm + 2 * self.edge_mm))


class Monitor(Model):
    """A single monitor."""

    kind: Literal["monitor"] = "monitor"
    id: Id
    name: Name
    place: RoomPlace | None = None
    width: Side
    height: Side
    width_mm: Millimetres
    height_mm: Millimetres

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels."""
        return self.width, self.height

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.width_mm, self.height_mm


class Stream(Model):
    """A clean feed that leaves over a network; it hangs nowhere."""

    kind: Literal["stream"] = "stream"
    id: Id
    name: Name
    place: None = None
    width: Side
    height: Side

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels."""
        return self.width, self.height

    @property
    def size_mm(self) -> None:
        """A stream has no size in the room."""
        return None


Surface = Annotated[LedWall | Projection | MonitorWall | Monitor | Stream, Field(discriminator="kind")]
