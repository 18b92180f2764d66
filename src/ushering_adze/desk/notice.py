"""A sentence for the user, beside whatever is being done."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QLabel, QWidget

from ushering_adze.desk import theme


class Notice(QLabel):
    """A sentence over the workspace, no wider than its words, that stays until it is clicked or has been read twice; it
    never blocks anything.
    """

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setStyleSheet(
            f"background: {theme.RAISED}; border: 1px solid {theme.AMBER}; border-radius: 3px; padding: 10px 14px;"
        )
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show a sentence."""
        self.setText(sentence)
        parent = self.parentWidget()
        words = self.fontMetrics().horizontalAdvance(sentence) + 34  # with what is around them
        widest = min(760, parent.width() - 80)
        width = min(widest, words)
        self.setWordWrap(words > widest)
        self.setFixedWidth(width)
        self.adjustSize()
        self.move((parent.width() - width) // 2, theme.TOP_BAR + 12)
        self.show()
        self.raise_()
        self._timer.start(min(14_000, 4_000 + 80 * len(sentence)))

    def mousePressEvent(self, event: object) -> None:
        self.hide()
