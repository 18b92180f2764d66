"""The parts of the Rig workspace by themselves: every field, every drawing, the signal path, the sheet."""

from __future__ import annotations

import random
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QWheelEvent
from PySide6.QtWidgets import QApplication, QLabel

from ushering_adze.core.displays.binding import bound, fed_parts, unbound
from ushering_adze.core.displays.led import data_runs
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import (
    DataRuns,
    Feed,
    Gang,
    Input,
    LedWall,
    Monitor,
    MonitorWall,
    Output,
    Projection,
    Show,
    ShowError,
    Stream,
    Timing,
)
from ushering_adze.core.show.rigging import duplicated, item_of, moved_item, with_field, with_item, without_item
from ushering_adze.core.signal.timing import SignalError
from ushering_adze.desk import theme
from ushering_adze.desk.fields import FieldRow, Spec, shown
from ushering_adze.desk.output_windows import Outputs
from ushering_adze.desk.rig.drawing_view import DrawingView
from ushering_adze.desk.rig.drawings import SCREEN, draw_led, draw_monitors, draw_projection, draw_raster, run_colour
from ushering_adze.desk.rig.inspector import Inspector
from ushering_adze.desk.rig.path import SignalPath
from ushering_adze.desk.rig.results import lines_of
from ushering_adze.desk.rig.sheet import HEIGHT, save_sheet
from ushering_adze.desk.rig.specs import sections_of
from ushering_adze.desk.session import Session
from ushering_adze.engine.report import Report, SurfaceReport


def every_item(show: Show) -> list[Any]:
    """One of each kind, plain and at its oddest."""
    wall, screen, monitors = (show.surface(s) for s in ("meridian", "horizon", "foyer-wall"))
    assert isinstance(wall, LedWall) and isinstance(screen, Projection) and isinstance(monitors, MonitorWall)
    foyer = show.output("foyer")
    one = screen.model_copy(update={"projectors": screen.projectors[:1]})
    custom = next(s for s in sections_of(foyer, show)[1][1] if s.label == "Timing").put(foyer, "custom")
    half = wall.cabinet.model_copy(update={"height_mm": 250.0, "rows_px": 96, "name": "Half"})
    return [
        show,
        *show.surfaces,
        *show.outputs,
        *show.sources[-3:],
        one,
        custom,
        with_field(foyer, "gang", Gang(columns=2, rows=2, connectors=("a", "b", "c", "d"))),
        with_field(foyer, "timing", Timing(width=1920, height=1080, rate=75, standard="cta")),
        with_field(foyer, "timing", Timing(width=16384, height=8192, rate=240)),
        with_field(wall, "others", {"cabinet": half.model_dump(), "rows": (1,)}),
        with_field(wall, "data", DataRuns(gbps=0.01)),
        with_field(wall, "supply", {"amps": 0.1}),
        with_field(monitors, "scattered", ({"x_mm": 600, "y_mm": 400, "degrees": 12},)),
        with_field(monitors, "each", True),
        with_field(monitors, "turned", True),
        with_field(show.surface("lectern"), "place", None),
        with_field(show.surface("relay"), "mbps", 6.0),
        Input(id="new", name="New", width=1367, height=801, link="sdi3"),
    ]


# -- fields ------------------------------------------------------------------------------------------------------------


def test_every_field_of_every_kind_shows_what_it_holds_and_puts_it_back(session: Session) -> None:
    count = 0
    for item in every_item(session.show):
        for _, specs in sections_of(item, session.show):
            for spec in specs:
                value = spec.value(item)
                row = FieldRow(spec, lambda spec, value: None)
                row.hold(item)
                count += 1
                if spec.kind == "choice":
                    assert value in [v for _, v in spec.choices], (item.name, spec.label)
                elif spec.kind in ("text", "int", "float"):
                    assert row.editor.text() == shown(value)
                if value is not None and spec.label != "Connectors":
                    assert spec.put(item, value) == item or spec.label in ("Overlap", "Hangs apart"), (
                        item.name,
                        spec.label,
                    )
                for words in ("label", "why"):
                    assert getattr(row, words) is not None
    assert count > 400


