"""Which source is heard in which mix: a row for each source, a column for each mix."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial, reduce
from typing import Any

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QHeaderView, QTableWidget, QTableWidgetItem

from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.show import Show, Source
from ushering_adze.core.show.sound import ShowSound
from ushering_adze.core.show.sounding import with_send, with_source_sound
from ushering_adze.core.sound.levels import SILENT
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session
from ushering_adze.desk.watch.meters import LevelBar
from ushering_adze.desk.watch.sound_fields import decibels_from

MUTES = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
NAME, LEVEL, HEARD, GAIN, DELAY, FIRST = range(6)
SHORT = {"picture": "pic", "always": "on"}
"""When a source is heard in one mix, where that is not as in the others."""
SAID: dict[str, Any] = {how: how for how in ("always", "picture", "never", "as ever")} | {
    "on": "always",
    "pic": "picture",
}
SEND_TIP = "dB, or mute; or, in this mix alone: picture, always, never; as ever takes that back"
HEARD_WORDS = (("with its picture", "picture"), ("always", "always"), ("never", "never"))


def gain_words(level: float, mute: bool) -> str:
    """A level as a cell shows it."""
    return "mute" if mute else "off" if level <= SILENT else f"{level:+.1f}".replace("+0.0", "0").replace("-0.0", "0")


def sounds(source: Source) -> bool:
    """Whether a source may have sound."""
    return source.kind in ("clip", "input", "playlist") or (source.kind == "pattern" and source.pattern == "flash")


class SoundMatrix(QTableWidget):
    """Sources × mixes; a level is typed, Delete mutes, a name is clicked to listen.

    Signals
    -------
    listened : id of a source, or empty
    refused : why an entry was
    """

    listened = Signal(str)
    refused = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._filling = False
        self._of: object = None
        self.ids: list[str] = []
        self.mixes: list[str] = []
        self.setAccessibleName("Sources and mixes")
        self.verticalHeader().setVisible(False)
        self.verticalHeader().setDefaultSectionSize(28)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.itemChanged.connect(self._entered)
        self.cellClicked.connect(self._clicked)

    def fill(self) -> None:
        """Show the sound of the show."""
        show, sound = self._session.show, self._session.show.sound
        told = (sound, tuple((s.id, s.name) for s in show.sources))
        if told == self._of:
            return
        self._of = told
        self._filling = True
        names = {s.id: s.name for s in show.sources} | {s.id: s.name for s in sound.inputs}
        inputs = [s.id for s in sound.inputs]
        sounding = [s.id for s in show.sources if sounds(s)]
        said = [s.of for s in sound.sources if s.of not in sounding and s.of not in inputs]
        self.ids, self.mixes = [*sounding, *said, *inputs], [m.id for m in sound.mixes]
        self.setColumnCount(FIRST + len(self.mixes))
        self.setRowCount(len(self.ids))
        self.setHorizontalHeaderLabels(["Source", "Level", "Heard", "dB", "Delay ms", *(m.name for m in sound.mixes)])
        for row, id in enumerate(self.ids):
            self._fill_row(row, id, names.get(id, id), sound)
        for column, wide in ((NAME, 210), (HEARD, 152), (GAIN, 58), (DELAY, 74)):
            self.setColumnWidth(column, wide)
        for column in range(FIRST, self.columnCount()):
            self.setColumnWidth(column, 84)
        self.horizontalHeader().setSectionResizeMode(LEVEL, QHeaderView.ResizeMode.Stretch)
        self._filling = False

    def _fill_row(self, row: int, id: str, name: str, sound: ShowSound) -> None:
        one = sound.of(id)
        item = QTableWidgetItem(name)
        item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
        item.setToolTip("Click to listen to it")
        item.setFont(theme.font(13))
        self.setItem(row, NAME, item)
        if not isinstance(self.cellWidget(row, LEVEL), LevelBar):
            self.setCellWidget(row, LEVEL, LevelBar())
            choice = QComboBox()
            for words, value in HEARD_WORDS:
                choice.addItem(words, value)
            choice.activated.connect(partial(self._heard, row))
            choice.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.setCellWidget(row, HEARD, choice)
        shown = self.cellWidget(row, HEARD)
        assert isinstance(shown, QComboBox)
        shown.setCurrentIndex(shown.findData(one.heard))
        self.setItem(row, GAIN, self._number(gain_words(one.level, one.mute), one.mute))
        self.setItem(row, DELAY, self._number(f"{one.delay:g}", False))
        for n, mix in enumerate(self.mixes):
            send = next((s for s in one.sends if s.mix == mix), None)
            muted = send is not None and send.mute
            words = gain_words(0.0 if send is None else send.level, muted)
            if send is not None and send.heard is not None:
                words = "never" if send.heard == "never" else f"{words} {SHORT[send.heard]}"
            made = self._number(words, muted)
            made.setToolTip(SEND_TIP)
            self.setItem(row, FIRST + n, made)

    @staticmethod
    def _number(words: str, muted: bool) -> QTableWidgetItem:
        item = QTableWidgetItem(words)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        item.setFont(theme.font(13))
        item.setForeground(theme.colour(theme.RED_WORDS if muted or words == "off" else theme.TEXT))
        return item

    def follow(self) -> None:
        """Show how loud sources are, and which is listened to."""
        report = self._session.report
        if report is None:
            return
        for row, id in enumerate(self.ids):
            level = report.sound.sources.get(id)
            bar = self.cellWidget(row, LEVEL)
            if isinstance(bar, LevelBar):
                bar.hold(SILENT if level is None else level.peak)
            item = self.item(row, NAME)
            if item is not None:
                said = None if level is None else level.dialogue
                tip = "Click to listen to it"
                tip += "" if said is None else f"; it says that its dialogue is at {said} LKFS"
                if item.toolTip() != tip:
                    self._filling = True
                    item.setToolTip(tip)
                    self._filling = False
                bold = report.sound.listening == id
                if item.font().bold() != bold:
                    self._filling = True
                    item.setFont(theme.font(13, bold=bold))
                    item.setForeground(theme.colour(theme.AMBER if bold else theme.TEXT))
                    self._filling = False

    # -- by hand -------------------------------------------------------------------------------------------------

    def _clicked(self, row: int, column: int) -> None:
        if column == NAME:
            report = self._session.report
            same = report is not None and report.sound.listening == self.ids[row]
            self.listened.emit("" if same else self.ids[row])

    def _heard(self, row: int, index: int) -> None:
        value, id = HEARD_WORDS[index][1], self.ids[row]
        self._session.try_edit("Heard", lambda show: with_source_sound(show, id, heard=value))

    def _rows(self, item: QTableWidgetItem) -> list[int]:
        """The rows that are selected in a column, if the one that was edited is among them."""
        rows = {i.row() for i in self.selectedIndexes() if i.column() == item.column()}
        return sorted(rows) if item.row() in rows else [item.row()]

    def _entered(self, item: QTableWidgetItem) -> None:
        if self._filling:
            return
        words, column = item.text().strip(), item.column()
        sound, rows = self._session.show.sound, self._rows(item)
        try:
            self._edit([self._entry(self.ids[row], column, words, sound) for row in rows])
        except EntryError as error:
            self.refused.emit(str(error))
        self._of = None
        self.fill()

    def _entry(self, id: str, column: int, words: str, sound: ShowSound) -> Callable[[Show], Show]:
        """The edit that an entry in a cell stands for.  Raises EntryError."""
        one = sound.of(id)
        mute = words.lower() in ("mute", "m")
        if column == DELAY:
            delay = number_from(words.lower().removesuffix("ms").strip(), now=one.delay)
            return lambda show: with_source_sound(show, id, delay=delay)
        if column == GAIN:
            level = one.level if mute else decibels_from(words, one.level)
            return lambda show: with_source_sound(show, id, level=level, mute=mute)
        mix = self.mixes[column - FIRST]
        how = SAID.get(words.lower())
        if how is not None:
            return lambda show: with_send(show, id, mix, heard=how)
        words = words.removesuffix(" pic").removesuffix(" on")
        send = next((s for s in one.sends if s.mix == mix), None)
        now = 0.0 if send is None else send.level
        level = now if mute else decibels_from(words, now)
        return lambda show: with_send(show, id, mix, level, mute)

    def _edit(self, makes: Sequence[Callable[[Show], Show]]) -> None:
        """Edits of several cells, as one step for undo."""
        self._session.try_edit("Levels", lambda show: reduce(lambda made, make: make(made), makes, show))

    def event(self, event: QEvent) -> bool:
        """Keys that have a meaning here are no commands of the window."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in MUTES:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in MUTES:
            self._mute_selected()
            return
        super().keyPressEvent(event)

    def _mute_selected(self) -> None:
        """Mute what is selected, or let all of it be heard again if all is muted."""
        cells = [(i.row(), i.column()) for i in self.selectedIndexes() if i.column() in (GAIN,) or i.column() >= FIRST]
        on = any(self.item(r, c).text() != "mute" for r, c in cells)
        self._edit([self._muted(self.ids[row], column, on) for row, column in cells])

    def _muted(self, id: str, column: int, on: bool) -> Callable[[Show], Show]:
        if column == GAIN:
            return lambda show: with_source_sound(show, id, mute=on)
        mix = self.mixes[column - FIRST]
        return lambda show: with_send(show, id, mix, mute=on)
