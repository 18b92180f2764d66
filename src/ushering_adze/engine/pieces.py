"""What a layer's picture is made of: a piece for each source that is in it, at its size and in its place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from ushering_adze.core.kinds.on_its_way import Picture, Shown, Still, Turning, leaves
from ushering_adze.core.picture.compose import Piece, box_of, fit_into, laid_flat, placed_exactly
from ushering_adze.core.picture.frame import Frame, Sized
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.picture.mixing import mix_of, noticeable
from ushering_adze.core.picture.resampling import Cut, resample, resample_into
from ushering_adze.core.picture.transitions import TRANSITIONS
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.engine.resampled import Resampled
from ushering_adze.engine.workers import each

WHOLE = 1.25
"""How many times larger than what is seen of a canvas a picture may be to be resampled whole."""
MOST_OF_A_STILL = 4
"""How many times a canvas a still may be: a layer larger than that has none of it seen that would be missed."""
PART = "\n"
"""Between a layer's id and the number of one of the pictures that it is dealt out as."""


class _Taken(NamedTuple):
    """A still, and the memory that it lies in."""

    pixels: Pixels
    memory: Pixels


class Within(NamedTuple):
    """Of a picture that is laid by millimetres: where it is seen, and how large one of its pixels is."""

    seen: Rect
    pixel: tuple[float, float]


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


def is_opaque(pieces: Sequence[Piece], box: Rect) -> bool:
    """Whether pieces fill a box with a picture that cannot be seen through."""
    return all(p.opaque for p in pieces) and _covered_by(pieces, box)


def as_one(pieces: Sequence[Piece], box: Rect) -> Pixels:
    """A layer's pieces as one picture of its box, not to be written to: the very pixels of one that is alone there."""
    alone = pieces[0] if len(pieces) == 1 else None
    if alone is not None and alone.at == box and alone.weight > 0.9999:
        return alone.pixels
    return laid_flat(pieces, box)


class Pieces:
    """Makes the pieces of the layers of one canvas.

    Parameters
    ----------
    scale : float
        At which the canvas is drawn.
    bounds : Rect
        All of it.
    window : Rect
        What of it is seen.
    """

    def __init__(self, scale: float, bounds: Rect, window: Rect) -> None:
        self.scale, self.bounds, self._window = scale, bounds, window
        self.resampled = Resampled(scale < 1)
        self._stills: dict[tuple[str, float], _Taken] = {}

    def _cut(self, shown: Shown, state: LayerState, frames: Mapping[str, Frame]) -> tuple[str, Frame, Cut] | None:
        """A source that has a frame and a place, that frame, and how it fills the layer's box."""
        if shown.source is None or shown.source not in frames:
            return None
        frame = frames[shown.source]
        height, width = frame.pixels.shape[:2]
        cut = fit_into(width, height, state.crop, shown.fit, box_of(state, self.scale)[1], self.scale)
        return None if cut.put.empty else (shown.source, frame, cut)

    def of(
        self,
        layer: str,
        picture: Picture,
        state: LayerState,
        frames: Mapping[str, Frame],
        exactly: Within | None = None,
    ) -> tuple[Piece, ...]:
        """The pieces of a layer's picture; with ``exactly`` to a fraction of a pixel, and no more than is seen."""
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
            return Piece(self.resampled.whole(source, frame, cut), cut.put, weight, frame.opaque)
        return None if part.empty else Piece(self.resampled.part(source, frame, cut, part), part, weight, frame.opaque)

    def _exact_piece(self, exactly: Within) -> Callable[[Shown, float, LayerState, Mapping[str, Frame]], Piece | None]:
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
        exactly: Within | None,
    ) -> Piece | None:
        """What a picture looked like when it was first painted: that is the moment at which the still was taken."""
        inner = box_of(state, self.scale)[1]
        if inner.empty or inner.area > MOST_OF_A_STILL * self.bounds.area:
            return None
        kept = self._stills.get((layer, still.taken))
        if kept is None:
            pieces = self.of(layer, still.of, state, frames, exactly)
            memory = self.resampled.buffer(inner.area * 4)
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
        exactly: Within | None,
    ) -> Piece | None:
        """A transition of a kind that has to be drawn."""
        inner = box_of(state, self.scale)[1]
        draw = TRANSITIONS[picture.kind].draw
        if inner.empty or draw is None:
            return None
        sides = [self.of(layer, side, state, frames, exactly) for side in (picture.before, picture.after)]
        before, after = (as_one(pieces, inner) for pieces in sides)
        parameters = {**dict(picture.parameters), "each": each}
        by = frames.get(parameters.get("source") or "")
        if by is not None:
            parameters["picture"] = by.pixels
        pixels = draw(before, after, picture.progress, parameters)
        opaque = TRANSITIONS[picture.kind].opaque and all(is_opaque(pieces, inner) for pieces in sides)
        return Piece(pixels, inner, weight, opaque or bool(pixels[..., 3].min() == 255))

    def _worth_making(self, cut: Cut) -> Rect:
        """All of a cut, or, where that is larger than what anybody sees of this canvas, the part of it that is seen.

        A picture that is moved in from outside is worth making whole: the same pixels serve all of its way.
        """
        return cut.put if cut.put.area <= WHOLE * self._window.area else cut.put.meet(self._window)

    def foreseen(self, state: LayerState, frames: Mapping[str, Frame]) -> Iterator[tuple[str, Sized]]:
        """What would have to be resampled of each source to show a layer so."""
        for shown in leaves(state.picture):
            found = self._cut(shown, state, frames)
            if found is not None:
                source, _, (take, put) = found
                if (take.w, take.h) != (put.w, put.h) and self._worth_making(Cut(take, put)) == put:
                    yield source, (take, put.w, put.h)

    def let_go(self, states: Iterable[tuple[str, LayerState]]) -> None:
        """Let go of stills that are in no layer any more."""
        if self._stills:
            wanted = {(layer, taken) for layer, state in states for taken in _moments(state.picture)}
            for key in [key for key in self._stills if (key[0].split(PART)[0], key[1]) not in wanted]:
                self.resampled.keep_spare(self._stills.pop(key).memory)
