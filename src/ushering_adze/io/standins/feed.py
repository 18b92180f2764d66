"""A stand-in for a camera that sends its picture over the network of this machine, and can be told to fail."""

from __future__ import annotations

import contextlib
import ipaddress
import random
import socket
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import av
import cv2
import numpy as np

from ushering_adze.core.light.patterns import flat
from ushering_adze.core.picture.numbered import put_number, timecode
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.files import STILLS
from ushering_adze.core.signal.announced import EVERY, PORT, announcement
from ushering_adze.core.signal.timing import exact_rate
from ushering_adze.core.sound.levels import RATE, silence, to_two
from ushering_adze.core.sound.patterns import pattern_sound
from ushering_adze.io.media.clip import Converter, decoded
from ushering_adze.io.outputs.coder import PACKET
from ushering_adze.io.sound.clip import ClipSound

WORDS = "freeze, black, drop PERCENT, delay FRAMES, size WxH, silent, sound, stop, go, frame, quit"
COUNTED = 1 << 24


class StandinError(ValueError):
    """The stand-in cannot be had so; a sentence with its cure."""


def loopback(to: str) -> tuple[str, int]:
    """Host and port of an address like ``udp://127.0.0.1:5000``, which must not leave this machine.

    Raises
    ------
    StandinError
    """
    parts = urlsplit(to)
    try:
        port = parts.port
        inside = parts.hostname == "localhost" or ipaddress.ip_address(parts.hostname or "").is_loopback
    except ValueError:
        port, inside = None, False
    if parts.scheme != "udp" or port is None:
        raise StandinError(f"{to[:60]}: a stand-in sends to udp://127.0.0.1:PORT; name a port")
    if not inside:
        raise StandinError(f"{parts.hostname} is another machine; a stand-in sends only to udp://127.0.0.1:PORT")
    return parts.hostname or "127.0.0.1", port


