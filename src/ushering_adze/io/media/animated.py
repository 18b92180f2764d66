"""Pictures that move by themselves: animated GIF, WebP and PNG."""

from __future__ import annotations

from bisect import bisect_right
from itertools import accumulate
from pathlib import Path

import numpy as np
from PIL import Image, ImageSequence

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.plane.pixels import by_alpha
from ushering_adze.core.show import Source
from ushering_adze.io.media.player import Player
from ushering_adze.io.media.still import MediaError, serials

SUFFIXES = {".gif", ".webp", ".png", ".apng"}
MOST = 1 << 29
"""Bytes that all its pictures may take."""
SHORTEST = 0.02
"""Seconds of a picture, at least; what is shorter stands for a tenth of a second, as browsers have it (common
practice, no source).
"""


def animated(path: Path) -> bool:
    """Whether a picture file has several pictures; False for whatever cannot be read."""
    if path.suffix.lower() not in SUFFIXES or not path.is_file():
        return False
    try:
        with Image.open(path) as image:
            return int(getattr(image, "n_frames", 1)) > 1
    except Exception:  # what is damaged is told by who opens it
        return False


class AnimatedPlayer(Player):
    """Plays the pictures of a file, again and again, each for its own time."""

    def __init__(self, source: Source, path: Path) -> None:
        super().__init__(source)
        self._frames: list[Frame] = []
        seconds: list[float] = []
        try:
            with Image.open(path) as image:
                if image.width * image.height * 4 * int(getattr(image, "n_frames", 1)) > MOST:
                    raise MediaError(f"{path.name} is too large to be played as a picture; make it a clip")
                for picture in ImageSequence.Iterator(image):
                    rgba = np.asarray(picture.convert("RGBA"))
                    pixels, opaque = by_alpha(np.ascontiguousarray(rgba[..., [2, 1, 0, 3]]), source.picture.alpha)
                    self._frames.append(Frame(pixels, next(serials), opaque))
                    shown = float(picture.info.get("duration", 100)) / 1000
                    seconds.append(shown if shown >= SHORTEST else 0.1)
        except (OSError, ValueError, SyntaxError, EOFError) as error:
            if not self._frames:
                raise MediaError(f"{path.name} cannot be read as a picture ({type(error).__name__})") from None
        self._ends = list(accumulate(seconds[: len(self._frames)] or [0.1]))
        self.length = self._ends[-1]

    def frame(self, seconds: float) -> Frame:
        return self._frames[min(len(self._frames) - 1, bisect_right(self._ends, seconds % self.length + 1e-6))]
