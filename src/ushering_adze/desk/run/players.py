"""Players: every source that is on air or armed and has a length, with its transport."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.onair.actions import Action, Loop, Next, Page, Pause, Play, To
from ushering_adze.desk import theme
from ushering_adze.playout import PlayerReport

ROW, LEAST, HEAD, SOON = 64, 39, 34, 10.0
"""Pixels of a row, at most and at least, and of the heading; seconds left from which the digits are amber."""


def clock(seconds: float) -> str:
    """Seconds as minutes and seconds; hours where there are any.

    Examples
    --------
    >>> clock(75.4), clock(3661)
    ('1:15', '1:01:01')
    """
    whole = int(seconds)
    hours, minutes = whole // 3600, whole // 60 % 60
    return f"{hours}:{minutes:02d}:{whole % 60:02d}" if hours else f"{minutes}:{whole % 60:02d}"


class PlayersPanel(QWidget):
    """A row for each player; a click selects it, on its bar it sends it there.

    Signals
    -------
    acted : an action on a player was asked for
    selected : a player was chosen, by the id of its source
    """

    acted = Signal(object)
    selected = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._players: tuple[PlayerReport, ...] = ()
        self._selected: str | None = None
        self.all = False
        """Whether also those are listed that are neither on air nor armed."""
        self._rows: list[tuple[QRectF, PlayerReport]] = []
        self._bars: list[tuple[QRectF, PlayerReport]] = []
        self._buttons: list[tuple[QRectF, Action]] = []
        self._more = QRectF()
        self._told: object = None
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Players")

    def sizeHint(self) -> QSize:
        return QSize(380, 300)

    def listed(self) -> list[PlayerReport]:
        """The players that are shown."""
        return [p for p in self._players if self.all or p.on]

    def select(self, source: str | None) -> None:
        """Mark the player of a source."""
        self._selected = source
        self.update()

    def show_all(self, on: bool) -> None:
        """List also those that are neither on air nor armed, or not."""
        self.all = on
        self._fit()

    def _fit(self) -> None:
        """Take the height that the rows need; what holds the panel lets it scroll."""
        self.setMinimumHeight(max(150, HEAD + LEAST * len(self.listed()) + 6))
        self.update()

    def chosen(self) -> PlayerReport | None:
        """The player that keys mean: the selected one, or else the first."""
        shown = self.listed()
        return next((p for p in shown if p.source == self._selected), shown[0] if shown else None)

    def hold(self, players: tuple[PlayerReport, ...]) -> None:
        """Show these players."""
        self._players = players
        told = [(p.source, p.name, int(p.within * 4), p.length, p.running, p.looping, p.on) for p in self.listed()]
        if told != self._told:
            self._told = told
            self._fit()

    # -- by keys -----------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Let the chosen player go on, or stand."""
        player = self.chosen()
        if player is not None:
            self.acted.emit(Pause(source=player.source) if player.running else Play(source=player.source))

    def jump(self, seconds: float) -> None:
        """Send the chosen player some seconds on or back; one that is leafed through turns a page."""
        player = self.chosen()
        if player is None:
            return
        if player.pages and seconds > 0:
            self.acted.emit(Next(source=player.source))
        elif player.pages:
            self.acted.emit(Page(source=player.source, to=(player.page - 2) % player.pages + 1))
        else:
            end = max(0.0, player.length - 0.04) if player.length else player.within + seconds
            self.acted.emit(To(source=player.source, seconds=min(max(0.0, player.within + seconds), end)))

    def to_start(self) -> None:
        """Send the chosen player to its start."""
        player = self.chosen()
        if player is not None:
            self.acted.emit(To(source=player.source, seconds=0.0))

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.left(p, QRectF(12, 4, 200, 28), "Players")
        self._more = QRectF(self.width() - 150, 6, 140, 24)
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, self._more, "on air and armed only" if self.all else "all players")
        self._rows, self._bars, self._buttons = [], [], []
        players = self.listed()
        if not players:
            p.setFont(theme.font(12))
            theme.left(p, QRectF(12, HEAD, self.width() - 24, 28), "No clip, folder or countdown is on air or armed.")
        chosen = self.chosen()
        room = self.height() - HEAD - 6
        row = min(float(ROW), max(float(LEAST), room / max(1, len(players))))
        for n, player in enumerate(players):
            rect = QRectF(8, HEAD + n * row, self.width() - 16, row - 4)
            self._rows.append((rect, player))
            self._paint_row(p, rect, player, chosen is not None and player.source == chosen.source)

    def _paint_row(self, p: QPainter, rect: QRectF, player: PlayerReport, chosen: bool) -> None:
        p.fillRect(rect, theme.colour(theme.RAISED if chosen else theme.GROUND))
        if player.on == "program":
            theme.program_bar(p, QRectF(rect.x(), rect.y(), 3, rect.height()))
        elif player.on == "preview":
            theme.preview_bar(p, QRectF(rect.x(), rect.y(), 3, rect.height()))
        if chosen:
            p.setPen(theme.hairline(theme.AMBER, 1.2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
        top = rect.height() - 16
        p.setFont(theme.font(13, bold=player.on != ""))
        p.setPen(theme.colour(theme.TEXT if player.on else theme.DIM))
        tall = top >= 34
        words = QRectF(
            rect.x() + 12, rect.y() + 2, 96 if not tall else rect.width() - 230, top / 2 + 4 if tall else top
        )
        theme.left(p, words, player.name)
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM))
        below = QRectF(words.x(), rect.y() + top / 2 + 2, words.width(), top / 2)
        theme.left(p, below if tall else QRectF(words.right() + 4, words.y(), 86, top), self._place(player))
        buttons = min(34.0, top - 2) * 3 + 6
        self._paint_buttons(p, QRectF(rect.right() - 100 - buttons, rect.y() + 3, buttons, top - 2), player)
        left = player.left
        p.setFont(theme.font(24 if top >= 26 else 19, bold=True))
        soon = left is not None and left < SOON and not player.pages and not player.looping and player.on == "program"
        p.setPen(theme.colour(theme.AMBER if soon else theme.TEXT if player.running else theme.DIM))
        theme.right(p, QRectF(rect.right() - 96, rect.y(), 88, top + 5), self._digits(player))
        bar = QRectF(rect.x() + 12, rect.bottom() - 11, rect.width() - 20, 6)
        self._bars.append((bar.adjusted(0, -5, 0, 5), player))
        p.fillRect(bar, theme.colour(theme.WELL))
        if player.length > 0:
            share = min(1.0, player.within / player.length)
            token = theme.RED if player.on == "program" else theme.GREEN if player.on == "preview" else theme.FAINT
            p.fillRect(QRectF(bar.x(), bar.y(), bar.width() * share, bar.height()), theme.colour(token))

    @staticmethod
    def _place(player: PlayerReport) -> str:
        if player.pages:
            return f"next in {clock(player.next_page_in)}" if player.running else "stands"
        length = f" of {clock(player.length)}" if player.length else ""
        return f"{clock(player.within)}{length}{'' if player.looping or player.counts else ', once'}"

    @staticmethod
    def _digits(player: PlayerReport) -> str:
        if player.left is None:
            return clock(player.within)
        if player.pages:
            return f"{player.page}/{player.pages}"
        return f"−{clock(player.left)}"

    def _paint_buttons(self, p: QPainter, box: QRectF, player: PlayerReport) -> None:
        """To the start, go on or stand, begin anew or once."""
        source, size = player.source, min(34.0, box.height())
        actions: list[tuple[str, Action]] = [
            ("start", To(source=source, seconds=0.0)),
            ("stand" if player.running else "go", Pause(source=source) if player.running else Play(source=source)),
            ("loop" if player.looping else "once", Loop(source=source, on=not player.looping)),
        ]
        for n, (sign, action) in enumerate(actions[:2] if player.counts else actions):
            rect = QRectF(box.x() + n * (size + 3), box.y() + (box.height() - size) / 2, size, size)
            self._buttons.append((rect, action))
            p.setPen(theme.hairline())
            p.setBrush(theme.colour(theme.PANEL))
            p.drawRoundedRect(rect, 3, 3)
            self._paint_sign(p, rect.adjusted(size * 0.3, size * 0.3, -size * 0.3, -size * 0.3), sign)

    @staticmethod
    def _paint_sign(p: QPainter, r: QRectF, sign: str) -> None:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour(theme.TEXT))
        if sign == "start":
            p.drawRect(QRectF(r.x(), r.y(), r.width() * 0.2, r.height()))
            p.drawPolygon(QPolygonF([r.topRight(), r.bottomRight(), QPointF(r.x() + r.width() * 0.25, r.center().y())]))
        elif sign == "go":
            p.drawPolygon(QPolygonF([r.topLeft(), r.bottomLeft(), QPointF(r.right(), r.center().y())]))
        elif sign == "stand":
            p.drawRect(QRectF(r.x(), r.y(), r.width() * 0.35, r.height()))
            p.drawRect(QRectF(r.right() - r.width() * 0.35, r.y(), r.width() * 0.35, r.height()))
        else:
            p.setPen(theme.hairline(theme.TEXT if sign == "loop" else theme.FAINT, 1.8))
            p.setBrush(Qt.BrushStyle.NoBrush)
            if sign == "loop":
                p.drawArc(r, 40 * 16, 300 * 16)
            else:
                p.drawLine(QPointF(r.x(), r.center().y()), QPointF(r.right(), r.center().y()))
                p.drawLine(r.topRight(), r.bottomRight())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._more.contains(at):
            self.show_all(not self.all)
            return
        for rect, action in self._buttons:
            if rect.contains(at):
                self.acted.emit(action)
                return
        self._scrub(at, select=True)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event.position(), select=False)

    def _scrub(self, at: QPointF, select: bool) -> None:
        for rect, player in self._bars:
            if rect.contains(at) and player.length > 0:
                share = min(1.0, max(0.0, (at.x() - rect.x()) / rect.width()))
                self.acted.emit(To(source=player.source, seconds=round(share * (player.length - 0.04), 3)))
                return
        if select:
            for rect, player in self._rows:
                if rect.contains(at):
                    self.selected.emit(player.source)
