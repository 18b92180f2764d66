"""Rows of the benchmark about the window: each is measured off screen, in a process of its own."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time


def told(code: str, *arguments: str) -> list[str]:
    """Run code off screen in a process of its own; what it printed, by words."""
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    env["QT_QPA_PLATFORM"] = "offscreen"
    done = subprocess.run(
        [sys.executable, "-c", code, *arguments], env=env, timeout=120, check=True, capture_output=True, text=True
    )
    return done.stdout.split()


def start_window(rounds: int) -> dict[str, float]:
    """From the start of the process to a window that has shown its first live pictures, off screen; baseline: two
    seconds.  As at every start but the very first, at which Python keeps what it has compiled.
    """
    code = (
        "import gc; gc.disable(); import os; from ushering_adze.cli.early import begin, begun; begin([]); "
        "import ushering_adze.cli.opening; from ushering_adze.desk.app import beside, opened; "
        "from ushering_adze.desk.qt import application; from ushering_adze.demo.show import DEMO_ROOT, demo_show; "
        "app = application(); w = opened(demo_show(), None, DEMO_ROOT, beside(begun())); "
        "w.session.reported.connect(lambda r: os._exit(0) if len(r.program) == 7 and "
        "all(p[..., :3].max() > 60 for p in r.program.values()) else None); app.exec()"
    )
    spent = []
    for n in range(rounds + 1):
        began = time.perf_counter()
        told(code)
        if n == 0:
            continue
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 2e3, "ratio": ms / 2e3}


DRAG = """
import os, statistics, time
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from ushering_adze.bench.large import large_show
from ushering_adze.desk.qt import application, settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.demo.show import DEMO_ROOT
app = application()
session = Session(large_show(), None, DEMO_ROOT)
window = MainWindow(session)
window.resize(1280, 800)
window.show()
window.show_workspace("Map")
window.map.show_as("plain")
settle(300)
view = window.map.canvas
region = next(r for _, r in session.show.regions() if r.id == "r555")
start = view.pixels(region.x, region.y, region.w, region.h).center().toPoint()
QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
spent = []
for n in range(60):
    began = time.perf_counter()
    QTest.mouseMove(view, start + QPoint(n % 20 - 10, n % 7))
    view._apply()
    app.processEvents()
    spent.append(time.perf_counter() - began)
assert next(r for _, r in session.show.regions() if r.id == "r555") != region
print(statistics.median(spent[5:]) * 1e3, flush=True)
os._exit(0)
"""


def drag_window(rounds: int) -> dict[str, float]:
    """A step of dragging one of a thousand regions in the real window, off screen, painted and listed anew; baseline:
    one sixtieth of a second."""
    found = [float(told(DRAG)[-1]) for _ in range(rounds)]
    ms = statistics.median(found)
    return {"ours_ms": ms, "baseline_ms": 1e3 / 60, "ratio": ms / (1e3 / 60)}


DESK = """
import gc; gc.disable()
import os, sys, time
from ushering_adze.core.onair.actions import StagePreset
from ushering_adze.desk.app import BEHIND, beside, opened
from ushering_adze.desk.qt import settle
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.io.priority import give_way
window = opened(demo_show(), None, DEMO_ROOT, beside())
give_way(BEHIND)
settle(5000)
playout = window.session.playout
playout.act(StagePreset(preset=7))
settle(1500)
began, spent, frames, late = time.perf_counter(), time.thread_time(), playout.mark[0], playout.late
settle(int(sys.argv[1]) * 1000)
passed, spent = time.perf_counter() - began, time.thread_time() - spent
print(spent / passed, (playout.late - late) / (playout.mark[0] - frames), flush=True)
os._exit(0)
"""


def desk_share(seconds: int) -> dict[str, float]:
    """Processor time of the interface's thread while Run shows the demo with a preset staged, per frame at 30/s;
    baseline: a fifth of a frame's time, as the frames need the rest."""
    words = told(DESK, str(seconds))
    share, late = float(words[-2]), float(words[-1])
    return {"ours_ms": share * 1e3 / 30, "baseline_ms": 1e3 / 30 / 5, "ratio": share * 5, "late_share": late}
