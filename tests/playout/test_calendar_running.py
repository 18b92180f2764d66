"""The calendar of the running show: begun, ended, brought on after a restart, edited, and tried for a week."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path

from commanded import adze
from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import Recall, StartList, StopList
from ushering_adze.core.show.schedule import Event
from ushering_adze.demo.show import demo_show
from ushering_adze.io.showfile import read_show
from ushering_adze.playout.calendar import CalendarRunner
from ushering_adze.playout.playout import Playout
from waiting import wait_for


class Acted:
    """Takes actions and keeps them."""

    def __init__(self) -> None:
        self.done: list[object] = []

    def act(self, action: object) -> None:
        self.done.append(action)


class Clock:
    """A clock that goes as it is told."""

    def __init__(self, at: str) -> None:
        self.set(at)

    def set(self, at: str) -> None:
        self.now = datetime.fromisoformat(at).replace(tzinfo=UTC).timestamp()

    def __call__(self) -> float:
        return self.now


START, STOP = StartList(list="foyer-loop"), StopList(list="foyer-loop")
GONG = Event(id="gong", name="Gong", begin="2026-11-04T12:00", begins=(Recall(preset=3),))


def show_with(*events: Event, **fields: object) -> Show:
    schedule = (*(e for e in demo_show().schedule if e.id == "foyer-opens"), *events)
    return demo_show().model_copy(update={"schedule": schedule, "time_zone": "UTC", **fields})


def runner(show: Show, clock: Clock, folder: Path) -> tuple[CalendarRunner, Acted]:
    acted = Acted()
    return CalendarRunner(acted, show, folder, clock, "UTC"), acted  # type: ignore[arg-type]


def run(calendar: CalendarRunner, clock: Clock, to: str, step: float = 30.0) -> None:
    end = datetime.fromisoformat(to).replace(tzinfo=UTC).timestamp()
    while clock.now < end:
        clock.now = min(end, clock.now + step)
        calendar.look()


def test_a_day_of_the_foyer(tmp_path: Path) -> None:
    clock = Clock("2026-11-04T09:58")
    calendar, acted = runner(show_with(GONG), clock, tmp_path)
    calendar.look()
    assert acted.done == [] and calendar.report.comes_at == datetime(2026, 11, 4, 10, tzinfo=UTC).timestamp()
    run(calendar, clock, "2026-11-04T10:01")
    assert acted.done == [START] and [o.event for o in calendar.report.on] == ["foyer-opens"]
    run(calendar, clock, "2026-11-04T18:01")
    assert acted.done == [START, Recall(preset=3), STOP] and calendar.report.on == ()
    run(calendar, clock, "2026-11-09T23:00", 300)
    assert acted.done.count(START) == 1 + 4, "closed on Mondays"


def test_after_a_restart_what_must_be_on_is_and_what_was_missed_is_told(tmp_path: Path) -> None:
    clock = Clock("2026-11-04T09:00")
    calendar, acted = runner(show_with(GONG), clock, tmp_path)
    run(calendar, clock, "2026-11-04T10:30")
    calendar.close()
    clock.set("2026-11-04T14:20")  # it was off over noon
    calendar, acted = runner(show_with(GONG), clock, tmp_path)
    calendar.look()
    assert acted.done == [START], "the loop goes on; the gong does not sound two hours late"
    assert [o.event for o in calendar.report.missed] == ["gong"]
    calendar.forget_missed()
    run(calendar, clock, "2026-11-04T14:25")
    assert calendar.report.missed == () and acted.done == [START]
    clock.set("2026-11-04T19:00")  # the machine slept
    calendar.look()
    assert acted.done == [START, STOP]


def test_an_edit_brings_nothing_on_by_itself(tmp_path: Path) -> None:
    clock = Clock("2026-11-04T12:00:10")
    show = show_with(schedule=())
    calendar, acted = runner(show, clock, tmp_path)
    calendar.look()
    calendar.set_show(show_with())
    run(calendar, clock, "2026-11-04T12:10")
    assert acted.done == [] and [o.event for o in calendar.report.waiting] == ["foyer-opens"]
    calendar.bring_on()
    run(calendar, clock, "2026-11-04T12:20")
    assert acted.done == [START] and calendar.report.waiting == ()
    longer = show_with().schedule[0].model_copy(update={"end": "2026-11-03T19:00"})
    calendar.set_show(show_with(schedule=(longer,)))
    run(calendar, clock, "2026-11-04T18:30", 59)
    assert acted.done == [START], "it goes on through an edit of its end"
    run(calendar, clock, "2026-11-04T19:05", 59)
    assert acted.done == [START, STOP]
    clock.set("2026-11-05T09:59:59")
    calendar.look()
    calendar.set_show(show_with(GONG))  # an edit in the very moment in which it begins
    clock.set("2026-11-05T10:00:01")
    calendar.look()
    assert acted.done == [START, STOP, START]
    del acted.done[2:]
    calendar.set_show(show_with(calendar_runs=False))
    run(calendar, clock, "2026-11-06T12:00", 300)
    assert acted.done == [START, STOP] and not calendar.report.runs


def test_broken_events_are_told_and_the_others_go_on(tmp_path: Path) -> None:
    clock = Clock("2026-11-04T09:59")
    broken = Event(id="x", name="Broken", begin="2026-11-04T10:00", rule="FREQ=FORTNIGHTLY")
    lost = Event(id="y", name="Lost", begin="2026-11-04T10:00", begins=(Recall(preset=777), Recall(preset=4)))
    calendar, acted = runner(show_with(broken, lost), clock, tmp_path)
    calendar.look()
    run(calendar, clock, "2026-11-04T10:01")
    assert acted.done == [Recall(preset=4), START]
    assert set(calendar.report.faults) == {"x", "y"} and "no preset number 777" in calendar.report.faults["y"]


def test_the_running_show_and_its_log(tmp_path: Path) -> None:
    clock = Clock("2026-11-04T12:00")
    reports: list[object] = []
    playout = Playout(show_with(), reports.append)
    try:
        playout.keep_as_run(tmp_path / "log")
        playout.start(wait=60)
        playout.run_calendar(tmp_path / "calendar", clock, "UTC")
        assert wait_for(lambda: head_of(playout.stage, "foyer-loop").fired is not None)
        assert wait_for(lambda: bool(reports) and bool(reports[-1].calendar.on))  # type: ignore[attr-defined]
        clock.set("2026-11-04T18:00:01")
        assert wait_for(lambda: head_of(playout.stage, "foyer-loop").stopped)
    finally:
        playout.stop()


def test_a_foyer_week_is_tried(demo_file: Path) -> None:
    out = adze("schedule", demo_file, "--from", "2026-11-02", "--to", "2026-11-09", "--zone", "Europe/Berlin", "--json")
    told = json.loads(out.stdout)
    begun = [h["at"] for h in told["happens"] if "foyer-opens" in h["begun"]]
    # the school's hour takes the foyer's wall on Thursday: then the loop begins once more
    assert [b[8:16] for b in begun] == [
        "03T10:00",
        "04T10:00",
        "05T10:00",
        "05T12:00",
        "06T10:00",
        "07T10:00",
        "08T10:00",
    ]
    fired = sum(h["fired_before"].get("foyer-loop", 0) for h in told["happens"])
    assert 6 * 8 * 3600 / 180 * 2 * 0.97 < fired < 6 * 8 * 3600 / 180 * 2 * 1.03, "two cues in every three minutes"
    assert told["faults"] == {} and told["happens"][0]["on"] == []
    words = adze("schedule", demo_file, "--from", "2026-11-05", "--to", "2026-11-06", "--zone", "Europe/Berlin").stdout
    assert "Thu 2026-11-05 11:00:00  ends: Foyer loop · begins: School visit" in words


def test_calendars_in_and_out_by_command(demo_file: Path, tmp_path: Path) -> None:
    file, saved, bad = tmp_path / "weeks.ics", tmp_path / "with.adze", tmp_path / "bad.ics"
    assert f"{len(demo_show().schedule)} events" in adze("schedule", demo_file, "--export", file).stdout
    assert "events taken in" in adze("schedule", demo_file, "--import", file, "--save", saved).stdout
    assert len(read_show(saved).schedule) == 2 * len(demo_show().schedule)
    bad.write_text("hello")
    for words, said in (
        (("--from", "2026-11-05", "--to", "2026-11-01"), "give a day after 2026-11-05"),
        (("--from", "Monday"), "Monday is no day; write one like 2026-12-01"),
        (("--zone", "Mars/North"), "no time zone Mars/North"),
        (("--import", bad), "this is no iCalendar file"),
        (("--import", tmp_path / "none.ics"), "it cannot be read"),
    ):
        refused = adze("schedule", demo_file, *words)
        assert refused.returncode and said in refused.stderr, words
