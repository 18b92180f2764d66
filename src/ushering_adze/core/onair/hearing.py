"""Who is heard: sound follows picture, by the surfaces that a mix listens to."""

from __future__ import annotations

from collections.abc import Set
from types import MappingProxyType

from ushering_adze.core.kinds.on_its_way import shares_in
from ushering_adze.core.kinds.sound import layer_gain
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.onair.delta import SeenThrough, visible
from ushering_adze.core.onair.overriding import Overrides
from ushering_adze.core.onair.stage import ALL, Stage
from ushering_adze.core.picture.layers import State
from ushering_adze.core.show import Show
from ushering_adze.core.show.sound import LISTEN, Mix, SourceSound
from ushering_adze.core.sound.levels import gain_of
from ushering_adze.core.sound.mixing import Finish

Heard = dict[str, dict[str, float]]
"""Factors by mix and source."""


def seen_by_mix(
    show: Show,
    state: State,
    seen_through: SeenThrough | None = None,
    overrides: Overrides = MappingProxyType({}),
) -> Heard:
    """How much of each source is seen on the surfaces of each mix: opacity times its share, by the sound of its layer;
    of several layers the most.

    Parameters
    ----------
    show : Show
    state : mapping
        What layers show.
    seen_through : callable, optional
        Whether a source can be seen through: what is hidden is not heard.
    overrides : mapping, optional
        What surfaces show in place of their layers: that is heard there, and they are not.  A picture that is held goes
        on sounding.

    Returns
    -------
    dict
        Factors by mix and source.
    """
    found: Heard = {mix.id: {} for mix in show.sound.mixes}
    wanted = set().union(*(_surfaces(show, mix) for mix in show.sound.mixes))
    for surface in show.surfaces:
        if surface.id not in wanted:
            continue
        here = [mix for mix in show.sound.mixes if surface.id in _surfaces(show, mix)]
        instead = overrides.get(surface.id)
        if instead is not None and instead.shows != "hold":
            for mix in here if instead.source is not None else ():
                found[mix.id][str(instead.source)] = 1.0
            continue
        for canvas, rect in surface_rects(show, surface.id):
            for layer in visible(show, canvas, state, rect, seen_through):
                for shown, share in shares_in(layer.picture).items():
                    if shown.source is None:
                        continue
                    for mix in here:
                        gain = layer.opacity * share * layer_gain(layer.sound, mix.id)
                        if gain > found[mix.id].get(shown.source, 0.0):
                            found[mix.id][shown.source] = gain
    return found


def _surfaces(show: Show, mix: Mix) -> Set[str]:
    return set(mix.surfaces) if mix.surfaces else {s.id for s in show.surfaces}


def _send(one: SourceSound, mix: str) -> float:
    send = next((s for s in one.sends if s.mix == mix), None)
    if one.mute or (send is not None and send.mute):
        return 0.0
    return gain_of(one.level) * (1.0 if send is None else gain_of(send.level))


def heard(
    stage: Stage,
    state: State,
    listening: str | None = None,
    seen: Heard | None = None,
) -> Heard:
    """By what each source is multiplied in each mix, and in what the operator listens to.

    Parameters
    ----------
    stage : Stage
    state : mapping
        What layers show at that moment.
    listening : str, optional
        A source, sound or mix that the operator listens to.
    seen : dict, optional
        `seen_by_mix` of that state, if it is known already.

    Returns
    -------
    dict
        Factors by mix and source; those of the operator under `LISTEN`.
    """
    show, sound = stage.show, stage.show.sound
    seen = seen_by_mix(show, state, None, stage.overrides) if seen is None else seen
    silent = sound.black_mutes and ALL in stage.black
    made: Heard = {}
    for mix in sound.mixes:
        here = dict(seen.get(mix.id, {}))
        for given in sound.inputs:
            if given.beside is None:
                here[given.id] = 1.0
            elif given.beside in here:
                here[given.id] = here[given.beside]
        for one in sound.sources:
            how = one.heard_in(mix.id)
            if how == "always":
                here[one.of] = 1.0
            elif how == "never":
                here.pop(one.of, None)
        loud = 0.0 if silent or stage.is_muted(mix.id) else gain_of(mix.level)
        gains = {id: gain * _send(sound.of(id), mix.id) * loud for id, gain in here.items()}
        made[mix.id] = {id: gain for id, gain in gains.items() if gain > 0}
    made[LISTEN] = _listened(stage, made, listening)
    return made


def _listened(stage: Stage, made: Heard, listening: str | None) -> dict[str, float]:
    sound = stage.show.sound
    loud = gain_of(sound.listen.level)
    if listening is None:
        listening = sound.listen.otherwise
    if listening is None:
        return {}
    if listening in made:
        return {id: gain * loud for id, gain in made[listening].items()}
    return {listening: loud}


def finishes(show: Show) -> dict[str, Finish]:
    """What becomes of every mix at its end, the operator's among them."""
    made = {m.id: Finish(m.delay / 1000, m.low_cut, m.most) for m in show.sound.mixes}
    return made | {LISTEN: Finish()}
