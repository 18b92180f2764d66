"""What the makers of content must know of each surface: size, shape, rate, and how to encode for it."""

from __future__ import annotations

from math import ceil, gcd, sqrt
from typing import NamedTuple

from ushering_adze.core.exchange.pixelmap import surface_size
from ushering_adze.core.show import LedWall, Show

H264_LEVELS = (
    ("3.1", 3600, 108_000),
    ("3.2", 5120, 216_000),
    ("4.0", 8192, 245_760),
    ("4.2", 8704, 522_240),
    ("5.0", 22_080, 589_824),
    ("5.1", 36_864, 983_040),
    ("5.2", 36_864, 2_073_600),
    ("6.0", 139_264, 4_177_920),
    ("6.1", 139_264, 8_355_840),
    ("6.2", 139_264, 16_711_680),
)
"""Level, most macroblocks in a picture and in a second: Rec. ITU-T H.264, table A-1 (from memory)."""


def h264_level(width: int, height: int, rate: float) -> str | None:
    """The lowest level of H.264 that carries pictures of a size and rate; None if none does, or a side is odd (4:2:0
    needs even ones).

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    rate : float
        Pictures a second.

    Returns
    -------
    str | None
        In a sentence; None if nothing is.

    Examples
    --------
    >>> h264_level(1920, 1080, 30), h264_level(1920, 1080, 60), h264_level(3840, 2160, 60), h264_level(1921, 1080, 30)
    ('4.0', '4.2', '5.2', None)
    """
    if width % 2 or height % 2:
        return None
    across, down = ceil(width / 16), ceil(height / 16)
    for name, frame, second in H264_LEVELS:
        if across * down <= frame and across * down * rate <= second and max(across, down) <= sqrt(8 * frame):
            return name
    return None


class ContentRow(NamedTuple):
    """One surface for the sheet of sizes."""

    surface: str
    width: int
    height: int
    shape: str
    rate: float
    pitch_mm: float | None
    encode: str


def content_rows(show: Show) -> list[ContentRow]:
    """A row for each surface: pixels, shape, rate, pixel size, and an encoding that carries it."""
    rows = []
    for surface in show.surfaces:
        width, height = surface_size(surface)
        canvas = next((c for c, r in show.regions() if r.surface == surface.id), None)
        rate = canvas.rate if canvas is not None and canvas.rate is not None else show.rate
        level = h264_level(width, height, rate)
        if level is not None:
            encode = f"H.264 level {level}, 4:2:0 8 bit, full frames; 4:4:4 where fine coloured lines matter"
        elif width % 2 or height % 2:
            encode = f"{width + width % 2}×{height + height % 2} with the odd edge repeated, or a codec of 4:4:4"
        else:
            encode = "in several pieces, or as a picture sequence"
        k = gcd(width, height)
        shape = f"{width // k}:{height // k}" if max(width, height) // k <= 100 else f"{width / height:.3f}:1"
        pitch = (
            surface.cabinet.pitch_mm
            if isinstance(surface, LedWall)
            else (None if surface.size_mm is None else surface.size_mm[0] / surface.pixels[0])
        )
        rows.append(
            ContentRow(surface.name, width, height, shape, rate, None if pitch is None else round(pitch, 3), encode)
        )
    return rows


def content_table(show: Show) -> str:
    """The rows as TSV with headings."""
    lines = ["surface\twidth\theight\tshape\trate\tpixel_mm\tencode"]
    lines += [
        "\t".join("" if v is None else f"{v:g}" if isinstance(v, float) else str(v) for v in row)
        for row in content_rows(show)
    ]
    return "\n".join(lines) + "\n"
