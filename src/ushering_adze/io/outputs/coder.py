"""Pictures coded to a stream or a file, by where they go."""

from __future__ import annotations

import contextlib
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter

from ushering_adze.core.plane.pixels import Pixels, straight
from ushering_adze.core.signal.timing import exact_rate
from ushering_adze.core.sound.levels import RATE, Sound
from ushering_adze.io.srt import SrtError, through_srt

PACKET = 1316
"""Bytes of a datagram: seven packets of a transport stream (ISO/IEC 13818-1) in one of Ethernet's usual size."""
FRAGMENT = 1_000_000
"""Microseconds after which a file is written so far that it can be played."""
TIMEOUT = 5.0


class Coding(NamedTuple):
    """How pictures are coded: size, pictures a second, thousands of bits a second, seconds between key frames, and
    whether their alpha goes with them.
    """

    width: int
    height: int
    rate: float
    kbit: int = 6000
    key_seconds: float = 2.0
    alpha: bool = False
    hardware: bool = False
    sound: int = 0
    """Thousands of bits a second of its sound; 0 if it has none."""


class CodingError(ValueError):
    """It cannot be sent so; the text is a sentence with its cure."""


def _way(to: str, stack: ExitStack) -> tuple[str, str, dict[str, str]]:
    """Address, format and options of where it goes."""
    kind = to.partition("://")[0].lower() if "://" in to else ""
    if kind == "srt":
        try:
            to, _ = stack.enter_context(through_srt(to, out=True))
        except SrtError as error:
            raise CodingError(str(error)) from None
        kind = "udp"
    match kind:
        case "udp":
            return (to if "pkt_size=" in to else f"{to}{'&' if '?' in to else '?'}pkt_size={PACKET}"), "mpegts", {}
        case "rtp":
            return to, "rtp_mpegts", {}
        case "rtmp" | "rtmps":
            return to, "flv", {"flvflags": "no_duration_filesize"}
        case "rtsp" | "rtsps":
            return to, "rtsp", {"rtsp_transport": "tcp"}
        case "":
            return _file(to)
    raise CodingError(
        f"{kind}:// is no way out; there are udp, rtp, rtmp, rtsp, srt, http, a file .mp4 .mov .mkv .ts .m3u8, a folder"
    )


