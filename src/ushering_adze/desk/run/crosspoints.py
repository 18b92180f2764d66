"""Crosspoints: sources down, surfaces across; a click puts a source on a surface, on preview or at once."""

from __future__ import annotations

from functools import partial
from itertools import cycle

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QMenu, QScrollArea, QVBoxLayout, QWidget

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.onair.actions import Recall, Route
from ushering_adze.core.onair.routing import layer_for, routings, with_routing
from ushering_adze.core.picture.layers import State
from ushering_adze.core.show import Show, Source
from ushering_adze.core.show.shelved import matching
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

HEAD, ROW, LEFT, ACROSS = 78, 26, 118, 28
"""Pixels of the heading, of a row, of the names of sources, and of a column at least."""
NOTHING = ""
"""The row that takes away what is there."""


def routed_now(show: Show, state: State) -> dict[str, str | None]:
    """The source that lies in the layer of each surface that routes go to."""
    found: dict[str, str | None] = {}
    for surface in show.surfaces:
        on = layer_for(show, surface.id, state)
        at = None if on is None else state.get((on.canvas, on.layer))
        if at is not None and on is not None:
            found[surface.id] = by_share(at.picture)[0].source if at.opacity > 0 else None
    return found


class Points(QWidget):
    """The field of crosspoints.

    Signals
    -------
    routed : a source, or nothing, was put on a surface, and whether at once
    asked : a heading or a source was right-clicked: its id, whether it is a source, and where on the screen
    """

    routed = Signal(str, str, bool)
    asked = Signal(str, bool, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.sources: list[tuple[str, str, str]] = []
        self.locked: set[str] = set()
        self.program: dict[str, tuple[str, ...]] = {}
        self.preview: dict[str, str | None] = {}
        self.there: frozenset[str] = frozenset()
        """Surfaces that a source can be put on."""
        self._over: tuple[int, int] = (-1, -1)
        self.setMouseTracking(True)
        self.setAccessibleName("Crosspoints")

    def sizeHint(self) -> QSize:
        return QSize(LEFT + ACROSS * len(self._session.show.surfaces) + 4, HEAD + ROW * len(self.sources) + 2)

    def list(self, sources: list[Source]) -> None:
        """Show these sources."""
        self.sources = [(NOTHING, "nothing", theme.FAINT), *((s.id, s.name, s.colour) for s in sources)]
        self.setMinimumSize(self.sizeHint())
        self.update()

    def hold(self, program: dict[str, tuple[str, ...]], preview: dict[str, str | None], there: frozenset[str]) -> None:
        """Show what is on the surfaces, and what would be."""
        if (program, preview, there) != (self.program, self.preview, self.there):
            self.program, self.preview, self.there = program, preview, there
            self.update()

    @property
    def across(self) -> float:
        """Pixels of a column: all the room there is is used."""
        return min(64.0, max(float(ACROSS), (self.width() - LEFT - 44) / max(1, len(self._session.show.surfaces))))

    def box(self, row: int, column: int) -> QRectF:
        """Where a crosspoint lies."""
        return QRectF(LEFT + column * self.across, HEAD + row * ROW, self.across, ROW)

    def at(self, at: QPointF) -> tuple[int, int]:
        """Row and column at a place; −1 for a heading, −2 outside."""
        row = int((at.y() - HEAD) // ROW) if at.y() >= HEAD else -1
        column = int((at.x() - LEFT) // self.across) if at.x() >= LEFT else -1
        return (
            row if row < len(self.sources) else -2,
            column if column < len(self._session.show.surfaces) else -2,
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        surfaces = self._session.show.surfaces
        over_row, over_column = self._over
        for column, surface in enumerate(surfaces):
            if column == over_column:
                p.fillRect(
                    QRectF(LEFT + column * self.across, 0, self.across, self.height()), theme.colour(theme.RAISED)
                )
            p.save()
            p.translate(LEFT + (column + 0.5) * self.across + 4, HEAD - 6)
            p.rotate(-52)
            p.setFont(theme.font(12, bold=surface.id in self.locked))
            p.setPen(theme.colour(theme.AMBER if surface.id in self.locked else theme.TEXT))
            words = f"× {surface.name}" if surface.id in self.locked else surface.name
            theme.left(p, QRectF(0, -9, 88, 18), words)
            p.restore()
        for row, (id, name, colour) in enumerate(self.sources):
            line = QRectF(0, HEAD + row * ROW, self.width(), ROW)
            if row == over_row:
                p.fillRect(line, theme.colour(theme.RAISED))
            p.setPen(theme.hairline())
            p.drawLine(line.topLeft(), line.topRight())
            p.fillRect(QRectF(2, line.y() + 4, 4, ROW - 8), theme.colour(colour))
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.TEXT if id else theme.DIM))
            theme.left(p, QRectF(12, line.y(), LEFT - 16, ROW), name)
            for column, surface in enumerate(surfaces):
                self._paint_point(p, self.box(row, column), id, surface.id)

    def _paint_point(self, p: QPainter, box: QRectF, source: str, surface: str) -> None:
        middle = box.center()
        if surface not in self.there:
            p.setPen(theme.hairline(theme.LINE))
            p.drawLine(QPointF(middle.x() - 4, middle.y()), QPointF(middle.x() + 4, middle.y()))
            return
        shown = self.program.get(surface, ())
        on = source in shown if source else not shown
        coming = (self.preview.get(surface) or NOTHING) == source
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour(theme.RED if on else theme.LINE))
        p.drawEllipse(middle, 7.0 if on else 2.0, 7.0 if on else 2.0)
        if coming and not on:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.GREEN, 2.0, dashed=True))
            p.drawEllipse(middle, 9.0, 9.0)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self.at(event.position())
        if over != self._over:
            self._over = over
            self.update()
            row, column = over
            if row >= 0 and column >= 0:
                source, surface = self.sources[row][1], self._session.show.surfaces[column]
                self.setToolTip(f"{source} on {surface.name}: a click for preview, Ctrl or twice at once")

    def leaveEvent(self, event: object) -> None:
        self._over = (-1, -1)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row, column = self.at(event.position())
        surfaces = self._session.show.surfaces
        if event.button() == Qt.MouseButton.RightButton:
            if row == -1 and column >= 0:
                self.asked.emit(surfaces[column].id, False, event.globalPosition().toPoint())
            elif row >= 0 and column == -1:
                self.asked.emit(self.sources[row][0], True, event.globalPosition().toPoint())
        elif row >= 0 and column >= 0:
            at_once = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.routed.emit(self.sources[row][0], surfaces[column].id, at_once)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row, column = self.at(event.position())
        if row >= 0 and column >= 0 and event.button() == Qt.MouseButton.LeftButton:
            self.routed.emit(self.sources[row][0], self._session.show.surfaces[column].id, True)


