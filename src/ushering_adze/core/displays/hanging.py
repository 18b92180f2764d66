"""Hanging surfaces elsewhere in the room."""

from __future__ import annotations

from ushering_adze.core.show import RoomPlace, Show
from ushering_adze.core.show.rigging import with_field, with_item

STEP_MM = 10.0


def _lines(start: float, length: float) -> tuple[float, float, float]:
    return start, start + length / 2, start + length


def _snapped(start: float, length: float, others: list[tuple[float, float, float]], near: float) -> float:
    """The start moved to where an edge or the middle meets one of another thing, if any is near; else to
    whole steps.
    """
    best: float | None = None
    for mine in _lines(0.0, length):
        for lines in others:
            for line in lines:
                off = line - (start + mine)
                if abs(off) <= near and (best is None or abs(off) < abs(best)):
                    best = off
    return start + best if best is not None else round(start / STEP_MM) * STEP_MM


def hang_by(show: Show, surface: str, dx: float, dy: float, near: float) -> tuple[float, float]:
    """How far a surface moves that is dragged by some millimetres, to the right and up.

    Edges and middles snap to those of other surfaces, to the floor, and to the room's walls and middle, within ``near``
    mm; else the place is rounded to 10 mm.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    dx : float
        Columns to the right.
    dy : float
        Rows down.
    near : float
        How near, in pixels, counts.

    Returns
    -------
    tuple[float, float]

    Examples
    --------
    >>> from ushering_adze.core.show import Monitor
    >>> m = Monitor(id="m", name="M", place=RoomPlace(x_mm=100, foot_mm=300), width=1920, height=1080, width_mm=1000,
    ...     height_mm=600)
    >>> hang_by(Show(name="S", surfaces=[m]), "m", -93, 4, 20)
    (-100.0, 0.0)
    """
    value = show.surface(surface)
    if value.place is None or value.size_mm is None:
        return 0.0, 0.0
    hung = [
        s
        for s in show.surfaces
        if s.id != surface and s.place is not None and s.size_mm is not None and not s.place.apart
    ]
    across = [
        _lines(0.0, show.room_width_mm),
        *(_lines(s.place.x_mm, s.size_mm[0]) for s in hung if s.place and s.size_mm),
    ]
    upward = [(0.0, 0.0, 0.0), *(_lines(s.place.foot_mm, s.size_mm[1]) for s in hung if s.place and s.size_mm)]
    x = _snapped(value.place.x_mm + dx, value.size_mm[0], across, near)
    y = _snapped(value.place.foot_mm + dy, value.size_mm[1], upward, near)
    return x - value.place.x_mm, y - value.place.foot_mm


def hung_elsewhere(show: Show, surface: str, dx: float, dy: float) -> Show:
    """The show with a surface moved by some millimetres to the right and up.  Raises ShowError beyond a kilometre.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    dx : float
        Columns to the right.
    dy : float
        Rows down.

    Returns
    -------
    Show
        With the edit.
    """
    value = show.surface(surface)
    place = value.place or RoomPlace()
    moved = place.model_dump() | {"x_mm": place.x_mm + dx, "foot_mm": place.foot_mm + dy}
    return with_item(show, "surfaces", with_field(value, "place", moved))
