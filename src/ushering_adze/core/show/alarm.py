"""What raises an alarm while a show runs, how long it must last, and how grave it is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Id, Model

Seconds = Annotated[float, Field(ge=0, le=3600, description="for which it must last")]
AlarmKind = Literal[
    "black",
    "flat",
    "frozen",
    "asked",
    "apart",
    "wrong size",
    "captions",
    "silent",
    "loud",
    "over",
    "phase",
    "loudness",
    "late",
    "dropping",
]
Grade = Literal["picture", "part"]


class AlarmRule(Model):
    """One kind of alarm: whether it is raised at all, for how long it must last, and from which value on.

    ``limit`` is, of *late* a share of frames, of *loud* LUFS, of *phase* a correlation, of *loudness* LU beside the
    mix's target; of others it says nothing.  ``of`` is the one surface, source, feed or mix that it is for, or a zone,
    for its surfaces; ``lot`` is a kind of surface or source, such as ``stream`` or ``clip``.  It is for all, if both
    are None.
    """

    kind: AlarmKind
    of: Id | None = None
    lot: Annotated[Id | None, Field(description="a kind of surface or source that it is for")] = None
    on: bool = True
    seconds: Seconds
    limit: float = 0.0
    grade: Grade = "part"


class Apart(Model):
    """A surface, often a stream, that should show what others show: an alarm when nothing of it is on any of them."""

    surface: Id
    others: tuple[Id, ...]


USUAL: tuple[AlarmRule, ...] = (
    AlarmRule(kind="black", seconds=5.0, grade="picture"),
    AlarmRule(kind="flat", seconds=15.0),
    AlarmRule(kind="frozen", seconds=10.0),
    AlarmRule(kind="late", on=False, seconds=5.0, limit=0.1),  # the top bar says so anyway
    AlarmRule(kind="dropping", seconds=2.0),
    AlarmRule(kind="silent", seconds=10.0),
    AlarmRule(kind="loud", seconds=1.0, limit=-8.0),
    AlarmRule(kind="over", seconds=0.0),
    AlarmRule(kind="phase", seconds=3.0, limit=-0.4),
    AlarmRule(kind="loudness", on=False, seconds=30.0, limit=3.0),
    AlarmRule(kind="wrong size", seconds=3.0),
    AlarmRule(kind="apart", seconds=5.0),
    AlarmRule(kind="asked", seconds=3.0, grade="picture"),
    AlarmRule(kind="captions", on=False, seconds=20.0),  # few clips have any: for those that must
)
"""What is used where a show says nothing else."""


class Alarms(Model):
    """The rules of a show: those it names in place of the usual ones; ``muted`` while it is rehearsed.

    ``calls``: while something grave is wrong that nobody knows of, who listens hears it, again and again.
    """

    rules: tuple[AlarmRule, ...] = ()
    apart: tuple[Apart, ...] = ()
    muted: bool = False
    calls: bool = False

    def rule(
        self, kind: AlarmKind, of: str | None = None, zones: Sequence[str] = (), lot: str | None = None
    ) -> AlarmRule:
        """The rule of a kind for one thing: its own if there is one, else that of the nearest zone that has one, of its
        lot, of all.

        Parameters
        ----------
        kind : str
        of : str, optional
            Id of the thing.
        zones : sequence of str, optional
            Ids of the zones that it is in, the nearest first.
        lot : str, optional
            Its kind.

        Examples
        --------
        >>> alarms = Alarms(rules=(AlarmRule(kind="black", of="relay", seconds=60),
        ...     AlarmRule(kind="black", lot="stream", seconds=30)))
        >>> [alarms.rule("black", id, (), "stream").seconds for id in ("relay", "other")], alarms.rule("black").seconds
        ([60.0, 30.0], 5.0)
        """
        order: list[tuple[str | None, str | None]] = [(of, None), *((zone, None) for zone in zones), (None, lot)]
        places = {place: n for n, place in reversed(list(enumerate([*order, (None, None)])))}
        mine = [r for r in (*self.rules, *USUAL) if r.kind == kind and (r.of, r.lot) in places]
        return min(mine, key=lambda r: places[r.of, r.lot])
