"""Feeds: what leaves is what was shown, judged by programs from outside."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import av
import cv2
import numpy as np
import pytest

from ushering_adze.core.onair.actions import Recall, SendFeed
from ushering_adze.core.show import (
    Canvas,
    ColourSource,
    Feed,
    Input,
    Layer,
    LayerSettings,
    Output,
    Parts,
    Picture,
    Place,
    Preset,
    RectLanding,
    Region,
    Show,
    ShowError,
    Still,
    Stream,
    Timing,
    Watch,
    part_of,
    show_from_document,
)
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import document_of
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pictures import Sent, surface_picture
from ushering_adze.engine.sending import FeedPicture
from ushering_adze.io.outputs.coder import Coder, Coding, CodingError
from ushering_adze.io.outputs.sender import Sender, fitted, free_path
from ushering_adze.io.srt import free_port
from ushering_adze.playout import Playout, Report
from ushering_adze.playout.report import report_document
from waiting import wait_for

W, H = 640, 360


def show_with(*feeds: Feed, protected: bool = False) -> Show:
    """A card on a stream, half of it under a clear layer."""
    card = Still(id="card", name="Card", path=str(DEMO_ROOT / "media/hold-card.png"))
    half = Place(x=50, y=0, w=50, h=100)
    layers = (
        Layer(id="low", name="Low", settings=LayerSettings(picture=Picture(source="card", fit="stretch"))),
        Layer(id="top", name="Top", settings=LayerSettings(picture=Picture(source="tint"), place=half, opacity=0.5)),
    )
    guest = Input(id="guest", name="Guest player", protected=True)
    region = Region(
        id="r", name="R", x=0, y=0, w=W, h=H, output="o", surface="relay", landing=RectLanding(x=0, y=0, w=W, h=H)
    )
    guarded = LayerSettings(picture=Picture(source="guest"))
    return Show(
        name="S",
        rate=25,
        sources=(card, ColourSource(id="tint", name="Tint", fill="#3060A0"), guest),
        canvases=(Canvas(id="c", name="C", width=W, height=H, layers=layers, regions=(region,), background="#402000"),),
        surfaces=(Stream(id="relay", name="Relay", width=W, height=H),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=W, height=H)),),
        presets=(Preset(id="p", number=1, name="Guest", seconds=0, parts=(part_of("c", "low", guarded),)),),
        feeds=feeds,
    )


class Running:
    def __init__(self, show: Show) -> None:
        self.reports: list[Report] = []
        self.playout = Playout(show, lambda r: self.reports.append(r))
        self.playout.start(wait=2)

    def feed(self, id: str) -> object:
        return next(f for f in self.reports[-1].feeds if f.feed == id)


@pytest.fixture
def run() -> Iterator[object]:
    made: list[Running] = []

    def begin(show: Show) -> Running:
        made.append(Running(show))
        assert wait_for(lambda: bool(made[-1].reports) and made[-1].playout.raster("o")[..., :3].max() > 60)
        return made[-1]

    yield begin
    for running in made:
        running.playout.stop()


def psnr(a: np.ndarray, b: np.ndarray) -> float:
    """ISO/IEC 29170-1 and common practice: 10·lg(255² / mean squared error) over all three colours."""
    return 10 * float(np.log10(255**2 / max(1e-9, np.mean((a.astype(float) - b.astype(float)) ** 2))))


def last_picture(path: Path) -> np.ndarray:
    """By Debian's ffmpeg, a program from outside, where it is; else by the library the program itself uses."""
    if shutil.which("ffmpeg"):
        done = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", str(path), "-f", "rawvideo", "-pix_fmt", "bgra", "-"], capture_output=True
        )
        assert done.returncode == 0, done.stderr
        return np.frombuffer(done.stdout, np.uint8).reshape(-1, H, W, 4)[-1]
    with av.open(str(path)) as container:
        return [f.to_ndarray(format="bgra") for f in container.decode(video=0)][-1]


