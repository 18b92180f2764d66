"""Players: one per source, with a clock of its own, that always has a picture to give."""

from __future__ import annotations

import random
import re
import threading
from collections.abc import Callable
from pathlib import Path

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look, moving_line
from ushering_adze.core.picture.cards import countdown_picture, lost_picture
from ushering_adze.core.picture.frame import Frame, Sized, Sizes
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Clip, Countdown, Folder, Input, PatternSource, Source
from ushering_adze.io.media.clip import ClipReader, frame_at
from ushering_adze.io.media.still import SUFFIXES, MediaError, serials, still_frame
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
        self._lost: tuple[str, Frame] | None = None

    def call(self, source: Source) -> None:
        """Go on as the same source under another name."""
        self.source, self._lost = source, None

    def lost(self, why: str) -> Frame:
        """The named picture in place of the source."""
        self.fault = why
        if self._lost is None or self._lost[0] != why:
            self._lost = why, Frame(lost_picture(self.source.name, why), next(serials))
        return self._lost[1]

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


class _Drawn:
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
        threading.Thread(target=self._ahead, args=(missing,), name="draw ahead", daemon=True).start()

    def _ahead(self, n: int) -> None:
        give_way()
        try:
            with self._drawing:
                self._put(n)
        finally:
            self._busy = False

    def _put(self, n: int) -> Frame:
        made = self._make(n)
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
        self._drawn = _Drawn(lambda n: Frame(countdown_picture(total - n, total), next(serials)), 4, turns)
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


TRIED = 20
"""Pictures of a folder of which one must be readable."""


def _readable(path: Path) -> bool:
    try:
        still_frame(path)
    except MediaError:
        return False
    return True


class FolderPlayer(Player):
    """Pictures of a folder one after another; the next one is read while the present one stands."""

    def __init__(self, source: Folder, folder: Path, turns: Turns | None = None) -> None:
        super().__init__(source)
        if not folder.is_dir():
            raise MediaError(f"no folder {folder.name}")
        self._hold = source.hold
        self._files = sorted((p for p in folder.iterdir() if p.suffix.lower() in SUFFIXES), key=in_order)
        if not self._files:
            raise MediaError(f"no pictures in {folder.name}")
        if source.order == "shuffled":
            random.Random(source.id).shuffle(self._files)
        self.length = self._hold * len(self._files)
        if not any(_readable(path) for path in self._files[:TRIED]):
            raise MediaError(f"no picture in {folder.name} can be read")
        self._drawn = _Drawn(self._load, max(4, min(12, len(self._files))), turns)
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


class ClipPlayer(Player):
    """A clip."""

    def __init__(self, source: Clip | Input, path: Path, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._path = path
        self._reader = ClipReader(path, turns)
        self.length, self.sizes = self._reader.length, self._reader.sizes

    def frame(self, seconds: float) -> Frame | None:
        if self._reader.fault is not None:
            return self.lost(self._reader.fault)
        frame = self._reader.frame(seconds)
        self.fault = "its file does not answer; the last picture stands" if self._reader.stalled else None
        return frame

    def made(self, serial: int, cut: Sized) -> Pixels | None:
        return self._reader.made(serial, cut)

    def go_on(self) -> None:
        self._reader.go_on()

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait for the first frame, or for more that are read ahead."""
        return self._reader.wait(timeout, ahead)

    def exact(self, seconds: float) -> Frame:
        try:
            return frame_at(self._path, seconds)
        except MediaError as error:
            return self.lost(str(error))

    def close(self) -> None:
        self._reader.close()

    def join(self, timeout: float) -> None:
        self._reader.join(timeout)
