"""Map through the real window: journeys with their inputs counted, drags, the pixel check, linked views, exchange."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QFileDialog, QLineEdit

from ushering_adze.core.exchange.region_table import as_table
from ushering_adze.core.layout.binding import landing_rect
from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.layout.regions import moved, placed, rect_of, without_regions
from ushering_adze.core.proof import pixel_check
from ushering_adze.core.show import Canvas, Output, Show, Timing
from ushering_adze.desk.map.prompt import Prompt
from ushering_adze.desk.qt import settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.demo import DEMO_ROOT
from ushering_adze.io.outputs.png import write_png

LEFT, CTRL, SHIFT, ALT = (Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier,
                          Qt.KeyboardModifier.AltModifier)
NONE = Qt.KeyboardModifier.NoModifier


class Hands:
    """A technician's hands: every click, drag, key and typed line is one input, and is counted."""

    def __init__(self, window: MainWindow, qtbot: object) -> None:
        self.window, self.bot, self.inputs = window, qtbot, 0

    def key(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = NONE, on: object = None) -> None:
        self.inputs += 1
        self.bot.keyClick(on or self.window, key, modifiers)
        settle(5)

    def act(self, id: str) -> None:
        """A key or menu entry: what the command book runs for it."""
        self.inputs += 1
        self.window.book.actions[id].trigger()
        settle(5)

    def type(self, field: QLineEdit, text: str) -> None:
        self.inputs += 2  # into the field, and Enter
        field.setFocus()
        field.setText(text)
        self.bot.keyClick(field, Qt.Key.Key_Return)
        settle(5)

    def answer(self, *values: str) -> None:
        """Fill the open question in, and press its button."""
        prompt: Prompt = self.window.map.actions_of.prompt
        for field, value in zip(prompt.fields, values, strict=False):
            if value:
                self.inputs += 1
                field.setText(value) if isinstance(field, QLineEdit) else field.setCurrentIndex(field.findData(value))
        self.inputs += 1
        self.bot.mouseClick(prompt.button, LEFT)
        settle(5)

    def at(self, x: float, y: float) -> QPoint:
        view = self.window.map.canvas
        return (view.origin + QPointF(x + 0.5, y + 0.5) * view.scale).toPoint()

    def click(self, x: float, y: float, modifiers: Qt.KeyboardModifier = NONE) -> None:
        self.inputs += 1
        self.bot.mouseClick(self.window.map.canvas, LEFT, modifiers, self.at(x, y))

    def drag(self, a: tuple[float, float], b: tuple[float, float], modifiers: Qt.KeyboardModifier = NONE, view: object = None) -> None:
        self.inputs += 1
        view = view or self.window.map.canvas
        points = [(view.origin + QPointF(x + 0.5, y + 0.5) * view.scale).toPoint() for x, y in
                  [a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b, b]]
        self.bot.mousePress(view, LEFT, modifiers, points[0])
        for point in points[1:]:
            settle(20)
            move = QPointF(point)
            view.mouseMoveEvent(QMouseEvent(QEvent.Type.MouseMove, move, view.mapToGlobal(move), LEFT, LEFT, modifiers))
        self.bot.mouseRelease(view, LEFT, modifiers, points[-1])
        settle(5)


def in_map(session: Session, qtbot: object) -> tuple[MainWindow, Hands]:
    window = MainWindow(session)
    window.resize(1280, 800)
    window.show()
    window.show_workspace("Map")
    settle(60)
    window.map.canvas.grab()
    window.map.output.grab()
    return window, Hands(window, qtbot)


def gone(window: MainWindow) -> None:
    """Close a window for good: what lives on would be styled and painted with every later one."""
    window.map.close_all()
    window.outputs.close()
    window.map.bench.deleteLater()
    window.deleteLater()
    settle(10)
    gc.collect()


@pytest.fixture
def hands(session: Session, qtbot: object) -> Iterator[Hands]:
    window, made = in_map(session, qtbot)
    yield made
    gone(window)


