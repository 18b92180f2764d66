"""Transitions between pictures: they begin with the one and end with the other, and wipes cover what they say."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QEasingCurve, QPointF

from ushering_adze.core.exchange.from_show import brought
from ushering_adze.core.exchange.preset_table import way_from, way_words
from ushering_adze.core.kinds.on_its_way import Shown, Turning, needed_by, sources_in
from ushering_adze.core.onair.easing import ease
from ushering_adze.core.onair.motion import Motion, at_rest, opening_motion, recall
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.transitions import TRANSITIONS
from ushering_adze.core.picture.transitions.wipe import TILE, turns
from ushering_adze.core.show import (
    Canvas,
    ColourSource,
    Layer,
    LayerSettings,
    Part,
    Picture,
    Place,
    Preset,
    Show,
    ShowError,
    with_held,
)
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.show.way import Way
from ushering_adze.engine.canvas import CanvasPainter

FORMS = ["line", "iris", "clock", "blinds", "picture"]
SIZE = (60, 100)


def picture(seed: int, clear: bool = False) -> np.ndarray:
    made = np.random.default_rng(seed).integers(0, 256, (*SIZE, 4)).astype(np.uint8)
    made[..., 3] = 255
    if clear:
        made[:, :30] = 0
    return made


way = st.builds(
    Way,
    kind=st.sampled_from(sorted(name for name, t in TRANSITIONS.items() if t.draw is not None)),
    form=st.sampled_from(FORMS),
    angle=st.floats(-360, 360),
    soft=st.floats(0, 1),
    count=st.integers(1, 20),
    colour=st.sampled_from(["#000000", "#FFFFFF", "#204060"]),
)


@given(way, st.booleans())
@settings(deadline=None, max_examples=80)
def test_it_begins_with_the_one_and_ends_with_the_other_and_leaps_nowhere(way: Way, clear: bool) -> None:
    before, after = picture(1, clear), picture(2)
    kept = before.copy(), after.copy()
    kind, parameters = way.on_air
    draw = TRANSITIONS[kind].draw
    assert draw is not None
    values = {**dict(parameters), "picture": picture(3)}
    steps = [draw(before, after, t, values).astype(int) for t in np.linspace(0, 1, 41)]
    assert np.abs(steps[0] - before).max() <= 1 and np.abs(steps[-1] - after).max() <= 1
    assert np.array_equal(before, kept[0]) and np.array_equal(after, kept[1]), "neither is written to"
    assert all((s[..., :3] <= s[..., 3:] + 1).all() for s in steps), "premultiplied"
    dark, light = (np.full((*SIZE, 4), (c, c, c, 255), np.uint8) for c in (40, 220))
    flat = [draw(dark, light, t, values).astype(int) for t in np.linspace(0, 1, 41)]
    assert max(np.abs(a - b).mean() for a, b in pairwise(flat)) < 30


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("angle", [0.0, 33.0, 90.0, 200.0])
def test_a_wipe_covers_t_of_the_area(form: str, angle: float) -> None:
    black, white = (np.full((270, 480, 4), c, np.uint8) for c in (0, 255))
    values = {"form": form, "angle": angle, "soft": 0.01, "count": 6, "picture": np.tile(picture(3), (3, 3, 1))}
    draw = TRANSITIONS["wipe"].draw
    assert draw is not None
    for t in (0.1, 0.25, 0.5, 0.75, 0.9):
        covered = draw(black, white, t, values)[..., 0].mean() / 255
        assert covered == pytest.approx(t, abs=0.012), (form, angle, t)


@given(
    st.sampled_from(("line", "iris", "clock", "blinds")),
    st.floats(0, 360),
    st.integers(1, 40),
    st.tuples(st.integers(2, 700), st.integers(2, 300)),
)
@settings(max_examples=60, deadline=None)
def test_no_pixel_is_wiped_outside_what_is_known_of_its_tile(
    form: str, angle: float, count: int, size: tuple[int, int]
) -> None:
    found = turns(form, angle, count, *size)
    rows, columns = found.least.shape
    for row in range(rows):
        left = found.left(row, 0, columns)
        for column in range(columns):
            part = left[:, column * TILE : (column + 1) * TILE]
            assert found.least[row, column] <= part.min() and part.max() <= found.most[row, column]


def test_a_line_goes_towards_its_angle_and_a_push_leaves_no_gap() -> None:
    black, white = (np.full((90, 160, 4), c, np.uint8) for c in (0, 255))
    wipe, push, slide = (TRANSITIONS[name].draw for name in ("wipe", "push", "slide"))
    assert wipe is not None and push is not None and slide is not None
    right = wipe(black, white, 0.5, {"angle": 0.0, "soft": 0.0})
    assert right[45, 20, 0] == 255 and right[45, 140, 0] == 0
    down = wipe(black, white, 0.5, {"angle": 90.0, "soft": 0.0})
    assert down[10, 80, 0] == 255 and down[80, 80, 0] == 0
    grey = np.full((90, 160, 4), 128, np.uint8)
    for angle in (0.0, 90.0, 180.0, 270.0):
        for t in np.linspace(0, 1, 23):
            assert set(np.unique(push(grey, white, t, {"angle": angle}))) <= {128, 255}
    over = slide(black, white, 0.5, {"angle": 180.0})
    assert over[45, 20, 0] == 0 and over[45, 140, 0] == 255, "it comes in from the right"


def test_waits_curves_and_ways_are_the_settings_own() -> None:
    canvas = Canvas(id="c", name="C", width=100, height=60, layers=(Layer(id="x", name="X"),))
    part = with_held(Part(canvas="c", layer="x"), "picture", Picture(source="b", fit="stretch"), "faded")
    own = {"delay": 2.0, "seconds": 4.0, "easing": "linear", "way": Way(kind="wipe", form="picture", source="m")}
    held = part.holds.picture.model_copy(update=own)
    part = part.model_copy(update={"holds": part.holds.model_copy(update={"picture": held})})
    part = with_held(part, "opacity", 0.5, "snapped")
    late = part.holds.opacity.model_copy(update={"delay": 3.0})
    part = part.model_copy(update={"holds": part.holds.model_copy(update={"opacity": late})})
    preset = Preset(id="p", number=1, name="P", seconds=1.0, way=Way(kind="push"), parts=(part,))
    sources = tuple(ColourSource(id=i, name=i, fill="#804020") for i in "abm")
    show = Show(name="S", canvases=(canvas,), sources=sources, presets=(preset,))
    motion = recall(show, opening_motion(show), preset, 10.0)
    at = lambda t: motion.at(t)["c", "x"]  # noqa: E731
    assert at(11.9).picture == Shown(None, "fill") and at(12.9).opacity == 1.0 and at(13.0).opacity == 0.5
    mid = at(14.0).picture
    assert isinstance(mid, Turning) and (mid.kind, mid.progress) == ("wipe", 0.5)
    assert needed_by(mid) == ("m",) and "m" not in sources_in(mid), "what it goes by is not what it shows"
    assert at(16.0).picture == Shown("b", "stretch") and not motion.moving(16.0) and motion.moving(15.9)
    twice = recall(show, opening_motion(show), preset, 10.0, seconds=2.0)
    assert twice.at(13.9)["c", "x"].picture == Shown(None, "fill"), "waits are stretched as times are"
    plain = with_held(Part(canvas="c", layer="x"), "picture", Picture(source="a"), "faded")
    other = recall(show, at_rest(motion.target), preset.model_copy(update={"parts": (plain,)}), 0.0)
    assert other.at(0.5)["c", "x"].picture.kind == "push"
    painter = CanvasPainter(canvas)
    painter.draw([("x", at(14.0)._replace(opacity=1.0))], {"b": Frame(picture(1), 1), "m": Frame(picture(3), 2)})
    assert not painter.faults and 0.4 < (painter.pixels[..., :3].max(-1) > 0).mean() < 0.6


@pytest.mark.parametrize("handles", [(0.3, 0.0, 0.7, 1.0), (0.1, -0.4, 0.2, 1.5)])
def test_a_curve_by_handles_agrees_with_qt(handles: tuple[float, ...]) -> None:
    curve = QEasingCurve(QEasingCurve.Type.BezierSpline)
    curve.addCubicBezierSegment(QPointF(*handles[:2]), QPointF(*handles[2:]), QPointF(1, 1))
    name = f"bezier({', '.join(f'{h:g}' for h in handles)})"
    assert Preset(id="p", number=1, name="P", easing=name).easing == name
    for k in range(101):
        assert ease(name, k / 100) == pytest.approx(curve.valueForProgress(k / 100), abs=5e-3)
    with pytest.raises(ValueError, match="easing"):
        Preset(id="p", number=1, name="P", easing="bezier(2, 0, 1, 1)")


COMING, GOING = Way(kind="wipe", angle=90, soft=0.1), Way(kind="slide", angle=180)


def coming_show() -> Show:
    """A layer with a way in and a way out; presets that bring it, take it away, and give it another picture."""
    layer = Layer(id="x", name="X", comes=COMING, goes=GOING, settings=LayerSettings(opacity=0.0))
    canvas = Canvas(id="c", name="C", width=64, height=36, layers=(layer,))
    bare = Part(canvas="c", layer="x")
    bring = with_held(with_held(bare, "picture", Picture(source="a", fit="stretch"), "faded"), "opacity", 1.0, "faded")
    other = with_held(bare, "picture", Picture(source="b", fit="stretch"), "faded")
    presets = (
        Preset(id="in", number=1, name="In", seconds=2.0, easing="linear", parts=(bring,)),
        Preset(id="out", number=2, name="Out", seconds=1.0, easing="linear", clears=("c",)),
        Preset(id="other", number=3, name="Other", seconds=1.5, easing="linear", parts=(other,)),
        Preset(id="up", number=4, name="Up", seconds=1.0, parts=(with_held(bare, "opacity", 1.0, "faded"),)),
    )
    sources = tuple(ColourSource(id=i, name=i, fill="#804020") for i in "ab")
    return Show(name="S", canvases=(canvas,), sources=sources, presets=presets)


def preset_of(show: Show, number: int) -> Preset:
    preset = show.preset(number)
    assert preset is not None
    return preset


def test_a_layer_comes_and_goes_in_its_own_way() -> None:
    show = coming_show()
    motion = recall(show, opening_motion(show), preset_of(show, 1), 10.0)
    at = lambda m, t: m.at(t)["c", "x"]  # noqa: E731
    half = at(motion, 11.0)
    assert half.opacity == 1.0 and half.picture == Turning(
        "wipe", Shown(None, "stretch"), Shown("a", "stretch"), 0.5, COMING.on_air[1]
    )
    assert at(motion, 12.0).picture == Shown("a", "stretch") and not motion.moving(12.0)
    gone = recall(show, motion.settled(12.0), preset_of(show, 2), 20.0)
    leaving = at(gone, 20.25)
    assert leaving.opacity == 1.0 and (leaving.picture.kind, leaving.picture.after) == ("slide", Shown(None, "stretch"))
    assert leaving.picture.progress == pytest.approx(0.25, abs=1e-5)
    assert at(gone, 21.0).opacity == 0.0 and at(gone, 21.1).picture == Shown("a", "stretch"), "it keeps its picture"
    cut = recall(show, motion.settled(12.0), preset_of(show, 2), 20.0, cut=True)
    assert at(cut, 20.0).opacity == 0 and not cut.tracks
    by_hand = recall(show, motion.settled(12.0), preset_of(show, 2), 20.0, by_hand=True).with_hand(0.5)
    assert at(by_hand, 20.0).opacity == pytest.approx(0.5), "a hand fades it"


@settings(max_examples=60)
@given(st.lists(st.tuples(st.integers(1, 4), st.floats(0.01, 2.5)), min_size=2, max_size=6))
def test_ways_in_and_out_interrupted_at_any_moment_leap_nowhere(steps: list[tuple[int, float]]) -> None:
    show, now = coming_show(), 0.0
    motion = opening_motion(show)
    frames = {"a": Frame(np.full((36, 64, 4), (40, 90, 200, 255), np.uint8), 1), "b": Frame(picture(2), 2)}
    painter = CanvasPainter(show.canvases[0])

    def seen(of: Motion, at: float) -> np.ndarray:
        painter.draw([("x", of.at(at)["c", "x"])], frames)
        return painter.pixels[..., :3].astype(int).copy()

    for number, wait in steps:
        after = recall(show, motion, preset_of(show, number), now)
        assert np.abs(seen(motion, now) - seen(after, now)).max() <= 2
        motion, now = after, now + wait
    end = now + 10.0
    assert not motion.moving(end) and (seen(motion, end) == seen(at_rest(motion.target), end)).all()


def test_a_picture_that_a_layer_comes_by_is_looked_after_like_any_other() -> None:
    """It is missed where it is not there, kept from being removed, and comes along to another show under its new id."""
    show = coming_show()
    layer = show.canvases[0].layers[0]
    by_picture = layer.model_copy(update={"comes": Way(kind="wipe", form="picture", source="b")})
    bringing = show.presets[0]
    named = show.model_copy(
        update={"canvases": (show.canvases[0].model_copy(update={"layers": (by_picture,)}),), "presets": (bringing,)}
    )
    assert faults_of(named) == []
    with pytest.raises(ShowError, match="layer X"):
        without_item(named, "sources", "b")
    gone = named.model_copy(update={"sources": tuple(s for s in named.sources if s.id != "b")})
    assert [fault.where for fault in faults_of(gone)] == ["canvases[0].layers[0].comes.source"]
    here = Show(name="Here", sources=(ColourSource(id="b", name="Mine", fill="#010203"),))
    made, _ = brought(here, named, [1], "bring")
    came = made.canvases[0].layers[0].comes
    assert came is not None and came.source not in (None, "b")
    assert made.source(came.source).fill == "#804020"


def test_move_takes_the_box_where_it_will_be_and_cuts_are_cuts() -> None:
    canvas = Canvas(id="c", name="C", width=100, height=60, layers=(Layer(id="x", name="X"), Layer(id="y", name="Y")))
    place = Place(x=40, y=20, w=20, h=20, unit="px")
    parts = tuple(
        with_held(
            with_held(Part(canvas="c", layer=layer), "picture", Picture(source="a", fit="stretch"), "faded"),
            "place",
            place,
            "snapped",
        )
        for layer in "xy"
    )
    sources = (ColourSource(id="a", name="A", fill="#804020"),)
    first = Preset(id="p", number=1, name="P", seconds=2.0, easing="linear", way=Way(kind="move"), parts=parts)
    back = with_held(Part(canvas="c", layer="x"), "place", Place(), "snapped")
    other = first.model_copy(update={"id": "q", "number": 2, "parts": (back,)})
    show = Show(name="S", canvases=(canvas,), sources=sources, presets=(first, other))
    start = opening_motion(show)
    motion = recall(show, start, first, 10.0)
    assert motion.at(10.0)["c", "x"].place == (0, 0, 100, 60) and motion.at(11.0)["c", "x"].place == (20, 10, 60, 40)
    assert motion.at(12.0)["c", "x"].place == (40, 20, 20, 20)
    turned = recall(show, motion, other, 11.0)
    assert turned.at(11.0)["c", "x"].place == (20, 10, 60, 40), "taken back half-way, from where it is"
    assert turned.at(12.0)["c", "x"].place == (10, 5, 80, 50) and turned.at(13.0)["c", "x"].place == (0, 0, 100, 60)
    assert turned.at(12.0)["c", "y"].place == (40, 20, 20, 20), "the other one goes on"
    assert recall(show, start, first, 10.0, cut=True).at(10.0)["c", "x"].place == (40, 20, 20, 20)
    snapped = first.model_copy(update={"way": Way(kind="dissolve")})
    assert recall(show, start, snapped, 10.0).at(10.1)["c", "x"].place == (40, 20, 20, 20)
    assert way_words(way_from("move")) == "move"
