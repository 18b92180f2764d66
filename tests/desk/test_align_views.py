"""The drawings and panels of Align by themselves: what they paint, and what a click or a key on them means."""

from __future__ import annotations

import gc
import weakref
from collections.abc import Iterator

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QApplication

from ushering_adze.core.light.lining_up import NAMES, Look
from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.mapping.bend import as_mesh, moved_points, points_of
from ushering_adze.core.show import Mask
from ushering_adze.core.show.alignment import STEPS
from ushering_adze.core.show.edits import with_output, with_region
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk import theme
from ushering_adze.desk.align import simulation
from ushering_adze.desk.align.panels import WORDS
from ushering_adze.desk.align.simulation import PERIOD_MS, UNTOUCHED, Simulation
from ushering_adze.desk.qt import settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.overlay import overlay_of
from ushering_adze.io.standins.screen import Seen

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(session: Session, qtbot: object) -> Iterator[MainWindow]:
    """The window in Align, its engine at rest: rasters are black, and nothing is simulated but what the test gives."""
    main = MainWindow(session)
    main.resize(1280, 800)
    main.show()
    main.show_workspace("Align")
    main.align.simulation.watch(None)
    settle(40)
    main.align.raster.grab()
    yield main
    main.align.close_all()
    main.map.close_all()
    main.outputs.close()
    main.deleteLater()
    settle(10)


def seen(left: float, right: float, hump: float = 0.0) -> Seen:
    """A screen of two projectors whose light crosses in the middle, with a hump there."""
    x = np.linspace(0, 1, 400)
    share = np.clip((0.55 - x) / 0.1, 0, 1).astype(np.float32)
    a, b = left * share[None].repeat(120, 0), right * (1 - share)[None].repeat(120, 0)
    total = a + b + hump * np.exp(-(((x - 0.5) / 0.02) ** 2)).astype(np.float32)
    picture = np.dstack(
        [np.clip(total / max(left, right) * 200, 0, 255).astype(np.uint8)] * 3 + [np.full(total.shape, 255, np.uint8)]
    )
    return Seen("horizon", (3600, 1080), {"projector-left": a, "projector-right": b}, total.astype(np.float32), picture)


def colours(widget: object, box: tuple[int, int, int, int] | None = None) -> set[str]:
    image = widget.grab().toImage()
    x0, y0, w, h = box or (0, 0, image.width(), image.height())
    return {
        QColor(image.pixel(x, y)).name().upper()
        for x in range(x0, min(x0 + w, image.width()))
        for y in range(y0, min(y0 + h, image.height()))
    }


def test_the_profile_tells_flatness_and_draws_each_projector_in_its_colour(window: MainWindow) -> None:
    a = window.align
    for hump, low, high in ((0.0, 0.0, 0.001), (50.0, 0.19, 0.21)):
        a.simulation.now = seen(240, 240, hump)
        a.simulation.seen.emit()
        assert a.profile.flatness is not None and low <= a.profile.flatness <= high
        found = colours(a.profile)
        assert (
            theme.TEXT.upper() in found
            and {c for c in found if c.startswith("#E3A8")}
            and {c for c in found if c.startswith("#5AB4")}
        )
    a.simulation.now = None
    a.simulation.fault = "nothing feeds it"
    a.simulation.seen.emit()
    assert a.profile.flatness is None and theme.AMBER.upper() not in colours(a.profile)


def test_the_line_follows_its_ends_and_a_click_elsewhere_lays_it_level(window: MainWindow, qtbot: object) -> None:
    a = window.align
    a.simulation.now = seen(240, 120)
    a.simulation.seen.emit()
    a.screen_view.grab()
    where = a.screen_view._where
    spot = QPoint(int(where.center().x()), int(where.y() + where.height() * 0.2))
    qtbot.mouseClick(a.screen_view, LEFT, pos=spot)
    assert (
        a.screen_view.line[0][1] == a.screen_view.line[1][1] == pytest.approx(0.2, abs=0.02)
        and a.screen_view.line[0][0] < 0.05
    )
    end = QPoint(int(where.x() + where.width() * a.screen_view.line[1][0]), spot.y())
    qtbot.mousePress(a.screen_view, LEFT, pos=end)
    qtbot.mouseMove(a.screen_view, QPoint(int(where.x() + where.width() * 0.3), int(where.bottom() - 4)))
    qtbot.mouseRelease(a.screen_view, LEFT)
    assert a.screen_view.line[1][0] == pytest.approx(0.3, abs=0.02) and a.screen_view.line[1][1] > 0.9
    assert a.profile.total is not None and a.profile.total.max() == pytest.approx(240, rel=0.01), (
        "only the bright half is under it now"
    )
    assert a.profile.total.min() == pytest.approx(240, rel=0.01)


