"""Tables of the rig for fast entry: copied to a spreadsheet and pasted back as TSV or CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple, cast

from pydantic import ValidationError

from ushering_adze.core.document.entry import table_number, told_number
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show import CabinetKind, Card, Fault, Input, LedWall, Model, Output, Show, ShowError
from ushering_adze.core.show.rigging import Shelf, field_of, free_number, sentence_of, with_field

TableName = Literal["inputs", "outputs", "led-walls", "places", "cabinets", "cards"]


class Column(NamedTuple):
    """A column: its heading, the field it shows, and what it must hold."""

    heading: str
    path: str
    kind: Literal["text", "int", "float", "bool", "names"]
    required: bool = False
    most: float = 1e6


class Table(NamedTuple):
    """A kind of table."""

    shelf: Shelf | Literal["cabinets", "cards"]
    words: str
    columns: tuple[Column, ...]
    kind: type[Model] | None

    @property
    def name_path(self) -> str:
        """The field that tells items apart in this table."""
        return next(c.path for c in self.columns if c.heading == "name")


TABLES: dict[TableName, Table] = {
    "inputs": Table(
        "sources",
        "Inputs",
        (
            Column("name", "name", "text", True),
            Column("width", "width", "int", True),
            Column("height", "height", "int", True),
            Column("rate", "rate", "float", True, 1000),
            Column("interlaced", "interlaced", "bool"),
            Column("link", "link", "text"),
            Column("encoding", "encoding", "text"),
            Column("bits", "bits", "int"),
            Column("connector", "connector", "text"),
            Column("protected", "protected", "bool"),
        ),
        Input,
    ),
    "outputs": Table(
        "outputs",
        "Outputs",
        (
            Column("number", "number", "int"),
            Column("name", "name", "text", True),
            Column("width", "timing.width", "int", True),
            Column("height", "timing.height", "int", True),
            Column("rate", "timing.rate", "float", True, 1000),
            Column("link", "signal.link", "text"),
            Column("encoding", "signal.encoding", "text"),
            Column("bits", "signal.bits", "int"),
            Column("connector", "connector", "text"),
        ),
        Output,
    ),
    "led-walls": Table(
        "surfaces",
        "LED walls",
        (
            Column("name", "name", "text", True),
            Column("columns", "columns", "int", True),
            Column("rows", "rows", "int", True),
            Column("cabinet_width_mm", "cabinet.width_mm", "float", True),
            Column("cabinet_height_mm", "cabinet.height_mm", "float", True),
            Column("cabinet_columns_px", "cabinet.columns_px", "int", True),
            Column("cabinet_rows_px", "cabinet.rows_px", "int", True),
            Column("weight_kg", "cabinet.weight_kg", "float"),
            Column("max_watts", "cabinet.max_watts", "float"),
            Column("x_mm", "place.x_mm", "float"),
            Column("foot_mm", "place.foot_mm", "float"),
        ),
        LedWall,
    ),
    "places": Table(
        "surfaces",
        "Places in the room",
        (
            Column("name", "name", "text", True),
            Column("x_mm", "place.x_mm", "float", True),
            Column("foot_mm", "place.foot_mm", "float", True),
        ),
        None,
    ),
    "cabinets": Table(
        "cabinets",
        "Cabinet library",
        (
            Column("name", "cabinet.name", "text", True),
            Column("width_mm", "cabinet.width_mm", "float", True),
            Column("height_mm", "cabinet.height_mm", "float", True),
            Column("columns_px", "cabinet.columns_px", "int", True),
            Column("rows_px", "cabinet.rows_px", "int", True),
            Column("weight_kg", "cabinet.weight_kg", "float"),
            Column("max_watts", "cabinet.max_watts", "float"),
            Column("mean_watts", "cabinet.mean_watts", "float"),
        ),
        CabinetKind,
    ),
    "cards": Table(
        "cards",
        "Cards",
        (
            Column("name", "name", "text", True),
            Column("clock_mhz", "clock_mhz", "float", True),
            Column("connectors", "connectors", "names", True),
        ),
        Card,
    ),
}


def rows_of(show: Show, name: TableName) -> list[Any]:
    """The items a table lists; *Places* lists what hangs in the room.

    Parameters
    ----------
    show : Show
    name : TableName
        What it is called.

    Returns
    -------
    list[Any]
    """
    items = getattr(show, TABLES[name].shelf)
    kind = TABLES[name].kind
    return [i for i in items if (i.place is not None if kind is None else isinstance(i, kind))]


def cell_text(item: Any, column: Column) -> str:
    """What a cell says; empty where there is nothing.

    Parameters
    ----------
    item : Any
        The item as it is.
    column : Column
        Which column.

    Returns
    -------
    str
        In words.
    """
    try:
        value = field_of(item, column.path)
    except AttributeError:
        return ""
    if value is None:
        return ""
    if isinstance(value, tuple):
        return " + ".join(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return told_number(value) if isinstance(value, float) else str(value)


def as_tsv(show: Show, name: TableName) -> str:
    """A table as text with tabs, its headings first.

    Parameters
    ----------
    show : Show
    name : TableName
        What it is called.

    Returns
    -------
    str
        In words.
    """
    columns = TABLES[name].columns
    text = io.StringIO()
    writer = csv.writer(text, delimiter="\t", lineterminator="\n")
    writer.writerow([c.heading for c in columns])
    writer.writerows([cell_text(item, c) for c in columns] for item in rows_of(show, name))
    return text.getvalue()


def value_from(text: str, column: Column) -> object:
    """The value a cell's text means.  Raises ValueError with what it should have been.

    Parameters
    ----------
    text : str
        As it was typed.
    column : Column
        Which column.

    Returns
    -------
    object
    """
    text = text.strip()
    if column.kind == "text":
        return text or None
    if column.kind == "names":
        return tuple(n.strip() for n in text.split("+") if n.strip())
    if column.kind == "bool":
        if text.lower() in ("yes", "y", "1", "true", "x"):
            return True
        if text.lower() in ("no", "n", "0", "false", ""):
            return False
        raise ValueError(f'"{text}" is neither yes nor no')
    number = table_number(text, "", column.most)
    if column.kind == "int":
        if number != int(number):
            raise ValueError(f"{text} is not a whole number")
        return int(number)
    return number


def with_cell(show: Show, name: TableName, id: str, column: Column, text: str) -> Show:
    """The show with one cell changed.  Raises ShowError naming the field and its limit.

    Parameters
    ----------
    show : Show
    name : TableName
        What it is called.
    id : str
        Of the item.
    column : Column
        Which column.
    text : str
        As it was typed.

    Returns
    -------
    Show
        With the edit.
    """
    table = TABLES[name]
    item = next(i for i in rows_of(show, name) if i.id == id)
    try:
        value = value_from(text, column)
    except ValueError as error:
        raise ShowError([Fault(column.heading, f"{error}; the field stays as it was")]) from None
    return _with(show, table, with_field(item, column.path, value))


def _with(show: Show, table: Table, item: Any) -> Show:
    items = getattr(show, table.shelf)
    if any(i.id == item.id for i in items):
        return show.model_copy(update={table.shelf: tuple(item if i.id == item.id else i for i in items)})
    return show.model_copy(update={table.shelf: (*items, item)})


def _lines(text: str) -> list[list[str]]:
    body = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    first = body.split("\n", 1)[0]
    mark = "\t" if "\t" in first else ";" if first.count(";") > first.count(",") else ","
    try:
        return [line for line in csv.reader(io.StringIO(body), delimiter=mark) if any(cell.strip() for cell in line)]
    except csv.Error as error:
        raise ShowError(
            [Fault("", f"the pasted table cannot be read ({error}); copy it again from the spreadsheet")]
        ) from None


def pasted(show: Show, name: TableName, text: str) -> Show:
    """The show with a pasted table taken in, all of it or nothing.

    The first line holds headings; a row whose name is known changes that item, others add one.

    Parameters
    ----------
    show : Show
    name : {"inputs", "outputs", "led-walls", "places", "cabinets", "cards"}
    text : str
        TSV or CSV.

    Raises
    ------
    ShowError
        Naming the missing column, or the row, the field and its limit.
    """
    table, lines = TABLES[name], _lines(text)
    if not lines:
        raise ShowError([Fault("", "the pasted table is empty; copy its rows together with their headings")])
    headings = [h.strip().lower().replace(" ", "_") for h in lines[0]]
    missing = [c.heading for c in table.columns if c.required and c.heading not in headings]
    if missing:
        wanted = ", ".join(c.heading for c in table.columns if c.required)
        raise ShowError(
            [Fault("", f'the pasted table has no column "{missing[0]}"; its first line must name at least: {wanted}')]
        )
    waiting: dict[str, list[Any]] = {}  # of items of one name each row names the next
    for item in rows_of(show, name):
        waiting.setdefault(str(field_of(item, table.name_path)).strip(), []).append(item)
    for n, line in enumerate(lines[1:], 1):
        if len(line) < len(headings):
            raise ShowError([Fault(f"row {n}", f"it has {len(line)} of {len(headings)} columns; copy whole rows")])
        cells = dict(zip(headings, line, strict=False))
        known = waiting.get(cells["name"].strip()) or [None]
        show = _with_row(show, name, n, cells, known.pop(0))
    return show


def _with_row(show: Show, name: TableName, n: int, cells: Mapping[str, str], old: Any | None) -> Show:
    table = TABLES[name]
    title = cells["name"].strip()
    if old is None and table.kind is None:
        raise ShowError([Fault(f"row {n}", f'no surface "{title}" hangs in the room; add it first')])
    fields: dict[str, Any] = {}
    for column in table.columns:
        text = cells.get(column.heading)
        if text is None or (not text.strip() and not column.required):
            continue
        try:
            value = value_from(text, column)
        except ValueError as error:
            raise ShowError([Fault(f"row {n}, {column.heading}", f"{error}; correct it and paste again")]) from None
        if old is not None and text.strip() == cell_text(old, column).strip():
            continue  # says what is there already
        fields[column.path] = value
    whole: dict[str, Any] = {} if old is None else old.model_dump()
    for path, value in fields.items():
        *steps, last = path.split(".")
        here = whole
        for step in steps:
            if here.get(step) is None:
                here[step] = {}
            here = here[step]
        here[last] = value
    if old is None:
        whole["id"] = new_id(title, {i.id for i in getattr(show, table.shelf)})
        if name == "outputs":
            whole["number"] = whole.get("number") or free_number(show)
    kind = table.kind or type(old)
    try:
        item: Any = cast(type[Model], kind).model_validate(whole)
    except ValidationError as error:
        raise ShowError([Fault(f"row {n}", sentence_of(error))]) from None
    return _with(show, table, item)
