"""Players: one per source, with a clock of its own, that always has a picture to give."""

from __future__ import annotations

import random
import re
import threading
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look, moving_line
from ushering_adze.core.light.patterns import flat
from ushering_adze.core.picture.cards import countdown_picture, lost_picture
from ushering_adze.core.picture.frame import Frame, Sized, Sizes
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Clip, Countdown, Folder, Input, PatternSource, Source
from ushering_adze.core.show.files import STILLS
from ushering_adze.core.sound.patterns import flashes
from ushering_adze.io.media.clip import AHEAD, ClipReader, clip_length, frame_at, opened_clip
from ushering_adze.io.media.drawing_cards import cards
from ushering_adze.io.media.still import MediaError, serials, still_frame
from ushering_adze.io.priority import give_way
from ushering_adze.io.turns import Turns, Work


class Player:
    """A source that is open.  ``fault`` says in words why its picture is lost, or is None."""

    length = 0.0
    """Seconds after which it begins anew; 0 if it has no end."""
    sizes: Sizes | None = None
    """Where cuts of the pictures to come can be asked for, if it makes any ahead."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self.fault: str | None = None
        self.warning: str | None = None
        """What is wrong with its picture though it is there."""
        self._lost: tuple[str, Frame] | None = None
        self._asked: str | None = None

    def call(self, source: Source) -> None:
        """Go on as the same source under another name."""
        self.source, self._lost, self._asked = source, None, None

    def lost(self, why: str) -> Frame:
        """The named picture in place of the source."""
        self.fault = why
        if self._lost is None or self._lost[0] != why:
            self._lost = why, Frame(lost_picture(self.source.name, why), next(serials))
        return self._lost[1]

    def lost_soon(self, why: str, meanwhile: Frame | None = None) -> Frame | None:
        """The same for who must not wait: until the card is drawn, what was shown before, which is nothing if None."""
        self.fault = why
        lost = self._lost
        if lost is not None and lost[0] == why:
            return lost[1]
        if self._asked != why:
            self._asked = why
            cards.ask(lambda: self._draw(self.source, why))
        return meanwhile

    def _draw(self, source: Source, why: str) -> None:
        if self._asked == why:
            card = Frame(lost_picture(source.name, why), next(serials))
            if self.source is source:
                self._lost = why, card

    def frame(self, seconds: float) -> Frame | None:
        """The picture ``seconds`` after the source's start; never waits.  None while nothing is ready yet."""
        raise NotImplementedError

    def exact(self, seconds: float) -> Frame:
        """The same, waiting for it, for pictures that must be the same every time."""
        found = self.frame(seconds)
        assert found is not None
        return found

    def made(self, serial: int, cut: Sized) -> Pixels | None:
        """A cut of the picture of a serial, if it was made ahead."""
        return None

    def go_on(self) -> None:
        """Let work that runs ahead go on: the pictures of a frame have been taken."""

    def near(self, on: bool) -> None:
        """Be ready to be shown, or be as small as can be; told again and again, returns at once."""

    def check(self) -> None:
        """Say in ``fault`` what is wrong by now, also if nobody asks for pictures."""

    def close(self) -> None:
        """Let go of files and threads; returns at once."""

    def join(self, timeout: float) -> None:
        """Wait until threads have ended after `close`."""


class FixedPlayer(Player):
    """A source whose picture never changes."""

    def __init__(self, source: Source, made: Frame) -> None:
        super().__init__(source)
        self._frame = made

    def frame(self, seconds: float) -> Frame:
        return self._frame


class LostPlayer(Player):
    """A source that could not be opened."""

    def __init__(self, source: Source, why: str) -> None:
        super().__init__(source)
        self.lost(why)

    def frame(self, seconds: float) -> Frame:
        return self.lost(self.fault or "")


class WallPlayer(Player):
    """Stands for a source whose picture is a wall, which is painted beside."""

    def frame(self, seconds: float) -> Frame | None:
        return None

    def exact(self, seconds: float) -> Frame:
        return self.lost("walls are painted only while a show runs")


class PartsPlayer(Player):
    """Stands for a source whose picture is put together from others'."""

    def frame(self, seconds: float) -> Frame | None:
        return None

    def exact(self, seconds: float) -> Frame:
        return self.lost("its parts are not there yet")


