"""Which source a layer shows."""

from __future__ import annotations

from typing import Any, Literal

from ushering_adze.core.document.model import Id, Model
from ushering_adze.core.kinds import on_its_way
from ushering_adze.core.kinds.kind import Kind

Fit = Literal["fill", "fit", "stretch", "1:1"]


class Picture(Model):
    """Which source a layer shows, and how its picture fills the layer's box."""

    source: Id | None = None
    fit: Fit = "fill"


def _stored(value: on_its_way.Picture, width: int, height: int) -> Any:
    most = on_its_way.by_share(value)[0]
    return Picture.model_validate({"source": most.source, "fit": most.fit})


KIND = Kind(
    "picture",
    "Picture",
    10,
    Picture,
    Picture(),
    "faded",
    glyph=(
        ((0.05, 0.15), (0.95, 0.15), (0.95, 0.85), (0.05, 0.85), (0.05, 0.15)),
        ((0.05, 0.75), (0.4, 0.4), (0.6, 0.6), (0.95, 0.35)),
    ),
    value=lambda picture, width, height: on_its_way.Shown(picture.source, picture.fit),
    document=_stored,
    between=on_its_way.turning,
    rest=on_its_way.rested,
    to_json=on_its_way.to_json,
    from_json=on_its_way.from_json,
    sane=on_its_way.is_sane,
    sources=on_its_way.sources_in,
    made_of=on_its_way.needed_by,
    named=lambda picture: () if picture.source is None else (picture.source,),
    family="picture",
)
