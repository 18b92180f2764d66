"""Players in Run: what is on air or armed, its time, and its transport by mouse and keys, in the real window."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.actions import Recall, StagePreset
from ushering_adze.desk.run.players import PlayersPanel
from ushering_adze.desk.window import MainWindow
from ushering_adze.playout import PlayerReport

LEFT = Qt.MouseButton.LeftButton


def middle(rect: object) -> QPoint:
    return rect.center().toPoint()  # type: ignore[attr-defined]


@pytest.fixture
def panel(window: MainWindow, qtbot: QtBot) -> PlayersPanel:
    window.show_workspace("Run")
    window.session.playout.act(Recall(preset=7, seconds=0))
    window.session.playout.act(StagePreset(preset=8))
    if window.run.top.currentIndex() == 0:
        QTest.keyClick(window, Qt.Key.Key_P)
    made = window.run.players
    qtbot.waitUntil(lambda: {p.source for p in made.listed() if p.on == "program"} >= {"moon-phases", "star-trails"})
    qtbot.waitUntil(lambda: "orrery" in {p.source for p in made.listed() if p.on == "preview"})
    qtbot.waitUntil(lambda: player(made, "moon-phases").length > 0)
    made.grab()
    return made


def player(panel: PlayersPanel, source: str) -> PlayerReport:
    return next(p for p in panel.listed() if p.source == source)


def test_what_is_on_air_comes_first_then_what_is_armed_and_the_rest_on_demand(
    panel: PlayersPanel, qtbot: QtBot
) -> None:
    assert [p.on for p in panel.listed()] == sorted(
        (p.on for p in panel.listed()), key=["program", "preview", ""].index
    )
    assert "countdown" not in {p.source for p in panel.listed()}
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, middle(panel._more))
    assert player(panel, "countdown").length == 300 and player(panel, "countdown").left == 300
    panel.grab()
    assert min(rect.height() for rect, _ in panel._rows) >= 34 and panel._rows[-1][0].bottom() <= panel.height(), (
        "none is squeezed"
    )
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, middle(panel._more))
    assert "countdown" not in {p.source for p in panel.listed()}


def test_a_player_is_chosen_paused_sent_and_started_by_keys(
    panel: PlayersPanel, window: MainWindow, qtbot: QtBot
) -> None:
    rect = next(r for r, p in panel._rows if p.source == "moon-phases")
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(round(rect.x() + 30), round(rect.y() + 8)))
    assert window.session.source == "moon-phases" and panel.chosen().source == "moon-phases"  # type: ignore[union-attr]
    QTest.keyClick(window, Qt.Key.Key_K)
    qtbot.waitUntil(lambda: not player(panel, "moon-phases").running)
    QTest.keyClick(window, Qt.Key.Key_Home)
    qtbot.waitUntil(lambda: player(panel, "moon-phases").within == 0)
    QTest.keyClick(window, Qt.Key.Key_L)
    length = player(panel, "moon-phases").length
    qtbot.waitUntil(lambda: player(panel, "moon-phases").within == pytest.approx(min(15.0, length - 0.04)))
    QTest.keyClick(window, Qt.Key.Key_J)
    qtbot.waitUntil(lambda: player(panel, "moon-phases").within == 0)
    QTest.keyClick(window, Qt.Key.Key_K)
    qtbot.waitUntil(lambda: player(panel, "moon-phases").running and player(panel, "moon-phases").within > 0)


def test_its_bar_sends_it_and_its_signs_are_buttons(panel: PlayersPanel, window: MainWindow, qtbot: QtBot) -> None:
    at = next(n for n, (_, p) in enumerate(panel._rows) if p.source == "moon-phases")
    loop = panel._buttons[3 * at + 2][0]
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, middle(loop))
    qtbot.waitUntil(lambda: not player(panel, "moon-phases").looping)
    stand = panel._buttons[3 * at + 1][0]
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, middle(stand))
    qtbot.waitUntil(lambda: not player(panel, "moon-phases").running)
    bar = next(r for r, p in panel._bars if p.source == "moon-phases")
    place = QPoint(round(bar.x() + bar.width() / 2), round(bar.center().y()))
    qtbot.mouseClick(panel, LEFT, Qt.KeyboardModifier.NoModifier, place)
    length = player(panel, "moon-phases").length
    qtbot.waitUntil(lambda: abs(player(panel, "moon-phases").within - length / 2) < 0.1)


def test_its_bar_shows_where_it_would_be_sent(panel: PlayersPanel, qtbot: QtBot) -> None:
    bar = next(r for r, p in panel._bars if p.source == "moon-phases")
    found = []
    for share in (0.02, 0.6):
        at = QPoint(round(bar.x() + share * bar.width()), round(bar.center().y()))
        QTest.mouseMove(panel, at)
        panel._point(at.toPointF())
        qtbot.waitUntil(lambda: panel.glimpse("moon-phases", panel.pointed[2]) is not None)  # type: ignore[index]
        image = panel.glimpse("moon-phases", panel.pointed[2])  # type: ignore[index]
        assert image is not None and panel.pointed is not None and panel.pointed[1].source == "moon-phases"
        found.append(image.pixels.astype(int))  # type: ignore[attr-defined]
        panel.grab()
    assert max(found[0].shape[:2]) <= 144 and abs(found[0] - found[1]).mean() > 1, "another moment, another moon"
    panel._point(None)
    assert panel.pointed is None and panel.glimpse("slides", 0.5) is None, "what is no clip has no such pictures"


def test_time_is_told_as_clocks_tell_it() -> None:
    once = PlayerReport("a", "A", 12.0, 10.0, True, False, "program")
    round_ = PlayerReport("a", "A", 12.0, 10.0, True, True, "program")
    assert (once.within, once.left) == (10.0, 0.0) and (round_.within, round_.left) == (2.0, 8.0)


def test_a_key_means_one_thing_in_each_workspace(window: MainWindow) -> None:
    """Of the commands that a key starts, one at most is there to be started, wherever one is."""
    for workspace in ("Rig", "Map", "Align", "Run"):
        window.show_workspace(workspace)
        there: dict[str, list[str]] = {}
        for id, command in window.book.commands.items():
            if command.keys and not command.by_window and not command.held and window.book.actions[id].isEnabled():
                for key in command.keys.split(" | "):
                    there.setdefault(key, []).append(id)
        assert not {key: ids for key, ids in there.items() if len(ids) > 1}, workspace
