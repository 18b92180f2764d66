"""The running show: repainting only what changed gives the same picture, and nothing that fails stops it."""

from __future__ import annotations

import io
import threading
import time
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from layered import plain
from ushering_adze.core.kinds.colour import PLAIN
from ushering_adze.core.kinds.on_its_way import Shown, Turning
from ushering_adze.core.onair.actions import Black, Hold, Recall
from ushering_adze.core.onair.motion import at_rest, opening_motion, recall
from ushering_adze.core.picture.colours import Table
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import opening_state
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Clip, Layer, Output, RectLanding, Region, Show, Timing
from ushering_adze.core.show.edits import changed, with_output
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pace import Pace
from ushering_adze.engine.pictures import SurfacePictures
from ushering_adze.engine.renderer import Renderer
from ushering_adze.engine.report import Report
from ushering_adze.engine.tables import TABLES
from ushering_adze.engine.telling import LEAST, PERIOD, Telling
from ushering_adze.io.logs import log_to_stderr
from ushering_adze.io.showfile import absolute, portable
from waiting import wait_for


def frame(serial: int, w: int, h: int, opaque: bool) -> Frame:
    rng = np.random.default_rng(serial)
    pixels = rng.integers(0, 256, (h, w, 4), dtype=np.uint8)
    pixels[..., 3] = 255 if opaque else rng.integers(0, 256)
    if not opaque:
        pixels[..., :3] = np.minimum(pixels[..., :3], pixels[..., 3:])
    return Frame(pixels, serial, opaque)


@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_painting_what_changed_is_painting_everything(data: st.DataObject) -> None:
    """Any sequence of changes: moving, fading, new frames, regions or not; the kept canvas equals one
    painted afresh.
    """
    canvas = Canvas(
        id="c",
        name="C",
        width=64,
        height=48,
        background="#102030",
        layers=tuple(Layer(id=f"l{n}", name=f"L{n}") for n in range(3)),
    )
    only = [Rect(4, 4, 30, 20), Rect(40, 10, 20, 30)]
    kept = CanvasPainter(
        canvas, 1.0, tuple(only), tuple(only[1:])
    )  # the first part goes straight onto a raster, the second by the canvas
    frames = {"a": frame(1, 20, 16, True), "b": frame(2, 64, 48, True), "s": frame(3, 16, 12, False)}
    place = st.tuples(st.integers(-10, 50), st.integers(-10, 40), st.integers(1, 70), st.integers(1, 60))
    states = {
        f"l{n}": plain()._replace(picture=Shown("a", "fill"), place=(0, 0, 10, 10), opacity=0.0) for n in range(3)
    }
    for step in range(data.draw(st.integers(1, 8))):
        layer = data.draw(st.sampled_from(list(states)))
        mix = data.draw(st.sampled_from([("a",), ("b",), ("s",), ("a", "b"), ("b", None), ("s", "a")]))
        sides = [Shown(source, data.draw(st.sampled_from(["fill", "fit", "1:1", "stretch"]))) for source in mix]
        shown = sides[0] if len(sides) == 1 else Turning("dissolve", sides[0], sides[1], 0.5)
        full = data.draw(st.booleans())
        states[layer] = plain()._replace(
            picture=shown,
            place=(0, 0, 64, 48) if full else data.draw(place),
            opacity=data.draw(st.sampled_from([1.0, 1.0, 0.5, 0.0])),
            border=(data.draw(st.sampled_from([0, 0, 3])), 255, 0, 0, 0),
        )
        name = data.draw(st.sampled_from(["a", "b", "s"]))
        old = frames[name]
        frames[name] = frame(100 + step, old.pixels.shape[1], old.pixels.shape[0], old.opaque)
        kept.draw(list(states.items()), frames)
        fresh = CanvasPainter(canvas)
        fresh.draw(list(states.items()), frames)
        raster = np.zeros((50, 70, 4), np.uint8)
        kept.paint_onto(raster, only[0], Rect(20, 30, 30, 20))
        for found, rect in ((raster[30:50, 20:50], only[0]), (kept.pixels[only[1].cut()], only[1])):
            # OpenCV rounds halves otherwise in narrow rows than in wide ones: one code a layer, where an error would be
            # dozens.
            assert np.abs(found[..., :3].astype(int) - fresh.pixels[rect.cut()][..., :3]).max() <= len(states)


