"""What of a layer's box is seen: rounded corners, an ellipse, a polygon, a picture as mask, soft edges."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Id, Model
from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind, Way

Point = tuple[Annotated[float, Field(ge=-4, le=5)], Annotated[float, Field(ge=-4, le=5)]]


class Shape(Model):
    """The form of a layer within its box.

    ``radius`` is that of a box's corners, ``soft`` over how many pixels its edge fades, inwards.  A polygon has
    ``points``, as shares of the box, or else so many ``sides`` of one length.  ``mask`` is a source whose brightness,
    or alpha, is what is seen of it.
    """

    form: Literal["box", "ellipse", "polygon"] = "box"
    radius: Annotated[float, Field(ge=0, le=16384)] = 0.0
    soft: Annotated[float, Field(ge=0, le=16384)] = 0.0
    sides: Annotated[int, Field(ge=3, le=24)] = 6
    points: tuple[Point, ...] = ()
    mask: Id | None = None
    of: Literal["luma", "alpha"] = "luma"
    turned: bool = False

    @model_validator(mode="after")
    def _enough_points(self) -> Shape:
        if self.points and not 3 <= len(self.points) <= 200:
            raise ValueError("a polygon has 3 to 200 points; give more, or none for one of even sides")
        return self


class ShapeNow(NamedTuple):
    """A shape on air."""

    form: str = "box"
    radius: float = 0.0
    soft: float = 0.0
    sides: int = 6
    points: tuple[tuple[float, float], ...] = ()
    mask: str | None = None
    of: str = "luma"
    turned: bool = False


BOX = ShapeNow()

Corner = tuple[float, float]
"""Of a polygon, as shares of its box."""


def polygon_points(shape: ShapeNow) -> tuple[Corner, ...]:
    """The corners of a polygon: its own, or those of one of even sides, the first at the top.

    Parameters
    ----------
    shape : ShapeNow

    Examples
    --------
    >>> [(round(x, 2), round(y, 2)) for x, y in polygon_points(ShapeNow("polygon", sides=4))]
    [(0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)]
    """
    if shape.points:
        return shape.points
    turns = (2 * math.pi * n / shape.sides - math.pi / 2 for n in range(shape.sides))
    return tuple((0.5 + math.cos(t) / 2, 0.5 + math.sin(t) / 2) for t in turns)


def with_corner(points: Sequence[Corner], n: int, to: Corner) -> tuple[Corner, ...]:
    """The corners with one of them elsewhere."""
    x, y = (round(min(5.0, max(-4.0, v)), 5) for v in to)
    return (*points[:n], (x, y), *points[n + 1 :])


def with_corner_between(points: Sequence[Corner], at: Corner) -> tuple[Corner, ...]:
    """The corners with one more, on the side that is nearest to a place.

    Parameters
    ----------
    points : sequence of tuple of float
    at : tuple of float

    Returns
    -------
    tuple of tuple of float
    """

    def distance(n: int) -> float:
        (ax, ay), (bx, by) = points[n], points[(n + 1) % len(points)]
        dx, dy = bx - ax, by - ay
        long = dx * dx + dy * dy
        t = 0.0 if long == 0 else min(1.0, max(0.0, ((at[0] - ax) * dx + (at[1] - ay) * dy) / long))
        return math.hypot(ax + t * dx - at[0], ay + t * dy - at[1])

    n = min(range(len(points)), key=distance) + 1
    return with_corner((*points[:n], at, *points[n:]), n, at)


def without_corner(points: Sequence[Corner], n: int) -> tuple[Corner, ...]:
    """The corners without one of them; all of them, if there are but three."""
    return tuple(points) if len(points) <= 3 else (*points[:n], *points[n + 1 :])


def _between(a: Any, b: Any, t: float, way: Way) -> Any:
    alike = isinstance(a, ShapeNow) and isinstance(b, ShapeNow) and _discrete(a) == _discrete(b)
    if not alike:
        return mixed.mixed(a, b, t, way)
    points = tuple((x + (u - x) * t, y + (v - y) * t) for (x, y), (u, v) in zip(a.points, b.points, strict=True))
    return a._replace(radius=a.radius + (b.radius - a.radius) * t, soft=a.soft + (b.soft - a.soft) * t, points=points)


def _discrete(shape: ShapeNow) -> tuple[object, ...]:
    return shape.form, shape.sides, len(shape.points), shape.mask, shape.of, shape.turned


def _document(value: Any, width: int, height: int) -> Shape:
    return Shape(**mixed.plainest(value)._asdict())


def _read(document: Any) -> ShapeNow:
    made = Shape.model_validate(document)
    return _value(made, 0, 0)


def _value(shape: Shape, width: int, height: int) -> ShapeNow:
    return ShapeNow(**{name: getattr(shape, name) for name in Shape.model_fields})


def _sources(value: Any) -> tuple[str, ...]:
    return tuple(dict.fromkeys(s.mask for s in mixed.values_in(value) if s.mask is not None))


KIND = Kind(
    "shape",
    "Shape",
    45,
    Shape,
    Shape(),
    glyph=(
        (
            (0.5, 0.05),
            (0.82, 0.18),
            (0.95, 0.5),
            (0.82, 0.82),
            (0.5, 0.95),
            (0.18, 0.82),
            (0.05, 0.5),
            (0.18, 0.18),
            (0.5, 0.05),
        ),
    ),
    value=_value,
    document=_document,
    between=_between,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, lambda s: s._asdict()),
    from_json=lambda value, now: mixed.from_json(value, _read),
    sane=lambda value: mixed.is_sane(value, lambda s: s.radius >= 0 and s.soft >= 0),
    named=lambda shape: () if shape.mask is None else (shape.mask,),
    made_of=_sources,
    family="frame",
)
