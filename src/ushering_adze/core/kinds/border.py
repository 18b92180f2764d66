"""A frame inside the edge of a layer's box."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Colour, Model, rgb_of
from ushering_adze.core.kinds.kind import Kind, as_floats


class Border(Model):
    """A frame inside the edge of the box, or outside it; width in canvas pixels, 0 for none."""

    width: Annotated[float, Field(ge=0, le=4096)] = 0.0
    colour: Colour = "#FFFFFF"
    outside: bool = False


def _value(border: Border, width: int, height: int) -> tuple[float, ...]:
    red, green, blue = rgb_of(border.colour)
    return border.width, float(red), float(green), float(blue), float(border.outside)


def _document(value: tuple[float, ...], width: int, height: int) -> Border:
    colour = "#" + "".join(f"{round(v):02X}" for v in value[1:4])
    return Border(width=value[0], colour=colour, outside=value[4] >= 0.5)


_BOX = ((0.05, 0.1), (0.95, 0.1), (0.95, 0.9), (0.05, 0.9), (0.05, 0.1))
KIND = Kind(
    "border",
    "Border",
    50,
    Border,
    Border(),
    glyph=(_BOX, ((0.2, 0.25), (0.8, 0.25), (0.8, 0.75), (0.2, 0.75), (0.2, 0.25))),
    value=_value,
    document=_document,
    to_json=lambda value, now: list(value),
    from_json=lambda value, now: as_floats(value),
    sane=lambda value: value[0] >= 0 and all(0 <= v <= 255 for v in value[1:4]) and 0 <= value[4] <= 1,
    family="frame",
)
