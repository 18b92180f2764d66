"""A feed: what is sent out as a stream, a recording or a virtual camera."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Id, Model, Name
from ushering_adze.core.show.canvas import Side

Shows = Literal["surface", "output", "canvas", "source", "wall"]


class Feed(Model):
    """A surface, output, canvas, source or wall sent to ``to``: a URL (udp, rtp, rtmp, rtsp, srt, http for MJPEG), a
    file (.mp4, .mov, .mkv, .ts, .m3u8), a folder for PNG files, or /dev/video0.

    Without a size or a rate it has its picture's and the show's.  ``part`` is the picture, or of a canvas its fill or
    its key, for who puts them together at the far end; ``alpha`` sends both in one.  ``heard_by`` is an input that
    receives it at the far end.
    """

    id: Id
    name: Name
    shows: Shows
    of: Id
    to: Annotated[str, Field(min_length=1, max_length=400)]
    width: Side | None = None
    height: Side | None = None
    rate: Annotated[float | None, Field(ge=1, le=240)] = None
    kbit: Annotated[int, Field(ge=50, le=200_000, description="thousands of bits a second")] = 6000
    key_seconds: Annotated[float, Field(ge=0.1, le=20, description="from one key frame to the next")] = 2.0
    part: Literal["picture", "fill", "key"] = "picture"
    alpha: bool = False
    hardware: Annotated[bool, Field(description="code with the graphics card where it can")] = False
    on: Annotated[bool, Field(description="sends as soon as the show is opened")] = False
    heard_by: Id | None = None
    mix: Annotated[Id | None, Field(description="the mix of sound that goes with it")] = None
    sound_kbit: Annotated[int, Field(ge=32, le=512)] = 160

    @model_validator(mode="after")
    def _alpha_of_a_canvas(self) -> Feed:
        if (self.alpha or self.part != "picture") and self.shows not in ("canvas", "source"):
            raise ValueError("only a canvas or a source has an alpha, a fill and a key; send one of these")
        if (self.width is None) != (self.height is None):
            raise ValueError("a size has both width and height; give both, or neither")
        return self

    @property
    def is_path(self) -> bool:
        """Whether it goes to a file or folder, not to an address."""
        return "://" not in self.to
