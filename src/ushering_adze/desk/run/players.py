"""Players: every source that is on air or armed and has a length, with its transport."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.onair.actions import Action, Loop, Next, Page, Pause, Play, Previous, To
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.desk import theme
from ushering_adze.playout import PlayerReport

ROW, LEAST, HEAD, SOON = 64, 39, 34, 10.0
"""Pixels of a row, at most and at least, and of the heading; seconds left from which the digits are amber."""


Glimpse = Callable[[str, float], QImage | None]
"""The picture at a share of a source, if it is known."""


class PlayersPanel(QWidget):
    """A row for each player; a click selects it, on its bar it sends it there.

    Signals
    -------
    acted : an action on a player was asked for
    selected : a player was chosen, by the id of its source
    """

    acted = Signal(object)
    selected = Signal(str)

    def __init__(self, glimpse: Glimpse = lambda source, share: None) -> None:
        super().__init__()
        self.glimpse = glimpse
        self._players: tuple[PlayerReport, ...] = ()
        self._selected: str | None = None
        self.all = False
        """Whether also those are listed that are neither on air nor armed."""
        self._rows: list[tuple[QRectF, PlayerReport]] = []
        self._bars: list[tuple[QRectF, PlayerReport]] = []
        self._buttons: list[tuple[QRectF, Action]] = []
        self._more = QRectF()
        self.pointed: tuple[QRectF, PlayerReport, float] | None = None
        """The bar that the pointer is on, whose it is, and the share of it."""
        self.setMouseTracking(True)
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
        told = [
            (p.source, p.name, int(p.within * 4), p.length, p.running, p.looping, p.on, p.at_page, p.pages, p.speed)
            for p in self.listed()
        ]
        if told != self._told:
            self._told = told
            self._fit()

    # -- by keys -----------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Let the chosen player go on, or stand."""
        player = self.chosen()
        if player is not None and player.steps:
            self.acted.emit(Next(source=player.source))
        elif player is not None:
            self.acted.emit(Pause(source=player.source) if player.running else Play(source=player.source))

    def jump(self, seconds: float) -> None:
        """Send the chosen player some seconds on or back; one that is leafed through turns a page."""
        player = self.chosen()
        if player is None:
            return
        if player.steps:
            self.acted.emit(Next(source=player.source) if seconds > 0 else Previous(source=player.source))
        elif player.pages and seconds > 0:
            self.acted.emit(Next(source=player.source))
        elif player.pages:
            self.acted.emit(Page(source=player.source, to=(player.page - 2) % player.pages + 1))
        else:
            end = max(0.0, player.length - 0.04) if player.length else player.within + seconds
            self.acted.emit(To(source=player.source, seconds=min(max(0.0, player.within + seconds), end)))

    def to_start(self) -> None:
        """Send the chosen player to its start."""
        player = self.chosen()
        if player is not None and player.steps:
            self.acted.emit(Page(source=player.source, to=1))
        elif player is not None:
            self.acted.emit(To(source=player.source, seconds=0.0))

    def to_end(self) -> None:
        """Send the chosen player to its last picture."""
        player = self.chosen()
        if player is None:
            return
        if player.steps:
            self.acted.emit(Page(source=player.source, to=max(1, player.pages)))
        elif player.length > 0:
            self.acted.emit(To(source=player.source, seconds=max(0.0, player.length - 0.04)))

    def by_frame(self, count: int, period: float) -> None:
        """Stand, and go so many frames of the show on or back."""
        player = self.chosen()
        if player is None or player.steps or player.pages:
            return
        if player.running:
            self.acted.emit(Pause(source=player.source))
        self.acted.emit(To(source=player.source, seconds=max(0.0, player.within + count * period)))

    def faster(self, factor: float) -> None:
        """Play the chosen player faster, or slower; 0 is as it was made."""
        player = self.chosen()
        if player is None or player.steps:
            return
        speed = 1.0 if factor == 0 else min(4.0, max(0.1, round(player.speed * factor, 3)))
        self.acted.emit(Play(source=player.source, speed=speed))

    def send(self, words: str) -> None:
        """Send the chosen player to a typed moment, like 83, 1:23 or 0:01:23.5.

        Raises
        ------
        ValueError
        """
        player = self.chosen()
        if player is None:
            raise ValueError("no player is on air or armed; take one, or list all players")
        try:
            parts = [float(p.replace(",", ".")) for p in words.strip().split(":")]
        except ValueError:
            raise ValueError("that is no time; type seconds, or minutes:seconds, like 1:23.5") from None
        if not 1 <= len(parts) <= 3 or any(p < 0 for p in parts):
            raise ValueError("that is no time; type seconds, or minutes:seconds, like 1:23.5")
        seconds = sum(p * k for p, k in zip(reversed(parts), (1.0, 60.0, 3600.0), strict=False))
        self.acted.emit(To(source=player.source, seconds=min(86400.0, seconds)))

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
            theme.left(p, QRectF(12, HEAD, self.width() - 24, 28), "No clip, folder, text or clock is on air or armed.")
        chosen = self.chosen()
        room = self.height() - HEAD - 6
        row = min(float(ROW), max(float(LEAST), room / max(1, len(players))))
        for n, player in enumerate(players):
            rect = QRectF(8, HEAD + n * row, self.width() - 16, row - 4)
            self._rows.append((rect, player))
            self._paint_row(p, rect, player, chosen is not None and player.source == chosen.source)
        if self.pointed is not None:
            self._paint_glimpse(p, *self.pointed)

    def _paint_glimpse(self, p: QPainter, bar: QRectF, player: PlayerReport, share: float) -> None:
        """The picture that the pointer would send a player to, and its time, above its bar or below it."""
        image = self.glimpse(player.source, share)
        if image is None:
            return
        x = min(max(8.0, bar.x() + share * bar.width() - image.width() / 2), self.width() - image.width() - 8.0)
        above = bar.y() - image.height() - 22
        box = QRectF(x, above if above > 0 else bar.bottom() + 4, image.width(), image.height() + 18)
        p.setPen(theme.hairline(theme.AMBER))
        p.setBrush(theme.colour(theme.WELL))
        p.drawRect(box.adjusted(-1, -1, 1, 1))
        p.drawImage(QPointF(box.x(), box.y()), image)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.centred(p, QRectF(box.x(), box.bottom() - 18, box.width(), 18), clock_digits(int(share * player.length)))

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
        if player.length > 0 or player.pages:
            share = player.page / player.pages if player.steps else min(1.0, player.within / player.length)
            token = theme.RED if player.on == "program" else theme.GREEN if player.on == "preview" else theme.FAINT
            p.fillRect(QRectF(bar.x(), bar.y(), bar.width() * share, bar.height()), theme.colour(token))

    @staticmethod
    def _place(player: PlayerReport) -> str:
        if player.steps:
            return "turned by hand"
        if player.pages:
            return f"next in {clock_digits(int(player.next_page_in))}" if player.running else "stands"
        length = f" of {clock_digits(int(player.length))}" if player.length else ""
        speed = "" if player.speed == 1.0 else f", ×{player.speed:g}"
        return f"{clock_digits(int(player.within))}{length}{speed}{'' if player.looping or player.counts else ', once'}"

    @staticmethod
    def _digits(player: PlayerReport) -> str:
        if player.steps:
            return f"{player.page}/{player.pages}"
        if player.left is None:
            return clock_digits(int(player.within))
        if player.pages:
            return f"{player.page}/{player.pages}"
        return f"−{clock_digits(int(player.left))}"

    def _paint_buttons(self, p: QPainter, box: QRectF, player: PlayerReport) -> None:
        """To the start, go on or stand, begin anew or once."""
        source, size = player.source, min(34.0, box.height())
        actions: list[tuple[str, Action]] = (
            [
                ("start", Page(source=source, to=1)),
                ("back", Previous(source=source)),
                ("go", Next(source=source)),
            ]
            if player.steps
            else [
                ("start", To(source=source, seconds=0.0)),
                ("stand" if player.running else "go", Pause(source=source) if player.running else Play(source=source)),
                ("loop" if player.looping else "once", Loop(source=source, on=not player.looping)),
            ]
        )
        for n, (sign, action) in enumerate(actions[:2] if player.counts and not player.steps else actions):
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
        elif sign == "back":
            p.drawPolygon(QPolygonF([r.topRight(), r.bottomRight(), QPointF(r.x(), r.center().y())]))
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

    def leaveEvent(self, event: QEvent) -> None:
        self._point(None)

    def _point(self, at: QPointF | None) -> None:
        """Take note of the bar that the pointer is on."""
        pointed = None
        for rect, player in self._bars if at is not None else ():
            if at is not None and rect.contains(at) and player.length > 0:
                pointed = rect, player, min(1.0, max(0.0, (at.x() - rect.x()) / rect.width()))
        if pointed != self.pointed:
            self.pointed = pointed
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._point(event.position())
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event.position(), select=False)

    def _scrub(self, at: QPointF, select: bool) -> None:
        for rect, player in self._bars:
            if rect.contains(at) and player.steps and player.pages:
                share = min(0.999, max(0.0, (at.x() - rect.x()) / rect.width()))
                self.acted.emit(Page(source=player.source, to=int(share * player.pages) + 1))
                return
            if rect.contains(at) and player.length > 0:
                share = min(1.0, max(0.0, (at.x() - rect.x()) / rect.width()))
                self.acted.emit(To(source=player.source, seconds=round(share * (player.length - 0.04), 3)))
                return
        if select:
            for rect, player in self._rows:
                if rect.contains(at):
                    self.selected.emit(player.source)
