"""A show's file among others, and what is kept of it beside: nothing anybody made is lost without a word."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from ushering_adze.core.show import Show, ShowError, Still
from ushering_adze.desk.filing import Filing
from ushering_adze.io import keeping
from ushering_adze.io.beside import ShowLock, conflict, fingerprint
from ushering_adze.io.keeping import Autosave, keep_version, kept_for, left_behind, versions
from ushering_adze.io.showfile import absolute, read_show, save_show
from ushering_adze.io.writing import clean_up, write_whole

SHOW = Show(name="Evening")


@pytest.fixture
def path(tmp_path: Path) -> Path:
    path = tmp_path / "evening.adze"
    save_show(SHOW, path)
    return path


@pytest.mark.parametrize("mode", [0o600, 0o664, 0o640])
def test_a_file_keeps_its_mode_and_a_link_is_followed(mode: int, path: Path, tmp_path: Path) -> None:
    path.chmod(mode)
    link = tmp_path / "link.adze"
    link.symlink_to(path)
    write_whole(link, b"new")
    assert link.is_symlink() and path.read_bytes() == b"new" and path.stat().st_mode & 0o777 == mode
    path.chmod(0o444)
    with pytest.raises(ShowError, match=r"write-protected; take the protection away, or save under another name"):
        write_whole(path, b"newer")
    assert path.read_bytes() == b"new" and path.stat().st_mode & 0o777 == 0o444


def test_what_a_kill_left_is_cleaned_up_and_what_is_being_written_is_not(path: Path) -> None:
    gone = subprocess.Popen([sys.executable, "-c", ""])
    gone.wait(300)
    left, ours = path.parent / f".evening.adze.{gone.pid}-1.part", path.parent / f".evening.adze.{os.getpid()}-9.part"
    former, fresh = path.parent / ".evening.adze.abcd_123", path.parent / ".evening.adze.zzzz_123"
    other = path.parent / f".other.adze.{gone.pid}-1.part"
    for file in (left, ours, former, fresh, other):
        file.write_bytes(b"half")
    os.utime(former, (0, 0))
    assert clean_up(path) == 2 and not left.exists() and not former.exists()
    assert ours.exists() and fresh.exists() and other.exists()


def test_a_file_that_another_changed_is_not_written_over(path: Path) -> None:
    filing = Filing(path, "Evening")
    assert filing.save(SHOW.model_copy(update={"name": "Mine"}), path).show is not None
    save_show(SHOW.model_copy(update={"name": "Theirs"}), path)
    refused = filing.save(SHOW, path)
    assert refused.show is None and refused.may_insist and "was changed by another program" in refused.why
    assert read_show(path).name == "Theirs"
    assert filing.save(SHOW, path, insist=True).show is not None and read_show(path).name == "Evening"
    kept = [(k.what, read_show(k.file).name) for k, _ in filing.versions()]
    assert ("saved by another", "Theirs") in kept and ("saved", "Mine") in kept
    assert filing.save(SHOW, path).show is not None, "and then it is ours again"
    filing.close(wanted=False)


def test_a_drive_that_vanished_is_not_written_into_its_empty_place(path: Path, tmp_path: Path) -> None:
    stick = tmp_path / "stick"
    stick.mkdir()
    on_stick = stick / "show.adze"
    save_show(SHOW, on_stick)
    filing, known = Filing(on_stick, "Evening"), fingerprint(on_stick)
    assert known is not None and conflict(on_stick, known) is None
    stick.rename(tmp_path / "away")
    assert "is not there any more" in filing.save(SHOW, on_stick).why and not stick.exists()
    stick.mkdir()  # the bare mount point
    refused = filing.save(SHOW, on_stick, insist=True)
    assert refused.show is None and not refused.may_insist and "another one than it was opened from" in refused.why
    assert list(stick.iterdir()) == []
    stick.rmdir()
    (tmp_path / "away").rename(stick)
    assert filing.save(SHOW, on_stick).show is not None
    on_stick.unlink()
    assert filing.save(SHOW, on_stick).show is not None and on_stick.exists(), (
        "a file that was only removed is made again"
    )
    filing.close(wanted=False)


def test_two_who_have_it_open_are_told_of_each_other(path: Path) -> None:
    first, second = Filing(path, "Evening"), Filing(path, "Evening")
    assert (
        first.told is None
        and "evening.adze is open elsewhere" in (second.told or "")
        and f"(process {os.getpid()})" in (second.told or "")
    )
    refused = second.save(SHOW, path)
    assert refused.show is None and refused.may_insist and "open elsewhere" in refused.why
    first.close(wanted=False)
    assert second.save(SHOW, path).show is not None, "once it is free, it is ours"
    second.close(wanted=False)
    assert [p.name for p in path.parent.iterdir() if p.suffix == ".lock"] == []


def test_a_save_elsewhere_that_failed_leaves_no_lock_behind(
    path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    filing, target = Filing(path, "Evening"), tmp_path / "else.adze"

    def full(handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(ShowError, match="No space left"):
        filing.save(SHOW, target)
    monkeypatch.undo()
    assert filing.save(SHOW, target).show is not None, "it is not open elsewhere: that was us"
    filing.close(wanted=False)


def test_a_lock_goes_with_its_process_and_odd_ones_do_no_harm(path: Path) -> None:
    code = (
        f"from pathlib import Path; from ushering_adze.io.beside import ShowLock; l = ShowLock(Path({str(path)!r})); "
        "print(l.held, flush=True); input()"
    )
    holder = subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert holder.stdout is not None and holder.stdout.readline() == "True\n"
    lock = ShowLock(path)
    assert not lock.held and lock.other is not None and lock.other.pid == holder.pid
    lock.path.write_bytes(b"{")
    assert not lock.take() and "somebody on another machine" in str(lock.other)
    holder.send_signal(signal.SIGKILL)
    holder.wait(300)
    assert lock.take() and lock.held
    lock.release()
    assert not ShowLock(Path("/proc/none/show.adze")).held, (
        "where none can be made, nothing is locked and nothing fails"
    )


def test_a_path_that_is_no_text_is_one_sentence(tmp_path: Path) -> None:
    odd = tmp_path / os.fsdecode(b"stage \xe9")
    odd.mkdir()
    save_show(SHOW, odd / "show.adze")
    assert read_show(odd / "show.adze") == SHOW
    filing = Filing(odd / "show.adze", "Evening")
    still = Still(id="s", name="Slide", path="slide.png")
    show = absolute(SHOW.model_copy(update={"sources": (still,)}), odd)
    filing.autosave.note(show, odd)
    assert filing.autosave.flush() and filing.autosave.fault is None
    assert filing.save(show, odd / "show.adze").show is not None
    with pytest.raises(ShowError, match=r"Slide: its path has a name that is not UTF-8\); rename"):
        filing.save(show, tmp_path / "elsewhere.adze")
    assert not (tmp_path / "elsewhere.adze").exists()
    filing.close(wanted=False)


# -- edits and versions ------------------------------------------------------------------------------------------------

EDITOR = """
import sys
from pathlib import Path
from ushering_adze.core.show import Show
from ushering_adze.io.keeping import Autosave, kept_for
path = Path(sys.argv[1])
autosave = Autosave(kept_for(path, "Evening"))
for n in range(50):
    autosave.note(Show(name=f"Edit {n}"), path.parent)
