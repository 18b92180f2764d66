"""The calendar worked out: when events are on, which of them has its way, and what is done when that changes.

Sources: RFC 5545 (iCalendar), 3.3.5 for times that a change of the clock skips or repeats, 3.3.10 for rules.  An event
lasts as long on the clock of its place in every occurrence: what is to end at four in the morning ends at four, also in
the night in which the clock is changed.
"""

from __future__ import annotations

import re
import warnings
from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import NamedTuple
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import (
    Action,
    Arm,
    Black,
    Go,
    Hold,
    Keep,
    Lift,
    Override,
    Release,
    Route,
    StartList,
    StopList,
)
from ushering_adze.core.show.schedule import Event, moment_from
from ushering_adze.core.show.zoning import surfaces_in

NIGHT = 60.0
"""Seconds without a look at the calendar after which what was missed is told and not done."""
MOST = 20_000
"""Occurrences of one event that are looked at within one window."""
_FREQ = re.compile(r"\bFREQ=(\w+)", re.I)
_INTERVAL = re.compile(r"\bINTERVAL=(\d+)", re.I)
_UNTIL = re.compile(r"\bUNTIL=(\d{8})(T(\d{6})(Z?))?", re.I)


class Occurrence(NamedTuple):
    """An event from one moment to another, in seconds of the epoch; of no length if it is a moment."""

    event: str
    begin: float
    end: float

    @property
    def is_moment(self) -> bool:
        """Whether it only happens, and is never on."""
        return self.end <= self.begin


class _OverError(Exception):
    """There is nothing more within what is asked for."""


class RuleError(ValueError):
    """A rule or a time zone that cannot be read, in one sentence."""


@lru_cache(maxsize=64)
def zone_of(name: str) -> ZoneInfo:
    """A time zone by its name.

    Raises
    ------
    RuleError
        If there is none.
    """
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise RuleError(f"no time zone {name[:60]}; name one like Europe/Berlin or UTC") from None


def epoch_of(local: datetime, zone: ZoneInfo) -> float:
    """The seconds of the epoch of a moment on the clock of a place.

    A time that is skipped when the clock is put forward is taken with the offset before, one that comes twice is the
    first of the two (RFC 5545, 3.3.5).

    Examples
    --------
    >>> berlin = ZoneInfo("Europe/Berlin")
    >>> [datetime.fromtimestamp(epoch_of(datetime(2026, 3, 29, 2, 30), berlin), UTC).isoformat()]
    ['2026-03-29T01:30:00+00:00']
    """
    return local.replace(tzinfo=zone, fold=0).timestamp()


def local_of(at: float, zone: ZoneInfo) -> datetime:
    """A moment on the clock of a place, without its zone."""
    return datetime.fromtimestamp(at, zone).replace(tzinfo=None)


def _until_in(rule: str, zone: ZoneInfo) -> str:
    """A rule with its last moment on the clock of the place: those given in UTC are there, days are whole."""

    def local(found: re.Match[str]) -> str:
        day, clock, z = found[1], found[3], found[4]
        if clock is None:
            return f"UNTIL={day}T235959"
        if not z:
            return f"UNTIL={day}T{clock}"
        at = datetime.strptime(f"{day}{clock}", "%Y%m%d%H%M%S").replace(tzinfo=UTC)
        return at.astimezone(zone).strftime("UNTIL=%Y%m%dT%H%M%S")

    return _UNTIL.sub(local, rule)


def rule_fault(event: Event, zone: str = "UTC") -> str | None:
    """What is wrong with an event's rule or zone, in a sentence; None if nothing is."""
    try:
        _first(event, zone_of(event.time_zone or zone))
    except RuleError as error:
        return str(error)
    return None


def _first(event: Event, zone: ZoneInfo) -> None:
    if event.rule:
        next(iter(_starts(event, zone, event.starts, event.starts + timedelta(days=1))), None)


