"""LED walls: where each cabinet lies, what the wall weighs and draws, and how its data runs go.

Walls are immutable, so what is worked out for one is kept and not worked out again while other things are edited.
"""

from __future__ import annotations

from bisect import bisect_right
from functools import lru_cache
from itertools import accumulate
from math import ceil, pi, tan
from typing import NamedTuple

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.led import Cabinet, DataRuns, LedWall

METRES_PER_MM = 1.0
"""Comfortable distance: one metre for each millimetre of pitch (common practice, no source)."""


class Hung(NamedTuple):
    """A cabinet as it hangs: its place in the grid from 1, its pixels of the raster, and its box in mm from the wall's
    top left.
    """

    column: int
    row: int
    cabinet: Cabinet
    px: Rect
    mm: tuple[float, float, float, float]
    degrees: int


@lru_cache(maxsize=64)
def hung_cabinets(wall: LedWall) -> tuple[Hung, ...]:
    """Every cabinet that is there, row by row from the top left.

    Gaps between columns move what is right of them in the room, not on the raster: the picture closes up.

    Examples
    --------
    >>> c = Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192)
    >>> [tuple(h.px) for h in hung_cabinets(LedWall(id="w", name="W", cabinet=c, columns=2, rows=1,
    ...     gaps=[{"after": 1, "mm": 40}]))]
    [(0, 0, 192, 192), (192, 0, 192, 192)]
    """
    missing = {(c.column, c.row) for c in wall.missing}
    turned = {(c.column, c.row): c.degrees for c in wall.turned}
    gaps = wall.gaps_after
    columns, rows = wall.column_cabinets, wall.row_cabinets
    hung = []
    y_px, y_mm = 0, 0.0
    for r, across in enumerate(rows, 1):
        x_px, x_mm = 0, 0.0
        for c, down in enumerate(columns, 1):
            if (c, r) not in missing:
                hung.append(
                    Hung(
                        c,
                        r,
                        wall.cabinet_at(c, r),
                        Rect(x_px, y_px, down.columns_px, across.rows_px),
                        (x_mm, y_mm, down.width_mm, across.height_mm),
                        turned.get((c, r), 0),
                    )
                )
            x_px += down.columns_px
            x_mm += down.width_mm + gaps.get(c, 0.0)
        y_px += across.rows_px
        y_mm += across.height_mm
    return tuple(hung)


def cabinet_pixel(wall: LedWall, x: int, y: int) -> tuple[int, int, int, int] | None:
    """The cabinet that shows a pixel of the wall's raster, and the pixel within it: column, row (from 1), x, y (from
    0).

    None off the wall and where the cabinet is missing.  A turned cabinet is counted as it is fed, not as it hangs.

    Parameters
    ----------
    wall : LedWall
        Which wall.
    x : int
        Column, in pixels from the left.
    y : int
        Row, in pixels from the top.

    Returns
    -------
    tuple[int, int, int, int] | None

    Examples
    --------
    >>> c = Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192)
    >>> cabinet_pixel(LedWall(id="w", name="W", cabinet=c, columns=10, rows=5), 400, 5)
    (3, 1, 16, 5)
    """
    xs = [0, *accumulate(c.columns_px for c in wall.column_cabinets)]
    ys = [0, *accumulate(c.rows_px for c in wall.row_cabinets)]
    if not (0 <= x < xs[-1] and 0 <= y < ys[-1]):
        return None
    column, row = bisect_right(xs, x), bisect_right(ys, y)
    if any((c.column, c.row) == (column, row) for c in wall.missing):
        return None
    return column, row, x - xs[column - 1], y - ys[row - 1]


def port_capacity(data: DataRuns) -> int:
    """Pixels that one port carries: its bit rate over three colours of so many bits at so many pictures a second.

    Examples
    --------
    >>> port_capacity(DataRuns(share=1.0)), port_capacity(DataRuns())
    (694444, 650000)
    """
    return int(data.gbps * 1e9 * data.share / (3 * data.bits * data.rate) + 1e-6)


class DataRun(NamedTuple):
    """The chain of cabinets on one port, in order from the port; ``backup`` names the port that closes the loop, or
    None.
    """

    port: int
    cabinets: tuple[Hung, ...]
    pixels: int
    share: float
    backup: int | None


