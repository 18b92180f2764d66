"""The formats of CTA-861, from 480i to 4320p.

The rows are those of CTA-861-I, as ``edid-decode --vic`` prints them.  Rates of the 60, 30, 24, 48, 120 and 240 Hz
families are also sent at 1000/1001 of their value, with the clock lowered alike.
"""

from __future__ import annotations

from fractions import Fraction
from functools import cache

from ushering_adze.core.signal.cta_table import ROWS
from ushering_adze.core.signal.timing import SignalError, SignalTiming, checked_size, exact_rate, rate_words

_DROPPED = Fraction(1000, 1001)
_RATES = (24, 25, 30, 48, 50, 60, 100, 120, 200, 240)


@cache
def timings() -> tuple[SignalTiming, ...]:
    """Every format here, whole rates and dropped ones."""
    made = []
    for vic, width, height, interlaced, khz, h, v, signs, _, alike in sorted(
        ROWS, key=lambda row: (_SHAPES.index(row[8]), row[0])
    ):
        listed = SignalTiming(
            Fraction(khz), width, *h, height, *v, interlaced, signs[0] == "+", signs[1] == "+", "cta", vic, alike
        )
        rate = min(_RATES, key=lambda r: abs(r - listed.refresh_hz))
        made.append(listed)
        if rate % 6 == 0:  # the listed clock of 480 lines, and of what is made of them, is that of the dropped rate
            is_dropped = abs(listed.refresh_hz - rate * _DROPPED) < abs(listed.refresh_hz - rate)
            made.append(
                listed._replace(clock_khz=listed.clock_khz / _DROPPED if is_dropped else listed.clock_khz * _DROPPED)
            )
    return tuple(made)


_SHAPES = ("16:9", "256:135", "4:3", "64:27")
"""Shapes of picture, those first that are meant where only a size is said."""


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

    References
    ----------
    CTA-861-G, section 4, table 3 (from memory).

    Examples
    --------
    >>> t = cta_timing(3840, 2160, 60)
    >>> int(t.clock_khz), t.h_total, t.v_total, t.vic
    (594000, 4400, 2250, 97)
    """
    checked_size(width, height)
    asked = exact_rate(rate)
    same_size = [t for t in timings() if (t.h_active, t.v_active, t.interlaced) == (width, height, interlaced)]
    for timing in same_size:
        # 640 × 480 and 720 × 480 miss their dropped rate by a hair: 25.175 MHz is a rounded clock.
        if abs(timing.refresh_hz - asked) < Fraction(1, 500):
            return timing
    kind = "i" if interlaced else ""
    if same_size:
        rates = sorted({float(t.refresh_hz) for t in same_size})
        raise SignalError(
            f"CTA-861 has no {width}×{height}{kind} at {rate_words(asked)} Hz; it has it at "
            f"{', '.join(rate_words(exact_rate(round(r, 3))) for r in rates)}"
        )
    near = min(timings(), key=lambda t: (abs(t.h_active - width) + abs(t.v_active - height), abs(t.refresh_hz - asked)))
    raise SignalError(
        f"CTA-861 has no {width}×{height}{kind}; the nearest is {near.h_active}×{near.v_active}, or use cvt-rb or "
        "cvt-rb2"
    )


def known(width: int, height: int, rate: float | Fraction, interlaced: bool = False) -> SignalTiming | None:
    """The CTA-861 timing of a format, or None.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    rate : float | Fraction
        Pictures a second.
    interlaced : bool, optional
        Whether two fields make a picture.

    Returns
    -------
    SignalTiming | None
    """
    try:
        return cta_timing(width, height, rate, interlaced)
    except SignalError:
        return None
