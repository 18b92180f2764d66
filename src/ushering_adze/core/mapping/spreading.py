"""Spreading: how one layer's picture is dealt out over the surfaces of a zone."""

from __future__ import annotations

from functools import reduce
from typing import Any, NamedTuple

from ushering_adze.core.kinds.mixed import Mixed, plainest
from ushering_adze.core.kinds.spread import OWN, SpreadNow
from ushering_adze.core.mapping.faces import faces_on, hung, parts_of_face
from ushering_adze.core.plane.boxes import Box, around, box_of_rect
from ushering_adze.core.plane.rect import Rect, disjoint
from ushering_adze.core.show import Show
from ushering_adze.core.show.zoning import members


class Dealt(NamedTuple):
    """One picture of a layer that is dealt out.

    Attributes
    ----------
    box : tuple of float
        ``(x, y, w, h)`` of the picture in canvas pixels; None is the layer's own.
    seen : tuple of Rect
        Where it is seen: rectangles of the canvas that do not overlap; None is wherever it lies.
    share : float
        Of what is seen there, 0 to 1.
    source : str or None
        What it shows in place of the layer's own picture.
    pixel : tuple of float or None
        Width and height of one of its pixels in millimetres, of a picture that is laid by them, to a fraction of a
        pixel.
    fit : str or None
        How it fills its box; None is as the layer says.
    """

    box: Box | None = None
    seen: tuple[Rect, ...] | None = None
    share: float = 1.0
    source: str | None = None
    pixel: tuple[float, float] | None = None
    fit: str | None = None

    @property
    def around(self) -> Rect | None:
        """The rectangle around all that is seen of it."""
        return None if self.seen is None else reduce(Rect.join, self.seen, Rect(0, 0, 0, 0))


ITS_OWN = (Dealt(),)
"""A layer in its own box."""


def dealt(show: Show, canvas: str, spread: Any) -> tuple[Dealt, ...]:
    """The pictures that a spread makes of a layer's, on one canvas.

    Parameters
    ----------
    show : Show
    canvas : str
        Of the layer: a surface that it does not feed gets nothing.
    spread : SpreadNow or Mixed
        On its way from one to another, what both make is there, each by its share.

    Returns
    -------
    tuple of Dealt
        Shares add to one at most wherever something is seen.
    """
    if spread == OWN:
        return ITS_OWN
    if isinstance(spread, Mixed):  # another one with every frame: only what it is between is kept
        before, after = (dealt(show, canvas, s) for s in (spread.before, spread.after))
        return tuple(
            one._replace(share=one.share * share)
            for side, share in ((before, 1 - spread.share), (after, spread.share))
            for one in side
            if share > 0
        )
    known: dict[tuple[str, SpreadNow], tuple[Dealt, ...]] = show.dealt_out
    found = known.get((canvas, spread))
    if found is None:
        found = known[canvas, spread] = _dealt(show, canvas, spread)
    return found


def _dealt(show: Show, canvas: str, spread: SpreadNow) -> tuple[Dealt, ...]:
    if all(zone.id != spread.zone for zone in show.zones):
        return ITS_OWN  # an edit took it back while a layer lies over it: better a picture elsewhere than none
    faces = {face.surface.id: face.rect for face in faces_on(show, canvas)}
    groups = [tuple(s for s in group if s in faces) for group in members(show, spread.zone or "")]
    groups = [group for group in groups if group]
    match spread.over:
        case "across":
            return _across(show, canvas, tuple(s for group in groups for s in group), faces, spread.by)
        case "grouped" if groups:
            rest = [s for group in groups[1:] for s in group]
            return (
                *_across(show, canvas, groups[0], faces, spread.by),
                *(_whole(show, canvas, s, faces, _fit(spread, n)) for n, s in enumerate(rest)),
            )
        case "in-turn" if spread.sources:
            every = [s for group in members(show, spread.zone or "") for s in group]
            return tuple(
                _whole(show, canvas, s, faces, _fit(spread, n), spread.sources[n % len(spread.sources)])
                for n, s in enumerate(every)
                if s in faces
            )
    each = (s for group in groups for s in group)
    return tuple(_whole(show, canvas, s, faces, _fit(spread, n)) for n, s in enumerate(each))


