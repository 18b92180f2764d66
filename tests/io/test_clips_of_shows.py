"""Clips as shows have them: alpha beside the picture, damage in the middle, pictures to be turned, pixels
that are not square.
"""

from __future__ import annotations

import shutil
import struct
import subprocess
from fractions import Fraction
from pathlib import Path

import av
import av.filter
import cv2
import numpy as np
import pytest
from PIL import Image

from ushering_adze.core.show import Folder
from ushering_adze.io.media import open_player
from ushering_adze.io.media.clip import ClipReader, decoded, frame_at
from ushering_adze.io.media.still import read_still
from waiting import wait_for


def tagged(frame: av.VideoFrame, field: str) -> av.VideoFrame:
    """A frame that says which of its fields comes first; nothing but a filter can say so."""
    graph = av.filter.Graph()
    source = graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=Fraction(1, 25))
    tag, sink = graph.add("setfield", field), graph.add("buffersink")
    source.link_to(tag)
    tag.link_to(sink)
    graph.configure()
    graph.push(frame)
    found = graph.pull()
    found.pts = None
    return found


def written(
    path: Path,
    pictures: list[np.ndarray],
    codec: str,
    pix_fmt: str,
    options: dict[str, str],
    field: str = "",
    **stream_fields: object,
) -> Path:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=25, options=options)
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = pix_fmt
        for name, value in stream_fields.items():
            setattr(stream, name, value)
        for picture in pictures:
            frame = av.VideoFrame.from_ndarray(picture, "rgba" if picture.shape[2] == 4 else "rgb24")
            matrix = "ITU709" if codec == "dnxhd" else None  # of which its files always say that they are
            frame = frame.reformat(format=pix_fmt, dst_colorspace=matrix)
            out.mux(stream.encode(tagged(frame, field) if field else frame))
        out.mux(stream.encode())
    return path


@pytest.mark.parametrize("codec", ["libvpx-vp9", "libvpx"])
def test_the_alpha_of_vp8_and_vp9_is_kept(codec: str, tmp_path: Path) -> None:
    picture = np.zeros((64, 96, 4), np.uint8)
    picture[..., 0] = 200
    picture[:, :48, 3], picture[:, 48:, 3] = 255, 0
    path = written(tmp_path / "a.webm", [picture] * 6, codec, "yuva420p", {"auto-alt-ref": "0", "crf": "4", "b": "4M"})
    with av.open(str(path)) as container:
        assert container.streams.video[0].metadata.get("alpha_mode") == "1"
    frame = frame_at(path, 0.08)
    assert not frame.opaque and frame.pixels[32, 20, 3] > 250 and frame.pixels[32, 80, 3] < 5
    assert frame.pixels[32, 80, :3].max() < 8, "premultiplied: what is clear has no colour"
    reader = ClipReader(path)
    try:
        assert reader.wait(300) and not reader.frame(0.0).opaque  # type: ignore[union-attr]
    finally:
        reader.close()
        reader.join(5)


def test_a_damaged_clip_goes_on_behind_the_damage(tmp_path: Path) -> None:
    """The sizes in the stream of a packet are overwritten: the decoder refuses it, and takes the next key frame."""
    shades = [np.full((64, 96, 3), 8 * n + 8, np.uint8) for n in range(30)]
    path = written(tmp_path / "a.mp4", shades, "libx264", "yuv420p", {"g": "5", "bf": "0", "crf": "4"})
    data = bytearray(path.read_bytes())
    with av.open(str(path)) as container:
        packets = [p for p in container.demux(video=0) if p.size]
    for packet in packets[11:13]:
        data[packet.pos : packet.pos + 4] = b"\xff\xff\xff\xff"
    path.write_bytes(data)
    with av.open(str(path)) as container:
        times = [round(t * 25) for t, _ in decoded(container)]
    assert times[:11] == list(range(11)) and times[-1] == 29 and len(times) >= 25, times
    assert abs(int(frame_at(path, 28 / 25).pixels[5, 5, 0]) - (8 * 28 + 8)) < 6


