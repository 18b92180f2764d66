"""Two presets in one room, one on each side of a line that is dragged; where they differ is hatched and listed."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHideEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QWidget

from ushering_adze.core.onair.comparing import Comparison, compared
from ushering_adze.core.show.variants import preset_of
from ushering_adze.desk import theme
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.storing import Sheet, button
from ushering_adze.desk.pictures import hatch, image_of
from ushering_adze.desk.room import HEAD, RoomView
from ushering_adze.desk.session import Session
from ushering_adze.playout import Report


class ComparedRoom(RoomView):
    """The room with one preset at the left of a line and another at the right of it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "plain")
        self.numbers = (0, 0)
        self.differing: frozenset[str] = frozenset()
        self.line = 0.5
        """Where the line is, from 0 to 1 across the room."""
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setAccessibleName("Two presets in one room")
        session.reported.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(720, 268)

    def show_presets(self, numbers: tuple[int, int], differing: frozenset[str]) -> None:
        """Show these two, and hatch what differs."""
        self.numbers, self.differing = numbers, differing
        self.update()

    def _pixels(self, surface: str, report: Report) -> NDArray[np.uint8] | None:
        return report.presets.get(self.numbers[0], {}).get(surface)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p, report = QPainter(self), self._session.report
        at = self.line * self.width()
        p.save()
        p.setClipRect(QRectF(at, HEAD, self.width() - at, self.height() - HEAD))
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for id, rect in self._where.items():
            pixels = report.presets.get(self.numbers[1], {}).get(id) if report is not None else None
            if pixels is not None:
                p.drawImage(rect, image_of(pixels))
                p.setPen(theme.hairline(theme.FAINT))
                p.drawRect(rect)
        p.restore()
        for id, rect in self._where.items():
            if id in self.differing:
                hatch(p, rect, alpha=70, step=16)
                p.setPen(theme.hairline(theme.AMBER, 1.4))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(rect)
        p.setPen(theme.hairline(theme.TEXT, 1.6))
        p.drawLine(QPointF(at, HEAD), QPointF(at, self.height() - 4))
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.right(p, QRectF(at - 110, HEAD, 100, 22), f"{self.numbers[0]}")
        theme.left(p, QRectF(at + 10, HEAD, 100, 22), f"{self.numbers[1]}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.line = min(1.0, max(0.0, event.position().x() / max(1, self.width())))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Nothing hangs elsewhere by it."""


class CompareSheet(Sheet):
    """Which two presets, the room, and the layers that differ; a click on one selects it.

    Signals
    -------
    asked_blind : a preset is to be edited blind, by its number
    """

    asked_blind = Signal(int)

    def __init__(self, over: QWidget, building: Building, first: int, second: int) -> None:
        super().__init__(over, "Compare presets")
        self.building = building
        self.room = ComparedRoom(building.session)
        self.found = Comparison((), ())
        self.boxes: list[QComboBox] = []
        line = QHBoxLayout()
        for words, number in (("Left", first), ("Right", second)):
            label = QLabel(words)
            label.setProperty("role", "dim")
            box = QComboBox()
            box.setAccessibleName(f"{words} preset")
            box.setMinimumWidth(220)
            for preset in building.show.presets:
                box.addItem(f"{preset.number}  {preset.name}", preset.number)
            box.setCurrentIndex(box.findData(number))
            box.activated.connect(self.compare)
            self.boxes.append(box)
            line.addWidget(label)
            line.addWidget(box)
        line.addStretch(1)
        self.column.addLayout(line)
        self.column.addWidget(self.room, 1)
        self.told = QLabel()
        self.told.setProperty("role", "dim")
        self.told.setWordWrap(True)
        self.layers = QListWidget()
        self.layers.setAccessibleName("Layers that differ")
        self.layers.setMinimumHeight(110)
        self.layers.setMaximumHeight(150)
        self.layers.itemClicked.connect(self._chosen)
        self.column.addWidget(self.told)
        self.column.addWidget(self.layers)
        foot = QHBoxLayout()
        self.blind = [button("", self._blind_left), button("", self._blind_right)]
        for made in self.blind:
            foot.addWidget(made)
        foot.addStretch(1)
        foot.addWidget(button("Close", self.close))
        self.column.addLayout(foot)
        building.session.show_changed.connect(self.compare)
        self.compare()

    @property
    def numbers(self) -> tuple[int, int]:
        """The two presets."""
        left, right = (int(box.currentData()) for box in self.boxes)
        return left, right

    def compare(self, _: Any = None) -> None:
        """Tell what differs between the two that are chosen."""
        left, right = self.numbers
        show = self.building.show
        if show.preset(left) is None or show.preset(right) is None:
            self.close()
            return
        self.found = compared(self.building.stage.with_show(show, 0.0), left, right)
        self.building.session.playout.glimpse("compare", (left, right))
        self.room.show_presets((left, right), frozenset(c.surface for c in self.found.surfaces))
        names = [show.surface(c.surface).name for c in self.found.surfaces]
        self.told.setText(f"Differs on {', '.join(names)}." if names else "Every surface shows the same.")
        self.layers.clear()
        for differs in self.found.layers:
            item = QListWidgetItem(f"{differs.name}:  {differs.words}")
            item.setData(Qt.ItemDataRole.UserRole, differs.key)
            self.layers.addItem(item)
        for made, number in zip(self.blind, (left, right), strict=True):
            made.setText(f"Edit {number} blind")
            made.setToolTip(preset_of(show, number).name)

    def _chosen(self, item: QListWidgetItem) -> None:
        canvas, layer = item.data(Qt.ItemDataRole.UserRole)
        self.building.choose_canvas(canvas)
        self.building.select((layer,))

    def _blind_left(self) -> None:
        self.asked_blind.emit(self.numbers[0])

    def _blind_right(self) -> None:
        self.asked_blind.emit(self.numbers[1])

    def hideEvent(self, event: QHideEvent) -> None:
        self.building.session.playout.glimpse("compare", ())
