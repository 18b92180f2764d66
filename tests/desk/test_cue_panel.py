"""Cues in the real window: a list pasted, armed, fired by Space, edited while it runs."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.exchange.cue_table import switched, without_list
from ushering_adze.core.onair.cues import head_of
from ushering_adze.desk.run.cues import CuePanel
from ushering_adze.desk.window import MainWindow

LEFT = Qt.MouseButton.LeftButton
TABLE = """number\tname\tfires\tdoes
1\tDoors\t\t1 in 0
2\tCountdown\t\t2 in 0; +0.2 play Orrery
3\tWelcome\t\t3 in 0
4\tPanorama\twith\t4 in 0
5\tKeynote\t\t5 in 0
6\tInterview\t\t6 in 0
7\tMoon\tsignal gong\t7 in 0
8\tMasts\t\t20 in 0
9\tStars\t\t21 in 0
10\tClosing\t\t8 in 0
"""


@pytest.fixture
def panel(window: MainWindow, qtbot: QtBot) -> CuePanel:
    qtbot.keyClick(window, Qt.Key.Key_C)
    assert window.run.cueing and window.run.cues.isVisible()
    return window.run.cues


def stands(window: MainWindow, list: str, fired: str | None, armed: str | None) -> bool:
    head = head_of(window.session.playout.stage, list)
    return (head.fired, head.armed) == (fired, armed)


def row_of(panel: CuePanel, number: str) -> int:
    return next(r for r in range(panel.rows.rowCount()) if panel.rows.item(r, 0).text() == number)


def click(panel: CuePanel, number: str) -> None:
    item = panel.rows.item(row_of(panel, number), 0)
    panel.rows.scrollToItem(item)
    QTest.mouseClick(panel.rows.viewport(), LEFT, pos=panel.rows.visualItemRect(item).center())


def past_a_slip(window: MainWindow, qtbot: QtBot, list: str) -> None:
    """Until a second firing is meant."""
    stage = lambda: window.session.playout.stage  # noqa: E731
    head = head_of(stage(), list)
    qtbot.waitUntil(lambda: head.at is None or stage().looked > head.at + 0.3)


def test_ten_cues_are_pasted_run_by_space_skipped_and_edited_while_they_run(
    panel: CuePanel, window: MainWindow, qtbot: QtBot
) -> None:
    session, playout = window.session, window.session.playout
    panel.make_list()
    id = panel.cues.id
    assert panel.editing and panel.chosen.currentText() == "List 2"
    QGuiApplication.clipboard().setText(TABLE.replace("4 in 0", "4 inn 0"))
    panel.paste()
    assert "line 5" in panel.why.text() and panel.cues.cues == (), "all or nothing"
    QGuiApplication.clipboard().setText(TABLE)
    QTest.keyClick(panel.rows, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert len(panel.cues.cues) == 10 and panel.why.text() == ""
    QTest.mouseClick(panel.edit_button, LEFT)
    qtbot.waitUntil(lambda: window.session.playout.stage.show is session.show)

    click(panel, "2")  # a click arms, and stages; it fires nothing
    qtbot.waitUntil(lambda: stands(window, id, None, "cue-2") and playout.stage.staged == 2)
    qtbot.waitUntil(lambda: panel.ahead.lines[0] == "2  Countdown" and panel.ahead.lines[2] == "then 3  Welcome")
    assert playout.stage.on_program == 5
    QTest.keyClick(panel.rows, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: stands(window, id, "cue-2", "cue-3") and playout.stage.on_program == 2)
    qtbot.waitUntil(lambda: "orrery" in playout.stage.players), "what is delayed comes"
    past_a_slip(window, qtbot, id)
    QTest.keyClick(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: stands(window, id, "cue-4", "cue-5")), "the fourth comes with the third"
    with pytest.MonkeyPatch.context() as slow:  # a slip, however slow the machine is
        slow.setattr("ushering_adze.core.onair.cues.AGAIN", 1e6)
        QTest.keyClick(window, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: "fired twice" in window.notice.text())
    assert stands(window, id, "cue-4", "cue-5")

    window.book.actions["cue-back"].trigger()
    qtbot.waitUntil(lambda: stands(window, id, "cue-4", "cue-4"))
    for key in (Qt.Key.Key_8, Qt.Key.Key_Return):  # skipped ahead by its number
        QTest.keyClick(window, key)
    qtbot.waitUntil(lambda: stands(window, id, "cue-4", "cue-8") and playout.stage.staged == 20)
    qtbot.waitUntil(lambda: panel.skip.isVisible() and "3 passed over: " in panel.skipped.text())
    assert "Meridian" in panel.skipped.text() and "Foyer" not in panel.skipped.text()
    QTest.mouseClick(panel.skip, LEFT)
    qtbot.waitUntil(lambda: head_of(playout.stage, id).as_if and panel.skip.isChecked())
    shown = playout.stage.preview()
    assert shown["house", "wall"].picture.source == "moon-phases", "what cue 7 would have left"
    QTest.mouseClick(panel.skip, LEFT)
    qtbot.waitUntil(lambda: not head_of(playout.stage, id).as_if and playout.stage.edits == ())
    QTest.keyClick(window, Qt.Key.Key_5)
    QTest.keyClick(window, Qt.Key.Key_5)
    QTest.keyClick(window, Qt.Key.Key_Return)
    assert "There is no cue 55" in window.notice.text()

    QTest.mouseClick(panel.edit_button, LEFT)  # one goes in while the list runs: the armed one stays armed
    click(panel, "8")
    panel.insert()
    assert [c.number for c in panel.cues.cues][7:10] == [8, 8.5, 9]
    assert panel.cues.numbered(8.5).preset == 20, "what is staged"
    panel.rows.item(row_of(panel, "8.5"), 2).setText("25:00")
    assert "is no time of day" in panel.why.text() and panel.rows.item(row_of(panel, "8.5"), 2).text() == ""
    panel.rows.item(row_of(panel, "8.5"), 2).setText("end +60")
    panel.rows.item(row_of(panel, "8.5"), 0).setText("8")
    assert "there is a cue 8 already" in panel.why.text()
    qtbot.waitUntil(lambda: playout.stage.show is session.show)
    assert stands(window, id, "cue-4", "cue-8")
    past_a_slip(window, qtbot, id)
    QTest.mouseClick(panel.go_button, LEFT)
    qtbot.waitUntil(lambda: stands(window, id, "cue-8", "cue-8-5") and playout.stage.on_program == 20)
    qtbot.waitUntil(lambda: panel.ahead.lines[1].startswith("by itself in "))
    panel.stop()
    qtbot.waitUntil(lambda: not head_of(playout.stage, id).going)
    session.undo()
    assert panel.rows.item(row_of(panel, "8.5"), 2).text() == ""


def test_a_running_list_keeps_its_surface_to_itself_and_lists_are_changed_by_their_menu(
    panel: CuePanel, window: MainWindow, qtbot: QtBot
) -> None:
    session, playout = window.session, window.session.playout
    panel.chosen.setCurrentIndex(panel.chosen.findData("foyer-loop"))
    assert panel.cues.claims == ("foyer",) and panel.cues.loop
    QTest.keyClick(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: stands(window, "foyer-loop", "foyer-1", "foyer-2"))
    before = dict(playout.stage.program.target)
    panel.chosen.setCurrentIndex(panel.chosen.findData("evening"))
    for key in (Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_Return, Qt.Key.Key_Space):
        QTest.keyClick(window, key)
    qtbot.waitUntil(lambda: playout.stage.on_program == 90)
    after = playout.stage.program.target
    assert all(after[k] == before[k] for k in after if k[0] == "foyer") and after != before
    panel.change(loop=True)
    panel.menu.claim("arch", True)
    assert (panel.cues.loop, panel.cues.claims) == (True, ("arch",)) and session.undo_label == "Change Evening"
    panel.menu.fill()
    words = [a.text() for a in panel.menu.actions()]
    assert "Remove the list" in words and next(a for a in panel.menu.actions() if a.text() == "Remove the list")
    next(a for a in panel.menu.actions() if a.text() == "Remove the list").trigger()
    assert [y.id for y in session.show.lists] == ["foyer-loop"] and panel.chosen.currentText() == "Foyer loop"
    qtbot.keyClick(window, Qt.Key.Key_C)
    assert not window.run.cueing, "Space takes again"


def test_the_plan_shows_every_cell_in_pictures_and_leads_to_build_blind(
    panel: CuePanel, window: MainWindow, qtbot: QtBot
) -> None:
    session, plan = window.session, window.run.plan
    panel.chosen.setCurrentIndex(panel.chosen.findData("evening"))
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert plan.isVisible() and window.run.cueing, "Space fires here too"
    qtbot.waitUntil(lambda: {c.id for c in plan.grid.plan.cues} <= set(session.report.plan))
    plan.grid.grab()
    cues = plan.grid.plan.cues
    column = [c.number for c in cues].index(7)
    row = [*plan.grid.plan.cells].index("meridian")
    cell = plan.grid.plan.cells["meridian"][column]
    assert cell.sources == ("Moon phases",) and cell.changed
    moon = session.report.plan[cues[column].id]["meridian"]
    slides = session.report.plan[cues[4].id]["meridian"]
    assert moon[..., :3].mean() < 100 < slides[..., :3].mean(), "a moon on black, a light slide"
    assert not plan.grid.plan.cells["foyer-wall"][column].changed
    assert "stays: Patrons, the same for 7 cues" in plan.grid.words(
        "foyer-wall", plan.grid.plan.cells["foyer-wall"][column]
    )
    wide = plan.grid.wide
    plan.grid.zoom(1.25)
    assert plan.grid.wide > wide
    panel.edit("Off", lambda show: switched(show, "evening", [cues[0].id], True))
    qtbot.waitUntil(lambda: len(plan.grid.plan.cues) == len(cues) - 1)
    box = plan.grid.box(row, column - 1)
    QTest.mouseClick(plan.grid, LEFT, pos=box.center().toPoint())
    building = window.build.building
    assert window.workspace == "Build" and (building.on, building.number) == ("blind", 7)
    QTest.keyClick(window, Qt.Key.Key_Space)
    mark = session.playout.mark[0]
    qtbot.waitUntil(lambda: session.playout.mark[0] > mark + 2)
    assert head_of(session.playout.stage, "evening").fired is None, "here Space takes, and nothing is staged"
    assert session.surface == "meridian" and session.playout.stage.staged is None
    qtbot.waitUntil(lambda: not session.report.plan), "who does not look costs nothing"


def test_a_list_is_made_from_the_presets_by_two_clicks_and_its_first_cue_is_fired(
    panel: CuePanel, window: MainWindow, qtbot: QtBot
) -> None:
    for cues in window.session.show.lists:
        panel.edit("Away", lambda show, id=cues.id: without_list(show, id))
    assert panel.empty.isVisible() and not panel.of_presets.isVisible()
    QTest.mouseClick(panel.empty, LEFT)
    assert panel.first.isVisible() and panel.of_presets.isVisible() and not panel.empty.isVisible()
    QTest.mouseClick(panel.of_presets, LEFT)
    presets = sorted(p.number for p in window.session.show.presets)
    assert panel.cues is not None and [c.preset for c in panel.cues.cues] == presets and not panel.first.isVisible()
    panel.insert_presets()
    assert "every preset has its cue" in panel.why.text()
    panel.insert()
    row = panel.rows.currentRow()
    assert (row, panel.rows.currentColumn()) == (len(presets), 1), "its name is what is typed next"
    QTest.mouseClick(panel.edit_button, LEFT)
    click(panel, "1")
    qtbot.waitUntil(panel.go_button.isEnabled)
    QTest.mouseClick(panel.go_button, LEFT)
    qtbot.waitUntil(lambda: window.session.playout.stage.on_program == presets[0])
