"""How steps share the pixels of one raster along the edges at which their landings meet."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.steps import Cover, Floats, Step
from ushering_adze.core.plane.coverage import SLIGHT, Coverage
from ushering_adze.core.plane.rect import Rect

CODES = 255.0
"""Coverage is told in so many parts, so that white that is shared is white again to the code."""


def alone(step: Step, coverage: Coverage, width: int) -> Step:
    """A step as it is laid where nobody else is: what it covers in part is dimmed towards the bare raster, which is
    left beside it.

    Parameters
    ----------
    step : Step
        One step of an output’s plan.
    coverage : Coverage
        Share of each pixel that is covered, 0 to 1.
    width : int
        In pixels.

    Returns
    -------
    Step
    """
    rows, columns, share = coverage.edge
    own = np.rint(share * CODES) / CODES
    at = (rows + step.put.y) * width + columns + step.put.x
    hollow = on_raster(coverage, width)
    parts = np.full((len(own), 4), 255, np.uint8)
    parts[:, :3] = np.rint(own * CODES)[:, None]
    return step._replace(
        cover=Cover(
            np.asarray(at, np.intp),
            _column(own),
            None,
            _column(1 - own),
            None,
            (),
            hollow if len(hollow) else None,
            coverage.outside,
            parts,
        )
    )


def on_raster(coverage: Coverage, width: int) -> NDArray[np.intp]:
    """The pixels that are not covered at all in tiles that are in part, counted row by row over a raster of this width.

    Parameters
    ----------
    coverage : Coverage
        Share of each pixel that is covered, 0 to 1.
    width : int
        In pixels.

    Returns
    -------
    ndarray
    """
    put, at = coverage.put, coverage.untouched
    return np.asarray(at if put.w == width else at // put.w * width + at % put.w + put.x, np.intp) + put.y * width


def _column(values: NDArray[np.float64]) -> Floats:
    return np.ascontiguousarray(values[:, None], np.float32)


def joined(steps: Sequence[Step], coverages: Sequence[Coverage | None], width: int, height: int) -> list[Step]:
    """Steps as they are laid on one raster of ``width`` × ``height``, one after the other.

    Parameters
    ----------
    steps : sequence of Step
    coverages : sequence of Coverage or None
        How much of each pixel a step covers; None if all of what it writes.

    Returns
    -------
    list of Step

    Notes
    -----
    A pixel of which ``A`` is covered, and ``c`` by the next step, keeps all that is there if that and ``c`` have room
    in it; else what is there gives way, to ``1 − c``.  Landings that meet thus add up, landings that lie on one another
    cover the earlier, and in any order no more than the whole of a pixel is given.
    """
    covered = np.zeros((height, width), np.float32)
    out = []
    for step, coverage in zip(steps, coverages, strict=True):
        if coverage is None:
            covered[step.put.cut()] = 1
            out.append(step)
        else:
            out.append(step._replace(cover=_shared(coverage, covered)))
    return out


def _shared(coverage: Coverage, covered: Floats) -> Cover:
    width = covered.shape[1]
    found: list[tuple[NDArray[np.intp], Floats, Floats, Floats]] = []
    others: list[Rect] = []
    hollows: list[Rect] = []
    for at in coverage.outside:
        (others if covered[at.cut()].any() else hollows).append(at)
    untouched = on_raster(coverage, width)
    taken = covered.reshape(-1)[untouched] > 0
    spared, hollow = untouched[taken], untouched[~taken]
    for at in coverage.inside:
        covered[at.cut()] = 1
    for at in coverage.mixed:
        share, was = coverage.within(at), covered[at.cut()]
        places = np.arange(at.y, at.foot)[:, None] * width + np.arange(at.x, at.right)
        part = (share > SLIGHT) & (share < 1 - SLIGHT)
        c, before = share[part], was[part]
        room = c + before <= 1 + 2 * SLIGHT
        keep = np.where(room, np.float32(1), (1 - c) / np.maximum(before, SLIGHT)).astype(np.float32)
        told = np.rint(before * CODES) / CODES
        own = np.where(
            room, np.rint(np.minimum(before + c, 1) * CODES) / CODES - told, np.rint(c * CODES) / CODES
        ).astype(np.float32)
        keep[before == 0] = 0
        found.append((np.asarray(places[part], np.intp), own, keep, (1 - own - keep).astype(np.float32)))
        after = was.copy()
        after[part] = np.minimum(c + keep * before, 1)
        after[share >= 1 - SLIGHT] = 1
        covered[at.cut()] = after
    where = np.concatenate([np.zeros(0, np.intp), *(places for places, *_ in found)])
    own, keep, bare = (np.concatenate([np.zeros(0, np.float32), *(f[k] for f in found)])[:, None] for k in (1, 2, 3))
    return Cover(
        where,
        own,
        keep if keep.any() else None,
        bare,
        spared if len(spared) else None,
        tuple(others),
        hollow if len(hollow) else None,
        tuple(hollows),
    )