@pytest.mark.parametrize("shows", ["surface", "output", "canvas"])
def test_a_recording_is_what_was_shown(run: object, tmp_path: Path, shows: str) -> None:
    of = {"surface": "relay", "output": "o", "canvas": "c"}[shows]
    running = run(show_with(Feed(id="f", name="Record", shows=shows, of=of, to=str(tmp_path / "out.mp4"))))
    assert running.playout.faults() == {} and not (tmp_path / "out.mp4").exists(), "nothing is sent before it is asked"
    running.playout.act(SendFeed(feed="f"))
    assert wait_for(lambda: running.feed("f").sent >= 30)
    assert running.feed("f").state == "sending" and running.feed("f").room > 60
    raster = running.playout.raster("o").copy()
    running.playout.act(SendFeed(feed="f", on=False))
    assert wait_for(lambda: not running.feed("f").on)
    running.playout.stop()
    with av.open(str(tmp_path / "out.mp4")) as container:
        times = [float(f.time) for f in container.decode(video=0)]
    steps = np.diff(times) * 25
    assert len(times) >= 30 and np.allclose(steps, steps.round(), atol=0.01) and steps.min() > 0.99, (
        "steady time stamps"
    )
    got = last_picture(tmp_path / "out.mp4")
    assert psnr(got[..., :3], raster[..., :3]) > 35
    sent = surface_picture(running.playout.stage.show, "relay", {"o": Sent(raster, 0)}, W)
    assert sent is not None and psnr(got[..., :3], sent[..., :3]) > 35


def test_what_is_sent_by_packets_arrives_and_says_so(run: object) -> None:
    """The far end is an input of the show; what it is, is measured there."""
    to = f"udp://127.0.0.1:{free_port()}"
    show = show_with(Feed(id="f", name="Relay", shows="surface", of="relay", to=to, on=True, heard_by="far", kbit=3000))
    far = Input(id="far", name="Far end", address=to, width=W, height=H, rate=25, watch=Watch(missing=2))
    running = run(show.model_copy(update={"sources": (*show.sources, far)}))
    assert wait_for(lambda: running.feed("f").heard in ("live", "frozen"))
    assert wait_for(lambda: (f := running.playout.picture_of("far")) is not None and f.pixels.shape == (H, W, 4))
    assert wait_for(
        lambda: psnr(running.playout.picture_of("far").pixels[..., :3], running.playout.raster("o")[..., :3]) > 35
    )
    real = next(s for s in running.reports[-1].signals if s.source == "far").real
    assert (real.width, real.height, real.codec, real.matrix, real.range) == (W, H, "h264", "BT.709", "limited")
    told = report_document(running.reports[-1], 0.0)["feeds"][0]
    assert told["state"] == "sending" and told["heard"] in ("live", "frozen") and told["kbit"] > 0


def test_protected_pictures_do_not_leave(run: object, tmp_path: Path) -> None:
    running = run(show_with(Feed(id="f", name="Relay", shows="surface", of="relay", to=str(tmp_path / "png"), on=True)))
    assert wait_for(lambda: running.feed("f").sent > 3 and running.feed("f").withheld is None)
    running.playout.act(Recall(preset=1))
    assert wait_for(lambda: running.feed("f").withheld is not None)
    assert "Guest player is copy-protected" in running.feed("f").withheld
    assert "f" in running.playout.faults()
    count = running.feed("f").sent
    assert wait_for(lambda: running.feed("f").sent > count + 3)
    raster = running.playout.raster("o")
    newest = sorted((tmp_path / "png").glob("*.png"))[-2]
    assert psnr(cv2.imread(str(newest)), raster[..., :3]) < 20, "a card in its place"


def test_protected_parts_and_keys_do_not_leave_either(tmp_path: Path) -> None:
    show = show_with(Feed(id="f", name="Relay", shows="source", of="both", to=str(tmp_path / "png")))
    both = Parts(id="both", name="Both", parts=("card", "guest"))
    show = show.model_copy(update={"sources": (*show.sources, both)})
    engine = Engine(show)
    picture = FeedPicture(engine, show.feed("f"))
    picture()
    assert picture.withheld is not None and "Guest player is copy-protected" in picture.withheld
    engine.stop()


