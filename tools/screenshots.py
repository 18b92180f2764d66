"""Make the pictures in docs/screenshots from the demo show: one of each main view.

Usage: python tools/screenshots.py [NAME ...]
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QSettings

from ushering_adze.desk.app import application, settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.demo import DEMO_ROOT, demo_show

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


def run(window: MainWindow) -> None:
    """Keynote on program, Moon reveal staged."""
    window.show_workspace("Run")
    window.session.engine.stage_preset(7)


def fading(window: MainWindow) -> None:
    """Half-way into Moon reveal."""
    window.show_workspace("Run")
    window.session.engine.recall(7)
    settle(1000)


def map_(window: MainWindow) -> None:
    """Meridian selected on the House canvas."""
    window.show_workspace("Map")
    window.session.select_region("meridian")


def rig(window: MainWindow) -> None:
    """Meridian selected: its runs, what it comes to, the lines to it."""
    window.show_workspace("Rig")
    window.session.select_surface("meridian")


def rig_projection(window: MainWindow) -> None:
    """Horizon selected: the throw and the overlap."""
    window.show_workspace("Rig")
    window.session.select_surface("horizon")


def rig_tables(window: MainWindow) -> None:
    """The table of outputs."""
    window.show_workspace("Rig")
    window.session.select_output("processor-a")
    window.rig.show_tables(True)
    window.rig.tables.show_table("outputs")


def finder(window: MainWindow) -> None:
    """The command finder."""
    window.show_workspace("Run")
    window.finder.open()
    window.finder.field.setText("run")


def keys(window: MainWindow) -> None:
    """The key sheet."""
    window.show_workspace("Run")
    window.sheet.open("Run")


VIEWS: dict[str, tuple[Callable[[MainWindow], None], int]] = {
    "run": (run, 1800), "run-fading": (fading, 60), "map": (map_, 1200), "rig": (rig, 1200),
    "rig-projection": (rig_projection, 1200), "rig-tables": (rig_tables, 900), "finder": (finder, 600), "keys": (keys, 600)}


def main() -> None:
    """Make the named views, or all."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as settings:
        QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, settings)
        application()
        for name in sys.argv[1:] or VIEWS:
            prepare, wait = VIEWS[name]
            session = Session(demo_show(), None, DEMO_ROOT)
            window = MainWindow(session)
            window.resize(1280, 800)
            session.engine.start(wait=10)
            window.show()
            settle(5500)  # what was late while the window came up is no longer news
            prepare(window)
            settle(wait)
            window.grab().save(str(FOLDER / f"{name}.png"))
            session.engine.stop()
            print(FOLDER / f"{name}.png")
    os._exit(0)


main()
