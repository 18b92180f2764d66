"""Players of what is turned by hand: documents and text; and clocks."""

from __future__ import annotations

import contextlib
import shutil
import subprocess
import tempfile
import threading
import time
from pathlib import Path

import numpy as np

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Clock, Pages, ShowError, Source, Text
from ushering_adze.core.show.files import OFFICE, SUBTITLES, TABLES
from ushering_adze.core.text.clocks import Tone, clock_words
from ushering_adze.core.text.pages import (
    Shown,
    TextPage,
    first_stops,
    pages_of_table,
    pages_of_text,
    stops_of,
)
from ushering_adze.io.apart import read_apart
from ushering_adze.io.asking import read_text
from ushering_adze.io.media.lettering import set_text
from ushering_adze.io.media.player import Drawn, Player
from ushering_adze.io.media.still import MediaError, serials
from ushering_adze.io.priority import give_way
from ushering_adze.io.today import seconds_in_day
from ushering_adze.io.turns import Turns, Work

TONES: dict[Tone, str | None] = {"plain": None, "green": "#7BC77E", "amber": "#E3A857", "red": "#E8685A"}
CONVERTING = 120.0
"""Seconds that LibreOffice may take."""
EMPTY = (TextPage(("",)),)


class PagedPlayer(Player):
    """A source with pages, each with one or more stops; it stands at one of them until it is turned."""

    stops = 1
    pages = 1

    starts: tuple[int, ...] = (0,)

    def stop_of(self, page: int, further: float) -> int:
        """The stop that is so many further than where a page begins, counted from 0; within those there are."""
        return min(self.stops - 1, max(0, self.starts[min(page, len(self.starts) - 1)] + round(further)))

    def page_at(self, stop: int) -> int:
        """The number of the page of a stop, from 1."""
        return sum(start <= stop for start in self.starts)


