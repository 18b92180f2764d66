"""The list under the steps: the masks of the output on view, or the batches of the LED wall."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.desk.tools import tool_button


class Part(NamedTuple):
    """A line of the list: its name, what else is told of it, and whether it is on."""

    name: str
    detail: str
    on: bool


class PartsList(QWidget):
    """Named parts with a tick for on; a click selects one, a double click opens it.

    Signals
    -------
    picked : another part is selected; its number, or −1
    ticked : number of a part and whether it shall be on
    opened : number of a part that was double-clicked
    """

    picked = Signal(int)
    ticked = Signal(int, bool)
    opened = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.head = QLabel()
        self.head.setProperty("role", "head")
        self.head.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.empty = QLabel()
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.list.setMinimumHeight(44)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setObjectName("lines")
        self.buttons: dict[str, QPushButton] = {}
        self._shown: tuple[object, ...] = ()
        self._line = QHBoxLayout()
        self._line.setSpacing(4)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 2, 10, 8)
        column.setSpacing(4)
        column.addWidget(self.head)
        column.addWidget(self.empty, 1)
        column.addWidget(self.list, 1)
        column.addLayout(self._line)
        self.list.currentRowChanged.connect(self.picked)
        self.list.itemClicked.connect(lambda item: self.picked.emit(self.list.row(item)))  # again, too
        self.list.itemChanged.connect(
            lambda item: self.ticked.emit(self.list.row(item), item.checkState() == Qt.CheckState.Checked)
        )
        self.list.itemDoubleClicked.connect(lambda item: self.opened.emit(self.list.row(item)))

    def sizeHint(self) -> QSize:
        return QSize(300, 120)

    def offer(self, acts: dict[str, object]) -> None:
        """Buttons below the list, in order; words to what they do."""
        if list(self.buttons) == list(acts):
            return
        for button in self.buttons.values():
            self._line.removeWidget(button)
            button.deleteLater()
        self.buttons = {words: tool_button(words, act) for words, act in acts.items()}  # type: ignore[arg-type]
        for button in self.buttons.values():
            self._line.addWidget(button)

    def fill(self, head: str, parts: Sequence[Part], nothing: str, chosen: int) -> None:
        """Show these parts; ``nothing`` is said where there are none."""
        if self._shown != (head, *parts):  # lines that stay as they are keep a double click whole
            self._shown = (head, *parts)
            self._write(head, parts, nothing)
        for n, button in enumerate(self.buttons.values()):
            button.setEnabled(n == 0 or bool(parts))  # the first makes one
        self.list.blockSignals(True)
        self.list.setCurrentRow(chosen if 0 <= chosen < len(parts) else -1)
        self.list.blockSignals(False)

    def _write(self, head: str, parts: Sequence[Part], nothing: str) -> None:
        self.head.setText(head)
        self.empty.setText(nothing)
        self.empty.setVisible(not parts)
        self.list.setVisible(bool(parts))
        self.list.blockSignals(True)
        self.list.clear()
        for part in parts:
            item = QListWidgetItem(f"{part.name}   {part.detail}")
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsUserCheckable)
            item.setToolTip(f"{part.name}: {part.detail}")
            item.setCheckState(Qt.CheckState.Checked if part.on else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)
