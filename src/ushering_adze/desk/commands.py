"""Every action of the desk by name: what it is called, its key, and what it does.  Menus, finder and key sheet all read
this.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

Menu = str


@dataclass(frozen=True)
class Command:
    """One action.  ``keys`` in Qt's portable text; keys that are ``held`` or ``by_window`` are handled by the window
    itself.
    """

    id: str
    menu: Menu
    words: str
    run: Callable[[], object]
    keys: str = ""
    held: bool = False
    by_window: bool = False
    where: str = ""


class CommandBook:
    """Holds commands and makes the actions of a window from them."""

    def __init__(self, owner: QWidget) -> None:
        self._owner = owner
        self.commands: dict[str, Command] = {}
        self.actions: dict[str, QAction] = {}

    def add(
        self,
        id: str,
        menu: Menu,
        words: str,
        run: Callable[[], object],
        keys: str = "",
        held: bool = False,
        by_window: bool = False,
        where: str = "",
    ) -> None:
        """Add a command; its key works in the whole window."""
        assert id not in self.commands, f"two commands are called {id}"
        command = Command(id, menu, words, run, keys, held, by_window, where)
        action = QAction(words, self._owner)
        if keys and not held and not by_window:
            action.setShortcuts([QKeySequence(k) for k in keys.split(" | ")])
        action.triggered.connect(lambda checked=False: run())
        self._owner.addAction(action)
        self.commands[id], self.actions[id] = command, action

    def found(self, typed: str) -> list[Command]:
        """Commands whose words or menu hold every typed word, best first."""
        words = typed.lower().split()
        hits = [c for c in self.commands.values() if all(w in f"{c.menu} {c.words}".lower() for w in words)]
        return sorted(hits, key=lambda c: (not any(c.words.lower().startswith(w) for w in words), c.menu, c.words))


def key_words(command: Command) -> str:
    """A command's key as it is printed on the keyboard."""
    text = " or ".join(
        QKeySequence(k).toString(QKeySequence.SequenceFormat.NativeText) for k in command.keys.split(" | ") if k
    )
    return f"{text}, kept pressed" if command.held else text
