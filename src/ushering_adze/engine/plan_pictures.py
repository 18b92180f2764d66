"""Small pictures of what surfaces will show after each cue of a list: one cue after another, beside the frames."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ushering_adze.core.onair.actions import done_in
from ushering_adze.core.onair.planning import APART, after_cue, rested
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import State
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.engine.glimpsing import EVERY, SMALL, SPARING
from ushering_adze.engine.pictures import PreviewPictures

Pictures = Mapping[str, Mapping[str, Pixels]]
"""By cue and by surface."""


class PlanPictures:
    """Makes the pictures of the list that is looked at, from its first cue on, and then anew from the first."""

    def __init__(self) -> None:
        self._asked: str | None = None
        self._of: tuple[object, ...] = ()
        self._stages: list[Stage] = []
        self._pictures: dict[str, Mapping[str, Pixels]] = {}
        self._painter: PreviewPictures | None = None
        self._next, self._last = 0, float("-inf")

    def ask(self, list: str | None) -> None:
        """Somebody looks at the plan of this list from now on; at none, if it is None."""
        self._asked = list

    def refreshed(self, show: Show, now: float, frames: Callable[[State], dict[str, Frame]], hurried: bool) -> Pictures:
        """The pictures there are by now; one of them is new, every few reports while the show is ``hurried``."""
        cues = next((y for y in show.lists if y.id == self._asked), None)
        if cues is None:
            self._of, self._stages, self._pictures, self._painter = (), [], {}, None
            return {}
        of = (cues, show.presets, show.canvases, show.surfaces, show.outputs, show.zones, show.sources)
        if len(of) != len(self._of) or any(a is not b for a, b in zip(of, self._of, strict=True)):
            self._of, self._stages, self._next = of, [], 0
            self._painter = PreviewPictures(show, SMALL)
        order = cues.ordered
        if not order or self._painter is None or now - self._last < EVERY * (SPARING if hurried else 0.5):
            return dict(self._pictures)
        n = self._next % len(order)
        if n == len(self._stages):  # they are worked out one by one as well: all at once would last
            before = self._stages[-1] if self._stages else rested(Stage.opened(show))
            self._stages.append(after_cue(before, cues.id, order[n], (n + 1) * APART, done_in))
        state = self._stages[n].program.target
        drawn = self._painter.draw(state, frames(state), [s.id for s in show.surfaces])
        known = {c.id for c in order}
        self._pictures = {id: p for id, p in self._pictures.items() if id in known} | {order[n].id: drawn}
        self._next, self._last = n + 1, now
        return dict(self._pictures)
