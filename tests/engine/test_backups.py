"""When a source dies: what stands in for it is on air at that frame, is said to, and goes when it is back."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from ushering_adze.core.onair.actions import Recall
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
    made.wait(20)
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


def test_its_last_picture_where_that_is_wanted(tmp_path: Path) -> None:
    pool = SourcePool()
    film = Clip(id="film", name="Film", path=str(DEMO_ROOT / "media/orrery.mp4"), when_lost=WhenLost(show="last"))
    pool.set_show(Show(name="Last", sources=(film,)))
    pool.wait(20)
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
    monkeypatch.setattr("ushering_adze.engine.pool.AGAIN", 0.05)
    pool = SourcePool()
    card = Still(id="card", name="Card", path=str(tmp_path / "card.png"), when_lost=WhenLost(backup="red"))
    pool.set_show(Show(name="Late", sources=(card, ColourSource(id="red", name="Red", fill="#C80000"))))
    pool.wait(10)
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
    pool.wait(10)
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
