"""Cue lists: properties over any order of firing, edits and moments; and each way a cue can fire."""

from __future__ import annotations

import json
from collections.abc import Sequence

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.exchange.cue_table import (
    as_tsv,
    pasted,
    renumbered,
    switched,
    with_cell,
    with_copies,
    with_cues_of_presets,
    with_new_cue,
    with_new_list,
    without_cues,
)
from ushering_adze.core.exchange.cue_words import does_from, does_words, fires_from, fires_words
from ushering_adze.core.onair.actions import (
    Arm,
    Cut,
    Edit,
    Fire,
    Go,
    Pause,
    Play,
    Recall,
    StartList,
    StopList,
    To,
    begun,
    fault_of,
    run_lists,
)
from ushering_adze.core.onair.actions import apply as applied
from ushering_adze.core.onair.cues import Seen, cue_seconds, head_of
from ushering_adze.core.onair.document import stage_document, stage_from
from ushering_adze.core.onair.on_time import behind, behind_words, on_for
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import is_sane
from ushering_adze.core.show import ColourSource, Show, ShowError, document_of, show_from_document
from ushering_adze.core.show.actions import Action, Back, Black, Keep, Lift, Override, Route
from ushering_adze.core.show.cue import (
    AfterFormer,
    AtPlayer,
    AtSignal,
    AtTime,
    ByHand,
    Cue,
    CueList,
    Doing,
)
from ushering_adze.core.show.variants import with_preset
from ushering_adze.core.text.clocks import seconds_of_day
from ushering_adze.demo.show import demo_show

DEMO = demo_show()


def cue(number: float, preset: int | None = None, fires: object = ByHand(), *more: tuple[float, Action]) -> Cue:
    does = ([] if preset is None else [Doing(action=Recall(preset=preset))]) + [
        Doing(action=a, delay=d) for d, a in more
    ]
    return Cue(id=f"c{number:g}".replace(".", "-"), number=number, does=tuple(does), fires=fires)


def show_with(*lists: CueList) -> Show:
    return show_from_document(document_of(DEMO.model_copy(update={"lists": lists})))


def evening(*cues: Cue, **more: object) -> Show:
    return show_with(CueList(id="evening", name="Evening", cues=cues, **more))


def stage_of(show: Show) -> Stage:
    return run_lists(begun(Stage.opened(show), 0.0), 0.0)


def at(stage: Stage, moment: float, *actions: Action, seen: Seen = Seen()) -> Stage:
    """The stage at a moment, then after actions there."""
    stage = run_lists(stage, moment, seen)
    for action in actions:
        stage = applied(stage.show, stage, action, moment)
    return run_lists(stage, moment, seen)


def fired_at(stage: Stage, list: str = "evening") -> tuple[str | None, str | None]:
    return head_of(stage, list).fired, head_of(stage, list).armed


def test_arming_stages_firing_recalls_and_arms_the_next() -> None:
    show = evening(cue(1, 1), cue(2, 6), cue(2.5, 7), cue(3, 8))
    stage = at(stage_of(show), 1.0, Arm(list="evening", cue="c2"))
    assert (stage.staged, stage.on_program) == (6, 5) and fired_at(stage) == (None, "c2")
    stage = at(stage, 2.0, Go(list="evening"))
    assert (stage.on_program, stage.staged) == (6, 7) and fired_at(stage) == ("c2", "c2-5")
    again = at(stage, 2.2, Go(list="evening"))
    assert again.on_program == 6 and head_of(again, "evening").ignored == 2.2, "a slip of the hand"
    stage = at(again, 2.4, Go(list="evening"))
    assert stage.on_program == 7 and fired_at(stage) == ("c2-5", "c3")
    stage = at(stage, 9.0, Go(list="evening"))
    assert fired_at(stage) == ("c3", None) and at(stage, 10.0, Go(list="evening")).on_program == 8