def test_pixels_that_are_not_square_become_square(tmp_path: Path) -> None:
    picture = np.zeros((64, 96, 3), np.uint8)
    for shape, size in ((Fraction(4, 3), (64, 128)), (Fraction(1, 2), (128, 96))):
        path = tmp_path / f"{shape.numerator}.mkv"
        written(path, [picture] * 3, "libx264", "yuv420p", {"crf": "10"}, sample_aspect_ratio=shape)
        assert frame_at(path, 0).pixels.shape[:2] == size


@pytest.mark.parametrize("quarters", [1, 2, 3])
def test_pictures_that_are_to_be_turned_are_turned(quarters: int, tmp_path: Path) -> None:
    """The matrix of the track header: ISO/IEC 14496-12, section 8.3.2 (from memory), x' = a·x + c·y, y' = b·x + d·y."""
    picture = np.zeros((64, 96, 3), np.uint8)
    picture[:32, :48] = (250, 250, 250)
    path = written(tmp_path / "a.mp4", [picture] * 5, "libx264", "yuv420p", {"crf": "4"})
    data = bytearray(path.read_bytes())
    a, b, c, d = {1: (0, 1, -1, 0), 2: (-1, 0, 0, -1), 3: (0, -1, 1, 0)}[quarters]
    matrix = struct.pack(">9i", a << 16, b << 16, 0, c << 16, d << 16, 0, 0, 0, 1 << 30)
    at = data.index(b"tkhd") + 4 + 40
    data[at : at + 36] = matrix
    path.write_bytes(data)
    turned = np.rot90(picture, -quarters)[..., 1].astype(
        int
    )  # from x to the right and y down, the matrix turns clockwise
    ours = frame_at(path, 0).pixels[..., 1].astype(int)
    assert ours.shape == turned.shape and np.abs(ours - turned).mean() < 4
    if shutil.which("ffmpeg"):
        seen = tmp_path / "seen.png"
        subprocess.run(
            ["ffmpeg", "-loglevel", "error", "-y", "-i", path, "-frames:v", "1", seen], check=True, timeout=300
        )
        assert np.abs(ours - np.asarray(Image.open(seen).convert("L")).astype(int)).mean() < 4, "as ffmpeg turns it"


def test_a_clip_that_does_not_say_its_length_plays_in_a_loop(tmp_path: Path) -> None:
    shades = [np.full((48, 64, 3), 20 * n + 20, np.uint8) for n in range(10)]
    path = written(tmp_path / "a.mkv", shades, "libx264", "yuv420p", {"crf": "4"})
    reader = ClipReader(path)
    try:
        assert reader.wait(300) and reader.length > 0.3
        at, expected = 3 * reader.length + 0.2, frame_at(path, 0.2).pixels
        assert np.array_equal(frame_at(path, at).pixels, expected)
        assert wait_for(lambda: (f := reader.frame(at)) is not None and np.array_equal(f.pixels, expected))
    finally:
        reader.close()
        reader.join(5)


def combs(picture: np.ndarray) -> float:
    """How much rows differ from the mean of their neighbours: large where two fields of another moment lie
    between one another.
    """
    rows = picture[..., 1].astype(float)
    return float(np.abs(rows[1:-1] - (rows[:-2] + rows[2:]) / 2).mean())


