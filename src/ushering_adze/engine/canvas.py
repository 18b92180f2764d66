"""A canvas being painted: keeps its picture and repaints only where something changed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import reduce
from typing import NamedTuple

import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.kinds.colour import PLAIN
from ushering_adze.core.kinds.mixed import values_in
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.spreading import Dealt
from ushering_adze.core.picture.compose import Piece, Sheet, box_of, paint, parted, shifted
from ushering_adze.core.picture.dealing import Deal, in_its_box, in_place
from ushering_adze.core.picture.dressed import extent_of, is_plain, within_box
from ushering_adze.core.picture.frame import Frame, Requests, Sized
from ushering_adze.core.picture.layers import LayerState, sources_of_layer
from ushering_adze.core.picture.wearing import as_worn
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect, within
from ushering_adze.core.show import Canvas
from ushering_adze.engine.dressed_once import Asked, DressedOnce, Weighed, asked_of, serials_of, sheet_of
from ushering_adze.engine.pieces import MOST_OF_A_STILL, PART, Pieces, Within, as_one, is_opaque
from ushering_adze.engine.resampled import NONE
from ushering_adze.engine.tables import TABLES
from ushering_adze.engine.workers import each
from ushering_adze.io.logs import log


def _bands(rect: Rect) -> list[Rect]:
    """A large rectangle in two halves, for two workers."""
    if rect.area < 500_000:
        return [rect]
    half = rect.h // 2
    return [Rect(rect.x, rect.y, rect.w, half), Rect(rect.x, rect.y + half, rect.w, rect.h - half)]


def _tables_of(state: LayerState) -> list[str]:
    """The tables that a layer's colours go through."""
    return [] if state.colour == PLAIN else [c.table for c in values_in(state.colour) if c.table is not None]


NOWHERE = Rect(0, 0, 0, 0)


class _Undressed(NamedTuple):
    """A layer whose picture is still to be dressed: that may be done beside others."""

    once: DressedOnce
    flat: Pixels
    state: LayerState
    scale: float
    used: Mapping[str, Pixels]
    still: bool
    weight: float
    asked: Asked
    whole: bool

    def dressed(self) -> Sheet:
        """The layer, ready to be laid on its canvas."""
        laid = self.once.dresser.dressed(self.flat, self.state, self.scale, self.used, TABLES, self.still)
        made = Weighed(laid, self.weight)
        self.once.keep(self.asked, made, self.flat, self.whole)
        return sheet_of(made, self.state)


def _scaled(rect: Rect, scale: float) -> Rect:
    """A rectangle of the canvas on one that is drawn at a scale."""
    x, y = round(rect.x * scale), round(rect.y * scale)
    return Rect(x, y, round(rect.right * scale) - x, round(rect.foot * scale) - y)


def _from_nothing(pieces: tuple[Piece, ...], box: Rect) -> tuple[tuple[Piece, ...], float]:
    """One picture alone that comes from nothing, or goes to it, as if it were all there, and how much of it is: so it
    is dressed as ever, and comes with its shadow.
    """
    if len(pieces) == 1 and pieces[0].opaque and pieces[0].at == box and pieces[0].weight < 0.9999:
        return (pieces[0]._replace(weight=1.0),), pieces[0].weight
    return pieces, 1.0


