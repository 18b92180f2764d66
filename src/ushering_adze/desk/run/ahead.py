"""The armed cue, legible from afar, what comes behind it, and how the evening stands."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.show.cue import Cue, number_words
from ushering_adze.desk import theme

AHEAD = 120
"""Pixels that it is high, at least: on a tall screen it takes more."""


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
        self.setFixedHeight(AHEAD)
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
        k = self.height() / AHEAD
        wide = self.width() - 20
        self._fitted(p, QRectF(12, 2 * k, wide, 44 * k), armed or "nothing is armed", 36 * k, bool(armed))
        self._fitted(p, QRectF(12, 46 * k, wide, 30 * k), then, 25 * k, False)
        left, of = self.left
        beside = 112 * k if left else 0.0
        if left:
            p.setFont(theme.font(round(26 * k), bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.right(p, QRectF(self.width() - beside - 8, 76 * k, beside, 28 * k), left)
            p.setFont(theme.font(round(11 * k)))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(self.width() - beside - 8, 104 * k, beside, 14 * k), of)
        p.setFont(theme.font(round(13 * k)))
        p.setPen(theme.colour(theme.AMBER))
        theme.left(p, QRectF(12, 80 * k, wide - beside, 18 * k), fires)
        clock, late = self._clock
        p.setFont(theme.font(round(12 * k)))
        p.setPen(theme.colour(theme.AMBER if late else theme.DIM))
        theme.left(p, QRectF(12, 99 * k, wide - beside, 18 * k), clock)

    @staticmethod
    def _fitted(p: QPainter, box: QRectF, words: str, size: float, strong: bool) -> None:
        """Words as large as they find room, legible from afar: no smaller than half the size."""
        for share in (1.0, 0.85, 0.72, 0.6, 0.5):
            p.setFont(theme.font(round(size * share), bold=True))
            if p.fontMetrics().horizontalAdvance(words) <= box.width():
                break
        p.setPen(theme.colour(theme.TEXT if strong else theme.DIM))
        theme.left(p, box, words)
