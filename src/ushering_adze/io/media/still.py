"""Still pictures: any format Pillow reads, turned as their EXIF says, as premultiplied BGRA."""

from __future__ import annotations

import itertools
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageOps

from ushering_adze.core.light.transfer import linear_to_srgb
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.plane.pixels import AlphaOf, Pixels, by_alpha
from ushering_adze.core.show import ShowError
from ushering_adze.io.asking import regular

serials = itertools.count(1)


class MediaError(Exception):
    """A medium that cannot be had; the text is short enough for a picture."""


def _light(path: Path, alpha_of: AlphaOf) -> tuple[Pixels, bool] | None:
    """A TIFF of floating point numbers, which are linear light of which 1 is white; None for any other file."""
    if path.suffix.lower() not in (".tif", ".tiff"):
        return None
    found = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    if found is None or found.dtype.kind != "f":
        return None
    found = np.nan_to_num(found.astype(np.float32)).clip(0, 1)
    colour = found[..., None].repeat(3, 2) if found.ndim == 2 else found[..., :3]
    alpha = found[..., 3:] if found.ndim == 3 and found.shape[2] == 4 else np.ones((*found.shape[:2], 1), np.float32)
    codes = np.concatenate([linear_to_srgb(colour), alpha], -1)
    return by_alpha(np.ascontiguousarray((codes * 255).round().astype(np.uint8)), alpha_of)


def read_still(path: Path, alpha_of: AlphaOf = "straight") -> tuple[Pixels, bool]:
    """Read a picture file.

    Returns
    -------
    pixels : ndarray, shape (h, w, 4), uint8, BGRA premultiplied
    opaque : bool

    Raises
    ------
    MediaError
    """
    try:
        regular(path)
        light = _light(path, alpha_of)
        if light is not None:
            return light
        with Image.open(path) as image:
            turned = ImageOps.exif_transpose(image)
            if turned.mode.startswith("I;16") or turned.mode == "I":
                grey = (np.asarray(turned).astype(np.float32) / 257).round().clip(0, 255).astype(np.uint8)
                turned = Image.fromarray(grey)
            rgba = np.asarray(turned.convert("RGBA"))
    except ShowError as error:
        raise MediaError(
            f"no file {path.name}" if not path.exists() else f"{path.name}: {error.faults[0].what}"
        ) from None
    except FileNotFoundError:
        raise MediaError(f"no file {path.name}") from None
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise MediaError(f"{path.name} cannot be read as a picture ({type(error).__name__})") from None
    return by_alpha(cv2.cvtColor(rgba, cv2.COLOR_RGBA2BGRA), alpha_of)


def still_frame(path: Path, alpha_of: AlphaOf = "straight") -> Frame:
    """A picture file as a frame with a serial of its own."""
    pixels, opaque = read_still(path, alpha_of)
    return Frame(pixels, next(serials), opaque)
