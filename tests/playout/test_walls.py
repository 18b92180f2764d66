"""Walls of pictures: what is painted into their cells, and tallies that are true."""

from __future__ import annotations

import json
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from ushering_adze.core.exchange.cue_words import action_from_words, action_words
from ushering_adze.core.onair.actions import Arrange, Recall, RunCode, StagePreset, Unstage, apply, fault_of
from ushering_adze.core.onair.document import stage_document, stage_from
from ushering_adze.core.picture.probing import probed
from ushering_adze.core.picture.walls import (
    AMBER,
    BAR,
    DARK_RED,
    GAP,
    GREEN,
    RED,
    TEAL,
    CellNow,
    blank_wall,
    cell_rect,
    paint_cell,
    picture_rect,
)
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Feed, Input, Show, Still, document_of, show_from_document
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.show.timecode import Chase
from ushering_adze.core.show.wall import TEMPLATES, Wall, WallCell, template_cells, wall_faults
from ushering_adze.core.show.walling import (
    Side,
    filled,
    with_alike,
    with_box,
    with_cell,
    with_edge,
    with_new_wall,
    with_template,
    with_wall,
    without_wall,
)
from ushering_adze.core.sound.metering import height_of
from ushering_adze.demo.show import demo_show
from ushering_adze.playout import Playout
from ushering_adze.playout.captions import CaptionsNow
from ushering_adze.playout.cells import Cells
from ushering_adze.playout.report import Report
from waiting import wait_for

SIDES: tuple[Side, ...] = ("left", "right", "top", "bottom")


@pytest.mark.parametrize("name", TEMPLATES)
def test_templates_cover_their_grid_once(name: str) -> None:
    columns, rows, cells = template_cells(name)
    wall = Wall(id="w", name="W", columns=columns, rows=rows, cells=cells)
    assert list(faults_of(Show(name="S", walls=(wall,)))) == []
    covered = np.zeros((wall.height, wall.width), int)
    for cell in cells:
        covered[cell_rect(wall, cell).cut()] += 1
    assert (covered == 1).all()


@given(
    st.integers(1, 4000),
    st.integers(1, 4000),
    st.integers(1, 7),
    st.integers(1, 7),
    st.integers(0, 6),
    st.integers(0, 6),
)
@settings(deadline=None, max_examples=60)
def test_a_picture_lies_whole_and_in_its_shape_within_its_cell(
    width: int, height: int, columns: int, rows: int, x: int, y: int
) -> None:
    wall = Wall(id="w", name="W", columns=columns, rows=rows)
    rect = cell_rect(wall, WallCell(x=x % columns, y=y % rows))
    at = picture_rect(rect, (width, height))
    assert rect.holds(at) and at.w >= 1 and at.h >= 1
    if min(at.w, at.h) > 20:
        assert at.w / at.h == pytest.approx(width / height, rel=0.05)


def test_a_cell_is_painted_with_its_picture_and_its_tally() -> None:
    wall = Wall(id="w", name="W", columns=2, rows=2, cells=template_cells("2 × 2")[2])
    raster, grey = blank_wall(wall), np.full((90, 160, 4), 180, np.uint8)
    for n, now in enumerate(
        (
            CellNow(grey, "Camera", "", program=True, preview=True),
            CellNow(grey, "Slides", "", preview=True),
            CellNow(None, "Nothing", "lost", wrong=True),
            CellNow(words="20:00:00"),
        )
    ):
        paint_cell(raster, cell_rect(wall, wall.cells[n]), now, wall.cells[n].model_copy(update={"marks": n == 1}))
    quarters = [raster[cell_rect(wall, c).cut()] for c in wall.cells]
    has = lambda n, colour: bool((quarters[n] == colour).all(-1).any())  # noqa: E731
    assert has(0, RED) and not has(0, GREEN), "what is on program is red, whatever is on preview"
    assert has(1, GREEN) and not has(1, RED) and not has(2, RED) and not has(2, GREEN)
    assert (quarters[0][200, 480, :3] == 180).all() and not (quarters[2][200, 480, :3] == 180).all()
    assert quarters[3][150:380, 200:760, :3].max() > 200, "words in place of a picture"
    assert (raster[..., 3] == 255).all()


