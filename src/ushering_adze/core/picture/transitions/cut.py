"""A picture stands until the end of its time, and then is another."""

from __future__ import annotations

from ushering_adze.core.picture.transitions.transition import Transition

TRANSITION = Transition("cut", "Cut", shares=lambda progress, parameters: (0.0, 1.0) if progress >= 1 else (1.0, 0.0))
