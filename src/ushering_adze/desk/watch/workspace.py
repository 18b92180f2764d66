"""The Watch workspace: walls of pictures, made, filled and looked at; and what is wrong now, in a list."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import cast

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.onair.actions import Arrange, Override, Route
from ushering_adze.core.picture.walls import cell_rect
from ushering_adze.core.show import Show
from ushering_adze.core.show.wall import TEMPLATES, Box, Wall
from ushering_adze.core.show.walling import (
    Lot,
    Side,
    filled,
    laid_out,
    rescaled,
    with_alike,
    with_box,
    with_cell,
    with_edge,
    with_new_wall,
    with_template,
    with_wall,
    with_wall_feed,
    with_wall_source,
    without_wall,
)
from ushering_adze.desk import theme
from ushering_adze.desk.adding import added
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.desk.watch.cell_panel import CellPanel
from ushering_adze.desk.watch.earlier import EarlierPage
from ushering_adze.desk.watch.rules_page import RulesPage
from ushering_adze.desk.watch.sound_page import SoundPage
from ushering_adze.desk.watch.view import WallView
from ushering_adze.desk.watch.wrong import WrongNow

PAGES = (
    ("Wall", "Pictures"),
    ("Sound", "Mixes, meters, levels"),
    ("Earlier", "What surfaces showed in the last quarter of an hour"),
    ("Alarms", "Which are raised, after how long, from which value on"),
)
HINT = "red: on program · dashed green: on preview · twice: alone · Ctrl and click: to preview"
LOTS: tuple[tuple[Lot, str], ...] = (
    ("sources", "All sources"),
    ("surfaces", "All surfaces"),
    ("outputs", "All outputs"),
)


class WatchWorkspace(QWidget):
    """A wall, what it is made of, and the faults of the moment."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layouts: Mapping[str, str] = {}
        """Walls that are laid out as others are, as they were shown last."""
        self.view = WallView(session)
        self.walls = QComboBox()
        self.walls.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.walls.setAccessibleName("Wall")
        self.walls.setMinimumWidth(150)
        new = tool_button("New", None, "A wall from a template, filled with all sources")
        made = QMenu(self)
        for template in TEMPLATES:
            made.addAction(template).triggered.connect(partial(self._new, template))
        new.setMenu(made)
        self.template = tool_button("Template", None, "Another grid; what cells showed goes on")
        other = QMenu(self)
        for template in TEMPLATES:
            other.addAction(template).triggered.connect(partial(self._turn, template))
        self.template.setMenu(other)
        self.fill_button = tool_button("Fill", None, "Every cell with another one")
        fill = QMenu(self)
        for lot, words in LOTS:
            fill.addAction(words).triggered.connect(partial(self._fill_with, lot))
        self.fill_button.setMenu(fill)
        self.out = tool_button("Send out", None, "This wall on a surface, as a source, or as a feed")
        self._out = QMenu(self)
        self._out.aboutToShow.connect(self._fill_out)
        self.out.setMenu(self._out)
        self.like = QMenu("Laid out as", self)
        self.gone = tool_button("Remove", self._remove, "This wall")
        self.pages = QStackedWidget()
        self.sound = SoundPage(session)
        self.rules = RulesPage(session)
        self.earlier = EarlierPage(session)
        self.tabs = [tool_button(words, partial(self.turn_to, n), tip, True) for n, (words, tip) in enumerate(PAGES)]
        tabs = QHBoxLayout()
        tabs.setSpacing(4)
        for tab in self.tabs:
            tabs.addWidget(tab)
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(self.walls)
        for button in (new, self.template, self.fill_button, self.out, self.gone):
            line.addWidget(button)
        line.addStretch(1)
        self.hint = QLabel(HINT)
        self.hint.setProperty("role", "dim")
        line.addWidget(self.hint)
        self.cell = CellPanel()
        self.listens = QLabel()
        self.listens.setProperty("role", "dim")
        side = QFrame()
        side.setObjectName("panel")
        column = QVBoxLayout(side)
        column.setContentsMargins(8, 8, 8, 8)
        column.setSpacing(6)
        column.addWidget(self.cell)
        column.addSpacing(10)
        self.wrong = WrongNow(session)
        column.addWidget(self.wrong, 1)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(self.view)
        split.addWidget(side)
        split.setStretchFactor(0, 1)
        split.setSizes([960, 300])
        split.setHandleWidth(theme.GAP)
        split.setChildrenCollapsible(False)
        wall = QWidget()
        box = QVBoxLayout(wall)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addLayout(line)
        box.addWidget(split, 1)
        self.pages.addWidget(wall)
        self.pages.addWidget(self.sound)
        self.pages.addWidget(self.earlier)
        self.pages.addWidget(self.rules)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        whole.setSpacing(6)
        whole.addLayout(tabs)
        whole.addWidget(self.pages, 1)
        tabs.addStretch(1)
        tabs.addWidget(self.listens)
        self.turn_to(0)
        self.walls.currentIndexChanged.connect(lambda n: self._shown())
        self.view.chosen.connect(lambda n: self._fill_cell())
        self.view.chosen.connect(self._listen_to)
        self.view.routed.connect(self._route)
        self.view.probed.connect(lambda words: self.hint.setText(words or HINT))
        self.view.numbered.connect(self.choose)
        self.view.edged.connect(self._edged)
        self.view.boxed.connect(self._drawn)
        self.cell.changed.connect(lambda fields: self._change(**fields))
        self.cell.alike.connect(self._alike)
        self.cell.boxed.connect(lambda box: self._boxed(self.view.selected, box))
        self.cell.refused.connect(session.trouble)
        session.show_changed.connect(self.fill)
        session.reported.connect(self._follow)
        self.fill()

    def turn_to(self, page: int) -> None:
        """Show the wall (0), the sound (1), what was shown earlier (2) or the rules of alarms (3)."""
        self.pages.setCurrentIndex(page)
        for n, tab in enumerate(self.tabs):
            tab.setChecked(n == page)
        self._watch()

    def _watch(self) -> None:
        """Have the wall painted while it is seen."""
        wall = self.chosen if self.isVisible() and self.pages.currentIndex() == 0 else None
        self._session.playout.watch(None if wall is None else wall.id)

    # -- what is shown -------------------------------------------------------------------------------------------

    @property
    def chosen(self) -> Wall | None:
        """The wall that is chosen."""
        return self._named(self.walls.currentData())

    @property
    def wall(self) -> Wall | None:
        """The wall whose cells are seen: the one that is chosen, or that which it is laid out like."""
        id = self.walls.currentData()
        return self._named(self._session.playout.stage.layouts.get(id, id))

    @property
    def shown(self) -> Wall | None:
        """The wall that is chosen with the cells that are seen, on its own raster."""
        chosen, wall = self.chosen, self.wall
        return chosen if chosen is None or wall is None or wall == chosen else laid_out(chosen, wall)

    def _named(self, id: str | None) -> Wall | None:
        return next((w for w in self._session.show.walls if w.id == id), None)

    def fill(self) -> None:
        """Show the walls of the show."""
        self._layouts = self._session.playout.stage.layouts
        like = {id: w.name for id, other in self._layouts.items() if (w := self._named(other)) is not None}
        names = [(f"{w.name}, as {like[w.id]}" if w.id in like else w.name, w.id) for w in self._session.show.walls]
        if names != [(self.walls.itemText(n), self.walls.itemData(n)) for n in range(self.walls.count())]:
            kept = self.walls.currentData()
            self.walls.blockSignals(True)
            self.walls.clear()
            for name, id in names:
                self.walls.addItem(name, id)
            self.walls.setCurrentIndex(max(0, self.walls.findData(kept)))
            self.walls.blockSignals(False)
        self._shown()

    def _shown(self) -> None:
        wall = self.wall
        self.view.hold(self.shown)
        for button in (self.template, self.fill_button, self.out, self.gone):
            button.setEnabled(wall is not None)
        self._watch()
        self._fill_cell()

    def showEvent(self, event: object) -> None:
        self._shown()
        self._follow()

    def hideEvent(self, event: object) -> None:
        self._watch()

    def _fill_cell(self) -> None:
        wall, n, show = self.wall, self.view.selected, self._session.show
        cell = wall.cells[n] if wall is not None and 0 <= n < len(wall.cells) else None
        self.cell.hold(show, n, cell)
        if cell is not None:
            if cell.shows == "source" and cell.of is not None:
                self._session.select_source(cell.of)
            elif cell.shows == "surface" and cell.of is not None:
                self._session.select_surface(cell.of)

    def _follow(self) -> None:
        report = self._session.report
        if report is None or not self.isVisible():
            return
        if report.stage.layouts != self._layouts:
            self.fill()
        self._tell_listening()

    def _tell_listening(self) -> None:
        to, show = self._session.playout.listening, self._session.show
        names = {x.id: x.name for x in (*show.sources, *show.sound.inputs, *show.sound.mixes)}
        other = show.sound.mix(show.sound.listen.otherwise or "")
        name = names.get(to, to) if to is not None else None if other is None else other.name
        where = "" if show.sound.listen.device is not None else ", through no device yet"
        self.listens.setText("" if name is None else f"you hear {name}{where}")

    # -- by hand -------------------------------------------------------------------------------------------------

    def _new(self, template: str, checked: bool = False) -> None:
        self.make(template)

    def make(self, template: str = TEMPLATES[2]) -> None:
        """A new wall of a template, filled with all sources."""
        id = added(self._session.try_edit, "New wall", lambda show: with_new_wall(show, template, "sources"))
        if id is not None:
            self.walls.setCurrentIndex(self.walls.findData(id))

    def _edit(self, words: str, make: object) -> None:
        wall = self.wall
        if wall is not None and callable(make):
            self._session.try_edit(words, lambda show: with_wall(show, make(show, wall)))

    def _turn(self, template: str, checked: bool = False) -> None:
        self._edit("Template", lambda show, wall: with_template(wall, template))

    def _fill_with(self, lot: Lot, checked: bool = False) -> None:
        self._edit("Fill the wall", lambda show, wall: filled(show, wall, lot))

    def _fill_out(self) -> None:
        self._out.clear()
        self._out.addAction("As a source").triggered.connect(lambda checked=False: self.as_source())
        self._out.addAction("As a feed").triggered.connect(lambda checked=False: self._as_feed())
        self._out.addSeparator()
        chosen = self.chosen
        others = [w for w in self._session.show.walls if w is not chosen]
        if chosen is not None and others:
            like = self.like
            like.clear()
            self._out.addMenu(like)
            for wall in (chosen, *others):
                entry = like.addAction("itself" if wall is chosen else wall.name)
                entry.setCheckable(True)
                entry.setChecked(self.wall is wall)
                entry.triggered.connect(partial(self._lay_out, chosen.id, None if wall is chosen else wall.id))
            self._out.addSeparator()
        for surface in self._session.show.surfaces:
            self._out.addAction(f"On {surface.name}, until it is lifted").triggered.connect(
                partial(self._on_surface, surface.id)
            )

    def _lay_out(self, wall: str, like: str | None, checked: bool = False) -> None:
        self._session.playout.act(Arrange(wall=wall, like=like))

    def as_source(self) -> str | None:
        """Have this wall as a source of the show; gives its id."""
        wall, made = self.chosen, [""]
        if wall is None:
            return None

        def edit(show: Show) -> Show:
            show, made[0] = with_wall_source(show, wall.id)
            return show

        return made[0] if self._session.try_edit(f"{wall.name} as a source", edit) else None

    def _on_surface(self, surface: str, checked: bool = False) -> None:
        source = self.as_source()
        if source is not None:
            self._session.playout.act(Override(surfaces=(surface,), shows="source", source=source, by="Watch"))

    def _as_feed(self) -> None:
        wall = self.chosen
        if wall is not None:
            self._session.try_edit(f"{wall.name} as a feed", lambda show: with_wall_feed(show, wall.id))

    def _remove(self) -> None:
        wall = self.chosen
        if wall is not None:
            self._session.try_edit(f"Remove {wall.name}", lambda show: without_wall(show, wall.id))

    def _edged(self, n: int, side: str, line: int) -> None:
        self._edit("Edge of a cell", lambda show, wall: with_edge(wall, n, cast(Side, side), line))

    def _boxed(self, n: int, box: object) -> None:
        """A cell in a free box; where it is, if the box is empty; in the grid again, if it is None."""
        wall = self.wall
        if wall is None or not 0 <= n < len(wall.cells):
            return
        rect = cell_rect(wall, wall.cells[n])
        made = cast(Box | None, (rect.x, rect.y, rect.w, rect.h) if box == () else box)
        self._session.try_edit("Free box", lambda show: with_box(show, wall.id, n, made))

    def _drawn(self, n: int, box: Box) -> None:
        """A box as it was dragged, to the wall that has it."""
        wall, shown = self.wall, self.shown
        if wall is not None and shown is not None and 0 <= n < len(shown.cells):
            self._boxed(n, box if wall == shown else rescaled(box, shown, wall))

    def _alike(self, whole: bool) -> None:
        wall, n = self.wall, self.view.selected
        if wall is not None and 0 <= n < len(wall.cells):
            self._session.try_edit("Cells alike", lambda show: with_alike(show, wall.id, n, whole))

    def choose(self, n: int) -> None:
        """Show the wall at a place among the show's."""
        if n < self.walls.count():
            self.turn_to(0)
            self.walls.setCurrentIndex(n)

    def _change(self, **fields: object) -> None:
        wall, n = self.wall, self.view.selected
        if wall is not None and 0 <= n < len(wall.cells):
            self._session.try_edit("Cell", lambda show: with_cell(show, wall.id, n, **fields))

    def _listen_to(self, n: int) -> None:
        """Hear what a cell shows: its source, or the mix that listens to its surface."""
        wall, sound = self.wall, self._session.show.sound
        cell = wall.cells[n] if wall is not None and 0 <= n < len(wall.cells) else None
        to: str | None = None
        if cell is not None and cell.shows in ("source", "mix"):
            to = cell.of
        elif cell is not None and cell.shows == "surface":
            to = next((m.id for m in sound.mixes if cell.of in m.surfaces), None)
        self._session.playout.listen(to)
        self._tell_listening()

    def _route(self, n: int) -> None:
        """A cell's source to the selected surface, on preview."""
        wall, surface = self.wall, self._session.surface
        cell = wall.cells[n] if wall is not None else None
        if cell is None or cell.shows != "source" or cell.of is None:
            return
        if surface is None:
            self._session.trouble.emit("No surface is selected; click one on the sill first.")
            return
        self._session.playout.act(Route(surface=surface, source=cell.of))
