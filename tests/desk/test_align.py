"""Aligning by hand and by camera in the real window, with the engine running and the stand-in screen as the eye."""

from __future__ import annotations

import json
import time
from pathlib import Path

import cv2
import numpy as np
import pytest
from driven import Driven
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QFileDialog

from ushering_adze.core.light.lining_up import Look
from ushering_adze.core.light.showing import PatternShown, on_canvas, on_outputs
from ushering_adze.core.mapping.align_data import align_data, read_align_data, with_align_data, with_lock
from ushering_adze.core.mapping.bend import corners_of, points_of, raster_points
from ushering_adze.core.onair.actions import Cut, Recall
from ushering_adze.core.show import MeshLanding, Region, Show, ShowError
from ushering_adze.demo.show import demo_show
from ushering_adze.desk.qt import settle
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine.overlay import Overlay
from ushering_adze.io.exchange.bends import mesh_csv, mesh_obj, weights_of, write_bend
from ushering_adze.io.standins.screen import StandinScreen

LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier


def drag(window: MainWindow, qtbot: object, a: QPointF, b: QPointF, modifiers: Qt.KeyboardModifier = NONE) -> None:
    view = window.align.raster
    qtbot.mousePress(view, LEFT, modifiers, a.toPoint())
    for share in (0.5, 1.0):
        move = a + (b - a) * share
        view.mouseMoveEvent(
            QMouseEvent(QEvent.Type.MouseMove, move, view.mapToGlobal(move), Qt.MouseButton.NoButton, LEFT, modifiers)
        )
        settle(5)
    qtbot.mouseRelease(view, LEFT, modifiers, b.toPoint())


def off(window: MainWindow) -> float:
    """How far on the true screen the canvas falls from where it belongs, in the mean, in pixels."""
    show, found = window.session.show, []
    for lit in StandinScreen(demo_show(), "horizon", 0.05).projectors:
        region = show.homes[lit.region][1]
        u, v = np.meshgrid(np.linspace(0, region.w, 15), np.linspace(0, region.h, 9))
        places = np.stack([u.ravel() + region.x, v.ravel() + region.y], -1)
        found.append(np.hypot(*(lit.pose.view.to_screen(raster_points(region, places)) - (places - (256, 0))).T))
    return float(np.concatenate(found).mean())


def corner_off(window: MainWindow, region: str, k: int) -> np.ndarray:
    """What an operator sees at a corner: by how many screen pixels it falls beside its place."""
    lit = next(p for p in StandinScreen(demo_show(), "horizon", 0.05).projectors if p.region == region)
    r = window.session.show.homes[region][1]
    place = np.array([(r.x, r.y), (r.x + r.w, r.y), (r.x + r.w, r.y + r.h), (r.x, r.y + r.h)][k], float) - (256, 0)
    return lit.pose.view.to_screen(np.array(corners_of(r.landing)[k], float)[None])[0] - place


def test_an_operator_drags_four_corners_of_each_projector_and_the_picture_comes_together(
    align: MainWindow, qtbot: object
) -> None:
    a = align.align
    a.show_pattern(PatternShown("grid", "screen"))
    before = off(align)
    assert before > 15
    for region in ("horizon-left", "horizon-right"):
        a.show_region(region)
        a.raster.fit()
        a.raster.grab()
        for _ in range(2):
            for k in range(4):
                a.raster.grab()
                spot = a.raster.corner_spots()[k]
                dx, dy = corner_off(align, region, k)
                drag(align, qtbot, spot, spot - QPointF(dx, dy) * a.raster.scale)
                settle(20)
        for k in range(4):  # the last pixels by keys
            a.raster.choose({k})
            dx, dy = corner_off(align, region, k)
            across, down = Qt.Key.Key_Left if dx > 0 else Qt.Key.Key_Right, Qt.Key.Key_Up if dy > 0 else Qt.Key.Key_Down
            for key, steps in ((across, abs(dx)), (down, abs(dy))):
                for _ in range(round(steps)):
                    qtbot.keyClick(align, key)
    after = off(align)
    assert after < before / 8 and after < 2.5, (before, after)
    assert all(align.session.show.homes[r][1].landing.kind == "quad" for r in ("horizon-left", "horizon-right"))
    steps = align.session.undo_label
    assert steps is not None and "point" in steps
    shown = align.session.show.homes["horizon-right"][1].landing
    align.session.undo()
    assert align.session.show.homes["horizon-right"][1].landing != shown


