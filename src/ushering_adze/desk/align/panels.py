"""The column beside the drawings of Align: the steps in their usual order, and the pattern that is shown."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import NAMES, Look
from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.mapping.align_data import with_step
from ushering_adze.core.show.alignment import STEPS, Step
from ushering_adze.core.show.laid import On
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session

WORDS: dict[Step, tuple[str, str, PatternShown]] = {
    "focus": ("Focus", "sharp in the middle and the corners", PatternShown("focus", "output")),
    "shape": ("Shape", "lines straight, corners on the screen's", PatternShown("grid", "screen")),
    "overlap": ("Overlap", "both pictures' lines on one another", PatternShown("overlaps", "screen", own=True)),
    "ramp": ("Ramp", "white with no band where they meet", PatternShown("white", "canvas")),
    "blacks": ("Blacks", "one black all over", PatternShown("black", "canvas")),
    "colour": ("Colour", "one white, one grey", PatternShown("grey", "canvas")),
}


class StepList(QWidget):
    """The usual order of aligning; it remembers what is done, and shows the pattern that goes with a step.

    Signals
    -------
    chosen : a step was clicked: its pattern is wanted
    """

    chosen = Signal(object)

    def __init__(self, session: Session, surface: Callable[[], str | None]) -> None:
        super().__init__()
        self._session, self._surface = session, surface
        self.boxes: dict[Step, QCheckBox] = {}
        self.buttons: dict[Step, QPushButton] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 8, 10, 8)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        head = QLabel("Steps")
        head.setProperty("role", "head")
        self.lock_words = QLabel()
        self.lock_words.setProperty("role", "dim")
        grid.addWidget(head, 0, 0, 1, 2)
        grid.addWidget(self.lock_words, 0, 1, Qt.AlignmentFlag.AlignRight)
        for n, step in enumerate(STEPS, 1):
            words, tip, _ = WORDS[step]
            box, button = QCheckBox(), QPushButton(f"{n}  {words}")
            box.setAccessibleName(f"{words} is done")
            box.setToolTip(f"{words} is done")
            button.setObjectName("step")
            button.setToolTip(f"{tip}; shows the pattern {WORDS[step][2].name}")
            for widget in (box, button):
                widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            box.clicked.connect(lambda checked, s=step: self._mark(s, checked))
            button.clicked.connect(lambda checked=False, s=step: self._choose(s))
            self.boxes[step], self.buttons[step] = box, button
            grid.addWidget(box, n, 0)
            grid.addWidget(button, n, 1)
        self.tip = QLabel("steps in the usual order; a tick is kept with the show")
        """What to look for; laid out by whoever owns the list."""
        self.tip.setProperty("role", "dim")
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(STEPS) + 1, 1)
        session.show_changed.connect(self.fill)

    def _choose(self, step: Step) -> None:
        self.tip.setText(f"{WORDS[step][0]}: {WORDS[step][1]}")
        self.chosen.emit(WORDS[step][2])

    def fill(self) -> None:
        """Show what is done."""
        surface = self._surface()
        alignment = self._session.show.alignment(surface) if surface is not None else None
        for step, box in self.boxes.items():
            box.setChecked(alignment is not None and step in alignment.done)
        self.lock_words.setText("locked" if alignment is not None and alignment.locked else "")

    def _mark(self, step: Step, done: bool) -> None:
        surface = self._surface()
        if surface is not None:
            self._session.try_edit(
                f"{WORDS[step][0]} {'done' if done else 'not done'}", lambda s: with_step(s, surface, step, done)
            )


class PatternPanel(QWidget):
    """Which pattern is on the real outputs, in whose coordinates, on which of them, and how it is drawn.

    Signals
    -------
    changed : another pattern is wanted
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.name, self.on, self.where = QComboBox(), QComboBox(), QComboBox()
        self.name.addItem("the show itself", None)
        for name in NAMES:
            self.name.addItem(
                {
                    "hatch": "cross-hatch",
                    "near-black": "greys near black",
                    "line": "moving line",
                    "overlaps": "overlap zones",
                }.get(name, name),
                name,
            )
        for words, value in (
            ("through the landing", "screen"),
            ("in canvas pixels", "canvas"),
            ("on the raster itself", "output"),
        ):
            self.on.addItem(words, value)
        for words, value in (
            ("on this surface", "surface"),
            ("on this output only", "output"),
            ("on every output", "all"),
        ):
            self.where.addItem(words, value)
        self.spacing, self.line = QSpinBox(), QSpinBox()
        self.spacing.setRange(4, 1000)
        self.spacing.setValue(60)
        self.spacing.setSuffix(" px")
        self.line.setRange(1, 40)
        self.line.setValue(2)
        self.line.setSuffix(" px")
        self.ink = QPushButton("Colour")
        self.ink.clicked.connect(self._choose)
        self.colour = "#EBEBEB"
        self.own = QCheckBox("each in its own colour")
        self.falloff = QSlider(Qt.Orientation.Horizontal)
        self.falloff.setRange(0, 600)
        self.falloff.setAccessibleName("Falloff")
        self.falloff_words = QLabel("none")
        self.falloff_words.setProperty("role", "mono")
        head = QLabel("Pattern")
        head.setProperty("role", "head")
        for combo, words in ((self.name, "Pattern"), (self.on, "Coordinates"), (self.where, "Outputs")):
            combo.setAccessibleName(words)
            combo.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            combo.activated.connect(self.changed)
        for box, words in ((self.spacing, "Spacing"), (self.line, "Line width")):
            box.setKeyboardTracking(False)  # the pattern goes by the number, not by each of its digits
            box.setAccessibleName(words)
            box.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            box.valueChanged.connect(self.changed)
        for button in (self.ink, self.own, self.falloff):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.own.clicked.connect(self.changed)
        lines = QHBoxLayout()
        for widget in (self.spacing, self.line, self.ink):
            lines.addWidget(widget, 1)
        follow = QHBoxLayout()
        dim = QLabel("Points near follow")
        dim.setProperty("role", "dim")
        for part in (dim, self.falloff, self.falloff_words):
            follow.addWidget(part)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(6)
        column.addWidget(head)
        for choice in (self.name, self.on, self.where):
            column.addWidget(choice)
        column.addLayout(lines)
        column.addWidget(self.own)
        column.addLayout(follow)
        column.addStretch(1)

    def _choose(self) -> None:
        chosen = QColorDialog.getColor(QColor(self.colour), self.window(), "Colour of the lines")
        if chosen.isValid():
            self.colour = chosen.name().upper()
            theme.restyle(self.ink, f"border-left: 8px solid {self.colour};")
            self.changed.emit()

    def shown(self) -> PatternShown | None:
        """The pattern chosen; None for the show itself."""
        if self.name.currentData() is None:
            return None
        red, green, blue = rgb_of(self.colour)
        on: On = self.on.currentData()
        return PatternShown(
            self.name.currentData(),
            on,
            Look(self.spacing.value(), self.line.value(), (blue, green, red)),
            self.own.isChecked(),
        )

    def choose(self, shown: PatternShown | None) -> None:
        """Bring a pattern to the fields."""
        self.name.setCurrentIndex(self.name.findData(shown.name if shown is not None else None))
        if shown is not None:
            self.on.setCurrentIndex(self.on.findData(shown.on))
            self.own.setChecked(shown.own)
            if shown.look != Look():  # a step leaves lines as they were chosen
                for box, value in ((self.spacing, shown.look.spacing), (self.line, shown.look.width)):
                    box.blockSignals(True)
                    box.setValue(value)
                    box.blockSignals(False)
        self.changed.emit()
