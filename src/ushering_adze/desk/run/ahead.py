"""The armed cue, legible from afar, what comes behind it, and how the evening stands."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.show.cue import Cue, number_words
from ushering_adze.desk import theme

AHEAD = 94
"""Pixels that it is high."""


def words_of(cue: Cue | None) -> str:
    """A cue by its number and name."""
    return "" if cue is None else f"{number_words(cue.number)}  {cue.name}".strip()


class Ahead(QWidget):
    """The armed cue in large letters, and what comes behind it."""

    def __init__(self) -> None:
        super().__init__()
        self._lines = ("", "", "")
        self._clock = ("", False)
        self.left = ("", "")
        """Time left of what is on air, and what that is."""
        self.setMinimumHeight(AHEAD)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("The armed cue")

    def sizeHint(self) -> QSize:
        return QSize(260, AHEAD)

    def hold(
        self,
        armed: str,
        fires: str,
        then: str,
        clock: str = "",
        late: bool = False,
        left: str = "",
        of: str = "",
    ) -> None:
        """Show these words; how the evening stands at the foot, amber if it is late; large, the time left of what is on
        air.
        """
        if (armed, fires, then) != self._lines or (clock, late) != self._clock or (left, of) != self.left:
            self._lines, self._clock, self.left = (armed, fires, then), (clock, late), (left, of)
            self.setAccessibleDescription(". ".join(self._lines))
            self.update()

    @property
    def clock(self) -> str:
        """How the evening stands, in words."""
        return self._clock[0]

    @property
    def lines(self) -> tuple[str, str, str]:
        """The words that are shown."""
        return self._lines

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        armed, fires, then = self._lines
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        theme.preview_bar(p, QRectF(0, 0, 4, self.height()))
        left, of = self.left
        wide = self.width() - 20 - (96 if left else 0)
        if left:
            p.setFont(theme.font(26, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.right(p, QRectF(self.width() - 104, 6, 96, 34), left)
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(self.width() - 104, 40, 96, 16), of)
        p.setFont(theme.font(20, bold=True))
        p.setPen(theme.colour(theme.TEXT if armed else theme.DIM))
        theme.left(p, QRectF(12, 4, wide, 30), armed or "nothing is armed")
        p.setFont(theme.font(13))
        p.setPen(theme.colour(theme.AMBER))
        theme.left(p, QRectF(12, 33, wide, 18), fires)
        p.setPen(theme.colour(theme.DIM))
        theme.left(p, QRectF(12, 52, wide, 18), then)
        clock, late = self._clock
        p.setFont(theme.font(12))
        p.setPen(theme.colour(theme.AMBER if late else theme.DIM))
        theme.left(p, QRectF(12, 71, self.width() - 20, 18), clock)
