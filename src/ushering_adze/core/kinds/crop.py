"""What is cut from each side of a source's picture."""

from __future__ import annotations

from pydantic import model_validator

from ushering_adze.core.document.model import Model
from ushering_adze.core.kinds.kind import Kind, as_floats
from ushering_adze.core.kinds.opacity import Fraction


class Crop(Model):
    """What is cut from each side of the source's picture, as fractions of its width and height."""

    left: Fraction = 0.0
    top: Fraction = 0.0
    right: Fraction = 0.0
    bottom: Fraction = 0.0

    @model_validator(mode="after")
    def _something_is_left(self) -> Crop:
        if self.left + self.right >= 1 or self.top + self.bottom >= 1:
            raise ValueError("the crop leaves nothing of the picture; keep left + right and top + bottom under 1")
        return self


def _sane(value: tuple[float, float, float, float]) -> bool:
    left, top, right, bottom = value
    return left + right < 1 and top + bottom < 1


KIND = Kind(
    "crop",
    "Crop",
    30,
    Crop,
    Crop(),
    glyph=(((0.3, 0.0), (0.3, 0.7), (1.0, 0.7)), ((0.0, 0.3), (0.7, 0.3), (0.7, 1.0))),
    value=lambda c, width, height: (c.left, c.top, c.right, c.bottom),
    document=lambda v, width, height: Crop(left=v[0], top=v[1], right=v[2], bottom=v[3]),
    to_json=lambda value, now: list(value),
    from_json=lambda value, now: as_floats(value),
    sane=_sane,
    family="place",
)
