"""Walls of pictures: what is watched, in cells of a grid."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.document.model import Colour, Fault, Id, Model, Name

Cells = Annotated[int, Field(ge=1, le=16)]
Shows = (
    Literal["empty", "source", "surface", "preview", "output", "canvas", "feed", "far"]
    | Literal["mix", "player", "text", "clock", "timecode", "cues", "alarms"]
)
NameLine = Literal["under", "over", "large", "none"]
Meters = Literal["inside", "beside"]
Guides = Literal["centre", "thirds", "grid"]
Box = tuple[
    Annotated[int, Field(ge=0, le=8191)],
    Annotated[int, Field(ge=0, le=8191)],
    Annotated[int, Field(ge=16, le=8192)],
    Annotated[int, Field(ge=16, le=8192)],
]
"""Left, top, width and height in pixels of a wall."""
ScopeName = Literal["waveform", "parade", "vectors", "histogram", "false-colour", "zebra"]


Aspect = Literal["16:9", "4:3", "1:1", "9:16"]


class WallCell(Model):
    """A cell of a wall, ``w`` × ``h`` of its grid at column ``x`` and row ``y``: what it shows, and under which name.

    ``marks`` are safe areas: for action 93 %, for titles 90 % of the picture each way (SMPTE ST 2046-1; EBU
    R 95 has the same; both from memory).
    """

    x: Annotated[int, Field(ge=0, le=15)]
    y: Annotated[int, Field(ge=0, le=15)]
    w: Cells = 1
    h: Cells = 1
    shows: Shows = "empty"
    of: Id | None = None
    label: Annotated[str, Field(max_length=60, description="in place of the name of what it shows")] = ""
    marks: bool = False
    frame: Annotated[Aspect | None, Field(description="a frame of this shape within the picture")] = None
    scope: Annotated[ScopeName | None, Field(description="in place of the picture, where its codes lie")] = None
    captions: Annotated[bool, Field(description="with its captions, as a viewer reads them")] = False
    data: Annotated[bool, Field(description="with its size, rate and codec, where they are known")] = False
    meters: Annotated[
        Meters | None, Field(description="of the channels of its sound, over its picture or beside it")
    ] = None
    line: Annotated[NameLine, Field(description="where its name is written")] = "under"
    guides: Annotated[Guides | None, Field(description="lines over the picture")] = None
    colour: Annotated[Colour | None, Field(description="of its edge, where it has no tally")] = None
    box: Annotated[Box | None, Field(description="where it lies, freely, in place of the grid")] = None


class Wall(Model):
    """A layout of pictures to watch, as one raster."""

    id: Id
    name: Name
    columns: Cells = 4
    rows: Cells = 4
    width: Annotated[int, Field(ge=64, le=8192)] = 1920
    height: Annotated[int, Field(ge=64, le=8192)] = 1080
    cells: tuple[WallCell, ...] = ()


TEMPLATES = ("2 × 2", "3 × 3", "4 × 4", "one large and five", "one large and seven", "two large and eight")


def template_cells(name: str) -> tuple[int, int, tuple[WallCell, ...]]:
    """Columns, rows and empty cells of a template.

    Examples
    --------
    >>> [(template_cells(n)[0], len(template_cells(n)[2])) for n in TEMPLATES]
    [(2, 4), (3, 9), (4, 16), (3, 6), (4, 8), (4, 10)]
    """
    if name == "two large and eight":
        large = (WallCell(x=0, y=0, w=2, h=2), WallCell(x=2, y=0, w=2, h=2))
        return 4, 4, (*large, *(WallCell(x=n % 4, y=2 + n // 4) for n in range(8)))
    if name.startswith("one large"):
        n = 3 if name.endswith("five") else 4
        beside = [WallCell(x=n - 1, y=y) for y in range(n)]
        below = [WallCell(x=x, y=n - 1) for x in range(n - 1)]
        return n, n, (WallCell(x=0, y=0, w=n - 1, h=n - 1), *beside, *below)
    n = int(name[0])
    return n, n, tuple(WallCell(x=k % n, y=k // n) for k in range(n * n))


def wall_faults(walls: Sequence[Wall]) -> Iterator[Fault]:
    """What is wrong with walls: ids used twice, cells outside their grid or one over another."""
    ids: set[str] = set()
    for n, wall in enumerate(walls):
        if wall.id in ids:
            yield Fault(f"walls[{n}].id", f'id "{wall.id}" is already used; give each wall its own')
        ids.add(wall.id)
        taken: set[tuple[int, int]] = set()
        for m, cell in enumerate(wall.cells):
            if cell.box is not None:
                x, y, w, h = cell.box
                if x + w > wall.width or y + h > wall.height:
                    why = f"a box of {wall.name} lies outside its {wall.width} × {wall.height}; make it smaller"
                    yield Fault(f"walls[{n}].cells[{m}].box", why)
                continue
            if cell.x + cell.w > wall.columns or cell.y + cell.h > wall.rows:
                why = f"a cell of {wall.name} lies outside its {wall.columns} × {wall.rows} grid; make it smaller"
                yield Fault(f"walls[{n}].cells[{m}]", why)
            mine = {(cell.x + i, cell.y + j) for i in range(cell.w) for j in range(cell.h)}
            if mine & taken:
                yield Fault(f"walls[{n}].cells[{m}]", f"it lies over another cell of {wall.name}; move one of them")
            taken |= mine
