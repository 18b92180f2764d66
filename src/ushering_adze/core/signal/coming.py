"""Signals that come in: in what state they are, and what they really are beside what was expected of them."""

from __future__ import annotations

from typing import Literal, NamedTuple

State = Literal["opening", "filling", "live", "frozen", "black", "stalled", "lost", "waiting"]
WORDS: dict[State, str] = {
    "opening": "being opened",
    "filling": "filling",
    "live": "live",
    "frozen": "frozen",
    "black": "black",
    "stalled": "stalled",
    "lost": "lost",
    "waiting": "waiting to try again",
}


THERE: frozenset[State] = frozenset(("live", "frozen", "black"))
"""States in which pictures come, whatever is on them."""


class Watched(NamedTuple):
    """How long what is wrong may last before it is told, in seconds."""

    missing: float = 0.15
    frozen: float = 2.0
    black: float = 2.0


class Coming(NamedTuple):
    """What a reader noted of a signal, in seconds of one clock.

    ``opened`` is when its first packets were there, ``came`` when its newest picture was, ``period`` the time from one
    to the next, ``changed`` when one last differed from the one before, ``lit`` when one was last not black, ``failed``
    why it is not read any more, ``again`` when it is opened again, and ``filling`` whether pictures are still gathered.
    """

    began: float
    opened: float | None = None
    came: float | None = None
    period: float = 0.04
    changed: float = 0.0
    lit: float = 0.0
    failed: str | None = None
    again: float | None = None
    filling: bool = False


class Known(NamedTuple):
    """A state, since when, and in how many seconds something is done about it, if that is known."""

    state: State
    since: float
    again_in: float | None = None


def state_of(coming: Coming, now: float, watched: Watched = Watched()) -> Known:
    """In what state a signal is.

    Parameters
    ----------
    coming : Coming
    now : float
        Seconds of the same clock.
    watched : Watched
        ``missing`` counts from when the first missing picture was due; the others from picture to picture.

    Returns
    -------
    Known

    Examples
    --------
    >>> at = Coming(began=0.0, opened=0.5, came=10.0, period=0.04, changed=10.0, lit=10.0)
    >>> state_of(at, 10.1).state, state_of(at, 10.2).state, state_of(at._replace(changed=7.9), 10.0).state
    ('live', 'stalled', 'frozen')
    """
    if coming.failed is not None:
        if coming.again is not None and now < coming.again:
            return Known("waiting", coming.began, coming.again - now)
        return Known("lost", coming.began)
    if coming.opened is None:
        return Known("opening", coming.began)
    if coming.came is None or coming.filling:
        return Known("filling", coming.opened)
    due = coming.came + coming.period
    if now >= due + watched.missing:
        return Known("stalled", due)
    if coming.came - coming.lit >= watched.black:
        return Known("black", coming.lit)
    if coming.came - coming.changed >= watched.frozen:
        return Known("frozen", coming.changed)
    return Known("live", coming.opened)


class Really(NamedTuple):
    """What a signal is, read from what came; 0 and empty where it is not known.

    ``rate`` is in pictures a second, ``kbit`` in thousands of bits a second.
    """

    width: int = 0
    height: int = 0
    rate: float = 0.0
    interlaced: bool = False
    encoding: str = ""
    bits: int = 0
    range: str = ""
    matrix: str = ""
    transfer: str = ""
    codec: str = ""
    kbit: float = 0.0
    sound: str = ""

    @property
    def words(self) -> str:
        """In one line.

        Examples
        --------
        >>> Really(1280, 720, 29.97, codec="h264", encoding="420", bits=8, kbit=2400.0).words
        '1280×720p 29.97 · h264 4:2:0 8 bit · 2.4 Mbit/s'
        """
        parts = []
        if self.width:
            rate = f" {self.rate:.4g}" if self.rate else ""
            parts.append(f"{self.width}×{self.height}{'i' if self.interlaced else 'p'}{rate}")
        coded = " ".join(
            filter(None, (self.codec, sampling_words(self.encoding), f"{self.bits} bit" if self.bits else ""))
        )
        if coded:
            parts.append(coded)
        colour = " ".join(filter(None, (self.matrix, self.transfer, self.range)))
        if colour:
            parts.append(colour)
        if self.kbit:
            parts.append(f"{self.kbit / 1000:.2g} Mbit/s" if self.kbit >= 1000 else f"{self.kbit:.0f} kbit/s")
        if self.sound:
            parts.append(self.sound)
        return " · ".join(parts)


def sampling_words(encoding: str) -> str:
    """``420`` as one writes it.

    Examples
    --------
    >>> sampling_words("420"), sampling_words("rgb")
    ('4:2:0', 'RGB')
    """
    return ":".join(encoding) if encoding.isdigit() else encoding.upper()


class Expected(NamedTuple):
    """What a signal was declared to be."""

    width: int
    height: int
    rate: float
    interlaced: bool
    encoding: str
    bits: int


def differences(expected: Expected, real: Really) -> tuple[str, ...]:
    """What comes that was not declared so, each with what it means; nothing is said of what is not known.

    Parameters
    ----------
    expected : Expected
    real : Really

    Returns
    -------
    tuple of str

    Examples
    --------
    >>> declared = Expected(1920, 1080, 50.0, False, "422", 10)
    >>> differences(declared, Really(1280, 720, 50.0, False, "420", 8))[0]
    '1280×720, not 1920×1080: it is scaled ×1.50 where it was fitted'
    """
    found = []
    if real.width and (real.width, real.height) != (expected.width, expected.height):
        if real.width * expected.height == real.height * expected.width:
            means = f"it is scaled ×{expected.width / real.width:.2f} where it was fitted"
        else:
            means = "its shape differs, so what was fitted to it is cut or has borders"
        found.append(f"{real.width}×{real.height}, not {expected.width}×{expected.height}: {means}")
    if real.interlaced != expected.interlaced and real.width:
        found.append(
            "interlaced, not progressive: it is brought to pictures, one field later"
            if real.interlaced
            else "progressive, not interlaced: nothing is lost by that"
        )
    pictures = expected.rate / 2 if expected.interlaced and real.rate < expected.rate * 0.75 else expected.rate
    if real.rate and abs(real.rate - pictures) > 0.01 * pictures:
        more = real.rate > pictures
        means = "pictures are passed over" if more else "pictures are shown more than once"
        found.append(f"{real.rate:.4g} pictures a second, not {pictures:.4g}: {means}")
    if real.encoding and real.encoding != expected.encoding:
        coarse = {"420": 0, "422": 1, "444": 2, "rgb": 3}
        less = coarse.get(real.encoding, 3) < coarse.get(expected.encoding, 3)
        means = "fine colour is softer" if less else "nothing is lost by that"
        found.append(f"{sampling_words(real.encoding)}, not {sampling_words(expected.encoding)}: {means}")
    if real.bits and real.bits != expected.bits:
        means = "soft shades may show steps" if real.bits < expected.bits else "it is brought to 8 bits by dither"
        found.append(f"{real.bits} bits, not {expected.bits}: {means}")
    return tuple(found)
