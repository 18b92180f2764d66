"""What can be entered of the kinds of settings, read from their models: a new kind needs nothing here."""

from __future__ import annotations

from dataclasses import dataclass, replace
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from ushering_adze.core.kinds.kind import Kind
from ushering_adze.core.show import LayerSettings
from ushering_adze.core.show.rigging import with_field

PER_CENT = {"left", "top", "right", "bottom", "opacity"}
"""Fractions that are typed in per cent."""
LEFT_OUT = {"unit"}


@dataclass(frozen=True)
class Field:
    """One value within a kind: its path there, empty where the kind is a plain value; and what can be entered."""

    kind: str
    path: str
    form: Literal["number", "choice", "text", "source", "zone", "sources", "fits", "points", "mixes"]
    choices: tuple[tuple[str, Any], ...] = ()
    factor: float = 1.0
    only: type[BaseModel] | None = None
    """Of a kind whose value is one of several models: the one that has it."""

    @property
    def key(self) -> tuple[str, str]:
        """By which its editor is found."""
        return self.kind, self.path if self.only is None else f"{self.only.__name__}.{self.path}"

    def there(self, settings: LayerSettings) -> bool:
        """Whether settings have it at all."""
        return self.only is None or isinstance(getattr(settings, self.kind), self.only)

    @property
    def short(self) -> bool:
        """Whether half a line is enough for it beside its name."""
        words = max((len(words) for words, _ in self.choices), default=0)
        return self.form in ("number", "sources", "fits") or (self.form == "choice" and words <= 4)

    def of(self, settings: LayerSettings) -> Any:
        """Its value in settings."""
        value = getattr(settings, self.kind)
        for step in self.path.split(".") if self.path else ():
            value = getattr(value, step)
        return value

    def put(self, settings: LayerSettings, value: Any) -> Any:
        """The kind's value with another one here.  Raises ShowError."""
        made: Any = with_field(settings, f"{self.kind}.{self.path}" if self.path else self.kind, value)
        return getattr(made, self.kind)


def _plain(annotation: Any) -> Any:
    """A type without what is said of it beside."""
    while get_origin(annotation) is Annotated:
        annotation = get_args(annotation)[0]
    if get_origin(annotation) in (Union, UnionType):
        kept = [a for a in get_args(annotation) if a is not NoneType]
        return _plain(kept[0]) if len(kept) == 1 else annotation
    return annotation


def _field(kind: Kind, path: str, annotation: Any) -> Field:
    plain = _plain(annotation)
    name = path or kind.name
    factor = 100.0 if name.rsplit(".", 1)[-1] in PER_CENT else 1.0
    if get_origin(plain) in (Union, UnionType):  # one of several models, or none
        choices = [(str(get_args(m.model_fields["by"].annotation)[0]), m) for m in _models(plain)]
        return Field(kind.name, path, "choice", (("none", None), *choices))
    if get_origin(plain) is Literal:
        return Field(kind.name, path, "choice", tuple((str(a).replace("-", " "), a) for a in get_args(plain)))
    if plain is bool:
        return Field(kind.name, path, "choice", (("no", False), ("yes", True)))
    if plain in (float, int):
        return Field(kind.name, path, "number", factor=factor)
    if name in ("source", "mask", "zone", "sources", "fits", "points", "mixes"):
        return Field(kind.name, path, "source" if name == "mask" else name)  # type: ignore[arg-type]
    return Field(kind.name, path, "text")


def _by_choice(kind: Kind) -> type[BaseModel] | None:
    """The model of a kind whose value is of it or none."""
    found = get_args(kind.model)
    model = _plain(found[0]) if len(found) == 2 and found[1] is NoneType else None
    return model if isinstance(model, type) and issubclass(model, BaseModel) else None


def _models(union: Any) -> list[type[BaseModel]]:
    """The models of which a value is one."""
    plain = [_plain(a) for a in get_args(union) if a is not NoneType]
    found = [m for p in plain for m in (_models(p) if get_origin(p) in (Union, UnionType) else [p])]
    return [m for m in found if isinstance(m, type) and issubclass(m, BaseModel)]


def fields_of(kind: Kind) -> tuple[Field, ...]:
    """What can be entered of a kind, read from its model: a new kind needs nothing here."""
    one = _by_choice(kind)
    if one is not None:
        own = [replace(_field(kind, n, f.rebuild_annotation()), only=one) for n, f in one.model_fields.items()]
        return (Field(kind.name, "", "choice", (("as the source", None), ("its own", one))), *own)
    model = _plain(kind.model)
    if get_origin(model) in (Union, UnionType):
        own = [
            replace(_field(kind, name, f.rebuild_annotation()), only=one)
            for one in _models(model)
            for name, f in one.model_fields.items()
            if name != "by"
        ]
        return (_field(kind, "", kind.model), *own)
    if not (isinstance(model, type) and issubclass(model, BaseModel)):
        return (_field(kind, "", kind.model),)
    return tuple(
        _field(kind, name, f.rebuild_annotation()) for name, f in model.model_fields.items() if name not in LEFT_OUT
    )