def drawn(width: int, height: int) -> Callable[[int], Pixels]:
    """A ring with a hand that turns over a still ground: what moves, and what stands."""
    ground = flat(width, height, 58, 46, 34)
    for k in range(0, width, max(8, width // 16)):
        cv2.line(ground, (k, 0), (k, height), (78, 66, 54, 255), 1)
    middle, radius = (width // 2, height // 2), min(width, height) // 4
    cv2.circle(ground, middle, radius, (150, 140, 120, 255), max(1, height // 120), cv2.LINE_AA)

    def picture(number: int) -> Pixels:
        made = ground.copy()
        a = number * 2 * np.pi / 60
        end = (round(middle[0] + radius * np.sin(a)), round(middle[1] - radius * np.cos(a)))
        cv2.line(made, middle, end, (87, 168, 227, 255), max(2, height // 60), cv2.LINE_AA)
        x = number * 7 % width
        cv2.circle(made, (x, height * 4 // 5), max(2, height // 24), (189, 180, 90, 255), -1, cv2.LINE_AA)
        return made

    return picture


def filmed(path: Path, width: int, height: int, rate: float) -> Callable[[int], Pixels]:
    """Pictures of a clip at a size, by their numbers at a rate, again and again: in step with its sound, whatever was
    passed over.
    """
    with av.open(str(path)) as container:
        video = container.streams.video[0]
        total = max(1, sum(1 for packet in container.demux(video) if packet.size))
        own = float(video.average_rate or rate)

    def endless() -> Iterator[Any]:
        while True:
            with av.open(str(path)) as container:
                converter = Converter(container.streams.video[0].sample_aspect_ratio)
                for _, raw in decoded(container):
                    yield converter, raw

    pictures, at = endless(), -1
    shown: Pixels | None = None

    def picture(number: int) -> Pixels:
        nonlocal at, shown
        steps = (int(number * own / rate + 1e-6) - at) % total
        if steps or shown is None:
            for _ in range(steps or total):
                converter, raw = next(pictures)
            at = (at + steps) % total
            pixels, _ = converter.pixels(raw)
            shown = np.asarray(cv2.resize(pixels, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
        return shown.copy()

    return picture


class _Datagrams:
    """A file whose writes go out as packets, of which some can be lost."""

    def __init__(self, host: str, port: int) -> None:
        self._socket = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_DGRAM)
        self._to = (host, port)
        self._rest = b""
        self.lost = 0.0
        self._chance = random.Random(1)

    def write(self, data: bytes) -> int:
        self._rest += bytes(data)
        while len(self._rest) >= PACKET:
            self._out(self._rest[:PACKET])
            self._rest = self._rest[PACKET:]
        return len(data)

    def flush(self) -> None:
        """Send what is left."""
        if self._rest:
            self._out(self._rest)
            self._rest = b""

    def _out(self, packet: bytes) -> None:
        if self._chance.random() >= self.lost:
            with contextlib.suppress(ConnectionRefusedError):  # nobody listens yet
                self._socket.sendto(packet, self._to)

    def close(self) -> None:
        self._socket.close()


class _Sound:
    """The sound that goes with pictures: that of a film, or a beep at each whole second."""

    def __init__(self, container: Any, film: Path | None) -> None:
        self._film = None if film is None or film.suffix.lower() in STILLS else ClipSound(film)
        self._stream: Any = container.add_stream("aac", rate=RATE)
        self._stream.layout, self._stream.bit_rate = "stereo", 96_000
        self._at: int | None = None

    def packets(self, number: int, step: float, silent: bool) -> list[Any]:
        """What is heard while a picture is seen, coded; what pictures were passed over is made good."""
        until = round((number + 1) * step * RATE)
        begin = round(number * step * RATE)
        if self._at is None or abs(begin - self._at) > RATE:
            self._at = begin
        start, count = self._at, max(0, until - self._at)
        self._at = until
        if not count:
            return []
        made = None
        if self._film is not None and self._film.channels and not silent:
            self._film.want(start)
            made = self._film.read(start, count)
        elif not silent:
            made = pattern_sound("beep", start, count, -24.0)
        sound = silence(count) if made is None else made
        two = sound @ to_two(sound.shape[1]).T
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(two.T, np.float32), "fltp", "stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
        return list(self._stream.encode(frame))


class StandinFeed(threading.Thread):
    """Sends a moving picture with its number and timecode until it is told to quit.

    Numbers are counted from ``epoch``, a moment of the monotonic clock; those who share one can be compared.  With
    ``sound`` it sends that of its film, or a beep at each whole second of its timecode; ``announce`` is the name under
    which it announces itself to this machine.
    """

    def __init__(
        self,
        to: str,
        width: int = 1280,
        height: int = 720,
        rate: float | Fraction = 25.0,
        film: Path | None = None,
        kbit: int = 4000,
        epoch: float | None = None,
        sound: bool = False,
        announce: str = "",
    ) -> None:
        super().__init__(name=f"stand-in {to}", daemon=True)
        self.address = to
        self._to, self._size, self._rate, self._film, self._kbit = loopback(to), (width, height), rate, film, kbit
        self._epoch, self._with_sound, self._silent = epoch, sound, False
        self._change = threading.Condition()
        self._mode, self._lost, self._late = "go", 0.0, 0
        self._quit = False
        self._announce, self._announced = announce, -1e9
        self.number = 0

    def tell(self, line: str) -> str:
        """Do what a line of text says; the answer begins with ``ok`` or ``no``."""
        words = line.split()
        with self._change:
            match words:
                case ["go" | "freeze" | "black" | "stop" as mode]:
                    self._mode = mode
                case ["silent" | "sound" as mode]:
                    self._silent = mode == "silent"
                case ["drop", percent] if percent.rstrip("%").replace(".", "", 1).isdigit():
                    self._lost = min(1.0, float(percent.rstrip("%")) / 100)
                case ["delay", frames] if frames.isdigit():
                    self._late = int(frames)
                case ["size", size] if len(sides := size.lower().split("x")) == 2 and all(s.isdigit() for s in sides):
                    wide, high = (int(s) for s in sides)
                    if not (16 <= wide <= 4096 and 16 <= high <= 4096):
                        return "no: a size is between 16x16 and 4096x4096"
                    self._size = (wide // 2 * 2, high // 2 * 2)
                case ["frame"]:
                    return f"ok {self.number} {timecode(self.number, self._rate)}"
                case ["quit"]:
                    self._quit = True
                case _:
                    return f"no: there are {WORDS}"
            self._change.notify_all()
        return f"ok {line.strip()}"

    def run(self) -> None:
        out = _Datagrams(*self._to)
        start = time.monotonic() if self._epoch is None else self._epoch
        try:
            while not self._quit:
                self._stream(out, start)
        finally:
            out.close()
            self._say(ended=True)

    def _say(self, ended: bool = False) -> None:
        """Announce it, every so many seconds."""
        now = time.monotonic()
        if not self._announce or (not ended and now - self._announced < EVERY):
            return
        self._announced = now
        with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as to:
            to.sendto(announcement(self._announce, self.address, ended=ended), ("127.0.0.1", PORT))

    def _stream(self, out: _Datagrams, start: float) -> None:
        """Send at one size, until there is another."""
        width, height = size = self._size
        picture = drawn(width, height) if self._film is None else filmed(self._film, width, height, self._rate)
        container: Any = av.open(out, "w", format="mpegts", options={"flush_packets": "1"})
        stream: Any = container.add_stream(
            "libx264",
            rate=exact_rate(self._rate),
            options={"preset": "ultrafast", "tune": "zerolatency"},
        )
        step = 1 / exact_rate(self._rate)
        stream.codec_context.time_base = stream.time_base = step
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.bit_rate, stream.gop_size = self._kbit * 1000, max(1, round(self._rate / 2))
        stream.codec_context.max_b_frames, stream.codec_context.thread_count = 0, 1
        stream.codec_context.color_range = 1
        stream.codec_context.colorspace = stream.codec_context.color_primaries = stream.codec_context.color_trc = 1
        heard = _Sound(container, self._film) if self._with_sound else None
        shown: Pixels | None = None
        waiting: deque[list[Any]] = deque()
        number = int((time.monotonic() - start) * self._rate) + 1
        while not self._quit and self._size == size:
            with self._change:
                wait = start + number / self._rate - time.monotonic()
                self._change.wait_for(lambda: self._quit or self._size != size, max(0.0, wait))
                mode, out.lost, late = self._mode, self._lost, self._late
            self._say()
            behind = int((time.monotonic() - start) * self._rate) - number
            number += max(0, behind)
            if mode == "stop":
                number += 1
                continue
            if mode == "black":
                made = flat(width, height, 0, 0, 0)
            elif mode == "freeze" and shown is not None:
                made = shown
            else:
                self.number = number % COUNTED
                made = picture(self.number)
                put_number(made, self.number, f"{timecode(self.number, self._rate)}  {self.number}")
            shown = made
            frame = av.VideoFrame.from_ndarray(made, format="bgra").reformat(
                format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG"
            )
            # By a clock that all have in common, so that what is sent side by side can be put together again.
            frame.pts, frame.time_base = number, step
            sent = (
                [] if heard is None else heard.packets(number, float(step), self._silent or mode in ("black", "freeze"))
            )
            waiting.append([*stream.encode(frame), *sent])
            while len(waiting) > late:
                for packet in waiting.popleft():
                    container.mux(packet)
            out.flush()
            number += 1
        container.close()


def listen(feed: StandinFeed, port: int) -> socket.socket:
    """Let a stand-in be told what to do by lines of text on a port of this machine; gives the listening socket."""
    server = socket.create_server(("127.0.0.1", port))

    def serve() -> None:
        while True:
            try:
                caller, _ = server.accept()
            except OSError:
                return
            threading.Thread(target=_talk, args=(feed, caller), daemon=True).start()

    threading.Thread(target=serve, name="stand-in words", daemon=True).start()
    return server


def _talk(feed: StandinFeed, caller: socket.socket) -> None:
    with caller, caller.makefile("rw", encoding="utf-8", errors="replace") as lines:
        try:
            for line in lines:
                lines.write(feed.tell(line[:200]) + "\n")
                lines.flush()
        except OSError:
            return
