"""The views one by one: at true scale, readable at every size, and saying what is so."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
import pytest
from hands import gone
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QKeySequence, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QMenu

from ushering_adze.core.onair.delta import Change
from ushering_adze.core.onair.faults import acknowledged, faults_now
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import DisplayBinding, FilesBinding, Region, ShowError, Still, WindowBinding
from ushering_adze.core.show.edits import changed, find_region, with_region
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk import theme
from ushering_adze.desk.commands import CommandBook, key_words
from ushering_adze.desk.drafting.raster_view import KIND_COLOURS
from ushering_adze.desk.guarded import HOLD_MS, GuardedButton
from ushering_adze.desk.map.panel import GeometryField
from ushering_adze.desk.output_windows import displays
from ushering_adze.desk.pictures import draw_fitted, image_of
from ushering_adze.desk.qt import settle
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.run.strip import delta_words
from ushering_adze.desk.session import UNDO_STEPS, Session
from ushering_adze.desk.sill import SillTile
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine.report import Report, SurfaceReport


def report(session: Session, **more: object) -> Report:
    stage = Stage.opened(session.show)
    surfaces = {s.id: SurfaceReport(("Slides",), ("slides",), "unbound") for s in session.show.surfaces}
    made = Report(stage, (), surfaces, {}, {}, 1.0, False, False, False, 30.0, 9.0, 100, 0, False)
    return replace(made, **more)  # type: ignore[arg-type]


# -- the room ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [(320, 180), (860, 280), (1700, 560), (600, 900)])
def test_the_room_is_at_true_scale_at_every_size(session: Session, size: tuple[int, int]) -> None:
    room = RoomView(session, "program")
    room.resize(*size)
    room.show()
    scales = []
    for surface in session.show.surfaces:
        rect = room.rect_of(surface.id)
        if surface.size_mm is None:
            assert rect is None
            continue
        scales += [rect.width() / surface.size_mm[0], rect.height() / surface.size_mm[1]]
        assert QRectF(room.rect()).contains(rect), surface.id
    assert max(scales) / min(scales) == pytest.approx(1, abs=1e-6)
    horizon, west, east, meridian = (room.rect_of(s) for s in ("horizon", "west-mast", "east-mast", "meridian"))
    scale = scales[0]
    assert (east.x() - west.x()) / scale == pytest.approx(14400 - 2600)
    assert (meridian.bottom() - horizon.bottom()) / scale == pytest.approx(2900 - 350)
    middle = (horizon.center().x(), meridian.center().x(), (west.center().x() + east.center().x()) / 2)
    assert middle == pytest.approx((middle[0],) * 3), "the house hangs about its centre line"
    foyer = room.rect_of("foyer-wall")
    assert foyer.x() > room._x0 + 18000 * scale, "what hangs elsewhere is drawn beside"


def test_a_click_selects_and_the_floor_selects_nothing(session: Session, qtbot: object) -> None:
    room = RoomView(session, "plain")
    room.resize(860, 280)
    room.show()
    for surface in ("horizon", "meridian", "west-mast", "lectern", "foyer-wall"):
        qtbot.mouseClick(room, Qt.MouseButton.LeftButton, pos=room.rect_of(surface).center().toPoint())
        assert session.surface == surface
    assert session.region == "foyer"
    qtbot.mouseClick(room, Qt.MouseButton.LeftButton, pos=QPoint(4, 276))
    assert session.surface is None and session.region is None


def pixels_of(widget: object) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)  # type: ignore[attr-defined]
    return (
        np.frombuffer(image.constBits(), np.uint8)
        .reshape(image.height(), image.bytesPerLine() // 4, 4)[:, : image.width(), 2::-1]
        .copy()
    )


def near(pixels: np.ndarray, token: str, slack: int = 12) -> np.ndarray:
    wanted = np.array([int(token[k : k + 2], 16) for k in (1, 3, 5)])
    return np.abs(pixels.astype(int) - wanted).max(-1) <= slack


def test_program_is_barred_red_and_solid_preview_green_and_dashed(session: Session) -> None:
    for role, token in (("program", theme.RED), ("preview", theme.GREEN)):
        room = RoomView(session, role)  # type: ignore[arg-type]
        room.resize(600, 240)
        room.show()
        bar = near(pixels_of(room), token)[10:230, 2]
        assert bar.all() if role == "program" else 0.4 < bar.mean() < 0.8


def test_what_will_change_is_hatched_and_outlined_in_the_preview_only(session: Session) -> None:
    change = (Change("meridian", ("Slides",), ("Moon phases",)),)
    grey = {s.id: np.full((90, 160, 4), 60, np.uint8) for s in session.show.surfaces}
    for role in ("program", "preview"):
        room = RoomView(session, role)  # type: ignore[arg-type]
        room.resize(900, 300)
        room.show()
        session.tell(report(session, delta=change, program=grey))
        picture = pixels_of(room)
        for surface in ("meridian", "west-mast"):
            inner = room.rect_of(surface).adjusted(3, 3, -3, -5).toRect()
            part = picture[inner.top() : inner.bottom(), inner.left() : inner.right()]
            striped = part.std() > 4
            assert striped == (role == "preview" and surface == "meridian"), (role, surface)


# -- run -----------------------------------------------------------------------------------------------------------


def test_the_delta_is_told_in_groups(session: Session) -> None:
    show = session.show
    changes = (
        Change("meridian", ("Slides",), ("Moon phases",)),
        Change("west-mast", (), ("Roof camera",)),
        Change("east-mast", (), ("Roof camera",)),
        Change("relay", ("Slides",), ()),
    )
    head, line = delta_words(show, changes, True)
    assert head == "Take changes 4 of 7 surfaces"
    assert line == "Meridian → Moon phases   West mast, East mast → Roof camera   Relay → black"
    assert delta_words(show, (), True) == ("Take changes nothing", "Program already shows this")


@pytest.mark.parametrize(
    ("state", "loud"), [("live", False), ("unbound", False), ("lost", True), ("held", True), ("black", True)]
)
def test_a_sill_tile_says_its_state_in_words(session: Session, state: str, loud: bool) -> None:
    tile = SillTile(session, session.show.surfaces[1])
    tile.resize(150, 92)
    tile.show()
    surfaces = {s.id: SurfaceReport(("Slides", "Aisle camera"), ("slides",), state) for s in session.show.surfaces}
    session.tell(report(session, surfaces=surfaces))
    assert tile.state() == state and tile.words() == "Slides + Aisle camera"
    picture = pixels_of(tile)
    words = picture[58:76, 80:146]
    bright = near(words, theme.RED_WORDS, 60) | near(words, theme.AMBER, 60)
    assert bright.any() == loud
    assert near(picture[0:3, 20:140], theme.RED, 20).mean() > (0.9 if state != "black" else -1)
    if state == "black":
        assert not near(picture[0:3, 20:140], theme.RED, 20).any(), "what is black is not on program"


def test_a_guarded_button_fills_then_switches(app: QApplication, qtbot: object) -> None:
    button, said = GuardedButton("Black all", theme.RED), []
    button.switched.connect(said.append)
    button.show()
    button.press()
    settle(HOLD_MS // 2)
    button.release()
    settle(HOLD_MS)
    assert said == [] and not button.on
    button.press()
    time.sleep(HOLD_MS / 1000 * 2)  # the desk is not served for a while, and the hand has long let go
    settle(30)
    button.release()
    assert said == [], "a stall is not a hand"
    button.press()
    qtbot.waitUntil(lambda: said == [True])
    settle(HOLD_MS + 200)
    assert said == [True], "once, however long it is kept pressed"
    button.release()
    button.press()
    qtbot.waitUntil(lambda: said == [True, False])
    button.release()
    assert button.minimumHeight() >= 44


# -- fields, commands, look ----------------------------------------------------------------------------------------


def test_a_field_steps_the_number_its_cursor_stands_in(app: QApplication, qtbot: object) -> None:
    why, got = QLabel(), []
    field = GeometryField("On canvas", got.append, got.append, why)
    for cursor, key, want in (
        (1, Qt.Key.Key_Up, ["+1", "·", "·", "·"]),
        (5, Qt.Key.Key_Down, ["·", "-1", "·", "·"]),
        (13, Qt.Key.Key_Up, ["·", "·", "·", "+1"]),
    ):
        field.hold((100, 200, 300, 400), (4112, 2040))
        field.setCursorPosition(cursor)
        qtbot.keyClick(field, key)
        assert got[-1] == want
    field.hold((100, None, 300, 400), (4112, 2040))
    assert field.text() == "100 · 300 400", "where many differ a dot stands, and left there it changes nothing"
    field.setCursorPosition(0)
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert got[-1] == ["+10", "·", "·", "·"]
    field.setText("100+n*320 · · *2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert got[-1] == ["100+n*320", "·", "·", "*2"]
    field.hold((100, 200, 300, 400), (4112, 2040))
    field.setText("50% h w/2 *2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert got[-1] == (2056, 400, 150, 800)
    field.setText("50% h w/2 nonsense")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert '"nonsense" is not known here' in why.text() and field.property("wrong") and len(got) == 6
    qtbot.keyClick(field, Qt.Key.Key_Backspace)
    assert why.text() == "" and not field.property("wrong")


def test_the_finder_finds_by_any_words_in_any_order(app: QApplication) -> None:
    owner = QLineEdit()
    book = CommandBook(owner)
    ran = []
    book.add("a", "Run", "Take preview to program", lambda: ran.append("a"), "Space", by_window=True)
    book.add("b", "Run", "Black all outputs", lambda: ran.append("b"), "B", held=True)
    book.add("c", "Go", "Run workspace", lambda: ran.append("c"), "Alt+5")
    assert [c.id for c in book.found("program take")] == ["a"]
    assert book.found("run")[0].id == "c", "what starts with the word comes first"
    assert {c.id for c in book.found("")} == {"a", "b", "c"} and book.found("zebra") == []
    book.actions["b"].trigger()
    assert ran == ["b"]
    assert key_words(book.commands["b"]) == "B, kept pressed" and key_words(book.commands["c"]) == "Alt+5"
    assert book.actions["a"].shortcut() == QKeySequence(), "keys of the window are not taken twice"


def test_no_key_means_two_things(session: Session) -> None:
    window = MainWindow(session)
    keys: dict[tuple[str, str], str] = {}
    for command in window.book.commands.values():
        for key in filter(None, command.keys.split(" | ")):
            for where in [command.where] if command.where else ["", "Run", "Map"]:
                assert (key, where) not in keys or keys[key, where] == command.id, (key, command.id, keys[key, where])
                keys[key, where] = command.id
    window.outputs.close()


@pytest.mark.parametrize("size", [(1024, 640), (1280, 800), (2560, 1440)])
def test_nothing_is_cut_off_at_any_size(session: Session, size: tuple[int, int]) -> None:
    window = MainWindow(session)
    window.resize(*size)
    window.show()
    session.tell(report(session))
    for name in ("Run", "Map", "Rig"):
        window.show_workspace(name)
        settle(60)
        for label in window.pages[name].findChildren(QLabel):
            if (
                label.isVisible()
                and label.text()
                and not label.wordWrap()
                and label.sizePolicy().horizontalPolicy().name != "Ignored"
            ):
                assert label.width() >= label.sizeHint().width() - 1 or size[0] < 1280, (
                    name,
                    label.text(),
                    label.width(),
                )
        for button in window.findChildren(type(window.run.strip.take_button)):
            if button.isVisible() and button.text():
                room = button.fontMetrics().horizontalAdvance(button.text())
                assert button.width() >= room, (name, button.text())
    assert window.width() == size[0] and window.height() == size[1], "the window can really be that size"
    assert window.run.strip.take_button.height() >= 44 and window.run.deck.cards[0].height() >= 44
    window.outputs.close()
    window.hide()


def test_pictures_are_shown_whole_and_in_their_shape(app: QApplication) -> None:
    image = QImage(200, 100, QImage.Format.Format_RGB32)
    image.fill(0)
    painter = QPainter(image)
    where = draw_fitted(painter, QRectF(0, 0, 200, 100), np.full((300, 300, 4), 255, np.uint8))
    painter.end()
    assert (where.x(), where.y(), where.width(), where.height()) == (50, 0, 100, 100)
    pixels = np.arange(4 * 6 * 4, dtype=np.uint8).reshape(4, 6, 4)
    shown = image_of(pixels[:, 1:5])
    assert (shown.width(), shown.height()) == (4, 4), "a part of an array is shown right"
    assert shown.pixelColor(0, 2).red() == pixels[2, 1, 2] and shown.pixelColor(3, 0).blue() == pixels[0, 4, 0]


def test_every_kind_of_surface_has_its_colour(session: Session) -> None:
    assert {s.kind for s in session.show.surfaces} == set(KIND_COLOURS)
    assert len(set(KIND_COLOURS.values())) == 5


# -- session and outputs -------------------------------------------------------------------------------------------


def moved(session: Session, x: int) -> Region:
    return changed(find_region(session.show, "meridian")[1], x=x)


def test_undo_and_redo_walk_through_values(session: Session) -> None:
    first = session.show
    for x in range(5):
        session.edit(f"Move {x}", with_region(session.show, moved(session, x)))
    assert session.undo_label == "Move 4" and session.edited
    session.undo()
    session.undo()
    assert find_region(session.show, "meridian")[1].x == 2 and session.redo_label == "Move 3"
    session.redo()
    assert find_region(session.show, "meridian")[1].x == 3
    session.edit("Other", with_region(session.show, moved(session, 99)))
    assert session.redo_label is None
    for _ in range(10):
        session.undo()
    assert session.show is first and not session.edited, "back where it was, with nothing to save"


def test_undo_has_a_bound_and_an_edit_that_changes_nothing_is_none(session: Session) -> None:
    session.edit("Nothing", session.show.model_copy())
    assert session.undo_label is None
    for x in range(UNDO_STEPS + 30):
        session.edit(f"{x}", with_region(session.show, moved(session, x)))
    assert len(session._undo) == UNDO_STEPS


def test_an_edit_that_breaks_the_show_is_refused(session: Session) -> None:
    show = session.show
    broken = show.model_copy(update={"sources": show.sources[1:]})
    with pytest.raises(ShowError, match='no source "slides"'):
        session.edit("Break", broken)
    assert session.show is show and session.undo_label is None
    twice = show.model_copy(update={"sources": (*show.sources, Still(id="slides", name="S", path="x.png"))})
    with pytest.raises(ShowError, match='id "slides" is already used'):
        session.edit("Break", twice)


def test_selection_follows_what_is_there(session: Session) -> None:
    session.select_region("east-mast")
    assert session.surface == "east-mast"
    house = session.show.canvases[0]
    fewer = house.model_copy(update={"regions": tuple(r for r in house.regions if r.id != "east-mast")})
    session.edit("Remove East mast", session.show.model_copy(update={"canvases": (fewer, *session.show.canvases[1:])}))
    assert session.region is None and session.surface == "east-mast"
    session.select_region("nowhere")
    assert session.region is None


def test_outputs_go_where_the_show_says(session: Session, tmp_path: object) -> None:
    said: list[str] = []
    session.trouble.connect(said.append)
    session.root = tmp_path  # type: ignore[assignment]
    window = MainWindow(session)
    outputs = window.outputs
    display = next(iter(displays()))
    outputs.bind("relay", DisplayBinding(name=display))
    full = outputs.windows["relay"]
    assert full.windowFlags() & Qt.WindowType.FramelessWindowHint and full.isFullScreen()
    outputs.bind("relay", WindowBinding())
    plain = outputs.windows["relay"]
    assert plain is not full and not plain.isFullScreen()
    assert [s.split(": ")[0] for s in said] == [f"Display {display} is 800 × 800, 7 Relay 1280 × 720"]
    said.clear()
    outputs.bind("relay", DisplayBinding(name="HDMI-77"))
    assert said == ['Relay: no display "HDMI-77" is connected; it is shown in a window meanwhile']
    assert not outputs.windows["relay"].isFullScreen() and session.show.output("relay").binding == DisplayBinding(
        name="HDMI-77"
    )
    outputs.bind("relay", FilesBinding(folder="out"))
    assert "relay" not in outputs.windows
    session.playout.start(wait=8)
    file = tmp_path / "out" / "relay.png"  # type: ignore[operator]
    for _ in range(100):
        settle(50)
        if file.exists():
            break
    assert file.exists()
    window.sill._report()
    session.undo()
    assert "relay" in outputs.windows, "undo binds it again"
    outputs.close()
    assert outputs.windows == {} and session.show.output("relay").binding is not None, (
        "closing the program keeps the choice"
    )


def test_lost_sources_are_counted_in_the_top_bar(session: Session) -> None:
    window = MainWindow(session)
    window.show()
    session.tell(report(session))
    assert not window.top.findings.isVisible()
    faults = faults_now(
        session.show, {}, {"orrery": "no file orrery.mp4; put it there", "relay": "its disk is full"}, {"orrery"}, 7.0
    )
    session.tell(report(session, troubles=tuple(faults.values()), late=3, late_lately=True))
    assert window.top.findings.text() == "2 lost"
    assert window.top.findings.toolTip() == "Orrery: no file orrery.mp4; put it there\nRelay: its disk is full"
    known: list[str | None] = []
    session.playout.acknowledge = known.append  # type: ignore[method-assign]
    menu = window.top.faults_menu()
    menu.actions()[1].trigger()
    assert known == ["relay"] and "Relay: its disk is full" in menu.actions()[1].text()
    session.tell(report(session, troubles=tuple(acknowledged(faults).values()), late=3, late_lately=True))
    assert window.top.findings.text() == "2 known" and not window.top.faults_menu().actions()[0].isEnabled()
    assert theme.AMBER in window.top.figures.text() and "3 late" in window.top.figures.text()
    window.outputs.close()
    window.hide()


def test_the_deck_has_a_card_for_each_preset_in_order(session: Session) -> None:
    window = MainWindow(session)
    numbers = [c.preset.number for c in window.run.deck.cards]
    assert numbers == sorted(p.number for p in session.show.presets)
    card = next(c for c in window.run.deck.cards if c.preset.number == 90)
    assert card.toolTip() == "Black, 1 s: no layers; clears House, Relay"
    fewer = tuple(p for p in session.show.presets if p.number < 20)
    session.edit("Remove", session.show.model_copy(update={"presets": fewer}))
    assert [c.preset.number for c in window.run.deck.cards] == [1, 2, 3, 4, 5, 6, 7, 8]
    window.outputs.close()


def test_the_pointer_reads_canvas_and_output(session: Session, qtbot: object) -> None:
    window = MainWindow(session)
    window.show()
    window.show_workspace("Map")
    view = window.map.canvas
    settle(60)
    at = view.origin + QPointF(1100.5, 1100.5) * view.scale
    qtbot.mouseMove(view, at.toPoint())
    view.pointed(at)
    assert view._at == (1100, 1100)
    view.pointed(None)
    assert view._at is None
    window.map.picker.setCurrentIndex(3)
    window.map._pick(3)
    assert view.canvas.id == "relay"
    view.switch.click()
    assert (view.shown, window.map.output.shown) == (
        "plain",
        "live",
    )  # no guide here: from live to plain, in this drawing alone
    window.map.show_as("plain")
    assert view.shown == window.map.output.shown == "plain"
    window.outputs.close()
    window.hide()


def test_every_menu_of_the_window_can_be_opened(window: MainWindow) -> None:
    """Those that are filled when they open, too; an error in one of them fails this test."""
    said = []
    for menu in window.findChildren(QMenu):
        menu.aboutToShow.emit()
        said += [action.text() for action in menu.actions()]
    show = window.session.show
    assert {f"Of {zone.name}" for zone in show.zones} <= set(said), "a new mix of a zone"
    assert {source.name for source in show.sources} <= set(said), "what an override may show"


def test_what_is_built_late_is_there_when_it_is_asked_for_early(app: QApplication, qtbot: object) -> None:
    session = Session(demo_show(), None, DEMO_ROOT)
    window = MainWindow(session, whole=False)
    session.playout.start(wait=60)
    try:
        window.show()
        QTest.keyClick(window, Qt.Key.Key_Space)
        assert not window.run.cueing, "nothing is armed before there are cues"
        QTest.mouseClick(window.run.tabs["Cues"], Qt.MouseButton.LeftButton)
        assert window.run.below.currentWidget().isAncestorOf(window.run.cues) and window.run.cueing
        window.resize(1300, 820)
        window.furnish()
        assert window.sheet.size() == window.size() and window.run.below.count() == 4
        qtbot.waitUntil(lambda: window.run.cues.rows.rowCount() > 0)
    finally:
        session.playout.stop()
        session.blockSignals(True)
        gone(window)
