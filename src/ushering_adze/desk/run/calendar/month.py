"""A month of the calendar: weeks down, days across."""

from __future__ import annotations

from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, QSize, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.desk import theme
from ushering_adze.desk.run.calendar.days import WEEKDAYS, Block

HEAD, LINE = 24, 18


class MonthView(QWidget):
    """Six weeks from the Monday on before a month begins.

    Signals
    -------
    chosen : an occurrence was clicked, or None
    made : the day on which an empty place was double-clicked
    opened : a day whose number was clicked
    """

    chosen = Signal(object)
    made = Signal(object)
    opened = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.first, self.month = datetime(2026, 1, 1), 1
        self.blocks: list[Block] = []
        self.now: datetime | None = None
        self.selected: tuple[str, datetime] | None = None
        self.setAccessibleName("Month of the calendar")

    def sizeHint(self) -> QSize:
        return QSize(560, 420)

    def hold(self, first: datetime, month: int, blocks: list[Block], now: datetime) -> None:
        """Show six weeks from a Monday on; the days of the month are the bright ones."""
        told = (first, month, blocks, now.replace(second=0, microsecond=0))
        if told == (self.first, self.month, self.blocks, self.now):
            return
        self.first, self.month, self.blocks, self.now = told
        self.update()

    def box(self, n: int) -> QRectF:
        """Where a day lies, counted from the first."""
        wide, high = self.width() / 7, (self.height() - HEAD) / 6
        return QRectF(n % 7 * wide, HEAD + n // 7 * high, wide, high)

    def _rows(self, n: int) -> list[tuple[Block, QRectF]]:
        """What is on a day, each on its line, as many as there is room for."""
        box, day = self.box(n), self.first + timedelta(days=n)
        here = [b for b in self.blocks if b.begin < day + timedelta(days=1) and (b.end > day or b.begin >= day)]
        room = max(0, int((box.height() - 22) // LINE))
        here.sort(key=lambda b: b.begin)
        return [
            (b, QRectF(box.x() + 3, box.y() + 20 + k * LINE, box.width() - 6, LINE - 2))
            for k, b in enumerate(here[:room])
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setFont(theme.font(12, bold=True))
        for n, name in enumerate(WEEKDAYS):
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(n * self.width() / 7 + 8, 0, 80, HEAD), name)
        for n in range(42):
            box, day = self.box(n), self.first + timedelta(days=n)
            p.setPen(theme.hairline(theme.LINE))
            p.drawRect(box)
            today = self.now is not None and day.date() == self.now.date()
            p.setFont(theme.font(12, bold=today))
            p.setPen(theme.colour(theme.AMBER if today else theme.TEXT if day.month == self.month else theme.FAINT))
            theme.left(p, QRectF(box.x() + 6, box.y() + 2, box.width() - 8, 16), f"{day.day}")
            for block, line in self._rows(n):
                p.fillRect(line, theme.colour(block.colour, 60 if block.on else 20))
                p.fillRect(QRectF(line.x(), line.y(), 3, line.height()), theme.colour(block.colour))
                if self.selected == (block.event, block.starts):
                    p.setPen(theme.hairline(theme.AMBER, 2))
                    p.drawRect(line)
                p.setFont(theme.font(11))
                p.setPen(theme.colour(theme.TEXT if block.on else theme.DIM))
                at = "" if block.all_day or block.begin < day else f"{block.begin:%H:%M} "
                theme.left(p, line.adjusted(6, 0, -2, 0), f"{at}{block.name}")

    def _at(self, at: QPointF) -> tuple[int, Block | None]:
        for n in range(42):
            if self.box(n).contains(at):
                return n, next((b for b, line in self._rows(n) if line.contains(at)), None)
        return -1, None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        n, block = self._at(event.position())
        self.chosen.emit(block)
        if n >= 0 and block is None and event.position().y() < self.box(n).y() + 20:
            self.opened.emit(self.first + timedelta(days=n))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        n, block = self._at(event.position())
        if n >= 0 and block is None:
            self.made.emit(self.first + timedelta(days=n, hours=10))
