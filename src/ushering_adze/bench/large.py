"""Rows of the benchmark about large shows: a thousand regions, ten thousand cabinets."""

from __future__ import annotations

import itertools
import json
import statistics
import time
from collections.abc import Callable

from ushering_adze.core.displays.led import data_runs, led_facts
from ushering_adze.core.mapping.regions import moved
from ushering_adze.core.proof import pixel_check
from ushering_adze.core.show import (
    Cabinet,
    Canvas,
    Cell,
    DataRuns,
    LedWall,
    Output,
    RectLanding,
    Region,
    Show,
    Timing,
    document_of,
    show_from_document,
)
from ushering_adze.core.show.rigging import with_field, with_item
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.renderer import Renderer


def large_show() -> Show:
    """A thousand regions of whole cabinets that fill ten walls of a thousand cabinets each, on ten outputs and one
    canvas.
    """
    cabinet = Cabinet(width_mm=500, height_mm=500, columns_px=48, rows_px=48, weight_kg=7, max_watts=150)
    walls = tuple(
        LedWall(id=f"w{n}", name=f"W{n}", cabinet=cabinet, columns=40, rows=25, data=DataRuns(gbps=10))
        for n in range(10)
    )
    outputs = tuple(
        Output(id=f"o{n}", number=n + 1, name=f"O{n}", timing=Timing(width=1920, height=1200)) for n in range(10)
    )
    rows = list(itertools.pairwise(48 * k for k in (0, 2, 4, 6, 8, 10, 12, 15, 18, 21, 25)))
    regions = []
    for n in range(1000):
        wall, k = divmod(n, 100)
        (y0, y1), column = rows[k // 10], k % 10
        regions.append(
            Region(
                id=f"r{n}",
                name=f"R{n}",
                x=wall % 5 * 1920 + column * 192,
                y=wall // 5 * 1200 + y0,
                w=192,
                h=y1 - y0,
                output=f"o{wall}",
                surface=f"w{wall}",
                landing=RectLanding(x=column * 192, y=y0, w=192, h=y1 - y0),
            )
        )
    canvas = Canvas(id="c", name="C", width=9600, height=2400, regions=tuple(regions))
    return Show(name="Large", canvases=(canvas,), surfaces=walls, outputs=outputs)


def _each(work: Callable[[int], object], rounds: int, limit_ms: float) -> dict[str, float]:
    work(0)
    spent = []
    for n in range(1, rounds + 1):
        began = time.perf_counter()
        work(n)
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": limit_ms, "ratio": ms / limit_ms, "worst_ms": max(spent) * 1e3}


def drag_large(rounds: int) -> dict[str, float]:
    """A step of dragging one region of a thousand: the edit, the checks of the whole, and every output's plan;
    baseline: one sixtieth of a second."""
    show = large_show()
    renderer = Renderer(show)

    def step(n: int) -> None:
        edited = moved(show, ["r555"], 1 + n % 7, 0)
        assert not faults_of(edited)
        renderer.set_show(edited)

    return _each(step, rounds, 1e3 / 60)


def check_large(rounds: int) -> dict[str, float]:
    """The pixel check after an edit of a thousand regions; baseline: 30 ms."""
    show = large_show()
    assert not pixel_check(show), "a clean map, so that each edit has its own findings"
    edited = [moved(show, [f"r{n}"], 1, 0) for n in range(rounds + 1)]
    return _each(lambda n: pixel_check(edited[n]), rounds, 30.0)


def edit_cabinets(rounds: int) -> dict[str, float]:
    """One cabinet taken out of one of ten walls of 1 000: the edit, the wall's figures and its runs; baseline: one
    sixtieth of a second.
    """
    cabinet = Cabinet(width_mm=500, height_mm=500, columns_px=128, rows_px=128, weight_kg=7, max_watts=150)
    walls = tuple(LedWall(id=f"w{n}", name=f"W{n}", cabinet=cabinet, columns=40, rows=25) for n in range(10))
    show = Show(name="Bench", surfaces=walls)
    spent = []
    for n in range(rounds):
        began = time.perf_counter()
        wall = with_field(walls[n % 10], "missing", (Cell(column=1 + n % 40, row=1 + n // 40 % 25),))
        show = with_item(show, "surfaces", wall)  # type: ignore[arg-type]
        led_facts(wall)  # type: ignore[arg-type]
        data_runs(wall)  # type: ignore[arg-type]
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1e3 / 60, "ratio": ms / (1e3 / 60)}


def open_large(rounds: int) -> dict[str, float]:
    """Reading and checking a show of 1 000 regions and 10 000 cabinets, from its JSON text; baseline: one second."""
    show = demo_show()
    house = show.canvases[0]
    region = house.regions[2]
    many = tuple(region.model_copy(update={"id": f"r{n}", "name": f"R{n}"}) for n in range(1000))
    wall = show.surface("meridian")
    walls = tuple(
        wall.model_copy(update={"id": f"w{n}", "name": f"W{n}", "columns": 40, "rows": 25}) for n in range(10)
    )
    text = json.dumps(
        document_of(
            show.model_copy(
                update={
                    "canvases": (house.model_copy(update={"regions": many}), *show.canvases[1:]),
                    "surfaces": (*show.surfaces, *walls),
                }
            )
        )
    )
    spent = []
    for _ in range(rounds):
        began = time.perf_counter()
        show_from_document(json.loads(text))
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1e3, "ratio": ms / 1e3}
