"""From layer states and frames to the pictures of every output."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.light.lining_up import shaped
from ushering_adze.core.light.patterns import Label
from ushering_adze.core.picture.dealing import deal_of
from ushering_adze.core.picture.frame import Frame, Requests, Sized
from ushering_adze.core.picture.layers import LayerState, State
from ushering_adze.core.picture.mapping import Known, compile_output, is_rough, lagging_landings
from ushering_adze.core.picture.steps import OutputPlan, Step, blank_raster, finish_step, lay_step, seen_by
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect, gathered
from ushering_adze.core.show import Canvas, Show
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.resampled import NONE
from ushering_adze.engine.workers import each
from ushering_adze.io.logs import log

BUFFERS = 3
Plans = dict[str, OutputPlan]
MOST_PARTS = 48
_serials = itertools.count(1)


class Painted(NamedTuple):
    """What a raster was painted from: the state of every layer, and of every source whether it could not be seen
    through, and when its picture was made, in seconds of the monotonic clock, if that means anything."""

    state: State = MappingProxyType({})
    opaque: Mapping[str, bool] = MappingProxyType({})
    born: Mapping[str, float] = MappingProxyType({})
    origin: Mapping[str, str] = MappingProxyType({})
    """By source, where its picture truly came from."""


class Apart(NamedTuple):
    """Pictures in place of canvases for some regions, by their ids, each of its canvas' size; and which regions, of
    these or of those that had one before, show something else now.
    """

    pictures: Mapping[str, Pixels] = MappingProxyType({})
    changed: frozenset[str] = frozenset()


class Prepared(NamedTuple):
    """What an edited show is run by: its plans, and the rasters and painters it needs beyond those there are."""

    plans: Plans
    rasters: dict[str, OutputRaster]
    painters: dict[str, CanvasPainter]


class OutputRaster:
    """An output's plan and its rasters in turn, so that a frame handed over is not written again while it is shown."""

    def __init__(self, plan: OutputPlan) -> None:
        self.plan = plan
        self._rasters = [blank_raster(plan)]
        self._unflipped = None if plan.flip is None else blank_raster(plan)
        self._stale = [False] * BUFFERS
        self._turn = 0
        self.serial = 0
        """Of the newest picture; no two pictures of any output have the same."""
        self.fault: str | None = None
        self.painted = Painted()
        """What the newest picture was painted from."""

    def fits(self, plan: OutputPlan) -> bool:
        """Whether another plan could use this memory."""
        return (plan.output, plan.width, plan.height, plan.flip) == (
            self.plan.output,
            self.plan.width,
            self.plan.height,
            self.plan.flip,
        )

    def follow(self, plan: OutputPlan) -> None:
        """Take over another plan that fits."""
        self.plan = plan
        whole = Rect(0, 0, plan.width, plan.height)
        self._stale = [not any(step.put == whole for step in plan.steps)] * BUFFERS

    def fill(self) -> None:
        """Make every raster now that would be made when its turn comes."""
        while len(self._rasters) < BUFFERS:
            self._rasters.append(blank_raster(self.plan))

    @property
    def pixels(self) -> Pixels:
        """The newest finished raster."""
        return self._rasters[self._turn]

    def draw(
        self,
        canvases: dict[str, CanvasPainter],
        dirty: dict[str, tuple[Rect, ...]],
        everything: bool,
        overlay: Overlay = Overlay(),
        instead: Pixels | None = None,
        apart: Apart = Apart(),
    ) -> bool:
        """Run the plan if anything it shows has changed; says whether it did.  ``instead`` is a raster in place of what
        it makes.
        """
        pictures, own = overlay.canvases.get(self.plan.output, {}), apart.pictures

        def news(step: Step) -> bool:
            if step.region in apart.changed:
                return True
            covered = step.canvas in pictures or step.region in own
            return not covered and seen_by(step.take, dirty.get(step.canvas, ()))

        if not everything and instead is None and not any(map(news, self.plan.steps)):
            return False
        turn = (self._turn + 1) % BUFFERS
        if turn == len(self._rasters):
            self._rasters.append(blank_raster(self.plan))
            self._stale[turn] = False
        raster = self._rasters[turn] if self._unflipped is None else self._unflipped
        if self._stale[turn]:  # what the former plan left where this one writes nothing
            raster.view(np.uint32)[...] = blank_raster(self.plan._replace(width=1, height=1)).view(
                np.uint32
            )  # a pixel at a time
            self._stale[turn] = False
        if instead is not None:
            np.copyto(raster, instead)
        for step in self.plan.steps if instead is None else ():
            painter = canvases[step.canvas]
            if self.plan.output in overlay.bare:
                step = step._replace(finish=step.bare)
            if step.region in own:
                lay_step(step, self.plan, own[step.region][step.take.cut()], raster)
            elif step.how == "copy" and step.canvas not in pictures:
                painter.paint_onto(raster, step.take, step.put)
                finish_step(step, self.plan, raster)
            else:
                lay_step(step, self.plan, pictures.get(step.canvas, painter.pixels)[step.take.cut()], raster)
        if self.plan.output in overlay.dim:
            cv2.multiply(raster, (*[overlay.dim[self.plan.output]] * 3, 1.0), dst=raster)
        if self.plan.flip is not None:
            cv2.flip(raster, self.plan.flip, dst=self._rasters[turn])
        self._turn = turn
        self.serial = next(_serials)
        return True


