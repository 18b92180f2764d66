"""Measured drawings of single displays and rasters, in the inks of the screen or of paper."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPen, QPolygonF

from ushering_adze.core.displays.led import Hung, data_runs, path_of
from ushering_adze.core.displays.monitors import hidden_pixels, hung_monitors
from ushering_adze.core.displays.projection import projection_facts
from ushering_adze.core.displays.rig import timing_of
from ushering_adze.core.show import Input, LedWall, MonitorWall, Output, Projection
from ushering_adze.core.signal.gang import gang_parts
from ushering_adze.core.signal.timing import SignalError
from ushering_adze.desk import theme


class Ink(NamedTuple):
    """Colours of a drawing."""

    ground: str
    face: str
    line: str
    faint: str
    text: str
    dim: str
    strong: str
    runs: tuple[str, ...]


SCREEN = Ink(
    theme.WELL,
    theme.RAISED,
    theme.FAINT,
    theme.LINE,
    theme.TEXT,
    theme.DIM,
    theme.AMBER,
    (theme.SKY, theme.MOSS, theme.VIOLET, theme.CLAY, theme.TEAL),
)
PAPER = Ink(
    "#FFFFFF",
    "#F1F1EC",
    "#4A4A46",
    "#B9B9B2",
    "#111111",
    "#4A4A46",
    "#8A4B00",
    ("#2F6DB0", "#5F7A1C", "#6B52B5", "#B5522D", "#1F8791"),
)


class Frame(NamedTuple):
    """Where millimetres (or pixels) of a drawing lie in the widget."""

    x: float
    y: float
    scale: float

    def rect(self, x: float, y: float, w: float, h: float) -> QRectF:
        """A rectangle of the drawing on the widget."""
        return QRectF(self.x + x * self.scale, self.y + y * self.scale, w * self.scale, h * self.scale)

    def point(self, x: float, y: float) -> QPointF:
        """A point of the drawing on the widget."""
        return QPointF(self.x + x * self.scale, self.y + y * self.scale)


def fitted(area: QRectF, width: float, height: float) -> Frame:
    """The largest scale at which a drawing fits an area, centred in it."""
    scale = max(1e-6, min(area.width() / max(width, 1e-6), area.height() / max(height, 1e-6)))
    return Frame(area.x() + (area.width() - width * scale) / 2, area.y() + (area.height() - height * scale) / 2, scale)


def pen(colour: str, width: float = 1.0, dashed: bool = False) -> QPen:
    """A pen in a colour."""
    made = QPen(QColor(colour), width)
    if dashed:
        made.setDashPattern([5, 3])
    return made


def tint(colour: str, alpha: int) -> QColor:
    """A colour made thin."""
    made = QColor(colour)
    made.setAlpha(alpha)
    return made


def dimension(p: QPainter, frame: Frame, ink: Ink, width: float, height: float, across: str, down: str) -> None:
    """Dimension lines under and beside a drawing of a size."""
    box = frame.rect(0, 0, width, height)
    p.setPen(pen(ink.faint))
    y, x = box.bottom() + 10, box.right() + 10
    p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
    for at in (box.left(), box.right()):
        p.drawLine(QPointF(at - 3, y + 3), QPointF(at + 3, y - 3))
    for at in (box.top(), box.bottom()):
        p.drawLine(QPointF(x - 3, at + 3), QPointF(x + 3, at - 3))
    p.setPen(QColor(ink.dim))
    if p.fontMetrics().horizontalAdvance(down) > box.height() + 16:
        down = down.split(", ")[0]
    p.drawText(QRectF(box.center().x() - 200, y + 3, 400, 16), Qt.AlignmentFlag.AlignCenter, across)
    p.save()
    p.translate(x + 4, box.center().y())
    p.rotate(90)
    p.drawText(QRectF(-100, -16, 200, 16), Qt.AlignmentFlag.AlignCenter, down)
    p.restore()


def _mono(size: float, bold: bool = False) -> QFont:
    return theme.font(max(7, round(size)), bold=bold, mono=True)


def run_colour(ink: Ink, port: int) -> str:
    """The colour of a port's run; colours come round again, so the number stands beside it."""
    return ink.runs[(port - 1) % len(ink.runs)]


