"""Aligning by cameras that are not stand-ins: photographs taken beforehand, a tethered folder, and a live stream, of a
running show.
"""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import pytest

from ushering_adze.cli.main import main
from ushering_adze.core.light.transfer import linear_to_srgb, srgb_to_linear
from ushering_adze.core.mapping.bend import raster_points
from ushering_adze.core.show import (
    Canvas,
    Input,
    Output,
    Projection,
    Projector,
    RectLanding,
    Region,
    Show,
    ShowError,
    Timing,
    Watch,
)
from ushering_adze.engine.aligning import align, shots
from ushering_adze.engine.engine import Engine
from ushering_adze.io.photos import PhotoFolder, as_light, read_photo
from ushering_adze.io.showfile import read_show, save_show
from ushering_adze.io.standins.camera import StandinCamera
from ushering_adze.io.standins.screen import StandinScreen
from ushering_adze.playout import cameras
from ushering_adze.playout.cameras import RealCamera, folder_look, measured_delay, settling, source_look


def small(count: int, width: int = 640, height: int = 360, sources: tuple[Input, ...] = ()) -> Show:
    overlap = 80
    names = "abc"[:count]
    regions = tuple(
        Region(
            id=n,
            name=n.upper(),
            x=k * (width - overlap),
            y=0,
            w=width,
            h=height,
            output=f"o{n}",
            surface="screen",
            projector=n,
            landing=RectLanding(x=0, y=0, w=width, h=height),
        )
        for k, n in enumerate(names)
    )
    canvas = Canvas(id="c", name="C", width=count * width - (count - 1) * overlap, height=height, regions=regions)
    timing = Timing(width=width, height=height)
    return Show(
        name="Small",
        sources=sources,
        canvases=(canvas,),
        outputs=tuple(
            Output(id=f"o{n}", number=k + 1, name=f"Projector {n.upper()}", timing=timing) for k, n in enumerate(names)
        ),
        surfaces=(
            Projection(
                id="screen",
                name="Screen",
                width_mm=3000,
                height_mm=900,
                overlap_px=overlap,
                room_lux=2,
                projectors=tuple(Projector(id=n, name=n, width=width, height=height, lumens=6000) for n in names),
            ),
        ),
    )


def off(asked: Show, aligned: Show) -> np.ndarray:
    """How far on the true screen places of the canvas fall from where they belong, in pixels; the pose is read by the
    test alone.
    """
    found = []
    for lit in StandinScreen(asked, "screen", 0.1).projectors:
        region = aligned.homes[lit.region][1]
        u, v = np.meshgrid(np.linspace(0.02, 0.98, 13) * region.w, np.linspace(0.02, 0.98, 9) * region.h)
        places = np.stack([u.ravel() + region.x, v.ravel() + region.y], -1)
        found.append(np.hypot(*(lit.pose.view.to_screen(raster_points(region, places)) - places).T))
    return np.concatenate(found)


def developed(camera: StandinCamera, rasters: dict[str, np.ndarray]) -> np.ndarray:
    """What a camera's file holds of its view: 8-bit sRGB codes, blue first."""
    photo = camera.photograph(rasters, colour=True)
    return np.rint(linear_to_srgb(np.clip(photo, 0, 1)) * 255).astype(np.uint8)[..., ::-1]


