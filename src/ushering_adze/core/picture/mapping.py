"""Mapping plans: for each output, the cheapest exact operations that bring its regions from the canvas onto its raster.

A plan is compiled once from the show and run for every frame: copy or turn where sizes agree, resize where they do not,
remap where a landing bends; then its light is weighted and lifted, only where that changes it.
"""

from __future__ import annotations

from functools import lru_cache
from operator import is_
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import FLIP_CODES, adjustment, wire_table
from ushering_adze.core.mapping.bend import warp_of_landing, warp_of_region
from ushering_adze.core.mapping.orient import oriented, turned_rect, unturned_rect
from ushering_adze.core.mapping.outline import sides_on_raster
from ushering_adze.core.picture.bending import Bent, bent_of, taken_by, taken_maps
from ushering_adze.core.picture.joining import alone, joined
from ushering_adze.core.picture.lighting import Light, bare_finish, light_of, lit_finish
from ushering_adze.core.picture.steps import OutputPlan, Step, blank_raster
from ushering_adze.core.plane.coverage import Side
from ushering_adze.core.plane.nudged import distance_moved
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import MeshLanding, Output, PictureSettings, RectLanding, Region, Show, SignalSettings
from ushering_adze.core.show.canvas import Landing, Resampling


def _is_plain(region: Region, canvas: Rect, raster: Rect) -> bool:
    """Whether a region is copied, turned or resized, so that no maps are needed."""
    landing = region.landing
    return isinstance(landing, RectLanding) and (
        landing.native == (region.w, region.h)
        or (
            canvas.holds(Rect(region.x, region.y, region.w, region.h))
            and raster.holds(Rect(landing.x, landing.y, landing.w, landing.h))
        )
    )


def _plain_step(
    output: Output, canvas_id: str, canvas: Rect, raster: Rect, region: Region, light: Light | None
) -> Step | None:
    landing, rect = region.landing, Rect(region.x, region.y, region.w, region.h)
    assert isinstance(landing, RectLanding)
    where, flip, turn = Rect(landing.x, landing.y, landing.w, landing.h), landing.flip, landing.turn
    if landing.native != (rect.w, rect.h):
        finish = lit_finish(
            output,
            region,
            light,
            where,
            None,
            lambda w: np.asarray(cv2.resize(oriented(w, flip, turn), (where.w, where.h)), np.float32),
        )
        return Step(region.id, canvas_id, "resize", rect, where, flip, turn, None, finish)
    put = (
        turned_rect(rect.meet(canvas).moved(-rect.x, -rect.y), rect.w, rect.h, flip, turn)
        .moved(where.x, where.y)
        .meet(raster)
    )
    if put.empty:
        return None
    take = unturned_rect(put.moved(-where.x, -where.y), rect.w, rect.h, flip, turn).moved(rect.x, rect.y)
    part = put.moved(-where.x, -where.y).cut()
    finish = lit_finish(output, region, light, put, None, lambda w: np.ascontiguousarray(oriented(w, flip, turn)[part]))
    return Step(region.id, canvas_id, "turn" if flip or turn else "copy", take, put, flip, turn, None, finish)


LAG = 3.0
"""Raster pixels by which, while a mesh is being moved, weights may stay behind: a hundredth of a usual ramp."""


def _bent_step(
    output: Output,
    canvas_id: str,
    canvas: Rect,
    region: Region,
    light: Light | None,
    bent: Bent,
    kept: KnownStep | None = None,
) -> Step:
    rect = Rect(region.x, region.y, region.w, region.h)
    how: Resampling = "linear" if isinstance(region.landing, RectLanding) else region.landing.resampling
    take = rect.meet(canvas)
    if (
        kept is not None and kept.step is not None and take == rect and kept.step.natural
    ):  # a mesh that moved a little lands as large as before
        step = kept.step._replace(maps=bent.maps)
    else:
        taken = taken_by(region, take, how)
        finish = (
            kept.step.finish
            if kept is not None and kept.step is not None
            else lit_finish(output, region, light, bent.put, bent.maps, None, bent.coverage.touched)
        )
        step = Step(
            region.id,
            canvas_id,
            "warp",
            take,
            bent.put,
            maps=taken_maps(bent.maps, region, take, taken),
            finish=finish,
            resampling=how,
            shrink=taken.shrink,
            halved=taken.halved,
            rest=taken.rest,
        )
    if kept is not None and kept.bent is not None and kept.bent.coverage is bent.coverage:
        return step
    return alone(step, bent.coverage, output.timing.width)


class KnownStep(NamedTuple):
    """A step compiled before, and all that it was compiled from: its region, canvas, output, and how its light is
    shared.
    """

    region: Region
    canvas: tuple[str, int, int]
    output: Output
    light: Light | None
    step: Step | None
    bent: Bent | None = None
    laid: tuple[tuple[Step, ...], Step] | None = None
    """All steps of its output, and this one as it is laid beside them."""


Known = dict[str, KnownStep]


def _same_light(a: Light | None, b: Light | None) -> bool:
    """Whether light is shared in the very same way."""
    return (a is b is None) or (
        a is not None
        and b is not None
        and a.own is b.own
        and a.share is b.share
        and a.sign == b.sign
        and a.batches == b.batches
    )


def lagging_landings(show: Show, known: Known) -> dict[str, Landing]:
    """The landings of meshes that have moved so little since their weights were computed that these may stay for now.

    Parameters
    ----------
    show : Show
    known : Known
        What is known already, to be used again.

    Returns
    -------
    dict[str, Landing]
    """
    found: dict[str, Landing] = {}
    for id, step in known.items():
        home, lit = show.homes.get(id), step.bent.lit if step.bent is not None else None
        if home is None or lit is None or not isinstance(lit, MeshLanding):
            continue
        now = home[1]
        if now.landing == lit or (
            isinstance(now.landing, MeshLanding)
            and distance_moved(warp_of_landing(lit, now.w, now.h), warp_of_region(now)) < LAG
        ):
            found[id] = lit
    return found


