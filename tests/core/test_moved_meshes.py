"""A point of a mesh that moves: while it does, maps are near enough to work by; at rest they are exact, and nothing
else is touched.
"""

from __future__ import annotations

import numpy as np
import pytest

from ushering_adze.core.mapping.bend import as_mesh, moved_points
from ushering_adze.core.picture.finish import Finish
from ushering_adze.core.picture.mapping import compile_output, is_rough
from ushering_adze.core.plane.inverse import inverse_warp, lattice_of
from ushering_adze.core.plane.mesh import forward, slopes, warp_of
from ushering_adze.core.plane.nudged import MOST, distance_moved, lattice_moved
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Canvas,
    MeshLanding,
    Output,
    Projection,
    Projector,
    QuadLanding,
    Region,
    Show,
    Timing,
)


def bent_nodes(columns: int, rows: int, seed: int, margin: float = 12.0) -> np.ndarray:
    """Nodes on a raster of 1280 × 720, each off its even place by a thirtieth of a cell."""
    u, v = np.meshgrid(np.linspace(margin, 1280 - margin, columns), np.linspace(margin, 720 - margin, rows))
    cell = min(1280 / (columns - 1), 720 / (rows - 1))
    return np.stack([u, v], -1) + np.random.default_rng(seed).normal(0, cell / 30, (rows, columns, 2))


@pytest.mark.parametrize(("columns", "rows"), [(3, 3), (5, 4), (9, 7), (17, 9), (33, 33)])
def test_maps_after_moves_are_where_the_mesh_is(columns: int, rows: int) -> None:
    """Forward brings every pixel's place back to the pixel: while points move within a fifth, at rest within a
    twentieth all over.
    """
    nodes = bent_nodes(columns, rows, columns)
    warp = warp_of(nodes, 1280, 720)
    lattice = lattice_of(warp, 0, 0, 1280, 720)
    cell = min(1280 / (columns - 1), 720 / (rows - 1))
    draw = np.random.default_rng(rows)
    left = min(MOST, cell / 4)
    for step in (0.4, 0.3, 0.2):  # shares of how far it may go in all
        moved = nodes.copy()
        angle = draw.uniform(0, 2 * np.pi)
        moved[draw.integers(rows), draw.integers(columns)] += np.array([np.cos(angle), np.sin(angle)]) * left * step
        now = warp_of(moved, 1280, 720)
        assert distance_moved(warp, now) == pytest.approx(left * step)
        lattice, warp, nodes = lattice_moved(warp, now, lattice), now, moved
    for (u, v), most, usual in (
        (lattice.spread(0, 0, 1280, 720), 0.2, 0.1),
        (inverse_warp(warp, 0, 0, 1280, 720), 0.05, 0.03),
    ):
        inside = (u > -0.5) & (u < 1279.5) & (v > -0.5) & (v < 719.5)
        back = forward(warp, np.stack([u[inside], v[inside]], -1).astype(float) + 0.5)
        y, x = np.nonzero(inside)
        off = np.hypot(back[:, 0] - x - 0.5, back[:, 1] - y - 0.5)
        assert off.max() < most and np.quantile(off, 0.999) < usual


