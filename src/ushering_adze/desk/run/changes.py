"""What the next take changes, surface by surface: from which sources to which."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.desk import theme
from ushering_adze.desk.pictures import hatch
from ushering_adze.desk.session import Session

ROW = 40


class ChangeList(QWidget):
    """The delta as a list; those that stay are listed below it, so that nothing is forgotten."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._rows: list[tuple[QRectF, str]] = []
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("What the next take changes")
        self._told: object = None
        session.reported.connect(self._follow)
        session.show_changed.connect(self.update)
        session.selection_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(380, 300)

    def _follow(self) -> None:
        """Paint anew only when the words are others."""
        report = self._session.report
        told = (
            (report.delta, {id: shown.sources for id, shown in report.surfaces.items()}) if report is not None else None
        )
        if told != self._told:
            self._told = told
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        report = self._session.report
        changes = {c.surface: c for c in report.delta} if report else {}
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        rehearsed = report is not None and report.stage.rehearsal is not None
        theme.left(p, QRectF(12, 4, 200, 28), "Rehearsal, beside program" if rehearsed else "Next take")
        p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, QRectF(120, 4, self.width() - 132, 28), "changes first, then what stays")
        self._rows = []
        surfaces = sorted(self._session.show.surfaces, key=lambda s: s.id not in changes)
        room = self.height() - 40
        row = min(float(ROW), room / max(1, len(surfaces)))
        for n, surface in enumerate(surfaces):
            rect = QRectF(8, 34 + n * row, self.width() - 16, row - 2)
            self._rows.append((rect, surface.id))
            change = changes.get(surface.id)
            if change:
                p.fillRect(rect, theme.colour(theme.AMBER, 26))
                hatch(p, QRectF(rect.x(), rect.y(), 12, rect.height()), alpha=150, step=6)
            else:
                p.fillRect(QRectF(rect.x(), rect.y(), 12, rect.height()), theme.colour(theme.RAISED))
            if surface.id == self._session.surface:
                p.setPen(theme.hairline(theme.AMBER, 1.5))
                p.setBrush(theme.colour(theme.AMBER, 0))
                p.drawRect(rect)
            p.setFont(theme.font(13, bold=bool(change)))
            p.setPen(theme.colour(theme.TEXT if change else theme.DIM))
            theme.left(p, QRectF(rect.x() + 20, rect.y(), 92, rect.height()), surface.name)
            p.setFont(theme.font(12))
            x = rect.x() + 116
            if change:
                words = f"{_few(change.before)}  →  {_few(change.after)}"
            else:
                shown = report.surfaces.get(surface.id) if report else None
                words = f"stays: {_few(shown.sources)}" if shown else ""
            theme.left(p, QRectF(x, rect.y(), rect.right() - x - 6, rect.height()), words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for rect, surface in self._rows:
            if rect.contains(event.position()):
                self._session.select_surface(surface)


def _few(names: tuple[str, ...]) -> str:
    return " + ".join(names) if names else "black"
