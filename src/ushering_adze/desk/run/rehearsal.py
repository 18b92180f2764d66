"""The line that a rehearsal is led by: how fast it goes, which surface it is let through on, and its end."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QWidget

from ushering_adze.core.onair.actions import Rehearse
from ushering_adze.core.onair.stage import Stage
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

SPEEDS = ((0.0, "step by step"), (1.0, "in its time"), (4.0, "four times as fast"))


def rehearsal_words(stage: Stage) -> str:
    """What is rehearsed, in one line; nothing if nothing is."""
    tried = stage.rehearsal
    if tried is None:
        return ""
    speed = next((words for s, words in SPEEDS if s == tried.speed), f"× {tried.speed:g}")
    through = ", ".join(s.name for s in stage.show.surfaces if s.id in tried.let)
    return f"rehearsal of {stage.show.cue_list(tried.list).name}, {speed}" + (
        f", on air on {through}" if through else ""
    )


class RehearsalBar(QWidget):
    """Begins, leads and ends the rehearsal of the list that ``chosen`` names; it is hidden while there is none."""

    def __init__(self, session: Session, chosen: Callable[[], str | None]) -> None:
        super().__init__()
        self._session, self._chosen = session, chosen
        self._filling = False
        self._places: object = None
        self.speed, self.let = QComboBox(), QComboBox()
        for box in (self.speed, self.let):
            box.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            box.currentIndexChanged.connect(lambda n: self._changed())
        self._filling = True
        for speed, words in SPEEDS:
            self.speed.addItem(words, speed)
        self._filling = False
        self.speed.setAccessibleName("How fast the rehearsal goes")
        self.let.setAccessibleName("The surface that shows the rehearsal")
        self.let.setToolTip("This surface shows the rehearsal; all others show what is on air")
        label = QLabel("Rehearsal")
        label.setProperty("role", "warning")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(label)
        line.addWidget(self.speed, 1)
        line.addWidget(self.let, 1)
        line.addWidget(tool_button("End", self.end, "Back to what is on air; nothing of it has changed"))
        self.hide()

    def toggle(self) -> None:
        """Begin to rehearse the chosen list, or end."""
        chosen = self._chosen()
        if self._session.playout.stage.rehearsal is not None:
            self.end()
        elif chosen is not None:
            self._session.playout.act(Rehearse(list=chosen, speed=1.0))

    def end(self) -> None:
        """What is on air stays as it is."""
        self._session.playout.act(Rehearse())

    def _changed(self) -> None:
        tried = self._session.playout.stage.rehearsal
        if self._filling or tried is None:
            return
        let = self.let.currentData()
        self._session.playout.act(
            Rehearse(list=tried.list, speed=self.speed.currentData(), let=() if let is None else (let,))
        )

    def follow(self) -> None:
        """Show what is rehearsed."""
        stage = self._session.playout.stage
        tried = stage.rehearsal
        self.setVisible(tried is not None)
        if tried is None:
            return
        self._filling = True
        places = tuple((s.id, s.name) for s in stage.show.surfaces)
        if places != self._places:
            self._places = places
            self.let.clear()
            self.let.addItem("on preview only", None)
            for id, name in places:
                self.let.addItem(f"also on {name}", id)
        self.let.setCurrentIndex(max(0, self.let.findData(next(iter(tried.let), None))))
        self.speed.setCurrentIndex(max(0, self.speed.findData(tried.speed)))
        self._filling = False