def _fit(spread: SpreadNow, n: int) -> str | None:
    """How the picture of a surface of this number fills it."""
    return spread.fits[n % len(spread.fits)] if spread.fits else None


def _whole(
    show: Show,
    canvas: str,
    surface: str,
    faces: dict[str, Rect],
    fit: str | None = None,
    source: str | None = None,
) -> Dealt:
    """A whole picture on one surface."""
    face = faces[surface]
    box = (face.x, face.y, face.w, face.h)
    return Dealt(box, parts_of_face(show, canvas, surface), fit=fit, source=source)


def _across(show: Show, canvas: str, surfaces: tuple[str, ...], faces: dict[str, Rect], by: str) -> tuple[Dealt, ...]:
    """One picture over all of some surfaces."""
    if not surfaces:
        return ()
    if by == "mm":
        return _by_millimetres(show, canvas, surfaces, faces)
    whole = reduce(Rect.join, (faces[s] for s in surfaces))
    seen = disjoint(part for surface in surfaces for part in parts_of_face(show, canvas, surface))
    return (Dealt((whole.x, whole.y, whole.w, whole.h), tuple(seen)),)


def _by_millimetres(show: Show, canvas: str, surfaces: tuple[str, ...], faces: dict[str, Rect]) -> tuple[Dealt, ...]:
    """One picture over the room: on every surface the part of it that lies there, at that surface's own pitch.

    A surface that hangs nowhere in the room shows a whole picture.
    """
    places = {s: at for s in surfaces if (at := hung(show.surface(s))) is not None}
    if not places:
        return tuple(_whole(show, canvas, s, faces) for s in surfaces)
    left, top = min(p.x for p in places.values()), min(p.y for p in places.values())
    width = max(p.x + p.w for p in places.values()) - left
    height = max(p.y + p.h for p in places.values()) - top
    made = []
    for surface in surfaces:
        if surface not in places:
            made.append(_whole(show, canvas, surface, faces))
            continue
        face, at = faces[surface], places[surface]
        across, down = face.w / at.w, face.h / at.h
        box = (face.x - (at.x - left) * across, face.y - (at.y - top) * down, width * across, height * down)
        made.append(Dealt(box, parts_of_face(show, canvas, surface), pixel=(1 / across, 1 / down)))
    return tuple(made)


def lies_over(show: Show, canvas: str, spread: Any, own: Box) -> Box:
    """The box around all that a layer shows on a canvas.

    Parameters
    ----------
    show : Show
    canvas : str
    spread : SpreadNow or Mixed
    own : tuple of float
        The layer's own box.

    Returns
    -------
    tuple of float
    """
    if spread == OWN:
        return own
    faces = (one.around for one in dealt(show, canvas, spread))
    whole = around(own if face is None else box_of_rect(face) for face in faces)
    return own if whole is None else whole


def spread_words(show: Show, spread: Any) -> str:
    """What a spread does, in words.

    Parameters
    ----------
    show : Show
    spread : SpreadNow or Mixed

    Examples
    --------
    >>> from ushering_adze.core.show import Zone
    >>> spread_words(Show(name="S", zones=(Zone(id="arch", name="Arch"),)), SpreadNow("across", "arch", "mm"))
    'across Arch, by millimetres'
    """
    most: SpreadNow = plainest(spread)
    name = next((z.name for z in show.zones if z.id == most.zone), "nothing")
    match most.over:
        case "across":
            return f"across {name}, by {'millimetres' if most.by == 'mm' else 'pixels'}"
        case "each":
            return f"a whole picture on each of {name}"
        case "grouped":
            return f"across the first of {name}, a whole picture on each of the rest"
        case "in-turn":
            return f"{len(most.sources)} sources in turn over {name}"
    return "in its own box"
