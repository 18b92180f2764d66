"""Recall: properties over any order of actions, and easing against CSS and Qt."""

from __future__ import annotations

from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QEasingCurve, QPointF

from ushering_adze.core.kinds.on_its_way import Picture, Still, depth
from ushering_adze.core.onair.delta import delta
from ushering_adze.core.onair.easing import CURVES, ease
from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import is_sane
from ushering_adze.core.picture.mixing import mix_of
from ushering_adze.core.show import Show, with_held
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.variants import with_order
from ushering_adze.demo.show import demo_show

DEMO = demo_show()
SHOW = DEMO.model_copy(update={"presets": tuple(p.model_copy(update={"way": None}) for p in DEMO.presets)})
"""With dissolves throughout: of pictures that are wiped there are no shares."""
NUMBERS = [p.number for p in SHOW.presets]


@pytest.mark.parametrize("name", CURVES)
def test_easing_agrees_with_qt(name: str) -> None:
    # W3C CSS Easing Functions Level 1 gives the control points (from memory); Qt evaluates the same Bézier curve.
    x1, y1, x2, y2 = CURVES[name]
    curve = QEasingCurve(QEasingCurve.Type.BezierSpline)
    curve.addCubicBezierSegment(QPointF(x1, y1), QPointF(x2, y2), QPointF(1, 1))
    for k in range(101):
        assert ease(name, k / 100) == pytest.approx(curve.valueForProgress(k / 100), abs=2e-3)
    assert ease("ease", 0.5) == pytest.approx(0.8024, abs=1e-4)


action = st.one_of(
    st.tuples(st.just("stage"), st.sampled_from([*NUMBERS, 999])),
    st.tuples(st.just("take"), st.sampled_from([None, 0.0, 0.3, 5.0])),
    st.tuples(st.just("cut"), st.none()),
    st.tuples(st.just("recall"), st.sampled_from(NUMBERS)),
    st.tuples(st.just("hand"), st.floats(0, 1)),
    st.tuples(st.just("back"), st.none()),
)


def apply(stage: Stage, what: str, value: object, now: float) -> Stage:
    match what:
        case "stage":
            return stage.stage(value)  # type: ignore[arg-type]
        case "take":
            return stage.take(now, seconds=value)  # type: ignore[arg-type]
        case "cut":
            return stage.take(now, cut=True)
        case "recall":
            return stage.recall(value, now)  # type: ignore[arg-type]
        case "hand":
            return stage.hand(value, now)  # type: ignore[arg-type]
    return stage.step_back(now)


def shares(picture: Picture, known: set[float], weight: float = 1.0) -> Counter[object]:
    """The share of every source in a picture; a still that was ``known`` already by its moment counts as a source."""
    found: Counter[object] = Counter()
    for part, own in mix_of(picture):
        if isinstance(part, Still) and part.taken not in known:
            found.update(shares(part.of, known, weight * own))
        else:
            found[part.taken if isinstance(part, Still) else part] += weight * own
    return found


def loudest_jump(a: dict, b: dict) -> float:
    """Largest step of any opacity or share of a picture between two states."""
    worst = 0.0
    for key in a:
        worst = max(worst, abs(a[key].opacity - b[key].opacity))
        known = {part.taken for part, _ in mix_of(a[key].picture) if isinstance(part, Still)}
        one, other = (shares(x[key].picture, known) for x in (a, b))
        worst = max([worst, *(abs(one[k] - other[k]) for k in {*one, *other})])
    return worst


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(action, st.floats(0, 2.5)), min_size=1, max_size=14))
def test_any_order_of_actions_gives_sane_states_that_settle_on_the_target(steps: list) -> None:
    stage, now = Stage.opened(SHOW), 0.0
    for (what, value), wait in steps:
        before = stage.program.at(now)
        stage = apply(stage, what, value, now)
        after = stage.program.at(now)
        assert all(is_sane(s) for s in after.values())
        if what in ("stage", "back") or (what == "recall" and SHOW.preset(value).seconds > 0):
            assert loudest_jump(before, after) < 1e-6, "a fade starts from the state at that moment"
        now += wait
        state = stage.program.at(now)
        assert state.keys() == stage.program.target.keys() and all(is_sane(s) for s in state.values())
        assert set(stage.preview()) == set(state)
    if not stage.program.led_by_hand:
        assert stage.program.at(now + 60) == dict(stage.program.target)
        assert not stage.program.moving(now + 60)


