"""The drawing of what is selected: cabinets can be taken out and turned, connectors of a gang dragged into another
order.
"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QContextMenuEvent, QHideEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QMenu, QSizePolicy, QWidget

from ushering_adze.core.displays.led import hung_cabinets
from ushering_adze.core.picture.key import colour_at
from ushering_adze.core.show import ChromaKey, Feed, Input, LedWall, MonitorWall, Output, Projection
from ushering_adze.core.show.rigging import item_of, with_field, with_item
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import checker, draw_fitted, shrunk
from ushering_adze.desk.rig.drawings import SCREEN, Frame, draw_led, draw_monitors, draw_projection, draw_raster
from ushering_adze.desk.session import Session

HEAD = 30
_HINTS = {
    LedWall: "double-click: there or missing · right-click: turn",
    Output: "drag a part onto another to swap connectors",
    Input: "drag a part onto another to swap connectors",
}


class DrawingView(QWidget):
    """Draws the selected surface or signal."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._frame: Frame | None = None
        self._boxes: list[QRectF] = []
        self._pictured = QRectF()
        self._dragged: int | None = None
        self._at = QPointF()
        self.chosen: tuple[int, int] | None = None
        self.setMinimumSize(240, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Drawing")
        session.show_changed.connect(self.update)
        session.selection_changed.connect(self._other)
        session.reported.connect(self._follow)
        self._watched: str | None = None
        self._serial: int | None = None

    def sizeHint(self) -> QSize:
        return QSize(420, 230)

    def _other(self) -> None:
        self.chosen = None
        self.update()

    @property
    def item(self) -> Any:
        """What is drawn."""
        selected = self._session.selected
        return item_of(self._session.show, *selected) if selected else None

    # -- the picture of a source -------------------------------------------------------------------------------

    @property
    def _source(self) -> str | None:
        """The selected source, if what there is to see of it is its picture."""
        item = self.item
        drawn = isinstance(item, Input) and item.address is None and item.stand_in is None
        return self._session.source if item is not None and not drawn else None

    def _watch(self) -> None:
        """Let the selected source run while it is looked at; let go of the one before."""
        watched = self._source if self.isVisible() else None
        if watched != self._watched:
            if watched is not None or self._watched is not None:
                self._session.playout.look_through(watched)
            self._watched, self._serial = watched, None

    def _follow(self) -> None:
        """Paint anew when the picture of the source is another one."""
        self._watch()
        if isinstance(self.item, Feed) and self.isVisible():
            self.update()
        if self._watched is not None:
            frame = self._session.playout.picture_of(self._watched)
            serial = None if frame is None else frame.serial
            if serial != self._serial:
                self._serial = serial
                self.update()

    def _paint_source(self, p: QPainter, area: QRectF, source: str) -> None:
        frame = self._session.playout.picture_of(source)
        if frame is None:
            theme.centred(p, area, "its picture is not there yet")
            return
        height, width = frame.pixels.shape[:2]
        room = area.adjusted(8, 0, -8, -26)
        scale = min(1.0, room.width() / width, room.height() / height)
        small = shrunk(
            frame.pixels, max(1, round(width * scale)), max(1, round(height * scale)), clear=not frame.opaque
        )
        at = QPointF(area.center().x() - small.width() / 2, room.y() + (room.height() - small.height()) / 2)
        if not frame.opaque:
            checker(p, QRectF(at.x(), at.y(), small.width(), small.height()))
        p.drawImage(at, small)
        self._pictured = QRectF(at.x(), at.y(), small.width(), small.height())
        p.setFont(theme.font(12))
        p.setPen(theme.colour(theme.DIM))
        told = f"{width} × {height} px{'' if frame.opaque else ', with alpha'}"
        if frame.origin and frame.origin != source:
            told += f" · {self._session.show.source(frame.origin).name} stands in for it"
        theme.centred(p, QRectF(area.x(), area.bottom() - 24, area.width(), 20), told)

    def _paint_feed(self, p: QPainter, area: QRectF, feed: Feed) -> None:
        """What a feed sends, as far as its picture is at hand."""
        report = self._session.report
        pixels = None
        if feed.shows == "surface" and report is not None:
            pixels = report.program.get(feed.of)
        elif feed.shows == "output":
            pixels = self._session.playout.raster(feed.of)
        elif feed.shows == "source":
            frame = self._session.playout.picture_of(feed.of)
            pixels = None if frame is None else frame.pixels
        if pixels is None:
            what = "the canvas is painted for the feed alone" if feed.shows == "canvas" else "no picture yet"
            theme.centred(p, area, what)
            return
        draw_fitted(p, area.adjusted(8, 0, -8, -8), pixels)

    def showEvent(self, event: QShowEvent) -> None:
        self._watch()

    def hideEvent(self, event: QHideEvent) -> None:
        self._watch()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setPen(theme.hairline())
        p.drawRect(self.rect().adjusted(0, 0, -1, -1))
        item = self.item
        p.setFont(theme.font(13, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        name = item.name if item is not None else "Drawing"
        theme.left(p, QRectF(12, 0, 150, HEAD), name)
        taken = 20 + min(150, p.fontMetrics().horizontalAdvance(name))
        p.setFont(theme.font(12))
        p.setPen(theme.colour(theme.DIM))
        hint = "" if isinstance(item, (Output, Input)) and item.gang is None else _HINTS.get(type(item), "")
        theme.right(
            p,
            QRectF(taken, 0, self.width() - taken - 12, HEAD),
            p.fontMetrics().elidedText(hint, Qt.TextElideMode.ElideRight, self.width() - taken - 12),
        )
        area = QRectF(4, HEAD, self.width() - 8, self.height() - HEAD - 4)
        self._frame, self._boxes = None, []
        match item:
            case LedWall():
                self._frame = draw_led(p, area, item, SCREEN, self.chosen)
            case MonitorWall():
                draw_monitors(p, area, item, SCREEN)
            case Projection():
                draw_projection(p, area, item, SCREEN)
            case Output() | Input() if self._source is None:
                self._frame, self._boxes = draw_raster(p, area, item, SCREEN)
                if self._dragged is not None:
                    p.setBrush(Qt.BrushStyle.NoBrush)
                    for n in {n for n in (self._dragged, self._box_at(self._at)) if n is not None}:
                        p.setPen(theme.hairline(theme.AMBER, 2))
                        p.drawRect(self._boxes[n])
            case Feed():
                self._paint_feed(p, area, item)
            case None:
                theme.centred(p, area, "Select something to see it drawn to scale")
            case _ if self._source is not None:
                self._paint_source(p, area, self._source)
            case _:
                size = getattr(item, "pixels", None) or (getattr(item, "width", None), getattr(item, "height", None))
                theme.centred(p, area, f"{size[0]} × {size[1]} px" if size and size[0] else "nothing to draw")

    # -- cabinets ------------------------------------------------------------------------------------------------

    def cabinet_at(self, at: QPointF) -> tuple[int, int] | None:
        """Column and row of the cabinet under a point, there or missing."""
        item = self.item
        if not isinstance(item, LedWall) or self._frame is None:
            return None
        for h in hung_cabinets(item.model_copy(update={"missing": ()})):
            if self._frame.rect(*h.mm).contains(at):
                return h.column, h.row
        return None

    def where_is(self, column: int, row: int) -> QPointF:
        """The middle of a cabinet in the widget."""
        item = self.item
        assert isinstance(item, LedWall) and self._frame is not None
        h = next(
            h for h in hung_cabinets(item.model_copy(update={"missing": ()})) if (h.column, h.row) == (column, row)
        )
        return self._frame.rect(*h.mm).center()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        cell = self.cabinet_at(event.position())
        if cell is not None:
            self.toggle(cell)

    def toggle(self, cell: tuple[int, int]) -> None:
        """Take a cabinet out, or hang it back."""
        wall = self.item
        gone = {(c.column, c.row) for c in wall.missing}
        gone ^= {cell}
        verb = "Take out" if cell in gone else "Hang back"
        fresh = tuple({"column": c, "row": r} for c, r in sorted(gone, key=lambda t: (t[1], t[0])))
        self._session.try_edit(
            f"{verb} cabinet {cell[0]}/{cell[1]} of {wall.name}",
            lambda show: with_item(show, "surfaces", with_field(wall, "missing", fresh)),
        )  # type: ignore[arg-type]

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        cell = self.cabinet_at(QPointF(event.pos()))
        if cell is None:
            return
        menu = QMenu(self)
        menu.addAction("There or missing").triggered.connect(lambda: self.toggle(cell))
        for degrees in (0, 90, 180, 270):
            menu.addAction(f"Turned {degrees}°").triggered.connect(lambda checked=False, d=degrees: self.turn(cell, d))
        menu.popup(event.globalPos())

    def turn(self, cell: tuple[int, int], degrees: int) -> None:
        """Hang a cabinet turned."""
        wall = self.item
        kept = [
            {"column": c.column, "row": c.row, "degrees": c.degrees} for c in wall.turned if (c.column, c.row) != cell
        ]
        if degrees:
            kept.append({"column": cell[0], "row": cell[1], "degrees": degrees})
        self._session.try_edit(
            f"Turn cabinet {cell[0]}/{cell[1]} of {wall.name}",
            lambda show: with_item(show, "surfaces", with_field(wall, "turned", tuple(kept))),
        )  # type: ignore[arg-type]

    # -- gangs ---------------------------------------------------------------------------------------------------

    def _box_at(self, at: QPointF) -> int | None:
        return next((n for n, box in enumerate(self._boxes) if box.contains(at)), None)

    def box(self, n: int) -> QRectF:
        """Where the part of a gang is drawn."""
        return self._boxes[n]

    def pick(self, at: QPointF) -> None:
        """Take the colour of a chroma key from the source's picture under a point: the mean of a few pixels."""
        item, source = self.item, self._source
        key = getattr(getattr(item, "picture", None), "key", None)
        if source is None or not isinstance(key, ChromaKey) or not self._pictured.contains(at):
            return
        frame = self._session.playout.unadjusted(source)
        if frame is None:
            return
        box = self._pictured
        colour = colour_at(
            frame.pixels, item.picture, (at.x() - box.x()) / box.width(), (at.y() - box.y()) / box.height()
        )
        self._session.try_edit(
            f"Key colour of {item.name}",
            lambda show: with_item(show, "sources", with_field(item, "picture.key.colour", colour)),
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        item = self.item
        self.pick(event.position())
        if isinstance(item, (Output, Input)) and item.gang is not None:
            self._dragged = self._box_at(event.position())
        self.chosen = self.cabinet_at(event.position())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        if self._dragged is not None:
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, self._dragged = self._dragged, None
        onto = self._box_at(event.position())
        item, selected = self.item, self._session.selected
        if dragged is not None and onto is not None and onto != dragged and selected is not None:
            names = list(item.gang.connectors)
            names[dragged], names[onto] = names[onto], names[dragged]
            self._session.try_edit(
                f"Swap connectors of {item.name}",
                lambda show: with_item(show, selected[0], with_field(item, "gang.connectors", tuple(names))),
            )  # type: ignore[arg-type]
        self.update()
