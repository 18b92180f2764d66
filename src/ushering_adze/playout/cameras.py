"""Cameras that look at real screens: each pattern is put on the outputs, waited for, and photographed."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.mapping.align_data import outputs_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.engine.aligning import shots
from ushering_adze.io.photos import Photo, PhotoFolder, as_light
from ushering_adze.playout.beside import Running

FRESH = 5.0
"""Seconds within which a live feed must give a new picture."""
FIRST, MOST = 1.2, 10.0
"""Seconds for which a feed is looked at first, and until the screen changes at the most."""
SEEN = 0.005
"""How much lighter, of 1, a screen must look when it is white."""


class Look(Protocol):
    """What takes a photograph of what is on the outputs by now; linear light, shape (h, w, 3), red first."""

    def __call__(self, name: str) -> Photo: ...


def source_look(playout: Running, source: str, settle: float, frames: int = 3, linear: bool = False) -> Look:
    """Photographs from a live source of the show: the mean of some new frames after ``settle`` seconds."""

    def look(name: str) -> Photo:
        time.sleep(settle)
        seen: list[Photo] = []
        last = playout.picture_of(source)
        serial = last.serial if last is not None else -1
        end = time.monotonic() + FRESH
        while len(seen) < frames:
            frame = playout.picture_of(source)
            if (fault := playout.faults().get(source)) is not None:
                raise ShowError([Fault("camera", f"{fault}; check the feed, or choose another camera")])
            if frame is not None and frame.serial != serial:
                serial = frame.serial
                seen.append(as_light(frame.pixels[..., :3], linear))
                end = time.monotonic() + FRESH
            elif time.monotonic() > end:
                raise ShowError([Fault("camera", "it gives no new pictures; check the feed, or choose another camera")])
            else:
                time.sleep(0.004)
        if any(s.shape != seen[0].shape for s in seen):
            raise ShowError([Fault("camera", "its picture changed its size; leave it as it is and align again")])
        return np.asarray(sum(seen[1:], seen[0]) / np.float32(len(seen)), np.float32)

    return look


def measured_delay(playout: Running, show: Show, surface: str, source: str, linear: bool = False) -> float:
    """Seconds from a pattern being out until a live source shows it, the longest of three changes from black to white.

    Raises
    ------
    ShowError
        If the source does not see the screen change.
    """
    white = {
        id: np.full((t.height, t.width), 255, np.uint8)
        for id in outputs_of(show, [surface])
        if (t := show.output(id).timing)
    }
    black, longest = full_rasters(show, surface, {}), 0.0
    put_out(playout, black)
    low = _followed(playout, source, linear)[-1][1]  # it may have been as dark before: nothing needs to change
    for _ in range(3):
        put_out(playout, full_rasters(show, surface, white))
        seen = _followed(playout, source, linear, low)
        high = seen[-1][1]
        if high - low < SEEN:
            raise ShowError(
                [
                    Fault(
                        "camera",
                        "it does not see the screen turn from black to white; check that it looks at the screen "
                        "and that the projectors are on",
                    )
                ]
            )
        longest = max(longest, next(t for t, mean in seen if mean > low + 0.95 * (high - low)))
        put_out(playout, black)
        low = _followed(playout, source, linear, high)[-1][1]
    return longest


def settling(delay: float) -> float:
    """Seconds to wait after a pattern for a source of this delay: half as long again, and three frames."""
    return 1.5 * delay + 0.1


def _followed(
    playout: Running, source: str, linear: bool, other: float | None = None, still: float = 0.7
) -> list[tuple[float, float]]:
    """Mean light of each new picture with its time from now, until nothing has changed for a while; where it is known
    how bright it was before, not before it is ``other`` than that.
    """
    began, serial = time.monotonic(), -1
    seen: list[tuple[float, float]] = []
    changed = began

    def waiting() -> bool:
        if other is None:
            return time.monotonic() - began < FIRST
        return not seen or abs(seen[-1][1] - other) < SEEN

    while (waiting() or time.monotonic() - changed < still) and time.monotonic() - began < MOST:
        frame = playout.picture_of(source)
        if frame is None or frame.serial == serial:
            time.sleep(0.004)
            continue
        serial = frame.serial
        mean = float(as_light(frame.pixels[::4, ::4, :3], linear).mean())
        if seen and abs(mean - seen[-1][1]) > 0.002:
            changed = time.monotonic()
        seen.append((time.monotonic() - began, mean))
    if not seen:
        raise ShowError(
            [
                Fault(
                    "camera",
                    playout.faults().get(source, "it gives no pictures") + "; check the feed, or choose another camera",
                )
            ]
        )
    return seen


def put_out(playout: Running, rasters: Mapping[str, Pixels]) -> None:
    """Show these rasters on the outputs; returns once they are out.

    Raises
    ------
    ShowError
        If the show does not run, or is held or black.
    """
    if playout.covered is not None:
        raise ShowError([Fault("outputs", f"they are {playout.covered}, so no pattern comes out; lift that first")])
    number = playout.put_out(rasters)
    end = time.monotonic() + FRESH
    while playout.put != number:
        if time.monotonic() > end:
            raise ShowError([Fault("outputs", "the pattern does not come out; check that the show runs")])
        time.sleep(0.002)
    frame = playout.mark[0]
    while playout.mark[0] < frame + 2 and time.monotonic() < end:
        time.sleep(0.002)


def folder_look(folder: PhotoFolder) -> Look:
    """Photographs that a tethered camera writes into a folder, each after its pattern is shown."""
    return folder.next


def full_rasters(show: Show, surface: str, rasters: Mapping[str, NDArray[np.uint8]]) -> dict[str, Pixels]:
    """What every output of a surface shows, as opaque BGRA; an output without a raster shows black."""
    full: dict[str, Pixels] = {}
    for id in outputs_of(show, [surface]):
        raster, timing = rasters.get(id), show.output(id).timing
        if raster is None:
            raster = np.zeros((timing.height, timing.width), np.uint8)
        full[id] = raster if raster.ndim == 3 else np.asarray(cv2.cvtColor(raster, cv2.COLOR_GRAY2BGRA), np.uint8)
        full[id][..., 3] = 255
    return full


class RealCamera:
    """A camera before the real screen, by whatever way its pictures come.

    It cannot shut a projector, nor change its exposure; whoever stands there sets it so that white is not burnt out.

    Parameters
    ----------
    playout : Playout or Beside
        Whose outputs show the patterns.
    show : Show
    surface : str
    look : Look
    told : callable
        Told the name of each pattern once it is out; where it returns False, the work ends.
    """

    shutters, longest = False, 1.0

    def __init__(
        self, playout: Running, show: Show, surface: str, look: Look, told: Callable[[str], bool] = lambda name: True
    ) -> None:
        self._playout, self._show, self._surface, self._look, self._told = playout, show, surface, look, told
        self._names = [s.name for s in shots(show, surface)]
        self._count = 0

    def photograph(
        self,
        rasters: Mapping[str, NDArray[np.uint8]],
        exposure: float = 1.0,
        shut: frozenset[str] = frozenset(),
        colour: bool = False,
    ) -> Photo:
        """Show these rasters, and look."""
        name = self._names[self._count] if self._count < len(self._names) else "the screen"
        self._count += 1
        put_out(self._playout, full_rasters(self._show, self._surface, rasters))
        if not self._told(name):
            raise ShowError([Fault("alignment", "it was stopped; nothing is changed")])
        photo = self._look(name)
        return photo if colour else np.ascontiguousarray(photo.mean(2, dtype=np.float32))


class TakenPhotos:
    """Photographs taken beforehand, one of each pattern that `shots` lists, in that order."""

    shutters, longest = False, 1.0

    def __init__(self, show: Show, surface: str, folder: Path, linear: bool = False, light: bool = True) -> None:
        self._folder = PhotoFolder(folder, linear)
        self._names = [s.name for s in shots(show, surface, light)]
        if self._folder.there != len(self._names):
            raise ShowError(
                [
                    Fault(
                        str(folder),
                        f"it has {self._folder.there} photographs, and there are {len(self._names)} patterns; take one "
                        "of each pattern, in their order",
                    )
                ]
            )

    def photograph(
        self,
        rasters: Mapping[str, NDArray[np.uint8]],
        exposure: float = 1.0,
        shut: frozenset[str] = frozenset(),
        colour: bool = False,
    ) -> Photo:
        """The next photograph."""
        photo = self._folder.next(self._names[min(self._folder.count, len(self._names) - 1)])
        return photo if colour else np.ascontiguousarray(photo.mean(2, dtype=np.float32))
