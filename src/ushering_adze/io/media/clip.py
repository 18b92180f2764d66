"""Clips: decoding ahead in a thread, in a loop without a gap."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av
import av.filter
import numpy as np
from av.video.reformatter import Interpolation, VideoReformatter

from ushering_adze.core.picture.frame import Frame, Sized, Sizes
from ushering_adze.core.picture.resampling import Cut, resample
from ushering_adze.core.plane.pixels import AlphaOf, Pixels, by_alpha
from ushering_adze.core.plane.rect import Rect
from ushering_adze.io.media.deep import TRANSFERS, Plain, eight_bits, is_deep, shallow_format
from ushering_adze.io.media.still import MediaError, serials
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns, Work

AHEAD = 5
STALLED = 3.0
"""Seconds without a picture that is due, after which a clip is a fault."""
MOST_TRIES = 64
"""How often reading goes on behind what is damaged."""
ROUNDED = 0.0006
"""Seconds by which times in files are rounded, at most: some count in thousandths."""
JUMP = 1.0
"""Seconds by which a position must leap forward to be sought; less is read through."""


def opened_clip(path: Path) -> Any:
    if not path.is_file():
        raise MediaError(f"no file {path.name}")
    try:
        container = av.open(str(path), options={"protocol_whitelist": "file"})  # a playlist in it leads nowhere else
    except (av.FFmpegError, OSError, ValueError) as error:
        raise MediaError(f"{path.name} cannot be opened as a clip ({type(error).__name__})") from None
    if not container.streams.video:
        container.close()
        raise MediaError(f"{path.name} has no picture in it")
    container.streams.video[0].thread_type = "SLICE"
    return container


class Converter:
    """Converts the frames of one stream to BGRA.

    What is prepared for the first frame serves all that follow: made anew for each, it costs more than the conversion
    itself.
    """

    def __init__(self, shape: Fraction | None = None, alpha_of: AlphaOf = "straight") -> None:
        self._reformatter, self._dither = VideoReformatter(), VideoReformatter()
        self._shape = shape if shape else Fraction(1)
        self._plain, self._alpha_of = Plain(), alpha_of

    def pixels(self, frame: Any) -> tuple[Pixels, bool]:
        """A decoded frame by its own tags, and whether it is opaque; untagged ones count as BT.709 from 720 lines up,
        else BT.601.  What is deeper than eight bits is dithered, what is of a high dynamic range brought down to a
        plain one.
        """
        options: dict[str, Any] = {}
        if int(frame.colorspace) == 2:  # unspecified
            options["src_colorspace"] = "ITU709" if frame.height >= 720 else "ITU601"
        # The quick way of libswscale leaves up to four last columns unwritten unless rows are whole runs of 16 pixels
        # (seen with 9.5).
        how = Interpolation.BILINEAR if frame.width % 16 == 0 else Interpolation.BILINEAR | Interpolation.ACCURATE_RND
        if self._shape > 1:  # pixels that are wider than high: more of them across, and they are square
            options["width"] = round(frame.width * self._shape)
        elif self._shape < 1:
            options["height"] = round(frame.height / self._shape)
        pixels = self._straight(frame, how, options)
        if frame.rotation % 360:  # how it has to be turned, counterclockwise
            pixels = np.rot90(pixels, round(frame.rotation / 90))
        if any(c.is_alpha for c in frame.format.components):
            return by_alpha(np.ascontiguousarray(pixels), self._alpha_of)
        return np.ascontiguousarray(pixels), True

    def _straight(self, frame: Any, how: Interpolation, options: dict[str, Any]) -> Pixels:
        """A frame as straight BGRA."""
        options = {"interpolation": how, "threads": 1, **options}
        transfer = TRANSFERS.get(int(frame.color_trc))
        if transfer is not None:
            deep = self._reformatter.reformat(frame, format="rgba64le", **options)
            return eight_bits(self._plain.frame(deep, transfer))
        if is_deep(frame):
            shallow = shallow_format(frame.format.name)
            if shallow is None:
                return eight_bits(self._reformatter.reformat(frame, format="rgba64le", **options))
            frame = self._dither.reformat(frame, format=shallow, threads=1)
        made: Pixels = self._reformatter.reformat(frame, format="bgra", **options).to_ndarray()
        return made


def _alpha_decoder(stream: Any) -> Any | None:
    """A decoder that keeps the alpha of VP8 and VP9; None for whatever needs none.

    Alpha travels beside the picture, and says so in a tag of the stream; only libvpx puts the two together.
    """
    libvpx = {"vp8": "libvpx", "vp9": "libvpx-vp9"}.get(stream.codec_context.name)
    if libvpx is None or stream.metadata.get("alpha_mode", stream.metadata.get("ALPHA_MODE")) != "1":
        return None
    try:
        return av.CodecContext.create(libvpx, "r")
    except (av.FFmpegError, ValueError):
        return None


def _packets(container: Any, stream: Any) -> Iterator[Any]:
    """Packets to the end of the pass; what cannot be read is passed over, as long as something comes behind it."""
    for _ in range(MOST_TRIES):
        came = False
        try:
            for packet in container.demux(stream):
                came = True
                yield packet
            return
        except av.error.InvalidDataError:
            if not came:
                return


class Deinterlacer:
    """Makes a picture of each field of frames that are interlaced; others go through untouched.

    References
    ----------
    FFmpeg filters documentation, *bwdif*: J. Weston's three-field deinterlacing with edges found in time.
    """

    def __init__(self, stream: Any) -> None:
        self._stream = stream
        self._graph: Any | None = None

    def _begin(self, frame: Any) -> None:
        graph = av.filter.Graph()
        base = frame.time_base or self._stream.time_base
        source = graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=base)
        fields = graph.add("bwdif", "mode=send_field:parity=auto:deint=interlaced")
        sink = graph.add("buffersink")
        source.link_to(fields)
        fields.link_to(sink)
        graph.configure()
        self._graph = graph

    def pictures(self, frame: Any | None) -> Iterator[Any]:
        """The pictures that are there with one more frame; with None, those that are still to come at the end."""
        if self._graph is None:
            if frame is None or not frame.interlaced_frame:
                if frame is not None:
                    yield frame
                return
            self._begin(frame)
        assert self._graph is not None
        self._graph.push(frame)
        while True:
            try:
                yield self._graph.pull()
            except (av.BlockingIOError, av.EOFError):
                return


def decoded(container: Any, first: float | None = None) -> Iterator[tuple[float, Any]]:
    """Every frame to the end of the pass, with its time in seconds from the first, whose own time is ``first`` if that
    is known.  What is damaged is passed over: the frames behind it come.
    """
    stream = container.streams.video[0]
    period, decoder, fields = clip_period(container), _alpha_decoder(stream), Deinterlacer(stream)
    n, wrong = 0, None
    for packet in _packets(container, stream):
        try:
            frames = packet.decode() if decoder is None else decoder.decode(packet if packet.size else None)
        except av.error.InvalidDataError as error:
            wrong = error
            continue
        for whole in frames:
            for frame in fields.pictures(whole):
                time = float(frame.time) if frame.time is not None else n * period
                first = time if first is None else first
                n += 1
                yield time - first, frame
    for frame in fields.pictures(None):
        yield (float(frame.time) if frame.time is not None else n * period) - (first or 0.0), frame
    if wrong is not None and not n:
        raise wrong


def clip_length(container: Any) -> float:
    """Seconds of one pass; 0 if the file does not say."""
    stream = container.streams.video[0]
    if stream.duration:
        return float(stream.duration * stream.time_base)
    return container.duration / av.time_base if container.duration else 0.0


def clip_period(container: Any) -> float:
    """Seconds of one frame."""
    stream = container.streams.video[0]
    return 1 / float(stream.average_rate or stream.base_rate or 25)


def frame_at(path: Path, seconds: float, alpha_of: AlphaOf = "straight") -> Frame:
    """The frame a looping clip shows ``seconds`` after its start; found by decoding from the beginning of a pass."""
    with opened_clip(path) as container:
        period = clip_period(container)
        length = clip_length(container)
        want = seconds % length if length > 0 else seconds
        best = None
        try:
            for time, frame in decoded(container):
                if best is not None and time > want + min(period * 0.25, ROUNDED):
                    break
                best = frame
        except av.FFmpegError as error:
            if best is None:
                raise MediaError(f"{path.name} cannot be decoded ({type(error).__name__})") from None
        if best is None:
            raise MediaError(f"{path.name} has no frames")
        shape = container.streams.video[0].sample_aspect_ratio
        pixels, opaque = Converter(shape, alpha_of).pixels(best)
        return Frame(pixels, next(serials), opaque)


class _Made(NamedTuple):
    """A picture that was read ahead, and the cuts of it; those that are wanted later on are added."""

    time: float
    frame: Frame
    sized: dict[Sized, Pixels]


class ClipReader:
    """Decodes one clip in a thread of its own, a few frames ahead, from a ``start`` on, on a timeline that goes on
    through every loop.
    """

    def __init__(
        self, path: Path, turns: Turns | None = None, start: float = 0.0, alpha_of: AlphaOf = "straight"
    ) -> None:
        self._path = path
        self._decoding, self._converting, self._sizing = (
            Work(turns, self._behind),
            Work(turns, self._behind),
            Work(turns),
        )
        self._container = opened_clip(path)
        self._converter = Converter(self._container.streams.video[0].sample_aspect_ratio, alpha_of)
        self.sizes = Sizes()
        self._ready: deque[_Made] = deque()
        self._room = threading.Condition()
        self._wanted = start
        self._came = time.monotonic()
        self._asked: float | None = None
        """When the file was asked for what it has not given yet."""
        self._current: _Made | None = None
        self._closed = self._took = False
        stream = self._container.streams.video[0]
        self.bytes = stream.width * stream.height * 4
        """Of one picture."""
        self.length = clip_length(self._container)
        """Seconds of one pass; 0 if the file does not say."""
        self._first = float(stream.start_time * stream.time_base) if stream.start_time else 0.0
        self._target: float | None = start if start > 0 else None
        self._stale = False
        self.fault: str | None = None
        self._thread = threading.Thread(target=self._run, name=f"decode {path.name}", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        give_way()
        base = 0.0
        period = clip_period(self._container)
        try:
            while not self._closed:
                last, count, target = 0.0, 0, self._take_target()
                if target is not None:
                    base = target - self._seek(target)
                try:
                    frames = decoded(self._container, None if target is None else self._first)
                    while (found := self._next(frames)) is not None:
                        if self._closed:
                            return
                        last, count = found[0], count + 1
                        if target is None or base + last + period > target:
                            self._keep(base + last, found[1], period)
                        if self._target is not None:
                            break
                except av.FFmpegError as error:
                    if not count:
                        raise MediaError(f"{self._path.name} cannot be decoded ({type(error).__name__})") from None
                if self._target is not None:
                    continue
                if not count and target is None:
                    raise MediaError(f"{self._path.name} has no frames")
                base += last + period
                self._rewind()
        except (MediaError, av.FFmpegError, OSError, ValueError) as error:
            self.fault = str(error)
        finally:
            self._container.close()
            with self._room:
                self._room.notify_all()

    def _take_target(self) -> float | None:
        """Where reading has to go on, if somebody wants it elsewhere than where it is."""
        with self._room:
            target, self._target = self._target, None
            if target is not None:
                self._ready.clear()
            return target

    def _seek(self, seconds: float) -> float:
        """Go to the last picture before a position from which reading can begin; gives the position within its pass."""
        stream = self._container.streams.video[0]
        within = seconds % self.length if self.length > 0 else seconds
        try:
            with self._asking():
                self._container.seek(max(0, int((self._first + within) / stream.time_base)), stream=stream)
        except av.FFmpegError:
            self._rewind()
        return within

    def _behind(self) -> bool:
        return not self._ready

    def _next(self, frames: Iterator[tuple[float, Any]]) -> tuple[float, Any] | None:
        with self._decoding, self._asking():
            return next(frames, None)

    @contextmanager
    def _asking(self) -> Iterator[None]:
        self._asked = time.monotonic()
        try:
            yield
        finally:
            self._asked = None

    def _rewind(self) -> None:
        with self._asking():
            try:
                self._container.seek(0)
            except av.FFmpegError:
                self._container.close()
                self._container = opened_clip(self._path)

    def _keep(self, time: float, raw: Any, period: float) -> None:
        with self._room:
            late = time + period < self._wanted
        if late and self._ready:
            return  # behind the show: this frame will never be seen, so it is not worth converting
        with self._converting:
            pixels, opaque = self._converter.pixels(raw)
        sized: dict[Sized, Pixels] = {}
        self._size(pixels, sized, self.sizes.next())
        made = _Made(time, Frame(pixels, next(serials), opaque), sized)
        while not self._closed and self._target is None:
            if self.sizes.news:
                self._size_all(made)
            with self._room:
                if len(self._ready) < AHEAD:
                    self._ready.append(made)
                    self._room.notify_all()
                    return
                if not self.sizes.news:
                    self._room.wait(0.5)

    def _size(self, pixels: Pixels, sized: dict[Sized, Pixels], cuts: frozenset[Sized]) -> None:
        """Have these cuts of a picture, and no others, at their sizes."""
        for gone in sized.keys() - cuts:
            del sized[gone]
        for take, width, height in cuts - sized.keys():
            if take.right <= pixels.shape[1] and take.foot <= pixels.shape[0]:
                with self._sizing:
                    sized[take, width, height] = resample(pixels, Cut(take, Rect(0, 0, width, height)))

    def _size_all(self, newest: _Made) -> None:
        """Have the cuts that are wanted by now of every picture that is there, the soonest to be shown first."""
        cuts = self.sizes.wanted()
        with self._room:
            there = [*([self._current] if self._current is not None else []), *self._ready, newest]
        for made in there:
            self._size(made.frame.pixels, made.sized, cuts)

    def frame(self, seconds: float) -> Frame | None:
        """The newest decoded frame due at ``seconds``; never waits.  None until the first frame is there.

        Room that this makes is filled from the next `go_on` on, or half a second later.  A position before the picture
        shown, or one that leaps ahead, is sought: the picture stands until that one is there.
        """
        with self._room:
            leap = seconds > self._wanted + JUMP
            self._wanted = seconds
            if self._current is None or seconds <= self._current.time + 1:
                self._came = time.monotonic()
            newest = (
                self._ready[-1].time if self._ready else self._current.time if self._current is not None else seconds
            )
            if (
                self._current is not None
                and not self._stale
                and (seconds < self._current.time - 0.02 or (leap and seconds > newest + JUMP))
            ):
                self._target, self._stale = seconds, True
                self._ready.clear()
                self._room.notify_all()
            while (
                self._ready
                and self._target is None
                and (self._ready[0].time <= seconds + 1e-3 or self._current is None or self._stale)
            ):
                self._current, self._stale = self._ready.popleft(), False
                self._took, self._came = True, time.monotonic()
            return self._current.frame if self._current is not None else None

    @property
    def newest(self) -> Frame | None:
        """The frame that was shown last, or the first that is ready."""
        with self._room:
            if self._current is not None:
                return self._current.frame
            return self._ready[0].frame if self._ready else None

    @property
    def stalled(self) -> bool:
        """Whether a picture has been due for long and none came, because the file does not answer: one that is only
        late, on a machine that has no time for it, is not stalled.
        """
        now, asked = time.monotonic(), self._asked
        due = self._current is not None and not self._ready and now - self._came > STALLED
        return due and asked is not None and now - asked > STALLED

    def made(self, serial: int, cut: Sized) -> Pixels | None:
        """A cut of the picture that is shown, or of one that is ready, if it was made ahead."""
        shown = self._current
        if shown is not None and shown.frame.serial == serial:
            return shown.sized.get(cut)
        return next((m.sized.get(cut) for m in list(self._ready) if m.frame.serial == serial), None)

    def go_on(self) -> None:
        """Let the next frames be decoded, or brought to sizes that were asked for: whoever takes them has time for that
        now.
        """
        if self._took or self.sizes.news:
            with self._room:
                self._took = False
                self._room.notify_all()

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait until ``ahead`` frames (at most what is read ahead) are there beyond the one shown, or the clip has
        failed.
        """
        least = min(ahead, AHEAD)
        with self._room:
            return self._room.wait_for(
                lambda: (
                    len(self._ready) >= least or (least == 1 and self._current is not None) or self.fault is not None
                ),
                timeout,
            )

    def close(self) -> None:
        """Stop decoding; returns at once."""
        with self._room:
            self._closed = True
            self._room.notify_all()

    def join(self, timeout: float) -> None:
        """Wait until the thread has ended."""
        self._thread.join(timeout)