def test_walls_are_edited_and_kept_in_the_document() -> None:
    show, id = with_new_wall(demo_show(), "4 × 4", "sources")
    wall = show.wall(id)
    assert [c.of for c in wall.cells][:3] == ["slides", "notes", "roof-camera"] and len(wall.cells) == 16
    smaller = with_template(wall, "one large and five")
    assert [c.of for c in smaller.cells] == [c.of for c in wall.cells[:6]]
    few = filled(show, smaller, "outputs")
    assert [c.shows for c in few.cells] == ["output"] * 6
    show = with_cell(with_wall(show, few), id, 0, shows="surface", of="relay", label="Stream", marks=True)
    assert show_from_document(document_of(show)).wall(id).cells[0].label == "Stream"
    assert without_wall(show, id).walls == demo_show().walls
    over = wall.model_copy(update={"cells": (WallCell(x=0, y=0, w=2), WallCell(x=1, y=0), WallCell(x=3, y=3, h=4))})
    words = [f.what for f in faults_of(Show(name="S", walls=(over,)))]
    assert words == [
        "it lies over another cell of Wall; move one of them",
        "a cell of Wall lies outside its 4 × 4 grid; make it smaller",
    ]


@pytest.fixture
def playout() -> Iterator[tuple[Playout, list[Report]]]:
    reports: list[Report] = []
    made = Playout(demo_show(), reports.append)
    made.start(wait=60)
    yield made, reports
    made.stop()


def test_tallies_of_the_running_show_are_what_is_painted(playout: tuple[Playout, list[Report]]) -> None:
    """For every preset: red is exactly the sources that surfaces truly show."""
    running, reports = playout
    show, id = with_new_wall(demo_show(), "4 × 4", "sources")
    running.edit(show)
    running.watch(id)
    wall = show.wall(id)
    assert wait_for(lambda: running.wall is not None and bool(reports))

    def tallies(colour: tuple[int, int, int, int]) -> set[str]:
        assert running.wall is not None
        pixels = running.wall.pixels.copy()
        found = set()
        for cell in wall.cells:
            rect = cell_rect(wall, cell)
            if (pixels[rect.y + 1 : rect.y + 4, rect.x : rect.right] == colour).all(-1).any():
                found.add(cell.of)
        return found

    watched = {c.of for c in wall.cells}
    for number in (1, 3, 5, 6, 7, 90):
        running.act(Recall(preset=number, seconds=0))
        assert wait_for(lambda n=number: running.stage.on_program == n)

        def true(number: int = number) -> bool:
            on = {id for told in reports[-1].surfaces.values() for id in told.source_ids}
            return reports[-1].stage.on_program == number and tallies(RED) == on & watched

        assert wait_for(true), number
    running.act(StagePreset(preset=7))
    assert wait_for(lambda: "moon-phases" in tallies(GREEN))
    running.act(Recall(preset=7, seconds=0))
    assert wait_for(lambda: "moon-phases" in tallies(RED) and "moon-phases" not in tallies(GREEN))
    running.watch(None)
    assert wait_for(lambda: running.wall is None)


def test_a_wall_is_laid_out_as_another_one_by_an_action(playout: tuple[Playout, list[Report]]) -> None:
    """Wherever it is shown; it stays itself in the show, and goes back; what it is laid out like may go."""
    running, _ = playout
    show, one = with_new_wall(demo_show(), "2 × 2", "sources")
    show, other = with_new_wall(show, "one large and five")
    cells = (WallCell(x=0, y=0, w=2, h=2, shows="text", label="Interval"), *show.wall(other).cells[1:])
    show = with_wall(show, show.wall(other).model_copy(update={"cells": cells}))
    running.edit(show)
    running.watch(other)
    assert wait_for(lambda: running.wall is not None and running.wall.wall == other and running.wall.serial > 2)
    wanted = running.wall.pixels.copy()
    running.act(Arrange(wall=one, like=other))
    running.watch(one)
    assert wait_for(lambda: running.wall is not None and running.wall.wall == one)
    assert wait_for(lambda: bool((running.wall.pixels == wanted).all()))
    stage = running.stage
    assert stage.layouts == {one: other} and running.stage.show.wall(one) == show.wall(one)
    again = stage_from(json.loads(json.dumps(stage_document(stage, 1.0))), show, 5.0)
    assert again.layouts == {one: other}
    assert apply(without_wall(show, other), stage, Unstage(), 2.0).layouts == {}
    assert fault_of(show, Arrange(wall="gone")).startswith('no wall "gone"; ')
    running.act(Arrange(wall=one))
    assert wait_for(lambda: not running.stage.layouts and not (running.wall.pixels == wanted).all())
    for words in (f"wall {show.wall(one).name} as {show.wall(other).name}", f"wall {show.wall(one).name}"):
        assert action_words(action_from_words(words, show), show) == words
    running.watch(None)


