"""What a report of the running show says, and the small pictures in it."""

from __future__ import annotations

import time
from collections.abc import Mapping
from typing import NamedTuple

from ushering_adze.core.onair.chasing import Code
from ushering_adze.core.onair.delta import Change, SeenThrough, delta, seen_through_by_pictures
from ushering_adze.core.onair.stage import ALL, Stage, sources_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import State
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.engine.commands import Commands
from ushering_adze.engine.forecasting import Forecasting, Forecasts, Running, known_of
from ushering_adze.engine.glimpsing import Glimpsing
from ushering_adze.engine.looking import Looking
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.pace import Pace
from ushering_adze.engine.pictures import PreviewPictures, Sent, SurfacePictures
from ushering_adze.engine.plan_pictures import PlanPictures
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer
from ushering_adze.engine.report import Report, player_reports, signal_reports, surface_reports


class Told(NamedTuple):
    """What a report is of: everything of the engine, as of one moment."""

    stage: Stage
    renderer: Renderer
    overlay: Overlay
    faults: dict[str, str]
    bound: set[str]
    codes: Mapping[str, Code]
    sent: Mapping[str, Sent]


class Reporting:
    """Makes reports.  What the desk wants to see in them is asked for on its parts, in any thread.

    Parameters
    ----------
    show : Show
    pool : SourcePool
    pace : Pace
    commands : Commands
    """

    def __init__(self, show: Show, pool: SourcePool, pace: Pace, commands: Commands) -> None:
        self._pool, self._pace, self._commands = pool, pace, commands
        self.view, self.glimpses, self.forecasting, self.plans = Looking(), Glimpsing(), Forecasting(), PlanPictures()
        self._previews, self._surfaces = PreviewPictures(show), SurfacePictures()

    def run(self, previews: PreviewPictures, other: bool = False) -> None:
        """Report of an edited show from now on, or of an ``other`` one."""
        self._previews = previews
        if other:
            self._surfaces = SurfacePictures()

    def seen_through(self, show: Show) -> SeenThrough:
        """Which sources may be seen through, by the pictures they truly have; those that have none yet, by their
        kind.
        """
        return seen_through_by_pictures(show, self._pool.opaque())

    def report(self, told: Told, now: float) -> Report:
        """What there is to say at a moment of the clock."""
        stage, show, frames_for = told.stage, told.stage.show, _Held(self._pool)
        changes: list[Change] = []
        preview: dict[str, Pixels] = {}
        armed: set[str] = set()
        if stage.previewing or stage.rehearsal is not None:
            tried = stage.rehearsal
            wanted = stage.preview() if tried is None else tried.stage.program.at(tried.clock(now))
            armed = sources_of(wanted)
            changes = delta(show, stage.program.target, wanted, self.seen_through(show))
            ids = [c.surface for c in changes]
            if ids:
                preview = self._previews.draw(wanted, frames_for(wanted), ids)
        lost = {id: why for id, why in told.faults.items() if self._pool.warnings().get(id) != why}
        program = self._surfaces.of(show, told.sent)
        surfaces = surface_reports(stage, told.renderer.painted, lost, told.bound, told.overlay, time.monotonic())
        late = self._pace.late_lately(now)
        return Report(
            stage,
            tuple(changes),
            surfaces,
            program,
            preview,
            stage.program.progress(now),
            stage.program.moving(now),
            ALL in stage.held,
            ALL in stage.black,
            self._pace.fps,
            self._pace.milliseconds,
            self._pace.mark[0],
            self._pace.late,
            late,
            told.faults,
            len(self._commands),
            self._commands.refused,
            player_reports(
                stage, self._pool.lengths(), sources_of(stage.program.target), armed, now, self._pool.stops()
            ),
            signal_reports(show, self._pool.signals()),
            looked=self.view.picture(stage, now, frames_for, self._previews),
            plan=self.plans.refreshed(show, now, frames_for, late),
            presets=self.glimpses.refreshed(stage, now, frames_for, late),
            forecasts=self._forecasts(stage, told.renderer, now),
            now=now,
            standing_in={id: s for id, s in self._pool.substitutes().items() if s != id},
            codes=told.codes,
        )

    def _forecasts(self, stage: Stage, renderer: Renderer, now: float) -> Forecasts:
        known = known_of(stage.show, self._pool.sizes(), self.seen_through(stage.show))
        plans = {id: raster.plan for id, raster in list(renderer.outputs.items())}
        running = Running(stage, now, known, plans, self._pace.milliseconds / 1e3)
        return self.forecasting.refreshed(running, self._pace.late_lately(now))


class _Held:
    """The pictures of sources as they are in one report, whoever asks, and however often."""

    def __init__(self, pool: SourcePool) -> None:
        self._pool = pool
        self._frames: dict[str, dict[str, Frame]] = {}
        """By who was asked for: also as layers dress it, under other names."""

    def __call__(self, state: State) -> dict[str, Frame]:
        found: dict[str, Frame] = {}
        for id in sources_of(state):
            if id not in self._frames:
                self._frames[id] = self._pool.frames((id,))
            found |= self._frames[id]
        return found
