"""Batches of LED cabinets: where they lie, what their tables do, and whether a wall of two deliveries becomes one."""

from __future__ import annotations

import warnings

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.light.batch_levels import Reading, batch_codes, gamma_of, matched, matching_gains
from ushering_adze.core.light.flatness import flatness_of
from ushering_adze.core.light.white import kelvin_to_xy, light_of_xyz, xyz_of_light
from ushering_adze.core.mapping.align_data import align_data, align_document, read_align_data, with_align_data
from ushering_adze.core.mapping.wall_batches import (
    batch_rects,
    cell_rects,
    wall_on_raster,
    with_batch,
    with_batches,
    with_changed_batch,
    with_others,
)
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Batch,
    Cell,
    LedWall,
    RectLanding,
    Show,
    ShowError,
    White,
    document_of,
    show_from_document,
)
from ushering_adze.core.show.edits import changed, with_region
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.offline import output_pictures, patterned
from ushering_adze.io.standins.wall import StandinWall

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

BT709 = colour.RGB_COLOURSPACES["ITU-R BT.709"]
LATE = [(c, r) for c in (8, 9, 10) for r in range(1, 6)]


def wall_of(show: Show, id: str = "meridian") -> LedWall:
    wall = show.surface(id)
    assert isinstance(wall, LedWall)
    return wall


def test_light_is_taken_apart_as_colour_science_does() -> None:
    for x, y, luminance in ((0.3127, 0.3290, 1000.0), (0.3457, 0.3585, 640.0), (0.29, 0.31, 12.0), (0.33, 0.30, 400.0)):
        xyz = colour.xyY_to_XYZ([x, y, luminance])
        theirs = np.linalg.solve(BT709.matrix_RGB_to_XYZ, xyz)
        assert light_of_xyz(x, y, luminance) == pytest.approx(theirs, rel=2e-3), (
            "their matrix is rounded to four places"
        )
        assert xyz_of_light(light_of_xyz(x, y, luminance)) == pytest.approx(xyz, rel=1e-9)


@settings(deadline=None, max_examples=60)
@given(
    st.lists(st.tuples(st.floats(50, 4000), st.floats(0.29, 0.35), st.floats(0.30, 0.36)), min_size=1, max_size=5),
    st.one_of(st.none(), st.sampled_from([5600.0, 6500.0, 9300.0])),
)
def test_matched_batches_give_one_white_and_give_up_no_more_light_than_they_must(
    given_: list[tuple[float, float, float]], kelvin: float | None
) -> None:
    readings = [Reading(*g) for g in given_]
    white = kelvin_to_xy(kelvin) if kelvin is not None else None
    gains = matching_gains(readings, white)
    lights = [light_of_xyz(r.x, r.y, r.luminance) * g for r, g in zip(readings, gains, strict=True)]
    xyz = [colour.XYZ_to_xyY(xyz_of_light(light)) for light in lights]
    wanted = white or (readings[0].x, readings[0].y)
    for found in xyz:
        assert found[:2] == pytest.approx(wanted, abs=1e-6) and found[2] == pytest.approx(xyz[0][2], rel=1e-6)
    assert max(max(g) for g in gains) == pytest.approx(1.0) and min(min(g) for g in gains) > 0


def test_readings_that_cannot_be_are_told() -> None:
    for readings, white, words in (
        ([Reading(0, 0.31, 0.33)], None, "reading 1 has a luminance of 0"),
        ([Reading(9, 0.31, 0.33), Reading(9, 0.7, 0.29)], None, "reading 2 lies outside"),
        ([Reading(9, 0.31, 0.33)], (0.1, 0.8), "wanted lies outside"),
    ):
        with pytest.raises(ValueError, match=words):
            matching_gains(readings, white)
    assert matching_gains([]) == []
    assert gamma_of(1000, 1000 * (128 / 255) ** 2.3) == pytest.approx(2.3)
    for white, grey, words in ((10, 12, "not between black"), (1000, 999, "would mean a gamma")):
        with pytest.raises(ValueError, match=words):
            gamma_of(white, grey)


