"""Cue lists in Run: what is armed and what comes then, legible from afar; the list, which is armed by a click and
edited only when that is switched on.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QItemSelectionModel, Qt, Signal
from PySide6.QtGui import QColor, QGuiApplication, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.exchange.cue_table import (
    COLUMNS,
    as_tsv,
    cell,
    pasted,
    with_cell,
    with_cues_of_presets,
    with_list,
    with_new_cue,
    with_new_list,
    without_cues,
)
from ushering_adze.core.exchange.cue_words import does_words, fires_words
from ushering_adze.core.exchange.run_sheet import time_words
from ushering_adze.core.onair.actions import Arm, Go, PauseList, StopList, differs_as_if
from ushering_adze.core.onair.chasing import place_words, position
from ushering_adze.core.onair.cues import head_of, internal_code, seconds_to
from ushering_adze.core.onair.heads import Head
from ushering_adze.core.onair.on_time import NEAR, behind, behind_words, on_for, to_timed
from ushering_adze.core.onair.planning import passed_over
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.show import Show
from ushering_adze.core.show.cue import Cue, CueList
from ushering_adze.core.show.rigging import told
from ushering_adze.core.show.timecode import Chase
from ushering_adze.desk import theme
from ushering_adze.desk.adding import added
from ushering_adze.desk.run.ahead import AHEAD, Ahead, words_of
from ushering_adze.desk.run.cue_menu import CueMenu
from ushering_adze.desk.run.rehearsal import RehearsalBar
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.io.today import seconds_today

_ID = Qt.ItemDataRole.UserRole
WIDTHS = (46, 130, 64, 96, 56, 62, 80)
SHORT, AT = 4, len(COLUMNS)
"""Columns that are shown while the list is not edited."""


class _Rows(QTableWidget):
    """The cues; keys of the show pass through to the window."""

    def __init__(self, panel: CuePanel) -> None:
        super().__init__()
        self._panel = panel

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste) and self._panel.editing:
            self._panel.paste()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self._panel.copy()
        elif event.key() == Qt.Key.Key_Delete and self._panel.editing:
            self._panel.remove()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_F2):
            super().keyPressEvent(event)
        else:
            event.ignore()


class CuePanel(QWidget):
    """A cue list: go, back, and its cues.

    Signals
    -------
    told : a sentence for whoever is at the desk
    """

    told = Signal(str)

    def __init__(self, session: Session, day: Callable[[], float] = seconds_today) -> None:
        super().__init__()
        self._session, self._day = session, day
        self._filling = False
        self._filled: object = None
        self._ignored: float | None = None
        self.chosen = QComboBox()
        self.chosen.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.chosen.setAccessibleName("Cue list")
        self.go_button = QPushButton("GO\nSpace")
        self.go_button.setObjectName("take")
        self.go_button.setFixedSize(84, AHEAD)
        self.go_button.setToolTip("Fire the armed cue  (Space)")
        self.go_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.ahead = Ahead()
        self.edit_button = tool_button("Edit", self._switch, "Type in the cells; then a click arms nothing", True)
        self.more = tool_button("More", None, "What is done to cues and lists")
        self.menu = CueMenu(self, session)
        self.more.setMenu(self.menu)
        self.rows = _Rows(self)
        self.rows.setColumnCount(len(COLUMNS) + 1)
        self.rows.setHorizontalHeaderLabels([*(c.capitalize() if c != "number" else "No." for c in COLUMNS), "At"])
        self.rows.horizontalHeader().moveSection(AT, 2)
        self.rows.setColumnWidth(AT, 66)
        self.rows.verticalHeader().setVisible(False)
        self.rows.verticalHeader().setDefaultSectionSize(30)
        self.rows.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.rows.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.rows.setAccessibleName("Cues")
        head = self.rows.horizontalHeader()
        head.setMinimumSectionSize(30)
        for column, width in enumerate(WIDTHS):
            self.rows.setColumnWidth(column, width)
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.hide()
        self.skip = tool_button(
            "As if all before had run", self._as_if, "What the cues in between would leave, too", True
        )
        self.skipped = QLabel()
        self.skipped.setProperty("role", "dim")
        self.skipped.setWordWrap(True)
        self._skipping: object = None
        self._timed: object = None
        self.skip.hide()
        self.skipped.hide()
        self.empty = tool_button("Make a cue list", self.make_list, "An empty list, to be filled")
        self.first = tool_button("New cue", self.insert, "It recalls what is staged")
        self.of_presets = tool_button("A cue for each preset", self.insert_presets, "By their numbers, fired by hand")
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(self.chosen, 1)
        for button in (
            tool_button("Before", self.back, "Arm the cue before; what is on air stays"),
            tool_button("Wait", self.wait, "What comes by itself stands still, and goes on from there"),
            tool_button("Stop", self.stop, "Nothing of this list happens by itself any more"),
            self.edit_button,
            self.more,
        ):
            line.addWidget(button)
        fire = QHBoxLayout()
        fire.setSpacing(6)
        fire.addWidget(self.go_button)
        fire.addWidget(self.ahead, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(6)
        self.rehearsal = RehearsalBar(session, lambda: self.cues.id if self.cues is not None else None)
        box.addLayout(line)
        box.addWidget(self.rehearsal)
        box.addLayout(fire)
        past = QHBoxLayout()
        past.setSpacing(6)
        past.addWidget(self.skip)
        past.addWidget(self.skipped, 1)
        box.addLayout(past)
        box.addWidget(self.empty)
        begin = QHBoxLayout()
        begin.addWidget(self.first)
        begin.addWidget(self.of_presets)
        box.addLayout(begin)
        box.addWidget(self.rows, 1)
        box.addWidget(self.why)
        self._switch()
        self.go_button.clicked.connect(lambda checked=False: self.go())
        self.rows.itemSelectionChanged.connect(self._picked)
        self.rows.cellChanged.connect(self._typed)
        self.chosen.currentIndexChanged.connect(lambda n: self._list_chosen())
        session.show_changed.connect(self.fill)
        session.reported.connect(self.follow)
        self.fill()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What is armed is larger where there is room for it."""
        high = round(min(1.6, max(1.0, self.height() / 420)) * AHEAD)
        if high != self.ahead.height():
            self.ahead.setFixedHeight(high)
            self.go_button.setFixedSize(84, high)
        super().resizeEvent(event)

    # -- what there is -------------------------------------------------------------------------------------------

    @property
    def cues(self) -> CueList | None:
        """The list that is shown."""
        id = self.chosen.currentData()
        return next((y for y in self._session.show.lists if y.id == id), None)

    @property
    def editing(self) -> bool:
        """Whether cells are typed into."""
        return bool(self.edit_button.isChecked())

    @property
    def head(self) -> Head | None:
        """Where the list stands."""
        cues, stage = self.cues, self._session.playout.stage
        if cues is None or cues.id not in {y.id for y in stage.show.lists}:
            return None
        return head_of(self._stage, cues.id)

    @property
    def _stage(self) -> Stage:
        """The stage that the list runs on: that of its rehearsal while it is rehearsed."""
        stage, cues = self._session.playout.stage, self.cues
        tried = stage.rehearsal
        return tried.stage if tried is not None and cues is not None and tried.list == cues.id else stage

    def selected(self) -> list[str]:
        """Ids of the selected cues."""
        rows = sorted({index.row() for index in self.rows.selectedIndexes()})
        return [self.rows.item(row, 0).data(_ID) for row in rows]

    def fill(self) -> None:
        """Show the lists of the show, and the cues of the chosen one."""
        show = self._session.show
        names = [(y.name, y.id) for y in show.lists]
        if names != [(self.chosen.itemText(n), self.chosen.itemData(n)) for n in range(self.chosen.count())]:
            kept = self.chosen.currentData()
            self.chosen.blockSignals(True)
            self.chosen.clear()
            for name, id in names:
                self.chosen.addItem(name, id)
            self.chosen.setCurrentIndex(max(0, self.chosen.findData(kept)))
            self.chosen.blockSignals(False)
        cues = self.cues
        self.empty.setVisible(cues is None)
        for button in (self.first, self.of_presets):
            button.setVisible(cues is not None and not cues.cues)
        held = (cues, show.presets, show.sources, self.editing)
        if held != self._filled:
            self._filled, self._timed = held, None
            self._fill_rows(show, cues)
        self.follow()

    def _fill_rows(self, show: Show, cues: CueList | None) -> None:
        chosen = set(self.selected())
        self._filling = True
        listed = cues.cues if cues is not None else ()
        self.rows.setRowCount(len(listed))
        for row, cue in enumerate(listed):
            for column, name in enumerate(COLUMNS):
                item = QTableWidgetItem(cell(show, cue, name))
                item.setData(_ID, cue.id)
                item.setToolTip(cue.note)
                if cue.off:
                    item.setForeground(theme.colour(theme.FAINT))
                self.rows.setItem(row, column, item)
            item = QTableWidgetItem(cue.start or "")
            item.setFont(theme.font(12))
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.rows.setItem(row, AT, item)
        self._select(chosen)
        self._filling = False

    def _select(self, ids: set[str]) -> None:
        self.rows.clearSelection()
        for row in range(self.rows.rowCount()):
            if self.rows.item(row, 0).data(_ID) in ids:
                for column in range(self.rows.columnCount()):
                    self.rows.item(row, column).setSelected(True)

    def follow(self) -> None:
        """Show what is armed, and what was fired."""
        cues, head = self.cues, self.head
        self.rehearsal.follow()
        tried = self._stage is not self._session.playout.stage
        self.go_button.setText("GO\npreview" if tried else "GO\nSpace")
        theme.restyle(self.go_button, f"background: {theme.AMBER};" if tried else "")
        self.go_button.setEnabled(head is not None and head.armed is not None)
        if cues is None or head is None:
            self.ahead.hold("", "", "")
            self._skipping = None
            self.skip.hide()
            self.skipped.hide()
            return
        stage, show = self._stage, self._session.show
        armed = cues.cue(head.armed)
        then = cues.after(armed.id) if armed is not None and not cues.shuffle else None
        fires = "" if armed is None else fires_words(armed.fires, show)
        left = seconds_to(stage, cues.id) if cues.cue(head.armed) is not None else None
        if left is not None:
            fires = f"by itself in {left:.0f} s"
        elif fires:
            fires = f"fires: {fires}"
        does = "" if armed is None else self._does(armed, show)
        self.ahead.hold(
            words_of(armed),
            " · ".join(w for w in (fires, does) if w),
            "" if then is None else f"then {words_of(then)}  {fires_words(then.fires, show)}".rstrip(),
            *self._stands(stage, cues),
            *self._left(),
        )
        if head.ignored is not None and head.ignored != self._ignored:
            self.told.emit("That was fired twice within 0.3 s: the second one was ignored.")
        self._ignored = head.ignored
        self._tell_skipped(head, cues)
        self._mark(head)

    def _tell_skipped(self, head: Head, cues: CueList) -> None:
        """Where cues are passed over, whether what they would have left matters, and to have it."""
        self.skip.setChecked(head.as_if)
        stage = self._stage
        told = (cues, head.armed, head.fired)
        if told == self._skipping:
            return
        self._skipping = told
        between = () if head.armed is None else passed_over(stage, cues.id, head.armed)
        names = differs_as_if(stage, cues.id, head.armed) if between and head.armed is not None else ()
        self.skip.setVisible(bool(names))
        self.skipped.setVisible(bool(names))
        listed = ", ".join(stage.show.surface(id).name for id in names)
        self.skipped.setText(f"{len(between)} passed over: {listed} would differ" if names else "")

    def _as_if(self) -> None:
        cues, head = self.cues, self.head
        if cues is not None and head is not None and head.armed is not None:
            self._session.playout.act(Arm(list=cues.id, cue=head.armed, as_if=self.skip.isChecked()))

    def _left(self) -> tuple[str, str]:
        """Time left of what is on air and ends, and what that is."""
        report = self._session.report
        running = [
            p
            for p in (report.players if report is not None else ())
            if p.on == "program" and p.running and p.left is not None and not p.pages and (not p.looping or p.counts)
        ]
        if not running:
            return "", ""
        player = min(running, key=lambda p: p.left or 0.0)
        return f"−{clock_digits(math.ceil(player.left or 0.0))}", player.name

    def _stands(self, stage: Stage, cues: CueList) -> tuple[str, bool]:
        """How long the last cue is on, and how the evening stands beside its plan; whether it is late."""
        on, over = on_for(stage, cues.id), behind(stage, cues.id, self._day())
        told = "" if on is None else f"on for {int(on) // 60}:{int(on) % 60:02d}"
        head, due = head_of(stage, cues.id), to_timed(stage, cues.id, self._day())
        timed = "" if due is None else f"{words_of(due[1])} in {clock_digits(round(due[0]))}"
        code = "" if cues.code is None else self._code(stage, cues.code)
        paused = "WAITS" if head.paused is not None else ""
        words = " · ".join(w for w in (paused, told, behind_words(over), code, timed) if w)
        return words, (over is not None and over >= NEAR) or head.paused is not None

    def _code(self, stage: Stage, chase: Chase) -> str:
        """Where the list's timecode stands."""
        report = self._session.report
        if report is None:
            return ""
        here = position(chase, {**report.codes, "internal": internal_code(report.stage)}, report.now)
        return place_words(chase, here)

    @staticmethod
    def _does(cue: Cue, show: Show) -> str:
        """What a cue does, with the name of its preset."""
        preset = None if cue.preset is None else show.preset(cue.preset)
        words = does_words(cue, show)
        if preset is None:
            return words
        return f"preset {words} {preset.name}" if len(cue.does) == 1 else f"{words}  ({preset.name})"

    def real_times(self) -> dict[str, float]:
        """When cues of the list were fired, in seconds from midnight."""
        report, head = self._session.report, self.head
        if report is None or head is None:
            return {}
        return {id: self._day() - (report.now - at) for id, at in head.times}

    def _mark_times(self, head: Head, cues: CueList) -> None:
        """When each cue was really fired, bright; when it is planned, dim."""
        if (head.times, cues) == self._timed:
            return
        self._timed = (head.times, cues)
        real = self.real_times()
        for row in range(self.rows.rowCount()):
            item, id = self.rows.item(row, AT), self.rows.item(row, 0).data(_ID)
            cue = cues.cue(id)
            planned = "" if cue is None else cue.start or ""
            item.setText(time_words(real[id]) if id in real else planned)
            item.setForeground(theme.colour(theme.TEXT if id in real else theme.DIM))
            item.setToolTip(f"planned {planned}, fired {time_words(real[id])}" if id in real and planned else "")

    def _mark(self, head: Head) -> None:
        """Colour the rows of the armed cue and of the one fired last."""
        was, self._filling = self._filling, True
        cues = self.cues
        if cues is not None:
            self._mark_times(head, cues)
        for row in range(self.rows.rowCount()):
            item = self.rows.item(row, 0)
            assert item is not None
            id = item.data(_ID)
            ground = theme.GREEN if id == head.armed else theme.RED if id == head.fired else ""
            if item.data(_ID + 1) != ground:
                item.setData(_ID + 1, ground)
                item.setBackground(theme.colour(ground, 110) if ground else QColor(0, 0, 0, 0))
                sign = {theme.GREEN: "armed", theme.RED: "fired last"}.get(ground, "")
                item.setData(Qt.ItemDataRole.AccessibleDescriptionRole, sign)
                if id == head.armed:
                    self.rows.scrollToItem(item)
        self._filling = was

    # -- by hand -------------------------------------------------------------------------------------------------

    def go(self) -> None:
        """Fire the armed cue."""
        if self.cues is not None:
            self._session.playout.act(Go(list=self.cues.id))

    def wait(self) -> None:
        """Let the list wait, or go on."""
        if self.cues is not None and self.head is not None:
            self._session.playout.act(PauseList(list=self.cues.id, on=self.head.paused is None))

    def stop(self) -> None:
        """Let the list stand."""
        if self.cues is not None:
            self._session.playout.act(StopList(list=self.cues.id))

    def arm(self, id: str) -> None:
        """Have a cue ready."""
        if self.cues is not None:
            self._session.playout.act(Arm(list=self.cues.id, cue=id))

    def arm_number(self, number: float) -> bool:
        """Arm the cue of a number; says whether there is one."""
        cue = self.cues.numbered(number) if self.cues is not None else None
        if cue is not None:
            self.arm(cue.id)
        return cue is not None

    def back(self) -> None:
        """Arm the cue before the one that is armed; what is on air stays."""
        cues, head = self.cues, self.head
        if cues is None or head is None:
            return
        last = cues.ordered[-1] if cues.ordered else None
        before = cues.before(head.armed) if head.armed is not None else last
        if before is not None:
            self.arm(before.id)

    def _picked(self) -> None:
        ids = self.selected()
        if not self._filling and not self.editing and len(ids) == 1:
            self.arm(ids[0])

    def _list_chosen(self) -> None:
        self._filled = None
        self.fill()

    # -- editing -------------------------------------------------------------------------------------------------

    def _switch(self) -> None:
        triggers = QAbstractItemView.EditTrigger
        on = self.editing
        self.rows.setEditTriggers(
            triggers.DoubleClicked | triggers.EditKeyPressed | triggers.AnyKeyPressed if on else triggers.NoEditTriggers
        )
        mode = QAbstractItemView.SelectionMode
        self.rows.setSelectionMode(mode.ExtendedSelection if on else mode.SingleSelection)
        self.rows.setColumnHidden(AT, on)
        for column in range(SHORT, len(COLUMNS)):
            self.rows.setColumnHidden(column, not on)
        resize = QHeaderView.ResizeMode
        self.rows.horizontalHeader().setSectionResizeMode(1, resize.Interactive if on else resize.Stretch)
        self.rows.setColumnWidth(1, WIDTHS[1])
        self._filled = None
        self.fill()

    def _say(self, why: str) -> None:
        self.why.setText(why)
        self.why.setVisible(bool(why))

    def edit(self, words: str, make: Callable[[Show], Show]) -> bool:
        """An edit of the show; what is wrong is said below the list, and nothing changes."""
        try:
            show = make(self._session.show)
        except ValueError as error:
            self._say(told(error).removeprefix(": "))
            return False
        self._say("")
        return self._session.try_edit(words, lambda _: show)

    def _typed(self, row: int, column: int) -> None:
        cues = self.cues
        if self._filling or cues is None:
            return
        item = self.rows.item(row, column)
        id, text, chosen = item.data(_ID), item.text(), self.selected()
        many = chosen if id in chosen and column else [id]
        name = COLUMNS[column]
        self.edit(f"Cue: {name}", lambda show: with_cell(show, cues.id, many, name, text))
        self._filled = None
        self.fill()

    def make_list(self) -> None:
        """One more list."""
        names = {y.name for y in self._session.show.lists}
        name = next(n for n in ("Evening", *(f"List {k}" for k in range(2, 999))) if n not in names)
        id = added(self.edit, f"Cue list {name}", lambda show: with_new_list(show, name))
        if id is not None:
            self.chosen.setCurrentIndex(self.chosen.findData(id))
            self.edit_button.setChecked(True)
            self._switch()

    def insert(self) -> None:
        """A cue behind the selected one, or behind the last, that recalls what is staged."""
        cues = self.cues
        if cues is None:
            return
        chosen = [c.number for c in cues.cues if c.id in self.selected()]
        after, preset = chosen[-1] if chosen else None, self._session.playout.stage.staged
        id = added(self.edit, "New cue", lambda show: with_new_cue(show, cues.id, after, preset))
        if id is not None and self.editing:
            self._select({id})
            row = next(n for n in range(self.rows.rowCount()) if self.rows.item(n, 0).data(_ID) == id)
            self.rows.setFocus()
            self.rows.setCurrentCell(row, COLUMNS.index("name"), QItemSelectionModel.SelectionFlag.NoUpdate)

    def insert_presets(self) -> None:
        """A cue for each preset that has none in the list."""
        cues = self.cues
        if cues is not None:
            self.edit("A cue for each preset", lambda show: with_cues_of_presets(show, cues.id))

    def remove(self) -> None:
        """Take the selected cues away."""
        cues, ids = self.cues, self.selected()
        if cues is not None and ids:
            self.edit("Remove cues", lambda show: without_cues(show, cues.id, ids))

    def copy(self) -> None:
        """The list to the clipboard, as a table."""
        if self.cues is not None:
            QGuiApplication.clipboard().setText(as_tsv(self._session.show, self.cues.id))

    def paste(self) -> None:
        """A table from the clipboard; all of it or nothing."""
        cues, text = self.cues, QGuiApplication.clipboard().text()
        if cues is not None:
            self.edit("Paste cues", lambda show: pasted(show, cues.id, text))

    def change(self, **fields: object) -> None:
        """Give the list other fields."""
        cues = self.cues
        if cues is not None:
            self.edit(f"Change {cues.name}", lambda show: with_list(show, cues.model_copy(update=fields)))
