"""Storing what is seen, and recalling it: exactly the scope changes, and nothing else."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.kinds import KINDS, NAMES
from ushering_adze.core.onair.actions import Edit, SetPreview, apply
from ushering_adze.core.onair.placing import seen_crop
from ushering_adze.core.onair.previewing import is_that_preset
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import (
    built_on,
    clears_of,
    differing,
    grid_of,
    is_seen,
    layers_in_order,
    stored,
    suggested,
    taken_away,
    update_of,
)
from ushering_adze.core.onair.view import View, state_of
from ushering_adze.core.picture.layers import layer_state
from ushering_adze.core.plane.boxes import (
    LEAST,
    Line,
    brought,
    brought_by_handle,
    cropped,
    middle_of,
    panned,
    rotated,
    same_shape,
    sized,
    sized_turned,
    zoomed,
)
from ushering_adze.core.show import LayerSettings, Part, Picture, Place, ShowError, with_held
from ushering_adze.core.show.layering import (
    copied_layers,
    fresh_layer,
    moved_layers,
    naming,
    stepped_layers,
    with_changed_layer,
    with_layer,
    without_layers,
)
from ushering_adze.demo.show import demo_show

SHOW = demo_show()
KEYS = layers_in_order(SHOW)
NUMBERS = [p.number for p in SHOW.presets]


@given(
    st.sampled_from(NUMBERS),
    st.sampled_from(NUMBERS),
    st.dictionaries(
        st.tuples(st.sampled_from(KEYS), st.sampled_from(NAMES)),
        st.sampled_from(["left", "snapped", "faded"]),
        min_size=1,
    ),
)
@settings(max_examples=120, deadline=None)
def test_storing_with_a_scope_and_recalling_changes_exactly_the_scope(first, second, grid) -> None:  # type: ignore[no-untyped-def]
    seen = Stage.opened(SHOW).recall(first, 0.0, cut=True).program.target
    other = Stage.opened(SHOW).recall(second, 0.0, cut=True)
    kept = {cell for cell, how in grid.items() if how != "left"}
    if not kept:
        with pytest.raises(ShowError, match="nothing is to be stored"):
            stored(SHOW, seen, 777, "X", grid)
        return
    show = stored(SHOW, seen, 777, "X", grid)
    assert {c for c, how in grid_of(show.preset(777)).items()} == kept  # type: ignore[arg-type]
    after = other.with_show(show, 0.0).recall(777, 1.0, cut=True).program.target
    for key in KEYS:
        for n, kind in enumerate(NAMES):
            wanted = seen if (key, kind) in kept else other.program.target
            assert after[key][n] == wanted[key][n], (key, kind)


@pytest.mark.parametrize("number", NUMBERS)
def test_what_is_suggested_brings_back_what_was_seen(number: int) -> None:
    seen = Stage.opened(SHOW).recall(number, 0.0, cut=True).program.target
    grid = suggested(SHOW, seen)
    show = stored(SHOW, seen, 700, "All", grid, clears=clears_of(SHOW, grid)) if grid else None
    if show is None:
        return
    for before in NUMBERS:
        after = Stage.opened(show).recall(before, 0.0, cut=True).recall(700, 1.0, cut=True).program.target
        lit = {c for (c, _), _ in grid}
        for key in KEYS:
            if key[0] in lit and after[key].opacity > 0 and after[key].picture.source:
                assert after[key] == seen[key], "what is seen is what was stored, whatever was there before"
        for key in KEYS:
            if key[0] in lit and ((key, "picture") not in grid):
                assert after[key].opacity == 0


def test_an_update_keeps_the_terms_and_times_of_what_it_does_not_change() -> None:
    stage = Stage.opened(SHOW).stage(6)
    same, changes = update_of(SHOW, stage.preview(), 6)
    assert same is SHOW and changes == []
    moved = Part(canvas="house", layer="inset")
    moved = with_held(moved, "place", Place(x=5, y=6, w=70, h=80, unit="px"))
    edited = stage.with_edit(moved)
    show, changes = update_of(SHOW, edited.preview(), 6, frozenset({(("house", "inset"), "place")}))
    assert [(c.key, c.kind) for c in changes] == [(("house", "inset"), "place")]
    old, new = SHOW.preset(6), show.preset(6)
    assert old is not None and new is not None
    assert [p for p in new.parts if p.layer != "inset"] == [p for p in old.parts if p.layer != "inset"]
    assert Stage.opened(show).recall(6, 0.0, cut=True).program.target["house", "inset"].place == (5, 6, 70, 80)
    with pytest.raises(ShowError, match="no preset 123"):
        update_of(SHOW, edited.preview(), 123)


@given(st.sampled_from(NUMBERS), st.sampled_from(NUMBERS), st.sampled_from(NUMBERS))
@settings(max_examples=60, deadline=None)
def test_a_preset_is_known_to_be_what_is_on_preview_exactly_if_it_would_show_the_same(
    on: int, up: int, of: int
) -> None:
    """Worked out the long way: taken, or recalled, what can be seen is the same."""
    stage = Stage.opened(SHOW).recall(on, 0.0, cut=True).stage(up)

    def seen(stage: Stage) -> dict[object, object]:
        return {key: state for key, state in stage.program.target.items() if is_seen(state)}

    taken, recalled = stage.take(1.0, cut=True), stage.recall(of, 1.0, cut=True)
    assert is_that_preset(stage, SHOW, of) == (seen(taken) == seen(recalled))
    assert is_that_preset(stage, SHOW, up) and not is_that_preset(stage, SHOW, 123)


def test_what_differs_and_what_would_be_taken_away_is_named() -> None:
    stage = Stage.opened(SHOW).recall(5, 0.0, cut=True)
    before, after = stage.program.target, stage.stage(6).preview()
    cells = differing(SHOW, after, before)
    assert cells and all(getattr(after[key], kind) != getattr(before[key], kind) for key, kind in cells)
    grid = {cell: how for cell, how in suggested(SHOW, before).items() if cell[0] != ("house", "wall")}
    assert taken_away(SHOW, before, grid, ("house",)) == ("Wall",)
    assert built_on(SHOW, (), None) == {c.id for c in SHOW.canvases}
    assert built_on(SHOW, (Part(canvas="relay", layer="feed"),), None) == {"relay"}


def test_a_view_is_program_preview_or_a_preset_alone() -> None:
    stage = Stage.opened(SHOW).recall(5, 0.0, cut=True).stage(6)
    assert state_of(stage, View("house", "program")) == stage.program.target
    assert state_of(stage, View("house", "preview")) == stage.preview()
    blind = state_of(stage, View("house", "blind", 7))
    assert blind == stage.recall(7, 1.0, cut=True).program.target and blind != stage.preview()


def test_edits_on_program_and_a_preview_put_back() -> None:
    stage = Stage.opened(SHOW).recall(5, 0.0, cut=True)
    move = {"do": "edit", "canvas": "house", "layer": "wall", "on": "program"}
    for n in range(3):
        edit = Edit.model_validate(
            {
                **move,
                "set": {"place": {"to": {"x": n, "y": 0, "w": 9, "h": 9, "unit": "px"}, "how": "snapped"}},
                "goes_on": n > 0,
            }
        )
        stage = apply(SHOW, stage, edit, 1.0 + n)
    assert stage.program.target["house", "wall"].place == (2, 0, 9, 9) and len(stage.back) == 2
    assert stage.step_back(9.0, 0.0).program.target["house", "wall"].place[2] > 9
    edited = stage.stage(6).with_edit(Part(canvas="house", layer="wall", holds=edit.set))
    other = apply(SHOW, edited, SetPreview(preset=7), 10.0)
    assert (other.staged, other.edits) == (7, ())
    back = apply(SHOW, other, SetPreview(preset=6, edits=edited.edits), 11.0)
    assert (back.staged, back.edits) == (6, edited.edits) and back.preview() == edited.preview()
    assert apply(SHOW, edited, SetPreview(preset=4444), 12.0).staged == 6, "what the show has not changes nothing"


# -- layers ------------------------------------------------------------------------------------------------------------


@given(
    st.sets(st.sampled_from([y.id for y in SHOW.canvas("house").layers])), st.integers(-2, 9), st.sampled_from([-1, 1])
)
def test_order_is_kept_but_for_what_is_moved(ids: set[str], to: int, by: int) -> None:
    before = [y.id for y in SHOW.canvas("house").layers]
    for show in (moved_layers(SHOW, "house", ids, to), stepped_layers(SHOW, "house", ids, by)):
        after = [y.id for y in show.canvas("house").layers]
        assert sorted(after) == sorted(before)
        for some in (ids, set(before) - ids):
            assert [y for y in after if y in some] == [y for y in before if y in some]


def test_layers_are_added_copied_and_taken_away_with_what_presets_hold_of_them() -> None:
    canvas = SHOW.canvas("house")
    layer = fresh_layer(canvas, "#112233", "Wall")
    assert layer.name != "Wall" and layer.id not in {y.id for y in canvas.layers}
    show = with_layer(SHOW, "house", layer, "sky")
    assert [y.id for y in show.canvas("house").layers][1] == layer.id
    opened = Stage.opened(SHOW).recall(5, 0.0, cut=True)
    assert opened.with_show(show, 1.0).program.target["house", layer.id].picture.source is None
    copied, fresh = copied_layers(show, "house", ("wall", "inset"), "relay")
    assert len(fresh) == 2 and copied.canvas("relay").layers[-2].name == "Wall"
    lit = with_changed_layer(SHOW, "house", "wall", settings=LayerSettings(picture=Picture(source="slides"), opacity=1))
    assert Stage.opened(lit).program.target["house", "wall"].picture.source == "slides"
    twice, (copy,) = copied_layers(lit, "house", ("wall",))
    stage = Stage.opened(lit).with_show(twice, 1.0)
    assert stage.program.target["house", copy].picture.source is None, "on air by nothing but being copied"
    assert 5 in naming(SHOW, "house", {"wall"})
    gone = without_layers(SHOW, "house", {"wall"})
    assert not naming(gone, "house", {"wall"}) and all(y.id != "wall" for y in gone.canvas("house").layers)
    locked = with_changed_layer(SHOW, "house", "wall", locked=True)
    with pytest.raises(ShowError, match="Wall is locked"):
        without_layers(locked, "house", {"wall"})


# -- boxes -------------------------------------------------------------------------------------------------------------

side = st.floats(2, 4000)
handles = st.sampled_from([(-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0)])


@given(
    st.tuples(side, side, side, side), handles, st.floats(-300, 300), st.floats(-300, 300), st.booleans(), st.booleans()
)
def test_a_side_across_stays_or_the_middle_and_shapes_are_kept(box, handle, dx, dy, keep, middle) -> None:  # type: ignore[no-untyped-def]
    x, y, w, h = sized(box, handle, dx, dy, keep, middle)
    assert w > 0 and h > 0
    if keep:
        assert w / h == pytest.approx(box[2] / box[3], rel=1e-6)
    for at, size, was, had, way in ((x, w, box[0], box[2], handle[0]), (y, h, box[1], box[3], handle[1])):
        if middle:
            assert at + size / 2 == pytest.approx(was + had / 2, abs=1e-6)
        elif way > 0:
            assert at == pytest.approx(was)
        elif way < 0:
            assert at + size == pytest.approx(was + had)


@given(st.tuples(side, side, side, side), handles, st.floats(-300, 300), st.floats(-300, 300), st.floats(-180, 180))
def test_of_a_turned_box_the_side_across_stays_where_it_is_seen(box, handle, dx, dy, degrees) -> None:  # type: ignore[no-untyped-def]
    made = sized_turned(box, degrees, handle, dx, dy)

    def seen(b: tuple[float, ...]) -> tuple[float, float]:
        x, y = middle_of(b)
        right, down = rotated(-handle[0] * b[2] / 2, -handle[1] * b[3] / 2, degrees)
        return x + right, y + down

    assert seen(made) == pytest.approx(seen(box), abs=1e-6)
    level, upright = rotated(*rotated(dx, dy, -degrees), degrees)
    assert (level, upright) == pytest.approx((dx, dy), abs=1e-6)
    if made[2] > LEAST and made[3] > LEAST and handle[0] and handle[1]:
        x, y = seen_corner(made, handle, degrees)
        u, v = seen_corner(box, handle, degrees)
        assert (x - u, y - v) == pytest.approx((dx, dy), abs=1e-6), "and the corner is under the pointer"


def seen_corner(box, handle, degrees) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    x, y = middle_of(box)
    right, down = rotated(handle[0] * box[2] / 2, handle[1] * box[3] / 2, degrees)
    return x + right, y + down


@given(st.tuples(side, side, side, side), handles, st.floats(-7, 7), st.booleans(), st.booleans())
def test_a_handle_near_a_line_lies_on_it(box, handle, off, keep, middle) -> None:  # type: ignore[no-untyped-def]
    x, _, w, h = box
    if w < 20 or h < 20:
        return
    line = Line((x if handle[0] < 0 else x + w) + off, "Meridian")
    made, met = brought_by_handle(box, handle, [line], [], 8, keep, middle)
    if handle[0]:
        assert [m.line for m in met] == [line]
        assert (made[0] if handle[0] < 0 else made[0] + made[2]) == pytest.approx(line.at, abs=1e-6)
        if keep:
            assert made[2] / made[3] == pytest.approx(w / h, rel=1e-6)
    else:
        assert made == box and not met


def test_boxes_are_brought_to_the_nearest_line_and_keep_their_size() -> None:
    box, met = brought((103.0, 40.0, 50.0, 20.0), [Line(100, "a"), Line(150, "b")], [Line(64, "c")], 6)
    assert (box == (100.0, 44.0, 50.0, 20.0) and [m.line.words for m in met] == ["a", "c"]) or met[0].line.words == "b"
    assert same_shape((0, 0, 200, 100), 100, 100) == (50, 0, 100, 100)
    assert len(KINDS) == len(NAMES)


shares = st.floats(0, 0.4)


def lies_at(crop, box, share):  # type: ignore[no-untyped-def]
    """Where on the canvas a point of the picture lies, along each axis, when its cut fills its box."""
    left, top, right, bottom = crop
    x, y, w, h = box
    return x + (share - left) / (1 - left - right) * w, y + (share - top) / (1 - top - bottom) * h


@given(st.tuples(side, side, side, side), st.tuples(shares, shares, shares, shares), handles, st.floats(-90, 90))
def test_what_is_left_of_a_picture_that_fills_its_box_stays_where_it_is_when_cut(box, crop, handle, by) -> None:  # type: ignore[no-untyped-def]
    if box[2] < 5 or box[3] < 5:
        return
    state = layer_state(LayerSettings(picture=Picture(source="slides")), SHOW.canvas("house"))
    state = state._replace(place=box, crop=crop)
    seen = seen_crop(state, 1920, 1080)
    wide, high = (1 - seen[0] - seen[2]) * 1920, (1 - seen[1] - seen[3]) * 1080
    assert wide / high == pytest.approx(box[2] / box[3], rel=1e-6), "what is seen has the shape of the box"
    assert all(a >= b - 1e-9 for a, b in zip(seen, crop, strict=True))
    new, cut = cropped(box, seen, handle, by, by)
    for share in (0.45, 0.55):
        assert lies_at(cut, new, share) == pytest.approx(lies_at(seen, box, share), abs=1e-6)


@given(st.tuples(shares, shares, shares, shares), st.floats(-2, 2), st.floats(-2, 2), st.floats(0.2, 5))
def test_a_picture_is_panned_and_zoomed_as_far_as_there_is_more_of_it(crop, dx, dy, factor) -> None:  # type: ignore[no-untyped-def]
    def size(cut):  # type: ignore[no-untyped-def]
        return 1 - cut[0] - cut[2], 1 - cut[1] - cut[3]

    moved = panned(crop, dx, dy)
    assert size(moved) == pytest.approx(size(crop)) and min(moved) >= -1e-9
    if abs(dx) < 1e-3 and abs(dy) < 1e-3:
        assert moved == pytest.approx(crop, abs=1e-3)
    larger = zoomed(crop, factor)
    w, h = size(larger)
    assert min(larger) >= -1e-9 and w <= 1 + 1e-9 and h <= 1 + 1e-9
    assert w / h == pytest.approx(size(crop)[0] / size(crop)[1], rel=1e-6), "its shape stays"
    if factor > 1:
        assert w <= size(crop)[0] + 1e-9
