"""What a cell of a wall shows, and what is drawn over it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from ushering_adze.core.document.entry import EntryError
from ushering_adze.core.onair.playing import has_length
from ushering_adze.core.show import Show
from ushering_adze.core.show.wall import WallCell
from ushering_adze.core.show.walling import box_from
from ushering_adze.desk.tools import tool_button

KINDS = (
    ("empty", "nothing"),
    ("source", "a source"),
    ("surface", "a surface"),
    ("preview", "a surface, next"),
    ("output", "an output"),
    ("canvas", "a whole canvas"),
    ("feed", "a feed"),
    ("far", "a feed's far end"),
    ("mix", "a mix of sound"),
    ("player", "a player's time"),
    ("cues", "a cue list"),
    ("timecode", "a list's timecode"),
    ("alarms", "what is wrong"),
    ("text", "words"),
    ("clock", "the time"),
)
SCOPES = (
    ("picture", None),
    ("waveform", "waveform"),
    ("red, green, blue", "parade"),
    ("vectors", "vectors"),
    ("histogram", "histogram"),
    ("false colours", "false-colour"),
    ("zebra", "zebra"),
)
FRAMES = (("no frame", None), ("16:9", "16:9"), ("4:3", "4:3"), ("1:1", "1:1"), ("9:16", "9:16"))
GUIDES = (("no guides", None), ("middle", "centre"), ("thirds", "thirds"), ("ten fields", "grid"))
METERS = (("no meters", None), ("meters inside", "inside"), ("meters beside", "beside"))
LINES = (("name under it", "under"), ("name over it", "over"), ("name large", "large"), ("no name", "none"))
COLOURS = (
    ("plain edge", None),
    ("white edge", "#E6EEF0"),
    ("teal edge", "#5AB4BD"),
    ("amber edge", "#E3A857"),
    ("violet edge", "#A585D6"),
    ("blue edge", "#5B8DD9"),
)


def things_of(show: Show, kind: str) -> list[tuple[str, str]]:
    """What a cell of a kind can show: names and ids."""
    lots: dict[str, Any] = {
        "source": show.sources,
        "surface": show.surfaces,
        "preview": show.surfaces,
        "output": show.outputs,
        "canvas": show.canvases,
        "cues": show.lists,
        "timecode": [y for y in show.lists if y.code is not None],
        "feed": show.feeds,
        "far": [f for f in show.feeds if f.heard_by is not None],
        "mix": show.sound.mixes,
        "player": [s for s in show.sources if has_length(s)],
    }
    lot = lots.get(kind, ())
    return [(thing.name, thing.id) for thing in lot]


def _combo(choices: Sequence[tuple[str, object]], name: str) -> QComboBox:
    made = QComboBox()
    made.setAccessibleName(name)
    for words, value in choices:
        made.addItem(words, value)
    return made


class CellPanel(QWidget):
    """Fields of one cell.

    Signals
    -------
    changed : fields of the cell, by name
    alike : whether all cells, or those of its row, are to be marked as this one is
    boxed : left, top, width and height of a free box; None to go back into the grid
    refused : why an entry was
    """

    changed = Signal(dict)
    alike = Signal(bool)
    boxed = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._filling = False
        self._show: Show | None = None
        self._cell: WallCell | None = None
        self.head = QLabel("No cell is selected")
        self.head.setProperty("role", "head")
        self.kind = _combo([(words, kind) for kind, words in KINDS], "What the cell shows")
        self.of = _combo((), "Which of them")
        self.label = QLineEdit()
        self.label.setPlaceholderText("its own name")
        self.label.setAccessibleName("The cell's label")
        self.scope, self.frame = _combo(SCOPES, "Picture or scope"), _combo(FRAMES, "Frame within the picture")
        self.guides, self.colour = _combo(GUIDES, "Lines over the picture"), _combo(COLOURS, "Edge without a tally")
        self.line = _combo(LINES, "Where its name is written")
        self.meters = _combo(METERS, "Meters of the channels of its sound")
        self.marks, self.data, self.captions = QCheckBox("safe"), QCheckBox("data"), QCheckBox("captions")
        self.marks.setToolTip("Safe areas")
        self.data.setToolTip("Its size, rate, codec and bit rate")
        self.captions.setToolTip("Its captions, as a viewer reads them")
        self.free, self.box = QCheckBox("free box"), QLineEdit()
        self.free.setToolTip("It lies where it is dragged to, over the grid")
        self.box.setAccessibleName("Left, top, width and height of the free box")
        self.box.setToolTip("Left, top, width and height in pixels of the wall")
        self.in_row = tool_button("Row alike", lambda: self.alike.emit(False), "Marks of this cell in all of its row")
        self.in_all = tool_button("All alike", lambda: self.alike.emit(True), "Marks of this cell in all cells")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for widget in (self.head, self.kind, self.of, self.label, self.scope):
            column.addWidget(widget)
        pairs = QGridLayout()
        pairs.setSpacing(4)
        pairs.addWidget(self.frame, 0, 0)
        pairs.addWidget(self.guides, 0, 1)
        pairs.addWidget(self.colour, 1, 0)
        pairs.addWidget(self.line, 1, 1)
        pairs.addWidget(self.free, 2, 0)
        pairs.addWidget(self.meters, 2, 1)
        column.addLayout(pairs)
        column.addWidget(self.box)
        for widgets in ((self.marks, self.data, self.captions), (self.in_row, self.in_all)):
            line = QHBoxLayout()
            line.setSpacing(4)
            for part in widgets:
                line.addWidget(part)
            column.addLayout(line)
        self.kind.activated.connect(lambda n: self._kind_chosen())
        for name in ("of", "scope", "frame", "guides", "colour", "line", "meters"):
            combo: QComboBox = getattr(self, name)
            combo.activated.connect(lambda n, name=name, combo=combo: self._change(**{name: combo.currentData()}))
        for name in ("marks", "data", "captions"):
            getattr(self, name).clicked.connect(lambda on, name=name: self._change(**{name: on}))
        self.label.editingFinished.connect(self._named)
        self.free.clicked.connect(lambda on: self.boxed.emit(() if on else None))
        self.box.editingFinished.connect(self._box_typed)
        self.hold(None, -1, None)

    def hold(self, show: Show | None, n: int, cell: WallCell | None) -> None:
        """Show this cell, the one at a place of its wall."""
        self._filling, self._show, self._cell = True, show, cell
        for widget in self.findChildren(QWidget):
            widget.setEnabled(cell is not None or widget is self.head)
        self.head.setText("No cell is selected" if cell is None else f"Cell {n + 1}")
        self.box.setVisible(cell is not None and cell.box is not None)
        if cell is not None and show is not None:
            self.kind.setCurrentIndex(self.kind.findData(cell.shows))
            self.of.clear()
            for name, id in things_of(show, cell.shows):
                self.of.addItem(name, id)
            self.of.setCurrentIndex(max(0, self.of.findData(cell.of)))
            self.of.setVisible(bool(self.of.count()))
            self.label.setText(cell.label)
            for check, on in ((self.marks, cell.marks), (self.data, cell.data), (self.captions, cell.captions)):
                check.setChecked(on)
            for combo, value in (
                (self.scope, cell.scope),
                (self.frame, cell.frame),
                (self.guides, cell.guides),
                (self.colour, cell.colour),
                (self.line, cell.line),
                (self.meters, cell.meters),
            ):
                combo.setCurrentIndex(max(0, combo.findData(value)))
            self.free.setChecked(cell.box is not None)
            if cell.box is not None:
                x, y, w, h = cell.box
                self.box.setText(f"{x}, {y}, {w} × {h}")
                self.box.setModified(False)
        self._filling = False

    # -- by hand -------------------------------------------------------------------------------------------------

    def _change(self, **fields: object) -> None:
        if self._cell is not None and not self._filling:
            self.changed.emit(fields)

    def _kind_chosen(self) -> None:
        kind = self.kind.currentData()
        things = [] if self._show is None else things_of(self._show, kind)
        self._change(shows=kind, of=things[0][1] if things else None)

    def _named(self) -> None:
        if self.label.isModified():
            self.label.setModified(False)
            self._change(label=self.label.text().strip())

    def _box_typed(self) -> None:
        if self._filling or not self.box.isModified():
            return
        self.box.setModified(False)
        try:
            self.boxed.emit(box_from(self.box.text()))
        except EntryError as error:
            self.refused.emit(str(error))
