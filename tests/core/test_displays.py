"""LED walls, monitor walls, projection and their binding: worked examples, and properties over many walls."""

from __future__ import annotations

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from ushering_adze.core.displays.binding import (
    bound,
    claims,
    fed_by,
    fed_parts,
    feeding,
    landing_rect,
    rebound,
    unbound,
)
from ushering_adze.core.displays.hanging import hang_by
from ushering_adze.core.displays.led import data_runs, hung_cabinets, led_facts, port_capacity, unseen_distance
from ushering_adze.core.displays.monitors import canvas_size, cut_out, hung_monitors
from ushering_adze.core.displays.projection import (
    footlamberts,
    luminance,
    overlap_for_canvas,
    overlap_px_from,
    picture_width,
    projection_facts,
    side_sizes,
    used_raster,
    with_white,
)
from ushering_adze.core.displays.rig import card_loads, forbidden, output_wires, rig_of
from ushering_adze.core.displays.table import TABLES, as_tsv, pasted, with_cell
from ushering_adze.core.show import (
    Cabinet,
    DataRuns,
    Gang,
    Input,
    LedWall,
    MonitorWall,
    Projection,
    Projector,
    Show,
    ShowError,
)
from ushering_adze.core.show.rigging import duplicated, moved_item, with_field, with_item, without_item
from ushering_adze.core.show.show import faults_of

FINE = Cabinet(width_mm=500, height_mm=500, columns_px=192, rows_px=192, weight_kg=8.2, max_watts=190, mean_watts=65)


def wall(columns: int = 10, rows: int = 5, **more: object) -> LedWall:
    return LedWall(id="w", name="W", cabinet=FINE, columns=columns, rows=rows, **more)  # type: ignore[arg-type]


# -- LED walls ---------------------------------------------------------------------------------------------------------


def test_a_wall_of_ten_by_five_with_one_missing() -> None:
    f = led_facts(wall(missing=[{"column": 3, "row": 2}]))
    assert f.pixels == (1920, 960) and f.lit_pixels == 1920 * 960 - 192 * 192 and f.cabinets == 49
    assert f.size_mm == (5000, 2500) and f.pitch_mm == pytest.approx(2.604, abs=0.0005)  # 500 mm ÷ 192 px
    assert (f.weight_kg, f.max_watts, f.mean_watts) == (pytest.approx(49 * 8.2), 49 * 190, 49 * 65)
    # 230 V × 16 A × 80 % = 2944 W: common practice, no source.
    assert (f.circuit_watts, f.per_circuit, f.circuits) == (2944, 15, math.ceil(49 / 15))
    assert f.comfortable_m == pytest.approx(
        2.604, abs=0.001
    )  # a metre for each mm of pitch: common practice, no source
    assert f.unseen_m == pytest.approx(3438 * f.pitch_mm / 1000, rel=1e-3)  # one minute of arc: pitch ÷ tan(1′)
    assert unseen_distance(1.0) == pytest.approx(1 / math.tan(math.radians(1 / 60)) / 1000)


def test_port_capacity_is_bit_rate_over_bits_and_pictures() -> None:
    assert port_capacity(DataRuns(share=1)) == 694_444  # 1 Gb/s ÷ (24 bit × 60 Hz)
    assert port_capacity(DataRuns()) == 650_000  # common practice, no source
    assert port_capacity(DataRuns(bits=10)) == 520_000 and port_capacity(DataRuns(rate=30)) == 1_300_000
    assert port_capacity(DataRuns(gbps=5)) == 3_250_000


CELLS = st.tuples(st.integers(1, 12), st.integers(1, 9))


