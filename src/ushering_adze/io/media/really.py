"""What a live signal really is: measured as it comes, and read from its stream."""

from __future__ import annotations

from collections import deque
from typing import Any

from ushering_adze.core.signal.coming import Really

DRIFT = 2e-4
"""Seconds by which the clock of a sender may differ from ours in each second."""
MOST_LATE = 10.0
"""Seconds beyond which a picture is not late, but of another clock."""
LATELY = 3.0
"""Seconds over which rates are measured."""
_MATRICES = {1: "BT.709", 5: "BT.601", 6: "BT.601", 9: "BT.2020", 10: "BT.2020"}
_TRANSFERS = {16: "PQ", 18: "HLG"}
"""Numbers of ITU-T H.273, tables 3 and 4; the other transfers look alike on a display."""


class Measured:
    """Moments and sizes of what came lately; written by one thread."""

    def __init__(self) -> None:
        self.damaged = 0
        self._packets: deque[tuple[float, int]] = deque()
        self._pictures: deque[float] = deque(maxlen=240)
        self._least: float | None = None
        self._newest = 0.0
        self._came = 0.0
        self._takes = 0.0
        self._due: float | None = None

    def read(self, now: float, size: int) -> None:
        """A packet came."""
        self._packets.append((now, size))
        while self._packets and now - self._packets[0][0] > LATELY:
            self._packets.popleft()

    def came(self, now: float, stamp: float | None) -> None:
        """A picture was decoded, with the time it says it is of."""
        self._pictures.append(now)
        if stamp is None:
            self._due = None
            return
        offset = now - stamp
        if self._least is None or offset < self._least - 1.0 or offset > self._least + MOST_LATE:
            self._least = offset  # its clock has jumped
        self._least = min(offset, self._least + DRIFT * (now - self._came))
        self._newest, self._came = offset, now
        self._due = stamp + self._least

    def due(self, now: float) -> float:
        """When the newest picture would have been there, had nothing held it up."""
        return now if self._due is None else min(now, self._due)

    def took(self, seconds: float) -> None:
        """It took so long to make the newest picture ready."""
        self._takes += (seconds - self._takes) * 0.1

    @property
    def period(self) -> float:
        """Seconds from one picture to the next, measured; 0 before there are enough."""
        pictures = list(self._pictures)
        if len(pictures) < 12:
            return 0.0
        return (pictures[-1] - pictures[0]) / (len(pictures) - 1)

    @property
    def behind(self) -> float:
        """Seconds that the newest picture came later than the quickest, with the making of it."""
        return self.late + self._takes

    @property
    def late(self) -> float:
        """Seconds by which the newest picture came later than the quickest of all."""
        return 0.0 if self._least is None else max(0.0, self._newest - self._least)

    @property
    def kbit(self) -> float:
        """Thousands of bits a second."""
        packets = list(self._packets)
        span = packets[-1][0] - packets[0][0] if len(packets) > 2 else 0.0
        return sum(size for _, size in packets[1:]) * 8e-3 / span if span > 0 else 0.0


def really(container: Any, stream: Any, frame: Any, measured: Measured) -> Really:
    """What a stream is, as of one of its pictures."""
    parts, name = frame.format.components, frame.format.name
    if name.startswith(("yuv", "nv", "p0", "p2", "uyvy", "yuyv")):
        wide, high = _chroma(frame.format)
        encoding = {(2, 2): "420", (2, 1): "422", (1, 1): "444"}.get((wide, high), "")
    else:
        encoding = "rgb"
    said = stream.average_rate or stream.base_rate
    rate = 1 / measured.period if measured.period else float(said or 0)
    if said and abs(rate - float(said)) < 0.03 * rate:
        rate = float(said)  # what is said is finer than what was measured, where both are near
    sound = ""
    if container.streams.audio:
        audio = container.streams.audio[0]
        sound = f"{len(container.streams.audio[0].layout.channels)} channels {audio.codec_context.name}"
        if audio.sample_rate:
            sound += f" {audio.sample_rate / 1000:g} kHz"
    return Really(
        width=frame.width,
        height=frame.height,
        rate=round(rate, 3),
        interlaced=bool(frame.interlaced_frame),
        encoding=encoding,
        bits=max((c.bits for c in parts), default=8),
        range={1: "limited", 2: "full"}.get(int(frame.color_range), ""),
        matrix=_MATRICES.get(int(frame.colorspace), ""),
        transfer=_TRANSFERS.get(int(frame.color_trc), ""),
        codec=stream.codec_context.name,
        kbit=round(measured.kbit, 1),
        sound=sound,
    )


def _chroma(pixel_format: Any) -> tuple[int, int]:
    """How many pixels share one value of colour, across and down."""
    return 64 // pixel_format.chroma_width(64), 64 // pixel_format.chroma_height(64)
