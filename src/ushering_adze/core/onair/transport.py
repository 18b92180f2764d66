"""Where within its file a clip is: its in and out points, and what becomes of it at its end."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.onair.playing import Playing
from ushering_adze.core.show import Clip

LAST = 0.001
"""Seconds before its end at which a clip stands that does not begin anew."""


class Place(NamedTuple):
    """Seconds within the file, how bright its picture is, and how long it has been at its end; None if it is not."""

    seconds: float
    light: float = 1.0
    past: float | None = None


def span_of(clip: Clip, length: float) -> float:
    """Seconds of one pass, from the in point to the out point; 0 if that is not known.

    Examples
    --------
    >>> span_of(Clip(id="c", name="C", path="c.mp4", begin=2.0), 10.0)
    8.0
    """
    end = length if clip.stop is None else min(clip.stop, length) if length > 0 else clip.stop
    return max(0.0, end - clip.begin)


def place_of(clip: Clip, at: Playing, length: float, now: float) -> Place:
    """Where a clip is.

    Parameters
    ----------
    clip : Clip
    at : Playing
        Its position counts from its in point.
    length : float
        Seconds of the file; 0 if that is not known.
    now : float
        Seconds of the stage's clock.

    Returns
    -------
    Place

    Examples
    --------
    >>> clip = Clip(id="c", name="C", path="c.mp4", begin=2.0, stop=6.0, at_end="fade", fade=1.0)
    >>> place_of(clip, Playing(3.5, looping=False), 10.0, 0.0)
    Place(seconds=5.5, light=0.5, past=None)
    """
    position, span = at.position(now), span_of(clip, length)
    if span <= 0:
        return Place(clip.begin + position)
    if at.looping:
        # The whole of a file is read on and on without a gap; a part of it is sought anew each time.
        whole = clip.begin == 0 and clip.stop is None
        return Place(position if whole else clip.begin + position % span)
    past = position - span if position >= span else None
    seconds = clip.begin + min(position, span - LAST)
    if clip.at_end == "black":
        return Place(seconds, 0.0 if past is not None else 1.0, past)
    if clip.at_end == "fade":
        left = max(0.0, span - position)
        return Place(seconds, min(1.0, left / clip.fade) if clip.fade > 0 else float(past is None), past)
    return Place(seconds, 1.0, past)
