"""Crosspoints in the real window: sources put on surfaces on preview and at once, locked, swapped, found."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.routing import routings
from ushering_adze.desk.run.crosspoints import CrosspointPanel
from ushering_adze.desk.window import MainWindow

LEFT, CTRL, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def panel(window: MainWindow, qtbot: QtBot) -> CrosspointPanel:
    qtbot.keyClick(window, Qt.Key.Key_O)
    made = window.run.crosspoints
    assert made.isVisible() and not window.run.cueing
    qtbot.waitUntil(lambda: len(made.points.there) == 7)
    return made


def place(panel: CrosspointPanel, source: str, surface: str) -> QPoint:
    row = [id for id, _, _ in panel.points.sources].index(source)
    column = [s.id for s in panel._session.show.surfaces].index(surface)
    return panel.points.box(row, column).center().toPoint()


def click(panel: CrosspointPanel, source: str, surface: str, keys: Qt.KeyboardModifier = NONE) -> None:
    QTest.mouseClick(panel.points, LEFT, keys, place(panel, source, surface))


def test_a_click_is_for_preview_ctrl_is_at_once_and_a_locked_surface_is_left_alone(
    panel: CrosspointPanel, window: MainWindow, qtbot: QtBot
) -> None:
    session, points = window.session, panel.points
    assert points.program["meridian"] == ("slides",)
    click(panel, "orrery", "meridian")
    qtbot.waitUntil(lambda: points.preview["meridian"] == "orrery")
    assert "orrery" not in session.report.surfaces["meridian"].source_ids
    points.grab()
    click(panel, "hold-card", "lectern", CTRL)
    qtbot.waitUntil(lambda: points.program["lectern"] == ("hold-card",))
    assert points.preview["meridian"] == "orrery", "what waits on preview stays there"
    panel.lock("lectern")
    click(panel, "notes", "lectern", CTRL)
    assert "Lectern is locked here" in window.notice.text()
    QTest.keyClick(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: points.program["meridian"] == ("orrery",))
    assert points.program["lectern"] == ("hold-card",)
    QTest.mouseDClick(points, LEFT, NONE, place(panel, "", "meridian"))
    qtbot.waitUntil(lambda: points.program["meridian"] == ())


def test_all_each_swap_and_found_by_typing(panel: CrosspointPanel, window: MainWindow, qtbot: QtBot) -> None:
    points = panel.points
    before = dict(points.preview)
    panel.swap("meridian", "lectern")
    qtbot.waitUntil(
        lambda: (points.preview["meridian"], points.preview["lectern"]) == (before["lectern"], before["meridian"])
    )
    panel.lock("relay")
    panel.to_all("night")
    qtbot.waitUntil(lambda: all(points.preview[s] == "night" for s in points.there - {"relay"}))
    assert points.preview["relay"] != "night"
    panel.finder.setText("camera")
    assert [id for id, _, _ in points.sources] == ["", "roof-camera", "aisle-camera"]
    panel.to_each("aisle-camera")
    surfaces = [s.id for s in window.session.show.surfaces if s.id != "relay"]
    qtbot.waitUntil(lambda: [points.preview[s] for s in surfaces] == ["aisle-camera", "roof-camera"] * 3)


def test_a_routing_is_stored_and_recalled_and_touches_nothing_else(
    panel: CrosspointPanel, window: MainWindow, qtbot: QtBot
) -> None:
    session, stage = window.session, lambda: window.session.playout.stage
    for source, surface in (("orrery", "meridian"), ("hold-card", "lectern"), ("grid", "relay")):
        click(panel, source, surface, CTRL)
    qtbot.waitUntil(lambda: panel.points.program["relay"] == ("grid",) or "grid" in panel.points.program["relay"])
    qtbot.waitUntil(lambda: not stage().program.moving(session.report.now))
    before = stage().program.target
    panel.store()
    (stored,) = routings(session.show)
    assert stored.number == 100 and "holds what lies on every surface" in window.notice.text()
    assert {kind for p in stored.parts for _, kind, _ in p.held} <= {"picture", "opacity"}
    for source, surface in (("slides", "meridian"), ("notes", "lectern"), ("aisle-camera", "relay")):
        click(panel, source, surface, CTRL)
    qtbot.waitUntil(lambda: "aisle-camera" in panel.points.program["relay"])
    panel._fill_routings(panel.recalled.menu())
    panel.recalled.menu().actions()[0].trigger()
    qtbot.waitUntil(lambda: stage().program.target == before)
