"""A video timing: every count of the raster and its clock, exactly."""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Literal, NamedTuple

Standard = Literal["cvt", "cvt-rb", "cvt-rb2", "cta", "custom"]
MAX_SIDE, MIN_RATE, MAX_RATE = 32768, 1, 480


class SignalError(ValueError):
    """A signal that cannot be: names the field and its limit in one sentence."""


class SignalTiming(NamedTuple):
    """One video timing.

    Horizontal counts are pixels.  Vertical counts are lines of a whole frame for a progressive timing; for an
    interlaced one ``v_active`` and ``v_total`` count both fields, and ``v_front``, ``v_sync``, ``v_back`` are those of
    one field, of which the second has half a line more on either side.  ``clock_khz`` is exact.
    """

    clock_khz: Fraction
    h_active: int
    h_front: int
    h_sync: int
    h_back: int
    v_active: int
    v_front: int
    v_sync: int
    v_back: int
    interlaced: bool = False
    h_positive: bool = True
    v_positive: bool = True
    standard: Standard = "custom"
    vic: int | None = None
    alike: bool = False
    """Whether both fields of an interlaced timing have as many lines, and there is no half line between them."""

    @property
    def h_total(self) -> int:
        """Pixels of a whole line."""
        return self.h_active + self.h_front + self.h_sync + self.h_back

    @property
    def v_total(self) -> int:
        """Lines of a whole frame, of both fields if interlaced."""
        if self.interlaced:
            return self.v_active + 2 * (self.v_front + self.v_sync + self.v_back) + (not self.alike)
        return self.v_active + self.v_front + self.v_sync + self.v_back

    @property
    def line_khz(self) -> Fraction:
        """Line rate."""
        return self.clock_khz / self.h_total

    @property
    def refresh_hz(self) -> Fraction:
        """Pictures a second; fields a second if interlaced."""
        frames = self.clock_khz * 1000 / (self.h_total * self.v_total)
        return 2 * frames if self.interlaced else frames

    def as_dict(self) -> dict[str, object]:
        """The fields by name, as plain numbers."""
        return {
            "standard": self.standard,
            "clock_khz": plain(self.clock_khz),
            "h_active": self.h_active,
            "h_front": self.h_front,
            "h_sync": self.h_sync,
            "h_back": self.h_back,
            "h_total": self.h_total,
            "v_active": self.v_active,
            "v_front": self.v_front,
            "v_sync": self.v_sync,
            "v_back": self.v_back,
            "v_total": self.v_total,
            "line_khz": plain(self.line_khz),
            "refresh_hz": plain(self.refresh_hz),
            "interlaced": self.interlaced,
            "h_positive": self.h_positive,
            "v_positive": self.v_positive,
            "vic": self.vic,
        }


def plain(value: Fraction, digits: int = 6) -> int | float:
    """A fraction as a whole number if it is one, else as a float rounded to some digits.

    Parameters
    ----------
    value : Fraction
        The value.
    digits : int, optional
        After the point, at most.

    Returns
    -------
    int | float
    """
    return int(value) if value.denominator == 1 else round(float(value), digits)


def exact_rate(rate: float | Fraction | str) -> Fraction:
    """The rate meant by a number: 59.94 is 60000/1001, 23.976 and 23.98 are 24000/1001.

    A number within 0.005 Hz of a whole rate times 1000/1001 that is written with a fraction counts as that rate.

    Raises
    ------
    SignalError
        If it is no number, or not within 1 to 480 Hz.

    Examples
    --------
    >>> exact_rate(59.94), exact_rate("23.976"), exact_rate(60), exact_rate("60000/1001"), exact_rate(12.5)
    (Fraction(60000, 1001), Fraction(24000, 1001), Fraction(60, 1), Fraction(60000, 1001), Fraction(25, 2))
    """
    try:
        value = Fraction(str(rate).strip()) if not isinstance(rate, Fraction) else rate
    except (ValueError, ZeroDivisionError):
        raise SignalError(f'the rate "{rate}" is not a number; write 60, 59.94 or 60000/1001') from None
    if not MIN_RATE <= value <= MAX_RATE:
        raise SignalError(f"a rate of {float(value):g} Hz is outside {MIN_RATE} to {MAX_RATE} Hz; choose one within")
    whole = round(value)
    if value.denominator != 1:
        dropped = Fraction(1000, 1001) * round(value * 1001 / 1000)
        if whole >= 20 and abs(value - dropped) < Fraction(1, 200):
            return dropped
    return value


