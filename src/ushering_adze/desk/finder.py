"""The command finder and the sheet of keys: two panels that lie over the window and never block the show."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from ushering_adze.desk import theme
from ushering_adze.desk.commands import Command, CommandBook, key_words


class Finder(QFrame):
    """Type a few letters of what you want; Enter does it."""

    def __init__(self, window: QWidget, book: CommandBook) -> None:
        super().__init__(window)
        self._book = book
        self._found: list[Command] = []
        self.setObjectName("panel")
        self.field = QLineEdit()
        self.field.setPlaceholderText("Find a command")
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 12, 12, 12)
        box.addWidget(self.field)
        box.addWidget(self.list)
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._run)
        self.list.itemClicked.connect(lambda item: self._run())
        self.field.installEventFilter(self)
        self.hide()

    def open(self) -> None:
        """Show the finder in the upper middle of the window."""
        parent = self.parentWidget()
        width = min(620, parent.width() - 80)
        self.setFixedWidth(width)
        self.move((parent.width() - width) // 2, 64)
        self.field.clear()
        self._fill("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _fill(self, typed: str) -> None:
        self.list.clear()
        self._found = self._book.found(typed)
        for command in self._found:
            keys = key_words(command)
            self.list.addItem(QListWidgetItem(f"{command.menu} · {command.words}" + (f"     {keys}" if keys else "")))
        rows = max(1, min(len(self._found), 12))
        self.setFixedHeight(70 + rows * 30)
        if self._found:
            self.list.setCurrentRow(0)
        else:
            self.list.addItem("Nothing is called that; try another word")

    def _run(self) -> None:
        row = self.list.currentRow()
        command = self._found[row] if 0 <= row < len(self._found) else None
        self.close_()
        if command is not None:
            self._book.actions[command.id].trigger()

    def close_(self) -> None:
        """Put the finder away and give the keys back to the window."""
        self.hide()
        self.parentWidget().setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() == Qt.Key.Key_Escape:
                self.close_()
                return True
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(min(self.list.count() - 1, max(0, self.list.currentRow() + step)))
                return True
        if event.type() == QEvent.Type.FocusOut:
            self.hide()
        return False


class KeySheet(QWidget):
    """The keys of a workspace, over everything; any key or click puts it away."""

    def __init__(self, window: QWidget, book: CommandBook) -> None:
        super().__init__(window)
        self._book = book
        self._where = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hide()

    def open(self, where: str) -> None:
        """Show the keys that work in ``where``."""
        self._where = where
        self.setGeometry(self.parentWidget().rect())
        self.show()
        self.raise_()
        self.setFocus()

    def rows(self) -> list[tuple[str, str]]:
        """Key and words of every command with a key, those of this workspace first."""
        extra = [("0–9, then Enter", "Stage the preset of that number"), ("0–9, then Ctrl+Enter", "Recall it directly")]
        mine = [
            c for c in self._book.commands.values() if c.keys and (not c.where or self._where in c.where.split(", "))
        ]
        return extra + [
            (key_words(c).split(" or ")[0], c.words)
            for c in sorted(mine, key=lambda c: (not c.where, c.menu != "Run", c.menu))
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour("#080C0E", 242))
        rows = self.rows()
        columns = 2 if len(rows) <= 44 else 3
        per = -(-len(rows) // columns)
        width, line = (860.0, 28.0) if columns == 2 else (min(1290.0, self.width() - 24.0), 26.0)
        key = 176.0 if columns == 2 else 152.0
        x0, y0 = (self.width() - width) / 2, max(60.0, (self.height() - per * line) / 2)
        p.setFont(theme.font(20, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.left(p, QRectF(x0, y0 - 52, width, 32), f"Keys in {self._where}")
        for n, (keys, words) in enumerate(rows):
            x, y = x0 + (n // per) * width / columns, y0 + (n % per) * line
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.AMBER))
            theme.left(p, QRectF(x, y, key - 6, line), keys)
            p.setFont(theme.font(13))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(x + key, y, width / columns - key - 10, line), words)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._away()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._away()

    def _away(self) -> None:
        self.hide()
        self.parentWidget().setFocus()
