"""The calendar: rules as RFC 5545 has them, odd nights, which event has its way, files, and restarts."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import pytest

from ushering_adze.core.exchange.ical import MOST_EVENTS, as_ical, events_from
from ushering_adze.core.onair.calendar import (
    agenda,
    changes,
    epoch_of,
    local_of,
    missed,
    next_change,
    occurrences,
    on_at,
    rule_fault,
    turned,
    zone_of,
)
from ushering_adze.core.show import Show, ShowError, document_of, show_from_document
from ushering_adze.core.show.actions import Recall, Route, StartList, StopList
from ushering_adze.core.show.schedule import Event
from ushering_adze.demo.show import demo_show

NEW_YORK = "America/New_York"


def days(spec: str) -> list[str]:
    """``1997-09 2 4; 10 6``: days, by months."""
    found, year = [], ""
    for part in spec.split(";"):
        head, *rest = part.split()
        if "-" in head:
            year, month = head.split("-")
        else:
            month = head
        found += [f"{year}-{int(month):02d}-{int(day):02d}" for day in rest]
    return found


RFC_5545 = (  # 3.8.5.3, its own examples: the first day, the rule, the days; from memory
    ("1997-09-02", "FREQ=DAILY;COUNT=10", "1997-09 2 3 4 5 6 7 8 9 10 11"),
    ("1997-09-02", "FREQ=DAILY;INTERVAL=10;COUNT=5", "1997-09 2 12 22; 10 2 12"),
    ("1997-09-02", "FREQ=WEEKLY;COUNT=10", "1997-09 2 9 16 23 30; 10 7 14 21 28; 11 4"),
    ("1997-09-02", "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "1997-09 2 4 9 11 16 18 23 25 30; 10 2"),
    (
        "1997-09-01",
        "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR",
        "1997-09 1 3 5 15 17 19 29; 10 1 3 13 15 17 27 29 31; 11 10 12 14 24 26 28; 12 8 10 12 22",
    ),
    ("1997-09-02", "FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "1997-09 2 4 16 18 30; 10 2 14 16"),
    ("1997-09-05", "FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "1997-09 5; 10 3; 11 7; 12 5;1998-1 2; 2 6; 3 6; 4 3; 5 1; 6 5"),
    ("1997-09-05", "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR", "1997-09 5; 10 3; 11 7; 12 5"),
    (
        "1997-09-07",
        "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU",
        "1997-09 7 28; 11 2 30;1998-1 4 25; 3 1 29; 5 3 31",
    ),
    ("1997-09-22", "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "1997-09 22; 10 20; 11 17; 12 22;1998-1 19; 2 16"),
    ("1997-09-28", "FREQ=MONTHLY;BYMONTHDAY=-3;COUNT=6", "1997-09 28; 10 29; 11 28; 12 29;1998-1 29; 2 26"),
    ("1997-09-02", "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "1997-09 2 15; 10 2 15; 11 2 15; 12 2 15;1998-1 2 15"),
    (
        "1997-09-30",
        "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1",
        "1997-09 30; 10 1 31; 11 1 30; 12 1 31;1998-1 1 31; 2 1",
    ),
    (
        "1997-09-10",
        "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15",
        "1997-09 10 11 12 13 14 15;1999-3 10 11 12 13",
    ),
    (
        "1997-06-10",
        "FREQ=YEARLY;COUNT=10;BYMONTH=6,7",
        "1997-6 10; 7 10;1998-6 10; 7 10;1999-6 10; 7 10;2000-6 10; 7 10;2001-6 10; 7 10",
    ),
    (
        "1997-03-10",
        "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3",
        "1997-3 10;1999-1 10; 2 10; 3 10;2001-1 10; 2 10; 3 10;2003-1 10; 2 10; 3 10",
    ),
    (
        "1997-01-01",
        "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200",
        "1997-1 1; 4 10; 7 19;2000-1 1; 4 9; 7 18;2003-1 1; 4 10; 7 19;2006-1 1",
    ),
    ("1997-05-19", "FREQ=YEARLY;BYDAY=20MO;COUNT=3", "1997-5 19;1998-5 18;1999-5 17"),
    ("1997-05-12", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO;COUNT=3", "1997-5 12;1998-5 11;1999-5 17"),
    (
        "1997-03-13",
        "FREQ=YEARLY;BYMONTH=3;BYDAY=TH;COUNT=11",
        "1997-3 13 20 27;1998-3 5 12 19 26;1999-3 4 11 18 25",
    ),
    (
        "1997-09-13",
        "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13;COUNT=10",
        "1997-9 13; 10 11; 11 8; 12 13;1998-1 10; 2 7; 3 7; 4 11; 5 9; 6 13",
    ),
    (
        "1996-11-05",
        "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8;COUNT=3",
        "1996-11 5;2000-11 7;2004-11 2",
    ),
    ("1997-09-04", "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-9 4; 10 7; 11 6"),
    (
        "1997-09-29",
        "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=7",
        "1997-9 29; 10 30; 11 27; 12 30;1998-1 29; 2 26; 3 30",
    ),
    ("1997-08-05", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "1997-8 5 10 19 24"),
    ("1997-08-05", "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "1997-8 5 17 19 31"),
    ("2007-01-15", "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "2007-1 15 30; 2 15; 3 15 30"),
)


def begins(event: Event, zone: str = NEW_YORK, since: str = "1990-01-01", until: str = "2010-01-01") -> list[datetime]:
    here = zone_of(event.time_zone or zone)
    lo, hi = (epoch_of(datetime.fromisoformat(day), here) for day in (since, until))
    return [local_of(o.begin, here) for o in occurrences(event, zone, lo, hi)]


@pytest.mark.parametrize(("first", "rule", "spec"), RFC_5545)
def test_the_examples_of_rfc_5545(first: str, rule: str, spec: str) -> None:
    event = Event(id="e", name="E", begin=f"{first}T09:00", end=f"{first}T10:00", rule=rule)
    assert [at.isoformat() for at in begins(event)] == [f"{day}T09:00:00" for day in days(spec)]


def test_more_of_its_examples() -> None:
    daily = Event(id="e", name="E", begin="1997-09-02T09:00", rule="FREQ=DAILY;UNTIL=19971224T000000Z")
    found = begins(daily)
    assert (len(found), found[-1].isoformat()) == (113, "1997-12-23T09:00:00"), "through the change of the clock"
    friday = Event(
        id="e",
        name="E",
        begin="1997-09-02T09:00",
        rule="FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13",
        left_out=("1997-09-02T09:00",),
    )
    assert [at.date().isoformat() for at in begins(friday, until="2000-12-01")] == days(
        "1998-2 13; 3 13; 11 13;1999-8 13;2000-10 13"
    )
    quarter = Event(id="e", name="E", begin="1997-09-02T09:00", rule="FREQ=MINUTELY;INTERVAL=15;COUNT=6")
    assert [at.strftime("%H:%M") for at in begins(quarter)] == ["09:00", "09:15", "09:30", "09:45", "10:00", "10:15"]
    dates = Event(id="e", name="E", begin="1997-07-14T12:30", more=("1997-07-20T08:00",))
    assert [at.day for at in begins(dates)] == [14, 20]


def rule_of(dice: random.Random) -> str:
    freq = dice.choice(("DAILY", "WEEKLY", "MONTHLY", "YEARLY"))
    parts = [f"FREQ={freq}", f"INTERVAL={dice.randint(1, 4)}"]
    week = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
    if dice.random() < 0.5:
        chosen = dice.sample(week, dice.randint(1, 3))
        if freq == "MONTHLY" and dice.random() < 0.5:
            chosen = [f"{dice.choice((1, 2, 3, -1, -2))}{day}" for day in chosen]
        parts.append("BYDAY=" + ",".join(chosen))
    elif freq in ("MONTHLY", "YEARLY") and dice.random() < 0.6:
        parts.append("BYMONTHDAY=" + ",".join(str(dice.choice((1, 2, 15, 28, 29, 30, 31, -1, -3))) for _ in range(2)))
    if dice.random() < 0.3:
        parts.append("BYMONTH=" + ",".join(map(str, sorted(dice.sample(range(1, 13), 5)))))
    if dice.random() < 0.3:
        parts.append(f"COUNT={dice.randint(1, 40)}")
    elif dice.random() < 0.4:
        parts.append(f"UNTIL=2027{dice.randint(1, 12):02d}{dice.randint(1, 28):02d}T120000Z")
    if dice.random() < 0.3:
        parts.append("WKST=" + dice.choice(("SU", "MO")))
    return ";".join(parts)


def test_a_thousand_rules_against_a_library() -> None:
    """recurring-ical-events, which unfolds the files that we write."""
    import recurring_ical_events
    from icalendar import Calendar

    dice = random.Random(5545)
    met = 0
    for n in range(1000):
        zone = dice.choice(("Europe/Berlin", NEW_YORK, "Australia/Lord_Howe", "UTC"))
        first = datetime(2026, 1, 1, dice.randint(0, 23), dice.choice((0, 15, 30))) + timedelta(
            days=dice.randint(0, 364)
        )
        event = Event(id=f"e{n}", name="E", begin=first.isoformat(), rule=rule_of(dice), time_zone=zone)
        following = begins(event, zone, "2026-01-01", "2030-01-01")[1:2]
        if not following:
            continue
        # beginning with a moment of the rule itself: what it means otherwise, RFC 5545 leaves open
        at = following[0]
        end = (at + timedelta(minutes=45)).isoformat(timespec="minutes")
        event = event.model_copy(update={"begin": at.isoformat(timespec="minutes"), "end": end})
        window = datetime(2026, 11, 1), datetime(2028, 4, 1)
        here = zone_of(zone)
        lo, hi = (epoch_of(w, here) for w in window)
        mine = [o.begin for o in occurrences(event, zone, lo, hi)]
        made = Calendar.from_ical(as_ical([event], "E", zone, datetime(2026, 1, 1, tzinfo=UTC)))
        theirs = recurring_ical_events.of(made).between(*(w.replace(tzinfo=here) for w in window))
        wanted = sorted(e["DTSTART"].dt.timestamp() for e in theirs)
        assert mine == wanted, event.rule
        met += len(mine)
    assert met > 20_000


NIGHTS = (  # zone, the night before the clock goes forward, the skipped time as it is then, back, the repeated time
    ("Europe/Berlin", "2026-03-29T02:30", "2026-03-29T01:30Z", "2026-10-25T02:30", "2026-10-25T00:30Z"),
    (NEW_YORK, "2026-03-08T02:30", "2026-03-08T07:30Z", "2026-11-01T01:30", "2026-11-01T05:30Z"),
    ("Australia/Lord_Howe", "2026-10-04T02:15", "2026-10-03T15:45Z", "2026-04-05T01:45", "2026-04-04T14:45Z"),
)


@pytest.mark.parametrize(("zone", "skipped", "then", "twice", "first"), NIGHTS)
def test_the_nights_in_which_the_clock_is_changed(zone: str, skipped: str, then: str, twice: str, first: str) -> None:
    """RFC 5545, 3.3.5: skipped times are taken with the offset before the change, repeated ones are the first."""
    for local, wanted in ((skipped, then), (twice, first)):
        event = Event(id="e", name="E", begin=local, time_zone=zone)
        at = datetime.fromisoformat(wanted.replace("Z", "+00:00")).timestamp()
        (found,) = occurrences(event, "UTC", at - 86400, at + 86400)
        assert found.begin == at
    for local in (skipped, twice):
        day = datetime.fromisoformat(local).replace(hour=22, minute=0) - timedelta(days=1)
        event = Event(
            id="e", name="E", begin=day.isoformat(), end=(day + timedelta(hours=6)).isoformat(), time_zone=zone
        )
        (found,) = occurrences(event, "UTC", epoch_of(day, zone_of(zone)), epoch_of(day, zone_of(zone)) + 86400)
        assert local_of(found.end, zone_of(zone)).hour == 4, "it ends when the clock says so"
        assert found.end - found.begin != 6 * 3600
        loop = event.model_copy(update={"rule": "FREQ=DAILY"})
        base = epoch_of(day - timedelta(days=3), zone_of(zone))
        hours = [local_of(o.begin, zone_of(zone)).hour for o in occurrences(loop, "UTC", base, base + 7 * 86400)]
        assert set(hours[1:]) == {22} if len(hours) > 1 else True


def test_rules_that_never_come_cost_nothing_and_broken_ones_are_a_sentence() -> None:
    never = Event(id="e", name="E", begin="2020-01-01T10:00", rule="FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30;COUNT=5")
    assert [at.year for at in begins(never, "UTC", "2019-01-01", "2026-12-01")] == [2020], "its own beginning alone"
    often = Event(id="e", name="E", begin="2000-01-01T00:00", rule="FREQ=SECONDLY;INTERVAL=20")
    assert len(begins(often, "UTC", "2026-11-01", "2026-11-02")) == 86400 // 20
    broken = Event(id="e", name="Foyer", begin="2026-01-01T10:00", rule="FREQ=FORTNIGHTLY")
    assert "the rule of Foyer cannot be read" in (rule_fault(broken) or "")
    assert "no time zone Mars/North" in (rule_fault(broken.model_copy(update={"time_zone": "Mars/North"})) or "")


LOOP = Event(
    id="loop",
    name="Foyer loop",
    begin="2026-11-03T10:00",
    end="2026-11-03T18:00",
    rule="FREQ=WEEKLY;BYDAY=TU,WE,TH,FR,SA,SU",
    begins=(StartList(list="foyer-loop"),),
    ends=(StopList(list="foyer-loop"),),
)


def show_with(*events: Event) -> Show:
    return demo_show().model_copy(update={"schedule": events, "time_zone": "Europe/Berlin"})


def at(day: str) -> float:
    return epoch_of(datetime.fromisoformat(day), zone_of("Europe/Berlin"))


def test_what_is_on_with_priorities_and_by_the_surfaces_that_are_touched() -> None:
    private = Event(
        id="private",
        name="Private view",
        begin="2026-11-05T15:00",
        end="2026-11-05T17:00",
        priority=5,
        begins=(Route(surface="foyer-wall", source="hold-card", on="program"),),
    )
    stage = private.model_copy(
        update={"id": "stage", "name": "Stage", "begins": (Route(surface="meridian", source="grid", on="program"),)}
    )
    show = show_with(LOOP, private, stage)
    week = agenda(show, "UTC", at("2026-11-02T00:00"), at("2026-11-09T00:00"))
    on = lambda moment: {o.event for o in on_at(show, week, at(moment))}  # noqa: E731
    assert [on("2026-11-02T12:00"), on("2026-11-03T12:00"), on("2026-11-03T18:00")] == [set(), {"loop"}, set()]
    assert on("2026-11-05T16:00") == {"private", "stage"}, "the loop is on the foyer, which is taken; the stage is not"
    turn = turned(show, week, on_at(show, week, at("2026-11-05T14:59")), at("2026-11-05T14:59"), at("2026-11-05T15:00"))
    assert turn.does[0] == ("loop", StopList(list="foyer-loop")) and len(turn.begun) == 2
    back = turned(show, week, turn.on, at("2026-11-05T15:00"), at("2026-11-05T17:00"))
    assert back.does == (("loop", StartList(list="foyer-loop")),), "it is on again"
    assert next_change(week, at("2026-11-05T15:30")) == at("2026-11-05T17:00")
    assert len(list(changes(week))) == 14


def test_a_restart_in_the_middle_brings_on_what_must_be_on_and_tells_what_was_missed() -> None:
    once = Event(id="once", name="Speech", begin="2026-11-04T12:00", begins=(Recall(preset=3),))
    short = once.model_copy(update={"id": "short", "name": "Matinée", "end": "2026-11-04T13:00"})
    show = show_with(LOOP, once, short)
    day = agenda(show, "UTC", at("2026-11-03T00:00"), at("2026-11-06T00:00"))
    now = at("2026-11-04T14:20")
    assert turned(show, day, (), now, now).does == (("loop", StartList(list="foyer-loop")),)
    assert {o.event for o in missed(day, at("2026-11-04T09:00"), now)} == {"once", "short"}
    happened = turned(show, day, (), at("2026-11-04T11:59"), at("2026-11-04T12:00"))
    assert {o.event for o in happened.happened} == {"once"}


# -- files -----------------------------------------------------------------------------------------------------------


def test_events_go_out_and_come_back() -> None:
    events = (
        LOOP.model_copy(update={"left_out": ("2026-12-24T10:00",), "note": "closed on Mondays", "priority": 2}),
        Event(id="day", name="Open day", begin="2026-12-06T00:00", all_day=True, time_zone="Europe/Lisbon"),
        Event(id="at", name="Gong", begin="2026-12-06T19:45", begins=(Recall(preset=2, seconds=3),)),
    )
    text = as_ical(events, "Centenary Night", "Europe/Berlin", datetime(2026, 11, 1, tzinfo=UTC))
    assert "BEGIN:VTIMEZONE" in text and "X-USHERING-ADZE-BEGINS" in text
    back = events_from(text, demo_show())
    assert back.faults == () and [e.begins for e in back.events] == [e.begins for e in events]
    for old, new in zip(events, back.events, strict=True):
        assert (new.rule, new.priority, new.note, new.left_out) == (old.rule, old.priority, old.note, old.left_out)
        window = at("2026-11-01T00:00"), at("2027-02-01T00:00")
        a, b = (occurrences(e, "Europe/Berlin", *window) for e in (old, new))
        if not old.all_day:  # a day has no zone in a file
            assert [o[1:] for o in a] == [o[1:] for o in b]
    assert show_from_document(document_of(show_with(*events))).schedule == events


FOREIGN = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//somebody//EN
BEGIN:VEVENT
UID:one
SUMMARY:Foyer loop
DTSTART;TZID=Europe/Berlin:20261103T100000
DURATION:PT8H
RRULE:FREQ=DAILY;COUNT=5
END:VEVENT
BEGIN:VEVENT
UID:one
RECURRENCE-ID;TZID=Europe/Berlin:20261105T100000
SUMMARY:Foyer loop
DTSTART;TZID=Europe/Berlin:20261105T120000
DTEND;TZID=Europe/Berlin:20261105T180000
END:VEVENT
BEGIN:VEVENT
UID:two
SUMMARY:Closing
DTSTART:20261103T190000Z
END:VEVENT
BEGIN:VEVENT
UID:three
SUMMARY:Broken
DTSTART:20261103T190000Z
RRULE:FREQ=FORTNIGHTLY
END:VEVENT
BEGIN:VEVENT
UID:four
SUMMARY:Nowhen
END:VEVENT
END:VCALENDAR
"""


def test_a_calendar_of_somebody_else() -> None:
    taken = events_from(FOREIGN.replace("\n", "\r\n"), demo_show())
    assert [e.name for e in taken.events] == ["Foyer loop", "Closing", "Foyer loop"]
    assert taken.events[0].begins == (StartList(list="foyer-loop"),) and taken.events[1].begins == (Recall(preset=8),)
    assert taken.events[0].left_out == ("2026-11-05T10:00",) and taken.events[2].begin == "2026-11-05T12:00"
    assert len(taken.faults) == 2 and taken.faults[1] == '"Nowhen" was left out: it has no DTSTART'
    assert taken.faults[0].startswith('"Broken" was left out')


def test_files_that_are_none() -> None:
    with pytest.raises(ShowError, match="this calendar has 50000 events, and 5000 are taken in at most"):
        events_from("BEGIN:VEVENT\n" * 50_000, demo_show())
    assert MOST_EVENTS == 5000
    for text in ("", "hello", "BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n"):
        with pytest.raises(ShowError, match="calendar: "):
            events_from(text, demo_show())
