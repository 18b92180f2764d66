"""Outlines of panels from DXF drawings: closed polylines as rectangles in pixels."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from ushering_adze.core.layout.rect import Rect
from ushering_adze.core.show import Fault, ShowError


class Outline(NamedTuple):
    """A closed polyline: its layer, its box in mm with y downwards from the top of the drawing, and whether it is that box."""

    layer: str
    x_mm: float
    y_mm: float
    w_mm: float
    h_mm: float
    upright: bool


def read_outlines(path: Path) -> tuple[list[Outline], list[Fault]]:
    """Read the closed polylines of a DXF file's model space.

    Returns
    -------
    outlines : list of Outline
        Row by row from the top left; millimetres by the drawing's own units, or as drawn if it names none.
    faults : list of Fault
        One for each polyline that is left out or not an upright rectangle.

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
        raise ShowError([Fault(path.name, f"it is no DXF that can be read, or it is damaged ({type(error).__name__}); export it again "
                               "as ASCII DXF")]) from None
    scale = units.conversion_factor(drawing.units, units.MM) if drawing.units else 1.0
    shapes: list[tuple[str, list[tuple[float, float]]]] = []
    faults = []
    for n, entity in enumerate(drawing.modelspace().query("LWPOLYLINE POLYLINE"), 1):
        points = ([(float(x), float(y)) for x, y in entity.get_points("xy")] if entity.dxftype() == "LWPOLYLINE"  # type: ignore[attr-defined]
                  else [(float(v.dxf.location.x), float(v.dxf.location.y)) for v in entity.vertices])  # type: ignore[attr-defined]
        closed = bool(entity.is_closed) or (len(points) > 3 and points[0] == points[-1])  # type: ignore[attr-defined]
        if not closed or len(points) < 3:
            faults.append(Fault(f"polyline {n}", f'it is not closed (layer "{entity.dxf.layer}"); it is left out'))
            continue
        shapes.append((str(entity.dxf.layer), [(x * scale, y * scale) for x, y in points]))
    if not shapes:
        raise ShowError([Fault(path.name, "it holds no closed polyline; draw each panel as one")])
    top = max(y for _, points in shapes for _, y in points)
    left = min(x for _, points in shapes for x, _ in points)
    outlines = []
    for n, (layer, points) in enumerate(shapes, 1):
        xs, ys = [p[0] for p in points], [p[1] for p in points]
        tolerance = 1e-6 * max(1.0, max(xs) - min(xs), max(ys) - min(ys))
        upright = all(min(abs(x - min(xs)), abs(x - max(xs))) <= tolerance and min(abs(y - min(ys)), abs(y - max(ys))) <= tolerance
                      for x, y in points)
        if not upright:
            faults.append(Fault(f"outline {n}", f'it is no upright rectangle (layer "{layer}"); the box around it is taken'))
        outlines.append(Outline(layer, min(xs) - left, top - max(ys), max(xs) - min(xs), max(ys) - min(ys), upright))
    return sorted(outlines, key=lambda o: (o.y_mm, o.x_mm)), faults


def outline_rects(outlines: list[Outline], mm_per_px: float) -> list[Rect]:
    """Outlines in whole pixels; each edge is rounded by itself, so that panels that touch go on touching.

    Raises
    ------
    ShowError
        If the scale makes a panel smaller than a pixel.
    """
    if mm_per_px <= 0:
        raise ShowError([Fault("scale", f"{mm_per_px:g} mm to a pixel is no scale; give the pixel pitch, for example 2.6")])
    rects = []
    for n, o in enumerate(outlines, 1):
        x0, y0 = round(o.x_mm / mm_per_px), round(o.y_mm / mm_per_px)
        x1, y1 = round((o.x_mm + o.w_mm) / mm_per_px), round((o.y_mm + o.h_mm) / mm_per_px)
        if x1 <= x0 or y1 <= y0:
            raise ShowError([Fault(f"outline {n}", f"it is {o.w_mm:g} × {o.h_mm:g} mm, under a pixel at {mm_per_px:g} mm; check the scale")])
        rects.append(Rect(x0, y0, x1 - x0, y1 - y0))
    return rects