def test_who_holds_a_wall_is_not_written_into_and_every_cell_goes_on(playout: tuple[Playout, list[Report]]) -> None:
    """A source, the surfaces that show it and what leaves change in each picture; one that is held stays as it was."""
    running, _ = playout
    show = demo_show()
    region = show.feeds_of("horizon")[0]
    canvas = next(c.id for c in show.canvases if region in c.regions)
    kinds = [("source", "star-trails"), ("output", region.output), ("surface", "horizon"), ("canvas", canvas)]
    cells = tuple(
        WallCell.model_validate({"x": n % 2, "y": n // 2, "shows": kind, "of": of})
        for n, (kind, of) in enumerate(kinds)
    )
    # a box over two cells whose words never change: it is painted again with what lies under it
    over = WallCell(x=0, y=0, box=(300, 200, 360, 60), shows="text", label="Interval")
    wall = Wall(id="w", name="W", columns=2, rows=2, width=960, height=540, cells=(*cells, over))
    running.edit(with_wall(show, wall))
    running.act(Recall(preset=5, seconds=0))
    running.watch("w")
    assert wait_for(lambda: running.wall is not None and running.wall.serial > 2)
    box: NDArray[np.uint8] | None = None

    def parts(pixels: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
        made = pixels.copy()
        made[200:260, 300:660] = 0
        return [made[cell_rect(wall, c).cut()] for c in cells]

    for _ in range(3):
        held = running.wall
        assert held is not None
        before = held.pixels.copy()
        assert wait_for(
            lambda h=held, b=before: (
                all(not (x == y).all() for x, y in zip(parts(b), parts(running.wall.pixels), strict=True))
                and running.wall.serial > h.serial + 6
            )
        )
        assert (held.pixels == before).all()
        now = before[200:260, 300:660]
        assert box is None or (now == box).all()
        box = now


def test_meters_stand_beside_a_picture_or_over_it() -> None:
    """A bar for each channel, as high as its level; beside it the picture is smaller, and whole."""
    picture = np.full((90, 160, 4), 200, np.uint8)
    rect = Rect(0, 0, 480, 300)
    levels = (0.0, -9.0, -18.0, -120.0)
    for meters in ("inside", "beside"):
        wall = np.zeros((300, 480, 4), np.uint8)
        cell = WallCell(x=0, y=0, meters=meters)
        paint_cell(wall, rect, CellNow(picture, "A", channels=levels), cell)
        bare = np.zeros((300, 480, 4), np.uint8)
        paint_cell(bare, rect, CellNow(picture, "A"), cell)
        white = (wall[..., :3] == 200).all(-1)
        if meters == "beside":
            assert white.any(0).sum() < (bare[..., :3] == 200).all(-1).any(0).sum()
            assert abs(white.any(0).sum() / white.any(1).sum() - 16 / 9) < 0.03, "in its shape"
        lit = (
            (wall[..., :3] == TEAL[:3]).all(-1)
            | (wall[..., :3] == RED[:3]).all(-1)
            | (wall[..., :3] == AMBER[:3]).all(-1)
        )
        lit[: GAP + 4] = lit[-40:] = False  # without the edge and the name
        heights = [int(n) for n in lit[:, 4:-4].sum(0) if n]
        high = max(heights)
        told = [heights[0]] + [b for a, b in pairwise(heights) if a != b]
        for level, seen in zip(levels, told, strict=False):
            assert abs(seen - height_of(level) * high) <= 3, (meters, level)
        assert len(told) == 3, "a silent one has no bar"
        of = Wall(id="w", name="W", columns=1, rows=1, width=480, height=300, cells=(cell,))
        xs, ys = np.flatnonzero(white.any(0)), np.flatnonzero(white.any(1))
        first = probed(of, cell, picture, xs[0] + 0.5, ys[0] + 0.5, len(levels))
        assert first is not None and (first.x, first.y) == (0, 0)
        behind = probed(of, cell, picture, xs[-1] + 1.5 if meters == "beside" else 479.5, 150, len(levels))
        assert behind is None, "beside the picture there is no pixel"


@given(st.sampled_from(TEMPLATES), st.lists(st.tuples(st.integers(0, 15), st.sampled_from(SIDES), st.integers(-1, 6))))
@settings(deadline=None, max_examples=60)
def test_edges_that_are_dragged_leave_no_gap_and_cover_nothing(
    template: str, drags: list[tuple[int, Side, int]]
) -> None:
    columns, rows, cells = template_cells(template)
    wall = Wall(id="w", name="W", columns=columns, rows=rows, cells=cells)
    for n, side, to in drags:
        wall = with_edge(wall, n % len(cells), side, to)
        assert not list(wall_faults((wall,)))
        assert sum(c.w * c.h for c in wall.cells) == columns * rows, "all of the wall is some cell's"


def test_cells_are_marked_alike_and_free_boxes_lie_over_the_grid() -> None:
    show, id = with_new_wall(demo_show(), "2 × 2", "sources")
    show = with_cell(show, id, 0, marks=True, guides="thirds", colour="#5AB4BD", label="One")
    assert [c.marks for c in with_alike(show, id, 0).wall(id).cells] == [True, True, False, False]
    alike = with_alike(show, id, 0, whole=True).wall(id).cells
    assert {(c.marks, c.guides, c.colour) for c in alike} == {(True, "thirds", "#5AB4BD")} and alike[1].label == ""
    free = with_box(show, id, 3, (1800, 1000, 400, 300)).wall(id)
    assert free.cells[3].box == (1520, 780, 400, 300), "kept within the wall"
    assert cell_rect(free, free.cells[3]).holds(Rect(1520, 780, 400, 300)) and not list(wall_faults((free,)))
    assert with_box(with_wall(show, free), id, 3, None).wall(id) == show.wall(id)
    outside = WallCell(x=0, y=0, box=(1900, 0, 100, 100))
    told = [f.what for f in wall_faults((free.model_copy(update={"cells": (outside,)}),))]
    assert told == ["a box of Wall lies outside its 1920 × 1080; make it smaller"]


def test_guides_and_edges_are_painted_and_pixels_are_told_as_they_are() -> None:
    grey = np.full((90, 160, 4), 60, np.uint8)
    grey[45, 80] = (10, 200, 30, 255)
    plain, ruled = np.zeros((270, 480, 4), np.uint8), np.zeros((270, 480, 4), np.uint8)
    rect = Rect(0, 0, 480, 270)
    cell = WallCell(x=0, y=0, w=16, h=16, guides="thirds", colour="#5AB4BD")
    paint_cell(plain, rect, CellNow(grey, "A"))
    paint_cell(ruled, rect, CellNow(grey, "A"), cell)
    at = picture_rect(rect, (160, 90))
    lines = [int(x) for x in np.flatnonzero((ruled[at.y + 5] != plain[at.y + 5]).any(-1)) if at.x < x < at.right - 1]
    assert lines == [at.x + round(at.w / 3), at.x + round(at.w * 2 / 3)]
    assert (ruled[1, 200] == (0xBD, 0xB4, 0x5A, 255)).all()
    wall = Wall(id="w", name="W", width=480, height=270, columns=16, rows=16, cells=(cell,))
    found = probed(wall, cell, grey, at.x + at.w * 80.5 / 160, at.y + at.h * 45.5 / 90)
    assert found is not None and (found.x, found.y, found.colour) == (80, 45, (30, 200, 10))
    assert found.words.startswith("x 80  y 45 of 160 × 90   R 30  G 200  B 10")
    assert probed(wall, cell, grey, 1, 1) is None and probed(wall, cell, grey, at.right + 1, 100) is None


def test_a_cell_tells_the_timecode_of_a_list_and_what_is_wrong() -> None:
    show = demo_show()
    evening = show.lists[0].model_copy(update={"code": Chase(rate="25")})
    cells = (WallCell(x=0, y=0, shows="timecode", of=evening.id), WallCell(x=1, y=0, shows="alarms"))
    wall = Wall(id="w", name="W", columns=2, rows=1, width=960, height=270, cells=cells)
    lost = Still(id="gone", name="Gone", path="/nowhere/none.png")
    show = with_wall(
        show.model_copy(update={"lists": (evening, *show.lists[1:]), "sources": (*show.sources, lost)}), wall
    )
    reports: list[Report] = []
    playout = Playout(show, reports.append, devices=False)
    playout.start(wait=0)
    try:
        playout.watch("w")
        assert wait_for(lambda: playout.wall is not None and bool(reports))
        shown = Cells(playout._engine, wall, CaptionsNow(playout._engine))

        def words(n: int) -> str:
            return shown.now(show, reports[-1])[n].words

        assert wait_for(lambda: words(0) == "no code"), "nothing runs yet"
        playout.act(RunCode(on=True, seconds=3600))
        assert wait_for(lambda: words(0).startswith("01:00:0"))
        first = words(0)
        assert wait_for(lambda: words(0) > first), "it goes on"
        assert wait_for(lambda: "Gone" in words(1))

        playout.acknowledge()
        assert wait_for(lambda: words(1) == "Nothing new")
    finally:
        playout.stop()
    raster = np.zeros((270, 480, 4), np.uint8)
    sentence = "Relay: it is black though Aisle camera is on it"
    paint_cell(raster, Rect(0, 0, 480, 270), CellNow(words=sentence, alarm=True))
    assert (raster[10:220, 10:470] == DARK_RED).all(-1).mean() > 0.4, "on red"
    rows = np.flatnonzero((raster[:230, :, :3].min(axis=2) > 150).any(axis=1))
    assert (np.diff(rows) > 4).any(), "in more than one line"
    assert not (raster[:230, :5, :3].min(axis=2) > 150).any(), "within the cell"


def test_names_are_written_where_a_cell_says_and_a_far_end_is_seen() -> None:
    grey, rect = np.full((180, 320, 4), 180, np.uint8), Rect(0, 0, 320, 240)
    bars: dict[str, set[int]] = {}
    for line in ("under", "over", "large", "none"):
        raster = np.zeros((240, 320, 4), np.uint8)
        paint_cell(raster, rect, CellNow(grey, "Camera"), WallCell(x=0, y=0, line=line))
        bars[line] = set(np.flatnonzero((raster[:, 290, :3] == BAR[:3]).all(-1)).tolist())
    assert min(bars["under"]) > 200 and max(bars["over"]) < 40 and not bars["none"]
    assert len(bars["large"]) == 2 * len(bars["under"])
    demo = demo_show()
    far = Input(id="far", name="Far", width=640, height=360)
    feed = Feed(id="out", name="Relay", shows="surface", of="relay", to="udp://127.0.0.1:9", heard_by="far")
    show = demo.model_copy(update={"sources": (*demo.sources, far), "feeds": (feed,)})
    cell = WallCell(x=0, y=0, shows="far", of="out")
    wall = Wall(id="w", name="W", columns=1, rows=1, width=640, height=360, cells=(cell,))
    playout = Playout(with_wall(show, wall), devices=False)
    playout.start(wait=0)
    try:
        playout.watch("w")

        def seen() -> bool:
            painted = playout.wall
            return painted is not None and bool(painted.pixels[40:280, 60:580, :3].max() > 100)

        assert wait_for(seen), "what comes back is on the wall, though it is nowhere on air"
    finally:
        playout.stop()
