"""What a frame of a show will cost: how many pixels it copies, mixes, resizes, dresses and bends, told before it is
made.

Nothing is painted for it.  How long a pixel takes is measured on the machine that plays (`engine.gauge`).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from functools import reduce
from typing import NamedTuple

from ushering_adze.core.kinds.colour import PLAIN
from ushering_adze.core.kinds.keying import ChromaKey, FillKey
from ushering_adze.core.kinds.mixed import values_in
from ushering_adze.core.kinds.on_its_way import Picture, Shown, Turning
from ushering_adze.core.picture.compose import box_of, fit_into
from ushering_adze.core.picture.dealing import deal_of, in_place
from ushering_adze.core.picture.dressed import extent_of, is_plain
from ushering_adze.core.picture.layers import LayerState, State, sources_of_layer
from ushering_adze.core.picture.mixing import mix_of, noticeable
from ushering_adze.core.picture.steps import OutputPlan, Step
from ushering_adze.core.plane.rect import Rect, disjoint
from ushering_adze.core.show import Show

OPERATIONS = {
    "copy": "copying",
    "mix": "mixing",
    "over": "laying over",
    "resize": "resizing",
    "dressing": "shaping and framing",
    "shadow": "shadows",
    "luma": "luma keys",
    "chroma": "chroma keys",
    "colour": "colours",
    "turn": "turning",
    "blend": "blend modes",
    "wipe": "transitions",
    "bend": "bending onto outputs",
    "finish": "blends and black",
    "table": "tables of outputs",
}
"""What is done to pixels, by name, in words for the desk."""
SMALL = 0.5
"""Of its size, across: a moving picture that is shown smaller than that is named."""
_NOWHERE = Rect(0, 0, 0, 0)


class Known(NamedTuple):
    """What is known of a source's pictures: their size in pixels, whether they are opaque, and whether they move."""

    width: int
    height: int
    opaque: bool
    moves: bool


class Small(NamedTuple):
    """A moving picture that is shown far under its size: of which source, and at which scale."""

    source: str
    scale: float


Work = Mapping[str, float]
"""Pixels, by operation."""


class _Laid(NamedTuple):
    """A layer on its canvas: where it can be seen, where nothing below it can, how many mixed parts it has, whether its
    opacity is full, and whether it is laid over what is below it by its alpha, or by another mode.
    """

    extent: Rect
    hides: Rect
    parts: int
    solid: bool
    how: str
    moves: bool


def work_of(
    show: Show,
    state: State,
    known: Mapping[str, Known],
    plans: Mapping[str, OutputPlan],
    before: State | None = None,
) -> Work:
    """What one frame costs in which everything that moves has moved.

    Parameters
    ----------
    show : Show
    state : mapping
        What every layer shows.
    known : mapping
        By source; one that is not known is taken to show nothing.
    plans : mapping
        By output.
    before : mapping, optional
        What layers showed a frame earlier: those that show something else move, whatever they show.

    Returns
    -------
    mapping
        Pixels by operation; empty if nothing moves.
    """
    work: dict[str, float] = defaultdict(float)
    dirty: dict[str, list[Rect]] = {}
    stacks: dict[str, list[_Laid]] = {}
    for canvas in show.canvases:
        bounds, deal = Rect(0, 0, canvas.width, canvas.height), deal_of(show, canvas.id)
        stack = []
        for layer in canvas.layers:
            now = state.get((canvas.id, layer.id))
            if now is None or now.opacity <= 0:
                continue
            was = now if before is None else before.get((canvas.id, layer.id), now)
            for one in deal(now.spread):
                seen = bounds if one.around is None else one.around.meet(bounds)
                stack.append(_laid(in_place(now, one), seen, known, was, now, one.pixel is not None, work))
        stacks[canvas.id] = stack
        dirty[canvas.id] = disjoint(laid.extent for laid in stack if laid.moves and not laid.extent.empty)
    for canvas in show.canvases:
        painted = [s.take for p in plans.values() for s in p.steps if s.canvas == canvas.id and s.how != "copy"]
        for part in disjoint(rect.meet(take) for rect in dirty[canvas.id] for take in painted):
            _lay(stacks[canvas.id], part, work)
    for plan in plans.values():
        if any(not s.take.meet(rect).empty for s in plan.steps for rect in dirty.get(s.canvas, ())):
            for step in plan.steps:
                _send(step, stacks.get(step.canvas, []), work)
    return dict(work)


def _send(step: Step, stack: Sequence[_Laid], work: dict[str, float]) -> None:
    """What it costs to bring a region onto its raster."""
    if step.how == "copy":
        _lay(stack, step.take, work)
    elif step.how == "turn":
        work["copy"] += step.put.area
    elif step.how == "resize":
        work["resize"] += max(step.put.area, step.take.area)
    else:
        work["bend"] += step.put.area
        if not step.natural:
            work["resize"] += step.take.area
    if step.finish is not None:
        work["finish"] += sum(part.at.area for part in step.finish.worked)
        work["table"] += sum(part.at.area for part in (*step.finish.flats, *step.finish.toned))


def _lay(stack: Sequence[_Laid], part: Rect, work: dict[str, float]) -> None:
    """What it costs to lay all layers that can be seen within a part of a canvas."""
    if part.empty:
        return
    first = max((n for n, laid in enumerate(stack) if laid.hides.holds(part)), default=0)
    for laid in stack[first:]:
        area = laid.extent.meet(part).area
        if laid.how != "plain":
            work[laid.how] += area
        elif laid.parts > 1 or not laid.solid:
            work["mix"] += area * max(1, laid.parts - 1)
        else:
            work["copy"] += area


