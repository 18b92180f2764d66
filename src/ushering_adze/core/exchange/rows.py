"""Tables as spreadsheets have them: lines with tabs, to be read by their headings and written with them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.wording import shortened


def pasted_rows(text: str, columns: Sequence[str], usual: bool = False) -> Iterator[tuple[int, dict[str, str]]]:
    """The lines of a table, by their headings.

    Parameters
    ----------
    text : str
    columns : sequence of str
        The headings there are; the first of them must be one.
    usual : bool
        Lines without headings are taken as if they had all of these, in their order.

    Yields
    ------
    int
        The number of the line.
    dict of str
        What stands under each heading that is known.

    Raises
    ------
    ShowError
        If a heading is missing, or is none.
    """
    lines = [line.split("\t") for line in text.splitlines() if line.strip()]
    heads, first = [h.strip().lower() for h in lines[0]] if lines else [], 1
    if columns[0] in heads:
        lines, first = lines[1:], 2
    elif usual:
        heads = [*columns]
    else:
        listed = ", ".join(columns)
        raise ShowError([Fault("", f"the first line has no heading {columns[0]}; the headings are {listed}")])
    unknown = [h for h in heads if h and h not in columns]
    if unknown:
        raise ShowError([Fault("", f"{shortened(unknown[0])} is no heading; they are {', '.join(columns)}")])
    for n, line in enumerate(lines, first):
        yield n, {h: value for h, value in zip(heads, line, strict=False) if h}


def as_rows(columns: Sequence[str], rows: Iterable[Iterable[str]]) -> str:
    """A table with its headings, as lines with tabs.

    Examples
    --------
    >>> as_rows(("a", "b"), [("1", "x\\ty")])
    'a\\tb\\n1\\tx y\\n'
    """
    lines = ["\t".join(columns)]
    lines += ["\t".join(cell.replace("\t", " ").replace("\n", " ") for cell in row) for row in rows]
    return "\n".join(lines) + "\n"
