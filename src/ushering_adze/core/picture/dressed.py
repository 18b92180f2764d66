"""What a layer's picture becomes between its box and the canvas: keyed, coloured, shaped, framed, turned, with its
shadow.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.kinds.colour import PLAIN
from ushering_adze.core.kinds.keying import FillKey, LumaKey
from ushering_adze.core.kinds.mixed import Mixed, values_in
from ushering_adze.core.kinds.shape import BOX, ShapeNow
from ushering_adze.core.picture.colours import Table, coloured
from ushering_adze.core.picture.compose import box_of
from ushering_adze.core.picture.key import luma_keyed
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.picture.outlines import Mask, outline
from ushering_adze.core.picture.pictured import keyed
from ushering_adze.core.picture.shadows import on_black_shadow, over_shadow, shadow_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.porter_duff import keep
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.strips import tiles


class Laid(NamedTuple):
    """A dressed picture, premultiplied, and where it lies on the canvas."""

    pixels: Pixels
    at: Rect


def is_plain(state: LayerState) -> bool:
    """Whether a layer's picture goes into its box and no more is done to it."""
    return bool(
        state.turn == 0
        and state.shape == BOX
        and state.shadow[3] <= 0
        and state.key is None
        and state.colour == PLAIN
        and (state.border[0] <= 0 or state.border[4] <= 0)
    )


def extent_of(state: LayerState, scale: float = 1.0) -> Rect:
    """The rectangle of a canvas that a layer can touch: its box, turned, with what lies outside it.

    Parameters
    ----------
    state : LayerState
    scale : float
        At which the canvas is drawn.

    Returns
    -------
    Rect
        In whole pixels.
    """
    box = box_of(state, scale)[0]
    if is_plain(state):
        return box
    around = _around(box, _outside(state, scale), state.turn)
    if state.shadow[3] > 0:
        dx, dy, blur = (v * scale for v in state.shadow[:3])
        edge = math.ceil(1.5 * blur) + 2
        thrown = around.moved(round(dx), round(dy))
        around = around.join(Rect(thrown.x - edge, thrown.y - edge, thrown.w + 2 * edge, thrown.h + 2 * edge))
    return around


def _outside(state: LayerState, scale: float) -> int:
    """Whole pixels by which a border reaches beyond its box."""
    return math.ceil(state.border[0] * state.border[4] * scale - 1e-6) if state.border[0] > 0 else 0


def within_box(state: LayerState, scale: float) -> float:
    """Canvas pixels of a border that lie within its box: the picture fills what is left of it.

    Parameters
    ----------
    state : LayerState
    scale : float
        At which the canvas is drawn: in a form that is not a box the edge is soft, and the picture reaches beneath it.

    Returns
    -------
    float
    """
    inside = max(0.0, float(state.border[0] * (1 - state.border[4])))
    return inside if state.shape == BOX else math.floor(inside * scale) / scale


def _around(box: Rect, grown: int, degrees: float) -> Rect:
    """The smallest rectangle around a box that is turned about its middle."""
    w, h = box.w + 2 * grown, box.h + 2 * grown
    if degrees % 360 == 0:
        return Rect(box.x - grown, box.y - grown, w, h)
    c, s = abs(math.cos(math.radians(degrees))), abs(math.sin(math.radians(degrees)))
    wide, high = w * c + h * s, w * s + h * c
    # About a box of its own, so that the same box turned by as much is as large wherever it lies.
    x0, y0 = math.floor((w - wide) / 2) - 1, math.floor((h - high) / 2) - 1
    x1, y1 = math.ceil((w + wide) / 2) + 1, math.ceil((h + high) / 2) + 1
    return Rect(box.x - grown + x0, box.y - grown + y0, x1 - x0, y1 - y0)


def _mix(before: Pixels, after: Pixels, share: float) -> Pixels:
    return np.asarray(cv2.addWeighted(after, share, before, 1 - share, 0.0), np.uint8)


