"""Players: where each source that has a length stands, as values that need no clock of their own."""

from __future__ import annotations

from collections.abc import Mapping, Set
from typing import NamedTuple

from ushering_adze.core.show import (
    Clip,
    Clock,
    Countdown,
    Folder,
    Input,
    Pages,
    PatternSource,
    Playlist,
    Show,
    Source,
    Still,
    Text,
)


class Playing(NamedTuple):
    """Where a player stands.

    ``at`` is its position in seconds at the moment ``since``; it has stood there ever after if ``since`` is None.
    ``stopped`` says that it was paused by hand: then being taken does not start it.
    """

    at: float = 0.0
    since: float | None = None
    speed: float = 1.0
    looping: bool = True
    stopped: bool = False
    page: int = 0
    """Of what is turned by hand: the page, from 0, that ``at`` counts stops from."""

    def position(self, now: float) -> float:
        """Seconds from its start.

        Examples
        --------
        >>> Playing(2.0, since=10.0, speed=0.5).position(14.0), Playing(2.0).position(14.0)
        (4.0, 2.0)
        """
        return self.at if self.since is None else max(0.0, self.at + (now - self.since) * self.speed)

    def going(self, now: float) -> Playing:
        """The same, running from here."""
        return self._replace(at=self.position(now), since=now, stopped=False)

    def standing(self, now: float, by_hand: bool = False) -> Playing:
        """The same, standing here."""
        return self._replace(at=self.position(now), since=None, stopped=by_hand)


Players = Mapping[str, Playing]


def has_length(source: Source) -> bool:
    """Whether a source has a position at all: stills, colours and live signals have none."""
    match source:
        case Folder():
            return not source.by_hand
        case Clip() | Countdown() | Playlist():
            return True
        case Still():
            return source.path.lower().endswith((".gif", ".webp", ".apng"))  # those that may move
        case Clock():
            return source.shows in ("up", "speaker")
        case Input(address=None):
            return source.stand_in is not None
        case PatternSource(pattern="line" | "flash"):
            return True  # it moves
    return False


def fresh(source: Source) -> Playing:
    """A player that has not been started yet."""
    return Playing(looping=not isinstance(source, Clip) or source.at_end == "loop")


def turned(source: Source) -> bool:
    """Whether it has pages that are turned."""
    return isinstance(source, (Folder, Pages, Text))


def leader(show: Show, source: str) -> str:
    """Whose page a source is at: its own, or that of the one that it follows."""
    found = show.source(source)
    return found.follows if isinstance(found, (Text, Pages)) and found.follows is not None else source


def further(source: Source) -> int:
    """How many pages on a source is from where the one is that it follows."""
    return source.further if isinstance(source, (Text, Pages)) and source.follows is not None else 0


def runs_on_preview(source: Source) -> bool:
    """Whether it stands for something live, which goes on whether anybody looks or not."""
    return (isinstance(source, Clip) and source.live) or isinstance(source, Input)


def played(show: Show, players: Players, running: Set[str], staged: Set[str], now: float) -> Players:
    """Players as they are once these sources are on air: what came on goes on, or starts anew, and what went off
    stands.

    Parameters
    ----------
    show : Show
    players : mapping
        As they were.
    running : set of str
        Sources on air, or on their way to it.
    staged : set of str
        Sources on preview.
    now : float
        Seconds of the stage's clock.
    """
    changed: dict[str, Playing] = {}
    for id in running | staged:
        source = show.source(id)
        was = players.get(id, fresh(source))
        wanted = id in running or runs_on_preview(source)
        if wanted and was.since is None and not was.stopped and has_length(source):
            anew = isinstance(source, (Countdown, Clock)) or (
                isinstance(source, Clip) and source.taken == "starts-over"
            )
            changed[id] = (Playing(speed=was.speed, looping=was.looping) if anew and id in running else was).going(now)
    for id, was in players.items():
        source = show.source(id)
        goes_on = isinstance(source, Clip) and source.runs_on
        if (
            was.since is not None
            and id not in running
            and not goes_on
            and not (id in staged and runs_on_preview(source))
        ):
            changed[id] = was.standing(now)
    return {**players, **changed} if changed else players
