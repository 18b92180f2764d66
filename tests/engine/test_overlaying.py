"""What is laid over outputs is drawn beside the frames: none waits for it, and the newest counts."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import numpy as np
import pytest

from ushering_adze.core.onair.actions import Go
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import LayOver
from ushering_adze.core.show.cue import Cue, CueList, Doing
from ushering_adze.core.show.laid import Laid, Pattern
from ushering_adze.demo.show import demo_show
from ushering_adze.engine import overlaying
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.overlay import overlay_of as drawn
from waiting import wait_for

WHITE = Laid(surface="horizon", output="projector-left", pattern=Pattern(name="white", on="output"))
GRID = Laid(surface="horizon", output="projector-left", pattern=Pattern(name="grid", on="output"))


class Draughtsman:
    """Draws when he is let; keeps what he was asked for."""

    def __init__(self) -> None:
        self.let, self.asked = threading.Event(), list[Laid | None]()
        self.fails = False

    def __call__(self, show: Show, laid: Laid | None) -> Overlay:
        self.asked.append(laid)
        assert self.let.wait(300)
        if self.fails:
            raise ValueError("no pencil")
        return drawn(show, laid)


@pytest.fixture
def draughtsman(monkeypatch: pytest.MonkeyPatch) -> Draughtsman:
    made = Draughtsman()
    monkeypatch.setattr(overlaying, "overlay_of", made)
    return made


@pytest.fixture
def engine(draughtsman: Draughtsman) -> Iterator[Engine]:
    cue = Cue(id="a", number=1, does=(Doing(action=LayOver(over=WHITE)),))
    show = demo_show().model_copy(update={"lists": (CueList(id="e", name="E", cues=(cue,)),)})
    made = Engine(show)
    made.start(wait=60)
    yield made
    draughtsman.let.set()
    made.stop()


def white(engine: Engine) -> bool:
    raster = engine.raster("projector-left")
    return raster is not None and bool((raster[..., :3] == 255).mean() > 0.9)


def frames_go_on(engine: Engine) -> bool:
    made = engine.mark[0]
    return wait_for(lambda: engine.mark[0] > made + 2)


def test_who_lays_a_pattern_over_does_not_wait_and_the_newest_counts(engine: Engine, draughtsman: Draughtsman) -> None:
    engine.act(LayOver(over=GRID))  # would hang here
    assert wait_for(lambda: draughtsman.asked == [GRID])
    for over in (GRID, None, WHITE):
        engine.act(LayOver(over=over))
    assert frames_go_on(engine) and engine.stage.laid is None, "what is told is what is sent"
    draughtsman.let.set()
    assert wait_for(lambda: white(engine) and engine.stage.laid == WHITE)
    assert draughtsman.asked == [GRID, WHITE], "what was not wanted any more was not drawn"
    engine.act(LayOver())
    assert wait_for(lambda: not white(engine) and engine.stage.laid is None)


def test_a_cue_that_lays_a_pattern_over_makes_no_frame_wait(engine: Engine, draughtsman: Draughtsman) -> None:
    engine.act(Go(list="e"))
    assert wait_for(lambda: engine.stage.laid == WHITE and draughtsman.asked == [WHITE])
    assert frames_go_on(engine) and not white(engine)
    draughtsman.let.set()
    assert wait_for(lambda: white(engine))


def test_what_is_put_out_meanwhile_stays(engine: Engine, draughtsman: Draughtsman) -> None:
    engine.act(LayOver(over=WHITE))
    assert wait_for(lambda: draughtsman.asked == [WHITE])
    number = engine.put_out({"projector-left": np.full((1080, 1920, 4), 9, np.uint8)})
    assert wait_for(lambda: engine.put == number)
    draughtsman.let.set()
    assert wait_for(lambda: engine.stage.laid == WHITE)
    raster = engine.raster("projector-left")
    assert engine.put == number and raster is not None and (raster == 9).all()


def test_what_cannot_be_drawn_is_told_and_the_next_is(engine: Engine, draughtsman: Draughtsman) -> None:
    draughtsman.fails = True
    draughtsman.let.set()
    engine.act(LayOver(over=GRID))
    assert wait_for(lambda: "cannot be drawn" in engine.faults().get("patterns", ""))
    assert engine.stage.laid is None and frames_go_on(engine)
    draughtsman.fails = False
    engine.act(LayOver(over=WHITE))
    assert wait_for(lambda: white(engine)) and "patterns" not in engine.faults()
