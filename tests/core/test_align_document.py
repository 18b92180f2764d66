"""What aligning adds to the show document: read, refused with a sentence, kept by value, locked."""

from __future__ import annotations

import json

import numpy as np
import pytest
from pydantic import ValidationError

from ushering_adze.core.light.adjust import sent_codes, shown_table, wire_table
from ushering_adze.core.mapping.align_data import (
    align_data,
    align_document,
    locked_fault,
    outputs_of,
    read_align_data,
    straightened,
    with_align_data,
    with_blend,
    with_lock,
    with_step,
)
from ushering_adze.core.mapping.bend import as_mesh, moved_points
from ushering_adze.core.mapping.from_surface import surface_pieces
from ushering_adze.core.picture.finish import finish_of, run_finish
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    BlackMatch,
    Blend,
    LightGrid,
    Mask,
    MeshLanding,
    PatternSource,
    PictureSettings,
    Projection,
    Projector,
    Show,
    ShowError,
    SignalSettings,
    White,
    document_of,
    show_from_document,
)
from ushering_adze.core.show.edits import with_output, with_region
from ushering_adze.core.show.rigging import with_field, with_item
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import demo_show


@pytest.fixture(scope="module")
def show() -> Show:
    return demo_show()


def aligned(show: Show) -> Show:
    """The demo with everything that aligning can set on one of its projectors."""
    region = moved_points(as_mesh(show.homes["horizon-left"][1], 4, 3), {5}, 12.5, -7.25)
    show = with_region(show, region)
    output = show.output("projector-left")
    picture = output.picture.model_copy(
        update={
            "gamma": 2.31,
            "response": (0.0, 0.2, 0.55, 1.0),
            "white": White(x=0.33, y=0.34),
            "uniformity": LightGrid(columns=2, rows=2, red=(1.0, 0.9, 1.0, 0.8), green=(1.0,) * 4, blue=(0.7,) * 4),
        }
    )
    masks = Mask(points=((0, 0), (50, 0), (50, 50))), Mask(name="Door", points=((9, 9), (5, 9), (5, 2)), keep=True)
    output = output.model_copy(
        update={"picture": picture, "black": BlackMatch(leak=(1e-3, 1e-3, 2e-3), soft=4.0), "masks": masks}
    )
    show = with_blend(with_output(show, output), "horizon", Blend(curve="cosine", exponent=1.5))
    return with_step(with_step(show, "horizon", "ramp", True), "horizon", "focus", True)


def test_an_aligned_show_is_written_and_read_as_it_was(show: Show) -> None:
    made = aligned(show)
    again = show_from_document(json.loads(json.dumps(document_of(made))))
    assert (
        again == made
        and again.homes["horizon-left"][1].landing.points[5] == made.homes["horizon-left"][1].landing.points[5]
    )
    assert again.alignment("horizon").done == ("focus", "ramp"), "in the usual order"
    assert with_step(again, "horizon", "focus", False).alignment("horizon").done == ("ramp",)
    assert again.alignment("meridian").done == () and not faults_of(again)


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        (
            ("canvases", 0, "regions", 0, "landing", "points"),
            [[0, 0], [9, 0], [0, 9]],
            "has 12 points, not 3; give each one",
        ),
        (("canvases", 0, "regions", 0, "landing", "columns"), 40, "must be at most 33"),
        (("outputs", 2, "picture", "response"), [0.0, 0.6, 0.5, 1.0], "rise from 0 to 1"),
        (("outputs", 2, "picture", "uniformity", "red"), [1.0, 1.0], "give each one"),
        (("outputs", 2, "masks", 0, "points"), [[0, 0], [1, 1]], "at least 3"),
        (("outputs", 2, "black", "leak"), [0.9, 0.0, 0.0], "must be at most 0.5"),
        (("alignments", 0, "surface"), "moon", 'no surface "moon"'),
        (("alignments", 0, "done"), ["dance"], "alignments[0].done[0]"),
    ],
)
def test_what_cannot_be_is_told_with_its_place(
    show: Show, path: tuple[str | int, ...], value: object, words: str
) -> None:
    document = json.loads(json.dumps(document_of(aligned(show))))
    here = document
    for step in path[:-1]:
        here = here[step]
    here[path[-1]] = value
    with pytest.raises(ShowError, match=str(path[0])) as told:
        show_from_document(document)
    assert words in " ".join(str(f) for f in told.value.faults)


def test_projectors_in_rows_lie_against_their_neighbours() -> None:
    def screen(rows: int, **more: int) -> Projection:
        p = tuple(Projector(id=f"p{n}", name=f"P{n}", width=800, height=600) for n in range(6))
        return Projection(
            id="s",
            name="S",
            width_mm=9000,
            height_mm=5000,
            projectors=p,
            rows=rows,
            overlap_px=100,
            overlap_down_px=80,
            **more,
        )

    two = screen(2)
    assert two.columns == 3 and two.pixels == (2200, 1120)
    assert two.offsets == ((0, 0), (700, 0), (1400, 0), (0, 520), (700, 520), (1400, 520))
    assert [tuple(p.on_canvas)[:2] for p in surface_pieces(two)] == list(two.offsets)
    assert screen(1).pixels == (4300, 600) and screen(3).pixels == (1500, 1640)
    for wrong, words in (
        ({"rows": 4}, "do not make 4 rows"),
        ({"rows": 2, "overlap_down_px": 600}, "higher than the picture"),
        ({"rows": 2, "overlap_px": 800}, "wider than the picture"),
    ):
        with pytest.raises(ValidationError, match=words):
            Projection.model_validate({**two.model_dump(), **wrong})


