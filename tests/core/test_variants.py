"""Presets made from others, their table, finishes, and a show from nothing."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ushering_adze.core.exchange import part_table
from ushering_adze.core.exchange.preset_table import COLUMNS, as_tsv, cell, pasted, way_from, way_words, with_cell
from ushering_adze.core.kinds.colour import ColourSettings
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import LayerSettings, Show, ShowError, with_held
from ushering_adze.core.show.finish import finish_of, laid
from ushering_adze.core.show.fresh import Wish, fresh_show, pixels_from, size_from
from ushering_adze.core.show.shelved import by_group, in_group, matching
from ushering_adze.core.show.show import document_of, faults_of, show_from_document
from ushering_adze.core.show.variants import (
    copied,
    found,
    free_number_after,
    merged,
    preset_of,
    renumbered,
    sources_of_preset,
    split,
    variant,
    with_preset,
    with_replaced_source,
    without_presets,
)
from ushering_adze.core.show.way import Way
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.offline import output_pictures, rendered
from ushering_adze.engine.tables import tables_of_show
from ushering_adze.io.showfile import absolute, portable

SHOW = demo_show()


def in_preset(show: Show, number: int, settings: LayerSettings) -> Show:
    """The show with a preset that has the colours of these settings on all that it touches."""

    preset = preset_of(show, number)
    parts = (with_held(p, "colour", settings.colour) for p in preset.parts)
    return with_preset(show, preset.model_copy(update={"parts": tuple(parts)}))


def named(show: object, number: int) -> set[str]:
    return {s for p in show.preset(number).parts for _, s in p.named()}  # type: ignore[attr-defined]


def test_a_variant_differs_in_one_source_and_keeps_all_else() -> None:
    assert sources_of_preset(SHOW, 6)["house", "wall"] == "aisle-camera"
    fresh = free_number_after(SHOW, 6)
    show = variant(SHOW, 6, "aisle-camera", "orrery", fresh)
    old, new = SHOW.preset(6), show.preset(fresh)
    assert old is not None and new is not None and not faults_of(show)
    assert named(show, fresh) == {("orrery" if s == "aisle-camera" else s) for s in named(SHOW, 6)}
    assert (new.seconds, new.clears, len(new.parts)) == (old.seconds, old.clears, len(old.parts))
    for a, b in zip(old.parts, new.parts, strict=True):
        assert [(k, h.how, h.seconds) for _, k, h in a.held] == [(k, h.how, h.seconds) for _, k, h in b.held]
    with pytest.raises(ShowError, match="taken"):
        variant(SHOW, 6, "aisle-camera", "orrery", 5)
    everywhere = with_replaced_source(SHOW, [5, 6], "slides", "notes")
    assert "slides" not in named(everywhere, 5) | named(everywhere, 6)
    assert everywhere.preset(3) == SHOW.preset(3)


def test_presets_are_copied_merged_split_renumbered_found_and_removed() -> None:
    assert copied(SHOW, 5, 50).preset(50).parts == SHOW.preset(5).parts  # type: ignore[union-attr]
    both = merged(SHOW, [5, 20], 60, "Both")
    one = Stage.opened(both).recall(60, 0.0, cut=True).program.target
    two = Stage.opened(SHOW).recall(5, 0.0, cut=True).recall(20, 1.0, cut=True).program.target
    touched = {(p.canvas, p.layer) for p in both.preset(60).parts}  # type: ignore[union-attr]
    assert all(one[key] == two[key] for key in touched)
    parted = split(SHOW, 5, ["relay"], 61)
    assert {p.canvas for p in parted.preset(61).parts} == {"relay"}  # type: ignore[union-attr]
    assert "relay" not in {p.canvas for p in parted.preset(5).parts}  # type: ignore[union-attr]
    with pytest.raises(ShowError, match="would be empty"):
        split(SHOW, 5, ["no-canvas"], 62)
    moved = renumbered(SHOW, {5: 55, 6: 5})
    assert moved.preset(55).name == SHOW.preset(5).name and moved.preset(5).name == SHOW.preset(6).name  # type: ignore[union-attr]
    assert moved.opening == (55 if SHOW.opening == 5 else SHOW.opening)
    with pytest.raises(ShowError, match="two presets"):
        renumbered(SHOW, {5: 6})
    assert [p.number for p in found(SHOW, "moon")] and all("moon" in str(p).lower() for p in found(SHOW, "moon"))
    gone = without_presets(SHOW, [5, 90])
    assert gone.preset(5) is None and gone.opening != 5 and not faults_of(gone)


@pytest.mark.parametrize(
    "way",
    [
        None,
        Way(kind="cut"),
        Way(kind="dip", colour="#204060"),
        Way(kind="wipe", form="blinds", angle=45, count=5, soft=0.1),
        Way(kind="wipe", form="picture", source="moon-phases", soft=0.3),
        Way(kind="push", angle=180),
        Way(kind="zoom"),
    ],
)
def test_transitions_survive_their_words(way: Way | None) -> None:
    assert way_from(way_words(way)) == way


def test_the_table_changes_many_at_once_and_comes_back_from_a_spreadsheet() -> None:
    show = with_cell(SHOW, [5, 6, 7], "seconds", "*2")
    assert [show.preset(n).seconds for n in (5, 6, 7)] == [2 * SHOW.preset(n).seconds for n in (5, 6, 7)]  # type: ignore[union-attr]
    show = with_cell(show, [5, 6], "transition", "wipe 90° soft 0.1")
    assert show.preset(6).way == Way(kind="wipe", angle=90, soft=0.1)  # type: ignore[union-attr]
    show = with_cell(show, [5], "transition", "wipe picture of moon-phases")
    show = with_cell(show, [5], "clears", "House, relay")
    assert show.preset(5).clears == ("house", "relay")  # type: ignore[union-attr]
    show = with_cell(show, [5], "curve", "bezier(0.3, 0, 0.7, 1)")
    assert pasted(show, as_tsv(show)) == show, "out and in again it is the same"
    assert pasted(SHOW, as_tsv(show)).presets == show.presets
    more = pasted(SHOW, "number\tname\tseconds\n300\tNew one\t2,5\n")
    assert more.preset(300).seconds == 2.5 and cell(more, more.preset(300), "name") == "New one"  # type: ignore[union-attr, arg-type]
    assert [c for c in COLUMNS if c == "number"]
    for column, text, why in (
        ("seconds", "soon", "is not known here"),
        ("transition", "twirl", "is no transition; there are cut, dissolve"),
        ("transition", "wipe sideways", "is no number for angle"),
        ("transition", "wipe picture of nobody", "there is no source .nobody"),
        ("clears", "Attic", "there is no canvas"),
        ("curve", "bouncy", "easing"),
        ("number", "6", "two presets"),
    ):
        with pytest.raises(ValueError, match=why):
            with_cell(SHOW, [5], column, text)
    for text, why in (
        ("name\nA\n", "no heading number"),
        ("number\twobble\n5\t1\n", "wobble.* is no heading"),
        ("number\tseconds\n5\t1\n6\tsoon\n", "line 3"),
    ):
        with pytest.raises(ShowError, match=why):
            pasted(SHOW, text)


def test_finishes_hold_some_kinds_and_the_last_has_its_say() -> None:
    settings = LayerSettings(opacity=0.5, turn=12.0)
    faint, turned = finish_of("a", "A", settings, {"opacity"}), finish_of("b", "B", settings, {"turn", "opacity"})
    other = finish_of("c", "C", LayerSettings(opacity=0.9), {"opacity"})
    assert laid([faint, turned]) == {"opacity": 0.5, "turn": 12.0}
    assert laid([turned, other])["opacity"] == 0.9 and laid([other, turned])["opacity"] == 0.5
    show = SHOW.model_copy(update={"finishes": (*SHOW.finishes, faint)})
    source = show.sources[0].model_copy(update={"finishes": ("nobody",)})
    faulty = show.model_copy(update={"sources": (source, *show.sources[1:])})
    assert [f.where for f in faults_of(faulty)] == ["sources[0].finishes[0]"]


def test_tables_of_finishes_and_presets_are_beside_the_show_on_disk() -> None:
    folder = Path("/shows/evening")
    warm = LayerSettings(colour=ColourSettings(table=str(folder / "warm.cube")))
    show = in_preset(SHOW.model_copy(update={"finishes": (finish_of("w", "W", warm, {"colour"}),)}), 5, warm)
    moved = portable(show, folder)
    assert moved.finishes[0].values["colour"].table == "warm.cube"
    assert tables_of_show(moved) == {"warm.cube"} and tables_of_show(show) == {str(folder / "warm.cube")}
    assert absolute(moved, folder) == absolute(show, folder)


def test_a_picture_made_without_a_window_waits_for_its_tables(tmp_path: Path) -> None:
    path = tmp_path / "nothing-but-green.cube"
    path.write_text("LUT_1D_SIZE 2\n0 1 0\n0 1 0\n")
    show = fresh_show("One", [Wish("monitor", "Screen", 320, 180, 1200, 680)])
    made = in_preset(show, 91, LayerSettings(colour=ColourSettings(table=str(path))))
    bare, seen = (output_pictures(rendered(s, 91)[0])["screen"][..., :3] for s in (show, made))
    assert bare[..., 0].max() > 150 and bare[..., 2].max() > 150
    assert not seen[..., (0, 2)].any() and np.abs(seen[..., 1] - bare[..., 1].astype(int)).max() <= 1, (
        "white words are green"
    )


def test_a_show_from_nothing_is_whole_and_shows_its_card() -> None:
    wishes = [
        Wish("LED wall", "Wall", *pixels_from("2.5 mm", size_from("2 x 1")), 2000, 1000),
        Wish("projection", "Screen", 640, 360, 4000, 2250),
        Wish("monitor", "Wall", 320, 180, 1200, 680),
        Wish("stream", "Call", 160, 90, 0, 0),
    ]
    show = fresh_show("First night", wishes, room_mm=(12000, 5000))
    assert not faults_of(show) and len({s.name for s in show.surfaces}) == 4
    assert show.canvas("main").width == 800 + 640 + 320 + 160
    assert [p.name for p in show.presets] == ["Black", "Hold card"] and show.opening == 90
    dark = output_pictures(rendered(show, 90)[0])
    lit = output_pictures(rendered(show, 91)[0])
    assert set(dark) == set(lit) == {"wall", "screen", "wall-2", "call"}
    assert all(p[..., :3].max() == 0 for p in dark.values()) and all(p[..., :3].max() > 150 for p in lit.values())
    assert not faults_of(fresh_show("Empty", []))
    assert [(m.name, m.surfaces) for m in show.sound.mixes] == [("Hall", ())] and show.sound.listen.otherwise == "hall"
    for text in ("wide", "0x100", "-3 mm"):
        with pytest.raises(ShowError):
            pixels_from(text, (1000, 1000))
    with pytest.raises(ShowError, match="type metres"):
        size_from("large")


def test_sources_are_grouped_and_found_by_every_word() -> None:
    show = in_group(SHOW, {"roof-camera", "aisle-camera"}, "  Cameras ")
    assert [s.id for s in by_group(show)["Cameras"]] == ["roof-camera", "aisle-camera"]
    assert [s.id for s in matching(show, "cameras aisle")] == ["aisle-camera"] and matching(show, "") == show.sources
    with pytest.raises(ValueError, match="80"):
        in_group(show, {"slides"}, "x" * 81)


def test_times_of_what_a_preset_stores_are_typed_row_by_row_or_many_at_once() -> None:
    show = demo_show()
    rows = part_table.rows_of(show, 6)
    assert rows[0] == ("house", "east", "picture") and rows[-1][:2] == ("relay", "feed")
    pictures = [r for r in rows if r.kind == "picture"]

    def column(made: Show, name: str) -> set[str]:
        return {part_table.cell(made, 6, row, name) for row in pictures}

    assert column(show, "seconds") == {"preset's"} and column(show, "arrives") == {"fades"}
    assert part_table.cell(show, 6, rows[0], "layer") == "East · House"
    made = part_table.with_cell(show, 6, pictures, "seconds", "*2")
    assert column(made, "seconds") == {"1.6"}, "twice the preset's own time"
    made = part_table.with_cell(made, 6, rows, "wait", "0.5")
    made = part_table.with_cell(made, 6, rows, "transition", "wipe picture of Moon wipe soft 0.1")
    assert column(made, "transition") == {"wipe picture of moon-wipe soft 0.1"} and column(made, "wait") == {"0.5"}
    assert part_table.cell(made, 6, rows[1], "transition") == "", "places have none"
    made = part_table.with_cell(made, 6, pictures, "curve", "bezier(0.3, 0, 0.7, 1)")
    made = part_table.with_cell(made, 6, pictures[:1], "arrives", "snaps")
    assert show_from_document(document_of(made)) == made and not faults_of(made)
    for name in ("seconds", "wait", "curve", "transition"):
        made = part_table.with_cell(made, 6, rows, name, "preset's")
    made = part_table.with_cell(made, 6, pictures[:1], "arrives", "fades")
    assert made == show, "and all the way back"
    plain = part_table.with_cell(part_table.with_cell(show, 6, rows, "transition", "dissolve"), 6, rows, "wait", "1")
    held = plain.preset(6).parts[0].holds.picture
    assert held.way == Way() and held.delay == 1, "a dissolve of its own, whatever the preset has"
    for name, text, why in (
        ("arrives", "slowly", "is no way to arrive; write fades or snaps"),
        ("seconds", "soon", "soon"),
        ("seconds", "4000", "at most 3600"),
        ("curve", "wobbly", "curve"),
        ("transition", "twirl", "is no transition"),
        ("transition", "wipe picture of nobody", "there is no source .nobody"),
    ):
        with pytest.raises(ValueError, match=why):
            part_table.with_cell(show, 6, rows, name, text)
