"""Live pictures: capture devices and network streams, read in a thread, of which only the newest picture counts."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import av
import cv2
import numpy as np

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Input, Source
from ushering_adze.core.show.files import STILLS
from ushering_adze.core.show.source import without_secrets
from ushering_adze.core.signal.captioned import CaptionsOfPictures
from ushering_adze.core.signal.coming import WORDS, Coming, Known, Really, State, Watched, state_of
from ushering_adze.core.sound.dialogue import dialogue_level
from ushering_adze.io.media.address import OPENING, READING, opened
from ushering_adze.io.media.clip import Converter, Deinterlacer, clip_period, frame_at
from ushering_adze.io.media.live_sound import LiveSound
from ushering_adze.io.media.player import Player
from ushering_adze.io.media.really import Measured, really
from ushering_adze.io.media.still import MediaError, serials, still_frame
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns, Work

AGAIN = 2.0
"""Seconds after which a feed that failed is tried again."""
SAMPLE = 64
"""Pixels across of the small picture by which two pictures are compared."""
SAME, DARK = 1.0, 6
"""Mean difference in codes up to which two pictures are the same; code up to which one is black."""
LIVE = 3
"""How much it gives way to those that make frames: little, for what comes late is late for good."""
KEPT = 4
"""Pictures that are kept beyond those that are held back."""
BEHIND, FAR_BEHIND, AT_LEAST = 0.12, 1.0, 0.1
"""Seconds behind from which pictures are passed over, and from which they are not even decoded; seconds from one to
the next that is shown all the same.
"""
BRIDGED = 1.0
"""Seconds for which the last picture stands where pictures stop coming and nothing stands in for them."""
MOST_BAD = 200
"""Packets in a row that may be damaged before a feed is opened anew."""


class Signal(NamedTuple):
    """A live signal at one moment: its state, the same in words, what it is, how many seconds its pictures are held up,
    how many packets were damaged, and the captions in its pictures.
    """

    state: State
    words: str
    real: Really
    behind: float
    damaged: int
    captions: str = ""


class Held(NamedTuple):
    """A picture that is kept for a while: when it would have been there had nothing held it up, the time it says it is
    of, and its frame.
    """

    born: float
    stamp: float | None
    frame: Frame


class LivePlayer(Player):
    """A capture device or stream; what fails is tried again until it is back, and a named picture stands in for it
    meanwhile.
    """

    live = True

    def __init__(self, source: Input, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._converting = Work(turns)
        assert source.address is not None
        self._input, self._shown = source, without_secrets(source.address)
        self._made = source.address.startswith("lavfi:")
        self._newest: Frame | None = None
        self._behind: Frame | None = None
        """The one shown last of those that are held back."""
        self._held: deque[Held] = deque()
        self.most = KEPT
        """How many pictures are kept."""
        self._coming = Coming(began=time.monotonic())
        self._sample: Pixels | None = None
        self._measured = Measured()
        self._really = Really()
        self._change = threading.Condition()
        self._closed = False
        self._ever = self._skips = False
        self.sound: LiveSound | None = None
        self._captions: CaptionsOfPictures | None = None
        self._thread = threading.Thread(target=self._run, name=f"live {source.name}", daemon=True)
        self._thread.start()

    def call(self, source: Source) -> None:
        """Go on under another name, with another delay, watched otherwise."""
        super().call(source)
        assert isinstance(source, Input)
        self._input = source

    # -- reading -------------------------------------------------------------------------------------------------------

    def _run(self) -> None:
        give_way(LIVE)
        while not self._closed:
            with self._change:
                self._coming = Coming(began=time.monotonic())
                self._measured = Measured()
            try:
                with opened(self._input) as container:
                    self._read(container)
                self._failed("it has ended")
            except (av.FFmpegError, OSError, ValueError) as error:
                self._failed(_why(error))
            with self._change:
                self._change.wait_for(lambda: self._closed, AGAIN)

    def _read(self, container: Any) -> None:
        if not container.streams.video:
            raise ValueError("there is no picture in it")
        stream = container.streams.video[0]
        stream.thread_type = "SLICE"
        period = clip_period(container)
        with self._change:
            now = time.monotonic()
            self._coming = self._coming._replace(opened=now, period=period, changed=now, lit=now)
        first, began, size = None, time.monotonic(), None
        self._skips, self._captions = False, None
        fields, converter = Deinterlacer(stream), Converter(stream.sample_aspect_ratio)
        for whole in self._frames(container, stream):
            if size != (size := (whole.width, whole.height)):  # another size in mid-air
                fields, converter = Deinterlacer(stream), Converter(stream.sample_aspect_ratio)
            self._read_captions(whole)
            self._measured.came(time.monotonic(), None if whole.time is None else float(whole.time))
            self._really = really(container, stream, whole, self._measured)
            if not self._made and self._passed_over(stream):
                continue
            for n, raw in enumerate(fields.pictures(whole)):
                if self._closed:
                    return
                if n:  # the other field of the same frame was seen half a frame later
                    time.sleep(period / 2)
                if self._made and raw.time is not None:  # made, not captured: it comes as fast as it is read
                    first = float(raw.time) if first is None else first
                    time.sleep(max(0.0, float(raw.time) - first - (time.monotonic() - began)))
                self._take(raw, converter, n * period / 2)

    def _read_captions(self, picture: Any) -> None:
        data = picture.side_data.get("A53_CC")
        if data is None:
            return
        if self._captions is None:
            self._captions = CaptionsOfPictures()
        self._captions.take(bytes(data))

    def _passed_over(self, stream: Any) -> bool:
        """Whether a picture is not worth converting: newer ones wait already, and what counts is the newest.

        Far behind, only pictures that need no others are decoded until it has caught up.
        """
        late = self._measured.late - self._delay
        if late > FAR_BEHIND:
            stream.codec_context.skip_frame, self._skips = "NONKEY", True
        elif late < BEHIND and self._skips:
            stream.codec_context.skip_frame, self._skips = "DEFAULT", False
        came = self._coming.came
        return late > BEHIND and came is not None and time.monotonic() - came < AT_LEAST

    def _frames(self, container: Any, stream: Any) -> Iterator[Any]:
        """Decoded pictures; packets that are damaged are passed over and counted."""
        bad = 0
        audio = container.streams.audio[0] if container.streams.audio else None
        self.sound = None if audio is None else LiveSound(audio.channels)
        for packet in container.demux(stream) if audio is None else container.demux(stream, audio):
            now = time.monotonic()
            if audio is not None and packet.stream is audio:
                self._hear(packet, now)
                continue
            self._measured.read(now, packet.size)
            if self._skips and self._coming.came is not None:  # it comes, though not every picture is looked at
                with self._change:
                    self._coming = self._coming._replace(came=now)
            try:
                yield from packet.decode()
                bad = 0
            except av.error.InvalidDataError:
                self._measured.damaged += 1
                bad += 1
                if bad > MOST_BAD:
                    raise

    def _hear(self, packet: Any, now: float) -> None:
        if self.sound is not None and packet.size and packet.stream.codec_context.name in ("ac3", "eac3"):
            self.sound.dialogue = dialogue_level(bytes(packet))
        try:
            for frame in packet.decode():
                if self.sound is not None:
                    self.sound.take(frame, now)
        except av.error.InvalidDataError:
            self._measured.damaged += 1

    def _take(self, raw: Any, converter: Converter, later: float) -> None:
        began = time.monotonic()
        with self._converting:  # what comes while a frame is made is too late for that one anyway
            pixels, opaque = converter.pixels(raw)
        self._measured.took(time.monotonic() - began)
        h, w = pixels.shape[:2]
        small = np.ascontiguousarray(pixels[:: max(1, h * SAMPLE // w // SAMPLE), :: max(1, w // SAMPLE), :3])
        same = (
            self._sample is not None
            and small.shape == self._sample.shape
            and float(cv2.norm(small, self._sample, cv2.NORM_L1)) <= SAME * small.size
        )
        lit = int(np.partition(small, small.size * 99 // 100, None)[small.size * 99 // 100]) > DARK
        with self._change:
            now = time.monotonic()
            born = min(now, self._measured.due(now) + later)
            frame = Frame(pixels, next(serials), opaque, born=now)
            if not same:
                self._sample = small
            self._coming = self._coming._replace(
                came=now,
                period=self._measured.period or self._coming.period,
                changed=self._coming.changed if same else now,
                lit=now if lit else self._coming.lit,
            )
            stamp = None if raw.time is None else float(raw.time) + later
            if self.sound is not None and stamp is not None:
                self.sound.pictured(stamp, now, float(small.mean()))
            self._held.append(Held(born, stamp, frame))
            while len(self._held) > self.most + (self._input.delay or 0):
                self._held.popleft()
            self._newest, self._ever = frame, True
            self._change.notify_all()

    def _failed(self, why: str) -> None:
        with self._change:
            again = time.monotonic() + AGAIN
            self._coming = self._coming._replace(failed=f"{self._shown}: {why}", again=again, began=time.monotonic())
            self.fault = self._coming.failed  # said whether anybody looks or not
            self._held.clear()
            self._change.notify_all()

    # -- being asked ---------------------------------------------------------------------------------------------------

    @property
    def known(self) -> Known:
        """In what state the signal is."""
        watch = self._input.watch
        usual = Watched()
        watched = Watched(
            watch.missing,
            usual.frozen if watch.frozen is None else watch.frozen,
            usual.black if watch.black is None else watch.black,
        )
        with self._change:
            coming = self._coming
        return state_of(coming, time.monotonic(), watched)

    @property
    def signal(self) -> Signal:
        """What there is to tell of it."""
        known = self.known
        again = "" if known.again_in is None else f" in {known.again_in:.0f} s"
        behind = max(self._measured.behind, self._delay)
        read = "" if self._captions is None else self._captions.text
        return Signal(known.state, WORDS[known.state] + again, self._really, behind, self._measured.damaged, read)

    @property
    def _delay(self) -> float:
        delay = self._input.delay
        return 0.0 if delay is None else delay * self.period

    def _wrong(self, known: Known) -> str | None:
        """Why the source counts as lost, or None."""
        watch = self._input.watch
        match known.state:
            case "lost" | "waiting":
                return self._coming.failed
            case "stalled":
                return f"{self._shown}: no picture comes any more"
            case "opening" | "filling" if self._ever:
                return f"{self._shown}: no picture comes any more; it is opened anew"
            case "opening" if time.monotonic() - known.since > OPENING + READING:
                return f"{self._shown}: nothing came in time"
            case "frozen" if watch.frozen is not None:
                return f"{self._shown}: its picture stands still"
            case "black" if watch.black is not None:
                return f"{self._shown}: its picture is black"
        return None

    @property
    def delay(self) -> float:
        """Seconds by which its pictures are held back."""
        return self._delay

    @property
    def held(self) -> list[Held]:
        """The pictures of the last moments, the oldest first."""
        with self._change:
            return list(self._held)

    @property
    def period(self) -> float:
        """Seconds from one picture to the next."""
        return self._measured.period or self._coming.period

    def _bridged(self, known: Known) -> bool:
        """Whether its last picture stands for a moment: a hiccup of a network is no reason for a card."""
        return (
            known.state == "stalled"
            and self._newest is not None
            and self._input.when_lost.backup is None
            and time.monotonic() - known.since < BRIDGED
        )

    def check(self) -> None:
        self.fault = self._wrong(self.known)

    def frame(self, seconds: float) -> Frame | None:
        """The newest picture, or that of its delay; never waits."""
        known = self.known
        why = self._wrong(known)
        if why is not None and self._bridged(known):
            self.fault = why  # known at once; what would stand in for it does, and else its last picture for a moment
            return self._newest if self._input.delay is None else self._behind or self._newest
        if why is not None:
            return self.lost_soon(why, self._newest if self._input.delay is None else self._behind)
        self.fault = None
        delay = self._delay
        if self._input.delay is None:
            return self._newest
        now = time.monotonic()
        with self._change:
            due = (h.frame for h in reversed(self._held) if h.born + delay <= now)
            self._behind = next(due, self._behind)  # after a gap those that come are all too new: the last one stays
            return self._behind

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait until there is a picture, or the feed has failed."""
        with self._change:
            return self._change.wait_for(
                lambda: self._newest is not None or self._coming.failed is not None or self._closed, timeout
            )

    def exact(self, seconds: float) -> Frame:
        if self._input.stand_in is not None:
            path = Path(self._input.stand_in)
            try:
                return still_frame(path) if path.suffix.lower() in STILLS else frame_at(path, seconds)
            except MediaError as error:
                return self.lost(str(error))
        self.wait(OPENING + READING)
        found = self.frame(seconds)
        if self.fault is not None and not self._bridged(self.known):
            return self.lost(self.fault)
        return found or self.lost(f"{self._shown}: no picture yet")

    def close(self) -> None:
        with self._change:
            self._closed = True
            self._change.notify_all()

    def join(self, timeout: float) -> None:
        self._thread.join(timeout)


def _why(error: Exception) -> str:
    words = {
        "FileNotFoundError": "there is no such device or stream",
        "ConnectionRefusedError": "nobody sends there",
        "PermissionError": "this user may not read it",
        "HTTPUnauthorizedError": "its user name or password is wrong",
        "HTTPForbiddenError": "it may not be read with this user name",
        "HTTPNotFoundError": "there is no such stream there",
        "OSError": "it cannot be opened",
        "TimeoutError": "nothing came in time",
        "ExitError": "nothing came in time",
        "InvalidDataError": "what comes is no picture",
    }
    return words.get(
        type(error).__name__, str(error) if isinstance(error, ValueError) else f"it failed ({type(error).__name__})"
    )
