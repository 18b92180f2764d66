"""The geometry of what is selected, one region or many: numbers to type, and what follows from them."""

from __future__ import annotations

import re
from collections.abc import Callable

from pydantic import ValidationError
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ushering_adze.core.displays.binding import fed_parts
from ushering_adze.core.document.entry import EntryError, rect_from
from ushering_adze.core.mapping.lands import scale_words, to_output, turned
from ushering_adze.core.mapping.regions import picked, placed, shared_value, with_regions, with_typed
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, Projection, RectLanding, Region, Show, ShowError
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.rigging import sentence_of, told
from ushering_adze.desk import theme
from ushering_adze.desk.session import Session

MIXED = "·"
"""Stands in a field of many regions for a number in which they differ; left as it is, it changes nothing."""
TURNS = [
    (f"{'flipped, ' if flip else ''}{turn}°" if flip or turn else "upright", (flip, turn))
    for flip in (False, True)
    for turn in (0, 90, 180, 270)
]


class GeometryField(QLineEdit):
    """Four whole numbers that can be typed, worked out, nudged, and refused with a reason."""

    def __init__(
        self,
        name: str,
        apply: Callable[[list[str]], None],
        whole: Callable[[tuple[int, int, int, int]], None],
        why: QLabel,
    ) -> None:
        super().__init__()
        self._apply, self._apply_whole, self._why = apply, whole, why
        self._now: tuple[int | None, ...] = (0, 0, 1, 1)
        self._whole = (1, 1)
        self.setObjectName("geometry")
        self.setAccessibleName(name)
        self.setToolTip(
            "Four numbers, or 1920x960+1096+1080. Each may be worked out: +50, *2, 50%, w/2; with many selected, each "
            "from its own numbers, and n counts them"
        )
        self.returnPressed.connect(self._enter)
        self.textEdited.connect(lambda text: self._say(""))

    def hold(self, now: tuple[int | None, ...], whole: tuple[int, int]) -> None:
        """Show a value; None where many regions differ."""
        self._now, self._whole = now, whole
        self._say("")
        self.setText(self._shown(now))

    @staticmethod
    def _shown(now: tuple[int | None, ...]) -> str:
        return " ".join(MIXED if v is None else str(v) for v in now)

    def _say(self, why: str) -> None:
        self._why.setText(why)
        self._why.setVisible(bool(why))
        if self.property("wrong") != bool(why):
            self.setProperty("wrong", bool(why))
            self.style().unpolish(self)
            self.style().polish(self)

    def _enter(self) -> None:
        words = self.text().replace(";", " ").split()
        try:
            single = None not in self._now
            if len(words) == 4 and (not single or any(re.search(r"\bn\b", w) for w in words)):
                self._apply(words)
            else:
                self._apply_whole(rect_from(self.text(), [v or 0 for v in self._now], self._whole))
        except (EntryError, ShowError) as error:
            self._say(told(error))
        except ValidationError as error:
            self._say(sentence_of(error))

    def _step(self, by: int) -> None:
        """Change the number the cursor stands in."""
        cursor = self.cursorPosition()
        if self.text() != self._shown(self._now):
            return
        at = self.text()[:cursor].count(" ")
        words = [MIXED] * 4
        words[at] = f"{by:+d}"
        try:
            self._apply(words)
        except (EntryError, ShowError) as error:
            self._say(told(error))
            return
        self.setCursorPosition(len(self._shown(self._now[: at + 1])))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._step(step if event.key() == Qt.Key.Key_Up else -step)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus() and event.angleDelta().y():
            step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._step(step if event.angleDelta().y() > 0 else -step)
            event.accept()


