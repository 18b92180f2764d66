"""Sound in the real window: mixes, levels, listening, silence, all by mouse and keys; a wall sent out."""

from __future__ import annotations

import subprocess
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemDelegate, QLineEdit
from pytestqt.qtbot import QtBot

from ushering_adze.core.kinds.sound import LayerSound
from ushering_adze.core.onair.actions import Recall
from ushering_adze.core.onair.stage import ALL
from ushering_adze.core.show import Input
from ushering_adze.desk.watch.matrix import FIRST, GAIN, NAME, SoundMatrix
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed
from waiting import PATIENCE

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def cell_middle(matrix: SoundMatrix, row: int, column: int) -> QPoint:
    matrix.scrollToItem(matrix.item(row, column))
    return matrix.visualItemRect(matrix.item(row, column)).center()


def type_into(matrix: SoundMatrix, row: int, column: int, words: str) -> None:
    QTest.mouseClick(matrix.viewport(), LEFT, NONE, cell_middle(matrix, row, column))
    assert (matrix.currentRow(), matrix.currentColumn()) == (row, column)
    QTest.mouseDClick(matrix.viewport(), LEFT, NONE, cell_middle(matrix, row, column))
    editor = (
        matrix.indexWidget(matrix.currentIndex()) or matrix.findChildren(QLineEdit)[-1]
    )  # the one before may linger
    assert isinstance(editor, QLineEdit) and editor.isVisible()
    editor.selectAll()
    QTest.keyClicks(editor, words)
    assert editor.text() == words
    matrix.commitData(editor)  # as Return does, but not some time later
    matrix.closeEditor(editor, QAbstractItemDelegate.EndEditHint.NoHint)


