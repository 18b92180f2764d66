"""The room as the ground that is built on: layers are taken hold of where they hang."""

from __future__ import annotations

from itertools import count
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QMouseEvent, QPainter, QPaintEvent

from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.faces import Face
from ushering_adze.core.onair.placing import lines_on
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.boxes import Box, around, carried, handled, holds
from ushering_adze.core.show import Place
from ushering_adze.desk import theme
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.drawing import GRIP
from ushering_adze.desk.dragging import sources_dragged
from ushering_adze.desk.frame_steps import FrameSteps
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.room import RoomView

NEAR = 6
"""Widget pixels within which a line draws."""
CORNERS = ((-1, -1), (1, -1), (1, 1), (-1, 1))
_gestures = count()


class _Hold(NamedTuple):
    """A hand on layers: by which handle (none: all of them), where, through which surface, and the boxes as they
    were.
    """

    handle: tuple[int, int]
    start: QPointF
    face: Face
    boxes: dict[str, Box]
    gesture: int


class RoomGround(RoomView):
    """The room on preview; selected layers are outlined on every surface that shows them, moved, and sized by their
    corners; sources are dropped on surfaces.
    """

    def __init__(self, building: Building) -> None:
        super().__init__(building.session, "preview")
        self.building = building
        self._held: _Hold | None = None
        self._last: tuple[QPointF, Qt.KeyboardModifier] | None = None
        self._steps = FrameSteps(self, building.session, self._go_on)
        self._boxes: dict[str, Box] = {}
        self.tip = ""
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        building.changed.connect(self.update)
        building.moved.connect(self.update)

    # -- where things are ----------------------------------------------------------------------------------------

    def _faces(self) -> list[tuple[Face, QRectF]]:
        """What surfaces show of the canvas that is built on, and where they hang on the widget; none while that is
        another picture than what is built on.
        """
        found: list[tuple[Face, QRectF]] = []
        if self.building.on == "blind":
            return found
        for face in self.building.faces():
            rect = self.rect_of(face.surface.id)
            if rect is not None:
                found.append((face, rect))
        return found

    def canvas_point(self, at: QPointF, through: Face | None = None) -> tuple[Face, tuple[float, float]] | None:
        """The surface at a place of the widget, and the place on the canvas that is seen there; also beside one, if
        that is named.
        """
        for face, rect in self._faces():
            if face.surface.id == through.surface.id if through is not None else rect.contains(at):
                x = face.rect.x + (at.x() - rect.x()) / rect.width() * face.rect.w
                return face, (x, face.rect.y + (at.y() - rect.y()) / rect.height() * face.rect.h)
        return None

    def outline(self, box: Box, face: Face, rect: QRectF) -> QRectF:
        """A box of the canvas as it hangs with a surface."""
        kx, ky = rect.width() / face.rect.w, rect.height() / face.rect.h
        return QRectF(
            rect.x() + (box[0] - face.rect.x) * kx, rect.y() + (box[1] - face.rect.y) * ky, box[2] * kx, box[3] * ky
        )

    def states(self) -> dict[str, LayerState]:
        """The layers as they are, with the boxes that are being dragged."""
        states = self.building.states()
        return {id: s._replace(place=self._boxes[id]) if id in self._boxes else s for id, s in states.items()}

    def grips(self) -> list[tuple[tuple[int, int], QPointF, Face]]:
        """The corners of the selection that hang with some surface."""
        states = self.states()
        box = around(states[id].place for id in self.building.movable(states))
        found = []
        if box is None:
            return []
        for face, rect in self._faces():
            for handle in CORNERS:
                x, y = box[0] + box[2] * (handle[0] + 1) / 2, box[1] + box[3] * (handle[1] + 1) / 2
                if face.rect.x <= x <= face.rect.right and face.rect.y <= y <= face.rect.foot:
                    found.append((handle, self.outline((x, y, 0, 0), face, rect).topLeft(), face))
        return found

    def layer_at(self, at: tuple[float, float], states: dict[str, LayerState]) -> str | None:
        """The topmost layer that is seen at a place of the canvas and not locked; a selected one first."""
        canvas = self.building.canvas
        layers = () if canvas is None else reversed(canvas.layers)
        there = [
            y.id
            for y in layers
            if not y.locked and y.id in states and is_seen(states[y.id]) and holds(states[y.id].place, at)
        ]
        return next((id for id in there if id in self.building.selected), there[0] if there else None)

    # -- by hand -------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, states = event.position(), self.states()
        grip = next((g for g in self.grips() if (g[1] - at).manhattanLength() <= GRIP), None)
        found = self.canvas_point(at)
        if event.button() != Qt.MouseButton.LeftButton or (found is None and grip is None):
            super().mousePressEvent(event)
            return
        if grip is not None:
            self._hold(grip[0], at, grip[2], states)
            return
        assert found is not None
        face, place = found
        id = self.layer_at(place, states)
        more = one_more(event)
        if id is None:
            self.building.select(())
            super().mousePressEvent(event)
            return
        self.building.session.choose_surface(
            face.surface.id, more
        )  # what it hangs on as well: that is how zones are made
        if more or id not in self.building.selected:
            self.building.select((id,), more)
        if id in self.building.selected:
            self._hold((0, 0), at, face, self.states())

    def _hold(self, handle: tuple[int, int], at: QPointF, face: Face, states: dict[str, LayerState]) -> None:
        boxes = {id: states[id].place for id in self.building.movable(states)}
        self._held = _Hold(handle, at, face, boxes, next(_gestures)) if boxes else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        held = self._held
        if held is None:
            near = any((g[1] - event.position()).manhattanLength() <= GRIP for g in self.grips())
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
            super().mouseMoveEvent(event)
            return
        self._last = event.position(), event.modifiers()
        self._steps.ask()

    def _go_on(self) -> None:
        """Go on with where the pointer has come to meanwhile."""
        held, last, self._last = self._held, self._last, None
        if held is None or last is None:
            return
        at, keys = last
        begin, now = self.canvas_point(held.start, held.face), self.canvas_point(at, held.face)
        old, canvas = around(held.boxes.values()), self.building.canvas
        if begin is None or now is None or old is None or canvas is None:
            return
        dx, dy = now[1][0] - begin[1][0], now[1][1] - begin[1][1]
        keep = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        middle = bool(keys & Qt.KeyboardModifier.ControlModifier)
        free = bool(keys & Qt.KeyboardModifier.AltModifier)
        states = self.states()
        lines = ([], []) if free else lines_on(canvas, self.building.faces(), states, held.boxes)
        rect = self.rect_of(held.face.surface.id)
        near = NEAR if rect is None else NEAR * held.face.rect.w / max(1.0, rect.width())
        new, _ = handled(old, held.handle, (dx, dy), lines, near, keep, middle)
        self._boxes = {id: carried(b, old, new) for id, b in held.boxes.items()}
        values = {id: {"place": Place.of_box(box)} for id, box in self._boxes.items()}
        self.building.put("Move" if held.handle == (0, 0) else "Size", values, held.gesture)
        self.tip = f"{new[0]:g}, {new[1]:g}  {new[2]:g} × {new[3]:g} px"
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._steps.stop()
        self._go_on()  # the last place is never lost
        self._held, self._boxes, self.tip = None, {}, ""
        super().mouseReleaseEvent(event)

    # -- sources dragged here ------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if sources_dragged(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Show what is dropped on the surface there, or on a selected layer in its place."""
        found = self.canvas_point(event.position())
        if found is None:
            self.building.session.trouble.emit("Drop a source on a surface: between them there is nothing to show it.")
            return
        for id in sources_dragged(event.mimeData()):
            self.building.drop(id, found[1], bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        event.acceptProposedAction()
        self.update()

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.building.selected:
            return
        p = QPainter(self)
        p.setClipRegion(event.region())
        states = self.states()
        for face, rect in self._faces():
            p.save()
            p.setClipRect(rect.adjusted(-1, -1, 1, 1), Qt.ClipOperation.IntersectClip)
            p.setBrush(Qt.BrushStyle.NoBrush)
            for id in self.building.selected:
                if id in states and states[id].spread == OWN:
                    p.setPen(theme.hairline(theme.AMBER, 1.6, dashed=not is_seen(states[id])))
                    p.drawRect(self.outline(states[id].place, face, rect))
            p.restore()
        p.setPen(theme.hairline(theme.WELL))
        p.setBrush(theme.colour(theme.TEXT))
        for _, at, _ in self.grips():
            p.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        if self.tip:
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.AMBER))
            p.drawText(QPointF(16, self.height() - 8), self.tip)