def draw_led(p: QPainter, area: QRectF, wall: LedWall, ink: Ink, chosen: tuple[int, int] | None = None) -> Frame:
    """An LED wall from the front: cabinets, the data runs over them coloured and numbered, missing ones crossed out."""
    width, height = wall.size_mm
    frame = fitted(area.adjusted(8, 6, -34, -32), width, height)
    p.setFont(_mono(11))
    dimension(
        p,
        frame,
        ink,
        width,
        height,
        f"{wall.columns} columns, {wall.pixels[0]} px, {width:g} mm",
        f"{wall.pixels[1]} px, {height:g} mm",
    )
    try:
        runs = data_runs(wall)
    except ValueError:
        runs = ()
    port_of = {(h.column, h.row): r.port for r in runs for h in r.cabinets}
    order = {(h.column, h.row): n for r in runs for n, h in enumerate(r.cabinets, 1)}
    side = min(wall.cabinet.width_mm, wall.cabinet.height_mm) * frame.scale
    for h in path_of(wall):
        box = frame.rect(*h.mm).adjusted(0.5, 0.5, -0.5, -0.5)
        port = port_of.get((h.column, h.row))
        p.setPen(pen(ink.line))
        p.setBrush(QBrush(tint(run_colour(ink, port), 60) if port else QColor(ink.face)))
        p.drawRect(box)
        if (h.column, h.row) == chosen:
            p.setPen(pen(ink.strong, 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
        if port and side > 30:
            p.setPen(QColor(ink.text))
            p.setFont(_mono(min(12, side / 3.4)))
            p.drawText(
                box.adjusted(4, 2, -4, -2),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop,
                f"{port}.{order[h.column, h.row]}" if side > 34 else f"{port}",
            )
        if h.degrees and side > 20:
            p.setPen(QColor(ink.strong))
            p.setFont(_mono(min(11, side / 4)))
            p.drawText(
                box.adjusted(4, 2, -4, -2), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, f"{h.degrees}°"
            )
    _draw_missing(p, frame, wall, ink)
    for run in runs:
        _draw_run(p, frame, run.cabinets, run_colour(ink, run.port), run.backup, run.port, side, ink)
    return frame


def _draw_missing(p: QPainter, frame: Frame, wall: LedWall, ink: Ink) -> None:
    whole = wall.model_copy(update={"missing": ()})
    gone = {(c.column, c.row) for c in wall.missing}
    if not gone:
        return
    for h in path_of(whole):
        if (h.column, h.row) in gone:
            box = frame.rect(*h.mm).adjusted(1, 1, -1, -1)
            p.setPen(pen(ink.line, 1, dashed=True))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
            p.drawLine(box.topLeft(), box.bottomRight())
            p.drawLine(box.topRight(), box.bottomLeft())


def _draw_run(
    p: QPainter,
    frame: Frame,
    cabinets: Sequence[Hung],
    colour: str,
    backup: int | None,
    port: int,
    side: float,
    ink: Ink,
) -> None:
    def middle(h: Hung) -> QPointF:
        x, y, w, height = h.mm
        return frame.point(x + w / 2, y + height * 0.62)

    points = [middle(h) for h in cabinets]
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(pen(colour, 2))
    for a, b in pairwise(points):
        p.drawLine(a, b)
    radius = max(6.5, min(9.0, side / 5))
    p.setBrush(QColor(colour))
    p.drawEllipse(points[0], radius, radius)
    p.setPen(QColor(ink.ground))
    p.setFont(_mono(radius * 1.4, bold=True))
    p.drawText(QRectF(points[0].x() - 12, points[0].y() - 12, 24, 24), Qt.AlignmentFlag.AlignCenter, str(port))
    p.setBrush(QColor(ink.ground))
    p.setPen(pen(colour, 1.6))
    end = points[-1]
    if backup is not None:
        p.drawEllipse(end, radius, radius)
        p.setPen(QColor(colour))
        p.setFont(_mono(radius * 1.3))
        p.drawText(QRectF(end.x() - 12, end.y() - 12, 24, 24), Qt.AlignmentFlag.AlignCenter, str(backup))
    else:
        p.drawRect(QRectF(end.x() - radius / 2, end.y() - radius / 2, radius, radius))
    p.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def draw_monitors(p: QPainter, area: QRectF, wall: MonitorWall, ink: Ink) -> Frame:
    """A monitor wall from the front: casings, lit pictures, numbers, and what the edges hide."""
    width, height = wall.size_mm
    frame = fitted(area.adjusted(8, 6, -34, -32), width, height)
    p.setFont(_mono(11))
    hx, hy = hidden_pixels(wall)
    words = f"{width:g} mm" if wall.scattered else f"{width:g} mm, {hx:.1f} px behind each seam"
    dimension(
        p, frame, ink, width, height, words, f"{height:g} mm" if wall.scattered else f"{height:g} mm, {hy:.1f} px"
    )
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    for m in hung_monitors(wall):
        p.setPen(pen(ink.line))
        p.setBrush(QColor(ink.face))
        p.drawPolygon(QPolygonF([frame.point(*c) for c in m.casing_mm]))
        p.setPen(pen(ink.faint))
        p.setBrush(tint(ink.runs[0], 40))
        lit = QPolygonF([frame.point(*c) for c in m.lit_mm])
        p.drawPolygon(lit)
        a, b = lit.at(0), lit.at(1)
        p.setPen(pen(ink.text, 2))  # the monitor's own upper edge
        p.drawLine(a + (b - a) * 0.42, a + (b - a) * 0.58)
        centre = lit.boundingRect().center()
        p.setPen(QColor(ink.text))
        p.setFont(_mono(13))
        p.drawText(QRectF(centre.x() - 80, centre.y() - 18, 160, 18), Qt.AlignmentFlag.AlignCenter, str(m.number))
        p.setPen(QColor(ink.dim))
        p.setFont(_mono(10))
        x, y = m.canvas_px[3 if wall.turned and not wall.scattered else 0]
        if lit.boundingRect().width() > 70:
            p.drawText(
                QRectF(centre.x() - 80, centre.y(), 160, 16), Qt.AlignmentFlag.AlignCenter, f"at {x:.0f}, {y:.0f}"
            )
    p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    return frame


def draw_projection(p: QPainter, area: QRectF, screen: Projection, ink: Ink) -> Frame:
    """A screen from the front with each projector's picture and the overlaps, and from above with the throw."""
    facts = projection_facts(screen)
    beside = area.width() > 1.5 * area.height()
    front = QRectF(area.x(), area.y(), area.width() * (0.62 if beside else 1), area.height() * (1 if beside else 0.62))
    above = (
        QRectF(front.right(), area.y(), area.width() - front.width(), area.height())
        if beside
        else QRectF(area.x(), front.bottom(), area.width(), area.height() - front.height())
    )
    frame = fitted(front.adjusted(8, 6, -34, -32), screen.width_mm, screen.height_mm)
    p.setFont(_mono(11))
    across, down = (f", overlap {o.px} px" if o.px else "" for o in (facts.across, facts.down))
    dimension(
        p,
        frame,
        ink,
        screen.width_mm,
        screen.height_mm,
        f"{facts.canvas[0]} px, {screen.width_mm:g} mm{across}",
        f"{facts.canvas[1]} px, {screen.height_mm:g} mm{down}",
    )
    scale = facts.pixel_mm
    above_mm = (screen.height_mm - facts.canvas[1] * scale) / 2
    edges = []
    for n, (f, (left, top)) in enumerate(zip(facts.projectors, screen.offsets, strict=True)):
        column, row = n % screen.columns, n // screen.columns
        x, y = left * scale, above_mm + top * scale
        box = frame.rect(x, y, *f.size_mm)
        p.setPen(pen(run_colour(ink, n + 1), 1.6))
        p.setBrush(tint(run_colour(ink, n + 1), 36))
        p.drawRect(box.adjusted(1, 1, -1, -1))
        if not row:
            edges.append((x, x + f.size_mm[0]))
        p.setPen(QColor(ink.text))
        p.setFont(theme.font(12))
        wide, deep = facts.across.mm * frame.scale, facts.down.mm * frame.scale
        own = box.adjusted(
            wide if column else 0,
            deep if row else 0,
            -wide if column < screen.columns - 1 else 0,
            -deep if row < screen.rows - 1 else 0,
        )
        theme.centred(p, own.adjusted(4, 0, -4, 0), f.projector.name)
    for (_, right), (left_mm, _) in pairwise(edges):
        seam = frame.rect(left_mm, 0, right - left_mm, screen.height_mm)
        p.setPen(QColor(ink.dim))
        p.setFont(_mono(10))
        if p.fontMetrics().horizontalAdvance("0000 mm") < seam.width():
            theme.centred(p, QRectF(seam.x(), seam.bottom() - 32, seam.width(), 14), f"{facts.across.px} px")
            theme.centred(p, QRectF(seam.x(), seam.bottom() - 18, seam.width(), 14), f"{facts.across.mm:.0f} mm")
    outline = frame.rect(0, 0, screen.width_mm, screen.height_mm)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(pen(ink.text, 1, dashed=True))
    p.drawRect(outline)
    _draw_throw(p, above, screen, ink, edges)
    return frame


def _draw_throw(p: QPainter, area: QRectF, screen: Projection, ink: Ink, edges: list[tuple[float, float]]) -> None:
    distances = [q.distance_mm for q in screen.projectors[: screen.columns]]
    far = max(distances, default=0.0)
    p.setFont(_mono(10))
    if far <= 0:
        p.setPen(QColor(ink.dim))
        p.drawText(area, Qt.AlignmentFlag.AlignCenter, "give distances to see the throw from above")
        return
    frame = fitted(area.adjusted(12, 10, -34, -34), screen.width_mm, far)
    told: set[float] = set()
    p.setPen(pen(ink.text, 2))
    p.drawLine(frame.point(0, 0), frame.point(screen.width_mm, 0))
    front = screen.projectors[: screen.columns]  # from above the rows stand one behind another
    for n, (q, (left, right)) in enumerate(zip(front, edges, strict=True)):
        if q.distance_mm <= 0:
            continue
        lens = frame.point((left + right) / 2 - q.shift_x / 100 * (right - left), q.distance_mm)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(pen(run_colour(ink, n + 1)))
        p.drawLine(lens, frame.point(left, 0))
        p.drawLine(lens, frame.point(right, 0))
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setBrush(QColor(ink.face))
        p.drawRect(QRectF(lens.x() - 9, lens.y() - 3, 18, 10))
        if q.distance_mm not in told:
            told.add(q.distance_mm)
            p.setPen(QColor(ink.dim))
            same = [e for e, other in zip(edges, front, strict=True) if other.distance_mm == q.distance_mm]
            middle = frame.point((same[0][0] + same[-1][1]) / 2, q.distance_mm)
            p.drawText(
                QRectF(middle.x() - 60, middle.y() + 8, 120, 16),
                Qt.AlignmentFlag.AlignCenter,
                f"{q.distance_mm / 1000:.2f} m",
            )


def draw_raster(p: QPainter, area: QRectF, item: Output | Input, ink: Ink) -> tuple[Frame, list[QRectF]]:
    """A signal's raster: the parts of its gang with their connectors, or the active picture within its blanking."""
    if isinstance(item, Output):
        width, height, name = item.timing.width, item.timing.height, item.connector or str(item.number)
    else:
        width, height, name = item.width, item.height, item.connector or item.name
    p.setFont(_mono(11))
    if item.gang is None:
        try:
            t = timing_of(item.timing) if isinstance(item, Output) else None
        except SignalError:
            t = None
        total = (t.h_total, t.v_total) if t else (width, height)
        frame = fitted(area.adjusted(8, 6, -34, -32), *total)
        if t is not None:
            p.setPen(pen(ink.faint, 1, dashed=True))
            p.setBrush(tint(ink.face, 120))
            p.drawRect(frame.rect(0, 0, *total))
        across, down = total[0] - width, total[1] - height
        dimension(
            p,
            frame,
            ink,
            *total,
            f"{width} px{f' + {across} blank' if across > 0 else ''}",
            f"{height}{f' + {down} lines' if down > 0 else ' px'}",
        )
        box = frame.rect(0, 0, width, height)
        p.setPen(pen(ink.line))
        p.setBrush(tint(ink.runs[0], 40))
        p.drawRect(box)
        p.setPen(QColor(ink.text))
        p.setFont(theme.font(13))
        theme.centred(p, box, name)
        return frame, [box]
    frame = fitted(area.adjusted(8, 6, -34, -32), width, height)
    dimension(p, frame, ink, width, height, f"{width} px", f"{height} px")
    boxes = []
    for n, part in enumerate(gang_parts(width, height, item.gang.columns, item.gang.rows, item.gang.connectors)):
        box = frame.rect(*part.at).adjusted(1, 1, -1, -1)
        boxes.append(box)
        p.setPen(pen(run_colour(ink, n + 1), 1.6))
        p.setBrush(tint(run_colour(ink, n + 1), 40))
        p.drawRect(box)
        p.setPen(QColor(ink.text))
        p.setFont(theme.font(13, bold=True))
        theme.centred(p, QRectF(box.x(), box.center().y() - 18, box.width(), 18), part.connector)
        p.setPen(QColor(ink.dim))
        p.setFont(_mono(11))
        theme.centred(p, QRectF(box.x(), box.center().y(), box.width(), 18), f"{part.at.w} × {part.at.h}")
    return frame, boxes
