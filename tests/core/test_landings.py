"""Landings: random exact mappings against NumPy slicing, turns and flips against np.rot90, regions of whole
surfaces.
"""

from __future__ import annotations

import random

import numpy as np
import pytest

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.displays.led import cabinet_pixel, hung_cabinets
from ushering_adze.core.displays.monitors import hung_monitors
from ushering_adze.core.document.entry import EntryError
from ushering_adze.core.mapping.from_surface import (
    canvas_sizes,
    placed_as_hung,
    placed_side_by_side,
    surface_pieces,
    whole_rects,
    with_surface_regions,
    without_canvas,
)
from ushering_adze.core.mapping.lands import (
    landed_as_drawn,
    landed_centred,
    landed_packed,
    mirrored_on,
    offset_told,
    one_to_one,
    scale_words,
    to_output,
    turned,
)
from ushering_adze.core.mapping.orient import (
    oriented,
    placed_on_canvas,
    placed_on_raster,
    turned_rect,
    unoriented,
    unturned_rect,
)
from ushering_adze.core.mapping.regions import (
    added,
    arranged,
    duplicated,
    moved,
    rect_of,
    reflected_copies,
    shared_value,
    with_groups,
    with_regions,
    with_typed,
    without_regions,
)
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.picture.steps import blank_raster, lay_step
from ushering_adze.core.plane.arrange import box_around
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Cabinet,
    Canvas,
    LedWall,
    MonitorWall,
    Output,
    Projection,
    Projector,
    QuadLanding,
    RectLanding,
    Region,
    Show,
    ShowError,
    Timing,
)
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import demo_show

TURNS = [(flip, turn) for flip in (False, True) for turn in (0, 90, 180, 270)]


def numpy_turn(picture: np.ndarray, flip: bool, turn: int) -> np.ndarray:
    """The reference: NumPy's own flip and quarter turns (counter-clockwise, so the other way round)."""
    return np.rot90(picture[:, ::-1] if flip else picture, -turn // 90)


def rendered(show: Show, canvas: np.ndarray, output: str) -> np.ndarray:
    plan = compile_output(show, show.output(output))
    raster = blank_raster(plan)
    for step in plan.steps:
        lay_step(step, plan, np.ascontiguousarray(canvas[step.take.cut()]), raster)
    return raster


def show_of(regions: list[Region], width: int, height: int, raster: tuple[int, int]) -> Show:
    return Show(
        name="S",
        canvases=(Canvas(id="c", name="C", width=width, height=height, regions=tuple(regions)),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=raster[0], height=raster[1], rate=60)),),
    )


def test_random_exact_mappings_equal_numpy_slicing_bit_for_bit() -> None:
    rng, made = random.Random(11), np.random.default_rng(11)
    for _ in range(120):
        width, height = rng.randrange(40, 200), rng.randrange(40, 160)
        rw, rh = rng.randrange(40, 220), rng.randrange(40, 220)
        canvas = made.integers(0, 256, (height, width, 4), dtype=np.uint8)
        canvas[..., 3] = 255
        expected = np.zeros((rh, rw, 4), np.uint8)
        expected[..., 3] = 255
        regions = []
        for n in range(rng.randrange(1, 7)):
            w, h = rng.randrange(1, 70), rng.randrange(1, 70)
            x, y = rng.randrange(-20, width), rng.randrange(-20, height)
            flip, turn = rng.choice(TURNS)
            lw, lh = (h, w) if turn in (90, 270) else (w, h)
            lx, ly = rng.randrange(-30, rw), rng.randrange(-30, rh)
            regions.append(
                Region(
                    id=f"r{n}",
                    name="R",
                    x=x,
                    y=y,
                    w=w,
                    h=h,
                    output="o",
                    landing=RectLanding(x=lx, y=ly, w=lw, h=lh, flip=flip, turn=turn),
                )
            )
            # Reference: the region cut out of a canvas with a margin that says "nothing", turned, and laid down pixel
            # by pixel.
            margin = np.zeros((height + 200, width + 200, 5), np.uint8)
            margin[100 : 100 + height, 100 : 100 + width, :4] = canvas
            margin[100 : 100 + height, 100 : 100 + width, 4] = 1
            cut = numpy_turn(margin[100 + y : 100 + y + h, 100 + x : 100 + x + w], flip, turn)
            for v in range(max(0, -ly), min(lh, rh - ly)):
                for u in range(max(0, -lx), min(lw, rw - lx)):
                    if cut[v, u, 4]:
                        expected[ly + v, lx + u] = cut[v, u, :4]
        assert (rendered(show_of(regions, width, height, (rw, rh)), canvas, "o") == expected).all()


