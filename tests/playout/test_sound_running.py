"""Sound of the running show: with its picture, in its mixes, through devices, files and streams."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.kinds.sound import LayerSound, layer_gain
from ushering_adze.core.onair.actions import Black, Cut, Mute, Override, Route, SendFeed, StagePreset, Take, apply
from ushering_adze.core.onair.hearing import heard, seen_by_mix
from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import (
    Canvas,
    Clip,
    Feed,
    Input,
    Layer,
    LayerSettings,
    Output,
    PatternSource,
    Picture,
    Preset,
    RectLanding,
    Region,
    Scope,
    Show,
    Stream,
    Timing,
    Touch,
    part_of,
)
from ushering_adze.core.show.sound import (
    LISTEN,
    Ducked,
    Listen,
    Mix,
    Send,
    ShowSound,
    SoundInput,
    SourceSound,
    sound_faults,
)
from ushering_adze.core.show.sounding import with_send, with_source_sound
from ushering_adze.core.sound.levels import RATE, Sound
from ushering_adze.core.sound.limiting import LATE
from ushering_adze.core.sound.mixing import Duck, Finish
from ushering_adze.core.sound.patterns import pattern_sound
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.io.media.still import MediaError
from ushering_adze.io.sound import device
from ushering_adze.io.sound.clip import ClipSound
from ushering_adze.io.sound.devices import DeviceIn, DeviceOut, devices
from ushering_adze.io.sound.mixing import SoundMixing
from ushering_adze.io.sound.orders import Given, Orders
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed
from ushering_adze.playout import Playout
from ushering_adze.playout.sound import BLOCK, LEAD, Ordering
from waiting import PATIENCE, wait_for

W, H = 64, 36


def one_surface(source: object, sound: ShowSound, **fields: object) -> Show:
    """A show with one surface that shows one source."""
    id = source.id  # type: ignore[attr-defined]
    layer = Layer(id="l", name="L", settings=LayerSettings(picture=Picture(source=id, fit="stretch")))
    region = Region(
        id="r", name="R", x=0, y=0, w=W, h=H, output="o", surface="s", landing=RectLanding(x=0, y=0, w=W, h=H)
    )
    return Show(
        name="S",
        rate=30,
        sources=(source,),
        canvases=(Canvas(id="c", name="C", width=W, height=H, layers=(layer,), regions=(region,)),),
        surfaces=(Stream(id="s", name="Hall", width=W, height=H),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=W, height=H, rate=30)),),
        sound=sound,
        **fields,
    )


HALL = ShowSound(mixes=(Mix(id="hall", name="Hall"),))
FLASH = PatternSource(id="flash", name="Flash", pattern="flash", width=W, height=H)


def begins(sound: Sound, level: float = 0.01) -> list[float]:
    """Seconds at which beeps begin."""
    loud = np.flatnonzero(np.abs(sound[:, 0]) > level)
    if not len(loud):
        return []
    return [
        float(n) / RATE
        for n, before in zip(loud, np.concatenate(([-RATE], loud[:-1])), strict=True)
        if n - before > 4800
    ]


@pytest.mark.parametrize("hours", [0.0, 10.0])
def test_a_flash_and_its_beep_leave_together(hours: float) -> None:
    """The clock is handed in: at the start and after ten hours, flash and beep leave within 10 ms of one another."""
    now = [0.0]
    engine = Engine(one_surface(FLASH, HALL), clock=lambda: now[0])
    ordering, mixing = Ordering(engine), SoundMixing(0.0, devices=False)
    try:
        engine._pool.wait(PATIENCE)
        engine._renderer.fill()
        engine._frame(0.0)
        first = round(hours * 3600 * 30)
        mixing.block = int(first / 30 * RATE / BLOCK)
        start, lit, mixed, before = mixing.moment, [], [], True
        for n in range(first, first + 100):
            now[0] = n / 30
            engine._frame(now[0])
            raster = engine.raster("o")
            assert raster is not None
            white = int(raster[H // 2, W // 2, 1]) > 128
            if white and not before:
                lit.append(now[0])
            before = white
            while mixing.moment < now[0] + LEAD:
                mixing.follow(ordering.orders(mixing.moment))
                mixed.append(mixing.mix_block()[0]["hall"])
        beeps = [start + s for s in begins(np.concatenate(mixed))]
        assert len(lit) >= 3
        for flash in lit:
            assert min(abs(flash - beep) for beep in beeps) < 0.010
    finally:
        mixing.close()
        engine._pool.close()


def stage_of(show: Show, number: int) -> Stage:
    preset = show.preset(number)
    assert preset is not None
    motion = recall(show, opening_motion(show), preset, 0.0, cut=True)
    return Stage(show, motion, number)


def test_sound_follows_picture() -> None:
    """Each mix hears what is seen on its surfaces, by opacity, level and send."""
    show = demo_show()
    stage = stage_of(show, 6)
    state = stage.program.at(9.0)
    told = heard(stage, state)
    assert set(told) == {"hall", "foyer", "relay", LISTEN}
    assert set(told["hall"]) >= {"aisle-camera", "star-trails", "orrery"} and "line-up" not in told["hall"]
    assert "orrery" not in told["relay"], "the masts are not on the stream"
    assert told["hall"]["star-trails"] == pytest.approx(10 ** (-6 / 20), rel=1e-3)
    assert told[LISTEN] == {}
    assert heard(stage, state, "orrery")[LISTEN] == {"orrery": pytest.approx(10 ** (-6 / 20))}
    assert set(heard(stage, state, "hall")[LISTEN]) == set(told["hall"])


def test_what_is_forced_on_a_surface_is_heard_in_place_of_its_layers() -> None:
    show = demo_show()
    stage = stage_of(show, 6)
    state = stage.program.at(9.0)
    assert "aisle-camera" in heard(stage, state)["relay"]
    forced = apply(show, stage, Override(surfaces=("relay",), shows="source", source="orrery"), 9.0)
    assert set(heard(forced, state)["relay"]) == {"orrery"} and "aisle-camera" in heard(forced, state)["hall"]
    dark = apply(show, stage, Override(surfaces=("relay",), shows="black"), 9.0)
    assert heard(dark, state)["relay"] == {}, "who sees nothing hears nothing"
    still = apply(show, stage, Override(surfaces=("relay",), shows="hold"), 9.0)
    assert heard(still, state)["relay"] == heard(stage, state)["relay"], "a held picture goes on sounding"


def test_a_layer_says_how_loud_and_where_and_fades_like_all_else() -> None:
    show = one_surface(FLASH, ShowSound(mixes=(Mix(id="hall", name="Hall"), Mix(id="bar", name="Bar"))))
    layer = show.canvases[0].layers[0]
    at = {("c", "l"): opening_motion(show).target["c", "l"]}
    quiet = LayerSound(level=-20, mixes=("hall",))
    for value, hall, bar in (
        (LayerSound(), 1.0, 1.0),
        (quiet, 0.1, 0.0),
        (Mixed(LayerSound(), quiet, 0.5), 0.55, 0.5),
        (LayerSound(mute=True), 0.0, 0.0),
    ):
        state = {("c", layer.id): at["c", layer.id]._replace(sound=value, opacity=0.5)}
        seen = seen_by_mix(show, state)
        assert seen["hall"].get("flash", 0.0) == pytest.approx(0.5 * hall)
        assert seen["bar"].get("flash", 0.0) == pytest.approx(0.5 * bar)


def test_others_give_way_only_where_it_is_heard() -> None:
    """A tone in one mix turns the noise down there, and in no other."""
    given = {id: Given(None, (1, 2), pattern, -20.0) for id, pattern in (("voice", "tone"), ("music", "pink"))}
    matrix = {"hall": {"voice": 1.0, "music": 1.0}, "foyer": {"music": 1.0}}
    duck = Duck("voice", depth=40.0, attack=0.005)
    ways = dict.fromkeys(matrix, (None, 1, 2))
    mixing = SoundMixing(0.0, devices=False)
    mixing.follow(Orders(matrix, {}, frozenset(), given, {m: Finish() for m in matrix}, ways, ((duck, None),)))
    for _ in range(20):
        mixed = mixing.mix_block()[0]
    mixing.close()
    hall, foyer = mixed["hall"], mixed["foyer"]
    noise = pattern_sound("pink", 0, BLOCK, -20.0)
    assert float(np.abs(foyer).max()) > 0.3 * float(np.abs(noise).max()), "nobody speaks in the foyer"
    left = hall[:, 0] - pattern_sound("tone", 19 * BLOCK - LATE, BLOCK, -20.0)[:, 0]
    assert float(np.abs(left).max()) < 0.05 * float(np.abs(noise).max()), "in the hall it is 40 dB down"


def test_a_line_follows_its_picture_in_one_mix_and_not_in_another() -> None:
    """*picture*, *always* and *never* by mix; as ever is as in all others, and is not written."""
    show = demo_show()
    stage = stage_of(show, 6)
    state = stage.program.at(9.0)
    assert heard(stage, state)["hall"].get("aisle-camera"), "it is on air there"

    def gains(made: Show) -> dict[str, bool]:
        told = heard(stage_of(made, 6), state)
        return {mix: bool(told[mix].get("aisle-camera")) for mix in ("hall", "foyer", "relay")}

    assert gains(show) == {"hall": True, "foyer": False, "relay": True}
    on = with_send(show, "aisle-camera", "foyer", heard="always")
    assert gains(on) == {"hall": True, "foyer": True, "relay": True} and "aisle-camera" in on.sound.always
    off = with_send(on, "aisle-camera", "relay", heard="never")
    assert gains(off) == {"hall": True, "foyer": True, "relay": False}
    assert gains(with_source_sound(off, "aisle-camera", heard="never")) == {
        "hall": False,
        "foyer": True,
        "relay": False,
    }
    follows = with_send(with_source_sound(show, "aisle-camera", heard="never"), "aisle-camera", "hall", heard="picture")
    assert gains(follows) == {"hall": True, "foyer": False, "relay": False}
    back = with_send(with_send(off, "aisle-camera", "relay", heard="as ever"), "aisle-camera", "foyer", heard="as ever")
    assert back.sound == show.sound


def test_a_source_is_measured_by_channel_though_nobody_hears_it() -> None:
    mixing = SoundMixing(0.0, devices=False)
    given = {"desk": Given(None, (1, 2), "left-right", -12.0)}
    quiet = Orders({"hall": {}}, {}, frozenset(), given, {"hall": Finish()}, {"hall": (None, 1, 2)})
    mixing.follow(quiet)
    mixed = mixing.mix_block()[0]
    assert "desk" not in mixing.told({}).levels
    mixing.follow(quiet._replace(metered=frozenset({"desk"})))
    seen: set[tuple[bool, ...]] = set()
    for _ in range(12 * RATE // BLOCK):
        mixed = mixing.mix_block()[0]
        channels = mixing.told({}).levels["desk"].channels
        assert len(channels) == 2 and max(channels) <= -11.9
        seen.add(tuple(level > -13 for level in channels))
    mixing.close()
    assert {(True, False), (False, True)} <= seen, "left alone, and right alone"
    assert not mixed["hall"].any(), "and nobody hears it"


def test_mixes_are_made_silent_and_heard_again() -> None:
    show = demo_show()
    stage = stage_of(show, 6)
    state = stage.program.at(9.0)
    one = apply(show, stage, Mute(mixes=("hall",)), 9.0)
    assert not heard(one, state)["hall"] and heard(one, state)["relay"]
    every = apply(show, one, Mute(), 9.0)
    assert not any(heard(every, state).values())
    back = apply(show, every, Mute(on=False, mixes=("relay",)), 9.0)
    assert heard(back, state)["relay"] and not heard(back, state)["hall"]
    assert heard(apply(show, back, Mute(on=False), 9.0), state)["hall"]
    black = show.model_copy(update={"sound": show.sound.model_copy(update={"black_mutes": True})})
    dark = apply(black, stage_of(black, 6), Black(), 9.0)
    assert not heard(dark, state)["hall"]
    assert heard(apply(show, stage, Black(), 9.0), state)["hall"], "only by choice"


def test_what_is_wrong_with_a_shows_sound_is_told() -> None:
    sound = ShowSound(
        mixes=(Mix(id="a", name="A", surfaces=("gone",)), Mix(id="a", name="B"), Mix(id=LISTEN, name="L")),
        sources=(SourceSound(of="none"), SourceSound(of="s", sends=(Send(mix="z"),)), SourceSound(of="s")),
        inputs=(SoundInput(id="s", name="S", device="x"), SoundInput(id="t", name="T")),
        ducks=(Ducked(by="s", of="s"), Ducked(by="q")),
        listen=Listen(otherwise="z"),
    )
    told = [f.what for f in sound_faults(sound, {"s"})]
    assert len(told) == 8 and all("; " in words for words in told)


# -- files -------------------------------------------------------------------------------------------------------------


def film(
    path: Path, rate: int, layout: str, seconds: float = 2.0, pictures: bool = True, codec: str = "pcm_s24le"
) -> Path:
    """A clip that beeps at each whole second, of a sample rate and with channels of choice."""
    with av.open(str(path), "w") as out:
        if pictures:
            video = out.add_stream("mpeg4", rate=25)
            video.width, video.height, video.pix_fmt = W, H, "yuv420p"
        audio = out.add_stream(codec, rate=rate)
        audio.layout = layout
        if pictures:
            for n in range(round(25 * seconds)):
                grey = np.full((H, W, 3), 90 + n % 100, np.uint8)
                frame = av.VideoFrame.from_ndarray(grey, "rgb24")
                frame.pts, frame.time_base = n, Fraction(1, 25)
                for packet in video.encode(frame):
                    out.mux(packet)
            out.mux(video.encode(None))
        t = np.arange(round(rate * seconds)) / rate
        wave = (0.3 * np.sin(2 * np.pi * 1000 * t) * (t % 1 < 0.05)).astype(np.float32)
        channels = av.AudioLayout(layout).nb_channels
        for n in range(0, len(wave), 1024):
            part = np.repeat(wave[n : n + 1024], channels)[None]
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(part), "flt", layout)
            frame.sample_rate, frame.pts, frame.time_base = rate, n, Fraction(1, rate)
            out.mux(audio.encode(frame))
        out.mux(audio.encode(None))
    return path


@pytest.mark.parametrize(
    ("rate", "layout", "channels"),
    [(44100, "mono", 1), (96000, "stereo", 2), (48000, "7.1", 8), (48000, "hexadecagonal", 16)],
)
def test_rates_and_channels_of_all_sorts(tmp_path: Path, rate: int, layout: str, channels: int) -> None:
    clip = ClipSound(film(tmp_path / "a.mkv", rate, layout))
    try:
        assert clip.channels == channels
        clip.want(0)
        assert clip.wait(PATIENCE) and clip.fault is None
        sound = clip.read(0, RATE)
        assert sound is not None and sound.shape == (RATE, channels)
        assert begins(sound)[0] == pytest.approx(0, abs=0.002)
        # round its end to its start, without a gap
        clip.want(round(1.9 * RATE))
        assert clip.wait(PATIENCE)
        seam = clip.read(round(1.9 * RATE), RATE // 4)
        assert seam is not None and begins(seam)[0] == pytest.approx(0.1, abs=0.003)
        clip.want(round(2.9 * RATE))
        assert clip.wait(PATIENCE)
        ended = clip.read(round(1.95 * RATE), RATE // 4, loops=False)
        assert ended is None or not ended[RATE // 20 :].any(), "silent behind its end"
    finally:
        clip.close()


def test_a_clip_without_sound_and_one_that_is_none(tmp_path: Path) -> None:
    path = tmp_path / "mute.mp4"
    with av.open(str(path), "w") as out:
        video = out.add_stream("mpeg4", rate=25)
        video.width, video.height, video.pix_fmt = W, H, "yuv420p"
        for packet in video.encode(av.VideoFrame.from_ndarray(np.zeros((H, W, 3), np.uint8), "rgb24")):
            out.mux(packet)
        out.mux(video.encode(None))
    mute = ClipSound(path)
    assert mute.channels == 0 and mute.read(0, 100) is None
    wrong = tmp_path / "wrong.mp4"
    wrong.write_bytes(b"no film at all" * 99)
    with pytest.raises(MediaError, match="cannot be opened"):
        ClipSound(wrong)


def test_a_damaged_clip_goes_on_or_says_so(tmp_path: Path) -> None:
    path = film(tmp_path / "a.mkv", 48000, "stereo", 3.0, codec="aac")
    data = bytearray(path.read_bytes())
    rng = np.random.default_rng(4)
    for n in rng.integers(len(data) // 3, len(data), 400):
        data[n] ^= 0xFF
    path.write_bytes(bytes(data))
    clip = ClipSound(path)
    clip.want(0)
    assert clip.wait(PATIENCE)
    assert clip.fault is None or "it is silent" in clip.fault
    assert clip.read(0, RATE // 4) is not None
    clip.close()


# -- the running show --------------------------------------------------------------------------------------------------


@contextlib.contextmanager
def running(show: Show) -> Iterator[Playout]:
    playout = Playout(show, devices=False)
    playout.start(wait=PATIENCE)
    try:
        yield playout
    finally:
        playout.stop()


def test_a_recording_has_its_mix_without_a_gap(tmp_path: Path) -> None:
    to = tmp_path / "r.mp4"
    feed = Feed(id="f", name="F", shows="surface", of="s", to=str(to), mix="hall")
    with running(one_surface(FLASH, HALL, feeds=(feed,))) as playout:
        playout.sound.tap("hall")
        assert wait_for(lambda: playout.sound_report().mixes[0].measured.peak > -20)
        playout.act(SendFeed(feed="f"))
        assert wait_for(
            lambda: any(f.seconds > 4.5 and f.sent > 20 for f in playout._feeds.reports(playout.stage.show, {}))
        )
    with av.open(str(to)) as made:
        sound = np.concatenate([f.to_ndarray() for f in made.decode(audio=0)], axis=1).T
    with av.open(str(to)) as made:
        last = [float(f.time) for f in made.decode(video=0)][-1]
    beeps = begins(sound, 0.02)
    assert len(beeps) >= 3
    assert np.diff(beeps)[1:] == pytest.approx(1.0, abs=0.002), "the first may have begun before"
    assert len(sound) / RATE == pytest.approx(last, abs=0.3)


def test_a_live_stream_is_heard(tmp_path: Path) -> None:
    to = f"udp://127.0.0.1:{free_port()}"
    camera = Input(id="cam", name="Cam", width=320, height=180, rate=25, encoding="420", address=to)
    sender = StandinFeed(to, 320, 180, 25.0, sound=True)
    sender.start()
    try:
        with running(one_surface(camera, HALL)) as playout:
            playout.sound.tap("hall")

            def beeps() -> list[float]:
                found = playout.sound.ring("hall")
                tap = None if found is None else found[1]
                sound = None if tap is None else tap.read(tap.end - 3 * RATE, 3 * RATE)
                return [] if sound is None else begins(sound, 0.01)

            assert wait_for(lambda: len(beeps()) >= 3)
            assert wait_for(lambda: all(abs(d - 1) < 0.01 for d in np.diff(beeps())) and len(beeps()) >= 3)
            assert wait_for(lambda: "cam" in playout.sound.report(playout.stage.show, playout.stage).sources)
            sender.tell("silent")
            assert wait_for(
                lambda: playout.sound.report(playout.stage.show, playout.stage).mixes[0].measured.silent > 2
            )
    finally:
        sender.tell("quit")
        sender.join(PATIENCE)


def test_sound_that_ends_by_itself_is_begun_anew() -> None:
    """The process that mixes is killed: pictures go on, and sound is there again."""
    show = one_surface(FLASH, HALL)
    with running(show) as playout:

        def peak() -> float:
            return playout.sound_report().mixes[0].measured.peak

        assert wait_for(lambda: peak() > -20)
        apart = playout.sound._apart
        assert apart is not None and apart._process is not None
        frames = playout.mark[0]
        apart._process.kill()
        assert wait_for(lambda: apart.begun == 2)
        playout.reset_meters()
        assert wait_for(lambda: -20 < peak() < -10)
        assert playout.mark[0] > frames


def test_a_take_of_a_clip_is_heard_and_leaves(tmp_path: Path) -> None:
    clip = Clip(id="a", name="A", path=str(film(tmp_path / "a.mkv", 44100, "stereo")))
    show = one_surface(clip, HALL)
    with running(show) as playout:

        def peak() -> float:
            return playout.sound.report(show, playout.stage).mixes[0].measured.peak

        assert wait_for(lambda: peak() > -12)
        playout.act(Route(surface="s", source=None, on="program", seconds=0))
        assert wait_for(lambda: playout.sound.report(show, playout.stage).mixes[0].measured.silent > 1.5)
        playout.listen("a")
        assert wait_for(lambda: playout.sound.report(show, playout.stage).listening == "a")
        playout.act(Route(surface="s", source="a", on="program", seconds=0))
        playout.reset_meters()
        assert wait_for(lambda: peak() < -12), "the peak is set back"
        assert wait_for(lambda: peak() > -12), "and heard again"


# -- devices -----------------------------------------------------------------------------------------------------------


@pytest.fixture()
def sound_server(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[list[subprocess.Popen[bytes]]]:
    """A sound server with a device that leads nowhere, and can be listened to."""
    run, home = tmp_path / "run", tmp_path / "home"
    run.mkdir(mode=0o700)
    home.mkdir()
    (home / ".asoundrc").write_text("pcm.!default pulse\nctl.!default pulse\n")
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(run))
    monkeypatch.setenv("HOME", str(home))
    server = [_server()]
    try:
        assert wait_for(lambda: (run / "pulse" / "native").exists())
        yield server
    finally:
        server[-1].kill()
        server[-1].wait()


def _server() -> subprocess.Popen[bytes]:
    modules = ["-L", "module-native-protocol-unix", "-L", "module-null-sink rate=48000 channels=8"]
    return subprocess.Popen(
        ["pulseaudio", "-n", "-F", "/dev/null", *modules, "--exit-idle-time=-1", "--daemonize=no"],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        env=os.environ.copy(),
    )


@pytest.mark.skipif(shutil.which("pulseaudio") is None, reason="no sound server here")
def test_a_device_plays_each_sample_at_its_moment_and_is_taken_again(
    sound_server: list[subprocess.Popen[bytes]],
) -> None:
    assert any(d.name == "default" for d in devices(PATIENCE))
    zero = time.perf_counter()
    out, into = DeviceOut("default", 2, zero), DeviceIn("default", 2)
    number = 0

    def play(ahead: float) -> None:
        """Give what is to be heard in so many seconds from now, and what was not given before."""
        nonlocal number
        while zero + number * BLOCK / RATE < time.perf_counter() + ahead:
            out.put(number * BLOCK, pattern_sound("beep", number * BLOCK, BLOCK))
            number += 1

    def played_and_heard() -> bool:
        play(1.5)
        sound = into.ring.read(into.ring.end - 3 * RATE, 3 * RATE)
        if sound is None or not (out.serves and into.serves):
            return False
        start = into.ring.end / RATE - 3 - zero
        beeps = [(start + s) % 1 for s in begins(sound, 0.02)]
        good = [b for b in beeps if min(b, 1 - b) < 0.010]
        return len(good) >= 2 and len(good) >= len(beeps) - 1

    try:
        assert wait_for(played_and_heard), "each beep is heard at its whole second, to 10 ms"
        sound_server[-1].kill()
        sound_server[-1].wait()
        assert wait_for(lambda: out.fault is not None or not out.serves)
        sound_server.append(_server())
        assert wait_for(played_and_heard), "it is there again"
        assert out.fault is None
    finally:
        out.close()
        into.close()
        out.join(PATIENCE)
        into.join(PATIENCE)


def test_the_clock_of_a_device_does_not_go_by_moments_that_were_late() -> None:
    """One in seven is told 30 ms late; the device runs 100 ppm slow, and stops once for 0.2 s."""
    chance, clock, off = np.random.default_rng(7), device._Clock(), []
    for number in range(3000):
        true = 5.0 + number * 720 / RATE * (1 + 1e-4) + (0.2 if number >= 1500 else 0.0)
        late = 0.03 if chance.random() < 1 / 7 else chance.normal(0, 0.0004)
        off.append(clock.moment(true + late, 720) - true)
    assert np.abs(off[200:1500]).max() < 0.001 and np.abs(off[1700:]).max() < 0.001


def test_a_device_that_is_none_is_told_of() -> None:
    out = DeviceOut("No such device", 2, time.perf_counter())
    try:
        assert wait_for(lambda: out.fault is not None)
        assert "No such device" in (out.fault or "") and "tried again" in (out.fault or "")
    finally:
        out.close()
        out.join(PATIENCE)


def test_presets_carry_sound(tmp_path: Path) -> None:
    """A preset that fades a layer's sound out takes its time for it; nothing else of the layer changes."""
    show = one_surface(FLASH, HALL)
    part = part_of("c", "l", LayerSettings(sound=LayerSound(mute=True)), Scope(sound=Touch(how="faded")))
    show = show.model_copy(update={"presets": (Preset(id="p", number=1, name="Quiet", seconds=2.0, parts=(part,)),)})
    stage = apply(show, Stage.opened(show), StagePreset(preset=1), 0.0)
    stage = apply(show, stage, Take(), 0.0)
    gains = [layer_gain(stage.program.at(t)["c", "l"].sound, "hall") for t in (0.0, 0.5, 1.0, 1.5, 2.0)]
    assert gains == sorted(gains, reverse=True) and gains[0] == 1.0 and gains[-1] == 0.0 and 0 < gains[2] < 1
    assert apply(show, stage, Cut(), 0.1) is not None
