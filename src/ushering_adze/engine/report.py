"""What the running show tells of itself: what every surface truly shows, and how well frames keep their time."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Literal, NamedTuple

from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.onair.calendar import Occurrence
from ushering_adze.core.onair.chasing import Codes
from ushering_adze.core.onair.delta import Change, seen_through_by_kind, seen_through_by_pictures, source_names, visible
from ushering_adze.core.onair.faults import FaultNow
from ushering_adze.core.onair.overriding import override_words
from ushering_adze.core.onair.playing import has_length
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.layers import LayerState, shown_by_layer
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Clock, Countdown, Folder, Input, Pages, PatternSource, Show, Still, Surface, Text
from ushering_adze.core.signal.coming import THERE, Expected, Really, State, differences
from ushering_adze.engine.forecasting import Forecasts
from ushering_adze.engine.looking import Looked
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.renderer import Painted
from ushering_adze.engine.sounding import SoundReport
from ushering_adze.io.media.live import Signal


@dataclass(frozen=True)
class SurfaceReport:
    """What one surface truly shows, as painted: source names top first, source ids, and its state in one word."""

    sources: tuple[str, ...]
    source_ids: tuple[str, ...]
    state: str
    age: float | None = None
    """Seconds since the oldest of the pictures that it shows came in; None if all are stills."""


@dataclass(frozen=True)
class PlayerReport:
    """A source that has a length: where it stands, in seconds, and whether it is on air or armed.

    ``length`` is 0 while it is not known; ``pages`` is the number of its pictures if it is leafed through.
    """

    source: str
    name: str
    position: float
    length: float
    running: bool
    looping: bool
    on: Literal["program", "preview", ""]
    pages: int = 0
    counts: bool = False
    """Whether it counts down, and has only one end."""
    speed: float = 1.0
    at_page: int = 0
    """Of what is turned by hand: the page it is at, from 1."""
    steps: bool = False
    """Whether it is turned by hand, page by page or step by step."""

    @property
    def within(self) -> float:
        """Seconds within its present pass."""
        if self.length <= 0:
            return self.position
        return self.position % self.length if self.looping else min(self.position, self.length)

    @property
    def page(self) -> int:
        """Which of its pages is shown, from 1; 0 if it has none."""
        if self.steps:
            return self.at_page
        return min(self.pages, int(self.within / (self.length / self.pages)) + 1) if self.pages and self.length else 0

    @property
    def next_page_in(self) -> float:
        """Seconds until the next of its pages; 0 if it has none."""
        return self.length / self.pages * self.page - self.within if self.pages and self.length else 0.0

    @property
    def left(self) -> float | None:
        """Seconds to its end; None if that is not known."""
        return self.length - self.within if self.length > 0 else None


def player_reports(
    stage: Stage,
    lengths: Mapping[str, float],
    program: Set[str],
    preview: Set[str],
    now: float,
    stops: Mapping[str, tuple[int, int, int]] = MappingProxyType({}),
) -> tuple[PlayerReport, ...]:
    """Every source of a show that has a length or pages, those on program first, then those on preview.

    ``stops`` tells of what is turned by hand at which stop it is, on which page, and how many pages it has.
    """
    found = []
    for source in stage.show.sources:
        on: Literal["program", "preview", ""] = (
            "program" if source.id in program else "preview" if source.id in preview else ""
        )
        at, length = stage.player(source.id), lengths.get(source.id, 0.0)
        position = at.position(now)
        if isinstance(source, (Pages, Text, Folder)) and not has_length(source):  # turned by hand
            if isinstance(source, Folder):
                pages, stop = round(length / source.hold), int(position / source.hold + 1e-9)
                page = stop % max(1, pages) + 1
            else:
                stop, page, pages = stops.get(source.id, (0, 1, 0))
            if isinstance(source, Folder) or source.follows is None:
                found.append(
                    PlayerReport(
                        source.id, source.name, stop, 0.0, False, False, on, pages=pages, at_page=page, steps=True
                    )
                )
        elif has_length(source) and not isinstance(source, PatternSource):
            if isinstance(source, Countdown) or (isinstance(source, Clock) and source.shows == "speaker"):
                length = float(source.seconds)
            if isinstance(source, Still) and length == 0:
                continue  # it might have moved, and does not
            counts = isinstance(source, (Countdown, Clock))
            found.append(
                PlayerReport(
                    source.id,
                    source.name,
                    position,
                    length,
                    at.since is not None,
                    at.looping and not counts,
                    on,
                    pages=round(length / source.hold) if isinstance(source, Folder) else 0,
                    counts=counts,
                    speed=at.speed,
                )
            )
    order = {"program": 0, "preview": 1, "": 2}
    return tuple(sorted(found, key=lambda p: order[p.on]))


@dataclass(frozen=True)
class SignalReport:
    """A live signal: its state, what it really is, and how that differs from what was declared.

    ``again_in`` is in seconds, None if it is not waiting; ``behind`` is how many seconds its pictures are held up here;
    ``damaged`` counts packets that could not be read.
    """

    source: str
    state: State
    words: str
    real: Really
    differs: tuple[str, ...] = ()
    behind: float = 0.0
    damaged: int = 0
    captions: str = ""
    """Those in its pictures, as a viewer reads them now."""


def signal_reports(show: Show, signals: Mapping[str, Signal]) -> tuple[SignalReport, ...]:
    """Every live signal that is read, in the order of the show."""
    found = []
    for source in show.sources:
        now = signals.get(source.id)
        if now is None or not isinstance(source, Input):
            continue
        expected = Expected(source.width, source.height, source.rate, source.interlaced, source.encoding, source.bits)
        differs = differences(expected, now.real) if now.state in THERE and not source.as_it_comes else ()
        found.append(
            SignalReport(source.id, now.state, now.words, now.real, differs, now.behind, now.damaged, now.captions)
        )
    return tuple(found)


@dataclass(frozen=True)
class FeedReport:
    """A feed: whether it is sent, how that goes, why a card is sent in place of its picture, and what came of it at the
    far end, as far as that is known.

    ``room`` is in seconds until its disk is full, None if it goes to none; ``heard`` the state of the input that
    receives it, None if none does.
    """

    feed: str
    name: str
    on: bool
    state: str
    why: str | None = None
    withheld: str | None = None
    kbit: float = 0.0
    sent: int = 0
    dropped: int = 0
    seconds: float = 0.0
    room: float | None = None
    path: str | None = None
    heard: str | None = None

    @property
    def arrives(self) -> bool:
        """Whether pictures come at the far end."""
        return self.heard in THERE


class CalendarReport(NamedTuple):
    """The calendar now: what is on by it, what should be on and waits for somebody since an edit, what begins next and
    when, what was missed, and what cannot be, by event.
    """

    runs: bool = True
    at: float = 0.0
    on: tuple[Occurrence, ...] = ()
    waiting: tuple[Occurrence, ...] = ()
    coming: tuple[Occurrence, ...] = ()
    comes_at: float = 0.0
    missed: tuple[Occurrence, ...] = ()
    faults: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class Report:
    """The running show at one moment, for the desk."""

    stage: Stage
    delta: tuple[Change, ...]
    surfaces: dict[str, SurfaceReport]
    program: dict[str, Pixels]
    preview: dict[str, Pixels]
    progress: float
    moving: bool
    held: bool
    black: bool
    fps: float
    milliseconds: float
    frames: int
    late: int
    late_lately: bool
    faults: dict[str, str] = field(default_factory=dict)
    waiting: int = 0
    refused: int = 0
    players: tuple[PlayerReport, ...] = ()
    signals: tuple[SignalReport, ...] = ()
    feeds: tuple[FeedReport, ...] = ()
    """Filled in by the playout."""
    troubles: tuple[FaultNow, ...] = ()
    """The same as ``faults``, with their moments; filled in by the playout."""
    looked: Looked | None = None
    """What `look_at` asked for."""
    presets: Mapping[int, Mapping[str, Pixels]] = field(default_factory=dict)
    """Small pictures of surfaces, by preset, of those that `glimpse` asked for."""
    plan: Mapping[str, Mapping[str, Pixels]] = field(default_factory=dict)
    """What surfaces will show after cues of the list whose plan is looked at, by cue and surface; small."""
    forecasts: Forecasts = field(default_factory=dict)
    """What presets will want of a frame's time, of those that are known by now."""
    now: float = 0.0
    """The moment, by the stage's clock."""
    standing_in: Mapping[str, str] = field(default_factory=dict)
    """What stands in for a source that is lost, by its id."""
    calendar: CalendarReport = field(default_factory=CalendarReport)
    """Filled in by the playout."""
    codes: Codes = field(default_factory=dict)
    """Timecodes as they came last."""
    sound: SoundReport = field(default_factory=SoundReport)
    """Filled in by the playout."""