@given(
    st.integers(1, 12),
    st.integers(1, 9),
    st.sets(CELLS, max_size=12),
    st.sampled_from(["rows", "columns"]),
    st.sampled_from(["top-left", "top-right", "bottom-left", "bottom-right"]),
    st.booleans(),
    st.one_of(st.none(), st.integers(1, 9)),
)
def test_every_cabinet_is_on_one_port_and_no_port_is_over_its_capacity(
    columns: int, rows: int, gone: set[tuple[int, int]], along: str, start: str, snake: bool, most: int | None
) -> None:
    missing = [{"column": c, "row": r} for c, r in gone if c <= columns and r <= rows]
    if len(missing) == columns * rows:
        missing = missing[1:]
    w = wall(
        columns, rows, missing=missing, data=DataRuns(along=along, start=start, snake=snake, most=most, backup=True)
    )  # type: ignore[arg-type]
    runs = data_runs(w)
    seen = [(h.column, h.row) for run in runs for h in run.cabinets]
    assert sorted(seen) == sorted((h.column, h.row) for h in hung_cabinets(w)) and len(set(seen)) == len(seen)
    assert all(run.pixels <= port_capacity(w.data) and len(run.cabinets) <= (most or 99) for run in runs)
    assert [run.port for run in runs] == list(range(1, len(runs) + 1)) and runs[0].backup == len(runs) + 1
    first = seen[0]
    if not missing:
        assert first == (columns if "right" in start else 1, rows if "bottom" in start else 1)
        if snake:
            assert all(abs(a[0] - b[0]) + abs(a[1] - b[1]) == 1 for a, b in itertools.pairwise(seen)), (
                "a snake never jumps"
            )


def test_two_kinds_gaps_and_turned_cabinets() -> None:
    half = FINE.model_copy(update={"height_mm": 250.0, "rows_px": 96})
    w = wall(
        3,
        3,
        others={"cabinet": half.model_dump(), "rows": [1]},
        gaps=[{"after": 1, "mm": 40}],
        turned=[{"column": 1, "row": 2, "degrees": 90}],
    )
    assert w.pixels == (576, 96 + 2 * 192) and w.size_mm == (1540, 1250)
    placed = {(h.column, h.row): h for h in hung_cabinets(w)}
    assert (
        placed[2, 1].mm == (540, 0, 500, 250)
        and tuple(placed[2, 2].px) == (192, 96, 192, 192)
        and placed[1, 2].degrees == 90
    )
    for bad, words in (
        (
            {"others": {"cabinet": half.model_copy(update={"width_mm": 400.0}).model_dump(), "rows": [1]}},
            "as wide as the wall's",
        ),
        ({"missing": [{"column": 11, "row": 1}]}, "missing cabinet 11/1 is not on a wall of 10 × 5"),
        ({"gaps": [{"after": 10, "mm": 5}]}, "not within 10 columns"),
        ({"columns": 400}, "over 32768 px"),
        (
            {"others": {"cabinet": half.model_dump(), "rows": [1]}, "turned": [{"column": 1, "row": 1, "degrees": 90}]},
            "is not square",
        ),
    ):
        with pytest.raises(ValidationError, match=words.replace("(", r"\(")):
            wall(**{"columns": 10, "rows": 5, **bad})  # type: ignore[arg-type]


# -- monitor walls: hidden pixels = gap in mm ÷ pixel size in mm -------------------------------------------------------


def monitors(**more: object) -> MonitorWall:
    fields = {
        "columns": 3,
        "rows": 2,
        "active_width_mm": 1018.1,
        "active_height_mm": 572.7,
        "edge_mm": 3.5,
        "feed_width": 1920,
        "feed_height": 1080,
    }
    return MonitorWall(id="m", name="M", **(fields | more))  # type: ignore[arg-type]


def test_hidden_pixels_of_a_monitor_wall() -> None:
    # 7 mm between pictures ÷ (1018.1 mm ÷ 1920 px) = 13.2 px
    assert canvas_size(monitors(), False) == (5760, 2160) and canvas_size(monitors(), True) == (5760 + 26, 2160 + 13)
    places = [m.canvas_px[0] for m in hung_monitors(monitors(hide=True))]
    assert places == [(0, 0), (1933, 0), (3866, 0), (0, 1093), (1933, 1093), (3866, 1093)]
    turned = monitors(turned=True, hide=True, gap_mm=2)
    hidden = 9 / (572.7 / 1080)
    assert canvas_size(turned, True) == (round(2 * (1080 + hidden)) + 1080, round(1920 + 9 / (1018.1 / 1920)) + 1920)
    assert turned.size_mm == (pytest.approx(3 * 579.7 + 4), pytest.approx(2 * 1025.1 + 2))
    assert hung_monitors(turned)[0].canvas_px[0] == (1080, 0), (
        "a monitor turned clockwise has its own top left at the right"
    )