def test_what_a_field_refuses_is_told_in_words_and_changes_nothing(session: Session) -> None:
    refused = 0
    for item in every_item(session.show):
        for _, specs in sections_of(item, session.show):
            for spec in specs:
                tries: tuple[Any, ...] = {
                    "int": (-1, 10**8),
                    "float": (-1e9, 1e12),
                    "text": ("#zz", "x" * 200, "1/2/3/4", "9:9:9", "-1 -1"),
                    "check": (),
                    "choice": (),
                    "words": (),
                }[spec.kind]
                for value in tries:
                    try:
                        made = spec.put(item, value)
                    except (ShowError, SignalError) as error:
                        words = str(error)
                        assert (
                            words and "\n" not in words and "pydantic" not in words and "validation error" not in words
                        ), (spec.label, words)
                        refused += 1
                    else:
                        assert type(made) is type(item)
    assert refused > 300


def test_every_choice_can_be_chosen_or_says_why_not(session: Session) -> None:
    for item in every_item(session.show):
        for _, specs in sections_of(item, session.show):
            for spec in (s for s in specs if s.kind == "choice"):
                for words, value in spec.choices:
                    try:
                        made = spec.put(item, value)
                    except (ShowError, SignalError, ValueError) as error:
                        assert str(error), (spec.label, words)
                        continue
                    assert lines_of(session.show, made), (spec.label, words)


def test_results_of_every_kind_have_words_and_no_raw_numbers(session: Session) -> None:
    for item in every_item(session.show):
        lines = lines_of(session.show, item)
        assert lines and all(line.words for line in lines), item.name
        for line in lines:
            assert not any(
                len(word.split(".")[-1]) > 6
                for word in line.words.split()
                if word.replace(".", "").isdigit() and "." in word
            ), line
    large = with_item(
        session.show,
        "outputs",
        with_field(session.show.output("foyer"), "timing", Timing(width=3840, height=2160, rate=60)),
    )
    by = {line.label: line for line in lines_of(large, large.output("foyer"))}
    assert by["Link"].level == "error" and by["Card"].level == "error" and "switch off Out 5" in by["Card"].words


