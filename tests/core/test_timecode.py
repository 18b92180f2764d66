"""Timecode: its count and its wires against their specifications, and lists that follow it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ushering_adze.core.onair.actions import apply, run_lists
from ushering_adze.core.onair.chasing import Code
from ushering_adze.core.onair.cues import Seen, head_of
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import Go, PauseList, Recall, RunCode
from ushering_adze.core.show.cue import AfterFormer, AtCode, Cue, CueList, Doing
from ushering_adze.core.show.timecode import Chase
from ushering_adze.core.signal.timecode import (
    RATES,
    CodeError,
    QuarterFrames,
    artnet_code,
    artnet_packet,
    code_parts,
    code_words,
    frame_number,
    quarter_frames,
    seconds_of_code,
)
from ushering_adze.demo.show import demo_show


def test_the_count_of_drop_frames() -> None:
    """SMPTE ST 12-1: 17 982 frames in ten minutes, 107 892 in an hour, no 00 and 01 but in each tenth minute."""
    assert frame_number(0, 10, 0, 0, "29.97") == 17982 and frame_number(1, 0, 0, 0, "29.97") == 107892
    assert frame_number(0, 1, 0, 2, "29.97") == frame_number(0, 0, 59, 29, "29.97") + 1
    for words in ("00:01:00:00", "00:59:00:01"):
        with pytest.raises(CodeError, match=r"is dropped at 29\.97; the minute begins with frame 02"):
            seconds_of_code(words, "29.97")
    with pytest.raises(CodeError, match="there are 24 hours and 25 frames in a second"):
        seconds_of_code("01:00:00:25", "25")
    with pytest.raises(CodeError, match="noon is no timecode; type one like 01:00:00:00"):
        seconds_of_code("noon", "25")
    every = [code_parts(n * 1001 / 30000, "29.97") for n in range(18000)]
    assert len(set(every)) == 18000 and every == sorted(every)
    assert not {p for p in every if p[2] == 0 and p[3] < 2 and p[1] % 10}


@given(st.integers(0, 24 * 3600 * 24 - 1), st.sampled_from(RATES))
def test_every_code_comes_back_over_both_wires(number: int, rate: str) -> None:
    seconds = number % 2_589_408 * 1001 / 30000 if rate == "29.97" else number / 24  # a day has so many at 29.97
    words = code_words(seconds, rate)
    exact = seconds_of_code(words, rate)
    assert code_words(exact, rate) == words and abs(exact - seconds) < 0.05
    heard = artnet_code(artnet_packet(exact, rate))
    assert heard is not None and heard.rate == rate and heard.seconds == pytest.approx(exact, abs=1e-6)
    reader = QuarterFrames()
    told = [reader.read(m) for m in quarter_frames(exact, rate)]
    assert told[:-1] == [None] * 7 and told[-1] is not None
    frame = 1001 / 30000 if rate == "29.97" else 1 / float(rate)
    assert told[-1].seconds == pytest.approx(exact + 2 * frame, abs=1e-6), "it is two frames old when all has come"


def test_wires_byte_by_byte() -> None:
    """Art-Net 4, ArtTimeCode; MMA RP-004: the bytes of 01:37:52:16 at 30 frames are 0, 1, 4, 3, 5, 2, 1, 6 (its own
    example of nibbles: frames, seconds, minutes, hours with the rate in bits 5 and 6); from memory.
    """
    packet = bytes.fromhex("4172742d4e6574000097000e00001034250103")
    heard = artnet_code(packet)
    assert heard is not None and code_words(heard.seconds, heard.rate) == "01:37:52:16" and heard.rate == "30"
    assert [m[1] & 15 for m in quarter_frames(heard.seconds, "30")] == [0, 1, 4, 3, 5, 2, 1, 6]
    full = QuarterFrames().read(bytes.fromhex("f07f7f0101" + "61253410" + "f7"))
    assert full is not None and code_words(full.seconds, full.rate) == "01:37:52:16"
    reader, messages = QuarterFrames(), quarter_frames(100.0, "25")
    lost = [reader.read(m) for m in (*messages[:3], *messages[4:])]
    assert lost == [None] * 7 and [reader.read(m) for m in messages][-1] is not None, (
        "one that was lost spoils one code"
    )
    for damaged in (b"", packet[:18], packet[:18] + b"\x09", b"x" * 19, packet[:14] + b"\x63" + packet[15:]):
        assert artnet_code(damaged) is None


def coded(jumps: str = "pass", **more: object) -> Show:
    cues = tuple(
        Cue(
            id=f"c{n}",
            number=n,
            does=(Doing(action=Recall(preset=n, seconds=0)),),
            fires=AtCode(at=f"01:00:{n * 10}:00"),
        )
        for n in (1, 2, 3, 4)
    )
    chase = Chase.model_validate({"source": "artnet", "jumps": jumps, **more})
    return demo_show().model_copy(update={"lists": (CueList(id="e", name="E", cues=cues, code=chase),)})


def heard(stage: Stage, now: float, code: float, at: float | None = None) -> Stage:
    return run_lists(stage, now, Seen(codes={"artnet": Code(3600 + code, now if at is None else at)}))


def fired_in(show: Show, codes: list[tuple[float, float]]) -> list[str | None]:
    """Which cues fire, a code every 40 ms between moments of (clock, code)."""
    stage, found = run_lists(Stage.opened(show), 0.0), []
    for now, code in codes:
        stage = heard(stage, now, code)
        fired = head_of(stage, "e").fired
        if fired is not None and (not found or found[-1] != fired):
            found.append(fired)
    return found


def steady(begin: float, code: float, seconds: float) -> list[tuple[float, float]]:
    return [(begin + k * 0.04, code + k * 0.04) for k in range(round(seconds / 0.04))]


def test_cues_fire_on_their_code_to_the_frame() -> None:
    stage = run_lists(Stage.opened(coded()), 0.0)
    for now, code in steady(100.0, 9.0, 3.0):
        stage = heard(stage, now, code)
    head = head_of(stage, "e")
    assert head.fired == "c1" and head.at == pytest.approx(101.0, abs=1e-6), "at its own moment, not at the frame's"
    assert stage.on_program == 1 and head.armed == "c2"


@pytest.mark.parametrize(
    ("jumps", "found"),
    [("pass", ["c1", "c4"]), ("last", ["c1", "c3", "c4"]), ("fire", ["c1", "c3", "c4"])],
)
def test_jumps_forwards_by_choice(jumps: str, found: list[str]) -> None:
    codes = steady(100.0, 9.0, 2.0) + steady(102.0, 35.0, 6.0)
    assert fired_in(coded(jumps), codes) == found
    if jumps == "fire":
        stage = run_lists(Stage.opened(coded(jumps)), 0.0)
        stage = heard(heard(stage, 100.0, 5.0), 100.04, 35.0)
        assert stage.on_program == 3 and len(stage.back) == 3, "all three were fired, in their order"


def test_a_jump_back_fires_nothing_and_arms_what_is_next() -> None:
    stage = run_lists(Stage.opened(coded()), 0.0)
    for now, code in steady(100.0, 5.0, 30.0):
        stage = heard(stage, now, code)
    assert head_of(stage, "e").fired == "c3"
    stage = heard(stage, 130.0, 15.0)
    assert head_of(stage, "e").armed == "c2" and head_of(stage, "e").fired == "c3" and stage.on_program == 3
    for now, code in steady(130.04, 15.04, 6.0):
        stage = heard(stage, now, code)
    assert head_of(stage, "e").fired == "c2" and stage.on_program == 2


def test_it_goes_on_by_itself_for_half_a_second_and_stands_then() -> None:
    stage = run_lists(Stage.opened(coded()), 0.0)
    for now, code in steady(100.0, 9.0, 0.8):
        stage = heard(stage, now, code)
    at, last = now, code
    stage = heard(stage, at + 0.3, last, at)
    assert head_of(stage, "e").fired == "c1", "the cable is out for 0.3 s: the cue at 10 s comes all the same"
    stage = run_lists(Stage.opened(coded()), 0.0)
    stage = heard(stage, 100.0, 9.0)
    for later in (0.4, 0.9, 1.2, 3.0):
        stage = heard(stage, 100 + later, 9.0, 100.0)
    assert head_of(stage, "e").fired is None
    assert head_of(stage, "e").code is not None and head_of(stage, "e").code.seconds == pytest.approx(3609.4)


def test_the_programs_own_code_and_an_offset() -> None:
    show = coded(source="internal", offset=3600)
    stage = apply(show, Stage.opened(show), RunCode(seconds=8.0), 50.0)
    for frame in range(1, 100):
        stage = run_lists(stage, 50 + frame / 30)
    assert head_of(stage, "e").fired == "c1" and head_of(stage, "e").at == pytest.approx(52.0)
    stage = apply(show, stage, RunCode(on=False), 54.0)
    assert stage.code.position(60.0) == pytest.approx(12.0)
    assert head_of(run_lists(stage, 200.0), "e").fired == "c1"


def test_a_list_that_waits_goes_on_where_it_stood() -> None:
    cues = (
        Cue(id="a", number=1, does=(Doing(action=Recall(preset=1)), Doing(action=Recall(preset=3), delay=4.0))),
        Cue(id="b", number=2, does=(Doing(action=Recall(preset=4)),), fires=AfterFormer(seconds=10)),
    )
    show = demo_show().model_copy(update={"lists": (CueList(id="e", name="E", cues=cues),)})
    stage = run_lists(apply(show, run_lists(Stage.opened(show), 0.0), Go(list="e"), 1.0), 2.0)
    stage = apply(show, stage, PauseList(list="e"), 3.0)
    stage = run_lists(stage, 60.0)
    assert stage.on_program == 1 and head_of(stage, "e").fired == "a"
    stage = apply(show, stage, PauseList(list="e", on=False), 103.0)
    assert run_lists(stage, 104.9).on_program == 1 and run_lists(stage, 105.1).on_program == 3
    assert head_of(run_lists(stage, 110.9), "e").fired == "a" and head_of(run_lists(stage, 111.1), "e").fired == "b"