@pytest.mark.parametrize("first", ["tff", "bff"])
def test_interlaced_clips_are_pictures_of_their_fields(first: str, tmp_path: Path) -> None:
    """A bar that moves 4 px from field to field: woven it is a comb, of each field it is a bar; twice as
    many pictures.
    """
    fields = []
    for n in range(24):
        picture = np.full((128, 192, 3), 30, np.uint8)
        picture[:, 20 + 4 * n : 60 + 4 * n] = 220
        fields.append(picture)
    woven = []
    for n in range(0, 24, 2):
        early, late = (0, 1) if first == "tff" else (1, 0)
        frame = np.empty_like(fields[0])
        frame[early::2], frame[late::2] = fields[n][early::2], fields[n + 1][late::2]
        woven.append(frame)
    options = {"flags": "+ildct+ilme", "crf": "2"}
    path = written(tmp_path / "a.mp4", woven, "libx264", "yuv420p", options, first)
    with av.open(str(path)) as container:
        found = [(t, f.to_ndarray(format="bgr24")) for t, f in decoded(container)]
    assert len(found) >= 2 * 12 - 1, len(found)
    assert np.allclose(np.diff([t for t, _ in found[:20]]), 1 / 50, atol=2e-3), "each at its own time"
    assert max(combs(p) for _, p in found[2:20]) < combs(woven[3]) / 4
    edges = [int(np.argmax(p[64, :, 1] > 128)) for _, p in found[2:18]]
    assert np.abs(np.diff(edges) - 4).max() <= 2, "and moves from picture to picture, as it was seen"


def test_clips_that_are_not_interlaced_are_left_alone(tmp_path: Path) -> None:
    path = written(tmp_path / "a.mp4", [np.full((64, 96, 3), 90, np.uint8)] * 6, "libx264", "yuv420p", {})
    with av.open(str(path)) as container:
        assert len(list(decoded(container))) == 6


def test_tiffs_of_floating_point_are_light(tmp_path: Path) -> None:
    light = np.zeros((4, 6, 3), np.float32)
    light[:2], light[2:, :3], light[2:, 3:] = 0.2140, 1.0, 4.0
    cv2.imwrite(str(tmp_path / "a.tif"), light)
    pixels, opaque = read_still(tmp_path / "a.tif")
    # IEC 61966-2-1 (from memory): a fifth of the light and a little more is half of the code.
    assert opaque and abs(int(pixels[0, 0, 0]) - 128) <= 1 and (pixels[2:] == 255).all()
    cv2.imwrite(str(tmp_path / "grey.tif"), light[..., 0])
    assert np.array_equal(read_still(tmp_path / "grey.tif")[0], pixels)


def test_a_folder_of_which_nothing_can_be_read_is_lost(tmp_path: Path) -> None:
    for n in range(3):
        (tmp_path / f"{n}.png").write_bytes(b"\x89PNG\r\nrubbish")
    player = open_player(Folder(id="f", name="Slides", path=str(tmp_path)))
    assert player.fault is not None and "no picture in" in player.fault


SHOW_CODECS = [
    ("libx264", "yuv420p", "a.mp4", {"crf": "4"}),
    ("libx265", "yuv420p10le", "a.mp4", {"crf": "4", "x265-params": "log-level=none"}),
    ("libvpx-vp9", "yuv420p", "a.webm", {"crf": "4", "b": "4M"}),
    ("libsvtav1", "yuv420p10le", "a.mp4", {"crf": "1", "preset": "10"}),
    ("prores_ks", "yuva444p10le", "a.mov", {"profile": "4444", "alpha_bits": "16"}),
    ("dnxhd", "yuv422p", "a.mov", {"profile": "dnxhr_hq"}),
    ("mjpeg", "yuvj422p", "a.mov", {"q": "1"}),
    ("png", "rgba", "a.mov", {}),
    ("ffv1", "yuv444p", "a.mkv", {}),
]


@pytest.mark.parametrize(("codec", "form", "name", "options"), SHOW_CODECS, ids=[c[0] for c in SHOW_CODECS])
def test_codecs_that_shows_use_are_read(
    codec: str, form: str, name: str, options: dict[str, str], tmp_path: Path
) -> None:
    """Written by FFmpeg's own encoders, read as a clip of a show: four fields of colour, each frame another shade."""
    try:
        av.codec.Codec(codec, "w")
    except ValueError:  # pragma: no cover
        pytest.skip(f"this build of FFmpeg cannot write {codec}")
    alpha = form.startswith(("yuva", "rgba"))
    pictures = []
    for n in range(10):
        picture = np.full((256, 384, 4 if alpha else 3), 255, np.uint8)
        picture[:128, :192, :3] = 180 - 8 * n, 40, 30
        picture[128:, 192:, :3] = 20, 60 + 8 * n, 160
        if alpha:
            picture[:128, 192:, 3] = 0
        pictures.append(picture)
    path = written(tmp_path / name, pictures, codec, form, options)
    for n in (0, 4, 9):
        frame = frame_at(path, (n + 0.5) / 25).pixels
        assert np.abs(frame[60, 90, :3].astype(int) - (30, 40, 180 - 8 * n)).max() <= 6, (n, frame[60, 90])
        assert np.abs(frame[200, 300, :3].astype(int) - (160, 60 + 8 * n, 20)).max() <= 6, (n, frame[200, 300])
        assert (frame[60, 300, 3] <= 2) == alpha and frame[200, 90].min() >= 250