def rate_words(rate: Fraction | float) -> str:
    """A rate as people say it.

    Examples
    --------
    >>> rate_words(Fraction(60000, 1001)), rate_words(Fraction(24000, 1001)), rate_words(60.0)
    ('59.94', '23.976', '60')
    >>> rate_words(Fraction(25, 2))
    '12.5'
    """
    value = float(rate)
    for digits in (0, 1, 2, 3):
        if abs(round(value, digits) - value) < 0.0011 * (digits > 1) + 1e-9 and exact_rate(
            str(round(value, digits))
        ) == exact_rate(rate if isinstance(rate, Fraction) else str(rate)):
            return f"{value:.{digits}f}"
    return f"{value:.3f}"


def checked_size(width: int, height: int) -> tuple[int, int]:
    """A raster size that can be.  Raises SignalError naming the side and its limit.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    tuple[int, int]
    """
    for name, side in (("width", width), ("height", height)):
        if not 1 <= side <= MAX_SIDE:
            raise SignalError(f"a {name} of {side} px is outside 1 to {MAX_SIDE} px; choose one within")
    return width, height


def wanted(text: str) -> tuple[int, int, Fraction, bool]:
    """Read ``1920x1080@59.94`` or ``1920x1080i@60``: width, height, exact rate, whether interlaced; the rate is 60 if
    left out.

    Interlaced rates are fields a second.

    Raises
    ------
    SignalError

    Examples
    --------
    >>> wanted("2688x864@60")
    (2688, 864, Fraction(60, 1), False)
    >>> wanted("1920x1080i@59.94")
    (1920, 1080, Fraction(60000, 1001), True)
    """
    found = re.fullmatch(r"\s*(-?\d+)\s*[x×X*]\s*(-?\d+)\s*([ip]?)\s*(?:@\s*([\d./-]+)\s*(?:Hz)?)?\s*", text)
    if found is None:
        raise SignalError(f'"{text}" is not a size and rate; write it like 1920x1080@60')
    width, height = checked_size(int(found[1]), int(found[2]))
    return width, height, exact_rate(found[4] or "60"), found[3] == "i"


def custom_timing(
    clock_khz: float | Fraction,
    h: tuple[int, int, int, int],
    v: tuple[int, int, int, int],
    interlaced: bool = False,
    h_positive: bool = True,
    v_positive: bool = True,
) -> SignalTiming:
    """A timing by hand: clock, and ``(active, front, sync, back)`` across and down.

    Parameters
    ----------
    clock_khz : float | Fraction
        Pixel clock in kHz.
    h : tuple[int, int, int, int]
        Pixels: active, front porch, sync, back porch.
    v : tuple[int, int, int, int]
        Lines: active, front porch, sync, back porch.
    interlaced : bool, optional
        Whether two fields make a picture.
    h_positive : bool, optional
        Whether the horizontal sync is positive.
    v_positive : bool, optional
        Whether the vertical sync is positive.

    Returns
    -------
    SignalTiming

    Raises
    ------
    SignalError
        If a count is out of range, or the rate it makes is not within 1 to 480 Hz.

    Examples
    --------
    >>> t = custom_timing(148500, (1920, 88, 44, 148), (1080, 4, 5, 36))
    >>> t.h_total, t.v_total, t.refresh_hz
    (2200, 1125, Fraction(60, 1))
    """
    checked_size(h[0], v[0])
    for name, value, least in (
        ("horizontal front porch", h[1], 0),
        ("horizontal sync", h[2], 1),
        ("horizontal back porch", h[3], 0),
        ("vertical front porch", v[1], 0),
        ("vertical sync", v[2], 1),
        ("vertical back porch", v[3], 0),
    ):
        if not least <= value <= 8192:
            raise SignalError(f"a {name} of {value} is outside {least} to 8192; choose one within")
    clock = Fraction(str(clock_khz)) if not isinstance(clock_khz, Fraction) else clock_khz
    if clock <= 0 or clock > 10_000_000:
        raise SignalError(f"a pixel clock of {float(clock) / 1000:g} MHz is outside 0 to 10 000 MHz; choose one within")
    made = SignalTiming(clock, *h, *v, interlaced, h_positive, v_positive)
    exact_rate(made.refresh_hz)
    return made
