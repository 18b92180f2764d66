"""Presets of another show brought into this one: they show there what they showed here, and nothing else changes."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.exchange.from_show import brought, in_conflict, needs_of
from ushering_adze.core.kinds.keying import FillKey
from ushering_adze.core.kinds.shape import Shape
from ushering_adze.core.kinds.spread import Spread
from ushering_adze.core.onair.motion import at_rest, opening_motion, recall
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.show import Part, Picture, Preset, Show, ShowError, with_held
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.fresh import fresh_show
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.show.way import Way
from ushering_adze.demo.show import demo_show

DEMO = demo_show()
NUMBERS = [p.number for p in DEMO.presets]


def bare() -> Show:
    """The rig of the demo, without sources, layers, presets, zones and finishes."""
    canvases = tuple(changed(c, layers=()) for c in DEMO.canvases)
    return changed(DEMO, canvases=canvases, sources=(), presets=(), zones=(), finishes=(), opening=None)


def seen(show: Show, number: int) -> dict[tuple[str, str], object]:
    preset = show.preset(number)
    assert preset is not None
    state = recall(show, at_rest(opening_motion(show).target), preset, 0.0, cut=True).target
    return {key: value for key, value in state.items() if value.opacity > 0 and sources_of({key: value})}


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(NUMBERS), min_size=1, max_size=4, unique=True), st.sampled_from(["here", "bring"]))
def test_presets_show_in_another_show_what_they_showed(numbers: list[int], same: str) -> None:
    made, under = brought(bare(), DEMO, numbers, same)  # type: ignore[arg-type]
    assert not faults_of(made) and under == {n: n for n in numbers}
    assert made.surfaces == DEMO.surfaces and made.outputs == DEMO.outputs
    for number in numbers:
        parts = {(p.canvas, p.layer) for p in DEMO.preset(number).parts}  # type: ignore[union-attr]
        wanted = {key: value for key, value in seen(DEMO, number).items() if key in parts}
        assert seen(made, number) == wanted, number
    needs = needs_of(DEMO, numbers)
    assert {s.id for s in made.sources} == set(needs.sources)
    again, fresh = brought(made, DEMO, numbers, same)  # type: ignore[arg-type]
    assert not faults_of(again) and again.sources == made.sources, "what is the same comes once"
    assert set(fresh.values()).isdisjoint(numbers) and len(again.presets) == 2 * len(numbers)
    assert all(p.key is None for p in again.presets if p.number in fresh.values()), "a key is one preset's"


def test_what_differs_is_named_and_used_or_brought_as_a_copy() -> None:
    mine = changed(
        DEMO,
        sources=tuple(changed(s, colour="#FFFFFF") if s.id == "orrery" else s for s in DEMO.sources),
        zones=(changed(DEMO.zones[0], holds=("horizon",)), *DEMO.zones[1:]),
    )
    assert in_conflict(mine, DEMO, [30]) == ("Orrery", "Arch") and in_conflict(mine, DEMO, [5]) == ()
    used, under = brought(mine, DEMO, [30])
    assert under == {30: 31} and used.sources == mine.sources and used.zones == mine.zones
    copied, under = brought(mine, DEMO, [30], "bring")
    part = copied.preset(under[30]).parts[0]  # type: ignore[union-attr]
    assert part.holds.picture.to.source == "orrery-2" and copied.source("orrery-2").name == "Orrery 2"
    assert part.holds.spread.to.zone == "arch-2" and copied.zones[-1].holds == DEMO.zones[0].holds
    assert copied.source("orrery") == mine.source("orrery") and not faults_of(copied)


def test_all_that_is_named_anywhere_comes_along_under_its_new_name() -> None:
    """A key, a mask, a backup, what a wipe goes by: each is found and renamed."""
    sources = {s.id: s for s in DEMO.sources}
    lost = changed(sources["orrery"].when_lost, backup="hold-card")
    keyed = changed(sources["orrery"], when_lost=lost)
    theirs = changed(DEMO, sources=tuple(keyed if s.id == "orrery" else s for s in DEMO.sources))
    part = with_held(Part(canvas="house", layer="wall"), "picture", Picture(source="orrery"))
    part = with_held(part, "shape", Shape(mask="moon-phases"))
    part = with_held(part, "key", FillKey(source="star-trails"))
    part = with_held(part, "spread", Spread(over="in-turn", zone="hall", sources=("slides", "notes")))
    way = Way(kind="wipe", form="picture", source="moon-wipe")
    preset = Preset(id="all", number=70, name="All", parts=(part,), way=way)
    theirs = changed(theirs, presets=(*theirs.presets, preset))
    ids = {"orrery", "hold-card", "moon-phases", "star-trails", "slides", "notes", "moon-wipe"}
    assert set(needs_of(theirs, [70]).sources) == ids and needs_of(theirs, [70]).zones == ("arch", "hall")
    other = changed(DEMO, sources=tuple(changed(s, colour="#FFFFFF") for s in DEMO.sources))
    made, under = brought(other, theirs, [70], "bring")
    assert not faults_of(made)
    got = made.preset(under[70])
    assert got is not None and got.way is not None and got.way.source == "moon-wipe-2"
    assert {id for _, id in got.parts[0].named()} == {f"{id}-2" for id in ids - {"hold-card", "moon-wipe"}}
    assert made.source("orrery-2").when_lost.backup == "hold-card-2"


def test_a_show_of_another_rig_gets_canvases_without_regions_and_refuses_zones_of_nothing() -> None:
    small = fresh_show("Small", (), [])
    made, _ = brought(small, DEMO, [6])
    assert not faults_of(made)
    house = next(c for c in made.canvases if c.name == "House")
    assert house.regions == () and {y.id for y in house.layers} >= {"sky", "wall", "inset"}
    assert all(y.settings.picture.source is None for y in house.layers), "nothing is on air because it came"
    with pytest.raises(ShowError, match="Arch: it holds no surface that this show has"):
        brought(small, DEMO, [30])
    with pytest.raises(ShowError, match="there is no preset 55"):
        brought(small, DEMO, [55])
