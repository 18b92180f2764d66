"""Finishes: saved partial settings to lay on any layer, and on a source whenever it is brought in."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from typing import Any

from ushering_adze.core.document.model import Id, Model, Name
from ushering_adze.core.kinds import KINDS
from ushering_adze.core.show.layer import LayerSettings
from ushering_adze.core.show.preset import Part, Settings, with_held


class Finish(Model):
    """Settings of some kinds under a name."""

    id: Id
    name: Name
    holds: Settings = Settings()

    @property
    def values(self) -> dict[str, Any]:
        """What it holds, by kind, as in a document."""
        return {kind: held.to for _, kind, held in Part(canvas="a", layer="a", holds=self.holds).held}


def finish_of(id: str, name: str, settings: LayerSettings, kinds: Collection[str]) -> Finish:
    """A finish made from a layer.

    Parameters
    ----------
    id, name : str
    settings : LayerSettings
        Of the layer.
    kinds : collection of str
        What of them it holds.

    Returns
    -------
    Finish

    Examples
    --------
    >>> finish_of("half", "Half", LayerSettings(opacity=0.5), {"opacity"}).values
    {'opacity': 0.5}
    """
    part = Part(canvas="a", layer="a")
    for kind in KINDS:
        if kind.name in kinds:
            part = with_held(part, kind.name, getattr(settings, kind.name))
    return Finish(id=id, name=name, holds=part.holds)


def laid(finishes: Iterable[Finish]) -> Mapping[str, Any]:
    """What finishes make together, laid one over another: the last that holds a kind has its say.

    Parameters
    ----------
    finishes : iterable of Finish

    Returns
    -------
    mapping
        By kind, as in a document.
    """
    made: dict[str, Any] = {}
    for finish in finishes:
        made |= finish.values
    return made
