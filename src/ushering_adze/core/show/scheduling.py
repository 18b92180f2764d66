"""Edits of the calendar: events made, moved, sized, repeated; and how they are told."""

from __future__ import annotations

import re
from datetime import datetime, timedelta
from typing import Any

from pydantic import ValidationError

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.document.wording import shortened
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.schedule import Event, moment_from, moment_words
from ushering_adze.core.show.show import Show

WEEK = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
REPEATS = (
    ("", "once"),
    ("FREQ=DAILY", "every day"),
    ("FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "Monday to Friday"),
    ("FREQ=WEEKLY", "every week"),
    ("FREQ=WEEKLY;INTERVAL=2", "every other week"),
    ("FREQ=MONTHLY", "every month on this day"),
    ("FREQ=YEARLY", "every year"),
)
"""Rules that are chosen by words."""
_BYDAY = re.compile(r"BYDAY=([A-Z,]+)(?=;|$)")


def event_of(show: Show, id: str) -> Event:
    """An event by its id.

    Raises
    ------
    ShowError
        If there is none.
    """
    for event in show.schedule:
        if event.id == id:
            return event
    raise ShowError([Fault("calendar", f"no event {shortened(id)}; choose one of the calendar")])


def with_event(show: Show, event: Event) -> Show:
    """The show with an event as it is given, in place of the one with its id, or added."""
    known = any(e.id == event.id for e in show.schedule)
    events = tuple(event if e.id == event.id else e for e in show.schedule) if known else (*show.schedule, event)
    return show.model_copy(update={"schedule": events})


def without_event(show: Show, id: str) -> Show:
    """The show without an event."""
    return show.model_copy(update={"schedule": tuple(e for e in show.schedule if e.id != id)})


def with_new_event(show: Show, begin: datetime, lasts: timedelta, name: str = "Event") -> tuple[Show, str]:
    """The show with one more event, and its id."""
    id = new_id("event", {e.id for e in show.schedule})
    end = moment_words(begin + lasts) if lasts else None
    return with_event(show, Event(id=id, name=name, begin=moment_words(begin), end=end)), id


def changed(event: Event, **fields: Any) -> Event:
    """An event with other fields.

    Raises
    ------
    ShowError
        In one sentence.
    """
    try:
        return Event.model_validate({**event.model_dump(), **fields})
    except ValidationError as error:
        raise ShowError([Fault("calendar", sentence_of(error))]) from None


def typed_moment(text: str) -> str:
    """A moment as it is typed: a day and a time, with a blank or a T between.

    Raises
    ------
    ShowError
        If it is none.

    Examples
    --------
    >>> typed_moment("2026-11-05 9:30"), typed_moment("2026-11-05")
    ('2026-11-05T09:30', '2026-11-05T00:00')
    """
    found = re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})(?:[ T]+(\d{1,2}):(\d\d)(?::(\d\d))?)?", text.strip())
    try:
        if found is None:
            raise ValueError
        year, month, day, hour, minute, second = (int(part or 0) for part in found.groups())
        return moment_words(moment_from(datetime(year, month, day, hour, minute, second).isoformat()))
    except ValueError:
        why = f"{shortened(text.strip())} is no day and time; type one like 2026-11-05 19:30"
        raise ShowError([Fault("calendar", why)]) from None


def _days_turned(rule: str, days: int) -> str | None:
    """A rule for so many days later; None if that cannot be said of it."""
    if days == 0 or not rule or "BY" not in rule.upper():
        return rule
    found = _BYDAY.search(rule.upper())
    only_days = "FREQ=WEEKLY" in rule.upper() and rule.upper().count("BY") == 1 and found is not None
    if not only_days or found is None or not all(day in WEEK for day in found[1].split(",")):
        return None
    turned = sorted((WEEK.index(day) + days) % 7 for day in found[1].split(","))
    return rule[: found.start()] + "BYDAY=" + ",".join(WEEK[n] for n in turned) + rule[found.end() :]


def moved(
    show: Show, id: str, at: datetime, by: timedelta, longer: timedelta = timedelta(), alone: bool = False
) -> tuple[Show, str]:
    """The show with an event moved, and made longer; of one that comes again, all of it, or one occurrence alone.

    Parameters
    ----------
    show : Show
    id : str
        Of the event.
    at : datetime
        When the occurrence begins that is taken hold of, on the clock of its place.
    by, longer : timedelta
    alone : bool
        Only this occurrence: it becomes an event of its own.

    Returns
    -------
    Show
    str
        The id of what was moved.

    Raises
    ------
    ShowError
        If a rule cannot be moved by days, or nothing would be left of it.
    """
    event = event_of(show, id)
    lasts = event.lasts + longer
    if lasts < timedelta() or (event.lasts and not lasts):
        raise ShowError([Fault("calendar", f"nothing of {shortened(event.name)} would be left; remove it instead")])

    def lasting(begin: datetime, one: Event, **fields: Any) -> Event:
        end = moment_words(begin + lasts) if lasts else None
        return changed(one, begin=moment_words(begin), end=end, **fields)

    if alone and (event.rule or event.more):
        left = changed(event, left_out=(*event.left_out, moment_words(at)))
        show, made = with_new_event(with_event(show, left), at + by, lasts, event.name)
        one = lasting(at + by, event, id=made, rule="", more=(), left_out=())
        return with_event(show, one), made
    days = ((event.starts + by).date() - event.starts.date()).days
    rule = _days_turned(event.rule, days)
    if rule is None:
        why = f"the rule of {shortened(event.name)} names its days; move one alone with Shift, or change the rule"
        raise ShowError([Fault("calendar", why)])
    others = {
        field: tuple(moment_words(moment_from(m) + by) for m in getattr(event, field)) for field in ("more", "left_out")
    }
    return with_event(show, lasting(event.starts + by, event, rule=rule, **others)), id


def left_out(show: Show, id: str, at: datetime) -> Show:
    """The show with one occurrence of an event left out; without the event if that was all of it."""
    event = event_of(show, id)
    if not event.rule and not event.more:
        return without_event(show, id)
    return with_event(show, changed(event, left_out=(*event.left_out, moment_words(at))))


def repeat_words(rule: str) -> str:
    """How often an event comes, in words, as far as there are any.

    Examples
    --------
    >>> repeat_words("FREQ=WEEKLY;INTERVAL=2"), repeat_words("FREQ=MONTHLY;BYDAY=1MO")
    ('every other week', 'FREQ=MONTHLY;BYDAY=1MO')
    """
    return next((words for known, words in REPEATS if known == rule.upper()), rule)