def test_photographs_taken_beforehand_align_from_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def adze(*args: object) -> tuple[int, str, str]:
        monkeypatch.setattr("sys.argv", ["adze", *map(str, args)])
        with pytest.raises(SystemExit) as left:
            main()
        return left.value.code or 0, *capsys.readouterr()  # type: ignore[return-value]

    show = small(2, 280, 160)
    path = tmp_path / "small.adze"
    save_show(show, path)
    code, out, _ = adze("align", path, "--surface", "screen", "--patterns", tmp_path / "patterns")
    assert code == 0 and f"{sum(1 for _ in shots(show, 'screen'))} patterns" in out
    camera = StandinCamera(show, "screen", 900)
    photos = tmp_path / "photos"
    photos.mkdir()
    for n, folder in enumerate(sorted((tmp_path / "patterns").iterdir()), 1):
        rasters = {p.stem: cv2.imread(str(p), cv2.IMREAD_UNCHANGED) for p in folder.iterdir()}
        rasters = {
            id: np.ascontiguousarray(np.dstack([r[..., :3], np.full(r.shape[:2], 255, np.uint8)]))
            for id, r in rasters.items()
        }
        assert set(rasters) == {"oa", "ob"}
        cv2.imwrite(str(photos / f"IMG_{n}.jpg"), developed(camera, rasters), [cv2.IMWRITE_JPEG_QUALITY, 96])
    command = "align", path, "--surface", "screen", "--photos", photos, "--json"
    code, _, why = adze(*command, "--corners", "1,2,3")
    assert code == 2 and "not four corners" in why
    before = off(show, show)
    code, out, why = adze(*command, "--save")
    assert code == 0, why
    after = off(show, read_show(path))
    assert before.mean() > 3 and after.mean() < 0.5 and after.max() < 1.5, (before.mean(), after.mean(), after.max())
    assert max(r["mean_px"] for r in json.loads(out)["projectors"]) < 0.3
    assert read_show(path).output("oa").black is None, "blacks cannot be seen without a shutter, and are left"
    (photos / "IMG_30.jpg").unlink()
    code, _, why = adze(*command)
    assert code == 2 and "photographs, and there are" in why


@pytest.fixture
def running(request: pytest.FixtureRequest) -> Iterator[tuple[Engine, Show]]:
    show = request.param
    engine = Engine(show, Path())
    engine.start()
    yield engine, show
    engine.stop()


@pytest.mark.parametrize("running", [small(1, 200, 112)], indirect=True)
def test_a_tethered_folder_gets_each_photograph_after_its_pattern_is_out(
    running: tuple[Engine, Show], tmp_path: Path
) -> None:
    engine, show = running
    (tmp_path / "old.jpg").write_bytes(b"left from before")
    camera, names = StandinCamera(show, "screen", 700), []
    folder = PhotoFolder(tmp_path, new_only=True)

    def shutter(name: str) -> bool:
        names.append(name)
        cv2.imwrite(str(tmp_path / f"shot {len(names)}.png"), developed(camera, engine.rasters))
        return True

    found = align(show, "screen", RealCamera(engine, show, "screen", folder_look(folder), shutter), None, True)
    assert names == [s.name for s in shots(show, "screen")], "what is announced is what is asked for"
    after = off(show, found.show)
    assert after.mean() < 0.5 and after.max() < 1.5
    true = StandinScreen(show, "screen", 0.1).projectors[0].pose.gamma
    assert found.measured[0].gamma == pytest.approx(true, abs=0.03) and found.show.output("oa").black is None
    stopped = PhotoFolder(tmp_path, new_only=True, stopped=lambda: True)
    with pytest.raises(ShowError, match="stopped"):
        stopped.next("white")
    (tmp_path / "broken.jpg").write_text("no picture")
    with pytest.raises(ShowError, match=r"broken\.jpg: it cannot be read as a photograph"):
        PhotoFolder(tmp_path).next("white")
    with pytest.raises(ShowError, match="no such folder"):
        PhotoFolder(tmp_path / "nowhere")


class Feed(threading.Thread):
    """A camera that streams what it sees of the outputs, as a network camera would."""

    def __init__(self, engine: Engine, camera: StandinCamera, address: str) -> None:
        super().__init__(daemon=True)
        self._engine, self._camera, self._address = engine, camera, address
        self.over = False

    def run(self) -> None:
        with av.open(self._address, "w", format="mpegts") as out:
            width, height = (v // 2 * 2 for v in self._camera.size)
            stream = out.add_stream("mpeg2video", rate=15, options={"qmin": "1", "qmax": "2", "g": "1"})
            stream.width, stream.height, stream.pix_fmt, stream.bit_rate = width, height, "yuv420p", 40_000_000
            stream.time_base = Fraction(1, 15)
            n, began = 0, time.monotonic()
            while not self.over:
                codes = developed(self._camera, self._engine.rasters)[:height, :width]
                frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(codes), "bgr24")
                frame.pts, n = n, n + 1
                out.mux(stream.encode(frame))
                time.sleep(max(0.0, n / 15 - (time.monotonic() - began)))


