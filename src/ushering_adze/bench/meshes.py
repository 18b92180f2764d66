"""Rows of the benchmark about bends: the show they are measured on, and a mesh point that moves."""

from __future__ import annotations

import statistics
import threading
import time
from typing import Any

import numpy as np

from ushering_adze.core.mapping.bend import as_mesh, moved_points
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Canvas, Output, Projection, Projector, QuadLanding, Region, Show, Timing
from ushering_adze.core.show.edits import with_region
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.renderer import Renderer

WIDE, HIGH = 1920, 1080


def noise(width: int, height: int) -> Pixels:
    picture = np.random.default_rng(1).integers(0, 256, (height, width, 4), dtype=np.uint8)
    picture[..., 3] = 255
    return picture


def warped_show() -> tuple[Show, Any, Pixels]:
    left = Region(
        id="left",
        name="Left",
        x=0,
        y=0,
        w=WIDE,
        h=HIGH,
        output="a",
        surface="screen",
        projector="p",
        landing=QuadLanding(corners=((14.0, 9.5), (1902.0, 3.0), (1911.0, 1075.0), (6.0, 1068.0))),
    )
    right = Region(
        id="right",
        name="Right",
        x=1680,
        y=0,
        w=WIDE,
        h=HIGH,
        output="b",
        surface="screen",
        projector="q",
        landing=QuadLanding(corners=((4.0, 5.0), (1912.0, 12.0), (1903.0, 1070.0), (9.0, 1077.0))),
    )
    timing = Timing(width=WIDE, height=HIGH)
    show = Show(
        name="Bench",
        canvases=(Canvas(id="c", name="C", width=3600, height=HIGH, regions=(left, right)),),
        outputs=(Output(id="a", number=1, name="A", timing=timing), Output(id="b", number=2, name="B", timing=timing)),
        surfaces=(
            Projection(
                id="screen",
                name="Screen",
                width_mm=9000,
                height_mm=2700,
                overlap_px=240,
                projectors=(
                    Projector(id="p", name="P", width=WIDE, height=HIGH),
                    Projector(id="q", name="Q", width=WIDE, height=HIGH),
                ),
            ),
        ),
    )
    return show, compile_output(show, show.output("a")), noise(3600, HIGH)


def mesh_point(rounds: int) -> dict[str, float]:
    """From an edit that moves one point of a 9 × 7 mesh to the 1080p raster that shows it, as while it is dragged:
    quickly, its weights up to three pixels late; baseline: one frame at 30/s."""
    show, _, _ = warped_show()
    for id in ("left", "right"):
        show = with_region(show, as_mesh(show.homes[id][1], 9, 7))
    renderer = Renderer(show)
    spent = []
    for n in range(rounds):
        region = show.homes["left"][1]
        began = time.perf_counter()
        show = with_region(show, moved_points(region, {31}, 1.5 if n % 2 else -1.5, 0.5))
        renderer.adopt(show, renderer.prepared(show, quick=True))
        renderer.draw({}, {})
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent[2:]) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1e3 / 30, "ratio": ms / (1e3 / 30)}


def mesh_on_air(rounds: int) -> dict[str, float]:
    """The same in the running engine, from the edit until the changed raster is handed over; it waits for the frame
    that is due as well. Baseline: one frame at 30/s and 5 ms, as for a key."""
    show, _, _ = warped_show()
    for id in ("left", "right"):
        show = with_region(show, as_mesh(show.homes[id][1], 9, 7))
    engine, handed = Engine(show), threading.Event()
    engine.add_sink("a", "bench", lambda pixels: handed.set())
    engine.start()
    spent = []
    for n in range(rounds):
        time.sleep(1.2 + n / rounds / 30)  # compiled exactly by then, and at every moment of a frame in turn
        show = with_region(show, moved_points(show.homes["left"][1], {31}, 1.5 if n % 2 else -1.5, 0.5))
        handed.clear()
        began = time.perf_counter()
        engine.set_show(show)
        if not handed.wait(5):
            raise RuntimeError("the edit did not come out")
        spent.append(time.perf_counter() - began)
    engine.stop()
    ms, limit = statistics.median(spent[2:]) * 1e3, 1e3 / 30 + 5
    return {"ours_ms": ms, "baseline_ms": limit, "ratio": ms / limit, "worst_ms": max(spent[2:]) * 1e3}
