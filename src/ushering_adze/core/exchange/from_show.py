"""Presets of another show brought into this one, with the layers, sources, finishes and zones that they need."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from functools import cache
from typing import Any, Literal, NamedTuple, TypeVar

from pydantic import TypeAdapter

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show import Canvas, Finish, Layer, LayerSettings, Part, Picture, Show, Source, Zone
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.layer import sources_named, sources_of_ways
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.variants import free_number_after, preset_of, with_preset

Same = Literal["here", "bring"]
"""What becomes of what both shows have and that differs: this show's is used, or the other's is brought as a copy."""
_OF_SOURCES = {"source", "sources", "mask", "follow", "follows", "parts", "keys", "backup"}


@cache
def _reader() -> TypeAdapter[Any]:
    """Reads sources; made when the first is met."""
    return TypeAdapter(Source)


Item = TypeVar("Item", Source, Finish, Zone)


class Needs(NamedTuple):
    """What presets need: layers by canvas and id, and the others by their ids."""

    layers: tuple[tuple[str, str], ...]
    sources: tuple[str, ...]
    finishes: tuple[str, ...]
    zones: tuple[str, ...]


def needs_of(show: Show, numbers: Collection[int]) -> Needs:
    """What presets of a show need to be what they are.

    Parameters
    ----------
    show : Show
    numbers : collection of int

    Returns
    -------
    Needs
        Each in the order of the show.

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    presets = [preset_of(show, n) for n in numbers]
    parts = [part for preset in presets for part in preset.parts]
    named = {id for part in parts for _, id in part.named()}
    named |= {p.way.source for p in presets if p.way is not None and p.way.source is not None}
    wanted = {(p.canvas, p.layer) for p in parts}
    layers = [y for c in show.canvases for y in c.layers if (c.id, y.id) in wanted]
    bare = [_bare_settings(y.settings) for y in layers]
    named |= {id for settings in bare for id in sources_named(settings)}
    named |= {id for layer in layers for id in sources_of_ways(layer)}
    sources = show.leading_to(named)
    finishes = {f for s in show.sources if s.id in sources for f in s.finishes}
    zones = {held.to.zone for part in parts for _, kind, held in part.held if kind == "spread" and held.to.zone}
    zones |= {settings.spread.zone for settings in bare if settings.spread.zone is not None}
    return Needs(
        tuple((c.id, y.id) for c in show.canvases for y in c.layers if (c.id, y.id) in wanted),
        tuple(s.id for s in show.sources if s.id in sources),
        tuple(f.id for f in show.finishes if f.id in finishes),
        tuple(z.id for z in show.zones if z.id in _within(show, zones)),
    )


def _within(show: Show, zones: Iterable[str]) -> set[str]:
    """Zones, and those that they hold."""
    known, found = {z.id: z for z in show.zones}, set[str]()
    waiting = list(zones)
    while waiting:
        id = waiting.pop()
        if id in known and id not in found:
            found.add(id)
            waiting += known[id].holds
    return found


def in_conflict(show: Show, other: Show, numbers: Collection[int]) -> tuple[str, ...]:
    """Names of what presets of another show need, that this show has under the same id, and otherwise.

    Parameters
    ----------
    show, other : Show
    numbers : collection of int
        Of the other's presets.

    Returns
    -------
    tuple of str
    """
    needs = needs_of(other, numbers)
    found = []
    for field, ids in (("sources", needs.sources), ("finishes", needs.finishes), ("zones", needs.zones)):
        mine = {item.id: item for item in getattr(show, field)}
        found += [i.name for i in getattr(other, field) if i.id in ids and i.id in mine and mine[i.id] != i]
    for canvas, layer in needs.layers:
        here = _canvas_here(show, other.canvas(canvas))
        theirs = next(y for y in other.canvas(canvas).layers if y.id == layer)
        if here is not None and any(y.id == layer and y.name != theirs.name for y in here.layers):
            found.append(theirs.name)
    return tuple(found)


def _canvas_here(show: Show, theirs: Canvas) -> Canvas | None:
    """The canvas of this show that stands for one of another's: of the same id, else of the same name."""
    by_id = next((c for c in show.canvases if c.id == theirs.id), None)
    return by_id or next((c for c in show.canvases if c.name == theirs.name), None)


