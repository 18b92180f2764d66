"""What is on air, by the keys and gestures of the desk: one surface at a time, nothing by accident, and nothing lost by
a name.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication

from ushering_adze.core.onair.actions import StagePreset
from ushering_adze.core.show import WindowBinding
from ushering_adze.core.show.edits import with_output
from ushering_adze.demo.show import copy_demo
from ushering_adze.desk.window import MainWindow

LEFT, NONE, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


def test_one_surface_is_taken_kept_or_black_by_keys(window: MainWindow, qtbot: Any) -> None:
    session, engine = window.session, window.session.playout
    window.book.actions["keep"].trigger()
    assert "No surface is selected" in window.notice.text()
    line = window.notice.height()
    window.notice.say("Kept.")
    assert window.notice.width() < 120 and window.notice.height() <= line, "it covers no more than its words want"
    window.notice.say("A sentence that is longer than a line of the window. " * 5)
    assert window.notice.width() == 760 and window.notice.height() > line
    tiles = {tile.surface.id: tile for tile in window.sill.tiles}
    for id, keys in (("relay", NONE), ("lectern", CTRL), ("meridian", CTRL), ("relay", CTRL)):
        qtbot.mouseClick(tiles[id], LEFT, keys)
    assert session.surfaces == ("lectern", "meridian"), "Ctrl adds, and takes away"
    qtbot.mouseClick(tiles["meridian"], LEFT)
    assert session.surfaces == ("meridian",)
    for key in (Qt.Key.Key_7, Qt.Key.Key_Return):
        qtbot.keyClick(window, key)
    qtbot.waitUntil(lambda: engine.stage.staged == 7)
    before = dict(engine.stage.program.target)
    qtbot.keyClick(window, Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: engine.stage.program.target["house", "wall"] != before["house", "wall"])
    assert engine.stage.program.target["house", "west"] == before["house", "west"] and engine.stage.staged == 7
    session.select_surface("west-mast")
    qtbot.keyClick(window, Qt.Key.Key_Y)
    qtbot.waitUntil(lambda: engine.stage.kept == {"west-mast"})
    qtbot.keyClick(window, Qt.Key.Key_X)
    qtbot.waitUntil(lambda: engine.stage.on_program == 7)
    after = engine.stage.program.target
    assert after["house", "west"] == before["house", "west"] and after["house", "east"] != before["house", "east"]
    qtbot.keyClick(window, Qt.Key.Key_Y)
    session.select_surface("relay")
    window.book.actions["black-surface"].trigger()
    qtbot.waitUntil(lambda: session.report.surfaces["relay"].state == "black" and engine.stage.kept == set())
    window.book.actions["black-surface"].trigger()
    qtbot.waitUntil(lambda: session.report.surfaces["relay"].state != "black")


def test_a_time_that_is_none_takes_nothing_and_keys_let_go_elsewhere_do_not_fire(
    window: MainWindow, qtbot: Any
) -> None:
    engine = window.session.playout
    engine.act(StagePreset(preset=7))
    qtbot.waitUntil(lambda: window.run.strip.take_button.isEnabled())
    window.run.strip.time.setText("1.o s")
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert "Nothing was taken" in window.notice.text()
    frames = engine.mark[0]
    qtbot.waitUntil(lambda: engine.mark[0] > frames + 2)
    assert engine.stage.on_program == 5 and engine.stage.staged == 7
    window.setFocus()
    qtbot.keyPress(window, Qt.Key.Key_B)
    assert window.sill.black.pressed
    QApplication.sendEvent(window, QEvent(QEvent.Type.WindowDeactivate))
    assert not window.sill.black.pressed, "the release may be seen by another window"
    qtbot.keyPress(window, Qt.Key.Key_H)
    assert window.sill.hold.pressed
    window.run.strip.time.setFocus()
    window.outputs.bind("relay", WindowBinding())
    window._let_go()
    assert not window.sill.hold.pressed and engine.covered is None


def test_renaming_an_output_touches_neither_its_window_nor_its_picture(window: MainWindow, qtbot: Any) -> None:
    session = window.session
    window.outputs.bind("relay", WindowBinding())
    output = window.outputs.windows["relay"]
    relay = session.show.output("relay")
    session.edit("Rename", with_output(session.show, relay.model_copy(update={"name": "Clean feed"})))
    assert window.outputs.windows["relay"] is output and output.windowTitle() == "7 Clean feed"


def test_saving_elsewhere_and_undoing_loses_nothing_on_air(window: MainWindow, qtbot: Any, tmp_path: Path) -> None:
    session = window.session
    assert session.open(copy_demo(tmp_path / "demo"))
    qtbot.waitUntil(lambda: session.report.stage.show is session.show and not session.report.faults)
    slots = session.playout._engine._pool._slots
    players = {id: slot.player for id, slot in slots.items() if slot.player is not None}
    assert len(players) > 3
    session.edit("Rename", session.show.model_copy(update={"name": "Other"}))
    (tmp_path / "else").mkdir()
    assert session.save(tmp_path / "else" / "other.adze")
    session.undo()
    frames = session.playout.mark[0]
    qtbot.waitUntil(lambda: session.playout.stage.show is session.show and session.playout.mark[0] > frames + 3)
    assert {id: slots[id].player for id in players} == players, "nothing is opened anew"
    qtbot.waitUntil(lambda: session.playout.faults() == {})  # a slow disk is told while it is
    assert session.show.name == "Centenary Night"