def test_codes_of_a_batch_are_the_light_that_was_meant() -> None:
    """Light = code ** gamma, on both sides, computed here by itself."""
    cell = {"column": 1, "row": 1}
    batch = Batch(name="B", cells=[cell], gain=(0.9, 0.8, 0.7), offset=(0.01, 0, -0.01), gamma=2.4)
    codes = batch_codes(batch, 2.2)
    meant = (np.arange(256) / 255) ** 2.2
    for k, (gain, offset) in enumerate(zip(batch.gain, batch.offset, strict=True)):
        assert (codes[k] / 255) ** 2.4 == pytest.approx(np.clip(gain * meant + offset, 0, 1), abs=1e-12)
    warm = batch_codes(Batch(name="B", cells=[cell], white=White(x=0.3457, y=0.3585)), 2.2)[:, 255]
    assert warm[0] == 255 and warm[0] > warm[1] > warm[2]


@pytest.mark.parametrize(("turn", "flip"), [(0, False), (90, False), (180, True), (270, True)])
def test_cabinets_are_found_however_the_wall_lies_on_the_raster(turn: int, flip: bool) -> None:
    """Each cabinet's pixels of a canvas that numbers its cabinets land in the cabinet's rectangle of the raster, and
    nowhere else.
    """
    show = demo_show()
    region = next(r for _, r in show.regions() if r.surface == "west-mast")
    w, h = (region.h, region.w) if turn in (90, 270) else (region.w, region.h)
    show = with_region(
        show, region.model_copy(update={"landing": RectLanding(x=40, y=0, w=w, h=min(h, 768), turn=turn, flip=flip)})
    )
    region = next(r for _, r in show.regions() if r.surface == "west-mast")
    wall = wall_of(show, "west-mast")
    place = wall_on_raster(show, region)
    assert place is not None
    rects = cell_rects(wall, place)
    assert len(rects) == 12 and {(r.w, r.h) for r in rects.values()} == {(128, 128)}
    canvas = np.zeros((region.h, region.w), np.uint8)
    for column, row in rects:
        canvas[(row - 1) * 128 : row * 128, (column - 1) * 128 : column * 128] = 10 * row + column
    laid = np.rot90(canvas[:, ::-1] if flip else canvas, -turn // 90)
    raster = np.zeros((1100, 1100), np.uint8)
    raster[: laid.shape[0], 40 : 40 + laid.shape[1]] = laid
    for (column, row), rect in rects.items():
        assert (raster[rect.cut()] == 10 * row + column).all()
    joined = with_batch(show, wall, rects, "All")
    assert batch_rects(wall_of(joined, "west-mast"), wall_of(joined, "west-mast").batches[0], place) == [place.around]


def test_cabinets_missing_at_the_edge_do_not_shift_the_others() -> None:
    show = demo_show()
    wall = changed(wall_of(show), missing=tuple(Cell(column=1, row=r) for r in range(1, 6)))
    show = show.model_copy(update={"surfaces": tuple(wall if s.id == wall.id else s for s in show.surfaces)})
    region = next(r for _, r in show.regions() if r.surface == "meridian")
    show = with_region(
        show,
        region.model_copy(update={"x": region.x + 192, "w": 1728, "landing": RectLanding(x=192, y=0, w=1728, h=960)}),
    )
    place = wall_on_raster(show, next(r for _, r in show.regions() if r.surface == "meridian"))
    assert place is not None and cell_rects(wall, place)[2, 1] == Rect(192, 0, 192, 192)


def test_only_the_batch_changes_and_by_what_was_meant() -> None:
    show = demo_show()
    show = with_changed_batch(
        with_batch(show, wall_of(show), LATE, "Late"),
        wall_of(with_batch(show, wall_of(show), LATE, "Late")),
        "Late",
        gain=(0.8, 0.9, 0.7),
        gamma=2.35,
    )
    plain, made = (output_pictures(patterned(s, "grey"))["processor-a"] for s in (demo_show(), show))
    late = np.s_[:960, 7 * 192 : 1920]
    same = np.ones(plain.shape[:2], bool)
    same[late] = False
    assert np.array_equal(plain[same], made[same])
    meant = [255 * (g * (128 / 255) ** 2.2) ** (1 / 2.35) for g in (0.7, 0.9, 0.8)]
    mean = made[late][..., :3].reshape(240, 4, 144, 4, 3).mean((1, 3))
    assert np.abs(mean - meant).max() <= 1 / 32 + 1e-6, (
        "dithered, the mean of any 4 × 4 pixels is what was meant, to half a step of 16"
    )
    off = with_changed_batch(show, wall_of(show), "Late", on=False)
    assert compile_output(off, off.output("processor-a")).steps[0].finish is None


def test_a_wall_of_two_deliveries_becomes_one() -> None:
    """The stand-in wall as the outside eye: uneven before, even on white and grey after what a meter reads
    was laid on.
    """
    show = demo_show()

    def ripple(show: Show, pattern: str) -> float:
        seen = StandinWall(show, "meridian", 0.5).seen(output_pictures(patterned(show, pattern)))
        return flatness_of(seen.total, []).screen.ripple

    assert ripple(show, "white") > 0.08 and ripple(show, "grey") > 0.12
    show = with_others(
        with_batch(show, wall_of(show), LATE, "Late"), wall_of(with_batch(show, wall_of(show), LATE, "Late"))
    )
    eye = StandinWall(show, "meridian")
    batches = wall_of(show).batches
    assert [b.name for b in batches] == ["Late", "Others"]
    white, grey = ([eye.read([(c.column, c.row) for c in b.cells], code) for b in batches] for code in (255, 128))
    show = with_batches(show, wall_of(show), matched(batches, white, [g.luminance for g in grey]))
    assert ripple(show, "white") < 0.006 and ripple(show, "grey") < 0.006
    picture = StandinWall(show, "meridian", 0.5).seen(output_pictures(patterned(show, "white"))).picture
    assert np.ptp(picture[100:380, 60:900, :3].reshape(-1, 3).astype(int), 1).max() <= 2, "and white is neutral"


def test_edits_keep_each_cabinet_in_one_batch() -> None:
    show = demo_show()
    show = with_batch(show, wall_of(show), LATE, "A")
    show = with_batch(show, wall_of(show), LATE[:7], "B")
    assert [(b.name, len(b.cells)) for b in wall_of(show).batches] == [("A", 8), ("B", 7)]
    show = with_batch(show, wall_of(show), LATE[7:], "C")
    assert [b.name for b in wall_of(show).batches] == ["B", "C"], "a batch without cabinets goes"
    whole = with_others(show, wall_of(show))
    assert sum(len(b.cells) for b in wall_of(whole).batches) == 50
    assert with_others(whole, wall_of(whole)) is whole
    for act, words in (
        (lambda: with_batch(show, wall_of(show), [], "D"), "no cabinet is selected"),
        (lambda: with_batch(show, wall_of(show), [(1, 1)], "B"), 'two batches are called "B"'),
        (lambda: with_changed_batch(show, wall_of(show), "Z", gain=(1, 1, 1)), 'no batch "Z"'),
        (lambda: with_changed_batch(show, wall_of(show), "B", gamma=9), "gamma must be at most 5"),
    ):
        with pytest.raises(ShowError, match=words):
            act()


@pytest.mark.parametrize(
    ("batches", "words"),
    [
        ([{"name": "A", "cells": [{"column": 11, "row": 1}]}], 'cabinet 11/1 of batch "A" is not on a wall of 10 × 5'),
        (
            [{"name": "A", "cells": [{"column": 1, "row": 1}]}, {"name": "B", "cells": [{"column": 1, "row": 1}]}],
            'is in batch "A" and in "B"',
        ),
    ],
)
def test_batches_of_a_document_that_cannot_be_are_told(batches: list[dict], words: str) -> None:
    document = document_of(demo_show())
    wall = next(s for s in document["surfaces"] if s["id"] == "meridian")
    wall["batches"] = batches
    with pytest.raises(ShowError, match=words):
        show_from_document(document)


def test_batches_belong_to_the_alignment_of_their_wall() -> None:
    plain = demo_show()
    show = with_batch(plain, wall_of(plain), LATE, "Late")
    data = read_align_data(align_document(show, "meridian"))
    assert data == align_data(show, "meridian") and data.batches[0].name == "Late"
    assert with_align_data(plain, data) == show
    assert show_from_document(document_of(show)) == show
