"""What Map paints: compared pixel by pixel where it can be, and kept in step with what is selected, zoomed
and rigged.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator

import numpy as np
import pytest
from driven import Driven
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtWidgets import QWidget

from ushering_adze.bench.large import large_show
from ushering_adze.core.mapping.lands import landed_centred
from ushering_adze.core.mapping.regions import moved, placed, rect_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Gang, Guide, Region, Show, ShowError
from ushering_adze.core.show.edits import changed
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk import theme
from ushering_adze.desk.drafting.prompt import ask, whole
from ushering_adze.desk.qt import settle
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.outputs.png import write_png


def pixels(widget: QWidget) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)[..., :3].copy()


def opened(show: Show) -> MainWindow:
    window = MainWindow(Session(show, None, DEMO_ROOT))
    window.resize(1280, 800)
    window.show()
    window.show_workspace("Map")
    window.map.show_as("plain")
    settle(60)
    return window


def closed(window: MainWindow) -> None:
    window.map.close_all()
    window.outputs.close()
    window.session.blockSignals(True)
    window.session.playout.stop()
    window.map.bench.deleteLater()
    window.deleteLater()
    settle(10)
    gc.collect()


@pytest.fixture
def large(app: object) -> Iterator[MainWindow]:
    window = opened(large_show())
    yield window
    closed(window)


@pytest.fixture
def demo(app: object) -> Iterator[MainWindow]:
    window = opened(demo_show())
    yield window
    closed(window)


def test_a_drag_among_a_thousand_regions_paints_what_painting_all_afresh_would(large: MainWindow) -> None:
    session, view = large.session, large.map.canvas
    base = session.show
    session.select_region("r555")
    start = rect_of(next(r for _, r in base.regions() if r.id == "r555"))
    view._start = {"r555": start}
    for step in (0, 40, 900, -700):
        session.edit("Move", moved(base, ["r555"], step, step // 3), "drag")
        dragging = pixels(view)
        assert view._kept is not None, "those that stand still were painted once"
        view._start = {}
        afresh = pixels(view)
        view._start = {"r555": start}
        # A dimension line is drawn only while dragging; the moving region lies on top while it is dragged.
        differs = np.abs(dragging.astype(int) - afresh).max(2) > 60
        assert differs.mean() < 0.012, differs.mean()
    assert session.undo_label == "Move" and len(session._undo) == 1, "one step, however far"
    assert large.map.regions.shown()[555][1].id == "r555"


def test_regions_are_found_and_selected_in_long_lists(large: MainWindow, qtbot: object) -> None:
    rows = large.map.regions
    rows.finder.setText("R77 out")
    assert {r.name for _, r in rows.shown()} == {"R77", *(f"R77{n}" for n in range(10))}
    qtbot.keyClick(rows.finder, Qt.Key.Key_Return)
    assert len(large.session.regions) == 11 and large.map.geometry_panel.title.text() == "11 regions"
    large.map.zoom_to_selection()
    box = large.map.canvas.pixels(*rect_of(next(r for _, r in large.session.show.regions() if r.id == "r77")))
    assert large.map.canvas.clip().contains(box.center())


def test_the_guide_is_painted_pixel_for_pixel_and_never_in_plain_drawings(
    demo: MainWindow, qtbot: object, tmp_path: object
) -> None:
    picture = np.zeros((2040, 4112, 4), np.uint8)
    picture[..., 3] = 255
    picture[1200:1300, 200:900] = (10, 200, 30, 255)
    write_png(picture, tmp_path / "g.png")
    session, view = demo.session, demo.map.canvas
    demo.map.actions_of.set_guide(tmp_path / "g.png")
    demo.map.actions_of.change_guide(opacity=1.0, x=50)
    qtbot.waitUntil(lambda: demo.map.guides.image(demo.map.actions_of.guide()) is not None)

    def at(x: int, y: int) -> list[int]:
        place = (view.origin + QPointF(x + 0.5, y + 0.5) * view.scale).toPoint()
        return pixels(view)[place.y(), place.x()].tolist()

    demo.map.show_as("guide")
    assert at(300, 1250) == [10, 200, 30] and at(600, 1320) == [0, 0, 0], "moved by its 50 px"
    view.zoom(4.0, QPointF(300, 200))
    view.show_rect(940, 1290, 30, 20)
    left = (view.origin + QPointF(950, 1299.5) * view.scale).toPoint()
    row = pixels(view)[left.y(), left.x() - 12 : left.x() + 12]
    assert (row[:11] == (10, 200, 30)).all() and not (row[13:] == (10, 200, 30)).any(), (
        "its last column is column 949 of the canvas"
    )
    view.fit()
    demo.map.show_as("plain")
    view.grab()
    assert at(300, 1250) == [0, 0, 0]
    session.edit(
        "Other guide",
        session.show.model_copy(
            update={
                "outputs": tuple(
                    changed(o, guide=Guide(path=str(tmp_path / "g.png"))) if o.id == "processor-a" else o
                    for o in session.show.outputs
                )
            }
        ),
    )
    session.select_region("meridian")
    demo.map.show_as("guide")
    demo.map.output.grab()


def test_the_raster_of_a_gang_shows_its_seams_and_tells_the_offset(app: object) -> None:
    show = demo_show()
    wide = show.output("processor-a").model_copy(
        update={
            "timing": show.output("processor-a").timing.model_copy(update={"width": 3840}),
            "gang": Gang(columns=2, rows=1, connectors=("DP-1", "DP-2")),
        }
    )
    show = show.model_copy(update={"outputs": tuple(wide if o.id == "processor-a" else o for o in show.outputs)})
    show = landed_centred(show, ["meridian"])
    window = opened(show)
    try:
        window.session.select_region("meridian")
        view = window.map.output
        painted = pixels(view)
        seam = round(view.pixels(1920, 0, 0, 0).x())
        column = painted[60 : int(view.pixels(0, 1080, 0, 0).y()) - 4, seam - 1 : seam + 2].max(1).max(1)
        assert 0.3 < (column > 150).mean() < 0.95, "a dashed line parts the connectors"
        facts = view.facts(
            window.session.show.output("processor-a"), [r for _, r in window.session.show.landing_on["processor-a"]]
        )
        assert ("Lands", "1920×960 at 960, 60") in facts and ("Free", "left 960, right 960") in facts
    finally:
        closed(window)


def test_the_place_of_a_finding_is_amber_in_the_drawing(demo: MainWindow) -> None:
    session = demo.session
    session.edit("Shift", placed(session.show, {"west-mast": Rect(3, 636, 256, 768)}))
    demo.map.check.check()
    before = pixels(demo.map.canvas)
    session.look_at(next(f for f in session.findings if f.rule == "asymmetric"))
    demo.map.show_side(1)
    after = pixels(demo.map.canvas)
    where = demo.map.canvas.pixels(*session.finding.where.rect).toRect()
    inside = np.s_[where.top() : where.bottom(), where.left() : where.right()]
    amber = np.array([int(theme.AMBER[k : k + 2], 16) for k in (5, 3, 1)])
    assert (
        after[inside].astype(int).sum() > before[inside].astype(int).sum()
        and (np.abs(after - amber).max(2) < 40).sum() > 60
    )
    assert session.findings and demo.map.check.rows[0].finding in session.findings


def test_narrow_windows_make_room_and_wide_ones_use_it(demo: MainWindow) -> None:
    demo.resize(1024, 640)
    settle(40)
    assert demo.map.bench_button.isHidden() and not demo.map.loupe_button.isHidden()
    demo.resize(2560, 1440)
    settle(40)
    assert not demo.map.bench_button.isHidden() and demo.map.canvas.width() > 1500
    assert demo.map.canvas.scale > 0.3


def test_edges_snap_to_the_cabinets_of_a_wall(demo: MainWindow) -> None:
    view, canvas = demo.map.canvas, demo.map.canvas.canvas
    view._begin(["west-mast"], None)
    lines = view._lines
    assert {1096 + 192 * k for k in range(11)} <= {int(v) // 2 for v in lines.across}, (
        "every column of cabinets of Meridian"
    )
    assert {1080 + 192 * k for k in range(6)} <= {int(v) // 2 for v in lines.down}
    assert 128 not in {int(v) // 2 for v in lines.across[lines.across_of == -1]}, "but not its own"
    view._start = {}
    assert canvas.width * 2 in lines.across


def test_handles_resize_by_every_edge_and_middle_button_pans(demo: MainWindow, qtbot: object) -> None:
    session, view = demo.session, demo.map.canvas
    session.select_region("meridian")
    view.grab()
    for edges, expected in (
        ((1, 0), (1096, 1080, 1820, 960)),
        ((-1, 0), (1196, 1080, 1720, 960)),
        ((0, 1), (1196, 1080, 1720, 860)),
        ((0, -1), (1196, 1180, 1720, 760)),
    ):
        view._begin(["meridian"], edges)
        view._pressed, view._gesture, view._free = (0, 0), object(), True
        x = 2916 if edges[0] > 0 else 1196
        y = 1940 if edges[1] > 0 else 1180
        view._resize((x, y))
        view._start, view._edges, view._pressed = {}, None, None
        region = next(r for _, r in session.show.regions() if r.id == "meridian")
        assert tuple(rect_of(region)) == expected and region.exact
    before = QPointF(view.origin)
    qtbot.mousePress(view, Qt.MouseButton.MiddleButton, pos=QPoint(300, 200))
    to = QPointF(340, 230)
    view.mouseMoveEvent(
        QMouseEvent(
            QMouseEvent.Type.MouseMove,
            to,
            view.mapToGlobal(to),
            Qt.MouseButton.NoButton,
            Qt.MouseButton.MiddleButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )
    qtbot.mouseRelease(view, Qt.MouseButton.MiddleButton, pos=QPoint(340, 230))
    assert view.origin == before + QPointF(40, 30) and not view.fitted


def test_a_question_says_why_and_stays(demo: MainWindow, qtbot: object) -> None:
    got: list[int] = []
    prompt = ask(demo, "How many", [("Count", "x")], "Go", lambda text: got.append(whole(text, "the count")))
    qtbot.mouseClick(prompt.button, Qt.MouseButton.LeftButton)
    assert prompt.isVisible() and prompt.why.text() == 'the count is "x"; type a whole number' and got == []
    prompt.fields[0].setText("7")
    qtbot.keyClick(prompt.fields[0], Qt.Key.Key_Return)
    assert got == [7]
    with pytest.raises(ShowError, match="sides are 1 to"):
        placed(demo.session.show, {"meridian": Rect(0, 0, 40000, 1)})


@pytest.mark.screen
def test_a_map_made_with_real_keys_and_mouse_is_in_the_saved_file(driven: Driven) -> None:
    """The program itself under an X server: regions turned, dragged and copied by real events, read back from the file
    it saved.
    """
    x, saved_until = driven.x, driven.saved_until

    def meridian(show: Show) -> Region:
        return next(r for _, r in show.regions() if r.id == "meridian")

    driven.screen.go_to("Map")
    x("mousemove", 380, 420, "click", 1)  # Meridian on the canvas
    x("key", "t")
    x("key", "t")
    saved_until(lambda s: meridian(s).landing.turn == 180)
    x("key", "ctrl+z")
    x("key", "ctrl+z")
    saved_until(lambda s: meridian(s).landing.turn == 0)
    x("keydown", "alt")
    driven.drag((380, 420), (370, 418), (350, 410), (340, 405))
    x("keyup", "alt")
    dragged = meridian(saved_until(lambda s: meridian(s).x < 1096))
    assert 700 < dragged.x < 900 and dragged.y < 1040 and dragged.exact, (
        "about forty pixels of the screen, at one to seven"
    )
    x("key", "Right")
    assert meridian(saved_until(lambda s: meridian(s).x == dragged.x + 1)).y == dragged.y
    x("key", "ctrl+d")
    assert [r.name for _, r in saved_until(lambda s: len(list(s.regions())) == 9).regions()].count("Meridian 2") == 1
