"""What is asked of the engine beyond reason costs that layer, that output, that command; frames go on, and desk and
engine agree.
"""

from __future__ import annotations

import subprocess
import sys
import threading
import tracemalloc
from collections.abc import Iterator

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.onair.actions import Black
from ushering_adze.core.picture.cost import memory_faults, memory_note, output_bytes
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import opening_state
from ushering_adze.core.picture.resampling import Cut, resample, resample_part
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Layer, Output, PatternSource, RectLanding, Region, Show, Timing
from ushering_adze.core.show.edits import with_canvas, with_output
from ushering_adze.engine import engine as loop
from ushering_adze.engine import renderer as drawing
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.commands import MOST, Commands
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.renderer import OutputRaster, Renderer, layers_of
from waiting import wait_for


def layer(id: str, **place: float) -> Layer:
    return Layer(id=id, name=id.upper(), settings={"picture": {"source": "grid", "fit": "stretch"}, "place": place})


def two_canvases(*layers: Layer, size: tuple[int, int] = (320, 180)) -> Show:
    """Two canvases of one region and one output each."""

    def canvas(id: str, layers: tuple[Layer, ...]) -> Canvas:
        region = Region(
            id=f"r{id}", name=id, x=0, y=0, w=320, h=180, output=f"o{id}", landing=RectLanding(x=0, y=0, w=320, h=180)
        )
        return Canvas(id=id, name=id.upper(), width=size[0], height=size[1], layers=layers, regions=(region,))

    outputs = tuple(
        Output(id=f"o{id}", number=n, name=f"O{id}", timing=Timing(width=320, height=180))
        for n, id in enumerate("ab", 1)
    )
    return Show(
        name="Two",
        sources=(PatternSource(id="grid", name="Grid", pattern="grid", width=640, height=360),),
        canvases=(canvas("a", layers), canvas("b", (layer("plain"),))),
        outputs=outputs,
    )


@pytest.fixture
def running() -> Iterator[Engine]:
    engine = Engine(two_canvases(layer("plain")))
    engine.start(wait=20)
    assert wait_for(lambda: engine.rasters["oa"][..., :3].max() > 60)
    yield engine
    engine.stop()


# -- work beyond what is seen ------------------------------------------------------------------------------------------


@given(st.integers(2, 90), st.integers(2, 60), st.integers(1, 400), st.integers(1, 300), st.data())
@settings(max_examples=150, deadline=None)
def test_a_part_of_a_resampled_picture_is_that_part_of_the_whole(
    w: int, h: int, width: int, height: int, data: st.DataObject
) -> None:
    source = np.random.default_rng(w * 97 + h).integers(0, 256, (h, w, 4), np.uint8)
    take = Rect(data.draw(st.integers(0, w - 1)), data.draw(st.integers(0, h - 1)), 1, 1)
    take = Rect(take.x, take.y, data.draw(st.integers(1, w - take.x)), data.draw(st.integers(1, h - take.y)))
    cut = Cut(take, Rect(data.draw(st.integers(-50, 50)), data.draw(st.integers(-50, 50)), width, height))
    x, y = data.draw(st.integers(0, width - 1)), data.draw(st.integers(0, height - 1))
    part = Rect(
        cut.put.x + x, cut.put.y + y, data.draw(st.integers(1, width - x)), data.draw(st.integers(1, height - y))
    )
    whole = resample(source, cut).astype(int)[y : y + part.h, x : x + part.w]
    assert np.abs(resample_part(source, cut, part).astype(int) - whole).max() <= 1


def test_a_layer_at_a_thousand_per_cent_takes_no_more_than_the_canvas_it_is_seen_on() -> None:
    show = two_canvases(layer("huge", x=-20_000, y=-20_000, w=65_000, h=65_000, unit="px"), size=(3840, 2160))  # type: ignore[arg-type]
    canvas = show.canvases[0]
    painter = CanvasPainter(canvas, seen=(Rect(0, 0, 320, 180),), painted=())
    frame = Frame(np.random.default_rng(3).integers(0, 256, (360, 640, 4), np.uint8), 1)
    states = layers_of(canvas, opening_state(show))
    tracemalloc.start()
    painter.draw(states, {"grid": frame})
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 5 * 320 * 180 * 4, "whole it would be 17 GB"
    raster = np.zeros((180, 320, 4), np.uint8)
    painter.paint_onto(raster, Rect(0, 0, 320, 180), Rect(0, 0, 320, 180))
    at = (20_000 + np.array([0, 319])) * 640 // 65_000, (20_000 + np.array([0, 179])) * 360 // 65_000
    around = frame.pixels[at[1][0] - 1 : at[1][1] + 2, at[0][0] - 1 : at[0][1] + 2, :3]
    assert around.min() <= raster[..., :3].min() <= raster[..., :3].max() <= around.max()


