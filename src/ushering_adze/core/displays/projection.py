"""Projection: picture size and throw, overlaps, and the light on the screen."""

from __future__ import annotations

from math import pi
from typing import NamedTuple

from ushering_adze.core.show.surface import Projection, Projector

CD_PER_FOOTLAMBERT = 3.426
"""1 fL = 1/π cd/ft² = 3.426 cd/m²."""
CLASSES = (
    (80.0, "full-motion video"),
    (50.0, "analytical decisions"),
    (15.0, "basic decisions"),
    (7.0, "passive viewing"),
)
"""Least contrast for each kind of viewing: ANSI/INFOCOMM 3M-2011 (from memory)."""


def picture_width(distance_mm: float, throw: float) -> float:
    """Width of a picture in mm from the distance and the throw ratio.

    Parameters
    ----------
    distance_mm : float
        From lens to screen, in millimetres.
    throw : float
        Throw ratio: distance over picture width.

    Returns
    -------
    float

    References
    ----------
    Throw ratio is distance over picture width; common practice, no source.

    Examples
    --------
    >>> picture_width(7200, 1.5)
    4800.0
    """
    if throw <= 0:
        raise ValueError("a throw ratio must be above 0; it is distance ÷ picture width")
    return distance_mm / throw


def distance_for(width_mm: float, throw: float) -> float:
    """Distance in mm at which a picture of a width is made: throw ratio × width.

    Parameters
    ----------
    width_mm : float
        In millimetres.
    throw : float
        Throw ratio: distance over picture width.

    Returns
    -------
    float

    References
    ----------
    Throw ratio is distance over picture width; common practice, no source.
    """
    if throw <= 0:
        raise ValueError("a throw ratio must be above 0; it is distance ÷ picture width")
    return width_mm * throw


def overlap_for_canvas(sizes: tuple[int, ...], canvas_px: int) -> float:
    """Overlap in px of each seam that makes the projectors of one row fill a canvas of a width; or those of a column,
    of a height.

    Parameters
    ----------
    sizes : tuple[int, ...]
        Width and height of each.
    canvas_px : int
        Side of a canvas, in pixels.

    Returns
    -------
    float

    Examples
    --------
    >>> overlap_for_canvas((1920, 1920), 3600)
    240.0
    """
    if len(sizes) < 2:
        return 0.0
    return (sum(sizes) - canvas_px) / (len(sizes) - 1)


def side_sizes(screen: Projection, down: bool = False) -> tuple[int, ...]:
    """Widths in px of the projectors of the longest row, or heights of those of the longest column.

    Parameters
    ----------
    screen : Projection
        The screen.
    down : bool, optional
        From the top, in pixels.

    Returns
    -------
    tuple[int, ...]
    """
    n, all_ = screen.columns, screen.projectors
    lines = (
        [[p.height for p in all_[k::n]] for k in range(n)]
        if down
        else [[p.width for p in all_[k : k + n]] for k in range(0, len(all_), n)]
    )
    return tuple(max(lines, key=sum))


def overlap_px_from(value: float, unit: str, screen: Projection, down: bool = False) -> int:
    """An overlap given in px, mm or per cent of one picture, in whole pixels.

    Parameters
    ----------
    value : float
    unit : {"px", "mm", "%"}
    screen : Projection
        Its width in mm is kept.
    down : bool
        Of rows one above the other, instead of pictures side by side.

    Notes
    -----
    The longest row's pictures, S px in all over n − 1 seams of x px, cover ``width_mm``.  So an overlap of m mm across
    is x px with ``x = m · (S − (n−1)·x) / width_mm``; pixels are square, so down it is m times pixels per mm across.

    Examples
    --------
    >>> from ushering_adze.core.show import Projector
    >>> p = tuple(Projector(id=i, name=i, width=1920, height=1080) for i in "abcd")
    >>> s = Projection(id="s", name="S", width_mm=9000, height_mm=5000, projectors=p, rows=2)
    >>> overlap_px_from(600, "mm", s), overlap_px_from(12.5, "%", s), overlap_px_from(240, "px", s)
    (240, 240, 240)
    >>> overlap_px_from(10, "%", s, down=True)
    108
    """
    if unit == "px":
        return round(value)
    if unit == "%":
        return round(min(p.height if down else p.width for p in screen.projectors) * value / 100)
    if down:
        return round(value * screen.pixels[0] / screen.width_mm)
    return round(sum(side_sizes(screen)) * value / (screen.width_mm + (screen.columns - 1) * value))


class ProjectorFacts(NamedTuple):
    """One projector's share: its picture in mm, the distances its lens allows (None if not known), and the part of its
    raster in use.
    """

    projector: Projector
    size_mm: tuple[float, float]
    distance_mm: tuple[float, float] | None
    fits_distance: bool | None
    used_px: tuple[int, int]
    used_share: float
    nits: float


class Overlap(NamedTuple):
    """How far two pictures overlap: in pixels, in mm, and as a share of the smallest picture's side."""

    px: int
    mm: float
    share: float


