"""Looking back: what every surface showed at a moment of the last quarter of an hour."""

from __future__ import annotations

import math
import time

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QSlider, QVBoxLayout, QWidget

from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.playout import Remembered

STEP = 10
"""Seconds of a step."""


class _Pictures(QWidget):
    """The pictures of a moment, each with its surface's name and what it showed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.shown: Remembered | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("What surfaces showed")

    def sizeHint(self) -> QSize:
        return QSize(960, 480)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        surfaces = self._session.show.surfaces
        if self.shown is None or not surfaces:
            p.setPen(theme.colour(theme.DIM))
            p.setFont(theme.font(15))
            theme.centred(p, QRectF(self.rect()), "Nothing is remembered yet")
            return
        columns = math.ceil(math.sqrt(len(surfaces) * self.width() / max(1, self.height()) / 1.6))
        rows = math.ceil(len(surfaces) / columns)
        wide, high = self.width() / columns, self.height() / rows
        for n, surface in enumerate(surfaces):
            box = QRectF(n % columns * wide + 6, n // columns * high + 6, wide - 12, high - 12)
            foot = QRectF(box.x(), box.bottom() - 36, box.width(), 36)
            pixels = self.shown.pictures.get(surface.id)
            if pixels is not None:
                room = box.adjusted(0, 0, 0, -40)
                k = min(room.width() / pixels.shape[1], room.height() / pixels.shape[0])
                w, h = pixels.shape[1] * k, pixels.shape[0] * k
                at = QRectF(room.center().x() - w / 2, room.center().y() - h / 2, w, h)
                p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                p.drawImage(at, image_of(pixels))
            p.setFont(theme.font(13, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            p.drawText(foot, int(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignHCenter), surface.name)
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.DIM))
            words = p.fontMetrics().elidedText(
                self.shown.words.get(surface.id, ""), Qt.TextElideMode.ElideRight, int(box.width())
            )
            p.drawText(foot, int(Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignHCenter), words)


class EarlierPage(QWidget):
    """A moment is chosen by dragging, by steps, or by typing nothing at all: it goes on with the time."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.pictures = _Pictures(session)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment")
        self.slider.setRange(-1, 0)
        self.clock = QLabel()
        self.clock.setFont(theme.font(20, mono=True))
        self.ago = QLabel()
        self.ago.setProperty("role", "dim")
        line = QHBoxLayout()
        line.setSpacing(6)
        line.addWidget(tool_button(f"{STEP} s back", lambda: self.step(-STEP), "Earlier"))
        line.addWidget(tool_button(f"{STEP} s on", lambda: self.step(STEP), "Later"))
        line.addWidget(self.slider, 1)
        line.addWidget(self.clock)
        line.addWidget(self.ago)
        line.addWidget(tool_button("Now", lambda: self.slider.setValue(0), "What is shown now"))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addLayout(line)
        box.addWidget(self.pictures, 1)
        self.slider.valueChanged.connect(lambda value: self.follow())
        self._timer = QTimer(self)
        self._timer.setInterval(500)
        self._timer.timeout.connect(self.follow)

    def showEvent(self, event: object) -> None:
        self._timer.start()
        self.follow()

    def hideEvent(self, event: object) -> None:
        self._timer.stop()

    def step(self, seconds: int) -> None:
        """So many seconds on, or back."""
        self.slider.setValue(self.slider.value() + seconds)

    def follow(self) -> None:
        """Show the chosen moment, which stays as long ago as it is."""
        span = self._session.playout.remembered_span
        if span is None:
            return
        first, last = span
        self.slider.setMinimum(-max(1, round(last - first)))
        found = self._session.playout.remembered(last + self.slider.value())
        self.pictures.shown = found
        if found is not None:
            self.clock.setText(time.strftime("%H:%M:%S", time.localtime(found.at)))
            ago = round(last - found.at)
            self.ago.setText("now" if ago < 2 else f"{ago // 60}:{ago % 60:02} ago")
        self.pictures.update()
