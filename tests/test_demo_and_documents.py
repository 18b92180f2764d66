"""The demo is what its description promises, and the documents say what is true."""

from __future__ import annotations

import json
import re
import subprocess
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np
import pytest

from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LedWall, MonitorWall, Projection, RectLanding, Show, show_schema
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine.offline import rendered
from ushering_adze.io.showfile import media_faults

ROOT = Path(__file__).resolve().parents[1]
CLIPS = sorted((DEMO_ROOT / "media").glob("*.mp4"))


def test_the_demo_is_whole(show: Show) -> None:
    assert faults_of(show) == [] and media_faults(show) == []


@pytest.mark.parametrize(
    ("id", "kind", "pixels", "size_mm", "x_mm", "foot_mm"),
    [
        ("horizon", "projection", (3600, 1080), (9000, 2700), 4500, 2900),
        ("meridian", "led-wall", (1920, 960), (5000, 2500), 6500, 350),
        ("west-mast", "led-wall", (256, 768), (1000, 3000), 2600, 300),
        ("east-mast", "led-wall", (256, 768), (1000, 3000), 14400, 300),
        ("foyer-wall", "monitor-wall", (1920, 1080), (3 * (1018.1 + 7), 2 * (572.7 + 7)), 0, 900),
        ("lectern", "monitor", (1920, 1080), (1102, 620), 400, 300),
        ("relay", "stream", (1280, 720), None, None, None),
    ],
)
def test_surfaces_have_their_pixels_and_hang_where_they_should(
    show: Show,
    id: str,
    kind: str,
    pixels: tuple[int, int],
    size_mm: tuple[float, float] | None,
    x_mm: float,
    foot_mm: float,
) -> None:
    surface = show.surface(id)
    assert surface.kind == kind and surface.pixels == pixels
    if size_mm is None:
        assert surface.size_mm is None and surface.place is None
        return
    assert surface.size_mm == pytest.approx(size_mm)
    assert surface.place is not None and (surface.place.x_mm, surface.place.foot_mm) == (x_mm, foot_mm)
    assert surface.place.apart == (id == "foyer-wall")


def test_arithmetic_of_cabinets_and_monitors(show: Show) -> None:
    meridian, mast, foyer, horizon = (show.surface(s) for s in ("meridian", "west-mast", "foyer-wall", "horizon"))
    assert (
        isinstance(meridian, LedWall)
        and isinstance(mast, LedWall)
        and isinstance(foyer, MonitorWall)
        and isinstance(horizon, Projection)
    )
    assert round(meridian.cabinet.pitch_mm, 3) == 2.604  # 500 mm ÷ 192 px
    assert round(mast.cabinet.pitch_mm, 3) == 3.906  # 500 mm ÷ 128 px
    assert horizon.pixels[0] == 2 * 1920 - 240
    assert horizon.size_mm[0] / horizon.size_mm[1] == pytest.approx(horizon.pixels[0] / horizon.pixels[1], rel=0.001)


@pytest.mark.parametrize(
    ("region", "rect", "output", "at"),
    [
        ("horizon-left", (256, 0, 1920, 1080), "projector-left", (0, 0)),
        ("horizon-right", (1936, 0, 1920, 1080), "projector-right", (0, 0)),
        ("meridian", (1096, 1080, 1920, 960), "processor-a", (0, 0)),
        ("west-mast", (0, 636, 256, 768), "processor-b", (0, 0)),
        ("east-mast", (3856, 636, 256, 768), "processor-b", (256, 0)),
        ("foyer", (0, 0, 1920, 1080), "foyer", (0, 0)),
        ("lectern", (0, 0, 1920, 1080), "lectern", (0, 0)),
        ("relay", (0, 0, 1280, 720), "relay", (0, 0)),
    ],
)
def test_regions_land_one_to_one(
    show: Show, region: str, rect: tuple[int, ...], output: str, at: tuple[int, int]
) -> None:
    found = next(r for _, r in show.regions() if r.id == region)
    landing = found.landing
    assert (found.x, found.y, found.w, found.h) == rect and found.output == output and isinstance(landing, RectLanding)
    assert (landing.x, landing.y, landing.w, landing.h) == (*at, *rect[2:])


def test_every_region_lies_on_its_canvas_and_raster_and_none_share_a_raster(show: Show) -> None:
    for canvas, region in show.regions():
        timing = show.output(region.output).timing
        landing = region.landing
        assert isinstance(landing, RectLanding)
        assert Rect(0, 0, canvas.width, canvas.height).holds(Rect(region.x, region.y, region.w, region.h))
        assert Rect(0, 0, timing.width, timing.height).holds(Rect(landing.x, landing.y, landing.w, landing.h))
        for _, other in show.regions():
            if other is not region and other.output == region.output:
                assert isinstance(other.landing, RectLanding)
                mine, theirs = (Rect(x.x, x.y, x.w, x.h) for x in (landing, other.landing))
                assert mine.meet(theirs).empty


def test_the_house_is_symmetrical_about_its_centre_line(show: Show) -> None:
    house = show.canvas("house")
    boxes = {(r.x, r.y, r.w, r.h) for r in house.regions}
    assert {(house.width - x - w, y, w, h) for x, y, w, h in boxes} == boxes


