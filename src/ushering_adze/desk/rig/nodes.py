"""How sources, outputs and surfaces are drawn on the signal path: each a box with its name, format and state."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from ushering_adze.core.displays.rig import KIND_WORDS, input_cadence, output_wires
from ushering_adze.core.show import Feed, Input, Output, Show
from ushering_adze.core.show.rigging import Shelf
from ushering_adze.core.show.source import without_secrets
from ushering_adze.core.signal.timing import SignalError, rate_words
from ushering_adze.desk import theme
from ushering_adze.desk.rig.feed_specs import feed_state
from ushering_adze.playout import FeedReport


def format_words(source: Any) -> str:
    """A source's format in a few characters."""
    if isinstance(source, Input):
        gang = f" · {source.gang.columns}×{source.gang.rows}" if source.gang else ""
        sweep = "i" if source.interlaced else "p"
        size = (
            f"{source.height}{sweep}" if source.width * 9 == source.height * 16 else f"{source.width}×{source.height}"
        )
        return f"{size} {rate_words(source.rate)}{gang}"
    return str(source.kind)


def paint_node(
    p: QPainter, show: Show, shelf: Shelf, rect: QRectF, item: Any, chosen: bool, told: FeedReport | None = None
) -> None:
    """Draw an item of the rig in its box; the selected one is outlined.  A feed with what is ``told`` of it."""
    p.setPen(theme.hairline(theme.AMBER if chosen else theme.LINE, 1.6 if chosen else 1))
    p.setBrush(theme.colour(theme.RAISED if chosen else theme.PANEL))
    p.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
    if shelf == "sources":
        _paint_source(p, show, rect, item, chosen)
    elif shelf == "outputs":
        _paint_output(p, rect, item, chosen)
    elif shelf == "feeds":
        _paint_feed(p, rect, item, chosen, told)
    else:
        _paint_surface(p, rect, item, chosen)


def _paint_source(p: QPainter, show: Show, rect: QRectF, item: Any, chosen: bool) -> None:
    p.fillRect(QRectF(rect.x() + 1, rect.y() + 1, 4, rect.height() - 2), theme.colour(item.colour))
    p.setFont(theme.font(11, mono=True))
    uneven = isinstance(item, Input) and input_cadence(show, item).uneven_s is not None
    p.setPen(theme.colour(theme.AMBER if uneven else theme.DIM))
    words = format_words(item)
    used = p.fontMetrics().horizontalAdvance(words)
    theme.right(p, rect.adjusted(0, 0, -8, 0), words)
    mark = 0.0
    if isinstance(item, Input) and item.protected:
        p.setPen(theme.colour(theme.AMBER))
        mark = 36
        theme.right(p, rect.adjusted(0, 0, -14 - used, 0), "prot.")
    p.setFont(theme.font(13, bold=chosen))
    p.setPen(theme.colour(theme.TEXT))
    theme.left(p, QRectF(rect.x() + 12, rect.y(), rect.width() - used - 28 - mark, rect.height()), item.name)


def _paint_output(p: QPainter, rect: QRectF, item: Output, chosen: bool) -> None:
    if item.colour is not None:
        p.fillRect(QRectF(rect.right() - 4, rect.y() + 1, 3, rect.height() - 2), theme.colour(item.colour))
    p.setFont(theme.font(13, bold=True, mono=True))
    p.setPen(theme.colour(theme.DIM))
    theme.left(p, QRectF(rect.x() + 10, rect.y() + 2, 30, 20), str(item.number))
    bound_words = (
        "unbound"
        if item.binding is None
        else {"display": "display", "window": "window", "files": "files"}[item.binding.kind]
    )
    p.setFont(theme.font(11))
    used = p.fontMetrics().horizontalAdvance(bound_words)
    p.setPen(theme.colour(theme.DIM if item.binding is None else theme.GREEN))
    theme.right(p, QRectF(rect.x(), rect.y() + 2, rect.width() - 10, 20), bound_words)
    p.setFont(theme.font(13, bold=chosen))
    p.setPen(theme.colour(theme.TEXT))
    theme.left(p, QRectF(rect.x() + 36, rect.y() + 2, rect.width() - 56 - used, 20), item.name)
    gang = f" · {item.gang.columns}×{item.gang.rows}" if item.gang else ""
    mirrors = f" · +{len(item.mirrors)}" if item.mirrors else ""
    p.setFont(theme.font(11, mono=True))
    p.setPen(theme.colour(theme.DIM))
    theme.left(
        p,
        QRectF(rect.x() + 36, rect.y() + 22, rect.width() - 44, 16),
        f"{item.timing.width}×{item.timing.height} {rate_words(item.timing.rate)}{gang}{mirrors}",
    )
    _paint_meter(p, QRectF(rect.right() - 76, rect.y() + 27, 66, 6), item)


