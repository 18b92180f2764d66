"""The CTA-861 formats that shows use, from 480p to 2160p.

The rows are those of CTA-861-H, table 3, as ``edid-decode --vic`` prints them.  Rates of the 60, 30, 24, 48 and 120 Hz families are also
sent at 1000/1001 of their value, with the clock lowered alike.
"""

from __future__ import annotations

from fractions import Fraction

from ushering_adze.core.signal.timing import SignalError, SignalTiming, checked_size, exact_rate, rate_words

_Row = tuple[int, int, int, bool, int, int, tuple[int, int, int], tuple[int, int, int], str]
# VIC, width, height, interlaced, rate, clock in kHz, (front, sync, back) across, the same down, polarities of the syncs
_ROWS: tuple[_Row, ...] = (
    (1, 640, 480, False, 60, 25175, (16, 96, 48), (10, 2, 33), "--"),
    (3, 720, 480, False, 60, 27000, (16, 62, 60), (9, 6, 30), "--"),
    (4, 1280, 720, False, 60, 74250, (110, 40, 220), (5, 5, 20), "++"),
    (5, 1920, 1080, True, 60, 74250, (88, 44, 148), (2, 5, 15), "++"),
    (16, 1920, 1080, False, 60, 148500, (88, 44, 148), (4, 5, 36), "++"),
    (18, 720, 576, False, 50, 27000, (12, 64, 68), (5, 5, 39), "--"),
    (19, 1280, 720, False, 50, 74250, (440, 40, 220), (5, 5, 20), "++"),
    (20, 1920, 1080, True, 50, 74250, (528, 44, 148), (2, 5, 15), "++"),
    (31, 1920, 1080, False, 50, 148500, (528, 44, 148), (4, 5, 36), "++"),
    (32, 1920, 1080, False, 24, 74250, (638, 44, 148), (4, 5, 36), "++"),
    (33, 1920, 1080, False, 25, 74250, (528, 44, 148), (4, 5, 36), "++"),
    (34, 1920, 1080, False, 30, 74250, (88, 44, 148), (4, 5, 36), "++"),
    (41, 1280, 720, False, 100, 148500, (440, 40, 220), (5, 5, 20), "++"),
    (47, 1280, 720, False, 120, 148500, (110, 40, 220), (5, 5, 20), "++"),
    (60, 1280, 720, False, 24, 59400, (1760, 40, 220), (5, 5, 20), "++"),
    (61, 1280, 720, False, 25, 74250, (2420, 40, 220), (5, 5, 20), "++"),
    (62, 1280, 720, False, 30, 74250, (1760, 40, 220), (5, 5, 20), "++"),
    (63, 1920, 1080, False, 120, 297000, (88, 44, 148), (4, 5, 36), "++"),
    (64, 1920, 1080, False, 100, 297000, (528, 44, 148), (4, 5, 36), "++"),
    (90, 2560, 1080, False, 60, 198000, (248, 44, 148), (4, 5, 11), "++"),
    (93, 3840, 2160, False, 24, 297000, (1276, 88, 296), (8, 10, 72), "++"),
    (94, 3840, 2160, False, 25, 297000, (1056, 88, 296), (8, 10, 72), "++"),
    (95, 3840, 2160, False, 30, 297000, (176, 88, 296), (8, 10, 72), "++"),
    (96, 3840, 2160, False, 50, 594000, (1056, 88, 296), (8, 10, 72), "++"),
    (97, 3840, 2160, False, 60, 594000, (176, 88, 296), (8, 10, 72), "++"),
    (98, 4096, 2160, False, 24, 297000, (1020, 88, 296), (8, 10, 72), "++"),
    (99, 4096, 2160, False, 25, 297000, (968, 88, 128), (8, 10, 72), "++"),
    (100, 4096, 2160, False, 30, 297000, (88, 88, 128), (8, 10, 72), "++"),
    (101, 4096, 2160, False, 50, 594000, (968, 88, 128), (8, 10, 72), "++"),
    (102, 4096, 2160, False, 60, 594000, (88, 88, 128), (8, 10, 72), "++"),
    (108, 1280, 720, False, 48, 90000, (960, 40, 220), (5, 5, 20), "++"),
    (111, 1920, 1080, False, 48, 148500, (638, 44, 148), (4, 5, 36), "++"),
    (114, 3840, 2160, False, 48, 594000, (1276, 88, 296), (8, 10, 72), "++"),
    (115, 4096, 2160, False, 48, 594000, (1020, 88, 296), (8, 10, 72), "++"),
    (117, 3840, 2160, False, 100, 1188000, (1056, 88, 296), (8, 10, 72), "++"),
    (118, 3840, 2160, False, 120, 1188000, (176, 88, 296), (8, 10, 72), "++"),
)
_DROPPED = Fraction(1000, 1001)
_NTSC_CLOCK = (1, 3)
"""Rows whose listed clock is that of the dropped rate: 25.175 and 27 MHz make 59.94 Hz."""


