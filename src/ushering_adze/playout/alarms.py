"""Alarms of the running show: what is measured is put together, now and then, and judged."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping

import cv2
import numpy as np

from ushering_adze.core.onair.delta import sources_seen
from ushering_adze.core.onair.stage import ALL, Stage
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.proof.live import Seen, SourceHeard, SurfaceSeen, Watched, alarms
from ushering_adze.core.show import Input, Show
from ushering_adze.core.show.alarming import rule_for
from ushering_adze.core.signal.coming import THERE
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import FeedReport, Report
from ushering_adze.playout.captions import CaptionsNow

EVERY = 0.5
"""Seconds from one look to the next."""
WIDTH = 160
"""Pixels of the picture that is kept of the moment at which an alarm was raised."""


class Alarming:
    """Looks at reports, and keeps what is wrong.

    Parameters
    ----------
    engine : Engine
    captions : CaptionsNow
    clock : callable, optional
    """

    def __init__(self, engine: Engine, captions: CaptionsNow, clock: Callable[[], float] = time.monotonic) -> None:
        self._engine, self._captions, self._clock = engine, captions, clock
        self._watched = Watched()
        self._show: Show | None = None
        self._at = -1e9
        self._counts: tuple[int, int] = (0, 0)
        self.pictures: dict[str, Pixels] = {}
        """What surfaces showed when alarms were raised, small, by the alarms' keys."""

    def follow(self, report: Report, feeds: tuple[FeedReport, ...]) -> Mapping[str, str]:
        """What is wrong by a report, in sentences by key."""
        now = self._clock()
        if now - self._at >= EVERY:
            late = self._late(report) if self._at > 0 else 0.0
            self._at = now
            before = self._watched.raised
            self._watched = alarms(report.stage.show, self._seen(report, feeds, late), self._watched, now)
            self._keep_pictures(report, before)
        return self._watched.raised

    def _keep_pictures(self, report: Report, before: Mapping[str, str]) -> None:
        raised = self._watched.raised
        kept = {key: picture for key, picture in self.pictures.items() if key in raised}
        for key in raised.keys() - before.keys():
            picture = report.program.get(key.partition(":")[2])
            if picture is not None:
                size = WIDTH, max(1, round(WIDTH * picture.shape[0] / picture.shape[1]))
                kept[key] = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)
        self.pictures = kept

    def _late(self, report: Report) -> float:
        frames, late = report.frames - self._counts[0], report.late - self._counts[1]
        self._counts = report.frames, report.late
        return late / max(1, frames + late)

    def _seen(self, report: Report, feeds: tuple[FeedReport, ...], late: float) -> Seen:
        show, stage = report.stage.show, report.stage
        inputs = {s.id for s in show.sources if isinstance(s, Input)}
        # Clips may stand for long, and a player that hangs is a fault; what is live never stands.
        moves = inputs & {s.source for s in report.signals if s.state in THERE}
        asked = self._asked(stage)
        surfaces = {
            id: SurfaceSeen(
                report.program.get(id),
                told.source_ids,
                told.state in ("black", "held", "override", "rehearsal") or id in stage.kept,
                bool(moves & set(told.source_ids)),
                asked.get(id) if told.state == "live" else None,
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
        return Seen(surfaces, late, dropped, differs, heard, mixes, self._read(report, surfaces))

    def _asked(self, stage: Stage) -> dict[str, tuple[str, ...]]:
        """Sources that surfaces should show by what was recalled, worked out from that alone; nothing while it fades,
        or while something is held.
        """
        show = stage.show
        if stage.program.moving(self._engine.clock()) or stage.rehearsal is not None or ALL in stage.held:
            return {}
        through, made = self._engine.seen_through(show), {}
        for surface in show.surfaces:
            if surface.id in stage.kept or surface.id in stage.overrides:
                continue
            made[surface.id] = tuple(sources_seen(show, surface.id, stage.program.target, through))
        return made

    def _read(self, report: Report, surfaces: Mapping[str, SurfaceSeen]) -> dict[str, bool]:
        """Those sources on air that should have captions, and whether any is to be read now."""
        show = report.stage.show
        if not any(r.kind == "captions" and r.on for r in show.alarms.rules):
            return {}
        on_air = {id for s in surfaces.values() for id in s.sources}
        wanted = [id for id in on_air if rule_for(show, "captions", id).on]
        return {id: any(read) for id, read in self._captions.of(wanted, report).items()}
