"""The delay of a mix, measured by a flash with its beep that come back through a camera."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ushering_adze.core.show import Input
from ushering_adze.core.sound.in_step import InStep
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

EVERY = 500
"""Milliseconds from one look to the next."""
WAITS = "show the pattern flash on a wall, let its beep be heard in this mix, and point the camera at both"


class InStepRow(QWidget):
    """Which camera looks and listens, what it finds, and the delay that comes of it.

    Signals
    -------
    delayed : milliseconds by which the mix should come later than it does; less than 0 for earlier
    """

    delayed = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.found: InStep | None = None
        self.through = QComboBox()
        self.through.setAccessibleName("Camera that sees the flash and hears the beep")
        self.measure = tool_button("Measure", self._turn, "Flashes and beeps as this camera has them", True)
        self.apply = tool_button("Set", self._apply, "Have the mix come with its picture")
        self.words = QLabel()
        self.words.setProperty("role", "dim")
        self.words.setWordWrap(True)
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(self.through, 1)
        line.addWidget(self.measure)
        line.addWidget(self.apply)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 6, 0, 0)
        box.setSpacing(4)
        head = QLabel("In step, through")
        head.setProperty("role", "dim")
        box.addWidget(head)
        box.addLayout(line)
        box.addWidget(self.words)
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.follow)
        self.apply.setEnabled(False)
        self.fill()

    def fill(self) -> None:
        """Show the sources that a signal comes from."""
        inputs = (s for s in self._session.show.sources if isinstance(s, Input))
        live = [(s.name, s.id) for s in inputs if s.address is not None]
        if live != [(self.through.itemText(n), self.through.itemData(n)) for n in range(self.through.count())]:
            kept = self.through.currentData()
            self.through.clear()
            for name, id in live:
                self.through.addItem(name, id)
            self.through.setCurrentIndex(max(0, self.through.findData(kept)))
        self.measure.setEnabled(bool(live))
        if not live:
            self.words.setText("Needs a camera with sound: an input with an address, in Rig.")
        elif not self.measure.isChecked() and self.found is None:
            self.words.setText("")

    def hideEvent(self, event: object) -> None:
        if self.measure.isChecked():
            self.measure.setChecked(False)
            self._turn()

    def _turn(self) -> None:
        on = self.measure.isChecked()
        self._session.playout.look_through(self.through.currentData() if on else None)
        self.found = None
        self.apply.setEnabled(False)
        self.words.setText(f"Waits for flashes: {WAITS}." if on else "")
        if on:
            self._timer.start()
        else:
            self._timer.stop()

    def follow(self) -> None:
        """Say what is found by now."""
        source = self.through.currentData()
        found = None if source is None else self._session.playout.in_step(source)
        if found is None:
            return
        self.found = found
        self.words.setText(f"{self.through.currentText()}: {found.words}")
        self.apply.setEnabled(True)

    def _apply(self) -> None:
        if self.found is not None:
            found = self.found
            self.measure.setChecked(False)
            self._turn()  # what comes back next is of the new delay
            self.delayed.emit(-found.seconds * 1000)
