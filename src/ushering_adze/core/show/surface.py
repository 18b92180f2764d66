"""The things in the room that show a picture, described as they hang there."""

from __future__ import annotations

from math import cos, radians, sin
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Id, Model, Name
from ushering_adze.core.show.canvas import Curve, Side
from ushering_adze.core.show.led import LedWall
from ushering_adze.core.show.light import Nits
from ushering_adze.core.show.room import Count, Millimetres, RoomPlace


class Projector(Model):
    """One projector: its raster, its light, and what its lens can do.

    ``throw_min`` to ``throw_max`` is distance ÷ picture width; 0 where it is not known.  Lens shift is in per cent of
    the picture.
    """

    id: Id
    name: Name
    width: Side
    height: Side
    lumens: Annotated[float, Field(ge=0, le=1_000_000)] = 0.0
    throw_min: Annotated[float, Field(ge=0, le=100)] = 0.0
    throw_max: Annotated[float, Field(ge=0, le=100)] = 0.0
    shift_x: Annotated[float, Field(ge=-200, le=200)] = 0.0
    shift_y: Annotated[float, Field(ge=-200, le=200)] = 0.0
    distance_mm: Annotated[float, Field(ge=0, le=1_000_000)] = 0.0
    contrast: Annotated[float, Field(ge=1, le=10_000_000, description="white ÷ black of the projector alone")] = 2000.0

    @model_validator(mode="after")
    def _throw_is_a_range(self) -> Projector:
        if self.throw_max < self.throw_min:
            raise ValueError(
                f"a throw ratio from {self.throw_min:g} to {self.throw_max:g} is no range; give the smaller one first"
            )
        return self


class Blend(Model):
    """How light is shared where pictures overlap; see `ushering_adze.core.light.blend`."""

    curve: Curve = "power"
    exponent: Annotated[float, Field(ge=0.25, le=8)] = 2.0


class Projection(Model):
    """A screen lit by projectors row by row, whose pictures overlap by ``overlap_px`` columns and ``overlap_down_px``
    rows.
    """

    kind: Literal["projection"] = "projection"
    id: Id
    name: Name
    place: RoomPlace | None = None
    width_mm: Millimetres
    height_mm: Millimetres
    projectors: Annotated[tuple[Projector, ...], Field(min_length=1)]
    rows: Annotated[int, Field(ge=1, le=64, description="of projectors, one above the other; as many in each")] = 1
    overlap_px: Annotated[int, Field(ge=0)] = 0
    overlap_down_px: Annotated[int, Field(ge=0)] = 0
    blend: Blend = Blend()
    gain: Annotated[float, Field(gt=0, le=10)] = 1.0
    material: Annotated[str, Field(max_length=80)] = ""
    room_lux: Annotated[
        float, Field(ge=0, le=200_000, description="light that falls on the screen with the projectors dark")
    ] = 0.0

    @model_validator(mode="after")
    def _overlap_fits(self) -> Projection:
        if len(self.projectors) % self.rows:
            raise ValueError(f"{len(self.projectors)} projectors do not make {self.rows} rows; give each row as many")
        narrowest, lowest = min(p.width for p in self.projectors), min(p.height for p in self.projectors)
        if self.overlap_px >= narrowest and self.columns > 1:
            raise ValueError(
                f"an overlap of {self.overlap_px} px is wider than the picture ({narrowest} px); make it smaller"
            )
        if self.overlap_down_px >= lowest and self.rows > 1:
            raise ValueError(
                f"an overlap of {self.overlap_down_px} px is higher than the picture ({lowest} px); make it smaller"
            )
        return self

    @property
    def columns(self) -> int:
        """Projectors side by side in each row."""
        return len(self.projectors) // self.rows

    @property
    def offsets(self) -> tuple[tuple[int, int], ...]:
        """Where each projector's picture begins on the screen, in pixels: against its neighbours left and above, less
        the overlap.
        """
        found: list[tuple[int, int]] = []
        for n, _ in enumerate(self.projectors):
            left = found[n - 1][0] + self.projectors[n - 1].width - self.overlap_px if n % self.columns else 0
            above = n - self.columns
            top = found[above][1] + self.projectors[above].height - self.overlap_down_px if above >= 0 else 0
            found.append((left, top))
        return tuple(found)

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels: the pictures side by side and one above the other, less their overlaps."""
        placed = list(zip(self.offsets, self.projectors, strict=True))
        return max(x + p.width for (x, _), p in placed), max(y + p.height for (_, y), p in placed)

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.width_mm, self.height_mm


class ScatteredMonitor(Model):
    """A monitor that hangs by itself: its centre from the left and the top of the wall, turned clockwise."""

    x_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
    y_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
    degrees: Annotated[float, Field(ge=-360, le=360)] = 0.0


class MonitorWall(Model):
    """Equal monitors in rows and columns, or scattered, behind one feed or one feed each.

    ``active_width_mm`` to ``edge_mm`` and ``monitor_width``, ``monitor_height`` are of one monitor upright on its feet;
    ``turned`` hangs each of them by 90°.  With ``hide`` the picture goes on behind the edges.
    """

    kind: Literal["monitor-wall"] = "monitor-wall"
    id: Id
    name: Name
    place: RoomPlace | None = None
    columns: Count
    rows: Count
    active_width_mm: Millimetres
    active_height_mm: Millimetres
    edge_mm: Annotated[float, Field(ge=0, le=500)] = 0.0
    gap_mm: Annotated[float, Field(ge=0, le=100_000, description="between casings")] = 0.0
    monitor_width: Side = 1920
    monitor_height: Side = 1080
    turned: bool = False
    hide: bool = False
    scattered: tuple[ScatteredMonitor, ...] = ()
    each: Annotated[bool, Field(description="every monitor has a feed of its own")] = False
    nits: Nits = 0.0
    feed_width: Side
    feed_height: Side

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster of the feed in pixels."""
        return self.feed_width, self.feed_height

    @property
    def size_mm(self) -> tuple[float, float]:
        """Outer width and height in millimetres, casing edges included."""
        w, h = self.active_width_mm + 2 * self.edge_mm, self.active_height_mm + 2 * self.edge_mm
        if self.scattered:
            boxes = []
            for m in self.scattered:
                c, s = abs(cos(radians(m.degrees))), abs(sin(radians(m.degrees)))
                boxes.append((m.x_mm, m.y_mm, w * c + h * s, w * s + h * c))
            return max(x + bw / 2 for x, _, bw, _ in boxes), max(y + bh / 2 for _, y, _, bh in boxes)
        if self.turned:
            w, h = h, w
        return self.columns * w + (self.columns - 1) * self.gap_mm, self.rows * h + (self.rows - 1) * self.gap_mm


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
    nits: Nits = 0.0

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
    rate: Annotated[float, Field(ge=1, le=480)] = 30.0
    mbps: Annotated[float | None, Field(gt=0, le=100_000, description="bit rate; estimated if null")] = None

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels."""
        return self.width, self.height

    @property
    def size_mm(self) -> None:
        """A stream has no size in the room."""
        return None


Surface = Annotated[LedWall | Projection | MonitorWall | Monitor | Stream, Field(discriminator="kind")]
