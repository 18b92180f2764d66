"""Tables of the rig for fast entry: copied to a spreadsheet and pasted back as TSV or CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple, cast

from pydantic import TypeAdapter, ValidationError

from ushering_adze.core.layout.binding import new_id
from ushering_adze.core.show import Fault, Input, LedWall, Output, Show, ShowError
from ushering_adze.core.show.rigging import Item, Shelf, field_of, free_number, sentence_of, with_field, with_item

TableName = Literal["inputs", "outputs", "led-walls"]


class Column(NamedTuple):
    """A column: its heading, the field it shows, and what it must hold."""

    heading: str
    path: str
    kind: Literal["text", "int", "float", "bool"]
    required: bool = False


class Table(NamedTuple):
    """A kind of table."""

    shelf: Shelf
    words: str
    columns: tuple[Column, ...]


TABLES: dict[TableName, Table] = {
    "inputs": Table("sources", "Inputs", (
        Column("name", "name", "text", True), Column("width", "width", "int", True), Column("height", "height", "int", True),
        Column("rate", "rate", "float", True), Column("interlaced", "interlaced", "bool"), Column("link", "link", "text"),
        Column("encoding", "encoding", "text"), Column("bits", "bits", "int"), Column("connector", "connector", "text"),
        Column("protected", "protected", "bool"))),
    "outputs": Table("outputs", "Outputs", (
        Column("number", "number", "int"), Column("name", "name", "text", True), Column("width", "timing.width", "int", True),
        Column("height", "timing.height", "int", True), Column("rate", "timing.rate", "float", True), Column("link", "signal.link", "text"),
        Column("encoding", "signal.encoding", "text"), Column("bits", "signal.bits", "int"), Column("connector", "connector", "text"))),
    "led-walls": Table("surfaces", "LED walls", (
        Column("name", "name", "text", True), Column("columns", "columns", "int", True), Column("rows", "rows", "int", True),
        Column("cabinet_width_mm", "cabinet.width_mm", "float", True), Column("cabinet_height_mm", "cabinet.height_mm", "float", True),
        Column("cabinet_columns_px", "cabinet.columns_px", "int", True), Column("cabinet_rows_px", "cabinet.rows_px", "int", True),
        Column("weight_kg", "cabinet.weight_kg", "float"), Column("max_watts", "cabinet.max_watts", "float"),
        Column("x_mm", "place.x_mm", "float"), Column("foot_mm", "place.foot_mm", "float"))),
}


def rows_of(show: Show, name: TableName) -> list[Item]:
    """The items a table lists."""
    items = cast(tuple[Item, ...], getattr(show, TABLES[name].shelf))
    kinds = {"inputs": Input, "outputs": Output, "led-walls": LedWall}
    return [i for i in items if isinstance(i, kinds[name])]


def cell_text(item: Item, column: Column) -> str:
    """What a cell says; empty where there is nothing."""
    try:
        value = field_of(item, column.path)
    except AttributeError:
        return ""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def as_tsv(show: Show, name: TableName) -> str:
    """A table as text with tabs, its headings first."""
    columns = TABLES[name].columns
    lines = [[c.heading for c in columns], *([cell_text(item, c) for c in columns] for item in rows_of(show, name))]
    return "".join("\t".join(line) + "\n" for line in lines)


def value_from(text: str, column: Column) -> object:
    """The value a cell's text means.  Raises ValueError with what it should have been."""
    text = text.strip()
    if column.kind == "text":
        return text or None
    if column.kind == "bool":
        if text.lower() in ("yes", "y", "1", "true", "x"):
            return True
        if text.lower() in ("no", "n", "0", "false", ""):
            return False
        raise ValueError(f'"{text}" is neither yes nor no')
    try:
        number = float(text.replace(",", ".").replace("\u202f", "").replace(" ", ""))
    except ValueError:
        raise ValueError(f'"{text}" is not a number') from None
    if column.kind == "int":
        if number != int(number):
            raise ValueError(f"{text} is not a whole number")
        return int(number)
    return number


def with_cell(show: Show, name: TableName, id: str, column: Column, text: str) -> Show:
    """The show with one cell changed.  Raises ShowError naming the field and its limit."""
    table = TABLES[name]
    item = next(i for i in rows_of(show, name) if i.id == id)
    try:
        value = value_from(text, column)
    except ValueError as error:
        raise ShowError([Fault(column.heading, f"{error}; the field stays as it was")]) from None
    return with_item(show, table.shelf, cast(Item, with_field(item, column.path, value)))


def _lines(text: str) -> list[list[str]]:
    body = text.lstrip("\ufeff")
    first = body.split("\n", 1)[0]
    mark = "\t" if "\t" in first else ";" if first.count(";") > first.count(",") else ","
    return [line for line in csv.reader(io.StringIO(body), delimiter=mark) if any(cell.strip() for cell in line)]


def pasted(show: Show, name: TableName, text: str) -> Show:
    """The show with a pasted table taken in, all of it or nothing.

    The first line holds headings; a row whose name is known changes that item, others add one.

    Parameters
    ----------
    show : Show
    name : {"inputs", "outputs", "led-walls"}
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
        raise ShowError([Fault("", f'the pasted table has no column "{missing[0]}"; its first line must name at least: {wanted}')])
    for n, line in enumerate(lines[1:], 1):
        if len(line) < len(headings):
            raise ShowError([Fault(f"row {n}", f"it has {len(line)} of {len(headings)} columns; copy whole rows")])
        show = _with_row(show, name, n, dict(zip(headings, line, strict=False)))
    return show


def _with_row(show: Show, name: TableName, n: int, cells: Mapping[str, str]) -> Show:
    table = TABLES[name]
    title = cells["name"].strip()
    old = next((i for i in rows_of(show, name) if i.name == title), None)
    fields: dict[str, Any] = {}
    for column in table.columns:
        text = cells.get(column.heading)
        if text is None or (not text.strip() and not column.required):
            continue
        try:
            value = value_from(text, column)
        except ValueError as error:
            raise ShowError([Fault(f"row {n}, {column.heading}", f"{error}; correct it and paste again")]) from None
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
        whole["id"] = new_id(title, {i.id for i in cast(tuple[Item, ...], getattr(show, table.shelf))})
        if name == "outputs":
            whole["number"] = whole.get("number") or free_number(show)
        else:
            whole["kind"] = "input" if name == "inputs" else "led-wall"
    kind: TypeAdapter[Any] = TypeAdapter({"inputs": Input, "outputs": Output, "led-walls": LedWall}[name])
    try:
        item = kind.validate_python(whole)
    except ValidationError as error:
        raise ShowError([Fault(f"row {n}", sentence_of(error))]) from None
    return with_item(show, table.shelf, item)
