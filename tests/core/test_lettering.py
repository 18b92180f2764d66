"""Words that several threads draw and measure at once."""

from __future__ import annotations

import threading
from collections import defaultdict

import cv2
import numpy as np

from ushering_adze.core.plane.lettering import put_text, text_size

ROUNDS = 6000


def test_who_measures_is_not_told_of_the_size_that_another_draws_in() -> None:
    face, begin = cv2.FontFace("sans"), threading.Barrier(2)
    told: dict[tuple[int, int], set[tuple[int, ...]]] = defaultdict(set)

    def work(size: int) -> None:
        begin.wait()
        picture = np.zeros((60, 400, 4), np.uint8)
        for n in range(ROUNDS):
            told[size, n % 7].add(tuple(text_size((400, 60), f"unbound {n % 7}", (0, 0), face, size, 700)))
            if n % 100 == 0:
                put_text(picture, "unbound", (5, 40), (255, 255, 255, 255), face, size, 700)

    threads = [threading.Thread(target=work, args=(size,)) for size in (12, 40)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(told) == 14 and all(len(boxes) == 1 for boxes in told.values())
