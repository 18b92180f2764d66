"""Regions out and in again: what the program writes changes nothing when it is read, and what a table does not name
stays.
"""

from __future__ import annotations

import csv
import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.displays.table import TABLES, as_tsv, pasted
from ushering_adze.core.document.entry import EntryError, table_number, told_number
from ushering_adze.core.exchange.region_table import as_table, read_rows, with_rows, with_show_regions
from ushering_adze.core.mapping.bend import as_mesh, keystoned, points_of
from ushering_adze.core.mapping.regions import without_regions
from ushering_adze.core.show import Canvas, Edge, Edges, Output, RectLanding, Region, Show, Timing
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import demo_show

NAMES = st.sampled_from(
    ["Left", "Left ", " Left", "Right", "left", "Mast 1", "=1+1", "a,b", 'say "x"', "Fenêtre", "Bühne\t2"]
)
seeds = st.integers(0, 2**32 - 1)


def aligned_show(seed: int, names: list[str]) -> Show:
    """Regions of every kind of landing on two canvases, some of one name."""
    draw = np.random.default_rng(seed)
    canvases: list[list[Region]] = [[], []]
    for n, name in enumerate(names):
        w, h = (int(v) for v in draw.integers(20, 90, 2))
        turn = int(draw.choice([0, 90, 180, 270]))
        size = (h, w) if turn in (90, 270) else (w, h)
        if draw.random() < 0.3:
            size = tuple(int(v) for v in draw.integers(10, 90, 2))
        region = Region(
            id=f"r{n}",
            name=name,
            x=int(draw.integers(0, 300)),
            y=int(draw.integers(0, 300)),
            w=w,
            h=h,
            output=str(draw.choice(["one", "two"])),
            group=str(draw.choice(["", "g"])),
            scaled=bool(draw.random() < 0.5),
            edges=Edges(left=Edge(width=8)) if draw.random() < 0.3 else None,
            landing=RectLanding(
                x=int(draw.integers(0, 300)),
                y=int(draw.integers(0, 300)),
                w=size[0],
                h=size[1],
                flip=bool(draw.random() < 0.5),
                turn=turn,
            ),
        )
        if draw.random() < 0.6:
            quad = keystoned(400, 300, *draw.uniform(-20, 20, 3))
            region = region.model_copy(update={"landing": quad})
            region = as_mesh(region, 4, 3) if draw.random() < 0.5 else region
        canvases[int(draw.integers(2))].append(region)
    return Show(
        name="S",
        canvases=[
            Canvas(id=i, name=i.title(), width=400, height=400, regions=r)
            for i, r in zip(("high", "low"), canvases, strict=True)
        ],
        outputs=[
            Output(id=i, number=n, name=i.title(), timing=Timing(width=400, height=400, rate=60))
            for n, i in enumerate(("one", "two"), 1)
        ],
    )


@settings(max_examples=80, deadline=None)
@given(seeds, st.lists(NAMES, min_size=1, max_size=8), st.sampled_from([",", "\t"]))
def test_a_shows_own_table_changes_nothing(seed: int, names: list[str], mark: str) -> None:
    show = aligned_show(seed, names)
    rows, faults = read_rows(as_table(show, mark))
    again, more, count = with_rows(show, rows)
    assert not faults and not more and count == len(names) and again == show


@settings(max_examples=80, deadline=None)
@given(
    seeds,
    st.lists(NAMES, min_size=1, max_size=8, unique_by=lambda n: n.strip()),
    st.sets(st.sampled_from(["x", "y", "w", "h", "out_x", "out_y", "output"]), min_size=1),
    st.integers(-9, 9),
)
def test_columns_that_are_not_there_keep_what_they_would_name(
    seed: int, names: list[str], kept: set[str], by: int
) -> None:
    show = aligned_show(seed, names)
    table = list(csv.DictReader(io.StringIO(as_table(show))))
    text = io.StringIO()
    writer = csv.DictWriter(text, ["name", *sorted(kept)], extrasaction="ignore")
    writer.writeheader()
    for row in table:
        writer.writerow({**row, "out_x": int(row["out_x"]) + by})
    rows, faults = read_rows(text.getvalue())
    again, _, _ = with_rows(show, rows)
    assert not faults
    for (_, a), (_, b) in zip(show.regions(), again.regions(), strict=True):
        if a == b:
            continue
        assert "out_x" in kept and by
        at, now = landing_rect(a), landing_rect(b)
        assert (now.x, now.y, now.w, now.h) == (at.x + by, at.y, at.w, at.h)
        assert np.allclose(points_of(b.landing) - points_of(a.landing), (by, 0))
        assert b.model_copy(update={"landing": a.landing}) == a


