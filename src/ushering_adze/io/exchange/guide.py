"""Guide pictures: PNG, JPEG, TIFF, WebP, SVG, or the first page of a PDF, at their own size in pixels."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.core.show.canvas import MAX_SIDE
from ushering_adze.core.show.files import STILLS
from ushering_adze.io.apart import read_apart
from ushering_adze.io.media.still import MediaError, read_still

MOST_PIXELS = 140_000_000
PDF_SCALE = 1.0
"""Pixels to a point: maps drawn one point to a pixel come out at their size."""
GUIDE_SUFFIXES = sorted({*STILLS, ".svg", ".svgz", ".pdf"})


def small_enough(path: Path, width: float, height: float) -> None:
    """Judge a picture by its size, before anything of it is made.

    Raises
    ------
    ShowError
        If it is larger than is worked with.
    """
    if not (min(width, height) >= 1 and max(width, height) <= MAX_SIDE and width * height <= MOST_PIXELS):
        raise ShowError(
            [
                Fault(
                    path.name,
                    f"it is {width:.6g} × {height:.6g} px, and 1 px to "
                    f"{MOST_PIXELS // 10**6} million px, {MAX_SIDE} px a side, are worked with; save it smaller or "
                    "cut it",
                )
            ]
        )


def read_guide(path: Path) -> Pixels:
    """Read a guide picture.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8, BGRA premultiplied
        A PDF's first page comes at one pixel to a point, an SVG at its own size.

    Raises
    ------
    ShowError
        With a sentence that names the file and the cure.
    """
    if not path.is_file():
        raise ShowError([Fault(str(path), "there is no such picture; check the path")])
    suffix = path.suffix.lower()
    if suffix == ".pdf":
        return _pdf(path)
    if suffix in (".svg", ".svgz"):
        return _svg(path)
    try:
        with Image.open(path) as image:
            small_enough(path, *image.size)
    except Image.DecompressionBombError:
        raise ShowError(
            [Fault(path.name, f"it holds more than {MOST_PIXELS // 10**6} million px; save it smaller or cut it")]
        ) from None
    except (OSError, ValueError, SyntaxError) as error:
        raise ShowError(
            [Fault(path.name, f"it cannot be read as a picture ({type(error).__name__}); save it again as PNG")]
        ) from None
    try:
        return read_still(path)[0]
    except MediaError as error:
        raise ShowError([Fault(path.name, f"{error}; save it again as PNG")]) from None


def _pdf(path: Path) -> Pixels:
    told, data = read_apart("pdf", path)
    picture = np.frombuffer(data, np.uint8).reshape(told["shape"])
    if picture.ndim == 2:
        return np.asarray(cv2.cvtColor(picture, cv2.COLOR_GRAY2BGRA), np.uint8)
    made = cv2.cvtColor(picture, cv2.COLOR_BGR2BGRA) if picture.shape[2] == 3 else picture.copy()
    made[..., 3] = 255
    return np.asarray(made, np.uint8)


def _svg(path: Path) -> Pixels:
    _, data = read_apart("svg", path)
    picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if picture is None or picture.ndim != 3:
        raise ShowError([Fault(path.name, "it is no SVG that can be drawn; export it again, or save it as PNG")])
    small_enough(path, picture.shape[1], picture.shape[0])
    alpha = picture[..., 3:].astype(np.uint16)
    picture[..., :3] = (picture[..., :3] * alpha + 127) // 255
    return np.asarray(picture, np.uint8)
