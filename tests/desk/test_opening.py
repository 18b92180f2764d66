"""A window that has just been opened: Run works at once, the rest is there when it is asked for, and in a moment
anyway.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from ushering_adze.core.show.fresh import Wish, fresh_show
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk.app import opened
from ushering_adze.desk.deck import percent
from ushering_adze.desk.window import MainWindow


@pytest.fixture
def fresh(app: QApplication, qtbot: object) -> Iterator[MainWindow]:
    window = opened(demo_show(), None, DEMO_ROOT)
    yield window
    if "Map" in window.pages:
        window.map.close_all()
        window.align.close_all()
    window.outputs.close()
    window.session.playout.stop()
    window.session.blockSignals(True)
    window.deleteLater()
    qtbot.wait(30)  # type: ignore[attr-defined]


def test_a_preset_is_staged_and_taken_before_the_other_workspaces_are_built(fresh: MainWindow, qtbot: object) -> None:
    assert set(fresh.pages) == {"Run"} and fresh.top.proof.text() == "proof…", "not clear before it was looked at"
    for key in (Qt.Key.Key_7, Qt.Key.Key_Return):
        qtbot.keyClick(fresh, key)
    engine = fresh.session.playout
    qtbot.waitUntil(lambda: engine.stage.staged == 7)
    qtbot.keyClick(fresh, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: engine.stage.on_program == 7)
    qtbot.waitUntil(lambda: len(fresh.pages) == 6)
    assert fresh.top.proof.text() == "3 notes"
    assert {"save", "map-draw", "align-blend", "rename"} <= set(fresh.book.commands) and not fresh.book.actions[
        "map-draw"
    ].isEnabled()
    assert any(action.menu() for action in fresh.top.menu.actions()) and fresh.workspace == "Run"
    fresh.book.actions["go-map"].trigger()
    assert fresh.stack.currentWidget() is fresh.map and fresh.book.actions["map-draw"].isEnabled()


def test_a_workspace_asked_for_at_once_is_built_at_once_and_only_once(fresh: MainWindow, qtbot: object) -> None:
    qtbot.mouseClick(fresh.top.buttons["Align"], Qt.MouseButton.LeftButton)
    assert fresh.stack.currentWidget() is fresh.align and fresh.stack.count() == 6
    align, commands = fresh.align, dict(fresh.book.commands)
    qtbot.wait(1500)
    assert fresh.align is align and fresh.stack.count() == 6 and fresh.book.commands == commands
    assert fresh.align.raster.region is not None


def test_another_show_begins_while_cards_of_the_one_before_are_still_there(fresh: MainWindow, qtbot: object) -> None:
    """As by a click: its cards live until that is done with, and a report without their forecasts comes before."""
    session = fresh.session
    qtbot.waitUntil(lambda: session.report is not None and percent(session.report.forecasts.get(5)) > 0)
    cards, report = fresh.run.deck.cards, session.report
    small = fresh_show("Small", [Wish("LED wall", "Wall", 640, 320, 5000.0, 2500.0)])
    assert session.begin(small) and fresh.run.deck.cards is not cards
    session.tell(replace(report, forecasts={}))
    assert [card.preset.number for card in fresh.run.deck.cards] == [90, 91]


def test_every_action_of_align_says_what_is_missing_where_nothing_is_to_be_aligned(
    fresh: MainWindow, qtbot: object
) -> None:
    qtbot.waitUntil(lambda: len(fresh.pages) == 6)
    session, said = fresh.session, []
    assert session.begin(fresh_show("Bare", []))
    fresh.show_workspace("Align")
    session.trouble.connect(said.append)
    for id, action in fresh.book.actions.items():
        if id.startswith("bend-"):
            action.trigger()
    assert said and all("make its regions in Map first" in words or "first" in words for words in said), said
