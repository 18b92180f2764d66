"""Whole journeys through the real window."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtWidgets import QMessageBox

from ushering_adze.core.onair.actions import Hold, Recall, StagePreset
from ushering_adze.core.show import Folder, WindowBinding
from ushering_adze.demo.show import copy_demo
from ushering_adze.desk import theme
from ushering_adze.desk.topbar import WORKSPACES
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.showfile import read_show, save_show
from x_screen import XScreen


def raster(window: MainWindow, output: str) -> np.ndarray:
    return window.session.playout.rasters()[output].copy()


def test_stage_seven_read_the_delta_take_interrupt_and_quit(window: MainWindow, qtbot: object) -> None:
    session = window.session
    qtbot.keyClicks(window, "7")
    assert window.run.deck.typed == "7", "digits are shown while they are typed"
    before = raster(window, "processor-a")
    qtbot.keyClick(window, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(session.report.delta) == 3)
    assert [session.show.surface(c.surface).name for c in session.report.delta] == [
        "Meridian",
        "West mast",
        "East mast",
    ]
    assert window.run.strip.head.text() == "Take changes 3 of 7 surfaces"
    for words in ("Meridian → Moon phases", "West mast, East mast → Roof camera"):
        assert words in window.run.strip.line.toolTip()
    assert {"meridian", "west-mast", "east-mast"} == set(session.report.preview), "real pictures of what will come"
    assert session.playout.stage.on_program == 5, "staging fires nothing"
    assert (raster(window, "processor-a") == before).all()

    window.run.strip.time.setText("12")
    qtbot.mouseClick(window.run.strip.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.report.stage.on_program == 7 and session.report.moving)
    began = time.monotonic()
    qtbot.waitUntil(lambda: 0.3 < session.report.progress < 0.9)
    assert set(session.report.surfaces["meridian"].sources) == {"Slides", "Moon phases"}, "half-way both are on air"
    middle = raster(window, "processor-a")
    assert np.abs(middle.astype(int) - before).mean() > 1, "the picture is another one by now"

    qtbot.keyClicks(window, "6")
    qtbot.keyClick(
        window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier
    )  # straight to program, in the middle of the fade
    qtbot.waitUntil(lambda: session.report.stage.on_program == 6)
    assert time.monotonic() - began < 12.0, "the first fade was still under way"
    qtbot.waitUntil(lambda: not session.report.moving)
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Slides", "Aisle camera"))
    assert not session.report.delta and session.report.stage.staged is None

    asked = []

    def answer() -> None:
        box = window.question
        asked.append((box.text(), box.informativeText()))
        box.button(QMessageBox.StandardButton.Close).click()

    QTimer.singleShot(200, answer)
    assert window.close()
    assert asked == [("Close Centenary Night?", "The show stops.")]
    assert not window.isVisible()


def test_cut_back_escape_and_a_number_that_is_not_there(window: MainWindow, qtbot: object) -> None:
    session = window.session
    qtbot.keyClicks(window, "77")
    qtbot.keyClick(window, Qt.Key.Key_Return)
    assert window.notice.isVisible() and "no preset 77" in window.notice.text()
    qtbot.keyClicks(window, "8")
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.run.deck.typed == ""
    card = next(c for c in window.run.deck.cards if c.preset.number == 8)
    qtbot.mouseClick(card, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.report.stage.staged == 8)
    assert card.role() == "preview"
    qtbot.keyClick(window, Qt.Key.Key_X)
    qtbot.waitUntil(lambda: session.report.stage.on_program == 8 and not session.report.moving)
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Hold card",))
    qtbot.keyClick(window, Qt.Key.Key_Backspace)
    qtbot.waitUntil(lambda: session.report.stage.on_program == 5 and not session.report.moving)
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Slides",))
    qtbot.keyClicks(window, "7")
    qtbot.keyClick(window, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.run.strip.time.text() == "2.0 s")
    window.run.strip.time.setText("60")
    qtbot.keyClick(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: session.report.stage.on_program == 7 and session.report.moving)
    first = session.report
    qtbot.waitUntil(lambda: session.report.now > first.now + 0.3)
    gone = (session.report.progress - first.progress) / (session.report.now - first.now)
    assert session.report.moving and gone == pytest.approx(1 / 60, rel=0.01), "in the typed time, not the preset's two"


def test_the_hand_fade_leads_and_finishes(window: MainWindow, qtbot: object) -> None:
    session, lever = window.session, window.run.strip.hand
    session.playout.act(StagePreset(preset=7))
    qtbot.waitUntil(lambda: lever.armed)
    at = lambda share: QPoint(round(8 + (lever.width() - 16) * share), lever.height() // 2)  # noqa: E731
    qtbot.mousePress(lever, Qt.MouseButton.LeftButton, pos=at(0))
    for share in (0.1, 0.3, 0.5):
        qtbot.mouseMove(lever, at(share))
    qtbot.waitUntil(lambda: session.report.stage.program.led_by_hand and 0.4 < session.report.progress < 0.6)
    qtbot.wait(400)
    assert 0.4 < session.report.progress < 0.6, "it waits for the hand"
    for share in (0.8, 1.0):
        qtbot.mouseMove(lever, at(share))
    qtbot.mouseRelease(lever, Qt.MouseButton.LeftButton, pos=at(1))
    qtbot.waitUntil(lambda: session.report.stage.on_program == 7 and session.report.stage.staged is None)
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Moon phases",) and lever.position == 0)


def test_black_needs_to_be_kept_pressed(window: MainWindow, qtbot: object) -> None:
    session = window.session
    qtbot.keyPress(window, Qt.Key.Key_B)
    qtbot.wait(20)
    qtbot.keyRelease(window, Qt.Key.Key_B)
    qtbot.wait(700)
    assert not session.report.black
    qtbot.mousePress(window.sill.black, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.sill.black.on)
    qtbot.mouseRelease(window.sill.black, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.report.black and window.sill.tiles[0].state() == "black")
    assert raster(window, "processor-a")[..., :3].max() == 0
    qtbot.keyPress(window, Qt.Key.Key_B)
    qtbot.waitUntil(lambda: not window.sill.black.on)
    qtbot.keyRelease(window, Qt.Key.Key_B)
    qtbot.waitUntil(lambda: not session.report.black)
    assert raster(window, "processor-a")[..., :3].max() > 0


def test_map_moves_a_region_on_air_and_undoes_it(window: MainWindow, qtbot: object) -> None:
    session = window.session
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    window.book.actions["go-map"].trigger()
    assert window.stack.currentWidget() is window.map
    canvas = window.map.canvas
    qtbot.waitUntil(lambda: len(canvas.hits) == 5)
    where = next(rect for rect, id in canvas.hits if id == "meridian").center().toPoint()
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=where)
    assert session.region == "meridian" and session.surface == "meridian"
    field = window.map.geometry_panel.on_canvas
    assert field.text() == "1096 1080 1920 960"
    before = raster(window, "processor-a")
    field.setText("+0 -1080 +0 +0")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.show.canvas("house").regions[2].y == 0 and session.undo_label == "Move Meridian on the canvas"
    qtbot.waitUntil(lambda: np.abs(raster(window, "processor-a").astype(int) - before).mean() > 20)
    field.setText("0 0 0 960")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    why = window.map.geometry_panel.reasons[0]
    assert "must be at least 1" in why.text() and field.text() == "0 0 0 960", "the wrong text stays, with the reason"
    assert session.show.canvas("house").regions[2].w == 1920
    window.book.actions["undo"].trigger()
    assert session.show.canvas("house").regions[2].y == 1080 and session.redo_label is not None
    qtbot.waitUntil(lambda: (raster(window, "processor-a") == before).all())
    window.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert session.show.canvas("house").regions[2].x == 1106
    field.setFocus()
    field.setCursorPosition(2)
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert session.show.canvas("house").regions[2].x == 1107, "an arrow key in a field changes the number it stands in"
    window.map.geometry_panel.lands.setText("960x480+0+0")
    qtbot.keyClick(window.map.geometry_panel.lands, Qt.Key.Key_Return)
    assert window.map.geometry_panel.facts["Scale"].text() == "×0.5, resampled", "scaling is always named"


def test_selection_is_shared_and_the_list_scrolls(window: MainWindow, qtbot: object) -> None:
    session = window.session
    tile = next(t for t in window.sill.tiles if t.surface.id == "foyer-wall")
    qtbot.mouseClick(tile, Qt.MouseButton.LeftButton)
    window.show_workspace("Map")
    assert window.map.canvas.canvas_id == "foyer" and window.map.geometry_panel.title.text() == "Foyer wall"
    regions = window.map.regions
    window.map.split.widget(2).setFixedHeight(200)
    qtbot.wait(50)
    regions.wheelEvent(
        QWheelEvent(
            QPointF(20, 60),
            QPointF(20, 60),
            QPoint(),
            QPoint(0, -1200),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
    )
    qtbot.mouseClick(regions, Qt.MouseButton.LeftButton, pos=QPoint(60, regions.height() - 24))
    assert session.surface == "relay" and window.map.canvas.canvas_id == "relay"


def test_open_save_and_a_bad_file_leaves_the_show_alone(window: MainWindow, qtbot: object, tmp_path: Path) -> None:
    session = window.session
    assert session.save(tmp_path / "evening.adze")
    assert read_show(tmp_path / "evening.adze") == session.show
    assert "saved" in window.top.saved.text()
    (tmp_path / "bad.adze").write_text((tmp_path / "evening.adze").read_text()[:999])
    show, stage = session.show, session.playout.stage.on_program
    assert not session.open(tmp_path / "bad.adze")
    assert (
        window.refusal.isVisible()
        and not window.refusal.isModal()
        and "bad.adze: the file is cut off" in window.refusal.text()
    )
    assert session.show is show and session.playout.stage.on_program == stage
    session.playout.act(Recall(preset=7))
    assert session.open(tmp_path / "evening.adze")
    qtbot.waitUntil(lambda: session.report.stage.on_program == 5 and not session.report.faults)


def test_an_output_window_shows_every_pixel_and_the_choice_is_in_the_show(window: MainWindow, qtbot: object) -> None:
    session = window.session
    window.outputs.bind("relay", WindowBinding())
    assert session.show.output("relay").binding == WindowBinding() and session.undo_label == "Bind Relay to a window"
    output = window.outputs.windows["relay"]
    output.resize(1280, 720)
    qtbot.waitUntil(lambda: output.shown > 2)
    session.playout.act(Hold())
    qtbot.waitUntil(lambda: session.report.held)
    sent = raster(window, "relay")

    def shown() -> NDArray[np.uint8]:
        image = output.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        return np.frombuffer(image.constBits(), np.uint8).reshape(720, 1280, 4)[..., :3].copy()

    qtbot.waitUntil(lambda: bool((shown() == sent[..., :3]).all()))  # one pixel to one pixel
    qtbot.waitUntil(lambda: next(t for t in window.sill.tiles if t.surface.id == "relay").state() == "held")
    assert "1 output window will close" in window.closing_question().informativeText()
    output.close()
    assert session.show.output("relay").binding is not None and output.isVisible(), "it is on air: once is a slip"
    assert "close it again" in window.notice.text()
    output.close()
    assert session.show.output("relay").binding is None, "closing it twice by hand unbinds it"
    window.book.actions["undo"].trigger()
    assert "relay" in window.outputs.windows
    window.outputs.close()


def test_finder_keys_and_every_workspace_is_there(window: MainWindow, qtbot: object) -> None:
    window.book.actions["find"].trigger()
    assert window.finder.isVisible()
    qtbot.keyClicks(window.finder.field, "watch")
    qtbot.keyClick(window.finder.field, Qt.Key.Key_Return)
    assert window.workspace == "Watch" and not window.finder.isVisible()
    assert set(window.pages) == set(WORKSPACES) and window.watch.view.isVisible()
    window.show_workspace("Run")
    window.book.actions["keys"].trigger()
    assert window.sheet.isVisible() and ("X", "Cut preview to program") in window.sheet.rows()
    qtbot.keyClick(window.sheet, Qt.Key.Key_A)
    assert not window.sheet.isVisible()
    words = [c.words for c in window.book.commands.values()]
    assert len(words) == len(set(words))


def test_text_on_its_ground_is_readable() -> None:
    # WCAG 2.1, relative luminance and contrast ratio (from memory); body text needs 4.5 : 1.
    from ushering_adze.core.document.model import rgb_of
    from ushering_adze.core.light.transfer import srgb_to_linear

    def luminance(token: str) -> float:
        return float(srgb_to_linear(np.array(rgb_of(token)) / 255) @ (0.2126, 0.7152, 0.0722))

    for text in (theme.TEXT, theme.DIM, theme.AMBER, theme.RED_WORDS, theme.GREEN):
        for ground in (theme.GROUND, theme.PANEL, theme.WELL):
            a, b = sorted((luminance(text), luminance(ground)))
            assert (b + 0.05) / (a + 0.05) >= 4.5, (text, ground)


@pytest.mark.screen
def test_real_keys_and_mouse_on_a_real_screen(x_display: XScreen, tmp_path: Path) -> None:
    """The program itself, under an X server, driven by real key and mouse events; what it shows is read off
    the screen.
    """
    env = {
        **os.environ,
        "DISPLAY": x_display.name,
        "QT_QPA_PLATFORM": "xcb",
        "XDG_CONFIG_HOME": str(tmp_path),
        "HOME": str(tmp_path),
    }
    path = copy_demo(tmp_path / "demo")
    show = read_show(path)  # its slides stand still, so that pictures can be compared however slow the machine is
    still = tuple(s.model_copy(update={"by_hand": True}) if isinstance(s, Folder) else s for s in show.sources)
    save_show(show.model_copy(update={"sources": still}), path)
    program = subprocess.Popen(
        [sys.executable, "-m", "ushering_adze", "open", "--no-calendar", str(path)],
        env=env,
        stderr=subprocess.PIPE,
        text=True,
    )

    def screen() -> np.ndarray:
        return x_display.pixels().astype(int)

    x = x_display.x
    try:
        x_display.bring("Centenary Night")
        end = time.monotonic() + 300
        meridian, program_room = (
            np.s_[575:625, 300:450],
            np.s_[225:280, 300:450],
        )  # in the preview room, in the program room
        first = screen()
        while time.monotonic() < end and not (first[program_room].mean() > 20 and first[meridian].mean() > 20):
            time.sleep(0.5)
            first = screen()

        def seen(where: tuple[slice, slice], seconds: float = 20) -> np.ndarray:
            end = time.monotonic() + seconds
            while True:
                now = screen()
                if np.abs(now[where] - first[where]).mean() > 30 or time.monotonic() > end:
                    return now
                time.sleep(0.2)

        x("mousemove", 440, 250, "click", 1)  # Meridian in the program room: selects
        x("key", "7")
        x("key", "Return")
        staged = seen(meridian)
        assert np.abs(staged[meridian] - first[meridian]).mean() > 30, "the preview shows the moon"
        assert np.abs(staged[program_room] - first[program_room]).mean() < 12, "program is untouched"
        x("mousemove", 68, 368, "click", 1)  # TAKE
        taken = seen(program_room)
        assert np.abs(taken[program_room] - first[program_room]).mean() > 30, "program shows the moon"
        x("key", "ctrl+q")
        time.sleep(1.0)
        x("key", "alt+c")
        x("key", "Tab")
        assert program.poll() is None, "a question comes before closing"
    finally:
        program.kill()
        program.wait(300)


@pytest.mark.screen
def test_an_output_fills_a_real_display_pixel_for_pixel(x_display: XScreen, tmp_path: Path, demo_file: Path) -> None:
    """A show whose relay is bound to the display: the screen itself shows exactly what `render` writes."""
    import json

    import cv2

    document = json.loads(demo_file.read_text())
    relay = next(o for o in document["outputs"] if o["id"] == "relay")
    relay["timing"].update(width=1280, height=800)
    relay["binding"] = {"kind": "display", "name": "screen"}
    document["sources"] = [
        {"kind": "pattern", "id": "grid", "name": "Grid", "pattern": "grid", "width": 1280, "height": 800}
    ]
    for canvas in document["canvases"]:
        for layer in canvas["layers"]:
            layer["settings"]["picture"]["source"] = None
    canvas = document["canvases"][3]
    canvas.update(height=800)
    canvas["layers"][0]["settings"]["picture"] = {"source": "grid", "fit": "1:1"}
    canvas["regions"][0].update(h=800, landing={"kind": "rect", "x": 0, "y": 0, "w": 1280, "h": 800})
    document.update(presets=[{"id": "one", "number": 1, "name": "One"}], opening=None)
    env = {**os.environ, "DISPLAY": x_display.name, "QT_QPA_PLATFORM": "xcb", "XDG_CONFIG_HOME": str(tmp_path)}
    name = subprocess.run(
        [
            sys.executable,
            "-c",
            "from PySide6.QtGui import QGuiApplication as G; a = G([]); print(G.screens()[0].name())",
        ],
        env=env,
        capture_output=True,
        text=True,
        timeout=300,
    ).stdout.strip()
    relay["binding"]["name"] = name or "Display 1"
    path = tmp_path / "show.adze"
    path.write_text(json.dumps(document))
    adze = [sys.executable, "-m", "ushering_adze"]
    subprocess.run([*adze, "render", str(path), "--preset", "1", "--out", str(tmp_path)], check=True, timeout=300)
    program = subprocess.Popen([*adze, "open", "--no-calendar", str(path)], env=env, stderr=subprocess.PIPE, text=True)
    code = (
        "import sys; from PySide6.QtGui import QGuiApplication; a = QGuiApplication([]); "
        "a.primaryScreen().grabWindow(0).save(sys.argv[1])"
    )
    try:
        found = ""
        for _ in range(60):
            time.sleep(0.3)
            assert program.poll() is None, program.stderr.read()
            found = subprocess.run(
                ["xdotool", "search", "--name", "7 Relay"], env=env, capture_output=True, text=True
            ).stdout.strip()
            if found:
                break
        sent = cv2.imread(str(tmp_path / "relay.png"))
        end = time.monotonic() + 300
        while (
            time.monotonic() < end
        ):  # with no window manager the desk may come up above it: both lie on the one display
            subprocess.run(["xdotool", "windowraise", found.splitlines()[-1]], env=env, check=True)
            time.sleep(0.5)
            subprocess.run([sys.executable, "-c", code, str(tmp_path / "screen.png")], env=env, check=True, timeout=300)
            screen = cv2.imread(str(tmp_path / "screen.png"))
            assert screen.shape == sent.shape == (800, 1280, 3)
            if (screen == sent).all():
                break
        assert (screen == sent).all()
    finally:
        program.kill()
        program.wait(300)
