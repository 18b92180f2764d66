"""A picture is pushed out by another one."""

from __future__ import annotations

import numpy as np

from ushering_adze.core.picture.transitions.moving import laid, towards
from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """Both go towards the angle, one behind the other."""
    height, width = before.shape[:2]
    angle = float(parameters.get("angle", 0.0))
    out, whole = towards(angle, width, height, progress), towards(angle, width, height, 1.0)
    made = np.zeros_like(before)
    laid(made, before, *out)
    laid(made, after, out[0] - whole[0], out[1] - whole[1])
    return made


TRANSITION = Transition("push", "Push", draw=draw, opaque=True)
