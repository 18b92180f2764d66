"""Sources and feeds in the real window: files dropped, a camera lost, pages leafed through, a recording made."""

from __future__ import annotations

from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QComboBox, QLineEdit
from reportlab.pdfgen.canvas import Canvas as Sheet

from ushering_adze.core.onair.actions import Route, StagePreset
from ushering_adze.core.show import ChromaKey, Clip, Feed, Folder, Input, Pages, Playlist, Still, Text
from ushering_adze.core.show.rigging import with_item
from ushering_adze.core.show.shelved import by_group
from ushering_adze.demo.show import DEMO_ROOT
from ushering_adze.desk import theme
from ushering_adze.desk.dragging import SOURCES, sources_dragged
from ushering_adze.desk.window import MainWindow
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed


def rig(window: MainWindow) -> object:
    window.resize(1280, 800)
    window.show_workspace("Rig")
    return window.rig


def drop(window: MainWindow, paths: list[Path], shift: bool = False) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    keys = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    window.rig.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, keys))


def enter(window: MainWindow, label: str, text: str) -> None:
    editor = window.rig.inspector.row(label).editor
    assert isinstance(editor, QLineEdit)
    editor.setText(text)
    editor.editingFinished.emit()


def choose(window: MainWindow, label: str, words: str) -> None:
    editor = window.rig.inspector.row(label).editor
    assert isinstance(editor, QComboBox)
    at = editor.findText(words)
    assert at >= 0, [editor.itemText(n) for n in range(editor.count())]
    editor.setCurrentIndex(at)
    editor.activated.emit(at)


def said(window: MainWindow, label: str) -> str:
    return next((line.words for line in window.rig.inspector.results.lines if line.label == label), "")


def pdf(path: Path, pages: int) -> Path:
    sheet = Sheet(str(path), pagesize=(640, 360))
    for n in range(pages):
        sheet.setFillGray((240 - 60 * n) / 255)
        sheet.rect(0, 0, 640, 360, stroke=0, fill=1)
        sheet.showPage()
    sheet.save()
    return path


def test_files_that_are_dropped_become_sources_and_with_shift_a_playlist(
    window: MainWindow, qtbot: object, tmp_path: Path
) -> None:
    session = window.session
    rig(window)
    cv2.imwrite(str(tmp_path / "card.png"), np.full((36, 64, 3), 90, np.uint8))
    (tmp_path / "names.txt").write_text("Ida Quill\n-- Plates\n\nBram Okoro\n")
    (tmp_path / "slides").mkdir()
    files = [tmp_path / "card.png", tmp_path / "names.txt", tmp_path / "slides", pdf(tmp_path / "talk.pdf", 2)]
    before = session.show
    drop(window, [*files, DEMO_ROOT / "media/orrery.mp4"])
    kinds = {s.name: type(s) for s in session.show.sources[len(before.sources) :]}
    assert kinds == {"card": Still, "names": Text, "slides": Folder, "talk": Pages, "orrery": Clip}
    session.undo()
    assert session.show == before, "one step"
    drop(window, [tmp_path / "card.png", DEMO_ROOT / "media/orrery.mp4"], shift=True)
    made = session.show.sources[-1]
    assert isinstance(made, Playlist) and len(made.items) == 2 and session.source == made.id
    choose(window, "Order", "shuffled")
    enter(window, "Stills for", "3")
    enter(window, "Goes over in", "1")
    made = session.show.source(made.id)
    assert isinstance(made, Playlist) and (made.order, made.seconds, made.dissolve) == ("shuffled", 3.0, 1.0)
    session.playout.act(Route(surface="lectern", source=made.id, on="program", seconds=0))
    qtbot.waitUntil(lambda: session.report.surfaces["lectern"].sources == (made.name,))
    qtbot.waitUntil(lambda: any(p.source == made.id and p.on == "program" for p in session.report.players))
    for kind in ("text", "clock", "countdown", "colour", "pattern", "parts", "input"):
        window.rig.add(kind)
        assert session.selected == ("sources", session.show.sources[-1].id)
        assert session.show.sources[-1].kind == kind
        assert [row.spec.label for row in window.rig.inspector.rows]


