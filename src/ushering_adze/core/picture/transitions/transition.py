"""What a kind of transition is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from ushering_adze.core.plane.pixels import Pixels

Parameters = Mapping[str, Any]
Shares = Callable[[float, Parameters], tuple[float, float]]
Draw = Callable[[Pixels, Pixels, float, Parameters], Pixels]


class Transition(NamedTuple):
    """One kind of transition, by one of two ways.

    Attributes
    ----------
    name : str
        In documents.
    words : str
        On the desk.
    shares : callable (progress, parameters) -> (before, after), optional
        For one that is a mix: the weight of either picture, 0 to 1, adding to 1.  Nothing has to be drawn of its own
        then.
    draw : callable (before, after, progress, parameters) -> picture, optional
        For any other: from two pictures of the layer's box, of the same size and premultiplied, a new one.  It may not
        write into them.  Parameters are those of its document; ``picture`` is that of their source, and ``each``,
        if it is there, does some work on every one of several things, on all cores.
    opaque : bool
        Whether of two pictures that are opaque it draws one that is.
    """

    name: str
    words: str
    shares: Shares | None = None
    draw: Draw | None = None
    opaque: bool = False
