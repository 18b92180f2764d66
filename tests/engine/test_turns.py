"""Reading ahead in turns between frames, and at the sizes that are coming."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

from ushering_adze.core.onair.actions import Recall, StagePreset, Take, Unstage
from ushering_adze.core.picture.frame import Sizes
from ushering_adze.core.picture.mixing import mix_of, noticeable
from ushering_adze.core.picture.resampling import Cut, resample
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Countdown, Show
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine import resampled as painting
from ushering_adze.engine.engine import Engine
from ushering_adze.io import turns as turning
from ushering_adze.io.media import open_player
from ushering_adze.io.media.clip import AHEAD, ClipReader
from ushering_adze.io.turns import Turns, Work
from waiting import wait_for

SKY, MAST = (Rect(0, 192, 1920, 576), 3600, 1080), (Rect(800, 0, 320, 960), 256, 768)
"""What preset 8 shows of the orrery above, and of the moon on the masts."""


@pytest.fixture
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turning, "PATIENCE", 30.0)


def begun(piece: Work) -> threading.Event:
    """Set once the piece has been begun, in a thread of its own."""
    event = threading.Event()

    def work() -> None:
        with piece:
            event.set()

    threading.Thread(target=work, daemon=True).start()
    return event


def test_work_is_begun_when_it_is_done_before_the_next_frame_or_else_with_the_turn(patient: None) -> None:
    now = [100.0]
    turns = Turns(lambda: now[0])
    short, long = Work(turns), Work(turns)
    for _ in range(12):
        with long:
            now[0] += 0.2
    turns.open(now[0] - 1)
    assert not begun(short).wait(0.2), "a frame is being made"
    turns.open(now[0] + 0.3)
    now[0] += 0.15  # beyond the part of a turn in which anything may be begun
    assert begun(short).wait(300)
    late = begun(long)
    assert not late.wait(0.1), "it would last into the next frame"
    turns.open(now[0] + 0.1)
    assert late.wait(300), "work that is longer than any turn is begun at the start of one"


def test_a_show_that_stands_still_does_not_keep_sources_from_being_read() -> None:
    turns = Turns()
    turns.open(time.perf_counter() - 1)
    assert begun(Work(turns)).wait(300)


def test_who_has_nothing_left_to_show_does_not_wait_for_long(patient: None) -> None:
    turns, reader = Turns(), ClipReader(DEMO_ROOT / "media" / "orrery.mp4")
    turns.open(time.perf_counter() - 1)
    assert begun(Work(turns, lambda: True)).wait(300), "long before the half minute of others"
    try:
        assert reader.wait(300, AHEAD) and not reader._behind()
        for n in range(AHEAD + 2):
            reader.frame(n / 30)
        assert reader._behind()
    finally:
        reader.close()
        reader.join(5)


def test_no_clip_is_decoded_while_a_frame_is_made(patient: None) -> None:
    turns = Turns()
    reader = ClipReader(DEMO_ROOT / "media" / "orrery.mp4", turns)
    try:
        assert reader.wait(300, AHEAD)
        turns.open(time.perf_counter() - 1)
        time.sleep(0.3)
        for n in range(AHEAD - 1):
            reader.frame(n / 30)
        reader.go_on()
        time.sleep(0.3)
        assert 1 <= len(reader._ready) <= 2, "no more than what was decoded before"
        turns.open(time.perf_counter() + 60)
        assert wait_for(lambda: len(reader._ready) == AHEAD)
    finally:
        turns.open(time.perf_counter() + 60)
        reader.close()
        reader.join(5)


def test_a_countdown_draws_its_next_picture_between_frames_too(patient: None) -> None:
    turns = Turns()
    player = open_player(Countdown(id="a", name="A", seconds=9), turns)
    turns.open(time.perf_counter() - 1)
    first = player.frame(0.0)
    time.sleep(0.3)
    assert first is not None and player.frame(1.0) is first
    turns.open(time.perf_counter() + 60)
    assert wait_for(lambda: player.frame(1.0) is not first)


def test_pictures_read_ahead_are_brought_to_a_size_that_is_asked_for_afterwards() -> None:
    reader = ClipReader(DEMO_ROOT / "media" / "orrery.mp4")
    try:
        assert reader.wait(300, AHEAD)
        for n in range(3):
            frame = reader.frame(n / 30)
            assert frame is not None
            reader.sizes.ask(MAST)
            reader.go_on()
            assert reader.wait(300, AHEAD)
            if reader.sizes.wanted():
                reader.sizes.news = True
                break
        else:
            pytest.fail("a cut asked for with three pictures is not made")
        assert wait_for(lambda: all(MAST in made.sized for made in list(reader._ready)))
        made = reader._ready[0]
        take, width, height = MAST
        assert np.array_equal(made.sized[MAST], resample(made.frame.pixels, Cut(take, Rect(0, 0, width, height))))
    finally:
        reader.close()
        reader.join(5)


def test_a_cut_foreseen_stays_while_it_is_and_serves_from_the_first_picture_on() -> None:
    sizes = Sizes()
    sizes.foresee(frozenset({SKY, MAST}))
    assert sizes.news and sizes.wanted() == {SKY, MAST} and not sizes.news
    for _ in range(3 * Sizes.LASTS):
        assert sizes.next() == {SKY, MAST}
        sizes.foresee(frozenset({SKY, MAST}))
    sizes.next()
    sizes.ask(SKY)  # it has gone on air: nothing of it is foreseen any more
    for _ in range(Sizes.LASTS):
        assert SKY in sizes.next(), "no picture on air goes without what was foreseen of it"
    assert sizes.next() == set()


@pytest.fixture
def playing(show: Show) -> Iterator[Engine]:
    engine = Engine(show)
    engine.start(wait=20, ahead=AHEAD)
    try:
        yield engine
    finally:
        engine.stop()


def sizes_there(engine: Engine, source: str) -> list[set[object]]:
    reader = engine._pool._slots[source].player._reader  # type: ignore[union-attr]
    return [] if reader is None else [set(made.sized) for made in list(reader._ready)]


def test_what_is_staged_is_ready_at_its_size_and_no_frame_of_the_take_resizes_a_clip(
    playing: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    playing.act(Recall(preset=7, seconds=0.1))
    assert wait_for(lambda: not playing.stage.program.moving(time.perf_counter()) and playing.stage.on_program == 7)
    playing.act(StagePreset(preset=8))
    assert wait_for(lambda: sizes_there(playing, "orrery") == [{SKY}] * AHEAD), sizes_there(playing, "orrery")
    in_frames: list[tuple[int, ...]] = []

    def counted(pixels: np.ndarray, cut: Cut, *rest: np.ndarray) -> np.ndarray:
        if rest and pixels.shape == (960, 1920, 4) and cut.put.w == SKY[1]:
            in_frames.append((cut.put.w, cut.put.h))
        return resample(pixels, cut, *rest)

    monkeypatch.setattr(painting, "resample", counted)
    playing.act(Take(seconds=0.5))
    assert wait_for(lambda: playing.stage.on_program == 8 and not playing.stage.program.moving(time.perf_counter()))
    assert in_frames == []


def test_what_is_recalled_is_brought_to_its_size_before_anything_of_it_can_be_seen(playing: Engine) -> None:
    playing.act(Recall(preset=8, seconds=3600))
    assert wait_for(lambda: bool(there := sizes_there(playing, "orrery")) and all(SKY in sized for sized in there))
    sky = playing.stage.program.at(time.perf_counter())["house", "sky"]
    assert [s.picture.source for s in noticeable(mix_of(sky.picture))] == ["star-trails"], "asked for by no frame yet"


def test_what_is_no_longer_staged_gives_its_sizes_up(playing: Engine) -> None:
    playing.act(StagePreset(preset=8))
    assert wait_for(lambda: sizes_there(playing, "orrery") == [{SKY}] * AHEAD), sizes_there(playing, "orrery")
    playing.act(Unstage())
    assert wait_for(lambda: sizes_there(playing, "orrery") == [set()] * AHEAD), sizes_there(playing, "orrery")
