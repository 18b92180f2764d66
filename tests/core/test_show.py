"""The show document: what it refuses, in which words; and typed geometry."""

from __future__ import annotations

import copy
import json
from collections.abc import Callable
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ushering_adze.core.document.entry import EntryError, number_from, rect_from
from ushering_adze.core.show import Show, ShowError, document_of, show_from_document, show_schema
from ushering_adze.core.show.edits import with_binding, with_region


def test_a_show_survives_its_document_and_its_schema(show: Show) -> None:
    document = json.loads(json.dumps(document_of(show)))
    assert show_from_document(document) == show
    jsonschema.Draft202012Validator.check_schema(show_schema())
    jsonschema.validate(document, show_schema())


def put(path: str, value: Any) -> Callable[[dict[str, Any]], None]:
    def change(document: dict[str, Any]) -> None:
        here: Any = document
        *way, last = path.replace("[", ".").replace("]", "").split(".")
        for step in way:
            here = here[int(step)] if step.isdigit() else here[step]
        here[int(last) if last.isdigit() else last] = value

    return change


@pytest.mark.parametrize(
    ("change", "where", "what"),
    [
        (put("format", "something else"), "format", "not a show file"),
        (put("version", 3), "version", "version 3, this program reads up to 2; open it with a newer"),
        (put("version", "one"), "version", "whole number"),
        (
            put("canvases[0].regions[2].output", "procC"),
            "canvases[0].regions[2].output",
            'must be small letters, digits and hyphens, such as east-mast (it is "procC"); write it so',
        ),
        (
            put("canvases[0].regions[2].output", "proc-c"),
            "canvases[0].regions[2].output",
            'no output "proc-c"; there are: foyer, lectern',
        ),
        (put("canvases[0].regions[0].surface", "attic"), "canvases[0].regions[0].surface", 'no surface "attic"'),
        (
            put("canvases[0].regions[0].projector", "third"),
            "canvases[0].regions[0].projector",
            'no projector "third"; there are: left, right',
        ),
        (put("outputs[3].number", 1), "outputs[3].number", 'number "1" is already used by outputs[0]'),
        (put("presets[1].number", 1), "presets[1].number", 'number "1" is already used by presets[0]'),
        (put("sources[1].id", "slides"), "sources[1].id", 'id "slides" is already used by sources[0]'),
        (put("canvases[0].width", 0), "canvases[0].width", "must be at least 1 (it is 0); type another number"),
        (
            put("canvases[0].height", 100000),
            "canvases[0].height",
            "must be at most 32768 (it is 100000); type another number",
        ),
        (
            put("presets[0].parts[0].layer", "loft"),
            "presets[0].parts[0].layer",
            'no layer "loft"; there are: east, inset, sky',
        ),
        (
            put("presets[0].parts[0].holds.picture.to.source", "radio"),
            "presets[0].parts[0].holds.picture.to.source",
            'no source "radio"',
        ),
        (put("opening", 77), "opening", "no preset number 77"),
        (put("colour", "red"), "colour", "not a field of the show format"),
        (put("surfaces[0].overlap_px", 1920), "surfaces[0]", "an overlap of 1920 px is wider than the picture"),
        (
            put("presets[0].parts[0].holds.crop.to", {"left": 0.6, "right": 0.6}),
            "presets[0].parts[0].holds.crop.to",
            "the crop leaves nothing",
        ),
        (put("canvases[0].regions[0].landing", {"kind": "blob"}), "canvases[0].regions[0].landing", "blob"),
        (put("rate", float("nan")), "rate", "must be a number with an end (it is nan); type another"),
        (put("outputs[0].timing.width", 40000), "outputs[0].timing.width", "must be at most 32768 (it is 40000)"),
        (put("outputs[0].timing.rate", 0.5), "outputs[0].timing.rate", "must be at least 1 (it is 0.5)"),
        (put("outputs[0].timing.rate", 481), "outputs[0].timing.rate", "must be at most 480"),
        (
            put("outputs[0].timing.standard", "gtf"),
            "outputs[0].timing.standard",
            '"gtf" is not known here; there are: cta, custom, cvt, cvt-rb, cvt-rb2',
        ),
        (put("outputs[0].timing.standard", "custom"), "outputs[0].timing", "a custom timing needs its counts by hand"),
        (put("outputs[0].signal.bits", 9), "outputs[0].signal.bits", "8, 10 or 12"),
        (
            put("outputs[0].gang", {"columns": 2, "rows": 2, "connectors": ["a", "b", "c"]}),
            "outputs[0].gang",
            "needs 4 connectors, not 3",
        ),
        (
            put("outputs[0].gang", {"columns": 2, "rows": 1, "connectors": ["a", "a"]}),
            "outputs[0].gang",
            "a connector is in the gang twice",
        ),
        (put("outputs[4].connector", "Out 1"), "outputs[4]", 'connector "Out 1" is already used by Processor A'),
        (put("outputs[4].mirrors", ["Out 7"]), "outputs[5]", 'connector "Out 7" is already used by Foyer'),
        (put("outputs[0].picture.gain", [1, 1]), "outputs[0].picture.gain[2]", "missing"),
        (
            put("surfaces[1].missing", [{"column": 11, "row": 1}]),
            "surfaces[1]",
            "missing cabinet 11/1 is not on a wall of 10 × 5",
        ),
        (
            put("surfaces[1].missing", [{"column": 1, "row": 1}] * 2),
            "surfaces[1]",
            "missing cabinet 1/1 is listed twice",
        ),
        (put("surfaces[1].columns", 300), "surfaces[1]", "a wall of 57600 × 960 px is over 32768 px"),
        (put("surfaces[1].cabinet.rows_px", 0), "surfaces[1].cabinet.rows_px", "must be at least 1"),
        (
            put("surfaces[0].projectors[0].throw_min", 3),
            "surfaces[0].projectors[0]",
            "a throw ratio from 3 to 1.8 is no range",
        ),
        (
            put("canvases[0].regions[2].surface", "west-mast"),
            "canvases[0].regions[3].output",
            'West mast already takes its picture from Processor A (region "Meridian"); unbind it there first, or make '
            "this a mirror",
        ),
        (put("sources[12].rate", 900), "sources[12].rate", "must be at most 480"),
        (put("cards[1].id", "card-a"), "cards[1].id", "already used by cards[0]"),
    ],
)
def test_every_fault_is_one_sentence_that_names_the_place(
    show: Show, change: Callable[[dict[str, Any]], None], where: str, what: str
) -> None:
    document = copy.deepcopy(document_of(show))
    change(document)
    with pytest.raises(ShowError) as caught:
        show_from_document(document)
    assert caught.value.faults[0].where == where
    assert what in str(caught.value) and "\n" not in str(caught.value)


