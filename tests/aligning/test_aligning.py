"""Alignment by camera, judged from outside: by the stand-in screen, whose projectors hang where only it knows."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from ushering_adze.cli.main import app
from ushering_adze.core.light.flatness import blocks
from ushering_adze.core.mapping.bend import raster_points
from ushering_adze.core.mapping.from_surface import with_surface_regions
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.lens import Lens, View
from ushering_adze.core.seeing.sighting import find_corners, see_screen
from ushering_adze.core.show import Canvas, Output, Projection, Projector, Show, ShowError, Timing
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.aligning import align
from ushering_adze.engine.offline import output_pictures, patterned
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.renderer import Renderer
from ushering_adze.io.showfile import read_show, save_show
from ushering_adze.io.standins.camera import StandinCamera
from ushering_adze.io.standins.screen import StandinScreen

RUN = CliRunner()


def arrangement(columns: int, rows: int) -> Show:
    """A screen of so many small projectors, dark room, with all regions made as rigged."""
    w, h, over, down = 480, 300, 60, 45
    projectors = tuple(
        Projector(id=f"p{n}", name=f"P{n}", width=w, height=h, lumens=6000) for n in range(columns * rows)
    )
    screen = Projection(
        id="wall",
        name="Wall",
        width_mm=(w * columns - over * (columns - 1)) * 5,
        height_mm=(h * rows - down * (rows - 1)) * 5,
        projectors=projectors,
        rows=rows,
        overlap_px=over,
        overlap_down_px=down,
    )
    outputs = tuple(
        Output(id=f"o{n}", number=n + 1, name=f"O{n}", timing=Timing(width=w, height=h)) for n in range(columns * rows)
    )
    canvas = Canvas(id="c", name="C", width=screen.pixels[0], height=screen.pixels[1])
    show = Show(name="S", canvases=(canvas,), outputs=outputs, surfaces=(screen,))
    made, ids = with_surface_regions(show, "wall", "c", "o0")
    assert len(ids) == columns * rows and screen.pixels == (
        face_of(made.feeds_of("wall")).w,
        face_of(made.feeds_of("wall")).h,
    )
    for n, id in enumerate(ids):
        region = made.homes[id][1]
        landed = region.model_copy(
            update={"output": f"o{n}", "landing": region.landing.model_copy(update={"x": 0, "y": 0})}
        )
        made = made.model_copy(
            update={
                "canvases": tuple(
                    c.model_copy(update={"regions": tuple(landed if r.id == id else r for r in c.regions)})
                    for c in made.canvases
                )
            }
        )
    return Show.model_validate(made.model_dump())


def true_errors(before: Show, after: Show, surface: str) -> np.ndarray:
    """How far on the screen each canvas place truly falls from where it belongs, in pixels of the screen."""
    face, found = face_of(before.feeds_of(surface)), []
    for lit in StandinScreen(before, surface, 0.05).projectors:
        region = after.homes[lit.region][1]
        u, v = np.meshgrid(np.linspace(3, region.w - 3, 40), np.linspace(3, region.h - 3, 30))
        places = np.stack([u.ravel() + region.x, v.ravel() + region.y], -1)
        at = raster_points(region, places)
        on = ((at > 0) & (at < (lit.width, lit.height))).all(1)
        assert on.mean() > 0.97, "the projector reaches its part"
        found.append(np.hypot(*(lit.pose.view.to_screen(at[on]) - (places[on] - (face.x, face.y))).T))
    return np.concatenate(found)


def seen(show: Show, surface: str, pattern: str) -> np.ndarray:
    return StandinScreen(show, surface, 1.0).luminance(output_pictures(patterned(show, pattern)))


def grey(show: Show, surface: str, code: int) -> np.ndarray:
    """The luminance of a screen all of one code."""
    renderer = Renderer(show)
    renderer.draw_pictures(
        {c.id: np.full((c.height, c.width, 4), (code, code, code, 255), np.uint8) for c in show.canvases}
    )
    return StandinScreen(show, surface, 1.0).luminance(output_pictures(renderer))


def blends_off(show: Show, surface: str, code: int) -> np.ndarray:
    """The same with no light shared, as Align shows it to compare."""
    renderer = Renderer(show)
    renderer.lay_over(Overlay(bare=frozenset(o.id for o in show.outputs)))
    renderer.draw_pictures(
        {c.id: np.full((c.height, c.width, 4), (code, code, code, 255), np.uint8) for c in show.canvases}
    )
    return StandinScreen(show, surface, 1.0).luminance(output_pictures(renderer))


def judge(before: Show, after: Show, surface: str) -> None:
    errors = true_errors(before, after, surface)
    assert errors.mean() < 0.5 and errors.max() < 1.5, (errors.mean(), errors.max())
    assert true_errors_or_more(before, surface) > 5
    regions = before.feeds_of(surface)
    face = face_of(regions)
    count = np.zeros((face.h, face.w), np.uint8)
    for r in regions:
        count[r.y - face.y : r.y - face.y + r.h, r.x - face.x : r.x - face.x + r.w] += 1
    inner = np.s_[8 : face.h // 8 * 8 - 8, 8 : face.w // 8 * 8 - 8]
    shared = blocks((count[inner] > 1).astype(np.float32)) == 1
    white, crooked = (blocks(seen(s, surface, "white")[inner]) for s in (after, before))
    ripple = (white[shared].max() - white[shared].min()) / white[shared].mean()
    at_first = (crooked[shared].max() - crooked[shared].min()) / crooked[shared].mean()
    assert ripple < 0.01 < 0.1 < at_first, (ripple, at_first)
    black = blocks(seen(after, surface, "black")[inner])
    levels = [
        black[blocks((count[inner] == n).astype(np.float32)) == 1].mean() for n in set(count[inner].ravel().tolist())
    ]
    assert (max(levels) - min(levels)) / np.mean(levels) < 0.02, levels
    for code in (128, 64):  # of blocks of 8 × 8 px, dark and bright ends
        light = blocks(grey(after, surface, code)[inner])
        assert (light.max() - light.min()) / light.mean() < 0.02, code
    alone = blocks((count[inner] == 1).astype(np.float32)) == 1
    tone = [float(blocks(blends_off(after, surface, c)[inner])[alone].mean()) for c in (128, 255)]
    meant = (128 / 255) ** after.output(regions[0].output).picture.gamma
    assert abs(tone[0] / tone[1] / meant - 1) < 0.05, "with blends off for a look, greys are those of the same response"
    for code in (
        32,
        16,
        8,
        0,
    ):  # where a raster's black ends, a line of 1 px stays in some blocks: leave out one in a hundred
        light = blocks(grey(after, surface, code)[inner])
        low, high = np.quantile(light, [0.01, 0.99])
        assert (high - low) / light.mean() < {32: 0.02, 16: 0.025, 8: 0.06, 0: 0.06}[code], (
            code,
            float((high - low) / light.mean()),
        )


def true_errors_or_more(show: Show, surface: str) -> float:
    return float(true_errors(show, show, surface).mean())


def test_the_demos_crooked_projectors_become_one_picture_from_the_command_line(tmp_path: Path) -> None:
    path = tmp_path / "show.adze"
    save_show(demo_show(), path)
    before = json.loads(RUN.invoke(app, ["simulate", str(path), "--surface", "horizon", "--json"]).output)
    assert before["overlaps"]["ripple"] > 0.2
    told = RUN.invoke(app, ["align", str(path), "--surface", "horizon", "--auto", "--save", "--json"])
    assert told.exit_code == 0, told.output
    report = json.loads(told.output)
    assert (
        all(p["mean_px"] < 0.5 and p["worst_px"] < 1.5 for p in report["projectors"])
        and report["light_given_up"] < 0.15
    )
    after = json.loads(
        RUN.invoke(
            app, ["simulate", str(path), "--surface", "horizon", "--json", "--out", str(tmp_path / "w.tiff")]
        ).output
    )
    assert after["overlaps"]["ripple"] < 0.01 and after["screen"]["ripple"] < 0.02
    tiff = cv2.imread(str(tmp_path / "w.tiff"), cv2.IMREAD_UNCHANGED)
    assert (
        tiff.dtype == np.float32
        and tiff.shape == (1080, 3600)
        and tiff.mean() == pytest.approx(after["screen"]["mean"], rel=0.01)
    )
    judge(demo_show(), read_show(path), "horizon")
    assert (
        RUN.invoke(app, ["warp", str(path), "--output", "projector-left", "--maps", str(tmp_path / "m.npz")]).exit_code
        == 0
    )
    maps = np.load(tmp_path / "m.npz")
    u, v = maps["horizon-left.x"], maps["horizon-left.y"]
    region = read_show(path).homes["horizon-left"][1]
    y, x = np.nonzero(np.isfinite(u))
    back = raster_points(region, np.stack([u[y, x][::997] + 0.5, v[y, x][::997] + 0.5], -1))
    assert (
        np.abs(back - np.stack([x[::997] + 0.5, y[::997] + 0.5], -1)).max() < 0.05
        and str(maps["horizon-left.canvas"]) == "house"
    )


@pytest.mark.parametrize(("columns", "rows"), [(2, 1), (1, 2), (3, 1), (2, 2)])
def test_other_arrangements_come_together_too(columns: int, rows: int) -> None:
    show = arrangement(columns, rows)
    found = align(show, "wall", StandinCamera(show, "wall", 1500))
    judge(show, found.show, "wall")
    errors = true_errors(show, found.show, "wall")
    assert found.sighting.mean is not None and found.sighting.worst is not None
    assert 0.3 * errors.mean() < found.sighting.mean < 6 * errors.mean(), (
        "the screen's own error is told, not only that of the pictures"
    )
    assert errors.max() < 3 * found.sighting.worst
    assert np.nanmax(found.errors) < 1.5 and np.isfinite(found.errors).mean() > 0.95


class Spoiled:
    """A stand-in camera with something wrong."""

    def __init__(self, show: Show, fault: str) -> None:
        self.camera, self.fault = StandinCamera(show, "wall", 900), fault

    def photograph(
        self, rasters: dict, exposure: float = 1.0, shut: frozenset[str] = frozenset(), colour: bool = False
    ) -> np.ndarray:
        if self.fault == "o1 unseen":
            rasters = {k: v for k, v in rasters.items() if k != "o1"} if len(rasters) == 1 else rasters
        photo = self.camera.photograph(rasters, exposure, shut, colour)
        return (
            photo * np.float32(0.02)
            if self.fault == "dark"
            else np.clip(photo * 8, 0, 1)
            if self.fault == "burnt"
            else photo
        )


@pytest.mark.parametrize(
    ("fault", "words"), [("dark", "too dark"), ("burnt", "burnt out"), ("o1 unseen", "does not see this projector")]
)
def test_a_camera_that_sees_too_little_is_told_and_nothing_changes(fault: str, words: str) -> None:
    show = arrangement(2, 1)
    with pytest.raises(ShowError, match=words):
        align(show, "wall", Spoiled(show, fault))
    with pytest.raises(ShowError, match="it was stopped; nothing is changed"):
        align(show, "wall", StandinCamera(show, "wall", 900), progress=lambda share, doing: share < 0.3)


def test_a_lens_and_a_screen_through_it() -> None:
    lens = Lens(1600, 700, -0.015, 0.001, (1.0, -2.0))
    points = np.random.default_rng(0).uniform((0, 0), (1600, 700), (200, 2))
    assert np.abs(lens.bent(lens.straight(points)) - points).max() < 1e-6
    show = arrangement(2, 1)
    camera = StandinCamera(show, "wall", 1500)
    white = {o.id: np.full((400, 640), 255, np.uint8) for o in show.outputs}
    photo = camera.photograph(white)
    size = face_of(show.feeds_of("wall")).w, face_of(show.feeds_of("wall")).h
    corners = find_corners(photo)
    view: View = see_screen(photo, corners, size).view
    true = camera._view.from_screen(np.array([[0, 0], [size[0], 0], [size[0], size[1]], [0, size[1]]], float))
    assert (
        np.abs(corners - true).max() < 4
        and np.abs(view.to_screen(true) - [[0, 0], [size[0], 0], size, [0, size[1]]]).max() < 0.6
    )


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["simulate", "--surface", "meridian"], "no projection of this show"),
        (["align", "--surface", "horizon"], "give --auto"),
        (["simulate", "--surface", "horizon", "--out", "x.png"], "no TIFF"),
        (["warp", "--output", "nine", "--maps", "m.npz"], 'no output "nine"'),
    ],
)
def test_wrong_arguments_are_told_in_a_sentence(args: list[str], words: str, tmp_path: Path) -> None:
    save_show(demo_show(), tmp_path / "show.adze")
    result = RUN.invoke(app, [args[0], str(tmp_path / "show.adze"), *args[1:]])
    assert result.exit_code != 0 and words in str(result.exception)


def test_two_projectors_on_one_output_are_refused_before_anything_is_shown() -> None:
    show = arrangement(2, 1)
    right = show.canvases[0].regions[1].model_copy(update={"output": "o0", "mirror": False})
    both = show.model_copy(
        update={"canvases": (show.canvases[0].model_copy(update={"regions": (show.canvases[0].regions[0], right)}),)}
    )
    with pytest.raises(
        ShowError, match="O0: Wall P0 and Wall P1 both land on it, and a camera cannot tell their projectors apart; "
    ):
        align(both, "wall", StandinCamera(both, "wall", 600))


def test_marks_on_the_edges_find_a_screen_whose_edges_are_not_seen() -> None:
    """A photograph without contrast at the screen's edges, corners marked 3 px off: with 16 marks on the edges the
    screen is found.
    """
    lens = Lens(1200, 700, -0.015, 0.0)
    truth = View(
        lens, homography([(90, 70), (1120, 95), (1100, 640), (110, 610)], [(0, 0), (1600, 0), (1600, 800), (0, 800)])
    )
    flat = np.full((700, 1200), 0.5, np.float32)
    screen = np.array([(0, 0), (1600, 0), (1600, 800), (0, 800)], float)
    corners = truth.from_screen(screen) + np.array([(3, -2), (-2, 3), (2, 2), (-3, 1)])
    t = np.linspace(0.1, 0.9, 4)
    on_edges = np.concatenate(
        [
            np.stack([t * 1600, 0 * t], 1),
            np.stack([0 * t + 1600, t * 800], 1),
            np.stack([t * 1600, 0 * t + 800], 1),
            np.stack([0 * t, t * 800], 1),
        ]
    )
    places = np.stack(np.meshgrid(np.linspace(0, 1600, 9), np.linspace(0, 800, 7)), -1).reshape(-1, 2)

    def off(view: View) -> float:
        return float(np.hypot(*(view.to_screen(truth.from_screen(places)) - places).T).max())

    alone = see_screen(flat, corners, (1600, 800))
    marked = see_screen(flat, corners, (1600, 800), truth.from_screen(on_edges))
    assert alone.mean is None and off(alone.view) > 2 and off(marked.view) < 0.3 and marked.mean is not None
