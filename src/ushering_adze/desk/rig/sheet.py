"""The rig sheet: the whole room on paper, as PDF or PNG."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMarginsF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter

from ushering_adze.core.displays.binding import fed_by, fed_parts
from ushering_adze.core.displays.rig import KIND_WORDS, output_wires
from ushering_adze.core.show import Fault, LedWall, MonitorWall, Projection, Show, ShowError
from ushering_adze.core.signal.timing import SignalError, plain, rate_words
from ushering_adze.desk import theme
from ushering_adze.desk.rig.drawings import PAPER, draw_led, draw_monitors, draw_projection, fitted, pen
from ushering_adze.desk.rig.results import lines_of

WIDTH, HEIGHT, MARGIN = 1123.0, 794.0, 42.0
"""A4 landscape at 96 to the inch; pages are drawn in these units."""


class _Paper:
    """Draws pages one under another, telling when a new one begins."""

    def __init__(self, show: Show, painter: QPainter) -> None:
        self.show, self.p = show, painter

    def head(self, title: str, page: int, pages: int) -> None:
        p = self.p
        p.setFont(theme.font(20, bold=True))
        p.setPen(QColor(PAPER.text))
        theme.left(p, QRectF(MARGIN, 22, 700, 30), f"{self.show.name}: {title}")
        p.setFont(theme.font(11))
        p.setPen(QColor(PAPER.dim))
        theme.right(p, QRectF(WIDTH - MARGIN - 400, 22, 400, 30), f"rig sheet, page {page} of {pages}")
        p.setPen(pen(PAPER.text, 1.2))
        p.drawLine(int(MARGIN), 56, int(WIDTH - MARGIN), 56)

    def table(self, x: float, y: float, widths: tuple[float, ...], rows: list[tuple[str, ...]]) -> float:
        p = self.p
        for n, row in enumerate(rows):
            at = x
            p.setFont(theme.font(11, bold=n == 0))
            p.setPen(QColor(PAPER.dim if n == 0 else PAPER.text))
            for words, width in zip(row, widths, strict=True):
                theme.left(p, QRectF(at, y, width - 8, 17), words)
                at += width
            y += 17
            p.setPen(pen(PAPER.text if n == 0 else PAPER.faint, 0.6))
            p.drawLine(int(x), int(y), int(x + sum(widths)), int(y))
        return y

    def room(self, area: QRectF) -> None:
        p, show = self.p, self.show
        hung = [s for s in show.surfaces if s.place is not None and s.size_mm is not None and not s.place.apart]
        top = max((s.place.foot_mm + s.size_mm[1] for s in hung if s.place and s.size_mm), default=3000.0)
        frame = fitted(area.adjusted(0, 12, 0, -26), show.room_width_mm, top)
        p.setPen(pen(PAPER.text, 1.2))
        p.drawLine(frame.point(0, top), frame.point(show.room_width_mm, top))
        p.setFont(theme.font(11, mono=True))
        for m in range(int(show.room_width_mm // 1000) + 1):
            at = frame.point(m * 1000, top)
            p.setPen(pen(PAPER.line, 0.8))
            p.drawLine(at, frame.point(m * 1000, top + 60))
            if m % 2 == 0:
                p.setPen(QColor(PAPER.dim))
                p.drawText(QRectF(at.x() - 20, at.y() + 4, 40, 16), Qt.AlignmentFlag.AlignCenter, f"{m} m")
        for s in hung:
            assert s.place is not None and s.size_mm is not None
            box = frame.rect(s.place.x_mm, top - s.place.foot_mm - s.size_mm[1], *s.size_mm)
            p.setPen(pen(PAPER.text, 1))
            p.setBrush(QColor(PAPER.face))
            p.drawRect(box)
            p.setPen(QColor(PAPER.text))
            p.setFont(theme.font(12, bold=True))
            name = QRectF(box.x(), box.center().y() - 16, box.width(), 16)
            if p.fontMetrics().horizontalAdvance(s.name) > box.width():
                name = QRectF(box.center().x() - 60, box.top() - 18, 120, 16)
            theme.centred(p, name, s.name)
            p.setFont(theme.font(11, mono=True))
            p.setPen(QColor(PAPER.dim))
            size = f"{s.size_mm[0] / 1000:g} × {s.size_mm[1] / 1000:g} m"
            if p.fontMetrics().horizontalAdvance(size) < box.width():
                theme.centred(p, QRectF(box.x(), box.center().y(), box.width(), 16), size)


def _surface_rows(show: Show) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [("Surface", "Kind", "Pixels", "Size", "Place", "Fed by")]
    for s in show.surfaces:
        feeds = dict.fromkeys(fed_by(show, part) for part in fed_parts(s))
        outputs = ", ".join(f"{show.output(o).number} {show.output(o).name}" if o else "unbound" for o in feeds)
        place = "–"
        if s.place:
            place = "hangs apart" if s.place.apart else f"{s.place.x_mm / 1000:g} m, {s.place.foot_mm / 1000:g} m up"
        size = f"{s.size_mm[0] / 1000:.3g} × {s.size_mm[1] / 1000:.3g} m" if s.size_mm else "–"
        rows.append((s.name, KIND_WORDS[s.kind], f"{s.pixels[0]} × {s.pixels[1]}", size, place, outputs))
    return rows


def _output_rows(show: Show) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [("Output", "Raster", "Timing", "Clock", "Link", "Connectors")]
    for o in show.outputs:
        try:
            wires = output_wires(o)
        except SignalError as error:
            rows.append((f"{o.number} {o.name}", f"{o.timing.width} × {o.timing.height}", str(error), "", "", ""))
            continue
        t = wires[0].timing
        link = "–"
        if wires[0].load is not None:
            worst = max((w.load for w in wires if w.load is not None), key=lambda k: k.share)
            link = f"{worst.link.words}, {worst.share * 100:.0f} %{'' if worst.fits else ': does not fit'}"
        names = ", ".join(w.part.connector for w in wires) + (f"; mirrors {', '.join(o.mirrors)}" if o.mirrors else "")
        count = f"{len(wires)} × " if len(wires) > 1 else ""
        rows.append(
            (
                f"{o.number} {o.name}",
                f"{o.timing.width} × {o.timing.height} at {rate_words(o.timing.rate)}",
                f"{count}{t.h_active} × {t.v_active} {t.standard}, {t.h_total} × {t.v_total}",
                f"{plain(t.clock_khz / 1000, 3)} MHz",
                link,
                names,
            )
        )
    return rows


def _pages(show: Show) -> list[str]:
    drawn = [s.id for s in show.surfaces if isinstance(s, (LedWall, MonitorWall, Projection))]
    return ["room", *drawn]


def _draw_page(show: Show, p: QPainter, which: str, number: int, pages: int) -> None:
    paper = _Paper(show, p)
    if which == "room":
        paper.head("the room", number, pages)
        paper.room(QRectF(MARGIN, 62, WIDTH - 2 * MARGIN, 330))
        y = paper.table(MARGIN, 404, (180, 110, 120, 140, 190, 299), _surface_rows(show))
        paper.table(MARGIN, y + 14, (170, 170, 250, 110, 170, 169), _output_rows(show))
        return
    surface = show.surface(which)
    paper.head(surface.name, number, pages)
    area = QRectF(MARGIN, 66, 700, HEIGHT - 66 - MARGIN)
    if isinstance(surface, LedWall):
        draw_led(p, area, surface, PAPER)
    elif isinstance(surface, MonitorWall):
        draw_monitors(p, area, surface, PAPER)
    elif isinstance(surface, Projection):
        draw_projection(p, area, surface, PAPER)
    y = 74.0
    for line in lines_of(show, surface):
        p.setFont(theme.font(11))
        p.setPen(QColor(PAPER.dim))
        theme.left(p, QRectF(762, y, 84, 16), line.label)
        p.setPen(QColor(PAPER.text))
        box = QRectF(848, y, WIDTH - MARGIN - 848, 60)
        used = p.boundingRect(box, Qt.TextFlag.TextWordWrap, line.words)
        p.drawText(box, Qt.TextFlag.TextWordWrap, line.words)
        y += max(17.0, used.height() + 3)


def save_sheet(show: Show, path: Path) -> None:
    """Write the rig sheet: a page for the room and its tables, and one for each wall and screen.

    A PNG holds the pages one under another.

    Raises
    ------
    ShowError
        If the file cannot be written.
    """
    if QGuiApplication.instance() is None:
        from ushering_adze.desk.qt import application

        application()
    theme.load_fonts()
    pages = _pages(show)
    failed = Fault(str(path), "the rig sheet could not be written; choose another place")
    if not path.parent.is_dir():
        raise ShowError([Fault(str(path), "there is no such folder; make it or choose another place")])
    if path.suffix.lower() == ".pdf":
        writer = QPdfWriter(str(path))
        writer.setPageLayout(
            QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape, QMarginsF(0, 0, 0, 0))
        )
        writer.setTitle(f"{show.name}: rig sheet")
        painter = QPainter()
        if not painter.begin(writer):
            raise ShowError([failed])
        painter.scale(writer.width() / WIDTH, writer.height() / HEIGHT)
        for n, which in enumerate(pages, 1):
            if n > 1:
                writer.newPage()
            _draw_page(show, painter, which, n, len(pages))
        painter.end()
        return
    image = QImage(int(WIDTH) * 2, int(HEIGHT) * 2 * len(pages), QImage.Format.Format_RGB32)
    image.fill(QColor(PAPER.ground))
    painter = QPainter(image)
    painter.scale(2, 2)
    for n, which in enumerate(pages, 1):
        _draw_page(show, painter, which, n, len(pages))
        painter.translate(0, HEIGHT)
    painter.end()
    if not image.save(str(path), "PNG"):
        raise ShowError([failed])