def path_of(wall: LedWall) -> list[Hung]:
    """The cabinets in the order in which the data path passes them."""
    data = wall.data
    from_right, from_foot = data.start.endswith("right"), data.start.startswith("bottom")
    by_rows = data.along == "rows"
    lanes: dict[int, list[Hung]] = {}
    for hung in hung_cabinets(wall):
        lanes.setdefault(hung.row if by_rows else hung.column, []).append(hung)
    path: list[Hung] = []
    for n, lane in enumerate(sorted(lanes, reverse=from_foot if by_rows else from_right)):
        backwards = from_right if by_rows else from_foot
        if data.snake and n % 2:
            backwards = not backwards
        path += sorted(lanes[lane], key=lambda h: h.column if by_rows else h.row, reverse=backwards)
    return path


@lru_cache(maxsize=64)
def data_runs(wall: LedWall) -> tuple[DataRun, ...]:
    """Deal the cabinets out to ports along the path, each port filled up to its capacity.

    With a backup loop, as many further ports follow, each closing the run of its partner from the far end.

    Raises
    ------
    ValueError
        If a single cabinet is over the capacity of a port.

    Examples
    --------
    >>> c = Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192)
    >>> [(r.port, len(r.cabinets), r.pixels) for r in data_runs(LedWall(id="w", name="W", cabinet=c, columns=10,
    ...     rows=5))]
    [(1, 17, 626688), (2, 17, 626688), (3, 16, 589824)]
    """
    capacity, most = port_capacity(wall.data), wall.data.most or 10**6
    groups: list[list[Hung]] = []
    load = 0
    for hung in path_of(wall):
        if hung.px.area > capacity:
            raise ValueError(
                f"one cabinet of {hung.px.w}×{hung.px.h} px is over a port's {capacity} px; "
                "use a faster port, fewer bits or a lower rate"
            )
        if not groups or load + hung.px.area > capacity or len(groups[-1]) >= most:
            groups.append([])
            load = 0
        groups[-1].append(hung)
        load += hung.px.area
    runs = []
    for n, group in enumerate(groups, 1):
        pixels = sum(h.px.area for h in group)
        runs.append(DataRun(n, tuple(group), pixels, pixels / capacity, n + len(groups) if wall.data.backup else None))
    return tuple(runs)


class LedFacts(NamedTuple):
    """A wall in figures: sizes in px and mm, weight in kg, power in W, distances in m."""

    pixels: tuple[int, int]
    lit_pixels: int
    size_mm: tuple[float, float]
    pitch_mm: float
    pitch_down_mm: float
    cabinets: int
    weight_kg: float
    max_watts: float
    mean_watts: float
    circuit_watts: float
    per_circuit: int
    circuits: int
    unseen_m: float
    comfortable_m: float


def unseen_distance(pitch_mm: float) -> float:
    """Metres from which single pixels are not seen: a pitch fills one minute of arc, the eye's limit at 20/20.

    Examples
    --------
    >>> round(unseen_distance(1.0), 3)
    3.438
    """
    return pitch_mm / tan(pi / 180 / 60) / 1000


@lru_cache(maxsize=64)
def led_facts(wall: LedWall) -> LedFacts:
    """Add up a wall.

    A circuit takes as many cabinets as its volts × amps × share allow at their full power (the 80 % rule for lasting
    loads is common practice, no source).  ``per_circuit`` counts the hungriest kind; 0 where no power is known or one
    cabinet is over a circuit.

    Examples
    --------
    >>> c = Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192, weight_kg=8.5, max_watts=180,
    ...     mean_watts=60)
    >>> f = led_facts(LedWall(id="w", name="W", cabinet=c, columns=10, rows=5))
    >>> f.weight_kg, f.max_watts, f.per_circuit, f.circuits
    (425.0, 9000.0, 16, 4)
    """
    hung = hung_cabinets(wall)
    circuit = wall.supply.volts * wall.supply.amps * wall.supply.share
    hungriest = max(h.cabinet.max_watts for h in hung)
    per = int(circuit // hungriest) if hungriest > 0 else 0
    across, down = max(h.cabinet.pitch_mm for h in hung), max(h.cabinet.pitch_down_mm for h in hung)
    pitch = max(across, down)  # the eye sees single pixels where they are farthest apart
    return LedFacts(
        wall.pixels,
        sum(h.px.area for h in hung),
        wall.size_mm,
        across,
        down,
        len(hung),
        sum(h.cabinet.weight_kg for h in hung),
        sum(h.cabinet.max_watts for h in hung),
        sum(h.cabinet.mean_watts for h in hung),
        circuit,
        per,
        ceil(len(hung) / per) if per else 0,
        unseen_distance(pitch),
        pitch * METRES_PER_MM,
    )
