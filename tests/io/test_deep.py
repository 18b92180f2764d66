"""Frames of ten bits and more, every matrix and range, and high dynamic range, against colour-science."""

from __future__ import annotations

import warnings
from pathlib import Path

import av
import numpy as np
import pytest

from ushering_adze.core.light.hdr import TO_709, compressed, cube, hlg_to_nits, nits_to_pq, plain, pq_to_nits
from ushering_adze.core.plane.pixels import dithered
from ushering_adze.core.show import Clip
from ushering_adze.io.media import open_player
from ushering_adze.io.media.clip import Converter

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

MATRICES = {"ITU-R BT.601": 5, "ITU-R BT.709": 1, "ITU-R BT.2020": 9}
"""Names of colour-science, and numbers of ITU-T H.273, table 4."""
SIDE = 64


def flat(form: str, codes: tuple[int, int, int], matrix: int, limited: bool, transfer: int = 1) -> av.VideoFrame:
    """A frame of one colour, tagged."""
    frame = av.VideoFrame(SIDE, SIDE, form)
    for plane, code in zip(frame.planes, codes, strict=True):
        kind = np.uint16 if plane.buffer_size >= plane.width * plane.height * 2 else np.uint8
        plane.update(np.full(plane.buffer_size // np.dtype(kind).itemsize, code, kind).tobytes())
    frame.colorspace, frame.color_range, frame.color_trc = matrix, 1 if limited else 2, transfer
    return frame


@pytest.mark.parametrize("bits", [8, 10, 12])
@pytest.mark.parametrize("limited", [True, False])
@pytest.mark.parametrize("name", MATRICES)
def test_every_matrix_and_range_gives_the_colours_it_means(name: str, limited: bool, bits: int) -> None:
    rng = np.random.default_rng(bits)
    form = "yuv444p" if bits == 8 else f"yuv444p{bits}le"
    for rgb in rng.uniform(0.1, 0.9, (6, 3)):
        codes = colour.RGB_to_YCbCr(
            rgb,
            colour.WEIGHTS_YCBCR[name],
            out_bits=bits,
            out_legal=limited,
            out_int=True,
        )
        meant = colour.YCbCr_to_RGB(
            codes, colour.WEIGHTS_YCBCR[name], in_bits=bits, in_legal=limited, in_int=True, out_bits=8, out_int=False
        )
        frame = flat(form, tuple(int(c) for c in codes), MATRICES[name], limited)
        pixels, opaque = Converter().pixels(frame)
        got = pixels[..., 2::-1].reshape(-1, 3).mean(0) / 255
        assert opaque and np.abs(got - meant).max() < 1.6 / 255, (rgb, got * 255, meant * 255)


def test_ten_bits_are_dithered_and_not_cut() -> None:
    """A ramp of a tenth of a code each: eight bits alone would make steps of it."""
    means, before = [], []
    for code in range(400, 440):
        frame = flat("yuv420p10le", (code, 512, 512), 1, True)
        means.append(Converter().pixels(frame)[0][..., 1].mean())
        before.append(len(np.unique(Converter().pixels(frame)[0][..., 1])))
    steps = np.diff(means)
    assert (steps > 0).all() and np.abs(steps - 255 / 876).max() < 0.25, "each of ten bits is another mean"
    assert max(before) > 1


def test_what_is_deep_otherwise_is_dithered_to_a_64th_of_a_code() -> None:
    for code in (0, 257, 12345, 40000, 65535):
        made = dithered(np.full((64, 64, 4), code, np.uint16))
        assert abs(made.mean() - code / 257) <= 1 / 64
    frame = av.VideoFrame.from_ndarray(np.full((SIDE, SIDE, 3), 12345, np.uint16), format="rgb48le")
    pixels, opaque = Converter().pixels(frame)
    assert opaque and abs(pixels[..., :3].mean() - 12345 / 257) < 0.1


def test_high_dynamic_range_is_what_the_standards_say() -> None:
    codes = np.linspace(0, 1, 101)
    assert np.allclose(pq_to_nits(codes), colour.models.eotf_ST2084(codes), rtol=1e-9)
    assert np.allclose(nits_to_pq(pq_to_nits(codes)), codes, atol=1e-6), "the code of no light is not quite 0"
    rgb = np.random.default_rng(1).uniform(0, 1, (200, 3))
    assert np.allclose(hlg_to_nits(rgb), colour.models.eotf_BT2100_HLG(rgb, L_B=0, L_W=1000), rtol=1e-6, atol=1e-4)
    assert np.abs(colour.matrix_RGB_to_RGB("ITU-R BT.2020", "ITU-R BT.709", None) - TO_709).max() < 1e-4
    light = np.linspace(0, 1000, 500)
    bent = compressed(light)
    assert (np.diff(bent) > -1e-9).all() and bent.max() == pytest.approx(203) and np.abs(bent - light)[:30].max() < 1


@pytest.mark.parametrize(("transfer", "number"), [("PQ", 16), ("HLG", 18)])
def test_a_frame_of_a_high_dynamic_range_is_brought_down(transfer: str, number: int) -> None:
    for grey in (64, 200, 400, 600, 721, 940):
        pixels, _ = Converter().pixels(flat("yuv420p10le", (grey, 512, 512), 9, True, number))
        meant = plain([[(grey - 64) / 876] * 3], transfer)[0] * 255  # type: ignore[arg-type]
        assert np.abs(pixels[..., 2::-1].reshape(-1, 3).mean(0) - meant).max() < 1.5
    assert cube(transfer, 3).splitlines()[0] == "LUT_3D_SIZE 3"  # type: ignore[arg-type]
    assert cube(transfer, 3).splitlines()[-1] == "1.000000 1.000000 0.999958"  # type: ignore[arg-type]


def test_a_clip_of_a_high_dynamic_range_is_shown_with_its_white_below_its_lights(tmp_path: Path) -> None:
    path = tmp_path / "hlg.mkv"
    with av.open(str(path), "w") as made:
        stream = made.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p10le"
        stream.codec_context.color_trc, stream.codec_context.colorspace, stream.codec_context.color_range = 18, 9, 1
        for grey in (64, 721, 940):  # black, diffuse white (75 %), the brightest light
            frame = flat("yuv420p10le", (grey, 512, 512), 9, True, 18)
            made.mux(stream.encode(frame))
        made.mux(stream.encode(None))
    player = open_player(Clip(id="c", name="C", path=str(path)))
    shown = [player.exact(n / 25 + 0.001).pixels[..., :3].mean() for n in range(3)]
    player.close()
    assert shown[0] < 1 and 222 < shown[1] < 238 and shown[2] > 254
