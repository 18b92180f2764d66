"""From what is rigged to a map: regions of a whole surface at once, and sizes of canvases that surfaces ask for."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from math import cos, hypot, radians, sin
from typing import NamedTuple

from ushering_adze.core.displays.binding import FedPart, fed_parts, free_place, landing_rect
from ushering_adze.core.displays.led import Hung, hung_cabinets
from ushering_adze.core.displays.monitors import HungMonitor, cut_out, hung_monitors, pixel_mm
from ushering_adze.core.displays.projection import projection_facts
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.mapping.regions import picked, placed, rect_of, without_regions
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Canvas,
    Fault,
    LedWall,
    MonitorWall,
    Projection,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    ShowError,
    Surface,
)
from ushering_adze.core.show.edits import with_new_region


class Piece(NamedTuple):
    """A region to be: its part of the surface, where it lies from the surface's top left on the canvas, and in the
    part's own raster.

    ``landing`` starts at 0, 0 of the part's raster and is moved to where the part lies on its output.
    """

    name: str
    part: FedPart
    on_canvas: Rect
    landing: RectLanding | QuadLanding


def whole_rects(cells: Iterable[tuple[int, int]]) -> list[tuple[int, int, int, int]]:
    """Cover cells of a grid by few rectangles, none twice: runs along rows, joined downwards where they are alike.

    Returns
    -------
    list of (column, row, columns, rows)

    Examples
    --------
    >>> whole_rects([(1, 1), (2, 1), (1, 2), (2, 2), (3, 2)])
    [(1, 1, 2, 1), (1, 2, 3, 1)]
    """
    rows: dict[int, list[int]] = {}
    for column, row in sorted(cells):
        rows.setdefault(row, []).append(column)
    open_: dict[tuple[int, int], list[int]] = {}
    done: list[tuple[int, int, int, int]] = []
    for row in sorted(rows):
        runs: list[tuple[int, int]] = []
        for column in rows[row]:
            if runs and runs[-1][0] + runs[-1][1] == column:
                runs[-1] = (runs[-1][0], runs[-1][1] + 1)
            else:
                runs.append((column, 1))
        still = {}
        for run in runs:
            if run in open_ and open_[run][0] + open_[run][1] == row:
                still[run] = [open_[run][0], open_[run][1] + 1]
            else:
                still[run] = [row, 1]
        done += [(c, top, w, h) for (c, w), (top, h) in open_.items() if still.get((c, w), [None])[0] != top]
        open_ = still
    done += [(c, top, w, h) for (c, w), (top, h) in open_.items()]
    return sorted(done, key=lambda r: (r[1], r[0]))


def _plain(at: Rect, turn: int = 0) -> RectLanding:
    return RectLanding(x=at.x, y=at.y, w=at.w, h=at.h, turn=turn)


def _led_pieces(wall: LedWall, behind: bool) -> list[Piece]:
    """Where all cabinets hang together one region; else one for each block of cabinets, so that holes stay holes.

    With ``behind`` the picture goes on behind gaps between columns: what is right of a gap lies as many pixels further
    on the canvas.
    """
    part = fed_parts(wall)[0]
    gaps = wall.gaps_after
    if not wall.missing and not (behind and gaps):
        return [Piece(wall.name, part, Rect(0, 0, *wall.pixels), _plain(Rect(0, 0, *wall.pixels)))]
    hung: dict[tuple[int, int], Hung] = {(h.column, h.row): h for h in hung_cabinets(wall)}
    pieces: list[Piece] = []
    bands: list[list[tuple[int, int]]] = []
    edges = [0, *gaps, wall.columns]
    for a, b in pairwise(edges):
        bands.append([cell for cell in hung if a < cell[0] <= b])
    shift = 0.0
    for n, band in enumerate(bands):
        if n and behind:
            shift += gaps[edges[n]] / wall.cabinet.pitch_mm
        for column, row, columns, rows in whole_rects(band):
            first, last = hung[column, row].px, hung[column + columns - 1, row + rows - 1].px
            at = first.join(last)
            name = f"{wall.name} {len(pieces) + 1}"
            pieces.append(Piece(name, part, at.moved(round(shift), 0), _plain(at)))
    return pieces if len(pieces) > 1 else [pieces[0]._replace(name=wall.name)]


def turned_quad(
    monitor: HungMonitor, region: Rect, width: int, height: int, pixel: tuple[float, float] = (1.0, 1.0)
) -> QuadLanding:
    """Where the corners of an upright region land so that a turned monitor shows its true, turned rectangle out of it.

    The monitor's own corners go to the corners of its raster; those of the region, which holds them all, fall outside
    and are cut off there.

    Parameters
    ----------
    monitor : HungMonitor
    region : Rect
        On the canvas.
    width, height : int
        Of the monitor's raster.
    pixel : tuple of float
        Size of a canvas pixel in mm, across and down: it is turned in the room, where it need not be square.
    """
    c, s = cos(radians(monitor.degrees)), sin(radians(monitor.degrees))
    corners = [(x * pixel[0], y * pixel[1]) for x, y in monitor.canvas_px]
    (x0, y0), (x1, y1), _, (x3, y3) = corners
    across, down = hypot(x1 - x0, y1 - y0), hypot(x3 - x0, y3 - y0)

    def lands(x: float, y: float) -> tuple[float, float]:
        dx, dy = x * pixel[0] - x0, y * pixel[1] - y0
        return (dx * c + dy * s) * width / across, (-dx * s + dy * c) * height / down

    r = region
    return QuadLanding(corners=(lands(r.x, r.y), lands(r.right, r.y), lands(r.right, r.foot), lands(r.x, r.foot)))


def _monitor_pieces(wall: MonitorWall) -> list[Piece]:
    """One region for the feed of the whole wall, or one for each monitor, its pixels behind the edges left out if the
    wall says so.
    """
    parts = fed_parts(wall)
    if not wall.each:
        return [Piece(wall.name, parts[0], Rect(0, 0, *wall.pixels), _plain(Rect(0, 0, *wall.pixels)))]
    pieces = []
    for monitor, part in zip(hung_monitors(wall), parts, strict=True):
        on_canvas = cut_out(monitor)
        quarter = monitor.degrees % 90 == 0 and all(abs(v - round(v)) < 1e-6 for p in monitor.canvas_px for v in p)
        if quarter:
            # A monitor turned clockwise shows its picture upright if the picture is turned the other way.
            turn = round(360 - monitor.degrees) % 360
            landing: RectLanding | QuadLanding = _plain(Rect(0, 0, part.width, part.height), turn)
        else:
            landing = turned_quad(monitor, on_canvas, part.width, part.height, pixel_mm(wall))
        pieces.append(Piece(part.name, part, on_canvas, landing))
    return pieces


def _projector_pieces(screen: Projection) -> list[Piece]:
    pieces = []
    for part, (x, y) in zip(fed_parts(screen), screen.offsets, strict=True):
        at = Rect(x, y, part.width, part.height)
        pieces.append(Piece(f"{screen.name} {part.name}", part, at, _plain(at.moved(-x, -y))))
    return pieces


def surface_pieces(surface: Surface, behind: bool = True) -> list[Piece]:
    """The regions that a surface as it is rigged asks for, from its top left.

    Parameters
    ----------
    surface : Surface
    behind : bool
        Whether the picture goes on behind gaps between the columns of an LED wall; else it closes up.

    Examples
    --------
    >>> from ushering_adze.core.show import Projector
    >>> p = tuple(Projector(id=i, name=i, width=1920, height=1080) for i in "ab")
    >>> s = Projection(id="s", name="S", width_mm=9000, height_mm=2700, projectors=p, overlap_px=240)
    >>> [tuple(piece.on_canvas) for piece in surface_pieces(s)]
    [(0, 0, 1920, 1080), (1680, 0, 1920, 1080)]
    """
    if isinstance(surface, LedWall):
        return _led_pieces(surface, behind)
    if isinstance(surface, MonitorWall):
        return _monitor_pieces(surface)
    if isinstance(surface, Projection):
        return _projector_pieces(surface)
    part = fed_parts(surface)[0]
    return [Piece(surface.name, part, Rect(0, 0, part.width, part.height), _plain(Rect(0, 0, part.width, part.height)))]


def with_surface_regions(
    show: Show, surface: str, canvas: str, output: str, at: tuple[int, int] = (0, 0), behind: bool = True
) -> tuple[Show, list[str]]:
    """The show with the regions of a whole surface made anew on a canvas.

    What fed the surface before goes; outputs that fed a part of it go on doing so, other parts take free places on
    ``output`` and the outputs after it.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    canvas : str
        Which canvas.
    output : str
        Which output.
    at : tuple[int, int], optional
        Top left, in canvas pixels.
    behind : bool, optional
        What lies behind.

    Returns
    -------
    show : Show
    ids : list of str
        Of the new regions.

    Raises
    ------
    ShowError
        If no output has room for a part.
    """
    value = show.surface(surface)
    before: dict[tuple[str, str | None, int | None], tuple[str, Rect]] = {}
    for _, region in show.regions():
        if region.surface == surface and not region.mirror:
            key = (region.surface, region.projector, region.monitor)
            seen = before.get(key)
            where = landing_rect(region)
            before[key] = (region.output, where if seen is None else seen[1].join(where))
    show = without_regions(show, [r.id for r in show.feeds_of(surface)])
    order = [o.id for o in show.outputs]
    start = order.index(output)
    homes: dict[tuple[str, str | None, int | None], tuple[str, Rect]] = {}
    ids: list[str] = []
    for piece in surface_pieces(value, behind):
        part = piece.part
        if part.key not in homes:
            homes[part.key] = _home(show, part, before.get(part.key), [*order[start:], *order[:start]])
        home, where = homes[part.key]
        landing = piece.landing
        if isinstance(landing, RectLanding):
            landing = landing.model_copy(update={"x": landing.x + where.x, "y": landing.y + where.y})
        else:
            landing = QuadLanding(corners=tuple((x + where.x, y + where.y) for x, y in landing.corners))
        id = new_id(piece.name, {r.id for _, r in show.regions()})
        rect = piece.on_canvas.moved(*at)
        region = Region(
            id=id,
            name=piece.name[:80],
            x=rect.x,
            y=rect.y,
            w=rect.w,
            h=rect.h,
            output=home,
            landing=landing,
            surface=surface,
            projector=part.projector,
            monitor=part.monitor,
        )
        show = with_new_region(show, canvas, region)
        ids.append(id)
    return show, ids


def _home(show: Show, part: FedPart, before: tuple[str, Rect] | None, order: list[str]) -> tuple[str, Rect]:
    if before is not None:
        output, where = before
        timing = show.output(output).timing
        at = Rect(where.x, where.y, part.width, part.height)
        if Rect(0, 0, timing.width, timing.height).holds(at):
            return output, at
    for id in order:
        free = free_place(show, show.output(id), part.width, part.height)
        if free is not None:
            return id, free
    raise ShowError(
        [Fault(part.name, f"no output has {part.width}×{part.height} px free on its raster; add an output in Rig")]
    )


def placed_side_by_side(show: Show, ids: Iterable[str], gap: int = 0) -> Show:
    """The show with the surfaces of these regions side by side on their canvas, left to right as they hang, the block
    in its middle.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    gap : int, optional
        Pixels between neighbours.

    Returns
    -------
    Show
        With the edit.
    """
    found = picked(show, ids)
    if not found:
        return show
    canvas = found[0][0]
    blocks: dict[str, list[Region]] = {}
    for c, region in found:
        if c.id == canvas.id:
            blocks.setdefault(region.surface or region.id, []).append(region)

    def hangs(key: str) -> float:
        surface = next((s for s in show.surfaces if s.id == key), None)
        return surface.place.x_mm if surface is not None and surface.place is not None else 1e9

    order = sorted(blocks, key=lambda k: (hangs(k), min(r.x for r in blocks[k])))
    boxes = {k: box_around([rect_of(r) for r in blocks[k]]) for k in order}
    x = (canvas.width - sum(b.w for b in boxes.values()) - gap * (len(order) - 1)) // 2
    rects: dict[str, Rect] = {}
    for key in order:
        box = boxes[key]
        for region in blocks[key]:
            rects[region.id] = rect_of(region).moved(x - box.x, (canvas.height - box.h) // 2 - box.y)
        x += box.w + gap
    return placed(show, rects)


def placed_as_hung(show: Show, ids: Iterable[str]) -> Show:
    """The show with the surfaces of these regions on their canvas as they hang in the room, at the finest pixel pitch
    among them.

    The picture goes on behind the gaps between them; `placed_side_by_side` closes it up.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If fewer than two of them hang in the room.
    """
    found = picked(show, ids)
    blocks: dict[str, list[Region]] = {}
    for canvas, region in found:
        if canvas.id == found[0][0].id and region.surface is not None:
            blocks.setdefault(region.surface, []).append(region)
    hung = {}
    for key, regions in blocks.items():
        surface = show.surface(key)
        if surface.place is not None and surface.size_mm is not None and not surface.place.apart:
            hung[key] = (
                surface.place.x_mm,
                surface.place.foot_mm + surface.size_mm[1],
                surface.size_mm[0] / surface.pixels[0],
                regions,
            )
    if len(hung) < 2:
        raise ShowError(
            [Fault("", "fewer than two of these feed surfaces that hang in the room; hang them in Rig first")]
        )
    pitch = min(h[2] for h in hung.values())
    left, top = min(h[0] for h in hung.values()), max(h[1] for h in hung.values())
    corner = box_around([rect_of(r) for h in hung.values() for r in h[3]])
    rects = {}
    for x_mm, top_mm, _, regions in hung.values():
        box = box_around([rect_of(r) for r in regions])
        x, y = corner.x + round((x_mm - left) / pitch), corner.y + round((top - top_mm) / pitch)
        for region in regions:
            rects[region.id] = rect_of(region).moved(x - box.x, y - box.y)
    return placed(show, rects)


class CanvasSize(NamedTuple):
    """A size for a canvas that follows from what is rigged, and why."""

    words: str
    width: int
    height: int


def canvas_sizes(show: Show) -> list[CanvasSize]:
    """Sizes a canvas may want: of every surface, of projectors less their overlap, of outputs side by side."""
    sizes = []
    for surface in show.surfaces:
        box = box_around([p.on_canvas for p in surface_pieces(surface)])
        if isinstance(surface, Projection) and len(surface.projectors) > 1:
            facts = projection_facts(surface)
            shares = [
                f"{100 * o.share:.3g} %"
                for o, n in ((facts.across, surface.columns), (facts.down, surface.rows))
                if n > 1
            ]
            words = f"{len(surface.projectors)} projectors less {' and '.join(shares)} overlap ({surface.name})"
        else:
            words = f"size of {surface.name}"
        sizes.append(CanvasSize(words, box.right, box.foot))
    counts: dict[tuple[int, int], int] = {}
    for output in show.outputs:
        key = (output.timing.width, output.timing.height)
        counts[key] = counts.get(key, 0) + 1
    for (w, h), count in counts.items():
        for n in range(2, min(count, 4) + 1):
            sizes.append(CanvasSize(f"{n}×1 of {w}×{h}", n * w, h))
    sizes += [CanvasSize("UHD", 3840, 2160), CanvasSize("HD", 1920, 1080)]
    return list({(s.width, s.height): s for s in reversed(sizes)}.values())[::-1]


def new_canvas(show: Show, name: str, width: int, height: int) -> tuple[Show, str]:
    """The show with one more canvas, and its id.

    Parameters
    ----------
    show : Show
    name : str
        What it is called.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    tuple[Show, str]
    """
    id = new_id(name, {c.id for c in show.canvases})
    return show.model_copy(
        update={"canvases": (*show.canvases, Canvas(id=id, name=name[:80], width=width, height=height))}
    ), id


def without_canvas(show: Show, canvas: str) -> Show:
    """The show without a canvas, its layers and regions, and what presets stored of it.

    Parameters
    ----------
    show : Show
    canvas : str
        Which canvas.

    Returns
    -------
    Show
        With the edit.
    """
    presets = tuple(
        p.model_copy(
            update={
                "parts": tuple(x for x in p.parts if x.canvas != canvas),
                "clears": tuple(c for c in p.clears if c != canvas),
            }
        )
        for p in show.presets
    )
    return show.model_copy(update={"canvases": tuple(c for c in show.canvases if c.id != canvas), "presets": presets})
