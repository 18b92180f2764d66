"""The take strip: take, cut, back, the time, the hand fade, and in words what will change."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.onair.actions import Hand
from ushering_adze.core.onair.delta import Change
from ushering_adze.core.show import Show
from ushering_adze.core.show.rigging import told
from ushering_adze.desk import theme
from ushering_adze.desk.deck import MUCH, forecast_words, percent
from ushering_adze.desk.session import Session


class HandFade(QWidget):
    """A lever from left (before) to right (done).  Reaching the end finishes the take, and the lever returns."""

    moved = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.position = 0.0
        self.armed = False
        self._grabbed = False
        self._done = False
        self.setMinimumSize(96, theme.TOUCH)
        self.setMaximumWidth(190)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Hand fade")
        self.setToolTip("Drag to lead the fade by hand")

    def set_armed(self, armed: bool) -> None:
        """Whether there is anything to fade to."""
        if armed != self.armed:
            self.armed = armed
            self.update()

    def follow(self, position: float) -> None:
        """Show where the fade stands when it is not led by this lever."""
        if not self._grabbed and position != self.position:
            self.position = position
            self.update()

    def _at(self, x: float) -> float:
        return min(1.0, max(0.0, (x - 8) / max(1.0, self.width() - 16)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.armed and abs(self._at(event.position().x()) - self.position) < 0.15:
            self._grabbed, self._done = True, False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._grabbed or self._done:
            return
        self.position = self._at(event.position().x())
        self._done = self.position >= 0.995
        self.moved.emit(1.0 if self._done else self.position)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._grabbed = False
        if self._done:
            self.position = 0.0
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        y = self.height() / 2 + 4
        token = theme.FAINT if self.armed else theme.LINE
        p.setPen(theme.hairline(token))
        p.drawLine(QPointF(8, y), QPointF(self.width() - 8, y))
        for k in range(11):
            x = 8 + (self.width() - 16) * k / 10
            p.drawLine(QPointF(x, y + 6), QPointF(x, y + (12 if k % 5 == 0 else 9)))
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM))
        p.drawText(
            QRectF(0, 0, self.width(), 14),
            Qt.AlignmentFlag.AlignCenter,
            "hand fade" if self.position <= 0 else f"{self.position * 100:.0f} %",
        )
        x = 8 + (self.width() - 16) * self.position
        p.fillRect(QRectF(8, y - 1.5, x - 8, 3), theme.colour(theme.AMBER))
        p.fillRect(QRectF(x - 6, y - 11, 12, 22), theme.colour(theme.TEXT if self.armed else theme.FAINT))


def delta_words(show: Show, changes: tuple[Change, ...], staged: bool) -> tuple[str, str]:
    """The delta in two lines.

    Examples
    --------
    >>> delta_words(Show(name="x"), (), False)
    ('Nothing is staged', 'Click a preset, or type its number and Enter')
    """
    if not staged:
        return "Nothing is staged", "Click a preset, or type its number and Enter"
    if not changes:
        return "Take changes nothing", "Program already shows this"
    groups: dict[str, list[str]] = {}
    for change in changes:
        groups.setdefault(" + ".join(change.after) or "black", []).append(show.surface(change.surface).name)
    total = len(show.surfaces)
    return (
        f"Take changes {len(changes)} of {total} surfaces",
        "   ".join(f"{', '.join(names)} → {after}" for after, names in groups.items()),
    )


class TakeStrip(QWidget):
    """Signals: ``take`` with a time in seconds or None, ``cut``, ``back``."""

    take = Signal(object)
    cut = Signal()
    back = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._staged: int | None = None
        self.setFixedHeight(56)
        self.take_button = QPushButton("TAKE")
        self.take_button.setObjectName("take")
        self.take_button.setFixedSize(104, theme.TOUCH)
        self.cut_button = QPushButton("Cut")
        self.back_button = QPushButton("Back")
        for button in (self.cut_button, self.back_button):
            button.setFixedSize(58, theme.TOUCH)
        for button in (self.take_button, self.cut_button, self.back_button):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.cut_button.setToolTip("Preview to program at once  (X)")
        self.back_button.setToolTip("Program to its former state  (Backspace)")
        self.take_button.setToolTip("Preview to program  (Space)")
        self.time = QLineEdit()
        self.time.setFixedSize(76, 36)
        self.time.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.time.setToolTip("Seconds of the next take")
        self.time.setAccessibleName("Seconds of the next take")
        self.hand = HandFade()
        self.head, self.line, self.load = QLabel(), QLabel(), QLabel()
        self.head.setProperty("role", "head")
        self.line.setProperty("role", "dim")
        for label in (self.head, self.line):
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addStretch(1)
        words.addWidget(self.head)
        words.addWidget(self.line)
        words.addStretch(1)
        box = QHBoxLayout(self)
        box.setContentsMargins(8, 4, 8, 4)
        box.setSpacing(6)
        for widget in (self.take_button, self.cut_button, self.back_button, self.time):
            box.addWidget(widget)
        box.addWidget(self.hand, 1)
        box.addSpacing(6)
        box.addLayout(words, 3)
        self.load.setAccessibleName("Share of a frame's time that what is staged wants")
        self.load.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        box.addWidget(self.load)
        self.take_button.clicked.connect(self.fire)
        self.cut_button.clicked.connect(lambda checked=False: self.cut.emit())
        self.back_button.clicked.connect(lambda checked=False: self.back.emit())
        self.time.returnPressed.connect(self._time_entered)
        self.time.textEdited.connect(lambda text: self._mark(False))
        self.hand.moved.connect(lambda position: session.playout.act(Hand(position=position)))
        session.reported.connect(self._report)

    def seconds(self) -> float | None:
        """The typed time, or None for the preset's own.

        Raises
        ------
        EntryError
            If what is typed is no time: then nothing may be taken, for it would be taken in another.
        """
        preset = self._session.show.preset(self._staged) if self._staged is not None else None
        text = self.time.text().removesuffix("s").strip()
        if preset is None or not text:
            return None
        value = number_from(text, now=preset.seconds)
        if not 0 <= value <= 3600:
            raise EntryError("a take lasts from 0 to 3600 s; type a time in that range")
        return None if abs(value - preset.seconds) < 1e-6 else value

    def _mark(self, wrong: bool, why: str = "") -> None:
        self.time.setProperty("wrong", wrong)
        self.time.style().unpolish(self.time)
        self.time.style().polish(self.time)
        self.time.setToolTip(why or "Seconds of the next take")
        if why:
            self._session.trouble.emit(f"Time of the take: {why}")

    def _time_entered(self) -> None:
        try:
            self.seconds()
        except EntryError as error:
            self._mark(True, told(error))
        self.window().setFocus()

    def fire(self) -> None:
        """Take, in the time shown; a time that is none is told, and nothing is taken."""
        try:
            seconds = self.seconds()
        except EntryError as error:
            self._mark(True, f"{told(error)}. Nothing was taken")
            return
        self.take.emit(seconds)

    def _report(self) -> None:
        report = self._session.report
        if report is None:
            return
        stage = report.stage
        if stage.staged != self._staged:
            self._staged = stage.staged
            preset = stage.show.preset(stage.staged) if stage.staged is not None else None
            self.time.setText(f"{preset.seconds:.1f} s" if preset else "")
            self._mark(False)
        head, line = delta_words(stage.show, report.delta, stage.previewing)
        if stage.program.led_by_hand:
            head, line = "Fading by hand", "Drag on, or press Take to finish by the clock"
        if stage.rehearsal is not None:
            head, line = "Rehearsing on preview", "Take and Cut are for what is staged, not for the rehearsal"
        wants = report.forecasts.get(stage.staged) if stage.staged is not None else None
        if wants is not None and percent(wants) and report.delta:
            self.load.setText(f"{percent(wants)} %\nof a frame")
            self.load.setToolTip(forecast_words(stage.show, wants))
            theme.restyle(self.load, f"color: {theme.AMBER if wants.most > MUCH else theme.DIM};")
        else:
            self.load.setText("")
        self.head.setText(head)
        theme.restyle(self.head, f"color: {theme.AMBER if report.delta else theme.DIM};")
        metrics = self.line.fontMetrics()
        self.line.setText(metrics.elidedText(line, Qt.TextElideMode.ElideRight, max(60, self.line.width())))
        self.line.setToolTip(line)
        ready = stage.previewing or stage.program.led_by_hand
        self.take_button.setEnabled(ready)
        self.cut_button.setEnabled(ready)
        self.back_button.setEnabled(bool(stage.back))
        self.hand.set_armed(ready)
        self.hand.follow(stage.program.hand if stage.program.led_by_hand else 0.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
