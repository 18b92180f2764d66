"""Rows of the benchmark about what is built: layers dressed, wiped and spread, and one dragged on preview."""

from __future__ import annotations

from ushering_adze.bench.playing import frame_of
from ushering_adze.bench.window import told
from ushering_adze.core.kinds.keying import LumaKey
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.kinds.shape import Shape
from ushering_adze.core.kinds.spread import Spread
from ushering_adze.core.show import Layer, LayerSettings, Part, Picture, Place, Preset, Show, part_of, with_held
from ushering_adze.core.show.edits import changed, with_canvas
from ushering_adze.core.show.way import Way
from ushering_adze.demo.show import demo_show

CLIPS = ("aisle-camera", "moon-phases", "orrery")
NUMBER = 99


def _with(show: Show, *parts: Part, way: Way | None = None, seconds: float = 1.0) -> Show:
    """The show with a preset of these parts."""
    preset = Preset(id="bench", number=NUMBER, name="Bench", parts=parts, way=way, seconds=seconds)
    return changed(show, presets=(*show.presets, preset))


def dressed_layers(rounds: int) -> dict[str, float]:
    """Six layers with rounded corners, a shadow and a key each, over the House, clips moving; baseline: the frame's
    time."""
    show = demo_show()
    house = show.canvas("house")
    layers, parts = [], []
    for n in range(6):
        place = Place(x=300 + 600 * (n % 3), y=1120 + 440 * (n // 3), w=560, h=380, unit="px")
        if n < 2:
            place = Place(x=600 + 1500 * n, y=200, w=1200, h=700, unit="px")
        settings = LayerSettings(
            picture=Picture(source=CLIPS[n % len(CLIPS)]),
            place=place,
            shape=Shape(radius=28),
            shadow=Shadow(x=14, y=18, blur=40, opacity=0.7),
            key=LumaKey(low=0.04, high=1.0, soft=0.06),
        )
        layers.append(Layer(id=f"bench-{n}", name=f"Bench {n}"))
        parts.append(part_of("house", f"bench-{n}", settings))
    show = with_canvas(show, changed(house, layers=(*house.layers, *layers)))
    return frame_of(_with(show, *parts), NUMBER, rounds, ahead=True)


def wide_wipe(rounds: int) -> dict[str, float]:
    """One wide clip wiped into another over the whole screen, both moving; baseline: the frame's time."""
    part = with_held(Part(canvas="house", layer="sky"), "picture", Picture(source="orrery"), "faded")
    show = _with(demo_show(), part, way=Way(kind="wipe", angle=20, soft=0.2), seconds=3.0)
    return frame_of(show, NUMBER, rounds, ahead=True)


def spread_over_five(rounds: int) -> dict[str, float]:
    """A clip across five surfaces by the millimetres of the room; baseline: the frame's time."""
    show = demo_show()
    mast = show.surface("west-mast")
    place = mast.place
    assert place is not None
    fifth = changed(mast, id="fifth", name="Fifth", place=changed(place, x_mm=12500.0), rows=4)
    house = show.canvas("house")
    west = next(r for r in house.regions if r.id == "west-mast")
    landing = changed(west.landing, x=512, h=512)
    region = changed(west, id="fifth", name="Fifth", x=0, y=1500, h=512, surface="fifth", landing=landing)
    show = with_canvas(show, changed(house, regions=(*house.regions, region)))
    zone = changed(show.zones[1], holds=("arch", "meridian", "fifth"))
    show = changed(show, surfaces=(*show.surfaces, fifth), zones=(show.zones[0], zone, *show.zones[2:]))
    part = with_held(Part(canvas="house", layer="sky"), "picture", Picture(source="orrery"))
    part = with_held(part, "spread", Spread(over="across", zone=zone.id, by="mm"))
    off = [with_held(Part(canvas="house", layer=layer), "opacity", 0.0) for layer in ("wall", "west", "east", "inset")]
    return frame_of(_with(show, part, *off), NUMBER, rounds, ahead=True)


DRAG = """
import gc; gc.disable()
import os, sys, time
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from ushering_adze.core.onair.actions import Recall
from ushering_adze.desk.app import BEHIND, beside, opened
from ushering_adze.desk.qt import settle
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.io.priority import give_way
window = opened(demo_show(), None, DEMO_ROOT, beside())
give_way(BEHIND)
settle(5000)
window.show_workspace("Build")
playout, canvas = window.session.playout, window.build.canvas
playout.act(Recall(preset=6, seconds=0))
settle(2500)
def share(frames, late):
    return (playout.late - late) / (playout.mark[0] - frames)
since = playout.mark[0], playout.late
settle(int(sys.argv[1]) * 1000)
still = share(*since)
start = canvas.box_of(canvas.states()["inset"].place).center().toPoint()
since = playout.mark[0], playout.late
QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
began, spent, n = time.perf_counter(), time.thread_time(), 0
while time.perf_counter() - began < int(sys.argv[1]):
    n += 1
    QTest.mouseMove(canvas, start + QPoint(n % 60 - 30, n % 40 - 20))
    settle(16)
QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=start)
assert window.session.playout.stage.edits
spent = (time.thread_time() - spent) / n
print(spent * 1e3, share(*since), still, flush=True)
os._exit(0)
"""


def drag_on_preview(seconds: int) -> dict[str, float]:
    """A layer dragged on preview, sixty steps a second, while program plays clips; baseline: one frame late in a
    thousand.  ``still_share`` tells how many are late for as long before it, with nothing dragged."""
    milliseconds, late, still = (float(word) for word in told(DRAG, str(seconds))[-3:])
    return {
        "ours_ms": milliseconds,
        "baseline_ms": 1e3 / 60,
        "ratio": late / 0.001,
        "late_share": late,
        "still_share": still,
    }
