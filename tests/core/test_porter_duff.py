"""Porter and Duff's operators: the same codes by pixman and by OpenCV, and those of the formulas."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.plane import porter_duff
from ushering_adze.core.plane.porter_duff import black_below, keep, over, take_away


def exactly(value: np.ndarray) -> np.ndarray:
    """The nearest code: of 255ths there is never a half."""
    return np.minimum(np.floor(value + 0.5), 255).astype(np.uint8)


def by_formula(name: str, target: np.ndarray, other: np.ndarray) -> np.ndarray:
    u, o = target.astype(float), other.astype(float)
    a = (o if o.ndim == 2 else o[..., 3])[..., None] / 255
    match name:
        case "over":
            return np.minimum(exactly(u * (1 - a)).astype(int) + other, 255).astype(np.uint8)
        case "black_below":
            made = target.copy()
            made[..., 3] = target[..., 3] + exactly(o * (1 - u[..., 3] / 255))
            return made
        case "keep":
            return exactly(u * a)
        case _:
            return exactly(u * (1 - a))


OPERATORS: list[tuple[Callable[..., None], bool]] = [
    (over, True), (black_below, False), (keep, False), (keep, True), (take_away, False), (take_away, True)
]  # fmt: skip


@given(
    high=st.integers(1, 40), wide=st.integers(1, 70), left=st.integers(0, 3), seed=st.integers(0, 1 << 16),
    by_pixman=st.booleans(),
)  # fmt: skip
@settings(max_examples=120, deadline=None)
def test_operators_are_those_of_the_formulas(high: int, wide: int, left: int, seed: int, by_pixman: bool) -> None:
    noise = np.random.default_rng(seed)

    def codes(*shape: int) -> np.ndarray:
        made = noise.integers(0, 256, shape, np.uint8)
        made[noise.random(shape[:2]) < 0.2] = 0
        made[noise.random(shape[:2]) < 0.2, ...] = 255
        return made

    library = porter_duff._pixman
    for operator, four in OPERATORS:
        ground = codes(high + 2, wide + 4, 4)
        target = ground[1 : high + 1, left : left + wide]
        other = (
            codes(high, wide + 3, 4)[:, left : left + wide] if four else codes(high, wide + 3)[:, left : left + wide]
        )
        wanted, around = by_formula(operator.__name__, target, other), ground.copy()
        with pytest.MonkeyPatch.context() as patched:
            patched.setattr(porter_duff, "_pixman", library if by_pixman else None)
            operator(target, other)
        assert np.array_equal(target, wanted), operator.__name__
        around[1 : high + 1, left : left + wide] = wanted
        assert np.array_equal(ground, around), "and nothing beside it is touched"


def test_what_pixman_does_not_work_on_is_done_all_the_same() -> None:
    for target in (
        np.full((2, 40_000, 4), 200, np.uint8),  # wider than it counts
        np.full((8, 6, 4), 200, np.uint8)[:, ::2],  # every other column
        np.full((8, 6, 4), 200, np.uint8)[::-1],  # from below
        np.zeros((0, 5, 4), np.uint8),
    ):
        above = np.full(target.shape, 51, np.uint8)
        over(target, above)
        assert (target == 51 + 160).all()
        keep(target, np.full(target.shape[:2], 128, np.uint8))
        assert (target == 106).all()
