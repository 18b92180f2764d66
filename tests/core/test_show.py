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

from ushering_adze.core.layout.entry import EntryError, number_from, rect_from
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


@pytest.mark.parametrize(("change", "where", "what"), [
    (put("format", "something else"), "format", "not a show file"),
    (put("version", 2), "version", "version 2, this program reads up to 1; open it with a newer"),
    (put("version", "one"), "version", "whole number"),
    (put("canvases[0].regions[2].output", "procC"), "canvases[0].regions[2].output", "should match pattern"),
    (put("canvases[0].regions[2].output", "proc-c"), "canvases[0].regions[2].output", 'no output "proc-c"; there are: foyer, lectern'),
    (put("canvases[0].regions[0].surface", "attic"), "canvases[0].regions[0].surface", 'no surface "attic"'),
    (put("canvases[0].regions[0].projector", "third"), "canvases[0].regions[0].projector", 'no projector "third"; there are: left, right'),
    (put("outputs[3].number", 1), "outputs[3].number", 'number "1" is already used by outputs[0]'),
    (put("presets[1].number", 1), "presets[1].number", 'number "1" is already used by presets[0]'),
    (put("sources[1].id", "slides"), "sources[1].id", 'id "slides" is already used by sources[0]'),
    (put("canvases[0].width", 0), "canvases[0].width", "greater than or equal to 1 (it is 0)"),
    (put("canvases[0].height", 100000), "canvases[0].height", "less than or equal to 32768 (it is 100000)"),
    (put("presets[0].parts[0].layer", "loft"), "presets[0].parts[0].layer", 'no layer "loft"; there are: east, inset, sky'),
    (put("presets[0].parts[0].settings.picture.source", "radio"), "presets[0].parts[0].settings.picture.source", 'no source "radio"'),
    (put("opening", 77), "opening", "no preset number 77"),
    (put("colour", "red"), "colour", "not a field of the show format"),
    (put("surfaces[0].overlap_px", 1920), "surfaces[0]", "an overlap of 1920 px is wider than the picture"),
    (put("presets[0].parts[0].settings.crop", {"left": 0.6, "right": 0.6}), "presets[0].parts[0].settings.crop", "the crop leaves nothing"),
    (put("canvases[0].regions[0].landing", {"kind": "blob"}), "canvases[0].regions[0].landing", "blob"),
    (put("rate", float("nan")), "rate", "finite number"),
])
def test_every_fault_is_one_sentence_that_names_the_place(show: Show, change: Callable[[dict[str, Any]], None], where: str, what: str) -> None:
    document = copy.deepcopy(document_of(show))
    change(document)
    with pytest.raises(ShowError) as caught:
        show_from_document(document)
    assert caught.value.faults[0].where == where
    assert what in str(caught.value) and "\n" not in str(caught.value)


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


@given(now=st.tuples(*[st.integers(1, 4000)] * 4), x=st.integers(0, 4000), y=st.integers(0, 2000), w=st.integers(1, 4000),
       h=st.integers(1, 2000))
def test_both_ways_of_typing_a_rectangle_agree(now: tuple[int, ...], x: int, y: int, w: int, h: int) -> None:
    assert rect_from(f"{x} {y} {w} {h}", now, (1, 1)) == rect_from(f"{w}x{h}+{x}+{y}", now, (1, 1)) == (x, y, w, h)
    assert rect_from("+0 +0 +0 +0", now, (1, 1)) == now
    assert rect_from("x y w h", now, (1, 1)) == now


@pytest.mark.parametrize(("typed", "why"), [
    ("1 2 3", "four numbers are needed, x y w h, and there are 3"), ("1 2 3 x/0", "divides by zero"), ("a 2 3 4", '"a" is not known here'),
    ("1 2 0 4", "must be at least 1"), ("1.5 2 3 4", "whole pixels"), ("1 2 99999 4", "32 768"), ("1 2 __import__('os') 4", "only numbers"),
    ("1 2 3 9**9", "only numbers"), ("1 2 (3 4", "is not a number"), ("1 2 3mm 4", "known pixel pitch"), ("1 2 3 1e400", "too large"),
])
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
