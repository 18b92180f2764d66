"""Actions: any sequence of them leaves a sane stage, and a stage is the same after being JSON, in the middle of a fade
too.
"""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.kinds.on_its_way import Still
from ushering_adze.core.onair.actions import (
    KINDS_OF_ACTION,
    Action,
    Black,
    Cut,
    Hold,
    Keep,
    Recall,
    Release,
    StagePreset,
    Take,
    action_from,
    actions_schema,
    apply,
    fault_of,
    table_of_actions,
)
from ushering_adze.core.onair.delta import delta
from ushering_adze.core.onair.document import stage_document, stage_from
from ushering_adze.core.onair.playing import runs_on_preview
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.picture.layers import is_sane
from ushering_adze.core.show import Output, ShowError, Timing
from ushering_adze.demo.show import demo_show

SHOW = demo_show()
NUMBERS = [p.number for p in SHOW.presets]
VALID = jsonschema.Draft202012Validator(actions_schema())
PLAYED = ["orrery", "moon-phases", "slides", "countdown", "night"]
OUTPUTS, SURFACES = [o.id for o in SHOW.outputs], [s.id for s in SHOW.surfaces]

some_outputs = st.none() | st.lists(st.sampled_from([*OUTPUTS, "attic"]), max_size=3)
some_surfaces = st.none() | st.lists(st.sampled_from([*SURFACES, "attic"]), max_size=2)
seconds = st.none() | st.floats(0, 5)
documents = st.one_of(
    st.builds(lambda n: {"do": "stage", "preset": n}, st.sampled_from([*NUMBERS, 999])),
    st.just({"do": "unstage"}),
    st.builds(lambda s, w: {"do": "take", "seconds": s, "surfaces": w}, seconds, some_surfaces),
    st.builds(lambda w: {"do": "cut", "surfaces": w}, some_surfaces),
    st.builds(lambda n, s: {"do": "recall", "preset": n, "seconds": s}, st.sampled_from(NUMBERS), seconds),
    st.builds(lambda p: {"do": "hand", "position": p}, st.floats(0, 1)),
    st.builds(lambda s: {"do": "back", "seconds": s}, seconds),
    st.builds(
        lambda d, on, o: {"do": d, "on": on, "outputs": o},
        st.sampled_from(["black", "hold"]),
        st.booleans(),
        some_outputs,
    ),
    st.builds(lambda d, s: {"do": d, "surface": s}, st.sampled_from(["keep", "release"]), st.sampled_from(SURFACES)),
    st.builds(
        lambda layer, o, s: {
            "do": "edit",
            "canvas": "house",
            "layer": layer,
            "set": {"opacity": {"to": o, "how": "faded"}, "picture": {"to": {"source": s}}},
        },
        st.sampled_from(["sky", "inset", "attic"]),
        st.floats(0, 1),
        st.sampled_from([None, "orrery", "slides", "nobody"]),
    ),
    st.builds(
        lambda w, s, on, t: {"do": "route", "surface": w, "source": s, "on": on, "seconds": t},
        st.sampled_from(SURFACES),
        st.sampled_from([None, "orrery", "moon-phases", "slides", "countdown"]),
        st.sampled_from(["preview", "program"]),
        seconds,
    ),
    st.builds(lambda d, s: {"do": d, "source": s}, st.sampled_from(["play", "pause", "next"]), st.sampled_from(PLAYED)),
    st.builds(lambda s, t: {"do": "to", "source": s, "seconds": t}, st.sampled_from(PLAYED), st.floats(0, 100)),
    st.builds(lambda s, t: {"do": "page", "source": s, "to": t}, st.sampled_from(PLAYED), st.integers(1, 20)),
    st.just({"do": "lay-over"}),
    st.just(
        {"do": "lay-over", "over": {"surface": "horizon", "output": "projector-left", "pattern": {"name": "grid"}}}
    ),
)


