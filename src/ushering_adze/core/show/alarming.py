"""Edits of what raises an alarm, and the words for it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ushering_adze.core.show.alarm import USUAL, AlarmKind, AlarmRule, Apart
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.zoning import zones_around

WORDS: Mapping[AlarmKind, tuple[str, str]] = {
    "black": ("Black", "nothing of a surface is brighter than black though a source is on it"),
    "flat": ("One colour", "all of a surface is one flat colour"),
    "frozen": ("Frozen", "a surface with a live source stands still"),
    "asked": ("Not what was asked", "a source that a surface should show was not painted on it"),
    "apart": ("Apart", "a surface shows nothing of what others show: name them below"),
    "wrong size": ("Wrong size or rate", "a signal is other than it is declared to be"),
    "captions": ("Captions missing", "a clip on air has no captions to be read"),
    "silent": ("Silent", "a source that is let into a mix has no sound"),
    "loud": ("Too loud", "momentary loudness is over the limit"),
    "over": ("Peak over", "a true peak is over what the mix may have"),
    "phase": ("Out of phase", "left and right are turned round against one another"),
    "loudness": ("Off target", "integrated loudness is further than the limit from the mix's target"),
    "late": ("Late frames", "more than this share of the frames is late"),
    "dropping": ("Feed drops", "a feed passes pictures over"),
}
"""A name for each kind of alarm, and what raises it."""
UNITS: Mapping[AlarmKind, str] = {"loud": "LUFS", "phase": "", "loudness": "LU", "late": "of 1"}
"""Units of those limits that there are."""
OF: Mapping[AlarmKind, str] = {
    **dict.fromkeys(("black", "flat", "frozen", "asked"), "surfaces"),
    **dict.fromkeys(("wrong size", "captions", "silent"), "sources"),
    **dict.fromkeys(("loud", "over", "phase", "loudness"), "mixes"),
    "dropping": "feeds",
}
"""What there can be a rule of its own for."""


LOTS: Mapping[str, Mapping[str, str]] = {
    "surfaces": {
        "led-wall": "LED walls",
        "monitor-wall": "walls of monitors",
        "monitor": "monitors",
        "projection": "projections",
        "stream": "streams",
    },
    "sources": {"clip": "clips", "input": "inputs", "playlist": "playlists", "parts": "sources in parts"},
}
"""Kinds of things that there can be a rule for, by what they are kinds of."""


def rule_for(show: Show, kind: AlarmKind, of: str | None) -> AlarmRule:
    """The rule of a kind of alarm for one thing of a show.

    Parameters
    ----------
    show : Show
    kind : str
    of : str, optional
        Id of a surface, source, feed or mix.

    Returns
    -------
    AlarmRule
        Its own, that of its zone, of its kind, or of all.
    """
    if of is None or all(r.of is None and r.lot is None for r in show.alarms.rules):
        return show.alarms.rule(kind, of)
    lots: Any = show.surfaces if OF.get(kind) == "surfaces" else show.sources if OF.get(kind) == "sources" else ()
    lot = next((thing.kind for thing in lots if thing.id == of), None)
    zones = zones_around(show, of) if OF.get(kind) == "surfaces" else ()
    return show.alarms.rule(kind, of, zones, lot)


def rules_of(show: Show) -> list[AlarmRule]:
    """Every kind's rule, and behind each those of kinds of things, of zones and of single things."""
    made = []
    for kind in WORDS:
        made.append(show.alarms.rule(kind))
        own = [r for r in show.alarms.rules if r.kind == kind and (r.of is not None or r.lot is not None)]
        made += sorted(own, key=lambda r: r.lot is None)
    return made


def with_rule(show: Show, kind: AlarmKind, of: str | None = None, lot: str | None = None, **fields: Any) -> Show:
    """The show with another rule for a kind of alarm, for one thing alone, or for a kind of things.

    Parameters
    ----------
    show : Show
    kind : str
    of : str, optional
        Id of a surface, zone, source, feed or mix.
    lot : str, optional
        A kind of surface or source.
    **fields
        Of `AlarmRule`; those not named stay as they are.

    Returns
    -------
    Show
    """
    now = next((r for r in show.alarms.rules if (r.kind, r.of, r.lot) == (kind, of, lot)), rule_for(show, kind, of))
    made = AlarmRule.model_validate({**now.model_dump(), **fields, "of": of, "lot": lot})
    rules = [r for r in show.alarms.rules if (r.kind, r.of, r.lot) != (kind, of, lot)]
    return with_alarms(show, rules=(*rules, made) if made not in USUAL else tuple(rules))


def without_rule(show: Show, kind: AlarmKind, of: str | None = None, lot: str | None = None) -> Show:
    """The show without a rule of its own: what is usual holds again."""
    return with_alarms(show, rules=tuple(r for r in show.alarms.rules if (r.kind, r.of, r.lot) != (kind, of, lot)))


def with_apart(show: Show, surface: str, others: Sequence[str]) -> Show:
    """The show in which a surface should show what others show; no longer, if none is named."""
    apart = tuple(a for a in show.alarms.apart if a.surface != surface)
    kept = tuple(dict.fromkeys(o for o in others if o != surface))
    return with_alarms(show, apart=(*apart, Apart(surface=surface, others=kept)) if kept else apart)


def with_alarms(show: Show, **fields: Any) -> Show:
    """The show with other alarms: fields of `Alarms` by name."""
    return show.model_copy(update={"alarms": show.alarms.model_copy(update=fields)})
