"""A stand-in screen: projectors that hang a little crooked light it, and their light adds.

How each projector truly hangs is drawn from its name, so that it is the same every time, and is known only here: the
rest of the program sees what a camera or the eye would see.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import pi
from typing import NamedTuple
from zlib import crc32

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.transfer import codes_of_light
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.lens import Lens, View, filled
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show import Output, Projection, Region, Show

Floats = NDArray[np.float32]
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)


class Pose(NamedTuple):
    """How a stand-in projector truly hangs and shines: hidden from the rest of the program.

    ``peak`` is the white in the middle of its picture in cd/m², ``leak`` its black as a share of white, ``tint`` the
    strength of red, green and blue.
    """

    view: View
    gamma: float
    peak: float
    leak: float
    tint: tuple[float, float, float]


def _pose(
    screen: Projection, lumens: float, contrast: float, region: Region, output: Output, face: Rect, crooked: float
) -> Pose:
    rng = np.random.default_rng(crc32(f"{screen.id}/{region.id}/{output.id}".encode()))
    width, height = output.timing.width, output.timing.height
    x, y, w, h = region.x - face.x, region.y - face.y, region.w, region.h
    spill = 0.012 + 0.013 * crooked
    ideal = np.array(
        [
            [x - spill * w, y - spill * h],
            [x + w * (1 + spill), y - spill * h],
            [x + w * (1 + spill), y + h * (1 + spill)],
            [x - spill * w, y + h * (1 + spill)],
        ]
    )
    corners = ideal + rng.uniform(-0.010, 0.010, (4, 2)) * crooked * (w, h)
    lens = Lens(width, height, float(rng.uniform(-0.003, 0.003)) * crooked, float(rng.uniform(-0.001, 0.001)) * crooked)
    raster = [(0, 0), (width, 0), (width, height), (0, height)]
    pixel_m = screen.width_mm / face.w / 1000
    area = abs(float(cv2.contourArea(corners.astype(np.float32)))) * pixel_m**2
    bright = (lumens or 8000.0) * float(1 + rng.uniform(-0.04, 0.04) * crooked)
    tint = 1 + rng.uniform(-0.03, 0.0, 3) * crooked
    return Pose(
        View(lens, homography(raster, corners)),
        float(2.2 + rng.uniform(-0.12, 0.12) * crooked),
        bright * screen.gain / (pi * area),
        float((1 + rng.uniform(-0.08, 0.08) * crooked) / contrast),
        (float(tint[0]), float(tint[1]), float(tint[2])),
    )


class _Lit(NamedTuple):
    """A projector and where its light falls on a picture: places on its raster, and the strength of its light, within
    ``where``.
    """

    region: str
    output: str
    pose: Pose
    width: int
    height: int
    where: tuple[slice, slice]
    maps: tuple[Floats, Floats]
    strength: Floats


class Seen(NamedTuple):
    """What a stand-in screen shows: luminance in cd/m² of each output's projector and of all, shape (h, w), and a
    picture of it, BGRA.
    """

    surface: str
    face: tuple[int, int]
    parts: dict[str, Floats]
    total: Floats
    picture: Pixels


class StandinScreen:
    """A projection screen with its projectors.

    Parameters
    ----------
    show : Show
    surface : str
        A projection that regions feed.
    scale : float
        Points of the simulation to one pixel of the screen, at most 1.
    crooked : float
        How crooked the projectors hang; 0 for exactly as planned, 1 as a real crew would leave them.

    Raises
    ------
    ValueError
        If the surface is no projection, or nothing feeds it.
    """

    def __init__(self, show: Show, surface: str, scale: float = 1.0, crooked: float = 1.0) -> None:
        screen = show.surface(surface)
        if not isinstance(screen, Projection):
            raise ValueError(f"{screen.name} is no projection; a stand-in screen is lit by projectors")
        self.feeds = show.lit_by(surface)
        if not self.feeds:
            raise ValueError(f"no region feeds {screen.name}; make its regions in Map first")
        face = face_of(self.feeds)
        self.surface, self.face, self.scale = surface, face, scale
        self.size = max(1, round(face.w * scale)), max(1, round(face.h * scale))
        self.ambient = screen.room_lux * screen.gain / pi
        whole = np.array([face.w, face.h], float)
        by_id = {p.id: p for p in screen.projectors}
        self._lit = []
        for region in self.feeds:
            output = show.output(region.output)
            known = by_id.get(region.projector or "", screen.projectors[0])
            pose = _pose(screen, known.lumens, known.contrast, region, output, face, crooked)
            self._lit.append(lit_at(pose, region, output, self.size, lambda p: p / self.size * whole))

    @property
    def projectors(self) -> list[_Lit]:
        """Each projector with where its light falls; for stand-ins only."""
        return self._lit

    def light(self, rasters: Mapping[str, Pixels], shut: frozenset[str] = frozenset()) -> Floats:
        """The light of the screen when outputs show these rasters.

        Parameters
        ----------
        rasters : mapping
            By output: BGRA codes, shape (h, w, 4); an output without one shows black.
        shut : frozenset of str
            Outputs whose projector is shuttered.

        Returns
        -------
        ndarray, shape (height, width, 3), float32
            Red, green, blue; equal values of n make a white of n cd/m².
        """
        total = np.full((self.size[1], self.size[0], 3), self.ambient, np.float32)
        for lit in self._lit:
            if lit.output not in shut:
                total[lit.where] += thrown(lit, rasters.get(lit.output), self.scale)
        return total

    def luminance(self, rasters: Mapping[str, Pixels]) -> Floats:
        """The same as luminance in cd/m², shape (height, width), by BT.709's weights."""
        return _luminance(self.light(rasters))

    def seen(self, rasters: Mapping[str, Pixels]) -> Seen:
        """What the screen looks like when outputs show these rasters; its picture is dimmed so that two whites do not
        burn out.
        """
        total = np.full((self.size[1], self.size[0], 3), self.ambient, np.float32)
        parts = {}
        for lit in self._lit:
            light = thrown(lit, rasters.get(lit.output), self.scale)
            parts[lit.output] = np.zeros(total.shape[:2], np.float32)
            parts[lit.output][lit.where] = _luminance(light)
            total[lit.where] += light
        shown = codes_of_light(total * np.float32(1 / (1.6 * max(lit.pose.peak for lit in self._lit))), 2.2)
        picture = np.asarray(cv2.cvtColor(shown, cv2.COLOR_RGB2BGRA), np.uint8)
        return Seen(self.surface, (self.face.w, self.face.h), parts, _luminance(total), picture)