def brought(show: Show, other: Show, numbers: Collection[int], same: Same = "here") -> tuple[Show, dict[int, int]]:
    """The show with presets of another one, and with what they need.

    Layers come onto the canvas of the same id or name, and show nothing by themselves; a canvas that is not here comes
    without regions.  Zones come with the surfaces that are here.

    Parameters
    ----------
    show, other : Show
    numbers : collection of int
        Of the other's presets.
    same : {"here", "bring"}
        For what both have and that differs.

    Returns
    -------
    show : Show
    numbers : dict of int
        Under which number each preset is here.

    Raises
    ------
    ShowError
        If there is no such preset, or a zone would hold nothing.
    """
    needs = needs_of(other, numbers)
    finishes, finish_ids = _merged(show.finishes, other.finishes, needs.finishes, same, lambda f: f)
    zones, zone_ids = _zones(show, other, needs.zones, same)
    names = {"finishes": finish_ids}

    def source_of(ids: Mapping[str, str]) -> Callable[[Source], Source]:
        maps = {**names, **dict.fromkeys(_OF_SOURCES, ids)}
        return lambda source: _reader().validate_python(_renamed(source.model_dump(mode="json"), maps))

    _, source_ids = _merged(show.sources, other.sources, needs.sources, same, lambda s: s)
    sources, _ = _merged(show.sources, other.sources, needs.sources, same, source_of(source_ids))
    made = show.model_copy(update={"finishes": finishes, "zones": zones, "sources": sources})
    maps = {**dict.fromkeys(_OF_SOURCES, source_ids), "zone": zone_ids}
    made, canvas_ids, layer_ids = _with_layers(made, other, needs, same, maps)
    under: dict[int, int] = {}
    for number in numbers:
        theirs = preset_of(other, number)
        fresh = number if made.preset(number) is None else free_number_after(made, number)
        under[number] = fresh
        parts = []
        for part in theirs.parts:
            document = _renamed(part.model_dump(mode="json"), maps)
            at = {"canvas": canvas_ids[part.canvas], "layer": layer_ids[part.canvas, part.layer]}
            parts.append(Part.model_validate({**document, **at}))
        clears = (canvas_ids.get(c, c) for c in theirs.clears)
        known = {c.id for c in made.canvases}
        keys = {p.key for p in made.presets}
        update: dict[str, object] = {
            "id": new_id(theirs.id, {p.id for p in made.presets}),
            "number": fresh,
            "name": free_name(theirs.name, {p.name for p in made.presets}),
            "parts": tuple(parts),
            "clears": tuple(c for c in clears if c in known),
            "key": None if theirs.key in keys else theirs.key,
        }
        if theirs.way is not None and theirs.way.source is not None:
            update["way"] = theirs.way.model_copy(update={"source": source_ids[theirs.way.source]})
        made = with_preset(made, changed(theirs, **update))
    return made, under


def _renamed(document: Any, maps: Mapping[str, Mapping[str, str]], key: str = "") -> Any:
    """A document with other ids, by the names of the fields that hold them."""
    if isinstance(document, dict):
        return {name: _renamed(value, maps, name) for name, value in document.items()}
    if isinstance(document, list):
        return [_renamed(value, maps, key) for value in document]
    return maps[key].get(document, document) if key in maps and isinstance(document, str) else document


def _merged(
    mine: tuple[Item, ...],
    theirs: tuple[Item, ...],
    wanted: Collection[str],
    same: Same,
    made: Callable[[Item], Item],
) -> tuple[tuple[Item, ...], dict[str, str]]:
    """A list with what is wanted of another one, and under which id each is in it."""
    held, ids = {item.id: item for item in mine}, dict[str, str]()
    result = list(mine)
    for item in theirs:
        if item.id not in wanted:
            continue
        there = held.get(item.id)
        if there is not None and (same == "here" or there == item):
            ids[item.id] = item.id
            continue
        id = item.id if there is None else new_id(item.id, {i.id for i in result})
        name = free_name(item.name, {i.name for i in result})
        ids[item.id] = id
        result.append(made(item).model_copy(update={"id": id, "name": name}))
    return tuple(result), ids


def _zones(show: Show, other: Show, wanted: Collection[str], same: Same) -> tuple[tuple[Zone, ...], dict[str, str]]:
    """Zones with those that are wanted of another show; they hold surfaces that are here, and zones that come too."""
    surfaces = {s.id for s in show.surfaces}
    _, ids = _merged(show.zones, other.zones, wanted, same, lambda z: z)

    def fitted(zone: Zone) -> Zone:
        holds = tuple(ids.get(h, h) for h in zone.holds if h in surfaces or h in ids)
        if not holds:
            raise ShowError([Fault(zone.name, "it holds no surface that this show has; make its surfaces first")])
        return zone.model_copy(update={"holds": holds})

    return _merged(show.zones, other.zones, wanted, same, fitted)


def _with_layers(
    show: Show, other: Show, needs: Needs, same: Same, maps: Mapping[str, Mapping[str, str]]
) -> tuple[Show, dict[str, str], dict[tuple[str, str], str]]:
    """The show with the layers that are needed, each on the canvas that stands for its own; and their ids."""
    canvases = {c.id: c for c in show.canvases}
    canvas_ids: dict[str, str] = {}
    layer_ids: dict[tuple[str, str], str] = {}
    for key in needs.layers:
        theirs = other.canvas(key[0])
        layer = next(y for y in theirs.layers if y.id == key[1])
        if key[0] not in canvas_ids:
            there = _canvas_here(show, theirs)
            id = new_id(theirs.id, set(canvases)) if there is None else there.id
            if there is None:
                canvases[id] = theirs.model_copy(update={"id": id, "layers": (), "regions": ()})
            canvas_ids[key[0]] = id
        canvas = canvases[canvas_ids[key[0]]]
        mine = next((y for y in canvas.layers if y.id == layer.id), None)
        if mine is not None and (same == "here" or mine.name == layer.name):
            layer_ids[key] = layer.id
            continue
        layer_ids[key] = id = new_id(layer.id, {y.id for y in canvas.layers})
        canvases[canvas.id] = canvas.model_copy(update={"layers": (*canvas.layers, _bare(layer, id, canvas, maps))})
    return show.model_copy(update={"canvases": tuple(canvases.values())}), canvas_ids, layer_ids


def _bare_settings(settings: LayerSettings) -> LayerSettings:
    """Settings of a layer that shows nothing by itself: it must not be on air because it came."""
    return settings.model_copy(update={"picture": Picture()})


def _bare(layer: Layer, id: str, canvas: Canvas, maps: Mapping[str, Mapping[str, str]]) -> Layer:
    """A layer under another id, for a canvas."""
    bare = layer.model_copy(update={"settings": _bare_settings(layer.settings)})
    document = _renamed(bare.model_dump(mode="json"), maps)
    return Layer.model_validate({**document, "id": id, "name": free_name(layer.name, {y.name for y in canvas.layers})})
