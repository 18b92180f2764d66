"""How large the interface is, in per cent: kept for this machine and laid on when the desk starts.

All of the interface grows with its text.  Outputs do not: they stay one pixel to one pixel.
"""

from __future__ import annotations

import os

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

SIZES = (80, 90, 100, 110, 125, 150, 175, 200)
LEAST = (1024, 640)
"""What the window needs of a display, in pixels of its own."""
_KEY, _FACTOR = "text size", "QT_SCALE_FACTOR"


def _settings() -> QSettings:
    return QSettings("ushering-adze", "ushering-adze")


def text_size() -> int:
    """The size that is kept; 100 if none is, or one that cannot be."""
    held = str(_settings().value(_KEY, 100))
    return int(held) if held.isdigit() and int(held) in SIZES else 100


def lay_on() -> None:
    """Have an application that is made after this at the size that is kept, unless its surroundings say otherwise."""
    if text_size() != 100:
        os.environ.setdefault(_FACTOR, f"{text_size() / 100:g}")


def step(by: int) -> str:
    """Keep the next size up (1), down (−1), or the usual one (0); says what was done in a sentence."""
    now = text_size()
    at = SIZES.index(now) + by
    if by and not 0 <= at < len(SIZES):
        return f"Text is at {now} %; there is no {'larger' if by > 0 else 'smaller'} size."
    size = SIZES[at] if by else 100
    _settings().setValue(_KEY, size)
    _settings().sync()
    return f"Text will be at {size} % when the desk is started again; what is on air stays as it is until then."


def too_large(app: QApplication) -> str | None:
    """A sentence if the window does not fit the display at this size."""
    room = app.primaryScreen().availableSize()
    if text_size() <= 100 or (room.width() >= LEAST[0] and room.height() >= LEAST[1]):
        return None
    return (
        f"At {text_size()} % the window is larger than this display; "
        "Ctrl and − makes the text smaller from the next start."
    )
