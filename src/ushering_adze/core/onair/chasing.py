"""Following timecode: where a list stands on it, what a jump is, and which cues are reached."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from ushering_adze.core.show.cue import AtCode, Cue, CueList
from ushering_adze.core.show.timecode import Chase
from ushering_adze.core.signal.timecode import CodeError, CodeRate, code_words, seconds_of_code

JUMP = 0.12
"""Seconds beside where it should be from which a code has jumped: three frames at 25."""


class Code(NamedTuple):
    """A timecode as it was last heard: its real seconds, at a moment of the stage's clock, and whether it goes on by
    itself from there, as the internal one does.
    """

    seconds: float
    at: float
    goes: bool = False
    rate: CodeRate | None = None


Codes = Mapping[str, Code]
"""By where they come from."""


class Place(NamedTuple):
    """Where a list stood on its timecode, and when by the stage's clock."""

    seconds: float
    at: float


def position(chase: Chase, codes: Codes, now: float) -> float | None:
    """Where a list stands on its timecode at a moment, in seconds; None if nothing has come for longer than it
    freewheels.

    Parameters
    ----------
    chase : Chase
    codes : mapping
        By source.
    now : float
        Seconds of the stage's clock.

    Examples
    --------
    >>> position(Chase(source="artnet", offset=-3600), {"artnet": Code(3601.0, 10.0)}, 10.25)
    1.25
    >>> position(Chase(source="artnet"), {"artnet": Code(3601.0, 10.0)}, 10.75) is None
    True
    """
    code = codes.get(chase.source)
    if code is None or (not code.goes and now - code.at > chase.freewheel):
        return None
    return code.seconds + now - code.at + chase.offset


def code_of(cues: CueList, cue: Cue) -> float | None:
    """The seconds at which a cue is due on its list's timecode; None if it waits for none, or there is no such."""
    if not isinstance(cue.fires, AtCode) or cues.code is None:
        return None
    try:
        return seconds_of_code(cue.fires.at, cues.code.rate)
    except CodeError:
        return None


class Reached(NamedTuple):
    """What a list does on its way along timecode: cues with their moments, and what is armed if it jumped back."""

    cues: tuple[tuple[float, Cue], ...] = ()
    jumped_back: bool = False
    armed: str | None = None


def reached(cues: CueList, before: Place | None, here: float, now: float) -> Reached:
    """The cues that are reached on the way from one place on timecode to another.

    Parameters
    ----------
    cues : CueList
        One that follows timecode.
    before : Place or None
        None if it followed none until now: nothing is reached then.
    here : float
        Where it is now, in seconds.
    now : float
        Seconds of the stage's clock.
    """
    if before is None or cues.code is None:
        return Reached()
    due = sorted(((at, c) for c in cues.ordered if (at := code_of(cues, c)) is not None), key=lambda d: d[0])
    beside = here - (before.seconds + now - before.at)
    if beside < -JUMP and here < before.seconds:
        following = next((c.id for at, c in due if at > here), None)
        return Reached(jumped_back=True, armed=following)
    found = [(now - (here - at), c) for at, c in due if before.seconds < at <= here]
    if beside > JUMP:  # it jumped: they are done now, or left out
        kept = found if cues.code.jumps == "fire" else found[-1:] if cues.code.jumps == "last" else []
        there = [(at, c) for at, c in found if at >= now - JUMP and (at, c) not in kept]  # where it landed is no past
        return Reached(tuple((now, c) for _, c in (*kept, *there)))
    return Reached(tuple(found))


def place_words(chase: Chase, here: float | None) -> str:
    """Where a list stands, as a timecode."""
    return "no code" if here is None else code_words(here, chase.rate)
