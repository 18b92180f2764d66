"""The log stops nobody: not by what is logged, not by how much, and not by whoever reads it, or does not."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
from pathlib import Path

import pytest

from ushering_adze.io import logs, places
from ushering_adze.io.logs import Log


def failing(log: Log, times: int) -> None:
    huge = list(range(100_000))
    for _ in range(times):
        try:
            raise ValueError(f"broken {len(huge)}")
        except ValueError:
            log.exception("sink failed", output="relay")


def test_what_comes_again_and_again_is_counted_and_no_locals_are_written() -> None:
    log = Log()
    failing(log, 20_000)
    log.flush(30)
    text = places.log_file().read_text()
    assert text.count("sink failed") == logs.IN_WINDOW and "ValueError: broken 100000" in text and "in failing" in text
    assert "99999" not in text and len(text) < 4000
    next(iter(log._seen.values()))[0] -= logs.WINDOW * 2
    failing(log, 1)
    log.flush(30)
    assert f"({20_000 - logs.IN_WINDOW} times more before this)" in places.log_file().read_text()


def test_the_file_is_turned_over_and_a_full_disk_is_only_counted(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(logs, "FILE_BYTES", 2000)
    log = Log()
    for n in range(300):
        log.warning(f"event {n}", note="x" * 5000)
        if n % 50 == 49:
            log.flush(30)
    log.flush(30)
    files = sorted(places.log_file().parent.iterdir())
    assert 1 < len(files) <= logs.FILES + 1 and all(f.stat().st_size < 4000 for f in files)
    monkeypatch.setattr(
        logging.StreamHandler, "flush", lambda self: (_ for _ in ()).throw(OSError(28, "No space left on device"))
    )
    before = logs.log.left_out
    log.warning("not written")
    log.flush(30)
    assert logs.log.left_out == before + 1


FLOOD = """
import sys, time
from ushering_adze.io.logs import log, log_to_stderr
log_to_stderr()
began = time.monotonic()
for n in range(40_000):
    try:
        {}["x" * 50 + str(n % 700)]
    except KeyError:
        log.exception("frame failed " + str(n % 700))
print("done", flush=True)
log.flush(1)
"""


def test_a_pipe_that_nobody_reads_stops_nobody() -> None:
    program = subprocess.Popen([sys.executable, "-c", FLOOD], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert program.stdout is not None and program.stdout.readline() == "done\n", (
        "its standard error is full, and it goes on"
    )
    assert program.wait(300) == 0
    lines = program.stderr.read().splitlines() if program.stderr else []
    assert lines and all(
        line.startswith("adze: frame failed") and "KeyError" in line and len(line) <= logs.LONGEST for line in lines
    )
    assert not any("Traceback" in line for line in lines)


def test_where_it_cannot_be_kept_the_program_goes_on(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    log = Log()
    log.warning("nowhere to be written", surface=os.fsdecode(b"\xe9"))
    log.flush(30)
    assert log.left_out == 1 and not (tmp_path / "file").is_dir()
