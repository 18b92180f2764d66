"""How an evening stands beside what was planned."""

from __future__ import annotations

from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show.cue import AtTime, Cue
from ushering_adze.core.text.clocks import DAY, seconds_of_day

NEAR = 5.0
"""Seconds beside the plan that nobody calls late or early."""


def on_for(stage: Stage, list: str) -> float | None:
    """Seconds since the last cue of a list was fired; None if none was."""
    head = head_of(stage, list)
    return None if head.at is None or stage.looked is None else max(0.0, stage.looked - head.at)


def _beside(day: float, planned: str) -> float:
    """Seconds from a planned time of day to another one, at most half a day either way."""
    return (day - seconds_of_day(planned) + DAY / 2) % DAY - DAY / 2


def behind(stage: Stage, id: str, day: float) -> float | None:
    """Seconds that an evening is over its plan, less than none if it is early.

    Parameters
    ----------
    stage : Stage
    id : str
        Of the list.
    day : float
        The time of day, in seconds from midnight.

    Returns
    -------
    float or None
        By when the last cue was fired and was planned to be, and by the armed one if that should have been by now; None
        if neither has a planned time.
    """
    cues, head, found = stage.show.cue_list(id), head_of(stage, id), list[float]()
    fired, armed, on = cues.cue(head.fired), cues.cue(head.armed), on_for(stage, id)
    if fired is not None and fired.start is not None and on is not None:
        found.append(_beside(day - on, fired.start))
    if armed is not None and armed.start is not None and (late := _beside(day, armed.start)) > 0:
        found.append(late)
    return max(found, default=None)


def to_timed(stage: Stage, id: str, day: float) -> tuple[float, Cue] | None:
    """Seconds to the next cue of a list that fires by the time of day, and that cue; None if none does.

    Parameters
    ----------
    stage : Stage
    id : str
        Of the list.
    day : float
        The time of day, in seconds from midnight.
    """
    cues, head = stage.show.cue_list(id), head_of(stage, id)
    armed = cues.cue(head.armed)
    if head.stopped:
        return None
    waits = [
        ((seconds_of_day(c.fires.at) - day) % DAY, c)
        for c in cues.ordered
        if isinstance(c.fires, AtTime) and (cues.any_order or (armed is not None and c.number >= armed.number))
    ]
    return min(waits, key=lambda w: w[0], default=None)


def behind_words(seconds: float | None) -> str:
    """The same in words.

    Examples
    --------
    >>> [behind_words(s) for s in (None, 3.0, 250.0, -120.0, 3700.0)]
    ['', 'on time', '4 min 10 s over', '2 min early', '1 h 1 min over']
    """
    if seconds is None:
        return ""
    if abs(seconds) < NEAR:
        return "on time"
    whole = round(abs(seconds))
    hours, minutes, rest = whole // 3600, whole // 60 % 60, whole % 60
    parts = [f"{hours} h"] if hours else []
    parts += [f"{minutes} min"] if minutes else []
    parts += [f"{rest} s"] if rest and not hours else []
    return f"{' '.join(parts)} {'over' if seconds > 0 else 'early'}"
