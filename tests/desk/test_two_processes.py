"""The window with its pictures made in a process beside it, as the program runs: every room of it shows them, and they
come back when that process ends.
"""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator

import numpy as np
import pytest
from hands import gone
from hands_in_build import LEFT, SHIFT, drag, until
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.actions import Recall
from ushering_adze.core.show import WindowBinding
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk.app import beside, opened
from ushering_adze.desk.window import MainWindow
from ushering_adze.playout import Beside


@pytest.fixture
def window(app: object, qtbot: QtBot) -> Iterator[MainWindow]:
    main = opened(demo_show(), None, DEMO_ROOT, beside())
    main.resize(1280, 800)
    session = main.session
    until(qtbot, lambda: session.report is not None and len(session.report.program) == 7)
    until(qtbot, lambda: len(main.pages) > 1)
    yield main
    main.outputs.close()
    session.playout.stop()
    session.blockSignals(True)
    gone(main)


def shows(window: MainWindow) -> int:
    """How bright what is shown of the Relay's output is."""
    return int(np.asarray(window.outputs.windows["relay"]._newest)[..., :3].max())


def test_an_evening_in_two_processes(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    playout = session.playout
    assert isinstance(playout, Beside)
    for key in (Qt.Key.Key_6, Qt.Key.Key_Return):
        qtbot.keyClick(window, key)
    until(qtbot, lambda: playout.stage.staged == 6)
    qtbot.keyClick(window, Qt.Key.Key_Space)
    until(qtbot, lambda: playout.stage.on_program == 6 and not session.report.moving)

    window.show_workspace("Build")
    building, canvas = window.build.building, window.build.canvas
    until(qtbot, lambda: len(window.build.shelf._images) > 3)
    building.select(("inset",))
    until(qtbot, lambda: session.report.looked is not None)
    before = canvas.states()["inset"].place
    middle = canvas.box_of(before).center()
    drag(canvas, middle, middle + QPointF(40, 20))
    until(qtbot, lambda: canvas.states()["inset"].place != before and bool(playout.stage.edits))
    assert playout.stage.program.target["house", "inset"].place == before, "on preview alone"

    window.show_workspace("Map")
    region = session.show.canvas("house").regions[0]
    session.select_region(region.id)
    shown = playout.raster(region.output)
    assert shown is not None and shown[..., :3].max() > 60
    was = session.show
    qtbot.keyClick(window.map.canvas, Qt.Key.Key_Right, SHIFT)
    assert session.show is not was and session.undo_label is not None
    until(qtbot, lambda: playout.stage.show is session.show)
    session.undo()
    until(qtbot, lambda: playout.stage.show is was and session.report.stage.show is was)

    window.show_workspace("Watch")
    until(qtbot, lambda: (wall := playout.wall) is not None and wall.pixels[..., :3].max() > 100)
    first = playout.wall
    assert first is not None
    until(qtbot, lambda: (wall := playout.wall) is not None and wall.serial > first.serial + 2)
    wall, view = session.show.walls[0], window.watch.view
    of = next(n for n, c in enumerate(wall.cells) if c.shows == "surface" and c.of == "meridian" and c.scope is None)
    x, y = view._on_wall(view.cell_box(of).center())
    assert playout.probe(wall.id, of, x, y) is not None
    until(qtbot, lambda: playout.remembered_span is not None)
    until(qtbot, lambda: any(m.mix == "hall" for m in playout.sound_report().mixes))

    window.outputs.bind("relay", WindowBinding())
    until(qtbot, lambda: window.outputs.windows["relay"]._newest is not None and shows(window) > 60)
    painted = window.outputs.windows["relay"].shown
    until(qtbot, lambda: window.outputs.windows["relay"].shown > painted + 3)
    assert session.report.surfaces["relay"].state in ("live", "unbound")
    until(qtbot, lambda: session.report.surfaces["relay"].state == "live")
    QTest.mouseClick(window.sill.black, LEFT)
    window.outputs.unbind("relay")
    assert not window.outputs.windows


def test_when_the_process_ends_the_window_says_so_and_shows_what_was_on_air(window: MainWindow, qtbot: QtBot) -> None:
    session, playout = window.session, window.session.playout
    assert isinstance(playout, Beside)
    window.outputs.bind("relay", WindowBinding())
    playout.act(Recall(preset=6, seconds=0))
    until(qtbot, lambda: playout.stage.on_program == 6 and window.outputs.windows["relay"]._newest is not None)
    frames = session.report.frames
    os.kill(playout._link.process, signal.SIGKILL)
    until(qtbot, lambda: "it runs again, with what was on air" in window.notice.text())
    until(qtbot, lambda: session.report.frames < frames and session.report.stage.on_program == 6)
    painted = window.outputs.windows["relay"].shown
    until(qtbot, lambda: window.outputs.windows["relay"].shown > painted + 3 and shows(window) > 60)
    window.outputs.bind("relay", None)
    qtbot.keyClick(window, Qt.Key.Key_5)
    qtbot.keyClick(window, Qt.Key.Key_Return)
    until(qtbot, lambda: playout.stage.staged == 5)