class CrosspointPanel(QWidget):
    """The field, and what finds a source in it.

    Signals
    -------
    told : a sentence for whoever is at the desk
    """

    told = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._held: object = None
        self._preview: dict[str, str | None] = {}
        self.points = Points(session)
        self.finder = QLineEdit()
        self.finder.setPlaceholderText("Find a source")
        self.finder.setClearButtonEnabled(True)
        hint = QLabel("click: preview · Ctrl, twice: at once")
        hint.setToolTip("A right click on a source or a surface has more")
        hint.setProperty("role", "dim")
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(self.points)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        box.setSpacing(6)
        box.addWidget(self.finder)
        box.addWidget(scroll, 1)
        store = tool_button("Store", self.store, "What lies on every surface as a preset, and nothing else")
        self.recalled = tool_button("Recall", None, "A routing that was stored, at once")
        menu = QMenu(self)
        menu.aboutToShow.connect(lambda: self._fill_routings(menu))
        self.recalled.setMenu(menu)
        foot = QHBoxLayout()
        foot.setSpacing(4)
        foot.addWidget(hint, 1)
        foot.addWidget(store)
        foot.addWidget(self.recalled)
        box.addLayout(foot)
        self.finder.textChanged.connect(lambda text: self.fill())
        self.points.routed.connect(self.route)
        self.points.asked.connect(self._menu)
        session.show_changed.connect(self.fill)
        session.reported.connect(self.follow)
        self.fill()

    def fill(self) -> None:
        """List the sources that are found."""
        self.points.list([*matching(self._session.show, self.finder.text())])
        self.points.locked &= {s.id for s in self._session.show.surfaces}

    def follow(self) -> None:
        """Show what is on the surfaces."""
        report = self._session.report
        if report is None or not self.isVisible():
            return
        stage = report.stage
        if stage.show is not self._session.show:
            return
        held = (stage.program, stage.staged, stage.edits, stage.show)
        program = {id: tuple(s.source_ids) for id, s in report.surfaces.items()}
        if held != self._held:
            self._held = held
            self._preview = routed_now(stage.show, stage.preview())
        self.points.hold(program, self._preview, frozenset(self._preview))

    def showEvent(self, event: object) -> None:
        self._held = None
        self.follow()

    def route(self, source: str, surface: str, at_once: bool) -> None:
        """Put a source on a surface; nothing, if it is empty."""
        if surface in self.points.locked:
            name = self._session.show.surface(surface).name
            self.told.emit(f"{name} is locked here; a right click on its name unlocks it.")
            return
        on = "program" if at_once else "preview"
        self._session.playout.act(Route(surface=surface, source=source or None, on=on))

    def to_all(self, source: str) -> None:
        """Put a source on every surface that is not locked, on preview."""
        for surface in self._open():
            self.route(source, surface, False)

    def to_each(self, source: str) -> None:
        """Put this source on the first surface that is not locked, the one below it on the next, and so on."""
        ids = [id for id, _, _ in self.points.sources if id]
        turned = ids[ids.index(source) :] + ids[: ids.index(source)]
        for id, surface in zip(cycle(turned), self._open(), strict=False):
            self.route(id, surface, False)

    def swap(self, one: str, other: str) -> None:
        """Have two surfaces show each what the other would, on preview."""
        preview = dict(self.points.preview)
        self.route(preview.get(other) or NOTHING, one, False)
        self.route(preview.get(one) or NOTHING, other, False)

    def store(self) -> None:
        """Store what is on preview, or on program if nothing is, as a preset that routes and does nothing else."""
        stage, made = self._session.playout.stage, list[int]()
        state = stage.preview() if stage.previewing else stage.program.target

        def edit(show: Show) -> Show:
            show, number = with_routing(show, state)
            made.append(number)
            return show

        if self._session.try_edit("Store routing", edit):
            name = self._session.show.preset(made[-1])
            self.told.emit(f"Preset {made[-1]}, {name.name if name else ''}, holds what lies on every surface.")

    def _fill_routings(self, menu: QMenu) -> None:
        menu.clear()
        found = routings(self._session.show)
        for preset in found:
            entry = menu.addAction(f"{preset.number}  {preset.name}")
            entry.triggered.connect(partial(self._recall, preset.number))
        if not found:
            menu.addAction("None is stored yet").setEnabled(False)

    def _recall(self, number: int, checked: bool = False) -> None:
        self._session.playout.act(Recall(preset=number))

    def lock(self, surface: str) -> None:
        """Let no click here touch a surface, or let clicks touch it again."""
        self.points.locked ^= {surface}
        self.points.update()

    def _open(self) -> list[str]:
        return [
            s.id for s in self._session.show.surfaces if s.id in self.points.there and s.id not in self.points.locked
        ]

    def _menu(self, id: str, is_source: bool, at: object) -> None:
        menu = QMenu(self)
        if is_source:
            menu.addAction("On every surface").triggered.connect(lambda checked=False: self.to_all(id))
            if id:
                words = "This one and those below it, each on a surface"
                menu.addAction(words).triggered.connect(lambda checked=False: self.to_each(id))
        else:
            words = "Unlock" if id in self.points.locked else "Lock: no click here touches it"
            menu.addAction(words).triggered.connect(lambda checked=False: self.lock(id))
            swap = menu.addMenu("Swap with")
            for surface in self._session.show.surfaces:
                if surface.id != id and surface.id in self.points.there:
                    swap.addAction(surface.name).triggered.connect(partial(self._swap, id, surface.id))
        menu.popup(at)  # type: ignore[arg-type]

    def _swap(self, one: str, other: str, checked: bool = False) -> None:
        self.swap(one, other)
