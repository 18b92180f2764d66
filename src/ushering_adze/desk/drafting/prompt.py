"""A small question beside the running show: some fields, one button, and the reason when what was typed cannot be."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.show.rigging import told

Field = tuple[str, str] | tuple[str, Sequence[tuple[str, object]]]
"""A label, and either the text to begin with or the choices as (words, value)."""


class Prompt(QDialog):
    """Fields and a button; ``act`` gets their values and may raise ValueError, whose sentence is then shown."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        fields: Sequence[Field],
        verb: str,
        act: Callable[..., object],
        hint: str = "",
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setModal(False)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._act = act
        self.fields: list[QLineEdit | QComboBox] = []
        form = QFormLayout()
        for label, given in fields:
            field: QLineEdit | QComboBox
            if isinstance(given, str):
                field = QLineEdit(given)
                field.setSelection(
                    len(given), -len(given)
                )  # backwards, so that the beginning of a long text is in view
                field.returnPressed.connect(self.enter)
            else:
                field = QComboBox()
                for words, value in given:
                    field.addItem(words, value)
            field.setAccessibleName(label)
            self.fields.append(field)
            form.addRow(label, field)
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.hide()
        head, tip = QLabel(title), QLabel(hint)
        head.setProperty("role", "head")
        tip.setProperty("role", "dim")
        tip.setWordWrap(True)
        tip.setVisible(bool(hint))
        self.button, leave = QPushButton(verb), QPushButton("Cancel")
        for button in (self.button, leave):
            button.setAutoDefault(False)
        self.button.clicked.connect(self.enter)
        leave.clicked.connect(self.close)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(leave)
        buttons.addWidget(self.button)
        box = QVBoxLayout(self)
        for part in (head, tip):
            box.addWidget(part)
        box.addLayout(form)
        box.addWidget(self.why)
        box.addLayout(buttons)
        self.setMinimumWidth(420)

    def values(self) -> list[object]:
        """What the fields hold."""
        return [f.text() if isinstance(f, QLineEdit) else f.currentData() for f in self.fields]

    def enter(self) -> None:
        """Do it; stay open with the reason if it cannot be done."""
        try:
            self._act(*self.values())
        except ValueError as error:
            self.why.setText(told(error))
            self.why.show()
            return
        self.close()


def whole(text: object, what: str) -> int:
    """A whole number typed into a field.  Raises ValueError with a sentence."""
    try:
        return int(str(text).strip())
    except ValueError:
        raise ValueError(f'{what} is "{text}"; type a whole number') from None


def ask(
    parent: QWidget, title: str, fields: Sequence[Field], verb: str, act: Callable[..., object], hint: str = ""
) -> Prompt:
    """Open a question and return it."""
    prompt = Prompt(parent, title, fields, verb, act, hint)
    prompt.show()
    prompt.raise_()
    if prompt.fields:
        prompt.fields[0].setFocus()
    return prompt
