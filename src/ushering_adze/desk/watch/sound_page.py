"""The page of sound: mixes with their meters, sources with their levels, what is selected in fields."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.onair.actions import Mute
from ushering_adze.core.onair.stage import ALL
from ushering_adze.core.show import Show
from ushering_adze.core.show.sound import LISTEN
from ushering_adze.core.show.sounding import (
    PATTERN_NAMES,
    with_duck,
    with_input,
    with_mix,
    with_new_input,
    with_new_mix,
    without_input,
    without_mix,
)
from ushering_adze.core.show.zoning import surfaces_in
from ushering_adze.core.sound.ballistics import Scale
from ushering_adze.desk import theme
from ushering_adze.desk.fields import FieldRow, Spec
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.desk.watch.in_step_row import InStepRow
from ushering_adze.desk.watch.matrix import SoundMatrix
from ushering_adze.desk.watch.sound_fields import input_specs, listen_specs, mix_specs
from ushering_adze.desk.watch.strips import MixStrip
from ushering_adze.playout import sound_devices

MOST_DELAY = 5000.0
SCALES: tuple[tuple[str, Scale], ...] = (("PPM, type I", "ppm1"), ("PPM, type II", "ppm2"), ("VU", "vu"))


class SoundPage(QWidget):
    """All that is heard.

    Signals
    -------
    found : names of devices, once they are known
    """

    found = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._devices: tuple[str, ...] = ()
        self._asked = False
        self.selected = LISTEN
        """A mix, a sound without a picture, or what the operator hears."""
        self._rows: list[FieldRow] = []
        self._rows_of: object = None
        self.strips: dict[str, MixStrip] = {}
        self.matrix = SoundMatrix(session)
        self.matrix.listened.connect(self.listen)
        self.matrix.refused.connect(session.trouble)
        self.matrix.itemSelectionChanged.connect(self._row_chosen)
        self.mute_all = tool_button("Mute all", self._mute_all, "Every mix silent until it is lifted", True)
        new = tool_button("New mix", None, "A mix of what is on a surface, or on any")
        self._new = QMenu(self)
        self._new.aboutToShow.connect(self._fill_new)
        new.setMenu(self._new)
        more = tool_button("New sound", None, "A device's sound, or one to test with")
        sounds = QMenu(self)
        sounds.addAction("of a device").triggered.connect(partial(self._new_input, None))
        for pattern, words in PATTERN_NAMES.items():
            sounds.addAction(words).triggered.connect(partial(self._new_input, pattern))
        more.setMenu(sounds)
        duck = tool_button("Gives way", None, "While the selected source is heard, others get less")
        self._ducks = QMenu(self)
        self._ducks.aboutToShow.connect(self._fill_ducks)
        duck.setMenu(self._ducks)
        self.gone = tool_button("Remove", self._remove, "The selected mix or sound")
        self.scale = QComboBox()
        self.scale.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.scale.setAccessibleName("Kind of meter")
        for words, scale in SCALES:
            self.scale.addItem(words, scale)
        self.scale.activated.connect(lambda n: session.playout.meter_by(SCALES[n][1]))
        line = QHBoxLayout()
        line.setSpacing(4)
        for widget in (self.mute_all, new, more, duck, self.gone):
            line.addWidget(widget)
        line.addStretch(1)
        line.addWidget(self.scale)
        self._bank = QHBoxLayout()
        self._bank.setSpacing(6)
        self._bank.setContentsMargins(0, 0, 0, 0)
        self._bank.addStretch(1)
        bank = QWidget()
        bank.setLayout(self._bank)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(bank)
        self.head = QLabel()
        self.head.setProperty("role", "head")
        self.about = QLabel()
        self.about.setProperty("role", "dim")
        self.about.setWordWrap(True)
        side = QFrame()
        side.setObjectName("panel")
        self._column = QVBoxLayout(side)
        self._column.setContentsMargins(8, 8, 8, 8)
        self._column.setSpacing(6)
        self._column.addWidget(self.head)
        self._column.addWidget(self.about)
        self.in_step = InStepRow(session)
        self.in_step.delayed.connect(self._delay_by)
        self._column.addWidget(self.in_step)
        self._column.addStretch(1)
        left = QSplitter(Qt.Orientation.Vertical)
        left.addWidget(scroll)
        left.addWidget(self.matrix)
        left.setStretchFactor(0, 3)
        left.setStretchFactor(1, 2)
        left.setSizes([400, 240])
        left.setChildrenCollapsible(False)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(left)
        split.addWidget(side)
        split.setStretchFactor(0, 1)
        split.setSizes([960, 300])
        split.setHandleWidth(theme.GAP)
        split.setChildrenCollapsible(False)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addLayout(line)
        box.addWidget(split, 1)
        self.found.connect(self._know_devices)
        session.show_changed.connect(self.fill)
        self._timer = QTimer(self)
        self._timer.setInterval(50)
        self._timer.timeout.connect(self.follow)
        self.fill()

    # -- what is shown -------------------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        self._timer.start()
        self._session.playout.look_at_meters(True)
        if not self._asked:
            self._asked = True
            threading.Thread(
                target=lambda: self.found.emit(tuple(d.name for d in sound_devices() if d.out or d.into)),
                name="sound devices",
                daemon=True,
            ).start()
        self.fill()
        self.follow()

    def hideEvent(self, event: object) -> None:
        self._timer.stop()
        self._session.playout.look_at_meters(False)

    def _know_devices(self, names: object) -> None:
        self._devices = tuple(n for n in names if n != "default")  # type: ignore[attr-defined]
        self._rows_of = None
        self._fill_fields()

    def fill(self) -> None:
        """Show the sound of the show."""
        if not self.isVisible() and self.strips:
            return
        sound = self._session.show.sound
        wanted = [m.id for m in sound.mixes]
        if list(self.strips) != wanted:
            for strip in self.strips.values():
                self._bank.removeWidget(strip)
                strip.deleteLater()
            self.strips = {}
            for n, id in enumerate(wanted):
                strip = self.strips[id] = MixStrip(id)
                strip.chosen.connect(self.choose)
                strip.muted.connect(self._mute)
                strip.listened.connect(lambda id: self.listen("" if self._listening() == id else id))
                strip.reset.connect(self._session.playout.reset_meters)
                self._bank.insertWidget(n, strip)
        known = {*wanted, LISTEN, *(s.id for s in sound.inputs)}
        if self.selected not in known:
            self.selected = wanted[0] if wanted else LISTEN
        self.matrix.fill()
        self._fill_fields()
        self.follow()

    def _listening(self) -> str | None:
        report = self._session.report
        return None if report is None else report.sound.listening

    def follow(self) -> None:
        """Show what is measured now."""
        if not self.isVisible():
            return
        sound, stage = self._session.show.sound, self._session.playout.stage
        told = {m.mix: m for m in self._session.playout.sound_report().mixes}
        listening = self._session.playout.listening
        for mix in sound.mixes:
            strip = self.strips.get(mix.id)
            if strip is not None:
                strip.hold(mix, told.get(mix.id), stage.is_muted(mix.id), listening == mix.id, self.selected == mix.id)
        self.mute_all.setChecked(ALL in stage.muted)
        self.matrix.follow()

    def choose(self, id: str) -> None:
        """Have the fields of a mix, a sound, or what the operator hears."""
        self.selected = id
        self._fill_fields()
        self.follow()

    def _row_chosen(self) -> None:
        rows = {i.row() for i in self.matrix.selectedIndexes()}
        if len(rows) == 1:
            id = self.matrix.ids[min(rows)]
            if any(s.id == id for s in self._session.show.sound.inputs):
                self.choose(id)

    def _item(self) -> Any:
        sound = self._session.show.sound
        if self.selected == LISTEN:
            return sound.listen
        return sound.mix(self.selected) or next((s for s in sound.inputs if s.id == self.selected), None)

    def _fill_fields(self) -> None:
        show, item = self._session.show, self._item()
        if item is None:
            return
        key = (self.selected, tuple(m.id for m in show.sound.mixes), tuple(s.id for s in show.sources), self._devices)
        if key != self._rows_of:
            self._rows_of = key
            for row in self._rows:
                self._column.removeWidget(row)
                row.deleteLater()
            if self.selected == LISTEN:
                specs = listen_specs(show, self._devices)
            elif show.sound.mix(self.selected) is not None:
                specs = mix_specs(show, self._devices)
            else:
                specs = input_specs(item, show, self._devices)
            self._rows = [FieldRow(spec, self._commit) for spec in specs]
            for n, row in enumerate(self._rows):
                self._column.insertWidget(2 + n, row)
        self.head.setText("You listen" if self.selected == LISTEN else item.name)
        self.about.setText(self._about())
        self.gone.setEnabled(self.selected != LISTEN)
        self.in_step.setVisible(show.sound.mix(self.selected) is not None)
        self.in_step.fill()
        for row in self._rows:
            row.hold(item)

    def _about(self) -> str:
        show = self._session.show
        if self.selected == LISTEN:
            return "A click on a cell of a wall, on a source's name below, or Listen on a mix: that is what you hear."
        ducks = show.sound.ducks
        if show.sound.mix(self.selected) is not None and ducks:
            names = {s.id: s.name for s in show.sources} | {s.id: s.name for s in show.sound.inputs}
            said = [f"{names.get(d.of or '', 'all else')} by {d.depth:g} dB to {names.get(d.by, d.by)}" for d in ducks]
            return f"Gives way: {'; '.join(said)}"
        return ""

    # -- by hand -------------------------------------------------------------------------------------------------

    def _commit(self, spec: Spec, value: Any) -> None:
        made = spec.put(self._item(), value)
        id = self.selected

        def edit(show: Show) -> Show:
            fields = {n: getattr(made, n) for n in type(made).model_fields if n != "id"}
            if id == LISTEN:
                return show.model_copy(update={"sound": show.sound.model_copy(update={"listen": made})})
            return with_mix(show, id, **fields) if show.sound.mix(id) is not None else with_input(show, id, **fields)

        self._session.edit(f"{spec.label} of {getattr(made, 'name', 'listening')}", edit(self._session.show))

    def _delay_by(self, ms: float) -> None:
        """Have the selected mix come later by so much, or earlier as far as it can."""
        mix = self._session.show.sound.mix(self.selected)
        if mix is None:
            return
        wanted = round(mix.delay + ms, 1)
        if wanted < 0:
            self._session.trouble.emit(
                f"{mix.name} cannot come {-wanted:.0f} ms earlier than it is there; hold its pictures back in Rig."
            )
        delay = min(max(0.0, wanted), MOST_DELAY)
        self._session.try_edit(f"Delay of {mix.name}", lambda show: with_mix(show, mix.id, delay=delay))

    def _fill_new(self) -> None:
        self._new.clear()
        self._new.addAction("Of any surface").triggered.connect(partial(self._make_mix, ()))
        for surface in self._session.show.surfaces:
            self._new.addAction(f"Of {surface.name}").triggered.connect(partial(self._make_mix, (surface.id,)))
        for zone in self._session.show.zones:
            if ids := surfaces_in(self._session.show, (zone.id,)):
                self._new.addAction(f"Of {zone.name}").triggered.connect(partial(self._make_mix, ids))

    def _make_mix(self, surfaces: tuple[str, ...], checked: bool = False) -> None:
        self.make_mix(surfaces)

    def make_mix(self, surfaces: tuple[str, ...] = ()) -> None:
        """A new mix of what is on some surfaces, or on any."""
        self._make("New mix", lambda show: with_new_mix(show, surfaces))

    def _new_input(self, pattern: Any, checked: bool = False) -> None:
        self._make("New sound", lambda show: with_new_input(show, pattern))

    def _make(self, words: str, make: Callable[[Show], tuple[Show, str]]) -> None:
        """Something new, which is selected."""
        show, id = make(self._session.show)
        if self._session.try_edit(words, lambda now: show):
            self.choose(id)

    def _fill_ducks(self) -> None:
        self._ducks.clear()
        rows = {i.row() for i in self.matrix.selectedIndexes()}
        if len(rows) != 1:
            self._ducks.addAction("Select one source below first").setEnabled(False)
            return
        by = self.matrix.ids[min(rows)]
        for depth in (6.0, 9.0, 12.0, 18.0):
            self._ducks.addAction(f"Everything, by {depth:g} dB").triggered.connect(partial(self._duck, by, depth))
        self._ducks.addAction("Nothing").triggered.connect(partial(self._duck, by, None))

    def _duck(self, by: str, depth: float | None, checked: bool = False) -> None:
        self._session.try_edit("Gives way", lambda show: with_duck(show, by, None, depth))

    def _remove(self) -> None:
        id = self.selected
        if self._session.show.sound.mix(id) is not None:
            self._session.try_edit("Remove a mix", lambda show: without_mix(show, id))
        elif id != LISTEN:
            self._session.try_edit("Remove a sound", lambda show: without_input(show, id))

    def _mute(self, mix: str, on: bool) -> None:
        self._session.playout.act(Mute(on=on, mixes=(mix,)))
        if not on and (found := self._session.show.sound.mix(mix)) is not None and found.mute:
            self._session.try_edit("Mute", lambda show: with_mix(show, mix, mute=False))

    def mute(self) -> None:
        """Every mix silent, or heard again."""
        self._mute_all()

    def _mute_all(self) -> None:
        self._session.playout.act(Mute(on=ALL not in self._session.playout.stage.muted))

    def listen(self, id: str) -> None:
        """Hear a source, a sound or a mix; empty for what is heard otherwise."""
        self._session.playout.listen(id or None)
        self.choose(LISTEN)
