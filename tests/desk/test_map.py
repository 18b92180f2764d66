"""Map through the real window: journeys with their inputs counted, drags, exchange."""

from __future__ import annotations

from pathlib import Path

from hands import ALT, CTRL, LEFT, NONE, SHIFT, Hands, guide_picture, regions
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.exchange.region_table import as_table
from ushering_adze.core.mapping.regions import rect_of, without_regions
from ushering_adze.core.proof import pixel_check
from ushering_adze.desk.qt import settle

# -- journeys ----------------------------------------------------------------------------------------------------------


def test_from_a_guide_picture_to_six_mirrored_banners_a_screen_and_a_plinth(
    bare: Hands, tmp_path: Path, monkeypatch: object
) -> None:
    window, session, m = bare.window, bare.window.session, bare.window.map
    guide_picture(tmp_path / "map.png")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(tmp_path / "map.png"), ""))
    bare.act("guide-load")
    bare.inputs += 2  # the file's name, and Enter, in the system's own window
    bare.act("guide-find")
    bare.bot.waitUntil(lambda: m.accept_button.isVisible())
    assert "5 rectangles found" in m.guide_words.text()
    bare.act("guide-accept")
    assert sorted(tuple(rect_of(r)) for r in regions(bare).values()) == sorted(
        [(100, 100, 192, 768), (340, 100, 192, 768), (580, 100, 192, 768), (960, 60, 1920, 960), (1440, 1056, 960, 128)]
    )
    bare.drag((60, 40), (800, 900))  # a band around the banners
    assert len(session.regions) == 3
    bare.type(m.geometry_panel.name, "Banner")
    bare.act("region-reflect-copies-across")
    assert len(session.regions) == 3 and len(regions(bare)) == 8
    by_name = {r.name: r for r in regions(bare).values()}
    for n in (1, 2, 3):
        a, b = by_name[f"Banner {n}"], by_name[f"Banner {n + 3}"]
        assert a.x == 3840 - b.x - b.w and (a.y, a.w, a.h) == (b.y, b.w, b.h), "mirrored to the pixel"
    bare.inputs += 1
    m.regions.finder.setText("Banner")
    bare.key(Qt.Key.Key_Return, on=m.regions.finder)
    assert len(session.regions) == 6
    bare.inputs += 2
    m.geometry_panel.output.setCurrentIndex(m.geometry_panel.output.findData("p2"))
    m.geometry_panel.output.activated.emit(m.geometry_panel.output.currentIndex())
    bare.act("land-pack")
    bare.click(1900, 500)
    bare.type(m.geometry_panel.name, "Centre screen")
    bare.act("land-pack")
    bare.click(1900, 1100)
    bare.type(m.geometry_panel.name, "Plinth")
    bare.inputs += 2
    m.geometry_panel.output.setCurrentIndex(m.geometry_panel.output.findData("p3"))
    m.geometry_panel.output.activated.emit(m.geometry_panel.output.currentIndex())
    bare.act("land-centre")
    final = {r.name: (tuple(rect_of(r)), r.output, tuple(landing_rect(r))) for r in regions(bare).values()}
    assert final["Centre screen"] == ((960, 60, 1920, 960), "p1", (0, 0, 1920, 960))
    assert final["Plinth"] == ((1440, 1056, 960, 128), "p3", (32, 320, 960, 128))
    assert [final[f"Banner {n}"][2] for n in range(1, 7)] == [((n - 1) * 192, 0, 192, 768) for n in range(1, 7)]
    assert all(r.exact for r in regions(bare).values())
    assert {f.severity for f in pixel_check(session.show)} == {"note"}, (
        "and the pixel check has nothing to say but what stays black"
    )
    assert bare.inputs < 40, bare.inputs
    bare.click(1900, 500)
    assert window.map.geometry_panel.title.text() == "Centre screen"


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
    assert prompt.isVisible() and "type a whole number" in prompt.why.text(), (
        "what is wrong is told, and the question stays"
    )
    hands.answer("12")
    assert regions(hands)["west-mast"].x == before["west-mast"].x
    hands.window.book.actions["undo"].trigger()
    hands.window.book.actions["undo"].trigger()
    assert regions(hands) == before


def test_a_table_goes_out_and_comes_back_and_wrong_rows_are_agreed_upon_first(
    hands: Hands, tmp_path: Path, monkeypatch: object
) -> None:
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


# -- gestures ----------------------------------------------------------------------------------------------------------


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
    assert abs(moved.x - 396) <= 8 and abs(moved.y - 1047) <= 8 and moved.exact, (
        "freely, to the pixel under the pointer"
    )
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
    assert east.landing.x in range(560, 592) or east.landing.x == 768, (
        "moved on the raster, or snapped to its right edge"
    )
    assert (east.x, east.y) == (3856, 636), "where it lies on the canvas is another matter"
    assert session.undo_label == "Land East mast"
    facts = dict(output.facts(output.output, [r for r in regions(hands).values() if r.output == "processor-b"]))
    assert facts["Lands"].startswith(f"256×768 at {east.landing.x}, 0")


def test_many_regions_edited_in_one_field_and_found_by_name(hands: Hands) -> None:
    window, session, g = hands.window, hands.window.session, hands.window.map.geometry_panel
    window.map.regions.finder.setText("mast")
    assert [r.name for _, r in window.map.regions.shown()] == ["West mast", "East mast"]
    hands.key(Qt.Key.Key_Return, on=window.map.regions.finder)
    assert g.title.text() == "2 regions" and g.on_canvas.text() == "· 636 256 768"
    hands.type(g.on_canvas, "· -36 · ·")
    assert [regions(hands)[i].y for i in ("west-mast", "east-mast")] == [600, 600]
    assert [regions(hands)[i].x for i in ("west-mast", "east-mast")] == [0, 3856]
    hands.type(g.on_canvas, "w/3 · · ·")
    assert "whole pixels" in g.reasons[0].text() and g.on_canvas.text() == "w/3 · · ·"
    session.select_regions(["west-mast", "east-mast"])
    g.turn.setCurrentIndex(next(n for n in range(g.turn.count()) if tuple(g.turn.itemData(n)) == (False, 180)))
    g.turn.activated.emit(g.turn.currentIndex())
    assert {regions(hands)[i].landing.turn for i in ("west-mast", "east-mast")} == {180} and "1 : 1" in g.facts[
        "Scale"
    ].text()
    rows = window.map.regions
    rows.finder.clear()
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
    assert [tuple(rect_of(regions(hands)[i])) for i in session.regions] == [
        (3840, 0, 160, 1080),
        (3840, 1080, 160, 1080),
    ]
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
