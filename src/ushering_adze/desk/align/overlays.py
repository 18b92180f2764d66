"""What lies over a raster in Align besides the points of its landing: masks, and the cabinets of an LED wall with their
batches.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, Output
from ushering_adze.desk import theme

TOKENS = (theme.VIOLET, theme.SKY, theme.CLAY, theme.MOSS, theme.TEAL)
"""Colours of batches, in turn."""


def paint_masks(p: QPainter, output: Output, spot: Callable[[float, float], QPointF], chosen: int) -> None:
    """The masks of an output; the corners of the chosen one are larger."""
    for n, mask in enumerate(output.masks):
        p.setPen(theme.hairline(theme.RED if mask.on else theme.FAINT, 2.2 if n == chosen else 1.4, dashed=True))
        p.setBrush(theme.colour(theme.RED, 40) if mask.on and not mask.keep else Qt.BrushStyle.NoBrush)
        p.drawPolygon(QPolygonF([spot(*c) for c in mask.points]))
        p.setBrush(theme.colour(theme.RED))
        for c in mask.points:
            p.drawEllipse(spot(*c), 4.5 if n == chosen else 3.0, 4.5 if n == chosen else 3.0)
        p.setPen(theme.colour(theme.TEXT))
        p.setFont(theme.font(11))
        soft = f", soft {mask.soft:g} px" if mask.soft else ""
        p.drawText(spot(*mask.points[0]) + QPointF(7, -5), f"{mask.name}{soft}")


def paint_cabinets(
    p: QPainter,
    wall: LedWall,
    cells: Mapping[tuple[int, int], Rect],
    box: Callable[[Rect], QRectF],
    chosen: Collection[tuple[int, int]],
) -> None:
    """The cabinets of a wall as its processor shows them: those of a batch have a stripe and its name, chosen ones are
    amber.
    """
    batches = {(c.column, c.row): n for n, b in enumerate(wall.batches) for c in b.cells}
    p.setFont(theme.font(11))
    named: set[int] = set()
    for cell, rect in cells.items():
        at = box(rect)
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(theme.colour(theme.AMBER, 60) if cell in chosen else Qt.BrushStyle.NoBrush)
        p.drawRect(at)
        n = batches.get(cell)
        if n is None:
            continue
        token = TOKENS[n % len(TOKENS)]
        p.fillRect(
            QRectF(at.x() + 1, at.bottom() - 4, at.width() - 1, 4),
            theme.colour(token, 255 if wall.batches[n].on else 90),
        )
        if n not in named:
            named.add(n)
            words = wall.batches[n].name + ("" if wall.batches[n].on else " (off)")
            label = QRectF(at.x() + 3, at.bottom() - 24, p.fontMetrics().horizontalAdvance(words) + 10, 18)
            p.fillRect(label, theme.colour(theme.GROUND, 220))
            p.setPen(theme.colour(token))
            p.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
    p.setPen(theme.hairline(theme.AMBER, 1.6))
    p.setBrush(Qt.BrushStyle.NoBrush)
    for cell in chosen:
        if cell in cells:
            p.drawRect(box(cells[cell]))
