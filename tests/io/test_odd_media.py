"""Odd but legal media: alpha, odd sizes, one frame, no picture, other modes."""

from __future__ import annotations

import time
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from ushering_adze.core.show import Clip, Folder, PatternSource
from ushering_adze.io.media import open_player
from ushering_adze.io.media.clip import ClipReader, frame_at
from ushering_adze.io.media.still import MediaError, read_still


def write(
    path: Path, codec: str, pix_fmt: str, pictures: list[np.ndarray], given: str = "rgb24", rate: int = 25
) -> Path:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=rate)
        stream.width, stream.height, stream.pix_fmt = pictures[0].shape[1], pictures[0].shape[0], pix_fmt
        for picture in pictures:
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, given)))
        out.mux(stream.encode())
    return path


def test_a_clip_with_alpha_is_premultiplied_and_not_opaque(tmp_path: Path) -> None:
    rgba = np.zeros((32, 48, 4), np.uint8)
    rgba[:, :24], rgba[:, 24:] = (200, 100, 50, 128), (10, 20, 30, 255)
    frame = frame_at(write(tmp_path / "a.mov", "png", "rgba", [rgba] * 3, "rgba"), 0.0)
    assert not frame.opaque
    assert frame.pixels[5, 5].tolist() == [25, 50, 100, 128] and frame.pixels[5, 40].tolist() == [30, 20, 10, 255]


@pytest.mark.parametrize("size", [(49, 33), (2, 2), (1919, 17)])
def test_odd_sizes_come_whole(tmp_path: Path, size: tuple[int, int]) -> None:
    picture = np.full((size[1], size[0], 3), 120, np.uint8)
    frame = frame_at(write(tmp_path / "a.mkv", "ffv1", "bgr0", [picture] * 2), 0.0)
    assert frame.pixels.shape == (size[1], size[0], 4) and frame.pixels.flags.c_contiguous
    assert np.abs(frame.pixels[..., :3].astype(int) - 120).max() <= 1


def test_a_clip_of_one_frame_stays(tmp_path: Path) -> None:
    reader = ClipReader(write(tmp_path / "a.mkv", "ffv1", "bgr0", [np.full((8, 8, 3), 77, np.uint8)]))
    assert reader.wait(300)
    for n in range(20):
        frame = reader.frame(n * 0.1)
        time.sleep(0.01)
    assert frame is not None and frame.pixels[0, 0, 0] == 77 and reader.fault is None
    reader.close()


def test_sound_alone_has_no_picture_and_says_so(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=48000)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4800), np.int16), format="s16", layout="mono")
        frame.sample_rate = 48000
        out.mux(stream.encode(frame))
    player = open_player(Clip(id="a", name="Walk-on music", path=str(tmp_path / "a.wav")))
    assert player.fault == "a.wav has no picture in it" and player.frame(0) is not None


@pytest.mark.parametrize("mode", ["P", "L", "1", "CMYK", "RGB"])
def test_pictures_of_any_mode_become_bgra(tmp_path: Path, mode: str) -> None:
    rgb = np.zeros((16, 16, 3), np.uint8)
    rgb[:8] = 255
    path = tmp_path / f"a.{'jpg' if mode == 'CMYK' else 'png'}"
    Image.fromarray(rgb).convert(mode).save(path)
    pixels, opaque = read_still(path)
    assert opaque and pixels[2, 8, :3].min() > 245 and pixels[13, 8, :3].max() < 10


def test_a_cut_off_still_is_lost_with_its_name(tmp_path: Path) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (64, 64, 3), dtype=np.uint8)
    Image.fromarray(noise).save(tmp_path / "a.png")
    data = (tmp_path / "a.png").read_bytes()
    (tmp_path / "a.png").write_bytes(data[: len(data) // 2])
    with pytest.raises(MediaError, match=r"a\.png cannot be read as a picture"):
        read_still(tmp_path / "a.png")
    Image.fromarray(noise).save(tmp_path / "b.png")
    player = open_player(Folder(id="f", name="F", path=str(tmp_path), hold=1))
    assert player.exact(0).pixels.shape == (720, 1280, 4), "the broken one is named"
    assert player.exact(1).pixels.shape == (64, 64, 4), "and the next one is shown"


def test_a_shuffled_folder_keeps_its_order_from_run_to_run(tmp_path: Path) -> None:
    for n in range(9):
        Image.new("L", (4, 4), n * 20).save(tmp_path / f"{n}.png")
    orders = []
    for _ in range(2):
        player = open_player(Folder(id="patrons", name="P", path=str(tmp_path), hold=1, order="shuffled"))
        orders.append([int(player.exact(t).pixels[0, 0, 0]) for t in range(9)])
    assert orders[0] == orders[1] and sorted(orders[0]) == [n * 20 for n in range(9)] and orders[0] != sorted(orders[0])


def test_a_pattern_source_is_the_pattern(tmp_path: Path) -> None:
    player = open_player(PatternSource(id="p", name="P", pattern="bars", width=700, height=100))
    assert player.frame(0).pixels[50, 50].tolist() == [191, 191, 191, 255]