@given(st.lists(st.tuples(st.floats(0, 2), documents), max_size=14))
@settings(max_examples=60, deadline=None)
def test_any_actions_leave_a_sane_stage_that_json_brings_back(script: list[tuple[float, dict[str, object]]]) -> None:
    stage, now = Stage.opened(SHOW), 0.0
    for passed, document in script:
        now += passed
        VALID.validate(document)
        action = action_from(document)
        before = stage.program.at(now)
        stage = apply(SHOW, stage, action, now)
        if fault_of(SHOW, action) is not None:
            assert stage.program.at(now) == before
        after = stage.program.at(now)
        assert all(is_sane(s) for s in after.values()) and all(is_sane(s) for s in stage.preview().values())
        if document["do"] in ("stage", "unstage", "edit", "hold", "black", "keep", "release", "pause", "lay-over"):
            assert after == before, "what is on air is not theirs"
        running = sources_of(after) | sources_of(stage.program.target)
        assert all(
            at.since is None or id in running or runs_on_preview(SHOW.source(id)) or stage.players[id] == at
            for id, at in stage.players.items()
        )
    text = json.dumps(stage_document(stage, now), allow_nan=False)
    again = stage_from(json.loads(text), SHOW, 1000.0)
    assert (again.on_program, again.staged, again.black, again.held, again.kept) == (
        stage.on_program,
        stage.staged,
        stage.black,
        stage.held,
        stage.kept,
    )
    assert (again.edits, again.laid, again.players.keys()) == (stage.edits, stage.laid, stage.players.keys())
    assert all(_near(at.position(now + 9), again.players[id].position(1009.0)) for id, at in stage.players.items())
    for n in range(100):
        a, b = stage.program.at(now + n * 0.07), again.program.at(1000.0 + n * 0.07)
        for key in a:
            for x, y in zip(a[key], b[key], strict=True):
                assert _near(x, y), (n, key, x, y)
    for (a_motion, a_number), (b_motion, b_number) in zip(stage.back, again.back, strict=True):
        assert a_number == b_number and a_motion.target == b_motion.target


def _near(x: object, y: object) -> bool:
    """Equal, but for what another clock's rounding does."""
    if isinstance(x, float):
        return abs(x - y) < 1e-6 * max(1.0, abs(x))  # type: ignore[operator]
    if x == y:
        return True
    if isinstance(x, Still):
        return isinstance(y, Still) and _near(x.of, y.of)  # when it was taken is told on another clock
    if isinstance(x, tuple):
        return len(x) == len(y) and all(_near(a, b) for a, b in zip(x, y, strict=True))  # type: ignore[arg-type]
    return x == y


def test_a_stage_of_an_edited_show_keeps_what_is_still_there() -> None:
    stage = apply(SHOW, Stage.opened(SHOW), Recall(preset=7, seconds=4.0), 0.0)
    stage = apply(SHOW, stage, Black(outputs=("relay", "foyer")), 1.0)
    document = stage_document(stage, 2.0)
    fewer = SHOW.model_copy(
        update={
            "outputs": tuple(o for o in SHOW.outputs if o.id != "relay"),
            "canvases": SHOW.canvases[:1],
            "presets": (),
            "opening": None,
        }
    )
    again = stage_from(document, fewer, 0.0)
    assert again.black == {"foyer"} and {canvas for canvas, _ in again.program.target} == {SHOW.canvases[0].id}
    for bad in (
        None,
        {},
        {"format": "ushering-adze stage"},
        {
            **document,
            "program": {
                "target": [],
                "tracks": [
                    {
                        "canvas": "house",
                        "layer": "sky",
                        "kind": "place",
                        "begin": 3,
                        "end": "x",
                        "start": 0,
                        "seconds": 1,
                        "easing": "ease",
                    }
                ],
            },
        },
    ):
        with pytest.raises(ShowError, match="what was on air"):
            stage_from(bad, SHOW, 0.0)


@pytest.mark.parametrize(
    ("document", "words"),
    [
        ({}, "has no do; add it"),
        ({"do": "tkae"}, '"tkae" is not known here; write "take"'),
        ({"do": "stage"}, "preset: is missing"),
        (7, "must be an object"),
        ({"do": "stage", "preset": "seven"}, "must be a whole number"),
        ({"do": "hand", "position": 2}, "must be at most 1"),
        ({"do": "cut", "second": 1}, 'is not a field of the show format; write "seconds"'),
    ],
)
def test_what_is_no_action_is_one_sentence(document: object, words: str) -> None:
    with pytest.raises(ShowError, match=words):
        action_from(document)


