"""Captions in the pictures of signals: read as FFmpeg's decoder reads them, and drawn from a stream."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.show import Input
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.show.walling import with_wall
from ushering_adze.core.signal.captions608 import Captions608, pairs_of
from ushering_adze.demo.show import demo_show
from ushering_adze.io.media.captions import captions_of
from ushering_adze.io.srt import free_port
from ushering_adze.playout import Playout
from ushering_adze.playout.report import Report
from waiting import PATIENCE, wait_for

Pair = tuple[int, int]
POP, PAINT, ERASE_HIDDEN, ERASE, SHOW, RETURN, BACK = 0x20, 0x29, 0x2E, 0x2C, 0x2F, 0x2D, 0x21
ROWS = {1: (0x11, 0), 3: (0x12, 0), 11: (0x10, 0), 12: (0x13, 0), 14: (0x14, 0), 15: (0x14, 0x20)}


def odd(code: int) -> int:
    return code | (0x80 if code.bit_count() % 2 == 0 else 0)


def control(code: int) -> list[Pair]:
    return [(0x14, code)] * 2


def row(n: int, indent: int = 0) -> list[Pair]:
    first, low = ROWS[n]
    return [(first, 0x50 | low | indent // 4 << 1)] * 2


def letters(text: str) -> list[Pair]:
    codes = [ord(c) for c in text] + [0] * (len(text) % 2)
    return list(zip(codes[::2], codes[1::2], strict=True))


def popped(lines: list[tuple[int, int, str]]) -> list[Pair]:
    """A page that is put together out of sight, then shown."""
    page = [pair for n, indent, text in lines for pair in (*row(n, indent), *letters(text))]
    return [*control(POP), *control(ERASE_HIDDEN), *page, *control(SHOW)]


def theirs(pairs: list[Pair]) -> list[str]:
    """What FFmpeg's decoder reads after each pair; nothing where nothing changes."""
    decoder = av.CodecContext.create("cc_dec", "r")
    decoder.options = {"real_time": "1"}
    made = []
    for n, (a, b) in enumerate(pairs):
        packet = av.Packet(bytes([0xFC, odd(a), odd(b)]))
        packet.pts = packet.dts = n * 3003
        packet.time_base = Fraction(1, 90_000)
        found = decoder.decode2(packet)  # type: ignore[attr-defined]
        if found is not None:
            words = [line.ass.decode().split(",", 8)[-1] for line in found]
            plain = "\n".join(words).replace("\\N", "\n").replace("\\h", " ")
            while "{" in plain:
                plain = plain[: plain.index("{")] + plain[plain.index("}") + 1 :]
            made.append("\n".join(line.strip() for line in plain.split("\n") if line.strip()))
    return made


WORDS = st.text("ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefgh,.?!'0123456789", min_size=1, max_size=20)


@given(
    st.lists(
        st.lists(
            st.tuples(st.sampled_from(sorted(ROWS)), st.sampled_from([0, 4, 8]), WORDS),
            max_size=3,
            unique_by=lambda line: line[0],
        ),
        max_size=4,
    )
)
@settings(deadline=None, max_examples=60)
def test_pages_are_read_as_another_decoder_reads_them(pages: list[list[tuple[int, int, str]]]) -> None:
    pairs = [pair for page in pages for pair in (*popped(page), (0, 0), *control(ERASE), (0, 0))]
    ours, told = Captions608(), [""]
    for a, b in pairs:
        ours.take(odd(a), odd(b))
        if ours.text != told[-1]:
            told.append(ours.text)
    wanted = [""]
    for text in theirs(pairs):
        text = "\n".join(line for line in text.split("\n") if line)
        if text != wanted[-1]:
            wanted.append(text)
    assert [t.split("\n") for t in told] == [w.split("\n") for w in wanted]


def read(*pairs: list[Pair]) -> str:
    made = Captions608()
    for a, b in (pair for part in pairs for pair in part):
        made.take(odd(a), odd(b))
    return made.text


def test_lines_roll_up_are_painted_and_mended() -> None:
    rolls = [*control(0x25), *row(15)]
    assert read(rolls, letters("ONE")) == "ONE"
    lines = [pair for text in ("TWO", "THREE", "FOUR") for pair in (*control(RETURN), *letters(text))]
    assert read(rolls, letters("ONE"), lines) == "THREE\nFOUR"
    assert read([*control(0x27), *row(15)], letters("ONE"), lines) == "ONE\nTWO\nTHREE\nFOUR"
    assert read(control(PAINT), row(3), letters("AS IT COMES")) == "AS IT COMES"
    assert read(control(PAINT), row(3), letters("ABC"), control(BACK), letters("D")) == "ABD"
    assert read(control(PAINT), row(1), letters("C"), [(0x12, 0x32)] * 2) == "Ç"
    assert read(control(PAINT), row(1), [(0x11, 0x37)] * 2) == "♪"
    assert read(control(PAINT), row(1), [(0x2A, 0x5C)]) == "áé"
    assert read(control(PAINT), row(1), letters("GONE"), control(ERASE)) == ""
    assert read(popped([(14, 0, "HIDDEN UNTIL SHOWN")])[:-2]) == ""
    second = [(a | 0x08, b) for a, b in control(PAINT)]
    assert read(control(PAINT), row(1), letters("ONE"), second, letters("NOT MINE")) == "ONE", "another channel's"
    assert read([(0, 0)], letters("NO MODE YET")) == ""


