"""Sizes and shapes past the usual: rasters at the limit of a side, pixels that are not square, gaps, rough meshes."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ushering_adze.core.displays.led import hung_cabinets, led_facts
from ushering_adze.core.displays.monitors import cut_out, hung_monitors, pixel_mm
from ushering_adze.core.mapping.bend import as_mesh, bend_fault, mesh_landing
from ushering_adze.core.mapping.from_surface import surface_pieces
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show import (
    Cabinet,
    Canvas,
    Edge,
    Edges,
    LedWall,
    MonitorWall,
    Output,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    Timing,
)


def laid(region: Region, canvas: np.ndarray, raster: tuple[int, int]) -> np.ndarray:
    height, width = canvas.shape[:2]
    output = Output(id="o", number=1, name="O", timing=Timing(width=raster[0], height=raster[1], rate=60))
    show = Show(
        name="S", canvases=[Canvas(id="c", name="C", width=width, height=height, regions=[region])], outputs=[output]
    )
    plan = compile_output(show, output)
    made = blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, canvas[step.take.cut()], made)
    return made


@pytest.mark.parametrize("wide", [True, False])
@pytest.mark.parametrize("meshed", [True, False])
def test_bends_of_rasters_at_the_limit_of_a_side_are_drawn_whole(wide: bool, meshed: bool) -> None:
    """32 768 px, one more than OpenCV takes: nearly one to one, so that a ramp comes out as the ramp; with a blend by
    hand as well.
    """
    size = (32768, 24) if wide else (24, 32768)
    ramp = (np.arange(32768) // 256 * 2).astype(np.uint8)
    canvas = np.full((size[1], size[0], 4), 255, np.uint8)
    canvas[..., :3] = ramp[None, :, None] if wide else ramp[:, None, None]
    corners = ((0.0, 0.0), (size[0], 0.0), (size[0], size[1]), (0.0, size[1] - 0.25))
    region = Region(
        id="r",
        name="R",
        x=0,
        y=0,
        w=size[0],
        h=size[1],
        output="o",
        landing=QuadLanding(corners=corners),
        edges=Edges(left=Edge(width=4)),
    )
    made = laid(as_mesh(region, 3, 3) if meshed else region, canvas, size)
    inside = np.s_[2:-2, 6:-2]
    assert np.abs(made[inside].astype(int) - canvas[inside]).max() <= 2
    assert made[size[1] // 2, 0, 0] < canvas[size[1] // 2, 0, 0] or not wide or canvas[size[1] // 2, 0, 0] == 0
    half = laid(
        region.model_copy(update={"landing": QuadLanding(corners=((0, 0), (40, 0), (40, 39.5), (0, 40)))}),
        canvas,
        (40, 40),
    )
    assert half[5:-5, 5:-5].any() and int(half[20, 20, 0]) == pytest.approx(128, abs=6)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_remapping_in_parts_is_remapping(seed: int) -> None:
    """Against NumPy's own indexing, whole places in a picture too long for one call."""
    draw = np.random.default_rng(seed)
    source = draw.integers(0, 256, (3, 40000), dtype=np.uint8)
    u = draw.integers(0, 40000, (2, 50)).astype(np.float32)
    v = draw.integers(0, 3, (2, 50)).astype(np.float32)
    assert np.array_equal(remapped(source, u, v), source[v.astype(int), u.astype(int)])
    tall = np.ascontiguousarray(source.T)
    assert np.array_equal(remapped(tall, v, u), tall[u.astype(int), v.astype(int)])


def test_a_wall_is_viewed_by_its_coarser_pitch() -> None:
    wall = LedWall(
        id="w", name="W", cabinet=Cabinet(width_mm=500, height_mm=1000, columns_px=200, rows_px=100), columns=2, rows=1
    )
    facts = led_facts(wall)
    assert (facts.pitch_mm, facts.pitch_down_mm, facts.comfortable_m) == (2.5, 10, 10)
    assert facts.unseen_m == pytest.approx(10 / math.tan(math.radians(1 / 60)) / 1000)


