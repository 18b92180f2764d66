"""The run sheet of a cue list: every cue in a row with its times, and a small picture of the room behind it."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.exchange.cue_words import does_words, fires_words
from ushering_adze.core.mapping.faces import hung
from ushering_adze.core.onair.timeline import moments_of
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.cue import Cue, CueList, number_words
from ushering_adze.core.show.show import Show
from ushering_adze.core.text.clocks import DAY, seconds_of_day

HEADINGS = ("number", "name", "planned", "length", "real", "fires", "does", "note")
PAPER = 255


class Row(NamedTuple):
    """A cue in words: when it is planned and for how long, and when it was really fired."""

    cue: str
    number: str
    name: str
    planned: str
    length: str
    real: str
    fires: str
    does: str
    note: str


def time_words(day: float) -> str:
    """A time of day.

    Examples
    --------
    >>> time_words(72000.6), time_words(86461)
    ('20:00:00', '0:01:01')
    """
    whole = int(day) % DAY
    return f"{whole // 3600}:{whole // 60 % 60:02d}:{whole % 60:02d}"


def length_words(seconds: float | None) -> str:
    """A length in minutes and seconds.

    Examples
    --------
    >>> length_words(90), length_words(3605), length_words(None)
    ('1:30', '1:00:05', '')
    """
    if seconds is None:
        return ""
    return clock_digits(round(seconds))


def _does(show: Show, cue: Cue) -> str:
    """What a cue does, with the name of its preset."""
    preset = None if cue.preset is None else show.preset(cue.preset)
    words = does_words(cue, show)
    return words if preset is None else f"preset {words}  ({preset.name})"


def run_rows(show: Show, cues: CueList, fired: Mapping[str, float] | None = None) -> tuple[Row, ...]:
    """Every cue that is on, in order.

    Parameters
    ----------
    show : Show
    cues : CueList
    fired : mapping, optional
        When cues were really fired, by their ids, in seconds from midnight.
    """
    order = cues.ordered
    moments, _ = moments_of(show, order)
    first = None if not order or order[0].start is None else seconds_of_day(order[0].start)
    rows = []
    for at, cue in zip(moments, order, strict=True):
        planned = time_words(first + at) if first is not None else f"+{length_words(at)}"
        real = None if fired is None else fired.get(cue.id)
        rows.append(
            Row(
                cue.id,
                number_words(cue.number),
                cue.name,
                planned,
                length_words(cue.length),
                "" if real is None else time_words(real),
                fires_words(cue.fires, show) or "by hand",
                _does(show, cue),
                cue.note,
            )
        )
    return tuple(rows)


def run_csv(rows: tuple[Row, ...]) -> str:
    """The rows for a spreadsheet, with headings."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(HEADINGS)
    writer.writerows([getattr(row, heading) for heading in HEADINGS] for row in rows)
    return text.getvalue()


def room_picture(show: Show, pictures: Mapping[str, Pixels], width: int, height: int) -> Pixels:
    """The room in a very small picture: every surface where it hangs, and beside it those that hang nowhere.

    Parameters
    ----------
    show : Show
    pictures : mapping
        By surface; BGRA.
    width, height : int
        In pixels.

    Returns
    -------
    ndarray, shape (height, width, 4), uint8
        Opaque; white where nothing hangs.
    """
    paper = np.full((height, width, 4), PAPER, np.uint8)
    there = {s.id: at for s in show.surfaces if (at := hung(s)) is not None}
    others = [s for s in show.surfaces if s.id not in there]
    wide = width * 0.78 if others and there else width

    def lay(id: str, x: float, y: float, w: float, h: float) -> None:
        x0, y0 = round(x), round(y)
        w, h = max(2, round(w)), max(2, round(h))
        pixels = pictures.get(id)
        part = paper[y0 : y0 + h, x0 : x0 + w]
        if part.size == 0:
            return
        size = (part.shape[1], part.shape[0])
        shown = None if pixels is None else cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
        part[...] = 0 if shown is None else shown
        part[..., 3] = 255

    if there:
        left, top = min(h.x for h in there.values()), min(h.y for h in there.values())
        right, foot = max(h.x + h.w for h in there.values()), max(h.y + h.h for h in there.values())
        k = min(wide / max(1e-6, right - left), height / max(1e-6, foot - top))
        for id, at in there.items():
            lay(id, (at.x - left) * k, (at.y - top) * k, at.w * k, at.h * k)
    for n, surface in enumerate(others):
        w, h = surface.pixels
        room = (width - wide - 4) if there else float(width)
        k = min(room / w, (height / len(others) - 2) / h)
        lay(surface.id, (wide + 4) if there else 0.0, n * height / len(others), w * k, h * k)
    return paper


Picture = Callable[[str], Pixels | None]
"""The small room behind a cue, by its id."""
