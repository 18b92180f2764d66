"""Live pictures: capture devices and network streams, read in a thread, of which only the newest picture counts."""

from __future__ import annotations

import re
import threading
import time
from typing import Any

import av

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Input
from ushering_adze.core.show.source import without_secrets
from ushering_adze.io.media.clip import Converter, Deinterlacer, clip_period
from ushering_adze.io.media.player import Player
from ushering_adze.io.media.still import serials
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns, Work

OPENING, READING = 6.0, 4.0
"""Seconds that opening, and waiting for the next picture, may take."""
ALLOWED = frozenset({"rtsp", "rtsps", "rtp", "udp", "http", "https", "hls", "rtmp", "rtmps", "srt"})
PROTOCOLS = "rtp,udp,tcp,http,https,tls,crypto,rtmp,rtmps,rtsp,srt,hls,httpproxy"
"""What FFmpeg may use to follow an address; files are not among them, whatever a playlist says."""
_MADE = re.compile(r"lavfi:(testsrc2?|smptebars|smptehdbars|rgbtestsrc|sine)(=[\w=:.]*)?")
"""Pictures that FFmpeg makes by itself, to try a feed with."""
AGAIN = 2.0
"""Seconds after which a feed that failed is tried again."""


def opened(address: str, width: int, height: int, rate: float) -> Any:
    """Open a capture device, ``/dev/video0`` or one of FFmpeg's by its kind, such as ``lavfi:testsrc2``, or a stream by
    its URL.

    Only the ways of `ALLOWED` are gone, also by what an address leads to: FFmpeg knows others that read any file.

    Raises
    ------
    av.FFmpegError, OSError, ValueError
    """
    kind, _, rest = address.partition(":")
    local = address.startswith("/") or kind.lower() == "file"
    if not local and kind.lower() not in ALLOWED and not _MADE.fullmatch(address):
        raise ValueError(
            f"{kind[:20]!r} is no way to read a feed here; there are /dev/video0, a file, {', '.join(sorted(ALLOWED))}"
        )
    if address.startswith("/dev/"):  # Video4Linux: asked for its size, it gives the nearest it has
        return av.open(
            address,
            format="v4l2",
            options={"video_size": f"{width}x{height}", "framerate": f"{rate:g}"},
            timeout=(OPENING, READING),
        )
    if kind == "lavfi":
        return av.open(rest, format=kind)
    options = {
        "protocol_whitelist": "file" if local else PROTOCOLS,
        "fflags": "nobuffer",
        "flags": "low_delay",
        "probesize": "500000",
        "analyzeduration": "700000",
    }
    return av.open(address, options=options, timeout=(OPENING, READING))


class LivePlayer(Player):
    """A capture device or stream; what fails is tried again until it is back, and a named picture stands in for it
    meanwhile.
    """

    live = True

    def __init__(self, source: Input, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._converting = Work(turns)
        assert source.address is not None
        self._source, self._address, self._shown = source, source.address, without_secrets(source.address)
        self._newest: Frame | None = None
        self._came = time.monotonic()
        self._change = threading.Condition()
        self._closed = False
        self._began, self._first, self._converter = 0.0, None, Converter()
        self._why: str | None = None
        self._thread = threading.Thread(target=self._run, name=f"live {source.name}", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        give_way()
        while not self._closed:
            try:
                with opened(self._address, self._source.width, self._source.height, self._source.rate) as container:
                    self._read(container)
                self._failed("it has ended")
            except (av.FFmpegError, OSError, ValueError) as error:
                self._failed(_why(error))
            with self._change:
                self._change.wait_for(lambda: self._closed, AGAIN)

    def _read(self, container: Any) -> None:
        if not container.streams.video:
            raise ValueError("there is no picture in it")
        stream = container.streams.video[0]
        stream.thread_type = "SLICE"
        fields, half = Deinterlacer(stream), clip_period(container) / 2
        self._began, self._first, self._converter = time.monotonic(), None, Converter(stream.sample_aspect_ratio)
        for whole in container.decode(stream):
            for n, raw in enumerate(fields.pictures(whole)):
                if self._closed:
                    return
                if n:  # the other field of the same frame was seen half a frame later
                    time.sleep(half)
                self._take(raw)

    def _take(self, raw: Any) -> None:
        if self._address.startswith("lavfi:") and raw.time is not None:
            # Made, not captured: it comes as fast as it is read.
            self._first = float(raw.time) if self._first is None else self._first
            time.sleep(max(0.0, float(raw.time) - self._first - (time.monotonic() - self._began)))
        with self._converting:  # what comes while a frame is made is too late for that one anyway
            pixels, opaque = self._converter.pixels(raw)
        with self._change:
            self._came = time.monotonic()
            self._newest = Frame(pixels, next(serials), opaque, born=self._came)
            self._why = self.fault = None
            self._change.notify_all()

    def _failed(self, why: str) -> None:
        with self._change:
            self._why = self.fault = f"{self._shown}: {why}"  # said whether anybody looks or not
            self._change.notify_all()

    def frame(self, seconds: float) -> Frame | None:
        """The newest picture; never waits."""
        with self._change:
            newest, why, old = self._newest, self._why, time.monotonic() - self._came
        if why is None and old > READING + OPENING:
            why = f"{self._shown}: no picture for {old:.0f} s"
        if why is not None and (newest is None or old > 1.0):
            return self.lost(why)
        self.fault = None
        return newest

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait until there is a picture, or the feed has failed."""
        with self._change:
            return self._change.wait_for(lambda: self._newest is not None or self._why is not None, timeout)

    def exact(self, seconds: float) -> Frame:
        self.wait(OPENING + READING)
        return self.frame(seconds) or self.lost(f"{self._shown}: no picture yet")

    def close(self) -> None:
        with self._change:
            self._closed = True
            self._change.notify_all()

    def join(self, timeout: float) -> None:
        self._thread.join(timeout)


def _why(error: Exception) -> str:
    words = {
        "FileNotFoundError": "there is no such device or stream",
        "ConnectionRefusedError": "nobody sends there",
        "PermissionError": "this user may not read it",
        "OSError": "it cannot be opened",
        "TimeoutError": "nothing came in time",
        "ExitError": "nothing came in time",
        "InvalidDataError": "what comes is no picture",
    }
    return words.get(
        type(error).__name__, str(error) if isinstance(error, ValueError) else f"it failed ({type(error).__name__})"
    )
