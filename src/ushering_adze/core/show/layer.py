"""A layer of a canvas and everything about it that a preset can store."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field, create_model, model_serializer

from ushering_adze.core.document.model import Colour, Id, Model, Name
from ushering_adze.core.kinds import KINDS
from ushering_adze.core.show.way import Way

if TYPE_CHECKING:

    class LayerSettings(Model):
        """A value of every kind of setting."""

        def __init__(self, **kinds: Any) -> None: ...
        def __getattr__(self, name: str) -> Any: ...
else:
    LayerSettings = create_model(
        "LayerSettings",
        __base__=Model,
        __module__=__name__,
        __doc__="A value of every kind of setting.",
        **{kind.name: (kind.model, kind.default) for kind in KINDS},
    )


def sources_named(settings: LayerSettings) -> tuple[str, ...]:
    """Ids of the sources that settings name."""
    return tuple(id for kind in KINDS for id in kind.named(getattr(settings, kind.name)))


def sources_of_ways(layer: Layer) -> tuple[str, ...]:
    """Ids of the sources by whose pictures a layer appears and disappears."""
    return tuple(way.source for way in (layer.comes, layer.goes) if way is not None and way.source is not None)


class Layer(Model):
    """One layer of a canvas.  Layers lie in the order of the canvas' list, the first at the bottom."""

    id: Id
    name: Name
    colour: Colour = "#9FB0B1"
    locked: Annotated[bool, Field(description="the hand does not move it; presets do")] = False
    group: Annotated[str, Field(max_length=80, description="layers of one group are selected together")] = ""
    settings: LayerSettings = LayerSettings()
    comes: Annotated[Way | None, Field(description="how it appears; it fades in if null")] = None
    goes: Annotated[Way | None, Field(description="how it disappears; it fades out if null")] = None

    @model_serializer(mode="wrap")
    def _what_it_has(self, handler: Any) -> Any:
        """A way that it has not is not in the document."""
        return {n: v for n, v in handler(self).items() if n not in ("comes", "goes") or v}