class GeometryPanel(QWidget):
    """Name and geometry of the selected regions, and what follows from them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setMinimumSize(250, 250)
        self.title, self.kind = QLabel(), QLabel()
        self.title.setProperty("role", "head")
        self.kind.setProperty("role", "dim")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name")
        why_canvas, why_landing = QLabel(), QLabel()
        self.reasons = (why_canvas, why_landing)
        for label in self.reasons:
            label.setProperty("role", "error")
            label.setWordWrap(True)
            label.hide()
        self.on_canvas = GeometryField("On canvas", lambda words: self._typed(words, ""), self._set_canvas, why_canvas)
        self.lands = GeometryField(
            "Lands at", lambda words: self._typed(words, "lands "), self._set_landing, why_landing
        )
        self.output, self.surface, self.turn = QComboBox(), QComboBox(), QComboBox()
        self.colour = QPushButton("Colour")
        self.colour.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for box, name in ((self.output, "Output"), (self.surface, "Surface"), (self.turn, "Turned")):
            box.setAccessibleName(name)
            box.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            box.setMinimumContentsLength(6)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for words, value in TURNS:
            self.turn.addItem(words, value)
        self.facts = {key: QLabel() for key in ("Scale", "Made of")}
        self._choices: object = None
        form = QFormLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(4)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        names = QHBoxLayout()
        names.addWidget(self.name, 1)
        names.addWidget(self.colour)
        form.addRow(self._dim("Name"), names)
        form.addRow(self._dim("On canvas"), self.on_canvas)
        form.addRow("", why_canvas)
        form.addRow(self._dim("Lands at"), self.lands)
        form.addRow("", why_landing)
        where = QHBoxLayout()
        where.addWidget(self.output, 3)
        where.addWidget(self.turn, 2)
        form.addRow(self._dim("Output"), where)
        form.addRow(self._dim("Surface"), self.surface)
        for key, label in self.facts.items():
            label.setProperty("role", "mono")
            label.setWordWrap(True)
            form.addRow(self._dim(key), label)
        self.empty = QLabel("Select regions on the canvas or in the list, or draw one (R).")
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        self._body = QWidget()
        self._body.setObjectName("inspector")
        self._body.setLayout(form)
        form.setContentsMargins(0, 0, 0, 0)
        column = QVBoxLayout(self)
        box.setContentsMargins(12, 6, 12, 6)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addWidget(self.kind, 1)
        column.addLayout(head)
        column.addWidget(self.empty)
        column.addWidget(self._body)
        column.addStretch(1)
        self.name.returnPressed.connect(self._rename)
        self.output.activated.connect(self._set_output)
        self.turn.activated.connect(self._set_turn)
        self.surface.activated.connect(self._set_surface)
        session.show_changed.connect(self._fill)
        session.selection_changed.connect(self._fill)
        self._fill()

    @staticmethod
    def _dim(words: str) -> QLabel:
        label = QLabel(words)
        label.setProperty("role", "dim")
        return label

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)

    def _ids(self) -> tuple[str, ...]:
        return self._session.regions

    def _regions(self) -> list[Region]:
        return [r for _, r in picked(self._session.show, self._ids())]

    # -- showing -------------------------------------------------------------------------------------------------

    def _fill(self) -> None:
        show = self._session.show
        found = picked(show, self._ids())
        self._body.setVisible(bool(found))
        self.kind.setVisible(bool(found))
        self.empty.setVisible(not found)
        if not found:
            self.title.setText("Geometry")
            return
        many = len(found) > 1
        canvas, region = next(((c, r) for c, r in found if r.id == self._session.region), found[-1])
        output = show.output(region.output)
        surface = show.surface(region.surface) if region.surface else None
        words = {
            "led-wall": "LED wall",
            "projection": "projection",
            "monitor-wall": "monitor wall",
            "monitor": "monitor",
            "stream": "stream",
        }
        self.title.setText(f"{len(found)} regions" if many else region.name)
        self.kind.setText(
            "each field works on all"
            if many
            else f"{words[surface.kind]} · output {output.number} {output.name}"
            if surface
            else f"output {output.number} {output.name}" + (" · mirror" if region.mirror else "")
        )
        names = {r.name for _, r in found}
        self.name.setText(region.name if len(names) == 1 else "")
        self.name.setPlaceholderText("a name, numbered from 1" if many else "")
        token = region.colour or theme.FAINT
        theme.restyle(
            self.colour, f"padding: 1px 8px; min-height: 18px; font-size: 12px; border-left: 8px solid {token};"
        )
        regions = [r for _, r in found]
        self.on_canvas.hold(tuple(shared_value(regions, f) for f in "xywh"), (canvas.width, canvas.height))
        rects = all(isinstance(r.landing, RectLanding) for _, r in found)
        self.lands.setEnabled(rects)
        self.turn.setEnabled(rects)
        if rects:
            self.lands.hold(
                tuple(shared_value(regions, f"lands {f}") for f in "xywh"), (output.timing.width, output.timing.height)
            )
            turns = {(r.landing.flip, r.landing.turn) for _, r in found}  # type: ignore[union-attr]
            flip, turn = turns.pop() if len(turns) == 1 else (None, None)
            self.turn.setCurrentIndex(next((n for n, (_, v) in enumerate(TURNS) if v == (flip, turn)), -1))
        else:
            self.lands.setText("bent: shaped in Align")
        self._fill_choices(
            show, found[0][1] if not many else None, {r.output for _, r in found}, {r.surface for _, r in found}
        )
        self._fill_facts(show, regions, region)

    def _fill_choices(self, show: Show, single: Region | None, outputs: set[str], surfaces: set[str | None]) -> None:
        if self._choices != (show.outputs, show.surfaces):
            self._choices = (show.outputs, show.surfaces)
            self._offer(show)
        self.output.setCurrentIndex(self.output.findData(next(iter(outputs))) if len(outputs) == 1 else -1)
        self.surface.setEnabled(single is not None)
        if single is not None:
            key = (single.surface, single.projector, single.monitor)
            keys = [tuple(self.surface.itemData(n) or ()) for n in range(self.surface.count())]
            self.surface.setCurrentIndex(keys.index(key) if key in keys else 0)
        else:
            self.surface.setCurrentIndex(-1 if surfaces != {None} else 0)

    def _offer(self, show: Show) -> None:
        self.output.clear()
        for o in show.outputs:
            self.output.addItem(f"{o.number} {o.name}", o.id)
        self.surface.clear()
        self.surface.addItem("none", None)
        for s in show.surfaces:
            for part in fed_parts(s)[:200]:
                words = part.name if part.projector is None else f"{s.name} {part.name}"
                self.surface.addItem(f"{words}  {part.width}×{part.height}", part.key)

    def _fill_facts(self, show: Show, regions: list[Region], region: Region) -> None:
        exact = all(r.exact for r in regions)
        scale = self.facts["Scale"]
        scale.setText(
            scale_words(show, region)
            if len(regions) == 1
            else "all 1 : 1, not scaled"
            if exact
            else f"{sum(not r.exact for r in regions)} of {len(regions)} resampled"
        )
        theme.restyle(scale, f"color: {theme.GREEN if exact else theme.AMBER};")
        surface = show.surface(region.surface) if region.surface and len(regions) == 1 else None
        if isinstance(surface, LedWall):
            c = surface.cabinet
            self.facts["Made of"].setText(f"{surface.columns} × {surface.rows} cabinets, {c.columns_px}×{c.rows_px}")
        elif isinstance(surface, Projection):
            self.facts["Made of"].setText(f"{len(surface.projectors)} projectors, overlap {surface.overlap_px}")
        else:
            self.facts["Made of"].setText(f"{surface.pixels[0]}×{surface.pixels[1]} px" if surface else "–")

    # -- edits ---------------------------------------------------------------------------------------------------

    def _what(self) -> str:
        regions = self._regions()
        return regions[0].name if len(regions) == 1 else f"{len(regions)} regions"

    def _edit(self, label: str, make: Callable[[Show], Show]) -> None:
        self._session.try_edit(label, make)
        self._fill()

    def _typed(self, words: list[str], prefix: str) -> None:
        show, ids = self._session.show, self._ids()
        for key, word in zip("xywh", words, strict=True):
            if word != MIXED:
                show = with_typed(show, ids, prefix + key, word)
        self._session.edit(f"Land {self._what()}" if prefix else f"Move {self._what()} on the canvas", show)

    def _set_canvas(self, rect: tuple[int, int, int, int]) -> None:
        """What was one to one stays one to one."""
        self._session.edit(
            f"Move {self._what()} on the canvas", placed(self._session.show, {id: Rect(*rect) for id in self._ids()})
        )

    def _set_landing(self, rect: tuple[int, int, int, int]) -> None:
        x, y, w, h = rect
        new = {r.id: changed(r, landing=changed(r.landing, x=x, y=y, w=w, h=h)) for r in self._regions()}
        self._session.edit(f"Land {self._what()}", with_regions(self._session.show, new))

    def _set_output(self) -> None:
        id = self.output.currentData()
        self._edit(
            f"Land {self._what()} on {self._session.show.output(id).name}", lambda s: to_output(s, self._ids(), id)
        )

    def _set_turn(self) -> None:
        flip, turn = self.turn.currentData()
        self._edit(f"Turn {self._what()}", lambda s: turned(s, self._ids(), turn, flip))

    def _set_surface(self) -> None:
        key = self.surface.currentData()
        surface, projector, monitor = key or (None, None, None)
        region = self._regions()[0]
        new = changed(region, surface=surface, projector=projector, monitor=monitor)
        self._edit(f"{region.name} feeds {surface or 'nothing'}", lambda s: with_regions(s, {region.id: new}))

    def _rename(self) -> None:
        regions, name = self._regions(), self.name.text().strip()
        if regions and name:
            new = {
                r.id: changed(r, name=(name if len(regions) == 1 else f"{name} {n}")[:80])
                for n, r in enumerate(regions, 1)
            }
            self._edit(f"Rename {self._what()}", lambda s: with_regions(s, new))
        self.window().setFocus()
