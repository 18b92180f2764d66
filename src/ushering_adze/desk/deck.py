"""The preset deck: cards with scope glyphs; a click or a typed number stages."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.onair.actions import StagePreset
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Preset, Show
from ushering_adze.desk import theme
from ushering_adze.desk.dragging import PRESET, drag, far_enough, id_dragged, sources_dragged
from ushering_adze.desk.miniature import paint_room
from ushering_adze.desk.pictures import Kept
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button
from ushering_adze.playout import Forecast

HIGH = 112
"""Pixels of a card."""
FAMILIES: dict[str, list[str]] = {}
"""Kinds by their families, in their order: a row of the glyph for each."""
for _kind in KINDS:
    FAMILIES.setdefault(_kind.family or _kind.name, []).append(_kind.name)


AFTER = 4000
"""Milliseconds that a window has to come up in before the machine is measured."""
MUCH = 0.8
"""Share of a frame's time from which it is told in amber what a preset wants."""


def percent(wants: Forecast | None) -> int:
    """What a preset wants of a frame's time, in hundredths, in steps of five where it is more than a little."""
    return 0 if wants is None else round(20 * wants.most) * 5


def forecast_words(show: Show, wants: Forecast | None) -> str:
    """What a preset will want of a frame's time, in a sentence or two; nothing if that is not known."""
    if wants is None:
        return ""
    if wants.most < 0.025:
        return "Nothing moves in it: it costs next to nothing"
    words = f"Wants about {100 * wants.rest:.0f} % of a frame's time on this machine"
    if wants.way > wants.rest + 0.01:
        words += f", {100 * wants.way:.0f} % on its way there"
    words += f"; most goes into {wants.dearest}" if wants.dearest else ""
    names = {source.id: source.name for source in show.sources}
    for small in (s for s in wants.small if s.source in names):  # what was learned may be older than the show
        words += f"\n{names[small.source]} is shown at ×{small.scale:.2f}: a smaller one would cost less"
    return words


