"""A canvas being painted: keeps its picture and repaints only where something changed."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import reduce
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.kinds.colour import PLAIN
from ushering_adze.core.kinds.mixed import values_in
from ushering_adze.core.kinds.on_its_way import Picture, Shown, Still, Turning, leaves
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.picture.compose import (
    Piece,
    Sheet,
    box_of,
    fit_into,
    laid_flat,
    paint,
    parted,
    placed_exactly,
    shifted,
)
from ushering_adze.core.picture.dealing import Deal, in_its_box, in_place
from ushering_adze.core.picture.dressed import Dresser, extent_of, is_plain, within_box
from ushering_adze.core.picture.frame import Frame, NoRequests, Requests, Sized
from ushering_adze.core.picture.layers import LayerState, sources_of_layer
from ushering_adze.core.picture.mixing import mix_of, noticeable
from ushering_adze.core.picture.resampling import Cut, resample, resample_into, resample_part
from ushering_adze.core.picture.transitions import TRANSITIONS
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect, within
from ushering_adze.core.show import Canvas
from ushering_adze.engine.tables import TABLES
from ushering_adze.engine.workers import each
from ushering_adze.io.logs import log


def quick_shrink(pixels: Pixels, cut: Cut) -> Pixels:
    """Like `resample`, but for small pictures on the desk: far shrinking first skips pixels, then averages."""
    if cut.take.w > 4 * cut.put.w and cut.take.h > 4 * cut.put.h:
        taken = pixels[cut.take.cut()]
        half = cv2.resize(taken, (cut.put.w * 2, cut.put.h * 2), interpolation=cv2.INTER_NEAREST)
        return np.asarray(cv2.resize(half, (cut.put.w, cut.put.h), interpolation=cv2.INTER_AREA), np.uint8)
    return resample(pixels, cut)


class _Taken(NamedTuple):
    """A still, and the memory that it lies in."""

    pixels: Pixels
    memory: Pixels


class _Kept(NamedTuple):
    serial: int
    pixels: Pixels
    flat: Pixels | None
    draw: int


_Slot = tuple[str, Rect, int, int, Rect | None]
"""A source, what is taken of it, the size at which, and which part of that is made if it is not all."""
WHOLE = 1.25
"""How many times larger than what is seen of a canvas a picture may be to be resampled whole."""
NONE = NoRequests()
MOST_OF_A_STILL = 4
"""How many times a canvas a still may be: a layer larger than that has none of it seen that would be missed."""
PART = "\n"
"""Between a layer's id and the number of one of the pictures that it is dealt out as."""
NOWHERE = Rect(0, 0, 0, 0)
_FORGET = 2
_SPARES = 6


def _bands(rect: Rect) -> list[Rect]:
    """A large rectangle in two halves, for two workers."""
    if rect.area < 500_000:
        return [rect]
    half = rect.h // 2
    return [Rect(rect.x, rect.y, rect.w, half), Rect(rect.x, rect.y + half, rect.w, rect.h - half)]


def _moments(picture: Picture) -> Iterator[float]:
    """When the stills of a picture were taken."""
    match picture:
        case Still(of=of, taken=taken):
            yield taken
            yield from _moments(of)
        case Turning(before=before, after=after):
            yield from _moments(before)
            yield from _moments(after)


def _covered_by(pieces: Sequence[Piece], box: Rect) -> bool:
    """Whether pieces that are opaque fill a box."""
    return sum(p.weight for p in pieces if p.at.holds(box)) > 0.9999


def _opaque(pieces: Sequence[Piece], box: Rect) -> bool:
    """Whether pieces fill a box with a picture that cannot be seen through."""
    return all(p.opaque for p in pieces) and _covered_by(pieces, box)


def _flat(pieces: Sequence[Piece], box: Rect) -> Pixels:
    """A layer's pieces as one picture of its box, not to be written to: the very pixels of one that is alone there."""
    alone = pieces[0] if len(pieces) == 1 else None
    if alone is not None and alone.at == box and alone.weight > 0.9999:
        return alone.pixels
    return laid_flat(pieces, box)


