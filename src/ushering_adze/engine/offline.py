"""Pictures made without a clock: the same every time, for checks and for files."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple

from ushering_adze.core.onair.actions import Action, action_from, apply, begun, fault_of, run_lists
from ushering_adze.core.onair.cues import Seen
from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.plane.pixels import Pixels, dark
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.engine.overlay import overlay_of
from ushering_adze.engine.overriding import Overriding, sources_apart
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer
from ushering_adze.engine.report import SurfaceReport, surface_reports
from ushering_adze.engine.tables import TABLES, tables_of_show

MOST_SECONDS = 86400
"""Of a script."""


def rendered(show: Show, preset: int, at: float | None = None) -> tuple[Renderer, dict[str, str]]:
    """Every output's picture some seconds after a preset is recalled on the opened show.

    Parameters
    ----------
    show : Show
    preset : int
        Number of the preset.
    at : float, optional
        Seconds after the recall; by default the moment when all has settled.

    Returns
    -------
    renderer : Renderer
        Holding canvases and output rasters.
    faults : dict
        Why each lost source is lost.

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    wanted = show.preset(preset)
    if wanted is None:
        known = ", ".join(str(p.number) for p in show.presets) or "none yet"
        raise ShowError([Fault("", f"no preset number {preset}; there are: {known}")])
    TABLES.wait(tables_of_show(show))
    motion = recall(show, opening_motion(show), wanted, 0.0)
    if at is None:
        at = max((t.seconds for t in motion.tracks.values()), default=0.0)
    state = motion.at(at)
    pool = SourcePool()
    try:
        needed = show.leading_to(sources_of(state))
        pool.set_show(show.model_copy(update={"sources": tuple(s for s in show.sources if s.id in needed)}))
        renderer = Renderer(show, whole=True)
        renderer.draw(state, pool.exact(sources_of(state), at))
        return renderer, pool.faults()
    finally:
        pool.close()


class Shoot(NamedTuple):
    """What is sent at a moment: by output, in pixels; and what every surface shows of it."""

    name: str
    rasters: dict[str, Pixels]
    surfaces: dict[str, SurfaceReport]


def script_from(document: object) -> list[tuple[float, Action | str]]:
    """Read a list of ``{"at": seconds, "action": {…}}`` and ``{"at": seconds, "shoot": "name"}``, from a decoded JSON
    value.

    Returns
    -------
    list of (seconds, action or name)
        In the order of time; what is at the same moment stays in its order.

    Raises
    ------
    ShowError
        Naming the entry.
    """
    if not isinstance(document, list):
        raise ShowError([Fault("actions", "this is no list of actions in [ ]; write one")])
    found: list[tuple[float, Action | str]] = []
    for n, entry in enumerate(document):
        where = f"actions[{n}]"
        if (
            not isinstance(entry, dict)
            or not isinstance(entry.get("at"), (int, float))
            or isinstance(entry.get("at"), bool)
        ):
            raise ShowError([Fault(where, 'it has no moment; give "at" in seconds')])
        if not 0 <= entry["at"] <= MOST_SECONDS:
            raise ShowError([Fault(f"{where}.at", f"it must be from 0 to {MOST_SECONDS} s; type another moment")])
        if isinstance(name := entry.get("shoot"), str) and set(entry) == {"at", "shoot"}:
            if not re.fullmatch(r"[A-Za-z0-9_-]{1,60}", name):
                raise ShowError([Fault(f"{where}.shoot", "it becomes a folder; use letters, digits, hyphens")])
            found.append((float(entry["at"]), name))
        elif set(entry) == {"at", "action"}:
            try:
                found.append((float(entry["at"]), action_from(entry["action"])))
            except ShowError as error:
                raise ShowError([Fault(f"{where}.{f.where}", f.what) for f in error.faults]) from None
        else:
            raise ShowError([Fault(where, 'beside "at" it needs either "action" or "shoot"')])
    return sorted(found, key=lambda e: e[0])


def acted(show: Show, script: Sequence[tuple[float, Action | str]], day: float | None = None) -> Iterator[Shoot]:
    """Play actions on a clock of its own, and tell what is sent at each moment asked for; the same every time, clips
    too.

    Frames are as in the running show: at the show's rate, from 0.  A shoot shows its own moment exactly.  ``day`` is
    the time of day at 0, in seconds from midnight; without one cues wait for no time of day.

    Raises
    ------
    ShowError
        If an action names what the show has not.
    """
    for at, what in script:
        fault = None if isinstance(what, str) else fault_of(show, what)
        if fault is not None:
            raise ShowError([Fault(f"at {at:g} s", fault)])
    pool, laid, overriding = SourcePool(), None, Overriding(beside=False)

    def seen(at: float) -> Seen:
        return Seen(None if day is None else (day + at) % 86400.0, pool.lengths())

    try:
        pool.set_show(show)
        pool.wait(60.0)
        TABLES.wait(tables_of_show(show))
        stage, renderer, now, ticks = begun(Stage.opened(show), 0.0).played(0.0), Renderer(show, whole=True), 0.0, 0
        for at, what in script:
            while (ticks + 1) * show.frame_seconds <= at:
                ticks += 1
                tick = ticks * show.frame_seconds
                stage = run_lists(stage, tick, seen(tick)).played(tick)
            stage, now = run_lists(stage, at, seen(at)).played(at), at
            if not isinstance(what, str):
                stage = run_lists(apply(show, stage, what, now), now, seen(now)).played(now)
            if stage.laid != laid:
                laid = stage.laid
                renderer.lay_over(overlay_of(show, laid))
            stage = replace(stage, players={**stage.players, **pool.settled(stage.players)})
            state = stage.program.at(now)
            pool.follow(stage.players, now, messages=stage.messages, worn=stage.worn(state))
            frames = pool.exact_now(sources_of(state) | sources_apart(stage, now))
            apart = overriding.apart(stage, frames, now)
            renderer.draw(
                state, frames, now, stage.is_held, apart=apart
            )  # after an action too: stills are of its moment
            if isinstance(what, str):
                rasters = {
                    id: dark(o.pixels) if stage.is_black(id) else o.pixels.copy() for id, o in renderer.outputs.items()
                }
                yield Shoot(
                    what,
                    rasters,
                    surface_reports(
                        stage, renderer.painted, pool.faults(), {o.id for o in show.outputs}, renderer.overlay
                    ),
                )
    finally:
        pool.close()


def patterned(show: Show, name: str) -> Renderer:
    """Every output's picture with a test pattern on every canvas."""
    renderer = Renderer(show)
    renderer.draw_pattern(name)
    return renderer


def output_pictures(renderer: Renderer) -> dict[str, Pixels]:
    """The raster of each output by its id."""
    return {id: output.pixels for id, output in renderer.outputs.items()}
