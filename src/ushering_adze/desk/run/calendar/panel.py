"""The event that is selected: its moments, how often it comes, and what it does."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.exchange.cue_words import action_from_words, action_words
from ushering_adze.core.onair.calendar import rule_fault
from ushering_adze.core.show import Show
from ushering_adze.core.show.actions import Action
from ushering_adze.core.show.rigging import told
from ushering_adze.core.show.schedule import Event
from ushering_adze.core.show.scheduling import (
    REPEATS,
    changed,
    event_of,
    left_out,
    typed_moment,
    with_event,
    without_event,
)
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

OTHER = "by a rule"


def actions_from(text: str, show: Show, before: tuple[Action, ...] = ()) -> tuple[Action, ...]:
    """What an event does, from words, with semicolons between.

    Raises
    ------
    ShowError
        In one sentence.
    """
    kept = {action_words(a, show): a for a in before}
    return tuple(
        kept[part] if part in kept else action_from_words(part, show)
        for part in (p.strip() for p in text.split(";"))
        if part
    )


class EventPanel(QWidget):
    """Fields of one event; an edit is made when a field is left or Enter is pressed.

    Signals
    -------
    gone : the event was removed
    """

    gone = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.event_id: str | None = None
        self.at: datetime | None = None
        self._filling = False
        self.name, self.begin, self.end = QLineEdit(), QLineEdit(), QLineEdit()
        self.rule, self.zone, self.priority = QLineEdit(), QLineEdit(), QLineEdit()
        self.begins, self.ends, self.note = QLineEdit(), QLineEdit(), QLineEdit()
        self.all_day, self.off = QCheckBox("all day"), QCheckBox("passed over")
        self.repeats = QComboBox()
        for rule, words in REPEATS:
            self.repeats.addItem(words, rule)
        self.repeats.addItem(OTHER, None)
        self.end.setPlaceholderText("none: only a moment")
        self.zone.setPlaceholderText("the show's")
        self.begins.setPlaceholderText("like: start Foyer loop")
        self.ends.setPlaceholderText("like: stop Foyer loop")
        self.rule.setPlaceholderText("FREQ=WEEKLY;BYDAY=TU,WE")
        self.title, self.why = QLabel(), QLabel()
        self.title.setProperty("role", "head")
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        form = QFormLayout()
        form.setSpacing(6)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Name", self.name),
            ("Begins", self.begin),
            ("Ends", self.end),
            ("", self.all_day),
            ("Comes", self.repeats),
            ("Rule", self.rule),
            ("Beginning does", self.begins),
            ("Ending does", self.ends),
            ("Priority 0–9", self.priority),
            ("Time zone", self.zone),
            ("Note", self.note),
            ("", self.off),
        )
        for words, widget in rows:
            label = QLabel(words)
            label.setProperty("role", "dim")
            form.addRow(label, widget)
            if words:
                widget.setAccessibleName(words)
        below = QHBoxLayout()
        below.setSpacing(4)
        self.skip = tool_button("Leave this one out", self._leave_out, "The others stay")
        self.gone_button = tool_button("Remove", self.remove, "The event with all its occurrences")
        below.addWidget(self.skip)
        below.addWidget(self.gone_button)
        below.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(8)
        box.addWidget(self.title)
        box.addLayout(form)
        box.addWidget(self.why)
        box.addLayout(below)
        box.addStretch(1)
        edits: tuple[tuple[QLineEdit, str, Callable[[Show, Event, str], Event]], ...] = (
            (self.name, "name", lambda s, e, t: changed(e, name=t.strip())),
            (self.begin, "begin", self._begun),
            (self.end, "end", lambda s, e, t: changed(e, end=typed_moment(t) if t.strip() else None)),
            (self.rule, "rule", self._ruled),
            (self.begins, "what its beginning does", lambda s, e, t: changed(e, begins=actions_from(t, s, e.begins))),
            (self.ends, "what its ending does", lambda s, e, t: changed(e, ends=actions_from(t, s, e.ends))),
            (self.priority, "priority", self._prior),
            (self.zone, "time zone", self._zoned),
            (self.note, "note", lambda s, e, t: changed(e, note=t.strip())),
        )
        for field, words, make in edits:
            field.editingFinished.connect(lambda f=field, w=words, m=make: self._typed(f, w, m))
        self.all_day.clicked.connect(lambda on: self._edit("all day", lambda s, e: changed(e, all_day=on)))
        self.off.clicked.connect(lambda on: self._edit("pass over", lambda s, e: changed(e, off=on)))
        self.repeats.activated.connect(lambda n: self._repeat())
        session.show_changed.connect(self.fill)
        self.fill()

    @property
    def event_now(self) -> Event | None:
        """The event that is selected."""
        return next((e for e in self._session.show.schedule if e.id == self.event_id), None)

    def hold(self, id: str | None, at: datetime | None) -> None:
        """Show an event, and which of its occurrences is meant."""
        self.event_id, self.at = id, at
        self._say("")
        self.fill()

    def fill(self) -> None:
        """Show its fields."""
        event, show = self.event_now, self._session.show
        self.setEnabled(event is not None)
        self._filling = True
        self.title.setText(
            "Event" if event is not None else "Nothing is selected; double-click a place to add an event"
        )
        self.title.setWordWrap(event is None)
        texts = {
            self.name: "" if event is None else event.name,
            self.begin: "" if event is None else event.begin.replace("T", " "),
            self.end: "" if event is None or event.end is None else event.end.replace("T", " "),
            self.rule: "" if event is None else event.rule,
            self.begins: "" if event is None else "; ".join(action_words(a, show) for a in event.begins),
            self.ends: "" if event is None else "; ".join(action_words(a, show) for a in event.ends),
            self.priority: "" if event is None else str(event.priority),
            self.zone: "" if event is None else event.time_zone or "",
            self.note: "" if event is None else event.note,
        }
        for field, text in texts.items():
            if field.text() != text:
                field.setText(text)
                field.setCursorPosition(0)
        if event is not None:
            self.all_day.setChecked(event.all_day)
            self.off.setChecked(event.off)
            known = self.repeats.findData(event.rule)
            self.repeats.setCurrentIndex(known if known >= 0 else self.repeats.count() - 1)
            self.skip.setEnabled(bool(event.rule or event.more) and self.at is not None)
        self._filling = False

    # -- edits ---------------------------------------------------------------------------------------------------

    @staticmethod
    def _begun(show: Show, event: Event, text: str) -> Event:
        """Another beginning: it lasts as long as before."""
        from ushering_adze.core.show.schedule import moment_from, moment_words

        begin = typed_moment(text)
        end = moment_words(moment_from(begin) + event.lasts) if event.end is not None else None
        return changed(event, begin=begin, end=end)

    @staticmethod
    def _ruled(show: Show, event: Event, text: str) -> Event:
        made = changed(event, rule=text.strip().upper().removeprefix("RRULE:"))
        why = rule_fault(made)
        if why is not None:
            raise ShowError([Fault("calendar", why)])
        return made

    @staticmethod
    def _prior(show: Show, event: Event, text: str) -> Event:
        if not text.strip().isdigit():
            raise ShowError([Fault("calendar", f"{text.strip()[:20]} is no priority; type 0 to 9")])
        return changed(event, priority=int(text))

    @staticmethod
    def _zoned(show: Show, event: Event, text: str) -> Event:
        made = changed(event, time_zone=text.strip() or None)
        why = rule_fault(made)
        if why is not None:
            raise ShowError([Fault("calendar", why)])
        return made

    def _repeat(self) -> None:
        rule = self.repeats.currentData()
        if rule is None:
            self.rule.setFocus()
        else:
            self._edit("how often it comes", lambda s, e: changed(e, rule=rule))

    def _typed(self, field: QLineEdit, words: str, make: Callable[[Show, Event, str], Event]) -> None:
        if not self._filling and self.event_now is not None and field.isModified():
            field.setModified(False)
            text = field.text()
            if not self._edit(words, lambda show, event: make(show, event, text)):
                field.setModified(True)

    def _edit(self, words: str, make: Callable[[Show, Event], Event]) -> bool:
        event, show = self.event_now, self._session.show
        if event is None:
            return False
        try:
            made = make(show, event)
        except ValueError as error:
            self._say(told(error).removeprefix("calendar: ").removeprefix("does: "))
            return False
        self._say("")
        return self._session.try_edit(f"Event: {words}", lambda now: with_event(now, made))

    def _say(self, why: str) -> None:
        self.why.setText(why)

    def _leave_out(self) -> None:
        event, at = self.event_now, self.at
        if event is not None and at is not None:
            self._session.try_edit(f"Leave out {event.name}", lambda now: left_out(now, event_of(now, event.id).id, at))

    def remove(self) -> None:
        """Take the event away."""
        event = self.event_now
        if event is not None and self._session.try_edit(
            f"Remove {event.name}", lambda now: without_event(now, event.id)
        ):
            self.hold(None, None)
            self.gone.emit()
