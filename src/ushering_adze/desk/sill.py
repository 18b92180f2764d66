"""The sill: what every surface and stream truly shows now, from the frames sent, in every workspace."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QWidget

from ushering_adze.core.onair.actions import Black, Hold
from ushering_adze.core.show import Surface
from ushering_adze.desk import theme
from ushering_adze.desk.guarded import GuardedButton
from ushering_adze.desk.pictures import draw_fitted
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.session import Session

FOOT = 34.0
_LOUD = {
    "not sent": theme.RED_WORDS,
    "not heard": theme.AMBER,
    "card sent": theme.AMBER,
    "lost": theme.RED_WORDS,
    "black": theme.RED_WORDS,
    "held": theme.AMBER,
    "override": theme.AMBER,
    "rehearsal": theme.AMBER,
    "no region": theme.AMBER,
}


class SillTile(QWidget):
    """One surface or stream."""

    def __init__(self, session: Session, surface: Surface) -> None:
        super().__init__()
        self._session, self.surface = session, surface
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumWidth(72)
        self.setAccessibleName(f"{surface.name} now")
        self._drawn: NDArray[np.uint8] | None = None
        self._told: object = None
        session.reported.connect(self._follow)
        session.show_changed.connect(self.update)
        session.selection_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(140, 92)

    def _follow(self) -> None:
        """Paint anew what has changed: mostly the picture alone, and not even that where nothing moves."""
        report = self._session.report
        if report is None or not self.isVisible():
            return
        told, pixels = report.surfaces.get(self.surface.id), report.program.get(self.surface.id)
        if told != self._told:
            self.update()
        elif pixels is not self._drawn:
            self.update(self._picture().toAlignedRect().adjusted(-2, -2, 2, 2))
        self._told, self._drawn = told, pixels

    def _picture(self) -> QRectF:
        return QRectF(3, 6, self.width() - 6, self.height() - FOOT - 8)

    def words(self) -> str:
        """Sources as the tile says them."""
        report = self._session.report
        shown = report.surfaces.get(self.surface.id) if report else None
        return " + ".join(shown.sources) if shown and shown.sources else "nothing"

    def state(self) -> str:
        """State in a word."""
        report = self._session.report
        shown = report.surfaces.get(self.surface.id) if report else None
        if shown is None:
            return "waiting"
        sent = self._sent() if shown.state in ("live", "unbound") else None
        return shown.state if sent is None else sent

    def _sent(self) -> str | None:
        """What becomes of the surface where it is sent as a feed, in a word or two; None if it is not."""
        report, feeds = self._session.report, self._session.show.feeds
        mine = {f.id for f in feeds if f.shows == "surface" and f.of == self.surface.id}
        for told in report.feeds if report is not None else ():
            if told.feed in mine and told.on:
                if told.why is not None:
                    return "not sent"
                if told.withheld is not None:
                    return "card sent"
                if told.heard is not None:
                    return "arrives" if told.arrives else "not heard"
                return "recording" if told.path is not None else "sent"
        return None

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        report = self._session.report
        rect = QRectF(self.rect())
        p.fillRect(rect, theme.colour(theme.WELL))
        state = self.state()
        pixels = report.program.get(self.surface.id) if report else None
        where = draw_fitted(p, self._picture(), pixels)
        p.setPen(theme.hairline(theme.LINE))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(where)
        selected = self.surface.id in self._session.surfaces
        p.setPen(theme.hairline(theme.AMBER if selected else theme.LINE, 2 if selected else 1))
        p.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
        if state not in ("no region", "black", "waiting"):
            theme.program_bar(p, QRectF(0, 0, rect.width(), 3))
        if event.rect().bottom() < rect.height() - FOOT:
            return
        stripe = theme.LINE
        if report and self.surface.id in report.surfaces and report.surfaces[self.surface.id].source_ids:
            first = report.surfaces[self.surface.id].source_ids[0]
            stripe = next((s.colour for s in self._session.show.sources if s.id == first), stripe)
        p.fillRect(QRectF(1, rect.height() - FOOT, 4, FOOT - 1), theme.colour(stripe))
        p.setFont(theme.font(12, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        word = "" if state == "live" else state
        width = p.fontMetrics().horizontalAdvance(word) + 8 if word else 0
        theme.left(p, QRectF(10, rect.height() - FOOT + 1, rect.width() - 14 - width, 16), self.surface.name)
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM))
        theme.left(p, QRectF(10, rect.height() - FOOT + 16, rect.width() - 14, 16), self.words())
        if word:
            p.setFont(theme.font(11, bold=word in _LOUD))
            p.setPen(theme.colour(_LOUD.get(word, theme.DIM)))
            theme.right(p, QRectF(0, rect.height() - FOOT + 1, rect.width() - 5, 16), word)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._session.choose_surface(self.surface.id, one_more(event))


class Sill(QWidget):
    """The strip at the foot of the window."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(theme.SILL)
        self._tiles = QHBoxLayout()
        self._tiles.setSpacing(4)
        self.tiles: list[SillTile] = []
        self.hold = GuardedButton("Hold all", theme.AMBER)
        self.black = GuardedButton("Black all", theme.RED)
        self._count = QLabel()
        self._count.setProperty("role", "dim")
        self._hint = QLabel("keep pressed 0.6 s")
        self._hint.setProperty("role", "dim")
        right = QGridLayout()
        right.setSpacing(4)
        right.addWidget(self.hold, 0, 0)
        right.addWidget(self.black, 0, 1)
        right.addWidget(self._hint, 1, 0, 1, 2)
        right.addWidget(self._count, 2, 0, 1, 2)
        box = QHBoxLayout(self)
        box.setContentsMargins(theme.GAP, 6, theme.GAP, 8)
        box.setSpacing(theme.GAP)
        box.addLayout(self._tiles, 1)
        box.addLayout(right)
        self.hold.switched.connect(lambda on: session.playout.act(Hold(on=on)))
        self.black.switched.connect(lambda on: session.playout.act(Black(on=on)))
        session.show_changed.connect(self._fill)
        session.reported.connect(self._report)
        self._fill()

    def _fill(self) -> None:
        surfaces = self._session.show.surfaces
        if [t.surface for t in self.tiles] == list(surfaces):
            return
        for tile in self.tiles:
            tile.hide()
            tile.deleteLater()
        self.tiles = [SillTile(self._session, s) for s in surfaces]
        for tile in self.tiles:
            self._tiles.addWidget(tile, 1)

    def _report(self) -> None:
        report = self._session.report
        if report is None:
            return
        if not self.hold.pressed:
            self.hold.set_on(report.held)
        if not self.black.pressed:
            self.black.set_on(report.black)
        outputs = self._session.show.outputs
        bound = sum(1 for o in outputs if o.binding is not None)
        self._count.setText(f"{len(outputs)} output{'s' * (len(outputs) != 1)} · {len(outputs) - bound} unbound")
        over, tried = len(report.stage.overrides), report.stage.rehearsal
        words = [f"{over} overridden"] if over else []
        words += ["REHEARSAL"] if tried is not None else []
        self._hint.setText(" · ".join(words) or "keep pressed 0.6 s")
        self._hint.setStyleSheet(f"color: {theme.AMBER}; font-weight: bold;" if words else "")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.GROUND))
        p.setPen(theme.hairline())
        p.drawLine(0, 0, self.width(), 0)