_GRADES = {"plain": theme.DIM, "good": theme.GREEN, "warning": theme.AMBER, "error": theme.RED_WORDS}


def _paint_feed(p: QPainter, rect: QRectF, item: Feed, chosen: bool, told: FeedReport | None) -> None:
    words, grade = feed_state(told)
    p.setFont(theme.font(11))
    used = p.fontMetrics().horizontalAdvance(words)
    p.setPen(theme.colour(_GRADES[grade]))
    theme.right(p, QRectF(rect.x(), rect.y() + 2, rect.width() - 10, 20), words)
    p.setFont(theme.font(13, bold=chosen))
    p.setPen(theme.colour(theme.TEXT))
    theme.left(p, QRectF(rect.x() + 10, rect.y() + 2, rect.width() - 30 - used, 20), item.name)
    p.setFont(theme.font(11, mono=True))
    p.setPen(theme.colour(theme.DIM))
    where = without_secrets(item.to) if not item.is_path else item.to.rsplit("/", 1)[-1]
    theme.left(p, QRectF(rect.x() + 10, rect.y() + 22, rect.width() - 18, 16), where)


def _paint_meter(p: QPainter, box: QRectF, item: Output) -> None:
    """How full the link is; over the end, and red, when it does not fit."""
    try:
        loads = [w.load for w in output_wires(item) if w.load is not None]
    except SignalError:
        loads = []
        p.setPen(theme.colour(theme.RED_WORDS))
        p.setFont(theme.font(11))
        theme.right(p, box.adjusted(-40, -6, 0, 6), "no timing")
    if not loads:
        return
    worst = max(loads, key=lambda k: (not k.fits, k.share))
    p.fillRect(box, theme.colour(theme.LINE))
    share = min(1.0, worst.share)
    token = (
        theme.RED if not worst.fits else theme.AMBER if worst.share > 0.98 and worst.link.how != "sdi" else theme.DIM
    )
    p.fillRect(QRectF(box.x(), box.y(), box.width() * share, box.height()), theme.colour(token))
    if not worst.fits:
        p.setPen(theme.hairline(theme.TEXT, 1.4))
        p.drawLine(QPointF(box.right(), box.y() - 3), QPointF(box.right(), box.bottom() + 3))


def _paint_surface(p: QPainter, rect: QRectF, item: Any, chosen: bool) -> None:
    p.setFont(theme.font(11))
    p.setPen(theme.colour(theme.DIM))
    kind = KIND_WORDS[item.kind]
    used = p.fontMetrics().horizontalAdvance(kind)
    theme.right(p, QRectF(rect.x(), rect.y() + 2, rect.width() - 10, 20), kind)
    p.setFont(theme.font(13, bold=chosen))
    p.setPen(theme.colour(theme.TEXT))
    theme.left(p, QRectF(rect.x() + 14, rect.y() + 2, rect.width() - 34 - used, 20), item.name)
    p.setFont(theme.font(11, mono=True))
    p.setPen(theme.colour(theme.DIM))
    size = f"  {item.size_mm[0] / 1000:.3g} × {item.size_mm[1] / 1000:.3g} m" if item.size_mm else ""
    theme.left(
        p, QRectF(rect.x() + 14, rect.y() + 22, rect.width() - 22, 16), f"{item.pixels[0]}×{item.pixels[1]}{size}"
    )