def layers_of(canvas: Canvas, state: State) -> list[tuple[str, LayerState]]:
    """The layers of a canvas with their states, bottom first; a layer that an edit has just taken away has none."""
    return [(layer.id, state[canvas.id, layer.id]) for layer in canvas.layers if (canvas.id, layer.id) in state]


class Renderer:
    """Paints canvases and fills output rasters, redoing only what changed.

    Parameters
    ----------
    show : Show
    whole : bool
        Paint every canvas whole, also where no region shows it.
    """

    def __init__(self, show: Show, whole: bool = False) -> None:
        self.show = show
        self._whole = whole
        self.canvases: dict[str, CanvasPainter] = {}
        self.outputs: dict[str, OutputRaster] = {}
        self._everything = True
        self._fresh: set[str] = set()
        self._frame = 0
        self._known: Known = {}
        self.overlay = Overlay()
        self._now = 0.0
        self._painted_key: tuple[int, ...] = ()
        self._apart = Apart()
        self._painted_last = Painted()
        self.set_show(show)

    def set_show(self, show: Show) -> None:
        """Compile afresh what the edit touched, and run it."""
        self.adopt(show, self.prepared(show, fill=False))

    def prepared(self, show: Show, quick: bool = False, fill: bool = True) -> Prepared:
        """All that an edited show needs to be run: its plans, and memory where what there is does not fit.

        One call at a time, from any thread: so that `adopt`, in a frame's time, has nothing to ask for; ``fill``
        has every raster made that it will want later on, too.

        Raises
        ------
        MemoryError
            And whatever else compiling may raise; what runs is untouched.
        """
        plans = self.compiled(show, quick)
        rasters = {}
        for id, plan in plans.items():
            old = self.outputs.get(id)
            if old is None or not old.fits(plan):
                rasters[id] = OutputRaster(plan)
                if fill:
                    rasters[id].fill()
        painters = {
            c.id: made for c in show.canvases if (made := self._fitting(c, plans)) is not self.canvases.get(c.id)
        }
        return Prepared(plans, rasters, painters)

    def compiled(self, show: Show, quick: bool = False) -> Plans:
        """The plans of a show, made anew where they differ from those compiled last; one call at a time, from any
        thread.

        ``quick`` ones may be a fraction of a pixel off where a mesh is being moved.
        """
        for gone in self._known.keys() - show.homes.keys():
            del self._known[gone]
        lagging = lagging_landings(show, self._known) if quick else {}
        return {output.id: compile_output(show, output, self._known, quick, lagging) for output in show.outputs}

    @property
    def rough(self) -> bool:
        """Whether plans compiled last were quick ones that are not yet as exact as can be."""
        return is_rough(self._known)

    def adopt(self, show: Show, prepared: Prepared) -> None:
        """Run a show that was prepared, between two frames."""
        outputs = {}
        for output in show.outputs:
            plan = prepared.plans[output.id]
            old = self.outputs.get(output.id)
            if old is not None and _same_plan(old.plan, plan):
                outputs[output.id] = old
                continue
            self._fresh.add(output.id)
            if old is not None and old.fits(plan):
                old.follow(plan)
                outputs[output.id] = old
            else:
                outputs[output.id] = prepared.rasters.get(output.id) or OutputRaster(plan)
        canvases = {c.id: self._fitting(c, prepared.plans, prepared.painters.get(c.id)) for c in show.canvases}
        for canvas in show.canvases:
            canvases[canvas.id].canvas = canvas
        self.canvases, self.outputs, self.show = canvases, outputs, show

    def _fitting(self, canvas: Canvas, plans: Plans, made: CanvasPainter | None = None) -> CanvasPainter:
        """The painter there is for a canvas, if it will do, else the one that was made for it, else a new one."""
        steps = [step for plan in plans.values() for step in plan.steps if step.canvas == canvas.id]
        seen = None if self._whole else _few(tuple(s.take for s in steps))
        painted = None if self._whole else _few(tuple(s.take for s in steps if s.how != "copy"))
        old = self.canvases.get(canvas.id)
        if old is not None and _same_face(old.canvas, canvas) and (old.seen, old.painted) == (seen, painted):
            return old
        return made if made is not None else CanvasPainter(canvas, 1.0, seen, painted)

    def lay_over(self, overlay: Overlay) -> None:
        """Lay patterns over outputs, or take them away."""
        self.overlay = overlay
        self._everything = True

    def draw(
        self,
        state: State,
        frames: dict[str, Frame],
        now: float = 0.0,
        held: Callable[[str], bool] = lambda output: False,
        requests: Requests = NONE,
        apart: Apart = Apart(),
    ) -> list[str]:
        """One frame of the show; returns ids of the outputs whose picture changed.  Who is ``held`` keeps the picture
        it has; what is shown ``apart`` takes the place of the show.
        """
        self._apart = apart
        self._now = now
        dirty: dict[str, tuple[Rect, ...]] = {}
        for canvas in self.show.canvases:
            if not self._due(canvas):
                continue
            painter = self.canvases[canvas.id]
            try:
                dirty[canvas.id] = painter.draw(
                    layers_of(canvas, state), frames, requests, deal_of(self.show, canvas.id)
                )
                painter.fault = None
            except Exception as error:  # a canvas that cannot be painted keeps its picture, and the others go on
                log.exception("canvas not painted", canvas=canvas.id)
                painter.fault = f"it cannot be painted ({type(error).__name__}); undo the last edit of its layers"
        self._frame += 1
        return self._map(dirty, held)

    def foresee(self, states: Sequence[State], frames: dict[str, Frame], requests: Requests) -> None:
        """Tell each of these sources at which sizes the states would show it, so that it can bring its pictures along
        in them.
        """
        cuts: dict[str, set[Sized]] = {}
        for state, canvas in itertools.product(states, self.show.canvases):
            for _, layer in layers_of(canvas, state):
                for source, cut in self.canvases[canvas.id].foreseen(layer, frames):
                    cuts.setdefault(source, set()).add(cut)
        for source in frames:
            requests.foresee(source, frozenset(cuts.get(source, ())))

    @property
    def painted(self) -> dict[str, Painted]:
        """What every output's newest picture was painted from."""
        return {id: output.painted for id, output in list(self.outputs.items())}

    def faults(self) -> dict[str, str]:
        """What could not be made: by id of output or canvas, or of canvas and layer."""
        found = {id: o.fault for id, o in self.outputs.items() if o.fault}
        for id, painter in self.canvases.items():
            found |= {id: painter.fault} if painter.fault is not None else {}
            found |= {f"{id}/{layer}": why for layer, why in painter.faults.items()}
        return found

    def draw_edited(self, held: Callable[[str], bool] = lambda output: False) -> list[str]:
        """The outputs whose plan is new, from canvases as they are; none while a canvas is still to be painted for
        them.
        """
        if not self._fresh or any(painter.unpainted for painter in self.canvases.values()):
            return []
        return self._map({}, held)

    def _due(self, canvas: Canvas) -> bool:
        """Whether a canvas of a lower rate than the show's gets a new picture with this frame; between them it keeps
        its last.
        """
        if (
            canvas.rate is None
            or canvas.rate >= self.show.rate
            or self._everything
            or self.canvases[canvas.id].unpainted
        ):
            return True
        share = canvas.rate / self.show.rate
        return int(self._frame * share) != int((self._frame - 1) * share)

    def fill(self) -> None:
        """Take all memory that frames will want, before the first of them is due."""
        each(OutputRaster.fill, list(self.outputs.values()))
        each(CanvasPainter.fill, list(self.canvases.values()))

    def draw_pattern(self, name: str) -> list[str]:
        """A test pattern on every canvas."""
        return self.draw_pictures(
            {
                c.id: shaped(name, c.width, c.height, Label(c.name, self.show.rate, self.show.name))
                for c in self.show.canvases
            }
        )

    def draw_pictures(self, pictures: Mapping[str, Pixels]) -> list[str]:
        """Pictures in place of what canvases show, by their ids, each of its canvas' size."""
        return self._map({id: self.canvases[id].show_pattern(picture) for id, picture in pictures.items()})

    def _painted(self) -> Painted:
        """What all canvases show by now."""
        key = tuple(id(painter.shown) for painter in self.canvases.values())
        if key != self._painted_key:
            shown = {
                (c, layer): state for c, painter in self.canvases.items() for layer, state in painter.shown.items()
            }
            frames = {source: frame for painter in self.canvases.values() for source, frame in painter.frames.items()}
            self._painted_key, self._painted_last = (
                key,
                Painted(
                    shown,
                    {s: f.opaque for s, f in frames.items()},
                    {s: f.born for s, f in frames.items() if f.born},
                    {s: f.origin for s, f in frames.items() if f.origin},
                ),
            )
        return self._painted_last

    def _map(self, dirty: dict[str, tuple[Rect, ...]], held: Callable[[str], bool] = lambda output: False) -> list[str]:
        changed: set[str] = set()
        waiting = {id for id in self.outputs if held(id)}
        overlay, everything, fresh = self.overlay, self._everything, self._fresh
        moving = overlay.moving(self._now) if overlay.moving is not None else {}
        painted = self._painted()

        def draw(id: str) -> None:
            output = self.outputs[id]
            try:
                instead = moving.get(id)
                all = everything or id in fresh
                if instead is None and all:
                    instead = overlay.rasters.get(id)
                elif instead is None and id in overlay.rasters:
                    return
                if instead is not None and instead.shape[:2] != output.pixels.shape[:2]:
                    instead = None  # made for another raster: the show itself is better than a wrong pattern
                if output.draw(self.canvases, dirty, all, overlay, instead, self._apart):
                    changed.add(id)
                output.fault, output.painted = None, painted
            except Exception as error:  # one bad output never stops the others
                log.exception("output not drawn", output=id)
                output.fault = f"{type(error).__name__}: {error}"[:160]

        each(draw, [id for id in self.outputs if id not in waiting])
        self._apart = self._apart._replace(changed=frozenset())
        # what a held output has missed is all drawn when it goes on
        self._everything, self._fresh = False, waiting
        return [id for id in self.outputs if id in changed]


