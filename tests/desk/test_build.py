"""Build in the real window: sources dropped, layers moved and sized, presets stored, updated, edited blind."""

from __future__ import annotations

import json
import socket
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hands_in_build import (
    ALT,
    CTRL,
    LEFT,
    NONE,
    SHIFT,
    chosen_seen,
    drag,
    drop,
    on_air,
    on_widget,
    placed,
    showing,
    until,
)
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest

from ushering_adze.core.kinds.shape import Shape, ShapeNow
from ushering_adze.core.onair.actions import Cut, Recall
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.show import Input, Place, Show
from ushering_adze.core.signal.announced import announcement
from ushering_adze.desk import frame_steps
from ushering_adze.desk.build.drawing import TURN
from ushering_adze.desk.build.workspace import BuildWorkspace
from ushering_adze.desk.dragging import FINISH, SOURCES, carried
from ushering_adze.desk.frame_steps import FrameSteps
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.outputs.png import write_png


def test_a_preset_of_three_layers_is_made_from_nothing_and_a_variant_of_it(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    """Six inputs: three drops, Ctrl+Return, a name, Return; and nothing of it was on air."""
    before = window.session.show
    for source, x, y in (("star-trails", 2000, 300), ("aisle-camera", 1500, 1300), ("slides", 128, 900)):
        drop(build, source, x, y)
        until(qtbot, lambda source=source: source in showing(build))
    states = build.building.states()
    shown = {s.picture.source: s.place for s in states.values() if is_seen(s)}
    assert shown["star-trails"] == (256, 0, 3600, 1080) and shown["aisle-camera"] == (1096, 1080, 1920, 960)
    assert shown["slides"] == (0, 636, 256, 768), "each takes all of the surface it was dropped on"
    assert not on_air(window), "nothing is on air"
    QTest.keyClick(window, Qt.Key.Key_Return, CTRL)
    sheet = build.sheet
    assert sheet is not None and sheet.isVisible()
    sheet.name.selectAll()
    QTest.keyClicks(sheet.name, "Opening")
    QTest.keyClick(sheet.name, Qt.Key.Key_Return)
    number = next(p.number for p in window.session.show.presets if p.name == "Opening")
    preset = window.session.show.preset(number)
    assert preset is not None and len(preset.parts) == 3 and preset.clears == ("house",)
    until(qtbot, lambda: window.session.playout.stage.staged == number)
    assert not window.session.playout.stage.edits, "what is on preview is known by its name from now on"
    assert {s for part in preset.parts for _, s in part.named()} == {"star-trails", "aisle-camera", "slides"}
    window.session.playout.act(Recall(preset=number, seconds=0))
    until(qtbot, lambda: window.session.report.surfaces["meridian"].source_ids == ("aisle-camera",))
    for name in ("horizon", "west-mast"):
        assert window.session.report.surfaces[name].source_ids == ({"horizon": "star-trails"}.get(name, "slides"),)
    window.session.undo()
    assert window.session.show.preset(number) is None and before.presets == window.session.show.presets


def test_layers_are_moved_sized_snapped_nudged_and_undone(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    drop(build, "slides", 1500, 1500)
    until(qtbot, lambda: chosen_seen(build))
    id = build.building.selected[0]
    build.canvas.grab()
    whole = placed(build, id)
    corner = on_widget(build, whole[0] + whole[2], whole[1] + whole[3])
    drag(build.canvas, corner, on_widget(build, whole[0] + 960, whole[1] + 480))
    until(qtbot, lambda: placed(build, id) == (1096, 1080, 960, 480)), "its corner came to the middle of Meridian"
    build.canvas.grab()
    drag(build.canvas, on_widget(build, 1300, 1200), on_widget(build, 1300 + 955, 1200 + 470))
    until(qtbot, lambda: placed(build, id) == (2056, 1560, 960, 480)), "and snapped into the other corner"
    build.canvas.grab()
    corner = on_widget(build, 2056, 1560)
    drag(build.canvas, corner, on_widget(build, 2056 + 480, 1560 + 100), SHIFT | ALT)
    until(qtbot, lambda: placed(build, id)[2] < 960 and not build.canvas.boxes)
    x, y, w, h = placed(build, id)
    assert w / h == pytest.approx(2.0) and (x + w, y + h) == pytest.approx((3016, 2040)), "Shift keeps the shape"
    build.canvas.setFocus()
    for keys, dx in ((NONE, 1), (SHIFT, 10), (CTRL, 0.1)):
        until(qtbot, lambda: not build.canvas.boxes)
        was = placed(build, id)[0]
        QTest.keyClick(build.canvas, Qt.Key.Key_Right, keys)
        until(qtbot, lambda was=was, dx=dx: placed(build, id)[0] == pytest.approx(was + dx))
    for _ in range(4):
        window.book.actions["undo"].trigger()
    until(qtbot, lambda: placed(build, id) == (1096, 1080, 1920, 960))
    until(qtbot, lambda: not build.canvas.boxes)
    build.canvas.crop(True)
    build.canvas.grab()
    drag(build.canvas, on_widget(build, 1096, 1560), on_widget(build, 1096 + 480, 1560))
    until(qtbot, lambda: build.building.states()[id].crop[0] == pytest.approx(0.25, abs=0.01))
    assert placed(build, id)[0] == pytest.approx(1576, abs=12), "the picture stays where it was"


def test_fields_take_sums_for_several_layers_and_say_what_is_wrong(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    ids = []
    for x in (1300, 128):
        drop(build, "slides", x, 1200)
        until(qtbot, lambda: chosen_seen(build))
        ids.append(build.building.selected[0])
    build.building.select(ids)
    settings = build.settings
    field, editor = settings.editors["place", "w"]
    editor.setModified(True)
    settings.typed(field, "w/2")
    until(qtbot, lambda: [placed(build, id)[2] for id in ids] == [960, 128])
    field, editor = settings.editors["opacity", ""]
    editor.setModified(True)
    settings.typed(field, "50%")
    until(qtbot, lambda: {build.building.states()[id].opacity for id in ids} == {0.5})
    field, editor = settings.editors["place", "h"]
    editor.setModified(True)
    settings.typed(field, "wide")
    assert "wide" in settings.why.text() and settings.why.isVisible()
    build.arranging.same_size()
    until(qtbot, lambda: len({placed(build, id)[2:] for id in ids}) == 1)
    build.arranging.mirror()
    until(qtbot, lambda: placed(build, ids[1])[0] > 3000)
    build.building.hide()
    until(qtbot, lambda: not any(is_seen(build.building.states()[id]) for id in ids))


def test_steps_of_a_drag_wait_for_a_frame_but_not_for_one_that_never_comes(
    window: MainWindow, qtbot: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    done: list[int] = []
    playout = window.session.playout
    with monkeypatch.context() as patient:
        patient.setattr(frame_steps, "PATIENCE", 1_000_000)  # no clock, but a frame
        steps = FrameSteps(window, window.session, lambda: done.append(1))
    steps.ask()
    until(qtbot, lambda: len(done) == 1)
    made: list[Callable[[], object]] = []
    monkeypatch.setattr(playout, "after_frame", made.append)
    for _ in range(50):
        steps.ask()
    was = playout.mark[0]
    until(qtbot, lambda: playout.mark[0] > was + 3)
    assert len(made) == 1 and len(done) == 1, "fifty are one, and it waits"
    made.pop()()
    until(qtbot, lambda: len(done) == 2)
    steps.ask()
    steps.stop()
    made.pop()()
    was = playout.mark[0]
    until(qtbot, lambda: playout.mark[0] > was + 3)
    assert len(done) == 2, "what was stopped is not done"
    steps = FrameSteps(window, window.session, lambda: done.append(1))
    steps.ask()
    until(qtbot, lambda: len(done) == 3)


def test_edits_go_where_the_frame_says(build: BuildWorkspace, window: MainWindow, qtbot: object) -> None:
    session = window.session
    session.playout.act(Recall(preset=5, seconds=0))
    until(qtbot, lambda: is_seen(session.playout.stage.program.target["house", "wall"]))
    build.building.select(("wall",))
    was = session.playout.stage.program.target["house", "wall"].place
    QTest.mouseClick(build.modes["program"], LEFT)
    assert build.building.on == "program"
    build.canvas.nudge(10, 0)
    until(qtbot, lambda: session.playout.stage.program.target["house", "wall"].place[0] == was[0] + 10)
    steps = len(session.playout.stage.back)
    build.canvas.nudge(10, 0)
    until(qtbot, lambda: session.playout.stage.program.target["house", "wall"].place[0] == was[0] + 20)
    assert len(session.playout.stage.back) == steps, "nudges are one step back"

    card = next(c for c in build.deck.cards if c.preset.number == 6)
    QTest.mouseClick(card, LEFT, ALT, QPoint(20, 20))
    assert build.building.on == "blind" and build.building.number == 6
    until(qtbot, lambda: session.report.looked is not None and session.report.looked.view.preset == 6)
    build.building.select(("inset",))
    before, program = placed(build, "inset"), session.playout.stage.program.target
    build.canvas.nudge(5, 0)
    until(qtbot, lambda: placed(build, "inset")[0] == before[0] + 5 and not build.canvas.boxes)
    assert session.undo_label == "Move"
    assert session.playout.stage.program.target == program and not session.playout.stage.previewing
    session.undo()
    until(qtbot, lambda: placed(build, "inset") == before)


def test_layers_are_copied_ordered_locked_grouped_and_removed(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    building, session = build.building, window.session
    drop(build, "slides", 1500, 1500)
    until(qtbot, lambda: chosen_seen(build))
    first = building.selected[0]
    window.book.actions["duplicate"].trigger()
    until(qtbot, lambda: building.selected != (first,) and chosen_seen(build))
    second = building.selected[0]
    assert placed(build, second)[:2] == (placed(build, first)[0] + 24, placed(build, first)[1] + 24)
    order = [y.id for y in session.show.canvas("house").layers]
    assert order.index(second) == order.index(first) + 1
    window.book.actions["build-down"].trigger()
    order = [y.id for y in session.show.canvas("house").layers]
    assert order.index(second) == order.index(first) - 1
    building.select((first, second))
    window.book.actions["build-group"].trigger()
    building.select((first,))
    assert set(building.selected) == {first, second}, "one of a group brings all"
    window.book.actions["build-lock"].trigger()
    build.canvas.nudge(5, 5)
    at = placed(build, first)
    window.book.actions["remove"].trigger()
    assert first in {y.id for y in session.show.canvas("house").layers} and placed(build, first) == at, "locked"
    window.book.actions["build-lock"].trigger()
    session.playout.act(Cut())
    until(qtbot, lambda: is_seen(session.playout.stage.program.target["house", first]))
    window.book.actions["remove"].trigger()
    assert first in {y.id for y in session.show.canvas("house").layers}, "what is on air is not taken out of the show"
    session.playout.act(Recall(preset=90, seconds=0))
    until(qtbot, lambda: not is_seen(session.playout.stage.program.target["house", first]))
    window.book.actions["remove"].trigger()
    assert not {first, second} & {y.id for y in session.show.canvas("house").layers}
    assert isinstance(session.show, Show) and session.undo_label == "Remove layers"


def test_a_layer_is_turned_by_its_handle_and_sized_as_it_is_seen(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    building = build.building
    drop(build, "slides", 1500, 1500)
    until(qtbot, lambda: chosen_seen(build))
    id = building.selected[0]
    building.put("Place", {id: {"place": Place.of_box((1500, 1300, 600, 300))}})
    until(qtbot, lambda: placed(build, id) == (1500, 1300, 600, 300))
    build.canvas.grab()
    grip = build.canvas.grips(build.canvas.states())[TURN]
    drag(build.canvas, grip, on_widget(build, 1800 + 400, 1450 - 380), SHIFT)
    until(qtbot, lambda: building.states()[id].turn == 45)
    build.canvas.grab()
    corner, across = (build.canvas.grips(build.canvas.states())[h] for h in ((1, 1), (-1, -1)))
    drag(build.canvas, corner, corner + QPointF(0, 40))
    until(qtbot, lambda: placed(build, id)[2] > 600 and not build.canvas.boxes)
    build.canvas.grab()
    after = build.canvas.grips(build.canvas.states())
    assert (after[-1, -1] - across).manhattanLength() < 1.5, "the corner across stays"
    assert (after[1, 1] - corner - QPointF(0, 40)).manhattanLength() < 1.5, "and this one is under the pointer"
    assert building.undo()
    until(qtbot, lambda: placed(build, id) == (1500, 1300, 600, 300))


def test_the_corners_of_a_polygon_are_dragged_added_and_taken_away(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    """Also of a layer that is turned: a corner is where the pointer is."""
    building, canvas = build.building, build.canvas
    drop(build, "slides", 1500, 900)
    until(qtbot, lambda: chosen_seen(build))
    id = building.selected[0]

    def points() -> tuple[tuple[float, float], ...]:
        shape = building.states()[id].shape
        return shape.points if isinstance(shape, ShapeNow) else ()

    building.put("Shape", {id: {"shape": Shape(form="polygon", sides=5), "turn": 90.0}})
    until(qtbot, lambda: canvas.cornered(canvas.states()) == id)
    canvas.grab()
    grips = canvas.corner_grips(canvas.states())
    middle = canvas.box_of(building.states()[id].place).center()
    assert len(grips) == 5 and grips[0].x() > middle.x() + 20, "the first is at the top, which is turned to the right"
    to = middle + QPointF(30, 10)
    drag(canvas, grips[0], to)
    until(qtbot, lambda: len(points()) == 5)
    until(qtbot, lambda: (canvas.corner_grips(canvas.states())[0] - to).manhattanLength() < 4)
    a, b = canvas.corner_grips(canvas.states())[2:4]
    QTest.mouseDClick(canvas, LEFT, NONE, ((a + b) / 2).toPoint())
    until(qtbot, lambda: len(points()) == 6)
    grips = canvas.corner_grips(canvas.states())
    assert (grips[3] - (a + b) / 2).manhattanLength() < 4, "on the side that was clicked"
    for left in (5, 4, 3):
        QTest.mouseClick(canvas, LEFT, ALT, canvas.corner_grips(canvas.states())[0].toPoint())
        until(qtbot, lambda left=left: len(points()) == left)
    told: list[str] = []
    window.session.trouble.connect(told.append)
    QTest.mouseClick(canvas, LEFT, ALT, canvas.corner_grips(canvas.states())[0].toPoint())
    assert told == ["A polygon has three corners at least."] and len(points()) == 3
    assert building.undo()
    until(qtbot, lambda: len(points()) == 4)


def test_layers_are_moved_and_sized_where_they_hang_in_the_room(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    building, room = build.building, build.room
    QTest.mouseClick(build.room_button, LEFT)
    room.grab()
    meridian = room.rect_of("meridian")
    assert room.isVisible() and meridian is not None
    mime = QMimeData()
    mime.setData(SOURCES, json.dumps(["slides"]).encode())
    room.dropEvent(QDropEvent(meridian.center(), Qt.DropAction.CopyAction, mime, LEFT, NONE))
    until(qtbot, lambda: chosen_seen(build) and "slides" in showing(build))
    id = building.selected[0]
    face = next(f for f in building.faces() if f.surface.id == "meridian")
    assert placed(build, id) == (face.rect.x, face.rect.y, face.rect.w, face.rect.h)
    before = placed(build, id)
    by = QPointF(meridian.width() / 8, -meridian.height() / 6)
    drag(room, meridian.center(), meridian.center() + by, ALT)
    step = face.rect.w / meridian.width()  # canvas pixels of one of the widget
    there = before[0] + face.rect.w / 8, before[1] - face.rect.h / 6
    until(qtbot, lambda: all(abs(a - b) <= step + 1 for a, b in zip(placed(build, id), there, strict=False)))
    x, _, w, h = placed(build, id)
    assert (w, h) == before[2:]
    room.grab()
    grip = next(at for handle, at, _ in room.grips() if handle == (-1, 1))
    drag(room, grip, grip + QPointF(meridian.width() / 4, 0), ALT)
    until(qtbot, lambda: abs(placed(build, id)[2] - (w - face.rect.w / 4)) <= step + 1)
    assert abs(placed(build, id)[0] + placed(build, id)[2] - (x + w)) < 0.01, "the other side stays"
    told: list[str] = []
    window.session.trouble.connect(told.append)
    room.dropEvent(QDropEvent(QPointF(3, 3), Qt.DropAction.CopyAction, mime, LEFT, NONE))
    assert "on a surface" in told[0]
    room.grab()
    assert building.undo() and building.undo()
    until(qtbot, lambda: placed(build, id) == before)


def test_finishes_are_made_laid_updated_and_usual_for_a_source(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, finishes, building = window.session, build.finishes, build.building
    drop(build, "slides", 1500, 1500)
    until(qtbot, lambda: "slides" in showing(build))
    id = building.selected[0]
    QTest.mouseClick(finishes.chips.buttons["framed"], LEFT)
    until(qtbot, lambda: building.states()[id].shape.radius == 14 and building.states()[id].shadow[3] == 0.7)
    QTest.mouseClick(finishes.chips.buttons["tilted"], LEFT)
    until(qtbot, lambda: building.states()[id].turn == -4 and building.states()[id].border[0] == 6)
    laid = building.settings(building.selected[0]).turn
    level, tilted = carried(FINISH, "level"), carried(FINISH, "tilted")
    build.canvas.dropEvent(QDropEvent(on_widget(build, 1500, 1500), Qt.DropAction.CopyAction, level, LEFT, NONE))
    until(qtbot, lambda: building.settings(building.selected[0]).turn == 0 != laid)
    build.layers.grab()
    row = QPointF(build.layers.visualItemRect(build.layers.selectedItems()[0]).center())
    build.layers.dropEvent(QDropEvent(row, Qt.DropAction.CopyAction, tilted, LEFT, NONE))
    until(qtbot, lambda: building.settings(building.selected[0]).turn == laid)
    finishes.make("Mine", ("turn", "border"))
    mine = next(f for f in session.show.finishes if f.name == "Mine")
    assert mine.values["turn"] == -4 and set(mine.values) == {"turn", "border"}
    build.settings.enter(build.settings.editors["turn", ""][0], 9.0)
    until(qtbot, lambda: building.states()[id].turn == 9)
    finishes.update_from_layer(mine.id)
    assert next(f for f in session.show.finishes if f.id == mine.id).values["turn"] == 9
    finishes.usual(mine.id)
    assert session.show.source("slides").finishes == (mine.id,)
    drop(build, "slides", 2000, 500)
    until(qtbot, lambda: building.selected[0] != id)
    building.show_in_new_layer("slides", (10.0, 10.0, 200.0, 100.0))
    until(qtbot, lambda: getattr(building.states().get(building.selected[0]), "turn", None) == 9)
    finishes.remove(mine.id)
    assert session.show.source("slides").finishes == () and mine.id not in finishes.chips.buttons


def test_a_show_begins_from_nothing_and_is_on_an_output_window(
    window: MainWindow, qtbot: object, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Inputs: Ctrl+N, a name, its output to a window, a file, the button; a drop; Space: seven.  A stream that
    announces itself comes in, another is left out.
    """
    monkeypatch.setattr("ushering_adze.desk.new_show.PORT", 0)
    picture = np.full((90, 160, 4), (30, 120, 220, 255), np.uint8)
    write_png(picture, tmp_path / "Title.png")
    window.resize(1280, 800)
    window.show_workspace("Build")
    window.build.building.select(("wall",))
    window.build.canvas.nudge(5, 0)
    until(qtbot, lambda: window.session.playout.stage.previewing)
    window.book.actions["new"].trigger()
    sheet = window.new_sheet
    assert sheet.isVisible()
    sheet.name.setText("First night")
    for _ in range(9):
        sheet.add_display("monitor")
    assert len(sheet.rows) == 8 and "add more in Rig" in sheet.why.text()
    sheet.rows[3].name.setText("Foyer")
    for n in (0, 0, 0, 1, 1, 1, 1):
        QTest.mouseClick(sheet.rows[n].away, LEFT)
    assert [row.name.text() for row in sheet.rows] == ["Foyer"] and not sheet.why.text()
    row = sheet.rows[0]
    row.kind.setCurrentText("LED wall")
    row.pixels.setText("eleven")
    QTest.mouseClick(sheet.make_button, LEFT)
    assert "is no size in pixels" in sheet.why.text() and sheet.isVisible()
    row.pixels.setText("640x320")
    row.goes.setCurrentIndex(next(n for n, (words, _) in enumerate(row.choices) if words == "A window"))
    sheet.add_files([tmp_path / "Title.png"])
    assert "No stream is announced" in sheet.searching.text()
    told = [announcement("Roof", "udp://239.1.2.3:5000"), announcement("Door", "udp://239.1.2.4:5000")]
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        for packet in (*told, b"noise"):
            out.sendto(packet, ("127.0.0.1", sheet.announcements.port))
    until(qtbot, lambda: {c.text() for c in sheet.streams.values()} == {"Roof", "Door"})
    sheet.streams["udp://239.1.2.4:5000"].setChecked(False)
    QTest.mouseClick(sheet.make_button, LEFT)
    session = window.session
    inputs = [(s.address, s.as_it_comes) for s in session.show.sources if isinstance(s, Input)]
    assert inputs == [("udp://239.1.2.3:5000", True)], "nobody said what size it has"
    assert session.show.name == "First night" and window.workspace == "Build" and session.undo_label is None
    assert "not saved yet" in window.top.saved.text() and "demo" not in window.top.saved.text()
    until(qtbot, lambda: len(window.outputs.windows) == 1)
    until(qtbot, lambda: session.report is not None and session.report.stage.show.name == "First night")
    build = window.build
    assert not build.building.undo(), "what was done in another show is not taken back in this"
    build.canvas.grab()
    drop(build, "title", 300, 150)
    until(qtbot, lambda: "title" in showing(build))
    QTest.keyClick(window, Qt.Key.Key_Space)
    surface = session.show.surfaces[0].id
    until(qtbot, lambda: session.report.surfaces[surface].source_ids == ("title",))
    until(qtbot, lambda: tuple(session.playout.raster(session.show.outputs[0].id)[160, 320, :3]) == (30, 120, 220))


def test_text_is_dressed_by_its_layer_alone(build: BuildWorkspace, window: MainWindow, qtbot: object) -> None:
    """Begun as its source has it, for the pixels of the layer; seen on preview, taken, and undone."""
    building, panel, session = build.building, build.settings, window.session
    drop(build, "names", 1500, 900)
    until(qtbot, lambda: chosen_seen(build))
    id = building.selected[0]
    _, box = panel.editors["dress", ""]
    assert [box.itemText(n) for n in range(box.count())] == ["as the source", "its own"]
    assert not panel.editors["dress", "Dress.layout"][1].isVisibleTo(panel)
    box.setCurrentIndex(1)
    box.activated.emit(1)
    until(qtbot, lambda: building.states()[id].dress is not None)
    w, h = placed(build, id)[2:]
    own = session.show.source("names").dress
    begun = building.states()[id].dress
    assert (begun.width, begun.height, begun.box) == (round(w), round(h), own.box), "as the source, at the layer's size"
    until(qtbot, lambda: panel.editors["dress", "Dress.colour"][1].isVisibleTo(panel))
    field, line = panel.editors["dress", "Dress.box"]
    line.setText("#FF00FF")
    line.setModified(True)
    panel.typed(field, "#FF00FF")
    until(qtbot, lambda: building.states()[id].dress.box == "#FF00FF")
    session.playout.act(Cut())
    target = session.playout
    until(qtbot, lambda: target.stage.program.target["house", id].dress is not None)
    output = next(r.output for c in session.show.canvases for r in c.regions if r.surface == "horizon")
    until(qtbot, lambda: bool((session.playout.raster(output)[..., :3] == (255, 0, 255)).all(-1).mean() > 0.2))
    field, line = panel.editors["dress", "Dress.size"]
    line.setText("2")
    line.setModified(True)
    panel.typed(field, "2")
    assert panel.why.text() and building.states()[id].dress.size == begun.size, "letters of two pixels are refused"


def test_a_layers_key_has_fields_of_its_own(build: BuildWorkspace, window: MainWindow, qtbot: object) -> None:
    building, panel = build.building, build.settings
    drop(build, "aisle-camera", 1500, 1500)
    until(qtbot, lambda: chosen_seen(build))
    id = building.selected[0]
    choice = panel.editors["key", ""][0]
    assert not panel.editors["key", "LumaKey.low"][1].isVisibleTo(panel)
    words = [panel.editors["key", ""][1].itemText(n) for n in range(4)]
    assert words == ["none", "luma", "chroma", "source"]
    for n, model in ((1, "LumaKey"), (2, "ChromaKey"), (3, "FillKey")):
        panel.enter(choice, panel.editors["key", ""][1].itemData(n))
        until(qtbot, lambda model=model: type(building.states()[id].key).__name__ == model)
        until(qtbot, lambda n=n: panel.editors["key", ""][1].currentIndex() == n)
        own = {key for key, (field, editor) in panel.editors.items() if field.only and editor.isVisibleTo(panel)}
        assert own == {("key", name) for _, name in panel.editors if name.startswith(f"{model}.")}, "only its own"
    panel.enter(choice, panel.editors["key", ""][1].itemData(2))
    until(qtbot, lambda: type(building.states()[id].key).__name__ == "ChromaKey")
    until(qtbot, lambda: panel.editors["key", "ChromaKey.tolerance"][1].isVisibleTo(panel))
    field, line = panel.editors["key", "ChromaKey.tolerance"]
    for text, seen in (("0.3", 0.3), ("*2", 0.6)):
        line.setText(text)
        line.setModified(True)
        panel.typed(field, text)
        until(qtbot, lambda seen=seen: building.states()[id].key.tolerance == seen)
    line.setText("7")
    line.setModified(True)
    panel.typed(field, "7")
    assert panel.why.text() and building.states()[id].key.tolerance == 0.6, (
        "what cannot be is told, and nothing changes"
    )


def test_while_cropping_a_drag_pans_the_picture_and_the_wheel_zooms_it(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    building, canvas = build.building, build.canvas
    drop(build, "aisle-camera", 1500, 1500)
    until(qtbot, lambda: chosen_seen(build))
    id = building.selected[0]
    building.put("Place", {id: {"place": Place.of_box((1200, 1200, 700, 700))}})
    until(qtbot, lambda: placed(build, id) == (1200, 1200, 700, 700))
    canvas.crop(True)
    canvas.grab()
    drag(canvas, on_widget(build, 1550, 1550), on_widget(build, 1550 - 140, 1550))
    until(qtbot, lambda: building.states()[id].crop[0] > 0.2)
    left, top, right, bottom = building.states()[id].crop
    assert left > right >= 0 and top == bottom == 0, "what did not fit is cut by now, and the picture is further left"
    assert placed(build, id) == (1200, 1200, 700, 700), "the box stays"
    at = on_widget(build, 1550, 1550)
    wheel = QWheelEvent(
        at,
        canvas.mapToGlobal(at),
        QPoint(),
        QPoint(0, 480),
        Qt.MouseButton.NoButton,
        NONE,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    canvas.wheelEvent(wheel)
    until(qtbot, lambda: building.states()[id].crop[1] > 0.05)
    assert placed(build, id) == (1200, 1200, 700, 700)
    before = building.states()[id].crop
    canvas.grab()
    corner = canvas.grips(canvas.states())[1, 1]
    drag(canvas, corner, corner - QPointF(20, 20), SHIFT)  # cut, and filled again
    until(qtbot, lambda: building.states()[id].crop[2] > before[2])
    assert placed(build, id) == (1200, 1200, 700, 700)
