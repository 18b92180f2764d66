"""How a layer's picture is dealt out over the surfaces of a zone."""

from __future__ import annotations

from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field

from ushering_adze.core.document.model import Id, Model
from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind
from ushering_adze.core.kinds.picture import Fit

Over = Literal["none", "across", "each", "grouped", "in-turn"]


class Spread(Model):
    """A picture dealt out over a zone, instead of lying in the layer's own box.

    *Across*: one picture over all surfaces, by the pixels of the canvas, or by the millimetres of the room.  *Each*: a
    whole picture on every surface.  *Grouped*: across the first that the zone holds, a whole one on each of the rest.
    *In turn*: the first surface shows the first of ``sources``, the second the second, and so on, from the start again
    when they are used up.  Whole pictures have a fit of their own on each surface, by ``fits``, which goes on likewise.
    """

    over: Over = "none"
    zone: Annotated[Id | None, Field(description="without one the layer lies in its own box")] = None
    by: Literal["px", "mm"] = "px"
    sources: tuple[Id, ...] = ()
    fits: Annotated[tuple[Fit, ...], Field(description="how it fills each surface in turn; as the layer if empty")] = ()


class SpreadNow(NamedTuple):
    """A spread on air."""

    over: Over = "none"
    zone: str | None = None
    by: str = "px"
    sources: tuple[str, ...] = ()
    fits: tuple[str, ...] = ()


OWN = SpreadNow()
"""Of a layer that lies in its own box."""


def _value(spread: Spread, width: int, height: int) -> SpreadNow:
    if spread.over == "none" or spread.zone is None:
        return OWN
    return SpreadNow(spread.over, spread.zone, spread.by, spread.sources, spread.fits)


def _document(value: Any, width: int, height: int) -> Spread:
    return Spread(**mixed.plainest(value)._asdict())


def _read(document: Any) -> SpreadNow:
    return _value(Spread.model_validate(document), 0, 0)


def _sources(value: Any) -> tuple[str, ...]:
    """The sources that are shown in turn."""
    return tuple(dict.fromkeys(id for s in mixed.values_in(value) if s.over == "in-turn" for id in s.sources))


def picture_is_own(value: Any) -> bool:
    """Whether a layer that is dealt out so shows its own picture anywhere."""
    return any(s.over != "in-turn" or not s.sources for s in mixed.values_in(value))


KIND = Kind(
    "spread",
    "Spread",
    24,
    Spread,
    Spread(),
    "faded",
    glyph=(
        ((0.05, 0.3), (0.3, 0.3), (0.3, 0.7), (0.05, 0.7), (0.05, 0.3)),
        ((0.38, 0.15), (0.62, 0.15), (0.62, 0.85), (0.38, 0.85), (0.38, 0.15)),
        ((0.7, 0.3), (0.95, 0.3), (0.95, 0.7), (0.7, 0.7), (0.7, 0.3)),
    ),
    value=_value,
    document=_document,
    between=mixed.mixed,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(
        value, lambda s: {**s._asdict(), "sources": list(s.sources), "fits": list(s.fits)}
    ),
    from_json=lambda value, now: mixed.from_json(value, _read),
    sane=lambda value: mixed.is_sane(value, lambda s: s.over == "none" or s.zone is not None),
    sources=_sources,
    named=lambda spread: spread.sources,
    zones=lambda spread: () if spread.zone is None else (spread.zone,),
    fades_unseen=False,  # to deal a picture out twice costs twice
    family="place",
)
