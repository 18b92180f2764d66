"""When a source dies: what stands in for it is on air at that frame, is said to, and goes when it is back."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from ushering_adze.core.onair.actions import BringBack, Recall, apply, fault_of
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import (
    Clip,
    ColourSource,
    Show,
    ShowError,
    SourcePicture,
    Still,
    WhenLost,
    show_from_document,
)
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import document_of, faults_of
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.offline import acted, script_from
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.report import Report
from ushering_adze.io.media import open_player
from ushering_adze.io.outputs.png import write_png
from waiting import wait_for

RED, BLUE = (0, 0, 200), (200, 0, 0)


def chain(folder: Path, **of_film: object) -> Show:
    film = Clip(
        id="film", name="Film", path=str(DEMO_ROOT / "media/orrery.mp4"), when_lost=WhenLost(backup="card", **of_film)
    )
    card = Still(id="card", name="Card", path=str(folder / "none.png"), when_lost=WhenLost(backup="red"))
    return Show(name="Chain", sources=(film, card, ColourSource(id="red", name="Red", fill="#C80000")))


@pytest.fixture
def pool(tmp_path: Path) -> Iterator[SourcePool]:
    made = SourcePool()
    made.set_show(chain(tmp_path))
    made.wait(300)
    yield made
    made.close()


def colour(pool: SourcePool, source: str) -> tuple[int, ...]:
    frame = pool.frames([source])[source]
    return (
        tuple(int(v) for v in frame.pixels[0, 0, :3])
        if (frame.pixels[..., :3] == frame.pixels[0, 0, :3]).all()
        else (-1,)
    )


def die(pool: SourcePool, source: str, why: str | None) -> None:
    """Its reader fails, or is well again."""
    assert wait_for(lambda: pool._slots[source].player._reader is not None)  # type: ignore[union-attr]
    pool._slots[source].player._reader.fault = why  # type: ignore[union-attr]


def test_the_first_of_a_chain_that_lives_stands_in_at_once(pool: SourcePool) -> None:
    assert pool.frames(["film"])["film"].origin == "film" and pool.substitutes() == {}
    die(pool, "film", "its file is gone")
    assert colour(pool, "film") == RED and pool.frames(["film"])["film"].origin == "red"
    assert pool.substitutes()["film"] == "red", "the card is lost too: what stands in for it is asked"
    assert pool.faults()["film"] == "its file is gone; Red stands in for it"
    die(pool, "film", None)
    assert pool.frames(["film"])["film"].origin == "film" and "film" not in pool.substitutes()


def test_back_only_when_it_was_steady(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("ushering_adze.engine.pool.time.monotonic", lambda: now[0])
    pool = SourcePool()
    pool.set_show(chain(tmp_path, steady=5.0))
    try:
        assert wait_for(lambda: set(pool.frames(["film", "red"])) == {"film", "red"})
        die(pool, "film", "gone")
        assert colour(pool, "film") == RED
        die(pool, "film", None)
        now[0] += 4.9
        assert colour(pool, "film") == RED, "not yet"
        die(pool, "film", "gone again")
        assert colour(pool, "film") == RED
        die(pool, "film", None)
        now[0] += 4.9
        assert colour(pool, "film") == RED, "it counts anew"
        now[0] += 0.2
        assert pool.frames(["film"])["film"].origin == "film"
    finally:
        pool.close()


def test_a_backup_is_gone_over_to_and_back_in_its_time(tmp_path: Path) -> None:
    pool, show = SourcePool(), chain(tmp_path)
    film = show.source("film")
    film = film.model_copy(update={"when_lost": film.when_lost.model_copy(update={"seconds": 2.0})})
    pool.set_show(show.model_copy(update={"sources": tuple(film if s.id == "film" else s for s in show.sources)}))
    try:
        assert wait_for(lambda: set(pool.frames(["film", "red"])) == {"film", "red"})
        pool.follow({}, 10.0)
        own = pool.frames(["film"])["film"].pixels
        die(pool, "film", "gone")
        red, found = pool.frames(["red"])["red"].pixels, []
        for now in (10.0, 10.5, 11.0, 12.0):
            pool.follow({}, now)
            first = pool.frames(["film"])["film"]
            assert pool.frames(["film"])["film"] is first, "two who ask at one moment get the same"
            found.append(first.pixels[..., :3].astype(float))
        small = np.asarray(cv2.resize(own, (red.shape[1], red.shape[0])), float)[..., :3]
        for share, got in zip((0.0, 0.25, 0.5, 1.0), found, strict=True):
            assert np.abs(got - (share * red[..., :3] + (1 - share) * small)).max() <= 1, share
        die(pool, "film", None)
        pool.follow({}, 13.0)
        assert tuple(pool.frames(["film"])["film"].pixels[0, 0, :3]) == RED[:3], "and back in the same time"
        pool.follow({}, 15.0)
        assert pool.frames(["film"])["film"].origin == "film"
    finally:
        pool.close()


def test_its_last_picture_where_that_is_wanted(tmp_path: Path) -> None:
    pool = SourcePool()
    film = Clip(id="film", name="Film", path=str(DEMO_ROOT / "media/orrery.mp4"), when_lost=WhenLost(show="last"))
    pool.set_show(Show(name="Last", sources=(film,)))
    pool.wait(300)
    try:
        last = pool.frames(["film"])["film"]
        die(pool, "film", "gone")
        assert np.array_equal(pool.frames(["film"])["film"].pixels, last.pixels) and pool.substitutes() == {
            "film": "film"
        }
        assert pool.faults()["film"] == "gone; its last picture stands in for it"
    finally:
        pool.close()


def test_on_air_the_sill_says_that_a_backup_is_shown() -> None:
    show, told = demo_show(), list[Report]()
    sources = tuple(
        s.model_copy(update={"when_lost": WhenLost(backup="night")}) if s.id == "moon-phases" else s
        for s in show.sources
    )
    engine = Engine(show.model_copy(update={"sources": sources}), told.append)
    engine.start(wait=60)
    try:
        engine.act(Recall(preset=7, seconds=0))
        assert wait_for(lambda: bool(told) and told[-1].surfaces["meridian"].sources == ("Moon phases",))
        die(engine._pool, "moon-phases", "its file is gone")
        assert wait_for(
            lambda: (engine.rasters["processor-a"][100:800:50, 100:1800:50, :3] == (0x30, 0x12, 0x0E)).all()
        )
        assert wait_for(lambda: told[-1].surfaces["meridian"].state == "backup" and "moon-phases" in told[-1].faults)
        die(engine._pool, "moon-phases", None)
        assert wait_for(lambda: told[-1].surfaces["meridian"].state == "unbound" and not told[-1].faults)
    finally:
        engine.stop()


def test_a_backup_is_stored_checked_and_kept_from_being_removed(tmp_path: Path) -> None:
    show = chain(tmp_path)
    assert show_from_document(document_of(show)) == show
    for backup, why in (("nobody", 'no source "nobody"'), ("film", "cannot stand in for itself")):
        bad = document_of(show)
        bad["sources"][0]["when_lost"]["backup"] = backup
        with pytest.raises(ShowError, match=why):
            show_from_document(bad)
    with pytest.raises(ShowError, match="Card as its backup"):
        without_item(show, "sources", "red")
    assert faults_of(show) == []


def test_it_stands_in_offline_too(tmp_path: Path) -> None:
    show = demo_show()
    sources = tuple(
        s.model_copy(update={"path": str(tmp_path / "gone.mp4"), "when_lost": WhenLost(backup="night")})
        if s.id == "moon-phases"
        else s
        for s in show.sources
    )
    script = script_from([{"at": 0, "action": {"do": "recall", "preset": 7, "seconds": 0}}, {"at": 1, "shoot": "now"}])
    shot = next(acted(show.model_copy(update={"sources": sources}), script))
    assert (shot.rasters["processor-a"][100:800:50, 100:1800:50, :3] == (0x30, 0x12, 0x0E)).all()
    assert shot.surfaces["meridian"].state == "backup"


def test_a_file_that_comes_back_is_shown_again_by_itself(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ushering_adze.engine.slot.AGAIN", 0.05)
    pool = SourcePool()
    card = Still(id="card", name="Card", path=str(tmp_path / "card.png"), when_lost=WhenLost(backup="red"))
    pool.set_show(Show(name="Late", sources=(card, ColourSource(id="red", name="Red", fill="#C80000"))))
    pool.wait(300)
    try:
        assert colour(pool, "card") == RED and "card" in pool.faults()
        write_png(np.full((8, 8, 4), (9, 90, 190, 255), np.uint8), tmp_path / "card.png")

        def there() -> bool:
            pool.follow({}, 0.0)
            return colour(pool, "card") == (9, 90, 190)

        assert wait_for(there) and pool.faults() == {}
    finally:
        pool.close()


def test_a_source_is_adjusted_once_wherever_it_is_shown(tmp_path: Path) -> None:
    pool = SourcePool()
    red = ColourSource(id="red", name="Red", fill="#C80000")
    pool.set_show(Show(name="Looks", sources=(red,)))
    pool.wait(300)
    try:
        player, before = pool._slots["red"].player, pool.frames(["red"])["red"]
        assert colour(pool, "red") == RED
        pool.set_show(
            Show(name="Looks", sources=(red.model_copy(update={"picture": SourcePicture(gain=(0.5, 1, 1))}),))
        )
        after = pool.frames(["red"])["red"]
        assert colour(pool, "red") == (0, 0, 100) and after.serial != before.serial, "another picture"
        assert pool.frames(["red"])["red"] is after, "made once"
        assert pool._slots["red"].player is player, "and nothing is opened anew"
    finally:
        pool.close()


def test_one_that_comes_back_by_hand_waits_for_it(tmp_path: Path) -> None:
    show = chain(tmp_path, by_hand=True)
    stage = Stage.opened(show)
    assert apply(show, stage, BringBack(source="film"), 7.0).brought == {"film": 7.0}
    assert fault_of(show, BringBack(source="none")) is not None
    pool = SourcePool()
    try:
        pool.set_show(show)
        pool.wait(300)

        def origin(now: float, brought: float | None = None) -> str:
            pool.follow({}, now, {} if brought is None else {"film": brought})
            return pool.frames(["film"])["film"].origin

        assert origin(1.0) == "film"
        die(pool, "film", "its file is gone")
        assert origin(2.0) == "red"
        die(pool, "film", None)
        assert origin(3.0) == "red" and origin(9.0) == "red", "it is there, and waits"
        assert origin(10.0, 9.5) == "film" and origin(11.0, 9.5) == "film"
        die(pool, "film", "again")
        assert origin(12.0, 9.5) == "red"
        die(pool, "film", None)
        assert origin(13.0, 9.5) == "red", "that was for the time before"
    finally:
        pool.close()


@pytest.mark.parametrize(("suffix", "form"), [(".gif", "GIF"), (".webp", "WEBP"), (".png", "PNG")])
def test_pictures_that_move_by_themselves_do(tmp_path: Path, suffix: str, form: str) -> None:
    pictures = [Image.new("RGBA", (20, 10), (60 * n, 60 * n, 60 * n, 255)) for n in (1, 2, 3)]
    path = tmp_path / f"a{suffix}"
    more = {"lossless": True} if form == "WEBP" else {}
    pictures[0].save(path, form, save_all=True, append_images=pictures[1:], duration=[100, 300, 200], loop=0, **more)
    player = open_player(Still(id="a", name="A", path=str(path)))
    assert player.length == pytest.approx(0.6)
    seen = [int(player.frame(t).pixels[0, 0, 0]) for t in (0.0, 0.09, 0.11, 0.39, 0.41, 0.59, 0.61)]
    assert np.abs(np.array(seen) - (60, 60, 120, 120, 180, 180, 60)).max() <= 2
    plain = open_player(Still(id="b", name="B", path=str(DEMO_ROOT / "media/hold-card.png")))
    assert plain.length == 0.0
