"""The benchmark: figures as ratios to plain baselines taken in the same run, medians of many rounds."""

from __future__ import annotations

import itertools
import statistics
import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from scipy.ndimage import map_coordinates

from ushering_adze.bench.building import drag_on_preview, dressed_layers, spread_over_five, wide_wipe
from ushering_adze.bench.evening import edit_plan, firing, many_lists, plan_long
from ushering_adze.bench.large import check_large, drag_large, edit_cabinets, open_large
from ushering_adze.bench.meshes import HIGH, WIDE, mesh_on_air, mesh_point, noise, warped_show
from ushering_adze.bench.playing import everything_moving, key_to_frame, whole_frame
from ushering_adze.bench.watching import mixing, wall_on_an_output
from ushering_adze.bench.window import desk_share, drag_window, start_window
from ushering_adze.core.onair.motion import at_rest, opening_motion, prepare, recall
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.picture.compose import box_of, fit_into
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.key import chroma_keyed
from ushering_adze.core.picture.layers import State, opening_state
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.mixing import mix_of
from ushering_adze.core.picture.steps import blank_raster, finish_step, run_step
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import (
    Canvas,
    ChromaKey,
    Layer,
    LayerSettings,
    Preset,
    RectLanding,
    Show,
    part_of,
)
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.memory import keep_freed_memory
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer


def paired(ours: Callable[[], object], theirs: Callable[[], object], rounds: int) -> dict[str, float]:
    """Time two calls in turn; medians in milliseconds, and the median of the ratios pair by pair."""
    ours()
    theirs()
    a, b = [], []
    for _ in range(rounds):
        t0 = time.perf_counter()
        ours()
        t1 = time.perf_counter()
        theirs()
        t2 = time.perf_counter()
        a.append(t1 - t0)
        b.append(t2 - t1)
    ratio = statistics.median(x / y for x, y in zip(a, b, strict=True))
    return {"ours_ms": statistics.median(a) * 1e3, "baseline_ms": statistics.median(b) * 1e3, "ratio": ratio}


def copy_output(rounds: int) -> dict[str, float]:
    """An output that is a pure copy of a canvas, against a plain copy of as many bytes."""
    show = demo_show()
    plan = compile_output(show, show.output("foyer"))
    canvas, raster, spare = noise(WIDE, HIGH), blank_raster(plan), noise(WIDE, HIGH)

    def ours() -> None:
        for step in plan.steps:
            run_step(step, canvas[step.take.cut()], raster)

    return paired(ours, lambda: np.copyto(spare, canvas), rounds)


def warped_output(rounds: int) -> dict[str, float]:
    """A warped and blended 1080p output, against one bare remap plus one bare multiply of the same size."""
    _, plan, canvas = warped_show()
    raster = blank_raster(plan)
    step = plan.steps[0]
    assert step.maps is not None and step.finish is not None
    source = np.ascontiguousarray(canvas[:, :WIDE])
    map_x, map_y = (
        cv2.copyMakeBorder(m, 0, HIGH - m.shape[0], 0, WIDE - m.shape[1], cv2.BORDER_REPLICATE) for m in step.maps
    )
    weight, target = np.full((HIGH, WIDE, 4), 200, np.uint8), np.empty((HIGH, WIDE, 4), np.uint8)

    def bare() -> None:
        cv2.remap(source, map_x, map_y, cv2.INTER_LINEAR, dst=target)
        cv2.multiply(target, weight, dst=target, scale=1 / 255)

    def ours() -> None:
        run_step(step, canvas[step.take.cut()], raster)
        finish_step(step, plan, raster)

    return paired(ours, bare, rounds)


def chroma_key(rounds: int) -> dict[str, float]:
    """A chroma key of 1080p, against one bare conversion of colours plus one bare multiply of the same size."""
    picture = noise(WIDE, HIGH)
    weight, target = np.full_like(picture, 200), np.empty_like(picture)
    other = np.empty((HIGH, WIDE, 3), np.uint8)

    def bare() -> None:
        cv2.cvtColor(picture, cv2.COLOR_BGRA2BGR, dst=other)
        cv2.multiply(picture, weight, dst=target, scale=1 / 255)

    return paired(lambda: chroma_keyed(picture, ChromaKey()), bare, rounds)


