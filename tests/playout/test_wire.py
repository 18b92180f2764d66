"""Values between two processes: they come back equal, and what is known already is not sent again."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.onair.actions import Edit, LayOver, Recall, Take, apply
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.core.show.edits import changed, with_canvas
from ushering_adze.core.show.laid import Laid, Pattern
from ushering_adze.demo.show import demo_show
from ushering_adze.playout import wire
from ushering_adze.playout.wire import Wire


class Pair:
    """Two ends; what goes through is counted in bytes."""

    def __init__(self) -> None:
        mine, theirs = socket.socketpair()
        self.near, self.far = Wire(mine), Wire(theirs)
        self.bytes = 0
        sendall = mine.sendall

        class Counted:
            recv_into = mine.recv_into

            def sendall(_, data: Any) -> None:
                self.bytes += memoryview(data).nbytes
                sendall(data)

        self.near._sock = Counted()  # type: ignore[assignment]

    def through(self, value: object, pictures: bool = False) -> Any:
        self.bytes = 0
        got: list[object] = []
        reader = threading.Thread(target=lambda: got.append(self.far.receive()))
        reader.start()
        self.near.send(value, pictures)
        reader.join()
        return got[0]


@pytest.fixture
def pair() -> Iterator[Pair]:
    yield Pair()


def test_an_edit_sends_its_path_and_all_else_stays_the_same_value(pair: Pair) -> None:
    show = demo_show()
    there = pair.through(show)
    whole = pair.bytes
    assert there == show and there is not show
    house = show.canvas("house")
    first = house.regions[0]
    edited = with_canvas(show, changed(house, regions=(changed(first, x=first.x + 3), *house.regions[1:])))
    again = pair.through(edited)
    assert again == edited and again.canvas("house").regions[0].x == first.x + 3
    assert pair.bytes < whole / 20
    assert again.presets[0] is there.presets[0], "what was not edited is the very same"
    assert again.canvas("house").regions[1] is there.canvas("house").regions[1]
    assert pair.through(show) is there, "undo goes back to the very same show"
    assert pair.through((edited, Stage.opened(edited)))[1].show is again


@settings(max_examples=30, deadline=None)
@given(st.lists(st.integers(0, 6), min_size=1, max_size=8), st.integers(1, 400))
def test_any_row_of_edits_comes_through_however_little_is_remembered(steps: list[int], most: int) -> None:
    pair, show = Pair(), demo_show()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(wire, "MOST_KNOWN", most)
        pair.near._out._most = most
        for n, step in enumerate(steps):
            preset = show.presets[step]
            edited = changed(preset, name=f"{preset.name} {n}")
            show = changed(show, presets=tuple(edited if p is preset else p for p in show.presets))
            assert pair.through(show) == show
        held = pair.near._out.parts
        assert held.keys() and {n for n, _ in held.values()} == pair.far._in.parts.keys(), "both sides know the same"


def test_what_is_sent_back_is_the_very_same_value(pair: Pair) -> None:
    show = demo_show()
    there = pair.through(show)
    for stage in (Stage.opened(there), replace(Stage.opened(there), staged=7)):
        got: list[Stage] = []
        reader = threading.Thread(target=lambda: got.append(pair.near.receive()))  # noqa: B023
        reader.start()
        pair.far.send(stage)
        reader.join()
        assert got[0].show is show and got[0].staged == stage.staged


def test_a_stage_within_a_fade_and_errors_come_back_equal(pair: Pair) -> None:
    show = demo_show()
    stage = apply(show, Stage.opened(show), Recall(preset=7, seconds=4), 10.0)
    stage = apply(show, stage, Recall(preset=4, seconds=4), 11.0)
    back = pair.through(stage)
    assert pair.through(replace(stage, staged=5)).program is back.program, (
        "what moves is the very same, frame after frame"
    )
    assert back == stage and back.program.at(12.5) == stage.program.at(12.5)
    error = pair.through(ShowError([Fault("canvases.house", "is too large; make it smaller"), Fault("x", "y")]))
    assert isinstance(error, ShowError) and len(error.faults) == 2 and str(error).startswith("canvases.house")


def test_actions_come_through(pair: Pair) -> None:
    preset = demo_show().preset(7)
    assert preset is not None
    part = preset.parts[0]
    for action in (
        Take(seconds=1.5, surfaces=("meridian",)),
        Edit(canvas=part.canvas, layer=part.layer, set=part.holds, on="preview"),
        LayOver(over=Laid(surface="horizon", output="projector-left", pattern=Pattern(name="grid", on="output"))),
    ):
        there = pair.through(action)
        assert there == action and type(there) is type(action)


def test_pictures_that_stay_are_sent_once(pair: Pair) -> None:
    still, moving = np.full((90, 160, 4), 7, np.uint8), np.zeros((90, 160, 4), np.uint8)
    one = pair.through({"still": still, "moving": moving}, pictures=True)
    assert pair.bytes > 2 * still.nbytes
    pair.through("between")
    two = pair.through({"still": still, "moving": moving + 1, "twice": still}, pictures=True)
    assert still.nbytes < pair.bytes < 1.1 * still.nbytes
    assert two["still"] is one["still"] is two["twice"] and (two["moving"] == 1).all()
    pair.through({}, pictures=True)
    three = pair.through({"still": still}, pictures=True)
    assert pair.bytes > still.nbytes and three["still"] is not one["still"], "forgotten on both sides"
    sliced = np.arange(90 * 160 * 4, dtype=np.uint8).reshape(90, 160, 4)[::2, 10:90]
    assert (pair.through([sliced], pictures=True)[0] == sliced).all()


def test_what_cannot_be_taken_apart_leaves_both_ends_in_step(pair: Pair) -> None:
    show = demo_show()
    with pytest.raises(Exception, match="pickle"):
        pair.near.send((show, lambda: None))
    assert pair.through(show) == show
    assert pair.through(replace(Stage.opened(show), staged=7)).staged == 7


def test_who_waits_is_told_that_the_other_end_is_gone(pair: Pair) -> None:
    pair.far.close()
    with pytest.raises(EOFError):
        pair.far.receive()
    with pytest.raises(OSError):
        for _ in range(3):
            pair.near.send(Show(name="Nobody reads this"))