def test_a_qoi_still_is_read(tmp_path: Path) -> None:
    picture = np.random.default_rng(4).integers(0, 256, (40, 60, 4)).astype(np.uint8)
    picture[..., 3] = 255
    Image.fromarray(picture).save(tmp_path / "a.qoi")
    assert np.array_equal(read_still(tmp_path / "a.qoi")[0][..., 2::-1], picture[..., :3])


def test_a_hap_clip_is_read(tmp_path: Path) -> None:
    """A file made by hand: a section of DXT1 without a second compression (the open Hap specification, from memory), in
    a QuickTime file whose track says ``Hap1``.
    """
    width, height = 64, 32
    path = tmp_path / "a.mov"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mjpeg", rate=25)
        stream.width, stream.height, stream.pix_fmt, stream.time_base = width, height, "yuvj420p", Fraction(1, 25)
        out.start_encoding()
        for n in range(5):
            red = (31 - 4 * n) << 11
            block = struct.pack("<HHI", red, 0, 0)  # every pixel has the first of its two colours
            texture = block * (width // 4 * height // 4)
            packet = av.Packet(len(texture).to_bytes(3, "little") + b"\xab" + texture)
            packet.stream, packet.pts, packet.dts, packet.is_keyframe = stream, n, n, True
            packet.time_base = Fraction(1, 25)
            out.mux(packet)
    data = path.read_bytes()
    at = data.index(b"stsd")
    said = data.index(b"jpeg", at)
    path.write_bytes(data[:said] + b"Hap1" + data[said + 4 :])
    for n in (0, 4):
        frame = frame_at(path, (n + 0.5) / 25)
        assert frame.pixels.shape == (height, width, 4)
        assert abs(int(frame.pixels[10, 10, 2]) - round((31 - 4 * n) * 255 / 31)) <= 1 and frame.pixels[10, 10, 1] == 0


def test_a_clip_with_sound_and_uneven_times_shows_each_picture_in_its_time(tmp_path: Path) -> None:
    """Variable frame rate, with a track of sound beside it, which plays no part in what is shown."""
    path = tmp_path / "a.mp4"
    times = [0, 1, 2, 7, 8, 20, 21]
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=25, options={"crf": "4", "bf": "0"})
        stream.width, stream.height, stream.pix_fmt, stream.time_base = 64, 48, "yuv420p", Fraction(1, 25)
        sound = out.add_stream("aac", rate=48000, layout="stereo")
        for n, at in enumerate(times):
            frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 30 * n + 20, np.uint8), "rgb24")
            frame.pts, frame.time_base = at, Fraction(1, 25)
            out.mux(stream.encode(frame))
        for n in range(40):
            tone = av.AudioFrame.from_ndarray(np.zeros((2, 1024), np.float32), "fltp", "stereo")
            tone.sample_rate, tone.pts = 48000, 1024 * n
            out.mux(sound.encode(tone))
        out.mux(stream.encode())
        out.mux(sound.encode())
    for moment, n in ((0.5, 0), (2.5, 2), (6.5, 2), (7.5, 3), (12, 4), (19.5, 4), (20.5, 5)):
        assert abs(int(frame_at(path, moment / 25).pixels[20, 20, 1]) - (30 * n + 20)) <= 4, moment
