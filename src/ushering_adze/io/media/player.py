"""Players: one per source, with a clock of its own, that always has a picture to give."""

from __future__ import annotations

import random
import re
import threading
from pathlib import Path

from ushering_adze.core.light.patterns import Label, flat, pattern
from ushering_adze.core.picture.cards import countdown_picture, lost_picture
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Clip, ColourSource, Countdown, Folder, PatternSource, Source, Still
from ushering_adze.core.show.base import rgb_of
from ushering_adze.io.media.clip import ClipReader, frame_at
from ushering_adze.io.media.still import SUFFIXES, MediaError, serials, still_frame
from ushering_adze.io.showfile import media_path


class Player:
    """A source that is open.  ``fault`` says in words why its picture is lost, or is None."""

    live = False
    restarts = False

    def __init__(self, source: Source) -> None:
        self.source = source
        self.fault: str | None = None
        self._lost: Frame | None = None

    def lost(self, why: str) -> Frame:
        """The named picture in place of the source."""
        if self._lost is None or self.fault != why:
            self.fault = why
            self._lost = Frame(lost_picture(self.source.name, why), next(serials))
        return self._lost

    def frame(self, seconds: float) -> Frame | None:
        """The picture ``seconds`` after the source's start; never waits.  None while nothing is ready yet."""
        raise NotImplementedError

    def exact(self, seconds: float) -> Frame:
        """The same, waiting for it, for pictures that must be the same every time."""
        found = self.frame(seconds)
        assert found is not None
        return found

    def close(self) -> None:
        """Let go of files and threads."""


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


class CountdownPlayer(Player):
    """Digits; drawn once a second."""

    restarts = True

    def __init__(self, source: Countdown) -> None:
        super().__init__(source)
        self._total = source.seconds
        self._drawn: tuple[int, Frame] | None = None

    def frame(self, seconds: float) -> Frame:
        passed = min(self._total, int(seconds))
        if self._drawn is None or self._drawn[0] != passed:
            self._drawn = (passed, Frame(countdown_picture(self._total - passed, self._total), next(serials)))
        return self._drawn[1]


def _in_order(path: Path) -> tuple[object, ...]:
    return tuple(int(t) if t.isdigit() else t.lower() for t in re.split(r"(\d+)", path.name))


class FolderPlayer(Player):
    """Pictures of a folder one after another; the next one is read while the present one stands."""

    def __init__(self, source: Folder, folder: Path) -> None:
        super().__init__(source)
        if not folder.is_dir():
            raise MediaError(f"no folder {folder.name}")
        self._hold = source.hold
        self._files = sorted((p for p in folder.iterdir() if p.suffix.lower() in SUFFIXES), key=_in_order)
        if not self._files:
            raise MediaError(f"no pictures in {folder.name}")
        if source.order == "shuffled":
            random.Random(source.id).shuffle(self._files)
        self._read: dict[int, Frame] = {}
        self._lock = threading.Lock()
        self._reading = False
        self._load(0)

    def _load(self, n: int) -> Frame:
        with self._lock:
            if n in self._read:
                return self._read[n]
        try:
            made = still_frame(self._files[n])
        except MediaError as error:
            made = Frame(lost_picture(self.source.name, str(error)), next(serials))
        with self._lock:
            keep = {n, (n + 1) % len(self._files), (n - 1) % len(self._files)}
            self._read = {k: v for k, v in self._read.items() if k in keep or len(self._files) <= 12} | {n: made}
        return made

    def _load_ahead(self, n: int) -> None:
        try:
            self._load(n)
        finally:
            self._reading = False

    def frame(self, seconds: float) -> Frame:
        n = int(seconds / self._hold) % len(self._files)
        ahead = (n + 1) % len(self._files)
        with self._lock:
            found, want = self._read.get(n), ahead not in self._read or n not in self._read
        if want and not self._reading:
            self._reading = True
            target = n if found is None else ahead
            threading.Thread(target=self._load_ahead, args=(target,), name="read folder", daemon=True).start()
        if found is not None:
            return found
        with self._lock:
            return self._read.get((n - 1) % len(self._files)) or next(iter(self._read.values()))

    def exact(self, seconds: float) -> Frame:
        return self._load(int(seconds / self._hold) % len(self._files))


class ClipPlayer(Player):
    """A clip."""

    def __init__(self, source: Clip, path: Path) -> None:
        super().__init__(source)
        self.live = source.live
        self._path = path
        self._reader = ClipReader(path)

    def frame(self, seconds: float) -> Frame | None:
        if self._reader.fault is not None:
            return self.lost(self._reader.fault)
        return self._reader.frame(seconds)

    def wait(self, timeout: float) -> bool:
        """Wait for the first frame."""
        return self._reader.wait(timeout)

    def exact(self, seconds: float) -> Frame:
        try:
            return frame_at(self._path, seconds)
        except MediaError as error:
            return self.lost(str(error))

    def close(self) -> None:
        self._reader.close()


def open_player(source: Source, root: Path) -> Player:
    """Open a source; what cannot be opened becomes a player of a named lost picture, never an error.

    Parameters
    ----------
    source : Source
    root : Path
        Folder that relative paths start at.
    """
    try:
        match source:
            case Still():
                return FixedPlayer(source, still_frame(media_path(source.path, root)))
            case Clip():
                return ClipPlayer(source, media_path(source.path, root))
            case Folder():
                return FolderPlayer(source, media_path(source.path, root))
            case Countdown():
                return CountdownPlayer(source)
            case ColourSource():
                red, green, blue = rgb_of(source.fill)
                return FixedPlayer(source, Frame(flat(16, 16, blue, green, red), next(serials)))
            case PatternSource():
                label = Label(source.name)
                return FixedPlayer(source, Frame(pattern(source.pattern, source.width, source.height, label), next(serials)))
    except MediaError as error:
        return LostPlayer(source, str(error))
    except Exception as error:  # a source must never take the show down with it
        return LostPlayer(source, f"it cannot be opened ({type(error).__name__}: {error})"[:120])
