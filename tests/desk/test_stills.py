"""A still is kept of what is shown now, in the real window: named, in the show's folder, on the shelf, and
one step for undo.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.actions import Hold, Recall
from ushering_adze.core.plane.pixels import straight
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.media.still import read_still
from ushering_adze.io.outputs.png import write_png
from ushering_adze.io.showfile import read_show

SHIFT = Qt.KeyboardModifier.ShiftModifier


def test_what_a_surface_and_a_source_show_is_kept_as_stills(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    session, said = window.session, list[str]()
    session.trouble.connect(said.append)
    window.show_workspace("Run")
    QTest.keyClick(window, Qt.Key.Key_S, SHIFT)
    assert said[-1].startswith("Save the show first")
    assert session.save(tmp_path / "evening.adze")
    session.playout.act(Recall(preset=5, seconds=0))
    qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Slides",))  # type: ignore[union-attr]
    session.playout.act(Hold())
    qtbot.waitUntil(lambda: session.playout.covered == "held")
    before = len(session.show.sources)
    session.select_surface("meridian")
    QTest.keyClick(window, Qt.Key.Key_S, SHIFT)
    still = session.show.sources[-1]
    assert (
        len(session.show.sources) == before + 1 and still.name.startswith("Meridian ") and "kept in stills" in said[-1]
    )
    raster = session.playout.raster("processor-a")
    assert raster is not None
    assert np.array_equal(cv2.imread(still.path), raster[:960, :1920, :3]), "at full size, as it was sent"  # type: ignore[union-attr]
    session.select_source("hold-card")
    QTest.keyClick(window, Qt.Key.Key_S, SHIFT)
    assert session.show.sources[-1].name.startswith("Hold card ") and len(session.show.sources) == before + 2
    assert Path(session.show.sources[-1].path).parent == tmp_path / "stills"  # type: ignore[union-attr]
    assert session.save() and read_show(tmp_path / "evening.adze") == session.show
    assert '"stills/' in (tmp_path / "evening.adze").read_text()
    session.undo()
    assert len(session.show.sources) == before + 1
    session._select(None, None)
    QTest.keyClick(window, Qt.Key.Key_S, SHIFT)
    assert said[-1].startswith("Nothing is selected")


def test_what_is_seen_through_is_kept_so(tmp_path: Path) -> None:
    rng = np.random.default_rng(5)
    pixels = rng.integers(0, 256, (40, 60, 4), dtype=np.uint8)
    pixels[..., 3] = rng.choice([0, 90, 255], (40, 60))
    pixels[..., :3] = (pixels[..., :3].astype(int) * pixels[..., 3:] // 255).astype(np.uint8)
    path = tmp_path / "a.png"
    write_png(straight(pixels), path, alpha=True)
    again = read_still(path)
    read = again[0] if isinstance(again, tuple) else again
    assert np.abs(np.asarray(read).astype(int) - pixels).max() <= 1
