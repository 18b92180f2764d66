"""How the selected layers appear and disappear: in their own ways, or fading."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QWidget

from ushering_adze.core.exchange.preset_table import KINDS, way_words
from ushering_adze.core.show import Layer, ShowError
from ushering_adze.core.show.rigging import told
from ushering_adze.desk.build.building import Building

FADES = "fades"


class ComingAndGoing(QWidget):
    """Two lines, *comes* and *goes*, for all layers that are selected."""

    def __init__(self, building: Building) -> None:
        super().__init__()
        self._building = building
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.lines: dict[str, QLineEdit] = {}
        for row, (which, words) in enumerate((("comes", "Comes"), ("goes", "Goes"))):
            label = QLabel(words)
            label.setProperty("role", "dim")
            label.setFixedWidth(54)
            line = QLineEdit()
            line.setAccessibleName(f"How the layer {which}")
            line.setToolTip(
                f"A transition, such as wipe 90 or slide 180; empty: it {FADES}. There are {', '.join(KINDS)}."
            )
            line.editingFinished.connect(lambda which=which: self._typed(which))
            grid.addWidget(label, row, 0)
            grid.addWidget(line, row, 1)
            self.lines[which] = line

    def _chosen(self) -> list[Layer]:
        return [y for id in self._building.selected if (y := self._building.layer(id)) is not None]

    def fill(self) -> None:
        """Show what the selected layers have; what is being typed is left alone."""
        layers = self._chosen()
        for which, line in self.lines.items():
            line.setEnabled(bool(layers))
            if line.hasFocus() and line.isModified():
                continue
            ways = {getattr(y, which) for y in layers}
            way = next(iter(ways)) if len(ways) == 1 else None
            line.setText("" if way is None else way_words(way))
            line.setPlaceholderText("differ" if len(ways) > 1 else FADES)
            line.setCursorPosition(0)

    def _typed(self, which: str) -> None:
        line = self.lines[which]
        if not line.isModified():
            return
        line.setModified(False)
        try:
            self._building.come_or_go(which, line.text())
        except ShowError as error:
            self._building.session.trouble.emit(told(error))
        self.fill()
