"""Calendars as iCalendar files (RFC 5545): taken in, and given out with what our events do beside it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from functools import cache
from typing import Any, NamedTuple

from pydantic import TypeAdapter, ValidationError

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.document.wording import shortened
from ushering_adze.core.onair.calendar import rule_fault, zone_of
from ushering_adze.core.show.actions import Action, Recall, StartList, StopList
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.schedule import Event, moment_from, moment_words
from ushering_adze.core.show.show import Show

MOST_EVENTS = 5000
"""Events of one file that are taken in."""
BEGINS, ENDS = "X-USHERING-ADZE-BEGINS", "X-USHERING-ADZE-ENDS"


@cache
def _reader() -> TypeAdapter[tuple[Action, ...]]:
    """Reads and writes actions; made when the first is met."""
    return TypeAdapter(tuple[Action, ...])


class TakenIn(NamedTuple):
    """Events of a file, and what of it could not be taken in, in sentences."""

    events: tuple[Event, ...]
    faults: tuple[str, ...]


def _moment(value: date | datetime, zone: str | None) -> str:
    """A moment on the clock of the event's place."""
    if not isinstance(value, datetime):
        return moment_words(datetime(value.year, value.month, value.day))
    if value.tzinfo is not None and zone is not None:
        value = value.astimezone(zone_of(zone))
    return moment_words(value.replace(tzinfo=None))


def _zone(value: date | datetime) -> str | None:
    """The time zone of a moment by its name; None if it has none."""
    if not isinstance(value, datetime) or value.tzinfo is None:
        return None
    key = getattr(value.tzinfo, "key", None)
    found = "UTC" if value.utcoffset() == timedelta(0) and key is None else str(key or value.tzinfo)
    zone_of(found)
    return found


def _each(value: Any) -> list[Any]:
    return [] if value is None else value if isinstance(value, list) else [value]


def _moments(value: Any, zone: str | None) -> tuple[str, ...]:
    return tuple(_moment(at.dt, zone) for part in _each(value) for at in part.dts if not isinstance(at.dt, tuple))


def _actions(value: Any) -> tuple[Action, ...]:
    return () if value is None else _reader().validate_json(str(value))


def _meant(name: str, show: Show) -> tuple[tuple[Action, ...], tuple[Action, ...]]:
    """What an event that says nothing of it does, by its name: a list runs, a preset is recalled."""
    wanted = name.strip().lower()
    for cues in show.lists:
        if wanted == cues.name.lower():
            return (StartList(list=cues.id),), (StopList(list=cues.id),)
    for preset in show.presets:
        if wanted in (preset.name.lower(), str(preset.number)):
            return (Recall(preset=preset.number),), ()
    return (), ()


def _event(found: Any, id: str, show: Show) -> Event:
    """One VEVENT."""
    name = str(found.get("SUMMARY", "")).strip()[:80] or "Event"
    if found.get("DTSTART") is None:
        raise ValueError("it has no DTSTART")
    begin = found["DTSTART"].dt
    zone = _zone(begin)
    end = found["DTEND"].dt if found.get("DTEND") is not None else None
    if end is None and found.get("DURATION") is not None:
        end = begin + found["DURATION"].dt
    rules = _each(found.get("RRULE"))
    if len(rules) > 1:
        raise ValueError("it has several rules; make an event of each")
    begins, ends = _actions(found.get(BEGINS)), _actions(found.get(ENDS))
    if found.get(BEGINS) is None and found.get(ENDS) is None:
        begins, ends = _meant(name, show)
    priority = int(found.get("PRIORITY", 0) or 0)
    event = Event(
        id=id,
        name=name,
        begin=_moment(begin, zone),
        end=None if end is None else _moment(end, zone),
        all_day=not isinstance(begin, datetime),
        time_zone=zone,
        rule=rules[0].to_ical().decode() if rules else "",
        more=_moments(found.get("RDATE"), zone),
        left_out=_moments(found.get("EXDATE"), zone),
        priority=0 if not priority else 10 - min(9, max(1, priority)),  # 1 is the highest there, 9 is here
        begins=begins,
        ends=ends,
        off=str(found.get("STATUS", "")).upper() == "CANCELLED",
        note=str(found.get("DESCRIPTION", ""))[:400],
    )
    why = rule_fault(event)
    if why is not None:
        raise ValueError(why)
    return event


