"""One mix of sound on the desk: its meter, what is measured of it, and the hand on it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout

from ushering_adze.core.show.sound import Mix
from ushering_adze.desk import theme
from ushering_adze.desk.tools import tool_button
from ushering_adze.desk.watch.meters import CorrelationBar, MeterView
from ushering_adze.playout import MixReport

WIDTH = 228
NONE = -100.0
"""LUFS below which there is nothing to say."""


def level_words(level: float) -> str:
    """A level to a tenth, or a dash."""
    return "–" if level <= NONE else f"{level:.1f}"


class MixStrip(QFrame):
    """A mix.

    Signals
    -------
    chosen, muted : of it
    """

    chosen = Signal(str)
    muted = Signal(str, bool)
    listened = Signal(str)
    reset = Signal(str)

    def __init__(self, id: str) -> None:
        super().__init__()
        self.id = id
        self.setObjectName("panel")
        self.setFixedWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.name, self.goes = QLabel(), QLabel()
        self.name.setProperty("role", "head")
        self.goes.setProperty("role", "dim")
        self.meter, self.phase = MeterView(), CorrelationBar()
        self.mute = tool_button(
            "Mute", lambda: self.muted.emit(self.id, self.mute.isChecked()), "Silent until it is lifted", True
        )
        self.listen = tool_button("Listen", lambda: self.listened.emit(self.id), "Hear it", True)
        back = tool_button("Reset", lambda: self.reset.emit(self.id), "Peak, integrated loudness and range anew")
        grid = QGridLayout()
        grid.setVerticalSpacing(1)
        self.numbers: dict[str, QLabel] = {}
        for row, (key, words, tip) in enumerate(
            (
                ("momentary", "M", "Momentary loudness, LUFS"),
                ("short", "S", "Short-term loudness, LUFS"),
                ("integrated", "I", "Integrated loudness, LUFS"),
                ("target", "to target", "Integrated loudness beside its target, LU"),
                ("range", "LRA", "Loudness range, LU"),
                ("peak", "TP", "Largest true peak, dBTP"),
                ("limited", "limiter", "By how much its limiter turns it down, dB"),
            )
        ):
            label, number = QLabel(words), QLabel("–")
            label.setProperty("role", "dim")
            number.setFont(theme.font(15 if key == "short" else 13, mono=True))
            number.setAlignment(Qt.AlignmentFlag.AlignRight)
            for widget in (label, number):
                widget.setToolTip(tip)
            grid.addWidget(label, row, 0)
            grid.addWidget(number, row, 1)
            self.numbers[key] = number
        middle = QHBoxLayout()
        middle.setSpacing(8)
        middle.addWidget(self.meter)
        grid.setRowStretch(grid.rowCount(), 1)
        middle.addLayout(grid, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(4)
        box.addWidget(self.name)
        box.addWidget(self.goes)
        box.addLayout(middle, 1)
        box.addWidget(self.phase)
        line = QHBoxLayout()
        line.setSpacing(4)
        for button in (self.mute, self.listen, back):
            button.setStyleSheet("QPushButton { padding: 4px 5px; }")
            line.addWidget(button)
        box.addLayout(line)

    def hold(self, mix: Mix, told: MixReport | None, silent: bool, listened: bool, selected: bool) -> None:
        """Show this mix."""
        self.name.setText(mix.name)
        self.mute.setChecked(silent)
        self.listen.setChecked(listened)
        theme.restyle(self, f"QFrame#panel {{ border: 1px solid {theme.AMBER if selected else theme.LINE}; }}")
        if told is None:
            return
        measured, loud = told.measured, told.measured.loudness
        goes = "no device" if mix.device is None else mix.device if told.plays else f"{mix.device}: not there"
        self.goes.setText("silent" if silent else goes)
        self.goes.setStyleSheet(
            f"color: {theme.RED_WORDS if silent or (mix.device and not told.plays) else theme.DIM};"
        )
        self.meter.hold(measured, mix.most)
        self.phase.hold(measured.correlation)
        off, heard = loud.integrated - mix.target, loud.integrated > NONE
        for key, words, wrong in (
            ("momentary", level_words(loud.momentary), False),
            ("short", level_words(loud.short), False),
            ("integrated", level_words(loud.integrated), False),
            (
                "target",
                f"{off:+.1f}" if heard else "–",
                measured.off_target(mix.target),
            ),
            ("range", "–" if loud.range <= 0 else f"{loud.range:.1f}", False),
            ("peak", level_words(measured.peak), measured.over(mix.most)),
            ("limited", "–" if measured.reduction < 0.05 else f"{measured.reduction:.1f}", measured.reduction > 6),
        ):
            label = self.numbers[key]
            label.setText(words)
            label.setStyleSheet(f"color: {theme.AMBER if wrong else theme.TEXT};")

    def _mute(self) -> None:
        self.muted.emit(self.id, self.mute.isChecked())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(self.id)
