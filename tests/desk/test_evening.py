"""A whole evening in the real window: pasted, rehearsed, run, skipped, mended while it runs, and printed."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ushering_adze.core.onair.cues import head_of
from ushering_adze.core.show import Input, Watch, WhenLost
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed

LEFT, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier
TABLE = """number\tname\tfires\tdoes\tstart\tlength
1\tDoors\t\t1 in 0\t19:30\t25:00
2\tCountdown\t\t2 in 0\t19:55\t5:00
3\tWelcome\t\t3 in 0\t20:00\t4:00
4\tPanorama\t\t4 in 0\t\t1:30
5\tKeynote\t\t5 in 0; +0.1 Stage camera on Relay in 0\t20:06\t20:00
6\tInterview\t\t20 in 0\t20:26\t15:00
7\tMoon\t\t7 in 0\t20:41\t1:00
8\tMasts\t\t21 in 0\t\t1:00
9\tSky\t\t29 in 0\t20:43\t1:00
10\tClosing\t\t8 in 0\t20:45\t10:00
"""


@pytest.fixture
def camera() -> Iterator[StandinFeed]:
    made = StandinFeed(f"udp://127.0.0.1:{free_port()}", 320, 180)
    made.start()
    yield made
    made.tell("quit")
    made.join(20)


def test_an_evening_from_a_pasted_table_to_the_run_sheet(
    window: MainWindow, qtbot: QtBot, camera: StandinFeed, tmp_path: Path
) -> None:
    session, playout, run = window.session, window.session.playout, window.run
    panel = run.cues
    source = Input(
        id="stage-camera",
        name="Stage camera",
        address=camera.address,
        width=320,
        height=180,
        rate=25,
        encoding="420",
        watch=Watch(missing=2),
        when_lost=WhenLost(show="card"),
    )
    session.edit("Camera", session.show.model_copy(update={"sources": (*session.show.sources, source)}))
    qtbot.keyClick(window, Qt.Key.Key_C)
    panel.make_list()
    QGuiApplication.clipboard().setText(TABLE)
    panel.paste()
    list = panel.cues.id
    assert panel.why.text() == "" and len(panel.cues.cues) == 10
    QTest.mouseClick(panel.edit_button, LEFT)
    qtbot.waitUntil(lambda: playout.stage.show is session.show)

    def fired() -> str | None:
        return head_of(playout.stage, list).fired

    def go(number: str) -> None:
        head = head_of(playout.stage, list)
        qtbot.waitUntil(lambda: head.at is None or playout.stage.looked > head.at + 0.3)  # behind what is a slip
        QTest.keyClick(window, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda: fired() == f"cue-{number}")

    # rehearsed, step by step, while program stays
    qtbot.keyClick(window, Qt.Key.Key_R, SHIFT)
    qtbot.waitUntil(lambda: playout.stage.rehearsal is not None and panel.rehearsal.isVisible())
    panel.rehearsal.speed.setCurrentIndex(0)
    qtbot.waitUntil(lambda: playout.stage.rehearsal.speed == 0)
    before = playout.stage.program.target
    for number in ("1", "2", "3"):
        QTest.keyClick(window, Qt.Key.Key_Space)
        qtbot.waitUntil(lambda n=number: head_of(playout.stage.rehearsal.stage, list).fired == f"cue-{n}")
    qtbot.waitUntil(lambda: bool(session.report.delta))
    assert playout.stage.program.target == before and fired() is None
    qtbot.keyClick(window, Qt.Key.Key_R, SHIFT)
    qtbot.waitUntil(lambda: playout.stage.rehearsal is None)

    # run by Space
    for number in ("1", "2", "3", "4", "5"):
        go(number)
    relay = lambda: session.report.surfaces["relay"]  # noqa: E731
    qtbot.waitUntil(lambda: "stage-camera" in relay().source_ids and relay().state in ("live", "unbound"))

    # the camera is lost: the stream is kept on a card, and the evening goes on
    camera.tell("stop")
    qtbot.waitUntil(lambda: relay().state == "lost")
    session.select_surface("relay")
    qtbot.keyClick(window, Qt.Key.Key_V)
    run.overrides.make("source", "hold-card")
    qtbot.waitUntil(lambda: relay().state == "override" and relay().sources == ("Hold card",))
    qtbot.keyClick(window, Qt.Key.Key_C)
    go("6")
    assert relay().sources == ("Hold card",)
    run.show_plan()
    qtbot.waitUntil(lambda: any("Stage camera is lost" in w for found in run.plan.grid.odd.values() for w in found))
    run.show_plan()
    camera.tell("go")
    qtbot.waitUntil(lambda: "stage-camera" not in session.report.faults)
    QTest.mouseClick(run.overrides.lift_all, LEFT)
    qtbot.waitUntil(lambda: relay().state != "override")

    # skipped ahead, as if all before had run; one goes in while it runs
    for key in (Qt.Key.Key_9, Qt.Key.Key_Return):
        QTest.keyClick(window, key)
    qtbot.waitUntil(lambda: head_of(playout.stage, list).armed == "cue-9" and panel.skip.isVisible())
    QTest.mouseClick(panel.skip, LEFT)
    qtbot.waitUntil(lambda: head_of(playout.stage, list).as_if)
    go("9")
    assert playout.stage.program.target["house", "wall"].picture.source == "moon-phases", "what cue 7 would have left"
    QTest.mouseClick(panel.edit_button, LEFT)
    panel._select({"cue-9"})
    panel.insert()
    assert [c.number for c in panel.cues.cues][-2:] == [9.5, 10]
    qtbot.waitUntil(lambda: playout.stage.show is session.show)
    assert head_of(playout.stage, list).armed == "cue-10", "the armed cue stays armed"
    QTest.mouseClick(panel.edit_button, LEFT)

    # the run sheet, with a picture of each cue
    run.show_plan()
    qtbot.waitUntil(lambda: set(session.report.plan) == {c.id for c in panel.cues.ordered})
    panel.menu.write_sheet(tmp_path / "evening.pdf")
    pages = pdfium.PdfDocument(tmp_path / "evening.pdf")
    words = "".join(page.get_textpage().get_text_range() for page in pages)
    assert all(c.name in words for c in panel.cues.ordered) and words.count("real ") == 7, "what was fired, and when"
    assert sum(1 for page in pages for thing in page.get_objects() if thing.type == 3) == 11
    panel.menu.write_sheet(tmp_path / "evening.txt")
    assert "a run sheet is written as .pdf or .csv" in window.notice.text()
