"""Earlier versions of the open show: the last ten that were saved, or would have been lost."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.desk.session import Session


class VersionsSheet(QDialog):
    """A list beside the show; it blocks nothing."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Earlier versions")
        self.setModal(False)
        self.resize(420, 360)
        self.line = QLabel()
        self.line.setWordWrap(True)
        self.line.setProperty("role", "dim")
        self.list = QListWidget()
        self.take = QPushButton("Open it")
        self.take.clicked.connect(self._take)
        self.list.itemDoubleClicked.connect(self._take)
        foot = QHBoxLayout()
        foot.addWidget(self.line, 1)
        foot.addWidget(self.take)
        box = QVBoxLayout(self)
        box.addWidget(self.list, 1)
        box.addLayout(foot)

    def open(self) -> None:
        """Show what is kept by now."""
        self.list.clear()
        for kept, words in self._session.filing.versions():
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, kept)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.take.setEnabled(self.list.count() > 0)
        self.line.setText(
            "It takes the place of the show as it is; Ctrl+Z brings that back."
            if self.list.count()
            else "Nothing is kept yet: each time the show is saved, that version is kept here, the last ten of them."
        )
        self.show()
        self.raise_()

    def _take(self) -> None:
        item = self.list.currentItem()
        if item is not None and self._session.open_version(item.data(Qt.ItemDataRole.UserRole)):
            self.hide()
