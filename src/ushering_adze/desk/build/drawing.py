"""The canvas that is built on, as it is drawn: its live picture, surfaces through it, layers' boxes and handles."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.onair.placing import face_at, scale_words, size_words
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.boxes import Box, Met, alike, around, middle_of
from ushering_adze.core.plane.rect import Rect, without
from ushering_adze.desk import theme
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.drafting.raster_view import HEAD, RULER, RasterView
from ushering_adze.desk.pictures import hatch, image_of

GRIP = 9
FRAMES = {"preview": theme.GREEN, "program": theme.RED, "blind": theme.AMBER}
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
        return id in states and is_seen(states[id]) and self.box_of(states[id].place).contains(at)

    def _whole(self, states: dict[str, LayerState]) -> Box | None:
        """The box around the selected layers."""
        return around(states[id].place for id in self.building.selected if id in states)

    def handle_at(self, at: QPointF, states: dict[str, LayerState]) -> tuple[int, int] | None:
        """The handle of the selection at a place."""
        whole = self._whole(states)
        if whole is None:
            return None
        box = self.box_of(whole)
        for handle in HANDLES:
            if (self._grip(box, handle) - at).manhattanLength() <= GRIP:
                return handle
        return None

    @staticmethod
    def _grip(box: QRectF, handle: tuple[int, int]) -> QPointF:
        return QPointF(box.center().x() + handle[0] * box.width() / 2, box.center().y() + handle[1] * box.height() / 2)

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
        self._paint_surfaces(p, Rect(0, 0, canvas.width, canvas.height))
        self._paint_layers(p, states)
        self._paint_met(p, canvas.width, canvas.height)
        if self.band is not None:
            p.setPen(theme.hairline(theme.AMBER, dashed=True))
            p.setBrush(theme.colour(theme.AMBER, 24))
            p.drawRect(self.band)
        p.restore()
        self.paint_rulers(p, canvas.width, canvas.height)
        self._paint_foot(p, states)
        self._paint_frame(p)

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
            self.label(p, box, [(face.surface.name, False)])

    def _paint_layers(self, p: QPainter, states: dict[str, LayerState]) -> None:
        canvas = self.building.canvas
        assert canvas is not None
        for layer in canvas.layers:
            if layer.id in states and is_seen(states[layer.id]) and layer.id not in self.building.selected:
                p.setPen(theme.hairline(theme.LINE))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(self.box_of(states[layer.id].place))
        for id in self.building.selected:
            if id in states:
                p.setPen(theme.hairline(theme.AMBER, 1.6, dashed=not is_seen(states[id])))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(self.box_of(states[id].place))
                if states[id].turn % 360:
                    box = self.box_of(states[id].place)
                    p.save()
                    p.setRenderHint(QPainter.RenderHint.Antialiasing)
                    p.translate(box.center())
                    p.rotate(states[id].turn)
                    p.drawRect(box.translated(-box.center()))
                    p.restore()
        whole = self._whole(states)
        if whole is None:
            return
        box = self.box_of(whole)
        p.setPen(theme.hairline(theme.WELL))
        p.setBrush(theme.colour(theme.AMBER if self.cropping else theme.TEXT))
        for handle in HANDLES:
            at = self._grip(box, handle)
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
