"""The inspector: what the selected item is, what it comes to, and its fields."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, cast

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QCursor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QMenu,
    QMessageBox,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.displays.rig import KIND_WORDS, input_wires
from ushering_adze.core.onair.actions import SendFeed
from ushering_adze.core.show import Feed, Input, Output, Show, ShowError
from ushering_adze.core.show.rigging import Shelf, item_of, with_item
from ushering_adze.core.signal.advice import timing_for
from ushering_adze.core.signal.edid import EdidWish, made_edid
from ushering_adze.core.signal.edid_read import Edid, read_edid
from ushering_adze.core.signal.timing import SignalError
from ushering_adze.desk import theme
from ushering_adze.desk.fields import FieldRow, Spec
from ushering_adze.desk.output_windows import Outputs, binding_choices
from ushering_adze.desk.rig.feed_specs import feed_lines
from ushering_adze.desk.rig.results import Line, lines_of
from ushering_adze.desk.rig.specs import sections_of
from ushering_adze.desk.session import Session
from ushering_adze.io.asking import read_small
from ushering_adze.io.writing import write_whole
from ushering_adze.playout import FeedReport, SignalReport

AGAIN = 0.4
"""Seconds from one telling of a signal to the next."""
_TOKENS = {"plain": theme.TEXT, "good": theme.GREEN, "warning": theme.AMBER, "error": theme.RED_WORDS}


class Results(QWidget):
    """Lines of results, painted with their labels in one column and their figures in another."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[Line] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(10, 8, 10, 8)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(1, 1)
        self._labels: list[tuple[QLabel, QLabel]] = []

    def hold(self, lines: list[Line]) -> None:
        """Show lines."""
        if lines == self.lines:
            return
        self.lines = lines
        while len(self._labels) < len(lines):
            name, words = QLabel(), QLabel()
            name.setProperty("role", "dim")
            name.setFixedWidth(92)
            name.setAlignment(Qt.AlignmentFlag.AlignTop)
            words.setWordWrap(True)
            words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            row = len(self._labels)
            self._grid.addWidget(name, row, 0)
            self._grid.addWidget(words, row, 1)
            self._labels.append((name, words))
        for n, (name, words) in enumerate(self._labels):
            there = n < len(lines)
            name.setVisible(there)
            words.setVisible(there)
            if there:
                line = lines[n]
                name.setText(theme_elided(name, line.label, 92))
                words.setText(unbroken(line.words))
                words.setStyleSheet(f"color: {_TOKENS[line.level]}; font-size: 12px;")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setPen(theme.hairline())
        p.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))


def unbroken(words: str) -> str:
    """Words in which a number and its unit stay on one line."""
    return re.sub(r"(?<=\d) (?=%|MHz|Gb/s|Hz|kHz|px|mm|m\b|kg|kW|fL|cd)", "\u00a0", words)


def theme_elided(label: QLabel, words: str, width: int) -> str:
    """A label's words cut to a width."""
    return label.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, width)


