"""The scope grid: which kinds of setting of which layers are stored, and how each of them arrives."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.kinds.kind import How, Kind
from ushering_adze.core.onair.storing import Cell, Grid
from ushering_adze.core.picture.layers import Key
from ushering_adze.desk import theme

ROW, HEAD, NAME, CELL = 26, 62, 148, 43
ORDER: tuple[How, ...] = ("left", "snapped", "faded")


class ScopeGrid(QWidget):
    """Rows are layers, columns kinds; a click goes on to the next way, on a heading for all under it.

    Signals
    -------
    chosen : the grid is another
    """

    chosen = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[Key, str, str]] = []
        self.grid: dict[Cell, How] = {}
        self.marked: frozenset[Cell] = frozenset()
        self._over: QPointF | None = None
        self._dragging: How | None = None
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Scope")

    def sizeHint(self) -> QSize:
        return QSize(NAME + CELL * len(KINDS) + 8, HEAD + ROW * len(self.rows) + 4)

    def hold(self, rows: list[tuple[Key, str, str]], grid: Grid, marked: frozenset[Cell]) -> None:
        """Show layers (key, name, colour), how they are treated, and which settings are to be marked."""
        self.rows, self.grid, self.marked = rows, dict(grid), marked
        self.setFixedSize(self.sizeHint())
        self.update()

    def how(self, key: Key, kind: str) -> How:
        """How a kind of a layer is treated."""
        return self.grid.get((key, kind), "left")

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell lies."""
        return QRectF(NAME + column * CELL, HEAD + row * ROW, CELL, ROW)

    def at(self, at: QPointF) -> tuple[int, int]:
        """Row and column at a place; −1 for a heading."""
        row = int((at.y() - HEAD) // ROW) if at.y() >= HEAD else -1
        column = int((at.x() - NAME) // CELL) if at.x() >= NAME else -1
        return row, column

    def _cells(self, row: int, column: int) -> list[Cell]:
        """The cells of a place: one, or a whole row or column."""
        rows = range(len(self.rows)) if row < 0 else [row] if row < len(self.rows) else []
        columns = range(len(KINDS)) if column < 0 else [column] if column < len(KINDS) else []
        return [(self.rows[r][0], KINDS[c].name) for r in rows for c in columns]

    def put(self, cells: list[Cell], how: How) -> None:
        """Treat these cells so."""
        for cell in cells:
            self.grid[cell] = how
        self.update()
        self.chosen.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row, column = self.at(event.position())
        cells = self._cells(row, column)
        if not cells or (row < 0 and column < 0):
            return
        back = event.button() == Qt.MouseButton.RightButton
        first = self.grid.get(cells[0], "left")
        how = ORDER[(ORDER.index(first) + (-1 if back else 1)) % len(ORDER)]
        self._dragging = how
        self.put(cells, how)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._over = event.position()
        row, column = self.at(event.position())
        if self._dragging is not None and row >= 0 and column >= 0:
            cells = [c for c in self._cells(row, column) if self.grid.get(c, "left") != self._dragging]
            if cells:
                self.put(cells, self._dragging)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragging = None

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        row, column = self.at(self._over) if self._over is not None else (-2, -2)
        for n, kind in enumerate(KINDS):
            box = QRectF(NAME + n * CELL, 0, CELL, HEAD)
            if n == column:
                p.fillRect(QRectF(box.x(), 0, CELL, self.height()), theme.colour(theme.RAISED))
            self._glyph(p, QRectF(box.center().x() - 9, 12, 18, 18), kind)
            p.setFont(theme.font(11))
            p.setPen(theme.colour(theme.DIM))
            theme.centred(p, QRectF(box.x() - 4, 36, CELL + 8, 18), kind.words)
        last = ""
        for n, (key, name, colour) in enumerate(self.rows):
            rect = QRectF(0, HEAD + n * ROW, self.width(), ROW)
            if n == row:
                p.fillRect(rect, theme.colour(theme.RAISED))
            if key[0] != last:
                p.setPen(theme.hairline())
                p.drawLine(rect.topLeft(), rect.topRight())
                last = key[0]
            p.fillRect(QRectF(2, rect.y() + 3, 4, ROW - 6), theme.colour(colour))
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(12, rect.y(), NAME - 20, ROW), name)
            for k, kind in enumerate(KINDS):
                self._paint_cell(p, self.cell(n, k), (key, kind.name), colour)

    def _paint_cell(self, p: QPainter, cell: QRectF, of: Cell, colour: str) -> None:
        box = QRectF(cell.center().x() - 8, cell.center().y() - 8, 16, 16)
        p.setPen(theme.hairline(theme.LINE))
        p.setBrush(theme.colour(theme.GROUND))
        p.drawRect(box)
        how = self.grid.get(of, "left")
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour(colour))
        if how == "snapped":
            p.drawRect(box)
        elif how == "faded":
            p.drawPolygon(QPolygonF([box.bottomLeft(), box.bottomRight(), box.topRight()]))
        if of in self.marked:
            p.setBrush(theme.colour(theme.AMBER))
            p.drawEllipse(QPointF(box.right() + 5, box.y() + 2), 2.6, 2.6)

    @staticmethod
    def _glyph(p: QPainter, box: QRectF, kind: Kind) -> None:
        p.setPen(theme.hairline(theme.DIM, 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for line in kind.glyph:
            points = [QPointF(box.x() + x * box.width(), box.y() + y * box.height()) for x, y in line]
            p.drawPolyline(QPolygonF(points))
