"""Edits of a running show are compiled beside its frames: what is on air follows, ends exact, and survives what cannot
be compiled.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

from ushering_adze.core.light.lining_up import Look
from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.mapping.bend import as_mesh, moved_points, points_of
from ushering_adze.core.onair.laid import pattern_of, pattern_shown
from ushering_adze.core.show import (
    Canvas,
    Layer,
    LayerSettings,
    Output,
    PatternSource,
    Picture,
    RectLanding,
    Region,
    Show,
    Timing,
)
from ushering_adze.core.show.edits import with_canvas, with_output, with_region
from ushering_adze.core.show.laid import Laid
from ushering_adze.demo.show import demo_show
from ushering_adze.engine import compiling
from ushering_adze.engine.compiling import Compiling
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.overlay import Overlay, overlay_of
from ushering_adze.engine.renderer import Renderer
from waiting import wait_for


def small_show() -> Show:
    region = Region(id="r", name="R", x=0, y=0, w=480, h=270, output="o", landing=RectLanding(x=0, y=0, w=480, h=270))
    other = Region(id="p", name="P", x=480, y=0, w=120, h=270, output="q", landing=RectLanding(x=0, y=0, w=120, h=270))
    layer = Layer(id="l", name="L", settings=LayerSettings(picture=Picture(source="grid", fit="stretch")))
    return Show(
        name="Small",
        sources=(PatternSource(id="grid", name="Grid", pattern="hatch", width=600, height=270, spacing=24),),
        canvases=(
            Canvas(id="c", name="C", width=600, height=270, layers=(layer,), regions=(as_mesh(region, 6, 5), other)),
        ),
        outputs=(
            Output(id="o", number=1, name="O", timing=Timing(width=480, height=270)),
            Output(id="q", number=2, name="Q", timing=Timing(width=120, height=270)),
        ),
    )


@pytest.fixture
def engine() -> Iterator[Engine]:
    made = Engine(small_show())
    made.start(wait=20)
    assert wait_for(lambda: made.rasters["o"][..., :3].max() > 60)
    yield made
    made.stop()


def fresh(engine: Engine, show: Show) -> dict[str, np.ndarray]:
    """What the show looks like, rendered from nothing with the same frames."""
    renderer = Renderer(show)
    renderer.draw(engine.stage.program.at(time.perf_counter()), {"grid": engine.picture_of("grid")})
    return {id: raster.pixels for id, raster in renderer.outputs.items()}


def drag(show: Show, steps: int, seed: int) -> Iterator[Show]:
    draw = np.random.default_rng(seed)
    for _ in range(steps):
        region = show.homes["r"][1]
        chosen = {int(draw.integers(len(points_of(region.landing))))}
        show = with_region(
            show, moved_points(region, chosen, *draw.uniform(-3, 3, 2).tolist(), float(draw.choice([0, 90])))
        )
        yield show


@pytest.mark.parametrize("seed", range(2))
def test_after_a_drag_the_running_show_is_exactly_that_of_a_fresh_start(engine: Engine, seed: int) -> None:
    before = engine.rasters["o"].copy()
    for show in drag(engine.stage.show, 40, seed):
        engine.set_show(show)
        time.sleep(0.004)
    assert wait_for(lambda: engine.stage.show is show)
    assert wait_for(lambda: np.array_equal(engine.rasters["o"], fresh(engine, show)["o"])), "at rest, to the last bit"
    assert not np.array_equal(engine.rasters["o"], before)


def test_outputs_regions_and_layers_come_and_go_between_frames(engine: Engine) -> None:
    show = engine.stage.show
    canvas = show.canvases[0]
    bare = with_canvas(show, canvas.model_copy(update={"layers": ()}))
    engine.set_show(bare)
    assert wait_for(lambda: engine.rasters["o"][..., :3].max() == 0), "the layer is gone, and so is its picture"
    engine.set_show(show)
    assert wait_for(lambda: engine.rasters["o"][..., :3].max() > 60)
    one = with_canvas(show, canvas.model_copy(update={"regions": canvas.regions[:1]})).model_copy(
        update={"outputs": show.outputs[:1]}
    )
    engine.set_show(one)
    assert wait_for(lambda: set(engine.rasters) == {"o"})
    grown = with_output(show, show.output("q").model_copy(update={"timing": Timing(width=200, height=300)}))
    engine.set_show(grown)
    assert wait_for(lambda: "q" in engine.rasters and engine.rasters["q"].shape == (300, 200, 4))
    assert wait_for(lambda: np.array_equal(engine.rasters["q"], fresh(engine, grown)["q"]))
    assert not engine.faults()


def test_what_cannot_be_compiled_leaves_the_picture_and_the_next_edit_works(
    engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    show, whole = engine.stage.show, Renderer.compiled

    def broken(self: Renderer, show: Show, quick: bool = False) -> object:
        raise MemoryError("no room for the maps")

    monkeypatch.setattr(Renderer, "compiled", broken)
    was = engine.rasters["o"].copy()
    moved = next(drag(show, 1, 5))
    engine.set_show(moved)
    assert wait_for(lambda: engine.stage.show is moved)
    frames = engine.frames
    assert wait_for(lambda: engine.frames > frames + 5), "frames still come"
    assert np.array_equal(engine.rasters["o"], was)
    monkeypatch.setattr(Renderer, "compiled", whole)
    last = list(drag(moved, 3, 6))[-1]
    engine.set_show(last)
    assert wait_for(lambda: np.array_equal(engine.rasters["o"], fresh(engine, last)["o"]))


def test_edits_in_a_row_are_compiled_quickly_and_at_rest_exactly_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """The newest wins: what came and went while another was compiled is never worked at."""
    monkeypatch.setattr(compiling, "REST", 0.15)
    show, done = small_show(), []
    renderer, asked, gate = Renderer(show), [], threading.Event()
    whole = renderer.compiled

    def slow(show: Show, quick: bool = False) -> object:
        asked.append((show, quick))
        gate.wait(300)
        return whole(show, quick)

    monkeypatch.setattr(renderer, "compiled", slow)
    thread = Compiling(lambda r, s, p: done.append(s), lambda s, why: None)
    thread.start()
    shows = list(drag(show, 6, 8))
    thread.want(renderer, shows[0])
    assert wait_for(lambda: len(asked) == 1)
    for later in shows[1:]:
        thread.want(renderer, later)
    gate.set()
    assert wait_for(lambda: len(asked) == 3)
    assert [(shows.index(s), quick) for s, quick in asked] == [(0, True), (5, True), (5, False)]
    assert wait_for(lambda: len(done) == 3)
    time.sleep(0.5)
    assert len(asked) == 3 and done == [shows[0], shows[5], shows[5]] and not renderer.rough
    thread.close()
    thread.want(renderer, shows[1])
    time.sleep(0.1)
    assert len(asked) == 3


def test_what_is_laid_over_while_aligning_is_said_in_one_place() -> None:
    show = demo_show()
    left, right = "projector-left", "projector-right"

    def over(output: str, shown: PatternShown | None = None, **more: object) -> Overlay:
        pattern = None if shown is None else pattern_of(shown)
        assert pattern is None or pattern_shown(pattern) == shown
        return overlay_of(show, Laid(surface="horizon", output=output, pattern=pattern, **more))  # type: ignore[arg-type]

    plain = over(left)
    assert plain == Overlay() and not plain.patterns(left)
    solo = over(left, bare=True, others=0.0)
    assert solo.dim == {right: 0.0} and solo.bare == {left, right}
    grid = PatternShown("grid", "output", Look(50, 2))
    for where, outputs in (("surface", {left, right}), ("output", {left}), ("all", {o.id for o in show.outputs})):
        laid = over(left, grid, where=where)
        assert set(laid.rasters) == outputs and all(
            r.shape[:2] == (show.output(id).timing.height, show.output(id).timing.width)
            for id, r in laid.rasters.items()
        )
    through = over(right, PatternShown("grid", "screen"), others=0.25)
    assert set(through.canvases) == {left, right} and through.dim == {left: 0.25} and not through.rasters
    line = over(left, PatternShown("line", "output"), where="output")
    assert line.moving is not None and set(line.moving(0.5)) == {left}
    assert not np.array_equal(line.moving(0.5)[left], line.moving(0.9)[left])


def test_an_edit_is_shown_between_two_frames_on_the_output_it_touches() -> None:
    engine = Engine(small_show().model_copy(update={"rate": 1.0}))
    engine.start(wait=20)
    assert wait_for(lambda: engine.rasters["o"][..., :3].max() > 60 and engine.frames > 0)
    between = 0
    try:
        for show in drag(engine.stage.show, 4, 7):
            was, frame = engine.serials, engine.frames
            while engine.frames == frame:
                time.sleep(0.002)
            engine.set_show(show)  # just after a frame, a second before the next
            assert wait_for(lambda was=was: engine.serials["o"] != was["o"])
            between += engine.frames == frame + 1
            assert engine.serials["q"] == was["q"], "the other output is left alone"
        assert between, "not one of four came out before the next frame"
        assert wait_for(lambda: np.array_equal(engine.rasters["o"], fresh(engine, engine.stage.show)["o"]))
    finally:
        engine.stop()


def test_a_canvas_of_a_lower_rate_that_an_edit_makes_anew_is_painted_with_the_next_frame() -> None:
    show = small_show()
    show = with_canvas(show, show.canvases[0].model_copy(update={"rate": 1.0}))
    renderer = Renderer(show)
    grid = Engine(show)
    grid.start(wait=20)
    frames = {"grid": grid.picture_of("grid")}
    state = grid.stage.program.at(0.0)
    grid.stop()
    for _ in range(3):
        renderer.draw(state, frames)
    renderer.set_show(with_canvas(show, show.canvases[0].model_copy(update={"background": "#102030"})))
    assert renderer.draw_edited() == [], "there is nothing yet to show of the new canvas"
    renderer.draw(state, frames)
    assert renderer.outputs["q"].pixels[..., :3].max() > 60
