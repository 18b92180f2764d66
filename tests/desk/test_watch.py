"""Watch in the real window: a wall from nothing, cells by hand, a lost source told and known."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.show import Still
from ushering_adze.desk.window import MainWindow

LEFT, CTRL, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier


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
    assert watch.view.selected == 4 and watch.head.text() == "Cell 5"
    watch.kind.setCurrentIndex(watch.kind.findData("surface"))
    watch.kind.activated.emit(watch.kind.currentIndex())
    watch.of.setCurrentIndex(watch.of.findData("relay"))
    watch.of.activated.emit(watch.of.currentIndex())
    watch.label.setFocus()
    QTest.keyClicks(watch.label, "Stream")
    QTest.keyClick(watch.label, Qt.Key.Key_Return)
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
