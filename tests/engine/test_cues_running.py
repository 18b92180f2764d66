"""Cue lists in the running engine: fired, followed, begun by themselves, black and patterns with them."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from ushering_adze.core.onair.actions import Go, Recall, Route, StartList
from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import Black, LayOver
from ushering_adze.core.show.cue import AfterFormer, AtTime, Cue, CueList, Doing
from ushering_adze.core.show.laid import Laid, Pattern
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.overlay import Overlay
from waiting import wait_for


class Day:
    """A time of day that goes as it is told."""

    def __init__(self) -> None:
        self.now = 20 * 3600.0 - 60

    def __call__(self) -> float:
        return self.now


def running_of(show: Show, day: Day) -> Engine:
    made = Engine(show, day=day)
    made.start(wait=60)
    return made


@pytest.fixture
def day() -> Day:
    return Day()


@pytest.fixture
def engine(day: Day) -> Iterator[Engine]:
    over = Laid(surface="meridian", output="processor-a", pattern=Pattern())
    cues = (
        Cue(id="a", number=1, does=(Doing(action=Recall(preset=7, seconds=0)),)),
        Cue(
            id="b",
            number=2,
            does=(Doing(action=Black(outputs=("relay",))), Doing(action=LayOver(over=over), delay=0.1)),
            fires=AfterFormer(seconds=0.2),
        ),
        Cue(id="c", number=3, does=(Doing(action=Recall(preset=8, seconds=0)),), fires=AtTime(at="20:00")),
    )
    route = Doing(action=Route(surface="foyer-wall", source="star-trails", on="program", seconds=0))
    foyer = CueList(id="foyer", name="Foyer", cues=(Cue(id="f", number=1, does=(route,)),), runs=True, previews=False)
    show = demo_show().model_copy(update={"lists": (CueList(id="e", name="E", cues=cues), foyer)})
    made = running_of(show, day)
    yield made
    made.stop()


def test_a_list_runs_beside_the_frames(engine: Engine, day: Day) -> None:
    assert wait_for(lambda: head_of(engine.stage, "foyer").fired == "f"), "it began by itself"
    foyer = lambda: {k: s for k, s in engine.stage.program.target.items() if k[0] == "foyer"}  # noqa: E731
    assert wait_for(lambda: "star-trails" in sources_of(foyer()))
    assert wait_for(lambda: engine.rasters["relay"][..., :3].max() > 0)
    engine.act(Go(list="e"))
    assert wait_for(lambda: engine.stage.on_program == 7 and head_of(engine.stage, "e").armed == "b")
    assert wait_for(lambda: head_of(engine.stage, "e").fired == "b" and engine.stage.black == {"relay"})
    assert wait_for(lambda: engine.stage.laid is not None and engine._overlay != Overlay())
    assert head_of(engine.stage, "e").armed == "c" and engine.stage.on_program == 7
    day.now = 20 * 3600.0 + 0.01
    assert wait_for(lambda: engine.stage.on_program == 8) and head_of(engine.stage, "e").fired == "c"


def test_another_show_begins_its_own_lists(engine: Engine) -> None:
    other = demo_show()
    engine.open_show(other)
    assert wait_for(lambda: engine.stage.show is other and engine.stage.heads == {})
    engine.act(StartList(list="foyer-loop"))
    assert wait_for(lambda: head_of(engine.stage, "foyer-loop").fired == "foyer-1")