def _each(value: Any, make: Callable[[Any], Pixels]) -> Pixels:
    """What a value makes; of one on its way, the mix of what both make."""
    if isinstance(value, Mixed):
        return _mix(_each(value.before, make), _each(value.after, make), value.share)
    return make(value)


# -- shapes ------------------------------------------------------------------------------------------------------------


def _scaled(shape: ShapeNow, scale: float) -> ShapeNow:
    return shape._replace(radius=shape.radius * scale, soft=shape.soft * scale, mask=None, of="luma", turned=False)


def _mask(
    shape: ShapeNow, width: int, height: int, scale: float, masks: Mapping[str, Pixels], grow: float
) -> Mask | None:
    """The share of each pixel that a shape leaves, in its box or grown."""
    made = outline(_scaled(shape, scale), width, height, grow)
    if shape.mask is None:
        return made
    picture = masks.get(shape.mask)
    if picture is None:
        return made
    border = max(0, math.ceil(grow))
    size = (width + 2 * border, height + 2 * border)
    if shape.of == "alpha":
        codes = picture[..., 3]
    else:
        codes = np.asarray(cv2.transform(picture, np.array([[0.0722, 0.7152, 0.2126, 0.0]])), np.uint8)
    small = np.asarray(cv2.resize(codes, size, interpolation=cv2.INTER_AREA), np.float32).reshape(size[::-1]) / 255
    small = 1 - small if shape.turned else small
    return np.asarray(small if made is None else small * made, np.float32)


def _masks(
    value: Any, width: int, height: int, scale: float, masks: Mapping[str, Pixels], grow: float = 0.0
) -> Mask | None:
    """The same of a shape that may be on its way to another one."""
    if not isinstance(value, Mixed):
        return _mask(value, width, height, scale, masks, grow)
    before, after = (_masks(v, width, height, scale, masks, grow) for v in (value.before, value.after))
    if before is None and after is None:
        return None
    border = max(0, math.ceil(grow))
    ones = np.ones((height + 2 * border, width + 2 * border), np.float32)
    before, after = (ones if m is None else m for m in (before, after))
    return np.asarray(before * (1 - value.share) + after * value.share, np.float32)


class _Dressing(NamedTuple):
    """What is done to a picture in its box: by how much it grows on each side, what is kept of it, and the frame that
    is added.
    """

    edge: int
    kept: Pixels | None
    frame: Pixels | None
    at_edge: tuple[tuple[slice, slice], ...] = ()
    """Tiles in which not all is kept as it is."""


def _known(edge: int, kept: Pixels | None, frame: Pixels | None) -> _Dressing:
    """A dressing that knows where there is anything to do."""

    def touched(part: tuple[slice, slice]) -> bool:
        return bool((kept is not None and kept[part].min() < 255) or (frame is not None and frame[part].any()))

    whole = kept if kept is not None else frame
    return _Dressing(
        edge, kept, frame, () if whole is None else tuple(t for t in tiles(*whole.shape[:2]) if touched(t))
    )


def _four(mask: Mask) -> Pixels:
    return np.asarray(cv2.merge([np.rint(mask * 255).astype(np.uint8)] * 4), np.uint8)


def _dressing(state: LayerState, width: int, height: int, scale: float, masks: Mapping[str, Pixels]) -> _Dressing:
    """The shape and the border of a layer, for a box of a size."""
    thick, out = state.border[0] * scale, state.border[4]
    if thick <= 0:
        made = _masks(state.shape, width, height, scale, masks)
        return _known(0, None if made is None else _four(made), None)
    edge = _outside(state, scale)
    whole = np.zeros((height + 2 * edge, width + 2 * edge), np.float32)

    def within(grow: float) -> Mask:
        made = _grown(state.shape, width, height, scale, masks, grow)
        off = (whole.shape[0] - made.shape[0]) // 2
        if off <= 0:
            return made[-off : made.shape[0] + off, -off : made.shape[1] + off]
        full = whole.copy()
        full[off : off + made.shape[0], off : off + made.shape[1]] = made
        return full

    outer, inner = within(thick * out), within(-thick * (1 - out))
    ring = np.clip(outer - inner, 0, 1)
    _, red, green, blue = state.border[:4]
    frame = np.rint(np.dstack([ring * blue, ring * green, ring * red, ring * 255])).astype(np.uint8)
    return _known(edge, _four(inner), frame)


