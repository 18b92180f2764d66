"""The steps by which a raster is filled from its canvases, and how each is run.

A step writes only what its landing covers.  Along its edge, where it covers a pixel in part, it leaves the rest to
whoever else is there: landings that meet share such pixels by what each covers, and lose nothing.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import adjusted
from ushering_adze.core.mapping.orient import oriented
from ushering_adze.core.picture.finish import Finish, run_finish
from ushering_adze.core.picture.resampling import reduced, resized, softened
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show.canvas import Resampling

How = Literal["copy", "turn", "resize", "warp"]
Floats = NDArray[np.float32]


class Cover(NamedTuple):
    """How a step shares its raster with those before it.

    ``at`` are the pixels it covers in part, counted row by row over the whole raster; each becomes ``own`` of what the
    step shows, ``keep`` of what was there, and ``bare`` of the bare raster; float32, shape (n, 1).  ``spared`` are
    pixels within ``put`` that belong to others, ``others`` whole rectangles of such; ``hollow`` pixels within ``put``
    that belong to nobody, ``hollows`` whole rectangles of such.
    """

    at: NDArray[np.intp]
    own: Floats
    keep: Floats | None
    bare: Floats
    spared: NDArray[np.intp] | None = None
    others: tuple[Rect, ...] = ()
    hollow: NDArray[np.intp] | None = None
    hollows: tuple[Rect, ...] = ()
    parts: Pixels | None = None
    """``own`` in 255 parts, shape (n, 4), where nothing is kept; alpha stays whole."""


class Step(NamedTuple):
    """One region on its way to the raster.

    ``take`` is the part of the canvas that is read, ``put`` the part of the raster that is written.  ``maps`` are the
    inverse maps of a warp: for each pixel of ``put``, the place in ``take`` it shows, float32.  ``flip`` and ``turn``
    say how a picture that is turned or resized lies on the raster.  Before it is warped a picture is made smaller by
    ``shrink``, across and down, or halved as often as ``halved`` says, across and down, from so many pixels left of it
    and above it; then it still becomes ``rest`` times smaller. ``bare`` is the finish with no light shared, lifted or
    held back.
    """

    region: str
    canvas: str
    how: How
    take: Rect
    put: Rect
    flip: bool = False
    turn: int = 0
    maps: tuple[Floats, Floats] | None = None
    finish: Finish | None = None
    bare: Finish | None = None
    resampling: Resampling = "linear"
    shrink: tuple[float, float] = (1.0, 1.0)
    halved: tuple[int, int, int, int] = (0, 0, 0, 0)
    rest: tuple[float, float] = (1.0, 1.0)
    cover: Cover | None = None

    @property
    def natural(self) -> bool:
        """Whether a bend takes its picture as it is, not made smaller before."""
        return self.shrink == self.rest == (1.0, 1.0) and not any(self.halved)


class OutputPlan(NamedTuple):
    """Everything an output does with its canvases, in order.

    ``adjust`` is the affine map of its codes where its light is not weighted.  Where it is, ``before`` is the map of
    codes before that, and ``wire`` a table of codes after it, shape (1, 256, 4); everywhere if the response was
    ``measured``.  ``blank`` is the code of the bare raster as it leaves.  ``flip`` is OpenCV's code of a flip, or None.
    """

    output: str
    width: int
    height: int
    steps: tuple[Step, ...]
    adjust: NDArray[np.float64] | None = None
    flip: int | None = None
    before: NDArray[np.float64] | None = None
    wire: Pixels | None = None
    measured: bool = False
    blank: tuple[int, int, int, int] = (0, 0, 0, 255)

    @property
    def canvases(self) -> frozenset[str]:
        """Canvases the output shows."""
        return frozenset(step.canvas for step in self.steps)


def blank_raster(plan: OutputPlan) -> Pixels:
    """An opaque raster of the output's size, of what the output makes of black."""
    raster = np.zeros((plan.height, plan.width, 4), np.uint8)
    raster[..., 3] = 255
    _leave(plan, raster, False)
    return raster


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
        _warp(step, source, target)


def _warp(step: Step, source: Pixels, target: Pixels) -> None:
    assert step.maps is not None
    if step.shrink != (1.0, 1.0):
        source = np.asarray(cv2.resize(source, shrunk(step.take, step.shrink), interpolation=cv2.INTER_AREA), np.uint8)
    if any(step.halved):
        source = reduced(source, *step.halved)
    source = softened(source, *step.rest)
    u, v = step.maps
    kind = {
        "nearest": cv2.INTER_NEAREST,
        "linear": cv2.INTER_LINEAR,
        "cubic": cv2.INTER_CUBIC,
        "area": cv2.INTER_LINEAR,
    }[step.resampling]
    remapped(source, u, v, kind, target)


