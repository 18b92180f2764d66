"""Build in the real window: sources dropped, layers moved and sized, presets stored, updated, edited blind."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from ushering_adze.core.onair.actions import Cut, Recall, StagePreset
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.show import Place, Show
from ushering_adze.desk.build.drawing import TURN
from ushering_adze.desk.build.workspace import BuildWorkspace
from ushering_adze.desk.recent import recent_shows, templates
from ushering_adze.desk.shelf import MIME
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.outputs.png import write_png
from ushering_adze.io.showfile import save_show

LEFT, NONE, SHIFT, CTRL, ALT = (
    Qt.MouseButton.LeftButton,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


@pytest.fixture
def build(window: MainWindow, qtbot: object) -> BuildWorkspace:
    window.resize(1280, 800)
    window.show_workspace("Build")
    window.session.playout.act(Recall(preset=90, seconds=0))
    qtbot.waitUntil(lambda: not on_air(window), timeout=30000)
    window.build.canvas.grab()
    return window.build


def on_air(window: MainWindow) -> list[str]:
    """Layers of the House that are on air."""
    return [y for (c, y), s in window.session.playout.stage.program.target.items() if c == "house" and is_seen(s)]


def until(qtbot: object, seen: object) -> None:
    qtbot.waitUntil(seen, timeout=30000)


def on_widget(build: BuildWorkspace, x: float, y: float) -> QPointF:
    canvas = build.canvas
    return QPointF(canvas.origin.x() + x * canvas.scale, canvas.origin.y() + y * canvas.scale)


def drop(build: BuildWorkspace, source: str, x: float, y: float, keys: Qt.KeyboardModifier = NONE) -> None:
    mime = QMimeData()
    mime.setData(MIME, json.dumps([source]).encode())
    build.canvas.grab()
    at = on_widget(build, x, y)
    build.canvas.dropEvent(QDropEvent(at, Qt.DropAction.CopyAction, mime, LEFT, keys))


def drag(widget: QWidget, begin: QPointF, end: QPointF, keys: Qt.KeyboardModifier = NONE, steps: int = 4) -> None:
    QTest.mousePress(widget, LEFT, keys, begin.toPoint())
    for n in range(1, steps + 1):
        at = begin + (end - begin) * n / steps
        widget.mouseMoveEvent(_moved(at, keys))
    QTest.mouseRelease(widget, LEFT, keys, end.toPoint())


def _moved(at: QPointF, keys: Qt.KeyboardModifier) -> QMouseEvent:
    return QMouseEvent(QEvent.Type.MouseMove, at, at, Qt.MouseButton.NoButton, LEFT, keys)


def placed(build: BuildWorkspace, id: str) -> tuple[float, ...]:
    return tuple(round(v, 3) for v in build.building.states()[id].place)


def chosen_seen(build: BuildWorkspace) -> bool:
    """Whether the stage has the selected layer by now, and it is seen."""
    state = build.building.states().get(build.building.selected[0]) if build.building.selected else None
    return state is not None and is_seen(state)


def showing(build: BuildWorkspace) -> set[str]:
    """The sources that are seen where edits go."""
    return {s.picture.source for s in build.building.states().values() if is_seen(s)}


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


def test_an_update_says_what_it_changes_and_changes_that(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    session.playout.act(StagePreset(preset=6))
    until(qtbot, lambda: session.playout.stage.staged == 6)
    build.update_preset()
    assert build.sheet is not None and build.sheet.changes == []
    build.sheet.close()
    build.building.select(("inset",))
    build.canvas.nudge(-40, 0)
    until(qtbot, lambda: bool(build.building.edited()))
    build.update_preset()
    assert [c.words for c in build.sheet.changes] == ["Inset: place changed"]
    old = session.show.preset(6)
    build.sheet.update_it()
    new = session.show.preset(6)
    assert old is not None and new is not None and new != old
    for a, b in zip(old.parts, new.parts, strict=True):
        assert a == b or (b.layer == "inset" and a.holds.picture == b.holds.picture)
    session.playout.act(Cut())


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


def test_a_source_dropped_on_a_card_makes_a_variant_and_the_table_sets_many_times(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    card = next(c for c in build.deck.cards if c.preset.number == 7)
    mime = QMimeData()
    mime.setData(MIME, b'["orrery"]')
    card.dropEvent(QDropEvent(QPointF(20, 20), Qt.DropAction.CopyAction, mime, LEFT, NONE))
    assert [a.text() for a in build.variants.actions()] == ["Orrery instead of", "Roof camera", "Moon phases"]
    build.variants.actions()[2].trigger()
    made = next(p for p in session.show.presets if p.name.startswith("Moon reveal · Orrery"))
    assert {s for q in made.parts for _, s in q.named()} == {"orrery", "roof-camera"}
    QTest.mouseClick(build.table_button, LEFT)
    table = build.table
    assert table.isVisible() and table.cells.rowCount() == len(session.show.presets)
    for row in range(5):
        for column in range(table.cells.columnCount()):
            table.cells.item(row, column).setSelected(True)
    numbers = table.chosen()
    table.cells.item(0, 2).setText("3.5")
    assert len(numbers) == 5 and {session.show.preset(n).seconds for n in numbers} == {3.5}  # type: ignore[union-attr]
    table.cells.item(0, 4).setText("twirl")
    assert "is no transition" in table.why.text() and session.undo_label == "Seconds of 5 presets"
    table.find.setText("moon orrery")
    assert made.number in [table.cells.item(r, 0).data(Qt.ItemDataRole.UserRole) for r in range(table.cells.rowCount())]


def test_a_show_begins_from_nothing_and_is_on_an_output_window(
    window: MainWindow, qtbot: object, tmp_path: Path
) -> None:
    """Inputs: Ctrl+N, a name, its output to a window, a file, the button; a drop; Space: seven."""
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
    row = sheet.rows[0]
    row.pixels.setText("eleven")
    QTest.mouseClick(sheet.make_button, LEFT)
    assert "is no size in pixels" in sheet.why.text() and sheet.isVisible()
    row.pixels.setText("640x320")
    row.goes.setCurrentIndex(next(n for n, (words, _) in enumerate(row.choices) if words == "A window"))
    sheet.add_files([tmp_path / "Title.png"])
    QTest.mouseClick(sheet.make_button, LEFT)
    session = window.session
    assert session.show.name == "First night" and window.workspace == "Build" and session.undo_label is None
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


def test_a_zone_made_in_the_room_takes_a_layer_across_and_a_key_deals_it_to_each(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, zones, building = window.session, build.zones, build.building
    said: list[str] = []
    session.trouble.connect(said.append)
    QTest.mouseClick(build.room_button, LEFT)
    build.room.grab()
    for n, id in enumerate(("meridian", "east-mast", "west-mast", "east-mast")):  # the last takes itself out again
        QTest.mouseClick(build.room, LEFT, NONE if n == 0 else CTRL, build.room.rect_of(id).center().toPoint())
    assert session.surfaces == ("meridian", "west-mast") and session.surface == "west-mast"
    QTest.mouseClick(build.heads[1], LEFT)
    zones.make("Left side")
    made = next(z for z in session.show.zones if z.name == "Left side")
    assert made.holds == ("meridian", "west-mast")
    until(qtbot, lambda: zones.chips.buttons[made.id].isVisible())
    zones.put_in("arch", made.id)
    zones.put_in(made.id, "arch")
    assert "would lie within itself" in said[-1] and "arch" not in session.show.zones[-1].holds
    session.undo()

    QTest.mouseClick(build.room_button, LEFT)
    drop(build, "slides", 2000, 500)
    until(qtbot, lambda: chosen_seen(build))
    layer = building.selected[0]
    QTest.mouseClick(zones.chips.buttons[made.id], LEFT)
    until(qtbot, lambda: building.states()[layer].spread[:2] == ("across", made.id))
    assert build.canvas.told(building.states()[layer]) == "across Left side, by pixels"
    build.canvas.grab()
    assert build.canvas.handle_at(on_widget(build, 1096, 1080), build.canvas.states()) is None, "no box to be sized"
    assert build.canvas.layer_at(on_widget(build, 100, 900), build.canvas.states()) == layer, "found where it is seen"
    over = build.settings.editors["spread", "over"]
    build.settings.enter(over[0], "in-turn")
    until(qtbot, lambda: building.states()[layer].spread.over == "in-turn")
    field, line = build.settings.editors["spread", "sources"]
    line.setText("Notes, Orery")
    line.setModified(True)
    build.settings.typed(field, line.text())
    assert "no source is named Orery" in build.settings.why.text()
    line.setText("Notes, Orrery")
    line.setModified(True)
    build.settings.typed(field, line.text())
    until(qtbot, lambda: building.states()[layer].spread.sources == ("notes", "orrery"))
    session.playout.act(Cut())
    until(qtbot, lambda: session.report.surfaces["west-mast"].source_ids == ("orrery",))
    assert session.report.surfaces["meridian"].source_ids == ("notes",)

    zones.remove(made.id)
    assert made in session.show.zones and "is spread over Left side on the stage" in said[-1]
    QTest.keyClick(window, Qt.Key.Key_F5)
    until(qtbot, lambda: session.playout.stage.on_program == 29 and not session.report.moving)
    whole = session.playout.stage.program.target["house", "sky"].spread
    QTest.keyClick(window, Qt.Key.Key_F6)  # across to each, by one key
    until(qtbot, lambda: session.playout.stage.on_program == 30 and not session.report.moving)
    each = session.playout.stage.program.target["house", "sky"].spread
    assert (whole.over, each.over) == ("across", "each") and whole.zone == each.zone == "arch"
    until(qtbot, lambda: session.report.surfaces["east-mast"].source_ids == ("orrery",))
    session.playout.act(Recall(preset=5, seconds=0))
    until(qtbot, lambda: session.playout.stage.program.target["house", "sky"].spread.over == "none")
    zones.remove("arch")
    assert "it is used by House, preset 29, preset 30" in said[-1]


def test_two_presets_are_compared_in_one_room_and_cards_carry_their_pictures(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    session.playout.act(Recall(preset=5, seconds=0))
    until(qtbot, lambda: session.playout.stage.on_program == 5)
    seven = next(c for c in build.deck.cards if c.preset.number == 7)
    until(qtbot, lambda: 7 in session.report.presets and seven._pictures is not None)
    meridian = session.report.presets[7]["meridian"]
    assert max(meridian.shape[:2]) < 300 and 20 < meridian[..., :3].mean() < 120, "the moon, small"

    session.playout.act(StagePreset(preset=6))
    until(qtbot, lambda: session.playout.stage.staged == 6)
    build.compare()
    sheet = build.sheet
    assert sheet.numbers == (5, 6)
    until(qtbot, lambda: {5, 6} <= session.report.presets.keys())
    listed = [sheet.layers.item(n).text() for n in range(sheet.layers.count())]
    assert any(words == "Wall · House:  Slides → Aisle camera" for words in listed)
    assert sheet.room.differing == {"meridian", "west-mast", "east-mast", "relay"}
    rect = sheet.room.rect_of("meridian")
    shots = []
    for share in (0.98, 0.02):  # the line at the right of Meridian, then at the left of it
        QTest.mousePress(sheet.room, LEFT, NONE, QPoint(round(share * sheet.room.width()), 120))
        QTest.mouseRelease(sheet.room, LEFT, NONE, QPoint(round(share * sheet.room.width()), 120))
        image = sheet.room.grab().toImage()
        at = rect.center().toPoint() + QPoint(0, -18)
        shots.append(image.pixelColor(at).lightness())
    assert abs(shots[0] - shots[1]) > 25, "slides on one side, the camera on the other"
    row = next(n for n, words in enumerate(listed) if words.startswith("Inset"))
    sheet.layers.itemClicked.emit(sheet.layers.item(row))
    assert build.building.selected == ("inset",)
    QTest.mouseClick(sheet.blind[1], LEFT)
    assert build.building.on == "blind" and build.building.number == 6 and build.sheet is None


def test_when_each_setting_arrives_is_typed_for_many_rows(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    said: list[str] = []
    session.trouble.connect(said.append)
    build.show_parts()
    assert "No preset was opened" in said[-1] and build.sheet is None
    session.playout.act(StagePreset(preset=6))
    until(qtbot, lambda: session.playout.stage.staged == 6)
    build.show_parts()
    sheet = build.sheet
    pictures = [n for n, row in enumerate(sheet.rows) if row.kind == "picture"]
    for n in pictures:
        for column in range(sheet.cells.columnCount()):
            sheet.cells.item(n, column).setSelected(True)
    assert len(sheet.chosen()) == len(pictures) > 4
    sheet.cells.item(pictures[0], 3).setText("2.5")
    held = [p.holds.picture for p in session.show.preset(6).parts if p.holds.picture is not None]
    assert {h.seconds for h in held} == {2.5} and session.undo_label == "Seconds in preset 6"
    sheet.cells.item(pictures[1], 5).setText("wobbly")
    assert sheet.why.text() and session.undo_label == "Seconds in preset 6"
    session.undo()
    assert sheet.cells.item(pictures[0], 3).text() == "preset's", "the sheet follows"
    assert build.escape() and build.sheet is None


def test_presets_are_copied_merged_and_split_in_the_table_and_safe_areas_are_drawn(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, table = window.session, build.table
    before = session.show
    QTest.mouseClick(build.table_button, LEFT)

    def choose(*numbers: int) -> None:
        table.cells.clearSelection()
        for row in range(table.cells.rowCount()):
            if table.cells.item(row, 0).data(Qt.ItemDataRole.UserRole) in numbers:
                for column in range(table.cells.columnCount()):
                    table.cells.item(row, column).setSelected(True)
        assert table.chosen() == list(numbers)

    choose(1, 20)
    table.duplicate()
    assert [p.number for p in session.show.presets][:10] == [1, 2, 3, 4, 5, 6, 7, 8, 9, 20]
    assert session.show.preset(22).name == "Masts camera 2" and session.show.preset(22).key is None
    session.undo()
    choose(7, 20)
    table.merge()
    made = session.show.preset(22)
    assert made.name == "7 + 20" and {p.layer for p in made.parts} == {"wall", "inset", "west", "east"}
    masts = {p.holds.picture.to.source for p in made.parts if p.layer in ("west", "east")}
    assert masts == {"aisle-camera"}, "the later over the earlier"
    session.undo()
    choose(6)
    table.split("relay")
    assert {p.canvas for p in session.show.preset(9).parts} == {"relay"}
    assert "relay" not in {p.canvas for p in session.show.preset(6).parts}
    session.undo()
    choose(7)
    said: list[str] = []
    session.trouble.connect(said.append)
    table.split("relay")
    assert "one of the two would be empty" in said[-1]
    assert session.show == before

    plain = build.canvas.grab().toImage()
    window.book.actions["build-safe"].trigger()
    safe = build.canvas.grab().toImage()
    at = on_widget(build, 1096 + 1920 * 0.05, 1080 + 480)  # the left edge of what is safe for titles on Meridian
    near = [QPoint(round(at.x()) + dx, round(at.y()) + dy) for dx in (-1, 0, 1) for dy in range(-8, 8)]
    assert any(plain.pixelColor(q) != safe.pixelColor(q) for q in near)


def test_recent_shows_and_templates(
    window: MainWindow, qtbot: object, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = window.session
    said: list[str] = []
    session.trouble.connect(said.append)
    window.recent.show_recent()
    assert "No show was open before" in said[-1]
    paths = [tmp_path / f"evening-{n}.adze" for n in (1, 2)]
    for path in paths:
        assert session.save(path)
    assert recent_shows() == paths[::-1]
    paths[1].unlink()
    assert recent_shows() == paths[:1], "what is gone is not offered"
    window.recent.show_templates()
    assert "There is no template" in said[-1]
    window.recent.keep("Two masts")
    assert [p.name for p in templates()] == ["two-masts.adze"]
    session.edit("Rename", session.show.model_copy(update={"name": "Another"}))
    assert session.save(paths[0])
    window.recent.begin_from(templates()[0])
    assert session.show.name == "Two masts" and session.path is None
    assert [o.id for o in session.show.outputs][:2] == ["processor-a", "processor-b"]
    assert all(Path(s.path).exists() for s in session.show.sources if hasattr(s, "path")), "its files are found"
    window.recent.show_recent()
    window.recent.menu.actions()[0].trigger()
    assert session.path == paths[0] and session.show.name == "Another"
    templates()[0].write_text("{")
    refused: list[str] = []
    session.refused.connect(refused.append)
    window.recent.begin_from(templates()[0])
    assert "two-masts.adze" in refused[-1] and session.show.name == "Another"


def test_presets_are_brought_from_another_show_and_taken_back_as_one_step(
    build: BuildWorkspace, window: MainWindow, qtbot: object, tmp_path: Path
) -> None:
    session = window.session
    said: list[str] = []
    session.trouble.connect(said.append)
    other = session.show.model_copy(update={"name": "Last year"})
    white = tuple(s.model_copy(update={"colour": "#FFFFFF"}) if s.id == "orrery" else s for s in other.sources)
    path = tmp_path / "last-year.adze"
    save_show(other.model_copy(update={"sources": white}), path)
    bad = tmp_path / "bad.adze"
    bad.write_text("{")
    build.bring_from(bad)
    assert "bad.adze" in said[-1] and build.sheet is None
    before = session.show
    build.bring_from(path)
    sheet = build.sheet
    assert not sheet.bring_button.isEnabled()
    for n in range(sheet.presets.count()):
        sheet.presets.item(n).setSelected(sheet.presets.item(n).data(Qt.ItemDataRole.UserRole) in (5, 30))
    assert sheet.chosen() == [5, 30] and "Here already, but otherwise: Orrery." in sheet.conflicts.text()
    assert sheet.copies.isVisible()
    sheet.copies.setChecked(True)
    QTest.mouseClick(sheet.bring_button, LEFT)
    assert "2 presets came, 5 as 9, 30 as 31" in said[-1]
    until(qtbot, lambda: build.sheet is None)
    assert session.show.source("orrery-2").colour == "#FFFFFF"
    session.playout.act(Recall(preset=31, seconds=0))
    until(qtbot, lambda: session.report.surfaces["horizon"].source_ids == ("orrery-2",))
    session.undo()
    assert session.show == before


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
