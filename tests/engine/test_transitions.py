"""Pictures on their way: any transition interrupts any other without a jump, and what is old becomes a still of its
moment.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from layered import plain
from ushering_adze.core.kinds.kind import Way
from ushering_adze.core.kinds.on_its_way import DEEPEST, Picture, Shown, Still, depth, rested, turning
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.transitions import TRANSITIONS
from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Canvas, Layer
from ushering_adze.engine.canvas import CanvasPainter

W, H = 48, 32
WAYS: list[Way] = [
    ("dissolve", ()),
    ("columns", (("from", "left"),)),
    ("columns", (("from", "right"),)),
    ("through", (("code", 40),)),
]


def columns(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The new picture comes in by whole columns."""
    made, n = before.copy(), round(progress * before.shape[1])
    if parameters["from"] == "left":
        made[:, :n] = after[:, :n]
    elif n:
        made[:, -n:] = after[:, -n:]
    return made


def through(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """Down to a grey, then up."""
    side, share = (before, 1 - 2 * progress) if progress < 0.5 else (after, 2 * progress - 1)
    grey = np.full_like(side, parameters["code"])
    grey[..., 3] = 255
    return np.round(side * share + grey * (1 - share)).astype(np.uint8)


@pytest.fixture(scope="module", autouse=True)
def more_transitions() -> Iterator[None]:
    TRANSITIONS["columns"] = Transition("columns", "Columns", draw=columns)
    TRANSITIONS["through"] = Transition("through", "Through grey", draw=through)
    yield
    del TRANSITIONS["columns"], TRANSITIONS["through"]


def frames(seed: int, clear: bool = False) -> dict[str, Frame]:
    rng = np.random.default_rng(seed)
    made = {}
    for n, id in enumerate("abcdefgh"):
        pixels = rng.integers(0, 256, (H, W, 4), dtype=np.uint8)
        pixels[..., 3] = rng.integers(0, 256, (H, W), dtype=np.uint8) if clear and n % 2 else 255
        pixels[..., :3] = np.minimum(pixels[..., :3], pixels[..., 3:])
        made[id] = Frame(pixels, seed * 100 + n + 1, not (clear and n % 2))
    return made


def painter() -> CanvasPainter:
    return CanvasPainter(
        Canvas(id="c", name="C", width=W, height=H, background="#203040", layers=(Layer(id="l", name="L"),))
    )


def painted(by: CanvasPainter, picture: Picture, seen: dict[str, Frame]) -> np.ndarray:
    by.draw([("l", plain()._replace(picture=picture, place=(0, 0, W, H)))], seen)
    assert not by.faults
    return by.pixels[..., :3].astype(int)


ways, moments = st.sampled_from(WAYS), st.floats(0.02, 0.98)


@settings(max_examples=80, deadline=None)
@given(st.lists(st.tuples(ways, moments), min_size=1, max_size=6), ways, st.booleans())
def test_any_transition_interrupted_by_any_other_at_any_moment_is_continuous(
    chain: list[tuple[Way, float]], last: Way, clear: bool
) -> None:
    by, seen, picture = painter(), frames(1, clear), Shown("a", "stretch")
    for n, (way, at) in enumerate(chain):
        picture = turning(rested(picture, float(n)), Shown("bcdefgh"[n], "stretch"), at, way)
        assert depth(picture) <= DEEPEST
        painted(by, picture, seen)
    before = painted(by, picture, seen)
    interrupted = turning(rested(picture, 99.0), Shown("h", "stretch"), 1e-9, last)
    # Each of at most four pictures is rounded when it is added, in the still and in the mix; what is clear is rounded
    # twice more.
    assert np.abs(painted(by, interrupted, seen) - before).max() <= (4 if clear else 2)
    done = painted(by, turning(rested(picture, 99.0), Shown("h", "stretch"), 1 - 1e-9, last), seen)
    assert np.abs(done - painted(painter(), Shown("h", "stretch"), seen)).max() <= 2


def test_what_is_too_deep_is_a_still_of_its_moment() -> None:
    by, seen = painter(), frames(1)
    picture: Picture = Shown("a", "stretch")
    for n, id in enumerate("bcd"):
        picture = turning(rested(picture, float(n)), Shown(id, "stretch"), 0.5, WAYS[0])
    painted(by, picture, seen)
    deeper = turning(rested(picture, 3.0), Shown("e", "stretch"), 0.5, WAYS[0])
    assert depth(deeper) == DEEPEST
    first = painted(by, deeper, seen)
    later = {**seen, "a": frames(9)["a"], "b": frames(9)["b"]}
    assert np.array_equal(painted(by, deeper, later), first), "its sources go on, it does not"
    assert np.abs(painted(by, deeper, {**later, "e": frames(9)["e"]}) - first).max() > 20, "what comes is live"
    painted(by, Shown("e", "stretch"), later)
    assert not by._pieces._stills, "and is forgotten when nobody shows it"


def test_stills_within_stills_need_no_past() -> None:
    picture: Picture = Shown("a", "fill")
    for n in range(40):
        picture = turning(rested(picture, float(n)), Shown("bcdefgh"[n % 7], "fill"), 0.5, WAYS[0])

    def size(part: object) -> int:
        return 1 + sum(size(p) for p in part if isinstance(p, tuple)) if isinstance(part, tuple) else 1

    assert size(picture) < 40 and isinstance(picture.before.before.before, Still)  # type: ignore[union-attr]


@pytest.mark.parametrize("kind", ["columns", "through"])
def test_a_transition_is_drawn_by_its_own_function_only(kind: str) -> None:
    seen = frames(3)
    way = next(w for w in WAYS if w[0] == kind)
    shown = painted(painter(), turning(Shown("a", "stretch"), Shown("b", "stretch"), 0.25, way), seen)
    expected = TRANSITIONS[kind].draw(seen["a"].pixels, seen["b"].pixels, 0.25, dict(way[1]))  # type: ignore[misc]
    assert np.array_equal(shown, expected[..., :3])
