"""Live signals over the network of this machine: their states, their backups, what they really are."""

from __future__ import annotations

import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator

import pytest

from ushering_adze.core.picture.cards import lost_picture
from ushering_adze.core.picture.numbered import number_in
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import ColourSource, Input, Show, Watch, WhenLost
from ushering_adze.core.signal.coming import Coming, Expected, Really, Watched, differences, state_of
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.report import signal_reports
from ushering_adze.io.media import player as player_module
from ushering_adze.io.media.live import Held, LivePlayer
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinError, StandinFeed, listen, loopback
from waiting import wait_for


def test_a_state_is_known_by_what_was_noted_alone() -> None:
    new = Coming(began=5.0)
    assert state_of(new, 6.0).state == "opening"
    assert state_of(new._replace(opened=6.0), 7.0) == ("filling", 6.0, None)
    live = Coming(began=5.0, opened=6.0, came=10.0, period=0.04, changed=10.0, lit=10.0)
    assert state_of(live, 10.18).state == "live"
    assert state_of(live, 10.19 + 1e-9) == ("stalled", 10.04, None), "150 ms after the first missing picture was due"
    assert state_of(live, 10.19, Watched(missing=1.0)).state == "live"
    still = live._replace(changed=7.0)
    assert state_of(still, 10.0) == ("frozen", 7.0, None) and state_of(still, 10.0, Watched(frozen=4)).state == "live"
    assert state_of(still._replace(lit=7.0), 10.0) == ("black", 7.0, None), "black stands still as well"
    failed = live._replace(failed="gone", again=12.0, began=10.0)
    assert state_of(failed, 10.5) == ("waiting", 10.0, 1.5) and state_of(failed, 12.5).state == "lost"


def test_what_a_signal_really_is_is_laid_beside_what_was_declared() -> None:
    declared = Expected(1920, 1080, 50.0, False, "422", 10)
    assert differences(declared, Really(1920, 1080, 50.0, False, "422", 10)) == ()
    assert differences(declared, Really()) == (), "nothing is said of what is not known"
    words = differences(declared, Really(1024, 768, 25.0, True, "420", 8))
    assert [w.split(",")[0] for w in words] == [
        "1024×768",
        "interlaced",
        "25 pictures a second",
        "4:2:0",
        "8 bits",
    ]
    assert "its shape differs" in words[0] and "more than once" in words[2]
    fields = Expected(1920, 1080, 50.0, True, "422", 10)
    assert differences(fields, Really(1920, 1080, 25.0, True, "422", 10)) == (), "50 fields are 25 pictures"


@pytest.fixture
def feed() -> Iterator[StandinFeed]:
    made = StandinFeed(f"udp://127.0.0.1:{free_port()}", 320, 180)
    made.start()
    yield made
    made.tell("quit")
    made.join(20)


def pool_of(feed: StandinFeed, watch: Watch, when: WhenLost) -> SourcePool:
    pool = SourcePool()
    camera = Input(
        id="cam", name="Camera", address=feed.address, width=640, height=360, rate=25, watch=watch, when_lost=when
    )
    slate = ColourSource(id="slate", name="Slate", fill="#204060")
    pool.set_show(Show(name="S", sources=(camera, slate)))
    return pool


def origin(pool: SourcePool) -> str | None:
    frame = pool.frames(["cam"]).get("cam")
    return frame.origin if frame is not None and pool.substitutes().get("cam") != "cam" else None


def test_a_camera_that_freezes_blackens_stops_and_returns(feed: StandinFeed) -> None:
    watch = Watch(missing=0.15, frozen=0.6, black=0.6)
    pool = pool_of(feed, watch, WhenLost(backup="slate", steady=0.5))
    try:
        assert wait_for(lambda: origin(pool) == "cam")
        player = pool._slots["cam"].player
        assert isinstance(player, LivePlayer)
        seen = {number_in(pool.frames(["cam"])["cam"].pixels) for _ in range(3)}
        assert all(n is not None for n in seen)
        for word, state, said in (
            ("freeze", "frozen", "stands still"),
            ("black", "black", "is black"),
            ("stop", "stalled", "no picture comes"),
        ):
            assert feed.tell(word) == f"ok {word}"
            assert wait_for(lambda: origin(pool) == "slate"), word
            # The frame that took over is the one in which the loss was known: never a card or a hole between.
            assert wait_for(lambda state=state: pool.signals()["cam"].state == state)
            assert wait_for(lambda said=said: said in pool.faults().get("cam", ""))
            assert "Slate stands in for it" in pool.faults()["cam"]
            back = time.monotonic()
            feed.tell("go")
            assert wait_for(lambda: origin(pool) == "cam"), f"back after {word}"
            assert time.monotonic() - back >= 0.5, "not before its steady time"
    finally:
        pool.close()


def test_what_it_really_is_is_measured_and_a_change_of_size_is_followed(feed: StandinFeed) -> None:
    pool = pool_of(feed, Watch(missing=5), WhenLost())
    try:
        assert wait_for(lambda: "cam" in pool.frames(["cam"]) and pool.signals()["cam"].real.width == 320)
        real = pool.signals()["cam"].real
        assert (real.codec, real.encoding, real.bits, real.matrix, real.range) == (
            "h264",
            "420",
            8,
            "BT.709",
            "limited",
        )
        assert real.interlaced is False and real.sound == ""
        (told,) = signal_reports(pool_show(pool), pool.signals())
        assert told.source == "cam" and told.differs[0] == (
            "320×180, not 640×360: it is scaled ×2.00 where it was fitted"
        )
        show = pool_show(pool)
        loose = show.model_copy(update={"sources": (show.sources[0].model_copy(update={"as_it_comes": True}),)})
        assert signal_reports(loose, pool.signals())[0].differs == (), "what is not declared is not other than that"
        assert feed.tell("size 256x144") == "ok size 256x144"
        assert wait_for(lambda: pool.frames(["cam"])["cam"].pixels.shape == (144, 256, 4))
        assert feed.tell("drop 40") == "ok drop 40"
        assert wait_for(lambda: feed.tell("frame").startswith("ok"))
        feed.tell("drop 0")
        assert wait_for(lambda: number_in(pool.frames(["cam"])["cam"].pixels) is not None)
    finally:
        pool.close()


