"""Windows of outputs: they never take the keyboard, close only on purpose, and are on their displays however these come
and go.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from displays import Displays
from PySide6.QtCore import Qt

from ushering_adze.core.show import DisplayBinding, FilesBinding, WindowBinding
from ushering_adze.demo.show import copy_demo
from ushering_adze.desk.output_windows import displays
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.showfile import read_show
from waiting import wait_for


def test_an_output_takes_no_keyboard_and_hands_keys_of_the_show_to_the_desk(window: MainWindow, qtbot: Any) -> None:
    window.outputs.bind("relay", WindowBinding())
    output = window.outputs.windows["relay"]
    assert output.windowFlags() & Qt.WindowType.WindowDoesNotAcceptFocus and output.testAttribute(
        Qt.WidgetAttribute.WA_ShowWithoutActivating
    )
    engine = window.session.playout
    for key in (Qt.Key.Key_7, Qt.Key.Key_Return):
        qtbot.keyClick(output, key)
    qtbot.waitUntil(lambda: engine.stage.staged == 7)
    qtbot.keyClick(output, Qt.Key.Key_X)
    qtbot.waitUntil(lambda: engine.stage.on_program == 7)
    qtbot.keyClick(output, Qt.Key.Key_Escape)
    assert output.isVisible() and window.session.show.output("relay").binding is not None
    qtbot.keyPress(output, Qt.Key.Key_B)
    qtbot.waitUntil(lambda: engine.covered == "black")
    qtbot.keyRelease(output, Qt.Key.Key_B)
    assert not window.sill.black.pressed


def test_a_display_that_is_gone_is_a_fault_until_it_is_back(
    window: MainWindow, qtbot: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    outputs, said = window.outputs, list[str]()
    window.session.trouble.connect(said.append)
    there = displays()
    ((name, screen),) = there.items()
    outputs.bind("relay", DisplayBinding(name=name))
    outputs.bind("processor-a", DisplayBinding(name=name))
    assert any("both on display" in s and "bind the other elsewhere" in s for s in said)
    monkeypatch.setattr("ushering_adze.desk.output_windows.displays", dict)
    outputs._gone(screen)
    assert not outputs.windows["relay"].isVisible()
    outputs.refit()
    assert window.session.playout.faults()["relay"] == f"display {name} is gone"
    qtbot.waitUntil(lambda: window.sill.tiles[-1].state() and window.session.report.surfaces["relay"].state == "lost")
    monkeypatch.setattr("ushering_adze.desk.output_windows.displays", lambda: there)
    outputs.refit()
    assert (
        outputs.windows["relay"].isVisible()
        and outputs.windows["relay"].isFullScreen()
        and "relay" not in window.session.playout.faults()
    )
    assert any("is gone: 7 Relay waits for it" in s for s in said) and any(
        "is there again, and 7 Relay on it" in s for s in said
    )


def test_files_leave_the_shows_folder_only_if_somebody_here_agrees(
    window: MainWindow, qtbot: Any, tmp_path: Path
) -> None:
    session, said = window.session, list[str]()
    session.trouble.connect(said.append)
    session.root = tmp_path / "show"
    (tmp_path / "show").mkdir()
    (tmp_path / "show" / "link").symlink_to(tmp_path / "away")
    for folder in (str(tmp_path / "away"), "../away", "link"):
        window.outputs.bind("relay", FilesBinding(folder=folder))
        assert "outside the show's folder" in said[-1] and not (tmp_path / "away").exists(), folder
    window.book.actions["allow-folders"].trigger()
    assert said[-1] == f"PNG files may go to {tmp_path / 'away'}."
    qtbot.waitUntil(lambda: (tmp_path / "away" / "relay.png").exists())
    window.outputs.bind("relay", None)
    window.book.actions["allow-folders"].trigger()
    assert "not allowed yet" in said[-1]


@pytest.fixture
def bound_show(tmp_path: Path) -> Path:
    """The demo, its relay on the second display."""
    path = copy_demo(tmp_path / "demo")
    document = json.loads(path.read_text())
    next(o for o in document["outputs"] if o["id"] == "relay")["binding"] = {"kind": "display", "name": "DUMMY1"}
    path.write_text(json.dumps(document))
    return path


@pytest.mark.screen
def test_on_real_displays_typing_goes_on_in_the_desk_and_outputs_follow_their_displays(
    x_displays: Displays, bound_show: Path
) -> None:
    """An evening in short: keys while an output is full screen, then its display changes, is pulled out, and comes
    back.
    """
    x = x_displays
    program = subprocess.Popen(
        [sys.executable, "-m", "ushering_adze", "open", "--no-calendar", str(bound_show)],
        env=x.env,
        stderr=subprocess.PIPE,
        text=True,
    )
    try:
        assert wait_for(lambda: x.window("Centenary Night")), "no window came up"
        assert wait_for(lambda: x.place("7 Relay") == (1280, 0, 1280, 720)), x.place("7 Relay")
        desk = x.window("Centenary Night")
        assert wait_for(lambda: "Centenary Night" in x.focused()), "opening it left the keyboard with the desk"
        x.run("xdotool", "mousemove", 1900, 300, "click", 1)  # on the output's own picture
        assert "Centenary Night" in x.focused(), "a click there takes no keyboard"
        x.run("xdotool", "key", "Escape")
        x.run("xdotool", "key", "--window", x.window("7 Relay"), "Escape")
        x.run("xdotool", "key", "7")
        x.run("xdotool", "key", "Return")
        x.run("xdotool", "key", "x")
        assert x.place("7 Relay") == (1280, 0, 1280, 720) and program.poll() is None, "Esc does no harm"
        x.run("xdotool", "key", "ctrl+s")
        assert wait_for(lambda: read_show(bound_show).output("relay").binding is not None)

        x.plug("DUMMY1", "960x540", "1280x0")
        assert wait_for(lambda: x.place("7 Relay") == (1280, 0, 960, 540)), x.place("7 Relay")
        x.plug("DUMMY1", "960x540", "1280x260")
        assert wait_for(lambda: x.place("7 Relay") == (1280, 260, 960, 540)), x.place("7 Relay")
        x.pull("DUMMY1")
        assert wait_for(lambda: x.place("7 Relay") is None), "it does not fall upon the desk"
        assert x.window("Centenary Night") == desk and program.poll() is None
        x.plug("DUMMY1", "1280x720", "1280x0")
        assert wait_for(lambda: x.place("7 Relay") == (1280, 0, 1280, 720)), x.place("7 Relay")
        assert "Centenary Night" in x.focused()
    finally:
        program.kill()
        program.wait(300)
