"""Small buttons in a grid that scrolls: one for each thing of a library, and one more that makes another."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QGridLayout, QInputDialog, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ushering_adze.desk.build.building import Building
from ushering_adze.desk.dragging import DraggedButton
from ushering_adze.desk.tools import tool_button

ACROSS, HIGH = 3, 126


class Chip(NamedTuple):
    """One button: an id, its words, and what is said when the pointer rests on it."""

    id: str
    words: str
    tip: str


class Chips(QWidget):
    """The buttons.

    Signals
    -------
    pressed : one was clicked, by its id
    asked : one was right-clicked: its id, and where on the screen
    wanted_more : another one is to be made
    """

    pressed = Signal(str)
    asked = Signal(str, QPoint)
    wanted_more = Signal()

    def __init__(self, name: str, more: str, carries: str = "") -> None:
        super().__init__()
        self.buttons: dict[str, QPushButton] = {}
        self._more, self._carries = more, carries
        self._held: tuple[Chip, ...] | None = None
        host = QWidget()
        host.setObjectName(name)
        host.setStyleSheet(f"QWidget#{name} {{ background: transparent; }}")
        self._grid = QGridLayout(host)
        self._grid.setContentsMargins(0, 0, 6, 0)
        self._grid.setSpacing(4)
        self._grid.setAlignment(Qt.AlignmentFlag.AlignTop)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedHeight(HIGH)
        scroll.setWidget(host)
        scroll.viewport().setAutoFillBackground(False)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(scroll)

    def fill(self, chips: Iterable[Chip]) -> None:
        """Show these."""
        wanted = tuple(chips)
        if wanted == self._held:
            return
        self._held = wanted
        while self._grid.count():
            widget = self._grid.takeAt(0).widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.buttons = {}
        for n, chip in enumerate(wanted):
            made = DraggedButton(chip.words, self._carries, chip.id) if self._carries else None
            button = tool_button(chip.words, partial(self.pressed.emit, chip.id), chip.tip, button=made)
            button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            button.customContextMenuRequested.connect(partial(self._asked, chip.id))
            button.setFixedHeight(28)
            self.buttons[chip.id] = button
            self._grid.addWidget(button, n // ACROSS, n % ACROSS)
        more = tool_button("+", self.wanted_more.emit, self._more)
        more.setFixedHeight(28)
        self._grid.addWidget(more, len(wanted) // ACROSS, len(wanted) % ACROSS)

    def _asked(self, id: str, at: QPoint) -> None:
        self.asked.emit(id, self.buttons[id].mapToGlobal(at))


class Library(QWidget):
    """Things of the show as small buttons: what one has in common with another.

    Parameters
    ----------
    building : Building
    name : str
        Of the buttons, for the look.
    more : str
        What is said of the button that makes another one.
    carries : str, optional
        As what they are dragged; they are not if it is empty.
    """

    def __init__(self, building: Building, name: str, more: str, carries: str = "") -> None:
        super().__init__()
        self.building = building
        self.chips = Chips(name, more, carries)
        self.chips.pressed.connect(self.press)
        self.chips.asked.connect(self.show_menu)
        self.chips.wanted_more.connect(self.ask_new)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.chips)
        building.session.show_changed.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """Show what there is."""
        self.chips.fill(self.listed())

    def listed(self) -> Iterable[Chip]:
        """What there is."""
        raise NotImplementedError

    def press(self, id: str) -> None:
        """One was clicked."""
        raise NotImplementedError

    def rename(self, id: str, name: str) -> None:
        """Give one another name."""
        raise NotImplementedError

    def ask_new(self) -> None:
        """Ask for another one."""
        raise NotImplementedError

    def show_menu(self, id: str, at: QPoint) -> None:
        """Show what can be done with one."""
        raise NotImplementedError

    def ask_name(self, id: str) -> None:
        """Ask for another name of one."""
        words = next(chip.words for chip in self.listed() if chip.id == id)
        name, right = QInputDialog.getText(self, "Rename", "Name", text=words)
        if right and name.strip():
            self.rename(id, name.strip())