print(autosave.flush(30), flush=True)
input()
"""


def test_edits_outlive_a_kill_and_are_nobodys_while_their_program_runs(path: Path) -> None:
    program = subprocess.Popen(
        [sys.executable, "-c", EDITOR, str(path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert program.stdout is not None and program.stdout.readline() == "True\n"
    folder = kept_for(path, "Evening")
    assert left_behind(folder) is None
    program.send_signal(signal.SIGKILL)
    program.wait(300)
    edits = left_behind(folder)
    assert edits is not None and edits.document["name"] == "Edit 49" and edits.root == path.parent  # type: ignore[index]
    keeping.forget(edits)
    assert left_behind(folder) is None and list(folder.iterdir()) == []


def test_edits_that_are_saved_or_not_wanted_do_not_come_back(path: Path) -> None:
    folder = kept_for(path, "Evening")
    autosave = Autosave(folder)
    autosave.note(SHOW, path.parent)
    assert autosave.flush(30) and len(list(folder.glob("edits-*.json"))) == 1
    autosave.clear()
    assert autosave.flush(30)
    assert list(folder.glob("edits-*.json")) == []
    autosave.note(SHOW.model_copy(update={"name": "Thrown away"}), path.parent)
    autosave.put_by()
    autosave.close()
    assert left_behind(folder) is None and [(v.what, read_show(v.file).name) for v in versions(folder)] == [
        ("unsaved edits", "Thrown away")
    ]


def test_edits_that_cannot_be_kept_are_told_and_damaged_ones_left_out(
    path: Path, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    folder = kept_for(path, "Evening")
    folder.mkdir(parents=True)
    for n, text in enumerate(("", "{", "[]", '{"at": "x", "root": 1, "show": {}}', "[" * 100_000)):
        (folder / f"edits-{n}.json").write_text(text)
    assert left_behind(folder) is None
    (tmp_path / "file").write_text("")
    autosave = Autosave(tmp_path / "file" / "kept")
    autosave.note(SHOW, path.parent)
    assert autosave.flush(30) and autosave.fault is not None and "save the show now" in autosave.fault
    autosave.close()


def test_the_last_ten_versions_are_kept(path: Path) -> None:
    folder = kept_for(path, "Evening")
    for n in range(14):
        keep_version(folder, f"{n}".encode())
    assert [v.file.read_text() for v in versions(folder)] == [str(n) for n in range(13, 3, -1)]