def against_scipy(rounds: int) -> dict[str, float]:
    """The same warp by scipy.ndimage.map_coordinates, linear, three channels; ``ratio`` is ours to theirs."""
    _, plan, canvas = warped_show()
    raster = blank_raster(plan)
    step = plan.steps[0]
    assert step.maps is not None
    places = np.stack([step.maps[1], step.maps[0]])
    source = canvas[:, :WIDE]

    def theirs() -> None:
        for channel in range(3):
            map_coordinates(source[..., channel], places, order=1, output=np.uint8)

    return paired(
        lambda: run_step(step, canvas[step.take.cut()], raster), theirs, rounds
    )  # like with like: theirs does not blend


def _qpainter_program(show: Show, state: State, frames: dict[str, Frame]) -> Callable[[], None]:
    """Layers and mapping as a QPainter raster program would do them."""
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QImage, QPainter

    def image(pixels: Pixels) -> QImage:
        return QImage(
            pixels.data, pixels.shape[1], pixels.shape[0], pixels.strides[0], QImage.Format.Format_ARGB32_Premultiplied
        )

    images = {id: image(f.pixels) for id, f in frames.items()}
    canvases = {c.id: QImage(c.width, c.height, QImage.Format.Format_ARGB32_Premultiplied) for c in show.canvases}
    rasters = {
        o.id: QImage(o.timing.width, o.timing.height, QImage.Format.Format_ARGB32_Premultiplied) for o in show.outputs
    }
    masks: dict[str, list[tuple[QRectF, QImage, Pixels]]] = {}
    for output in show.outputs:
        for step in compile_output(show, output).steps:
            for part in step.finish.worked if step.finish is not None else ():
                codes = np.zeros((part.at.h, part.at.w, 4), np.uint8)
                codes[..., 3] = np.round(255 * (1 - part.factors[..., 0]))  # black laid over, to dim by the factor
                masks.setdefault(step.region, []).append((QRectF(*part.at), image(codes), codes))

    def draw() -> None:
        for canvas in show.canvases:
            target = canvases[canvas.id]
            target.fill(0xFF000000)
            p = QPainter(target)
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            for layer in canvas.layers:
                s = state[canvas.id, layer.id]
                before = 0.0
                for shown, weight in mix_of(s.picture):
                    before += weight
                    if shown.source is None or s.opacity <= 0:
                        continue
                    pixels = frames[shown.source].pixels
                    cut = fit_into(pixels.shape[1], pixels.shape[0], s.crop, shown.fit, box_of(s)[1])
                    p.setOpacity(s.opacity * weight / before)
                    p.drawImage(QRectF(*cut.put), images[shown.source], QRectF(*cut.take))
            p.end()
        for canvas in show.canvases:
            for region in canvas.regions:
                p = QPainter(rasters[region.output])
                landing = region.landing
                assert isinstance(landing, RectLanding)
                p.drawImage(
                    QRectF(landing.x, landing.y, landing.w, landing.h),
                    canvases[canvas.id],
                    QRectF(region.x, region.y, region.w, region.h),
                )
                for where, dark, _ in masks.get(region.id, ()):
                    p.drawImage(where, dark)
                p.end()

    return draw


def _known_to_both(show: Show) -> list[Preset]:
    """The presets that the QPainter program can play: those that deal nothing out over zones; all dissolve."""
    dealt = [p.number for p in show.presets for part in p.parts if part.holds.spread and part.holds.spread.to.zone]
    return [p.model_copy(update={"way": None}) for p in show.presets if p.number not in dealt]


