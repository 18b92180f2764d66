"""Pictures in memory that two processes see: whole, the newest, and never changed while they are shown."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np
import pytest

from ushering_adze.playout.ring import PLACES, Placed, RingIn, RingOut
from waiting import wait_for


class Ends:
    def __init__(self) -> None:
        self.placed: list[Placed] = []
        self.into, self.out = RingIn(self.placed.append), RingOut()


@pytest.fixture
def ends() -> Iterator[Ends]:
    made = Ends()
    yield made
    made.into.close()


def flat(value: int, height: int = 180) -> np.ndarray:  # type: ignore[type-arg]
    return np.full((height, 320, 4), value, np.uint8)


def test_a_picture_stays_while_it_is_shown_and_the_newest_follows(ends: Ends) -> None:
    ends.into.put(flat(1))
    assert wait_for(lambda: len(ends.placed) == 1)
    shown = ends.out.seen(ends.placed[0])
    assert shown is not None and (shown == 1).all() and not shown.flags.writeable
    ends.into.took(ends.placed[0].number)
    values = itertools.cycle(range(2, 200))
    assert wait_for(lambda: (ends.into.put(flat(next(values))), len(ends.placed) == PLACES)[1], every=0.05)
    assert (shown == 1).all(), "others are put beside it"
    second, third = (ends.out.seen(placed) for placed in ends.placed[1:])
    assert second is not None and third is not None and (third == third[0, 0, 0]).all()
    for n in range(200, 220):
        ends.into.put(flat(n))
    was = int(third[0, 0, 0])
    assert len(ends.placed) == PLACES, "no more than fit"
    ends.into.took(ends.placed[2].number)
    assert wait_for(lambda: len(ends.placed) == PLACES + 1), "the newest of those that waited"
    last = ends.out.seen(ends.placed[-1])
    assert last is not None and (last == 219).all() and (third == was).all()


def test_another_size_is_another_memory_and_what_is_shown_of_the_former_stays(ends: Ends) -> None:
    ends.into.put(flat(5))
    assert wait_for(lambda: len(ends.placed) == 1)
    small = ends.out.seen(ends.placed[0])
    ends.into.took(1)
    ends.into.put(flat(6, 360))
    assert wait_for(lambda: len(ends.placed) == 2)
    large = ends.out.seen(ends.placed[1])
    assert small is not None and large is not None and large.shape == (360, 320, 4)
    assert (small == 5).all() and (large == 6).all()
    ends.into.took(2)
    ends.into.put(flat(7))
    assert wait_for(lambda: len(ends.placed) == 3)
    again = ends.out.seen(ends.placed[2])
    assert again is not None and (again == 7).all() and (small == 5).all() and (large == 6).all()


def test_a_ring_that_is_gone_shows_nothing() -> None:
    ends = Ends()
    ends.into.put(flat(1))
    assert wait_for(lambda: len(ends.placed) == 1)
    ends.into.close()
    assert ends.out.seen(ends.placed[0]._replace(file=9999)) is None
