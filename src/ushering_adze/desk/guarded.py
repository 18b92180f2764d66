"""A button that acts only when it is kept pressed."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.desk import theme

HOLD_MS = 600
STEP_MS = 20


class GuardedButton(QWidget):
    """Press and keep pressed for 0.6 s to switch; the bar at its foot fills meanwhile.

    Signals
    -------
    switched : bool
        The new state.
    """

    switched = Signal(bool)

    def __init__(self, words: str, token: str) -> None:
        super().__init__()
        self._words, self._token = words, token
        self.on = False
        self._pressed_ms = -1
        self._since = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(STEP_MS)
        self._timer.timeout.connect(self._step)
        self.setMinimumSize(92, theme.TOUCH)
        self.setAccessibleName(words)
        self.setToolTip("Press and keep pressed")

    def sizeHint(self) -> QSize:
        return QSize(98, theme.TOUCH)

    @property
    def pressed(self) -> bool:
        """Whether it is being kept pressed."""
        return self._pressed_ms >= 0

    def press(self) -> None:
        """Begin to keep it pressed, from a key or the mouse."""
        if self._pressed_ms < 0:
            self._pressed_ms = 0
            self._since.start()
            self._timer.start()

    def release(self) -> None:
        """Let go; too early means nothing happens."""
        self._pressed_ms = -1
        self._timer.stop()
        self.update()

    def set_on(self, on: bool) -> None:
        """Show the state that is really in force."""
        if on != self.on:
            self.on = on
            self.update()

    def _step(self) -> None:
        # Time in which the desk was not served does not count: letting go may be waiting behind it.
        self._pressed_ms += min(int(self._since.restart()), STEP_MS * 3)
        if self._pressed_ms >= HOLD_MS:
            self.on = not self.on
            self._timer.stop()
            self._pressed_ms = HOLD_MS
            self.switched.emit(self.on)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.press()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.release()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        p.setPen(theme.hairline(self._token, 1.2))
        p.setBrush(theme.colour(self._token) if self.on else theme.colour(theme.PANEL))
        p.drawRoundedRect(rect, 3, 3)
        if self._pressed_ms > 0:
            p.fillRect(
                QRectF(3, self.height() - 7, (self.width() - 6) * min(1, self._pressed_ms / HOLD_MS), 4),
                theme.colour(theme.GROUND if self.on else self._token),
            )
        p.setFont(theme.font(13, bold=True))
        words = theme.RED_WORDS if self._token == theme.RED else self._token
        p.setPen(theme.colour(theme.GROUND if self.on else words))
        theme.centred(p, rect, self._words)
