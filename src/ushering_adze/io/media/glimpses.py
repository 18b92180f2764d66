"""Small pictures from all along a clip, to see where one sends it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import Interpolation

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.io.media.clip import clip_length, opened_clip
from ushering_adze.io.media.still import MediaError
from ushering_adze.io.priority import give_way

WIDTH, HEIGHT = 144, 81
"""Pixels that a glimpse fits in."""
MANY = 32


LONG = 60.0
"""Seconds from which a clip is looked at by its key frames only."""


def glimpses(path: Path, found: list[Pixels], many: int = MANY) -> None:
    """Put so many small pictures of a clip into a list, one after another, from equal steps along it.

    Raises
    ------
    MediaError
        If there is none.
    """
    give_way()
    with opened_clip(path) as container:
        stream, length = container.streams.video[0], clip_length(container)
        first = float(stream.start_time * stream.time_base) if stream.start_time else 0.0
        try:
            if length > LONG:
                _by_key_frames(container, first, length, found, many)
            else:
                _all_along(container, first, length, found, many)
        except av.FFmpegError:
            pass  # what is damaged has pictures up to there
    if not found:
        raise MediaError(f"{path.name} has no frames")


def _by_key_frames(container: Any, first: float, length: float, found: list[Pixels], many: int) -> None:
    stream = container.streams.video[0]
    stream.codec_context.skip_frame = "NONKEY"
    for n in range(many):
        container.seek(int((first + length * n / many) / stream.time_base), stream=stream)
        frame = next(container.decode(stream), None)
        if frame is None:
            return
        found.append(_small(frame))


def _all_along(container: Any, first: float, length: float, found: list[Pixels], many: int) -> None:
    container.streams.video[0].codec_context.skip_frame = "NONREF"
    for n, frame in enumerate(container.decode(container.streams.video[0])):
        time = n / 25 if frame.time is None else float(frame.time) - first
        while len(found) < many and time >= length * len(found) / many - 1e-3:
            found.append(_small(frame))


def _small(frame: Any) -> Pixels:
    scale = min(WIDTH / frame.width, HEIGHT / frame.height)
    small = frame.reformat(
        width=max(1, round(frame.width * scale)),
        height=max(1, round(frame.height * scale)),
        format="bgra",
        interpolation=Interpolation.AREA,
    ).to_ndarray()
    turned = np.rot90(small, round(frame.rotation / 90)) if frame.rotation % 360 else small
    return np.ascontiguousarray(turned)
