"""The Map workspace."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSlider,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.regions import picked, rect_of
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.find_shapes import Found
from ushering_adze.core.show.edits import find_region
from ushering_adze.desk import theme
from ushering_adze.desk.commands import CommandBook
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.drafting.raster_view import ShownAs
from ushering_adze.desk.map.actions import MapActions, named_actions
from ushering_adze.desk.map.benchtop import Benchtop
from ushering_adze.desk.map.canvas_drawing import Tool
from ushering_adze.desk.map.canvas_view import CanvasView
from ushering_adze.desk.map.linked_room import LinkedRoom
from ushering_adze.desk.map.lists import CheckPanel, RegionList
from ushering_adze.desk.map.loupe import Loupe
from ushering_adze.desk.map.output_view import OutputView
from ushering_adze.desk.map.panel import GeometryPanel
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import name_and_fill, tool_button

WIDE = 1260
MENUS = ("Regions", "Arrange", "Land", "Make", "Guide", "Exchange")


def _split(orientation: Qt.Orientation, sizes: list[int], *widgets: QWidget) -> QSplitter:
    splitter = QSplitter(orientation)
    splitter.setHandleWidth(theme.GAP)
    splitter.setChildrenCollapsible(False)
    for widget in widgets:
        splitter.addWidget(widget)
    splitter.setSizes(sizes)
    return splitter


class MapWorkspace(QWidget):
    """Canvas, output raster and room side by side, linked by selection and by the pixel pointed at."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.guides = Guides(session)
        self.canvas, self.output, self.room = (
            CanvasView(session, self.guides),
            OutputView(session, self.guides),
            LinkedRoom(session),
        )
        self.regions, self.check, self.geometry_panel = RegionList(session), CheckPanel(session), GeometryPanel(session)
        self.loupe = Loupe(session, self.guides, self.canvas)
        self.bench = Benchtop(session)
        self.actions_of = MapActions(
            session, self.guides, self, lambda: self.canvas.canvas, self._lands_on, self.show_canvas
        )
        self.canvas.drawn.connect(self._drawn)
        self.canvas.resized.connect(self._lay_loupe)
        self.canvas.accepted.connect(lambda found: self._accept(found, False))
        self.output.accepted.connect(lambda found: self._accept(found, True))
        self.geometry_panel.colour.clicked.connect(self._choose_colour)
        self.menus: dict[str, QPushButton] = {}
        tools = self._make_tools()
        self.guide_bar = self._make_guide_bar()
        side = self._make_side()
        views = _split(Qt.Orientation.Vertical, [420, 168], self.canvas, self.room)
        middle = _split(Qt.Orientation.Vertical, [286, 302], self.output, self.geometry_panel)
        self.split = _split(Qt.Orientation.Horizontal, [620, 370, 258], views, middle, side)
        self.split.setStretchFactor(0, 1)
        box = QVBoxLayout(self)
        box.setContentsMargins(theme.GAP, 6, theme.GAP, theme.GAP)
        box.setSpacing(6)
        box.addLayout(tools)
        box.addWidget(self.guide_bar)
        box.addWidget(self.split, 1)
        session.show_changed.connect(self._fill)
        session.selection_changed.connect(self._follow)
        session.checked.connect(self._checked)
        self.guides.changed.connect(self._fill_guide)
        self._fill()
        self._checked()

    # -- making --------------------------------------------------------------------------------------------------

    def _make_tools(self) -> QHBoxLayout:
        self.picker = QComboBox()
        self.picker.setMinimumWidth(150)
        self.picker.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.picker.setAccessibleName("Canvas")
        self.picker.activated.connect(self._pick)
        self.draw = tool_button(
            "Draw", lambda: self.use("draw" if self.canvas.tool != "draw" else "select"), "Draw a region (R)", True
        )
        self.measure = tool_button(
            "Measure", lambda: self.use("measure" if self.canvas.tool != "measure" else "select"), "Measure (M)", True
        )
        self.snap = tool_button("Snap", self._snap, "Edges, centre lines and other regions (S); Alt drags freely", True)
        self.snap.setChecked(True)
        tools = QHBoxLayout()
        tools.setContentsMargins(4, 0, 4, 0)
        tools.setSpacing(5)
        for widget in (self.picker, self.draw, self.measure, self.snap):
            tools.addWidget(widget)
        for name in MENUS:
            self.menus[name] = tool_button(name)
            self.menus[name].setMenu(QMenu(self))
            tools.addWidget(self.menus[name])
        tools.addStretch(1)
        self.spare = [self.measure]
        for words, act, tip in (
            ("Fit", self.fit, "Show all (Home)"),
            ("1:1", self.one_to_one, "One pixel to one (Ctrl+0)"),
            ("Zoom", self.zoom_to_selection, "To the selection (Z)"),
        ):
            self.spare.append(tool_button(words, act, tip))
            tools.addWidget(self.spare[-1])
        self.loupe_button = tool_button("Loupe", self.toggle_loupe, "Pixels around the pointer (L)", True)
        self.bench_button = tool_button(
            "Benchtop", self.toggle_bench, "All surfaces on one display, beside the real mapping", True
        )
        tools.addWidget(self.loupe_button)
        tools.addWidget(self.bench_button)
        self.spare += [self.bench_button, self.snap]
        return tools

    def _make_guide_bar(self) -> QWidget:
        self.guide_words = QLabel()
        self.guide_words.setProperty("role", "dim")
        self.opacity = QSlider(Qt.Orientation.Horizontal)
        self.opacity.setRange(0, 100)
        self.opacity.setFixedWidth(120)
        self.opacity.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.opacity.setAccessibleName("Opacity of the guide")
        self.opacity.valueChanged.connect(self._set_opacity)
        self.guide_place = tool_button(
            "under the canvas", self._other_guide, "Whose guide this line is about: the canvas', or the raster's"
        )
        self.find_button = tool_button("Find rectangles", self.actions_of.find, "Shift+G")
        self.accept_button = tool_button(
            "Accept all", self.actions_of.accept, "Shift+A; a click on one accepts that one"
        )
        self.drop_button = tool_button("Dismiss", self._dismiss, "Forget what was found")
        bar = QWidget()
        line = QHBoxLayout(bar)
        line.setContentsMargins(4, 0, 4, 0)
        opacity = QLabel("opacity")
        opacity.setProperty("role", "dim")
        for widget in (
            self.guide_words,
            self.guide_place,
            opacity,
            self.opacity,
            self.find_button,
            self.accept_button,
            self.drop_button,
        ):
            line.addWidget(widget)
        line.addStretch(1)
        return bar

    def _make_side(self) -> QWidget:
        self.sides = QStackedWidget()
        self.sides.addWidget(self.regions)
        self.sides.addWidget(self.check)
        self.side_buttons = [
            tool_button("Regions", lambda: self.show_side(0), "", True),
            tool_button("Pixel check", lambda: self.show_side(1), "K", True),
        ]
        side = QWidget()
        box = QVBoxLayout(side)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        line = QHBoxLayout()
        for button in self.side_buttons:
            line.addWidget(button, 1)
        box.addLayout(line)
        box.addWidget(self.sides, 1)
        self.side_buttons[0].setChecked(True)
        return side

    def name_actions(self, book: CommandBook, add: Callable[..., None]) -> None:
        """Register every action, and fill the menus above the drawings."""
        for words, keys, dx, dy in (
            ("left", "Left", -1, 0),
            ("right", "Right", 1, 0),
            ("up", "Up", 0, -1),
            ("down", "Down", 0, 1),
        ):
            add(
                f"nudge-{words}",
                "Map",
                f"Nudge {words} by 1 px (Shift: 10)",
                lambda dx=dx, dy=dy: self.nudge(dx, dy),
                keys,
                by_window=True,
                where="Map",
            )
        for id, words, act, keys in (
            ("map-draw", "Draw a region", lambda: self.use("draw"), "R"),
            ("map-measure", "Measure", lambda: self.use("measure"), "M"),
            ("map-snap", "Snap, or not", self.snap.click, "S"),
            ("map-loupe", "Loupe, or not", self.toggle_loupe, "L"),
            ("map-fit", "Show all", self.fit, "Home"),
            ("map-zoom", "Zoom to the selection or the finding", self.zoom_to_selection, "Z"),
            ("map-1", "Zoom to one pixel to one", self.one_to_one, "Ctrl+0"),
            ("map-bench", "Benchtop, or not", self.toggle_bench, ""),
            ("map-check", "Pixel check", lambda: self.show_side(1), "K"),
            ("map-find", "Find a region by name", self.regions.finder.setFocus, "Ctrl+F"),
            ("map-live", "Live pictures", lambda: self.show_as("live"), ""),
            ("map-guide", "Guide picture", lambda: self.show_as("guide"), ""),
            ("map-plain", "Plain drawings", lambda: self.show_as("plain"), ""),
        ):
            add(id, "Map", words, act, keys, where="Map")
        name_and_fill(named_actions(self.actions_of), "Map", self.menus, book, add)

    # -- views ---------------------------------------------------------------------------------------------------

    def _lands_on(self) -> str | None:
        output = self.output.output
        return output.id if output is not None else None

    def _fill(self) -> None:
        canvases = self._session.show.canvases
        if not any(c.id == self.canvas.canvas_id for c in canvases):
            self.canvas.look_at(canvases[0].id if canvases else "")
        self.picker.clear()
        for canvas in canvases:
            self.picker.addItem(f"{canvas.name} {canvas.width}×{canvas.height}", canvas.id)
        self.picker.setCurrentIndex(self.picker.findData(self.canvas.canvas_id))
        self._fill_guide()

    def _fill_guide(self) -> None:
        if self.actions_of.guide() is None:  # the other one then, if there is one
            self.actions_of.mean_raster(not self.actions_of.under_raster and self.output.guide is not None)
        guide = self.actions_of.guide()
        self.guide_bar.setVisible(guide is not None)
        if guide is None:
            return
        both = self.canvas.guide is not None and self.output.guide is not None
        self.guide_place.setEnabled(both)
        self.guide_place.setText("under the raster" if self.actions_of.under_raster else "under the canvas")
        path = self.guides.path(guide)
        found, image = self.guides.found.get(path, []), self.guides.image(guide)
        fault = self.guides.faults.get(path)
        size = f"{image.width()}×{image.height()}" if image is not None else fault or "is being read"
        place = f" at {guide.x}, {guide.y}" if (guide.x, guide.y) != (0, 0) else ""
        told = (
            "looking for rectangles"
            if self.guides.searching(guide)
            else f"{len(found)} rectangles found"
            if found
            else ""
        )
        self.guide_words.setText(
            " · ".join(t for t in (f"Guide {path.name} {size}{place}", "locked" if guide.locked else "", told) if t)
        )
        self.opacity.blockSignals(True)
        self.opacity.setValue(round(guide.opacity * 100))
        self.opacity.blockSignals(False)
        self.accept_button.setVisible(bool(found))
        self.accept_button.setText(f"Accept all {len(found)}")
        self.drop_button.setVisible(bool(found))

    def _set_opacity(self, value: int) -> None:
        self.actions_of.change_guide(opacity=value / 100)

    def _dismiss(self) -> None:
        guide = self.actions_of.guide()
        if guide is not None:
            self.guides.forget(guide)

    def _other_guide(self) -> None:
        self.actions_of.mean_raster(not self.actions_of.under_raster)
        self._fill_guide()

    def _accept(self, found: Found, under_raster: bool) -> None:
        self.actions_of.mean_raster(under_raster)
        self.actions_of.accept(found)

    def _checked(self) -> None:
        found = [f for f in self._session.findings if f.severity != "note"]
        button = self.side_buttons[1]
        button.setText(f"Pixel check  {len(found)}" if found else "Pixel check")
        token = theme.RED_WORDS if any(f.severity == "error" for f in found) else theme.AMBER if found else theme.TEXT
        button.setStyleSheet(f"padding: 4px 9px; color: {token};")
        finding = self._session.finding
        if finding is not None and finding.where.on == "canvas" and finding.where.id != self.canvas.canvas_id:
            self.show_canvas(finding.where.id)
        elif finding is not None and finding.where.on == "output":
            self.output.look_at(finding.where.id)

    def show_side(self, n: int) -> None:
        """Show the list of regions, or the pixel check."""
        self.sides.setCurrentIndex(n)
        for k, button in enumerate(self.side_buttons):
            button.setChecked(k == n)

    def show_canvas(self, id: str) -> None:
        """Bring a canvas to view."""
        self.canvas.look_at(id)
        self.canvas.fit()
        self.picker.setCurrentIndex(self.picker.findData(id))
        self._fill_guide()

    def _pick(self, index: int) -> None:
        self.show_canvas(self.picker.itemData(index))
        self.window().setFocus()

    def show_as(self, shown: ShownAs) -> None:
        """Live pictures, the guide, or plain drawings."""
        self.canvas.show_as(shown)
        self.output.show_as(shown)
        self.loupe.prefer_guide(shown == "guide")

    def _follow(self) -> None:
        self._fill_guide()
        found = find_region(self._session.show, self._session.region) if self._session.region else None
        if found and found[0].id != self.canvas.canvas_id:
            self.show_canvas(found[0].id)
        self.canvas.update()

    def _snap(self) -> None:
        self.canvas.set_snapping(not self.canvas.snapping)
        self.snap.setChecked(self.canvas.snapping)

    def use(self, tool: Tool) -> None:
        """Choose what a drag on the canvas does."""
        self.canvas.use(tool)
        self.draw.setChecked(tool == "draw")
        self.measure.setChecked(tool == "measure")

    def _drawn(self, rect: Rect) -> None:
        self.actions_of.draw(rect)

    def fit(self) -> None:
        """Show all of the canvas and of the raster."""
        self.canvas.fit()
        self.output.fit()

    def one_to_one(self) -> None:
        """One pixel of the canvas to one of the display, in both drawings."""
        self.canvas.zoom(1.0)
        self.output.zoom(1.0)

    def zoom_to_selection(self) -> None:
        """The selected regions, or the finding looked at, as large as they fit."""
        finding = self._session.finding
        if finding is not None and finding.where.rect is not None:
            view = self.canvas if finding.where.on == "canvas" else self.output
            x, y, w, h = finding.where.rect
            view.show_rect(x - 8, y - 8, w + 16, h + 16)
            return
        found = picked(self._session.show, self._session.regions)
        mine = [r for c, r in found if c.id == self.canvas.canvas_id]
        if mine:
            self.canvas.show_rect(*box_around([rect_of(r) for r in mine]))
            if landed := [landing_rect(r) for r in mine if r.output == self._lands_on()]:
                self.output.show_rect(*box_around(landed))

    def toggle_loupe(self) -> None:
        """Show or hide the loupe."""
        self.loupe.setVisible(not self.loupe.isVisible())
        self.loupe_button.setChecked(self.loupe.isVisible())
        self._lay_loupe()

    def toggle_bench(self) -> None:
        """Open or close the benchtop."""
        if self.bench.isVisible():
            self.bench.close()
        else:
            self.bench.show_on(
                next((s for s in reversed(self.bench.screen().virtualSiblings()) if s is not self.screen()), None)
            )
        self.bench_button.setChecked(self.bench.isVisible())

    def _lay_loupe(self) -> None:
        self.loupe.move(self.canvas.width() - self.loupe.width() - 8, self.canvas.height() - self.loupe.height() - 34)
        self.loupe.raise_()

    def resizeEvent(self, event: object) -> None:
        for button in self.spare:  # in a narrow window what has a key or an entry in the menu makes room
            button.setVisible(self.width() >= WIDE)

    def _choose_colour(self) -> None:
        regions = [r for _, r in picked(self._session.show, self._session.regions)]
        if regions:
            chosen = QColorDialog.getColor(
                QColor(regions[0].colour or theme.SKY), self.window(), "Colour of the region"
            )
            if chosen.isValid():
                self.actions_of.colour(chosen.name().upper())

    def nudge(self, dx: int, dy: int) -> None:
        """Move the selected regions on the canvas."""
        self.canvas.nudge(dx, dy)

    def rename(self) -> None:
        """Type a name for what is selected."""
        self.geometry_panel.name.setFocus()
        self.geometry_panel.name.selectAll()

    def escape(self) -> bool:
        """Put the tool away, or let go of the finding; says whether there was anything."""
        if self.canvas.tool != "select":
            self.use("select")
            return True
        if self._session.finding is not None:
            self._session.look_at(None)
            return True
        return False

    def close_all(self) -> None:
        """Close what is open beside the window."""
        self.bench.close()
        self.guides.close()
