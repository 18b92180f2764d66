"""The source shelf: every source with its live picture, in groups, found by what is typed, and dragged from."""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce

from PySide6.QtCore import QMimeData, QModelIndex, QPersistentModelIndex, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QDropEvent, QImage, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QColorDialog,
    QInputDialog,
    QLineEdit,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.show import Show, Source
from ushering_adze.core.show.rigging import duplicated, with_field, with_item, without_item
from ushering_adze.core.show.shelved import KINDS, by_group, in_group, matching
from ushering_adze.desk import theme
from ushering_adze.desk.dragging import SOURCES, sources_carried, sources_dragged
from ushering_adze.desk.pictures import checker, shrunk
from ushering_adze.desk.session import Session
from ushering_adze.playout import Report

ROW, HEAD, PICTURE = 56, 26, (80, 45)
EACH_TIME = 2
"""Pictures that are looked at anew with each report, in turn, so that the shelf never keeps frames waiting."""
_ID, _GROUP = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


def _with(show: Show, id: str, field: str, value: object) -> Show:
    return with_item(show, "sources", with_field(show.source(id), field, value))


class _Tree(QTreeWidget):
    """The rows; what is dragged off it are sources, what is dropped on it goes into a group.

    Signals
    -------
    dropped : ids, and the name of the group they were dropped in
    """

    dropped = Signal(object, str)

    def mimeTypes(self) -> list[str]:
        return [SOURCES]

    def mimeData(self, items: object) -> QMimeData:
        return sources_carried([item.data(0, _ID) for item in self.selectedItems() if item.data(0, _ID)])

    def dropEvent(self, event: QDropEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        event.setDropAction(Qt.DropAction.CopyAction)  # the rows are made anew from the show
        event.accept()
        self.dropped.emit(sources_dragged(event.mimeData()), "" if item is None else item.data(0, _GROUP))


class _Rows(QStyledItemDelegate):
    """Draws a source: its stripe, picture, name, what it is, and its tally."""

    def __init__(self, shelf: SourceShelf) -> None:
        super().__init__(shelf)
        self._shelf = shelf

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(120, ROW if index.data(_ID) else HEAD if self._shelf.grouped else 2)

    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        p.save()
        rect = QRectF(option.rect)  # type: ignore[attr-defined]
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)  # type: ignore[attr-defined]
        source = self._shelf.source_of(index.data(_ID)) if index.data(_ID) else None
        if source is None:
            p.setFont(theme.font(12, bold=True))
            p.setPen(theme.colour(theme.DIM))
            if self._shelf.grouped:
                theme.left(p, rect.adjusted(6, 0, -6, 0), str(index.data(_GROUP)) or "No group")
        else:
            self._paint(p, rect.adjusted(1, 2, -1, -2), source, chosen)
        p.restore()

    def _paint(self, p: QPainter, rect: QRectF, source: Source, chosen: bool) -> None:
        shelf = self._shelf
        p.fillRect(rect, theme.colour(theme.RAISED if chosen else theme.PANEL))
        if chosen:
            p.setPen(theme.hairline(theme.AMBER, 1.6))
            p.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
        p.fillRect(QRectF(rect.x() + 1, rect.y() + 1, 4, rect.height() - 2), QColor(source.colour))
        box = QRectF(rect.x() + 9, rect.y() + (rect.height() - PICTURE[1]) / 2, *PICTURE)
        p.fillRect(box, theme.colour(theme.WELL))
        image = shelf.picture(source.id)
        if image is not None:
            if image.hasAlphaChannel():
                checker(p, box, 6)
            size = image.size().scaled(*PICTURE, Qt.AspectRatioMode.KeepAspectRatio)
            at = QRectF(0, 0, size.width(), size.height())
            at.moveCenter(box.center())
            p.drawImage(at, image)
        text = QRectF(box.right() + 8, rect.y() + 4, rect.right() - box.right() - 14, 20)
        p.setFont(theme.font(13, bold=chosen))
        p.setPen(theme.colour(theme.TEXT))
        words, token = shelf.state_of(source)
        lost = token != theme.DIM
        wide = p.fontMetrics().horizontalAdvance(source.name) > text.width()
        if wide and not lost and " " in source.name:  # in two lines, in place of what it is
            p.setFont(theme.font(12, bold=chosen))
            how = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            p.drawText(text.adjusted(0, 0, 0, 20), how, source.name)
        else:
            theme.left(p, text, source.name)
            p.setFont(theme.font(11))
            p.setPen(theme.colour(token))
            theme.left(p, text.translated(0, 20), words)
        bar = QRectF(rect.right() - 4, rect.y() + 2, 3, rect.height() - 4)
        if source.id in shelf.on_program:
            theme.program_bar(p, bar)
        elif source.id in shelf.on_preview:
            theme.preview_bar(p, bar)