def test_a_fade_is_half_way_at_half_its_time() -> None:
    motion = recall(SHOW, opening_motion(SHOW), SHOW.preset(7), 0.0)
    shares = {s.picture.source: s.weight for s in mix_of(motion.at(1.0)["house", "wall"].picture)}
    assert shares == pytest.approx({"slides": 0.5, "moon-phases": 0.5})


def test_what_a_recall_does_not_touch_goes_on() -> None:
    motion = recall(SHOW, opening_motion(SHOW), SHOW.preset(7), 0.0)
    interrupted = recall(SHOW, motion, SHOW.preset(21), 1.0)  # the masts only
    assert interrupted.at(1.5)["house", "wall"] == motion.at(1.5)["house", "wall"]
    assert interrupted.at(2.0)["house", "wall"].picture.source == "moon-phases"
    west = {s.picture.source: s.weight for s in mix_of(interrupted.at(1.0)["house", "west"].picture)}
    assert west == pytest.approx({"star-trails": 0.5, "roof-camera": 0.5}), "starts from where it was"
    assert interrupted.at(2.0)["house", "west"].picture.source == "star-trails"


def test_kinds_keep_their_own_times() -> None:
    preset = SHOW.preset(7)
    wall = preset.parts[0]
    slow = with_held(wall, "picture", wall.holds.picture.to, "faded", 6.0)
    motion = recall(SHOW, opening_motion(SHOW), changed(preset, parts=(slow, *preset.parts[1:])), 0.0)
    assert depth(motion.at(2.1)["house", "wall"].picture) == 1 and depth(motion.at(2.1)["house", "west"].picture) == 0
    hurried = recall(SHOW, opening_motion(SHOW), changed(preset, parts=(slow, *preset.parts[1:])), 0.0, seconds=1.0)
    assert not hurried.moving(3.01) and hurried.moving(2.9), "times keep their proportion"


def test_a_hand_fade_goes_and_comes_back_and_finishes() -> None:
    stage = Stage.opened(SHOW).stage(7)
    start = stage.program.at(0)
    half = stage.hand(0.5, 0.0)
    assert half.program.at(99.0)["house", "wall"].picture.progress == pytest.approx(0.5), (
        "waits for the hand, not the clock"
    )
    assert half.hand(0.0, 1.0).program.at(1.0) == start
    done = half.hand(1.0, 2.0)
    assert (
        done.program.at(2.0) == Stage.opened(SHOW).stage(7).preview()
        and done.staged is None
        and not done.program.led_by_hand
    )
    by_clock = half.take(5.0)
    assert by_clock.program.moving(6.0) and not by_clock.program.moving(7.01)
    assert by_clock.program.at(8.0) == done.program.at(8.0)
    assert by_clock.staged is None and half.stage(8).take(5.0).staged == 8, (
        "what was taken is no longer staged, what comes next still is"
    )


def test_back_restores_the_former_state() -> None:
    stage = Stage.opened(SHOW)
    there = stage.recall(8, 0.0).recall(4, 9.0)
    assert there.step_back(20.0).step_back(30.0).program.at(40.0) == stage.program.at(0.0)


def test_black_clears_what_it_names_and_leaves_the_foyer() -> None:
    state = Stage.opened(SHOW).recall(90, 0.0).program.at(9.0)
    assert all(state[key].opacity == 0 for key in state if key[0] in ("house", "relay"))
    assert state["foyer", "loop"].opacity == 1 and state["lectern", "notes"].opacity == 1


