"""Rows of the benchmark about cue lists: a long evening's plan, an edit of it, many lists at once, a firing."""

from __future__ import annotations

import statistics
import threading
import time

from ushering_adze.core.onair.actions import Planner, run_lists
from ushering_adze.core.onair.cues import Seen
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import (
    Canvas,
    ColourSource,
    Layer,
    LayerSettings,
    LedWall,
    Output,
    Part,
    Picture,
    Place,
    Preset,
    RectLanding,
    Region,
    Show,
    Timing,
    with_held,
)
from ushering_adze.core.show.actions import Go, Override, Recall, Route, StartList
from ushering_adze.core.show.cue import AfterFormer, Cue, CueList, Doing
from ushering_adze.core.show.led import Cabinet
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine

CUES, SURFACES, LISTS = 500, 40, 20


def evening_show() -> Show:
    """Forty walls on ten canvases, four layers on each, sixty presets of two canvases each, and five hundred cues."""
    cabinet = Cabinet(width_mm=500, height_mm=500, columns_px=48, rows_px=48)
    walls = tuple(LedWall(id=f"w{n}", name=f"W{n}", cabinet=cabinet, columns=10, rows=5) for n in range(SURFACES))
    outputs = tuple(
        Output(id=f"o{n}", number=n + 1, name=f"O{n}", timing=Timing(width=1920, height=1080)) for n in range(10)
    )
    sources = tuple(ColourSource(id=f"s{n}", name=f"S{n}", fill=f"#{n * 8:02X}4060") for n in range(30))
    canvases = []
    for c in range(10):
        regions = tuple(
            Region(
                id=f"r{c}-{k}",
                name=f"R{c}-{k}",
                x=480 * k,
                y=0,
                w=480,
                h=240,
                output=f"o{c}",
                surface=f"w{c * 4 + k}",
                landing=RectLanding(x=480 * k, y=0, w=480, h=240),
            )
            for k in range(4)
        )
        layers = tuple(
            Layer(id=f"l{k}", name=f"L{k}", settings=LayerSettings(place=Place(x=25 * k, w=25))) for k in range(4)
        )
        canvases.append(Canvas(id=f"c{c}", name=f"C{c}", width=1920, height=240, regions=regions, layers=layers))
    presets = []
    for n in range(60):
        parts = tuple(
            with_held(
                Part(canvas=f"c{(n + d) % 10}", layer=f"l{k}"),
                "picture",
                Picture(source=f"s{(n * 7 + k + d) % 30}", fit="fill"),
                "faded",
            )
            for d in (0, 3)
            for k in range(4)
        )
        presets.append(Preset(id=f"p{n}", number=n + 1, name=f"P{n}", seconds=1.0, parts=parts))
    cues = tuple(
        Cue(id=f"q{n}", number=n + 1, name=f"Q{n}", does=(Doing(action=Recall(preset=n * 13 % 60 + 1)),))
        for n in range(CUES)
    )
    return Show(
        name="Evening",
        sources=sources,
        canvases=tuple(canvases),
        surfaces=walls,
        outputs=outputs,
        presets=tuple(presets),
        lists=(CueList(id="e", name="Evening", cues=cues),),
    )


def plan_long(rounds: int) -> dict[str, float]:
    """The plan of five hundred cues on forty surfaces, from nothing; against one second."""
    show, spent = evening_show(), []
    for _ in range(rounds):
        planner = Planner()
        began = time.perf_counter()
        planner.plan(show, "e")
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1000.0, "ratio": ms / 1000.0, "worst_ms": max(spent) * 1e3}


def edit_plan(rounds: int) -> dict[str, float]:
    """The same plan after one cue of it was edited, another one every time; against 50 ms."""
    show, planner, spent = evening_show(), Planner(), list[float]()
    planner.plan(show, "e")
    for n in range(rounds):
        cues = list(show.lists[0].cues)
        at = (n * 37 + 11) % CUES
        cues[at] = cues[at].model_copy(update={"does": (Doing(action=Recall(preset=(n * 17 + at) % 60 + 1)),)})
        show = show.model_copy(update={"lists": (show.lists[0].model_copy(update={"cues": tuple(cues)}),)})
        began = time.perf_counter()
        planner.plan(show, "e")
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 50.0, "ratio": ms / 50.0, "worst_ms": max(spent) * 1e3}


def many_lists(rounds: int) -> dict[str, float]:
    """What twenty lists of 25 cues that all run cost a frame; against 1 ms."""
    demo = demo_show()
    lists = tuple(
        CueList(
            id=f"y{k}",
            name=f"Y{k}",
            loop=True,
            previews=False,
            cues=tuple(
                Cue(
                    id=f"q{n}",
                    number=n + 1,
                    does=(Doing(action=Route(surface="foyer-wall", source="patrons", on="program"), delay=0.5),),
                    fires=AfterFormer(seconds=3.0 + k * 0.1),
                )
                for n in range(25)
            ),
        )
        for k in range(LISTS)
    )
    show = demo.model_copy(update={"lists": lists})
    stage, spent = run_lists(Stage.opened(show), 0.0), []
    from ushering_adze.core.onair.actions import apply

    for k in range(LISTS):
        stage = apply(show, stage, StartList(list=f"y{k}"), 0.01)
    for n in range(rounds):
        now = 0.05 + n / 30
        began = time.perf_counter()
        stage = run_lists(stage, now, Seen(72000.0 + now))
        spent.append(time.perf_counter() - began)
    ms = statistics.mean(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1.0, "ratio": ms, "worst_ms": max(spent) * 1e3}


def firing(rounds: int) -> dict[str, float]:
    """From a cue that is fired to the first frame that is another, in the running demo; against a period and 5 ms."""
    cues = tuple(
        Cue(
            id=f"q{n}",
            number=n + 1,
            does=(Doing(action=Override(surfaces=("relay",), shows="source", source=("night", "hold-card")[n % 2])),),
        )
        for n in range(2)
    )
    show = demo_show().model_copy(update={"lists": (CueList(id="e", name="E", cues=cues, loop=True, previews=False),)})
    engine, came = Engine(show), threading.Event()
    moments: list[float] = []

    def sink(pixels: object) -> None:
        moments.append(time.perf_counter())
        came.set()

    engine.start(wait=10)
    try:
        engine.act(Recall(preset=90, seconds=0))
        engine.act(Go(list="e"))
        time.sleep(1.5)
        engine.add_sink("relay", "bench", sink)
        time.sleep(0.3)
        spent = []
        for n in range(rounds):
            came.clear()
            began = time.perf_counter()
            engine.act(Go(list="e"))
            if came.wait(2.0):
                spent.append(moments[-1] - began)
            time.sleep(0.35 + n % 7 * 0.0047)  # behind what is taken for a slip, at any place in a frame
    finally:
        engine.stop()
    limit = show.frame_seconds * 1e3 + 5.0
    ms = statistics.median(spent) * 1e3
    within = sum(1 for s in spent if s * 1e3 <= limit) / len(spent)
    return {
        "ours_ms": ms,
        "baseline_ms": limit,
        "ratio": ms / limit,
        "worst_ms": max(spent) * 1e3,
        "within_share": within,
    }
