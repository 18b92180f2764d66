"""Playlists in their orders, and sources put together from parts of one moment."""

from __future__ import annotations

import itertools
from collections import Counter
from pathlib import Path

import av
import cv2
import numpy as np
import pytest

from ushering_adze.core.onair.playing import Playing
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.numbered import number_in
from ushering_adze.core.show import (
    ColourSource,
    Dress,
    FillKey,
    Input,
    Parts,
    Playlist,
    PlaylistItem,
    Show,
    ShowError,
    SourcePicture,
    Still,
    Text,
    Watch,
    WhenLost,
    show_from_document,
)
from ushering_adze.core.show.show import document_of
from ushering_adze.engine.parts import in_step, put_together
from ushering_adze.engine.pool import SourcePool
from ushering_adze.io.media import open_player
from ushering_adze.io.media import playlist as playing
from ushering_adze.io.media.live import Held
from ushering_adze.io.media.playlist import PlaylistPlayer, order_of, placed_in
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed
from waiting import wait_for


def still(folder: Path, name: str, code: int, size: tuple[int, int] = (64, 36)) -> str:
    cv2.imwrite(str(folder / name), np.full((size[1], size[0], 3), code, np.uint8))
    return str(folder / name)


def film(path: Path, codes: list[int]) -> str:
    """Ten pictures a second, each of one grey."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=10, options={"crf": "1"})
        stream.width, stream.height, stream.pix_fmt = 64, 36, "yuv420p"
        for code in codes:
            planes = np.full((54, 64), 128, np.uint8)  # ITU-R BT.709, limited range: grey is 16 + 219 · code / 255
            planes[:36] = round(16 + 219 * code / 255)
            frame = av.VideoFrame.from_ndarray(planes, format="yuv420p")
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return str(path)


def listed(*paths: str, **more: object) -> Playlist:
    items = tuple(PlaylistItem(path=p) for p in paths)
    return Playlist(id="l", name="Loop", items=items, width=64, height=36, **more)


def grey(player: PlaylistPlayer, seconds: float) -> int:
    return int(np.median(player.exact(seconds).pixels[..., 0]))


def test_clips_take_their_length_and_stills_the_lists(tmp_path: Path) -> None:
    a, b = still(tmp_path, "a.png", 40), still(tmp_path, "b.png", 200)
    clip = film(tmp_path / "c.mp4", [100] * 10)
    player = open_player(listed(a, clip, b, seconds=3.0))
    assert isinstance(player, PlaylistPlayer)
    seen = [grey(player, t) for t in (0, 2.9, 3.1, 3.9, 4.1, 6.9, 7.1, 10.2)]
    assert np.abs(np.array(seen) - (40, 40, 100, 100, 200, 200, 40, 100)).max() <= 3
    assert grey(player, 0.5) == 40, "and back to the start"
    player.close()
    own = Playlist(id="l", name="L", width=64, height=36, items=(PlaylistItem(path=a, seconds=1), PlaylistItem(path=b)))
    player = open_player(own)
    assert [grey(player, t) for t in (0.9, 1.1, 8.9, 9.1)] == [40, 200, 200, 40]


def test_one_goes_over_into_the_next(tmp_path: Path) -> None:
    player = open_player(listed(still(tmp_path, "a.png", 0), still(tmp_path, "b.png", 200), seconds=4.0, dissolve=2.0))
    levels = [grey(player, t) for t in (1.9, 2.5, 3.0, 3.5, 3.95)]
    assert np.abs(np.array(levels) - (0, 50, 100, 150, 195)).max() <= 1, "the sum of both shares is one"
    player.close()


def test_an_item_ends_as_it_says(tmp_path: Path) -> None:
    clip, b = film(tmp_path / "c.mp4", [60] * 5 + [120] * 5), still(tmp_path, "b.png", 200)
    for end, later in (("hold", 120), ("loop", 60), ("next", 200)):
        items = (PlaylistItem(path=clip, end=end), PlaylistItem(path=b))
        player = open_player(Playlist(id="l", name="L", width=64, height=36, items=items))
        assert abs(grey(player, 1.2) - later) <= 3, end
        player.close()
    wide = still(tmp_path, "wide.png", 90, (128, 36))
    for fit, edge in (("fit", 0), ("fill", 90), ("stretch", 90)):
        one = Playlist(id="l", name="L", width=64, height=36, items=(PlaylistItem(path=wide, fit=fit),))
        made = open_player(one).exact(0.0)
        assert made.pixels.shape == (36, 64, 4) and made.pixels[0, 0, 0] == edge and made.opaque == (fit != "fit")
    assert placed_in(np.full((36, 64, 4), 9, np.uint8), 64, 36, "fit").shape == (36, 64, 4)


def test_shuffled_is_each_once_before_any_again_and_weights_are_kept() -> None:
    items = tuple(PlaylistItem(path=str(n), weight=1 + 2 * (n == 0)) for n in range(5))
    drawn = list(itertools.islice(order_of(items, "shuffled", "s"), 50))
    for k in range(0, 50, 5):
        assert len({i.path for i in drawn[k : k + 5]}) == 5
    assert all(a.path != b.path for a, b in itertools.pairwise(drawn)), "none twice in a row"
    assert drawn == list(itertools.islice(order_of(items, "shuffled", "s"), 50)), "the same each time"
    assert len({tuple(i.path for i in drawn[k : k + 5]) for k in range(0, 50, 5)}) > 3
    counts = Counter(i.path for i in itertools.islice(order_of(items, "weighted", "s"), 7000))
    assert counts["0"] / 7000 == pytest.approx(3 / 7, abs=0.03)


def test_a_watched_folder_takes_files_while_it_plays(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(playing, "LOOK", 0.0)
    still(tmp_path, "1.png", 40)
    (tmp_path / "note.txt").write_text("no picture")
    player = open_player(Playlist(id="l", name="L", width=64, height=36, folder=str(tmp_path), seconds=1.0))
    assert isinstance(player, PlaylistPlayer)

    def level(t: float) -> int:
        return int(player.frame(t).pixels[0, 0, 0])

    assert [level(t) for t in (0.5, 1.5, 2.5)] == [40, 40, 40]
    still(tmp_path, "2.png", 80)
    assert {level(t) for t in (3.5, 4.5, 5.5, 6.5)} == {40, 80}
    (tmp_path / "1.png").unlink()
    assert {level(t) for t in (8.5, 9.5, 10.5)} == {80}
    (tmp_path / "2.png").write_bytes(b"cut off")
    still(tmp_path, "3.png", 120)
    levels = [level(t) for t in (13.5, 14.5, 15.5, 16.5)]
    assert 120 in levels, "what cannot be read costs itself"
    player.close()


def test_a_list_with_nothing_in_it_is_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match="give it items, or a folder"):
        Playlist(id="l", name="L")
    empty = open_player(Playlist(id="l", name="L", folder=str(tmp_path)))
    assert empty.fault is not None and "nothing to play in it" in empty.fault
    gone = open_player(Playlist(id="l", name="L", folder=str(tmp_path / "gone")))
    assert gone.fault is not None and "no folder gone" in gone.fault


# -- parts -------------------------------------------------------------------------------------------------------------


def picture(code: int, serial: int = 1) -> Frame:
    made = np.full((10, 20, 4), code, np.uint8)
    made[..., 3] = 255
    return Frame(made, serial)


def test_parts_lie_in_their_grid_each_with_its_key() -> None:
    names = ("a", "b", "c", "d")
    grid = Parts(id="p", name="P", columns=2, rows=2, parts=names, overlap_px=4, overlap_down_px=2)
    made = put_together(grid, [picture(10 * n) for n in range(1, 5)], [])
    assert made is not None and made.pixels.shape == (18, 36, 4) and made.opaque
    assert [made.pixels[y, x, 0] for y, x in ((0, 0), (0, 35), (17, 0), (17, 35))] == [10, 20, 30, 40]
    keyed = Parts(id="p", name="P", parts=("a", "b"), keys=("c", "d"))
    made = put_together(keyed, [picture(100), picture(200)], [picture(255), picture(0)])
    assert made is not None and made.pixels[0, 0].tolist() == [100, 100, 100, 255] and made.pixels[0, 30, 3] == 0
    half = put_together(keyed.model_copy(update={"keys": ()}), [picture(100), None], [])
    assert half is not None and not half.opaque and half.pixels[0, 30, 3] == 0
    for wrong, words in (({"parts": ("a",)}, "are 2 sources, not 1"), ({"keys": ("c",)}, "have 2 keys or none")):
        with pytest.raises(ValueError, match=words):
            Parts(**{**keyed.model_dump(), **wrong})
    show = Show(name="S", sources=(Parts(id="p", name="P", parts=("p", "x")),))
    with pytest.raises(ShowError, match="no source"):
        show_from_document(document_of(show))


def test_pictures_made_exactly_have_keys_parts_and_pages(tmp_path: Path) -> None:
    """As `adze render` and `adze act` make them: what a source is made of is opened with it."""
    grey, white = (
        Still(id=id, name=id, path=still(tmp_path, f"{id}.png", code)) for id, code in (("a", 100), ("b", 255))
    )
    half = Still(id="k", name="K", path=still(tmp_path, "k.png", 128))
    keyed = grey.model_copy(update={"id": "f", "picture": SourcePicture(key=FillKey(source="k"))})
    both = Parts(id="p", name="P", parts=("f", "b"))
    text = Text(id="t", name="T", words="One\n\nTwo", dress=Dress(width=64, height=36, size=20, smallest=6))
    strip = Text(id="u", name="U", follows="t", dress=text.dress)
    show = Show(name="S", sources=(grey, white, half, keyed, both, text, strip))
    assert show.leading_to({"p"}) == {"p", "f", "b", "k"} and show.made_of({"p"}) == {"p", "f", "b", "k"}
    assert show.leading_to({"u"}) == {"u", "t"}
    pool = SourcePool()
    try:
        pool.set_show(show)
        found = pool.exact(["p", "t", "u"], 12.0)
        assert found["p"].pixels.shape == (36, 128, 4)
        assert found["p"].pixels[5, 5].tolist() == [50, 50, 50, 128] and found["p"].pixels[5, 100].tolist() == [255] * 4
        assert np.array_equal(found["t"].pixels, found["u"].pixels) and found["t"].pixels.any(), "at the first page"
        pool.follow({"t": Playing(1.0)}, 0.0)
        turned = pool.exact_now(["t", "u"])
        assert np.array_equal(turned["t"].pixels, turned["u"].pixels)
        assert not np.array_equal(turned["t"].pixels, found["t"].pixels)
    finally:
        pool.close()


def test_the_newest_moment_that_all_parts_have() -> None:
    frames = {n: picture(1, n) for n in range(20)}
    ahead = [Held(n * 0.04 + 0.5, n * 0.04, frames[n]) for n in range(4, 10)]
    behind = [Held(n * 0.04 + 0.58, n * 0.04, frames[n]) for n in range(2, 8)]
    found = in_step({"a": ahead, "b": behind})
    assert found["a"] is found["b"] is frames[7]
    unstamped = [h._replace(stamp=None) for h in behind]
    found = in_step({"a": [h._replace(stamp=None) for h in ahead], "b": unstamped})
    assert found["b"] is frames[7] and abs(found["a"].serial - 9) <= 1, "by when they came"
    assert in_step({"a": []}) == {}
    assert in_step({"a": ahead[3:], "b": behind[:3]}) == {}, "no moment that both have"


def test_two_parts_over_the_network_are_of_one_frame_while_one_is_delayed() -> None:
    """Numbers burnt in by the stand-ins, read from both halves of what is shown."""
    feeds = [StandinFeed(f"udp://127.0.0.1:{free_port()}", 320, 180, epoch=0.0) for _ in range(2)]
    for feed in feeds:
        feed.start()
    watch = Watch(missing=20)
    halves = [
        Input(id=id, name=f"Half {id}", address=feed.address, width=320, height=180, rate=25, watch=watch)
        for id, feed in zip("ab", feeds, strict=True)
    ]
    both = Parts(id="both", name="Both", parts=("a", "b"), when_lost=WhenLost(backup="slate"))
    slate = ColourSource(id="slate", name="Slate", fill="#204060")
    show = Show(name="S", sources=(*halves, both, slate))
    pool = SourcePool()
    try:
        pool.set_show(show)

        def numbers() -> tuple[int | None, int | None] | None:
            frame = pool.frames(["both"]).get("both")
            if frame is None or frame.pixels.shape != (180, 640, 4):
                return None
            return number_in(np.ascontiguousarray(frame.pixels[:, :320])), number_in(frame.pixels[:, 320:].copy())

        assert wait_for(lambda: (n := numbers()) is not None and None not in n)
        assert feeds[1].tell("delay 2") == "ok delay 2"
        seen: list[tuple[int, int]] = []

        def new() -> bool:
            n = numbers()
            if n is not None and n[0] is not None and n[1] is not None and (not seen or seen[-1] != n):
                seen.append((n[0], n[1]))
            return len(seen) >= 300

        assert wait_for(new)
        assert [a for a, _ in seen] == [b for _, b in seen], "300 of 300"
        pool.set_show(show.model_copy(update={"sources": (*halves, both.model_copy(update={"loose": True}), slate)}))
        assert wait_for(lambda: pool.faults() == {})
        pool.set_show(show)
        quick = [h.model_copy(update={"watch": Watch(missing=3.0)}) for h in halves]
        pool.set_show(show.model_copy(update={"sources": (*quick, both, slate)}))
        feeds[1].tell("stop")
        assert wait_for(lambda: pool.frames(["both"])["both"].origin == "slate")
        assert "of its parts Half b is lost; Slate stands in for it" in pool.faults()["both"]
    finally:
        for feed in feeds:
            feed.tell("quit")
        pool.close()
