"""Keeps the as-run log: what every surface shows, from what was painted, and what made it so."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from ushering_adze.core.onair.as_run import Line, late_line, noted, noted_alarms
from ushering_adze.core.show.cue import number_words
from ushering_adze.engine.report import Report
from ushering_adze.io.as_run import AsRunWriter

BY_HAND = "by hand"
SOON = 0.5
"""Seconds within which a picture that changes is put down to what was done last, which is told a little before."""
EVERY = 60.0
"""Seconds from one count of late frames to the next."""


class AsRun:
    """Follows reports; what has ended on a surface is written."""

    def __init__(self, folder: Path, clock: Callable[[], float] = time.time) -> None:
        self._writer, self._clock = AsRunWriter(folder), clock
        self._running: dict[str, Line] = {}
        self._wrong: dict[str, Line] = {}
        self._cues: dict[str, str | None] = {}
        self._preset: int | None = None
        self._last, self._moved, self._asked = BY_HAND, False, float("-inf")
        self._counted: tuple[float, int, int] | None = None
        self._report: Report | None = None

    def follow(self, report: Report, event: str = "") -> None:
        """Note what is shown now; ``event`` is what the calendar has just done something for."""
        show = report.stage.show
        names = {s.id: s.name for s in show.surfaces}
        now = {names[id]: (tuple(s.sources), s.state) for id, s in report.surfaces.items() if id in names}
        self._running, ended = noted(self._running, now, self._clock(), self._by(report, event))
        wrong = {t.key: (t.name or t.key, t.what) for t in report.troubles}
        self._wrong, over = noted_alarms(self._wrong, wrong, self._clock())
        for line in (*ended, *over):
            self._writer.write(line)
        self._count(report)

    def _count(self, report: Report, last: bool = False) -> None:
        """Frames that were late, told once a minute."""
        now = self._clock()
        if self._counted is None or report.late < self._counted[2]:
            self._counted = (now, report.frames, report.late)
        elif now - self._counted[0] >= EVERY or last:
            since, frames, late = self._counted
            if report.late > late:
                self._writer.write(late_line(since, now, report.late - late, report.frames - frames))
            self._counted = (now, report.frames, report.late)
        self._report = report

    def _by(self, report: Report, event: str) -> str:
        """What changed the pictures: the cue that was fired since the last report, or the preset that came."""
        now = self._clock()
        stage, by = report.stage, self._last if report.moving or self._moved or now - self._asked < SOON else BY_HAND
        asked = by
        if stage.on_program != self._preset:
            preset = None if stage.on_program is None else stage.show.preset(stage.on_program)
            by = BY_HAND if preset is None else f"preset {preset.number} {preset.name}"
        fired = {id: head.fired for id, head in stage.heads.items()}
        for cues in stage.show.lists:
            cue = cues.cue(fired.get(cues.id))
            if cue is not None and fired[cues.id] != self._cues.get(cues.id):
                by = f"cue {number_words(cue.number)} of {cues.name}"
        if event:
            by = f"calendar: {event}"
        if by != asked:
            self._asked = now
        self._preset, self._cues = stage.on_program, fired
        self._last, self._moved = by, report.moving  # while it fades, it is still the same that made it so
        return by

    def close(self) -> None:
        """Write what still runs, as having ended now."""
        _, ended = noted(self._running, {}, self._clock(), "")
        _, over = noted_alarms(self._wrong, {}, self._clock())
        for line in (*ended, *over):
            self._writer.write(line)
        self._running, self._wrong = {}, {}
        if self._report is not None:
            self._count(self._report, last=True)
        self._writer.close()
