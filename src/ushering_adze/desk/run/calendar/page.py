"""The calendar page of Run: what is on by it, days, weeks, months and the agenda, and the event that is selected."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QTimer, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.exchange.cue_words import action_words
from ushering_adze.core.exchange.ical import as_ical, events_from
from ushering_adze.core.onair.calendar import (
    Agenda,
    Occurrence,
    RuleError,
    agenda,
    epoch_of,
    local_of,
    on_at,
    zone_of,
)
from ushering_adze.core.show import Show
from ushering_adze.core.show.schedule import Event
from ushering_adze.core.show.scheduling import moved, repeat_words, with_new_event
from ushering_adze.desk import theme
from ushering_adze.desk.adding import added
from ushering_adze.desk.run.calendar.days import WEEKDAYS, Block, DaysView
from ushering_adze.desk.run.calendar.month import MonthView
from ushering_adze.desk.run.calendar.panel import EventPanel
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.io.today import zone_here
from ushering_adze.io.writing import write_whole

VIEWS = ("Day", "Week", "Month", "Agenda")
AGENDA_DAYS = 60
MARKED = 400
"""Occurrences up to which it is marked which of them give way: more than that nobody reads at once."""
MONTHS = (
    *("January", "February", "March", "April", "May", "June"),
    *("July", "August", "September", "October", "November", "December"),
)
_PLAIN = "#8FA0A6"


class CalendarPage(QWidget):
    """The calendar of the show.

    Signals
    -------
    left : somebody wants the rooms again
    told : a sentence for whoever is at the desk
    """

    left = Signal()
    told = Signal(str)

    def __init__(self, session: Session, clock: Callable[[], float] = time.time, zone: str | None = None) -> None:
        super().__init__()
        self._session, self._clock = session, clock
        self._here = zone if zone is not None else zone_here()
        self.view = "Week"
        self.day = self.now.replace(hour=0, minute=0, second=0, microsecond=0)
        self._of: tuple[object, ...] = ()
        self._told: object = None
        self._rows: list[Block] = []
        self.days, self.month, self.panel = DaysView(), MonthView(), EventPanel(session)
        self.table = QTableWidget()
        self.table.setColumnCount(5)
        self.table.setHorizontalHeaderLabels(["Day", "Time", "Event", "Does", "Comes"])
        self.table.verticalHeader().setVisible(False)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setAccessibleName("Agenda")
        self.table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        for column, width in enumerate((110, 110, 170, 200, 190)):
            self.table.setColumnWidth(column, width)
        self.scroller = QScrollArea()
        self.scroller.setWidgetResizable(True)
        self.scroller.setFrameShape(QFrame.Shape.NoFrame)
        self.scroller.setWidget(self.days)
        self.scroller.verticalScrollBar().valueChanged.connect(lambda at: self.days.update())
        self.stack = QStackedWidget()
        for widget in (self.scroller, self.month, self.table):
            self.stack.addWidget(widget)
        self.title, self.state = QLabel(), QLabel()
        self.title.setProperty("role", "head")
        self.state.setProperty("role", "dim")
        self.state.setWordWrap(True)
        self.bring = tool_button("Bring on what should be on", self._bring_on, "What an edit has left waiting")
        self.known = tool_button("Known", self._known, "What was missed is known")
        self.runs = tool_button("Runs", self._switch, "Whether the calendar does anything by itself", True)
        self.buttons = {
            name: tool_button(name, partial(self.show_as, name), f"The calendar by {name.lower()}", True)
            for name in VIEWS
        }
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(tool_button("Rooms", self.left.emit, "Program and preview again  (Shift+C)"))
        line.addSpacing(8)
        for words, act in (("‹", partial(self.turn, -1)), ("Today", self.today), ("›", partial(self.turn, 1))):
            line.addWidget(tool_button(words, act))
        line.addWidget(self.title)
        line.addStretch(1)
        for button in self.buttons.values():
            line.addWidget(button)
        line.addSpacing(8)
        for button in (
            tool_button("New", self.make_now, "An event at the next full hour"),
            tool_button("Import…", self._ask_import, "Events of an .ics file"),
            tool_button("Export…", self._ask_export, "The calendar as an .ics file"),
            self.runs,
        ):
            line.addWidget(button)
        under = QHBoxLayout()
        under.setSpacing(6)
        under.addWidget(self.state, 1)
        under.addWidget(self.bring)
        under.addWidget(self.known)
        side = QScrollArea()
        side.setWidgetResizable(True)
        side.setObjectName("panel")
        side.setWidget(self.panel)
        split = QSplitter()
        split.addWidget(self.stack)
        split.addWidget(side)
        split.setStretchFactor(0, 1)
        split.setSizes([900, 340])
        split.setHandleWidth(theme.GAP)
        split.setChildrenCollapsible(False)
        box = QVBoxLayout(self)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.setSpacing(6)
        box.addLayout(line)
        box.addLayout(under)
        box.addWidget(split, 1)
        for view in (self.days, self.month):
            view.chosen.connect(self.choose)
            view.made.connect(self.make)
        self.month.opened.connect(self._open_day)
        self.days.moved.connect(self._moved)
        self.table.itemSelectionChanged.connect(self._row_chosen)
        self.panel.gone.connect(lambda: self.choose(None))
        session.show_changed.connect(self.refresh)
        session.reported.connect(self._follow)
        self._timer = QTimer(self)
        self._timer.setInterval(15_000)
        self._timer.timeout.connect(self.refresh)
        self._first_shown = True
        self.show_as("Week")

    # -- what is shown -------------------------------------------------------------------------------------------

    @property
    def zone(self) -> str:
        """The show's time zone; this machine's if there is no such."""
        wanted = self._session.show.time_zone or self._here
        try:
            zone_of(wanted)
        except RuleError:
            return self._here
        return wanted

    @property
    def now(self) -> datetime:
        """The time on the clock of the show's place."""
        return local_of(self._clock(), zone_of(self.zone))

    def go_by(self, clock: Callable[[], float], zone: str) -> None:
        """Go by another clock, in seconds of the epoch, and another place than this machine's."""
        self._clock, self._here = clock, zone
        self.today()

    def range(self) -> tuple[datetime, int]:
        """The first day that is shown, and how many there are."""
        if self.view == "Day":
            return self.day, 1
        if self.view == "Week":
            return self.day - timedelta(days=self.day.weekday()), 7
        if self.view == "Month":
            first = self.day.replace(day=1)
            return first - timedelta(days=first.weekday()), 42
        return self.day, AGENDA_DAYS

    def show_as(self, name: str) -> None:
        """By day, week or month, or as a list."""
        self.view = name
        for each, button in self.buttons.items():
            button.setChecked(each == name)
        self.stack.setCurrentIndex({"Month": 1, "Agenda": 2}.get(name, 0))
        self.refresh()

    def today(self) -> None:
        """The days that are now."""
        self.day = self.now.replace(hour=0, minute=0, second=0, microsecond=0)
        self.refresh()

    def turn(self, by: int) -> None:
        """The days before or behind."""
        if self.view == "Month":
            months = self.day.year * 12 + self.day.month - 1 + by
            self.day = self.day.replace(year=months // 12, month=months % 12 + 1, day=1)
        else:
            self.day += timedelta(days=by * {"Day": 1, "Week": 7}.get(self.view, AGENDA_DAYS))
        self.refresh()

    def _blocks(self, show: Show, of: Agenda) -> list[Block]:
        events = {e.id: e for e in show.schedule}
        return [self._block(show, of, events[o.event], o) for o in of.occurrences]

    def _block(self, show: Show, of: Agenda, event: Event, one: Occurrence) -> Block:
        place, own = zone_of(self.zone), zone_of(event.time_zone or self.zone)
        on = one.is_moment or len(of.occurrences) > MARKED or one in on_at(show, of, one.begin)
        return Block(
            event.id,
            event.name,
            local_of(one.begin, place),
            local_of(one.end, place),
            local_of(one.begin, own),
            event.colour or _PLAIN,
            on,
            event.all_day,
        )

    def refresh(self) -> None:
        """Work out anew what is shown, if it is looked at."""
        if not self.isVisible():
            return
        show, now = self._session.show, self.now
        first, days = self.range()
        of = (show.schedule, show.time_zone, show.lists, show.surfaces, first, days, self.view)
        if len(of) != len(self._of) or any(a is not b and a != b for a, b in zip(of, self._of, strict=True)):
            self._of = of
            place = zone_of(self.zone)
            worked = agenda(show, self.zone, epoch_of(first, place), epoch_of(first + timedelta(days=days), place))
            self._rows = self._blocks(show, worked)
        selected = (
            None if self.panel.event_id is None or self.panel.at is None else (self.panel.event_id, self.panel.at)
        )
        self.days.selected = self.month.selected = selected
        if self.view == "Month":
            self.month.hold(first, self.day.month, self._rows, now)
            self.month.update()
            self.title.setText(f"{MONTHS[self.day.month - 1]} {self.day.year}")
        elif self.view == "Agenda":
            self._fill_table(show)
            self.title.setText(f"{AGENDA_DAYS} days from {first.day} {MONTHS[first.month - 1]} {first.year}")
        else:
            self.days.hold(first, days, self._rows, now)
            self.days.update()
            last = first + timedelta(days=days - 1)
            from_ = f"{first.day} – " if days > 1 else ""
            self.title.setText(f"{from_}{last.day} {MONTHS[last.month - 1]} {last.year}")
        self.runs.setChecked(show.calendar_runs)
        self.runs.setText("Runs" if show.calendar_runs else "Stands")

    def _fill_table(self, show: Show) -> None:
        events = {e.id: e for e in show.schedule}
        self.table.blockSignals(True)
        self.table.setRowCount(len(self._rows))
        for row, block in enumerate(self._rows):
            event = events[block.event]
            end = "" if block.end <= block.begin else f" – {block.end:%H:%M}"
            cells = (
                f"{WEEKDAYS[block.begin.weekday()]} {block.begin.day}.{block.begin.month}.{block.begin.year}",
                "all day" if block.all_day else f"{block.begin:%H:%M}{end}",
                block.name,
                "; ".join(action_words(a, show) for a in event.begins) or "nothing",
                repeat_words(event.rule),
            )
            for column, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setToolTip(words)
                if not block.on:
                    item.setForeground(theme.colour(theme.FAINT))
                self.table.setItem(row, column, item)
        self.table.blockSignals(False)

    def _follow(self) -> None:
        report = self._session.report
        if report is None or not self.isVisible():
            return
        told = (report.calendar, self._session.show.schedule)
        if told == self._told:
            return
        self._told = told
        words, loud = self.state_words()
        self.state.setText(words)
        self.state.setStyleSheet(f"color: {theme.AMBER};" if loud else "")
        self.bring.setVisible(bool(report.calendar.waiting))
        self.known.setVisible(bool(report.calendar.missed))

    def state_words(self) -> tuple[str, bool]:
        """How the calendar stands, in words, and whether somebody should look."""
        report, show = self._session.report, self._session.show
        if report is None or report.calendar.at == 0:
            return "The calendar is empty: double-click a place to add an event." if not show.schedule else "", False
        names, told, place = {e.id: e.name for e in show.schedule}, report.calendar, zone_of(self.zone)

        def listed(found: tuple[Occurrence, ...]) -> str:
            return ", ".join(names.get(o.event, o.event) for o in found)

        parts = [f"on now: {listed(told.on) or 'nothing'}"] if told.runs else ["it stands: nothing happens by it"]
        if told.waiting:
            parts.append(f"should be on, and waits for you: {listed(told.waiting)}")
        if told.coming:
            at = local_of(told.comes_at, place)
            parts.append(f"next: {listed(told.coming)} {WEEKDAYS[at.weekday()]} {at:%H:%M}")
        if told.missed:
            parts.append(
                "missed: " + ", ".join(f"{listed((o,))} {local_of(o.begin, place):%d.%m. %H:%M}" for o in told.missed)
            )
        parts += list(told.faults.values())
        return " · ".join(parts), bool(told.waiting or told.missed or told.faults)

    def showEvent(self, event: QEvent) -> None:
        self._of = ()
        self._timer.start()
        self.refresh()
        self._follow()
        if self._first_shown:
            self._first_shown = False
            self.scroller.verticalScrollBar().setValue(8 * 30)

    def hideEvent(self, event: QEvent) -> None:
        self._timer.stop()

    def block(self, event: str) -> Block | None:
        """The first occurrence of an event that is shown."""
        return next((b for b in self._rows if b.event == event), None)

    # -- by hand -------------------------------------------------------------------------------------------------

    def choose(self, block: Block | None) -> None:
        """Show an occurrence's event in the panel."""
        self.panel.hold(None if block is None else block.event, None if block is None else block.starts)
        self.refresh()

    def _row_chosen(self) -> None:
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        self.choose(self._rows[rows[0]] if rows else None)

    def _open_day(self, day: datetime) -> None:
        self.day = day
        self.show_as("Day")

    def make(self, at: datetime) -> None:
        """A new event of an hour, and its name to be typed."""
        id = added(self._session.try_edit, "New event", lambda show: with_new_event(show, at, timedelta(hours=1)))
        if id is not None:
            self.panel.hold(id, at)
            self.refresh()
            self.panel.name.setFocus()
            self.panel.name.selectAll()

    def make_now(self) -> None:
        """A new event at the next full hour, or at that hour of the day that is shown."""
        hour = self.now.replace(minute=0, second=0, microsecond=0) + timedelta(hours=1)
        first, days = self.range()
        at = hour if first <= hour < first + timedelta(days=days) else first.replace(hour=hour.hour)
        self.make(at)

    def _moved(self, block: Block, by: timedelta, longer: timedelta, alone: bool) -> None:
        id = added(
            self._session.try_edit,
            f"Move {block.name}",
            lambda show: moved(show, block.event, block.starts, by, longer, alone),
        )
        if id is not None:
            self.panel.hold(id, block.starts + by)
            self.refresh()

    def _switch(self) -> None:
        on = self.runs.isChecked()
        self._session.try_edit(
            "Calendar runs" if on else "Calendar stands",
            lambda show: show.model_copy(update={"calendar_runs": on}),
        )

    def _bring_on(self) -> None:
        if self._session.playout.calendar is not None:
            self._session.playout.calendar.bring_on()

    def _known(self) -> None:
        if self._session.playout.calendar is not None:
            self._session.playout.calendar.forget_missed()

    # -- files ---------------------------------------------------------------------------------------------------

    def _ask_import(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Take in a calendar", str(self._session.root), "Calendars (*.ics)")
        if path:
            self.take_in(Path(path))

    def take_in(self, path: Path) -> bool:
        """Add the events of a file; what cannot be read is told."""
        try:
            text = path.read_text(encoding="utf-8", errors="replace")
            taken = events_from(text, self._session.show)
        except OSError as error:
            self.told.emit(f"{path.name} cannot be read ({error.strerror}); choose another file.")
            return False
        except (ValueError, RuleError) as error:
            self.told.emit(f"{path.name}: {str(error).removeprefix('calendar: ')}.")
            return False
        done = self._session.try_edit(
            f"Calendar of {path.name}",
            lambda show: show.model_copy(update={"schedule": (*show.schedule, *taken.events)}),
        )
        more = f" (and {len(taken.faults) - 1} more)" if len(taken.faults) > 1 else ""
        left = f" {taken.faults[0]}{more}." if taken.faults else ""
        self.told.emit(f"{len(taken.events)} events of {path.name} were taken in.{left}")
        return done

    def _ask_export(self) -> None:
        start = str(self._session.root / "calendar.ics")
        path, _ = QFileDialog.getSaveFileName(self, "The calendar as a file", start, "Calendars (*.ics)")
        if path:
            self.give_out(Path(path))

    def give_out(self, path: Path) -> None:
        """Write the calendar to a file."""
        show = self._session.show
        try:
            write_whole(path, as_ical(show.schedule, show.name, self.zone, datetime.now(UTC)).encode())
        except ValueError as error:
            self.told.emit(str(error))
            return
        self.told.emit(f"{len(show.schedule)} events are in {path.name}.")
