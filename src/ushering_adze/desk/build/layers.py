"""The stack of layers of the canvas that is built on, the topmost first."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QDragEnterEvent, QDragMoveEvent, QDropEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.show import Layer
from ushering_adze.desk import theme
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.dragging import FINISH, id_dragged, sources_dragged

ROW = 34
_ID = Qt.ItemDataRole.UserRole


class _Rows(QStyledItemDelegate):
    """Draws a layer: its stripe, name, source, what is to be said of it, and whether it is on air."""

    def __init__(self, stack: LayerStack) -> None:
        super().__init__(stack)
        self._stack = stack

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(200, ROW)

    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        layer = self._stack.building.layer(index.data(_ID))
        if layer is None:
            return
        p.save()
        rect = QRectF(option.rect).adjusted(1, 1, -1, -2)  # type: ignore[attr-defined]
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)  # type: ignore[attr-defined]
        p.fillRect(rect, theme.colour(theme.RAISED if chosen else theme.PANEL))
        if chosen:
            p.setPen(theme.hairline(theme.AMBER, 1.6))
            p.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
        p.fillRect(QRectF(rect.x() + 1, rect.y() + 1, 4, rect.height() - 2), QColor(layer.colour))
        state = self._stack.states.get(layer.id)
        seen = state is not None and is_seen(state)
        p.setFont(theme.font(13, bold=chosen))
        p.setPen(theme.colour(theme.TEXT if seen else theme.DIM))
        half = (rect.width() - 30) * 0.42
        theme.left(p, QRectF(rect.x() + 12, rect.y(), half, rect.height()), layer.name)
        p.setFont(theme.font(12))
        p.setPen(theme.colour(theme.DIM))
        words, right = self._stack.words(layer, state)
        p.setFont(theme.font(11, mono=True))
        wide = p.fontMetrics().horizontalAdvance(right)
        theme.right(p, rect.adjusted(0, 0, -10, 0), right)
        p.setFont(theme.font(12))
        theme.left(p, QRectF(rect.x() + 18 + half, rect.y(), rect.width() - half - wide - 38, rect.height()), words)
        if layer.id in self._stack.on_air:
            theme.program_bar(p, QRectF(rect.right() - 4, rect.y() + 2, 3, rect.height() - 4))
        p.restore()


class LayerStack(QListWidget):
    """Layers to be selected, ordered by dragging, named, and given a source by dropping one.

    Signals
    -------
    asked_menu : right-clicked, at a global place
    finished : a finish was dropped on a layer: the layer, and the finish
    """

    asked_menu = Signal(object)
    finished = Signal(str, str)

    def __init__(self, building: Building) -> None:
        super().__init__()
        self.building = building
        self.states: dict[str, LayerState] = {}
        self.on_air: set[str] = set()
        self._told: object = None
        self._listing = False
        self.setItemDelegate(_Rows(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Layers")
        self.customContextMenuRequested.connect(lambda at: self.asked_menu.emit(self.viewport().mapToGlobal(at)))
        self.itemSelectionChanged.connect(self._chosen)
        self.itemChanged.connect(self._named)
        building.changed.connect(self.fill)
        building.moved.connect(self.follow)
        building.session.reported.connect(self.follow)
        self.fill()

    def words(self, layer: Layer, state: LayerState | None) -> tuple[str, str]:
        """What a layer shows, and what is to be said of it."""
        if state is None:
            return "", ""
        shown = by_share(state.picture)[0]
        found = next((s.name for s in self.building.show.sources if s.id == shown.source), "nothing")
        signs = ["locked"] if layer.locked else []
        if state.opacity == 0:
            signs.append("hidden")
        elif state.opacity < 1:
            signs.append(f"{state.opacity:.0%}")
        return found, " ".join([*signs, *([f"[{layer.group}]"] if layer.group else [])])

    def fill(self) -> None:
        """List the layers of the canvas anew."""
        canvas = self.building.canvas
        layers = list(reversed(canvas.layers)) if canvas is not None else []
        self._listing = True
        if [self.item(n).data(_ID) for n in range(self.count())] != [y.id for y in layers]:
            self.clear()
            for layer in layers:
                item = QListWidgetItem()
                item.setData(_ID, layer.id)
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
                self.addItem(item)
        for n, layer in enumerate(layers):
            item = self.item(n)
            item.setText(layer.name)
            item.setSelected(layer.id in self.building.selected)
        self._listing = False
        self.follow()

    def follow(self) -> None:
        """Paint anew when a layer shows something else."""
        if not self.isVisible():
            return
        self.states = self.building.states()
        canvas, air = self.building.canvas, self.building.stage.program.target
        self.on_air = {
            y.id
            for y in (canvas.layers if canvas is not None else ())
            if canvas is not None and (canvas.id, y.id) in air and is_seen(air[canvas.id, y.id])
        }
        shown = tuple((id, s.picture, s.spread, s.opacity) for id, s in self.states.items())
        told = (shown, frozenset(self.on_air), canvas.layers if canvas is not None else ())
        if told != self._told:
            self._told = told
            self.viewport().update()

    def showEvent(self, event: object) -> None:
        self.follow()

    def _chosen(self) -> None:
        if not self._listing:
            chosen = [self.item(n).data(_ID) for n in range(self.count()) if self.item(n).isSelected()]
            self.building.select(chosen)
            self._listing = True
            for n in range(self.count()):  # those of a group come with one of them
                self.item(n).setSelected(self.item(n).data(_ID) in self.building.selected)
            self._listing = False

    def _named(self, item: QListWidgetItem) -> None:
        layer = self.building.layer(item.data(_ID))
        if not self._listing and layer is not None and item.text().strip() != layer.name:
            self.building.name(layer.id, item.text())
            self.fill()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        if self.itemAt(event.position().toPoint()) is None:
            self.clearSelection()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(FINISH):
            event.acceptProposedAction()
        else:
            super().dragEnterEvent(event)

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if event.mimeData().hasFormat(FINISH):
            event.acceptProposedAction()
        else:
            super().dragMoveEvent(event)

    def _row_at(self, at: QPoint) -> int:
        item = self.itemAt(at)
        if item is None:
            return self.count()
        n = self.row(item)
        return n + (at.y() > self.visualItemRect(item).center().y())

    def dropEvent(self, event: QDropEvent) -> None:
        """Rows to another height; or a source into the layer that it is dropped on."""
        at = event.position().toPoint()
        sources = sources_dragged(event.mimeData())
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        finish, under = id_dragged(event.mimeData(), FINISH), self.itemAt(at)
        if finish is not None:
            if under is not None:
                self.finished.emit(under.data(_ID), finish)
            return
        if sources:
            item = self.itemAt(at)
            if item is not None:
                self.building.select((item.data(_ID),))
                self.building.show_in(item.data(_ID), sources[-1])
            return
        chosen = self.building.selected
        row = self._row_at(at)
        above = [self.item(n).data(_ID) for n in range(row) if self.item(n).data(_ID) not in chosen]
        self.building.order(chosen, self.count() - len(chosen) - len(above))


def quiet(widget: QWidget) -> None:
    """A list that has no frame of its own."""
    widget.setStyleSheet("QListWidget { border: none; background: transparent; }")