def test_a_show_saved_before_there_was_a_rig_opens_with_the_usual_settings(show: Show) -> None:
    old = copy.deepcopy(document_of(show))
    for field in ("cabinets", "cards", "reference", "reference_name"):
        del old[field]
    old["sources"] = [s for s in old["sources"] if s["kind"] != "input"]
    for output in old["outputs"]:
        for field in ("signal", "connector", "gang", "mirrors", "colour"):
            del output[field]
        output["timing"] = {k: output["timing"][k] for k in ("width", "height", "rate")}
        output["picture"] = {"gamma": 2.2}
    for surface in old["surfaces"]:
        for field in (
            "others",
            "missing",
            "turned",
            "gaps",
            "data",
            "supply",
            "gain",
            "material",
            "room_lux",
            "gap_mm",
            "monitor_width",
            "monitor_height",
            "turned",
            "hide",
            "scattered",
            "each",
            "mbps",
        ):
            surface.pop(field, None)
    for canvas in old["canvases"]:
        for region in canvas["regions"]:
            del region["monitor"], region["mirror"]
    opened = show_from_document(old)
    assert opened.surface("meridian").pixels == (1920, 960) and opened.output("foyer").signal.link is None
    assert opened.canvases == show.canvases and opened.reference == "internal"
    assert opened.output("foyer").timing == show.output("foyer").timing.model_copy()


@pytest.mark.parametrize("document", [[], 3, "show", None, {}, {"format": None}])
def test_what_is_no_show_at_all_says_so(document: object) -> None:
    with pytest.raises(ShowError, match="not a show"):
        show_from_document(document)


def test_an_edit_copies_along_the_path_only_and_leaves_nothing_stale(show: Show) -> None:
    region = show.canvases[0].regions[2]
    assert show.output("foyer").binding is None
    edited = with_region(show, region.model_copy(update={"x": 1097}))
    assert show.canvases[0].regions[2].x == 1096 and edited.canvases[0].regions[2].x == 1097
    assert edited.canvases[1] is show.canvases[1] and edited.presets is show.presets
    assert edited.canvas("house").regions[2].x == 1097, "look-ups belong to the new value"
    assert with_binding(edited, "foyer", None).output("foyer") == show.output("foyer")


@given(
    now=st.tuples(*[st.integers(1, 4000)] * 4),
    x=st.integers(0, 4000),
    y=st.integers(0, 2000),
    w=st.integers(1, 4000),
    h=st.integers(1, 2000),
)
def test_both_ways_of_typing_a_rectangle_agree(now: tuple[int, ...], x: int, y: int, w: int, h: int) -> None:
    assert rect_from(f"{x} {y} {w} {h}", now, (1, 1)) == rect_from(f"{w}x{h}+{x}+{y}", now, (1, 1)) == (x, y, w, h)
    assert rect_from("+0 +0 +0 +0", now, (1, 1)) == now
    assert rect_from("x y w h", now, (1, 1)) == now


@pytest.mark.parametrize(
    ("typed", "why"),
    [
        ("1 2 3", "four numbers are needed, x y w h, and there are 3"),
        ("1 2 3 x/0", "divides by zero"),
        ("a 2 3 4", '"a" is not known here'),
        ("1 2 0 4", "must be at least 1"),
        ("1.5 2 3 4", "whole pixels"),
        ("1 2 99999 4", "32 768"),
        ("1 2 __import__('os') 4", "only numbers"),
        ("1 2 3 9**9", "only numbers"),
        ("1 2 (3 4", "is not a number"),
        ("1 2 3mm 4", "known pixel pitch"),
        ("1 2 3 1e400", "too large"),
    ],
)
def test_a_wrong_entry_says_why(typed: str, why: str) -> None:
    with pytest.raises(EntryError, match=why.replace("(", r"\(")):
        rect_from(typed, (10, 20, 30, 40), (4112, 2040))


@given(st.text(max_size=30))
def test_nothing_typed_can_do_more_than_be_refused(typed: str) -> None:
    try:
        value = number_from(typed, now=5.0, whole=100.0, names={"w": 3.0})
    except EntryError as error:
        assert str(error)
    else:
        assert abs(value) <= 1e9
