"""Whatever reaches a user is one sentence of ours: what, where, the cure, at most two lines, and no text of
a library.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ushering_adze.core.displays.table import as_tsv, pasted
from ushering_adze.core.document.entry import EntryError, number_from, rect_from
from ushering_adze.core.document.lines import line_of
from ushering_adze.core.document.model import LONGEST
from ushering_adze.core.exchange.region_table import read_rows
from ushering_adze.core.show import Show, ShowError, document_of
from ushering_adze.core.show.rigging import told, with_field
from ushering_adze.core.signal.edid import BLOCK, checksum
from ushering_adze.core.signal.edid_read import read_edid
from ushering_adze.core.signal.timing import SignalError
from ushering_adze.demo.show import demo_show
from ushering_adze.io.showfile import media_path, read_show

LIBRARY = re.compile(
    r"Input should|validation error|pydantic|Traceback|Exceeds the limit|discriminator|unable to|type=|for further",
    re.I,
)


def proper(sentence: str) -> bool:
    return not LIBRARY.search(sentence) and len(sentence) <= 2 * LONGEST and sentence.count("\n") <= 1


def put(path: str, value: object) -> Callable[[Any], None]:
    def change(document: Any) -> None:
        here, steps = document, [int(s) if s.isdigit() else s for s in re.findall(r"\w+", path)]
        for step in steps[:-1]:
            here = here[step]
        here[steps[-1]] = value

    return change


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (put("sources[0].kind", "stil"), r'sources\[0\].*"stil" is not known here; write "still"'),
        (
            put("canvases[0].layers[0].settings.picture.fitt", "fill"),
            r'fitt: is not a field of the show format; write "fit", or remove it',
        ),
        (
            put("canvases[0].regions[0].monitor", 7),
            r"regions\[0\].monitor: monitor 7: .* is no monitor wall; remove it",
        ),
        (put("canvases[0].regions[0].surface", "meridiam"), r'no surface "meridiam"; write "meridian"'),
        (put("canvases[0].regions[0].landing", {"x": 1}), "has no kind; add it, to say what it is"),
        (put("name", "x" * 5_000_000), r"name: has 5000000 letters, and may have 80; shorten it"),
        (put("name", ["x"] * 9), r"name: must be text in quotation marks \(it is a list\); correct it"),
        (put("name", "half \ud800"), r"name: is no text \(it is .half �.\): half of a letter stands in it"),
        (put("presets", {}), r"presets: must be a list in \[ \] \(it is an object\); correct it"),
        (put("outputs[0].timing.width", 1.5), r"must be a whole number \(it is 1.5\); round it"),
        (put("outputs[0].timing.interlaced", "perhaps"), r"must be true or false"),
        (put("presets[0].parts[0].holds.picture.how", "faed"), r'"faed" is not known here; write "faded"'),
        (put("canvases[0].background", "red"), r'must be a colour such as #E3A857 \(it is "red"\)'),
        (put("sources[0]", 3), r"sources\[0\].*must be an object in \{ \} \(it is 3\)"),
    ],
)
def test_a_fault_of_a_show_names_its_line_and_the_nearest_right_name(
    change: Callable[[Any], None], words: str, tmp_path: Path
) -> None:
    document = document_of(demo_show())
    change(document)
    path = tmp_path / "show.adze"
    path.write_text(json.dumps(document, indent=1))
    with pytest.raises(ShowError, match=words) as raised:
        read_show(path)
    sentence = str(raised.value)
    assert proper(sentence), sentence[:300]
    line = re.match(r"show.adze, line (\d+): ([^:]+)", sentence)
    assert line is not None, sentence
    last = line[2].split(".")[-1].split("[")[0]
    around = path.read_text().splitlines()[int(line[1]) - 1][:200]
    assert f'"{last}"' in around or "[" in line[2].split(".")[-1], (around, last)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            '{"format": "ushering-adze show", "version": 1, "name": "x", "rate": ' + "9" * 5000 + "}",
            "thousands of digits",
        ),
        ('{"format": "ushering-adze show", "version": ' + "9" * 4000 + "}", "newer Ushering Adze|digits"),
        ("[" * 100_000, "nested"),
        ('{"format": NaN}', "not a show file"),
        ('{"format": "ushering-adze show", "version": 1, "name": "x", "rate": 1e400}', "number with an end"),
    ],
)
def test_texts_past_all_reason(text: str, words: str, tmp_path: Path) -> None:
    path = tmp_path / "show.adze"
    path.write_text(text)
    with pytest.raises(ShowError, match=words) as raised:
        read_show(path)
    assert proper(str(raised.value)), str(raised.value)[:200]


documents = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(), st.text(max_size=5)),
    lambda inner: (
        st.lists(inner, max_size=4) | st.dictionaries(st.text("abc", min_size=1, max_size=2), inner, max_size=4)
    ),
)


@given(documents)
@settings(max_examples=200, deadline=None)
def test_every_value_of_a_text_has_its_line(document: Any) -> None:
    """Written one token to a line, the line that is found is that of the value."""
    text = json.dumps(document, indent=0)

    def walk(value: Any, where: str) -> None:
        if where:
            found = line_of(text, where)
            assert found is not None
            line = text.splitlines()[found - 1]
            last = where.rsplit(".", 1)[-1]
            if "[" not in last:
                assert line.startswith(json.dumps(last)), (where, line)
            elif not isinstance(value, (list, dict)):
                assert line.rstrip(",") == json.dumps(value), (where, line)
        if isinstance(value, dict):
            for key, inner in value.items():
                walk(inner, f"{where}.{key}" if where else key)
        elif isinstance(value, list):
            for n, inner in enumerate(value):
                walk(inner, f"{where}[{n}]")

    walk(document, "")


@given(
    st.one_of(
        st.text(max_size=40),
        st.sampled_from(
            [
                "inf",
                "nan",
                "1e999",
                "9" * 5000,
                f"{'9' * 5000}x1",
                f"1x1+{'9' * 400}+0",
                "(" * 300,
                "-" * 300,
                "1e308*1e308",
                "9" * 4000 + "%",
                "0/0",
                "w" * 390,
            ]
        ),
    )
)
@settings(max_examples=400, deadline=None)
def test_whatever_is_typed_is_a_number_or_a_sentence(text: str) -> None:
    for read in (
        lambda: number_from(text, now=1.0, whole=100.0, names={"w": 3.0}, pitch_mm=2.6),
        lambda: rect_from(text, (0, 0, 1, 1), (100, 100)),
    ):
        try:
            read()
        except EntryError as error:
            assert proper(str(error))


@pytest.mark.parametrize("cell", ["inf", "nan", "-inf", "1e999", "9" * 5000, "", "\x00", "1;2", "０"])
def test_cells_that_are_no_numbers(cell: str) -> None:
    _, faults = read_rows(f"name,x,y,w,h\nA,0,0,10,10\nMeridian,{cell},0,10,10\n")
    assert all(proper(str(f)) and str(f).startswith("row 3: x") for f in faults) and (
        faults or not cell.strip("\x00") or cell == "０"
    )
    table = as_tsv(demo_show(), "outputs").replace("1280", cell)
    try:
        pasted(demo_show(), "outputs", table)
    except ShowError as error:
        assert proper(str(error))


def test_a_home_of_nobody_is_a_path_like_any_other(tmp_path: Path) -> None:
    assert media_path("~nobody-of-this-name/x.png", tmp_path) == tmp_path / "~nobody-of-this-name/x.png"


@given(st.lists(st.tuples(st.integers(0, BLOCK * 2 - 1), st.integers(0, 255)), max_size=30), st.integers(0, BLOCK * 2))
@settings(max_examples=300, deadline=None)
def test_an_edid_of_any_bytes_is_words_or_a_sentence(changes: list[tuple[int, int]], length: int) -> None:
    from ushering_adze.core.signal.cvt import cvt
    from ushering_adze.core.signal.edid import EdidWish, made_edid

    data = bytearray(made_edid(EdidWish(cvt(1920, 1080, 60), "Relay", True, True, (24, 60))))
    for at, value in changes:
        data[at % len(data)] = value
    for n in range(len(data) // BLOCK):  # right sums, so that what they guard is read
        data[n * BLOCK + BLOCK - 1] = checksum(bytes(data[n * BLOCK : (n + 1) * BLOCK]))
    for found in (bytes(data), bytes(data[:length])):
        try:
            edid = read_edid(found)
            assert edid.words and edid.as_dict()
        except SignalError as error:
            assert proper(str(error))


def test_an_edit_of_the_rig_is_refused_in_our_words() -> None:
    show = demo_show()
    for field, value in (
        ("name", "x" * 200),
        ("number", 10**30),
        ("timing.width", float("nan")),
        ("colour", "blue"),
        ("signal.link", "hdmi9"),
    ):
        with pytest.raises(ShowError) as raised:
            with_field(show.outputs[0], field, value)
        assert proper(str(raised.value)), raised.value
    with pytest.raises(ValidationError) as raw:
        Show.model_validate({"name": 3})
    assert told(raw.value) == "name must be text in quotation marks (it is 3); correct it" and proper(
        told(ValueError("x\n" * 5000))
    )
    assert "memory" in told(MemoryError())
