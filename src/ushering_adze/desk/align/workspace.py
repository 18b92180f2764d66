"""The Align workspace."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.onair.actions import LayOver
from ushering_adze.core.onair.laid import pattern_of
from ushering_adze.core.show import Show
from ushering_adze.core.show.laid import Laid
from ushering_adze.desk import theme
from ushering_adze.desk.align.actions import AlignActions, named_actions
from ushering_adze.desk.align.batch_actions import BatchActions, batch_actions
from ushering_adze.desk.align.eye import Eye
from ushering_adze.desk.align.mask_actions import MaskActions, mask_actions
from ushering_adze.desk.align.panels import PatternPanel, StepList
from ushering_adze.desk.align.parts_shown import MasksOrBatches
from ushering_adze.desk.align.raster import AlignRaster
from ushering_adze.desk.align.simulation import Simulation
from ushering_adze.desk.align.views import LightProfile, ScreenView
from ushering_adze.desk.commands import CommandBook
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import name_and_fill, tool_button

MENUS = ("Shape", "Light", "Mask", "Batches", "Surface")
DIMMED = 0.25


class AlignWorkspace(QWidget):
    """A surface's outputs with the handles of their landings, the stand-in screen, the light along a line, steps and
    patterns.
    """

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__()
        self._session = session
        self.raster = AlignRaster(session, guides)
        self.simulation = Simulation(session)
        self.screen_view = ScreenView(session, self.simulation)
        self.profile = LightProfile(session, self.screen_view)
        self.steps, self.patterns = StepList(session, self._surface), PatternPanel()
        self.actions_of = AlignActions(session, self.raster, self._surface, self)
        self.masks = MaskActions(session, self.raster, self._surface, self)
        self.batches = BatchActions(session, self.raster, self._surface, self)
        self.parts = MasksOrBatches(self.masks, self.batches)
        self.menus: dict[str, QPushButton] = {}
        self.outputs: list[QPushButton] = []
        self._compared: Show | None = None
        self._solo = self._dim = self._bare = False
        self.eye = Eye(session, self.screen_view)
        self.camera, self.photo = self.eye.camera, self.eye.photo
        tools = self._make_tools()
        left, right = QSplitter(Qt.Orientation.Vertical), QSplitter(Qt.Orientation.Vertical)
        parts = ((left, (self.raster, self.profile), [400, 180]), (right, (self.eye, self._make_side()), [210, 370]))
        for splitter, widgets, sizes in parts:
            for widget in widgets:
                splitter.addWidget(widget)
            splitter.setSizes(sizes)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(left)
        self.split.addWidget(right)
        self.split.setStretchFactor(0, 3)
        self.split.setStretchFactor(1, 2)
        self.split.setSizes([790, 470])
        for splitter in (left, right, self.split):
            splitter.setHandleWidth(theme.GAP)
            splitter.setChildrenCollapsible(False)
        box = QVBoxLayout(self)
        box.setContentsMargins(theme.GAP, 6, theme.GAP, theme.GAP)
        box.setSpacing(6)
        box.addLayout(tools)
        box.addWidget(self.split, 1)
        session.show_changed.connect(self._end_comparison)
        session.show_changed.connect(self._fill)
        session.selection_changed.connect(self._follow)
        self.steps.chosen.connect(self.patterns.choose)
        self.patterns.changed.connect(self.lay_over)
        self.patterns.falloff.valueChanged.connect(self._set_falloff)
        self.raster.picked.connect(self._name_falloff)
        self.raster.picked.connect(self._fill_parts)
        self.actions_of.auto_asked.connect(self.auto)
        self.camera.progress.connect(self._tell)
        self.eye.busy.connect(self._busy)
        self.eye.left.connect(self._camera_left)
        self.eye.switched.connect(self.camera_button.setChecked)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.lay_over)
        self._fill()

    # -- making --------------------------------------------------------------------------------------------------

    def _make_tools(self) -> QHBoxLayout:
        self.picker = QComboBox()
        self.picker.setMinimumWidth(130)
        self.picker.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.picker.setAccessibleName("Surface")
        self.picker.activated.connect(self._pick)
        self._tabs = QHBoxLayout()
        self._tabs.setSpacing(4)
        tools = QHBoxLayout()
        tools.setContentsMargins(4, 0, 4, 0)
        tools.setSpacing(5)
        tools.addWidget(self.picker)
        tools.addLayout(self._tabs)
        for name in MENUS:
            self.menus[name] = tool_button(name, None)
            self.menus[name].setMenu(QMenu(self))
            tools.addWidget(self.menus[name])
        tools.addStretch(1)
        self.progress = QProgressBar()
        self.progress.setFixedWidth(120)
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress_words = QLabel()
        self.progress_words.setProperty("role", "dim")
        self.progress_words.setFixedWidth(250)
        self.progress_words.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.stop_button = tool_button("Stop", self.stop)
        for widget in (self.progress_words, self.progress, self.stop_button):
            widget.hide()
            tools.addWidget(widget)
        self.before = tool_button(
            "Before", None, "Keep pressed (or V): the alignment as it was before you began", False
        )
        self.before.pressed.connect(lambda: self.compare(True))
        self.before.released.connect(lambda: self.compare(False))
        self.blend = tool_button("Blend", self.toggle_blend, "Blend and blacks on, or off (E)", True)
        self.blend.setChecked(True)
        self.solo = tool_button("Solo", self.toggle_solo, "Only this output gives light (S)", True)
        self.dim = tool_button("Dim others", self.toggle_dim, "The other outputs at a quarter of their codes (D)", True)
        self.camera_button = tool_button(
            "Camera", self.toggle_camera, "What the camera sees, and the screen's corners in it (L)", True
        )
        self.auto_button = tool_button(
            "Align by camera", self.auto, "Ctrl+L: patterns, a camera, and one step for undo"
        )
        for widget in (self.before, self.blend, self.solo, self.dim, self.camera_button, self.auto_button):
            tools.addWidget(widget)
        return tools

    def _make_side(self) -> QWidget:
        side = QWidget()
        side.setObjectName("panel")
        line = QHBoxLayout()
        line.addWidget(self.steps, 8)
        line.addWidget(self.patterns, 12)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(line)
        self.steps.tip.setContentsMargins(12, 0, 10, 6)
        self.steps.tip.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        column.addWidget(self.steps.tip)
        column.addWidget(self.parts, 1)
        return side

    def name_actions(self, book: CommandBook, add: Callable[..., None]) -> None:
        """Register every action, and fill the menus above the drawings."""
        for words, run, keys in (
            ("Blend and blacks on, or off", self.toggle_blend, "E"),
            ("Solo this output", self.toggle_solo, "S"),
            ("Dim the other outputs", self.toggle_dim, "D"),
            ("Next output", self.next_output, "Tab"),
            ("Before, or after", lambda: self.compare(self._compared is None), "V"),
            ("Camera picture, or the stand-in screen", self.toggle_camera, "L"),
            ("Which camera looks…", self.eye.ask_camera, ""),
            ("Show the whole raster", self.raster.fit, "Home"),
            ("Pattern off: the show itself", lambda: self.patterns.choose(None), "P"),
        ):
            add(f"align-{words.split()[0].lower().strip(',:')}", "Align", words, run, keys, where="Align")
        named = [*named_actions(self.actions_of, self.raster), *mask_actions(self.masks), *batch_actions(self.batches)]
        name_and_fill(named, "Align", self.menus, book, add)

    # -- which surface and output --------------------------------------------------------------------------------

    def _surface(self) -> str | None:
        id: str | None = self.picker.currentData()
        return id if id is not None and any(s.id == id for s in self._session.show.surfaces) else None

    def _fill(self) -> None:
        if not self.isVisible() and self.picker.count():
            return
        show, now = self._session.show, self.picker.currentData()
        self.picker.clear()
        for surface in sorted(show.surfaces, key=lambda s: s.kind != "projection"):
            self.picker.addItem(surface.name, surface.id)
        wanted = now if any(s.id == now for s in show.surfaces) else self._session.surface
        self.picker.setCurrentIndex(max(0, self.picker.findData(wanted)))
        self._fill_outputs()
        self.steps.fill()
        if self.isVisible() and self.patterns.shown() is not None and not self._later.isActive():
            self._later.start(400)  # patterns follow the mapping, but not at every step of a drag

    def _fill_outputs(self) -> None:
        surface = self._surface()
        regions = self._session.show.lit_by(surface) if surface is not None else []
        labels = [(r.id, self._session.show.output(r.output)) for r in regions]
        if [(b.property("region"), b.text()) for b in self.outputs] != [
            (id, f"{o.number} {o.name}") for id, o in labels
        ]:
            for button in self.outputs:
                self._tabs.removeWidget(button)
                button.deleteLater()
            self.outputs = []
            for id, output in labels:
                button = tool_button(
                    f"{output.number} {output.name}", lambda id=id: self.show_region(id), "Tab: the next", True
                )
                button.setProperty("region", id)
                self.outputs.append(button)
                self._tabs.addWidget(button)
        if self.raster.region_id not in {id for id, _ in labels}:
            self.raster.show_region(labels[0][0] if labels else None)
        for button in self.outputs:
            button.setChecked(button.property("region") == self.raster.region_id)
        self._fill_parts()
        self.raster.update()

    def _fill_parts(self) -> None:
        surface = self._surface()
        kind = self._session.show.surface(surface).kind if surface is not None else ""
        self.menus["Batches"].setVisible(kind == "led-wall")
        for button in (self.auto_button, self.camera_button):
            button.setVisible(kind == "projection" and self.camera.running is None)
        self.blend.setText("Matching" if kind == "led-wall" else "Blend")
        self.parts.refill(kind == "led-wall")

    def _pick(self) -> None:
        self._fill_outputs()
        self.steps.fill()
        self.screen_view.tell(None, "")
        self.eye.forget()
        self.eye.show_camera(False)
        self.simulation.watch(self._surface() if self.isVisible() else None)
        self.lay_over()
        self.window().setFocus()

    def _follow(self) -> None:
        """Selection is shared: a surface or region selected elsewhere is the one to align."""
        surface = self._session.surface
        if surface is not None and surface != self._surface():
            self.picker.setCurrentIndex(self.picker.findData(surface))
            self._pick() if self.isVisible() else self._fill_outputs()
        if self._session.region is not None and any(b.property("region") == self._session.region for b in self.outputs):
            self.show_region(self._session.region)

    def show_region(self, id: str) -> None:
        """Bring the raster to view on which a region lands."""
        self.raster.show_region(id)
        self._fill_outputs()
        if self._solo or self._dim or self.patterns.where.currentData() == "output":
            self.lay_over()

    def next_output(self) -> None:
        """The next output of the surface."""
        ids = [b.property("region") for b in self.outputs]
        if ids:
            at = ids.index(self.raster.region_id) if self.raster.region_id in ids else -1
            self.show_region(ids[(at + 1) % len(ids)])

    # -- patterns, solo, dim, blend ------------------------------------------------------------------------------

    def lay_over(self) -> None:
        """Put the chosen pattern on the outputs; what is not chosen shows the show."""
        if self.isVisible() and not self.camera.on_outputs:  # a real camera needs its own patterns
            self._session.playout.act(LayOver(over=self.laid()))

    def laid(self) -> Laid | None:
        """What is laid over the outputs now."""
        surface, region, shown = self._surface(), self.raster.region, self.patterns.shown()
        if surface is None or region is None:
            return None
        return Laid(
            surface=surface,
            output=region.output,
            pattern=None if shown is None else pattern_of(shown),
            where=self.patterns.where.currentData(),
            bare=self._bare,
            others=0.0 if self._solo else DIMMED if self._dim else 1.0,
        )

    def toggle_blend(self) -> None:
        """Blend and blacks off on the surface's outputs, or on again."""
        self._bare = not self._bare
        self.blend.setChecked(not self._bare)
        self.lay_over()

    def toggle_solo(self) -> None:
        """Only this output gives light, or all again."""
        self._solo = not self._solo
        self.solo.setChecked(self._solo)
        self.lay_over()

    def toggle_dim(self) -> None:
        """The other outputs dimmed, or not."""
        self._dim = not self._dim
        self.dim.setChecked(self._dim)
        self.lay_over()

    def show_pattern(self, shown: PatternShown | None) -> None:
        """Put a pattern on the outputs; None for the show."""
        self.patterns.choose(shown)

    def compare(self, before: bool) -> None:
        """Run the show as it was when Align was opened, or as it is; no edit is made."""
        if before and self._compared is None and self._opened is not None:
            self._compared = self._session.show
            self.profile.keep()
            self._session.playout.edit(self._opened)
        elif not before and self._compared is not None:
            self._compared = None
            self._session.playout.edit(self._session.show)
            QTimer.singleShot(1200, self._forget_kept)
        self.before.setDown(before)

    def _end_comparison(self) -> None:
        """An edit is to be seen at once.  A method, not a lambda: the session would hold that for ever, and be held by
        it.
        """
        self.compare(False)

    def _forget_kept(self) -> None:
        if self._compared is None:
            self.profile.forget()

    _opened: Show | None = None

    # -- coming and going ----------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self._opened = self._session.show
        self._fill()
        self.simulation.watch(self._surface())
        self.lay_over()

    def hideEvent(self, event: QHideEvent) -> None:
        """Leaving asks nothing: what was laid over is taken away, and the show is there as it is."""
        self.compare(False)
        self.simulation.watch(None)
        if self.camera.on_outputs:
            self.stop()  # its last pattern is taken away once it has ended
        self._session.playout.act(LayOver())

    def nudge(self, dx: float, dy: float) -> None:
        """Move the selected points."""
        self.raster.nudge(dx, dy)

    def escape(self) -> bool:
        """Let go of a mask or of points; says whether there was anything."""
        return self.raster.escape()

    def enter(self) -> bool:
        """Close the mask being drawn; says whether there was one."""
        if self.raster.drawn_mask is None:
            return False
        self.raster.close_mask()
        return True

    def _set_falloff(self, value: int) -> None:
        self.raster.set_falloff(float(value))
        self._name_falloff()

    def _name_falloff(self) -> None:
        value = self.patterns.falloff.value()
        self.patterns.falloff_words.setText(f"{value} px" if value else "none")

    # -- alignment by camera -------------------------------------------------------------------------------------

    def auto(self) -> None:
        """Align the surface by the camera."""
        self.eye.align(self._surface())

    def look(self) -> None:
        """Look through the camera."""
        self.eye.look(self._surface())

    def toggle_camera(self) -> None:
        """The camera's picture, or the stand-in screen."""
        self.eye.toggle(self._surface())

    def stop(self) -> None:
        """Stop the camera; nothing is changed."""
        self.camera.stop()

    def _busy(self, on: bool) -> None:
        for widget in (self.progress, self.progress_words, self.stop_button):
            widget.setVisible(on)
        for widget in (self.solo, self.dim, self.before, self.blend, self.auto_button, self.camera_button):
            widget.setVisible(not on)  # they mean nothing meanwhile, and the line has no room for both
        if not on:
            self._fill_parts()

    def _camera_left(self) -> None:
        """Take away what the camera laid over the outputs, wherever one is by now."""
        if self.isVisible():
            self.lay_over()
        else:
            self._session.playout.act(LayOver())

    def _tell(self, share: float, words: str) -> None:
        self.progress.setValue(round(share * 1000))
        self.progress_words.setText(
            self.progress_words.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 246)
        )
        self.progress_words.setToolTip(words)

    def close_all(self) -> None:
        """Stop what runs beside the window."""
        self.camera.join()
        self.simulation.close()