def _tables_of(state: LayerState) -> list[str]:
    """The tables that a layer's colours go through."""
    return [] if state.colour == PLAIN else [c.table for c in values_in(state.colour) if c.table is not None]


class _Within(NamedTuple):
    """Of a picture that is laid by millimetres: where it is seen, and how large one of its pixels is."""

    seen: Rect
    pixel: tuple[float, float]


def _scaled(rect: Rect, scale: float) -> Rect:
    """A rectangle of the canvas on one that is drawn at a scale."""
    x, y = round(rect.x * scale), round(rect.y * scale)
    return Rect(x, y, round(rect.right * scale) - x, round(rect.foot * scale) - y)


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
        self._small = scale < 1
        width, height = max(1, round(canvas.width * scale)), max(1, round(canvas.height * scale))
        self.bounds = Rect(0, 0, width, height)
        self._window = self.bounds if seen is None else reduce(Rect.join, seen, Rect(0, 0, 0, 0)).meet(self.bounds)
        self.pixels: Pixels = np.zeros((height, width, 4), np.uint8)
        red, green, blue = rgb_of(canvas.background)
        self._background = (0, 0, 0) if clear else (blue, green, red)
        self._stamps: dict[str, object] = {}
        self._extent: dict[str, Rect] = {}
        self._kept: dict[_Slot, _Kept] = {}
        self._stills: dict[tuple[str, float], _Taken] = {}
        self._draws = 0
        self._sheets: dict[str, Sheet] = {}
        self._whole = painted is None
        self._spare: list[Pixels] = []
        self._dressers: dict[str, Dresser] = {}
        self._fresh = True
        self.faults: dict[str, str] = {}
        """Why a layer could not be drawn, by its id."""
        self.fault: str | None = None
        """Why the canvas could not be painted."""
        self.shown: Mapping[str, LayerState] = {}
        """What was painted last, by layer; another mapping whenever that is something else."""
        self.frames: Mapping[str, Frame] = {}
        """The frames it was painted from, by source."""
        self._requests: Requests = NONE
        self._deal: Deal = in_its_box

    @property
    def unpainted(self) -> bool:
        """Whether nothing of the show has been painted on it yet."""
        return self._fresh

    def _cut(self, shown: Shown, state: LayerState, frames: Mapping[str, Frame]) -> tuple[str, Frame, Cut] | None:
        """A source that has a frame and a place, that frame, and how it fills the layer's box."""
        if shown.source is None or shown.source not in frames:
            return None
        frame = frames[shown.source]
        height, width = frame.pixels.shape[:2]
        cut = fit_into(width, height, state.crop, shown.fit, box_of(state, self.scale)[1], self.scale)
        return None if cut.put.empty else (shown.source, frame, cut)

    def _pieces(
        self,
        layer: str,
        picture: Picture,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: _Within | None = None,
    ) -> tuple[Piece, ...]:
        pieces = []
        for part, weight in noticeable(mix_of(picture)):
            match part:
                case Shown():
                    made = self._piece if exactly is None else self._exact_piece(exactly)
                    piece = made(part, weight, state, frames)
                case Still():
                    piece = self._still(layer, part, weight, state, frames, exactly)
                case Turning():
                    piece = self._turning(layer, part, weight, state, frames, exactly)
            if piece is not None:
                pieces.append(piece)
        return tuple(pieces)

    def _piece(self, shown: Shown, weight: float, state: LayerState, frames: Mapping[str, Frame]) -> Piece | None:
        found = self._cut(shown, state, frames)
        if found is None:
            return None
        source, frame, cut = found
        part = self._worth_making(cut)
        if part == cut.put:
            return Piece(self._resampled(source, frame, cut), cut.put, weight, frame.opaque)
        return None if part.empty else Piece(self._resampled_part(source, frame, cut, part), part, weight, frame.opaque)

    def _exact_piece(self, exactly: _Within) -> Callable[[Shown, float, LayerState, Mapping[str, Frame]], Piece | None]:
        """What makes the piece of a source to a fraction of a pixel."""

        def piece(shown: Shown, weight: float, state: LayerState, frames: Mapping[str, Frame]) -> Piece | None:
            if shown.source is None or shown.source not in frames:
                return None
            frame = frames[shown.source]
            height, width = frame.pixels.shape[:2]
            x, y, w, h = (v * self.scale for v in state.place)
            take, put = placed_exactly(width, height, state.crop, shown.fit, (x, y, w, h), exactly.pixel)
            x0, y0 = round(put[0]), round(put[1])
            inner = box_of(state, self.scale)[1]
            part = Rect(x0, y0, round(put[0] + put[2]) - x0, round(put[1] + put[3]) - y0).meet(inner).meet(exactly.seen)
            if part.empty or take.empty:
                return None
            return Piece(resample_into(frame.pixels, take, put, part), part, weight, frame.opaque)

        return piece

    def _still(
        self,
        layer: str,
        still: Still,
        weight: float,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: _Within | None,
    ) -> Piece | None:
        """What a picture looked like when it was first painted: that is the moment at which the still was taken."""
        inner = box_of(state, self.scale)[1]
        if inner.empty or inner.area > MOST_OF_A_STILL * self.bounds.area:
            return None
        kept = self._stills.get((layer, still.taken))
        if kept is None:
            pieces = self._pieces(layer, still.of, state, frames, exactly)
            memory = self._buffer(inner.area * 4)
            taken = laid_flat(pieces, inner, memory[: inner.area * 4].reshape(inner.h, inner.w, 4))
            self._stills[layer, still.taken] = _Taken(taken, memory)
        else:
            taken = kept.pixels
        size = Rect(0, 0, taken.shape[1], taken.shape[0])
        pixels = (
            taken
            if (size.w, size.h) == (inner.w, inner.h)
            else resample(taken, Cut(size, Rect(0, 0, inner.w, inner.h)))
        )
        return Piece(pixels, inner, weight, bool(pixels[..., 3].min() == 255))

    def _turning(
        self,
        layer: str,
        picture: Turning,
        weight: float,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: _Within | None,
    ) -> Piece | None:
        """A transition of a kind that has to be drawn."""
        inner = box_of(state, self.scale)[1]
        draw = TRANSITIONS[picture.kind].draw
        if inner.empty or draw is None:
            return None
        sides = [self._pieces(layer, side, state, frames, exactly) for side in (picture.before, picture.after)]
        before, after = (_flat(pieces, inner) for pieces in sides)
        parameters = dict(picture.parameters)
        by = frames.get(parameters.get("source") or "")
        if by is not None:
            parameters["picture"] = by.pixels
        pixels = draw(before, after, picture.progress, parameters)
        opaque = TRANSITIONS[picture.kind].opaque and all(_opaque(pieces, inner) for pieces in sides)
        return Piece(pixels, inner, weight, opaque or bool(pixels[..., 3].min() == 255))

    def _worth_making(self, cut: Cut) -> Rect:
        """All of a cut, or, where that is larger than what anybody sees of this canvas, the part of it that is seen.

        A picture that is moved in from outside is worth making whole: the same pixels serve all of its way.
        """
        return cut.put if cut.put.area <= WHOLE * self._window.area else cut.put.meet(self._window)

    def _resampled_part(self, source: str, frame: Frame, cut: Cut, part: Rect) -> Pixels:
        slot = (source, cut.take, cut.put.w, cut.put.h, part.moved(-cut.put.x, -cut.put.y))
        old = self._kept.get(slot)
        if old is None or old.serial != frame.serial:
            old = _Kept(frame.serial, resample_part(frame.pixels, cut, part), None, self._draws)
        self._kept[slot] = old._replace(draw=self._draws)
        return old.pixels

    def foreseen(self, state: LayerState, frames: Mapping[str, Frame]) -> Iterator[tuple[str, Sized]]:
        """What `draw` would have to resample of each source to show a layer so."""
        for one in self._deal(state.spread) if state.opacity > 0 else ():
            here = in_place(state, one)
            for shown in leaves(here.picture) if one.pixel is None else ():
                found = self._cut(shown, here, frames)
                if found is not None:
                    source, _, (take, put) = found
                    if (take.w, take.h) != (put.w, put.h) and self._worth_making(Cut(take, put)) == put:
                        yield source, (take, put.w, put.h)

    def _resampled(self, source: str, frame: Frame, cut: Cut) -> Pixels:
        """The cut at its size on the canvas, made once however many layers and frames show it."""
        slot = (source, cut.take, cut.put.w, cut.put.h, None)
        old = self._kept.get(slot)
        if old is not None and old.serial == frame.serial:
            self._kept[slot] = old._replace(draw=self._draws)
            return old.pixels
        if self._small:
            self._kept[slot] = _Kept(frame.serial, quick_shrink(frame.pixels, cut), None, self._draws)
            return self._kept[slot].pixels
        if (cut.take.w, cut.take.h) == (cut.put.w, cut.put.h):
            self._kept[slot] = _Kept(frame.serial, resample(frame.pixels, cut), None, self._draws)
            return self._kept[slot].pixels
        wish = (cut.take, cut.put.w, cut.put.h)
        self._requests.ask(source, wish)
        sized = self._requests.made(source, frame.serial, wish)
        if sized is not None:
            if old is not None and old.flat is not None:
                self._keep_spare(old.flat)
            self._kept[slot] = _Kept(frame.serial, sized, None, self._draws)
            return sized
        flat = old.flat if old is not None and old.flat is not None else self._buffer(cut.put.area * 4)
        target = flat[: cut.put.area * 4].reshape(cut.put.h, cut.put.w, 4)
        made = resample(frame.pixels, cut, target)
        if not np.may_share_memory(made, flat):
            np.copyto(target, made)
        self._kept[slot] = _Kept(frame.serial, target, flat, self._draws)
        return target

    def fill(self) -> None:
        """Take the memory now that the first picture to be resampled will want, as large as the largest part that
        anything shows.
        """
        largest = max((part.area for part in (self.seen if self.seen is not None else (self.bounds,))), default=0)
        self._keep_spare(np.full(largest * 4, 255, np.uint8))

    def _buffer(self, size: int) -> Pixels:
        """Memory of at least ``size`` bytes, used before if possible: fresh pages cost more than the
        resampling itself.
        """
        large = [b for b in self._spare if b.size >= size]
        if large:
            best = min(large, key=lambda b: b.size)
            self._spare = [b for b in self._spare if b is not best]
            return best
        return np.empty(size + size // 8, np.uint8)

    def _keep_spare(self, memory: Pixels) -> None:
        self._spare = [*self._spare, memory][-_SPARES:]

    def _forget(self) -> None:
        """Let go of what no layer has shown for a while, and keep its memory for what comes."""
        self._draws += 1
        in_use = [piece.pixels for sheet in self._sheets.values() for piece in sheet.pieces]
        for slot, kept in list(self._kept.items()):
            if self._draws - kept.draw > _FORGET and not any(kept.pixels is p for p in in_use):
                del self._kept[slot]
                if kept.flat is not None:
                    self._keep_spare(kept.flat)

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
        self._requests, self._deal = requests, deal
        dirty = [self.bounds] if self._fresh else []
        sheets: dict[str, Sheet] = {}
        stamps: dict[str, object] = {}
        extent: dict[str, Rect] = {}
        for layer, state in states:
            if state.opacity <= 0:
                stamps[layer], extent[layer] = None, Rect(0, 0, 0, 0)
            else:
                serials = tuple(frames[s].serial if s in frames else 0 for s in sources_of_layer(state))
                tables = (path in TABLES for path in _tables_of(state))
                stamps[layer] = (state, deal(state.spread), serials, *tables)
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
                        log.exception("layer not drawn", canvas=self.canvas.id, layer=layer)
                        self.faults[layer] = (
                            f"it cannot be drawn ({type(error).__name__}); change its place or its source"
                        )
                dirty += [extent[layer], self._extent.get(layer, extent[layer])]
        if list(stamps) != list(self._stamps):
            dirty.append(self.bounds)
        if stamps != self._stamps or self._fresh:
            self.shown = {layer: state for layer, state in states if layer in sheets or state.opacity <= 0}
            self.frames = {s: frames[s] for layer in sheets for s in sources_of_layer(self.shown[layer]) if s in frames}
        changed = within(tuple(dirty), (self.bounds,) if self.seen is None else self.seen)
        self._stamps, self._extent, self._sheets, self._fresh = stamps, extent, sheets, False
        self._whole = self.painted is None
        if self._stills:
            wanted = {(layer, taken) for layer, state in states for taken in _moments(state.picture)}
            for key in [key for key in self._stills if (key[0].split(PART)[0], key[1]) not in wanted]:
                self._keep_spare(self._stills.pop(key).memory)
        if changed:
            self._forget()
            bands = [
                band
                for rect in within(changed, (self.bounds,) if self.painted is None else self.painted)
                for band in _bands(rect)
            ]
            each(lambda band: paint(self.pixels, band, self._background, list(sheets.values()), self._alpha), bands)
        return changed

    def _extent_of(self, state: LayerState) -> Rect:
        """The rectangle of the canvas that a layer can touch, wherever it is dealt out."""
        whole = NOWHERE
        for one in self._deal(state.spread):
            around = extent_of(in_place(state, one), self.scale)
            whole = whole.join(around if one.around is None else around.meet(_scaled(one.around, self.scale)))
        return whole

    def _dealt(self, layer: str, state: LayerState, frames: Mapping[str, Frame]) -> Sheet:
        """A layer that is dealt out over the surfaces of a zone: on each no more than what it is to show."""
        pieces: list[Piece] = []
        for n, one in enumerate(self._deal(state.spread)):
            here, name = in_place(state, one), f"{layer}{PART}{n}"
            if one.seen is None or one.around is None:  # in its own box, on the way from there or back
                rects = [extent_of(here, self.scale)]
            else:
                rects = [_scaled(rect, self.scale) for rect in one.seen]
            exactly = None
            if one.pixel is not None and one.around is not None:
                exactly = _Within(_scaled(one.around, self.scale), one.pixel)
            sheet = self._sheet(name, here, frames, exactly, framed=here.border[0] > 0)
            pieces += parted(sheet.pieces, rects, one.share)
        box = reduce(Rect.join, (p.at for p in pieces), NOWHERE)
        return Sheet(tuple(pieces), box, box, (0, 0, 0), state.opacity, state.blend)

    def _sheet(
        self,
        layer: str,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: _Within | None = None,
        framed: bool = False,
    ) -> Sheet:
        if state.spread != OWN:
            return self._dealt(layer, state, frames)
        box, inner = box_of(state, self.scale)
        if (
            not box.empty
            and (framed or not (is_plain(state) and state.blend == "normal"))
            and box.area <= MOST_OF_A_STILL * self.bounds.area
        ):
            return self._dressed(layer, state, frames, box, exactly)
        self._dressers.pop(layer, None)
        _, red, green, blue, _ = state.border
        return Sheet(
            self._pieces(layer, state.picture, state, frames, exactly),
            box,
            inner,
            (round(blue), round(green), round(red)),
            state.opacity,
        )

    def _dressed(
        self, layer: str, state: LayerState, frames: Mapping[str, Frame], box: Rect, exactly: _Within | None
    ) -> Sheet:
        """A layer whose picture is keyed, coloured, shaped, framed, turned, or throws a shadow, as one picture."""
        bare = state._replace(border=(within_box(state, self.scale), *state.border[1:]))
        pieces = self._pieces(layer, state.picture, bare, frames, exactly)
        flat = laid_flat(pieces, box)
        used = {id: frames[id].pixels for id in sources_of_layer(state) if id in frames}
        for path in _tables_of(state):
            why = TABLES.fault(path)
            if why is not None:
                self.faults[layer.split(PART)[0]] = why
        still = _opaque(pieces, box_of(bare, self.scale)[1])
        dresser = self._dressers.setdefault(layer, Dresser())
        pixels, at = dresser.dressed(flat, state, self.scale, used, TABLES, still)
        piece = Piece(pixels, at, 1.0, False)
        return Sheet((piece,), at, at, (0, 0, 0), state.opacity, state.blend)

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
