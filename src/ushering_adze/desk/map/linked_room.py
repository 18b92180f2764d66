"""The room beside the drawings of Map: it marks the pixel pointed at, and points at pixels itself."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPaintEvent

from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.show.edits import find_region
from ushering_adze.desk import theme
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.session import Session


class LinkedRoom(RoomView):
    """The room, with the place marked that shows the pixel pointed at, and the surface a finding is about."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "plain")
        self._here = session
        self.setMouseTracking(True)
        session.pointed_changed.connect(self.update)

    def pointed_at(self) -> QPointF | None:
        """Where in the widget the pixel pointed at is shown."""
        pointed, show = self._here.pointed, self._here.show
        if pointed is None:
            return None
        _, x, y = pointed
        canvas = next((c for c in show.canvases if c.id == pointed[0]), None)
        for region in canvas.regions if canvas is not None else ():
            if not (region.x <= x < region.x + region.w and region.y <= y < region.y + region.h):
                continue
            where = self.rect_of(region.surface) if region.surface else None
            if where is not None:
                face = face_of(show.feeds_of(region.surface or ""))
                return QPointF(
                    where.x() + (pointed[1] + 0.5 - face.x) / face.w * where.width(),
                    where.y() + (pointed[2] + 0.5 - face.y) / face.h * where.height(),
                )
        return None

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        at = self.pointed_at()
        if at is not None:
            p = QPainter(self)
            p.setPen(theme.hairline(theme.TEXT))
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                p.drawLine(at + QPointF(dx * 4, dy * 4), at + QPointF(dx * 11, dy * 11))

    def mouseMoveEvent(self, event: object) -> None:
        super().mouseMoveEvent(event)  # type: ignore[arg-type]
        at: QPointF = event.position()  # type: ignore[attr-defined]
        show = self._here.show
        for surface in reversed(show.surfaces):
            where, feeds = self.rect_of(surface.id), show.feeds_of(surface.id)
            if where is not None and feeds and where.contains(at):
                face = face_of(feeds)
                home = find_region(show, feeds[0].id)
                assert home is not None
                self._here.point_at(
                    home[0].id,
                    face.x + int((at.x() - where.x()) / where.width() * face.w),
                    face.y + int((at.y() - where.y()) / where.height() * face.h),
                )
                return
        self._here.point_at(None)

    def leaveEvent(self, event: object) -> None:
        self._here.point_at(None)
