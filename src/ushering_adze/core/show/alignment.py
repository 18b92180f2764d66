"""What is remembered of aligning a surface: the steps that are done, and whether show work may touch it."""

from __future__ import annotations

from typing import Literal

from ushering_adze.core.document.model import Id, Model

Step = Literal["focus", "shape", "overlap", "ramp", "blacks", "colour"]
STEPS: tuple[Step, ...] = ("focus", "shape", "overlap", "ramp", "blacks", "colour")
"""In the usual order."""


class Alignment(Model):
    """Of one surface."""

    surface: Id
    done: tuple[Step, ...] = ()
    locked: bool = False