def _lags(
    old: KnownStep, region: Region, face: tuple[str, int, int], output: Output, light: Light | None, bent: Bent
) -> bool:
    """Whether a step is what it was but for a mesh that moved a little, so that its weights may follow when
    it rests.
    """
    return (
        old.bent is not None
        and old.step is not None
        and old.bent.put == bent.put
        and bent.lattice is not None
        and old.canvas == face
        and old.output is output
        and old.region.model_copy(update={"landing": region.landing}) == region
        and _same_light(old.light, light)
    )


@lru_cache(maxsize=256)
def _codes(
    picture: PictureSettings, signal: SignalSettings
) -> tuple[NDArray[np.float64] | None, NDArray[np.float64] | None, Pixels | None]:
    """How an output's codes are changed before its wire and with it, and the table of the wire alone; not to be written
    to.
    """
    return adjustment(picture, SignalSettings()), adjustment(picture, signal), wire_table(signal)


def compile_output(
    show: Show,
    output: Output,
    known: Known | None = None,
    quick: bool = False,
    lagging: dict[str, Landing] | None = None,
) -> OutputPlan:
    """Compile the plan of one output from every region that names it.

    Parameters
    ----------
    show : Show
    output : Output
        One of the show's outputs.
    known : dict, optional
        Steps compiled before, by region; those whose region, canvas, output and share of light are the very same are
        taken over, and new ones added.  Where only the light differs, the maps of a bend are.
    quick : bool
        Let meshes whose points moved a little be changed there only: a third of a pixel off at most as a rule, along
        edges, and many times as fast.  Compiled again without it, they are exact.
    lagging : dict, optional
        What `lagging_landings` says of the show, where it is quick and that is known already.

    Returns
    -------
    OutputPlan
        Steps in the order of the document.  Parts of a region off the canvas or the raster are left out; a bend that
        cannot be is left out whole.
    """
    raster = Rect(0, 0, output.timing.width, output.timing.height)
    if known is None:
        known = {}
    if lagging is None:
        lagging = lagging_landings(show, known) if quick else {}
    landed: list[str] = []
    edges: dict[Side, Side] = {}
    for canvas, region in show.landing_on.get(output.id, ()):
        face = (canvas.id, canvas.width, canvas.height)
        light = light_of(show, region, lagging)
        old = known.get(region.id)
        landed.append(region.id)
        same = (
            old is not None
            and (quick or old.bent is None or not old.bent.rough)
            and old.region is region
            and old.canvas == face
            and old.output is output
            and _same_light(old.light, light)
        )
        if same and old is not None and old.bent is None:
            continue
        whole = Rect(0, 0, canvas.width, canvas.height)
        plain = _is_plain(region, whole, raster)
        sides = None if plain else sides_on_raster(region, whole, edges)
        if same and old is not None and old.bent is not None and old.bent.sides == sides:
            continue
        step, bent = None, None
        if plain:
            step = _plain_step(output, canvas.id, whole, raster, region, light)
        elif sides is not None:
            bent = bent_of(
                old.bent if old is not None else None,
                old.region if old is not None else None,
                region,
                output,
                sides,
                quick,
            )
            if bent is not None:
                follows = old is not None and region.id in lagging and _lags(old, region, face, output, light, bent)
                step = _bent_step(output, canvas.id, whole, region, light, bent, old if follows else None)
                bent = bent._replace(lit=lagging[region.id] if follows else region.landing)
        if step is not None and output.picture.response is not None:
            step = step._replace(bare=bare_finish(output, step.put))
        known[region.id] = KnownStep(region, face, output, light, step, bent)
    before, after, wire = _codes(output.picture, output.signal)
    measured = output.picture.response is not None
    plan = OutputPlan(
        output.id,
        output.timing.width,
        output.timing.height,
        _laid(landed, known, output),
        before if measured else after,
        FLIP_CODES.get(output.picture.flip),
        before,
        wire,
        measured,
    )
    blue, green, red, alpha = (int(v) for v in blank_raster(plan._replace(width=1, height=1))[0, 0])
    return plan._replace(blank=(blue, green, red, alpha))


def _laid(landed: list[str], known: Known, output: Output) -> tuple[Step, ...]:
    """The steps of an output as they are laid beside one another; kept while all of them are the very same."""
    each = [(id, held, held.step) for id, held in ((id, known[id]) for id in landed) if held.step is not None]
    steps = tuple([step for _, _, step in each])
    bends = [k for k, (_, held, _) in enumerate(each) if held.bent is not None]
    if not any(not steps[k].put.meet(other.put).empty for k in bends for n, other in enumerate(steps) if n != k):
        return steps
    kept = [held.laid for _, held, _ in each]
    if all(k is not None and len(k[0]) == len(steps) and all(map(is_, k[0], steps)) for k in kept):
        return tuple(k[1] for k in kept if k is not None)
    laid = joined(
        steps,
        [held.bent.coverage if held.bent is not None else None for _, held, _ in each],
        output.timing.width,
        output.timing.height,
    )
    for (id, held, _), step in zip(each, laid, strict=True):
        known[id] = held._replace(laid=(steps, step))
    return tuple(laid)


def is_rough(known: Known) -> bool:
    """Whether any step was compiled quickly, and not as exactly as can be."""
    return any(step.bent is not None and step.bent.rough for step in known.values())
