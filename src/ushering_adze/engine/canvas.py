"""A canvas being painted: keeps its picture and repaints only where something changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.layout.rect import Rect, gathered
from ushering_adze.core.picture.compose import Cut, Piece, Sheet, box_of, fit_into, paint, resample, sole_piece
from ushering_adze.core.picture.frame import Frame, Pixels
from ushering_adze.core.recall.state import LayerState
from ushering_adze.core.show import Canvas
from ushering_adze.core.show.base import rgb_of
from ushering_adze.engine.workers import each


def quick_shrink(pixels: Pixels, cut: Cut) -> Pixels:
    """Like `resample`, but for small pictures on the desk: far shrinking first skips pixels, then averages."""
    if cut.take.w > 4 * cut.put.w and cut.take.h > 4 * cut.put.h:
        taken = pixels[cut.take.cut()]
        half = cv2.resize(taken, (cut.put.w * 2, cut.put.h * 2), interpolation=cv2.INTER_NEAREST)
        return np.asarray(cv2.resize(half, (cut.put.w, cut.put.h), interpolation=cv2.INTER_AREA), np.uint8)
    return resample(pixels, cut)


class _Kept(NamedTuple):
    serial: int
    pixels: Pixels
    flat: Pixels | None
    draw: int


_Slot = tuple[str, Rect, int, int]
_FORGET = 2
_SPARES = 6


def _bands(rect: Rect) -> list[Rect]:
    """A large rectangle in two halves, for two workers."""
    if rect.area < 500_000:
        return [rect]
    half = rect.h // 2
    return [Rect(rect.x, rect.y, rect.w, half), Rect(rect.x, rect.y + half, rect.w, rect.h - half)]


class CanvasPainter:
    """Paints one canvas from layer states and frames.

    Where a part that regions show is covered by one opaque picture alone, that picture stands for the canvas and nothing is
    copied; `view` gives what is to be seen either way.

    Parameters
    ----------
    canvas : Canvas
    scale : float
        1 for the real picture; less for a small one, painted from quickly shrunk sources.
    only : sequence of Rect, optional
        The parts of the canvas that anything shows; by default all of it.
    """

    def __init__(self, canvas: Canvas, scale: float = 1.0, only: Sequence[Rect] | None = None) -> None:
        self.canvas = canvas
        self.only = only
        self.scale = scale
        self._small = scale < 1
        width, height = max(1, round(canvas.width * scale)), max(1, round(canvas.height * scale))
        self.bounds = Rect(0, 0, width, height)
        self.pixels: Pixels = np.zeros((height, width, 4), np.uint8)
        red, green, blue = rgb_of(canvas.background)
        self._background = (blue, green, red)
        self._stamps: dict[str, object] = {}
        self._extent: dict[str, Rect] = {}
        self._kept: dict[_Slot, _Kept] = {}
        self._draws = 0
        self._aliases: dict[Rect, Piece] = {}
        self._spare: list[Pixels] = []
        self._fresh = True

    def _pieces(self, state: LayerState, inner: Rect, frames: Mapping[str, Frame]) -> tuple[Piece, ...]:
        pieces = []
        for shown in state.picture:
            frame = frames.get(shown.source) if shown.source is not None else None
            if frame is None or shown.source is None:
                continue
            height, width = frame.pixels.shape[:2]
            cut = fit_into(width, height, state.crop, shown.fit, inner, self.scale)
            if not cut.put.empty:
                pieces.append(Piece(self._resampled(shown.source, frame, cut), cut.put, shown.weight, frame.opaque))
        return tuple(pieces)

    def _resampled(self, source: str, frame: Frame, cut: Cut) -> Pixels:
        """The cut at its size on the canvas, made once however many layers and frames show it."""
        slot = (source, cut.take, cut.put.w, cut.put.h)
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
        flat = old.flat if old is not None and old.flat is not None else self._buffer(cut.put.area * 4)
        target = flat[: cut.put.area * 4].reshape(cut.put.h, cut.put.w, 4)
        made = resample(frame.pixels, cut, target)
        if not np.may_share_memory(made, flat):
            np.copyto(target, made)
        self._kept[slot] = _Kept(frame.serial, target, flat, self._draws)
        return target

    def _buffer(self, size: int) -> Pixels:
        """Memory of at least ``size`` bytes, used before if possible: fresh pages cost more than the resampling itself."""
        large = [b for b in self._spare if b.size >= size]
        if large:
            best = min(large, key=lambda b: b.size)
            self._spare = [b for b in self._spare if b is not best]
            return best
        return np.empty(size + size // 8, np.uint8)

    def _forget(self) -> None:
        """Let go of what no layer has shown for a while, and keep its memory for what comes."""
        self._draws += 1
        in_use = [p.pixels for p in self._aliases.values()]
        for slot, kept in list(self._kept.items()):
            if self._draws - kept.draw > _FORGET and not any(kept.pixels is p for p in in_use):
                del self._kept[slot]
                if kept.flat is not None:
                    self._spare = [*self._spare, kept.flat][-_SPARES:]

    def draw(self, states: Sequence[tuple[str, LayerState]], frames: Mapping[str, Frame]) -> list[Rect]:
        """Bring the picture up to date.

        Parameters
        ----------
        states : sequence of (layer id, state)
            Bottom first.
        frames : mapping
            Frame of each source id; a source without one shows nothing.

        Returns
        -------
        list of Rect
            Where the picture changed.
        """
        dirty = [self.bounds] if self._fresh else []
        sheets = []
        stamps: dict[str, object] = {}
        extent: dict[str, Rect] = {}
        for layer, state in states:
            if state.opacity <= 0:
                stamps[layer], extent[layer] = None, Rect(0, 0, 0, 0)
            else:
                serials = tuple(frames[s.source].serial if s.source is not None and s.source in frames else 0 for s in state.picture)
                stamps[layer] = (state, serials)
                extent[layer] = box_of(state, self.scale)[0].meet(self.bounds)
            if stamps[layer] != self._stamps.get(layer, self):
                dirty += [extent[layer], self._extent.get(layer, extent[layer])]
        if list(stamps) != list(self._stamps):
            dirty.append(self.bounds)
        if self.only is not None:
            dirty = gathered(d.meet(part) for d in gathered(dirty) for part in self.only)
            for part in [a for a in self._aliases if any(not a.meet(d).empty for d in dirty)]:
                del self._aliases[part]
                dirty.append(part)
        dirty = gathered(dirty)
        self._stamps, self._extent, self._fresh = stamps, extent, False
        if not dirty:
            return []
        for layer, state in states:
            if state.opacity <= 0 or all(extent[layer].meet(d).empty for d in dirty):
                continue
            box, inner = box_of(state, self.scale)
            _, red, green, blue = state.border
            sheets.append(Sheet(self._pieces(state, inner, frames), box, inner, (round(blue), round(green), round(red)),
                                state.opacity))
        self._forget()
        for rect in dirty:
            alone = sole_piece(sheets, rect) if self.only is not None and rect in self.only else None
            if alone is not None:
                self._aliases[rect] = alone
        bands = [band for rect in dirty if rect not in self._aliases for band in _bands(rect)]
        each(lambda band: paint(self.pixels, band, self._background, sheets), bands)
        return dirty

    def view(self, take: Rect) -> Pixels:
        """What the canvas shows within a rectangle that lies in the canvas; not to be written to."""
        for rect, piece in self._aliases.items():
            if rect.holds(take):
                return piece.pixels[take.moved(-piece.at.x, -piece.at.y).cut()]
        return self.pixels[take.cut()]

    def show_pattern(self, pixels: Pixels) -> list[Rect]:
        """Put a whole picture on the canvas in place of its layers; `draw` paints all afresh afterwards."""
        np.copyto(self.pixels, pixels)
        self._aliases.clear()
        self._fresh = True
        return [self.bounds]
