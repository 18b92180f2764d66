"""Small pictures of few colours with a place on a raster: captions that come as bitmaps."""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels


class Bitmap:
    """Codes, a colour for each, and where that lies; the same one is equal to itself alone.

    Parameters
    ----------
    codes : ndarray, (h, w), uint8
    colours : ndarray, (n, 4), uint8
        In RGBA; n is 256 at most.
    x, y : int
    size : tuple of int
        Width and height of the raster it lies on.
    """

    def __init__(
        self, codes: NDArray[np.uint8], colours: NDArray[np.uint8], x: int, y: int, size: tuple[int, int]
    ) -> None:
        self.codes, self.colours, self.x, self.y, self.size = codes, colours, x, y, size

    @cached_property
    def pixels(self) -> Pixels:
        """In BGRA."""
        table = np.zeros((256, 4), np.uint8)
        table[: len(self.colours)] = self.colours
        made: Pixels = table[self.codes][..., (2, 1, 0, 3)]
        return made

    def lay(self, part: Pixels) -> None:
        """Lay it over a picture that shows the whole raster, as large as that is.

        Parameters
        ----------
        part : ndarray, (h, w, 4), uint8
            Written to.
        """
        high, wide = part.shape[:2]
        kx, ky = wide / self.size[0], high / self.size[1]
        x0, y0 = round(self.x * kx), round(self.y * ky)
        x1, y1 = round((self.x + self.codes.shape[1]) * kx), round((self.y + self.codes.shape[0]) * ky)
        if x1 <= x0 or y1 <= y0:
            return
        light = self.pixels[..., 3:].astype(np.float32) / 255
        laid = np.concatenate((self.pixels[..., :3] * light, light), axis=2)
        small = cv2.resize(laid, (x1 - x0, y1 - y0), interpolation=cv2.INTER_AREA if kx < 1 else cv2.INTER_LINEAR)
        left, top, right, foot = max(0, x0), max(0, y0), min(wide, x1), min(high, y1)
        if left >= right or top >= foot:
            return
        small = small[top - y0 : foot - y0, left - x0 : right - x0]
        under = part[top:foot, left:right, :3]
        under[:] = np.clip(under * (1 - small[..., 3:]) + small[..., :3] + 0.5, 0, 255)
