"""Mapping plans: for each output, the cheapest exact operations that bring its regions from the canvas onto its raster.

A plan is compiled once from the show and run for every frame: copy or turn where sizes agree, resize where they do not, remap where a
landing bends; then its light is weighted and lifted, only where that changes it.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.layout.bend import bend_fault, corners_of, points_of, warp_of_landing, warp_of_region
from ushering_adze.core.layout.homography import homography
from ushering_adze.core.layout.inverse import Lattice, Maps, inverse_warp, lattice_of, polished
from ushering_adze.core.layout.mesh import slopes
from ushering_adze.core.layout.moved import MOST, distance_moved, lattice_moved
from ushering_adze.core.layout.orient import oriented, turned_rect, unturned_rect
from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.light.adjust import FLIP_CODES, adjusted, adjustment, wire_table
from ushering_adze.core.picture.compose import resized
from ushering_adze.core.picture.finish import Finish, run_finish
from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.picture.lighting import Light, light_of, lit_finish
from ushering_adze.core.show import MeshLanding, Output, PictureSettings, RectLanding, Region, Show, SignalSettings
from ushering_adze.core.show.canvas import Landing, Resampling

How = Literal["copy", "turn", "resize", "warp"]
Floats = NDArray[np.float32]


class Step(NamedTuple):
    """One region on its way to the raster.

    ``take`` is the part of the canvas that is read, ``put`` the part of the raster that is written.  ``maps`` are the inverse
    maps of a warp: for each pixel of ``put``, the place in ``take`` it shows, float32.  ``flip`` and ``turn`` say how a picture that
    is turned or resized lies on the raster.  ``shrink`` is by how much the picture is made smaller before it is warped.
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
    resampling: Resampling = "linear"
    shrink: float = 1.0


