"""The pixel check: a clean show has nothing, each planted fault is found with its pixels, and its cure takes
it away.
"""

from __future__ import annotations

import random

import pytest

from ushering_adze.core.displays.binding import landing_rect
from ushering_adze.core.mapping.from_surface import with_surface_regions
from ushering_adze.core.mapping.lands import mirrored_on, one_to_one
from ushering_adze.core.mapping.regions import placed, rect_of, with_regions, without_regions
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.proof import Finding, pixel_check
from ushering_adze.core.proof.laid import laid_out
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
    RoomPlace,
    Show,
    Timing,
)
from ushering_adze.demo.show import demo_show

CABINET = Cabinet(width_mm=500, height_mm=500, columns_px=100, rows_px=100)


def wall(id: str, x_mm: float, columns: int, rows: int) -> LedWall:
    return LedWall(
        id=id, name=id.upper(), cabinet=CABINET, columns=columns, rows=rows, place=RoomPlace(x_mm=x_mm, foot_mm=0)
    )


def clean() -> Show:
    """Two masts left and right of a wall, all touching, on three outputs that they fill: not one pixel is amiss."""
    surfaces = (wall("left", 0, 2, 6), wall("middle", 1000, 8, 6), wall("right", 5000, 2, 6))
    outputs = tuple(
        Output(id=f"o{n}", number=n, name=f"O{n}", timing=Timing(width=w, height=600, rate=60))
        for n, w in ((1, 200), (2, 800), (3, 200))
    )
    regions = tuple(
        Region(
            id=s.id,
            name=s.name,
            x=x,
            y=0,
            w=s.pixels[0],
            h=600,
            output=f"o{n}",
            surface=s.id,
            landing=RectLanding(x=0, y=0, w=s.pixels[0], h=600),
        )
        for n, (s, x) in enumerate(zip(surfaces, (0, 200, 1000), strict=True), 1)
    )
    return Show(
        name="Clean",
        surfaces=surfaces,
        outputs=outputs,
        canvases=(Canvas(id="c", name="C", width=1200, height=600, regions=regions),),
    )


def put(show: Show, id: str, **fields: object) -> Show:
    region = next(r for _, r in show.regions() if r.id == id)
    return with_regions(show, {id: region.model_copy(update=fields)})


def of(show: Show, rule: str) -> list[Finding]:
    return [f for f in pixel_check(show) if f.rule == rule]


def test_a_clean_show_has_nothing_and_the_demo_only_notes() -> None:
    assert pixel_check(clean()) == []
    assert {(f.rule, f.severity) for f in pixel_check(demo_show())} == {("unfed", "note"), ("unseen", "note")}


@pytest.mark.parametrize("px", [1, 2, 8])
def test_a_gap_is_found_with_its_columns_and_closed(px: int) -> None:
    show = placed(clean(), {"right": Rect(1000 + px, 0, 200, 600)})
    (finding,) = of(show, "gap")
    assert finding.where.rect == Rect(1000, 0, px, 600) and finding.where.regions == ("middle", "right")
    assert finding.message.startswith(f"{px} px between MIDDLE and RIGHT") and finding.severity == "warning"
    assert of(finding.cures[0].edit(show), "gap") == []
    assert of(finding.cures[1].edit(show), "gap") == []
    assert of(placed(clean(), {"right": Rect(1009, 0, 200, 600)}), "gap") == [], "wider ones are meant"


@pytest.mark.parametrize("px", [1, 5])
def test_an_overlap_is_found_with_its_columns(px: int) -> None:
    show = placed(clean(), {"left": Rect(px, 0, 200, 600)})
    (finding,) = of(show, "overlap")
    assert finding.where.rect == Rect(200, 0, px, 600) and finding.where.regions == ("left", "middle")
    assert ("column 200 of C" if px == 1 else "columns 200 to 204 of C") in finding.message
    assert of(finding.cures[1].edit(show), "overlap") == [], "made smaller"
    assert {f.where.regions for f in of(finding.cures[0].edit(show), "overlap")} == {("middle", "right")}, (
        "moved, it meets the next"
    )


