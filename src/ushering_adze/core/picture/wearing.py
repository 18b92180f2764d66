"""Texts and clocks in the dress of a layer: for who paints they are sources of their own."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from typing import Any

from ushering_adze.core.kinds.dress import Dress, worn
from ushering_adze.core.kinds.mixed import Mixed, values_in
from ushering_adze.core.kinds.on_its_way import Picture, Shown, Still, Turning, leaves
from ushering_adze.core.picture.layers import Key, LayerState
from ushering_adze.core.show import Clock, Show, Text


def as_worn(state: LayerState, there: Container[str]) -> LayerState:
    """A layer with its texts in its dress.

    Parameters
    ----------
    state : LayerState
        The layer.
    there : container of str
        What there is: a text that is not there in its dress is shown in its own.

    Returns
    -------
    LayerState
        The very same, if there is nothing to be dressed.
    """
    if state.dress is None:
        return state
    picture = _worn(state.picture, state.dress, there)
    return state if picture == state.picture else state._replace(picture=picture)


def _worn(picture: Picture, dress: Any, there: Container[str]) -> Picture:
    match picture:
        case Still(of=of):
            return picture._replace(of=_worn(of, dress, there))
        case Turning(before=before, after=after):
            return picture._replace(before=_worn(before, dress, there), after=_worn(after, dress, there))
    if picture.source is None:
        return picture
    if isinstance(dress, Mixed):
        before, after = (_worn(picture, one, there) for one in (dress.before, dress.after))
        return before if before == after else Turning("dissolve", before, after, dress.share)
    name = None if dress is None else worn(picture.source, dress)
    return picture if name is None or name not in there else Shown(name, picture.fit)


def names_worn(source: str | None, state: LayerState) -> tuple[str, ...]:
    """What a source of a layer is called there: in each of its dresses, or by its own id if it has none.

    Parameters
    ----------
    source : str, optional
    state : LayerState
        The layer.
    """
    if source is None or state.dress is None:
        return () if source is None else (source,)
    return tuple(source if dress is None else worn(source, dress) for dress in values_in(state.dress))


def worn_in(states: Iterable[LayerState]) -> frozenset[str]:
    """What layers want to be there: each of their sources in each of their dresses, whether it is a text or not."""
    return frozenset(
        name
        for state in states
        if state.dress is not None
        for shown in leaves(state.picture)
        for name in names_worn(shown.source, state)
        if name != shown.source
    )


def wardrobe_of(show: Show) -> frozenset[str]:
    """Every text in every dress that its presets may ask for: by layer, whatever it may show in whatever it may be
    dressed in.
    """
    texts = {s.id for s in show.sources if isinstance(s, (Text, Clock))}
    dresses: dict[Key, set[Dress]] = {}
    shown: dict[Key, set[str]] = {}
    for key, source, dress in _said(show):
        if source in texts:
            shown.setdefault(key, set()).add(source)
        if dress is not None:
            dresses.setdefault(key, set()).add(dress)
    return frozenset(
        worn(source, dress) for key, own in dresses.items() for dress in own for source in shown.get(key, ())
    )


def _said(show: Show) -> Iterator[tuple[Key, str | None, Dress | None]]:
    """What source and what dress a layer may have, by itself and by each part of a preset."""
    for canvas in show.canvases:
        for layer in canvas.layers:
            yield (canvas.id, layer.id), layer.settings.picture.source, layer.settings.dress
    for preset in show.presets:
        for part in preset.parts:
            picture, dress = part.holds.picture, part.holds.dress
            yield (
                (part.canvas, part.layer),
                None if picture is None else picture.to.source,
                None if dress is None else dress.to,
            )
