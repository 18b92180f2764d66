"""The raster of an output: what lands on it, and the gestures that land it elsewhere."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPixmap, QPolygonF

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.bend import corners_of
from ushering_adze.core.mapping.lands import offset_told, raster_seams
from ushering_adze.core.mapping.orient import placed_on_canvas, placed_on_raster
from ushering_adze.core.mapping.regions import picked, rect_of, with_regions
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.snap import SnapLines, snap_lines, snapped
from ushering_adze.core.show import Guide, Output, RectLanding, Region
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.drafting.raster_view import RULER, RasterView, region_colour
from ushering_adze.desk.pictures import HEAD, hatch, image_of
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.session import Session


class OutputView(RasterView):
    """The raster of an output with what lands on it; a drag lands it elsewhere."""

    accepted = Signal(object)
    """A rectangle found in the guide was clicked."""
    top, foot = HEAD + RULER + 6, 92

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__(session, guides)
        self.output_id: str | None = None
        self._at: tuple[int, int] | None = None
        self._pressed: tuple[int, int] | None = None
        self._start: dict[str, Rect] = {}
        self._lines: SnapLines | None = None
        self._gesture: object = None
        self._painted: object = None
        self._kept: tuple[object, QPixmap] | None = None
        self.setAccessibleName("Output raster")
        session.selection_changed.connect(self._follow)

    def look_at(self, output: str) -> None:
        """Show an output."""
        self.output_id = output
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(330, 290)

    def _follow(self) -> None:
        found = picked(self.session.show, [self.session.region] if self.session.region else [])
        before = self.output_id
        if found:
            self.output_id = found[0][1].output
        elif self.session.output is not None:
            self.output_id = self.session.output
        if before != self.output_id:
            self.fitted = True

    def edited(self) -> None:
        """Paint anew only where the edit is about this raster: a drag on the canvas mostly is not."""
        output = self.output
        landing = self.session.show.landing_on.get(output.id, []) if output is not None else []
        now = (output, [(r.id, r.name, r.landing, r.colour) for _, r in landing])
        if now != self._painted:
            self._painted = now
            self.update()

    @property
    def output(self) -> Output | None:
        """The output of the selected region, else the one looked at last, else the first."""
        outputs = self.session.show.outputs
        return next((o for o in outputs if o.id == self.output_id), outputs[0] if outputs else None)

    @property
    def guide(self) -> Guide | None:
        """The guide under the raster."""
        return self.output.guide if self.output is not None else None

    # -- painting ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        output = self.output
        if output is None:
            self.frame(p, "Output", "this show has no output yet")
            return
        timing = output.timing
        regions = [r for _, r in self.session.show.landing_on.get(output.id, ())]
        self.place(timing.width, timing.height)
        # What the pointer does not change is painted once, and anew only when something of it changes.
        lands = [(r.id, r.name, r.landing, r.colour, r.surface) for r in regions]
        key = (
            self.size(),
            self.origin,
            self.scale,
            self.shown,
            self.session.regions,
            self.session.finding,
            output,
            lands,
            self.live() if self.shown == "live" else None,
            id(self.guides.image(output.guide)) if output.guide else 0,
        )
        if self._kept is None or self._kept[0] != key:
            picture = QPixmap(self.size() * self.devicePixelRatio())
            picture.setDevicePixelRatio(self.devicePixelRatio())
            under = QPainter(picture)
            self._paint_still(under, output, regions)
            under.end()
            self._kept = (key, picture)
        p.drawPixmap(0, 0, self._kept[1])
        if self._at is not None:
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.DIM))
            theme.right(p, QRectF(120, 0, self.width() - 190, HEAD), f"px {self._at[0]}, {self._at[1]}")
        p.setClipRect(self.clip())
        self.paint_found(p)
        self._paint_pointed(p, regions)

    def _paint_still(self, p: QPainter, output: Output, regions: list[Region]) -> None:
        timing = output.timing
        self.frame(p, "Output", f"{output.number} · {output.name}")
        p.save()
        p.setClipRect(self.clip())
        whole = self.pixels(0, 0, timing.width, timing.height)
        p.fillRect(whole, theme.colour("#000000"))
        hatch(p, whole.intersected(self.clip()), theme.LINE, 120, 12)
        self.paint_guide(p, output.guide)
        self.hits = []
        chosen = set(self.session.regions)
        for region in regions:
            landing = region.landing
            where = self.pixels(*landing_rect(region))
            self.hits.append((where, region.id))
            if self.shown == "live" and isinstance(landing, RectLanding):
                self._paint_sent(p, landing, where, region)
            else:
                p.fillRect(where, theme.colour(region_colour(self.session, region), 46))
            p.setBrush(Qt.BrushStyle.NoBrush)
            mine = region.id in chosen
            p.setPen(theme.hairline(theme.AMBER if mine else region_colour(self.session, region), 2 if mine else 1.2))
            if not isinstance(landing, RectLanding):
                p.drawPolygon(QPolygonF([self.origin + QPointF(x, y) * self.scale for x, y in corners_of(landing)]))
                self.label(p, where, [(region.name, True), ("bent", False)])
                continue
            p.drawRect(where)
            turn = (" flipped" if landing.flip else "") + (f" turned {landing.turn}°" if landing.turn else "")
            lines = [
                (region.name, True),
                (f"{landing.w}×{landing.h}+{landing.x}+{landing.y}", False),
                (turn.strip(), False),
            ]
            self.label(p, where, lines if turn else lines[:2])
        self._paint_seams(p, output)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.hairline(theme.FAINT))
        p.drawRect(whole)
        finding = self.session.finding
        if (
            finding is not None
            and finding.where.on == "output"
            and finding.where.id == output.id
            and finding.where.rect is not None
        ):
            self.paint_finding(p, self.pixels(*finding.where.rect))
        p.restore()
        self.paint_rulers(p, timing.width, timing.height)
        self._paint_facts(p, self.facts(output, regions))

    def _paint_sent(self, p: QPainter, landing: RectLanding, where: QRectF, region: Region) -> None:
        pixels = self.session.playout.raster(region.output) if self.scale >= 0.02 else None
        if pixels is None:
            p.fillRect(where, theme.colour(region_colour(self.session, region), 46))
            return
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.scale < 1)
        p.drawImage(where, image_of(pixels), QRectF(landing.x, landing.y, landing.w, landing.h))

    def _paint_seams(self, p: QPainter, output: Output) -> None:
        """Where the connectors of a gang part the raster."""
        if output.gang is None:
            return
        p.setPen(theme.hairline(theme.TEXT, 1, dashed=True))
        p.setFont(theme.font(11, mono=True))
        for part, name in zip(
            raster_seams(output.timing.width, output.timing.height, output.gang.columns, output.gang.rows),
            output.gang.connectors,
            strict=False,
        ):
            box = self.pixels(*part)
            if part.x:
                p.drawLine(box.topLeft(), box.bottomLeft())
            if part.y:
                p.drawLine(box.topLeft(), box.topRight())
            theme.right(p, QRectF(box.x(), box.bottom() - 18, box.width() - 5, 16), name)

    def _paint_pointed(self, p: QPainter, regions: list[Region]) -> None:
        pointed = self.session.pointed
        if pointed is None or self._at is not None:
            return
        for region in regions:
            here = self.session.show.homes[region.id][0].id == pointed[0] and rect_of(region).holds(
                Rect(*pointed[1:], 1, 1)
            )
            if here and isinstance(region.landing, RectLanding):
                self.paint_cross(p, *placed_on_raster(region.landing, rect_of(region), pointed[1], pointed[2]))

    def _paint_facts(self, p: QPainter, facts: list[tuple[str, str]]) -> None:
        y = self.height() - 18 * len(facts) - 8
        for name, value in facts:
            p.setFont(theme.font(12))
            p.setPen(theme.colour(theme.DIM))
            theme.left(p, QRectF(14, y, 74, 18), name)
            p.setFont(theme.font(12, mono=True))
            p.setPen(theme.colour(theme.TEXT))
            theme.left(p, QRectF(88, y, self.width() - 100, 18), value)
            y += 18

    def facts(self, output: Output, regions: list[Region]) -> list[tuple[str, str]]:
        """What is told under the raster."""
        timing = output.timing
        binding = output.binding
        bound = (
            "unbound"
            if binding is None
            else {"display": "display ", "window": "window", "files": "PNG files"}[binding.kind]
            + (getattr(binding, "name", ""))
        )
        ids = self.session.regions or [r.id for r in regions]
        mine = [r.id for r in regions if r.id in ids] or [r.id for r in regions]
        facts = [("Raster", f"{timing.width} × {timing.height} @ {timing.rate:g}, {bound}")]
        if not mine:
            return [*facts, ("Lands", "nothing yet")]
        told, free = offset_told(self.session.show, mine).split("; free ")
        left, right, above, below = free.split(", ")
        return [*facts, ("Lands", told.split(" of ")[0]), ("Free", f"{left}, {right}"), ("", f"{above}, {below}")]

    # -- gestures ------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.pan_starts(event) or event.button() != Qt.MouseButton.LeftButton or self.output is None:
            return
        hit = self.hit(event.position())
        more = one_more(event)
        now = self.session.regions
        if hit is None:
            at = Rect(*self.pixel_at(event.position()), 1, 1)
            found = next((f for rect, f in self.proposals() if rect.holds(at)), None)
            if found is not None:
                self.accepted.emit(found)
                return
            self.session.select_output(self.output.id)
            return
        if more:
            self.session.select_regions([r for r in now if r != hit] if hit in now else [*now, hit])
            return
        if hit not in now:
            self.session.select_region(hit)
        self._pressed, self._gesture = self.pixel_at(event.position()), object()
        on_it = {
            r.id: r
            for _, r in self.session.show.regions()
            if r.output == self.output.id and isinstance(r.landing, RectLanding)
        }
        self._start = {id: landing_rect(on_it[id]) for id in self.session.regions if id in on_it}
        timing = self.output.timing
        self._lines = snap_lines(
            [landing_rect(r) for r in on_it.values() if r.id not in self._start],
            Rect(0, 0, timing.width, timing.height),
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pan_moves(event):
            return
        self.hover = self.hit(event.position())
        self._at = self.pixel_at(event.position())
        self._point()
        if self._pressed is not None and self._start:
            dx, dy = self._at[0] - self._pressed[0], self._at[1] - self._pressed[1]
            box = box_around(list(self._start.values()))
            to = box.moved(dx, dy)
            if self._lines is not None and not event.modifiers() & Qt.KeyboardModifier.AltModifier and (dx or dy):
                to, _ = snapped(to, self._lines, max(1, round(7 / self.scale)))
            self._land(to.x - box.x, to.y - box.y)
        self.update()

    def _land(self, dx: int, dy: int) -> None:
        regions = {r.id: r for _, r in picked(self.session.show, self._start)}
        new = {}
        for id, start in self._start.items():
            landing = regions[id].landing.model_copy(update={"x": start.x + dx, "y": start.y + dy})
            new[id] = regions[id].model_copy(update={"landing": landing})
        name = next(iter(regions.values())).name if len(new) == 1 else f"{len(new)} regions"
        if any(landing_rect(new[id]) != landing_rect(regions[id]) for id in new):
            self.session.try_edit(f"Land {name}", lambda show: with_regions(show, new), self._gesture)

    def _point(self) -> None:
        """Say which pixel of a canvas is shown where the pointer is."""
        output, at = self.output, self._at
        if output is None or at is None:
            self.session.point_at(None)
            return
        for canvas, region in self.session.show.regions():
            if (
                region.output == output.id
                and isinstance(region.landing, RectLanding)
                and landing_rect(region).holds(Rect(*at, 1, 1))
            ):
                self.session.point_at(canvas.id, *placed_on_canvas(region.landing, rect_of(region), *at))
                return
        self.session.point_at(None)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        self._pressed, self._start, self._lines = None, {}, None
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.hover = self._at = None
        self.session.point_at(None)
        self.update()
