"""The signal path: sources, outputs and surfaces in three columns, with the lines between them."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QLineEdit, QMenu, QSizePolicy, QWidget

from ushering_adze.core.displays.binding import FedPart, bound, fed_by, fed_parts, rebound, unbound
from ushering_adze.core.displays.rig import reached
from ushering_adze.core.show import Show
from ushering_adze.core.show.rigging import Shelf, item_of, with_field, with_item
from ushering_adze.desk import theme
from ushering_adze.desk.rig.feed_specs import feed_state
from ushering_adze.desk.rig.nodes import paint_node
from ushering_adze.desk.session import Session
from ushering_adze.playout import FeedReport

HEAD, SHORT, TALL = 30, 22, 43
SHELVES: tuple[tuple[Shelf, str], ...] = (("sources", "Sources"), ("outputs", "Outputs"), ("surfaces", "Surfaces"))
BELOW: dict[Shelf, Shelf] = {"outputs": "feeds"}
"""Lists that stand under another in its column."""


@dataclass
class Node:
    """One item as it is drawn."""

    shelf: Shelf
    id: str
    rect: QRectF


@dataclass
class Port:
    """Where a line ends at a surface: one for each fed part."""

    part: FedPart
    at: QPointF
    rect: QRectF


class SignalPath(QWidget):
    """Three columns, feeds under the outputs.

    Drag from an output to a surface to bind it; drag a line off a surface to unbind it.

    Signals
    -------
    asked_menu : a shelf was right-clicked, with the item's id and a global position
    """

    asked_menu = Signal(str, str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.nodes: list[Node] = []
        self.ports: list[Port] = []
        self._top = 0.0
        self._feeds_at: QPointF | None = None
        self._from: tuple[str, FedPart | None] | None = None
        self._at = QPointF()
        self._pressed = QPointF()
        self._lit: set[tuple[str, str]] = set()
        self._told: dict[str, FeedReport] = {}
        self.editor: QLineEdit | None = None
        self.setMinimumSize(460, 200)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Signal path")
        session.show_changed.connect(self._edited)
        session.selection_changed.connect(self._reveal)
        session.reported.connect(self._follow)

    def sizeHint(self) -> QSize:
        return QSize(900, 400)

    # -- geometry ------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: object) -> None:
        self.lay_out()

    def showEvent(self, event: object) -> None:
        self.lay_out()

    def _edited(self) -> None:
        if self.isVisible():
            self.lay_out()

    def lay_out(self) -> None:
        """Place every node."""
        show = self._session.show
        column = (self.width() - 24) / 3.0
        gap = min(110.0, column * 0.27)
        width = (self.width() - 24 - 2 * gap) / 3
        self.nodes, self.ports, self._feeds_at = [], [], None
        deepest = 0.0
        for n, (shelf, _) in enumerate(SHELVES):
            x, y = 12 + n * (width + gap), HEAD + 4 - self._top
            high, between = (SHORT, 3) if shelf == "sources" else (TALL, 4)
            under = BELOW.get(shelf)
            for at, item in [
                *((shelf, i) for i in getattr(show, shelf)),
                *(((under, i) for i in getattr(show, under)) if under else ()),
            ]:
                if at != shelf and self._feeds_at is None:
                    self._feeds_at = QPointF(x, y + self._top)
                    y += HEAD - 6
                parts = fed_parts(item) if shelf == "surfaces" else []
                h = max(high, 16.0 * min(len(parts), 12) + 6)
                rect = QRectF(x, y, width, h)
                self.nodes.append(Node(at, item.id, rect))
                for k, part in enumerate(parts):
                    py = y + h * (k + 0.5) / len(parts)
                    self.ports.append(
                        Port(part, QPointF(x, py), QRectF(x - 14, y + h * k / len(parts), 30, h / len(parts)))
                    )
                y += h + between
            deepest = max(deepest, y + self._top)
        self._most = max(0.0, deepest + 6 - self.height())
        if self._top > self._most:
            self._top = self._most
            self.lay_out()
        self.update()

    def _follow(self) -> None:
        """Paint anew only when another source is on an output: reports come a dozen times a second."""
        lit, report = self._live(self._session.show), self._session.report
        told = {f.feed: f for f in report.feeds} if report is not None else {}
        words = {id: feed_state(f) for id, f in told.items()}
        if (lit, words) != (self._lit, {id: feed_state(f) for id, f in self._told.items()}):
            self._lit, self._told = lit, told
            self.update()

    def _reveal(self) -> None:
        node = self._node(self._session.selected)
        if node is not None and (node.rect.top() < HEAD or node.rect.bottom() > self.height()):
            self._top = min(self._most, max(0.0, self._top + node.rect.center().y() - self.height() / 2))
            self.lay_out()
        self.update()

    def _node(self, which: tuple[Shelf, str] | None) -> Node | None:
        return next((n for n in self.nodes if which == (n.shelf, n.id)), None)

    def rect_of(self, shelf: Shelf, id: str) -> QRectF:
        """Where an item is drawn."""
        return next(n.rect for n in self.nodes if (n.shelf, n.id) == (shelf, id))

    def port_of(self, surface: str, nth: int = 0) -> QPointF:
        """Where a fed part of a surface takes its line."""
        return [p for p in self.ports if p.part.surface == surface][nth].at

    def node_at(self, at: QPointF) -> Node | None:
        """The item under a point."""
        return next((n for n in self.nodes if n.rect.contains(at)), None)

    def _port_at(self, at: QPointF) -> Port | None:
        near = next((p for p in self.ports if p.rect.contains(at)), None)
        if near is not None:
            return near
        node = self.node_at(at)
        if node is None or node.shelf != "surfaces":
            return None
        own = [p for p in self.ports if p.part.surface == node.id]
        return min(own, key=lambda p: abs(p.at.y() - at.y())) if own else None

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        show = self._session.show
        p.setClipRect(QRectF(1, HEAD, self.width() - 2, self.height() - HEAD - 1))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_lines(p, show)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for node in self.nodes:
            item = item_of(show, node.shelf, node.id)
            if item is not None and node.rect.bottom() > HEAD:
                chosen = self._session.selected == (node.shelf, node.id)
                paint_node(p, show, node.shelf, node.rect, item, chosen, self._told.get(node.id))
        if self._feeds_at is not None:
            p.setFont(theme.font(12, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(self._feeds_at.x(), self._feeds_at.y() - self._top, 120, HEAD - 8), "Feeds")
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for port in self.ports:
            fed = fed_by(show, port.part) is not None
            p.setPen(theme.hairline(theme.TEXT if fed else theme.AMBER, 1.4))
            p.setBrush(theme.colour(theme.TEXT if fed else theme.WELL))
            p.drawEllipse(port.at, 3.2, 3.2)
        if self._from is not None and self._dragging():
            self._paint_drag(p)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setClipping(False)
        self._paint_heads(p, show)
        self._paint_more(p)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.hairline())
        p.drawRect(self.rect().adjusted(0, 0, -1, -1))
        if not self.nodes:
            p.setPen(theme.colour(theme.DIM))
            p.setFont(theme.font(13))
            theme.centred(
                p, QRectF(self.rect()), "Nothing is rigged yet: add an output and a surface above, or paste a table."
            )

    def _paint_heads(self, p: QPainter, show: Show) -> None:
        columns = [next((n.rect.x() for n in self.nodes if n.shelf == shelf), None) for shelf, _ in SHELVES]
        for n, (shelf, words) in enumerate(SHELVES):
            known = columns[n]
            x = known if known is not None else 12 + n * self.width() / 3
            p.setFont(theme.font(13, bold=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(x, 0, 120, HEAD), words)
            used = p.fontMetrics().horizontalAdvance(words) + 8
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(x + used, 0, 60, HEAD), str(len(getattr(show, shelf))))

    def _paint_more(self, p: QPainter) -> None:
        """How many items of each list are out of sight below."""
        p.setFont(theme.font(11))
        for shelf, _ in SHELVES:
            hidden = [n.rect for n in self.nodes if n.shelf == shelf and n.rect.center().y() > self.height() - 14]
            if hidden:
                box = QRectF(hidden[0].x(), self.height() - 19, hidden[0].width(), 18)
                p.fillRect(box, theme.colour(theme.WELL, 230))
                p.setPen(theme.colour(theme.AMBER))
                theme.centred(p, box, f"{len(hidden)} more below")

    def _curve(self, a: QPointF, b: QPointF) -> QPainterPath:
        path = QPainterPath(a)
        bend = (b.x() - a.x()) * 0.5
        path.cubicTo(QPointF(a.x() + bend, a.y()), QPointF(b.x() - bend, b.y()), b)
        return path

    def _paint_lines(self, p: QPainter, show: Show) -> None:
        selected = self._session.selected
        p.setBrush(Qt.BrushStyle.NoBrush)
        spots = {(n.shelf, n.id): n.rect for n in self.nodes}
        for port in self.ports:
            output = fed_by(show, port.part)
            if output is None or ("outputs", output) not in spots:
                continue
            rect = spots["outputs", output]
            strong = selected in (("outputs", output), ("surfaces", port.part.surface))
            plain = show.output(output).colour or theme.FAINT
            p.setPen(theme.hairline(theme.AMBER if strong else plain, 2 if strong else 1.2))
            p.drawPath(self._curve(QPointF(rect.right(), rect.center().y()), port.at))
        for feed in show.feeds:
            b = spots.get(("feeds", feed.id))
            shelf: Shelf = "surfaces" if feed.shows == "surface" else "outputs"
            a = spots.get((shelf, feed.of)) if feed.shows in ("surface", "output") else spots.get(("sources", feed.of))
            if a is None or b is None:
                continue
            strong = selected == ("feeds", feed.id)
            told = self._told.get(feed.id)
            ink = theme.AMBER if strong else theme.TEXT if told is not None and told.on else theme.FAINT
            p.setPen(theme.hairline(ink, 2 if strong else 1.2, dashed=True))
            begin = QPointF(a.left() if feed.shows == "surface" else a.right(), a.center().y())
            end = QPointF(b.left() if feed.shows == "source" else b.right(), b.center().y())
            if feed.shows == "output":  # beside the column, and back into it
                out = QPainterPath(begin)
                out.cubicTo(begin + QPointF(26, 0), end + QPointF(26, 0), end)
                p.drawPath(out)
            else:
                p.drawPath(self._curve(begin, end))
        for source, output in self._live(show):
            a, b = spots.get(("sources", source)), spots.get(("outputs", output))
            if a is not None and b is not None:
                p.setPen(theme.hairline(show.source(source).colour, 1.4))
                p.drawPath(self._curve(QPointF(a.right(), a.center().y()), QPointF(b.left(), b.center().y())))
        if selected is not None and selected[0] == "sources" and selected in spots:
            a = spots[selected]
            for output_reached in reached(show, selected[1]):
                b = spots["outputs", output_reached.id]
                p.setPen(theme.hairline(theme.AMBER, 1.2, dashed=True))
                p.drawPath(self._curve(QPointF(a.right(), a.center().y()), QPointF(b.left(), b.center().y())))

    def _live(self, show: Show) -> set[tuple[str, str]]:
        """Which sources are on which outputs now, from the frames sent."""
        report = self._session.report
        pairs: set[tuple[str, str]] = set()
        if report is None:
            return pairs
        for port in self.ports:
            shown, output = report.surfaces.get(port.part.surface), fed_by(show, port.part)
            if shown is not None and output is not None:
                pairs |= {(id, output) for id in shown.source_ids}
        return pairs

    def _paint_drag(self, p: QPainter) -> None:
        assert self._from is not None
        output, part = self._from
        rect = self.rect_of("outputs", output)
        hover = self._port_at(self._at)
        end = hover.at if hover is not None else self._at
        p.setPen(theme.hairline(theme.AMBER, 2, dashed=hover is None))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(self._curve(QPointF(rect.right(), rect.center().y()), end))
        p.setPen(theme.colour(theme.AMBER))
        p.setFont(theme.font(12))
        words = (
            f"to {hover.part.name}"
            if hover is not None
            else "let go to unbind"
            if part is not None
            else "to a surface…"
        )
        p.drawText(QRectF(end.x() - 170, end.y() - 22, 160, 18), Qt.AlignmentFlag.AlignRight, words)

    # -- gestures ------------------------------------------------------------------------------------------------

    def _dragging(self) -> bool:
        return (self._at - self._pressed).manhattanLength() > 8

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self._at = self._pressed = at
        self._from = None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        port = next((q for q in self.ports if q.rect.contains(at)), None)
        node = self.node_at(at)
        if port is not None:
            output = fed_by(self._session.show, port.part)
            self._from = (output, port.part) if output is not None else None
        elif node is not None and node.shelf == "outputs":
            self._from = (node.id, None)
        if node is not None:
            self._session.select(node.shelf, node.id)
        elif port is None:
            self._session.select_surface(None)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        if self._from is not None:
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        start, dragged = self._from, self._dragging()
        self._from = None
        self.update()
        if start is None or not dragged:
            return
        output, taken = start
        port = self._port_at(self._at)
        name = self._session.show.output(output).name
        if port is None:
            node = self.node_at(self._at)
            if taken is not None and (node is None or node.shelf != "outputs"):
                self._session.try_edit(f"Unbind {taken.name}", lambda show: unbound(show, taken))
            elif taken is not None and node is not None and node.id != output:
                to = node.id
                self._session.try_edit(
                    f"Bind {taken.name} to {self._session.show.output(to).name}", lambda show: rebound(show, to, taken)
                )
            return
        if taken is not None and taken.key != port.part.key:
            self._session.try_edit(
                f"Bind {port.part.name} to {name}", lambda show: bound(unbound(show, taken), output, port.part)
            )
        else:
            self._session.try_edit(f"Bind {port.part.name} to {name}", lambda show: bound(show, output, port.part))

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._top = min(self._most, max(0.0, self._top - event.angleDelta().y() / 2))
        self.lay_out()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        node = self.node_at(event.position())
        if node is not None:
            self.rename(node.shelf, node.id)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        at = QPointF(event.pos())
        port = next((q for q in self.ports if q.rect.contains(at)), None)
        if port is not None and fed_by(self._session.show, port.part) is not None:
            menu = QMenu(self)
            menu.addAction(f"Unbind {port.part.name}").triggered.connect(
                lambda: self._session.try_edit(f"Unbind {port.part.name}", lambda show: unbound(show, port.part))
            )
            menu.popup(event.globalPos())
            return
        node = self.node_at(at)
        if node is not None:
            self._session.select(node.shelf, node.id)
            self.asked_menu.emit(node.shelf, node.id, event.globalPos())

    def rename(self, shelf: Shelf, id: str) -> None:
        """Type another name in place."""
        item = item_of(self._session.show, shelf, id)
        if item is None:
            return
        rect = self.rect_of(shelf, id)
        editor = QLineEdit(item.name, self)
        editor.setAccessibleName("New name")
        editor.setGeometry(rect.toRect().adjusted(6, 0, -6, 0).adjusted(0, -2, 0, 2 - max(0, int(rect.height()) - 28)))
        editor.selectAll()
        editor.show()
        editor.setFocus()
        self.editor = editor

        def done() -> None:
            if self.editor is not editor:
                return
            self.editor = None
            name = editor.text().strip()
            editor.deleteLater()
            if name and name != item.name:
                self._session.try_edit(
                    f"Rename {item.name}", lambda show: with_item(show, shelf, with_field(item, "name", name))
                )  # type: ignore[arg-type]
            self.window().setFocus()

        editor.returnPressed.connect(done)
        editor.editingFinished.connect(done)
