"""A picture goes through a colour into another one."""

from __future__ import annotations

import cv2
import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The colour is whole half-way; what can be seen through stays so."""
    red, green, blue = rgb_of(parameters.get("colour", "#000000"))
    side, share = (before, 2 * progress) if progress < 0.5 else (after, 2 - 2 * progress)
    alpha = cv2.extractChannel(cv2.addWeighted(before, 1 - progress, after, progress, 0.0), 3)
    colour = cv2.merge([cv2.convertScaleAbs(alpha, alpha=c / 255) for c in (blue, green, red, 255)])
    return np.asarray(cv2.addWeighted(colour, share, side, 1 - share, 0.0), np.uint8)


TRANSITION = Transition("dip", "Through a colour", draw=draw, opaque=True)