@pytest.mark.parametrize(("flip", "turn"), TURNS)
def test_turned_and_flipped_landings_equal_numpy(flip: bool, turn: int) -> None:
    picture = np.random.default_rng(turn + flip).integers(0, 256, (37, 61, 4), dtype=np.uint8)
    picture[..., 3] = 255
    expected = numpy_turn(picture, flip, turn)
    assert (oriented(picture, flip, turn) == expected).all()
    assert (unoriented(np.ascontiguousarray(expected), flip, turn) == picture).all()
    landing = RectLanding(x=3, y=5, w=expected.shape[1], h=expected.shape[0], flip=flip, turn=turn)
    region = Region(id="r", name="R", x=0, y=0, w=61, h=37, output="o", landing=landing)
    assert region.exact
    raster = rendered(show_of([region], 61, 37, (90, 90)), picture, "o")
    assert (raster[5 : 5 + expected.shape[0], 3 : 3 + expected.shape[1]] == expected).all()
    for x, y in ((0, 0), (60, 36), (13, 7)):
        u, v = placed_on_raster(landing, Rect(0, 0, 61, 37), x, y)
        assert (raster[v, u] == picture[y, x]).all(), "the pixel told is the pixel lit"
        assert placed_on_canvas(landing, Rect(0, 0, 61, 37), u, v) == (x, y)
    part = Rect(4, 9, 20, 11)
    lies = turned_rect(part, 61, 37, flip, turn)
    assert (expected[lies.cut()] == numpy_turn(picture[part.cut()], flip, turn)).all()
    assert unturned_rect(lies, 61, 37, flip, turn) == part


@pytest.mark.parametrize(("flip", "turn"), TURNS)
def test_scaled_and_turned_landings_are_the_scaled_picture_turned(flip: bool, turn: int) -> None:
    y, x = np.mgrid[0:40, 0:60]
    picture = np.dstack([x * 4, y * 6, (x + y) * 2, np.full_like(x, 255)]).astype(np.uint8)
    w, h = (80, 120) if turn in (90, 270) else (120, 80)
    region = Region(
        id="r",
        name="R",
        x=0,
        y=0,
        w=60,
        h=40,
        output="o",
        landing=RectLanding(x=0, y=0, w=w, h=h, flip=flip, turn=turn),
    )
    plain = region.model_copy(update={"landing": RectLanding(x=0, y=0, w=120, h=80)})
    straight = rendered(show_of([plain], 60, 40, (120, 80)), picture, "o")
    raster = rendered(show_of([region], 60, 40, (w, h)), picture, "o")
    assert np.abs(raster.astype(int) - numpy_turn(straight, flip, turn)).max() <= 1
    off = region.model_copy(
        update={"landing": RectLanding(x=-9, y=-7, w=w, h=h, flip=flip, turn=turn)}
    )  # partly off: by maps, not by resizing
    cut = rendered(show_of([off], 60, 40, (w - 30, h - 30)), picture, "o")
    assert (
        np.abs(
            cut[6:-6, 6:-6].astype(int) - raster[13 : h - 29, 15 : w - 27][: cut.shape[0] - 12, : cut.shape[1] - 12]
        ).max()
        <= 3
    )


# -- many regions at once ----------------------------------------------------------------------------------------------


