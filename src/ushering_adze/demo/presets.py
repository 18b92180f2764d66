"""The presets of the demo."""

from __future__ import annotations

from typing import Any, Literal

from ushering_adze.core.kinds import NAMES
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.kinds.shape import Shape
from ushering_adze.core.kinds.spread import Spread
from ushering_adze.core.show import (
    Border,
    LayerSettings,
    Part,
    Picture,
    Place,
    Preset,
    Scope,
    Touch,
    part_of,
    with_held,
)
from ushering_adze.core.show.way import Way
from ushering_adze.demo.rig import EAST_BOX, SKY_BOX, WALL_BOX, WEST_BOX, px

SNAPPED, LEFT = Touch(how="snapped"), Touch(how="left")


def _part(
    canvas: str,
    layer: str,
    source: str | None,
    place: Place | None = None,
    fit: Any = "fill",
    *,
    opacity: float = 1.0,
    border: Border | None = None,
    move: bool = False,
    seconds: float | None = None,
) -> Part:
    settings = LayerSettings(
        picture=Picture(source=source, fit=fit), place=place or Place(), opacity=opacity, border=border or Border()
    )
    faded = Touch(how="faded", seconds=seconds)
    return part_of(
        canvas,
        layer,
        settings,
        Scope(
            picture=faded,
            place=faded if move else SNAPPED,
            crop=SNAPPED,
            opacity=faded,
            border=SNAPPED if border else LEFT,
            **dict.fromkeys(set(NAMES) - {"picture", "place", "crop", "opacity", "border"}, LEFT),
        ),
    )


def _sky(source: str, box: Place = SKY_BOX) -> Part:
    return with_held(_part("house", "sky", source, box, move=True), "spread", Spread(), "faded")


def _wall(source: str | None, fit: Any = "fill", opacity: float = 1.0) -> Part:
    return _part("house", "wall", source, WALL_BOX, fit, opacity=opacity)


def _masts(source: str | None, opacity: float = 1.0, seconds: float | None = None) -> tuple[Part, Part]:
    return (
        _part("house", "west", source, WEST_BOX, opacity=opacity, seconds=seconds),
        _part("house", "east", source, EAST_BOX, opacity=opacity, seconds=seconds),
    )


def _fade_only(canvas: str, layer: str, opacity: float) -> Part:
    return with_held(Part(canvas=canvas, layer=layer), "opacity", opacity, "faded")


def _relay(source: str, fit: Any = "fill") -> Part:
    return _part("relay", "feed", source, None, fit)


def _spread(source: str, over: Literal["across", "each"]) -> Part:
    """The sky's layer over the arch of masts and Horizon."""
    part = with_held(Part(canvas="house", layer="sky"), "picture", Picture(source=source), "faded")
    part = with_held(part, "opacity", 1.0, "faded")
    return with_held(part, "spread", Spread(over=over, zone="arch", by="mm"), "faded")


def demo_presets() -> tuple[Preset, ...]:
    """Every look of the evening, in the order of its numbers."""
    no_inset, no_guest = _fade_only("house", "inset", 0.0), _fade_only("relay", "guest", 0.0)
    lectern, foyer = _part("lectern", "notes", "notes"), _part("foyer", "loop", "patrons")
    guest = _part("relay", "guest", "aisle-camera", px(880, 56, 352, 198), border=Border(width=3, colour="#E8E2D3"))
    panel = _part("house", "inset", "slides", px(2272, 1488, 704, 352), border=Border(width=6, colour="#E8E2D3"))
    panel = with_held(panel, "shape", Shape(radius=18))
    panel = with_held(panel, "shadow", Shadow(x=10, y=14, blur=36, opacity=0.7))
    third = _part("relay", "guest", "names-strip", Place(), border=Border())
    return (
        Preset(
            id="doors-open",
            number=1,
            name="Doors open",
            seconds=3.0,
            parts=(
                _sky("star-trails"),
                _wall("orrery"),
                no_inset,
                *_masts("star-trails"),
                foyer,
                lectern,
                _relay("hold-card"),
                no_guest,
            ),
        ),
        Preset(
            id="countdown",
            number=2,
            name="Countdown",
            seconds=1.5,
            parts=(_sky("star-trails"), _wall("countdown"), no_inset, *_masts("orrery"), _relay("countdown"), no_guest),
        ),
        Preset(
            id="welcome",
            number=3,
            name="Welcome",
            seconds=1.5,
            parts=(
                _sky("star-trails"),
                _wall("aisle-camera"),
                no_inset,
                *_masts("star-trails"),
                lectern,
                _relay("aisle-camera"),
                no_guest,
            ),
        ),
        Preset(
            id="panorama",
            number=4,
            name="Panorama",
            seconds=4.0,
            way=Way(kind="wipe", form="iris", soft=0.2),
            parts=(_sky("star-trails", px(0, 0, 4112, 1080)), _wall("night"), no_inset, *_masts(None, opacity=0.0)),
        ),
        Preset(
            id="keynote",
            number=5,
            name="Keynote",
            seconds=2.0,
            parts=(
                _sky("star-trails"),
                _wall("slides", "1:1"),
                no_inset,
                *_masts("star-trails"),
                foyer,
                lectern,
                _relay("slides", "fit"),
                guest,
            ),
        ),
        Preset(
            id="interview",
            number=6,
            name="Interview",
            seconds=0.8,
            parts=(
                _sky("star-trails"),
                _wall("aisle-camera"),
                panel,
                *_masts("orrery"),
                lectern,
                _relay("aisle-camera"),
                third,
            ),
        ),
        Preset(
            id="moon-reveal",
            number=7,
            name="Moon reveal",
            seconds=2.0,
            way=Way(kind="wipe", form="picture", source="moon-wipe", soft=0.2),
            parts=(_wall("moon-phases"), no_inset, *_masts("roof-camera")),
        ),
        Preset(
            id="closing",
            number=8,
            name="Closing",
            seconds=3.0,
            parts=(
                _sky("orrery"),
                _wall("hold-card"),
                no_inset,
                *_masts("moon-phases"),
                foyer,
                _part("lectern", "notes", "hold-card"),
                _relay("hold-card"),
                no_guest,
            ),
        ),
        Preset(id="masts-camera", number=20, name="Masts camera", seconds=1.0, parts=_masts("aisle-camera")),
        Preset(id="masts-stars", number=21, name="Masts stars", seconds=1.0, parts=_masts("star-trails")),
        Preset(
            id="spread-across",
            number=29,
            name="Spread across",
            seconds=1.2,
            parts=(_spread("orrery", "across"), *_masts(None, opacity=0.0)),
            key="F5",
        ),
        Preset(
            id="spread-each",
            number=30,
            name="Spread each",
            seconds=1.2,
            parts=(_spread("orrery", "each"), *_masts(None, opacity=0.0)),
            key="F6",
        ),
        Preset(id="black", number=90, name="Black", seconds=1.0, clears=("house", "relay")),
    )
