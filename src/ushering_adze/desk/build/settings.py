"""The settings of the selected layers, kind by kind; what is entered goes to all of them."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from pydantic import BaseModel
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ushering_adze.core.document.entry import EntryError, number_from, points_from, points_words, signed_from
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.dress import Dress, fitted
from ushering_adze.core.kinds.kind import Kind
from ushering_adze.core.show import Clock, LayerSettings, ShowError, Text
from ushering_adze.core.show.rigging import told
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.coming import ComingAndGoing
from ushering_adze.desk.build.setting_fields import Field, fields_of
from ushering_adze.desk.calm import Calm
from ushering_adze.desk.fields import Entry, shown

UNNAMED = {"picture", "place", "crop"}
"""Kinds whose fields speak for themselves: their order is known."""
WORDS = {
    "x": "right",
    "y": "down",
    "sources": "show",
    "tolerance": "toler.",
    "of": "by its",
    "brightness": "bright",
    "saturation": "satur.",
}


class SettingsPanel(QWidget):
    """A row of fields for each kind of setting."""

    def __init__(self, building: Building) -> None:
        super().__init__()
        self.building = building
        self.title = QLabel()
        self.title.setProperty("role", "head")
        self.why = QLabel()
        self.why.setProperty("role", "error")
        self.why.setWordWrap(True)
        self.why.hide()
        self.editors: dict[tuple[str, str], tuple[Field, QWidget]] = {}
        self._words_of: dict[tuple[str, str], QLabel] = {}
        host = QWidget()
        self._grid = QGridLayout(host)
        self._grid.setContentsMargins(0, 0, 6, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(5)
        self._grid.setColumnStretch(1, 1)
        for row, kind in enumerate(KINDS):
            self._row(row, kind)
        self.ways = ComingAndGoing(building)
        self._grid.addWidget(self.ways, len(KINDS), 0, 1, 2)
        self._grid.setRowStretch(len(KINDS) + 1, 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        host.setObjectName("settings")
        host.setStyleSheet(
            "QWidget#settings { background: transparent; }"
            'QLineEdit { padding: 3px 4px; font-size: 12px; font-family: "B612 Mono"; }'
            "QComboBox { padding: 3px 4px; font-size: 12px; }"
        )
        scroll.setWidget(host)
        host.setAutoFillBackground(False)
        scroll.viewport().setAutoFillBackground(False)
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 8, 6, 6)
        box.addWidget(self.title)
        box.addWidget(self.why)
        box.addWidget(scroll, 1)
        self._told: object = None
        self._shown: dict[tuple[str, str], object] = {}
        """What each editor shows, by the field's key."""
        building.changed.connect(self.fill)
        self._calm = Calm(self, self.follow)
        building.moved.connect(self._calm.ask)
        building.session.reported.connect(self._calm.ask)
        self.fill()

    def _row(self, row: int, kind: Kind) -> None:
        label = QLabel(kind.words)
        label.setProperty("role", "dim")
        label.setFixedWidth(54)
        self._grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop)
        lines = QVBoxLayout()
        lines.setSpacing(4)
        line, used = QHBoxLayout(), 0
        line.setSpacing(4)
        lines.addLayout(line)
        fields = fields_of(kind)
        named = len(fields) > 1 and kind.name not in UNNAMED
        for field in fields:
            width = (2 if field.short else 4) if named else 1 if field.form == "number" else 2
            if used + width > 4:
                line, used = QHBoxLayout(), 0
                line.setSpacing(4)
                lines.addLayout(line)
            editor = self._editor(field)
            self.editors[field.key] = (field, editor)
            name = (field.path or kind.words).replace("_", " ").replace(".", " ")
            editor.setAccessibleName(f"{kind.words} {name}" if field.path else kind.words)
            editor.setToolTip(f"{kind.words}: {name}{', %' if field.factor == 100 else ''}")
            if named:
                words = QLabel(WORDS.get(field.path, name))
                words.setProperty("role", "dim")
                words.setFixedWidth(44)
                words.setStyleSheet("font-size: 11px;")
                line.addWidget(words)
                self._words_of[field.key] = words
            line.addWidget(editor, width)
            used += width
        if named and used == 2:
            line.addStretch(3)
        self._grid.addLayout(lines, row, 1)

    def _editor(self, field: Field) -> QWidget:
        if field.form in ("choice", "source", "zone"):
            box = QComboBox()
            box.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(2)
            box.setMinimumWidth(44)
            for words, value in field.choices:
                box.addItem(words, value)
            box.activated.connect(lambda n: self.enter(field, box.itemData(n)))
            box.wheelEvent = lambda event: event.ignore()  # type: ignore[method-assign, assignment]
            return box
        line = Entry((lambda by: self._nudge(field, by)) if field.form == "number" else None)
        line.setMinimumWidth(34)
        line.returnPressed.connect(lambda: self.typed(field, line.text()))
        line.editingFinished.connect(lambda: self.typed(field, line.text()))
        return line

    # -- showing -------------------------------------------------------------------------------------------------

    def _chosen(self) -> dict[str, LayerSettings]:
        states = self.building.states()
        found = {id: self.building.settings(id, states) for id in self.building.selected}
        return {id: settings for id, settings in found.items() if settings is not None}

    def fill(self) -> None:
        """Show other layers, or other sources to choose from."""
        for field, editor in self.editors.values():
            if field.form in ("source", "zone") and isinstance(editor, QComboBox):
                show = self.building.show
                items = show.sources if field.form == "source" else show.zones
                choices = [("none", None), *((item.name, item.id) for item in items)]
                if [(editor.itemText(n), editor.itemData(n)) for n in range(editor.count())] != choices:
                    editor.clear()
                    for words, value in choices:
                        editor.addItem(words, value)
        self._told = None
        self.say("")
        self.ways.fill()
        self.follow()

    def follow(self) -> None:
        """Show what the selected layers are by now; a field that is being typed in is left alone."""
        if not self.isVisible():
            return
        chosen = self._chosen()
        told = (tuple(chosen.items()), self.building.selected)
        if told == self._told:
            return
        if self._told is None:
            self._shown = {}
        self._told = told
        layers = [y for id in self.building.selected if (y := self.building.layer(id)) is not None]
        self.title.setText(
            "No layer is selected" if not layers else layers[0].name if len(layers) == 1 else f"{len(layers)} layers"
        )
        for field, editor in self.editors.values():
            there = all(field.there(settings) for settings in chosen.values()) and (bool(chosen) or field.only is None)
            values = [field.of(settings) for settings in chosen.values()] if there else []
            if self._shown.get(field.key) == (there, values):  # a drag changes one or two of many
                continue
            self._shown[field.key] = there, values
            editor.setVisible(there)
            if field.key in self._words_of:
                self._words_of[field.key].setVisible(there)
            if there:
                self._show_values(field, editor, values)

    def _show_values(self, field: Field, editor: QWidget, values: list[Any]) -> None:
        """A field of the selected layers, as they have it; what is being typed stays."""
        editor.setEnabled(bool(values))
        same = bool(values) and all(v == values[0] for v in values)
        if isinstance(editor, QComboBox):
            editor.setCurrentIndex(self._index(field, editor, values[0]) if same else -1)
        elif isinstance(editor, Entry):
            if editor.hasFocus() and editor.isModified():
                del self._shown[field.key]
                return
            editor.setText(self._words(field, values[0]) if same else "")
            editor.setPlaceholderText("" if same or not values else "differ")
            editor.setCursorPosition(0)

    @staticmethod
    def _index(field: Field, editor: QComboBox, value: Any) -> int:
        """Which entry says a value; of models, the one of its kind."""
        if isinstance(value, BaseModel):
            return next((n for n in range(editor.count()) if editor.itemData(n) is type(value)), -1)
        return editor.findData(value)

    def showEvent(self, event: object) -> None:
        self.follow()

    def _words(self, field: Field, value: Any) -> str:
        if field.form == "sources":
            return ", ".join(self.building.show.source(id).name for id in value)
        if field.form == "fits":
            return ", ".join(value)
        if field.form == "mixes":
            names = {m.id: m.name for m in self.building.show.sound.mixes}
            return "all" if value is None else ", ".join(names.get(id, id) for id in value) or "none"
        if field.form == "points":
            return points_words(value)
        if isinstance(value, (int, float)) and not isinstance(value, bool):
            return f"{round(value * field.factor, 3):g}"
        return shown(value)

    def say(self, why: str) -> None:
        """Show why an entry was refused; an empty sentence clears it."""
        self.why.setText(why)
        self.why.setVisible(bool(why))

    # -- entering ------------------------------------------------------------------------------------------------

    def typed(self, field: Field, text: str) -> None:
        """What was typed, to every selected layer: worked out for each from what it is."""
        editor = self.editors[field.key][1]
        if isinstance(editor, Entry):
            if not editor.isModified():
                return
            editor.setModified(False)
        if not text.strip() and field.form not in ("sources", "fits", "points", "mixes"):
            self._told = None
            self.follow()
            return
        if field.form == "number":
            self._each(field, lambda id, settings: self._number(field, text, id, settings))
        elif field.form == "sources":
            self._each(field, lambda id, settings: self._sources(text))
        elif field.form == "fits":
            self._each(field, lambda id, settings: tuple(re.findall(r"[^ ,]+", text.lower())))
        elif field.form == "points":
            self._each(field, lambda id, settings: points_from(text))
        elif field.form == "mixes":
            self._each(field, lambda id, settings: self._mixes(text))
        else:
            self._each(field, lambda id, settings: text.strip())

    def _number(self, field: Field, text: str, id: str, settings: LayerSettings) -> float:
        canvas = self.building.canvas
        assert canvas is not None
        place = settings.place
        names = {"x": place.x, "y": place.y, "w": place.w, "h": place.h}
        across = field.path in ("x", "w")
        whole = (canvas.width if across else canvas.height) if field.kind == "place" else 100.0
        now = float(field.of(settings)) * field.factor
        if field.factor == 100:
            text = text.replace("%", "")
        if field.kind == "sound":
            return signed_from(text, now) / field.factor
        return number_from(text, now=now, whole=float(whole), names=names) / field.factor

    def _sources(self, text: str) -> tuple[str, ...]:
        """Sources by their names, with commas between.  Raises EntryError."""
        known = {s.name.lower(): s.id for s in self.building.show.sources}
        found = []
        for name in (part.strip() for part in text.split(",")):
            if name and name.lower() not in known:
                raise EntryError(f"no source is named {name}; write names with commas between")
            if name:
                found.append(known[name.lower()])
        return tuple(found)

    def _mixes(self, text: str) -> tuple[str, ...] | None:
        """Mixes by their names, with commas between; all of them if it is empty.  Raises EntryError."""
        if text.strip().lower() in ("", "all"):
            return None
        if text.strip().lower() == "none":
            return ()
        known = {m.name.lower(): m.id for m in self.building.show.sound.mixes}
        names = [part.strip().lower() for part in text.split(",") if part.strip()]
        for name in names:
            if name not in known:
                raise EntryError(f"no mix is named {name}; write names with commas between, or all")
        return tuple(known[name] for name in names)

    def _begun(self, made: BaseModel, settings: LayerSettings) -> BaseModel:
        """A model that a layer has from now on: a dress is at first that of its source, for the pixels of the layer."""
        if not isinstance(made, Dress):
            return made
        source = next((s for s in self.building.show.sources if s.id == settings.picture.source), None)
        return fitted(source.dress if isinstance(source, (Text, Clock)) else made, settings.place.w, settings.place.h)

    def enter(self, field: Field, value: Any) -> None:
        """A chosen value, to every selected layer."""
        if isinstance(value, type) and issubclass(
            value, BaseModel
        ):  # one of several models: as it is by itself, with a source if it needs one
            needs = "source" in value.model_fields and bool(self.building.show.sources)
            made = value(source=self.building.show.sources[0].id) if needs else value()
            self._each(field, lambda id, settings: self._begun(made, settings))
            return
        zones = self.building.show.zones
        if field.kind == "spread" and field.path == "over" and value != "none":
            if not zones:
                self.say("there is no zone; select surfaces in the room and make one below, under Zones")
                self._told = None
                self.follow()
                return
            for settings in self._chosen().values():
                if settings.spread.zone is None:  # there is one to begin with: the first
                    self._each(replace(field, path="zone"), lambda id, settings: settings.spread.zone or zones[0].id)
        self._each(field, lambda id, settings: value)

    def _nudge(self, field: Field, by: float) -> None:
        step = by / field.factor
        self._each(field, lambda id, settings: round(field.of(settings) + step, 6), ("nudge", field.kind, field.path))

    def _each(self, field: Field, make: Callable[[str, LayerSettings], Any], gesture: object = None) -> None:
        values: dict[str, dict[str, Any]] = {}
        try:
            for id, settings in self._chosen().items():
                new = field.put(settings, make(id, settings))
                if new != getattr(settings, field.kind):
                    values[id] = {field.kind: new}
        except (EntryError, ShowError, ValueError) as error:
            self.say(told(error).removeprefix(": "))
            return
        self.say("")
        if values:
            self.building.put(BY_NAME[field.kind].words, values, gesture)
        self._told = None
