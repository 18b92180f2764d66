"""The desk is told between frames: what it and the readers ahead do is not in the way of the next."""

from __future__ import annotations

import time

import numpy as np
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
from ushering_adze.engine.report import Report
from ushering_adze.engine.telling import PERIOD
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


def test_reports_are_made_and_given_while_no_frame_is() -> None:
    """Frames that take 60 of 100 ms: of reports at any time, three in five would fall into one."""
    making, within, reports = [False], [], []

    def given(report: Report) -> None:
        within.append(making[0])
        reports.append(report)

    engine = Engine(small_show(10), given)
    frame, make = engine._frame, engine._report

    def slow(now: float) -> None:
        making[0] = True
        frame(now)
        time.sleep(0.06)
        making[0] = False

    engine._frame = slow  # type: ignore[method-assign]
    engine._telling._make = lambda now: (within.append(making[0]), make(now))[1]  # type: ignore[union-attr, func-returns-value]
    engine.start(wait=20)
    try:
        assert wait_for(lambda: len(reports) > 15)
    finally:
        engine.stop()
    assert within[2:] and sum(within[2:]) <= len(within[2:]) / 5, within


def test_a_command_is_told_of_soon_and_a_still_show_still_reports() -> None:
    given: list[tuple[float, Report]] = []
    engine = Engine(small_show(), lambda r: given.append((time.perf_counter(), r)))
    engine.start(wait=20)
    try:
        assert wait_for(lambda: len(given) > 3)
        told = []
        for number in (1, None) * 6:
            before, at = len(given), time.perf_counter()
            engine.act(Unstage() if number is None else StagePreset(preset=number))
            assert wait_for(
                lambda before=before, number=number: any(r.stage.staged == number for _, r in given[before:]), 10
            )
            told.append(next(t for t, r in given[before:] if r.stage.staged == number) - at)
        engine.act(Hold())
        before = len(given)
        assert wait_for(lambda: len(given) > before + 4 and given[-1][1].held)
    finally:
        engine.stop()
    assert float(np.median(told)) < 3.5 / 25 + PERIOD / 2


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
        assert reader.wait(20, AHEAD)
        time.sleep(0.6)  # whatever it waited for is over
        first = reader.frame(0.0)
        assert first is not None and len(reader._ready) == AHEAD - 1
        time.sleep(0.1)
        assert len(reader._ready) == AHEAD - 1
        reader.go_on()
        assert wait_for(lambda: len(reader._ready) == AHEAD, 0.45), "at once, not when it looks by itself"
    finally:
        reader.close()
        reader.join(5)
