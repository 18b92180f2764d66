"""What is odd in a plan: pictures that were forgotten, sources that are lost, and what should not be on a stream."""

from __future__ import annotations

from collections.abc import Set

from ushering_adze.core.onair.planning import Plan
from ushering_adze.core.show import Show, Stream
from ushering_adze.core.show.zoning import surfaces_in

FORGOTTEN = 4
"""Cues over which a surface shows the same while all its neighbours change, from which it may have been forgotten."""


def neighbours(show: Show, surface: str) -> tuple[str, ...]:
    """The other surfaces of the smallest zone that a surface is in with others; none if there is no such zone."""
    zones = [found for z in show.zones if surface in (found := surfaces_in(show, (z.id,))) and len(found) > 1]
    smallest = min(zones, key=len, default=())
    return tuple(s for s in smallest if s != surface)


def oddities(
    show: Show, plan: Plan, lost: Set[str] = frozenset(), replaced: Set[str] = frozenset()
) -> dict[tuple[str, int], tuple[str, ...]]:
    """What is odd in the cells of a plan.

    Parameters
    ----------
    show : Show
    plan : Plan
    lost, replaced : set of str
        Ids of sources that are lost now, and of those that another stands in for.

    Returns
    -------
    dict
        By surface and the place of the cue: sentences, the gravest first.
    """
    found: dict[tuple[str, int], tuple[str, ...]] = {}
    streams = {s.id for s in show.surfaces if isinstance(s, Stream)}
    inside = {s.id for s in show.sources if s.not_on_streams}
    names = {s.id: s.name for s in show.sources}
    for surface, cells in plan.cells.items():
        beside = neighbours(show, surface)
        for n, cell in enumerate(cells):
            words = [f"{names[id]} is lost" for id in cell.ids if id in lost]
            words += [f"another source stands in for {names[id]}" for id in cell.ids if id in replaced]
            if surface in streams:
                words += [f"{names[id]} is not meant for a stream" for id in cell.ids if id in inside]
                if not cell.ids or cell.state == "black":
                    words.append("the stream is black")
            if (
                beside
                and cell.since == FORGOTTEN
                and cell.ids
                and all(
                    any(plan.cells[s][k].changed for k in range(max(0, n - FORGOTTEN + 1), n + 1))
                    for s in beside
                    if s in plan.cells
                )
            ):
                words.append(f"the same for {cell.since} cues, while all beside it changed")
            if words:
                found[surface, n] = tuple(words)
    return found
