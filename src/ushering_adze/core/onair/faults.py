"""Faults of the running show as values: what is wrong, where, since when, how grave it is, how it is cured, and whether
somebody knows.
"""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass, replace
from typing import Literal, cast

from ushering_adze.core.show import Show
from ushering_adze.core.show.alarm import USUAL, AlarmKind
from ushering_adze.core.show.alarming import rule_for

Grave = Literal["show", "picture", "part"]
"""The whole show stands; pictures are missing, or do not arrive; something is missing that is not on air, or a part of
a picture is.
"""
On = Literal["frames", "source", "output", "canvas", "layer", "feed", "surface", "mix", "sound"]
_ORDER = {"show": 0, "picture": 1, "part": 2}


@dataclass(frozen=True)
class FaultNow:
    """One thing that is wrong now.

    ``key`` names it as long as it lasts; ``on`` says what it is of, and ``name`` that in words; ``since`` is the moment
    at which it was first seen, in seconds of the clock that was handed in.
    """

    key: str
    on: On
    name: str
    what: str
    cure: str
    grave: Grave
    since: float
    acknowledged: bool = False

    @property
    def words(self) -> str:
        """What and cure in one sentence."""
        return f"{self.what}; {self.cure}" if self.cure else self.what


OF_THE_SHOW: Mapping[str, tuple[str, Grave]] = {
    "frames": ("Frames", "show"),
    "cue lists": ("Cue lists", "picture"),
    "patterns": ("Patterns", "part"),
}
"""What is of the show as a whole: its name, and how grave it is."""


def _placed(show: Show, key: str, on_air: Set[str]) -> tuple[On, str, Grave]:
    """What a fault is of, that in words, and how grave it is."""
    if key in OF_THE_SHOW:
        return "frames", *OF_THE_SHOW[key]
    for source in show.sources:
        if source.id == key:
            return "source", source.name, "picture" if key in on_air else "part"
    for output in show.outputs:
        if output.id == key:
            return "output", output.name, "picture"
    for feed in show.feeds:
        if feed.id == key:
            return "feed", feed.name, "picture"
    kind, _, of = key.partition(":")
    if of:
        return _raised(show, kind, of)
    for canvas in show.canvases:
        if canvas.id == key:
            return "canvas", canvas.name, "picture"
        for layer in canvas.layers:
            if f"{canvas.id}/{layer.id}" == key:
                return "layer", layer.name, "part"
    return "layer", key, "part"


OF_ALARMS: Mapping[str, tuple[On, ...]] = {
    "dropping": ("feed",),
    "silent": ("source", "sound"),
    "wrong size": ("source",),
    "captions": ("source",),
    **dict.fromkeys(("loud", "over", "phase", "loudness"), ("mix",)),
    **dict.fromkeys(("black", "flat", "frozen", "apart", "asked"), ("surface",)),
}
"""What alarms of a kind are of: the same id may be a surface's and a mix's."""


def _raised(show: Show, kind: str, of: str) -> tuple[On, str, Grave]:
    """The same of an alarm, or of what is wrong with sound: its key is a kind and an id."""
    if kind == "sound":
        return "sound", of, "picture"
    known = any(r.kind == kind for r in USUAL)
    grade: Grave = rule_for(show, cast(AlarmKind, kind), of).grade if known else "part"
    lots: tuple[tuple[On, dict[str, str]], ...] = (
        ("surface", {s.id: s.name for s in show.surfaces}),
        ("source", {s.id: s.name for s in show.sources}),
        ("feed", {f.id: f.name for f in show.feeds}),
        ("mix", {m.id: m.name for m in show.sound.mixes}),
        ("sound", {s.id: s.name for s in show.sound.inputs}),
    )
    meant = OF_ALARMS.get(kind, ("surface", "source", "feed", "mix", "sound"))
    for on, names in lots:
        if on in meant and of in names:
            return on, names[of], grade
    return "frames", "Frames", grade


def faults_now(
    show: Show, before: Mapping[str, FaultNow], sentences: Mapping[str, str], on_air: Set[str], now: float
) -> dict[str, FaultNow]:
    """The faults there are, the gravest first, then the oldest.

    Parameters
    ----------
    show : Show
    before : mapping
        Those there were, by key; what lasts keeps its moment, and that somebody knows of it.
    sentences : mapping
        What is wrong, with the cure after a semicolon, by the id of what it is of; layers are ``canvas/layer``.
    on_air : set of str
        Sources on air.
    now : float
        Seconds of any clock.

    Returns
    -------
    dict
        By key.

    Examples
    --------
    >>> faults = faults_now(Show(name="S"), {}, {"frames": "they cannot be made; undo the last edit"}, set(), 7.0)
    >>> faults["frames"].what, faults["frames"].cure, faults["frames"].grave
    ('they cannot be made', 'undo the last edit', 'show')
    """
    found: dict[str, FaultNow] = {}
    for key, words in sentences.items():
        what, _, cure = words.rpartition("; ")
        what, cure = (what, cure) if what else (words, "")
        on, name, grave = _placed(show, key, on_air)
        old = before.get(key)
        found[key] = (
            FaultNow(key, on, name, what, cure, grave, now)
            if old is None
            else (replace(old, on=on, name=name, what=what, cure=cure, grave=grave))
        )
    return dict(sorted(found.items(), key=lambda entry: (_ORDER[entry[1].grave], entry[1].since)))


def acknowledged(faults: Mapping[str, FaultNow], key: str | None = None) -> dict[str, FaultNow]:
    """The same faults, one of them, or all if none is named, known to somebody; a fault that comes again is new.

    Parameters
    ----------
    faults : Mapping[str, FaultNow]
        What is wrong.
    key : str | None, optional
        Of the fault; all if not given.

    Returns
    -------
    dict[str, FaultNow]
    """
    return {k: replace(f, acknowledged=True) if key in (None, k) else f for k, f in faults.items()}
