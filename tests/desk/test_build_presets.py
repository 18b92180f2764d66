"""Presets in Build: variants, tables, times, zones, comparing, bringing; shows begun from others."""

from __future__ import annotations

from pathlib import Path

import pytest
from hands_in_build import (
    CTRL,
    LEFT,
    NONE,
    chosen_seen,
    drop,
    on_widget,
    until,
)
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from ushering_adze.core.onair.actions import Cut, Recall, StagePreset
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.show import Picture
from ushering_adze.core.show.edits import changed, with_canvas
from ushering_adze.core.show.zoning import with_changed_zone
from ushering_adze.desk.build.workspace import BuildWorkspace
from ushering_adze.desk.dragging import PRESET, SOURCES, carried
from ushering_adze.desk.recent import recent_shows, templates
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.showfile import save_show


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


def test_a_source_dropped_on_a_card_makes_a_variant_and_the_table_sets_many_times(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    card = next(c for c in build.deck.cards if c.preset.number == 7)
    mime = QMimeData()
    mime.setData(SOURCES, b'["orrery"]')
    card.dropEvent(QDropEvent(QPointF(20, 20), Qt.DropAction.CopyAction, mime, LEFT, NONE))
    assert [a.text() for a in build.variants.actions()] == ["Orrery instead of", "Roof camera", "Moon phases"]
    build.variants.actions()[2].trigger()
    staged = session.playout.stage.staged
    seventh = session.show.preset(7).id
    other = next(c for c in build.deck.cards if c.preset.number == 2)
    card = carried(PRESET, "7")
    other.dropEvent(QDropEvent(QPointF(20, 20), Qt.DropAction.CopyAction, card, LEFT, NONE))
    assert session.show.preset(2).id == seventh and session.undo_label == "Preset 7 to 2"
    assert [c.preset.id for c in build.deck.cards][1] == seventh and session.playout.stage.staged == staged
    session.undo()
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
    table.finder.setText("moon orrery")
    assert made.number in [table.cells.item(r, 0).data(Qt.ItemDataRole.UserRole) for r in range(table.cells.rowCount())]


def test_a_zone_made_in_the_room_takes_a_layer_across_and_a_key_deals_it_to_each(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, zones, building = window.session, build.zones, build.building
    said: list[str] = []
    session.trouble.connect(said.append)
    QTest.mouseClick(build.room_button, LEFT)
    session.playout.act(Recall(preset=5, seconds=0))
    until(qtbot, lambda: sum(map(is_seen, building.states().values())) >= 4)  # a layer lies over each of these
    build.room.grab()
    for n, id in enumerate(("meridian", "east-mast", "west-mast", "east-mast")):  # the last takes itself out again
        QTest.mouseClick(build.room, LEFT, NONE if n == 0 else CTRL, build.room.rect_of(id).center().toPoint())
    assert session.surfaces == ("meridian", "west-mast") and session.surface == "west-mast"
    assert len(building.selected) == 2, "and what is seen there"
    session.playout.act(Recall(preset=90, seconds=0))
    until(qtbot, lambda: not any(map(is_seen, building.states().values())))
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

    building.put("Names", {layer: {"picture": Picture(source="names")}})
    until(qtbot, lambda: building.settings(layer).picture.source == "names")
    zones.pages_in_turn(made.id)
    until(qtbot, lambda: building.states()[layer].spread.sources == ("names", "names-1-on"))
    assert session.show.source("names-1-on").further == 1
    session.playout.act(Cut())
    until(qtbot, lambda: session.report.surfaces["west-mast"].source_ids == ("names-1-on",))
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
    assert all(Path(s.path).exists() for s in session.show.sources if getattr(s, "path", None)), "its files are found"
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


def typed_in(field: object, text: str) -> None:
    """Select all of a line, type over it, and press Return."""
    field.setFocus()  # type: ignore[attr-defined]
    field.selectAll()  # type: ignore[attr-defined]
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_a_layer_gets_ways_of_its_own_and_its_take_is_tried_without_touching_program(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, building = window.session, build.building
    said: list[str] = []
    session.trouble.connect(said.append)
    drop(build, "orrery", 2000, 1500)
    until(qtbot, lambda: chosen_seen(build))
    layer = building.selected[0]
    comes = build.settings.ways.lines["comes"]
    assert comes.text() == "" and comes.placeholderText() == "fades"
    typed_in(comes, "swipe 90")
    assert "is no transition; there are cut" in said[-1] and building.layer(layer).comes is None
    typed_in(comes, "wipe 90 soft 0.1")
    typed_in(build.settings.ways.lines["goes"], "slide 180")
    made = building.layer(layer)
    assert (made.comes.kind, made.comes.angle, made.goes.kind, made.goes.angle) == ("wipe", 90, "slide", 180)
    assert comes.text() == "wipe line 90° soft 0.1"

    QTest.keyClick(window, Qt.Key.Key_Return, CTRL)
    sheet = build.sheet
    sheet.name.selectAll()
    QTest.keyClicks(sheet.name, "Comes in")
    QTest.keyClick(sheet.name, Qt.Key.Key_Return)
    number = next(p.number for p in session.show.presets if p.name == "Comes in")
    session.playout.act(StagePreset(preset=number))
    until(qtbot, lambda: session.playout.stage.staged == number)
    program = session.playout.stage.program.target
    QTest.keyClick(window, Qt.Key.Key_Y)
    assert build.try_button.isChecked() and building.view.on == "trying"

    def wiping() -> bool:
        looked = session.report.looked
        picture = None if looked is None or looked.view.on != "trying" else looked.layers[layer].picture
        return picture is not None and getattr(picture, "kind", "") == "wipe"

    until(qtbot, wiping)
    until(qtbot, lambda: not wiping())
    until(qtbot, wiping)  # and once more
    assert session.playout.stage.program.target is program and session.playout.stage.staged == number
    QTest.keyClick(window, Qt.Key.Key_Y)
    assert not build.try_button.isChecked() and building.view.on == "preview"


def test_a_scope_has_a_name_a_finish_a_key_and_a_box_fills_a_zone(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, building = window.session, build.building
    drop(build, "notes", 2000, 1500)
    until(qtbot, lambda: chosen_seen(build))
    layer = building.selected[0]
    before = building.settings(layer)
    QTest.keyClick(window, Qt.Key.Key_F1, CTRL)
    first = session.show.finishes[0]
    until(qtbot, lambda: building.settings(layer) != before)
    assert all(getattr(building.settings(layer), kind) == value for kind, value in first.values.items())
    build.zones.fill_zone("arch")
    rects = [f.rect for f in building.faces() if f.surface.id in ("west-mast", "horizon", "east-mast")]
    left, right = min(r.x for r in rects), max(r.right for r in rects)
    until(qtbot, lambda: building.states()[layer].place[0] == left)
    assert building.states()[layer].place[2] == right - left

    said: list[str] = []
    session.trouble.connect(said.append)
    field, line = build.settings.editors["shape", "points"]
    for text in ("0 0, 100", "0 0, 100 0, 50 100"):
        line.setText(text)
        line.setModified(True)
        build.settings.typed(field, line.text())
        assert ("is no point; write how far" in build.settings.why.text()) == (text == "0 0, 100")
    until(qtbot, lambda: building.states()[layer].shape.points == ((0.0, 0.0), (1.0, 0.0), (0.5, 1.0)))
    build.zones.make("Far")  # of nothing yet
    far = session.show.zones[-1]
    with_far = with_changed_zone(session.show, far.id, holds=("relay", "horizon"))
    session.edit("Far", with_far)
    build.zones.spread(far.id)
    assert said[-1] == "House does not feed Relay: nothing of it is seen there."
    until(qtbot, lambda: building.states()[layer].spread.zone == far.id)

    build.store()
    sheet = build.sheet
    sheet._choose({(("house", layer), "opacity"): "faded"})
    typed_in(sheet.scope_name, "Only its light")
    kept = session.show.scopes[-1]
    assert kept.name == "Only its light" and kept.cells == {(("house", layer), "opacity"): "faded"}
    sheet.name.selectAll()
    typed_in(sheet.name, "Light")
    preset = next(p for p in session.show.presets if p.name == "Light")
    assert [(p.layer, [kind for _, kind, _ in p.held]) for p in preset.parts] == [(layer, ["opacity"])]
    build.store()
    sheet = build.sheet
    sheet.scopes.menu().aboutToShow.emit()
    entries = {a.text(): a for a in sheet.scopes.menu().actions()}
    assert list(entries)[:2] == ["As stored last", "Only its light"]
    sheet._choose({})
    entries["Only its light"].trigger()
    assert sheet.grid.grid == kept.cells
    sheet._choose({})
    entries["As stored last"].trigger()
    assert {c: h for c, h in sheet.grid.grid.items() if h != "left"} == kept.cells
    entries["Forget Only its light"].trigger()
    assert session.show.scopes == ()
    session.undo()
    assert session.show.scopes == (kept,)


def test_cards_and_the_take_strip_tell_what_presets_will_want(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session = window.session
    session.playout.forecast()
    until(qtbot, lambda: len(session.report.forecasts) == len(session.show.presets))
    card = next(c for c in build.deck.cards if c.preset.number == 7)
    until(qtbot, lambda: "of a frame's time on this machine" in card.toolTip())
    assert session.report.forecasts[7].most > session.report.forecasts[8].rest >= 0, "a hold card costs less than clips"
    card.grab()
    session.playout.act(StagePreset(preset=7))
    window.show_workspace("Run")
    until(qtbot, lambda: window.run.strip.load.text().endswith(" %\nof a frame"))
    assert "Wants about" in window.run.strip.load.toolTip()


def test_cards_lie_on_pages(build: BuildWorkspace, window: MainWindow, qtbot: object) -> None:
    deck = build.deck
    assert deck.pages == {}, "none, where no preset has one"
    build.table.put([5, 6], "page", "Speeches")
    build.table.put([7], "page", "Moon")
    assert [b.text() for b in deck.pages.values()] == ["all", "Speeches", "Moon"]
    QTest.mouseClick(deck.pages["Speeches"], LEFT)
    assert [c.preset.number for c in deck.cards] == [5, 6] and deck.pages["Speeches"].isChecked()
    assert window.run.deck.page is None and len(window.run.deck.cards) == len(window.session.show.presets)
    build.table.put([5, 6], "page", "")
    assert deck.page is None and len(deck.cards) == len(window.session.show.presets), "the page is gone"
    window.session.undo()
    assert "Speeches" in deck.pages


def test_a_click_in_the_room_stays_on_the_canvas_that_is_built_on_where_another_feeds_the_surface_too(
    build: BuildWorkspace, window: MainWindow, qtbot: object
) -> None:
    session, other = window.session, window.session.show.canvases[-1]
    meridian = next(r for r in session.show.canvas("house").regions if r.id == "meridian")
    again = changed(meridian, id="again", name="Again", x=0, y=0, w=640, h=320)
    session.edit("Fed twice", with_canvas(session.show, changed(other, regions=(*other.regions, again))))
    build.building.choose_canvas(other.id)
    for id, canvas in (("meridian", other.id), ("horizon", "house"), ("meridian", "house")):
        session.choose_surface(id, False)
        assert build.building.canvas is not None and build.building.canvas.id == canvas, id
