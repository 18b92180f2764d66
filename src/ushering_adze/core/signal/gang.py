"""Gangs: several connectors that carry one raster between them, and cards whose connectors share a capacity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import NamedTuple

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.signal.timing import SignalError, checked_size


class Part(NamedTuple):
    """What one connector of a gang carries: its name, and its rectangle of the raster."""

    connector: str
    at: Rect


def shares(length: int, parts: int) -> list[int]:
    """A length in whole parts that differ by one at most, the larger ones first.

    Parameters
    ----------
    length : int
        In pixels.
    parts : int
        How many.

    Returns
    -------
    list[int]

    Examples
    --------
    >>> shares(3840, 2), shares(1921, 2), shares(10, 4)
    ([1920, 1920], [961, 960], [3, 3, 2, 2])
    """
    each, more = divmod(length, parts)
    return [each + (k < more) for k in range(parts)]


def gang_parts(width: int, height: int, columns: int, rows: int, connectors: Sequence[str]) -> list[Part]:
    """Divide a raster among the connectors of a gang, row by row from the top left.

    Parameters
    ----------
    width, height : int
        The whole raster.
    columns, rows : int
        The gang's grid.
    connectors : sequence of str
        ``columns × rows`` different names, in the order in which they take their parts.

    Returns
    -------
    list of Part
        They cover the raster without gap or overlap.  An odd width gives the first column the pixel more.

    Raises
    ------
    SignalError

    Examples
    --------
    >>> [tuple(p.at) for p in gang_parts(3840, 2160, 2, 1, ("1", "2"))]
    [(0, 0, 1920, 2160), (1920, 0, 1920, 2160)]
    """
    checked_size(width, height)
    if columns < 1 or rows < 1 or columns > width or rows > height:
        raise SignalError(
            f"a gang of {columns} × {rows} does not divide {width}×{height}; use at least 1 and at most one part "
            "a pixel"
        )
    if len(connectors) != columns * rows:
        raise SignalError(
            f"a gang of {columns} × {rows} needs {columns * rows} connectors, not {len(connectors)}; name one for "
            "each part"
        )
    if len(set(connectors)) != len(connectors):
        twice = next(c for c in connectors if list(connectors).count(c) > 1)
        raise SignalError(f'connector "{twice}" is in the gang twice; give each part its own')
    parts, y = [], 0
    names = iter(connectors)
    for h in shares(height, rows):
        x = 0
        for w in shares(width, columns):
            parts.append(Part(next(names), Rect(x, y, w, h)))
            x += w
        y += h
    return parts


class CardLoad(NamedTuple):
    """What a card's connectors take together: pixel clocks in MHz, and connectors to switch off, last first, so that it
    fits.
    """

    used_mhz: Fraction
    capacity_mhz: Fraction
    switch_off: tuple[str, ...]

    @property
    def fits(self) -> bool:
        """Whether the card carries all its connectors at once."""
        return self.used_mhz <= self.capacity_mhz


def card_load(capacity_mhz: float | Fraction, clocks_mhz: Mapping[str, Fraction]) -> CardLoad:
    """Whether connectors that share a card's capacity can all be used, and which must be switched off if not.

    The largest signals are kept, then those that come first on the card.

    Parameters
    ----------
    capacity_mhz : float or Fraction
        Pixel clock that the card carries in all.
    clocks_mhz : mapping
        Pixel clock of each connector in use, in the card's order.

    Examples
    --------
    >>> four = {"1": Fraction(594), "2": Fraction(297, 2), "3": Fraction(297, 2), "4": Fraction(297, 2)}
    >>> card_load(600, four).switch_off
    ('4', '3', '2')
    """
    capacity = Fraction(str(capacity_mhz)) if not isinstance(capacity_mhz, Fraction) else capacity_mhz
    used = sum(clocks_mhz.values(), Fraction(0))
    if used <= capacity:
        return CardLoad(used, capacity, ())
    order = list(clocks_mhz)
    left, off = capacity, []
    for name in sorted(order, key=lambda n: (-clocks_mhz[n], order.index(n))):
        if clocks_mhz[name] <= left:
            left -= clocks_mhz[name]
        else:
            off.append(name)
    return CardLoad(used, capacity, tuple(sorted(off, key=order.index, reverse=True)))