def shrunk(take: Rect, shrink: tuple[float, float]) -> tuple[int, int]:
    """The size of a part of a canvas made smaller across and down.

    Parameters
    ----------
    take : Rect
        What is taken, in pixels of where it comes from.
    shrink : tuple[float, float]
        By how much.

    Returns
    -------
    tuple[int, int]
    """
    return max(1, round(take.w / shrink[0])), max(1, round(take.h / shrink[1]))


def lay_step(step: Step, plan: OutputPlan, source: Pixels, raster: Pixels) -> None:
    """Bring one region from its canvas onto the raster and finish it, in place, beside what steps before it have put
    there.

    Parameters
    ----------
    step : Step
    plan : OutputPlan
        The step's own.
    source : ndarray, shape (step.take.h, step.take.w, 4), uint8
        What the canvas shows at ``step.take``.
    raster : ndarray, shape (h, w, 4), uint8
        The whole raster, contiguous.
    """
    cover = step.cover
    if cover is None:
        run_step(step, source, raster)
        finish_step(step, plan, raster)
        return
    whole = raster.view(np.uint32).reshape(-1)  # a pixel at a time
    spared = None if cover.spared is None else whole[cover.spared]
    others = [raster[r.cut()].copy() for r in cover.others]
    before = None if cover.keep is None else _pixels(whole, cover.at)
    run_step(step, source, raster)
    finish_step(step, plan, raster)
    shown = _pixels(whole, cover.at)
    if (
        cover.parts is not None and len(cover.at) and not any(plan.blank[:3])
    ):  # beside nothing but black: the same, and quicker
        whole[cover.at] = np.asarray(cv2.multiply(shown, cover.parts, scale=1 / 255), np.uint8).view(np.uint32)[:, 0]
    elif len(cover.at):
        mixed = shown * cover.own
        mixed += cover.bare * np.asarray(plan.blank, np.float32)
        if before is not None and cover.keep is not None:
            mixed += before * cover.keep
        whole[cover.at] = np.rint(mixed, out=mixed).astype(np.uint8).view(np.uint32)[:, 0]
    code = np.asarray(plan.blank, np.uint8).view(np.uint32)[0]
    if cover.hollow is not None:
        whole[cover.hollow] = code
    for rect in cover.hollows:
        raster[rect.cut()].view(np.uint32)[...] = code
    if spared is not None:
        whole[cover.spared] = spared
    for rect, was in zip(cover.others, others, strict=True):
        raster[rect.cut()] = was


def _pixels(whole: NDArray[np.uint32], at: NDArray[np.intp]) -> Pixels:
    """Pixels of a raster by their count, shape (n, 4)."""
    return whole[at].view(np.uint8).reshape(-1, 4)


def finish_step(step: Step, plan: OutputPlan, raster: Pixels) -> None:
    """What is done to a step's part of the raster after its picture is there: adjust, weigh and lift its light, and
    make codes for the wire.

    Parameters
    ----------
    step : Step
        One step of an output’s plan.
    plan : OutputPlan
        The output’s plan.
    raster : Pixels
        An output’s picture, shape (h, w, 4).
    """
    lit = raster[step.put.cut()]
    if step.finish is not None:
        if plan.before is not None:
            adjusted(lit, plan.before, lit)
        run_finish(step.finish, raster)
    _leave(plan, lit, step.finish is not None)


def _leave(plan: OutputPlan, lit: Pixels, weighted: bool) -> None:
    """Codes as the wire and the display want them; what was weighted is adjusted already."""
    if plan.adjust is not None and not weighted:
        adjusted(lit, plan.adjust, lit)
    if plan.wire is not None and (weighted or plan.measured):
        cv2.LUT(lit, plan.wire, dst=lit)


@lru_cache(maxsize=4096)
def seen_by(take: Rect, dirty: tuple[Rect, ...]) -> bool:
    """Whether any changed rectangle of the canvas is within what a step reads; kept, because the same places change in
    every frame.

    Parameters
    ----------
    take : Rect
        What is taken, in pixels of where it comes from.
    dirty : tuple[Rect, ...]
        Where the canvas changed.

    Returns
    -------
    bool
    """
    return any(not take.meet(rect).empty for rect in dirty)
