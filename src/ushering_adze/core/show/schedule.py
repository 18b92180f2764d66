"""The calendar of a show: events that begin and end by day and time, once or again and again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from typing import Annotated, Any

from pydantic import AfterValidator, Field, model_serializer, model_validator

from ushering_adze.core.document.model import Colour, Fault, Id, Model, Name
from ushering_adze.core.show.actions import Action


def moment_from(text: str) -> datetime:
    """A moment of an event on the clock of its place, without a time zone.

    Raises
    ------
    ValueError
        In one sentence.

    Examples
    --------
    >>> moment_from("2026-11-29T18:00").isoformat()
    '2026-11-29T18:00:00'
    """
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        found = None
    if found is None or found.tzinfo is not None or not 1970 <= found.year <= 2200:
        raise ValueError(f"{text[:40]} is no day and time from 1970 to 2200; write one like 2026-11-29T18:00")
    return found


def moment_words(at: datetime) -> str:
    """The same as documents have it."""
    return at.isoformat(timespec="seconds" if at.second else "minutes")


def _checked(text: str) -> str:
    return moment_words(moment_from(text))


Moment = Annotated[str, AfterValidator(_checked), Field(max_length=30, description="like 2026-11-29T18:00")]
Rule = Annotated[
    str,
    Field(max_length=500, pattern=r"^[A-Za-z0-9=;,:+\- ]*$", description="an RRULE of RFC 5545, such as FREQ=DAILY"),
]
TimeZone = Annotated[
    str, Field(pattern=r"^[A-Za-z0-9_+\-/]{1,60}$", description="a time zone by its name in the tz database")
]


class Event(Model):
    """Something that is to be on from a moment to another, or happens at one.

    ``begin`` and ``end`` are on the clock of its place; without an end it is a moment.  ``all_day`` ones last from
    midnight to midnight.  It comes again by its ``rule``, also at ``more`` moments, and not at those that are
    ``left_out``.  Where two overlap that touch the same surfaces, the one of the higher ``priority`` is on; of the
    same, the one that began later.
    """

    id: Id
    name: Name
    begin: Moment
    end: Moment | None = None
    all_day: bool = False
    time_zone: Annotated[TimeZone | None, Field(description="null: that of the show")] = None
    rule: Rule = ""
    more: tuple[Moment, ...] = ()
    left_out: tuple[Moment, ...] = ()
    priority: Annotated[int, Field(ge=0, le=9)] = 0
    begins: Annotated[tuple[Action, ...], Field(description="what is done when it begins")] = ()
    ends: Annotated[tuple[Action, ...], Field(description="what is done when it ends")] = ()
    off: bool = False
    note: Annotated[str, Field(max_length=400)] = ""
    colour: Colour | None = None

    @model_serializer(mode="wrap")
    def _what_it_has(self, handler: Any) -> Any:
        """What it has not is not in the document."""
        kept = {"id", "name", "begin"}
        fields = type(self).model_fields
        return {n: v for n, v in handler(self).items() if n in kept or v not in ([], (), fields[n].default)}

    @model_validator(mode="after")
    def _in_order(self) -> Event:
        if self.end is not None and moment_from(self.end) < moment_from(self.begin):
            raise ValueError("it ends before it begins; give a later end")
        return self

    @property
    def starts(self) -> datetime:
        """When it begins the first time, on the clock of its place."""
        at = moment_from(self.begin)
        return at.replace(hour=0, minute=0, second=0) if self.all_day else at

    @property
    def lasts(self) -> timedelta:
        """How long it lasts on the clock of its place; nothing if it is a moment."""
        if self.all_day:
            last = self.starts if self.end is None else moment_from(self.end)
            whole = last.replace(hour=0, minute=0, second=0) - self.starts
            return max(timedelta(days=1), whole)
        return timedelta() if self.end is None else moment_from(self.end) - self.starts


def schedule_faults(events: Iterable[Event]) -> Iterator[Fault]:
    """What is wrong with a calendar: ids used twice.

    Parameters
    ----------
    events : iterable of Event

    Yields
    ------
    Fault
    """
    met: set[str] = set()
    for n, event in enumerate(events):
        if event.id in met:
            yield Fault(f"schedule[{n}].id", f'id "{event.id}" is already used; give each event its own')
        met.add(event.id)
