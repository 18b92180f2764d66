"""All rules of the pixel check together."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ushering_adze.core.proof.bends import bends
from ushering_adze.core.proof.finding import SEVERITIES, Finding, Severity
from ushering_adze.core.proof.fit import cabinets, exchanged, scaling, unmapped
from ushering_adze.core.proof.laid import Laid, laid_out
from ushering_adze.core.proof.pixels import bounds, claims_on_raster, seams, symmetry, unfed
from ushering_adze.core.show import Show

RULES: tuple[Callable[[Laid], Iterator[Finding]], ...] = (
    bounds,
    claims_on_raster,
    bends,
    seams,
    exchanged,
    cabinets,
    scaling,
    symmetry,
    unmapped,
    unfed,
)


def pixel_check(show: Show) -> list[Finding]:
    """Every finding about pixels, errors first.

    Examples
    --------
    >>> from ushering_adze.core.show import Canvas, Output, RectLanding, Region, Timing
    >>> r = [Region(id=i, name=i.upper(), x=x, y=0, w=50, h=50, output="o", landing=RectLanding(x=n * 50, y=0, w=50,
    ...     h=50))
    ...      for n, (i, x) in enumerate((("a", 0), ("b", 51)))]
    >>> show = Show(name="S", canvases=[Canvas(id="c", name="C", width=101, height=50, regions=r)],
    ...             outputs=[Output(id="o", number=1, name="O", timing=Timing(width=100, height=50, rate=60))])
    >>> [(f.rule, f.severity, f.message) for f in pixel_check(show)][0]
    ('gap', 'warning', '1 px between A and B that neither shows: column 50 of C')
    """
    laid = laid_out(show)
    found = [f for rule in RULES for f in rule(laid)]
    rank: dict[Severity, int] = {s: n for n, s in enumerate(SEVERITIES)}
    return sorted(found, key=lambda f: rank[f.severity])