def test_what_the_show_has_not_is_told_and_changes_nothing() -> None:
    assert (
        fault_of(SHOW, StagePreset(preset=55))
        == "no preset number 55; there are: 1, 2, 3, 4, 5, 6, 7, 8, 20, 21, 29, 30, 90"
    )
    assert fault_of(SHOW, Black(outputs=("rely",))) == 'no output "rely"; write "relay"'
    assert fault_of(SHOW, Keep(surface="meridiam")) == 'no surface or zone "meridiam"; write "meridian"'
    assert fault_of(SHOW, Take()) is None


# -- outputs and surfaces ----------------------------------------------------------------------------------------------


def test_black_and_hold_of_chosen_outputs() -> None:
    def after(*actions: Action) -> Stage:
        stage = Stage.opened(SHOW)
        for action in actions:
            stage = apply(SHOW, stage, action, 0.0)
        return stage

    assert [o for o in OUTPUTS if after(Black(outputs=("relay", "foyer"))).is_black(o)] == ["foyer", "relay"]
    some = after(Black(), Black(on=False, outputs=("relay",)))
    assert not some.is_black("relay") and all(some.is_black(o) for o in OUTPUTS if o != "relay")
    assert after(Black(outputs=("relay",)), Black(on=False)).black == frozenset()
    new = Output(id="new", number=77, name="New", timing=Timing(width=64, height=64))
    more = SHOW.model_copy(update={"outputs": (*SHOW.outputs, new)})
    assert after(Black()).with_show(more, 0.0).is_black("new"), "all is all, also what comes later"
    assert after(Hold(outputs=("foyer",))).is_held("foyer") and not after(Hold(outputs=("foyer",))).is_held("relay")


def shown_on(stage: Stage, surface: str, other: Stage) -> bool:
    """Whether two stages show the same on a surface once all has settled."""
    return surface not in {c.surface for c in delta(SHOW, stage.program.target, other.program.target)}


@pytest.mark.parametrize("number", NUMBERS)
@pytest.mark.parametrize("surface", SURFACES)
def test_a_kept_surface_is_touched_by_nothing_until_it_is_released(number: int, surface: str) -> None:
    opened = Stage.opened(SHOW)
    kept = apply(SHOW, opened, Keep(surface=surface), 0.0)
    for action in (Recall(preset=number, seconds=0.5), StagePreset(preset=number), Take(), Cut()):
        kept = apply(SHOW, kept, action, 1.0)
        assert shown_on(kept, surface, opened), action
        assert surface not in {c.surface for c in delta(SHOW, kept.program.target, kept.preview())}, (
            "nor does the preview say so"
        )
    freed = apply(SHOW, apply(SHOW, kept, Release(surface=surface), 2.0), Recall(preset=number, seconds=0.0), 2.0)
    assert shown_on(freed, surface, apply(SHOW, opened, Recall(preset=number, seconds=0.0), 0.0))


@pytest.mark.parametrize("number", NUMBERS)
def test_a_take_of_chosen_surfaces_brings_these_and_touches_no_layer_that_they_do_not_show(number: int) -> None:
    opened = Stage.opened(SHOW)
    staged = apply(SHOW, opened, StagePreset(preset=number), 0.0)
    whole = apply(SHOW, staged, Cut(), 0.0)
    for surface in SURFACES:
        part = apply(SHOW, staged, Cut(surfaces=(surface,)), 0.0)
        assert shown_on(part, surface, whole) and part.staged == number and part.on_program == opened.on_program
        for key, state in part.program.target.items():
            assert state in (opened.program.target[key], whole.program.target[key])
    assert apply(SHOW, staged, Cut(surfaces=()), 0.0).program.target == opened.program.target


# -- preview -----------------------------------------------------------------------------------------------------------


def done(*actions: Action, at: Stage | None = None, now: float = 0.0) -> Stage:
    """A stage after some actions."""
    stage = Stage.opened(SHOW) if at is None else at
    for action in actions:
        stage = apply(SHOW, stage, action, now)
    return stage


