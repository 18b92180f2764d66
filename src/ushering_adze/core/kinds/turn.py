"""By how much a layer is turned about the middle of its box."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.kinds.kind import Kind

KIND = Kind(
    "turn",
    "Turn",
    22,
    Annotated[float, Field(ge=-36000, le=36000, description="degrees, clockwise as it is seen")],
    0.0,
    glyph=(((0.15, 0.5), (0.3, 0.2), (0.65, 0.15), (0.85, 0.45), (0.75, 0.8)), ((0.55, 0.75), (0.75, 0.8), (0.8, 0.6))),
    from_json=lambda value, now: float(value),
    sane=lambda value: abs(value) <= 36000,
    family="place",
)