@given(st.floats(0, 3000), st.floats(0, 2000), st.floats(-180, 180))
def test_a_scattered_monitor_cuts_its_true_rectangle(x: float, y: float, degrees: float) -> None:
    m = hung_monitors(monitors(scattered=[{"x_mm": x, "y_mm": y, "degrees": degrees}]))[0]
    a, b, c, d = m.lit_mm
    assert (
        math.dist(a, b) == pytest.approx(1018.1)
        and math.dist(b, c) == pytest.approx(572.7)
        and math.dist(a, c) == pytest.approx(math.dist(b, d))
    )
    assert (
        math.degrees(math.atan2(b[1] - a[1], b[0] - a[0])) % 360 == pytest.approx(degrees % 360, abs=1e-6)
        or abs(degrees) > 179.99
        or abs(degrees) < 0.01
    )
    assert math.dist(m.canvas_px[0], m.canvas_px[1]) == pytest.approx(1920, rel=1e-3)
    box = cut_out(m)
    assert all(box.x <= px <= box.right and box.y <= py <= box.foot for px, py in m.canvas_px)


# -- projection: throw ratio = distance ÷ width; luminance = lumens × gain ÷ (π × area); SMPTE ST 431-1 (from memory) --


def screen(**more: object) -> Projection:
    one = Projector(
        id="a", name="A", width=1920, height=1080, lumens=12000, throw_min=1.2, throw_max=1.8, distance_mm=7200
    )
    fields = {
        "width_mm": 9000,
        "height_mm": 2700,
        "overlap_px": 240,
        "projectors": (one, one.model_copy(update={"id": "b", "name": "B"})),
    }
    return Projection(id="s", name="S", **(fields | more))  # type: ignore[arg-type]


def test_two_projectors_with_an_overlap() -> None:
    f = projection_facts(screen())
    assert f.canvas == (3600, 1080) and f.pixel_mm == 2.5 and f.across == (240, 600, 0.125) and f.down == (0, 0, 0)
    first = f.projectors[0]
    assert (
        first.size_mm == (4800, 2700)
        and first.distance_mm == (pytest.approx(5760), pytest.approx(8640))
        and first.fits_distance
    )
    assert picture_width(7200, 1.5) == 4800
    assert f.nits == pytest.approx(12000 / (math.pi * 4.8 * 2.7)) and f.nits_doubled == pytest.approx(2 * f.nits)
    assert f.nits_spread == pytest.approx(24000 / (math.pi * 9 * 2.7))
    assert footlamberts(48) == pytest.approx(14.0, abs=0.02)  # SMPTE ST 431-1: 48 cd/m² is 14 fL
    assert luminance(1000 * math.pi, 1.3, 1.0) == pytest.approx(1300)
    assert overlap_for_canvas((1920, 1920, 1920), 5280) == 240
    near = projection_facts(
        screen(projectors=tuple(p.model_copy(update={"distance_mm": 3000.0}) for p in screen().projectors))
    )
    assert near.projectors[0].fits_distance is False


@given(
    st.integers(1, 5),
    st.integers(1, 4),
    st.integers(1, 500),
    st.integers(1, 400),
    st.integers(800, 2560),
    st.integers(720, 1600),
    st.floats(2000, 40000),
)
def test_overlaps_of_any_grid_are_the_same_in_px_mm_per_cent_and_by_the_canvas(
    columns: int, rows: int, across: int, down: int, width: int, height: int, width_mm: float
) -> None:
    one = Projector(id="a", name="A", width=width, height=height, lumens=1000)
    grid = screen(
        overlap_px=across,
        overlap_down_px=down,
        rows=rows,
        width_mm=width_mm,
        projectors=tuple(one.model_copy(update={"id": f"p{n}"}) for n in range(columns * rows)),
    )
    f = projection_facts(grid)
    assert f.canvas == (columns * width - (columns - 1) * across, rows * height - (rows - 1) * down)
    for count, overlap, px, is_down in ((columns, f.across, across, False), (rows, f.down, down, True)):
        if count == 1:
            assert overlap == (0, 0, 0)
            continue
        assert overlap.px == px and overlap.mm == pytest.approx(px * width_mm / f.canvas[0])
        assert (
            overlap_px_from(overlap.mm, "mm", grid, is_down)
            == overlap_px_from(overlap.share * 100, "%", grid, is_down)
            == px
        )
        assert overlap_for_canvas(side_sizes(grid, is_down), f.canvas[is_down]) == px
    most = (2 if columns > 1 else 1) * (2 if rows > 1 else 1)
    wide = across * 2 <= width and down * 2 <= height  # else three meet
    assert not wide or f.nits_doubled == pytest.approx(most * f.nits)
    assert projection_facts(with_white(grid, 85.0)).nits == pytest.approx(85, rel=1e-4)


