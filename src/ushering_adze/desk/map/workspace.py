"""The Map workspace."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QSplitter, QVBoxLayout, QWidget

from ushering_adze.core.show.edits import find_region
from ushering_adze.desk import theme
from ushering_adze.desk.map.panel import GeometryPanel, RegionList
from ushering_adze.desk.map.views import CanvasView, OutputView
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.session import Session


def _split(orientation: Qt.Orientation, sizes: list[int], *widgets: QWidget) -> QSplitter:
    splitter = QSplitter(orientation)
    splitter.setHandleWidth(theme.GAP)
    splitter.setChildrenCollapsible(False)
    for widget in widgets:
        splitter.addWidget(widget)
    splitter.setSizes(sizes)
    return splitter


class MapWorkspace(QWidget):
    """Canvas, output raster and room side by side, linked by selection."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.canvas, self.output, self.room = CanvasView(session), OutputView(session), RoomView(session, "plain")
        self.regions, self.geometry = RegionList(session), GeometryPanel(session)
        self.picker = QComboBox()
        self.picker.setMinimumWidth(200)
        self.picker.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.picker.setAccessibleName("Canvas")
        self.live = QPushButton("Live pictures")
        self.live.setCheckable(True)
        self.live.setChecked(True)
        self.live.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        label = QLabel("Canvas")
        label.setProperty("role", "dim")
        tools = QHBoxLayout()
        tools.setContentsMargins(4, 0, 4, 0)
        for widget in (label, self.picker, self.live):
            tools.addWidget(widget)
        tools.addStretch(1)
        views = _split(Qt.Orientation.Vertical, [382, 206], self.canvas, self.room)
        middle = _split(Qt.Orientation.Vertical, [306, 282], self.output, self.geometry)
        self.split = _split(Qt.Orientation.Horizontal, [640, 366, 242], views, middle, self.regions)
        self.split.setStretchFactor(0, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(theme.GAP, 6, theme.GAP, theme.GAP)
        box.setSpacing(6)
        box.addLayout(tools)
        box.addWidget(self.split, 1)
        self.picker.activated.connect(self._pick)
        self.live.toggled.connect(self._set_live)
        session.show_changed.connect(self._fill)
        session.selection_changed.connect(self._follow)
        self._fill()

    def _fill(self) -> None:
        canvases = self._session.show.canvases
        if not any(c.id == self.canvas.canvas_id for c in canvases):
            self.canvas.canvas_id = canvases[0].id if canvases else ""
        self.picker.clear()
        for canvas in canvases:
            self.picker.addItem(f"{canvas.name} {canvas.width}×{canvas.height}", canvas.id)
        self.picker.setCurrentIndex(self.picker.findData(self.canvas.canvas_id))

    def _pick(self, index: int) -> None:
        self.canvas.canvas_id = self.picker.itemData(index)
        self.canvas.update()
        self.window().setFocus()

    def _set_live(self, on: bool) -> None:
        self.canvas.live = self.output.live = on
        self.canvas.update()
        self.output.update()

    def _follow(self) -> None:
        found = find_region(self._session.show, self._session.region) if self._session.region else None
        if found and found[0].id != self.canvas.canvas_id:
            self.canvas.canvas_id = found[0].id
            self.picker.setCurrentIndex(self.picker.findData(found[0].id))
        self.canvas.update()

    def nudge(self, dx: int, dy: int) -> None:
        """Move the selected region on the canvas."""
        if self._session.region:
            self.geometry.on_canvas.nudge(dx, dy)
