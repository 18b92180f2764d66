"""Actions that bring regions in from files, and pixel maps, tables and templates out."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import cast

from PySide6.QtWidgets import QFileDialog

from ushering_adze.core.document.entry import table_number
from ushering_adze.core.exchange.content import content_table
from ushering_adze.core.exchange.pixelmap import canvas_map, output_map, surface_map, template
from ushering_adze.core.exchange.region_table import (
    COLUMNS,
    as_table,
    matched_columns,
    read_rows,
    table_lines,
    with_rows,
    with_show_regions,
)
from ushering_adze.core.mapping.regions import added
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.desk.map.acting import Acting
from ushering_adze.io.asking import read_text
from ushering_adze.io.exchange.dxf import outline_rects, read_outlines
from ushering_adze.io.exchange.sheets import write_sheet
from ushering_adze.io.showfile import read_show
from ushering_adze.io.writing import write_whole


class ExchangeActions(Acting):
    """Import and export."""

    def import_regions(self) -> None:
        """Choose a table, another show or a drawing, and take its regions in."""
        path, _ = QFileDialog.getOpenFileName(
            self._owner.window(),
            "Import regions",
            str(self._session.root),
            "Tables, shows and drawings (*.csv *.tsv *.txt *.adze *.dxf)",
        )
        if path:
            self.import_from(Path(path))

    def import_from(self, path: Path) -> None:
        """Take regions in; what must be known first is asked, and rows that are wrong are told before
        anything is done.
        """
        try:
            if path.suffix.lower() == ".dxf":
                self._import_outlines(path)
            elif path.suffix.lower() == ".adze":
                show, faults, count = with_show_regions(self._session.show, read_show(path))
                self._agree(path.name, show, faults, count)
            else:
                self._match(path.name, read_text(path))
        except ValueError as error:
            self._session.refused.emit(str(error) if path.name in str(error) else f"{path.name}: {error}")

    def _match(self, name: str, text: str) -> None:
        """Ask for columns that the headings do not tell; if they tell all, go on."""
        headings = table_lines(text)[0]
        found = matched_columns(headings)
        canvas = self._home().id

        def take(columns: dict[str, int]) -> None:
            rows, faults = read_rows(text, columns)
            show, more, count = with_rows(self._session.show, rows, canvas, self._lands_on())
            self._agree(name, show, [*faults, *more], count)

        if all(c in found for c in ("name", "x", "y", "w", "h")):
            take(found)
            return
        choices: list[tuple[str, object]] = [("–", -1), *((h, n) for n, h in enumerate(headings))]
        fields = [(c, sorted(choices, key=lambda v: v[1] != found.get(c, -1))) for c in COLUMNS]
        self._ask(
            f"Columns of {name}",
            fields,
            "Import",
            lambda *at: take(
                {c: int(cast(int, k)) for c, k in zip(COLUMNS, at, strict=True) if int(cast(int, k)) >= 0}
            ),
            hint="say which column holds what; new regions need name, x, y, w and h, known ones keep what is not named",
        )

    def _import_outlines(self, path: Path) -> None:
        outlines, faults = read_outlines(path)
        wide = max(o.x_mm + o.w_mm for o in outlines)

        def act(scale: object) -> None:
            mm = table_number(str(scale), "mm", 0.0)
            if mm <= 0:
                raise ValueError(f"{scale} mm to a pixel cannot be; type the pixel pitch in mm, for example 2.6")
            rects = outline_rects(outlines, mm)
            show, ids = added(self._session.show, self._home().id, rects, self._lands_on(), [o.layer for o in outlines])
            self._agree(path.name, show, faults, len(ids))

        pitch = next((s.cabinet.pitch_mm for s in self._session.show.surfaces if s.kind == "led-wall"), 1.0)
        self._ask(
            f"Scale of {path.name}",
            [("Millimetres to a pixel", f"{pitch:.4g}")],
            "Import",
            act,
            hint=f"{len(outlines)} closed outlines, {wide / 1000:.2f} m wide",
        )

    def _agree(self, name: str, show: Show, faults: list[Fault], count: int) -> None:
        """Import at once what is right; where something is not, only after the user agrees."""
        if not faults:
            self._session.edit(f"Import {count} regions", show)
            self._session.trouble.emit(f"{count} regions imported from {name}; undo takes them back.")
            return
        told = "\n".join(f"· {f}" for f in faults[:8]) + (f"\n· and {len(faults) - 8} more" if len(faults) > 8 else "")
        if not count:
            self._session.refused.emit(f"{name}: nothing can be imported.\n{told}")
            return
        self._ask(
            f"Import the {count} that are right?",
            [],
            f"Import {count}",
            lambda: self._session.edit(f"Import {count} regions", show),
            hint=f"{name}: {len(faults)} {'is' if len(faults) == 1 else 'are'} left out or come changed.\n{told}",
        )

    def export_table(self) -> None:
        """The regions as CSV or TSV."""
        path = self._save_as("Regions as a table", "regions.csv", "Tables (*.csv *.tsv)")
        if path is not None:
            text = as_table(self._session.show, "\t" if path.suffix.lower() == ".tsv" else ",")
            self._write(lambda: write_whole(path, text.encode(), "the table"))

    def export_map(self, of: str) -> None:
        """The pixel map of the canvas, the output or the surface on view."""
        show = self._session.show
        id = {"canvas": self._home().id, "output": self._lands_on(), "surface": self._session.surface}[of]
        if id is None:
            self._session.trouble.emit("Select a surface first.")
            return
        path = self._save_as("Pixel map", f"{id}.png", "Pictures (*.png *.svg *.pdf)")
        if path is not None:
            draw = {"canvas": canvas_map, "output": output_map, "surface": surface_map}[of]
            self._write(lambda: write_sheet(draw(show, id), path))

    def export_templates(self) -> None:
        """Templates for the makers of content, and a sheet of sizes."""
        folder = QFileDialog.getExistingDirectory(
            self._owner.window(), "Folder for the templates", str(self._session.root)
        )
        if folder:
            show = self._session.show

            def write() -> None:
                for surface in show.surfaces:
                    write_sheet(template(show, surface.id), Path(folder) / f"{surface.id}.png")
                write_whole(Path(folder) / "sizes.tsv", content_table(show).encode(), "the sheet of sizes")

            self._write(write)

    def _save_as(self, title: str, name: str, kinds: str) -> Path | None:
        path, _ = QFileDialog.getSaveFileName(self._owner.window(), title, str(self._session.root / name), kinds)
        if not path:
            return None
        return Path(path) if Path(path).suffix else Path(path + Path(name).suffix)

    def _write(self, work: Callable[[], None]) -> None:
        try:
            work()
        except ShowError as error:
            self._session.refused.emit(str(error))
