"""How much of a layer is seen."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.kinds.kind import Kind

Fraction = Annotated[float, Field(ge=0.0, le=1.0)]

KIND = Kind(
    "opacity",
    "Opacity",
    40,
    Fraction,
    1.0,
    "faded",
    glyph=(((0.15, 0.85), (0.85, 0.85), (0.85, 0.15), (0.15, 0.85)),),
    from_json=lambda value, now: float(value),
    sane=lambda value: 0 <= value <= 1,
    family="opacity",
)
