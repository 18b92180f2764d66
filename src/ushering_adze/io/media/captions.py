"""Captions of clips, as a viewer would read them: tracks of text, of bitmaps (DVB, PGS and their like), or those that
their pictures carry.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.bitmap import Bitmap
from ushering_adze.core.picture.bitmap_colours import PLAIN, colours_of
from ushering_adze.core.signal.captioned import CaptionsOfPictures, carried_by

MOST = 20_000
"""Captions of a file, at most."""
TRIED = 600
"""Pictures of a file among which there must be one that carries captions, for it to be read on for them."""
LONGEST, STANDS = 10.0, 30.0
"""Seconds for which one stands that does not say how long: words, and bitmaps, which the next one ends."""
_STYLE = re.compile(r"\{\\[^}]*\}")


def _bitmap(read: Any, colours: NDArray[np.uint8], size: tuple[int, int]) -> Bitmap:
    codes = np.frombuffer(read.planes[0], np.uint8)
    codes = codes.reshape(read.height, -1)[:, : read.width].copy()
    return Bitmap(codes, colours, read.x, read.y, size)


class Caption(NamedTuple):
    """Words, and from when until when they are read, in seconds of the clip."""

    begins: float
    ends: float
    text: str
    bitmaps: tuple[Bitmap, ...] = ()


class Readable(NamedTuple):
    """What is read at a moment: words, or bitmaps over the picture."""

    text: str = ""
    bitmaps: tuple[Bitmap, ...] = ()


class Captions:
    """The captions of a file, in the order of their times.

    Parameters
    ----------
    lines : tuple of Caption
    fault : str, optional
        Why there are none though there should be.
    """

    def __init__(self, lines: tuple[Caption, ...], fault: str | None = None) -> None:
        self.lines, self.fault = tuple(sorted(lines, key=lambda c: (c.begins, c.ends, c.text))), fault
        self._begins = [c.begins for c in self.lines]

    def at(self, seconds: float) -> str:
        """What is read at a moment; nothing between captions.

        Several that overlap stand one below another.
        """
        n = bisect_right(self._begins, seconds)
        return "\n".join(c.text for c in self._now(seconds, n) if c.text)

    def readable(self, seconds: float) -> Readable:
        """All that is read at a moment; of bitmaps the newest alone, which stands in place of those before."""
        n = bisect_right(self._begins, seconds)
        drawn = self.lines[n - 1].bitmaps if n and self.lines[n - 1].ends > seconds else ()
        return Readable(self.at(seconds), drawn)

    def _now(self, seconds: float, n: int) -> list[Caption]:
        return [c for c in self.lines[max(0, n - 4) : n] if c.ends > seconds]


class CaptionReader:
    """Reads captions of clips beside whoever asks for them, and keeps those it was asked for last."""

    KEPT = 16

    def __init__(self) -> None:
        self._reader = ThreadPoolExecutor(1, "captions")
        self._read: dict[Path, Future[Captions]] = {}

    def at(self, path: Path, seconds: float) -> Readable:
        """What is read at a moment of a clip; nothing until its captions are there."""
        reading = self._read.get(path)
        if reading is None:
            while len(self._read) >= self.KEPT:
                del self._read[next(iter(self._read))]
            reading = self._read[path] = self._reader.submit(captions_of, path)
        return reading.result().readable(seconds) if reading.done() else Readable()

    def close(self) -> None:
        """Read no more."""
        self._reader.shutdown(wait=False, cancel_futures=True)


def plain(text: str) -> str:
    """Words without the marks of their style.

    Examples
    --------
    >>> plain(r"{\\i1}Good evening{\\i0}")
    'Good evening'
    """
    return _STYLE.sub("", text).replace("\\N", "\n").replace("\\h", " ").strip()


def _in_pictures(container: Any) -> tuple[Caption, ...]:
    """Captions that the pictures of a file carry; it is read on only if some of its first ones do."""
    stream = container.streams.video[0]
    base = float(stream.time_base or 0)
    first = (stream.start_time or 0) * base
    came: list[tuple[float, bytes]] = []
    for n, packet in enumerate(container.demux(stream)):
        if packet.size and packet.pts is not None:
            came += [(packet.pts * base - first, data) for data in carried_by(bytes(packet))]
        if n > TRIED and not came:
            return ()
    lines: list[str] = []
    reading, text = CaptionsOfPictures(), ""
    begins = 0.0
    for moment, data in sorted(came, key=lambda c: c[0]):  # pictures are coded in another order than they are shown
        reading.take(data)
        if reading.text != text:
            if text and len(lines) < MOST:
                lines.append(Caption(begins, moment, text))
            text, begins = reading.text, moment
    return (*lines, Caption(begins, begins + STANDS, text)) if text else tuple(lines)


def captions_of(path: Path) -> Captions:
    """The captions of the first track of captions of a clip, or those in its pictures if it has no such track.

    What is damaged is passed over.
    """
    found: list[Caption] = []
    try:
        with av.open(str(path), options={"protocol_whitelist": "file"}) as container:
            if not container.streams.subtitles:
                return Captions(_in_pictures(container) if container.streams.video else ())
            stream = container.streams.subtitles[0]
            first, size, colours = 0.0, (1920, 1080), np.array(PLAIN, np.uint8)
            if container.streams.video:
                video = container.streams.video[0]
                size = video.width, video.height
                first = float((video.start_time or 0) * (video.time_base or 0))
            for packet in container.demux(stream):
                if not packet.size or packet.pts is None or len(found) >= MOST:
                    continue
                begins = float(packet.pts * packet.time_base) - first
                lasts = float((packet.duration or 0) * packet.time_base) or LONGEST
                try:
                    read = list(packet.decode())
                except av.FFmpegError:
                    continue
                if any(c.bitmaps for c in found[-1:]):  # a new page, an empty one too, takes the place of the last
                    found[-1] = found[-1]._replace(ends=min(found[-1].ends, begins))
                lines = [plain(r.dialogue.decode(errors="replace")) for r in read if r.type == b"ass"]
                brings = colours_of(bytes(packet), stream.codec_context.name, size[1])
                colours = colours if brings is None else brings
                drawn = tuple(_bitmap(r, colours, size) for r in read if r.type == b"bitmap" and r.planes)
                text = "\n".join(line for line in lines if line)
                if text or drawn:
                    found.append(Caption(begins, begins + (STANDS if drawn else lasts), text, drawn))
    except (av.FFmpegError, OSError, ValueError) as error:
        return Captions(tuple(found), f"the captions of {path.name} cannot be read ({type(error).__name__})")
    return Captions(tuple(found))
