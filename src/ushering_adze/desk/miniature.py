"""The room in a very small picture: every surface where it hangs, and those that hang nowhere beside it."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter

from ushering_adze.core.mapping.faces import Hung, hung
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of

BESIDE = 0.2
"""Share of the width for what hangs nowhere in the room."""


def places(show: Show, box: QRectF) -> dict[str, QRectF]:
    """Where each surface is drawn within a box."""
    there = {s.id: at for s in show.surfaces if (at := hung(s)) is not None}
    others = [s for s in show.surfaces if s.id not in there]
    found: dict[str, QRectF] = {}
    room = QRectF(box)
    if others and there:
        room.setWidth(box.width() * (1 - BESIDE) - 3)
    if there:
        found |= _hung(there, room)
    if others:
        column = QRectF(box) if not there else QRectF(room.right() + 3, box.y(), box.width() * BESIDE, box.height())
        high = column.height() / len(others)
        for n, surface in enumerate(others):
            width, height = surface.pixels
            k = min(column.width() / width, (high - 2) / height)
            found[surface.id] = QRectF(column.x(), column.y() + n * high, width * k, height * k)
    return found


def _hung(there: Mapping[str, Hung], room: QRectF) -> dict[str, QRectF]:
    left, top = min(h.x for h in there.values()), min(h.y for h in there.values())
    right, foot = max(h.x + h.w for h in there.values()), max(h.y + h.h for h in there.values())
    k = min(room.width() / (right - left), room.height() / (foot - top))
    x0 = room.x() + (room.width() - (right - left) * k) / 2
    return {
        id: QRectF(x0 + (h.x - left) * k, room.y() + (h.y - top) * k, max(2.0, h.w * k), max(2.0, h.h * k))
        for id, h in there.items()
    }


def paint_room(p: QPainter, show: Show, pictures: Mapping[str, Pixels], box: QRectF) -> None:
    """Draw it within a box; a surface without a picture is dark."""
    p.save()
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    for id, rect in places(show, box).items():
        pixels = pictures.get(id)
        if pixels is None:
            p.fillRect(rect, theme.colour(theme.GROUND))
        else:
            p.drawImage(rect, image_of(pixels))
    p.restore()
