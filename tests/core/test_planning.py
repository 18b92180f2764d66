"""The plan of an evening: what is worked out beforehand is what really comes."""

from __future__ import annotations

import csv
import io
import random

import numpy as np
import pypdfium2 as pdfium
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.exchange.run_sheet import room_picture, run_csv, run_rows
from ushering_adze.core.onair.actions import Arm, Go, Planner, apply, plan_of, run_lists, stages_of
from ushering_adze.core.onair.cues import cue_seconds, head_of
from ushering_adze.core.onair.delta import seen_through_by_kind
from ushering_adze.core.onair.motion import at_rest
from ushering_adze.core.onair.oddities import oddities
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.timeline import place_of_now, preview_of, timeline_of
from ushering_adze.core.show import Show, document_of, show_from_document
from ushering_adze.core.show.actions import Action, Black, Edit, Keep, Lift, Override, Recall, Release, Route
from ushering_adze.core.show.cue import ByHand, Cue, CueList, Doing, number_words
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.offline import acted
from ushering_adze.io.exchange.run_sheets import run_pdf

DEMO = demo_show()
ACTIONS: tuple[Action, ...] = (
    *(Recall(preset=n) for n in (1, 3, 4, 6, 7, 8, 20, 21, 30, 90)),
    Black(outputs=("relay",)),
    Black(on=False),
    Keep(surface="meridian"),
    Release(surface="meridian"),
    Override(surfaces=("relay", "lectern"), shows="source", source="hold-card"),
    Override(surfaces=("foyer-wall",)),
    Lift(surfaces=("relay",)),
    Route(surface="lectern", source="slides", on="program"),
    Edit.model_validate(
        {"canvas": "house", "layer": "sky", "set": {"opacity": {"to": 0.5, "how": "faded"}}, "on": "program"}
    ),
)


def listed(numbers: list[tuple[int, float]]) -> Show:
    """Cues that do these, each with a delay."""
    cues = tuple(
        Cue(id=f"c{n}", number=n + 1, does=(Doing(action=ACTIONS[k], delay=delay),))
        for n, (k, delay) in enumerate(numbers)
    )
    return DEMO.model_copy(update={"lists": (CueList(id="e", name="E", cues=cues),)})


def really(show: Show, upto: int) -> Stage:
    """The stage when so many cues were fired, a minute apart."""
    stage = run_lists(Stage.opened(show), 0.0)
    for n in range(upto):
        stage = apply(show, run_lists(stage, 60.0 * n + 60), Go(list="e", cue=f"c{n}"), 60.0 * n + 60)
        stage = run_lists(stage, 60.0 * n + 119)
    return stage


STEPS = st.lists(st.tuples(st.integers(0, len(ACTIONS) - 1), st.sampled_from([0.0, 0.0, 1.5])), min_size=1, max_size=7)


@settings(max_examples=40, deadline=None)
@given(steps=STEPS)
def test_as_if_all_before_had_run_equals_really_having_run_them(steps: list[tuple[int, float]]) -> None:
    show = listed([*steps, (4, 0.0)])
    last = f"c{len(steps)}"
    run = really(show, len(steps)).recall(ACTIONS[4].preset, 1e5, cut=True)
    skipped = apply(show, run_lists(Stage.opened(show), 5.0), Arm(list="e", cue=last, as_if=True), 5.0)
    assert head_of(skipped, "e").armed == last
    if not run.kept:  # what is kept from takes is kept from this one too
        assert skipped.preview() == at_rest(run.program.target).target
        fired = run_lists(apply(show, skipped, Go(list="e"), 6.0), 6.0)
        assert fired.program.target == at_rest(run.program.target).target and fired.on_program == ACTIONS[4].preset
    alone = apply(show, skipped, Arm(list="e", cue=last), 7.0)
    assert alone.preview() == Stage.opened(show).stage(ACTIONS[4].preset).preview(), "as it stands alone"


@settings(max_examples=20, deadline=None)
@given(steps=STEPS)
def test_the_plan_is_what_comes_after_each_cue(steps: list[tuple[int, float]]) -> None:
    show = listed(steps)
    plan = plan_of(show, "e")
    for n in range(len(steps)):
        stage = really(show, n + 1)
        for surface in show.surfaces:
            dark = all(stage.is_black(r.output) for r in show.feeds_of(surface.id))
            assert (plan.cells[surface.id][n].state == "black") == dark
            assert (plan.cells[surface.id][n].state == "kept") == (surface.id in stage.kept and not dark)


