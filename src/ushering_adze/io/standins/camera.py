"""A stand-in camera that looks at a stand-in screen: a lens of its own, a limited exposure, and noise."""

from __future__ import annotations

from collections.abc import Mapping
from zlib import crc32

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.lens import Lens, View, filled
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.io.standins.screen import StandinScreen, lit_at, thrown, thrown_grey

Floats = NDArray[np.float32]
DRAPE = 0.03
"""What cloth around the screen throws back, against the screen's 1."""
STEPS = 4095
BAND = 32
"""Rows worked on together: they stay in the processor's cache from one step to the next."""


class StandinCamera:
    """A camera on a tripod in front of a stand-in screen.

    Parameters
    ----------
    show, surface
        As for `StandinScreen`.
    width : int
        Of its pictures, in pixels.
    crooked : float
        As for `StandinScreen`.
    noise : float
        Standard deviation of its reading noise as a share of full scale; shot noise comes on top.
    """

    shutters, longest = True, 1024.0

    def __init__(
        self, show: Show, surface: str, width: int = 2600, crooked: float = 1.0, noise: float = 0.0012
    ) -> None:
        bare = StandinScreen(show, surface, 0.02, crooked)
        face = bare.face
        rng = np.random.default_rng(crc32(f"camera/{surface}".encode()))
        height = round(width * min(1.0, face.h / face.w * 1.2 + 0.06))
        self.size = width, height
        margin = 0.06
        wide = min(
            width * (1 - 2 * margin), height * (1 - 2 * margin) * face.w / face.h
        )  # all of a tall screen is in the picture as well
        tall = wide * face.h / face.w
        top = (height - tall) / 2
        left, right = (width - wide) / 2, (width + wide) / 2
        corners = np.array([[left, top], [right, top], [right, top + tall], [left, top + tall]])
        corners += rng.uniform(-0.012, 0.012, (4, 2)) * width
        lens = Lens(
            width, height, float(rng.uniform(-0.02, -0.01)), 0.0, (float(rng.uniform(-2, 2)), float(rng.uniform(-2, 2)))
        )
        screen_corners = [(0, 0), (face.w, 0), (face.w, face.h), (0, face.h)]
        self._view = View(lens, homography(corners, screen_corners))
        u, v = np.meshgrid(np.arange(-(-width // 8) + 1) * 8.0, np.arange(-(-height // 8) + 1) * 8.0)
        x, y = filled(
            self._view.to_screen(np.stack([u, v], -1)), (np.arange(width) + 0.5) / 8, (np.arange(height) + 0.5) / 8
        )
        inside = (x >= 0) & (x <= face.w) & (y >= 0) & (y <= face.h)
        # a pixel at the screen's edge sees a part of it only
        soft = cv2.GaussianBlur(inside.astype(np.float32), (0, 0), 0.6)
        self._back = (DRAPE + (1 - DRAPE) * soft).astype(np.float32)
        regions = {r.id: r for r in bare.feeds}
        self._lit = [
            lit_at(p.pose, regions[p.region], show.output(p.output), self.size, self._view.to_screen)
            for p in bare.projectors
        ]
        self._ambient = np.float32(bare.ambient + 0.05)
        peak = max(float(p.pose.peak) for p in self._lit)
        self._full = peak * 2.4
        self._noise = noise
        self._rng = np.random.default_rng(crc32(f"noise/{surface}".encode()))
        self._grain = self._rng.standard_normal((height, width)).astype(np.float32)

    def photograph(
        self,
        rasters: Mapping[str, Pixels],
        exposure: float = 1.0,
        shut: frozenset[str] = frozenset(),
        colour: bool = False,
    ) -> Floats:
        """A photograph while outputs show these rasters, BGRA or grey; an output without one shows black, one that is
        shut nothing.

        Returns
        -------
        ndarray, shape (h, w) or (h, w, 3), float32
            Linear light, 1 is the most it can take; in colour red comes first.
        """
        total = np.full((self.size[1], self.size[0], *((3,) if colour else ())), self._ambient, np.float32)
        for lit in self._lit:
            raster = rasters.get(lit.output)
            if lit.output in shut:
                continue
            if colour:
                total[lit.where] += thrown(lit, raster)
            elif raster is None or raster.ndim == 2:
                total[lit.where] += thrown_grey(lit, raster)
            else:
                total[lit.where] += cv2.transform(thrown(lit, raster), np.full((1, 3), 1 / 3, np.float32))
        back = self._back * np.float32(exposure / self._full)
        grain = np.roll(self._grain, tuple(self._rng.integers(0, 997, 2)), (0, 1))
        if colour:
            back = np.asarray(cv2.merge([back] * 3), np.float32)
            grain = np.asarray(cv2.merge([grain, np.roll(grain, 131, 1), np.roll(grain, 57, 0)]), np.float32)
        for top in range(0, self.size[1], BAND):
            band = np.s_[top : top + BAND]
            self._take(total[band], back[band], grain[band])
        return total

    def _take(self, light: Floats, back: Floats, grain: Floats) -> None:
        """What the camera makes of light, in place: noise that grows with the light, its most, and its steps."""
        light *= back
        noise = light * np.float32(4e-6)
        noise += np.float32(self._noise**2)
        np.sqrt(noise, out=noise)
        noise *= grain
        light += noise
        np.clip(light, 0, 1, out=light)
        light *= np.float32(STEPS)
        np.rint(light, out=light)
        light /= np.float32(STEPS)