def _luminance(light: Floats) -> Floats:
    return np.asarray(cv2.transform(light, LUMA[None]), np.float32)


def lit_at(
    pose: Pose,
    region: Region,
    output: Output,
    size: tuple[int, int],
    to_screen: Callable[[NDArray[np.float64]], NDArray[np.float64]],
) -> _Lit:
    """Where a projector's light falls on the pixels of a picture of the screen.

    ``to_screen`` takes points of the picture, shape (h, w, 2), to points of the screen; it is asked at every eighth
    pixel.
    """
    width, height = output.timing.width, output.timing.height
    step = min(8, max(1, size[0] // 60))
    columns, rows = -(-size[0] // step) + 1, -(-size[1] // step) + 1
    u, v = np.meshgrid(np.arange(columns) * float(step), np.arange(rows) * float(step))
    grid = to_screen(np.stack([u, v], -1))
    coarse = pose.view.from_screen(grid)
    # The same light on a larger area is weaker: strength goes with the raster's pixels that fall on one of the screen.
    e = 0.5
    dx = pose.view.from_screen(grid + np.array([e, 0])) - pose.view.from_screen(grid - np.array([e, 0]))
    dy = pose.view.from_screen(grid + np.array([0, e])) - pose.view.from_screen(grid - np.array([0, e]))
    dense = np.abs(dx[..., 0] * dy[..., 1] - dx[..., 1] * dy[..., 0])
    x, y, dense = filled(
        np.concatenate([coarse, dense[..., None]], -1),
        (np.arange(size[0]) + 0.5) / step,
        (np.arange(size[1]) + 0.5) / step,
    )
    corners = pose.view.to_screen(np.array([[0, 0], [width, 0], [width, height], [0, height]], float))
    mean = width * height / abs(float(cv2.contourArea(corners.astype(np.float32))))
    inside = (x >= 0) & (x <= width) & (y >= 0) & (y <= height)
    where = _around(inside)
    maps = (np.ascontiguousarray(x[where] - np.float32(0.5)), np.ascontiguousarray(y[where] - np.float32(0.5)))
    strength = (pose.peak * dense[where] / mean * inside[where]).astype(np.float32)
    return _Lit(region.id, output.id, pose, width, height, where, maps, strength)


def _around(inside: NDArray[np.bool_]) -> tuple[slice, slice]:
    """The rows and columns that hold all of it, at least one of each."""
    found = []
    for axis in (1, 0):
        at = np.flatnonzero(inside.any(axis))
        found.append(slice(int(at[0]), int(at[-1]) + 1) if len(at) else slice(0, 1))
    return found[0], found[1]


def _light_of_codes(pose: Pose) -> Floats:
    return np.asarray(pose.leak + (1 - pose.leak) * (np.arange(256) / 255) ** pose.gamma, np.float32)


def thrown(lit: _Lit, raster: Pixels | None, scale: float = 1.0) -> Floats:
    """The light one projector throws where its light falls at all, shape (h, w, 3), red first; with no raster, that of
    black.
    """
    p = lit.pose
    if raster is None:
        return np.asarray(cv2.merge([lit.strength * np.float32(p.leak * t) for t in p.tint]), np.float32)
    maps = lit.maps
    if scale < 0.75:
        small = cv2.resize(
            raster, (max(1, round(lit.width * scale)), max(1, round(lit.height * scale))), interpolation=cv2.INTER_AREA
        )
        kx, ky = np.float32(small.shape[1] / lit.width), np.float32(small.shape[0] / lit.height)
        half = np.float32(0.5)
        maps, raster = ((maps[0] + half) * kx - half, (maps[1] + half) * ky - half), np.asarray(small, np.uint8)
    light = cv2.LUT(
        cv2.cvtColor(raster, cv2.COLOR_BGRA2RGB), _light_of_codes(p)[None, :, None] * np.array(p.tint, np.float32)
    )
    fallen = remapped(np.asarray(light, np.float32), *maps)
    return np.asarray(cv2.multiply(fallen, cv2.merge([lit.strength] * 3), fallen), np.float32)


def thrown_grey(lit: _Lit, raster: Pixels | None) -> Floats:
    """The same for a grey raster, shape (h, w): the mean of the three colours, of one value for a place."""
    p = lit.pose
    strength = lit.strength * np.float32(sum(p.tint) / 3)
    if raster is None:
        return np.asarray(strength * np.float32(p.leak), np.float32)
    fallen = remapped(np.asarray(cv2.LUT(raster, _light_of_codes(p)), np.float32), *lit.maps)
    return np.asarray(cv2.multiply(fallen, strength, fallen), np.float32)