def six() -> Show:
    show = show_of([], 1200, 400, (1200, 400))
    show, _ = added(
        show,
        "c",
        [Rect(10 + n * 100, 20, 80, 200) for n in range(3)],
        "o",
        [f"Banner {n}" for n in (1, 2, 3)],
        ["#AA3322"] * 3,
    )
    return show


def test_new_regions_land_one_to_one_at_free_places() -> None:
    show = six()
    regions = show.canvases[0].regions
    assert all(r.exact for r in regions) and [r.landing.x for r in regions] == [0, 80, 160]
    assert [r.name for r in regions] == ["Banner 1", "Banner 2", "Banner 3"] and regions[0].colour == "#AA3322"
    with pytest.raises(ShowError, match="w must be at least 1"):
        added(show, "c", [Rect(0, 0, -3, 5)], "o")


def test_copies_are_named_on_land_free_and_mirror_exactly() -> None:
    show, new = reflected_copies(six(), ["banner-1", "banner-2", "banner-3"], "across")
    by_id = {r.id: r for _, r in show.regions()}
    assert [by_id[i].name for i in new] == ["Banner 4", "Banner 5", "Banner 6"]
    for a, b in zip(("banner-1", "banner-2", "banner-3"), new, strict=True):
        assert by_id[a].x == 1200 - by_id[b].x - by_id[b].w and by_id[a].y == by_id[b].y
    lands = [landing_rect(r) for r in by_id.values()]
    assert all(a.meet(b).empty for n, a in enumerate(lands) for b in lands[n + 1 :])
    show, grid = duplicated(show, ["banner-1"], 3, 2, 90, 205)
    assert [(r.x, r.y) for _, r in show.regions() if r.id in grid] == [
        (100, 20),
        (190, 20),
        (10, 225),
        (100, 225),
        (190, 225),
    ]
    same, copy = duplicated(show, ["banner-1"])
    assert rect_of(next(r for _, r in same.regions() if r.id == copy[0])) == Rect(10, 20, 80, 200), "in place"
    with pytest.raises(ShowError, match="copies"):
        duplicated(show, ["banner-1"], 0, 4)
    turned_show = turned(six(), ["banner-1"], 90, True)
    turned_show, made = duplicated(turned_show, ["banner-1"])
    landing = next(r for _, r in turned_show.regions() if r.id == made[0]).landing
    assert (landing.turn, landing.flip, landing.w, landing.h) == (90, True, 200, 80), (
        "copies land turned as their originals"
    )


def test_one_field_of_many_regions_is_worked_out_for_each() -> None:
    show, ids = six(), ["banner-1", "banner-2", "banner-3"]
    values = lambda s, f: [getattr(r, f) for _, r in s.regions()]  # noqa: E731
    assert values(with_typed(show, ids, "x", "+50"), "x") == [60, 160, 260]
    assert values(with_typed(show, ids, "x", "100+n*320"), "x") == [100, 420, 740]
    wide = with_typed(show, ids, "w", "w/2")
    assert values(wide, "w") == [40] * 3 and all(r.exact for _, r in wide.regions()), "what is one to one stays so"
    assert values(with_typed(show, ids, "h", "50%"), "h") == [200, 200, 200]
    assert [r.landing.x for _, r in with_typed(show, ids, "lands x", "*2").regions()] == [0, 160, 320]
    assert shared_value(show.canvases[0].regions, "y") == 20 and shared_value(show.canvases[0].regions, "x") is None
    with pytest.raises(EntryError, match="whole pixels"):
        with_typed(show, ids, "x", "w/3")
    with pytest.raises(ShowError, match="cannot be"):
        with_typed(show, ids, "w", "0")
    bent = with_regions(
        show,
        {
            "banner-1": show.canvases[0]
            .regions[0]
            .model_copy(update={"landing": QuadLanding(corners=((0, 0), (80, 0), (80, 200), (0, 200)))})
        },
    )
    with pytest.raises(EntryError, match="Align"):
        with_typed(bent, ids, "lands x", "5")


