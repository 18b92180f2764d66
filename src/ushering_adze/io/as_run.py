"""The as-run log in files: one for each day, a JSON object in each line, written beside the show."""

from __future__ import annotations

import json
import queue
import threading
import time
from pathlib import Path

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.onair.as_run import Line
from ushering_adze.io.logs import log
from ushering_adze.io.places import state_folder


def as_run_folder() -> Path:
    """Where the logs of the days are kept."""
    return state_folder() / "as-run"


def clock_words(at: float) -> str:
    """A moment as it is written: the day, and the time to a hundredth of a second."""
    return time.strftime("%Y-%m-%d %H:%M:%S", time.localtime(at)) + f"{at % 1:.2f}"[1:]


class AsRunWriter:
    """Writes lines in a thread of its own: a disk that does not answer keeps nobody waiting."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._lines: queue.SimpleQueue[Line | None] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._work, name="as-run", daemon=True)
        self._thread.start()

    def write(self, line: Line) -> None:
        """Have a line written."""
        self._lines.put(line)

    def close(self, seconds: float = 2.0) -> None:
        """End, with what waits written."""
        self._lines.put(None)
        self._thread.join(seconds)

    def _work(self) -> None:
        while (line := self._lines.get()) is not None:
            try:
                self._folder.mkdir(parents=True, exist_ok=True)
                path = self._folder / time.strftime("%Y-%m-%d.jsonl", time.localtime(line.begin))
                with path.open("a", encoding="utf-8") as file:
                    file.write(json.dumps(line._asdict(), ensure_ascii=False) + "\n")
            except OSError as error:
                log.warning(f"the as-run log cannot be written ({error.strerror})")


def days() -> list[str]:
    """The days of which there is a log, the last one first."""
    folder = as_run_folder()
    return sorted((p.stem for p in folder.glob("????-??-??.jsonl")), reverse=True) if folder.is_dir() else []


def read_day(day: str) -> tuple[Line, ...]:
    """The lines of a day, in the order of their beginnings; what is damaged is left out.

    Raises
    ------
    ShowError
        If there is no log of it.
    """
    path = as_run_folder() / f"{day}.jsonl"
    try:
        text = path.read_text(encoding="utf-8", errors="replace")
    except OSError:
        known = ", ".join(days()[:5]) or "none yet"
        raise ShowError([Fault("as-run", f"there is no log of {day}; there are {known}")]) from None
    found = []
    for row in text.splitlines():
        try:
            held = json.loads(row)
            found.append(Line(**{**held, "shows": tuple(held["shows"])}))
        except (ValueError, TypeError, KeyError):
            continue
    return tuple(sorted(found, key=lambda line: line.begin))