def test_the_wheel_the_arrows_and_sums_work_in_a_field(session: Session, qtbot: object) -> None:
    inspector = Inspector(session, Outputs(session))
    inspector.resize(340, 600)
    inspector.show()
    session.select_output("processor-a")
    row = inspector.row("Width")
    row.editor.setFocus()
    qtbot.keyClick(row.editor, Qt.Key.Key_Up)
    qtbot.keyClick(row.editor, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert session.show.output("processor-a").timing.width == 1920 + 1 - 10
    row.editor.setText("w/2")
    row.editor.returnPressed.emit()
    assert row.why.text() and session.show.output("processor-a").timing.width == 1911, (
        "no such name here: said under the field"
    )
    row.editor.setText("*2")
    row.editor.returnPressed.emit()
    assert session.show.output("processor-a").timing.width == 3822
    contrast = inspector.row("Contrast")
    qtbot.keyClick(contrast.editor, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    assert session.show.output("processor-a").picture.contrast == 1.1
    session.undo()
    assert contrast.editor.text() == "1" and inspector.row("Width").editor.text() == "3822"
    session.select_surface(None)
    assert inspector.title.text() == "Centenary Night"
    rate = inspector.row("Frames a second")
    rate.editor.setText("59.94")
    rate.editor.returnPressed.emit()
    assert session.show.frame_seconds == pytest.approx(1001 / 60000, rel=1e-12)
    zone = inspector.row("Time zone")
    for typed, kept in (("Europe/Lisbon", "Europe/Lisbon"), ("Lanternfell", "Europe/Lisbon"), ("", None)):
        zone.editor.setText(typed)
        zone.editor.returnPressed.emit()
        assert session.show.time_zone == kept


# -- drawings: read back pixel by pixel --------------------------------------------------------------------------------


def drawn(draw: Any, item: Any, size: tuple[int, int] = (900, 560)) -> tuple[Any, np.ndarray]:
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(QColor(SCREEN.ground))
    p = QPainter(image)
    frame = draw(p, QRectF(0, 0, *size), item, SCREEN)
    p.end()
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(size[1], size[0], 4)[..., 2::-1].copy()
    return frame, pixels.astype(int)


def rgb(token: str) -> np.ndarray:
    colour = QColor(token)
    return np.array([colour.red(), colour.green(), colour.blue()])


def near(pixels: np.ndarray, token: str, tolerance: int = 12) -> np.ndarray:
    return (np.abs(pixels - rgb(token)) <= tolerance).all(-1)


@pytest.mark.parametrize("seed", range(6))
def test_the_drawing_of_a_wall_is_to_scale_and_each_cabinet_has_its_runs_colour(session: Session, seed: int) -> None:
    chance = random.Random(seed)
    wall = session.show.surface("meridian")
    gone = tuple({"column": c, "row": r} for c, r in {(chance.randint(1, 8), chance.randint(1, 5)) for _ in range(4)})
    wall = with_field(wall, "columns", 8)
    wall = with_field(
        with_field(wall, "missing", gone),
        "data",
        DataRuns(
            along=chance.choice(["rows", "columns"]),
            start=chance.choice(["top-left", "bottom-right"]),
            most=chance.randint(4, 12),
            backup=seed % 2 == 0,
        ),
    )
    frame, pixels = drawn(draw_led, wall)
    width, height = wall.size_mm
    box = frame.rect(0, 0, width, height)
    assert box.width() / box.height() == pytest.approx(width / height)
    assert box.left() >= 0 and box.right() <= 900 and box.bottom() <= 560
    runs = data_runs(wall)
    for run in runs:
        face = 0.235 * rgb(run_colour(SCREEN, run.port)) + 0.765 * rgb(SCREEN.ground)
        for h in run.cabinets:
            corner = frame.rect(*h.mm).bottomRight() - QPointF(6, 6)  # off the chain, the number and the border
            assert np.abs(pixels[int(corner.y()), int(corner.x())] - face).max() <= 4, (run.port, h.column, h.row)
            if len(run.cabinets) > 1:
                cell = frame.rect(*h.mm)
                inside = pixels[
                    int(cell.top()) + 2 : int(cell.bottom()) - 2, int(cell.left()) + 2 : int(cell.right()) - 2
                ]
                assert near(inside, run_colour(SCREEN, run.port)).sum() > 20, (
                    "the chain passes through every cabinet of its run"
                )
    whole = wall.model_copy(update={"missing": ()})
    for cell in wall.missing:
        w, h = whole.cabinet.width_mm, whole.cabinet.height_mm
        centre = frame.rect((cell.column - 1) * w, (cell.row - 1) * h, w, h).center()
        patch = pixels[int(centre.y()) - 14 : int(centre.y()) + 14, int(centre.x()) - 14 : int(centre.x()) + 14]
        assert near(patch, SCREEN.line, 30).any() or any(
            near(patch, run_colour(SCREEN, n)).any() for n in range(1, 6)
        ), "crossed out"


def test_the_drawing_of_monitors_shows_true_areas_also_turned(session: Session) -> None:
    plain = session.show.surface("foyer-wall")
    scattered = with_field(
        plain, "scattered", ({"x_mm": 700, "y_mm": 700, "degrees": 30}, {"x_mm": 2100, "y_mm": 900, "degrees": -75})
    )
    for wall, count in ((plain, 6), (with_field(plain, "turned", True), 6), (scattered, 2)):
        frame, pixels = drawn(draw_monitors, wall)
        lit = 0.157 * rgb(SCREEN.runs[0]) + 0.843 * rgb(SCREEN.face)
        area = (np.abs(pixels - lit).max(-1) <= 6).sum() / frame.scale**2
        # Numbers, places and edge marks lie on the pictures: they take a few per cent.
        assert area == pytest.approx(count * 1018.1 * 572.7, rel=0.09) and area < count * 1018.1 * 572.7 * 1.01


def test_the_drawing_of_a_screen_has_the_overlap_in_both_colours(session: Session) -> None:
    screen = session.show.surface("horizon")
    frame, pixels = drawn(draw_projection, screen, (500, 900))
    y = int(frame.point(0, 400).y())
    row = pixels[y, int(frame.point(0, 0).x()) + 3 : int(frame.point(9000, 0).x()) - 3]
    only_left = np.abs(row - row[30]).max(-1) <= 3
    only_right = np.abs(row - row[-30]).max(-1) <= 3
    both = len(row) - (only_left | only_right).sum()
    assert both * (1 / frame.scale) == pytest.approx(600, abs=4 / frame.scale)
    for distances in ((7200.0, 5000.0), (0.0, 0.0)):
        made = with_field(
            screen,
            "projectors",
            tuple(p.model_copy(update={"distance_mm": d}) for p, d in zip(screen.projectors, distances, strict=True)),
        )
        assert drawn(draw_projection, made)[1].std() > 5
    four = tuple(screen.projectors[0].model_copy(update={"id": i}) for i in "abcd")
    grid = screen.model_copy(update={"projectors": four, "rows": 2, "overlap_down_px": 108, "height_mm": 5130.0})
    assert drawn(draw_projection, grid)[1].std() > 5 and not np.array_equal(
        drawn(draw_projection, grid)[1], drawn(draw_projection, screen)[1]
    )


@pytest.mark.parametrize(("columns", "rows", "width"), [(2, 1, 3840), (2, 2, 3840), (4, 1, 3841), (1, 2, 1367)])
def test_a_gangs_parts_are_drawn_where_they_lie(session: Session, columns: int, rows: int, width: int) -> None:
    output = session.show.output("foyer")
    names = tuple(f"c{n}" for n in range(columns * rows))
    output = with_field(
        with_field(output, "timing.width", width), "gang", Gang(columns=columns, rows=rows, connectors=names)
    )
    (frame, boxes), _ = drawn(draw_raster, output)
    assert len(boxes) == columns * rows
    assert sum(b.width() + 2 for b in boxes[:columns]) == pytest.approx(width * frame.scale)
    assert all(not a.intersects(b) for n, a in enumerate(boxes) for b in boxes[n + 1 :])


def test_the_drawing_follows_what_is_selected_and_a_turn_is_a_step_of_undo(session: Session) -> None:
    view = DrawingView(session)
    view.resize(520, 260)
    pictures = []
    for shelf, id in (
        ("surfaces", "meridian"),
        ("surfaces", "horizon"),
        ("surfaces", "foyer-wall"),
        ("surfaces", "relay"),
        ("outputs", "foyer"),
        ("sources", "guest-laptop"),
        ("sources", "slides"),
    ):
        session.select(shelf, id)  # type: ignore[arg-type]
        pictures.append(view.grab().toImage())
    assert all(a != b for n, a in enumerate(pictures) for b in pictures[n + 1 :])
    session.select_surface("meridian")
    view.turn((2, 3), 90)
    view.turn((2, 3), 180)
    assert [(c.column, c.row, c.degrees) for c in session.show.surface("meridian").turned] == [(2, 3, 180)]
    view.turn((2, 3), 0)
    assert session.show.surface("meridian").turned == () and session.undo_label == "Turn cabinet 2/3 of Meridian"
    session.undo()
    assert session.show.surface("meridian").turned[0].degrees == 180


# -- the signal path ---------------------------------------------------------------------------------------------------


def path_of(session: Session, size: tuple[int, int] = (920, 400)) -> SignalPath:
    path = SignalPath(session)
    path.resize(*size)
    path.lay_out()
    path.show()
    return path


def pixels_of(widget: Any) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)[..., 2::-1].astype(int)


@pytest.mark.parametrize("size", [(920, 400), (1900, 800), (520, 240)])
def test_nodes_never_overlap_and_every_part_has_a_port(session: Session, size: tuple[int, int]) -> None:
    path = path_of(session, size)
    rects = [n.rect for n in path.nodes]
    assert len(rects) == len(session.show.sources) + len(session.show.outputs) + len(session.show.surfaces)
    assert all(not a.intersects(b) for n, a in enumerate(rects) for b in rects[n + 1 :])
    assert all(r.left() >= 0 and r.right() <= path.width() for r in rects)
    assert [p.part.key for p in path.ports] == [part.key for s in session.show.surfaces for part in fed_parts(s)]


def amber(pixels: np.ndarray) -> np.ndarray:
    """Amber, also where a thin line is half ground."""
    return (pixels[..., 0] - pixels[..., 2] > 40) & (pixels[..., 0] > pixels[..., 1])


def test_lines_are_amber_for_what_is_selected_and_in_the_sources_colour_when_live(session: Session) -> None:
    path = path_of(session)
    out, port = path.rect_of("outputs", "processor-a"), path.port_of("meridian")
    between = np.s_[45:120, int(out.right()) + 4 : int(port.x()) - 6]
    assert not amber(pixels_of(path)[between]).any()
    session.select_surface("meridian")
    assert amber(pixels_of(path)[between]).sum() > 60
    session.select_surface(None)
    stage = Stage.opened(session.show)
    surfaces = {s.id: SurfaceReport(("Moon phases",), ("moon-phases",), "live") for s in session.show.surfaces}
    report = Report(stage, (), surfaces, {}, {}, 1.0, False, False, False, 30.0, 9.0, 100, 0, False)
    moss = np.s_[45:300, int(path.rect_of("sources", "slides").right()) + 4 : int(out.x()) - 4]
    assert not near(pixels_of(path)[moss], theme.MOSS).any()
    session.tell(report)
    assert near(pixels_of(path)[moss], theme.MOSS, 50).sum() > 60
    session.tell(replace(report, surfaces={}))
    assert not near(pixels_of(path)[moss], theme.MOSS).any()


def test_a_full_link_is_red_and_a_long_list_scrolls_to_what_is_selected(session: Session, qtbot: object) -> None:
    path = path_of(session)
    meter = path.rect_of("outputs", "foyer")
    area = np.s_[int(meter.top()) : int(meter.bottom()), int(meter.right()) - 80 : int(meter.right())]
    assert not near(pixels_of(path)[area], theme.RED).any()
    big = with_field(session.show.output("foyer"), "timing", Timing(width=3840, height=2160, rate=60))
    session.edit("Large", with_item(session.show, "outputs", big))
    assert near(pixels_of(path)[area], theme.RED).sum() > 200
    show = session.show
    for n in range(60):
        show = with_item(show, "sources", Input(id=f"in-{n}", name=f"In {n}"))
    session.edit("Many", show)
    assert not path.rect().contains(path.rect_of("sources", "in-59").center().toPoint())
    session.select_source("in-59")
    assert path.rect().contains(path.rect_of("sources", "in-59").center().toPoint())
    event = QWheelEvent(
        QPointF(20, 60),
        QPointF(20, 60),
        QPoint(),
        QPoint(0, 9999),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    path.wheelEvent(event)
    assert path.rect_of("sources", "slides").top() > 20


def test_a_line_moved_to_another_output_or_surface_binds_that_one(session: Session, qtbot: object) -> None:
    path = path_of(session)
    show = unbound(session.show, fed_parts(session.show.surface("lectern"))[0])
    session.edit(
        "Free",
        with_item(show, "outputs", Output(id="spare", number=9, name="Spare", timing=Timing(width=1920, height=1080))),
    )
    path.lay_out()

    def drag(a: QPointF, b: QPointF) -> None:
        qtbot.mousePress(path, Qt.MouseButton.LeftButton, pos=a.toPoint())
        qtbot.mouseMove(path, ((a + b) / 2).toPoint())
        path.grab()
        qtbot.mouseMove(path, b.toPoint())
        qtbot.mouseRelease(path, Qt.MouseButton.LeftButton, pos=b.toPoint())

    meridian = fed_parts(session.show.surface("meridian"))[0]
    drag(path.port_of("meridian"), path.rect_of("outputs", "spare").center())
    assert next(r.output for _, r in session.show.regions() if r.surface == "meridian") == "spare"
    drag(path.port_of("meridian"), path.port_of("lectern"))
    fed = {r.surface: r.output for _, r in session.show.regions()}
    assert fed["lectern"] == "spare" and "meridian" not in fed
    before = session.show
    drag(path.rect_of("outputs", "spare").center(), QPointF(path.rect_of("outputs", "spare").right() + 30, 395))
    assert session.show is before and session.output == "spare", "let go over nothing"
    assert bound(session.show, "processor-a", meridian) != session.show


# -- any order of edits ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("seed", range(5))
def test_any_order_of_rig_edits_can_be_undone_to_the_first_show(session: Session, seed: int) -> None:
    chance = random.Random(seed)
    inspector, path, drawing = Inspector(session, Outputs(session)), path_of(session), DrawingView(session)
    first, done = session.show, 0
    for n in range(60):
        shelf = chance.choice(["sources", "outputs", "surfaces"])
        items = getattr(session.show, shelf)
        if not items:
            continue
        item = chance.choice(items)
        session.select(shelf, item.id)  # type: ignore[arg-type]
        act = chance.choice(["copy", "move", "drop", "unbind", "bind", "field"])
        if act == "copy":
            done += session.try_edit(act, lambda s: duplicated(s, shelf, item.id, f"x-{n}"))  # noqa: B023
        elif act == "move":
            done += session.try_edit(act, lambda s: moved_item(s, shelf, item.id, chance.choice([-2, -1, 1, 2])))  # noqa: B023
        elif act == "drop" and chance.random() < 0.4:
            done += session.try_edit(act, lambda s: without_item(s, shelf, item.id))  # noqa: B023
        elif shelf == "surfaces" and act in ("bind", "unbind"):
            part = chance.choice(fed_parts(item))
            to = chance.choice(session.show.outputs).id if session.show.outputs else ""
            if act == "unbind":
                done += session.try_edit(act, lambda s: unbound(s, part))  # noqa: B023
            elif to:
                done += session.try_edit(act, lambda s: bound(s, to, part))  # noqa: B023
        elif act == "field":
            number = next((r for r in inspector.rows if r.spec.kind in ("int", "float")), None)
            if number is not None and number.spec.value(item) is not None:
                number.enter(number.spec.value(item) + chance.choice([1, 8, -3]))
        if n % 10 == 0:
            path.grab()
            drawing.grab()
        assert item_of(session.show, *session.selected) is not None if session.selected else True
    assert done > 8
    while session.undo_label is not None:
        session.undo()
    assert session.show == first


# -- the sheet ---------------------------------------------------------------------------------------------------------


def pages(path: Path) -> list[np.ndarray]:
    image = QImage(str(path)).convertToFormat(QImage.Format.Format_RGB32)
    whole = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)[..., :3].astype(int)
    return np.split(whole, round(image.height() / 2 / HEIGHT))


def test_the_sheet_changes_where_the_rig_does_and_keeps_its_margins(session: Session, tmp_path: Path) -> None:
    show = session.show
    save_sheet(show, tmp_path / "a.png")
    save_sheet(
        with_item(show, "surfaces", with_field(show.surface("meridian"), "missing", ({"column": 2, "row": 2},))),
        tmp_path / "b.png",
    )
    save_sheet(with_item(show, "outputs", with_field(show.output("foyer"), "connector", "Out 9")), tmp_path / "c.png")
    a, b, c = (pages(tmp_path / f"{n}.png") for n in "abc")
    assert len(a) == 6 and [bool((x != y).any()) for x, y in zip(a, b, strict=True)] == [
        False,
        False,
        True,
        False,
        False,
        False,
    ]
    assert [bool((x != y).any()) for x, y in zip(a, c, strict=True)] == [True, False, False, False, False, False]
    for page in a:
        assert page.min() < 60, "ink is dark"
        for edge in (page[:30], page[-40:], page[:, :60], page[:, -60:]):
            assert edge.min() > 250, "nothing runs into the margins"
    save_sheet(Show(name="Empty"), tmp_path / "empty.pdf")
    assert (tmp_path / "empty.pdf").read_bytes().startswith(b"%PDF-")
    with pytest.raises(ShowError, match="no such folder"):
        save_sheet(show, tmp_path / "nowhere" / "a.pdf")


def test_nothing_in_the_inspector_is_wider_than_it(session: Session) -> None:
    inspector = Inspector(session, Outputs(session))
    inspector.resize(320, 640)
    inspector.show()
    for item in session.show.surfaces[:5]:
        session.select_surface(item.id)
        QApplication.processEvents()
        for label in inspector.findChildren(QLabel):
            if label.isVisible():
                right = label.mapTo(inspector, QPoint(label.width(), 0)).x()
                assert right <= inspector.width(), (item.name, label.text())


def test_another_show_has_nothing_selected(session: Session) -> None:
    """Whatever was selected in the one before, a feed too, is not in it; the inspector tells of the show."""
    inspector = Inspector(session, Outputs(session))
    inspector.show()
    feed = Feed(id="sent", name="Sent", shows="surface", of="relay", to="udp://127.0.0.1:5000")
    session.edit("Feed", session.show.model_copy(update={"feeds": (feed,)}))
    for select in (lambda: session.select("feeds", "sent"), lambda: session.select_surfaces(["horizon", "relay"])):
        select()
        assert inspector.title.text() in ("Sent", "Relay")
        session.new_from_demo()
        assert session.selected is None and session.surfaces == () and inspector.title.text() == session.show.name
        session.edit("Feed", session.show.model_copy(update={"feeds": (feed,)}))


def test_a_single_thing_of_each_kind_is_described_alone(app: QApplication) -> None:
    alone = [
        Monitor(id="m", name="M", width=1920, height=1080, width_mm=600, height_mm=340),
        Stream(id="s", name="S", width=1920, height=1080),
    ]
    for surface in alone:
        show = Show(name="One", surfaces=(surface,))
        assert next(line.level for line in lines_of(show, surface)) == "warning", "nothing feeds it yet"
        assert any(line.label == "Unbound" for line in lines_of(show, show))
    assert isinstance(Spec("Name", "name").value(alone[0]), str)