def test_four_projectors_600_mm_on_9_m_are_240_px_and_two_stacked_are_two() -> None:
    one = screen().projectors[0]
    four = screen(rows=2, overlap_down_px=108, projectors=tuple(one.model_copy(update={"id": i}) for i in "abcd"))
    assert overlap_px_from(600, "mm", four) == 240 and projection_facts(four).across.mm == 600
    assert four.pixels == (3600, 2052) and overlap_for_canvas(side_sizes(four), 3600) == 240
    stacked = screen(rows=2, overlap_down_px=540, height_mm=7593.75)
    f = projection_facts(stacked)
    assert (
        f.down == (540, 540 * 9000 / 1920, 0.5)
        and f.nits_doubled == pytest.approx(2 * f.nits)
        and f.canvas == (1920, 1620)
    )
    assert all(p.used_px == (1920, 1080) for p in f.projectors)


@pytest.mark.parametrize(
    ("lux", "enough"),
    [
        (0, "full-motion video"),
        (15, "analytical decisions"),
        (60, "basic decisions"),
        (110, "passive viewing"),
        (300, "too little for any viewing"),
    ],
)
def test_contrast_in_a_lit_room_falls_into_the_published_classes(lux: float, enough: str) -> None:
    # ANSI/INFOCOMM 3M-2011: 7:1, 15:1, 50:1, 80:1 (from memory); contrast = (white + room) ÷ (black + room)
    f = projection_facts(screen(room_lux=lux))
    room = lux / math.pi
    assert f.contrast == pytest.approx((f.nits + room) / (f.nits / 2000 + room)) and enough in f.viewing


def test_a_16_10_projector_on_a_16_9_screen_uses_a_part_of_its_raster() -> None:
    assert used_raster(1920, 1200, 16 / 9) == (1920, 1080) and used_raster(1400, 1050, 16 / 9) == (1400, 788)
    wide = Projector(id="a", name="A", width=1920, height=1200, lumens=10000)
    f = projection_facts(screen(width_mm=4000, height_mm=2250, overlap_px=0, projectors=(wide,)))
    assert f.projectors[0].used_px == (1920, 1080) and f.projectors[0].used_share == pytest.approx(0.9)
    assert f.nits == pytest.approx(10000 / (math.pi * 4.0 * 2.5)), "the light of the unused rows is spent too"


# -- binding -----------------------------------------------------------------------------------------------------------


