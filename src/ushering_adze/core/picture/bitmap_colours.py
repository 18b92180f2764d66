"""The colours of captions that come as bitmaps, read from what carries them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

PLAIN: tuple[tuple[int, int, int, int], ...] = (
    (0, 0, 0, 0),
    (255, 255, 255, 255),
    (0, 0, 0, 255),
    (128, 128, 128, 255),
)
"""Where nothing says which colours are meant, in RGBA."""


def colours_of(packet: bytes, codec: str, lines: int) -> NDArray[np.uint8] | None:
    """The colours that a packet of bitmap captions brings.

    Parameters
    ----------
    packet : bytes
    codec : {"dvbsub", "dvb_subtitle", "pgssub", "hdmv_pgs_subtitle"}
        Others bring none that are known here.
    lines : int
        Of the picture: up to 576 colours are meant by ITU-R BT.601, above by BT.709.

    Returns
    -------
    ndarray, (256, 4), uint8, or None
        In RGBA; None if it brings none.

    References
    ----------
    ETSI EN 300 743, 7.2.4 (CLUT definition segment), from memory.  Of PGS: palette segments as common programs write
    them (common practice, no source).
    """
    if codec in ("dvbsub", "dvb_subtitle"):
        found = dict(_of_dvb(packet))
        lines = 576
    elif codec in ("pgssub", "hdmv_pgs_subtitle"):
        found = dict(_of_pgs(packet))
    else:
        return None
    if not found:
        return None
    made = np.zeros((256, 4), np.uint8)
    for code, (luma, red, blue, opaque) in found.items():
        made[code] = (*_rgb(luma, red, blue, lines), opaque)
    return made


def _rgb(luma: int, red: int, blue: int, lines: int) -> tuple[int, int, int]:
    kr, kb = (0.2126, 0.0722) if lines > 576 else (0.299, 0.114)
    y, pr, pb = (luma - 16) / 219, (red - 128) / 112, (blue - 128) / 112  # differences are −1 to 1 here
    r, b = y + pr * (1 - kr), y + pb * (1 - kb)
    g = (y - kr * r - kb * b) / (1 - kr - kb)
    r, g, b = (max(0, min(255, round(v * 255))) for v in (r, g, b))
    return r, g, b


def _of_dvb(packet: bytes) -> Iterator[tuple[int, tuple[int, int, int, int]]]:
    at = 2 if packet[:2] == b"\x20\x00" else 0
    while at + 6 <= len(packet) and packet[at] == 0x0F:
        kind, size = packet[at + 1], int.from_bytes(packet[at + 4 : at + 6], "big")
        segment = packet[at + 6 : at + 6 + size]
        at += 6 + size
        n = 2
        while kind == 0x12 and n + 4 <= len(segment):
            code, whole = segment[n], segment[n + 1] & 1
            if whole and n + 6 <= len(segment):
                luma, red, blue, clear = segment[n + 2 : n + 6]
            else:
                packed = int.from_bytes(segment[n + 2 : n + 4], "big")
                luma, red, blue, clear = (
                    packed >> 10 << 2,
                    (packed >> 6 & 15) << 4,
                    (packed >> 2 & 15) << 4,
                    (packed & 3) * 85,
                )
            n += 6 if whole else 4
            yield code, (luma, red, blue, 255 - clear if luma else 0)


def _of_pgs(packet: bytes) -> Iterator[tuple[int, tuple[int, int, int, int]]]:
    at = 0
    while at + 3 <= len(packet):
        kind, size = packet[at], int.from_bytes(packet[at + 1 : at + 3], "big")
        segment = packet[at + 3 : at + 3 + size]
        at += 3 + size
        for n in range(2, len(segment) - 4, 5) if kind == 0x14 else ():
            code, luma, red, blue, opaque = segment[n : n + 5]
            yield code, (luma, red, blue, opaque)
