"""VESA Coordinated Video Timings: standard blanking, reduced blanking, and reduced blanking version 2.

Formulas after VESA CVT 1.2 (from memory); checked against ``edid-decode --cvt`` and, for standard blanking, Debian's
``cvt``.  That program derives the clock of reduced blanking from an estimate of the line and so misses the rate; here
it follows the rate.
"""

from __future__ import annotations

from fractions import Fraction

from ushering_adze.core.signal.timing import SignalError, SignalTiming, Standard, checked_size, exact_rate

CELL = 8
"""Width of a character cell in pixels; version 2 of reduced blanking counts single pixels."""
_CLOCK_STEP = 250  # kHz
_C_PRIME, _M_PRIME = 30, 300
_MIN_VSYNC_BP, _MIN_VBLANK = 550, 460  # microseconds
_V_FRONT, _MIN_V_BACK = 3, 7
_MIN_V_BACK_2 = 6


def vertical_sync(width: int, height: int) -> int:
    """Lines of vertical sync, which tell the shape of the picture: 4:3 has 4, 16:9 5, 16:10 6, 5:4 and 15:9 7, others
    10.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    int
    """
    for a, b, lines in ((4, 3, 4), (16, 9, 5), (16, 10, 6), (5, 4, 7), (15, 9, 7)):
        if height * a == width * b:
            return lines
    return 10


def cvt(
    width: int, height: int, rate: float | Fraction = 60, standard: Standard = "cvt", interlaced: bool = False
) -> SignalTiming:
    """The CVT timing of a raster.

    Parameters
    ----------
    width, height : int
        Active pixels, 1 to 32768.  CVT counts in cells of 8 pixels: for ``cvt`` and ``cvt-rb`` the width is rounded up
        to whole cells, as Debian's ``cvt`` does; ``cvt-rb2`` keeps every width.
    rate : float or Fraction
        Hertz, 1 to 480; of fields if interlaced.  59.94 means 60000/1001.
    standard : {"cvt", "cvt-rb", "cvt-rb2"}
    interlaced : bool
        With standard blanking only.

    Returns
    -------
    SignalTiming

    Raises
    ------
    SignalError
        If a size or rate is out of range, or leaves no time for a picture.

    References
    ----------
    VESA Coordinated Video Timings standard, version 1.2, sections 3 and 5 (from memory).

    Examples
    --------
    >>> t = cvt(1920, 1080)
    >>> int(t.clock_khz), t.h_total, t.v_total
    (173000, 2576, 1120)
    >>> t = cvt(1920, 2160, standard="cvt-rb")
    >>> int(t.clock_khz), t.h_total
    (277250, 2080)
    """
    checked_size(width, height)
    wanted_rate = exact_rate(rate)
    if standard == "cvt-rb2":
        if interlaced:
            raise SignalError("reduced blanking is for progressive pictures; use cvt or cta for an interlaced one")
        return _reduced_2(width, height, wanted_rate)
    active = -(-width // CELL) * CELL
    made = _in_cells(active, width, height, wanted_rate, standard, interlaced)
    if made.clock_khz <= 0 or made.h_sync <= 0:
        raise SignalError(
            f"{width}×{height} at {float(wanted_rate):g} Hz is too small for CVT's clock steps of {_CLOCK_STEP} kHz; "
            "use cvt-rb2"
        )
    return made


def _in_cells(
    active: int, width: int, height: int, wanted_rate: Fraction, standard: Standard, interlaced: bool
) -> SignalTiming:
    if standard == "cvt":
        if interlaced and height % 2:
            raise SignalError(
                f"an interlaced picture has an even height, not {height} lines; use {height - 1} or {height + 1}"
            )
        return _standard(active, width, height, wanted_rate, interlaced)
    if interlaced:
        raise SignalError("reduced blanking is for progressive pictures; use cvt or cta for an interlaced one")
    return _reduced(active, width, height, wanted_rate)


def _line_us(rate: Fraction, lines: Fraction, blank_us: int) -> Fraction:
    """Estimated time of a line in microseconds, once a blanking time is taken off."""
    left = 1_000_000 / rate - blank_us
    if left <= 0:
        raise SignalError(
            f"at {float(rate):g} Hz no time is left for a picture beside {blank_us} µs of blanking; lower the rate"
        )
    return left / lines


def _stepped(clock_khz: Fraction, step: Fraction) -> Fraction:
    return clock_khz // step * step


def _standard(active: int, width: int, height: int, rate: Fraction, interlaced: bool) -> SignalTiming:
    sync = vertical_sync(width, height)
    half = Fraction(1, 2) if interlaced else Fraction(0)
    lines = height // 2 if interlaced else height
    line = _line_us(rate, lines + _V_FRONT + half, _MIN_VSYNC_BP)
    sync_and_back = max(int(_MIN_VSYNC_BP / line) + 1, sync + _MIN_V_BACK)
    share = max(Fraction(20), _C_PRIME - _M_PRIME * line / 1000)  # per cent of the line that is blank
    blank = int(active * share / (100 - share)) // (2 * CELL) * (2 * CELL)
    total = active + blank
    h_sync = total * 8 // 100 // CELL * CELL
    h_back = blank // 2
    clock = _stepped(total * 1000 / line, Fraction(_CLOCK_STEP))
    return SignalTiming(
        clock,
        active,
        blank - h_back - h_sync,
        h_sync,
        h_back,
        height,
        _V_FRONT,
        sync,
        sync_and_back - sync,
        interlaced,
        False,
        True,
        "cvt",
    )


def _reduced(active: int, width: int, height: int, rate: Fraction) -> SignalTiming:
    sync = vertical_sync(width, height)
    line = _line_us(rate, Fraction(height), _MIN_VBLANK)
    blank = max(int(_MIN_VBLANK / line) + 1, _V_FRONT + sync + _MIN_V_BACK)
    clock = _stepped(rate * (height + blank) * (active + 160) / 1000, Fraction(_CLOCK_STEP))
    return SignalTiming(
        clock, active, 48, 32, 80, height, _V_FRONT, sync, blank - _V_FRONT - sync, False, True, False, "cvt-rb"
    )


def _reduced_2(width: int, height: int, rate: Fraction) -> SignalTiming:
    line = _line_us(rate, Fraction(height), _MIN_VBLANK)
    blank = max(int(_MIN_VBLANK / line) + 1, 1 + 8 + _MIN_V_BACK_2)
    clock = _stepped(rate * (height + blank) * (width + 80) / 1000, Fraction(1))
    return SignalTiming(
        clock, width, 8, 32, 40, height, blank - 8 - _MIN_V_BACK_2, 8, _MIN_V_BACK_2, False, True, False, "cvt-rb2"
    )
