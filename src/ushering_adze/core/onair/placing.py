"""Where layers lie on a canvas: the surfaces under them, lines to bring them to, how large their pictures are."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

from ushering_adze.core.kinds.mixed import values_in
from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.mapping.faces import Face
from ushering_adze.core.onair.storing import is_seen
from ushering_adze.core.picture.layers import LayerState, State
from ushering_adze.core.plane.boxes import Box, Line, alike, box_of_rect, holds
from ushering_adze.core.show import Canvas, LedWall, Show

SHARES = ((0.0, "edge"), (1.0, "edge"), (0.5, "middle"), (1 / 3, "third"), (2 / 3, "third"))
"""Lines of a canvas or a surface, as shares of it."""


def face_at(faces: Collection[Face], at: tuple[float, float]) -> Face | None:
    """The smallest of the faces that hold a point of the canvas.

    Parameters
    ----------
    faces : collection of Face
    at : tuple of float

    Returns
    -------
    Face or None
    """
    found = [face for face in faces if holds(box_of_rect(face.rect), at)]
    return min(found, key=lambda face: face.rect.area, default=None)


def layer_covering(canvas: Canvas, states: Mapping[str, LayerState], box: Box) -> str | None:
    """The topmost layer, not locked, that lies just in a box; one that is seen before one that is not.

    Parameters
    ----------
    canvas : Canvas
    states : mapping
        By layer.
    box : Box

    Returns
    -------
    str or None
    """
    free = [y.id for y in reversed(canvas.layers) if not y.locked and y.id in states]
    found = [id for id in free if alike(states[id].place, box)]
    return next((id for id in found if is_seen(states[id])), found[0] if found else None)


def layers_over(show: Show, states: Iterable[State], zone: str) -> tuple[str, ...]:
    """Names of the layers that are dealt out over a zone in any of these states.

    Parameters
    ----------
    show : Show
    states : iterable of State
    zone : str

    Returns
    -------
    tuple of str
    """
    given = list(states)
    return tuple(
        layer.name
        for canvas in show.canvases
        for layer in canvas.layers
        for state in given
        if (at := state.get((canvas.id, layer.id))) is not None and any(s.zone == zone for s in values_in(at.spread))
    )


def lines_on(
    canvas: Canvas, faces: Collection[Face], states: Mapping[str, LayerState], moving: Collection[str]
) -> tuple[list[Line], list[Line]]:
    """Lines to bring a layer to: edges, middles and thirds of the canvas and of surfaces, their cabinets, edges and
    middles of the other layers that are seen.

    Parameters
    ----------
    canvas : Canvas
    faces : collection of Face
    states : mapping
        By layer.
    moving : collection of str
        Layers that are moved themselves.

    Returns
    -------
    across, down : list of Line
    """
    across = [Line(canvas.width * k, words) for k, words in SHARES]
    down = [Line(canvas.height * k, words) for k, words in SHARES]
    for surface, rect in faces:
        for lines, at, size in ((across, rect.x, rect.w), (down, rect.y, rect.h)):
            lines += [Line(at + size * k, f"{words} of {surface.name}") for k, words in SHARES]
        if isinstance(surface, LedWall):
            words = f"cabinet of {surface.name}"
            across += [Line(rect.x + rect.w * k / surface.columns, words) for k in range(1, surface.columns)]
            down += [Line(rect.y + rect.h * k / surface.rows, words) for k in range(1, surface.rows)]
    for layer in canvas.layers:
        if layer.id in states and layer.id not in moving and is_seen(states[layer.id]):
            x, y, w, h = states[layer.id].place
            for lines, at, size in ((across, x, w), (down, y, h)):
                lines += [Line(at, layer.name), Line(at + size, layer.name)]
                lines.append(Line(at + size / 2, f"middle of {layer.name}"))
    return across, down


def seen_crop(state: LayerState, width: float, height: float) -> Box:
    """What of a layer's picture is not seen: what is cut, and what does not fit into a box that it fills.

    Parameters
    ----------
    state : LayerState
    width, height : float
        Of the picture, in pixels.

    Returns
    -------
    tuple of float
        From the left, top, right and bottom, as shares of the picture.

    Examples
    --------
    >>> from ushering_adze.core.picture.layers import layer_state
    >>> from ushering_adze.core.show import LayerSettings, Picture, Place
    >>> house = Canvas(id="house", name="House", width=4112, height=2040)
    >>> square = LayerSettings(picture=Picture(source="slides"), place=Place(w=540, h=540, unit="px"))
    >>> seen_crop(layer_state(square, house), 2160, 1080)
    (0.25, 0.0, 0.25, 0.0)
    """
    left, top, right, bottom = state.crop
    _, _, w, h = state.place
    wide, high = width * (1 - left - right), height * (1 - top - bottom)
    if by_share(state.picture)[0].fit != "fill" or min(wide, high, w, h) <= 0:
        return left, top, right, bottom
    ratio = max(w / wide, h / high)
    across, down = (wide - w / ratio) / 2 / width, (high - h / ratio) / 2 / height
    return left + across, top + down, right + across, bottom + down


def scale_words(state: LayerState, width: float, height: float) -> str:
    """By how much a layer makes its picture larger or smaller.

    Parameters
    ----------
    state : LayerState
    width, height : float
        Of the picture, in pixels.

    Examples
    --------
    >>> from ushering_adze.core.picture.layers import layer_state
    >>> from ushering_adze.core.show import LayerSettings, Picture, Place
    >>> house = Canvas(id="house", name="House", width=4112, height=2040)
    >>> inset = LayerSettings(picture=Picture(source="slides"), place=Place(w=960, h=540, unit="px"))
    >>> scale_words(layer_state(inset, house), 1920, 1080), scale_words(layer_state(inset, house), 960, 540)
    ('×0.5', '1 : 1')
    """
    shown = by_share(state.picture)[0]
    if shown.source is None:
        return "no picture"
    left, top, right, bottom = state.crop
    across, down = state.place[2] / (width * (1 - left - right)), state.place[3] / (height * (1 - top - bottom))
    if shown.fit == "1:1":
        return "1 : 1"
    if shown.fit == "stretch" and abs(across - down) > 1e-3:
        return f"×{across:.2f} ×{down:.2f}"
    scale = max(across, down) if shown.fit == "fill" else min(across, down)
    return "1 : 1" if abs(scale - 1) < 5e-4 else f"×{scale:.3g}"


def size_words(face: Face | None, box: Box) -> str:
    """How large a box is: in pixels, and in metres where it lies on a surface that has a size.

    Parameters
    ----------
    face : Face or None
        What its middle lies on.
    box : Box
    """
    x, y, w, h = box
    words = f"{x:g}, {y:g}  {w:g} × {h:g} px"
    size = None if face is None else face.surface.size_mm
    if face is None or size is None:
        return words
    kx, ky = size[0] / face.rect.w, size[1] / face.rect.h
    return f"{words} · {w * kx / 1000:.2f} × {h * ky / 1000:.2f} m"
