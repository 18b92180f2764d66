"""Sources that are turned by hand, page by page: documents, and text that is set on the spot; and clocks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Colour, Model, Name
from ushering_adze.core.show.canvas import Side

Part = Annotated[float, Field(ge=0, le=1)]
Letters = Annotated[float, Field(ge=6, le=2000)]


class Dress(Model):
    """How pages of text are set: over the whole screen, or as a strip at its foot.

    ``size`` is the height of letters in pixels, at most; text that is too long gets smaller ones, down to ``smallest``.
    ``safe`` is what stays free at each side, as a share.  Behind the text is ``box``, as dense as ``density``.
    """

    layout: Literal["full", "strip"] = "full"
    width: Side = 1920
    height: Side = 1080
    font: Name = "B612"
    size: Letters = 110.0
    smallest: Letters = 28.0
    colour: Colour = "#FFFFFF"
    second: bool = True
    second_colour: Colour = "#E3A857"
    second_size: Annotated[Part, Field(description="of the second field, as a share of the first's")] = 0.6
    box: Colour = "#0E1230"
    density: Part = 0.0
    align: Literal["left", "middle", "right"] = "middle"
    safe: Annotated[float, Field(ge=0, le=0.3)] = 0.05
    strip: Annotated[float, Field(ge=0.05, le=1, description="height of the strip, as a share")] = 0.22

    @model_validator(mode="after")
    def _sizes_in_order(self) -> Dress:
        if self.smallest > self.size:
            raise ValueError("the smallest letters are larger than the letters; make them no larger")
        return self


class Mark(Model):
    """Seconds from which a timer is amber, and red."""

    amber: Annotated[float, Field(ge=0, le=86400)] = 60.0
    red: Annotated[float, Field(ge=0, le=86400)] = 15.0


TimeOfDay = Annotated[
    str, Field(pattern=r"^([01]?\d|2[0-3]):[0-5]\d(:[0-5]\d)?$", description="like 20:00 or 20:00:30")
]