def test_a_layer_that_cannot_be_drawn_costs_itself_and_a_canvas_itself(
    running: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    sheet, draw = CanvasPainter._sheet, CanvasPainter.draw

    def broken(self: CanvasPainter, state: object, frames: object) -> object:
        if state.opacity == 0.5:  # type: ignore[attr-defined]
            raise ValueError("no")
        return sheet(self, state, frames)  # type: ignore[arg-type]

    monkeypatch.setattr(CanvasPainter, "_sheet", broken)
    bad = layer("bad").model_copy(update={"settings": layer("bad").settings.model_copy(update={"opacity": 0.5})})
    show = running.stage.show
    running.set_show(with_canvas(show, show.canvases[0].model_copy(update={"layers": (layer("plain"), bad)})))
    assert wait_for(lambda: set(running.faults()) == {"a/bad"}), running.faults()
    frames = running.frames
    assert running.rasters["oa"][..., :3].max() > 60 and wait_for(lambda: running.frames > frames + 3)

    def painted(self: CanvasPainter, *args: object) -> object:
        if self.canvas.id == "b":
            raise MemoryError
        return draw(self, *args)  # type: ignore[arg-type]

    monkeypatch.setattr(CanvasPainter, "draw", painted)
    assert wait_for(lambda: "b" in running.faults()), "it is told"
    frames = running.frames
    assert wait_for(lambda: running.frames > frames + 3)
    monkeypatch.undo()
    assert wait_for(lambda: "b" not in running.faults()), "and gone when it is over"


def test_frames_that_fail_are_a_fault_until_they_do_not(running: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    def failing(*args: object, **more: object) -> None:
        raise ZeroDivisionError

    before = running.rasters["oa"].copy()
    monkeypatch.setattr(Renderer, "draw", failing)
    assert wait_for(lambda: "frames" in running.faults()) and "ZeroDivisionError" in running.faults()["frames"]
    assert (running.rasters["oa"] == before).all()
    monkeypatch.undo()
    assert wait_for(lambda: running.faults() == {})


def test_what_an_output_would_take_is_told_before_it_is_made() -> None:
    show = two_canvases()
    huge = with_output(show, show.outputs[0].model_copy(update={"timing": Timing(width=32768, height=32768)}))
    assert output_bytes(huge, huge.outputs[0]) == 3 * 4 * 32768**2
    (fault,) = memory_faults(huge, show, 16 << 30)
    assert str(fault) == (
        "Oa: 32768 × 32768 px take 12.9 GB of memory, the whole show 12.9 GB; of this machine's 17.2 GB it may take "
        "8.6 GB. Make it smaller"
    )
    assert memory_faults(huge, show, 64 << 30) == [] and "takes 12.9 GB of memory more" in (
        memory_note(huge, show) or ""
    )
    assert memory_faults(huge, huge, 1 << 30) == [] and memory_note(show, show) is None, (
        "who made no output larger is not refused"
    )
    smaller = with_output(huge, huge.outputs[0].model_copy(update={"timing": Timing(width=16384, height=32768)}))
    assert memory_faults(smaller, huge, 1 << 30) == []


def test_memory_of_an_edit_is_not_taken_in_a_frames_time(running: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[str] = []
    init = OutputRaster.__init__

    def noted(self: OutputRaster, plan: object) -> None:
        made.append(threading.current_thread().name)
        init(self, plan)  # type: ignore[arg-type]

    monkeypatch.setattr(OutputRaster, "__init__", noted)
    show = running.stage.show
    running.set_show(with_output(show, show.outputs[0].model_copy(update={"timing": Timing(width=400, height=300)})))
    assert wait_for(lambda: running.rasters["oa"].shape == (300, 400, 4))
    assert made == ["compile"]


def test_painters_and_rasters_fit_whatever_order_edits_come_in() -> None:
    """Two edits compiled before the first is adopted, the second of them back to what was there."""
    show = two_canvases(layer("plain"))
    renderer = Renderer(show)
    wider = with_canvas(show, show.canvases[0].model_copy(update={"width": 640}))
    first, second = renderer.prepared(wider), renderer.prepared(show)
    renderer.adopt(wider, first)
    renderer.adopt(show, second)
    assert renderer.canvases["a"].pixels.shape == (180, 320, 4)


# -- what cannot be run ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("error", [MemoryError(), ZeroDivisionError()])
def test_an_edit_that_cannot_be_run_is_told_and_the_air_is_untouched(
    error: Exception, running: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[tuple[Show, str]] = []
    running._compiling._failed = lambda show, why: told.append((show, why))

    def failing(*args: object, **more: object) -> None:
        raise error

    before = running.rasters["oa"]
    monkeypatch.setattr(drawing, "compile_output", failing)
    edited = running.stage.show.model_copy(update={"name": "Edited"})
    running.set_show(edited)
    assert (
        wait_for(lambda: bool(told))
        and told[0][0] is edited
        and ("memory" in told[0][1]) == isinstance(error, MemoryError)
    )
    assert (running.rasters["oa"] == before).all()
    with pytest.raises(type(error)):
        running.open_show(edited)
    frames = running.frames
    assert wait_for(lambda: running.frames > frames + 3)


def test_black_stays_when_another_show_is_opened(running: Engine) -> None:
    running.act(Black())
    got: list[int] = []
    other = two_canvases(layer("plain"))
    other = with_output(other, other.outputs[0].model_copy(update={"timing": Timing(width=200, height=100)}))
    running.add_sink(
        "oa", "test", lambda pixels: got.append(int(pixels[..., :3].max()) if pixels.shape[1] == 200 else 0)
    )
    assert wait_for(lambda: running.covered == "black")
    running.open_show(other)
    assert wait_for(lambda: running.stage.show is other and running.rasters["oa"].shape == (100, 200, 4))
    frames = running.frames
    assert wait_for(lambda: running.frames > frames + 5) and running.covered == "black" and set(got) == {0}
    running.act(Black(on=False))
    assert wait_for(lambda: bool(got) and got[-1] > 60), "until it is lifted"


# -- floods ------------------------------------------------------------------------------------------------------------


def test_commands_take_a_bounded_time_of_a_frame_and_keep_their_order() -> None:
    commands, done = Commands(), list[int]()
    for n in range(200):
        commands.give(lambda now, n=n: done.append(n))
    assert commands.run(0.0, 0.0) and done == [0], "one at least, however little time there is"
    assert commands.run(0.0, 10.0) and done == list(range(200)) and len(commands) == 0
    assert not commands.run(0.0, 1.0)


def test_the_newest_of_a_kind_wins_and_what_is_too_much_is_counted() -> None:
    commands, done = Commands(), list[str]()
    for n in range(50_000):
        commands.give(lambda now, n=n: done.append(f"hand {n}"), "hand")
    commands.give(lambda now: done.append("take"))
    commands.give(lambda now: done.append("hand again"), "hand")
    commands.run(0.0, 10.0)
    assert done == ["hand 49999", "take", "hand again"], "across a take nothing is merged"
    for _ in range(MOST + 20):
        commands.give(lambda now: None)
    assert commands.refused == 20 and len(commands) == MOST
    commands.give(lambda now: done.append("show"), "show")
    while commands.run(0.0, 1.0):
        pass
    assert done[-1] == "show", "what the desk holds is never refused"


def test_a_flood_of_commands_starves_no_frames(running: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    """Each command takes as long as a frame may: frames still come, between them."""
    monkeypatch.setattr(loop, "ACTING", 0.0)
    order: list[str] = []
    running.add_sink("oa", "test", lambda pixels: None)
    for _ in range(30):
        running._commands.give(lambda now: order.append(f"{running.frames}"))
    assert wait_for(lambda: len(order) == 30)
    assert len(set(order)) > 10, "not all of them before one frame"


# -- memory ------------------------------------------------------------------------------------------------------------

HELD = """
import numpy as np
from pathlib import Path
from ushering_adze.engine.memory import give_back, keep_freed_memory
def held():
    return int(Path("/proc/self/statm").read_text().split()[1]) * 4096
keep_freed_memory()
blocks = [np.ones(20 << 20, np.uint8) for _ in range(40)]
del blocks
before = held()
give_back()
print(before, held())
"""


def test_what_a_closed_show_held_is_given_back(running: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    done = subprocess.run([sys.executable, "-c", HELD], capture_output=True, text=True, check=True, timeout=300)
    before, after = map(int, done.stdout.split())
    assert before > 700 << 20 and after < 250 << 20, "kept for the next frame, until it is asked for"
    asked = threading.Event()
    monkeypatch.setattr("ushering_adze.engine.memory.give_back", asked.set)
    running.open_show(two_canvases(layer("plain")))
    assert asked.wait(300)
