"""Journeys in the real window: an LED wall of two deliveries matched, masks in their list, and a camera looked through
and marked.
"""

from __future__ import annotations

import threading
from pathlib import Path

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.light.transfer import linear_to_srgb
from ushering_adze.core.onair.actions import Hold
from ushering_adze.core.seeing.sighting import find_corners
from ushering_adze.core.show import LedWall, Mask
from ushering_adze.core.show.edits import with_output
from ushering_adze.demo.show import demo_show
from ushering_adze.desk.align.camera import FOLDER, Choice
from ushering_adze.desk.qt import settle
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.standins.camera import StandinCamera

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def drag(view: QWidget, qtbot: object, a: QPointF, b: QPointF, modifiers: Qt.KeyboardModifier = NONE) -> None:
    qtbot.mousePress(view, LEFT, modifiers, a.toPoint())
    for share in (0.5, 1.0):
        move = a + (b - a) * share
        view.mouseMoveEvent(
            QMouseEvent(QEvent.Type.MouseMove, move, view.mapToGlobal(move), Qt.MouseButton.NoButton, LEFT, modifiers)
        )
        settle(5)
    view.grab()
    qtbot.mouseRelease(view, LEFT, modifiers, b.toPoint())


def meridian(window: MainWindow) -> LedWall:
    wall = window.session.show.surface("meridian")
    assert isinstance(wall, LedWall)
    return wall