def events_from(text: str, show: Show) -> TakenIn:
    """The events of an iCalendar file.

    One that says nothing of what it does runs the list, or recalls the preset, that it is called by.  An occurrence
    that was moved becomes an event of its own.

    Parameters
    ----------
    text : str
        All of the file.
    show : Show
        Whose ids the new ones leave alone.

    Returns
    -------
    TakenIn
        What cannot be read is left out, and told.

    Raises
    ------
    ShowError
        If it is no calendar at all, or too large.
    """
    from icalendar import Calendar

    count = text.upper().count("BEGIN:VEVENT")
    if count > MOST_EVENTS:
        why = f"this calendar has {count} events, and {MOST_EVENTS} are taken in at most; export a part of it"
        raise ShowError([Fault("calendar", why)])
    try:
        calendars = Calendar.from_ical(text, multiple=True)
    except (ValueError, IndexError, KeyError) as error:
        first = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise ShowError(
            [Fault("calendar", f"this is no iCalendar file ({shortened(first, 80)}); export one anew")]
        ) from None
    taken = [e.id for e in show.schedule]
    events, faults, by_uid, moved = list[Event](), list[str](), dict[str, int](), list[tuple[str, Any]]()
    for calendar in calendars:
        for found in calendar.walk("VEVENT"):
            uid = str(found.get("UID", "")) or "event"
            if found.get("RECURRENCE-ID") is not None:
                moved.append((uid, found))
                continue
            try:
                event = _event(found, new_id(uid, taken), show)
            except (ValueError, TypeError, KeyError, AttributeError, OverflowError) as error:
                faults.append(_left_out(found, error))
                continue
            taken.append(event.id)
            by_uid[uid] = len(events)
            events.append(event)
    for uid, found in moved:
        try:
            master = events[by_uid[uid]] if uid in by_uid else None
            at = _moment(found["RECURRENCE-ID"].dt, None if master is None else master.time_zone)
            one = _event(found, new_id(f"{uid}-moved", taken), show)
        except (ValueError, TypeError, KeyError, AttributeError, OverflowError) as error:
            faults.append(_left_out(found, error))
            continue
        if master is not None:
            events[by_uid[uid]] = master.model_copy(update={"left_out": (*master.left_out, at)})
        if not one.off:
            taken.append(one.id)
            events.append(one.model_copy(update={"rule": ""}))
    if not events and not faults:
        raise ShowError([Fault("calendar", "there is no event in this file; export one that has some")])
    return TakenIn(tuple(events), tuple(faults))


def _left_out(found: Any, error: Exception) -> str:
    name = shortened(str(found.get("SUMMARY", "an event")).strip() or "an event")
    why = sentence_of(error) if isinstance(error, ValidationError) else str(error) or type(error).__name__
    return f"{name} was left out: {why}"


def as_ical(events: Sequence[Event], name: str, zone: str, stamp: datetime) -> str:
    """Events as an iCalendar file, with what they do in properties of our own.

    Parameters
    ----------
    events : sequence of Event
    name : str
        Of the calendar.
    zone : str
        The show's time zone.
    stamp : datetime
        When this is written, in UTC.
    """
    from icalendar import Calendar, vRecur
    from icalendar import Event as VEvent

    calendar = Calendar()
    calendar.add("PRODID", "-//Ushering Adze//EN")
    calendar.add("VERSION", "2.0")
    calendar.add("X-WR-CALNAME", name)
    for event in events:
        made, here = VEvent(), zone_of(event.time_zone or zone)

        def at(local: datetime, all_day: bool = event.all_day, here: Any = here) -> date | datetime:
            return local.date() if all_day else local.replace(tzinfo=here)

        made.add("UID", f"{event.id}@ushering-adze")
        made.add("DTSTAMP", stamp)
        made.add("SUMMARY", event.name)
        made.add("DTSTART", at(event.starts))
        if event.lasts:
            made.add("DTEND", at(event.starts + event.lasts))
        if event.rule:
            made.add("RRULE", vRecur.from_ical(event.rule))
        for field, moments in (("RDATE", event.more), ("EXDATE", event.left_out)):
            if moments:
                made.add(field, [at(moment_from(m)) for m in moments])
        if event.priority:
            made.add("PRIORITY", 10 - event.priority)
        if event.note:
            made.add("DESCRIPTION", event.note)
        if event.off:
            made.add("STATUS", "CANCELLED")
        made.add(BEGINS, _reader().dump_json(event.begins).decode())
        made.add(ENDS, _reader().dump_json(event.ends).decode())
        calendar.add_component(made)
    calendar.add_missing_timezones()
    return str(calendar.to_ical().decode())