def test_presets_are_the_evening(show: Show) -> None:
    names = {p.number: p.name for p in show.presets}
    assert names == {
        1: "Doors open",
        2: "Countdown",
        3: "Welcome",
        4: "Panorama",
        5: "Keynote",
        6: "Interview",
        7: "Moon reveal",
        8: "Closing",
        20: "Masts camera",
        21: "Masts stars",
        29: "Spread across",
        30: "Spread each",
        90: "Black",
    }


def test_the_foyer_keeps_its_loop_through_all_of_them(show: Show) -> None:
    for preset in show.presets:
        state = recall(show, opening_motion(show), preset, 0.0).at(60.0)
        assert state["foyer", "loop"].picture.source == "patrons" and state["foyer", "loop"].opacity == 1


def test_every_source_is_used_or_for_the_engineer(show: Show) -> None:
    used: set[str] = set()
    for preset in show.presets:
        used |= sources_of(recall(show, opening_motion(show), preset, 0.0).at(60.0))
        used |= {preset.way.source} if preset.way is not None and preset.way.source is not None else set()
    assert {s.id for s in show.sources} - show.leading_to(used) == {"grid", "guest-laptop", "archive-player"}


@pytest.mark.parametrize("number", [1, 2, 3, 4, 5, 6, 7, 8, 20, 21, 29, 30, 90])
def test_every_preset_makes_its_pictures(show: Show, number: int) -> None:
    renderer, faults = rendered(show, number)
    assert faults == {}
    for id, output in renderer.outputs.items():
        dark = number == 90 and id not in ("foyer", "lectern")
        picture = output.pixels[: 960 if id == "processor-a" else None, : 512 if id == "processor-b" else None, :3]
        if id == "relay" and dark:
            assert (picture == (0x1F, 0x16, 0x12)).all(), "the canvas' own background"
        elif dark:
            assert picture.max() == 0
        elif not (number == 4 and id == "processor-a"):
            assert picture.std() > 5, (number, id)


@pytest.mark.parametrize("path", CLIPS, ids=lambda p: p.stem)
def test_clips_are_small_tagged_and_loop_without_a_seam(path: Path) -> None:
    assert path.stat().st_size < 4e6
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        assert stream.average_rate == 30 and int(stream.codec_context.colorspace) == 1
        small = [
            cv2.resize(f.to_ndarray(format="gray"), (320, 160), interpolation=cv2.INTER_AREA).astype(float)
            for f in container.decode(stream)
        ]
    steps = [np.abs(a - b).mean() for a, b in pairwise(small)]
    seam = np.abs(small[-1] - small[0]).mean()
    assert seam <= max(steps) * 1.25 + 0.3, "the step over the seam is like any other step"


def test_media_are_made_by_the_script_alone() -> None:
    script = (ROOT / "tools/demo_media.py").read_text()
    for path in (DEMO_ROOT / "media").rglob("*"):
        if path.is_file():
            assert path.stem in script or re.sub(r"\d+$", "", path.stem) in script


# -- documents -----------------------------------------------------------------------------------------------------


def test_the_published_schema_is_the_schema() -> None:
    assert json.loads((ROOT / "docs/show.schema.json").read_text()) == json.loads(json.dumps(show_schema()))


def test_links_of_the_documents_lead_somewhere() -> None:
    for document in [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))]:
        for target in re.findall(r"\]\(([^)#]+)\)", document.read_text()):
            assert (document.parent / target).exists(), (document.name, target)


def test_the_control_reference_names_every_command_of_the_program() -> None:
    from ushering_adze.cli.main import app

    text = (ROOT / "docs/control.md").read_text()
    for command in app.registered_commands:
        name = command.name or command.callback.__name__
        assert f"`adze {name}" in text, name


def test_the_glossary_has_the_words_on_screen() -> None:
    text = (ROOT / "docs/glossary.md").read_text()
    for word in (
        "room",
        "region",
        "landing",
        "unbound",
        "scope",
        "delta",
        "sill",
        "hand fade",
        "lost",
        "stand-in",
        "gang",
        "card",
        "data run",
        "bend",
        "reach",
        "lift",
    ):
        assert f"| {word} |" in text


def test_pins_are_names_and_versions_only() -> None:
    for line in (ROOT / "constraints.txt").read_text().splitlines():
        assert re.fullmatch(r"[A-Za-z0-9_.-]+==[A-Za-z0-9_.]+", line), line


def test_the_start_script_says_what_is_missing(tmp_path: Path) -> None:
    """On a machine without Python the script ends with a sentence, not a stack of errors."""
    copied = tmp_path / "adze"
    copied.write_text((ROOT / "adze").read_text())
    copied.chmod(0o755)
    tools = tmp_path / "bin"
    tools.mkdir()
    for name in ("dirname", "sh", "cat", "cmp"):
        found = subprocess.run(["sh", "-c", f"command -v {name}"], capture_output=True, text=True).stdout.strip()
        (tools / name).symlink_to(found)
    done = subprocess.run(["/bin/sh", str(copied), "demo"], env={"PATH": str(tools)}, capture_output=True, text=True)
    assert done.returncode == 2 and "Python 3.11 or newer is needed" in done.stderr
