"""What zones hold, what uses them, and their edits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.zone import Zone


def members(show: Show, id: str) -> tuple[tuple[str, ...], ...]:
    """The surfaces of a zone, group by group: each surface is a group of its own, each zone within it is one.

    Parameters
    ----------
    show : Show
    id : str
        Of the zone; one that is not there has no members.

    Returns
    -------
    tuple of tuple of str
        Ids of surfaces; each only where it comes first.
    """
    zones, surfaces, met = {z.id: z for z in show.zones}, {s.id for s in show.surfaces}, set[str]()

    def spread(member: str, within: tuple[str, ...]) -> Iterator[str]:
        if member in surfaces:
            if member not in met:
                met.add(member)
                yield member
        elif member in zones and member not in within:
            for inner in zones[member].holds:
                yield from spread(inner, (*within, member))

    zone = zones.get(id)
    groups = [tuple(spread(member, (id,))) for member in zone.holds] if zone is not None else []
    return tuple(group for group in groups if group)


def zones_around(show: Show, surface: str) -> tuple[str, ...]:
    """Ids of the zones that a surface is in, those with the fewest surfaces first.

    Parameters
    ----------
    show : Show
    surface : str
    """
    inside = [(surfaces_in(show, [zone.id]), n, zone.id) for n, zone in enumerate(show.zones)]
    return tuple(id for _, _, id in sorted((len(held), n, id) for held, n, id in inside if surface in held))


def surfaces_in(show: Show, ids: Iterable[str]) -> tuple[str, ...]:
    """Surfaces that are named, by themselves or by zones that hold them, each once.

    Parameters
    ----------
    show : Show
    ids : iterable of str
        Of surfaces and zones; one that the show has not is left out.

    Returns
    -------
    tuple of str
    """
    surfaces = {s.id for s in show.surfaces}
    found = [s for id in ids for s in ([id] if id in surfaces else [s for group in members(show, id) for s in group])]
    return tuple(dict.fromkeys(found))


def names_of_places(show: Show) -> list[str]:
    """Ids that stand for surfaces: theirs, and those of zones."""
    return [*(s.id for s in show.surfaces), *(z.id for z in show.zones)]


def zone_users(show: Show, id: str) -> list[str]:
    """What is dealt out over a zone, or holds it, in words: zones, layers, presets, finishes.

    Parameters
    ----------
    show : Show
    id : str
        Of the zone.

    Returns
    -------
    list of str
    """
    found = [z.name for z in show.zones if id in z.holds]
    for canvas in show.canvases:
        for layer in canvas.layers:
            if any(id in kind.zones(getattr(layer.settings, kind.name)) for kind in KINDS):
                found.append(layer.name)
    found += [f"preset {p.number}" for p in show.presets if any(id in _zones(part.held) for part in p.parts)]
    for finish in show.finishes:
        if any(id in BY_NAME[kind].zones(value) for kind, value in finish.values.items()):
            found.append(f"finish {finish.name}")
    return found


def _zones(held: Iterable[tuple[int, str, object]]) -> set[str]:
    return {id for _, kind, value in held for id in BY_NAME[kind].zones(getattr(value, "to", None))}


def with_zone(show: Show, name: str, holds: Iterable[str]) -> tuple[Show, str]:
    """The show with one more zone, and its id.

    Parameters
    ----------
    show : Show
    name : str
    holds : iterable of str
        Ids of surfaces and zones.

    Returns
    -------
    show : Show
    id : str

    Raises
    ------
    ShowError
        If it would hold nothing, or has no name.
    """
    inside = tuple(dict.fromkeys(holds))
    if not inside:
        raise ShowError([Fault("", "a zone holds surfaces; select some in the room first")])
    if not name.strip():
        raise ShowError([Fault("", "a zone has a name; enter one")])
    id = new_id(name, set(names_of_places(show)))
    return show.model_copy(update={"zones": (*show.zones, Zone(id=id, name=name.strip(), holds=inside))}), id


def with_changed_zone(show: Show, id: str, **fields: object) -> Show:
    """The show with other fields of one zone: its name, what it holds.

    Parameters
    ----------
    show : Show
    id : str
    **fields
        By their names.

    Returns
    -------
    Show

    Raises
    ------
    pydantic.ValidationError
        If a value cannot be.
    """

    return show.model_copy(update={"zones": tuple(changed(z, **fields) if z.id == id else z for z in show.zones)})


def without_zone(show: Show, id: str) -> Show:
    """The show without a zone.

    Parameters
    ----------
    show : Show
    id : str

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If something is dealt out over it.
    """
    users = zone_users(show, id)
    if users:
        listed = ", ".join(users[:5]) + (f" and {len(users) - 5} more" if len(users) > 5 else "")
        raise ShowError([Fault("", f"it is used by {listed}; deal that out over something else first")])
    return show.model_copy(update={"zones": tuple(z for z in show.zones if z.id != id)})
