"""The real window on the demo show, with its engine running."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from pathlib import Path

import pytest
from displays import Displays
from driven import Driven
from hands import Hands, gone, in_map
from hands_in_build import on_air
from PySide6.QtWidgets import QApplication

from ushering_adze.core.onair.actions import Recall
from ushering_adze.core.show import Canvas, Output, Show, Timing
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk import theme
from ushering_adze.desk.build.workspace import BuildWorkspace
from ushering_adze.desk.qt import application
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from x_screen import XScreen


def styled() -> QApplication:
    """The application with its look, laid on once: laying it on again would restyle every widget that still lives."""
    app = application()
    if not app.styleSheet():
        theme.apply(app)
        app.setStyleSheet(theme.STYLE)
    return app


@pytest.fixture
def window(qtbot: object) -> Iterator[MainWindow]:
    styled()
    gc.collect()  # the rasters of the window before are worth it
    session = Session(demo_show(), None, DEMO_ROOT)
    main = MainWindow(session)
    session.playout.start(wait=60)
    main.show()
    qtbot.waitUntil(
        lambda: (
            session.report is not None
            and len(session.report.program) == 7
            and all(p[..., :3].max() > 60 for p in session.report.program.values())
        )
    )
    yield main
    main.outputs.close()
    session.playout.stop()
    session.blockSignals(True)
    main.deleteLater()
    qtbot.wait(30)


@pytest.fixture
def align(window: MainWindow, qtbot: object) -> Iterator[MainWindow]:
    """The same in Align, once its stand-in screen has been seen."""
    window.resize(1280, 800)
    window.show_workspace("Align")
    qtbot.waitUntil(lambda: window.align.simulation.now is not None)
    window.align.raster.grab()
    yield window
    window.align.close_all()
    window.map.close_all()


@pytest.fixture
def driven(x_display: XScreen, tmp_path: Path) -> Iterator[Driven]:
    """The program on a virtual screen."""
    made = Driven(x_display, tmp_path)
    yield made
    made.close()


@pytest.fixture(scope="module")
def app() -> QApplication:
    return styled()


@pytest.fixture
def session(app: QApplication) -> Iterator[Session]:
    """A session whose engine is not running: reports are given by the test."""
    session = Session(demo_show(), None, DEMO_ROOT)
    yield session
    session.blockSignals(True)
    session.playout.stop()


@pytest.fixture
def hands(session: Session, qtbot: object) -> Iterator[Hands]:
    window, made = in_map(session, qtbot)
    yield made
    gone(window)


@pytest.fixture
def bare(app: object, qtbot: object) -> Iterator[Hands]:
    """An empty canvas and three processors: where a technician begins who is sent a pixel map picture."""
    outputs = tuple(
        Output(id=f"p{n}", number=n, name=f"Processor {n}", timing=Timing(width=w, height=h, rate=60))
        for n, w, h in ((1, 1920, 1080), (2, 3840, 1080), (3, 1024, 768))
    )
    canvas = Canvas(id="main", name="Main", width=3840, height=1200)
    session = Session(Show(name="From a picture", canvases=(canvas,), outputs=outputs), None, DEMO_ROOT)
    window, made = in_map(session, qtbot)
    yield made
    session.blockSignals(True)
    session.playout.stop()
    gone(window)


@pytest.fixture
def x_displays(tmp_path: Path) -> Iterator[Displays]:
    """Two displays of a real X server, with a window manager."""
    made = Displays(tmp_path)
    yield made
    made.close()


@pytest.fixture
def build(window: MainWindow, qtbot: object) -> BuildWorkspace:
    window.resize(1280, 800)
    window.show_workspace("Build")
    window.session.playout.act(Recall(preset=90, seconds=0))
    qtbot.waitUntil(lambda: not on_air(window))
    window.build.canvas.grab()
    return window.build
