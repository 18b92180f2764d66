"""A layer of a canvas and everything about it that a preset can store."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.show.base import Colour, Id, Model, Name

Fit = Literal["fill", "fit", "stretch", "1:1"]
Fraction = Annotated[float, Field(ge=0.0, le=1.0)]
Coordinate = Annotated[float, Field(ge=-65536, le=65536)]
Extent = Annotated[float, Field(ge=0, le=65536)]


class Picture(Model):
    """Which source a layer shows, and how its picture fills the layer's box."""

    source: Id | None = None
    fit: Fit = "fill"


class Place(Model):
    """The box of a layer on its canvas, in canvas pixels or in per cent of the canvas."""

    x: Coordinate = 0.0
    y: Coordinate = 0.0
    w: Extent = 100.0
    h: Extent = 100.0
    unit: Literal["px", "%"] = "%"

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


class Crop(Model):
    """What is cut from each side of the source's picture, as fractions of its width and height."""

    left: Fraction = 0.0
    top: Fraction = 0.0
    right: Fraction = 0.0
    bottom: Fraction = 0.0

    @model_validator(mode="after")
    def _something_is_left(self) -> Crop:
        if self.left + self.right >= 1 or self.top + self.bottom >= 1:
            raise ValueError("the crop leaves nothing of the picture; keep left + right and top + bottom under 1")
        return self


class Border(Model):
    """A frame inside the edge of the box; width in canvas pixels, 0 for none."""

    width: Annotated[float, Field(ge=0, le=4096)] = 0.0
    colour: Colour = "#FFFFFF"


class LayerSettings(Model):
    """Everything a preset can store of one layer, grouped by kind of setting."""

    picture: Picture = Picture()
    place: Place = Place()
    crop: Crop = Crop()
    opacity: Fraction = 1.0
    border: Border = Border()


class Layer(Model):
    """One layer of a canvas.  Layers lie in the order of the canvas' list, the first at the bottom."""

    id: Id
    name: Name
    colour: Colour = "#9FB0B1"
    settings: LayerSettings = LayerSettings()
