"""The process that makes the pictures, begun before all else is read: it reads its part on another core meanwhile."""

from __future__ import annotations

import os
from collections.abc import Sequence

from ushering_adze.io.child import PICTURES, Child

WINDOWLESS = {"--copy", "--headless", "--help"}

_children: list[Child] = []


def has_display() -> bool:
    """Whether a window can be opened."""
    if os.environ.get("QT_QPA_PLATFORM", "") in ("offscreen", "minimal", "vnc"):
        return os.environ["QT_QPA_PLATFORM"] != "minimal"
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def begin(arguments: Sequence[str]) -> None:
    """Begin it, if a command that opens a window is to do so."""
    if has_display() and not WINDOWLESS.intersection(a.split("=")[0] for a in arguments):
        _children.append(Child(PICTURES))


def begun() -> Child | None:
    """The process that has been begun; it is given once.  One that nobody wants ends with this program."""
    return _children.pop() if _children else None
