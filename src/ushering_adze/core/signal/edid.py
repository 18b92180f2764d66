"""EDID: made for an input, so that a source sends what is wanted.

After VESA E-EDID (structure 1.3, as HDMI asks) and the CTA-861 extension, version 3 (from memory); checked with
``edid-decode --check``.
"""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from ushering_adze.core.signal.timing import SignalError, SignalTiming

HEADER = bytes((0, 255, 255, 255, 255, 255, 255, 0))
BLOCK = 128
_MAKER = "UAZ"
# sRGB primaries and D65 (IEC 61966-2-1), as EDID's ten-bit fractions
_CHROMA = ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060), (0.3127, 0.3290))
MAX_SIDE, MAX_CLOCK_KHZ = 4095, 655_350


class EdidWish(NamedTuple):
    """What a source shall be told.

    Attributes
    ----------
    timing : SignalTiming
        The preferred, native timing.
    name : str
        Up to 13 characters of ASCII.
    audio : bool
        Two channels of PCM are taken.
    ycbcr : bool
        YCbCr 4:4:4 and 4:2:2 are taken beside RGB.
    rates : tuple of int
        Lowest and highest picture rate of the range limits, in hertz.
    size_mm : tuple of int
        Size of the picture; (0, 0) where it has none.
    """

    timing: SignalTiming
    name: str
    audio: bool = False
    ycbcr: bool = False
    rates: tuple[int, int] = (24, 60)
    size_mm: tuple[int, int] = (0, 0)


def checksum(block: bytes) -> int:
    """The last byte that makes 128 bytes add to 0 modulo 256.

    References
    ----------
    VESA E-EDID standard, release A, revision 2, section 3.11: the bytes of a block add to 0 modulo 256 (from memory).
    """
    return -sum(block[: BLOCK - 1]) % 256


def _chromaticity() -> bytes:
    tenths = [round(v * 1024) for pair in _CHROMA for v in pair]
    low = [t & 3 for t in tenths]
    packed = [low[0] << 6 | low[1] << 4 | low[2] << 2 | low[3], low[4] << 6 | low[5] << 4 | low[6] << 2 | low[7]]
    return bytes([*packed, *(t >> 2 for t in tenths)])


def detailed(timing: SignalTiming, size_mm: tuple[int, int] = (0, 0)) -> bytes:
    """The 18 bytes of a detailed timing descriptor.

    Parameters
    ----------
    timing : SignalTiming
        The timing.
    size_mm : tuple[int, int], optional
        Width and height of the lit area, in millimetres.

    Returns
    -------
    bytes

    Raises
    ------
    SignalError
        If the timing is beyond what a descriptor can say: 4095 pixels or lines, 655.35 MHz.

    References
    ----------
    VESA E-EDID standard, release A, revision 2, section 3.10.2 (from memory).
    """
    lines = timing.v_active // 2 if timing.interlaced else timing.v_active
    h_blank = timing.h_total - timing.h_active
    v_blank = timing.v_front + timing.v_sync + timing.v_back
    clock = round(timing.clock_khz / 10)
    for name, value, most in (
        ("width", timing.h_active, MAX_SIDE),
        ("height", lines, MAX_SIDE),
        ("horizontal blanking", h_blank, MAX_SIDE),
        ("vertical blanking", v_blank, MAX_SIDE),
        ("horizontal front porch", timing.h_front, 1023),
        ("horizontal sync", timing.h_sync, 1023),
        ("vertical front porch", timing.v_front, 63),
        ("vertical sync", timing.v_sync, 63),
    ):
        if value > most:
            raise SignalError(
                f"an EDID timing carries a {name} of up to {most}, not {value}; divide the picture over a gang, "
                "or use another standard of blanking"
            )
    if clock > MAX_CLOCK_KHZ // 10:
        raise SignalError(
            f"an EDID timing carries a clock of up to {MAX_CLOCK_KHZ / 1000:g} MHz, not "
            f"{float(timing.clock_khz) / 1000:g}; "
            "lower the rate, use reduced blanking, or divide the picture over a gang"
        )
    w, h = (min(4095, v) for v in size_mm)
    flags = (
        0x18
        | (0x80 if timing.interlaced else 0)
        | (0x04 if timing.v_positive else 0)
        | (0x02 if timing.h_positive else 0)
    )
    return bytes(
        (
            clock & 255,
            clock >> 8,
            timing.h_active & 255,
            h_blank & 255,
            (timing.h_active >> 8) << 4 | h_blank >> 8,
            lines & 255,
            v_blank & 255,
            (lines >> 8) << 4 | v_blank >> 8,
            timing.h_front & 255,
            timing.h_sync & 255,
            (timing.v_front & 15) << 4 | timing.v_sync & 15,
            (timing.h_front >> 8) << 6 | (timing.h_sync >> 8) << 4 | (timing.v_front >> 4) << 2 | timing.v_sync >> 4,
            w & 255,
            h & 255,
            (w >> 8) << 4 | h >> 8,
            0,
            0,
            flags,
        )
    )


def _text(tag: int, words: str) -> bytes:
    return bytes((0, 0, 0, tag, 0)) + (words.encode("ascii") + (b"\n" if len(words) < 13 else b"")).ljust(13, b" ")


