"""Edits of regions, many at once: placing, copying, reflecting, and making them from what is rigged.

Every function takes a show and gives the next one.  Regions that are one pixel to one pixel stay so: their landing
follows their size.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

from pydantic import ValidationError

from ushering_adze.core.displays.binding import free_place
from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.plane.arrange import Axis, box_around, in_grid, reflected
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Fault, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.canvas import MAX_SIDE
from ushering_adze.core.show.edits import changed, with_new_region
from ushering_adze.core.show.rigging import sentence_of

Place = Callable[[list[Rect]], list[Rect]]


def rect_of(region: Region) -> Rect:
    """Where a region lies on its canvas."""
    return Rect(region.x, region.y, region.w, region.h)


def face_of(regions: Iterable[Region]) -> Rect:
    """The canvas rectangle around regions; empty for none."""
    face = Rect(0, 0, 0, 0)
    for region in regions:
        face = face.join(rect_of(region))
    return face


def picked(show: Show, ids: Iterable[str]) -> list[tuple[Canvas, Region]]:
    """These regions with their canvases, in the order of the document; unknown ids are left out.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    list[tuple[Canvas, Region]]
    """
    wanted = set(ids)
    if len(wanted) < 2:
        return [show.homes[id] for id in wanted if id in show.homes]
    return [home for id, home in show.homes.items() if id in wanted]


def with_groups(show: Show, ids: Iterable[str]) -> list[str]:
    """These regions and all others of their groups, in the order of the document.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    list[str]
    """
    wanted = set(ids)
    groups = {(c.id, r.group) for c, r in picked(show, wanted) if r.group}
    if not groups:
        return [r.id for _, r in picked(show, wanted)]
    return [r.id for c, r in show.regions() if r.id in wanted or (c.id, r.group) in groups]


def with_regions(show: Show, regions: Mapping[str, Region]) -> Show:
    """The show with these regions replaced, by id.

    Parameters
    ----------
    show : Show
    regions : Mapping[str, Region]
        Which regions.

    Returns
    -------
    Show
        With the edit.
    """
    canvases, touched = [], {show.homes[id][0].id for id in regions if id in show.homes}
    for canvas in show.canvases:
        if canvas.id in touched:
            canvas = canvas.model_copy(update={"regions": tuple(regions.get(r.id, r) for r in canvas.regions)})
        canvases.append(canvas)
    return show.model_copy(update={"canvases": tuple(canvases)})


def without_regions(show: Show, ids: Iterable[str]) -> Show:
    """The show without these regions.

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
    gone = set(ids)
    return show.model_copy(
        update={
            "canvases": tuple(
                c.model_copy(update={"regions": tuple(r for r in c.regions if r.id not in gone)})
                if any(r.id in gone for r in c.regions)
                else c
                for c in show.canvases
            )
        }
    )


def fitted(region: Region, rect: Rect) -> Region:
    """A region at another place of its canvas; what was one to one stays so.

    Parameters
    ----------
    region : Region
        Which region.
    rect : Rect
        In whole pixels.

    Returns
    -------
    Region

    Raises
    ------
    ShowError
        If a side is under 1 px or past the largest canvas.
    """
    if min(rect.w, rect.h) < 1 or max(rect.w, rect.h, abs(rect.x), abs(rect.y)) > MAX_SIDE:
        raise ShowError(
            [
                Fault(
                    region.name, f"{rect.w} × {rect.h} px at {rect.x}, {rect.y} cannot be: sides are 1 to {MAX_SIDE} px"
                )
            ]
        )
    update: dict[str, object] = rect._asdict()
    landing = region.landing
    if isinstance(landing, RectLanding) and region.exact and (rect.w, rect.h) != (region.w, region.h):
        w, h = (rect.h, rect.w) if landing.turn in (90, 270) else (rect.w, rect.h)
        update["landing"] = landing.model_copy(update={"w": w, "h": h})
    return region.model_copy(update=update)


def placed(show: Show, rects: Mapping[str, Rect]) -> Show:
    """The show with regions at other places of their canvases, by id.

    Parameters
    ----------
    show : Show
    rects : Mapping[str, Rect]
        In whole pixels.

    Returns
    -------
    Show
        With the edit.
    """
    return with_regions(show, {r.id: fitted(r, rects[r.id]) for _, r in picked(show, rects)})


def moved(show: Show, ids: Iterable[str], dx: int, dy: int) -> Show:
    """The show with regions, and the rest of their groups, moved by whole pixels.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    dx : int
        Columns to the right.
    dy : int
        Rows down.

    Returns
    -------
    Show
        With the edit.
    """
    return placed(show, {r.id: rect_of(r).moved(dx, dy) for _, r in picked(show, with_groups(show, ids))})


