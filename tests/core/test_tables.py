"""Tables of the rig: any name survives a spreadsheet, and no table can do more than be refused."""

from __future__ import annotations

import csv
import io
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.displays.rig import rig_of
from ushering_adze.core.displays.table import TABLES, as_tsv, cell_text, pasted, rows_of, value_from, with_cell
from ushering_adze.core.show import (
    Card,
    Gang,
    Input,
    Output,
    Show,
    ShowError,
    SignalSettings,
    Timing,
    document_of,
    show_from_document,
)
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.signal.link import LINKS

NAMES = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=30).filter(
    lambda t: t.strip() == t
)
RATES = st.one_of(st.sampled_from([23.976, 25.0, 50.0, 59.94, 60.0]), st.floats(1, 480).map(lambda v: round(v, 2)))
SIDES = st.integers(1, 32768)


@st.composite
def shows(draw: st.DrawFn) -> Show:
    """A show of inputs and outputs with any names, sizes and rates."""
    names = draw(st.lists(NAMES, min_size=1, max_size=5, unique_by=lambda t: t))
    outputs = tuple(
        Output(
            id=f"o{n}",
            number=n + 1,
            name=name,
            timing=Timing(width=draw(SIDES), height=draw(SIDES), rate=draw(RATES)),
            signal=SignalSettings(
                link=draw(st.sampled_from([None, *LINKS])),
                bits=draw(st.sampled_from([8, 10, 12])),
                encoding=draw(st.sampled_from(["rgb", "422", "420"])),
            ),
            connector=f"Out {n}",
        )
        for n, name in enumerate(names)
    )
    inputs = tuple(
        Input(
            id=f"i{n}",
            name=name,
            width=draw(SIDES),
            height=draw(SIDES),
            rate=draw(RATES),
            interlaced=draw(st.booleans()),
            protected=draw(st.booleans()),
            connector=f"In {n}",
        )
        for n, name in enumerate(names)
    )
    cards = (Card(id="c", name="C", connectors=("Out 0", "Out 1", "In 0"), clock_mhz=draw(st.floats(1, 5000))),)
    return Show(name="Any", outputs=outputs, sources=inputs, cards=cards)


@settings(max_examples=60, deadline=None)
@given(shows())
def test_any_names_and_numbers_survive_a_spreadsheet(show: Show) -> None:
    for name in ("inputs", "outputs"):
        text = as_tsv(show, name)
        assert pasted(show, name, text) == show
        # A spreadsheet may quote every cell, put a mark at the start, and part by semicolons.
        cells = list(csv.reader(io.StringIO(text), delimiter="\t"))
        out = io.StringIO()
        csv.writer(out, delimiter=";", quoting=csv.QUOTE_ALL).writerows(cells)
        assert pasted(show, name, "\ufeff" + out.getvalue()) == show
        empty = show.model_copy(update={"outputs": (), "sources": (), "cards": ()})
        again = pasted(empty, name, text)
        made, old = rows_of(again, name), rows_of(show, name)
        assert [cell_text(i, c) for i in made for c in TABLES[name].columns] == [
            cell_text(i, c) for i in old for c in TABLES[name].columns
        ]


@settings(max_examples=60, deadline=None)
@given(shows())
def test_whatever_is_rigged_its_figures_are_plain_values(show: Show) -> None:
    figures = json.loads(json.dumps(rig_of(show)))
    assert len(figures["outputs"]) == len(show.outputs) and len(figures["inputs"]) == len(show.sources)
    for row in figures["outputs"] + figures["inputs"]:
        for wire in row["wires"]:
            assert "fault" in wire or wire["clock_khz"] > 0
    card = figures["cards"][0]
    assert (card["used_mhz"] > card["capacity_mhz"]) == bool(card["switch_off"])
    assert show_from_document(json.loads(json.dumps(document_of(show)))) == show and not faults_of(show)


@settings(max_examples=150, deadline=None)
@given(st.text(max_size=200), st.sampled_from(list(TABLES)))
def test_a_pasted_text_is_taken_whole_or_refused(show: Show, text: str, name: str) -> None:
    try:
        after = pasted(show, name, text)  # type: ignore[arg-type]
    except ShowError as error:
        assert str(error) and "\n" not in str(error)
    else:
        assert not faults_of(after)


@pytest.mark.parametrize("name", list(TABLES))
def test_every_cell_of_every_table_can_be_typed_again(show: Show, name: str) -> None:
    count = 0
    for item in rows_of(show, name):  # type: ignore[arg-type]
        for column in TABLES[name].columns:  # type: ignore[index]
            text = cell_text(item, column)
            if text:
                assert with_cell(show, name, item.id, column, text) == show  # type: ignore[arg-type]
                count += 1
    assert count >= 6


def test_the_library_the_cards_and_the_places_are_tables_too(show: Show) -> None:
    more = pasted(
        show,
        "cabinets",
        "name\twidth_mm\theight_mm\tcolumns_px\trows_px\tweight_kg\nSlim 250\t250\t500\t64\t128\t4,5\n",
    )
    assert more.cabinets[-1].id == "slim-250" and more.cabinets[-1].cabinet.weight_kg == 4.5 and len(more.cabinets) == 3
    cards = pasted(
        show, "cards", "name\tclock_mhz\tconnectors\nCard A\t800\tOut 1 + Out 2\nCard D\t300\tSide 1+Side 2\n"
    )
    assert (
        cards.cards[0].connectors == ("Out 1", "Out 2")
        and cards.cards[0].id == "card-a"
        and cards.cards[-1].connectors == ("Side 1", "Side 2")
    )
    hung = pasted(show, "places", "name\tx_mm\tfoot_mm\nMeridian\t6400\t300\n")
    assert (hung.surface("meridian").place.x_mm, hung.surface("meridian").place.foot_mm) == (6400, 300)
    with pytest.raises(ShowError, match='row 1: no surface "Attic" hangs in the room; add it first'):
        pasted(show, "places", "name\tx_mm\tfoot_mm\nAttic\t1\t2\n")
    with pytest.raises(ShowError, match="clock mhz must be above 0"):
        pasted(show, "cards", "name\tclock_mhz\tconnectors\nCard A\t0\tOut 1\n")
    with pytest.raises(ValueError, match="neither yes nor no"):
        value_from("perhaps", next(c for c in TABLES["inputs"].columns if c.kind == "bool"))


def test_a_gang_keeps_its_card_and_its_order_in_the_document(show: Show) -> None:
    foyer = show.output("foyer").model_copy(
        update={"gang": Gang(columns=2, rows=1, connectors=("Out 8", "Out 5")), "connector": None}
    )
    ganged = show.model_copy(update={"outputs": tuple(foyer if o.id == "foyer" else o for o in show.outputs)})
    again = show_from_document(json.loads(json.dumps(document_of(ganged))))
    assert again.output("foyer").gang.connectors == ("Out 8", "Out 5") and not faults_of(again)
    figures = next(o for o in rig_of(again)["outputs"] if o["id"] == "foyer")
    assert [(w["connector"], w["raster"]) for w in figures["wires"]] == [
        ("Out 8", [0, 0, 960, 1080]),
        ("Out 5", [960, 0, 960, 1080]),
    ]
