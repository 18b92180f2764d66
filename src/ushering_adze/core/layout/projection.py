"""Projection: picture size and throw, overlaps, and the light on the screen."""

from __future__ import annotations

from itertools import pairwise
from math import pi
from typing import NamedTuple

from ushering_adze.core.show.surface import Projection, Projector

CD_PER_FOOTLAMBERT = 3.426
"""1 fL = 1/π cd/ft² = 3.426 cd/m²."""
CLASSES = ((80.0, "full-motion video"), (50.0, "analytical decisions"), (15.0, "basic decisions"), (7.0, "passive viewing"))
"""Least contrast for each kind of viewing: ANSI/INFOCOMM 3M-2011 (from memory)."""


def picture_width(distance_mm: float, throw: float) -> float:
    """Width of a picture in mm from the distance and the throw ratio.

    Examples
    --------
    >>> picture_width(7200, 1.5)
    4800.0
    """
    if throw <= 0:
        raise ValueError("a throw ratio must be above 0; it is distance ÷ picture width")
    return distance_mm / throw


def distance_for(width_mm: float, throw: float) -> float:
    """Distance in mm at which a picture of a width is made: throw ratio × width."""
    if throw <= 0:
        raise ValueError("a throw ratio must be above 0; it is distance ÷ picture width")
    return width_mm * throw


def overlap_for_canvas(widths: tuple[int, ...], canvas_px: int) -> float:
    """Overlap in px of each seam that makes projectors side by side fill a canvas of a width.

    Examples
    --------
    >>> overlap_for_canvas((1920, 1920), 3600)
    240.0
    """
    if len(widths) < 2:
        return 0.0
    return (sum(widths) - canvas_px) / (len(widths) - 1)


def overlap_px_from(text_value: float, unit: str, projection: Projection) -> int:
    """An overlap given in px, mm or per cent of one picture, in whole pixels.

    The screen's width is kept: n pictures of w px cover ``width_mm``, so an overlap of m mm is x px with
    ``x = m · (n·w − (n−1)·x) / width_mm``.

    Examples
    --------
    >>> from ushering_adze.core.show import Projector
    >>> p = tuple(Projector(id=i, name=i, width=1920, height=1080) for i in "ab")
    >>> s = Projection(id="s", name="S", width_mm=9000, height_mm=2700, projectors=p)
    >>> overlap_px_from(600, "mm", s), overlap_px_from(12.5, "%", s), overlap_px_from(240, "px", s)
    (240, 240, 240)
    """
    widths = [p.width for p in projection.projectors]
    if unit == "px":
        return round(text_value)
    if unit == "%":
        return round(min(widths) * text_value / 100)
    seams = len(widths) - 1
    return round(sum(widths) * text_value / (projection.width_mm + seams * text_value))


class ProjectorFacts(NamedTuple):
    """One projector's share: its picture in mm, the distances its lens allows (None if not known), and the part of its raster in use."""

    projector: Projector
    size_mm: tuple[float, float]
    distance_mm: tuple[float, float] | None
    fits_distance: bool | None
    used_px: tuple[int, int]
    used_share: float
    nits: float


class ProjectionFacts(NamedTuple):
    """A projected screen in figures.

    Attributes
    ----------
    canvas : tuple of int
        Pixels of the whole picture.
    pixel_mm : float
        Size of a pixel on the screen.
    overlap_px, overlap_mm, overlap_share
        Of one seam; the share is of one picture's width.
    projectors : tuple of ProjectorFacts
    nits : float
        Luminance of white in cd/m² where one projector lights the screen, and, blended, everywhere.
    nits_doubled : float
        Where two overlap with no blend.
    nits_spread : float
        What the same light would make with no overlap: all lumens over the whole screen.
    contrast : float or None
        White against black with the room's light; None with no lumens known.
    """

    canvas: tuple[int, int]
    pixel_mm: float
    overlap_px: int
    overlap_mm: float
    overlap_share: float
    projectors: tuple[ProjectorFacts, ...]
    nits: float
    nits_doubled: float
    nits_spread: float
    contrast: float | None

    @property
    def viewing(self) -> str:
        """The contrast in words: what kind of viewing it is enough for."""
        if self.contrast is None:
            return "no lumens given"
        for least, words in CLASSES:
            if self.contrast >= least:
                return f"{self.contrast:.0f}:1, enough for {words} ({least:.0f}:1)"
        return f"{self.contrast:.1f}:1, under 7:1: too little for any viewing"


def luminance(lumens: float, gain: float, area_m2: float) -> float:
    """White of a screen in cd/m²: lumens × gain ÷ (π × area).

    Examples
    --------
    >>> round(luminance(10000, 1.0, 12.96), 1)
    245.6
    """
    return lumens * gain / (pi * area_m2)


def footlamberts(nits: float) -> float:
    """cd/m² in foot-lamberts.

    Examples
    --------
    >>> round(footlamberts(48), 1)
    14.0
    """
    return nits / CD_PER_FOOTLAMBERT


def used_raster(width: int, height: int, shape: float) -> tuple[int, int]:
    """The largest part of a raster with a picture's shape (width ÷ height), in whole pixels.

    Examples
    --------
    >>> used_raster(1920, 1200, 16 / 9), used_raster(1024, 768, 16 / 9)
    ((1920, 1080), (1024, 576))
    """
    if width / height > shape:
        return max(1, round(height * shape)), height
    return width, max(1, round(width / shape))


def projection_facts(screen: Projection) -> ProjectionFacts:
    """Work out a projected screen.

    Pictures hang side by side, all at one scale, and together cover the screen's width.  Formulas: throw ratio = distance ÷ width;
    luminance = lumens × gain ÷ (π × area) of the lit picture (the whole raster's, whether used or not); contrast =
    (white + room) ÷ (black + room) with the room's light reflected as lux × gain ÷ π.
    """
    canvas = screen.pixels
    scale = screen.width_mm / canvas[0]
    shape_high = screen.height_mm / scale  # rows of pixels that the screen is high
    facts = []
    lumens = 0.0
    for p in screen.projectors:
        used = (p.width, min(p.height, max(1, round(shape_high))))
        lit = luminance(p.lumens, screen.gain, p.width * scale * p.height * scale / 1e6)
        width_mm = p.width * scale
        span = (distance_for(width_mm, p.throw_min), distance_for(width_mm, p.throw_max)) if p.throw_min > 0 else None
        fits = None if span is None or p.distance_mm <= 0 else span[0] - 0.5 <= p.distance_mm <= span[1] + 0.5
        facts.append(ProjectorFacts(p, (width_mm, p.height * scale), span, fits, used, used[0] * used[1] / (p.width * p.height), lit))
        lumens += p.lumens
    dimmest = min(f.nits for f in facts)
    overlapping = len(facts) > 1 and screen.overlap_px > 0
    doubled = max((a.nits + b.nits for a, b in pairwise(facts)), default=dimmest) if overlapping else dimmest
    spread = luminance(lumens, screen.gain, screen.width_mm * screen.height_mm / 1e6)
    contrast = None
    if dimmest > 0:
        room = screen.room_lux * screen.gain / pi
        native = min(p.contrast for p in screen.projectors)
        contrast = (dimmest + room) / (dimmest / native + room)
    narrow = min(p.width for p in screen.projectors)
    overlap = screen.overlap_px if len(facts) > 1 else 0
    return ProjectionFacts(canvas, scale, overlap, overlap * scale, overlap / narrow, tuple(facts), dimmest, doubled, spread, contrast)
