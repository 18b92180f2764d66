"""A speaker's view on a surface: the notes of the page, the page that comes next, the time and what is said to them."""

from __future__ import annotations

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds.picture import Picture
from ushering_adze.core.kinds.place import Place
from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.layer import Layer, LayerSettings
from ushering_adze.core.show.layering import with_layer
from ushering_adze.core.show.preset import Part, Preset, with_held
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.source import Clock, Pages

NOTES, GAP = 0.62, 0.015
"""Shares of the width that the notes have, and that is free between the parts."""


def speaker_view(
    show: Show, surface: str, pages: str, notes: str | None = None, seconds: int = 600
) -> tuple[Show, int]:
    """The show with a preset that gives a speaker their view.

    Parameters
    ----------
    show : Show
    surface : str
        Where they look.
    pages : str
        Id of the pages that they turn.
    notes : str, optional
        Id of pages with their notes, which are at the same page; the page itself is shown large if not given.
    seconds : int
        Of their time.

    Returns
    -------
    Show
    int
        The number of the preset.

    Raises
    ------
    ShowError
        If the source has no pages, or nothing feeds the surface.
    """
    deck = show.source(pages)
    if not isinstance(deck, Pages):
        raise ShowError([Fault("speaker's view", f"{deck.name} has no pages of a document; name a source that has")])
    rects = surface_rects(show, surface)
    if not rects:
        name = show.surface(surface).name
        raise ShowError([Fault("speaker's view", f"nothing feeds {name}; draw a region for it in Map")])
    canvas = rects[0][0]
    whole = rects[0][1]
    for home, rect in rects[1:]:
        whole = whole.join(rect) if home.id == canvas.id else whole
    taken, names = {s.id for s in show.sources}, {s.name for s in show.sources}
    sources = list(show.sources)

    def following(name: str, further: int, path: str) -> str:
        named = free_name(name, names)
        id = new_id(named, taken)
        taken.add(id)
        names.add(named)
        sources.append(Pages(id=id, name=named, path=path, follows=pages, further=further, colour=deck.colour))
        return id

    ahead = following(f"{deck.name}, next", 1, deck.path)
    large = pages
    if notes is not None:
        found = show.source(notes)
        if not isinstance(found, Pages):
            raise ShowError([Fault("speaker's view", f"{found.name} has no pages of a document; name notes that have")])
        large = notes if found.follows == pages else following(f"{found.name}, beside", 0, found.path)
    timer = free_name("Speaker", names)
    clock = Clock(id=new_id(timer, taken), name=timer, shows="speaker", seconds=seconds)
    show = show.model_copy(update={"sources": (*sources, clock)})
    gap, wide = whole.w * GAP, whole.w * NOTES
    right, side = whole.x + wide + 2 * gap, whole.w - wide - 3 * gap
    half = (whole.h - 3 * gap) / 2
    boxes = (
        (
            "Speaker: notes",
            large,
            Rect(round(whole.x + gap), round(whole.y + gap), round(wide), round(whole.h - 2 * gap)),
        ),
        ("Speaker: next", ahead, Rect(round(right), round(whole.y + gap), round(side), round(half))),
        ("Speaker: time", clock.id, Rect(round(right), round(whole.y + 2 * gap + half), round(side), round(half))),
    )
    others = tuple(layer.id for layer in canvas.layers)
    parts = [with_held(Part(canvas=canvas.id, layer=id), "opacity", 0.0, "faded") for id in others]
    for name, source, box in boxes:
        home = show.canvas(canvas.id)
        known = {layer.name for layer in home.layers}
        layer = Layer(
            id=new_id(name, {each.id for each in home.layers}),
            name=free_name(name, known),
            settings=LayerSettings(
                picture=Picture(source=source, fit="fit"),
                place=Place.of_box((box.x, box.y, box.w, box.h)),
                opacity=0.0,
            ),
        )
        show = with_layer(show, canvas.id, layer)
        part = with_held(Part(canvas=canvas.id, layer=layer.id), "picture", layer.settings.picture, "snapped")
        parts.append(with_held(part, "opacity", 1.0, "faded"))
    number = next(n for n in range(1, 10_000) if show.preset(n) is None and n >= 60)
    title = free_name("Speaker's view", {p.name for p in show.presets})
    preset = Preset(
        id=new_id(title, {p.id for p in show.presets}), number=number, name=title, seconds=0.5, parts=tuple(parts)
    )
    return show.model_copy(update={"presets": (*show.presets, preset)}), number
