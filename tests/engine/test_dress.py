"""Text in the dress of its layer: the same pages, set otherwise, also where both are seen at once."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.kinds.dress import Dress, fitted, wearer, worn
from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.kinds.on_its_way import Shown, Turning
from ushering_adze.core.onair.actions import StagePreset, action_from, apply
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import layer_state
from ushering_adze.core.picture.wearing import as_worn, wardrobe_of, worn_in
from ushering_adze.core.show import (
    Canvas,
    Layer,
    LayerSettings,
    Output,
    Picture,
    Place,
    Preset,
    RectLanding,
    Region,
    Scope,
    Show,
    Text,
    Timing,
    Touch,
    document_of,
    part_of,
    show_from_document,
)
from ushering_adze.core.text.pages import pages_of_text, stops_of
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.offline import acted, script_from
from ushering_adze.io.media.lettering import set_text

OWN = Dress(width=320, height=180, size=30, smallest=8, density=1.0)
OTHER = OWN.model_copy(update={"layout": "strip", "colour": "#FF8040", "box": "#204060", "size": 20.0})
WORDS = "Ida Fernwood\n-- Keeper of the dome\n\nOdo Wick\n-- Clockmaker"
SETTINGS = LayerSettings(picture=Picture(source="names", fit="stretch"), place=Place.of_box((0, 0, 320, 180)))


@pytest.fixture(scope="module")
def show() -> Show:
    """Two halves of a screen that show the same text, the right one in a dress of its own; preset 2 dresses the left
    one alike, preset 1 has it as its source is.
    """
    right = SETTINGS.model_copy(update={"place": Place.of_box((320, 0, 320, 180)), "dress": OTHER})
    region = Region(id="r", name="R", x=0, y=0, w=640, h=180, output="o", landing=RectLanding(x=0, y=0, w=640, h=180))
    layers = (Layer(id="left", name="Left", settings=SETTINGS), Layer(id="right", name="Right", settings=right))
    scope = Scope(**{kind.name: Touch(how="faded" if kind.name == "dress" else "left") for kind in KINDS})
    parts = [part_of("c", "left", SETTINGS.model_copy(update={"dress": dress}), scope) for dress in (None, OTHER)]
    return Show(
        name="Dresses",
        sources=(Text(id="names", name="Names", words=WORDS, dress=OWN),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=640, height=180)),),
        canvases=(Canvas(id="c", name="C", width=640, height=180, layers=layers, regions=(region,)),),
        presets=tuple(
            Preset(id=f"p{n}", number=n, name=f"{n}", seconds=1, easing="linear", parts=(part,))
            for n, part in enumerate(parts, 1)
        ),
    )


def seen(dress: Dress, n: int = 0) -> np.ndarray:
    return set_text(stops_of(pages_of_text(WORDS))[n], dress).pixels[..., :3].astype(float)


def shots(show: Show, *script: tuple[float, object]) -> dict[str, tuple[np.ndarray, np.ndarray]]:
    """The left and the right half at each moment that is shot."""
    entries = [{"at": at, **({"shoot": what} if isinstance(what, str) else {"action": what})} for at, what in script]
    return {
        s.name: (s.rasters["o"][:, :320, :3].astype(float), s.rasters["o"][:, 320:, :3].astype(float))
        for s in acted(show, script_from(entries))
    }


def test_one_text_is_set_in_two_dresses_and_turned_in_both_at_once(show: Show) -> None:
    found = shots(show, (0, "first"), (1, {"do": "next", "source": "names"}), (1, "second"))
    for name, n in (("first", 0), ("second", 1)):
        left, right = found[name]
        assert np.abs(left - seen(OWN, n)).max() <= 1 and np.abs(right - seen(OTHER, n)).max() <= 1
    assert np.abs(seen(OWN) - seen(OTHER)).max() > 100 and np.abs(seen(OWN) - seen(OWN, 1)).max() > 100


def test_a_dress_fades_into_another_and_back_from_where_it_is(show: Show) -> None:
    recall = {"do": "recall", "preset": 2}
    found = shots(
        show,
        (1, recall),
        (1.25, "quarter"),
        (1.5, "half"),
        (1.5, {"do": "recall", "preset": 1}),
        (1.5, "turned"),
        (2.0, "back"),
        (3.0, "home"),
        (3.0, recall),
        (4.5, "there"),
    )
    own, other = seen(OWN), seen(OTHER)
    for name, share in (
        ("quarter", 0.25),
        ("half", 0.5),
        ("turned", 0.5),
        ("back", 0.25),
        ("home", 0.0),
        ("there", 1.0),
    ):
        assert np.abs(found[name][0] - (own + (other - own) * share)).max() <= 1.5, name


def test_a_dress_that_no_preset_has_is_made_on_preview_and_taken(show: Show) -> None:
    mine = OTHER.model_copy(update={"box": "#802040"})
    edit = {"do": "edit", "canvas": "c", "layer": "left", "set": {"dress": {"to": mine.model_dump(mode="json")}}}
    found = shots(show, (0, edit), (0.5, "before"), (0.5, {"do": "cut"}), (1, "after"))
    assert np.abs(found["before"][0] - seen(OWN)).max() <= 1 and np.abs(found["after"][0] - seen(mine)).max() <= 1


def test_a_dress_upon_a_staged_one_is_wanted_before_it_is_taken(show: Show) -> None:
    """Whatever is edited on preview; a show without dresses asks for none."""
    stage = apply(show, Stage.opened(show), StagePreset(preset=2), 0.0)
    mine = OTHER.model_copy(update={"box": "#802040"})
    edit = action_from(
        {"do": "edit", "canvas": "c", "layer": "left", "set": {"dress": {"to": mine.model_dump(mode="json")}}}
    )
    upon = apply(show, stage, edit, 0.0)
    here = upon.program.target
    assert worn("names", mine) in upon.worn(here) and worn("names", OTHER) in upon.worn(here)
    assert worn("names", mine) not in stage.worn(here)
    bare = demo_show()
    assert Stage.opened(bare).worn(Stage.opened(bare).program.target) == frozenset() == wardrobe_of(bare)


def test_what_is_no_text_and_what_is_not_open_yet_is_shown_as_it_is(show: Show) -> None:
    state = layer_state(SETTINGS.model_copy(update={"dress": OTHER}), show.canvases[0])
    assert as_worn(state, set()) is state
    name = worn("names", OTHER)
    assert wearer(name) == ("names", OTHER) and worn_in([state]) == {name} == wardrobe_of(show)
    assert as_worn(state, {name}).picture == Shown(name, "stretch")
    half = state._replace(dress=Mixed(None, OTHER, 0.25))
    made = as_worn(half, {name}).picture
    assert made == Turning("dissolve", Shown("names", "stretch"), Shown(name, "stretch"), 0.25)
    moving = state._replace(picture=Turning("wipe", Shown("slides", "fill"), Shown("names", "fill"), 0.5))
    assert as_worn(moving, {name}).picture == moving.picture._replace(after=Shown(name, "fill"))


def test_a_show_keeps_dresses_of_layers_and_of_presets(show: Show) -> None:
    assert show_from_document(document_of(show)) == show


@given(st.floats(6, 2000), st.integers(1, 32768), st.integers(1, 32768))
def test_a_dress_made_for_another_size_is_one(size: float, width: int, height: int) -> None:
    made = fitted(Dress(size=size, smallest=min(size, 28.0)), width, height)
    assert Dress.model_validate(made.model_dump()) == made and (made.width, made.height) == (width, height)
