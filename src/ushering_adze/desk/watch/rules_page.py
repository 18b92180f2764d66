"""The rules of alarms: which are raised, after how long, from which value on, for everything or for one thing alone."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QMenu,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.entry import EntryError, signed_from
from ushering_adze.core.show import Show
from ushering_adze.core.show.alarm import USUAL, AlarmKind, AlarmRule
from ushering_adze.core.show.alarming import (
    LOTS,
    OF,
    UNITS,
    WORDS,
    rules_of,
    with_alarms,
    with_apart,
    with_rule,
    without_rule,
)
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

NAME, OF_ONE, SECONDS, LIMIT, GRADE, WHY = range(6)
HEADS = ("Alarm", "Of", "After s", "From", "Grave", "")
GRADES = (("the whole picture", "picture"), ("a part", "part"))


def things_for(show: Show, kind: AlarmKind) -> Sequence[tuple[str, str]]:
    """Names and ids of what a kind of alarm can have a rule of its own for."""
    lots: dict[str, Any] = {
        "surfaces": show.surfaces,
        "sources": show.sources,
        "mixes": show.sound.mixes,
        "feeds": show.feeds,
    }
    found = [(thing.name, thing.id) for thing in lots.get(OF.get(kind, ""), ())]
    return found + [(f"{z.name}, a zone", z.id) for z in show.zones if OF.get(kind) == "surfaces"]


class RulesPage(QWidget):
    """A row for each rule; below it which surfaces should show what others show."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._filling = False
        self._told: object = None
        self.rules: list[AlarmRule] = []
        self.table = QTableWidget()
        self.table.setColumnCount(len(HEADS))
        self.table.setHorizontalHeaderLabels(list(HEADS))
        self.table.verticalHeader().setVisible(False)
        self.table.verticalHeader().setDefaultSectionSize(28)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        self.table.setAccessibleName("Rules of alarms")
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        for column, wide in ((NAME, 190), (OF_ONE, 170), (SECONDS, 76), (LIMIT, 100), (GRADE, 150)):
            self.table.setColumnWidth(column, wide)
        self.table.horizontalHeader().setSectionResizeMode(WHY, QHeaderView.ResizeMode.Stretch)
        self.table.itemChanged.connect(self._entered)
        self.own = tool_button("A rule of its own", None, "For one thing alone, for a zone, or for a kind of things")
        self._own = QMenu(self)
        self._own.aboutToShow.connect(self._fill_own)
        self.own.setMenu(self._own)
        self.usual = tool_button("As usual", self._usual, "The selected rules as they usually are; own ones go")
        self.calls = QCheckBox("Call who listens")
        self.calls.setToolTip("While something grave is new, two tones every other second, in what the operator hears")
        self.calls.clicked.connect(lambda on: self._alarms("Call who listens", calls=on))
        self.muted = QCheckBox("No alarms")
        self.muted.setToolTip("None is raised, as while it is rehearsed")
        self.muted.clicked.connect(lambda on: self._alarms("No alarms" if on else "Alarms", muted=on))
        line = QHBoxLayout()
        line.setSpacing(6)
        for widget in (self.own, self.usual, self.calls, self.muted):
            line.addWidget(widget)
        line.addStretch(1)
        self.surface, self.with_others = QComboBox(), QComboBox()
        self.surface.setAccessibleName("Surface that should show what another one shows")
        self.with_others.setAccessibleName("Surface whose sources it should show")
        self.pairs = QLabel()
        self.pairs.setProperty("role", "dim")
        self.pairs.setWordWrap(True)
        foot = QHBoxLayout()
        foot.setSpacing(6)
        foot.addWidget(QLabel("Apart:"))
        foot.addWidget(self.surface)
        foot.addWidget(QLabel("should show what is on"))
        foot.addWidget(self.with_others)
        foot.addWidget(tool_button("Add", self._pair, "An alarm when it shows none of that"))
        foot.addWidget(tool_button("Remove", self._unpair, "That surface may show what it likes"))
        foot.addWidget(self.pairs, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addLayout(line)
        box.addWidget(self.table, 1)
        box.addLayout(foot)
        session.show_changed.connect(self.fill)
        self.fill()

    # -- what is shown -------------------------------------------------------------------------------------------

    def fill(self) -> None:
        """Show the rules of the show."""
        show = self._session.show
        names = {z.id: f"in {z.name}" for z in show.zones}
        names |= {t.id: t.name for t in (*show.surfaces, *show.sources, *show.sound.mixes, *show.feeds)}
        told = (show.alarms, tuple(names.items()))
        if told == self._told:
            return
        self._told, self._filling = told, True
        self.rules = rules_of(show)
        self.table.setRowCount(len(self.rules))
        for row, rule in enumerate(self.rules):
            self._fill_row(row, rule, names)
        for combo in (self.surface, self.with_others):
            kept = combo.currentData()
            combo.clear()
            for surface in show.surfaces:
                combo.addItem(surface.name, surface.id)
            other = 1 if combo is self.with_others and combo.count() > 1 else 0
            combo.setCurrentIndex(other if kept is None else max(0, combo.findData(kept)))
        self.pairs.setText(
            "; ".join(
                f"{names.get(a.surface, a.surface)} with {', '.join(names.get(o, o) for o in a.others)}"
                for a in show.alarms.apart
            )
        )
        self.calls.setChecked(show.alarms.calls)
        self.muted.setChecked(show.alarms.muted)
        self._filling = False

    def _fill_row(self, row: int, rule: AlarmRule, names: dict[str, str]) -> None:
        name, why = WORDS[rule.kind]
        own = rule.of is not None or rule.lot is not None
        lots = LOTS.get(OF.get(rule.kind, ""), {})
        kinds = "all" if rule.lot is None else lots.get(rule.lot, rule.lot)
        whose = kinds if rule.of is None else names.get(rule.of, rule.of)
        texts = {
            NAME: "" if own else name,
            OF_ONE: whose,
            SECONDS: f"{rule.seconds:g}",
            LIMIT: f"{rule.limit:g} {UNITS[rule.kind]}".strip() if rule.kind in UNITS else "",
            WHY: "" if own else why,
        }
        usual = next(r for r in USUAL if r.kind == rule.kind)
        changed = {SECONDS: rule.seconds != usual.seconds, LIMIT: rule.limit != usual.limit}
        for column, text in texts.items():
            item = QTableWidgetItem(text)
            typed = column == SECONDS or (column == LIMIT and rule.kind in UNITS)
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            if typed:
                flags |= Qt.ItemFlag.ItemIsEditable
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            if column == NAME:
                flags |= Qt.ItemFlag.ItemIsUserCheckable
            item.setFlags(flags)
            if column == NAME:
                item.setCheckState(Qt.CheckState.Checked if rule.on else Qt.CheckState.Unchecked)
            item.setToolTip(why)
            item.setFont(theme.font(13, mono=typed))
            dim = not rule.on or column in (WHY, OF_ONE)
            item.setForeground(theme.colour(theme.DIM if dim else theme.AMBER if changed.get(column) else theme.TEXT))
            self.table.setItem(row, column, item)
        choice = self.table.cellWidget(row, GRADE)
        if not isinstance(choice, QComboBox):
            choice = QComboBox()
            for words, value in GRADES:
                choice.addItem(words, value)
            choice.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            choice.activated.connect(partial(self._graded, row))
            self.table.setCellWidget(row, GRADE, choice)
        choice.setCurrentIndex(choice.findData(rule.grade))

    # -- by hand -------------------------------------------------------------------------------------------------

    def _set(self, row: int, **fields: object) -> None:
        rule = self.rules[row]
        words = f"Alarm: {WORDS[rule.kind][0].lower()}"
        if not self._session.try_edit(words, lambda show: with_rule(show, rule.kind, rule.of, rule.lot, **fields)):
            self._told = None
            self.fill()

    def _graded(self, row: int, index: int) -> None:
        self._set(row, grade=GRADES[index][1])

    def _entered(self, item: QTableWidgetItem) -> None:
        if self._filling or item.row() >= len(self.rules):
            return
        rule, column = self.rules[item.row()], item.column()
        if column == NAME:
            on = item.checkState() == Qt.CheckState.Checked
            if on != rule.on:
                self._set(item.row(), on=on)
            return
        field = "seconds" if column == SECONDS else "limit"
        text = item.text().strip().removesuffix(UNITS.get(rule.kind, "")).strip()
        try:
            value = signed_from(text, getattr(rule, field))
        except EntryError as error:
            self._session.trouble.emit(f"{WORDS[rule.kind][0]}: {error}")
            self._told = None
            self.fill()
            return
        self._set(item.row(), **{field: value})

    def _rows(self) -> list[int]:
        return sorted({index.row() for index in self.table.selectedIndexes()})

    def _fill_own(self) -> None:
        self._own.clear()
        rows = self._rows()
        rule = self.rules[rows[0]] if rows else None
        things = things_for(self._session.show, rule.kind) if rule is not None else ()
        for name, id in things:
            self._own.addAction(name).triggered.connect(partial(self._own_for, id, None))
        lots = LOTS.get(OF.get(rule.kind, ""), {}) if rule is not None else {}
        if lots:
            self._own.addSeparator()
        for lot, name in lots.items():
            self._own.addAction(f"All {name}").triggered.connect(partial(self._own_for, None, lot))
        if not things:
            words = "Select an alarm first" if rule is None else "This alarm is of the whole show"
            self._own.addAction(words).setEnabled(False)

    def _own_for(self, id: str | None, lot: str | None = None, checked: bool = False) -> None:
        rows = self._rows()
        if rows:
            kind = self.rules[rows[0]].kind
            # a rule of its own is one, even if it says the same as that for all
            self._session.try_edit(f"Alarm: {WORDS[kind][0].lower()}", lambda show: with_rule(show, kind, id, lot))

    def _usual(self) -> None:
        chosen = [(rule.kind, rule.of, rule.lot) for rule in (self.rules[row] for row in self._rows())]

        def edit(show: Show) -> Show:
            for kind, of, lot in chosen:
                show = without_rule(show, kind, of, lot)
            return show

        if chosen:
            self._session.try_edit("Alarms as usual", edit)

    def _alarms(self, words: str, **fields: object) -> None:
        self._session.try_edit(words, lambda show: with_alarms(show, **fields))

    def _pair(self) -> None:
        one, other = self.surface.currentData(), self.with_others.currentData()
        if one is None or one == other:
            self._session.trouble.emit("A surface always shows what it shows; choose two different ones.")
            return
        show = self._session.show
        has = next((a.others for a in show.alarms.apart if a.surface == one), ())
        self._session.try_edit("Alarm: apart", lambda show: with_apart(show, one, (*has, other)))

    def _unpair(self) -> None:
        one = self.surface.currentData()
        if one is not None:
            self._session.try_edit("Alarm: apart", lambda show: with_apart(show, one, ()))