def _file(to: str) -> tuple[str, str, dict[str, str]]:
    if to.startswith("/dev/video"):
        return to, "v4l2", {}
    path = Path(to)
    pieces = {"movflags": "frag_keyframe+empty_moov+default_base_moof", "frag_duration": str(FRAGMENT)}
    match path.suffix.lower():
        case ".mp4":
            return to, "mp4", pieces
        case ".mov":
            return to, "mov", pieces
        case ".mkv":
            return to, "matroska", {"cluster_time_limit": str(FRAGMENT // 1000)}
        case ".ts":
            return to, "mpegts", {}
        case ".m3u8":
            return to, "hls", {"hls_time": "2", "hls_list_size": "8", "hls_flags": "delete_segments+temp_file"}
    raise CodingError(f"{path.name}: there are files .mp4, .mov, .mkv, .ts, .m3u8, or a folder for PNG files; name one")


def _codec(to: str, coding: Coding) -> tuple[str, str, dict[str, str]]:
    """Codec, pixel format and options."""
    if coding.alpha or to.lower().endswith(".mov"):
        if not to.lower().endswith(".mov"):
            raise CodingError("alpha goes only into a file .mov, or PNG files; choose one of these, or go without it")
        return (
            "prores_ks",
            "yuva444p10le" if coding.alpha else "yuv422p10le",
            {
                "profile": "4" if coding.alpha else "3",
                "alpha_bits": "16" if coding.alpha else "0",
            },
        )
    if to.startswith("/dev/video"):
        return "rawvideo", "yuv420p", {}
    if coding.hardware and "h264_nvenc" in av.codecs_available:
        return "h264_nvenc", "yuv420p", {"preset": "p4", "tune": "ll"}
    return "libx264", "yuv420p", {"preset": "veryfast", "tune": "zerolatency", "forced-idr": "1"}


class Coder:
    """Codes pictures, one after another, until it is closed.

    Parameters
    ----------
    to : str
        A URL or a path.
    coding : Coding

    Raises
    ------
    CodingError, av.FFmpegError, OSError
    """

    def __init__(self, to: str, coding: Coding) -> None:
        self._stack = ExitStack()
        self._coding = coding
        even = coding._replace(width=coding.width // 2 * 2, height=coding.height // 2 * 2)
        try:
            codec, pixel_format, options = _codec(to, coding)
            address, kind, more = _way(to, self._stack)
            more = {**more, "flush_packets": "1"}  # what is not written is lost when the machine goes
            self._container = self._stack.enter_context(
                contextlib.closing(av.open(address, "w", format=kind, options=more, timeout=(TIMEOUT, TIMEOUT)))
            )
            rate = exact_rate(coding.rate)
            stream: Any = self._container.add_stream(codec, rate=rate, options=options)
            stream.width, stream.height, stream.pix_fmt = even.width, even.height, pixel_format
            stream.time_base = stream.codec_context.time_base = 1 / rate
            if codec.startswith(("libx264", "h264")):
                stream.bit_rate = coding.kbit * 1000
                stream.gop_size = max(1, round(coding.key_seconds * float(rate)))
                stream.codec_context.max_b_frames = 0
            stream.codec_context.color_range = 1
            stream.codec_context.colorspace = stream.codec_context.color_primaries = stream.codec_context.color_trc = 1
            stream.codec_context.thread_count = 1
            self._audio = self._with_sound(to) if coding.sound else None
        except BaseException:
            self._stack.close()
            raise
        self._stream, self._format, self._even = stream, pixel_format, even
        self._reformatter, self._rate = VideoReformatter(), rate
        self.bytes = 0
        self._samples = 0

    def _with_sound(self, to: str) -> Any | None:
        """The stream of its sound; None where there is no room for one."""
        if to.startswith("/dev/"):
            return None
        whole = to.lower().endswith(".mov")
        audio: Any = self._container.add_stream("pcm_s24le" if whole else "aac", rate=RATE)
        audio.layout = "stereo"
        if not whole:
            audio.bit_rate = self._coding.sound * 1000
        return audio

    def hear(self, sound: Sound) -> None:
        """Code what is heard next.

        Parameters
        ----------
        sound : ndarray, (samples, 2)
        """
        if self._audio is None or not len(sound):
            return
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.T), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._samples, Fraction(1, RATE)
        self._samples += len(sound)
        self._send(self._audio.encode(frame))

    def put(self, pixels: Pixels, number: int) -> None:
        """Code a picture, by its number at the stream's rate.

        Parameters
        ----------
        pixels : ndarray, shape (h, w, 4), uint8
            BGRA, premultiplied, of the size of the coding.
        number : int
        """
        even = np.ascontiguousarray(pixels[: self._even.height, : self._even.width])
        if self._coding.alpha:
            even = straight(even)
        frame = av.VideoFrame.from_ndarray(even, format="bgra")
        made = self._reformatter.reformat(
            frame,
            format=self._format,
            src_colorspace="ITU709",
            dst_colorspace="ITU709",
            dst_color_range="MPEG",
            interpolation=Interpolation.BILINEAR | Interpolation.ACCURATE_RND | Interpolation.FULL_CHR_H_INP,
            threads=1,
        )
        made.pts, made.time_base = number, Fraction(1) / self._rate
        self._send(self._stream.encode(made))

    def _send(self, packets: list[Any]) -> None:
        for packet in packets:
            self.bytes += packet.size
            self._container.mux(packet)

    def close(self) -> None:
        """Write what is still to come, and end."""
        try:
            self._send(self._stream.encode(None))
            if self._audio is not None:
                self._send(self._audio.encode(None))
        finally:
            self._stack.close()