def _empty(layout: QLayout) -> None:
    """Take every widget out of a layout."""
    while layout.count():
        taken = layout.takeAt(0)
        widget = taken.widget() if taken else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class Inspector(QWidget):
    """Shows and edits what is selected in the rig."""

    def __init__(self, session: Session, outputs: Outputs) -> None:
        super().__init__()
        self._session, self._outputs = session, outputs
        self._shape: object = None
        self._held: tuple[Shelf, str] | None = None
        self.rows: list[FieldRow] = []
        self.words: QMessageBox | None = None
        self.setObjectName("inspector")
        self.setMinimumWidth(300)
        self.title, self.kind = QLabel(), QLabel()
        self.title.setProperty("role", "head")
        self.kind.setProperty("role", "dim")
        self.results = Results()
        self.buttons = QWidget()
        self._button_row = QHBoxLayout(self.buttons)
        self._button_row.setContentsMargins(0, 0, 0, 0)
        self._button_row.setSpacing(6)
        self._fields = QWidget()
        self._column = QVBoxLayout(self._fields)
        self._column.setContentsMargins(0, 4, 8, 8)
        self._column.setSpacing(4)
        body = QWidget()
        inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(8)
        inner.addWidget(self.results)
        inner.addWidget(self.buttons)
        inner.addWidget(self._fields)
        inner.addStretch(1)
        body.setAutoFillBackground(False)
        body.setStyleSheet("QWidget#fields { background: transparent; }")
        body.setObjectName("fields")
        self.scroller = QScrollArea()
        self.scroller.setWidget(body)
        self.scroller.setWidgetResizable(True)
        self.scroller.viewport().setAutoFillBackground(False)
        self.scroller.setFrameShape(QFrame.Shape.NoFrame)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.empty = QLabel("Select a source, an output or a surface for its own figures and fields.")
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 4, 8)
        box.setSpacing(4)
        box.addWidget(self.title)
        box.addWidget(self.kind)
        box.addWidget(self.empty)
        box.addWidget(self.scroller, 1)
        self._late = False
        self._told: SignalReport | FeedReport | None = None
        self._send: QPushButton | None = None
        self._told_at = 0.0
        session.reported.connect(self._reported)
        session.show_changed.connect(self._edited)
        session.selection_changed.connect(self._fill)
        self._fill()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)

    # -- what is shown -------------------------------------------------------------------------------------------

    @property
    def item(self) -> Any:
        """The selected item, or the show as a whole."""
        selected = self._session.selected
        return item_of(self._session.show, *selected) if selected else self._session.show

    def row(self, label: str, nth: int = 0) -> FieldRow:
        """A field by its label; ``nth`` of several of one label."""
        return [r for r in self.rows if r.spec.label == label][nth]

    def focus_name(self) -> None:
        """Put the cursor in the name, all of it selected."""
        if self.rows:
            editor = cast(QLineEdit, self.row("Name").editor)
            editor.setFocus()
            editor.selectAll()

    def _edited(self) -> None:
        """Out of sight nothing is filled in: an edit elsewhere must not wait for it."""
        self._late = not self.isVisible()
        if not self._late:
            self._fill()

    def showEvent(self, event: object) -> None:
        if self._late:
            self._late = False
            self._fill()

    def _fill(self) -> None:
        if self._held != self._session.selected:
            rows, self.rows, self._held = self.rows, [], self._session.selected
            for row in rows:
                row.finish()
        item = self.item
        self.empty.setVisible(isinstance(item, Show))
        self.title.setText(item.name)
        self.kind.setText(self._kind_words(item))
        sections = sections_of(item, self._session.show)
        shape = (
            self._session.selected,
            tuple(
                (head, tuple((s.label, s.kind, tuple(w for w, _ in s.choices)) for s in specs))
                for head, specs in sections
            ),
        )
        if shape != self._shape:
            self._build(sections)
            self._build_buttons(item)
            self._shape = shape
            self.scroller.verticalScrollBar().setValue(0)
        for row, spec in zip(self.rows, [s for _, specs in sections for s in specs], strict=True):
            row.spec = spec
            row.hold(item)
        self._tell()

    def _signal(self) -> SignalReport | None:
        """What is known of the selected input's signal."""
        report, selected = self._session.report, self._session.selected
        if report is None or selected is None or selected[0] != "sources":
            return None
        return next((s for s in report.signals if s.source == selected[1]), None)

    def _feed(self) -> FeedReport | None:
        """What is known of the selected feed."""
        report = self._session.report
        return next((f for f in report.feeds if f.feed == self._session.feed), None) if report is not None else None

    def _tell(self) -> None:
        item = self.item
        if isinstance(item, Feed):
            self._told = self._feed()
            self.results.hold(feed_lines(item, self._told))
            if self._send is not None:
                on = self._told is not None and self._told.on
                self._send.setText("End" if on else "Record" if item.is_path else "Send")
            return
        self._told = signal = self._signal()
        self.results.hold(lines_of(self._session.show, item, signal))

    def _reported(self) -> None:
        """Say anew what is known of a signal, a few times a second at most, where it has changed."""
        now = self._feed() if self._session.feed is not None else self._signal()
        if self.isVisible() and time.monotonic() - self._told_at > AGAIN and now != self._told:
            self._told_at = time.monotonic()
            self._tell()

    def _kind_words(self, item: Any) -> str:
        if isinstance(item, Show):
            return "the whole show"
        if isinstance(item, Output):
            return f"output {item.number}"
        if isinstance(item, Feed):
            return "feed, to a file" if item.is_path else "feed"
        if isinstance(item, Input):
            return (
                "input, live"
                if item.address
                else "input, unbound"
                if item.stand_in is None
                else "input, with a stand-in"
            )
        return KIND_WORDS.get(item.kind, f"{item.kind} source")

    def _build(self, sections: list[tuple[str, list[Spec]]]) -> None:
        _empty(self._column)
        self.rows = []
        for head, specs in sections:
            if head:
                label = QLabel(head)
                label.setProperty("role", "head")
                label.setContentsMargins(0, 8, 0, 2)
                self._column.addWidget(label)
            for spec in specs:
                row = FieldRow(spec, partial(self._commit, self._held))
                self._column.addWidget(row)
                self.rows.append(row)

    def _commit(self, selected: tuple[Shelf, str] | None, spec: Spec, value: Any) -> None:
        """An edit of the item that the field was made for, also when another one has been selected since."""
        item: Any = item_of(self._session.show, *selected) if selected else self._session.show
        if item is None:
            return
        made = spec.put(item, value)
        if selected is None:
            self._session.edit(f"{spec.label} of the show", made)
            return
        self._session.edit(f"{spec.label} of {item.name}", with_item(self._session.show, selected[0], made))

    # -- buttons -------------------------------------------------------------------------------------------------

    def _build_buttons(self, item: Any) -> None:
        _empty(self._button_row)
        self._send = None
        if isinstance(item, Feed):
            self._send = self._button("Send", self.send, "Send it, or end it: a recording is whole then")
        elif isinstance(item, Output):
            self._button("Identify", self.identify, "Its name in big letters on its display")
            self._button("Goes to ▾", self.choose_binding, "Bind it to a display or window of this machine")
        elif isinstance(item, Input):
            self._button("Save EDID…", self.save_edid, "A file that makes the source send this format")
            self._button("Read EDID…", self.open_edid, "Take the format from an EDID file")
        self._button_row.addStretch(1)
        self.buttons.setVisible(self._button_row.count() > 1)

    def send(self) -> None:
        """Send the selected feed, or end it."""
        told, feed = self._feed(), self._session.feed
        if feed is not None:
            self._session.playout.act(SendFeed(feed=feed, on=told is None or not told.on))

    def _button(self, words: str, act: Callable[[], object], tip: str) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(lambda: act())
        self._button_row.addWidget(button)
        return button

    def identify(self) -> None:
        """Show the output's name on its display, or on every display if it has none."""
        if isinstance(self.item, Output):
            self._outputs.identify(self.item)

    def choose_binding(self) -> None:
        """Choose where the output goes."""
        item = self.item
        menu = QMenu(self)
        for words, binding in binding_choices():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(item.binding == binding)
            action.triggered.connect(lambda checked=False, b=binding: self._outputs.bind(item.id, b))
        menu.popup(QCursor.pos())

    def save_edid(self) -> None:
        """Ask for a file and write the input's EDID there; a gang's is that of one part."""
        item = self.item
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the EDID", str(self._session.root / f"{item.id}.bin"), "EDID (*.bin)"
        )
        if path:
            self.write_edid(Path(path))

    def write_edid(self, path: Path) -> None:
        """Write the selected input's EDID."""
        item = self.item
        try:
            write_whole(path, edid_of(item))
            self._session.trouble.emit(f"The EDID of {item.name} is in {path.name}.")
        except (SignalError, ShowError) as error:
            self._session.trouble.emit(f"{item.name}: {error}")

    def open_edid(self) -> None:
        """Ask for an EDID file and take its preferred format."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Read an EDID", str(self._session.root), "EDID (*.bin);;All files (*)"
        )
        if path:
            self.show_edid(Path(path))

    def show_edid(self, path: Path) -> None:
        """Say in words what an EDID file asks for, and offer to take its format; nothing waits for the answer."""
        edid = self._read(path)
        if edid is None:
            return
        if self.words is not None:
            self.words.close()
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, path.name, f"What {path.name} asks for", QMessageBox.StandardButton.Close, self
        )
        box.setInformativeText("\n".join(" ".join(line.split()) for line in edid.words))
        box.setModal(False)
        take = box.addButton("Take its format", QMessageBox.ButtonRole.ActionRole)
        take.clicked.connect(lambda: self.take_edid(path))
        self.words = box
        box.show()

    def _read(self, path: Path) -> Edid | None:
        try:
            return read_edid(read_small(path, "EDID"))
        except (ShowError, SignalError) as error:
            self._session.trouble.emit(str(error) if path.name in str(error) else f"{path.name}: {error}")
            return None

    def take_edid(self, path: Path) -> None:
        """Give the selected input the preferred format of an EDID file."""
        item, edid = self.item, self._read(path)
        if edid is None or not isinstance(item, Input):
            return
        if not edid.timings:
            self._session.trouble.emit(f"{path.name}: this EDID prefers no format; type it in")
            return
        t = edid.timings[0]
        made = item.model_copy(
            update={
                "width": t.h_active,
                "height": t.v_active,
                "rate": round(float(t.refresh_hz), 3),
                "interlaced": t.interlaced,
                "audio": edid.audio,
            }
        )
        self._session.try_edit(f"Format of {item.name} from {path.name}", lambda show: with_item(show, "sources", made))


def edid_of(source: Input) -> bytes:
    """The EDID that asks for an input's format, or for the first part of its gang."""
    wire = input_wires(source)[0]
    timing = (
        wire.timing if source.gang else timing_for(source.width, source.height, source.rate, None, source.interlaced)
    )
    plain = "".join(c if c.isascii() and c.isprintable() else "?" for c in source.name)[:13].strip()
    return made_edid(EdidWish(timing, plain, source.audio, source.encoding != "rgb"))
