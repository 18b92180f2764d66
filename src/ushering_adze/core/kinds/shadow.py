"""The shadow that a layer throws on what is below it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Colour, Model, rgb_of
from ushering_adze.core.kinds.kind import Kind, as_floats
from ushering_adze.core.kinds.opacity import Fraction

Shift = Annotated[float, Field(ge=-4096, le=4096)]


class Shadow(Model):
    """A shadow: by how many pixels it lies to the right and below, how wide its edge is, its colour, and how dark it
    is; none at an opacity of 0.
    """

    x: Shift = 12.0
    y: Shift = 12.0
    blur: Annotated[float, Field(ge=0, le=1024)] = 24.0
    opacity: Fraction = 0.0
    colour: Colour = "#000000"


def _value(shadow: Shadow, width: int, height: int) -> tuple[float, ...]:
    return shadow.x, shadow.y, shadow.blur, shadow.opacity, *(float(v) for v in rgb_of(shadow.colour))


def _document(value: tuple[float, ...], width: int, height: int) -> Shadow:
    colour = "#" + "".join(f"{round(v):02X}" for v in value[4:])
    return Shadow(x=value[0], y=value[1], blur=value[2], opacity=value[3], colour=colour)


KIND = Kind(
    "shadow",
    "Shadow",
    55,
    Shadow,
    Shadow(),
    glyph=(((0.05, 0.05), (0.7, 0.05), (0.7, 0.7), (0.05, 0.7), (0.05, 0.05)), ((0.3, 0.9), (0.9, 0.9), (0.9, 0.3))),
    value=_value,
    document=_document,
    to_json=lambda value, now: list(value),
    from_json=lambda value, now: as_floats(value),
    sane=lambda value: value[2] >= 0 and 0 <= value[3] <= 1 and all(0 <= v <= 255 for v in value[4:]),
    family="frame",
)
