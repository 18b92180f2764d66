"""Zones: named, ordered sets of surfaces, which may hold other zones."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Fault, Id, Model, Name
from ushering_adze.core.document.wording import choice, shortened


class Zone(Model):
    """A named, ordered set of surfaces; what it ``holds`` are surfaces and other zones."""

    id: Id
    name: Name
    holds: Annotated[tuple[Id, ...], Field(description="ids of surfaces and of zones, in order")] = ()


def zone_faults(given: Sequence[Zone], surfaces: Collection[str]) -> list[Fault]:
    """What is wrong with zones: members that are not there, a zone within itself, one named as a surface.

    Parameters
    ----------
    given : sequence of Zone
    surfaces : collection of str
        Ids of the surfaces there are.

    Returns
    -------
    list of Fault
    """
    faults: list[Fault] = []
    zones = {z.id: z for z in given}

    def reached(id: str, met: set[str]) -> set[str]:
        for inner in zones[id].holds:
            if inner in zones and inner not in met:
                met.add(inner)
                reached(inner, met)
        return met

    for n, zone in enumerate(given):
        if zone.id in surfaces:
            faults.append(Fault(f"zones[{n}].id", f'"{zone.id}" is a surface already; give the zone another id'))
        for m, member in enumerate(zone.holds):
            if member not in surfaces and member not in zones:
                known = [k for k in (*surfaces, *zones) if k != zone.id]
                why = f"no surface or zone {shortened(member)}; {choice(member, known)}"
                faults.append(Fault(f"zones[{n}].holds[{m}]", why))
        if zone.id in reached(zone.id, set()):
            why = f"{zone.name} would lie within itself; take it out of what it holds"
            faults.append(Fault(f"zones[{n}].holds", why))
    return faults


def without_surface(zones: Iterable[Zone], surface: str) -> tuple[Zone, ...]:
    """Zones that do not hold a surface any more."""
    return tuple(
        z.model_copy(update={"holds": tuple(m for m in z.holds if m != surface)}) if surface in z.holds else z
        for z in zones
    )
