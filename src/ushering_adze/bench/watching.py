"""Rows of watching and listening: a wall that goes out while the demo plays, and mixing."""

from __future__ import annotations

import time

import numpy as np

from ushering_adze.core.onair.actions import Override, Recall
from ushering_adze.core.show import Show
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.show.walling import with_wall, with_wall_source
from ushering_adze.core.sound.levels import RATE
from ushering_adze.core.sound.mixing import Finish, Mixer
from ushering_adze.demo.show import demo_show
from ushering_adze.playout import Playout

SAMPLES = 1024


def _sixteen(show: Show) -> Show:
    """The demo with a wall of 16 cells, two of them meters, and a source that shows it."""
    things = [("source", s.id) for s in show.sources[:7]] + [("surface", s.id) for s in show.surfaces[:6]]
    things += [("mix", "hall"), ("mix", "relay"), ("cues", "evening")]
    cells = tuple(
        WallCell.model_validate({"x": n % 4, "y": n // 4, "shows": kind, "of": of})
        for n, (kind, of) in enumerate(things[:16])
    )
    return with_wall_source(with_wall(show, Wall(id="bench", name="Bench", cells=cells)), "bench")[0]


def wall_on_an_output(rounds: int) -> dict[str, float]:
    """A wall of 16 cells on an output while the demo plays: frames that are late; baseline: one in a thousand.

    ``walls`` is how many pictures of the wall were painted a second.
    """
    playout = Playout(_sixteen(demo_show()), lambda report: None, devices=False)
    playout.start(wait=20)
    try:
        playout.act(Recall(preset=6, seconds=0))
        playout.act(Override(surfaces=("lectern",), shows="source", source="wall-bench", by="bench"))
        playout.watch("bench")
        time.sleep(6)  # sound is there by then
        first, late, painted = playout.mark[0], playout.late, playout.wall
        began = time.perf_counter()
        time.sleep(rounds)
        frames, walls = playout.mark[0] - first, playout.wall
        share = (playout.late - late) / max(1, frames + playout.late - late)
        made = 0 if painted is None or walls is None else walls.serial - painted.serial
        return {
            "ours_ms": playout.mean_milliseconds,
            "baseline_ms": 1e3 / 30,
            "ratio": share / 0.001,
            "late_share": share,
            "walls": made / (time.perf_counter() - began),
        }
    finally:
        playout.stop()


def mixing(rounds: int) -> dict[str, float]:
    """Eight stereo sources mixed into four mixes; baseline: one per cent of the time that they last."""
    rng = np.random.default_rng(0)
    sources = {f"s{n}": rng.normal(0, 0.03, (SAMPLES, 2)).astype(np.float32) for n in range(8)}
    matrix = {mix: dict.fromkeys(sources, 0.3) for mix in "abcd"}
    finishes = {mix: Finish(0.02, 60.0) for mix in "abcd"}
    mixer = Mixer()
    mixer.mix(sources, matrix, finishes, SAMPLES)
    began = time.process_time()
    for _ in range(rounds):
        mixer.mix(sources, matrix, finishes, SAMPLES)
    ms = (time.process_time() - began) / rounds * 1e3
    lasts = SAMPLES / RATE * 1e3
    return {"ours_ms": ms, "baseline_ms": lasts / 100, "ratio": ms / (lasts / 100)}
