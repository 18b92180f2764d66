"""Cue lists: what happens in what order, and what fires each cue."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_serializer

from ushering_adze.core.document.model import Colour, Fault, Id, Model, Name
from ushering_adze.core.show.actions import Action, Go, StartList
from ushering_adze.core.show.paged import TimeOfDay
from ushering_adze.core.show.preset import Seconds
from ushering_adze.core.show.timecode import Chase, Timecode

CueNumber = Annotated[float, Field(ge=0, le=9999.999), AfterValidator(lambda n: round(n, 3))]


class ByHand(Model):
    """Somebody fires it."""

    kind: Literal["hand"] = "hand"


class AfterFormer(Model):
    """It fires so many seconds after the cue before it was fired, or had ended; with it, if that is none."""

    kind: Literal["after"] = "after"
    seconds: Seconds = 0.0
    of: Literal["begin", "end"] = "begin"


class AtPlayer(Model):
    """It fires when a source's player reaches a moment; when it ends, if ``at`` is null."""

    kind: Literal["player"] = "player"
    source: Id
    at: Annotated[float | None, Field(ge=0, le=86400)] = None


class AtTime(Model):
    """It fires at a time of day."""

    kind: Literal["time"] = "time"
    at: TimeOfDay


class AtCode(Model):
    """It fires when the timecode that the list follows is there."""

    kind: Literal["code"] = "code"
    at: Timecode


class AtSignal(Model):
    """It fires when a signal of this name comes."""

    kind: Literal["signal"] = "signal"
    name: Name


Fires = Annotated[ByHand | AfterFormer | AtPlayer | AtTime | AtCode | AtSignal, Field(discriminator="kind")]


class Doing(Model):
    """One action of a cue, so many seconds after it was fired."""

    action: Action
    delay: Seconds = 0.0


class Cue(Model):
    """One step of a list.  ``off`` passes it over; ``length`` is how long it is planned to stand until the next one."""

    id: Id
    number: CueNumber
    name: Annotated[str, Field(max_length=80)] = ""
    does: tuple[Doing, ...] = ()
    fires: Fires = ByHand()
    off: bool = False
    note: Annotated[str, Field(max_length=400)] = ""
    colour: Colour | None = None
    start: Annotated[TimeOfDay | None, Field(description="when it is planned")] = None
    length: Annotated[float | None, Field(ge=0, le=86400, description="seconds it is planned to stand")] = None

    @model_serializer(mode="wrap")
    def _what_it_has(self, handler: Any) -> Any:
        """What it has not is not in the document."""
        plain = {"off": False, "note": "", "colour": None, "start": None, "length": None, "name": ""}
        return {n: v for n, v in handler(self).items() if n not in plain or v != plain[n]}

    @property
    def preset(self) -> int | None:
        """The preset that it puts on air, by its number; the last one, if several."""
        found = None
        for doing in self.does:
            match doing.action.do:
                case "recall" | "stage":
                    found = doing.action.preset
        return found


class CueList(Model):
    """Cues in the order of their numbers.

    With ``runs`` it begins by itself when the show opens; with ``loop`` the first cue comes after the last, with
    ``shuffle`` any that was not on of late.  With ``claims`` it touches no more than these surfaces, or zones, and
    while it runs no other list touches them.  What is armed is staged on preview if the list ``previews``.  Who is not
    fired by hand or by the cue before fires when it is armed, or whatever is armed if the list has its cues in
    ``any_order``.  ``code`` is how it follows timecode.
    """

    id: Id
    name: Name
    cues: tuple[Cue, ...] = ()
    loop: bool = False
    shuffle: bool = False
    runs: bool = False
    previews: bool = True
    any_order: bool = False
    claims: tuple[Id, ...] = ()
    code: Chase | None = None

    @cached_property
    def _known(self) -> dict[str | None, Cue]:
        return {c.id: c for c in reversed(self.cues)}

    def cue(self, id: str | None) -> Cue | None:
        """The cue with this id, if there is one."""
        return self._known.get(id)

    def numbered(self, number: float) -> Cue | None:
        """The cue with this number, if there is one."""
        return next((c for c in self.cues if abs(c.number - number) < 5e-4), None)

    @cached_property
    def ordered(self) -> tuple[Cue, ...]:
        """Those that are on, by their numbers."""
        return tuple(sorted((c for c in self.cues if not c.off), key=lambda c: c.number))

    def after(self, id: str | None) -> Cue | None:
        """What comes after a cue, from the start again if it loops; the first one if there was none."""
        order, here = self.ordered, self.cue(id)
        if here is None:
            return order[0] if order else None
        later = bisect_right(order, here.number, key=lambda c: c.number)
        return order[later] if later < len(order) else order[0] if order and self.loop else None

    def before(self, id: str | None) -> Cue | None:
        """What comes before a cue; None if it is the first."""
        here = self.cue(id)
        earlier = [c for c in self.ordered if here is not None and c.number < here.number]
        return earlier[-1] if earlier else None


def number_words(number: float) -> str:
    """A cue's number as one says it.

    Examples
    --------
    >>> number_words(3.0), number_words(3.5), number_words(10.125)
    ('3', '3.5', '10.125')
    """
    return f"{number:.3f}".rstrip("0").rstrip(".")


def list_faults(lists: Sequence[CueList]) -> Iterator[Fault]:
    """What is wrong with cue lists: numbers and ids used twice.

    Parameters
    ----------
    lists : sequence of CueList

    Yields
    ------
    Fault
    """
    for n, cues in enumerate(lists):
        for field in ("id", "number"):
            met: dict[Any, int] = {}
            for m, cue in enumerate(cues.cues):
                value = getattr(cue, field)
                if value in met:
                    words = number_words(value) if field == "number" else f'"{value}"'
                    why = f"{cues.name} has two cues {words}; give this one another {field}"
                    yield Fault(f"lists[{n}].cues[{m}].{field}", why)
                met[value] = m
    for n, m in _circles(lists):
        cue = lists[n].cues[m]
        why = f"cue {number_words(cue.number)} of {lists[n].name} would start itself; delay one on the way"
        yield Fault(f"lists[{n}].cues[{m}].does", why)


def _circles(lists: Sequence[CueList]) -> Iterator[tuple[int, int]]:
    """The places of cues that would fire themselves at once, by whatever they start."""
    known = {y.id: y for y in lists}

    def at_once(cue: Cue) -> Iterator[tuple[str, str]]:
        for doing in cue.does:
            action = doing.action
            if doing.delay > 0 or not isinstance(action, (Go, StartList)) or action.list not in known:
                continue
            there = known[action.list]
            found = there.cue(action.cue) if isinstance(action, Go) else there.after(None)
            if found is not None:
                yield there.id, found.id

    for n, cues in enumerate(lists):
        for m, cue in enumerate(cues.cues):
            met, waiting = set[tuple[str, str]](), list(at_once(cue))
            while waiting:
                there = waiting.pop()
                other = known[there[0]].cue(there[1])
                if there not in met and other is not None:
                    met.add(there)
                    waiting += at_once(other)
            if (cues.id, cue.id) in met:
                yield n, m
