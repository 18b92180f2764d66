"""A drawing in pixels that can be written as PNG, SVG or PDF: boxes, lines, circles and words."""

from __future__ import annotations

from html import escape
from typing import Literal, NamedTuple


class Box(NamedTuple):
    """A rectangle of whole pixels; a stroke lies inside it, on its outermost pixels."""

    x: float
    y: float
    w: float
    h: float
    fill: str | None = None
    stroke: str | None = None
    width: int = 1


class Line(NamedTuple):
    """A line between two points; ``exact`` ones run along whole columns or rows and are one pixel wide."""

    x1: float
    y1: float
    x2: float
    y2: float
    colour: str
    width: float = 1.0


class Circle(NamedTuple):
    """A circle about a point."""

    x: float
    y: float
    radius: float
    colour: str
    width: float = 1.0


class Words(NamedTuple):
    """A line of text, its baseline at ``y``; ``size`` is that of the type in pixels."""

    x: float
    y: float
    text: str
    size: float
    colour: str
    anchor: Literal["start", "middle"] = "start"
    strong: bool = False


Item = Box | Line | Circle | Words


class Sheet(NamedTuple):
    """A drawing of a size in pixels; with no ground it is transparent where nothing is drawn."""

    width: int
    height: int
    items: tuple[Item, ...]
    ground: str | None = "#000000"
    title: str = ""


def _plain(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def as_svg(sheet: Sheet) -> str:
    """The drawing as SVG 1.1, one user unit to one pixel."""
    n = _plain
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{sheet.width}" height="{sheet.height}" '
        f'viewBox="0 0 {sheet.width} {sheet.height}" shape-rendering="crispEdges">',
    ]
    if sheet.title:
        lines.append(f"<title>{escape(sheet.title, quote=False)}</title>")
    if sheet.ground is not None:
        lines.append(f'<rect width="{sheet.width}" height="{sheet.height}" fill="{sheet.ground}"/>')
    for item in sheet.items:
        if isinstance(item, Box):
            if item.fill is not None:
                lines.append(
                    f'<rect x="{n(item.x)}" y="{n(item.y)}" width="{n(item.w)}" height="{n(item.h)}" '
                    f'fill="{item.fill}"/>'
                )
            if item.stroke is not None:
                k = item.width / 2
                lines.append(
                    f'<rect x="{n(item.x + k)}" y="{n(item.y + k)}" width="{n(item.w - 2 * k)}" '
                    f'height="{n(item.h - 2 * k)}" '
                    f'fill="none" stroke="{item.stroke}" stroke-width="{item.width}"/>'
                )
        elif isinstance(item, Line):
            straight = item.x1 == item.x2 or item.y1 == item.y2
            dx, dy = (0.5 if item.x1 == item.x2 else 0, 0.5 if item.y1 == item.y2 else 0)
            lines.append(
                f'<line x1="{n(item.x1 + dx)}" y1="{n(item.y1 + dy)}" x2="{n(item.x2 + dx)}" y2="{n(item.y2 + dy)}" '
                f'stroke="{item.colour}" stroke-width="{n(item.width)}"'
                + ("" if straight else ' shape-rendering="geometricPrecision"')
                + "/>"
            )
        elif isinstance(item, Circle):
            lines.append(
                f'<circle cx="{n(item.x)}" cy="{n(item.y)}" r="{n(item.radius)}" fill="none" stroke="{item.colour}" '
                f'stroke-width="{n(item.width)}" shape-rendering="geometricPrecision"/>'
            )
        else:
            weight = ' font-weight="bold"' if item.strong else ""
            words = escape(item.text, quote=False)
            lines.append(
                f'<text x="{n(item.x)}" y="{n(item.y)}" font-family="B612, DejaVu Sans, sans-serif" '
                f'font-size="{n(item.size)}" fill="{item.colour}" text-anchor="{item.anchor}"{weight}>{words}</text>'
            )
    lines.append("</svg>")
    return "\n".join(lines) + "\n"