def test_far_from_a_moved_point_of_a_fine_mesh_nothing_is_touched() -> None:
    nodes = bent_nodes(33, 17, 3)
    warp = warp_of(nodes, 1280, 720)
    lattice = lattice_of(warp, 0, 0, 1280, 720)
    moved = nodes.copy()
    moved[3, 4] += (1.0, -0.5)
    after = lattice_moved(warp, warp_of(moved, 1280, 720), lattice)
    same = (after.values == lattice.values).all(0)
    assert same[:, same.shape[1] // 2 :].all() and same[same.shape[0] * 3 // 4 :].all()
    assert not same.all()
    assert lattice_moved(warp, warp, lattice) is lattice


def test_meshes_of_other_sizes_or_straight_ones_are_not_compared() -> None:
    a, b = warp_of(bent_nodes(5, 4, 1), 1280, 720), warp_of(bent_nodes(5, 5, 1), 1280, 720)
    straight = warp_of(bent_nodes(5, 4, 1), 1280, 720, "straight")
    assert distance_moved(a, b) == distance_moved(a, straight) == float("inf")


@pytest.mark.parametrize("seed", range(4))
def test_slopes_are_what_small_differences_say(seed: int) -> None:
    """Against central differences of `forward`, which SciPy's splines check elsewhere."""
    warp = warp_of(bent_nodes(6, 5, seed), 1280, 720)
    points = np.random.default_rng(seed).uniform((-60, -60), (1340, 780), (200, 2))
    e = 1e-3
    for axis in (0, 1):
        step = np.eye(2)[axis] * e
        near = (forward(warp, points + step) - forward(warp, points - step)) / (2 * e)
        np.testing.assert_allclose(slopes(warp, points)[..., axis], near, atol=2e-6)


def screen(black: bool = False) -> Show:
    timing = Timing(width=640, height=360)
    left = Region(
        id="left",
        name="Left",
        x=0,
        y=0,
        w=640,
        h=360,
        output="a",
        surface="screen",
        projector="p",
        landing=QuadLanding(corners=((14.0, 9.5), (622.0, 3.0), (631.0, 355.0), (6.0, 348.0))),
    )
    right = left.model_copy(update={"id": "right", "name": "Right", "x": 540, "output": "b", "projector": "q"})
    return Show(
        name="Two",
        canvases=(
            Canvas(id="c", name="C", width=1180, height=360, regions=(as_mesh(left, 7, 5), as_mesh(right, 7, 5))),
        ),
        outputs=(Output(id="a", number=1, name="A", timing=timing), Output(id="b", number=2, name="B", timing=timing)),
        surfaces=(
            Projection(
                id="screen",
                name="Screen",
                width_mm=3000,
                height_mm=900,
                overlap_px=100,
                projectors=(
                    Projector(id="p", name="P", width=640, height=360),
                    Projector(id="q", name="Q", width=640, height=360),
                ),
            ),
        ),
    )


def with_left(show: Show, region: Region) -> Show:
    canvas = show.canvases[0].model_copy(update={"regions": (region, show.canvases[0].regions[1])})
    return show.model_copy(update={"canvases": (canvas,)})


def weights(finish: Finish | None) -> np.ndarray:
    field = np.ones((360, 640), np.float32)
    for part in finish.worked if finish is not None else ():
        field[part.at.cut()] = part.factors[..., 0]
    return field


def test_plans_of_a_drag_are_near_and_those_at_rest_are_those_of_a_fresh_start() -> None:
    """Twenty nudges and a jump: maps within a fifth of a pixel, and at rest maps and weights are bit for bit those
    compiled from nothing.
    """
    show, known = screen(), {}
    for output in show.outputs:
        compile_output(show, output, known, quick=True)
    draw = np.random.default_rng(5)
    for n in range(21):
        dx, dy = draw.uniform(-2, 2, 2) if n != 12 else (31.0, -9.0)
        show = with_left(show, moved_points(show.homes["left"][1], {int(draw.integers(35))}, float(dx), float(dy)))
        plans = [compile_output(show, output, known, quick=True) for output in show.outputs]
    assert is_rough(known)
    rested = [compile_output(show, output, known) for output in show.outputs]
    assert not is_rough(known)
    for output, plan, rest in zip(show.outputs, plans, rested, strict=True):
        fresh = compile_output(show, output).steps[0]
        mine = plan.steps[0]
        assert mine.maps is not None and fresh.maps is not None and mine.finish is not None and fresh.finish is not None
        assert (mine.put, mine.take) == (fresh.put, fresh.take)
        u, v = fresh.maps
        inside = (u > 0) & (u < 639) & (v > 0) & (v < 359)
        assert max(np.abs(a - b)[inside].max() for a, b in zip(mine.maps, fresh.maps, strict=True)) < 0.2
        lag = weights(mine.finish) ** 2.2 - weights(fresh.finish) ** 2.2
        # Where the ends of both pictures cross, light goes from one to the other at a point: that moves with them.
        assert (np.abs(lag) >= 0.08).sum() <= 8, (
            "light lags by three pixels of a ramp of 100, whose steepest is two hundredths a pixel"
        )
        assert rest.steps[0].maps is not None
        assert all(np.array_equal(a, b) for a, b in zip(rest.steps[0].maps, fresh.maps, strict=True))
        assert np.array_equal(weights(rest.steps[0].finish), weights(fresh.finish))


def test_a_point_inside_leaves_the_neighbour_as_it_is_and_one_at_the_overlap_does_not() -> None:
    show, known = screen(), {}
    before = [compile_output(show, output, known).steps[0] for output in show.outputs]
    inner = with_left(show, moved_points(show.homes["left"][1], {2 * 7 + 2}, 0.8, 0.4))
    after = [compile_output(inner, output, known).steps[0] for output in inner.outputs]
    assert after[1] is before[1] and after[0] is not before[0]
    outer = with_left(inner, moved_points(inner.homes["left"][1], {6, 13, 20, 27, 34}, 60.0, 0.0))
    assert compile_output(outer, outer.outputs[1], known).steps[0] is not before[1]


def test_a_mesh_that_leaves_its_rectangle_of_the_raster_is_computed_whole() -> None:
    show = screen()
    small = QuadLanding(corners=((20.0, 20.0), (300.0, 24.0), (296.0, 180.0), (18.0, 176.0)))
    region = as_mesh(show.homes["left"][1].model_copy(update={"landing": small}), 7, 5)
    assert isinstance(region.landing, MeshLanding)
    inner = with_left(show, region)
    known: dict = {}
    first = compile_output(inner, inner.outputs[0], known).steps[0]
    show = with_left(inner, moved_points(inner.homes["left"][1], range(35), 64.0, 32.0))
    second = compile_output(show, show.outputs[0], known, quick=True).steps[0]
    assert first.put != second.put and second.put.meet(Rect(0, 0, 640, 360)) == second.put
    fresh = compile_output(show, show.outputs[0]).steps[0]
    assert second.maps is not None and fresh.maps is not None
    rest = compile_output(show, show.outputs[0], known).steps[0]
    assert rest.maps is not None and np.array_equal(rest.maps[0], fresh.maps[0])
