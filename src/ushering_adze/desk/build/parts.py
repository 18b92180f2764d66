"""What a preset stores, and when each of it arrives: cells are typed in, for all selected rows at once."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QLabel, QTableWidget, QTableWidgetItem, QWidget

from ushering_adze.core.exchange.part_table import COLUMNS, TYPED, Row, cell, rows_of, with_cell
from ushering_adze.core.show.rigging import told
from ushering_adze.core.show.variants import preset_of
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.storing import Sheet, button

TIPS = {
    "arrives": "fades or snaps",
    "seconds": "of its fade; preset's is the preset's time; *2 and +1 are worked out for each",
    "wait": "seconds that it waits before it begins",
    "curve": "linear, ease, ease-in, ease-out, ease-in-out, bezier(0.3, 0, 0.7, 1), or preset's",
    "transition": "of pictures: cut, dissolve, dip #204060, wipe 90° soft 0.1, wipe iris, push 180, …, or preset's",
}


class PartsSheet(Sheet):
    """Every kind of setting of every layer that a preset stores, in a row."""

    def __init__(self, over: QWidget, building: Building, number: int) -> None:
        super().__init__(over, "")
        self.building, self.number = building, number
        self.rows: tuple[Row, ...] = ()
        self._filling = False
        self.cells = QTableWidget(0, len(COLUMNS))
        self.cells.setHorizontalHeaderLabels(list(COLUMNS))
        self.cells.verticalHeader().setVisible(False)
        self.cells.verticalHeader().setDefaultSectionSize(28)
        self.cells.horizontalHeader().setStretchLastSection(True)
        self.cells.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.cells.setAccessibleName("What the preset stores")
        for column, width in enumerate((150, 76, 70, 80, 56, 110)):
            self.cells.setColumnWidth(column, width)
        for n, name in enumerate(COLUMNS):
            self.cells.horizontalHeaderItem(n).setToolTip(TIPS.get(name, ""))
        self.cells.setMinimumSize(720, 400)
        self.cells.cellChanged.connect(self._changed)
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.column.addWidget(self.cells, 1)
        self.column.addWidget(self.why)
        foot = QHBoxLayout()
        hint = QLabel("Select rows, then type in one of them: all of them get it.")
        hint.setProperty("role", "dim")
        foot.addWidget(hint)
        foot.addStretch(1)
        foot.addWidget(button("Close", self.close))
        self.column.addLayout(foot)
        building.session.show_changed.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """List the rows anew."""
        show = self.building.show
        if show.preset(self.number) is None:
            self.close()
            return
        if self._filling:
            return
        chosen = set(self.chosen())
        preset = preset_of(show, self.number)
        self.head.setText(f"{preset.number}  {preset.name}: when what it stores arrives")
        self.rows = rows_of(show, self.number)
        self._filling = True
        self.cells.setRowCount(len(self.rows))
        for n, row in enumerate(self.rows):
            for column, name in enumerate(COLUMNS):
                item = QTableWidgetItem(cell(show, self.number, row, name))
                if name not in TYPED or (name == "transition" and row.kind != "picture"):
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                self.cells.setItem(n, column, item)
                item.setSelected(row in chosen)
        self._filling = False

    def chosen(self) -> list[Row]:
        """The selected rows."""
        return [self.rows[n] for n in sorted({item.row() for item in self.cells.selectedItems()})]

    def _changed(self, row: int, column: int) -> None:
        if self._filling:
            return
        chosen, this = self.chosen(), self.rows[row]
        self.put(chosen if this in chosen else [this], COLUMNS[column], self.cells.item(row, column).text())

    def put(self, rows: list[Row], column: str, text: str) -> None:
        """A typed value for all of these rows; what is wrong is said below, and nothing changes."""
        session, words = self.building.session, f"{column.capitalize()} in preset {self.number}"
        try:
            session.edit(words, with_cell(session.show, self.number, rows, column, text))
            self.why.setText("")
        except ValueError as error:
            self.why.setText(told(error).removeprefix(": "))
        self.fill()