@settings(max_examples=60, deadline=None)
@given(seeds, st.lists(NAMES, min_size=1, max_size=8))
def test_another_shows_regions_come_whole(seed: int, names: list[str]) -> None:
    show = aligned_show(seed, names)
    bare = without_regions(show, [r.id for _, r in show.regions()])
    again, faults, count = with_show_regions(bare, show)
    assert not faults and count == len(names) and again == show
    assert with_show_regions(show, show)[0] == show
    half = without_regions(show, ["r0"])
    whole, _, _ = with_show_regions(half, show)
    assert sorted(map(repr, (r for _, r in whole.regions()))) == sorted(map(repr, (r for _, r in show.regions())))


def test_another_shows_regions_bring_their_surfaces_where_they_are() -> None:
    demo = demo_show()
    bare = without_regions(demo, [r.id for _, r in demo.regions()])
    assert with_show_regions(bare, demo)[0] == demo
    elsewhere = without_item(bare, "surfaces", "meridian")
    got, faults, count = with_show_regions(elsewhere, demo)
    assert count == 8 and [str(f) for f in faults] == [
        'Meridian: it comes without its surface: this show has no surface "meridian"'
    ]
    assert not faults_of(got)


def test_a_name_on_two_canvases_is_asked_for() -> None:
    show = aligned_show(4, ["Left", "Left", "Left", "Left", "Left", "Left"])
    assert {c.id for c, _ in show.regions()} == {"high", "low"}
    rows, _ = read_rows("name,out_x\nLeft,5\n")
    again, faults, _ = with_rows(show, rows)
    assert again == show and 'row 2: "Left" is on high and low; add a column that names its canvas' in str(faults[0])
    again, faults, count = with_rows(show, rows, canvas="low")
    assert count == 1 and not faults and [c.id for c, r in again.regions() if r != show.homes[r.id][1]] == ["low"]


@pytest.mark.parametrize(
    "text",
    [
        "1,000",
        "1.000",
        "12.345",
        "1.920.000",
        "1,920,000",
        "nan",
        "inf",
        "-inf",
        "1_000",
        "0x10",
        "",
        "9" * 5000,
        "1e999",
        "१२",
        "1 00",
        "--5",
        "5-",
        ".",
    ],
)
def test_numbers_that_could_mean_two_things_or_nothing_are_refused_in_one_short_sentence(text: str) -> None:
    with pytest.raises(EntryError) as told:
        table_number(text)
    assert len(str(told.value)) < 120
    _, faults = read_rows(f'name\tx\ty\tw\th\nA\t"{text}"\t0\t10\t10\n')
    assert text == "" or (len(faults) == 1 and str(faults[0]).startswith("row 2: x: "))


@settings(max_examples=300, deadline=None)
@given(st.floats(-1e6, 1e6, allow_nan=False))
def test_numbers_that_are_told_are_read_back_exactly(value: float) -> None:
    assert table_number(told_number(value)) == value


@settings(max_examples=40, deadline=None)
@given(st.floats(0.5, 2000), st.floats(0.5, 300), st.sampled_from(sorted(TABLES)))
def test_a_rigs_own_tables_change_nothing(mm: float, kg: float, name: str) -> None:
    show = demo_show()
    wall = next(s for s in show.surfaces if s.id == "meridian")
    odd = wall.model_copy(
        update={"name": " Meridian", "cabinet": wall.cabinet.model_copy(update={"width_mm": mm, "weight_kg": kg})}
    )
    twin = wall.model_copy(update={"id": "twin"})
    show = show.model_copy(update={"surfaces": (*(odd if s.id == "meridian" else s for s in show.surfaces), twin)})
    assert pasted(show, name, as_tsv(show, name)) == show  # type: ignore[arg-type]
