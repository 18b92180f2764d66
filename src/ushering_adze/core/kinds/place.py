"""Where a layer lies on its canvas."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Model
from ushering_adze.core.kinds.kind import Kind, as_floats

Coordinate = Annotated[float, Field(ge=-65536, le=65536)]
Extent = Annotated[float, Field(ge=0, le=65536)]


class Place(Model):
    """The box of a layer on its canvas, in canvas pixels or in per cent of the canvas."""

    x: Coordinate = 0.0
    y: Coordinate = 0.0
    w: Extent = 100.0
    h: Extent = 100.0
    unit: Literal["px", "%"] = "%"

    @classmethod
    def of_box(cls, box: tuple[float, float, float, float]) -> Place:
        """The place of a box in canvas pixels, to a ten thousandth of one.

        Examples
        --------
        >>> Place.of_box((8, 0.5, 100 / 3, 1)).w
        33.3333
        """
        x, y, w, h = (round(v, 4) for v in box)
        return cls(x=x, y=y, w=w, h=h, unit="px")

    def in_pixels(self, width: int, height: int) -> tuple[float, float, float, float]:
        """``(x, y, w, h)`` in pixels on a canvas of ``width`` × ``height``.

        Examples
        --------
        >>> Place(x=25, y=0, w=50, h=100).in_pixels(4112, 2040)
        (1028.0, 0.0, 2056.0, 2040.0)
        """
        if self.unit == "px":
            return self.x, self.y, self.w, self.h
        return self.x * width / 100, self.y * height / 100, self.w * width / 100, self.h * height / 100


KIND = Kind(
    "place",
    "Place",
    20,
    Place,
    Place(),
    glyph=(((0.1, 0.2), (0.9, 0.2), (0.9, 0.8), (0.1, 0.8), (0.1, 0.2)),),
    value=lambda place, width, height: place.in_pixels(width, height),
    document=lambda v, width, height: Place(x=v[0], y=v[1], w=v[2], h=v[3], unit="px"),
    to_json=lambda value, now: list(value),
    from_json=lambda value, now: as_floats(value),
    sane=lambda value: value[2] >= 0 and value[3] >= 0,
    family="place",
)
