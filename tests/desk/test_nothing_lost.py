"""Whatever happens to the program, its file, or an edit: desk and engine hold the same show, and nothing anybody made
is lost.
"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QPushButton

from ushering_adze.core.show import Output, Show
from ushering_adze.core.show.edits import with_output
from ushering_adze.core.show.weight import grown_bytes
from ushering_adze.demo.show import copy_demo
from ushering_adze.desk.log_sheet import last_lines
from ushering_adze.desk.session import Session
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine import renderer as drawing
from ushering_adze.io.logs import log_unhandled
from ushering_adze.io.places import log_file
from ushering_adze.io.showfile import read_show, save_show


def renamed(show: Show, name: str) -> Show:
    return show.model_copy(update={"name": name})


@pytest.fixture
def on_file(window: MainWindow, tmp_path: Path) -> Path:
    """The window's show, in a file of its own."""
    path = copy_demo(tmp_path / "demo")
    assert window.session.open(path)
    return path


# -- what cannot be run ------------------------------------------------------------------------------------------------


def test_an_edit_that_cannot_be_run_is_taken_back_and_told(
    window: MainWindow, qtbot: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, said = window.session, list[str]()
    session.trouble.connect(said.append)
    before, real = session.show, drawing.compile_output

    def failing(show: Show, output: Output, *more: Any) -> Any:
        if show.name == "Bad":
            raise ZeroDivisionError
        return real(show, output, *more)

    monkeypatch.setattr(drawing, "compile_output", failing)
    session.edit("Good", renamed(before, "Good"))
    good = session.show
    session.edit("Bad", renamed(good, "Bad"))
    qtbot.waitUntil(lambda: bool(said))
    assert said == ["Bad: it cannot be mapped (ZeroDivisionError); it is taken back, and what was on air is untouched."]
    assert session.show is good and session.undo_label == "Good" and session.redo_label is None
    qtbot.waitUntil(lambda: session.playout.stage.show is good)


def test_an_edit_that_the_engine_does_not_take_is_no_step(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    show = session.show
    session.edit("Good", renamed(show, "Good"))
    good = session.show

    def failing(*args: Any) -> None:
        raise MemoryError

    monkeypatch.setattr(session.playout, "edit", failing)
    assert not session.try_edit("Bad", lambda now: renamed(now, "Bad"))
    with pytest.raises(MemoryError):
        session.undo()
    assert session.show is good and session.undo_label == "Good" and session.redo_label is None


def test_a_show_that_cannot_be_run_changes_nothing(
    window: MainWindow, qtbot: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    session, refused = window.session, list[str]()
    session.refused.connect(refused.append)
    path = tmp_path / "other.adze"
    save_show(renamed(session.show, "Other"), path)
    before = (session.show, session.path, session.root)

    def failing(*args: Any, **more: Any) -> None:
        raise MemoryError

    monkeypatch.setattr(drawing, "compile_output", failing)
    assert not session.open(path)
    monkeypatch.undo()
    assert (session.show, session.path, session.root) == before and session.playout.stage.show is session.show
    assert refused == ["other.adze: there is not enough memory for it; Centenary Night stays open and on air."]
    huge = with_output(
        session.show, session.show.outputs[0].model_copy(update={"timing": {"width": 32768, "height": 32768}})
    )
    save_show(Show.model_validate(huge.model_dump(warnings=False)), path)
    monkeypatch.setattr("ushering_adze.desk.session.memory_bytes", lambda: 8 << 30)
    assert (
        not session.open(path)
        and "other.adze: Processor A: 32768 × 32768 px take" in refused[-1]
        and session.show is before[0]
    )
    assert (
        not session.try_edit("Huge", lambda show: Show.model_validate(huge.model_dump(warnings=False)))
        and session.show is before[0]
    )


@pytest.mark.parametrize(
    "landing",
    [
        {"kind": "quad", "corners": [[0, 0], [50, 0], [100, 0], [0, 90]]},
        {"kind": "quad", "corners": [[0, 0], [99, 99], [99, 0], [0, 99]]},
        {"kind": "quad", "corners": [[5, 5]] * 4},
        {"kind": "mesh", "columns": 2, "rows": 2, "points": [[7, 7]] * 4},
    ],
)
def test_a_landing_that_cannot_be_is_refused_with_its_place(
    landing: dict[str, Any], on_file: Path, window: MainWindow
) -> None:
    session, refused, show = window.session, list[str](), window.session.show
    session.refused.connect(refused.append)
    document = json.loads(on_file.read_text())
    document["canvases"][0]["regions"][2]["landing"] = landing
    bad = on_file.with_name("bad.adze")
    bad.write_text(json.dumps(document, indent=1))
    assert not session.open(bad) and session.show is show and session.playout.stage.show.name == show.name
    assert refused[0].startswith("bad.adze, line ") and ": canvases[0].regions[2].landing: " in refused[0], refused


def test_what_nobody_caught_is_logged_and_told(window: MainWindow, monkeypatch: pytest.MonkeyPatch, qtbot: Any) -> None:
    for hook in ("excepthook", "unraisablehook"):
        monkeypatch.setattr(sys, hook, getattr(sys, hook))
    monkeypatch.setattr("threading.excepthook", sys.modules["threading"].excepthook)
    told: list[str] = []
    log_unhandled(told.append)
    hook = sys.excepthook
    try:
        raise ValueError("in a slot")
    except ValueError as error:
        hook(ValueError, error, error.__traceback__)
    assert told == ["ValueError"]
    window.book.actions["log"].trigger()
    sheet = window.log_sheet
    assert sheet.isVisible() and not sheet.isModal() and str(log_file()) in sheet.place.text()
    qtbot.waitUntil(lambda: "ValueError: in a slot" in last_lines(log_file()))
    sheet.open()
    assert "unhandled ValueError: in a slot" in sheet.text.toPlainText()
    sheet.hide()


# -- others at the same file -------------------------------------------------------------------------------------------


def test_saving_over_what_another_saved_is_asked_about(on_file: Path, window: MainWindow, qtbot: Any) -> None:
    session = window.session
    session.edit("Rename", renamed(session.show, "Mine"))
    save_show(renamed(read_show(on_file), "Theirs"), on_file)
    assert not window.save() and read_show(on_file).name == "Theirs" and session.edited
    box = window.refusal
    assert (
        box is not None and not box.isModal() and "show.adze was changed by another program or window at" in box.text()
    )
    over = next(b for b in box.findChildren(QPushButton) if b.text() == "Save over it")
    over.click()
    assert read_show(on_file).name == "Mine" and not session.edited
    window.book.actions["versions"].trigger()
    sheet = window.versions_sheet
    words = [sheet.list.item(n).text() for n in range(sheet.list.count())]
    assert len(words) == 2 and words[0].startswith("saved ") and words[1].startswith("saved by another ")
    sheet.list.setCurrentRow(1)
    sheet.take.click()
    assert session.show.name == "Theirs" and session.edited and session.undo_label is not None
    session.undo()
    assert session.show.name == "Mine"


def test_undo_is_bounded_by_the_memory_it_takes(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ushering_adze.desk.session.UNDO_BYTES", 200_000)
    for n in range(60):
        session.edit(
            f"Edit {n}", Show.model_validate_json(renamed(session.show, f"Show {n}").model_dump_json())
        )  # shares nothing
    assert 1 <= len(session._undo) < 20 and session.undo_label == "Edit 59"
    monkeypatch.setattr("ushering_adze.desk.session.UNDO_BYTES", 256 << 20)
    for n in range(60):
        session.edit(f"Name {n}", renamed(session.show, f"Name {n}"))
    assert len(session._undo) > 60, "edits that share all but a name take next to nothing"


def test_what_an_edit_takes_is_counted_while_another_thread_keeps_what_it_derived(
    show: Show, monkeypatch: pytest.MonkeyPatch
) -> None:
    counted, copied = sys.getsizeof, Show.model_validate_json(show.model_dump_json())

    def counting(value: object) -> int:
        copied.__dict__[f"derived {len(copied.__dict__)}"] = 1  # as another thread would, between two steps of this one
        return counted(value)

    monkeypatch.setattr(sys, "getsizeof", counting)
    assert grown_bytes(copied, show) > 10_000


# -- the program ends --------------------------------------------------------------------------------------------------

EDITING = """
import os, signal, sys
from pathlib import Path
from PySide6.QtCore import QTimer
from ushering_adze.desk import app
from ushering_adze.io.showfile import read_show
path, how = Path(sys.argv[1]), sys.argv[2]
real = app.opened
def opened(*args):
    window = real(*args)
    session = window.session
    def edit():
        print("found", session.show.name, session.undo_label, flush=True)
        if how == "look":
            session.undo()
            print("undone", session.show.name, flush=True)
            os.kill(os.getpid(), signal.SIGTERM)
            return
        session.edit("Rename", session.show.model_copy(update={"name": "Edited"}))
        if how == "kill":
            session.filing.autosave.flush(60)
        print("edited", flush=True)
        if how == "term":
            os.kill(os.getpid(), signal.SIGTERM)
    QTimer.singleShot(0, window, edit)
    return window
app.opened = opened
raise SystemExit(app.run(read_show(path), path, path.parent))
"""


HANGING = """
import os, signal, sys
from pathlib import Path
from PySide6.QtCore import QTimer
from ushering_adze.desk import app
from ushering_adze.io.showfile import read_show
from ushering_adze.playout import link
path = Path(sys.argv[1])
link.PICTURES = "hangs_on_media"
real = app.opened
def window(*args):
    made = real(*args)
    def end():
        if not Path(os.environ["HANGS"]).exists():
            QTimer.singleShot(20, made, end)
            return
        print("hangs", flush=True)
        made.session.edit("Rename", made.session.show.model_copy(update={"name": "Edited"}))
        os.kill(os.getpid(), signal.SIGTERM)
    end()
    return made
app.opened = window
raise SystemExit(app.run(read_show(path), path, path.parent))
"""


def test_the_program_ends_whatever_hangs(tmp_path: Path) -> None:
    path = copy_demo(tmp_path / "demo")
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(tmp_path), "HOME": str(tmp_path)}
    env |= {"HANGS": str(tmp_path / "hangs"), "PYTHONPATH": str(Path(__file__).parents[1] / "playout" / "ends")}
    done = subprocess.run(
        [sys.executable, "-c", HANGING, str(path)], capture_output=True, text=True, env=env, timeout=300
    )
    assert done.stdout == "hangs\n" and done.returncode == 0, done.stderr


def program(path: Path, how: str) -> subprocess.Popen[str]:
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(path.parent), "HOME": str(path.parent)}
    return subprocess.Popen(
        [sys.executable, "-c", EDITING, str(path), how],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env=env,
    )


@pytest.mark.parametrize("how", ["kill", "term"])
def test_edits_come_back_after_the_program_was_ended(how: str, tmp_path: Path) -> None:
    """Killed when the edits are on the disk, or told to end at once after an edit: both times they are there again, and
    can be undone.
    """
    path = copy_demo(tmp_path / "demo")
    first = program(path, how)
    assert first.stdout is not None
    assert [first.stdout.readline().strip() for _ in range(2)] == ["found Centenary Night None", "edited"]
    if how == "kill":
        first.send_signal(signal.SIGKILL)
        assert first.wait(300) == -signal.SIGKILL
    else:
        assert first.wait(300) == 0, first.stderr.read() if first.stderr else ""
    assert read_show(path).name == "Centenary Night", "no file was touched"
    second = program(path, "look")
    out, err = second.communicate(timeout=300)
    assert (
        out.splitlines() == ["found Edited Edits brought back", "undone Centenary Night"] and second.returncode == 0
    ), err
    third = program(path, "look")
    out, err = third.communicate(timeout=300)
    assert out.splitlines()[0] == "found Centenary Night None", "what was undone does not come back again"
