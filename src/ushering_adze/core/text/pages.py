"""Pages of text with steps that appear one by one, and with a second field; read from what a file says."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import NamedTuple

STEP, SECOND = "+", "--"
"""A line between two steps of a page; what begins the second field on its last line."""


class TextPage(NamedTuple):
    """A page: its text, cut where its steps begin, and its second field."""

    steps: tuple[str, ...]
    second: str = ""


class Shown(NamedTuple):
    """What is on screen at one stop: all of the page, how much of it is to be seen, and the second field."""

    whole: str
    seen: str
    second: str
    page: int
    pages: int


def page_of(lines: list[str]) -> TextPage:
    """A page from its lines.

    Examples
    --------
    >>> page_of(["Stars turn", "+", "about the pole", "-- Second night"])
    TextPage(steps=('Stars turn', 'about the pole'), second='Second night')
    """
    second = ""
    if lines and lines[-1].startswith((SECOND + " ", "— ", "– ")):
        second = lines[-1].split(" ", 1)[1].strip()
        lines = lines[:-1]
    steps: list[list[str]] = [[]]
    for line in lines:
        if line.strip() == STEP:
            steps.append([])
        else:
            steps[-1].append(line)
    return TextPage(tuple("\n".join(step) for step in steps if step) or ("",), second)


def pages_of_text(text: str) -> tuple[TextPage, ...]:
    """Pages of plain text: an empty line begins the next.

    Parameters
    ----------
    text : str

    Returns
    -------
    tuple of TextPage

    Examples
    --------
    >>> [p.steps for p in pages_of_text("One\\n\\n\\nTwo\\nlines")]
    [('One',), ('Two\\nlines',)]
    """
    pages: list[list[str]] = [[]]
    for line in text.lstrip("\ufeff").splitlines():
        if line.strip():
            pages[-1].append(line.rstrip())
        elif pages[-1]:
            pages.append([])
    return tuple(page_of(lines) for lines in pages if lines)


def pages_of_table(text: str) -> tuple[TextPage, ...]:
    """Pages of a table, one to a row: columns *text* and *second* by their heads, or the first two.

    Parameters
    ----------
    text : str
        Comma, semicolon or tab between columns.

    Returns
    -------
    tuple of TextPage

    Examples
    --------
    >>> pages_of_table("name;field\\nIda Quill;Photographic plates\\n")
    (TextPage(steps=('Ida Quill',), second='Photographic plates'),)
    """
    text = text.lstrip("\ufeff")
    first = text.split("\n", 1)[0]
    between = max("\t;,", key=first.count) if any(c in first for c in "\t;,") else ","
    rows = [row for row in csv.reader(io.StringIO(text), delimiter=between) if any(cell.strip() for cell in row)]
    if not rows:
        return ()
    heads = [cell.strip().lower() for cell in rows[0]]
    named = {"text", "name", "title", "speaker", "words", "reference"} & set(heads)
    at = heads.index("text") if "text" in heads else 0
    other = next(
        (n for h in ("second", "role", "field", "reference") for n, head in enumerate(heads) if head == h and n != at),
        1 if at == 0 else 0,
    )
    found = []
    for row in rows[1:] if named else rows:
        if at < len(row) and row[at].strip():
            second = row[other].strip() if other < len(row) and other != at else ""
            page = page_of([line for line in row[at].splitlines() if line.strip()])
            found.append(page._replace(second=second or page.second))
    return tuple(found)


def stops_of(pages: Iterable[TextPage]) -> tuple[Shown, ...]:
    """Everything that is on screen one after another, each page step by step.

    Parameters
    ----------
    pages : iterable of TextPage

    Returns
    -------
    tuple of Shown

    Examples
    --------
    >>> [s.seen for s in stops_of([TextPage(("a", "b")), TextPage(("c",))])]
    ['a', 'a\\nb', 'c']
    """
    pages = tuple(pages)
    return tuple(
        Shown("\n".join(page.steps), "\n".join(page.steps[: n + 1]), page.second, number + 1, len(pages))
        for number, page in enumerate(pages)
        for n in range(len(page.steps))
    )


def first_stops(stops: Iterable[Shown]) -> tuple[int, ...]:
    """The stop at which each page begins.

    Examples
    --------
    >>> first_stops(stops_of([TextPage(("a", "b")), TextPage(("c",))]))
    (0, 2)
    """
    found: dict[int, int] = {}
    for n, stop in enumerate(stops):
        found.setdefault(stop.page, n)
    return tuple(found.values())
