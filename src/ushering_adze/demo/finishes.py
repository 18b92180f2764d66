"""The finishes of the demo show."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.show import Border, Crop, Finish, LayerSettings, Place
from ushering_adze.core.show.finish import finish_of


def demo_finishes() -> tuple[Finish, ...]:
    """A dozen ways in which layers of this show are set."""

    def made(id: str, name: str, **kinds: Any) -> Finish:
        settings = LayerSettings(**kinds)
        return finish_of(id, name, settings, kinds.keys())

    border = BY_NAME["border"].model(width=6, colour="#E8E2D3", outside=True)
    shadow = BY_NAME["shadow"].model(x=10, y=14, blur=36, opacity=0.7)
    shape, colour = BY_NAME["shape"].model, BY_NAME["colour"].model
    return (
        made("framed", "Framed", border=border, shadow=shadow, shape=shape(radius=14)),
        made("lower-right", "Lower right", place=Place.of_box((2272, 1488, 704, 352))),
        made("full", "Full", place=Place(), crop=Crop()),
        made("bare", "Bare", border=Border(), shadow=BY_NAME["shadow"].default, shape=shape()),
        made("round", "Round", shape=shape(form="ellipse")),
        made("soft", "Soft edge", shape=shape(soft=60)),
        made("tilted", "Tilted", turn=-4.0, shadow=shadow),
        made("level", "Level", turn=0.0),
        made("grey", "Grey", colour=colour(saturation=0.0)),
        made("night", "Night", colour=colour(brightness=-0.06, saturation=0.8, red=0.85, blue=1.15)),
        made("glow", "Glow", blend="screen"),
        made("half", "Half", opacity=0.5),
    )
