"""How rates meet: what a show at one rate does with a picture that comes at another."""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from typing import NamedTuple

from ushering_adze.core.signal.timing import exact_rate, rate_words


class Cadence(NamedTuple):
    """What becomes of a source's frames in a show of another rate.

    Attributes
    ----------
    how : str
        ``same``, ``repeat`` or ``drop``.
    pattern : tuple of int
        How often each frame of one period is shown, for periods of up to 60 frames; empty for longer ones.
    period_s : Fraction
        Seconds after which the pattern begins again.
    uneven_s : Fraction or None
        Mean time between steps that differ from the others: what the eye sees as judder.  None if all frames are shown
        alike.
    """

    source: Fraction
    show: Fraction
    how: str
    pattern: tuple[int, ...]
    period_s: Fraction
    uneven_s: Fraction | None

    @property
    def words(self) -> str:
        """The same in one sentence."""
        a, b = rate_words(self.source), rate_words(self.show)
        if self.how == "same":
            return f"{a} Hz in a show of {b}: every frame is shown once"
        many = round(self.show / self.source) if self.how == "repeat" else round(self.source / self.show)
        plain = f"{a} Hz in a show of {b}: "
        if many > 1:
            plain += f"every frame is shown {many} times" if self.how == "repeat" else f"one frame in {many} is shown"
        if self.uneven_s is None:
            return plain
        often = float(self.uneven_s)
        every = f"{often:.1f} s" if often >= 1 else f"{often * 1000:.0f} ms"
        steps = f", steps {' '.join(map(str, self.pattern))}" if 0 < len(self.pattern) <= 8 else ""
        if many > 1:
            return f"{plain}, uneven every {every}{steps}"
        return f"{plain}a frame is {'repeated' if self.how == 'repeat' else 'dropped'} every {every}{steps}"


def cadence(source: float | Fraction, show: float | Fraction) -> Cadence:
    """How frames at ``source`` Hz are shown at ``show`` Hz, each show frame taking the newest source frame.

    Parameters
    ----------
    source, show : float or Fraction
        Hertz, 1 to 480; 59.94 means 60000/1001.

    Returns
    -------
    Cadence

    Examples
    --------
    >>> cadence(24, 60).pattern, cadence(25, 30).pattern
    ((3, 2), (2, 1, 1, 1, 1))
    >>> cadence(59.94, 60).words
    '59.94 Hz in a show of 60: a frame is repeated every 16.7 s'
    """
    a, b = exact_rate(source), exact_rate(show)
    together = Fraction(lcm(a.numerator * b.denominator, b.numerator * a.denominator), a.denominator * b.denominator)
    # Both rates divide `together`; the pattern begins again when both have whole frames: after 1 / gcd(a, b) seconds.
    period = together / (a * b)
    frames = a * period
    shown = b * period
    pattern: tuple[int, ...] = ()
    if frames <= 60:
        n, ratio = int(frames), b / a
        first = [
            -((-k * ratio.numerator) // ratio.denominator) for k in range(n + 1)
        ]  # the first show frame at or after each source frame
        pattern = tuple(first[k + 1] - first[k] for k in range(n))
    if a == b:
        return Cadence(a, b, "same", pattern, period, None)
    assert shown >= 1
    slow, fast = (a, b) if b > a else (b, a)
    slip = abs(fast - round(fast / slow) * slow)
    return Cadence(a, b, "repeat" if b > a else "drop", pattern, period, 1 / slip if slip else None)
