"""Binding: which output feeds which part of which surface, and the edits that change it."""

from __future__ import annotations

from math import ceil, floor
from typing import NamedTuple

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Fault,
    MeshLanding,
    MonitorWall,
    Output,
    Projection,
    RectLanding,
    Region,
    Show,
    ShowError,
    Surface,
)
from ushering_adze.core.show.canvas import MAX_SIDE, Canvas
from ushering_adze.core.show.edits import with_region


class FedPart(NamedTuple):
    """A part of a surface that takes its picture from one output: an LED wall's raster, one projector, one monitor, a
    stream.
    """

    surface: str
    name: str
    width: int
    height: int
    projector: str | None = None
    monitor: int | None = None

    @property
    def key(self) -> tuple[str, str | None, int | None]:
        """What tells it from every other part."""
        return self.surface, self.projector, self.monitor


def fed_parts(surface: Surface) -> list[FedPart]:
    """The parts of a surface that each take a picture of their own, in order."""
    if isinstance(surface, Projection):
        return [FedPart(surface.id, p.name, p.width, p.height, projector=p.id) for p in surface.projectors]
    if isinstance(surface, MonitorWall) and surface.each:
        count = len(surface.scattered) or surface.columns * surface.rows
        w, h = surface.monitor_width, surface.monitor_height
        return [FedPart(surface.id, f"{surface.name} {n}", w, h, monitor=n) for n in range(1, count + 1)]
    width, height = surface.pixels
    return [FedPart(surface.id, surface.name, width, height)]


def feeding(show: Show, part: FedPart) -> list[Region]:
    """The regions that feed a part, mirrors last.

    Parameters
    ----------
    show : Show
    part : FedPart
        Of a surface.

    Returns
    -------
    list[Region]
    """
    return sorted(show.fed.get(part.key, ()), key=lambda r: r.mirror)


def fed_by(show: Show, part: FedPart) -> str | None:
    """The id of the output that feeds a part, or None.

    Parameters
    ----------
    show : Show
    part : FedPart
        Of a surface.

    Returns
    -------
    str | None
        In a sentence; None if nothing is.
    """
    found = feeding(show, part)
    return found[0].output if found else None


def landing_rect(region: Region) -> Rect:
    """The upright rectangle of the raster around a region's landing, in whole pixels."""
    landing = region.landing
    if isinstance(landing, RectLanding):
        return Rect(landing.x, landing.y, landing.w, landing.h)
    points = landing.points if isinstance(landing, MeshLanding) else landing.corners
    xs, ys = [c[0] for c in points], [c[1] for c in points]
    x, y = floor(min(xs) + 1e-6), floor(min(ys) + 1e-6)
    return Rect(x, y, ceil(max(xs) - 1e-6) - x, ceil(max(ys) - 1e-6) - y)


def claims(show: Show, output: str) -> list[Region]:
    """The regions that land on an output, in the order of the document.

    Parameters
    ----------
    show : Show
    output : str
        Which output.

    Returns
    -------
    list[Region]
    """
    return [r for _, r in show.landing_on.get(output, ())]


def claimed_by(show: Show, output: str, where: Rect, but: str | None = None) -> Region | None:
    """The first region whose area on the raster shares pixels with ``where``, leaving out the region ``but`` and
    mirrors.

    Parameters
    ----------
    show : Show
    output : str
        Which output.
    where : Rect
        In the room, in millimetres.
    but : str | None, optional
        Which one is left out.

    Returns
    -------
    Region | None
    """
    return next(
        (r for r in claims(show, output) if r.id != but and not r.mirror and not landing_rect(r).meet(where).empty),
        None,
    )


def offset_of(show: Show, part: FedPart) -> Rect | None:
    """Where a part lies in the raster of the output that feeds it; None while nothing does.

    Parameters
    ----------
    show : Show
    part : FedPart
        Of a surface.

    Returns
    -------
    Rect | None
    """
    found = feeding(show, part)
    return landing_rect(found[0]) if found else None


def free_place(show: Show, output: Output, width: int, height: int) -> Rect | None:
    """The first free place of a size on an output's raster, from the top left in rows; None if there is none.

    Parameters
    ----------
    show : Show
    output : Output
        Which output.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    Rect | None
    """
    raster = Rect(0, 0, output.timing.width, output.timing.height)
    taken = [landing_rect(r) for r in claims(show, output.id)]
    xs = sorted({0, *(t.right for t in taken)})
    ys = sorted({0, *(t.foot for t in taken)})
    for y in ys:
        for x in xs:
            where = Rect(x, y, width, height)
            if raster.holds(where) and all(where.meet(t).empty for t in taken):
                return where
    return None