def test_the_camera_aligns_in_one_step_and_the_profile_is_flat(align: MainWindow, qtbot: object) -> None:
    a, session = align.align, align.session
    before = session.show
    a.show_pattern(PatternShown("white", "canvas"))
    qtbot.waitUntil(lambda: (a.profile.flatness or 0) > 0.3)
    a.auto()
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert session.undo_label == "Align by camera" and "mean 0.0" in a.screen_view.note
    qtbot.waitUntil(lambda: (a.profile.flatness or 1) < 0.03)
    assert off(align) < 0.5 and a.screen_view.errors is not None
    a.profile.grab()
    a.screen_view.grab()
    a.toggle_blend()
    qtbot.waitUntil(lambda: (a.profile.flatness or 0) > 0.3)
    a.toggle_blend()
    a.compare(True)
    assert a._compared is session.show
    qtbot.waitUntil(lambda: session.playout.stage.show is before)
    a.compare(False)
    qtbot.waitUntil(lambda: session.playout.stage.show is session.show)
    session.undo()
    assert session.show is before


def test_leaving_asks_nothing_and_brings_the_show_back_exactly(align: MainWindow, qtbot: object) -> None:
    a, session = align.align, align.session
    align.show_workspace("Run")
    session.playout.act(Cut())
    session.playout.act(Recall(preset=90, seconds=0.0))
    qtbot.waitUntil(lambda: not session.playout.rasters()["projector-left"][..., :3].any())
    frames = session.playout.mark[0]
    qtbot.waitUntil(lambda: session.playout.mark[0] > frames + 2)  # every output is as it will stay
    plain = {id: p.copy() for id, p in session.playout.rasters().items()}
    del plain["foyer"]  # its pages turn by themselves
    align.show_workspace("Align")
    for shown in (
        PatternShown("hatch", "output", Look(40, 2, (9, 200, 40))),
        PatternShown("identify", "output"),
        PatternShown("overlaps", "screen"),
        PatternShown("line", "output"),
        PatternShown("marks", "output", own=True),
    ):
        a.show_pattern(shown)
        qtbot.waitUntil(lambda: session.playout.rasters()["projector-left"][..., :3].any())
    qtbot.waitUntil(lambda: session.report.surfaces["horizon"].state == "pattern")
    a.toggle_solo()
    a.show_pattern(PatternShown("white", "output"))
    qtbot.waitUntil(lambda: not session.playout.rasters()["projector-right"][..., :3].any())
    a.toggle_solo()
    a.toggle_dim()
    qtbot.waitUntil(lambda: 50 < session.playout.rasters()["projector-right"][..., :3].mean() < 80)
    a.toggle_dim()
    assert not any(np.any(session.playout.rasters()[id] != plain[id]) for id in plain if not id.startswith("projector"))
    align.show_workspace("Map")
    qtbot.waitUntil(
        lambda: (
            session.playout._engine.overlay == Overlay()
            and all(np.array_equal(session.playout.rasters()[id], p) for id, p in plain.items())
        )
    )


