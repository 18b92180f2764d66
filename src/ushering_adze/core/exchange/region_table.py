"""Regions as a table: CSV, TSV or rows, out and in."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

import numpy as np
from pydantic import ValidationError

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.document.entry import EntryError, table_number
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.mapping.bend import points_of, with_points
from ushering_adze.core.mapping.regions import fitted, landing_for, rect_of, with_regions
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Fault, Projection, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.canvas import MAX_SIDE
from ushering_adze.core.show.edits import changed, with_new_region
from ushering_adze.core.show.rigging import sentence_of

COLUMNS = ("name", "canvas", "x", "y", "w", "h", "output", "out_x", "out_y")
_ALIASES = {
    "name": ("name", "region", "label", "screen", "panel", "slice", "id"),
    "canvas": ("canvas", "composition", "map", "page"),
    "x": ("x", "left", "posx", "xpos", "startx", "x0", "canvasx", "inx"),
    "y": ("y", "top", "posy", "ypos", "starty", "y0", "canvasy", "iny"),
    "w": ("w", "width", "sizex", "wpx", "pixelsx", "resx"),
    "h": ("h", "height", "sizey", "hpx", "pixelsy", "resy"),
    "output": ("output", "out", "processor", "port", "destination"),
    "out_x": ("outx", "outputx", "landsx", "destx", "rasterx"),
    "out_y": ("outy", "outputy", "landsy", "desty", "rastery"),
}


class Row(NamedTuple):
    """One region as a row: where it is, and where it lands; None where a table says nothing.  ``line``
    counts from 1.
    """

    line: int
    name: str
    canvas: str | None = None
    x: int | None = None
    y: int | None = None
    w: int | None = None
    h: int | None = None
    output: str | None = None
    out_x: int | None = None
    out_y: int | None = None


def region_rows(show: Show) -> list[dict[str, Any]]:
    """Every region as plain values, in the columns of the table; what lands is the top left of its area on
    the raster.
    """
    rows = []
    for canvas, region in show.regions():
        at = landing_rect(region)
        rows.append(
            {
                "name": region.name,
                "canvas": canvas.id,
                "x": region.x,
                "y": region.y,
                "w": region.w,
                "h": region.h,
                "output": region.output,
                "out_x": at.x,
                "out_y": at.y,
            }
        )
    return rows


def as_table(show: Show, mark: str = ",") -> str:
    """The regions as CSV (RFC 4180, with line feeds), or TSV with a tab as ``mark``.

    Parameters
    ----------
    show : Show
    mark : str, optional
        The mark.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> as_table(Show(name="S"))
    'name,canvas,x,y,w,h,output,out_x,out_y\\n'
    """
    text = io.StringIO()
    writer = csv.DictWriter(text, COLUMNS, delimiter=mark, lineterminator="\n")
    writer.writeheader()
    writer.writerows(region_rows(show))
    return text.getvalue()


def table_lines(text: str) -> list[list[str]]:
    """The cells of a CSV or TSV text; the mark between them is the one most frequent in its first line.

    Raises
    ------
    ShowError
        If it is no table.
    """
    body = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    first = body.split("\n", 1)[0]
    mark = max("\t;,", key=first.count)
    try:
        lines = [[cell.strip() for cell in line] for line in csv.reader(io.StringIO(body), delimiter=mark)]
    except csv.Error as error:
        raise ShowError([Fault("", f"the table cannot be read ({error}); save it again as CSV")]) from None
    lines = [line for line in lines if any(line)]
    if not lines:
        raise ShowError([Fault("", "the table is empty; its first line must hold headings")])
    return lines


def matched_columns(headings: Iterable[str]) -> dict[str, int]:
    """Which column of a table holds what, guessed from the headings.

    Examples
    --------
    >>> matched_columns(["Screen", "Left", "Top", "Width (px)", "Height", "Processor"])
    {'name': 0, 'x': 1, 'y': 2, 'w': 3, 'h': 4, 'output': 5}
    """
    plain = ["".join(c for c in h.lower().split("(")[0] if c.isalnum()) for h in headings]
    found: dict[str, int] = {}
    for column in COLUMNS:
        for alias in _ALIASES[column]:
            if alias in plain and plain.index(alias) not in found.values():
                found[column] = plain.index(alias)
                break
    return found


def _whole(cell: str, line: int, column: str) -> int:
    try:
        value = table_number(cell)
    except EntryError as error:
        raise ShowError([Fault(f"row {line}", f"{column}: {error}")]) from None
    if value != round(value) or abs(value) > 1e6:
        raise ShowError([Fault(f"row {line}", f"{column} is {cell[:40]}; regions start and end on whole pixels")])
    return round(value)


def read_rows(text: str, columns: Mapping[str, int] | None = None) -> tuple[list[Row], list[Fault]]:
    """Read a table of regions.

    Parameters
    ----------
    text : str
        CSV or TSV; the first line holds headings.
    columns : mapping, optional
        Which column holds what, as from `matched_columns`, which is used by default.

    Returns
    -------
    rows : list of Row
        What is right.
    faults : list of Fault
        One for each row that is not, naming the row (headings are row 1) and why.

    Raises
    ------
    ShowError
        If a column that is needed is not there.
    """
    lines = table_lines(text)
    found = dict(columns) if columns is not None else matched_columns(lines[0])
    if "name" not in found:
        raise ShowError(
            [Fault("row 1", f'no column "name" among {", ".join(lines[0])[:200]}; match it by hand or name it so')]
        )
    if not found.keys() - {"name", "canvas"}:
        raise ShowError(
            [
                Fault(
                    "row 1",
                    f"no column tells where regions are among {', '.join(lines[0])[:200]}; match x, y, w and h by hand",
                )
            ]
        )
    rows: list[Row] = []
    faults: list[Fault] = []
    for n, line in enumerate(lines[1:], 2):
        cells = {c: line[k] if k < len(line) else "" for c, k in found.items()}
        try:
            numbers = {c: _whole(cells[c], n, c) for c in ("x", "y", "w", "h", "out_x", "out_y") if cells.get(c)}
            for side in ("w", "h"):
                if numbers.get(side, 1) < 1:
                    raise ShowError(
                        [Fault(f"row {n}", f"{side} is {numbers[side]}; a region is at least 1 px wide and high")]
                    )
            if numbers and max(map(abs, numbers.values())) > MAX_SIDE:
                most = max(numbers.values(), key=abs)
                raise ShowError(
                    [Fault(f"row {n}", f"{most} px is past the largest canvas, {MAX_SIDE} px; check the digits")]
                )
            rows.append(
                Row(n, cells["name"][:80], cells.get("canvas") or None, output=cells.get("output") or None, **numbers)
            )
        except ShowError as error:
            faults += error.faults
    return rows, faults


def _known(items: Iterable[Any], word: str) -> str | None:
    """The id of the item that a cell names by id, name or number."""
    folded, found = word.strip().casefold(), list(items)
    for tells in (
        lambda i: i.id,
        lambda i: i.name.strip(),
        lambda i: str(getattr(i, "number", "\0")),
        lambda i: i.name.strip().casefold(),
    ):
        for item in found:
            if tells(item) in (word, word.strip(), folded):
                return str(item.id)
    return None


class _Names:
    """The regions of a show by canvas and name, each named once for every row: the second row of a name is the second
    region of it.
    """

    def __init__(self, show: Show) -> None:
        self._waiting: dict[tuple[str, str], list[str]] = {}
        for canvas, region in show.regions():
            self._waiting.setdefault((canvas.id, region.name.strip()), []).append(region.id)

    def canvases(self, name: str) -> list[str]:
        """The canvases that have a region of this name that no row has named yet."""
        return [canvas for (canvas, known), ids in self._waiting.items() if known == name.strip() and ids]

    def take(self, canvas: str, name: str) -> str | None:
        """The first region of this name that no row has named yet."""
        ids = self._waiting.get((canvas, name.strip()))
        return ids.pop(0) if ids else None

    def take_by_id(self, canvas: str, name: str, id: str) -> bool:
        """Whether there is a region of this name and id; it is named now."""
        ids = self._waiting.get((canvas, name.strip()), [])
        if id not in ids:
            return False
        ids.remove(id)
        return True


def _must_have_places(show: Show) -> None:
    if not show.canvases or not show.outputs:
        raise ShowError([Fault("", "this show has no canvas or no output yet; add them in Rig and Map first")])


def with_rows(
    show: Show, rows: Iterable[Row], canvas: str | None = None, output: str | None = None
) -> tuple[Show, list[Fault], int]:
    """The show with rows taken in: a row whose name is known changes what it names of that region, others add one.

    What a row does not name stays; a row that says what is there already changes nothing.  A bend that lands elsewhere
    keeps its shape.

    Parameters
    ----------
    canvas, output : str, optional
        Ids for new regions whose rows name none; the first ones of the show by default.

    Returns
    -------
    show : Show
        With what is right.
    faults : list of Fault
        Rows that name an unknown canvas or output, that could be either of several regions, or that are put on the area
        of an earlier row.
    count : int
        Of the rows taken in.

    Raises
    ------
    ShowError
        If the show has no canvas or no output to put regions on.
    """
    _must_have_places(show)
    faults: list[Fault] = []
    landed: dict[str, list[tuple[Rect, int]]] = {}
    names = _Names(show)
    count = 0
    for row in rows:
        where = f"row {row.line}"
        try:
            home = _home_of(show, row, names, canvas)
            goes = None if row.output is None else _known(show.outputs, row.output)
            if row.output is not None and goes is None:
                there = ", ".join(o.id for o in show.outputs)
                raise ShowError([Fault(where, f'no output "{row.output[:40]}"; there are: {there}')])
            known = names.take(home, row.name)
            old = show.homes[known][1] if known is not None else None
            new = (
                _changed(show, row, old, goes)
                if old is not None
                else _made(show, row, goes or output or show.outputs[0].id)
            )
            if old is None or (new.landing, new.output) != (old.landing, old.output):
                at = landing_rect(new)
                clash = next((line for other, line in landed.get(new.output, []) if not other.meet(at).empty), None)
                if clash is not None and isinstance(new.landing, RectLanding):
                    raise ShowError(
                        [
                            Fault(
                                where,
                                f"{new.name} lands on the same pixels of {new.output} as row {clash}; "
                                "correct out_x and out_y",
                            )
                        ]
                    )
            show = (
                with_new_region(show, home, new)
                if old is None
                else show
                if new == old
                else with_regions(show, {old.id: new})
            )
        except (ValidationError, ShowError) as error:
            faults += error.faults if isinstance(error, ShowError) else [Fault(where, sentence_of(error))]
            continue
        if isinstance(new.landing, RectLanding):
            landed.setdefault(new.output, []).append((landing_rect(new), row.line))
        count += 1
    return show, faults, count


def _home_of(show: Show, row: Row, names: _Names, canvas: str | None) -> str:
    """The canvas that a row speaks of."""
    where = f"row {row.line}"
    if row.canvas is not None:
        home = _known(show.canvases, row.canvas)
        if home is None:
            raise ShowError(
                [Fault(where, f'no canvas "{row.canvas[:40]}"; there are: {", ".join(c.id for c in show.canvases)}')]
            )
        return home
    homes = names.canvases(row.name)
    if len(homes) > 1 and canvas not in homes:
        raise ShowError([Fault(where, f'"{row.name}" is on {" and ".join(homes)}; add a column that names its canvas')])
    return homes[0] if len(homes) == 1 else canvas or show.canvases[0].id


def _changed(show: Show, row: Row, old: Region, goes: str | None) -> Region:
    """A region as its row wants it."""
    rect = Rect(
        old.x if row.x is None else row.x,
        old.y if row.y is None else row.y,
        old.w if row.w is None else row.w,
        old.h if row.h is None else row.h,
    )
    new = old if rect == rect_of(old) else fitted(old, rect)
    at = landing_rect(new)
    named = row.out_x is not None or row.out_y is not None
    if goes is not None and goes != old.output:
        new = new.model_copy(update={"output": goes})
        if not named and isinstance(new.landing, RectLanding):
            free = landing_for(show, goes, at.w, at.h)
            new = new.model_copy(update={"landing": new.landing.model_copy(update={"x": free.x, "y": free.y})})
            return new
    dx, dy = (0 if row.out_x is None else row.out_x - at.x), (0 if row.out_y is None else row.out_y - at.y)
    if not dx and not dy:
        return new
    if isinstance(new.landing, RectLanding):
        return changed(new, landing=changed(new.landing, x=at.x + dx, y=at.y + dy))
    return with_points(new, points_of(new.landing) + np.array([dx, dy]))


def _made(show: Show, row: Row, goes: str) -> Region:
    """A new region from a row that says all that it takes."""
    missing = [c for c in ("x", "y", "w", "h") if getattr(row, c) is None]
    if missing:
        raise ShowError(
            [
                Fault(
                    f"row {row.line}",
                    f'no region is called "{row.name}", and a new one needs {" and ".join(missing)} too; fill them in',
                )
            ]
        )
    assert row.w is not None and row.h is not None
    lands = landing_for(show, goes, row.w, row.h)
    x, y = lands.x if row.out_x is None else row.out_x, lands.y if row.out_y is None else row.out_y
    name = row.name.strip() or f"Region {row.line - 1}"
    return Region.model_validate(
        {
            "id": new_id(name, {r.id for _, r in show.regions()}),
            "name": name,
            "x": row.x,
            "y": row.y,
            "w": row.w,
            "h": row.h,
            "output": goes,
            "landing": {"kind": "rect", "x": x, "y": y, "w": row.w, "h": row.h},
        }
    )


def with_show_regions(show: Show, other: Show) -> tuple[Show, list[Fault], int]:
    """The show with the regions of another one taken in, whole: bend, turn, flip, scale, blends, surface and all.

    A region whose name is known on its canvas takes the place of that one; others are added.

    Parameters
    ----------
    show : Show
    other : Show
        The other one.

    Returns
    -------
    show : Show
    faults : list of Fault
        Regions that are left out, because their canvas or output is not here; and those that come without their
        surface, because it is not here or is fed already.
    count : int
        Of the regions taken in.

    Raises
    ------
    ShowError
        If the show has no canvas or no output to put regions on.
    """
    _must_have_places(show)
    faults: list[Fault] = []
    names, count = _Names(show), 0
    fed = {part: regions[-1] for part, regions in show.fed.items() if not regions[-1].mirror}
    homes = {c.id: _known(show.canvases, c.id) or _known(show.canvases, c.name) for c in other.canvases}
    same = {
        r.id for c, r in other.regions() if (home := homes[c.id]) is not None and names.take_by_id(home, r.name, r.id)
    }
    for canvas, region in other.regions():
        there, home = other.output(region.output), homes[canvas.id]
        goes = _known(show.outputs, region.output) or _known(show.outputs, there.name)
        if home is None or goes is None:
            what = f'canvas "{canvas.name}"' if home is None else f'output "{there.name}"'
            faults.append(Fault(region.name, f"this show has no {what}; add it first, then import again"))
            continue
        known = region.id if region.id in same else names.take(home, region.name)
        id = known or (region.id if region.id not in show.homes else new_id(region.name, set(show.homes)))
        new = region.model_copy(update={"id": id, "output": goes})
        wrong = _unfit(show, new, fed)
        if wrong is not None:
            new = new.model_copy(update={"surface": None, "projector": None, "monitor": None, "mirror": False})
            faults.append(Fault(region.name, f"it comes without its surface: {wrong}"))
        if new.surface is not None and not new.mirror:
            fed[new.surface, new.projector, new.monitor] = new
        show = with_regions(show, {id: new}) if known is not None else with_new_region(show, home, new)
        count += 1
    return show, faults, count


def _unfit(show: Show, region: Region, fed: Mapping[tuple[str, str | None, int | None], Region]) -> str | None:
    """Why a region cannot feed its surface in a show; None if it can."""
    if region.surface is None:
        return None
    surface = next((s for s in show.surfaces if s.id == region.surface), None)
    if surface is None:
        return f'this show has no surface "{region.surface}"'
    if region.projector is not None and not (
        isinstance(surface, Projection) and region.projector in {p.id for p in surface.projectors}
    ):
        return f'{surface.name} has no projector "{region.projector}"'
    first = fed.get((region.surface, region.projector, region.monitor))
    if first is not None and not region.mirror and first.id != region.id and first.output != region.output:
        return f'"{first.name}" feeds that part of {surface.name} already, from {first.output}'
    return None