def test_groups_move_as_one_and_are_arranged_as_one() -> None:
    show = six()
    grouped = with_regions(show, {r.id: r.model_copy(update={"group": "G1"}) for r in show.canvases[0].regions[:2]})
    assert with_groups(grouped, ["banner-1"]) == ["banner-1", "banner-2"]
    assert [r.x for _, r in moved(grouped, ["banner-2"], 5, 0).regions()] == [15, 115, 210]
    boxes = []
    arranged(grouped, ["banner-1", "banner-3"], lambda r: boxes.append(list(r)) or r)
    assert boxes == [[Rect(10, 20, 180, 200), Rect(210, 20, 80, 200)]]


def test_landings_packed_drawn_centred_and_told() -> None:
    show, ids = six(), ["banner-1", "banner-2", "banner-3"]
    drawn = landed_as_drawn(show, ids)
    assert [landing_rect(r)[:2] for _, r in drawn.regions()] == [(0, 0), (100, 0), (200, 0)]
    centred = landed_centred(drawn, ids)
    box = box_around([landing_rect(r) for _, r in centred.regions()])
    assert box == Rect(460, 100, 280, 200) and offset_told(centred, ids).startswith(
        "280×200 at 460, 100 of 1200×400; free left 460, right 460"
    )
    assert landed_packed(centred, ids) == show
    scaled = with_typed(show, ["banner-1"], "lands w", "*1.5")
    region = scaled.canvases[0].regions[0]
    assert scale_words(scaled, region) == "×1.5 across, ×1 down, resampled" and not region.exact
    assert scale_words(show, one_to_one(scaled, ids).canvases[0].regions[0]) == "1 px = 1 px, not scaled"
    around = turned(turned(show, ids, by=90), ids, by=270)
    assert around == show, "a quarter on and a quarter back"
    assert "turned 90°" in scale_words(show, turned(show, ids, 90).canvases[0].regions[0])


def test_moving_to_another_output_and_mirrors() -> None:
    show = demo_show()
    away = to_output(show, ["west-mast", "east-mast"], "processor-a")
    assert not faults_of(away)
    lands = [landing_rect(r) for _, r in away.regions() if r.output == "processor-a"]
    assert len(lands) == 3
    mirrored, made = mirrored_on(show, ["meridian"], "foyer")
    mirror = next(r for _, r in mirrored.regions() if r.id == made[0])
    assert mirror.mirror and mirror.output == "foyer" and mirror.surface == "meridian" and not faults_of(mirrored)
    two = with_regions(show, {"meridian": show.canvas("house").regions[2].model_copy(update={"h": 480})})
    two, ids = added(two, "house", [Rect(1096, 1560, 1920, 480)], "processor-a")
    lower = next(r for _, r in two.regions() if r.id == ids[0]).model_copy(update={"surface": "meridian"})
    two = with_regions(two, {lower.id: lower})
    with pytest.raises(ShowError, match="select both"):
        to_output(two, ["meridian"], "foyer")


# -- from what is rigged -----------------------------------------------------------------------------------------------

FINE = Cabinet(width_mm=500, height_mm=500, columns_px=128, rows_px=128)


def test_missing_cabinets_leave_holes_and_nothing_else() -> None:
    rng = random.Random(8)
    for _ in range(60):
        columns, rows = rng.randrange(1, 9), rng.randrange(1, 9)
        cells = [(c, r) for c in range(1, columns + 1) for r in range(1, rows + 1)]
        gone = set(rng.sample(cells, rng.randrange(0, len(cells))))
        blocks = whole_rects([c for c in cells if c not in gone])
        covered = [(c, r) for x, y, w, h in blocks for c in range(x, x + w) for r in range(y, y + h)]
        assert sorted(covered) == sorted(set(cells) - gone), "every cabinet once"
        wall = LedWall(
            id="w",
            name="W",
            cabinet=FINE,
            columns=columns,
            rows=rows,
            missing=[{"column": c, "row": r} for c, r in gone],
        )
        lit = {tuple(h.px) for h in hung_cabinets(wall)}
        pieces = surface_pieces(wall)
        if gone:
            assert sum(p.on_canvas.area for p in pieces) == sum(Rect(*px).area for px in lit)
        for p in pieces:
            assert (
                landing_rect(Region(id="r", name="R", **p.on_canvas._asdict(), output="o", landing=p.landing))
                == p.on_canvas
            )


