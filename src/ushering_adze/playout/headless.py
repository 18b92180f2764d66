"""Playing a show without a window: one picture per output, and a report of how it ran."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

from ushering_adze.core.onair.actions import Recall
from ushering_adze.core.show import Show
from ushering_adze.engine.engine import Engine
from ushering_adze.io.machine import stolen_seconds
from ushering_adze.io.media.clip import AHEAD
from ushering_adze.io.outputs.png import write_png

STORY = (7, 4, 5)
"""Presets recalled one after another, at even times, so that fades are part of what is measured."""
WARM = 10
"""Frames in which every raster is written for the first time; counting begins after them."""


def play(show: Show, seconds: float, folder: Path) -> dict[str, Any]:
    """Play a show for some seconds and write each output's last picture and ``report.json``.

    Returns
    -------
    dict
        ``fps, frames, late_frames, milliseconds, outputs`` (id, width, height of each), ``faults``; ``cpu_seconds`` is
        what the program used, ``stolen_seconds`` what the machine under it took away: frames late for that are late all
        the same, and counted.
    """
    engine = Engine(show)
    received: dict[str, int] = {}
    for output in show.outputs:

        def count(pixels: object, id: str = output.id) -> None:
            received[id] = received.get(id, 0) + 1

        engine.add_sink(output.id, "headless", count)
    engine.start(wait=10, ahead=AHEAD)  # sources that still fill up take the time of the first frames
    while engine.frames < WARM:
        time.sleep(0.002)
    began, cpu, stolen = time.perf_counter(), time.process_time(), stolen_seconds()
    (first, first_at), late = engine.mark, engine.late
    story = [n for n in STORY if show.preset(n) is not None]
    for k, number in enumerate(story):
        due = began + seconds * (k + 1) / (len(story) + 2)
        time.sleep(max(0.0, due - time.perf_counter()))
        engine.act(Recall(preset=number))
    time.sleep(max(0.0, began + seconds - time.perf_counter()))
    last, last_at = engine.mark
    frames, passed = last - first, last_at - first_at
    cpu, stolen = time.process_time() - cpu, stolen_seconds() - stolen
    late, busy = engine.late - late, engine.mean_milliseconds
    engine.stop()
    for id, pixels in engine.rasters.items():
        write_png(pixels, folder / f"{id}.png")
    report = {
        "show": show.name,
        "seconds": round(passed, 3),
        "fps": round(frames / max(passed, 1e-9), 3),
        "frames": frames,
        "late_frames": late,
        "milliseconds": round(busy, 3),
        "cpu_seconds": round(cpu, 2),
        "stolen_seconds": round(stolen, 2),
        "outputs": [
            {
                "id": o.id,
                "number": o.number,
                "name": o.name,
                "width": o.timing.width,
                "height": o.timing.height,
                "frames": received.get(o.id, 0),
                "picture": f"{o.id}.png",
            }
            for o in show.outputs
        ],
        "faults": engine.faults(),
    }
    (folder / "report.json").write_text(json.dumps(report, indent=1) + "\n")
    return report
