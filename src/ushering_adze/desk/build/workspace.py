"""The Build workspace: sources at the left, the canvas with its layers in the middle, their settings at the right, the
presets below.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.onair.view import On
from ushering_adze.core.show import ShowError
from ushering_adze.core.show.variants import free_number_after, sources_of_preset, variant, with_order
from ushering_adze.desk import theme
from ushering_adze.desk.build.arranging import Arranging
from ushering_adze.desk.build.bringing import BringSheet
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.canvas import BuildCanvas
from ushering_adze.desk.build.comparing import CompareSheet
from ushering_adze.desk.build.drawing import FRAMES
from ushering_adze.desk.build.finishes import BY_KEY, KEY, Finishes
from ushering_adze.desk.build.layers import LayerStack, quiet
from ushering_adze.desk.build.parts import PartsSheet
from ushering_adze.desk.build.room_ground import RoomGround
from ushering_adze.desk.build.settings import SettingsPanel
from ushering_adze.desk.build.storing import Sheet, StoreSheet, UpdateSheet
from ushering_adze.desk.build.table import PresetTable
from ushering_adze.desk.build.zones import Zones
from ushering_adze.desk.commands import CommandBook
from ushering_adze.desk.deck import PresetDeck
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.session import Session
from ushering_adze.desk.shelf import SourceShelf
from ushering_adze.desk.tools import Named, tool_button
from ushering_adze.desk.waiting import answered
from ushering_adze.io.showfile import SUFFIX, read_show

HINT = "Drop a source on a card: a variant.  Alt: blind."


def panel(*widgets: QWidget) -> QFrame:
    """Widgets in one framed column."""
    frame = QFrame()
    frame.setObjectName("panel")
    box = QVBoxLayout(frame)
    box.setContentsMargins(8, 8, 8, 8)
    box.setSpacing(6)
    for widget in widgets:
        box.addWidget(widget)
    return frame


class BuildWorkspace(QWidget):
    """Where pictures are made and stored."""

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__()
        self.session = session
        self.building = Building(session)
        self.arranging = Arranging(self.building)
        self.shelf = SourceShelf(session)
        self.shelf.setMinimumWidth(186)
        self.canvas = BuildCanvas(self.building, guides)
        self.room = RoomGround(self.building)
        self.layers = LayerStack(self.building)
        self.settings = SettingsPanel(self.building)
        self.finishes, self.zones = Finishes(self.building), Zones(self.building)
        self.deck = PresetDeck(session, columns=6, headed=False, ordered=True)
        self.sheet: Sheet | None = None
        self.actions_named: list[Named] = []
        quiet(self.layers)
        self.ground = QStackedWidget()
        self.ground.addWidget(self.canvas)
        self.ground.addWidget(self.room)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(self._line())
        column.addWidget(self.ground, 1)
        self.table = PresetTable(session)
        below = QStackedWidget()
        below.addWidget(self.deck)
        below.addWidget(panel(self.table))
        self.below = below
        foot = QWidget()
        rows = QVBoxLayout(foot)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        rows.addLayout(self._presets_line())
        rows.addWidget(below, 1)
        upright = QSplitter(Qt.Orientation.Vertical)
        upright.addWidget(middle)
        upright.addWidget(foot)
        upright.setStretchFactor(0, 1)
        upright.setSizes([440, 160])
        self.upright = upright
        head = QLabel("Layers, the topmost first")
        head.setProperty("role", "dim")
        side = QSplitter(Qt.Orientation.Vertical)
        side.addWidget(panel(head, self.layers))
        settings = QFrame()
        settings.setObjectName("panel")
        inside = QVBoxLayout(settings)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.settings, 1)
        inside.addLayout(self._libraries())
        side.addWidget(settings)
        side.setSizes([200, 410])
        side.setMinimumWidth(296)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(panel(self.shelf))
        self.split.addWidget(upright)
        self.split.addWidget(side)
        self.split.setStretchFactor(1, 1)
        self.split.setSizes([206, 748, 302])
        for splitter in (upright, side, self.split):
            splitter.setHandleWidth(theme.GAP)
            splitter.setChildrenCollapsible(False)
        box = QHBoxLayout(self)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.addWidget(self.split)
        self.building.changed.connect(self._tell)
        self.canvas.asked_menu.connect(self._menu)
        self.layers.asked_menu.connect(self._menu)
        self.shelf.opened.connect(self._opened)
        self.deck.blind_asked.connect(lambda number: self.building.work_on("blind", number))
        self.deck.variant_asked.connect(self.ask_variant)
        self.deck.moved.connect(self._reorder)
        for there in (self.canvas, self.layers):
            there.finished.connect(self.finishes.lay_on)
        self.deck.staged.connect(lambda number: self.building.work_on("preview"))
        self._tell()

    def _reorder(self, number: int, before: int) -> None:
        """A preset takes the place of another, which moves on."""
        self.session.try_edit(f"Preset {number} to {before}", lambda show: with_order(show, number, before))

    def _line(self) -> QHBoxLayout:
        """What is being worked on, the canvas, the ground, and what presets are made with."""
        line = QHBoxLayout()
        line.setSpacing(5)
        words = QLabel("Working on")
        words.setProperty("role", "dim")
        line.addWidget(words)
        self.modes: dict[On, QPushButton] = {}
        for on, tip in (
            ("preview", "Edits are seen on preview; a take puts them on air"),
            ("program", "Edits are on air at once"),
            ("blind", "Edits go into one preset, and neither preview nor program shows them; Alt and a card choose it"),
        ):
            made = tool_button(on, lambda on=on: self.work_on(on), tip, checkable=True)  # type: ignore[misc]
            self.modes[on] = made  # type: ignore[index]
            line.addWidget(made)
        self.try_button = tool_button(
            "try", self.building.try_take, "Play the take here, again and again; program goes on  (Y)", checkable=True
        )
        line.addWidget(self.try_button)
        self.canvases = QComboBox()
        self.canvases.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.canvases.setMinimumContentsLength(12)
        self.canvases.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.canvases.activated.connect(lambda n: self.building.choose_canvas(self.canvases.itemData(n)))
        self.canvases.setAccessibleName("Canvas")
        line.addStretch(1)
        self.layer_menu, self.arrange_menu = tool_button("Layer ▾"), tool_button("Arrange ▾")
        for button in (self.layer_menu, self.arrange_menu):
            button.setMenu(QMenu(button))
            line.addWidget(button)
        line.addWidget(self.canvases)
        self.room_button = tool_button("room", self._toggle_room, "The room, or the canvas", checkable=True)
        line.addWidget(self.room_button)
        return line

    def _libraries(self) -> QVBoxLayout:
        """Finishes, or zones."""
        self.library = QStackedWidget()
        heads = QHBoxLayout()
        heads.setSpacing(5)
        self.heads: list[QPushButton] = []
        for n, (words, widget) in enumerate((("Finishes", self.finishes), ("Zones", self.zones))):
            self.library.addWidget(widget)
            head = tool_button(words, partial(self.show_library, n), f"Show {words.lower()}", checkable=True)
            head.setFixedHeight(24)
            self.heads.append(head)
            heads.addWidget(head)
        heads.addStretch(1)
        column = QVBoxLayout()
        column.setContentsMargins(10, 2, 6, 8)
        column.setSpacing(4)
        column.addLayout(heads)
        column.addWidget(self.library)
        self.show_library(0)
        return column

    def show_library(self, number: int) -> None:
        """Show finishes (0) or zones (1)."""
        self.library.setCurrentIndex(number)
        for n, head in enumerate(self.heads):
            head.setChecked(n == number)

    def _presets_line(self) -> QHBoxLayout:
        """What is done with presets, and the digits typed so far."""
        line = QHBoxLayout()
        line.setSpacing(5)
        head = QLabel("Presets")
        head.setProperty("role", "head")
        line.addWidget(head)
        line.addWidget(tool_button("Store…", self.store, "What is seen, as a preset  (Ctrl+Return)"))
        line.addWidget(tool_button("Update…", self.update_preset, "What was changed, into the preset that was opened"))
        line.addWidget(tool_button("Compare…", self.compare, "Two presets in one room, and what differs"))
        line.addWidget(tool_button("Times…", self.show_parts, "What the opened preset stores, and when it arrives"))
        self.table_button = tool_button("Table", self._toggle_table, "Presets as a table, or as cards", checkable=True)
        line.addWidget(self.table_button)
        line.addSpacing(10)
        line.addWidget(self.deck.tabs)
        line.addStretch(1)
        self.typed = QLabel(HINT)
        self.typed.setProperty("role", "dim")
        line.addWidget(self.typed)
        self.deck.paged.connect(lambda: self.show_typed(""))
        return line

    def show_typed(self, typed: str) -> None:
        """Show the digits typed so far."""
        hint = "" if self.deck.pages else HINT  # where there are pages, their buttons need its room
        self.typed.setText(f"{typed}▏ Enter stages, Ctrl+Enter recalls or stores" if typed else hint)

    # -- what is worked on ---------------------------------------------------------------------------------------

    def work_on(self, on: On) -> None:
        """Let edits go to preview, to program, or into the preset that is staged or was edited blind last."""
        number = self.building.number if self.building.number is not None else self.building.stage.staged
        self.building.work_on(on, number)
        self._tell()

    def _tell(self) -> None:
        """Have the buttons say what is worked on, and the engine make its picture."""
        building = self.building
        for on, button in self.modes.items():
            chosen = on == building.on
            button.setChecked(chosen)
            colour = FRAMES[on]
            style = "dashed" if on == "preview" else "solid"
            theme.restyle(
                button,
                "QPushButton { padding: 4px 9px; }"
                f"QPushButton:checked {{ border: 2px {style} {colour}; color: {theme.TEXT}; }}",
            )
        self.try_button.setChecked(building.trying)
        preset = building.show.preset(building.number) if building.number is not None else None
        self.modes["blind"].setText(f"{preset.number} blind" if preset is not None else "blind")
        canvases = [(f"{c.name} {c.width}×{c.height}", c.id) for c in building.show.canvases]
        if [(self.canvases.itemText(n), self.canvases.itemData(n)) for n in range(self.canvases.count())] != canvases:
            self.canvases.clear()
            for words, id in canvases:
                self.canvases.addItem(words, id)
        if building.canvas is not None:
            self.canvases.setCurrentIndex(self.canvases.findData(building.canvas.id))
        self._look()

    def _look(self) -> None:
        self.session.playout.look_at(self.building.view if self.isVisible() else None)

    def showEvent(self, event: object) -> None:
        self._look()

    def hideEvent(self, event: object) -> None:
        self._look()

    def _toggle_table(self) -> None:
        """Presets as a table, with more room, or as cards."""
        on = self.table_button.isChecked()
        self.below.setCurrentIndex(int(on))
        whole = sum(self.upright.sizes())
        self.upright.setSizes([whole - 290, 290] if on else [whole - 160, 160])

    def _toggle_room(self) -> None:
        self.ground.setCurrentWidget(self.room if self.room_button.isChecked() else self.canvas)

    def _opened(self, source: str) -> None:
        """A source that is double-clicked goes into the selected layers, or in the middle of the canvas."""
        canvas = self.building.canvas
        if self.building.selected:
            for layer in self.building.selected:
                self.building.show_in(layer, source)
        elif canvas is not None:
            self.building.drop(source, (canvas.width / 2, canvas.height / 2))

    # -- presets -------------------------------------------------------------------------------------------------

    def _open(self, sheet: Sheet) -> None:
        if self.sheet is not None:
            self.sheet.close()
        self.sheet = sheet
        sheet.destroyed.connect(lambda: self._gone(sheet))
        sheet.open()

    def _gone(self, sheet: Sheet) -> None:
        if self.sheet is sheet:
            self.sheet = None

    def store(self, number: int | None = None) -> None:
        """Ask how what is seen is stored."""
        if self.building.canvas is None:
            self.session.trouble.emit("The show has no canvas; make one in Map first.")
            return
        sheet = StoreSheet(self, self.building)
        if number is not None:
            sheet.number.setText(str(number))
            sheet.name.setText(f"Preset {number}")
            sheet.name.selectAll()
        self._open(sheet)

    def ask_variant(self, number: int, source: str) -> None:
        """A copy of a preset with a dropped source in place of the one that is selected, or that is chosen."""
        show, canvas = self.building.show, self.building.canvas
        held = sources_of_preset(show, number)
        selected = [held[canvas.id, y] for y in self.building.selected if canvas and (canvas.id, y) in held]
        names = list(dict.fromkeys(selected[-1:] or [s for s in held.values() if s != source]))
        if not names:
            self.session.trouble.emit(f"Preset {number} shows no source that could stand for another.")
        elif len(names) == 1:
            self.make_variant(number, names[0], source)
        else:
            self.variants = QMenu(self)
            self.variants.addAction(f"{show.source(source).name} instead of").setEnabled(False)
            for old in names:
                entry = self.variants.addAction(show.source(old).name)
                entry.triggered.connect(lambda checked=False, old=old: self.make_variant(number, old, source))
            self.variants.popup(QCursor.pos())

    def make_variant(self, number: int, old: str, source: str) -> None:
        """A copy of a preset with one source in place of another, under the next free number."""
        show = self.building.show
        fresh = free_number_after(show, number)
        words = f"{fresh}: as {number}, with {show.source(source).name} instead of {show.source(old).name}"
        if self.session.try_edit(words, lambda show: variant(show, number, old, source, fresh)):
            self.session.trouble.emit(f"{words}.")

    def update_preset(self) -> None:
        """Show what an update of the preset that was opened would change."""
        number = self.opened_preset()
        if number is not None:
            self._open(UpdateSheet(self, self.building, number))

    def ask_bring(self) -> None:
        """Choose another show, and bring presets from it."""
        found, _ = QFileDialog.getOpenFileName(
            self, "Bring presets from another show", str(self.session.root), f"Shows (*{SUFFIX});;All files (*)"
        )
        if found:
            self.bring_from(Path(found))

    def bring_from(self, path: Path) -> None:
        """Show the presets of another show; a bad file is told."""
        try:
            other = answered(lambda: read_show(path), path.name)
        except ShowError as error:
            self.session.trouble.emit(str(error))
            return
        self._open(BringSheet(self, self.building, other, path))

    def opened_preset(self) -> int | None:
        """The number of the preset that is worked on; None, with a sentence, if there is none."""
        stage, on = self.building.stage, self.building.on
        number = {"preview": stage.staged, "program": stage.on_program, "blind": self.building.number}[on]
        if number is None or self.building.show.preset(number) is None:
            self.session.trouble.emit("No preset was opened; click its card first, or store a new one.")
            return None
        return number

    def show_parts(self) -> None:
        """Show what the preset that was opened stores, and when each of it arrives."""
        number = self.opened_preset()
        if number is not None:
            self._open(PartsSheet(self, self.building, number))

    def compare(self) -> None:
        """Show the preset that is worked on, or on program, beside another."""
        numbers = [p.number for p in self.building.show.presets]
        if len(numbers) < 2:
            self.session.trouble.emit("There are no two presets to compare; store some first.")
            return
        stage = self.building.stage
        mine = self.building.number if self.building.on == "blind" else stage.staged
        first = next((n for n in (stage.on_program, numbers[0]) if n in numbers), numbers[0])
        others = [n for n in (mine, *numbers) if n in numbers and n != first]
        sheet = CompareSheet(self, self.building, first, others[0])
        sheet.asked_blind.connect(self._blind)
        self._open(sheet)

    def _blind(self, number: int) -> None:
        """Close the sheet and edit a preset blind."""
        if self.sheet is not None:
            self.sheet.close()
            self.sheet = None
        self.building.work_on("blind", number)

    # -- commands ------------------------------------------------------------------------------------------------

    def escape(self) -> bool:
        """Let go of a sheet, of cropping, or of the selection; says whether there was one."""
        if self.sheet is not None:
            self.sheet.close()
            self.sheet = None
            return True
        if self.canvas.cropping:
            self.canvas.crop(False)
            return True
        if self.building.selected:
            self.building.select(())
            return True
        return False

    def rename(self) -> None:
        """Rename the selected layer where it stands in the stack."""
        if self.building.selected:
            for n in range(self.layers.count()):
                item = self.layers.item(n)
                if item.data(Qt.ItemDataRole.UserRole) == self.building.selected[0]:
                    self.layers.setFocus()
                    self.layers.editItem(item)

    def undo(self) -> None:
        """Take back the last edit, on preview or of the show, whichever was later."""
        if not self.building.undo():
            self.session.undo()

    def select_all(self) -> None:
        """Select every layer that is seen and not locked."""
        canvas = self.building.canvas
        self.building.select(y.id for y in (canvas.layers if canvas is not None else ()) if not y.locked)

    def name_actions(self, book: CommandBook, add: Callable[..., None]) -> None:
        """Name what can be done here, and fill the menus."""
        building, arranging = self.building, self.arranging
        layer = [
            Named("build-add", "Layer", "Add a layer", building.add_layer, "Ctrl+L"),
            Named("build-copy", "Layer", "Copy", building.copy, "Ctrl+C"),
            Named("build-paste", "Layer", "Paste", building.paste, "Ctrl+V"),
            Named("build-crop", "Layer", "Crop by the handles, or size", self.canvas.crop, "C"),
            Named("build-try", "Layer", "Try the take here, or stop", building.try_take, "Y"),
            Named("build-safe", "Layer", "Safe areas, or none", self.canvas.show_safe, "Shift+G"),
            Named("build-hide", "Layer", "Hide, or show", building.hide, "Shift+H"),
            Named("build-solo", "Layer", "Hide all others", building.solo, "Ctrl+Shift+H"),
            Named("build-lock", "Layer", "Lock, or unlock", building.lock, "Ctrl+Shift+L"),
            Named("build-group", "Layer", "Group, or ungroup", building.group, "Ctrl+G"),
            Named("build-up", "Layer", "One up", lambda: building.step(1), "Ctrl+Up"),
            Named("build-down", "Layer", "One down", lambda: building.step(-1), "Ctrl+Down"),
            Named("build-all", "Layer", "Select all", self.select_all, "Ctrl+A"),
        ]
        arrange: list[tuple[str, str, Callable[[], Any], str]] = [
            ("fill", "Fill the surface", arranging.fill_surface, "F"),
            ("shape", "Shape of its picture", arranging.as_picture, "Shift+F"),
            ("one", "1 : 1", arranging.one_to_one, "O"),
            ("size", "Same size", arranging.same_size, ""),
            ("place", "Same place", arranging.same_place, ""),
            ("left", "Align left", lambda: arranging.align("left"), ""),
            ("middle", "Align middles upright", lambda: arranging.align("centre"), ""),
            ("right", "Align right", lambda: arranging.align("right"), ""),
            ("top", "Align tops", lambda: arranging.align("top"), ""),
            ("level", "Align middles level", lambda: arranging.align("middle"), ""),
            ("foot", "Align feet", lambda: arranging.align("foot"), ""),
            ("gaps-across", "Same gaps across", lambda: arranging.even("across"), ""),
            ("gaps-down", "Same gaps down", lambda: arranging.even("down"), ""),
            ("swap", "Swap", arranging.swap, ""),
            ("mirror", "Mirror about the middle", arranging.mirror, ""),
            ("own-box", "Own box again, no more spread", self.zones.in_own_box, ""),
        ]
        named = [*layer, *(Named(f"build-{id}", "Arrange", words, act, keys) for id, words, act, keys in arrange)]
        menus = {"Layer": self.layer_menu, "Arrange": self.arrange_menu}
        self.actions_named = named
        for action in named:
            add(action.id, "Build", f"{action.menu}: {action.words}", action.run, action.keys, where="Build")
            entry = book.actions[action.id]
            item = menus[action.menu].menu().addAction(action.words)
            item.setShortcut(entry.shortcut())
            item.setShortcutVisibleInContextMenu(True)
            item.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            item.triggered.connect(lambda checked=False, run=action.run: run())
        for n in range(BY_KEY):
            lay = partial(self.finishes.lay_number, n)
            add(f"build-finish-{n + 1}", "Build", f"Lay finish {n + 1}", lay, f"{KEY}{n + 1}", where="Build")
        for on in self.modes:
            add(f"build-{on}", "Build", f"Work on {on}", lambda on=on: self.work_on(on), where="Build")
        add("build-store", "Build", "Store as a preset…", self.store, where="Build")
        add("build-times", "Build", "Times of what the preset stores…", self.show_parts, "Ctrl+Shift+T", where="Build")
        add("build-bring", "Build", "Bring presets from another show…", self.ask_bring, where="Build")
        add("build-compare", "Build", "Compare two presets…", self.compare, where="Build")
        add("build-update", "Build", "Update the preset that was opened…", self.update_preset, "Ctrl+U", where="Build")

    def _menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        for action in self.actions_named:
            if action.menu == "Layer":
                menu.addAction(action.words).triggered.connect(lambda checked=False, run=action.run: run())
        arrange = menu.addMenu("Arrange")
        for action in self.actions_named:
            if action.menu == "Arrange":
                arrange.addAction(action.words).triggered.connect(lambda checked=False, run=action.run: run())
        menu.popup(at)