@pytest.fixture
def bare(app: object, qtbot: object) -> Iterator[Hands]:
    """An empty canvas and three processors: where a technician begins who is sent a pixel map picture."""
    outputs = tuple(Output(id=f"p{n}", number=n, name=f"Processor {n}", timing=Timing(width=w, height=h, rate=60))
                    for n, w, h in ((1, 1920, 1080), (2, 3840, 1080), (3, 1024, 768)))
    canvas = Canvas(id="main", name="Main", width=3840, height=1200)
    session = Session(Show(name="From a picture", canvases=(canvas,), outputs=outputs), None, DEMO_ROOT)
    window, made = in_map(session, qtbot)
    yield made
    session.blockSignals(True)
    session.engine.stop()
    gone(window)


def regions(hands: Hands) -> dict[str, object]:
    return {r.id: r for _, r in hands.window.session.show.regions()}


# -- journeys -------------------------------------------------------------------------------------------------------------


def guide_picture(path: Path) -> None:
    """What a supplier sends: three banners at the left, a centre screen, a plinth; labels and cabinet lines in them."""
    picture = np.zeros((1200, 3840, 3), np.uint8)
    shapes = [(100, 100, 192, 768), (340, 100, 192, 768), (580, 100, 192, 768), (960, 60, 1920, 960), (1440, 1056, 960, 128)]
    for n, (x, y, w, h) in enumerate(shapes):
        picture[y:y + h, x:x + w] = [(160, 60, 40), (40, 140, 60), (50, 70, 180), (120, 110, 30), (130, 50, 140)][n]
        for k in range(0, w, 96):
            picture[y:y + h, x + k] = (220, 220, 220)
        cv2.putText(picture, f"{w}x{h}", (x + 12, y + h // 2), cv2.FONT_HERSHEY_SIMPLEX, 1, (255, 255, 255), 2, cv2.LINE_AA)
    cv2.imwrite(str(path), picture)


def test_from_a_guide_picture_to_six_mirrored_banners_a_screen_and_a_plinth(bare: Hands, tmp_path: Path, monkeypatch: object) -> None:
    window, session, m = bare.window, bare.window.session, bare.window.map
    guide_picture(tmp_path / "map.png")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(tmp_path / "map.png"), ""))
    bare.act("guide-load")
    bare.inputs += 2  # the file's name, and Enter, in the system's own window
    bare.act("guide-find")
    bare.bot.waitUntil(lambda: m.accept_button.isVisible(), timeout=60000)
    assert "5 rectangles found" in m.guide_words.text()
    bare.act("guide-accept")
    assert sorted(tuple(rect_of(r)) for r in regions(bare).values()) == sorted([
        (100, 100, 192, 768), (340, 100, 192, 768), (580, 100, 192, 768), (960, 60, 1920, 960), (1440, 1056, 960, 128)])
    bare.drag((60, 40), (800, 900))  # a band around the banners
    assert len(session.regions) == 3
    bare.type(m.geometry.name, "Banner")
    bare.act("region-reflect-copies-across")
    assert len(session.regions) == 3 and len(regions(bare)) == 8
    by_name = {r.name: r for r in regions(bare).values()}
    for n in (1, 2, 3):
        a, b = by_name[f"Banner {n}"], by_name[f"Banner {n + 3}"]
        assert a.x == 3840 - b.x - b.w and (a.y, a.w, a.h) == (b.y, b.w, b.h), "mirrored to the pixel"
    bare.inputs += 1
    m.regions.find.setText("Banner")
    bare.key(Qt.Key.Key_Return, on=m.regions.find)
    assert len(session.regions) == 6
    bare.inputs += 2
    m.geometry.output.setCurrentIndex(m.geometry.output.findData("p2"))
    m.geometry.output.activated.emit(m.geometry.output.currentIndex())
    bare.act("land-pack")
    bare.click(1900, 500)
    bare.type(m.geometry.name, "Centre screen")
    bare.act("land-pack")
    bare.click(1900, 1100)
    bare.type(m.geometry.name, "Plinth")
    bare.inputs += 2
    m.geometry.output.setCurrentIndex(m.geometry.output.findData("p3"))
    m.geometry.output.activated.emit(m.geometry.output.currentIndex())
    bare.act("land-centre")
    final = {r.name: (tuple(rect_of(r)), r.output, tuple(landing_rect(r))) for r in regions(bare).values()}
    assert final["Centre screen"] == ((960, 60, 1920, 960), "p1", (0, 0, 1920, 960))
    assert final["Plinth"] == ((1440, 1056, 960, 128), "p3", (32, 320, 960, 128))
    assert [final[f"Banner {n}"][2] for n in range(1, 7)] == [((n - 1) * 192, 0, 192, 768) for n in range(1, 7)]
    assert all(r.exact for r in regions(bare).values())
    assert {f.severity for f in pixel_check(session.show)} == {"note"}, "and the pixel check has nothing to say but what stays black"
    assert bare.inputs < 40, bare.inputs
    bare.click(1900, 500)
    assert window.map.geometry.title.text() == "Centre screen"


