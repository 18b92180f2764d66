"""Tables for fast entry: cells are typed in, and whole tables go to and come from a spreadsheet."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.displays.table import TABLES, TableName, as_tsv, cell_text, pasted, rows_of, with_cell
from ushering_adze.core.show import ShowError
from ushering_adze.desk.session import Session


class RigTable(QTableWidget):
    """A table whose paste and copy keys take whole tables."""

    def __init__(self, owner: RigTables) -> None:
        super().__init__()
        self._owner = owner

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self._owner.paste()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self._owner.copy()
        else:
            super().keyPressEvent(event)


class RigTables(QWidget):
    """One table at a time, chosen above it; what is refused is said under it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._filling = False
        self.setObjectName("plain")
        self.picker = QComboBox()
        self.picker.setAccessibleName("Table")
        for name, table in TABLES.items():
            self.picker.addItem(table.words, name)
        self.copy_button, self.paste_button = QPushButton("Copy table"), QPushButton("Paste table")
        self.copy_button.setToolTip("For a spreadsheet, with headings")
        self.paste_button.setToolTip(
            "From a spreadsheet, with headings; a known name changes that item, others are added"
        )
        for button in (self.copy_button, self.paste_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.cells = RigTable(self)
        self.cells.setAccessibleName("Rig table")
        self.cells.verticalHeader().setVisible(False)
        self.cells.verticalHeader().setDefaultSectionSize(30)
        self.cells.setAlternatingRowColors(True)
        self.cells.horizontalHeader().setStretchLastSection(True)
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.setMinimumHeight(18)
        tools = QHBoxLayout()
        tools.setContentsMargins(0, 0, 0, 0)
        for widget in (self.picker, self.copy_button, self.paste_button):
            tools.addWidget(widget)
        tools.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addLayout(tools)
        box.addWidget(self.cells, 1)
        box.addWidget(self.why)
        self.picker.activated.connect(lambda: self.fill())
        self.copy_button.clicked.connect(self.copy)
        self.paste_button.clicked.connect(self.paste)
        self.cells.cellChanged.connect(self._changed)
        self._late = False
        session.show_changed.connect(self._edited)
        self.fill()

    @property
    def name(self) -> TableName:
        """Which table is shown."""
        return cast(TableName, self.picker.currentData())

    def show_table(self, name: TableName) -> None:
        """Choose a table."""
        self.picker.setCurrentIndex(self.picker.findData(name))
        self.fill()

    def _edited(self) -> None:
        """Out of sight nothing is filled in: an edit elsewhere must not wait for it."""
        self._late = not self.isVisible()
        if not self._late:
            self.fill()

    def showEvent(self, event: object) -> None:
        if self._late:
            self._late = False
            self.fill()

    def fill(self) -> None:
        """Show the table anew."""
        self._filling = True
        columns, items = TABLES[self.name].columns, rows_of(self._session.show, self.name)
        self.cells.setColumnCount(len(columns))
        self.cells.setRowCount(len(items))
        self.cells.setHorizontalHeaderLabels([c.heading.replace("_", " ") for c in columns])
        for r, item in enumerate(items):
            for c, column in enumerate(columns):
                cell = QTableWidgetItem(cell_text(item, column))
                cell.setData(Qt.ItemDataRole.UserRole, item.id)
                self.cells.setItem(r, c, cell)
        self.cells.resizeColumnsToContents()
        for c in range(len(columns) - 1):
            self.cells.setColumnWidth(c, max(72, self.cells.columnWidth(c) + 12))
        self._filling = False

    def _changed(self, row: int, column: int) -> None:
        if self._filling:
            return
        cell = self.cells.item(row, column)
        spec = TABLES[self.name].columns[column]
        try:
            self._session.edit(
                f"{spec.heading.replace('_', ' ').capitalize()} in the table",
                with_cell(self._session.show, self.name, cell.data(Qt.ItemDataRole.UserRole), spec, cell.text()),
            )
            self.why.setText("")
        except ShowError as error:
            self.fill()
            self.why.setText(f"{spec.heading.replace('_', ' ')}: {str(error).removeprefix(f'{spec.heading}: ')}")

    def copy(self) -> None:
        """The whole table, with headings, to the clipboard."""
        QGuiApplication.clipboard().setText(as_tsv(self._session.show, self.name))
        self.why.setText("")

    def paste(self) -> None:
        """A table with headings from the clipboard; all of it or nothing."""
        try:
            self._session.edit(
                f"Paste {TABLES[self.name].words}",
                pasted(self._session.show, self.name, QGuiApplication.clipboard().text()),
            )
            self.why.setText("")
        except ShowError as error:
            self.why.setText(str(error).removeprefix(": "))
