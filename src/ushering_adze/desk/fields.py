"""Fields of the inspector: each shows one field of the selected item and turns what is entered into an edit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QLineEdit, QWidget

from ushering_adze.core.document.entry import EntryError, number_from, signed_from
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.core.show.rigging import field_of, told, with_field

Kind = Literal["text", "int", "float", "choice", "check", "words"]


@dataclass(frozen=True)
class Spec:
    """One field: its label, its path in the item, its kind; ``read`` and ``write`` replace the path where a field is
    not plain.

    ``usual`` is what a double-click on the label resets it to.
    """

    label: str
    path: str = ""
    kind: Kind = "text"
    choices: Sequence[tuple[str, Any]] = ()
    unit: str = ""
    read: Callable[[Any], Any] | None = None
    write: Callable[[Any, Any], Any] | None = None
    usual: Any = None
    resets: bool = False
    hint: str = ""
    signed: bool = False
    """Whether it is often below zero: then ``-6`` is minus six, and no step down."""

    def value(self, item: Any) -> Any:
        """What the item holds here."""
        return self.read(item) if self.read else field_of(item, self.path)

    def put(self, item: Any, value: Any) -> Any:
        """The item with another value here.  Raises ShowError."""
        return self.write(item, value) if self.write else with_field(item, self.path, value)


def shown(value: Any) -> str:
    """A value as a field shows it."""
    if value is None:
        return ""
    return f"{value:.10g}" if isinstance(value, float) else str(value)


class ResetLabel(QLabel):
    """A label that resets its field on a double-click."""

    def __init__(self, words: str, reset: Callable[[], None] | None) -> None:
        super().__init__(words)
        self._reset = reset
        self.setProperty("role", "dim")
        if reset is not None:
            self.setToolTip("Double-click to reset")

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._reset is not None:
            self._reset()


class Entry(QLineEdit):
    """A line that the wheel and the arrow keys nudge if it holds a number."""

    def __init__(self, nudge: Callable[[float], None] | None) -> None:
        super().__init__()
        self._nudge = nudge
        if nudge is not None:
            self.setObjectName("geometry")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._nudge is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._nudge(_step(event.modifiers()) * (1 if event.key() == Qt.Key.Key_Up else -1))
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._nudge is not None and self.hasFocus() and event.angleDelta().y():
            self._nudge(_step(event.modifiers()) * (1 if event.angleDelta().y() > 0 else -1))
            event.accept()
        else:
            event.ignore()


def _step(modifiers: Qt.KeyboardModifier) -> float:
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return 10.0
    return 0.1 if modifiers & Qt.KeyboardModifier.ControlModifier else 1.0


class FieldRow(QWidget):
    """A label, an editor, and under it the reason why an entry was refused."""

    def __init__(self, spec: Spec, commit: Callable[[Spec, Any], None]) -> None:
        super().__init__()
        self.spec, self._commit = spec, commit
        self._item: Any = None
        self._left = False
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.hide()
        self.editor = self._make()
        self.editor.setAccessibleName(spec.label)
        self.label = ResetLabel(spec.label, (lambda: self.enter(spec.usual)) if spec.resets else None)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        self.label.setFixedWidth(104)
        grid.addWidget(self.label, 0, 0)
        grid.addWidget(self.editor, 0, 1)
        grid.setColumnStretch(1, 1)
        unit = QLabel(spec.unit)
        unit.setProperty("role", "dim")
        unit.setFixedWidth(30)
        grid.addWidget(unit, 0, 2)
        grid.addWidget(self.why, 1, 1, 1, 2)
        if spec.hint:
            self.editor.setToolTip(spec.hint)

    def _make(self) -> QWidget:
        spec = self.spec
        if spec.kind == "choice":
            box = QComboBox()
            box.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(8)
            for words, _ in spec.choices:
                box.addItem(words)
            box.activated.connect(lambda n: self.enter(self.spec.choices[n][1]))
            box.wheelEvent = lambda event: event.ignore()  # type: ignore[method-assign, assignment]
            return box
        if spec.kind == "check":
            check = QCheckBox()
            check.clicked.connect(self.enter)
            return check
        line = Entry(self._nudge if spec.kind in ("int", "float") else None)
        line.setReadOnly(spec.kind == "words")
        line.returnPressed.connect(self._typed)
        line.editingFinished.connect(self._typed)
        line.textEdited.connect(lambda text: self.say(""))
        return line

    def hold(self, item: Any) -> None:
        """Show the item's value."""
        self._item = item
        self.say("")
        value = self.spec.value(item)
        editor = self.editor
        if isinstance(editor, QComboBox):
            editor.setCurrentIndex(next((n for n, (_, v) in enumerate(self.spec.choices) if v == value), -1))
        elif isinstance(editor, QCheckBox):
            editor.setChecked(bool(value))
        elif isinstance(editor, QLineEdit):
            editor.setText(shown(value))
            editor.setCursorPosition(0)

    def say(self, why: str) -> None:
        """Show why an entry was refused; an empty sentence clears it."""
        self.why.setText(why)
        self.why.setVisible(bool(why))
        if bool(self.editor.property("wrong")) != bool(why):
            self.editor.setProperty("wrong", bool(why))
            self.editor.style().unpolish(self.editor)
            self.editor.style().polish(self.editor)

    def enter(self, value: Any) -> None:
        """Make an edit of a value; a refused one keeps the text and says why."""
        if value == self.spec.value(self._item):
            self.say("")
            return
        try:
            self._commit(self.spec, value)
        except ShowError as error:
            self.say(str(error).removeprefix(": "))
        except (EntryError, ValueError) as error:
            self.say(told(error))

    def finish(self) -> None:
        """The item is left: what was typed and not yet entered is entered now, and nothing after that."""
        if isinstance(self.editor, QLineEdit) and not self.why.text():
            self._typed()
        self._left = True

    def _typed(self) -> None:
        if self._left:
            return
        assert isinstance(self.editor, QLineEdit)
        text, now = self.editor.text(), self.spec.value(self._item)
        if text == shown(now) or self.spec.kind == "words":
            return
        if self.spec.kind == "text":
            self.enter(text.strip())
            return
        if not text.strip() and now is None:
            return
        try:
            value = (signed_from if self.spec.signed else number_from)(text, now=float(now or 0))
            if self.spec.kind == "int":
                if value != int(value):
                    raise EntryError("this is to be a whole number")
                value = int(value)
        except EntryError as error:
            self.say(told(error))
            return
        self.enter(value)

    def _nudge(self, by: float) -> None:
        now = self.spec.value(self._item)
        if now is None:
            return
        if self.spec.kind == "int":
            by = max(1.0, abs(by)) * (1 if by > 0 else -1)
            self.enter(int(now + by))
        else:
            self.enter(round(now + by, 6))


def list_of_cells(text: str) -> list[tuple[int, ...]]:
    """Cells typed as ``3/2 5/1``, column before row, with a third number where there is one.

    Raises
    ------
    ShowError

    Examples
    --------
    >>> list_of_cells("3/2, 10/5"), list_of_cells("1/1/90"), list_of_cells("")
    ([(3, 2), (10, 5)], [(1, 1, 90)], [])
    """
    cells = []
    for word in text.replace(",", " ").split():
        try:
            cells.append(tuple(int(n) for n in word.split("/")))
        except ValueError:
            raise ShowError([Fault("", f'"{word}" is not a cabinet; write column/row, like 3/2')]) from None
        if len(cells[-1]) not in (2, 3):
            raise ShowError([Fault("", f'"{word}" is not a cabinet; write column/row, like 3/2')])
    return cells
