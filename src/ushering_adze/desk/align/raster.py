"""The raster of an output with the handles of its landing: points are picked, dragged and nudged here, and masks are
drawn.
"""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPolygonF

from ushering_adze.core.mapping.bend import checked_bend, corners_of, in_line, moved_points, points_of, raster_points
from ushering_adze.core.mapping.wall_batches import cell_rects, wall_on_raster
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, Mask, MeshLanding, Output, Region, Show
from ushering_adze.core.show.edits import with_output, with_region
from ushering_adze.desk import theme
from ushering_adze.desk.align.overlays import paint_cabinets, paint_masks
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.drafting.raster_view import RasterView
from ushering_adze.desk.pictures import HEAD, Kept, image_of, shrunk
from ushering_adze.desk.qt import one_more
from ushering_adze.desk.session import Session

GRIP = 9
"""Widget pixels within which a point is grabbed."""


class AlignRaster(RasterView):
    """An output's raster as it is sent, and the points of its landing.

    Signals
    -------
    picked : other points are selected
    """

    picked = Signal()
    top, foot = HEAD + 8, 30

    def __init__(self, session: Session, guides: Guides) -> None:
        super().__init__(session, guides)
        self.switch.hide()
        self.region_id: str | None = None
        self.chosen: frozenset[int] = frozenset()
        self.falloff = 0.0
        self.drawn_mask: list[tuple[float, float]] | None = None
        self.mask_chosen = -1
        self.cells: frozenset[tuple[int, int]] = frozenset()
        """Cabinets of an LED wall that are selected."""
        self._grabbed: tuple[QPointF, Region] | None = None
        self._masked: tuple[int, int] | None = None
        self._band: tuple[QPointF, QPointF] | None = None
        self._gesture: object = None
        self.at: QPointF | None = None
        self.setAccessibleName("Output raster with the points of its landing")
        self._small: tuple[object, QImage] | None = None
        self._over = Kept()
        self.picked.connect(self.update)

    def set_falloff(self, pixels: float) -> None:
        """How far beside a point its neighbours go with it."""
        self.falloff = pixels
        self.update()

    def choose_mask(self, n: int) -> None:
        """Choose one of the masks; -1 for none."""
        self.mask_chosen = n
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(620, 400)

    @property
    def region(self) -> Region | None:
        """The region whose landing is shaped."""
        home = self.session.show.homes.get(self.region_id or "")
        return home[1] if home is not None else None

    @property
    def output(self) -> Output | None:
        """The output it lands on."""
        return self.session.show.output(self.region.output) if self.region is not None else None

    @property
    def wall(self) -> LedWall | None:
        """The LED wall it feeds."""
        region = self.region
        surface = (
            self.session.show.surface(region.surface) if region is not None and region.surface is not None else None
        )
        return surface if isinstance(surface, LedWall) else None

    @property
    def cabinets(self) -> dict[tuple[int, int], Rect]:
        """Where the wall's cabinets lie on the raster."""
        place = wall_on_raster(self.session.show, self.region) if self.region is not None else None
        return cell_rects(self.wall, place) if self.wall is not None and place is not None else {}

    def show_region(self, id: str | None) -> None:
        """Bring another region's raster to view."""
        if id != self.region_id:
            self.region_id, self.chosen, self.fitted = id, frozenset(), True
            self.cells, self.mask_chosen = frozenset(), -1
            self.picked.emit()
        self.update()

    # -- painting ------------------------------------------------------------------------------------------------

    def _spot(self, x: float, y: float) -> QPointF:
        return self.origin + QPointF(x, y) * self.scale

    def _raster_at(self, at: QPointF) -> tuple[float, float]:
        p = (at - self.origin) / self.scale
        return p.x(), p.y()

    def _room(self) -> QRectF:
        # room around the raster: points may lie outside it
        return QRectF(40, self.top + 16, self.width() - 80, self.height() - self.top - self.foot - 32)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        region, output = self.region, self.output
        if region is None or output is None:
            self.frame(p, "Output", "nothing feeds this surface yet: make its regions in Map")
            return
        timing = output.timing
        self.place(timing.width, timing.height)
        kind = {"rect": "rectangle", "quad": "four corners"}.get(region.landing.kind, "")
        if isinstance(region.landing, MeshLanding):
            kind = f"mesh of {region.landing.columns} × {region.landing.rows} points, {region.landing.spans}"
        self.frame(p, "Output", f"{output.number} {output.name} · {kind}")
        p.save()
        p.setClipRect(self.clip())
        whole = self.pixels(0, 0, timing.width, timing.height)
        sent = self.session.playout.raster(output.id)
        if sent is not None and sent.shape[:2] == (timing.height, timing.width):
            self._paint_sent(p, whole, sent)
        else:
            p.fillRect(whole, theme.colour("#000000"))
        p.setPen(theme.hairline(theme.FAINT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(whole)
        p.drawImage(0, 0, self._laid_over(region, output))
        p.restore()
        self._paint_foot(p, region)

    def _laid_over(self, region: Region, output: Output) -> QImage:
        """What lies over the picture: a moving picture does not have it drawn anew."""
        drawn = (tuple(self.drawn_mask or ()), self.mask_chosen, self.at if self.drawn_mask else None, self._band)
        key = (
            self.session.show,
            region.id,
            self.chosen,
            self.falloff,
            self.cells,
            self.scale,
            self.origin.toTuple(),
            drawn,
        )
        return self._over.of(self, key, lambda p: self._paint_over(p, region, output))

    def _paint_over(self, p: QPainter, region: Region, output: Output) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_masks(p, output, self._spot, self.mask_chosen)
        self._paint_new_mask(p)
        if self.wall is not None:
            paint_cabinets(p, self.wall, self.cabinets, lambda r: self.pixels(*r), self.cells)
        self._paint_mesh(p, region)
        if self._band is not None:
            p.setPen(theme.hairline(theme.AMBER, 1, dashed=True))
            p.setBrush(theme.colour(theme.AMBER, 26))
            p.drawRect(QRectF(*self._band).normalized())

    def _paint_sent(self, p: QPainter, whole: QRectF, sent: np.ndarray) -> None:
        """The picture as it is sent; made smaller by area, so that thin lines stay."""
        w, h = round(whole.width()), round(whole.height())
        if self.scale < 0.7 and w > 0 and h > 0:
            key = (w, h, self.region_id, *self.live())
            if self._small is None or self._small[0] != key:
                self._small = (key, shrunk(sent, w, h))
            p.drawImage(whole, self._small[1])
            return
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.scale < 1)
        p.drawImage(whole, image_of(sent))

    def _paint_mesh(self, p: QPainter, region: Region) -> None:
        landing = region.landing
        columns, rows = (landing.columns, landing.rows) if isinstance(landing, MeshLanding) else (2, 2)
        p.setBrush(Qt.BrushStyle.NoBrush)
        steps = 24 if isinstance(landing, MeshLanding) and landing.spans == "smooth" else 1
        try:
            for k in range(columns):
                line = np.stack(
                    [np.full(steps * (rows - 1) + 1, k / (columns - 1)), np.linspace(0, 1, steps * (rows - 1) + 1)], -1
                )
                self._paint_line(p, region, line, k in (0, columns - 1))
            for k in range(rows):
                line = np.stack(
                    [np.linspace(0, 1, steps * (columns - 1) + 1), np.full(steps * (columns - 1) + 1, k / (rows - 1))],
                    -1,
                )
                self._paint_line(p, region, line, k in (0, rows - 1))
        except ValueError:
            pass  # corners on one line: the points alone are shown
        points = points_of(landing)
        for n, (x, y) in enumerate(points):
            at, mine = self._spot(x, y), n in self.chosen
            half = 5.0 if mine else 3.5 if len(points) <= 100 else 2.0
            box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
            p.setPen(theme.hairline(theme.GROUND, 1))
            p.setBrush(theme.colour(theme.AMBER if mine else theme.TEXT))
            p.drawRect(box) if n in self._corner_numbers(landing) else p.drawEllipse(box)
        if self.falloff > 0 and self.chosen:
            p.setPen(theme.hairline(theme.AMBER, 1, dashed=True))
            p.setBrush(Qt.BrushStyle.NoBrush)
            for n in self.chosen:
                p.drawEllipse(self._spot(*points[n]), self.falloff * self.scale, self.falloff * self.scale)

    @staticmethod
    def _corner_numbers(landing: object) -> set[int]:
        if isinstance(landing, MeshLanding):
            last = landing.columns * landing.rows - 1
            return {0, landing.columns - 1, last, last - landing.columns + 1}
        return {0, 1, 2, 3}

    def _paint_line(self, p: QPainter, region: Region, share: np.ndarray, edge: bool) -> None:
        at = raster_points(region, share * (region.w, region.h) + (region.x, region.y))
        p.setPen(theme.hairline(theme.GROUND, 3 if edge else 2.6))
        line = QPolygonF([self._spot(x, y) for x, y in at.clip(-1e5, 1e5)])
        p.drawPolyline(line)
        p.setPen(theme.hairline(theme.AMBER if edge else theme.TEAL, 1.4))
        p.drawPolyline(line)

    def _paint_new_mask(self, p: QPainter) -> None:
        if self.drawn_mask:
            p.setPen(theme.hairline(theme.AMBER, 1.4, dashed=True))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(
                QPolygonF([self._spot(*c) for c in self.drawn_mask] + ([self.at] if self.at is not None else []))
            )

    def _paint_foot(self, p: QPainter, region: Region) -> None:
        p.setFont(theme.font(12, mono=True))
        p.setPen(theme.colour(theme.DIM))
        foot = QRectF(12, self.height() - 26, self.width() - 24, 22)
        points = points_of(region.landing)
        if self.drawn_mask is not None:
            words = "click corners of the mask, Enter or double-click closes it, Esc leaves"
        elif len(self.chosen) == 1:
            x, y = points[next(iter(self.chosen))]
            words = f"point {next(iter(self.chosen)) + 1} at {x:.1f}, {y:.1f}   arrows 1 px, Shift 10, Ctrl 0.1"
        elif self.chosen:
            words = f"{len(self.chosen)} of {len(points)} points   arrows 1 px, Shift 10, Ctrl 0.1"
        elif self.cells:
            words = f"{len(self.cells)} cabinet{'s' if len(self.cells) > 1 else ''} selected   G makes a batch of them"
        elif self.wall is not None:
            words = f"{len(self.cabinets)} cabinets: click one, or draw a frame around several"
        else:
            words = f"{len(points)} points: drag one, or a frame around several"
        theme.left(p, foot, words)
        scale = f"1 : {1 / self.scale:.1f}" if self.scale < 1 else f"{self.scale:.1f} : 1"
        theme.right(p, foot, scale)

    # -- gestures ------------------------------------------------------------------------------------------------

    def point_at(self, at: QPointF) -> int | None:
        """The point of the landing nearest to a place of the widget, if it is near."""
        region = self.region
        if region is None:
            return None
        points = points_of(region.landing)
        far = [(self._spot(x, y) - at).manhattanLength() for x, y in points]
        n = int(np.argmin(far))
        return n if far[n] <= 2 * GRIP else None

    def _mask_point_at(self, at: QPointF) -> tuple[int, int] | None:
        output = self.output
        for m, mask in enumerate(output.masks if output is not None else ()):
            for k, c in enumerate(mask.points):
                if (self._spot(*c) - at).manhattanLength() <= GRIP:
                    return m, k
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.window().setFocus()
        if self.pan_starts(event) or event.button() != Qt.MouseButton.LeftButton or self.region is None:
            return
        at = event.position()
        if self.drawn_mask is not None:
            self.drawn_mask.append(self._raster_at(at))
            self.update()
            return
        more = one_more(event)
        n = self.point_at(at)
        self._gesture = object()
        if n is None:
            self._masked = self._mask_point_at(at)
            if self._masked is None:
                self._band = (at, at)
            else:
                self.mask_chosen = self._masked[0]
                self.picked.emit()
            return
        if more:
            self.choose(self.chosen ^ {n})
            return
        if n not in self.chosen:
            self.choose({n})
        self._grabbed = (at, self.region)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pan_moves(event):
            return
        self.at = event.position()
        if self._grabbed is not None:
            start, region = self._grabbed
            d = (event.position() - start) / self.scale
            fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 1.0
            self._bend(moved_points(region, self.chosen, d.x() * fine, d.y() * fine, self.falloff), "Drag")
        elif self._masked is not None and self.output is not None:
            m, k = self._masked
            self._drag_mask(self.output, m, k, self._raster_at(event.position()))
        elif self._band is not None:
            self._band = (self._band[0], event.position())
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._band is not None and self.region is not None:
            box = QRectF(*self._band).normalized()
            inside = {n for n, (x, y) in enumerate(points_of(self.region.landing)) if box.contains(self._spot(x, y))}
            more = one_more(event)
            self.choose(self.chosen | inside if more else inside)
            self._choose_within(box, more)
        self._grabbed = self._band = self._masked = None
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.drawn_mask is not None:
            self.close_mask()

    def leaveEvent(self, event: object) -> None:
        self.at = None
        self.update()

    def _choose_within(self, box: QRectF, more: bool) -> None:
        """Select the cabinets within a frame, or the one that was clicked."""
        click = max(box.width(), box.height()) < 4
        at = {c: self.pixels(*r) for c, r in self.cabinets.items()}
        found = frozenset(c for c, r in at.items() if (r.contains(box.center()) if click else box.contains(r.center())))
        self.choose_cells((self.cells ^ found if click else self.cells | found) if more else found)

    def choose_cells(self, cells: frozenset[tuple[int, int]]) -> None:
        """Select cabinets."""
        if cells != self.cells:
            self.cells = cells
            self.picked.emit()
            self.update()

    def choose(self, points: set[int] | frozenset[int]) -> None:
        """Select points."""
        self.chosen = frozenset(points)
        self.picked.emit()
        self.update()

    def grow(self, rows: bool) -> None:
        """Select the whole rows, or columns, of the points that are selected."""
        region = self.region
        if region is None or not self.chosen:
            self.session.trouble.emit("Select a point first; its row or column is selected then.")
            return
        self.choose(in_line(region.landing, self.chosen, rows))

    def choose_all(self) -> None:
        """Select every point."""
        if self.region is not None:
            self.choose(set(range(len(points_of(self.region.landing)))))

    def nudge(self, dx: float, dy: float) -> None:
        """Move the selected points by raster pixels; with none selected, the whole landing."""
        region = self.region
        if region is not None:
            chosen = self.chosen or frozenset(range(len(points_of(region.landing))))
            self._gesture = None
            self._bend(moved_points(region, chosen, dx, dy, self.falloff if self.chosen else 0.0), "Nudge")

    def _bend(self, region: Region, verb: str) -> None:
        what = f"{verb} {'a point' if len(self.chosen) == 1 else 'points'} of {region.name}"

        def make(show: Show) -> Show:
            return with_region(show, checked_bend(region, show.output(region.output)))

        self.session.try_edit(what, make, self._gesture)

    # -- masks ---------------------------------------------------------------------------------------------------

    def begin_mask(self) -> None:
        """Draw a mask: each click is a corner."""
        self.drawn_mask = []
        self.update()

    def close_mask(self) -> None:
        """Make a mask of the corners clicked."""
        corners, self.drawn_mask = self.drawn_mask or [], None
        output = self.output
        kept = [c for k, c in enumerate(corners) if k == 0 or c != corners[k - 1]]
        if output is None or len(kept) < 3:
            self.session.trouble.emit("A mask needs three corners or more; click them on the raster, then press Enter.")
        else:
            made = Mask(
                name=f"Mask {len(output.masks) + 1}",
                points=tuple((round(x, 1), round(y, 1)) for x, y in kept),
                soft=24.0,
            )
            self.session.try_edit(
                f"Mask on {output.name}",
                lambda s: with_output(s, output.model_copy(update={"masks": (*output.masks, made)})),
            )
        self.update()

    def _drag_mask(self, output: Output, m: int, k: int, at: tuple[float, float]) -> None:
        points = list(output.masks[m].points)
        points[k] = (round(at[0], 1), round(at[1], 1))
        masks = list(output.masks)
        masks[m] = masks[m].model_copy(update={"points": tuple(points)})
        new = output.model_copy(update={"masks": tuple(masks)})
        self.session.try_edit(f"Shape {masks[m].name}", lambda s: with_output(s, new), self._gesture)

    def escape(self) -> bool:
        """Leave the mask being drawn, or let go of the points; says whether there was anything."""
        if self.drawn_mask is not None:
            self.drawn_mask = None
        elif self.chosen or self.cells:
            self.choose(set())
            self.choose_cells(frozenset())
        else:
            return False
        self.update()
        return True

    def corner_spots(self) -> list[QPointF]:
        """Where the four corners are drawn."""
        return [self._spot(*c) for c in corners_of(self.region.landing)] if self.region is not None else []
