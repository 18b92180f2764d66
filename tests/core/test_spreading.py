"""Layers dealt out over zones: what zones hold, which boxes that makes, and what is painted of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.kinds.border import Border
from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.kinds.on_its_way import Shown, Turning
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.kinds.spread import OWN, Spread, SpreadNow
from ushering_adze.core.mapping.faces import faces_on, hung
from ushering_adze.core.mapping.spreading import dealt
from ushering_adze.core.onair.actions import Cut, Keep, StagePreset, Take, apply, fault_of
from ushering_adze.core.onair.delta import delta, source_names, visible
from ushering_adze.core.onair.motion import at_rest, recall
from ushering_adze.core.onair.routing import layer_for
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.dealing import deal_of, in_place
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import LayerState, between, layer_state, opening_state
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import LayerSettings, Part, Preset, Show, ShowError, Zone, show_from_document, with_held
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import document_of, faults_of
from ushering_adze.core.show.zoning import members, surfaces_in, with_changed_zone, with_zone, without_zone
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.canvas import CanvasPainter

ZONES = (
    Zone(id="arch", name="Arch", holds=("west-mast", "horizon", "east-mast")),
    Zone(id="hall", name="Hall", holds=("arch", "meridian")),
)


@pytest.fixture(scope="module")
def zoned() -> Show:
    return demo_show().model_copy(update={"zones": ZONES})


def state(spread: SpreadNow, fit: str = "fill", **kinds: object) -> LayerState:
    show = demo_show()
    made = layer_state(LayerSettings(**kinds), show.canvas("house"))
    return made._replace(spread=spread, picture=Shown("slides", fit), opacity=1.0)


def painted(show: Show, *states: LayerState, **pictures: np.ndarray) -> np.ndarray:
    frames = {id.replace("_", "-"): Frame(p, 1) for id, p in pictures.items()}
    painter = CanvasPainter(show.canvas("house"))
    painter.draw([(str(n), s) for n, s in enumerate(states)], frames, deal=deal_of(show, "house"))
    return painter.pixels


def noise(width: int, height: int, seed: int = 1) -> np.ndarray:
    made = np.random.default_rng(seed).integers(0, 256, (height, width, 4), np.uint8)
    made[..., 3] = 255
    return made


def cut(pixels: np.ndarray, rect: Rect) -> np.ndarray:
    return pixels[rect.cut()]


RECTS = {
    "west-mast": Rect(0, 636, 256, 768),
    "horizon": Rect(256, 0, 3600, 1080),
    "east-mast": Rect(3856, 636, 256, 768),
    "meridian": Rect(1096, 1080, 1920, 960),
}


# -- zones -------------------------------------------------------------------------------------------------------------


def test_what_zones_hold_is_checked_and_goes_with_what_it_names(zoned: Show) -> None:
    assert members(zoned, "hall") == (("west-mast", "horizon", "east-mast"), ("meridian",))
    assert surfaces_in(zoned, ["meridian", "hall", "relay"])[:2] == ("meridian", "west-mast"), "each once, in order"
    assert show_from_document(document_of(zoned)) == zoned
    made, id = with_zone(zoned, "Sides", ["west-mast", "east-mast", "west-mast"])
    assert made.zones[-1].holds == ("west-mast", "east-mast") and id == "sides" and not faults_of(made)
    for holds, words in (
        (("nowhere",), 'no surface or zone "nowhere"'),
        (("hall", "sides"), "Sides would lie within itself; take it out"),
    ):
        assert words in str(faults_of(with_changed_zone(made, "sides", holds=holds))[0])
    around = with_changed_zone(made, "arch", holds=("sides",))
    around = with_changed_zone(around, "sides", holds=("arch",))
    assert "lie within itself" in str(faults_of(around)[0]), "also by way of another"
    assert members(around, "arch") == (), "and nothing is gone round without end meanwhile"
    as_surface = zoned.model_copy(update={"zones": (Zone(id="relay", name="R", holds=("horizon",)),)})
    assert '"relay" is a surface already' in str(faults_of(as_surface)[0])
    with pytest.raises(ShowError, match="select some in the room first"):
        with_zone(zoned, "Empty", [])

    part = with_held(Part(canvas="house", layer="wall"), "spread", Spread(over="each", zone="hall"))
    used = zoned.model_copy(update={"presets": (*zoned.presets, Preset(id="x", number=77, name="X", parts=(part,)))})
    with pytest.raises(ShowError, match="it is used by preset 77; deal that out over something else first"):
        without_zone(used, "hall")
    assert without_zone(zoned, "hall").zones == ZONES[:1]
    with pytest.raises(ShowError, match="it is used by Hall, preset 29, preset 30"):
        without_zone(zoned, "arch")
    gone = used.model_copy(update={"zones": ZONES[:1]})
    assert 'presets[13].parts[0].holds.spread.zone: no zone "hall"' in str(faults_of(gone)[0])
    fewer = without_item(zoned, "surfaces", "horizon")
    assert fewer.zones[0].holds == ("west-mast", "east-mast") and not faults_of(fewer)


def test_a_take_and_a_keep_may_name_a_zone(zoned: Show) -> None:
    stage = apply(zoned, Stage.opened(zoned), StagePreset(preset=1), 0.0)
    by_zone = apply(zoned, stage, Cut(surfaces=("hall",)), 0.0)
    one_by_one = apply(zoned, stage, Cut(surfaces=("west-mast", "horizon", "east-mast", "meridian")), 0.0)
    assert by_zone.program == one_by_one.program != apply(zoned, stage, Cut(), 0.0).program
    assert apply(zoned, stage, Keep(surface="arch"), 0.0).kept == {"west-mast", "horizon", "east-mast"}
    assert 'no surface or zone "attic"' in (fault_of(zoned, Take(surfaces=("attic",))) or "")


# -- boxes and pictures ------------------------------------------------------------------------------------------------


def test_across_is_one_picture_pixel_by_pixel_and_each_is_a_whole_one(zoned: Show) -> None:
    source = noise(4112, 1404)
    across = painted(zoned, state(SpreadNow("across", "arch")), slides=source)
    lies = np.zeros_like(across)
    for name in ("west-mast", "horizon", "east-mast"):
        rect = RECTS[name]
        assert np.array_equal(cut(across, rect), cut(source, rect)), "one to one, not resampled"
        lies[rect.cut()] = 1
    assert (across[..., :3][lies[..., 0] == 0] == 0).all(), "and nothing beside the surfaces"

    each = painted(zoned, state(SpreadNow("each", "hall"), border=Border(width=9)), slides=source)
    grouped = painted(zoned, state(SpreadNow("grouped", "hall")), slides=source)
    for name, rect in RECTS.items():
        alone = state(OWN, border=Border(width=9))._replace(place=(rect.x, rect.y, rect.w, rect.h))
        same = cut(painted(zoned, alone, slides=source), rect).astype(int)
        assert np.abs(cut(each, rect).astype(int) - same).max() <= 1, name
        expected = (
            across
            if name != "meridian"
            else painted(zoned, state(OWN)._replace(place=(rect.x, rect.y, rect.w, rect.h)), slides=source)
        )
        assert np.array_equal(cut(grouped, rect), cut(expected, rect)), name


def test_in_turn_deals_sources_and_names_them(zoned: Show) -> None:
    spread = SpreadNow("in-turn", "hall", "px", ("notes", "orrery", "moon-phases"))
    colours = {"notes": (10, 20, 30), "orrery": (200, 0, 0), "moon_phases": (0, 0, 250)}
    pictures = {id: np.full((90, 160, 4), (*c, 255), np.uint8) for id, c in colours.items()}
    shown = state(spread)
    made = painted(zoned, shown, **pictures)
    for name, id in zip(members(zoned, "hall")[0], ("notes", "orrery", "moon_phases"), strict=True):
        assert (cut(made, RECTS[name])[..., :3] == colours[id]).all()
    assert (cut(made, RECTS["meridian"])[..., :3] == colours["notes"]).all(), "from the start again"

    house = zoned.canvas("house")
    before = opening_state(zoned)
    after = {**before, ("house", house.layers[-1].id): shown}
    at = visible(zoned, house, after, RECTS["horizon"])
    assert source_names(zoned, at)[0] == "Orrery"
    changed = {c.surface: c.after[0] for c in delta(zoned, before, after)}
    assert changed == {"west-mast": "Notes", "horizon": "Orrery", "east-mast": "Moon phases", "meridian": "Notes"}
    assert layer_for(zoned, "horizon", after).layer != house.layers[-1].id, "a route to one surface leaves it alone"


def test_a_straight_line_is_straight_over_walls_of_different_pitch(zoned: Show) -> None:
    """Ruled over the room of Arch and Meridian, in millimetres.  Where the line is on each wall is measured by the
    centre of its light in every column, and put into the room by where the wall hangs (the surface's own numbers).
    """
    places = {s: hung(zoned.surface(s)) for s in RECTS}
    left, right = min(p.x for p in places.values()), max(p.x + p.w for p in places.values())
    top, foot = min(p.y for p in places.values()), max(p.y + p.h for p in places.values())
    width = 3000
    height = round(width * (foot - top) / (right - left))
    k = width / (right - left)
    for slope, offset in ((0.33, 300.0), (-0.3, 5000.0), (0.5, 0.0)):
        ys, xs = np.mgrid[0:height, 0:width] + 0.5
        away = np.abs(ys - (offset * k + slope * xs)) / np.hypot(1, slope)
        source = np.zeros((height, width, 4), np.uint8)
        source[..., :3] = np.rint(255 * np.clip(6 - away, 0, 1))[..., None]
        source[..., 3] = 255
        made = painted(zoned, state(SpreadNow("across", "hall", "mm"), "stretch"), slides=source)
        walls = 0
        for name, rect in RECTS.items():
            light = cut(made, rect)[..., 1].astype(float)
            rows = np.arange(rect.h)[:, None] + 0.5
            inside = (light[:4].sum(0) == 0) & (light[-4:].sum(0) == 0) & (light.sum(0) > 500)
            if inside.sum() < 20:
                continue
            walls += 1
            at = places[name]
            pitch = at.w / rect.w
            centre = (light * rows).sum(0)[inside] / light.sum(0)[inside]
            x = at.x + (np.flatnonzero(inside) + 0.5) * pitch
            y = at.y + centre * at.h / rect.h
            wanted = top + offset + slope * (x - left)
            assert np.abs(y - wanted).max() < 0.5 * pitch, (name, slope, np.abs(y - wanted).max() / pitch)
        assert walls >= 2
    by_pixels = painted(zoned, state(SpreadNow("across", "hall", "px"), "stretch"), slides=source)
    assert not np.array_equal(by_pixels, made), "by the canvas' pixels it is another picture"


@settings(max_examples=25, deadline=None)
@given(
    overs=st.lists(st.sampled_from(["across", "each", "grouped", "in-turn", "none"]), min_size=2, max_size=3),
    by=st.sampled_from(["px", "mm"]),
    times=st.lists(st.floats(0.05, 0.95), min_size=2, max_size=2),
    dressed=st.booleans(),
    turn=st.sampled_from([0.0, 12.0]),
)
def test_any_spread_fades_into_any_other_and_may_be_interrupted(
    overs: list[str], by: str, times: list[float], dressed: bool, turn: float
) -> None:
    """Shares add up to one where anything is seen, nothing is beside the boxes, and an interruption does not leap."""
    show = demo_show().model_copy(update={"zones": ZONES})
    kind = BY_NAME["spread"]
    values = [OWN if o == "none" else SpreadNow(o, "hall", by, ("notes",) if o == "in-turn" else ()) for o in overs]
    first = between("spread", values[0], values[1], times[0])
    rested = kind.rest(first, 0.0)
    second = between("spread", rested, values[-1], times[1])
    assert kind.sane(second) and kind.from_json(kind.to_json(second, 0.0), 0.0) == second
    assert between("spread", rested, values[-1], 0.0) == first, "it goes on from where it was"
    white = np.full((540, 960, 4), 255, np.uint8)
    kinds = {"shadow": Shadow(opacity=0.5, blur=20, x=10, y=10), "turn": turn} if dressed else {}
    layer = state(second, "stretch", **kinds)
    layer = layer._replace(place=(300.0, 200.0, 600.0, 400.0))
    painter = CanvasPainter(show.canvas("house"), 0.125)
    frames = {"slides": Frame(white, 1), "notes": Frame(white, 1)}
    painter.draw([("a", layer)], frames, deal=deal_of(show, "house"))
    assert not painter.faults
    sums: dict[tuple[int, int], float] = {}
    parts = dealt(show, "house", second)
    for name, rect in RECTS.items():
        shares = sum(p.share for p in parts if p.seen and any(not r.meet(rect).empty for r in p.seen))
        sums[rect.x, rect.y] = shares
        assert shares <= 1 + 1e-6
        if not dressed and all(p.seen is not None for p in parts):
            middle = painter.pixels[round((rect.y + rect.h / 2) / 8), round((rect.x + rect.w / 2) / 8), 1]
            assert abs(int(middle) - 255 * shares) <= 3, name
    outside = np.ones(painter.pixels.shape[:2], bool)
    for rect in [*RECTS.values(), *([Rect(0, 0, 4112, 2040)] if any(p.seen is None for p in parts) else [])]:
        outside[rect.y // 8 : -(-rect.foot // 8), rect.x // 8 : -(-rect.right // 8)] = False
    assert (painter.pixels[outside][..., :3] == 0).all()


def test_a_spread_is_stored_scoped_and_recalled_with_a_fade(zoned: Show) -> None:
    part = with_held(Part(canvas="house", layer="wall"), "spread", Spread(over="each", zone="hall"), "faded")
    show = zoned.model_copy(
        update={"presets": (*zoned.presets, Preset(id="x", number=77, name="X", seconds=2.0, parts=(part,)))}
    )
    stage = Stage.opened(show).recall(5, 0.0, cut=True)
    sent = stage.recall(77, 10.0)
    before, half, done = (sent.program.at(t)["house", "wall"] for t in (10.0, 11.0, 12.1))
    assert before == stage.program.target["house", "wall"]
    assert half.spread.share == pytest.approx(0.5) and done.spread == SpreadNow("each", "hall")
    assert done._replace(spread=OWN) == before._replace(spread=OWN), "nothing else is touched"
    again = replace(sent, program=sent.program)
    assert again.step_back(12.5).program.target == stage.program.target


def test_whole_pictures_fill_each_surface_by_a_fit_of_its_own(zoned: Show) -> None:
    spread = SpreadNow("each", "arch", fits=("stretch", "fit"))
    assert [one.fit for one in dealt(zoned, "house", spread)] == ["stretch", "fit", "stretch"]
    square = np.full((100, 100, 4), 255, np.uint8)
    seen = painted(zoned, state(spread), slides=square)
    lit = {name: float((seen[face.cut()][..., 0] == 255).mean()) for name, face in faces_of(zoned).items()}
    horizon = faces_of(zoned)["horizon"]
    assert lit["west-mast"] == lit["east-mast"] == 1.0, "stretched over all of it"
    assert lit["horizon"] == pytest.approx(min(horizon.w, horizon.h) / max(horizon.w, horizon.h), abs=0.01), "with bars"
    turning = Turning("dissolve", Shown("slides", "fill"), Shown("notes", "1:1"), 0.5)
    one = dealt(zoned, "house", spread)[0]
    placed = in_place(state(spread)._replace(picture=turning), one).picture
    assert (placed.before.fit, placed.after.fit) == ("stretch", "stretch")
    stored = Spread(over="each", zone="arch", fits=("fit",))
    kind = BY_NAME["spread"]
    assert kind.document(kind.value(stored, 1, 1), 1, 1) == stored
    assert kind.from_json(kind.to_json(kind.value(stored, 1, 1), 0.0), 0.0).fits == ("fit",)


def faces_of(show: Show) -> dict[str, Rect]:
    return {face.surface.id: face.rect for face in faces_on(show, "house")}


def test_a_layer_that_is_not_seen_is_dealt_out_anew_at_once(zoned: Show) -> None:
    """Nobody sees where its picture came from: it is made once, not twice, while it fades in."""
    part = with_held(Part(canvas="house", layer="sky"), "spread", Spread(over="each", zone="arch"), "faded")
    part = with_held(part, "opacity", 1.0, "faded")
    preset = Preset(id="x", number=77, name="X", seconds=2.0, parts=(part,))
    for opacity, kind in ((0.0, SpreadNow), (0.5, Mixed)):
        state = opening_state(zoned)
        state["house", "sky"] = state["house", "sky"]._replace(opacity=opacity)
        motion = recall(zoned, at_rest(state), preset, 0.0)
        assert isinstance(motion.at(1.0)["house", "sky"].spread, kind)
        assert motion.at(2.0)["house", "sky"].spread.over == "each"
