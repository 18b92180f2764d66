"""Edits of what is rigged: sources, outputs and surfaces added, renamed, duplicated, reordered, removed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, TypeVar, cast

from pydantic import ValidationError

from ushering_adze.core.document.model import LONGEST, Fault, Model, ShowError
from ushering_adze.core.document.wording import sentence
from ushering_adze.core.show.feed import Feed, Shows
from ushering_adze.core.show.layer import sources_named, sources_of_ways
from ushering_adze.core.show.output import Output
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.sound import sound_without
from ushering_adze.core.show.source import (
    Clip,
    Clock,
    ColourSource,
    Countdown,
    Input,
    Parts,
    PatternSource,
    Source,
    Text,
    named_by,
)
from ushering_adze.core.show.surface import Projection, Surface
from ushering_adze.core.show.zone import without_surface

Shelf = Literal["sources", "outputs", "surfaces", "feeds"]
Item = Source | Output | Surface | Feed
M = TypeVar("M", bound=Model)


def shelf_of(show: Show, id: str, shelf: Shelf) -> tuple[Item, ...]:
    """One of the three lists.  Raises KeyError if it has no item of this id.

    Parameters
    ----------
    show : Show
    id : str
        Of the item.
    shelf : Shelf
        Which of the lists of the rig.

    Returns
    -------
    tuple[Item, ...]
    """
    items = cast(tuple[Item, ...], getattr(show, shelf))
    if not any(item.id == id for item in items):
        raise KeyError(id)
    return items


def item_of(show: Show, shelf: Shelf, id: str) -> Item | None:
    """A source, output or surface by its id.

    Parameters
    ----------
    show : Show
    shelf : Shelf
        Which of the lists of the rig.
    id : str
        Of the item.

    Returns
    -------
    Item | None
    """
    return next((item for item in cast(tuple[Item, ...], getattr(show, shelf)) if item.id == id), None)


def sentence_of(error: ValidationError) -> str:
    """The first complaint of a check, in one sentence, without the name of a class."""
    first = error.errors(include_url=False)[0]
    field = next((str(step) for step in reversed(first["loc"]) if isinstance(step, str)), "")
    limits = first.get("ctx", {})
    name = field.replace("_", " ")
    for key, verb in (("ge", "at least"), ("gt", "above"), ("le", "at most"), ("lt", "below")):
        if key in limits:
            return f"{name} must be {verb} {limits[key]:g}; type another number"
    words = sentence(cast(Mapping[str, Any], first))
    return f"{name} {words}" if field and first["type"] != "value_error" else words


def told(error: Exception) -> str:
    """Whatever was raised, in one sentence for the user; never a library's own text."""
    if isinstance(error, ValidationError):
        return sentence_of(error)
    if isinstance(error, MemoryError):
        return "there is not enough memory for that; close other programs, or make it smaller"
    text = " ".join(str(error).split())
    return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


def with_field(item: M, path: str, value: object) -> M:
    """The same value with one field, named like ``cabinet.width_mm`` or ``projectors.0.lumens``, changed and checked.

    Parameters
    ----------
    item : Model
        The item as it is.
    path : str
        Where in the document.
    value : object
        The value.

    Returns
    -------
    Model

    Raises
    ------
    ShowError
        Naming the field and its limit.
    """

    def put(model: Any, steps: list[str]) -> Any:
        if isinstance(model, tuple):
            n = int(steps[0])
            return (*model[:n], value if len(steps) == 1 else put(model[n], steps[1:]), *model[n + 1 :])
        fields = {k: getattr(model, k) for k in type(model).model_fields}
        fields[steps[0]] = value if len(steps) == 1 else put(fields[steps[0]], steps[1:])
        return type(model).model_validate(fields)

    try:
        return cast(M, put(item, path.split(".")))
    except ValidationError as error:
        raise ShowError([Fault("", sentence_of(error))]) from None


def field_of(item: object, path: str) -> Any:
    """The value at such a path.

    Parameters
    ----------
    item : object
        The item as it is.
    path : str
        Where in the document.

    Returns
    -------
    Any
    """
    for step in path.split("."):
        item = item[int(step)] if isinstance(item, tuple) else getattr(item, step)
    return item


def with_item(show: Show, shelf: Shelf, item: Item) -> Show:
    """The show with the item of this id replaced, or added at the end if it is new.

    Parameters
    ----------
    show : Show
    shelf : Shelf
        Which of the lists of the rig.
    item : Item
        The item as it is.

    Returns
    -------
    Show
        With the edit.
    """
    items = cast(tuple[Item, ...], getattr(show, shelf))
    if any(i.id == item.id for i in items):
        items = tuple(item if i.id == item.id else i for i in items)
    else:
        items = (*items, item)
    return show.model_copy(update={shelf: items})


