"""A layer travels to the box it will have, cut, turned and framed as it will be, while its picture fades over."""

from __future__ import annotations

from ushering_adze.core.picture.transitions.transition import Transition

TRANSITION = Transition("move", "Move", shares=lambda progress, parameters: (1 - progress, progress))