class OutputPlan(NamedTuple):
    """Everything an output does with its canvases, in order.

    ``adjust`` is the affine map of its codes where its light is not weighted.  Where it is, ``before`` is the map of codes before that,
    and ``wire`` a table of codes after it, shape (1, 256, 4); everywhere if the response was ``measured``.  ``flip`` is OpenCV's code of a
    flip, or None.
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


def _bounds(points: NDArray[np.float64], raster: Rect) -> Rect:
    """The part of a raster that a landing can touch; curves between points go out by a twentieth of the whole at most."""
    low, high = points.min(0), points.max(0)
    more = 1.0 if len(points) == 4 else 1.0 + 0.05 * float((high - low).max())
    whole = 1 if len(points) == 4 else 16  # by whole blocks, so that a point that moves a little seldom touches other pixels
    x0, y0 = (int(v) * whole for v in np.floor((low - more) / whole))
    x1, y1 = (int(v) * whole for v in np.ceil((high + more) / whole))
    return Rect(x0, y0, x1 - x0, y1 - y0).meet(raster)


def _is_plain(region: Region, canvas: Rect, raster: Rect) -> bool:
    """Whether a region is copied, turned or resized, so that no maps are needed."""
    landing = region.landing
    return isinstance(landing, RectLanding) and (landing.native == (region.w, region.h) or (
        canvas.holds(Rect(region.x, region.y, region.w, region.h)) and raster.holds(Rect(landing.x, landing.y, landing.w, landing.h))))


def _plain_step(output: Output, canvas_id: str, canvas: Rect, raster: Rect, region: Region, light: Light | None) -> Step | None:
    landing, rect = region.landing, Rect(region.x, region.y, region.w, region.h)
    assert isinstance(landing, RectLanding)
    where, flip, turn = Rect(landing.x, landing.y, landing.w, landing.h), landing.flip, landing.turn
    if landing.native != (rect.w, rect.h):
        finish = lit_finish(output, region, light, where, None,
                            lambda w: np.asarray(cv2.resize(oriented(w, flip, turn), (where.w, where.h)), np.float32))
        return Step(region.id, canvas_id, "resize", rect, where, flip, turn, None, finish)
    put = turned_rect(rect.meet(canvas).moved(-rect.x, -rect.y), rect.w, rect.h, flip, turn).moved(where.x, where.y).meet(raster)
    if put.empty:
        return None
    take = unturned_rect(put.moved(-where.x, -where.y), rect.w, rect.h, flip, turn).moved(rect.x, rect.y)
    part = put.moved(-where.x, -where.y).cut()
    finish = lit_finish(output, region, light, put, None, lambda w: np.ascontiguousarray(oriented(w, flip, turn)[part]))
    return Step(region.id, canvas_id, "turn" if flip or turn else "copy", take, put, flip, turn, None, finish)


LAG = 3.0
"""Raster pixels by which, while a mesh is being moved, weights may stay behind: a hundredth of a usual ramp."""


def _bent_step(output: Output, canvas_id: str, canvas: Rect, region: Region, light: Light | None, bent: Bent,
               kept: KnownStep | None = None) -> Step | None:
    landing, rect, (u, v) = region.landing, Rect(region.x, region.y, region.w, region.h), bent.maps
    how: Resampling = "linear" if isinstance(landing, RectLanding) else landing.resampling
    take = rect.meet(canvas)
    if take.empty:
        return None
    shrink = _shrink(region) if how == "area" else 1.0
    if kept is not None and kept.step is not None and how == "linear":
        return kept.step._replace(maps=_taken(u, v, rect, take, shrink))
    cover = None
    if how != "linear":  # these take the edge's own pixels past the edge, and are cut off there
        inside = (u >= -0.5) & (u <= rect.w - 0.5) & (v >= -0.5) & (v <= rect.h - 0.5)
        cover = inside.astype(np.float32)
    finish = lit_finish(output, region, light, bent.put, bent.maps, None, cover)
    return Step(region.id, canvas_id, "warp", take, bent.put, maps=_taken(u, v, rect, take, shrink), finish=finish, resampling=how,
                shrink=shrink)


def maps_of(region: Region, put: Rect) -> Maps:
    """For each pixel of a rectangle of the raster, the place of the region it shows, in pixel centres; float32, shape (h, w)."""
    if isinstance(region.landing, MeshLanding):
        return inverse_warp(warp_of_region(region), put.x, put.y, put.w, put.h)
    return inverse_maps(corners_of(region.landing), Rect(0, 0, region.w, region.h), put)


def _shrink(region: Region) -> float:
    """By how much a region becomes smaller on its way, in the mean; 1 at least."""
    warp = warp_of_region(region)
    u, v = np.meshgrid(np.linspace(0.1, 0.9, 5) * region.w, np.linspace(0.1, 0.9, 5) * region.h)
    area = float(np.median(np.abs(np.linalg.det(slopes(warp, np.stack([u.ravel(), v.ravel()], -1))))))
    return float(max(1.0, 1 / max(area, 1e-6) ** 0.5))


def _taken(u: Floats, v: Floats, rect: Rect, take: Rect, shrink: float) -> Maps:
    """Maps into the part of the canvas that is read, at the size it is read at."""
    if take != rect:
        u, v = u - np.float32(take.x - rect.x), v - np.float32(take.y - rect.y)
    if shrink > 1:
        w, h = _shrunk(take, shrink)
        half = np.float32(0.5)
        u, v = (u + half) * np.float32(w / take.w) - half, (v + half) * np.float32(h / take.h) - half
    return u, v


def _shrunk(take: Rect, shrink: float) -> tuple[int, int]:
    return max(1, round(take.w / shrink)), max(1, round(take.h / shrink))


class Bent(NamedTuple):
    """The inverse maps of a bend over the rectangle ``put`` of a raster, in pixels of the region, and what they come from.

    ``moved`` is by how much its mesh has moved, in raster pixels, since its lattice was computed whole; ``rough`` ones are
    to be computed as exactly as can be when there is time.  ``lit`` is the landing that its weights are for.
    """

    put: Rect
    maps: Maps
    lattice: Lattice | None = None
    moved: float = 0.0
    rough: bool = False
    lit: Landing | None = None


def _bent(old: KnownStep | None, region: Region, output: Output, quick: bool) -> Bent | None:
    """The maps of a bend; those it had where it is as it was, and changed a little where its mesh has moved a little and it must be quick."""
    landing = region.landing
    if bend_fault(region, output) is not None:
        return None
    put = _bounds(points_of(landing), Rect(0, 0, output.timing.width, output.timing.height))
    if put.empty:
        return None
    smooth = isinstance(landing, MeshLanding) and landing.spans == "smooth"
    lattice, moved = None, 0.0
    if old is not None and old.bent is not None and old.bent.put == put and (old.region.w, old.region.h) == (region.w, region.h):
        if old.region.landing == landing and (quick or not old.bent.rough):
            return old.bent
        before, now = warp_of_region(old.region), warp_of_region(region)
        moved = old.bent.moved + distance_moved(before, now)
        if quick and smooth and old.bent.lattice is not None and moved < MOST and now.nodes.shape[:2] != (2, 2):
            lattice = lattice_moved(before, now, old.bent.lattice)
    if not smooth:
        return Bent(put, maps_of(region, put))
    if lattice is None:
        lattice, moved = lattice_of(warp_of_region(region), *put), 0.0
    maps = lattice.spread(*put)
    return Bent(put, maps if quick else polished(warp_of_region(region), maps, put.x, put.y), lattice, moved, quick)


class KnownStep(NamedTuple):
    """A step compiled before, and all that it was compiled from: its region, canvas, output, and how its light is shared."""

    region: Region
    canvas: tuple[str, int, int]
    output: Output
    light: Light | None
    step: Step | None
    bent: Bent | None = None


Known = dict[str, KnownStep]


def _same_light(a: Light | None, b: Light | None) -> bool:
    """Whether light is shared in the very same way."""
    return (a is b is None) or (a is not None and b is not None and a.own is b.own and a.share is b.share and a.sign == b.sign
                              and a.batches == b.batches)


def lagging_landings(show: Show, known: Known) -> dict[str, Landing]:
    """The landings of meshes that have moved so little since their weights were computed that these may stay for now."""
    found: dict[str, Landing] = {}
    for id, step in known.items():
        home, lit = show.homes.get(id), step.bent.lit if step.bent is not None else None
        if home is None or lit is None or not isinstance(lit, MeshLanding):
            continue
        now = home[1]
        if now.landing == lit or (isinstance(now.landing, MeshLanding) and distance_moved(
                warp_of_landing(lit, now.w, now.h), warp_of_region(now)) < LAG):
            found[id] = lit
    return found


def _lags(old: KnownStep, region: Region, face: tuple[str, int, int], output: Output, light: Light | None, bent: Bent) -> bool:
    """Whether a step is what it was but for a mesh that moved a little, so that its weights may follow when it rests."""
    return (old.bent is not None and old.step is not None and old.bent.put == bent.put and bent.lattice is not None and old.canvas == face
            and old.output is output and old.region.model_copy(update={"landing": region.landing}) == region and _same_light(old.light, light))


@lru_cache(maxsize=256)
def _codes(picture: PictureSettings, signal: SignalSettings) -> tuple[NDArray[np.float64] | None, NDArray[np.float64] | None, Pixels | None]:
    """How an output's codes are changed before its wire and with it, and the table of the wire alone; not to be written to."""
    return adjustment(picture, SignalSettings()), adjustment(picture, signal), wire_table(picture, signal)


