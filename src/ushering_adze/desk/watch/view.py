"""A wall as it is painted by the playout, and the hand on its cells."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.picture.walls import cell_rect
from ushering_adze.core.plane.boxes import handled
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.wall import Wall
from ushering_adze.core.show.walling import Side, boxed, with_edge
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session

EVERY = 33
"""Milliseconds from one look for a new picture to the next."""
PROBED = 4
"""Looks from one at the pixel under the pointer to the next."""
HANDLES = {"left": (-1, 0), "right": (1, 0), "top": (0, -1), "bottom": (0, 1)}
GRIP = 6
"""Pixels beside an edge of a cell within which it is taken hold of."""


class _Drag:
    """A hand on the edge of a cell, or on a free box."""

    def __init__(self, n: int, side: str, at: tuple[float, float], wall: Wall) -> None:
        self.n, self.side, self.at, self.wall = n, side, at, wall

    def wall_at(self, at: tuple[float, float]) -> Wall:
        """The wall with the hand there."""
        cell, wall = self.wall.cells[self.n], self.wall
        if cell.box is None:
            flat = self.side in ("left", "right")
            size, lines = (wall.width, wall.columns) if flat else (wall.height, wall.rows)
            return with_edge(wall, self.n, cast(Side, self.side), round(at[0 if flat else 1] / size * lines))
        by = at[0] - self.at[0], at[1] - self.at[1]
        x, y, w, h = map(float, cell.box)
        new, _ = handled((x, y, w, h), HANDLES.get(self.side, (0, 0)), by, ((), ()), 0.0)
        left, top, wide, high = (round(v) for v in new)
        return boxed(wall, self.n, (left, top, wide, high))

    def tell(self, made: Wall, view: WallView) -> None:
        """Say what the drag has come to."""
        cell = made.cells[self.n]
        if cell.box is not None:
            view.boxed.emit(self.n, cell.box)
            return
        line = {"left": cell.x, "right": cell.x + cell.w, "top": cell.y, "bottom": cell.y + cell.h}[self.side]
        view.edged.emit(self.n, self.side, line)


class WallView(QWidget):
    """Shows a wall; a click selects a cell, a double click shows it alone.

    Signals
    -------
    chosen : the place of a cell among the wall's, −1 for none
    routed : Ctrl and a click on a cell: its source is to go on preview
    probed : the pixel under the pointer, in words; empty beside pictures
    edged : place of a cell, side, line of the grid: an edge was dragged there
    numbered : place of a wall among the show's: its digit was pressed
    boxed : place of a cell, left, top, width, height: a free box was dragged there
    """

    chosen = Signal(int)
    routed = Signal(int)
    probed = Signal(str)
    edged = Signal(int, str, int)
    boxed = Signal(int, object)
    numbered = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.wall: Wall | None = None
        self.selected = -1
        self.alone: int | None = None
        self._serial = 0
        self._drag: _Drag | None = None
        self._pointer: QPointF | None = None
        self._probes = 0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMinimumSize(320, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Wall of pictures")
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self._look)

    def sizeHint(self) -> QSize:
        return QSize(960, 540)

    def hold(self, wall: Wall | None) -> None:
        """Show this wall."""
        if wall != self.wall:
            if wall is None or self.wall is None or wall.id != self.wall.id or len(wall.cells) != len(self.wall.cells):
                self.alone, self.selected = None, -1
            self.wall = wall
            self.update()

    def _look(self) -> None:
        painted = self._session.playout.wall
        if painted is not None and painted.serial != self._serial:
            self._serial = painted.serial
            self.update()
        self._probes += 1
        if self._probes % PROBED == 0:
            self._probe()

    def _probe(self) -> None:
        """Say which pixel is under the pointer."""
        found, at = None, self._pointer
        if at is not None and self.wall is not None and self._drag is None:
            n = self.cell_at(at)
            if n >= 0:
                x, y = self._on_wall(at)
                found = self._session.playout.probe(self.wall.id, n, x, y)
        self.probed.emit("" if found is None else found.words)

    def _on_wall(self, at: QPointF) -> tuple[float, float]:
        """A place on this widget in pixels of the wall."""
        box, part = self._box()
        k = part.w / box.width()
        return part.x + (at.x() - box.x()) * k, part.y + (at.y() - box.y()) * k

    def showEvent(self, event: object) -> None:
        self._timer.start()

    def hideEvent(self, event: object) -> None:
        self._timer.stop()

    def _box(self) -> tuple[QRectF, Rect]:
        """Where the wall is drawn, and what of its raster."""
        assert self.wall is not None
        part = Rect(0, 0, self.wall.width, self.wall.height)
        if self.alone is not None and self.alone < len(self.wall.cells):
            part = cell_rect(self.wall, self.wall.cells[self.alone])
        k = min(self.width() / part.w, self.height() / part.h)
        w, h = part.w * k, part.h * k
        return QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h), part

    def cell_box(self, n: int) -> QRectF:
        """Where a cell is drawn."""
        assert self.wall is not None
        box, part = self._box()
        rect, k = cell_rect(self.wall, self.wall.cells[n]), box.width() / part.w
        return QRectF(box.x() + (rect.x - part.x) * k, box.y() + (rect.y - part.y) * k, rect.w * k, rect.h * k)

    def cell_at(self, at: QPointF) -> int:
        """The cell at a place; −1 for none."""
        if self.wall is None:
            return -1
        if self.alone is not None:
            return self.alone if self._box()[0].contains(at) else -1
        # free boxes lie over the grid, the last on top
        over = sorted(range(len(self.wall.cells)), key=lambda n: (self.wall.cells[n].box is not None, n), reverse=True)
        return next((n for n in over if self.cell_box(n).contains(at)), -1)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        painted = self._session.playout.wall
        if self.wall is None:
            p.setFont(theme.font(15))
            p.setPen(theme.colour(theme.DIM))
            theme.centred(p, QRectF(self.rect()), "No wall yet: New, above, makes one")
            return
        box, part = self._box()
        if painted is not None and painted.wall == self.wall.id and painted.pixels.shape[1] == self.wall.width:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(box, image_of(painted.pixels), QRectF(part.x, part.y, part.w, part.h))
        if self._drag is not None:
            p.setPen(theme.hairline(theme.AMBER, 1))
            for n in range(len(self.wall.cells)):
                p.drawRect(self.cell_box(n))
        if 0 <= self.selected < len(self.wall.cells) and self.alone in (None, self.selected):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.hairline(theme.AMBER, 2))
            p.drawRect(self.cell_box(self.selected).adjusted(4, 4, -4, -4))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        n = self.cell_at(event.position())
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and n >= 0:
            self.routed.emit(n)
            return
        self.selected = n
        self.chosen.emit(n)
        side = self._side_at(n, event.position())
        if self.wall is not None and n >= 0 and self.alone is None and (side or self.wall.cells[n].box is not None):
            self._drag = _Drag(n, side, self._on_wall(event.position()), self.wall)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = event.position()
        if self._drag is not None and self.wall is not None:
            self.wall = self._drag.wall_at(self._on_wall(event.position()))
            self.update()
            return
        n = self.cell_at(event.position())
        side = self._side_at(n, event.position()) if n >= 0 and self.alone is None else ""
        free = self.wall is not None and n >= 0 and self.wall.cells[n].box is not None
        self.setCursor(
            Qt.CursorShape.SizeHorCursor
            if side in ("left", "right")
            else Qt.CursorShape.SizeVerCursor
            if side
            else Qt.CursorShape.SizeAllCursor
            if free
            else Qt.CursorShape.ArrowCursor
        )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is None or self.wall is None:
            return
        made, self.wall = self.wall, drag.wall
        if made != drag.wall:
            drag.tell(made, self)

    def leaveEvent(self, event: object) -> None:
        self._pointer = None
        self.probed.emit("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from cell to cell, digits from wall to wall; Return shows a cell alone, Escape all again."""
        step = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self.wall, self._drag = self._drag.wall, None
            self.update()
        elif event.key() == Qt.Key.Key_Escape and self.alone is not None:
            self.enlarge(None)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.selected >= 0:
            self.enlarge(None if self.alone is not None else self.selected)
        elif Qt.Key.Key_1 <= event.key() <= Qt.Key.Key_9:
            self.numbered.emit(event.key() - Qt.Key.Key_1)
        elif step is not None and self.wall is not None and self.alone is None:
            self._step(*step)
        else:
            super().keyPressEvent(event)

    def _step(self, across: int, down: int) -> None:
        """Select the next cell in a direction."""
        if self.wall is None or not self.wall.cells:
            return
        if self.selected < 0:
            found = 0
        else:
            here = self.cell_box(self.selected).center()
            ways = {}
            for n in range(len(self.wall.cells)):
                off = self.cell_box(n).center() - here
                ahead, beside = (off.x() * across + off.y() * down), abs(off.x() * down) + abs(off.y() * across)
                if ahead > 1:
                    ways[n] = ahead + 2 * beside
            found = min(ways, key=lambda n: ways[n], default=self.selected)
        self.selected = found
        self.chosen.emit(found)
        self.update()

    def _side_at(self, n: int, at: QPointF) -> str:
        """The edge of a cell that is under the pointer; none that lies on the wall's own edge."""
        if self.wall is None or n < 0:
            return ""
        box, whole = self.cell_box(n), self._box()[0]
        free = self.wall.cells[n].box is not None
        beside = {
            "left": (abs(at.x() - box.left()), box.left() - whole.left()),
            "right": (abs(at.x() - box.right()), whole.right() - box.right()),
            "top": (abs(at.y() - box.top()), box.top() - whole.top()),
            "bottom": (abs(at.y() - box.bottom()), whole.bottom() - box.bottom()),
        }
        near = {side: off for side, (off, room) in beside.items() if off <= GRIP and (free or room > 1)}
        return min(near, key=lambda side: near[side], default="")

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        n = self.cell_at(event.position())
        self.enlarge(None if self.alone is not None or n < 0 else n)

    def enlarge(self, n: int | None) -> None:
        """Show one cell alone, or all again."""
        self.alone = n
        self.update()
