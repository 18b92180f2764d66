"""What goes by itself and what is above it, in the real window: calendar, overrides, rehearsal, timecode, speaker."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot
from reportlab.pdfgen.canvas import Canvas as Sheet

from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.show import Pages
from ushering_adze.core.show.actions import Override, Recall, RunCode, StartList, StopList
from ushering_adze.core.show.cue import AtCode
from ushering_adze.core.show.scheduling import event_of
from ushering_adze.core.show.timecode import Chase
from ushering_adze.desk.run.calendar.days import DaysView
from ushering_adze.desk.run.calendar.page import CalendarPage
from ushering_adze.desk.window import MainWindow

LEFT, SHIFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier


class Clock:
    """A clock that goes as it is told: Wednesday, the 4th of November 2026, 9:50."""

    def __init__(self) -> None:
        self.now = datetime(2026, 11, 4, 9, 50, tzinfo=UTC).timestamp()

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def calendar(window: MainWindow, qtbot: QtBot, clock: Clock, tmp_path: Path) -> Iterator[CalendarPage]:
    page = window.run.calendar
    page.go_by(clock, "UTC")
    window.session.playout.run_calendar(tmp_path, clock, "UTC")
    qtbot.keyClick(window, Qt.Key.Key_C, SHIFT)
    assert page.isVisible()
    yield page


def block_of(days: DaysView, event: str, weekday: int) -> tuple[object, QPoint]:
    """A block, and the middle of its upper part."""
    block, rect = next((b, r) for b, r in days.placed() if b.event == event and b.begin.weekday() == weekday)
    return block, QPoint(round(rect.center().x()), round(rect.top() + 8))


def drag(days: DaysView, at: QPoint, by: QPoint, held: Qt.KeyboardModifier = NONE) -> None:
    QTest.mousePress(days, LEFT, held, at)
    QTest.mouseMove(days, at + by / 2)
    QTest.mouseMove(days, at + by)
    QTest.mouseRelease(days, LEFT, held, at + by)


def test_a_week_is_made_by_hand_and_runs(
    calendar: CalendarPage, window: MainWindow, qtbot: QtBot, clock: Clock
) -> None:
    session, days, panel = window.session, calendar.days, calendar.panel
    assert calendar.title.text() == "2 – 8 November 2026"
    assert [b.begin.day for b in calendar._rows if b.event == "foyer-opens"] == [3, 4, 5, 6, 7, 8]
    # a double click makes one, its fields say what it does
    place = QPoint(round(46 + days._wide * 2.5), round(40 + days._hour * 20 + 3))
    QTest.mouseDClick(days, LEFT, NONE, place)
    made = event_of(session.show, panel.event_id)
    assert made.begin == "2026-11-04T20:00" and made.lasts == timedelta(hours=1)
    for field, text in (
        (panel.name, "Late opening"),
        (panel.begins, "start Foyer loop; 8"),
        (panel.ends, "stop Foyer loop"),
    ):
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    made = event_of(session.show, panel.event_id)
    assert (made.name, made.begins) == ("Late opening", (StartList(list="foyer-loop"), Recall(preset=8)))
    assert made.ends == (StopList(list="foyer-loop"),)
    panel.begins.setFocus()
    panel.begins.selectAll()
    QTest.keyClicks(panel.begins, "sing")
    QTest.keyClick(panel.begins, Qt.Key.Key_Return)
    assert "sing" in panel.why.text() and event_of(session.show, made.id) == made, "what was saved stays"
    panel.fill()
    panel.repeats.setCurrentIndex(panel.repeats.findText("every other week"))
    panel.repeats.activated.emit(panel.repeats.currentIndex())
    assert event_of(session.show, made.id).rule == "FREQ=WEEKLY;INTERVAL=2"
    # drags: the whole series with its days, one alone with Shift, longer at its foot
    _, at = block_of(days, "foyer-opens", 1)
    drag(days, at, QPoint(0, round(days._hour)))
    assert event_of(session.show, "foyer-opens").begin == "2026-11-03T11:00"
    _, at = block_of(days, "foyer-opens", 4)
    drag(days, at, QPoint(0, round(days._hour * 2)), SHIFT)
    loop = event_of(session.show, "foyer-opens")
    assert loop.left_out[-1] == "2026-11-06T11:00" and loop.begin == "2026-11-03T11:00"
    alone = event_of(session.show, panel.event_id)
    assert (alone.begin, alone.rule, alone.begins) == ("2026-11-06T13:00", "", loop.begins)
    _, rect = next((b, r) for b, r in days.placed() if b.event == alone.id)
    drag(days, QPoint(round(rect.center().x()), round(rect.bottom() - 2)), QPoint(0, round(days._hour)))
    assert event_of(session.show, alone.id).lasts == timedelta(hours=9)
    for _ in range(3):
        session.undo()
    assert event_of(session.show, "foyer-opens").begin == "2026-11-03T10:00"
    # and it runs
    stands = lambda: head_of(session.playout.stage, "foyer-loop").going  # noqa: E731
    assert not stands()
    clock.now += 1  # it has looked at what was edited
    qtbot.waitUntil(lambda: session.report.calendar.at == clock.now and not session.report.calendar.waiting)
    clock.now = datetime(2026, 11, 4, 10, 0, 1, tzinfo=UTC).timestamp()
    qtbot.waitUntil(stands)
    qtbot.waitUntil(
        lambda: "on now: Foyer loop" in calendar.state.text() and "next: Late opening" in calendar.state.text()
    )


def test_months_the_agenda_and_files(calendar: CalendarPage, window: MainWindow, tmp_path: Path, qtbot: QtBot) -> None:
    session, said = window.session, []
    calendar.told.connect(said.append)
    QTest.mouseClick(calendar.buttons["Month"], LEFT)
    assert calendar.title.text() == "November 2026" and calendar.month.isVisible()
    calendar.turn(1)
    assert calendar.title.text() == "December 2026"
    christmas = [b for b in calendar._rows if b.begin.day == 25 and b.begin.month == 12]
    assert christmas == [], "closed at Christmas"
    box = calendar.month.box(9).center()
    QTest.mouseDClick(calendar.month, LEFT, NONE, QPoint(round(box.x()), round(calendar.month.box(9).bottom() - 4)))
    assert event_of(session.show, calendar.panel.event_id).begin == "2026-12-09T10:00"
    QTest.mouseClick(calendar.buttons["Agenda"], LEFT)
    assert calendar.table.rowCount() > 40 and calendar.table.item(0, 2).text() == "Foyer loop"
    calendar.table.selectRow(0)
    assert calendar.panel.event_id == "foyer-opens"
    QTest.mouseClick(calendar.panel.skip, LEFT)
    assert len(event_of(session.show, "foyer-opens").left_out) == 2
    calendar.give_out(tmp_path / "c.ics")
    assert calendar.take_in(tmp_path / "c.ics") and "5 events of c.ics were taken in." in said[-1]
    assert len(session.show.schedule) == 10
    (tmp_path / "bad.ics").write_text("nothing")
    assert not calendar.take_in(tmp_path / "bad.ics") and "this is no iCalendar file" in said[-1]
    QTest.mouseClick(calendar.runs, LEFT)
    assert not session.show.calendar_runs
    qtbot.waitUntil(lambda: "it stands" in calendar.state.text())


def test_the_stream_is_kept_on_a_card_and_lifted_again(window: MainWindow, qtbot: QtBot) -> None:
    session, panel = window.session, window.run.overrides
    qtbot.keyClick(window, Qt.Key.Key_V)
    assert panel.isVisible()
    qtbot.waitUntil(lambda: panel.empty.geometry().bottom() < 120)  # close together at the top while there are no rows
    panel.make("black")
    session.select_surface("relay")
    assert panel.on.text() == "Over Relay:"
    panel.make("source", "hold-card")
    qtbot.waitUntil(lambda: session.report.surfaces["relay"].state == "override")
    tile = next(t for t in window.sill.tiles if t.surface.id == "relay")
    assert (tile.state(), tile.words()) == ("override", "Hold card")
    qtbot.waitUntil(lambda: panel.rows.rowCount() == 1 and "overridden" in window.sill._hint.text())
    assert [panel.rows.item(0, c).text() for c in range(3)] == ["Relay", "Hold card", "the desk"]
    session.playout.act(Recall(preset=4, seconds=0))
    qtbot.waitUntil(lambda: session.report.stage.on_program == 4)
    assert session.report.surfaces["relay"].sources == ("Hold card",)
    session.select_surfaces(("lectern", "foyer-wall"))
    panel.make("pattern")
    qtbot.waitUntil(lambda: panel.rows.rowCount() == 3)
    panel.rows.selectRow(0)
    QTest.mouseClick(panel.lift, LEFT)
    qtbot.waitUntil(lambda: list(session.playout.stage.overrides) == ["foyer-wall", "lectern"])
    QTest.mouseClick(panel.lift_all, LEFT)
    qtbot.waitUntil(lambda: panel.empty.isVisible() and session.report.surfaces["relay"].state != "override")


def test_an_evening_is_rehearsed_while_program_stays(window: MainWindow, qtbot: QtBot) -> None:
    session, run = window.session, window.run
    qtbot.keyClick(window, Qt.Key.Key_C)
    before = session.playout.stage.program.target
    qtbot.keyClick(window, Qt.Key.Key_R, SHIFT)
    qtbot.waitUntil(lambda: run.cues.rehearsal.isVisible() and "REHEARSAL" in window.sill._hint.text())
    run.cues.rehearsal.speed.setCurrentIndex(0)  # step by step
    qtbot.waitUntil(lambda: session.playout.stage.rehearsal.speed == 0)
    for number in range(1, 7):
        qtbot.keyClick(window, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda n=number: head_of(session.playout.stage.rehearsal.stage, "evening").fired == f"cue-{n}")
    qtbot.waitUntil(lambda: run.cues.head.armed == "cue-7" and "7  Moon reveal" in run.cues.ahead.lines[0])
    assert session.playout.stage.program.target == before and head_of(session.playout.stage, "evening").fired is None
    qtbot.waitUntil(lambda: {"west-mast", "meridian"} <= {c.surface for c in session.report.delta})
    run.cues.rehearsal.let.setCurrentIndex(run.cues.rehearsal.let.findText("also on Relay"))
    qtbot.waitUntil(lambda: session.report.surfaces["relay"].state == "rehearsal")
    QTest.mouseClick(run.cues.rehearsal.findChildren(type(run.cues.more))[0], LEFT)
    qtbot.waitUntil(lambda: session.playout.stage.rehearsal is None and not run.cues.rehearsal.isVisible())
    assert session.playout.stage.program.target == before


def test_a_list_follows_the_programs_own_timecode(window: MainWindow, qtbot: QtBot) -> None:
    session, panel = window.session, window.run.cues
    qtbot.keyClick(window, Qt.Key.Key_C)
    evening = session.show.cue_list("evening")
    cues = tuple(c.model_copy(update={"fires": AtCode(at="00:10:00:00")}) if c.number == 4 else c for c in evening.cues)
    session.edit("Code", session.show.model_copy(update={"lists": (evening.model_copy(update={"cues": cues}),)}))
    panel.change(code=Chase())
    panel.edit("Offset", lambda show: show)
    session.playout.act(RunCode(seconds=599.0))
    qtbot.waitUntil(lambda: head_of(session.playout.stage, "evening").fired == "cue-4")
    assert session.playout.stage.on_program == 4
    qtbot.waitUntil(lambda: "00:10:" in panel.ahead.clock)
    session.playout.act(Override(surfaces=("relay",)))
    panel.wait()
    qtbot.waitUntil(lambda: "WAITS" in panel.ahead.clock)


def test_a_clicker_turns_the_pages_and_a_message_comes_below_the_time(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    session = window.session
    sheet = Sheet(str(tmp_path / "deck.pdf"), pagesize=(640, 360))
    for _ in range(4):
        sheet.drawString(20, 20, "page")
        sheet.showPage()
    sheet.save()
    deck = Pages(id="deck", name="Deck", path=str(tmp_path / "deck.pdf"))
    session.edit("Deck", session.show.model_copy(update={"sources": (*session.show.sources, deck)}))
    session.select_surface("lectern")
    window.run.speaker.ask_view()
    prompt = window.run.speaker.prompt
    assert prompt.fields[0].currentText() == "Lectern"
    prompt.enter()
    preset = next(p for p in session.show.presets if p.name == "Speaker's view")
    session.playout.act(Recall(preset=preset.number, seconds=0))
    qtbot.waitUntil(lambda: session.report.stage.on_program == preset.number)
    session.select_source("deck")
    qtbot.waitUntil(lambda: any(p.source == "deck" and p.pages == 4 for p in session.report.players))
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)  # the sheet is closed
    for key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
        qtbot.keyClick(window, key)
    qtbot.waitUntil(lambda: session.playout.stage.player("deck").at == 1.0)
    qtbot.keyClick(window, Qt.Key.Key_M)
    window.run.speaker.prompt.fields[0].setText("louder")
    window.run.speaker.prompt.enter()
    qtbot.waitUntil(lambda: "louder" in session.playout.stage.messages.values())