def _limits(wish: EdidWish) -> bytes:
    low, high = wish.rates
    t, rate = wish.timing, wish.timing.refresh_hz
    low, high = max(1, min(low, int(rate), 59)), max(high, -int(-rate // 1))
    # 640 × 480 at 59.94 Hz and 31.469 kHz, which every HDMI sink takes, lies within as well.
    low_khz = max(1, min(31, int(float(t.line_khz) * low / float(rate))))
    high_khz = max(32, -int(-t.line_khz // 1))
    for name, value in (("picture rate", high), ("line rate in kHz", high_khz)):
        if value > 255:
            raise SignalError(
                f"an EDID's range limits carry a {name} of up to 255, not {value}; lower the rate or the height"
            )
    clock = max(3, -int(-t.clock_khz // 10_000))
    return bytes((0, 0, 0, 0xFD, 0, low, high, low_khz, high_khz, min(255, clock), 0)) + b"\n" + b" " * 6


def _data_block(tag: int, payload: bytes) -> bytes:
    return bytes((tag << 5 | len(payload),)) + payload


def _extension(wish: EdidWish) -> bytes:
    timing = wish.timing
    blocks = b""
    vics = [timing.vic] if timing.vic is not None else []
    # VIC 1 is to be there for every CTA sink; the native format comes first (128 added up to VIC 64).
    # An interlaced format is preferred but not called native: CTA-861 asks for a native progressive one beside it.
    native = 0 if timing.interlaced else 1
    first = [v + 128 if v <= 64 and native else v for v in vics]
    if native or vics:  # else the source would take VIC 1, the only one, for the preferred format
        blocks += _data_block(2, bytes([*first, *([1] if vics != [1] else [])]))
    if wish.audio:
        blocks += _data_block(1, bytes((0x09, 0x07, 0x07)))  # PCM, two channels; 32, 44.1, 48 kHz; 16, 20, 24 bits
        blocks += _data_block(4, bytes((1, 0, 0)))  # front left and right
    tmds = max(6, -int(-timing.clock_khz // 5000))  # in steps of 5 MHz
    blocks += _data_block(3, bytes((0x03, 0x0C, 0x00, 0x10, 0x00, 0x00, min(tmds, 68))))
    if timing.clock_khz > 340_000:
        blocks += _data_block(
            3, bytes((0xD8, 0x5D, 0xC4, 1, min(120, tmds), 0x80, 0))
        )  # HDMI Forum: clock up to 600 MHz, SCDC
    blocks += _data_block(
        7, bytes((0x00, 0xC0 | 0x0A))
    )  # video capability: range selectable, nothing cut off at the edges
    flags = 0x80 | (0x40 if wish.audio else 0) | (0x30 if wish.ycbcr else 0)
    head = bytes((2, 3, 4 + len(blocks), flags | native))
    return (head + blocks).ljust(BLOCK - 1, b"\0")


def made_edid(wish: EdidWish) -> bytes:
    """An EDID of two blocks: base block (EDID 1.3) and CTA-861 extension.

    Parameters
    ----------
    wish : EdidWish

    Returns
    -------
    bytes
        256 of them.

    Raises
    ------
    SignalError
        If the name or the timing is beyond what EDID can say.

    References
    ----------
    VESA E-EDID standard, release A, revision 2, section 3 (from memory).

    Examples
    --------
    >>> from ushering_adze.core.signal.cvt import cvt
    >>> data = made_edid(EdidWish(cvt(1920, 2160, 60, "cvt-rb"), "Left half"))
    >>> len(data), sum(data[:128]) % 256, sum(data[128:]) % 256
    (256, 0, 0)
    """
    name = wish.name.strip()
    if not 1 <= len(name) <= 13 or not name.isascii() or not name.isprintable():
        raise SignalError(f'the name "{wish.name}" must be 1 to 13 characters of plain ASCII in an EDID; shorten it')
    first = detailed(wish.timing, wish.size_mm)
    # A format at 1000/1001 of its rate has the same VIC.  Of an interlaced one it must be said: no detailed timing is
    # native there.
    vic = wish.timing.vic if wish.timing.clock_khz.denominator == 1 or wish.timing.interlaced else None
    # A descriptor holds the clock in steps of 10 kHz; the limits are to hold what the source will read from it.
    wish = wish._replace(
        timing=wish.timing._replace(clock_khz=Fraction(round(wish.timing.clock_khz / 10) * 10), vic=vic)
    )
    maker = sum((ord(c) - 64) << (5 * (2 - k)) for k, c in enumerate(_MAKER))
    w, h = (round(v / 10) for v in wish.size_mm)
    if not 1 <= w <= 255 or not 1 <= h <= 255:
        w = h = 0
    base = bytearray(HEADER)
    base += bytes(
        (maker >> 8, maker & 255, 1, 0, 0, 0, 0, 0, 0, 36, 1, 3)
    )  # model 1, no serial number, made in 2026, EDID 1.3
    base += bytes((0x80, w, h, 120, 0x0A | 0x04))  # digital; gamma 2.2; RGB, preferred timing first, sRGB
    base += _chromaticity()
    base += bytes((0x20, 0, 0)) + bytes((1, 1)) * 8  # 640 × 480 at 60 Hz
    base += first + _text(0xFC, name) + _limits(wish) + bytes((0, 0, 0, 0x10, 0)) + bytes(13)
    base += bytes((1,))
    blocks = bytes(base), _extension(wish)
    return b"".join(b + bytes((checksum(b),)) for b in blocks)


def fraction_khz(low: int, high: int) -> Fraction:
    """A descriptor's clock in kHz.

    Parameters
    ----------
    low : int
        The lower of two rates, in kHz.
    high : int
        The higher of two rates, in kHz.

    Returns
    -------
    Fraction
    """
    return Fraction((high << 8 | low) * 10)
