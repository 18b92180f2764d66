"""Shows put together by the rig's own edits, and the pictures they then send."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.displays.binding import bound, claims, fed_parts, landing_rect, rebound, unbound
from ushering_adze.core.light.adjust import adjusted, adjustment
from ushering_adze.core.show import (
    Cabinet,
    LedWall,
    MonitorWall,
    Output,
    PictureSettings,
    Projection,
    Projector,
    QuadLanding,
    RectLanding,
    Show,
    ShowError,
    SignalSettings,
    Timing,
)
from ushering_adze.core.show.edits import with_region
from ushering_adze.core.show.rigging import with_field, with_item
from ushering_adze.core.show.show import faults_of
from ushering_adze.engine.offline import output_pictures, patterned
from ushering_adze.engine.renderer import Renderer


def outputs(count: int, width: int = 640, height: int = 360, **more: object) -> tuple[Output, ...]:
    return tuple(
        Output(id=f"o{n}", number=n, name=f"Out {n}", timing=Timing(width=width, height=height), **more)  # type: ignore[arg-type]
        for n in range(1, count + 1)
    )


def projected(count: int, overlap: int) -> Show:
    """A screen of projectors side by side, each bound by hand to an output of its own, in any order."""
    lamps = tuple(Projector(id=f"p{n}", name=f"P {n}", width=640, height=360) for n in range(1, count + 1))
    screen = Projection(id="screen", name="Screen", width_mm=9000, height_mm=2000, overlap_px=overlap, projectors=lamps)
    show = Show(name="Screen", outputs=outputs(count), surfaces=(screen,))
    for part, output in zip(fed_parts(screen), show.outputs, strict=True):
        show = bound(show, output.id, part)
    return show


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 4), st.integers(0, 300), st.floats(1.6, 2.6))
def test_projectors_bound_one_by_one_add_to_one_at_every_column(count: int, overlap: int, gamma: float) -> None:
    show = projected(count, overlap)
    for output in show.outputs:
        show = with_item(show, "outputs", with_field(output, "picture.gamma", gamma))  # type: ignore[arg-type]
    screen = show.surface("screen")
    canvas = show.canvases[0]
    assert (canvas.width, canvas.height) == screen.pixels and not faults_of(show)
    light = np.zeros((canvas.height, canvas.width))
    for id, pixels in output_pictures(patterned(show, "white")).items():
        region = claims(show, id)[0]
        light[:, region.x : region.x + region.w] += (pixels[..., 1] / 255.0) ** gamma
    if 2 * overlap <= 640 or count < 3:
        assert np.abs(light - 1).max() <= 0.015, "codes of 8 bits are half a step from the true weight"


def test_a_monitor_wall_with_a_feed_each_fills_one_output_in_rows() -> None:
    wall = MonitorWall(
        id="wall",
        name="Wall",
        columns=3,
        rows=2,
        active_width_mm=600,
        active_height_mm=340,
        monitor_width=320,
        monitor_height=180,
        feed_width=960,
        feed_height=360,
        each=True,
    )
    show = Show(name="Wall", outputs=outputs(2, 960, 360), surfaces=(wall,))
    parts = fed_parts(wall)
    assert [p.name for p in parts] == [f"Wall {n}" for n in range(1, 7)]
    for part in parts:
        show = bound(show, "o1", part)
    rects = [tuple(landing_rect(r)) for r in claims(show, "o1")]
    assert rects == [(x, y, 320, 180) for y in (0, 180) for x in (0, 320, 640)]
    with pytest.raises(ShowError, match="Wall 3: already takes its picture from 1 Out 1"):
        bound(show, "o2", parts[2])
    picture = output_pictures(patterned(show, "grid"))["o1"]
    canvas = output_pictures(patterned(rebound(show, "o2", parts[2]), "grid"))
    region = claims(rebound(show, "o2", parts[2]), "o2")[0]
    assert (canvas["o2"][:180, :320] == picture[0:180, 640:960]).all() and region.monitor == 3
    assert canvas["o1"][:180, 640:960, :3].max() == 0, "what was moved away is black there"


def test_walls_of_any_size_share_a_raster_pixel_for_pixel() -> None:
    cabinet = Cabinet(width_mm=500, height_mm=500, columns_px=64, rows_px=48)
    show = Show(name="Masts", outputs=outputs(1, 640, 480))
    for n, (columns, rows) in enumerate(((2, 4), (3, 2), (1, 6), (4, 1))):
        show = with_item(
            show, "surfaces", LedWall(id=f"w{n}", name=f"W {n}", cabinet=cabinet, columns=columns, rows=rows)
        )
        show = bound(show, "o1", fed_parts(show.surfaces[-1])[0])
    renderer = Renderer(show, whole=True)
    renderer.draw_pattern("identify")
    canvas, raster = renderer.canvases[show.canvases[0].id].pixels, renderer.outputs["o1"].pixels
    taken = np.zeros(raster.shape[:2], bool)
    for region in claims(show, "o1"):
        at = landing_rect(region)
        assert (raster[at.cut()] == canvas[region.y : region.y + region.h, region.x : region.x + region.w]).all()
        assert not taken[at.cut()].any()
        taken[at.cut()] = True
    assert (raster[~taken][:, :3] == 0).all()
    gone = unbound(show, fed_parts(show.surfaces[1])[0])
    assert len(claims(gone, "o1")) == 3 and bound(gone, "o1", fed_parts(show.surfaces[1])[0]) != gone


@pytest.mark.parametrize(
    "landing",
    [
        RectLanding(kind="rect", x=0, y=0, w=640, h=360),
        RectLanding(kind="rect", x=100, y=40, w=320, h=180),
        QuadLanding(kind="quad", corners=((30, 20), (600, 40), (580, 330), (50, 300))),
    ],
)
def test_an_adjusted_output_is_the_plain_one_adjusted_however_it_is_mapped(landing: RectLanding | QuadLanding) -> None:
    plain = projected(1, 0)
    plain = with_region(plain, claims(plain, "o1")[0].model_copy(update={"landing": landing}))
    picture = PictureSettings(contrast=1.4, saturation=0.5, gain=(1.1, 0.9, 1.0), offset=(0.05, 0.0, 0.02))
    signal = SignalSettings(range="limited")
    output = plain.output("o1").model_copy(update={"picture": picture, "signal": signal})
    changed = with_item(plain, "outputs", output)
    matrix = adjustment(picture, signal)
    assert matrix is not None
    before = output_pictures(patterned(plain, "bars"))["o1"]
    after = output_pictures(patterned(changed, "bars"))["o1"]
    white = output_pictures(patterned(plain, "white"))["o1"][..., 0]
    whole = (white == 0) | (
        white == 255
    )  # a pixel covered in part is mixed of codes as they leave, some of them cut off at 255
    assert whole.mean() > 0.98
    assert (after == adjusted(before, matrix))[whole].all(), (
        "pixels no region reaches show what the output makes of black"
    )
    flipped = with_item(changed, "outputs", with_field(output, "picture.flip", "both"))  # type: ignore[arg-type]
    assert (output_pictures(patterned(flipped, "bars"))["o1"] == after[::-1, ::-1]).all()
