"""Alarms of the running show: what is measured is put together, now and then, and judged."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping

from ushering_adze.core.proof.live import Seen, SourceHeard, SurfaceSeen, Watched, alarms
from ushering_adze.core.show import Input, Show
from ushering_adze.core.signal.coming import THERE
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import FeedReport, Report

EVERY = 0.5
"""Seconds from one look to the next."""


class Alarming:
    """Looks at reports, and keeps what is wrong.

    Parameters
    ----------
    engine : Engine
    clock : callable, optional
    """

    def __init__(self, engine: Engine, clock: Callable[[], float] = time.monotonic) -> None:
        self._engine, self._clock = engine, clock
        self._watched = Watched()
        self._show: Show | None = None
        self._at = -1e9
        self._counts: tuple[int, int] = (0, 0)

    def follow(self, report: Report, feeds: tuple[FeedReport, ...]) -> Mapping[str, str]:
        """What is wrong by a report, in sentences by key."""
        now = self._clock()
        if now - self._at >= EVERY:
            late = self._late(report) if self._at > 0 else 0.0
            self._at = now
            self._watched = alarms(report.stage.show, self._seen(report, feeds, late), self._watched, now)
        return self._watched.raised

    def _late(self, report: Report) -> float:
        frames, late = report.frames - self._counts[0], report.late - self._counts[1]
        self._counts = report.frames, report.late
        return late / max(1, frames + late)

    def _seen(self, report: Report, feeds: tuple[FeedReport, ...], late: float) -> Seen:
        show, stage = report.stage.show, report.stage
        inputs = {s.id for s in show.sources if isinstance(s, Input)}
        # Clips may stand for long, and a player that hangs is a fault; what is live never stands.
        moves = inputs & {s.source for s in report.signals if s.state in THERE}
        surfaces = {
            id: SurfaceSeen(
                report.program.get(id),
                told.source_ids,
                told.state in ("black", "held", "override", "rehearsal") or id in stage.kept,
                bool(moves & set(told.source_ids)),
            )
            for id, told in report.surfaces.items()
        }
        differs = {s.source: s.differs[0] for s in report.signals if s.differs}
        sound = report.sound
        heard = {id: SourceHeard(level.silent) for id, level in sound.sources.items() if id in sound.audible}
        mixes = {
            m.mix: (m.measured, mix.target, mix.most) for m in sound.mixes if (mix := show.sound.mix(m.mix)) is not None
        }
        dropped = {f.feed: f.dropped for f in feeds if f.on}
        return Seen(surfaces, late, dropped, differs, heard, mixes)
