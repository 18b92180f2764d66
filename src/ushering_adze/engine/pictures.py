"""Small pictures of every surface for the desk, made from the frames truly sent."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import shown_table
from ushering_adze.core.light.transfer import code_light_table, codes_of_light
from ushering_adze.core.mapping.bend import warp_of_landing
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.mapping.orient import unoriented
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.picture.dealing import deal_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import State
from ushering_adze.core.picture.resampling import Cut
from ushering_adze.core.plane.mesh import forward
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show import Canvas, RectLanding, Region, Show
from ushering_adze.core.show.canvas import Landing
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.renderer import layers_of
from ushering_adze.engine.resampled import quick_shrink

LONGEST = 640


class Sent(NamedTuple):
    """What an output sends, and a number for it: the same number means the same picture."""

    pixels: Pixels
    serial: int


def _scale_of(face: Rect, longest: int) -> float:
    return min(1.0, longest / max(face.w, face.h))


@lru_cache(maxsize=16)
def _small_maps(
    landing: Landing, w: int, h: int, width: int, height: int
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Where on its raster each pixel of a small picture of a bent region lies, in pixel centres."""
    u, v = np.meshgrid((np.arange(width) + 0.5) * w / width, (np.arange(height) + 0.5) * h / height)
    try:
        at = forward(warp_of_landing(landing, w, h), np.stack([u, v], -1)).astype(np.float32) - np.float32(0.5)
    except ValueError:  # a bend that cannot be shows nothing
        at = np.full((height, width, 2), -1e4, np.float32)
    return np.ascontiguousarray(at[..., 0]), np.ascontiguousarray(at[..., 1])


def _from_raster(region: Region, raster: Pixels, width: int, height: int) -> Pixels:
    """A region's picture taken back from an output's raster, at a small size."""
    if not isinstance(region.landing, RectLanding):
        return remapped(raster, *_small_maps(region.landing, region.w, region.h, width, height))
    landing = region.landing
    if landing.flip or landing.turn:
        quarter = landing.turn in (90, 270)
        plain = region.model_copy(update={"landing": landing.model_copy(update={"flip": False, "turn": 0})})
        laid = _from_raster(plain, raster, *((height, width) if quarter else (width, height)))
        return unoriented(laid, landing.flip, landing.turn)
    where = Rect(landing.x, landing.y, landing.w, landing.h)
    seen = where.meet(Rect(0, 0, raster.shape[1], raster.shape[0]))
    if seen == where:
        return quick_shrink(raster, Cut(where, Rect(0, 0, width, height)))
    whole = np.zeros((height, width, 4), np.uint8)
    if not seen.empty:
        sx, sy = width / where.w, height / where.h
        put = Rect(
            round((seen.x - where.x) * sx),
            round((seen.y - where.y) * sy),
            max(1, round(seen.w * sx)),
            max(1, round(seen.h * sy)),
        )
        put = put.meet(Rect(0, 0, width, height))
        if not put.empty:
            whole[put.cut()] = quick_shrink(raster, Cut(seen, put))
    return whole


def surface_picture(show: Show, surface: str, outputs: Mapping[str, Sent], longest: int = LONGEST) -> Pixels | None:
    """What a surface shows: its regions taken back from the rasters; where projectors overlap, their light is added.

    Returns
    -------
    ndarray of shape (h, w, 4), the longer side at most ``longest``; None for a surface that nothing feeds.
    """
    regions = show.feeds_of(surface)
    if not regions:
        return None
    face = face_of(regions)
    scale = _scale_of(face, longest)
    picture = np.zeros((max(1, round(face.h * scale)), max(1, round(face.w * scale)), 4), np.uint8)
    lit: list[Rect] = []
    for region in regions:
        x0, y0 = round((region.x - face.x) * scale), round((region.y - face.y) * scale)
        x1, y1 = round((region.x + region.w - face.x) * scale), round((region.y + region.h - face.y) * scale)
        at = Rect(x0, y0, max(1, x1 - x0), max(1, y1 - y0))
        part = _from_raster(region, outputs[region.output].pixels, at.w, at.h)
        display = show.output(region.output).picture
        gamma, table = display.gamma, shown_table(display)
        if table is not None:  # what was sent for a display of another response
            part = np.asarray(cv2.LUT(part, table), np.uint8)
        shared = [at.meet(other) for other in lit if not at.meet(other).empty]
        before = [(s, picture[s.cut()].copy()) for s in shared]
        picture[at.cut()] = part[: picture.shape[0] - at.y, : picture.shape[1] - at.x]
        light = code_light_table(gamma)
        for s, old in before:
            picture[s.cut()] = codes_of_light(light[old] + light[picture[s.cut()]], gamma)
        lit.append(at)
    picture[..., 3] = 255
    return picture


class SurfacePictures:
    """What surfaces show, each made anew only when an output that feeds it was."""

    def __init__(self) -> None:
        self._made: dict[tuple[str, int], tuple[tuple[int, ...], Pixels | None]] = {}

    def one(self, show: Show, surface: str, outputs: Mapping[str, Sent], longest: int = LONGEST) -> Pixels | None:
        """What one shows, at a size; the same array as long as it is the same picture.  A surface whose output is not
        compiled yet keeps the one it had; None if there is none.
        """
        used = [r.output for r in show.feeds_of(surface)]
        serials, picture = self._made.get((surface, longest), ((), None))
        if all(o in outputs for o in used):
            newest = tuple(outputs[o].serial for o in used)
            if (surface, longest) not in self._made or serials != newest:
                picture = surface_picture(show, surface, outputs, longest)
                self._made[surface, longest] = newest, picture
        return picture

    def of(self, show: Show, outputs: Mapping[str, Sent]) -> dict[str, Pixels]:
        """The pictures of all, by surface id."""
        made = {s.id: self.one(show, s.id, outputs) for s in show.surfaces}
        return {id: picture for id, picture in made.items() if picture is not None}


class PreviewPictures:
    """Small pictures of surfaces for a state that is on no output."""

    def __init__(self, show: Show, size: float = 1.6 * LONGEST) -> None:
        self._show = show
        longest = max([max(c.width, c.height) for c in show.canvases], default=1)
        self._painters = {
            c.id: CanvasPainter(c, min(1.0, size / max(longest, max(c.width, c.height)))) for c in show.canvases
        }

    def painter(self, canvas: Canvas, scale: float) -> CanvasPainter | None:
        """Who paints a canvas at just this scale; None if nobody does."""
        found = self._painters.get(canvas.id)
        return found if found is not None and found.canvas == canvas and found.scale == scale else None

    def draw(self, state: State, frames: dict[str, Frame], surfaces: list[str]) -> dict[str, Pixels]:
        """Pictures of the named surfaces."""
        rects = {s: surface_rects(self._show, s) for s in surfaces}
        for canvas in {c.id: c for found in rects.values() for c, _ in found}.values():
            self._painters[canvas.id].draw(layers_of(canvas, state), frames, deal=deal_of(self._show, canvas.id))
        pictures = {}
        for surface, found in rects.items():
            if not found:
                continue
            painter = self._painters[found[0][0].id]
            face = Rect(0, 0, 0, 0)
            for canvas, rect in found:
                if canvas.id == painter.canvas.id:
                    face = face.join(rect)
            k = painter.scale
            small = Rect(
                round(face.x * k), round(face.y * k), max(1, round(face.w * k)), max(1, round(face.h * k))
            ).meet(painter.bounds)
            if not small.empty:
                pictures[surface] = painter.pixels[small.cut()].copy()
        return pictures
