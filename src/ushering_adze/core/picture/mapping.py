"""Mapping plans: for each output, the cheapest exact operations that bring its regions from the canvas onto its raster.

A plan is compiled once from the show and run for every frame: copy or turn where sizes agree, resize where they do not, remap where a
landing is a quad; then one multiply by the blend weights, only where they are not 1.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.layout.homography import homography, is_convex
from ushering_adze.core.layout.orient import landing_corners, oriented, turned_rect, unturned_rect
from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.light.adjust import FLIP_CODES, adjusted, adjustment
from ushering_adze.core.light.blend import blend_weights, code_factor
from ushering_adze.core.picture.compose import resized
from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.show import Output, QuadLanding, RectLanding, Region, Show

How = Literal["copy", "turn", "resize", "warp"]
Floats = NDArray[np.float32]


class Factor(NamedTuple):
    """Factors on codes, shape (h, w, 4) float32, for one rectangle of the raster."""

    at: Rect
    values: Floats


class Step(NamedTuple):
    """One region on its way to the raster.

    ``take`` is the part of the canvas that is read, ``put`` the part of the raster that is written.  ``maps`` are the inverse
    maps of a warp: for each pixel of ``put``, the place in ``take`` it shows, float32.  ``flip`` and ``turn`` say how a picture that
    is turned or resized lies on the raster.
    """

    region: str
    canvas: str
    how: How
    take: Rect
    put: Rect
    flip: bool = False
    turn: int = 0
    maps: tuple[Floats, Floats] | None = None
    factor: Factor | None = None


class OutputPlan(NamedTuple):
    """Everything an output does with its canvases, in order.

    ``adjust`` is the affine map of its codes and ``flip`` OpenCV's code of a flip, or None.
    """

    output: str
    width: int
    height: int
    steps: tuple[Step, ...]
    adjust: NDArray[np.float64] | None = None
    flip: int | None = None

    @property
    def canvases(self) -> frozenset[str]:
        """Canvases the output shows."""
        return frozenset(step.canvas for step in self.steps)


def inverse_maps(corners: tuple[tuple[float, float], ...], take: Rect, put: Rect) -> tuple[Floats, Floats]:
    """For each raster pixel of ``put``, the place in the taken picture that a quad landing shows there.

    Corners are edges, not pixel centres: a quad equal to the rectangle ``(0, 0)–(w, h)`` maps pixel centres to pixel centres.

    Returns
    -------
    tuple of ndarray
        ``map_x, map_y``, float32, shape (put.h, put.w); outside the quad they point outside the picture.
    """
    square = [(0.0, 0.0), (take.w, 0.0), (take.w, take.h), (0.0, take.h)]
    h = homography(corners, square)
    x = np.arange(put.x, put.right) + 0.5
    y = np.arange(put.y, put.foot)[:, None] + 0.5
    d = h[2, 0] * x + h[2, 1] * y + h[2, 2]
    safe = np.where(np.abs(d) < 1e-9, 1e-9, d)
    u = (h[0, 0] * x + h[0, 1] * y + h[0, 2]) / safe - 0.5
    v = (h[1, 0] * x + h[1, 1] * y + h[1, 2]) / safe - 0.5
    sign = np.sign(h[2, 0] * corners[0][0] + h[2, 1] * corners[0][1] + h[2, 2])
    lost = d * sign <= 0
    u[lost] = v[lost] = -1e4
    limit = 3e4
    return np.clip(u, -limit, limit).astype(np.float32), np.clip(v, -limit, limit).astype(np.float32)


def _bounds(corners: tuple[tuple[float, float], ...], raster: Rect) -> Rect:
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    x0, y0 = int(np.floor(min(xs))) - 1, int(np.floor(min(ys))) - 1
    return Rect(x0, y0, int(np.ceil(max(xs))) + 1 - x0, int(np.ceil(max(ys))) + 1 - y0).meet(raster)


def _factor(weight: Floats, put: Rect) -> Factor | None:
    """The part of a factor map that is not 1, as four channels with alpha left alone."""
    off = np.abs(weight - 1) > 1e-6
    if not off.any():
        return None
    rows, columns = np.flatnonzero(off.any(1)), np.flatnonzero(off.any(0))
    inner = Rect(int(columns[0]), int(rows[0]), int(columns[-1] - columns[0] + 1), int(rows[-1] - rows[0] + 1))
    part = weight[inner.cut()]
    values = cv2.merge([part, part, part, np.ones_like(part)])
    return Factor(inner.moved(put.x, put.y), np.ascontiguousarray(values))


@lru_cache(maxsize=32)
def _family_weights(rects: tuple[Rect, ...]) -> tuple[Floats, ...]:
    """Blend weights of one screen's pictures, kept while edits elsewhere leave them as they are; not to be written to."""
    return tuple(blend_weights(rects))


def _weight_of(show: Show, region: Region) -> Floats | None:
    """Weights of light for a region that is one projector's share of a screen; None when it has no neighbour."""
    if region.surface is None or show.surface(region.surface).kind != "projection":
        return None
    family = show.feeds_of(region.surface)
    rects = [Rect(r.x, r.y, r.w, r.h) for r in family]
    mine = family.index(region)
    if all(rects[mine].meet(r).empty for k, r in enumerate(rects) if k != mine):
        return None
    return _family_weights(tuple(rects))[mine]


