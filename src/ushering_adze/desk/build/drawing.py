"""The canvas that is built on, as it is drawn: its live picture, surfaces through it, layers' boxes and handles."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.kinds.shape import ShapeNow, polygon_points
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.spreading import dealt, spread_words
from ushering_adze.core.onair.placing import face_at, scale_words, size_words
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.boxes import (
    Box,
    Met,
    about,
    alike,
    around,
    box_of_rect,
    gaps,
    middle_of,
    rotated,
)
from ushering_adze.core.plane.rect import Rect, without
from ushering_adze.core.show import Canvas
from ushering_adze.desk import theme
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.drafting.raster_view import RULER, RasterView
from ushering_adze.desk.pictures import HEAD, Kept, hatch, image_of

GRIP = 9
FRAMES = {"preview": theme.GREEN, "program": theme.RED, "blind": theme.AMBER}
SAFE = (0.93, 0.90)
"""Shares of width and height that are safe for action and for titles (SMPTE ST 2046-1, from memory)."""
TURN = (0, -2)
STALK = 22
"""Widget pixels between a layer's upper side and the handle that turns it."""
HANDLES: tuple[tuple[int, int], ...] = ((-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0))


class BuildDrawing(RasterView):
    """What there is to see of a canvas that is built on, and where its layers and their handles are."""

    top = HEAD + RULER + 8

    def __init__(self, building: Building, guides: Any) -> None:
        super().__init__(building.session, guides)
        self.building = building
        self.boxes: dict[str, Box] = {}
        """Boxes as they are dragged, until the stage has them."""
        self.met: list[Met] = []
        self.tip = ""
        self.cropping = False
        self.band: QRectF | None = None
        self.over: QPointF | None = None
        """Where a source is dragged over it."""
        self._over = Kept()
        self.safe = False
        """Whether safe areas are drawn on every surface."""
        self.switch.hide()

    # -- what is there -------------------------------------------------------------------------------------------

    def live(self) -> list[object]:
        report = self.session.report
        looked = report.looked if report is not None else None
        return [None if looked is None else looked.pixels]

    def states(self) -> dict[str, LayerState]:
        """The layers as they are, with the boxes that are being dragged."""
        states = self.building.states()
        for id, box in list(self.boxes.items()):
            if id not in states or alike(states[id].place, box, 1e-3):
                del self.boxes[id]
            else:
                states[id] = states[id]._replace(place=box)
        return states

    def rects_of(self, state: LayerState) -> list[QRectF]:
        """Where a layer lies on the widget: its box, or the parts of the surfaces over which it is dealt out."""
        canvas = self.building.canvas
        if state.spread == OWN or canvas is None:
            return [self.pixels(*state.place)]
        found: list[QRectF] = []
        for one in dealt(self.building.show, canvas.id, state.spread):
            found += [self.pixels(*rect) for rect in one.seen or ()]
        return found

    def box_of(self, box: Box) -> QRectF:
        """A box of canvas pixels on the widget."""
        return self.pixels(*box)

    def point(self, at: QPointF) -> tuple[float, float]:
        """A place of the widget in canvas pixels."""
        return (at.x() - self.origin.x()) / self.scale, (at.y() - self.origin.y()) / self.scale

    def layer_at(self, at: QPointF, states: dict[str, LayerState]) -> str | None:
        """The topmost layer that is seen at a place and not locked; a selected one first."""
        canvas = self.building.canvas
        if canvas is None:
            return None
        found = [y.id for y in reversed(canvas.layers) if not y.locked and self._lies(y.id, at, states)]
        return next((id for id in found if id in self.building.selected), found[0] if found else None)

    def all_at(self, at: QPointF) -> list[str]:
        """Every layer at a place, the topmost first."""
        canvas, states = self.building.canvas, self.states()
        if canvas is None:
            return []
        return [y.id for y in reversed(canvas.layers) if self._lies(y.id, at, states)]

    def _lies(self, id: str, at: QPointF, states: dict[str, LayerState]) -> bool:
        """Whether a layer is seen at a place."""
        if id not in states or not is_seen(states[id]):
            return False
        rects = self.rects_of(states[id])
        if states[id].turn % 360 and states[id].spread == OWN:
            middle = rects[0].center()
            right, down = rotated(at.x() - middle.x(), at.y() - middle.y(), -states[id].turn)
            at = middle + QPointF(right, down)
        return any(r.contains(at) for r in rects)

    def _whole(self, states: dict[str, LayerState]) -> Box | None:
        """The box around the selected layers that lie in boxes of their own."""
        return around(states[id].place for id in self.building.selected if id in states and states[id].spread == OWN)

    def turned_one(self, states: dict[str, LayerState]) -> str | None:
        """The selected layer, if it is one alone in a box of its own: it can be turned, and its handles turn too."""
        alone = [id for id in self.building.selected if id in states and states[id].spread == OWN]
        return alone[0] if len(alone) == 1 == len(self.building.selected) else None

    def grips(self, states: dict[str, LayerState]) -> dict[tuple[int, int], QPointF]:
        """Where the handles of the selection are on the widget; the one that turns it is `TURN`."""
        whole = self._whole(states)
        if whole is None:
            return {}
        box, alone = self.box_of(whole), self.turned_one(states)
        degrees = 0.0 if alone is None else float(states[alone].turn)
        half_w, half_h = box.width() / 2, box.height() / 2
        ways = {handle: (handle[0] * half_w, handle[1] * half_h) for handle in HANDLES}
        if alone is not None and not self.cropping:
            ways[TURN] = (0.0, -half_h - STALK)
        return {
            handle: box.center() + QPointF(*rotated(right, down, degrees)) for handle, (right, down) in ways.items()
        }

    def cornered(self, states: dict[str, LayerState]) -> str | None:
        """The selected layer, if its shape is a polygon whose corners can be taken hold of."""
        alone = None if self.cropping else self.turned_one(states)
        shape = None if alone is None else states[alone].shape
        return alone if isinstance(shape, ShapeNow) and shape.form == "polygon" else None

    def corner_grips(self, states: dict[str, LayerState]) -> list[QPointF]:
        """Where the corners of that polygon are on the widget."""
        id = self.cornered(states)
        if id is None:
            return []
        state = states[id]
        box = self.box_of(state.place)
        half = QPointF(box.width() / 2, box.height() / 2)
        found = []
        for x, y in polygon_points(state.shape):
            off = rotated(x * box.width() - half.x(), y * box.height() - half.y(), float(state.turn))
            found.append(box.center() + QPointF(*off))
        return found

    def corner_at(self, at: QPointF, states: dict[str, LayerState]) -> int | None:
        """The corner of that polygon at a place."""
        near = [(n, (grip - at).manhattanLength()) for n, grip in enumerate(self.corner_grips(states))]
        near = [found for found in near if found[1] <= GRIP]
        return min(near, key=lambda found: found[1])[0] if near else None

    def share_at(self, at: QPointF, state: LayerState, place: Box) -> tuple[float, float]:
        """A place of the widget as shares of a layer's box, however that is turned."""
        box = self.box_of(place)
        right, down = rotated(at.x() - box.center().x(), at.y() - box.center().y(), -float(state.turn))
        return right / max(1e-9, box.width()) + 0.5, down / max(1e-9, box.height()) + 0.5

    def handle_at(self, at: QPointF, states: dict[str, LayerState]) -> tuple[int, int] | None:
        """The handle of the selection at a place."""
        near = [(h, (grip - at).manhattanLength()) for h, grip in self.grips(states).items()]
        near = [found for found in near if found[1] <= GRIP]
        return min(near, key=lambda found: found[1])[0] if near else None

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        canvas, building = self.building.canvas, self.building
        if canvas is None:
            self.frame(p, "No canvas", "Make one in Map")
            return
        self.place(canvas.width, canvas.height)
        self.frame(p, canvas.name, f"{canvas.width} × {canvas.height}")
        states = self.states()
        whole = self.pixels(0, 0, canvas.width, canvas.height)
        p.save()
        p.setClipRect(self.clip())
        p.fillRect(whole, theme.colour(canvas.background))
        report = self.session.report
        looked = report.looked if report is not None else None
        if looked is not None and looked.view == building.view:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(whole, image_of(looked.pixels))
        p.restore()
        p.drawImage(0, 0, self._laid_over(canvas))
        p.save()
        p.setClipRect(self.clip())
        self._paint_layers(p, states)
        self._paint_met(p, canvas.width, canvas.height)
        self._paint_gaps(p, states, canvas)
        if self.band is not None:
            p.setPen(theme.hairline(theme.AMBER, dashed=True))
            p.setBrush(theme.colour(theme.AMBER, 24))
            p.drawRect(self.band)
        p.restore()
        self._paint_foot(p, states)
        self._paint_frame(p)

    def _laid_over(self, canvas: Canvas) -> QImage:
        """What lies over the picture and does not move with it: surfaces, what none of them shows, rulers."""

        def paint(p: QPainter) -> None:
            p.setClipRect(self.clip())
            self._paint_surfaces(p, Rect(0, 0, canvas.width, canvas.height))
            p.setClipping(False)
            self.paint_rulers(p, canvas.width, canvas.height)

        over = None if self.over is None else face_at(self.building.faces(), self.point(self.over))
        show = self.session.show
        of = (
            canvas.regions,
            show.surfaces,
            canvas.width,
            canvas.height,
            self.scale,
            self.origin.toTuple(),
            over,
            self.safe,
        )
        return self._over.of(self, of, paint)

    def _paint_surfaces(self, p: QPainter, canvas: Rect) -> None:
        """Outlines of what surfaces show; what no surface shows is hatched."""
        faces, unseen = self.building.faces(), [canvas]
        for face in faces:
            unseen = without(unseen, face.rect)
        for part in unseen:
            hatch(p, self.pixels(*part), theme.FAINT, 70, 12)
        over = None if self.over is None else face_at(faces, self.point(self.over))
        for face in faces:
            box, lit = self.pixels(*face.rect), face == over
            p.setPen(theme.hairline(theme.AMBER if lit else theme.DIM, 2 if lit else 1))
            p.setBrush(theme.colour(theme.AMBER, 60) if lit else Qt.BrushStyle.NoBrush)
            p.drawRect(box)
            if self.safe:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(theme.hairline(theme.TEXT, dashed=True))
                for share in SAFE:
                    p.drawRect(self.pixels(*about(middle_of(face.rect), face.rect.w * share, face.rect.h * share)))
            self.label(p, box, [(face.surface.name, False)])

    def _paint_layers(self, p: QPainter, states: dict[str, LayerState]) -> None:
        canvas = self.building.canvas
        assert canvas is not None
        for layer in canvas.layers:
            if layer.id in states and is_seen(states[layer.id]) and layer.id not in self.building.selected:
                p.setPen(theme.hairline(theme.LINE))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRects(self.rects_of(states[layer.id]))
        for id in self.building.selected:
            if id in states:
                p.setPen(theme.hairline(theme.AMBER, 1.6, dashed=not is_seen(states[id])))
                p.setBrush(Qt.BrushStyle.NoBrush)
                if not states[id].turn % 360 or states[id].spread != OWN:
                    p.drawRects(self.rects_of(states[id]))
                else:
                    box = self.box_of(states[id].place)
                    p.save()
                    p.setRenderHint(QPainter.RenderHint.Antialiasing)
                    p.translate(box.center())
                    p.rotate(states[id].turn)
                    p.drawRect(box.translated(-box.center()))
                    p.restore()
        corner_grips = self.corner_grips(states)
        if corner_grips:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(theme.hairline(theme.AMBER))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolygon(corner_grips)
            p.setBrush(theme.colour(theme.AMBER))
            for at in corner_grips:
                p.drawPolygon([at + QPointF(*d) for d in ((0, -6), (6, 0), (0, 6), (-6, 0))])
        grips = self.grips(states)
        if TURN in grips:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(theme.hairline(theme.AMBER))
            p.drawLine(grips[0, -1], grips[TURN])
        p.setPen(theme.hairline(theme.WELL))
        p.setBrush(theme.colour(theme.AMBER if self.cropping else theme.TEXT))
        for handle, at in grips.items():
            if handle == TURN:
                p.drawEllipse(at, 5, 5)
            else:
                p.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))

    def _paint_met(self, p: QPainter, width: int, height: int) -> None:
        for met in self.met:
            p.setPen(theme.hairline(theme.GREEN))
            p.setFont(theme.font(11))
            if met.axis == "across":
                line = self.pixels(met.line.at, 0, 0, height)
                p.drawLine(line.topLeft(), line.bottomLeft())
                at = QRectF(line.x() + 4, self.clip().y() + 24, 200, 15)
            else:
                line = self.pixels(0, met.line.at, width, 0)
                p.drawLine(line.topLeft(), line.topRight())
                at = QRectF(self.clip().x() + 14, line.y() - 16, 200, 15)
            p.setPen(theme.colour(theme.GREEN))
            theme.left(p, at, met.line.words)

    def _paint_gaps(self, p: QPainter, states: dict[str, LayerState], canvas: Canvas) -> None:
        """While boxes are dragged: how far the selection is from what lies beside it."""
        whole = self._whole(states) if self.boxes else None
        if whole is None:
            return
        others = [box_of_rect(face.rect) for face in self.building.faces()]
        others += [s.place for id, s in states.items() if id not in self.building.selected and is_seen(s)]
        p.setFont(theme.font(11, mono=True))
        for gap in gaps(whole, [*others, (0, 0, canvas.width, canvas.height)]):
            words = f"{gap.length:.10g}" if gap.length == round(gap.length) else f"{gap.length:.1f}"
            if gap.axis == "across":
                line = self.pixels(gap.begin, gap.at, gap.length, 0)
            else:
                line = self.pixels(gap.at, gap.begin, 0, gap.length)
            p.setPen(theme.hairline(theme.AMBER))
            p.drawLine(line.topLeft(), line.bottomRight())
            box = QRectF(0, 0, p.fontMetrics().horizontalAdvance(words) + 8, 15)
            box.moveCenter(line.center())
            p.fillRect(box, theme.colour(theme.WELL, 220))
            p.setPen(theme.colour(theme.AMBER))
            theme.centred(p, box, words)

    def _paint_foot(self, p: QPainter, states: dict[str, LayerState]) -> None:
        foot = QRectF(14, self.height() - 28, self.width() - 28, 22)
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.right(p, foot, f"1 : {1 / self.scale:.2g}" if self.scale < 1 else f"{self.scale:.3g} : 1")
        words = self.tip or self._words(states)
        p.setPen(theme.colour(theme.TEXT if self.tip else theme.DIM))
        theme.left(p, foot.adjusted(0, 0, -70, 0), words)

    def _words(self, states: dict[str, LayerState]) -> str:
        chosen = [id for id in self.building.selected if id in states]
        if not chosen:
            return "Drag a source here from the shelf; click a layer to select it"
        if len(chosen) > 1:
            return f"{len(chosen)} layers"
        layer = self.building.layer(chosen[0])
        name = layer.name if layer is not None else ""
        return f"{name} · {self.told(states[chosen[0]])}"

    def told(self, state: LayerState) -> str:
        """A layer's place and size in words: pixels, metres where its surface has them, and its scale."""
        if state.spread != OWN:
            return spread_words(self.building.show, state.spread)
        face = face_at(self.building.faces(), middle_of(state.place))
        source = by_share(state.picture)[0].source
        width, height = (1.0, 1.0) if source is None else self.building.size_of(source)
        return f"{size_words(face, state.place)} · {scale_words(state, width, height)}"

    def _paint_frame(self, p: QPainter) -> None:
        """The frame that tells where edits go."""
        on = self.building.on
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.hairline(FRAMES[on], 3, dashed=on == "preview"))
        p.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))
