"""A show's regions as arrays, made once for all rules of the pixel check."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, RectLanding, Region, Show

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


PartFed = tuple[str, str | None, int | None, str]
"""Surface, projector, monitor, output."""


class Placed(NamedTuple):
    """The regions of one canvas, mirrors left out: first and past-the-end columns and rows."""

    canvas: Canvas
    regions: tuple[Region, ...]
    x0: Ints
    y0: Ints
    x1: Ints
    y1: Ints


class Laid(NamedTuple):
    """A show with arrays over all its regions, in the order of the document.

    Attributes
    ----------
    show : Show
    canvases : tuple of Placed
    homes : tuple of Canvas
        The canvas of each region.
    regions : tuple of Region
    at, lands : ndarray, shape (n, 4), int64
        x, y, w, h on the canvas and on the raster; a quad's is the box around it.
    native : ndarray, shape (n, 2), int64
        Size of the landing before it is turned.
    quad : ndarray, shape (n,), bool
        Whether the landing is a quad.
    by_output : dict
        Indices of the regions on each output, quads left out.
    fed : dict
        Indices of the regions, mirrors and quads left out, that feed each part of a surface by each output.
    """

    show: Show
    canvases: tuple[Placed, ...]
    homes: tuple[Canvas, ...]
    regions: tuple[Region, ...]
    at: Ints
    lands: Ints
    native: Ints
    quad: Flags
    by_output: dict[str, Ints]
    fed: dict[PartFed, list[int]]

    def rect(self, n: int) -> Rect:
        """Where a region lies on its canvas."""
        return Rect(*(int(v) for v in self.at[n]))

    def ids(self, indices: Ints) -> list[str]:
        """The ids of regions."""
        return [self.regions[n].id for n in indices]

    def landing(self, n: int) -> Rect:
        """Where a region lies on its raster."""
        return Rect(*(int(v) for v in self.lands[n]))


def laid_out(show: Show) -> Laid:
    """Put a show's regions into arrays."""
    homes: list[Canvas] = []
    regions: list[Region] = []
    at: list[tuple[int, int, int, int]] = []
    lands: list[tuple[int, int, int, int]] = []
    native: list[tuple[int, int]] = []
    quad: list[bool] = []
    by_output: dict[str, list[int]] = {o.id: [] for o in show.outputs}
    fed: dict[PartFed, list[int]] = {}
    canvases: list[Placed] = []
    for canvas in show.canvases:
        first = len(regions)
        for r in canvas.regions:
            landing = r.landing
            if isinstance(landing, RectLanding):
                by_output[r.output].append(len(regions))
                if r.surface is not None and not r.mirror:
                    fed.setdefault((r.surface, r.projector, r.monitor, r.output), []).append(len(regions))
            homes.append(canvas)
            regions.append(r)
            at.append((r.x, r.y, r.w, r.h))
            if isinstance(landing, RectLanding):
                lands.append((landing.x, landing.y, landing.w, landing.h))
                native.append((landing.h, landing.w) if landing.turn in (90, 270) else (landing.w, landing.h))
                quad.append(False)
            else:
                box = landing_rect(r)
                lands.append((box.x, box.y, box.w, box.h))
                native.append((r.w, r.h))
                quad.append(True)
        mine = [n for n in range(first, len(regions)) if not regions[n].mirror]
        table = np.array([at[n] for n in mine], np.int64).reshape(-1, 4)
        canvases.append(
            Placed(
                canvas,
                tuple(regions[n] for n in mine),
                table[:, 0],
                table[:, 1],
                table[:, 0] + table[:, 2],
                table[:, 1] + table[:, 3],
            )
        )
    return Laid(
        show,
        tuple(canvases),
        tuple(homes),
        tuple(regions),
        np.array(at, np.int64).reshape(-1, 4),
        np.array(lands, np.int64).reshape(-1, 4),
        np.array(native, np.int64).reshape(-1, 2),
        np.array(quad, bool),
        {id: np.array(mine, np.int64) for id, mine in by_output.items()},
        fed,
    )


def past(table: Ints, width: NDArray[np.int64] | int, height: NDArray[np.int64] | int) -> Ints:
    """Indices of the rectangles that reach past a whole of a size.

    Parameters
    ----------
    table : Ints
        Which table of the rig.
    width : ndarray | int
        In pixels.
    height : ndarray | int
        In pixels.

    Returns
    -------
    Ints
    """
    x, y, w, h = table.T
    return np.flatnonzero((x < 0) | (y < 0) | (x + w > width) | (y + h > height))