def test_gaps_and_overlaps_between_rows_too_and_none_where_another_shows_the_strip() -> None:
    show = clean()
    lower = Region(
        id="low", name="LOW", x=0, y=601, w=1200, h=99, output="o1", landing=RectLanding(x=0, y=0, w=1200, h=99)
    )
    taller = show.canvases[0].model_copy(update={"height": 700, "regions": (*show.canvases[0].regions, lower)})
    grown = show.model_copy(update={"canvases": (taller,)})
    assert {f.where.rect for f in of(grown, "gap")} == {
        Rect(0, 600, 200, 1),
        Rect(200, 600, 800, 1),
        Rect(1000, 600, 200, 1),
    }
    strip = lower.model_copy(
        update={"id": "strip", "name": "STRIP", "y": 600, "h": 1, "landing": RectLanding(x=0, y=0, w=1200, h=1)}
    )
    both = grown.model_copy(
        update={"canvases": (grown.canvases[0].model_copy(update={"regions": (*grown.canvases[0].regions, strip)}),)}
    )
    assert of(both, "gap") == []


def test_blend_overlaps_and_pixels_behind_edges_are_meant() -> None:
    screen = Projection(
        id="s",
        name="S",
        width_mm=9000,
        height_mm=2700,
        overlap_px=6,
        projectors=tuple(Projector(id=f"p{n}", name=f"P{n}", width=400, height=300) for n in (1, 2)),
    )
    monitors = MonitorWall(
        id="m",
        name="M",
        columns=2,
        rows=2,
        active_width_mm=1000,
        active_height_mm=500,
        edge_mm=5,
        monitor_width=400,
        monitor_height=200,
        feed_width=800,
        feed_height=400,
        hide=True,
        each=True,
    )
    outputs = tuple(
        Output(id=f"o{n}", number=n, name=f"O{n}", timing=Timing(width=400, height=300, rate=60)) for n in range(1, 9)
    )
    show = Show(
        name="S",
        surfaces=(screen, monitors),
        outputs=outputs,
        canvases=(Canvas(id="c", name="C", width=2000, height=900),),
    )
    show, _ = with_surface_regions(show, "s", "c", "o1")
    show, ids = with_surface_regions(show, "m", "c", "o3", (0, 400))
    regions = {r.id: r for _, r in show.regions()}
    assert regions[ids[1]].x - regions[ids[0]].x - 400 == 4, "two edges of 5 mm at 2.5 mm a pixel"
    assert of(show, "overlap") == [] and of(show, "gap") == []
    off = placed(show, {ids[1]: rect_of(regions[ids[1]]).moved(1, 0)})
    assert {f.where.rect.w for f in of(off, "gap")} == {5}, "but a pixel more is not"


def test_swapped_regions_are_named_and_swapped_back() -> None:
    show = clean()
    swapped = placed(show, {"left": Rect(1000, 0, 200, 600), "right": Rect(0, 0, 200, 600)})
    (finding,) = of(swapped, "swapped")
    assert "LEFT hangs left of RIGHT" in finding.message and finding.where.regions == ("left", "right")
    assert finding.where.rect == Rect(0, 0, 1200, 600)
    assert pixel_check(finding.cures[0].edit(swapped)) == []
    demo = demo_show()
    crossed = placed(demo, {"horizon-left": Rect(1936, 0, 1920, 1080), "horizon-right": Rect(256, 0, 1920, 1080)})
    assert len(of(crossed, "swapped")) == 1, "projectors count from the left"


def test_half_a_cabinet_is_named_and_made_whole() -> None:
    show = put(clean(), "middle", x=200, w=750, landing=RectLanding(x=0, y=0, w=750, h=600))
    (finding,) = of(show, "part-cabinet")
    assert "MIDDLE ends 50 px into column 8 of MIDDLE’s cabinets, which is 100 px" in finding.message
    assert finding.where.rect == Rect(900, 0, 50, 600)
    cured = finding.cures[0].edit(show)
    assert of(cured, "part-cabinet") == [] and cured.canvases[0].regions[1].w in (700, 800)
    rows = put(clean(), "left", h=530, landing=RectLanding(x=0, y=0, w=200, h=530))
    assert "ends 30 px into row 6" in of(rows, "part-cabinet")[0].message