def test_what_is_seen_of_the_stand_in_says_how_old_it_is(
    align: MainWindow, qtbot: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    simulation, may = align.align.simulation, threading.Event()
    align.align.show_pattern(PatternShown("white", "canvas"))
    qtbot.waitUntil(lambda: simulation.now is not None and simulation.now.total.min() > 20 and simulation.age < 0.5)
    look = simulation._simulated

    def slowly(*args: object) -> object:
        may.wait(300)
        return look(*args)

    monkeypatch.setattr(simulation, "_simulated", slowly)
    assert simulation.age_words == ""
    align.align.show_pattern(PatternShown("black", "canvas"))
    qtbot.waitUntil(lambda: simulation.age_words == "1 s old")
    assert simulation.now is not None and simulation.now.total.min() > 20, "the white before it is still what is drawn"
    may.set()
    qtbot.waitUntil(lambda: simulation.now.total.max() < 20 and simulation.age < 0.5)
    assert simulation.age_words == ""


def test_cabinets_of_another_delivery_are_framed_named_and_matched(align: MainWindow, qtbot: object) -> None:
    a, session = align.align, align.session
    session.select_surface("meridian")
    a.show_pattern(PatternShown("white", "canvas"))
    qtbot.waitUntil(lambda: a.simulation.now is not None and a.simulation.now.surface == "meridian")
    qtbot.waitUntil(lambda: (a.profile.flatness or 0) > 0.08)
    raster = a.raster
    raster.grab()
    align.book.actions["batch-new"].trigger()
    assert "no cabinet is selected" in align.notice.text()
    boxes = {c: raster.pixels(*r) for c, r in raster.cabinets.items()}
    qtbot.mouseClick(raster, LEFT, NONE, boxes[3, 2].center().toPoint())
    assert raster.cells == {(3, 2)}
    qtbot.mouseClick(raster, LEFT, Qt.KeyboardModifier.ControlModifier, boxes[4, 2].center().toPoint())
    assert raster.cells == {(3, 2), (4, 2)}
    drag(raster, qtbot, boxes[8, 1].topLeft() + QPointF(4, 4), boxes[10, 5].bottomRight() - QPointF(4, 4))
    assert raster.cells == {(c, r) for c in (8, 9, 10) for r in range(1, 6)}
    align.activateWindow()
    align.setFocus()
    qtbot.keyClick(align, Qt.Key.Key_G)
    prompt = a.batches.prompt
    assert prompt is not None and "15 cabinets" in prompt.findChildren(type(a.parts.head))[1].text()
    prompt.fields[0].setText("Second delivery")
    qtbot.keyClick(prompt.fields[0], Qt.Key.Key_Return)
    assert [b.name for b in meridian(align).batches] == ["Second delivery"] and session.undo_label.startswith(
        "Batch Second delivery"
    )
    assert a.parts.list.item(0).text().startswith("Second delivery") and not raster.cells
    qtbot.mouseClick(a.parts.buttons["By meter…"], LEFT)
    prompt = a.batches.prompt
    readings = [f.text() for f in prompt.fields[1:]]
    assert len(readings) == 2 and all(len(r.split()) == 4 for r in readings)
    prompt.fields[1].setText("bright")
    prompt.enter()
    assert "type 3 numbers" in prompt.why.text() and len(meridian(align).batches) == 1
    prompt.fields[1].setText(readings[0])
    prompt.fields[0].setText("6500")
    prompt.enter()
    assert [b.name for b in meridian(align).batches] == ["Second delivery", "Others"]
    qtbot.waitUntil(lambda: (a.profile.flatness or 1) < 0.01)
    a.profile.grab()
    raster.grab()
    qtbot.mouseClick(a.blend, LEFT)  # the matching off, to compare
    qtbot.waitUntil(lambda: (a.profile.flatness or 0) > 0.08)
    qtbot.mouseClick(a.blend, LEFT)
    qtbot.mouseClick(a.parts.list.viewport(), LEFT, NONE, a.parts.list.visualItemRect(a.parts.list.item(0)).center())
    assert raster.cells == {(c, r) for c in (8, 9, 10) for r in range(1, 6)}
    a.parts.list.item(0).setCheckState(Qt.CheckState.Unchecked)
    assert not meridian(align).batches[0].on and session.undo_label == "Second delivery off"
    a.parts.opened.emit(0)
    prompt = a.batches.prompt
    for n, text, words in ((1, "90 80", "type 3 numbers"), (3, "12", "gamma is 12"), (4, "99", "the white is 99")):
        was = prompt.fields[n].text()
        prompt.fields[n].setText(text)
        prompt.enter()
        assert words in prompt.why.text()
        prompt.fields[n].setText(was)
    prompt.fields[0].setText("Rental")
    prompt.fields[4].setText("0.3457 0.3585")
    prompt.enter()
    assert meridian(align).batches[0].name == "Rental" and meridian(align).batches[0].white is not None
    align.book.actions["batch-remove"].trigger()
    assert [b.name for b in meridian(align).batches] == ["Others"]
    align.book.actions["batch-off"].trigger()
    assert not meridian(align).batches[0].on
    while session.undo_label is not None:
        session.undo()
    assert session.show == demo_show()


def test_masks_are_named_switched_and_removed_in_their_list(align: MainWindow, qtbot: object) -> None:
    a, session = align.align, align.session
    a.show_region("horizon-left")
    output = session.show.output("projector-left")
    masks = (
        Mask(name="Lectern", points=((620, 1080), (700, 640), (940, 640), (1030, 1080)), soft=60),
        Mask(name="Drape", points=((0, 0), (90, 0), (60, 1080), (0, 1080))),
    )
    session.edit("masks", with_output(session.show, output.model_copy(update={"masks": masks})))

    def now() -> tuple[Mask, ...]:
        return session.show.output("projector-left").masks

    assert [a.parts.list.item(n).text().split("   ")[0] for n in range(2)] == ["Lectern", "Drape"]
    a.parts.list.setCurrentRow(0)
    assert a.raster.mask_chosen == 0
    qtbot.mouseClick(a.parts.buttons["Edit…"], LEFT)
    prompt = a.masks.prompt
    prompt.fields[0].setText(" ")
    prompt.enter()
    assert "type one" in prompt.why.text()
    prompt.fields[0].setText("Speaker")
    prompt.fields[1].setText("12.5")
    prompt.fields[2].setCurrentIndex(1)
    prompt.enter()
    assert (now()[0].name, now()[0].soft, now()[0].keep) == ("Speaker", 12.5, True) and now()[1] == masks[1]
    a.parts.list.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert [m.on for m in now()] == [True, False]
    a.raster.grab()
    a.parts.list.setCurrentRow(1)
    qtbot.mouseClick(a.parts.buttons["Remove"], LEFT)
    assert [m.name for m in now()] == ["Speaker"]
    align.book.actions["mask-remove"].trigger()
    align.book.actions["mask-remove"].trigger()
    assert now() == () and "no mask on this output" in align.notice.text() and a.parts.list.isHidden()


def test_a_camera_is_looked_through_its_corners_are_marked_and_an_edit_ends_before(
    align: MainWindow, qtbot: object
) -> None:
    a, session = align.align, align.session
    assert a.eye.currentWidget() is a.screen_view
    align.activateWindow()
    align.setFocus()
    qtbot.keyClick(align, Qt.Key.Key_L)
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert a.eye.currentWidget() is a.photo and a.photo.corners is not None
    photo = StandinCamera(session.show, "horizon").photograph(
        {o: np.full((1080, 1920), 255, np.uint8) for o in ("projector-left", "projector-right")}
    )
    assert np.abs(a.photo.corners - find_corners(photo)).max() < 3, "found, but for the camera's noise"
    a.photo.grab()
    found, spot = a.photo.corners.copy(), a.photo.spot(1)
    drag(a.photo, qtbot, spot, spot + QPointF(-14, 9))
    assert (
        a.photo.by_hand
        and not np.allclose(a.photo.corners[1], found[1])
        and np.allclose(a.photo.corners[[0, 2, 3]], found[[0, 2, 3]])
    )
    assert "top right corner" in a.photo.words
    marked = a.photo.corners.copy()
    top = (a.photo.spot(0) + a.photo.spot(1)) / 2
    drag(a.photo, qtbot, top, top + QPointF(0, 2), Qt.KeyboardModifier.ShiftModifier)
    assert a.photo.marks is not None and a.photo.marks.shape == (1, 2) and "mark on an edge" in a.photo.words
    a.photo.grab()
    drag(a.photo, qtbot, top + QPointF(0, 2), top + QPointF(0, 2), Qt.KeyboardModifier.ShiftModifier)
    assert a.photo.marks is None and "0 marks" in a.photo.words
    a.look()
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert np.allclose(a.photo.corners, marked), "what was marked by hand stays"
    a.toggle_camera()
    assert a.eye.currentWidget() is a.screen_view
    a.compare(True)
    assert a._compared is not None
    session.edit("x", session.show.model_copy(update={"name": "Other"}))
    assert a._compared is None, "an edit is to be seen at once"
    session.select_surface("meridian")
    assert a.camera_button.isHidden() and not a.photo.by_hand


def test_which_camera_is_asked_and_a_tethered_folder_brings_the_look(
    align: MainWindow, qtbot: object, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    a = align.align
    a.eye.ask_camera()
    prompt = a.camera.prompt
    kinds = [prompt.fields[0].itemText(n) for n in range(prompt.fields[0].count())]
    assert kinds[0] == "the stand-in camera" and "Roof camera, a live source" in kinds
    prompt.fields[0].setCurrentIndex(prompt.fields[0].findData(FOLDER))
    prompt.fields[1].setText(str(tmp_path / "none"))
    prompt.enter()
    assert "there is no folder" in prompt.why.text()
    prompt.fields[1].setText(str(tmp_path))
    prompt.fields[3].setText("soon")
    prompt.enter()
    assert "type a number" in prompt.why.text() and a.camera.choice == Choice()
    prompt.fields[3].setText("")
    prompt.enter()
    assert a.camera.choice == Choice(FOLDER, str(tmp_path)) and a.photo.name == f"photographs in {tmp_path.name}"
    eye = StandinCamera(align.session.show, "horizon", 1200)
    a.look()
    qtbot.waitUntil(lambda: a.progress_words.text().startswith("photograph 1 of"))
    rasters = {o: align.session.playout.rasters()[o] for o in ("projector-left", "projector-right")}
    assert all((r[..., :3] == 255).all() for r in rasters.values()), "white is out before a photograph is waited for"
    codes = np.rint(linear_to_srgb(np.clip(eye.photograph(rasters, colour=True), 0, 1)) * 255).astype(np.uint8)
    cv2.imwrite(str(tmp_path / "a.jpg"), codes[..., ::-1])
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert a.photo.corners is not None and a.photo.corners.max() < 1200 and not a.photo.by_hand
    a.auto()
    qtbot.waitUntil(lambda: a.progress_words.text().startswith("photograph"))
    qtbot.mouseClick(a.stop_button, LEFT)
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert "nothing is changed" in align.notice.text() and align.session.undo_label is None
    qtbot.waitUntil(lambda: not align.session.playout._engine.overlay.rasters)
    a.auto()
    qtbot.waitUntil(
        lambda: a.progress_words.text().startswith("photograph") and bool(align.session.playout._engine.overlay.rasters)
    )
    a.show_pattern(PatternShown("bars", "output"))
    settle(200)
    assert a.camera.on_outputs and all(
        (r[..., :3] == 255).all() for r in align.session.playout._engine.overlay.rasters.values()
    )
    a.show_pattern(None)
    align.show_workspace("Run")
    qtbot.waitUntil(lambda: a.camera.running is None and not align.session.playout._engine.overlay.rasters)
    settle(200)
    assert not align.session.playout._engine.overlay.rasters, "who leaves Align leaves no pattern on the outputs"
    align.show_workspace("Align")
    align.session.playout.act(Hold())
    qtbot.waitUntil(lambda: align.session.playout.covered == "held")
    a.auto()
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert "they are held" in align.notice.text()
    align.session.playout.act(Hold(on=False))
    a.camera.choice = Choice("gone")
    a.look()
    qtbot.waitUntil(lambda: a.camera.running is None)
    assert "not in the show any more" in align.notice.text()
