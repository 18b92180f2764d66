"""What is on air is one value: names, folders and edits move nothing of it; some outputs are black or held and the
others go on.
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest

from ushering_adze.core.onair.actions import Black, Hold, Keep, Recall, StagePreset
from ushering_adze.core.show import Clip, Countdown, Input, PatternSource, Still, show_from_document
from ushering_adze.demo.show import DEMO_ROOT, copy_demo, demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.media import opening_key
from ushering_adze.io.showfile import absolute, read_show, save_show
from waiting import wait_for


@pytest.fixture(scope="module")
def reports() -> list[Report]:
    return []


@pytest.fixture(scope="module")
def engine(reports: list[Report]) -> Iterator[Engine]:
    made = Engine(demo_show(), reports.append)
    made.start(wait=60)
    assert wait_for(lambda: bool(reports))
    yield made
    made.stop()


def picture(engine: Engine, output: str) -> np.ndarray:
    return engine.rasters[output][..., :3].copy()


def test_some_outputs_black_or_held_while_the_others_go_on(engine: Engine, reports: list[Report]) -> None:
    got: dict[str, list[int]] = {"processor-a": [], "relay": []}
    for id, seen in got.items():
        engine.add_sink(id, "test", lambda pixels, seen=seen: seen.append(int(pixels[..., :3].max())))
    engine.act(Recall(preset=5, seconds=0.0))
    assert wait_for(lambda: picture(engine, "relay").max() > 60)
    engine.act(Black(outputs=("relay",)))
    assert wait_for(lambda: bool(got["relay"]) and got["relay"][-1] == 0) and picture(engine, "relay").max() == 0
    assert picture(engine, "processor-a").max() > 60 and engine.covered is None
    assert wait_for(
        lambda: reports[-1].surfaces["relay"].state == "black" and reports[-1].program["relay"][..., :3].max() == 0
    )
    assert reports[-1].surfaces["meridian"].state != "black" and not reports[-1].black
    engine.act(Black(on=False, outputs=("relay",)))
    assert wait_for(lambda: got["relay"][-1] > 60)

    engine.act(Hold(outputs=("processor-a",)))
    frames = engine.frames
    assert wait_for(lambda: engine.frames > frames + 2)
    held = picture(engine, "processor-a")
    engine.act(Recall(preset=90, seconds=0.0))
    assert wait_for(lambda: picture(engine, "relay").max() < 40), "the others go on"
    assert (picture(engine, "processor-a") == held).all() and held.max() > 60
    assert wait_for(lambda: reports[-1].surfaces["meridian"].state == "held" and reports[-1].stage.on_program == 90)
    assert wait_for(lambda: reports[-1].surfaces["relay"].sources == ())
    assert reports[-1].surfaces["meridian"].sources == ("Slides",), (
        "what it truly shows, not what was asked for meanwhile"
    )
    engine.act(Hold(on=False))
    assert wait_for(lambda: picture(engine, "processor-a").max() == 0), "it is brought up to what it has missed"
    engine.act(Recall(preset=5, seconds=0.0))


def test_a_kept_surface_says_so_and_stays(engine: Engine, reports: list[Report]) -> None:
    engine.add_sink("foyer", "test", lambda pixels: None)
    engine.act(Recall(preset=5, seconds=0.0))
    engine.act(Keep(surface="foyer-wall"))
    assert wait_for(lambda: reports[-1].surfaces["foyer-wall"].state == "kept")
    engine.act(StagePreset(preset=90))
    assert wait_for(lambda: reports[-1].stage.staged == 90 and bool(reports[-1].delta))
    assert "foyer-wall" not in {c.surface for c in reports[-1].delta}
    engine.act(Recall(preset=90, seconds=0.0))
    assert wait_for(lambda: picture(engine, "relay").max() < 40) and picture(engine, "foyer").max() > 40


def test_a_name_or_a_colour_opens_nothing_anew(tmp_path: Path) -> None:
    path = copy_demo(tmp_path / "a")
    show = read_show(path)
    engine = Engine(show)
    engine.start(wait=60)
    try:
        engine.act(Recall(preset=5, seconds=0.0))
        pool = engine._pool
        before = {id: slot.player for id, slot in pool._slots.items()}
        assert all(player is not None for player in before.values())
        other = show.model_copy(
            update={
                "sources": tuple(
                    s
                    if isinstance(s, (PatternSource, Countdown, Input))
                    else s.model_copy(update={"name": f"Other {s.name}", "colour": "#123456"})
                    for s in show.sources
                )
            }
        )
        engine.set_show(other)
        frames = engine.frames
        assert wait_for(lambda: engine.stage.show is other and engine.frames > frames + 2)
        assert {id: slot.player for id, slot in pool._slots.items()} == before
        elsewhere = tmp_path / "elsewhere"
        elsewhere.mkdir()
        save_show(other, elsewhere / "show.adze")
        saved = read_show(elsewhere / "show.adze")
        assert saved == other, "in another file the paths lead where they led"
        engine.set_show(saved)
        assert wait_for(lambda: engine.stage.show is saved)
        assert {id: slot.player for id, slot in pool._slots.items()} == before and engine.faults() == {}
        moved = other.model_copy(
            update={
                "sources": tuple(
                    s.model_copy(update={"path": str(path.parent / "media/moon-phases.mp4")})
                    if s.id == "star-trails"
                    else s
                    for s in other.sources
                )
            }
        )
        engine.set_show(moved)
        assert wait_for(
            lambda: (
                (slot := pool._slots.get("star-trails")) is not None
                and slot.player not in (None, before["star-trails"])
            )
        ), "another file is another picture"
    finally:
        engine.stop()


def test_keys_tell_apart_what_shows_other_pictures(tmp_path: Path) -> None:
    still = Still(id="a", name="A", path="x.png")
    assert opening_key(still) == opening_key(still.model_copy(update={"name": "B", "colour": "#000000", "id": "b"}))
    assert opening_key(still) != opening_key(still.model_copy(update={"path": str(tmp_path / "x.png")}))
    assert opening_key(Clip(id="a", name="A", path="x.png")) != opening_key(still)
    card = PatternSource(id="p", name="Card", pattern="identify")
    assert opening_key(card) != opening_key(card.model_copy(update={"name": "Other"})), "its name is in its picture"


def test_what_may_be_seen_through_is_read_from_the_pictures(tmp_path: Path) -> None:
    """A still with alpha over another: a change below it is announced; below one without alpha it is not."""
    for name, alpha in (("clear.png", 128), ("solid.png", 255)):
        cv2.imwrite(str(tmp_path / name), np.full((90, 160, 4), (90, 90, 90, alpha), np.uint8))
    shutil.copy(DEMO_ROOT / "media/orrery.mp4", tmp_path / "clip.mp4")
    document = {
        "format": "ushering-adze show",
        "version": 1,
        "name": "Alpha",
        "sources": [
            {"kind": "still", "id": "top", "name": "Top", "path": "clear.png"},
            {"kind": "colour", "id": "red", "name": "Red", "fill": "#800000"},
            {"kind": "clip", "id": "clip", "name": "Clip", "path": "clip.mp4"},
        ],
        "canvases": [
            {
                "id": "c",
                "name": "C",
                "width": 160,
                "height": 90,
                "layers": [
                    {"id": "under", "name": "Under", "settings": {"picture": {"source": "red", "fit": "stretch"}}},
                    {"id": "over", "name": "Over", "settings": {"picture": {"source": "top", "fit": "stretch"}}},
                ],
                "regions": [
                    {
                        "id": "r",
                        "name": "R",
                        "x": 0,
                        "y": 0,
                        "w": 160,
                        "h": 90,
                        "output": "o",
                        "surface": "s",
                        "landing": {"kind": "rect", "x": 0, "y": 0, "w": 160, "h": 90},
                    }
                ],
            }
        ],
        "surfaces": [
            {"kind": "monitor", "id": "s", "name": "S", "width": 160, "height": 90, "width_mm": 600, "height_mm": 340}
        ],
        "outputs": [{"id": "o", "number": 1, "name": "O", "timing": {"width": 160, "height": 90}}],
        "presets": [
            {
                "id": "p",
                "number": 1,
                "name": "P",
                "parts": [{"canvas": "c", "layer": "under", "settings": {"picture": {"source": "clip"}}}],
            }
        ],
    }
    for top, announced in (("clear.png", ["s"]), ("solid.png", [])):
        document["sources"][0]["path"] = top  # type: ignore[index]
        show, told = absolute(show_from_document(document), tmp_path), list[Report]()
        engine = Engine(show, told.append)
        engine.start(wait=60)
        try:
            engine.act(StagePreset(preset=1))
            assert wait_for(lambda told=told: bool(told) and told[-1].stage.staged == 1), top
            assert [c.surface for c in told[-1].delta] == announced, top
            assert told[-1].surfaces["s"].sources == (("Top", "Red") if announced else ("Top",))
        finally:
            engine.stop()