def test_fill_and_key_of_a_canvas_put_together_are_its_picture(run: object, tmp_path: Path) -> None:
    """Laid over any ground by Porter and Duff's *over*, a premultiplied fill and its key are the canvas on it."""
    parts = [Feed(id=p, name=p, shows="canvas", of="c", to=str(tmp_path / p), part=p, on=True) for p in ("fill", "key")]
    show = show_with(*parts)
    low = show.canvases[0].layers[0]
    clear = low.model_copy(
        update={"settings": low.settings.model_copy(update={"opacity": 0.6, "place": Place(x=0, y=0, w=75, h=100)})}
    )
    canvas = show.canvases[0].model_copy(update={"layers": (clear, show.canvases[0].layers[1])})
    running = run(show.model_copy(update={"canvases": (canvas,)}))
    assert wait_for(lambda: running.feed("fill").sent > 3 and running.feed("key").sent > 3)
    fill, key = (cv2.imread(str(sorted((tmp_path / p).glob("*.png"))[-2])).astype(float) for p in ("fill", "key"))
    ground = np.array([0x00, 0x20, 0x40], float)  # the canvas's own, blue first
    put = fill + ground * (1 - key / 255)
    assert np.abs(put - running.playout.raster("o")[..., :3]).max() <= 2
    assert set(np.unique(key[:, : W // 2 - 2])) == {153.0} and set(np.unique(key[:, -W // 4 + 2 :])) <= {
        127.0,
        128.0,
    }, "60 % and 50 % of alpha"


def test_alpha_goes_into_a_file_that_has_it(tmp_path: Path) -> None:
    picture = np.zeros((H, W, 4), np.uint8)
    picture[:, : W // 2] = (60, 90, 120, 255)
    picture[: H // 2] //= 2
    coder = Coder(str(tmp_path / "a.mov"), Coding(W, H, 25.0, alpha=True))
    for n in range(3):
        coder.put(picture, n)
    coder.close()
    with av.open(str(tmp_path / "a.mov")) as container:
        assert container.streams.video[0].codec_context.name == "prores"
        got = [f.to_ndarray(format="bgra") for f in container.decode(video=0)][-1]
    assert np.abs(got[..., 3].astype(int) - picture[..., 3]).max() <= 2
    assert np.abs(got[:, 8 : W // 2 - 8, :3].astype(int) - (60, 90, 120)).max() <= 4, "straight in the file"
    with pytest.raises(CodingError, match="alpha goes only into"):
        Coder(str(tmp_path / "a.mp4"), Coding(W, H, 25.0, alpha=True))
    with pytest.raises(CodingError, match="no way out"):
        Coder("gopher://127.0.0.1/x", Coding(W, H, 25.0))


def test_a_kill_while_recording_leaves_a_file_that_plays(tmp_path: Path) -> None:
    code = f"""
import sys, threading, numpy as np
from ushering_adze.engine.sending import FeedPicture
from ushering_adze.io.outputs.coder import Coding
from ushering_adze.io.outputs.sender import Sender
n = [0]
def picture():
    n[0] += 1
    made = np.full(({H}, {W}, 4), 255, np.uint8)
    made[:, : n[0] * 3 % {W}] = (40, 90, 160, 255)
    return made
sender = Sender("r", {str(tmp_path / "r.mp4")!r}, Coding(0, 0, 25.0, key_seconds=0.4), picture)
pictures = threading.Event()
while sender.now.sent < 100:
    pictures.wait(0.02)
print(sender.now.sent, flush=True)
sys.stdin.read()
"""
    run = subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert run.stdout is not None
    sent = int(run.stdout.readline())
    os.kill(run.pid, signal.SIGKILL)
    run.wait()
    with av.open(str(tmp_path / "r.mp4")) as container:
        got = sum(1 for _ in container.decode(video=0))
    assert got >= sent - 50, "less than two seconds are lost"


def test_browsers_get_moving_jpeg(run: object) -> None:
    port = free_port()
    feed = Feed(
        id="f", name="Look", shows="output", of="o", to=f"http://127.0.0.1:{port}/", width=320, height=180, on=True
    )
    running = run(show_with(feed))
    assert wait_for(lambda: running.feed("f").sent > 2)
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=300) as page:
        assert page.headers["Content-Type"].startswith("multipart/x-mixed-replace")
        head = b""
        while not head.endswith(b"\r\n\r\n"):
            head += page.read(1)
        size = int(head.split(b"Content-Length: ")[1].split()[0])
        picture = cv2.imdecode(np.frombuffer(page.read(size), np.uint8), cv2.IMREAD_COLOR)
    small = cv2.resize(running.playout.raster("o"), (320, 180), interpolation=cv2.INTER_AREA)
    assert psnr(picture, small[..., :3]) > 30


def test_what_cannot_be_sent_is_said_and_comes_by_itself(tmp_path: Path, run: object) -> None:
    (tmp_path / "file").write_text("")
    bad = Feed(id="b", name="Bad", shows="output", of="o", to=str(tmp_path / "file" / "x.mp4"), on=True)
    nobody = Feed(id="n", name="Nobody", shows="output", of="o", to=f"rtmp://127.0.0.1:{free_port()}/live", on=True)
    good = Feed(id="g", name="Good", shows="output", of="o", to=str(tmp_path / "g.mkv"), on=True)
    running = run(show_with(bad, nobody, good))
    assert wait_for(lambda: {"b", "n"} <= running.playout.faults().keys())
    assert "nobody listens there" in running.playout.faults()["n"]
    assert wait_for(lambda: running.feed("b").state == "waiting" and running.feed("g").sent > 5), "others go on"
    (tmp_path / "file").unlink()
    assert wait_for(lambda: running.feed("b").sent > 3), "once there is a folder"


def test_a_far_end_that_accepts_and_never_answers_stops_nobody(run: object, monkeypatch: pytest.MonkeyPatch) -> None:
    """FFmpeg waits for its greeting without end, and lets no thread of its process run meanwhile."""
    monkeypatch.setattr("ushering_adze.io.outputs.apart.HANGS", 1.0)
    with socket.socket() as mute:
        mute.bind(("127.0.0.1", 0))
        mute.listen(4)
        to = f"rtmp://127.0.0.1:{mute.getsockname()[1]}/live/a"
        running = run(show_with(Feed(id="f", name="Mute", shows="output", of="o", to=to, on=True)))
        assert wait_for(lambda: "nobody answered in time" in running.playout.faults().get("f", ""))
        frames = running.playout._engine.frames
        assert wait_for(lambda: running.playout._engine.frames > frames + 30), "the show goes on"
        assert running.feed("f").state == "waiting"


@pytest.mark.parametrize("kind", ["rtmp", "rtsp"])
def test_what_is_pushed_to_a_server_is_received_there(kind: str, run: object) -> None:
    """By FFmpeg's own listeners, as servers of streams are."""
    to = f"{kind}://127.0.0.1:{free_port()}/live/a"
    got: list[np.ndarray] = []

    def serve() -> None:
        options = {"rtmp": {"listen": "1"}, "rtsp": {"rtsp_flags": "listen", "listen_timeout": "120"}}[kind]
        with contextlib.suppress(av.FFmpegError), av.open(to, options=options, timeout=300) as container:
            for frame in container.decode(video=0):
                got.append(frame.to_ndarray(format="bgra"))
                if len(got) == 8:
                    break

    server = threading.Thread(target=serve, daemon=True)
    server.start()
    running = run(show_with(Feed(id="f", name="Push", shows="output", of="o", to=to, on=True, key_seconds=0.5)))
    assert wait_for(lambda: len(got) == 8), running.playout.faults()
    assert psnr(got[-1][..., :3], running.playout.raster("o")[..., :3]) > 35
    server.join(60)


def test_what_is_sent_by_srt_arrives(run: object) -> None:
    """Through srt-tools, where they are; where they are not, the feed says what is missing."""
    there, here = free_port(), f"udp://127.0.0.1:{free_port()}"
    show = show_with(Feed(id="f", name="Far", shows="output", of="o", to=f"srt://127.0.0.1:{there}", on=True))
    program = shutil.which("srt-live-transmit")
    if program is None:
        running = run(show)
        assert wait_for(lambda: "install the package srt-tools" in running.playout.faults().get("f", ""))
        return
    server = subprocess.Popen([program, "-q", f"srt://127.0.0.1:{there}?mode=listener", here])
    try:
        far = Input(id="far", name="Far end", address=here, width=W, height=H, rate=25, watch=Watch(missing=2))
        running = run(show.model_copy(update={"sources": (*show.sources, far)}))
        assert wait_for(
            lambda: (
                (got := running.playout.picture_of("far")) is not None
                and got.pixels.shape == (H, W, 4)
                and psnr(got.pixels[..., :3], running.playout.raster("o")[..., :3]) > 35
            )
        ), running.playout.faults()
    finally:
        server.kill()
        server.wait()


def test_a_full_disk_ends_a_recording_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    free = [10 << 30]
    monkeypatch.setattr(
        "ushering_adze.io.outputs.sender.shutil.disk_usage",
        lambda path: shutil._ntuple_diskusage(free[0], 0, free[0]),  # type: ignore[attr-defined]
    )
    monkeypatch.setattr("ushering_adze.io.outputs.sender.LOOK", 0.0)
    sender = Sender("r", str(tmp_path / "r.mp4"), Coding(0, 0, 25.0), lambda: np.full((H, W, 4), 200, np.uint8))
    try:
        assert wait_for(lambda: sender.now.sent > 10)
        free[0] = 1 << 20
        assert wait_for(lambda: sender.now.state == "waiting")
        assert "the disk is full; what was recorded is whole" in (sender.now.why or "")
        with av.open(str(tmp_path / "r.mp4")) as container:
            assert sum(1 for _ in container.decode(video=0)) > 5
        free[0] = 10 << 30
        assert wait_for(lambda: (tmp_path / "r-2.mp4").exists() and sender.now.state == "sending"), "another file"
    finally:
        sender.close()
        sender.join(20)


def test_late_pictures_are_dropped_and_counted() -> None:
    now = [0.0]
    pictures = [0]

    def slow() -> np.ndarray:
        pictures[0] += 1
        now[0] += 0.1  # a picture takes two and a half of its periods
        return np.zeros((36, 64, 4), np.uint8)

    sender = Sender("s", f"udp://127.0.0.1:{free_port()}", Coding(0, 0, 25.0), slow, clock=lambda: now[0])
    assert wait_for(lambda: sender.now.sent >= 20)
    told = sender.now
    sender.close()
    sender.join(20)
    assert told.dropped >= told.sent, "more than one of two"


def test_the_document_of_a_feed(tmp_path: Path) -> None:
    show = show_with(Feed(id="f", name="Relay", shows="surface", of="relay", to="udp://127.0.0.1:5000"))
    assert show_from_document(document_of(show)) == show
    for wrong, words in (
        ({"of": "nowhere"}, "no surface"),
        ({"alpha": True}, "only a canvas or a source"),
        ({"width": 640}, "give both"),
        ({"heard_by": "nobody"}, "no source"),
    ):
        document = document_of(show)
        document["feeds"][0].update(wrong)
        with pytest.raises(ShowError, match=words):
            show_from_document(document)
    assert without_item(show, "surfaces", "relay").feeds == ()
    assert (fitted(np.full((10, 10, 4), 255, np.uint8), 40, 20)[:, :10, :3] == 0).all(), "black beside another shape"
    (tmp_path / "x.mp4").write_text("")
    assert free_path(str(tmp_path / "x.mp4")).endswith("x-2.mp4") and free_path("udp://a:1") == "udp://a:1"
