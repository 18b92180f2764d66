"""Aligning while the show runs: after any edits a renderer shows what one made afresh would, and overlays leave no
trace.
"""

from __future__ import annotations

import numpy as np
import pytest

from ushering_adze.core.light.lining_up import Look
from ushering_adze.core.light.showing import PatternShown, on_canvas, on_outputs
from ushering_adze.core.mapping.align_data import with_blend
from ushering_adze.core.mapping.bend import as_mesh, as_quad, bend_fault, moved_points, points_of
from ushering_adze.core.mapping.wall_batches import with_batch, with_changed_batch
from ushering_adze.core.show import BlackMatch, Blend, Edge, Edges, Mask, PictureSettings, Show, White
from ushering_adze.core.show.edits import with_output, with_region
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.renderer import Renderer

SIDES = ("left", "right")


def edit(show: Show, rng: np.random.Generator) -> Show:
    """One edit of aligning, by chance."""
    side = SIDES[int(rng.integers(2))]
    region, output = show.homes[f"horizon-{side}"][1], show.output(f"projector-{side}")
    kind = int(rng.integers(10))
    if kind <= 2:
        chosen = set(rng.integers(0, len(points_of(region.landing)), 2).tolist())
        dx, dy = rng.uniform(-30, 30, 2)
        moved = moved_points(region, chosen, float(dx), float(dy), float(rng.choice([0, 300])))
        return show if bend_fault(moved, output) is not None else with_region(show, moved)
    if kind == 3:
        spans = ("smooth", "straight")[int(rng.integers(2))]
        return with_region(show, as_mesh(region, int(rng.integers(2, 6)), int(rng.integers(2, 6)), spans))  # type: ignore[arg-type]
    if kind == 4:
        return with_region(
            show,
            as_quad(region).model_copy(update={"edges": Edges(left=Edge(width=90)) if rng.random() < 0.4 else None}),
        )
    if kind == 5:
        leak = float(rng.choice([0, 4e-4, 2e-3]))
        return with_output(
            show, output.model_copy(update={"black": BlackMatch(leak=(leak, leak, leak / 2)) if leak else None})
        )
    if kind == 6:
        corners = tuple(map(tuple, rng.uniform(0, 1080, (3, 2)).tolist()))
        masks = (Mask(points=corners, soft=float(rng.choice([0, 40]))),) if rng.random() < 0.6 else ()
        return with_output(show, output.model_copy(update={"masks": masks}))
    if kind == 7:
        picture = PictureSettings(
            gamma=float(rng.choice([2.2, 2.0])),
            white=White(x=0.33, y=0.34) if rng.random() < 0.4 else None,
            contrast=float(rng.choice([1, 1.2])),
            response=(0.0, 0.3, 1.0) if rng.random() < 0.3 else None,
        )
        return with_output(show, output.model_copy(update={"picture": picture}))
    if kind == 8:
        wall = show.surface("meridian")
        cells = {(int(rng.integers(1, 11)), int(rng.integers(1, 6))) for _ in range(int(rng.integers(1, 20)))}
        made = with_batch(show, wall, cells, f"B{rng.integers(10**9)}")  # type: ignore[arg-type]
        return with_changed_batch(
            made,
            made.surface("meridian"),
            made.surface("meridian").batches[-1].name,  # type: ignore[arg-type, union-attr]
            gain=tuple(rng.uniform(0.5, 1, 3).tolist()),
            gamma=float(rng.choice([2.2, 2.4])),
        )
    return with_blend(
        show,
        "horizon",
        Blend(curve=("power", "cosine", "straight")[int(rng.integers(3))], exponent=float(rng.uniform(1, 3))),
    )


def same(a: Renderer, b: Renderer) -> None:
    for id, output in b.outputs.items():
        assert output.fault is None and a.outputs[id].fault is None, (output.fault, a.outputs[id].fault)
        assert np.array_equal(a.outputs[id].pixels, output.pixels), id


@pytest.mark.parametrize("seed", range(2))
def test_after_any_edits_the_rasters_are_those_of_a_renderer_made_afresh(seed: int) -> None:
    rng, show = np.random.default_rng(seed), demo_show()
    kept = Renderer(show)
    kept.draw_pattern("bars")
    for n in range(9):
        show = edit(show, rng)
        kept.set_show(show)
        kept.draw_pattern("bars")
        if n % 3 == 2:
            fresh = Renderer(show)
            fresh.draw_pattern("bars")
            same(kept, fresh)


def test_overlays_come_and_go_without_a_trace() -> None:
    show = demo_show()
    show = with_region(show, moved_points(as_mesh(show.homes["horizon-left"][1], 3, 3), {4}, 20, 12))
    renderer = Renderer(show)
    renderer.draw_pattern("bars")
    plain = {id: o.pixels.copy() for id, o in renderer.outputs.items()}
    grid = PatternShown("grid", "screen", Look(100, 2))
    for overlay in (
        Overlay(rasters=on_outputs(show, "horizon", grid)),
        Overlay(canvases=on_canvas(show, "horizon", grid)),
        Overlay(bare=frozenset({"projector-left"})),
        Overlay(dim={"projector-right": 0.5}),
        Overlay(moving=lambda t: {"projector-left": np.full((1080, 1920, 4), int(t) % 255, np.uint8)}),
        Overlay(rasters={"projector-left": np.zeros((10, 10, 4), np.uint8)}),
    ):
        renderer.lay_over(overlay)
        renderer.draw_pattern("bars")
        for id, pixels in plain.items():
            if id not in ("projector-left", "projector-right"):
                assert np.array_equal(renderer.outputs[id].pixels, pixels), "other outputs go on"
        changed = [id for id, p in plain.items() if not np.array_equal(renderer.outputs[id].pixels, p)]
        assert changed or overlay.rasters, "a raster of another size is not shown"
        if overlay.dim:
            assert (
                np.abs(
                    renderer.outputs["projector-right"].pixels[..., :3].astype(int) * 2
                    - plain["projector-right"][..., :3]
                ).max()
                <= 2
            )
        if overlay.bare:
            assert renderer.outputs["projector-left"].pixels[500, 1850, 1] > plain["projector-left"][500, 1850, 1]
        renderer.lay_over(Overlay())
        renderer.draw_pattern("bars")
        for id, pixels in plain.items():
            assert np.array_equal(renderer.outputs[id].pixels, pixels), id


def test_a_pattern_through_the_landing_is_bent_as_the_show_is() -> None:
    show = demo_show()
    show = with_region(show, moved_points(as_mesh(show.homes["horizon-left"][1], 3, 3), {4}, 60, 0))
    renderer = Renderer(show)
    renderer.lay_over(Overlay(canvases=on_canvas(show, "horizon", PatternShown("grid", "screen", Look(960, 8)))))
    renderer.draw_pattern("black")
    row = renderer.outputs["projector-left"].pixels[545, 900:1100, 1].astype(int)
    assert 960 + 60 - 4 <= 900 + int(row.argmax()) <= 960 + 60 + 8, (
        "the line at 960 is where the middle point was dragged to"
    )
    assert row[:90].max() < 60, "and no longer where it was"
