"""A key of a layer, over that of its source: what of its picture can be seen through."""

from __future__ import annotations

from functools import cache
from typing import Any

from pydantic import TypeAdapter

from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.keying import FillKey, Keying
from ushering_adze.core.kinds.kind import Kind


@cache
def _reader() -> TypeAdapter[Any]:
    """Reads what a layer is keyed by; made when the first is met."""
    return TypeAdapter(Keying | None)


def _sources(value: Any) -> tuple[str, ...]:
    return tuple(dict.fromkeys(k.source for k in mixed.values_in(value) if isinstance(k, FillKey)))


KIND = Kind(
    "key",
    "Key",
    60,
    Keying | None,
    None,
    glyph=(
        ((0.05, 0.15), (0.95, 0.15), (0.95, 0.85), (0.05, 0.85), (0.05, 0.15)),
        ((0.35, 0.85), (0.35, 0.55), (0.5, 0.35), (0.65, 0.55), (0.65, 0.85)),
    ),
    document=lambda value, width, height: mixed.plainest(value),
    between=mixed.mixed,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, lambda k: None if k is None else k.model_dump(mode="json")),
    from_json=lambda value, now: mixed.from_json(value, _reader().validate_python),
    sane=lambda value: mixed.is_sane(value, lambda k: True),
    named=lambda key: (key.source,) if isinstance(key, FillKey) else (),
    made_of=_sources,
    family="look",
)
