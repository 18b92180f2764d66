"""Where things hang."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Model

Millimetres = Annotated[float, Field(gt=0, le=1_000_000)]
Count = Annotated[int, Field(ge=1, le=1000)]


class RoomPlace(Model):
    """Where a surface hangs in the front view: left edge from the left wall, foot above the floor, in mm.

    ``apart`` surfaces hang elsewhere and are drawn beside the room.
    """

    x_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)] = 0.0
    foot_mm: Annotated[float, Field(ge=-1_000_000, le=1_000_000)] = 0.0
    apart: bool = False