def test_what_was_edited_on_preview_is_left_there_by_arming() -> None:
    show = evening(cue(1, 1), cue(2, 6))
    edit = Edit.model_validate({"canvas": "house", "layer": "sky", "set": {"opacity": {"to": 0.5}}})
    stage = at(stage_of(show), 1.0, edit, Arm(list="evening", cue="c2"))
    assert stage.staged is None and len(stage.edits) == 1 and fired_at(stage) == (None, "c2")


def test_cues_follow_one_another_each_at_its_own_moment() -> None:
    black = Black()
    show = evening(
        cue(1, 1, ByHand(), (4.0, black)),
        cue(2, 6, AfterFormer()),
        cue(3, 7, AfterFormer(seconds=2.0)),
        cue(4, 8, AfterFormer(seconds=1.0, of="end")),
        cue(5, 5),
    )
    begin = at(stage_of(show), 10.0, Go(list="evening"))
    assert fired_at(begin) == ("c2", "c3") and begin.on_program == 6, "with the one before it"
    late, fine = at(begin, 60.0), begin
    for n in range(1, 601):
        fine = at(fine, 10.0 + n / 12)
    ends = 12.0 + cue_seconds(show, show.cue_list("evening").cues[2])
    assert fired_at(late) == fired_at(fine) == ("c4", "c5") and late.black == {"*"}
    assert head_of(late, "evening").at == head_of(fine, "evening").at == pytest.approx(ends + 1.0), "whatever the rate"
    assert late.program.at(60.0) == fine.program.at(60.0)
    assert fired_at(at(begin, 11.9)) == ("c2", "c3") and fired_at(at(begin, 12.0)) == ("c3", "c4")
    stopped = at(begin, 11.0, StopList(list="evening"))
    assert fired_at(at(stopped, 99.0)) == ("c2", "c3") and at(stopped, 99.0).black == frozenset(), "it stands"


def test_an_edit_fires_nothing_and_the_armed_one_stays_armed() -> None:
    show = evening(cue(1, 1), cue(2, 6, AfterFormer(seconds=60)), cue(3, 7))
    stage = at(stage_of(show), 10.0, Go(list="evening"))
    hasty = evening(cue(1, 1), cue(1.5, 4), cue(2, 6, AfterFormer(seconds=3)), cue(3, 7))
    stage = at(stage, 20.0).with_show(hasty, 20.0)
    assert fired_at(at(stage, 90.0)) == ("c1", "c2"), "no cue that would have come before the edit"
    assert fired_at(at(at(stage, 21.0, Go(list="evening")), 22.0)) == ("c2", "c3")
    gone = at(stage, 21.0).with_show(evening(cue(1, 1), cue(3, 7)), 21.0)
    assert fired_at(gone) == ("c1", None)


def test_by_a_player_by_the_clock_and_by_a_signal() -> None:
    clip = DEMO.source("star-trails")
    show = evening(
        cue(1, 4, AtPlayer(source=clip.id, at=3.0)),
        cue(2, 6, AtPlayer(source=clip.id)),
        cue(3, 7, AtTime(at="20:00:00")),
        cue(4, 8, AtSignal(name="gong")),
    )
    stage = at(stage_of(show), 0.0, To(source=clip.id, seconds=1.0), Play(source=clip.id, looping=False))
    seen = Seen(20 * 3600 - 100.0, {clip.id: 10.0})
    assert fired_at(at(stage, 1.9, seen=seen)) == (None, "c1")
    stage = at(stage, 2.5, seen=seen)
    assert fired_at(stage) == ("c1", "c2") and head_of(stage, "evening").at == 2.0
    paused = at(at(stage, 3.0, Pause(source=clip.id)), 30.0, seen=seen)
    assert fired_at(paused) == ("c1", "c2"), "who stands reaches nothing"
    stage = at(stage, 9.5, seen=seen)
    assert fired_at(stage) == ("c2", "c3") and head_of(stage, "evening").at == 9.0
    assert fired_at(at(stage, 10.0, seen=Seen(20 * 3600 - 1.0))) == ("c2", "c3")
    stage = at(stage, 12.0, seen=Seen(20 * 3600 + 0.5))
    assert fired_at(stage) == ("c3", "c4") and head_of(stage, "evening").at == 11.5
    assert fired_at(at(stage, 13.0, Fire(name="bell"))) == ("c3", "c4")
    assert fired_at(at(stage, 13.0, Fire(name="gong"))) == ("c4", None)


