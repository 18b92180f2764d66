"""Stills, folders and clips: read right, looped without a gap, and lost by name."""

from __future__ import annotations

import time
from pathlib import Path

import av
import colour
import numpy as np
import pytest
from PIL import Image

from ushering_adze.core.picture.pictured import pictured
from ushering_adze.core.show import Clip, Countdown, Folder, Show, ShowError, SourcePicture, Still
from ushering_adze.io import writing
from ushering_adze.io.media import open_player, opening_key
from ushering_adze.io.media.clip import ClipReader, Converter, frame_at
from ushering_adze.io.media.still import read_still
from ushering_adze.io.showfile import absolute, media_faults, portable, read_show, save_show
from waiting import wait_for


def write_clip(
    path: Path, shades: list[int], rate: int = 25, size: tuple[int, int] = (64, 48), colour_rgb: bool = False
) -> Path:
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.options = {"crf": "4", "g": "5"}
        for shade in shades:
            picture = np.full((size[1], size[0], 3), shade, np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, "rgb24")))
        out.mux(stream.encode())
    return path


@pytest.mark.parametrize("width", [66, 68, 1284, 1366])
def test_clips_of_any_width_are_whole_to_their_last_column(tmp_path: Path, width: int) -> None:
    path = write_clip(tmp_path / "a.mp4", [120] * 4, size=(width, 48))
    for second in (0.0, 0.04, 0.08):
        stale = np.random.default_rng(1).integers(
            0, 256, (8, 48, width, 4), dtype=np.uint8
        )  # what memory used before may hold
        del stale
        pixels = frame_at(path, second).pixels
        assert (
            pixels.shape == (48, width, 4)
            and np.abs(pixels[..., :3].astype(int) - 120).max() <= 3
            and (pixels[..., 3] == 255).all()
        )