class Drawn:
    """Pictures by number, each made once: the one asked for now if it must be, the next one ahead, in a thread and in
    its turn.
    """

    def __init__(self, make: Callable[[int], Frame], keep: int, turns: Turns | None) -> None:
        self._make, self._keep = make, keep
        self._drawing = Work(turns)
        self._made: dict[int, Frame] = {}
        self._lock = threading.Lock()
        self._busy = False

    def get(self, n: int) -> Frame:
        """Picture ``n``, made on the spot if it is not there."""
        with self._lock:
            found = self._made.get(n)
        return found if found is not None else self._put(n)

    def ready(self, n: int) -> Frame | None:
        """Picture ``n`` if it is there; never waits."""
        with self._lock:
            return self._made.get(n)

    def latest(self) -> Frame:
        """The picture made last."""
        with self._lock:
            return next(reversed(self._made.values()))

    def prepare(self, *wanted: int) -> None:
        """Make the first of these that is not there, in the background."""
        with self._lock:
            missing = next((n for n in wanted if n not in self._made), None)
            if missing is None or self._busy:
                return
            self._busy = True
        urgent = missing == wanted[0]
        threading.Thread(target=self._ahead, args=(missing, urgent), name="draw ahead", daemon=True).start()

    def _ahead(self, n: int, urgent: bool) -> None:
        if not urgent:  # what is asked for now is waited for by everybody
            give_way()
        try:
            with self._drawing:
                self._put(n)
        finally:
            self._busy = False

    def _put(self, n: int) -> Frame:
        return self.take(n, self._make(n))

    def take(self, n: int, made: Frame) -> Frame:
        """Keep a picture that was made elsewhere as picture ``n``."""
        with self._lock:
            self._made[n] = made
            while len(self._made) > self._keep:
                del self._made[next(iter(self._made))]
        return made


class CountdownPlayer(Player):
    """Digits; drawn once a second, a second ahead."""

    def __init__(self, source: Countdown, turns: Turns | None = None) -> None:
        super().__init__(source)
        total = source.seconds
        self._total = total
        self._drawn = Drawn(lambda n: Frame(countdown_picture(total - n, total), next(serials)), 4, turns)
        self._drawn.get(0)

    def frame(self, seconds: float) -> Frame:
        n = min(self._total, int(seconds))
        self._drawn.prepare(n, min(self._total, n + 1), 0)
        return self._drawn.ready(n) or self._drawn.latest()

    def exact(self, seconds: float) -> Frame:
        return self._drawn.get(min(self._total, int(seconds)))


def in_order(path: Path) -> tuple[object, ...]:
    """What files are sorted by, so that 10 comes after 9."""
    return tuple(int(t) if t.isdigit() else t.lower() for t in re.split(r"(\d+)", path.name))


class LinePlayer(Player):
    """A line that moves: drawn anew for each sixtieth of a second that is asked for."""

    def __init__(self, source: PatternSource) -> None:
        super().__init__(source)
        red, green, blue = rgb_of(source.ink)
        self._size, self._look = (source.width, source.height), Look(source.spacing, source.line, (blue, green, red))
        self._now: tuple[int, Frame] | None = None

    def frame(self, seconds: float) -> Frame:
        n = int(seconds * 60)
        if self._now is None or self._now[0] != n:
            self._now = n, Frame(moving_line(*self._size, n / 60, self._look), next(serials))
        return self._now[1]


class FlashPlayer(Player):
    """White for a moment each second, and black: its sound beeps meanwhile, so that delays can be set by it."""

    def __init__(self, source: PatternSource) -> None:
        super().__init__(source)
        red, green, blue = rgb_of(source.ink)
        size = source.width, source.height
        self._lit, self._dark = (Frame(flat(*size, *bgr), next(serials)) for bgr in ((blue, green, red), (0, 0, 0)))

    def frame(self, seconds: float) -> Frame:
        return self._lit if flashes(seconds) else self._dark


TRIED = 20
"""Pictures of a folder of which one must be readable."""


class FolderPlayer(Player):
    """Pictures of a folder one after another; the next one is read while the present one stands."""

    def __init__(self, source: Folder, folder: Path, turns: Turns | None = None) -> None:
        super().__init__(source)
        if not folder.is_dir():
            raise MediaError(f"no folder {folder.name}")
        self._hold = source.hold
        self._files = sorted((p for p in folder.iterdir() if p.suffix.lower() in STILLS), key=in_order)
        if not self._files:
            raise MediaError(f"no pictures in {folder.name}")
        if source.order == "shuffled":
            random.Random(source.id).shuffle(self._files)
        self.length = self._hold * len(self._files)
        self._drawn = Drawn(self._load, max(4, min(12, len(self._files))), turns)
        for n, path in enumerate(self._files[:TRIED]):
            try:
                self._drawn.take(n, still_frame(path))
                break
            except MediaError:
                continue
        else:
            raise MediaError(f"no picture in {folder.name} can be read")
        self._drawn.get(0)

    def _load(self, n: int) -> Frame:
        try:
            return still_frame(self._files[n])
        except MediaError as error:
            return Frame(lost_picture(self.source.name, str(error)), next(serials))

    def _number(self, seconds: float) -> int:
        return int(seconds / self._hold) % len(self._files)

    def frame(self, seconds: float) -> Frame:
        n = self._number(seconds)
        self._drawn.prepare(n, (n + 1) % len(self._files))
        return self._drawn.ready(n) or self._drawn.latest()

    def exact(self, seconds: float) -> Frame:
        return self._drawn.get(self._number(seconds))


REST = 3.0
"""Seconds after which a clip that nobody is about to show lets go of its decoder."""
QUALITY = 93
"""Of the JPEG in which a clip at rest keeps the picture it stands on."""