def units(show: Show, ids: Iterable[str]) -> list[list[Region]]:
    """The regions as they move together: groups whole, others one by one; those of one canvas only, that of the first.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.

    Returns
    -------
    list[list[Region]]
    """
    found = picked(show, with_groups(show, ids))
    made: dict[str, list[Region]] = {}
    for canvas, region in found:
        if canvas.id == found[0][0].id:
            made.setdefault(f"group {region.group}" if region.group else f"region {region.id}", []).append(region)
    return list(made.values())


def arranged(show: Show, ids: Iterable[str], place: Place) -> Show:
    """The show with regions arranged by a function of their rectangles; a group is one rectangle and moves as a whole.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    place : Place
        How rectangles are placed anew.

    Returns
    -------
    Show
        With the edit.
    """
    parts = units(show, ids)
    boxes = [box_around([rect_of(r) for r in part]) for part in parts]
    rects: dict[str, Rect] = {}
    for part, box, now in zip(parts, boxes, place(boxes), strict=True):
        for region in part:
            rects[region.id] = now if len(part) == 1 else rect_of(region).moved(now.x - box.x, now.y - box.y)
    return placed(show, rects)


def landing_for(show: Show, output: str, width: int, height: int) -> RectLanding:
    """A landing one to one at the first free place of a raster; at its top left if there is none.

    Parameters
    ----------
    show : Show
    output : str
        Which output.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    RectLanding
    """
    where = free_place(show, show.output(output), width, height) or Rect(0, 0, width, height)
    return RectLanding(x=where.x, y=where.y, w=width, h=height)


def added(
    show: Show,
    canvas: str,
    rects: Sequence[Rect],
    output: str,
    names: Sequence[str] = (),
    colours: Sequence[str | None] = (),
    landings: Sequence[RectLanding] = (),
) -> tuple[Show, list[str]]:
    """The show with new regions on a canvas, landing one to one at the first free places of an output.

    Parameters
    ----------
    show : Show
    canvas : str
        Which canvas.
    rects : Sequence[Rect]
        In whole pixels.
    output : str
        Which output.
    names : Sequence[str], optional
        What they are called.
    colours : Sequence[str | None], optional
        One for each.
    landings : Sequence[RectLanding], optional
        Where each lies on its raster.

    Returns
    -------
    show : Show
    ids : list of str
        Of the new regions.

    Raises
    ------
    ShowError
        If a rectangle is no region.
    """
    ids = []
    taken = {r.id for _, r in show.regions()}
    count = len(show.canvas(canvas).regions)
    for n, rect in enumerate(rects):
        name = names[n] if n < len(names) and names[n] else f"Region {count + n + 1}"
        id = new_id(name, taken)
        taken.add(id)
        ids.append(id)
        try:
            landing = landings[n] if n < len(landings) else landing_for(show, output, rect.w, rect.h)
            region = Region(
                id=id,
                name=name[:80],
                x=rect.x,
                y=rect.y,
                w=rect.w,
                h=rect.h,
                output=output,
                landing=landing,
                colour=colours[n] if n < len(colours) else None,
            )
        except ValidationError as error:
            raise ShowError([Fault(name, sentence_of(error))]) from None
        show = with_new_region(show, canvas, region)
    return show, ids


def _copy_name(name: str, used: set[str]) -> str:
    """A name that is not used yet: the number at its end counted on, or 2 put behind it.

    Examples
    --------
    >>> _copy_name("Banner 1", {"Banner 1", "Banner 2"}), _copy_name("Plinth", {"Plinth"})
    ('Banner 3', 'Plinth 2')
    """
    stem, _, last = name.rpartition(" ")
    base, start = (stem, int(last)) if stem and last.isdigit() and len(last) < 6 else (name, 1)
    n = start + 1
    while f"{base} {n}" in used:
        n += 1
    return f"{base} {n}"


def _copies(
    show: Show, ids: Iterable[str], made: Callable[[Canvas, list[Region]], list[list[Rect]]]
) -> tuple[Show, list[str]]:
    found = picked(show, ids)
    names = {r.name for _, r in show.regions()}
    new: list[str] = []
    for canvas in show.canvases:
        regions = [r for c, r in found if c.id == canvas.id]
        if not regions:
            continue
        for rects in made(canvas, regions):
            for region, rect in zip(regions, rects, strict=True):
                name = _copy_name(region.name, names)
                names.add(name)
                show, added_ids = added(show, canvas.id, [rect], region.output, [name], [region.colour])
                if isinstance(region.landing, RectLanding) and (
                    region.landing.turn or region.landing.flip or not region.exact
                ):
                    copy = next(r for _, r in show.regions() if r.id == added_ids[0])
                    at = landing_for(
                        without_regions(show, added_ids), region.output, region.landing.w, region.landing.h
                    )
                    turned = at.model_copy(update={"turn": region.landing.turn, "flip": region.landing.flip})
                    show = with_regions(show, {copy.id: copy.model_copy(update={"landing": turned})})
                new += added_ids
    return show, new


