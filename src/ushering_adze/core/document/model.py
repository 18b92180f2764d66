"""What every noun of the show has in common: immutability, ids, and one clear sentence for a fault."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any, Self

from pydantic import BaseModel, ConfigDict, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=64)]
"""A stable short id: lower-case words joined by hyphens.  Names may change; ids do not."""

Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
"""An sRGB colour as ``#RRGGBB``."""

Name = Annotated[str, StringConstraints(min_length=1, max_length=80)]


class Model(BaseModel):
    """Base of every value in the show: frozen, and strict about fields it does not know."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with other fields; what was derived from the old ones and kept is left behind."""
        copied = super().model_copy(update=update, deep=deep)
        for name in [n for n in copied.__dict__ if n not in type(self).model_fields]:
            del copied.__dict__[name]
        return copied


class Seldom(Model):
    """Base of values that a start of the program does without: what reads one is made when the first is made."""

    model_config = ConfigDict(defer_build=True)


LONGEST = 600
"""Letters of a sentence; what is longer repeats something that is too long to be read."""


@dataclass(frozen=True)
class Fault:
    """One thing wrong with a document: where it is, and what, in a sentence that ends with the cure."""

    where: str
    what: str

    def __str__(self) -> str:
        text = f"{self.where}: {self.what}" if self.where else self.what
        return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


class ShowError(ValueError):
    """A document that is not a show.  Carries every fault found; its text is the first one."""

    def __init__(self, faults: list[Fault]) -> None:
        self.faults = faults
        more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
        super().__init__(f"{faults[0]}{more}")

    def __reduce__(self) -> tuple[type[ShowError], tuple[list[Fault]]]:
        return type(self), (self.faults,)


@lru_cache(4096)
def rgb_of(colour: str) -> tuple[int, int, int]:
    """Red, green and blue, 0 to 255, of a colour written ``#RRGGBB``.

    Examples
    --------
    >>> rgb_of("#E3A857")
    (227, 168, 87)
    """
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)