def surface_reports(
    stage: Stage,
    painted: Mapping[str, Painted],
    faults: dict[str, str],
    bound: set[str],
    overlay: Overlay,
    now: float = 0.0,
) -> dict[str, SurfaceReport]:
    """What every surface shows, in words, read from what its rasters were ``painted`` from; ``now`` is of the monotonic
    clock.
    """
    return {s.id: _surface_report(stage, s, painted, faults, bound, overlay, now) for s in stage.show.surfaces}


def _surface_report(
    stage: Stage,
    surface: Surface,
    painted: Mapping[str, Painted],
    faults: Mapping[str, str],
    bound: Set[str],
    overlay: Overlay,
    now: float,
) -> SurfaceReport:
    show, rects = stage.show, surface_rects(stage.show, surface.id)
    by_kind, known = seen_through_by_kind(show), {s.id for s in show.sources}
    stack: list[LayerState] = []
    born: list[float] = []
    replaced: set[str] = set()
    for region, (canvas, rect) in zip(show.feeds_of(surface.id), rects, strict=True):
        of = painted.get(region.output, Painted())

        seen_through = seen_through_by_pictures(show, of.opaque)
        for layer in visible(show, canvas, of.state, rect, seen_through):
            ids = shown_by_layer(layer)
            if known.issuperset(ids):
                stack.append(layer)
                born += [of.born[s] for s in ids if s in of.born]
                replaced |= {s for s in ids if of.origin.get(s, s) != s}
    ids = tuple(dict.fromkeys(id for layer in stack for id in shown_by_layer(layer)))
    outputs = [r.output for r in show.feeds_of(surface.id)]
    override, tried = stage.overrides.get(surface.id), stage.rehearsal
    if override is not None:
        ids = () if override.source is None else (override.source,)
        words: tuple[str, ...] = (override_words(show, override),)
    elif tried is not None and surface.id in tried.let:
        words = ()
        for canvas, rect in rects:
            words += source_names(show, visible(show, canvas, tried.stage.program.target, rect, by_kind))
        words = tuple(dict.fromkeys(words))
    else:
        words = source_names(show, tuple(stack))
    wrong = any(id in faults and id not in replaced for id in (*ids, *outputs, *(canvas.id for canvas, _ in rects)))
    if not outputs:
        word = "no region"
    elif all(stage.is_black(o) for o in outputs):
        word = "black"
    elif any(stage.is_held(o) for o in outputs):
        word = "held"
    elif wrong:
        word = "lost"
    elif override is not None:
        word = "override"
    elif tried is not None and surface.id in tried.let:
        word = "rehearsal"
    elif any(overlay.patterns(o) for o in outputs):
        word = "pattern"
    elif not ids:
        word = "black"
    elif isinstance(show.source(ids[0]), PatternSource):
        word = "pattern"
    elif any(stage.is_black(o) for o in outputs):
        word = "partly black"
    elif replaced:
        word = "backup"
    elif surface.id in stage.kept:
        word = "kept"
    else:
        word = "live" if all(o in bound for o in outputs) else "unbound"
    age = max(0.0, now - min(born)) if born and now else None
    return SurfaceReport(words, ids, word, age)
