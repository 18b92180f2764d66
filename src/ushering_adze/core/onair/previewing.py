"""What is on preview, beside what presets hold."""

from __future__ import annotations

from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.show import Show


def is_that_preset(stage: Stage, show: Show, number: int) -> bool:
    """Whether a preset would bring the very picture that is on preview.

    Parameters
    ----------
    stage : Stage
    show : Show
        That has the preset; the stage need not know it yet.
    number : int
        Of the preset.

    Returns
    -------
    bool
        False as well if there is no such preset.
    """
    if show.preset(number) is None:
        return False
    here = stage.fitted(show)
    now, then = here.preview(), here.stage(number).preview()
    return all(now[key] == then[key] or not (is_seen(now[key]) or is_seen(then[key])) for key in now)