class SourceShelf(QWidget):
    """Sources to be found, dragged, put into groups, named, coloured, copied and removed.

    Signals
    -------
    opened : a source was double-clicked, or Enter pressed on it
    """

    opened = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.on_program: set[str] = set()
        self.on_preview: set[str] = set()
        self._lost: set[str] = set()
        self._states: dict[str, str] = {}
        self._images: dict[str, tuple[int, QImage]] = {}
        self._turn = 0
        self._listing = False
        self._held: object = None
        self.grouped = False
        """Whether any source stands in a group: without any, there are no headings."""
        self.finder = QLineEdit()
        self.finder.setPlaceholderText("Find a source")
        self.finder.setClearButtonEnabled(True)
        self.finder.setAccessibleName("Find a source")
        self.tree = _Tree()
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(False)
        self.tree.setIndentation(0)
        self.tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tree.setItemDelegate(_Rows(self))
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.tree.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.tree.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.tree.setAccessibleName("Sources")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addWidget(self.finder)
        box.addWidget(self.tree, 1)
        self.finder.textChanged.connect(self.fill)
        self.finder.returnPressed.connect(self._first)
        self.tree.dropped.connect(self.group)
        self.tree.itemSelectionChanged.connect(self._chosen)
        self.tree.itemActivated.connect(lambda item: item.data(0, _ID) and self.opened.emit(item.data(0, _ID)))
        self.tree.itemClicked.connect(self._fold)
        self.tree.customContextMenuRequested.connect(self._menu)
        session.show_changed.connect(self.fill)
        session.selection_changed.connect(self._follow)
        session.reported.connect(self._hear)
        self.fill()

    # -- what the rows show --------------------------------------------------------------------------------------

    def source_of(self, id: str) -> Source | None:
        """A source by its id, while the show has it."""
        return next((s for s in self._session.show.sources if s.id == id), None)

    def picture(self, id: str) -> QImage | None:
        """The small picture of a source, once there is one."""
        return self._images[id][1] if id in self._images else None

    def state_of(self, source: Source) -> tuple[str, str]:
        """What a source is, or what is wrong with it, and the colour to say it in."""
        state = self._states.get(source.id)
        if source.id in self._lost:
            return (state or "lost"), theme.RED_WORDS
        return f"{KINDS[source.kind]}, {state}" if state else KINDS[source.kind], theme.DIM

    def shown(self) -> list[str]:
        """The sources that are listed, from the top."""
        return [item.data(0, _ID) for item in self._items() if item.data(0, _ID)]

    def chosen(self) -> tuple[str, ...]:
        """The sources that are selected here, in the order of the list."""
        return tuple(item.data(0, _ID) for item in self._items() if item.isSelected() and item.data(0, _ID))

    def _items(self) -> list[QTreeWidgetItem]:
        found = []
        for n in range(self.tree.topLevelItemCount()):
            head = self.tree.topLevelItem(n)
            assert head is not None
            found += [head, *(head.child(k) for k in range(head.childCount()))]
        return found

    def fill(self) -> None:
        """List the sources anew: those that what is typed fits, under their groups."""
        show = self._session.show
        held = (self.finder.text(), show.sources)
        if held == self._held:
            return
        self._held = held
        fits = {s.id for s in matching(show, self.finder.text())}
        folded = {item.data(0, _GROUP) for item in self._items() if item.childCount() and not item.isExpanded()}
        selected, at = set(self.chosen()), self.tree.verticalScrollBar().value()
        self._listing = True
        self.tree.clear()
        groups = by_group(show)
        self.grouped = any(groups)
        for group, sources in groups.items():
            rows = [s for s in sources if s.id in fits]
            if not rows:
                continue
            head = QTreeWidgetItem([group])
            head.setData(0, _GROUP, group)
            head.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsDropEnabled)
            self.tree.addTopLevelItem(head)
            for source in rows:
                item = QTreeWidgetItem([source.name])
                item.setData(0, _ID, source.id)
                item.setData(0, _GROUP, group)
                item.setToolTip(0, f"{source.name}: {KINDS[source.kind]}.  Drag it to where it is to be shown.")
                head.addChild(item)
                item.setSelected(source.id in selected)
            head.setExpanded(group not in folded)
        self.tree.verticalScrollBar().setValue(at)
        self._listing = False
        for gone in self._images.keys() - {s.id for s in show.sources}:
            del self._images[gone]

    def _follow(self) -> None:
        """Select what is selected elsewhere."""
        id = self._session.source
        if id is None or id in self.chosen():
            return
        self._listing = True
        for item in self._items():
            item.setSelected(item.data(0, _ID) == id)
            if item.data(0, _ID) == id:
                self.tree.scrollToItem(item)
        self._listing = False

    def _hear(self, report: Report) -> None:
        if not self.isVisible():
            return
        told = (
            sources_of(report.stage.program.target),
            sources_of(report.stage.preview()) if report.stage.previewing else set(),
            {s.id for s in self._session.show.sources if s.id in report.faults},
            {s.source: s.words for s in report.signals},
        )
        if told != (self.on_program, self.on_preview, self._lost, self._states):
            self.on_program, self.on_preview, self._lost, self._states = told
            self.tree.viewport().update()
        self._look()

    def _look(self) -> None:
        """Look anew at a few of the pictures that can be seen, in turn."""
        inside = self.tree.viewport().rect()
        seen = [i for i in self._items() if i.data(0, _ID) and self.tree.visualItemRect(i).intersects(inside)]
        for _ in range(min(EACH_TIME, len(seen))):
            item = seen[self._turn % len(seen)]
            self._turn += 1
            id = item.data(0, _ID)
            box = [self.devicePixelRatioF() * side for side in PICTURE]
            known = self._images[id][0] if id in self._images else -1
            frame = self._session.playout.small_picture(id, box[0], box[1], known)
            if frame is None:
                continue
            height, width = frame.pixels.shape[:2]
            scale = min(box[0] / width, box[1] / height)
            small = shrunk(frame.pixels, max(1, round(width * scale)), max(1, round(height * scale)), not frame.opaque)
            self._images[id] = (frame.serial, small)
            self.tree.viewport().update(self.tree.visualItemRect(item))

    # -- what is done to them ------------------------------------------------------------------------------------

    def _first(self) -> None:
        """Enter in the field: choose the first that fits."""
        for item in self._items():
            if item.data(0, _ID):
                self.tree.clearSelection()
                item.setSelected(True)
                self.tree.setCurrentItem(item)
                self.tree.setFocus()
                return

    def _chosen(self) -> None:
        chosen = self.chosen()
        if not self._listing and chosen:
            current = self.tree.currentItem()
            id = current.data(0, _ID) if current is not None and current.isSelected() else None
            self._session.select_source(id or chosen[-1])

    def _fold(self, item: QTreeWidgetItem) -> None:
        if item.childCount():
            item.setExpanded(not item.isExpanded())

    def group(self, ids: tuple[str, ...], group: str) -> None:
        """Put sources into a group, or out of it if it has no name."""
        if ids:
            words = f"Group {group}" if group else "Out of their group"
            self._session.try_edit(words, lambda show: in_group(show, ids, group))

    def recolour(self, ids: tuple[str, ...], colour: str) -> None:
        """Give sources another stripe."""
        self._each("Colour", ids, lambda show, id: _with(show, id, "colour", colour))

    def rename(self, id: str, name: str) -> None:
        """Give a source another name."""
        self._each(f"Rename {name.strip()}", (id,), lambda show, id: _with(show, id, "name", name.strip()))

    def _each(self, words: str, ids: tuple[str, ...], make: Callable[[Show, str], Show]) -> None:
        if ids:
            self._session.try_edit(words, lambda show: reduce(make, ids, show))

    def copy(self, ids: tuple[str, ...]) -> None:
        """A copy of each beside it; the last one is selected."""
        show, last = self._session.show, ""
        for id in ids:
            last = new_id(id, {s.id for s in show.sources})
            show = duplicated(show, "sources", id, last)
        if ids and self._session.try_edit("Duplicate", lambda _: show):
            self._session.select_source(last)

    def remove(self, ids: tuple[str, ...]) -> None:
        """Take sources out of the show."""
        self._each("Remove sources", ids, lambda show, id: without_item(show, "sources", id))

    def _menu(self, at: QPoint) -> None:
        ids = self.chosen()
        if not ids:
            return
        menu = QMenu(self)
        acts: list[tuple[str, Callable[[], object]]] = [
            ("Rename…", lambda: self._ask_name(ids[-1])),
            ("Colour…", lambda: self._ask_colour(ids)),
            ("Duplicate", lambda: self.copy(ids)),
            ("Remove", lambda: self.remove(ids)),
        ]
        for words, act in acts:
            menu.addAction(words).triggered.connect(lambda checked=False, act=act: act())
        menu.addSeparator()
        groups = menu.addMenu("Group")
        for group in by_group(self._session.show):
            words = group or "No group"
            groups.addAction(words).triggered.connect(lambda checked=False, g=group: self.group(ids, g))
        groups.addSeparator()
        groups.addAction("New…").triggered.connect(lambda: self._ask_group(ids))
        menu.popup(self.tree.viewport().mapToGlobal(at))

    def _ask_name(self, id: str) -> None:
        source = self._session.show.source(id)
        name, right = QInputDialog.getText(self, "Rename", "Name", QLineEdit.EchoMode.Normal, source.name)
        if right:
            self.rename(id, name)

    def _ask_colour(self, ids: tuple[str, ...]) -> None:
        chosen = QColorDialog.getColor(QColor(self._session.show.source(ids[-1]).colour), self, "Colour")
        if chosen.isValid():
            self.recolour(ids, chosen.name().upper())

    def _ask_group(self, ids: tuple[str, ...]) -> None:
        name, right = QInputDialog.getText(self, "New group", "Name")
        if right and name.strip():
            self.group(ids, name)