class PresetCard(QWidget):
    """One preset: number, name, and a glyph of its scope (layers across, kinds of setting down)."""

    pressed = Signal(int)
    blind_asked = Signal(int)
    variant_asked = Signal(int, str)
    moved = Signal(int, int)

    def __init__(self, session: Session, preset: Preset, ordered: bool = False) -> None:
        super().__init__()
        self._session, self.preset, self._ordered = session, preset, ordered
        self._start: QPoint | None = None
        self.setFixedHeight(HIGH)
        self.setAccessibleName(f"Preset {preset.number} {preset.name}")
        self.setToolTip(self._scope_words())
        self._drawn = ""
        self._wants: Forecast | None = None
        self._pictures: Mapping[str, Pixels] | None = None
        self._glyph = Kept()
        self.setAcceptDrops(True)
        session.reported.connect(self._follow)
        session.show_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(90, HIGH)

    def _follow(self) -> None:
        """Paint anew only when it came on program or preview, or left it, or its picture is new: reports come a dozen
        times a second.
        """
        report = self._session.report
        pictures = report.presets.get(self.preset.number) if report is not None else None
        wants = report.forecasts.get(self.preset.number) if report is not None else None
        if percent(wants) != percent(self._wants):
            self._drawn = ""
            self.setToolTip(f"{self._scope_words()}\n{forecast_words(self._session.show, wants)}".strip())
            self.update()
        self._wants = wants
        if self.role() != self._drawn or (pictures is not None and pictures is not self._pictures):
            self._pictures = pictures if pictures is not None else self._pictures
            self.update()

    def _scope_words(self) -> str:
        """In a sentence; what another show that has just begun does not have is left out."""
        canvases = self._session.show.canvases
        names = {(c.id, y.id): y.name for c in canvases for y in c.layers}
        layers = [names[p.canvas, p.layer] for p in self.preset.parts if (p.canvas, p.layer) in names]
        cleared = [c.name for c in canvases if c.id in self.preset.clears]
        clears = f"; clears {', '.join(cleared)}" if cleared else ""
        return f"{self.preset.name}, {self.preset.seconds:g} s: {', '.join(layers) or 'no layers'}{clears}"

    def role(self) -> str:
        """``program``, ``preview`` or nothing."""
        report = self._session.report
        if report is None:
            return ""
        if report.stage.on_program == self.preset.number:
            return "program"
        return "preview" if report.stage.staged == self.preset.number else ""

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        rect = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        role = self._drawn = self.role()
        p.setPen(theme.hairline(theme.LINE))
        p.setBrush(theme.colour(theme.RAISED))
        p.drawRoundedRect(rect, 3, 3)
        if role:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.RED if role == "program" else theme.GREEN, 2.4, dashed=role == "preview"))
            p.drawRoundedRect(rect, 3, 3)
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        number = str(self.preset.number)
        theme.left(p, QRectF(9, 4, 60, 17), number)
        if self._wants is not None and percent(self._wants):
            beside = 9 + p.fontMetrics().horizontalAdvance(number) + 7
            p.setFont(theme.font(11, mono=True))
            p.setPen(theme.colour(theme.AMBER if self._wants.most > MUCH else theme.DIM))
            theme.left(p, QRectF(beside, 4, 60, 17), f"{percent(self._wants)} %")
        if self.preset.key is not None:
            p.setFont(theme.font(11, mono=True))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(40, 4, rect.width() - 47, 17), self.preset.key.replace("Shift+", "⇧"))
        p.setFont(theme.font(12))
        if p.fontMetrics().horizontalAdvance(self.preset.name) > rect.width() - 14:
            p.setFont(theme.font(11))
        p.setPen(theme.colour(theme.TEXT if role else theme.DIM))
        name = p.fontMetrics().elidedText(self.preset.name, Qt.TextElideMode.ElideRight, int(rect.width() - 13))
        theme.left(p, QRectF(9, 20, rect.width() - 12, 17), name)
        paint_room(p, self._session.show, self._pictures or {}, QRectF(9, 40, rect.width() - 16, 38))
        show = self._session.show
        of = self.preset, tuple((c.id, c.layers) for c in show.canvases)
        p.drawImage(
            0, 0, self._glyph.of(self, of, lambda p: self._paint_glyph(p, QRectF(9, 82, rect.width() - 16, 26)))
        )

    def _paint_glyph(self, p: QPainter, box: QRectF) -> None:
        layers = [(c.id, y) for c in self._session.show.canvases for y in c.layers]
        if not layers:
            return
        parts = {(part.canvas, part.layer): part for part in self.preset.parts}
        w, h = min(10.0, box.width() / len(layers)), box.height() / len(FAMILIES)
        for n, (canvas, layer) in enumerate(layers):
            part = parts.get((canvas, layer.id))
            cleared = part is None and canvas in self.preset.clears
            for k, (family, kinds) in enumerate(FAMILIES.items()):
                cell = QRectF(box.x() + n * w, box.y() + k * h, w - 2, h - 2)
                hows = (
                    [part.how(kind) for kind in kinds] if part else ["faded"] if cleared and family == "opacity" else []
                )
                how = next((h for h in ("faded", "snapped") if h in hows), "left")
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(theme.colour(theme.GROUND))
                p.drawRect(cell)
                p.setBrush(theme.colour(layer.colour if not cleared else theme.DIM))
                if how == "snapped":
                    p.drawRect(cell)
                elif how == "faded":
                    p.drawPolygon(QPolygonF([cell.bottomLeft(), cell.bottomRight(), QPointF(cell.right(), cell.top())]))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if sources_dragged(event.mimeData()) or event.mimeData().hasFormat(PRESET):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A source dropped on a card asks for the same preset with that source; another card takes its place."""
        event.acceptProposedAction()
        other = id_dragged(event.mimeData(), PRESET)
        if other is not None and int(other) != self.preset.number:
            self.moved.emit(int(other), self.preset.number)
        for source in sources_dragged(event.mimeData())[-1:]:
            self.variant_asked.emit(self.preset.number, source)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._start = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._ordered and far_enough(self._start, event):
            self._start = None
            drag(self, PRESET, str(self.preset.number))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._start = self._start is not None, None
        if pressed and event.button() == Qt.MouseButton.LeftButton and self.rect().contains(event.position().toPoint()):
            alone = event.modifiers() & Qt.KeyboardModifier.AltModifier
            (self.blind_asked if alone else self.pressed).emit(self.preset.number)


class PresetDeck(QWidget):
    """All presets in order of their numbers; a click stages, it never fires.

    Signals
    -------
    staged : a card was clicked, and its preset staged
    blind_asked : a card was clicked with Alt: its preset is to be edited without being staged
    variant_asked : a source was dropped on a card: the preset's number, the source's id
    moved : a card was dropped on another one: its number, and that of the other
    paged : there are other pages
    """

    staged = Signal(int)
    blind_asked = Signal(int)
    variant_asked = Signal(int, str)
    paged = Signal()
    moved = Signal(int, int)

    def __init__(self, session: Session, columns: int = 4, headed: bool = True, ordered: bool = False) -> None:
        super().__init__()
        self._ordered = ordered
        self._session, self._columns, self._headed = session, columns, headed
        self.typed = ""
        self.setObjectName("deck")
        self._name = f"deck of {columns}"
        self._grid_host = QWidget()
        self._grid = QGridLayout(self._grid_host)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self._grid_host)
        scroll.viewport().setAutoFillBackground(False)
        self._grid_host.setAutoFillBackground(False)
        self.page: str | None = None
        """The page whose cards are shown; None for all."""
        self.pages: dict[str | None, QPushButton] = {}
        self.tabs = QWidget(self)
        """The buttons of pages; above the cards, or wherever who has the deck puts them."""
        self._tabs = QHBoxLayout(self.tabs)
        self._tabs.setContentsMargins(0, 0, 0, 0)
        self._tabs.setSpacing(4)
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 34 if headed else 8, 10, 8)
        if headed:
            box.addWidget(self.tabs)
        box.addWidget(scroll)
        self.cards: list[PresetCard] = []
        session.show_changed.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        every = sorted(self._session.show.presets, key=lambda p: p.number)
        self._fill_pages(list(dict.fromkeys(p.page for p in every if p.page)))
        presets = [p for p in every if self.page is None or p.page == self.page]
        if [c.preset for c in self.cards] == presets:
            return
        for card in self.cards:
            card.hide()
            card.deleteLater()
        self.cards = [PresetCard(self._session, p, self._ordered) for p in presets]
        for n, card in enumerate(self.cards):
            card.pressed.connect(self._stage)
            card.blind_asked.connect(self.blind_asked)
            card.variant_asked.connect(self.variant_asked)
            card.moved.connect(self.moved)
            self._grid.addWidget(card, n // self._columns, n % self._columns)
        for column in range(self._columns):
            self._grid.setColumnStretch(column, 1)
        self._grid.setRowStretch(len(self.cards) // self._columns + 1, 1)
        self.want()

    def _fill_pages(self, names: list[str]) -> None:
        """A button for every page that any preset lies on; none if none does."""
        wanted: list[str | None] = [None, *names] if names else []
        if list(self.pages) != wanted:
            for button in self.pages.values():
                button.hide()
                button.deleteLater()
            self.pages = {}
            while self._tabs.count():
                self._tabs.takeAt(0)
            for name in wanted:
                words = "all" if name is None else name
                self.pages[name] = tool_button(words, partial(self.turn_to, name), "Cards of this page", checkable=True)
                self._tabs.addWidget(self.pages[name])
            if wanted and self._headed:
                self._tabs.addStretch(1)
            self.tabs.setVisible(bool(wanted))
            self.paged.emit()
        if self.page not in wanted:
            self.page = None
        for name, button in self.pages.items():
            button.setChecked(name == self.page)

    def turn_to(self, page: str | None) -> None:
        """Show the cards of a page, or all."""
        self.page = page
        self._fill()

    def showEvent(self, event: object) -> None:
        self.want()
        QTimer.singleShot(AFTER, self._session.playout.forecast)

    def hideEvent(self, event: object) -> None:
        self._session.playout.glimpse(self._name, ())

    def want(self) -> None:
        """Want small pictures of the presets, while the deck is to be seen."""
        if self.isVisible():
            self._session.playout.glimpse(self._name, tuple(card.preset.number for card in self.cards))

    def _stage(self, number: int) -> None:
        self._session.playout.act(StagePreset(preset=number))
        self.staged.emit(number)

    def show_typed(self, typed: str) -> None:
        """Show the digits typed so far."""
        self.typed = typed
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setPen(theme.hairline())
        p.setBrush(theme.colour(theme.PANEL))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        if not self._headed:
            return
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.left(p, QRectF(12, 4, 100, 28), "Presets")
        if self.typed:
            p.setFont(theme.font(20, bold=True, mono=True))
            p.setPen(theme.colour(theme.AMBER))
            theme.right(p, QRectF(100, 4, self.width() - 112, 28), f"{self.typed}▏")
        else:
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(100, 4, self.width() - 112, 28), "digits, then Enter")