ADDRESS = "udp://127.0.0.1:47613"
LIVE = Input(
    id="cam",
    name="Network camera",
    width=640,
    height=260,
    rate=25,
    address=f"{ADDRESS}?fifo_size=1000000&overrun_nonfatal=1",
    watch=Watch(missing=10),
)


@pytest.mark.parametrize("running", [small(1, 320, 180, (LIVE,))], indirect=True)
def test_a_camera_that_streams_over_the_network_sees_each_pattern_of_the_running_outputs(
    running: tuple[Engine, Show], monkeypatch: pytest.MonkeyPatch
) -> None:
    engine, show = running
    for name, seconds in (("FRESH", 120.0), ("MOST", 120.0), ("FIRST", 4.0)):  # however busy the machine is
        monkeypatch.setattr(cameras, name, seconds)
    feed = Feed(engine, StandinCamera(show, "screen", 480), ADDRESS + "?pkt_size=1316")
    feed.start()
    engine.look_through("cam")
    end = time.monotonic() + 300
    while (frame := engine.picture_of("cam")) is None or engine.faults().get("cam") or frame.pixels.shape[1] != 480:
        assert time.monotonic() < end, engine.faults()
        time.sleep(0.05)
    delay = measured_delay(engine, show, "screen", "cam")
    assert delay > 0.02
    settle = settling(max(delay, 0.8))  # however busy the machine is while the photographs are taken
    camera = RealCamera(engine, show, "screen", source_look(engine, "cam", settle, 2))
    draw, height, width = np.random.default_rng(3), *engine.rasters["oa"].shape[:2]
    for n in range(6):  # each photograph shows its own pattern, not the one before
        raster = np.kron(draw.integers(0, 2, (2, 3)) * 255, np.ones((height // 2, -(-width // 3)))).astype(np.uint8)[
            :height, :width
        ]
        there = camera.photograph({"oa": raster})
        alone = StandinCamera(show, "screen", 480).photograph({"oa": raster})[: there.shape[0], : there.shape[1]]
        assert np.corrcoef(there.ravel(), alone.ravel())[0, 1] > 0.97, n
    assert camera.photograph({}, colour=True).shape == (*there.shape, 3)
    feed.over = True
    feed.join(60)
    monkeypatch.setattr(cameras, "FRESH", 5.0)
    look = source_look(engine, "cam", 0.0, 2)
    with pytest.raises(ShowError, match=r"camera: .*(no new pictures|no picture|nothing came|has ended)"):
        for _ in range(200):  # what is on its way still arrives
            look("white")


def test_photographs_are_read_as_light(tmp_path: Path) -> None:
    """sRGB by IEC 61966-2-1 as the transfer functions' own tests check it; linear codes as they are; sixteen bits as
    finely as they come.
    """
    codes = np.zeros((4, 6, 3), np.uint8)
    codes[..., 2], codes[..., 0] = 188, 20
    light = as_light(codes)
    assert light[0, 0] == pytest.approx(srgb_to_linear(np.array([188, 0, 20]) / 255), abs=1e-6)
    assert as_light(codes, linear=True)[0, 0] == pytest.approx(np.array([188, 0, 20]) / 255, abs=1e-6)
    fine = np.full((3, 3, 3), 12345, np.uint16)
    cv2.imwrite(str(tmp_path / "a.tiff"), fine)
    assert read_photo(tmp_path / "a.tiff", True)[1, 1, 0] == pytest.approx(12345 / 65535, abs=1e-6)
    assert max(as_light(np.zeros((2000, 6000, 3), np.uint8)).shape) == 2600
    for n, size in enumerate(((4, 6), (4, 8))):
        cv2.imwrite(str(tmp_path / f"b{n}.png"), np.zeros((*size, 3), np.uint8))
    (tmp_path / "a.tiff").unlink()
    folder = PhotoFolder(tmp_path)
    folder.next("white")
    with pytest.raises(ShowError, match="another size"):
        folder.next("black")