def test_a_gap_is_opened_the_same_on_both_sides_of_the_centre(hands: Hands) -> None:
    session = hands.window.session
    hands.act("go-map")
    session.select_regions(["west-mast", "east-mast"])
    before = regions(hands)
    hands.act("open-across")
    hands.answer("-12")
    after = regions(hands)
    assert after["west-mast"].x == before["west-mast"].x + 12 and after["east-mast"].x == before["east-mast"].x - 12
    assert session.undo_label == "Close the gap at the centre"
    hands.act("open-across")
    hands.answer("twelve")
    prompt = hands.window.map.actions_of.prompt
    assert prompt.isVisible() and 'type a whole number' in prompt.why.text(), "what is wrong is told, and the question stays"
    hands.answer("12")
    assert regions(hands)["west-mast"].x == before["west-mast"].x
    hands.window.book.actions["undo"].trigger()
    hands.window.book.actions["undo"].trigger()
    assert regions(hands) == before


def test_a_table_goes_out_and_comes_back_and_wrong_rows_are_agreed_upon_first(hands: Hands, tmp_path: Path, monkeypatch: object) -> None:
    window, session = hands.window, hands.window.session
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "r"), ""))
    hands.act("export-table")
    text = (tmp_path / "r.csv").read_text()
    assert text == as_table(session.show)
    session.edit("Clear", without_regions(session.show, [r.id for _, r in session.show.regions()]))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(tmp_path / "r.csv"), ""))
    hands.act("import-regions")
    assert as_table(session.show) == text and "8 regions imported" in window.notice.text()
    assert session.undo_label == "Import 8 regions"
    (tmp_path / "r.csv").write_text("Panel,From left,From top,Wide,High\nA,0,0,64,64\nB,70,0,-1,64\n")
    before = session.show
    hands.act("import-regions")
    assert session.show is before, "the columns must be matched first"
    prompt = window.map.actions_of.prompt
    assert "Columns of r.csv" in prompt.windowTitle()
    for column, heading in (("x", 1), ("y", 2), ("w", 3), ("h", 4)):
        field = next(f for f in prompt.fields if f.accessibleName() == column)
        field.setCurrentIndex(field.findData(heading))
    hands.bot.mouseClick(prompt.button, LEFT)
    settle(10)
    assert session.show is before and "Import the 1 that are right?" in window.map.actions_of.prompt.windowTitle()
    hands.answer()
    assert [r.name for _, r in session.show.regions() if r.name == "A"] == ["A"]
    window.book.actions["undo"].trigger()
    assert session.show is before, "one undo takes the import back"
    (tmp_path / "r.csv").write_bytes(b"\xff\xfe\x00")
    hands.act("import-regions")
    assert "UTF-8" in window.refusal.text() and session.show is before


# -- gestures -------------------------------------------------------------------------------------------------------------


