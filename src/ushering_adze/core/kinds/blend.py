"""How a layer's colours meet those below it."""

from __future__ import annotations

from typing import Literal, get_args

from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind

Blend = Literal["normal", "add", "multiply", "screen", "lighten", "darken"]


def _read(document: object) -> str:
    if document not in get_args(Blend):
        raise ValueError(f"no such blend: {document}")
    return str(document)


KIND = Kind(
    "blend",
    "Blend",
    70,
    Blend,
    "normal",
    glyph=(
        ((0.05, 0.3), (0.6, 0.3), (0.6, 0.95), (0.05, 0.95), (0.05, 0.3)),
        ((0.4, 0.05), (0.95, 0.05), (0.95, 0.7), (0.4, 0.7), (0.4, 0.05)),
    ),
    document=lambda value, width, height: mixed.plainest(value),
    between=mixed.mixed,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, str),
    from_json=lambda value, now: mixed.from_json(value, _read),
    sane=lambda value: mixed.is_sane(value, lambda b: b in get_args(Blend)),
    family="look",
)
