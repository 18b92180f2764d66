"""Days of the calendar beside one another, hours down: events are moved and sized by hand."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.desk import theme

LEFT, HEAD, HOUR = 46, 40, 30.0
"""Pixels of the hours' column, of the heading, and of an hour at least."""
STEP = 15
"""Minutes by which a hand moves; 5 with Ctrl."""
EDGE = 6.0
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class Block(NamedTuple):
    """An occurrence as it is drawn, on the clock of the show's place; ``lane`` of ``lanes`` beside others."""

    event: str
    name: str
    begin: datetime
    end: datetime
    starts: datetime
    """When it begins on the clock of its own place, which an edit goes by."""
    colour: str
    on: bool = True
    """Whether it has its way over others."""
    all_day: bool = False
    lane: int = 0
    lanes: int = 1


def in_lanes(blocks: list[Block]) -> list[Block]:
    """Blocks side by side where they overlap.

    Examples
    --------
    >>> day = datetime(2026, 11, 5)
    >>> a = Block("a", "A", day.replace(hour=10), day.replace(hour=12), day, "#888888")
    >>> b = Block("b", "B", day.replace(hour=11), day.replace(hour=13), day, "#888888")
    >>> [(x.lane, x.lanes) for x in in_lanes([a, b])]
    [(0, 2), (1, 2)]
    """
    found: list[Block] = []
    group: list[Block] = []
    last: datetime | None = None

    def close() -> None:
        wide = max((b.lane for b in group), default=0) + 1
        found.extend(b._replace(lanes=wide) for b in group)
        group.clear()

    for block in sorted(blocks, key=lambda b: (b.begin, b.end)):
        if last is not None and block.begin >= last:
            close()
            last = None
        taken = {b.lane for b in group if b.end > block.begin}
        group.append(block._replace(lane=next(n for n in range(len(group) + 1) if n not in taken)))
        end = max(block.end, block.begin + timedelta(minutes=20))
        last = end if last is None else max(last, end)
    close()
    return found


