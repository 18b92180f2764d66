"""How the light of a step is shared out with its neighbours on a screen, weighted on its raster, and made to codes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import sent_codes
from ushering_adze.core.light.batch_levels import batch_codes
from ushering_adze.core.light.blend import blend_weights, edge_weights
from ushering_adze.core.light.share import GRID, Shape, Share, shape_of, shares_between
from ushering_adze.core.light.white import grid_light, mask_light, white_gains
from ushering_adze.core.mapping.bend import reach_of, warp_of_landing
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.mapping.wall_batches import batch_rects, wall_on_raster
from ushering_adze.core.picture.finish import Finish, Flat, Phase, dithered_tables, finish_of
from ushering_adze.core.plane.inverse import Maps
from ushering_adze.core.plane.mesh import forward
from ushering_adze.core.plane.rect import TILE, Rect, rects_of_tiles
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show import (
    Batch,
    BlackMatch,
    Blend,
    LedWall,
    LightGrid,
    MeshLanding,
    Output,
    Projection,
    RectLanding,
    Region,
    Show,
    Surface,
)
from ushering_adze.core.show.canvas import Landing

Floats = NDArray[np.float32]


class Light(NamedTuple):
    """What shares out the light of a region: weights over the region itself, or over the face of its screen; and its
    lift there.

    ``batches`` are those of the LED wall it feeds, each as rectangles of the raster.
    """

    own: Floats | None
    share: Share | None
    sign: int = 1
    batches: tuple[tuple[Batch, tuple[Rect, ...]], ...] = ()


@lru_cache(maxsize=32)
def _family_weights(rects: tuple[Rect, ...], blend: Blend) -> tuple[Floats, ...]:
    """Blend weights of one screen's pictures, kept while edits elsewhere leave them as they are; not to be
    written to.
    """
    return tuple(blend_weights(rects, blend.exponent, blend.curve))


Family = tuple[tuple[Region, Output], ...]


def family_of(show: Show, surface: str) -> Family:
    """The regions that light one screen, with their outputs; repeats left out.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    Family
    """
    return tuple((r, show.output(r.output)) for r in show.lit_by(surface))


@lru_cache(maxsize=128)
def _shape(face: Rect, rect: Rect, landing: Landing, raster: tuple[int, int], grid: int) -> Shape:
    bare = Region.model_construct(id="r", name="r", x=rect.x, y=rect.y, w=rect.w, h=rect.h, output="o", landing=landing)
    return shape_of(face, rect, reach_of(bare, raster), grid)


@lru_cache(maxsize=16)
def _family_shares(
    face: Rect,
    shapes: tuple[Shape, ...],
    blacks: tuple[BlackMatch | None, ...],
    blend: Blend,
    grid: int,
    uneven: tuple[Uneven | None, ...],
) -> tuple[Share, ...]:
    leaks = [b.leak if b is not None else None for b in blacks]
    softs = [b.soft if b is not None else 0.0 for b in blacks]
    own = [None if u is None else _unevenness(face, grid, u) for u in uneven]
    return tuple(shares_between(face, shapes, leaks, softs, blend.exponent, blend.curve, grid, own))


class Uneven(NamedTuple):
    """A picture whose white was found uneven: its region and landing, its raster, and the factors that make it even."""

    rect: Rect
    landing: Landing
    raster: tuple[int, int]
    factors: LightGrid


COARSE = 32
"""Points of a grid over a screen between two at which unevenness, which changes slowly, is looked up."""


def _unevenness(face: Rect, grid: int, uneven: Uneven) -> Floats:
    """A picture's white over the points of a screen's grid, as a multiple of the even one, red first."""
    rows, columns = -(-face.h // grid), -(-face.w // grid)
    x, y = (np.append(np.arange(0, n, COARSE), n - 1) for n in (columns, rows))
    places = np.stack(np.meshgrid(face.x + (x + 0.5) * grid, face.y + (y + 0.5) * grid), -1)
    width, height = uneven.rect.w, uneven.rect.h
    at = forward(warp_of_landing(uneven.landing, width, height), places - (uneven.rect.x, uneven.rect.y))
    f = uneven.factors
    values = np.array([f.red, f.green, f.blue], np.float32).reshape(3, f.rows, f.columns).transpose(1, 2, 0)
    u = np.clip(at[..., 0] / uneven.raster[0], 0, 1) * (f.columns - 1)
    v = np.clip(at[..., 1] / uneven.raster[1], 0, 1) * (f.rows - 1)
    found = 1 / np.maximum(
        remapped(np.ascontiguousarray(values), u.astype(np.float32), v.astype(np.float32)), np.float32(0.05)
    )
    places_x, places_y = (
        np.interp(np.arange(n), at, np.arange(len(at))).astype(np.float32) for n, at in ((columns, x), (rows, y))
    )
    return remapped(np.ascontiguousarray(found), *np.meshgrid(places_x, places_y))


def screen_shares(show: Show, surface: str, lagging: Mapping[str, Landing] = {}) -> tuple[Share, ...]:
    """How the pictures of one screen share its light, in the order of `family_of`; the very same ones while they stay
    as they are.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    lagging : Mapping[str, Landing], optional
        Landings whose exact maps are still to come.

    Returns
    -------
    tuple[Share, ...]
    """
    screen = show.surface(surface)
    blend = screen.blend if isinstance(screen, Projection) else Blend()
    family = family_of(show, surface)
    blacks = tuple(o.black if o.black is not None and o.black.on else None for _, o in family)
    grid = GRID if any(blacks) else 2 * GRID  # blacks end where pictures do; ramps are smooth
    face = face_of(r for r, _ in family)
    shapes = [
        _shape(face, Rect(r.x, r.y, r.w, r.h), lagging.get(r.id, r.landing), (o.timing.width, o.timing.height), grid)
        for r, o in family
    ]
    if not any(blacks):
        shapes = [shape._replace(reach=b"") for shape in shapes]  # what lies past its region counts for blacks only
    uneven = tuple(
        Uneven(
            Rect(r.x, r.y, r.w, r.h),
            lagging.get(r.id, r.landing),
            (o.timing.width, o.timing.height),
            o.picture.uniformity,
        )
        if b is not None and o.picture.uniformity is not None
        else None
        for (r, o), b in zip(family, blacks, strict=True)
    )
    return _family_shares(face, tuple(shapes), blacks, blend, grid, uneven)


def _batches_of(show: Show, region: Region, wall: Surface | None) -> tuple[tuple[Batch, tuple[Rect, ...]], ...]:
    """The batches of the wall that a region feeds that change anything, each with where it lies on the raster."""
    if not isinstance(wall, LedWall) or not wall.batches or not any(b.on for b in wall.batches):
        return ()
    place = wall_on_raster(show, region)
    return () if place is None else tuple((b, tuple(batch_rects(wall, b, place))) for b in wall.batches if b.on)


def _toned(light: Light, output: Output, put: Rect, phase: Phase) -> tuple[Flat, ...]:
    """The tables of a region's batches over what its step writes; none where a batch changes nothing."""
    toned = []
    for batch, rects in light.batches:
        values = batch_codes(batch, output.picture.gamma)
        if np.abs(values - np.arange(256)).max() < 1e-6:
            continue
        tables = dithered_tables(values[::-1], phase)
        toned += [Flat(at, tables) for at in (r.meet(put) for r in rects) if not at.empty]
    return tuple(toned)