@given(st.lists(st.tuples(st.integers(1, 4), st.floats(1, 500)), max_size=6))
def test_gaps_after_one_column_are_added(gaps: list[tuple[int, float]]) -> None:
    """The wall's width, its cabinets in the room, and its pieces on the canvas agree, however gaps are listed."""
    cabinet = Cabinet(width_mm=500, height_mm=500, columns_px=100, rows_px=100)
    wall = LedWall(
        id="w", name="W", cabinet=cabinet, columns=5, rows=1, gaps=[{"after": a, "mm": mm} for a, mm in gaps]
    )
    hung = hung_cabinets(wall)
    assert hung[-1].mm[0] + 500 == pytest.approx(wall.size_mm[0])
    pieces = surface_pieces(wall)
    assert sum(p.on_canvas.w for p in pieces) == 500
    assert pieces[-1].on_canvas.right == 500 + round(sum(mm for _, mm in gaps) / 5)


@settings(max_examples=60, deadline=None)
@given(st.floats(-180, 180), st.floats(300, 1500), st.floats(300, 1500))
def test_turned_monitors_of_pixels_that_are_not_square_show_their_true_part_of_the_room(
    degrees: float, w_mm: float, h_mm: float
) -> None:
    """Each corner of a monitor's raster shows the canvas place that is behind it in the room; worked out in
    millimetres.
    """
    wall = MonitorWall(
        id="m",
        name="M",
        columns=1,
        rows=1,
        active_width_mm=w_mm,
        active_height_mm=h_mm,
        monitor_width=640,
        monitor_height=360,
        feed_width=640,
        feed_height=360,
        each=True,
        scattered=[{"x_mm": 2000, "y_mm": 2000, "degrees": degrees}],
    )
    piece = surface_pieces(wall)[0]
    monitor = hung_monitors(wall)[0]
    across, down = pixel_mm(wall)
    assume(isinstance(piece.landing, QuadLanding))
    region = cut_out(monitor)
    quad = np.array(piece.landing.corners)  # type: ignore[union-attr]
    to_canvas = np.linalg.solve(
        np.array([[*quad[0], 1], [*quad[1], 1], [*quad[3], 1]]),
        np.array([[region.x, region.y], [region.right, region.y], [region.x, region.foot]], float),
    )
    for corner, lit in zip(((0, 0), (640, 0), (640, 360), (0, 360)), monitor.lit_mm, strict=True):
        place = np.array([*corner, 1]) @ to_canvas
        assert np.allclose(place * (across, down), lit, atol=0.01)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_rough_mesh_lights_no_pixel_outside_its_outline(seed: int) -> None:
    """Nodes strewn by up to a fifth of a cell: wherever the curve goes on outside, nothing is lit there."""
    draw = np.random.default_rng(seed)
    x, y = np.meshgrid(np.linspace(60, 240, 6), np.linspace(50, 190, 5))
    at = np.stack([x, y], -1)
    at += draw.uniform(-7, 7, at.shape)
    landing = mesh_landing(at.reshape(-1, 2), 6, 5)
    region = Region(id="r", name="R", x=0, y=0, w=200, h=150, output="o", landing=landing)
    output = Output(id="o", number=1, name="O", timing=Timing(width=300, height=240, rate=60))
    assume(bend_fault(region, output) is None)
    made = laid(region, np.full((150, 200, 4), 255, np.uint8), (300, 240))
    lit = (made[..., 0] > 0).astype(np.uint8)
    low, high = at.reshape(-1, 2).min(0) - 20, at.reshape(-1, 2).max(0) + 20
    ys, xs = np.nonzero(lit)
    assert xs.min() > low[0] and xs.max() < high[0] and ys.min() > low[1] and ys.max() < high[1]
    assert cv2.connectedComponents(lit)[0] == 2, "one piece, and the ground"


def test_a_rect_of_the_largest_side_is_copied() -> None:
    canvas = np.random.default_rng(1).integers(0, 256, (4, 32768, 4), dtype=np.uint8)
    region = Region(id="r", name="R", x=0, y=0, w=32768, h=4, output="o", landing=RectLanding(x=0, y=0, w=32768, h=4))
    assert np.array_equal(laid(region, canvas, (32768, 4)), canvas)