def _starts(event: Event, zone: ZoneInfo, since: datetime, until: datetime) -> Iterator[datetime]:
    """When an event begins, on the clock of its place, from a moment to another, by its rule.

    Raises
    ------
    RuleError
        If its rule cannot be read.
    """
    from dateutil.rrule import rrule, rrulestr

    class Bounded(rrule):  # type: ignore[misc]
        """Looks no further than it is asked to: the library alone goes on to the year 9999 for a rule that never comes.

        It asks for this once for each year that it goes through.
        """

        _years = 0

        @property
        def _byweekno(self) -> object:
            self._years += 1
            if self._years > until.year - first.year + 4:
                raise _OverError
            return self.__dict__["_byweekno"]

        @_byweekno.setter
        def _byweekno(self, value: object) -> None:
            self.__dict__["_byweekno"] = value

    first = event.starts
    words = _until_in(event.rule.strip().removeprefix("RRULE:"), zone)
    try:
        if not words.upper().startswith("FREQ") and "FREQ=" not in words.upper():
            raise ValueError("it has no FREQ")
        moved = _nearer(words, first, since)
        made = rrulestr(words, dtstart=moved)
        if not isinstance(made, rrule):
            raise ValueError("it is no single rule")
        last = getattr(made, "_until", None)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # a count with an end beside it: here the window's
            made = made.replace(until=until if last is None else min(last, until))
        made.__class__ = Bounded
        for n, at in enumerate(made):
            if n > MOST * 50:
                break
            if at >= since:
                yield at
    except _OverError:
        return
    except (ValueError, TypeError, KeyError, AttributeError, OverflowError, IndexError) as error:
        why = str(error).rstrip(".") or type(error).__name__
        raise RuleError(
            f"the rule of {event.name} cannot be read ({why}); write one like FREQ=WEEKLY;BYDAY=TU,WE"
        ) from None


