"""How long this machine takes for a pixel of everything that frames are made of: measured by doing it."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping

import cv2
import numpy as np

from ushering_adze.core.kinds.colour import ColourNow
from ushering_adze.core.kinds.keying import ChromaKey, LumaKey
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.kinds.shape import Shape
from ushering_adze.core.picture.blending import blended
from ushering_adze.core.picture.colours import coloured
from ushering_adze.core.picture.compose import lay_over
from ushering_adze.core.picture.dressed import Dresser, turned
from ushering_adze.core.picture.finish import finish_of, run_finish
from ushering_adze.core.picture.forecast import OPERATIONS
from ushering_adze.core.picture.key import chroma_keyed, luma_keyed
from ushering_adze.core.picture.layers import layer_state
from ushering_adze.core.picture.resampling import Cut, resample
from ushering_adze.core.picture.transitions.wipe import draw as wiped
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show import Canvas, LayerSettings, Place

WIDTH, HEIGHT = 960, 270
ROUNDS = 3


def _works() -> Mapping[str, tuple[Callable[[], object], int]]:
    """By operation, what does it and of how many pixels."""
    draw = np.random.default_rng(7)
    one, other = (draw.integers(0, 255, (HEIGHT, WIDTH, 4), dtype=np.uint8) for _ in range(2))
    for picture in (one, other):
        picture[..., 3] = 255
    half = np.asarray(cv2.convertScaleAbs(one, alpha=0.5), np.uint8)
    target, area = one.copy(), WIDTH * HEIGHT
    whole = Rect(0, 0, WIDTH, HEIGHT)
    small = Cut(whole, Rect(0, 0, WIDTH * 2 // 3, HEIGHT * 2 // 3))
    v, u = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    ramp = np.repeat(np.linspace(0.2, 1, WIDTH, dtype=np.float32)[None], HEIGHT, 0)
    finish, table = finish_of(ramp, None, whole, 2.2), finish_of(np.full_like(ramp, 0.5), None, whole, 2.2)
    place = Place(x=0, y=0, w=WIDTH, h=HEIGHT, unit="px")
    canvas = Canvas(id="c", name="C", width=WIDTH, height=HEIGHT)
    shaped = layer_state(LayerSettings(place=place, shape=Shape(radius=20)), canvas)
    thrown = layer_state(LayerSettings(place=place, shadow=Shadow(x=9, y=9, blur=24, opacity=0.6)), canvas)
    dresser, luma, chroma = Dresser(), LumaKey(low=0.1, high=1.0, soft=0.1), ChromaKey(colour="#20C040")
    gamma = ColourNow((0.1, 1.1, 1.0, 1.2, 1.0, 1.0, 1.0))
    return {
        "copy": (lambda: np.copyto(target, one), area),
        "mix": (lambda: cv2.addWeighted(one, 0.4, other, 0.6, 0.0, dst=target), area),
        "over": (lambda: lay_over(target, half), area),
        "blend": (lambda: blended(target, half, "screen"), area),
        "resize": (lambda: resample(one, small), area),
        "dressing": (lambda: dresser.dressed(one, shaped), area),
        "shadow": (lambda: Dresser().dressed(one, thrown), area),
        "luma": (lambda: luma_keyed(one, luma), area),
        "chroma": (lambda: chroma_keyed(one, chroma), area),
        "colour": (lambda: coloured(one, gamma, {}), area),
        "turn": (lambda: turned(one, 7.0), area),
        "wipe": (lambda: wiped(one, other, 0.5, {"soft": 0.3}), area),
        "bend": (lambda: remapped(one, u + 0.4, v, target=target), area),
        "finish": (lambda: finish and run_finish(finish, target), area),
        "table": (lambda: table and run_finish(table, target), area),
    }


def measured_rates(
    clock: Callable[[], float] = time.perf_counter, between: Callable[[], object] = int
) -> dict[str, float]:
    """Seconds that a pixel takes, by operation: the best of some rounds, which others disturbed least.

    Parameters
    ----------
    clock : callable
    between : callable
        Called between two measurements.
    """
    rates, works = {}, _works()
    for name in OPERATIONS:
        work, pixels = works[name]
        work()
        best = float("inf")
        for _ in range(ROUNDS):
            between()
            began = clock()
            work()
            best = min(best, clock() - began)
        rates[name] = best / pixels
    return rates