class PagesPlayer(PagedPlayer):
    """A document; each page is drawn by a reader of its own, the next one ahead."""

    def __init__(self, source: Pages, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        path = Path(source.path)
        if not path.is_file():
            raise MediaError(f"no file {path.name}")
        self._path = self._as_pdf(path)
        try:
            told, _ = read_apart("pages", self._path)
        except ShowError as error:
            raise MediaError(f"{path.name}: {error.faults[0].what}") from None
        self.stops = self.pages = int(told["pages"])
        self.starts = tuple(range(self.pages))
        self._size = source.width, source.height
        self._faults: dict[int, str] = {}
        self._drawn = Drawn(self._draw, 5, turns)
        self._drawn.get(0)

    def _as_pdf(self, path: Path) -> Path:
        if path.suffix.lower() not in OFFICE:
            return path
        office = shutil.which("soffice") or shutil.which("libreoffice")
        if office is None:
            raise MediaError(f"{path.name}: slides need LibreOffice; install libreoffice-impress, or export a PDF")
        self._folder = tempfile.TemporaryDirectory(prefix="adze-pages-")
        profile = f"-env:UserInstallation=file://{self._folder.name}/profile"
        command = [office, profile, "--headless", "--convert-to", "pdf", "--outdir", self._folder.name, str(path)]
        nothing = subprocess.DEVNULL
        with contextlib.suppress(subprocess.TimeoutExpired, OSError):
            subprocess.run(command, stdin=nothing, stdout=nothing, stderr=nothing, timeout=CONVERTING)
        made = Path(self._folder.name) / f"{path.stem}.pdf"
        if not made.is_file():
            raise MediaError(f"{path.name}: LibreOffice cannot read it; open it there and export a PDF")
        return made

    def _draw(self, n: int) -> Frame:
        width, height = self._size
        try:
            told, data = read_apart(f"page:{n}:{width}:{height}", self._path)
        except ShowError as error:
            self._faults[n] = f"page {n + 1}: {error.faults[0].what}"
            return self.lost(self._faults[n])
        self._faults.pop(n, None)
        return Frame(np.frombuffer(data, np.uint8).reshape(told["shape"]), next(serials))

    def frame(self, seconds: float) -> Frame:
        n = int(seconds)
        self._drawn.prepare(n, min(self.stops - 1, n + 1), max(0, n - 1))
        self.fault = self._faults.get(n)
        return self._drawn.ready(n) or self._drawn.latest()

    def exact(self, seconds: float) -> Frame:
        found = self._drawn.get(int(seconds))
        self.fault = self._faults.get(int(seconds))
        return found

    def close(self) -> None:
        if self._folder is not None:
            self._folder.cleanup()


def read_pages(path: Path) -> tuple[TextPage, ...]:
    """Pages of a text file, a table, or subtitles.

    Raises
    ------
    MediaError
    """
    if not path.is_file():
        raise MediaError(f"no file {path.name}")
    try:
        text = read_text(path, "text")
    except ShowError as error:
        raise MediaError(f"{path.name}: {error.faults[0].what}") from None
    match path.suffix.lower():
        case suffix if suffix in TABLES:
            pages = pages_of_table(text)
        case suffix if suffix in SUBTITLES:
            pages = _subtitles(path, text)
        case _:
            pages = pages_of_text(text)
    if not pages:
        raise MediaError(f"{path.name} has no text in it")
    return pages


def _subtitles(path: Path, text: str) -> tuple[TextPage, ...]:
    import pysubs2

    try:
        found = pysubs2.SSAFile.from_string(text)
    except Exception as error:  # it raises whatever comes to it
        raise MediaError(f"{path.name} cannot be read as subtitles ({type(error).__name__})") from None
    return tuple(
        TextPage((event.plaintext.strip(),), event.name.strip())
        for event in found
        if not event.is_comment and event.plaintext.strip()
    )


class TextPlayer(PagedPlayer):
    """Pages of text in a dress; the next stop is set ahead."""

    def __init__(self, source: Text, pages: tuple[TextPage, ...], turns: Turns | None = None) -> None:
        super().__init__(source)
        self._dress, self._turns = source.dress, turns
        self._faults: dict[int, str | None] = {}
        self._say(pages)

    def _say(self, pages: tuple[TextPage, ...]) -> None:
        self._pages = pages
        self._stops: tuple[Shown, ...] = stops_of(pages)
        self.stops, self.starts = len(self._stops), first_stops(self._stops)
        self.pages = len(self.starts)
        self._drawn = Drawn(self._draw, 6, self._turns)
        self._drawn.get(0)

    def call(self, source: Source) -> None:
        super().call(source)
        assert isinstance(source, Text)
        if source.words is not None or source.dress != self._dress:
            self._dress = source.dress
            self._say(self._pages if source.words is None else pages_of_text(source.words) or EMPTY)

    def _draw(self, n: int) -> Frame:
        made = set_text(self._stops[n], self._dress)
        self._faults[n] = made.fault
        return Frame(made.pixels, next(serials), made.opaque)

    def frame(self, seconds: float) -> Frame:
        n = min(self.stops - 1, int(seconds))
        # A turn is seen at once, in every dress at once: it is set on the spot if it was not set ahead.
        found = self._drawn.get(n)
        self._drawn.prepare(min(self.stops - 1, n + 1), max(0, n - 1))
        self.warning = self._faults.get(n)
        return found

    def exact(self, seconds: float) -> Frame:
        return self._drawn.get(min(self.stops - 1, int(seconds)))


Says = tuple[str, Tone, str]
"""Digits, their colour, and the message below them."""


class ClockPlayer(Player):
    """A clock or timer; what it says a second later is drawn ahead."""

    def __init__(self, source: Clock, turns: Turns | None = None) -> None:
        super().__init__(source)
        self._drawing = Work(turns)
        self._made: dict[Says, Frame] = {}
        self._busy = False
        self._clock = source
        self.message = ""
        """What is said to whoever looks at it, below the digits."""
        self.exact(0.0)

    def call(self, source: Source) -> None:
        super().call(source)
        assert isinstance(source, Clock)
        if source.dress != self._clock.dress:
            self._made = {}
        self._clock = source

    def _says(self, seconds: float, later: float = 0.0) -> Says:
        moment = time.time() + later
        day = seconds_in_day(moment)
        c = self._clock
        words = clock_words(c.shows, day, seconds + later, c.until, c.seconds, c.mark.amber, c.mark.red)
        return (*words, self.message)

    def _picture(self, says: Says) -> Frame:
        digits, tone, message = says
        dress = self._clock.dress.model_copy(update={"second": True}) if message else self._clock.dress
        made = set_text(Shown(digits, digits, message, 1, 1), dress, TONES[tone])
        found = Frame(made.pixels, next(serials), made.opaque)
        self._made = dict([*list(self._made.items())[-3:], (says, found)])
        return found

    def _draw_ahead(self, says: Says) -> None:
        give_way()
        try:
            with self._drawing:
                self._picture(says)
        finally:
            self._busy = False

    def frame(self, seconds: float) -> Frame:
        found, soon = self._made.get(self._says(seconds)), self._says(seconds, 1.0)
        if soon not in self._made and not self._busy:
            self._busy = True
            threading.Thread(target=self._draw_ahead, args=(soon,), name="draw ahead", daemon=True).start()
        if found is not None:
            return found
        made = list(self._made.values())
        return made[-1] if made else self._picture(self._says(seconds))

    def exact(self, seconds: float) -> Frame:
        says = self._says(seconds)
        return self._made.get(says) or self._picture(says)


def paged(source: Source) -> bool:
    """Whether a source is turned by hand, page by page."""
    return isinstance(source, (Pages, Text))