def test_meshes_rows_masks_and_what_cannot_be(
    align: MainWindow, qtbot: object, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    a, session, raster = align.align, align.session, align.align.raster

    def region() -> object:
        return session.show.homes["horizon-left"][1]

    a.show_region("horizon-left")
    align.book.actions["bend-mesh-5"].trigger()
    assert isinstance(region().landing, MeshLanding) and len(points_of(region().landing)) == 25
    raster.grab()
    raster.choose({12})
    for key, modifiers, move in (
        (Qt.Key.Key_Right, NONE, (1, 0)),
        (Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, (0, 10)),
        (Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier, (-0.1, 0)),
    ):
        before = points_of(region().landing)
        qtbot.keyClick(align, key, modifiers)
        after = points_of(region().landing)
        assert (after - before)[12] == pytest.approx(move, abs=2e-3) and np.abs(
            np.delete(after - before, 12, 0)
        ).max() == 0
    align.book.actions["bend-row"].trigger()
    assert raster.chosen == {10, 11, 12, 13, 14}
    raster.choose({12})
    align.book.actions["bend-column"].trigger()
    assert raster.chosen == {2, 7, 12, 17, 22}
    raster.choose(set())
    drag(align, qtbot, raster._spot(-60, -60), raster._spot(600, 400))
    assert raster.chosen == {0, 1, 5, 6}, "a frame around several"
    good = region().landing
    raster.choose({12})
    raster.nudge(4000, 0)
    assert region().landing == good and "folded" in align.notice.text(), "the last good shape stays"
    align.book.actions["mask-draw"].trigger()
    for x, y in ((300, 300), (900, 300), (900, 700)):
        qtbot.mouseClick(raster, LEFT, pos=raster._spot(x, y).toPoint())
    qtbot.keyClick(align, Qt.Key.Key_Return)
    output = session.show.output("projector-left")
    assert len(output.masks) == 1 and len(output.masks[0].points) == 3 and output.masks[0].soft == 24
    a.show_pattern(PatternShown("white", "canvas"))
    qtbot.waitUntil(
        lambda: (
            session.playout.rasters()["projector-left"][420, 780, 1] == 0
            and session.playout.rasters()["projector-left"][200, 200, 1] > 200
        )
    )
    raster.grab()
    align.book.actions["mask-remove"].trigger()
    assert session.show.output("projector-left").masks == ()
    align.book.actions["bend-copy"].trigger()
    align.book.actions["align-next"].trigger()
    assert raster.region_id == "horizon-right"
    align.book.actions["bend-paste"].trigger()
    assert session.show.homes["horizon-right"][1].landing == good
    align.book.actions["bend-mirror-across"].trigger()
    assert points_of(session.show.homes["horizon-right"][1].landing)[12][0] == pytest.approx(
        1920 - points_of(good)[12][0], abs=0.01
    )
    box = a.steps.boxes["shape"]
    box.click()
    assert (
        session.show.alignment("horizon").done == ("shape",)
        and json.loads(json.dumps(session.show.model_dump(mode="json")))["alignments"]
    )
    path = tmp_path / "h.align.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *args: (str(path), ""))
    align.book.actions["align-save"].trigger()
    saved = session.show
    align.book.actions["bend-plain"].trigger()
    assert session.show.homes["horizon-right"][1].landing.kind == "rect"
    a.actions_of.load_from(path)
    assert align_data(session.show, "horizon") == align_data(saved, "horizon")
    align.book.actions["align-lock"].trigger()
    locked = session.show
    raster.choose({12})
    raster.nudge(3, 0)
    assert session.show is locked and "locked" in align.notice.text()
    align.book.actions["align-lock"].trigger()
    raster.nudge(3, 0)
    assert session.show is not locked


QUESTIONS = [
    ("bend-keystone", ("10", "0", "0", "1.8"), lambda s: s.homes["horizon-left"][1].landing.kind == "quad"),
    ("bend-curve", ("9000", "4800", "2"), lambda s: s.homes["horizon-left"][1].landing.kind == "mesh"),
    ("bend-mesh", ("9", "7", "straight"), lambda s: s.homes["horizon-left"][1].landing.spans == "straight"),
    ("light-blend", ("cosine", "1.5"), lambda s: s.surface("horizon").blend.curve == "cosine"),
    (
        "light-edges",
        ("0 0", "0 0", "300 20", "0 0", "straight", "2", "1.2"),
        lambda s: s.homes["horizon-left"][1].edges.right.width == 300,
    ),
    (
        "light-black",
        ("0.05", "0.05", "0.06", "3"),
        lambda s: s.output("projector-left").black.leak[2] == pytest.approx(6e-4),
    ),
    (
        "light-colour",
        ("5600", "2.3", "0 4 22 56 100"),
        lambda s: (
            (p := s.output("projector-left").picture).white.x == pytest.approx(0.33, abs=0.01)
            and p.response == pytest.approx((0, 0.04, 0.22, 0.56, 1))
        ),
    ),
    (
        "light-even",
        ("100 98 90", "100 100 95", "97 99 94"),
        lambda s: (
            (g := s.output("projector-left").picture.uniformity).red[2] == 0.9
            and g.blue[6] == 0.97
            and (g.columns, g.rows) == (3, 3)
        ),
    ),
]


def test_every_question_does_what_it_asks_and_tells_a_wrong_answer(align: MainWindow) -> None:
    for id, values, check in QUESTIONS:
        answered(align, id, values, check)


def answered(align: MainWindow, id: str, values: tuple[str, ...], check: object) -> None:
    align.align.show_region("horizon-left")
    before = align.session.show
    align.book.actions[id].trigger()
    prompt = align.align.actions_of.prompt
    first = next(n for n, f in enumerate(prompt.fields) if hasattr(f, "setText"))
    kept = prompt.fields[first].text()
    prompt.fields[first].setText("fish")
    prompt.enter()
    assert prompt.why.isVisible() and align.session.show is before and ("fish" in prompt.why.text())
    prompt.fields[first].setText(kept)
    for field, value in zip(prompt.fields, values, strict=True):
        field.setText(value) if hasattr(field, "setText") else field.setCurrentIndex(field.findData(value))
    prompt.enter()
    assert check(align.session.show), prompt.why.text()  # type: ignore[operator]
    align.session.undo()
    assert align.session.show is before


def test_patterns_in_each_ones_coordinates_and_files_for_others(tmp_path: Path) -> None:
    show = demo_show()
    rasters = on_outputs(show, "horizon", PatternShown("marks", "output"))
    assert {p.shape for p in rasters.values()} == {(1080, 1920, 4)} and not np.array_equal(*rasters.values()), (
        "each in its own colour"
    )
    canvas = on_canvas(show, "horizon", PatternShown("grid", "canvas", Look(100)))["projector-left"]["house"]
    assert canvas.shape == (2040, 4112, 4) and not canvas[1080:, :, :3].any()
    assert canvas[100, 300:400, 1].min() > 200 and canvas[50, 300, 1] > 200
    screen = on_canvas(show, "horizon", PatternShown("grid", "screen", Look(100)))["projector-left"]["house"]
    assert screen[50, 356, 1] > 200 and not np.array_equal(screen, canvas)
    weights = weights_of(show, "horizon-left")
    assert (
        weights.dtype == np.uint16
        and weights[500, 100] == 65535
        and weights[500, 1800] == pytest.approx(65535 / 2, rel=0.02)
    )
    for name in ("w.png", "w.tiff", "m.npz", "m.obj", "m.csv"):
        write_bend(show, "horizon-left", tmp_path / name)
    assert (cv2.imread(str(tmp_path / "w.png"), cv2.IMREAD_UNCHANGED) == weights).all()
    region, output = show.homes["horizon-left"][1], show.output("projector-left")
    assert (
        mesh_obj(region, output).count("\nv ") == 4
        and mesh_csv(region).splitlines()[-1] == "1,1,1920.000,1080.000,1920.000,1080.000"
    )
    with pytest.raises(ShowError, match="the ending says nothing"):
        write_bend(show, "horizon-left", tmp_path / "w.bmp")
    with pytest.raises(ShowError, match="not a saved alignment"):
        read_align_data({"format": "other"})
    data = align_data(show, "horizon")
    with pytest.raises(ShowError, match="does not feed"):
        with_align_data(show, data, "meridian")
    assert with_lock(show, "horizon", True).alignment("horizon").locked


@pytest.mark.screen
def test_projectors_shaped_with_real_keys_and_mouse_are_in_the_saved_file(driven: Driven) -> None:
    """Under an X server: a corner dragged and nudged, a mesh, and a mask drawn by clicks, read back from the file."""

    def left(show: Show) -> Region:
        return next(r for _, r in show.regions() if r.id == "horizon-left")

    def corners(show: Show) -> list[tuple[float, float]]:
        return corners_of(left(show).landing)

    x = driven.x
    driven.screen.go_to("Align")
    x("mousemove", 910, 375, "click", 1)  # the step Shape
    driven.drag((129, 142), (134, 146), (139, 150))
    dragged = driven.saved_until(lambda s: left(s).landing.kind == "quad")
    (u, v), *others = corners(dragged)
    assert 25 < u < 45 and 20 < v < 40, "ten pixels of the window, at one to three and a half"
    assert others == [(1920, 0), (1920, 1080), (0, 1080)]
    x("key", "shift+Right")
    x("key", "Down")
    moved = driven.saved_until(lambda s: corners(s)[0] == pytest.approx((u + 10, v + 1)))
    assert moved.alignment("horizon").done == ()
    x("key", "w")
    mesh = driven.saved_until(lambda s: left(s).landing.kind == "mesh")
    assert len(points_of(left(mesh).landing)) == 25 and corners(mesh)[0] == pytest.approx((u + 10, v + 1))
    x("key", "m")
    for at in ((300, 440), (360, 300), (420, 440)):
        x("mousemove", *at, "click", 1)
        time.sleep(0.2)
    x("key", "Return")
    masked = driven.saved_until(lambda s: bool(s.output("projector-left").masks))
    assert (
        len(masked.output("projector-left").masks[0].points) == 3 and masked.output("projector-left").masks[0].soft > 0
    )
    x("key", "ctrl+z")
    driven.saved_until(lambda s: not s.output("projector-left").masks)
