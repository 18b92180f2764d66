"""The list of regions, and the geometry fields of the selected one."""

from __future__ import annotations

from collections.abc import Callable

from pydantic import ValidationError
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QFormLayout, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from ushering_adze.core.layout.entry import EntryError, rect_from
from ushering_adze.core.show import LedWall, Projection, QuadLanding, RectLanding, Region, ShowError
from ushering_adze.core.show.edits import changed, find_region, with_region
from ushering_adze.desk import theme
from ushering_adze.desk.map.views import region_colour
from ushering_adze.desk.session import Session

ROW = 44


class RegionList(QWidget):
    """Every region of the show, by canvas."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._top = 0
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Regions")
        session.show_changed.connect(self.update)
        session.selection_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(290, 300)

    def _regions(self) -> list[Region]:
        return [r for _, r in self._session.show.regions()]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        regions = self._regions()
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.left(p, QRectF(12, 4, 90, 26), "Regions")
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.left(p, QRectF(78, 4, 40, 26), str(len(regions)))
        p.setClipRect(QRectF(1, 32, self.width() - 2, self.height() - 34))
        for n, region in enumerate(regions):
            rect = QRectF(1, 32 + n * ROW - self._top, self.width() - 2, ROW - 1)
            chosen = region.id == self._session.region
            if chosen:
                p.fillRect(rect, theme.colour(theme.RAISED))
            p.fillRect(QRectF(1, rect.y(), 4, rect.height()), theme.colour(theme.AMBER if chosen else region_colour(self._session, region)))
            p.setFont(theme.font(13, bold=chosen))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(14, rect.y() + 4, rect.width() - 80, 18), region.name)
            output = self._session.show.output(region.output)
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(0, rect.y() + 4, rect.width() - 10, 18), f"out {output.number}")
            theme.left(p, QRectF(14, rect.y() + 22, rect.width() - 24, 18), f"{region.w}×{region.h}+{region.x}+{region.y}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        n = int((event.position().y() - 32 + self._top) // ROW)
        regions = self._regions()
        if event.position().y() > 32 and 0 <= n < len(regions):
            self._session.select_region(regions[n].id)

    def wheelEvent(self, event: QWheelEvent) -> None:
        most = max(0, len(self._regions()) * ROW + 40 - self.height())
        self._top = min(most, max(0, self._top - event.angleDelta().y() // 3))
        self.update()


class GeometryField(QLineEdit):
    """Four whole numbers that can be typed, worked out, nudged, and refused with a reason."""

    def __init__(self, name: str, apply: Callable[[tuple[int, int, int, int]], None], why: QLabel) -> None:
        super().__init__()
        self._apply, self._why = apply, why
        self._now: tuple[int, int, int, int] = (0, 0, 1, 1)
        self._whole = (1, 1)
        self.setObjectName("geometry")
        self.setAccessibleName(name)
        self.setToolTip("Four numbers, or 1920x960+1096+1080. Each may be worked out: +50, *2, 50%, w/2")
        self.returnPressed.connect(self._enter)
        self.textEdited.connect(lambda text: self._say(""))

    def hold(self, now: tuple[int, int, int, int], whole: tuple[int, int]) -> None:
        """Show a value."""
        self._now, self._whole = now, whole
        self._say("")
        self.setText(" ".join(map(str, now)))

    def _say(self, why: str) -> None:
        self._why.setText(why)
        self._why.setVisible(bool(why))
        if self.property("wrong") != bool(why):
            self.setProperty("wrong", bool(why))
            self.style().unpolish(self)
            self.style().polish(self)

    def _enter(self) -> None:
        try:
            self._apply(rect_from(self.text(), self._now, self._whole))
        except (EntryError, ShowError) as error:
            self._say(str(error))
        except ValidationError as error:
            self._say(error.errors()[0]["msg"])

    def _step(self, by: int) -> None:
        """Change the number the cursor stands in."""
        values, cursor = list(self._now), self.cursorPosition()
        if self.text() != " ".join(map(str, values)):
            return
        at = self.text()[:cursor].count(" ")
        values[at] += by
        self.setText(" ".join(map(str, values)))
        self._enter()
        self.setCursorPosition(len(" ".join(map(str, values[: at + 1]))))

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

    def nudge(self, dx: int, dy: int) -> None:
        """Move by whole pixels."""
        x, y, w, h = self._now
        self.setText(f"{x + dx} {y + dy} {w} {h}")
        self._enter()


class GeometryPanel(QWidget):
    """Name and geometry of the selected region, and what follows from them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setMinimumSize(250, 280)
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
        self.on_canvas = GeometryField("On canvas", self._set_canvas, why_canvas)
        self.lands = GeometryField("Lands at", self._set_landing, why_landing)
        self.facts = {key: QLabel() for key in ("Surface", "Cabinets", "Scale")}
        form = QFormLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(6)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.addRow(self._dim("Name"), self.name)
        form.addRow(self._dim("On canvas"), self.on_canvas)
        form.addRow("", why_canvas)
        form.addRow(self._dim("Lands at"), self.lands)
        form.addRow("", why_landing)
        hint = QLabel("x y w h · +50 · *2 · 50% · w/2")
        hint.setProperty("role", "dim")
        form.addRow("", hint)
        for key, label in self.facts.items():
            label.setProperty("role", "mono")
            form.addRow(self._dim(key), label)
        self.empty = QLabel("Select a region on the canvas or in the list.")
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        self._body = QWidget()
        self._body.setLayout(form)
        form.setContentsMargins(0, 0, 0, 0)
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 12, 8)
        box.addWidget(self.title)
        box.addWidget(self.kind)
        box.addWidget(self.empty)
        box.addWidget(self._body)
        box.addStretch(1)
        self.name.returnPressed.connect(self._rename)
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

    def _fill(self) -> None:
        show = self._session.show
        found = find_region(show, self._session.region) if self._session.region else None
        self._body.setVisible(found is not None)
        self.kind.setVisible(found is not None)
        self.empty.setVisible(found is None)
        if found is None:
            self.title.setText("Geometry")
            return
        canvas, region = found
        output = show.output(region.output)
        surface = show.surface(region.surface) if region.surface else None
        self.title.setText(region.name)
        words = {"led-wall": "LED wall", "projection": "projection", "monitor-wall": "monitor wall", "monitor": "monitor", "stream": "stream"}
        self.kind.setText(f"{words[surface.kind]} · output {output.number} {output.name}" if surface else f"output {output.number}")
        self.name.setText(region.name)
        self.on_canvas.hold((region.x, region.y, region.w, region.h), (canvas.width, canvas.height))
        landing = region.landing
        self.lands.setEnabled(isinstance(landing, RectLanding))
        if isinstance(landing, RectLanding):
            self.lands.hold((landing.x, landing.y, landing.w, landing.h), (output.timing.width, output.timing.height))
            exact = (landing.w, landing.h) == (region.w, region.h)
            unit = "LED" if isinstance(surface, LedWall) else "px"
            self.facts["Scale"].setText(f"1 px = 1 {unit}, not scaled" if exact else
                                        f"×{landing.w / region.w:.3f} across, ×{landing.h / region.h:.3f} down, resampled")
            self.facts["Scale"].setStyleSheet(f"color: {theme.GREEN if exact else theme.AMBER};")
        else:
            assert isinstance(landing, QuadLanding)
            self.lands.setText("quad")
        size = f"{surface.size_mm[0] / 1000:g} × {surface.size_mm[1] / 1000:g} m" if surface and surface.size_mm else "no size"
        self.facts["Surface"].setText(f"{surface.name}, {size}" if surface else "none")
        if isinstance(surface, LedWall):
            c = surface.cabinet
            self.facts["Cabinets"].setText(f"{surface.columns} × {surface.rows} of {c.columns_px}×{c.rows_px}, {c.pitch_mm:.2f} mm")
        elif isinstance(surface, Projection):
            self.facts["Cabinets"].setText(f"{len(surface.projectors)} projectors, overlap {surface.overlap_px} px")
        else:
            self.facts["Cabinets"].setText("–")

    def _region(self) -> Region | None:
        found = find_region(self._session.show, self._session.region) if self._session.region else None
        return found[1] if found else None

    def _set_canvas(self, rect: tuple[int, int, int, int]) -> None:
        region = self._region()
        if region is None:
            return
        x, y, w, h = rect
        moved = changed(region, x=x, y=y, w=w, h=h)
        landing = region.landing
        if isinstance(landing, RectLanding) and (landing.w, landing.h) == (region.w, region.h):
            moved = changed(moved, landing=changed(landing, w=w, h=h))  # what was one to one stays one to one
        self._session.edit(f"Move {region.name} on the canvas", with_region(self._session.show, moved))

    def _set_landing(self, rect: tuple[int, int, int, int]) -> None:
        region = self._region()
        if region is not None:
            x, y, w, h = rect
            landed = changed(region, landing=RectLanding(x=x, y=y, w=w, h=h))
            self._session.edit(f"Land {region.name}", with_region(self._session.show, landed))

    def _rename(self) -> None:
        region, name = self._region(), self.name.text().strip()
        if region is not None and name:
            self._session.edit(f"Rename {region.name}", with_region(self._session.show, changed(region, name=name[:80])))
        self.window().setFocus()
