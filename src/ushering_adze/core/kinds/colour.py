"""The colours of a layer, over those of its source: brightness to gains, flipped, and by a table."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field

from ushering_adze.core.document.model import Model
from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind, Way

Gain = Annotated[float, Field(ge=0, le=4)]


class ColourSettings(Model):
    """How colours are changed: about their luma, about the middle, added, by a power, by channel; last by the table of
    a .cube file.
    """

    brightness: Annotated[float, Field(ge=-1, le=1)] = 0.0
    contrast: Gain = 1.0
    saturation: Gain = 1.0
    gamma: Annotated[float, Field(ge=0.1, le=10)] = 1.0
    red: Gain = 1.0
    green: Gain = 1.0
    blue: Gain = 1.0
    flip: Literal["none", "left-right", "top-bottom", "both"] = "none"
    table: Annotated[str | None, Field(max_length=4096, description="a .cube file")] = None


class ColourNow(NamedTuple):
    """Colours on air: seven numbers, and what there is nothing between."""

    numbers: tuple[float, ...] = (0.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0)
    flip: str = "none"
    table: str | None = None


PLAIN = ColourNow()
_NUMBERS = ("brightness", "contrast", "saturation", "gamma", "red", "green", "blue")


def _between(a: Any, b: Any, t: float, way: Way) -> Any:
    if isinstance(a, ColourNow) and isinstance(b, ColourNow) and a[1:] == b[1:]:
        return a._replace(numbers=tuple(x + (y - x) * t for x, y in zip(a.numbers, b.numbers, strict=True)))
    return mixed.mixed(a, b, t, way)


def _value(settings: ColourSettings, width: int, height: int) -> ColourNow:
    return ColourNow(tuple(getattr(settings, n) for n in _NUMBERS), settings.flip, settings.table)


def _document(value: Any, width: int, height: int) -> ColourSettings:
    plain = mixed.plainest(value)
    return ColourSettings(**dict(zip(_NUMBERS, plain.numbers, strict=True)), flip=plain.flip, table=plain.table)


def _read(document: Any) -> ColourNow:
    return _value(ColourSettings.model_validate(document), 0, 0)


def _moved(settings: ColourSettings, move: Callable[[str], str]) -> ColourSettings:
    return settings if settings.table is None else settings.model_copy(update={"table": move(settings.table)})


KIND = Kind(
    "colour",
    "Colour",
    65,
    ColourSettings,
    ColourSettings(),
    glyph=(
        ((0.05, 0.2), (0.95, 0.2)),
        ((0.05, 0.5), (0.95, 0.5)),
        ((0.05, 0.8), (0.95, 0.8)),
        ((0.3, 0.08), (0.3, 0.32)),
        ((0.7, 0.38), (0.7, 0.62)),
        ((0.45, 0.68), (0.45, 0.92)),
    ),
    value=_value,
    document=_document,
    between=_between,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, lambda c: _document(c, 0, 0).model_dump(mode="json")),
    from_json=lambda value, now: mixed.from_json(value, _read),
    sane=lambda value: mixed.is_sane(value, lambda c: c.numbers[3] > 0),
    moved=_moved,
    family="look",
)
