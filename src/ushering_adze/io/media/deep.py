"""Frames of more than eight bits, and of a high dynamic range, made ready to be shown with eight: dithered, not cut."""

from __future__ import annotations

import atexit
import re
import tempfile
from functools import cache
from pathlib import Path
from typing import Any

import av
import av.filter
import numpy as np

from ushering_adze.core.light.hdr import Transfer, cube
from ushering_adze.core.plane.pixels import Pixels, dithered

TRANSFERS: dict[int, Transfer] = {16: "PQ", 18: "HLG"}
"""Of frames, as ITU-T H.273, table 3, numbers them."""
_YUV = re.compile(r"(yuva?4[0-9][0-9]p)(9|10|12|14)(le|be)")
_TWO_PLANES = {"p010le": "nv12", "p012le": "nv12", "p210le": "nv16", "p410le": "nv24"}


def shallow_format(name: str) -> str | None:
    """The format of eight bits that a deep one of luma and colour differences is dithered to; None for any other."""
    found = _YUV.fullmatch(name)
    return found[1] if found else _TWO_PLANES.get(name)


def is_deep(frame: Any) -> bool:
    """Whether a decoded frame has more than eight bits."""
    return any(c.bits > 8 for c in frame.format.components)


@cache
def _table(transfer: Transfer) -> str:
    """A file of what the codes of a transfer become, for as long as the program runs."""
    with tempfile.NamedTemporaryFile("w", suffix=".cube", delete=False) as file:
        file.write(cube(transfer))
    atexit.register(Path(file.name).unlink, missing_ok=True)
    return file.name


class Plain:
    """Brings the frames of one stream from a high dynamic range to plain codes, still with all their bits."""

    def __init__(self) -> None:
        self._graph: Any | None = None
        self._made_for: object = None

    def frame(self, deep: Any, transfer: Transfer) -> Any:
        """An RGB frame of 16 bits, of any primaries and transfer of BT.2100, as one of BT.709."""
        made_for = (deep.width, deep.height, deep.format.name, transfer)
        if made_for != self._made_for:
            graph = av.filter.Graph()
            source = graph.add_buffer(
                width=deep.width, height=deep.height, format=deep.format, time_base=deep.time_base or "1/90000"
            )
            table = graph.add("lut3d", f"file={_table(transfer)}:interp=tetrahedral")
            sink = graph.add("buffersink")
            source.link_to(table)
            table.link_to(sink)
            graph.configure()
            self._graph, self._made_for = graph, made_for
        assert self._graph is not None
        self._graph.push(deep)
        return self._graph.pull()


def eight_bits(frame: Any) -> Pixels:
    """A deep RGB frame as straight BGRA, dithered."""
    codes = frame.reformat(format="rgba64le").to_ndarray()
    return dithered(np.ascontiguousarray(codes[..., [2, 1, 0, 3]]))