def test_the_residual_is_drawn_by_its_size(window: MainWindow) -> None:
    a = window.align
    a.simulation.now = seen(1, 1)
    errors = np.full((27, 90), 0.2, np.float32)
    errors[:, 60:] = 4.0
    errors[:, 30:60] = 1.0
    errors[0, 0] = np.nan
    a.screen_view.errors = errors
    a.screen_view.line = [(0.0, 0.99), (1.0, 0.99)]
    a.screen_view.grab()
    w = a.screen_view._where
    wide, high = int(w.width() / 3), int(w.height() * 0.9)
    thirds = [colours(a.screen_view, (int(w.x()) + k * wide + 4, int(w.y()), wide - 8, high)) for k in range(3)]

    def tinted(found: set[str]) -> set[str]:
        rgb = [QColor(c) for c in found]
        return {
            "green" if c.green() > c.red() + 25 else "red" if c.red() > c.green() + 70 else "amber"
            for c in rgb
            if max(c.red(), c.green(), c.blue()) - min(c.red(), c.green(), c.blue()) > 60
        }

    assert (
        "green" in tinted(thirds[0])
        and "red" not in tinted(thirds[0])
        and "red" in tinted(thirds[2])
        and "amber" in tinted(thirds[1])
    )


def test_points_are_hit_where_they_are_drawn_at_any_zoom(window: MainWindow, qtbot: object) -> None:
    session, raster = window.session, window.align.raster
    region = as_mesh(session.show.homes["horizon-left"][1], 9, 7)
    session.edit("Mesh", with_region(session.show, moved_points(region, {31}, 40, -20)))
    window.align.show_region("horizon-left")
    for zoom in (None, 0.9, 2.5):
        if zoom is not None:
            raster.zoom(zoom, QPointF(300, 200))
        raster.grab()
        for n in (0, 8, 31, 54, 62):
            at = raster._spot(*points_of(raster.region.landing)[n])
            if raster.clip().contains(at):
                assert raster.point_at(at + QPointF(3, 2)) == n
                qtbot.mouseClick(raster, LEFT, pos=at.toPoint())
                assert raster.chosen == {n}
    raster.fit()
    raster.grab()
    raster.choose({0})
    at = raster._spot(*points_of(raster.region.landing)[31]).toPoint()
    qtbot.mouseClick(raster, LEFT, Qt.KeyboardModifier.ControlModifier, at)
    assert 31 in raster.chosen and len(raster.chosen) == 2
    found = colours(raster, (at.x() - 6, at.y() - 6, 12, 12))
    assert theme.AMBER.upper() in found, "what is selected is amber"
    assert window.align.escape() and not raster.chosen and not window.align.escape()


def test_masks_are_drawn_and_their_corners_dragged(window: MainWindow, qtbot: object) -> None:
    session, raster = window.session, window.align.raster
    window.align.show_region("horizon-left")
    output = session.show.output("projector-left")
    mask = Mask(name="Door", points=((400, 300), (900, 300), (900, 800)), soft=20)
    session.edit("Mask", with_output(session.show, output.model_copy(update={"masks": (mask,)})))
    raster.grab()
    spot = raster._spot(900, 800)
    qtbot.mousePress(raster, LEFT, pos=spot.toPoint())
    qtbot.mouseMove(raster, (spot + QPointF(30, 10)).toPoint())
    qtbot.mouseRelease(raster, LEFT)
    moved = session.show.output("projector-left").masks[0].points[2]
    assert moved == pytest.approx((900 + 30 / raster.scale, 800 + 10 / raster.scale), abs=4)
    assert session.undo_label == "Shape Door"
    window.align.raster.begin_mask()
    qtbot.mouseClick(raster, LEFT, pos=raster._spot(100, 100).toPoint())
    qtbot.keyClick(window, Qt.Key.Key_Return)
    assert "three corners" in window.notice.text() and len(session.show.output("projector-left").masks) == 1


