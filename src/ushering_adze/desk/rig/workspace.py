"""The Rig workspace: the signal path over the room and a drawing, the inspector beside them, tables in their place on
demand.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QCursor, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show import (
    Cabinet,
    Input,
    LedWall,
    Monitor,
    MonitorWall,
    Output,
    Playlist,
    PlaylistItem,
    Projection,
    Projector,
    RoomPlace,
    ShowError,
    Stream,
    Timing,
)
from ushering_adze.core.show.files import source_of_file
from ushering_adze.core.show.rigging import (
    Item,
    Shelf,
    duplicated,
    free_name,
    free_number,
    fresh_feed,
    fresh_source,
    item_of,
    moved_item,
    told,
    with_item,
    without_item,
)
from ushering_adze.desk import theme
from ushering_adze.desk.output_windows import Outputs
from ushering_adze.desk.rig.drawing_view import DrawingView
from ushering_adze.desk.rig.inspector import Inspector
from ushering_adze.desk.rig.path import SignalPath
from ushering_adze.desk.rig.sheet import save_sheet
from ushering_adze.desk.rig.tables import RigTables
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.session import Session
from ushering_adze.desk.shelf import SourceShelf

NEW: tuple[tuple[str, str], ...] = (
    ("files", "Clips, pictures, pages, texts…"),
    ("folder", "Folder of pictures…"),
    ("playlist", "Playlist…"),
    ("input", "Input"),
    ("text", "Text"),
    ("clock", "Clock or timer"),
    ("countdown", "Countdown"),
    ("colour", "Colour"),
    ("pattern", "Pattern"),
    ("parts", "Source in parts"),
    ("output", "Output"),
    ("led-wall", "LED wall"),
    ("projection", "Projection screen"),
    ("monitor-wall", "Monitor wall"),
    ("monitor", "Monitor"),
    ("stream", "Stream"),
    ("feed", "Feed"),
)

SHELF_OF: dict[str, Shelf] = {
    "output": "outputs",
    "feed": "feeds",
    **dict.fromkeys(("input", "text", "clock", "countdown", "colour", "pattern", "parts"), "sources"),
}
AFTER = {"parts", "output", "stream"}
"""After these the menu has a line."""


class RigWorkspace(QWidget):
    """Describes every signal and every display."""

    def __init__(self, session: Session, outputs: Outputs) -> None:
        super().__init__()
        self._session = session
        self.path, self.room, self.drawing = (
            SignalPath(session),
            RoomView(session, "plain", movable=True),
            DrawingView(session),
        )
        self.inspector, self.tables = Inspector(session, outputs), RigTables(session)
        self.add_button = self._button("Add ▾", self._add_menu, "A source, an output or a surface")
        self.duplicate_button = self._button("Duplicate", self.duplicate, "A copy beside it  (Ctrl+D)")
        self.up_button = self._button("Up", lambda: self.move(-1), "Further up its list  (Ctrl+Up)")
        self.down_button = self._button("Down", lambda: self.move(1), "Further down its list  (Ctrl+Down)")
        self.remove_button = self._button("Remove", self.remove, "Take it out of the show  (Delete)")
        self.table_button = self._button("Tables", self._toggle_tables, "Fast entry, and to and from a spreadsheet")
        self.table_button.setCheckable(True)
        self.shelf_button = self._button(
            "Shelf", self._toggle_shelf, "Every source with its picture, to find and group"
        )
        self.shelf_button.setCheckable(True)
        self.sheet_button = self._button("Rig sheet…", self.ask_sheet, "The whole room as PDF or PNG")
        tools = QHBoxLayout()
        tools.setContentsMargins(0, 0, 0, 0)
        tools.setSpacing(6)
        for button in (self.add_button, self.duplicate_button, self.up_button, self.down_button, self.remove_button):
            tools.addWidget(button)
        tools.addStretch(1)
        tools.addWidget(self.shelf_button)
        tools.addWidget(self.table_button)
        tools.addWidget(self.sheet_button)
        self.shelf = SourceShelf(session)
        self.hung = QStackedWidget()
        self.hung.addWidget(self.room)
        self.hung.addWidget(self.shelf)
        below = QSplitter(Qt.Orientation.Horizontal)
        below.addWidget(self.hung)
        below.addWidget(self.drawing)
        below.setSizes([500, 420])
        self.views = QSplitter(Qt.Orientation.Vertical)
        self.views.addWidget(self.path)
        self.views.addWidget(below)
        self.views.setSizes([392, 196])
        self.views.setStretchFactor(0, 1)
        self.views.setStretchFactor(1, 2)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.views)
        self.stack.addWidget(self.tables)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(tools)
        column.addWidget(self.stack, 1)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(left)
        self.split.addWidget(self.inspector)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([920, 336])
        for splitter in (below, self.views, self.split):
            splitter.setHandleWidth(theme.GAP)
            splitter.setChildrenCollapsible(False)
        box = QHBoxLayout(self)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.addWidget(self.split)
        self.setAcceptDrops(True)
        self.path.asked_menu.connect(self._item_menu)
        session.selection_changed.connect(self._enable)
        session.show_changed.connect(self._enable)
        self._enable()

    def _button(self, words: str, act: Callable[[], object], tip: str) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(lambda: act())
        return button

    def _enable(self) -> None:
        there = self._session.selected is not None
        for button in (self.duplicate_button, self.up_button, self.down_button, self.remove_button):
            button.setEnabled(there)

    # -- acts ----------------------------------------------------------------------------------------------------

    def _add_menu(self) -> None:
        menu = QMenu(self)
        for kind, words in NEW:
            menu.addAction(words).triggered.connect(lambda checked=False, k=kind: self.add(k))
            if kind in AFTER:
                menu.addSeparator()
        menu.popup(self.add_button.mapToGlobal(QPoint(0, self.add_button.height())))

    def _item_menu(self, shelf: Shelf, id: str, at: QPoint) -> None:
        menu = QMenu(self)
        acts: tuple[tuple[str, Callable[[], None]], ...] = (
            ("Rename", self.rename),
            ("Duplicate", self.duplicate),
            ("Up", lambda: self.move(-1)),
            ("Down", lambda: self.move(1)),
            ("Remove", self.remove),
        )
        for words, act in acts:
            menu.addAction(words).triggered.connect(lambda checked=False, act=act: act())
        menu.popup(at or QCursor.pos())

    def add(self, kind: str) -> None:
        """Add an item of a kind with plain numbers, select it, and put the cursor in its name; where it is of files,
        ask for them first.
        """
        if kind in ("files", "folder", "playlist"):
            self._ask_files(kind)
            return
        shelf = SHELF_OF.get(kind, "surfaces")
        show = self._session.show
        words = dict(NEW)[kind]
        items: tuple[Any, ...] = getattr(show, shelf)
        name = free_name(f"{words} 1", {i.name for i in items})
        try:
            item = self._fresh(kind, new_id(name, {i.id for i in items}), name)
        except ShowError as error:
            self._session.trouble.emit(str(error))
            return
        if self._session.try_edit(f"Add {name}", lambda s: with_item(s, shelf, item)):
            self._session.select(shelf, item.id)
            self.inspector.focus_name()

    def _ask_files(self, kind: str) -> None:
        start = str(self._session.root)
        if kind == "folder":
            folder = QFileDialog.getExistingDirectory(self, "A folder of pictures", start)
            self.add_files([Path(folder)] if folder else [])
            return
        names, _ = QFileDialog.getOpenFileNames(self, "Clips, pictures, pages, texts", start)
        self.add_files([Path(name) for name in names], as_playlist=kind == "playlist")

    def add_files(self, paths: list[Path], as_playlist: bool = False) -> None:
        """Make a source of each file or folder, or one playlist of all."""
        if not paths:
            return
        show, last = self._session.show, ""
        if as_playlist:
            name = free_name("Playlist 1", {s.name for s in show.sources})
            last = new_id(name, {s.id for s in show.sources})
            items = tuple(PlaylistItem(path=str(p)) for p in paths if not p.is_dir())
            folder = next((str(p) for p in paths if p.is_dir()), None)
            made = Playlist(id=last, name=name, items=items, folder=folder)
            show = with_item(show, "sources", made)
        for path in () if as_playlist else paths:
            name = free_name((path.stem or path.name)[:60], {s.name for s in show.sources})
            last = new_id(name, {s.id for s in show.sources})
            show = with_item(show, "sources", source_of_file(str(path), path.is_dir(), last, name))
        words = f"Add {name}" if len(paths) == 1 or as_playlist else f"Add {len(paths)} sources"
        if self._session.try_edit(words, lambda _: show):
            self._session.select("sources", last)
            self.inspector.focus_name()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Files that are dropped become sources; with Shift, one playlist."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        self.add_files(paths, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _fresh(self, kind: str, id: str, name: str) -> Item:
        show = self._session.show
        if SHELF_OF.get(kind) == "sources" and kind != "input":
            return fresh_source(show, kind, id, name)
        free_x = (
            max(
                (s.place.x_mm + s.size_mm[0] for s in show.surfaces if s.place and s.size_mm and not s.place.apart),
                default=800.0,
            )
            + 200
        )
        place = RoomPlace(x_mm=free_x if free_x < show.room_width_mm else 200.0, foot_mm=300)
        cabinet = (
            show.cabinets[0].cabinet
            if show.cabinets
            else Cabinet(width_mm=500, height_mm=500, columns_px=128, rows_px=128)
        )
        match kind:
            case "feed":
                return fresh_feed(show, id, name)
            case "input":
                return Input(id=id, name=name)
            case "output":
                return Output(id=id, number=free_number(show), name=name, timing=Timing(width=1920, height=1080))
            case "led-wall":
                return LedWall(id=id, name=name, place=place, cabinet=cabinet, columns=4, rows=3)
            case "projection":
                one = Projector(id="p1", name="Projector 1", width=1920, height=1080)
                return Projection(id=id, name=name, place=place, width_mm=4000, height_mm=2250, projectors=(one,))
            case "monitor-wall":
                return MonitorWall(
                    id=id,
                    name=name,
                    place=place,
                    columns=2,
                    rows=2,
                    active_width_mm=1209.6,
                    active_height_mm=680.4,
                    edge_mm=1.8,
                    feed_width=1920,
                    feed_height=1080,
                )
            case "monitor":
                return Monitor(id=id, name=name, place=place, width=1920, height=1080, width_mm=1209.6, height_mm=680.4)
            case _:
                return Stream(id=id, name=name, width=1920, height=1080)

    def rename(self) -> None:
        """Rename the selected item where it stands."""
        if self._session.selected is not None and self.stack.currentWidget() is self.views:
            self.path.rename(*self._session.selected)

    def duplicate(self) -> None:
        """A copy of the selected item, which is then selected."""
        if self._session.selected is None:
            return
        shelf, id = self._session.selected
        item = item_of(self._session.show, shelf, id)
        assert item is not None
        fresh = new_id(item.id, {i.id for i in getattr(self._session.show, shelf)})
        if self._session.try_edit(f"Duplicate {item.name}", lambda show: duplicated(show, shelf, id, fresh)):
            self._session.select(shelf, fresh)

    def move(self, by: int) -> None:
        """The selected item up or down its list."""
        if self._session.selected is not None:
            shelf, id = self._session.selected
            self._session.try_edit("Reorder", lambda show: moved_item(show, shelf, id, by))

    def remove(self) -> None:
        """Take the selected item out of the show."""
        if self._session.selected is None:
            return
        shelf, id = self._session.selected
        item = item_of(self._session.show, shelf, id)
        if item is not None:
            self._session.try_edit(f"Remove {item.name}", lambda show: without_item(show, shelf, id))

    def _toggle_tables(self) -> None:
        self.show_tables(self.table_button.isChecked())

    def show_tables(self, on: bool) -> None:
        """Tables in place of the drawings, or back."""
        self.table_button.setChecked(on)
        self.stack.setCurrentWidget(self.tables if on else self.views)

    def _toggle_shelf(self) -> None:
        self.show_shelf(self.shelf_button.isChecked())

    def show_shelf(self, on: bool) -> None:
        """The source shelf in place of the room, or back."""
        self.shelf_button.setChecked(on)
        self.hung.setCurrentWidget(self.shelf if on else self.room)

    def ask_sheet(self) -> None:
        """Choose a file and write the rig sheet."""
        start = self._session.root / f"{self._session.show.name.lower().replace(' ', '-')}-rig.pdf"
        path, _ = QFileDialog.getSaveFileName(self, "Save the rig sheet", str(start), "PDF (*.pdf);;PNG (*.png)")
        if path:
            self.write_sheet(Path(path))

    def write_sheet(self, path: Path) -> None:
        """Write the rig sheet."""
        try:
            save_sheet(self._session.show, path)
            self._session.trouble.emit(f"The rig sheet is in {path}.")
        except ShowError as error:
            self._session.trouble.emit(told(error))