def _laid(
    state: LayerState,
    seen: Rect,
    known: Mapping[str, Known],
    was: LayerState,
    now: LayerState,
    exact: bool,
    work: dict[str, float],
) -> _Laid:
    """A layer on its canvas; what it costs to make its picture is added to the work if it moves."""
    extent = extent_of(state).meet(seen)
    mix = noticeable(mix_of(state.picture))
    there = [s for s in sources_of_layer(state) if s in known]
    moves = was != now or any(known[s].moves for s in there) or any(isinstance(m.picture, Turning) for m in mix)
    plain, normal = is_plain(state), state.blend == "normal"
    inner = box_of(state)[1]
    opaque = plain and normal and bool(there) and all(known[s].opaque for s in there)
    cover = reduce(Rect.meet, (_put(m.picture, state, inner, known) for m in mix), inner) if opaque else _NOWHERE
    if moves and not extent.empty:
        # Pictures of a size that stays are brought to it ahead, beside the frames.
        sized = exact or (was.place, was.crop) != (now.place, now.crop)
        for share in mix:
            _make(share.picture, state, inner, known, sized, extent, work)
        if not (plain and normal):
            _dress(state, inner, work)
    hides = cover.meet(seen) if opaque and state.opacity >= 0.9999 else _NOWHERE
    how = "plain" if opaque else "over" if normal else "blend"
    return _Laid(extent if there else _NOWHERE, hides, len(mix), state.opacity >= 0.9999, how, moves and bool(there))


def _put(picture: Picture, state: LayerState, inner: Rect, known: Mapping[str, Known]) -> Rect:
    """Where the picture of a source lies on the canvas; of one on its way, all of its box."""
    if not isinstance(picture, Shown):
        return inner
    of = known.get(picture.source or "")
    return _NOWHERE if of is None else fit_into(of.width, of.height, state.crop, picture.fit, inner).put


def _make(
    picture: Picture,
    state: LayerState,
    inner: Rect,
    known: Mapping[str, Known],
    sized: bool,
    extent: Rect,
    work: dict[str, float],
) -> None:
    """What it costs to bring a picture to its size, as far as it is seen, where that is not done ahead."""
    if isinstance(picture, Turning):
        for side in (picture.before, picture.after):
            _make(side, state, inner, known, sized, extent, work)
        work["wipe"] += inner.area
    elif sized and isinstance(picture, Shown) and (of := known.get(picture.source or "")) is not None:
        take, put = fit_into(of.width, of.height, state.crop, picture.fit, inner)
        if (take.w, take.h) != (put.w, put.h) and not put.empty:
            work["resize"] += max(take.area, put.area) * put.meet(extent).area / put.area


def _dress(state: LayerState, inner: Rect, work: dict[str, float]) -> None:
    """What it costs to dress a layer's picture."""
    for key in values_in(state.key):
        if key is not None:
            work["chroma" if isinstance(key, ChromaKey) else "luma"] += inner.area
            work["resize"] += inner.area if isinstance(key, FillKey) else 0
    for colour in values_in(state.colour):
        work["colour"] += inner.area if colour != PLAIN else 0
    whole = extent_of(state).area
    work["dressing"] += whole
    work["shadow"] += whole if state.shadow[3] > 0 else 0
    work["turn"] += whole if state.turn % 360 else 0


def seconds_of(work: Work, rates: Mapping[str, float]) -> float:
    """How long some work takes, by the seconds that a pixel takes of each operation.

    Examples
    --------
    >>> seconds_of({"copy": 2e6, "over": 1e6}, {"copy": 1e-9, "over": 4e-9})
    0.006
    """
    return sum(pixels * rates.get(name, 0.0) for name, pixels in work.items())


def dearest(work: Work, rates: Mapping[str, float]) -> str:
    """In words, what most of the time of some work goes into; nothing if there is none."""
    name = max(work, key=lambda n: work[n] * rates.get(n, 0.0), default=None)
    return "" if name is None else OPERATIONS[name]


def shown_small(show: Show, state: State, known: Mapping[str, Known]) -> tuple[Small, ...]:
    """Moving pictures that are shown far under their size wherever they are shown: each costs its whole size.

    Parameters
    ----------
    show : Show
    state : mapping
    known : mapping
        By source.

    Returns
    -------
    tuple of Small
        Those that are shown smallest first.
    """
    largest: dict[str, float] = {}
    for source, scale in _scales(show, state, known):
        largest[source] = max(scale, largest.get(source, 0.0))
    return tuple(sorted((Small(s, v) for s, v in largest.items() if v < SMALL), key=lambda s: s.scale))


def _scales(show: Show, state: State, known: Mapping[str, Known]) -> Iterator[tuple[str, float]]:
    for canvas in show.canvases:
        deal = deal_of(show, canvas.id)
        for layer in canvas.layers:
            now = state.get((canvas.id, layer.id))
            if now is None or now.opacity <= 0:
                continue
            for one in deal(now.spread):
                here = in_place(now, one)
                for share in mix_of(here.picture):
                    shown = share.picture
                    of = known.get(shown.source or "") if isinstance(shown, Shown) else None
                    if isinstance(shown, Shown) and shown.source is not None and of is not None and of.moves:
                        take, put = fit_into(of.width, of.height, here.crop, shown.fit, box_of(here)[1])
                        if not put.empty:
                            yield shown.source, max(put.w / take.w, put.h / take.h)
