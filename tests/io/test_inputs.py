"""Inputs whose hardware is not there yet: their card, their stand-in, and what is said when that is lost."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from ushering_adze.core.light.lining_up import shaped
from ushering_adze.core.onair.playing import runs_on_preview
from ushering_adze.core.show import Input, PatternSource, Show
from ushering_adze.core.show.rigging import with_item
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine.pool import SourcePool
from ushering_adze.io.media import open_player
from ushering_adze.io.media.clip import ClipReader
from ushering_adze.io.outputs.png import write_png
from ushering_adze.io.priority import GIVES_WAY, give_way
from ushering_adze.io.showfile import absolute, media_faults, portable, read_show, save_show
from ushering_adze.io.writing import write_whole


@pytest.mark.parametrize(("width", "height"), [(1920, 1080), (256, 768), (3840, 1080), (97, 33), (1, 1)])
def test_an_unbound_input_shows_its_name_and_format_at_its_own_size(width: int, height: int) -> None:
    made = [
        open_player(Input(id="i", name=name, width=width, height=height, rate=rate)).exact(0.0)
        for name, rate in (("Desk", 50.0), ("Desk", 59.94), ("Stage left", 50.0))
    ]
    assert all(f.pixels.shape == (height, width, 4) and f.opaque for f in made)
    if width > 200:
        assert (made[0].pixels != made[1].pixels).any() and (made[0].pixels != made[2].pixels).any(), (
            "name and rate are written on it"
        )
        edge = np.concatenate(
            [made[0].pixels[0, :, :3], made[0].pixels[-1, :, :3], made[0].pixels[:, 0, :3], made[0].pixels[:, -1, :3]]
        )
        assert (edge == edge[0]).all(), "a frame on the outermost pixels shows whether all of it arrives"


def test_a_stand_in_clip_or_still_takes_its_place(tmp_path: Path) -> None:
    still = np.full((36, 64, 4), 200, np.uint8)
    write_png(still, tmp_path / "card.png")
    fixed = open_player(Input(id="i", name="Desk", stand_in=str(tmp_path / "card.png")))
    assert (fixed.exact(3.0).pixels[..., :3] == 200).all() and fixed.fault is None
    moving = open_player(Input(id="c", name="Camera", stand_in=str(DEMO_ROOT / "media/roof-camera.mp4")))
    assert runs_on_preview(moving.source), "an input runs on preview too"
    assert (
        moving.exact(0.0).pixels.shape == (720, 1280, 4)
        and (moving.exact(0.0).pixels != moving.exact(2.0).pixels).any()
    )
    moving.close()
    lost = open_player(Input(id="l", name="Camera", stand_in=str(tmp_path / "gone.mp4")))
    assert lost.exact(0.0).pixels.max() > 150 and lost.fault is not None and "gone.mp4" in lost.fault


def test_stand_ins_follow_the_show_to_another_folder_and_are_missed_by_name(show: Show, tmp_path: Path) -> None:
    with_one = with_item(
        show, "sources", Input(id="cam", name="Stage camera", stand_in=str(DEMO_ROOT / "media/roof-camera.mp4"))
    )
    assert media_faults(with_one) == []
    save_show(with_one, tmp_path / "show.adze")
    assert read_show(tmp_path / "show.adze") == with_one
    assert portable(with_one, DEMO_ROOT).source("cam").stand_in == "media/roof-camera.mp4"
    faults = media_faults(absolute(portable(with_one, DEMO_ROOT), tmp_path))
    assert f'sources[{len(show.sources)}].stand_in: Stage camera: no file "{tmp_path}/media/roof-camera.mp4"' in str(
        faults[-1]
    )


def test_an_input_bound_later_is_another_picture_in_the_running_pool(show: Show) -> None:
    pool = SourcePool()
    card = with_item(show, "sources", Input(id="cam", name="Stage camera", width=640, height=360))
    pool.set_show(card)
    first = pool.exact({"cam"}, 0.0)["cam"]
    assert first.pixels.shape == (360, 640, 4)
    pool.set_show(
        with_item(
            card, "sources", Input(id="cam", name="Stage camera", stand_in=str(DEMO_ROOT / "media/roof-camera.mp4"))
        )
    )
    second = pool.exact({"cam"}, 0.0)["cam"]
    pool.close()
    assert second.pixels.shape == (720, 1280, 4) and second.serial != first.serial


def test_threads_that_can_wait_give_way_and_no_others_do() -> None:
    before, seen = os.getpriority(os.PRIO_PROCESS, threading.get_native_id()), {}

    def work() -> None:
        give_way()
        seen["nice"] = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()
    assert seen["nice"] == max(before, GIVES_WAY)
    reader = ClipReader(DEMO_ROOT / "media/orrery.mp4")
    assert reader.wait(300)
    end = time.monotonic() + 300
    while time.monotonic() < end and os.getpriority(os.PRIO_PROCESS, reader._thread.native_id or 0) == before:
        time.sleep(0.01)
    assert os.getpriority(os.PRIO_PROCESS, reader._thread.native_id or 0) == max(before, GIVES_WAY)
    reader.close()
    assert os.getpriority(os.PRIO_PROCESS, threading.get_native_id()) == before


def test_a_small_file_is_whole_or_untouched_too(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "made.bin"
    write_whole(path, b"first")

    def full(handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(ValueError, match="could not be saved"):
        write_whole(path, b"second")
    assert path.read_bytes() == b"first" and [p.name for p in tmp_path.iterdir()] == ["made.bin"]


def test_a_moving_line_as_a_source_is_where_its_time_says() -> None:
    """It crosses 400 pixels in four seconds: a hundred a second; twice asked for the same moment it is the
    same frame.
    """
    player = open_player(
        PatternSource(id="l", name="Line", pattern="line", width=400, height=120, line=1, ink="#FF8040")
    )
    for seconds in (0.0, 0.5, 1.25, 3.9, 4.5):
        frame = player.frame(seconds)
        red = (frame.pixels[3, :, :3] == (0x40, 0x80, 0xFF)).all(-1)
        assert abs(np.flatnonzero(red)[0] - (seconds % 4) * 100) <= 2, seconds
        assert player.frame(seconds) is frame and player.exact(seconds) is frame
    assert shaped("line", 400, 120).shape == (120, 400, 4)
