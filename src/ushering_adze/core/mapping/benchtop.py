"""The benchtop: every surface of every canvas laid out on one display, to build a show at home."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ushering_adze.core.plane.arrange import packed
from ushering_adze.core.plane.rect import Rect


class OnBench(NamedTuple):
    """Where a surface lies on the display."""

    id: str
    rect: Rect


def laid_on_bench(
    sizes: Sequence[tuple[str, int, int]],
    width: int,
    height: int,
    scale: float | None = None,
    gap: int = 12,
    head: int = 18,
) -> tuple[float, list[OnBench]]:
    """Lay surfaces out in rows on a display.

    Parameters
    ----------
    sizes : sequence of (id, width, height)
        In px.
    width, height : int
        Of the display, px.
    scale : float, optional
        Display pixels to a pixel of a surface; by default the largest up to 1 at which all fit.
    gap, head : int
        Free pixels between them, and above each for its name.

    Returns
    -------
    scale : float
    laid : list of OnBench
        In the order given; none overlap.

    Examples
    --------
    >>> laid_on_bench([("a", 1920, 1080), ("b", 1920, 1080)], 1944, 600, gap=12, head=0)
    (0.5, [OnBench(id='a', rect=Rect(x=6, y=6, w=960, h=540)), OnBench(id='b', rect=Rect(x=978, y=6, w=960, h=540))])
    """

    def at(k: float) -> list[Rect]:
        return packed([(max(1, round(w * k)) + gap, max(1, round(h * k)) + gap + head) for _, w, h in sizes], width)

    def fits(k: float) -> bool:
        return all(r.right <= width and r.foot <= height for r in at(k))

    if scale is None:
        # Rows break anew at every scale, so that a larger one may fit where a smaller one does not: the first from
        # above is taken.
        scale = next((k / 1000 for k in range(1000, 1, -1) if fits(k / 1000)), 0.001)
    return scale, [
        OnBench(id, Rect(r.x + gap // 2, r.y + head + gap // 2, r.w - gap, r.h - gap - head))
        for (id, _, _), r in zip(sizes, at(scale), strict=True)
    ]
