"""Where a cue list stands: what is armed, what was fired last, and what of it is still to come."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.onair.chasing import Place
from ushering_adze.core.show.actions import Action


class Coming(NamedTuple):
    """An action that is still to happen, at a moment of the stage's clock."""

    at: float
    action: Action


class Head(NamedTuple):
    """Where a list stands.

    ``armed`` and ``fired`` are ids of cues; ``at`` is when the last one was fired, ``ignored`` when one was fired too
    soon behind it.  While it is ``going``, cues fire by themselves.  ``as_if`` says that what the cues before would
    have left is on preview, ``stopped`` that somebody stopped
    it: nothing of it happens by itself until a cue is armed or fired.  It is ``paused`` since a moment, and
    stood at ``code`` on its timecode when it was looked at last.
    """

    armed: str | None = None
    fired: str | None = None
    at: float | None = None
    going: bool = False
    coming: tuple[Coming, ...] = ()
    ignored: float | None = None
    as_if: bool = False
    stopped: bool = False
    paused: float | None = None
    code: Place | None = None
    times: tuple[tuple[str, float], ...] = ()
    """When cues were fired last, by their ids."""
