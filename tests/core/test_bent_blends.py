"""Bent pictures that overlap: their light, laid on the screen again, is one all over, whatever their bends, sizes and
places.
"""

from __future__ import annotations

import cv2
import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, Polygon
from shapely.ops import unary_union

from ushering_adze.core.light.handover import picture_outline
from ushering_adze.core.mapping.bend import as_mesh, reach_of, warp_of_region
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.mesh import forward
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Blend, Canvas, Output, Projection, Projector, QuadLanding, Region, Show, Timing


def screen(
    seed: int, columns: int, rows: int, overlap: tuple[int, int], stagger: int, mixed: bool, meshed: bool
) -> Show:
    """Projectors in a grid, each with corners of its own, some of another size, the pictures up or down by up to
    ``stagger`` px.
    """
    draw = np.random.default_rng(seed)
    regions, outputs, projectors = [], [], []
    for n in range(columns * rows):
        w, h = (int(v) for v in draw.integers(190, 260, 2)) if mixed else (240, 200)
        rw, rh = (int(w * draw.uniform(1.0, 1.2)), int(h * draw.uniform(1.0, 1.2))) if mixed else (w, h)
        x, y = n % columns * (190 - overlap[0]), n // columns * (190 - overlap[1]) + int(draw.integers(0, stagger + 1))
        corners = np.array([[0, 0], [rw, 0], [rw, rh], [0, rh]], float) + draw.uniform(0, 8, (4, 2)) * [
            [1, 1],
            [-1, 1],
            [-1, -1],
            [1, -1],
        ]
        region = Region(
            id=f"r{n}",
            name=f"R{n}",
            x=x,
            y=y,
            w=w,
            h=h,
            output=f"o{n}",
            surface="s",
            projector=f"p{n}",
            landing=QuadLanding(corners=[tuple(c) for c in corners.tolist()]),
        )
        regions.append(as_mesh(region, 4, 3) if meshed else region)
        outputs.append(Output(id=f"o{n}", number=n + 1, name=f"O{n}", timing=Timing(width=rw, height=rh, rate=60)))
        projectors.append(Projector(id=f"p{n}", name=f"P{n}", width=rw, height=rh))
    size = (max(r.x + r.w for r in regions), max(r.y + r.h for r in regions))
    return Show(
        name="S",
        canvases=[Canvas(id="c", name="C", width=size[0], height=size[1], regions=regions)],
        outputs=outputs,
        surfaces=[
            Projection(
                id="s",
                name="S",
                width_mm=9000,
                height_mm=3000,
                projectors=projectors,
                blend=Blend(exponent=float(draw.uniform(1.5, 3))),
            )
        ],
    )


def light_on_screen(show: Show) -> np.ndarray:
    """White sent through every output, its codes decoded by the display's power, added up at the canvas' pixels."""
    canvas = show.canvases[0]
    total = np.zeros((canvas.height, canvas.width), np.float32)
    for region in canvas.regions:
        plan = compile_output(show, show.output(region.output))
        raster = blank_raster(plan)
        white = np.full((canvas.height, canvas.width, 4), 255, np.uint8)
        for step in plan.steps:
            lay_step(step, plan, white[step.take.cut()], raster)
        light = (raster[..., 1] / np.float32(255)) ** np.float32(2.2)
        x, y = np.meshgrid(np.arange(region.w) + 0.5, np.arange(region.h) + 0.5)
        at = (forward(warp_of_region(region), np.stack([x, y], -1)) - 0.5).astype(np.float32)
        total[region.y : region.y + region.h, region.x : region.x + region.w] += cv2.remap(
            light, at[..., 0], at[..., 1], cv2.INTER_LINEAR
        )
    return total


def looked_at(show: Show) -> np.ndarray:
    """Canvas pixels well within the screen, and 12 px away from points where the ends of two pictures cross: there each
    hands all of its light to the other within a point, which no raster can."""
    canvas = show.canvases[0]
    shapes = [
        Polygon(
            picture_outline(
                Rect(r.x, r.y, r.w, r.h),
                reach_of(r, (show.output(r.output).timing.width, show.output(r.output).timing.height)),
            )
        )
        for r in canvas.regions
    ]
    whole = unary_union(shapes).buffer(-3)
    crossings = unary_union(
        [
            Point(p)
            for n, a in enumerate(shapes)
            for b in shapes[n + 1 :]
            for g in [a.boundary.intersection(b.boundary)]
            for part in getattr(g, "geoms", [g])
            for p in getattr(part, "coords", [])
        ]
    ).buffer(12)
    x, y = np.meshgrid(np.arange(canvas.width) + 0.5, np.arange(canvas.height) + 0.5)
    return shapely.contains_xy(whole.difference(crossings), x.ravel(), y.ravel()).reshape(x.shape)


@settings(max_examples=30, deadline=None, derandomize=True)
@given(
    st.integers(0, 2**32 - 1),
    st.sampled_from([(2, 1), (3, 1), (2, 2)]),
    st.integers(40, 60),
    st.integers(0, 15),
    st.booleans(),
    st.booleans(),
)
def test_light_of_bent_pictures_adds_up_to_one_at_every_pixel(
    seed: int, grid: tuple[int, int], overlap: int, stagger: int, mixed: bool, meshed: bool
) -> None:
    show = screen(seed, *grid, (overlap, overlap), stagger, mixed, meshed)
    off = np.abs(light_on_screen(show) - 1)[looked_at(show)]
    assert off.size > 20_000
    assert off.max() < 0.0125 and (off > 0.01).mean() < 2e-4, "a hundredth, and what whole codes are off besides"


def test_pictures_staggered_by_60_px_have_no_bright_or_dark_line() -> None:
    """Two quads, 120 px of overlap, the second 60 px lower: the lines where each ends within the other."""
    show = screen(5, 2, 1, (70, 0), 0, False, False)
    regions = show.canvases[0].regions
    lower = regions[1].model_copy(update={"y": 60})
    show = show.model_copy(
        update={"canvases": (show.canvases[0].model_copy(update={"regions": (regions[0], lower), "height": 260}),)}
    )
    total = light_on_screen(show)
    assert (
        total[58:62, 130:230].max() < 1.01
        and np.abs(total[62:196, 4:-4][looked_at(show)[62:196, 4:-4]] - 1).max() < 0.01
    )
