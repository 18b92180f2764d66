"""What is wrong now, in a list: known by hand, known for a while, or not said at all."""

from __future__ import annotations

import time

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.show.alarming import with_alarms
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

SNOOZE = 300.0
"""Seconds."""


class WrongNow(QWidget):
    """Faults and alarms of the moment."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._told: object = None
        head = QLabel("Wrong now")
        head.setProperty("role", "head")
        self.table = QTableWidget()
        self.table.setColumnCount(3)
        self.table.setHorizontalHeaderLabels(["Since", "What", ""])
        self.table.verticalHeader().setVisible(False)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.table.setWordWrap(True)
        self.table.setIconSize(QSize(40, 28))
        self.table.setAccessibleName("What is wrong now")
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.setColumnWidth(0, 72)
        self.table.setColumnWidth(2, 48)
        self.known = tool_button("I know of it", self._acknowledge, "The chosen rows, or all of them")
        self.later = tool_button("In 5 min", self._snooze, "Known for five minutes; then it is new again")
        self.quiet = tool_button("No alarms", self._quiet, "None is raised, as while it is rehearsed", True)
        line = QHBoxLayout()
        line.setSpacing(4)
        for button in (self.known, self.later, self.quiet):
            button.setStyleSheet("QPushButton { padding: 4px 6px; }")
            line.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(head)
        column.addWidget(self.table, 1)
        column.addLayout(line)
        session.show_changed.connect(self.fill)
        session.reported.connect(self.follow)
        self.fill()

    def fill(self) -> None:
        """Say whether alarms are raised at all."""
        self.quiet.setChecked(self._session.show.alarms.muted)

    def showEvent(self, event: object) -> None:
        self.follow()

    def follow(self) -> None:
        """Show what is wrong by the newest report."""
        report = self._session.report
        if report is None or not self.isVisible():
            return
        told = tuple((t.key, t.what, t.since, t.acknowledged) for t in report.troubles)
        if told == self._told:
            return
        self._told = told
        self.table.setRowCount(len(report.troubles))
        for row, trouble in enumerate(report.troubles):
            since = time.strftime("%H:%M:%S", time.localtime(trouble.since))
            words = f"{trouble.name}: {trouble.what}" if trouble.name else trouble.what
            for column, text in enumerate((since, words, "known" if trouble.acknowledged else "")):
                item = QTableWidgetItem(text)
                item.setFont(theme.font(12))
                item.setToolTip(f"{words}. {trouble.cure}".strip())
                item.setData(Qt.ItemDataRole.UserRole, trouble.key)
                moment = self._session.playout.moment_of(trouble.key) if column == 1 else None
                if moment is not None:
                    item.setIcon(QIcon(QPixmap.fromImage(image_of(moment))))
                if not trouble.acknowledged:
                    item.setForeground(theme.colour(theme.AMBER if trouble.grave == "part" else theme.RED_WORDS))
                self.table.setItem(row, column, item)
        self.table.setColumnHidden(2, not any(t.acknowledged for t in report.troubles))
        self.table.resizeRowsToContents()
        self.known.setEnabled(any(not t.acknowledged for t in report.troubles))
        self.later.setEnabled(bool(report.troubles))

    # -- by hand -------------------------------------------------------------------------------------------------

    def _keys(self) -> list[str]:
        """Of the chosen rows."""
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        return [self.table.item(row, 0).data(Qt.ItemDataRole.UserRole) for row in rows]

    def _acknowledge(self) -> None:
        chosen: list[str | None] = [*self._keys()] or [None]
        for key in chosen:
            self._session.playout.acknowledge(key)

    def _snooze(self) -> None:
        report = self._session.report
        for key in self._keys() or ([] if report is None else [t.key for t in report.troubles]):
            self._session.playout.snooze(key, SNOOZE)

    def _quiet(self) -> None:
        on = self.quiet.isChecked()
        self._session.try_edit(
            "No alarms" if on else "Alarms",
            lambda show: with_alarms(show, muted=on),
        )