class _Kept:
    """A picture in little memory: coded, and decoded for as long as somebody asks for it."""

    def __init__(self, frame: Frame) -> None:
        self._serial, self._opaque = frame.serial, frame.opaque
        how = (".jpg", [cv2.IMWRITE_JPEG_QUALITY, QUALITY]) if frame.opaque else (".png", [])
        made, data = cv2.imencode(how[0], frame.pixels[..., :3] if frame.opaque else frame.pixels, how[1])
        self._data = data if made else None
        self._frame: Frame | None = None if made else frame
        self._asked = time.monotonic()

    def frame(self) -> Frame:
        """The picture; always with the same serial."""
        self._asked = time.monotonic()
        if self._frame is None:
            found = cv2.imdecode(self._data, cv2.IMREAD_UNCHANGED)  # type: ignore[arg-type]
            pixels = cv2.cvtColor(found, cv2.COLOR_BGR2BGRA) if self._opaque else found
            self._frame = Frame(np.asarray(pixels, np.uint8), self._serial, self._opaque)
        return self._frame

    def rest(self) -> None:
        """Keep it coded alone, if nobody has asked for a while."""
        if self._data is not None and self._frame is not None and time.monotonic() - self._asked > REST:
            self._frame = None


class ClipPlayer(Player):
    """A clip: far from the air it keeps the picture that it stands on and no decoder; near it, pictures are read
    ahead.
    """

    def __init__(self, source: Clip | Input, path: Path, turns: Turns | None = None, near: bool = True) -> None:
        super().__init__(source)
        self._path, self._turns, self._alpha_of = path, turns, source.picture.alpha
        self._reader: ClipReader | None = None
        self._kept: _Kept | None = None
        self._at, self._far_since = 0.0, time.monotonic()
        self._waking = self._closed = False
        self._lock = threading.Lock()
        if near:
            self._reader = ClipReader(path, turns, alpha_of=self._alpha_of)
            self.length, self._bytes = self._reader.length, self._reader.bytes
        else:
            with opened_clip(path) as container:
                self.length = clip_length(container)
            first = frame_at(path, 0.0, self._alpha_of)
            self._kept, self._bytes = _Kept(first), first.pixels.nbytes

    @property
    def sizes(self) -> Sizes | None:  # type: ignore[override]
        reader = self._reader
        return None if reader is None else reader.sizes

    @property
    def cost(self) -> int:
        """Bytes that it takes with its pictures read ahead, roughly."""
        return self._bytes * (AHEAD + 2)

    @property
    def resting(self) -> bool:
        """Whether it has no decoder."""
        return self._reader is None

    def near(self, on: bool) -> None:
        reader = self._reader
        if on:
            self._far_since = time.monotonic()
            if reader is None and not self._waking and not self._closed:
                self._waking = True
                threading.Thread(target=self._wake, name=f"wake {self.source.name}", daemon=True).start()
        elif reader is not None and not self._waking and time.monotonic() - self._far_since > REST:
            self._waking = True
            threading.Thread(target=self._lie_down, args=(reader,), name="rest", daemon=True).start()
        elif reader is None and self._kept is not None:
            self._kept.rest()

    def _wake(self) -> None:
        try:
            reader = ClipReader(self._path, self._turns, self._at, self._alpha_of)
        except MediaError as error:
            self.fault = str(error)
        else:
            with self._lock:
                if self._closed:
                    reader.close()
                self._reader = reader
        finally:
            self._waking = False

    def _lie_down(self, reader: ClipReader) -> None:
        give_way()
        try:
            last = reader.newest
            if last is not None:
                self._kept = _Kept(last)
            elif self._kept is None:
                return
            if reader.fault is None:
                self._reader = None
                reader.close()
        finally:
            self._waking = False

    def frame(self, seconds: float) -> Frame | None:
        self._at = seconds
        reader, kept = self._reader, self._kept
        if reader is None:
            return kept.frame() if kept is not None else None
        if reader.fault is not None:
            return self.lost_soon(reader.fault)
        frame = reader.frame(seconds)
        self.fault = "its file does not answer; the last picture stands" if reader.stalled else None
        return kept.frame() if frame is None and kept is not None else frame

    def made(self, serial: int, cut: Sized) -> Pixels | None:
        reader = self._reader
        return None if reader is None else reader.made(serial, cut)

    def go_on(self) -> None:
        if self._reader is not None:
            self._reader.go_on()

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait for the first frame, or for more that are read ahead; one at rest has what it has."""
        reader = self._reader
        return True if reader is None else reader.wait(timeout, ahead)

    def exact(self, seconds: float) -> Frame:
        try:
            return frame_at(self._path, seconds, self._alpha_of)
        except MediaError as error:
            return self.lost(str(error))

    def close(self) -> None:
        with self._lock:
            self._closed = True
            if self._reader is not None:
                self._reader.close()

    def join(self, timeout: float) -> None:
        if self._reader is not None:
            self._reader.join(timeout)
