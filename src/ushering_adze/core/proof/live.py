"""Alarms of a running show: judged from what is measured of what leaves, and of nothing else."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import ColourSource, PatternSource, Show, Source
from ushering_adze.core.show.alarm import AlarmKind, AlarmRule
from ushering_adze.core.show.alarming import rule_for
from ushering_adze.core.sound.metering import Measured

DARK, SAME = 8, 6
"""Codes up to which a picture is black, and by which the brightest and the darkest of each colour may differ for it to
be one flat colour.
"""
STOOD = 2
"""Difference in codes, at any pixel, up to which two small pictures are the same: a small thing that moves in a large
picture moves.
"""
CLEARS = 2.0
"""Seconds for which an alarm must be over to be gone."""
QUIET = -70.0
"""LUFS below which loudness means nothing."""


class SurfaceSeen(NamedTuple):
    """What a surface sends: its picture, small; ids of the sources that it was painted from; whether it is black by
    hand, or held; whether any of these sources is live; and those that it was asked to show, None while that changes.
    """

    picture: Pixels | None
    sources: tuple[str, ...] = ()
    by_hand: bool = False
    moves: bool = False
    asked: tuple[str, ...] | None = None


class SourceHeard(NamedTuple):
    """A source that is heard somewhere: how long it has been silent, in seconds."""

    silent: float


class Seen(NamedTuple):
    """All that is measured at a moment.

    ``late`` is the share of frames that were late of late; ``dropped`` counts pictures that feeds passed over, by feed;
    ``differs`` says how signals are other than declared; ``mixes`` are measured, with each one's target and the true
    peak that it may have; ``captions`` are those clips on air that should have captions, and whether any is to be read.
    """

    surfaces: Mapping[str, SurfaceSeen] = {}
    late: float = 0.0
    dropped: Mapping[str, int] = {}
    differs: Mapping[str, str] = {}
    heard: Mapping[str, SourceHeard] = {}
    mixes: Mapping[str, tuple[Measured, float, float]] = {}
    captions: Mapping[str, bool] = {}


class Watched(NamedTuple):
    """What is remembered from one look to the next: since when each alarm would be one, which are, the last small
    pictures, and what feeds had dropped.
    """

    since: Mapping[str, float] = {}
    raised: Mapping[str, str] = {}
    pictures: Mapping[str, Pixels] = {}
    dropped: Mapping[str, int] = {}
    held: Mapping[str, float] = {}
    """When each was seen last."""


def is_black(picture: Pixels) -> bool:
    """Whether nothing of a picture is brighter than black.

    Examples
    --------
    >>> is_black(np.zeros((2, 2, 4), np.uint8))
    True
    """
    return int(_most(picture).max(initial=0)) <= DARK


def _most(picture: Pixels) -> NDArray[np.uint8]:
    """The brightest of each colour; by whole rows first, which NumPy compares many bytes at a time."""
    h, w = picture.shape[:2]
    found: NDArray[np.uint8] = picture.reshape(h, 4 * w).max(0).reshape(w, 4).max(0)[:3]
    return found


def _least(picture: Pixels) -> NDArray[np.uint8]:
    h, w = picture.shape[:2]
    found: NDArray[np.uint8] = picture.reshape(h, 4 * w).min(0).reshape(w, 4).min(0)[:3]
    return found


def is_flat(picture: Pixels) -> bool:
    """Whether a picture is of one colour.

    Examples
    --------
    >>> is_flat(np.full((2, 2, 4), 90, np.uint8))
    True
    """
    return bool((_most(picture).astype(int) - _least(picture) <= SAME).all())


def is_same(a: Pixels, b: Pixels) -> bool:
    """Whether two small pictures are the same."""
    return a.shape == b.shape and cv2.norm(a, b, cv2.NORM_INF) <= STOOD


def fill_of(source: Source) -> str | None:
    """The one colour that a source is of by its nature; None if it is a picture.

    Examples
    --------
    >>> fill_of(ColourSource(id="night", name="Night", fill="#0E1230"))
    '#0E1230'
    """
    match source:
        case ColourSource(fill=fill):
            return fill
        case PatternSource(pattern="black"):
            return "#000000"
        case PatternSource(pattern="white"):
            return "#FFFFFF"
    return None


def _now(show: Show, seen: Seen, before: Watched, now: float) -> Iterator[tuple[AlarmKind, str, str]]:
    """Everything that would be an alarm if it lasts: its kind, what it is of, and in a sentence what and cure."""
    names, of = {s.id: s.name for s in show.surfaces}, {s.id: s for s in show.sources}
    sources = {s.id: s.name for s in show.sources} | {s.id: s.name for s in show.sound.inputs}
    for id, surface in seen.surfaces.items():
        missing = () if surface.asked is None else set(surface.asked) - set(surface.sources)
        if missing and not surface.by_hand:
            words = ", ".join(sorted(sources.get(m, m) for m in missing))
            yield "asked", id, f"{words} should be on it and is not; recall its preset once more, or look at {words}"
        if surface.picture is None or not surface.sources or surface.by_hand:
            continue
        first = sources.get(surface.sources[0], surface.sources[0])
        fills = [fill_of(of[id]) if id in of else None for id in surface.sources]
        if is_black(surface.picture):
            if all(fill is not None and max(rgb_of(fill)) <= DARK for fill in fills):
                continue  # as it should be
            yield "black", id, f"it is black though {first} is on it; look at {first}, or recall another preset"
        elif None in fills and is_flat(surface.picture):
            yield "flat", id, f"it is one flat colour though {first} is on it; look at {first}"
        last = before.pictures.get(id)
        if surface.moves and last is not None and is_same(last, surface.picture):
            yield "frozen", id, f"its picture stands still though {first} should move; look at {first}"
    rule = show.alarms.rule("late")
    if seen.late > rule.limit:
        yield "late", "frames", f"{seen.late:.0%} of the frames are late; show less at once, or lower the rate"
    for id, count in seen.dropped.items():
        if count > before.dropped.get(id, count):
            yield "dropping", id, "it passes pictures over; lower its size or its bit rate"
    for id, how in seen.differs.items():
        yield "wrong size", id, f"{how}; declare what it is, or set the sender"
    for id, heard in seen.heard.items():
        if heard.silent > 0:
            yield "silent", id, f"{sources.get(id, id)} is on, and silent; look at its sender, or mute it"
    for id, (measured, target, most) in seen.mixes.items():
        loud = measured.loudness
        if loud.momentary > rule_for(show, "loud", id).limit:
            yield "loud", id, f"it is at {loud.momentary:.0f} LUFS; turn it down"
        if measured.peak_lately > most + 0.5:
            yield "over", id, f"a true peak of {measured.peak_lately:.1f} dBTP is over its {most:g}; turn it down"
        if measured.correlation is not None and measured.correlation < rule_for(show, "phase", id).limit:
            yield "phase", id, "left and right are turned round against one another; look at the cables of its sources"
        off = loud.integrated - target
        if loud.integrated > QUIET and abs(off) > rule_for(show, "loudness", id).limit:
            yield "loudness", id, f"its loudness is {off:+.1f} LU off its target; set its level"
    for id, any_is in seen.captions.items():
        if not any_is:
            yield "captions", id, "it has no captions to be read; give its file a text track, or turn this alarm off"
    for pair in show.alarms.apart:
        here, others = seen.surfaces.get(pair.surface), [seen.surfaces.get(o) for o in pair.others]
        if here is None or not here.sources:
            continue
        there = {s for o in others if o is not None for s in o.sources}
        if there and not there & set(here.sources):
            names_of = ", ".join(names.get(o, o) for o in pair.others)
            yield "apart", pair.surface, f"it shows nothing of what {names_of} shows; look whether that is meant"


def _silent_for(rule: AlarmRule, seen: Seen, of: str) -> bool:
    """Silence is measured where sound is: its own count is longer than ours."""
    return seen.heard[of].silent >= rule.seconds


def alarms(show: Show, seen: Seen, before: Watched, now: float) -> Watched:
    """What is wrong by now, and what is remembered for the next look.

    Parameters
    ----------
    show : Show
        With its rules.
    seen : Seen
    before : Watched
        Of the last look; `Watched` () at the first.
    now : float
        Seconds of any clock.

    Returns
    -------
    Watched
        ``raised`` are sentences by key: the kind, a colon, and the id of what it is of.
    """
    since: dict[str, float] = {}
    raised: dict[str, str] = {}
    held: dict[str, float] = {}
    for kind, of, words in () if show.alarms.muted else _now(show, seen, before, now):
        rule = rule_for(show, kind, of)
        key = f"{kind}:{of}"
        if not rule.on:
            continue
        since[key], held[key] = before.since.get(key, now), now
        lasted = _silent_for(rule, seen, of) if kind == "silent" else now - since[key] >= rule.seconds
        if lasted:
            raised[key] = words
    for key, words in {} if show.alarms.muted else before.raised.items():
        if key not in raised and now - before.held.get(key, -1e9) < CLEARS:  # what comes and goes is one alarm
            raised[key], held[key] = words, before.held[key]
            since.setdefault(key, before.since.get(key, now))
    pictures = {id: s.picture for id, s in seen.surfaces.items() if s.picture is not None}
    kept = {id: p for id, p in before.pictures.items() if id in pictures and is_same(p, pictures[id])}
    return Watched(since, raised, {**pictures, **kept}, dict(seen.dropped), held)