def test_a_part_has_one_output_and_an_area_one_region(show: Show) -> None:
    meridian = fed_parts(show.surface("meridian"))[0]
    assert fed_by(show, meridian) == "processor-a"
    with pytest.raises(
        ShowError,
        match=r'Meridian: already takes its picture from 1 Processor A \(region "Meridian"\); unbind it there first'
        r"|Meridian: already takes",
    ):
        bound(show, "foyer", meridian)
    free = unbound(show, meridian)
    with pytest.raises(ShowError, match='is already taken by "Foyer wall"'):
        bound(free, "foyer", meridian)
    with pytest.raises(ShowError, match="its raster of 1024×768 px is smaller than Meridian, 1920×960"):
        bound(free, "processor-b", meridian)
    back = bound(free, "processor-a", meridian)
    assert fed_by(back, meridian) == "processor-a" and not faults_of(back)
    region = feeding(back, meridian)[0]
    assert tuple(landing_rect(region)) == (0, 0, 1920, 960) and (region.w, region.h) == (1920, 960)
    assert bound(back, "processor-a", meridian) is back
    with pytest.raises(ShowError, match='is already taken by "Foyer wall"'):
        rebound(show, "foyer", meridian)
    elsewhere = rebound(unbound(show, fed_parts(show.surface("foyer-wall"))[0]), "foyer", meridian)
    assert feeding(elsewhere, meridian)[0] == feeding(show, meridian)[0].model_copy(update={"output": "foyer"}), (
        "the same part of the canvas"
    )
    second = region.model_copy(update={"id": "again", "output": "foyer"})
    house = back.canvases[0]
    twice = back.model_copy(
        update={"canvases": (house.model_copy(update={"regions": (*house.regions, second)}), *back.canvases[1:])}
    )
    assert ["Meridian already takes its picture from Processor A" in f.what for f in faults_of(twice)] == [True]
    mirror = second.model_copy(update={"mirror": True})
    assert not faults_of(
        back.model_copy(
            update={"canvases": (house.model_copy(update={"regions": (*house.regions, mirror)}), *back.canvases[1:])}
        )
    )


@given(st.randoms(use_true_random=False))
def test_whatever_is_bound_in_whatever_order_no_area_is_given_twice(chance: random.Random) -> None:
    show = _masts()
    parts = [p for s in show.surfaces for p in fed_parts(s)]
    for _ in range(30):
        part, output = chance.choice(parts), chance.choice(show.outputs).id
        try:
            show = unbound(show, part) if chance.random() < 0.3 else bound(show, output, part)
        except ShowError:
            continue
    assert not faults_of(show)
    for output in show.outputs:
        rects = [landing_rect(r) for r in claims(show, output.id)]
        assert all(a.meet(b).empty for n, a in enumerate(rects) for b in rects[n + 1 :])
        assert all(r.right <= output.timing.width and r.foot <= output.timing.height for r in rects)


def _masts() -> Show:
    show = Show(
        name="Masts",
        outputs=[
            {"id": f"o{n}", "number": n, "name": f"O{n}", "timing": {"width": 1024, "height": 768}} for n in (1, 2)
        ],
    )
    for n in range(6):
        mast = wall(1 + n % 3, 2 + n % 2).model_copy(update={"id": f"w{n}", "name": f"W{n}"})
        show = with_item(show, "surfaces", mast)
    return show


def test_items_are_duplicated_reordered_renamed_and_removed(show: Show) -> None:
    twice = duplicated(show, "surfaces", "west-mast", "west-mast-2")
    assert [s.name for s in twice.surfaces][2:4] == ["West mast", "West mast 2"] and twice.surfaces[
        3
    ].place.x_mm == 2600 + 1000 + 200
    out = duplicated(show, "outputs", "lectern", "lectern-2").outputs[6]
    assert (out.number, out.binding, out.connector, out.mirrors) == (8, None, None, ()) and not faults_of(
        duplicated(show, "outputs", "lectern", "x")
    )
    assert next(o.id for o in moved_item(show, "outputs", "foyer", -9).outputs) == "foyer"
    gone = without_item(show, "surfaces", "meridian")
    assert not faults_of(gone) and not claims(gone, "processor-a")
    with pytest.raises(ShowError, match="Star trails: it is shown by preset"):
        without_item(show, "sources", "star-trails")
    with pytest.raises(ShowError, match="columns must be at least 1"):
        with_field(show.surface("meridian"), "columns", 0)
    with pytest.raises(ShowError, match="is already used by Processor A") as error:
        raise ShowError(faults_of(with_item(show, "outputs", with_field(show.output("foyer"), "connector", "Out 1"))))  # type: ignore[arg-type]
    assert "Out 1" in str(error.value)


