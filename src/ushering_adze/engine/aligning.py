"""Alignment by camera: show patterns, look at them, and work out landings, gammas, light and blacks; one new show comes
of it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.measuring import LEVELS, Matched, Measured, fit_gamma, fit_grid, fit_response, matching
from ushering_adze.core.mapping.bend import checked_bend
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.lens import View
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.sighting import (
    BURNT,
    Fitted,
    Sighting,
    burnt_share,
    error_map,
    find_corners,
    fit_landing,
    see_screen,
)
from ushering_adze.core.seeing.structured import Decoded, decode, series
from ushering_adze.core.show import Fault, Output, Region, Show, ShowError
from ushering_adze.core.show.edits import changed, with_output, with_region

Photo = NDArray[np.float32]
MOST_SAMPLES = 12_000


class Camera(Protocol):
    """What looks at the screen while outputs show given rasters.

    ``shutters`` says whether it can see a projector shut, and ``longest`` is the longest exposure it can give, in that
    for white.
    """

    shutters: bool
    longest: float

    def photograph(
        self,
        rasters: Mapping[str, NDArray[np.uint8]],
        exposure: float = 1.0,
        shut: frozenset[str] = frozenset(),
        colour: bool = False,
    ) -> Photo:
        """A photograph, linear light, 1 the most it takes."""
        ...


class Aligned(NamedTuple):
    """What came of an alignment: the new show, each region's fit, what was measured of its light, the error over the
    screen of the pictures among one another, and how well the screen itself was found."""

    show: Show
    fits: tuple[Fitted, ...]
    measured: tuple[Measured, ...]
    matched: Matched | None
    errors: Photo
    sighting: Sighting


class _Seen(NamedTuple):
    region: Region
    output: Output
    decoded: Decoded


def align(
    show: Show,
    surface: str,
    camera: Camera,
    corners: NDArray[np.float64] | None = None,
    light: bool = True,
    progress: Callable[[float, str], bool] | None = None,
    marks: NDArray[np.float64] | None = None,
) -> Aligned:
    """Align the projectors of a screen by what a camera sees.

    Parameters
    ----------
    show : Show
    surface : str
        A projection.
    camera : Camera
    corners : ndarray, shape (4, 2), optional
        The screen's corners in the camera's picture; looked for if not given.
    light : bool
        Measure and match gamma, white and black too.
    progress : callable, optional
        Told the share done and what is being done; where it returns False the alignment ends.
    marks : ndarray, shape (n, 2), optional
        More places on the screen's edges, in the camera's picture.

    Raises
    ------
    ShowError
        If the camera sees too little; the show stays as it is.
    """
    regions = show.lit_by(surface)
    if not regions:
        raise ShowError([Fault(show.surface(surface).name, "no region feeds it; make its regions in Map first")])
    for n, region in enumerate(regions):
        twin = next((r for r in regions[:n] if r.output == region.output), None)
        if twin is not None:
            raise ShowError(
                [
                    Fault(
                        show.output(region.output).name,
                        f"{twin.name} and {region.name} both land on it, and a camera cannot tell "
                        "their projectors apart; align by hand, or give each an output of its own",
                    )
                ]
            )
    told = progress or (lambda share, words: True)
    outputs = [show.output(r.output) for r in regions]
    face = face_of(regions)
    whites = {o.id: np.full((o.timing.height, o.timing.width), 255, np.uint8) for o in outputs}
    told(0.0, "looking for the screen")
    lit = camera.photograph(whites)
    if burnt_share(lit) > BURNT:
        raise ShowError([Fault("camera", "the picture is burnt out where the screen is white; shorten the exposure")])
    sighting = see_screen(lit, find_corners(lit) if corners is None else corners, (face.w, face.h), marks)
    view = sighting.view
    seen = []
    for n, (region, output) in enumerate(zip(regions, outputs, strict=True)):
        photos: dict[str, Photo] = {}
        patterns = series(output.timing.width, output.timing.height, output.picture.gamma)
        for k, pattern in enumerate(patterns):
            if not told((n + k / len(patterns)) / (len(regions) + 1), f"{output.name}: {pattern.name}"):
                raise ShowError([Fault("alignment", "it was stopped; nothing is changed")])
            photos[pattern.name] = camera.photograph({output.id: pattern.picture})
        decoded = decode(photos.__getitem__, output.timing.width, output.timing.height)
        if decoded.sure.mean() < 0.002:
            raise ShowError(
                [
                    Fault(
                        output.name,
                        "the camera does not see this projector; check that it is on and lights the screen, and that "
                        "the exposure is long enough",
                    )
                ]
            )
        seen.append(_Seen(region, output, decoded))
    fits, places = [], []
    new = show
    sure = [_samples(one, view, face) for one in seen]
    for one, (at, raster, _) in zip(seen, sure, strict=True):
        fit = _fit(one, face, at, raster)
        fits.append(fit)
        places.append(at)
        new = with_region(
            new, checked_bend(one.region.model_copy(update={"landing": fit.landing, "edges": None}), one.output)
        )
    measured: tuple[Measured, ...] = ()
    matched = None
    if light:
        told(len(regions) / (len(regions) + 1), "measuring light")
        measured = _measure(camera, seen, sure)
        matched = matching(measured)
        for one, response, grid, black in zip(seen, matched.responses, matched.grids, matched.blacks, strict=True):
            picture = changed(one.output.picture, gamma=matched.gamma, response=response, uniformity=grid)
            kept = black if camera.shutters else one.output.black  # what a camera cannot see of blacks stays as it is
            new = with_output(new, changed(new.output(one.output.id), picture=picture, black=kept))
    told(1.0, "done")
    return Aligned(new, tuple(fits), measured, matched, error_map(fits, (face.w, face.h)), sighting)


class Shot(NamedTuple):
    """One photograph that an alignment asks for: its name, and what each output shows; one without a raster shows
    black.
    """

    name: str
    rasters: dict[str, NDArray[np.uint8]]


def shots(show: Show, surface: str, light: bool = True) -> Iterator[Shot]:
    """What a camera without shutters is asked for, in this order, so that photographs can be taken beforehand."""
    outputs = [show.output(r.output) for r in show.lit_by(surface)]
    yield Shot("all white", {o.id: np.full((o.timing.height, o.timing.width), 255, np.uint8) for o in outputs})
    for o in outputs:
        for pattern in series(o.timing.width, o.timing.height, o.picture.gamma):
            yield Shot(f"{o.name}, {pattern.name}", {o.id: pattern.picture})
    if light:
        yield Shot("all black", {})
        for o in outputs:
            for level in LEVELS:
                yield Shot(
                    f"{o.name}, grey {level}", {o.id: np.full((o.timing.height, o.timing.width), level, np.uint8)}
                )


Pixels = tuple[NDArray[np.int64], NDArray[np.int64]]
Samples = tuple[NDArray[np.float64], NDArray[np.float64], Pixels]


def _samples(one: _Seen, view: View, face: Rect) -> Samples:
    """Screen places, raster places and camera pixels of what is sure, within the screen."""
    rows, columns = np.nonzero(one.decoded.sure)
    screen = view.to_screen(np.stack([columns + 0.5, rows + 0.5], -1))
    inside = ((screen > (4, 4)) & (screen < (face.w - 4, face.h - 4))).all(1)
    rows, columns, screen = rows[inside], columns[inside], screen[inside]
    return (
        screen,
        np.stack([one.decoded.x[rows, columns], one.decoded.y[rows, columns]], -1).astype(float),
        (rows, columns),
    )


def _fit(one: _Seen, face: Rect, screen: NDArray[np.float64], raster: NDArray[np.float64]) -> Fitted:
    if len(screen) > MOST_SAMPLES:
        pick = np.random.default_rng(7).choice(len(screen), MOST_SAMPLES, replace=False)
        screen, raster = screen[pick], raster[pick]
    return fit_landing(one.region, (face.x, face.y), screen, raster)


def _measure(camera: Camera, seen: list[_Seen], sure: list[Samples]) -> tuple[Measured, ...]:
    """Each projector's gamma, white over its raster, and black."""
    ids = frozenset(one.output.id for one in seen)
    dark = camera.photograph({}, 1.0, ids, colour=True)
    long, long_dark = camera.longest, dark  # as long as the room's own light and the blacks allow
    while long > 1 and np.quantile(camera.photograph({}, long), 0.999) > 0.6:
        long /= 2
    if camera.shutters:
        long_dark = camera.photograph({}, long, ids, colour=True)
    found = []
    for one, (screen, raster, at) in zip(seen, sure, strict=True):
        others = ids - {one.output.id}
        height, width = one.output.timing.height, one.output.timing.width
        pick = np.random.default_rng(11).permutation(len(screen))[:40_000]
        at = (at[0][pick], at[1][pick])
        levels = {}
        white = dark
        for level in LEVELS:
            flat = np.full((height, width, 4), level, np.uint8)
            exposure = 1.0
            if camera.longest > 1:  # greys near black are looked at as long as they allow
                exposure = min(camera.longest, long, max(1.0, 0.3 * (255 / level) ** 1.8))
            photo = camera.photograph({one.output.id: flat}, exposure, others, colour=True)
            below = dark if exposure == 1.0 else camera.photograph({}, exposure, ids, colour=True)
            levels[level] = float((photo[at] - below[at]).mean()) / exposure
            white = photo
        leak = np.zeros(3)
        if camera.shutters:
            black = camera.photograph(
                {one.output.id: np.zeros((height, width, 4), np.uint8)}, long, others, colour=True
            )
            leak = (black[at] - long_dark[at]).mean(0).astype(float) / long
        lit = (white[at] - dark[at]).astype(float)
        grid = fit_grid(raster[pick], lit, (width, height))
        gamma = fit_gamma(levels, float(leak.mean()))
        found.append(Measured(gamma, grid, leak, fit_response(levels, float(leak.mean()), gamma)))
    return tuple(found)
