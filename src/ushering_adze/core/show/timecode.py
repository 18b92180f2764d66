"""How a cue list follows timecode."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Model
from ushering_adze.core.signal.timecode import CodeRate

Timecode = Annotated[
    str,
    Field(
        pattern=r"^([01]?\d|2[0-3]):[0-5]?\d:[0-5]?\d[:;][0-5]?\d$",
        description="hours:minutes:seconds:frames, like 01:00:00:00",
    ),
]
CodeSource = Literal["internal", "artnet", "midi"]


class Chase(Model):
    """Where a list has its timecode from, and what it makes of it.

    ``offset`` is what is added to what comes.  When nothing comes it goes on by itself for ``freewheel`` seconds.
    ``jumps`` is what becomes of cues that a jump forwards passes: they all fire, the last of them alone, or none.  A
    jump back fires nothing.
    """

    source: CodeSource = "internal"
    rate: CodeRate = "25"
    offset: Annotated[float, Field(ge=-86400, le=86400, description="seconds")] = 0.0
    freewheel: Annotated[float, Field(ge=0, le=60, description="seconds")] = 0.5
    jumps: Literal["fire", "last", "pass"] = "pass"
