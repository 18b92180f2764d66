"""What a kind of setting is: everything the program has to know of it, said in one place."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Literal

How = Literal["left", "snapped", "faded"]
Polyline = tuple[tuple[float, float], ...]
Way = tuple[str, tuple[tuple[str, Any], ...]]
"""A kind of transition and its parameters, by name."""
DISSOLVE: Way = ("dissolve", ())


def straight(a: Any, b: Any, t: float, way: Way = DISSOLVE) -> Any:
    """A number, or each number of a tuple, on the straight line from ``a`` to ``b``.

    Parameters
    ----------
    a, b : float or tuple of float
    t : float
        0 to 1.
    way : Way
        Not looked at: numbers know one way only.

    Examples
    --------
    >>> straight(0.0, 1.0, 0.25), straight((0.0, 10.0), (4.0, 10.0), 0.5)
    (0.25, (2.0, 10.0))
    """
    if isinstance(a, tuple):
        return tuple(x + (y - x) * t for x, y in zip(a, b, strict=True))
    return a + (b - a) * t


def same(value: Any) -> Any:
    """The value itself."""
    return value


def as_floats(value: Iterable[float]) -> tuple[float, ...]:
    """Numbers from JSON as a tuple of floats."""
    return tuple(float(v) for v in value)


@dataclass(frozen=True)
class Kind:
    """One kind of setting of a layer.

    A module of this package that has a ``KIND`` makes the program know it: it is stored, scoped, faded, undone and
    drawn in the grid.

    Attributes
    ----------
    name : str
        In documents.
    words : str
        On the desk.
    order : int
        Place among the kinds, from the left and from the top; no two have the same.
    model : type
        Of its value in a document.
    default : object
        The value of a layer that nothing else is said of.
    usual : {"left", "snapped", "faded"}
        How a preset treats it unless one says otherwise.
    glyph : tuple of polylines
        Its sign, in a square from (0, 0) to (1, 1), y downwards.
    value : callable (document value, canvas width, canvas height) -> value
        What is on air: of a form in which two can be compared and mixed.
    document : callable (value, width, height) -> document value
        The way back, for storing what is on air.
    between : callable (a, b, t, way) -> value
        On the way from one value to another, for 0 < t < 1.
    rest : callable (value, moment) -> value
        What stands for a value on its way when it is interrupted.
    to_json, from_json : callable
        A value on air as plain JSON, and back.
    sane : callable
        Whether a value could be shown.
    sources : callable
        Ids of the sources in a value.
    named : callable
        Ids of the sources in a value of a document.
    made_of : callable
        Ids of the sources that a value needs pictures of without showing them, such as masks.
    zones : callable
        Ids of the zones in a value of a document.
    moved : callable (value of a document, move a path) -> value, optional
        With the paths of its files moved, for a kind that has any.
    fades_unseen : bool
        Whether it is on its way also where a layer that was not seen appears: nobody knows what it was before.
    family : str
        Kinds of one family share a row where there is little room; its own name if it has none.
    """

    name: str
    words: str
    order: int
    model: Any
    default: Any
    usual: How = "snapped"
    glyph: tuple[Polyline, ...] = ()
    value: Callable[[Any, int, int], Any] = lambda stored, width, height: stored
    document: Callable[[Any, int, int], Any] = lambda value, width, height: value
    between: Callable[[Any, Any, float, Way], Any] = straight
    rest: Callable[[Any, float], Any] = lambda value, moment: value
    to_json: Callable[[Any, float], Any] = lambda value, now: value
    from_json: Callable[[Any, float], Any] = lambda value, now: value
    sane: Callable[[Any], bool] = lambda value: True
    sources: Callable[[Any], tuple[str, ...]] = lambda value: ()
    named: Callable[[Any], tuple[str, ...]] = lambda stored: ()
    made_of: Callable[[Any], tuple[str, ...]] = lambda value: ()
    zones: Callable[[Any], tuple[str, ...]] = lambda stored: ()
    moved: Callable[[Any, Callable[[str], str]], Any] | None = None
    fades_unseen: bool = True
    family: str = ""

    @property
    def arrives(self) -> Literal["snapped", "faded"]:
        """How it gets there where it is not left: as usual, or else faded."""
        return "faded" if self.usual == "left" else self.usual
