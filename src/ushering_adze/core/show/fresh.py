"""A show from nothing: the room, what hangs in it, and a canvas, layers and presets that fit, all to be edited."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds.picture import Picture
from ushering_adze.core.kinds.place import Place
from ushering_adze.core.show.canvas import Canvas, RectLanding, Region
from ushering_adze.core.show.layer import Layer, LayerSettings
from ushering_adze.core.show.led import Cabinet, LedWall
from ushering_adze.core.show.output import Binding, Output, Timing
from ushering_adze.core.show.preset import Preset, part_of
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.room import RoomPlace
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.sound import Listen, Mix, ShowSound
from ushering_adze.core.show.source import Source, Text
from ushering_adze.core.show.surface import Monitor, Projection, Projector, Stream, Surface

Display = Literal["LED wall", "projection", "monitor", "stream"]
COLOURS = ("#9C8AD6", "#6FA0D8", "#5AB4BD", "#C9785A", "#93A84E", "#E3A857")
GAP = 400.0
"""Millimetres between displays that nobody has hung yet."""


class Wish(NamedTuple):
    """A display that is wanted: what it is, its pixels, its size in millimetres, and where its output goes."""

    kind: Display
    name: str
    width: int
    height: int
    width_mm: float
    height_mm: float
    binding: Binding | None = None


_SIZE = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*[x×]\s*(\d+(?:[.,]\d+)?)\s*(m|mm)?\s*$", re.I)


def pixels_from(text: str, size_mm: tuple[float, float]) -> tuple[int, int]:
    """Pixels of a display, typed as ``1920x1080``, or as the pitch of an LED wall: ``2.6 mm``.

    Parameters
    ----------
    text : str
    size_mm : tuple of float
        Of the display; a pitch is counted over it.

    Returns
    -------
    tuple of int

    Raises
    ------
    ShowError

    Examples
    --------
    >>> pixels_from("1920x1080", (0, 0)), pixels_from("2.5 mm", (5000, 2500))
    ((1920, 1080), (2000, 1000))
    """
    shaped = _SIZE.match(text)
    pitch = re.match(r"^\s*(\d+(?:[.,]\d+)?)\s*mm\s*$", text)
    if shaped and not shaped[3]:
        width, height = (round(float(v.replace(",", "."))) for v in shaped.groups()[:2])
    elif pitch and min(size_mm) > 0:
        step = float(pitch[1].replace(",", "."))
        width, height = (max(1, round(v / step)) for v in size_mm) if step > 0 else (0, 0)
    else:
        raise ShowError([Fault("", f'"{text.strip()[:40]}" is no size in pixels; type 1920x1080, or a pitch: 2.6 mm')])
    if not (1 <= width <= 32768 and 1 <= height <= 32768):
        raise ShowError([Fault("", f"{width} × {height} pixels cannot be; each side has 1 to 32 768")])
    return width, height


def size_from(text: str) -> tuple[float, float]:
    """Millimetres of a display or a room, typed as ``5 x 2.5`` in metres, or ``5000x2500 mm``.

    Examples
    --------
    >>> size_from("5 x 2,5"), size_from("1440x900mm")
    ((5000.0, 2500.0), (1440.0, 900.0))
    """
    shaped = _SIZE.match(text)
    if not shaped:
        raise ShowError([Fault("", f'"{text.strip()[:40]}" is no size; type metres, like 5 x 2.5')])
    scale = 1.0 if (shaped[3] or "").lower() == "mm" else 1000.0
    width, height = (float(v.replace(",", ".")) * scale for v in shaped.groups()[:2])
    if not (10 <= width <= 1_000_000 and 10 <= height <= 1_000_000):
        raise ShowError([Fault("", f"{text.strip()[:40]} cannot be a size; type metres, like 5 x 2.5")])
    return width, height


def _surface(wish: Wish, id: str, place: RoomPlace) -> Surface:
    match wish.kind:
        case "LED wall":
            cabinet = Cabinet(
                name=f"{wish.name} whole",
                width_mm=wish.width_mm,
                height_mm=wish.height_mm,
                columns_px=wish.width,
                rows_px=wish.height,
            )
            return LedWall(id=id, name=wish.name, place=place, cabinet=cabinet, columns=1, rows=1)
        case "projection":
            one = Projector(id="p1", name="Projector 1", width=wish.width, height=wish.height)
            return Projection(
                id=id, name=wish.name, place=place, width_mm=wish.width_mm, height_mm=wish.height_mm, projectors=(one,)
            )
        case "monitor":
            return Monitor(
                id=id,
                name=wish.name,
                place=place,
                width=wish.width,
                height=wish.height,
                width_mm=wish.width_mm,
                height_mm=wish.height_mm,
            )
    return Stream(id=id, name=wish.name, width=wish.width, height=wish.height)


def fresh_show(
    name: str,
    wishes: Sequence[Wish],
    sources: Sequence[Source] = (),
    room_mm: tuple[float, float] | None = None,
    rate: float = 30.0,
) -> Show:
    """A show of these displays: each with an output of its own, one canvas that holds all of them side by side, a layer
    over each, the presets *Black* and *Hold card*, and a mix of all that is heard.

    Parameters
    ----------
    name : str
    wishes : sequence of Wish
        From left to right as they hang.
    sources : sequence of Source
    room_mm : tuple of float, optional
        Width and height of the room; as large as what hangs in it if not given.
    rate : float
        Pictures a second.

    Returns
    -------
    Show

    Raises
    ------
    pydantic.ValidationError
        If a value cannot be.
    """
    surfaces: list[Surface] = []
    outputs: list[Output] = []
    regions: list[Region] = []
    layers: list[Layer] = []
    x_mm, x_px, tall = GAP, 0, 0
    names: set[str] = set()
    for n, wish in enumerate(wishes):
        wish = wish._replace(name=free_name(wish.name.strip() or wish.kind, names))
        names.add(wish.name)
        id = new_id(wish.name, (s.id for s in surfaces))
        surface = _surface(wish, id, RoomPlace(x_mm=x_mm, foot_mm=300))
        surfaces.append(surface)
        if wish.kind != "stream":
            x_mm += wish.width_mm + GAP
        outputs.append(
            Output(
                id=id,
                number=n + 1,
                name=wish.name,
                timing=Timing(width=wish.width, height=wish.height),
                binding=wish.binding,
            )
        )
        regions.append(
            Region(
                id=id,
                name=wish.name,
                x=x_px,
                y=0,
                w=wish.width,
                h=wish.height,
                output=id,
                landing=RectLanding(x=0, y=0, w=wish.width, h=wish.height),
                surface=id,
                projector="p1" if wish.kind == "projection" else None,
            )
        )
        place = Place(x=x_px, y=0, w=wish.width, h=wish.height, unit="px")
        colour = COLOURS[n % len(COLOURS)]
        layers.append(Layer(id=id, name=wish.name, colour=colour, settings=LayerSettings(place=place)))
        x_px, tall = x_px + wish.width, max(tall, wish.height)
    card = Text(
        id=new_id("hold card", (s.id for s in sources)),
        name=free_name("Hold card", {s.name for s in sources}),
        words=f"{name}\nBack in a moment",
    )
    width, height = max(x_px, 1), max(tall, 1)
    canvas = Canvas(id="main", name="Main", width=width, height=height, layers=tuple(layers), regions=tuple(regions))
    shown = {y.id: y.settings.model_copy(update={"picture": Picture(source=card.id, fit="fit")}) for y in layers}
    presets = (
        Preset(id="black", number=90, name="Black", clears=("main",)),
        Preset(
            id="hold",
            number=91,
            name="Hold card",
            parts=tuple(part_of("main", id, settings) for id, settings in shown.items()),
            clears=("main",),
        ),
    )
    wide = room_mm or (max(x_mm, 6000.0), max([w.height_mm for w in wishes], default=2500.0) + 1500.0)
    return Show(
        name=name,
        rate=rate,
        room_width_mm=wide[0],
        room_height_mm=wide[1],
        sources=(*sources, card),
        canvases=(canvas,) if wishes else (),
        surfaces=tuple(surfaces),
        outputs=tuple(outputs),
        presets=presets if wishes else (),
        opening=90 if wishes else None,
        sound=ShowSound(mixes=(Mix(id="hall", name="Hall"),), listen=Listen(otherwise="hall")),
    )
