"""The hands on the canvas that is built on: layers moved, sized, cut, nudged and selected, sources dropped."""

from __future__ import annotations

from itertools import count
from typing import Any, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainterPath,
    QPainterPathStroker,
    QPolygonF,
    QWheelEvent,
)

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.kinds.shape import (
    Shape,
    ShapeNow,
    polygon_points,
    with_corner,
    with_corner_between,
    without_corner,
)
from ushering_adze.core.onair.placing import lines_on, seen_crop
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.boxes import (
    Box,
    around,
    carried,
    cropped,
    handled,
    panned,
    sized_turned,
    turn_towards,
    zoomed,
)
from ushering_adze.core.show import Crop, Place
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.drawing import GRIP, TURN, BuildDrawing
from ushering_adze.desk.dragging import FINISH, id_dragged, sources_dragged
from ushering_adze.desk.frame_steps import FrameSteps
from ushering_adze.desk.qt import one_more

NEAR = 8
"""Widget pixels within which a line draws."""
_gestures = count()


def _crop(cut: Box) -> Crop:
    left, top, right, bottom = (round(min(max(0.0, v), 1.0), 6) for v in cut)
    return Crop(left=left, top=top, right=right, bottom=bottom)


class Drag(NamedTuple):
    """A drag under way: what is dragged, from where, the boxes and crops as they were, and a name for its steps."""

    what: str
    handle: tuple[int, int]
    start: QPointF
    boxes: dict[str, Box]
    crops: dict[str, tuple[float, float, float, float]]
    turn: float
    gesture: int


