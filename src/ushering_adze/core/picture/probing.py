"""Which pixel of a picture is seen at a place of a wall, and what it is."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ushering_adze.core.picture.key import luma_of
from ushering_adze.core.picture.walls import cell_rect, shown_rect
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.wall import Wall, WallCell


class Probed(NamedTuple):
    """A pixel of a cell's picture: its place, the picture's size, and its codes of red, green and blue."""

    x: int
    y: int
    width: int
    height: int
    colour: tuple[int, int, int]
    nits: float | None = None
    """Luminance in cd/m² where it hangs, if that is known."""

    @property
    def words(self) -> str:
        """In one line."""
        r, g, b = self.colour
        luma = int(luma_of(np.array([[[b, g, r, 255]]], np.uint8))[0, 0]) / 255
        light = "" if self.nits is None else f"   {self.nits:.3g} cd/m²"
        return f"x {self.x}  y {self.y} of {self.width} × {self.height}   R {r}  G {g}  B {b}   luma {luma:.1%}{light}"


def probed(wall: Wall, cell: WallCell, picture: Pixels, x: float, y: float, channels: int = 0) -> Probed | None:
    """The pixel of a cell's picture that is seen at a place of the wall; None beside the picture.

    Parameters
    ----------
    wall : Wall
    cell : WallCell
    picture : ndarray, (h, w, 4)
    x, y : float
        In pixels of the wall.
    channels : int, optional
        For how many it has meters.

    Returns
    -------
    Probed or None
    """
    height, width = picture.shape[:2]
    at = shown_rect(cell_rect(wall, cell), (width, height), cell, channels)
    px, py = int((x - at.x) / at.w * width // 1), int((y - at.y) / at.h * height // 1)
    if not (0 <= px < width and 0 <= py < height) or x < at.x or y < at.y:
        return None
    b, g, r = (int(v) for v in picture[py, px, :3])
    return Probed(px, py, width, height, (r, g, b))