def test_the_delta_names_the_surfaces_that_will_change() -> None:
    stage = Stage.opened(SHOW)
    changes = delta(SHOW, stage.program.target, stage.stage(7).preview())
    assert [(c.surface, c.before, c.after) for c in changes] == [
        ("meridian", ("Slides",), ("Moon phases",)),
        ("west-mast", ("Star trails",), ("Roof camera",)),
        ("east-mast", ("Star trails",), ("Roof camera",)),
    ]
    assert delta(SHOW, stage.program.target, stage.stage(5).preview()) == []


def test_the_delta_overlooks_what_an_opaque_layer_hides() -> None:
    stage = Stage.opened(SHOW).recall(3, 0.0)  # camera fills the wall, opaque
    hidden = dict(stage.program.target)
    hidden["house", "sky"] = hidden["house", "sky"]._replace(place=(0, 0, 4112, 2040))
    touched = {c.surface for c in delta(SHOW, stage.program.target, hidden, lambda source: False)}
    assert "meridian" not in touched and "horizon" in touched
    touched = {c.surface for c in delta(SHOW, stage.program.target, hidden, lambda source: source == "aisle-camera")}
    assert "meridian" in touched, "through a camera with alpha it can be seen"


def test_an_edit_of_the_show_keeps_what_is_on_air() -> None:
    stage = Stage.opened(SHOW).recall(7, 0.0)
    edited: Show = SHOW.model_copy(update={"name": "Other"})
    assert stage.with_show(edited, 1.0).program.at(1.0) == stage.program.at(1.0)
    fewer = SHOW.model_copy(update={"presets": tuple(p for p in SHOW.presets if p.number != 7)})
    assert stage.stage(7).with_show(fewer, 1.0).staged is None


def test_a_preset_under_another_number_is_still_the_one_that_is_staged() -> None:
    stage = Stage.opened(SHOW).recall(6, 0.0, cut=True).recall(5, 1.0, cut=True).stage(7)
    other = with_order(SHOW, 7, 2)
    assert SHOW.preset(7).id == other.preset(2).id and SHOW.preset(5).id == other.preset(6).id
    after = stage.with_show(other, 2.0)
    assert (after.staged, after.on_program, [n for _, n in after.back][-1]) == (2, 6, 7)
    taken, before = (s.take(3.0).program.target for s in (after, stage))
    assert taken == before, "a take puts on air what was looked at"
    gone = SHOW.model_copy(update={"presets": tuple(p for p in other.presets if p.number != 2)})
    assert stage.with_show(gone, 2.0).staged is None, "not what has its number now"


def test_what_is_staged_during_a_hand_fade_stays_staged() -> None:
    stage = Stage.opened(SHOW).stage(7).hand(0.4, 1.0).stage(4).hand(0.8, 2.0).hand(1.0, 3.0)
    assert (stage.on_program, stage.staged) == (7, 4)
    plain = Stage.opened(SHOW).stage(7).hand(0.4, 1.0).hand(1.0, 3.0)
    assert (plain.on_program, plain.staged) == (7, None)


def test_a_lever_brought_back_leaves_what_was_there() -> None:
    before = Stage.opened(SHOW)
    stage = before.stage(7).hand(0.4, 1.0).hand(0.7, 2.0).hand(0.0, 3.0)
    assert (stage.on_program, stage.staged, len(stage.back)) == (before.on_program, 7, len(before.back))
    assert stage.program.at(3.0) == before.program.at(3.0) and not stage.program.moving(3.0)
    assert stage.hand(0.5, 4.0).on_program == 7, "and it can be led again"
    other = before.stage(7).hand(0.4, 1.0).stage(4).hand(0.0, 3.0)
    assert other.staged == 4, "what was staged meanwhile stays"


def test_a_fade_that_a_lever_interrupted_goes_on_without_a_jump_when_it_is_brought_back() -> None:
    stage = Stage.opened(SHOW).recall(7, 0.0, seconds=10.0)
    midway = stage.program.at(5.0)
    led = stage.stage(1).hand(0.01, 5.0).hand(0.6, 6.0)
    back = led.hand(0.0, 6.5)
    assert loudest_jump(midway, back.program.at(6.5)) < 0.16, "no more than the fades that went on by the clock"
    assert back.program.at(100.0) == stage.program.at(100.0) and back.on_program == 7