def pool_show(pool: SourcePool) -> Show:
    return Show(name="S", sources=tuple(s.source for s in pool._slots.values()))


def test_a_steady_delay_holds_pictures_back_by_so_many_frames(feed: StandinFeed) -> None:
    held = Input(id="h", name="Held", address=feed.address, rate=25, delay=10, watch=Watch(missing=30))
    player = LivePlayer(held)
    try:
        assert player.wait(300) and wait_for(lambda: player.frame(0.0) is not None)
        assert wait_for(lambda: player.signal.behind >= 8 / 25)
        for _ in range(20):
            before, there, delay = time.monotonic(), player.held, player._delay
            shown, after = player.frame(0.0), time.monotonic()
            assert shown is not None
            late = [h for h in there if h.born + delay <= before and h.frame.serial > shown.serial]
            soon = [h for h in there if h.born + player._delay > after + 0.05 and h.frame.serial == shown.serial]
            assert not late and not soon, "neither a picture too late nor one too soon"
            assert wait_for(lambda shown=shown: player.frame(0.0) is not shown)
        with player._change:
            player._held.clear()  # as after a gap: those that come now are all too new
            player._held.append(Held(time.monotonic() + 60, None, player._newest))
        shown = player.frame(0.0)
        assert shown is not None and player.frame(0.0) is shown, "the last one stays until the next is due"
        player.call(held.model_copy(update={"delay": None}))
        assert player.frame(0.0) is player._newest or wait_for(lambda: player.frame(0.0) is player._newest)
    finally:
        player.close()
        player.join(10)


def test_ten_feeds_at_once_are_told_apart() -> None:
    feeds = [StandinFeed(f"udp://127.0.0.1:{free_port()}", 160, 90, rate=10) for _ in range(10)]
    for feed in feeds:
        feed.start()
    inputs = tuple(
        Input(
            id=f"c{n}",
            name=f"Camera {n}",
            address=feed.address,
            watch=Watch(missing=2),
            when_lost=WhenLost(backup="slate"),
        )
        for n, feed in enumerate(feeds)
    )
    pool = SourcePool()
    try:
        pool.set_show(Show(name="S", sources=(*inputs, ColourSource(id="slate", name="Slate", fill="#204060"))))
        ids = [s.id for s in inputs]
        assert wait_for(lambda: [f.origin for f in pool.frames(ids).values()] == ids)
        for feed in feeds[::2]:
            feed.tell("stop")
        wanted = ["slate" if n % 2 == 0 else f"c{n}" for n in range(10)]
        assert wait_for(lambda: [f.origin for f in pool.frames(ids).values()] == wanted)
    finally:
        for feed in feeds:
            feed.tell("quit")
        pool.close()


def test_a_loss_costs_no_frame_the_drawing_of_a_card(feed: StandinFeed, monkeypatch: pytest.MonkeyPatch) -> None:
    drawn: list[str] = []

    def watched(*args: str) -> Pixels:
        drawn.append(threading.current_thread().name)
        return lost_picture(*args)

    monkeypatch.setattr(player_module, "lost_picture", watched)
    pool = pool_of(feed, Watch(missing=0.5), WhenLost())
    try:
        assert wait_for(lambda: origin(pool) == "cam")
        feed.tell("stop")
        assert wait_for(lambda: pool.frames(["cam"])["cam"].pixels.shape == (720, 1280, 4)), "its card"
        assert set(drawn) == {"cards"}
    finally:
        pool.close()


def test_a_stand_in_stays_on_this_machine_and_answers_by_text() -> None:
    for address, words in (("udp://10.0.0.7:5000", "another machine"), ("rtp://127.0.0.1:1", "name a port")):
        with pytest.raises(StandinError, match=words):
            loopback(address)
    feed = StandinFeed("udp://127.0.0.1:9", 64, 36)
    server = listen(feed, 0)
    with socket.create_connection(server.getsockname(), 20) as talk, talk.makefile("rw") as lines:
        for line, answer in (
            ("freeze", "ok freeze"),
            ("drop 5", "ok drop 5"),
            ("dance", "no: there are"),
            ("size 9x9", "no: a size"),
        ):
            lines.write(line + "\n")
            lines.flush()
            assert lines.readline().startswith(answer)
    server.close()


def test_the_stand_in_is_a_command() -> None:
    port = free_port()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as heard:
        heard.bind(("127.0.0.1", port))
        heard.settimeout(60)
        run = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "ushering_adze",
                "standin",
                "camera",
                "--to",
                f"udp://127.0.0.1:{port}",
                "--size",
                "160x90@25",
            ],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert heard.recv(2048)[0] == 0x47, "a transport stream (ISO/IEC 13818-1, sync byte)"
        answers = run.communicate("freeze\nquit\n", timeout=300)[0]
    assert run.returncode == 0 and "ok freeze" in answers
    refused = subprocess.run(
        [sys.executable, "-m", "ushering_adze", "standin", "camera", "--to", "udp://10.1.1.1:5"],
        capture_output=True,
        text=True,
    )
    assert refused.returncode == 2 and "another machine" in refused.stderr