def compile_output(show: Show, output: Output, known: Known | None = None, quick: bool = False,
                   lagging: dict[str, Landing] | None = None) -> OutputPlan:
    """Compile the plan of one output from every region that names it.

    Parameters
    ----------
    show : Show
    output : Output
        One of the show's outputs.
    known : dict, optional
        Steps compiled before, by region; those whose region, canvas, output and share of light are the very same are taken over, and
        new ones added.  Where only the light differs, the maps of a bend are.
    quick : bool
        Let meshes whose points moved a little be changed there only: a third of a pixel off at most as a rule, along edges, and many times
        as fast.  Compiled again without it, they are exact.
    lagging : dict, optional
        What `lagging_landings` says of the show, where it is quick and that is known already.

    Returns
    -------
    OutputPlan
        Steps in the order of the document.  Parts of a region off the canvas or the raster are left out; a bend that cannot be is
        left out whole.
    """
    steps = []
    raster = Rect(0, 0, output.timing.width, output.timing.height)
    if lagging is None:
        lagging = lagging_landings(show, known) if quick and known is not None else {}
    for canvas, region in show.landing_on.get(output.id, ()):
        face = (canvas.id, canvas.width, canvas.height)
        light = light_of(show, region, lagging)
        old = known.get(region.id) if known is not None else None
        fine = old is not None and (quick or old.bent is None or not old.bent.rough)
        if old is not None and fine and old.region is region and old.canvas == face and old.output is output and _same_light(old.light, light):
            step = old.step
        else:
            whole, bent = Rect(0, 0, canvas.width, canvas.height), None
            if _is_plain(region, whole, raster):
                step = _plain_step(output, canvas.id, whole, raster, region, light)
            else:
                bent = _bent(old, region, output, quick)
                follows = bent is not None and old is not None and region.id in lagging and _lags(old, region, face, output, light, bent)
                step = _bent_step(output, canvas.id, whole, region, light, bent, old if follows else None) if bent is not None else None
                if bent is not None:
                    bent = bent._replace(lit=lagging[region.id] if follows else region.landing)
            if known is not None:
                known[region.id] = KnownStep(region, face, output, light, step, bent)
        if step is not None:
            steps.append(step)
    before, after, wire = _codes(output.picture, output.signal)
    measured = output.picture.response is not None
    return OutputPlan(output.id, output.timing.width, output.timing.height, tuple(steps), before if measured else after,
                      FLIP_CODES.get(output.picture.flip), before, wire, measured)


def is_rough(known: Known) -> bool:
    """Whether any step was compiled quickly, and not as exactly as can be."""
    return any(step.bent is not None and step.bent.rough for step in known.values())


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
        assert step.maps is not None
        if step.shrink > 1:
            source = np.asarray(cv2.resize(source, _shrunk(step.take, step.shrink), interpolation=cv2.INTER_AREA), np.uint8)
        if step.resampling == "linear":
            cv2.remap(source, *step.maps, cv2.INTER_LINEAR, dst=target, borderMode=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 255))
        else:
            kind = {"nearest": cv2.INTER_NEAREST, "cubic": cv2.INTER_CUBIC, "area": cv2.INTER_LINEAR}[step.resampling]
            cv2.remap(source, *step.maps, kind, dst=target, borderMode=cv2.BORDER_REPLICATE)


def finish_step(step: Step, plan: OutputPlan, raster: Pixels) -> None:
    """What is done to a step's part of the raster after its picture is there: adjust, weigh and lift its light, and make codes for the wire."""
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
    """Whether any changed rectangle of the canvas is within what a step reads; kept, because the same places change in every frame."""
    return any(not take.meet(rect).empty for rect in dirty)
