"""Outlines of panels from DXF drawings: closed polylines as rectangles in pixels."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.apart import read_apart

MOST, DEEPEST = 100_000, 16
"""Things drawn, and blocks within blocks, that are looked at."""


class Outline(NamedTuple):
    """A closed polyline: its layer, its box in mm with y downwards from the top of the drawing, and whether it is that
    box.
    """

    layer: str
    x_mm: float
    y_mm: float
    w_mm: float
    h_mm: float
    upright: bool


def read_outlines(path: Path) -> tuple[list[Outline], list[Fault]]:
    """Like `outlines_of`, in a process of its own."""
    told, _ = read_apart("dxf", path)
    return [Outline(*one) for one in told["outlines"]], [Fault(*one) for one in told["faults"]]


def outlines_of(path: Path) -> tuple[list[Outline], list[Fault]]:
    """Read the closed polylines of a DXF file's model space, those in blocks as well.

    Returns
    -------
    outlines : list of Outline
        Row by row from the top left; millimetres by the drawing's own units, or as drawn if it names none.
    faults : list of Fault
        One for each polyline that is left out or not an upright rectangle, and one that counts whatever else is drawn.

    Raises
    ------
    ShowError
        If the file is no DXF, is damaged, or holds no closed polyline.
    """
    # loaded when first needed, so that the program starts sooner
    import ezdxf
    from ezdxf import units
    from ezdxf.lldxf.const import DXFError

    try:
        drawing = ezdxf.readfile(path)
    except FileNotFoundError:
        raise ShowError([Fault(str(path), "there is no such file; check the path")]) from None
    except (OSError, DXFError, UnicodeDecodeError, ValueError) as error:
        raise ShowError(
            [
                Fault(
                    path.name,
                    f"it is no DXF that can be read, or it is damaged ({type(error).__name__}); export it again "
                    "as ASCII DXF",
                )
            ]
        ) from None
    scale = units.conversion_factor(drawing.units, units.MM) if drawing.units else 1.0
    shapes: list[tuple[str, list[tuple[float, float]]]] = []
    faults: list[Fault] = []
    others: Counter[str] = Counter()
    try:
        for n, (entity, layer) in enumerate(_drawn(drawing.modelspace()), 1):
            if n > MOST:
                faults.append(
                    Fault(
                        path.name,
                        f"it draws more than {MOST} things, blocks counted in full; what comes after them is left out",
                    )
                )
                break
            points = _closed_line(entity, n, layer, faults, others)
            if points is not None:
                shapes.append((layer, [(x * scale, y * scale) for x, y in points]))
    except (DXFError, ValueError, ArithmeticError, RecursionError, AttributeError, TypeError) as error:
        raise ShowError(
            [Fault(path.name, f"its drawing is damaged ({type(error).__name__}); export it again as ASCII DXF")]
        ) from None
    if others:
        told = ", ".join(f"{count} {kind}" for kind, count in sorted(others.items()))
        faults.append(Fault(path.name, f"left out, being no closed polylines: {told}"))
    if not shapes:
        raise ShowError([Fault(path.name, "it holds no closed polyline; draw each panel as one")])
    top = max(y for _, points in shapes for _, y in points)
    left = min(x for _, points in shapes for x, _ in points)
    outlines = []
    for n, (layer, points) in enumerate(shapes, 1):
        xs, ys = [p[0] for p in points], [p[1] for p in points]
        tolerance = 1e-6 * max(1.0, max(xs) - min(xs), max(ys) - min(ys))
        upright = all(
            min(abs(x - min(xs)), abs(x - max(xs))) <= tolerance
            and min(abs(y - min(ys)), abs(y - max(ys))) <= tolerance
            for x, y in points
        )
        if not upright:
            faults.append(
                Fault(f"outline {n}", f'it is no upright rectangle (layer "{layer}"); the box around it is taken')
            )
        outlines.append(Outline(layer, min(xs) - left, top - max(ys), max(xs) - min(xs), max(ys) - min(ys), upright))
    return sorted(outlines, key=lambda o: (o.y_mm, o.x_mm)), faults


def _drawn(entities: Iterable[Any], layer: str | None = None, depth: int = 0) -> Iterator[tuple[Any, str]]:
    """What is drawn, with its layer: blocks taken apart where they are inserted, placed, scaled and turned; layer 0 is
    the insert's own.
    """
    for entity in entities:
        own = str(entity.dxf.get("layer", "0"))
        if layer is not None and own == "0":
            own = layer
        if entity.dxftype() != "INSERT":
            yield entity, own
        elif depth < DEEPEST:
            for one in entity.multi_insert() if entity.mcount > 1 else (entity,):
                yield from _drawn(one.virtual_entities(), own, depth + 1)


def _closed_line(
    entity: Any, n: int, layer: str, faults: list[Fault], others: Counter[str]
) -> list[tuple[float, float]] | None:
    """The corners of a closed polyline in the drawing's own plane, arcs in it followed; None if it is something else,
    which is noted.
    """
    from ezdxf.path import make_path

    kind = entity.dxftype()
    flat = kind == "LWPOLYLINE" or (kind == "POLYLINE" and (entity.is_2d_polyline or entity.is_3d_polyline))
    if not flat:
        others[kind] += 1
        return None
    line = make_path(entity)
    points = [(float(p.x), float(p.y), float(p.z)) for p in line.flattening(_fineness(line))] if len(line) else []
    ends = len(points) > 3 and max(abs(a - b) for a, b in zip(points[0], points[-1], strict=True)) < 1e-9
    if not (entity.is_closed or ends) or len(points) < 3:
        faults.append(Fault(f"polyline {n}", f'it is not closed (layer "{layer}"); it is left out'))
        return None
    heights = [z for _, _, z in points]
    if max(heights) - min(heights) > 1e-6 * max(1.0, *(abs(v) for p in points for v in p)):
        faults.append(
            Fault(f"polyline {n}", f'it does not lie in the plane of the drawing (layer "{layer}"); it is left out')
        )
        return None
    return [(x, y) for x, y, _ in points]


def _fineness(line: Any) -> float:
    """How near arcs are followed: a ten-thousandth of what a line spans."""
    points = [line.start, *line.control_vertices()]
    return max(
        1e-9,
        1e-4
        * max(max(p.x for p in points) - min(p.x for p in points), max(p.y for p in points) - min(p.y for p in points)),
    )


def outline_rects(outlines: list[Outline], mm_per_px: float) -> list[Rect]:
    """Outlines in whole pixels; each edge is rounded by itself, so that panels that touch go on touching.

    Raises
    ------
    ShowError
        If the scale makes a panel smaller than a pixel.
    """
    if mm_per_px <= 0:
        raise ShowError(
            [Fault("scale", f"{mm_per_px:g} mm to a pixel is no scale; give the pixel pitch, for example 2.6")]
        )
    rects = []
    for n, o in enumerate(outlines, 1):
        x0, y0 = round(o.x_mm / mm_per_px), round(o.y_mm / mm_per_px)
        x1, y1 = round((o.x_mm + o.w_mm) / mm_per_px), round((o.y_mm + o.h_mm) / mm_per_px)
        if x1 <= x0 or y1 <= y0:
            raise ShowError(
                [
                    Fault(
                        f"outline {n}",
                        f"it is {o.w_mm:g} × {o.h_mm:g} mm, under a pixel at {mm_per_px:g} mm; check the scale",
                    )
                ]
            )
        rects.append(Rect(x0, y0, x1 - x0, y1 - y0))
    return rects
