"""What is laid over the show while it is lined up: a pattern, outputs dimmed, outputs without their blend; in words,
not in pixels.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Colour, Id, Model
from ushering_adze.core.show.source import PatternName

Where = Literal["surface", "output", "all"]
On = Literal["output", "canvas", "screen"]
"""What a pattern goes by."""


class Pattern(Model):
    """A pattern in place of the show."""

    name: PatternName | Literal["overlaps"] = "grid"
    on: On = "canvas"
    spacing: Annotated[int, Field(ge=2, le=4096)] = 60
    line: Annotated[int, Field(ge=1, le=100)] = 1
    ink: Colour = "#EBEBEB"
    own: Annotated[bool, Field(description="each output's in its own colour")] = False


class Laid(Model):
    """Laid over the outputs of a surface; the show goes on under it."""

    surface: Id
    output: Annotated[Id, Field(description="which of its outputs is on view")]
    pattern: Annotated[Pattern | None, Field(description="null: the show itself")] = None
    where: Annotated[
        Where, Field(description="on all outputs of the surface, on the one on view, or on all there are")
    ] = "surface"
    bare: Annotated[bool, Field(description="without blend and blacks")] = False
    others: Annotated[float, Field(ge=0, le=1, description="factor on the codes of the surface's other outputs")] = 1.0
