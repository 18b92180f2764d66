"""The top bar: the show and whether it is saved, the workspaces, the running figures and the clock."""

from __future__ import annotations

import time

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QMenu, QPushButton, QWidget

from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session

WORKSPACES = ("Rig", "Map", "Align", "Build", "Run", "Watch")


def mark_icon(size: int = 28) -> QIcon:
    """The mark: an adze, its blade amber."""
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(QPen(theme.colour(theme.TEXT), 2.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    p.drawArc(QRectF(4, 5, 22, 46), 96 * 16, 62 * 16)
    p.setPen(QPen(theme.colour(theme.AMBER), 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    p.drawArc(QRectF(2, 5, 22, 22), 10 * 16, 105 * 16)
    p.setPen(QPen(theme.colour(theme.AMBER), 2))
    p.drawLine(QPointF(21, 13), QPointF(26, 17))
    p.end()
    return QIcon(pixmap)


class TopBar(QWidget):
    """Signals: ``chosen`` with the name of a workspace; ``proof_asked`` for the list of findings."""

    chosen = Signal(str)
    proof_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(theme.TOP_BAR)
        self.mark = QPushButton(mark_icon(), "")
        self.mark.setObjectName("mark")
        self.mark.setIconSize(self.mark.iconSize() * 1.5)
        self.mark.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.mark.setToolTip("Menu")
        self.mark.setAccessibleName("Menu")
        self.menu = QMenu(self)
        self.mark.setMenu(self.menu)
        self.name = QLabel()
        self.name.setProperty("role", "head")
        self.saved = QLabel()
        self.saved.setProperty("role", "dim")
        self.tabs = QButtonGroup(self)
        tabs = QHBoxLayout()
        tabs.setSpacing(0)
        self.buttons: dict[str, QPushButton] = {}
        for k, word in enumerate(WORKSPACES):
            button = QPushButton(word)
            button.setObjectName("tab")
            button.setCheckable(True)
            button.setFixedHeight(theme.TOP_BAR)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"Alt+{k + 1}")
            button.clicked.connect(lambda checked=False, w=word: self.chosen.emit(w))
            self.tabs.addButton(button)
            self.buttons[word] = button
            tabs.addWidget(button)
        self.proof = QPushButton()
        self.proof.setObjectName("proof")
        self.proof.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.proof.setAccessibleName("Proof")
        self.proof.clicked.connect(self.proof_asked)
        self.findings = QPushButton()
        self.findings.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.findings.setAccessibleName("Faults")
        self.findings.clicked.connect(self._list_faults)
        self._known_only: bool | None = None
        self.findings.setFixedHeight(26)
        self.findings.hide()
        self.figures = QLabel()
        self.figures.setProperty("role", "figures")
        self.clock = QLabel()
        self.clock.setProperty("role", "clock")
        left, right = QWidget(), QWidget()
        l_box, r_box = QHBoxLayout(left), QHBoxLayout(right)
        l_box.setContentsMargins(4, 0, 0, 0)
        r_box.setContentsMargins(0, 0, 12, 0)
        r_box.setSpacing(20)
        for widget in (self.mark, self.name, self.saved):
            l_box.addWidget(widget)
        l_box.addStretch(1)
        r_box.addStretch(1)
        r_box.addWidget(self.proof)
        r_box.addWidget(self.findings)
        r_box.addWidget(self.figures)
        r_box.addWidget(self.clock)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(left, 1)
        box.addLayout(tabs)
        box.addWidget(right, 1)
        session.named.connect(self._name)
        session.show_changed.connect(self._name)
        session.reported.connect(self._report)
        session.checked.connect(self._checked)
        self._unkept: str | None = None
        timer = QTimer(self)
        timer.timeout.connect(self._tick)
        timer.start(250)
        self._name()
        self._checked()
        self._tick()

    def show_chosen(self, word: str) -> None:
        """Mark a workspace as the one on screen."""
        self.buttons[word].setChecked(True)

    def _name(self) -> None:
        session = self._session
        self.name.setText(session.show.name)
        if session.path is None:
            fresh_demo = session.root == DEMO_ROOT and not session.edited
            state, token = ("demo, not saved", theme.DIM) if fresh_demo else ("not saved yet", theme.AMBER)
        elif session.edited:
            state, token = "edited", theme.AMBER
        else:
            state, token = time.strftime("saved %H:%M", time.localtime(session.saved_at)), theme.GREEN
        self.saved.setText(f'<span style="color:{token}">●</span> <span style="color:{theme.DIM}">{state}</span>')
        self.saved.setToolTip(str(session.path or "Save the show to give it a file"))

    def _report(self) -> None:
        report = self._session.report
        if report is None:
            return
        faults = report.troubles
        new = [f for f in faults if not f.acknowledged]
        self.findings.setVisible(bool(faults))
        lost = [f for f in new if ":" not in f.key]  # what was raised by measuring is no loss
        words = f"{len(lost)} lost" if lost else f"{len(new)} wrong"
        self.findings.setText(words if new else f"{len(faults)} known")
        self.findings.setToolTip("\n".join(f"{f.name}: {f.words}" for f in faults))
        if (not new) != self._known_only:
            self._known_only = not new
            words, line = (theme.RED_WORDS, theme.RED) if new else (theme.DIM, theme.LINE)
            theme.restyle(
                self.findings, f"color: {words}; border: 1px solid {line}; border-radius: 3px; padding: 3px 8px;"
            )
        late = f" · {report.late} late" if report.late_lately else ""
        token = theme.AMBER if report.late_lately else theme.DIM
        self.figures.setText(
            f'<span style="color:{token}">{report.fps:4.1f} fps · {report.milliseconds:.0f} ms{late}</span>'
        )
        waiting = f"; {report.waiting} commands wait" if report.waiting else ""
        waiting += f"; {report.refused} commands were refused: too many came" if report.refused else ""
        self.figures.setToolTip(f"{report.frames} frames, {report.late} late since the start{waiting}")

    def faults_menu(self) -> QMenu:
        """What is wrong, the gravest first; choosing one says that somebody knows of it."""
        report, acknowledge = self._session.report, self._session.playout.acknowledge
        menu = QMenu(self)
        faults = report.troubles if report is not None else ()
        for fault in faults:
            since = time.strftime("%H:%M:%S", time.localtime(fault.since))
            action = menu.addAction(f"{since}   {fault.name}: {fault.words}")
            action.setCheckable(True)
            action.setChecked(fault.acknowledged)
            action.setEnabled(not fault.acknowledged)
            action.triggered.connect(lambda checked=False, key=fault.key: acknowledge(key))
        if sum(not f.acknowledged for f in faults) > 1:
            menu.addSeparator()
            menu.addAction("I know of all of them", lambda: acknowledge())
        return menu

    def _list_faults(self) -> None:
        menu = self.faults_menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.findings.mapToGlobal(self.findings.rect().bottomLeft()))

    def _checked(self) -> None:
        """The gravest of what the proof found, in its colour and in words; nothing is called clear before it was looked
        at.
        """
        if not self._session.proved:
            self.proof.setText("proof…")
            self.proof.setToolTip("The show has not been checked yet; it will be in a moment")
            theme.restyle(self.proof, f"color: {theme.DIM};")
            return
        found = self._session.findings
        tokens = {"error": theme.RED_WORDS, "warning": theme.AMBER, "note": theme.MOSS}
        gravest = next((s for s in tokens if any(f.severity == s for f in found)), None)
        count = sum(f.severity == gravest for f in found)
        self.proof.setText(f"{count} {gravest}{'s' if count > 1 else ''}" if gravest else "proof clear")
        counts = ", ".join(f"{sum(f.severity == s for f in found)} {s}s" for s in ("error", "warning", "note"))
        self.proof.setToolTip(f"Proof: {counts}. Click for the list.")
        theme.restyle(self.proof, f"color: {tokens[gravest or 'note']};")

    def _tick(self) -> None:
        fault = self._session.filing.autosave.fault
        if fault != self._unkept:
            self._unkept = fault
            self._session.trouble.emit(f"{fault}." if fault else "Edits are kept again.")
        self.clock.setText(time.strftime("%H:%M:%S"))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.GROUND))
        p.setPen(theme.hairline())
        p.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
