"""The benchmark of a show that plays: single frames of a fade, every preset in turn, and from a key to its
first frame.
"""

from __future__ import annotations

import statistics
import threading
import time

from ushering_adze.core.onair.actions import Cut, Recall, StagePreset
from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.playing import Players, played
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.show import Show
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.memory import set_aside
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer
from ushering_adze.io.machine import stolen_seconds
from ushering_adze.io.media.clip import AHEAD

WARM = 30
"""Frames in which all memory is taken for the first time; counting begins after them."""


def whole_frame(preset: int, rounds: int) -> dict[str, float]:
    """A whole frame of the demo while a preset fades in, every source moving and decoding; baseline: the frame's time
    at 30 fps.
    """
    return frame_of(demo_show(), preset, rounds, ahead=True)


def frame_of(show: Show, preset: int, rounds: int, ahead: bool = False) -> dict[str, float]:
    """The same of any show; ``ahead`` as it is played, with clips brought to the sizes that are asked for.
    ``new_pictures`` tells how many sources had a new picture in a frame, on average: not all, where reading them takes
    longer than the frames.
    """
    wanted = show.preset(preset)
    assert wanted is not None
    motion = recall(show, opening_motion(show), wanted, 0.0)
    pool = SourcePool()
    pool.set_show(show)
    pool.wait(10)
    renderer = Renderer(show)
    period = 1 / 30
    spent, late, new, seen = [], 0, 0, dict[str, int]()
    players: Players = {}
    for n in range(rounds):
        state = motion.at((n + 1) / (rounds + 1) * max(wanted.seconds, 0.1))
        began = time.perf_counter()
        players = played(show, players, sources_of(state), set(), began)
        pool.follow(players, began)
        frames = pool.frames(sources_of(state))
        if ahead:
            renderer.draw(state, frames, requests=pool.requests)
        else:
            renderer.draw(state, frames)
        passed = time.perf_counter() - began
        serials = {source: frame.serial for source, frame in frames.items()}
        new += sum(seen.get(source) != serial for source, serial in serials.items()) if n else 0
        seen = serials
        pool.go_on(began + period)
        if n:  # the first frame fills everything
            spent.append(passed)
            late += passed > period
        time.sleep(max(0.0, period - passed))
    pool.close()
    ms = statistics.median(spent) * 1e3
    return {
        "ours_ms": ms,
        "baseline_ms": period * 1e3,
        "ratio": ms / (period * 1e3),
        "late_share": late / len(spent),
        "new_pictures": new / len(spent),
    }


class _Watch:
    """Counts late frames, and among them those that came when the machine had just been taken away."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._late = self._first_late = engine.late
        self._first = engine.frames
        self._stolen = self._first_stolen = stolen_seconds()
        self._stolen_at = -1.0
        self.excused = 0

    def look(self) -> None:
        """To be called many times a frame."""
        now, stolen, late = time.perf_counter(), stolen_seconds(), self._engine.late
        if stolen > self._stolen:
            self._stolen, self._stolen_at = stolen, now
        if now - self._stolen_at < 0.1:
            self.excused += late - self._late
        self._late = late

    def figures(self) -> dict[str, float]:
        """``late_share`` is of all frames; ``stolen_share`` the part of it that came with ``stolen_seconds``."""
        frames = self._engine.frames - self._first
        return {
            "late_share": (self._late - self._first_late) / frames,
            "stolen_share": self.excused / frames,
            "frames": frames,
            "stolen_seconds": self._stolen - self._first_stolen,
        }


def everything_moving(rounds: int) -> dict[str, float]:
    """The demo show played as it would be: every preset recalled in turn, each in its own time and a second more;
    baseline: one frame late in a thousand.  Frames that are late because the machine was taken away count like all
    others; how many those are is told beside."""
    show = demo_show()
    engine = Engine(show)
    engine.start(wait=20, ahead=AHEAD)
    try:
        while engine.frames < WARM:
            time.sleep(0.01)
        set_aside()  # as every program does when it has started
        watch, spent = _Watch(engine), []
        for _ in range(rounds):
            for preset in show.presets:
                engine.act(Recall(preset=preset.number))
                until = time.perf_counter() + preset.seconds + 1
                while time.perf_counter() < until:
                    time.sleep(0.01)
                    watch.look()
                spent.append(engine.mean_milliseconds)
        found = watch.figures()
    finally:
        engine.stop()
    return {
        "ours_ms": statistics.median(spent),
        "baseline_ms": 1e3 / show.rate,
        "ratio": found["late_share"] / 0.001,
        **found,
    }


def key_to_frame(rounds: int) -> dict[str, float]:
    """From a cut asked for to the first changed frame handed over; baseline: one frame of 1/30 s plus 5 ms."""
    engine = Engine(demo_show())
    got = threading.Event()
    engine.add_sink("processor-a", "bench", lambda pixels: got.set())
    engine.start(wait=10)
    time.sleep(0.5)
    spent = []
    for n in range(rounds):
        engine.act(StagePreset(preset=5 if n % 2 else 90))
        time.sleep(0.10 + 0.0037 * (n % 9))
        got.clear()
        began = time.perf_counter()
        engine.act(Cut())
        if got.wait(2):
            spent.append(time.perf_counter() - began)
    engine.stop()
    limit = 1e3 / 30 + 5
    ms = statistics.median(spent) * 1e3
    return {"ours_ms": ms, "baseline_ms": limit, "ratio": ms / limit, "worst_ms": max(spent) * 1e3}