def test_a_region_of_another_size_than_the_surface_is_told_and_made_anew() -> None:
    show = put(clean(), "middle", w=700, landing=RectLanding(x=0, y=0, w=700, h=600))
    (finding,) = of(show, "size")
    assert "MIDDLE is 800×600 px as it is rigged, and what lands for it is 700×600 px" in finding.message
    assert pixel_check(finding.cures[0].edit(show)) == []


def test_a_double_claim_is_an_error_with_its_pixels_and_mirrors_count_too() -> None:
    show = put(clean(), "left", output="o2", landing=RectLanding(x=150, y=20, w=200, h=600))
    (finding,) = of(show, "claimed-twice")
    assert (
        finding.severity == "error" and finding.where.on == "output" and finding.where.rect == Rect(150, 20, 200, 580)
    )
    assert of(show, "off-raster")[0].where.rect == Rect(150, 20, 200, 600)
    assert of(finding.cures[1].edit(show), "claimed-twice") == []
    mirrored, _ = mirrored_on(clean(), ["left"], "o3")
    assert of(mirrored, "claimed-twice"), "a mirror on a full raster"


def test_regions_off_the_canvas_and_off_the_raster() -> None:
    show = placed(clean(), {"right": Rect(1001, 0, 200, 600)})
    (finding,) = of(show, "off-canvas")
    assert "reaches 1 px right past C: 600 px of it show nothing" in finding.message and finding.severity == "error"
    assert [c.words for c in finding.cures] == ["Move it inside", "Enlarge the canvas"]
    assert of(finding.cures[0].edit(show), "off-canvas") == [] and of(finding.cures[1].edit(show), "off-canvas") == []
    lands = put(clean(), "left", landing=RectLanding(x=-3, y=0, w=200, h=600))
    assert "lands 3 px left past the raster of 1 O1" in of(lands, "off-raster")[0].message
    assert pixel_check(of(lands, "off-raster")[0].cures[0].edit(lands)) == []
    away = placed(clean(), {"left": Rect(-500, 0, 200, 600)})
    assert "lies wholly off" in of(away, "off-canvas")[0].message


def test_scaling_is_told_until_it_is_said_to_be_meant() -> None:
    show = put(clean(), "left", w=198, x=2)
    (finding,) = of(show, "scaled")
    assert "198×600 px of C land on 200×600 px" in finding.message
    assert [of(cure.edit(show), "scaled") for cure in finding.cures] == [[], [], []]
    assert one_to_one(show, ["left"]).canvases[0].regions[0].landing.w == 198


@pytest.mark.parametrize(("dx", "dy"), [(1, 0), (-1, 0), (0, 1), (3, -2)])
def test_asymmetry_by_a_pixel_is_told_and_cured(dx: int, dy: int) -> None:
    wide = Canvas(id="c", name="C", width=1300, height=700)
    show = clean().model_copy(
        update={
            "canvases": (
                wide.model_copy(
                    update={
                        "regions": tuple(
                            r.model_copy(
                                update={"x": r.x + 50 - 25 * (r.id == "left") + 25 * (r.id == "right"), "y": 50}
                            )
                            for r in clean().canvases[0].regions
                        )
                    }
                ),
            )
        }
    )
    assert of(show, "asymmetric") == []
    off = placed(show, {"right": rect_of(show.canvases[0].regions[2]).moved(dx, dy)})
    (finding,) = of(off, "asymmetric")
    assert finding.where.regions == ("left", "right") and finding.where.rect == rect_of(off.canvases[0].regions[2])
    assert ("1 px too far right" in finding.message) == ((dx, dy) == (1, 0))
    assert of(finding.cures[0].edit(off), "asymmetric") == []


