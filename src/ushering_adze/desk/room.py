"""The room: the measured front view at true scale, with what every surface shows."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPolygonF, QRegion
from PySide6.QtWidgets import QSizePolicy, QWidget

from ushering_adze.core.displays.hanging import hang_by, hung_elsewhere
from ushering_adze.core.displays.monitors import hung_monitors
from ushering_adze.core.show import MonitorWall, Projection, Surface
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import hatch, image_of
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.session import Session
from ushering_adze.playout import Report

Role = Literal["program", "preview", "plain"]
HEAD = 30


class Label(NamedTuple):
    """A surface's name where there is room for it; ``long`` with its sizes, as a dimension line over the
    whole surface.
    """

    where: QRectF
    over: QRectF
    words: str
    strong: bool
    long: bool


def metres(mm: float) -> str:
    """A length in words.

    Examples
    --------
    >>> metres(9000), metres(2500)
    ('9.0', '2.5')
    """
    return f"{mm / 1000:.1f}"


class RoomView(QWidget):
    """Draws the room; a click selects a surface, with Ctrl or Shift one more, and in a ``movable`` room a drag hangs it
    elsewhere.
    """

    def __init__(self, session: Session, role: Role, movable: bool = False) -> None:
        super().__init__()
        self._session, self._role, self._movable = session, role, movable
        self._grabbed: tuple[str, QPointF] | None = None
        self._by_mm: tuple[float, float] = (0.0, 0.0)
        self._where: dict[str, QRectF] = {}
        self._scale = 1.0
        self._laid: object = None
        self._labels: list[Label] = []
        self._labels_for: object = None
        self._told: object = None
        self._drawn: dict[str, NDArray[np.uint8] | None] = {}
        self.setMinimumSize(300, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setObjectName(f"room-{role}")
        self.setAccessibleName({"program": "Program room", "preview": "Preview room", "plain": "Room"}[role])
        session.reported.connect(self._follow)
        session.show_changed.connect(self._edited)
        session.selection_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(860, 280)

    # -- geometry ------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: object) -> None:
        self._lay_out()

    def _edited(self) -> None:
        """Only what hangs in the room moves the drawing; what it shows comes with the next report."""
        show = self._session.show
        if (show.surfaces, show.room_width_mm) != self._laid:
            self._lay_out()

    def _lay_out(self) -> None:
        show = self._session.show
        self._laid = (show.surfaces, show.room_width_mm)
        hung = [s for s in show.surfaces if s.place is not None and s.size_mm is not None and not s.place.apart]
        apart = [s for s in show.surfaces if s.place is not None and s.size_mm is not None and s.place.apart]
        apart_mm = sum((s.size_mm[0] + 900 for s in apart if s.size_mm), 0.0)
        top_mm = max([s.place.foot_mm + s.size_mm[1] for s in [*hung, *apart] if s.place and s.size_mm], default=3000.0)
        left, foot_room, top_room = 22, 34, HEAD + (24 if self._role != "plain" else 18)
        width, height = self.width() - left - 16, self.height() - top_room - foot_room
        self._scale = max(1e-4, min(width / (show.room_width_mm + apart_mm), height / max(top_mm, 1000.0)))
        total = (show.room_width_mm + apart_mm) * self._scale
        self._x0 = left + max(0.0, (width - total) / 2)
        self._floor = self.height() - foot_room
        self._where = {}
        for s in hung:
            self._where[s.id] = self._rect(s, s.place.x_mm if s.place else 0)
        x = show.room_width_mm + 450
        for s in apart:
            if s.size_mm:
                self._where[s.id] = self._rect(s, x)
                x += s.size_mm[0] + 900
        self._apart_x = self._x0 + show.room_width_mm * self._scale if apart else None
        self._labels_for = None
        self.update()

    def _rect(self, surface: Surface, x_mm: float) -> QRectF:
        assert surface.size_mm is not None and surface.place is not None
        w, h = surface.size_mm
        return QRectF(
            self._x0 + x_mm * self._scale,
            self._floor - (surface.place.foot_mm + h) * self._scale,
            w * self._scale,
            h * self._scale,
        )

    def rect_of(self, surface: str) -> QRectF | None:
        """Where a surface is drawn, in widget pixels."""
        return self._where.get(surface)

    # -- painting ------------------------------------------------------------------------------------------------

    def _follow(self) -> None:
        """Paint anew what another picture is of; all of it only when more than pictures has changed."""
        report = self._session.report
        if report is None or not self.isVisible():
            return
        pictures = {id: self._pixels(id, report) for id in self._where}
        new = [id for id, pixels in pictures.items() if pixels is not self._drawn.get(id)]
        stage = report.stage
        told = (
            stage.show,
            stage.on_program,
            stage.staged,
            bool(stage.edits),
            report.delta,
            tuple(r.source_ids for r in report.surfaces.values()),
            report.moving,
            stage.rehearsal is not None,
        )
        self._drawn = pictures
        if told != self._told:
            self._told = told
            self.update()
            return
        region = QRegion()
        for id in new:
            region += _reach(self._where[id])
        if report.moving and self._role == "program":
            region += QRect(0, 0, self.width(), HEAD)
        if not region.isEmpty():
            self.update(region)

    def paintEvent(self, event: QPaintEvent) -> None:
        p, region = QPainter(self), event.region()
        p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setPen(theme.hairline())
        p.drawRect(self.rect().adjusted(0, 0, -1, -1))
        report = self._session.report
        if region.intersects(QRect(0, 0, self.width(), HEAD)) or region.intersects(QRect(0, 0, 6, self.height())):
            self._paint_head(p, report)
        floor = QRect(0, round(self._floor) - 2, self.width(), self.height())
        if region.intersects(floor) or (
            self._apart_x is not None and region.intersects(QRect(round(self._apart_x) - 2, 0, 4, self.height()))
        ):
            self._paint_floor(p)
        for surface in self._session.show.surfaces:
            if surface.id in self._where and region.intersects(
                _reach(self._where[surface.id].translated(self._offset(surface.id)))
            ):
                self._paint_surface(p, surface, report)
        for label in self._placed_labels(report):
            if region.intersects(_reach(label.where.united(label.over) if label.long else label.where)):
                self._paint_label(p, label)

    def _pixels(self, surface: str, report: Report) -> NDArray[np.uint8] | None:
        """The picture of a surface in this room: in the preview's, what is on program where nothing will change."""
        pixels = report.preview.get(surface) if self._role == "preview" else None
        return report.program.get(surface) if pixels is None else pixels

    def _paint_head(self, p: QPainter, report: Report | None) -> None:
        p.setFont(theme.font(13, bold=True))
        if self._role == "plain":
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(12, 0, 120, HEAD), "In the room")
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.DIM))
            words = f"{metres(self._session.show.room_width_mm)} m wide"
            chosen = next((s for s in self._session.show.surfaces if s.id == self._session.surface), None)
            if chosen is not None and self._grabbed is not None and chosen.place is not None:
                words = (
                    f"{chosen.place.x_mm + self._by_mm[0]:.0f} mm from the left, "
                    f"{chosen.place.foot_mm + self._by_mm[1]:.0f} mm up"
                )
            elif chosen is not None:
                size = (
                    f"  {metres(chosen.size_mm[0])} × {metres(chosen.size_mm[1])} m"
                    if chosen.size_mm
                    else "  hangs nowhere"
                )
                words = chosen.name + size
                p.setFont(theme.font(12))
            theme.right(p, QRectF(110, 0, self.width() - 122, HEAD), words)
            return
        bar = QRectF(0, 0, 5, self.height())
        title, token = ("PROGRAM", theme.RED_WORDS) if self._role == "program" else ("PREVIEW", theme.GREEN)
        (theme.program_bar if self._role == "program" else theme.preview_bar)(p, bar)
        p.setPen(theme.colour(token))
        theme.left(p, QRectF(16, 0, 90, HEAD), title)
        if report is None:
            return
        stage = report.stage
        tried = stage.rehearsal if self._role == "preview" else None
        number = stage.on_program if self._role == "program" else stage.staged
        if tried is not None:
            p.setFont(theme.font(13, bold=True))
            p.setPen(theme.colour(theme.AMBER))
            theme.left(p, QRectF(104, 0, 420, HEAD), f"rehearsal of {stage.show.cue_list(tried.list).name}")
            return
        preset = stage.show.preset(number) if number is not None else None
        p.setFont(theme.font(13))
        p.setPen(theme.colour(theme.TEXT if preset else theme.DIM))
        if preset:
            edited = self._role == "preview" and stage.edits
            words = f"{preset.number}  {preset.name}{', edited' if edited else ''}"
        elif self._role == "preview" and stage.edits:
            words = "edited upon what is on program"
        elif self._role == "preview":
            words = "nothing staged: type a number, then Enter"
        else:
            words = "made by hand" if stage.back else "as declared"
        theme.left(p, QRectF(104, 0, 420, HEAD), words)
        if self._role == "program" and report.moving:
            width = 160.0
            box = QRectF(self.width() - width - 14, HEAD / 2 - 2, width, 4)
            p.fillRect(box, theme.colour(theme.LINE))
            p.fillRect(QRectF(box.x(), box.y(), width * report.progress, 4), theme.colour(theme.RED))
            p.setPen(theme.colour(theme.TEXT))
            p.setFont(theme.font(12, mono=True))
            theme.right(p, QRectF(box.x() - 100, 0, 92, HEAD), "by hand" if stage.program.led_by_hand else "fading")

    def _paint_floor(self, p: QPainter) -> None:
        show = self._session.show
        p.setPen(theme.hairline(theme.FAINT))
        right = self._x0 + show.room_width_mm * self._scale
        p.drawLine(QPointF(self._x0, self._floor), QPointF(right, self._floor))
        p.setFont(theme.font(11, mono=True))
        step = 5 if self._scale * 1000 < 60 else 1
        for m in range(int(show.room_width_mm // 1000) + 1):
            x = self._x0 + m * 1000 * self._scale
            major = m % 5 == 0
            p.setPen(theme.hairline(theme.FAINT))
            p.drawLine(QPointF(x, self._floor), QPointF(x, self._floor + (6 if major else 3)))
            if m % step == 0 and (major or step == 1):
                p.setPen(theme.colour(theme.DIM))
                p.drawText(QRectF(x - 30, self._floor + 8, 60, 16), Qt.AlignmentFlag.AlignCenter, f"{m} m")
        if self._apart_x is not None:
            pen = theme.hairline(theme.LINE, dashed=True)
            p.setPen(pen)
            p.drawLine(
                QPointF(self._apart_x, self._floor - self.height() * 0.45), QPointF(self._apart_x, self._floor + 6)
            )
            p.setPen(theme.hairline(theme.FAINT))
            p.drawLine(QPointF(self._apart_x + 12, self._floor), QPointF(self.width() - 14, self._floor))

    def _paint_surface(self, p: QPainter, surface: Surface, report: Report | None) -> None:
        rect = self._where[surface.id].translated(self._offset(surface.id))
        preview = self._role == "preview"
        changes = {c.surface for c in report.delta} if report else set()
        pixels = self._pixels(surface.id, report) if report else None
        if pixels is not None:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(rect, image_of(pixels))
        else:
            p.fillRect(rect, theme.colour("#000000"))
        if isinstance(surface, MonitorWall):
            self._paint_edges(p, surface, rect)
        if isinstance(surface, Projection) and len(surface.projectors) > 1 and self._role == "plain":
            self._paint_overlap(p, surface, rect)
        will_change = preview and surface.id in changes
        if will_change:
            hatch(p, rect, alpha=90, step=16)
        selected = surface.id in self._session.surfaces
        if selected or will_change:
            p.setPen(theme.hairline(theme.AMBER, 2 if selected else 1.4))
        else:
            p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(rect)
        if report and surface.id in report.surfaces and self._role != "plain":
            stripe = self._stripe(report, surface.id, will_change)
            if stripe:
                p.fillRect(QRectF(rect.x(), rect.bottom() - 2, rect.width() + 1, 3), theme.colour(stripe))

    def _stripe(self, report: Report, surface: str, will_change: bool) -> str | None:
        show = self._session.show
        if will_change:
            names = next((c.after for c in report.delta if c.surface == surface), ())
            return next((s.colour for s in show.sources if names and s.name == names[0]), None)
        ids = report.surfaces[surface].source_ids
        return next((s.colour for s in show.sources if ids and s.id == ids[0]), None)

    def _paint_edges(self, p: QPainter, wall: MonitorWall, rect: QRectF) -> None:
        if wall.scattered:
            p.setPen(theme.hairline(theme.TEXT))
            for m in hung_monitors(wall):
                p.drawPolygon(
                    QPolygonF([QPointF(rect.x() + x * self._scale, rect.y() + y * self._scale) for x, y in m.lit_mm])
                )
            return
        p.setPen(theme.hairline(theme.WELL, max(1.5, 2 * wall.edge_mm * self._scale)))
        for k in range(1, wall.columns):
            x = rect.x() + rect.width() * k / wall.columns
            p.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
        for k in range(1, wall.rows):
            y = rect.y() + rect.height() * k / wall.rows
            p.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))

    def _paint_overlap(self, p: QPainter, screen: Projection, rect: QRectF) -> None:
        p.setPen(theme.hairline(theme.TEXT, dashed=True))
        wide, high = screen.pixels
        for (x, y), projector in zip(screen.offsets, screen.projectors, strict=True):
            for edge in (x, x + projector.width):
                if 0 < edge < wide:
                    at = rect.x() + rect.width() * edge / wide
                    p.drawLine(QPointF(at, rect.top()), QPointF(at, rect.bottom()))
            for edge in (y, y + projector.height):
                if 0 < edge < high:
                    at = rect.y() + rect.height() * edge / high
                    p.drawLine(QPointF(rect.left(), at), QPointF(rect.right(), at))

    def _placed_labels(self, report: Report | None) -> list[Label]:
        """Every label that finds room, worked out anew only when a surface hangs elsewhere or another one is marked."""
        show = self._session.show
        changing = {c.surface for c in report.delta} if report is not None and self._role == "preview" else set()
        wanted = (show.surfaces, self.size(), self._session.surface, changing)
        if wanted != self._labels_for:
            self._labels_for = wanted
            taken = [*self._where.values(), QRectF(0, self._floor, self.width(), 30)]
            strong = changing | {self._session.surface}
            found = (self._place_label(s, s.id in strong, taken) for s in show.surfaces if s.id in self._where)
            self._labels = [label for label in found if label is not None]
        return self._labels

    def _place_label(self, surface: Surface, strong: bool, taken: list[QRectF]) -> Label | None:
        """A label's place, added to what is taken; None if there is no room: the name stands on the sill, and in the
        list of changes.
        """
        rect = self._where[surface.id]
        metrics = QFontMetricsF(theme.font(12, bold=strong))
        width, height = metrics.horizontalAdvance(surface.name) + 6, 17.0
        wide = (
            f"{surface.name}  {metres(surface.size_mm[0])} × {metres(surface.size_mm[1])} m  {surface.pixels[0]} × "
            f"{surface.pixels[1]} px"
            if surface.size_mm
            else surface.name
        )
        x = rect.center().x() - width / 2
        places = [
            QRectF(x, rect.top() - height - 2, width, height),
            QRectF(rect.right() + 6, rect.bottom() - height, width, height),
            QRectF(rect.left() - width - 6, rect.bottom() - height, width, height),
            QRectF(x, rect.bottom() + 2, width, height),
        ]
        bounds = QRectF(self.rect()).adjusted(8, HEAD - 6, -4, 0)
        fits = [
            r for r in places if bounds.contains(r) and not any(r.adjusted(1, 1, -1, -1).intersects(t) for t in taken)
        ]
        if not fits:
            return None
        where = fits[0]
        long = metrics.horizontalAdvance(wide) + 60 < rect.width() and where is places[0]
        over = QRectF(rect.x(), where.y(), rect.width(), height)
        taken.append(over if long else where)
        return Label(where, over, wide if long else surface.name, strong, long)

    def _paint_label(self, p: QPainter, label: Label) -> None:
        p.setFont(theme.font(12, bold=label.strong))
        p.setPen(theme.colour(theme.AMBER if label.strong else theme.DIM))
        if label.long:
            self._paint_dimension(p, label)
        else:
            p.drawText(label.where, Qt.AlignmentFlag.AlignCenter, label.words)

    @staticmethod
    def _paint_dimension(p: QPainter, label: Label) -> None:
        over, y = label.over, label.where.center().y()
        half = p.fontMetrics().horizontalAdvance(label.words) / 2 + 8
        p.drawText(over, Qt.AlignmentFlag.AlignCenter, label.words)
        p.setPen(theme.hairline(theme.FAINT))
        for end, toward in ((over.left(), over.center().x() - half), (over.right(), over.center().x() + half)):
            p.drawLine(QPointF(end, y), QPointF(toward, y))
            p.drawLine(QPointF(end - 3, y + 4), QPointF(end + 3, y - 4))

    # -- gestures ------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        hit = next((id for id, rect in reversed(self._where.items()) if rect.contains(at)), None)
        more = one_more(event)
        self._session.choose_surface(hit, more)
        if more:
            return
        surface = self._session.show.surface(hit) if hit else None
        if self._movable and surface is not None and surface.place is not None and not surface.place.apart:
            self._grabbed, self._by_mm = (surface.id, at), (0.0, 0.0)

    def _offset(self, surface: str) -> QPointF:
        """How far a surface that is being dragged is from where it hangs, in widget pixels."""
        if self._grabbed is None or self._grabbed[0] != surface:
            return QPointF()
        return QPointF(self._by_mm[0] * self._scale, -self._by_mm[1] * self._scale)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grabbed is None:
            return
        id, start = self._grabbed
        moved = event.position() - start
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        self._by_mm = hang_by(
            self._session.show, id, moved.x() / self._scale, -moved.y() / self._scale, 0 if free else 6 / self._scale
        )
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        grabbed, self._grabbed = self._grabbed, None
        if grabbed is not None and self._by_mm != (0.0, 0.0):
            dx, dy = self._by_mm
            self._by_mm = (0.0, 0.0)
            name = self._session.show.surface(grabbed[0]).name
            self._session.try_edit(f"Hang {name}", lambda show: hung_elsewhere(show, grabbed[0], dx, dy))
        self.update()


def _reach(rect: QRectF) -> QRect:
    """The pixels that a box with its outline touches."""
    return rect.adjusted(-3, -3, 4, 4).toAlignedRect()
