"""The log, as it is by now: where it is kept, its last lines, and one press to open it."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from ushering_adze.core.document.model import ShowError
from ushering_adze.core.onair.as_run import as_text
from ushering_adze.io.as_run import as_run_folder, clock_words, read_day
from ushering_adze.io.logs import log
from ushering_adze.io.places import log_file

LAST_BYTES = 60_000


def last_lines(path: Path) -> str:
    """The end of the log, whole lines only."""
    try:
        with path.open("rb") as file:
            size = file.seek(0, 2)
            file.seek(max(0, size - LAST_BYTES))
            text = file.read().decode("utf-8", "replace")
    except FileNotFoundError:
        return "Nothing has been logged yet: no warning, no error."
    except OSError as error:
        return f"The log cannot be read ({error.strerror}); check the folder's permissions."
    return text if size <= LAST_BYTES else text.partition("\n")[2]


def the_log() -> tuple[Path, str, str]:
    """The log's file, what is to be said of it, and its end."""
    log.flush()
    left_out = f"  ·  {log.left_out} lines left out" if log.left_out else ""
    return log_file(), left_out, last_lines(log_file())


def as_run_today() -> tuple[Path, str, str]:
    """The same of what was on surfaces today: what has ended there."""
    path = as_run_folder() / time.strftime("%Y-%m-%d.jsonl")
    try:
        text = as_text(read_day(path.stem)[-2000:], lambda at: clock_words(at).partition(" ")[2])
    except ShowError:
        text = "Nothing has ended on a surface today."
    return path, "  ·  adze asrun prints it, also for a spreadsheet", text


class LogSheet(QDialog):
    """A window beside the show; it blocks nothing."""

    def __init__(
        self, parent: QWidget, title: str = "Log", read: Callable[[], tuple[Path, str, str]] = the_log
    ) -> None:
        super().__init__(parent)
        self._read = read
        self.setWindowTitle(title)
        self.setModal(False)
        self.resize(860, 460)
        self.place = QLabel()
        self.place.setTextInteractionFlags(self.place.textInteractionFlags().TextSelectableByMouse)
        self.place.setProperty("role", "dim")
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setStyleSheet("font-family: 'B612 Mono'; font-size: 11px;")
        file, folder = QPushButton("Open the file"), QPushButton("Open its folder")
        file.clicked.connect(lambda: self._open(self._read()[0]))
        folder.clicked.connect(lambda: self._open(self._read()[0].parent))
        buttons = QHBoxLayout()
        buttons.addWidget(self.place, 1)
        buttons.addWidget(file)
        buttons.addWidget(folder)
        box = QVBoxLayout(self)
        box.addLayout(buttons)
        box.addWidget(self.text, 1)

    def open(self) -> None:
        """Show it as it is by now."""
        path, beside, text = self._read()
        self.place.setText(f"{path}{beside}")
        self.text.setPlainText(text)
        bar = self.text.verticalScrollBar()
        self.show()
        self.raise_()
        bar.setValue(bar.maximum())

    def _open(self, path: Path) -> None:
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))):
            self.place.setText(f"{path}  ·  no program of this desktop opens it; copy its path")