def test_the_panels_bring_what_a_step_needs_and_keep_what_was_chosen(window: MainWindow) -> None:
    a = window.align
    a.patterns.spacing.setValue(90)
    for step in STEPS:
        a.steps.buttons[step].click()
        shown = a.patterns.shown()
        assert (
            shown is not None
            and (shown.name, shown.on) == (WORDS[step][2].name, WORDS[step][2].on)
            and shown.look.spacing == 90
        )
        assert WORDS[step][1] in a.steps.tip.text()
    assert {a.patterns.name.itemData(n) for n in range(a.patterns.name.count())} == {None, *NAMES}
    a.show_pattern(PatternShown("hatch", "output", Look(33, 5)))
    assert (a.patterns.spacing.value(), a.patterns.line.value()) == (33, 5)
    assert set(overlay_of(window.session.show, a.laid()).rasters) == {"projector-left", "projector-right"}
    a.patterns.where.setCurrentIndex(a.patterns.where.findData("output"))
    assert set(overlay_of(window.session.show, a.laid()).rasters) == {a.raster.output.id}
    a.patterns.where.setCurrentIndex(a.patterns.where.findData("all"))
    assert set(overlay_of(window.session.show, a.laid()).rasters) == {o.id for o in window.session.show.outputs}
    a.show_pattern(None)
    assert (
        overlay_of(window.session.show, a.laid()).rasters == {}
        and overlay_of(window.session.show, a.laid()).canvases == {}
    )
    a.patterns.falloff.setValue(120)
    assert a.raster.falloff == 120 and a.patterns.falloff_words.text() == "120 px"


def test_every_surface_can_be_chosen_and_screens_and_walls_are_simulated(window: MainWindow) -> None:
    a, session = window.align, window.session
    for surface in session.show.surfaces:
        session.select_surface(surface.id)
        assert a.picker.currentData() == surface.id
        assert [b.property("region") for b in a.outputs] == [r.id for r in session.show.feeds_of(surface.id)]
        a.raster.grab()
        a.simulation.watch(surface.id)
        assert (a.simulation.fault == "") == (surface.kind in ("projection", "led-wall"))
        a.simulation.watch(None)
    a.auto()
    assert a.camera.running is None and "Only projections" in window.notice.text()


def test_a_window_that_is_closed_leaves_nothing_behind(app: QApplication) -> None:
    """The session, its engine and their rasters go with the window; a show is opened many times on a long night."""
    kept = []
    for _ in range(2):
        session = Session(demo_show(), None, DEMO_ROOT)
        main = MainWindow(session)
        main.show()
        for name in ("Rig", "Map", "Align", "Run"):
            main.show_workspace(name)
            settle(30)
        main.align.close_all()
        main.map.close_all()
        main.outputs.close()
        session.playout.stop()
        main.deleteLater()
        kept += [weakref.ref(session), weakref.ref(session.playout)]
        del session, main
    settle(50)
    gc.collect()
    assert [ref() for ref in kept] == [None] * 4


def test_what_moves_by_itself_is_looked_at_half_as_often_as_what_is_being_edited(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every look takes time that the show's frames need too."""
    watched, clock, looks = Simulation(session), [100.0], []
    serials = iter(range(10**6))
    rasters = {o.id: np.zeros((2, 2, 4), np.uint8) for o in session.show.outputs}
    monkeypatch.setattr(simulation.time, "monotonic", lambda: clock[0])
    monkeypatch.setattr(Engine, "rasters", property(lambda self: rasters))
    monkeypatch.setattr(Engine, "serials", property(lambda self: dict.fromkeys(rasters, next(serials))))
    monkeypatch.setattr(watched._worker, "submit", lambda work: looks.append(clock[0]))

    def looked(steps: int) -> int:
        before = len(looks)
        for _ in range(steps):
            clock[0] += PERIOD_MS / 1e3
            watched._look()
            watched._busy = False
        return len(looks) - before

    watched.surface = "horizon"
    assert looked(1) == 1 and looked(20) == 10
    session.show_changed.emit()
    assert looked(int(UNTOUCHED * 1e3 / PERIOD_MS)) == int(UNTOUCHED * 1e3 / PERIOD_MS)
    assert looked(20) <= 11
    watched.close()