def without_item(show: Show, shelf: Shelf, id: str) -> Show:
    """The show with one item removed, and with it the regions it fed or that fed it, and the feeds that show it.

    Parameters
    ----------
    show : Show
    shelf : Shelf
        Which of the lists of the rig.
    id : str
        Of the item.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If a layer or preset shows the source.
    """
    items = tuple(i for i in shelf_of(show, id, shelf) if i.id != id)
    if shelf == "sources":
        users = [
            f"layer {layer.name}"
            for c in show.canvases
            for layer in c.layers
            if id in (*sources_named(layer.settings), *sources_of_ways(layer))
        ]
        users += [
            f"preset {p.number}" for p in show.presets for part in p.parts if id in {named for _, named in part.named()}
        ]
        made_of = [s for s in show.sources if s.id != id and any(id in ids for ids in named_by(s).values())]
        users += [f"source {s.name}" for s in made_of]
        users += [f"feed {f.name}" for f in show.feeds if (f.shows == "source" and f.of == id) or f.heard_by == id]
        users += [f"{s.name} as its backup" for s in show.sources if s.id != id and s.when_lost.backup == id]
        if users:
            name = show.source(id).name
            raise ShowError(
                [
                    Fault(
                        name,
                        f"it is shown by {users[0]}{f' and {len(users) - 1} more' if len(users) > 1 else ''}; "
                        "give those another source first",
                    )
                ]
            )
        return show.model_copy(update={shelf: items, "sound": sound_without(show.sound, source=id)})
    if shelf == "feeds":
        return show.model_copy(update={shelf: items})
    field = "output" if shelf == "outputs" else "surface"
    canvases = tuple(
        c.model_copy(update={"regions": tuple(r for r in c.regions if getattr(r, field) != id)}) for c in show.canvases
    )
    feeds = tuple(f for f in show.feeds if not (f.shows == field and f.of == id))
    zones = without_surface(show.zones, id) if shelf == "surfaces" else show.zones
    sound = sound_without(show.sound, surface=id) if shelf == "surfaces" else show.sound
    return show.model_copy(update={shelf: items, "canvases": canvases, "feeds": feeds, "zones": zones, "sound": sound})


def moved_item(show: Show, shelf: Shelf, id: str, by: int) -> Show:
    """The show with one item further up (negative) or down its list.

    Parameters
    ----------
    show : Show
    shelf : Shelf
        Which of the lists of the rig.
    id : str
        Of the item.
    by : int
        Places down the list; negative for up.

    Returns
    -------
    Show
        With the edit.
    """
    items = list(shelf_of(show, id, shelf))
    at = next(n for n, i in enumerate(items) if i.id == id)
    to = min(len(items) - 1, max(0, at + by))
    items.insert(to, items.pop(at))
    return show.model_copy(update={shelf: tuple(items)})


def fresh_source(show: Show, kind: str, id: str, name: str) -> Source:
    """A source of a kind that needs no file, with plain values.

    Parameters
    ----------
    show : Show
    kind : str
        Of ``text``, ``clock``, ``colour``, ``pattern``, ``countdown``, ``parts``.
    id : str
    name : str

    Returns
    -------
    Source

    Raises
    ------
    ShowError
        If a source of parts has no inputs to be made of.
    """
    match kind:
        case "text":
            return Text(id=id, name=name, words="Words for the screen")
        case "clock":
            return Clock(id=id, name=name)
        case "colour":
            return ColourSource(id=id, name=name, fill="#0E1230")
        case "pattern":
            return PatternSource(id=id, name=name, pattern="grid")
        case "countdown":
            return Countdown(id=id, name=name)
    inputs = [s.id for s in show.sources if isinstance(s, (Input, Clip))][:2]
    if len(inputs) < 2:
        raise ShowError([Fault(name, "parts are put together from other sources; add two inputs or clips first")])
    return Parts(id=id, name=name, parts=tuple(inputs))


def fresh_feed(show: Show, id: str, name: str) -> Feed:
    """A feed of the first thing there is to send, recorded beside the show.

    Parameters
    ----------
    show : Show
    id : str
    name : str

    Returns
    -------
    Feed

    Raises
    ------
    ShowError
        If there is nothing to send.
    """
    kinds: tuple[tuple[Shows, tuple[Item, ...]], ...] = (
        ("surface", tuple(s for s in show.surfaces if s.kind == "stream")),
        ("surface", show.surfaces),
        ("output", show.outputs),
        ("source", show.sources),
    )
    for shows, items in kinds:
        if items:
            return Feed(id=id, name=name, shows=shows, of=items[0].id, to=f"recordings/{id}.mp4")
    raise ShowError([Fault(name, "there is nothing to send yet; add a surface, an output or a source first")])


def free_number(show: Show) -> int:
    """The first output number that is not used."""
    used = {o.number for o in show.outputs}
    return next(n for n in range(1, 1000) if n not in used)


def free_name(name: str, used: set[str]) -> str:
    """A name that is not used yet: the same, or with the next number.

    Parameters
    ----------
    name : str
        What it is called.
    used : set[str]
        What is used already.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> free_name("West mast", {"West mast", "West mast 2"})
    'West mast 3'
    """
    if name not in used:
        return name
    words = name.rsplit(" ", 1)
    base = words[0] if len(words) == 2 and words[1].isdigit() else name
    return next(f"{base} {n}" for n in range(2, 10**6) if f"{base} {n}" not in used)


def duplicated(show: Show, shelf: Shelf, id: str, fresh_id: str) -> Show:
    """The show with a copy of an item after it: under the next free name, unbound, and beside the original if it hangs
    in the room.

    Parameters
    ----------
    show : Show
    shelf : Shelf
        Which of the lists of the rig.
    id : str
        Of the item.
    fresh_id : str
        Of the copy.

    Returns
    -------
    Show
        With the edit.
    """
    items = shelf_of(show, id, shelf)
    at = next(n for n, i in enumerate(items) if i.id == id)
    old = items[at]
    update: dict[str, Any] = {"id": fresh_id, "name": free_name(old.name, {i.name for i in items})}
    if isinstance(old, Output):
        update |= {"number": free_number(show), "binding": None, "connector": None, "gang": None, "mirrors": ()}
    elif shelf == "surfaces" and getattr(old, "place", None) is not None:
        surface = cast(Projection, old)
        place, size = surface.place, surface.size_mm
        assert place is not None
        update["place"] = place.model_copy(update={"x_mm": place.x_mm + size[0] + 200})
    elif hasattr(old, "connector"):
        update |= {"connector": None, "gang": None}
    return show.model_copy(update={shelf: (*items[: at + 1], old.model_copy(update=update), *items[at + 1 :])})
