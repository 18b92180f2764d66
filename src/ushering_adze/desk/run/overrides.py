"""Overrides in Run: what is forced on surfaces above everything else, by whom and since when, and how it is lifted."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QMenu,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.exchange.run_sheet import time_words
from ushering_adze.core.onair.actions import Lift, Override
from ushering_adze.core.onair.overriding import override_words
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.io.today import seconds_today

BY = "the desk"
COLUMNS = ("Surface", "Shows", "By", "Since")
_ID = Qt.ItemDataRole.UserRole


class OverridePanel(QWidget):
    """What overrides surfaces now, and what makes one more.

    Signals
    -------
    told : a sentence for whoever is at the desk
    """

    told = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._shown: object = None
        self.on = QLabel()
        self.on.setWordWrap(True)
        black = tool_button("Black", lambda: self.make("black"), "Black on the selected surfaces until it is lifted")
        hold = tool_button("Hold", lambda: self.make("hold"), "The picture they have now, until it is lifted")
        pattern = tool_button("Pattern", lambda: self.make("pattern"), "A grid with the surface's name")
        self.source = tool_button("Source…", None, "One source, whole")
        menu = QMenu(self)
        menu.aboutToShow.connect(lambda: self._fill_menu(menu))
        self.source.setMenu(menu)
        self.lift = tool_button("Lift", self.lift_chosen, "Lift those of the chosen rows, or of the selected surfaces")
        self.lift_all = tool_button("Lift all", lambda: self._session.playout.act(Lift()), "Lift all there are")
        make = QHBoxLayout()
        make.setSpacing(4)
        for button in (black, hold, pattern, self.source):
            make.addWidget(button)
        make.addStretch(1)
        make.addWidget(self.lift)
        make.addWidget(self.lift_all)
        self.rows = QTableWidget()
        self.rows.setColumnCount(len(COLUMNS))
        self.rows.setHorizontalHeaderLabels(COLUMNS)
        self.rows.verticalHeader().setVisible(False)
        self.rows.verticalHeader().setDefaultSectionSize(30)
        self.rows.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.rows.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.rows.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.rows.setAccessibleName("Overrides")
        head = self.rows.horizontalHeader()
        for column in range(3):
            head.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
        self.rows.setColumnWidth(3, 76)
        self.empty = QLabel("Nothing is overridden: every surface shows what was recalled or fired.")
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(6)
        box.addWidget(self.on)
        box.addLayout(make)
        box.addWidget(self.empty)
        box.addWidget(self.rows, 1)
        box.addStretch(0)  # takes what the rows leave when there are none
        session.reported.connect(self.follow)
        session.selection_changed.connect(self._select)
        session.show_changed.connect(self._select)
        self._select()
        self.follow()

    def _select(self) -> None:
        names = [s.name for s in self._session.show.surfaces if s.id in self._session.surfaces]
        self.on.setText(f"Over {', '.join(names)}:" if names else "Select surfaces in the room or on the sill first.")

    def make(self, shows: str, source: str | None = None) -> None:
        """Override the selected surfaces."""
        chosen = tuple(s.id for s in self._session.show.surfaces if s.id in self._session.surfaces)
        if not chosen:
            self.told.emit("No surface is selected; click one in the room or on the sill first.")
            return
        made = Override.model_validate(
            {"do": "override", "surfaces": chosen, "shows": shows, "source": source, "by": BY}
        )
        self._session.playout.act(made)

    def lift_chosen(self) -> None:
        """Lift those of the chosen rows; of the selected surfaces if no row is chosen."""
        rows = {index.row() for index in self.rows.selectedIndexes()}
        ids = [self.rows.item(row, 0).data(_ID) for row in sorted(rows)]
        ids = ids or [id for id in self._session.playout.stage.overrides if id in self._session.surfaces]
        if ids:
            self._session.playout.act(Lift(surfaces=tuple(ids)))
        else:
            self.told.emit("Nothing is chosen; choose rows of the list, or a surface that is overridden.")

    def _fill_menu(self, menu: QMenu) -> None:
        menu.clear()
        for source in self._session.show.sources:
            menu.addAction(source.name).triggered.connect(partial(self._with_source, source.id))

    def _with_source(self, id: str, checked: bool = False) -> None:
        self.make("source", id)

    def follow(self) -> None:
        """Show what there is."""
        stage, report = self._session.playout.stage, self._session.report
        now = report.now if report is not None else 0.0
        show = stage.show
        told = (stage.overrides, tuple(s.name for s in show.surfaces), tuple(s.name for s in show.sources))
        if told == self._shown:
            return
        self._shown = told
        self.empty.setVisible(not stage.overrides)
        self.rows.setVisible(bool(stage.overrides))
        self.lift.setEnabled(bool(stage.overrides))
        self.lift_all.setEnabled(bool(stage.overrides))
        self.rows.setRowCount(len(stage.overrides))
        for row, (id, override) in enumerate(stage.overrides.items()):
            since = time_words(seconds_today() - max(0.0, now - override.since))
            cells = (show.surface(id).name, override_words(show, override), override.by or "somebody", since)
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setData(_ID, id)
                if column == 1:
                    item.setForeground(theme.colour(theme.AMBER))
                self.rows.setItem(row, column, item)
