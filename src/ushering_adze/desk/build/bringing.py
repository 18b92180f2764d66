"""Presets brought from another show: which of them, and what becomes of what both shows have."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QWidget

from ushering_adze.core.exchange.from_show import brought, in_conflict, needs_of
from ushering_adze.core.show import Show
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.storing import Sheet, button
from ushering_adze.desk.gathering import Gathering


class BringSheet(Sheet):
    """The presets of another show, to be chosen from; what they need, and what differs, is said before they come."""

    def __init__(self, over: QWidget, building: Building, other: Show, path: Path) -> None:
        super().__init__(over, f"Presets of {other.name}  ({path.name})")
        self.building, self.other = building, other
        self.gathering = Gathering(building.session)
        self.presets = QListWidget()
        self.presets.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.presets.setAccessibleName("Presets of the other show")
        self.presets.setMinimumSize(460, 260)
        for preset in other.presets:
            item = QListWidgetItem(f"{preset.number}  {preset.name}")
            item.setData(Qt.ItemDataRole.UserRole, preset.number)
            self.presets.addItem(item)
        self.presets.itemSelectionChanged.connect(self.tell)
        self.needs, self.conflicts = QLabel(), QLabel()
        self.copies = QCheckBox("Bring those as copies; otherwise this show's are used")
        self.files = QCheckBox("Copy their files beside this show")
        self.files.setEnabled(building.session.path is not None)
        self.files.setToolTip("" if self.files.isEnabled() else "Save this show first")
        for label in (self.needs, self.conflicts):
            label.setProperty("role", "dim")
            label.setWordWrap(True)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(button("Cancel", self.close))
        self.bring_button = button("Bring", self.bring, strong=True)
        foot.addWidget(self.bring_button)
        for widget in (self.presets, self.needs, self.conflicts, self.copies, self.files):
            self.column.addWidget(widget)
        self.column.addLayout(foot)
        self.tell()

    def chosen(self) -> list[int]:
        """Numbers of the chosen presets."""
        return sorted(item.data(Qt.ItemDataRole.UserRole) for item in self.presets.selectedItems())

    def tell(self) -> None:
        """Say what would come, and what of it is here already and differs."""
        numbers = self.chosen()
        needs = needs_of(self.other, numbers)
        differs = in_conflict(self.building.show, self.other, numbers)
        self.needs.setText(
            f"They need {len(needs.layers)} layers, {len(needs.sources)} sources, {len(needs.finishes)} finishes and "
            f"{len(needs.zones)} zones; what is not here comes with them."
            if numbers
            else "Choose presets: Ctrl and click takes one more."
        )
        self.conflicts.setText(f"Here already, but otherwise: {', '.join(differs)}." if differs else "")
        self.conflicts.setVisible(bool(differs))
        self.copies.setVisible(bool(differs))
        self.bring_button.setEnabled(bool(numbers))
        if self.isVisible():
            self.open()  # as large as what it says by now

    def bring(self) -> None:
        """Bring them, as one step for undo."""
        numbers, session = self.chosen(), self.building.session
        under: dict[int, int] = {}
        before = {s.id for s in session.show.sources}

        def made(show: Show) -> Show:
            new, found = brought(show, self.other, numbers, "bring" if self.copies.isChecked() else "here")
            under.update(found)
            return new

        if numbers and session.try_edit(f"Bring presets of {self.other.name}", made):
            moved = [f"{old} as {new}" for old, new in under.items() if old != new]
            session.trouble.emit(
                f"{len(under)} presets came" + (f", {', '.join(moved)}: those numbers were in use." if moved else ".")
            )
            if self.files.isChecked():
                new = {s.id for s in session.show.sources} - before
                self.gathering.gather(new)
            self.close()
