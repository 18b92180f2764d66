"""Two presets compared: what differs, in surfaces and in layers, and what one of them leaves as it finds it."""

from __future__ import annotations

import pytest

from ushering_adze.core.onair.comparing import compared
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Part, Picture, Preset, ShowError, with_held
from ushering_adze.demo.show import demo_show

SHOW = demo_show()


def test_what_differs_between_two_presets_is_told_layer_by_layer() -> None:
    found = compared(Stage.opened(SHOW), 5, 6)
    assert [c.surface for c in found.surfaces] == ["meridian", "west-mast", "east-mast", "relay"]
    words = {d.key: d.words for d in found.layers}
    assert words["house", "wall"] == "Slides → Aisle camera", "its fit went with it"
    assert words["house", "inset"] == "only 6 shows it: Slides"
    assert words["relay", "guest"] == "Aisle camera → Names, strip, place, border"
    assert words["foyer", "loop"] == "6 leaves it as it finds it"
    assert ("house", "sky") not in words
    mirrored = {d.key: d.words for d in compared(Stage.opened(SHOW), 6, 5).layers}
    assert mirrored["house", "inset"] == "only 6 shows it: Slides" and words.keys() == mirrored.keys()
    assert compared(Stage.opened(SHOW), 5, 5) == ((), ())
    with pytest.raises(ShowError, match="there is no preset 55"):
        compared(Stage.opened(SHOW), 5, 55)


def test_a_forgotten_layer_is_found() -> None:
    """A variant that was stored without one layer: on air it keeps whatever it had."""
    preset = SHOW.preset(6)
    assert preset is not None
    parts = tuple(p for p in preset.parts if p.layer != "inset")
    hasty = preset.model_copy(update={"id": "hasty", "number": 61, "parts": parts})
    show = SHOW.model_copy(update={"presets": (*SHOW.presets, hasty)})
    stage = Stage.opened(show).recall(6, 0.0, cut=True)
    found = compared(stage, 6, 61)
    assert [(d.key, d.words) for d in found.layers] == [(("house", "inset"), "61 leaves it as it finds it")]
    assert not found.surfaces, "as things are on air it would look the same"
    bare = stage.recall(5, 1.0, cut=True)
    found = compared(bare, 6, 61)
    assert [c.surface for c in found.surfaces] == ["meridian"]
    assert found.layers[0].words == "only 6 shows it: Slides; 61 leaves it as it finds it"
    clearing = hasty.model_copy(update={"clears": ("house",)})
    show = SHOW.model_copy(update={"presets": (*SHOW.presets, clearing)})
    assert "leaves" not in compared(Stage.opened(show), 6, 61).layers[0].words, "what is cleared is not left"


def test_each_kind_that_differs_is_named() -> None:
    part = with_held(Part(canvas="house", layer="wall"), "picture", Picture(source="slides"))
    one = Preset(id="a", number=70, name="A", parts=(part,))
    two = Preset(id="b", number=71, name="B", parts=(with_held(with_held(part, "turn", 5.0), "opacity", 0.5),))
    show = SHOW.model_copy(update={"presets": (*SHOW.presets, one, two)})
    stage = Stage.opened(show).recall(2, 0.0, cut=True)
    assert [d.words for d in compared(stage, 70, 71).layers] == ["turn, opacity"]
