"""Monitor walls: where each monitor's picture lies in the room and on the canvas, and what its edges hide."""

from __future__ import annotations

from math import cos, radians, sin
from typing import NamedTuple

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.surface import MonitorWall

Point = tuple[float, float]


class HungMonitor(NamedTuple):
    """One monitor: its number from 1 row by row, the corners of its lit picture and of its casing in mm from the wall's
    top left (top left, top right, bottom right, bottom left of the monitor itself), and the corners of its picture on
    the canvas in px."""

    number: int
    column: int
    row: int
    lit_mm: tuple[Point, Point, Point, Point]
    casing_mm: tuple[Point, Point, Point, Point]
    canvas_px: tuple[Point, Point, Point, Point]
    degrees: float


def _box(centre: Point, w: float, h: float, degrees: float) -> tuple[Point, Point, Point, Point]:
    c, s = cos(radians(degrees)), sin(radians(degrees))
    return tuple(
        (centre[0] + x * c - y * s, centre[1] + x * s + y * c)  # type: ignore[return-value]
        for x, y in ((-w / 2, -h / 2), (w / 2, -h / 2), (w / 2, h / 2), (-w / 2, h / 2))
    )


def pixel_mm(wall: MonitorWall) -> tuple[float, float]:
    """Size of a pixel in mm, across and down a monitor on its feet."""
    return wall.active_width_mm / wall.monitor_width, wall.active_height_mm / wall.monitor_height


def hidden_pixels(wall: MonitorWall) -> tuple[float, float]:
    """Pixels behind the edges between two monitors, across and down: gap in mm ÷ pixel size in mm.

    Examples
    --------
    >>> wall = MonitorWall(id="f", name="F", columns=3, rows=2, active_width_mm=1018.1, active_height_mm=572.7,
    ...     edge_mm=3.5,
    ...                    feed_width=1920, feed_height=1080)
    >>> [round(v, 2) for v in hidden_pixels(wall)]
    [13.2, 13.2]
    """
    across, down = pixel_mm(wall)
    if wall.turned:
        across, down = down, across
    between = 2 * wall.edge_mm + wall.gap_mm
    return between / across, between / down


def canvas_size(wall: MonitorWall, hide: bool | None = None) -> tuple[int, int]:
    """Pixels of a canvas that shows on the wall one to one.

    Parameters
    ----------
    wall : MonitorWall
    hide : bool, optional
        Whether the picture goes on behind the edges; as the wall says by default.

    Examples
    --------
    >>> wall = MonitorWall(id="f", name="F", columns=3, rows=2, active_width_mm=1018.1, active_height_mm=572.7,
    ...     edge_mm=3.5,
    ...                    feed_width=1920, feed_height=1080)
    >>> canvas_size(wall, False), canvas_size(wall, True)
    ((5760, 2160), (5786, 2173))
    """
    if wall.scattered:
        across, down = pixel_mm(wall)
        w, h = wall.size_mm
        return round(w / across), round(h / down)
    w, h = (wall.monitor_height, wall.monitor_width) if wall.turned else (wall.monitor_width, wall.monitor_height)
    hx, hy = hidden_pixels(wall) if (wall.hide if hide is None else hide) else (0.0, 0.0)
    return round((wall.columns - 1) * (w + hx)) + w, round((wall.rows - 1) * (h + hy)) + h


def hung_monitors(wall: MonitorWall) -> list[HungMonitor]:
    """Every monitor of a wall, in order.

    In a grid each monitor's picture lies on whole pixels of the canvas, each rounded by itself, so that errors never
    add up. Scattered monitors cut their true, turned rectangle out of a canvas at the scale of their pixels.
    """
    across, down = pixel_mm(wall)
    aw, ah, edge = wall.active_width_mm, wall.active_height_mm, wall.edge_mm
    if wall.scattered:
        made = []
        for n, m in enumerate(wall.scattered, 1):
            centre = (m.x_mm, m.y_mm)
            lit = _box(centre, aw, ah, m.degrees)
            on_canvas = tuple((x / across, y / down) for x, y in lit)
            outer = _box(centre, aw + 2 * edge, ah + 2 * edge, m.degrees)
            made.append(HungMonitor(n, n, 1, lit, outer, on_canvas, m.degrees))  # type: ignore[arg-type]
        return made
    turn = 90.0 if wall.turned else 0.0
    w, h = (ah, aw) if wall.turned else (aw, ah)
    pw, ph = (wall.monitor_height, wall.monitor_width) if wall.turned else (wall.monitor_width, wall.monitor_height)
    hx, hy = hidden_pixels(wall) if wall.hide else (0.0, 0.0)
    made = []
    for r in range(wall.rows):
        for c in range(wall.columns):
            centre = (c * (w + 2 * edge + wall.gap_mm) + edge + w / 2, r * (h + 2 * edge + wall.gap_mm) + edge + h / 2)
            x, y = round(c * (pw + hx)), round(r * (ph + hy))
            corners = ((x, y), (x + pw, y), (x + pw, y + ph), (x, y + ph))
            if wall.turned:  # the monitor's own top left is at the top right of its place
                corners = (corners[1], corners[2], corners[3], corners[0])
            made.append(
                HungMonitor(
                    r * wall.columns + c + 1,
                    c + 1,
                    r + 1,
                    _box(centre, aw, ah, turn),
                    _box(centre, aw + 2 * edge, ah + 2 * edge, turn),
                    corners,
                    turn,
                )
            )
    return made


def cut_out(monitor: HungMonitor) -> Rect:
    """The upright rectangle of the canvas around what a monitor shows."""
    xs, ys = [p[0] for p in monitor.canvas_px], [p[1] for p in monitor.canvas_px]
    x, y = int(min(xs) // 1), int(min(ys) // 1)
    return Rect(x, y, int(-(-max(xs) // 1)) - x, int(-(-max(ys) // 1)) - y)