def test_a_drag_snaps_shows_its_lines_and_is_one_step_for_undo(hands: Hands) -> None:
    session, view = hands.window.session, hands.window.map.canvas
    before = session.show
    view.shown = "plain"
    hands.drag((2000, 1500), (2030, 1512))
    meridian = regions(hands)["meridian"]
    assert (meridian.x, meridian.y) in {(1096, 1080), (1126, 1080)}, "its upper edge stays on the screen's lower edge"
    assert session.undo_label in (None, "Move Meridian on the canvas")
    session.edit("Back", before) if session.show != before else None
    hands.drag((2000, 1500), (1300, 1467), ALT)
    moved = regions(hands)["meridian"]
    assert abs(moved.x - 396) <= 8 and abs(moved.y - 1047) <= 8 and moved.exact, "freely, to the pixel under the pointer"
    assert session.undo_label == "Move Meridian on the canvas"
    hands.window.book.actions["undo"].trigger()
    assert session.show == before, "all steps of the drag were one"
    hands.window.map.canvas.grab()
    session.select_region("meridian")
    hands.drag((1096 + 1919, 1080 + 959), (1096 + 1400, 1080 + 700), ALT)
    sized = regions(hands)["meridian"]
    assert abs(sized.w - 1400) < 12 and abs(sized.h - 700) < 12 and sized.exact, "a corner makes it smaller, one to one"


def test_bands_draw_measure_nudge_and_groups(hands: Hands) -> None:
    window, session, view = hands.window, hands.window.session, hands.window.map.canvas
    hands.drag((3840, 1500), (4111, 600))
    assert session.regions == ("east-mast",), "a band takes what lies wholly in it"
    hands.click(100, 1000, CTRL)
    assert session.regions == ("east-mast", "west-mast")
    hands.key(Qt.Key.Key_Down, SHIFT)
    assert [regions(hands)[i].y for i in ("west-mast", "east-mast")] == [646, 646]
    hands.act("region-group")
    assert regions(hands)["west-mast"].group == "G1"
    session.select_region(None)
    hands.click(100, 1000)
    assert set(session.regions) == {"west-mast", "east-mast"}, "one of a group brings the others"
    hands.act("region-ungroup")
    window.map.use("draw")
    hands.drag((300, 1300), (700, 1700), ALT)
    new = regions(hands)[session.region]
    assert abs(new.x - 300) < 8 and abs(new.w - 401) < 14 and new.exact and new.output == window.map.output.output.id
    window.map.use("measure")
    hands.drag((1096, 1080), (3015, 1080))
    (x0, y0), (x1, y1) = view.measured
    assert abs(x1 - x0 + 1 - 1920) < 16 and y0 == y1
    hands.key(Qt.Key.Key_Escape)
    assert view.tool == "select" and view.measured is None
    session.select_region(new.id)
    hands.act("remove")
    assert new.id not in regions(hands)


def test_landings_are_dragged_on_the_raster(hands: Hands) -> None:
    session, output = hands.window.session, hands.window.map.output
    session.select_region("east-mast")
    output.grab()
    hands.drag((380, 300), (700, 300), view=output)
    east = regions(hands)["east-mast"]
    assert east.landing.x in range(560, 592) or east.landing.x == 768, "moved on the raster, or snapped to its right edge"
    assert (east.x, east.y) == (3856, 636), "where it lies on the canvas is another matter"
    assert session.undo_label == "Land East mast"
    facts = dict(output.facts(output.output, [r for r in regions(hands).values() if r.output == "processor-b"]))
    assert facts["Lands"].startswith(f"256×768 at {east.landing.x}, 0")