def test_what_nearly_stands_in_the_middle() -> None:
    show = placed(clean(), {"middle": Rect(202, 0, 800, 600)})
    (finding,) = of(show, "asymmetric")
    assert "MIDDLE stands 2 px right of the middle of C" in finding.message
    assert pixel_check(finding.cures[0].edit(show)) == []


def test_surfaces_with_no_region_areas_nobody_feeds_and_areas_nobody_shows() -> None:
    show = without_regions(clean(), ["middle"])
    (finding,) = of(show, "no-region")
    assert finding.message == "MIDDLE shows nothing: no region feeds it" and finding.where.on == "surface"
    assert of(show, "unfed")[0].message == "2 O2: nothing lands on it"
    assert of(show, "unseen")[0].where.rect == Rect(200, 0, 800, 600)
    cured = finding.cures[0].edit(show)
    assert next(r for _, r in cured.regions() if r.surface == "middle").output == "o2", "on the output that is free"
    notes = pixel_check(demo_show())
    assert next(f for f in notes if f.where.id == "processor-a").where.rect == Rect(0, 960, 1920, 120)


def test_of_quads_only_their_place_is_checked_and_errors_come_first() -> None:
    show = put(clean(), "left", landing=QuadLanding(corners=((-20, 0), (200, 0), (200, 640), (0, 600))))
    found = [
        f for f in pixel_check(show) if f.rule in ("off-raster", "scaled", "size", "part-cabinet", "claimed-twice")
    ]
    assert [(f.rule, f.severity) for f in found] == [("off-raster", "warning")] and "20 px left, 40 px below" in found[
        0
    ].message
    bad = placed(placed(clean(), {"right": Rect(1001, 0, 200, 600)}), {"left": Rect(-1, 0, 200, 600)})
    assert [f.severity for f in pixel_check(bad)] == sorted(
        (f.severity for f in pixel_check(bad)), key=["error", "warning", "note"].index
    )
    assert Finding("a", "note", "m", pixel_check(bad)[0].where).as_dict()["where"]["on"] == "canvas"


def test_random_shifts_of_one_region_are_always_found() -> None:
    rng = random.Random(5)
    for _ in range(150):
        show, id, by = clean(), rng.choice(["left", "middle", "right"]), rng.choice([-8, -5, -2, -1, 1, 2, 4, 8])
        region = next(r for _, r in show.regions() if r.id == id)
        found = pixel_check(placed(show, {id: rect_of(region).moved(by, 0)}))
        assert found and all(f.where.rect is None or f.where.rect.w > 0 for f in found)
        widths = {f.where.rect.w for f in found if f.rule in ("gap", "overlap")}
        assert widths == {abs(by)}


def test_many_regions_are_checked_alike_in_blocks() -> None:
    """The same faults in a map of 1 200 regions: all of them, and no others."""
    rng = random.Random(3)
    grid = {(c, r): Rect(c * 50, r * 50, 50, 50) for c in range(40) for r in range(30)}
    shifted = rng.sample(sorted(grid), 12)
    regions = tuple(
        Region(
            id=f"r{c}-{r}",
            name=f"R{c}/{r}",
            x=at.x,
            y=at.y,
            w=50,
            h=50,
            output="o",
            landing=RectLanding(x=at.x + (7 if (c, r) in shifted[:6] else 0), y=at.y, w=50, h=50),
        )
        for (c, r), at in grid.items()
    )
    show = Show(
        name="Many",
        canvases=(Canvas(id="c", name="C", width=2000, height=1500, regions=regions),),
        outputs=(Output(id="o", number=1, name="O", timing=Timing(width=2007, height=1500, rate=60)),),
    )
    claimed = {f.where.regions for f in of(show, "claimed-twice")}
    expected = set()
    lands = {r.id: landing_rect(r) for r in regions}
    for a in regions:
        for b in regions:
            if a.id < b.id and not lands[a.id].meet(lands[b.id]).empty:
                expected.add((a.id, b.id))
    assert {tuple(sorted(pair)) for pair in claimed} == expected
    assert len(laid_out(show).regions) == 1200
