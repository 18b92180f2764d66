"""Two presets beside one another: which surfaces would show something else, and what makes the difference."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.onair.delta import Change, delta, source_names
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import is_seen, layers_in_order
from ushering_adze.core.onair.view import View, state_of
from ushering_adze.core.picture.layers import Key, LayerState
from ushering_adze.core.show import Preset, Show
from ushering_adze.core.show.variants import preset_of


class LayerDiffers(NamedTuple):
    """A layer that two presets treat otherwise: which, its name and its canvas', and how, in words."""

    key: Key
    name: str
    words: str


class Comparison(NamedTuple):
    """What differs between two presets, each recalled from what is on air: surfaces, then layers."""

    surfaces: tuple[Change, ...]
    layers: tuple[LayerDiffers, ...]


def compared(stage: Stage, first: int, second: int) -> Comparison:
    """What differs between two presets.

    Parameters
    ----------
    stage : Stage
        Layers that a preset leaves are as they are on air.
    first, second : int
        Numbers.

    Returns
    -------
    Comparison

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    show = stage.show
    presets = preset_of(show, first), preset_of(show, second)
    before, after = (state_of(stage, View("", "blind", p.number)) for p in presets)
    found = []
    for key in layers_in_order(show):
        words = [*_seen(show, before[key], after[key], presets), *_stored(key, presets)]
        if words:
            canvas = show.canvas(key[0])
            name = next(layer.name for layer in canvas.layers if layer.id == key[1])
            found.append(LayerDiffers(key, f"{name} · {canvas.name}", "; ".join(words)))
    return Comparison(tuple(delta(show, before, after)), tuple(found))


def _seen(show: Show, before: LayerState, after: LayerState, presets: tuple[Preset, Preset]) -> list[str]:
    """How what is seen of a layer differs."""
    a, b = presets
    seen = is_seen(before), is_seen(after)
    if seen == (False, False):
        return []
    if seen == (True, False):
        return [f"only {a.number} shows it: {', '.join(source_names(show, (before,)))}"]
    if seen == (False, True):
        return [f"only {b.number} shows it: {', '.join(source_names(show, (after,)))}"]
    kinds = [k.words.lower() for k, x, y in zip(KINDS, before, after, strict=True) if x != y]
    names = [" + ".join(source_names(show, (state,))) or "nothing" for state in (before, after)]
    if kinds and kinds[0] == "picture" and names[0] != names[1]:
        kinds[0] = " → ".join(names)
    return [", ".join(kinds)] if kinds else []


def _stored(key: Key, presets: tuple[Preset, Preset]) -> list[str]:
    """What one of them stores of a layer, or takes away, and the other leaves as it finds it."""
    touched = [_touches(p, key) for p in presets]
    if touched[0] == touched[1]:
        return []
    leaves = presets[0] if touched[1] else presets[1]
    return [f"{leaves.number} leaves it as it finds it"]


def _touches(preset: Preset, key: Key) -> bool:
    return key[0] in preset.clears or any((p.canvas, p.layer) == key and p.held for p in preset.parts)
