"""Pixel map drawings of a canvas, an output or a surface: what the LED crew and the content makers work from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from ushering_adze.core.displays.binding import fed_parts, landing_rect
from ushering_adze.core.displays.led import data_runs, hung_cabinets
from ushering_adze.core.exchange.sheet import Box, Circle, Item, Line, Sheet, Words
from ushering_adze.core.mapping.bend import corners_of
from ushering_adze.core.mapping.from_surface import Piece, surface_pieces
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, Projection, RectLanding, Region, Show, Surface

FILLS = (
    "#2F5D8A",
    "#7A4B2B",
    "#3D6B4F",
    "#6B4A7D",
    "#8A6A2A",
    "#2F6F73",
    "#7B3F4E",
    "#4C5A2E",
    "#4A4F86",
    "#6E5347",
    "#2E6652",
    "#80507A",
)
"""Fills of regions that have no colour of their own, in turn; every two differ clearly."""
EDGE, GRID, MARK, RUN = "#FFFFFF", "#C9D3D6", "#E8E2D3", "#F0C060"


def _label(rect: Rect, lines: list[str]) -> Iterator[Item]:
    """Lines of words in the middle of a rectangle, as large as they fit."""
    longest = max((len(line) for line in lines), default=1)
    size = min(rect.h / (2.2 * len(lines) + 1), rect.w / (0.66 * longest + 1), 72.0)
    if size < 6:
        return
    top = rect.y + rect.h / 2 - size * 1.35 * (len(lines) - 1) / 2 + size * 0.35
    for n, line in enumerate(lines):
        yield Words(rect.x + rect.w / 2, top + n * size * 1.35, line, size, EDGE, "middle", n == 0)


def _shape(rect: Rect, fill: str, lines: list[str], columns: list[int], rows: list[int]) -> Iterator[Item]:
    """A filled rectangle with grid lines, diagonals, a circle, its label, and its edge pixels."""
    yield Box(*rect, fill=fill)
    for x in columns:
        yield Line(rect.x + x, rect.y, rect.x + x, rect.y + rect.h, GRID)
    for y in rows:
        yield Line(rect.x, rect.y + y, rect.x + rect.w, rect.y + y, GRID)
    if min(rect.w, rect.h) >= 48:
        yield Line(rect.x, rect.y, rect.right, rect.foot, MARK)
        yield Line(rect.x, rect.foot, rect.right, rect.y, MARK)
        yield Circle(rect.x + rect.w / 2, rect.y + rect.h / 2, min(rect.w, rect.h) / 2 - 1, MARK)
    yield from _label(rect, lines)
    yield Box(*rect, stroke=EDGE)


def _lines_of(wall: LedWall) -> tuple[list[int], list[int]]:
    columns, rows, x, y = [], [], 0, 0
    for cabinet in wall.column_cabinets[:-1]:
        x += cabinet.columns_px
        columns.append(x)
    for cabinet in wall.row_cabinets[:-1]:
        y += cabinet.rows_px
        rows.append(y)
    return columns, rows


def cabinet_lines(show: Show, region: Region) -> tuple[list[int], list[int]]:
    """Columns and rows within a region at which a cabinet begins, where it shows a part of an LED wall one to one and
    upright.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.

    Returns
    -------
    tuple[list[int], list[int]]
    """
    surface = show.surface(region.surface) if region.surface is not None else None
    landing = region.landing
    if (
        not isinstance(surface, LedWall)
        or not isinstance(landing, RectLanding)
        or not region.exact
        or landing.turn
        or landing.flip
    ):
        return [], []
    columns, rows = _lines_of(surface)
    feeds = [landing_rect(r) for r in show.fed.get((surface.id, None, None), ()) if r.output == region.output]
    at = landing_rect(region)
    dx, dy = at.x - min(f.x for f in feeds), at.y - min(f.y for f in feeds)
    return [c - dx for c in columns if 0 < c - dx < region.w], [r - dy for r in rows if 0 < r - dy < region.h]


def fill_of(show: Show, region: Region, n: int) -> str:
    """The fill of a region on drawings: its own colour, else one in turn.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.
    n : int
        Number of the region, from 0.

    Returns
    -------
    str
        In words.
    """
    return region.colour or FILLS[n % len(FILLS)]


def canvas_map(show: Show, canvas: str) -> Sheet:
    """The pixel map of a canvas: every region with name, size, place, output and cabinet grid.

    Parameters
    ----------
    show : Show
    canvas : str
        Which canvas.

    Returns
    -------
    Sheet

    Raises
    ------
    KeyError
        If there is no such canvas.
    """
    value = show.canvas(canvas)
    items: list[Item] = []
    for n, region in enumerate(r for r in value.regions if not r.mirror):
        output = show.output(region.output)
        at = landing_rect(region)
        lines = [
            region.name,
            f"{region.w}×{region.h} at {region.x}, {region.y}",
            f"{output.number} {output.name} at {at.x}, {at.y}",
        ]
        items += _shape(
            Rect(region.x, region.y, region.w, region.h), fill_of(show, region, n), lines, *cabinet_lines(show, region)
        )
    items.append(Words(8, value.height - 8, f"{show.name} · {value.name} · {value.width}×{value.height} px", 14, EDGE))
    return Sheet(value.width, value.height, tuple(items), title=f"{show.name}: {value.name}")


def output_map(show: Show, output: str) -> Sheet:
    """The pixel map of an output's raster: everything that lands on it, with where it comes from.

    Parameters
    ----------
    show : Show
    output : str
        Which output.

    Returns
    -------
    Sheet

    Raises
    ------
    KeyError
        If there is no such output.
    """
    value = show.output(output)
    width, height = value.timing.width, value.timing.height
    items: list[Item] = []
    for n, (canvas, region) in enumerate((c, r) for c, r in show.regions() if r.output == output):
        at = landing_rect(region)
        turn = (
            ""
            if not isinstance(region.landing, RectLanding) or not region.landing.turn
            else f" turned {region.landing.turn}°"
        )
        lines = [region.name, f"{at.w}×{at.h} at {at.x}, {at.y}{turn}", f"from {canvas.name} {region.x}, {region.y}"]
        if not isinstance(region.landing, RectLanding):
            corners = corners_of(region.landing)
            items += [Line(*a, *b, EDGE) for a, b in pairwise((*corners, corners[0]))]
            items += _label(at.meet(Rect(0, 0, width, height)), [region.name, "bent", lines[2]])
        else:
            items += _shape(at, fill_of(show, region, n), lines, *cabinet_lines(show, region))
    items.append(Box(0, 0, width, height, stroke="#5E757B"))
    items.append(Words(8, height - 8, f"{show.name} · {value.number} {value.name} · {width}×{height} px", 14, EDGE))
    return Sheet(width, height, tuple(items), title=f"{show.name}: {value.name}")


def surface_map(show: Show, surface: str) -> Sheet:
    """The pixel map of a surface in its own pixels: cabinets with their numbers and data runs, monitors, projectors
    with overlaps.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    Sheet

    Raises
    ------
    KeyError
        If there is no such surface.
    """
    value = show.surface(surface)
    width, height = surface_size(value)
    items: list[Item] = []
    if isinstance(value, LedWall):
        for hung in hung_cabinets(value):
            items.append(Box(*hung.px, fill=FILLS[(hung.column + hung.row) % 2]))
        columns, rows = _lines_of(value)
        items += [Line(x, 0, x, height, GRID) for x in columns] + [Line(0, y, width, y, GRID) for y in rows]
        items += _shape_lines(Rect(0, 0, width, height))
        items += _runs(value)
        items += [
            Words(h.px.x + 4, h.px.foot - 5, f"{h.column}/{h.row}", max(7.0, min(h.px.w, h.px.h) / 9), EDGE)
            for h in hung_cabinets(value)
            if min(h.px.w, h.px.h) >= 40
        ]
    else:
        pieces = surface_pieces(value)
        for n, piece in enumerate(pieces):
            corner = piece.on_canvas
            lines = [piece.name, f"{piece.part.width}×{piece.part.height} px", f"at {corner.x}, {corner.y}"]
            items += _shape(corner, FILLS[n % len(FILLS)], lines, [], [])
        for a, b in neighbours(pieces, value.columns if isinstance(value, Projection) else len(pieces)):
            shared = a.on_canvas.meet(b.on_canvas)
            if not shared.empty and value.kind == "projection":
                items.append(Box(*shared, stroke=RUN, width=2))
                items += _label(
                    Rect(shared.x, shared.foot - shared.h // 6, shared.w, shared.h // 6),
                    [f"overlap {min(shared.w, shared.h)} px"],
                )
    items += (
        _label(Rect(0, height // 3, width, height // 3), [value.name, f"{width}×{height} px"])
        if isinstance(value, LedWall)
        else []
    )
    items.append(Box(0, 0, width, height, stroke=EDGE))
    return Sheet(width, height, tuple(items), title=f"{show.name}: {value.name}")


def neighbours(pieces: Sequence[Piece], columns: int) -> list[tuple[Piece, Piece]]:
    """Pieces of a grid that lie beside one another, and one above the other.

    Parameters
    ----------
    pieces : Sequence[Piece]
        Its pieces, at canvas size.
    columns : int
        How many, from left to right.

    Returns
    -------
    list[tuple[Piece, Piece]]
    """
    beside = [(a, b) for n, (a, b) in enumerate(pairwise(pieces)) if (n + 1) % columns]
    return beside + list(zip(pieces, pieces[columns:], strict=False))


def surface_size(surface: Surface) -> tuple[int, int]:
    """Width and height in px of the picture that a surface shows as it is rigged."""
    pieces = surface_pieces(surface)
    if len(pieces) == 1 or not isinstance(surface, LedWall):
        return max(p.on_canvas.right for p in pieces), max(p.on_canvas.foot for p in pieces)
    part = fed_parts(surface)[0]
    return part.width, part.height


def _shape_lines(rect: Rect) -> list[Item]:
    return [
        Line(rect.x, rect.y, rect.right, rect.foot, MARK),
        Line(rect.x, rect.foot, rect.right, rect.y, MARK),
        Circle(rect.x + rect.w / 2, rect.y + rect.h / 2, min(rect.w, rect.h) / 2 - 1, MARK),
    ]


def _runs(wall: LedWall) -> Iterator[Item]:
    """Data runs: a line through the middles of the cabinets of each port, its number where it begins."""
    try:
        runs = data_runs(wall)
    except ValueError:  # a cabinet over the capacity of a port: told in Rig
        return
    for run in runs:
        middles = [(h.px.x + h.px.w / 2, h.px.y + h.px.h / 2) for h in run.cabinets]
        small = min(run.cabinets[0].px.w, run.cabinets[0].px.h)
        for (x1, y1), (x2, y2) in pairwise(middles):
            yield Line(x1, y1, x2, y2, RUN, max(1.0, small / 48))
        x, y = middles[0]
        yield Circle(x, y, small / 8, RUN, max(1.0, small / 48))
        yield Words(x, y - small / 5, f"port {run.port}", max(8.0, small / 8), RUN, "middle", True)


def template(show: Show, surface: str) -> Sheet:
    """A template for the makers of content: the surface's picture at its size, see-through where nothing is lit.

    Cabinets that are missing and pixels behind edges stay transparent.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    Sheet
    """
    value = show.surface(surface)
    width, height = surface_size(value)
    rects = (
        [h.px for h in hung_cabinets(value)]
        if isinstance(value, LedWall)
        else [p.on_canvas for p in surface_pieces(value)]
    )
    items: list[Item] = [Box(*r, fill="#30404A") for r in rects]
    if len(rects) <= 2000:
        items += [Box(*r, stroke="#7D9099") for r in rects]
    whole = Rect(0, 0, width, height)
    items += _shape_lines(whole)
    for share, name in ((0.93, "action"), (0.90, "title")):  # SMPTE ST 2046-1, from memory
        w, h = round(width * share), round(height * share)
        items.append(Box((width - w) // 2, (height - h) // 2, w, h, stroke="#93A84E"))
        if min(width, height) >= 300:
            items.append(
                Words((width - w) // 2 + 6, (height - h) // 2 + 18, f"{name} safe, {100 * share:.0f} %", 14, "#93A84E")
            )
    items += _label(Rect(0, height // 3, width, height // 3), [value.name, f"{width}×{height} px"])
    return Sheet(width, height, tuple(items), None, f"{show.name}: {value.name}")
