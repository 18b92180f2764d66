"""How a source gets its alpha: from its own, its brightness, a colour it was filmed before, or a second source."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Colour, Id, Model

Part = Annotated[float, Field(ge=0, le=1)]


class LumaKey(Model):
    """Keeps what is brighter than ``low`` and darker than ``high``, in codes of 0 to 1, with ramps ``soft`` wide;
    ``turned`` keeps the rest.
    """

    by: Literal["luma"] = "luma"
    low: Part = 0.1
    high: Part = 1.0
    soft: Part = 0.1
    turned: bool = False


class ChromaKey(Model):
    """Takes out what is like ``colour``.

    ``tolerance`` is how far from it a pixel may be to go wholly, ``soft`` over how much more it comes back, as shares
    of the way to grey; ``despill`` takes the colour's tint from what is left; ``choke`` narrows the mask by so many
    pixels, or widens it.
    """

    by: Literal["chroma"] = "chroma"
    colour: Colour = "#1FA83C"
    tolerance: Part = 0.1
    soft: Annotated[float, Field(gt=0, le=1)] = 0.6
    despill: Part = 1.0
    choke: Annotated[int, Field(ge=-20, le=20)] = 0


class FillKey(Model):
    """A second source as key: its brightness, or its alpha.  A ``shaped`` fill was multiplied by it before it came."""

    by: Literal["source"] = "source"
    source: Id
    of: Literal["luma", "alpha"] = "luma"
    turned: bool = False
    shaped: bool = False


Keying = Annotated[LumaKey | ChromaKey | FillKey, Field(discriminator="by")]
