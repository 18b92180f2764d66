"""A picture fades into another one."""

from __future__ import annotations

from ushering_adze.core.picture.transitions.transition import Transition

TRANSITION = Transition("dissolve", "Dissolve", shares=lambda progress, parameters: (1 - progress, progress))
