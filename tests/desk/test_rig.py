"""The Rig workspace through the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from driven import Driven
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QComboBox, QLineEdit

from ushering_adze.core.displays.binding import fed_by, fed_parts
from ushering_adze.core.onair.actions import Recall
from ushering_adze.core.show import DisplayBinding, Input, LedWall, Show
from ushering_adze.core.signal.edid_read import read_edid
from ushering_adze.desk.fields import FieldRow
from ushering_adze.desk.output_windows import displays
from ushering_adze.desk.rig.results import Line
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.showfile import save_show

LEFT = Qt.MouseButton.LeftButton


def enter(qtbot: object, row: FieldRow, text: str) -> None:
    editor = row.editor
    assert isinstance(editor, QLineEdit)
    editor.setFocus()
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, Qt.Key.Key_Return)


def choose(row: FieldRow, words: str) -> None:
    box = row.editor
    assert isinstance(box, QComboBox)
    n = box.findText(words)
    assert n >= 0, [box.itemText(k) for k in range(box.count())]
    box.setCurrentIndex(n)
    box.activated.emit(n)


def said(window: MainWindow, label: str) -> Line:
    return next(line for line in window.rig.inspector.results.lines if line.label == label)


def drag(qtbot: object, widget: object, a: QPointF, b: QPointF) -> None:
    qtbot.mousePress(widget, LEFT, pos=a.toPoint())
    for share in (0.3, 0.7, 1.0):
        qtbot.mouseMove(widget, QPoint(round(a.x() + (b.x() - a.x()) * share), round(a.y() + (b.y() - a.y()) * share)))
    qtbot.mouseRelease(widget, LEFT, pos=b.toPoint())


def open_rig(window: MainWindow, qtbot: object) -> None:
    qtbot.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.AltModifier)
    window.book.actions["go-rig"].trigger()
    assert window.stack.currentWidget() is window.rig
    qtbot.wait(30)


def test_a_wall_of_ten_by_five_is_made_with_one_cabinet_missing_its_runs_seen_and_bound(
    window: MainWindow, qtbot: object
) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    rig.add("led-wall")
    row = rig.inspector.row
    enter(qtbot, row("Name"), "Arch")
    enter(qtbot, row("Columns"), "10")
    enter(qtbot, row("Rows"), "5")
    choose(row("Kind"), "Coarse 500")
    wall = next(s for s in session.show.surfaces if s.name == "Arch")
    assert isinstance(wall, LedWall) and wall.pixels == (1280, 640) and session.surface == wall.id
    assert said(window, "Ports").words.startswith("2, fullest 98 %") and said(window, "Cabinets").words == "50"
    qtbot.waitUntil(
        lambda: rig.drawing.grab() is not None and rig.drawing.cabinet_at(rig.drawing.where_is(3, 2)) == (3, 2)
    )
    there = rig.drawing.grab().toImage()
    qtbot.mouseDClick(rig.drawing, LEFT, pos=rig.drawing.where_is(3, 2).toPoint())
    wall = session.show.surface(wall.id)
    assert [(c.column, c.row) for c in wall.missing] == [(3, 2)] and said(window, "Cabinets").words == "49"
    assert rig.inspector.row("Missing").editor.text() == "3/2" and session.undo_label == "Take out cabinet 3/2 of Arch"
    assert rig.drawing.grab().toImage() != there
    enter(qtbot, row("Missing"), "11/2")
    assert "is not on a wall of 10 × 5" in row("Missing").why.text() and row("Missing").editor.text() == "11/2"
    assert session.show.surface(wall.id) == wall, "a refused entry changes nothing"

    rig.path.lay_out()
    assert said(window, "Fed by").level == "warning"
    rig.add("output")
    output = session.output
    rig.path.lay_out()
    out, port = rig.path.rect_of("outputs", output), rig.path.port_of(wall.id)
    if port.y() > rig.path.height() - 4:
        session.select_surface(wall.id)
        out, port = rig.path.rect_of("outputs", output), rig.path.port_of(wall.id)
    drag(qtbot, rig.path, QPointF(out.right() - 6, out.center().y()), port)
    part = fed_parts(session.show.surface(wall.id))[0]
    assert fed_by(session.show, part) == output
    session.select_surface(wall.id)
    assert said(window, "In its raster").words == "1280×640 at 0, 0 of 1920×1080"
    window.book.actions["undo"].trigger()
    assert fed_by(session.show, part) is None


def test_a_second_claim_is_refused_with_the_name_of_the_first(window: MainWindow, qtbot: object) -> None:
    session, path = window.session, window.rig.path
    open_rig(window, qtbot)
    before = session.show
    foyer, meridian = path.rect_of("outputs", "foyer"), path.port_of("meridian")
    drag(qtbot, path, QPointF(foyer.right() - 6, foyer.center().y()), meridian)
    assert session.show is before
    assert (
        "Meridian: already takes its picture from 1 Processor A" in window.notice.text() and window.notice.isVisible()
    )
    drag(qtbot, path, meridian, QPointF(meridian.x() - 40, 8))  # the line is drawn off the surface
    part = fed_parts(session.show.surface("meridian"))[0]
    assert fed_by(session.show, part) is None and session.undo_label == "Unbind Meridian"
    drag(qtbot, path, QPointF(foyer.right() - 6, foyer.center().y()), meridian)
    assert 'is already taken by "Foyer wall"' in window.notice.text() and fed_by(session.show, part) is None
    a = path.rect_of("outputs", "processor-a")
    drag(qtbot, path, QPointF(a.right() - 6, a.center().y()), meridian)
    assert fed_by(session.show, part) == "processor-a"
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].state != "no region")


def test_a_gang_of_two_by_one_and_its_order_by_dragging(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    where = rig.path.rect_of("outputs", "foyer").center().toPoint()
    qtbot.mouseClick(rig.path, LEFT, pos=where)
    assert session.output == "foyer"
    row = rig.inspector.row
    enter(qtbot, row("Width"), "3840")
    enter(qtbot, row("Height"), "*2")
    assert said(window, "Link").level == "error" and "594 of 340 MHz" in said(window, "Link").words
    assert any("two links of 1920×2160: 277.2 of 340 MHz each" in line.words for line in rig.inspector.results.lines)
    enter(qtbot, row("Gang"), "2x1")
    enter(qtbot, row("Connectors"), "Left, Right")
    output = session.show.output("foyer")
    assert output.gang.connectors == ("Left", "Right") and {
        line.level for line in rig.inspector.results.lines if line.label == "Link"
    } == {"good"}
    rig.drawing.grab()
    drag(qtbot, rig.drawing, rig.drawing.box(0).center(), rig.drawing.box(1).center())
    assert session.show.output("foyer").gang.connectors == ("Right", "Left")
    enter(qtbot, row("Rate"), "900")
    assert "rate must be at most 480" in row("Rate").why.text() and session.show.output("foyer").timing.rate == 60


def test_picture_settings_act_on_air_at_once(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_output("processor-a")
    before = session.playout.rasters()["processor-a"].copy()
    choose(rig.inspector.row("Flip"), "left–right")
    qtbot.waitUntil(lambda: (session.playout.rasters()["processor-a"] == before[:, ::-1]).all())
    choose(rig.inspector.row("Flip"), "none")
    enter(qtbot, rig.inspector.row("Gain R G B"), "0.5")
    qtbot.waitUntil(
        lambda: (
            np.abs(session.playout.rasters()["processor-a"][..., :3].astype(float) - before[..., :3] / 2).max() <= 0.5
        )
    )
    qtbot.mouseDClick(rig.inspector.row("Gain R G B").label, LEFT)  # a double-click on the label resets
    qtbot.waitUntil(lambda: (session.playout.rasters()["processor-a"] == before).all())


def test_rename_duplicate_reorder_remove_by_keys(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_surface("west-mast")
    window.book.actions["duplicate"].trigger()
    assert session.surface == "west-mast-2" and session.show.surface("west-mast-2").name == "West mast 2"
    window.book.actions["rename"].trigger()
    qtbot.keyClicks(rig.path.editor, "Bell")
    qtbot.keyClick(rig.path.editor, Qt.Key.Key_Return)
    assert session.show.surface("west-mast-2").name == "Bell"
    window.book.actions["move-up"].trigger()
    assert [s.id for s in session.show.surfaces][2:4] == ["west-mast-2", "west-mast"]
    window.book.actions["remove"].trigger()
    assert session.surface is None and "west-mast-2" not in {s.id for s in session.show.surfaces}
    session.select_source("star-trails")
    window.book.actions["remove"].trigger()
    assert "Star trails: it is shown by preset" in window.notice.text() and session.show.source("star-trails")
    for kind in ("input", "projection", "monitor-wall", "monitor", "stream"):
        rig.add(kind)
        assert rig.inspector.item.name.endswith(" 1") and rig.inspector.results.lines
        rig.drawing.grab()
        rig.path.grab()


def test_a_surface_is_dragged_in_the_room_and_its_place_typed(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    rect = rig.room.rect_of("lectern")
    drag(qtbot, rig.room, rect.center(), rect.center() + QPointF(0, -30))
    place = session.show.surface("lectern").place
    assert place.foot_mm > 600 and place.x_mm == 400 and session.undo_label == "Hang Lectern"
    enter(qtbot, rig.inspector.row("From the left"), "+250")
    assert session.show.surface("lectern").place.x_mm == 650
    assert rig.room.rect_of("lectern").x() > rect.x()


def test_tables_are_typed_in_copied_and_pasted(window: MainWindow, qtbot: object) -> None:
    session, tables = window.session, window.rig.tables
    window.book.actions["tables"].trigger()
    assert window.workspace == "Rig" and tables.isVisible()
    tables.show_table("outputs")
    tables.copy()
    text = QGuiApplication.clipboard().text()
    assert text.splitlines()[0].split("\t")[:3] == ["number", "name", "width"] and "Processor A" in text
    QGuiApplication.clipboard().setText("name\twidth\theight\trate\nSide left\t1280\t720\t50\nRelay\t1920\t1080\t25\n")
    qtbot.keyClick(tables.cells, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert session.show.output("side-left").number == 8 and session.show.output("relay").timing.width == 1920
    before = session.show
    QGuiApplication.clipboard().setText("name\twidth\nSide right\t1280\n")
    tables.paste()
    assert 'no column "height"' in tables.why.text() and session.show is before
    cell = next(
        tables.cells.item(r, 4) for r in range(tables.cells.rowCount()) if tables.cells.item(r, 1).text() == "Foyer"
    )
    cell.setText("50")
    assert session.show.output("foyer").timing.rate == 50
    cell = next(
        tables.cells.item(r, 4) for r in range(tables.cells.rowCount()) if tables.cells.item(r, 1).text() == "Foyer"
    )
    cell.setText("5000")
    assert "rate must be at most 480" in tables.why.text() and session.show.output("foyer").timing.rate == 50


def test_edid_files_identify_and_the_rig_sheet(window: MainWindow, qtbot: object, tmp_path: Path) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_source("guest-laptop")
    rig.inspector.write_edid(tmp_path / "laptop.bin")
    edid = read_edid((tmp_path / "laptop.bin").read_bytes())
    assert (
        edid.name == "Guest laptop"
        and (edid.timings[0].h_active, edid.timings[0].v_active) == (1920, 2160)
        and edid.audio
    )
    rig.add("input")
    rig.inspector.take_edid(tmp_path / "laptop.bin")
    made = rig.inspector.item
    assert isinstance(made, Input) and (made.width, made.height, made.rate) == (1920, 2160, 59.988)
    (tmp_path / "cut.bin").write_bytes((tmp_path / "laptop.bin").read_bytes()[:100])
    rig.inspector.take_edid(tmp_path / "cut.bin")
    assert (
        "cut.bin: an EDID has at least 128 bytes, this has 100" in window.notice.text() and rig.inspector.item == made
    )

    name = next(iter(displays()))
    window.outputs.bind("relay", DisplayBinding(name=name))
    session.select_output("relay")
    rig.inspector.identify()
    card = window.outputs.cards[0]
    assert card.isVisible() and card.words == "7 Relay" and card.grab().toImage().pixelColor(3, 300).name() != "#000000"
    card.close()
    window.outputs.unbind("relay")

    for ending in ("pdf", "png"):
        rig.write_sheet(tmp_path / f"sheet.{ending}")
    assert (tmp_path / "sheet.pdf").read_bytes()[:5] == b"%PDF-" and (tmp_path / "sheet.pdf").stat().st_size > 20_000
    sheet = QImage(str(tmp_path / "sheet.png"))
    assert sheet.width() == 2246 and sheet.height() == 1588 * 6, (
        "the room, the screen, three LED walls, the monitor wall"
    )


@pytest.mark.screen
def test_binding_by_a_real_mouse_on_a_real_screen(driven: Driven) -> None:
    """The program itself under an X server: a line is dragged off a wall and back on, and the saved show tells what
    happened.
    """
    x, saved = driven.x, driven.saved_until

    def meridian_by(show: Show) -> str | None:
        return fed_by(show, fed_parts(show.surface("meridian"))[0])

    driven.screen.go_to("Rig")
    port, output = (671, 192), (585, 145)  # Meridian's port and the end of Processor A, at 1280 × 800
    x("mousemove", *port, "mousedown", 1, "mousemove", 640, 300, "mousemove", 630, 470, "mouseup", 1)
    saved(lambda show: meridian_by(show) is None)  # dragged off: unbound
    x("mousemove", *output, "mousedown", 1, "mousemove", 600, 160, "mousemove", *port, "mouseup", 1)
    saved(lambda show: meridian_by(show) == "processor-a")  # dragged on: bound
    x("mousemove", 800, 285, "click", 1)  # East mast
    x("key", "ctrl+d")
    saved(lambda show: any(s.name == "East mast 2" for s in show.surfaces))
    x("key", "F2")
    x("type", "Bell")
    x("key", "Return")
    saved(lambda show: any(s.name == "Bell" for s in show.surfaces))
    x("key", "ctrl+z", "ctrl+z")
    saved(lambda show: len(show.surfaces) == 7 and meridian_by(show) == "processor-a")


def test_an_empty_show_says_what_to_do_and_can_be_rigged_from_nothing(
    window: MainWindow, qtbot: object, tmp_path: Path
) -> None:
    session, rig = window.session, window.rig
    save_show(Show(name="Empty"), tmp_path / "empty.adze")
    assert session.open(tmp_path / "empty.adze")
    open_rig(window, qtbot)
    assert rig.inspector.title.text() == "Empty" and rig.path.nodes == [] and not rig.remove_button.isEnabled()
    rig.path.grab()
    rig.drawing.grab()
    rig.add("led-wall")
    rig.add("output")
    output, wall = session.output, session.show.surfaces[0].id
    rig.path.lay_out()
    out = rig.path.rect_of("outputs", output)
    drag(qtbot, rig.path, QPointF(out.right() - 6, out.center().y()), rig.path.port_of(wall))
    canvas = session.show.canvases[0]
    assert (canvas.width, canvas.height) == session.show.surfaces[0].pixels and canvas.regions[0].output == output
    qtbot.waitUntil(
        lambda: (
            session.report is not None
            and wall in session.report.surfaces
            and session.report.surfaces[wall].state not in ("waiting", "no region")
        )
    )
    assert len(window.sill.tiles) == 1
    while session.undo_label:
        session.undo()
    assert session.show == Show(name="Empty")


def test_what_hangs_apart_stays_and_alt_hangs_freely(window: MainWindow, qtbot: object) -> None:
    session, room = window.session, window.rig.room
    open_rig(window, qtbot)
    before = session.show
    rect = room.rect_of("foyer-wall")
    drag(qtbot, room, rect.center(), rect.center() + QPointF(-60, -20))
    assert session.show is before and session.surface == "foyer-wall", "it hangs elsewhere: selected, not moved"
    rect = room.rect_of("east-mast")
    start, end = rect.center().toPoint(), (rect.center() + QPointF(31, 0)).toPoint()
    qtbot.mousePress(room, LEFT, pos=start)
    qtbot.mouseMove(room, end)
    room.grab()
    assert session.show is before, "nothing is edited before the hand lets go"
    qtbot.mouseRelease(room, LEFT, pos=end)
    moved = session.show.surface("east-mast").place
    assert moved.x_mm > 14400 and (moved.x_mm % 10 == 0 or moved.x_mm + 1000 == 18000)
    window.run.program.grab()
    drag(qtbot, window.run.program, window.run.program.rect_of("meridian").center(), QPointF(40, 60))
    assert session.show.surface("meridian").place == before.surface("meridian").place, "in Run nothing can be dragged"


def test_no_key_edits_the_rig_from_another_workspace(window: MainWindow, qtbot: object) -> None:
    session = window.session
    for workspace, ids in (("Run", ("remove", "duplicate", "move-down", "rename")), ("Map", ("move-down", "move-up"))):
        window.show_workspace(workspace)
        session.select_surface("meridian")
        before = session.show
        for id in ids:
            window.book.actions[id].trigger()
            assert session.show is before and "works on the signal path in Rig" in window.notice.text()
    window.show_workspace("Rig")
    window.rig.show_tables(True)
    window.book.actions["remove"].trigger()
    assert session.show is before, "Delete in a table is meant for the table"


def test_what_was_typed_goes_to_the_item_it_was_typed_for(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_surface("west-mast")
    editor = rig.inspector.row("Columns").editor
    editor.setFocus()
    editor.selectAll()
    qtbot.keyClicks(editor, "3")
    qtbot.mouseClick(rig.path, LEFT, pos=rig.path.rect_of("surfaces", "east-mast").center().toPoint())
    qtbot.wait(50)
    assert session.surface == "east-mast" and rig.inspector.row("Columns").editor.text() == "2"
    assert (session.show.surface("west-mast").columns, session.show.surface("east-mast").columns) == (3, 2)
    session.select_surface("west-mast")
    assert said(window, "Size").level == "error" and "384×768 px, its region 256×768" in said(window, "Size").words
    enter(qtbot, rig.inspector.row("Rows"), "0")
    assert rig.inspector.row("Rows").why.text()
    session.select_surface("east-mast")
    assert session.show.surface("west-mast").rows == 6, "what was refused is not tried again"


def test_selection_is_one_thing_across_the_rig(window: MainWindow, qtbot: object) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    for shelf, id, title in (
        ("sources", "orrery", "Orrery"),
        ("outputs", "relay", "Relay"),
        ("surfaces", "horizon", "Horizon"),
    ):
        qtbot.mouseClick(rig.path, LEFT, pos=rig.path.rect_of(shelf, id).center().toPoint())
        assert session.selected == (shelf, id) and rig.inspector.title.text() == title
        assert [session.source, session.output, session.surface].count(id) == 1 and rig.remove_button.isEnabled()
    window.show_workspace("Map")
    assert window.map.geometry_panel.title.text() == "Horizon left", "what is selected in Rig is selected in Map"
    window.map.canvas.grab()
    session.select_region("west-mast")
    window.show_workspace("Rig")
    assert rig.inspector.title.text() == "West mast"
    rig.inspector.identify()
    assert window.outputs.cards == [], "a surface has no display to show its name on"
    session.select_output("foyer")
    rig.inspector.identify()
    assert [card.words for card in window.outputs.cards] == list(displays()), (
        "unbound: every display says what it is called"
    )
    for card in window.outputs.cards:
        card.close()


def test_an_input_is_read_from_the_address_typed_and_says_when_nothing_is_there(
    window: MainWindow, qtbot: object
) -> None:
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_source("guest-laptop")
    assert rig.inspector.kind.text() == "input, unbound"
    enter(qtbot, rig.inspector.row("Device or URL"), "lavfi:testsrc2=size=192x108:rate=25")
    assert rig.inspector.kind.text() == "input, live" and session.show.source("guest-laptop").address.startswith(
        "lavfi:"
    )
    session.playout.look_through("guest-laptop")
    qtbot.waitUntil(
        lambda: (f := session.playout.picture_of("guest-laptop")) is not None and f.pixels.shape[:2] == (108, 192)
    )
    enter(qtbot, rig.inspector.row("Device or URL"), "/dev/video96")
    session.playout.look_through("guest-laptop")
    qtbot.waitUntil(lambda: "there is no such device" in session.playout.faults().get("guest-laptop", ""))
    enter(qtbot, rig.inspector.row("Device or URL"), "x" * 500)
    assert (
        "400" in rig.inspector.row("Device or URL").why.text()
        and session.show.source("guest-laptop").address == "/dev/video96"
    )
    qtbot.waitUntil(
        lambda: rig.inspector.row("Device or URL").why.isVisible()
    )  # a new field is shown with the next events
    session.undo()
    session.undo()
    assert session.show.source("guest-laptop").address is None and rig.inspector.kind.text() == "input, unbound"


def test_a_camera_is_looked_at_gets_a_backup_and_is_lost(window: MainWindow, qtbot: object) -> None:
    """What it looks like now is drawn; its backup is chosen; when it dies, the wall and the drawing show the
    other one.
    """
    session, rig = window.session, window.rig
    open_rig(window, qtbot)
    session.select_source("roof-camera")
    qtbot.waitUntil(lambda: rig.drawing._serial is not None)
    seen = rig.drawing._serial
    qtbot.waitUntil(lambda: rig.drawing._serial != seen)  # it is live, though nothing on air shows it
    plain = rig.drawing.grab().toImage()
    choose(rig.inspector.row("Backup"), "Night blue")
    enter(qtbot, rig.inspector.row("Shown again after"), "0.1")
    assert (
        session.show.source("roof-camera").when_lost.backup == "night"
        and session.show.source("roof-camera").when_lost.steady == 0.1
    )
    assert "Night blue" in [
        rig.inspector.row("Backup").editor.itemText(n) for n in range(rig.inspector.row("Backup").editor.count())
    ]
    session.playout.act(Recall(preset=7, seconds=0))
    qtbot.waitUntil(lambda: session.report.surfaces["west-mast"].sources == ("Roof camera",))
    qtbot.waitUntil(lambda: session.playout.stage.show is session.show)
    session.playout._engine._pool._slots["roof-camera"].player._reader.fault = "its signal is gone"
    qtbot.waitUntil(lambda: session.report.surfaces["west-mast"].state == "backup")
    qtbot.waitUntil(lambda: "Roof camera: its signal is gone; Night blue" in window.top.findings.toolTip())
    raster = session.playout.raster("processor-b")
    assert (raster[100:700:50, 20:240:20, :3] == (0x30, 0x12, 0x0E)).all()
    assert rig.drawing.grab().toImage() != plain
    session.playout._engine._pool._slots["roof-camera"].player._reader.fault = None
    qtbot.waitUntil(lambda: session.report.surfaces["west-mast"].state == "unbound")
    window.show_workspace("Run")
    assert rig.drawing._watched is None, "nobody looks at it any more"
    session.undo()
    session.undo()
    assert session.show.source("roof-camera").when_lost.backup is None