def against_qpainter(rounds: int, everything: bool) -> dict[str, float]:
    """Every preset of the demo, half-way through its fade and settled, ours and by QPainter; sums of medians.

    Both are given the same frames and make the same pictures.  As the demo is played, clips bring a new frame each time
    and stills do not; the QPainter program draws everything again.  With ``everything``, every source is new every
    time, which leaves nothing to save: both draw all of it.
    """
    show = demo_show()
    moving = {source.id for source in show.sources if everything or source.kind == "clip"}
    ours_ms = theirs_ms = 0.0
    serial = itertools.count(10**9)
    for preset in _known_to_both(show):
        motion = recall(show, opening_motion(show), preset, 0.0)
        for state in (motion.at(preset.seconds / 2), motion.at(preset.seconds + 60)):
            pool = SourcePool()
            pool.set_show(show)
            frames = pool.exact(sources_of(state), 1.0)
            pool.close()
            renderer = Renderer(show)

            def ours(renderer: Renderer = renderer, state: State = state, frames: dict[str, Frame] = frames) -> None:
                renderer.draw(
                    state, {k: f._replace(serial=next(serial)) if k in moving else f for k, f in frames.items()}
                )

            found = paired(ours, _qpainter_program(show, state, frames), rounds)
            ours_ms += found["ours_ms"]
            theirs_ms += found["baseline_ms"]
    return {"ours_ms": ours_ms, "baseline_ms": theirs_ms, "ratio": ours_ms / theirs_ms}


def recall_state(rounds: int) -> dict[str, float]:
    """Recall of a preset over 100 layers, state only; baseline: one millisecond."""
    layers = tuple(Layer(id=f"l{n}", name=f"L{n}") for n in range(100))
    show = Show(
        name="Bench",
        canvases=(Canvas(id="c", name="C", width=4096, height=2160, layers=layers),),
        presets=tuple(
            Preset(
                id=f"p{n}",
                number=n + 1,
                name="P",
                parts=tuple(part_of("c", layer.id, LayerSettings(opacity=0.5)) for layer in layers),
            )
            for n in range(rounds)
        ),
    )
    motion = at_rest(opening_state(show))
    prepare(show)  # as the engine does with every show it is given
    spent = []
    for preset in show.presets:  # each for the first time
        began = time.perf_counter()
        recall(show, motion, preset, 0.0)
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 1.0, "ratio": ms}


def edit_after(recalls: int) -> dict[str, float]:
    """What an edit costs the stage of the demo after many recalls, all its presets in turn; baseline: two
    milliseconds.
    """
    show = demo_show()
    prepare(show)
    stage = Stage.opened(show)
    for n in range(recalls):
        stage = stage.recall(show.presets[n % len(show.presets)].number, n * 0.1)
    spent = []
    for n in range(100):
        edited = show.model_copy(update={"name": f"Edit {n}"})
        began = time.perf_counter()
        stage.with_show(edited, recalls * 0.1)
        spent.append(time.perf_counter() - began)
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": 2.0, "ratio": ms / 2.0}


