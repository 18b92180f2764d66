"""A picture slides over another one that stands."""

from __future__ import annotations

from ushering_adze.core.picture.transitions.moving import laid, towards
from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The new one comes in towards the angle."""
    height, width = before.shape[:2]
    dx, dy = towards(float(parameters.get("angle", 0.0)), width, height, progress - 1)
    made = before.copy()
    laid(made, after, dx, dy)
    return made


TRANSITION = Transition("slide", "Slide over", draw=draw, opaque=True)
