"""Overrides and rehearsals: what surfaces show in place of everything else, and what stays as it is meanwhile."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ushering_adze.core.onair.actions import apply, fault_of, run_lists
from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.onair.document import stage_document, stage_from
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Show, ShowError
from ushering_adze.core.show.actions import Go, Keep, Lift, Override, Recall, Rehearse, Take
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.offline import Shoot, acted, script_from
from ushering_adze.io.showfile import read_show
from waiting import wait_for


def shot(show: Show, *script: tuple[float, object]) -> dict[str, Shoot]:
    return {s.name: s for s in acted(show, script)}  # type: ignore[arg-type]


@pytest.fixture(scope="module")
def at_hand(demo_file: Path) -> Show:
    return read_show(demo_file)


def same(a: Shoot, b: Shoot, outputs: tuple[str, ...]) -> bool:
    return all(np.array_equal(a.rasters[o], b.rasters[o]) for o in outputs)


OTHERS = ("processor-a", "processor-b", "projector-left", "projector-right", "lectern", "relay")


def test_a_surface_shows_its_override_and_nothing_else_changes(at_hand: Show) -> None:
    over = Override(surfaces=("foyer-wall",), shows="black", by="Adaeze")
    shots = shot(
        at_hand,
        *((0, Recall(preset=1, seconds=0)), (1, "before"), (1, over), (1, "black"), (1, Lift()), (1, "after")),
        *((1, over.model_copy(update={"shows": "source", "source": "hold-card"})), (1, "card")),
        *((1, over.model_copy(update={"shows": "pattern"})), (1, "pattern"), (1, Lift()), (1, "last")),
    )
    before = shots["before"]
    assert not shots["black"].rasters["foyer"][..., :3].any() and before.rasters["foyer"][..., :3].any()
    assert shots["black"].surfaces["foyer-wall"].state == "override"
    assert shots["card"].surfaces["foyer-wall"].sources == ("Hold card",)
    assert not np.array_equal(shots["pattern"].rasters["foyer"], shots["card"].rasters["foyer"])
    for name in ("black", "card", "pattern"):
        assert same(before, shots[name], OTHERS), name
    for name in ("after", "last"):
        assert same(before, shots[name], (*OTHERS, "foyer")), name


def test_blends_and_bends_are_those_of_the_surface(at_hand: Show) -> None:
    """A source over a blended pair of projectors, and the same source routed there: the same rasters."""
    night = Override(surfaces=("horizon",), shows="source", source="night")
    shots = shot(at_hand, (0, Recall(preset=5, seconds=0)), (1, night), (1, "over"), (1, Lift()), (1, "show"))
    over = shots["over"].rasters["projector-left"].astype(int)
    assert not same(shots["over"], shots["show"], ("projector-left",))
    blended = over[over.shape[0] // 2, :, :3].sum(axis=1)
    assert blended[blended > 0].max() > blended[blended > 0].min(), "the light of the overlap is shared"


def test_it_is_above_takes_recalls_and_kept_surfaces(at_hand: Show) -> None:
    over = Override(surfaces=("hall", "relay"), shows="hold")
    shots = shot(
        at_hand,
        *((0, Recall(preset=4, seconds=0)), (1, "before"), (1, Keep(surface="relay")), (1, over)),
        *((2, Recall(preset=8, seconds=0)), (3, "held"), (3, Lift(surfaces=("hall",))), (3, "lifted")),
    )
    house = ("processor-a", "processor-b", "projector-left", "projector-right")
    assert same(shots["before"], shots["held"], (*house, "relay"))
    assert not same(shots["before"], shots["lifted"], house)
    assert same(shots["before"], shots["lifted"], ("relay",)), "only what is named is lifted"


def test_a_clip_goes_on_in_an_override_while_a_cue_runs_under_it(at_hand: Show) -> None:
    over = Override(surfaces=("foyer-wall",), shows="source", source="roof-camera")
    shots = shot(at_hand, (0, over), (1, "one"), (1.2, "two"), (1.3, Recall(preset=90, seconds=0)), (1.5, "three"))
    pictures = [shots[n].rasters["foyer"] for n in ("one", "two", "three")]
    assert not np.array_equal(pictures[0], pictures[1]) and not np.array_equal(pictures[1], pictures[2])
    assert pictures[2][..., :3].max() > 0


def test_what_is_wrong_with_an_override_is_said(show: Show) -> None:
    with pytest.raises(ShowError, match="name a source where one is shown"):
        script_from([{"at": 0, "action": {"do": "override", "surfaces": ["relay"], "shows": "source"}}])
    assert 'no surface or zone "nowhere"' in (fault_of(show, Override(surfaces=("nowhere",))) or "")
    assert 'no cue list "nothing"' in (fault_of(show, Rehearse(list="nothing")) or "")


def test_overrides_outlive_a_document_and_go_with_their_surface(show: Show) -> None:
    stage = apply(show, Stage.opened(show), Override(surfaces=("relay",), by="Adaeze"), 5.0)
    stage = apply(show, stage, Override(surfaces=("lectern",), shows="source", source="grid"), 6.0)
    back = stage_from(json.loads(json.dumps(stage_document(stage, 10.0))), show, 100.0)
    assert back.overrides["relay"].since == pytest.approx(95.0) and back.overrides["relay"].by == "Adaeze"
    again = apply(show, stage, Override(surfaces=("relay",), by="Somebody"), 9.0)
    assert again.overrides["relay"].since == 5.0, "the same once more is since then"
    gone = show.model_copy(update={"sources": tuple(s for s in show.sources if s.id != "grid")})
    assert set(stage.fitted(gone).overrides) == {"relay"}


# -- rehearsing ------------------------------------------------------------------------------------------------------


def test_a_rehearsal_runs_beside_what_is_on_air(show: Show) -> None:
    stage = apply(show, Stage.opened(show), Recall(preset=1, seconds=0), 0.0)
    stage = apply(show, stage, Rehearse(list="evening", speed=4), 1.0)
    program = stage.program
    stage = apply(show, stage, Go(list="evening", cue="cue-7"), 1.0)
    stage = run_lists(stage, 1.0)
    assert stage.rehearsal is not None and head_of(stage.rehearsal.stage, "evening").fired == "cue-7"
    assert head_of(stage, "evening").fired is None and stage.program is program and stage.on_program == 1
    stage = run_lists(stage, 1.0 + 11.9 / 4)
    assert stage.rehearsal is not None and head_of(stage.rehearsal.stage, "evening").fired == "cue-7"
    stage = run_lists(stage, 1.0 + 12.1 / 4)
    assert stage.rehearsal is not None and head_of(stage.rehearsal.stage, "evening").fired == "cue-7-5", "four times"
    assert stage.program is program
    stage = apply(show, stage, Rehearse(), 9.0)
    assert stage.rehearsal is None and stage.program is program and head_of(stage, "evening").fired is None


def test_step_by_step_each_cue_is_at_rest_at_once(show: Show) -> None:
    stage = apply(show, Stage.opened(show), Rehearse(list="evening", speed=0), 0.0)
    alone = Stage.opened(show)
    for n, number in enumerate((1, 2, 3, 4, 5)):
        stage = apply(show, stage, Go(list="evening"), float(n))
        alone = apply(show, alone, Recall(preset=number, seconds=0), float(n))
        assert stage.rehearsal is not None and not stage.rehearsal.stage.program.tracks
        house = {k: v for k, v in alone.program.target.items() if k[0] != "foyer"}
        mine = stage.rehearsal.stage.program.target
        assert {k: v for k, v in mine.items() if k[0] != "foyer"} == house


def test_its_list_does_nothing_by_itself_on_air_and_takes_are_as_ever(show: Show) -> None:
    stage = apply(show, Stage.opened(show), Go(list="foyer-loop"), 0.0)
    fired = head_of(stage, "foyer-loop").fired
    stage = apply(show, stage, Rehearse(list="foyer-loop"), 1.0)
    tried = set()
    for second in range(2, 200, 5):
        stage = run_lists(stage, float(second))
        assert stage.rehearsal is not None
        tried.add(head_of(stage.rehearsal.stage, "foyer-loop").fired)
    assert head_of(stage, "foyer-loop").fired == fired and tried == {"foyer-1", "foyer-2"}
    stage = apply(show, apply(show, stage, Recall(preset=3, seconds=0), 200.0), Take(), 200.0)
    assert stage.on_program == 3


@pytest.fixture
def engine() -> Iterator[Engine]:
    made = Engine(demo_show())
    made.start(wait=60)
    yield made
    made.stop()


def test_one_surface_is_let_through_in_the_running_engine(engine: Engine) -> None:
    def lit() -> bool:
        return bool(engine.rasters["relay"][..., :3].max() > 40)  # its bare canvas is darker

    engine.act(Recall(preset=90, seconds=0))
    assert wait_for(lambda: engine.stage.on_program == 90 and not lit())
    engine.act(Rehearse(list="evening", speed=0, let=("relay",)))
    engine.act(Go(list="evening", cue="cue-5"))
    assert wait_for(lit), "the relay shows the rehearsal"
    assert not engine.rasters["processor-a"][..., :3].any() and engine.stage.on_program == 90
    engine.act(Rehearse(list="evening", speed=0))
    assert wait_for(lambda: not lit()), "nothing of it is let through any more"
    engine.act(Override(surfaces=("relay",), shows="pattern"))
    assert wait_for(lit)
    engine.act(Lift())
    assert wait_for(lambda: not lit())
    assert engine.faults().get("frames") is None
