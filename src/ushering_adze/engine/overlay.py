"""What is laid over the show while it is aligned: patterns on outputs, and outputs dimmed or without their blend."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ushering_adze.core.picture.frame import Pixels


class Overlay(NamedTuple):
    """Laid over outputs; the show goes on under it, and is there again, exactly, once it is taken away.

    ``rasters`` are pictures in place of an output's own.  ``canvases`` are pictures in place of canvases, for some outputs: they go
    through the landing as the canvas would.  ``bare`` outputs have no weights and lifts.  ``dim`` are factors on codes.  ``moving``
    gives rasters by the time in seconds, and is asked for every frame.
    """

    rasters: Mapping[str, Pixels] = {}
    canvases: Mapping[str, Mapping[str, Pixels]] = {}
    bare: frozenset[str] = frozenset()
    dim: Mapping[str, float] = {}
    moving: Callable[[float], Mapping[str, Pixels]] | None = None

    def patterns(self, output: str) -> bool:
        """Whether an output shows a pattern in place of the show."""
        return output in self.rasters or output in self.canvases or self.moving is not None
