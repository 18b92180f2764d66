"""What somebody looks at while building: a canvas on program, on preview, or in a preset that is on neither."""

from __future__ import annotations

from typing import Literal, NamedTuple

from ushering_adze.core.onair.motion import at_rest, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import State

On = Literal["preview", "program", "blind"]


class View(NamedTuple):
    """A canvas, on preview, on program, or ``blind`` in a preset of a number."""

    canvas: str
    on: On = "preview"
    preset: int | None = None


def state_of(stage: Stage, view: View, now: float | None = None) -> State:
    """The state that a view shows.

    Parameters
    ----------
    stage : Stage
    view : View
    now : float, optional
        Seconds of the stage's clock, for a program that moves; where it is heading if not given.

    Returns
    -------
    mapping
        Of every canvas.
    """
    if view.on == "program":
        return stage.program.target if now is None else stage.program.at(now)
    if view.on == "preview":
        return stage.preview()
    preset = None if view.preset is None else stage.show.preset(view.preset)
    settled = at_rest(stage.program.target)
    return settled.target if preset is None else recall(stage.show, settled, preset, 0.0, cut=True).target