def _framed(pixels: Pixels, dressing: _Dressing, own: bool) -> Pixels:
    """A picture in its shape, within its border; written over if it is the caller's ``own``."""
    edge, at_edge = dressing.edge, dressing.at_edge
    if edge:
        black = (0, 0, 0, 0)
        pixels = np.asarray(
            cv2.copyMakeBorder(pixels, edge, edge, edge, edge, cv2.BORDER_CONSTANT, value=black), np.uint8
        )
    elif at_edge and not own:
        pixels = pixels.copy()
    for part in at_edge:
        _frame_part(pixels[part], part, dressing)
    return pixels


def _frame_part(here: Pixels, part: tuple[slice, slice], dressing: _Dressing) -> None:
    """What is kept of one tile, and its frame."""
    if dressing.kept is not None:
        keep(here, dressing.kept[part])
    if dressing.frame is not None:
        cv2.add(here, dressing.frame[part], dst=here)


def _grown(value: Any, width: int, height: int, scale: float, masks: Mapping[str, Pixels], grow: float) -> Mask:
    """The mask of a shape, larger or smaller than its box on each side; sharp edges if it is all of the box."""
    if isinstance(value, Mixed):
        before, after = (_grown(v, width, height, scale, masks, grow) for v in (value.before, value.after))
        return np.asarray(before * (1 - value.share) + after * value.share, np.float32)
    made = _mask(value, width, height, scale, masks, grow)
    if made is not None:
        return made
    border = max(0, math.ceil(grow))
    whole = np.zeros((height + 2 * border, width + 2 * border), np.float32)
    inset = border - round(grow)
    whole[inset : whole.shape[0] - inset, inset : whole.shape[1] - inset] = 1
    return whole


# -- turned ------------------------------------------------------------------------------------------------------------


def turned(pixels: Pixels, degrees: float) -> Pixels:
    """A picture turned clockwise about its middle, in the smallest picture that holds it with a clear pixel around.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        Premultiplied.
    degrees : float

    Returns
    -------
    ndarray, shape (h', w', 4), uint8
        The very same for whole turns; otherwise by cubic interpolation.
    """
    if degrees % 360 == 0:
        return pixels
    height, width = pixels.shape[:2]
    around = _around(Rect(0, 0, width, height), 0, degrees)
    matrix = cv2.getRotationMatrix2D((width / 2 - 0.5, height / 2 - 0.5), -degrees, 1.0)
    matrix[:, 2] -= around.x, around.y
    made = cv2.warpAffine(
        pixels,
        matrix,
        (around.w, around.h),
        flags=cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(0, 0, 0, 0),
    )
    np.minimum(made[..., :3], made[..., 3:], out=made[..., :3])  # cubic curves overshoot; colours stay under alpha
    return np.asarray(made, np.uint8)