def test_many_regions_edited_in_one_field_and_found_by_name(hands: Hands) -> None:
    window, session, g = hands.window, hands.window.session, hands.window.map.geometry
    window.map.regions.find.setText("mast")
    assert [r.name for _, r in window.map.regions.shown()] == ["West mast", "East mast"]
    hands.key(Qt.Key.Key_Return, on=window.map.regions.find)
    assert g.title.text() == "2 regions" and g.on_canvas.text() == "· 636 256 768"
    hands.type(g.on_canvas, "· -36 · ·")
    assert [regions(hands)[i].y for i in ("west-mast", "east-mast")] == [600, 600]
    assert [regions(hands)[i].x for i in ("west-mast", "east-mast")] == [0, 3856]
    hands.type(g.on_canvas, "w/3 · · ·")
    assert "whole pixels" in g.reasons[0].text() and g.on_canvas.text() == "w/3 · · ·"
    session.select_regions(["west-mast", "east-mast"])
    g.turn.setCurrentIndex(next(n for n in range(g.turn.count()) if tuple(g.turn.itemData(n)) == (False, 180)))
    g.turn.activated.emit(g.turn.currentIndex())
    assert {regions(hands)[i].landing.turn for i in ("west-mast", "east-mast")} == {180} and "1 : 1" in g.facts["Scale"].text()
    rows = window.map.regions
    rows.find.clear()
    hands.bot.mouseClick(rows, LEFT, NONE, QPoint(60, 66 + 20))
    hands.bot.mouseClick(rows, LEFT, SHIFT, QPoint(60, 66 + 44 * 2 + 20))
    assert session.regions == ("horizon-left", "horizon-right", "meridian"), "a range in the list"