def test_a_stopped_list_does_nothing_by_itself_until_somebody_arms_a_cue() -> None:
    show = evening(
        cue(1, 1),
        cue(2, 7, AtTime(at="20:00:00")),
        cue(3, 8, AtSignal(name="gong")),
        cue(4, None, ByHand(), (0.0, StopList(list="evening"))),
        cue(5, 6, AfterFormer()),
    )
    stage = at(at(stage_of(show), 1.0, Go(list="evening")), 2.0, StopList(list="evening"))
    passed = Seen(20 * 3600 + 0.5)
    assert fired_at(at(stage, 3.0, seen=passed)) == ("c1", "c2"), "its time has come, and it stands"
    rearmed = at(stage, 2.5, Arm(list="evening", cue="c2"), seen=Seen(20 * 3600 - 0.1))
    assert fired_at(at(rearmed, 3.0, seen=Seen(20 * 3600 + 0.4))) == ("c2", "c3")
    silent = at(at(stage, 4.0, Arm(list="evening", cue="c3")), 5.0, StopList(list="evening"))
    assert fired_at(at(silent, 6.0, Fire(name="gong"))) == ("c1", "c3")
    itself = at(at(stage, 7.0, Go(list="evening", cue="c4")), 30.0)
    assert fired_at(itself) == ("c4", "c5") and head_of(itself, "evening").stopped, "a cue may stop its own list"
    document = json.loads(json.dumps(stage_document(itself, 30.0)))
    assert stage_from(document, show, 0.0).heads["evening"].stopped


@pytest.mark.parametrize(
    "action",
    [
        Route(surface="meridian", source="orrery", on="program"),
        Edit.model_validate({"canvas": "house", "layer": "wall", "set": {"opacity": {"to": 0.3}}, "on": "program"}),
        Recall(preset=7),
        Override(surfaces=("hall", "foyer-wall")),
        Lift(),
        Black(),
        Keep(surface="relay"),
        Back(),
    ],
)
def test_whatever_a_list_does_it_touches_its_own_surfaces_alone(action: Action) -> None:
    foyer = CueList(id="foyer", name="Foyer", cues=(cue(1, None, ByHand(), (0.0, action)),), claims=("foyer",))
    stage = at(stage_of(show_with(foyer)), 1.0, Override(surfaces=("meridian",), shows="hold"))
    after = at(stage, 2.0, Go(list="foyer"))
    changed = {c for (c, y), s in after.program.target.items() if s != stage.program.target[c, y]}
    assert changed <= {"foyer"} and head_of(after, "foyer").fired == "c1" and after.kept == frozenset()
    assert set(after.overrides) <= {"foyer-wall", "meridian"} and after.black <= {"foyer"}
    assert "meridian" in after.overrides, "what is another's stays"


def test_midnight_and_lists_whose_cues_wait_for_the_clock_in_any_order() -> None:
    foyer = CueList(
        id="foyer",
        name="Foyer",
        cues=(cue(1, 90, AtTime(at="18:00")), cue(2, 1, AtTime(at="10:00")), cue(3, 2, AtTime(at="00:00"))),
        any_order=True,
        previews=False,
    )
    stage, found = stage_of(show_with(foyer)), []
    for minute in range(1, 2 * 24 * 60, 7):
        stage = at(stage, minute * 60.0, seen=Seen((12 * 3600 + minute * 60.0) % 86400))
        if not found or found[-1] != head_of(stage, "foyer").fired:
            found.append(head_of(stage, "foyer").fired)
    assert found == [None, "c1", "c3", "c2", "c1", "c3", "c2"] and stage.staged is None


