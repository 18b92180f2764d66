"""A picture grows out of the middle of another one, which fades under it."""

from __future__ import annotations

import cv2
import numpy as np

from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.porter_duff import over


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The new one is as large as progress says."""
    height, width = before.shape[:2]
    w, h = round(width * progress), round(height * progress)
    made = np.asarray(cv2.convertScaleAbs(before, alpha=1 - progress), np.uint8)
    if min(w, h) < 1:
        return made
    small = np.asarray(
        cv2.resize(after, (w, h), interpolation=cv2.INTER_AREA if progress < 0.7 else cv2.INTER_LINEAR), np.uint8
    )
    x, y = (width - w) // 2, (height - h) // 2
    over(made[y : y + h, x : x + w], small)
    return made


TRANSITION = Transition("zoom", "Zoom", draw=draw)
