"""Sending a picture at a rate of its own, in a thread of its own, over and over until it is told to end."""

from __future__ import annotations

import shutil
import threading
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Literal, NamedTuple

import av
import cv2
import numpy as np

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.source import without_secrets
from ushering_adze.core.signal.timing import exact_rate
from ushering_adze.core.sound.levels import RATE, Sound, silence
from ushering_adze.io.logs import log
from ushering_adze.io.outputs.apart import FarError
from ushering_adze.io.outputs.coder import Coding, CodingError
from ushering_adze.io.outputs.sink import Sends, way_out
from ushering_adze.io.priority import give_way

AGAIN = 2.0
"""Seconds after which what failed is tried again."""
LATELY = 3.0
"""Seconds over which the bit rate is measured."""
FULL = 64 << 20
"""Bytes that stay free on a disk that is recorded to."""
LOOK = 1.0
"""Seconds from one look at the disk to the next."""

State = Literal["opening", "sending", "waiting", "ended"]


class Sending(NamedTuple):
    """How a feed goes: its state, why it does not go, thousands of bits a second, pictures sent and passed over,
    seconds since it began, and seconds until its disk is full, None if it goes to none.
    """

    state: State
    why: str | None = None
    kbit: float = 0.0
    sent: int = 0
    dropped: int = 0
    seconds: float = 0.0
    room: float | None = None


def fitted(pixels: Pixels, width: int, height: int) -> Pixels:
    """A picture whole within a size, with black where its shape differs."""
    h, w = pixels.shape[:2]
    if (w, h) == (width, height):
        return pixels
    scale = min(width / w, height / h)
    wide, high = max(1, round(w * scale)), max(1, round(h * scale))
    small = cv2.resize(pixels, (wide, high), interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR)
    if (wide, high) == (width, height):
        return np.asarray(small, np.uint8)
    made = np.zeros((height, width, 4), np.uint8)
    made[..., 3] = pixels[0, 0, 3]
    x, y = (width - wide) // 2, (height - high) // 2
    made[y : y + high, x : x + wide] = small
    return made


def fitted_sound(sound: Sound, samples: int) -> Sound:
    """Sound of exactly so many samples: two clocks round differently."""
    return sound[:samples] if len(sound) >= samples else np.pad(sound, ((0, samples - len(sound)), (0, 0)), mode="edge")


def free_path(to: str) -> str:
    """A path that nothing is lost by: the same, or with a number, if there is such a file already."""
    path = Path(to)
    if "://" in to or to.startswith("/dev/") or path.suffix.lower() in ("", ".m3u8") or not path.exists():
        return to
    return next(str(p) for n in range(2, 100_000) if not (p := path.with_stem(f"{path.stem}-{n}")).exists())


