"""Luminance of what surfaces show, from what is known of their displays."""

from __future__ import annotations

from ushering_adze.core.displays.projection import projection_facts
from ushering_adze.core.show import Projection, Show, Surface

SHARES = (0.2126, 0.7152, 0.0722)
"""Of red, green and blue light in white (ITU-R BT.709-6, table 3)."""


def white_of(surface: Surface) -> float | None:
    """Luminance of a surface's white in cd/m²; None if nothing is known of it.

    Parameters
    ----------
    surface : Surface
        An LED wall or monitors say it themselves, of a projection it is worked out from its lumens, gain and size.
    """
    found = projection_facts(surface).nits if isinstance(surface, Projection) else getattr(surface, "nits", 0.0)
    return found if found > 0 else None


def luminance_of(colour: tuple[int, int, int], white: float, gamma: float) -> float:
    """Luminance of a colour of a display, without the room's light.

    Parameters
    ----------
    colour : tuple of int
        Codes of red, green and blue, 0 to 255.
    white : float
        Luminance of white, in cd/m².
    gamma : float
        How its output turns codes into light.

    Returns
    -------
    float
        In cd/m².

    References
    ----------
    ITU-R BT.709-6, table 3: shares of the primaries in white.

    Examples
    --------
    >>> luminance_of((255, 255, 255), 800.0, 2.2), round(luminance_of((0, 128, 0), 800.0, 2.2), 1)
    (800.0, 125.6)
    """
    shares: list[float] = [share * (code / 255) ** gamma for share, code in zip(SHARES, colour, strict=True)]
    return white * sum(shares)


def nits_of(show: Show, surface: str, colour: tuple[int, int, int]) -> float | None:
    """Luminance of a colour where a surface shows it; None if nothing is known of its light.

    Parameters
    ----------
    show : Show
    surface : str
        Its id.
    colour : tuple of int
        Codes of red, green and blue.
    """
    white = white_of(show.surface(surface))
    feeds = show.feeds_of(surface)
    return (
        None if white is None or not feeds else luminance_of(colour, white, show.output(feeds[0].output).picture.gamma)
    )
