"""The main window: top bar, workspace, sill; the actions; and the keys of the show."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSettings, QSize, Qt
from PySide6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.onair.actions import BringBack, Recall, StagePreset, Unstage
from ushering_adze.core.show import Show
from ushering_adze.desk import theme
from ushering_adze.desk.commands import CommandBook
from ushering_adze.desk.notice import Notice
from ushering_adze.desk.output_windows import Outputs, binding_choices
from ushering_adze.desk.qt import application
from ushering_adze.desk.recent import Recent
from ushering_adze.desk.run.stills import StillKeeper
from ushering_adze.desk.run.workspace import RunWorkspace
from ushering_adze.desk.session import Session
from ushering_adze.desk.sill import Sill
from ushering_adze.desk.topbar import WORKSPACES, TopBar
from ushering_adze.io.showfile import SUFFIX

if TYPE_CHECKING:
    from ushering_adze.desk.align.workspace import AlignWorkspace
    from ushering_adze.desk.build.workspace import BuildWorkspace
    from ushering_adze.desk.finder import Finder, KeySheet
    from ushering_adze.desk.gathering import Gathering
    from ushering_adze.desk.log_sheet import LogSheet
    from ushering_adze.desk.map.workspace import MapWorkspace
    from ushering_adze.desk.rig.workspace import RigWorkspace
    from ushering_adze.desk.run.by_surface import BySurface
    from ushering_adze.desk.versions_sheet import VersionsSheet

LEAVING = 0.6
"""Seconds in which sources must have ended when the program does; the process goes after that, whoever hangs."""
OWN_KEYS = ("Map", "Align", "Build")
"""Workspaces whose keys mean something there only."""


class MainWindow(QMainWindow):
    """The window of one show.

    With ``whole`` false it has the top bar, Run and the sill, and the keys of the show; `furnish` gives it the rest, at
    the latest when another workspace is asked for.
    """

    map: MapWorkspace
    rig: RigWorkspace
    align: AlignWorkspace
    build: BuildWorkspace
    by_surface: BySurface
    gathering: Gathering
    finder: Finder
    sheet: KeySheet
    log_sheet: LogSheet
    versions_sheet: VersionsSheet
    as_run_sheet: LogSheet

    def __init__(self, session: Session, whole: bool = True) -> None:
        super().__init__()
        self.session = session
        with theme.undressed(application()):
            self._build()
            if whole:
                self._furnish()
        self._restore(geometry=True)
        self.setFocus()

    def _build(self) -> None:
        session = self.session
        self.setWindowTitle("Ushering Adze")
        self.setMinimumSize(1024, 640)
        self.resize(1280, 800)
        self.outputs = Outputs(session)
        self.top, self.sill = TopBar(session), Sill(session)
        self.run = RunWorkspace(session)
        self.stills = StillKeeper(session)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.run)
        self.pages: dict[str, QWidget] = {"Run": self.run}
        body = QWidget()
        body.setObjectName("plain")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top)
        column.addWidget(self.stack, 1)
        column.addWidget(self.sill)
        self.setCentralWidget(body)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        application().focusChanged.connect(self._focus_moved)
        self.book = CommandBook(self)
        self.notice = Notice(self)
        self.question: QMessageBox | None = None
        self.refusal: QMessageBox | None = None
        self.recent = Recent(session, self)
        self.recent.chosen.connect(self._open_recent)
        self.recent.begun.connect(self._begin_with)
        self._typed = ""
        self._left = False
        self.workspace = "Run"
        self._furnished = False
        self.top.chosen.connect(self.show_workspace)
        self.top.proof_asked.connect(self._show_proof)
        self.outputs.key_pressed.connect(self._key_from_output)
        session.trouble.connect(self._trouble)
        session.refused.connect(self._refused)
        session.conflicted.connect(self._conflicted)
        session.named.connect(self._name)
        self.show_workspace("Run")
        self._name()

    def furnish(self) -> None:
        """Build the other workspaces, and the commands and menus of all, if that is not done yet."""
        if not self._furnished:
            with theme.undressed(application()):
                self._furnish()

    def _furnish(self) -> None:
        self._furnished = True
        from ushering_adze.desk.align.workspace import AlignWorkspace
        from ushering_adze.desk.build.workspace import BuildWorkspace
        from ushering_adze.desk.finder import Finder, KeySheet
        from ushering_adze.desk.gathering import Gathering
        from ushering_adze.desk.log_sheet import LogSheet, as_run_today
        from ushering_adze.desk.map.workspace import MapWorkspace
        from ushering_adze.desk.rig.workspace import RigWorkspace
        from ushering_adze.desk.run.by_surface import BySurface
        from ushering_adze.desk.versions_sheet import VersionsSheet
        from ushering_adze.desk.watch.workspace import WatchWorkspace
        from ushering_adze.desk.window_commands import name_commands

        self.run.furnish()
        self.run.plan.opened.connect(self._open_blind)
        self.map, self.rig = MapWorkspace(self.session), RigWorkspace(self.session, self.outputs)
        self.align = AlignWorkspace(self.session, self.map.guides)
        self.build = BuildWorkspace(self.session, self.map.guides)
        self.watch = WatchWorkspace(self.session)
        made = {"Map": self.map, "Rig": self.rig, "Align": self.align, "Build": self.build, "Watch": self.watch}
        for name in WORKSPACES:
            if name not in self.pages:
                self.pages[name] = made[name]
                self.stack.addWidget(self.pages[name])
        self.by_surface, self.gathering = BySurface(self.session), Gathering(self.session)
        self.finder, self.sheet = Finder(self, self.book), KeySheet(self, self.book)
        self.sheet.setGeometry(self.rect())
        self.log_sheet, self.versions_sheet = LogSheet(self), VersionsSheet(self, self.session)
        self.as_run_sheet = LogSheet(self, "What was on", as_run_today)
        name_commands(self)
        self._make_menu()
        self._enable_keys()
        self._restore()

    # -- commands ------------------------------------------------------------------------------------------------

    def _make_menu(self) -> None:
        menus: dict[str, QMenu] = {}
        for id, command in self.book.commands.items():
            if command.id.startswith("nudge-"):
                continue
            if command.menu not in menus:
                if command.menu == "Help":
                    self._output_menu = self.top.menu.addMenu("Outputs")
                    self._output_menu.aboutToShow.connect(self._fill_output_menu)
                menus[command.menu] = self.top.menu.addMenu(command.menu)
            menus[command.menu].addAction(self.book.actions[id])
        self.top.menu.aboutToShow.connect(self._name_undo)

    def _name_undo(self) -> None:
        for id, verb, label in (("undo", "Undo", self.session.undo_label), ("redo", "Redo", self.session.redo_label)):
            self.book.actions[id].setText(f"{verb}: {label}" if label else verb)

    def _fill_output_menu(self) -> None:
        self._output_menu.clear()
        for output in self.session.show.outputs:
            menu = self._output_menu.addMenu(f"{output.number} {output.name}")
            for words, binding in binding_choices():
                action = menu.addAction(words)
                action.setCheckable(True)
                action.setChecked(output.binding == binding)
                action.triggered.connect(lambda checked=False, id=output.id, b=binding: self.outputs.bind(id, b))

    # -- workspaces ----------------------------------------------------------------------------------------------

    def _show_proof(self) -> None:
        self.show_workspace("Map")
        self.map.show_side(1)

    def watch_page(self, page: int) -> None:
        """Watch, at one of its pages."""
        self.show_workspace("Watch")
        self.watch.turn_to(page)

    def show_workspace(self, name: str) -> None:
        """Bring a workspace to the front."""
        if name not in self.pages:
            self.furnish()
        self.workspace = name
        self.stack.setCurrentWidget(self.pages[name])
        self.top.show_chosen(name)
        self._enable_keys()
        self.setFocus()

    def _enable_keys(self) -> None:
        """Keys of one workspace only: elsewhere they may mean something else."""
        taken = {c.keys for c in self.book.commands.values() if c.where in OWN_KEYS}
        for id, command in self.book.commands.items():
            elsewhere = command.where in OWN_KEYS or (command.where in ("Run", "Rig") and command.keys in taken)
            if elsewhere and command.keys and not command.by_window:
                self.book.actions[id].setEnabled(self.workspace == command.where)

    def undo(self) -> None:
        """Take back the last edit; in Build also one on preview."""
        if self.workspace == "Build":
            self.build.undo()
        else:
            self.session.undo()

    def only_in_rig(self, act: Callable[[], object]) -> None:
        """Edits of what is rigged: never from another workspace, where the same keys may be meant for
        something else.
        """
        if self.workspace == "Rig" and self.rig.stack.currentWidget() is self.rig.views:
            act()
        else:
            self.notice.say("This edits the rig: it works on the signal path in Rig (Alt+1).")

    def here(self, in_rig: Callable[[], object], in_map: Callable[[], object], in_build: Callable[[], object]) -> None:
        """What a key means in Rig, in Map and in Build."""
        if self.workspace == "Map":
            in_map()
        elif self.workspace == "Build":
            in_build()
        else:
            self.only_in_rig(in_rig)

    def in_rig(self, act: Callable[[], object]) -> None:
        self.show_workspace("Rig")
        act()

    # -- files ---------------------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Choose a show file and open it."""
        if not self._may_leave("open another show"):
            return
        path, _ = QFileDialog.getOpenFileName(
            self, "Open a show", str(self.session.root), f"Shows (*{SUFFIX});;All files (*)"
        )
        if path:
            self.session.open(Path(path))

    def save(self) -> bool:
        """Save, asking for a name if there is none yet."""
        return self.session.save() if self.session.path else self.ask_save()

    def ask_save(self) -> bool:
        """Choose a name and save under it."""
        start = self.session.path or Path.home() / f"{self.session.show.name.lower().replace(' ', '-')}{SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(self, "Save the show", str(start), f"Shows (*{SUFFIX})")
        if not path:
            return False
        return self.session.save(Path(path) if Path(path).suffix else Path(path + SUFFIX))

    def new_show(self) -> None:
        """Ask what a new show is to have, and open it."""
        from ushering_adze.desk.new_show import NewShowSheet

        self.new_sheet = NewShowSheet(self)
        self.new_sheet.made.connect(self._begin)
        self.new_sheet.open()

    def _begin(self, show: Show) -> None:
        if self._begin_with(show):
            self.new_sheet.close()
            self.show_workspace("Build")

    def _begin_with(self, show: Show) -> bool:
        return self._may_leave("begin another show") and self.session.begin(show)

    def _open_recent(self, path: Path) -> None:
        if self._may_leave("open another show"):
            self.session.open(path)

    def new_from_demo(self) -> None:
        """Open a fresh copy of the demo show."""
        if self._may_leave("open the demo"):
            self.session.new_from_demo()

    def _may_leave(self, to_do: str) -> bool:
        if not self.session.edited:
            return True
        box = QMessageBox(
            QMessageBox.Icon.NoIcon,
            "Ushering Adze",
            f"Save the edits to {self.session.show.name} before you {to_do}?",
            QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel,
            self,
        )
        answer = box.exec()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

    def _trouble(self, sentence: str) -> None:
        self.notice.say(sentence)

    def _refused(self, sentence: str) -> None:
        """A dialog beside the running show: it says the sentence and blocks nothing."""
        if self.refusal is not None:
            self.refusal.close()
        self.refusal = QMessageBox(
            QMessageBox.Icon.NoIcon, "Ushering Adze", sentence, QMessageBox.StandardButton.Ok, self
        )
        self.refusal.setModal(False)
        self.refusal.show()

    def _conflicted(self, sentence: str) -> None:
        """The same, with the choice to save all the same."""
        self._refused(sentence)
        assert self.refusal is not None
        self.refusal.setStandardButtons(QMessageBox.StandardButton.Cancel)
        over = self.refusal.addButton("Save over it", QMessageBox.ButtonRole.DestructiveRole)
        other = self.refusal.addButton("Save as…", QMessageBox.ButtonRole.ActionRole)
        over.clicked.connect(lambda: self.session.save(insist=True))
        other.clicked.connect(self.ask_save)
        self.refusal.setDefaultButton(QMessageBox.StandardButton.Cancel)

    def _name(self) -> None:
        self.setWindowTitle(f"{self.session.show.name} – Ushering Adze")

    # -- keys ----------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = event.key(), event.text()
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if self.workspace == "Align" and self._align_key(event):
            return
        if plain and text.isdigit() and len(text) == 1:
            if len(self._typed) < 4:
                self._set_typed(self._typed + text)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._enter(direct=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif key == Qt.Key.Key_Space and not event.isAutoRepeat():
            (self.run.fire if self.workspace == "Run" else self.run.strip.fire)()
        elif (number := self._keyed(event)) is not None:
            self.session.playout.act(Recall(preset=number))
        elif key in (Qt.Key.Key_B, Qt.Key.Key_H) and plain and not event.isAutoRepeat():
            (self.sill.black if key == Qt.Key.Key_B else self.sill.hold).press()
        elif self.workspace == "Map" and key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx = {Qt.Key.Key_Left: -step, Qt.Key.Key_Right: step}.get(Qt.Key(key), 0)
            dy = {Qt.Key.Key_Up: -step, Qt.Key.Key_Down: step}.get(Qt.Key(key), 0)
            self.map.nudge(dx, dy)
        else:
            super().keyPressEvent(event)

    def _keyed(self, event: QKeyEvent) -> int | None:
        """The preset that a key recalls."""
        if event.isAutoRepeat():
            return None
        pressed = QKeySequence(event.keyCombination()).toString(QKeySequence.SequenceFormat.PortableText)
        return next((p.number for p in self.session.show.presets if p.key == pressed), None)

    def _key_from_output(self, event: QKeyEvent) -> None:
        """A key that came to an output's window, for whatever reason, is a key of the show: the desk gets it, and the
        keyboard back.
        """
        self.activateWindow()
        pressed = QKeySequence(event.keyCombination())
        action = next((a for a in self.actions() if a.isEnabled() and pressed in a.shortcuts()), None)
        if action is not None and event.type() == QKeyEvent.Type.KeyPress:
            action.trigger()
        elif event.type() == QKeyEvent.Type.KeyPress:
            self.keyPressEvent(event)
        else:
            self.keyReleaseEvent(event)

    def _align_key(self, event: QKeyEvent) -> bool:
        """Arrows move points by 1, 10 or a tenth of a pixel; Enter closes a mask; says whether the key meant something
        in Align.
        """
        held = event.modifiers()
        step = (
            10.0
            if held & Qt.KeyboardModifier.ShiftModifier
            else 0.1
            if held & Qt.KeyboardModifier.ControlModifier
            else 1.0
        )
        way = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}.get(
            Qt.Key(event.key())
        )
        if way is not None:
            self.align.nudge(way[0] * step, way[1] * step)
            return True
        return event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.align.enter()

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat() and event.key() in (Qt.Key.Key_B, Qt.Key.Key_H):
            (self.sill.black if event.key() == Qt.Key.Key_B else self.sill.hold).release()
        super().keyReleaseEvent(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.WindowDeactivate:
            self._let_go()
        return super().event(event)

    def _focus_moved(self, old: QWidget | None, new: QWidget | None) -> None:
        self._let_go()

    def _let_go(self) -> None:
        """What was kept pressed may be let go where this window does not see it: that must not fire."""
        self.sill.black.release()
        self.sill.hold.release()

    def _set_typed(self, typed: str) -> None:
        self._typed = typed
        self.run.deck.show_typed(typed)
        if self._furnished:
            self.build.show_typed(typed)

    def _enter(self, direct: bool) -> None:
        if not self._typed:
            if direct and self.workspace == "Build":
                self.build.store()
            elif self.run.cueing and self.workspace == "Run":
                self.run.cues.go()
            return
        number = int(self._typed)
        self._set_typed("")
        if self.run.cueing and self.workspace == "Run" and not direct:
            if not self.run.cues.arm_number(number):
                self.notice.say(f"There is no cue {number} in this list; type the number of one.")
            return
        if self.session.show.preset(number) is None and direct and self.workspace == "Build":
            self.build.store(number)
        elif self.session.show.preset(number) is None:
            self.notice.say(f"There is no preset {number}; type a number that is in the deck.")
        elif direct:
            self.session.playout.act(Recall(preset=number))
        else:
            self.session.playout.act(StagePreset(preset=number))

    def _escaped(self) -> bool:
        """Whether the workspace had something to let go of."""
        if self.workspace == "Align":
            return self.align.escape()
        if self.workspace == "Build" and not isinstance(self.focusWidget(), QLineEdit):
            return self.build.escape()
        return self.workspace == "Map" and not isinstance(self.focusWidget(), QLineEdit) and self.map.escape()

    def _open_blind(self, number: int, surface: str) -> None:
        """A preset in Build, blind, with a surface selected: nothing of it is staged."""
        self.session.select_surface(surface)
        self.show_workspace("Build")
        self.build.building.work_on("blind", number)

    def bring_back(self) -> None:
        """Show the selected source itself again, or all that come back by hand."""
        show, chosen = self.session.show, self.session.source
        waiting = [s.id for s in show.sources if s.when_lost.by_hand]
        for id in [chosen] if chosen in waiting else waiting:
            self.session.playout.act(BringBack(source=id))

    def clear_typed(self) -> None:
        """Forget typed digits; with none typed, clear the preview."""
        if self._typed:
            self._set_typed("")
        elif self._escaped():
            pass
        elif isinstance(self.focusWidget(), QLineEdit):
            self.setFocus()
        else:
            self.session.playout.act(Unstage())

    # -- the window ----------------------------------------------------------------------------------------------

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._furnished:
            self.sheet.setGeometry(self.rect())
        super().resizeEvent(event)

    def _restore(self, geometry: bool = False) -> None:
        settings = QSettings()
        if geometry and settings.value("window/geometry") is not None:
            self.restoreGeometry(settings.value("window/geometry"))
        for name, splitter in self._splitters():
            state = settings.value(f"window/{name}")
            if state is not None:
                splitter.restoreState(state)

    def _splitters(self) -> list[tuple[str, QSplitter]]:
        found = [("run", self.run.split)]
        if self._furnished:
            found += [("map", self.map.split), ("rig", self.rig.split), ("rig-views", self.rig.views)]
        return found

    def _keep(self) -> None:
        settings = QSettings()
        settings.setValue("window/geometry", self.saveGeometry())
        for name, splitter in self._splitters():
            settings.setValue(f"window/{name}", splitter.saveState())
        settings.sync()

    def closing_question(self) -> QMessageBox:
        """The one question before the show ends."""
        live = len(self.outputs.windows)
        words = f"Close {self.session.show.name}?"
        detail = f"{live} output window{'s' if live != 1 else ''} will close with it." if live else "The show stops."
        buttons = QMessageBox.StandardButton.Close | QMessageBox.StandardButton.Cancel
        if self.session.edited:
            detail += " There are edits that no file holds; they stay in the list of earlier versions."
            buttons |= QMessageBox.StandardButton.Save
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Ushering Adze", words, buttons, self)
        box.setInformativeText(detail)
        box.setDefaultButton(QMessageBox.StandardButton.Cancel)
        return box

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._left:
            event.accept()
            return
        self.question = self.closing_question()
        answer = self.question.exec()
        self.question = None
        if answer == QMessageBox.StandardButton.Cancel or (
            answer == QMessageBox.StandardButton.Save and not self.save()
        ):
            event.ignore()
            return
        self.leave(wanted=False)
        event.accept()

    def leave(self, wanted: bool = True) -> None:
        """End without a question; edits that no file holds are ``wanted`` back at the next opening, or only kept as a
        version.
        """
        if self._left:
            return
        self._left = True
        self.session.filing.close(wanted)
        self._keep()
        self.outputs.close()
        if self._furnished:
            self.map.close_all()
            self.align.close_all()
        self.session.playout.stop(LEAVING)
