"""Composition: how a layer's picture fills its box, and how layers lie over one another.

Operators are Porter and Duff's *over* on premultiplied codes (T. Porter and T. Duff, "Compositing digital images",
1984), with a layer's opacity scaling colour and alpha alike (W3C Compositing and Blending Level 1, section 5; both from
memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import cv2
import numpy as np

from ushering_adze.core.picture.blending import blended
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.picture.resampling import Cut
from ushering_adze.core.plane.boxes import Box
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.porter_duff import over
from ushering_adze.core.plane.rect import Rect, frame_strips
from ushering_adze.core.plane.strips import strips

NOWHERE = Rect(0, 0, 0, 0)


class Piece(NamedTuple):
    """A share of a layer, already at canvas size: its pixels, where they lie, its weight, and whether it is opaque."""

    pixels: Pixels
    at: Rect
    weight: float
    opaque: bool

    def within(self, part: Rect) -> Pixels:
        """Its pixels in a part of the canvas that it covers."""
        return self.pixels[part.moved(-self.at.x, -self.at.y).cut()]


class Sheet(NamedTuple):
    """One layer ready to be laid on a canvas; ``inner`` is the box less its border."""

    pieces: tuple[Piece, ...]
    box: Rect
    inner: Rect
    border_bgr: tuple[int, int, int]
    opacity: float
    blend: Any = "normal"

    def dressed(self) -> Sheet:
        """Itself: there is no more to be done to it."""
        return self


def box_of(state: LayerState, scale: float = 1.0) -> tuple[Rect, Rect]:
    """The box of a layer in whole canvas pixels, and the box inside its border, on a canvas drawn at ``scale``.

    Parameters
    ----------
    state : LayerState
        What layers show, by canvas and layer.
    scale : float, optional
        Factor on sizes.

    Returns
    -------
    tuple[Rect, Rect]
    """
    x, y, w, h = (v * scale for v in state.place)
    x0, y0 = round(x), round(y)
    box = Rect(x0, y0, max(0, round(x + w) - x0), max(0, round(y + h) - y0))
    b = round(state.border[0] * scale) if state.border[0] > 0 else 0
    if state.border[0] > 0:
        b = max(1, b)
    return box, Rect(box.x + b, box.y + b, max(0, box.w - 2 * b), max(0, box.h - 2 * b))


def fit_into(
    width: int, height: int, crop: tuple[float, float, float, float], fit: str, box: Rect, scale: float = 1.0
) -> Cut:
    """How a picture fills a box.

    Parameters
    ----------
    width, height : int
        Size of the source's picture in pixels.
    crop : tuple of float
        Left, top, right, bottom, as fractions.
    fit : {"fill", "fit", "stretch", "1:1"}
        Cover the box and cut what is over; show all and leave bars; stretch; or one source pixel to one canvas pixel.
    box : Rect
        On the canvas.
    scale : float
        Scale at which the canvas is drawn; matters to 1:1 only.

    Returns
    -------
    Cut
        Whole pixels on both sides.  With equal sizes the pixels are copied.

    Examples
    --------
    >>> fit_into(1920, 960, (0, 0, 0, 0), "1:1", Rect(1096, 1080, 1920, 960))
    Cut(take=Rect(x=0, y=0, w=1920, h=960), put=Rect(x=1096, y=1080, w=1920, h=960))
    >>> fit_into(1280, 720, (0, 0, 0, 0), "fill", Rect(0, 0, 256, 768)).take
    Rect(x=520, y=0, w=240, h=720)
    """
    x0, y0 = round(crop[0] * width), round(crop[1] * height)
    x1, y1 = max(x0 + 1, round((1 - crop[2]) * width)), max(y0 + 1, round((1 - crop[3]) * height))
    take = Rect(x0, y0, min(x1, width) - x0, min(y1, height) - y0)
    if box.empty or take.empty:
        return Cut(take, Rect(box.x, box.y, 0, 0))
    if fit == "stretch":
        return Cut(take, box)
    if fit == "1:1":
        w, h = max(1, round(take.w * scale)), max(1, round(take.h * scale))
        put = Rect(box.x + (box.w - w) // 2, box.y + (box.h - h) // 2, w, h)
        seen = put.meet(box)
        if seen == put:
            return Cut(take, put)
        return Cut(
            Rect(
                take.x + round((seen.x - put.x) / scale),
                take.y + round((seen.y - put.y) / scale),
                max(1, min(take.w, round(seen.w / scale))),
                max(1, min(take.h, round(seen.h / scale))),
            ),
            seen,
        )
    if fit == "fill":
        ratio = max(box.w / take.w, box.h / take.h)
        w, h = min(take.w, max(1, round(box.w / ratio))), min(take.h, max(1, round(box.h / ratio)))
        return Cut(Rect(take.x + (take.w - w) // 2, take.y + (take.h - h) // 2, w, h), box)
    ratio = min(box.w / take.w, box.h / take.h)
    w, h = max(1, round(take.w * ratio)), max(1, round(take.h * ratio))
    return Cut(take, Rect(box.x + (box.w - w) // 2, box.y + (box.h - h) // 2, w, h))


def placed_exactly(
    width: int,
    height: int,
    crop: tuple[float, float, float, float],
    fit: str,
    box: Box,
    pixel: tuple[float, float] = (1.0, 1.0),
) -> tuple[Rect, Box]:
    """How a picture lies in a box that is not of whole pixels.

    Parameters
    ----------
    width, height : int
        Size of the source's picture in pixels.
    crop : tuple of float
        Left, top, right, bottom, as fractions.
    fit : {"fill", "fit", "stretch", "1:1"}
        One to one means nothing between pitches; it is as *fit*.
    box : tuple of float
        On the canvas.
    pixel : tuple of float
        Width and height of a pixel there, in whatever unit: shapes are kept by these.

    Returns
    -------
    take : Rect
        Whole pixels of the source.
    put : tuple of float
        Where they lie on the canvas; with *fill*, past the box.

    Examples
    --------
    >>> placed_exactly(1600, 900, (0, 0, 0, 0), "fit", (0.5, 0, 900, 900))[1]
    (0.5, 196.875, 900.0, 506.25)
    """
    x0, y0 = round(crop[0] * width), round(crop[1] * height)
    x1, y1 = max(x0 + 1, round((1 - crop[2]) * width)), max(y0 + 1, round((1 - crop[3]) * height))
    take = Rect(x0, y0, min(x1, width) - x0, min(y1, height) - y0)
    x, y, w, h = box
    if fit == "stretch" or take.empty or w <= 0 or h <= 0:
        return take, box
    across, down = w * pixel[0] / take.w, h * pixel[1] / take.h
    by = max(across, down) if fit == "fill" else min(across, down)
    wide, high = take.w * by / pixel[0], take.h * by / pixel[1]
    return take, (x + (w - wide) / 2, y + (h - high) / 2, wide, high)


def parted(pieces: Sequence[Piece], seen: Sequence[Rect], share: float) -> tuple[Piece, ...]:
    """Pieces of a layer where it is seen, and no further.

    Parameters
    ----------
    pieces : sequence of Piece
    seen : sequence of Rect
        Rectangles that do not overlap.
    share : float
        By which their weights are multiplied.

    Returns
    -------
    tuple of Piece
    """
    return tuple(
        Piece(p.within(part), part, p.weight * share, p.opaque)
        for p in pieces
        for rect in seen
        if not (part := p.at.meet(rect)).empty
    )


def fill(target: Pixels, colour: tuple[int, int, int, int]) -> None:
    """Fill a picture with one BGRA colour, four bytes at a time.

    Parameters
    ----------
    target : Pixels
        What is written to, in place.
    colour : tuple[int, int, int, int]
        As ``#RRGGBB``, or blue first.
    """
    target.view(np.uint32)[..., 0] = np.array(colour, np.uint8).view(np.uint32)[0]


def lay_over(under: Pixels, above: Pixels, opacity: float = 1.0) -> None:
    """Lay a premultiplied picture over another, in place: ``under = above·o + under·(1 − α·o)``.

    Parameters
    ----------
    under, above : ndarray, shape (h, w, 4), uint8
    opacity : float
        0 to 1.

    References
    ----------
    T. Porter and T. Duff, "Compositing digital images" (1984), section 4: *over* (from memory).
    """
    if opacity >= 0.9999:
        over(under, above)
        return
    for part in strips(*above.shape[:2]):
        over(under[part], np.asarray(cv2.convertScaleAbs(above[part], alpha=opacity), np.uint8))


def cells(area: Rect, rects: Sequence[Rect]) -> list[Rect]:
    """Divide an area along the edges of rectangles, so that each cell lies wholly in or wholly out of each of them.

    Parameters
    ----------
    area : Rect
        In pixels.
    rects : Sequence[Rect]
        In whole pixels.

    Returns
    -------
    list[Rect]

    Examples
    --------
    >>> cells(Rect(0, 0, 10, 4), [Rect(2, 0, 6, 4)])
    [Rect(x=0, y=0, w=2, h=4), Rect(x=2, y=0, w=6, h=4), Rect(x=8, y=0, w=2, h=4)]
    """
    xs, ys = {area.x, area.right}, {area.y, area.foot}
    for rect in rects:
        shared = area.meet(rect)
        if not shared.empty:
            xs |= {shared.x, shared.right}
            ys |= {shared.y, shared.foot}
    columns, rows = sorted(xs), sorted(ys)
    return [Rect(x0, y0, x1 - x0, y1 - y0) for y0, y1 in pairwise(rows) for x0, x1 in pairwise(columns)]


def _lay_opaque(target: Pixels, cell: Rect, pieces: Sequence[Piece], opacity: float, ground: int | None) -> None:
    """Lay a mix of opaque pieces that all cover the cell: ``Σ wᵢo·pᵢ + (1 − Σ wᵢo)·under``.

    With ``ground`` given, what is under them is that code in every channel, and need not be there.
    """
    under = target[cell.cut()]
    parts = [(p.within(cell), p.weight * opacity) for p in pieces]
    rest = 1 - sum(share for _, share in parts)
    if len(parts) == 1 and rest < 1e-4:
        np.copyto(under, parts[0][0])
        return
    (first, share), *others = parts
    level = 0.0 if ground is None else ground * rest
    if rest >= 1e-4 and ground is None:
        cv2.addWeighted(first, share, under, rest, 0.0, dst=under)
    elif others:
        (second, its), *others = others
        cv2.addWeighted(first, share, second, its, level, dst=under)
    else:
        cv2.convertScaleAbs(first, dst=under, alpha=share, beta=level)
    for pixels, share in others:
        cv2.addWeighted(pixels, share, under, 1.0, 0.0, dst=under)


def _lay_pieces(
    target: Pixels, area: Rect, pieces: Sequence[Piece], opacity: float, bare: Rect, ground: int | None
) -> None:
    """Lay a layer's pieces within an area; in ``bare``, all covered by opaque ones, nothing is under them but the
    ground's code.
    """
    seen = [p for p in pieces if not area.meet(p.at).empty]
    if all(p.opaque for p in seen):
        for cell in cells(area, [p.at for p in seen]):
            here = [p for p in seen if p.at.holds(cell)]
            if here:
                _lay_opaque(target, cell, here, opacity, ground if bare.holds(cell) else None)
        return
    if len(seen) == 1:
        shared = area.meet(seen[0].at)
        lay_over(target[shared.cut()], seen[0].within(shared), seen[0].weight * opacity)
        return
    lay_over(target[area.cut()], laid_flat(seen, area), opacity)


def _covered(sheet: Sheet, clip: Rect) -> Rect:
    """The part of ``clip`` that every piece of a layer covers, if all are opaque."""
    if not sheet.pieces or sheet.blend != "normal" or not all(p.opaque for p in sheet.pieces):
        return NOWHERE
    part = sheet.inner.meet(clip)
    for piece in sheet.pieces:
        part = part.meet(piece.at)
    return part


def _hidden(sheet: Sheet, clip: Rect) -> Rect:
    """The part of ``clip`` in which nothing below this layer can be seen."""
    if sheet.opacity < 0.9999 or sum(p.weight for p in sheet.pieces) < 0.9999:
        return NOWHERE
    return _covered(sheet, clip)


def shifted(sheet: Sheet, dx: int, dy: int) -> Sheet:
    """The same sheet, ``dx`` columns to the right and ``dy`` rows down.

    Parameters
    ----------
    sheet : Sheet
        One layer ready to be laid.
    dx : int
        Columns to the right.
    dy : int
        Rows down.

    Returns
    -------
    Sheet
    """
    if not dx and not dy:
        return sheet
    pieces = tuple(p._replace(at=p.at.moved(dx, dy)) for p in sheet.pieces)
    return sheet._replace(pieces=pieces, box=sheet.box.moved(dx, dy), inner=sheet.inner.moved(dx, dy))


def paint(
    target: Pixels, clip: Rect, background_bgr: tuple[int, int, int], sheets: Sequence[Sheet], alpha: int = 255
) -> None:
    """Paint layers, bottom first, over a background within a rectangle of a canvas picture.

    Parameters
    ----------
    target : ndarray, shape (h, w, 4), uint8
        The canvas picture, changed in place within ``clip`` only.
    clip : Rect
        What to paint.
    background_bgr : tuple of int
        Colour of the bare canvas.
    sheets : sequence of Sheet
        Bottom first.
    alpha : int, optional
        Of the background: 255, or 0 over black for a picture that is to be laid on something else.
    """
    clip = clip.meet(Rect(0, 0, target.shape[1], target.shape[0]))
    if clip.empty:
        return
    first = max((n for n, sheet in enumerate(sheets) if _hidden(sheet, clip) == clip), default=-1)
    bare, ground = NOWHERE, background_bgr[0] if len(set(background_bgr)) == 1 else None
    if first < 0:
        first = 0
        if sheets:
            bare = (_hidden if ground is None else _covered)(sheets[0], clip)
        for strip in frame_strips(clip, bare):
            fill(target[strip.cut()], (*background_bgr, alpha))
    for sheet in sheets[first:]:
        if sheet.blend != "normal":
            _lay_blended(target, clip, sheet)
            bare = NOWHERE
            continue
        area = clip.meet(sheet.inner)
        if not area.empty and sheet.pieces:
            _lay_pieces(target, area, sheet.pieces, sheet.opacity, bare, ground)
            bare = NOWHERE
        if sheet.box != sheet.inner:
            for strip in frame_strips(sheet.box, sheet.inner):
                shared = clip.meet(strip)
                if not shared.empty:
                    under = target[shared.cut()]
                    colour = np.empty_like(under)
                    fill(colour, (*sheet.border_bgr, 255))
                    cv2.addWeighted(colour, sheet.opacity, under, 1 - sheet.opacity, 0.0, dst=under)


def _lay_blended(target: Pixels, clip: Rect, sheet: Sheet) -> None:
    """Lay a layer whose colours meet those below it by another mode; its border is in its picture already."""
    for piece in sheet.pieces:
        area = clip.meet(piece.at).meet(sheet.box)
        if not area.empty:
            under = target[area.cut()]
            under[:] = blended(under, piece.within(area), sheet.blend, sheet.opacity * piece.weight)


def laid_flat(pieces: Sequence[Piece], box: Rect, into: Pixels | None = None) -> Pixels:
    """A layer's pieces added up to one picture of its box, premultiplied; where none lies it is clear.

    Parameters
    ----------
    pieces : sequence of Piece
        Weights add to 1 at most.
    box : Rect
        On the canvas, like the places of the pieces.
    into : ndarray, shape (h, w, 4), optional
        Memory for it.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
    """
    total = np.empty((box.h, box.w, 4), np.uint8) if into is None else into
    total.fill(0)
    for piece in pieces:
        shared = box.meet(piece.at)
        if not shared.empty:
            part = total[shared.moved(-box.x, -box.y).cut()]
            cv2.addWeighted(piece.within(shared), piece.weight, part, 1.0, 0.0, dst=part)
    return total
