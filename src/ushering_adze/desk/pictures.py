"""Arrays as Qt images."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from ushering_adze.desk import theme


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """A QImage over an opaque BGRA array, without a copy if it is contiguous; the array is kept alive with it."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, pixels.strides[0], QImage.Format.Format_RGB32)
    image.pixels = pixels  # type: ignore[attr-defined]
    return image


def draw_fitted(p: QPainter, rect: QRectF, pixels: NDArray[np.uint8] | None) -> QRectF:
    """Draw a picture as large as it fits in a rectangle, in its middle; returns where it lies."""
    if pixels is None or rect.isEmpty():
        return QRectF(rect)
    height, width = pixels.shape[:2]
    scale = min(rect.width() / width, rect.height() / height)
    w, h = width * scale, height * scale
    where = QRectF(rect.x() + (rect.width() - w) / 2, rect.y() + (rect.height() - h) / 2, w, h)
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(where, image_of(pixels))
    return where


def hatch(p: QPainter, rect: QRectF, token: str = theme.AMBER, alpha: int = 90, step: int = 9) -> None:
    """Diagonal hatching within a rectangle."""
    p.save()
    p.setClipRect(rect, Qt.ClipOperation.IntersectClip)
    p.setPen(theme.colour(token, alpha))
    x = rect.x() - rect.height()
    while x < rect.right():
        p.drawLine(int(x), int(rect.bottom()), int(x + rect.height()), int(rect.top()))
        x += step
    p.restore()
