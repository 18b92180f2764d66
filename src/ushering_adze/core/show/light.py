"""What is said of a display's light, whatever kind of display it is."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Model

Nits = Annotated[float, Field(ge=0, le=20_000, description="luminance of its white in cd/m²; 0: not known")]


class White(Model):
    """The white that is wanted, CIE 1931 xy, of a display whose own white is ``native``; its primaries are those of
    BT.709.
    """

    x: Annotated[float, Field(gt=0.05, lt=0.75)]
    y: Annotated[float, Field(gt=0.05, lt=0.85)]
    native: tuple[Annotated[float, Field(gt=0.05, lt=0.75)], Annotated[float, Field(gt=0.05, lt=0.85)]] = (
        0.3127,
        0.3290,
    )
