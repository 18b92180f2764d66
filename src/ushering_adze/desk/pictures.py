"""Arrays as Qt images."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from ushering_adze.core.picture.resampling import halved
from ushering_adze.desk import theme

HEAD = 30
"""Height of a drawing's head line."""


def headed(p: QPainter, widget: QWidget, head: str, detail: str, kept: int = 40) -> None:
    """Ground, border and head line of a drawing; ``kept`` pixels of the line are left free at its right."""
    p.setRenderHint(QPainter.RenderHint.TextAntialiasing)
    p.fillRect(widget.rect(), theme.colour(theme.WELL))
    p.setPen(theme.hairline())
    p.drawRect(QRectF(widget.rect()).adjusted(0, 0, -1, -1))
    p.setFont(theme.font(13, bold=True))
    p.setPen(theme.colour(theme.TEXT))
    width = p.fontMetrics().horizontalAdvance(head)
    p.drawText(QRectF(12, 0, width + 4, HEAD), Qt.AlignmentFlag.AlignVCenter, head)
    p.setFont(theme.font(12, mono=True))
    p.setPen(theme.colour(theme.DIM))
    theme.left(p, QRectF(width + 28, 0, widget.width() - width - kept, HEAD), detail)


def image_of(pixels: NDArray[np.uint8], clear: bool = False) -> QImage:
    """A QImage over a BGRA array, opaque unless it is ``clear`` by its alpha, without a copy if it is contiguous; the
    array is kept alive with it.
    """
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    form = QImage.Format.Format_ARGB32_Premultiplied if clear else QImage.Format.Format_RGB32
    image = QImage(pixels.data, width, height, pixels.strides[0], form)
    image.pixels = pixels  # type: ignore[attr-defined]
    return image


def shrunk(pixels: NDArray[np.uint8], width: int, height: int, clear: bool = False) -> QImage:
    """A BGRA array made smaller by area, so that thin lines stay."""
    image = image_of(halved(pixels, width, height), clear)
    return image.scaled(width, height, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)


class Kept:
    """A drawing of a widget's size on nothing, made anew only when what it is made of is another."""

    def __init__(self) -> None:
        self._key: object = None
        self._image = QImage()

    def of(self, widget: QWidget, key: object, paint: Callable[[QPainter], None]) -> QImage:
        """The drawing for a key, which holds all that it depends on besides the widget's size."""
        ratio = widget.devicePixelRatioF()
        key = (widget.width(), widget.height(), ratio, key)
        if self._image.isNull() or key != self._key:
            image = QImage(
                round(widget.width() * ratio), round(widget.height() * ratio), QImage.Format.Format_ARGB32_Premultiplied
            )
            image.setDevicePixelRatio(ratio)
            image.fill(Qt.GlobalColor.transparent)
            p = QPainter(image)
            paint(p)
            p.end()
            self._key, self._image = key, image
        return self._image


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


def checker(p: QPainter, rect: QRectF, step: int = 8) -> None:
    """Squares of two greys, for what is seen through."""
    p.save()
    p.setClipRect(rect, Qt.ClipOperation.IntersectClip)
    p.fillRect(rect, theme.colour(theme.LINE))
    for row in range(int(rect.height()) // step + 1):
        for column in range(row % 2, int(rect.width()) // step + 1, 2):
            at = QRectF(rect.x() + column * step, rect.y() + row * step, step, step)
            p.fillRect(at, theme.colour(theme.PANEL))
    p.restore()


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
