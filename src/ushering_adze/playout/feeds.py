"""The feeds of the running show: each sent by a sender of its own, begun and ended as the stage says."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Feed, Show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import FeedReport
from ushering_adze.engine.sending import FeedPicture
from ushering_adze.io.logs import log
from ushering_adze.io.outputs.apart import SPARE
from ushering_adze.io.outputs.coder import Coding
from ushering_adze.io.outputs.sender import Sender, Sending
from ushering_adze.playout.sound import SoundRunner

LOOK = 0.1
"""Seconds from one look at the stage to the next."""


Walls = Callable[[str], Pixels | None] | None


class _Running:
    def __init__(self, engine: Engine, feed: Feed, rate: float, sound: SoundRunner | None, walls: Walls) -> None:
        self.feed, self.rate = feed, rate
        self.picture = FeedPicture(engine, feed, walls)
        coding = Coding(
            feed.width or 0,
            feed.height or 0,
            feed.rate or rate,
            feed.kbit,
            feed.key_seconds,
            feed.alpha,
            feed.hardware,
            0 if feed.mix is None or sound is None else feed.sound_kbit,
        )
        hears = None if feed.mix is None or sound is None else partial(sound.heard_between, feed.mix)
        self.sender = Sender(feed.name, feed.to, coding, self.picture, sound=hears)


def _same(a: Feed, b: Feed) -> bool:
    """Whether a change of a feed leaves what is sent as it is: its name is only a name."""
    free = {"name": "", "on": False, "heard_by": None}
    return a.model_copy(update=free) == b.model_copy(update=free)


class Feeds:
    """Begins and ends senders as the stage says, in a thread of its own; frames never wait for it."""

    def __init__(self, engine: Engine, sound: SoundRunner | None = None, walls: Walls = None) -> None:
        self._engine, self._sound, self._walls = engine, sound, walls
        self._running: dict[str, _Running] = {}
        self._ending: list[Sender] = []
        self._lock = threading.Lock()
        self._closed = threading.Event()
        self._thread = threading.Thread(target=self._run, name="feeds", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def _run(self) -> None:
        while not self._closed.wait(LOOK):
            try:
                self.follow()
            except Exception:
                log.exception("feeds not followed")

    def follow(self) -> None:
        """Begin and end what the stage says by now."""
        stage = self._engine.stage
        show = stage.show
        wanted = {f.id: f for f in show.feeds if f.id in stage.feeds}
        if show.feeds and len(wanted) < len(show.feeds):
            SPARE.keep()  # the next one begins without waiting for a process
        with self._lock:
            if self._closed.is_set():
                return
            for id, running in list(self._running.items()):
                if id not in wanted or not _same(wanted[id], running.feed) or running.rate != show.rate:
                    self._end(id)
            for id, feed in wanted.items():
                if id not in self._running:
                    self._running[id] = _Running(self._engine, feed, show.rate, self._sound, self._walls)
            heard = {f.heard_by for f in wanted.values() if f.heard_by is not None}
            shown = {f.of for f in wanted.values() if f.shows == "source"}
        self._engine.keep_running(frozenset(heard | shown))

    def _end(self, id: str) -> None:
        sender = self._running.pop(id).sender
        sender.close()
        self._ending = [s for s in self._ending if s.now.state != "ended"] + [sender]

    def reports(self, show: Show, signals: dict[str, str]) -> tuple[FeedReport, ...]:
        """Every feed of a show, in its order; ``signals`` are the states of live inputs, by id."""
        with self._lock:
            running = dict(self._running)
        found = []
        for feed in show.feeds:
            here = running.get(feed.id)
            heard = None if feed.heard_by is None else signals.get(feed.heard_by)
            if here is None:
                found.append(FeedReport(feed.id, feed.name, False, "off", heard=heard))
                continue
            now: Sending = here.sender.now
            path, withheld = here.sender.path, here.picture.withheld
            found.append(FeedReport(feed.id, feed.name, True, now.state, now.why, withheld, *now[2:], path, heard))
        return tuple(found)

    def faults(self) -> dict[str, str]:
        """What is wrong with feeds, by id."""
        with self._lock:
            running = dict(self._running)
        found = {}
        for id, here in running.items():
            now = here.sender.now
            if now.why is not None:
                found[id] = now.why
            elif here.picture.withheld is not None:
                found[id] = here.picture.withheld
        return found

    def close(self, seconds: float = 5.0) -> None:
        """End all, and wait until recordings are whole."""
        with self._lock:
            self._closed.set()
            for id in list(self._running):
                self._end(id)
        for sender in self._ending:
            sender.join(seconds)