def duplicated(
    show: Show, ids: Iterable[str], columns: int = 1, rows: int = 1, step_x: int = 0, step_y: int = 0
) -> tuple[Show, list[str]]:
    """The show with copies in rows and columns; the originals are the first of each.  One column and one row copy in
    place.

    Copies feed no surface yet, and land at the first free places of their output.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    columns : int, optional
        How many, from left to right.
    rows : int, optional
        How many, from top to bottom.
    step_x : int, optional
        Pixels from one to the next, to the right.
    step_y : int, optional
        Pixels from one to the next, down.

    Returns
    -------
    show : Show
    ids : list of str
        Of the copies.
    """
    if columns < 1 or rows < 1 or columns * rows > 4096:
        raise ShowError([Fault("", f"{columns} × {rows} copies cannot be made; 1 to 4096 in all can")])
    if columns == rows == 1:
        return _copies(show, ids, lambda canvas, regions: [[rect_of(r) for r in regions]])

    def made(canvas: Canvas, regions: list[Region]) -> list[list[Rect]]:
        grids = [in_grid(rect_of(r), columns, rows, step_x, step_y)[1:] for r in regions]
        return [list(copies) for copies in zip(*grids, strict=True)]

    return _copies(show, ids, made)


def reflected_copies(show: Show, ids: Iterable[str], axis: Axis) -> tuple[Show, list[str]]:
    """The show with copies on the other side of the canvas' middle, at mirrored places.

    Parameters
    ----------
    show : Show
    ids : Iterable[str]
        Which ones, by their ids.
    axis : Axis
        Along x or along y.

    Returns
    -------
    show : Show
    ids : list of str
        Of the copies.
    """
    return _copies(
        show,
        ids,
        lambda canvas, regions: [
            reflected([rect_of(r) for r in regions], axis, Rect(0, 0, canvas.width, canvas.height))
        ],
    )


FIELDS = ("x", "y", "w", "h", "lands x", "lands y", "lands w", "lands h")
"""Fields of regions that take arithmetic; those that land are on the raster."""


def field_value(region: Region, field: str) -> int | None:
    """What a field of a region holds; None where its landing is no rectangle.

    Parameters
    ----------
    region : Region
        Which region.
    field : str
        Name of the field.

    Returns
    -------
    int | None
    """
    if not field.startswith("lands "):
        return int(getattr(region, field))
    return int(getattr(region.landing, field[6:])) if isinstance(region.landing, RectLanding) else None


def with_typed(show: Show, ids: Iterable[str], field: str, text: str) -> Show:
    """The show with one field of many regions set to what was typed, worked out for each region from its own numbers.

    Parameters
    ----------
    field : str
        One of `FIELDS`.
    text : str
        As in `number_from`: ``+50``, ``*2``, ``50%`` of the canvas or raster, ``w/2``; also ``n``, the region's count
        from 0, so that ``100+n*320`` deals them out.

    Raises
    ------
    EntryError, ShowError
        Saying what cannot be; nothing is changed.

    Examples
    --------
    >>> region = Region(id="a", name="A", x=10, y=0, w=8, h=4, output="o", landing=RectLanding(x=0, y=0, w=8, h=4))
    >>> from ushering_adze.core.show import Output, Timing
    >>> show = Show(name="S", canvases=[Canvas(id="c", name="C", width=100, height=50, regions=[region])],
    ...             outputs=[Output(id="o", number=1, name="O", timing=Timing(width=100, height=50, rate=60))])
    >>> [r.x for _, r in with_typed(show, ["a"], "x", "50%").regions()]
    [50]
    """
    new: dict[str, Region] = {}
    for n, (canvas, region) in enumerate(picked(show, ids)):
        now = field_value(region, field)
        if now is None:
            raise EntryError(f"{region.name} lands as a quad; it is shaped in Align")
        raster = show.output(region.output).timing
        whole = (canvas.width, canvas.height) if not field.startswith("lands ") else (raster.width, raster.height)
        names = {k: float(getattr(region, k)) for k in "xywh"} | {"n": float(n)}
        key = field[-1]
        value = number_from(text, now=now, whole=whole[0 if key in "xw" else 1], names=names)
        if abs(value - round(value)) > 1e-6:
            raise EntryError(
                f"{region.name} would be at {value:.3f}, and regions start and end on whole pixels; round it"
            )
        if field.startswith("lands "):
            try:
                new[region.id] = changed(region, landing=changed(region.landing, **{key: round(value)}))
            except ValidationError as error:
                raise EntryError(sentence_of(error)) from None
        else:
            new[region.id] = fitted(region, rect_of(region)._replace(**{key: round(value)}))
    return with_regions(show, new)


def shared_value(regions: Iterable[Region], field: str) -> int | None:
    """What all these regions hold in a field, or None if they differ.

    Parameters
    ----------
    regions : Iterable[Region]
        Which regions.
    field : str
        Name of the field.

    Returns
    -------
    int | None
    """
    values = {field_value(r, field) for r in regions}
    return values.pop() if len(values) == 1 else None