class BuildCanvas(BuildDrawing):
    """Layers on a canvas, moved and sized by their handles.

    Signals
    -------
    asked_menu : right-clicked, at a global place
    finished : a finish was dropped on a layer: the layer, and the finish
    """

    asked_menu = Signal(object)
    finished = Signal(str, str)

    def __init__(self, building: Building, guides: Any) -> None:
        super().__init__(building, guides)
        self.drag: Drag | None = None
        self._moved = False
        self._aged = 0
        self._last: tuple[QPointF, Qt.KeyboardModifier] | None = None
        self._steps = FrameSteps(self, building.session, self._go_on)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Canvas")
        building.changed.connect(self._changed)
        building.moved.connect(self.update)
        building.undone.connect(self._changed)
        building.session.reported.connect(self._age)

    def _changed(self) -> None:
        self.boxes, self.cropping = {}, False
        self.update()

    def _age(self) -> None:
        """Boxes that were dragged are believed until two reports later: by then the stage has them, or something else
        has moved them.
        """
        if self.drag is None and self.boxes:
            self._aged += 1
            if self._aged > 2:
                self.boxes, self._aged = {}, 0
                self.update()

    # -- gestures ------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.pan_starts(event):
            return
        at, states = event.position(), self.states()
        if event.button() == Qt.MouseButton.RightButton:
            id = self.layer_at(at, states)
            if id is not None and id not in self.building.selected:
                self.building.select((id,))
            self.asked_menu.emit(event.globalPosition().toPoint())
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        more = one_more(event)
        handle, corner = self.handle_at(at, states), self.corner_at(at, states)
        self._moved = False
        if corner is not None:
            if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                self._without_corner(corner, states)
            else:
                self._begin("corner", (corner, 0), at, states)
            return
        if handle is not None:
            what = "crop" if self.cropping else "turn" if handle == TURN else "size"
            self._begin(what, handle, at, states)
            return
        id = self.layer_at(at, states)
        if id is None:
            if not more:
                self.building.select(())
            self.band = QRectF(at, at)
            return
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:  # the one under it
            there = self.all_at(at)
            chosen = next((n for n, i in enumerate(there) if i in self.building.selected), -1)
            self.building.select((there[(chosen + 1) % len(there)],))
        elif more or id not in self.building.selected:
            self.building.select((id,), more)
        if id in self.building.selected:
            self._begin("pan" if self.cropping else "move", (0, 0), at, self.states())

    def _begin(self, what: str, handle: tuple[int, int], at: QPointF, states: dict[str, LayerState]) -> None:
        movable = self.building.movable(states)
        self.drag = Drag(
            what,
            handle,
            at,
            {id: states[id].place for id in movable},
            {id: self._seen_crop(states[id]) for id in movable},
            0.0 if (alone := self.turned_one(states)) is None else float(states[alone].turn),
            next(_gestures),
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self.pan_moves(event):
            return
        if self.band is not None:
            self.band = QRectF(self.band.topLeft(), at)
            self.update()
        elif self.drag is not None:
            if not self._moved and (at - self.drag.start).manhattanLength() < 3:
                return
            self._moved = True
            self._last = at, event.modifiers()
            self._steps.ask()
        else:
            self._point(at)

    def _point(self, at: QPointF) -> None:
        states = self.states()
        handle = self.handle_at(at, states)
        if self.corner_at(at, states) is not None:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            return
        if handle == TURN:
            self.setCursor(Qt.CursorShape.CrossCursor)
            return
        shapes = {
            (-1, -1): Qt.CursorShape.SizeFDiagCursor,
            (1, 1): Qt.CursorShape.SizeFDiagCursor,
            (1, -1): Qt.CursorShape.SizeBDiagCursor,
            (-1, 1): Qt.CursorShape.SizeBDiagCursor,
        }
        if handle is not None:
            side = Qt.CursorShape.SizeHorCursor if handle[0] else Qt.CursorShape.SizeVerCursor
            self.setCursor(shapes.get(handle, side))
        else:
            self.setCursor(Qt.CursorShape.SizeAllCursor if self.layer_at(at, states) else Qt.CursorShape.ArrowCursor)

    def _dragged(self, drag: Drag, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        dx, dy = (at.x() - drag.start.x()) / self.scale, (at.y() - drag.start.y()) / self.scale
        keep = bool(keys & Qt.KeyboardModifier.ShiftModifier)
        middle = bool(keys & Qt.KeyboardModifier.ControlModifier)
        free = bool(keys & Qt.KeyboardModifier.AltModifier)
        if not drag.boxes:
            self.tip = "It is locked, or spread over a zone"
            self.update()
            return
        if drag.what == "crop":
            self._crop(drag, dx, dy, keep)
            return
        if drag.what == "pan":
            self._pan(drag, dx, dy)
            return
        if drag.what == "turn":
            self._turn(drag, at, keep)
            return
        if drag.what == "corner":
            self._corner(drag, at)
            return
        states, canvas = self.states(), self.building.canvas
        old = around(drag.boxes.values())
        assert canvas is not None and old is not None
        lines = ([], []) if free else lines_on(canvas, self.building.faces(), states, drag.boxes)
        near = NEAR / self.scale
        if drag.what == "size" and drag.turn % 360:  # lines of the canvas mean nothing to its sides
            new, self.met = sized_turned(old, drag.turn, drag.handle, dx, dy, keep, middle), []
        else:
            new, self.met = handled(old, drag.handle, (dx, dy), lines, near, keep, middle)
        self.boxes = {id: carried(b, old, new) for id, b in drag.boxes.items()}
        values = {id: {"place": Place.of_box(box)} for id, box in self.boxes.items()}
        self.building.put("Move" if drag.what == "move" else "Size", values, drag.gesture)
        first = next(iter(self.boxes))
        state = states[first]._replace(place=self.boxes[first])
        shift = f"{new[0] - old[0]:+g}, {new[1] - old[1]:+g} px · " if drag.what == "move" else ""
        self.tip = f"{shift}{self.told(state)}"
        self.update()

    def _turn(self, drag: Drag, at: QPointF, steps: bool) -> None:
        """The layer turned so that its upper side faces the pointer; by steps of 15° if asked for."""
        id, box = next(iter(drag.boxes.items()))
        degrees = turn_towards(box, self.point(at), 15.0 if steps else None)
        self.building.put("Turn", {id: {"turn": degrees}}, drag.gesture)
        self.tip = f"{degrees:g}°"
        self.update()

    def _corner(self, drag: Drag, at: QPointF) -> None:
        """A corner of a polygon under the pointer."""
        states = self.states()
        id, place = next(iter(drag.boxes.items()))
        shape = states[id].shape
        if not isinstance(shape, ShapeNow) or drag.handle[0] >= len(polygon_points(shape)):
            return
        to = self.share_at(at, states[id], place)
        self._shape(id, shape, with_corner(polygon_points(shape), drag.handle[0], to), "Corner", drag.gesture)
        self.tip = f"corner {drag.handle[0] + 1} at {to[0]:.1%}, {to[1]:.1%} of its box"
        self.update()

    def _without_corner(self, n: int, states: dict[str, LayerState]) -> None:
        id = self.cornered(states)
        if id is not None:
            shape = states[id].shape
            if len(polygon_points(shape)) <= 3:
                self.building.session.trouble.emit("A polygon has three corners at least.")
                return
            self._shape(id, shape, without_corner(polygon_points(shape), n), "Corner away", next(_gestures))

    def _shape(
        self, id: str, shape: ShapeNow, points: tuple[tuple[float, float], ...], words: str, gesture: object
    ) -> None:
        layer = self.building.layer(id)
        if layer is None or layer.locked:
            return
        made = Shape.model_validate({**shape._asdict(), "points": points})
        self.building.put(words, {id: {"shape": made}}, gesture)

    def _seen_crop(self, state: LayerState) -> Box:
        """What of a layer's picture is not seen, as shares of it."""
        source = by_share(state.picture)[0].source
        return state.crop if source is None else seen_crop(state, *self.building.size_of(source))

    def _pan(self, drag: Drag, dx: float, dy: float) -> None:
        """The picture moved within its box."""
        cuts = {id: panned(drag.crops[id], dx / max(1, b[2]), dy / max(1, b[3])) for id, b in drag.boxes.items()}
        self.building.put("Pan", {id: {"crop": _crop(cut)} for id, cut in cuts.items()}, drag.gesture)
        self.tip = "the picture within its box"
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """While cropping, the picture of the selected layers becomes larger or smaller within its box."""
        states = self.states()
        chosen = [id for id in self.building.selected if id in states]
        if not self.cropping or not chosen or not event.angleDelta().y():
            super().wheelEvent(event)
            return
        by = 1.05 ** (event.angleDelta().y() / 120)
        cuts = {id: zoomed(self._seen_crop(states[id]), by) for id in chosen}
        self.building.put("Zoom", {id: {"crop": _crop(cut)} for id, cut in cuts.items()}, ("zoom", tuple(chosen)))
        event.accept()

    def _crop(self, drag: Drag, dx: float, dy: float, refit: bool) -> None:
        """Sides of the picture cut in place: the box shrinks with them, so that what is left does not move; or what is
        left fills the box again.
        """
        values: dict[str, dict[str, Any]] = {}
        for id, box in drag.boxes.items():
            smaller, cut = cropped(box, drag.crops[id], drag.handle, dx, dy)
            self.boxes[id] = box if refit else smaller
            values[id] = {"place": Place.of_box(self.boxes[id]), "crop": _crop(cut)}
            self.tip = "cut " + " ".join(f"{share:.1%}" for share in cut)
        self.building.put("Crop", values, drag.gesture)
        self.update()

    def _go_on(self) -> None:
        """Go on with where the pointer has come to meanwhile."""
        last, self._last = self._last, None
        if last is not None and self.drag is not None:
            self._dragged(self.drag, *last)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        self._steps.stop()
        self._go_on()  # the last place is never lost
        if self.band is not None:
            band, states = self.band.normalized(), self.states()
            self.band = None
            canvas = self.building.canvas
            if canvas is not None and band.width() > 3:
                free = [y.id for y in canvas.layers if not y.locked and y.id in states and is_seen(states[y.id])]
                within = [id for id in free if all(band.contains(r) for r in self.rects_of(states[id]))]
                self.building.select(within, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        self.drag, self.met, self.tip, self._aged = None, [], "", 0
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        states = self.states()
        polygon = self.cornered(states)
        if polygon is not None and self._beside_side(event.position(), states):
            state = states[polygon]
            at = self.share_at(event.position(), state, state.place)
            self._shape(
                polygon, state.shape, with_corner_between(polygon_points(state.shape), at), "Corner", next(_gestures)
            )
            return
        if self.layer_at(event.position(), states) is None:
            self.fit()
        else:
            self.crop()

    def _beside_side(self, at: QPointF, states: dict[str, LayerState]) -> bool:
        """Whether a place is at a side of the polygon that is selected."""
        grips = self.corner_grips(states)
        outline = QPolygonF([*grips, grips[0]])
        path = QPainterPath()
        path.addPolygon(outline)
        stroke = QPainterPathStroker()
        stroke.setWidth(2 * GRIP)
        return stroke.createStroke(path).contains(at)

    def crop(self, on: bool | None = None) -> None:
        """Let handles cut, or size; the other of the two if nothing is said."""
        self.cropping = (not self.cropping if on is None else on) and bool(self.building.selected)
        self.update()

    def show_safe(self) -> None:
        """Draw safe areas on every surface, or no more."""
        self.safe = not self.safe
        self.update()

    def nudge(self, dx: float, dy: float) -> None:
        """Move the selected layers."""
        states = self.states()
        values = {}
        for id in self.building.movable(states):
            x, y, w, h = states[id].place
            self.boxes[id] = (round(x + dx, 3), round(y + dy, 3), w, h)
            values[id] = {"place": Place.of_box(self.boxes[id])}
        self._aged = 0
        self.building.put("Move", values, ("nudge", self.building.selected))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        key = Qt.Key(event.key())
        if key in steps and self.building.selected:
            by = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            by = 0.1 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else by
            self.nudge(steps[key][0] * by, steps[key][1] * by)
        else:
            super().keyPressEvent(event)

    # -- sources dragged here ------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if sources_dragged(event.mimeData()) or event.mimeData().hasFormat(FINISH):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self.over = event.position()
        event.acceptProposedAction()
        self.update()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.over = None
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        """Show what is dropped: on a selected layer in its place, on a surface over all of it, else one to one; with
        Shift as large as fits.  A finish is laid on the layer that is seen there.
        """
        self.over = None
        finish = id_dragged(event.mimeData(), FINISH)
        if finish is not None:
            layer = self.layer_at(event.position(), self.states())
            if layer is not None:
                self.finished.emit(layer, finish)
            event.acceptProposedAction()
            self.update()
            return
        fitted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        for id in sources_dragged(event.mimeData()):
            self.building.drop(id, self.point(event.position()), fitted)
        event.acceptProposedAction()
        self.update()
