"""Photographs of a screen as linear light: picture files of 8 or 16 bits, and frames of live feeds."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.transfer import srgb_to_linear
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.core.show.files import STILLS
from ushering_adze.io.asking import regular
from ushering_adze.io.media.player import in_order

Photo = NDArray[np.float32]
LONGEST = 2600
"""Pixels of the longer side that a photograph is made smaller to: more would only be more noise."""


def as_light(codes: NDArray[np.uint8] | NDArray[np.uint16], linear: bool = False) -> Photo:
    """Codes of a picture as linear light.

    Parameters
    ----------
    codes : ndarray, shape (h, w, 3), uint8 or uint16
        Blue first.
    linear : bool
        Whether they are linear already, else they follow the sRGB curve, as those of cameras do.

    Returns
    -------
    ndarray, shape (h, w, 3), float32
        Red first, 0 to 1; at most `LONGEST` on its longer side.
    """
    most = 65535 if codes.dtype == np.uint16 else 255
    share = np.arange(most + 1) / most
    table = (share if linear else srgb_to_linear(share)).astype(np.float32)
    light = table[codes[..., 2::-1]]
    h, w = light.shape[:2]
    if max(h, w) > LONGEST:
        k = LONGEST / max(h, w)
        light = cv2.resize(light, (round(w * k), round(h * k)), interpolation=cv2.INTER_AREA)
    return np.asarray(light, np.float32)


def read_photo(path: Path, linear: bool = False) -> Photo:
    """A photograph as linear light, turned as its EXIF says.

    Raises
    ------
    ShowError
        If it is no picture.
    """
    regular(path, "photograph")
    codes = cv2.imread(str(path), cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH)
    if codes is None or codes.dtype not in (np.uint8, np.uint16):
        raise ShowError(
            [Fault(path.name, "it cannot be read as a photograph; give JPEG, PNG or TIFF files of 8 or 16 bits")]
        )
    return as_light(codes, linear)


class PhotoFolder:
    """A folder from which one photograph after another is taken, in the order of their names or as they come.

    Parameters
    ----------
    folder : Path
    linear : bool
        As for `as_light`.
    new_only : bool
        Wait for photographs that are not there yet, as a tethered camera writes them; else those there are taken in
        order.
    stopped : callable
        Whether waiting is to end.
    """

    def __init__(
        self, folder: Path, linear: bool = False, new_only: bool = False, stopped: Callable[[], bool] = lambda: False
    ) -> None:
        if not folder.is_dir():
            raise ShowError(
                [Fault(str(folder), "there is no such folder; choose the one that photographs are written to")]
            )
        self._folder, self._linear, self._new_only, self._stopped = folder, linear, new_only, stopped
        self._taken: set[Path] = set(self._files()) if new_only else set()
        self._size: tuple[int, ...] | None = None
        self.count = 0

    @property
    def there(self) -> int:
        """How many photographs are in the folder."""
        return len(self._files())

    def _files(self) -> list[Path]:
        return sorted((p for p in self._folder.iterdir() if p.suffix.lower() in STILLS), key=in_order)

    def next(self, name: str) -> Photo:
        """The next photograph; ``name`` is the pattern it shall show.

        Raises
        ------
        ShowError
            If there is none, it cannot be read, or it has another size than the first.
        """
        path = self._next_file(name)
        self._taken.add(path)
        self.count += 1
        photo = read_photo(path, self._linear)
        if self._size is not None and photo.shape != self._size:
            raise ShowError(
                [
                    Fault(
                        path.name,
                        "it has another size than the first photograph; leave the camera as it stands for all of them",
                    )
                ]
            )
        self._size = photo.shape
        return photo

    def _next_file(self, name: str) -> Path:
        while True:
            path = next((p for p in self._files() if p not in self._taken), None)
            if path is None and not self._new_only:
                raise ShowError(
                    [
                        Fault(
                            str(self._folder),
                            f'photograph {self.count + 1}, of "{name}", is not there; take one of each pattern',
                        )
                    ]
                )
            if path is not None and (not self._new_only or _whole(path)):
                return path
            if self._stopped():
                raise ShowError([Fault("alignment", "it was stopped; nothing is changed")])
            time.sleep(0.04)


def _whole(path: Path) -> bool:
    """Whether a file is written to its end: it does not grow any more."""
    try:
        before = path.stat().st_size
        time.sleep(0.06)
        return 0 < before == path.stat().st_size
    except OSError:
        return False
