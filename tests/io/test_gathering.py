"""Files of sources copied beside the show."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from ushering_adze.core.show import Folder, Show, ShowError, Still
from ushering_adze.desk.gathering import Gathering
from ushering_adze.desk.session import Session
from ushering_adze.io import gathering
from ushering_adze.io.gathering import gathered, outside, with_gathered
from ushering_adze.io.showfile import absolute, read_show, save_show


@pytest.fixture
def elsewhere(tmp_path: Path) -> Path:
    """Two stills of one name, and a folder."""
    for name in ("one", "two", "slides"):
        (tmp_path / "far" / name).mkdir(parents=True)
        (tmp_path / "far" / name / "card.png").write_bytes(name.encode() * 100)
    return tmp_path / "far"


def show_of(folder: Path) -> Show:
    return Show(
        name="S",
        sources=(
            Still(id="a", name="A", path=str(folder / "one" / "card.png")),
            Still(id="b", name="B", path=str(folder / "two" / "card.png")),
            Still(id="again", name="Again", path=str(folder / "one" / "card.png")),
            Folder(id="c", name="C", path=str(folder / "slides")),
        ),
    )


def test_files_come_beside_the_show_and_the_same_once(elsewhere: Path, tmp_path: Path) -> None:
    home, show = tmp_path / "show", show_of(elsewhere)
    home.mkdir()
    assert len(outside(show, home)) == 3
    here = with_gathered(show, gathered(show, home))
    assert outside(here, home) == ()
    a, b, again, c = (Path(s.path) for s in here.sources)  # type: ignore[union-attr]
    assert (a, b) == (home / "media" / "card.png", home / "media" / "card-2.png") and again == a
    assert a.read_bytes() == b"one" * 100 and b.read_bytes() == b"two" * 100
    assert (c / "card.png").read_bytes() == b"slides" * 100
    twice = with_gathered(show, gathered(show, home))
    assert twice == here and len(list((home / "media").iterdir())) == 3, "what is there already is used"
    save_show(here, home / "s.adze")
    assert '"path": "media/card-2.png"' in (home / "s.adze").read_text()
    assert absolute(read_show(home / "s.adze"), home) == here
    assert [p.name for p in outside(show, home, {"b"})] == ["card.png"]


def test_a_copy_that_fails_leaves_nothing_and_is_said(
    elsewhere: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    home, show = tmp_path / "show", show_of(elsewhere)
    (elsewhere / "two" / "card.png").unlink()
    with pytest.raises(ShowError, match=r"card\.png: it cannot be copied beside the show"):
        gathered(show, home)

    def full(source: object, target: Path) -> None:
        Path(target).write_bytes(b"half")
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(gathering.shutil, "copyfile", full)
    other = tmp_path / "other"
    with pytest.raises(ShowError, match=r"No space left on device\); mend that and try again"):
        gathered(show, other, {"a"})
    assert list((other / "media").iterdir()) == []


def test_in_the_desk_it_is_one_edit(elsewhere: Path, tmp_path: Path, qtbot: QtBot) -> None:
    home, said = tmp_path / "show", list[str]()
    home.mkdir()
    save_show(show_of(elsewhere), home / "s.adze")
    session = Session(read_show(home / "s.adze"), home / "s.adze", home)
    session.trouble.connect(said.append)
    made = Gathering(session)
    made.gather()
    qtbot.waitUntil(lambda: not made.running and len(said) > 1)
    assert session.undo_label == "Files beside the show" and outside(session.show, home) == ()
    assert "save it to keep that" in said[-1]
    made.gather()
    assert said[-1] == "All files of the show lie beside it."
    Gathering(Session(Show(name="New"), None, tmp_path)).gather()
