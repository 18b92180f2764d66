"""Captions of clips, as a viewer would read them: text tracks of files."""

from __future__ import annotations

import re
from bisect import bisect_right
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

import av

MOST = 20_000
"""Captions of a file, at most."""
LONGEST = 10.0
"""Seconds for which one stands that does not say how long."""
_STYLE = re.compile(r"\{\\[^}]*\}")


class Caption(NamedTuple):
    """Words, and from when until when they are read, in seconds of the clip."""

    begins: float
    ends: float
    text: str


class Captions:
    """The captions of a file, in the order of their times.

    Parameters
    ----------
    lines : tuple of Caption
    fault : str, optional
        Why there are none though there should be.
    """

    def __init__(self, lines: tuple[Caption, ...], fault: str | None = None) -> None:
        self.lines, self.fault = tuple(sorted(lines)), fault
        self._begins = [c.begins for c in self.lines]

    def at(self, seconds: float) -> str:
        """What is read at a moment; nothing between captions.

        Several that overlap stand one below another.
        """
        n = bisect_right(self._begins, seconds)
        return "\n".join(c.text for c in self.lines[max(0, n - 4) : n] if c.ends > seconds)


class CaptionReader:
    """Reads captions of clips beside whoever asks for them, and keeps those it was asked for last."""

    KEPT = 16

    def __init__(self) -> None:
        self._reader = ThreadPoolExecutor(1, "captions")
        self._read: dict[Path, Future[Captions]] = {}

    def at(self, path: Path, seconds: float) -> str:
        """What is read at a moment of a clip; nothing until its captions are there."""
        reading = self._read.get(path)
        if reading is None:
            while len(self._read) >= self.KEPT:
                del self._read[next(iter(self._read))]
            reading = self._read[path] = self._reader.submit(captions_of, path)
        return reading.result().at(seconds) if reading.done() else ""

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


def captions_of(path: Path) -> Captions:
    """The captions of the first text track of a clip; none, if it has none.

    What is damaged is passed over.
    """
    found: list[Caption] = []
    try:
        with av.open(str(path), options={"protocol_whitelist": "file"}) as container:
            if not container.streams.subtitles:
                return Captions(())
            stream = container.streams.subtitles[0]
            first = 0.0
            if container.streams.video:
                video = container.streams.video[0]
                first = float((video.start_time or 0) * (video.time_base or 0))
            for packet in container.demux(stream):
                if not packet.size or packet.pts is None or len(found) >= MOST:
                    continue
                try:
                    read = [line.dialogue for line in packet.decode() if line.type == b"ass"]
                except av.FFmpegError:
                    continue
                lines = [plain(words.decode(errors="replace")) for words in read]
                begins = float(packet.pts * packet.time_base) - first
                lasts = float((packet.duration or 0) * packet.time_base) or LONGEST
                if text := "\n".join(line for line in lines if line):
                    found.append(Caption(begins, begins + lasts, text))
    except (av.FFmpegError, OSError, ValueError) as error:
        return Captions(tuple(found), f"the captions of {path.name} cannot be read ({type(error).__name__})")
    return Captions(tuple(found))