class CanvasPainter:
    """Paints one canvas from layer states and frames.

    Most regions are copied one to one, and for them no canvas is painted at all: `paint_onto` lays the layers straight
    onto an output's raster, which saves a copy of every pixel.  Only parts that are resampled on their way are painted
    as a canvas first.

    Parameters
    ----------
    canvas : Canvas
    scale : float
        1 for the real picture; less for a small one, painted from quickly shrunk sources.
    seen : tuple of Rect, optional
        The parts of the canvas that anything shows; by default all of it.
    painted : tuple of Rect, optional
        The parts that are painted as a canvas; by default all of it.
    clear : bool, optional
        Without its background, with alpha.
    """

    def __init__(
        self,
        canvas: Canvas,
        scale: float = 1.0,
        seen: tuple[Rect, ...] | None = None,
        painted: tuple[Rect, ...] | None = None,
        clear: bool = False,
    ) -> None:
        self.canvas = canvas
        self._alpha = 0 if clear else 255
        self.seen, self.painted = seen, painted
        self.scale = scale
        width, height = max(1, round(canvas.width * scale)), max(1, round(canvas.height * scale))
        self.bounds = Rect(0, 0, width, height)
        window = self.bounds if seen is None else reduce(Rect.join, seen, NOWHERE).meet(self.bounds)
        self._pieces = Pieces(scale, self.bounds, window)
        self.pixels: Pixels = np.zeros((height, width, 4), np.uint8)
        red, green, blue = rgb_of(canvas.background)
        self._background = (0, 0, 0) if clear else (blue, green, red)
        self._stamps: dict[str, object] = {}
        self._extent: dict[str, Rect] = {}
        self._sheets: dict[str, Sheet] = {}
        self._whole = painted is None
        self._once: dict[str, DressedOnce] = {}
        self._fresh = True
        self.faults: dict[str, str] = {}
        """Why a layer could not be drawn, by its id."""
        self.fault: str | None = None
        """Why the canvas could not be painted."""
        self.shown: Mapping[str, LayerState] = {}
        """What was painted last, by layer; another mapping whenever that is something else."""
        self.frames: Mapping[str, Frame] = {}
        """The frames it was painted from, by source."""
        self._deal: Deal = in_its_box

    @property
    def unpainted(self) -> bool:
        """Whether nothing of the show has been painted on it yet."""
        return self._fresh

    def foreseen(self, state: LayerState, frames: Mapping[str, Frame]) -> Iterator[tuple[str, Sized]]:
        """What `draw` would have to resample of each source to show a layer so."""
        state = as_worn(state, frames)
        for one in self._deal(state.spread) if state.opacity > 0 else ():
            if one.pixel is None:
                yield from self._pieces.foreseen(in_place(state, one), frames)

    def fill(self) -> None:
        """Take the memory now that the first picture to be resampled will want, as large as the largest part that
        anything shows.
        """
        largest = max((part.area for part in (self.seen if self.seen is not None else (self.bounds,))), default=0)
        self._pieces.resampled.keep_spare(np.full(largest * 4, 255, np.uint8))

    def draw(
        self,
        states: Sequence[tuple[str, LayerState]],
        frames: Mapping[str, Frame],
        requests: Requests = NONE,
        deal: Deal = in_its_box,
    ) -> tuple[Rect, ...]:
        """Bring the picture up to date.

        Parameters
        ----------
        states : sequence of (layer id, state)
            Bottom first.
        frames : mapping
            Frame of each source id; a source without one shows nothing.
        requests : Requests, optional
            Where frames of sizes that are needed can be asked for.
        deal : callable, optional
            How layers are dealt out over the surfaces of zones.

        Returns
        -------
        tuple of Rect
            Where the picture changed.
        """
        self._pieces.resampled.requests, self._deal = requests, deal
        given, states = dict(states), [(layer, as_worn(state, frames)) for layer, state in states]
        dirty = [self.bounds] if self._fresh else []
        sheets: dict[str, Sheet | _Undressed] = {}
        stamps: dict[str, object] = {}
        extent: dict[str, Rect] = {}
        for layer, state in states:
            if state.opacity <= 0:
                stamps[layer], extent[layer] = None, Rect(0, 0, 0, 0)
                for name in [n for n in self._once if n.split(PART)[0] == layer]:
                    self._once[name].forget()
            else:
                tables = (path in TABLES for path in _tables_of(state))
                stamps[layer] = (state, deal(state.spread), serials_of(state, frames), *tables)
                extent[layer] = self._extent_of(state).meet(self.bounds)
            if stamps[layer] == self._stamps.get(layer, self):
                if layer in self._sheets:
                    sheets[layer] = self._sheets[layer]
            else:
                self.faults.pop(layer, None)
                if stamps[layer] is not None:
                    try:
                        sheets[layer] = self._sheet(layer, state, frames)
                    except Exception as error:  # a layer that cannot be drawn costs itself, not the canvas
                        self._not_drawn(layer, error)
                dirty += [extent[layer], self._extent.get(layer, extent[layer])]
        ready = self._all_dressed(sheets)
        if list(stamps) != list(self._stamps):
            dirty.append(self.bounds)
        if stamps != self._stamps or self._fresh:
            self.shown = {layer: s for layer, s in given.items() if layer in ready or s.opacity <= 0}
            painted = [state for layer, state in (*self.shown.items(), *states) if layer in ready]
            self.frames = {s: frames[s] for state in painted for s in sources_of_layer(state) if s in frames}
        changed = within(tuple(dirty), (self.bounds,) if self.seen is None else self.seen)
        self._stamps, self._extent, self._sheets, self._fresh = stamps, extent, ready, False
        self._whole = self.painted is None
        self._pieces.let_go(states)
        if changed:
            self._pieces.resampled.forget([piece.pixels for sheet in ready.values() for piece in sheet.pieces])
            bands = [
                band
                for rect in within(changed, (self.bounds,) if self.painted is None else self.painted)
                for band in _bands(rect)
            ]
            each(lambda band: paint(self.pixels, band, self._background, list(ready.values()), self._alpha), bands)
        return changed

    def _all_dressed(self, sheets: Mapping[str, Sheet | _Undressed]) -> dict[str, Sheet]:
        """Every layer ready to be laid, in its order; those that are to be dressed beside one another."""
        waiting = [(layer, sheet) for layer, sheet in sheets.items() if isinstance(sheet, _Undressed)]
        done: dict[str, Sheet] = {}

        def dress(item: tuple[str, _Undressed]) -> None:
            try:
                done[item[0]] = item[1].dressed()
            except Exception as error:
                self._not_drawn(item[0], error)

        each(dress, waiting)
        return {
            layer: done[layer] if isinstance(sheet, _Undressed) else sheet
            for layer, sheet in sheets.items()
            if not isinstance(sheet, _Undressed) or layer in done
        }

    def _not_drawn(self, layer: str, error: Exception) -> None:
        log.exception("layer not drawn", canvas=self.canvas.id, layer=layer)
        self.faults[layer] = f"it cannot be drawn ({type(error).__name__}); change its place or its source"

    def _extent_of(self, state: LayerState) -> Rect:
        """The rectangle of the canvas that a layer can touch, wherever it is dealt out."""
        whole = NOWHERE
        for one in self._deal(state.spread):
            around = extent_of(in_place(state, one), self.scale)
            whole = whole.join(around if one.around is None else around.meet(_scaled(one.around, self.scale)))
        return whole

    def _dealt(self, layer: str, state: LayerState, frames: Mapping[str, Frame]) -> Sheet:
        """A layer that is dealt out over the surfaces of a zone: on each no more than what it is to show."""
        pieces = [
            piece
            for n, one in enumerate(self._deal(state.spread))
            for piece in self._dealt_one(f"{layer}{PART}{n}", in_place(state, one), one, frames)
        ]
        box = reduce(Rect.join, (p.at for p in pieces), NOWHERE)
        return Sheet(tuple(pieces), box, box, (0, 0, 0), state.opacity, state.blend)

    def _dealt_one(self, name: str, here: LayerState, one: Dealt, frames: Mapping[str, Frame]) -> tuple[Piece, ...]:
        """One of the pictures that a layer is dealt out as, where it is seen."""
        if one.seen is None or one.around is None:  # in its own box, on the way from there or back
            rects = [extent_of(here, self.scale)]
        else:
            rects = [_scaled(rect, self.scale) for rect in one.seen]
        exactly = None
        if one.pixel is not None and one.around is not None:
            exactly = Within(_scaled(one.around, self.scale), one.pixel)
        sheet = self._sheet(name, here, frames, exactly, framed=here.border[0] > 0)
        return parted(sheet.dressed().pieces, rects, one.share)

    def _sheet(
        self,
        layer: str,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: Within | None = None,
        framed: bool = False,
    ) -> Sheet | _Undressed:
        if state.spread != OWN:
            return self._dealt(layer, state, frames)
        box, inner = box_of(state, self.scale)
        if (
            not box.empty
            and (framed or not (is_plain(state) and state.blend == "normal"))
            and box.area <= MOST_OF_A_STILL * self.bounds.area
        ):
            return self._undressed(layer, state, frames, box, exactly)
        self._once.pop(layer, None)
        _, red, green, blue, _ = state.border
        return Sheet(
            self._pieces.of(layer, state.picture, state, frames, exactly),
            box,
            inner,
            (round(blue), round(green), round(red)),
            state.opacity,
        )

    def _undressed(
        self, layer: str, state: LayerState, frames: Mapping[str, Frame], box: Rect, exactly: Within | None
    ) -> Sheet | _Undressed:
        """All that is needed to make one picture of a layer that is keyed, coloured, shaped, framed or turned."""
        for path in _tables_of(state):
            why = TABLES.fault(path)
            if why is not None:
                self.faults[layer.split(PART)[0]] = why
        once = self._once.setdefault(layer, DressedOnce())
        tables = tuple(path in TABLES for path in _tables_of(state))
        asked = asked_of(state, box, frames, (*tables, exactly, state.place if exactly else None))
        made = once.again(asked)
        if made is not None:
            return sheet_of(made, state)
        bare = state._replace(border=(within_box(state, self.scale), *state.border[1:]))
        pieces = self._pieces.of(layer, state.picture, bare, frames, exactly)
        pieces, weight = _from_nothing(pieces, box) if state.border[0] <= 0 else (pieces, 1.0)
        flat = as_one(pieces, box)
        used = {id: frames[id].pixels for id in sources_of_layer(state) if id in frames}
        still = is_opaque(pieces, box_of(bare, self.scale)[1])
        whole = len(pieces) == 1 and pieces[0].at == box and pieces[0].opaque and state.border[0] <= 0
        return _Undressed(once, flat, state, self.scale, used, still, weight, asked, whole)

    def paint_onto(self, raster: Pixels, take: Rect, put: Rect) -> None:
        """Put what the canvas shows within ``take`` at ``put``, of the same size, on a raster."""
        if self._whole:
            np.copyto(raster[put.cut()], self.pixels[take.cut()])
            return
        dx, dy = put.x - take.x, put.y - take.y
        paint(
            raster,
            put,
            self._background,
            [shifted(s, dx, dy) for s in self._sheets.values() if not s.box.meet(take).empty],
        )

    def show_pattern(self, pixels: Pixels) -> tuple[Rect, ...]:
        """Put a whole picture on the canvas in place of its layers; `draw` paints all afresh afterwards."""
        np.copyto(self.pixels, pixels)
        self._fresh = self._whole = True
        return (self.bounds,)