def test_every_cell_is_what_is_painted_after_the_same_cues() -> None:
    """`adze act` paints; what its rasters were painted from is what the plan says."""
    show = show_from_document(document_of(DEMO))
    evening = show.cue_list("evening")
    few = [c.model_copy(update={"fires": ByHand()}) for c in evening.cues if c.number in (1, 6, 8, 12)]
    held = show.model_copy(update={"lists": (evening.model_copy(update={"cues": tuple(few)}), *show.lists[1:])})
    script: list[tuple[float, Action | str]] = []
    for n, cue in enumerate(few):
        script += [(5.0 * n, Go(list="evening", cue=cue.id)), (5.0 * n + 4.5, cue.id)]
    opaque = {*("star-trails", "orrery", "moon-phases", "roof-camera", "aisle-camera"), "patrons", "slides", "notes"}
    by_kind = seen_through_by_kind(held)
    plan = plan_of(held, "evening", lambda source: source not in {*opaque, "hold-card"} and by_kind(source))
    shots = list(acted(held, script))
    assert [s.name for s in shots] == [c.id for c in plan.cues] and len(shots) == 4
    for column, shot in enumerate(shots):
        for surface in held.surfaces:
            cell, told = plan.cells[surface.id][column], shot.surfaces[surface.id]
            assert (cell.words in ("black", "nothing")) == (told.state == "black"), (surface.id, shot.name)
            assert cell.state == "black" or cell.sources == told.sources, (surface.id, shot.name)


def test_what_is_odd_in_a_plan() -> None:
    sources = tuple(s.model_copy(update={"not_on_streams": True}) if s.id == "slides" else s for s in DEMO.sources)
    show = listed([(1, 0.0), *((k, 0.0) for k in (4, 0, 4, 5)), (9, 0.0)]).model_copy(update={"sources": sources})
    stays = Doing(action=Keep(surface="west-mast"))
    first = show.lists[0].cues[0]
    cues = (first.model_copy(update={"does": (*first.does, stays)}), *show.lists[0].cues[1:])
    show = show.model_copy(update={"lists": (show.lists[0].model_copy(update={"cues": cues}),)})
    plan = plan_of(show, "e", seen_through_by_kind(show))
    odd = oddities(show, plan, lost={"notes"}, replaced={"roof-camera"})
    said = {words for found in odd.values() for words in found}
    assert "Notes is lost" in said and {s for s, _ in odd if "Notes is lost" in odd[s, _]} == {"lectern"}
    assert "the stream is black" in odd["relay", 5], "House black"
    streams = [s for (s, n), words in odd.items() if any("not meant for a stream" in w for w in words)]
    assert set(streams) <= {"relay"}
    forgotten = {(s, n) for (s, n), words in odd.items() if any("the same for 4 cues" in w for w in words)}
    arch = {"west-mast", "horizon", "east-mast"}
    for surface in arch:
        for n, cell in enumerate(plan.cells[surface]):
            beside = [plan.cells[s][max(0, n - 3) : n + 1] for s in arch - {surface}]
            wanted = cell.since == 4 and bool(cell.ids) and all(any(c.changed for c in row) for row in beside)
            assert ((surface, n) in forgotten) == wanted
    assert {s for s, _ in forgotten} <= {*arch, "meridian"} and forgotten, "kept while the others went on"


def test_the_evening_along_time() -> None:
    show = DEMO
    plan = plan_of(show, "evening", seen_through_by_kind(show))
    line = timeline_of(show, plan, {"orrery": 20.0, "slides": 144.0})
    at = {c.number: seconds for seconds, c in line.cues}
    assert line.day == 19.5 * 3600 and at[1] == 0 and at[2] == 25 * 60 and at[3] == 30 * 60
    assert at[4] == at[3] + 240, "behind the length of the one before"
    assert at[7.5] == at[7] + 12 and at[8] == at[7.5] + 20, "as they follow"
    assert at[10] == at[9] + cue_seconds(show, plan.cues[9]) + 8, "behind its end"
    for surface, spans in line.rows.items():
        assert spans[0].begin == 0 and spans[-1].end == line.end
        assert [a.end for a in spans[:-1]] == [b.begin for b in spans[1:]]
        begun = [0.0, *(m for (m, _), c in zip(line.cues, plan.cells[surface], strict=True) if c.changed and m)]
        assert [s.begin for s in spans] == begun
    assert line.players["orrery"][0][::2] == (0.0, 20.0)
    stage = apply(show, run_lists(Stage.opened(show), 5.0), Go(list="evening", cue="cue-5"), 5.0)
    assert place_of_now(run_lists(stage, 65.0), "evening", line) == at[5] + 60
    assert place_of_now(run_lists(stage, 65_000.0), "evening", line) == at[6], "no further than the next cue"


@settings(max_examples=15, deadline=None)
@given(steps=STEPS)
def test_scrubbing_shows_on_preview_what_would_be_on_and_nothing_else_changes(steps: list[tuple[int, float]]) -> None:
    show = listed(steps)
    stages = stages_of(show, "e")
    stage = apply(show, run_lists(Stage.opened(show), 5.0), Recall(preset=3, seconds=0), 5.0)
    for n, cue in enumerate(show.lists[0].ordered):
        scrubbed = apply(show, stage, preview_of(stage, stages[n].program.target, cue.preset), 6.0)
        assert scrubbed.program is stage.program and scrubbed.heads == stage.heads
        assert scrubbed.preview() == stages[n].program.target


