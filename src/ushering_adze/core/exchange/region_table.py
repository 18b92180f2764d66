"""Regions as a table: CSV, TSV or rows, out and in."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from pydantic import ValidationError

from ushering_adze.core.layout.binding import landing_rect, new_id
from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.layout.regions import fitted, landing_for, with_regions
from ushering_adze.core.show import Fault, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.edits import with_new_region
from ushering_adze.core.show.rigging import sentence_of

COLUMNS = ("name", "canvas", "x", "y", "w", "h", "output", "out_x", "out_y")
REQUIRED = ("name", "x", "y", "w", "h")
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
    """One region as a row: where it is, and where it lands; None where a table says nothing.  ``line`` counts from 1."""

    line: int
    name: str
    canvas: str | None
    rect: Rect
    output: str | None
    out_x: int | None
    out_y: int | None


def region_rows(show: Show) -> list[dict[str, Any]]:
    """Every region as plain values, in the columns of the table; what lands is the top left of its area on the raster."""
    rows = []
    for canvas, region in show.regions():
        at = landing_rect(region)
        rows.append({"name": region.name, "canvas": canvas.id, "x": region.x, "y": region.y, "w": region.w, "h": region.h,
                     "output": region.output, "out_x": at.x, "out_y": at.y})
    return rows


def as_table(show: Show, mark: str = ",") -> str:
    """The regions as CSV (RFC 4180, with line feeds), or TSV with a tab as ``mark``.

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
    body = cell.lower().replace("px", "").replace("\u202f", "").replace(" ", "").replace(",", ".")
    try:
        value = float(body)
    except ValueError:
        raise ShowError([Fault(f"row {line}", f'{column} is "{cell}", which is no number; correct it')]) from None
    if value != round(value) or abs(value) > 1e6:
        raise ShowError([Fault(f"row {line}", f"{column} is {cell}; regions start and end on whole pixels")])
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
    missing = [c for c in REQUIRED if c not in found]
    if missing:
        raise ShowError([Fault("row 1", f'no column "{missing[0]}" among {", ".join(lines[0])}; match it by hand or name it so')])
    rows: list[Row] = []
    faults: list[Fault] = []
    for n, line in enumerate(lines[1:], 2):
        cells = {c: line[k] if k < len(line) else "" for c, k in found.items()}
        try:
            numbers = {c: _whole(cells[c], n, c) for c in ("x", "y", "w", "h")}
            for side in ("w", "h"):
                if numbers[side] < 1:
                    raise ShowError([Fault(f"row {n}", f"{side} is {numbers[side]}; a region is at least 1 px wide and high")])
            if max(map(abs, numbers.values())) > 32768:
                most = max(numbers.values(), key=abs)
                raise ShowError([Fault(f"row {n}", f"{most} px is past the largest canvas, 32768 px; check the digits")])
            out = {c: _whole(cells[c], n, c) if cells.get(c) else None for c in ("out_x", "out_y")}
            rows.append(Row(n, (cells["name"] or f"Region {n - 1}")[:80], cells.get("canvas") or None, Rect(**numbers),
                            cells.get("output") or None, out["out_x"], out["out_y"]))
        except ShowError as error:
            faults += error.faults
    return rows, faults


def _known(items: Iterable[Any], word: str | None, default: str) -> str | None:
    """The id of the item that a cell names by id, name or number."""
    if word is None:
        return default
    folded = word.casefold()
    return next((i.id for i in items if folded in (i.id, i.name.casefold(), str(getattr(i, "number", "\0")))), None)


def with_rows(show: Show, rows: Iterable[Row], canvas: str | None = None, output: str | None = None) -> tuple[Show, list[Fault], int]:
    """The show with rows taken in: a row whose name is known on its canvas changes that region, others add one.

    Parameters
    ----------
    canvas, output : str, optional
        Ids for rows that name none; the first ones of the show by default.

    Returns
    -------
    show : Show
        With what is right.
    faults : list of Fault
        Rows that name an unknown canvas or output, or that cover the area of an earlier row on the same output.
    count : int
        Of the rows taken in.

    Raises
    ------
    ShowError
        If the show has no canvas or no output to put regions on.
    """
    if not show.canvases or not show.outputs:
        raise ShowError([Fault("", "this show has no canvas or no output yet; add them in Rig and Map first")])
    faults: list[Fault] = []
    landed: dict[str, list[tuple[Rect, int]]] = {}
    count = 0
    for row in rows:
        home = _known(show.canvases, row.canvas, canvas or show.canvases[0].id)
        goes = _known(show.outputs, row.output, output or show.outputs[0].id)
        where = f"row {row.line}"
        if home is None:
            faults.append(Fault(where, f'no canvas "{row.canvas}"; there are: {", ".join(c.id for c in show.canvases)}'))
            continue
        if goes is None:
            faults.append(Fault(where, f'no output "{row.output}"; there are: {", ".join(o.id for o in show.outputs)}'))
            continue
        old = next((r for r in show.canvas(home).regions if r.name == row.name), None)
        present = old.landing if old is not None else None
        if row.out_x is not None and row.out_y is not None:
            turn = {"turn": present.turn, "flip": present.flip} if isinstance(present, RectLanding) else {}
            quarter = turn.get("turn") in (90, 270)
            size = {"w": row.rect.h, "h": row.rect.w} if quarter else {"w": row.rect.w, "h": row.rect.h}
            if isinstance(present, RectLanding) and old is not None and not old.exact:
                size = {"w": present.w, "h": present.h}
            lands = RectLanding(x=row.out_x, y=row.out_y, **size, **turn)
        else:
            kept = fitted(old, row.rect).landing if old is not None and old.output == goes else None
            lands = kept if isinstance(kept, RectLanding) else landing_for(show, goes, row.rect.w, row.rect.h)
        at = Rect(lands.x, lands.y, lands.w, lands.h)
        clash = next((line for other, line in landed.get(goes, []) if not other.meet(at).empty), None)
        if clash is not None:
            faults.append(Fault(where, f"{row.name} lands on the same pixels of {goes} as row {clash}; correct out_x and out_y"))
            continue
        try:
            if old is not None:
                show = with_regions(show, {old.id: old.model_copy(update={**row.rect._asdict(), "output": goes, "landing": lands})})
            else:
                region = Region(id=new_id(row.name, {r.id for _, r in show.regions()}), name=row.name, **row.rect._asdict(), output=goes,
                                landing=lands)
                show = with_new_region(show, home, region)
        except ValidationError as error:
            faults.append(Fault(where, sentence_of(error)))
            continue
        landed.setdefault(goes, []).append((at, row.line))
        count += 1
    return show, faults, count


def rows_of_show(other: Show) -> list[Row]:
    """The regions of another show as rows, their canvas and output by name."""
    rows = []
    for n, (canvas, region) in enumerate(other.regions(), 1):
        at = landing_rect(region)
        rows.append(Row(n, region.name, canvas.id, Rect(region.x, region.y, region.w, region.h), region.output, at.x, at.y))
    return rows
