"""What was on every surface, from when to when, and by what: the as-run log."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Mapping
from typing import NamedTuple

Now = Mapping[str, tuple[tuple[str, ...], str]]
"""What surfaces show: names of sources, and the state in a word, by name of the surface."""


class Line(NamedTuple):
    """A surface showed this from ``begin`` to ``end``, in seconds of the calendar's clock; ``end`` is None while it
    does.
    """

    surface: str
    begin: float
    end: float | None
    shows: tuple[str, ...]
    state: str
    by: str

    @property
    def words(self) -> str:
        """What was shown, in one line."""
        what = " + ".join(self.shows) or "nothing"
        return what if self.state == "live" else f"{what} ({self.state})"


def noted(running: Mapping[str, Line], now: Now, at: float, by: str) -> tuple[dict[str, Line], tuple[Line, ...]]:
    """What is on surfaces from a moment on, and the lines that ended there.

    Parameters
    ----------
    running : mapping
        By surface, as it was.
    now : mapping
    at : float
        Seconds of the calendar's clock.
    by : str
        What made it so.

    Returns
    -------
    dict of Line
        What runs on, or has begun.
    tuple of Line
        What has ended: surfaces that show something else, or are gone.
    """
    after, ended = dict(running), []
    for surface, line in running.items():
        if surface not in now or now[surface] != (line.shows, line.state):
            ended.append(line._replace(end=at))
            del after[surface]
    for surface, (shows, state) in now.items():
        if surface not in after:
            after[surface] = Line(surface, at, None, shows, state, by)
    return after, tuple(ended)


FRAMES = "frames"
"""In place of a surface: frames that were late."""
ALARM = "alarm"
"""State of a line that says what was wrong, not what was shown."""
WRONG = frozenset({ALARM, "lost", "backup", "override", "held", "black", "partly black", "pattern", "rehearsal"})
"""States that are none a surface is meant to be in during a show, or that somebody has forced."""


def noted_alarms(
    running: Mapping[str, Line], now: Mapping[str, tuple[str, str]], at: float
) -> tuple[dict[str, Line], tuple[Line, ...]]:
    """What is wrong from a moment on, and the lines of what is over.

    Parameters
    ----------
    running : mapping
        By key, as it was.
    now : mapping
        What is wrong, by key: what it is of, and a sentence.
    at : float

    Returns
    -------
    dict of Line
    tuple of Line
    """
    ended = tuple(line._replace(end=at) for key, line in running.items() if key not in now)
    after = {key: running.get(key) or Line(of, at, None, (what,), ALARM, "") for key, (of, what) in now.items()}
    return after, ended


def late_line(begin: float, end: float, late: int, frames: int) -> Line:
    """Frames that were late between two moments."""
    return Line(FRAMES, begin, end, (f"{late} late of {frames}",), "late", "")


def late_frames(lines: Iterable[Line]) -> tuple[int, int]:
    """Frames that were late, and all frames of the times in which any was.

    Examples
    --------
    >>> late_frames([late_line(0, 60, 2, 1800), late_line(60, 120, 1, 1800), Line("Relay", 0, 1, (), "live", "")])
    (3, 3600)
    """
    late = frames = 0
    for line in lines:
        if line.surface == FRAMES and line.shows:
            first, _, last = line.shows[0].partition(" late of ")
            if first.isdigit() and last.isdigit():
                late, frames = late + int(first), frames + int(last)
    return late, frames


def incidents(lines: Iterable[Line]) -> tuple[Line, ...]:
    """What a report of an evening begins with: surfaces that were lost, stood in for, or forced."""
    return tuple(line for line in lines if line.state in WRONG and line.surface != FRAMES)


def per_surface(lines: Iterable[Line]) -> tuple[tuple[str, int, float], ...]:
    """By surface: how many pictures it had one after another, and for which share of the time as it was meant."""
    every: dict[str, list[Line]] = {}
    for line in lines:
        if line.surface != FRAMES:
            every.setdefault(line.surface, []).append(line)
    result = []
    for surface, mine in every.items():
        spent = sum((y.end or y.begin) - y.begin for y in mine)
        wrong = sum((y.end or y.begin) - y.begin for y in mine if y.state in WRONG)
        result.append((surface, len(mine), 1.0 - wrong / spent if spent > 0 else 1.0))
    return tuple(result)


def found(lines: Iterable[Line], typed: str) -> tuple[Line, ...]:
    """The lines that hold every word that is typed."""
    wanted = typed.lower().split()
    return tuple(line for line in lines if all(w in f"{line.surface} {line.words} {line.by}".lower() for w in wanted))


def as_csv(lines: Iterable[Line], told: Callable[[float], str]) -> str:
    """The lines for a spreadsheet, with headings; ``told`` writes a moment."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(("begin", "end", "seconds", "surface", "shows", "state", "by"))
    for line in lines:
        end = "" if line.end is None else told(line.end)
        seconds = "" if line.end is None else f"{line.end - line.begin:.2f}"
        rows.writerow((told(line.begin), end, seconds, line.surface, " + ".join(line.shows), line.state, line.by))
    return text.getvalue()


def as_text(lines: Iterable[Line], told: Callable[[float], str]) -> str:
    """The lines to be read."""
    rows = [(told(y.begin), "" if y.end is None else told(y.end), y.surface, y.words, y.by) for y in lines]
    wide = [max((len(row[n]) for row in rows), default=0) for n in range(5)]
    return "".join("  ".join(cell.ljust(w) for cell, w in zip(row, wide, strict=True)).rstrip() + "\n" for row in rows)
