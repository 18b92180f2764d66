"""Disks that do not answer, are full, or are no disks: a fault at that place, and nothing waits for it."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest

from ushering_adze.core.show import Clip, Folder, PatternSource, Show, ShowError, Still
from ushering_adze.engine import slot as slots
from ushering_adze.engine.pool import SourcePool
from ushering_adze.io import asking, writing
from ushering_adze.io.asking import Askers, read_small, read_text, regular
from ushering_adze.io.exchange.guide import read_guide
from ushering_adze.io.media import player as players
from ushering_adze.io.media.clip import ClipReader
from ushering_adze.io.outputs import png
from ushering_adze.io.outputs.png import PngSink, write_png
from ushering_adze.io.showfile import read_show
from waiting import wait_for


@pytest.fixture
def stuck() -> Iterator[threading.Event]:
    """Let go of whatever hangs when a test is over."""
    event = threading.Event()
    yield event
    event.set()


# -- plain files only --------------------------------------------------------------------------------------------------


def test_what_is_no_plain_file_is_neither_media_nor_show(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.png"
    os.mkfifo(pipe)
    for read in (regular, read_small, read_show):
        with pytest.raises(ShowError, match="a pipe or a device, not a"):
            read(pipe)
        with pytest.raises(ShowError, match="a folder"):
            read(tmp_path)
        with pytest.raises(ShowError, match=r"there is no such .*check the path"):
            read(tmp_path / "none")
    with pytest.raises(ShowError, match="no such picture"):
        read_guide(pipe)
    os.mkfifo(tmp_path / "clip.mp4")
    sources = (
        Still(id="s", name="S", path=str(tmp_path / "pipe.png")),
        Clip(id="c", name="C", path=str(tmp_path / "clip.mp4")),
        Still(id="d", name="D", path="/dev/zero"),
    )
    pool = SourcePool()
    pool.set_show(Show(name="Pipes", sources=sources))
    assert wait_for(lambda: set(pool.faults()) == {"s", "c", "d"}), pool.faults()
    assert "a pipe or a device" in pool.faults()["s"]
    pool.close()
    (tmp_path / "latin.csv").write_bytes(b"name;x\nB\xfchne;1")
    with pytest.raises(ShowError, match=r"latin.csv: it is not UTF-8 text \(byte 9\)"):
        read_text(tmp_path / "latin.csv")


# -- what does not answer ----------------------------------------------------------------------------------------------


def test_whoever_hangs_is_replaced(monkeypatch: pytest.MonkeyPatch, stuck: threading.Event) -> None:
    monkeypatch.setattr(asking, "OVERDUE", 0.05)
    askers = Askers("test", 1)
    hung = [askers.ask(stuck.wait) for _ in range(3)]
    answer = askers.ask(lambda: 7)

    def there() -> bool:
        askers.relieve()
        return answer.done()

    assert wait_for(there) and answer.result() == 7 and not any(h.done() for h in hung)
    askers.close()
    late = askers.ask(lambda: 8)
    assert not late.done(), "closed is closed"


def test_two_dead_shares_block_neither_later_sources_nor_the_end(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, stuck: threading.Event
) -> None:
    monkeypatch.setattr(asking, "OVERDUE", 0.05)
    monkeypatch.setattr(slots, "OVERDUE", 0.05)
    real = slots.open_player

    def opened(source: object, *more: object) -> object:
        if isinstance(source, Folder):
            stuck.wait()
        return real(source, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(slots, "open_player", opened)
    dead = tuple(Folder(id=f"dead-{n}", name=f"Share {n}", path=str(tmp_path)) for n in range(4))
    fine = PatternSource(id="grid", name="Grid", pattern="grid")
    pool = SourcePool()
    pool.set_show(Show(name="Shares", sources=(*dead, fine)))
    ids = [s.id for s in (*dead, fine)]

    def all_shown() -> bool:
        pool.follow({}, 0.0)
        return set(pool.frames(ids)) == set(ids) and set(pool.faults()) == {d.id for d in dead}

    assert wait_for(all_shown), "the grid is there, and each share's place is held by its lost picture"
    assert "does not answer" in pool.faults()["dead-0"]
    began = time.monotonic()
    pool.close()
    assert time.monotonic() - began < 5, "it waits for none of them"
    stuck.set()


def test_a_clip_whose_file_stops_to_answer_is_a_fault_and_its_last_picture_stands(
    monkeypatch: pytest.MonkeyPatch, stuck: threading.Event
) -> None:
    from ushering_adze.demo.show import DEMO_ROOT
    from ushering_adze.io.media import clip

    real = clip.decoded

    def some(container: object, first: object) -> Iterator[object]:
        for n, found in enumerate(real(container, first)):
            if n == 8:
                stuck.wait()
            yield found

    monkeypatch.setattr(clip, "decoded", some)
    monkeypatch.setattr(clip, "STALLED", 0.05)
    player = players.ClipPlayer(Clip(id="c", name="C", path="x"), DEMO_ROOT / "media/orrery.mp4")
    assert player.wait(300)
    assert wait_for(lambda: player.frame(60.0) is not None and player.fault is not None)
    assert (
        "does not answer" in (player.fault or "")
        and player.frame(60.0) is not None
        and isinstance(player._reader, ClipReader)
    )
    stuck.set()
    assert wait_for(lambda: player.frame(60.0) is not None and player.fault is None), "and it goes on by itself"
    player.close()
    player.join(20)


# -- what cannot be written --------------------------------------------------------------------------------------------


def test_a_picture_is_replaced_whole_or_not_at_all(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "relay.png"
    write_png(np.full((8, 8, 4), 10, np.uint8), path)
    real = os.fdopen

    def full(handle: int, mode: str) -> object:
        file = real(handle, mode)
        file.write(b"half a pic")
        file.flush()
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(writing.os, "fdopen", full)
    with pytest.raises(ShowError, match=r"relay.png: the picture could not be saved \(No space left on device\)"):
        write_png(np.full((8, 8, 4), 99, np.uint8), path)
    assert cv2.imread(str(path))[0, 0, 0] == 10 and [p.name for p in tmp_path.iterdir()] == ["relay.png"]
    sink = PngSink(path, period=0)
    sink(np.zeros((8, 8, 4), np.uint8))
    assert wait_for(lambda: sink.fault is not None and "No space left" in sink.fault)
    monkeypatch.undo()
    assert wait_for(lambda: (sink(np.zeros((8, 8, 4), np.uint8)), sink.fault is None)[1]), (
        "and it is over when there is room"
    )
    sink.close()


def test_a_target_that_stalls_is_a_fault_and_closing_does_not_wait_for_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, stuck: threading.Event
) -> None:
    monkeypatch.setattr(png, "STALLED", 0.02)
    monkeypatch.setattr(png, "write_whole", lambda *args, **more: stuck.wait())
    sink = PngSink(tmp_path / "relay.png", period=0)
    for _ in range(3):
        sink(np.zeros((8, 8, 4), np.uint8))
    assert wait_for(
        lambda: sink.fault is not None and "has not answered" in sink.fault and "another folder" in sink.fault
    )
    closed = threading.Event()
    threading.Thread(target=lambda: (sink.close(), closed.set()), daemon=True).start()
    assert closed.wait(300) and not stuck.is_set()
