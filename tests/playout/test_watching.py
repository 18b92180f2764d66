"""Walls that go out, and alarms of a show that runs: planted, found, and gone."""

from __future__ import annotations

import json
import shutil
import struct
import subprocess
from dataclasses import replace
from pathlib import Path

import av
import cv2
import numpy as np
import pytest

from ushering_adze.core.light.patterns import flat
from ushering_adze.core.onair.actions import Cut, Lift, Override, Recall, Route, SendFeed
from ushering_adze.core.picture.walls import CellNow, paint_cell
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Feed, Show, Still
from ushering_adze.core.show.alarm import AlarmRule, Alarms
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.show.sound import LISTEN
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.show.walling import with_wall, with_wall_source, without_wall
from ushering_adze.core.sound.levels import RATE
from ushering_adze.core.sound.mixing import Finish
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.io.media.captions import captions_of
from ushering_adze.io.sound.mixing import NOTHING, SoundMixing
from ushering_adze.playout import Playout
from ushering_adze.playout.memory import Memory
from ushering_adze.playout.report import Report
from waiting import PATIENCE, wait_for

CELLS = (
    WallCell(x=0, y=0, shows="source", of="slides", data=True, frame="4:3"),
    WallCell(x=1, y=0, shows="mix", of="hall"),
    WallCell(x=2, y=0, shows="preview", of="meridian"),
    WallCell(x=0, y=1, shows="source", of="slides", scope="waveform"),
    WallCell(x=1, y=1, shows="player", of="star-trails"),
    WallCell(x=2, y=1, shows="text", label="Camera two: no red"),
    WallCell(x=0, y=2, shows="feed", of="rec"),
    WallCell(x=1, y=2, shows="output", of="relay"),
    WallCell(x=2, y=2, shows="clock"),
)


def watched(tmp_path: Path) -> Show:
    wall = Wall(id="w", name="Desk", columns=3, rows=3, width=960, height=540, cells=CELLS)
    feed = Feed(id="rec", name="Seen", shows="wall", of="w", to=str(tmp_path / "seen.mp4"))
    show, id = with_wall_source(with_wall(demo_show(), wall), "w")
    assert id == "wall-desk"
    return show.model_copy(update={"feeds": (feed,)})


