"""How loud what a layer shows is heard, and in which mixes."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field

from ushering_adze.core.document.model import Id, Model
from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind
from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.sound.levels import gain_of


class LayerSound(Model):
    """The level of what a layer shows, in dB beside its source's own, and the mixes it is heard in; all, without
    ``mixes``.
    """

    level: Annotated[float, Field(ge=-120, le=12, description="dB; −120 is silent")] = 0.0
    mute: bool = False
    mixes: Annotated[tuple[Id, ...] | None, Field(description="ids of mixes; null: all")] = None


def layer_gain(value: LayerSound | Mixed, mix: str) -> float:
    """By what the sound of a layer is multiplied in a mix; on the way from one value to another, a share of both.

    Parameters
    ----------
    value : LayerSound or Mixed
    mix : str
        Its id.

    Examples
    --------
    >>> layer_gain(LayerSound(mixes=("hall",)), "hall"), layer_gain(LayerSound(mute=True), "hall")
    (1.0, 0.0)
    >>> layer_gain(Mixed(LayerSound(), LayerSound(mute=True), 0.25), "hall")
    0.75
    """
    if isinstance(value, Mixed):
        before, after = layer_gain(value.before, mix), layer_gain(value.after, mix)
        return before + (after - before) * value.share
    if value.mute or (value.mixes is not None and mix not in value.mixes):
        return 0.0
    return gain_of(value.level)


def _read(document: Any) -> LayerSound:
    return LayerSound.model_validate(document)


KIND = Kind(
    "sound",
    "Sound",
    90,
    LayerSound,
    LayerSound(),
    "faded",
    glyph=(
        ((0.1, 0.4), (0.3, 0.4), (0.55, 0.15), (0.55, 0.85), (0.3, 0.6), (0.1, 0.6), (0.1, 0.4)),
        ((0.7, 0.3), (0.8, 0.5), (0.7, 0.7)),
    ),
    document=lambda value, width, height: mixed.plainest(value),
    between=mixed.mixed,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, lambda v: v.model_dump(mode="json")),
    from_json=lambda value, now: mixed.from_json(value, _read),
    sane=lambda value: mixed.is_sane(value, lambda v: isinstance(v, LayerSound)),
    family="sound",
)