def test_questions_make_grids_parts_canvases_and_surfaces(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    session.select_region("west-mast")
    hands.act("region-duplicate-grid")
    hands.answer("3", "1", "300", "0")
    assert [regions(hands)[i].x for i in session.regions] == [300, 600] and len(regions(hands)) == 10
    hands.act("canvas-add")
    hands.answer("Side", "", "3840x2160")
    assert window.map.canvas.canvas.name == "Side" and session.show.canvas("side").width == 3840
    session.select_output("processor-a")
    hands.act("divide-quarters")
    quarters = [regions(hands)[i] for i in session.regions]
    assert sorted((r.x, r.y, r.w, r.h) for r in quarters) == [(x, y, 1920, 1080) for x in (0, 1920) for y in (0, 1080)]
    hands.act("canvas-edit")
    hands.answer("Side stage", "4000x2160", "", "25", "#101010")
    side = session.show.canvas("side")
    assert (side.name, side.width, side.rate, side.background) == ("Side stage", 4000, 25.0, "#101010")
    hands.act("region-type")
    hands.answer("3840 0 160 50%, 160x1080+3840+1080", "Strip")
    assert [tuple(rect_of(regions(hands)[i])) for i in session.regions] == [(3840, 0, 160, 1080), (3840, 1080, 160, 1080)]
    hands.act("divide-shares")
    hands.answer("50 25 25")
    assert [regions(hands)[i].w for i in session.regions] == [2000, 1000, 1000]
    window.map.show_canvas("house")
    hands.act("from-surface")
    hands.answer("meridian", "", "100", "1080")
    assert tuple(rect_of(regions(hands)[session.region])) == (100, 1080, 1920, 960)
    session.select_region("meridian")
    hands.act("land-mirror")
    hands.answer("lectern")
    assert regions(hands)[session.region].mirror and regions(hands)[session.region].output == "lectern"
    window.map.show_canvas("side")
    hands.act("canvas-remove")
    assert "side" not in {c.id for c in session.show.canvases}


# -- the pixel check, the loupe, linked views -----------------------------------------------------------------------------


def test_the_check_runs_after_every_edit_shows_the_place_and_cures(hands: Hands) -> None:
    session, m = hands.window.session, hands.window.map
    assert {f.severity for f in session.findings} == {"note"} and m.side_buttons[1].text() == "Pixel check"
    session.edit("Shift", placed(session.show, {"east-mast": Rect(3857, 636, 256, 768)}))
    hands.bot.waitUntil(lambda: any(f.rule == "off-canvas" for f in session.findings), timeout=20000)
    hands.act("map-check")
    assert m.check.isVisible() and "1 error" in m.check.head.text()
    row = next(r for r in m.check.rows if r.finding.rule == "asymmetric")
    hands.bot.mouseClick(row, LEFT, NONE, QPoint(20, 8))
    assert session.finding.rule == "asymmetric" and session.regions == ("west-mast", "east-mast")
    m.zoom_to_selection()
    where = m.canvas.pixels(*session.finding.where.rect)
    assert m.canvas.clip().contains(where.center()) and where.height() > 60, "its place fills the view"
    m.canvas.grab()
    hands.bot.mouseClick(row.cures[0], LEFT)
    hands.bot.waitUntil(lambda: {f.severity for f in session.findings} == {"note"}, timeout=20000)
    assert regions(hands)["east-mast"].x == 3856 and session.undo_label.startswith("Move East mast to 3856")
    hands.key(Qt.Key.Key_Escape)
    assert session.finding is None


def test_pointing_in_one_view_marks_the_same_pixel_in_the_others(hands: Hands) -> None:
    session, m = hands.window.session, hands.window.map
    m.canvas.pointed(m.canvas.origin + QPointF(1500.5, 1500.5) * m.canvas.scale)
    assert session.pointed == ("house", 1500, 1500)
    room = m.room.rect_of("meridian")
    at = m.room.pointed_at()
    assert abs(at.x() - (room.x() + (1500.5 - 1096) / 1920 * room.width())) < 1e-6
    session.select_region("west-mast")
    m.output.grab()
    m.output._at = (300, 100)
    m.output._point()
    assert session.pointed == ("house", 3856 + 44, 636 + 100), "a raster's pixel is one of the canvas"
    m.loupe.show()
    lines = m.loupe.lines()
    assert lines == ["House 3900, 736", "Processor B 300, 100", "cabinet 1/1: 44, 100"]
    for _ in range(4):
        m.loupe.step(True)
    assert m.loupe.zoom == 32
    m.loupe.wheelEvent(QWheelEvent(QPointF(5, 5), QPointF(5, 5), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, NONE,
                                   Qt.ScrollPhase.NoScrollPhase, False))
    assert m.loupe.zoom == 16 and m.loupe.picture().shape[:2] == (11, 11)
    m.loupe.grab()
    session.point_at("house", 4000, 100)
    assert m.loupe.lines()[1] == "no region lands it"
    m.canvas.wheelEvent(QWheelEvent(QPointF(200, 200), QPointF(200, 200), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, NONE,
                                    Qt.ScrollPhase.NoScrollPhase, False))
    assert not m.canvas.fitted
    hands.act("map-1")
    assert m.canvas.scale == 1.0
    hands.act("map-fit")
    assert m.canvas.fitted


def test_a_guide_is_locked_nudged_and_dismissed(hands: Hands, tmp_path: Path) -> None:
    window, session, m = hands.window, hands.window.session, hands.window.map
    guide_picture(tmp_path / "g.png")
    m.actions_of.set_guide(tmp_path / "g.png")
    hands.bot.waitUntil(lambda: "3840×1200" in m.guide_words.text(), timeout=30000)
    hands.act("guide-right")
    hands.act("guide-down")
    assert (m.actions_of.guide().x, m.actions_of.guide().y) == (1, 1)
    hands.act("guide-lock")
    hands.act("guide-left")
    assert m.actions_of.guide().x == 1 and "locked" in window.notice.text()
    m.opacity.setValue(25)
    assert m.actions_of.guide().opacity == 0.25
    hands.act("guide-lock")
    m.show_as("guide")
    m.canvas.grab()
    hands.act("guide-find")
    hands.bot.waitUntil(lambda: m.accept_button.isVisible(), timeout=60000)
    rect, found = m.canvas.proposals()[0]
    m.actions_of.accept(found)
    assert tuple(rect_of(regions(hands)[session.region])) == tuple(rect) and rect.x == found.rect.x + 1, "where the guide was nudged to"
    assert len(m.canvas.proposals()) == 4
    m.drop_button.click()
    assert m.canvas.proposals() == []
    m.actions_of.set_guide(tmp_path / "none.png")
    hands.bot.waitUntil(lambda: "no such picture" in window.notice.text(), timeout=20000)
    hands.act("guide-remove")
    assert m.guide_bar.isHidden()


def test_a_guide_under_the_raster_gives_regions_that_land_where_it_says(hands: Hands, tmp_path: Path) -> None:
    session, m = hands.window.session, hands.window.map
    picture = np.zeros((1080, 1920, 4), np.uint8)
    picture[..., 3] = 255
    picture[970:1070, 300:700] = (30, 160, 220, 255)
    write_png(picture, tmp_path / "raster.png")
    session.select_region("meridian")
    m.actions_of.set_guide(tmp_path / "raster.png", under_raster=True)
    assert m.guide_place.text() == "under the raster" and m.canvas.guide is None
    hands.act("guide-find")
    hands.bot.waitUntil(lambda: bool(m.output.proposals()), timeout=60000)
    assert m.canvas.proposals() == []
    at = m.output.pixels(500, 1020, 1, 1).center().toPoint()
    hands.bot.mouseClick(m.output, Qt.MouseButton.LeftButton, pos=at)
    made = regions(hands)[session.region]
    assert landing_rect(made) == Rect(300, 970, 400, 100) == rect_of(made) and made.output == "processor-a"
    m.actions_of.set_guide(tmp_path / "raster.png")
    assert m.guide_place.isEnabled() and m.guide_place.text() == "under the canvas"
    m.guide_place.click()
    hands.act("guide-remove")
    assert session.show.output("processor-a").guide is None and m.guide_place.text() == "under the canvas"


def test_the_badge_tells_the_gravest_and_leads_to_the_list(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    session.select_region("meridian")
    session.edit("Move", moved(session.show, ["meridian"], 3000, 0))
    hands.bot.waitUntil(lambda: "error" in window.top.proof.text() or "warning" in window.top.proof.text(), timeout=20000)
    window.show_workspace("Run")
    window.top.proof.click()
    assert window.map.isVisible() and window.map.sides.currentWidget() is window.map.check
    session.undo()
    hands.bot.waitUntil(lambda: window.top.proof.text() in ("3 notes", "proof clear"), timeout=20000)


def test_keys_of_map_do_nothing_elsewhere_and_the_benchtop_touches_nothing(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    before = session.show
    window.show_workspace("Run")
    session.select_region("meridian")
    for id in ("land-turn", "region-group", "map-draw"):
        assert not window.book.actions[id].isEnabled()
    window.show_workspace("Map")
    hands.act("land-turn")
    assert regions(hands)["meridian"].landing.turn == 90
    window.book.actions["undo"].trigger()
    hands.act("map-bench")
    assert window.map.bench.isVisible() and session.show == before
    window.map.bench.grab()
    laid = {item.id: item.rect for item in window.map.bench.laid()}
    assert set(laid) == {s.id for s in session.show.surfaces} and abs(laid["horizon"].w / laid["horizon"].h - 3600 / 1080) < 0.05
    hands.act("map-bench")
    assert not window.map.bench.isVisible()


def test_what_is_turned_on_air_is_turned_at_once(window: MainWindow, qtbot: object) -> None:
    session = window.session
    window.show_workspace("Map")
    session.select_region("meridian")
    qtbot.waitUntil(lambda: session.engine.rasters["processor-a"][:960, :, :3].max() > 60, timeout=60000)
    session.engine.hold(True)
    qtbot.wait(200)
    before = session.engine.rasters["processor-a"].copy()
    session.engine.hold(False)
    window.book.actions["land-turn"].trigger()
    window.book.actions["land-turn"].trigger()
    assert session.show.canvas("house").regions[2].landing.turn == 180

    def shown() -> bool:
        now = session.engine.rasters["processor-a"][:960].astype(int)
        return bool(np.abs(now - before[:960][::-1, ::-1]).mean() < 12)

    qtbot.waitUntil(shown, timeout=60000)
    assert (session.engine.rasters["processor-a"][960:, :, :3] == 0).all()
    small = session.report.program["meridian"]
    qtbot.waitUntil(lambda: session.report.program["meridian"] is not small, timeout=60000)
