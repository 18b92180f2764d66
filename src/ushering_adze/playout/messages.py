"""What the process that keeps the pictures running, and who looks at it, say to one another."""

from __future__ import annotations

from typing import Any, NamedTuple

from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Show
from ushering_adze.playout.ring import Placed


class Begin(NamedTuple):
    """Run a show, from what is on air if that is told."""

    show: Show
    stage: Stage | None = None
    devices: bool = True


class Ask(NamedTuple):
    """Do something of the playout's; ``number`` is of the answer, 0 if none is wanted."""

    number: int
    name: str
    given: tuple[Any, ...] = ()
    named: dict[str, Any] = {}


class Answer(NamedTuple):
    """What was asked for, or the error that it raised."""

    number: int
    value: Any = None
    error: BaseException | None = None


class Now(NamedTuple):
    """What is told with every frame."""

    stage: Stage
    serials: dict[str, int]
    covered: str | None
    put: int
    mark: tuple[int, float]
    late: int
    milliseconds: float


class Refused(NamedTuple):
    """An edit that cannot be run, and why."""

    show: Show
    why: str


class Made(NamedTuple):
    """The frame has been made that was waited for."""

    number: int


class Picture(NamedTuple):
    """A picture of those that are wanted under a key."""

    key: str
    at: Placed