class ProjectionFacts(NamedTuple):
    """A projected screen in figures.

    Attributes
    ----------
    canvas : tuple of int
        Pixels of the whole picture.
    pixel_mm : float
        Size of a pixel on the screen.
    across, down : Overlap
        Of one seam between pictures side by side, and one above the other; of no size where there is none.
    projectors : tuple of ProjectorFacts
    nits : float
        Luminance of white in cd/m² where one projector lights the screen, and, blended, everywhere.
    nits_doubled : float
        Where most overlap with no blend: two at a seam, four at a crossing of seams.
    nits_spread : float
        What the same light would make with no overlap: all lumens over the whole screen.
    contrast : float or None
        White against black with the room's light; None with no lumens known.
    """

    canvas: tuple[int, int]
    pixel_mm: float
    across: Overlap
    down: Overlap
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

    Parameters
    ----------
    lumens : float
        Light of a projector, in lm.
    gain : float
        Of the screen; 1 is matt white.
    area_m2 : float
        Lit area in square metres.

    Returns
    -------
    float

    References
    ----------
    Illuminance times gain over pi for a matt screen; CIE 69:1987 (from memory).

    Examples
    --------
    >>> round(luminance(10000, 1.0, 12.96), 1)
    245.6
    """
    return lumens * gain / (pi * area_m2)


def lumens_for(nits: float, gain: float, area_m2: float) -> float:
    """Lumens that make a white of so many cd/m²; undoes `luminance`.

    Parameters
    ----------
    nits : float
        Luminance in cd/m².
    gain : float
        Of the screen; 1 is matt white.
    area_m2 : float
        Lit area in square metres.

    Returns
    -------
    float

    References
    ----------
    The inverse of `luminance`.

    Examples
    --------
    >>> round(lumens_for(luminance(10000, 1.2, 12.96), 1.2, 12.96))
    10000
    """
    return nits * pi * area_m2 / gain


def with_white(screen: Projection, nits: float) -> Projection:
    """The screen with projectors that each light their own picture with so many cd/m².

    Parameters
    ----------
    screen : Projection
        The screen.
    nits : float
        Luminance in cd/m².

    Returns
    -------
    Projection
    """
    scale = screen.width_mm / screen.pixels[0]
    return screen.model_copy(
        update={
            "projectors": tuple(
                p.model_copy(
                    update={"lumens": round(lumens_for(nits, screen.gain, p.width * scale * p.height * scale / 1e6), 3)}
                )
                for p in screen.projectors
            )
        }
    )


def footlamberts(nits: float) -> float:
    """cd/m² in foot-lamberts.

    References
    ----------
    1 fL is 1/pi cd/ft², 3.426 cd/m²; common practice, no source.

    Examples
    --------
    >>> round(footlamberts(48), 1)
    14.0
    """
    return nits / CD_PER_FOOTLAMBERT


def used_raster(width: int, height: int, shape: float) -> tuple[int, int]:
    """The largest part of a raster with a picture's shape (width ÷ height), in whole pixels.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    shape : float
        Width over height of the screen.

    Returns
    -------
    tuple[int, int]

    Examples
    --------
    >>> used_raster(1920, 1200, 16 / 9), used_raster(1024, 768, 16 / 9)
    ((1920, 1080), (1024, 576))
    """
    if width / height > shape:
        return max(1, round(height * shape)), height
    return width, max(1, round(width / shape))


def _brightest(screen: Projection, nits: list[float]) -> float:
    """The most light that falls on any one point, with no blend: pictures are told apart along all their edges."""
    boxes = [(x, y, x + p.width, y + p.height) for (x, y), p in zip(screen.offsets, screen.projectors, strict=True)]
    xs, ys = (sorted({b[k] for b in boxes} | {b[k + 2] for b in boxes}) for k in (0, 1))
    return max(
        sum(n for n, b in zip(nits, boxes, strict=True) if b[0] <= x < b[2] and b[1] <= y < b[3])
        for x in xs[:-1]
        for y in ys[:-1]
    )


def projection_facts(screen: Projection) -> ProjectionFacts:
    """Work out a projected screen.

    Pictures hang in rows, all at one scale, and together cover the screen's width; what they are higher together than
    the screen falls past it above and below alike.  Formulas: throw ratio = distance ÷ width; luminance = lumens × gain
    ÷ (π × area) of the lit picture (the whole raster's, whether used or not); contrast = (white + room) ÷ (black +
    room) with the room's light reflected as lux × gain ÷ π.
    """
    canvas = screen.pixels
    scale = screen.width_mm / canvas[0]
    high = min(float(canvas[1]), screen.height_mm / scale)  # rows of pixels that fall on the screen
    first = (canvas[1] - high) / 2
    facts = []
    lumens = 0.0
    for (_, top), p in zip(screen.offsets, screen.projectors, strict=True):
        seen = min(top + p.height, first + high) - max(float(top), first)
        used = (p.width, min(p.height, max(1, round(seen))))
        lit = luminance(p.lumens, screen.gain, p.width * scale * p.height * scale / 1e6)
        width_mm = p.width * scale
        span = (distance_for(width_mm, p.throw_min), distance_for(width_mm, p.throw_max)) if p.throw_min > 0 else None
        fits = None if span is None or p.distance_mm <= 0 else span[0] - 0.5 <= p.distance_mm <= span[1] + 0.5
        facts.append(
            ProjectorFacts(
                p, (width_mm, p.height * scale), span, fits, used, used[0] * used[1] / (p.width * p.height), lit
            )
        )
        lumens += p.lumens
    dimmest = min(f.nits for f in facts)
    doubled = max(dimmest, _brightest(screen, [f.nits for f in facts]))
    spread = luminance(lumens, screen.gain, screen.width_mm * screen.height_mm / 1e6)
    contrast = None
    if dimmest > 0:
        room = screen.room_lux * screen.gain / pi
        native = min(p.contrast for p in screen.projectors)
        contrast = (dimmest + room) / (dimmest / native + room)
    across, down = screen.overlap_px if screen.columns > 1 else 0, screen.overlap_down_px if screen.rows > 1 else 0
    return ProjectionFacts(
        canvas,
        scale,
        Overlap(across, across * scale, across / min(p.width for p in screen.projectors)),
        Overlap(down, down * scale, down / min(p.height for p in screen.projectors)),
        tuple(facts),
        dimmest,
        doubled,
        spread,
        contrast,
    )
