"""Presets as a table in place of the deck: cells are typed in, for all selected rows at once."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.exchange.preset_table import COLUMNS, as_tsv, cell, pasted, with_cell
from ushering_adze.core.show import Show
from ushering_adze.core.show.rigging import told
from ushering_adze.core.show.variants import copied, found, free_number_after, merged, split, without_presets
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

_NUMBER = Qt.ItemDataRole.UserRole


class _Cells(QTableWidget):
    """The rows; copy and paste take whole tables, Delete removes presets."""

    def __init__(self, table: PresetTable) -> None:
        super().__init__()
        self._table = table

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self._table.paste()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self._table.copy()
        elif event.key() == Qt.Key.Key_Delete:
            self._table.remove()
        else:
            super().keyPressEvent(event)


class PresetTable(QWidget):
    """Every preset in a row; found by what is typed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._filling = self._late = False
        self.finder = QLineEdit()
        self.finder.setPlaceholderText("Find presets by number, name, note, source or canvas")
        self.finder.setClearButtonEnabled(True)
        self.cells = _Cells(self)
        self.cells.setColumnCount(len(COLUMNS))
        self.cells.setHorizontalHeaderLabels(list(COLUMNS))
        self.cells.verticalHeader().setVisible(False)
        self.cells.verticalHeader().setDefaultSectionSize(28)
        self.cells.horizontalHeader().setStretchLastSection(True)
        self.cells.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.cells.setAccessibleName("Presets")
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        line = QHBoxLayout()
        line.addWidget(self.finder, 1)
        self.parting = QMenu(self)
        self.parting.aboutToShow.connect(self._list_canvases)
        for words, act, tip in (
            ("Copy", self.duplicate, "The selected presets again, under free numbers"),
            ("Merge", self.merge, "One more preset that does what the selected ones do, the later over the earlier"),
            ("Split ▾", None, "What the selected presets store of a canvas, into presets of its own"),
            ("Remove", self.remove, "Take the selected presets out of the show  (Delete)"),
        ):
            button = tool_button(words, act, tip) if act is not None else tool_button(words, tip=tip)
            if act is None:
                button.setMenu(self.parting)
            line.addWidget(button)
        box.addLayout(line)
        box.addWidget(self.cells, 1)
        box.addWidget(self.why)
        self.finder.textChanged.connect(self.fill)
        self.cells.cellChanged.connect(self._changed)
        session.show_changed.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """List the presets anew."""
        self._late = not self.isVisible()
        if self._filling or self._late:
            return
        chosen = set(self.chosen())
        self._filling = True
        show = self._session.show
        presets = sorted(found(show, self.finder.text()), key=lambda p: p.number)
        self.cells.setRowCount(len(presets))
        for row, preset in enumerate(presets):
            for column, name in enumerate(COLUMNS):
                item = QTableWidgetItem(cell(show, preset, name))
                item.setData(_NUMBER, preset.number)
                self.cells.setItem(row, column, item)
                item.setSelected(preset.number in chosen)
        for column, width in enumerate((62, 98, 64, 96, 150, 62, 42, 58, 60)):
            self.cells.setColumnWidth(column, width)
        self._filling = False

    def showEvent(self, event: object) -> None:
        if self._late:
            self.fill()

    def chosen(self) -> list[int]:
        """Numbers of the selected presets."""
        rows = sorted({item.row() for item in self.cells.selectedItems()})
        return [self.cells.item(row, 0).data(_NUMBER) for row in rows]

    def _changed(self, row: int, column: int) -> None:
        if self._filling:
            return
        item = self.cells.item(row, column)
        number = item.data(_NUMBER)
        numbers = self.chosen()
        self.put(numbers if number in numbers else [number], COLUMNS[column], item.text())

    def put(self, numbers: list[int], column: str, text: str) -> None:
        """A typed value for all of these; what is wrong is said below, and nothing changes."""
        try:
            words = f"{column.capitalize()} of {len(numbers)} presets" if len(numbers) > 1 else column.capitalize()
            self._session.edit(words, with_cell(self._session.show, numbers, column, text))
            self.why.setText("")
        except ValueError as error:
            self.why.setText(told(error).removeprefix(": "))
        self.fill()

    def copy(self) -> None:
        """The whole table to the clipboard."""
        QGuiApplication.clipboard().setText(as_tsv(self._session.show))

    def paste(self) -> None:
        """A table from the clipboard; all of it or nothing."""
        try:
            self._session.edit("Paste presets", pasted(self._session.show, QGuiApplication.clipboard().text()))
            self.why.setText("")
        except ValueError as error:
            self.why.setText(told(error).removeprefix(": "))

    def _each(self, words: str, make: Callable[[Show, int], Show]) -> None:
        """Something done to every selected preset, as one step for undo."""
        numbers = self.chosen()

        def made(show: Show) -> Show:
            for number in numbers:
                show = make(show, number)
            return show

        if not numbers:
            self.why.setText("select presets first")
        elif self._session.try_edit(words, made):
            self.why.setText("")

    def duplicate(self) -> None:
        """The selected presets again, each under the next free number."""
        self._each("Copy presets", lambda show, number: copied(show, number, free_number_after(show, number)))

    def merge(self) -> None:
        """One more preset that does what the selected ones do, the later over the earlier."""
        numbers, show = self.chosen(), self._session.show
        if len(numbers) < 2:
            self.why.setText("select two presets or more to merge them")
            return
        fresh = free_number_after(show, numbers[-1])
        name = " + ".join(str(n) for n in numbers)[:80]
        if self._session.try_edit(f"Merge presets {name}", lambda show: merged(show, numbers, fresh, name)):
            self.why.setText("")

    def split(self, canvas: str) -> None:
        """What the selected presets store of a canvas, into presets of its own."""
        self._each("Split presets", lambda show, number: split(show, number, {canvas}, free_number_after(show, number)))

    def _list_canvases(self) -> None:
        self.parting.clear()
        for canvas in self._session.show.canvases:
            self.parting.addAction(f"{canvas.name} apart").triggered.connect(partial(self._split_off, canvas.id))

    def _split_off(self, canvas: str, checked: bool = False) -> None:
        self.split(canvas)

    def remove(self) -> None:
        """Take the selected presets out of the show."""
        numbers = self.chosen()
        if numbers:
            listed = ", ".join(str(n) for n in numbers)
            self._session.try_edit(f"Remove presets {listed}", lambda show: without_presets(show, numbers))