def _timings() -> list[SignalTiming]:
    made = []
    for vic, width, height, interlaced, rate, khz, h, v, signs in _ROWS:
        def at(clock: Fraction, vic: int = vic, width: int = width, height: int = height, interlaced: bool = interlaced,
               h: tuple[int, int, int] = h, v: tuple[int, int, int] = v, signs: str = signs) -> SignalTiming:
            return SignalTiming(clock, width, *h, height, *v, interlaced, signs[0] == "+", signs[1] == "+", "cta", vic)

        clock = Fraction(khz)
        if vic in _NTSC_CLOCK:
            made += [at(clock), at(clock / _DROPPED)]
        else:
            made.append(at(clock))
            if rate % 6 == 0:
                made.append(at(clock * _DROPPED))
    return made


TIMINGS: tuple[SignalTiming, ...] = tuple(_timings())
"""Every format here, whole rates and dropped ones."""


def cta_timing(width: int, height: int, rate: float | Fraction = 60, interlaced: bool = False) -> SignalTiming:
    """The CTA-861 timing of a format.

    Parameters
    ----------
    width, height : int
    rate : float or Fraction
        Hertz; of fields if interlaced.  59.94 means 60000/1001.
    interlaced : bool

    Raises
    ------
    SignalError
        If the table has no such format; names the nearest that it has.

    Examples
    --------
    >>> t = cta_timing(3840, 2160, 60)
    >>> int(t.clock_khz), t.h_total, t.v_total, t.vic
    (594000, 4400, 2250, 97)
    """
    checked_size(width, height)
    asked = exact_rate(rate)
    same_size = [t for t in TIMINGS if (t.h_active, t.v_active, t.interlaced) == (width, height, interlaced)]
    for timing in same_size:
        # 640 × 480 and 720 × 480 miss their dropped rate by a hair: 25.175 MHz is a rounded clock.
        if abs(timing.refresh_hz - asked) < Fraction(1, 500):
            return timing
    kind = "i" if interlaced else ""
    if same_size:
        rates = sorted({float(t.refresh_hz) for t in same_size})
        raise SignalError(f"CTA-861 has no {width}×{height}{kind} at {rate_words(asked)} Hz; it has it at "
                          f"{', '.join(rate_words(exact_rate(round(r, 3))) for r in rates)}")
    near = min(TIMINGS, key=lambda t: (abs(t.h_active - width) + abs(t.v_active - height), abs(t.refresh_hz - asked)))
    raise SignalError(f"CTA-861 has no {width}×{height}{kind}; the nearest is {near.h_active}×{near.v_active}, or use cvt-rb or cvt-rb2")


def known(width: int, height: int, rate: float | Fraction, interlaced: bool = False) -> SignalTiming | None:
    """The CTA-861 timing of a format, or None."""
    try:
        return cta_timing(width, height, rate, interlaced)
    except SignalError:
        return None
