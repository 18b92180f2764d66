"""The desk is told between frames: what it and the readers ahead do is not in the way of the next."""

from __future__ import annotations

import time

import pytest

from ushering_adze.core.onair.actions import Hold, StagePreset, Unstage
from ushering_adze.core.show import (
    Canvas,
    Layer,
    LayerSettings,
    Output,
    PatternSource,
    Picture,
    Preset,
    RectLanding,
    Region,
    Show,
    Timing,
)
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pace import Pace
from ushering_adze.engine.report import Report
from ushering_adze.engine.telling import PERIOD, Telling
from ushering_adze.io.media import Player
from ushering_adze.io.media.clip import AHEAD, ClipReader
from waiting import wait_for


def small_show(rate: float = 25) -> Show:
    layer = Layer(id="l", name="L", settings=LayerSettings(picture=Picture(source="bars", fit="stretch")))
    region = Region(id="r", name="R", x=0, y=0, w=64, h=36, output="o", landing=RectLanding(x=0, y=0, w=64, h=36))
    return Show(
        name="Small",
        rate=rate,
        sources=(PatternSource(id="bars", name="Bars", pattern="bars"),),
        canvases=(Canvas(id="c", name="C", width=64, height=36, layers=(layer,), regions=(region,)),),
        outputs=(Output(id="o", name="O", number=1, timing=Timing(width=64, height=36)),),
        presets=(Preset(id="p", number=1, name="P"),),
    )


def test_a_report_is_begun_when_a_frame_is_made_and_given_when_the_next_is(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ushering_adze.engine.telling.GAP_WAIT", 60.0)
    monkeypatch.setattr("ushering_adze.engine.telling.PERIOD", 0.0)
    frames, done = [0], []

    def make(now: float) -> Report:
        done.append(("begun", frames[0]))
        return object()  # type: ignore[return-value]

    telling = Telling(make, lambda report: done.append(("given", frames[0])), Pace())
    telling.thread.start()
    try:
        for steps in ([("begun", 1), ("given", 1)], [("begun", 2)], [("given", 3)], [("begun", 4)], [("given", 5)]):
            before = len(done)
            frames[0] += 1
            assert wait_for(lambda: telling.waits)
            telling.frame_made()
            assert wait_for(lambda before=before, steps=steps: len(done) >= before + len(steps))
            assert done[before:] == steps, "the first comes at once; the others with the frames"
    finally:
        telling.close()
        telling.thread.join(20)


def test_a_command_is_told_of_soon_and_a_still_show_still_reports(monkeypatch: pytest.MonkeyPatch) -> None:
    given: list[Report] = []
    monkeypatch.setattr("ushering_adze.engine.telling.PERIOD", 3600.0)
    engine = Engine(small_show(), given.append)
    engine.start(wait=20)
    try:
        assert wait_for(lambda: bool(given))
        for number in (1, None) * 6:
            before = len(given)
            engine.act(Unstage() if number is None else StagePreset(preset=number))
            assert wait_for(
                lambda before=before, number=number: any(r.stage.staged == number for r in given[before:])
            ), "by itself it comes in an hour"
        engine.act(Hold())
        assert wait_for(lambda: given[-1].held)
        monkeypatch.setattr("ushering_adze.engine.telling.PERIOD", PERIOD)
        before = len(given)
        engine.act(Unstage())
        assert wait_for(lambda: len(given) > before + 4)
    finally:
        engine.stop()


def test_a_show_slower_than_the_desk_is_reported_all_the_same() -> None:
    given: list[Report] = []
    engine = Engine(small_show(1), given.append)
    engine.start(wait=20)
    try:
        assert wait_for(lambda: bool(given))
        before, began = len(given), engine.frames
        assert wait_for(lambda: len(given) >= before + 4)
        assert engine.frames - began <= 3
    finally:
        engine.stop()


def test_a_source_that_fails_at_its_turn_stops_neither_frames_nor_reports(monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(self: object) -> None:
        raise RuntimeError("gone")

    monkeypatch.setattr(Player, "go_on", broken)
    given: list[Report] = []
    engine = Engine(small_show(), given.append)
    engine.start(wait=20)
    try:
        assert wait_for(lambda: len(given) > 3 and engine.frames > 10)
    finally:
        engine.stop()


def test_room_that_a_frame_makes_is_filled_when_the_frame_is_done() -> None:
    reader = ClipReader(DEMO_ROOT / "media" / "orrery.mp4")
    try:
        assert reader.wait(300, AHEAD)
        time.sleep(0.6)  # whatever it waited for is over
        first = reader.frame(0.0)
        assert first is not None and len(reader._ready) == AHEAD - 1
        time.sleep(0.1)
        assert len(reader._ready) == AHEAD - 1
        reader.go_on()
        assert wait_for(lambda: len(reader._ready) == AHEAD)
    finally:
        reader.close()
        reader.join(5)
