"""Shows that were opened or saved lately, and shows kept as templates."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtWidgets import QInputDialog, QMenu, QWidget

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show import Show, ShowError
from ushering_adze.desk.session import Session
from ushering_adze.io.places import state_folder
from ushering_adze.io.showfile import SUFFIX, read_show, save_show

MOST = 10
"""Shows that are remembered."""
_KEY = "recent shows"


def recent_shows() -> list[Path]:
    """Files of the shows that were open lately, the last one first; those that are gone are left out."""
    held = QSettings().value(_KEY, [])
    names = [held] if isinstance(held, str) else list(held or [])  # type: ignore[call-overload]
    return [path for name in names if (path := Path(str(name))).is_file()]


def remember(path: Path) -> None:
    """Put a show at the head of those that were open lately."""
    others = [other for other in recent_shows() if other != path.resolve()]
    QSettings().setValue(_KEY, [str(p) for p in (path.resolve(), *others)][:MOST])


def templates_folder() -> Path:
    """Where templates are kept."""
    return state_folder() / "templates"


def templates() -> list[Path]:
    """The templates there are, by name."""
    folder = templates_folder()
    return sorted(folder.glob(f"*{SUFFIX}")) if folder.is_dir() else []


def keep_template(show: Show, name: str) -> Path:
    """Keep a show as a template, in place of one of that name; its files stay where they are.

    Raises
    ------
    ShowError
        If the disk refuses.
    """
    folder = templates_folder()
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{new_id(name, set())}{SUFFIX}"
    save_show(show.model_copy(update={"name": name}), path)
    return path


class Recent(QObject):
    """The menus of recent shows and templates.

    Signals
    -------
    chosen : a recent show's file
    begun : a show made from a template
    """

    chosen = Signal(object)
    begun = Signal(object)

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__(over)
        self._session, self._over = session, over
        self.menu: QMenu | None = None
        session.named.connect(self._named)

    def _named(self) -> None:
        if self._session.path is not None and recent_shows()[:1] != [self._session.path.resolve()]:
            remember(self._session.path)

    def _popup(self, empty: str, entries: list[tuple[str, Path]]) -> QMenu | None:
        if not entries:
            self._session.trouble.emit(empty)
            return None
        self.menu = QMenu(self._over)
        self.menu.popup(self._over.mapToGlobal(self._over.rect().center()))
        return self.menu

    def show_recent(self) -> None:
        """List the shows that were open lately."""
        shows = recent_shows()
        menu = self._popup("No show was open before; open one with Ctrl+O.", [(p.stem, p) for p in shows])
        for path in shows if menu is not None else ():
            entry = menu.addAction(f"{path.stem}   {path.parent}")  # type: ignore[union-attr]
            entry.triggered.connect(lambda checked=False, path=path: self.chosen.emit(path))

    def show_templates(self) -> None:
        """List the templates, to begin a show from one."""
        kept = templates()
        menu = self._popup("There is no template; keep this show as one first.", [(p.stem, p) for p in kept])
        for path in kept if menu is not None else ():
            entry = menu.addAction(path.stem)  # type: ignore[union-attr]
            entry.triggered.connect(lambda checked=False, path=path: self.begin_from(path))

    def begin_from(self, path: Path) -> None:
        """Begin a show from a template; a bad one is told."""
        try:
            self.begun.emit(read_show(path))
        except ShowError as error:
            self._session.refused.emit(str(error))

    def ask_keep(self) -> None:
        """Ask for the name under which this show is kept as a template."""
        show = self._session.show
        name, right = QInputDialog.getText(self._over, "Keep as a template", "Name", text=show.name)
        if right and name.strip():
            self.keep(name.strip())

    def keep(self, name: str) -> None:
        """Keep this show as a template."""
        try:
            path = keep_template(self._session.show, name)
        except ShowError as error:
            self._session.trouble.emit(str(error))
            return
        self._session.trouble.emit(
            f"{name} is kept as a template; new shows begin with it from the menu ({path.name})."
        )
