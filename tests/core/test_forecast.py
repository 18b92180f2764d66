"""What a frame will cost, counted in pixels: against sums made by hand, and what must hold of any show."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.kinds.border import Border
from ushering_adze.core.kinds.keying import LumaKey
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.onair.delta import seen_through_by_kind
from ushering_adze.core.onair.motion import at_rest, opening_motion, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.forecast import OPERATIONS, Known, dearest, seconds_of, shown_small, work_of
from ushering_adze.core.picture.layers import State, opening_state
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.show import (
    Canvas,
    Clip,
    ColourSource,
    Layer,
    LayerSettings,
    Output,
    Picture,
    Place,
    Preset,
    RectLanding,
    Region,
    Show,
    Timing,
    part_of,
)
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.forecasting import Forecasting, Running, known_of
from waiting import wait_for

W, H = 400, 200
KNOWN = {"a": Known(W, H, True, True), "b": Known(W, H, True, True), "still": Known(W, H, True, False)}


def layer(id: str, source: str, x: int = 0, w: int = W, **more: object) -> Layer:
    place = Place(x=x, y=0, w=w, h=H, unit="px")
    return Layer(id=id, name=id, settings=LayerSettings(picture=Picture(source=source), place=place, **more))


def small(*layers: Layer) -> Show:
    landing = RectLanding(x=0, y=0, w=W, h=H)
    region = Region(id="r", name="R", x=0, y=0, w=W, h=H, output="o", landing=landing)
    sources = (
        *(Clip(id=id, name=id, path=f"/{id}.mp4") for id in "ab"),
        ColourSource(id="still", name="S", fill="#FFFFFF"),
    )
    canvas = Canvas(id="c", name="C", width=W, height=H, layers=layers, regions=(region,))
    output = Output(id="o", number=1, name="O", timing=Timing(width=W, height=H, rate=30))
    return Show(name="Small", rate=30.0, canvases=(canvas,), outputs=(output,), sources=sources)


def work(
    show: Show, state: State | None = None, before: State | None = None, known: dict[str, Known] = KNOWN
) -> dict[str, float]:
    plans = {o.id: compile_output(show, o) for o in show.outputs}
    return dict(work_of(show, opening_state(show) if state is None else state, known, plans, before))


def test_only_what_moves_costs_anything_and_what_is_hidden_costs_nothing() -> None:
    assert work(small(layer("l", "still"))) == {}
    assert work(small(layer("l", "a"))) == {"copy": W * H}
    assert work(small(layer("low", "b"), layer("top", "a")))["copy"] == W * H, "one hides the other"
    assert work(small(layer("low", "a"), layer("top", "still", w=W // 2))) == {"copy": W * H * 1.5}


def test_what_is_done_to_a_picture_is_counted_by_its_pixels() -> None:
    show, twice = small(layer("l", "a")), {"a": Known(2 * W, 2 * H, True, True)}
    assert work(show, known=twice) == {"copy": W * H}, "a size that stays is made ahead"
    now = opening_state(show)
    smaller = {key: state._replace(place=(0.0, 0.0, W - 2.0, H - 1.0)) for key, state in now.items()}
    assert work(show, now, smaller, twice)["resize"] == 4 * W * H, "one that changes is not"
    keyed = work(small(layer("low", "still"), layer("l", "a", key=LumaKey(low=0.1), shadow=Shadow(opacity=0.5))))
    assert keyed["luma"] == W * H and keyed["over"] >= W * H and keyed["shadow"] >= W * H and keyed["copy"] == W * H
    assert work(small(layer("l", "a", opacity=0.5)))["mix"] == W * H
    assert set(work(small(layer("l", "a", border=Border(width=4))))) == {"copy"}
    show = small(layer("l", "a"))
    preset = Preset(id="p", number=1, name="P", seconds=2.0, parts=(part_of("c", "l", layer("l", "b").settings),))
    motion = recall(show, at_rest(opening_state(show)), preset, 0.0)
    assert work(show, motion.at(1.0), motion.at(0.9))["mix"] == W * H, "a dissolve of two"


def test_a_region_that_is_bent_or_weighted_costs_that_too() -> None:
    show = demo_show()
    plans = {o.id: compile_output(show, o) for o in show.outputs}
    known = known_of(show, {}, seen_through_by_kind(show))
    done = work_of(show, opening_motion(show).target, known, plans)
    assert done and set(done) <= set(OPERATIONS)
    state = recall(show, opening_motion(show), show.preset(6), 0.0, cut=True).target  # type: ignore[arg-type]
    projected = work_of(show, state, known, plans)
    bent = sum(s.put.area for id in ("projector-left", "projector-right") for s in plans[id].steps if s.how == "warp")
    assert projected.get("bend", 0.0) <= bent + 1


@settings(max_examples=40)
@given(st.lists(st.sampled_from(["a", "b", "still"]), min_size=1, max_size=5), st.data())
def test_one_more_moving_layer_on_top_never_costs_less_than_itself(sources: list[str], data: st.DataObject) -> None:
    layers = [
        layer(f"l{n}", s, x=data.draw(st.integers(0, W // 2)), w=data.draw(st.integers(8, W)))
        for n, s in enumerate(sources)
    ]
    top = layer("top", "a", x=0, w=W)
    done = work(small(*layers, top))
    assert done["copy"] == W * H and done.get("mix", 0) == 0, "it hides all others, and they are not laid"
    alone = work(small(*layers))
    assert all(v >= 0 for v in alone.values()) and bool(alone) == any(s != "still" for s in sources)


def test_time_is_the_sum_of_its_parts_and_small_pictures_are_named() -> None:
    rates = {"copy": 1e-9, "luma": 9e-9}
    assert seconds_of({"copy": 3e6, "luma": 1e6}, rates) == pytest.approx(0.012)
    assert dearest({"copy": 3e6, "luma": 1e6}, rates) == "luma keys" and dearest({}, rates) == ""
    show = small(layer("l", "a", w=W // 4), layer("other", "still", w=W // 4))
    assert shown_small(show, opening_state(show), KNOWN) == ()
    large = {**KNOWN, "a": Known(4 * W, 4 * H, True, True)}
    assert [(s.source, s.scale) for s in shown_small(show, opening_state(show), large)] == [("a", 0.25)]


class Ticking:
    """Reports of a stage that stands still, one after another."""

    def __init__(self, show: Show) -> None:
        self.show, self.stage, self.now = show, Stage.opened(show), 0.0
        self.plans = {o.id: compile_output(show, o) for o in show.outputs}
        self.forecasting = Forecasting(lambda: dict.fromkeys(OPERATIONS, 2e-9))

    def told(self, seconds: float = 0.0, hurried: bool = False) -> dict[int, float]:
        self.now += 1.0
        found = self.forecasting.refreshed(Running(self.stage, self.now, KNOWN, self.plans, seconds), hurried)
        return {n: f.most for n, f in found.items()}


def test_every_preset_gets_its_forecast_and_frames_correct_it() -> None:
    one, two = (
        Preset(id=f"p{n}", number=n, name=f"P{n}", seconds=0.0, parts=(part_of("c", "l", layer("l", s).settings),))
        for n, s in ((1, "a"), (2, "still"))
    )
    show = small(layer("l", "b")).model_copy(update={"presets": (one, two)})
    ticking = Ticking(show)
    assert ticking.told() == {}, "nothing is told before it is measured"
    ticking.forecasting.begin()
    assert wait_for(lambda: ticking.told() != {})
    ticking.now -= 1.0  # the same moment once more
    assert ticking.told(hurried=True).keys() == {1}, "little is worked out while frames are late"
    told = ticking.told()
    assert told[1] == pytest.approx(W * H * 2e-9 * 30) and told[2] == 0
    for _ in range(90):
        told = ticking.told(W * H * 2e-9 + 0.003)
    assert ticking.forecasting.beside == pytest.approx(0.003, rel=0.01), "frames take that much beside their pixels"
    assert told[1] == pytest.approx((W * H * 2e-9 + 0.003) * 30, rel=0.02) and told[2] == 0
    for _ in range(90):
        told = ticking.told(1.0)
    assert ticking.forecasting.beside == pytest.approx(0.3 / 30, rel=0.01), "what else is slow is not theirs"
