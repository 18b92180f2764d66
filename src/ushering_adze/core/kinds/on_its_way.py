"""Pictures on their way: what a layer shows is a source, a transition between two pictures, or a still of a moment.

A transition that is interrupted becomes one side of the next one, as it was at that moment.  A chain of more than
`DEEPEST` keeps the oldest link as a still: what it looked like is known, and nothing more is needed of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from ushering_adze.core.kinds.kind import Way

DEEPEST = 3
"""Transitions within one another, at most."""


class Shown(NamedTuple):
    """A source, and how its picture fills the layer's box."""

    source: str | None
    fit: str


class Still(NamedTuple):
    """What a picture looked like at a moment, in seconds of the stage's clock; who paints keeps it under
    that moment.
    """

    of: Picture
    taken: float


class Turning(NamedTuple):
    """A transition on its way from one picture to another.  ``parameters`` are those of its kind."""

    kind: str
    before: Picture
    after: Picture
    progress: float
    parameters: tuple[tuple[str, Any], ...] = ()


Picture = Shown | Still | Turning


def turning(a: Picture, b: Picture, t: float, way: Way) -> Picture:
    """The picture at progress ``t``, 0 to 1, of a transition.

    Parameters
    ----------
    a : Picture
        The one.
    b : Picture
        The other.
    t : float
        Progress, 0 to 1.
    way : Way
        The transition, and its parameters.

    Returns
    -------
    Picture
    """
    return Turning(way[0], a, b, t, way[1])


def leaves(picture: Picture) -> Iterator[Shown]:
    """Every source in a picture, also those in its stills; a picture can have one several times."""
    match picture:
        case Shown():
            yield picture
        case Still(of=of):
            yield from leaves(of)
        case Turning(before=before, after=after):
            yield from leaves(before)
            yield from leaves(after)


def filled(picture: Picture, fit: str) -> Picture:
    """The same picture with every source of it filling its box so.

    Examples
    --------
    >>> filled(Turning("dissolve", Shown("a", "fill"), Shown("b", "fit"), 0.5), "stretch").after
    Shown(source='b', fit='stretch')
    """
    match picture:
        case Turning(before=before, after=after):
            return picture._replace(before=filled(before, fit), after=filled(after, fit))
        case Still(of=of):
            return picture._replace(of=filled(of, fit))
    return picture._replace(fit=fit)


def shares_in(picture: Picture) -> dict[Shown, float]:
    """Its sources, each with its share of the way: what there is to see of it, 0 to 1, as if all transitions were
    dissolves.

    Examples
    --------
    >>> shares_in(Turning("dissolve", Shown("a", "fill"), Shown("b", "fill"), 0.75))
    {Shown(source='a', fit='fill'): 0.25, Shown(source='b', fit='fill'): 0.75}
    """
    shares: dict[Shown, float] = {}

    def add(part: Picture, weight: float) -> None:
        match part:
            case Shown():
                shares[part] = shares.get(part, 0.0) + weight
            case Still(of=of):
                add(of, weight)
            case Turning(before=before, after=after, progress=progress):
                add(before, weight * (1 - progress))
                add(after, weight * progress)

    add(picture, 1.0)
    return shares


def by_share(picture: Picture) -> tuple[Shown, ...]:
    """Its sources, each once, that with the largest share first."""
    if isinstance(picture, Shown):
        return (picture,)
    shares = shares_in(picture)
    return tuple(sorted(shares, key=lambda s: -shares[s]))


def sources_in(picture: Picture) -> tuple[str, ...]:
    """Ids of its sources, each once, that with the largest share first."""
    return tuple(dict.fromkeys(s.source for s in by_share(picture) if s.source is not None))


def needed_by(picture: Picture) -> tuple[str, ...]:
    """Ids of the sources whose pictures its transitions go by, each once."""
    match picture:
        case Shown():
            return ()
        case Still(of=of):
            return needed_by(of)
        case Turning(before=before, after=after, parameters=parameters):
            own = tuple(v for name, v in parameters if name == "source" and v is not None)
            return tuple(dict.fromkeys((*own, *needed_by(before), *needed_by(after))))


def depth(picture: Picture) -> int:
    """How many transitions lie within one another."""
    return 1 + max(depth(picture.before), depth(picture.after)) if isinstance(picture, Turning) else 0


def rested(picture: Picture, moment: float) -> Picture:
    """A picture as another transition may begin with it: its oldest transition a still of that moment, if it has as
    many as there may be.

    Parameters
    ----------
    picture : Picture
        The picture.
    moment : float
        Seconds of the stage’s clock.

    Returns
    -------
    Picture

    Examples
    --------
    >>> a, b, c, d = (Shown(name, "fill") for name in "abcd")
    >>> three = Turning("dissolve", Turning("dissolve", Turning("dissolve", a, b, 0.5), c, 0.5), d, 0.5)
    >>> depth(rested(three, 4.0)), rested(three, 4.0).before.before.taken
    (2, 4.0)
    """
    while depth(picture) >= DEEPEST:
        picture = _oldest_still(picture, moment)
    return picture


def _oldest_still(picture: Picture, moment: float) -> Picture:
    assert isinstance(picture, Turning)
    if depth(picture) == 1:
        return Still(picture._replace(before=_plain(picture.before), after=_plain(picture.after)), moment)
    if depth(picture.before) >= depth(picture.after):
        return picture._replace(before=_oldest_still(picture.before, moment))
    return picture._replace(after=_oldest_still(picture.after, moment))


def _plain(picture: Picture) -> Picture:
    """A still within a still needs no past of its own, but for who has not seen it: the source it mostly showed."""
    return Still(by_share(picture)[0], picture.taken) if isinstance(picture, Still) else picture


def is_sane(picture: Picture) -> bool:
    """Whether it could be shown: every progress in 0..1, no more transitions within one another than there may be."""
    match picture:
        case Shown():
            return True
        case Still(of=of):
            return depth(of) <= 1 and is_sane(of)
        case Turning(before=before, after=after, progress=progress):
            return 0 <= progress <= 1 and depth(picture) <= DEEPEST and is_sane(before) and is_sane(after)


def to_json(picture: Picture, now: float) -> Any:
    """A picture as JSON; moments count from ``now``.

    Parameters
    ----------
    picture : Picture
        The picture.
    now : float
        Seconds of the clock that is meant.

    Returns
    -------
    Any
    """
    match picture:
        case Shown(source=source, fit=fit):
            return {"source": source, "fit": fit}
        case Still(of=of, taken=taken):
            return {"still": to_json(of, now), "taken": taken - now}
        case Turning(kind=kind, before=before, after=after, progress=progress, parameters=parameters):
            return {
                "turning": kind,
                "before": to_json(before, now),
                "after": to_json(after, now),
                "progress": progress,
                "parameters": dict(parameters),
            }


def from_json(document: Any, now: float) -> Picture:
    """A picture from its JSON.  Raises ValueError, TypeError or KeyError if it is none.

    Parameters
    ----------
    document : Any
        Decoded JSON.
    now : float
        Seconds of the clock that is meant.

    Returns
    -------
    Picture
    """
    if "still" in document:
        return Still(from_json(document["still"], now), float(document["taken"]) + now)
    if "turning" in document:
        return Turning(
            str(document["turning"]),
            from_json(document["before"], now),
            from_json(document["after"], now),
            float(document["progress"]),
            tuple((str(k), v) for k, v in document["parameters"].items()),
        )
    if document["fit"] not in ("fill", "fit", "stretch", "1:1"):
        raise ValueError("not a fit")
    return Shown(document["source"], document["fit"])