def light_of(show: Show, region: Region, lagging: Mapping[str, Landing] = {}) -> Light | None:
    """How the light of a region that is one projector's part of a screen is shared; None when it has no neighbour.

    For regions in ``lagging`` the light is that of the landing given there.

    Parameters
    ----------
    show : Show
    region : Region
        Which region.
    lagging : Mapping[str, Landing], optional
        Landings whose exact maps are still to come.

    Returns
    -------
    Light | None
    """
    screen = show.surface(region.surface) if region.surface is not None else None
    batches = _batches_of(show, region, screen)
    if region.edges is not None:
        return Light(_edge_weights(region.w, region.h, region.edges), None, 1, batches)
    if batches:
        return Light(None, None, 1, batches)
    if region.surface is None or region.mirror or not isinstance(screen, Projection):
        return None
    family = family_of(show, region.surface)
    mine = next(k for k, (r, _) in enumerate(family) if r is region)
    rects = [Rect(r.x, r.y, r.w, r.h) for r, _ in family]
    alone = all(rects[mine].meet(r).empty for k, r in enumerate(rects) if k != mine)
    sign = 1 if (mine % screen.columns + mine // screen.columns) % 2 == 0 else -1
    matched = any(o.black is not None and o.black.on for _, o in family)
    if alone and not matched:
        return None
    if matched or any(not isinstance(r.landing, RectLanding) for r, _ in family):
        return Light(None, screen_shares(show, region.surface, lagging)[mine], sign)
    return Light(_family_weights(tuple(rects), screen.blend)[mine], None, sign)


def _on_grid(share: Share, region: Region, u: Floats, v: Floats) -> Maps:
    """Places of a region, in pixel centres, as places on the grid over its screen's face."""
    face, scale = share.face, np.float32(1 / share.grid)
    return (
        u * scale + np.float32((0.5 + region.x - face.x) / share.grid - 0.5),
        v * scale + np.float32((0.5 + region.y - face.y) / share.grid - 0.5),
    )


def _sampled(values: Floats, share: Share, region: Region, u: Floats, v: Floats) -> Floats:
    """A grid over a screen's face, taken at places of a region in pixel centres."""
    return remapped(values, *_on_grid(share, region, u, v))


def _weight(share: Share, region: Region, u: Floats, v: Floats, ones: bool) -> tuple[Floats, NDArray[np.bool_] | None]:
    """Weights, computed only in those tiles of the raster that show places where they are not 1; and which tiles those
    are.

    Elsewhere nothing is written unless it shall be ``ones``.
    """
    straight = isinstance(region.landing, MeshLanding) and region.landing.spans == "straight"
    x, y = np.float32(region.x + 0.5), np.float32(region.y + 0.5)
    if (
        share.parted is None or straight
    ):  # straight maps leap where they end: what is in a tile cannot be told by its corners
        return share.weight_at(u + x, v + y), None
    h, w = u.shape
    rows, columns = np.append(np.arange(0, h, TILE), h - 1), np.append(np.arange(0, w, TILE), w - 1)
    corners = np.ix_(rows, columns)
    less, ends = share.parted, []
    for places, size in zip(
        _on_grid(share, region, u[corners], v[corners]), (share.weight.shape[1], share.weight.shape[0]), strict=True
    ):
        four = np.stack([places[:-1, :-1], places[:-1, 1:], places[1:, :-1], places[1:, 1:]])
        low, high = four.min(0), four.max(0)
        more = 3 + 0.25 * (high - low)  # between its corners a tile may bulge
        ends += [
            np.clip(np.floor(low - more), 0, size - 1).astype(int),
            np.clip(np.ceil(high + more) + 1, 1, size).astype(int),
        ]
    x0, x1, y0, y1 = ends
    found = np.ones((h, w), np.float32) if ones else np.empty((h, w), np.float32)
    varied = np.asarray(less[y1, x1] - less[y0, x1] - less[y1, x0] + less[y0, x0] > 0)
    for r in rects_of_tiles(varied, w, h):
        found[r.cut()] = share.weight_at(u[r.cut()] + x, v[r.cut()] + y)
    return found, varied


def _raster_light(output: Output, put: Rect) -> Floats | None:
    """Factors on light that belong to the raster itself: masks, uniformity, white."""
    width, height = output.timing.width, output.timing.height
    light = _mask_light(output.masks, width, height)
    light = None if light is None else light[put.cut()]
    picture = output.picture
    if picture.uniformity is not None:
        even = _grid_light(picture.uniformity, width, height)[put.cut()]
        light = even if light is None else even * light[..., None]
    if picture.white is not None:
        gains = np.array(white_gains(picture.white)[::-1], np.float32)
        light = (
            np.broadcast_to(gains, (put.h, put.w, 3))
            if light is None
            else (light if light.ndim == 3 else light[..., None]) * gains
        )
    return light


_edge_weights = lru_cache(maxsize=32)(edge_weights)
_mask_light = lru_cache(maxsize=16)(mask_light)
_grid_light = lru_cache(maxsize=8)(grid_light)


def lit_finish(
    output: Output,
    region: Region,
    light: Light | None,
    put: Rect,
    maps: Maps | None,
    laid: Callable[[Floats], Floats] | None,
    touched: Callable[[], NDArray[np.bool_]] | None = None,
) -> Finish | None:
    """The finish of a step, from how light is shared on the screen and what belongs to the raster.

    ``touched`` tells which pixels of ``put`` a bend covers at all; no others are lifted.

    Parameters
    ----------
    output : Output
        Which output.
    region : Region
        Which region.
    light : Light | None
        How a region is lit: weights, lifts, white; None for plainly.
    put : Rect
        Where it is put, in pixels of where it goes.
    maps : Maps | None
        Columns and rows to take from, in pixel centres.
    laid : Callable[[Floats], Floats] | None
        What lies there.
    touched : Callable[[], ndarray] | None, optional
        What is touched.

    Returns
    -------
    Finish | None
    """
    weight: Floats | None = None
    lift: Floats | None = None
    varied: NDArray[np.bool_] | None = None
    raster = _raster_light(output, put)
    if light is not None and light.own is not None:
        own = laid(light.own) if laid is not None else None
        if own is None:
            assert maps is not None
            # Past the edge the weight of the edge goes on: a pixel half outside a blended edge must stay as dark as the
            # edge.
            own = remapped(light.own, *maps)
        weight = own
    elif light is not None and light.share is not None:
        if maps is None:
            assert laid is not None
            u, v = np.meshgrid(np.arange(region.w, dtype=np.float32), np.arange(region.h, dtype=np.float32))
            maps = (laid(u), laid(v))
        share = light.share
        weight, varied = _weight(share, region, *maps, ones=not (raster is share.lacking is None))
        if share.lacking is not None:
            lift = _sampled(share.lacking, share, region, *maps)[..., ::-1]
            lift = np.ascontiguousarray(lift if touched is None else lift * touched()[..., None])
    if raster is not None:
        if weight is not None:
            raster = raster * (weight[..., None] if raster.ndim == 3 else weight)
        weight = np.asarray(raster, np.float32)
    sent = sent_codes(output.picture)
    if weight is None and sent is not None:
        weight = np.ones((put.h, put.w), np.float32)
    if weight is None and not (light is not None and light.batches):
        return None
    landing = region.landing
    x, y = (region.x - landing.x, region.y - landing.y) if isinstance(landing, RectLanding) else (0, 0)
    phase = (light.sign if light is not None else 1, x % 4, y % 4)
    finish = (
        None
        if weight is None
        else finish_of(weight, lift, put, output.picture.gamma, phase, varied if raster is None else None, sent)
    )
    toned = _toned(light, output, put, phase) if light is not None else ()
    if not toned:
        return finish
    return finish._replace(toned=toned) if finish is not None else Finish((), (), (), toned)


def bare_finish(output: Output, put: Rect) -> Finish | None:
    """The finish of a step whose light is left as it is: what the display's response asks for, if it was measured.

    Parameters
    ----------
    output : Output
        Which output.
    put : Rect
        Where it is put, in pixels of where it goes.

    Returns
    -------
    Finish | None
    """
    sent = sent_codes(output.picture)
    return (
        None
        if sent is None
        else finish_of(np.ones((put.h, put.w), np.float32), None, put, output.picture.gamma, sent=sent)
    )
