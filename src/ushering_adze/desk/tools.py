"""The line of tools above a workspace: its buttons, and menus filled from a list of named actions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from ushering_adze.desk.commands import CommandBook


class Named(NamedTuple):
    """An action: id, menu of the workspace, words, what it does, and its key."""

    id: str
    menu: str
    words: str
    run: Callable[[], object]
    keys: str = ""


def tool_button(
    words: str,
    act: Callable[[], object] | None = None,
    tip: str = "",
    checkable: bool = False,
    button: QPushButton | None = None,
) -> QPushButton:
    """A button of the line of tools; it never takes the keys from the drawings."""
    button = QPushButton(words) if button is None else button
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    button.setCheckable(checkable)
    button.setToolTip(tip)
    button.setStyleSheet("QPushButton { padding: 4px 9px; } QPushButton::menu-indicator { width: 0; }")
    if act is not None:
        button.clicked.connect(lambda checked=False: act())
    return button


def name_and_fill(
    actions: Iterable[Named], where: str, menus: Mapping[str, QPushButton], book: CommandBook, add: Callable[..., None]
) -> None:
    """Register every action for a workspace, and put it into its menu there."""
    for action in actions:
        add(action.id, where, f"{action.menu}: {action.words}", action.run, action.keys, where=where)
        entry = book.actions[action.id]
        entry.setIconText(action.words)
        item = menus[action.menu].menu().addAction(action.words)
        item.setShortcut(entry.shortcut())
        item.setShortcutVisibleInContextMenu(True)
        item.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)  # shown only: the command itself has the key
        item.triggered.connect(lambda checked=False, run=action.run: run())
