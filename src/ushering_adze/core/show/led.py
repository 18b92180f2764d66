"""LED walls: cabinets, where they are missing or turned, what feeds them with data and power."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Id, Model, Name
from ushering_adze.core.show.canvas import Side
from ushering_adze.core.show.light import Nits, White
from ushering_adze.core.show.room import Count, Millimetres, RoomPlace

Watts = Annotated[float, Field(ge=0, le=100_000)]


class Cabinet(Model):
    """One LED cabinet: its size, pixels, weight and power."""

    name: Annotated[str, Field(max_length=80)] = ""
    width_mm: Millimetres
    height_mm: Millimetres
    columns_px: Side
    rows_px: Side
    weight_kg: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    max_watts: Watts = 0.0
    mean_watts: Watts = 0.0

    @property
    def pitch_mm(self) -> float:
        """Pixel pitch across, in millimetres.

        Examples
        --------
        >>> round(Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192).pitch_mm, 3)
        2.604
        """
        return self.width_mm / self.columns_px

    @property
    def pitch_down_mm(self) -> float:
        """Pixel pitch down, in millimetres."""
        return self.height_mm / self.rows_px


class Cell(Model):
    """A place in the grid of cabinets, counted from 1 at the top left."""

    column: Count
    row: Count


class TurnedCell(Cell):
    """A cabinet that hangs turned, clockwise as seen from the front."""

    degrees: Literal[90, 180, 270]


class ColumnGap(Model):
    """Room left free between two columns."""

    after: Count
    mm: Annotated[float, Field(gt=0, le=100_000)]


class OtherCabinets(Model):
    """Whole rows or columns of the wall made of another kind of cabinet."""

    cabinet: Cabinet
    rows: tuple[Count, ...] = ()
    columns: tuple[Count, ...] = ()


class DataRuns(Model):
    """How the processor's ports feed the cabinets: capacity of a port, and the path its chain takes over the wall.

    ``share`` is the part of a port's bit rate that carries pixels; 0.936 makes about 650 000 px of 1 Gb/s at 8 bits and
    60 Hz (common practice, no source).
    """

    gbps: Annotated[float, Field(gt=0, le=100)] = 1.0
    share: Annotated[float, Field(gt=0, le=1)] = 0.936
    bits: Literal[8, 10, 12] = 8
    rate: Annotated[float, Field(ge=1, le=480)] = 60.0
    along: Literal["rows", "columns"] = "rows"
    start: Literal["top-left", "top-right", "bottom-left", "bottom-right"] = "bottom-left"
    snake: bool = True
    most: Annotated[Count | None, Field(description="cabinets on one port at most; by its capacity if null")] = None
    backup: bool = False


class Supply(Model):
    """The circuits that power the wall."""

    volts: Annotated[float, Field(gt=0, le=1000)] = 230.0
    amps: Annotated[float, Field(gt=0, le=1000)] = 16.0
    share: Annotated[float, Field(gt=0, le=1, description="part of a circuit that is used: the 80 % rule")] = 0.8


Share = Annotated[float, Field(ge=0, le=2)]
Lifted = Annotated[float, Field(ge=-0.25, le=0.25)]


class Batch(Model):
    """Cabinets of a wall whose panels look alike, and what makes them look like the others.

    ``gain`` are factors on red, green and blue light, ``offset`` what is added to it as a share of white; ``gamma`` is
    how these panels turn codes into light, where that is not the output's gamma.
    """

    name: Name
    cells: Annotated[tuple[Cell, ...], Field(min_length=1)]
    gain: tuple[Share, Share, Share] = (1.0, 1.0, 1.0)
    offset: tuple[Lifted, Lifted, Lifted] = (0.0, 0.0, 0.0)
    gamma: Annotated[float | None, Field(ge=0.5, le=5.0)] = None
    white: White | None = None
    on: bool = True


class LedWall(Model):
    """A wall of cabinets in columns and rows."""

    kind: Literal["led-wall"] = "led-wall"
    id: Id
    name: Name
    place: RoomPlace | None = None
    cabinet: Cabinet
    columns: Count
    rows: Count
    others: OtherCabinets | None = None
    missing: tuple[Cell, ...] = ()
    turned: tuple[TurnedCell, ...] = ()
    gaps: tuple[ColumnGap, ...] = ()
    data: DataRuns = DataRuns()
    supply: Supply = Supply()
    batches: tuple[Batch, ...] = ()
    nits: Nits = 0.0

    @model_validator(mode="after")
    def _cells_are_on_the_wall(self) -> LedWall:
        for what, cells in (("missing", self.missing), ("turned", self.turned)):
            seen: set[tuple[int, int]] = set()
            for cell in cells:
                if cell.column > self.columns or cell.row > self.rows:
                    raise ValueError(
                        f"{what} cabinet {cell.column}/{cell.row} is not on a wall of {self.columns} × {self.rows}; "
                        "count columns and rows from 1 at the top left"
                    )
                if (cell.column, cell.row) in seen:
                    raise ValueError(f"{what} cabinet {cell.column}/{cell.row} is listed twice; list it once")
                seen.add((cell.column, cell.row))
        self._check_batches()
        if len(self.missing) == self.columns * self.rows:
            raise ValueError("every cabinet is missing; leave at least one")
        for gap in self.gaps:
            if gap.after >= self.columns:
                raise ValueError(
                    f"a gap after column {gap.after} is not within {self.columns} columns; use 1 to {self.columns - 1}"
                )
        if self.others is not None:
            self._check_others(self.others)
        width, height = self.pixels
        if max(width, height) > 32768:
            raise ValueError(
                f"a wall of {width} × {height} px is over 32768 px; use fewer cabinets or divide it into two walls"
            )
        for cell in self.turned:
            cabinet = self.cabinet_at(cell.column, cell.row)
            if cell.degrees != 180 and (cabinet.width_mm != cabinet.height_mm or cabinet.columns_px != cabinet.rows_px):
                raise ValueError(
                    f"cabinet {cell.column}/{cell.row} is not square and cannot be turned by {cell.degrees}°; turn it "
                    "by 180°"
                )
        return self

    def _check_batches(self) -> None:
        taken: dict[tuple[int, int], str] = {}
        for batch in self.batches:
            if batch.name in taken.values():
                raise ValueError(f'two batches are called "{batch.name}"; give each its own name')
            for cell in batch.cells:
                if cell.column > self.columns or cell.row > self.rows:
                    raise ValueError(
                        f'cabinet {cell.column}/{cell.row} of batch "{batch.name}" is not on a wall of '
                        f"{self.columns} × {self.rows}; count columns and rows from 1 at the top left"
                    )
                other = taken.setdefault((cell.column, cell.row), batch.name)
                if other != batch.name:
                    raise ValueError(
                        f'cabinet {cell.column}/{cell.row} is in batch "{other}" and in "{batch.name}"; leave it in one'
                    )

    def _check_others(self, others: OtherCabinets) -> None:
        a, b = self.cabinet, others.cabinet
        for what, numbers, most in (("row", others.rows, self.rows), ("column", others.columns, self.columns)):
            for n in numbers:
                if n > most:
                    raise ValueError(f"{what} {n} of the other cabinets is not on the wall; it has {most}")
        if others.rows and (a.width_mm, a.columns_px) != (b.width_mm, b.columns_px):
            raise ValueError(
                f"a row of other cabinets must be as wide as the wall's: {a.width_mm:g} mm and {a.columns_px} px, "
                f"not {b.width_mm:g} mm and {b.columns_px} px"
            )
        if others.columns and (a.height_mm, a.rows_px) != (b.height_mm, b.rows_px):
            raise ValueError(
                f"a column of other cabinets must be as high as the wall's: {a.height_mm:g} mm and {a.rows_px} px, "
                f"not {b.height_mm:g} mm and {b.rows_px} px"
            )

    def cabinet_at(self, column: int, row: int) -> Cabinet:
        """The kind of cabinet at a place, whether it is missing or not."""
        if self.others is not None and (row in self.others.rows or column in self.others.columns):
            return self.others.cabinet
        return self.cabinet

    @property
    def column_cabinets(self) -> list[Cabinet]:
        """For each column, a cabinet as wide as the column."""
        other = self.others
        return [other.cabinet if other and c in other.columns else self.cabinet for c in range(1, self.columns + 1)]

    @property
    def row_cabinets(self) -> list[Cabinet]:
        """For each row, a cabinet as high as the row."""
        other = self.others
        return [other.cabinet if other and r in other.rows else self.cabinet for r in range(1, self.rows + 1)]

    @property
    def pixels(self) -> tuple[int, int]:
        """Raster in pixels."""
        return sum(c.columns_px for c in self.column_cabinets), sum(c.rows_px for c in self.row_cabinets)

    @property
    def gaps_after(self) -> dict[int, float]:
        """Millimetres left free after columns, in their order; gaps after the same column are added."""
        found: dict[int, float] = {}
        for gap in sorted(self.gaps, key=lambda g: g.after):
            found[gap.after] = found.get(gap.after, 0.0) + gap.mm
        return found

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres, gaps included."""
        return (
            sum(c.width_mm for c in self.column_cabinets) + sum(g.mm for g in self.gaps),
            sum(c.height_mm for c in self.row_cabinets),
        )


class CabinetKind(Model):
    """An entry of the show's cabinet library."""

    id: Id
    cabinet: Cabinet
