"""Clips between their in and out points, what they do at their end, and clips that rest far from the air."""

from __future__ import annotations

from collections.abc import Iterator

import av
import numpy as np
import pytest

from ushering_adze.core.onair.actions import Loop, Pause, Play, Route, To, apply
from ushering_adze.core.onair.playing import Playing, fresh
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.transport import place_of, span_of
from ushering_adze.core.picture.numbered import number_in, put_number
from ushering_adze.core.show import Clip, Show
from ushering_adze.demo.show import demo_show
from ushering_adze.engine import pool as pools
from ushering_adze.engine.pool import SourcePool
from ushering_adze.io.media import open_player
from ushering_adze.io.media import player as players
from ushering_adze.io.media.player import ClipPlayer
from waiting import wait_for


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> str:
    """Ten seconds of ten pictures each, with their numbers."""
    path = tmp_path_factory.mktemp("film") / "n.mp4"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=10, options={"crf": "20", "g": "10"})
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        for n in range(100):
            picture = np.full((180, 320, 4), 120, np.uint8)
            put_number(picture, n, str(n))
            container.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="bgra")))
        container.mux(stream.encode(None))
    return str(path)


def clip(film: str, **more: object) -> Clip:
    return Clip.model_validate({"id": "c", "name": "C", "path": film, **more})


@pytest.fixture
def pool() -> Iterator[SourcePool]:
    made = SourcePool()
    yield made
    made.close()


def shown(pool: SourcePool, show: Show, at: float, looping: bool | None = None) -> tuple[int | None, int]:
    """Number and brightest code of what a clip shows so many seconds after it came on."""
    source = show.source("c")
    pool.wait(300)
    pool.follow({"c": Playing(at, looping=fresh(source).looping if looping is None else looping)}, 0.0)
    frame = pool.exact_now(["c"])["c"]
    return number_in(frame.pixels), int(frame.pixels[..., :3].max())


@pytest.mark.parametrize(
    ("more", "at", "number", "lit"),
    [
        ({}, 3.05, 30, True),
        ({}, 13.05, 30, True),
        ({"begin": 2.0, "stop": 5.0}, 0.05, 20, True),
        ({"begin": 2.0, "stop": 5.0}, 3.15, 21, True),
        ({"begin": 2.0, "stop": 5.0, "at_end": "hold"}, 9.0, 49, True),
        ({"at_end": "hold"}, 99.0, 99, True),
        ({"begin": 2.0, "stop": 5.0, "at_end": "black"}, 2.95, 49, True),
        ({"begin": 2.0, "stop": 5.0, "at_end": "black"}, 3.0, None, False),
        ({"stop": 5.0, "at_end": "fade", "fade": 2.0}, 5.5, None, False),
        ({"stop": 5.0, "at_end": "next", "follow": "d"}, 5.25, 82, True),
    ],
)
def test_where_a_clip_is_and_what_it_shows_at_its_end(
    pool: SourcePool, film: str, more: dict[str, object], at: float, number: int | None, lit: bool
) -> None:
    following = Clip(id="d", name="D", path=film, begin=8.0, at_end="hold")
    show = Show(name="S", sources=(clip(film, **more), following))
    pool.set_show(show)
    found, brightest = shown(pool, show, at)
    assert found == number and (brightest > 100) == lit


def test_a_fade_at_the_end_is_even_and_keeps_its_alpha(pool: SourcePool, film: str) -> None:
    show = Show(name="S", sources=(clip(film, stop=5.0, at_end="fade", fade=2.0),))
    pool.set_show(show)
    codes = [shown(pool, show, t)[1] for t in (2.9, 3.5, 4.0, 4.5)]
    assert np.abs(np.array(codes[1:]) / codes[0] - (0.75, 0.5, 0.25)).max() < 0.03


def test_points_and_ends_are_pure_and_refuse_what_cannot_be(film: str) -> None:
    part = clip(film, begin=2.0, stop=5.0)
    assert span_of(part, 10.0) == 3.0 and span_of(clip(film, begin=2.0), 0.0) == 0.0
    assert place_of(part, Playing(1.0, since=5.0, speed=2.0), 10.0, 6.5).seconds == 3.0, "twice as fast: 4 s, modulo 3"
    with pytest.raises(ValueError, match="end before it begins"):
        clip(film, begin=5.0, stop=4.0)
    with pytest.raises(ValueError, match="give both or neither"):
        clip(film, at_end="next")