def test_protected_sources_name_the_outputs_that_may_not_carry_them(show: Show) -> None:
    player = show.source("archive-player")
    assert isinstance(player, Input) and forbidden(show, player) == []
    house = show.canvases[0]
    layer = house.layers[0]
    shown = layer.model_copy(
        update={
            "settings": layer.settings.model_copy(
                update={"picture": layer.settings.picture.model_copy(update={"source": "archive-player"})}
            )
        }
    )
    lit = show.model_copy(
        update={"canvases": (house.model_copy(update={"layers": (shown, *house.layers[1:])}), *show.canvases[1:])}
    )
    assert [o.id for o in forbidden(lit, player)] == ["processor-a", "processor-b", "projector-left", "projector-right"]


def test_a_gang_and_a_full_card_in_the_rig_as_a_whole(show: Show) -> None:
    output = show.output("foyer")
    uhd = with_field(
        with_field(output, "timing", output.timing.model_copy(update={"width": 3840, "height": 2160})),
        "gang",
        Gang(columns=2, rows=1, connectors=("Out 5", "Out 8")),
    )
    halves = output_wires(uhd)  # type: ignore[arg-type]
    assert [(w.timing.h_active, w.timing.v_active, float(w.timing.clock_khz), w.load.fits) for w in halves] == [
        (1920, 2160, 277250, True)
    ] * 2
    over = with_item(
        show, "outputs", with_field(output, "timing", output.timing.model_copy(update={"width": 3840, "height": 2160}))
    )  # type: ignore
    assert not output_wires(over.output("foyer"))[0].load.fits
    assert card_loads(over)["card-b"].switch_off == ("Out 5",), "it is over the card alone; the others still fit"
    rig = rig_of(show)
    assert [s["id"] for s in rig["surfaces"]] == [s.id for s in show.surfaces]
    meridian = rig["surfaces"][1]
    assert (meridian["pixels"], meridian["mm"], meridian["output"], meridian["load"]["processor-a"][0]["fits"]) == (
        [1920, 960],
        [5000, 2500],
        "processor-a",
        True,
    )


def test_dragging_snaps_to_edges_middles_floor_and_walls(show: Show) -> None:
    assert hang_by(show, "meridian", 3, 2, 0) == (0.0, 0.0), "whole 10 mm"
    x, y = hang_by(show, "meridian", 21.0, -344.0, 60)
    assert (6500 + x, 350 + y) == (6500, 0), "under Horizon's middle, on the floor"
    assert 14400 + hang_by(show, "east-mast", 2590, 0, 60)[0] + 1000 == 18000


# -- tables ------------------------------------------------------------------------------------------------------------


def test_tables_go_out_and_come_back_unchanged(show: Show) -> None:
    for name in TABLES:
        assert pasted(show, name, as_tsv(show, name)) == show
        assert pasted(show, name, as_tsv(show, name).replace("\t", ",")) == show


def test_a_pasted_table_adds_walls_and_a_bad_one_changes_nothing(show: Show) -> None:
    head = "Name\tColumns\tRows\tcabinet_width_mm\tcabinet_height_mm\tcabinet_columns_px\tcabinet_rows_px\n"
    more = pasted(show, "led-walls", head + "Arch\t12\t2\t500\t500\t128\t128\nMeridian\t8\t5\t500\t500\t192\t192\n")
    assert more.surface("arch").pixels == (1536, 256) and more.surface("meridian").pixels == (1536, 960)
    assert len(more.surfaces) == len(show.surfaces) + 1
    for text, words in (
        (head.replace("\tRows", ""), 'no column "rows"'),
        ("", "is empty"),
        (head + "Arch\t12\n", "row 1: it has 2 of 7 columns"),
        (head + "Arch\t0\t2\t500\t500\t128\t128\n", "row 1: columns must be at least 1"),
        (head + "Arch\tten\t2\t500\t500\t128\t128\n", 'row 1, columns: "ten" is not a number'),
        (head + "Arch\t1.5\t2\t500\t500\t128\t128\n", "is not a whole number"),
    ):
        with pytest.raises(ShowError) as error:
            pasted(show, "led-walls", text)
        assert words in str(error.value)
    rate = next(c for c in TABLES["outputs"].columns if c.heading == "rate")
    assert with_cell(show, "outputs", "relay", rate, "25").output("relay").timing.rate == 25
    with pytest.raises(ShowError, match="rate must be at most 480"):
        with_cell(show, "outputs", "relay", rate, "900")
