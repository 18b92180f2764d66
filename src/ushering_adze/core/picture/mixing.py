"""What there is to paint of a picture on its way: sources, stills and transitions, each with its weight."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ushering_adze.core.kinds.on_its_way import Picture, Turning
from ushering_adze.core.picture.transitions import TRANSITIONS


class Share(NamedTuple):
    """A part of a mix: a source, a still, or a transition that has to be drawn; and its weight, 0 to 1."""

    picture: Picture
    weight: float


def mix_of(picture: Picture) -> tuple[Share, ...]:
    """A picture as a mix: transitions that are mixes are opened up, what is in it twice is added.

    Parameters
    ----------
    picture : Picture

    Returns
    -------
    tuple of Share
        Weights add to 1; what comes first in time is first.

    References
    ----------
    T. Porter and T. Duff, "Compositing digital images" (1984), section 4.4: the *plus* operator of dissolved pictures
    (from memory).

    Examples
    --------
    >>> from ushering_adze.core.kinds.on_its_way import Shown
    >>> a, b = Shown("a", "fill"), Shown("b", "fill")
    >>> [s.weight for s in mix_of(Turning("dissolve", Turning("dissolve", a, b, 0.5), a, 0.5))]
    [0.75, 0.25]
    """
    shares: dict[Picture, float] = {}

    def add(part: Picture, weight: float) -> None:
        transition = TRANSITIONS.get(part.kind, TRANSITIONS["dissolve"]) if isinstance(part, Turning) else None
        if isinstance(part, Turning) and transition is not None and transition.shares is not None:
            before, after = transition.shares(part.progress, dict(part.parameters))
            add(part.before, weight * before)
            add(part.after, weight * after)
        else:
            shares[part] = shares.get(part, 0.0) + weight

    add(picture, 1.0)
    return tuple(Share(part, weight) for part, weight in shares.items() if weight > 1e-6)


def noticeable(mix: Sequence[Share]) -> tuple[Share, ...]:
    """A mix without the smallest shares, as many as can be left out without any code being changed by half; the largest
    gets theirs.

    A dissolve begins and ends with such shares: to resample and mix in pictures of which nothing can be seen only takes
    time.

    Parameters
    ----------
    mix : sequence of Share

    Examples
    --------
    >>> from ushering_adze.core.kinds.on_its_way import Shown
    >>> [s.weight for s in noticeable([Share(Shown("slides", "fill"), 0.9985), Share(Shown("orrery", "fill"), 0.0015)])]
    [1.0]
    """
    left_out: list[Share] = []
    for share in sorted(mix, key=lambda s: s.weight)[:-1]:
        if (sum(s.weight for s in left_out) + share.weight) * 255 >= 0.5:
            break
        left_out.append(share)
    if not left_out:
        return tuple(mix)
    largest = max(mix, key=lambda s: s.weight)
    given = largest._replace(weight=largest.weight + sum(s.weight for s in left_out))
    return tuple(given if s is largest else s for s in mix if s not in left_out)
