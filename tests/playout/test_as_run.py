"""The as-run log: what was on surfaces, from when to when, by what."""

from __future__ import annotations

import csv
import io
import json
from itertools import pairwise
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from hypothesis import given
from hypothesis import strategies as st

import commanded
from ushering_adze.core.onair.actions import Go, Recall
from ushering_adze.core.onair.as_run import (
    FRAMES,
    Line,
    as_csv,
    found,
    incidents,
    late_frames,
    late_line,
    noted,
    per_surface,
)
from ushering_adze.demo.show import demo_show
from ushering_adze.io.as_run import AsRunWriter, as_run_folder, read_day
from ushering_adze.io.exchange.as_run_report import report_pdf
from ushering_adze.playout import Playout
from ushering_adze.playout.report import Report
from waiting import wait_for

SHOWN = st.dictionaries(
    st.sampled_from(["A", "B", "C"]), st.tuples(st.sampled_from([("x",), ("y", "z"), ()]), st.just("live"))
)


@given(steps=st.lists(SHOWN, max_size=12))
def test_lines_leave_no_gap_and_never_overlap(steps: list[dict[str, tuple[tuple[str, ...], str]]]) -> None:
    running: dict[str, Line] = {}
    lines: list[Line] = []
    for at, now in enumerate([*steps, {}]):
        running, ended = noted(running, now, float(at), "by")
        lines += ended
    for surface in "ABC":
        mine = sorted((y for y in lines if y.surface == surface), key=lambda y: y.begin)
        for at, now in enumerate(steps):
            held = [y for y in mine if y.begin <= at < (y.end or 0)]
            assert [y.shows for y in held] == ([now[surface][0]] if surface in now else [])
        assert all(a.end is not None and a.end <= b.begin for a, b in pairwise(mine))


def test_what_a_show_did_is_written_and_printed(monkeypatch: pytest.MonkeyPatch) -> None:
    reports: list[Report] = []
    show = demo_show()
    playout = Playout(show, reports.append)
    playout.keep_as_run(as_run_folder())
    playout.start(wait=60)
    try:
        assert wait_for(lambda: bool(reports) and reports[-1].surfaces["meridian"].source_ids == ("slides",))
        playout.act(Recall(preset=7, seconds=0))
        assert wait_for(lambda: reports[-1].surfaces["meridian"].source_ids == ("moon-phases",))
        playout.act(Go(list="evening", cue="cue-11"))
        assert wait_for(lambda: reports[-1].surfaces["meridian"].source_ids == ("hold-card",))
    finally:
        playout.stop()
    (day,) = {p.stem for p in as_run_folder().glob("*.jsonl")}
    lines = [y for y in read_day(day) if y.surface == "Meridian"]
    whole = {y.shows: y.by for y in reversed(lines)}
    assert whole["Moon phases",] == "preset 7 Moon reveal"
    first = next(y for y in lines if "Hold card" in y.shows)
    assert first.by == "cue 11 of Evening" and lines[-1].shows == ("Hold card",)
    assert all(a.end is not None and a.end <= b.begin + 1e-6 for a, b in pairwise(lines))
    told = commanded.adze("asrun", day, "--find", "meridian moon", "--json")
    assert told.returncode == 0 and {y["surface"] for y in json.loads(told.stdout)} == {"Meridian"}
    rows = list(csv.DictReader(io.StringIO(commanded.adze("asrun", day, "--csv").stdout)))
    assert {r["surface"] for r in rows} - {FRAMES} == {s.name for s in show.surfaces} and all(
        float(r["seconds"]) >= 0 for r in rows
    )
    assert "Meridian" in commanded.adze("asrun", day).stdout
    file = as_run_folder().parent / "evening.pdf"
    assert commanded.adze("asrun", day, "--pdf", file).returncode == 0
    words = "".join(page.get_textpage().get_text_range() for page in pdfium.PdfDocument(file))
    assert all(s.name in words for s in show.surfaces) and "Moon phases" in words and "cue 11 of Evening" in words
    wrong = commanded.adze("asrun", "1999-01-01")
    assert wrong.returncode == 2 and "there is no log of 1999-01-01" in wrong.stderr


def test_a_folder_that_cannot_be_written_stops_nobody_and_damaged_lines_are_left_out(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    writer = AsRunWriter(tmp_path / "file" / "x")
    writer.write(Line("A", 0.0, 1.0, ("x",), "live", ""))
    writer.close()
    folder = as_run_folder()
    folder.mkdir(parents=True)
    good = json.dumps(Line("A", 0.0, 1.0, ("x",), "live", "by")._asdict())
    (folder / "2030-05-17.jsonl").write_text(f'{good}\n{{"surface": 3\n{{"other": 1}}\n')
    lines = read_day("2030-05-17")
    assert lines == (Line("A", 0.0, 1.0, ("x",), "live", "by"),)
    assert found(lines, "by x") == lines and found(lines, "y x nothing") == ()
    assert as_csv(lines, str).splitlines()[1] == "0.0,1.0,1.00,A,x,live,by"


def test_the_report_begins_with_what_went_wrong() -> None:
    lines = (
        Line("Relay", 0.0, 60.0, ("Aisle camera",), "live", "preset 5 Keynote"),
        Line("Relay", 60.0, 80.0, ("Hold card",), "backup", "preset 5 Keynote"),
        Line("Relay", 80.0, 100.0, ("Aisle camera",), "live", "preset 5 Keynote"),
        Line("Lectern", 0.0, 100.0, ("Notes",), "kept", "by hand"),
        Line("Foyer wall", 10.0, 20.0, ("black",), "override", "the desk"),
        late_line(0.0, 60.0, 3, 1800),
    )
    assert [x.surface for x in incidents(lines)] == ["Relay", "Foyer wall"] and late_frames(lines) == (3, 1800)
    assert per_surface(lines) == (("Relay", 3, 0.8), ("Lectern", 1, 1.0), ("Foyer wall", 1, 0.0))
    words = "".join(p.get_textpage().get_text_range() for p in pdfium.PdfDocument(report_pdf("As run", lines)))
    assert "3 frames of 1800 were late" in words and words.index("Hold card (backup)") < words.index("80.0 %")
    assert "Nothing was on." in pdfium.PdfDocument(report_pdf("As run", ()))[0].get_textpage().get_text_range()
