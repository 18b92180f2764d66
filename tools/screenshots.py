"""Make the pictures in docs/screenshots from the demo show: one of each main view.

Usage: python tools/screenshots.py [NAME ...]
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()  # what is edited for a picture is nobody's work

from PySide6.QtCore import QSettings

from ushering_adze.core.light.lining_up import Look
from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.mapping.regions import placed
from ushering_adze.core.onair.actions import Go, Recall, Route, SendFeed, StagePreset
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Feed, Input, Still, Watch
from ushering_adze.core.show.walling import with_cell
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk.qt import application, settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.srt import free_port

FEED: list[subprocess.Popen[bytes]] = []
FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


def run(window: MainWindow) -> None:
    """Keynote on program, Moon reveal staged."""
    window.show_workspace("Run")
    window.session.playout.act(StagePreset(preset=7))


def players(window: MainWindow) -> None:
    """Countdown on program, Closing armed, and the players in place of what the next take changes."""
    window.show_workspace("Run")
    window.session.playout.act(Recall(preset=2, seconds=0))
    window.session.playout.act(StagePreset(preset=8))
    window.run.show_players()
    settle(2500)


def map_(window: MainWindow) -> None:
    """Meridian selected on the House canvas."""
    window.show_workspace("Map")
    window.session.select_region("meridian")


def map_check(window: MainWindow) -> None:
    """East mast shifted by a pixel: what the pixel check says of it."""
    window.show_workspace("Map")
    session = window.session
    session.edit(
        "Shift", placed(session.show, {"east-mast": Rect(3855, 636, 256, 768), "meridian": Rect(1096, 1081, 1824, 959)})
    )
    window.map.show_side(1)
    settle(300)
    session.look_at(next(f for f in session.findings if f.rule == "part-cabinet"))
    window.map.toggle_loupe()
    session.point_at("house", 2890, 1968)


def rig(window: MainWindow) -> None:
    """Meridian selected: its runs, what it comes to, the lines to it."""
    window.show_workspace("Rig")
    window.session.select_surface("meridian")


def rig_live(window: MainWindow) -> None:
    """A camera over the network beside what was declared of it, and the relay sent."""
    camera, far = (f"udp://127.0.0.1:{free_port()}" for _ in range(2))
    command = [sys.executable, "-m", "ushering_adze", "standin", "camera", "--to", camera, "--with-input"]
    FEED.append(subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL))
    session = window.session
    stage = Input(
        id="stage-camera", name="Stage camera", address=camera, rate=25, encoding="420", watch=Watch(missing=3)
    )
    end = Input(id="far-end", name="Relay, far end", address=far, width=1280, height=720, rate=30, encoding="420")
    relay = Feed(id="relay-feed", name="Relay", shows="surface", of="relay", to=far, on=True, heard_by="far-end")
    show = session.show.model_copy(update={"sources": (*session.show.sources, stage, end), "feeds": (relay,)})
    session.edit("Camera and relay", show)
    session.playout.act(SendFeed(feed="relay-feed"))
    window.show_workspace("Rig")
    session.select_source("stage-camera")
    settle(6000)


def align(window: MainWindow) -> None:
    """A grid on the projectors as they hang."""
    window.show_workspace("Align")
    settle(1500)
    window.align.show_pattern(PatternShown("grid", "screen", Look(120, 3)))


def aligned(window: MainWindow) -> None:
    """The same after alignment by camera, with its residual."""
    align(window)
    window.align.auto()
    while window.align.camera.running is not None:
        settle(300)
    settle(3000)


def seen_as_sent(window: MainWindow) -> None:
    """Wait until the stand-in is seen as it is; while it moves it never quite is."""
    for _ in range(100):
        if window.align.simulation.age < 0.3:
            return
        settle(100)


def calm(session: Session) -> None:
    """Wait until frames that were late while the view was prepared are no longer news, half a minute at most."""
    for _ in range(120):
        if session.report is not None and not session.report.late_lately:
            return
        settle(250)


def align_white(window: MainWindow) -> None:
    """White through the blend: the light profile."""
    aligned(window)
    window.align.screen_view.errors = None
    window.align.show_pattern(PatternShown("white", "canvas"))


def align_batches(window: MainWindow) -> None:
    """An LED wall of two deliveries before they are matched, the second one named."""
    window.show_workspace("Align")
    window.session.select_surface("meridian")
    settle(1500)
    a = window.align
    a.show_pattern(PatternShown("grey", "canvas"))
    a.raster.choose_cells(frozenset((c, r) for c in (8, 9, 10) for r in range(1, 6)))
    a.batches.make()
    assert a.batches.prompt is not None
    a.batches.prompt.fields[0].setText("Second delivery")  # type: ignore[union-attr]
    a.batches.prompt.enter()


def build(window: MainWindow) -> None:
    """Interview on preview, its inset framed and tilted, about to be stored."""
    window.show_workspace("Build")
    workspace, session = window.build, window.session
    session.playout.act(StagePreset(preset=6))
    settle(600)
    workspace.building.select(("inset",))
    workspace.finishes.lay("framed")
    workspace.finishes.lay("tilted")


def build_scope(window: MainWindow) -> None:
    """What is stored of it: the scope grid."""
    build(window)
    settle(800)
    workspace = window.build
    workspace.store()
    assert workspace.sheet is not None
    workspace.sheet.name.setText("Interview, framed")  # type: ignore[attr-defined]


def build_table(window: MainWindow) -> None:
    """Presets as a table, the moon wiped in."""
    build(window)
    window.build.table.put([7], "transition", "wipe picture of moon-phases soft 0.2")
    window.build.table.put([4], "transition", "wipe 0° soft 0.15")
    window.build.table_button.click()
    settle(300)


def build_zones(window: MainWindow) -> None:
    """The orrery across masts and Horizon by millimetres, in the room, its zone's surfaces selected."""
    window.show_workspace("Build")
    workspace = window.build
    window.session.playout.act(StagePreset(preset=29))
    settle(600)
    workspace.show_library(1)
    workspace.zones.choose("arch")
    workspace.building.select(("sky",))