def test_a_loop_that_runs_by_itself_goes_on_for_ever_and_a_circle_does_not_hang() -> None:
    foyer = CueList(
        id="foyer",
        name="Foyer",
        cues=(cue(1, 1, AfterFormer(seconds=10)), cue(2, 2, AfterFormer(seconds=20))),
        loop=True,
        runs=True,
        previews=False,
    )
    stage, long = stage_of(show_with(foyer)), []
    for second in range(100):
        stage = at(stage, float(second))
        long.append(head_of(stage, "foyer").fired)
    assert [long.index("c2"), long.index("c1", 25), long.index("c2", 35)] == [20, 30, 50]
    circle = evening(
        Cue(id="a", number=1, does=(Doing(action=Recall(preset=1)),), fires=AfterFormer()),
        Cue(id="b", number=2, does=(Doing(action=Recall(preset=2)),), fires=AfterFormer()),
        loop=True,
    )
    assert at(stage_of(circle), 1.0, Go(list="evening")).on_program in (1, 2)
    with pytest.raises(ShowError, match="cue 1 of Evening would start itself; delay one on the way"):
        evening(cue(1, None, ByHand(), (0.0, StartList(list="evening"))), cue(2, 6))


def test_claims_are_kept() -> None:
    foyer = CueList(id="foyer", name="Foyer", cues=(cue(1, 90),), claims=("foyer-wall",), previews=False)
    show = show_with(CueList(id="evening", name="Evening", cues=(cue(1, 90),)), foyer)
    dark = show.preset(90).model_copy(update={"clears": tuple(c.id for c in show.canvases)})
    show = with_preset(show, dark)
    stage = at(stage_of(show), 1.0)
    before = stage.program.target
    dark = at(stage, 2.0, Go(list="foyer"))
    assert {c for (c, y), s in dark.program.target.items() if s != before[c, y]} == {"foyer"}
    assert dark.on_program == stage.on_program and dark.kept == frozenset()
    lit = at(at(dark, 20.0, Recall(preset=1)), 30.0)
    after = at(lit, 31.0, Go(list="evening"))
    assert {c for (c, y), s in after.program.target.items() if s != lit.program.target[c, y]} == {
        *("house", "lectern", "relay"),
    }, "while the foyer's list runs, no other touches it"


def test_bad_lists_are_a_sentence() -> None:
    with pytest.raises(ShowError, match="Evening has two cues 2; give this one another number"):
        evening(cue(1, 1), cue(2, 6), cue(2, 7).model_copy(update={"id": "other"}))
    assert fault_of(evening(cue(1, 1)), Go(list="evening", cue="c9")) is not None
    lost = evening(cue(1, 777), cue(2, 6))
    stage = at(stage_of(lost), 1.0, Go(list="evening"))
    assert fired_at(stage) == ("c1", "c2") and stage.on_program == 5, "what is gone is passed over; the list goes on"


def test_how_an_evening_stands_beside_its_plan() -> None:
    cues = [cue(n, n) for n in (1, 2, 3)]
    show = evening(
        cues[0].model_copy(update={"start": "23:58"}), cues[1], cues[2].model_copy(update={"start": "00:10"})
    )
    stage = stage_of(show)
    assert behind(stage, "evening", seconds_of_day("23:57")) is None and on_for(stage, "evening") is None
    stage = at(stage, 100.0, Go(list="evening"))
    stage = at(stage, 400.0)
    assert on_for(stage, "evening") == 300.0
    assert behind(stage, "evening", seconds_of_day("00:05")) == 120.0, "fired two minutes late, across midnight"
    stage = at(stage, 700.0, Arm(list="evening", cue="c3"))
    assert behind(stage, "evening", seconds_of_day("00:20")) == 720.0 and behind_words(720.0) == "12 min over"
    assert behind(stage, "evening", seconds_of_day("00:07")) == -60.0, "fired early"


