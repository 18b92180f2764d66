"""The one interface to the running show: what goes in and comes out of it are values that JSON brings back, or
pictures.
"""

from __future__ import annotations

import json
import select
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import cv2
import jsonschema
import numpy as np
import pytest

from ushering_adze.core.onair.actions import Black, LayOver, Recall, Route
from ushering_adze.core.onair.document import stage_from
from ushering_adze.core.onair.faults import acknowledged, faults_now
from ushering_adze.core.show.laid import Laid, Pattern
from ushering_adze.core.signal.coming import Really
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.io.showfile import absolute, portable
from ushering_adze.io.sound.orders import SourceLevel
from ushering_adze.playout import Beside, Playout, Report, Running, SignalReport
from ushering_adze.playout.report import report_document, report_schema
from waiting import wait_for

SHOW = demo_show()


KINDS = {"within": Playout, "beside": Beside}


@pytest.fixture(scope="module")
def reports() -> list[Report]:
    return []


@pytest.fixture(scope="module", params=KINDS)
def playout(reports: list[Report], request: pytest.FixtureRequest) -> Iterator[Running]:
    reports.clear()
    made = KINDS[request.param](SHOW, reports.append)
    made.start(wait=60)
    assert wait_for(lambda: bool(reports))
    yield made
    made.stop()


def test_a_report_is_json_that_its_schema_describes(playout: Running, reports: list[Report]) -> None:
    playout.act(Recall(preset=7, seconds=30))
    assert wait_for(lambda: reports[-1].stage.on_program == 7 and reports[-1].moving)
    report = reports[-1]
    document = json.loads(json.dumps(report_document(report, 5.0), allow_nan=False))
    jsonschema.validate(document, report_schema())
    assert [m["mix"] for m in document["sound"]["mixes"]] == ["hall", "foyer", "relay"]
    real = Really(1280, 720, 25.0, False, "420", 8)
    signal = SignalReport("aisle-camera", "live", "", real, captions="GOOD EVENING")
    heard = report.sound._replace(sources={"aisle-camera": SourceLevel(-20.0, 0.0, -24)})
    with_signal = report_document(replace(report, signals=(signal,), sound=heard), 5.0)
    jsonschema.validate(json.loads(json.dumps(with_signal, allow_nan=False)), report_schema())
    assert with_signal["signals"][0]["captions"] == "GOOD EVENING"
    assert with_signal["sound"]["sources"]["aisle-camera"]["dialogue"] == -24
    again = stage_from(document["stage"], SHOW, 5.0)
    assert again.on_program == 7 and again.program.target == report.stage.program.target
    assert document["surfaces"]["meridian"]["state"] == report.surfaces["meridian"].state and document["faults"] == []
    assert json.loads(json.dumps(playout.stage_document()))["on_program"] == 7


def test_a_feed_gives_the_newest_picture_and_says_when_there_is_one(playout: Running) -> None:
    playout.act(Recall(preset=5, seconds=0))
    feed = playout.frames_of("relay")
    try:
        assert select.select([feed.handle], [], [], 30)[0], "what is sent now comes at once"
        first = feed.newest()
        assert first is not None and first.pixels.shape == (720, 1280, 4)
        playout.act(Black(outputs=("relay",)))
        assert wait_for(
            lambda: (
                (sent := feed.newest()) is not None and sent.pixels[..., :3].max() == 0 and sent.number > first.number
            )
        )
        feed.newest()
        assert not select.select([feed.handle], [], [], 0)[0], "nothing new, nothing to read"
        feed.fault = "its display is gone"
        assert playout.faults()["relay"] == "its display is gone"
    finally:
        playout.release(feed)
        playout.act(Black(on=False))
    assert "relay" not in playout.faults()


def test_outputs_are_kept_in_files_until_they_are_not(playout: Running, tmp_path: Path) -> None:
    file = tmp_path / "deep" / "lectern.png"
    playout.write_files("lectern", file)
    playout.act(Route(surface="lectern", source="night", on="program", seconds=0))
    assert wait_for(lambda: file.is_file() and (cv2.imread(str(file)) == (0x30, 0x12, 0x0E)).all())
    playout.stop_files("lectern")
    written = file.read_bytes()
    playout.act(Recall(preset=5, seconds=0))
    assert wait_for(lambda: playout.raster("lectern")[..., :3].max() > 100) and file.read_bytes() == written  # type: ignore[index]


def test_patterns_go_over_the_show_and_off_again(playout: Running) -> None:
    playout.act(
        LayOver(over=Laid(surface="horizon", output="projector-left", pattern=Pattern(name="white", on="output")))
    )
    assert wait_for(lambda: (playout.raster("projector-left")[..., :3] == 255).mean() > 0.9)  # type: ignore[index]
    assert playout.stage.laid is not None and playout.stage.laid.output == "projector-left"
    number = playout.put_out({"projector-left": np.full((1080, 1920, 4), 9, np.uint8)})
    assert wait_for(lambda: playout.put == number and (playout.raster("projector-left") == 9).all())  # type: ignore[union-attr]
    playout.act(LayOver())
    assert wait_for(
        lambda: playout.put == 0 and not (playout.raster("projector-left") == 9).all() and playout.stage.laid is None
    )  # type: ignore[union-attr]


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_lost_is_a_fault_with_its_moment_until_somebody_knows(kind: str, tmp_path: Path) -> None:
    told: list[Report] = []
    playout = KINDS[kind](absolute(portable(SHOW, DEMO_ROOT), tmp_path), told.append)
    playout.start(wait=30)
    try:
        assert wait_for(lambda: bool(told) and len(told[-1].troubles) == 10)
        first = next(f for f in told[-1].troubles if f.key == "slides")
        assert (first.on, first.name, first.grave, first.acknowledged) == (
            "source",
            "Slides",
            "picture",
            False,
        ) and "no folder" in first.words
        assert next(f for f in told[-1].troubles if f.key == "moon-phases").grave == "part", "it is not on air"
        playout.acknowledge("slides")
        assert wait_for(lambda: next(f for f in told[-1].troubles if f.key == "slides").acknowledged)
        assert next(f for f in told[-1].troubles if f.key == "slides").since == first.since
        playout.acknowledge()
        assert wait_for(lambda: all(f.acknowledged for f in told[-1].troubles))
    finally:
        playout.stop()


def test_a_fault_that_comes_again_is_new() -> None:
    one = faults_now(SHOW, {}, {"house/sky": "it cannot be drawn (X); change its place"}, set(), 1.0)
    assert (
        one["house/sky"].name == "Sky"
        and one["house/sky"].on == "layer"
        and one["house/sky"].cure == "change its place"
    )
    known = acknowledged(one)
    lasts = faults_now(
        SHOW, known, {"house/sky": "it cannot be drawn (Y); change its place", "relay": "its disk is full"}, set(), 2.0
    )
    assert list(lasts) == ["relay", "house/sky"], "the gravest first"
    assert lasts["house/sky"].acknowledged and lasts["house/sky"].since == 1.0 and "(Y)" in lasts["house/sky"].what
    gone = faults_now(SHOW, lasts, {}, set(), 3.0)
    assert not faults_now(SHOW, gone, {"house/sky": "again"}, set(), 4.0)["house/sky"].acknowledged
