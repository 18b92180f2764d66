"""What would fit, when a wanted signal does not."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple, get_args

from ushering_adze.core.signal.cta import cta_timing, known
from ushering_adze.core.signal.cvt import CELL, cvt
from ushering_adze.core.signal.link import LINKS, Encoding, Link, Load, encoding_words, link_named, load
from ushering_adze.core.signal.timing import SignalError, SignalTiming, Standard, exact_rate, rate_words

SMALL = 640 * 480 * 24
"""Pixels a second under which CVT's clock steps are too coarse."""
LOWER_RATES = (Fraction(60), Fraction(50), Fraction(30), Fraction(25), Fraction(24))


def timing_for(
    width: int, height: int, rate: float | Fraction = 60, standard: Standard | None = None, interlaced: bool = False
) -> SignalTiming:
    """The timing of a raster by a standard; by default CTA-861 where it has the format, else reduced blanking.

    A width that is not whole CVT cells, and a very small raster, take reduced blanking version 2, which keeps every
    pixel.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    rate : float | Fraction, optional
        Pictures a second.
    standard : Standard | None, optional
        Which standard.
    interlaced : bool, optional
        Whether two fields make a picture.

    Returns
    -------
    SignalTiming

    Raises
    ------
    SignalError

    Examples
    --------
    >>> timing_for(1920, 1080).standard, timing_for(2688, 864).standard, timing_for(1366, 768).standard
    ('cta', 'cvt-rb', 'cvt-rb2')
    """
    if standard is None:
        listed = known(width, height, rate, interlaced)
        if listed is not None:
            return listed
        small = width * height * float(rate) < SMALL
        standard = "cvt" if interlaced else "cvt-rb" if width % CELL == 0 and not small else "cvt-rb2"
    if standard == "cta":
        return cta_timing(width, height, rate, interlaced)
    if standard == "custom" or standard not in get_args(Standard):
        raise SignalError(f'no standard "{standard}" to compute a timing by; there are: cvt, cvt-rb, cvt-rb2, cta')
    return cvt(width, height, rate, standard, interlaced)


class Suggestion(NamedTuple):
    """One change that would make a signal fit: what kind, in words, and the budget it leads to."""

    kind: str
    words: str
    load: Load


def suggestions(
    width: int,
    height: int,
    rate: float | Fraction,
    link: Link | str,
    bits: int = 8,
    encoding: Encoding = "rgb",
    standard: Standard | None = None,
) -> list[Suggestion]:
    """The nearest signals that would fit a link, each a single change, and each computed.

    The order is: reduced blanking, fewer bits, a lighter encoding, a lower rate, two or four links, another connector.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    rate : float | Fraction
        Pictures a second.
    link : Link | str
        Which link carries it.
    bits : int, optional
        Of each code.
    encoding : Encoding, optional
        Of the signal: ``rgb``, ``444``, ``422`` or ``420``.
    standard : Standard | None, optional
        Which standard.

    Returns
    -------
    list of Suggestion
        Empty if nothing of these helps.

    Examples
    --------
    >>> [s.words for s in suggestions(3840, 2160, 60, "hdmi1.4")][:2]
    ['30 Hz: 297 of 340 MHz', 'two links of 1920×2160: 277.2 of 340 MHz each']
    """
    link = link_named(link) if isinstance(link, str) else link
    asked = exact_rate(rate)
    found: list[Suggestion] = []

    def consider(
        kind: str, words: str, timing: SignalTiming, on: Link, depth: int, how: Encoding, tail: str = ""
    ) -> bool:
        budget = load(timing, on, depth, how)
        if budget.fits and timing.h_active >= 1:
            figures = f"{float(budget.used):.4g} of {float(budget.capacity):.4g} {budget.unit}"
            found.append(Suggestion(kind, f"{words}: {figures}{tail}", budget))
        return budget.fits

    now = timing_for(width, height, asked, standard)
    reductions: tuple[Standard, ...] = ("cvt-rb", "cvt-rb2")
    for reduced in reductions:
        if now.standard not in (reduced, "cvt-rb2") and (reduced == "cvt-rb2" or width % CELL == 0):
            name = "reduced blanking" if reduced == "cvt-rb" else "reduced blanking version 2"
            if consider("blanking", name, cvt(width, height, asked, reduced), link, bits, encoding):
                break
    for fewer in (10, 8):
        if fewer < bits and consider("bits", f"{fewer} bits", now, link, fewer, encoding):
            break
    lighters: tuple[Encoding, ...] = ("422", "420")
    for lighter in lighters:
        lighter_than_asked = encoding in ("rgb", "444") or (encoding == "422" and lighter == "420")
        words = f"{encoding_words(lighter)} at {bits} bits"
        if lighter_than_asked and lighter in link.encodings and consider("encoding", words, now, link, bits, lighter):
            break
    for lower in LOWER_RATES:
        if lower < asked and consider(
            "rate", f"{rate_words(lower)} Hz", _at(width, height, lower, standard), link, bits, encoding
        ):
            break
    for across, down, words in ((2, 1, "two"), (2, 2, "four")):
        if width % across == 0 and height % down == 0 and link.how not in ("stream",):
            part = timing_for(width // across, height // down, asked)
            if consider(
                "links", f"{words} links of {width // across}×{height // down}", part, link, bits, encoding, " each"
            ):
                break
    for other in sorted(LINKS.values(), key=lambda k: load(now, k, bits, encoding).share):
        same_family = other.name[:2] == link.name[:2]
        if other.name != link.name and other.how != "stream" and same_family and load(now, other, bits, encoding).fits:
            better = [
                k
                for k in LINKS.values()
                if k.name[:2] == link.name[:2] and load(now, k, bits, encoding).fits and k.name != link.name
            ]
            least = min(better, key=lambda k: (k.unit != link.unit, k.capacity))
            consider("connector", least.words, now, least, bits, encoding)
            break
    else:
        for name in ("hdmi2.0", "dp1.2", "hdmi2.1", "dp1.4"):
            other = LINKS[name]
            if other.name != link.name and load(now, other, bits, encoding).fits:
                consider("connector", other.words, now, other, bits, encoding)
                break
    return found


def _at(width: int, height: int, rate: Fraction, standard: Standard | None) -> SignalTiming:
    try:
        return timing_for(width, height, rate, standard)
    except SignalError:
        return timing_for(width, height, rate)