def test_mixes_levels_and_listening(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    window.resize(1280, 800)
    session.playout.act(Recall(preset=6, seconds=0))
    qtbot.keyClick(window, Qt.Key.Key_6, Qt.KeyboardModifier.AltModifier)
    QTest.mouseClick(window.watch.tabs[1], LEFT)
    page, matrix = window.watch.sound, window.watch.sound.matrix
    assert page.isVisible() and list(page.strips) == ["hall", "foyer", "relay"]
    qtbot.waitUntil(lambda: page.strips["hall"].numbers["short"].text() != "–")
    # a level is typed, muted by a key, and undone
    row = matrix.ids.index("aisle-camera")
    type_into(matrix, row, GAIN, "-6")
    qtbot.waitUntil(lambda: session.show.sound.of("aisle-camera").level == -6)
    type_into(matrix, row, FIRST + 2, "off")
    qtbot.waitUntil(lambda: bool(session.show.sound.of("aisle-camera").sends))
    assert session.show.sound.of("aisle-camera").sends[0].level == -120
    assert matrix.item(row, FIRST + 2).text() == "off"
    QTest.mouseClick(matrix.viewport(), LEFT, NONE, cell_middle(matrix, row, GAIN))
    QTest.keyClick(matrix, Qt.Key.Key_Delete)
    assert session.show.sound.of("aisle-camera").mute
    session.undo()
    session.undo()
    assert session.show.sound.of("aisle-camera").level == -6 and not session.show.sound.of("aisle-camera").sends
    type_into(matrix, row, FIRST + 1, "always")
    qtbot.waitUntil(lambda: session.show.sound.of("aisle-camera").heard_in("foyer") == "always")
    assert matrix.item(row, FIRST + 1).text() == "0 on"
    qtbot.waitUntil(lambda: "aisle-camera" in session.playout.sound_report().audible)
    type_into(matrix, row, FIRST + 1, "as ever")
    qtbot.waitUntil(lambda: not session.show.sound.of("aisle-camera").sends)
    told: list[str] = []
    session.trouble.connect(told.append)
    type_into(matrix, row, GAIN, "loud")
    qtbot.waitUntil(lambda: bool(told))
    assert session.show.sound.of("aisle-camera").level == -6, "what is no level changes nothing"
    # listening
    QTest.mouseClick(matrix.viewport(), LEFT, NONE, cell_middle(matrix, row, NAME))
    qtbot.waitUntil(lambda: session.playout.listening == "aisle-camera")
    qtbot.waitUntil(lambda: "Aisle camera" in window.watch.listens.text())
    QTest.mouseClick(page.strips["relay"].listen, LEFT)
    qtbot.waitUntil(lambda: session.playout.listening == "relay")
    # silence
    QTest.mouseClick(page.strips["hall"].mute, LEFT)
    qtbot.waitUntil(lambda: session.playout.stage.muted == {"hall"})
    qtbot.waitUntil(lambda: page.strips["hall"].goes.text() == "silent")
    QTest.mouseClick(page.mute_all, LEFT)
    qtbot.waitUntil(lambda: ALL in session.playout.stage.muted)
    QTest.mouseClick(page.mute_all, LEFT)
    qtbot.waitUntil(lambda: not session.playout.stage.muted)
    # a mix of one surface, its fields, and away with it
    page.make_mix(("lectern",))
    assert session.show.sound.mixes[-1].surfaces == ("lectern",) and page.head.text() == "Lectern"
    level = next(r for r in page._rows if r.spec.label == "Target")
    level.editor.setFocus()
    level.editor.selectAll()
    QTest.keyClicks(level.editor, "-16")
    QTest.keyClick(level.editor, Qt.Key.Key_Return)
    assert session.show.sound.mixes[-1].target == -16
    page._new_input("beep")
    assert session.show.sound.inputs[-1].pattern == "beep" and session.show.sound.of("beeps").heard == "never"
    page._remove()
    page.choose("lectern")
    QTest.mouseClick(page.gone, LEFT)
    assert [m.id for m in session.show.sound.mixes] == ["hall", "foyer", "relay"]
    # who gives way
    QTest.mouseClick(matrix.viewport(), LEFT, NONE, cell_middle(matrix, matrix.ids.index("roof-camera"), GAIN))
    page._fill_ducks()
    page._ducks.actions()[2].trigger()
    assert ("roof-camera", 12.0) in {(d.by, d.depth) for d in session.show.sound.ducks}


def test_a_layer_says_how_it_is_heard(window: MainWindow, qtbot: QtBot) -> None:
    session = window.session
    window.resize(1280, 800)
    window.show_workspace("Build")
    panel = window.build.settings
    editors = {key: editor for key, editor in panel.editors.items() if key[0] == "sound"}
    assert {path for _, path in editors} == {"level", "mute", "mixes"}
    field = next(f for f, _ in editors.values() if f.path == "mixes")
    assert panel._words(field, None) == "all" and panel._words(field, ("hall",)) == "Hall"
    assert panel._mixes("Hall, relay") == ("hall", "relay") and panel._mixes("") is None
    assert LayerSound() == session.show.canvases[0].layers[0].settings.sound


def test_a_wall_is_made_and_sent_out_in_few_steps(window: MainWindow, qtbot: QtBot) -> None:
    """From nothing: the workspace, a new wall of a template, filled; on the lectern until it is lifted."""
    session = window.session
    window.resize(1280, 800)
    inputs = 0

    def count(done: object = None) -> None:
        nonlocal inputs
        inputs += 1

    count(qtbot.keyClick(window, Qt.Key.Key_6, Qt.KeyboardModifier.AltModifier))
    watch = window.watch
    count(watch.make("4 × 4"))
    count()  # the menu it is chosen from
    watch._fill_out()
    count()  # the menu's button
    count(next(a for a in watch._out.actions() if a.text().startswith("On Lectern")).trigger())
    qtbot.waitUntil(lambda: "lectern" in session.playout.stage.overrides)
    source = next(s for s in session.show.sources if s.kind == "wall")
    qtbot.waitUntil(lambda: (r := session.report) is not None and r.surfaces["lectern"].source_ids == (source.id,))
    assert inputs <= 15


def session_watches(window: MainWindow) -> str | None:
    return window.session.playout._walls._watched


def test_what_was_shown_earlier_is_looked_at(window: MainWindow, qtbot: QtBot) -> None:
    window.resize(1280, 800)
    window.watch_page(2)
    page = window.watch.earlier
    assert session_watches(window) is None, "a wall that nobody sees is not painted"
    window.watch_page(0)
    assert session_watches(window) == "front-of-house"
    window.watch_page(2)
    assert page.isVisible() and window.watch.tabs[2].isChecked()
    qtbot.waitUntil(lambda: page.pictures.shown is not None and page.slider.minimum() <= -2)
    shown = page.pictures.shown
    assert shown is not None and shown.words["relay"]
    assert page.ago.text() == "now"
    page.step(-2)
    qtbot.waitUntil(lambda: page.ago.text().endswith("ago"))
    page.grab()


def test_a_delay_is_set_by_flash_and_beep(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    """A camera, over the network, sees each flash 160 ms after it hears the beep: the mix is to come so much later."""
    film = tmp_path / "flash.mp4"
    flash = "drawbox=c=white:t=fill:enable='lt(mod(t-0.16+1,1),0.05)'"
    command = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", f"color=0x202020:s=320x180:r=25:d=8,{flash}"]
    command += ["-f", "lavfi", "-i", "aevalsrc='0.2*sin(2*PI*1000*t)*lt(mod(t,1),0.05)':s=48000:d=8"]
    command += ["-c:v", "libx264", "-preset", "ultrafast", "-bf", "0", "-c:a", "aac", "-shortest", str(film)]
    subprocess.run(command, check=True)
    to = f"udp://127.0.0.1:{free_port()}"
    sender = StandinFeed(to, 320, 180, 25.0, film, sound=True)
    sender.start()
    session, page = window.session, window.watch.sound
    camera = Input(id="meter", name="Meter", address=to)
    try:
        session.edit("Camera", session.show.model_copy(update={"sources": (*session.show.sources, camera)}))
        window.show_workspace("Watch")
        window.watch_page(1)
        page.choose("hall")
        before = session.show.sound.mix("hall")
        assert before is not None and page.in_step.isVisible()
        page.in_step.through.setCurrentIndex(page.in_step.through.findData("meter"))
        QTest.mouseClick(page.in_step.measure, LEFT)
        assert page.in_step.words.text().startswith("Waits for flashes") and not page.in_step.apply.isEnabled()
        qtbot.waitUntil(page.in_step.apply.isEnabled)
        assert "before its picture" in page.in_step.words.text()
        QTest.mouseClick(page.in_step.apply, LEFT)
        after = session.show.sound.mix("hall")
        assert after is not None and abs(after.delay - before.delay - 160) < 30, "to a picture's time"
        assert not page.in_step.measure.isChecked()
        session.undo()
        assert session.show.sound.mix("hall") == before
    finally:
        sender.tell("quit")
        sender.join(PATIENCE)
