"""A new show: a sheet that asks for the displays and the sources, each part of which may be left out."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show import Input, Show, Source
from ushering_adze.core.show.files import source_of_file
from ushering_adze.core.show.fresh import Wish, fresh_show, pixels_from, size_from
from ushering_adze.core.show.rigging import free_name, told
from ushering_adze.core.signal.announced import PORT
from ushering_adze.desk.output_windows import binding_choices
from ushering_adze.io.announced import Announcements

MOST = 8
"""Streams that are offered."""
KINDS = ("LED wall", "projection", "monitor", "stream")
USUAL = {
    "LED wall": ("2.6 mm", "5 x 2.5"),
    "projection": ("1920x1080", "4 x 2.25"),
    "monitor": ("1920x1080", "1.21 x 0.68"),
    "stream": ("1280x720", ""),
}


MOST_ROWS = 8


class _Row:
    """The fields of one display."""

    def __init__(self, sheet: NewShowSheet, row: int, kind: str) -> None:
        self.name = QLineEdit(f"{kind[0].upper()}{kind[1:]} {row + 1}")
        self.kind, self.pixels, self.size, self.goes = QComboBox(), QLineEdit(), QLineEdit(), QComboBox()
        self.kind.addItems(list(KINDS))
        self.kind.setCurrentText(kind)
        self.choices = binding_choices()
        self.goes.addItems([words for words, _ in self.choices])
        self._usual()
        self.kind.currentTextChanged.connect(lambda words: self._usual())
        self.away = QPushButton("×")
        self.away.setToolTip("Without this display")
        self.away.setFixedWidth(34)
        self.away.clicked.connect(lambda: sheet.remove_display(self))
        self.fields = (self.name, self.kind, self.pixels, self.size, self.goes, self.away)
        self.lie(sheet.rows_grid, row)

    def lie(self, grid: QGridLayout, row: int) -> None:
        """Put its fields into a row."""
        words = ("Name", "Kind", "Pixels or pitch", "Size in metres", "Goes to", "Without display")
        for column, (field, label) in enumerate(zip(self.fields, words, strict=True)):
            field.setAccessibleName(f"{label} {row + 1}")
            grid.addWidget(field, row + 1, column)

    def _usual(self) -> None:
        pixels, size = USUAL[self.kind.currentText()]
        self.pixels.setText(pixels)
        self.size.setText(size)
        self.size.setEnabled(bool(size))

    def wish(self) -> Wish:
        """What was asked for.  Raises ShowError."""
        kind = self.kind.currentText()
        size = size_from(self.size.text()) if kind != "stream" else (0.0, 0.0)
        width, height = pixels_from(self.pixels.text(), size)
        binding = self.choices[self.goes.currentIndex()][1]
        return Wish(kind, self.name.text(), width, height, *size, binding)  # type: ignore[arg-type]


class NewShowSheet(QFrame):
    """Over the window, beside the running show, which goes on until the new one is made.

    Signals
    -------
    made : the new show
    """

    made = Signal(object)

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.announcements = Announcements(PORT)
        self.streams: dict[str, QCheckBox] = {}
        """A check for each stream that was found, by its address."""
        self.setObjectName("panel")
        self.setAcceptDrops(True)
        self.rows: list[_Row] = []
        self.files: list[Path] = []
        self.name, self.room, self.rate = QLineEdit("New show"), QLineEdit(), QComboBox()
        self.room.setPlaceholderText("as large as what hangs in it")
        self.rate.addItems(["25", "29.97", "30", "50", "59.94", "60"])
        self.rate.setCurrentText("30")
        head = QLabel("New show")
        head.setProperty("role", "title")
        top = QGridLayout()
        for column, (words, field) in enumerate(
            (("Name", self.name), ("Room in metres", self.room), ("Rate", self.rate))
        ):
            top.addWidget(self._dim(words), 0, column)
            top.addWidget(field, 1, column)
            field.setAccessibleName(words)
        self.rows_grid = QGridLayout()
        for column, words in enumerate(("Display", "Kind", "Pixels, or pitch", "Size in metres", "Its output goes to")):
            self.rows_grid.addWidget(self._dim(words), 0, column)
        line = QHBoxLayout()
        for kind in KINDS:
            button = QPushButton(f"+ {kind}")
            button.clicked.connect(lambda checked=False, kind=kind: self.add_display(kind))
            line.addWidget(button)
        line.addStretch(1)
        self.sources = QLabel()
        self.sources.setWordWrap(True)
        self.sources.setProperty("role", "dim")
        choose = QPushButton("Choose files…")
        choose.clicked.connect(self._ask_files)
        below = QHBoxLayout()
        below.addWidget(choose)
        below.addWidget(self.sources, 1)
        self._streams = QHBoxLayout()
        self.searching = QLabel()
        self.searching.setProperty("role", "dim")
        self._streams.addWidget(self.searching)
        self._streams.addStretch(1)
        self._timer = QTimer(self)
        self._timer.setInterval(500)
        self._timer.timeout.connect(self.look)
        self._timer.start()
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        foot = QHBoxLayout()
        foot.addWidget(self.why, 1)
        cancel, self.make_button = QPushButton("Cancel"), QPushButton("Make the show")
        cancel.clicked.connect(self.close)
        self.make_button.clicked.connect(self.make)
        foot.addWidget(cancel)
        foot.addWidget(self.make_button)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(10)
        box.addWidget(head)
        box.addLayout(top)
        box.addWidget(self._head("What hangs in the room, from left to right; all can be changed later in Rig"))
        box.addLayout(line)  # above the rows: it stays where it is when one is added
        box.addLayout(self.rows_grid)
        box.addWidget(self._head("What comes in: drop files here, or choose them; more is added in Rig"))
        box.addLayout(below)
        box.addLayout(self._streams)
        box.addStretch(1)
        box.addLayout(foot)
        self.add_display("LED wall")
        self._tell()
        self.look()

    @staticmethod
    def _dim(words: str) -> QLabel:
        label = QLabel(words)
        label.setProperty("role", "dim")
        return label

    @staticmethod
    def _head(words: str) -> QLabel:
        label = QLabel(words)
        label.setProperty("role", "head")
        return label

    def open(self) -> None:
        """Show it in the middle of the window."""
        over = self.parentWidget()
        self.resize(min(900, over.width() - 60), min(560, over.height() - 60))
        self.move((over.width() - self.width()) // 2, (over.height() - self.height()) // 2)
        self.show()
        self.raise_()
        self.name.setFocus()
        self.name.selectAll()

    def add_display(self, kind: str) -> None:
        """One more display."""
        if len(self.rows) == MOST_ROWS:
            self.why.setText(f"{MOST_ROWS} displays have room here; add more in Rig.")
            return
        self.rows.append(_Row(self, len(self.rows), kind))
        self.rows[-1].name.setFocus()
        self.rows[-1].name.selectAll()

    def remove_display(self, row: _Row) -> None:
        """One display fewer; none at all is allowed."""
        self.rows.remove(row)
        for field in row.fields:
            self.rows_grid.removeWidget(field)
            field.hide()
            field.deleteLater()
        for n, left in enumerate(self.rows):
            left.lie(self.rows_grid, n)
        self.why.clear()

    # -- sources -------------------------------------------------------------------------------------------------

    def _ask_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Clips, pictures, pages, texts")
        self.add_files([Path(n) for n in names])

    def add_files(self, paths: list[Path]) -> None:
        """Files and folders that are to be sources."""
        self.files += [p for p in paths if p not in self.files]
        self._tell()

    def look(self) -> None:
        """Offer the streams that have been announced by now."""
        found = self.announcements.found
        for stream in found:
            if stream.address is not None and stream.address not in self.streams and len(self.streams) < MOST:
                check = self.streams[stream.address] = QCheckBox(stream.name)
                check.setChecked(True)
                check.setToolTip(stream.address)
                self._streams.insertWidget(len(self.streams), check)
        unread = [s.name for s in found if s.address is None]
        words = "Streams on the network:" if self.streams else "No stream is announced on the network yet."
        if unread:
            words += f" ({', '.join(unread[:3])} cannot be read from its announcement; type its address in Rig)"
        self.searching.setText(self.announcements.fault or words)

    def _tell(self) -> None:
        names = ", ".join(p.stem or p.name for p in self.files[:8])
        more = f" and {len(self.files) - 8} more" if len(self.files) > 8 else ""
        devices = sorted(Path("/dev").glob("video*"))
        found = f"  {len(devices)} capture devices of this machine come in, too." if devices else ""
        self.sources.setText((f"{len(self.files)}: {names}{more}." if self.files else "None yet.") + found)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.add_files([Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()])

    def _sources(self) -> list[Source]:
        made: list[Source] = []
        for path in self.files:
            name = free_name((path.stem or path.name)[:60], {s.name for s in made})
            made.append(source_of_file(str(path), path.is_dir(), new_id(name, {s.id for s in made}), name))
        for device in sorted(Path("/dev").glob("video*")):
            name = free_name(f"Input {device.name}", {s.name for s in made})
            made.append(Input(id=new_id(name, {s.id for s in made}), name=name, address=str(device), as_it_comes=True))
        for address, check in self.streams.items():
            if check.isChecked():
                name = free_name(check.text(), {s.name for s in made})
                made.append(Input(id=new_id(name, {s.id for s in made}), name=name, address=address, as_it_comes=True))
        return made

    # -- making --------------------------------------------------------------------------------------------------

    def show_made(self) -> Show:
        """The show as it was asked for.  Raises ValueError."""
        room = size_from(self.room.text()) if self.room.text().strip() else None
        name = self.name.text().strip() or "New show"
        return fresh_show(name, [r.wish() for r in self.rows], self._sources(), room, float(self.rate.currentText()))

    def make(self) -> None:
        """Make it; what cannot be is said at the foot."""
        try:
            show = self.show_made()
        except ValueError as error:
            self.why.setText(told(error).removeprefix(": "))
            return
        self.made.emit(show)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.make()
        else:
            super().keyPressEvent(event)

    def close(self) -> bool:
        self._timer.stop()
        self.announcements.close()
        self.hide()
        self.deleteLater()
        return True
