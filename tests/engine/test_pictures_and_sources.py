"""Small pictures of surfaces, source clocks, the stage, and the pieces the engine is built of."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import cv2
import numpy as np
import pytest

from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.playing import played
from ushering_adze.core.onair.stage import BACK_STEPS, Stage, sources_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.resampling import Cut
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Clip, ColourSource, Countdown, QuadLanding, Show, Still
from ushering_adze.core.show.edits import changed, find_region, with_region
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.engine import workers
from ushering_adze.engine.pictures import LONGEST, PreviewPictures, face_of, surface_picture
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer, layers_of
from ushering_adze.engine.resampled import quick_shrink
from ushering_adze.io.outputs.png import PngSink, write_png


def smooth(h: int, w: int, serial: int) -> Frame:
    """A picture without fine detail, so that shrinking it by any fair means gives the same."""
    rng = np.random.default_rng(serial)
    small = rng.integers(0, 256, (5, 7, 4), dtype=np.uint8)
    pixels = cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC)
    pixels[..., 3] = 255
    return Frame(pixels, serial)


@pytest.fixture(scope="module")
def frames(show: Show) -> dict[str, Frame]:
    sizes = {"star-trails": (1080, 3600), "slides": (960, 1920), "orrery": (960, 1920), "moon-phases": (960, 1920)}
    return {s.id: smooth(*sizes.get(s.id, (720, 1280)), serial=n + 1) for n, s in enumerate(show.sources)}


@pytest.fixture(scope="module")
def show() -> Show:
    from ushering_adze.demo.show import demo_show

    return demo_show()


def test_the_picture_of_a_screen_adds_the_light_of_its_projectors(show: Show, frames: dict[str, Frame]) -> None:
    """Taken back from two blended rasters, Horizon looks like its canvas, also in the overlap."""
    renderer = Renderer(show, whole=True)
    renderer.draw(opening_motion(show).at(0), frames)
    picture = surface_picture(show, "horizon", renderer.outputs)
    assert picture is not None and picture.shape[1] == LONGEST
    canvas = renderer.canvases["house"].pixels[0:1080, 256:3856]
    want = cv2.resize(canvas, (picture.shape[1], picture.shape[0]), interpolation=cv2.INTER_AREA)
    difference = np.abs(picture[3:-3, 3:-3, :3].astype(int) - want[3:-3, 3:-3, :3])
    assert difference.max() <= 14 and difference.mean() < 2
    overlap = difference[:, round(1680 / 3600 * 640) : round(1920 / 3600 * 640)]
    assert overlap.mean() < 3


def test_a_screen_whose_projectors_are_warped_still_looks_like_its_canvas(show: Show, frames: dict[str, Frame]) -> None:
    region = find_region(show, "horizon-left")[1]
    bent = with_region(
        show, changed(region, landing=QuadLanding(corners=((10, 6), (1905, 2), (1912, 1070), (4, 1074))))
    )
    renderer = Renderer(bent, whole=True)
    renderer.draw(opening_motion(bent).at(0), frames)
    picture = surface_picture(bent, "horizon", renderer.outputs)
    want = cv2.resize(
        renderer.canvases["house"].pixels[0:1080, 256:3856],
        (picture.shape[1], picture.shape[0]),
        interpolation=cv2.INTER_AREA,
    )
    assert np.abs(picture[4:-4, 4:290, :3].astype(int) - want[4:-4, 4:290, :3]).mean() < 3


@pytest.mark.parametrize("number", [7, 6, 1, 8])
def test_what_preview_showed_is_what_program_shows_after_the_take(
    show: Show, frames: dict[str, Frame], number: int
) -> None:
    stage = Stage.opened(show).stage(number)
    wanted = stage.preview()
    ids = [s.id for s in show.surfaces]
    preview = PreviewPictures(show).draw(wanted, frames, ids)
    after = stage.take(0.0, cut=True).program.at(0.0)
    assert after == wanted
    renderer = Renderer(show)
    renderer.draw(after, frames)
    for id in ids:
        program = surface_picture(show, id, renderer.outputs)
        h, w = preview[id].shape[:2]
        shrunk = cv2.resize(program, (w, h), interpolation=cv2.INTER_AREA)
        assert np.abs(shrunk[2:-2, 2:-2, :3].astype(int) - preview[id][2:-2, 2:-2, :3]).mean() < 6, id


def test_a_surface_that_nothing_feeds_has_no_picture(show: Show) -> None:
    house = show.canvases[0]
    bare = show.model_copy(
        update={"canvases": (house.model_copy(update={"regions": house.regions[:2]}), *show.canvases[1:])}
    )
    assert surface_picture(bare, "meridian", Renderer(bare).outputs) is None
    assert face_of([]) == Rect(0, 0, 0, 0)


def test_quick_shrink_of_a_smooth_picture_is_a_fair_picture() -> None:
    frame = smooth(1080, 1920, 5)
    quick = quick_shrink(frame.pixels, Cut(Rect(0, 0, 1920, 1080), Rect(0, 0, 160, 90)))
    fair = cv2.resize(frame.pixels, (160, 90), interpolation=cv2.INTER_AREA)
    assert quick.shape == (90, 160, 4) and np.abs(quick.astype(int) - fair).mean() < 1.5


# -- sources -------------------------------------------------------------------------------------------------------


def tiny(*sources: object) -> Show:
    return Show(name="T", sources=sources)  # type: ignore[arg-type]


def test_clocks_run_on_air_pause_off_air_and_live_ones_run_on_preview() -> None:
    camera = Clip(id="camera", name="Camera", path=str(DEMO_ROOT / "media/roof-camera.mp4"), live=True)
    show = tiny(
        Clip(id="film", name="Film", path=str(DEMO_ROOT / "media/orrery.mp4")),
        camera,
        Countdown(id="count", name="Count", seconds=60),
    )
    first = played(show, {}, {"film", "count"}, {"camera"}, 10.0)
    assert {id: at.position(11.0) for id, at in first.items()} == {"film": 1.0, "camera": 1.0, "count": 1.0}
    assert played(show, first, {"film", "count"}, {"camera"}, 10.5) is first, "nothing came or went"
    off = played(show, first, set(), {"film"}, 11.0)
    assert off["film"].position(15.0) == 1.0, "a film waits on preview at the frame it will start with"
    assert off["camera"].position(15.0) == 1.0, "what nobody looks at stands, live or not"
    again = played(show, off, {"film", "count"}, set(), 15.0)
    assert again["count"].position(15.0) == 0.0, "a countdown starts anew when it comes on air"
    assert again["film"].position(15.5) == 1.5
    stopped = {**again, "film": again["film"].standing(16.0, by_hand=True)}
    assert played(show, stopped, {"film"}, set(), 17.0)["film"].position(20.0) == 2.0, (
        "what was paused by hand is started by hand"
    )


def test_an_edit_reopens_only_the_source_it_touches(tmp_path: Path) -> None:
    pool = SourcePool()
    a, b = ColourSource(id="a", name="A", fill="#102030"), ColourSource(id="b", name="B", fill="#405060")
    pool.set_show(tiny(a, b))
    pool.wait(300)
    first = pool.frames(["a", "b"])
    pool.set_show(tiny(a, b.model_copy(update={"fill": "#0000FF"})))
    pool.wait(300)
    second = pool.frames(["a", "b"])
    assert second["a"] is first["a"] and second["b"].pixels[0, 0].tolist() == [255, 0, 0, 255]
    pool.set_show(tiny(a))
    assert set(pool.frames(["a", "b"])) == {"a"}
    pool.close()


def test_a_lost_source_comes_back_when_its_file_does(tmp_path: Path) -> None:
    pool = SourcePool()
    still = Still(id="card", name="Card", path=str(tmp_path / "card.png"))
    pool.set_show(tiny(still))
    pool.wait(300)
    assert pool.faults() == {"card": "no file card.png"}
    write_png(np.full((4, 4, 4), 200, np.uint8), tmp_path / "card.png")
    pool.set_show(tiny(still.model_copy(update={"name": "Card again"})))
    pool.wait(300)
    assert pool.faults() == {} and pool.frames(["card"])["card"].pixels[0, 0, 0] == 200
    pool.close()


def test_a_player_that_fails_gives_its_lost_picture(tmp_path: Path) -> None:
    pool = SourcePool()
    pool.set_show(tiny(ColourSource(id="a", name="A", fill="#102030")))
    pool.wait(300)
    player = pool._slots["a"].player

    def broken(seconds: float) -> Frame:
        raise RuntimeError("wire cut")

    player.frame = broken  # type: ignore[method-assign, union-attr]
    assert pool.frames(["a"])["a"].pixels.shape == (720, 1280, 4)
    assert pool.faults() == {"a": "RuntimeError: wire cut"}
    pool.close()


# -- stage and pieces ----------------------------------------------------------------------------------------------


def test_the_way_back_is_bounded(show: Show) -> None:
    stage = Stage.opened(show)
    for n in range(BACK_STEPS + 20):
        stage = stage.recall(7 if n % 2 else 5, float(n))
    assert len(stage.back) == BACK_STEPS
    for n in range(BACK_STEPS + 5):
        stage = stage.step_back(1000.0 + n)
    assert stage.back == () and stage.step_back(9999.0) is stage


def test_what_is_not_there_changes_nothing(show: Show) -> None:
    stage = Stage.opened(show)
    assert (
        stage.recall(555, 0.0) is stage
        and stage.stage(555) is stage
        and stage.take(0.0) is stage
        and stage.hand(0.5, 0.0) is stage
    )


def test_a_preset_that_changes_nothing_can_be_taken_by_hand(show: Show) -> None:
    stage = Stage.opened(show).stage(5).hand(0.4, 0.0)
    assert stage.on_program == 5 and stage.staged is None and not stage.program.led_by_hand


def test_recall_onto_an_unsettled_program_previews_where_it_will_end(show: Show) -> None:
    fading = Stage.opened(show).recall(7, 0.0)
    staged = fading.stage(20)
    preview = staged.preview()
    assert preview["house", "wall"].picture.source == "moon-phases", "the fade under way counts as done"
    assert preview["house", "west"].picture.source == "aisle-camera"


def test_sources_of_a_half_faded_state_are_both(show: Show) -> None:
    state = recall(show, opening_motion(show), show.preset(7), 0.0).at(1.0)
    assert {"slides", "moon-phases", "star-trails", "roof-camera"} <= sources_of(state)
    assert [id for id, _ in layers_of(show.canvas("house"), state)] == ["sky", "wall", "inset", "west", "east"]


def test_each_does_all_and_raises_the_first_error() -> None:
    done: list[int] = []
    lock = threading.Lock()

    def work(n: int) -> None:
        time.sleep(0.002)
        with lock:
            done.append(n)

    workers.each(work, list(range(40)))
    assert sorted(done) == list(range(40))
    with pytest.raises(ZeroDivisionError):
        workers.each(lambda n: 1 // n, [3, 0, 2, 1])
    workers.each(work, [])


def test_a_file_sink_keeps_the_newest_and_never_waits(tmp_path: Path) -> None:
    sink = PngSink(tmp_path / "a/b.png", period=0.05)
    for n in range(30):
        sink(np.full((8, 8, 4), n * 8, np.uint8))
        time.sleep(0.01)
    sink.close()
    sink.join(20)
    assert sink.fault is None and cv2.imread(str(tmp_path / "a/b.png"))[0, 0, 0] > 100
    (tmp_path / "file").write_text("")
    bad = PngSink(tmp_path / "file/b.png", period=0)
    bad(np.zeros((4, 4, 4), np.uint8))
    bad.close()
    bad.join(20)
    assert bad.fault is not None and "could not be saved (a file is where its folder should be)" in bad.fault