def test_the_picture_goes_on_behind_a_gap_or_closes_up() -> None:
    wall = LedWall(id="w", name="W", cabinet=FINE, columns=4, rows=2, gaps=[{"after": 2, "mm": 100}])
    behind, closed = surface_pieces(wall, True), surface_pieces(wall, False)
    assert [tuple(p.on_canvas) for p in closed] == [(0, 0, 512, 256)]
    gap = round(100 / (500 / 128))  # gap in mm ÷ pitch
    assert [tuple(p.on_canvas) for p in behind] == [(0, 0, 256, 256), (256 + gap, 0, 256, 256)]
    assert [p.landing.x for p in behind] == [0, 256], "on the raster there is no gap"


def test_a_scattered_monitor_cuts_its_turned_rectangle_out_of_the_canvas() -> None:
    wall = MonitorWall(
        id="m",
        name="M",
        columns=2,
        rows=1,
        active_width_mm=640,
        active_height_mm=360,
        monitor_width=320,
        monitor_height=180,
        feed_width=640,
        feed_height=180,
        each=True,
        scattered=[{"x_mm": 500, "y_mm": 500, "degrees": 20}, {"x_mm": 1300, "y_mm": 600, "degrees": 0}],
    )
    outputs = tuple(
        Output(id=f"o{n}", number=n, name=f"O{n}", timing=Timing(width=320, height=180, rate=60)) for n in (1, 2)
    )
    show = Show(
        name="S", surfaces=(wall,), outputs=outputs, canvases=(Canvas(id="c", name="C", width=1000, height=500),)
    )
    show, ids = with_surface_regions(show, "m", "c", "o1")
    assert not faults_of(show) and len(ids) == 2
    y, x = np.mgrid[0:500, 0:1000]
    canvas = np.dstack([x // 4, y // 2, x * 0, x * 0 + 255]).astype(np.uint8)
    raster = rendered(show, canvas, "o1")
    hung = hung_monitors(wall)[0]
    (x0, y0), (x1, y1), _, (x3, y3) = hung.canvas_px
    for u, v in ((20, 20), (160, 90), (300, 160)):
        a, b = (u + 0.5) / 320, (v + 0.5) / 180
        wanted = (x0 + a * (x1 - x0) + b * (x3 - x0), y0 + a * (y1 - y0) + b * (y3 - y0))
        got = raster[v, u].astype(float)
        assert abs(got[0] - (wanted[0] - 0.5) / 4) <= 1 and abs(got[1] - (wanted[1] - 0.5) / 2) <= 1, (
            "the pixel under the monitor's own pixel"
        )
    straight = rendered(show, canvas, "o2")
    at = surface_pieces(wall)[1].on_canvas
    assert np.abs(straight.astype(int) - canvas[at.cut()][:180, :320]).max() <= 1


def test_monitors_hung_by_ninety_degrees_get_their_picture_turned_the_other_way() -> None:
    wall = MonitorWall(
        id="m",
        name="M",
        columns=2,
        rows=1,
        active_width_mm=640,
        active_height_mm=360,
        monitor_width=32,
        monitor_height=18,
        feed_width=64,
        feed_height=18,
        each=True,
        turned=True,
    )
    pieces = surface_pieces(wall)
    assert [tuple(p.on_canvas) for p in pieces] == [(0, 0, 18, 32), (18, 0, 18, 32)]
    outputs = tuple(
        Output(id=f"o{n}", number=n, name=f"O{n}", timing=Timing(width=32, height=18, rate=60)) for n in (1, 2)
    )
    show = Show(name="S", surfaces=(wall,), outputs=outputs, canvases=(Canvas(id="c", name="C", width=36, height=32),))
    show, _ = with_surface_regions(show, "m", "c", "o1")
    picture = np.random.default_rng(0).integers(0, 256, (32, 36, 4), dtype=np.uint8)
    raster = rendered(show, picture, "o2")
    assert (np.rot90(raster, -1) == picture[:, 18:]).all(), (
        "seen on the monitor, turned clockwise as it hangs, it is upright"
    )


def test_projectors_overlap_as_rigged_and_surfaces_keep_their_outputs() -> None:
    show = demo_show()
    again, ids = with_surface_regions(show, "horizon", "house", "processor-a", (256, 0))
    regions = {r.id: r for _, r in again.regions()}
    assert [(regions[i].output, *rect_of(regions[i])) for i in ids] == [
        ("projector-left", 256, 0, 1920, 1080),
        ("projector-right", 1936, 0, 1920, 1080),
    ]
    assert not faults_of(again)
    wide = Projection(
        id="s",
        name="S",
        width_mm=9000,
        height_mm=2700,
        overlap_px=100,
        projectors=tuple(Projector(id=f"p{n}", name=f"P{n}", width=1920, height=1080) for n in range(3)),
    )
    assert [p.on_canvas.x for p in surface_pieces(wide)] == [0, 1820, 3640]
    full = show.model_copy(update={"surfaces": (*show.surfaces, wide)})
    with pytest.raises(ShowError, match="no output has 1920×1080 px free"):
        with_surface_regions(full, "s", "house", "processor-a")


def test_surfaces_side_by_side_and_as_they_hang() -> None:
    show = demo_show()
    masts = ["west-mast", "east-mast"]
    beside = placed_side_by_side(show, ["meridian", *masts])
    regions = {r.id: r for _, r in beside.regions()}
    assert (
        regions["west-mast"].x + 256 == regions["meridian"].x and regions["meridian"].x + 1920 == regions["east-mast"].x
    )
    assert regions["west-mast"].x == 4112 - regions["east-mast"].x - 256, "the block stands in the middle"
    hung = placed_as_hung(show, masts)
    regions = {r.id: r for _, r in hung.regions()}
    pitch = 500 / 128
    assert regions["east-mast"].x - regions["west-mast"].x == round((14400 - 2600) / pitch), (
        "millimetres between them ÷ pitch"
    )
    with pytest.raises(ShowError, match="hang"):
        placed_as_hung(show, ["west-mast"])


def test_sizes_that_follow_from_what_is_rigged() -> None:
    sizes = {s.words: (s.width, s.height) for s in canvas_sizes(demo_show())}
    assert sizes["2 projectors less 12.5 % overlap (Horizon)"] == (3600, 1080)
    assert (
        sizes["size of Meridian"] == (1920, 960)
        and sizes["2×1 of 1920×1080"] == (3840, 1080)
        and sizes["UHD"] == (3840, 2160)
    )
    fewer = without_canvas(demo_show(), "foyer")
    assert not faults_of(fewer) and "foyer" not in {p.canvas for preset in fewer.presets for p in preset.parts}
    assert len(list(without_regions(demo_show(), ["relay"]).regions())) == 7


def test_the_cabinet_under_a_pixel() -> None:
    wall = LedWall(
        id="w",
        name="W",
        cabinet=FINE,
        columns=3,
        rows=2,
        missing=[{"column": 2, "row": 2}],
        others={"cabinet": FINE.model_copy(update={"width_mm": 250, "columns_px": 64}), "columns": [2]},
    )
    assert cabinet_pixel(wall, 127, 0) == (1, 1, 127, 0) and cabinet_pixel(wall, 128, 130) is None
    assert cabinet_pixel(wall, 191, 5) == (2, 1, 63, 5) and cabinet_pixel(wall, 192, 255) == (3, 2, 0, 127)
    assert cabinet_pixel(wall, 320, 0) is None and cabinet_pixel(wall, -1, 0) is None