@lru_cache(maxsize=64)
def _few(given: tuple[Rect, ...]) -> tuple[Rect, ...]:
    """Rectangles that hold these; one around all where there are so many that going through them costs more than it
    saves.
    """
    found = gathered(given) if len(given) <= 4 * MOST_PARTS else given
    if len(found) <= MOST_PARTS:
        return tuple(found)
    x, y = min(r.x for r in found), min(r.y for r in found)
    return (Rect(x, y, max(r.right for r in found) - x, max(r.foot for r in found) - y),)


def _same_face(a: Canvas, b: Canvas) -> bool:
    return (a.width, a.height, a.background) == (b.width, b.height, b.background)


def _same_plan(a: OutputPlan, b: OutputPlan) -> bool:
    """Whether two plans do the same; steps that were taken over are the very same values."""
    if (a.output, a.width, a.height, len(a.steps), a.flip) != (b.output, b.width, b.height, len(b.steps), b.flip):
        return False
    for old, new in ((a.adjust, b.adjust), (a.wire, b.wire)):
        if (old is None) != (new is None) or (old is not None and new is not None and not np.array_equal(old, new)):
            return False
    return all(
        s is t or (s.maps is t.maps is None and s.finish is t.finish is None and s == t)
        for s, t in zip(a.steps, b.steps, strict=True)
    )
