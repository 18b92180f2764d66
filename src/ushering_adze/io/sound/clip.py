"""The sound of a clip, read ahead in pieces of half a second."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np

from ushering_adze.core.sound.dialogue import dialogue_level
from ushering_adze.core.sound.levels import RATE, Sound, silence
from ushering_adze.io.media.clip import clip_length
from ushering_adze.io.media.resampled import MOST, Resampled
from ushering_adze.io.media.still import MediaError
from ushering_adze.io.priority import give_way

PIECE = RATE // 2
AHEAD = 3
"""Pieces that are read ahead of the one that is heard."""
KEPT = 12
CODED = ("ac3", "eac3")
"""Codecs that say how loud speech is."""


def opened_sound(path: Path) -> Any | None:
    """A file with sound in it; None if it has none.

    Raises
    ------
    MediaError
    """
    try:
        container = av.open(str(path), options={"protocol_whitelist": "file"})
    except (av.FFmpegError, OSError, ValueError) as error:
        raise MediaError(f"the sound of {path.name} cannot be opened ({type(error).__name__})") from None
    if container.streams.audio:
        return container
    container.close()
    return None


class ClipSound:
    """Reads the sound of a clip in a thread of its own; a place is a sample from the start of the picture.

    Parameters
    ----------
    path : Path

    Raises
    ------
    MediaError
        If it cannot be opened; one without sound has 0 channels.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._container = opened_sound(path)
        self.channels, self.length, self._origin = 0, 0.0, 0.0
        self.fault: str | None = None
        self.dialogue: int | None = None
        """How loud speech is in it, by what it says of itself, in LKFS."""
        self._pieces: dict[int, Sound] = {}
        self._wanted, self._closed = 0, False
        self._room = threading.Condition()
        if self._container is None:
            return
        stream = self._container.streams.audio[0]
        self.channels = min(MOST, max(1, stream.channels))
        if self._container.streams.video:
            video = self._container.streams.video[0]
            self.length = clip_length(self._container)
            self._origin = float((video.start_time or 0) * video.time_base)
        elif self._container.duration:
            self.length = self._container.duration / av.time_base
        self.dialogue = self._dialogue(stream)
        self._thread = threading.Thread(target=self._run, name=f"sound {path.name}", daemon=True)
        self._thread.start()

    def _dialogue(self, stream: Any) -> int | None:
        if self._container is None or stream.codec_context.name not in CODED:
            return None
        first = next((bytes(p) for p in self._container.demux(stream) if p.size), b"")
        self._container.seek(0)
        return dialogue_level(first)

    # -- being asked ---------------------------------------------------------------------------------------------

    def read(self, start: int, samples: int, loops: bool = True) -> Sound | None:
        """A stretch of it; None while a piece of it is not there yet.

        Parameters
        ----------
        start : int
        samples : int
        loops : bool
            Whether it begins anew at its end; else it is silent there, and before its start.
        """
        if not self.channels:
            return None
        made, at = silence(samples, self.channels), 0
        while at < samples:
            place, room = start + at, samples - at
            if self.length > 0 and (loops or place < self.length * RATE) and place >= 0:
                turn = int(place / (self.length * RATE)) if loops else 0
                inside = round(place - turn * self.length * RATE)
                room = min(room, max(1, round((turn + 1) * self.length * RATE) - place))
            elif place < 0 or self.length > 0:
                at += min(room, -place) if place < 0 else room
                continue
            else:
                inside = place
            n, offset = divmod(inside, PIECE)
            take = min(room, PIECE - offset)
            with self._room:
                piece = self._pieces.get(n)
            if piece is None:
                self.want(inside)
                return None
            made[at : at + take] = piece[offset : offset + take]
            at += take
        return made

    def want(self, place: int) -> None:
        """Have what comes from here on ready."""
        if self.channels:
            if self.length > 0:
                place = round(place % (self.length * RATE))
            n = max(0, place) // PIECE
            with self._room:
                if n != self._wanted:
                    self._wanted = n
                    self._room.notify_all()

    def wait(self, timeout: float) -> bool:
        """Wait until what is wanted is there, or it has failed."""
        with self._room:
            return self._room.wait_for(lambda: self._next() is None or self.fault is not None, timeout)

    def close(self) -> None:
        """Stop reading; returns at once."""
        with self._room:
            self._closed = True
            self._room.notify_all()

    # -- in its thread -------------------------------------------------------------------------------------------

    def _near(self) -> list[int]:
        """The pieces that should be there, the soonest first: round its end to its start."""
        last = None if self.length <= 0 else max(0, int(np.ceil(self.length * RATE / PIECE)) - 1)
        found = [self._wanted + n for n in range(AHEAD + 1)]
        if last is not None:
            found = [n if n <= last else n - last - 1 for n in found]
        return [n for n in dict.fromkeys((*found, 0)) if last is None or n <= last]

    def _next(self) -> int | None:
        return next((n for n in self._near() if n not in self._pieces), None)

    def _run(self) -> None:
        give_way(1)
        reading: Iterator[tuple[int, Sound]] | None = None
        at = -1
        try:
            while True:
                with self._room:
                    self._room.wait_for(lambda: self._closed or self._next() is not None)
                    if self._closed:
                        return
                    n = self._next()
                if n is None:
                    continue
                if reading is None or n != at:
                    reading = self._pieces_from(n)
                at, piece = next(reading)
                with self._room:
                    self._pieces[at] = piece
                    near = set(self._near())
                    for gone in [k for k in self._pieces if k not in near][: max(0, len(self._pieces) - KEPT)]:
                        del self._pieces[gone]
                    self._room.notify_all()
                at += 1
        except (av.FFmpegError, OSError, ValueError) as error:
            self.fault = f"the sound of {self._path.name} cannot be decoded ({type(error).__name__}); it is silent"
        finally:
            self._container.close()
            with self._room:
                self._room.notify_all()

    def _pieces_from(self, n: int) -> Iterator[tuple[int, Sound]]:
        """Pieces from one on; silent ones behind the end, for ever."""
        begin = n * PIECE
        pending = silence(PIECE, self.channels)
        reached = begin
        for place, sound in self._decoded(begin):
            if place < begin:
                sound, place = sound[begin - place :], begin
            while len(sound):
                if place >= (n + 1) * PIECE:
                    yield n, pending
                    n, pending = n + 1, silence(PIECE, self.channels)
                    continue
                offset = place - n * PIECE
                take = min(len(sound), PIECE - offset)
                pending[offset : offset + take] = sound[:take]
                sound, place = sound[take:], place + take
                reached = place
            if reached >= (n + 1) * PIECE:
                yield n, pending
                n, pending = n + 1, silence(PIECE, self.channels)
        while True:
            yield n, pending
            n, pending = n + 1, silence(PIECE, self.channels)

    def _decoded(self, begin: int) -> Iterator[tuple[int, Sound]]:
        """Samples from a little before a place on, with their places."""
        stream = self._container.streams.audio[0]
        resampled = Resampled(self.channels)
        seconds = max(0.0, begin / RATE - 0.15)
        self._container.seek(int((seconds + self._origin) * av.time_base))
        at: int | None = None
        bad = 0
        for packet in self._container.demux(stream):
            try:
                frames = packet.decode()
                bad = 0
            except av.error.InvalidDataError:
                bad += 1
                if bad > 200:
                    raise
                continue
            for frame in frames:
                if frame.time is not None:
                    here = round((float(frame.time) - self._origin) * RATE)
                    if at is None or abs(here - at) > RATE // 50:  # a gap in the file stays one
                        at = here
                at = 0 if at is None else at
                sound = resampled.sound(frame)
                if len(sound):
                    yield at, sound
                    at += len(sound)
