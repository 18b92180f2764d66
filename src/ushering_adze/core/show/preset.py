"""A preset: chosen layers, chosen kinds of setting in each, and how each of them arrives."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field

from ushering_adze.core.show.base import Id, Model, Name
from ushering_adze.core.show.layer import LayerSettings

Kind = Literal["picture", "place", "crop", "opacity", "border"]
KINDS: tuple[Kind, ...] = ("picture", "place", "crop", "opacity", "border")
Easing = Literal["linear", "ease", "ease-in", "ease-out", "ease-in-out"]
Seconds = Annotated[float, Field(ge=0, le=3600)]


class Touch(Model):
    """How one kind of setting is treated: left alone, snapped, or faded; ``seconds`` None means the preset's time."""

    how: Literal["left", "snapped", "faded"] = "left"
    seconds: Seconds | None = None


class Scope(Model):
    """For each kind of setting of a layer, how a preset treats it."""

    picture: Touch = Touch(how="faded")
    place: Touch = Touch(how="snapped")
    crop: Touch = Touch(how="snapped")
    opacity: Touch = Touch(how="faded")
    border: Touch = Touch(how="snapped")

    @cached_property
    def touched(self) -> tuple[tuple[int, Kind, bool, float | None], ...]:
        """Of each kind that is not left alone: its place in `KINDS`, the kind, whether it fades, and its own seconds."""
        return tuple((n, kind, touch.how == "faded", touch.seconds) for n, kind in enumerate(KINDS)
                     if (touch := self.touch(kind)).how != "left")

    def touch(self, kind: Kind) -> Touch:
        """The treatment of one kind of setting."""
        found: Touch = getattr(self, kind)
        return found


class Part(Model):
    """What a preset stores of one layer, with its scope."""

    canvas: Id
    layer: Id
    settings: LayerSettings = LayerSettings()
    scope: Scope = Scope()

    @cached_property
    def known(self) -> dict[tuple[int, int], Any]:
        """What a recall has worked out of this part, by the width and height of its canvas."""
        return {}


class Preset(Model):
    """A recallable picture.  ``clears`` names canvases whose layers, if not stored here, fade to nothing."""

    id: Id
    number: Annotated[int, Field(ge=1, le=9999)]
    name: Name
    seconds: Seconds = 1.0
    easing: Easing = "ease-in-out"
    parts: tuple[Part, ...] = ()
    clears: tuple[Id, ...] = ()