class DaysView(QWidget):
    """Days across, hours down.

    Signals
    -------
    chosen : a block was clicked, or None
    made : the moment at which an empty place was double-clicked
    moved : a block, by how much it was moved, how much longer it was made, and whether it alone
    """

    chosen = Signal(object)
    made = Signal(object)
    moved = Signal(object, object, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.first, self.days = datetime(2026, 1, 1), 7
        self.blocks: list[Block] = []
        self.now: datetime | None = None
        self.selected: tuple[str, datetime] | None = None
        self._held: tuple[Block, QPointF, bool] | None = None
        self._by, self._longer = timedelta(), timedelta()
        self.setMouseTracking(True)
        self.setAccessibleName("Days of the calendar")
        self.setMinimumSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(LEFT + 90 * 3, round(HEAD + 24 * HOUR) + 4)

    def hold(self, first: datetime, days: int, blocks: list[Block], now: datetime) -> None:
        """Show days from a first one on."""
        told = (first, days, blocks, now.replace(second=0, microsecond=0))
        if told == (self.first, self.days, self.blocks, self.now):
            return
        self.first, self.days, self.blocks, self.now = told
        self.update()

    @property
    def _wide(self) -> float:
        return (self.width() - LEFT - 2) / max(1, self.days)

    @property
    def _hour(self) -> float:
        return max(HOUR, (self.height() - HEAD - 4) / 24)

    def placed(self) -> list[tuple[Block, QRectF]]:
        """Every block with where it is drawn, a part for each day that it is on."""
        found = []
        for n in range(self.days):
            day = self.first + timedelta(days=n)
            end = day + timedelta(days=1)
            here = [b for b in self.blocks if b.begin < end and (b.end > day or b.begin >= day)]
            cut = [b._replace(begin=max(b.begin, day), end=min(b.end, end)) for b in here]
            for block in in_lanes(cut):
                top = HEAD + (block.begin - day).total_seconds() / 3600 * self._hour
                high = max(14.0, (block.end - block.begin).total_seconds() / 3600 * self._hour)
                wide = (self._wide - 4) / block.lanes
                x = LEFT + n * self._wide + 2 + block.lane * wide
                whole = next(b for b in here if (b.event, b.starts) == (block.event, block.starts))
                found.append((whole, QRectF(x, top, wide - 1, high - 1)))
        return found

    def at(self, point: QPointF) -> tuple[Block, QRectF] | None:
        """The block at a place."""
        return next(((b, r) for b, r in reversed(self.placed()) if r.contains(point)), None)

    def moment(self, point: QPointF) -> datetime:
        """The day and time at a place, to a quarter of an hour."""
        n = min(self.days - 1, max(0, int((point.x() - LEFT) // self._wide)))
        minutes = int((point.y() - HEAD) / self._hour * 60) // STEP * STEP
        return self.first + timedelta(days=n, minutes=min(24 * 60 - STEP, max(0, minutes)))

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        for hour in range(25):
            y = HEAD + hour * self._hour
            p.setPen(theme.hairline(theme.LINE))
            p.drawLine(QPointF(LEFT, y), QPointF(self.width(), y))
            if hour < 24:
                p.setFont(theme.font(11))
                p.setPen(theme.colour(theme.DIM))
                theme.right(p, QRectF(0, y - 2, LEFT - 6, 16), f"{hour:02d}:00")
        for n in range(self.days):
            x = LEFT + n * self._wide
            p.setPen(theme.hairline(theme.LINE))
            p.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        for block, rect in self.placed():
            held = self._held is not None and self._held[0] == block
            self._paint_block(p, block, self._shifted(rect) if held else rect)
        if self.now is not None and 0 <= (self.now - self.first).days < self.days:
            past = self.now - self.first
            y = HEAD + past.seconds / 3600 * self._hour
            x = LEFT + past.days * self._wide
            p.setPen(theme.hairline(theme.RED, 2))
            p.drawLine(QPointF(x, y), QPointF(x + self._wide, y))
        self._paint_head(p)

    def _paint_head(self, p: QPainter) -> None:
        """The names of the days, always at the top of what is seen."""
        top = float(self.visibleRegion().boundingRect().top())
        today = None if self.now is None else self.now.date()
        p.fillRect(QRectF(0, top, self.width(), HEAD - 4), theme.colour(theme.GROUND))
        p.setPen(theme.hairline(theme.LINE))
        p.drawLine(QPointF(0, top + HEAD - 4), QPointF(self.width(), top + HEAD - 4))
        for n in range(self.days):
            day, x = self.first + timedelta(days=n), LEFT + n * self._wide
            p.setFont(theme.font(13, bold=True))
            p.setPen(theme.colour(theme.AMBER if day.date() == today else theme.TEXT))
            words = f"{WEEKDAYS[day.weekday()]} {day.day}.{day.month}."
            theme.left(p, QRectF(x + 8, top + 2, self._wide - 12, HEAD - 8), words)

    def _shifted(self, rect: QRectF) -> QRectF:
        days = round(self._by / timedelta(days=1))
        rest = (self._by - timedelta(days=days)).total_seconds() / 3600 * self._hour
        longer = self._longer.total_seconds() / 3600 * self._hour
        return rect.translated(days * self._wide, rest).adjusted(0, 0, 0, longer)

    def _paint_block(self, p: QPainter, block: Block, rect: QRectF) -> None:
        chosen = self.selected == (block.event, block.starts)
        p.fillRect(rect, theme.colour(theme.RAISED))
        p.fillRect(rect, theme.colour(block.colour, 70 if block.on else 22))
        p.fillRect(QRectF(rect.x(), rect.y(), 4, rect.height()), theme.colour(block.colour))
        p.setPen(theme.hairline(theme.AMBER if chosen else theme.FAINT, 2 if chosen else 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(rect)
        p.setFont(theme.font(11, bold=True))
        p.setPen(theme.colour(theme.TEXT if block.on else theme.DIM))
        line = QRectF(rect.x() + 8, rect.y(), rect.width() - 10, min(15.0, rect.height()))
        theme.left(p, line, block.name)
        if rect.height() > 28:
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            end = block.end + self._longer if self._held is not None and self._held[0] == block else block.end
            begin = block.begin + self._by if self._held is not None and self._held[0] == block else block.begin
            end = end + self._by if self._held is not None and self._held[0] == block else end
            words = f"{begin:%H:%M}" + ("" if end <= begin else f"–{end:%H:%M}")
            theme.left(p, line.translated(0, 14), words if block.on else f"{words} gives way")

    # -- by hand -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self.at(event.position())
        self._by, self._longer = timedelta(), timedelta()
        if found is None:
            self.chosen.emit(None)
            return
        block, rect = found
        edge = event.position().y() > rect.bottom() - EDGE and block.end > block.begin
        self._held = (block, event.position(), edge)
        self.chosen.emit(block)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            found = self.at(event.position())
            near = found is not None and event.position().y() > found[1].bottom() - EDGE
            shape = Qt.CursorShape.SizeVerCursor if near else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            return
        block, begun, edge = self._held
        step = 5 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else STEP
        way = event.position() - begun
        minutes = round(way.y() / self._hour * 60 / step) * step
        days = 0 if edge else round(way.x() / self._wide)
        if edge:
            least = timedelta(minutes=step) - (block.end - block.begin)
            self._longer = max(least, timedelta(minutes=minutes))
        else:
            self._by = timedelta(days=days, minutes=minutes)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        by, longer = self._by, self._longer
        self._by, self._longer = timedelta(), timedelta()
        self.update()
        if held is not None and (by or longer):
            alone = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.moved.emit(held[0], by, longer, alone)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.at(event.position()) is None and event.position().y() > HEAD and event.position().x() > LEFT:
            self.made.emit(self.moment(event.position()))