def test_one_converter_serves_frames_of_any_size_and_kind() -> None:
    """A feed may change its size; what was prepared for the last frame must not colour the next."""
    kept, colours = Converter(), np.random.default_rng(2)
    for width, height in ((640, 360), (720, 576), (96, 54), (640, 360)):
        for kind in ("yuv420p", "yuva420p", "yuv422p10le", "rgb24"):
            shade = colours.integers(20, 235, 3)
            picture = np.zeros((height, width, 4), np.uint8)
            picture[..., :3], picture[..., 3] = shade, 255
            pixels, _ = kept.pixels(
                av.VideoFrame.from_ndarray(picture, format="rgba").reformat(
                    format=kind, dst_colorspace=("ITU709" if height >= 720 else "ITU601")
                )
            )
            assert (
                pixels.shape == (height, width, 4)
                and np.abs(pixels[height // 2, width // 2, 2::-1].astype(int) - shade).max() <= 4
            )


@pytest.mark.parametrize("suffix", ["png", "tiff", "webp", "jpg", "bmp"])
def test_every_kind_of_still_is_read(tmp_path: Path, suffix: str) -> None:
    rgb = np.zeros((20, 30, 3), np.uint8)
    rgb[:, :15], rgb[:, 15:] = (200, 40, 90), (10, 120, 240)
    Image.fromarray(rgb).save(tmp_path / f"a.{suffix}", quality=100)
    pixels, opaque = read_still(tmp_path / f"a.{suffix}")
    assert opaque and pixels.shape == (20, 30, 4)
    assert np.abs(pixels[:, [3, 26], 2::-1].astype(int) - rgb[:, [3, 26]]).max() <= 6


@pytest.mark.parametrize(("mode", "suffix"), [("RGBA", "png"), ("RGBA", "tiff"), ("RGBA", "webp"), ("LA", "png")])
def test_alpha_is_premultiplied(tmp_path: Path, mode: str, suffix: str) -> None:
    rgba = np.zeros((8, 8, 4), np.uint8)
    rgba[:] = (200, 200, 200, 128)
    Image.fromarray(rgba).convert(mode).save(tmp_path / f"a.{suffix}", lossless=True)
    pixels, opaque = read_still(tmp_path / f"a.{suffix}")
    assert not opaque and pixels[4, 4].tolist() == [100, 100, 100, 128]


@pytest.mark.parametrize(("turn", "corner"), [(1, (0, 0)), (3, (1, 1)), (6, (0, 1)), (8, (1, 0))])
def test_exif_turns_the_picture(tmp_path: Path, turn: int, corner: tuple[int, int]) -> None:
    # EXIF 2.32 orientation (from memory): 3 is half a turn, 6 a quarter clockwise, 8 a quarter anticlockwise.
    rgb = np.zeros((40, 60, 3), np.uint8)
    rgb[:20, :30] = 255
    exif = Image.Exif()
    exif[0x0112] = turn
    Image.fromarray(rgb).save(tmp_path / "a.jpg", exif=exif, quality=98)
    pixels, _ = read_still(tmp_path / "a.jpg")
    h, w = pixels.shape[:2]
    assert (h, w) == ((40, 60) if turn in (1, 3) else (60, 40))
    assert pixels[h // 4 + corner[0] * h // 2, w // 4 + corner[1] * w // 2, 0] > 240


def test_a_16_bit_grey_still_is_scaled_not_clipped(tmp_path: Path) -> None:
    Image.fromarray(np.array([[0, 257 * 100, 65535]], np.uint16)).save(tmp_path / "a.png")
    assert read_still(tmp_path / "a.png")[0][0, :, 0].tolist() == [0, 100, 255]


def test_a_clip_loops_without_a_gap(tmp_path: Path) -> None:
    shades = [20, 60, 100, 140, 180, 220]
    reader = ClipReader(write_clip(tmp_path / "a.mp4", shades))
    try:
        assert reader.wait(300)
        seen = []
        for n in range(30):  # five passes, one frame of the clip a step
            time.sleep(0.01)
            end = time.monotonic() + 300
            while time.monotonic() < end and not any(made.time <= n / 25 + 1e-3 for made in list(reader._ready)):
                time.sleep(0.002)
            frame = reader.frame(n / 25)
            reader.go_on()
            assert frame is not None
            seen.append(int(frame.pixels[24, 32, 1]))
        want = [shades[n % 6] for n in range(30)]
        assert np.abs(np.array(seen) - want).max() <= 4
    finally:
        reader.close()


def test_the_exact_frame_is_found_at_any_time(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "a.mp4", [20, 60, 100, 140, 180, 220])
    for n in (0, 1, 5, 6, 8, 605):
        assert abs(int(frame_at(path, n / 25 + 0.005).pixels[24, 32, 1]) - [20, 60, 100, 140, 180, 220][n % 6]) <= 4


def test_tagged_colours_come_out_as_bt709_says(tmp_path: Path) -> None:
    """YCbCr in limited range, tagged BT.709, decoded by us and by colour-science."""
    codes = np.array([[63, 102, 240], [173, 42, 26], [180, 128, 128], [16, 128, 128], [235, 128, 128], [100, 140, 170]])
    path = tmp_path / "a.mkv"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv444p"
        context = stream.codec_context
        context.colorspace = context.color_primaries = context.color_trc = 1
        context.color_range = 1
        for code in codes:
            frame = av.VideoFrame.from_ndarray(np.repeat(code.astype(np.uint8), 64 * 64).reshape(3, 64, 64), "yuv444p")
            frame.colorspace, frame.color_range = 1, 1
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
    for n, code in enumerate(codes):
        found = frame_at(path, n / 25 + 0.005).pixels[32, 32, 2::-1].astype(int)
        rgb = colour.YCbCr_to_RGB(
            code, K=colour.WEIGHTS_YCBCR["ITU-R BT.709"], in_bits=8, in_legal=True, in_int=True, out_legal=False
        )
        assert np.abs(found - np.clip(rgb * 255, 0, 255)).max() <= 2, code


@pytest.mark.parametrize(
    "make",
    [
        lambda d: Clip(id="a", name="Aisle", path=str(d / "nowhere.mp4")),
        lambda d: Still(id="a", name="Aisle", path=str(d / "nowhere.png")),
        lambda d: Folder(id="a", name="Aisle", path=str(d / "nowhere")),
        lambda d: Folder(id="a", name="Aisle", path=str(d / "empty")),
        lambda d: Clip(id="a", name="Aisle", path=str(d / "rubbish.mp4")),
        lambda d: Still(id="a", name="Aisle", path=str(d / "rubbish.mp4")),
        lambda d: Clip(id="a", name="Aisle", path=str(d / "empty")),
    ],
)
def test_what_cannot_be_had_becomes_a_named_lost_picture(tmp_path: Path, make: object) -> None:
    (tmp_path / "empty").mkdir()
    (tmp_path / "rubbish.mp4").write_bytes(b"\x00\x01\x02rubbish" * 200)
    player = open_player(make(tmp_path))  # type: ignore[operator]
    frame = player.frame(0.0)
    assert player.fault and frame is not None and frame.pixels.shape == (720, 1280, 4)
    assert frame is player.frame(1.0), "the same picture, not a new one each frame"
    player.close()


def test_a_clip_cut_off_half_way_goes_on_or_is_lost_but_never_raises(tmp_path: Path) -> None:
    whole = write_clip(tmp_path / "a.mkv", list(range(0, 250, 5))).read_bytes()
    for share in (0.3, 0.6, 0.9):
        path = tmp_path / "cut.mkv"
        path.write_bytes(whole[: int(len(whole) * share)])
        player = open_player(Clip(id="a", name="A", path=str(tmp_path / "cut.mkv")))
        for n in range(40):
            player.frame(n / 25)
            time.sleep(0.003)
        assert player.frame(2.0) is not None
        player.close()


def test_what_alpha_means_is_said_for_a_still_and_a_clip(tmp_path: Path) -> None:
    rgba = np.full((16, 32, 4), (200, 100, 40, 128), np.uint8)
    Image.fromarray(rgba, "RGBA").save(tmp_path / "a.png")
    with av.open(str(tmp_path / "a.mov"), "w") as made:
        stream = made.add_stream("qtrle", rate=25)
        stream.width, stream.height, stream.pix_fmt = 32, 16, "argb"
        for packet in [*stream.encode(av.VideoFrame.from_ndarray(rgba, format="rgba")), *stream.encode(None)]:
            made.mux(packet)
    meant = {"straight": (20, 50, 100, 128), "premultiplied": (40, 100, 128, 128), "ignored": (40, 100, 200, 255)}
    for alpha, codes in meant.items():
        for source in (
            Still(id="s", name="S", path=str(tmp_path / "a.png")),
            Clip(id="c", name="C", path=str(tmp_path / "a.mov")),
        ):
            told = source.model_copy(update={"picture": SourcePicture(alpha=alpha)})
            player = open_player(told)
            frame = player.exact(0.0)
            player.close()
            assert tuple(frame.pixels[3, 5]) == codes and frame.opaque == (alpha == "ignored"), (alpha, source.kind)
            assert opening_key(told) != opening_key(source) or alpha == "straight", "it is opened anew"
            assert pictured(frame.pixels, told.picture) is frame.pixels


def test_a_folder_shows_in_order_of_names_as_people_count(tmp_path: Path) -> None:
    for n in (1, 2, 10):
        Image.new("RGB", (8, 8), (n * 20, 0, 0)).save(tmp_path / f"slide {n}.png")
    (tmp_path / "notes.txt").write_text("not a picture")
    player = open_player(Folder(id="a", name="A", path=str(tmp_path), hold=2))
    assert [int(player.exact(t).pixels[0, 0, 2]) for t in (0, 1.9, 2, 4, 6)] == [20, 20, 40, 200, 20]


def test_a_countdown_counts_down_and_stays_at_zero() -> None:
    player = open_player(Countdown(id="a", name="A", seconds=3))
    pictures = [player.exact(t) for t in (0, 0.5, 1.2, 3, 9)]
    assert pictures[0].serial == pictures[1].serial != pictures[2].serial and pictures[3].serial == pictures[4].serial


def test_what_is_drawn_ahead_is_there_when_its_time_comes() -> None:
    player = open_player(Countdown(id="a", name="A", seconds=30))
    first = player.frame(0.0)
    assert first is not None

    def another() -> bool:
        player.frame(0.9)
        second = player.frame(1.0)
        return second is not None and second.serial != first.serial

    assert wait_for(another)
    second = player.frame(1.0)
    assert second is not None and (second.pixels == player.exact(1.0).pixels).all()


def test_a_file_is_whole_or_untouched(tmp_path: Path, show: Show, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "show.adze"
    save_show(show, path)
    before = path.read_bytes()

    def full(*args: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(writing.os, "fsync", full)
    with pytest.raises(ShowError, match="could not be saved"):
        save_show(show.model_copy(update={"name": "Other"}), path)
    assert path.read_bytes() == before and [p.name for p in tmp_path.iterdir()] == ["show.adze"]


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("", "the file is empty"),
        ('{"format": "ushering-adze show", "vers', "cut off at line 1"),
        ("<xml/>", "not JSON (line 1, column 1"),
        ("[" * 100000, ""),
        ('{"a": 1}', "not a show file"),
        ("\x00\x01", "not JSON"),
    ],
)
def test_a_file_that_is_no_show_says_so(tmp_path: Path, text: str, what: str) -> None:
    path = tmp_path / "bad.adze"
    path.write_text(text)
    with pytest.raises(ShowError) as caught:
        read_show(path)
    assert str(caught.value).startswith("bad.adze") and what in str(caught.value)


def test_any_cut_of_a_real_file_is_refused_in_a_sentence(demo_file: Path, tmp_path: Path) -> None:
    data = demo_file.read_bytes()
    path = tmp_path / "cut.adze"
    for share in np.linspace(0.01, 0.99, 23):
        path.write_bytes(data[: int(len(data) * share)])
        with pytest.raises(ShowError):
            read_show(path)
    path.write_bytes(b"\xff\xfe" + data)
    with pytest.raises(ShowError, match="not UTF-8"):
        read_show(path)


def test_media_paths_follow_the_show_to_another_folder(demo_file: Path, tmp_path: Path) -> None:
    show = read_show(demo_file)
    assert media_faults(show) == []
    near = portable(show, demo_file.parent)
    assert (
        all(not Path(s.path).is_absolute() for s in near.sources if getattr(s, "path", None))
        and absolute(near, demo_file.parent) == show
    )
    assert len(media_faults(absolute(near, tmp_path))) == 10
    save_show(show, tmp_path / "other.adze")
    assert read_show(tmp_path / "other.adze") == show, "saved elsewhere it leads where it led"


def test_a_clip_is_sent_to_any_moment_and_goes_on_from_there(tmp_path: Path) -> None:
    """Forward, backward, past its end and round: what is shown there is what decoding from the beginning finds."""
    path = write_clip(tmp_path / "steps.mp4", [8 * n for n in range(30)])
    length = 30 / 25
    reader = ClipReader(path)
    try:
        assert reader.wait(300)
        for seconds in (0.0, 0.04, 1.0 + 5 * length, 0.4, 1.1, 0.2, 3 * length + 0.2, 0.0):
            expected = frame_at(path, seconds).pixels

            def there(seconds: float = seconds, expected: np.ndarray = expected) -> bool:
                frame = reader.frame(seconds)
                reader.go_on()
                return frame is not None and np.array_equal(frame.pixels, expected)

            assert wait_for(there), seconds
        before = reader.frame(0.0)
        assert before is not None
        assert wait_for(lambda: (f := reader.frame(0.4)) is not None and f.serial != before.serial), "and goes on"
    finally:
        reader.close()
        reader.join(5)
