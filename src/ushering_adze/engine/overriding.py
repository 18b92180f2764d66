"""What surfaces show in place of the show: the pictures of overrides, and of a rehearsal that is let through."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from ushering_adze.core.light.lining_up import shaped
from ushering_adze.core.light.patterns import Label
from ushering_adze.core.onair.overriding import LAYER, areas_of, overriding_sources, source_over
from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.picture.dealing import Deal, deal_of, in_its_box
from ushering_adze.core.picture.frame import Frame, Requests
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Show
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.renderer import Apart, layers_of
from ushering_adze.engine.resampled import NONE
from ushering_adze.io.logs import log


class _Area(NamedTuple):
    """A part of a canvas that a surface shows, painted for it alone; ``done`` is a picture that nothing changes."""

    canvas: Canvas
    rect: Rect
    regions: frozenset[str]
    painter: CanvasPainter
    done: Pixels | None = None

    @property
    def pixels(self) -> Pixels:
        return self.painter.pixels if self.done is None else self.done


def sources_apart(stage: Stage, now: float) -> set[str]:
    """Sources that overrides and a rehearsal show."""
    found = overriding_sources(stage.overrides)
    tried = stage.rehearsal
    if tried is not None:
        found |= sources_of(tried.stage.program.target)
        found |= sources_of(tried.stage.program.at(tried.clock(now))) if tried.stage.program.tracks else set()
    return found & {s.id for s in stage.show.sources}


class Overriding:
    """Paints what surfaces show in place of the show.  It is asked once for each frame, by the render thread.

    Patterns are drawn ``beside`` the frames, unless there are none to keep waiting.
    """

    def __init__(self, beside: bool = True) -> None:
        self._beside = beside
        self._of: dict[str, tuple[object, ...]] = {}
        """What each surface's areas were made for."""
        self._areas: dict[str, tuple[_Area, ...]] = {}
        self._waiting: dict[str, tuple[object, ...]] = {}
        self._drawn: dict[str, tuple[tuple[object, ...], tuple[Pixels, ...]]] = {}
        self._show: Show | None = None
        self._regions: frozenset[str] = frozenset()

    def apart(self, stage: Stage, frames: Mapping[str, Frame], now: float, requests: Requests = NONE) -> Apart:
        """What is shown apart at a moment; the same empty value while nothing is."""
        let = stage.rehearsal.let if stage.rehearsal is not None else frozenset()
        if not stage.overrides and not let and not self._areas:
            return Apart()
        show = stage.show
        known = {s.id for s in show.surfaces}
        wanted: dict[str, tuple[object, ...]] = dict.fromkeys(let & known, ("rehearsal", show.canvases, show.rate))
        for id, override in stage.overrides.items():
            wanted[id] = (override.shows, override.source, override.since, show.canvases, show.rate)
        changed: set[str] = set()
        for id in self._areas.keys() - wanted.keys():
            del self._areas[id], self._of[id]
        for id, of in wanted.items():
            if self._same(id, of):
                continue
            made = self._made(stage, id, of, frames, now, requests)
            if made is not None:
                self._areas[id], self._of[id] = made, of
                changed |= {r for area in made for r in area.regions}
        for id, areas in self._areas.items():
            for area in areas:
                if area.done is None:
                    layers, deal = self._layers(stage, id, area, now)
                    if area.painter.draw(layers, frames, requests, deal):
                        changed |= area.regions
        pictures = {r: area.pixels for areas in self._areas.values() for area in areas for r in area.regions}
        changed |= self._regions - pictures.keys()
        self._regions = frozenset(pictures)
        return Apart(pictures, frozenset(changed))

    def _same(self, id: str, of: tuple[object, ...]) -> bool:
        was = self._of.get(id)
        return was is not None and len(was) == len(of) and all(a is b or a == b for a, b in zip(was, of, strict=True))

    def _layers(self, stage: Stage, id: str, area: _Area, now: float) -> tuple[Sequence[tuple[str, LayerState]], Deal]:
        override, tried = stage.overrides.get(id), stage.rehearsal
        if override is not None:
            assert override.source is not None
            return [(LAYER, source_over(area.canvas, area.rect, override.source))], in_its_box
        assert tried is not None
        state = tried.stage.program.at(tried.clock(now))
        return layers_of(area.canvas, state), deal_of(stage.show, area.canvas.id)

    def _made(
        self,
        stage: Stage,
        id: str,
        of: tuple[object, ...],
        frames: Mapping[str, Frame],
        now: float,
        requests: Requests,
    ) -> tuple[_Area, ...] | None:
        """The areas of a surface that is newly shown apart; None while they are still being drawn."""
        show, areas = stage.show, []
        pictures: tuple[Pixels, ...] | None = None
        if of[0] == "pattern":
            pictures = self._patterns(show, id, of)
            if pictures is None:
                return None
        for n, (canvas, rect) in enumerate(areas_of(show, id)):
            regions = frozenset(r.id for r in show.feeds_of(id) if show.homes[r.id][0].id == canvas.id)
            before = self._areas.get(id)
            painter = CanvasPainter(canvas, 1.0, (rect,), (rect,), clear=of[0] == "source")
            done: Pixels | None = None
            match of[0]:
                case "black":
                    done = painter.pixels
                    done[..., 3] = 255
                case "hold":
                    if before is not None and n < len(before):
                        done = before[n].pixels
                    else:
                        state = stage.program.at(now)
                        painter.draw(layers_of(canvas, state), frames, requests, deal_of(show, canvas.id))
                        done = painter.pixels
                case "pattern" if pictures is not None:
                    done = painter.pixels
                    done[rect.meet(painter.bounds).cut()] = pictures[n]
            areas.append(_Area(canvas, rect, regions, painter, done))
        return tuple(areas)

    def _patterns(self, show: Show, id: str, of: tuple[object, ...]) -> tuple[Pixels, ...] | None:
        """The pattern of each area of a surface; it is drawn beside the frames, and None until then."""
        drawn = self._drawn.get(id)
        if drawn is not None and drawn[0] == of:
            return drawn[1]
        if self._waiting.get(id) != of:
            self._waiting[id] = of
            name = show.surface(id).name

            def draw() -> None:
                try:
                    made = []
                    for canvas, rect in areas_of(show, id):
                        seen = rect.meet(Rect(0, 0, canvas.width, canvas.height))
                        picture = shaped("grid", seen.w, seen.h, Label(name, show.rate, show.name))
                        made.append(np.ascontiguousarray(picture))
                    self._drawn[id] = (of, tuple(made))
                except Exception:
                    log.exception("pattern not drawn", surface=id)

            if not self._beside:
                draw()
                return self._patterns(show, id, of)
            threading.Thread(target=draw, name="override", daemon=True).start()
        return None
