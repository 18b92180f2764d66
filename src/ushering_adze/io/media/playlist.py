"""Playlists: clips and stills one after another."""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Clip, Playlist, PlaylistItem, Still
from ushering_adze.core.show.files import FILMS, STILLS
from ushering_adze.io.media.clip import clip_length, opened_clip
from ushering_adze.io.media.player import ClipPlayer, FixedPlayer, Player, in_order
from ushering_adze.io.media.still import MediaError, serials, still_frame
from ushering_adze.io.turns import Turns

LOOK = 2.0
"""Seconds from one look at a folder to the next."""


class Entry(NamedTuple):
    """An item that is played, from when until when on the playlist's own clock."""

    item: PlaylistItem
    begins: float
    seconds: float


def placed_in(pixels: Pixels, width: int, height: int, fit: str) -> Pixels:
    """A picture on a clear ground of a size: all of it, or filling it, or stretched."""
    h, w = pixels.shape[:2]
    if (w, h) == (width, height):
        return pixels
    scale = (max if fit == "fill" else min)(width / w, height / h)
    wide, high = (width, height) if fit == "stretch" else (max(1, round(w * scale)), max(1, round(h * scale)))
    how = cv2.INTER_AREA if wide < w else cv2.INTER_LINEAR
    sized = np.asarray(cv2.resize(pixels, (wide, high), interpolation=how), np.uint8)
    if (wide, high) == (width, height):
        return sized
    if fit == "fill":
        x, y = max(0, (wide - width) // 2), max(0, (high - height) // 2)
        return np.ascontiguousarray(sized[y : y + height, x : x + width])
    made = np.zeros((height, width, 4), np.uint8)
    x, y = (width - wide) // 2, (height - high) // 2
    made[y : y + high, x : x + wide] = sized
    return made


def order_of(items: tuple[PlaylistItem, ...], order: str, seed: str) -> Iterator[PlaylistItem]:
    """Items without end: as listed; shuffled, each once before any comes again, none twice in a row; or by weight.

    What is random is so from a seed: the same each time the show is opened.
    """
    draw = random.Random(seed)
    last: PlaylistItem | None = None
    while items:
        if order == "weighted":
            yield draw.choices(items, [i.weight for i in items])[0]
            continue
        turn = list(items)
        if order == "shuffled":
            draw.shuffle(turn)
            if len(turn) > 1 and turn[0] is last:
                turn.append(turn.pop(0))
        yield from turn
        last = turn[-1]


class PlaylistPlayer(Player):
    """Plays an item, with the next one open; each item begins when the one before has ended."""

    def __init__(self, source: Playlist, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._list, self._turns = source, turns
        self._looked = time.monotonic()
        self._items = self._found()
        if not self._items:
            raise MediaError("there is nothing to play in it; put clips or pictures in")
        self._open: dict[int, Player] = {}
        self._mixed: tuple[object, Frame] | None = None
        self._begin()

    def _begin(self) -> None:
        """Start over: what comes is drawn from here on."""
        self._coming = order_of(self._items, self._list.order, self._list.id)
        self._entries: list[Entry] = []
        self._number = 0
        self._first = 0
        self._entry(0)

    def _found(self) -> tuple[PlaylistItem, ...]:
        """The items there are: those that are listed, and the files of the folder."""
        found = [*self._list.items]
        if self._list.folder is not None:
            folder = Path(self._list.folder)
            if folder.is_dir():
                names = [p for p in folder.iterdir() if p.suffix.lower() in STILLS | FILMS]
                found += [PlaylistItem(path=str(p)) for p in sorted(names, key=in_order)]
            elif not found:
                raise MediaError(f"no folder {folder.name}")
        return tuple(found)

    def _look(self) -> None:
        """Take files that came into the folder, and let go of those that went, from the next pass on."""
        if self._list.folder is None or time.monotonic() - self._looked < LOOK:
            return
        self._looked = time.monotonic()
        try:
            found = self._found()
        except (MediaError, OSError):
            return
        if found and {i.path for i in found} != {i.path for i in self._items}:
            self._items = found
            self._coming = order_of(found, self._list.order, f"{self._list.id} {len(found)}")
            for n in [n for n in self._open if n > self._number]:
                self._close(n)
            del self._entries[self._number - self._first + 1 :]

    def _seconds(self, item: PlaylistItem) -> float:
        if item.end == "hold":
            return float("inf")
        if item.seconds > 0:
            return item.seconds
        if Path(item.path).suffix.lower() in STILLS:
            return self._list.seconds
        if item.end == "loop":
            return float("inf")
        try:
            with opened_clip(Path(item.path)) as container:
                return clip_length(container) or self._list.seconds
        except MediaError:
            return self._list.seconds

    def _entry(self, n: int) -> Entry:
        """The n-th item that is played."""
        while n - self._first >= len(self._entries):
            item = next(self._coming)
            before = self._entries[-1] if self._entries else None
            begins = 0.0 if before is None else before.begins + before.seconds - self._list.dissolve
            seconds = max(self._seconds(item), self._list.dissolve + 0.1)
            self._entries.append(Entry(item, begins, seconds))
        return self._entries[n - self._first]

    def _at(self, n: int) -> Player:
        found = self._open.get(n)
        if found is None:
            found = self._open[n] = self._opened(self._entry(n).item)
        return found

    def _opened(self, item: PlaylistItem) -> Player:
        path = Path(item.path)
        try:
            if path.suffix.lower() in STILLS:
                still = Still(id=self._list.id, name=self._list.name, path=item.path)
                return FixedPlayer(still, still_frame(path))
            return ClipPlayer(Clip(id=self._list.id, name=self._list.name, path=item.path), path, self._turns)
        except MediaError as error:
            lost = Player(self._list)
            picture = lost.lost(str(error))
            return FixedPlayer(self._list, picture)

    def _close(self, n: int) -> None:
        player = self._open.pop(n, None)
        if player is not None:
            player.close()

    def _go_to(self, seconds: float) -> None:
        """Be at the item of a moment."""
        if seconds < self._entry(self._number).begins:
            for n in list(self._open):
                self._close(n)
            self._begin()
        while self._entry(self._number).seconds != float("inf") and seconds >= self._entry(self._number + 1).begins:
            self._number += 1
        over = seconds >= self._entry(self._number).begins + self._list.dissolve
        for n in [n for n in self._open if n < self._number - (0 if over else 1) or n > self._number + 1]:
            self._close(n)
        while self._first < self._number - 2:
            self._entries.pop(0)
            self._first += 1
        if self._entry(self._number).seconds != float("inf"):
            self._at(self._number + 1)

    def frame(self, seconds: float) -> Frame | None:
        self._look()
        self._go_to(seconds)
        return self._picture(seconds, lambda player, at: player.frame(at))

    def sounds(self, seconds: float) -> tuple[Path, float, bool] | None:
        """The file that is heard at a moment, where in it, and whether it begins anew at its end; None for a picture.

        It changes in the middle of a dissolve.
        """
        n = self._number
        entry = self._entry(n)
        if n > self._first and seconds - entry.begins < self._list.dissolve / 2:
            entry = self._entry(n - 1)
        path = Path(entry.item.path)
        return None if path.suffix.lower() in STILLS else (path, seconds - entry.begins, entry.item.end == "loop")

    def exact(self, seconds: float) -> Frame:
        self._go_to(seconds)
        found = self._picture(seconds, lambda player, at: player.exact(at))
        return found if found is not None else self.lost("its picture is not there yet")

    def _picture(self, seconds: float, ask: Callable[[Player, float], Frame | None]) -> Frame | None:
        n = self._number
        entry = self._entry(n)
        within = seconds - entry.begins
        now = self._shown(n, within, ask)
        before = self._entry(n - 1) if n > self._first else None
        share = within / self._list.dissolve if self._list.dissolve > 0 and before is not None else 1.0
        if share >= 1 or before is None:
            return now
        old = self._shown(n - 1, seconds - before.begins, ask)
        if now is None or old is None:
            return now or old
        key = (now.serial, old.serial, round(share * 255))
        if self._mixed is None or self._mixed[0] != key:
            made = cv2.addWeighted(now.pixels, share, old.pixels, 1 - share, 0)
            self._mixed = key, Frame(np.asarray(made, np.uint8), next(serials), now.opaque and old.opaque)
        return self._mixed[1]

    def _shown(self, n: int, within: float, ask: Callable[[Player, float], Frame | None]) -> Frame | None:
        entry, player = self._entry(n), self._at(n)
        if entry.item.end != "loop" and player.length > 0:
            within = min(within, player.length - 0.001)
        frame = ask(player, max(0.0, within))
        if frame is None:
            return None
        size = self._list.width, self._list.height
        if frame.pixels.shape[1::-1] == size:
            return frame
        kept = getattr(player, "placed", None)
        if kept is None or kept[0] != frame.serial:
            pixels = placed_in(frame.pixels, *size, entry.item.fit)
            whole = entry.item.fit != "fit" or frame.pixels.shape[1] * size[1] == frame.pixels.shape[0] * size[0]
            kept = frame.serial, Frame(pixels, next(serials), frame.opaque and whole)
            player.placed = kept  # type: ignore[attr-defined]
        found: Frame = kept[1]
        return found

    def go_on(self) -> None:
        for player in list(self._open.values()):
            player.go_on()

    def wait(self, timeout: float, ahead: int = 1) -> bool:
        """Wait for the first frame."""
        waiter = getattr(self._at(self._number), "wait", None)
        return True if waiter is None else bool(waiter(timeout, ahead))

    def close(self) -> None:
        for player in list(self._open.values()):
            player.close()

    def join(self, timeout: float) -> None:
        for player in list(self._open.values()):
            player.join(timeout)
