"""The running show in a process of its own: what becomes of it when that process, or who looks at it, ends."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ushering_adze.core.onair.actions import Black, Hold, LayOver, Recall, Route, StagePreset
from ushering_adze.core.show import Show
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.laid import Laid, Pattern
from ushering_adze.demo.show import demo_show
from ushering_adze.io.child import PICTURES, Child
from ushering_adze.playout import Beside, Playout, Report, link
from waiting import wait_for

SHOW = demo_show()


class Run:
    def __init__(self) -> None:
        self.reports: list[Report] = []
        self.told: list[str] = []
        self.refused: list[tuple[Show, str]] = []
        self.playout = Beside(
            SHOW,
            self.reports.append,
            lambda show, why: self.refused.append((show, why)),
            self.told.append,
            devices=False,
        )
        self.playout.start(wait=60)
        assert wait_for(lambda: bool(self.reports))

    def end(self, by: int = signal.SIGKILL) -> None:
        """The process ends, and is there again."""
        told = len(self.told)
        os.kill(self.playout._link.process, by)
        assert wait_for(lambda: len(self.told) > told)
        reports = len(self.reports)
        assert wait_for(lambda: len(self.reports) > reports)


@pytest.fixture
def run() -> Iterator[Run]:
    made = Run()
    yield made
    made.playout.stop()


def test_what_was_on_air_is_on_air_again_when_its_process_has_ended(run: Run) -> None:
    playout = run.playout
    feed = playout.frames_of("relay")
    laid = Laid(surface="horizon", output="projector-left", pattern=Pattern(name="white", on="output"))
    for action in (
        Recall(preset=6, seconds=0),
        StagePreset(preset=7),
        Black(outputs=("lectern",)),
        LayOver(over=laid),
        Hold(outputs=("foyer",)),
    ):
        playout.act(action)
    renamed = changed(SHOW, name="Renamed")
    playout.edit(renamed)
    assert wait_for(lambda: playout.stage.laid == laid and "foyer" in playout.stage.held)
    assert wait_for(lambda: playout.stage.show is renamed, 300), "it is told with the very show that was given"
    playout.look_at_meters(True)
    playout.listen("hall")
    before, numbers = playout.stage, dict(playout.serials)
    old = playout.raster("relay"), playout.picture_of("orrery")
    last = feed.newest()
    run.end()
    assert "signal 9" in run.told[0] and "on air" in run.told[0]
    assert wait_for(lambda: playout.serials.keys() == numbers.keys())
    assert min(playout.serials.values()) > max(numbers.values()), "no picture has the number of an earlier one"
    new = playout.raster("relay"), playout.picture_of("orrery")
    assert new[0] is not old[0] and new[1] is not None and old[1] is not None and new[1].serial > old[1].serial
    assert wait_for(lambda: playout.stage.held == before.held and playout.stage.laid == laid)
    after = playout.stage
    assert (after.on_program, after.staged, after.black) == (6, 7, before.black) and after.show is renamed
    assert after.program.target == before.program.target
    assert wait_for(lambda: (p := playout.raster("projector-left")) is not None and (p[..., :3] == 255).mean() > 0.9)
    assert wait_for(lambda: (p := playout.raster("lectern")) is not None and p[..., :3].max() == 0)
    assert wait_for(lambda: (p := playout.raster("foyer")) is not None and p[..., :3].max() > 60), "held, not black"
    assert wait_for(lambda: (sent := feed.newest()) is not None and last is not None and sent.pixels is not last.pixels)
    assert playout.listening == "hall"
    playout.act(Recall(preset=5, seconds=0))
    assert wait_for(lambda: playout.stage.on_program == 5), "and it goes on"


def test_a_show_that_was_just_opened_comes_back_from_its_own_opening(run: Run) -> None:
    playout = run.playout
    playout.act(Recall(preset=6, seconds=0))
    assert wait_for(lambda: playout.stage.on_program == 6)
    another = changed(SHOW, name="Another", opening=4)
    os.kill(playout._link.process, signal.SIGSTOP)
    opening = threading.Thread(target=playout.open, args=(another,))
    opening.start()
    assert wait_for(lambda: playout._show is another)
    os.kill(playout._link.process, signal.SIGKILL)
    opening.join()
    assert wait_for(lambda: playout.stage.show is another and playout.stage.on_program == 4)


def test_an_edit_that_ends_the_process_is_taken_back(run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    """A stand-in for the process ends with every show of one name, and cannot map those of another."""
    monkeypatch.setattr(link, "PICTURES", "ends_with_a_show")
    monkeypatch.setattr(link, "SPARE_AFTER", 1e9)
    monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent / "ends"))
    run.end()  # it is the stand-in from now on
    good = changed(SHOW, name="Good")
    run.playout.edit(good)
    assert wait_for(lambda: run.playout.stage.show is good)
    cannot = changed(SHOW, name="Cannot")
    run.playout.edit(cannot)
    assert wait_for(lambda: bool(run.refused))
    assert run.refused[0] == (cannot, "it cannot be mapped (ZeroDivisionError)") and run.refused.pop()[0] is cannot
    run.playout.edit(good)
    bad = changed(SHOW, name="Ends")
    run.playout.edit(bad)
    assert wait_for(lambda: bool(run.refused))
    assert run.refused[0][0] is bad and "code 7" in run.refused[0][1]
    assert wait_for(lambda: run.playout.stage.show is good), "what ran before runs again"


def test_another_waits_and_takes_over_and_one_that_says_nothing_is_ended(
    run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(link, "SPARE_AFTER", 0.0)
    assert wait_for(lambda: run.playout._link._spare is not None)
    spare = run.playout._link._spare
    assert spare is not None
    run.end()
    assert run.playout._link.process == spare.number and run.playout.stage.on_program == SHOW.opening
    monkeypatch.setattr(link, "TICK", 0.1)
    frames = run.playout.mark[0]
    assert wait_for(lambda: run.playout.mark[0] > frames)
    os.kill(run.playout._link.process, signal.SIGSTOP)
    assert wait_for(lambda: len(run.told) >= 2) and "it hung" in run.told[1]
    assert wait_for(lambda: run.playout._link.process != spare.number)


def test_what_is_done_meanwhile_is_done_when_it_is_there_again(run: Run) -> None:
    os.kill(run.playout._link.process, signal.SIGSTOP)
    run.playout.act(Recall(preset=4, seconds=0))
    os.kill(run.playout._link.process, signal.SIGKILL)
    assert wait_for(lambda: not run.playout._link._up.is_set() or bool(run.told))
    run.playout.act(StagePreset(preset=7))
    assert wait_for(lambda: run.playout.stage.staged == 7)


def test_the_process_ends_with_who_looks_at_it() -> None:
    child = Child(PICTURES)
    child.socket.close()
    assert child.ended(300) == 0
    playout = Beside(SHOW, devices=False)
    playout.start()
    assert wait_for(lambda: playout.mark[0] > 3)
    child = playout._link._child
    playout._link._closing.set()  # as if this process were gone: nobody begins it again
    playout._link._wire.close()
    assert child.ended(300) == 0


def test_errors_come_back_and_it_stays_as_it_was(run: Run) -> None:
    with pytest.raises(TypeError, match="probe"):
        run.playout._link.ask("probe", "a wall alone")
    with pytest.raises(AttributeError):
        run.playout._link.ask("nothing of the kind")
    assert run.playout.raster("attic") is None and run.playout.picture_of("orrery") is not None
    assert not run.told


def test_it_makes_the_same_pictures_as_within(run: Run) -> None:
    within = Playout(SHOW, lambda report: None, devices=False)
    within.start(wait=60)
    try:
        for playout in (run.playout, within):
            playout.act(Recall(preset=90, seconds=0))
            for surface in SHOW.surfaces:
                playout.act(Route(surface=surface.id, source="hold-card", on="program", seconds=0))
        assert wait_for(
            lambda: all(np.array_equal(pixels, run.playout.raster(id)) for id, pixels in within.rasters().items())
        )
        assert within.rasters().keys() == run.playout.rasters().keys()
        assert min(pixels[..., :3].max() for pixels in within.rasters().values()) > 100, "there is something to compare"
    finally:
        within.stop()


def test_frames_go_on_while_who_looks_at_them_stands_still(tmp_path: Path) -> None:
    stalls, go_on = threading.Event(), threading.Event()

    def stall(report: Report) -> None:
        stalls.set()
        go_on.wait()

    playout = Beside(SHOW, stall, devices=False)
    try:
        file = tmp_path / "relay.png"
        playout.write_files("relay", file)
        playout.start()
        playout.act(Recall(preset=3, seconds=0))
        assert stalls.wait(300)
        frames, seen = playout.mark[0], set[int]()
        assert wait_for(lambda: file.exists() and (seen.add(file.stat().st_mtime_ns) or len(seen) > 12))  # type: ignore[func-returns-value]
        assert playout.mark[0] == frames, "nothing was read meanwhile"
    finally:
        go_on.set()
        playout.stop()