def _place_on_canvas(show: Show, part: FedPart) -> tuple[Canvas, Rect]:
    """Where a new region takes its picture from: beside its surface's other regions if it has any, else right of all on
    the first canvas.
    """
    if not show.canvases:
        return Canvas(id="main", name="Main", width=part.width, height=part.height), Rect(0, 0, part.width, part.height)
    siblings = [(c, r) for c, r in show.regions() if r.surface == part.surface]
    canvas = siblings[-1][0] if siblings else show.canvases[0]
    surface = show.surface(part.surface)
    if siblings:
        last = siblings[-1][1]
        x, y = last.x + last.w, last.y
        if isinstance(surface, Projection):
            order = [p.id for p in surface.projectors]
            first = siblings[0][1]
            if first.projector in order and part.projector in order:
                mine, theirs = (
                    surface.offsets[order.index(part.projector)],
                    surface.offsets[order.index(first.projector)],
                )
                x, y = first.x + mine[0] - theirs[0], first.y + mine[1] - theirs[1]
    else:
        x, y = max((r.x + r.w for r in canvas.regions), default=0), 0
    x = max(0, x)
    if x + part.width > MAX_SIDE:
        raise ShowError(
            [Fault(canvas.name, f"there is no room for {part.width} px more on this canvas; it ends at {MAX_SIDE} px")]
        )
    return canvas, Rect(x, y, part.width, part.height)


def bound(show: Show, output: str, part: FedPart) -> Show:
    """The show with a part fed by an output.

    A part that another output feeds is taken over only if it is unbound first, and no area of the raster is given away
    twice.

    Parameters
    ----------
    show : Show
    output : str
        Which output.
    part : FedPart
        Of a surface.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        Naming who has the part, or the raster, already.
    """
    out = show.output(output)
    present = feeding(show, part)
    if present and present[0].output == output:
        return show
    if present:
        first = show.output(present[0].output)
        raise ShowError(
            [
                Fault(
                    part.name,
                    f'already takes its picture from {first.number} {first.name} (region "{present[0].name}"); '
                    f"unbind it there before {out.number} {out.name} feeds it",
                )
            ]
        )
    where = _room_for(show, out, part)
    canvas, rect = _place_on_canvas(show, part)
    region = Region(
        id=new_id(part.name, {r.id for _, r in show.regions()}),
        name=part.name[:80],
        x=rect.x,
        y=rect.y,
        w=rect.w,
        h=rect.h,
        output=output,
        landing=RectLanding(x=where.x, y=where.y, w=where.w, h=where.h),
        surface=part.surface,
        projector=part.projector,
        monitor=part.monitor,
    )
    grown = canvas.model_copy(
        update={
            "regions": (*canvas.regions, region),
            "width": max(canvas.width, rect.right),
            "height": max(canvas.height, rect.foot),
        }
    )
    if canvas.id in {c.id for c in show.canvases}:
        canvases = tuple(grown if c.id == canvas.id else c for c in show.canvases)
    else:
        canvases = (grown,)
    return show.model_copy(update={"canvases": canvases})


def _room_for(show: Show, out: Output, part: FedPart) -> Rect:
    """The first free place for a part on an output's raster.  Raises ShowError naming who has it."""
    raster = Rect(0, 0, out.timing.width, out.timing.height)
    where = free_place(show, out, part.width, part.height)
    if where is None:
        if part.width > raster.w or part.height > raster.h:
            raise ShowError(
                [
                    Fault(
                        out.name,
                        f"its raster of {raster.w}×{raster.h} px is smaller than {part.name}, "
                        f"{part.width}×{part.height} px; choose a larger timing",
                    )
                ]
            )
        first_region = claimed_by(show, out.id, Rect(0, 0, part.width, part.height)) or claims(show, out.id)[0]
        at = landing_rect(first_region)
        raise ShowError(
            [
                Fault(
                    out.name,
                    f'the area {at.w}×{at.h}+{at.x}+{at.y} of its raster is already taken by "{first_region.name}"; '
                    f"{part.name} needs {part.width}×{part.height} px; unbind that first, or use another output",
                )
            ]
        )
    return where


def rebound(show: Show, output: str, part: FedPart) -> Show:
    """The show with a part fed by another output; where on its canvas the picture is taken from stays as it is.

    Parameters
    ----------
    show : Show
    output : str
        Which output.
    part : FedPart
        Of a surface.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        Naming who has the raster already.
    """
    present = [r for r in feeding(show, part) if not r.mirror]
    if len(present) != 1:
        return bound(unbound(show, part), output, part)
    if present[0].output == output:
        return show
    where = _room_for(show, show.output(output), part)
    region = present[0].model_copy(
        update={"output": output, "landing": RectLanding(x=where.x, y=where.y, w=where.w, h=where.h)}
    )
    return with_region(show, region)


def unbound(show: Show, part: FedPart) -> Show:
    """The show with nothing feeding a part.

    Parameters
    ----------
    show : Show
    part : FedPart
        Of a surface.

    Returns
    -------
    Show
        With the edit.
    """
    canvases = tuple(
        c.model_copy(update={"regions": tuple(r for r in c.regions if (r.surface, r.projector, r.monitor) != part.key)})
        for c in show.canvases
    )
    return show.model_copy(update={"canvases": canvases})
