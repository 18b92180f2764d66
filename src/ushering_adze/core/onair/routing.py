"""Putting a source on a surface: which layer shows it there, and what that makes of program or preview."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.mapping.spreading import lies_over
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import State, layer_state
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Part, Picture, Preset, Show, with_held
from ushering_adze.core.show.rigging import free_name

USUAL = 0.5
"""Seconds of a route that nothing else is said of."""


EDITED = "edited"
"""Id of the preset that an edit on program is."""


class OnLayer(NamedTuple):
    """A layer of a canvas, and how well its box fits what a surface shows, 0 to 1."""

    canvas: str
    layer: str
    fits: float


def _alike(a: Rect, b: Rect) -> float:
    """Shared area over joined area, 0 to 1."""
    shared = a.meet(b).area
    return shared / max(1, a.area + b.area - shared)


def layer_for(show: Show, surface: str, state: State | None = None) -> OnLayer | None:
    """The layer in which a source is put on a surface: of those that are seen, the one whose box fits what the surface
    shows best; none that is dealt out over other surfaces too.

    Parameters
    ----------
    show : Show
    surface : str
    state : mapping, optional
        What layers show; as the show declares them if not given.

    Returns
    -------
    OnLayer or None
        The topmost of those that fit alike; None if no layer lies there.
    """
    best: OnLayer | None = None
    seen_best = False
    parts = surface_rects(show, surface)
    for canvas in {c.id: c for c, _ in parts}.values():
        rects = [rect for c, rect in parts if c.id == canvas.id]
        whole = rects[0]
        for rect in rects[1:]:
            whole = whole.join(rect)
        for layer in canvas.layers:
            at = state.get((canvas.id, layer.id)) if state is not None else None
            at = layer_state(layer.settings, canvas) if at is None else at
            x, y, w, h = lies_over(show, canvas.id, at.spread, at.place)
            if at.spread != OWN and whole.join(Rect(round(x), round(y), round(w), round(h))) != whole:
                continue  # it is dealt out over other surfaces too
            seen = at.opacity > 0
            fits = _alike(Rect(round(x), round(y), round(w), round(h)), whole)
            if fits > 0 and (best is None or (seen, fits) >= (seen_best, best.fits)):
                best, seen_best = OnLayer(canvas.id, layer.id, fits), seen
    return best


def routed(
    show: Show, stage: Stage, surface: str, source: str | None, on_program: bool, seconds: float | None, now: float
) -> Stage:
    """A source put on a surface.

    Parameters
    ----------
    show : Show
    stage : Stage
    surface : str
    source : str or None
        None takes away what is there.
    on_program : bool
        At once; else on preview.
    seconds : float, optional
        Of the fade.
    now : float
        Seconds of the stage's clock.
    """
    state: State = stage.program.target if on_program else stage.preview()
    found = layer_for(show, surface, state)
    if found is None:
        return stage
    at = state[found.canvas, found.layer]
    how: How = "snapped" if seconds == 0 else "faded"
    fit = by_share(at.picture)[0].fit
    fit = "fill" if fit == "1:1" else fit  # one to one was meant for what was there
    part = with_held(
        Part(canvas=found.canvas, layer=found.layer), "picture", Picture(source=source, fit=fit), how, seconds or None
    )
    if at.opacity < 1 and source is not None:
        part = with_held(part, "opacity", 1.0, how, seconds or None)
    if not on_program:
        return stage.with_edit(part)
    preset = Preset(id="route", number=1, name="Route", seconds=USUAL if seconds is None else seconds, parts=(part,))
    return stage.towards(preset, now)


ROUTINGS = "Routings"
"""The page of the deck that routings are stored on."""


def routings(show: Show) -> tuple[Preset, ...]:
    """The presets that hold nothing but what lies on surfaces, by their numbers."""
    return tuple(sorted((p for p in show.presets if p.page == ROUTINGS), key=lambda p: p.number))


def with_routing(show: Show, state: State, name: str = "") -> tuple[Show, int]:
    """The show with a preset of what lies on every surface, and of nothing else: no place, no colour, no other layer.

    Parameters
    ----------
    show : Show
    state : mapping
        What layers show.
    name : str
        *Routing n* if empty.

    Returns
    -------
    Show
    int
        The number of the preset, from 100 on.
    """
    parts: dict[tuple[str, str], Part] = {}
    for surface in show.surfaces:
        found = layer_for(show, surface.id, state)
        if found is None or (found.canvas, found.layer) in parts:
            continue
        at = state[found.canvas, found.layer]
        shown = by_share(at.picture)[0]
        part = with_held(
            Part(canvas=found.canvas, layer=found.layer),
            "picture",
            Picture(source=shown.source, fit=shown.fit),
            "snapped",
        )
        parts[found.canvas, found.layer] = with_held(part, "opacity", 1.0 if at.opacity > 0 else 0.0, "snapped")
    number = next(n for n in range(100, 10_000) if show.preset(n) is None)
    title = free_name(name.strip()[:70] or "Routing 1", {p.name for p in show.presets})
    made = Preset(
        id=new_id(title, {p.id for p in show.presets}),
        number=number,
        name=title,
        seconds=0.0,
        parts=tuple(parts.values()),
        page=ROUTINGS,
    )
    return show.model_copy(update={"presets": (*show.presets, made)}), number


def edited_on_air(stage: Stage, part: Part, seconds: float | None, now: float) -> Stage:
    """A layer changed on program at once: what its part holds snaps, or fades in its time.

    Parameters
    ----------
    stage : Stage
    part : Part
    seconds : float, optional
        Of what fades.
    now : float
        Seconds of the stage's clock.
    """
    preset = Preset(id=EDITED, number=1, name="Edited", seconds=USUAL if seconds is None else seconds, parts=(part,))
    return stage.towards(preset, now)
