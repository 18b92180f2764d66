"""Values between which there is nothing: on the way from one to the other, what both would make is mixed."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

from ushering_adze.core.kinds.kind import Way

DEEPEST = 4
"""Values on their way within one another, at most; of an older one only what was nearer is left."""


class Mixed(NamedTuple):
    """On the way from one value to another: what is made with either is mixed by ``share``, 0 to 1."""

    before: Any
    after: Any
    share: float


def mixed(a: Any, b: Any, t: float, way: Way) -> Any:
    """On the way from ``a`` to ``b``, for 0 < t < 1.

    Parameters
    ----------
    a, b : object
    t : float
    way : Way
        Not looked at.
    """
    return a if a == b else Mixed(a, b, t)


def depth(value: Any) -> int:
    """How many mixes lie within one another."""
    return 1 + max(depth(value.before), depth(value.after)) if isinstance(value, Mixed) else 0


def plainest(value: Any) -> Any:
    """The one of its values that most of it is."""
    while isinstance(value, Mixed):
        value = value.after if value.share >= 0.5 else value.before
    return value


def rested(value: Any, moment: float) -> Any:
    """A value on its way as another way may begin with it.

    Parameters
    ----------
    value : object
    moment : float
        Not looked at.
    """
    if depth(value) < DEEPEST:
        return value
    return (
        Mixed(plainest(value.before), value.after, value.share) if depth(value.after) < DEEPEST - 1 else plainest(value)
    )


def values_in(value: Any) -> Iterator[Any]:
    """The values that are mixed."""
    if isinstance(value, Mixed):
        yield from values_in(value.before)
        yield from values_in(value.after)
    else:
        yield value


def to_json(value: Any, plain: Callable[[Any], Any]) -> Any:
    """A value, mixed or not, as plain JSON.

    Parameters
    ----------
    value : object
    plain : callable
        Makes JSON of one that is not mixed.
    """
    if isinstance(value, Mixed):
        return {"mixed": [to_json(value.before, plain), to_json(value.after, plain), value.share]}
    return plain(value)


def from_json(document: Any, plain: Callable[[Any], Any]) -> Any:
    """The way back.

    Parameters
    ----------
    document : object
        Decoded JSON.
    plain : callable
        Makes a value of the JSON of one that is not mixed.
    """
    if isinstance(document, dict) and "mixed" in document:
        before, after, share = document["mixed"]
        return Mixed(from_json(before, plain), from_json(after, plain), float(share))
    return plain(document)


def is_sane(value: Any, plain: Callable[[Any], bool]) -> bool:
    """Whether a value could be shown.

    Parameters
    ----------
    value : object
    plain : callable
        Whether one that is not mixed could be.
    """
    if isinstance(value, Mixed):
        return (
            0 <= value.share <= 1
            and depth(value) <= DEEPEST
            and is_sane(value.before, plain)
            and is_sane(value.after, plain)
        )
    return plain(value)
