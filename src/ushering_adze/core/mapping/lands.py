"""Landings: where regions lie on the rasters of their outputs, how they are turned, and what scale that makes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Literal

from ushering_adze.core.displays.binding import free_place, landing_rect
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.mapping.regions import added, landing_for, picked, rect_of, with_regions
from ushering_adze.core.plane.arrange import box_around, divided, packed
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Fault, LedWall, Output, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.edits import with_new_region

Turn = Literal[0, 90, 180, 270]


def dealt_out(show: Show, canvas: str, rects: Iterable[Rect], output: str) -> tuple[Show, list[str]]:
    """The show with new regions, each on the next output from ``output`` on whose raster has room for it.

    Parameters
    ----------
    show : Show
    canvas : str
        Which canvas.
    rects : Iterable[Rect]
        In whole pixels.
    output : str
        Which output.

    Returns
    -------
    show : Show
    ids : list of str
        Of the new regions; what no raster has room for lands on the output it was to begin with, for the pixel check to
        tell.
    """
    ids: list[str] = []
    order = [o.id for o in show.outputs]
    at = order.index(output)
    for rect in rects:
        turns = [(at + k) % len(order) for k in range(len(order))]
        at = next((n for n in turns if free_place(show, show.output(order[n]), rect.w, rect.h) is not None), at)
        show, new = added(show, canvas, [rect], order[at])
        ids += new
    return show, ids


def _landed(region: Region, x: int, y: int) -> Region:
    landing = region.landing
    if not isinstance(landing, RectLanding):
        raise ShowError([Fault(region.name, "it lands as a quad, shaped in Align; make it a rectangle first")])
    return region.model_copy(update={"landing": landing.model_copy(update={"x": x, "y": y})})


def _blocks(show: Show, ids: Iterable[str]) -> Iterator[tuple[Output, list[Region]]]:
    """These regions by the output they land on."""
    regions = [r for _, r in picked(show, ids)]
    for output in dict.fromkeys(r.output for r in regions):
        yield show.output(output), [r for r in regions if r.output == output]


def landed_packed(show: Show, ids: Iterable[str]) -> Show:
    """The show with regions packed on their outputs: from the top left in rows, in the order of the document.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    Show
        With the edit.

    Examples
    --------
    >>> from ushering_adze.core.show import Canvas, Output, Timing
    >>> r = tuple(Region(id=i, name=i, x=0, y=0, w=60, h=20, output="o", landing=RectLanding(x=9, y=9, w=60,
    ...     h=20)) for i in "abc")
    >>> show = Show(name="S", canvases=[Canvas(id="c", name="C", width=100, height=50, regions=r)],
    ...             outputs=[Output(id="o", number=1, name="O", timing=Timing(width=128, height=50, rate=60))])
    >>> [(r.landing.x, r.landing.y) for _, r in landed_packed(show, "abc").regions()]
    [(0, 0), (60, 0), (0, 20)]
    """
    new: dict[str, Region] = {}
    for output, mine in _blocks(show, ids):
        sizes = [(landing_rect(r).w, landing_rect(r).h) for r in mine]
        for region, at in zip(mine, packed(sizes, output.timing.width), strict=True):
            new[region.id] = _landed(region, at.x, at.y)
    return with_regions(show, new)


def landed_as_drawn(show: Show, ids: Iterable[str]) -> Show:
    """The show with regions lying to each other on the raster as they do on the canvas, the first box at its top left.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    Show
        With the edit.
    """
    new: dict[str, Region] = {}
    for _, mine in _blocks(show, ids):
        box = box_around([rect_of(r) for r in mine])
        for region in mine:
            new[region.id] = _landed(region, region.x - box.x, region.y - box.y)
    return with_regions(show, new)


def landed_centred(show: Show, ids: Iterable[str]) -> Show:
    """The show with regions, as one block for each output, in the middle of its raster; an odd rest goes to the right
    and below.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    Show
        With the edit.
    """
    new: dict[str, Region] = {}
    for output, mine in _blocks(show, ids):
        box = box_around([landing_rect(r) for r in mine])
        timing = output.timing
        dx, dy = (timing.width - box.w) // 2 - box.x, (timing.height - box.h) // 2 - box.y
        for region in mine:
            at = landing_rect(region)
            new[region.id] = _landed(region, at.x + dx, at.y + dy)
    return with_regions(show, new)


def one_to_one(show: Show, ids: Iterable[str]) -> Show:
    """The show with landings as large as their regions, turned as they are, their top left where it was.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    Show
        With the edit.
    """
    new = {}
    for _, region in picked(show, ids):
        landing = region.landing
        if not isinstance(landing, RectLanding):
            raise ShowError([Fault(region.name, "it lands as a quad, shaped in Align; make it a rectangle first")])
        w, h = (region.h, region.w) if landing.turn in (90, 270) else (region.w, region.h)
        new[region.id] = region.model_copy(
            update={"landing": landing.model_copy(update={"w": w, "h": h}), "scaled": False}
        )
    return with_regions(show, new)


def turned(show: Show, ids: Iterable[str], turn: Turn | None = None, flip: bool | None = None, by: int = 0) -> Show:
    """The show with landings turned: to ``turn``, or by a further ``by`` degrees clockwise; and flipped, if ``flip`` is
    given.

    The top left of each landing stays where it is.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    turn : Turn | None, optional
        Degrees clockwise: 0, 90, 180 or 270.
    flip : bool | None, optional
        Whether left and right change places, before it is turned.
    by : int, optional
        Degrees clockwise.

    Returns
    -------
    Show
        With the edit.
    """
    new = {}
    for _, region in picked(show, ids):
        landing = region.landing
        if not isinstance(landing, RectLanding):
            raise ShowError([Fault(region.name, "it lands as a quad, shaped in Align; make it a rectangle first")])
        to = (landing.turn + by) % 360 if turn is None else turn
        w, h = landing.native if to not in (90, 270) else landing.native[::-1]
        update = {"turn": to, "w": w, "h": h, "flip": landing.flip if flip is None else flip}
        new[region.id] = region.model_copy(update={"landing": landing.model_copy(update=update)})
    return with_regions(show, new)


def to_output(show: Show, ids: Iterable[str], output: str) -> Show:
    """The show with regions on another output, at its first free places; their surfaces move with them.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    output : str
        Which output.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        If a surface of theirs is fed by regions that stay behind.
    """
    chosen = [r for _, r in picked(show, ids)]
    moving = {r.id for r in chosen}
    for region in chosen:
        left = [
            r
            for r in show.fed.get((region.surface or "", region.projector, region.monitor), ())
            if r.id not in moving and not r.mirror
        ]
        if region.surface is not None and not region.mirror and left:
            raise ShowError(
                [
                    Fault(
                        region.name,
                        f'its surface is also fed by "{left[0].name}", which stays on '
                        f"{show.output(left[0].output).name}; select both",
                    )
                ]
            )
    for region in chosen:
        at = landing_rect(region)
        old = region.landing
        place = landing_for(show, output, at.w, at.h)
        if isinstance(old, RectLanding):
            place = place.model_copy(update={"turn": old.turn, "flip": old.flip})
        show = with_regions(show, {region.id: region.model_copy(update={"output": output, "landing": place})})
    return show


def mirrored_on(show: Show, ids: Iterable[str], output: str) -> tuple[Show, list[str]]:
    """The show with regions shown a second time, on another output, at its first free places.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    output : str
        Which output.

    Returns
    -------
    show : Show
    ids : list of str
        Of the mirrors.
    """
    ids_made = []
    for canvas, region in picked(show, ids):
        at = landing_rect(region)
        place = landing_for(show, output, at.w, at.h)
        if isinstance(region.landing, RectLanding):
            place = place.model_copy(update={"turn": region.landing.turn, "flip": region.landing.flip})
        id = new_id(f"{region.name} on {output}", {r.id for _, r in show.regions()})
        mirror = region.model_copy(update={"id": id, "output": output, "landing": place, "mirror": True, "group": ""})
        show = with_new_region(show, canvas.id, mirror)
        ids_made.append(id)
    return show, ids_made


def scale_words(show: Show, region: Region) -> str:
    """The scale of a landing, always in words.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> region = Region(id="a", name="A", x=0, y=0, w=100, h=50, output="o", landing=RectLanding(x=0, y=0, w=137, h=50))
    >>> scale_words(Show(name="S"), region)
    '×1.37 across, ×1 down, resampled'
    """
    surface = next((s for s in show.surfaces if s.id == region.surface), None)
    unit = "LED" if isinstance(surface, LedWall) else "px"
    landing = region.landing
    if not isinstance(landing, RectLanding):
        return "bent, resampled"
    turn = (" · flipped" if landing.flip else "") + (f" · turned {landing.turn}°" if landing.turn else "")
    if region.exact:
        return f"1 px = 1 {unit}, not scaled{turn}"
    across, down = landing.native[0] / region.w, landing.native[1] / region.h
    if abs(across - down) < 5e-4:
        return f"×{across:.3g}, resampled{turn}"
    return f"×{across:.3g} across, ×{down:.3g} down, resampled{turn}"


def offset_told(show: Show, ids: Iterable[str]) -> str:
    """Where the block of these landings lies in its raster, as it is told to whoever sets the processor.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> from ushering_adze.core.show import Canvas, Output, Timing
    >>> r = Region(id="a", name="A", x=0, y=0, w=2688, h=864, output="o", landing=RectLanding(x=0, y=0, w=2688, h=864))
    >>> show = Show(name="S", canvases=[Canvas(id="c", name="C", width=2688, height=864, regions=[r])],
    ...             outputs=[Output(id="o", number=1, name="O", timing=Timing(width=3840, height=1080, rate=60))])
    >>> offset_told(landed_centred(show, ["a"]), ["a"])
    '2688×864 at 576, 108 of 3840×1080; free left 576, right 576, above 108, below 108'
    """
    regions = [r for _, r in picked(show, ids)]
    if not regions:
        return ""
    timing = show.output(regions[0].output).timing
    box = box_around([landing_rect(r) for r in regions if r.output == regions[0].output])
    return (
        f"{box.w}×{box.h} at {box.x}, {box.y} of {timing.width}×{timing.height}; free left {box.x}, right "
        f"{timing.width - box.right}, above {box.y}, below {timing.height - box.foot}"
    )


def raster_seams(width: int, height: int, columns: int, rows: int) -> list[Rect]:
    """The parts of a raster that the connectors of a gang carry side by side, row by row.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.

    Returns
    -------
    list[Rect]
    """
    return divided(Rect(0, 0, width, height), columns, rows)