def with_captions(packet: bytes, pair: Pair) -> bytes:
    """A picture of H.264 with a message that carries captions (ATSC A/53 part 4 in SEI, user data of ITU-T T.35)."""
    data = b"\xb5\x00\x31GA94\x03" + bytes([0x41, 0xFF, 0xFC, odd(pair[0]), odd(pair[1]), 0xFF])
    message = b"\x00\x00\x00\x01\x06\x04" + bytes([len(data)]) + data + b"\x80"
    at = 0
    while True:
        at = packet.index(b"\x00\x00\x01", at)
        if packet[at + 3] & 0x1F in (1, 5):
            at -= packet[at - 1] == 0
            return packet[:at] + message + packet[at:]
        at += 3


def captioned(path: Path, pairs: Iterator[Pair], seconds: int) -> None:
    with av.open(str(path), "w") as made:
        stream = made.add_stream("libx264", rate=25, options={"preset": "ultrafast", "tune": "zerolatency"})
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"  # type: ignore[attr-defined]
        stream.codec_context.gop_size = 12  # type: ignore[attr-defined]
        for n in range(seconds * 25):
            grey = np.full((180, 320, 3), 60 + n % 100, np.uint8)
            for packet in stream.encode(av.VideoFrame.from_ndarray(grey, format="bgr24")):  # type: ignore[attr-defined]
                carrying = av.Packet(with_captions(bytes(packet), next(pairs)))
                carrying.stream, carrying.pts, carrying.dts = stream, packet.pts, packet.dts
                carrying.time_base, carrying.is_keyframe = packet.time_base, packet.is_keyframe
                made.mux(carrying)


def test_captions_in_the_pictures_of_a_clip_are_read_at_their_times(tmp_path: Path) -> None:
    """Without decoding it, as FFmpeg's decoder finds them in its pictures."""
    pages = [*popped([(15, 0, "FIRST")]), *[(0, 0)] * 20, *popped([(15, 4, "SECOND")]), *[(0, 0)] * 20, *control(ERASE)]
    film = tmp_path / "film.ts"
    captioned(film, iter([*pages, *[(0, 0)] * 100]), 4)
    theirs_now, told = Captions608(), []
    with av.open(str(film)) as container:
        stream = container.streams.video[0]
        for picture in container.decode(stream):
            data = bytes(picture.side_data["A53_CC"])  # type: ignore[call-overload]
            for pair in pairs_of(data):
                theirs_now.take(*pair)
            told.append((float(picture.pts * stream.time_base - stream.start_time * stream.time_base), theirs_now.text))
    found = captions_of(film)
    assert [c.text for c in found.lines] == ["FIRST", "SECOND"] and found.fault is None
    for moment, text in told:
        assert found.at(moment + 0.001) == text, moment
    bare = tmp_path / "bare.mp4"
    with av.open(str(bare), "w") as made:
        made.add_stream("libx264", rate=25, width=320, height=180)  # type: ignore[call-overload]
    assert captions_of(bare).lines == ()


@pytest.mark.skipif(shutil.which("ffmpeg") is None, reason="FFmpeg sends the stream")
def test_captions_of_a_stream_are_drawn_on_its_cell(tmp_path: Path) -> None:
    page = popped([(14, 0, "GOOD EVENING,"), (15, 4, "NIGHT ASSISTANTS.")])

    def pairs() -> Iterator[Pair]:
        while True:
            yield from page

    film, to = tmp_path / "film.ts", f"udp://127.0.0.1:{free_port()}"
    captioned(film, pairs(), 20)
    sending = ["ffmpeg", "-v", "error", "-re", "-stream_loop", "-1", "-i", str(film), "-c", "copy", "-f", "mpegts"]
    camera = Input(id="cam", name="Cam", width=320, height=180, rate=25, address=to)
    wall = Wall(id="w", name="W", columns=1, rows=1, width=640, height=360)
    cell = WallCell(x=0, y=0, shows="source", of="cam", captions=True)
    show = demo_show()
    show = with_wall(
        show.model_copy(update={"sources": (*show.sources, camera)}), wall.model_copy(update={"cells": (cell,)})
    )
    reports: list[Report] = []
    playout = Playout(show, reports.append, devices=False)
    sender = subprocess.Popen([*sending, f"{to}?pkt_size=1316"])
    try:
        playout.start(wait=0)
        playout.watch("w")

        def told() -> str:
            signals = reports[-1].signals if reports else ()
            return next((s.captions for s in signals if s.source == "cam"), "")

        assert wait_for(lambda: told() == "GOOD EVENING,\nNIGHT ASSISTANTS.")

        def boxed() -> bool:
            painted = playout.wall
            foot = None if painted is None else painted.pixels[230:310, 200:440, :3]
            return foot is not None and bool((foot == 0).all(-1).mean() > 0.2) and foot.max() > 230

        assert wait_for(boxed), "black boxes with white words at the foot of the picture"
    finally:
        sender.kill()
        sender.wait(PATIENCE)
        playout.stop()