WORDS = (
    "7",
    "7 in 2.5",
    "stage 4; +1 take in 0",
    "cut Foyer; black off Relay; hold",
    "override black Relay, Foyer; +2 override Hold card on Lectern; lift Foyer; lift; wait Evening",
    "keep Relay; +2.5 release Relay",
    "play Orrery; pause Star trails; to Orrery 12.5",
    "next Slides; previous Notes; page Notes 3",
    "Moon phases on Meridian in 2; nothing on Relay",
    "Stage camera on Relay; override Stage camera on Relay; stage 7",
    "start Evening; stop Evening; go Evening 2; arm Evening; signal gong",
    "back in 1; unstage",
)


@pytest.mark.parametrize("words", WORDS)
def test_what_a_cue_does_is_typed_and_told_in_the_same_words(words: str) -> None:
    show = evening(cue(1, 1), cue(2, 6))
    camera = ColourSource(id="stage-camera", name="Stage camera", fill="#203040")
    show = show.model_copy(update={"sources": (*show.sources, camera)})
    does = does_from(words, show)
    assert does_words(cue(9).model_copy(update={"does": does}), show) == words
    assert does_from(words.lower(), show) == does, "names in any case"


@pytest.mark.parametrize(
    "words", ["", "with", "+3", "end", "end +2.5", "20:00", "06:30:15", "Orrery end", "Orrery 12.5"]
)
def test_what_fires_a_cue_is_typed_and_told_in_the_same_words(words: str) -> None:
    assert fires_words(fires_from(words, DEMO), DEMO) == words


@pytest.mark.parametrize(
    ("column", "text", "why"),
    [
        ("does", "dance", "is nothing a cue does"),
        ("does", "play Orery", "Orrery"),
        ("does", "recall x", "is no number of a preset"),
        ("does", "page Notes", "needs a number behind"),
        ("does", "go Evening 9", "has no cue 9"),
        ("fires", "25:00", "is no time of day; type one like 20:00"),
        ("fires", "soon", "fires nothing; leave it empty"),
        ("number", "2", "there is a cue 2 already; type another number, such as 3"),
        ("length", "long", "long"),
        ("start", "8 pm", "is no time of day; type one like 20:00"),
    ],
)
def test_what_is_typed_wrong_is_a_sentence(column: str, text: str, why: str) -> None:
    show = evening(cue(1, 1), cue(2, 6))
    with pytest.raises(ShowError, match=why) as told:
        with_cell(show, "evening", ["c1"], column, text)
    assert len(told.value.faults) == 1


def test_a_table_is_pasted_whole_or_not_at_all_and_read_back() -> None:
    show, id = with_new_list(DEMO, "Evening")
    text = "number\tname\tfires\tdoes\tstart\n1\tDoors\t\t1\t19:30\n2\tWelcome\t+5\t3 in 2\t\n2.5\tSky\tend\t4\t\n"
    made = pasted(show, id, text)
    assert [(c.number, c.name, c.preset) for c in made.cue_list(id).cues] == [
        (1, "Doors", 1),
        (2, "Welcome", 3),
        (2.5, "Sky", 4),
    ]
    assert pasted(show, id, as_tsv(made, id)) == made
    with pytest.raises(ShowError, match="line 3: "):
        pasted(show, id, text.replace("3 in 2", "3 inn 2"))
    filled = with_cues_of_presets(made, id).cue_list(id)
    assert [c.preset for c in filled.cues[:3]] == [1, 3, 4] and [c.number for c in filled.cues[2:5]] == [2.5, 3, 4]
    assert sorted(c.preset for c in filled.cues) == sorted(p.number for p in made.presets)
    with pytest.raises(ShowError, match="every preset has its cue"):
        with_cues_of_presets(with_cues_of_presets(made, id), id)
    other, new = with_new_cue(made, id, 2.0, 7)
    assert other.cue_list(id).cue(new).number == 2.2 and other.cue_list(id).cue(new).name == "Moon reveal"
    again = renumbered(with_copies(switched(other, id, [new], True), id, [new]), id, 10, 5)
    assert [c.number for c in again.cue_list(id).cues] == [10, 15, 20, 25, 30]
    assert [c.name for c in again.cue_list(id).ordered] == ["Doors", "Welcome", "Sky"]
    assert len(without_cues(again, id, [c.id for c in again.cue_list(id).cues if c.off]).cue_list(id).cues) == 3