def test_a_run_sheet_has_every_cue_with_its_times() -> None:
    evening = DEMO.cue_list("evening")
    rows = run_rows(DEMO, evening, {"cue-5": 20 * 3600 + 370.0})
    assert [(r.number, r.planned) for r in rows[:4]] == [
        *(("1", "19:30:00"), ("2", "19:55:00"), ("3", "20:00:00"), ("4", "20:04:00")),
    ]
    assert rows[4].real == "20:06:10" and rows[4].length == "20:00" and rows[3].real == ""
    read = list(csv.DictReader(io.StringIO(run_csv(rows))))
    assert [r["number"] for r in read] == [number_words(c.number) for c in evening.ordered]
    assert read[7]["fires"] == "+12" and read[0]["does"] == "preset 1; start Foyer loop  (Doors open)"
    red = np.zeros((30, 40, 4), np.uint8)
    red[..., 2:] = 255
    room = room_picture(DEMO, {"horizon": red, "relay": red}, 396, 150)
    shown = (room[..., 2] == 255) & (room[..., 0] == 0)
    assert shown.any() and (room[..., 3] == 255).all() and shown[:, 320:].any(), (
        "the stream hangs nowhere: it is beside"
    )
    pdf = run_pdf("Evening", rows, lambda id: room)
    pages = pdfium.PdfDocument(pdf)
    words = "".join(page.get_textpage().get_text_range() for page in pages)
    assert len(pages) == 2 and all(c.name in words for c in evening.ordered) and "real 20:06:10" in words
    assert sum(1 for page in pages for thing in page.get_objects() if thing.type == 3) == len(rows), "a picture each"


def edited(show: Show, dice: random.Random) -> Show:
    """The show with one thing of its list, or one preset, another."""
    cues, presets = list(show.lists[0].cues), list(show.presets)
    at = dice.randrange(len(cues)) if cues else 0
    match dice.randrange(6):
        case 0 if cues:
            cues[at] = cues[at].model_copy(update={"does": (Doing(action=dice.choice(ACTIONS)),)})
        case 1 if cues:
            cues[at] = cues[at].model_copy(update={"off": not cues[at].off})
        case 2 if cues:
            cues[at] = cues[at].model_copy(update={"name": "another"})
        case 3 if cues:
            del cues[at]
        case 4:
            n = dice.randrange(len(presets))
            presets[n] = presets[n].model_copy(update={"parts": presets[n].parts[1:]})
        case _:
            number = round(dice.uniform(0, 99), 3)
            made = Cue(id=f"n{round(number * 1000)}", number=number, does=(Doing(action=dice.choice(ACTIONS)),))
            cues = sorted([*(c for c in cues if c.number != number), made], key=lambda c: c.number)
    lists = (show.lists[0].model_copy(update={"cues": tuple(cues)}),)
    return show.model_copy(update={"lists": lists, "presets": tuple(presets)})


def test_a_plan_that_follows_edits_is_the_plan_worked_out_anew() -> None:
    dice = random.Random(8)
    for _ in range(12):
        show, planner = listed([(dice.randrange(len(ACTIONS)), 0.0) for _ in range(20)]), Planner()
        planner.plan(show, "e")
        for _ in range(15):
            show = edited(show, dice)
            assert planner.plan(show, "e") == Planner().plan(show, "e")
            assert [s.program.target for s in planner.stages] == [s.program.target for s in stages_of(show, "e")]


def test_a_plan_works_out_no_more_than_an_edit_has_changed() -> None:
    show, planner = listed([(n % 8, 0.0) for n in range(200)]), Planner()
    planner.plan(show, "e")
    assert planner.worked == 200
    cues = list(show.lists[0].cues)
    cues[50] = cues[50].model_copy(update={"does": (Doing(action=ACTIONS[7]),)})
    planner.plan(show.model_copy(update={"lists": (show.lists[0].model_copy(update={"cues": tuple(cues)}),)}), "e")
    assert planner.worked < 40


def test_as_if_holds_for_a_recall_that_is_delayed() -> None:
    show = listed([(4, 0.0), (0, 0.0), (6, 2.0)])
    stage = apply(show, run_lists(Stage.opened(show), 5.0), Arm(list="e", cue="c2", as_if=True), 5.0)
    wanted = stage.preview()
    assert head_of(stage, "e").as_if and stage.edits
    stage = run_lists(apply(show, stage, Go(list="e"), 6.0), 7.9)
    assert stage.program.target != wanted and stage.preview() == wanted, "it waits on preview"
    stage = run_lists(stage, 8.1)
    assert at_rest(stage.program.target).target == wanted and stage.edits == ()