def _nearer(rule: str, first: datetime, since: datetime) -> datetime:
    """A beginning of the same rule that lies nearer to what is asked for, where steps are of one length."""
    found, every = _FREQ.search(rule), _INTERVAL.search(rule)
    step = {"SECONDLY": 1, "MINUTELY": 60, "HOURLY": 3600, "DAILY": 86400, "WEEKLY": 7 * 86400}.get(
        found[1].upper() if found else "", 0
    )
    seconds = step * max(1, int(every[1]) if every else 1)
    if not step or "COUNT=" in rule.upper() or since <= first:
        return first
    steps = int((since - first).total_seconds() // seconds) - 1
    return first + timedelta(seconds=seconds * max(0, steps))


@lru_cache(maxsize=16384)
def occurrences(event: Event, zone: str, since: float, until: float) -> tuple[Occurrence, ...]:
    """When an event is on, or happens, within a window.

    Parameters
    ----------
    event : Event
    zone : str
        The show's time zone; an event may have its own.
    since, until : float
        The window, in seconds of the epoch; what reaches into it is in it, moments at ``since`` are not.

    Returns
    -------
    tuple of Occurrence
        In the order of their beginnings.

    Raises
    ------
    RuleError
        If its rule or zone cannot be read.

    Examples
    --------
    >>> loop = Event(id="loop", name="Loop", begin="2026-11-02T10:00", end="2026-11-02T18:00", rule="FREQ=DAILY")
    >>> week = epoch_of(datetime(2026, 11, 9), zone_of("UTC"))
    >>> len(occurrences(loop, "UTC", week, week + 7 * 86400))
    7
    """
    if event.off:
        return ()
    here, lasts = zone_of(event.time_zone or zone), event.lasts
    lo = local_of(max(0.0, since), here) - lasts - timedelta(hours=3)
    hi = local_of(until, here) + timedelta(hours=3)
    found = {event.starts} if lo <= event.starts <= hi else set()
    if event.rule:
        # the first moment is one of them only if the rule has it (or it says nothing of it), as RFC 5545 leaves open
        for n, at in enumerate(_starts(event, here, lo, hi)):
            found.add(at)
            if n >= MOST:
                break
    found |= {at for at in map(moment_from, event.more) if lo <= at <= hi}
    found -= {moment_from(at) for at in event.left_out}
    made = []
    for at in sorted(found):
        begin, end = epoch_of(at, here), epoch_of(at + lasts, here)
        end = max(end, begin) if lasts else begin
        if (end > since and begin < until) or (not lasts and since < begin <= until):
            made.append(Occurrence(event.id, begin, end))
    return tuple(made)


def reach(show: Show, event: Event) -> frozenset[str]:
    """The surfaces that an event touches: those of the lists it starts that claim some, those it routes to or
    overrides; all, if it does anything else.
    """
    every = frozenset(s.id for s in show.surfaces)
    found: set[str] = set()
    for action in (*event.begins, *event.ends):
        match action:
            case StartList(list=id) | StopList(list=id) | Go(list=id) | Arm(list=id):
                cues = next((y for y in show.lists if y.id == id), None)
                found |= set(surfaces_in(show, cues.claims)) if cues is not None and cues.claims else every
            case Route(surface=id) | Keep(surface=id) | Release(surface=id):
                found |= set(surfaces_in(show, (id,)))
            case Override(surfaces=ids) | Lift(surfaces=tuple(ids)):
                found |= set(surfaces_in(show, ids))
            case Black(outputs=tuple(ids)) | Hold(outputs=tuple(ids)):
                found |= {s for s in every if any(r.output in ids for r in show.feeds_of(s))}
            case _:
                return every
    return frozenset(found) or every


class Agenda(NamedTuple):
    """All that is in a calendar within a window, in the order of its beginnings; and what cannot be read, by event."""

    since: float
    until: float
    occurrences: tuple[Occurrence, ...]
    faults: dict[str, str]


def agenda(show: Show, zone: str, since: float, until: float) -> Agenda:
    """What is in a show's calendar within a window; what cannot be read is told, and the others go on.

    Parameters
    ----------
    show : Show
    zone : str
        Its time zone.
    since, until : float
        In seconds of the epoch.
    """
    found, faults = list[Occurrence](), dict[str, str]()
    for event in show.schedule:
        try:
            found += occurrences(event, show.time_zone or zone, since, until)
        except RuleError as error:
            faults[event.id] = str(error)
    return Agenda(since, until, tuple(sorted(found, key=lambda o: (o.begin, o.end, o.event))), faults)


def on_at(show: Show, of: Agenda, at: float) -> tuple[Occurrence, ...]:
    """Which occurrences have their way at a moment, the least of them first.

    Parameters
    ----------
    show : Show
    of : Agenda
        Whose window has that moment in it.
    at : float
        Seconds of the epoch.
    """
    events = {e.id: e for e in show.schedule}
    there = [o for o in of.occurrences if o.begin <= at < o.end and o.event in events]
    there.sort(key=lambda o: (events[o.event].priority, o.begin, o.event), reverse=True)
    taken, found = set[str](), []
    for one in there:
        mine = reach(show, events[one.event])
        if not mine & taken:
            found.append(one)
            taken |= mine
    return tuple(reversed(found))


class Turn(NamedTuple):
    """What a calendar makes happen at a moment: what is on then, what has ended and begun, what only happened, and all
    that is done for it, in order, with the event's id.
    """

    at: float
    on: tuple[Occurrence, ...]
    ended: tuple[Occurrence, ...] = ()
    begun: tuple[Occurrence, ...] = ()
    happened: tuple[Occurrence, ...] = ()
    does: tuple[tuple[str, Action], ...] = ()


def turned(show: Show, of: Agenda, before: Sequence[Occurrence], since: float, at: float) -> Turn:
    """What happens on the way to a moment.

    Parameters
    ----------
    show : Show
    of : Agenda
    before : sequence of Occurrence
        What was on; nothing after a start.
    since : float
        When the calendar was looked at last.
    at : float
        The moment, in seconds of the epoch.

    Returns
    -------
    Turn
        What has ended is ended first, then moments in their order, then what begins, that of the highest priority
        last.
    """
    events = {e.id: e for e in show.schedule}
    on = on_at(show, of, at)
    ended = tuple(o for o in before if o not in on and o.event in events)
    begun = tuple(o for o in on if o not in before)
    happened = tuple(o for o in of.occurrences if o.is_moment and since < o.begin <= at and o.event in events)
    does = [(o.event, a) for o in ended for a in events[o.event].ends]
    does += [(o.event, a) for o in (*happened, *begun) for a in events[o.event].begins]
    return Turn(at, on, ended, begun, happened, tuple(does))


def missed(of: Agenda, since: float, at: float) -> tuple[Occurrence, ...]:
    """What came and was over between two moments, the later of which is not long after a start."""
    return tuple(o for o in of.occurrences if since < o.begin and o.end <= at)


def next_change(of: Agenda, at: float) -> float:
    """The next moment at which anything begins, ends or happens; the end of the window if nothing does."""
    moments = (m for o in of.occurrences for m in (o.begin, o.end) if m > at)
    return min(moments, default=of.until)


def changes(of: Agenda) -> Iterator[float]:
    """Every moment of a window at which anything may change, in order."""
    yield from sorted({m for o in of.occurrences for m in (o.begin, o.end) if of.since <= m < of.until})


def names_of(show: Show, found: Iterable[Occurrence]) -> str:
    """What occurrences are called, in one line."""
    names = {e.id: e.name for e in show.schedule}
    return ", ".join(names.get(o.event, o.event) for o in found)