def cues(window: MainWindow) -> None:
    """Interview fired, the moon armed."""
    window.show_workspace("Run")
    window.run.show_below(1)
    window.session.playout.act(Go(list="evening", cue="cue-6"))
    settle(600)


def plan(window: MainWindow) -> None:
    """The plan of the evening, all its pictures made."""
    cues(window)
    window.run.show_plan()
    end = time.monotonic() + 60
    while time.monotonic() < end and len(window.session.report.plan) < len(window.run.plan.grid.plan.cues):
        settle(200)


def timeline(window: MainWindow) -> None:
    """The evening along time, the hand at the interview."""
    plan(window)
    window.run.plan.along.click()
    settle(600)
    view = window.run.plan.time
    view.scrub(4000.0)


def calendar(window: MainWindow) -> None:
    """A week of the foyer in November, in the middle of a school's visit."""
    moment = datetime(2026, 11, 5, 11, 20, tzinfo=UTC).timestamp()
    page = window.run.calendar
    window.session.playout.run_calendar(Path(tempfile.mkdtemp()), lambda: moment, "UTC")
    window.show_workspace("Run")
    page.go_by(lambda: moment, "UTC")
    window.run.show_calendar()
    settle(1200)
    page.choose(page.block("foyer-opens"))


def watch(window: MainWindow) -> None:
    """The wall of the demo, the moon staged; the lectern's picture is lost, and that is an alarm."""
    session = window.session
    session.playout.act(StagePreset(preset=7))
    lost = Still(id="sheet", name="Running order", path=str(DEMO_ROOT / "media" / "running-order.png"))
    session.edit("Source", session.show.model_copy(update={"sources": (*session.show.sources, lost)}))
    session.playout.act(Route(surface="lectern", source="sheet", on="program"))
    window.show_workspace("Watch")
    show = with_cell(session.show, "front-of-house", 4, scope="waveform")
    session.edit("Scope", with_cell(show, "front-of-house", 0, marks=True, frame="4:3", meters="beside"))
    window.watch.view.selected = 4
    window.watch.view.chosen.emit(4)
    settle_until(lambda: bool(session.report.troubles))
    settle(5000)
    settle_until(lambda: not session.report.late_lately)


def sound(window: MainWindow) -> None:
    """Mixes of the interview, the orrery listened to."""
    window.session.playout.act(Recall(preset=6, seconds=0))
    window.show_workspace("Watch")
    window.watch.turn_to(1)
    settle(9000)
    window.watch.sound.listen("orrery")
    window.watch.sound.choose("hall")


VIEWS: dict[str, tuple[Callable[[MainWindow], None], int]] = {
    "run": (run, 1800),
    "run-players": (players, 300),
    "map": (map_, 1200),
    "map-check": (map_check, 1200),
    "align": (align, 2500),
    "align-white": (align_white, 2500),
    "align-batches": (align_batches, 2500),
    "rig": (rig, 1200),
    "rig-live": (rig_live, 1500),
    "build": (build, 1500),
    "build-scope": (build_scope, 800),
    "build-table": (build_table, 900),
    "build-zones": (build_zones, 1500),
    "run-cues": (cues, 2500),
    "run-plan": (plan, 1000),
    "watch": (watch, 1500),
    "watch-sound": (sound, 1500),
    "run-timeline": (timeline, 1200),
    "run-calendar": (calendar, 800),
}


def settle_until(done: Callable[[], bool]) -> None:
    """Let the desk go on until something is so, for a minute at most."""
    for _ in range(300):
        if done():
            return
        settle(200)


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
            session.playout.start(wait=10)
            window.show()
            settle(5500)  # what was late while the window came up is no longer news
            if window.workspace in ("Run", "Build"):
                session.playout.forecast()
            prepare(window)
            settle(wait)
            if window.workspace in ("Run", "Build"):  # every card has its picture, and what its preset will want
                settle_until(lambda session=session: len(session.report.forecasts) == len(session.show.presets))
            if window.workspace == "Align":
                seen_as_sent(window)
            calm(session)
            window.grab().save(str(FOLDER / f"{name}.png"))
            session.playout.stop()
            print(FOLDER / f"{name}.png")
            while FEED:
                FEED.pop().kill()
    os._exit(0)


main()
