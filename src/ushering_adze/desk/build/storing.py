"""Storing and updating presets: the sheet with the scope grid, and what an update would change."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.onair.actions import StagePreset
from ushering_adze.core.onair.previewing import is_that_preset
from ushering_adze.core.onair.storing import (
    Cell,
    built_on,
    clears_of,
    differing,
    layers_in_order,
    stored,
    suggested,
    taken_away,
    update_of,
)
from ushering_adze.core.onair.view import View, state_of
from ushering_adze.core.picture.layers import State
from ushering_adze.core.show import ShowError
from ushering_adze.core.show.rigging import told
from ushering_adze.core.show.scope import NamedScope
from ushering_adze.core.show.scoping import with_scope, without_scope
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.scope import ScopeGrid


class Sheet(QFrame):
    """A panel over the workspace that never blocks the show; Escape closes it."""

    def __init__(self, over: QWidget, head: str) -> None:
        super().__init__(over)
        self.setObjectName("panel")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(8)
        self.head = QLabel(head)
        self.head.setProperty("role", "head")
        self.column.addWidget(self.head)

    def open(self) -> None:
        """Show it in the middle of the workspace."""
        over = self.parentWidget()
        self.adjustSize()
        width, height = min(self.width(), over.width() - 40), min(self.height(), over.height() - 30)
        self.resize(width, height)
        self.move((over.width() - width) // 2, (over.height() - height) // 2)
        self.show()
        self.raise_()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)

    def close(self) -> bool:
        self.hide()
        self.deleteLater()
        return True


def button(words: str, act: Callable[[], object], strong: bool = False) -> QPushButton:
    """A button of a sheet."""
    made = QPushButton(words)
    made.setMinimumHeight(36)
    if strong:
        made.setProperty("role", "strong")
    made.clicked.connect(lambda: act())
    return made


def free_number(building: Building) -> int:
    """The first number above all presets, or the first that is free."""
    taken = {p.number for p in building.show.presets}
    return next(n for n in range(1, 10_000) if n not in taken)


class StoreSheet(Sheet):
    """What is seen, as a preset: number, name, time, the grid of what is stored, and whether the rest is taken away."""

    def __init__(self, over: QWidget, building: Building) -> None:
        super().__init__(over, "Store as a preset")
        self.building = building
        stage = building.stage
        view = building.view or View("", "preview")
        self.state: State = state_of(stage, view)
        opened = stage.staged if building.on == "preview" else building.number if building.on == "blind" else None
        before = stage.stage(opened).preview() if building.on == "preview" else stage.program.target
        self._canvases = built_on(building.show, stage.edits if building.on == "preview" else (), opened)
        number = free_number(building)
        self.number, self.name, self.seconds = QLineEdit(str(number)), QLineEdit(f"Preset {number}"), QLineEdit("1")
        fields = ((self.number, "Number", 60), (self.name, "Name", 220), (self.seconds, "Seconds", 60))
        for field, words, width in fields:
            field.setAccessibleName(words)
            field.setMinimumWidth(width)
            if field is not self.name:
                field.setMaximumWidth(80)
            field.returnPressed.connect(self.store)
        line = QHBoxLayout()
        for words, field in (("Number", self.number), ("Name", self.name), ("s", self.seconds)):
            label = QLabel(words)
            label.setProperty("role", "dim")
            if words == "s":
                line.addWidget(field)
                line.addWidget(label)
            else:
                line.addWidget(label)
                line.addWidget(field, 1 if words == "Name" else 0)
        self.column.addLayout(line)
        self.grid = ScopeGrid()
        show = building.show
        names = {
            (c.id, y.id): (y.name if len(show.canvases) == 1 else f"{y.name} · {c.name}", y.colour)
            for c in show.canvases
            for y in c.layers
        }
        rows = [(key, *names[key]) for key in layers_in_order(show) if key in self.state]
        marked = differing(show, self.state, before)
        self.grid.hold(rows, self._usual(), marked)
        scroll = QScrollArea()
        scroll.setWidget(self.grid)
        scroll.setMinimumSize(self.grid.sizeHint().width() + 18, min(300, self.grid.sizeHint().height() + 4))
        self.column.addWidget(scroll, 1)
        legend = QLabel(
            "■ snaps   ▟ fades   □ is left   • differs from what was opened.  Click cells, names, headings."
        )
        legend.setProperty("role", "dim")
        self.column.addWidget(legend)
        ways = QHBoxLayout()
        for words, act in (
            ("All that is seen", lambda: self._choose(suggested(building.show, self.state))),
            ("What was built on", lambda: self._choose(self._usual())),
            ("Only what differs", lambda: self._choose(self._differing(marked))),
            ("Nothing", lambda: self._choose({})),
        ):
            ways.addWidget(button(words, act))
        ways.addStretch(1)
        self.scopes = button("Scopes", lambda: None)
        self.scopes.setMenu(QMenu(self.scopes))
        self.scopes.menu().aboutToShow.connect(self._fill_scopes)
        self.scope_name = QLineEdit()
        self.scope_name.setPlaceholderText("keep as…")
        self.scope_name.setAccessibleName("Name of this scope")
        self.scope_name.setToolTip("A name and Return keep this grid, to be chosen again under Scopes")
        self.scope_name.setMaximumWidth(110)
        self.scope_name.returnPressed.connect(self._keep_scope)
        ways.addWidget(self.scopes)
        ways.addWidget(self.scope_name)
        self.column.addLayout(ways)
        self.clears = QCheckBox()
        self.clears.setChecked(True)
        self.clears.toggled.connect(lambda on: self._tell())
        self.column.addWidget(self.clears)
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.hide()
        self.column.addWidget(self.why)
        foot = QHBoxLayout()
        self.told = QLabel()
        self.told.setProperty("role", "dim")
        foot.addWidget(self.told, 1)
        foot.addWidget(button("Cancel", self.close))
        self.done = button("Store", self.store, strong=True)
        foot.addWidget(self.done)
        self.column.addLayout(foot)
        self.grid.chosen.connect(self._tell)
        self.number.textEdited.connect(lambda text: self._tell())
        self._tell()
        self.name.setFocus()
        self.name.selectAll()

    # -- what is stored ------------------------------------------------------------------------------------------

    def _usual(self) -> dict[Cell, How]:
        return suggested(self.building.show, self.state, self._canvases)

    @staticmethod
    def _differing(marked: frozenset[Cell]) -> dict[Cell, How]:
        return dict.fromkeys(marked, "faded")

    def _choose(self, grid: dict[Cell, How]) -> None:
        self.grid.grid = grid
        self.grid.update()
        self._tell()

    def _fill_scopes(self) -> None:
        """Under *Scopes*: the one that was stored with last, those that have names, and how to forget one."""
        menu, show = self.scopes.menu(), self.building.show
        menu.clear()
        last = menu.addAction("As stored last", lambda: self._choose(dict(self.building.last_scope)))
        last.setEnabled(bool(self.building.last_scope))
        for scope in show.scopes:
            menu.addAction(scope.name, lambda scope=scope: self._choose(scope.cells))
        if show.scopes:
            menu.addSeparator()
        for scope in show.scopes:
            menu.addAction(f"Forget {scope.name}", lambda scope=scope: self._forget(scope))

    def _keep_scope(self) -> None:
        """The grid, under the name that was typed."""
        name, cells = self.scope_name.text().strip(), dict(self.grid.grid)
        if not name:
            return
        if self.building.session.try_edit(f"Scope {name}", lambda show: with_scope(show, name, cells)):
            self.scope_name.clear()
            self.building.session.trouble.emit(f"The scope {name} is kept; find it under Scopes.")

    def _forget(self, scope: NamedScope) -> None:
        self.building.session.try_edit(f"Forget {scope.name}", lambda show: without_scope(show, scope.id))

    def _clears(self) -> tuple[str, ...]:
        return clears_of(self.building.show, self.grid.grid) if self.clears.isChecked() else ()

    def _tell(self) -> None:
        """Say in words what the preset will do."""
        show, grid = self.building.show, self.grid.grid
        canvases = clears_of(show, grid)
        names = ", ".join(c.name for c in show.canvases if c.id in canvases)
        program = self.building.stage.program.target
        away = taken_away(show, program, grid, canvases)
        more = f" (takes {', '.join(away[:4])} away, as things are)" if away else ""
        self.clears.setText(f"Clears the rest of {names}{more}" if names else "Clears the rest")
        stored_layers = {key for (key, _), how in grid.items() if how != "left"}
        routed = {key for (key, kind), how in grid.items() if how != "left" and kind == "picture"}
        words = f"{len(stored_layers)} layers"
        if stored_layers - routed:
            words += f", {len(stored_layers - routed)} without their picture"
        number = self._number()
        there = show.preset(number) if number is not None else None
        self.done.setText(f"Replace {there.name}" if there is not None else "Store")
        self.told.setText(words)

    def _number(self) -> int | None:
        return int(self.number.text()) if self.number.text().strip().isdigit() else None

    def store(self) -> None:
        """Store it; what cannot be is said under the grid."""
        number = self._number()
        try:
            if number is None or not 1 <= number <= 9999:
                raise EntryError("a preset has a number of 1 to 9999; type one")
            seconds = number_from(self.seconds.text(), now=1.0)
            name = self.name.text().strip()
            show = stored(
                self.building.show, self.state, number, name, self.grid.grid, seconds=seconds, clears=self._clears()
            )
            self.building.session.edit(f"Store {number} {name}", show)
            self.building.last_scope = dict(self.grid.grid)
            if self.building.on == "preview" and is_that_preset(self.building.stage, show, number):
                # the same picture, known by its name when it is taken
                self.building.session.playout.act(StagePreset(preset=number))
        except (EntryError, ShowError, ValueError) as error:
            self.why.setText(told(error).removeprefix(": "))
            self.why.show()
            return
        self.building.session.trouble.emit(f"{number} {name} is stored.")
        self.close()


class UpdateSheet(Sheet):
    """What an update would change in a preset, line by line, before it does."""

    def __init__(self, over: QWidget, building: Building, number: int) -> None:
        preset = building.show.preset(number)
        super().__init__(over, f"Update {number} {preset.name if preset else ''}")
        self.building, self.number = building, number
        stage = building.stage
        view = View(building.canvas.id if building.canvas else "", building.on, building.number)
        self.show_after, self.changes = update_of(
            building.show, state_of(stage, view), number, building.edited() if building.on == "preview" else frozenset()
        )
        for change in self.changes[:14]:
            self.column.addWidget(QLabel(change.words))
        if len(self.changes) > 14:
            self.column.addWidget(QLabel(f"and {len(self.changes) - 14} more"))
        if not self.changes:
            self.column.addWidget(QLabel("Nothing would change: it is stored as it is seen."))
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(button("Cancel", self.close))
        self.done = button("Update", self.update_it, strong=True)
        self.done.setEnabled(bool(self.changes))
        foot.addWidget(self.done)
        self.column.addLayout(foot)
        self.setMinimumWidth(380)

    def update_it(self) -> None:
        """Store it."""
        name = next((p.name for p in self.show_after.presets if p.number == self.number), "")
        if self.building.session.try_edit(f"Update {self.number} {name}", lambda show: self.show_after):
            self.building.session.trouble.emit(f"{self.number} {name} is updated.")
        self.close()
