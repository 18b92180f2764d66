"""How text is set: by its source, or in one layer otherwise."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Colour, Model, Name
from ushering_adze.core.kinds import mixed
from ushering_adze.core.kinds.kind import Kind

Part = Annotated[float, Field(ge=0, le=1)]
Letters = Annotated[float, Field(ge=6, le=2000)]
Side = Annotated[int, Field(ge=1, le=32768)]


class Dress(Model):
    """How pages of text are set: over the whole screen, or as a strip at its foot.

    ``size`` is the height of letters in pixels, at most; text that is too long gets smaller ones, down to ``smallest``.
    ``safe`` is what stays free at each side, as a share.  Behind the text is ``box``, as dense as ``density``.
    """

    layout: Literal["full", "strip"] = "full"
    width: Side = 1920
    height: Side = 1080
    font: Name = "B612"
    size: Letters = 110.0
    smallest: Letters = 28.0
    colour: Colour = "#FFFFFF"
    second: bool = True
    second_colour: Colour = "#E3A857"
    second_size: Annotated[Part, Field(description="of the second field, as a share of the first's")] = 0.6
    box: Colour = "#0E1230"
    density: Part = 0.0
    align: Literal["left", "middle", "right"] = "middle"
    safe: Annotated[float, Field(ge=0, le=0.3)] = 0.05
    strip: Annotated[float, Field(ge=0.05, le=1, description="height of the strip, as a share")] = 0.22

    @model_validator(mode="after")
    def _sizes_in_order(self) -> Dress:
        if self.smallest > self.size:
            raise ValueError("the smallest letters are larger than the letters; make them no larger")
        return self


def fitted(dress: Dress, width: float, height: float) -> Dress:
    """A dress for a picture of another size: its letters as large in it as before.

    Parameters
    ----------
    dress : Dress
    width, height : float
        Pixels of the picture.

    Examples
    --------
    >>> made = fitted(Dress(width=1920, height=1080, size=100), 960, 540)
    >>> made.width, made.height, made.size, made.smallest
    (960, 540, 50.0, 14.0)
    """
    wide, high = (min(32768, max(1, round(side))) for side in (width, height))
    by = min(wide / dress.width, high / dress.height)
    size, smallest = (min(2000.0, max(6.0, round(letters * by, 1))) for letters in (dress.size, dress.smallest))
    return dress.model_copy(update={"width": wide, "height": high, "size": size, "smallest": min(size, smallest)})


BETWEEN = "~"
"""Stands between a source and its dress; no id has it."""


@lru_cache(4096)
def worn(source: str, dress: Dress) -> str:
    """What a source is called in a dress.

    Parameters
    ----------
    source : str
        Id of a text or a clock.
    dress : Dress

    Examples
    --------
    >>> worn("lines", Dress()) == worn("lines", Dress(size=110)), worn("lines", Dress()).partition("~")[0]
    (True, 'lines')
    """
    return f"{source}{BETWEEN}{dress.model_dump_json()}"


@lru_cache(4096)
def wearer(name: str) -> tuple[str, Dress]:
    """The source and the dress of a name that `worn` gave.

    Examples
    --------
    >>> wearer(worn("lines", Dress(size=40)))[1].size
    40.0
    """
    source, _, dress = name.partition(BETWEEN)
    return source, Dress.model_validate_json(dress)


def _from_json(value: Any) -> Dress | None:
    return None if value is None else Dress.model_validate(value)


KIND = Kind(
    "dress",
    "Text",
    68,
    Dress | None,
    None,
    glyph=(
        ((0.15, 0.25), (0.15, 0.15), (0.85, 0.15), (0.85, 0.25)),
        ((0.5, 0.15), (0.5, 0.85)),
        ((0.38, 0.85), (0.62, 0.85)),
    ),
    document=lambda value, width, height: mixed.plainest(value),
    between=mixed.mixed,
    rest=mixed.rested,
    to_json=lambda value, now: mixed.to_json(value, lambda d: None if d is None else d.model_dump(mode="json")),
    from_json=lambda value, now: mixed.from_json(value, _from_json),
    sane=lambda value: mixed.is_sane(value, lambda d: True),
    family="look",
)