def test_a_layer_is_painted_again_when_its_table_has_been_read(monkeypatch: pytest.MonkeyPatch) -> None:
    read = threading.Event()

    def slow(path: Path) -> Table:
        assert read.wait(300)
        return np.full((2, 2, 2, 3), (0, 1, 0), np.float32)

    monkeypatch.setattr("ushering_adze.engine.tables.read_cube", slow)
    path = "/nowhere/read-at-last.cube"
    canvas = Canvas(id="c", name="C", width=64, height=48, layers=(Layer(id="y", name="Y"),))
    state = plain()._replace(
        picture=Shown("a", "stretch"), place=(0, 0, 64, 48), colour=PLAIN._replace(table=path), opacity=1.0
    )
    painter, frames = CanvasPainter(canvas), {"a": frame(1, 64, 48, True)}
    painter.draw([("y", state)], frames)
    assert (painter.pixels[..., :3] == frames["a"].pixels[..., :3]).all(), "not held up by it"
    assert painter.draw([("y", state)], frames) == ()
    read.set()
    TABLES.wait([path])
    assert painter.draw([("y", state)], frames)
    assert (painter.pixels[..., :3] == (0, 255, 0)).all()


def test_a_still_canvas_costs_nothing() -> None:
    show = demo_show()
    renderer, state = Renderer(show), opening_motion(show).at(0)
    frames = {s.id: frame(n, 32, 18, True) for n, s in enumerate(show.sources)}
    assert set(renderer.draw(state, frames)) == {o.id for o in show.outputs}
    assert renderer.draw(state, frames) == []
    changed = {**frames, "slides": frame(99, 32, 18, True)}
    assert renderer.draw(state, changed) == ["processor-a", "relay"], "only the outputs that show the slides"


def test_an_edit_of_one_region_reaches_its_output(show: Show) -> None:
    from ushering_adze.core.show.edits import find_region, with_region

    renderer, state = Renderer(show), opening_motion(show).at(0)
    frames = {s.id: frame(n, 1920, 960, True) for n, s in enumerate(show.sources)}
    renderer.draw(state, frames)
    region = find_region(show, "meridian")[1]
    moved = with_region(show, changed(region, landing=RectLanding(x=0, y=120, w=1920, h=960)))
    before = renderer.outputs["processor-a"].pixels.copy()
    renderer.set_show(moved)
    renderer.draw(state, frames)
    after = renderer.outputs["processor-a"].pixels
    assert (after[120:] == before[:960]).all() and (after[:120, :, :3] == 0).all()


def test_a_raster_made_anew_after_an_edit_is_known_as_another_picture(show: Show) -> None:
    """Even where it is the first picture of both."""
    renderer = Renderer(show)
    renderer.draw_pattern("bars")
    seen, before = SurfacePictures(), {id: o.serial for id, o in renderer.outputs.items()}
    upright = seen.of(show, renderer.outputs)["lectern"]
    turned = with_output(
        show, changed(show.output("lectern"), picture=changed(show.output("lectern").picture, flip="both"))
    )
    renderer.set_show(turned)
    renderer.draw_pattern("bars")
    assert renderer.outputs["lectern"].serial not in before.values()
    over = seen.of(turned, renderer.outputs)["lectern"]
    assert (
        np.abs(over[::-1, ::-1, :3].astype(int) - upright[..., :3]).mean()
        < 2
        < np.abs(over[..., :3].astype(int) - upright[..., :3]).mean()
    )