def test_a_camera_is_added_by_its_address_seen_given_a_backup_and_lost(window: MainWindow, qtbot: object) -> None:
    session = window.session
    rig(window)
    feed = StandinFeed(f"udp://127.0.0.1:{free_port()}", 320, 180)
    feed.start()
    try:
        window.rig.add("input")
        enter(window, "Name", "Stage camera")
        enter(window, "Device or URL", feed.address)
        id = session.source
        assert isinstance(session.show.source(id), Input)
        qtbot.waitUntil(lambda: said(window, "Signal") == "live")
        qtbot.waitUntil(lambda: said(window, "It is").startswith("320×180p"))
        assert said(window, "Differs").startswith("320×180, not 1920×1080")
        qtbot.waitUntil(lambda: window.rig.drawing._pictured.width() > 10)
        choose(window, "Backup", "Hold card")
        enter(window, "Without pictures", "0.5")
        session.playout.act(Route(surface="meridian", source=id, on="program", seconds=0))
        qtbot.waitUntil(lambda: session.report.surfaces["meridian"].sources == ("Stage camera",))
        feed.tell("stop")
        qtbot.waitUntil(lambda: session.report.surfaces["meridian"].state == "backup")
        qtbot.waitUntil(lambda: any("Hold card stands in for it" in f.words for f in session.report.troubles))
        feed.tell("go")
        qtbot.waitUntil(lambda: session.report.surfaces["meridian"].state == "unbound")
        enter(window, "Device or URL", "gopher://nowhere")
        qtbot.waitUntil(lambda: "is no way to read a feed here" in session.playout.faults().get(id, ""))
    finally:
        feed.tell("quit")


def test_pages_are_leafed_through_on_air_by_keys(window: MainWindow, qtbot: object, tmp_path: Path) -> None:
    session = window.session
    rig(window)
    drop(window, [pdf(tmp_path / "talk.pdf", 3)])
    id = session.source
    session.playout.act(Route(surface="lectern", source=id, on="program", seconds=0))
    window.show_workspace("Run")
    window.run.show_players()
    panel = window.run.players

    def page() -> int:
        return next((p.page for p in session.report.players if p.source == id), 0)

    def level() -> int:
        return int(np.median(session.playout.raster("lectern")[..., 0]))

    qtbot.waitUntil(lambda: page() == 1 and abs(level() - 240) <= 1)
    panel.select(id)
    for key, number in ((Qt.Key.Key_L, 2), (Qt.Key.Key_L, 3), (Qt.Key.Key_L, 3), (Qt.Key.Key_J, 2)):
        qtbot.keyClick(window, key)
        qtbot.waitUntil(lambda number=number: page() == number)
        qtbot.waitUntil(lambda number=number: abs(level() - (300 - 60 * number)) <= 1)
    qtbot.keyClick(window, Qt.Key.Key_Home)
    qtbot.waitUntil(lambda: page() == 1)
    panel.grab()
    assert panel._digits(next(p for p in session.report.players if p.source == id)) == "1/3"


def test_a_surface_is_recorded_and_the_file_opened(window: MainWindow, qtbot: object, tmp_path: Path) -> None:
    session = window.session
    rig(window)
    window.rig.add("feed")
    made = session.show.feeds[-1]
    assert isinstance(made, Feed) and (made.shows, made.of) == ("surface", "relay")
    enter(window, "Name", "Record the relay")
    enter(window, "URL or file", str(tmp_path / "relay.mp4"))
    choose(window, "Shows", "Lectern  (surface)")
    assert said(window, "Sent") == "not now"
    button = window.rig.inspector._send
    assert button.text() == "Record"
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: any(f.sent > 10 for f in session.report.feeds))
    qtbot.waitUntil(lambda: said(window, "Sent") == "sending" and button.text() == "End")
    assert said(window, "Disk lasts") and (tmp_path / "relay.mp4").exists()
    window.rig.path.grab()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not session.report.feeds[0].on)

    def whole() -> bool:
        try:
            with av.open(str(tmp_path / "relay.mp4")) as container:
                return sum(1 for _ in container.decode(video=0)) > 8
        except av.FFmpegError:
            return False

    qtbot.waitUntil(whole)
    window.rig.remove()
    assert session.show.feeds == ()


