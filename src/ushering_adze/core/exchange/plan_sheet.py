"""The plan of an evening as a drawing on paper: surfaces down, cues across, in words."""

from __future__ import annotations

from collections.abc import Mapping

from ushering_adze.core.exchange.sheet import Box, Item, Line, Sheet, Words
from ushering_adze.core.onair.planning import Plan
from ushering_adze.core.show.cue import CueList, number_words
from ushering_adze.core.show.show import Show

LEFT, TOP, ACROSS, DOWN = 130, 92, 128, 46
"""Pixels of the column of surfaces, of the heading, of a column and of a row."""
INK, PALE, LINES, LIT = "#111111", "#8A8A8A", "#BBBBBB", "#F4E3C4"
ODD = "#A04A00"
LONGEST = 19
"""Letters in a cell's line."""


Odd = Mapping[tuple[str, int], tuple[str, ...]]


def _cut(text: str, longest: int = LONGEST) -> str:
    return text if len(text) <= longest else text[: longest - 1] + "…"


def _lines(text: str) -> list[str]:
    """A cell's words in two lines at most."""
    found = [""]
    for word in text.split():
        longer = f"{found[-1]} {word}".strip()
        if len(longer) <= LONGEST or not found[-1]:
            found[-1] = longer
        else:
            found.append(word)
    if len(found) > 2:
        found = [found[0], " ".join(found[1:])]
    return [_cut(line) for line in found]


def plan_sheet(show: Show, cues: CueList, plan: Plan, odd: Odd | None = None) -> Sheet:
    """The drawing of a plan: bold on a ground where a surface changes, pale where it stays, framed where it is odd.

    Parameters
    ----------
    show : Show
    cues : CueList
        Whose plan it is.
    plan : Plan
    odd : mapping, optional
        What is odd, by surface and the place of the cue.

    Returns
    -------
    Sheet
        As wide as its cues.
    """
    width, height = LEFT + ACROSS * len(plan.cues) + 20, TOP + DOWN * len(plan.cells) + 20
    items: list[Item] = [Words(10, 28, f"{show.name}: {cues.name}", 18, INK, strong=True)]
    for column, cue in enumerate(plan.cues):
        x = LEFT + column * ACROSS
        items.append(Line(x, 42, x, height - 20, LINES))
        items.append(Words(x + 6, 60, _cut(f"{number_words(cue.number)}  {cue.name}", 17), 12, INK, strong=True))
        items.append(Words(x + 6, 78, cue.start or "", 11, PALE))
    for row, (surface, cells) in enumerate(plan.cells.items()):
        y = TOP + row * DOWN
        items.append(Line(0, y, width, y, LINES))
        items.append(Words(10, y + 27, _cut(show.surface(surface).name, 17), 12, INK, strong=True))
        for column, cell in enumerate(cells):
            x = LEFT + column * ACROSS
            if cell.changed:
                items.append(Box(x + 1, y + 1, ACROSS - 1, DOWN - 1, fill=LIT))
            if odd is not None and (surface, column) in odd:
                items.append(Box(x + 2, y + 2, ACROSS - 4, DOWN - 4, stroke=ODD, width=2))
                items.append(Words(x + ACROSS - 14, y + 18, "!", 13, ODD, strong=True))
            beside = f" ({cell.state})" if cell.state in ("held", "kept", "override") else ""
            for n, line in enumerate(_lines(cell.words + beside)):
                ink = INK if cell.changed else PALE
                items.append(Words(x + 6, y + 19 + n * 16, line, 11, ink, strong=cell.changed))
    return Sheet(width, height, tuple(items), "#FFFFFF", f"{show.name}: {cues.name}")