def small_show(**more: object) -> Show:
    def output(n: int) -> Output:
        return Output(id=f"o{n}", number=n, name=f"O{n}", timing=Timing(width=64, height=36))

    def region(n: int) -> Region:
        return Region(
            id=f"r{n}", name=f"R{n}", x=0, y=0, w=64, h=36, output=f"o{n}", landing=RectLanding(x=0, y=0, w=64, h=36)
        )

    layers = (Layer(id="l", name="L", settings={"picture": {"source": "roof"}}),)
    return Show(
        name="Small",
        sources=(Clip(id="roof", name="Roof", path=str(DEMO_ROOT / "media/roof-camera.mp4")),),
        canvases=(Canvas(id="c", name="C", width=64, height=36, layers=layers, regions=(region(1), region(2))),),
        outputs=(output(1), output(2)),
        **more,
    )  # type: ignore[arg-type]


@pytest.mark.parametrize("terminal", [True, False])
def test_one_failing_sink_or_command_does_not_stop_the_others(terminal: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    """What fails is told on standard error; where that is closed, the show goes on all the same."""
    if not terminal:
        log_to_stderr()
        gone = io.StringIO()
        gone.close()
        monkeypatch.setattr("sys.stderr", gone)
    engine, got = Engine(small_show()), threading.Event()

    def broken(pixels: object) -> None:
        raise RuntimeError("the window is gone")

    engine.add_sink("o1", "bad", broken)
    engine.add_sink("o1", "good", lambda pixels: got.set())
    engine.start(wait=60)
    try:
        assert got.wait(300)
        engine._commands.give(lambda now: 1 / 0)  # type: ignore[arg-type, return-value]
        got.clear()
        assert got.wait(300), "frames still come"
        told: list[int] = []
        engine.after_frame(broken)  # type: ignore[arg-type]
        engine.after_frame(lambda: told.append(engine.frames))
        assert wait_for(lambda: bool(told))
        was = engine.frames
        assert wait_for(lambda: engine.frames > was + 3) and len(told) == 1, "once, after the next frame"
    finally:
        engine.stop()


def test_while_frames_are_late_steps_of_the_desk_and_reports_take_turns(monkeypatch: pytest.MonkeyPatch) -> None:
    reports: list[object] = []
    engine = Engine(small_show(), reports.append)
    monkeypatch.setattr(engine._pace, "late_lately", lambda now: True)
    steps: list[int] = []

    def step() -> None:
        steps.append(engine.frames)
        engine.after_frame(step)

    engine.start(wait=60)
    try:
        engine.after_frame(step)
        assert wait_for(lambda: len(steps) > 8)
        told = len(reports)
        assert wait_for(lambda: len(reports) > told + 2), "reports come all the same"
        assert min(np.diff(steps)) == 2, "every other frame"
        monkeypatch.setattr(engine._pace, "late_lately", lambda now: False)
        assert wait_for(lambda: bool((np.diff(steps) == 1).any())), "and after each, when none is late"
    finally:
        engine.stop()


def test_a_picture_never_has_the_number_of_a_later_one(monkeypatch: pytest.MonkeyPatch) -> None:
    """Though a frame is made just while it is asked for."""
    engine = Engine(small_show())
    engine._renderer.draw_pattern("bars")
    engine._renderer.draw_pattern("white")
    raster, sent = engine._renderer.outputs["o1"], engine._sent
    asked: list[str] = []

    def overtaken(output: str) -> Pixels:
        pixels = sent(output)
        if not asked:
            asked.append(output)
            engine._renderer.draw_pattern("black")
        return pixels

    monkeypatch.setattr(engine, "_sent", overtaken)
    found = engine.sent["o1"]
    assert asked and found.serial == raster.serial and found.pixels is raster.pixels


def test_a_lost_source_is_said_and_the_rest_goes_on(tmp_path: Path) -> None:
    reports: list[Report] = []
    engine = Engine(absolute(portable(demo_show(), DEMO_ROOT), tmp_path), reports.append)  # no media here at all
    engine.start(wait=60)
    try:
        assert wait_for(lambda: bool(reports) and len(reports[-1].faults) == 10)
        words = {id: s.state for id, s in reports[-1].surfaces.items()}
        assert words["meridian"] == words["horizon"] == "lost"
        assert engine.rasters["processor-a"][:960].max() > 60, "the named picture is really sent"
        engine.act(Recall(preset=2))
        assert wait_for(
            lambda: (
                reports[-1].surfaces["meridian"].sources == ("Countdown",)
                and reports[-1].surfaces["meridian"].state != "lost"
            )
        )
    finally:
        engine.stop()


def test_hold_black_and_their_lifting_are_what_outputs_get() -> None:
    engine, newest = Engine(small_show()), {}
    engine.add_sink("o1", "t", lambda pixels: newest.__setitem__("o1", pixels.copy()))
    engine.start(wait=60)
    try:
        assert wait_for(lambda: "o1" in newest and newest["o1"][..., :3].max() > 0)
        engine.act(Black())
        assert wait_for(lambda: newest["o1"][..., :3].max() == 0)
        engine.act(Black(on=False))
        assert wait_for(lambda: newest["o1"][..., :3].max() > 0)
        engine.act(Hold())
        assert wait_for(lambda: bool(engine.stage.held))
        held, frames = newest["o1"], engine.frames
        assert wait_for(lambda: engine.frames > frames + 10)
        assert newest["o1"] is held
        engine.act(Hold(on=False))
        assert wait_for(lambda: newest["o1"] is not held)
    finally:
        engine.stop()


def test_late_frames_are_counted_and_dropped_not_queued() -> None:
    lost = [0.0]
    engine = Engine(small_show(rate=50), clock=lambda: time.perf_counter() + lost[0])

    def slow(now: float) -> None:
        lost[0] += 0.5

    engine.start(wait=60)
    try:
        assert wait_for(lambda: engine.frames > 10)
        late, (frames, began) = engine.late, engine.mark
        engine._commands.give(slow)
        assert wait_for(lambda: engine.frames > frames + 20)
        made, last = engine.mark
        assert engine.late > late
        assert made - frames <= (last - began) * 50 - 22, "frames missed meanwhile are not made up for"
    finally:
        engine.stop()


def test_ten_recalls_in_a_second_end_where_the_last_one_says() -> None:
    reports: list[Report] = []
    engine = Engine(demo_show(), reports.append)
    engine.start(wait=60)
    try:
        for number in (7, 4, 1, 90, 5, 6, 3, 8, 20, 7):
            engine.act(Recall(preset=number, seconds=0.3))
            time.sleep(0.05)
        assert wait_for(lambda: engine.stage.on_program == 7 and not engine.stage.program.tracks)
        assert wait_for(lambda: reports[-1].surfaces["meridian"].sources == ("Moon phases",))
    finally:
        engine.stop()


def test_recall_of_a_hundred_layers_is_state_only() -> None:
    show = Show(
        name="S",
        canvases=(
            Canvas(
                id="c", name="C", width=100, height=100, layers=tuple(Layer(id=f"l{n}", name="L") for n in range(100))
            ),
        ),
    )
    from ushering_adze.core.show import LayerSettings, Preset, part_of

    half = LayerSettings(opacity=0.5)
    preset = Preset(id="p", number=1, name="P", parts=tuple(part_of("c", f"l{n}", half) for n in range(100)))
    motion = recall(show, at_rest(opening_state(show)), preset, 0.0)
    assert len(motion.tracks) == 100 and all(s.opacity == pytest.approx(0.75) for s in motion.at(0.5).values())


def test_while_frames_are_late_the_desk_is_told_half_as_often() -> None:
    pace = Pace()
    telling = Telling(lambda now: pytest.fail("not begun"), lambda report: None, pace)
    assert telling.rest(10.0, 10.01) == pytest.approx(PERIOD - 0.01)
    pace.made(9.0, 9.5, 9.1)
    assert telling.rest(10.0, 10.01) == pytest.approx(2 * PERIOD - 0.01)
    assert telling.rest(20.0, 20.01) == pytest.approx(PERIOD - 0.01), "long ago"
    assert telling.rest(20.0, 30.0) == LEAST