ROWS: tuple[tuple[str, str, float, Callable[[], dict[str, float]]], ...] = (
    ("copy", "output that is a pure copy / plain copy of the bytes", 2.0, lambda: copy_output(200)),
    ("warp", "warped and blended 1080p / bare remap + bare multiply", 1.5, lambda: warped_output(100)),
    ("qpainter", "demo as played, all presets / the same by QPainter", 1 / 3, lambda: against_qpainter(7, False)),
    ("qpainter-all", "the same with every source new every frame", 1.0, lambda: against_qpainter(7, True)),
    ("scipy", "warp of three channels or more / map_coordinates", 1 / 30, lambda: against_scipy(5)),
    ("frame-5", "demo frame, keynote on air / frame time at 30 fps", 1.0, lambda: whole_frame(5, 150)),
    ("frame-7", "demo frame, moon reveal fading in / frame time", 1.0, lambda: whole_frame(7, 90)),
    ("frame-8", "demo frame, two wide clips dissolving / frame time", 1.0, lambda: whole_frame(8, 90)),
    ("frame-4", "demo frame, panorama fading in / frame time", 1.0, lambda: whole_frame(4, 120)),
    (
        "everything",
        "frames late of all presets recalled in turn / one in a thousand",
        1.0,
        lambda: everything_moving(3),
    ),
    ("dressed", "six layers with shadow, mask and key / frame time at 30 fps", 1.0, lambda: dressed_layers(90)),
    ("wipe", "one wide clip wiped into another / frame time", 1.0, lambda: wide_wipe(90)),
    ("spread", "a clip across five surfaces by millimetres / frame time", 1.0, lambda: spread_over_five(90)),
    (
        "drag-preview",
        "frames late while a layer is dragged on preview / one in a thousand",
        1.0,
        lambda: drag_on_preview(20),
    ),
    ("chroma", "chroma key of 1080p / bare cvtColor + bare multiply", 3.0, lambda: chroma_key(60)),
    ("plan", "plan of 500 cues on 40 surfaces / 1 s", 1.0, lambda: plan_long(5)),
    ("plan-edit", "the same after an edit of a cue / 50 ms", 1.0, lambda: edit_plan(40)),
    ("lists", "20 cue lists that run, each frame / 1 ms", 1.0, lambda: many_lists(900)),
    ("fire", "fired to the first other frame / period + 5 ms", 1.0, lambda: firing(40)),
    (
        "wall",
        "frames late with a wall of 16 cells out / one in a thousand",
        1.0,
        lambda: wall_on_an_output(12),
    ),
    ("mixing", "8 stereo sources into 4 mixes / 1 % of a core", 1.0, lambda: mixing(400)),
    ("recall", "recall over 100 layers / 1 ms", 1.0, lambda: recall_state(300)),
    ("edit-after-200", "an edit of the stage after 200 recalls / 2 ms", 1.0, lambda: edit_after(200)),
    ("key", "cut asked for to first changed frame / frame time + 5 ms", 1.0, lambda: key_to_frame(21)),
    ("open", "open a show of 1 000 regions, 10 000 cabinets / one second", 1.0, lambda: open_large(5)),
    ("start", "start to a window with live pictures / two seconds", 1.0, lambda: start_window(3)),
    ("drag", "a step of dragging one of 1 000 regions / one sixtieth of a second", 1.0, lambda: drag_large(60)),
    ("drag-window", "the same in the real window, painted / one sixtieth of a second", 1.0, lambda: drag_window(3)),
    ("desk", "the desk's own work in Run, per frame / a fifth of a frame's time", 1.0, lambda: desk_share(8)),
    ("mesh", "a mesh point moved to the frame that shows it / frame time at 30 fps", 1.0, lambda: mesh_point(15)),
    ("mesh-on-air", "the same in the running show / frame time + 5 ms", 1.0, lambda: mesh_on_air(21)),
    ("check", "pixel check after an edit, 1 000 regions, 10 000 cabinets / 30 ms", 1.0, lambda: check_large(60)),
    ("cabinets", "a cabinet taken out of 10 000, runs anew / one sixtieth of a second", 1.0, lambda: edit_cabinets(60)),
)


def measured(only: set[str] | None = None) -> dict[str, Any]:
    """Run the benchmark.

    Returns
    -------
    dict
        For each row: ``what``, ``limit`` (the ratio it must not pass), the figures, and ``met``.
    """
    keep_freed_memory()
    figures: dict[str, Any] = {}
    for key, what, limit, measure in ROWS:
        if only is None or key in only:
            found = measure()
            figures[key] = {
                "what": what,
                "limit": limit,
                **{k: round(v, 4) for k, v in found.items()},
                "met": found["ratio"] <= limit,
            }
    return figures


def table(figures: dict[str, Any]) -> str:
    """The figures as lines of text."""
    lines = [f"{'':52s} {'ours ms':>9s} {'base ms':>9s} {'ratio':>8s} {'limit':>7s}"]
    for row in figures.values():
        extra = f"  late {row['late_share']:.2%}" if "late_share" in row else ""
        if "still_share" in row:
            extra += f", {row['still_share']:.2%} without"
        if "new_pictures" in row:
            extra += f", {row['new_pictures']:.1f} new pictures a frame"
        if "stolen_seconds" in row:
            extra += (
                f" of {row['frames']:.0f}; {row['stolen_share']:.2%} while {row['stolen_seconds']:.2f} s were stolen"
            )
        lines.append(
            f"{row['what'][:52]:52s} {row['ours_ms']:9.3f} {row['baseline_ms']:9.3f} {row['ratio']:8.3f} "
            f"{row['limit']:7.3f}  {'met' if row['met'] else 'MISSED'}{extra}"
        )
    return "\n".join(lines)