CUES = (
    cue(1, 1),
    cue(2, 6, AfterFormer(seconds=2)),
    cue(3, 7, ByHand(), (1.5, Cut())),
    cue(4, None, AfterFormer(seconds=1, of="end"), (0.5, Recall(preset=4)), (0.5, Fire(name="gong"))),
    cue(5, 8, AtSignal(name="gong")),
)
SHOWS = [evening(*CUES), evening(*CUES[1:], loop=True), evening(CUES[0], cue(2, 2, AfterFormer(seconds=1)), CUES[4])]
DONE = st.one_of(
    st.builds(Go, list=st.just("evening")),
    st.builds(Arm, list=st.just("evening"), cue=st.sampled_from(["c1", "c2", "c3", "c4", "c5", None])),
    st.just(StopList(list="evening")),
    st.just(StartList(list="evening")),
    st.just(Fire(name="gong")),
    st.builds(Recall, preset=st.sampled_from([1, 5, 7])),
    st.integers(0, len(SHOWS) - 1),
)


@settings(max_examples=60, deadline=None)
@given(steps=st.lists(st.tuples(st.floats(0, 3), DONE), max_size=12), last=st.floats(0, 9))
def test_any_firing_jump_and_edit_leaves_a_sane_head_and_stage(
    steps: Sequence[tuple[float, object]], last: float
) -> None:
    stage, now = stage_of(SHOWS[0]), 0.0
    for seconds, what in [*steps, (last, None)]:
        now += seconds
        if isinstance(what, int):
            before, touched = fired_at(run_lists(stage, now)), "evening" in stage.heads
            stage = run_lists(run_lists(stage, now).with_show(SHOWS[what], now), now)
            ids = {c.id for c in SHOWS[what].lists[0].cues}
            assert not touched or fired_at(stage) == tuple(i if i in ids else None for i in before), (
                "an edit fires nothing"
            )
        else:
            stage = at(stage, now, *([] if what is None else [what]))
        head, ids = head_of(stage, "evening"), {c.id for c in stage.show.lists[0].cues}
        assert head.armed in {*ids, None} and head.fired in {*ids, None}
        assert all(c.at > now for c in head.coming) and (head.at is None or head.at <= now)
        assert all(is_sane(s) for s in stage.program.at(now).values())
    document = json.loads(json.dumps(stage_document(stage, now)))
    for later in (now + 0.7, now + 30.0):
        again = stage_from(document, stage.show, 500.0)
        one, other = run_lists(stage, later), run_lists(again, 500.0 + later - now)
        assert fired_at(one) == fired_at(other) and one.on_program == other.on_program, "it comes back as it was"


def test_a_shuffled_list_shows_all_in_no_order_and_none_again_at_once() -> None:
    cues = tuple(cue(n, n, AfterFormer(seconds=10)) for n in range(1, 9))
    foyer = CueList(id="foyer", name="Foyer", cues=cues, loop=True, shuffle=True, previews=False)
    stage, found = at(stage_of(show_with(foyer)), 1.0, Go(list="foyer")), list[str]()
    for second in range(2, 3000):
        stage = at(stage, float(second))
        fired = head_of(stage, "foyer").fired
        if fired is not None and (not found or found[-1] != fired):
            found.append(fired)
    assert len(found) > 290 and set(found) == {c.id for c in cues}
    assert all(len(set(found[n : n + 4])) == 4 for n in range(len(found) - 4)), "what was on of late does not come"
    assert found[:8] != sorted(found[:8]) and len({tuple(found[n : n + 3]) for n in range(len(found) - 3)}) > 60