def test_what_is_changed_on_preview_goes_on_air_with_the_take_and_not_before() -> None:
    edit = action_from(
        {
            "do": "edit",
            "canvas": "house",
            "layer": "inset",
            "set": {"opacity": {"to": 1, "how": "faded"}, "picture": {"to": {"source": "orrery"}}},
        }
    )
    plain, edited = done(StagePreset(preset=7)), done(StagePreset(preset=7), edit)
    assert edited.program is plain.program or edited.program == plain.program
    inset = edited.preview()["house", "inset"]
    assert inset.opacity == 1 and inset.picture.source == "orrery" and plain.preview()["house", "inset"].opacity == 0
    assert inset.place == plain.preview()["house", "inset"].place, "what the edit does not hold is the preset's"
    taken = done(Take(), at=edited)
    assert taken.program.target == edited.preview() and not taken.previewing and taken.on_program == 7
    assert 0 < taken.program.at(1.0)["house", "inset"].opacity < 1, "it fades with the preset"
    alone = done(edit)
    assert alone.previewing and alone.staged is None
    assert done(Cut(), at=alone).program.target == alone.preview()
    assert not done(StagePreset(preset=5), at=edited).edits, "another preset on preview is that preset"


@pytest.mark.parametrize("surface", SURFACES)
def test_a_source_is_put_on_a_surface_in_the_layer_that_lies_there(surface: str) -> None:
    opened = Stage.opened(SHOW)
    on_preview = done(action_from({"do": "route", "surface": surface, "source": "orrery"}))
    assert on_preview.program == opened.program
    changes = {
        c.surface: c.after for c in delta(SHOW, opened.program.target, on_preview.preview(), lambda source: False)
    }
    assert "Orrery" in changes[surface] and set(changes) == {surface}, "and nothing else changes"
    at_once = done(action_from({"do": "route", "surface": surface, "source": "orrery", "on": "program", "seconds": 0}))
    assert at_once.program.target == on_preview.preview() and not at_once.program.tracks
    assert done(action_from({"do": "back"}), at=at_once).program.target == opened.program.target
    kept = done(
        Keep(surface=surface), action_from({"do": "route", "surface": surface, "source": "orrery", "on": "program"})
    )
    assert shown_on(kept, surface, opened), "a kept surface is kept from this too"


def test_players_are_sent_and_stopped_by_hand() -> None:
    stage = done(Recall(preset=7, seconds=0))
    assert stage.player("moon-phases").position(3.0) == 3.0
    stage = done(action_from({"do": "pause", "source": "moon-phases"}), at=stage, now=4.0)
    stage = done(Recall(preset=5, seconds=0), Recall(preset=7, seconds=0), at=stage, now=5.0)
    assert stage.player("moon-phases").position(9.0) == 4.0, "being taken again does not start what was paused by hand"
    stage = done(action_from({"do": "to", "source": "moon-phases", "seconds": 20}), at=stage, now=9.0)
    assert stage.player("moon-phases").position(11.0) == 20.0, "sent elsewhere it stands there"
    stage = done(action_from({"do": "play", "source": "moon-phases", "speed": 0.5}), at=stage, now=12.0)
    assert stage.player("moon-phases").position(14.0) == 21.0
    slides = done(action_from({"do": "page", "source": "slides", "to": 3}))
    assert slides.player("slides").position(1.0) == pytest.approx(2 * 12 + 1)
    assert (
        done(action_from({"do": "next", "source": "slides"}), at=slides, now=5.0).player("slides").position(5.0) == 36
    )
    assert "has no pages" in str(fault_of(SHOW, action_from({"do": "next", "source": "orrery"})))
    assert "has no length" in str(fault_of(SHOW, action_from({"do": "play", "source": "night"})))


def test_the_control_reference_has_every_action() -> None:
    page = (Path(__file__).parents[2] / "docs" / "control.md").read_text()
    assert table_of_actions() in page, (
        "python -c 'from ushering_adze.core.onair.actions import table_of_actions; print(table_of_actions())'"
    )
    assert len(KINDS_OF_ACTION) == 37