def test_an_alignment_is_a_value_of_its_own(show: Show) -> None:
    made = aligned(show)
    document = json.loads(json.dumps(align_document(made, "horizon")))
    again = with_align_data(show, read_align_data(document))
    assert align_data(again, "horizon") == align_data(made, "horizon") and again.alignments == ()
    assert again.homes["horizon-right"][1] == show.homes["horizon-right"][1]
    assert outputs_of(show, ["horizon", "meridian"]) == ["projector-left", "projector-right", "processor-a"]
    plain = straightened(made, "horizon")
    assert plain.homes["horizon-left"][1].exact and plain.homes["horizon-left"][1].edges is None
    folded = {
        **document,
        "regions": [
            {**document["regions"][0], "landing": {"kind": "quad", "corners": [[0, 0], [9, 9], [9, 0], [0, 9]]}}
        ],
    }
    with pytest.raises(ShowError, match="crossed or dented"):
        with_align_data(show, read_align_data(folded))
    with pytest.raises(ShowError, match="alignment"):
        read_align_data({**document, "regions": [{"region": 5}]})
    unknown = {**document, "outputs": [{"output": "nine", "gamma": 2.0}]}
    with pytest.raises(ShowError, match="no such output"):
        with_align_data(show, read_align_data(unknown))


def test_show_work_cannot_touch_a_locked_alignment_and_all_else_can_be_done(show: Show) -> None:
    locked = with_lock(aligned(show), "horizon", True)
    left = locked.homes["horizon-left"][1]
    output = locked.output("projector-left")
    for touched in (
        with_region(locked, moved_points(left, {0}, 1, 0)),
        with_output(locked, output.model_copy(update={"masks": ()})),
        with_blend(locked, "horizon", Blend()),
        straightened(locked, "horizon"),
        with_item(locked, "outputs", with_field(output, "picture.gamma", 2.0)),
    ):
        fault = locked_fault(locked, touched)
        assert fault is not None and "Horizon" in fault.where and "unlock it" in fault.what
    for other in (
        with_region(locked, left.model_copy(update={"name": "Other", "x": 250})),
        locked.model_copy(update={"name": "Show"}),
        with_region(locked, locked.homes["meridian"][1].model_copy(update={"x": 0})),
        with_lock(locked, "horizon", False),
    ):
        assert locked_fault(locked, other) is None


def test_a_measured_response_is_undone_for_every_code() -> None:
    """Codes sent to a display of the measured response, dithered, give light = code ** gamma; worked pixels and tables
    alike.
    """
    measured = tuple(((np.arange(256) / 255) ** 2.15 * (0.9 + 0.1 * np.arange(256) / 255)).tolist())
    picture = PictureSettings(gamma=2.4, response=measured)
    sent = sent_codes(picture)
    assert sent is not None
    display = np.asarray(measured)
    for weight in (1.0, 0.37):
        light = np.full((8, 512), weight, np.float32)
        light[:, 256:] = np.linspace(weight, weight * 0.5, 256)
        finish = finish_of(light, None, Rect(0, 0, 512, 8), 2.4, sent=sent)
        assert finish is not None and finish.flats and finish.worked
        for code in range(24, 256, 11):
            raster = np.full((8, 512, 4), code, np.uint8)
            run_finish(finish, raster)
            got = display[raster[..., 1]].reshape(2, 4, 128, 4).mean((1, 3))
            want = ((code / 255) ** 2.4 * light).reshape(2, 4, 128, 4).mean((1, 3))
            assert np.abs(got / want - 1)[:, 2:-2].max() < 0.02, (code, weight)
    shown = shown_table(picture)
    assert (
        shown is not None and np.abs(shown[0, np.rint(sent[:256]).astype(int)].astype(int) - np.arange(256)).max() <= 1
    )
    limited = wire_table(SignalSettings(range="limited"))
    assert (
        limited is not None and limited[0, [0, 255], 0].tolist() == [16, 235] and wire_table(SignalSettings()) is None
    )


def test_patterns_as_sources_have_their_look_and_meshes_their_words() -> None:
    source = PatternSource(id="p", name="P", pattern="hatch", spacing=24, line=3, ink="#20FF40")
    assert PatternSource.model_validate(source.model_dump()) == source
    with pytest.raises(ValidationError):
        PatternSource(id="p", name="P", pattern="plaid")  # type: ignore[arg-type]
    with pytest.raises(ValidationError, match="give each one"):
        MeshLanding(columns=3, rows=3, points=((0.0, 0.0),) * 8)
