"""Watch in the real window: a wall from nothing, cells by hand, a lost source told and known."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.actions import Arrange
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Input, Still
from ushering_adze.core.show.alarming import rule_for
from ushering_adze.core.show.wall import Wall
from ushering_adze.core.show.walling import with_wall
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed
from waiting import PATIENCE

LEFT, CTRL, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier


def finer(wall: Wall) -> dict[str, object]:
    """The same on twice as many lines."""
    twice = [c.model_copy(update={k: 2 * getattr(c, k) for k in "xywh"}) for c in wall.cells]
    return {"columns": 2 * wall.columns, "rows": 2 * wall.rows, "cells": tuple(twice)}


def test_a_wall_is_made_and_a_loss_is_told_and_known(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    session = window.session
    qtbot.keyClick(window, Qt.Key.Key_6, Qt.KeyboardModifier.AltModifier)
    watch = window.watch
    assert watch.isVisible() and watch.wall is not None and watch.wall.name == "Front of house"
    qtbot.waitUntil(lambda: session.playout.wall is not None and session.playout.wall.wall == "front-of-house")
    watch.make("3 × 3")
    assert watch.wall.name == "Wall" and [c.of for c in watch.wall.cells][:2] == ["slides", "notes"]
    qtbot.waitUntil(lambda: session.playout.wall is not None and session.playout.wall.wall == watch.wall.id)

    def middle(n: int) -> QPoint:
        return watch.view.cell_box(n).center().toPoint()

    QTest.mouseClick(watch.view, LEFT, NONE, middle(4))
    assert watch.view.selected == 4 and watch.cell.head.text() == "Cell 5"
    watch.cell.kind.setCurrentIndex(watch.cell.kind.findData("surface"))
    watch.cell.kind.activated.emit(watch.cell.kind.currentIndex())
    watch.cell.of.setCurrentIndex(watch.cell.of.findData("relay"))
    watch.cell.of.activated.emit(watch.cell.of.currentIndex())
    watch.cell.label.setFocus()
    QTest.keyClicks(watch.cell.label, "Stream")
    QTest.keyClick(watch.cell.label, Qt.Key.Key_Return)
    cell = watch.wall.cells[4]
    assert (cell.shows, cell.of, cell.label) == ("surface", "relay", "Stream")
    QTest.mouseDClick(watch.view, LEFT, NONE, middle(4))
    assert watch.view.alone == 4 and watch.view.cell_box(4).width() > 500
    watch.view.grab()
    QTest.mouseDClick(watch.view, LEFT, NONE, QPoint(watch.view.width() // 2, watch.view.height() // 2))
    assert watch.view.alone is None
    session.select_surface("lectern")
    QTest.mouseClick(watch.view, LEFT, CTRL, middle(0))
    qtbot.waitUntil(lambda: bool(session.playout.stage.edits))
    # a source is lost
    lost = Still(id="gone", name="Gone", path=str(tmp_path / "none.png"))
    session.edit("Lost", session.show.model_copy(update={"sources": (*session.show.sources, lost)}))
    qtbot.waitUntil(
        lambda: any("Gone" in (watch.wrong.table.item(r, 1).text()) for r in range(watch.wrong.table.rowCount()))
    )
    QTest.mouseClick(watch.wrong.known, LEFT)
    qtbot.waitUntil(lambda: watch.wrong.table.item(0, 2).text() == "known")
    watch._remove()
    assert watch.wall is not None and watch.wall.name == "Front of house"
    window.show_workspace("Run")
    qtbot.waitUntil(lambda: session.playout.wall is None)


def test_walls_are_cut_by_hand_and_rules_of_alarms_are_typed(window: MainWindow, qtbot: QtBot) -> None:
    session, watch = window.session, window.watch
    window.show_workspace("Watch")
    watch.make("2 × 2")
    wall = watch.wall
    assert wall is not None
    view = watch.view
    edge = view.cell_box(0)
    at = QPoint(round(edge.right()), round(edge.center().y()))
    QTest.mousePress(view, LEFT, NONE, at)
    QTest.mouseMove(view, at + QPoint(round(edge.width() * 0.2), 0))
    QTest.mouseRelease(view, LEFT, NONE, at)
    assert watch.wall == wall, "two columns are two columns: there is no line between"
    session.edit("Finer", with_wall(session.show, wall.model_copy(update=finer(wall))))
    edge = view.cell_box(0)
    at = QPoint(round(edge.right()), round(edge.center().y()))
    QTest.mousePress(view, LEFT, NONE, at)
    QTest.mouseMove(view, at + QPoint(round(edge.width() * 0.5), 0))
    QTest.mouseRelease(view, LEFT, NONE, at + QPoint(round(edge.width() * 0.5), 0))
    assert [(c.x, c.w) for c in watch.wall.cells] == [(0, 3), (3, 1), (0, 2), (2, 2)]
    # a free box: checked, dragged, typed; what cannot be is told
    QTest.mouseClick(view, LEFT, NONE, view.cell_box(0).center().toPoint())
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert view.selected == 2, "the arrows go from cell to cell"
    QTest.mouseClick(watch.cell.free, LEFT, NONE, QPoint(8, watch.cell.free.height() // 2))
    assert watch.wall.cells[2].box == (0, 540, 960, 540) and watch.cell.box.isVisible()
    watch.cell.box.setFocus()
    watch.cell.box.selectAll()
    QTest.keyClicks(watch.cell.box, "100, 500, 480 × 270")
    QTest.keyClick(watch.cell.box, Qt.Key.Key_Return)
    assert watch.wall.cells[2].box == (100, 500, 480, 270)
    told: list[str] = []
    session.trouble.connect(told.append)
    watch.cell.box.setFocus()
    watch.cell.box.selectAll()
    QTest.keyClicks(watch.cell.box, "1 2 3")
    QTest.keyClick(watch.cell.box, Qt.Key.Key_Return)
    assert told == ["a box is four numbers: from the left, from the top, width and height, like 960 540 480 270"]
    middle = view.cell_box(2).center().toPoint()
    QTest.mousePress(view, LEFT, NONE, middle)
    QTest.mouseMove(view, middle - QPoint(3000, 0))
    QTest.mouseRelease(view, LEFT, NONE, middle)
    assert watch.wall.cells[2].box == (0, 500, 480, 270), "it stops at the edge of the wall"
    qtbot.waitUntil(lambda: session.playout.wall is not None and session.playout.wall.wall == watch.wall.id)
    QTest.mouseMove(view, view.cell_box(0).center().toPoint())
    qtbot.waitUntil(lambda: watch.hint.text().startswith("x "))
    QTest.keyClick(view, Qt.Key.Key_1)
    assert watch.wall.name == "Front of house", "walls have keys"
    # rules
    window.watch_page(3)
    table = watch.rules.table
    row = next(n for n, rule in enumerate(watch.rules.rules) if rule.kind == "loud")
    table.setCurrentCell(row, 3)
    table.item(row, 3).setText("-12")
    assert session.show.alarms.rule("loud").limit == -12 and table.item(row, 3).text() == "-12 LUFS"
    table.item(row, 2).setText("soon")
    assert session.show.alarms.rule("loud").seconds == 1 and "Too loud" in told[-1]
    table.setCurrentCell(0, 2)
    watch.rules._fill_own()
    next(a for a in watch.rules._own.actions() if a.text() == "Relay").trigger()
    assert watch.rules.rules[1].of == "relay" and table.item(1, 1).text() == "Relay"
    table.item(1, 0).setCheckState(Qt.CheckState.Unchecked)
    assert not session.show.alarms.rule("black", "relay").on and session.show.alarms.rule("black", "horizon").on
    table.setCurrentCell(0, 2)
    watch.rules._fill_own()
    next(a for a in watch.rules._own.actions() if a.text() == "All LED walls").trigger()
    assert (watch.rules.rules[1].lot, table.item(1, 1).text()) == ("led-wall", "LED walls")
    table.item(1, 2).setText("45")
    assert rule_for(session.show, "black", "meridian").seconds == 45
    assert rule_for(session.show, "black", "horizon").seconds == 5
    table.setCurrentCell(1, 2)
    QTest.mouseClick(watch.rules.usual, LEFT)
    QTest.mouseClick(watch.rules.calls, LEFT, NONE, QPoint(8, watch.rules.calls.height() // 2))
    assert session.show.alarms.calls
    table.setCurrentCell(1, 2)
    QTest.mouseClick(watch.rules.usual, LEFT)
    assert session.show.alarms.rule("black", "relay").on


def test_a_wall_is_laid_out_as_another_and_its_cells_have_meters(window: MainWindow, qtbot: QtBot) -> None:
    session, watch = window.session, window.watch
    window.show_workspace("Watch")
    watch.make("2 × 2")
    watch.make("one large and five")
    here, first = watch.chosen, session.show.walls[-2]
    assert here is not None and watch.wall is here
    watch._fill_out()
    next(a for a in watch.like.actions() if a.text() == first.name).trigger()
    qtbot.waitUntil(lambda: watch.wall is not None and watch.wall.id == first.id)
    qtbot.waitUntil(lambda: watch.walls.currentText() == f"{here.name}, as {first.name}")
    assert watch.chosen.id == here.id
    qtbot.waitUntil(lambda: session.playout.wall is not None and session.playout.wall.wall == here.id)
    # the other one may itself be laid out like a third: that is another matter; and it may be of another size
    session.playout.act(Arrange(wall=first.id, like="front-of-house"))
    cell = first.cells[0].model_copy(update={"box": (0, 0, 480, 270)})
    smaller = first.model_copy(update={"width": 960, "height": 540, "cells": (cell, *first.cells[1:])})
    session.edit("Smaller", with_wall(session.show, smaller))
    assert watch.wall == smaller and watch.view.wall is not None and watch.view.wall.cells[0].box[2:] == (960, 540)
    qtbot.waitUntil(lambda: (painted := session.playout.wall) is not None and painted.pixels.shape[1] == here.width)
    box = watch.view.cell_box(0)
    assert box.width() == pytest.approx(watch.view.cell_box(3).width(), abs=2), "half of either wall"
    at = box.center().toPoint()
    QTest.mousePress(watch.view, LEFT, NONE, at)
    QTest.mouseMove(watch.view, at + QPoint(round(box.width() / 4), 0))
    QTest.mouseRelease(watch.view, LEFT, NONE, at + QPoint(round(box.width() / 4), 0))
    moved = session.show.walls[-2].cells[0].box
    assert moved is not None and moved[1:] == (0, 480, 270) and moved[0] == pytest.approx(120, abs=3)
    assert session.show.walls[-1] == here, "this one is as it was"
    watch._fill_out()
    next(a for a in watch.like.actions() if a.text() == "itself").trigger()
    qtbot.waitUntil(lambda: watch.walls.currentText() == here.name)
    assert watch.wall.id == here.id
    QTest.mouseClick(watch.view, LEFT, NONE, watch.view.cell_box(0).center().toPoint())
    watch.cell.meters.setCurrentIndex(2)
    watch.cell.meters.activated.emit(2)
    QTest.mouseClick(watch.cell.in_all, LEFT)
    assert {c.meters for c in watch.wall.cells} == {"beside"}


def test_a_wall_from_nothing_goes_out_and_a_lost_camera_is_known(window: MainWindow, qtbot: QtBot) -> None:
    """Inputs: Alt+6; New and its template; Send out and its surface; a click on the cell, to hear it; I know of it:
    seven of the fifteen that it may take."""
    session, watch, inputs = window.session, window.watch, 0
    to = f"udp://127.0.0.1:{free_port()}"
    sender = StandinFeed(to, 320, 180, 25.0, sound=True)
    sender.start()
    try:
        camera = Input(id="door", name="Door", address=to, as_it_comes=True)
        sources = (camera, *session.show.sources)
        session.edit("Camera", session.show.model_copy(update={"sources": sources, "walls": ()}))
        qtbot.keyClick(window, Qt.Key.Key_6, Qt.KeyboardModifier.AltModifier)
        inputs += 1
        assert watch.wall is None
        new = next(b for b in watch.findChildren(QPushButton) if b.text() == "New")
        next(a for a in new.menu().actions() if a.text() == "one large and seven").trigger()
        inputs += 2
        wall = watch.wall
        assert wall is not None and wall.cells[0].of == "door" and all(c.shows == "source" for c in wall.cells)
        watch._fill_out()
        next(a for a in watch._out.actions() if a.text().startswith("On Foyer wall")).trigger()
        inputs += 2
        source = f"wall-{wall.id}"
        qtbot.waitUntil(lambda: session.report.surfaces["foyer-wall"].source_ids == (source,))
        qtbot.waitUntil(lambda: bool(picture_of(window, "foyer-wall")[:150, :200, :3].max() > 60))
        qtbot.waitUntil(lambda: any(s.source == "door" and s.state == "live" for s in session.report.signals))
        QTest.mouseClick(watch.view, LEFT, NONE, watch.view.cell_box(0).center().toPoint())
        inputs += 1
        assert session.playout.listening == "door" and "you hear Door" in watch.listens.text()
        qtbot.waitUntil(lambda: "door" in session.playout.sound_report().sources)
        sender.tell("stop")
        qtbot.waitUntil(lambda: any(t.key == "door" for t in session.report.troubles))
        qtbot.waitUntil(lambda: watch.wrong.table.rowCount() > 0 and watch.wrong.known.isEnabled())
        QTest.mouseClick(watch.wrong.known, LEFT)
        inputs += 1
        qtbot.waitUntil(lambda: all(t.acknowledged for t in session.report.troubles if t.key == "door"))
        sender.tell("go")
        qtbot.waitUntil(lambda: all(t.key != "door" for t in session.report.troubles))
        assert inputs <= 15
    finally:
        sender.tell("quit")
        sender.join(PATIENCE)


def picture_of(window: MainWindow, surface: str) -> Pixels:
    found = window.session.playout.surface_picture(surface)
    assert found is not None
    return found