class Dresser:
    """Dresses one picture of a layer after another, and keeps what does not change: its shape and its shadow."""

    def __init__(self) -> None:
        self._shadow: tuple[object, NDArray[np.uint8]] | None = None
        self._dressing: tuple[object, _Dressing] | None = None

    def _dressing_of(
        self, state: LayerState, width: int, height: int, scale: float, pictures: Mapping[str, Pixels]
    ) -> _Dressing:
        if any(s.mask is not None for s in values_in(state.shape)):
            return _dressing(state, width, height, scale, pictures)
        key = (state.shape, state.border, width, height, scale)
        if self._dressing is None or self._dressing[0] != key:
            self._dressing = key, _dressing(state, width, height, scale, pictures)
        return self._dressing[1]

    def dressed(
        self,
        flat: Pixels,
        state: LayerState,
        scale: float = 1.0,
        pictures: Mapping[str, Pixels] | None = None,
        tables: Mapping[str, Table] | None = None,
        still: bool = False,
    ) -> Laid:
        """What a layer's picture becomes.

        Parameters
        ----------
        flat : ndarray, shape (h, w, 4), uint8
            The picture of its box, premultiplied.
        state : LayerState
        scale : float
            At which the canvas is drawn.
        pictures : mapping, optional
            Of the sources that are masks and keys.
        tables : mapping, optional
            Of colours, by the names of their files.
        still : bool
            Whether what throws the shadow is opaque but for its shape: then the shadow is made once.

        Returns
        -------
        Laid
        """
        pictures, tables = pictures or {}, tables or {}
        box = box_of(state, scale)[0]
        dressing = self._dressing_of(state, box.w, box.h, scale, pictures)
        made = flat
        simple = state.shadow[3] > 0 and not any(state.shadow[4:7]) and state.turn % 360 == 0 and not dressing.edge
        in_place = simple and still and isinstance(state.key, LumaKey) and state.colour == PLAIN
        if state.key is not None and not in_place:
            made = _each(state.key, lambda key: made_keyed(flat, key, pictures, still))
        if state.colour != PLAIN:
            before = made
            made = _each(state.colour, lambda colour: coloured(before, colour, tables))
        if simple:
            return self._on_its_shadow(made, in_place, state, box, scale, dressing, still)
        made = _framed(made, dressing, made is not flat)
        made = turned(made, state.turn)
        grown = _outside(state, scale)
        at = _around(box, grown, state.turn)
        if state.shadow[3] <= 0:
            return Laid(np.ascontiguousarray(made), at)
        whole = extent_of(state, scale)
        alpha = np.asarray(cv2.extractChannel(made, 3), np.uint8)
        shadow = self._shadow_of(alpha, state, box, scale, at, whole, still)
        red, green, blue = state.shadow[4:7]
        return Laid(over_shadow(made, at.moved(-whole.x, -whole.y), shadow, (red, green, blue)), whole)

    def _shadow_of(
        self, alpha: NDArray[np.uint8], state: LayerState, box: Rect, scale: float, at: Rect, whole: Rect, still: bool
    ) -> NDArray[np.uint8]:
        """The shadow of what has an alpha; the one that was made last if what throws it has not changed."""
        masked = any(s.mask is not None for s in values_in(state.shape))
        key = (state.shape, state.shadow[:4], state.turn, state.border, box.w, box.h, scale)
        if not still or masked or state.key is not None:
            self._shadow = None
            return shadow_of(alpha, state, scale, at, whole)
        if self._shadow is None or self._shadow[0] != key:
            self._shadow = key, shadow_of(alpha, state, scale, at, whole)
        return self._shadow[1]

    def _on_its_shadow(
        self, made: Pixels, keys: bool, state: LayerState, box: Rect, scale: float, dressing: _Dressing, still: bool
    ) -> Laid:
        """The same as ever for a picture that is not turned, above a black shadow: made in the place where it will lie,
        so that it need not be copied there.
        """
        whole = extent_of(state, scale)
        at = box.moved(-whole.x, -whole.y)
        pixels = np.empty((whole.h, whole.w, 4), np.uint8)
        here = pixels[at.cut()]
        if keys:
            alpha = np.empty(here.shape[:2], np.uint8)
            luma_keyed(made, state.key, True, here, alpha)
        else:
            np.copyto(here, made)
            alpha = np.asarray(cv2.extractChannel(made, 3), np.uint8)
        for part in dressing.at_edge:
            _frame_part(here[part], part, dressing)
            alpha[part] = cv2.extractChannel(here[part], 3)
        shadow = self._shadow_of(alpha, state, box, scale, box, whole, still)
        on_black_shadow(pixels, at, shadow)
        return Laid(pixels, whole)


def made_keyed(pixels: Pixels, key: Any, pictures: Mapping[str, Pixels], opaque: bool = False) -> Pixels:
    """A picture by a key, or as it is without one."""
    return keyed(pixels, key, pictures.get(key.source) if isinstance(key, FillKey) else None, opaque)
