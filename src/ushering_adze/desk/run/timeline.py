"""The evening along time: what surfaces show in bars, players with their lengths, cues as lines, now as a line."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QToolTip, QWidget

from ushering_adze.core.onair.timeline import Span, Timeline, place_of_now
from ushering_adze.core.show.cue import number_words
from ushering_adze.core.text.clocks import DAY
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session

LEFT, HEAD, ROW, FOOT = 116, 64, 38, 26
"""Pixels of the names, of the heading, of a surface, and of a player."""
STEPS = (10, 30, 60, 300, 600, 1800, 3600)


def moment_words(line: Timeline, seconds: float) -> str:
    """A moment: the time of day if that is planned, else from the first cue.

    Examples
    --------
    >>> moment_words(Timeline((), 0.0, 72000.0, {}, {}), 90.0), moment_words(Timeline((), 0.0, None, {}, {}), 90.0)
    ('20:01:30', '+0:01:30')
    """
    whole = int((seconds + (line.day or 0.0)) % DAY)
    words = f"{whole // 3600}:{whole // 60 % 60:02d}:{whole % 60:02d}"
    return words if line.day is not None else f"+{words}"


class TimelineView(QWidget):
    """Surfaces and players down, time across.

    Signals
    -------
    scrubbed : seconds from the first cue at which the hand is; it is for preview alone
    """

    scrubbed = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.line = Timeline((), 0.0, None, {}, {})
        self.list: str | None = None
        self.factor = 1.0
        self.hand: float | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("The evening along time")

    def sizeHint(self) -> QSize:
        rows = HEAD + ROW * len(self.line.rows) + FOOT * len(self.line.players) + 14
        return QSize(round(LEFT + 900 * self.factor), rows)

    def hold(self, list: str | None, line: Timeline) -> None:
        """Show the timeline of a list."""
        if (list, line) != (self.list, self.line):
            if list != self.list:
                self.hand = None
            self.list, self.line = list, line
            self.setMinimumSize(self.sizeHint())
            self.update()

    def zoom(self, factor: float) -> None:
        """Time wider or narrower."""
        self.factor = min(16.0, max(1.0, self.factor * factor))
        self.setMinimumSize(self.sizeHint())
        self.update()

    @property
    def _second(self) -> float:
        """Pixels of a second."""
        return (self.width() - LEFT - 12) / max(1.0, self.line.end)

    def x(self, seconds: float) -> float:
        """Where a moment lies."""
        return LEFT + seconds * self._second

    def seconds(self, x: float) -> float:
        """The moment at a place."""
        return min(self.line.end, max(0.0, (x - LEFT) / max(1e-9, self._second)))

    def now(self) -> float | None:
        """Where the evening is."""
        stage = self._session.playout.stage
        if self.list is None or all(y.id != self.list for y in stage.show.lists):
            return None
        return place_of_now(stage, self.list, self.line)

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        if not self.line.cues:
            p.setFont(theme.font(15))
            p.setPen(theme.colour(theme.DIM))
            theme.centred(p, QRectF(self.rect()), "No cues yet: make some under Cues (C), in the rooms")
            return
        names = {s.id: s.name for s in self._session.show.surfaces}
        colours = {s.id: (s.name, s.colour) for s in self._session.show.sources}
        y = float(HEAD)
        for surface, spans in self.line.rows.items():
            self._name(p, y, ROW, names.get(surface, surface), True)
            for span in spans:
                self._bar(p, y, span, colours)
            y += ROW
        for source, runs in self.line.players.items():
            name, colour = colours.get(source, (source, theme.FAINT))
            self._name(p, y, FOOT, name, False)
            for run in runs:
                box = QRectF(self.x(run.begin), y + 6, max(2.0, self.x(run.end) - self.x(run.begin)), FOOT - 12)
                p.fillRect(box, theme.colour(colour, 90))
                p.setPen(theme.hairline(theme.WELL, 1.5))
                if run.length * self._second > 4:  # where it begins anew
                    for k in range(1, int((run.end - run.begin) / run.length) + 1):
                        x = self.x(run.begin + k * run.length)
                        p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            y += FOOT
        self._paint_moments(p)
        self._paint_cues(p)
        for at, token, words in ((self.hand, theme.GREEN, "preview"), (self.now(), theme.RED, "now")):
            if at is None:
                continue
            p.setPen(theme.hairline(token, 2))
            p.drawLine(QPointF(self.x(at), HEAD - 14), QPointF(self.x(at), self.height()))
            p.setFont(theme.font(11, bold=True))
            p.setPen(theme.colour(theme.RED_WORDS if token == theme.RED else token))
            theme.left(p, QRectF(self.x(at) + 4, HEAD - 18, 60, 14), words)

    def _name(self, p: QPainter, y: float, high: float, words: str, strong: bool) -> None:
        p.setPen(theme.hairline())
        p.drawLine(QPointF(0, y), QPointF(self.width(), y))
        p.setFont(theme.font(13 if strong else 11, bold=strong))
        p.setPen(theme.colour(theme.TEXT if strong else theme.DIM))
        theme.left(p, QRectF(10, y, LEFT - 14, high), words)

    def _bar(self, p: QPainter, y: float, span: Span, colours: dict[str, tuple[str, str]]) -> None:
        box = QRectF(self.x(span.begin) + 1, y + 4, max(2.0, self.x(span.end) - self.x(span.begin) - 2), ROW - 8)
        dark = span.cell.state in ("black", "no region") or not span.cell.ids
        colour = theme.LINE if dark else colours.get(span.cell.ids[0], ("", theme.FAINT))[1]
        p.fillRect(box, theme.colour(colour, 60 if dark else 84))
        p.fillRect(QRectF(box.x(), box.y(), 3, box.height()), theme.colour(colour))
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM if dark else theme.TEXT))
        if box.width() > 30:
            theme.left(p, box.adjusted(7, 0, -2, 0), span.cell.words)

    def _paint_moments(self, p: QPainter) -> None:
        """The ruler: a line at every step that leaves room for its words."""
        step = next((s for s in STEPS if s * self._second > 74), STEPS[-1])
        day = self.line.day or 0.0
        first = (int(day // step) + (day % step > 0)) * step - day
        at = first
        while at <= self.line.end:
            p.setPen(theme.hairline(theme.LINE))
            p.drawLine(QPointF(self.x(at), 16), QPointF(self.x(at), 22))
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(self.x(at) + 3, 2, 80, 16), moment_words(self.line, at))
            at += step

    def _paint_cues(self, p: QPainter) -> None:
        last = float("-inf")
        for at, cue in self.line.cues:
            x = self.x(at)
            p.setPen(theme.hairline(theme.AMBER, 1))
            p.drawLine(QPointF(x, 24), QPointF(x, self.height()))
            if x - last > 16:
                p.setFont(theme.font(11, bold=True))
                p.setPen(theme.colour(theme.AMBER))
                room = min((self.x(b) for b, _ in self.line.cues if b > at), default=float(self.width())) - x
                words = f"{number_words(cue.number)} {cue.name}" if room > 60 else number_words(cue.number)
                theme.left(p, QRectF(x + 4, 24, max(14.0, room - 6), 16), words)
                last = x

    # -- by hand -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and event.position().x() >= LEFT:
            self._scrub(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and event.position().x() >= LEFT:
            self._scrub(event.position().x())
            return
        if self.line.cues and event.position().x() >= LEFT:
            at = self.seconds(event.position().x())
            cue = self.line.at(at)
            words = moment_words(self.line, at)
            if cue is not None:
                words += f"  {number_words(cue.number)} {cue.name}"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)

    def _scrub(self, x: float) -> None:
        self.scrub(self.seconds(x))

    def scrub(self, seconds: float) -> None:
        """Put the hand at a moment, in seconds from the first cue."""
        self.hand = seconds
        self.scrubbed.emit(self.hand)
        self.update()
