"""What somebody looks at while building: a canvas on program, on preview, or in a preset that is on neither."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal, NamedTuple

from ushering_adze.core.onair.motion import at_rest, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import State

On = Literal["preview", "program", "blind", "trying"]
HELD = 0.6
"""Seconds for which what is tried stands before, and after, its way."""


class View(NamedTuple):
    """A canvas, on preview, on program, ``blind`` in a preset of a number, or ``trying``: preview as it comes from what
    is on program, again and again.
    """

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
    if view.on == "trying" and now is not None:
        return tried(stage, now)
    if view.on in ("preview", "trying"):
        return stage.preview()
    preset = None if view.preset is None else stage.show.preset(view.preset)
    settled = at_rest(stage.program.target)
    return settled.target if preset is None else recall(stage.show, settled, preset, 0.0, cut=True).target


def tried(stage: Stage, now: float) -> State:
    """What a take of what is on preview would show at a moment, if it began again and again from what is on program.

    Parameters
    ----------
    stage : Stage
    now : float
        Seconds of the stage's clock.

    Returns
    -------
    mapping
        Of every canvas.
    """
    begin = at_rest(stage.program.target)
    taken = replace(stage, program=begin).take(0.0).program
    length = max((track.start + track.seconds for track in taken.tracks.values()), default=0.0)
    return taken.at(max(0.0, now % (length + 2 * HELD) - HELD)) if length else taken.target
