"""What a rule finds: how grave it is, what and where, and the edit that cures it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, NamedTuple

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Show

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


class Where(NamedTuple):
    """Pixels of a canvas or of an output's raster, or a surface as a whole, and the regions concerned."""

    on: Literal["canvas", "output", "surface"]
    id: str
    rect: Rect | None = None
    regions: tuple[str, ...] = ()

    def as_dict(self) -> dict[str, Any]:
        """As plain values: ``on``, ``id``, ``x``, ``y``, ``w``, ``h``, ``regions``."""
        box = {} if self.rect is None else self.rect._asdict()
        return {"on": self.on, "id": self.id, **box, "regions": list(self.regions)}


class Cure(NamedTuple):
    """A named edit that takes the finding away."""

    words: str
    edit: Callable[[Show], Show]


class Finding(NamedTuple):
    """One thing found."""

    rule: str
    severity: Severity
    message: str
    where: Where
    cures: tuple[Cure, ...] = ()

    def as_dict(self) -> dict[str, Any]:
        """As plain values: ``rule``, ``severity``, ``message``, ``where``."""
        return {"rule": self.rule, "severity": self.severity, "message": self.message, "where": self.where.as_dict()}
