"""How one picture goes over into another."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ushering_adze.core.document.model import Colour, Id, Model


class Way(Model):
    """How one picture goes over into another: a cut, a dissolve, through a colour, wiped, pushed, slid over, zoomed,
    or moved: then the box of its layer travels to where it will be, also where the preset says that it snaps.

    A wipe has a ``form``: a line that goes towards ``angle`` (0 is to the right, 90 down), an iris, a clock, ``count``
    blinds, or the brightness of the picture of ``source``, from dark to bright; ``soft`` is the width of its edge as a
    share of its whole way.  What is pushed or slid goes towards ``angle`` too.
    """

    kind: Literal["cut", "dissolve", "dip", "wipe", "push", "slide", "zoom", "move"] = "dissolve"
    form: Literal["line", "iris", "clock", "blinds", "picture"] = "line"
    angle: Annotated[float, Field(ge=-360, le=360)] = 0.0
    soft: Annotated[float, Field(ge=0, le=1)] = 0.02
    count: Annotated[int, Field(ge=1, le=64)] = 8
    colour: Colour = "#000000"
    source: Id | None = None

    @property
    def on_air(self) -> tuple[str, tuple[tuple[str, Any], ...]]:
        """Its kind and parameters."""
        wanted = {
            "dip": ("colour",),
            "wipe": ("form", "angle", "soft", "count", "source"),
            "push": ("angle",),
            "slide": ("angle",),
        }.get(self.kind, ())
        return self.kind, tuple((name, getattr(self, name)) for name in wanted)
