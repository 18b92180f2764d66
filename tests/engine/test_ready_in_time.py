"""What a frame needs is there before it is due: presets worked out, sources on air open, helpers with a frame's
priority.
"""

from __future__ import annotations

import subprocess
import sys
import threading
import time

import numpy as np
import pytest

from layered import plain
from ushering_adze.core.kinds.on_its_way import Shown
from ushering_adze.core.onair.motion import opening_motion, parts_of, prepare, recall
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.frame import NoRequests, Sized, Sizes
from ushering_adze.core.picture.resampling import Cut, resample
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Layer, Show, document_of, show_from_document
from ushering_adze.core.show.edits import with_canvas
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine import slot as slots
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pool import SourcePool
from ushering_adze.io.media.clip import ClipReader
from waiting import wait_for


def fresh(show: Show) -> Show:
    return show_from_document(document_of(show))


def test_a_preset_worked_out_ahead_recalls_as_one_that_is_not(show: Show) -> None:
    ready, bare = fresh(show), fresh(show)
    prepare(ready)
    for preset, other in zip(ready.presets, bare.presets, strict=True):
        assert all(part.known for part in parts_of(ready, preset))
        for cut, by_hand, seconds in (
            (False, False, None),
            (True, False, None),
            (False, True, None),
            (False, False, 3.0),
        ):
            one = recall(ready, opening_motion(ready), preset, 5.0, cut=cut, by_hand=by_hand, seconds=seconds)
            two = recall(bare, opening_motion(bare), other, 5.0, cut=cut, by_hand=by_hand, seconds=seconds)
            assert (dict(one.target), dict(one.tracks), one.span) == (dict(two.target), dict(two.tracks), two.span)


def test_what_was_worked_out_for_one_size_of_a_canvas_is_not_taken_for_another(show: Show) -> None:
    prepare(show)
    canvas = show.canvases[0]
    wider = with_canvas(show, canvas.model_copy(update={"width": canvas.width + 400}))
    again = fresh(wider)
    for preset, other in zip(wider.presets, again.presets, strict=True):
        found = recall(wider, opening_motion(wider), preset, 0.0, cut=True).target
        assert dict(found) == dict(recall(again, opening_motion(again), other, 0.0, cut=True).target)


def test_sources_on_air_do_not_wait_for_those_that_are_not(show: Show, monkeypatch: pytest.MonkeyPatch) -> None:
    gate, opened, whole = threading.Event(), [], slots.open_player
    on_air = sources_of(opening_motion(show).target)

    def slow(source: object, turns: object, near: bool) -> object:
        if source.id not in on_air:
            gate.wait(300)
        opened.append(source.id)
        return whole(source, turns, near)

    monkeypatch.setattr(slots, "open_player", slow)
    pool = SourcePool()
    pool.set_show(show, on_air)
    assert wait_for(lambda: set(opened) == on_air), (
        "all that are on air, while the first of the others holds up its thread"
    )
    gate.set()
    assert wait_for(lambda: set(opened) == {s.id for s in show.sources})
    pool.close()


def test_waiting_for_sources_ends_with_its_time_and_asks_only_for_those_that_are_named(
    show: Show, monkeypatch: pytest.MonkeyPatch
) -> None:
    gate, whole = threading.Event(), slots.open_player

    def slow(source: object, turns: object, near: bool) -> object:
        if source.id == "notes":
            gate.wait(300)
        return whole(source, turns, near)

    monkeypatch.setattr(slots, "open_player", slow)
    pool = SourcePool()
    try:
        pool.set_show(show)
        began = time.monotonic()
        pool.wait(0.3)
        assert 0.25 < time.monotonic() - began < 5, "a source that does not open is no fault of the engine's"
        began = time.monotonic()
        pool.wait(300, only={"slides", "star-trails"})
        assert time.monotonic() - began < 14 and pool.frames(["slides", "star-trails"]).keys() == {
            "slides",
            "star-trails",
        }
    finally:
        gate.set()
        pool.close()