def _step(show: Show, output: Output, canvas_id: str, canvas_rect: Rect, region: Region) -> Step | None:
    raster = Rect(0, 0, output.timing.width, output.timing.height)
    rect = Rect(region.x, region.y, region.w, region.h)
    weight = _weight_of(show, region)
    factors = None if weight is None else code_factor(weight, output.picture.gamma)
    landing = region.landing
    if isinstance(landing, RectLanding):
        where, flip, turn = Rect(landing.x, landing.y, landing.w, landing.h), landing.flip, landing.turn
        laid: Floats | None = None if factors is None else oriented(factors, flip, turn)
        if landing.native == (rect.w, rect.h):
            on_raster = turned_rect(rect.meet(canvas_rect).moved(-rect.x, -rect.y), rect.w, rect.h, flip, turn).moved(where.x, where.y)
            put = on_raster.meet(raster)
            if put.empty:
                return None
            take = unturned_rect(put.moved(-where.x, -where.y), rect.w, rect.h, flip, turn).moved(rect.x, rect.y)
            part = None if laid is None else _factor(laid[put.moved(-where.x, -where.y).cut()], put)
            return Step(region.id, canvas_id, "turn" if flip or turn else "copy", take, put, flip, turn, None, part)
        if canvas_rect.holds(rect) and raster.holds(where):
            scaled = None if laid is None else _factor(np.asarray(cv2.resize(laid, (where.w, where.h)), np.float32), where)
            return Step(region.id, canvas_id, "resize", rect, where, flip, turn, None, scaled)
        corners = landing_corners(landing)
    else:
        assert isinstance(landing, QuadLanding)
        corners = landing.corners
        if not is_convex(corners):
            return None
    put = _bounds(corners, raster)
    take = rect.meet(canvas_rect)
    if put.empty or take.empty:
        return None
    u, v = inverse_maps(corners, rect, put)
    warped = None
    if factors is not None:
        # Past the edge the weight of the edge goes on: a pixel half outside a blended edge must stay as dark as the edge.
        warped = _factor(np.asarray(cv2.remap(factors, u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32), put)
    maps = (np.ascontiguousarray(u - np.float32(take.x - rect.x)), np.ascontiguousarray(v - np.float32(take.y - rect.y)))
    return Step(region.id, canvas_id, "warp", take, put, maps=maps, factor=warped)


class KnownStep(NamedTuple):
    """A step compiled before, and all that it was compiled from."""

    region: Region
    canvas: tuple[str, int, int]
    output: Output
    step: Step | None


Known = dict[str, KnownStep]


def compile_output(show: Show, output: Output, known: Known | None = None) -> OutputPlan:
    """Compile the plan of one output from every region that names it.

    Parameters
    ----------
    show : Show
    output : Output
        One of the show's outputs.
    known : dict, optional
        Steps compiled before, by region; those whose region, canvas and output are the very same are taken over, and new ones added.

    Returns
    -------
    OutputPlan
        Steps in the order of the document.  Parts of a region off the canvas or the raster are left out; a crossed quad is
        left out whole.
    """
    steps = []
    blended = {s.id for s in show.surfaces if s.kind == "projection"}
    for canvas, region in show.landing_on.get(output.id, ()):
        face = (canvas.id, canvas.width, canvas.height)
        old = known.get(region.id) if known is not None and region.surface not in blended else None
        if old is not None and old.region is region and old.canvas == face and old.output is output:
            step = old.step
        else:
            step = _step(show, output, canvas.id, Rect(0, 0, canvas.width, canvas.height), region)
            if known is not None:
                known[region.id] = KnownStep(region, face, output, step)
        if step is not None:
            steps.append(step)
    return OutputPlan(output.id, output.timing.width, output.timing.height, tuple(steps),
                      adjustment(output.picture, output.signal), FLIP_CODES.get(output.picture.flip))


def blank_raster(plan: OutputPlan) -> Pixels:
    """An opaque raster of the output's size, of what the output makes of black."""
    raster = np.zeros((plan.height, plan.width, 4), np.uint8)
    raster[..., 3] = 255
    return raster if plan.adjust is None else adjusted(raster, plan.adjust)


def run_step(step: Step, source: Pixels, raster: Pixels) -> None:
    """Bring one region from its canvas onto the raster, in place.

    Parameters
    ----------
    step : Step
    source : ndarray, shape (step.take.h, step.take.w, 4), uint8
        What the canvas shows at ``step.take``.
    raster : ndarray, shape (h, w, 4), uint8
        The whole raster; only ``step.put`` is written.
    """
    target = raster[step.put.cut()]
    if step.how == "copy":
        np.copyto(target, source)
    elif step.how == "turn":
        np.copyto(target, oriented(source, step.flip, step.turn))
    elif step.how == "resize" and (step.flip or step.turn):
        np.copyto(target, resized(oriented(source, step.flip, step.turn), step.put.w, step.put.h))
    elif step.how == "resize":
        done = resized(source, step.put.w, step.put.h, target)
        if done is not target:
            np.copyto(target, done)
    else:
        assert step.maps is not None
        cv2.remap(source, step.maps[0], step.maps[1], cv2.INTER_LINEAR, dst=target, borderMode=cv2.BORDER_CONSTANT,
                  borderValue=(0, 0, 0, 255))
    dim(step, raster)


def dim(step: Step, raster: Pixels) -> None:
    """Multiply a step's blend factors into the raster, in place, where they are not 1."""
    if step.factor is not None:
        lit = raster[step.factor.at.cut()]
        cv2.multiply(lit, step.factor.values, dst=lit, dtype=cv2.CV_8U)


def seen_by(step: Step, dirty: list[Rect]) -> bool:
    """Whether any changed rectangle of the canvas is within what the step reads."""
    return any(not step.take.meet(rect).empty for rect in dirty)
