"""A preset: chosen layers, chosen kinds of setting in each, and how each of them arrives."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, create_model, model_serializer

from ushering_adze.core.document.model import Colour, Id, Model, Name
from ushering_adze.core.kinds import KINDS
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.show.layer import LayerSettings
from ushering_adze.core.show.way import Way

_SHARE, _NUMBER = r"(0|1|0?\.\d+|1\.0+)", r"-?\d*\.?\d+"
Easing = Annotated[
    str,
    Field(
        pattern=rf"^(linear|ease|ease-in|ease-out|ease-in-out|bezier\({_SHARE}, *{_NUMBER}, *{_SHARE}, *{_NUMBER}\))$",
        description="a curve of CSS by its name, or its handles: bezier(0.3, 0, 0.7, 1)",
        max_length=80,
    ),
]
Seconds = Annotated[float, Field(ge=0, le=3600)]


class Touch(Model):
    """How one kind of setting is treated: left alone, snapped, or faded; ``seconds`` None means the preset's time."""

    how: How = "left"
    seconds: Seconds | None = None


class Held(Model):
    """A setting that a part holds: what it becomes, and how it gets there; ``seconds`` None means the preset's time.

    It waits for ``delay`` seconds first; ``easing`` and, of a picture, ``way`` are the preset's if they are null.
    """

    if TYPE_CHECKING:
        to: Any = None
    how: Literal["snapped", "faded"] = "snapped"
    seconds: Seconds | None = None
    delay: Seconds = 0.0
    easing: Easing | None = None
    way: Way | None = None

    @model_serializer(mode="wrap")
    def _its_own(self, handler: Any) -> Any:
        """What is the preset's is not in the document."""
        return {n: v for n, v in handler(self).items() if n not in ("delay", "easing", "way") or v}


class _Held(Model):
    """By kind; what is not held is not in the document either."""

    @model_serializer(mode="wrap")
    def _only_held(self, handler: Any) -> Any:
        return {name: value for name, value in handler(self).items() if value is not None}


_HELD = {kind.name: create_model(f"Held{kind.name.title()}", __base__=Held, to=(kind.model, ...)) for kind in KINDS}
globals().update({model.__name__: model for model in _HELD.values()})  # for who takes values apart by name

if TYPE_CHECKING:

    class Scope(Model):
        """For each kind of setting of a layer, how a preset treats it."""

        def __init__(self, **kinds: Any) -> None: ...
        def __getattr__(self, name: str) -> Any: ...

    class Settings(_Held):
        """The settings that a part holds, by kind."""

        def __init__(self, **kinds: Any) -> None: ...
        def __getattr__(self, name: str) -> Any: ...
else:
    Scope = create_model(
        "Scope",
        __base__=Model,
        __module__=__name__,
        __doc__="For each kind of setting of a layer, how a preset treats it.",
        **{kind.name: (Touch, Touch(how=kind.usual)) for kind in KINDS},
    )
    Settings = create_model(
        "Settings",
        __base__=_Held,
        __module__=__name__,
        __doc__="The settings that a part holds, by kind.",
        **{kind.name: (_HELD[kind.name] | None, None) for kind in KINDS},
    )


class Part(Model):
    """What a preset stores of one layer: only the kinds it touches."""

    canvas: Id
    layer: Id
    holds: Settings = Settings()

    @cached_property
    def held(self) -> tuple[tuple[int, str, Held], ...]:
        """Of each kind that is held: its place in `KINDS`, its name, and what is held of it."""
        return tuple(
            (n, kind.name, held) for n, kind in enumerate(KINDS) if (held := getattr(self.holds, kind.name)) is not None
        )

    @cached_property
    def known(self) -> dict[tuple[int, int], Any]:
        """What a recall has worked out of this part, by the width and height of its canvas."""
        return {}

    def how(self, kind: str) -> How:
        """How one kind of setting is treated."""
        held: Held | None = getattr(self.holds, kind)
        return "left" if held is None else held.how

    def named(self) -> Iterator[tuple[str, str]]:
        """Every source that it names: the kind, and the source's id."""
        for n, name, held in self.held:
            for source in KINDS[n].named(held.to):
                yield name, source
            if held.way is not None and held.way.source is not None:
                yield name, held.way.source


def part_of(canvas: str, layer: str, settings: LayerSettings = LayerSettings(), scope: Scope = Scope()) -> Part:
    """A part that holds, of whole settings, what a scope does not leave.

    Parameters
    ----------
    canvas, layer : str
        Which layer.
    settings : LayerSettings
    scope : Scope

    Examples
    --------
    >>> part_of("house", "wall", LayerSettings(opacity=0.5), Scope(picture=Touch())).how("picture")
    'left'
    """
    held = {
        kind.name: _HELD[kind.name](to=getattr(settings, kind.name), how=touch.how, seconds=touch.seconds)
        for kind in KINDS
        if (touch := getattr(scope, kind.name)).how != "left"
    }
    return Part(canvas=canvas, layer=layer, holds=Settings(**held))


def with_held(
    part: Part, kind: str, to: Any, how: How = "snapped", seconds: float | None = None, like: Held | None = None
) -> Part:
    """The part with one kind of setting held, or, ``how`` being left, not held any more.

    Parameters
    ----------
    part : Part
    kind : str
        Name of the kind.
    to : object
        What it becomes, as in a document.
    how : {"left", "snapped", "faded"}
    seconds : float, optional
        Its own time; the preset's if not given.
    like : Held, optional
        Whose times, curve and way it has.
    """
    held = None if how == "left" else _HELD[kind](to=to, how=how, seconds=seconds)
    if held is not None and like is not None:
        own = {name: getattr(like, name) for name in ("seconds", "delay", "easing", "way")}
        held = held.model_copy(update=own)
    return part.model_copy(update={"holds": part.holds.model_copy(update={kind: held})})


class Preset(Model):
    """A recallable picture.  ``clears`` names canvases whose layers, if not stored here, fade to nothing."""

    id: Id
    number: Annotated[int, Field(ge=1, le=9999)]
    name: Name
    seconds: Seconds = 1.0
    easing: Easing = "ease-in-out"
    way: Annotated[Way | None, Field(description="of its pictures; they dissolve if null")] = None
    parts: tuple[Part, ...] = ()
    clears: tuple[Id, ...] = ()
    note: Annotated[str, Field(max_length=400)] = ""
    colour: Annotated[Colour | None, Field(description="of its card")] = None
    page: Annotated[str, Field(max_length=40, description="of the deck on which its card lies, by name")] = ""
    key: Annotated[
        str | None,
        Field(pattern=r"^(Shift\+)?F([3-9]|1[0-2])$", description="a function key that recalls it at once, such as F6"),
    ] = None

    @cached_property
    def known(self) -> dict[Any, Any]:
        """What a recall has worked out of it, by the canvases of the show that it belongs to."""
        return {}

    @model_serializer(mode="wrap")
    def _what_it_has(self, handler: Any) -> Any:
        """What it has not is not in the document."""
        return {n: v for n, v in handler(self).items() if n not in ("way", "note", "colour", "page", "key") or v}
