"""Edits, openings and closings while the show runs."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from ushering_adze.bench.rows import measured, table
from ushering_adze.core.displays.binding import fed_parts, rebound
from ushering_adze.core.onair.actions import Hold, Recall
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Folder, RectLanding
from ushering_adze.core.show.edits import changed, find_region, with_output, with_region
from ushering_adze.core.show.rigging import with_field, with_item, without_item
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.machine import stolen_seconds
from ushering_adze.playout.headless import play
from waiting import PATIENCE


class Running:
    """An engine with its latest report."""

    def __init__(self) -> None:
        self.reports: list[Report] = []
        demo = demo_show()  # its slides stand still, so that pictures can be compared however slow the machine is
        still = tuple(s.model_copy(update={"hold": 3600.0}) if isinstance(s, Folder) else s for s in demo.sources)
        self.show = demo.model_copy(update={"sources": still})
        self.engine = Engine(self.show, self._keep)
        self.engine.start(wait=60)
        # However slow the machine, every source on air has brought its first picture before anything is compared.
        self.until(lambda r: len(r.program) == 7 and all(p[..., :3].max() > 60 for p in r.program.values()), 60)

    def _keep(self, report: Report) -> None:
        self.reports = [*self.reports[-3:], report]

    def until(self, what: Callable[[Report], bool], seconds: float = PATIENCE) -> Report:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if self.reports and what(self.reports[-1]):
                return self.reports[-1]
            time.sleep(0.01)
        raise AssertionError("it did not come to that in time")


@pytest.fixture
def running() -> Iterator[Running]:
    made = Running()
    yield made
    made.engine.stop()


def test_an_edit_in_the_middle_of_a_fade_moves_the_region_and_lets_the_fade_go_on(running: Running) -> None:
    engine, show = running.engine, demo_show()
    engine.act(Recall(preset=7, seconds=1.5))
    running.until(lambda r: r.moving and r.progress > 0.2)
    region = find_region(show, "meridian")[1]
    engine.set_show(with_region(show, changed(region, landing=RectLanding(x=0, y=120, w=1920, h=960))))
    running.until(lambda r: engine.rasters["processor-a"][:120, :, :3].max() == 0 and r.stage.on_program == 7)
    running.until(lambda r: not r.moving and r.surfaces["meridian"].sources == ("Moon phases",))
    running.until(lambda r: engine.rasters["processor-a"][120:, :, :3].max() > 100)


def test_a_new_size_of_an_output_is_sent_at_once(running: Running) -> None:
    engine, show = running.engine, demo_show()
    sizes: list[tuple[int, int]] = []
    engine.add_sink("relay", "t", lambda pixels: sizes.append(pixels.shape[:2]))
    running.until(lambda r: bool(sizes))
    relay = show.output("relay")
    smaller = relay.timing.model_copy(update={"width": 640, "height": 360})
    engine.set_show(with_output(show, relay.model_copy(update={"timing": smaller})))
    running.until(lambda r: sizes[-1] == (360, 640))
    engine.remove_sink("relay", "t")
    time.sleep(0.2)
    count = len(sizes)
    time.sleep(0.3)
    assert len(sizes) == count, "a sink that was removed gets nothing more"


def test_another_show_opens_from_its_own_opening(running: Running) -> None:
    engine = running.engine
    engine.act(Recall(preset=8))
    engine.act(Hold())
    running.until(lambda r: r.held)
    other = demo_show().model_copy(update={"name": "Other", "opening": 2})
    engine.open_show(other)
    report = running.until(lambda r: r.stage.show.name == "Other" and r.surfaces["meridian"].sources == ("Countdown",))
    assert not report.held and report.stage.on_program == 2 and report.stage.back == ()


def test_reports_tell_what_is_bound(running: Running) -> None:
    assert running.until(lambda r: True).surfaces["meridian"].state == "unbound"
    running.engine.add_sink("processor-a", "t", lambda pixels: None)
    running.until(lambda r: r.surfaces["meridian"].state == "live")
    assert running.reports[-1].surfaces["horizon"].state == "unbound"


def test_program_pictures_are_kept_while_nothing_changes(running: Running) -> None:
    running.until(lambda r: len(r.program) == 7)
    since: list[tuple[Pixels, int]] = []

    def stands(report: Report) -> bool:
        first = report.program["lectern"]
        if not since or since[-1][0] is not first:  # it has only just come
            since.append((first, report.frames))
        return report.frames > since[-1][1] + 15

    first = running.until(stands).program["lectern"]
    assert len(since) < 15, "a still surface costs nothing"
    assert np.abs(first[..., :3].astype(int)).max() > 100


def test_the_benchmark_tells_ratios_to_baselines() -> None:
    figures = measured({"copy", "recall", "drag", "open"})
    assert set(figures) == {"copy", "recall", "drag", "open"}
    for row in figures.values():
        assert row["ours_ms"] > 0 and row["baseline_ms"] > 0 and row["met"] == (row["ratio"] <= row["limit"])
    assert all(row["what"][:30] in table(figures) for row in figures.values())


def test_displays_and_outputs_come_and_go_while_the_show_runs(running: Running) -> None:
    """Everything the rig can change, on air, one after another; what the edits do not touch goes on."""
    engine, show = running.engine, running.show
    running.until(lambda r: r.surfaces["lectern"].state != "waiting")
    kept = engine.rasters["processor-a"].copy()
    meridian = fed_parts(show.surface("meridian"))[0]
    spare = show.output("foyer").model_copy(update={"id": "spare", "number": 20, "connector": None, "name": "Spare"})
    steps = [
        with_item(show, "outputs", spare),
        with_item(with_item(show, "outputs", spare), "surfaces", with_field(show.surface("meridian"), "columns", 8)),
        rebound(with_item(show, "outputs", spare), "spare", meridian),
        without_item(show, "outputs", "processor-b"),
        without_item(show, "surfaces", "horizon"),
        with_item(show, "outputs", with_field(show.output("processor-a"), "picture.flip", "both")),
        show,
    ]
    for step in steps:
        engine.set_show(step)
        running.until(lambda r, step=step: r.stage.show is step and set(r.surfaces) == {s.id for s in step.surfaces})
        running.until(lambda r, step=step: set(engine.rasters) == {o.id for o in step.outputs})
        for output in step.outputs:
            assert engine.rasters[output.id].shape[:2] == (output.timing.height, output.timing.width)
        if step is steps[2]:
            running.until(
                lambda r: (
                    (engine.rasters["spare"][:960, :1920] == kept[:960]).all()
                    and not engine.rasters["processor-a"][..., :3].any()
                )
            )
        if step is steps[5]:
            running.until(lambda r: (engine.rasters["processor-a"] == kept[::-1, ::-1]).all())
    running.until(lambda r: (engine.rasters["processor-a"] == kept).all() and r.stage.on_program == 5)


def test_the_report_without_a_window_says_what_the_machine_took(tmp_path: Path) -> None:
    report = play(demo_show(), 1.5, tmp_path)
    assert report["cpu_seconds"] > 0.05 and report["stolen_seconds"] >= 0
    assert stolen_seconds() + 1e-9 > 0 and report["seconds"] > 1.0 and report["frames"] > 5
