"""The stand-in screen, computed beside the interface from the rasters truly sent."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QTimer, Signal

from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.show import LedWall, Projection
from ushering_adze.desk.session import Session
from ushering_adze.io.priority import give_way
from ushering_adze.io.standins.screen import Seen, StandinScreen
from ushering_adze.io.standins.wall import StandinWall

WIDE = 900
PERIOD_MS = 220
UNTOUCHED = 3.0
"""Seconds after an edit from which a screen that looks different all the time, as a clip runs on it, is looked at half
as often.
"""


class Simulation(QObject):
    """Looks at the stand-in screen again and again while it is on view.

    Signals
    -------
    seen : it looks different, or there is none, or what is known of it is a second older
    """

    seen = Signal()
    _done = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.surface: str | None = None
        self.now: Seen | None = None
        self.fault = ""
        self._screen: tuple[object, StandinScreen | StandinWall] | None = None
        self._worker = ThreadPoolExecutor(1, "stand-in screen")
        self._busy = False
        self._key: object = None
        self._asked_at = self._true_at = self._edited_at = 0.0
        self._told = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._done.connect(self._take)
        session.show_changed.connect(self._edited)

    def watch(self, surface: str | None) -> None:
        """Look at another surface; None stops."""
        self.surface = surface
        if surface is None:
            self._timer.stop()
        else:
            self._key = None
            self._timer.start(PERIOD_MS)
            self._look()

    def _edited(self) -> None:
        self._edited_at = time.monotonic()

    def _look(self) -> None:
        show, surface = self._session.show, self.surface
        if surface is None:
            return
        screen = next((s for s in show.surfaces if s.id == surface), None)
        feeds = show.lit_by(surface)
        if not isinstance(screen, Projection | LedWall) or not feeds:
            other = screen is not None and not isinstance(screen, Projection | LedWall)
            self.fault = "only projections and LED walls have a stand-in" if other else "nothing feeds it"
            if self.now is not None:
                self.now = None
                self.seen.emit()
            return
        self.fault = ""
        rasters, serials = self._session.playout.rasters(), self._session.playout.serials
        used = {r.output: rasters[r.output] for r in feeds if r.output in rasters}
        key = (screen, tuple((r.x, r.y, r.w, r.h, r.output) for r in feeds), tuple(serials.get(o) for o in used))
        same = key == self._key and self.now is not None
        now = time.monotonic()
        if not self._busy and same:
            self._true_at = now
        self._tell_age()
        moving = now - self._asked_at < 1.8 * PERIOD_MS / 1e3 and now - self._edited_at > UNTOUCHED
        if self._busy or same or moving:
            return
        self._key, self._busy, self._asked_at = key, True, now

        def work() -> None:
            give_way()
            try:
                result: object = self._simulated(surface, used)
            except (ValueError, cv2.error, KeyError) as error:
                result = error
            self._done.emit(surface, result)

        self._worker.submit(work)

    @property
    def age(self) -> float:
        """For how many seconds the screen has looked different from what is seen of it here; about 0 while nothing on
        it moves.
        """
        return 0.0 if self.now is None else time.monotonic() - self._true_at

    @property
    def age_words(self) -> str:
        """The age in whole seconds, if it is one that can mislead."""
        return f"{int(self.age)} s old" if self.age >= 1 else ""

    def _tell_age(self) -> None:
        if int(self.age) != self._told:
            self._told = int(self.age)
            self.seen.emit()

    def _simulated(self, surface: str, rasters: dict[str, NDArray[np.uint8]]) -> Seen:
        show = self._session.show
        screen = show.surface(surface)
        feeds = show.lit_by(surface)
        face = face_of(feeds)
        identity = (
            screen,
            tuple(
                (r.id, r.x, r.y, r.w, r.h, r.output, r.landing if isinstance(screen, LedWall) else None) for r in feeds
            ),
        )
        if self._screen is None or self._screen[0] != identity:
            scale = min(1.0, WIDE / face.w)
            self._screen = (
                identity,
                StandinWall(show, surface, scale)
                if isinstance(screen, LedWall)
                else StandinScreen(show, surface, scale),
            )
        return self._screen[1].seen(rasters)

    def _take(self, surface: str, result: object) -> None:
        self._busy = False
        if isinstance(result, Seen) and surface == self.surface:
            self.now, self._true_at = result, self._asked_at
            self._told = int(self.age)
            self.seen.emit()
        elif isinstance(result, Exception):
            self.fault = str(result)
            self.seen.emit()

    def close(self) -> None:
        """Stop looking."""
        self._timer.stop()
        self._worker.shutdown(wait=True, cancel_futures=True)
