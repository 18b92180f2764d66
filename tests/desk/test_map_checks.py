"""Map through the real window: the pixel check, guides, linked views, and what it does while the show runs."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from hands import LEFT, NONE, Hands, guide_picture, regions
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.regions import moved, placed, rect_of
from ushering_adze.core.onair.actions import Hold
from ushering_adze.core.plane.rect import Rect
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.outputs.png import write_png


def test_the_check_runs_after_every_edit_shows_the_place_and_cures(hands: Hands) -> None:
    session, m = hands.window.session, hands.window.map
    assert {f.severity for f in session.findings} == {"note"} and m.side_buttons[1].text() == "Pixel check"
    session.edit("Shift", placed(session.show, {"east-mast": Rect(3857, 636, 256, 768)}))
    hands.bot.waitUntil(lambda: any(f.rule == "off-canvas" for f in session.findings))
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
    hands.bot.waitUntil(lambda: {f.severity for f in session.findings} == {"note"})
    assert regions(hands)["east-mast"].x == 3856 and session.undo_label.startswith("Move East mast to 3856")
    hands.key(Qt.Key.Key_Escape)
    assert session.finding is None
    # of what is selected, nothing lands on the output that is shown: its view stays
    session.select_regions(["west-mast"])
    m.output.output_id, before = "relay", m.output.scale
    m.zoom_to_selection()
    assert m.output.scale == before and m.canvas.scale > 0


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
    m.loupe.wheelEvent(
        QWheelEvent(
            QPointF(5, 5),
            QPointF(5, 5),
            QPoint(),
            QPoint(0, -120),
            Qt.MouseButton.NoButton,
            NONE,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
    )
    assert m.loupe.zoom == 16 and m.loupe.picture().shape[:2] == (11, 11)
    m.loupe.grab()
    session.point_at("house", 4000, 100)
    assert m.loupe.lines()[1] == "no region lands it"
    m.canvas.wheelEvent(
        QWheelEvent(
            QPointF(200, 200),
            QPointF(200, 200),
            QPoint(),
            QPoint(0, 240),
            Qt.MouseButton.NoButton,
            NONE,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
    )
    assert not m.canvas.fitted
    hands.act("map-1")
    assert m.canvas.scale == 1.0
    hands.act("map-fit")
    assert m.canvas.fitted


def test_a_guide_is_locked_nudged_and_dismissed(hands: Hands, tmp_path: Path) -> None:
    window, session, m = hands.window, hands.window.session, hands.window.map
    guide_picture(tmp_path / "g.png")
    m.actions_of.set_guide(tmp_path / "g.png")
    hands.bot.waitUntil(lambda: "3840×1200" in m.guide_words.text())
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
    hands.bot.waitUntil(lambda: m.accept_button.isVisible())
    rect, found = m.canvas.proposals()[0]
    m.actions_of.accept(found)
    assert tuple(rect_of(regions(hands)[session.region])) == tuple(rect) and rect.x == found.rect.x + 1, (
        "where the guide was nudged to"
    )
    assert len(m.canvas.proposals()) == 4
    m.drop_button.click()
    assert m.canvas.proposals() == []
    m.actions_of.set_guide(tmp_path / "none.png")
    hands.bot.waitUntil(lambda: "no such picture" in window.notice.text())
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
    hands.bot.waitUntil(lambda: bool(m.output.proposals()))
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
    hands.bot.waitUntil(lambda: "error" in window.top.proof.text() or "warning" in window.top.proof.text())
    window.show_workspace("Run")
    window.top.proof.click()
    assert window.map.isVisible() and window.map.sides.currentWidget() is window.map.check
    session.undo()
    hands.bot.waitUntil(lambda: window.top.proof.text() in ("3 notes", "proof clear"))


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
    assert (
        set(laid) == {s.id for s in session.show.surfaces}
        and abs(laid["horizon"].w / laid["horizon"].h - 3600 / 1080) < 0.05
    )
    hands.act("map-bench")
    assert not window.map.bench.isVisible()


def test_what_is_turned_on_air_is_turned_at_once(window: MainWindow, qtbot: object) -> None:
    session = window.session
    window.show_workspace("Map")
    session.select_region("meridian")
    qtbot.waitUntil(lambda: session.playout.rasters()["processor-a"][:960, :, :3].max() > 60)
    session.playout.act(Hold())
    qtbot.waitUntil(lambda: session.report.held)
    before = session.playout.rasters()["processor-a"].copy()
    session.playout.act(Hold(on=False))
    window.book.actions["land-turn"].trigger()
    window.book.actions["land-turn"].trigger()
    assert session.show.canvas("house").regions[2].landing.turn == 180

    def shown() -> bool:
        now = session.playout.rasters()["processor-a"][:960].astype(int)
        return bool(np.abs(now - before[:960][::-1, ::-1]).mean() < 12)

    qtbot.waitUntil(shown)
    assert (session.playout.rasters()["processor-a"][960:, :, :3] == 0).all()
    small = session.report.program["meridian"]
    qtbot.waitUntil(lambda: session.report.program["meridian"] is not small)
