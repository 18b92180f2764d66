"""The size of the interface: kept from start to start, and never a matter of what is sent."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ushering_adze.desk import text_size
from ushering_adze.desk.window import MainWindow

SENT = """
import os, sys
import numpy as np
from types import SimpleNamespace
from ushering_adze.core.show import Output, Timing
from ushering_adze.desk import text_size
from ushering_adze.desk.qt import application
from ushering_adze.desk.output_windows import OutputWindow, displays
text_size.lay_on()
app = application()
name, screen = next(iter(displays().items()))
ratio = screen.devicePixelRatio()
width, height = round(screen.geometry().width() * ratio), round(screen.geometry().height() * ratio)
frames = SimpleNamespace(handle=os.pipe()[0], newest=lambda: None, fault=None)
window = OutputWindow(Output(id="o", number=1, name="O", timing=Timing(width=width, height=height)), name, frames)
window.open()
while window.size() != screen.size():
    app.processEvents()
pixels = np.random.default_rng(1).integers(0, 256, (height, width, 4), np.uint8)
pixels[..., 3] = 255
window._newest = pixels
got = window.grab().toImage().convertToFormat(window.grab().toImage().Format.Format_RGB32)
seen = np.frombuffer(got.constBits(), np.uint8).reshape(got.height(), got.bytesPerLine() // 4, 4)[:, : got.width()]
print(ratio, width, height, seen.shape[1], seen.shape[0], np.abs(seen[..., :3].astype(int) - pixels[..., :3]).max())
"""


@pytest.mark.parametrize("size", [80, 90, 110, 125, 200])
def test_outputs_stay_one_pixel_to_one(size: int) -> None:
    run = subprocess.run(
        [sys.executable, "-c", SENT],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen", "QT_SCALE_FACTOR": str(size / 100)},
        capture_output=True,
        text=True,
    )
    ratio, width, height, across, down, apart = run.stdout.split()
    assert float(ratio) == pytest.approx(size / 100), run.stderr
    assert (across, down, apart) == (width, height, "0")


def test_it_goes_by_keys_from_80_to_200_and_is_laid_on_at_the_next_start(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    control = Qt.KeyboardModifier.ControlModifier
    monkeypatch.delenv("QT_SCALE_FACTOR", raising=False)
    text_size.lay_on()
    assert "QT_SCALE_FACTOR" not in os.environ
    qtbot.keyClick(window, Qt.Key.Key_Plus, control)
    assert "Text will be at 110 % when the desk is started again" in window.notice.text()
    for _ in range(5):
        qtbot.keyClick(window, Qt.Key.Key_Plus, control)
    assert window.notice.text() == "Text is at 200 %; there is no larger size."
    monkeypatch.setenv("QT_SCALE_FACTOR", "1.3")
    text_size.lay_on()
    assert os.environ["QT_SCALE_FACTOR"] == "1.3", "what the user's surroundings say stands"
    monkeypatch.delenv("QT_SCALE_FACTOR")
    text_size.lay_on()
    assert os.environ["QT_SCALE_FACTOR"] == "2"
    for _ in range(8):
        qtbot.keyClick(window, Qt.Key.Key_Minus, control)
    assert window.notice.text() == "Text is at 80 %; there is no smaller size."
    window.book.actions["text-usual"].trigger()
    assert text_size.text_size() == 100
