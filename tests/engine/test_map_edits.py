"""A renderer that follows edits must show what one made afresh shows: whatever is moved, turned, added or taken away,
in any order.
"""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.lands import landed_packed, mirrored_on, turned
from ushering_adze.core.mapping.regions import added, duplicated, moved, placed, rect_of, with_regions, without_regions
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import opening_state
from ushering_adze.core.picture.steps import run_step
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Canvas,
    Layer,
    LayerSettings,
    Output,
    PictureSettings,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    Timing,
)
from ushering_adze.core.show.source import ColourSource
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.pictures import surface_picture
from ushering_adze.engine.renderer import MOST_PARTS, Renderer


def picture(width: int, height: int, seed: int) -> Frame:
    pixels = np.random.default_rng(seed).integers(0, 256, (height, width, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    return Frame(pixels, seed, True)


def show_of(regions: tuple[Region, ...] = ()) -> Show:
    layer = Layer(
        id="l", name="L", settings=LayerSettings.model_validate({"picture": {"source": "a", "fit": "stretch"}})
    )
    outputs = (
        Output(id="o1", number=1, name="O1", timing=Timing(width=160, height=90, rate=60)),
        Output(
            id="o2",
            number=2,
            name="O2",
            timing=Timing(width=120, height=120, rate=60),
            picture=PictureSettings(brightness=0.1),
        ),
        Output(
            id="o3",
            number=3,
            name="O3",
            timing=Timing(width=100, height=80, rate=60),
            picture=PictureSettings(flip="left-right"),
        ),
    )
    return Show(
        name="S",
        sources=(ColourSource(id="a", name="A", fill="#203040"),),
        outputs=outputs,
        canvases=(Canvas(id="c", name="C", width=240, height=160, layers=(layer,), regions=regions),),
    )


def drawn(renderer: Renderer, show: Show, seed: int) -> dict[str, np.ndarray]:
    renderer.draw(opening_state(show), {"a": picture(240, 160, seed)})
    return {id: output.pixels.copy() for id, output in renderer.outputs.items()}


def any_edit(show: Show, rng: random.Random) -> Show:
    ids = [r.id for _, r in show.regions()]
    kind = rng.randrange(8) if ids else 0
    some = rng.sample(ids, min(len(ids), rng.randrange(1, 3))) if ids else []
    if kind == 0:
        rect = Rect(rng.randrange(200), rng.randrange(120), rng.randrange(4, 60), rng.randrange(4, 60))
        return added(show, "c", [rect], rng.choice(["o1", "o2", "o3"]))[0]
    if kind == 1:
        return moved(show, some, rng.randrange(-30, 30), rng.randrange(-30, 30))
    if kind == 2:
        return (
            turned(show, some, rng.choice([0, 90, 180, 270]), rng.choice([False, True]))
            if all(isinstance(r.landing, RectLanding) for _, r in show.regions() if r.id in some)
            else show
        )
    if kind == 3:
        return without_regions(show, some[:1])
    if kind == 4 and len(ids) < 12:
        return duplicated(show, some[:1])[0]
    if kind == 5 and len(ids) < 12:
        return mirrored_on(show, some[:1], rng.choice(["o1", "o2", "o3"]))[0]
    if kind == 6:
        region = next(r for _, r in show.regions() if r.id == some[0])
        at = landing_rect(region)
        if rng.random() < 0.5:
            corners = ((at.x, at.y), (at.right + 7, at.y + 3), (at.right, at.foot), (at.x - 4, at.foot + 5))
            return with_regions(show, {region.id: region.model_copy(update={"landing": QuadLanding(corners=corners)})})
        scaled = RectLanding(x=rng.randrange(60), y=rng.randrange(50), w=rng.randrange(5, 70), h=rng.randrange(5, 60))
        return with_regions(show, {region.id: region.model_copy(update={"landing": scaled})})
    rects = [r.id for _, r in show.regions() if isinstance(r.landing, RectLanding)]
    return landed_packed(show, rects)


@pytest.mark.parametrize("seed", range(6))
def test_after_any_row_of_edits_every_raster_is_as_if_made_afresh(seed: int) -> None:
    rng = random.Random(seed)
    show = show_of()
    following = Renderer(show)
    drawn(following, show, 1)
    for n in range(45):
        show = any_edit(show, rng)
        following.set_show(show)
        for again in range(
            rng.randrange(1, 5)
        ):  # three rasters in turn: each has to lose what the former plan left in it
            got = drawn(following, show, 2 + n * 7 + again)
        fresh = drawn(Renderer(show), show, 2 + n * 7 + again)
        for id in fresh:
            assert (got[id] == fresh[id]).all(), (seed, n, id)


def test_a_map_of_very_many_regions_is_drawn_as_exactly_as_one_of_few() -> None:
    show = show_of()
    rects = [Rect(x, y, 10, 10) for y in range(0, 90, 10) for x in range(0, 160, 10)]
    assert len(rects) > 2 * MOST_PARTS
    show, ids = added(show, "c", rects, "o1", [], [], [RectLanding(x=r.x, y=r.y, w=10, h=10) for r in rects])
    frame = picture(240, 160, 9)
    renderer = Renderer(show)
    renderer.draw(opening_state(show), {"a": frame})
    assert (renderer.outputs["o1"].pixels == frame.pixels[:90, :160]).all()
    show = placed(show, {ids[17]: Rect(200, 120, 10, 10)})
    renderer.set_show(show)
    renderer.draw(opening_state(show), {"a": frame})
    at = rects[17]
    expected = frame.pixels[:90, :160].copy()
    expected[at.cut()] = frame.pixels[120:130, 200:210]
    assert (renderer.outputs["o1"].pixels == expected).all()


def test_a_canvas_of_a_lower_rate_keeps_each_picture_for_longer() -> None:
    show = show_of(
        (Region(id="r", name="R", x=0, y=0, w=160, h=90, output="o1", landing=RectLanding(x=0, y=0, w=160, h=90)),)
    )
    slow = show.model_copy(update={"rate": 30.0, "canvases": (show.canvases[0].model_copy(update={"rate": 10.0}),)})
    renderer = Renderer(slow)
    shown = [int(drawn(renderer, slow, n)["o1"].sum()) for n in range(1, 31)]
    runs = [len(list(group)) for _, group in itertools.groupby(shown)]
    assert sum(runs) == 30 and 10 <= len(runs) <= 11 and set(runs[1:-1]) == {3}, "ten pictures in thirty frames, evenly"
    assert len({int(drawn(Renderer(show), show, n)["o1"].sum()) for n in range(1, 9)}) == 8


@pytest.mark.parametrize(("flip", "turn"), [(False, 90), (True, 180), (True, 270)])
def test_the_small_picture_of_a_turned_surface_is_upright(flip: bool, turn: int) -> None:
    show = turned(demo_show(), ["lectern"], 180 if turn == 180 else 0, flip)
    region = next(r for _, r in show.regions() if r.id == "lectern")
    if turn != 180:
        narrow = show.output("lectern").model_copy(update={"timing": Timing(width=1920, height=1920, rate=60)})
        show = show.model_copy(update={"outputs": tuple(narrow if o.id == "lectern" else o for o in show.outputs)})
        show = turned(show, ["lectern"], turn, flip)  # type: ignore[arg-type]
        region = next(r for _, r in show.regions() if r.id == "lectern")
    y, x = np.mgrid[0:1080, 0:1920]
    smooth = np.dstack([x // 8, y // 5, (x + y) // 12, np.full_like(x, 255)]).astype(np.uint8)
    renderer = Renderer(show, whole=True)
    step = next(s for s in renderer.outputs["lectern"].plan.steps if s.region == "lectern")
    run_step(step, np.ascontiguousarray(smooth[step.take.cut()]), renderer.outputs["lectern"].pixels)
    small = surface_picture(show, "lectern", renderer.outputs)
    assert small is not None and small.shape[:2] == (360, 640)
    assert np.abs(small[..., :3].astype(int) - smooth[1::3, 1::3, :3]).mean() < 2
    assert rect_of(region) == Rect(0, 0, 1920, 1080)