def test_helpers_have_a_frames_priority_whoever_wants_them_first() -> None:
    code = """
import os, threading
from pathlib import Path
from ushering_adze.engine import workers
from ushering_adze.io.priority import give_way
import cv2, numpy as np
mine = []
def first():
    give_way(15)
    mine.append(threading.get_native_id())
    cv2.resize(np.zeros((600, 600, 4), np.uint8), (1920, 1080))
    workers.each(lambda n: cv2.resize(np.zeros((600, 600, 4), np.uint8), (1920, 1080)), list(range(8)))
    others = [f for f in Path("/proc/self/task").glob("*/stat") if f.parent.name != str(mine[0])]
    print(*(f.read_text().rpartition(")")[2].split()[16] for f in others))
thread = threading.Thread(target=first)
thread.start()
thread.join()
"""
    found = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, timeout=300, check=True
    ).stdout.split()
    assert len(found) >= 1 and set(found) == {"0"}


class Asked(NoRequests):
    """Requests of one reader."""

    def __init__(self, reader: ClipReader) -> None:
        self._reader = reader

    def ask(self, source: str, cut: Sized) -> None:
        self._reader.sizes.ask(cut)

    def made(self, source: str, serial: int, cut: Sized) -> np.ndarray | None:
        return self._reader.made(serial, cut)


def test_clips_are_resized_by_who_reads_ahead_once_their_size_is_known() -> None:
    """The very same pixels as when the frame has to do it; a layer of another size asks anew, and what nobody shows is
    made no more.
    """
    canvas = Canvas(id="c", name="C", width=1000, height=540, layers=(Layer(id="l", name="L"),))
    reader = ClipReader(DEMO_ROOT / "media" / "orrery.mp4")
    try:
        seconds = 0.0
        for width in (1000, 640):
            painter = CanvasPainter(canvas)
            state = plain()._replace(picture=Shown("s", "stretch"), place=(0, 0, width, 300))
            for _ in range(200):
                seconds += 1 / 30
                assert reader.wait(300, 2)
                frame = reader.frame(seconds)
                reader.go_on()
                assert frame is not None
                painter.draw([("l", state)], {"s": frame}, Asked(reader))
                take = Rect(0, 0, frame.pixels.shape[1], frame.pixels.shape[0])
                assert np.array_equal(
                    painter.pixels[:300, :width, :3], resample(frame.pixels, Cut(take, Rect(0, 0, width, 300)))[..., :3]
                )
                if reader._current is not None and reader._current.sized.keys() == {(take, width, 300)}:
                    break
            else:
                pytest.fail("no frame brought its size along, and that alone")
    finally:
        reader.close()
        reader.join(5)


def test_a_size_that_is_another_with_each_picture_is_not_made_ahead() -> None:
    """While a layer grows or shrinks, no picture of a clip would ever be asked for in a size made before."""
    sizes, whole = Sizes(), Rect(0, 0, 1920, 1080)
    for width in range(400, 500):
        sizes.ask((whole, width, 300))
        assert sizes.next() == set()
    rests = (whole, 499, 300)
    sizes.ask(rests)
    assert sizes.next() == {rests}
    for _ in range(Sizes.LASTS + 1):
        left = sizes.next()
    assert left == set()


def test_while_a_window_is_made_the_engine_makes_one_frame_and_rests(show: Show) -> None:
    """What is off the air is opened after that only, too."""
    engine = Engine(show)
    off = {s.id for s in show.sources} - sources_of(opening_motion(show).at(0))
    drawn: list[int] = []
    engine.add_sink("processor-b", "test", lambda pixels: drawn.append(1))
    engine.start(rest=True)
    try:
        assert wait_for(lambda: bool(drawn))
        time.sleep(0.3)
        assert engine.frames == 0 and off and all(engine.picture_of(id) is None for id in off)
        engine.go()
        assert wait_for(lambda: engine.frames > 5 and all(engine.picture_of(id) is not None for id in off))
    finally:
        engine.stop()


def test_linear_algebra_has_no_helpers_that_spin() -> None:
    code = "import os, ushering_adze.core.plane.mesh, scipy.linalg; print(len(os.listdir('/proc/self/task')))"
    assert (
        subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, timeout=300, check=True
        ).stdout.strip()
        == "1"
    )