@pytest.mark.parametrize("mask", [False, True])
def test_a_key_is_set_by_picking_its_colour(window: MainWindow, qtbot: object, tmp_path: Path, mask: bool) -> None:
    session = window.session
    rig(window)
    green = np.full((90, 160, 3), (60, 168, 31), np.uint8)
    green[20:70, 40:120] = (40, 60, 200)
    cv2.imwrite(str(tmp_path / "filmed.png"), green)
    drop(window, [tmp_path / "filmed.png"])
    id = session.source
    choose(window, "Key", "a colour")
    assert isinstance(session.show.source(id).picture.key, ChromaKey)
    drawing = window.rig.drawing
    qtbot.waitUntil(lambda: (drawing.grab(), drawing._pictured.width() > 10)[1])
    box = drawing._pictured
    at = QPointF(box.x() + box.width() * 0.05, box.y() + box.height() * 0.1)
    qtbot.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=at.toPoint())
    key = session.show.source(id).picture.key
    assert isinstance(key, ChromaKey) and key.colour == "#1FA83C"
    if mask:
        window.rig.inspector.row("Mask alone").editor.click()
        assert session.show.source(id).picture.mask

    def seen() -> bool:
        frame = session.playout.picture_of(id)
        if frame is None or frame.opaque != mask:
            return False
        middle, edge = frame.pixels[45, 80], frame.pixels[3, 3]
        return (
            middle.tolist() == [255] * 4 and edge.tolist() == [0, 0, 0, 255]
            if mask
            else (middle[3] == 255 and edge[3] == 0)
        )

    qtbot.waitUntil(seen)


# -- the shelf ---------------------------------------------------------------------------------------------------------


def test_sources_are_found_grouped_coloured_copied_and_removed_on_the_shelf(window: MainWindow, qtbot: object) -> None:
    rig(window)
    shelf, session = window.rig.shelf, window.session
    qtbot.mouseClick(window.rig.shelf_button, Qt.MouseButton.LeftButton)  # type: ignore[attr-defined]
    assert shelf.isVisible() and len(shelf.shown()) == len(session.show.sources)
    shelf.finder.setText("camera CLIP")
    assert shelf.shown() == ["roof-camera", "aisle-camera"], "every word is there, in whatever case"
    qtbot.keyClick(shelf.finder, Qt.Key.Key_Return)  # type: ignore[attr-defined]
    assert session.source == "roof-camera" and shelf.chosen() == ("roof-camera",)
    qtbot.waitUntil(lambda: shelf.picture("roof-camera") is not None)  # type: ignore[attr-defined]
    assert shelf.picture("roof-camera").height() <= 45

    for item in shelf._items():
        item.setSelected(True)
    mime = shelf.tree.mimeData(shelf.tree.selectedItems())
    assert sources_dragged(mime) == ("roof-camera", "aisle-camera")
    shelf.group(sources_dragged(mime), "Cameras")
    assert list(by_group(session.show)) == ["", "Cameras"] and session.undo_label == "Group Cameras"
    shelf.finder.clear()
    assert shelf.shown()[-2:] == ["roof-camera", "aisle-camera"]
    head = next(i for i in shelf._items() if i.childCount() and i.text(0) == "Cameras")
    place = QPointF(shelf.tree.visualItemRect(head).center())
    mime = QMimeData()
    mime.setData(SOURCES, b'["orrery"]')
    shelf.tree.scrollToItem(head)
    place = QPointF(shelf.tree.visualItemRect(head).center())
    keys = Qt.KeyboardModifier.NoModifier
    shelf.tree.dropEvent(QDropEvent(place, Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, keys))
    assert session.show.source("orrery").group == "Cameras", "dropped on a heading, it stands under it"

    shelf.recolour(("orrery", "slides"), "#112233")
    assert {session.show.source(id).colour for id in ("orrery", "slides")} == {"#112233"}
    shelf.copy(("orrery",))
    assert session.source == "orrery-2" and shelf.shown()[-1] == "orrery-2"
    shelf.rename("orrery-2", "  Small orrery ")
    assert session.show.source("orrery-2").name == "Small orrery"
    shelf.remove(("orrery-2",))
    assert "orrery-2" not in shelf.shown()
    before = session.show
    shelf.remove(("slides",))
    assert session.show == before, "what presets and layers show is not removed; it is said"
    for _ in range(5):
        session.undo()
    assert list(by_group(session.show)) == ["", "Cameras"]
    session.undo()
    assert list(by_group(session.show)) == [""]


def test_the_shelf_says_what_is_on_air_armed_and_lost(window: MainWindow, qtbot: object, tmp_path: Path) -> None:
    rig(window)
    shelf, session = window.rig.shelf, window.session
    window.rig.show_shelf(True)
    session.playout.act(StagePreset(preset=7))
    waits = qtbot.waitUntil  # type: ignore[attr-defined]
    waits(lambda: "slides" in shelf.on_program and "moon-phases" in shelf.on_preview)
    session.edit(
        "Add", with_item(session.show, "sources", Still(id="gone", name="Gone", path=str(tmp_path / "no.png")))
    )
    waits(lambda: shelf.state_of(session.show.source("gone"))[1] == theme.RED_WORDS)
    assert shelf.state_of(session.show.source("slides"))[0] == "folder of pictures"
