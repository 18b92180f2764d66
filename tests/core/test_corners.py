"""The corners of the core: several projectors, odd landings, scopes, crops and borders on their way."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ushering_adze.core.kinds import KINDS
from ushering_adze.core.kinds.on_its_way import Shown, Still, Turning
from ushering_adze.core.light.blend import blend_weights, overlaps_of
from ushering_adze.core.light.patterns import Label, pattern
from ushering_adze.core.onair.delta import delta
from ushering_adze.core.onair.motion import at_rest, carried_over, opening_motion, parts_of, recall
from ushering_adze.core.picture.cards import clock_digits, countdown_picture, lost_picture
from ushering_adze.core.picture.compose import box_of, cells, fit_into
from ushering_adze.core.picture.layers import between, is_sane, layer_state, opening_state
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.mixing import mix_of
from ushering_adze.core.picture.steps import blank_raster, lay_step, seen_by
from ushering_adze.core.plane.homography import is_convex
from ushering_adze.core.plane.rect import Rect, frame_strips
from ushering_adze.core.show import (
    Border,
    Canvas,
    Crop,
    Layer,
    LayerSettings,
    Output,
    Picture,
    Place,
    Preset,
    Projection,
    Projector,
    QuadLanding,
    RectLanding,
    Region,
    Scope,
    Show,
    Timing,
    Touch,
    part_of,
)
from ushering_adze.core.show.edits import changed, find_region, is_whole, with_output, with_region

# -- blending in rows and columns ----------------------------------------------------------------------------------


def test_overlaps_are_found_on_the_sides_they_are_on() -> None:
    middle = Rect(100, 50, 200, 100)
    assert overlaps_of(middle, [Rect(0, 50, 120, 100)]) == (20, 0, 0, 0)
    assert overlaps_of(middle, [Rect(260, 50, 200, 100)]) == (0, 0, 40, 0)
    assert overlaps_of(middle, [Rect(100, 0, 200, 60)]) == (0, 10, 0, 0)
    assert overlaps_of(middle, [Rect(100, 120, 200, 100)]) == (0, 0, 0, 30)
    assert overlaps_of(middle, [Rect(300, 50, 9, 9), Rect(0, 0, 100, 50)]) == (0, 0, 0, 0), (
        "touching is not overlapping"
    )
    assert overlaps_of(middle, [Rect(0, 50, 120, 100), Rect(0, 60, 150, 20)]) == (50, 0, 0, 0), "the widest counts"


def test_three_in_a_row_with_unequal_overlaps() -> None:
    rects = [Rect(0, 0, 100, 10), Rect(80, 0, 100, 10), Rect(140, 0, 100, 10)]
    weights = blend_weights(rects)
    total = np.zeros((10, 240))
    for rect, weight in zip(rects, weights, strict=True):
        total[rect.cut()] += weight
    np.testing.assert_allclose(total, 1, atol=1e-6)
    assert (weights[1][:, 20:60] == 1).all() and (weights[0][:, :80] == 1).all()
    assert (np.diff(weights[0][0, 80:]) <= 0).all() and (np.diff(weights[2][0, :40]) >= 0).all()


def test_one_alone_and_two_apart_are_not_dimmed() -> None:
    assert all((w == 1).all() for w in blend_weights([Rect(0, 0, 10, 10)]))
    assert all((w == 1).all() for w in blend_weights([Rect(0, 0, 10, 10), Rect(10, 0, 10, 10), Rect(0, 40, 9, 9)]))


def test_two_exactly_on_each_other_share_the_light() -> None:
    a, b = blend_weights([Rect(0, 0, 10, 10), Rect(0, 0, 10, 10)])
    assert a + b == pytest.approx(1) and (a == 0.5).all()


# -- mapping -------------------------------------------------------------------------------------------------------


def one_output(*regions: Region, canvas: tuple[int, int] = (80, 60), raster: tuple[int, int] = (40, 30)) -> Show:
    return Show(
        name="T",
        canvases=(Canvas(id="c", name="C", width=canvas[0], height=canvas[1], regions=regions),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=raster[0], height=raster[1])),),
    )


def region(id: str, rect: tuple[int, int, int, int], landing: RectLanding | QuadLanding) -> Region:
    x, y, w, h = rect
    return Region(id=id, name=id, x=x, y=y, w=w, h=h, output="o", landing=landing)


def mapped(show: Show, canvas: np.ndarray) -> np.ndarray:
    plan = compile_output(show, show.output("o"))
    raster = blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, canvas[step.take.cut()], raster)
    return raster


@settings(max_examples=120, deadline=None)
@given(
    x=st.integers(-30, 90),
    y=st.integers(-30, 70),
    w=st.integers(1, 60),
    h=st.integers(1, 60),
    u=st.integers(-50, 50),
    v=st.integers(-40, 40),
)
def test_any_copy_anywhere_is_what_slicing_says(x: int, y: int, w: int, h: int, u: int, v: int) -> None:
    canvas = np.random.default_rng(1).integers(1, 256, (60, 80, 4), dtype=np.uint8)
    show = one_output(region("r", (x, y, w, h), RectLanding(x=u, y=v, w=w, h=h)))
    want = np.zeros((30, 40, 3), np.uint8)
    for row in range(30):
        for column in range(40):
            sx, sy = column - u + x, row - v + y
            inside = u <= column < u + w and v <= row < v + h
            if inside and 0 <= sx < 80 and 0 <= sy < 60:
                want[row, column] = canvas[sy, sx, :3]
    assert (mapped(show, canvas)[..., :3] == want).all()


def test_later_regions_lie_over_earlier_ones_and_many_share_a_raster() -> None:
    canvas = np.random.default_rng(2).integers(0, 256, (60, 80, 4), dtype=np.uint8)
    first = region("a", (0, 0, 20, 30), RectLanding(x=0, y=0, w=20, h=30))
    second = region("b", (60, 20, 20, 30), RectLanding(x=10, y=0, w=20, h=30))
    raster = mapped(one_output(first, second), canvas)
    assert (raster[:, :10, :3] == canvas[0:30, 0:10, :3]).all() and (
        raster[:, 10:30, :3] == canvas[20:50, 60:80, :3]
    ).all()
    assert (raster[:, 30:, :3] == 0).all()


def test_a_scaled_region_half_off_the_raster_keeps_its_scale() -> None:
    ramp = np.zeros((60, 80, 4), np.uint8)
    ramp[..., :3] = (np.arange(80) * 3)[None, :, None]
    whole = mapped(
        one_output(region("r", (0, 0, 80, 60), RectLanding(x=0, y=0, w=160, h=120)), raster=(160, 120)), ramp
    )
    part = mapped(one_output(region("r", (0, 0, 80, 60), RectLanding(x=-60, y=-45, w=160, h=120))), ramp)
    assert np.abs(part[2:-2, 2:-2, 0].astype(int) - whole[47:73, 62:98, 0]).max() <= 1


def test_a_crossed_quad_is_left_out_and_off_raster_too() -> None:
    canvas = np.full((60, 80, 4), 200, np.uint8)
    crossed = region("r", (0, 0, 40, 30), QuadLanding(corners=((0, 0), (40, 30), (40, 0), (0, 30))))
    assert mapped(one_output(crossed), canvas)[..., :3].max() == 0
    away = region("r", (0, 0, 40, 30), QuadLanding(corners=((500, 500), (540, 500), (540, 530), (500, 530))))
    assert compile_output(one_output(away), one_output(away).output("o")).steps == ()
    assert is_convex([(0, 0), (0, 3), (4, 3), (4, 0)]), "mirrored is convex too"


def test_a_mirrored_quad_mirrors() -> None:
    canvas = np.random.default_rng(3).integers(0, 256, (30, 40, 4), dtype=np.uint8)
    mirrored = region("r", (0, 0, 40, 30), QuadLanding(corners=((40, 0), (0, 0), (0, 30), (40, 30))))
    raster = mapped(one_output(mirrored, canvas=(40, 30)), canvas)
    assert np.abs(raster[..., :3].astype(int) - canvas[:, ::-1, :3]).max() <= 1


def test_a_step_knows_what_it_sees() -> None:
    show = one_output(region("r", (10, 10, 20, 20), RectLanding(x=0, y=0, w=20, h=20)))
    step = compile_output(show, show.output("o")).steps[0]
    assert seen_by(step.take, (Rect(29, 29, 5, 5),)) and not seen_by(step.take, ())
    assert not seen_by(step.take, (Rect(30, 0, 5, 60), Rect(0, 0, 10, 60)))


def test_the_weights_follow_each_outputs_own_gamma_after_an_edit(show: Show) -> None:
    darker = with_output(show, show.output("projector-left").model_copy(update={"picture": {"gamma": 1.8}}))
    darker = Show.model_validate(darker.model_dump())
    for s, gamma in ((show, 2.2), (darker, 1.8)):
        step = compile_output(s, s.output("projector-left")).steps[0]
        assert step.finish is not None and len(step.finish.worked) == 1 and not step.finish.flats
        part = step.finish.worked[0]
        assert part.at.x <= 1680 and part.at.right == 1920 and (part.at.y, part.at.h) == (0, 1080)
        x = 1799 - part.at.x
        assert (part.factors[500, x, 0] ** gamma + part.factors[500, x + 1, 0] ** gamma) / 2 == pytest.approx(
            0.5, abs=1e-3
        )
        assert (part.factor[..., 3] == 65535).all() and part.peak == 1


# -- boxes and fits ------------------------------------------------------------------------------------------------


@given(
    x=st.floats(-100, 100), y=st.floats(-100, 100), w=st.floats(0, 300), h=st.floats(0, 300), border=st.floats(0, 40)
)
def test_boxes_meet_without_gap_or_overlap(x: float, y: float, w: float, h: float, border: float) -> None:
    """Two layers side by side share their edge exactly, wherever rounding falls."""
    plain = layer_state(LayerSettings(), Canvas(id="c", name="C", width=400, height=200))
    make = lambda x, w: plain._replace(place=(x, y, w, h), border=(border, 0, 0, 0, 0))  # noqa: E731
    left, inner = box_of(make(x, w))
    right, _ = box_of(make(x + w, 50.0))
    assert left.right == right.x
    assert inner.empty or (
        left.holds(inner) and sum(s.area for s in frame_strips(left, inner)) + inner.area == left.area
    )


def test_crops_and_one_to_one_keep_pixels() -> None:
    cut = fit_into(1920, 1080, (0.25, 0, 0.25, 0.5), "stretch", Rect(0, 0, 100, 100))
    assert cut.take == Rect(480, 0, 960, 540)
    small_box = fit_into(1920, 1080, (0, 0, 0, 0), "1:1", Rect(100, 100, 200, 100))
    assert small_box.put == Rect(100, 100, 200, 100) and small_box.take == Rect(860, 490, 200, 100), (
        "the middle is what is left"
    )
    assert fit_into(100, 100, (0, 0, 0, 0), "fill", Rect(5, 5, 0, 10)).put.empty


@given(
    st.lists(
        st.builds(Rect, st.integers(-5, 30), st.integers(-5, 30), st.integers(0, 30), st.integers(0, 30)), max_size=4
    )
)
def test_cells_tile_the_area(rects: list[Rect]) -> None:
    area = Rect(0, 0, 20, 20)
    parts = cells(area, rects)
    assert sum(c.area for c in parts) == area.area
    assert all(r.holds(c) or r.meet(c).empty for c in parts for r in rects)


# -- recall --------------------------------------------------------------------------------------------------------

A, B = "#FF0000", "#0000FF"


def two_layers() -> Show:
    base = LayerSettings(place=Place(x=0, y=0, w=100, h=50, unit="px"), border=Border(width=0, colour=A))
    moved = LayerSettings(
        place=Place(x=100, y=20, w=200, h=50, unit="px"),
        crop=Crop(left=0.4),
        opacity=0.5,
        border=Border(width=10, colour=B),
    )
    faded = Touch(how="faded")
    every = Scope(picture=faded, place=faded, crop=faded, opacity=faded, border=faded)
    only_place = Scope(**{kind.name: Touch(how="snapped") if kind.name == "place" else Touch() for kind in KINDS})
    return Show(
        name="T",
        canvases=(
            Canvas(
                id="c",
                name="C",
                width=400,
                height=200,
                layers=(Layer(id="one", name="One", settings=base), Layer(id="two", name="Two", settings=base)),
            ),
        ),
        presets=(
            Preset(
                id="all", number=1, name="All", seconds=2.0, easing="linear", parts=(part_of("c", "one", moved, every),)
            ),
            Preset(id="place", number=2, name="Place", seconds=2.0, parts=(part_of("c", "one", moved, only_place),)),
            Preset(
                id="clear",
                number=3,
                name="Clear",
                seconds=1.0,
                clears=("c",),
                parts=(part_of("c", "two", base, only_place),),
            ),
        ),
    )


def test_every_kind_moves_in_a_straight_line() -> None:
    show = two_layers()
    state = recall(show, opening_motion(show), show.preset(1), 10.0).at(11.0)["c", "one"]
    assert state.place == (50, 10, 150, 50) and state.crop == (0.2, 0, 0, 0) and state.opacity == 0.75
    assert state.border == (5, 127.5, 0, 127.5, 0)


def test_what_is_left_is_left_and_what_is_snapped_is_there_at_once() -> None:
    show = two_layers()
    motion = recall(show, opening_motion(show), show.preset(2), 0.0)
    state = motion.at(0.0)["c", "one"]
    assert (
        state.place == (100, 20, 200, 50) and state.opacity == 1 and state.border[0] == 0 and state.crop == (0, 0, 0, 0)
    )
    assert motion.tracks == {}


def test_clearing_fades_what_is_not_named() -> None:
    show = two_layers()
    assert [(p.layer, [k for _, k, _ in p.held]) for p in parts_of(show, show.preset(3))] == [
        ("two", ["place"]),
        ("one", ["opacity"]),
    ]
    motion = recall(show, opening_motion(show), show.preset(3), 0.0)
    assert 0.3 < motion.at(0.5)["c", "one"].opacity < 0.7 and motion.at(1.0)["c", "one"].opacity == 0
    assert motion.at(1.0)["c", "two"].opacity == 1


def test_by_hand_a_snapped_kind_waits_for_the_lever_to_leave_its_place() -> None:
    show = two_layers()
    motion = recall(show, opening_motion(show), show.preset(2), 0.0, by_hand=True)
    assert motion.led_by_hand and motion.at(9.0)["c", "one"].place == (0, 0, 100, 50)
    assert motion.with_hand(0.01).at(9.0)["c", "one"].place == (100, 20, 200, 50)


def test_a_second_recall_of_the_same_is_no_news() -> None:
    show = two_layers()
    settled = at_rest(recall(show, opening_motion(show), show.preset(1), 0.0, cut=True).target)
    again = recall(show, settled, show.preset(1), 5.0)
    assert again.tracks == {} and not again.moving(5.0) and again.progress(5.0) == 1.0


def test_a_dissolve_back_half_way_ends_where_it_began() -> None:
    a, b = Shown("a", "fill"), Shown("b", "fill")
    half = between("picture", a, b, 0.5)
    assert between("picture", half, a, 1.0) == a
    assert mix_of(between("picture", half, a, 0.5)) == ((a, 0.75), (b, 0.25))
    other_fit = mix_of(between("picture", a, Shown("a", "fit"), 0.5))
    assert len(other_fit) == 2, "the same source fitted otherwise is another picture"


def test_carried_over_drops_what_the_edit_removed(show: Show) -> None:
    motion = recall(show, opening_motion(show), show.preset(7), 0.0)
    house = show.canvases[0]
    without_west = house.model_copy(update={"layers": tuple(y for y in house.layers if y.id != "west")})
    kept = carried_over(show.model_copy(update={"canvases": (without_west, *show.canvases[1:])}), motion, 0.5)
    assert ("house", "west") not in kept.at(0.5) and not any(k[1] == "west" for k in kept.tracks)
    assert kept.at(0.5)["house", "wall"] == motion.at(0.5)["house", "wall"]
    fewer = show.model_copy(update={"sources": tuple(s for s in show.sources if s.id != "moon-phases")})
    assert carried_over(fewer, motion, 0.5).at(0.5)["house", "wall"] == opening_state(show)["house", "wall"], (
        "as declared"
    )


def test_the_delta_sees_crop_border_and_opacity_but_not_what_is_off_the_surface(show: Show) -> None:
    before = opening_motion(show).at(0)
    wall = before["house", "wall"]
    for change in ({"crop": (0.1, 0, 0, 0)}, {"border": (4.0, 255.0, 0.0, 0.0, 0.0)}, {"opacity": 0.4}):
        assert [c.surface for c in delta(show, before, {**before, ("house", "wall"): wall._replace(**change)})] == [
            "meridian"
        ]
    away = {**before, ("house", "inset"): before["house", "inset"]._replace(opacity=1.0, place=(0, 1500, 200, 200))}
    assert delta(show, before, away) == [], "between the mast and the wall nothing hangs"


def test_sane_means_sane() -> None:
    good = layer_state(LayerSettings(picture=Picture(source=None)), Canvas(id="c", name="C", width=10, height=10))
    assert is_sane(good)
    for bad in (
        {"opacity": 1.2},
        {"opacity": -0.1},
        {"crop": (0.6, 0, 0.5, 0)},
        {"picture": Turning("dissolve", Shown("a", "fill"), Shown("b", "fill"), 1.5)},
        {
            "picture": Still(
                Turning(
                    "dissolve", Still(good.picture, 1.0), Turning("dissolve", good.picture, good.picture, 0.5), 0.5
                ),
                2.0,
            )
        },
        {"border": (-1.0, 0, 0, 0)},
        {"place": (0, 0, -1, 5)},
    ):
        assert not is_sane(good._replace(**bad))


# -- values --------------------------------------------------------------------------------------------------------


def test_values_cannot_be_changed_only_replaced(show: Show) -> None:
    with pytest.raises(ValidationError):
        show.canvases[0].width = 1  # type: ignore[misc]
    with pytest.raises(ValidationError):
        changed(show.canvases[0], width=0)
    found = find_region(show, "meridian")
    assert found is not None and find_region(show, "nowhere") is None
    assert is_whole(with_region(show, changed(found[1], x=0))) and not is_whole(
        with_region(show, changed(found[1], output="nope"))
    )


def test_more_projectors_make_a_wider_screen() -> None:
    three = tuple(Projector(id=f"p{n}", name=f"P{n}", width=1920, height=1200) for n in range(3))
    screen = Projection(id="s", name="S", width_mm=12000, height_mm=3000, projectors=three, overlap_px=200)
    assert screen.pixels == (3 * 1920 - 2 * 200, 1200)


def test_drawn_cards_are_whole_pictures() -> None:
    assert [clock_digits(n) for n in (0, 59, 60, 3599, 3600, -4)] == [
        "0:00",
        "0:59",
        "1:00",
        "59:59",
        "1:00:00",
        "0:00",
    ]
    full, half, none = (countdown_picture(s, 300) for s in (300, 150, 0))
    amber = [int(((p[..., 2] > 200) & (p[..., 1] > 140) & (p[..., 0] < 110)).sum()) for p in (full, half, none)]
    assert amber[0] > 1.7 * amber[1] > 0 and amber[2] < amber[1] / 20, "the ring empties"
    a, b = lost_picture("Roof camera", "no file roof.mp4"), lost_picture("Aisle camera", "no file roof.mp4")
    assert a.shape == (720, 1280, 4) and (a != b).any() and (a[..., 3] == 255).all()


def test_an_identify_card_differs_by_name_size_and_rate() -> None:
    cards = [
        pattern("identify", 640, 360, Label(name, rate))
        for name, rate in (("Horizon", 60), ("Meridian", 60), ("Horizon", 50))
    ]
    assert (cards[0] != cards[1]).any() and (cards[0] != cards[2]).any() and (cards[1] != cards[2]).any()
