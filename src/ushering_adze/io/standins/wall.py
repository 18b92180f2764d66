"""A stand-in LED wall whose cabinets come from two deliveries: some are darker, tinted, and bend grey another way.

Which ones, and by how much, is drawn from the wall's name and known only here; the rest of the program sees what the
eye or a meter sees.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple
from zlib import crc32

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.batch_levels import Reading
from ushering_adze.core.light.white import xyz_of_light
from ushering_adze.core.mapping.align_data import outputs_of
from ushering_adze.core.mapping.orient import unoriented
from ushering_adze.core.mapping.wall_batches import WallPlace, cell_rects, cells_of, wall_on_raster
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import LedWall, Show
from ushering_adze.io.standins.screen import LUMA, Seen

Floats = NDArray[np.float32]
PEAK = 1000.0
"""White of the better cabinets in cd/m²."""


class _Delivery(NamedTuple):
    """Panels that came together: red, green and blue as shares of the best, and their gamma."""

    tint: tuple[float, float, float]
    gamma: float


class StandinWall:
    """An LED wall with the processor that feeds it.

    Parameters
    ----------
    show : Show
    surface : str
        An LED wall that regions feed.
    scale : float
        Points of the simulation to one pixel of the wall, at most 1.

    Raises
    ------
    ValueError
        If the surface is no LED wall, or nothing feeds it.
    """

    def __init__(self, show: Show, surface: str, scale: float = 1.0) -> None:
        wall = show.surface(surface)
        if not isinstance(wall, LedWall):
            raise ValueError(f"{wall.name} is no LED wall")
        self.surface = surface
        self._wall = wall
        width, height = wall.pixels
        self.face = width, height
        self._size = max(1, round(width * scale)), max(1, round(height * scale))
        self._places: dict[str, WallPlace] = {}
        for output in outputs_of(show, [surface]):
            place = wall_on_raster(show, next(r for r in show.lit_by(surface) if r.output == output))
            if place is not None:
                self._places[output] = place
        if not self._places:
            raise ValueError(f"no region feeds {wall.name}; make its regions in Map first")
        rng = np.random.default_rng(crc32(f"wall/{wall.id}".encode()))
        late = max(1, round(wall.columns * float(rng.uniform(0.2, 0.4))))
        dim, red, blue = float(rng.uniform(0.86, 0.93)), float(rng.uniform(0.97, 1.0)), float(rng.uniform(0.92, 0.97))
        self._deliveries = (
            _Delivery((1.0, 1.0, 1.0), 2.2),
            _Delivery((dim * red, dim, dim * blue), float(rng.uniform(2.26, 2.36))),
        )
        self._late = frozenset(c for c in cells_of(wall) if c[0] > wall.columns - late)

    def seen(self, rasters: Mapping[str, Pixels]) -> Seen:
        """What the wall looks like when its outputs show these rasters."""
        w, h = self._size
        total, parts = np.zeros((h, w, 3), np.float32), {}
        for output, place in self._places.items():
            raster = rasters.get(output)
            light = self._shown(place, raster) if raster is not None else np.zeros((h, w, 3), np.float32)
            parts[output] = np.asarray(light @ LUMA, np.float32)
            total += light
        shown = np.clip(total / np.float32(PEAK), 0, 1) ** np.float32(1 / 2.2)
        picture = np.full((h, w, 4), 255, np.uint8)
        picture[..., :3] = np.rint(shown[..., ::-1] * 255)
        return Seen(self.surface, self.face, parts, np.asarray(total @ LUMA, np.float32), picture)

    def _shown(self, place: WallPlace, raster: Pixels) -> Floats:
        """The light of what one output feeds, in the wall's own pixels at the simulation's size; red first."""
        light = np.zeros((*raster.shape[:2], 3), np.float32)
        code = np.arange(256) / 255
        tables = [
            np.stack([(PEAK * t * code**d.gamma).astype(np.float32) for t in d.tint], -1)[None]
            for d in self._deliveries
        ]
        for cell, rect in cell_rects(self._wall, place).items():
            cut = rect.cut()
            part = raster[cut]
            if part.size:
                light[cut] = cv2.LUT(np.ascontiguousarray(part[..., 2::-1]), tables[cell in self._late])
        around, box = place.around, place.box
        whole = np.zeros((around.h, around.w, 3), np.float32)
        x0, y0 = max(0, around.x), max(0, around.y)
        part = light[y0 : around.foot, x0 : around.right]
        whole[y0 - around.y : y0 - around.y + part.shape[0], x0 - around.x : x0 - around.x + part.shape[1]] = part
        kx, ky = self._size[0] / self.face[0], self._size[1] / self.face[1]
        left, top = round(box.x * kx), round(box.y * ky)
        w, h = max(1, round(box.right * kx) - left), max(1, round(box.foot * ky) - top)
        found = np.zeros((self._size[1], self._size[0], 3), np.float32)
        found[top : top + h, left : left + w] = cv2.resize(
            unoriented(whole, place.flip, place.turn), (w, h), interpolation=cv2.INTER_AREA
        )
        return found

    def read(self, cells: Iterable[tuple[int, int]], code: int = 255) -> Reading:
        """What a meter reads that looks at these cabinets while they are sent a flat grey, uncorrected."""
        late = [c in self._late for c in cells]
        share = float(np.mean(late)) if late else 0.0
        light = np.zeros(3)
        for delivery, part in zip(self._deliveries, (1 - share, share), strict=True):
            light += part * PEAK * np.array(delivery.tint) * (code / 255) ** delivery.gamma
        x, y, z = xyz_of_light(light)
        return Reading(float(y), float(x / (x + y + z)), float(y / (x + y + z)))