class Sender:
    """Sends pictures to one place.

    Parameters
    ----------
    name : str
    to : str
        A URL, a file or a folder.
    coding : Coding
        Its size is 0 × 0 for that of the first picture.
    picture : callable
        Gives the picture of now, which is not written to while it is coded; None if there is none yet.
    clock : callable, optional
    sound : callable, optional
        Gives what is heard from one moment of the clock to another; None if nothing is.
    """

    def __init__(
        self,
        name: str,
        to: str,
        coding: Coding,
        picture: Callable[[], Pixels | None],
        clock: Callable[[], float] = time.monotonic,
        sound: Callable[[float, float], Sound | None] | None = None,
    ) -> None:
        self._sound = sound
        self._to, self._coding, self._picture, self._clock = to, coding, picture, clock
        self._shown = without_secrets(to)
        self._change = threading.Condition()
        self._closed = False
        self._state: State = "opening"
        self._why: str | None = None
        self._sent = self._dropped = 0
        self._began = clock()
        self._sizes: deque[tuple[float, int]] = deque()
        self._disk: tuple[float, int] = (-1e9, 0)
        self.path: str | None = None
        """The file it writes, once it does."""
        self._thread = threading.Thread(target=self._run, name=f"send {name}", daemon=True)
        self._thread.start()

    @property
    def now(self) -> Sending:
        """How it goes."""
        with self._change:
            kbit = self._kbit()
            room = None if self.path is None else max(0.0, (self._disk[1] - FULL) * 8e-3 / max(kbit, 1.0))
            seconds = self._clock() - self._began
            return Sending(self._state, self._why, kbit, self._sent, self._dropped, seconds, room)

    def _kbit(self) -> float:
        sizes = list(self._sizes)
        span = sizes[-1][0] - sizes[0][0] if len(sizes) > 1 else 0.0
        return (sizes[-1][1] - sizes[0][1]) * 8e-3 / span if span > 0 else 0.0

    def close(self) -> None:
        """End: what was recorded is whole.  Returns at once."""
        with self._change:
            self._closed = True
            self._change.notify_all()

    def join(self, timeout: float) -> None:
        """Wait until it has ended after `close`."""
        self._thread.join(timeout)

    # -- its thread ----------------------------------------------------------------------------------------------------

    def _run(self) -> None:
        give_way(2)
        while not self._closed:
            try:
                self._send()
            except (av.FFmpegError, OSError, CodingError, ValueError) as error:
                self._tell("waiting", f"{self._shown}: {_why(error)}")
            except Exception as error:
                log.exception("a feed failed")
                self._tell("waiting", f"{self._shown}: it failed ({type(error).__name__})")
            with self._change:
                self._change.wait_for(lambda: self._closed, AGAIN)
        self._tell("ended", self._why)

    def _tell(self, state: State, why: str | None) -> None:
        with self._change:
            self._state, self._why = state, why

    def _first(self) -> Pixels | None:
        """The first picture there is, waited for."""
        while not self._closed:
            found = self._picture()
            if found is not None:
                return found
            with self._change:
                self._change.wait_for(lambda: self._closed, 0.02)
        return None

    def _send(self) -> None:
        first = self._first()
        if first is None:
            return
        height, width = first.shape[:2]
        coding = self._coding if self._coding.width else self._coding._replace(width=width, height=height)
        to = free_path(self._to)
        self._look(to)
        out = way_out(to, coding)
        self.path = None if "://" in to or to.startswith("/dev/") else to
        self._tell("sending", None)
        try:
            self._go_on(out, coding)
        finally:
            out.close()

    def _go_on(self, out: Sends, coding: Coding) -> None:
        period = float(1 / exact_rate(coding.rate))
        self._sizes.clear()  # it counts from nothing each time it is opened
        start, number = self._clock(), 0
        heard, samples = start, 0
        while not self._closed:
            due = start + number * period
            with self._change:
                self._change.wait_for(lambda: self._closed, max(0.0, due - self._clock()))
                if self._closed:
                    return
            late = int((self._clock() - due) / period)
            if late > 0:  # passed over, never queued
                self._dropped += late
                number += late
            picture = self._picture()
            if picture is not None:
                out.put(fitted(picture, coding.width, coding.height), number)
                self._sent += 1
            number += 1
            now = self._clock()
            if self._sound is not None:  # up to the next picture, without a gap where pictures were passed over
                until = start + number * period
                count = round((until - start) * RATE) - samples
                made = self._sound(heard, until)
                out.hear(silence(count) if made is None else fitted_sound(made, count))
                heard, samples = until, samples + count
            with self._change:
                self._sizes.append((now, out.bytes))
                while now - self._sizes[0][0] > LATELY:
                    self._sizes.popleft()
            if self.path is not None and now - self._disk[0] > LOOK:
                self._look(self.path)

    def _look(self, to: str) -> None:
        """Look how much room is left, if it goes to a disk.

        Raises
        ------
        CodingError
            If there is next to none.
        """
        if "://" in to or to.startswith("/dev/"):
            return
        folder = Path(to).parent
        while not folder.exists() and folder != folder.parent:
            folder = folder.parent
        self._disk = self._clock(), shutil.disk_usage(folder).free
        if self._disk[1] < FULL:
            raise CodingError("the disk is full; what was recorded is whole; make room, and it goes on in another file")


def _why(error: Exception) -> str:
    words = {
        "ConnectionRefusedError": "nobody listens there; it is tried again",
        "TimeoutError": "nobody answered in time; it is tried again",
        "ExitError": "nobody answered in time; it is tried again",
        "HTTPUnauthorizedError": "the user name or password is wrong",
        "PermissionError": "this user may not write there; choose another place",
        "BrokenPipeError": "the far end has gone; it is tried again",
        "ConnectionResetError": "the far end has gone; it is tried again",
        "IsADirectoryError": "it is a folder; name a file",
        "NotADirectoryError": "a file is where its folder should be; choose another place",
    }
    name = error.named if isinstance(error, FarError) else type(error).__name__
    return words.get(name, str(error) if isinstance(error, CodingError) else f"it failed ({name}); it is tried again")
