"""Sharing the array work of one frame between cores.  NumPy and OpenCV let go of the interpreter while they work."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

import cv2
import numpy as np

Item = TypeVar("Item")
CORES = max(1, len(os.sched_getaffinity(0)))
_helpers = ThreadPoolExecutor(max(1, CORES - 1), "frame")


def _begin() -> None:
    """Start the helpers, and OpenCV's, now: a thread has the priority of the one that first wanted it, and that may be
    one that gives way.
    """
    for _ in range(CORES - 1):
        _helpers.submit(int)
    some = np.zeros((256, 256, 4), np.uint8)
    cv2.resize(some, (640, 640))
    cv2.warpAffine(some, np.eye(2, 3), (640, 640))


_begin()


def each(work: Callable[[Item], object], items: Sequence[Item]) -> None:
    """Do ``work`` on every item, on all cores; returns when all is done.  The first error is raised here."""
    if len(items) < 2 or CORES < 2:
        for item in items:
            work(item)
        return
    left = list(items)

    def run() -> None:
        while True:
            try:
                item = left.pop()
            except IndexError:
                return
            work(item)

    helpers = [_helpers.submit(run) for _ in range(min(CORES, len(items)) - 1)]
    run()
    for helper in helpers:
        # A helper that never got its turn has nothing left to do.
        if not helper.cancel():
            helper.result()
