"""The lists beside the drawings: regions with a search, and what the pixel check found with its cures."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.proof import Finding, pixel_check
from ushering_adze.core.show import Canvas, Region
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.raster_view import region_colour
from ushering_adze.desk.session import Session

ROW = 44
HEADING = 66
WORDS = {"error": theme.RED_WORDS, "warning": theme.AMBER, "note": theme.MOSS}


class RegionList(QWidget):
    """Every region of the show, by canvas; the field above finds by name, size, output or group."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._top = 0
        self._anchor: str | None = None
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Regions")
        self.finder = QLineEdit(self)
        self.finder.setPlaceholderText("find by name, output, group")
        self.finder.setAccessibleName("Find a region")
        self.finder.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.finder.textChanged.connect(self._searched)
        self.finder.returnPressed.connect(self._select_found)
        self._painted: object = None
        session.show_changed.connect(self._edited)
        session.selection_changed.connect(self.update)

    def _edited(self) -> None:
        """Paint anew only when something on view is another: a drag mostly moves one region of many."""
        if self.isVisible() and self._face() != self._painted:
            self.update()

    def _face(self) -> object:
        shown, first = self.shown(), max(0, self._top // ROW)
        rows = shown[first : first + self.height() // ROW + 2]
        return len(shown), [r for _, r in rows], [self._session.show.output(r.output).number for _, r in rows]

    def sizeHint(self) -> QSize:
        return QSize(290, 300)

    def resizeEvent(self, event: object) -> None:
        self.finder.setGeometry(8, 30, self.width() - 16, 30)

    def shown(self) -> list[tuple[Canvas, Region]]:
        """The regions listed: all, or those that hold every word that is searched for."""
        words = self.finder.text().casefold().split()
        show = self._session.show
        if not words:
            return list(show.homes.values())
        names = {o.id: f"out {o.number} {o.name}" for o in show.outputs}
        return [
            (c, r)
            for c, r in show.regions()
            if all(
                w in f"{r.name} {c.name} {names[r.output]} {r.group} {r.w}×{r.h} {r.w}x{r.h}".casefold() for w in words
            )
        ]

    def _searched(self) -> None:
        self._top = 0
        self.update()

    def _select_found(self) -> None:
        self._session.select_regions([r.id for _, r in self.shown()])
        self.window().setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        shown = self.shown()
        self._painted = self._face()
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.left(p, QRectF(12, 2, 90, 26), "Regions")
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        many = len(self._session.regions)
        theme.left(p, QRectF(78, 2, 140, 26), str(len(shown)) + (f", {many} selected" if many > 1 else ""))
        p.setClipRect(QRectF(1, HEADING, self.width() - 2, self.height() - HEADING - 2))
        chosen = set(self._session.regions)
        first = max(0, self._top // ROW)
        for n in range(first, min(len(shown), first + self.height() // ROW + 2)):
            _, region = shown[n]
            rect = QRectF(1, HEADING + n * ROW - self._top, self.width() - 2, ROW - 1)
            mine = region.id in chosen
            if mine:
                p.fillRect(rect, theme.colour(theme.RAISED))
            p.fillRect(
                QRectF(1, rect.y(), 4, rect.height()),
                theme.colour(theme.AMBER if mine else region_colour(self._session, region)),
            )
            p.setFont(theme.font(13, bold=mine))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(14, rect.y() + 4, rect.width() - 80, 18), region.name)
            output = self._session.show.output(region.output)
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(0, rect.y() + 4, rect.width() - 10, 18), f"out {output.number}")
            theme.left(
                p,
                QRectF(14, rect.y() + 22, rect.width() - 24, 18),
                f"{region.w}×{region.h}+{region.x}+{region.y}" + (f"  {region.group}" if region.group else ""),
            )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.window().setFocus()
        n = int((event.position().y() - HEADING + self._top) // ROW)
        ids = [r.id for _, r in self.shown()]
        if event.position().y() <= HEADING or not 0 <= n < len(ids):
            return
        now = self._session.regions
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._anchor in ids:
            a, b = sorted((ids.index(self._anchor), n))
            self._session.select_regions([*ids[a : b + 1]])
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._session.select_regions([r for r in now if r != ids[n]] if ids[n] in now else [*now, ids[n]])
            self._anchor = ids[n]
        else:
            self._session.select_region(ids[n])
            self._anchor = ids[n]

    def wheelEvent(self, event: QWheelEvent) -> None:
        most = max(0, len(self.shown()) * ROW + HEADING + 8 - self.height())
        self._top = min(most, max(0, self._top - event.angleDelta().y() // 3))
        self.update()


class FindingRow(QWidget):
    """One finding: its words; a click looks at its place, the buttons cure it."""

    def __init__(self, session: Session, finding: Finding) -> None:
        super().__init__()
        self._session, self.finding = session, finding
        grave = QLabel(finding.severity)
        grave.setStyleSheet(f"color: {WORDS[finding.severity]}; font-size: 12px; font-weight: bold;")
        words = QLabel(finding.message)
        words.setWordWrap(True)
        words.setStyleSheet("font-size: 12px;")
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 6, 8, 6)
        box.setSpacing(2)
        box.addWidget(grave)
        box.addWidget(words)
        self.cures: list[QPushButton] = []
        for cure in finding.cures[:3]:
            button = QPushButton(cure.words)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setStyleSheet("font-size: 12px; padding: 1px 8px; min-height: 18px; text-align: left;")
            button.clicked.connect(lambda checked=False, k=len(self.cures): self._cure(k))
            self.cures.append(button)
            line = QHBoxLayout()
            line.addWidget(button)
            line.addStretch(1)
            box.addLayout(line)
            button.setToolTip(cure.words)
        box.addStretch(1)

    def hold(self, finding: Finding) -> None:
        """Show another finding."""
        self.finding = finding
        self.update()

    def _cure(self, k: int) -> None:
        """The cure as the last check has it: the show may have changed since the row was made."""
        cure = self.finding.cures[k]
        self._session.try_edit(cure.words, cure.edit)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._session.look_at(self.finding)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        looked_at = self._session.finding is not None and self._session.finding == self.finding
        if looked_at:
            p.fillRect(self.rect(), theme.colour(theme.RAISED))
        p.fillRect(
            QRectF(0, 0, 3, self.height()), theme.colour(theme.AMBER if looked_at else WORDS[self.finding.severity])
        )
        p.setPen(theme.hairline())
        p.drawLine(0, self.height() - 1, self.width(), self.height() - 1)


class CheckPanel(QWidget):
    """The pixel check: runs a moment after every edit, and lists what it found with its cures."""

    MOST = 60
    WAIT_MS = 120

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.head = QLabel()
        self.head.setTextFormat(Qt.TextFormat.RichText)
        self.rows: list[FindingRow] = []
        self._body = QWidget()
        self._list = QVBoxLayout(self._body)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self._body)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._body.setObjectName("panel")
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 6, 4, 4)
        box.addWidget(self.head)
        box.addWidget(area, 1)
        self._shown: list[Finding] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.check)
        session.show_changed.connect(self._soon)
        session.checked.connect(self._fill)
        self.check()

    def _soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start(self.WAIT_MS)

    def check(self) -> None:
        """Check the show as it is now; while a button is kept pressed, the drag comes first."""
        if QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._timer.start(self.WAIT_MS)
            return
        self._session.found(pixel_check(self._session.show))

    def _fill(self) -> None:
        found = self._session.findings
        counts = {s: sum(f.severity == s for f in found) for s in WORDS}
        parts = [
            f'<span style="color:{WORDS[s]}">{n} {s}{"s" if n != 1 else ""}</span>' for s, n in counts.items() if n
        ]
        self.head.setText(f"<b>Pixel check</b> &nbsp; {' · '.join(parts) or 'nothing found: every pixel lands once'}")
        shown = found[: self.MOST]
        if [(f.rule, f.message, f.where) for f in shown] == [(f.rule, f.message, f.where) for f in self._shown]:
            for row, finding in zip(self.rows, shown, strict=True):
                row.hold(finding)
            return
        self._shown = shown
        for row in self.rows:
            self._list.removeWidget(row)
            row.deleteLater()
        self.rows = [FindingRow(self._session, f) for f in shown]
        for n, row in enumerate(self.rows):
            self._list.insertWidget(n, row)
        self._size_rows()

    def resizeEvent(self, event: object) -> None:
        self._size_rows()

    def _size_rows(self) -> None:
        """Each row as high as its words need at the present width."""
        width = max(120, self.width() - 26)
        for row in self.rows:
            for button in row.cures:
                button.setMaximumWidth(width - 24)
            row.setFixedWidth(width)
            row.setFixedHeight(max(row.heightForWidth(width), 40))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
