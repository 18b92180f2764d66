"""The plan: what every surface will show after each cue of a list, in pictures; bright where it changes."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QStackedWidget, QToolTip, QVBoxLayout, QWidget

from ushering_adze.core.onair.actions import Planner
from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.onair.oddities import oddities
from ushering_adze.core.onair.planning import Cell, Plan
from ushering_adze.core.onair.timeline import preview_of, timeline_of
from ushering_adze.core.show.cue import Cue, CueList, number_words
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import draw_fitted
from ushering_adze.desk.run.timeline import TimelineView
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

HEAD, LEFT, LOW = 58, 116, 62
"""Pixels of the heading, of the column of surfaces, and the least of a row."""
NARROW, WIDE = 84.0, 260.0
"""Pixels of a column, at least and at most."""
DIMMED = 150
"""How dark what stays is covered, of 255."""
ACROSS = "bright changes, dim stays · a click opens it in Build, blind; a click on a cue shows it alone"
ALONG = "drag along time: preview shows what would be on; the list and program stay"


class PlanGrid(QWidget):
    """Surfaces down, cues across.

    Signals
    -------
    opened : a cell was clicked: its cue and its surface
    """

    opened = Signal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.plan = Plan((), {})
        self.odd: dict[tuple[str, int], tuple[str, ...]] = {}
        self.one: int | None = None
        """The cue that is shown alone, by its place."""
        self.list: str | None = None
        self.wide = 127.0
        self.setMouseTracking(True)
        self.setAccessibleName("The plan")

    def sizeHint(self) -> QSize:
        return QSize(round(LEFT + self.wide * len(self.shown)) + 2, HEAD + LOW * len(self.plan.cells) + 2)

    def hold(self, list: str | None, plan: Plan) -> None:
        """Show the plan of a list."""
        self.list, self.plan = list, plan
        if self.one is not None and self.one >= len(plan.cues):
            self.one = None
        self.setMinimumSize(self.sizeHint())
        self.update()

    def mark(self, odd: dict[tuple[str, int], tuple[str, ...]]) -> None:
        """Mark what is odd."""
        if odd != self.odd:
            self.odd = odd
            self.update()

    def show_one(self, n: int | None) -> None:
        """Show one cue alone, as large as can be; all of them if that is None."""
        self.one = n
        self.hold(self.list, self.plan)

    @property
    def shown(self) -> range:
        """The places of the cues that are shown."""
        return range(len(self.plan.cues)) if self.one is None else range(self.one, self.one + 1)

    @property
    def _wide(self) -> float:
        """Pixels of a column: all the room there is is used, as far as pictures are large enough for it."""
        room = (self.width() - LEFT - 2) / max(1, len(self.shown))
        return max(self.wide, room if self.one is not None else min(WIDE, room))

    def zoom(self, factor: float, at_least: float = NARROW) -> None:
        """Columns wider or narrower."""
        self.wide = min(WIDE, max(at_least, self.wide * factor))
        self.hold(self.list, self.plan)

    @property
    def row_high(self) -> float:
        """Pixels of a row: all the room there is is used."""
        rows = len(self.plan.cells)
        return max(float(LOW), (self.height() - HEAD - 2) / rows) if rows else float(LOW)

    def box(self, row: int, column: int) -> QRectF:
        """Where a cell lies."""
        return QRectF(
            LEFT + (column - self.shown.start) * self._wide, HEAD + row * self.row_high, self._wide, self.row_high
        )

    def cell_at(self, at: QPointF) -> tuple[Cue, str, Cell] | None:
        """The cue, the surface and the cell at a place."""
        row, column = int((at.y() - HEAD) // self.row_high), self.column_at(at)
        surfaces = [*self.plan.cells]
        if at.y() < HEAD or row >= len(surfaces) or column is None:
            return None
        return self.plan.cues[column], surfaces[row], self.plan.cells[surfaces[row]][column]

    def column_at(self, at: QPointF) -> int | None:
        """The place of the cue whose column is at a place."""
        if at.x() < LEFT:
            return None
        column = self.shown.start + int((at.x() - LEFT) // self._wide)
        return column if column in self.shown else None

    def words(self, surface: str, cell: Cell) -> str:
        """A cell in a sentence."""
        name = self._session.show.surface(surface).name
        beside = f" ({cell.state})" if cell.state in ("held", "kept", "override") else ""
        if cell.changed:
            return f"{name} changes to {cell.words}{beside}"
        return f"{name} stays: {cell.words}{beside}, the same for {cell.since} cue{'s' if cell.since > 1 else ''}"

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        if not self.plan.cues:
            p.setFont(theme.font(15))
            p.setPen(theme.colour(theme.DIM))
            theme.centred(p, QRectF(self.rect()), "No cues yet: make some under Cues (C), in the rooms")
            return
        show, report = self._session.show, self._session.report
        stage = self._session.playout.stage
        known = self.list is not None and any(y.id == self.list for y in stage.show.lists)
        head = head_of(stage, self.list) if known and self.list is not None else None
        wide = self._wide
        for column in self.shown:
            cue = self.plan.cues[column]
            top = QRectF(LEFT + (column - self.shown.start) * wide, 0, wide, self.height())
            if head is not None and cue.id == head.fired:
                p.fillRect(top, theme.colour(theme.RED, 22))
                theme.program_bar(p, QRectF(top.x() + 1, 0, wide - 2, 3))
            elif head is not None and cue.id == head.armed:
                p.fillRect(top, theme.colour(theme.GREEN, 22))
                theme.preview_bar(p, QRectF(top.x() + 1, 0, wide - 2, 3))
            p.setPen(theme.hairline())
            p.drawLine(top.topLeft(), top.bottomLeft())
            number = number_words(cue.number)
            p.setFont(theme.font(15, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(top.x() + 8, 7, wide - 14, 22), number)
            beside = p.fontMetrics().horizontalAdvance(number) + 10
            p.setFont(theme.font(12, bold=True))
            theme.left(p, QRectF(top.x() + 8 + beside, 8, wide - beside - 14, 22), cue.name)
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(top.x() + 8, 32, wide - 14, 18), cue.start or "")
            said = "" if head is None else "on air" if cue.id == head.fired else "armed" if cue.id == head.armed else ""
            p.setPen(theme.colour(theme.RED_WORDS if said == "on air" else theme.GREEN))
            theme.right(p, QRectF(top.x() + 8, 32, wide - 16, 18), said)
        for row, (surface, cells) in enumerate(self.plan.cells.items()):
            line = HEAD + row * self.row_high
            p.setPen(theme.hairline())
            p.drawLine(QPointF(0, line), QPointF(self.width(), line))
            p.setFont(theme.font(13, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(10, line, LEFT - 16, self.row_high), show.surface(surface).name)
            for column in self.shown:
                cell = cells[column]
                pictures = report.plan.get(self.plan.cues[column].id) if report is not None else None
                self._paint_cell(p, self.box(row, column), cell, None if pictures is None else pictures.get(surface))
                if (surface, column) in self.odd:
                    self._paint_odd(p, self.box(row, column))

    def _paint_cell(self, p: QPainter, box: QRectF, cell: Cell, pixels: object) -> None:
        inner = box.adjusted(7, 5, -7, -18)
        dark = cell.state in ("black", "no region")
        if not dark and pixels is not None:
            where = draw_fitted(p, inner, pixels)  # type: ignore[arg-type]
            if not cell.changed:
                p.fillRect(where, theme.colour(theme.WELL, DIMMED))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.AMBER if cell.changed else theme.LINE, 1.6 if cell.changed else 1.0))
            p.drawRect(where)
        p.setFont(theme.font(11, bold=cell.changed))
        p.setPen(theme.colour(theme.TEXT if cell.changed else theme.FAINT))
        words = cell.words if not dark or cell.state == "black" else "no region"
        theme.left(p, QRectF(box.x() + 8, box.bottom() - 18, box.width() - 12, 16), words)

    def _paint_odd(self, p: QPainter, box: QRectF) -> None:
        """A mark in the corner of a cell in which something is odd."""
        sign = QRectF(box.right() - 24, box.y() + 7, 16, 16)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour(theme.AMBER))
        p.drawPolygon(QPolygonF([QPointF(sign.center().x(), sign.y()), sign.bottomRight(), sign.bottomLeft()]))
        p.setFont(theme.font(11, bold=True))
        p.setPen(theme.colour(theme.WELL))
        theme.centred(p, sign.adjusted(0, 3, 0, 1), "!")
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self.cell_at(event.position())
        if found is not None:
            odd = self.odd.get((found[1], self.plan.cues.index(found[0])), ())
            words = f"{number_words(found[0].number)} {found[0].name}\n{self.words(found[1], found[2])}"
            words += "".join(f"\n{each}" for each in odd)
            QToolTip.showText(event.globalPosition().toPoint(), words, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found, column = self.cell_at(event.position()), self.column_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if found is not None:
            self.opened.emit(found[0].id, found[1])
        elif column is not None and event.position().y() < HEAD:
            self.show_one(column if self.one is None else None)


class PlanPage(QWidget):
    """The plan of one list, and what leads back from it.

    Signals
    -------
    left : somebody wants the rooms again
    opened : a cell was clicked: the number of its cue's preset, and the surface
    """

    left = Signal()
    opened = Signal(int, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cues: CueList | None = None
        self._told: object = None
        self._of: tuple[object, ...] = ()
        self.grid = PlanGrid(session)
        self.head = QLabel()
        self.head.setProperty("role", "head")
        self.time = TimelineView(session)
        self.stack = QStackedWidget()
        for widget in (self.grid, self.time):
            scroll = QScrollArea()
            scroll.setWidgetResizable(True)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            scroll.setFrameShape(QFrame.Shape.NoFrame)
            scroll.setWidget(widget)
            self.stack.addWidget(scroll)
        self.along = tool_button("Along time", self._turn, "Bars along time in place of the cues' pictures", True)
        self._planner = Planner()
        self._scrubbed_to: str | None = None
        self.hint = hint = QLabel(ACROSS)
        hint.setProperty("role", "dim")
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(tool_button("Rooms", self.left.emit, "Program and preview again  (Shift+P)"))
        line.addSpacing(8)
        line.addWidget(self.head)
        line.addStretch(1)
        line.addWidget(hint)
        line.addWidget(self.along)
        line.addWidget(tool_button("−", lambda: self._zoom(1 / 1.25), "Narrower"))
        line.addWidget(tool_button("+", lambda: self._zoom(1.25), "Wider"))
        box = QVBoxLayout(self)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.setSpacing(6)
        box.addLayout(line)
        box.addWidget(self.stack, 1)
        self.time.scrubbed.connect(self._scrubbed)
        self.grid.opened.connect(self._opened)
        session.show_changed.connect(self.refresh)
        session.reported.connect(self._follow)

    def _zoom(self, factor: float) -> None:
        (self.time if self.along.isChecked() else self.grid).zoom(factor)

    def _turn(self) -> None:
        """The timeline in place of the cues, or the other way round."""
        self.stack.setCurrentIndex(1 if self.along.isChecked() else 0)
        self.hint.setText(ALONG if self.along.isChecked() else ACROSS)
        self._draw_time()

    def _draw_time(self) -> None:
        report = self._session.report
        if self.along.isChecked() and self.grid.list is not None and report is not None:
            lengths = {p.source: p.length for p in report.players if not p.steps}
            self.time.hold(self.grid.list, timeline_of(self._session.show, self.grid.plan, lengths))

    def _scrubbed(self, seconds: float) -> None:
        """What would be on at that moment, on preview; the list stays as it is."""
        cue, cues = self.time.line.at(seconds), self._cues
        if cue is None or cues is None or cue.id == self._scrubbed_to:
            return
        self._scrubbed_to = cue.id
        stages = self._planner.stages
        stage = self._session.playout.stage
        wanted = stages[[c.id for c in cues.ordered].index(cue.id)].program.target
        self._session.playout.act(preview_of(stage, wanted, cue.preset))

    def hold(self, cues: CueList | None) -> None:
        """Show the plan of a list."""
        self._cues = cues
        self.refresh()

    def refresh(self) -> None:
        """Work the plan out anew, if anything that it is made of is another."""
        show = self._session.show
        cues = next((y for y in show.lists if self._cues is not None and y.id == self._cues.id), None)
        if not self.isVisible():
            return
        of = (cues, show.presets, show.canvases, show.surfaces, show.outputs, show.zones, show.sources)
        if len(of) == len(self._of) and all(a is b for a, b in zip(of, self._of, strict=True)):
            return
        self._of, self._cues = of, cues
        if cues is None:
            self.head.setText("The plan")
            self.grid.hold(None, Plan((), {}))
            return
        self._session.playout.plan(cues.id)
        self.head.setText(f"{cues.name}   {len(cues.ordered)} cues")
        self._scrubbed_to = None
        self.grid.hold(cues.id, self._planner.plan(show, cues.id))
        self._mark()
        self._draw_time()

    def _mark(self) -> None:
        """What is odd in it, by what is lost now."""
        report = self._session.report
        lost, replaced = set[str](), set[str]()
        if report is not None:
            sources = {s.id for s in self._session.show.sources}
            lost = {id for id in report.faults if id in sources}
            replaced = {id for id in report.standing_in if id in sources}
        if self.grid.list is not None:
            self.grid.mark(oddities(self._session.show, self.grid.plan, lost - replaced, replaced))

    def _follow(self) -> None:
        report = self._session.report
        if report is None or not self.isVisible():
            return
        told = (tuple(id(p) for p in report.plan.values()), report.stage.heads, report.faults, report.standing_in)
        if told != self._told:
            self._told = told
            self._mark()
            self.grid.update()
            self._draw_time()
        if self.along.isChecked():
            self.time.update()

    def _opened(self, cue: str, surface: str) -> None:
        found = self._cues.cue(cue) if self._cues is not None else None
        if found is not None and found.preset is not None:
            self.opened.emit(found.preset, surface)

    def showEvent(self, event: QEvent) -> None:
        self._of = ()
        self.refresh()

    def hideEvent(self, event: QEvent) -> None:
        self._session.playout.plan(None)
