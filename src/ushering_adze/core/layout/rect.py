"""Integer pixel rectangles, half open: a rectangle covers columns ``x`` to ``x + w - 1``."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple


class Rect(NamedTuple):
    """A rectangle of whole pixels."""

    x: int
    y: int
    w: int
    h: int

    @property
    def right(self) -> int:
        """First column past the rectangle."""
        return self.x + self.w

    @property
    def foot(self) -> int:
        """First row past the rectangle."""
        return self.y + self.h

    @property
    def empty(self) -> bool:
        """Whether it covers no pixel."""
        return self.w <= 0 or self.h <= 0

    @property
    def area(self) -> int:
        """Number of pixels covered."""
        return max(0, self.w) * max(0, self.h)

    def meet(self, other: Rect) -> Rect:
        """The pixels in both; of zero size when there are none.

        Examples
        --------
        >>> Rect(0, 0, 10, 10).meet(Rect(6, 2, 10, 3))
        Rect(x=6, y=2, w=4, h=3)
        """
        x, y = max(self.x, other.x), max(self.y, other.y)
        return Rect(x, y, max(0, min(self.right, other.right) - x), max(0, min(self.foot, other.foot) - y))

    def join(self, other: Rect) -> Rect:
        """The smallest rectangle that holds both."""
        if self.empty:
            return other
        if other.empty:
            return self
        x, y = min(self.x, other.x), min(self.y, other.y)
        return Rect(x, y, max(self.right, other.right) - x, max(self.foot, other.foot) - y)

    def holds(self, other: Rect) -> bool:
        """Whether every pixel of ``other`` is in this one."""
        return other.empty or (self.x <= other.x and self.y <= other.y and self.right >= other.right and self.foot >= other.foot)

    def moved(self, dx: int, dy: int) -> Rect:
        """The same size, ``dx`` columns to the right and ``dy`` rows down."""
        return Rect(self.x + dx, self.y + dy, self.w, self.h)

    def cut(self) -> tuple[slice, slice]:
        """Index for a picture array: ``array[rect.cut()]``."""
        return slice(self.y, self.foot), slice(self.x, self.right)


def gathered(rects: Iterable[Rect]) -> list[Rect]:
    """Join rectangles until none touch pixels of another, so that no pixel is worked on twice.

    Examples
    --------
    >>> gathered([Rect(0, 0, 4, 4), Rect(2, 2, 4, 4), Rect(20, 0, 1, 1)])
    [Rect(x=0, y=0, w=6, h=6), Rect(x=20, y=0, w=1, h=1)]
    """
    done: list[Rect] = []
    for rect in rects:
        if rect.empty:
            continue
        changed = True
        while changed:
            changed = False
            for other in done:
                if not rect.meet(other).empty:
                    done.remove(other)
                    rect, changed = rect.join(other), True
                    break
        done.append(rect)
    return sorted(done)