def test_what_is_set_has_effect_while_it_plays_and_being_taken_starts_it(film: str) -> None:
    demo = demo_show()
    show = demo.model_copy(update={"sources": (*demo.sources, clip(film, taken="starts-over"))})
    stage = Stage.opened(show)
    stage = apply(show, stage, Route(surface="lectern", source="c", on="program", seconds=0), 10.0)
    assert stage.player("c").position(12.5) == 2.5 and stage.player("c").looping
    held = show.model_copy(update={"sources": (*demo.sources, clip(film, at_end="hold"))})
    stage = stage.with_show(held, 13.0)
    assert not stage.player("c").looping and stage.player("c").position(13.0) == 3.0, "at once, without a stop"
    stage = apply(held, stage, Loop(source="c"), 13.5)
    assert stage.player("c").looping, "by hand it is again"
    away = Route(surface="lectern", source="notes", on="program", seconds=0)
    for taken, at in (("starts-over", 0.0), ("goes-on", 4.0)):
        again = show.model_copy(update={"sources": (*demo.sources, clip(film, taken=taken))})
        off = apply(again, stage.with_show(again, 14.0), away, 14.0)
        assert off.player("c").since is None
        on = apply(again, off, Route(surface="lectern", source="c", on="program", seconds=0), 20.0)
        assert on.player("c").position(20.0) == at, taken
    runs = show.model_copy(update={"sources": (*demo.sources, clip(film, runs_on=True))})
    off = apply(runs, stage.with_show(runs, 14.0), away, 14.0)
    assert off.player("c").position(20.0) == 10.0, "off air it goes on"
    fast = apply(runs, off, Play(source="c", speed=2.0), 20.0)
    assert apply(runs, apply(runs, fast, Pause(source="c"), 21.0), To(source="c", seconds=1.0), 22.0).player("c") == (
        Playing(1.0, None, 2.0, True, True)
    )


def test_a_clip_far_from_the_air_keeps_one_picture_and_no_decoder(film: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(players, "REST", 0.0)
    made = open_player(clip(film), near=False)
    assert isinstance(made, ClipPlayer) and made.resting and made.length == pytest.approx(10.0)
    first = made.frame(0.0)
    assert first is not None and number_in(first.pixels) == 0 and made.frame(0.0) is first
    made.near(False)
    assert wait_for(lambda: (made.near(False), made._kept._frame is None)[1]), "no more than its file's bytes"
    assert made.frame(0.0).serial == first.serial, "the same picture has the same serial"
    made.frame(4.0)
    made.near(True)
    assert wait_for(lambda: not made.resting)
    assert wait_for(lambda: (f := made.frame(4.05)) is not None and number_in(f.pixels) == 40), "from where it stands"
    made.near(False)
    assert wait_for(lambda: (made.near(False), made.resting)[1])
    assert number_in(made.frame(4.05).pixels) == 40, "and keeps the picture it stands on"
    made.close()
    made.join(20)


def test_only_what_is_shown_or_armed_is_near(film: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(players, "REST", 0.0)
    monkeypatch.setattr(pools, "WARM", 0)
    clips = tuple(clip(film, id=f"c{n}") for n in range(6))
    backed = clips[0].model_copy(update={"when_lost": clips[0].when_lost.model_copy(update={"backup": "c5"})})
    pool = SourcePool()
    try:
        show = Show(name="S", sources=(backed, *clips[1:]))
        pool.set_show(show, first={"c0"})
        pool.be_near(show.leading_to({"c0"}))
        pool.follow({}, 0.0)

        def awake() -> set[str]:
            pool.follow({}, 0.0)
            return {id for id, s in pool._slots.items() if isinstance(s.player, ClipPlayer) and not s.player.resting}

        assert wait_for(lambda: awake() == {"c0", "c5"}), "a backup is as near"
        pool.be_near({"c3"})
        assert wait_for(lambda: awake() == {"c3"})
        assert wait_for(lambda: len(pool.frames([c.id for c in clips])) == 6), "every one has a picture"
        monkeypatch.setattr(pools, "WARM", 2 * 320 * 180 * 4 * 7)
        monkeypatch.setattr(pools, "WARMED", 0.0)
        pool.be_near({"c3"})
        assert wait_for(lambda: awake() == {"c3", "c0", "c5"}), "and two that were near lately stay ready"
    finally:
        pool.close()


def test_clips_go_on_one_with_the_next_and_not_before(pool: SourcePool, film: str) -> None:
    """A chain of three, one second of each; what comes later does not run beside what is on air."""
    chain = tuple(
        clip(film, id=id, begin=at, stop=at + 1.0, at_end="next" if then else "hold", follow=then)
        for id, at, then in (("c", 0.0, "d"), ("d", 3.0, "e"), ("e", 6.0, None))
    )
    show = Show(name="S", sources=chain)
    pool.set_show(show)
    assert [shown(pool, show, t)[0] for t in (0.55, 1.25, 2.35, 9.0)] == [5, 32, 63, 69]
    demo = demo_show()
    whole = demo.model_copy(update={"sources": (*demo.sources, *chain)})
    stage = apply(whole, Stage.opened(whole), Route(surface="lectern", source="c", on="program", seconds=0), 10.0)
    assert "c" in stage.players and not {"d", "e"} & stage.players.keys()
    assert whole.leading_to({"c"}) == {"c", "d", "e"} and whole.made_of({"c"}) == {"c"}