def test_a_wall_goes_out_on_a_surface_and_as_a_recording(tmp_path: Path) -> None:
    show = watched(tmp_path)
    assert list(faults_of(show)) == []
    assert with_wall_source(show, "w")[0] is show, "it is one source, however often it is asked for"
    assert list(faults_of(without_wall(show, "w"))), "a wall that is sent is not taken away unseen"
    reports: list[Report] = []
    playout = Playout(show, reports.append, devices=False)
    playout.start(wait=PATIENCE)
    try:
        playout.act(Override(surfaces=("relay",), shows="source", source="wall-desk", by="a test"))
        playout.act(SendFeed(feed="rec"))
        assert wait_for(lambda: "w" in playout._engine._pool.walls)
        assert wait_for(lambda: bool(reports) and any(f.sent > 10 for f in reports[-1].feeds if f.feed == "rec"))

        def sent() -> bool:
            """The relay is the wall, as it was painted lately."""
            raster, painted = playout.raster("relay"), playout._walls.painted_of("w")
            if raster is None or painted is None:
                return False
            quarter = painted.pixels[::3, ::3, :3].astype(int)
            here = raster[: 540 * 4 // 3 : 4, : 960 * 4 // 3 : 4, :3].astype(int)
            return here.shape == quarter.shape and float(np.abs(here - quarter).mean()) < 12

        assert wait_for(sent)
        playout.act(SendFeed(feed="rec", on=False))
        playout.act(Lift(surfaces=("relay",)))
        assert wait_for(lambda: playout._walls.wanted == frozenset())
        assert wait_for(lambda: not playout._walls._walls), "nothing is painted that nobody sees"
    finally:
        playout.stop()
    with av.open(str(tmp_path / "seen.mp4")) as made:
        last = [f.to_ndarray(format="bgr24") for f in made.decode(video=0)][-1]
    assert last.shape == (540, 960, 3) and last[:180, :320].std() > 20, "the slides are in the first cell"


def test_an_alarm_is_planted_found_and_gone() -> None:
    """A mix that is far too loud: the alarm comes, is known, and goes when it is turned down."""
    show = demo_show()
    soon = Alarms(rules=(AlarmRule(kind="loud", seconds=0.0, limit=-30.0),))
    reports: list[Report] = []
    playout = Playout(show.model_copy(update={"alarms": soon}), reports.append, devices=False)
    playout.start(wait=PATIENCE)
    try:
        playout.act(Recall(preset=6, seconds=0))

        def keys() -> dict[str, bool]:
            return {t.key: t.acknowledged for t in reports[-1].troubles}

        assert wait_for(lambda: bool(reports) and "loud:relay" in keys())
        trouble = next(t for t in reports[-1].troubles if t.key == "loud:relay")
        assert (trouble.on, trouble.name) == ("mix", "Relay") and trouble.cure == "turn it down"
        playout.snooze("loud:relay", 0.5)
        assert wait_for(lambda: not playout._snoozed and keys().get("loud:relay") is False), "after a while it is new"
        playout.snooze("loud:relay", 0.5)
        playout.acknowledge("loud:relay")
        assert not playout._snoozed, "who knows of it for good is not told again"
        assert wait_for(lambda: keys().get("loud:relay") is True)
        quiet = show.sound.model_copy(
            update={"mixes": tuple(m.model_copy(update={"level": -60.0}) for m in show.sound.mixes)}
        )
        playout.edit(show.model_copy(update={"alarms": soon, "sound": quiet}))
        assert wait_for(lambda: not any(k.startswith("loud:") for k in keys()))
    finally:
        playout.stop()


def test_what_is_asked_for_is_what_is_painted_in_every_preset() -> None:
    """Worked out from the recalled state on one side, read from what rasters were painted from on the other."""
    show = demo_show()
    reports: list[Report] = []
    playout = Playout(show, reports.append, devices=False)
    playout.start(wait=PATIENCE)
    try:
        for preset in show.presets:
            playout.act(Recall(preset=preset.number, seconds=0))

            def settled(number: int = preset.number) -> bool:
                report = reports[-1] if reports else None
                if report is None or report.stage.on_program != number or report.moving:
                    return False
                asked = playout._alarming._asked(report.stage)
                return bool(asked) and all(set(ids) <= set(report.surfaces[s].source_ids) for s, ids in asked.items())

            assert wait_for(settled), preset.name
        assert playout._alarming._asked(reports[-1].stage).keys() == {s.id for s in show.surfaces}
    finally:
        playout.stop()


def test_the_operator_is_called_while_something_grave_is_new(tmp_path: Path) -> None:
    """In what is listened to alone; the alarm keeps the picture of its moment, and is in the log of the day."""
    show = demo_show()
    black = Alarms(calls=True, rules=(AlarmRule(kind="flat", seconds=0.0, grade="picture"),))
    cv2.imwrite(str(tmp_path / "plain.png"), np.full((36, 64, 3), (0x60, 0x40, 0x20), np.uint8))
    plain = Still(id="plain", name="Plain", path=str(tmp_path / "plain.png"))
    show = show.model_copy(update={"alarms": black, "sources": (*show.sources, plain)})
    reports: list[Report] = []
    playout = Playout(show, reports.append, devices=False)
    playout.keep_as_run(tmp_path)
    playout.start(wait=PATIENCE)
    try:
        playout.act(Recall(preset=6, seconds=0))
        calm = lambda: not playout.sound.ordering.calls  # noqa: E731
        assert wait_for(lambda: bool(reports) and "relay" in reports[-1].surfaces and calm()), "all pictures are there"
        playout.act(Route(surface="relay", source="plain"))
        playout.act(Cut())
        assert wait_for(lambda: any(t.key == "flat:relay" for t in reports[-1].troubles))
        assert not calm()
        moment = playout.moment_of("flat:relay")
        assert moment is not None and moment.shape[1] == 160
        assert tuple(int(v) for v in moment[10, 10, :3]) == (0x60, 0x40, 0x20)
        playout.acknowledge()
        assert wait_for(calm)
        assert wait_for(lambda: any(t.acknowledged for t in reports[-1].troubles))
    finally:
        playout.stop()
    lines = [json.loads(line) for file in tmp_path.glob("*.jsonl") for line in file.read_text().splitlines()]
    assert any(line["surface"] == "Relay" and line["state"] == "alarm" for line in lines)
    mixing = SoundMixing(0.0, devices=False)
    try:
        mixing.follow(NOTHING._replace(finishes={"m": Finish(), LISTEN: Finish()}, calls=True))
        mixed = [mixing.mix_block()[0] for _ in range(100)]
    finally:
        mixing.close()
    heard = np.concatenate([m[LISTEN] for m in mixed])[:, 0]
    assert not any(m["m"].any() for m in mixed), "the house hears nothing of it"
    assert np.abs(heard[: RATE // 10]).max() > 0.1 and not heard[RATE // 2 : 2 * RATE - RATE // 2].any()


def test_what_surfaces_showed_is_remembered_for_a_quarter_of_an_hour() -> None:
    """The clock is handed in: a picture a second, the oldest go, what stands takes no room twice."""
    now, show = [1000.0], demo_show()
    memory = Memory(lambda: now[0], kept=30)
    made: list[Report] = []
    playout = Playout(show, made.append, devices=False)
    playout.start(wait=PATIENCE)
    try:
        playout.act(Recall(preset=1, seconds=0))
        assert wait_for(lambda: bool(made) and made[-1].program.keys() >= {"relay", "meridian"})
        report = made[-1]
    finally:
        playout.stop()
    assert memory.span() is None and memory.at(0) is None
    for n in range(50):
        now[0] = 1000.0 + n
        memory.follow(report)
        memory.follow(report)
    assert memory.span() == (1020.0, 1049.0)
    assert memory.bytes < 400_000, "it stood still"
    red = {id: np.full_like(p, (0, 0, 255, 255)) for id, p in report.program.items()}
    now[0] = 1050.0
    memory.follow(replace(report, program=red))
    before, after = memory.at(1049.5), memory.at(5000.0)
    assert before is not None and after is not None and (before.at, after.at) == (1049.0, 1050.0)
    small, was = before.pictures["meridian"], report.program["meridian"]
    assert small.shape[1] <= 320 and abs(float(small[..., :3].mean()) - float(was[..., :3].mean())) < 4
    assert after.pictures["relay"][..., 2].mean() > 240 and after.pictures["relay"][..., 0].mean() < 20
    assert memory.at(0.0).at == 1021.0  # type: ignore[union-attr]
    assert before.words["relay"] == " + ".join(report.surfaces["relay"].sources)


SRT = """1
00:00:00,500 --> 00:00:01,500
Good evening, night assistants.

2
00:00:01,200 --> 00:00:02,800
<i>The roof</i> opens by hand.
Two lines here.
"""


@pytest.mark.skipif(shutil.which("ffmpeg") is None, reason="FFmpeg's own program makes the files")
@pytest.mark.parametrize(("codec", "name"), [("mov_text", "a.mp4"), ("ass", "a.mkv"), ("webvtt", "b.mkv")])
def test_captions_of_a_clip_are_read_and_drawn(tmp_path: Path, codec: str, name: str) -> None:
    """Written by FFmpeg, read back: the same words at the same moments, in a box at the foot of the picture."""
    (tmp_path / "c.srt").write_text(SRT)
    path = tmp_path / name
    picture = ["-f", "lavfi", "-i", "color=gray:size=320x180:rate=25:duration=3"]
    command = ["ffmpeg", "-v", "error", *picture, "-i", str(tmp_path / "c.srt"), "-c:v", "mpeg4", "-c:s", codec]
    subprocess.run([*command, str(path)], check=True)
    captions = captions_of(path)
    assert captions.fault is None
    assert captions.at(0.2) == "" and captions.at(0.7) == "Good evening, night assistants."
    both = ["Good evening, night assistants.", "The roof opens by hand.", "Two lines here."]
    # In MP4 one caption ends where the next begins (3GPP TS 26.245); in Matroska both are there.
    assert captions.at(1.3).splitlines() == (both[1:] if codec == "mov_text" else both)
    assert captions.at(2.0).splitlines() == ["The roof opens by hand.", "Two lines here."] and captions.at(2.9) == ""
    raster = np.zeros((240, 320, 4), np.uint8)
    grey = np.full((180, 320, 4), 128, np.uint8)
    paint_cell(raster, Rect(0, 0, 320, 240), CellNow(grey, "A", caption=captions.at(2.0)))
    dark = np.argwhere((raster[:200, 60:260, :3] == 0).all(-1))
    assert len(dark) > 500 and dark[:, 0].min() > 120, "a box at the foot"


def _pgs(at: float, number: int, box: tuple[int, int, int, int] | None) -> bytes:
    """A page of bitmap captions of 1280 × 720: a box, black, white in its middle half; an empty one without a box."""

    def segment(kind: int, data: bytes) -> bytes:
        return b"PG" + struct.pack(">IIBH", round(at * 90000), 0, kind, len(data)) + data

    head = struct.pack(">HHBHBBBB", 1280, 720, 0x10, number, 0x80 if box else 0, 0, 0, 1 if box else 0)
    if box is None:
        return segment(0x16, head) + segment(0x80, b"")
    x, y, w, h = box
    page = segment(0x16, head + struct.pack(">HBBHH", 0, 0, 0, x, y))
    page += segment(0x17, struct.pack(">BBHHHH", 1, 0, x, y, w, h))
    page += segment(0x14, bytes([0, 0, 1, 235, 128, 128, 255, 2, 16, 128, 128, 255]))
    rows = [1 if h // 4 <= row < h * 3 // 4 else 2 for row in range(h)]
    drawn = b"".join(bytes([0, 0xC0 | w >> 8, w & 255, code, 0, 0]) for code in rows)
    page += segment(
        0x15, struct.pack(">HBB", 0, 0, 0xC0) + (len(drawn) + 4).to_bytes(3, "big") + struct.pack(">HH", w, h) + drawn
    )
    return page + segment(0x80, b"")


@pytest.mark.parametrize("carried", ["mkv", "ts"])
def test_captions_that_are_bitmaps_lie_where_ffmpeg_lays_them(carried: str, tmp_path: Path) -> None:
    """PGS in Matroska, and DVB subtitles that FFmpeg makes of it in a transport stream."""
    first, second = (320, 600, 640, 60), (100, 80, 200, 40)
    pages = _pgs(1, 0, first) + _pgs(2, 1, None) + _pgs(3, 2, second) + _pgs(3.5, 3, None)
    (tmp_path / "a.sup").write_bytes(pages)
    film, path = tmp_path / "film.mkv", tmp_path / f"film.{carried}"
    ffmpeg = ["ffmpeg", "-y", "-v", "error"]
    grey = ["-f", "lavfi", "-i", "color=0x404040:s=1280x720:r=25:d=5"]
    coded = ["-map", "0:v", "-map", "1:s", "-c:v", "libx264", "-preset", "ultrafast", "-c:s", "copy"]
    subprocess.run([*ffmpeg, *grey, "-i", str(tmp_path / "a.sup"), *coded, str(film)], check=True)
    if carried == "ts":
        made = ["-fix_sub_duration", "-i", str(film), "-map", "0", "-c:v", "copy", "-c:s", "dvbsub", str(path)]
        subprocess.run([*ffmpeg, *made], check=True)
    captions = captions_of(path)
    assert captions.fault is None and len(captions.lines) == 2
    spans = [(c.begins, c.ends) for c in captions.lines]
    assert spans == [pytest.approx((0.0, 1.0), abs=0.05), pytest.approx((2.0, 2.5), abs=0.05)]
    assert not any(captions.readable(1.5)), "a page without anything ends the one before"
    for seconds in (0.5, 2.25):
        seen = tmp_path / f"{seconds}.png"
        laid = ["-i", str(path), "-filter_complex", f"[0:v][0:s]overlay,trim={seconds}", "-frames:v", "1", str(seen)]
        subprocess.run([*ffmpeg, *laid], check=True)
        theirs = np.asarray(cv2.imread(str(seen)), np.int16)
        (bitmap,) = captions.readable(seconds).bitmaps
        for width, height in ((1280, 720), (320, 180)):
            ours = flat(width, height, 64, 64, 64)
            bitmap.lay(ours)
            small = cv2.resize(theirs.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA)
            assert np.abs(ours[..., :3] - small).max() < (6 if width == 1280 else 40), "coded colours, and small edges"
            assert np.abs(ours[..., :3] - small).mean() < 0.5
    raster = np.zeros((200, 330, 4), np.uint8)
    paint_cell(raster, Rect(0, 0, 330, 200), CellNow(flat(320, 180, 64, 64, 64), over=captions.readable(2.25).bitmaps))
    assert raster[:100, :160, :3].max() > 220 and raster[100:170, :, :3].max() < 100


def test_captions_that_are_damaged_or_none_are_told_and_stop_nothing(tmp_path: Path) -> None:
    none = tmp_path / "none.mp4"
    none.write_bytes(b"nothing" * 50)
    assert captions_of(none).at(1.0) == "" and "cannot be read" in (captions_of(none).fault or "")
    demo = captions_of(DEMO_ROOT / "media" / "orrery.mp4")
    assert demo.lines == () and demo.fault is None
